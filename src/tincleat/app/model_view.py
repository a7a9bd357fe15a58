"""The model view: what the pointer and the keys do in the picture of the model."""

from collections.abc import Callable
from typing import Any

import numpy as np
from PySide6.QtCore import QEvent, QPoint, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QEnterEvent, QKeyEvent, QMouseEvent, QPainter, QWheelEvent
from PySide6.QtWidgets import QToolTip, QWidget

from tincleat.app.grips import Grips
from tincleat.app.model_picture import ModelPicture
from tincleat.app.theme import Theme

REACH = 40.0  # px within which a joint is taken under the pointer


class ModelView(ModelPicture):
    """Shows the model; tells what was picked, hovered or box-selected."""

    picked = Signal(str, str, bool)  # kind, id, add to selection
    boxed = Signal(list)
    hovered = Signal(str)
    placed = Signal(str)
    asked = Signal(str, str, QPoint)
    pointed = Signal(object)  # pixel under the pointer while points are picked
    point_clicked = Signal(object)
    point_typed = Signal(str)
    pointing = False  # whether points are being picked

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(theme, parent)
        self.placing = False
        self.spots: Callable[[QPointF], str] | None = None  # names what is placed at a pixel, where that is not a joint
        self._press: QPointF | None = None
        self._last = QPointF()
        self._button = Qt.MouseButton.NoButton
        self._pivot = np.zeros(3)
        self.grips: Grips | None = None  # what can be taken hold of of the connection that is selected

    def joint_at(self, x: float, y: float) -> str:
        """Key of the joint nearest to a pixel within reach, the one nearer to the eye where several are close."""
        if self.bodies is None or not len(self.bodies.joint_points):
            return ""
        spots = self.camera.project(self.bodies.joint_points)
        far = np.hypot(spots[:, 0] - x, spots[:, 1] - y)
        near = np.flatnonzero(far < REACH)
        if not len(near):
            return ""
        best = near[np.argmin(far[near] - spots[near, 2] * 1e-4)]
        return self.bodies.joint_keys[int(best)]

    def spot_at(self, at: QPointF) -> str:
        """What a connection would be placed at under a pixel: a joint's key, or what the one who places says."""
        return (self.spots(at) if self.spots is not None else "") or self.joint_at(at.x(), at.y())

    def _grip_at(self, at: QPointF) -> bool:
        """Whether the pointer is on something that can be pulled."""
        return self.grips is not None and not self.pointing and not self.placing and self.grips.at(at) is not None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton and self.grips is not None and self._grip_at(event.position()):
            self.grips.take(event.position())
            return
        if self.grips is not None:
            self.grips.holding.let_go()
        self._press = self._last = event.position()
        self._button = event.button()
        if self._button == Qt.MouseButton.RightButton and self.bodies is not None:
            start, way = self.camera.ray(event.position().x(), event.position().y())
            hit = self.bodies.pick(start, way)
            self._pivot = hit[2] if hit is not None else self.camera.target

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self.grips is not None and self.grips.holding.free:
            self.grips.holding.follow(at)
            return
        if self._press is None and self.pointing:
            self.pointed.emit(at)
            return
        if self._press is None:
            key = self.spot_at(at) if self.placing else ""
            if key != self.hover_key:
                self.hover_key = key
                self.hovered.emit(key)
                self.update()
            if not self.placing and self.grips is not None:
                words = self.grips.words(at)
                self.setCursor(Qt.CursorShape.SizeAllCursor if words else Qt.CursorShape.ArrowCursor)
                if words:
                    QToolTip.showText(event.globalPosition().toPoint(), words, self)
            return
        step = at - self._last
        self._last = at
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if self._button == Qt.MouseButton.MiddleButton or (self._button == Qt.MouseButton.RightButton and shift):
            self.camera.pan(step.x(), step.y())
            self._moved()
        elif self._button == Qt.MouseButton.RightButton:
            self.camera.orbit(step.x(), step.y(), self._pivot)
            self._moved()
        elif self._button == Qt.MouseButton.LeftButton and not self.placing and not self.pointing and (at - self._press).manhattanLength() > 5:
            self.frame = QRectF(self._press, at)
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self.grips is not None and self.grips.holding.held is not None and event.button() == Qt.MouseButton.LeftButton:
            if self.grips.holding.release(event.position()):
                self.grips.holding.ask()
            self.update()
            return
        if self._press is None:
            return
        at, moved = event.position(), (event.position() - self._press).manhattanLength() > 5
        press, self._press = self._press, None
        box, self.frame = self.frame, None
        if event.button() == Qt.MouseButton.LeftButton:
            if self.pointing:
                if not moved:
                    self.point_clicked.emit(at)
            elif self.placing:
                key = self.spot_at(at)
                if key:
                    self.placed.emit(key)
            elif box is not None:
                self._select_box(box, press)
            elif not moved:
                self._select_at(at, bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier))
        elif event.button() == Qt.MouseButton.RightButton and not moved:
            kind, key = self._under(at)
            self.asked.emit(kind, key, event.globalPosition().toPoint())
        self.update()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        if event.reason() == QContextMenuEvent.Reason.Keyboard:
            self.asked.emit("", "", self.mapToGlobal(self.rect().center()))

    def _under(self, at: QPointF) -> tuple[str, str]:
        if self.bodies is None:
            return "", ""
        mark = self._mark_at(at)
        if mark:
            return "joint", mark
        hit = self.bodies.pick(*self.camera.ray(at.x(), at.y()))
        return (hit[0], hit[1]) if hit is not None else ("", "")

    def _mark_at(self, at: QPointF) -> str:
        if not self.marks_on or self.bodies is None or not len(self.bodies.joint_points):
            return ""
        spots = self.camera.project(self.bodies.joint_points)
        far = np.hypot(spots[:, 0] - at.x(), spots[:, 1] - at.y())
        near = np.flatnonzero(far < 8)
        return self.bodies.joint_keys[int(near[np.argmax(spots[near, 2])])] if len(near) else ""

    def _select_at(self, at: QPointF, add: bool) -> None:
        self.picked.emit(*self._under(at), add)

    def _select_box(self, box: QRectF, press: QPointF) -> None:
        """Left to right takes what lies wholly inside, right to left also what is touched."""
        if self.bodies is None or not len(self.bodies.origin):
            return
        b, area = self.bodies, box.normalized()
        ends = [self.camera.project(b.origin), self.camera.project(b.origin + b.axes[:, 0] * b.length[:, None])]
        inside = [(e[:, 0] >= area.left()) & (e[:, 0] <= area.right()) & (e[:, 1] >= area.top()) & (e[:, 1] <= area.bottom()) for e in ends]
        if box.width() > 0:
            chosen: Any = inside[0] & inside[1]
        else:
            t = np.linspace(0, 1, 33)[:, None]
            x = ends[0][:, 0] + (ends[1][:, 0] - ends[0][:, 0]) * t
            y = ends[0][:, 1] + (ends[1][:, 1] - ends[0][:, 1]) * t
            chosen = ((x >= area.left()) & (x <= area.right()) & (y >= area.top()) & (y <= area.bottom())).any(axis=0)
        self.boxed.emit([b.member_ids[i] for i in np.flatnonzero(chosen)])

    def wheelEvent(self, event: QWheelEvent) -> None:
        at = event.position()
        self.camera.zoom(0.999 ** event.angleDelta().y(), at.x(), at.y())
        self._moved()

    def event(self, event: QEvent) -> bool:
        # while a distance is being typed, letters are units and not shortcuts
        if self.pointing and event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            plain = event.modifiers() in (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier)
            if plain and event.text().strip() and event.key() != Qt.Key.Key_Escape:
                event.accept()
                return True
        if event.type() == QEvent.Type.ShortcutOverride and self.grips is not None and self.grips.holding.wants(event):
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if (
            self.pointing
            and event.key() != Qt.Key.Key_Escape
            and (event.text().strip() or event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Backspace, Qt.Key.Key_Space))
        ):
            names = {Qt.Key.Key_Return: "enter", Qt.Key.Key_Enter: "enter", Qt.Key.Key_Backspace: "back"}
            self.point_typed.emit(names.get(Qt.Key(event.key()), event.text()))
            return
        if self.grips is not None and self.grips.holding.key(event):
            return
        turns = {Qt.Key.Key_Left: (-25, 0), Qt.Key.Key_Right: (25, 0), Qt.Key.Key_Up: (0, -25), Qt.Key.Key_Down: (0, 25)}
        key = Qt.Key(event.key())
        middle = (self.width() / 2, self.height() / 2)
        if key in turns:
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
                self.camera.pan(*(-2.0 * v for v in turns[key]))
            else:
                self.camera.orbit(*turns[key], self.camera.target)
            self._moved()
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
            self.camera.zoom(0.85, *middle)
            self._moved()
        elif key == Qt.Key.Key_Minus:
            self.camera.zoom(1 / 0.85, *middle)
            self._moved()
        else:
            super().keyPressEvent(event)


    def paint_over(self, painter: QPainter) -> None:
        if self.grips is not None and not self.pointing and not self.placing and (self.underMouse() or self.grips.holding.held is not None):
            self.grips.holding.paint(painter, self.grips.spots(), self.theme)

    def enterEvent(self, event: QEnterEvent) -> None:
        self.update()  # what can be taken hold of shows under the pointer only

    def leaveEvent(self, event: QEvent) -> None:
        self.update()
