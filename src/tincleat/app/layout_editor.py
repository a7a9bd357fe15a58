"""Grids and levels as tables whose cells are typed into; each cell is kept as soon as it is left."""

import math
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QKeySequence, QShortcut
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QHBoxLayout, QHeaderView, QTableWidget, QTableWidgetItem, QVBoxLayout

from tincleat.app.context import Host
from tincleat.app.simple import button, label
from tincleat.app.theme import font
from tincleat.errors import BadValue
from tincleat.project.entities import Grid
from tincleat.units import format_length, format_spacings, parse_length, parse_spacings

GRID_HEAD = ("Name", "Spacings along x", "Labels", "Spacings along y", "Labels", "Origin x, y", "Turned, °")
LEVEL_HEAD = ("Name", "Elevation")


class LayoutEditor(QDialog):
    """Edit grids and levels; nothing to confirm, every cell is a command of its own and can be undone."""

    def __init__(self, window: Host) -> None:
        super().__init__(window)
        self.window_ = window
        self.setWindowTitle("Grids and levels")
        self.resize(860, 520)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(16, 14, 16, 14)
        rows.addWidget(label("Grids", "heading"))
        rows.addWidget(label("Spacing lists such as 6@6000 or 5000 4000 5000. Members stay where they are.", "quiet", True))
        self.grids = self._table("Grids", GRID_HEAD, (1, 3))
        rows.addWidget(self.grids, 3)
        rows.addLayout(self._buttons("grid", self._add_grid, lambda: self._delete("grid")))
        rows.addWidget(label("Levels", "heading"))
        self.levels = self._table("Levels", LEVEL_HEAD, (0,))
        rows.addWidget(self.levels, 4)
        rows.addLayout(self._buttons("level", self._add_level, lambda: self._delete("level")))
        self.error = label("", "breach", True)
        rows.addWidget(self.error)
        close = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        close.rejected.connect(self.accept)
        rows.addWidget(close)
        self.fill()
        for keys, turn in (("Ctrl+Z", window.undo), ("Ctrl+Shift+Z", window.redo)):
            QShortcut(QKeySequence(keys), self, lambda turn=turn: self._turn(turn))  # type: ignore[misc]
        self.grids.cellChanged.connect(self._grid_typed)
        self.levels.cellChanged.connect(self._level_typed)

    def _table(self, name: str, head: tuple[str, ...], stretch: tuple[int, ...]) -> QTableWidget:
        table = QTableWidget(0, len(head))
        table.setAccessibleName(name)
        table.setHorizontalHeaderLabels(list(head))
        table.verticalHeader().hide()
        table.setFont(font(9, mono=True))
        table.setTabKeyNavigation(False)  # Tab leaves the table; arrows go from cell to cell
        for column in range(len(head)):
            table.horizontalHeader().setSectionResizeMode(column, QHeaderView.ResizeMode.Stretch if column in stretch else QHeaderView.ResizeMode.Interactive)
        if len(head) == len(GRID_HEAD):
            for column, width in ((0, 90), (2, 120), (4, 100), (5, 110), (6, 76)):
                table.setColumnWidth(column, width)
        else:
            table.setColumnWidth(1, 160)
        return table

    def _turn(self, turn: Callable[[], None]) -> None:
        """Undo or redo in the window, seen here."""
        turn()
        self.error.setText("")
        self.fill()

    def _buttons(self, noun: str, add: Callable[[], None], delete: Callable[[], None]) -> QHBoxLayout:
        line = QHBoxLayout()
        line.addWidget(button(f"Add a {noun}", add))
        line.addWidget(button(f"Delete the {noun}", delete, "link"))
        line.addStretch(1)
        return line

    @property
    def _unit(self) -> str:
        assert self.window_.desk is not None
        return self.window_.desk.project.house.units

    def fill(self) -> None:
        """Show what is kept."""
        desk = self.window_.desk
        assert desk is not None
        self._show(self.grids, [(g.id, self._grid_cells(g)) for g in desk.project.grids.values()])
        levels = sorted(desk.project.levels.values(), key=lambda v: -v.elevation)
        self._show(self.levels, [(v.id, (v.name, format_length(v.elevation, self._unit))) for v in levels])

    def _grid_cells(self, g: Grid) -> tuple[str, ...]:
        def gaps(lines: tuple[tuple[str, float], ...]) -> str:
            at = [v for _, v in lines]
            return format_spacings(tuple(b - a for a, b in zip(at[:-1], at[1:], strict=True)), self._unit)

        origin = ", ".join(format_length(v, self._unit) for v in g.origin[:2])
        return (g.name, gaps(g.x), " ".join(n for n, _ in g.x), gaps(g.y), " ".join(n for n, _ in g.y), origin, f"{math.degrees(g.angle):g}")

    def _show(self, table: QTableWidget, rows: "list[tuple[str, tuple[str, ...]]]") -> None:
        at = (table.currentRow(), table.currentColumn())
        table.blockSignals(True)
        table.setRowCount(len(rows))
        for i, (key, cells) in enumerate(rows):
            for j, text in enumerate(cells):
                item = QTableWidgetItem(text)
                item.setData(Qt.ItemDataRole.UserRole, key)
                table.setItem(i, j, item)
        if 0 <= at[0] < len(rows):
            table.setCurrentCell(*at)
        table.blockSignals(False)

    def _run(self, table: QTableWidget, row: int, column: int, command: str, /, **args: Any) -> None:
        message = self.window_.command_error(command, **args)
        self.error.setText(message)
        if message:
            table.blockSignals(True)
            cell(table, row, column).setForeground(QColor(self.window_.theme.breach))
            table.blockSignals(False)
        else:
            self.fill()

    def _grid_typed(self, row: int, column: int) -> None:
        item = cell(self.grids, row, column)
        key, text = item.data(Qt.ItemDataRole.UserRole), item.text().strip()
        desk = self.window_.desk
        assert desk is not None
        old = desk.project.grids[key]
        args: dict[str, Any] = {}
        try:
            if column == 0:
                args = {"name": text}
            elif column in (1, 3):
                axis = "x" if column == 1 else "y"
                args = {axis: text}
                labels = cell(self.grids, row, column + 1).text().split()
                if len(text.split()) and self._counts(text) == len(labels):
                    args[f"{axis}_labels"] = labels
            elif column in (2, 4):
                args = {"x_labels" if column == 2 else "y_labels": text.split()}
            elif column == 5:
                parts = text.split(",")
                if len(parts) != 2:
                    raise BadValue(f"{text!r} is not two lengths", "origin", "such as 0, 6000")
                args = {"origin": [*(parse_length(p, self._unit) for p in parts), old.origin[2]]}
            else:
                try:
                    args = {"angle_deg": float(text.rstrip("° "))}
                except ValueError:
                    raise BadValue(f"{text!r} is no angle", "turned", "degrees, such as 22.5") from None
        except ValueError as error:
            self.error.setText(str(error))
            item.setForeground(QColor(self.window_.theme.breach))
            return
        self._run(self.grids, row, column, "change-grid", id=key, **args)

    def _counts(self, text: str) -> int:
        try:
            return len(parse_spacings(text, self._unit)) + 1
        except BadValue:
            return -1

    def _level_typed(self, row: int, column: int) -> None:
        item = cell(self.levels, row, column)
        args = {"name": item.text().strip()} if column == 0 else {"elevation": item.text().strip()}
        self._run(self.levels, row, column, "change-level", id=item.data(Qt.ItemDataRole.UserRole), **args)

    def _add_grid(self) -> None:
        desk = self.window_.desk
        assert desk is not None
        taken = {g.name for g in desk.project.grids.values()}
        name = next(n for n in ("main", *(f"grid {i}" for i in range(2, 100))) if n not in taken)
        self.error.setText(
            self.window_.command_error(
                "add-grid", name=name, x="3@6000" if "in" not in self._unit else "3@20'", y="2@6000" if "in" not in self._unit else "2@20'"
            )
        )
        self.fill()

    def _add_level(self) -> None:
        desk = self.window_.desk
        assert desk is not None
        top = max((v.elevation for v in desk.project.levels.values()), default=-4000.0)
        taken = {v.name for v in desk.project.levels.values()}
        name = next(n for n in (f"level {i}" for i in range(1, 200)) if n not in taken)
        self.error.setText(self.window_.command_error("add-level", name=name, elevation=top + 4000.0))
        self.fill()

    def _delete(self, noun: str) -> None:
        table = self.grids if noun == "grid" else self.levels
        item = table.item(table.currentRow(), 0) if table.currentRow() >= 0 else None
        if item is None:
            self.error.setText(f"Choose a {noun} in the table first")
            return
        self.error.setText(self.window_.command_error(f"delete-{noun}s", ids=[item.data(Qt.ItemDataRole.UserRole)]))
        self.fill()


def cell(table: QTableWidget, row: int, column: int) -> QTableWidgetItem:
    """A cell that is there."""
    found = table.item(row, column)
    assert found is not None
    return found
