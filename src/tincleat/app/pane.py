"""The second pane: a plan at a level or an elevation on a grid line, a slice of the same model."""

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QTimer, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from tincleat.app.fields import Choice
from tincleat.app.model_view import ModelView
from tincleat.app.simple import button
from tincleat.app.theme import Theme
from tincleat.commands.shape import grid_hits
from tincleat.ledger.ledger import Ledger

if TYPE_CHECKING:
    from tincleat.geometry.frames import Array

DEEP = 1600.0  # mm of the model under a plan's level, or to each side of an elevation's line
OVER = 400.0  # mm over a plan's level
WIDE = 1e7


class Pane(QWidget):
    """A slice of the model and the list of slices there are."""

    made = Signal(object)  # the view, made when the pane is first shown: it takes a graphics context of its own

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self._view: ModelView | None = None
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(0)
        line = QHBoxLayout()
        line.setContentsMargins(6, 2, 6, 2)
        self.choice = Choice()
        self.choice.setAccessibleName("Plan or elevation")
        self.choice.activated.connect(lambda _: self.show_slice())
        line.addWidget(self.choice, 1)
        self.close_ = button("Close", self.hide, "link")
        line.addWidget(self.close_)
        rows.addLayout(line)
        self.rows_ = rows
        self.ledger: Ledger | None = None

    @property
    def view(self) -> ModelView:
        """The slice's own view of the model."""
        if self._view is None:
            self._view = ModelView(self.theme)
            self.rows_.addWidget(self._view, 1)
            self.made.emit(self._view)
        return self._view

    def views(self) -> list[ModelView]:
        """The view if there is one yet."""
        return [] if self._view is None else [self._view]

    def set_theme(self, theme: Theme) -> None:
        """Take other colours."""
        self.theme = theme
        for view in self.views():
            view.set_theme(theme)

    def set_ledger(self, ledger: Ledger | None) -> None:
        """Show slices of another project."""
        self.ledger = ledger
        for view in [self.view] if ledger is not None else self.views():
            view.set_ledger(ledger)
        self.refresh()
        if ledger is not None:
            self.show_slice()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if self._view is not None:
            QTimer.singleShot(0, self.show_slice)  # once the view has its own new size

    def refresh(self) -> None:
        """List the levels and grid lines there are now; the one in view stays."""
        before = self.choice.currentText()
        names = self.names()
        if names != [self.choice.itemText(i) for i in range(self.choice.count())]:
            self.choice.blockSignals(True)
            self.choice.clear()
            self.choice.addItems(names)
            if before in names:
                self.choice.setCurrentText(before)
            self.choice.blockSignals(False)

    def names(self) -> list[str]:
        """The slices by name."""
        if self.ledger is None:
            return []
        p = self.ledger.project
        out = [f"Plan at {v.name}" for v in sorted(p.levels.values(), key=lambda v: v.elevation)]
        out += [f"Elevation on {g.name}:{n}" for g in p.grids.values() for n, _ in (*g.y, *g.x)]
        return out or ["Plan of everything"]

    def show_slice(self) -> None:
        """Cut the model to the slice chosen and look at it square."""
        if self.ledger is None or self.view.bodies is None:
            return
        kind, _, name = self.choice.currentText().partition(" at ") if " at " in self.choice.currentText() else self.choice.currentText().partition(" on ")
        low, high = np.full(3, -WIDE), np.full(3, WIDE)
        if kind == "Plan" and name:
            level = next((v for v in self.ledger.project.levels.values() if v.name == name), None)
            if level is not None:
                low[2], high[2] = level.elevation - DEEP, level.elevation + OVER
            yaw, pitch = -90.0, 90.0
        elif kind == "Elevation":
            grid_name, _, label = name.rpartition(":")
            grid = next(g for g in self.ledger.project.grids.values() if g.name == grid_name)
            point, normal = grid_hits(grid, label)[0]
            yaw, pitch = float(np.degrees(np.arctan2(-normal[1], -normal[0]))), 0.0
            axis = int(np.argmax(np.abs(normal)))
            if abs(normal[axis]) > 0.999:
                low[axis], high[axis] = point[axis] - DEEP, point[axis] + DEEP
        else:
            yaw, pitch = -90.0, 90.0
        whole = self.view.bodies.bounds()
        self.view.set_box((low, high) if (low > -WIDE).any() else None)
        self.view.camera.look(yaw, pitch)
        self.view.camera.width, self.view.camera.height = self.view.width(), self.view.height()
        near: tuple[Array, Array] = (np.maximum(whole[0], low), np.minimum(whole[1], high))
        self.view.camera.fit(*near)
        self.view.redraw()
