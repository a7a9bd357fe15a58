"""The detail sheet on screen: click a dimension, type, and the model follows; zoom, pan, fit, print, copy."""

import numpy as np
from PySide6.QtCore import QEvent, QLineF, QObject, QPoint, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QBrush,
    QColor,
    QContextMenuEvent,
    QEnterEvent,
    QGuiApplication,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtPrintSupport import QPrintDialog, QPrinter
from PySide6.QtWidgets import QToolTip, QWidget

from tincleat.app.fields import Field
from tincleat.app.holding import Holding
from tincleat.app.marks import draw_mark
from tincleat.app.theme import Theme, font, pixel_font
from tincleat.geometry.frames import Array
from tincleat.release.drawing import DimensionText, Drawing, HandleSpot, SwitchSpot

PX_PER_MM = 3.9


HOW = "Dimensioned drawing of the detail. Arrow keys go from number to number, Enter edits one, the menu key says where it comes from."


def pens(t: Theme) -> "dict[str, tuple[str, float, list[float] | None]]":
    """Colour, width and dashes of a sheet's lines by what they are."""
    return {
        "part": (t.accent, 1.5, None), "member": (t.ink, 1.1, None), "bolt": (t.slate, 1.1, None), "rod": (t.slate, 1.0, None), "hidden": (t.edge, 0.8, [4.0, 3.0]),
        "centre": (t.slate, 0.7, [9.0, 2.5, 1.5, 2.5]), "dimension": (t.tin_dark, 0.8, None), "weld": (t.weld, 1.0, None), "concrete": (t.edge, 0.8, None),
    }  # fmt: skip


class SheetView(QWidget):
    """Paints a drawing; asks for edits of the setting behind a dimension."""

    menu_asked = Signal(object, object)  # a dimension, where on the screen
    asked = Signal(str)  # a dimension's setting was clicked
    typing = Signal(str, str)  # setting, text so far
    entered = Signal(str, str)
    abandoned = Signal(str)
    stepped = Signal(str, str, int)
    spot_clicked = Signal(str)
    switched = Signal(str, int)  # a setting that lists what is left out, and a number to put there or take away

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme = theme
        self.holding = Holding(self, lambda h: self._at(h.x, h.y), lambda way: (way.x() / self._scale(), -way.y() / self._scale()))
        self.holding.dropped.connect(lambda: self.abandoned.emit(""))
        self.drawing: Drawing | None = None
        self._pieces: dict[str, Array] = {}  # lines of the drawing by style
        self.moves: tuple[Array, Array] | None = None  # lines that a setting moves, as they lie and as they would
        self.told_moves = ""
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumHeight(260)
        self.setAccessibleName("Detail sheet")
        self.setAccessibleDescription(HOW)
        self.zoom, self.shift = 1.0, QPointF(0, 0)
        self._drag: QPointF | None = None
        self._hover: DimensionText | None = None
        self._current = -1
        self.editing = ""
        self.field = Field(self)
        self.field.hide()
        self.field.setAccessibleName("Dimension value")
        self.field.setFont(font(9, mono=True))
        self.field.textEdited.connect(lambda text: self.typing.emit(self.editing, text))
        self.field.returnPressed.connect(self._enter)
        self.field.left.connect(self._leave)
        self.field.stepped.connect(lambda way: self.stepped.emit(self.editing, self.field.text(), way))
        self.field.installEventFilter(self)

    def paper_size(self) -> tuple[float, float]:
        """Paper that fills the widget, mm."""
        return self.width() / PX_PER_MM, self.height() / PX_PER_MM

    def show_drawing(self, drawing: Drawing | None) -> None:
        """Show another drawing (or nothing)."""
        self.drawing = drawing
        groups: dict[str, list[Array]] = {}
        for lines in drawing.lines if drawing is not None else ():
            groups.setdefault(lines.style, []).append(lines.pieces)
        # put together once a drawing: what costs is the number of strokes of the pen
        self._pieces = {style: np.concatenate(some) for style, some in groups.items()}
        self._hover = None
        self.moves, self.told_moves = None, ""
        told = dict.fromkeys(f"{d.setting.replace('_', ' ')} {d.text}{' ' + d.required if d.required else ''}" for d in drawing.dimensions if d.setting) if drawing is not None else {}
        self.setAccessibleDescription(f"{HOW} " + ("; ".join(told) if told else "No numbers to edit."))
        self.update()

    def show_moves(self, lines: tuple[Array, Array] | None, words: str) -> None:
        """Mark what another value of a setting would move, on the paper as it lies and as it would, with words; nothing if there are none."""
        self.moves, self.told_moves = lines, words
        self.update()

    def fit(self) -> None:
        """Back to the whole sheet."""
        self.zoom, self.shift = 1.0, QPointF(0, 0)
        self._place_field()
        self.update()

    def _scale(self) -> float:
        return PX_PER_MM * self.zoom

    def _at(self, x: float, y: float) -> QPointF:
        assert self.drawing is not None
        s = self._scale()
        return QPointF(x * s, (self.drawing.height - y) * s) + self.shift

    # --- painting --------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(self.theme.sheet))
        if self.drawing is not None:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            if self.moves is not None:
                self._strokes(painter, self.moves[0], QPen(QColor(self.theme.accent_soft), 7, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            self._paint(painter, self._scale(), True)
            if self.moves is not None:
                self._strokes(painter, self.moves[1], QPen(QColor(self.theme.accent), 1.3, Qt.PenStyle.DashLine, Qt.PenCapStyle.FlatCap))
            if self.told_moves:
                painter.setFont(font(9))
                painter.setPen(QColor(self.theme.accent))
                box = painter.fontMetrics().boundingRect(self.told_moves).adjusted(-4, -2, 4, 2)
                box.moveBottomLeft(QPoint(6, self.height() - 3))
                painter.fillRect(box, QColor(self.theme.sheet))
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, self.told_moves)
        if self.hasFocus():
            painter.setPen(QPen(QColor(self.theme.accent), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
        painter.end()

    def _pen(self, style: str, s: float) -> QPen:
        colour, width, dash = pens(self.theme).get(style, (self.theme.ink, 1.0, None))
        pen = QPen(QColor(colour), width * max(1.0, min(2.0, s / PX_PER_MM)))
        if dash:
            pen.setDashPattern(dash)
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        return pen

    def _paint(self, painter: QPainter, s: float, handles: bool = False) -> None:
        d = self.drawing
        assert d is not None
        for fill in d.fills:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QBrush(QColor(self.theme.concrete)))
            painter.drawPolygon(QPolygonF([self._at(x, y) for x, y in fill.corners]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for style, pieces in self._pieces.items():
            self._strokes(painter, pieces, self._pen(style, s))
        for c in d.circles:
            painter.setPen(self._pen(c.style, s))
            painter.setBrush(QBrush(QColor(self.theme.weld)) if c.style == "weld" and c.radius < 0.8 else Qt.BrushStyle.NoBrush)  # an arrow's dot; all round is a ring
            painter.drawEllipse(self._at(c.x, c.y), c.radius * s, c.radius * s)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for text in d.texts:
            painter.setFont(pixel_font(max(7, round(text.height * 1.38 * s)), text.strong))
            painter.setPen(QColor(self.theme.ink if text.strong else self.theme.quiet))
            self._text(painter, text.text, text.x, text.y, text.anchor, text.over)
        for i, dim in enumerate(d.dimensions):
            self._paint_dimension(painter, dim, s, i == self._current)
        for switch in d.switches:  # what is left out can be taken in again: a small cross
            if not switch.on:
                painter.setPen(QPen(QColor(self.theme.quiet), 1.2))
                at = self._at(switch.x, switch.y)
                for way in (1.0, -1.0):
                    painter.drawLine(at + QPointF(-4, -4 * way), at + QPointF(4, 4 * way))
        if handles and (self.underMouse() or self.holding.held is not None):
            self.holding.paint(painter, d.handles, self.theme)
        for spot in d.spots:
            draw_mark(painter, self._at(spot.x, spot.y), spot.level, self.theme, 4.5)

    def _strokes(self, painter: QPainter, pieces: Array, pen: QPen) -> None:
        """Lines on the paper (k, 4)."""
        assert self.drawing is not None
        s, shift = self._scale(), self.shift
        flat, foot = pieces * s, self.drawing.height * s + shift.y()
        flat = np.column_stack([flat[:, 0] + shift.x(), foot - flat[:, 1], flat[:, 2] + shift.x(), foot - flat[:, 3]])
        painter.setPen(pen)
        painter.drawLines([QLineF(*row) for row in flat.tolist()])

    def _text(self, painter: QPainter, text: str, x: float, y: float, anchor: str, over: bool = False) -> QRectF:
        at = self._at(x, y)
        width = painter.fontMetrics().horizontalAdvance(text)
        tall = painter.fontMetrics().height()
        left = at.x() - {"left": 0.0, "middle": width / 2, "right": float(width)}[anchor]
        box = QRectF(left, at.y() - tall / 2, width + 1, tall)
        if over:
            painter.fillRect(box.adjusted(-1, tall * 0.15, 1, -tall * 0.15), QColor(self.theme.sheet))
        painter.drawText(box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, text)
        return box

    def _box(self, dim: DimensionText) -> QRectF:
        s = self._scale()
        at = self._at(dim.x, dim.y)
        pixels = max(7, round(dim.height * 1.3 * s))
        width = len(dim.text + (" " + dim.required if dim.required else "")) * pixels * 0.6 + 4
        left = at.x() - {"left": 2.0, "middle": width / 2, "right": width - 2}[dim.anchor]
        return QRectF(left, at.y() - pixels * 0.72, width, pixels * 1.44)

    def _paint_dimension(self, painter: QPainter, dim: DimensionText, s: float, current: bool) -> None:
        painter.setFont(pixel_font(max(7, round(dim.height * 1.3 * s)), bool(dim.required)))
        box = self._box(dim)
        hot = dim is self._hover or dim.setting == self.editing != ""
        painter.fillRect(box.adjusted(2, 2, -2, -2), QColor(self.theme.accent_soft if (hot and dim.setting) else self.theme.sheet))
        colour = self.theme.breach if dim.required else self.theme.slate if dim.setting else self.theme.quiet
        painter.setPen(QColor(colour))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, dim.text + (" " + dim.required if dim.required else ""))
        if current and self.hasFocus():
            painter.setPen(QPen(QColor(self.theme.accent), 1.2))
            painter.drawRect(box)

    # --- hand ------------------------------------------------------------------

    def _dimension_at(self, at: QPointF) -> DimensionText | None:
        if self.drawing is None:
            return None
        return next((d for d in self.drawing.dimensions if d.setting and self._box(d).adjusted(-3, -2, 3, 2).contains(at)), None)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            self.shift += event.position() - self._drag
            self._drag = event.position()
            self._place_field()
            self.update()
            return
        if self.holding.free and event.buttons() & Qt.MouseButton.LeftButton:
            self.holding.follow(event.position())
            return
        found = self._dimension_at(event.position())
        if found is not self._hover:
            self._hover = found
            self.setCursor(Qt.CursorShape.IBeamCursor if found else Qt.CursorShape.ArrowCursor)
            self.update()
        spot = self._spot_at(event.position())
        switch = self._switch_at(event.position()) if spot is None and found is None else None
        handle = self._handle_at(event.position()) if spot is None and found is None and switch is None else None
        if switch is not None:
            self.setCursor(Qt.CursorShape.PointingHandCursor)
        elif handle is not None:
            self.setCursor(Qt.CursorShape.SizeAllCursor)
        elif found is None:
            self.setCursor(Qt.CursorShape.ArrowCursor)
        told = f"{switch.words}: click to {'leave it out' if switch.on else 'take it in again'}" if switch is not None else f"{handle.words}: pull it, or click and type how far" if handle is not None else ""
        text = spot.words if spot else "; ".join(filter(None, (found.other, found.raw))) if found else told
        if text:
            QToolTip.showText(event.globalPosition().toPoint(), text, self)
        else:
            QToolTip.hideText()

    def _spot_at(self, at: QPointF):  # type: ignore[no-untyped-def]
        if self.drawing is None:
            return None
        return next((s for s in self.drawing.spots if (self._at(s.x, s.y) - at).manhattanLength() < 9), None)

    def _switch_at(self, at: QPointF) -> SwitchSpot | None:
        """The place under the pointer that can be left out or taken in."""
        near = [((self._at(s.x, s.y) - at).manhattanLength(), i) for i, s in enumerate(self.drawing.switches)] if self.drawing is not None else []
        far, i = min(near, default=(99.0, 0))
        return self.drawing.switches[i] if far < 9 and self.drawing is not None else None

    def _handle_at(self, at: QPointF) -> HandleSpot | None:
        """The handle under the pointer."""
        return self.holding.at(self.drawing.handles, at) if self.drawing is not None else None

    def _clicked(self, at: QPointF) -> None:
        """A handle was clicked and not pulled: a mark or a place that lies there too is meant, else the distance is asked for."""
        spot, switch = self._spot_at(at), self._switch_at(at)
        if spot is None and switch is None:
            self.holding.ask()
            return
        self.holding.forget()
        if spot is not None:
            self.spot_clicked.emit(spot.key)
        elif switch is not None:
            self.switched.emit(switch.setting, switch.number)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """Ask what there is to say and do of the number under the pointer, or of the one the keyboard is on."""
        if event.reason() == QContextMenuEvent.Reason.Mouse:
            found, at = self._dimension_at(QPointF(event.pos())), event.globalPos()
        else:
            dims = self.drawing.dimensions if self.drawing else []
            found = dims[self._current] if 0 <= self._current < len(dims) else None
            at = self.mapToGlobal(self._box(found).center().toPoint()) if found is not None else event.globalPos()
        if found is not None and found.setting:
            self.menu_asked.emit(found, at)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.RightButton:
            return
        found = self._dimension_at(event.position())
        spot = self._spot_at(event.position())
        if event.button() == Qt.MouseButton.LeftButton and found is not None:
            self.begin(found)
        elif event.button() == Qt.MouseButton.LeftButton and (handle := self._handle_at(event.position())) is not None:
            self.holding.take(handle, event.position())
        elif event.button() == Qt.MouseButton.LeftButton and spot is not None:
            self.spot_clicked.emit(spot.key)
        elif event.button() == Qt.MouseButton.LeftButton and (switch := self._switch_at(event.position())) is not None:
            self.switched.emit(switch.setting, switch.number)
        else:
            self.holding.let_go()
            if self.editing:
                self._leave()
            self._drag = event.position()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._drag = None
        if event.button() == Qt.MouseButton.LeftButton and self.holding.release(event.position()):
            self._clicked(event.position())

    def leaveEvent(self, event: QEvent) -> None:
        self.update()  # handles show under the pointer only

    def enterEvent(self, event: QEnterEvent) -> None:
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self._dimension_at(event.position()) is None:
            self.fit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        self._zoom(1.001 ** event.angleDelta().y(), event.position())

    def _zoom(self, factor: float, at: QPointF) -> None:
        new = max(0.5, min(12.0, self.zoom * factor))
        self.shift = at - (at - self.shift) * (new / self.zoom)
        self.zoom = new
        self._place_field()
        self.update()

    def event(self, event: QEvent) -> bool:
        # Esc lets go of what is held; else it belongs to the window
        if event.type() == QEvent.Type.ShortcutOverride and self.holding.wants(event):
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        dims = [i for i, d in enumerate(self.drawing.dimensions) if d.setting] if self.drawing else []
        middle = QPointF(self.width() / 2, self.height() / 2)
        key = event.key()
        if self.holding.key(event):
            pass
        elif dims and key in (Qt.Key.Key_Right, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Up):
            step = 1 if key in (Qt.Key.Key_Right, Qt.Key.Key_Down) else -1
            place = dims.index(self._current) + step if self._current in dims else 0
            self._current = dims[place % len(dims)]
            self.update()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._current in dims and self.drawing:
            self.begin(self.drawing.dimensions[self._current])
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
            self._zoom(1.2, middle)
        elif key == Qt.Key.Key_Minus:
            self._zoom(1 / 1.2, middle)
        elif key == Qt.Key.Key_0:
            self.fit()
        else:
            super().keyPressEvent(event)

    def resizeEvent(self, event: QResizeEvent) -> None:
        self.shift = QPointF(0, 0)

    # --- editing ---------------------------------------------------------------

    def begin(self, dim: DimensionText) -> None:
        """Open the field on a dimension; the owner fills in the setting's text."""
        self.editing = dim.setting
        self._edited = dim
        self.field.setProperty("bad", False)
        self._place_field()
        self.field.show()
        self.field.setFocus()
        self.asked.emit(dim.setting)
        self.field.selectAll()

    def set_bad(self, message: str) -> None:
        """Show that the text typed so far cannot be used, and why."""
        self.field.setProperty("bad", bool(message))
        self.field.style().polish(self.field)
        self.field.setToolTip(message)

    def _place_field(self) -> None:
        if self.editing:
            box = self._box(self._edited)
            width = max(86, int(box.width()) + 30)
            left = min(max(2, int(box.center().x() - width / 2)), self.width() - width - 2)
            self.field.setGeometry(left, min(max(2, int(box.center().y()) - 13), self.height() - 28), width, 26)

    def _enter(self) -> None:
        setting, text = self.editing, self.field.text()
        self.entered.emit(setting, text)

    def _leave(self) -> None:
        setting = self.editing
        self.finish()
        if setting:
            self.abandoned.emit(setting)

    def finish(self) -> None:
        """Close the field; the focus goes to the sheet only from there."""
        had = self.field.hasFocus()
        self.editing = ""
        if had:
            self.setFocus()
        self.field.hide()
        self.update()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.field and event.type() == QEvent.Type.FocusOut and self.editing:
            self._leave()
        return super().eventFilter(watched, event)

    # --- out -------------------------------------------------------------------

    def picture(self, scale: float = 3.0) -> QImage:
        """The sheet as a picture."""
        image = QImage(int(self.width() * scale), int(self.height() * scale), QImage.Format.Format_RGB32)
        image.setDevicePixelRatio(scale)
        image.fill(QColor(self.theme.sheet))
        keep = (self.zoom, self.shift)
        self.zoom, self.shift = 1.0, QPointF(0, 0)
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.drawing is not None:
            self._paint(painter, self._scale())
        painter.end()
        self.zoom, self.shift = keep
        return image

    def copy(self) -> None:
        """Put the picture on the clipboard."""
        QGuiApplication.clipboard().setImage(self.picture())

    def print_(self) -> None:
        """Print the sheet."""
        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        dialog = QPrintDialog(printer, self)
        if dialog.exec() and self.drawing is not None:
            painter = QPainter(printer)
            page = printer.pageRect(QPrinter.Unit.DevicePixel)
            image = self.picture(4.0)
            fit = min(page.width() / image.width(), page.height() / image.height())
            painter.drawImage(QRectF(0, 0, image.width() * fit, image.height() * fit), image)
            painter.end()
