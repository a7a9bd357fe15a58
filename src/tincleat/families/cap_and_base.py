"""Cap and base splice: a plate on the end of each of two columns that stand on each other, bolted together.

Joint frame: that of the first column's end.  The plates lie with their x along the lower column's depth; ``u`` runs along it, ``v`` across.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Polygon

from tincleat.catalogue.fasteners import BoltSize, bolt_size
from tincleat.details.assembled import role_words
from tincleat.details.parts import Bolts, Detail, Dimension, Hole, Plate, SheetView, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import BOLT_GRADES, BOLT_SIZES, STEEL_GRADES, Family, Given, Setting, bolt_choice
from tincleat.families.example import a_column, at_end
from tincleat.geometry.frames import Array, Frame, Vec3, crossed, unit, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case, CaseMember
from tincleat.kit.foot import closed_profile, foot_welds, footprint, leaned, legs_round, stands_on
from tincleat.kit.layout import centred, down, up
from tincleat.kit.packs import stocked
from tincleat.project.entities import HouseRules
from tincleat.standards.rulesets import rules_of
from tincleat.steel.cuts import EndCut

MOST_BEND = math.radians(1)
MOST_ASIDE = 1.0  # mm between the middles of both
BETWEEN, OUTSIDE = "between the flanges", "outside the column"

SETTINGS = (
    Setting("cap_thickness", "Cap plate thickness", "length", "Plates", None, "On the lower column; as thick as the bolt on plate stock if not typed.", 5, 100),
    Setting("base_thickness", "Base plate thickness", "length", "Plates", None, "Under the upper column; as thick as the bolt on plate stock if not typed.", 5, 100),
    Setting("pack", "Pack", "length", "Plates", 0.0, "Between the plates, for level; 0 is none.", 0, 100),
    Setting("length", "Plate length", "length", "Plates", None, "Along the lower column's depth; worked out from columns and bolts if not typed.", 40, 3000),
    Setting("width", "Plate width", "length", "Plates", None, "Across; worked out from columns and bolts if not typed.", 40, 3000),
    Setting("projection", "Plate past the column", "length", "Plates", None, "Least plate past the larger column all round, for its weld.", 0, 500),
    Setting("grade", "Plate grade", "choice", "Plates", lambda h: h.plate_grade, "Steel grade of the plates.", choices=STEEL_GRADES),
    Setting("where", "Bolts stand", "choice", "Bolts", None, "Between the flanges of both columns where there is room and the plates' ends are not far, else outside.", choices=(BETWEEN, OUTSIDE)),
    Setting("pitch", "Bolts along the depth", "spacings", "Bolts", None, "Spacings of the rows along the lower column's depth.", 0, 2000),
    Setting("gauge", "Gauge", "length", "Bolts", None, "Between the two lines of bolts, across.", 30, 1500),
    Setting("edge", "Edge distance", "length", "Bolts", None, "Least from the bolts to the plates' edges.", 15, 300),
    Setting("bolt", "Bolt", "choice", "Bolts", bolt_choice, "Size of the bolts.", choices=BOLT_SIZES),
    Setting("bolt_grade", "Bolt grade", "choice", "Bolts", lambda h: h.bolt_grade, "Strength class of the bolts.", choices=BOLT_GRADES),
    Setting("flange_weld", "Flange weld leg", "length", "Welds", None, "Fillets round the columns' flanges or walls.", 2, 40),
    Setting("web_weld", "Web weld leg", "length", "Welds", None, "Fillets along the columns' webs.", 2, 40),
)  # fmt: skip


@dataclass(frozen=True)
class _Seat:
    """Where the plates meet: the middle, the way up, along the lower column's depth, and across."""

    point: Array
    up: Array
    u: Array
    v: Array

    def at(self, x: float, y: float, z: float = 0.0) -> Array:
        return self.point + self.u * x + self.v * y + self.up * z


def _lower(case: Case) -> tuple[int, int]:
    """Numbers of the lower and the upper column."""
    return (0, 1) if case.members[0].away[2] < case.members[1].away[2] else (1, 0)


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless two columns stand on each other on one line."""
    if case.kind != "column splice" or len(case.members) < 2:
        raise NoFit(f"a cap and a base plate lie between two columns; this is a {case.kind}", right="a column on another")
    a, b = case.members[:2]
    for m in (a, b):
        if m.shape.shape not in ("I", "C", "RHS", "CHS"):
            raise NoFit(f"{m.shape.name} is a {m.shape.shape} section; the plates stand on I-sections, channels and hollow sections")
    bend = math.acos(max(-1.0, min(1.0, -float(np.dot(a.away, b.away)))))
    if bend > MOST_BEND:
        raise NoFit(f"the columns bend by {math.degrees(bend):.1f}°", right=f"up to {math.degrees(MOST_BEND):.0f}°")
    aside = float(np.linalg.norm(crossed(b.frame.o - a.frame.o, np.array(a.away))))
    if aside > MOST_ASIDE:
        raise NoFit(f"their middles lie {aside:.1f} mm apart", right="columns on one line")


def build(case: Case, given: Given) -> Detail:
    """Both plates, a pack, bolts clear of both columns, welds round both, their ends cut back."""
    house = given.house
    low, high = _lower(case)
    lower, upper = case.members[low], case.members[high]
    step = 6.35 if house.inch else 5.0
    size = bolt_size(str(given.value("bolt")), given.house.tighten_room)
    hole, _ = house.hole(size.name, "normal")
    usual = stocked(size.d, house)
    cap, base = (float(given.worked_out(name, usual)) for name in ("cap_thickness", "base_thickness"))
    pack, grade = float(given.value("pack")), str(given.value("grade"))
    way = np.array(upper.away)
    depth = unit(np.array(lower.frame.z) - way * float(np.array(lower.frame.z) @ way))
    seat = _Seat(lower.frame.o, way, depth, crossed(way, depth))
    # the plates' common face lies where the columns were drawn to meet; a pack goes between, half of it each way
    feet = {low: (seat.at(0, 0, -pack / 2 - cap), -way), high: (seat.at(0, 0, pack / 2 + base), way)}
    # each column stands where its own middle line meets its plate, be that a little aside or aslant
    stands = {i: stands_on(case.members[i], at, n) for i, (at, n) in feet.items()}
    raw = [legs_round(m.shape, t, house.inch) for m, t in ((lower, cap), (upper, base))]
    flange, web = (given.rounded(name, max(r[k] for r in raw), "weld leg") for k, name in enumerate(("flange_weld", "web_weld")))
    prints = [footprint(case.members[i].shape, stands[i], vec(seat.u), vec(seat.v)) for i in (low, high)]
    half = (max(p[0] for p in prints), max(p[1] for p in prints))
    past = float(given.worked_out("projection", up(flange + 4.0, step)))
    edge = float(given.worked_out("edge", up(max(rules_of(house).edge_least(size, Hole(0, 0, hole, hole), False).value, 1.5 * size.d), step)))
    solids = [_solid(case.members[i], seat) for i in (low, high)]
    pitch, gauge = _spots(given, solids, half, (half[0] + past - edge, half[1] + past - edge), size, flange, 2 * step, min(cap, base))
    xs, ys = centred(pitch), [-gauge / 2, gauge / 2]
    length = given.rounded("length", max(2 * (half[0] + past), xs[-1] - xs[0] + 2 * edge), "plate length")
    width = given.rounded("width", max(2 * (half[1] + past), gauge + 2 * edge), "plate width")
    outline = Outline.rectangle(-length / 2, -width / 2, length / 2, width / 2)
    holes = tuple(Hole(x, y, hole, hole) for x in xs for y in ys)
    kinds = ("plate length", "plate width")
    plates = [
        Plate("cap plate", outline, cap, Frame.of(seat.at(0, 0, -pack / 2 - cap), seat.u, way), grade, holes, kinds),
        Plate("base plate", outline, base, Frame.of(seat.at(0, 0, pack / 2), seat.u, way), grade, holes, kinds),
    ]
    if pack:
        plates.append(Plate("pack", outline, pack, Frame.of(seat.at(0, 0, -pack / 2), seat.u, way), grade, holes, kinds))
    welds: list[Weld] = []
    for i, name in ((low, "cap plate"), (high, "base plate")):
        m = case.members[i]
        side = -math.copysign(1.0, float(np.array(stands[i].y) @ np.array(m.frame.y)))
        welds += leaned(foot_welds(m.shape, stands[i], flange, web, (name, role_words(m.role)), side), stands[i], vec(feet[i][1]))
    points = tuple(vec(seat.at(x, y)) for x in xs for y in ys)
    bolts = Bolts("bolts", size.name, str(given.value("bolt_grade")), points, vec(way), vec(seat.u))
    return Detail(
        "cap and base splice", tuple(plates), (bolts,), tuple(welds), ends=tuple(EndCut(i, vec(at), vec(n)) for i, (at, n) in feet.items()),
        dimensions=_dimensions(seat, xs, ys, (length, width), (cap, pack, base)), numbers=tuple(given.numbers.values()), views=_views(seat),
    )  # fmt: skip


def _solid(m: CaseMember, seat: _Seat) -> Polygon:
    """A column's profile as it covers the plates, along ``u`` and ``v``; a tube is closed, for nobody reaches into it."""
    ring = shapely.get_coordinates(closed_profile(m.shape).exterior)  # the member's own y and z
    world = np.outer(ring[:, 0], m.frame.y) + np.outer(ring[:, 1], m.frame.z) + stands_on(m, seat.point, seat.up).o - seat.point
    return Polygon(np.column_stack([world @ seat.u, world @ seat.v]))


def _spots(given: Given, solids: Sequence[Polygon], half: tuple[float, float], room: tuple[float, float], size: BoltSize, leg: float, step: float, thin: float) -> tuple[tuple[float, ...], float]:
    """Spacings along the depth and the gauge at which every bolt is clear of both columns: between their flanges, or outside.

    ``room`` is how far from the middle bolts may stand on a plate no larger than the columns need.  In exposed work rows stand no further
    apart than the plates allow.
    """
    house = given.house
    # bolts stand in all four quarters alike: what is in any of them counts in the one that is looked at
    steel = shapely.union_all([shapely.transform(x, lambda c, q=q: c * q) for x in solids for q in ((1, 1), (1, -1), (-1, 1), (-1, -1))])
    shapely.prepare(steel)
    most = rules_of(house).spacing_greatest(thin).value if house.exposed else math.inf
    least = up(3 * size.d, step)

    def free(gauges: Sequence[float], first: float, clear: float) -> list[list[float]]:
        """For every gauge the places off the middle, from ``first`` on inwards by half steps, where all of the row's bolts are clear: asked of
        the steel all at once, for there are thousands."""
        if first < 0:  # the edge asked for is wider than the plate
            return [[] for _ in gauges]
        grid = np.arange(int(first / (step / 2) + 1e-6) + 1) * (-step / 2) + first
        grid = grid[grid >= 0]
        clear_of = ~shapely.dwithin(steel, shapely.points(*np.meshgrid(grid, np.array(gauges) / 2)), clear - 1e-6)
        return [grid[ok].tolist() for ok in clear_of]

    def rows(places: list[float]) -> list[float]:
        """Rows (off the middle, outermost first, one of each two) from the outermost of some places on inwards."""
        open_ = [x for x in places if x == 0 or 2 * x >= least]
        out = open_[:1]
        while out and 2 * out[-1] > most:
            further = [x for x in open_ if out[-1] - most <= x <= out[-1] - least]
            if not further:
                break
            out.append(further[-1])
        return out if out and out != [0.0] else []

    def apart(some: list[float]) -> float:
        xs = sorted({*some, *(-x for x in some)})
        return max(b - a for a, b in zip(xs, xs[1:], strict=False))

    wide = [g for k in range(int(max(0.0, 2 * room[1] - least) / step) + 1) if (g := least + k * step) <= most]
    inside: tuple[float, list[float]] | None = None
    ends = rules_of(house).edge_greatest(thin).value if house.exposed else math.inf  # of the plate, past the outermost bolts
    clears = (size.off_steel(leg), max(size.clear, leg + size.washer_d / 2))  # where a socket does not pass the welds too, a spanner has to do
    near = False
    for clear in clears:
        found = [(g, r) for g, places in zip(wide, free(wide, down(room[0], step / 2), clear), strict=True) if (r := rows(places))]
        # the fewest too far apart, then about where a flange would have them
        inside = min(found, key=lambda c: (max(0.0, apart(c[1]) - most) if house.exposed else 0.0, abs(c[0] - 1.1 * half[1])), default=None)
        near = inside is not None and room[0] + float(given.numbers["edge"].value) - inside[1][0] <= ends - step / 2  # type: ignore[arg-type]
        if near and inside is not None and (not house.exposed or apart(inside[1]) <= most):
            break
    where = str(given.worked_out("where", BETWEEN if near else OUTSIDE))
    if where == BETWEEN and inside is None:
        raise NoFit(f"between the flanges of both columns there is no room for {size.name} bolts {clears[1]:.0f} mm off the steel", right=f"{OUTSIDE!r}, or smaller bolts")
    if where == OUTSIDE or inside is None:
        gauge = max(least, min(down(2 * half[1] - size.d, step), down(most, step) if math.isfinite(most) else math.inf))
        off = up(half[0] + size.off_steel(leg), step / 2)
        tried = [rows(free([gauge], off, c)[0]) or [off] for c in clears]
        inside = (gauge, next((r for r in tried if apart(r) <= most), tried[0]))
    gauge, some = inside
    xs = sorted({*some, *(-x for x in some)})
    return tuple(given.worked_out("pitch", tuple(b - a for a, b in zip(xs, xs[1:], strict=False)))), float(given.worked_out("gauge", gauge))


def _views(seat: _Seat) -> tuple[SheetView, ...]:
    point = vec(seat.point)
    return (
        SheetView("front", "Front", Frame.of(point, seat.u, -seat.v)),
        SheetView("side", "Side", Frame.of(point, seat.v, seat.u)),
        SheetView("plan", "Plan", Frame.of(point, seat.u, seat.up)),
    )


def _dimensions(seat: _Seat, xs: list[float], ys: list[float], size: tuple[float, float], deep: tuple[float, float, float]) -> tuple[Dimension, ...]:
    a, b = size[0] / 2, size[1] / 2
    cap, pack, base = deep

    def p(*at: float) -> Vec3:
        return vec(seat.at(*at))

    heights = (-pack / 2 - cap, -pack / 2, pack / 2, pack / 2 + base) if pack else (-cap, 0.0, base)
    return (
        Dimension("plan", "bottom", 0, tuple(p(x, -b) for x in (-a, *xs, a)), ("", *("pitch",) * (len(xs) - 1), "")),
        Dimension("plan", "bottom", 1, (p(-a, -b), p(a, -b)), ("length",)),
        Dimension("plan", "right", 0, tuple(p(a, y) for y in (-b, *ys, b)), ("", "gauge", "")),
        Dimension("plan", "right", 1, (p(a, -b), p(a, b)), ("width",)),
        Dimension("front", "right", 0, tuple(p(a, 0.0, z) for z in heights), ("cap_thickness", "pack", "base_thickness") if pack else ("cap_thickness", "base_thickness")),
    )


FAMILY = Family(
    "cap-and-base", "Cap and base", ("cap and base splice", "column splice", "end plate splice", "bearing splice", "column on column"), ("column splice",), SETTINGS, fits, build,
    {
        "edge-least": ("edge", "length", "width"), "edge-greatest": ("edge", "length", "width"), "spacing-least": ("pitch", "gauge"), "spacing-greatest": ("pitch", "gauge", "cap_thickness", "base_thickness"),
        "bolt-room": ("pitch", "gauge"), "fillet-throat": ("flange_weld", "web_weld"), "fillet-leg-least": ("flange_weld", "web_weld"), "fillet-leg-greatest": ("flange_weld", "web_weld"),
        "plate-stock": ("cap_thickness", "base_thickness", "pack"), "plate-step": ("length", "width"),
    },
    situations=("feet",), example=at_end(a_column("UC 203x203x46", high=3000.0), a_column("UC 203x203x46", low=3000.0), end="start"),
)  # fmt: skip
