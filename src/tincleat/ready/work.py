"""What true-up rules work on: the members as trued so far, who is near a point, and what was changed or left."""

import math
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field

import msgspec
import numpy as np
import shapely

from tincleat.catalogue.sections import section
from tincleat.geometry.frames import Array, Vec3, unit, vec
from tincleat.joints.find import Finder
from tincleat.joints.table import STEEP
from tincleat.project.entities import End, Member
from tincleat.project.members import axis_frame, length

FLAT = 0.02  # |z| of a direction up to which a member counts as level
ENDS: tuple[End, End] = ("start", "end")


@dataclass(frozen=True)
class Change:
    """One member trued: by which rule, before and after, and what was done in words."""

    rule: str
    old: Member
    new: Member
    words: str


@dataclass(frozen=True)
class Left:
    """A member that a rule names but could not settle, and why."""

    rule: str
    member: str
    why: str


@dataclass(frozen=True)
class Near:
    """A member near a point: the station of the point along it and its distance from the member's body, mm."""

    member: Member
    station: float
    gap: float

    @property
    def at_end(self) -> bool:
        """Whether the point lies at one of its ends rather than along it."""
        return min(self.station, length(self.member) - self.station) < 60.0


@dataclass
class Work:
    """The frame while it is trued up; rules read ``members`` and call :meth:`put` and :meth:`leave`."""

    members: dict[str, Member]
    levels: tuple[float, ...]
    finder: Finder
    only: frozenset[str] = frozenset()
    changes: list[Change] = field(default_factory=list)
    left: list[Left] = field(default_factory=list)

    def asked(self, member: Member) -> bool:
        """Whether this run is to touch the member at all."""
        return not self.only or member.id in self.only

    def near(self, point: Vec3, but: str = "") -> list[Near]:
        """Members whose body lies within a hand's breadth of a point, the nearest first."""
        f = self.finder
        rows = np.array([i for i in f.tree.query(shapely.Point(point[0], point[1])).tolist() if f.ids[i] != but], dtype=int)
        if not len(rows):
            return []
        station, gap = f.reach(np.tile(point, (len(rows), 1)), rows)
        found = [Near(self.members[f.ids[i]], float(s), float(g)) for i, s, g in zip(rows, station, gap, strict=True) if g <= 60.0]
        return sorted(found, key=lambda n: (n.gap, n.member.id))

    def lapped(self, member: Member, end: End) -> Member | None:
        """The purlin or girt that a member's end goes on past over a carrier, if there is one."""
        found = self.finder.lapped(member.id, end)
        return self.members[found[0][0]] if found is not None else None

    def put(self, rule: str, new: Member, words: str) -> None:
        """Take a trued member (nothing happens if it is as it was)."""
        old = self.members[new.id]
        if same(old, new):
            return
        self.members[new.id] = new
        self.changes.append(Change(rule, old, new, words))

    def leave(self, rule: str, member: Member, why: str) -> None:
        """Note what a rule could not settle."""
        self.left.append(Left(rule, member.id, why))

    def settled(self) -> None:
        """Bring the finder in step between two rules."""
        self.finder = self.finder.beside({c.new.id: self.members[c.new.id] for c in self.changes})


RuleRun = Callable[[Work, Mapping[str, float]], None]


def same(a: Member, b: Member) -> bool:
    """Whether two states of a member are the same to a thousandth of a millimetre."""
    return (
        math.dist(a.start, b.start) < 1e-3 and math.dist(a.end, b.end) < 1e-3 and abs(a.roll - b.roll) < 1e-9
        and (a.cardinal, a.offset, a.section) == (b.cardinal, b.offset, b.section)
    )  # fmt: skip


def way_of(m: Member) -> Array:
    """Unit direction of a member's line."""
    return unit(np.subtract(m.end, m.start))


def is_upright(m: Member) -> bool:
    """Whether a member stands rather than lies."""
    return bool(abs(way_of(m)[2]) > STEEP)


def is_level(m: Member) -> bool:
    """Whether both ends lie at one height."""
    return bool(abs(way_of(m)[2]) <= FLAT)


def is_lying(m: Member) -> bool:
    """A beam, joist or rafter: lying steel that is neither bracing nor purlin."""
    return m.role in ("beam", "joist", "rafter", "other") and not is_upright(m)


def gravity_line(m: Member) -> tuple[Array, Array]:
    """A point of the line through the section's centres of gravity, and its direction."""
    frame = axis_frame(m)
    y, z = section(m.section).centroid
    return frame.to_world(np.array([(0.0, y, z)]))[0], np.array(frame.x)


def top_of(m: Member, at: Array) -> float:
    """Height of the top of steel of a lying member over or under a point, mm."""
    frame, s = axis_frame(m), section(m.section)
    reach = abs(frame.z[2]) * s.h / 2 + abs(frame.y[2]) * s.b / 2
    x = np.array(frame.x)
    flat = x[:2] @ x[:2]
    station = float((at[:2] - frame.o[:2]) @ x[:2] / flat) if flat > 1e-9 else 0.0
    return float(frame.o[2] + x[2] * station + reach)


def ended(m: Member, ends: "Mapping[End, Iterable[float]]") -> Member:
    """The member with some ends put elsewhere."""
    new = {end: vec([round(float(v), 4) for v in point]) for end, point in ends.items()}
    return msgspec.structs.replace(m, **new)
