"""State marks by shape first, colour second."""

import math
from functools import lru_cache

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QIcon, QPainter, QPen, QPixmap, QPolygonF

from tincleat.app.theme import Theme

WORDS = {"open": "unjoined", "plain": "left plain", "clear": "clear", "concession": "accepted", "note": "note", "breach": "breach", "": ""}


HALO = 1.4  # pixels of the sheet's colour round a mark in the model: against steel of any shade it is seen by that


def _halo(painter: QPainter, at: QPointF, state: str, theme: Theme, r: float) -> None:
    x, y = at.x(), at.y()
    painter.setPen(QPen(QColor(theme.sheet), 1.2 + 2 * HALO, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))
    painter.setBrush(QColor(theme.sheet))
    if state == "breach":
        painter.drawPolygon(QPolygonF([QPointF(x, y - 1.25 * r), QPointF(x + 1.25 * r, y), QPointF(x, y + 1.25 * r), QPointF(x - 1.25 * r, y)]))
    elif state == "plain":
        painter.drawLine(QPointF(x - r * 0.8, y), QPointF(x + r * 0.8, y))
    elif state == "open":
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(at, r * 1.05, r * 1.05)
    else:
        painter.drawRect(QRectF(x - r * 0.8, y - r * 0.8, 1.6 * r, 1.6 * r))


def draw_mark(painter: QPainter, at: QPointF, state: str, theme: Theme, r: float = 5.0, strong: bool = False, halo: bool = False) -> None:
    """A small hollow square (clear), with a stroke (accepted), half-filled square (note), solid diamond (breach), dashed ring (unjoined), short bar (left plain)."""
    if halo:
        _halo(painter, at, state, theme, r)
    colour = QColor(
        {"clear": theme.slate, "concession": theme.slate, "note": theme.ochre_mark, "breach": theme.breach, "open": theme.accent}.get(state, theme.tin_dark)
    )
    sheet = QColor(theme.sheet)
    x, y = at.x(), at.y()
    width = 1.8 if strong else 1.2
    painter.setPen(QPen(colour, width))
    painter.setBrush(sheet)
    box = QRectF(x - r * 0.8, y - r * 0.8, 1.6 * r, 1.6 * r)
    if state == "breach":
        painter.setBrush(colour)
        painter.drawPolygon(QPolygonF([QPointF(x, y - 1.25 * r), QPointF(x + 1.25 * r, y), QPointF(x, y + 1.25 * r), QPointF(x - 1.25 * r, y)]))
    elif state == "note":
        painter.drawRect(box)
        painter.fillRect(QRectF(box.left(), box.center().y(), box.width(), box.height() / 2), colour)
    elif state == "plain":
        painter.setPen(QPen(colour, width + 0.8))
        painter.drawLine(QPointF(x - r * 0.8, y), QPointF(x + r * 0.8, y))
    elif state == "open":
        pen = QPen(colour, width, Qt.PenStyle.CustomDashLine)
        pen.setDashPattern([2.0, 1.6])
        painter.setPen(pen)
        if not strong:
            sheet.setAlpha(170)
        painter.setBrush(sheet)
        painter.drawEllipse(at, r * 1.05, r * 1.05)
    else:
        painter.drawRect(box)
        if state == "concession":
            painter.drawLine(box.bottomLeft(), box.topRight())
    if strong:
        painter.setPen(QPen(QColor(theme.accent), 1.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(at, r * 1.9, r * 1.9)


def stamp_mark(painter: QPainter, at: QPointF, state: str, theme: Theme, r: float, strong: bool = False) -> None:
    """The same mark, from a picture of it made once: hundreds of them are painted with every frame."""
    picture = _stamp(state, theme, r, strong, painter.device().devicePixelRatioF())
    half = picture.deviceIndependentSize().width() / 2
    painter.drawPixmap(QPointF(round(at.x() - half), round(at.y() - half)), picture)


@lru_cache(maxsize=128)
def _stamp(state: str, theme: Theme, r: float, strong: bool, ratio: float) -> QPixmap:
    half = math.ceil(r * 2.2 + HALO)
    picture = QPixmap(QSize(2 * half, 2 * half) * ratio)
    picture.setDevicePixelRatio(ratio)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    draw_mark(painter, QPointF(half, half), state, theme, r, strong, True)
    painter.end()
    return picture


def mark_icon(state: str, theme: Theme, size: int = 14) -> QIcon:
    """The mark as an icon for tables."""
    picture = QPixmap(QSize(size * 2, size * 2))
    picture.setDevicePixelRatio(2.0)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    draw_mark(painter, QPointF(size / 2, size / 2), state, theme, size * 0.32)
    painter.end()
    return QIcon(picture)
