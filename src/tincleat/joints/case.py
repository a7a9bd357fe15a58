"""A joint as a family sees it: by value, in the joint's own frame, so that like joints are equal (kin)."""

import math
from collections.abc import Sequence
from functools import lru_cache
from typing import Literal, NamedTuple

import msgspec
import numpy as np

from tincleat.catalogue.sections import Section, section
from tincleat.geometry.frames import Frame, Vec3
from tincleat.geometry.outline import Outline
from tincleat.geometry.tolerances import KIN_DIRECTION, KIN_LENGTH
from tincleat.project.entities import End, Member
from tincleat.steel.cuts import NONE, Cuts, EndCut, MemberHole, Notch, in_outer

LAPPED = 1500.0  # mm that a purlin may go on past what carries it, lying in the next one
REACH = 600.0  # mm: how far from a joint a member's own end still makes a difference to it
FURTHER = {"knee": 4000.0, "apex": 4000.0, "splice": 2500.0, "brace end": 1500.0, "sloping foot": 2000.0, "along": 12000.0}  # where haunches lie, gussets of steep braces and feet of gentle stringers reach, and what lies along a member
ALONG = {"beam to column flange": 2500.0}  # and where the joined member may have one
Kind = Literal[
    "column foot", "column head", "column under beam", "post on beam", "column splice", "beam to column flange", "beam to column web",
    "beam to hollow face", "beam to beam web", "beam on flange", "knee", "apex", "splice", "corner", "brace end", "near miss", "free end", "sloping foot", "post beside", "brace on flange", "lap",
    "station", "along", "crossing", "row",
]  # fmt: skip
PLACED: frozenset[str] = frozenset({"station", "along", "crossing", "row"})  # sites that are there because a connection was put there
MEETING: frozenset[str] = frozenset({"near miss", "free end"})


class CaseMember(msgspec.Struct, frozen=True, gc=False):
    """A member near a joint.  ``frame`` lies on the section's middle with x along the member; steel from ``low`` to ``high`` (mm, clipped).

    Its y and z axes say how the section lies: a channel's web is on its own side of y, wherever that is in the joint.  ``role``
    tells what it does there; ``cuts`` are those it has besides the detail's, near the joint, in its own frame.
    """

    section: str
    grade: str
    frame: Frame
    low: float
    high: float
    role: str = "supported"
    cuts: Cuts = NONE

    @property
    def shape(self) -> Section:
        """The member's catalogue section."""
        return section(self.section)

    @property
    def away(self) -> Vec3:
        """Direction along the member into its longer part; for the member that is joined, away from the joint."""
        x, y, z = self.frame.x
        return (x, y, z) if self.high >= -self.low else (-x, -y, -z)


class Standing(msgspec.Struct, frozen=True, gc=False):
    """A plate that another connection put near a joint: ``outline`` (no holes) in the frame's x-y plane, from z = 0 to ``thickness``."""

    name: str
    frame: Frame
    outline: Outline
    thickness: float

    def seen_from(self, frame: Frame) -> "Standing":
        """The same plate, given where ``frame`` is given, in that frame's own coordinates, rounded as joints are."""
        at = frame.inside(self.frame)
        return Standing(self.name, _snapped(at.origin, at.x, at.z), self.outline, self.thickness)

    @property
    def image(self) -> "Standing":
        """Its mirror image in the joint's x-z plane."""
        return Standing(self.name, self.frame.mirrored_y(), self.outline.mirrored_y(), self.thickness)


class Case(msgspec.Struct, frozen=True, gc=False):
    """All a family may know of a joint: its kind and the members, the supported one first.  Equal cases are kin.

    ``context`` are plates of other connections nearby; only families that look at them are given any.
    """

    kind: Kind
    members: tuple[CaseMember, ...]
    context: tuple[Standing, ...] = ()

    @property
    def supported(self) -> CaseMember:
        """The member whose end is joined; its local x points away from the joint."""
        return self.members[0]

    @property
    def lean(self) -> float:
        """Angle in rad between the supported member and the joint's z axis; at a column foot that axis is plumb."""
        return math.acos(max(-1.0, min(1.0, self.supported.away[2])))

    @property
    def support(self) -> CaseMember | None:
        """The member that carries it, if any."""
        return self.members[1] if len(self.members) > 1 else None

    def all(self, prefix: str) -> "list[tuple[int, CaseMember]]":
        """The members whose role is ``prefix`` or ``prefix-N``, each with its number in the case."""
        return [(i, m) for i, m in enumerate(self.members) if m.role == prefix or m.role.startswith(prefix + "-")]


class Joint(msgspec.Struct, frozen=True):
    """A place where member ends meet, in the world.

    ``key`` names it by its first end (``m12.start``), or a station (``m12@2500``), crossing (``m12xm14``) or row
    (``m12+m14@2500``) that a connection was put at; ``ends`` are the member ends it settles, ``support`` the member that carries it, ``members`` all of them in the order of ``case.members``.  ``mirrored`` joints are the mirror image (local y turned) of their ``case``.  ``height`` is its place over the datum.
    """

    key: str
    kind: Kind
    ends: tuple[tuple[str, End], ...]
    support: str
    frame: Frame
    case: Case
    mirrored: bool
    words: str
    height: float
    members: tuple[str, ...]


def reach_of(kind: Kind, number: int) -> float:
    """How far from a joint the steel of member ``number`` of a case is given, mm: from there on it goes on unseen."""
    if kind == "lap":  # two that lap, and what carries them
        return LAPPED if number < 2 else REACH
    return FURTHER.get(kind, REACH) if number else ALONG.get(kind, FURTHER.get(kind, REACH))


_BIAS = 0.137  # of a step: moves rounding borders off the half steps that real dimensions land on
_Local = tuple[Vec3, Vec3, Vec3, float, float]  # origin, x, z, low, high


def _snap(value: float, step: float) -> float:
    return round(value / step + _BIAS) * step + 0.0


def _snapped(origin: Vec3, x: Vec3, z: Vec3) -> Frame:
    """Rounded and squared up again; plain arithmetic, for this runs for every member of every joint."""
    x = _unit(*(_snap(v, KIN_DIRECTION) for v in x))
    z0, z1, z2 = (_snap(v, KIN_DIRECTION) for v in z)
    along = x[0] * z0 + x[1] * z1 + x[2] * z2
    z = _unit(z0 - along * x[0], z1 - along * x[1], z2 - along * x[2])
    return Frame((_snap(origin[0], KIN_LENGTH), _snap(origin[1], KIN_LENGTH), _snap(origin[2], KIN_LENGTH)), x, z)


def snapped(frame: Frame) -> Frame:
    """A frame rounded as joint geometry is before comparing."""
    return _snapped(frame.origin, frame.x, frame.z)


def _unit(a: float, b: float, c: float) -> Vec3:
    size = math.sqrt(a * a + b * b + c * c)
    return (a / size, b / size, c / size)


def _negative(v: Vec3) -> bool:
    """Whether the last coordinate that is not zero is negative."""
    for value in (v[2], v[1], v[0]):
        if abs(value) > 1e-4:
            return value < 0
    return False


def _upright(local: _Local, shape: Section) -> _Local:
    """The same steel with its axes pointing to the positive side, where the section's symmetry allows it."""
    origin, x, z, low, high = local
    if shape.shape == "T" and _negative(x):
        return origin, (-x[0], -x[1], -x[2]), z, -high, -low
    if shape.shape in CHANNELS and _negative(x):
        return origin, (-x[0], -x[1], -x[2]), (-z[0], -z[1], -z[2]), -high, -low
    if not shape.symmetric:
        return local
    if _negative(x):
        x, low, high = (-x[0], -x[1], -x[2]), -high, -low
    return origin, x, ((-z[0], -z[1], -z[2]) if _negative(z) else z), low, high


CHANNELS = ("C", "CF")


def image(local: _Local, shape: Section) -> _Local:
    """The mirror image in the joint's x-z plane: where the same section lies for its steel to be there.

    A section with an upright axis of symmetry keeps its depth; a channel is turned over; any other bar is run the other way.
    """
    o, x, z, low, high = local
    o, x, z = (o[0], -o[1], o[2]), (x[0], -x[1], x[2]), (z[0], -z[1], z[2])
    if shape.symmetric or shape.shape == "T":
        return o, x, z, low, high
    if shape.shape in CHANNELS:
        return o, x, (-z[0], -z[1], -z[2]), low, high
    return o, (-x[0], -x[1], -x[2]), z, -high, -low


def cuts_image(cuts: Cuts) -> Cuts:
    """Cuts as they lie in the mirror image in the joint's x-z plane."""

    def m(v: Vec3) -> Vec3:
        return (v[0], -v[1] + 0.0, v[2])

    return Cuts(
        tuple(EndCut(e.member, m(e.point), m(e.normal), e.flat, e.taper, m(e.across)) for e in cuts.ends),
        tuple(Notch(n.name, n.member, n.frame.mirrored_y(), n.outline.mirrored_y(), n.depth) for n in cuts.notches),
        tuple(MemberHole(h.member, h.element, m(h.point), m(h.axis), h.width, h.length, m(h.along), h.kind, h.sink, h.sink_angle) for h in cuts.holes),
    )


def mirror_case(case: Case) -> Case:
    """The true mirror image of a case in the joint's x-z plane."""
    out = []
    for m in case.members:
        o, x, z, low, high = image((m.frame.origin, m.frame.x, m.frame.z, m.low, m.high), m.shape)
        frame = Frame(o, x, z)
        cuts = cuts_image(in_outer(m.cuts, m.frame)).seen_from(frame) if m.cuts else NONE
        out.append(CaseMember(m.section, m.grade, frame, low, high, m.role, cuts))
    return Case(case.kind, tuple(out), tuple(s.image for s in case.context))


class Steel(NamedTuple):
    """A member as it stands at a joint: ``at`` is its world frame there, steel from ``low`` to ``high``; ``cuts`` of its own lie in ``at``."""

    member: Member
    at: Frame
    low: float
    high: float
    role: str
    cuts: Cuts = NONE


def make_case(kind: Kind, frame: Frame, steel: Sequence[Steel]) -> tuple[Case, bool]:
    """The case of a joint and whether it is stored mirrored.

    Of a joint and its mirror image the one that sorts first is the case.
    """
    (ax, bx, cx), (ay, by, cy), (az, bz, cz) = frame.rows
    ox, oy, oz = frame.origin

    def turned(a: float, b: float, c: float) -> Vec3:
        return (round(a * ax + b * bx + c * cx, FINE), round(a * ay + b * by + c * cy, FINE), round(a * az + b * bz + c * cz, FINE))

    plain = []
    for one in steel:
        x, y, z = one.at.origin
        local = (turned(x - ox, y - oy, z - oz), turned(*one.at.x), turned(*one.at.z), round(one.low, FINE), round(one.high, FINE))
        plain.append((one.member.section, one.member.grade, one.role, local))
    if any(one.cuts for one in steel):
        return _case(kind, tuple(plain), tuple(in_outer(one.cuts, Frame(*p[3][:3])) if one.cuts else NONE for one, p in zip(steel, plain, strict=True)))
    return _case(kind, tuple(plain), ())


FINE = 7  # digits: differences below are noise of the arithmetic; equal places are looked up rather than made again


@lru_cache(maxsize=16384)
def _case(kind: Kind, steel: tuple[tuple[str, str, str, _Local], ...], cuts: tuple[Cuts, ...]) -> tuple[Case, bool]:
    """The case of members by section, grade, role and place in the joint's frame, and of their own cuts in it; whether it is stored mirrored."""
    shapes = [section(one[0]) for one in steel]
    plain = [one[3] for one in steel]

    def build(locals_: list[_Local], cut: "Sequence[Cuts]") -> Case:
        members = []
        for number, ((_, grade, role, _), local, shape) in enumerate(zip(steel, locals_, shapes, strict=True)):
            o, x, z, low, high = _upright(local, shape) if number or kind in ("row", "brace end") else local
            far = reach_of(kind, number)
            low, high = _snap(max(-far, low), KIN_LENGTH), _snap(min(far, high), KIN_LENGTH)
            at = _snapped(o, x, z)
            members.append(CaseMember(shape.name, grade, at, low, high, role, snapped_cuts(cut[number].seen_from(at)) if cut and cut[number] else NONE))
        return Case(kind, tuple(members))

    case = build(plain, cuts)
    if (
        not cuts
        and all(shape.symmetric for shape in shapes)
        and all(max(abs(o[1]), abs(x[1]), min(abs(z[1]), 1 - abs(z[1]))) < 1e-6 for o, x, z, *_ in plain)
    ):
        return case, False
    other = build([image(local, shape) for local, shape in zip(plain, shapes, strict=True)], [cuts_image(c) for c in cuts])
    if other != case and order(other) < order(case):
        return other, True
    return case, False


def near_cuts(cuts: Cuts, low: float, high: float) -> Cuts:
    """Those of a member's cuts that touch its steel between two stations (mm, its own frame)."""
    if not cuts:
        return NONE

    def plane(e: EndCut) -> bool:
        n = e.normal
        return abs(n[0]) < 1e-6 or low <= e.point[0] + (n[1] * e.point[1] + n[2] * e.point[2]) / n[0] <= high

    def prism(n: Notch) -> bool:
        flat = n.outline.points(1.0)
        x = n.frame.to_world(np.column_stack([np.tile(flat, (2, 1)), np.repeat([0.0, n.depth], len(flat))]))[:, 0]
        return bool(x.max() >= low and x.min() <= high)

    return Cuts(tuple(e for e in cuts.ends if plane(e)), tuple(n for n in cuts.notches if prism(n)))


def snapped_cuts(cuts: Cuts) -> Cuts:
    """Cuts on the steps to which joint geometry is rounded."""

    def p(v: Vec3) -> Vec3:
        return (_snap(v[0], KIN_LENGTH), _snap(v[1], KIN_LENGTH), _snap(v[2], KIN_LENGTH))

    def d(v: Vec3) -> Vec3:
        return _unit(*(_snap(c, KIN_DIRECTION) for c in v))

    def outline(o: Outline) -> Outline:
        return Outline(tuple((_snap(x, KIN_LENGTH), _snap(y, KIN_LENGTH), _snap(b, KIN_DIRECTION)) for x, y, b in o.vertices))

    return Cuts(
        tuple(EndCut(0, p(e.point), d(e.normal), _snap(e.flat, KIN_LENGTH), _snap(e.taper, KIN_LENGTH), d(e.across) if e.flat else e.across) for e in cuts.ends),
        tuple(Notch(n.name, 0, _snapped(n.frame.origin, n.frame.x, n.frame.z), outline(n.outline), _snap(n.depth, KIN_LENGTH)) for n in cuts.notches),
    )


def order(case: Case) -> tuple[tuple[float, ...], tuple[str, ...]]:
    """Numbers, then names, by which like cases are put in order, whatever was drawn first."""
    out: list[float] = []
    for m in case.members:
        out += [*m.frame.origin, *m.frame.x, *m.frame.z, m.low, m.high]
        for e in m.cuts.ends:
            out += [*e.point, *e.normal]
        for n in m.cuts.notches:
            out += [*n.frame.origin, *n.frame.x]
    return tuple(out), tuple(f"{m.section} {m.grade}" for m in case.members)
