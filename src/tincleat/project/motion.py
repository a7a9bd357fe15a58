"""Members moved, turned and mirrored as bodies: where their steel goes, and what must be said of them for it to lie there."""

import math
from dataclasses import dataclass

import msgspec
import numpy as np

from tincleat.catalogue.sections import section
from tincleat.errors import BadValue
from tincleat.geometry.frames import Array, Vec3, unit, vec
from tincleat.project.entities import Cardinal, Cutout, Member, Plane
from tincleat.project.members import axis_frame, default_axes


@dataclass(frozen=True, eq=False)
class Motion:
    """A rigid motion of the world, ``p -> turn @ p + shift`` (mm); ``mirrors`` when ``turn`` is a reflection."""

    turn: Array
    shift: Array

    @staticmethod
    def move(by: "Array | Vec3") -> "Motion":
        """A shift by a vector, mm."""
        return Motion(np.eye(3), np.asarray(by, dtype=float))

    @staticmethod
    def rotate(about: "Array | Vec3", axis: "Array | Vec3", angle: float) -> "Motion":
        """A turn by ``angle`` (rad, counter-clockwise seen against ``axis``) about a line; raises BadValue for an axis without length."""
        x, y, z = unit(axis)
        cross = np.array([(0, -z, y), (z, 0, -x), (-y, x, 0)])
        turn = np.eye(3) + math.sin(angle) * cross + (1 - math.cos(angle)) * cross @ cross
        about = np.asarray(about, dtype=float)
        return Motion(turn, about - turn @ about)

    @staticmethod
    def mirror(point: "Array | Vec3", normal: "Array | Vec3") -> "Motion":
        """A mirror image in the plane through ``point``; raises BadValue for a normal without length."""
        n = unit(normal)
        return Motion(np.eye(3) - 2 * np.outer(n, n), 2 * n * float(n @ np.asarray(point, dtype=float)))

    @property
    def mirrors(self) -> bool:
        """Whether the motion turns right hands into left ones."""
        return bool(np.linalg.det(self.turn) < 0)

    def point(self, p: "Array | Vec3") -> Vec3:
        """Where a point goes; whole micrometres stay whole, so that copies of a grid stay on the grid."""
        return vec(np.round(self.turn @ np.asarray(p, dtype=float) + self.shift, 6) + 0.0)

    def way(self, d: "Array | Vec3") -> Vec3:
        """Where a direction goes."""
        return vec(self.turn @ np.asarray(d, dtype=float))


def moved(member: Member, motion: Motion) -> tuple[Member, bool]:
    """The member after a motion, and whether its start and end changed places.

    A mirror image of a prismatic bar is the bar run the other way; sections that are their own mirror image, and
    channels (turned over), keep their direction, so that the end that was joined first stays the start.
    """
    frame = axis_frame(member)
    start, end = motion.point(member.start), motion.point(member.end)
    z, flipped = np.array(motion.way(frame.z)), False
    cardinal, (y_off, z_off) = member.cardinal, member.offset
    if motion.mirrors:
        shape = section(member.section)
        if shape.symmetric or shape.shape == "T":
            cardinal, y_off = _swapped(cardinal, "left", "right"), -y_off
        elif shape.shape in ("C", "CF"):
            z = -z
            cardinal, z_off = _swapped(cardinal, "top", "bottom"), -z_off
        else:
            start, end, flipped = end, start, True
    roll = roll_for(unit(np.subtract(end, start)), z, member.up)
    cuts = tuple(Plane(motion.point(c.point), motion.way(c.normal)) for c in member.cuts)
    outs = tuple(_moved_out(c, motion) for c in member.outs)
    offset = (y_off + 0.0, z_off + 0.0)
    return msgspec.structs.replace(member, start=start, end=end, roll=roll, cardinal=cardinal, offset=offset, cuts=cuts, outs=outs), flipped


def _moved_out(out: Cutout, motion: Motion) -> Cutout:
    """A polygon cut after a motion; in a mirror image its plane is seen from the other side, and its corners run the other way round."""
    corners, radii = out.corners, out.radii
    if motion.mirrors:
        corners, radii = tuple((u, -v + 0.0) for u, v in corners[::-1]), radii[::-1]
    return Cutout(motion.point(out.point), motion.way(out.x), motion.way(out.z), corners, radii)


def roll_for(x: Array, z: Array, up: str = "level") -> float:
    """The roll (rad) that makes a member along ``x`` point its depth along ``z``; ``up`` is how it would lie without."""
    y0, z0 = default_axes(x, up)
    roll = math.atan2(-float(z @ y0), float(z @ z0))
    return 0.0 if abs(roll) < 1e-12 else math.pi if abs(abs(roll) - math.pi) < 1e-12 else roll


def _swapped(cardinal: Cardinal, a: str, b: str) -> Cardinal:
    return cardinal.replace(a, "\0").replace(b, a).replace("\0", b)  # type: ignore[return-value]


def reach_plane(member: Member, point: "Array | Vec3", normal: "Array | Vec3") -> float:
    """Station (mm from the start, along the system line) where a member's line meets a plane; raises BadValue if it runs beside it."""
    way = unit(np.subtract(member.end, member.start))
    n = unit(normal)
    slant = float(way @ n)
    if abs(slant) < 1e-6:
        raise BadValue("the member runs along that plane and never meets it", member.name, "a plane that crosses its line")
    return float((np.asarray(point, dtype=float) - np.array(member.start)) @ n) / slant
