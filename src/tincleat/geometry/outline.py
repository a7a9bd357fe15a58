"""Plane outlines with true arcs: area and centroid in closed form, polygons only where a polygon is needed."""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely
from shapely.geometry import Polygon

from tincleat.errors import BadValue
from tincleat.geometry.frames import Array
from tincleat.geometry.tolerances import ARC_SAGITTA
from tincleat.lazy import lazy

Vertex = tuple[float, float, float]


@dataclass(frozen=True)
class Outline:
    """A closed outline: vertices ``(x, y, bulge)`` in mm; bulge = tan(arc angle / 4) of the side to the next vertex.

    Counter-clockwise arcs have positive bulge; 0 is a straight side.  Outlines built here run counter-clockwise.

    >>> Outline.rectangle(0, 0, 100, 50).area
    5000.0
    """

    vertices: tuple[Vertex, ...]

    @staticmethod
    def rectangle(x0: float, y0: float, x1: float, y1: float) -> "Outline":
        """The rectangle between two corners."""
        return Outline(((x0, y0, 0.0), (x1, y0, 0.0), (x1, y1, 0.0), (x0, y1, 0.0)))

    @staticmethod
    def circle(x: float, y: float, diameter: float) -> "Outline":
        """A full circle as two half arcs."""
        r = diameter / 2
        return Outline(((x - r, y, 1.0), (x + r, y, 1.0)))

    @staticmethod
    def slot(x: float, y: float, width: float, length: float, angle: float) -> "Outline":
        """A slotted hole: ``length`` over all along ``angle`` (rad), ``width`` across; raises BadValue where it is shorter than wide."""
        if length < width:
            raise BadValue(f"a slot {length:g} mm long is shorter than its width of {width:g} mm", right="a longer slot, or a round hole")
        r, half = width / 2, (length - width) / 2
        c, s = math.cos(angle), math.sin(angle)
        ends = [(-half, -r, 0.0), (half, -r, 1.0), (half, r, 0.0), (-half, r, 1.0)]
        return Outline(tuple((x + u * c - v * s, y + u * s + v * c, b) for u, v, b in ends))

    @staticmethod
    def rounded(points: "list[tuple[float, float]]", radii: "list[float]") -> "Outline":
        """A polygon whose corner i is rounded by ``radii[i]`` (0 keeps it sharp); raises BadValue if an arc does not fit, or a corner comes twice."""
        n = len(points)
        out: list[Vertex] = []
        taken = [0.0] * n  # of side i (from corner i), used by the arcs at both its ends
        for i in range(n):
            radius = radii[i]
            p = np.array(points[i])
            if radius <= 0:
                out.append((float(p[0]), float(p[1]), 0.0))
                continue
            a, b = np.array(points[i - 1]) - p, np.array(points[(i + 1) % n]) - p
            if min(np.hypot(*a), np.hypot(*b)) < 1e-9:
                raise BadValue(f"two corners of the outline lie on each other, at ({p[0]:g}, {p[1]:g})", right="every corner once")
            a, b = a / np.linalg.norm(a), b / np.linalg.norm(b)
            turn = math.pi - math.acos(max(-1.0, min(1.0, float(a @ b))))
            reach = radius * math.tan(turn / 2)
            taken[i - 1] += reach
            taken[i] += reach
            side = a[0] * b[1] - a[1] * b[0]
            bulge = math.tan(turn / 4) * (-1.0 if side > 0 else 1.0)
            first, last = p + a * reach, p + b * reach
            out.append((float(first[0]), float(first[1]), bulge))
            out.append((float(last[0]), float(last[1]), 0.0))
        for i, used in enumerate(taken):
            if not used <= math.dist(points[i], points[(i + 1) % n]) + 1e-6:  # not a number is no fit either
                raise BadValue(f"corner radii {', '.join(f'{r:g}' for r in radii)} mm do not fit the sides")
        return Outline(tuple(out))

    @lazy
    def area(self) -> float:
        """Signed area in mm², exact with arcs; positive when counter-clockwise."""
        return _moments(self.vertices)[0]

    @lazy
    def centroid(self) -> tuple[float, float]:
        """Centre of area (mm), exact with arcs."""
        area, mx, my = _moments(self.vertices)
        return (mx / area, my / area)

    @lazy
    def length(self) -> float:
        """Perimeter in mm, exact with arcs."""
        total = 0.0
        for (x0, y0, b), (x1, y1, _) in zip(self.vertices, self.vertices[1:] + self.vertices[:1], strict=True):
            chord = math.hypot(x1 - x0, y1 - y0)
            angle = 4 * math.atan(abs(b))
            total += chord if b == 0 else chord / (2 * math.sin(angle / 2)) * angle
        return total

    @lazy
    def bounds(self) -> tuple[float, float, float, float]:
        """Least x, least y, greatest x, greatest y, mm (of the fine polygon)."""
        p = self.points()
        return (float(p[:, 0].min()), float(p[:, 1].min()), float(p[:, 0].max()), float(p[:, 1].max()))

    @lazy
    def plain(self) -> bool:
        """Whether it is a rectangle along the axes."""
        v = self.vertices
        return len(v) == 4 and all(not b and (x == p) != (y == q) for (x, y, b), (p, q, _) in zip(v, v[1:] + v[:1], strict=True))

    def points(self, sagitta: float = ARC_SAGITTA) -> Array:
        """(n, 2) points of the polygon that stays within ``sagitta`` mm of the outline."""
        return _points(self.vertices, sagitta)

    def coarse(self, per_arc: int) -> Array:
        """(n, 2) points with a fixed number of chords to each arc of a quarter turn; for drawing."""
        return _coarse(self.vertices, per_arc)

    def polygon(self, holes: "tuple[Outline, ...]" = ()) -> Polygon:
        """The shapely polygon, with holes cut out."""
        return _polygon(self, holes)

    def moved(self, dx: float, dy: float) -> "Outline":
        """The outline shifted by (dx, dy) mm."""
        return Outline(tuple((x + dx, y + dy, b) for x, y, b in self.vertices))

    def mirrored_y(self) -> "Outline":
        """The mirror image with y turned to -y, still running the same way round."""
        v = self.vertices
        n = len(v)
        return Outline(tuple((v[(n - i) % n][0], -v[(n - i) % n][1], v[(n - i - 1) % n][2]) for i in range(n)))


def half_plane(n: Array, at: float, size: float) -> Polygon:
    """The side n . p >= ``at`` of a line in the plane (unit normal (2,), mm), as a polygon reaching ``size`` mm either way."""
    along = np.array([-n[1], n[0]]) * size
    foot = n * at
    return Polygon([foot + along, foot - along, foot - along + n * size, foot + along + n * size])


def _arc(x0: float, y0: float, x1: float, y1: float, bulge: float) -> tuple[float, float, float, float]:
    """Centre, radius and signed angle of a bulged side."""
    angle = 4 * math.atan(bulge)
    dx, dy = x1 - x0, y1 - y0
    # the centre sits at (1 - b²) / (4 b) chords to the left of the chord's middle
    k = (1 - bulge * bulge) / (4 * bulge)
    cx, cy = (x0 + x1) / 2 - dy * k, (y0 + y1) / 2 + dx * k
    return cx, cy, math.hypot(x0 - cx, y0 - cy), angle


@lru_cache(maxsize=8192)
def _moments(vertices: tuple[Vertex, ...]) -> tuple[float, float, float]:
    area = mx = my = 0.0
    for (x0, y0, b), (x1, y1, _) in zip(vertices, vertices[1:] + vertices[:1], strict=True):
        cross = x0 * y1 - x1 * y0
        area += cross / 2
        mx += (x0 + x1) * cross / 6
        my += (y0 + y1) * cross / 6
        if b != 0:
            cx, cy, r, angle = _arc(x0, y0, x1, y1, b)
            segment = r * r / 2 * (angle - math.sin(angle))
            middle = math.atan2(y0 - cy, x0 - cx) + angle / 2
            # centroid of a circular segment lies 4 r sin³(a/2) / (3 (a - sin a)) from the centre
            reach = 4 * r * math.sin(angle / 2) ** 3 / (3 * (angle - math.sin(angle)))
            area += segment
            mx += segment * (cx + reach * math.cos(middle))
            my += segment * (cy + reach * math.sin(middle))
    return area, mx, my


def _walk(vertices: tuple[Vertex, ...], chords: "list[int]") -> Array:
    out: list[tuple[float, float]] = []
    for (x0, y0, b), (x1, y1, _), n in zip(vertices, vertices[1:] + vertices[:1], chords, strict=True):
        out.append((x0, y0))
        if n > 1:
            cx, cy, r, angle = _arc(x0, y0, x1, y1, b)
            start = math.atan2(y0 - cy, x0 - cx)
            out.extend((cx + r * math.cos(start + angle * i / n), cy + r * math.sin(start + angle * i / n)) for i in range(1, n))
    return np.array(out)


@lru_cache(maxsize=8192)
def _points(vertices: tuple[Vertex, ...], sagitta: float) -> Array:
    chords = []
    for (x0, y0, b), (x1, y1, _) in zip(vertices, vertices[1:] + vertices[:1], strict=True):
        if b == 0:
            chords.append(1)
            continue
        _, _, r, angle = _arc(x0, y0, x1, y1, b)
        step = 2 * math.acos(max(0.0, 1 - sagitta / r)) if r > sagitta else math.pi / 2
        chords.append(max(2, math.ceil(abs(angle) / step)))
    return _walk(vertices, chords)


@lru_cache(maxsize=4096)
def _coarse(vertices: tuple[Vertex, ...], per_arc: int) -> Array:
    return _walk(vertices, [1 if b == 0 else max(1, round(4 * math.atan(abs(b)) / (math.pi / 2) * per_arc)) for _, _, b in vertices])


@lru_cache(maxsize=8192)
def _polygon(outline: Outline, holes: tuple[Outline, ...]) -> Polygon:
    polygon = Polygon(outline.points(), [hole.points() for hole in holes])
    shapely.prepare(polygon)
    return polygon
