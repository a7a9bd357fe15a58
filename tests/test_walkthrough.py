"""How much has to be done by hand: a demo joined whole in the real window, every press of a key and of the mouse counted."""

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtWidgets import QApplication, QFileDialog, QPushButton, QWidget
from pytestqt.qtbot import QtBot
from test_window import desk, window

from tincleat.app.fields import Choice
from tincleat.app.joining import JoiningDialog
from tincleat.app.offers import OfferCard, Offers
from tincleat.app.window import Window
from tincleat.demo.registry import make_demo
from tincleat.exchange.ifc import export_ifc
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

    def type(self, widget: QWidget, text: str) -> None:
        """Letters one by one, then Enter."""
        for letter in text:
            self.presses += 1
            self.qtbot.keyClicks(widget, letter)
        self.presses += 1
        self.qtbot.keyClick(widget, Qt.Key.Key_Return)

    def at(self, point: np.ndarray) -> None:
        """A click on the model where a point of it is seen."""
        self.presses += 1
        x, y, _ = self.window.view.camera.project(point[None])[0]
        self.qtbot.mouseClick(self.window.view, Qt.MouseButton.LeftButton, pos=QPoint(round(x), round(y)))

    def row(self, words: str) -> None:
        """A click on a row of the ledger."""
        table = self.window.drawer.ledger_table
        model = table.model()
        for i in range(model.rowCount()):
            index = model.index(i, 1)
            if model.data(index) == words:
                table.scrollTo(index)
                self.presses += 1
                self.qtbot.mouseClick(table.viewport(), Qt.MouseButton.LeftButton, pos=table.visualRect(index).center())
                return
        raise AssertionError(words)

    def action(self, name: str) -> None:
        """A button of the action line."""
        found = [b for b in self.window.action_line.findChildren(QPushButton) if b.property("action") == name]
        self.qtbot.waitUntil(lambda: any(b.isVisible() for b in found))
        self.click(next(b for b in found if b.isVisible()))

    def join_all(self) -> None:
        """Ctrl+J, and *Join all* once the rules were tried."""

        def press() -> None:
            dialog = next((w for w in QApplication.topLevelWidgets() if isinstance(w, JoiningDialog) and w.isVisible()), None)
            if dialog is None:  # a machine that is slow to open it
                QTimer.singleShot(200, press)
                return
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


def test_the_wireframe_is_joined_from_its_ifc_in_under_sixty_presses(qtbot: QtBot, window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """From the start card to no open end: import, true up, what analysis has that is not built, then all by rules.  Letters typed count too."""
    theirs = make_demo("wireframe", tmp_path / "wire.tincleat")
    source = export_ifc(theirs.ledger, tmp_path / "shelter.ifc")
    theirs.close()
    window.set_desk(None)
    hand = Hand(qtbot, window)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(source), ""))

    def named(start: str) -> QPushButton:
        return next(b for b in window.findChildren(QPushButton) if b.text().startswith(start) and b.isVisible())

    hand.click(named("New project from an engineer"))
    qtbot.waitUntil(lambda: window.job is None and window.desk is not None, timeout=60000)
    hand.click(named("Take in 215 members"))
    d = desk(window)
    assert len(d.project.members) == 215 and window.rail.current == "Ready"
    hand.action("true-up")
    hand.click(window.drawer.review.go)
    # the gangway's posts are bars of its webs: the joints take them as braces
    hand.click(window.drawer.search)
    hand.type(window.drawer.search, "size:L70*")
    assert len(window.members) == 14
    role = next(c for c in window.card.findChildren(Choice) if c.accessibleName() == "Role")
    hand.click(role)
    hand.type(role.view(), "br")
    qtbot.waitUntil(lambda: window.drawer.review.matter is not None)
    hand.click(window.drawer.review.go)
    assert sum(m.role == "brace" for m in d.project.members.values()) == 49
    # two beams end short of what carries them
    for _ in range(12):
        if d.counts()["apart"] <= 10:
            break
        hand.action("next-open-end")
        found = [o.lengthen for o in window.card.findChildren(Offers) if o.lengthen is not None]
        if found and found[0] is not None:
            hand.click(found[0])
    # a bar over the ridge that only the analysis needs, and one that was forgotten: nothing is near it
    for name in ("ridge", "HP3"):
        m = next(m for m in d.project.members.values() if m.name == name)
        hand.at(np.array(m.start) + (np.array(m.end) - np.array(m.start)) * 0.13)
        assert window.members == [m.id], (name, window.members)
        hand.key(Qt.Key.Key_Delete)
    hand.join_all()
    # what is left are the ends of the gangway's chords, which are meant to be plain
    left = [e for e in d.ledger.entries.values() if not e.settled]
    assert {e.joint.words for e in left} == {"UC 152x152x23 end meets nothing"}
    hand.row("UC 152x152x23 end meets nothing")
    qtbot.waitUntil(lambda: any(c.offer.family == "left-plain" and c.isVisible() for c in window.card.findChildren(OfferCard)))  # offers come one by one
    hand.click(next(c for c in window.card.findChildren(OfferCard) if c.offer.family == "left-plain").buttons[1])
    anew = Ledger(d.project, Workshop()).counts()
    assert anew["joined"] == anew["joints"] > 340 and hand.presses == 42 < 60
