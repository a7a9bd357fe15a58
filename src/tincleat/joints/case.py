"""A joint as a family sees it: by value, in the joint's own frame, so that like joints are equal (kin)."""

import math
from collections.abc import Sequence
from typing import Literal

import msgspec

from tincleat.catalogue.sections import Section, section
from tincleat.geometry.frames import Frame, Vec3
from tincleat.geometry.tolerances import KIN_DIRECTION, KIN_LENGTH
from tincleat.project.entities import End, Member

REACH = 600.0  # mm: how far from a joint a member's own end still makes a difference to it
Kind = Literal[
    "column foot", "column head", "column under beam", "post on beam", "column splice", "beam to column flange", "beam to column web",
    "beam to hollow face", "beam to beam web", "beam on flange", "knee", "apex", "splice", "corner", "brace end", "near miss", "free end",
]  # fmt: skip
MEETING: frozenset[str] = frozenset({"near miss", "free end"})


class CaseMember(msgspec.Struct, frozen=True, gc=False):
    """A member near a joint.  ``frame`` lies on the section's middle with x along the member; steel from ``low`` to ``high`` (mm, clipped).

    Its y and z axes say how the section lies: a channel's web is on its own side of y, wherever that is in the joint.
    """

    section: str
    grade: str
    frame: Frame
    low: float
    high: float

    @property
    def shape(self) -> Section:
        """The member's catalogue section."""
        return section(self.section)

    @property
    def away(self) -> Vec3:
        """Direction along the member into its longer part; for the member that is joined, away from the joint."""
        x, y, z = self.frame.x
        return (x, y, z) if self.high >= -self.low else (-x, -y, -z)


class Case(msgspec.Struct, frozen=True, gc=False):
    """All a family may know of a joint: its kind and the members, the supported one first.  Equal cases are kin."""

    kind: Kind
    members: tuple[CaseMember, ...]

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


class Joint(msgspec.Struct, frozen=True):
    """A place where member ends meet, in the world.

    ``key`` names it by its first end (``m12.start``); ``ends`` are the member ends it settles, ``support`` the member that
    carries it.  ``mirrored`` joints are the mirror image (local y turned) of their ``case``.  ``place`` tells where in words.
    """

    key: str
    kind: Kind
    ends: tuple[tuple[str, End], ...]
    support: str
    frame: Frame
    case: Case
    mirrored: bool
    words: str
    place: str

    @property
    def members(self) -> tuple[str, ...]:
        """Ids of the members in the order of ``case.members``."""
        return tuple(m for m, _ in self.ends[:1]) + ((self.support,) if self.support else ()) + tuple(m for m, _ in self.ends[1:] if m != self.support)


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
    if not shape.symmetric:
        return local
    if _negative(x):
        x, low, high = (-x[0], -x[1], -x[2]), -high, -low
    return origin, x, ((-z[0], -z[1], -z[2]) if _negative(z) else z), low, high


CHANNELS = ("C", "CF")


def _image(local: _Local, shape: Section) -> _Local:
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


def mirror_case(case: Case) -> Case:
    """The true mirror image of a case in the joint's x-z plane."""
    images = [(m, _image((m.frame.origin, m.frame.x, m.frame.z, m.low, m.high), m.shape)) for m in case.members]
    return Case(case.kind, tuple(CaseMember(m.section, m.grade, Frame(o, x, z), low, high) for m, (o, x, z, low, high) in images))


def make_case(kind: Kind, frame: Frame, steel: Sequence[tuple[Member, Frame, float, float]]) -> tuple[Case, bool]:
    """The case of a joint and whether it is stored mirrored.

    ``steel`` gives each member with its world frame at the joint and the steel's extent along it.  Of a joint and its mirror
    image the one that sorts first is the case.
    """
    (ax, ay, az), origin = frame.axes.tolist(), frame.origin

    def turned(v: Vec3) -> Vec3:
        return (
            v[0] * ax[0] + v[1] * ax[1] + v[2] * ax[2],
            v[0] * ay[0] + v[1] * ay[1] + v[2] * ay[2],
            v[0] * az[0] + v[1] * az[1] + v[2] * az[2],
        )

    shapes = [section(member.section) for member, *_ in steel]
    plain: list[_Local] = []
    for _, at, low, high in steel:
        gap = (at.origin[0] - origin[0], at.origin[1] - origin[1], at.origin[2] - origin[2])
        plain.append((turned(gap), turned(at.x), turned(at.z), low, high))

    def build(locals_: list[_Local]) -> Case:
        members = []
        for number, ((member, *_), local, shape) in enumerate(zip(steel, locals_, shapes, strict=True)):
            o, x, z, low, high = _upright(local, shape) if number else local
            low, high = _snap(max(-REACH, low), KIN_LENGTH), _snap(min(REACH, high), KIN_LENGTH)
            members.append(CaseMember(shape.name, member.grade, _snapped(o, x, z), low, high))
        return Case(kind, tuple(members))

    case = build(plain)
    if all(shape.symmetric for shape in shapes) and all(max(abs(o[1]), abs(x[1]), min(abs(z[1]), 1 - abs(z[1]))) < 1e-6 for o, x, z, *_ in plain):
        return case, False
    image = build([_image(local, shape) for local, shape in zip(plain, shapes, strict=True)])
    if image != case and _order(image) < _order(case):
        return image, True
    return case, False


def _order(case: Case) -> tuple[float, ...]:
    out: list[float] = []
    for m in case.members:
        out += [*m.frame.origin, *m.frame.x, *m.frame.z, m.low, m.high]
    return tuple(out)
