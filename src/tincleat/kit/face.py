"""The face of a support that a member's end comes up to, as the support really lies."""

from collections.abc import Callable, Sequence

import msgspec
import numpy as np

from tincleat.details.parts import Angle
from tincleat.errors import NoFit
from tincleat.geometry.frames import Array, Vec3, crossed, vec
from tincleat.joints.case import Case, CaseMember
from tincleat.kit.cope import web_of
from tincleat.steel.cuts import EndCut

FLANGED = ("beam to column flange", "beam on flange", "knee")
EVEN = 1e-4  # difference of direction cosines that counts as none


def face_of(case: Case, member: CaseMember | None = None) -> tuple[Array, Array]:
    """Unit normal (3,) of the support's face, towards the supported member (or ``member``), and a point (3,) on it; joint's frame, mm.

    The flange, web or wall is the one that the joint's kind says; for a hollow section the wall that looks more at the member.
    """
    support = case.support
    assert support is not None
    on_flange = case.kind in FLANGED
    away = (member or case.supported).away
    if support.shape.shape == "CHS":  # a round one has its face where the member comes from
        axis, way = np.array(support.frame.x), np.array(away)
        n = way - axis * float(way @ axis)
        n = n / np.linalg.norm(n)
        return n, support.frame.o + n * support.shape.h / 2
    if case.kind == "beam to hollow face":
        y, z = abs(support.frame.y[0]), abs(support.frame.z[0])
        on_flange = z > y - EVEN
    return flange_face(support, away) if on_flange else web_face(support, away)


def face_width(case: Case, member: CaseMember | None = None) -> tuple[Array, float, float]:
    """The direction (3,) along a support's face square to its length, and how far the face goes either way from the support's middle line, mm.

    On a web it is its straight part between the roots.
    """
    support = case.support
    assert support is not None
    shape, normal = support.shape, face_of(case, member)[0]
    if shape.shape == "CHS":
        return crossed(np.array(support.frame.x), normal), -shape.h / 2, shape.h / 2
    if abs(float(normal @ np.array(support.frame.z))) > 0.9:
        side = shape.b / 2 - (shape.r1 if shape.shape == "RHS" else 0.0)
        return np.array(support.frame.y), -side, side
    side = shape.h / 2 - (shape.r1 if shape.shape == "RHS" else shape.root)
    return np.array(support.frame.z), -side, shape.h / 2 if shape.shape == "T" else side


def steel_along(member: CaseMember, at: "Sequence[tuple[float, float]] | None" = None) -> tuple[float, float]:
    """From where to where a member's steel goes, stations in its own frame, mm: what its own cuts leave of it at all of some places (y, z)
    of its section, at every corner of it if none are given."""
    low, high = member.low, member.high
    if at is None:
        y0, z0, y1, z1 = member.shape.outer.bounds
        at = [(y, z) for y in (y0, y1) for z in (z0, z1)]
    for cut in member.cuts.ends:
        a, b, c = cut.normal
        if abs(a) > 0.5:
            there = [cut.point[0] - (b * (y - cut.point[1]) + c * (z - cut.point[2])) / a for y, z in at]
            low, high = (max(low, *there), high) if a > 0 else (low, min(high, *there))
    return low, high


def face_places(member: CaseMember, normal: "Array | Vec3") -> list[tuple[float, float]]:
    """Places (y, z) of a member's section on the face that looks along ``normal`` (joint's frame): across a flange, or in the middle of a web."""
    y, z = (float(np.array(v) @ np.array(normal)) for v in (member.frame.y, member.frame.z))
    y0, z0, y1, z1 = member.shape.outer.bounds
    if abs(z) >= abs(y):
        return [(v, z1 if z > 0 else z0) for v in (y0, y1)]
    return [(y1 if y > 0 else y0, v) for v in (z0, z1)] if member.shape.shape in ("RHS", "CHS") else [(0.0, 0.0)]


def keep_on(member: CaseMember, points: "Array | list[Array]", what: str) -> None:
    """Raise NoFit with figures where points (n, 3; joint's frame) of ``what`` is put on a member lie past that member's ends."""
    local = member.frame.to_local(np.asarray(points))
    past = max(float(local[:, 0].max()) - member.high, member.low - float(local[:, 0].min()))
    for cut in member.cuts.ends:
        past = max(past, -float(((local - np.array(cut.point)) @ np.array(cut.normal)).min()))
    if past > 0.05:
        raise NoFit(f"{what} reaches {past:.0f} mm past the end of {member.shape.name}", right="a support that goes on further, a beam at another level, or another family")


def raised(case: Case) -> tuple[Case, tuple[EndCut, ...]]:
    """At a knee, where the column's head is settled with the beam's end, the case with a column that goes up to the top of the beam at its
    face if it was drawn shorter, and the cut at that head; any other case as it is."""
    if case.kind != "knee":
        return case, ()
    column, beam = case.members[1], case.supported
    normal, point = face_of(case)
    over = beam.frame.o + np.array(beam.frame.z) * (beam.shape.h / 2 * (1.0 if beam.frame.z[2] > 0 else -1.0))
    way = np.array(beam.away)
    top = over + way * (float((point - over) @ normal) / float(way @ normal))
    station = float((top - column.frame.o) @ np.array(column.frame.x))
    if column.high <= -column.low:  # its longer part lies back along its own direction: the head is its end
        column = msgspec.structs.replace(column, high=max(column.high, station))
        head = column.high
    else:
        column = msgspec.structs.replace(column, low=min(column.low, station))
        head = column.low
    cut = EndCut(1, column.frame.point((head, 0.0, 0.0)), column.away)
    return msgspec.structs.replace(case, members=(beam, column, *case.members[2:])), (cut,)


def flange_face(member: CaseMember, towards: "Array | tuple[float, float, float]") -> tuple[Array, Array]:
    """Outward normal and a point of the flange's (or end wall's) outer face that looks along ``towards``."""
    n = np.array(member.frame.z)
    n = n if float(n @ np.asarray(towards)) > 0 else -n
    return n, member.frame.o + n * member.shape.h / 2


def web_face(member: CaseMember, towards: "Array | tuple[float, float, float]") -> tuple[Array, Array]:
    """Outward normal and a point of the web's (or side wall's) face that looks along ``towards``."""
    y = np.array(member.frame.y)
    sign = 1.0 if float(y @ np.asarray(towards)) > 0 else -1.0
    web = web_of(member.shape.elements)
    reach = member.shape.b / 2 if web is None else sign * web.at + web.thickness / 2
    return y * sign, member.frame.o + y * sign * reach


def face_angles(normal: Array, point: Array) -> tuple[Angle, ...]:
    """The acute angles between a member along x and a face (unit normal and a point on it, joint's frame) in plan and in front."""
    out = []
    for view, turned in (("plan", (-normal[1], normal[0], 0.0)), ("front", (-normal[2], 0.0, normal[0]))):
        t = np.array(turned)
        t = t if t[0] > 0 else -t
        out.append(Angle(view, vec(point), vec(point + np.array([100.0, 0.0, 0.0])), vec(point + 100.0 * t)))
    return tuple(out)


def along_x(normal: Array, point: Array, y: float, z: float) -> float:
    """Where a plane of a ``normal`` (3,) through a ``point`` (3,) lies along x at (y, z), mm."""
    return float(point[0] - (normal[1] * (y - point[1]) + normal[2] * (z - point[2])) / normal[0])


def out_along(case: Case, m: CaseMember | None = None) -> Callable[[float, float], float]:
    """Where the support's face lies along the joint's x (mm) at a place (y, z), as :func:`face_of` gives it."""
    n, p = face_of(case, m)
    return lambda y, z: along_x(n, p, y, z)


def stand_off(face: Callable[[float, float], float], ys: tuple[float, float], zs: tuple[float, float], spare: float) -> float:
    """Where along a beam a flat that is square to it touches a support's face with one of its corners, mm; ``face`` tells where that lies at
    (y, z), ``ys`` and ``zs`` how far the flat reaches.  Raises NoFit with figures where its other corners would stand more than ``spare`` mm off."""
    at = [face(y, z) for y in ys for z in zs]
    if max(at) - min(at) > spare + 0.005:
        raise NoFit(f"the face is out of square to the beam by {max(at) - min(at):.1f} mm over {abs(ys[1] - ys[0]):.0f} x {abs(zs[1] - zs[0]):.0f} mm", right=f"up to {spare:g} mm, or a family that follows the slope")
    return max(at)
