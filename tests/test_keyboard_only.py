"""Both walk-throughs without a mouse: nothing but keys goes to whatever has the focus."""

from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QApplication, QLineEdit, QPushButton, QWidget
from pytestqt.qtbot import QtBot
from test_window import desk, window

from tincleat.app.joining import JoiningDialog
from tincleat.app.offers import Offers
from tincleat.app.window import Window
from tincleat.demo.registry import make_demo
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.made import Workshop

assert window  # the fixture
CTRL, ALT, SHIFT, BARE = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.NoModifier


class Keys:
    """Keys to whatever has the focus, counted."""

    def __init__(self, qtbot: QtBot, window: Window) -> None:
        self.qtbot, self.window, self.presses = qtbot, window, 0

    def focus(self) -> QWidget:
        return QApplication.focusWidget() or self.window

    def key(self, key: Qt.Key, held: Any = BARE) -> None:
        self.presses += 1
        self.qtbot.keyClick(self.focus(), key, held)
        QApplication.processEvents()

    def type(self, text: str) -> None:
        self.presses += len(text)
        self.qtbot.keyClicks(self.focus(), text)

    def tab_to(self, found: Any, most: int) -> None:
        """Tab until the focus is on a widget that ``found`` takes, in so many steps at most."""
        for _ in range(most + 1):
            QApplication.processEvents()
            if found(self.focus()):
                return
            self.key(Qt.Key.Key_Tab)
        raise AssertionError(f"not reached in {most} Tabs; the focus is on {self.focus()} {getattr(self.focus(), 'text', lambda: '')()!r}")

    def search(self, words: str) -> None:
        """Ctrl+K, words, Enter."""
        self.key(Qt.Key.Key_K, CTRL)
        self.qtbot.waitUntil(lambda: isinstance(QApplication.focusWidget(), QLineEdit) and QApplication.focusWidget().window() is not None)
        self.type(words)
        self.key(Qt.Key.Key_Return)
        self.window.activateWindow()

    def join_all(self) -> None:
        def press() -> None:
            dialog = next(w for w in QApplication.topLevelWidgets() if isinstance(w, JoiningDialog) and w.isVisible())
            self.qtbot.waitUntil(lambda: dialog.go.isEnabled(), timeout=60000)
            for _ in range(12):
                if dialog.focusWidget() is dialog.go:
                    break
                self.presses += 1
                self.qtbot.keyClick(dialog.focusWidget() or dialog, Qt.Key.Key_Tab)
            self.presses += 1
            self.qtbot.keyClick(dialog.focusWidget(), Qt.Key.Key_Space)

        QTimer.singleShot(200, press)
        self.key(Qt.Key.Key_J, CTRL)
        self.window.activateWindow()
        self.qtbot.waitUntil(self.window.isActiveWindow)


def text_of(w: QWidget) -> str:
    return w.text() if isinstance(w, QPushButton) else ""


def test_the_boathouse_from_a_filter_to_every_end_settled(qtbot: QtBot, window: Window) -> None:
    keys = Keys(qtbot, window)
    # a row of the ledger by its words, and its offers
    keys.key(Qt.Key.Key_F, CTRL)
    keys.type("254x146x31 356x171x51")
    keys.tab_to(lambda w: w is window.drawer.ledger_table, 2)
    keys.key(Qt.Key.Key_Down)
    qtbot.waitUntil(lambda: bool(window.card.findChildren(Offers)) and all(o.done for o in window.card.findChildren(Offers)), timeout=20000)
    before = desk(window).counts()["joined"]
    keys.tab_to(lambda w: text_of(w).startswith("At all 10 alike"), 40)
    keys.key(Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: desk(window).counts()["joined"] == before + 10)
    # a number on the sheet: the first that can be edited, a little more of it
    keys.tab_to(lambda w: w is window.detail.sheet, 40)
    keys.key(Qt.Key.Key_Right)
    keys.key(Qt.Key.Key_Return)
    name = window.detail.sheet.editing
    assert name and isinstance(keys.focus(), QLineEdit)
    keys.type("45" if "pitch" not in name else "75")
    keys.key(Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: any(name in c.settings for c in desk(window).project.connections.values()))
    # a finding and its fix
    keys.key(Qt.Key.Key_4, ALT)
    assert window.rail.current == "Prove"
    window.view.setFocus()
    for _ in range(8):
        keys.key(Qt.Key.Key_N)
        if any(text_of(b).startswith("Fix") and not b.isHidden() for b in window.detail.findChildren(QPushButton)):
            break
    breaches = desk(window).counts()["breach"]
    keys.tab_to(lambda w: text_of(w).startswith("Fix"), 40)
    keys.key(Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: desk(window).counts()["breach"] == breaches - 1)
    # the rest by the office's rules, and the two ends that stop short
    window.view.setFocus()
    keys.join_all()
    keys.key(Qt.Key.Key_2, ALT)
    for _ in range(2):
        keys.search("next end that meets")
        qtbot.waitUntil(lambda: any(o.lengthen is not None for o in window.card.findChildren(Offers)))
        keys.tab_to(lambda w: text_of(w).startswith(("Lengthen ", "Trim ")), 60)
        keys.key(Qt.Key.Key_Space)
        qtbot.waitUntil(lambda: not any(o.lengthen is not None for o in window.card.findChildren(Offers)))
    window.view.setFocus()
    keys.join_all()
    anew = Ledger(desk(window).project, Workshop()).counts()
    assert anew["joined"] == anew["joints"]


def test_the_engineer_s_model_trued_up_split_and_searched(qtbot: QtBot, window: Window, tmp_path: Path) -> None:
    window.set_desk(make_demo("wireframe", tmp_path / "wire.tincleat"))
    window.activateWindow()
    keys = Keys(qtbot, window)
    keys.key(Qt.Key.Key_2, ALT)
    keys.search("true up")
    qtbot.waitUntil(lambda: window.drawer.review.matter is not None)
    table = window.drawer.review.table
    keys.tab_to(lambda w: w is table, 60)
    keys.key(Qt.Key.Key_Down)
    rows = len(table.rows.rows)
    assert rows and table.selected()
    keys.key(Qt.Key.Key_Return)  # the row is left out
    last = desk(window).project.members.copy()
    keys.tab_to(lambda w: isinstance(w, QPushButton) and w.parent() is not None and w in window.drawer.review.findChildren(QPushButton) and any(c.isdigit() for c in text_of(w)), 60)
    keys.key(Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: desk(window).project.members != last)
    keys.key(Qt.Key.Key_Z, CTRL)
    qtbot.waitUntil(lambda: desk(window).project.members == last)
    count = len(desk(window).project.members)
    keys.search("stock lengths")
    qtbot.waitUntil(lambda: window.drawer.review.matter is not None and "tock" in window.drawer.review.matter.title)
    keys.tab_to(lambda w: isinstance(w, QPushButton) and w in window.drawer.review.findChildren(QPushButton) and text_of(w).startswith("Split"), 60)
    keys.key(Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: len(desk(window).project.members) > count)
    # a column of the frame found by a query, its section changed on the card
    keys.key(Qt.Key.Key_F, CTRL)
    keys.key(Qt.Key.Key_A, CTRL)
    keys.type("role:joist")
    keys.key(Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: bool(window.members))
    assert all(desk(window).project.members[m].role == "joist" for m in window.members)
