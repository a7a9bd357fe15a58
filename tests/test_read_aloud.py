"""What is read aloud: everything that can be used has a name, states are told, descriptions are true."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QAccessible
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QApplication,
    QComboBox,
    QHeaderView,
    QLineEdit,
    QProgressBar,
    QPushButton,
    QScrollArea,
    QScrollBar,
    QTabBar,
    QWidget,
)
from pytestqt.qtbot import QtBot
from test_window import desk, key_of, window

from tincleat.app.offers import Offers
from tincleat.app.window import Window

assert window  # the fixture
USED = (QAbstractButton, QLineEdit, QComboBox, QAbstractItemView, QTabBar, QProgressBar, QHeaderView, QScrollArea)


def nameless(root: QWidget) -> list[str]:
    """Widgets that can be used, or hold what can, and that a screen reader has no name for."""
    out = []
    for x in root.findChildren(QWidget):
        if not x.isVisible() or isinstance(x, QScrollBar) or x.objectName() == "qt_scrollarea_viewport":
            continue
        if isinstance(x, USED) or x.focusPolicy() != Qt.FocusPolicy.NoFocus:
            found = QAccessible.queryAccessibleInterface(x)
            if not (found and found.text(QAccessible.Text.Name)):
                out.append(f"{type(x).__name__} {x.objectName()}")
    return out


def test_whatever_can_be_used_has_a_name(qtbot: QtBot, window: Window) -> None:
    def settled(where: str) -> None:
        QApplication.processEvents()
        qtbot.waitUntil(lambda: all(o.done for o in window.card.findChildren(Offers)), timeout=20000)
        assert not nameless(window), (where, nameless(window))

    for stage in ("Frame", "Ready", "Join", "Prove", "Release"):
        window.rail.choose(stage)
        settled(stage)
    for joined in (True, False):
        window.select([next(e.joint.key for e in desk(window).ledger.entries.values() if e.settled == joined)], [])
        settled(f"joined {joined}")
    window.select([], list(desk(window).project.members)[:2])
    settled("members")
    window.do("house-rules")
    settled("house rules")
    window.escape()
    window.progress.show()
    settled("progress")
    window.set_desk(None)
    settled("start")


def test_what_is_told_is_so(qtbot: QtBot, window: Window) -> None:
    rail, view, sheet = window.rail, window.view, window.detail.sheet
    assert rail.accessibleDescription().startswith("Join is current. Frame: 109 members; Ready: 2 loose ends; Join: 62 / 197; Prove: 4 breaches")
    rail.choose("Prove")
    assert rail.accessibleDescription().startswith("Prove is current.")
    assert "nothing is selected" in view.accessibleDescription()
    window.select([key_of(window, "C2A.start")], [])
    assert "1 joint selected: UB 406x178x60 foot, clear" in view.accessibleDescription()
    assert "plate thickness" in sheet.accessibleDescription() or "grout" in sheet.accessibleDescription()
    # arrow keys do go from number to number, as it is said
    sheet.setFocus()
    before = sheet._current
    qtbot.keyClick(sheet, Qt.Key.Key_Right)
    assert sheet._current != before and sheet.drawing is not None and sheet.drawing.dimensions[sheet._current].setting
    window.select([], list(desk(window).project.members)[:5])
    assert "5 members selected: " in view.accessibleDescription() and view.accessibleDescription().count(";") >= 3 and "and more" in view.accessibleDescription()
    window.select([], [])
    assert "nothing is selected" in view.accessibleDescription()


def test_the_filled_button_shows_that_it_has_the_keyboard(qtbot: QtBot, window: Window) -> None:
    go = QPushButton("Keep")
    go.setObjectName("go")
    go.resize(120, 32)
    qtbot.addWidget(go)
    go.show()
    qtbot.waitExposed(go)
    go.clearFocus()
    off = go.grab().toImage().pixelColor(60, 1)
    go.setFocus()
    go.activateWindow()
    qtbot.waitUntil(go.hasFocus)
    assert go.grab().toImage().pixelColor(60, 1) != off


def test_tab_goes_as_one_reads_and_a_fix_is_near(qtbot: QtBot, window: Window) -> None:
    window.rail.choose("Prove")
    window.do("next-finding")
    QApplication.processEvents()
    window.view.setFocus()
    seen: list[QWidget] = []
    for _ in range(60):
        at = QApplication.focusWidget()
        assert at is not None
        qtbot.keyClick(at, Qt.Key.Key_Tab)
        now = QApplication.focusWidget()
        assert now is not None
        seen.append(now)
        if now is window.view:
            break
    words = [x.text() if isinstance(x, QPushButton) else x.accessibleName() for x in seen]
    fix = next(i for i, t in enumerate(words) if t.startswith("Fix: "))
    assert fix <= 4, words[: fix + 1]  # tables, filter, table, sheet, fix
    # round the window: tables under the model, the panel, then the rail, the action line from left to right, and back
    rail = seen.index(window.rail)
    line = list(seen[rail + 1 : -1])
    assert fix < rail and line and all(x.parentWidget() is window.action_line for x in line)
    assert [x.x() for x in line] == sorted(x.x() for x in line) and seen[-1] is window.view
