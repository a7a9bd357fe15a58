"""How much has to be done by hand: a demo joined whole in the real window, every press of a key and of the mouse counted."""

from typing import Any

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QApplication, QPushButton, QWidget
from pytestqt.qtbot import QtBot
from test_window import desk, window

from tincleat.app.joining import JoiningDialog
from tincleat.app.offers import Offers
from tincleat.app.window import Window
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.made import Workshop

assert window  # the fixture


class Hand:
    """What a user's hand does: nothing but presses of keys (with others held, or alone) and clicks on what can be seen."""

    def __init__(self, qtbot: QtBot, window: Window) -> None:
        self.qtbot, self.window, self.presses = qtbot, window, 0

    def key(self, key: Qt.Key, held: Any = Qt.KeyboardModifier.NoModifier) -> None:
        self.presses += 1
        self.qtbot.keyClick(self.window, key, held)
        self.window.activateWindow()
        self.qtbot.waitUntil(self.window.isActiveWindow)

    def click(self, widget: QWidget) -> None:
        assert widget.isVisible() and widget.isEnabled()
        self.presses += 1
        self.qtbot.mouseClick(widget, Qt.MouseButton.LeftButton)

    def action(self, name: str) -> None:
        """A button of the action line."""
        self.click(next(b for b in self.window.action_line.findChildren(QPushButton) if b.property("action") == name))

    def join_all(self) -> None:
        """Ctrl+J, and *Join all* once the rules were tried."""

        def press() -> None:
            dialog = next(w for w in QApplication.topLevelWidgets() if isinstance(w, JoiningDialog) and w.isVisible())
            self.qtbot.waitUntil(lambda: dialog.go.isEnabled(), timeout=60000)
            self.click(dialog.go)

        QTimer.singleShot(200, press)
        self.key(Qt.Key.Key_J, Qt.KeyboardModifier.ControlModifier)


def test_the_boathouse_is_joined_to_the_last_end_in_a_few_presses(qtbot: QtBot, window: Window) -> None:
    hand = Hand(qtbot, window)
    assert desk(window).counts()["joined"] == 62
    hand.join_all()
    assert desk(window).counts()["joined"] == 195
    hand.key(Qt.Key.Key_2, Qt.KeyboardModifier.AltModifier)
    assert window.rail.current == "Ready"
    for words in ("Lengthen ", "Trim "):  # two beams stop short of their columns, one of them over a column's leaning head
        hand.action("next-open-end")
        qtbot.waitUntil(lambda: any(o.lengthen is not None for o in window.card.findChildren(Offers)))
        go = next(o.lengthen for o in window.card.findChildren(Offers) if o.lengthen is not None)
        assert go is not None and go.text().startswith(words)
        hand.click(go)
        qtbot.waitUntil(lambda: not any(o.lengthen is not None for o in window.card.findChildren(Offers)))
    assert desk(window).counts()["apart"] == 0
    hand.join_all()
    anew = Ledger(desk(window).project, Workshop()).counts()
    assert anew["joined"] == anew["joints"] and anew["breach"] == 4  # all settled; the four that the demo is shown by
    assert hand.presses == 9 < 40
