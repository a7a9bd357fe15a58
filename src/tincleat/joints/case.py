"""A joint as a family sees it: by value, in the joint's own frame, so that like joints are equal (kin)."""

import math
from collections.abc import Sequence
from typing import Literal

import msgspec
import numpy as np

from tincleat.catalogue.sections import Section, section
from tincleat.geometry.frames import Array, Frame, vec
from tincleat.geometry.tolerances import KIN_DIRECTION, KIN_LENGTH
from tincleat.project.entities import End, Member

REACH = 600.0  # mm: how far from a joint a member's own end still makes a difference to it
Kind = Literal[
    "column foot", "column head", "column under beam", "post on beam", "column splice", "beam to column flange", "beam to column web",
    "beam to hollow face", "beam to beam web", "beam on flange", "knee", "apex", "splice", "corner", "brace end", "near miss", "free end",
]  # fmt: skip
MEETING: frozenset[str] = frozenset({"near miss", "free end"})


class CaseMember(msgspec.Struct, frozen=True, gc=False):
    """A member near a joint.  ``frame`` lies on the section's middle with x along the member; steel from ``low`` to ``high`` (mm, clipped)."""

    section: str
    grade: str
    frame: Frame
    low: float
    high: float

    @property
    def shape(self) -> Section:
        """The member's catalogue section."""
        return section(self.section)


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
        return math.acos(max(-1.0, min(1.0, self.supported.frame.x[2])))

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


def _snap(values: Array, step: float) -> Array:
    # the bias moves rounding borders off the half steps that real dimensions land on
    return np.round((values + step * 0.137) / step) * step + 0.0


def _snapped(frame: Frame) -> Frame:
    return Frame.of(vec(_snap(frame.o, KIN_LENGTH)), vec(_snap(frame.axes[0], KIN_DIRECTION)), vec(_snap(frame.axes[2], KIN_DIRECTION)))


def _upright(frame: Frame, low: float, high: float, shape: Section) -> tuple[Frame, float, float]:
    """The same steel with its axes pointing to the positive side, where the section's symmetry allows it."""
    if not shape.symmetric:
        return frame, low, high
    x, z = np.array(frame.x), np.array(frame.z)
    if tuple(np.round(x[::-1], 4)) < (0.0, 0.0, 0.0):
        x, low, high = -x, -high, -low
    if tuple(np.round(z[::-1], 4)) < (0.0, 0.0, 0.0):
        z = -z
    return Frame(frame.origin, vec(x), vec(z)), low, high


def make_case(kind: Kind, frame: Frame, steel: Sequence[tuple[Member, Frame, float, float]]) -> tuple[Case, bool]:
    """The case of a joint and whether it is stored mirrored.

    ``steel`` gives each member with its world frame at the joint and the steel's extent along it.  Of a joint and its mirror
    image the one that sorts first is the case, if every section is its own mirror image.
    """

    def build(mirror: bool) -> Case:
        members = []
        for number, (member, at, low, high) in enumerate(steel):
            shape = section(member.section)
            local = frame.inside(at)
            if mirror:
                local = local.mirrored_y()
            if number:
                local, low, high = _upright(local, low, high, shape)
            ends = [float(v) for v in _snap(np.array([max(-REACH, low), min(REACH, high)]), KIN_LENGTH)]
            members.append(CaseMember(shape.name, member.grade, _snapped(local), ends[0], ends[1]))
        return Case(kind, tuple(members))

    plain = build(False)
    if not all(section(member.section).symmetric for member, *_ in steel):
        return plain, False
    image = build(True)
    if image != plain and _order(image) < _order(plain):
        return image, True
    return plain, False


def _order(case: Case) -> tuple[float, ...]:
    out: list[float] = []
    for m in case.members:
        out += [*m.frame.origin, *m.frame.x, *m.frame.z, m.low, m.high]
    return tuple(out)
