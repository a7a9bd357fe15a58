"""Families of the office's own in the window: the folder they are loaded from, what was loaded, and what is wrong with the rest."""

from functools import partial
from pathlib import Path

from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QFileDialog, QVBoxLayout, QWidget

from tincleat.app.context import Host
from tincleat.app.counted import counted
from tincleat.app.dialogs import Action
from tincleat.app.simple import button, label
from tincleat.families.own import Loaded, load, unload
from tincleat.families.registry import FAMILIES

KEPT = "own_families"  # the setting that remembers the folder


def load_kept(settings: QSettings) -> list[Loaded]:
    """Load the families of the folder that was named last, if one was."""
    folder = str(settings.value(KEPT, ""))
    return load(folder) if folder and Path(folder).is_dir() else []


def own_actions(w: Host) -> list[Action]:
    """The action that names a folder of one's own families."""
    return [Action("own-families", "Own families…", ("python", "our own", "office", "extend", "script"), "", lambda: ask(w), tip="Families written by the office, from a folder of Python files")]


def ask(w: Host) -> None:
    """Show what is loaded, or ask for a folder where none was named."""
    folder = str(w.settings.value(KEPT, ""))
    if folder and Path(folder).is_dir():
        take(w, Path(folder))
    else:
        _choose(w)


def _choose(w: Host) -> None:
    folder = QFileDialog.getExistingDirectory(w, "A folder of families; the code in it is run", str(Path.home()))
    if folder:
        take(w, Path(folder))


def take(w: Host, folder: Path | None) -> None:
    """Load a folder's families in place of those loaded before, or none; the project that is open is built with them."""
    w.settings.setValue(KEPT, str(folder or ""))
    found = load(folder) if folder is not None else unload()
    for name in [n for n in w.actions_ if n.startswith("place-") and n.removeprefix("place-") not in FAMILIES and n not in ("place-all", "place-rows")]:
        del w.actions_[name]
    for one in found:
        if one.family:
            kind = FAMILIES[one.family]
            w.actions_[f"place-{kind.name}"] = Action(f"place-{kind.name}", kind.placing, kind.words, "", partial(w.placing.start, kind.name), lambda: w.desk is not None, f"Fits: {', '.join(kind.kinds)}")
    if w.desk is not None:
        w.projects.open_path(w.desk.store.path)
    w.show_card(_card(w, folder, found))
    bad = sum(bool(x.problem) for x in found)
    w.say(f"{counted(len(found) - bad, 'family', 'families')} loaded" + (f", {counted(bad, 'file')} not" if bad else ""))


def _card(w: Host, folder: Path | None, found: list[Loaded]) -> QWidget:
    card = QWidget()
    rows = QVBoxLayout(card)
    rows.setContentsMargins(12, 10, 12, 12)
    rows.addWidget(label("Own families", "heading"))
    rows.addWidget(label(f"From {folder}. Each Python file holds one; its code is run." if folder else "None are loaded.", "quiet", True))
    for one in found:
        rows.addWidget(label(f"{one.path.name}: not loaded. {one.problem}" if one.problem else f"{FAMILIES[one.family].label} · {one.path.name}", "breach" if one.problem else "", True))
    if folder is not None and not found:
        rows.addWidget(label("There is no Python file in it.", "quiet", True))
    if folder is not None:
        rows.addWidget(button("Load again", partial(take, w, folder), "go", "After a file was changed"))
    rows.addWidget(button("Another folder…", partial(_choose, w)))
    if folder is not None:
        rows.addWidget(button("Load none", partial(take, w, None), "link"))
    rows.addStretch(1)
    return card
