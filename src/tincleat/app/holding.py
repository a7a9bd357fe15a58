"""What is taken hold of in a picture, a sheet or the model: pulled by whole steps, or by distances that are typed."""

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, QPointF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen
from PySide6.QtWidgets import QWidget

from tincleat.app.fields import Field
from tincleat.app.theme import Theme, font
from tincleat.release.drawing import HandleSpot

HALF = 3.5  # pixels of a handle to either side
NEAR = 9  # pixels from a handle that still take it
STILL = 4  # pixels that a hand may move and still click
SIZE = (90, 26)  # pixels of the field for a distance


class Holding(QObject):
    """The one handle held in a picture ``on`` a widget; ``place`` says where a handle lies there, ``shift`` how far a way of the pointer goes
    in the measure of the handles' pulls."""

    pulled = Signal(object, object, bool)  # a handle, how far it is pulled each of its ways (mm), and whether it is let go there
    typed = Signal(object, str, bool)  # a handle, the distances typed for it, and whether that is all
    dropped = Signal()

    def __init__(self, on: QWidget, place: Callable[[HandleSpot], QPointF], shift: Callable[[QPointF], tuple[float, float]]) -> None:
        super().__init__(on)
        self._on, self._place, self._shift = on, place, shift
        self.step = 5.0  # mm that a pull by the pointer goes by
        self.held: HandleSpot | None = None
        self._from = QPointF()
        self._pull: tuple[float, ...] = ()
        self.distance = Field(on)
        self.distance.hide()
        self.distance.setAccessibleName("Distance to pull")
        self.distance.setFont(font(9, mono=True))
        self.distance.textEdited.connect(lambda text: self.typed.emit(self.held, text, False))
        self.distance.returnPressed.connect(lambda: self.typed.emit(self.held, self.distance.text(), True))
        self.distance.left.connect(self.let_go)
        self.distance.installEventFilter(self)

    def at(self, spots: "list[HandleSpot]", at: QPointF) -> HandleSpot | None:
        """The handle under the pointer."""
        far, i = min((((self._place(h) - at).manhattanLength(), i) for i, h in enumerate(spots)), default=(99.0, 0))
        return spots[i] if far < NEAR else None

    def take(self, handle: HandleSpot, at: QPointF) -> None:
        """Take hold; what is meant, a pull or a click, is known when the button is let go."""
        self.let_go()
        self.held, self._from, self._pull = handle, at, ()
        self._on.setFocus()
        self._on.update()

    @property
    def free(self) -> bool:
        """Whether what is held follows the pointer: something is, and no distance is being typed."""
        return self.held is not None and self.distance.isHidden()

    def follow(self, at: QPointF) -> None:
        """Pull what is held to a place, by whole steps."""
        assert self.held is not None
        new = tuple(round(v / self.step) * self.step + 0.0 for v in self.held.pulled(*self._shift(at - self._from)))
        if new != self._pull:
            self._pull = new
            self.pulled.emit(self.held, new, False)

    def release(self, at: QPointF) -> bool:
        """Let the button go; True where it was a click, which the owner answers."""
        held, pull = self.held, self._pull
        if held is None or not self.distance.isHidden():
            return False
        if any(pull):
            self.forget()
            self.pulled.emit(held, pull, True)
        elif not pull and (at - self._from).manhattanLength() < STILL:
            return True
        else:
            self.let_go()
        return False

    def ask(self, text: str = "") -> None:
        """Open the field in which the distance is typed that a handle is pulled."""
        assert self.held is not None
        at, on, (wide, tall) = self._place(self.held), self._on, SIZE
        self.distance.setGeometry(min(max(2, int(at.x()) + 8), on.width() - wide - 2), min(max(2, int(at.y()) - tall - 4), on.height() - tall - 2), wide, tall)
        self.set_bad("")
        self.distance.setToolTip("How far: of a corner or a whole part the two distances, parted by a comma")
        self.distance.setText(text)
        self.distance.show()
        self.distance.setFocus()
        if text:
            self.typed.emit(self.held, text, False)

    def set_bad(self, message: str) -> None:
        """Show that the distance typed so far cannot be used, and why."""
        self.distance.setProperty("bad", bool(message))
        self.distance.style().polish(self.distance)
        self.distance.setToolTip(message)

    def forget(self) -> None:
        """Hold nothing any more, without a word."""
        self.held, self._pull = None, ()

    def let_go(self) -> None:
        """Forget what is held; the owner shows the detail as it is."""
        if self.held is None:
            return
        self.forget()
        if self.distance.hasFocus():
            self._on.setFocus()
        self.distance.hide()
        self.dropped.emit()

    def wants(self, event: QEvent) -> bool:
        """Whether a key belongs to what is held and not to a shortcut: Esc, and the letters of a distance."""
        return self.held is not None and isinstance(event, QKeyEvent) and (event.key() == Qt.Key.Key_Escape or _begins(event))

    def key(self, event: QKeyEvent) -> bool:
        """Esc lets go, a digit opens the field; False for any other key."""
        if self.held is None or not (event.key() == Qt.Key.Key_Escape or _begins(event)):
            return False
        if event.key() == Qt.Key.Key_Escape:
            self.let_go()
        else:
            self.ask(event.text())
        return True

    def paint(self, painter: QPainter, spots: "list[HandleSpot]", theme: Theme) -> None:
        """Small squares at the handles, the one held filled."""
        for handle in spots:
            at = self._place(handle)
            hot = self.held is not None and handle.words == self.held.words and [r for _, r in handle.pulls] == [r for _, r in self.held.pulls]
            painter.setPen(QPen(QColor(theme.accent if hot else theme.slate), 1.2))
            painter.setBrush(QColor(theme.accent if hot else theme.sheet))
            painter.drawRect(int(at.x() - HALF), int(at.y() - HALF), int(2 * HALF), int(2 * HALF))
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.distance and event.type() == QEvent.Type.FocusOut and not self.distance.isHidden():
            self.let_go()
        return super().eventFilter(watched, event)


def _begins(event: QKeyEvent) -> bool:
    """Whether a key begins a distance."""
    return bool(event.text()) and (event.text().isdigit() or event.text() in "-.(")
