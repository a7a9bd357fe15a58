"""Stitch: a pack between two angles or channels that run with their backs to each other, or starred, bolted through both.

Joint frame: origin on the first member's middle line, x to the other one, y along both, z square to these.
"""

import math
from dataclasses import dataclass

import numpy as np

from tincleat.catalogue.fasteners import bolt_size
from tincleat.details.parts import Bolts, Detail, Dimension, Hole, Plate, SheetView
from tincleat.errors import NoFit
from tincleat.families.declare import BOLT_GRADES, BOLT_SIZES, STEEL_GRADES, Family, Given, Setting, bolt_choice
from tincleat.families.example import a_member, at_station
from tincleat.families.shear import bolt_that
from tincleat.geometry.frames import Array, Frame, crossed, unit, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case, CaseMember
from tincleat.kit.drill import drilled
from tincleat.kit.layout import centred, down, up
from tincleat.kit.upright import upright
from tincleat.project.entities import HouseRules
from tincleat.standards.rulesets import rules_of
from tincleat.steel.cuts import MemberHole

LEAST_GAP, MOST_GAP = 4.0, 40.0  # mm between backs that a pack fills
SQUARE = 0.9998  # cosine within which two backs lie in one direction
SAME = 0.01  # mm within which a gap is a plate's thickness, as the proof measures
FLUSH = 1.0  # mm that heels may lie off each other along the pack

SETTINGS = (
    Setting("bolt", "Bolt", "choice", "Bolts", bolt_choice, "Size of the bolts.", choices=BOLT_SIZES),
    Setting("bolt_grade", "Bolt grade", "choice", "Bolts", lambda h: h.bolt_grade, "Strength class of the bolts.", choices=BOLT_GRADES),
    Setting("pitch", "Bolts along", "spacings", "Bolts", lambda h: (), "Spacings of the bolts along the members; one bolt if not typed.", 0, 500),
    Setting("gauge", "Gauge", "length", "Bolts", None, "From an angle's heel, or a channel's middle, to its bolt line.", 0, 300),
    Setting("length", "Pack length", "length", "Pack", None, "Along the members; worked out from the bolts if not typed.", 30, 1500),
    Setting("thickness", "Pack thickness", "length", "Pack", None, "What is free between the backs, or a stocked plate a little thinner.", LEAST_GAP, MOST_GAP),
    Setting("inside", "Short of the toes", "length", "Pack", 5.0, "From the pack's edge to the toes of the legs, or a channel's flanges.", 0, 100, inches=6.35),
    Setting("grade", "Pack grade", "choice", "Pack", lambda h: h.plate_grade, "Steel grade of the pack.", choices=STEEL_GRADES),
)  # fmt: skip


@dataclass(frozen=True)
class _Back:
    """A flat back of a member: unit normal out of the steel, a point on it, how far its leg goes either way from there across it, and its thickness."""

    normal: Array
    point: Array
    low: float
    high: float
    heel: float | None  # the end at which an angle's other leg stands; None for a channel


def _backs(m: CaseMember, y: Array) -> list[_Back]:
    """The backs of an angle's legs, or of a channel's web; across is ``y`` x normal."""
    f, s = m.frame, m.shape
    fy, fz = np.array(f.y), np.array(f.z)
    if s.shape == "C":
        web = next(e for e in s.elements if e.normal == "y")
        n = fy * math.copysign(1.0, web.at)
        return [_back(n, f.o + n * s.b / 2, fz, s.h / 2, y, None)]
    out = []
    for own, other, half, deep in ((-fy, fz, s.h / 2, s.b / 2), (-fz, fy, s.b / 2, s.h / 2)):
        out.append(_back(own, f.o + own * deep, other, half, y, -1.0))
    return out


def _back(n: Array, point: Array, along: Array, half: float, y: Array, heel: float | None) -> _Back:
    w = crossed(y, n)
    way = math.copysign(1.0, float(along @ w))
    return _Back(n, point, -half, half, None if heel is None else heel * way)


def _pair(case: Case) -> tuple[_Back, _Back, float]:
    """The backs that look at each other, and the gap between them; raises NoFit with figures."""
    y = np.array([0.0, 1.0, 0.0])
    a, b = case.members
    found: list[tuple[float, _Back, _Back]] = []
    for one in _backs(a, y):
        for two in _backs(b, y):
            gap = float((two.point - one.point) @ one.normal)
            if float(one.normal @ two.normal) < -SQUARE and gap > -1e-6:
                found.append((gap, one, two))
    if not found:
        raise NoFit(f"{a.shape.name} and {b.shape.name} do not turn their backs to each other", right="two angles or channels back to back, or starred")
    gap, one, two = min(found, key=lambda f: (not LEAST_GAP <= f[0] <= MOST_GAP, f[0]))
    if not LEAST_GAP <= gap <= MOST_GAP:
        raise NoFit(f"the backs lie {gap:.1f} mm apart", right=f"{LEAST_GAP:.0f} to {MOST_GAP:.0f} mm")
    return one, two, gap


def _between(one: _Back, two: _Back, corners: "list[Array]", given: Given) -> tuple[Array, Array, float]:
    """Where a pack begins between two backs, the direction in which it is thick, and its thickness, mm.

    Backs that are not quite parallel leave it the least that they are apart over its ``corners``; a stocked plate a little thinner is taken, as
    long as nowhere more than the greatest gap between plies is left.  Raises NoFit where even the thickest leaves more, or a typed one is thicker.
    """
    house = given.house
    most = rules_of(house).ply_gap.value
    first, second = one.normal, -two.normal
    n = unit(first + second)
    off = [float((c - one.point) @ n) for c in corners]
    near, far = ([h + float((back.point - c) @ face) / float(n @ face) for h, c in zip(off, corners, strict=True)] for back, face in ((one, first), (two, second)))
    start, free = max(near), min(far) - max(near)
    apart = [b - a for a, b in zip(near, far, strict=True)]
    if max(apart) - free > most + SAME or free < LEAST_GAP - SAME:
        raise NoFit(f"the backs are not parallel: {min(apart):.1f} to {max(apart):.1f} mm apart over the pack", right=f"backs that leave a pack at most {most:g} mm off them, and {LEAST_GAP:g} mm for it")
    least = max(LEAST_GAP, max(apart) - most)
    stock = max((t for t in (*house.plates, *house.sheets) if least - SAME <= t <= free + SAME), default=free)
    if abs(stock - free) < SAME:
        thick = float(given.worked_out("thickness", free))
    else:
        words = f"{free:.1f} mm" if max(apart) - free < 0.05 else f"{free:.1f} to {max(apart):.1f} mm"
        thick = float(given.fitted("thickness", stock, f"the backs are {words} apart, and no stocked plate is as thick"))
    if thick > free + SAME:
        raise NoFit(f"a pack {thick:g} mm thick does not go between backs {free:.1f} mm apart", right=f"at most {free:.1f} mm")
    return one.point + n * start, n, thick


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless two angles or channels run back to back, or starred."""
    if case.kind != "row" or len(case.members) != 2:
        raise NoFit(f"a stitch goes between two members; this is a {case.kind} of {len(case.members)}", right="two angles or channels back to back and a station on the first, such as m12+m13@1000")
    for m in case.members:
        if m.shape.shape not in ("L", "C"):
            raise NoFit(f"{m.shape.name} is a {m.shape.shape} section", right="angles or channels")
    _pair(case)


def build(case: Case, given: Given) -> Detail:
    """The pack and its bolts: through both backs where they lie over each other, in each leg by itself where they are starred."""
    house = given.house
    one, two, gap = _pair(case)
    n = one.normal
    y = np.array([0.0, 1.0, 0.0])
    w = crossed(y, n)
    # everything across is measured along w from the first back's point
    off = float((two.point - one.point) @ w)
    other = (off + two.low, off + two.high)
    heel = None if one.heel is None else one.heel * one.high
    heel2 = None if two.heel is None else (off - two.heel * two.high)
    starred = heel is not None and heel2 is not None and (other[1] <= one.low + FLUSH or other[0] >= one.high - FLUSH)
    shapes = [m.shape for m in case.members]
    slim = min(shapes, key=lambda s: one.high)
    step, fine = (6.35, 1.5875) if house.inch else (5.0, 1.0)

    def least_of(size: str) -> float:
        hole = house.hole(size, "normal")
        return rules_of(house).edge_least(bolt_size(size), Hole(0, 0, *hole), False).value

    def root(s: "CaseMember", d: float) -> float:
        return s.shape.tw + s.shape.r1 + d / 2 + 1.0

    leg = min(2 * one.high, other[1] - other[0])
    b = bolt_that(given, lambda size, least: (max(root(m, max(size.washer_d, 1.16 * size.head_af)) for m in case.members) if heel is not None else least) + least <= leg, f"{slim.name} is {leg:.0f} mm wide there")
    least = least_of(b.name)
    toes = float(given.value("inside"))
    if heel is None:
        line = float(given.worked_out("gauge", 0.0))
        lines = [line]
        if abs(off) > FLUSH:
            raise NoFit(f"the channels' middles lie {abs(off):.1f} mm off each other", right="channels back to back")
    else:
        near = max(root(m, max(b.washer_d, 1.16 * b.head_af)) for m in case.members)
        gauge = float(given.worked_out("gauge", max(down(0.55 * leg, step), up(near, fine))))
        assert heel2 is not None
        lines = [heel - math.copysign(gauge, heel)] if not starred else [heel - math.copysign(gauge, heel), heel2 - math.copysign(gauge, heel2 - (other[0] + other[1]) / 2)]
        if not starred and abs(heel - heel2) > FLUSH:
            raise NoFit(f"the angles' heels lie {abs(heel - heel2):.1f} mm off each other", right="angles back to back with their heels on one side, or starred")
    gaps = tuple(given.value("pitch"))
    rows = centred(gaps)
    ends = up(max(least, 1.5 * b.d), step)
    length = given.rounded("length", sum(gaps) + 2 * ends, "plate length")
    if starred:
        low, high = min(one.low, other[0]) + toes, max(one.high, other[1]) - toes
    else:
        low, high = max(one.low, other[0]) + toes, min(one.high, other[1]) - toes
    most = rules_of(house).edge_greatest(min(*(s.tw for s in shapes), gap)).value if house.exposed else math.inf
    if high - lines[-1] > most or lines[0] - low > most:  # no further out than an exposed edge may be from its bolt
        low, high = max(low, min(lines) - down(most, step)), min(high, max(lines) + down(most, step))
    at, n, gap = _between(one, two, [one.point + y * s + w * v for s in (-length / 2, length / 2) for v in (low, high)], given)
    y = unit(y - n * float(y @ n))
    w = crossed(y, n)
    frame = Frame.of(vec(at), vec(y), vec(n))  # its y is n x y, against w
    turn = -1.0
    holes_at = [(r, turn * v) for v in lines for r in rows]
    hole = house.hole(b.name, "normal")
    outline = Outline.rectangle(-length / 2, min(turn * low, turn * high), length / 2, max(turn * low, turn * high))
    pack = Plate("pack", outline, gap, frame, str(given.value("grade")), tuple(Hole(u, v, *hole) for u, v in holes_at), ("", ""))
    groups: list[Bolts] = []
    drill: list[MemberHole] = []
    for k, v in enumerate(lines):
        points = [vec(at + n * (gap / 2) + w * v + y * r) for r in rows]
        name = "bolt" if len(lines) == 1 and len(rows) == 1 else "bolts" if len(lines) == 1 else f"bolts in row member {k + 1}"
        axis = n if k == 0 else -n
        groups.append(Bolts(name, b.name, str(given.value("bolt_grade")), tuple(points), vec(axis), (0.0, 1.0, 0.0), "normal"))
        for i in (0, 1) if not starred else (k,):
            drill += drilled(case, i, points, n, *hole, y)
    views, dimensions = upright(
        _views(at, n, y),
        (
            Dimension("front", "bottom", 0, (vec(at - y * length / 2 + w * low), vec(at + y * length / 2 + w * low)), ("length",)),
            Dimension("front", "right", 0, (vec(at + y * length / 2 + w * low), vec(at + y * length / 2 + w * high)), ("",)),
            Dimension("front", "left", 0, (vec(at - y * length / 2 + w * (heel if heel is not None else 0.0)), vec(at - y * length / 2 + w * lines[0])), ("gauge",)),
            *((Dimension("front", "top", 0, tuple(vec(at + y * r + w * high) for r in rows), ("pitch",) * len(gaps)),) if gaps else ()),
            Dimension("side", "bottom", 0, (vec(at), vec(at + n * gap)), ("thickness",)),
        ),
    )  # fmt: skip
    return Detail("stitch", (pack,), tuple(groups), (), holes=tuple(drill), numbers=tuple(given.numbers.values()), views=views, dimensions=dimensions)


def _views(at: Array, n: Array, y: Array) -> tuple[SheetView, ...]:
    """The pack square to its face, and the members' section."""
    return (SheetView("front", "Front", Frame.of(vec(at), vec(y), vec(-n))), SheetView("side", "Across", Frame.of(vec(at), vec(n), vec(y))))


FAMILY = Family(
    "stitch", "Stitch", ("stitch bolt", "double angle", "back to back", "packing", "batten", "starred angles"), ("row",), SETTINGS, fits, build,
    {"edge-least": ("length", "gauge", "inside"), "edge-greatest": ("length", "gauge"), "spacing-least": ("pitch",), "spacing-greatest": ("pitch",), "bolt-room": ("gauge",), "plate-stock": ("thickness",), "ply-gap": ("thickness",)},
    situations=("bracing",), example=at_station(*(a_member("L 80x80x8", *ends, "brace", offset=(45.0, 0.0)) for ends in (((0.0, 0.0, 3000.0), (3000.0, 0.0, 3000.0)), ((3000.0, 0.0, 3000.0), (0.0, 0.0, 3000.0)))), at=1000.0),
)  # fmt: skip
