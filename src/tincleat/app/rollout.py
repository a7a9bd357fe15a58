"""Rolling out in the window: the open joints that are like a connection's own or similar, each with its difference and result, to be ticked and joined at once."""

import time
from collections.abc import Iterator

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QAbstractItemView, QDialog, QHBoxLayout, QHeaderView, QTableWidget, QTableWidgetItem, QVBoxLayout

from tincleat.app.context import Host
from tincleat.app.counted import counted
from tincleat.app.dialogs import Action
from tincleat.app.marks import mark_icon
from tincleat.app.simple import button, label
from tincleat.families.registry import FAMILIES
from tincleat.ledger.rollout import Row, rows

HEAD = ("", "Joint", "Open", "Difference", "Result")
STEP = 0.03  # s of building in one go
MOST_GHOSTS = 100  # joints of a row whose ghosts are shown


class RollOutDialog(QDialog):
    """Rows are built while the dialog is open; those that come out clear are ticked.  The row that is current shows its ghost in the model."""

    def __init__(self, w: Host, key: str) -> None:
        super().__init__(w)
        assert w.desk is not None
        self.w, self.key = w, key
        self.entry = w.desk.ledger.entries[key]
        assert self.entry.connection is not None
        self.rows: list[Row] = []
        self.setWindowTitle("Roll out")
        self.resize(980, 460)
        lines = QVBoxLayout(self)
        lines.setContentsMargins(16, 14, 16, 14)
        kind = FAMILIES[self.entry.connection.family]
        lines.addWidget(label(f"Roll out {kind.label.lower()} {self.entry.connection.id}", "heading"))
        lines.addWidget(label(f"{self.entry.joint.words}: the same family and settings at other open joints; what is worked out follows each joint.", "quiet", True))
        self.table = QTableWidget(0, len(HEAD))
        self.table.setAccessibleName("Open joints")
        self.table.setHorizontalHeaderLabels(list(HEAD))
        self.table.verticalHeader().hide()
        self.table.verticalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setTabKeyNavigation(False)
        for column, width in ((0, 34), (1, 280), (2, 52), (4, 170)):
            self.table.setColumnWidth(column, width)
        self.table.horizontalHeader().setSectionResizeMode(3, QHeaderView.ResizeMode.Stretch)
        lines.addWidget(self.table, 1)
        self.told = label("", "quiet", True)
        lines.addWidget(self.told)
        self.error = label("", "breach", True)
        lines.addWidget(self.error)
        foot = QHBoxLayout()
        foot.addWidget(button("Tick all that fit", lambda: self._tick(True), "link"))
        foot.addWidget(button("Tick none", lambda: self._tick(False), "link"))
        foot.addStretch(1)
        foot.addWidget(button("Close", self.reject))
        self.go = button("Roll out", self.roll_out, "go")
        self.go.setDefault(True)
        foot.addWidget(self.go)
        lines.addLayout(foot)
        self.table.itemChanged.connect(lambda _: self._count())
        self.table.itemSelectionChanged.connect(self._ghost)
        self._next: Iterator[Row] | None = rows(w.desk.ledger, self.entry)
        self._go_on()

    @property
    def done_looking(self) -> bool:
        """Whether every row is built."""
        return self._next is None

    def _go_on(self) -> None:
        start = time.perf_counter()
        while self._next is not None and time.perf_counter() - start < STEP:
            row = next(self._next, None)
            if row is None:
                self._next = None
            else:
                self._add(row)
        if self._next is not None:
            QTimer.singleShot(0, self, self._go_on)
        self._count()

    def _add(self, row: Row) -> None:
        self.table.blockSignals(True)
        i = self.table.rowCount()
        self.rows.append(row)
        self.table.setRowCount(i + 1)
        tick = QTableWidgetItem()
        tick.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable | (Qt.ItemFlag.ItemIsUserCheckable if row.made is not None else Qt.ItemFlag.NoItemFlags))
        if row.made is not None:
            tick.setCheckState(Qt.CheckState.Checked if row.same and not row.breaches else Qt.CheckState.Unchecked)
        self.table.setItem(i, 0, tick)
        result = row.why or (counted(row.breaches, "breach", "breaches") if row.breaches else "clear")
        for j, text in enumerate((row.joints[0].words, f"{len(row.joints):,}", row.difference, result), 1):
            item = QTableWidgetItem(text)
            item.setToolTip(text)
            self.table.setItem(i, j, item)
        shown = self.table.item(i, 4)
        if shown is not None and row.made is not None:
            shown.setIcon(mark_icon("breach" if row.breaches else "clear", self.w.theme))
        self.table.blockSignals(False)

    def ticked(self) -> list[Row]:
        """The rows that are to be joined."""
        return [r for i, r in enumerate(self.rows) if (item := self.table.item(i, 0)) is not None and item.checkState() == Qt.CheckState.Checked]

    def _tick(self, on: bool) -> None:
        for i, row in enumerate(self.rows):
            item = self.table.item(i, 0)
            if item is not None and row.made is not None:
                item.setCheckState(Qt.CheckState.Checked if on else Qt.CheckState.Unchecked)

    def _count(self) -> None:
        some = self.ticked()
        joints = sum(len(r.joints) for r in some)
        self.go.setText(f"Roll out to {joints:,}" if joints else "Roll out")
        self.go.setEnabled(bool(joints))
        breaches = sum(len(r.joints) for r in some if r.breaches)
        left = sum(len(r.joints) for r in self.rows if r.made is None)
        words = [f"{breaches:,} of them would be in breach"] * bool(breaches) + [f"{left:,} cannot be joined so"] * bool(left)
        self.told.setText("Looking at open joints …" if self._next is not None else "; ".join(words) or ("" if self.rows else "No other joint of this kind is open."))

    def _ghost(self) -> None:
        i = self.table.currentRow()
        if not 0 <= i < len(self.rows):
            return
        row = self.rows[i]
        self.w.view.zoom_to(row.joints[0].frame.o, 1500)
        bodies = []
        if row.made is not None:
            shapes = row.made.shapes
            tone = self.w.theme.ghost_breach if row.breaches else self.w.theme.ghost
            for joint in row.joints:
                bodies += [(shapes.plates.placed(joint.frame), tone), (shapes.bolts.placed(joint.frame), self.w.theme.slate)]
        self.w.view.show_overlay(bodies[: 2 * MOST_GHOSTS])
        if len(row.joints) > MOST_GHOSTS and row.made is not None:
            self.w.say(f"The ghosts of {MOST_GHOSTS} of {len(row.joints):,} joints are shown")

    def roll_out(self) -> None:
        """Join every ticked joint in one step."""
        assert self.entry.connection is not None
        at = [f"{m}.{end}" for r in self.ticked() for j in r.joints for m, end in j.ends[:1]]
        message = self.w.command_error("roll-out", connection=self.entry.connection.id, at=at)
        self.error.setText(message)
        if not message:
            self.accept()

    def done(self, result: int) -> None:
        self._next = None
        super().done(result)
        self.w.select([self.key], [])


def _joined(w: Host) -> list[str]:
    """The selected joints that are joined at member ends."""
    if w.desk is None:
        return []
    found = [w.desk.ledger.entries[k] for k in w.selected if k in w.desk.ledger.entries]
    return [e.joint.key for e in found if e.connection is not None and e.made is not None and e.joint.ends and not e.left_plain]


def rollout_actions(w: Host) -> list[Action]:
    """The actions for rolling out, bound to a window."""
    return [Action("roll-out", "Roll out…", ("kin", "similar", "same everywhere", "copy to others"), "Ctrl+R", lambda: RollOutDialog(w, _joined(w)[0]).exec(), lambda: len(_joined(w)) == 1, "Select one connection first")]
