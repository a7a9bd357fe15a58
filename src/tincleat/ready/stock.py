"""Members longer than the bar the mill delivers, and where they may be split."""

import math
from dataclasses import dataclass

import numpy as np

from tincleat.catalogue.sections import section
from tincleat.ledger.ledger import Ledger
from tincleat.project.entities import HouseRules, Member
from tincleat.project.members import axis_frame, length

CLEAR = 300.0  # mm a split keeps from the body of anything that meets the member
SHORTEST = 1000.0  # mm of the shortest piece worth having
STEP = 50.0  # mm between the places looked at
MOST_PIECES = 40


@dataclass(frozen=True)
class Over:
    """A member over stock length: its stock, the zones (mm along it) where no split may lie, and the splits proposed (none if there is no way)."""

    member: Member
    stock: float
    blocked: tuple[tuple[float, float], ...]
    at: tuple[float, ...]

    @property
    def pieces(self) -> tuple[float, ...]:
        """Lengths of the pieces, mm."""
        return pieces(length(self.member), self.at)


def pieces(full: float, at: "tuple[float, ...] | list[float]") -> tuple[float, ...]:
    """Lengths between splits of a member ``full`` mm long."""
    stops = [0.0, *sorted(at), full]
    return tuple(b - a for a, b in zip(stops[:-1], stops[1:], strict=True))


def stock_of(house: HouseRules, m: Member) -> float:
    """The longest bar of a member's kind of section, mm."""
    return house.bars.get(section(m.section).shape, max(house.bars.values(), default=math.inf))


def is_over_stock(house: HouseRules, m: Member) -> bool:
    """Whether a member is longer than the longest bar of its kind."""
    return length(m) > stock_of(house, m) + 0.5


def over_stock(ledger: Ledger) -> list[Over]:
    """Every member longer than its bar, with a proposal, in the order of the model."""
    house = ledger.project.house
    return [proposed(ledger, m) for m in ledger.project.members.values() if is_over_stock(house, m)]


def proposed(ledger: Ledger, m: Member) -> Over:
    """Where a member might be split: the fewest pieces, as even as the places that are taken allow."""
    stock, blocked = stock_of(ledger.project.house, m), blocked_zones(ledger, m)
    return Over(m, stock, blocked, split_places(length(m), stock, blocked))


def blocked_zones(ledger: Ledger, m: Member) -> tuple[tuple[float, float], ...]:
    """Where along a member something meets it, with room on both sides, merged and sorted, mm."""
    frame, full = axis_frame(m), length(m)
    x = np.array(frame.x)
    zones = []
    for entry in ledger.entries.of_member(m.id):
        joint = entry.joint
        station = float((joint.frame.o - frame.o) @ x)
        reach = 0.0
        for other in joint.members:
            if other != m.id:
                o, shape = axis_frame(ledger.project.members[other]), section(ledger.project.members[other].section)
                reach = max(reach, abs(float(x @ np.array(o.y))) * shape.b / 2 + abs(float(x @ np.array(o.z))) * shape.h / 2)
        zones.append((station - reach - CLEAR, station + reach + CLEAR))
    out: list[tuple[float, float]] = []
    for low, high in sorted(zones):
        if out and low <= out[-1][1]:
            out[-1] = (out[-1][0], max(high, out[-1][1]))
        else:
            out.append((low, high))
    return tuple((max(0.0, a), min(full, b)) for a, b in out if b > 0 and a < full)


def split_places(full: float, stock: float, blocked: "tuple[tuple[float, float], ...]") -> tuple[float, ...]:
    """Stations (mm) that cut ``full`` into the fewest pieces of at most ``stock`` outside the blocked zones; empty if there is no way.

    Of the ways with equally many pieces the most even one is taken, found stage by stage over all allowed places.
    """
    grid = np.arange(math.ceil(SHORTEST / STEP) * STEP, full - SHORTEST + 1e-6, STEP)
    edges = [e for zone in blocked for e in zone]
    spots = np.unique(np.concatenate([grid, [e for e in edges if SHORTEST <= e <= full - SHORTEST]]))
    for low, high in blocked:
        spots = spots[(spots <= low + 1e-6) | (spots >= high - 1e-6)]
    least = max(2, math.ceil((full - 1e-6) / stock))
    for count in range(least, min(least + 4, MOST_PIECES)):
        ideal = full / count
        cost = np.where((spots <= stock + 1e-6) & (spots >= SHORTEST), (spots - ideal) ** 2, np.inf)
        came: list[np.ndarray] = []
        for _ in range(count - 2):
            gap = spots[None, :] - spots[:, None]
            step = np.where((gap >= SHORTEST) & (gap <= stock + 1e-6), (gap - ideal) ** 2, np.inf) + cost[:, None]
            came.append(step.argmin(axis=0) if len(spots) else np.zeros(0, dtype=int))
            cost = step.min(axis=0) if len(spots) else cost
        rest = full - spots
        cost = np.where((rest <= stock + 1e-6) & (rest >= SHORTEST), cost + (rest - ideal) ** 2, np.inf)
        if len(cost) and np.isfinite(cost.min()):
            at = [int(cost.argmin())]
            for back in reversed(came):
                at.append(int(back[at[-1]]))
            return tuple(round(float(spots[i]), 3) for i in reversed(at))
    return ()
