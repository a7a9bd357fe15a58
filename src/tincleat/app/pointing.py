"""Points picked in the model, snapped to ends, middles, crossings, lines and their extensions: to draw a member, to measure."""

from collections.abc import Callable
from itertools import pairwise
from typing import Any

import numpy as np
from PySide6.QtCore import QPointF, Qt

from tincleat.app.context import Host
from tincleat.app.edges import between_words, edge_at
from tincleat.app.pointed import Deed, in_row
from tincleat.catalogue.sections import section
from tincleat.errors import BadValue
from tincleat.geometry.frames import Array, crossed
from tincleat.geometry.lines import Between, between_edges, crossing
from tincleat.project.entities import Member
from tincleat.project.members import axis_frame
from tincleat.project.places import crossings
from tincleat.units import format_length, is_inch, parse_length

REACH = 12.0  # px within which a point snaps
EXTENSION = 4000.0  # mm past its end, or as far again as it is long, that a line still takes hold
MEET = 1.0  # mm between lines that still cross


class Pointing:
    """What points are being picked for; ``mode`` is empty when none are."""

    def __init__(self, window: Host) -> None:
        self.window = window
        self.mode = ""
        self.first: Array | None = None
        self.under: Array | None = None
        self.typed = ""
        self.bar: dict[str, Any] = {}
        self._level, self._found = 0.0, list[Array]()
        self.plane: tuple[Array, Array] | None = None  # the work plane: a point and its unit normal
        self._then: Callable[[list[Array]], None] = lambda _: None
        self._then_kept: Callable[[list[Array]], bool] = lambda _: True
        self._what = ""  # what points on edges are picked for
        self._spots: tuple[Array, list[str]] = (np.zeros((0, 3)), [])
        self._lines: tuple[Array, Array] = (np.zeros((0, 3)), np.zeros((0, 3)))
        self._names: list[str] = []
        self._edge: Array | None = None  # the first of two edges to measure between
        self.deed: Deed | None = None

    def start_deed(self, deed: Deed) -> None:
        """Pick the two points of a deed."""
        self.deed = deed
        self.start("deed")

    def start(self, mode: str, bar: "dict[str, Any] | None" = None) -> None:
        """Pick points to ``measure`` between, ``edges`` to measure between, or points to ``draw`` members like ``bar`` between."""
        w = self.window
        if w.placing.family:
            w.placing.stop()
        self.mode, self.first, self.typed, self.bar, self._edge = mode, None, "", bar or {}, None
        self._gather()
        w.view.pointing = True
        w.view.setCursor(Qt.CursorShape.CrossCursor)
        w.view.setFocus()
        self._hint()

    def start_on_plane(self, level: float, then: "Callable[[list[Array]], None]") -> None:
        """Pick two points on a level plane, wherever the pointer is, and go on with them."""
        self.start("plane")
        self._level, self._then, self._found = level, then, []
        self.window.say("Click a point of the drawing that you know; Esc ends")

    def start_on_edges(self, what: str, then: "Callable[[list[Array]], bool]") -> None:
        """Pick two points or more on edges of what is drawn; Enter goes on with them, and they are picked anew where that is refused."""
        self.start("on edges")
        self._then_kept, self._found, self._what = then, [], what
        self._hint()

    def _on_edge(self, at: QPointF) -> tuple[Array | None, str]:
        """The corner, the middle or a round place of the edge under a pixel."""
        found = edge_at(self.window.view, at)
        if found is None or self.window.desk is None:
            return None, ""
        (a, b), point = found
        unit = self.window.desk.project.house.units
        cam, pixel = self.window.view.camera, np.array([at.x(), at.y()])
        for spot, words in ((a, "corner"), (b, "corner"), ((a + b) / 2, "middle of the edge")):
            if float(np.linalg.norm(cam.project(spot)[0, :2] - pixel)) < REACH:
                return spot, words
        long = float(np.linalg.norm(b - a))
        first, last = (a, b) if float(np.linalg.norm(point - a)) <= long / 2 else (b, a)
        step = 6.35 if is_inch(unit) else 5.0
        far = min(round(float(np.linalg.norm(point - first)) / step) * step, long)
        return first + (last - first) / long * far, f"on the edge, {format_length(far, unit)} from its end"

    def _on_edges_entered(self) -> None:
        if len(self._found) < 2:
            self._hint()
            return
        found, then = self._found, self._then_kept
        if then(found):
            said = self.window.hint.text()
            self.stop()
            self.window.say(said)
        else:
            self._found = []
            self.window.view.lines = []
            self.window.view.update()

    def work_plane(self) -> None:
        """Three points of the model make a work plane: points that take hold of nothing fall on it."""
        self.start("work plane")
        self._found = []
        self.window.say("Work plane: click three points that do not lie in one line; Esc ends")

    def work_plane_on(self, member: Member) -> None:
        """The top face of a member as work plane."""
        frame = axis_frame(member)
        normal = np.array(frame.z)
        self._set_plane(frame.o + normal * section(member.section).h / 2, normal, f"the face of {member.name}")

    def _set_plane(self, point: Array, normal: Array, words: str) -> None:
        self.plane = (point, normal)
        self.window.say(f"Work plane on {words}: points that take hold of nothing fall on it; Work plane off ends it")

    def _three(self, point: Array) -> None:
        self._found.append(point)
        self.window.view.lines = [(np.array([a, b]), self.window.theme.slate, True) for a, b in zip(self._found[:-1], self._found[1:], strict=True)]
        if len(self._found) < 3:
            return
        a, b, c = self._found
        normal = crossed(b - a, c - a)
        size = float(np.linalg.norm(normal))
        if size < 1e-6 * float(np.linalg.norm(b - a) * np.linalg.norm(c - a)) + 1e-9:
            self._found = []
            self.window.fail("The three points lie in one line; click three others")
            return
        self.stop()
        self._set_plane(a, normal / size, "three points")

    def _on_work_plane(self, at: QPointF) -> Array | None:
        if self.plane is None:
            return None
        point, normal = self.plane
        start, way = self.window.view.camera.ray(at.x(), at.y())
        slant = float(way @ normal)
        if abs(slant) < 1e-3:
            return None
        hit: Array = np.round(start + way * (float((point - start) @ normal) / slant), 3)
        return hit

    def _on_plane(self, at: QPointF) -> Array | None:
        start, way = self.window.view.camera.ray(at.x(), at.y())
        if abs(way[2]) < 1e-3:
            return None
        point: Array = start + way * ((self._level - start[2]) / way[2])
        return point

    def stop(self) -> None:
        """Back to selecting; a measure stays in the picture until the next click."""
        self.mode, self.first, self.typed = "", None, ""
        v = self.window.view
        v.pointing = False
        v.unsetCursor()
        v.lines, v.labels = [], []
        v.update()
        self.window.say("")

    def _gather(self) -> None:
        """Everything a point can snap to: ends and middles of members, crossings at every level."""
        desk = self.window.desk
        if desk is None:
            return
        p = desk.project
        points: list[Any] = []
        words: list[str] = []
        starts, ends = [], []
        self._names = [m.name for m in p.members.values()]
        for m in p.members.values():
            points += [m.start, m.end, tuple((a + b) / 2 for a, b in zip(m.start, m.end, strict=True))]
            words += [f"end of {m.name}", f"end of {m.name}", f"middle of {m.name}"]
            starts.append(m.start)
            ends.append(m.end)
        heights = [v.elevation for v in p.levels.values()] or [0.0]
        names = [v.name for v in p.levels.values()] or ["0"]
        for g in p.grids.values():
            for (y, x), at in crossings(g).items():
                for z, name in zip(heights, names, strict=True):
                    points.append((*at, z))
                    words.append(f"{y}{x} at {name}")
        self._spots = (np.array(points, dtype=float).reshape(-1, 3), words)
        self._lines = (np.array(starts, dtype=float).reshape(-1, 3), np.array(ends, dtype=float).reshape(-1, 3))

    def snapped(self, at: QPointF) -> tuple[Array | None, str]:
        """The point a pixel stands for and what it snapped to; None where there is nothing to snap to."""
        if self.mode == "plane":
            return self._on_plane(at), "on the drawing"
        if self.mode == "on edges":
            return self._on_edge(at)
        cam = self.window.view.camera
        points, words = self._spots
        if len(points):
            flat = cam.project(points)
            far = np.hypot(flat[:, 0] - at.x(), flat[:, 1] - at.y())
            near = np.flatnonzero(far < REACH)
            if len(near):
                # of points over each other in the picture the one nearer to the eye
                best = int(near[np.lexsort((-flat[near, 2], np.round(far[near] / 4)))[0]])
                return points[best], words[best]
        found = self._crossing(at)
        if found[0] is None:
            found = self._on_line(at)
        if found[0] is None and (hit := self._on_work_plane(at)) is not None:
            return hit, "on the work plane"
        return found

    def _on_line(self, at: QPointF) -> tuple[Array | None, str]:
        starts, ends = self._lines
        if not len(starts):
            return None, ""
        cam = self.window.view.camera
        a, b = cam.project(starts), cam.project(ends)
        d = (b - a)[:, :2]
        size = np.maximum(np.einsum("ij,ij->i", d, d), 1e-9)
        pixel = np.array([at.x(), at.y()])
        t = np.clip(np.einsum("ij,ij->i", pixel - a[:, :2], d) / size, 0, 1)
        far = np.linalg.norm(a[:, :2] + d * t[:, None] - pixel, axis=1)
        i = int(np.nanargmin(far)) if np.isfinite(far).any() else -1
        if i < 0 or far[i] > REACH:
            return self._extended(at)
        if self.first is not None:
            # the foot of the perpendicular from the first point, if that is about where the pointer is
            line = ends[i] - starts[i]
            foot = starts[i] + line * float(np.clip((self.first - starts[i]) @ line / (line @ line), 0, 1))
            if float(np.linalg.norm(cam.project(foot)[0, :2] - pixel)) < REACH * 1.5:
                return foot, "square to the line"
        out: Array = starts[i] + (ends[i] - starts[i]) * float(t[i])
        return out, "on the line"

    def _along(self, at: QPointF) -> "tuple[list[int], Array]":
        """Lines that a pixel lies on, or on whose extension it lies, the nearest first, and where along each (shares, for every line)."""
        starts, ends = self._lines
        cam = self.window.view.camera
        a, b = cam.project(starts)[:, :2], cam.project(ends)[:, :2]
        d = b - a
        size = np.maximum(np.einsum("ij,ij->i", d, d), 1e-9)
        gap = np.array([at.x(), at.y()]) - a
        t = np.einsum("ij,ij->i", gap, d) / size
        far = np.abs(gap[:, 0] * d[:, 1] - gap[:, 1] * d[:, 0]) / np.sqrt(size)
        past = np.minimum(EXTENSION / np.maximum(np.linalg.norm(ends - starts, axis=1), 1.0), 1.0)
        near = np.flatnonzero((far < REACH) & (size > 4.0) & (t >= -past) & (t <= 1 + past))
        return near[np.argsort(far[near], kind="stable")][:8].tolist(), t

    def _crossing(self, at: QPointF) -> tuple[Array | None, str]:
        """Where two lines, or their extensions, cross in space under the pointer."""
        starts, ends = self._lines
        if not len(starts):
            return None, ""
        near, _ = self._along(at)
        pixel = np.array([at.x(), at.y()])
        for k, i in enumerate(near):
            for j in near[:k]:
                met = crossing(np.array([starts[i], ends[i]]), np.array([starts[j], ends[j]]))
                if met is None or met[2] > MEET:
                    continue
                point: Array = starts[i] + (ends[i] - starts[i]) * met[0]
                if float(np.linalg.norm(self.window.view.camera.project(point)[0, :2] - pixel)) < REACH:
                    return point, f"{self._names[i]} crosses {self._names[j]}" + ("" if 0 <= met[0] <= 1 and 0 <= met[1] <= 1 else ", extended")
        return None, ""

    def _extended(self, at: QPointF) -> tuple[Array | None, str]:
        near, t = self._along(at)
        if not near:
            return None, ""
        i = near[0]
        out: Array = self._lines[0][i] + (self._lines[1][i] - self._lines[0][i]) * float(t[i])
        return out, f"on {self._names[i]} extended"

    def _edges_pointed(self, at: QPointF) -> None:
        v = self.window.view
        under = edge_at(v, at)
        seen = ((self._edge, self.window.theme.slate), (under[0] if under is not None else None, self.window.theme.accent))
        v.lines = [(e, colour, False) for e, colour in seen if e is not None]
        v.labels = []
        if self._edge is not None and under is not None:
            self._show_between(between_edges(self._edge, *under))
        v.update()

    def _show_between(self, found: Between) -> str:
        v = self.window.view
        unit = self.window.desk.project.house.units if self.window.desk is not None else "mm"
        words = between_words(found, unit)
        v.lines = [*v.lines, (np.array([found.first, found.second]), self.window.theme.accent, True)]
        v.labels = [((found.first + found.second) / 2, words)]
        return words

    def _edge_clicked(self, at: QPointF) -> None:
        w = self.window
        under = edge_at(w.view, at)
        if under is None:
            w.say("No edge here: point at the edge of a member, a plate or a bolt head")
        elif self._edge is None:
            self._edge = under[0]
            w.say("Between edges: click the second edge; Esc ends")
        else:
            w.view.lines = [(self._edge, w.theme.slate, False), (under[0], w.theme.slate, False)]
            words = self._show_between(between_edges(self._edge, *under)).replace("\n", "   ")
            self._edge = None
            w.view.update()
            w.say(f"{words}; click two more edges, Esc ends")

    def pointed(self, at: QPointF) -> None:
        """Follow the pointer."""
        if not self.mode or self.window.desk is None:
            return
        if self.mode == "edges":
            self._edges_pointed(at)
            return
        self.under, words = self.snapped(at)
        v = self.window.view
        if self.first is not None and self.under is not None:
            v.lines = [(np.array([self.first, self.under]), self.window.theme.accent, False)]
            v.labels = [(self.under, self._measured(self.first, self.under) + (f"\n{words}" if words else ""))]
            if self.mode == "deed" and self.deed is not None:
                v.lines += [(line, self.window.theme.accent, True) for line in self.deed.ghost(self.first, self.under)]
        else:
            way = [*self._found, *([self.under] if self.under is not None else [])] if self.mode == "on edges" else []
            v.lines = [(np.array([a, b]), self.window.theme.slate, b is self.under) for a, b in pairwise(way)]
            v.labels = [(self.under, f"{words}\n{self._coordinates(self.under)}")] if self.under is not None else []
        v.update()

    def _coordinates(self, p: Array) -> str:
        unit = self.window.desk.project.house.units if self.window.desk is not None else "mm"
        return "  ".join(f"{axis} {format_length(round(float(v), 1), unit)}" for axis, v in zip("xyz", p, strict=True))

    def _measured(self, a: Array, b: Array) -> str:
        unit = self.window.desk.project.house.units if self.window.desk is not None else "mm"
        step = b - a
        total = format_length(round(float(np.linalg.norm(step)), 2), unit, True)
        lean = np.degrees(np.arctan2(abs(step[2]), float(np.hypot(step[0], step[1]))))
        along = "  ".join(f"{axis} {format_length(round(float(v), 2), unit)}" for axis, v in zip("xyz", step, strict=True) if abs(v) > 0.005)
        return f"{total}   {lean:.1f}° to level\n{along}"

    def clicked(self, at: QPointF) -> None:
        """Take the point under the pointer."""
        if self.mode == "edges":
            self._edge_clicked(at)
            return
        point, _ = self.snapped(at)
        if not self.mode or point is None:
            if self.mode == "on edges":
                self.window.say("No edge here: point at an edge or a corner of a plate, a piece or a member")
                return
            self.window.say("Nothing to snap to here: point at a member's end, middle or line, or at a grid crossing")
            return
        self._take(point)

    def _take(self, point: Array) -> None:
        w = self.window
        if self.mode == "work plane":
            self._three(point)
            return
        if self.mode == "on edges":
            self._found.append(point)
            self._hint()
            return
        if self.mode == "plane":
            self._found.append(point)
            w.say("Click a second point, far from the first; Esc ends")
            if len(self._found) == 2:
                found, then = self._found, self._then
                self.stop()
                then(found)
            return
        if self.first is None:
            self.first, self.typed = point, ""
            self._hint()
            return
        first, self.first, self.typed = self.first, None, ""
        if self.mode == "deed" and self.deed is not None:
            self._done(self.deed, first, self.deed.do(first, point))
            return
        if self.mode == "measure":
            words = self._measured(first, point).replace("\n", "   ")
            w.view.lines = [(np.array([first, point]), w.theme.accent, False)]
            w.view.labels = [((first + point) / 2, self._measured(first, point))]
            w.view.update()
            w.say(f"{words}; click two more points, Esc ends")
            return
        if w.run("add-members", members=[{**self.bar, "start": first.tolist(), "end": point.tolist()}]):
            self._gather()
            w.view.lines, w.view.labels = [], []
            self._hint()
        else:
            self.first = first

    def _done(self, deed: Deed, first: Array, kept: bool) -> None:
        """Go on from the same point, or end; what was not kept may be pointed at otherwise."""
        w = self.window
        w.view.lines, w.view.labels = [], []
        w.view.update()
        if deed.again or not kept:
            self.first = first
            self._gather()
            if kept:
                w.say(f"{w.hint.text()}; {deed.second}; Esc ends")
        else:
            said = w.hint.text()
            self.stop()
            w.say(said)

    def type(self, text: str) -> None:
        """A distance typed after the first point: Enter takes the point that far towards the pointer."""
        if self.mode == "on edges" and text in ("enter", "back"):
            if text == "enter":
                self._on_edges_entered()
            else:
                self._found = self._found[:-1]
                self._hint()
            return
        if self.first is None:
            return
        if text == "back":
            self.typed = self.typed[:-1]
        elif text == "enter":
            self._enter()
            return
        else:
            self.typed += text
        self.window.say(f"Distance towards the pointer: {self.typed}   (Enter takes it)")

    def _enter(self) -> None:
        w = self.window
        if self.first is None or self.under is None or w.desk is None:
            return
        step = self.under - self.first
        size = float(np.linalg.norm(step))
        if size < 1e-6:
            w.say("Point at something first, to say which way")
            return
        unit = w.desk.project.house.units
        try:
            row = in_row(self.typed, unit) if self.mode == "deed" and self.deed is not None and self.deed.row is not None else None
            far = row[1] if row is not None else parse_length(self.typed, unit) if self.typed else size
        except BadValue as error:
            w.fail(str(error))
            self.typed = ""
            return
        if row is not None and self.deed is not None and self.deed.row is not None:
            first, self.typed = self.first, ""
            self._done(self.deed, first, self.deed.row(step / size * far, row[0]))
            return
        self._take(self.first + step / size * far)

    def _hint(self) -> None:
        if self.mode == "edges":
            self.window.say("Between edges: click the first edge; Esc ends")
            return
        if self.mode == "on edges":
            count = len(self._found)
            self.window.say(f"{self._what}: " + (f"click {'the first' if not count else 'the second'} point on an edge; Esc ends" if count < 2 else f"{count} points; Enter takes them, or click the next; Backspace drops the last"))
            return
        if self.mode == "deed" and self.deed is not None:
            self.window.say(f"{self.deed.what}: {self.deed.first if self.first is None else self.deed.second}; Esc ends")
            return
        what = "Measure" if self.mode == "measure" else f"{self.bar.get('section', '')} {self.bar.get('role', '')}"
        asks = "click the first point" if self.first is None else "click the second point, or type a distance and Enter"
        self.window.say(f"{what}: {asks}; Esc ends")
