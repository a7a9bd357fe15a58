"""What is kept on top of a family's detail, in the panel: parts and bolts left out, corners cut, each taken back by a press."""

from collections.abc import Callable
from functools import partial
from typing import Protocol

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLineEdit, QMenu, QPushButton

from tincleat.app.simple import button, label
from tincleat.details.alter import offered
from tincleat.families.declare import ALTERED
from tincleat.ledger.entries import Entry

Run = Callable[..., bool]


class Panel(Protocol):
    """The panel of a connection, as far as this needs it."""

    @property
    def entry(self) -> Entry | None:
        """The entry shown."""

    def targets(self) -> list[str]:
        """Ids an edit applies to now."""


def now(entry: Entry | None) -> list[str]:
    """The alterations of a connection, in order."""
    text = str(entry.connection.settings.get(ALTERED.name, "")) if entry is not None and entry.connection is not None else ""
    return [line for line in text.split("\n") if line]


def _keep(panel: Panel, run: Run, lines: list[str]) -> bool:
    return run("change-connections", ids=panel.targets(), settings={ALTERED.name: "\n".join(lines) or None})


def alteration_rows(panel: Panel, run: Run) -> QGridLayout:
    """Each alteration with why it finds nothing, if so, and its way back; and what else may be left out or cut."""
    grid = QGridLayout()
    grid.setColumnStretch(0, 1)
    entry = panel.entry
    unmet = {u.partition(": ")[0]: u.partition(": ")[2] for u in entry.made.detail.unmet} if entry is not None and entry.made is not None else {}
    row = 0
    for line in now(entry):
        words = label(line + (f" ({unmet[line]})" if line in unmet else ""), "bad" if line in unmet else "", True)
        back = button("Take back", partial(_back, panel, run, line), "link", f"Take this back: {line}")
        back.setAccessibleName(f"Take back: {line}")
        grid.addWidget(words, row, 0)
        grid.addWidget(back, row, 1)
        row += 1
    line_ = QLineEdit()
    line_.setPlaceholderText("corner 2 of fin plate cut 30")
    line_.setAccessibleName("An alteration, typed")
    line_.setToolTip("Without a part, a bolt or a weld by its name, or a plate's corner cut off; it stays when the detail changes")
    line_.returnPressed.connect(partial(_typed, panel, run, line_))
    more = QPushButton("Leave out…")
    more.setObjectName("link")
    more.setToolTip("A part, bolt or weld of this detail, on top of what its family makes")
    more.clicked.connect(partial(_menu, panel, run, more))
    last = QHBoxLayout()
    last.addWidget(line_, 1)
    last.addWidget(more)
    grid.addLayout(last, row, 0, 1, 2)
    return grid


def _back(panel: Panel, run: Run, line: str) -> None:
    _keep(panel, run, [x for x in now(panel.entry) if x != line])


def _typed(panel: Panel, run: Run, field: QLineEdit) -> None:
    if field.text().strip() and _keep(panel, run, [*now(panel.entry), field.text()]):
        field.clear()


def _menu(panel: Panel, run: Run, at: QPushButton, _checked: bool = False) -> None:
    leave_out_menu(panel, run, at).exec(at.mapToGlobal(QPoint(0, at.height())))


def leave_out_menu(panel: Panel, run: Run, at: QPushButton) -> QMenu:
    """What may be left out of the detail shown: its parts, then bolts by group, then welds."""
    menu, entry = QMenu(at), panel.entry
    menu.setAccessibleName("Leave out")
    if entry is None or entry.made is None:
        return menu
    groups: dict[str, QMenu] = {}
    for words in offered(entry.made.detail, "\n".join(now(entry))):
        bolt, weld = words.startswith("without bolt "), words.startswith("without weld ")
        name = words.rpartition(" of ")[2] if bolt else "Welds" if weld else ""
        if name and name not in groups:
            groups[name] = menu.addMenu(name[:1].upper() + name[1:])
        (groups[name] if name else menu).addAction(words.removeprefix("without ").removeprefix("weld "), partial(_add, panel, run, words))
    return menu


def _add(panel: Panel, run: Run, words: str) -> None:
    _keep(panel, run, [*now(panel.entry), words])
