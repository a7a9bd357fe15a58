"""The window's room shared out by keys: dividers, columns left out, sorted, widened, and what is remembered of it."""

from PySide6.QtCore import QSettings, Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QMenu
from pytestqt.qtbot import QtBot
from test_window import window

from tincleat.app.dividing import columns_menu, keep_columns
from tincleat.app.window import Window

assert window  # the fixture


def entry(menu: QMenu, *words: str) -> QAction:
    """An entry of a menu by the words on the way to it."""
    for word in words[:-1]:
        menu = next(m for m in menu.findChildren(QMenu) if m.title() == word)
    return next(a for a in menu.actions() if a.text() == words[-1])


def test_dividers_move_by_keys(qtbot: QtBot, window: Window) -> None:
    before = window.middle.sizes(), window.across.sizes()
    qtbot.keyClick(window, Qt.Key.Key_Up, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
    assert window.middle.sizes()[1] == before[0][1] + 40
    qtbot.keyClick(window, Qt.Key.Key_Down, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
    assert window.middle.sizes() == before[0]
    qtbot.keyClick(window, Qt.Key.Key_Left, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
    wider = window.across.sizes()[1]
    assert wider == before[1][1] + 40
    window.do("panel-narrower")
    assert window.across.sizes()[1] == wider - 40
    for _ in range(40):
        window.do("panel-narrower")
    assert window.across.sizes()[1] >= 380  # never under what the panel needs


def test_a_column_is_left_out_and_stays_so(qtbot: QtBot, window: Window) -> None:
    table = window.drawer.ledger_table
    assert not table.isColumnHidden(2)
    menu = columns_menu(table)
    assert not entry(menu, "Show", "Joint").isEnabled()  # it says what a row is
    entry(menu, "Show", "Where").trigger()
    assert table.isColumnHidden(2) and not table.isColumnHidden(3)
    window.resize(1400, 800)
    assert table.isColumnHidden(2)
    # another window of the same settings
    kept = QSettings(window.settings.fileName(), QSettings.Format.IniFormat)
    assert kept.value("columns/ledger") == "Where"
    table.left_out.clear()
    keep_columns({"ledger": table}, kept)
    assert table.left_out == {2}
    entry(columns_menu(table), "Show", "Where").trigger()
    assert not table.isColumnHidden(2) and window.settings.value("columns/ledger") == ""


def test_columns_sort_and_widen_from_the_menu(window: Window) -> None:
    table = window.drawer.ledger_table
    entry(columns_menu(table), "Sort by", "Joint").trigger()
    read = [table.filter.index(i, 1).data() for i in range(table.filter.rowCount())]
    assert read == sorted(read)
    entry(columns_menu(table), "Sort by", "Joint").trigger()
    assert [table.filter.index(i, 1).data() for i in range(table.filter.rowCount())] == sorted(read, reverse=True)
    entry(columns_menu(table), "Sort by", "As they come").trigger()
    assert [table.filter.index(i, 1).data() for i in range(table.filter.rowCount())] == [r.cells[1] for r in table.rows.rows]
    before = table.columnWidth(4)
    entry(columns_menu(table), "Width", "Connection: wider").trigger()
    window.resize(1500, 800)
    assert table.columnWidth(4) == before + 24  # it stays as it was made
    entry(columns_menu(table), "Width", "All as they fit").trigger()
    assert table.columnWidth(4) == before
