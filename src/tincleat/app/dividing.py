"""How the window's room is shared out without a mouse: tables and panel larger or smaller, a table's columns shown, sorted and widened."""

from functools import partial

from PySide6.QtCore import QPoint, QSettings, Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QMenu, QSplitter

from tincleat.app.context import Host
from tincleat.app.dialogs import Action
from tincleat.app.tables import Table

STEP = 40  # px that a divider moves at a time


def dividing_actions(w: Host) -> list[Action]:
    """Actions that move the dividers, and the columns of the table in view."""

    def opened() -> bool:
        return w.desk is not None

    def table() -> bool:
        return opened() and w.drawer.current() is not None

    return [
        Action("tables-higher", "Tables higher", ("divider", "drawer", "more rows", "splitter"), "Ctrl+Alt+Up", lambda: shift(w.middle, -STEP), opened, "Move the divider over the tables up"),
        Action("tables-lower", "Tables lower", ("divider", "drawer", "more model", "splitter"), "Ctrl+Alt+Down", lambda: shift(w.middle, STEP), opened, "Move the divider over the tables down"),
        Action("panel-wider", "Panel wider", ("divider", "sheet", "form", "splitter"), "Ctrl+Alt+Left", partial(widen, w, -STEP), opened, "Move the divider beside the panel to the left"),
        Action("panel-narrower", "Panel narrower", ("divider", "more model", "splitter"), "Ctrl+Alt+Right", partial(widen, w, STEP), opened, "Move the divider beside the panel to the right"),
        Action("columns", "Columns of the table…", ("show", "hide", "sort", "width", "header"), "Ctrl+Alt+C", lambda: ask_columns(w.drawer.current()), table, "Show, hide, sort or widen the columns of the table in view"),
    ]  # fmt: skip


def shift(split: QSplitter, by: int) -> None:
    """Move the divider between a splitter's two widgets by so many pixels, as far as they have room."""
    first, second, *rest = split.sizes()
    split.setSizes([first + by, second - by, *rest])


def widen(w: Host, by: int) -> None:
    """Move the divider beside the panel."""
    shift(w.across, by)
    w.across.splitterMoved.emit(w.across.sizes()[0], 1)


def ask_columns(table: Table, at: QPoint | None = None) -> None:
    """Open the menu of a table's columns, at its head or where it was asked for."""
    menu = columns_menu(table)
    menu.exec(at or table.mapToGlobal(QPoint(8, table.horizontalHeader().height())))


def columns_menu(table: Table) -> QMenu:
    """What can be done to a table's columns: each shown or not, sorted by, one wider or narrower, all as they fit."""
    menu = QMenu(table)
    menu.setAccessibleName(f"Columns of the {table.accessibleName().lower()}")
    show = menu.addMenu("Show")
    for i, name in enumerate(table.rows.head):
        one = QAction(name, menu, checkable=True, checked=i not in table.left_out)
        one.setEnabled(i != table.stretch)  # the one that says what a row is stays
        one.toggled.connect(partial(table.leave_out, i))
        show.addAction(one)
    sort = menu.addMenu("Sort by")
    for i, name in enumerate(table.rows.head):
        if not table.isColumnHidden(i):
            sort.addAction(name, partial(sort_by, table, i))
    sort.addAction("As they come", partial(table.sortByColumn, -1, Qt.SortOrder.AscendingOrder))
    width = menu.addMenu("Width")
    for i, name in enumerate(table.rows.head):
        if not table.isColumnHidden(i) and i != table.stretch:
            width.addAction(f"{name}: wider", partial(table.give_width, i, 24))
            width.addAction(f"{name}: narrower", partial(table.give_width, i, -24))
    width.addAction("All as they fit", table.fit_all)
    return menu


def sort_by(table: Table, column: int) -> None:
    """Sort by a column; once more the other way."""
    header = table.horizontalHeader()
    down = header.sortIndicatorSection() == column and header.sortIndicatorOrder() == Qt.SortOrder.AscendingOrder
    table.sortByColumn(column, Qt.SortOrder.DescendingOrder if down else Qt.SortOrder.AscendingOrder)


def keep_columns(tables: "dict[str, Table]", settings: QSettings) -> None:
    """Let tables remember, by name, which columns are left out."""
    for name, table in tables.items():
        kept = str(settings.value(f"columns/{name}", "") or "")
        for i, head in enumerate(table.rows.head):
            if head in kept.split("|") and i != table.stretch:
                table.left_out.add(i)
        table.left.connect(partial(_keep, table, name, settings))
        table.horizontalHeader().setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        table.horizontalHeader().customContextMenuRequested.connect(lambda at, table=table: ask_columns(table, table.horizontalHeader().mapToGlobal(at)))


def _keep(table: Table, name: str, settings: QSettings) -> None:
    settings.setValue(f"columns/{name}", "|".join(table.rows.head[i] for i in sorted(table.left_out)))

