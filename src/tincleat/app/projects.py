"""Projects opened, made and remembered; the start card's deeds."""

import contextlib
import hashlib
from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog

from tincleat.app import standards
from tincleat.app.asking import save_path
from tincleat.app.bodies import Bodies
from tincleat.app.context import Host
from tincleat.app.ready_deeds import IFC, import_ifc
from tincleat.app.waiting import busy
from tincleat.commands.desk import Desk
from tincleat.demo.registry import make_demo
from tincleat.errors import Cancelled, Progress, TinCleatError, go_on
from tincleat.files import sweep
from tincleat.ledger.ledger import STOPPED
from tincleat.project.entities import HouseRules
from tincleat.project.store import SUFFIX

PICTURE = (120, 75)  # pixels of a project's picture on the start card
LARGE = 1_500_000  # bytes of a project's file from which it takes a second or so to open
FILTER = f"Tin Cleat projects (*{SUFFIX})"


def large(path: Path) -> bool:
    """Whether a file holds so much that it is opened in the background; one that cannot be looked at is not."""
    try:
        return path.stat().st_size > LARGE
    except (OSError, ValueError):
        return False


def ready(path: "str | Path", progress: Progress) -> tuple[Desk, Bodies]:
    """A project with all that a window needs of it: proved, and its bodies laid out; raises BadFile, and Cancelled when ``progress`` says so."""
    desk = Desk.open(path, lambda share, words: progress(share * 0.75, words))
    try:
        go_on(progress, 0.75, "proving the details", STOPPED)
        desk.ledger.prove(lambda share, words: progress(0.75 + 0.15 * share, words))
        desk.ledger.counts()
        go_on(progress, 0.9, "laying out the model", STOPPED)
        bodies = Bodies(desk.ledger)
        go_on(progress, 1.0, "drawing it", STOPPED)
    except Cancelled:
        desk.close()
        raise
    return desk, bodies


class Projects:
    """Which project a window works on, and which it worked on before."""

    def __init__(self, window: Host) -> None:
        self.window = window

    def remember(self, path: Path) -> None:
        old = [p for p in self.recent() if p != path]
        self.window.settings.setValue("recent", [str(p) for p in [path.resolve(), *old][:8]])

    def recent(self) -> list[Path]:
        """Projects opened lately that still exist, the latest first."""
        found = self.window.settings.value("recent", [])
        names = [found] if isinstance(found, str) else [str(n) for n in found] if isinstance(found, list) else []
        return [Path(n) for n in names if Path(n).is_file()]

    def picture_of(self, path: Path) -> Path:
        """Where the picture of a project is kept as it was last seen, if it was."""
        return Path(self.window.settings.fileName()).parent / "pictures" / f"{hashlib.sha1(str(path.resolve()).encode()).hexdigest()[:20]}.png"

    def keep_picture(self) -> None:
        """Keep a small picture of the model for the start card; pictures of projects that are gone from it go too.  What cannot be kept is no matter."""
        if self.window.desk is None or not self.window.desk.project.members or not self.window.view.isVisible():
            return
        at = self.picture_of(self.window.desk.store.path)
        with contextlib.suppress(OSError):
            at.parent.mkdir(parents=True, exist_ok=True)
            wanted = {self.picture_of(p) for p in self.recent()}
            for old in at.parent.glob("*.png"):
                if old not in wanted:
                    old.unlink()
            # the steel alone, without marks
            shot = self.window.view.settled().copy().scaled(*PICTURE, Qt.AspectRatioMode.KeepAspectRatioByExpanding, Qt.TransformationMode.SmoothTransformation)
            shot = shot.copy((shot.width() - PICTURE[0]) // 2, (shot.height() - PICTURE[1]) // 2, *PICTURE)
            shot.setDevicePixelRatio(1.0)
            shot.save(str(at))

    def dropped(self, path: Path) -> None:
        """A file was dropped on the window: a project is opened, an engineer's model is read into the open project or into one of its own."""
        if path.suffix.lower() == SUFFIX:
            self.open_path(path)
        elif path.suffix.lower() == ".ifc" and self.window.desk is not None:
            self.window.rail.choose("Ready")
            import_ifc(self.window, str(path))
        elif path.suffix.lower() == ".ifc":
            self.import_from(str(path))
        else:
            self.window.fail(f"{path.name} is neither a project ({SUFFIX}) nor an engineer's model (.ifc)")

    def open_path(self, path: "str | Path") -> bool:
        """Open a project file, a large one in the background with its progress; a file that cannot be opened is said, and the present one stays,
        as it does when the opening is cancelled."""
        if large(Path(path)):
            self.window.work(f"Opening {Path(path).name}", partial(ready, path), self._opened)
            return True
        try:
            with busy():
                self.window.set_desk(Desk.open(path))
        except TinCleatError as error:
            self.window.fail(str(error))
            return False
        return True

    def _opened(self, found: tuple[Desk, Bodies]) -> None:
        with busy():
            self.window.set_desk(*found)

    def tidy(self) -> None:
        """Remove what writers that died left beside projects opened lately."""
        for folder in {p.parent for p in self.recent()}:
            sweep(folder)

    def start(self, what: str, path: "Path | str | None" = None) -> None:
        """Act on the start card."""
        if what == "recent" and path is not None:
            self.open_path(Path(path))
        elif what == "standard" and path is not None:
            self.new(str(path))
        elif what == "open":
            self.window.do("open")
        elif what == "wireframe":
            self.open_demo("wireframe")
            self.window.rail.choose("Ready")
        elif what == "import":
            self.import_new()
        elif what == "demo":
            self.open_demo()
        else:
            self.window.do("new" if what == "new" else "new-inch")

    def open_demo(self, name: str = "boathouse", fresh: bool = False) -> None:
        """Open the demo project, making it the first time."""
        folder = Path(str(self.window.settings.value("demo_folder", "")))
        folder.mkdir(parents=True, exist_ok=True)
        path = folder / f"{name}{SUFFIX}"
        try:
            if fresh or not path.exists():
                make_demo(name, path, overwrite=True).close()
            self.window.set_desk(Desk.open(path))
        except TinCleatError as error:
            self.window.fail(str(error))

    def new(self, name: str) -> None:
        """Ask for a place and make an empty project that starts from a standard."""
        path = save_path(self.window, "New project", Path.home() / f"untitled{SUFFIX}", FILTER, (SUFFIX,))
        if path is not None:
            try:
                self.window.set_desk(Desk.create(path, standards.started(self.window.settings, name, path.stem), overwrite=True))
                self.window.rail.choose("Frame")
            except TinCleatError as error:
                self.window.fail(str(error))

    def import_new(self) -> None:
        """Make a project beside an engineer's IFC and read it in."""
        source, _ = QFileDialog.getOpenFileName(self.window, "An engineer's model", "", IFC)
        if source:
            self.import_from(source)

    def import_from(self, source: str) -> None:
        """Make a project beside an IFC and read it in."""
        path = Path(source).with_suffix(SUFFIX)
        for i in range(2, 100):
            if not path.exists():
                break
            path = Path(source).with_name(f"{Path(source).stem} {i}{SUFFIX}")
        try:
            self.window.set_desk(Desk.create(path, HouseRules(title=Path(source).stem)))
        except TinCleatError as error:
            self.window.fail(str(error))
            return
        self.window.rail.choose("Ready")
        import_ifc(self.window, source)
