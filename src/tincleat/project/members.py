"""Where a member's steel lies: its axis frame, length and extents."""

import math
from functools import lru_cache
from typing import Literal

import numpy as np

from tincleat.catalogue.sections import Section, section
from tincleat.errors import BadValue
from tincleat.geometry.frames import Array, Frame, unit, vec
from tincleat.geometry.outline import Outline
from tincleat.geometry.tolerances import PARALLEL
from tincleat.project.entities import Cutout, Member
from tincleat.project.limits import FARTHEST

SHORTEST = 1.0  # mm
MOST_CUTS, MOST_CORNERS = 100, 500  # of one member, of one polygon


def cardinal_point(shape: Section, cardinal: str) -> tuple[float, float]:
    """The (y, z) of a named point of the section from the middle of its bounding box, mm."""
    if cardinal == "centroid":
        return shape.centroid
    y = shape.b / 2 * (("left" in cardinal) - ("right" in cardinal))
    z = shape.h / 2 * (("top" in cardinal) - ("bottom" in cardinal))
    return (y, z)


def length(member: Member) -> float:
    """System length in mm."""
    return math.dist(member.start, member.end)


def depth(x: Array, up: str = "") -> Array:
    """A direction (3,) from which the depth of a member along the unit direction ``x`` follows, without roll.

    ``plumb``, for columns and posts: the world's x axis, leaning as the member leans, so that no lean makes it jump.  ``level``, for
    all others: upward; on one that is plumb to a millionth, the world's x axis.  Empty is ``level`` with a hundred times that
    tolerance, as members were laid before this was kept with them.
    """
    if up == "plumb":
        # the smallest turn that takes the plumb line to the member takes its depth along
        way = 1.0 if x[2] >= 0 else -1.0
        base = np.array([0.0, 0.0, way])
        out: Array = np.array([1.0, 0.0, 0.0]) - (base + x) * float(x[0]) / (1.0 + abs(float(x[2])))
        return out
    near = PARALLEL if up == "level" else PARALLEL * 100
    return np.array([1.0, 0.0, 0.0]) if math.hypot(x[0], x[1]) < near else np.array([0.0, 0.0, 1.0])


def up_of(role: str) -> Literal["plumb", "level"]:
    """How the depth of a new member of a role lies."""
    return "plumb" if role in ("column", "post") else "level"


def default_axes(x: Array, up: str = "") -> tuple[Array, Array]:
    """The y and z axes of a member without roll along the unit direction ``x``."""
    frame = Frame.of((0.0, 0.0, 0.0), x, depth(x, up))
    return np.array(frame.y), np.array(frame.z)


@lru_cache(maxsize=65536)
def axis_frame(member: Member) -> Frame:
    """Frame at the member's start in the middle of its section: x along the member, z along the section's depth.

    With no roll the depth points upward; on an upright member it points along the world's x axis (:func:`depth`).
    """
    shape = section(member.section)
    x = unit(np.subtract(member.end, member.start))
    frame = Frame.of(member.start, x, depth(x, member.up))
    if member.roll:
        y, z = np.array(frame.y), np.array(frame.z)
        frame = Frame.of(member.start, x, z * math.cos(member.roll) - y * math.sin(member.roll))
    cy, cz = cardinal_point(shape, member.cardinal)
    origin = frame.to_world(np.array([(0.0, member.offset[0] - cy, member.offset[1] - cz)]))[0]
    return Frame(vec(origin), frame.x, frame.z)


def outs_between(member: Member, first: float, last: float) -> tuple[Cutout, ...]:
    """The polygon cuts that touch a member's steel between two stations (mm from its start), give or take its section's size."""
    way = unit(np.subtract(member.end, member.start))
    shape = section(member.section)
    room = shape.h + shape.b

    def touches(out: Cutout) -> bool:
        plane = Frame(out.point, out.x, out.z)
        along = (plane.to_world([(u, v, 0.0) for u, v in out.corners]) - np.array(member.start)) @ way
        lean = room * abs(float(np.array(out.z) @ way))
        return bool(along.max() + lean > first and along.min() - lean < last)

    return tuple(out for out in member.outs if touches(out))


def check_member(member: Member) -> Member:
    """The member itself if it can be built; raises :class:`BadValue` or NotFound naming what is wrong."""
    section(member.section)
    for label, point in (("start", member.start), ("end", member.end)):
        if not all(math.isfinite(v) and abs(v) <= FARTHEST for v in point):
            raise BadValue(f"{label} {tuple(point)} is not a place in the model", member.name or member.id, "three finite lengths within 100 km of the origin")
    if length(member) < SHORTEST:
        raise BadValue("start and end are the same point", member.name or member.id, "ends at least 1 mm apart")
    if len(member.cuts) > MOST_CUTS or len(member.outs) > MOST_CUTS:
        raise BadValue(f"it has {max(len(member.cuts), len(member.outs))} cuts", member.name or member.id, f"at most {MOST_CUTS}")
    for plane in member.cuts:
        if not all(math.isfinite(v) for v in (*plane.point, *plane.normal)) or abs(math.hypot(*plane.normal) - 1) > 1e-6:
            raise BadValue("a cutting plane has no proper normal", member.name or member.id, "a point and a unit direction")
    for out in member.outs:
        if len(out.corners) > MOST_CORNERS:
            raise BadValue(f"a polygon cut has {len(out.corners)} corners", member.name or member.id, f"at most {MOST_CORNERS}")
        if len(out.corners) < 3 or len(out.corners) != len(out.radii) or not all(math.isfinite(v) for c in out.corners for v in c):
            raise BadValue("a polygon cut has no proper corners", member.name or member.id, "three corners or more, a radius for each")
        try:
            Frame.of(out.point, out.x, out.z)
            if not Outline.rounded(list(out.corners), list(out.radii)).area > 0:
                raise BadValue("its corners enclose nothing")
        except (ValueError, ArithmeticError) as error:
            raise BadValue(f"a polygon cut makes no shape: {error}", member.name or member.id, "corners about an area, radii that fit between them") from None
    if not math.isfinite(member.roll):
        raise BadValue("the roll is not a number", member.name or member.id, "an angle")
    return member
