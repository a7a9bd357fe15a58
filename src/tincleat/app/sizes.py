"""A typical's sizes in the window: a table with a row a size of the member joined, a column a setting; typed into, read and written as CSV."""

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QAbstractItemView, QComboBox, QDialog, QDialogButtonBox, QFileDialog, QHBoxLayout, QTableWidget, QTableWidgetItem, QVBoxLayout

from tincleat.app.asking import save_path
from tincleat.app.context import Host
from tincleat.app.counted import counted
from tincleat.app.simple import button, label
from tincleat.app.typical_look import looked_at
from tincleat.commands.typicals import uses
from tincleat.errors import TinCleatError
from tincleat.exchange.size_tables import cells, columns, write_sizes
from tincleat.families.registry import FAMILIES
from tincleat.project.entities import Typical

FILES = "Tables (*.csv)"
FIXED = ("Section", "Up to depth")
ADD = "Add a column…"


class Sizes(QDialog):
    """The sizes of one typical: the first row that the joined member suits counts.  What is typed is kept with Enter, each a step to undo."""

    def __init__(self, w: Host, typical: str) -> None:
        super().__init__(w)
        self.w, self.typical = w, typical
        self.more: list[str] = []  # columns asked for that no row has a value in yet
        self.setWindowTitle("Sizes of a typical")
        self.resize(820, 420)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(16, 14, 16, 14)
        self.heading = label("", "heading")
        rows.addWidget(self.heading)
        self.words = label("", "quiet", True)
        rows.addWidget(self.words)
        self.table = QTableWidget(0, 0)
        self.table.setAccessibleName("Sizes, a row each")
        self.table.verticalHeader().hide()
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectItems)
        self.table.setTabKeyNavigation(False)
        self.table.itemChanged.connect(self._typed)
        rows.addWidget(self.table, 1)
        line = QHBoxLayout()
        self.column = QComboBox()
        self.column.setAccessibleName("Setting to give by size")
        self.column.activated.connect(self._add_column)
        self.add, self.drop, self.higher = button("Add a row", self._add), button("Take out", self._drop), button("Move up", self._up)
        for one in (self.add, self.drop, self.higher):
            line.addWidget(one)
        line.addWidget(self.column)
        line.addStretch(1)
        line.addWidget(button("Read CSV…", self._read, "link"))
        line.addWidget(button("Write CSV…", self._write, "link"))
        rows.addLayout(line)
        self.error = label("", "breach", True)
        self.error.setAccessibleName("What is wrong")
        rows.addWidget(self.error)
        close = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        close.rejected.connect(self.accept)
        rows.addWidget(close)
        self.table.itemSelectionChanged.connect(self._enable)
        self.fill()

    @property
    def kept(self) -> Typical:
        """The typical as it is now."""
        assert self.w.desk is not None
        return self.w.desk.project.typicals[self.typical]

    @property
    def names(self) -> list[str]:
        """The settings that have a column."""
        have = columns(self.kept)
        return have + [n for n in self.more if n not in have]

    def fill(self) -> None:
        """Show what is kept."""
        assert self.w.desk is not None
        t, units, kind = self.kept, self.w.desk.project.house.units, FAMILIES[self.kept.family]
        count = len(uses(self.w.desk.project, t.id))
        self.heading.setText(f"{kind.label}: {t.name}, by size")
        self.words.setText(
            "The first row that the joined member suits counts: by section, or up to a depth; one with neither suits all. Empty cells leave what the typical gives."
            + (f" {counted(count, 'connection')} using it will follow." if count else "")
        )
        known = kind.by_name
        self.table.blockSignals(True)
        self.table.setColumnCount(len(FIXED) + len(self.names))
        self.table.setHorizontalHeaderLabels([*FIXED, *(known[n].label for n in self.names)])
        self.table.setRowCount(len(t.sizes))
        for i, row in enumerate(t.sizes):
            for j, text in enumerate(cells(t, row, self.names, units)):
                self.table.setItem(i, j, QTableWidgetItem(text))
        self.table.resizeColumnsToContents()
        for j in range(self.table.columnCount()):
            self.table.setColumnWidth(j, max(self.table.columnWidth(j) + 12, 96))
        self.table.blockSignals(False)
        self.column.clear()
        self.column.addItems([ADD, *(s.label for s in kind.settings if s.name not in self.names and not kind.alone(s.name))])
        self._enable()

    def _enable(self) -> None:
        at = self.table.currentRow()
        self.drop.setEnabled(at >= 0)
        self.higher.setEnabled(at > 0)

    def _plain(self) -> "list[dict[str, object]]":
        """The rows as they stand in the table."""
        heads = ["section", "depth", *self.names]
        out: list[dict[str, object]] = []
        for i in range(self.table.rowCount()):
            texts = [item.text().strip() if (item := self.table.item(i, j)) is not None else "" for j in range(len(heads))]
            out.append({n: t for n, t in zip(heads, texts, strict=True) if t})
        return out

    def _keep(self, sizes: "list[dict[str, object]]", at: tuple[int, int] | None = None) -> bool:
        """Keep some rows; what is wrong is said, and what was typed stays to be mended."""
        message = self.w.command_error("change-typical", typical=self.typical, sizes=sizes)
        self.error.setText(message)
        if message:
            return False
        self.fill()
        if at is not None and self.table.rowCount():
            self.table.setCurrentCell(min(max(at[0], 0), self.table.rowCount() - 1), at[1])
        return True

    def _typed(self, item: QTableWidgetItem) -> None:
        self._keep(self._plain(), (item.row(), item.column()))

    def _add(self) -> None:
        self._keep([*self._plain(), {}], (self.table.rowCount(), 0))

    def _drop(self) -> None:
        rows, at = self._plain(), self.table.currentRow()
        self._keep(rows[:at] + rows[at + 1 :], (at, 0))

    def _up(self) -> None:
        rows, at = self._plain(), self.table.currentRow()
        self._keep([*rows[: at - 1], rows[at], rows[at - 1], *rows[at + 1 :]], (at - 1, self.table.currentColumn()))

    def _add_column(self, number: int) -> None:
        if number > 0:
            kind = FAMILIES[self.kept.family]
            self.more.append(next(s.name for s in kind.settings if s.label == self.column.itemText(number) and s.name not in self.names))
            self.fill()
            self.table.setFocus(Qt.FocusReason.OtherFocusReason)

    def _read(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, "Read sizes", "", FILES)
        if path:
            self.read(path)

    def read(self, path: str) -> None:
        """Take the sizes of a CSV file in place of those shown."""
        self.error.setText(looked_at(self.w, "load-sizes", f"Read the sizes of {self.kept.name}", typical=self.typical, path=path))
        self.fill()

    def _write(self) -> None:
        assert self.w.desk is not None
        path = save_path(self, "Write sizes", Path(self.w.desk.store.path).with_name(f"{self.kept.name}.csv"), FILES, (".csv",))
        if path is None:
            return
        try:
            count = write_sizes(self.kept, self.w.desk.project.house.units, path)
        except TinCleatError as error:
            self.error.setText(str(error))
            return
        self.error.setText("")
        self.w.say(f"{counted(count, 'size')} written to {path.name}" if count else f"A table to start from written to {path.name}")


def show_sizes(w: Host, typical: str) -> None:
    """Open the sizes of a typical."""
    Sizes(w, typical).exec()
