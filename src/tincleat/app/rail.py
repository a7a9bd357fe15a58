"""The stage rail: five stages of the job with their progress in numbers."""

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtSvg import QSvgRenderer
from PySide6.QtWidgets import QWidget

from tincleat.app.theme import Theme, font

STAGES = ("Frame", "Ready", "Join", "Prove", "Release")
WIDTH, HEIGHT = 96, 76
# line drawings in a 24 px square, made for this program
ICONS = {
    "Frame": "M4 21V6 M20 21V6 M2 6H22 M4 13H20 M2 21H6 M18 21H22",
    "Ready": "M3 17L12 7L21 17 M12 7V21 M7 12.5L12 17.5L17 12.5",
    "Join": "M5 3V21 M9 3V21 M9 8H21 M9 16H21 M12 9.8V14.2 M14.2 12H14.3 M17 12H17.1 M12 12H12.1",
    "Prove": "M4 4H20 M4 4V8 M20 4V8 M12 4V11 M7 15L11 19L18 11",
    "Release": "M5 3H15L19 7V21H5Z M15 3V7H19 M8 12H16 M8 16H13",
}


class Rail(QWidget):
    """Five stages, always in view; one is current."""

    chosen = Signal(str)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.setObjectName("rail")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.theme = theme
        self.current = "Join"
        self.counts: dict[str, tuple[str, str]] = dict.fromkeys(STAGES, ("", ""))
        self.setFixedWidth(WIDTH)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Stages")
        self.setMouseTracking(True)
        self._hover = -1

    def sizeHint(self) -> QSize:
        return QSize(WIDTH, HEIGHT * len(STAGES))

    def set_counts(self, counts: "dict[str, tuple[str, str]]") -> None:
        """Progress lines a stage: the words, and ``breach`` or ``note`` if they call for attention."""
        if counts == self.counts:
            return
        self.counts = counts
        self._tell()
        self.update()

    def _tell(self) -> None:
        self.setAccessibleDescription(f"{self.current} is current. " + "; ".join(f"{s}: {self.counts[s][0] or 'nothing yet'}" for s in STAGES))

    def choose(self, stage: str) -> None:
        """Make a stage current."""
        self.current = stage
        self._tell()
        self.update()
        self.chosen.emit(stage)

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        t = self.theme
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        for i, stage in enumerate(STAGES):
            top = i * HEIGHT + 6
            box = QRectF(0, top, WIDTH - 1, HEIGHT)
            current = stage == self.current
            if current:
                p.fillRect(box, QColor(t.sheet))
                p.fillRect(QRectF(0, top, 3, HEIGHT), QColor(t.accent))
            elif i == self._hover:
                p.fillRect(box, QColor(t.sky))
            colour = t.accent if current else t.tin_dark
            svg = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 24 24"><path d="{ICONS[stage]}" fill="none" stroke="{colour}" stroke-width="1.6" stroke-linecap="round" stroke-linejoin="round"/></svg>'
            QSvgRenderer(svg.encode()).render(p, QRectF(12, top + 10, 22, 22))
            p.setFont(font(9.5, bold=current))
            p.setPen(QColor(t.ink))
            p.drawText(QRectF(40, top + 10, WIDTH - 42, 22), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, stage)
            words, state = self.counts[stage]
            p.setFont(font(8))
            p.setPen(QColor({"breach": t.breach, "note": t.ochre}.get(state, t.quiet)))
            p.drawText(QRectF(12, top + 36, WIDTH - 16, HEIGHT - 40), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap, words)
            if current and self.hasFocus():
                p.setPen(QPen(QColor(t.accent), 1))
                p.drawRect(box.adjusted(1, 1, -1, -1))
        p.end()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        i = int(event.position().y() - 6) // HEIGHT
        if 0 <= i < len(STAGES):
            self.choose(STAGES[i])

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._hover = int(event.position().y() - 6) // HEIGHT
        self.update()

    def leaveEvent(self, event: object) -> None:
        self._hover = -1
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            i = STAGES.index(self.current) + (1 if event.key() == Qt.Key.Key_Down else -1)
            self.choose(STAGES[i % len(STAGES)])
        else:
            super().keyPressEvent(event)
