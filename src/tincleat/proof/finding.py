"""What a check says."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Literal

import msgspec

from tincleat.details.assembled import Assembled
from tincleat.geometry.frames import Vec3
from tincleat.project.entities import HouseRules
from tincleat.standards.limit import Limit

Level = Literal["clear", "note", "breach", "concession"]
Sense = Literal[">=", "<=", "in", "is"]
ORDER: tuple[Level, ...] = ("clear", "concession", "note", "breach")
_RANK = {level: i for i, level in enumerate(ORDER)}


class Finding(msgspec.Struct, frozen=True, gc=False):
    """One check's result on one part: the worst place found.  ``actual`` and ``required`` are in ``unit`` (mm, deg or empty for counts)."""

    rule: str
    title: str
    clause: str
    level: Level
    part: str
    actual: float
    required: float
    sense: Sense
    unit: str
    where: Vec3
    message: str
    upper: float = 0.0

    @property
    def key(self) -> str:
        """Names the finding within its connection."""
        return f"{self.rule}|{self.part}"


@dataclass(frozen=True)
class Rule:
    """A check: its name, what it looks at in words, and the function that makes findings."""

    name: str
    title: str
    check: Callable[[Assembled, HouseRules], Iterable[Finding]]


def at_least(rule: str, title: str, limit: Limit, part: str, actual: float, where: Vec3, message: str, unit: str = "mm", level: Level = "breach") -> Finding:
    """A finding that ``actual`` reaches its limit, to a hundredth of a millimetre."""
    bad = actual < limit.value - 0.01
    return Finding(rule, title, limit.clause, level if bad else "clear", part, actual, limit.value, ">=", unit, where, message)


def at_most(rule: str, title: str, limit: Limit, part: str, actual: float, where: Vec3, message: str, unit: str = "mm", level: Level = "breach") -> Finding:
    """A finding that ``actual`` stays within its limit, to a hundredth of a millimetre."""
    bad = actual > limit.value + 0.01
    return Finding(rule, title, limit.clause, level if bad else "clear", part, actual, limit.value, "<=", unit, where, message)


def worst(levels: Iterable[Level]) -> Level:
    """The gravest of some levels; clear if there are none."""
    return max(levels, key=_RANK.__getitem__, default="clear")
