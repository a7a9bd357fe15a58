"""Edges prepared for U and J grooves: a land at the root, an arc from it into the plate, and a slanting face from there on."""

import math

import msgspec
import numpy as np
from shapely.geometry import Point, Polygon

from tincleat.geometry.frames import Array, Frame, Vec3, vec
from tincleat.geometry.mesh import Mesh, ring_prism
from tincleat.geometry.outline import Outline

CHORDS = 8  # of the arc, in plate and weld alike, so that the one fills the other
OVER = 0.5  # mm that what cuts a scoop reaches past the steel


def arc_to(land: float, radius: float, angle: float, depth: float) -> float:
    """How far round (rad) its arc goes, from level at the land to the slant of its face, or until the plate ends."""
    whole = math.pi / 2 - angle
    least = depth - land
    return whole if least >= radius * (1.0 - math.cos(whole)) else math.acos(1.0 - least / radius)


def side(land: float, radius: float, angle: float, depth: float) -> Array:
    """Corners (n, 2) of one side of such a groove: into the plate and up from the root, mm; from the land's top by chords of the arc, whose
    middle lies over it, to the face."""
    turn = np.linspace(0.0, arc_to(land, radius, angle, depth), CHORDS + 1)
    out = np.column_stack([radius * np.sin(turn), land + radius * (1.0 - np.cos(turn))])
    rest = depth - float(out[-1, 1])
    return np.vstack([out, (out[-1, 0] + rest * math.tan(angle), depth)]) if rest > 1e-9 else out


def side_area(land: float, radius: float, angle: float, depth: float) -> float:
    """What it takes of a plate's section, mm²: r²/2 (φ - sin φ cos φ) beside the arc, and a trapezium beside the slanting face."""
    turn = arc_to(land, radius, angle, depth)
    x = radius * math.sin(turn)
    rest = depth - land - radius * (1.0 - math.cos(turn))
    return radius**2 / 2 * (turn - math.sin(turn) * math.cos(turn)) + rest * (x + rest * math.tan(angle) / 2)


class Scoop(msgspec.Struct, frozen=True):
    """What is taken off a plate's edge: from ``start`` to ``stop`` at its root, in the plate's frame, ``into`` the plate and ``up`` to the face that
    it opens to (unit ways); ``depth`` from its root to that face, mm, ``angle`` its face's slant (rad)."""

    start: Vec3
    stop: Vec3
    into: Vec3
    up: Vec3
    land: float
    radius: float
    angle: float
    depth: float

    @property
    def length(self) -> float:
        """Along the edge, mm."""
        return math.dist(self.start, self.stop)

    @property
    def volume(self) -> float:
        """What it takes, mm³, with its true arc."""
        return side_area(self.land, self.radius, self.angle, self.depth) * self.length

    @property
    def corners(self) -> Array:
        """Its side's corners (n, 2), by chords."""
        return side(self.land, self.radius, self.angle, self.depth)

    @property
    def reach(self) -> float:
        """How far into the plate it goes, mm."""
        return float(self.corners[-1, 0])

    def ring(self) -> Array:
        """The section (n, 2) of what cuts it, in the plane of its `frame`, anticlockwise, past the edge and the face."""
        flat = self.corners
        slant = math.tan(self.angle)
        way = 1.0 if float(np.dot(self.frame().y, self.up)) > 0 else -1.0
        ring = np.vstack([(-OVER, self.land), flat, (flat[-1, 0] + OVER * slant, self.depth + OVER), (-OVER, self.depth + OVER)]) * (1.0, way)
        return ring if Polygon(ring).exterior.is_ccw else ring[::-1]

    def frame(self, low: float = 0.0) -> Frame:
        """Where that section lies: z along the edge, from ``low`` mm before its start."""
        run = (np.array(self.stop) - self.start) / self.length
        return Frame.of(np.array(self.start) - run * low, self.into, run)

    def cutter(self, outline: Outline) -> Mesh:
        """The body that cuts it out of a plate of an outline: past its ends where the steel ends with them."""
        flat = outline.polygon()
        run = (np.array(self.stop) - self.start) / self.length
        inside = np.array(self.into) * min(self.reach / 2, 1.0)
        low, high = (OVER if not flat.covers(Point(*(np.array(p) + inside + run * s * OVER / 2)[:2])) else 0.0 for p, s in ((self.start, -1.0), (self.stop, 1.0)))
        return ring_prism([self.ring()], 0.0, self.length + low + high).placed(self.frame(low))

    def turned(self, of: "Frame", to: "Frame") -> "Scoop":
        """The same scoop, told in one frame, as another frame of the same space tells it."""
        here = to.inside(of)
        a, b = here.to_world(np.array([self.start, self.stop]))
        return msgspec.structs.replace(self, start=vec(a), stop=vec(b), into=vec(here.turn(self.into)), up=vec(here.turn(self.up)))
