"""The picture of the model: VTK draws off screen, it is painted together with grid bubbles and state marks in one pass.

The picture is rendered only when something changed; hovering and marks never render the model again.
"""

import ctypes
import time
from collections.abc import Callable
from typing import Any

import numpy as np
from PySide6.QtCore import QRectF, Qt, QTimer
from PySide6.QtGui import QColor, QImage, QPainter, QPaintEvent, QPen, QPixmap, QResizeEvent
from PySide6.QtWidgets import QWidget
from vtkmodules.vtkCommonCore import vtkUnsignedCharArray
from vtkmodules.vtkCommonDataModel import vtkPlane, vtkPolyData
from vtkmodules.vtkRenderingCore import vtkActor, vtkMapper

from tincleat.app.bodies import Bodies
from tincleat.app.camera import Camera
from tincleat.app.chunks import GRADES, Chunks, actor, grade_name, line_data, polydata, stick_data
from tincleat.app.render import give_back, look_from, offscreen, pixels_of
from tincleat.app.theme import Theme, rgb
from tincleat.app.underlay_picture import underlay_actor
from tincleat.app.view_paint import grid_lines, paint_axes, paint_grid, paint_lines, paint_marks
from tincleat.geometry.frames import Array
from tincleat.geometry.mesh import Mesh, joined
from tincleat.ledger.ledger import Ledger

SETTLE = 150  # ms of rest before the fine levels come
REACH = 40.0  # px within which a joint is taken under the pointer


def _flusher() -> Callable[[], object]:
    """What sends drawing on its way without waiting for it; VTK itself only waits."""
    try:
        return ctypes.CDLL("libGL.so.1").glFlush  # type: ignore[no-any-return]
    except (OSError, AttributeError):
        return lambda: None


class ModelPicture(QWidget):
    """Draws the model and what is laid over it; whoever it belongs to takes the hand's part."""

    released = False

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme = theme
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(240, 160)
        self.setAccessibleName("Model view")
        self.tell("nothing is selected")
        self.camera = Camera()
        self.bodies: Bodies | None = None
        self.chunks: Chunks | None = None
        self.ledger: Ledger | None = None
        self.window_, self.renderer = offscreen()
        self._flush = _flusher()
        vtkMapper.SetResolveCoincidentTopologyToPolygonOffset()
        # one overlay for the selection and the ghost: before the steel, behind its edges
        self.overlay = actor(vtkPolyData())
        self.overlay.GetMapper().SetRelativeCoincidentTopologyPolygonOffsetParameters(-1.0, -1.0)
        self.overlay.VisibilityOff()
        self.renderer.AddActor(self.overlay)
        self._overlay_on, self._overlay_grade = False, 0
        self._overlay_bodies: list[tuple[Mesh, str]] = []
        self._overlay_shown: list[tuple[Mesh, str]] = []
        self._coming: list[tuple[Mesh, str]] = []  # what may come in, beside what is selected
        self.overlay_members: tuple[list[str], str] = ([], "")
        self._overlay_sticks = actor(vtkPolyData(), (1.0, 1.0, 1.0), True)  # members selected while all are drawn as lines
        self._overlay_sticks.GetProperty().SetLineWidth(3.0)
        self._overlay_sticks.GetMapper().SetRelativeCoincidentTopologyLineOffsetParameters(-1.0, -8.0)
        self._overlay_sticks.VisibilityOff()
        self._sticks_shown: tuple[tuple[str, ...], str, int] = ((), "", 0)
        self.renderer.AddActor(self._overlay_sticks)
        self._ground: vtkActor | None = None
        self._pixels = vtkUnsignedCharArray()
        self.image = QImage()
        self.dirty, self.moving, self._begun = True, False, False
        self._fitted: tuple[float, ...] = ()
        self.frame_ms = 0.0
        self.selected_joints: set[str] = set()
        self.hover_key = ""
        self.marks_on = True

        self.lines: list[tuple[Array, str, bool]] = []  # (2, 3) in the world, colour, dashed
        self.labels: list[tuple[Array, str]] = []
        self.box: tuple[Array, Array] | None = None
        self._reference: vtkActor | None = None
        self._underlays: list[vtkActor] = []
        self._backdrop_key: tuple[Any, ...] = ()
        self._backdrop_made = QPixmap()
        self.frame: QRectF | None = None  # drawn to select what lies in it
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.timeout.connect(self._settle)
        self.set_theme(theme)

    def release(self) -> None:
        """Give back what the graphics side holds, while its context is still there; the view shows nothing afterwards."""
        self.set_ledger(None)
        self._rest.stop()
        give_back(self.window_, self.renderer)
        self.released = True

    # --- model -----------------------------------------------------------------

    def set_theme(self, theme: Theme) -> None:
        """Take other colours."""
        self.theme = theme
        self.renderer.SetBackground(*rgb(theme.sky))
        if self.chunks is not None:
            self.chunks.recolour(theme)
        self._lay_ground()
        self.redraw()

    def set_ledger(self, ledger: Ledger | None, bodies: Bodies | None = None) -> None:
        """Show another project; its ``bodies``, where they are laid out already."""
        self.ledger = ledger
        if self.chunks is not None:
            for one in self.chunks.built.values():
                self.renderer.RemoveActor(one.actor)
        self.bodies = bodies or (Bodies(ledger) if ledger is not None else None)
        self.chunks = Chunks(self.renderer, self.bodies, self.theme) if self.bodies is not None else None
        self.selected_joints = set()
        self.overlay_members, self._coming = ([], ""), []
        self.show_overlay([])
        self.set_box(None)
        self._lay_ground()
        self.lay_references()
        self.fit()

    def changed(self, joints: set[str], members: set[str], ground: bool = False) -> None:
        """The ledger changed at these joints, these members changed, and grids or levels too if ``ground``."""
        if self.bodies is None or self.chunks is None:
            return
        self.chunks.changed(joints, self.bodies.changed(joints, members))
        if ground:
            self._lay_ground()
            self.lay_references()
        # crisp edges come back after a moment's rest, as after a turn: typing must not wait for them
        self._moved()

    def _lay_ground(self) -> None:
        """Grid lines on the lowest level."""
        if self._ground is not None:
            self.renderer.RemoveActor(self._ground)
            self._ground = None
        if self.ledger is None:
            return
        points: list[Array] = []
        for a, b, _ in grid_lines(self):
            points += [a, b]
        if points:
            pairs = np.arange(len(points), dtype=np.int32).reshape(-1, 2)
            self._ground = actor(line_data(np.array(points), pairs), rgb(self.theme.tin_light), True)
            self.renderer.AddActor(self._ground)

    def set_hidden(self, hidden: "frozenset[str]") -> None:
        """Leave some members, with the joints named by them, out of the picture."""
        if self.bodies is not None and self.chunks is not None:
            self.chunks.changed(*self.bodies.hide(hidden))
            self._moved()

    def set_marked(self, members: "frozenset[str]") -> None:
        """Paint some members in the colour of what asks for attention."""
        if self.chunks is not None and self.bodies is not None and self.chunks.marked != members:
            differ = (self.chunks.marked ^ members) & self.bodies.member_row.keys()
            self.chunks.marked = members
            self.chunks.changed(set(), set(differ))
            self.redraw()

    def set_box(self, box: "tuple[Array, Array] | None") -> None:
        """Show only what lies between two corners (mm), or everything."""
        self.box = box
        planes = []
        if box is not None:
            for axis in range(3):
                for corner, sign in ((box[0], 1.0), (box[1], -1.0)):
                    plane = vtkPlane()
                    plane.SetOrigin(*corner)
                    plane.SetNormal(*(np.eye(3)[axis] * sign))
                    planes.append(plane)
        if self.chunks is not None:
            self.chunks.planes = planes
            self.chunks.dress()
        for mapper in (self.overlay.GetMapper(), self._overlay_sticks.GetMapper()):
            mapper.RemoveAllClippingPlanes()
            for plane in planes:
                mapper.AddClippingPlane(plane)
        self.redraw()

    def see_through(self, on: bool) -> None:
        """Draw members as if of glass, so that what is selected and what joins them shows."""
        if self.chunks is not None:
            self.chunks.see_through = on
            self.chunks.dress()
            self.redraw()

    def show_references(self, on: bool) -> None:
        """Show or leave out bodies of other trades."""
        if self._reference is not None:
            self._reference.SetVisibility(on)
            self.redraw()

    def lay_references(self) -> None:
        """Bodies of other trades, and drawings under the model, faint."""
        if self._reference is not None:
            self.renderer.RemoveActor(self._reference)
            self._reference = None
        for old in self._underlays:
            self.renderer.RemoveActor(old)
        drawings = self.ledger.project.tables["underlay"].values() if self.ledger is not None else ()
        self._underlays = [made for u in drawings if (made := underlay_actor(u, self.theme)) is not None]
        for made in self._underlays:
            self.renderer.AddActor(made)
        if self.ledger is None or not self.ledger.project.references:
            return
        known = self.ledger.project.references.values()
        meshes = [Mesh(np.array(r.points), np.array(r.triangles, dtype=np.int32)) for r in known]
        tones = [(np.array(rgb(self.theme.ochre_mark if r.kind == "timber" else self.theme.concrete)) * 255).astype(np.uint8) for r in known]
        self._reference = actor(polydata(joined(meshes), np.repeat(tones, [len(m.points) for m in meshes], axis=0)))
        self._reference.GetProperty().BackfaceCullingOff()
        self._reference.GetProperty().SetOpacity(0.45)
        self.renderer.AddActor(self._reference)

    # --- picture ---------------------------------------------------------------

    def redraw(self) -> None:
        """Render anew at the next paint."""
        self.dirty = True
        self.update()

    def _moved(self) -> None:
        self.moving = True
        self._rest.start(SETTLE)
        self.redraw()

    def _settle(self) -> None:
        self.moving = False
        self.redraw()

    def fit(self) -> None:
        """Show everything; a view that shows everything goes on doing so when its size changes."""
        if self.bodies is not None:
            self.camera.width, self.camera.height = self.width(), self.height()
            self.camera.fit(*self.bodies.bounds())
            self._fitted = self._stand()
        self.redraw()

    def _stand(self) -> tuple[float, ...]:
        cam = self.camera
        return (*cam.target.tolist(), cam.yaw, cam.pitch, cam.tall)

    def zoom_to(self, points: Array, room: float = 900.0) -> None:
        """Look closely at some points, mm."""
        points = np.asarray(points, dtype=float).reshape(-1, 3)
        self.camera.fit(points.min(axis=0) - room, points.max(axis=0) + room)
        self.redraw()

    def look(self, yaw: float, pitch: float) -> None:
        """Face a standard direction, everything in view."""
        self.camera.look(yaw, pitch)
        self.fit()

    def show_overlay(self, bodies: "list[tuple[Mesh, str]]") -> None:
        """Put bodies (in the world) with their colours in the one overlay actor, beside the selected members."""
        self._overlay_bodies = bodies
        self._lay_over()

    def show_coming(self, bodies: "list[tuple[Mesh, str]]", points: Array) -> None:
        """Draw bodies (in the world) that are not of the project, and bring the whole of them, and of the project, into view; none: no more."""
        self._coming = bodies
        self._lay_over()
        if len(points) and self.bodies is not None:
            some = np.concatenate([points, *([np.array(self.bodies.bounds())] if self.bodies.ledger.project.members else [])])
            self.camera.width, self.camera.height = self.width(), self.height()
            self.camera.fit(some.min(axis=0), some.max(axis=0))
        self.redraw()

    def _grade(self) -> int:
        """How finely members are drawn at this scale; the overlay must be drawn the same way."""
        return GRADES.index(grade_name(1000.0 / self.camera.mm_per_pixel, self.moving)) - 1

    def _lay_over(self) -> None:
        self._overlay_grade = self._grade()
        ids, colour = self.overlay_members
        bodies = [(m, c) for m, c in (*self._coming, *self._overlay_bodies) if len(m.points)]
        if self.bodies is not None:
            known = self.bodies.ledger.project.members
            ids = [i for i in ids if i in known]
            if self._overlay_grade >= 0:
                bodies += [(self.bodies.member(i, self._overlay_grade), colour) for i in ids]
            self._lay_sticks(ids if self._overlay_grade < 0 else [], colour)
        if len(bodies) == len(self._overlay_shown) and all(a is c and b == d for (a, b), (c, d) in zip(bodies, self._overlay_shown, strict=True)):
            return
        self._overlay_shown = bodies
        self._overlay_on = bool(bodies)
        self.overlay.SetVisibility(self._overlay_on)
        if bodies:
            paint = [np.broadcast_to((np.array(rgb(c)) * 255).astype(np.uint8), (len(m.points), 3)) for m, c in bodies]
            self.overlay.GetMapper().SetInputData(polydata(joined([m for m, _ in bodies]), np.concatenate(paint)))
        self.redraw()

    def _lay_sticks(self, ids: list[str], colour: str) -> None:
        shown = (tuple(ids), colour, self.bodies.version if self.bodies is not None and ids else 0)
        if shown == self._sticks_shown:
            return
        self._sticks_shown = shown
        if ids and self.bodies is not None:
            self._overlay_sticks.GetMapper().SetInputData(stick_data(self.bodies, ids))
            self._overlay_sticks.GetProperty().SetColor(*rgb(colour))
        self._overlay_sticks.SetVisibility(bool(ids))
        self.redraw()

    def tell(self, selected: str) -> None:
        """Say to whoever does not see the model what is selected in it."""
        words = f"The steel model; {selected}. Arrow keys turn it, plus and minus zoom, F fits all."
        if words != self.accessibleDescription():
            self.setAccessibleDescription(words)

    def begin(self) -> None:
        """Start drawing what is out of date: the renderer goes on by itself while the sheet and the tables are brought in step."""
        if self.dirty and self.isVisible() and not self.released:
            self._render()
            self._flush()

    def draw_now(self) -> None:
        """Draw the picture now (also what the bench times); what has been begun is only fetched."""
        start = time.perf_counter()
        if self.dirty or not self._begun:
            self._render()
        self._begun = False
        ratio = self.devicePixelRatioF()
        self._frame = pixels_of(self.window_, self._pixels)  # the picture looks at this memory
        h, w = self._frame.shape[:2]
        self.image = QImage(self._frame.data, w, h, 4 * w, QImage.Format.Format_RGBX8888)
        self.image.setDevicePixelRatio(ratio)
        self.frame_ms = (time.perf_counter() - start) * 1000

    def settled(self) -> QImage:
        """The picture as things are now, drawn anew only where something changed since it was."""
        if (self.dirty or self._begun) and not self.released:
            self.draw_now()
        return self.image

    def _render(self) -> None:
        ratio = self.devicePixelRatioF()
        w, h = max(8, round(self.width() * ratio)), max(8, round(self.height() * ratio))
        cam = self.camera
        cam.width, cam.height = self.width(), self.height()
        if self.window_.GetSize() != (w, h):
            self.window_.SetSize(w, h)
        if self.overlay_members[0] and self._overlay_grade != self._grade():
            self._lay_over()
        if self.chunks is not None:
            slow = 2.0 if self.frame_ms > 250 and self.moving else 1.0
            self.chunks.show(cam, self.moving, slow)
        look_from(self.renderer, cam)
        self.renderer.ResetCameraClippingRange(self._extent())
        self.window_.Render()
        self._begun = True
        self.dirty = False

    def _extent(self) -> tuple[float, ...]:
        """Least and greatest x, y and z (mm) of what may be in the picture; asking every actor costs a millisecond."""
        low, high = self.bodies.bounds() if self.bodies is not None else (np.zeros(3), np.ones(3))
        loose = [a.GetBounds() for a in (self._ground, self._reference, *self._underlays) if a is not None]
        if self._overlay_on:
            loose.append(self.overlay.GetBounds())
        boxes = np.array(loose, dtype=float).reshape(-1, 6)
        low = np.concatenate([[low - 3000.0], boxes[:, ::2]]).min(axis=0)
        high = np.concatenate([[high + 3000.0], boxes[:, 1::2]]).max(axis=0)
        return tuple(np.column_stack([low, high]).ravel().tolist())

    def _backdrop(self) -> QPixmap:
        """Grid bubbles, levels and axes as one picture, painted anew only when the eye, the grid or the frame's extent changed."""
        cam, ratio = self.camera, self.devicePixelRatioF()
        project = self.ledger.project if self.ledger is not None else None
        facts = () if project is None else (*project.grids.values(), *project.levels.values(), project.house.units, project.house.north_deg)
        key = (
            self.width(),
            self.height(),
            ratio,
            *cam.target.tolist(),
            cam.yaw,
            cam.pitch,
            cam.tall,
            cam.perspective,
            self.theme.name,
            *(np.concatenate(self.bodies.bounds()).tolist() if self.bodies is not None else ()),
            *facts,
        )
        if key != self._backdrop_key:
            self._backdrop_key = key
            made = QPixmap(round(self.width() * ratio), round(self.height() * ratio))
            made.setDevicePixelRatio(ratio)
            made.fill(Qt.GlobalColor.transparent)
            painter = QPainter(made)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            if project is not None and self.bodies is not None:
                paint_grid(self, painter)
            paint_axes(self, painter)
            painter.end()
            self._backdrop_made = made
        return self._backdrop_made

    def paintEvent(self, event: QPaintEvent) -> None:
        image = self.settled()
        painter = QPainter(self)
        painter.drawImage(0, 0, image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.drawPixmap(0, 0, self._backdrop())
        if self.ledger is not None and self.bodies is not None and self.marks_on:
            paint_marks(self, painter)
        paint_lines(self, painter)
        if self.frame is not None:
            pen = QPen(QColor(self.theme.accent), 1, Qt.PenStyle.SolidLine if self.frame.width() > 0 else Qt.PenStyle.DashLine)
            painter.setPen(pen)
            fill = QColor(self.theme.accent)
            fill.setAlpha(24)
            painter.setBrush(fill)
            painter.drawRect(self.frame.normalized())
        self.paint_over(painter)
        if self.hasFocus():
            painter.setPen(QPen(QColor(self.theme.accent), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(0.5, 0.5, self.width() - 1, self.height() - 1))
        painter.end()

    def paint_over(self, painter: QPainter) -> None:
        """Paint what the hand may take hold of, over everything else."""

    def resizeEvent(self, event: QResizeEvent) -> None:
        if self._fitted == self._stand():
            self.fit()
        self.redraw()

    def overlay_for(self, key: str, colour: str) -> "list[tuple[Mesh, str]]":
        """The bodies of a joint's connection in the world, to lay over the model."""
        assert self.ledger is not None
        entry = self.ledger.entries.get(key)
        if entry is None or entry.made is None or self.bodies is None:
            return []
        tones = {"plates": colour, "bolts": self.theme.slate, "welds": self.theme.weld}
        return [(mesh, tones[kind]) for level in ("plates", "bolts") for mesh, kind in self.bodies.placed(key, level)]
