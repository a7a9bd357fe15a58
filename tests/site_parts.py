"""What sites are made of: members drawn about one point, and the place at which a family is tried."""

import math
from dataclasses import dataclass, field
from typing import Any

Members = list[dict[str, Any]]


@dataclass(frozen=True)
class Site:
    """Members, the family to place, where, with what typed, in which units, and rules it may break."""

    name: str
    members: Members
    family: str
    at: tuple[tuple[int, str], ...]
    typed: dict[str, Any] = field(default_factory=dict)
    inch: bool = False
    breaks: frozenset[str] = frozenset()


def place_name(number: int, where: str, ids: "list[str]") -> str:
    """What a place of a site is called, by the ids of the site's members."""
    if where.startswith("over"):
        return f"{ids[number]} over {ids[int(where[5:])]}"
    row, at, station = where.partition("@")
    if at:
        return "+".join(ids[int(k)] for k in (str(number), *filter(None, row.split("+")))) + f"@{station}"
    return f"{ids[number]}.{where}"


def column(section: str, roll: float = 0.0, height: float = 6000.0) -> dict[str, Any]:
    return {"section": section, "role": "column", "start": [0, 0, 0], "end": [0, 0, height], "roll_deg": roll}


def beam(section: str, skew: float = 0.0, slope: float = 0.0, dz: float = 0.0, flipped: bool = False, **more: Any) -> dict[str, Any]:
    a, t = math.radians(skew), math.radians(slope)
    far = [4000 * math.cos(a) * math.cos(t), 4000 * math.sin(a) * math.cos(t), 3000 + dz + 4000 * math.sin(t)]
    near = [0, 0, 3000 + dz]
    return {"section": section, "role": "beam", "start": near if flipped else far, "end": far if flipped else near, **more}


def girder(section: str) -> dict[str, Any]:
    return {"section": section, "role": "beam", "start": [-4000, 0, 3000], "end": [4000, 0, 3000]}


def rafter(section: str, slope: float, side: float = 1.0, x0: float = 0.0, run: float = 7000.0) -> dict[str, Any]:
    rise = run * math.tan(math.radians(slope))
    return {"section": section, "role": "rafter", "start": [x0, 0, 6000], "end": [x0 + side * run, 0, 6000 + rise]}


def brace(section: str, angle: float, z0: float = 3000.0, x0: float = 0.0, side: float = 1.0, roll: float = 0.0) -> dict[str, Any]:
    t = math.radians(angle)
    return {"section": section, "role": "brace", "start": [x0, 0, z0], "end": [x0 + side * 3000 * math.cos(t), 0, z0 + 3000 * math.sin(t)], "roll_deg": roll}


def back_to_back(section: str, angle: float, leg: float, gap: float) -> Members:
    """Two bars with their backs ``gap`` apart on one line: the second drawn the other way, so that heels lie on one side."""
    one = brace(section, angle, roll=180.0 if section.startswith("PFC") else 0.0)
    two = {**one, "start": one["end"], "end": one["start"]}
    return [{**m, "offset": [(leg + gap) / 2, 0]} for m in (one, two)]


def starred(section: str, angle: float, leg: float, gap: float, side: float = 1.0) -> Members:
    """Two angles of equal legs about one line, ``gap`` between their backs: one over it on one side, one under it on the other."""
    one = brace(section, angle, side=side)
    return [{**one, "roll_deg": roll, "offset": [(leg + gap) / 2, leg / 2]} for roll in (0.0, 180.0)]
