"""Two placed details side by side: their sheets, what differs in figures and settings, and settings taken across."""

from dataclasses import replace

from PySide6.QtCore import QTimer
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QAbstractItemView, QDialog, QHBoxLayout, QHeaderView, QSplitter, QTableWidget, QTableWidgetItem, QVBoxLayout, QWidget

from tincleat.app.context import Host
from tincleat.app.detail_panel import pictures_of
from tincleat.app.dialogs import Action
from tincleat.app.offers import figures_in_words
from tincleat.app.sheet_view import SheetView
from tincleat.app.simple import button, label
from tincleat.families.declare import show
from tincleat.families.registry import FAMILIES
from tincleat.ledger.entries import Entry
from tincleat.ledger.layers import layer
from tincleat.ledger.offers import Offer
from tincleat.project.entities import Value
from tincleat.release.sheet import compose

HEAD = ("", "Left", "Right")


def pair_of(w: Host) -> list[str]:
    """The keys of the two joined joints that are selected; empty unless there are just two with a detail."""
    if w.desk is None or len(w.selected) != 2:
        return []
    entries = [w.desk.ledger.entries[k] for k in w.selected]
    return list(w.selected) if all(e.made is not None and e.connection is not None and e.connection.family in FAMILIES for e in entries) else []


class DetailsCompared(QDialog):
    """Two sheets, and a row for everything that is not the same; a row's value can be taken to the other side."""

    def __init__(self, w: Host, keys: list[str]) -> None:
        super().__init__(w)
        self.w, self.keys = w, keys
        self.names: list[str] = []  # of the settings in the rows; empty for figures
        self.setWindowTitle("Two details")
        self.resize(980, 680)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(16, 14, 16, 14)
        self.split = QSplitter()
        self.split.setChildrenCollapsible(False)
        self.heads, self.sheets = [], []
        for _ in keys:
            side = QWidget()
            column = QVBoxLayout(side)
            column.setContentsMargins(0, 0, 0, 0)
            self.heads.append(label("", "heading", True))
            self.sheets.append(SheetView(w.theme))
            column.addWidget(self.heads[-1])
            column.addWidget(self.sheets[-1], 1)
            self.split.addWidget(side)
        rows.addWidget(self.split, 3)
        self.told = label("", "quiet", True)
        rows.addWidget(self.told)
        self.table = QTableWidget(0, len(HEAD))
        self.table.setAccessibleName("What differs")
        self.table.setHorizontalHeaderLabels(list(HEAD))
        self.table.verticalHeader().hide()
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setTabKeyNavigation(False)
        for column_, mode in enumerate((QHeaderView.ResizeMode.ResizeToContents, QHeaderView.ResizeMode.Stretch, QHeaderView.ResizeMode.Stretch)):
            self.table.horizontalHeader().setSectionResizeMode(column_, mode)
        rows.addWidget(self.table, 2)
        line = QHBoxLayout()
        self.to_right = button("Take to the right  →", lambda: self.take(0, 1))
        self.to_left = button("←  Take to the left", lambda: self.take(1, 0))
        line.addWidget(self.to_left)
        line.addWidget(self.to_right)
        self.error = label("", "breach", True)
        line.addWidget(self.error, 1)
        line.addWidget(button("Close", self.accept))
        rows.addLayout(line)
        self.table.itemSelectionChanged.connect(self._enable)
        self.fill()

    @property
    def entries(self) -> list[Entry]:
        """The two as they are now."""
        assert self.w.desk is not None
        return [self.w.desk.ledger.entries[k] for k in self.keys]

    def fill(self) -> None:
        """Show both as they are now."""
        assert self.w.desk is not None
        project, entries = self.w.desk.project, self.entries
        unit = project.house.units
        kinds = []
        for e, head in zip(entries, self.heads, strict=True):
            assert e.connection is not None
            kinds.append(FAMILIES[e.connection.family])
            head.setText(f"{kinds[-1].label}  {e.connection.id} · {e.joint.words}")
        found: list[tuple[str, ...]] = []  # the setting, what the row is called, left, right
        figures = [figures_in_words(Offer(e.connection.family, None, e.made, "", 0), unit) if e.connection is not None else "" for e in entries]
        if figures[0] != figures[1]:
            found.append(("", "What it takes", *figures))
        levels = [", ".join(dict.fromkeys(f.title for f in e.findings if f.level in ("breach", "note"))) or "clear" for e in entries]
        if levels[0] != levels[1]:
            found.append(("", "Findings", *levels))
        if kinds[0] is kinds[1]:
            for s in kinds[0].settings:
                values = [self._value(e, s.name) for e in entries]
                if values[0] != values[1]:
                    words = [f"{show(s, v, unit) if v is not None else 'not in use'} · {layer(project, e, s.name).words}" for v, e in zip(values, entries, strict=True)]
                    found.append((s.name, s.label, *words))
        self.names = [f[0] for f in found]
        self.table.setRowCount(len(found))
        for i, (_, *cells) in enumerate(found):
            for j, text in enumerate(cells):
                item = QTableWidgetItem(text)
                item.setToolTip(text)
                self.table.setItem(i, j, item)
        if found:
            self.table.selectRow(next((i for i, n in enumerate(self.names) if n), 0))
        alike = "They are the same in every setting." if not found else ""
        self.told.setText(alike or (f"{sum(bool(n) for n in self.names)} settings differ." if kinds[0] is kinds[1] else "They are of different families: there is no setting to take across."))
        self._draw()
        self._enable()

    @staticmethod
    def _value(entry: Entry, name: str) -> Value | None:
        assert entry.made is not None
        return next((n.value for n in entry.made.detail.numbers if n.name == name), None)

    def _draw(self) -> None:
        assert self.w.desk is not None
        for e, sheet in zip(self.entries, self.sheets, strict=True):
            assert e.made is not None and e.connection is not None
            drawing = compose(pictures_of(e.made), e.findings, *sheet.paper_size(), self.w.desk.project.house.units, FAMILIES[e.connection.family].name, at=e.joint.frame, symbols=self.w.desk.project.house.weld_symbols, dual=self.w.desk.project.house.dual)
            # numbers are for reading here: they are changed in the table
            sheet.show_drawing(replace(drawing, dimensions=[replace(d, setting="") for d in drawing.dimensions]))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        QTimer.singleShot(0, self, self._draw)

    def _enable(self) -> None:
        at = self.table.currentRow()
        name = self.names[at] if 0 <= at < len(self.names) else ""
        self.error.setText("")
        for way, source in ((self.to_right, 0), (self.to_left, 1)):
            way.setEnabled(bool(name) and self._value(self.entries[source], name) is not None)

    def take(self, source: int, target: int) -> None:
        """Give one side the other's value of the chosen row's setting."""
        at = self.table.currentRow()
        name = self.names[at] if 0 <= at < len(self.names) else ""
        there = self.entries[target].connection
        if not name or there is None:
            return
        value = self._value(self.entries[source], name)
        message = self.w.command_error("change-connections", ids=[there.id], settings={name: list(value) if isinstance(value, tuple) else value})
        if message:
            self.error.setText(message)
            return
        self.fill()


def compare_actions(w: Host) -> list[Action]:
    """The action that sets two details side by side."""
    return [Action("compare-details", "Compare two details…", ("side by side", "difference", "same as"), "", lambda: DetailsCompared(w, pair_of(w)).exec(), lambda: bool(pair_of(w)), "Select two joined joints first")]
