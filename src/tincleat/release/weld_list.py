"""What there is to weld: length, volume, deposited metal and hours, by kind of weld, leg, position, shop and site."""

from collections.abc import Iterable
from dataclasses import dataclass, field
from functools import lru_cache

import numpy as np

from tincleat.catalogue.sections import STEEL_DENSITY
from tincleat.details.parts import Weld
from tincleat.geometry.frames import Array
from tincleat.ledger.ledger import Ledger
from tincleat.project.entities import HouseRules
from tincleat.release.bill import where_words

SHOP = "as turned"  # in the shop a part is turned to the welder
# rise of the way out of a weld's face from which it lies so, EN ISO 6947: PA flat, PB and PC horizontal, PD and PE overhead
POSITIONS = ((0.92, "flat"), (0.38, "horizontal, fillet"), (-0.38, "horizontal"), (-0.92, "overhead, fillet"), (-2.0, "overhead"))
UPRIGHT = 0.71  # rise of a run from which it is vertical


@dataclass(frozen=True)
class WeldLine:
    """All welds of one kind, leg and position, in the shop or on site; mm, mm³, kg, hours.  ``length`` counts every run by itself."""

    where_made: str
    kind: str
    leg: float
    position: str
    runs: int
    length: float
    volume: float
    mass: float
    hours: float
    where: str


@dataclass
class _Sum:
    runs: int = 0
    length: float = 0.0
    volume: float = 0.0
    names: dict[str, None] = field(default_factory=dict)


def section_area(weld: Weld) -> float:
    """Area of a weld's section in mm²: of a fillet leg² · sin(angle) / 2, of a groove all between its faces."""
    corners = np.array(weld.section)
    if len(corners) == 4 and not weld.opening:
        corners = corners[:3]
    a = corners[1:-1] - corners[0]
    b = corners[2:] - corners[0]
    return float(np.linalg.norm(np.cross(a, b).sum(axis=0))) / 2


@lru_cache(maxsize=20000)
def _figures(welds: tuple[Weld, ...]) -> tuple[Array, Array, Array, Array]:
    """Lengths (n,), section areas (n,), directions of runs (n, 3) and ways out of faces (n, 3) of a detail's welds in the joint's frame."""
    run = np.array([w.end for w in welds]) - np.array([w.start for w in welds])
    length = np.linalg.norm(run, axis=1)
    out = np.array([w.u for w in welds]) + np.array([w.v for w in welds])
    out /= np.maximum(np.linalg.norm(out, axis=1), 1e-9)[:, None]
    return length, np.array([section_area(w) for w in welds]), run / np.maximum(length, 1e-9)[:, None], out


def position(run: Array, out: Array) -> str:
    """Position in which a weld lies: by the rise of its run and of the way out of its face (unit, in the world)."""
    if abs(float(run[2])) > UPRIGHT:
        return "vertical"
    return next(words for least, words in POSITIONS if float(out[2]) > least)


def weld_list(ledger: Ledger) -> list[WeldLine]:
    """All welds, shop ones first, the longest first; masses with the house's share for what is lost, hours by its rates."""
    house = ledger.project.house
    found: dict[tuple[str, str, float, str], _Sum] = {}
    for entry in ledger.entries.values():
        if entry.made is None or entry.connection is None or not (entry.made.detail.welds or entry.made.detail.plugs):
            continue
        there = entry.joint.frame.axes
        for plug in entry.made.detail.plugs:
            up = np.array(plug.frame.z) @ there
            row = found.setdefault(("site" if plug.site else "shop", plug.kind, round(plug.width, 2), position(np.zeros(3), up) if plug.site else SHOP), _Sum())
            row.runs += 1
            row.length += plug.length if plug.kind == "slot" else 0.0
            row.volume += plug.volume
            row.names[entry.connection.id] = None
        welds = entry.made.detail.welds
        if not welds:
            continue
        length, area, run, out = _figures(welds)
        runs, outs = run @ there, out @ there
        for i, w in enumerate(welds):
            lies = position(runs[i], outs[i]) if w.site else SHOP
            key = ("site" if w.site else "shop", w.kind, round(w.leg, 2), lies)
            row = found.setdefault(key, _Sum())
            row.runs += 1
            row.length += float(length[i])
            row.volume += float(length[i] * area[i])
            row.names[entry.connection.id] = None
    lines = [_line(key, row, house) for key, row in found.items()]
    return sorted(lines, key=lambda x: (x.where_made != "shop", -x.length))


def _line(key: tuple[str, str, float, str], row: _Sum, house: HouseRules) -> WeldLine:
    mass = row.volume * STEEL_DENSITY * (1.0 + house.weld_surplus)
    rate = house.weld_rate_site if key[0] == "site" else house.weld_rate_shop
    return WeldLine(*key, row.runs, row.length, row.volume, mass, mass / rate if rate else 0.0, where_words(row.names))


def total(lines: Iterable[WeldLine]) -> tuple[float, float, float]:
    """Length in mm, mass in kg and hours of some lines."""
    some = list(lines)
    return sum(x.length for x in some), sum(x.mass for x in some), sum(x.hours for x in some)


