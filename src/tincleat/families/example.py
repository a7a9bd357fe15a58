"""Where a family is seen when a model has no place for it: a few members about one point."""

import math
from dataclasses import dataclass

from tincleat.project.entities import Connection, End, Member, Role, Value

HIGH = 3000.0  # mm: where members that lie do so


@dataclass(frozen=True)
class Example:
    """Members, and where among them a family goes: a connection that has neither an id nor a family yet."""

    members: tuple[Member, ...]
    place: Connection


def a_member(section: str, start: tuple[float, float, float], end: tuple[float, float, float], role: Role = "beam", roll: float = 0.0, offset: tuple[float, float] = (0.0, 0.0)) -> Member:
    """A member between two points, mm; ``roll`` in degrees."""
    return Member("", "", role, section, "S355", start, end, math.radians(roll), offset=offset)


def a_column(section: str, roll: float = 0.0, low: float = 0.0, high: float = 2 * HIGH) -> Member:
    """An upright member at the origin."""
    return a_member(section, (0.0, 0.0, low), (0.0, 0.0, high), "column", roll)


def a_girder(section: str) -> Member:
    """A level member that passes the point."""
    return a_member(section, (-4000.0, 0.0, HIGH), (4000.0, 0.0, HIGH))


def a_beam(section: str, turn: float = 0.0, above: float = 0.0) -> Member:
    """A level member that ends at the point, come from ``turn`` degrees about the plumb line, its line ``above`` mm over it."""
    a = math.radians(turn)
    return a_member(section, (4000.0 * math.cos(a), 4000.0 * math.sin(a), HIGH + above), (0.0, 0.0, HIGH + above))


def a_brace(section: str, rise: float, roll: float = 0.0) -> Member:
    """A member that starts at the point and rises so many degrees."""
    t = math.radians(rise)
    return a_member(section, (0.0, 0.0, HIGH), (3000.0 * math.cos(t), 0.0, HIGH + 3000.0 * math.sin(t)), "brace", roll)


def _named(members: tuple[Member, ...]) -> tuple[Member, ...]:
    return tuple(Member(f"m{i}", f"M{i + 1}", m.role, m.section, m.grade, m.start, m.end, m.roll, m.cardinal, m.offset) for i, m in enumerate(members))


def at_end(*members: Member, end: End = "end", typed: "dict[str, Value] | None" = None) -> Example:
    """At an end of the last of some members."""
    return Example(_named(members), Connection("", "", f"m{len(members) - 1}", end, typed or {}))


def at_station(*members: Member, at: float = 2500.0, typed: "dict[str, Value] | None" = None) -> Example:
    """At a station of the first of some members, mm along it, the others beside it there."""
    return Example(_named(members), Connection("", "", "m0", "start", typed or {}, at=at, row=tuple(f"m{i}" for i in range(1, len(members)))))


def where_crossed(under: Member, over: Member) -> Example:
    """Where a member passes over another."""
    return Example(_named((under, over)), Connection("", "", "m1", "start", other="m0"))
