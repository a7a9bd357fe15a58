"""A restless hand in the real window: ``restless.py [SEED] [SECONDS] [DEMO]`` selects, presses, pulls, types and undoes at random.

Prints what raised, with the steps before it, and at the end whether the project reopens as it was left; exit code 1 if anything raised or
differs.  Wants a display, such as ``xvfb-run -a env QT_QPA_PLATFORM=xcb``.
"""

import random
import sys
import tempfile
import time
import traceback
from collections.abc import Callable
from pathlib import Path
from types import TracebackType

from PySide6.QtCore import QEvent, QPoint, QPointF, QSettings, Qt, QTimer
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QDialog, QFileDialog, QLineEdit, QPushButton, QWidget

from tincleat.app import theme
from tincleat.app.window import Window
from tincleat.commands.desk import Desk
from tincleat.demo.registry import make_demo

LEFT_OUT = ("quit", "print", "open", "save", "close", "new", "export", "help")  # what leaves the project, or asks for files
TYPED = ("12", "150", "-5", "abc", "1/2in", "3@70", "0", "99999", "20,30", "")
BUTTONS = (Qt.MouseButton.LeftButton, Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton, Qt.MouseButton.MiddleButton)
KEYS = (Qt.Key.Key_Escape, Qt.Key.Key_Return, Qt.Key.Key_Left, Qt.Key.Key_F, Qt.Key.Key_5, Qt.Key.Key_Backspace)


class Hand:
    """One hand: what it did, and what raised for it."""

    def __init__(self, window: Window, chance: random.Random) -> None:
        self.window, self.chance = window, chance
        self.did: list[str] = []
        self.raised: list[str] = []
        self.actions = [k for k in window.actions_ if not any(s in k for s in LEFT_OUT)]
        self.deeds: list[tuple[int, Callable[[], None]]] = [(30, self.joints), (8, self.members), (22, self.action), (12, self.drag), (8, self.sheet), (10, self.button), (5, self.key), (5, self.undo)]

    def told(self, kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        """Note what raised."""
        self.raised.append(f"after {'; '.join(self.did[-4:])}\n" + "".join(traceback.format_exception(kind, error, trace))[-1500:])
        print(self.raised[-1], flush=True)

    def step(self) -> None:
        """One deed."""
        try:
            self.chance.choices([d for _, d in self.deeds], [n for n, _ in self.deeds])[0]()
        except Exception as error:
            self.told(type(error), error, error.__traceback__)
        QApplication.processEvents()
        if self.chance.random() < 0.2:
            self.window.escape()
        if self.chance.random() < 0.05:
            QTest.qWait(60)

    def _some(self, all_: list[str]) -> list[str]:
        return self.chance.sample(all_, min(len(all_), self.chance.choice((1, 1, 1, 2, 5))))

    def joints(self) -> None:
        """Select joints."""
        assert self.window.desk is not None
        keys = self._some(list(self.window.desk.ledger.entries))
        self.did.append(f"select {keys}")
        self.window.select(keys, [], self.chance.random() < 0.5)

    def members(self) -> None:
        """Select members."""
        assert self.window.desk is not None
        keys = self._some(list(self.window.desk.project.members))
        self.did.append(f"select {keys}")
        self.window.select([], keys, False)

    def action(self) -> None:
        """Do one of the actions, where it is to be had."""
        name = self.chance.choice(self.actions)
        self.did.append(name)
        self.window.do(name)

    def drag(self) -> None:
        """Press in the model, and pull from there or not."""
        view, c = self.window.view, self.chance
        a, b = (QPoint(c.randint(5, max(6, view.width() - 5)), c.randint(5, max(6, view.height() - 5))) for _ in range(2))
        which = c.choice(BUTTONS)
        self.did.append(f"drag {a.toTuple()} {b.toTuple()} {which.name}")
        none = Qt.MouseButton.NoButton
        far = b if c.random() < 0.6 else a
        for kind, at, one, held in ((QEvent.Type.MouseMove, a, none, none), (QEvent.Type.MouseButtonPress, a, which, which), (QEvent.Type.MouseMove, far, none, which), (QEvent.Type.MouseButtonRelease, far, which, none)):
            QApplication.sendEvent(view, QMouseEvent(kind, QPointF(at), view.mapToGlobal(QPointF(at)), one, held, Qt.KeyboardModifier.NoModifier))

    def sheet(self) -> None:
        """Click something on the sheet, and type where that opens a field."""
        sheet = self.window.detail.sheet
        if not sheet.isVisible() or sheet.drawing is None:
            return
        spots = [(s.x, s.y) for some in (sheet.drawing.handles, sheet.drawing.dimensions, sheet.drawing.switches) for s in some]
        if not spots:
            return
        at = sheet._at(*self.chance.choice(spots))
        self.did.append(f"sheet {at.toTuple()}")
        QTest.mouseClick(sheet, Qt.MouseButton.LeftButton, pos=at.toPoint())
        field = QApplication.focusWidget()
        if isinstance(field, QLineEdit):
            field.setText(self.chance.choice(TYPED))
            self.did.append(f"type {field.text()!r}")
            QTest.keyClick(field, Qt.Key.Key_Return)
            QTest.keyClick(field, Qt.Key.Key_Escape)

    def button(self) -> None:
        """Press a button of the panel, the drawer or the action line."""
        root: QWidget = self.chance.choice((self.window.panel, self.window.drawer, self.window.action_line))
        some = [b for b in root.findChildren(QPushButton) if b.isVisible() and b.isEnabled()]
        if some:
            one = self.chance.choice(some)
            self.did.append(f"press {one.text() or one.accessibleName()}")
            one.click()

    def key(self) -> None:
        """A key in the model."""
        self.did.append("key")
        QTest.keyClick(self.window.view, self.chance.choice(KEYS))

    def undo(self) -> None:
        """Back, or forth."""
        self.did.append("undo or redo")
        self.window.do(self.chance.choice(("undo", "undo", "redo")))


def close_what_asks() -> None:
    """Leave a dialog or a menu: nobody is there to answer."""
    modal, popup = QApplication.activeModalWidget(), QApplication.activePopupWidget()
    if isinstance(modal, QDialog):
        modal.reject()
    elif modal is not None:
        modal.close()
    if popup is not None:
        popup.close()


def main() -> int:
    """Let the hand work; exit code 1 if anything raised, or the project reopens otherwise."""
    seed, seconds = int(sys.argv[1]) if len(sys.argv) > 1 else 1, float(sys.argv[2]) if len(sys.argv) > 2 else 120.0
    app = QApplication([])
    theme.load_fonts()
    theme.apply(app, theme.THEMES["light"])
    for ask, none in (("getOpenFileName", ("", "")), ("getSaveFileName", ("", "")), ("getExistingDirectory", "")):
        setattr(QFileDialog, ask, staticmethod(lambda *_, none=none, **__: none))
    folder = Path(tempfile.mkdtemp())
    window = Window(theme.THEMES["light"], QSettings(str(folder / "s.ini"), QSettings.Format.IniFormat))
    window.boxes = False
    window.resize(1280, 800)
    window.show()
    path = folder / "d.tincleat"
    make_demo(sys.argv[3] if len(sys.argv) > 3 else "boathouse-joined", path)
    window.set_desk(Desk.open(path))
    hand = Hand(window, random.Random(seed))
    sys.excepthook = hand.told
    timer = QTimer()
    timer.timeout.connect(close_what_asks)
    timer.start(120)
    start, steps = time.monotonic(), 0
    while time.monotonic() - start < seconds and window.desk is not None:
        hand.step()
        steps += 1
    window.escape()
    QTest.qWait(1500)
    assert window.desk is not None
    left, there = {t: dict(rows) for t, rows in window.desk.project.tables.items()}, window.desk.store.path
    window.desk.close()
    again = {t: dict(rows) for t, rows in Desk.open(there).project.tables.items()}
    for table in left:
        if left[table] != again[table]:
            print(f"{table}: {len(left[table])} left, {len(again[table])} reopened, {sum(left[table].get(k) != again[table].get(k) for k in left[table] | again[table])} differ")
    print(f"{steps} steps, {len(hand.raised)} raised; reopened {'as it was left' if again == left else 'OTHERWISE'}")
    return 0 if not hand.raised and again == left else 1


if __name__ == "__main__":
    sys.exit(main())
