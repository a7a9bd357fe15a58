"""What a run lays: members by their place in the run, so that the same place keeps the same member when the run changes."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from tincleat.catalogue.sections import Section
from tincleat.errors import BadValue
from tincleat.geometry.frames import Array, Vec3, unit, vec
from tincleat.project.entities import Cardinal, Member, Role
from tincleat.project.members import axis_frame, length

MOST_ROWS = 500


@dataclass(frozen=True)
class Laid:
    """One member of a run: its place (``row.bay``), and what it is."""

    place: str
    section: str
    role: Role
    start: Vec3
    end: Vec3
    roll: float = 0.0
    cardinal: Cardinal = "centre"


def stations(first: float, last: float, spacing: float, where: str) -> list[float]:
    """Evenly spaced stations from ``first`` to ``last`` (mm), at most ``spacing`` apart; raises BadValue where there is no room."""
    if not spacing > 0:
        raise BadValue(f"a spacing of {spacing:g} mm", where, "more than 0")
    if last < first - 1e-6:
        raise BadValue(f"the first row at {first:.0f} mm lies past the last at {last:.0f} mm", where, "smaller offsets")
    gaps = math.ceil((last - first) / spacing - 1e-9)
    if gaps > MOST_ROWS:
        raise BadValue(f"that makes {gaps} rows", where, f"at most {MOST_ROWS}")
    return [first + (last - first) * i / gaps for i in range(gaps + 1)] if gaps else [first]


def in_row(members: Sequence[Member], where: str) -> list[Member]:
    """Members side by side, sorted along the direction in which they follow each other; raises BadValue for fewer than two."""
    if len(members) < 2:
        raise BadValue(f"{len(members)} members", where, "at least two, side by side")
    middles = np.array([np.add(m.start, m.end) / 2 for m in members])
    spread = middles - middles.mean(axis=0)
    _, sizes, axes = np.linalg.svd(spread, full_matrices=False)
    if sizes[0] < 1.0:
        raise BadValue("the members lie on each other", where, "members side by side")
    way = axes[0] if axes[0][int(np.abs(axes[0]).argmax())] > 0 else -axes[0]
    order = np.argsort(spread @ way, kind="stable")
    return [members[i] for i in order.tolist()]


def reach_of(shape: Section, member: Member, way: Array) -> float:
    """How far a member's section reaches from its middle in a direction, mm."""
    frame = axis_frame(member)
    return abs(float(way @ np.array(frame.y))) * shape.b / 2 + abs(float(way @ np.array(frame.z))) * shape.h / 2


def low_to_high(m: Member) -> tuple[Array, Array, float]:
    """A point of the section's middle at the low end, the direction up the member, and its length, mm."""
    frame, full = axis_frame(m), length(m)
    x = np.array(frame.x)
    return (frame.o, x, full) if x[2] >= 0 else (frame.o + x * full, -x, full)


def bays(points: Sequence[Array], lap: float, overhang: float) -> list[tuple[Vec3, Vec3]]:
    """A row over supports as one member a bay, lapping half ``lap`` past each inner support and ``overhang`` past the outer ones, mm."""
    out = []
    last = len(points) - 2
    for i, (a, b) in enumerate(zip(points[:-1], points[1:], strict=True)):
        way = unit(b - a)
        out.append((vec(a - way * (overhang if i == 0 else lap / 2)), vec(b + way * (overhang if i == last else lap / 2))))
    return out
