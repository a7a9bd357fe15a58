"""Projects opened, made and remembered; the start card's deeds."""

from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from tincleat.app import standards
from tincleat.app.asking import save_path
from tincleat.app.context import Host
from tincleat.app.ready_deeds import IFC, import_ifc
from tincleat.commands.desk import Desk
from tincleat.demo.registry import make_demo
from tincleat.errors import TinCleatError
from tincleat.files import sweep
from tincleat.project.entities import HouseRules
from tincleat.project.store import SUFFIX

FILTER = f"Tin Cleat projects (*{SUFFIX})"


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

    def open_path(self, path: "str | Path") -> bool:
        """Open a project file; a file that cannot be opened is said, and the present one stays."""
        try:
            self.window.set_desk(Desk.open(path))
        except TinCleatError as error:
            self.window.fail(str(error))
            return False
        return True

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
        if not source:
            return
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
