"""Changes to look through before they are made: true-up, splits to stock, a comparison, a revised model; a row each, taken or left."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from tincleat.app.simple import button, label
from tincleat.app.tables import Table, TableRow
from tincleat.app.theme import Theme
from tincleat.geometry.frames import Array
from tincleat.project.entities import Member

HEAD = ("Take", "What", "Member", "Section", "Change")
WIDTHS = (52, 226, 66, 118, 0)


@dataclass(frozen=True)
class Row:
    """One change: what names it to the command, how it reads, and the member before and after (None where it is not there)."""

    key: str
    what: str
    name: str
    section: str
    words: str
    old: Member | None = None
    new: Member | None = None
    can: bool = True


@dataclass
class Matter:
    """What is being looked through: a title, its rows, what taking some keys does (None if it is only to look at), and whether rows are of members."""

    title: str
    rows: Sequence[Row]
    take: "Callable[[list[str]], bool] | None"
    verb: str = "Take"
    members: bool = True


class ReviewPage(QWidget):
    """The drawer's page for a matter; empty until something is looked through."""

    shown = Signal(object)  # rows selected
    ended = Signal()
    filled = Signal()

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(0)
        self.bar = QWidget()
        line = QHBoxLayout(self.bar)
        line.setContentsMargins(8, 2, 8, 2)
        self.title = label("", "")
        self.go = button("Take", self._take, "go")
        self.all = button("Take all", lambda: self._set_all(True), "link")
        self.none = button("Leave all", lambda: self._set_all(False), "link")
        line.addWidget(self.title, 1)
        for widget in (self.all, self.none, self.go, button("Close", self.close_matter, "link")):
            line.addWidget(widget)
        rows.addWidget(self.bar)
        self.table = Table("Review", HEAD, 4, (), theme)
        self.table.acted.connect(self._toggle)
        self.table.chosen.connect(self.shown.emit)
        rows.addWidget(self.table, 1)
        self.empty = label("Nothing to look through. True up, Stock, Compare and Import put their rows here.", "quiet", True)
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        rows.addWidget(self.empty, 1)
        self.matter: Matter | None = None
        self.left: set[str] = set()
        self._show()

    def look_through(self, matter: Matter) -> None:
        """Show a matter; every row that can be taken is taken until it is left."""
        self.matter, self.left = matter, {r.key for r in matter.rows if not r.can}
        self.table.clearSelection()
        self._show()
        self.table.scrollToTop()

    def close_matter(self) -> None:
        """Look at nothing any more."""
        self.matter = None
        self._show()
        self.ended.emit()

    def taken(self) -> list[str]:
        """Keys of the rows that are taken, each once."""
        return [] if self.matter is None else list(dict.fromkeys(r.key for r in self.matter.rows if r.key not in self.left))

    def _show(self) -> None:
        m = self.matter
        self.bar.setVisible(m is not None)
        self.table.setVisible(m is not None and bool(m.rows))
        self.empty.setVisible(m is None or not m.rows)
        if m is None:
            self.empty.setText("Nothing to look through. True up, Stock, Compare and Revise put their rows here.")
            self.table.put([], WIDTHS)
            self.filled.emit()
            return
        self.empty.setText("Nothing differs: there is nothing to do.")
        self._fill()

    def _fill(self) -> None:
        m = self.matter
        assert m is not None
        cells = [TableRow((self._state(r), r.what, r.name, r.section, r.words), "", r) for r in m.rows]
        self.table.put(cells, WIDTHS)
        for column in (2, 3):
            self.table.setColumnHidden(column, not m.members)
        count, some = len(self.taken()), m.take is not None
        self.title.setText(f"{m.title}: {len(m.rows)} row{'s' if len(m.rows) != 1 else ''}")
        self.go.setText(f"{m.verb} {count}")
        self.go.setEnabled(count > 0)
        for widget in (self.go, self.all, self.none):
            widget.setVisible(some)
        self.filled.emit()

    def _state(self, row: Row) -> str:
        if self.matter is None or self.matter.take is None:
            return ""
        return "cannot" if not row.can else "leave" if row.key in self.left else "take"

    def _toggle(self, row: Row) -> None:
        if row.can and self.matter is not None and self.matter.take is not None:
            self.left ^= {row.key}
            self._fill()

    def _set_all(self, on: bool) -> None:
        if self.matter is not None:
            self.left = {r.key for r in self.matter.rows if not (on and r.can)}
            self._fill()

    def _take(self) -> None:
        if self.matter is not None and self.matter.take is not None and self.matter.take(self.taken()):
            self.close_matter()


def before_after(rows: "Sequence[Row]", theme: Theme) -> "list[tuple[Array, str, bool]]":
    """Lines to lay over the model: where members lie, dashed, and where they would lie."""
    out: list[tuple[Any, str, bool]] = []
    for r in rows:
        if r.old is not None:
            out.append((np.array([r.old.start, r.old.end]), theme.tin_dark, True))
        if r.new is not None:
            out.append((np.array([r.new.start, r.new.end]), theme.accent, False))
    return out
