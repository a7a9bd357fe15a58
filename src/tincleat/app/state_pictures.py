"""Two states of a project side by side: the same view of both, with what differs in colour."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np
from PySide6.QtCore import QSize
from PySide6.QtGui import QImage, QPixmap, QResizeEvent
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget
from vtkmodules.vtkCommonCore import vtkUnsignedCharArray
from vtkmodules.vtkRenderingCore import vtkActor

from tincleat.app.bodies import member_mesh
from tincleat.app.camera import Camera
from tincleat.app.chunks import actor, line_data, polydata
from tincleat.app.render import give_back, look_from, offscreen, pixels_of
from tincleat.app.review import Row
from tincleat.app.simple import label
from tincleat.app.theme import Theme, rgb
from tincleat.geometry.mesh import joined
from tincleat.project.entities import Member
from tincleat.steel.members import own_cuts

MOST_BODIES = 3000  # members drawn as bars; more of them are drawn as lines
SHARE = 0.62  # height of a picture by its width
ROOM = 1200.0  # mm round the rows looked at


def _actors(members: Mapping[str, Member], differ: set[str], colour: str, theme: Theme) -> list[vtkActor]:
    """What draws one state: its members pale, those that differ in their colour."""
    out = []
    for names, tone in (([k for k in members if k not in differ], theme.tin_light), ([k for k in members if k in differ], colour)):
        if not names:
            continue
        if len(members) <= MOST_BODIES or tone == colour:
            meshes = [member_mesh(members[k], own_cuts(members[k]), 0) for k in names]
            out.append(actor(polydata(joined(meshes)), rgb(tone)))
        if len(members) > MOST_BODIES:
            ends = np.array([p for k in names for p in (members[k].start, members[k].end)])
            out.append(actor(line_data(ends, np.arange(len(ends), dtype=np.int32).reshape(-1, 2)), rgb(tone), True))
    return out


class StatePictures(QWidget):
    """Both states of a comparison, one over the other, seen from the same place."""

    def __init__(
        self, theme: Theme, names: tuple[str, str], states: "tuple[Mapping[str, Member], Mapping[str, Member]]", rows: Sequence[Row], eye: Camera
    ) -> None:
        super().__init__()
        self._eye = replace(eye, perspective=False)
        self._window, self._renderer = offscreen()
        self._renderer.SetBackground(*rgb(theme.sky))
        old, new = {r.old.id for r in rows if r.old is not None}, {r.new.id for r in rows if r.new is not None}
        self._states = [_actors(states[0], old, theme.ochre_mark, theme), _actors(states[1], new, theme.accent, theme)]
        for one in (a for some in self._states for a in some):
            self._renderer.AddActor(one)
        points = [p for state in states for m in state.values() for p in (m.start, m.end)]
        self._all = np.array(points, dtype=float).reshape(-1, 3)
        self._pixels = vtkUnsignedCharArray()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.pictures: list[QLabel] = []
        for name, words in zip(names, ("what is gone or was otherwise stands out", "what is new or is otherwise stands out"), strict=True):
            column.addWidget(label(f"{name}: {words}", "quiet", True))
            picture = QLabel()
            picture.setAccessibleName(f"The state {name}")
            picture.setMinimumSize(QSize(160, 100))
            self.pictures.append(picture)
            column.addWidget(picture)
        column.addStretch(1)
        self._looked: list[Row] = []
        self.released = False

    def focus(self, rows: Sequence[Row]) -> None:
        """Look at some rows closely, or at everything."""
        self._looked = list(rows)
        self._draw()

    def _draw(self) -> None:
        points = np.array([p for r in self._looked for m in (r.old, r.new) if m is not None for p in (m.start, m.end)], dtype=float).reshape(-1, 3)
        room = ROOM if len(points) else 300.0
        points = points if len(points) else self._all
        if not len(points) or self.released:
            return
        ratio = self.devicePixelRatioF()
        wide = max(160, self.width())
        size = QSize(round(wide * ratio), round(wide * SHARE * ratio))
        self._eye.width, self._eye.height = size.width(), size.height()
        self._eye.fit(points.min(axis=0) - room, points.max(axis=0) + room)
        for state, picture in zip(self._states, self.pictures, strict=True):
            for some in self._states:
                for one in some:
                    one.SetVisibility(some is state)
            made = QPixmap.fromImage(self._render(size))
            made.setDevicePixelRatio(ratio)
            picture.setPixmap(made)

    def _render(self, size: QSize) -> QImage:
        w, h = size.width(), size.height()
        self._window.SetSize(w, h)
        look_from(self._renderer, self._eye)
        self._renderer.ResetCameraClippingRange()
        self._window.Render()
        return QImage(pixels_of(self._window, self._pixels).data, w, h, 4 * w, QImage.Format.Format_RGBX8888).copy()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if event.size().width() != event.oldSize().width():
            self._draw()

    def release(self) -> None:
        """Give back what the graphics side holds."""
        self.released = True
        give_back(self._window, self._renderer)
