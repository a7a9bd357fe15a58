"""Cap plate: a plate on a column's end, alone or bolted to the flange of a beam that goes on over or under it, with stiffeners in the beam.

Joint frame: that of the column's end.  The plate lies with its x along the beam, or along the column's depth where there is none.
"""

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from tincleat.catalogue.fasteners import BoltSize, bolt_size
from tincleat.catalogue.sections import Section
from tincleat.details.assembled import role_words
from tincleat.details.parts import Angle, Bolts, Detail, Dimension, Hole, Plate, SheetView, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import BOLT_GRADES, BOLT_SIZES, HOLES, STEEL_GRADES, Family, Given, Setting, bolt_choice
from tincleat.families.example import a_column, at_end
from tincleat.families.shear import flange_bolt
from tincleat.geometry.frames import Array, Frame, Vec3, crossed, unit, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case, CaseMember
from tincleat.kit.drill import drilled
from tincleat.kit.face import flange_face
from tincleat.kit.foot import closed_profile, foot_welds, footprint, leaned, legs_round, reaches
from tincleat.kit.gauge import flange_gauges, lines_across
from tincleat.kit.layout import centred, down, up
from tincleat.kit.stiffen import room_beside, sides_of, stiffener
from tincleat.project.entities import HouseRules
from tincleat.standards.rulesets import rules_of
from tincleat.steel.cuts import EndCut, MemberHole

MOST_LEAN = math.radians(18)  # between the column and the beam's flange: at more the fillet on its sharp side cannot be laid
USUAL = 140.0  # mm between rows of bolts inside a column, at most
LEVEL = 0.9  # of a depth that stands upright, its share of the plumb line
UNDER, MIDDLE, NONE = "over the column's flanges", "in the middle", "none"

SETTINGS = (
    Setting("thickness", "Plate thickness", "length", "Plate", 15.0, "Thickness of the cap plate.", 5, 100, inches=15.875),
    Setting("length", "Plate length", "length", "Plate", None, "Along the beam, or along the column's depth; worked out from bolts or projection if not typed.", 40, 3000),
    Setting("width", "Plate width", "length", "Plate", None, "Across; worked out from bolts or projection if not typed.", 40, 3000),
    Setting("projection", "Plate past the column", "length", "Plate", None, "Least plate past the column all round, for its weld.", 0, 500),
    Setting("past_top", "Past the top", "length", "Plate", None, "At the end of a member that lies level, over its top side alone; as everywhere if not typed.", -1000, 1000),
    Setting("past_bottom", "Past the bottom", "length", "Plate", None, "Under its bottom side alone: the plate that a girder bears with; as everywhere if not typed.", -1000, 1000),
    Setting("grade", "Plate grade", "choice", "Plate", lambda h: h.plate_grade, "Steel grade of plate and stiffeners.", choices=STEEL_GRADES),
    Setting("pack", "Pack", "length", "Plate", 0.0, "Pack between plate and beam, for level; 0 is none.", 0, 100),
    Setting("bolt", "Bolt", "choice", "Bolts", bolt_choice, "Size of the bolts to the beam.", choices=BOLT_SIZES),
    Setting("bolt_grade", "Bolt grade", "choice", "Bolts", lambda h: h.bolt_grade, "Strength class of the bolts.", choices=BOLT_GRADES),
    Setting("pitch", "Bolts along the beam", "spacings", "Bolts", None, "Spacings along the beam, centred on the column; if not typed one gap, between its flanges where there is room, else outside.", 0, 2000),
    Setting("gauge", "Gauge", "length", "Bolts", None, "Between the two lines of bolts, across the beam; in a channel from its back to the one line.", 30, 1000),
    Setting("hole", "Holes in plate", "choice", "Bolts", "normal", "Kind of hole in the plate; slots run along the beam.", choices=HOLES),
    Setting("stiffeners", "Stiffeners in the beam", "choice", "Stiffeners", None, "Where plates stand in the beam; over its flanges if they lie across it, else in the middle.", choices=(UNDER, MIDDLE, NONE)),
    Setting("stiffener_thickness", "Stiffener thickness", "length", "Stiffeners", None, "Thickness of the stiffeners; the column's flange on plate stock if not typed.", 3, 100),
    Setting("stiffener_width", "Stiffener width", "length", "Stiffeners", None, "From the beam's web out; to the flange's edge and down to flat-bar stock if not typed.", 15, 1000),
    Setting("flange_weld", "Flange weld leg", "length", "Welds", None, "Fillets round the column's flanges or walls.", 2, 40),
    Setting("web_weld", "Web weld leg", "length", "Welds", None, "Fillets along the column's web.", 2, 40),
    Setting("stiffener_weld", "Stiffener weld leg", "length", "Welds", None, "Fillets on both faces of every stiffener.", 2, 40),
)  # fmt: skip


@dataclass(frozen=True)
class _Seat:
    """Where the plate lies: its middle on the side away from the column, unit directions into the column, along and across."""

    point: Array
    into: Array
    u: Array
    v: Array

    def at(self, x: float, y: float, z: float = 0.0) -> Array:
        """A point ``x`` along, ``y`` across, ``z`` towards the column, in the joint."""
        return self.point + self.u * x + self.v * y + self.into * z


def _seat(case: Case, deep: float = 0.0) -> _Seat:
    """The seat on the beam's flange, or at the column's drawn end; under a sloping flange so that the column's middle meets that of the
    plate ``deep`` mm off the flange."""
    column, beam = case.supported, case.support
    a = np.array(column.away)
    if beam is None:
        d = unit(np.array(column.frame.z))
        return _Seat(column.frame.o, a, d, crossed(a, d))
    n, p = flange_face(beam, a)
    point = column.frame.o + a * ((float((p - column.frame.o) @ n) + deep) / float(a @ n)) - n * deep
    x = np.array(beam.frame.x)
    return _Seat(point, n, x, crossed(n, x))


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless a column ends square under or on a beam's flange, or free at its head."""
    if case.kind not in FAMILY.kinds:
        raise NoFit(f"a cap plate goes on a column's end; this is a {case.kind}", right="a head or free end, a column under a beam, or a post on one")
    column, beam = case.supported, case.support
    if column.shape.shape not in ("I", "C", "RHS", "CHS"):
        raise NoFit(f"{column.shape.name} is a {column.shape.shape} section; a cap plate takes I-sections, channels and hollow sections")
    if beam is None:
        return
    if beam.shape.shape not in ("I", "C"):
        raise NoFit(f"{beam.shape.name} is a {beam.shape.shape} section; the bolts of a cap plate go through an open flange", right="an I-section or a channel")
    if abs(beam.frame.z[0]) < 0.7:
        raise NoFit(f"{beam.shape.name} shows the column its side, not its flange", right="a beam that stands upright over the column")
    lean = math.acos(min(1.0, abs(float(np.array(column.away) @ np.array(beam.frame.z)))))
    if lean > MOST_LEAN:
        raise NoFit(f"the beam's flange lies {math.degrees(lean):.1f}° off square to the column", right=f"up to {math.degrees(MOST_LEAN):.0f}°")


def build(case: Case, given: Given) -> Detail:
    """Plate, pack, bolts to the beam, welds round the column, stiffeners in the beam."""
    house, column, beam = given.house, case.supported, case.support
    shape = case.supported.shape
    step = 6.35 if house.inch else 5.0
    t = float(given.value("thickness"))
    grade = str(given.value("grade"))
    pack = float(given.value("pack")) if beam is not None else 0.0
    seat = _seat(case, pack + t)
    legs = legs_round(shape, t, house.inch, math.acos(min(1.0, float(np.array(column.away) @ seat.into))))
    flange, web = (given.rounded(name, leg, "weld leg") for name, leg in zip(("flange_weld", "web_weld"), legs, strict=True))
    # the column as it stands on the plate: x along its depth, z up it
    foot = Frame.of(seat.at(0.0, 0.0, pack + t), np.array(column.frame.z), np.array(column.away))
    half_u, half_v = footprint(shape, foot, vec(seat.u), vec(seat.v), vec(seat.into))
    past = float(given.worked_out("projection", up(flange + 4.0, step)))
    least_u, least_v = 2 * (half_u + past), 2 * (half_v + past)
    xs: list[float] = []
    ys: list[float] = []
    edge = 0.0
    size = flange_bolt(beam.shape, given) if beam is not None else bolt_size(str(given.value("bolt")), given.house.tighten_room)
    hole = house.hole(size.name, str(given.value("hole")))
    if beam is not None:
        edge = up(max(rules_of(house).edge_least(size, Hole(0, 0, *hole), False).value, 1.5 * size.d), step)
        ribs = _ribs(case, given, seat, foot)
        gauges = [float(given.value("gauge"))] if given.has("gauge") else flange_gauges(beam.shape, size, edge, house)
        lines = {g: sorted(float((beam.frame.to_world([(0.0, y, 0.0)])[0] - seat.point) @ seat.v) for y in lines_across(beam, g)) for g in gauges}
        rules, thin = rules_of(house), min(t, beam.shape.tf)
        most = (rules.spacing_greatest(thin).value, rules.edge_greatest(thin).value) if house.exposed else (math.inf, math.inf)
        lines = {g: ys for g, ys in lines.items() if ys[-1] - ys[0] <= most[0]} or dict([min(lines.items())])
        gaps, gauge = min(((_gaps(column, foot, seat, size, ys, flange, ribs, 2 * step, half_u + past, most), g) for g, ys in lines.items()), key=lambda found: sum(found[0]) > 2 * half_u)
        ys = lines[float(given.worked_out("gauge", gauge))]
        xs = centred(tuple(given.worked_out("pitch", gaps)))
        least_u, least_v = max(least_u, xs[-1] - xs[0] + 2 * edge), max(least_v, 2 * (max(abs(y) for y in ys) + edge))
    width = given.rounded("width", least_v, "cap plate width")
    ends = _own_ends(case, given, seat, half_u, past)
    length = given.rounded("length", least_u, "cap plate length") if ends is None else float(given.worked_out("length", ends[1] - ends[0]))
    u0, u1 = ends or (-length / 2, length / 2)
    if u1 - u0 < 10.0 or abs(u1 - u0 - length) > 0.05:
        raise NoFit(f"{length:.0f} mm is typed, but the edges make {u1 - u0:.0f} mm", right="the length or both edges, not all")
    holes = tuple(Hole(x, y, *hole, 0.0, given.value("hole")) for x in xs for y in ys)
    outline = Outline.rectangle(u0, -width / 2, u1, width / 2)
    kinds = ("cap plate length" if ends is None else "", "cap plate width")
    plates = [Plate("cap plate", outline, t, Frame.of(seat.at(0.0, 0.0, pack), seat.u, seat.into), grade, holes, kinds)]
    if pack:
        plates.append(Plate("pack", outline, pack, Frame.of(seat.at(0.0, 0.0), seat.u, seat.into), grade, holes, kinds))
    square = foot_welds(shape, foot, flange, web, ("cap plate", "supported member"), math.copysign(1.0, float(np.array(foot.y) @ np.array(column.frame.y)) * -1.0))
    welds: list[Weld] = leaned(square, foot, vec(seat.into))
    if ends is not None and (whole := [w for w in welds if all(_on(outline, seat, w, end) for end in (w.start, w.end))]) != welds:
        off = ", ".join(dict.fromkeys(w.name for w in welds if w not in whole))
        welds = whole
        given.fitted("flange_weld", flange, f"none at {off}: the plate stops short there")
    groups: list[Bolts] = []
    drill: list[MemberHole] = []
    if beam is not None:
        plain, _ = house.hole(size.name, "normal")
        points = [vec(seat.at(x, y, pack)) for x in xs for y in ys]
        groups.append(Bolts("bolts", size.name, str(given.value("bolt_grade")), tuple(points), vec(-seat.into), vec(seat.u), given.value("hole")))
        drill += drilled(case, 1, [vec(np.array(p) - seat.into * (pack + beam.shape.tf / 2)) for p in points], vec(seat.into), plain, plain, vec(seat.u))
        _stiffen(case, given, seat, ribs, grade, plates, welds)
    return Detail(
        "cap plate", tuple(plates), tuple(groups), tuple(welds), ends=(EndCut(0, vec(seat.at(0.0, 0.0, pack + t)), vec(seat.into)),), holes=tuple(drill),
        dimensions=_dimensions(seat, xs, ys, (u0, u1, width), (half_u if ends else 0.0), (pack, t), abs(float(seat.u[2])) > LEVEL and float(seat.u[2]) < 0), numbers=tuple(given.numbers.values()), views=_views(seat, case),
        angles=_angles(case, seat),
    )  # fmt: skip


def _own_ends(case: Case, given: Given, seat: _Seat, half: float, past: float) -> tuple[float, float] | None:
    """Where the plate ends along the depth of a level member if its top or bottom edge is typed by itself; raises NoFit at other ends."""
    if not (given.has("past_top") or given.has("past_bottom")):
        return None
    up_ = float(seat.u[2])
    if case.kind != "free end" or abs(up_) < LEVEL:
        raise NoFit("top and bottom edges are typed, and its member does not lie level", right="the plate's length, or the end of a level member")
    top, bottom = (float(given.value(n)) if given.has(n) else past for n in ("past_top", "past_bottom"))
    return (-half - bottom, half + top) if up_ > 0 else (-half - top, half + bottom)


def _on(outline: Outline, seat: _Seat, w: Weld, end: Vec3) -> bool:
    """Whether the leg that a fillet has on the plate lies on it at one of the fillet's ends."""
    u0, v0, u1, v1 = outline.bounds
    toe = np.array(end) + np.array(w.u) * w.leg - seat.point
    return bool(u0 - 0.1 <= float(toe @ seat.u) <= u1 + 0.1 and v0 - 0.1 <= float(toe @ seat.v) <= v1 + 0.1)


@dataclass(frozen=True)
class _Ribs:
    """Where stiffeners stand along the beam, from the column's middle, and their thickness."""

    spots: tuple[float, ...]
    t: float


def _gaps(
    column: CaseMember, foot: Frame, seat: _Seat, size: BoltSize, ys: Sequence[float], leg: float, ribs: _Ribs, step: float, half: float, most: tuple[float, float]
) -> tuple[float, ...]:
    """Gaps (mm) between rows, centred on the column, that keep bolts clear of its steel and of the stiffeners: between its flanges where
    there is room, else outside of it.

    Inside they stand ``USUAL`` apart or so far that none is further than ``most[1]`` from the end of a plate reaching ``half`` either
    way, with rows between where they would be more than ``most[0]`` apart.
    """
    shape = column.shape
    # a tube is closed: there is no tightening inside
    solid = closed_profile(shape)
    clear = size.off_steel(leg)
    reach = footprint(shape, foot, vec(seat.u), vec(seat.v), vec(seat.into))[0]

    def clears(span: float, gaps: int = 1) -> bool:
        rows = [-span / 2 + span * i / gaps for i in range(gaps + 1)]
        if not all(abs(abs(r) - abs(x)) >= size.clear + ribs.t / 2 for x in ribs.spots for r in rows):
            return False
        spots = column.frame.to_local(np.array([seat.at(x, y) for x in rows for y in ys]))
        return bool(shapely.distance(solid, shapely.points(spots[:, 1:])).min() >= clear)

    least = up(3 * size.d, step)
    wanted = max(USUAL, 2 * (half + step / 2 - most[1]))  # the plate's length is rounded up yet
    spans = list(itertools.takewhile(lambda span: span < 2 * reach, (least + i * step for i in itertools.count())))
    # the narrowest that is wide enough, or the widest there is
    for span in (*(s for s in spans if s >= wanted - 1e-6), *(s for s in spans[::-1] if s < wanted - 1e-6)):
        gaps = max(1, math.ceil(span / most[0] - 1e-9))
        if clears(span, gaps):
            return (span / gaps,) * gaps
    pitch = max(least, up(2 * reach, step))
    while not clears(pitch):
        pitch += step
    return (pitch,)


def _ribs(case: Case, given: Given, seat: _Seat, foot: Frame) -> _Ribs:
    """Where stiffeners stand: where the column's flanges bring their force, or in its middle."""
    beam, column = case.support, case.supported
    assert beam is not None
    lies_along = abs(float(unit(np.array(foot.x) - seat.into * float(np.array(foot.x) @ seat.into)) @ seat.u))
    usual = UNDER if column.shape.shape == "I" and lies_along > 0.99 else MIDDLE
    # a narrow flange with a wide root leaves a stiffener no weld worth its length
    rules, leg = rules_of(given.house), min(5.0, max(beam.shape.tw, 5.0))
    throat = leg / math.sqrt(2)
    room = down(room_beside(beam.shape) - (beam.shape.r2 if beam.shape.slope else 0.0), 3.175 if given.house.inch else 5.0)
    left = rules.effective(room - _snipe(beam.shape, given.house), throat, False)
    least = rules.fillet_length(leg, throat).value
    if left < least:
        where = str(given.fitted("stiffeners", NONE, f"the flange of {beam.shape.name} leaves their welds {left:.0f} mm of the {least:.0f} needed"))
    else:
        where = str(given.worked_out("stiffeners", usual))
    if where == NONE:
        return _Ribs((), 0.0)
    if where == UNDER and (column.shape.shape != "I" or lies_along < 0.99):
        raise NoFit(f"the flanges of {column.shape.name} do not lie across the beam", right=f"{MIDDLE!r} or {NONE!r}")
    stock = sorted(given.house.plates)
    t = float(given.worked_out("stiffener_thickness", next((p for p in stock if p >= (column.shape.tf or column.shape.tw) - 0.3), stock[-1])))
    off = (column.shape.h - column.shape.tf) / 2 * abs(reaches(foot, vec(seat.u), vec(seat.into))[0])
    return _Ribs((-off, off) if where == UNDER else (0.0,), t)


def _snipe(shape: Section, house: HouseRules) -> float:
    """The snipe of stiffeners in a beam, clear of its root, mm."""
    step = 3.175 if house.inch else 5.0
    return up(shape.r1 + step, step)


def _stiffen(case: Case, given: Given, seat: _Seat, ribs: _Ribs, grade: str, plates: list[Plate], welds: list[Weld]) -> None:
    """The stiffeners, welded to the beam's web and flanges."""
    beam, house, t = case.support, given.house, ribs.t
    if beam is None or not ribs.spots:
        return
    leg = given.rounded("stiffener_weld", min(max(0.5 * t, 4.7625 if house.inch else 5.0), max(beam.shape.tw, 5.0)), "weld leg")
    width = given.rounded("stiffener_width", room_beside(beam.shape), "stiffener")
    snipe = _snipe(beam.shape, house)
    owner = role_words(beam.role)
    start = float(seat.point @ np.array(beam.frame.x))  # the joint lies at the beam's own origin along it
    for number, x in enumerate(ribs.spots, 1):
        for side in sides_of(beam.shape, (-1.0, 1.0)):
            name = f"stiffener {number} {'near' if side < 0 else 'far'}"
            plate, some = stiffener(beam.shape, beam.frame.moved(x=start + x), side, name, owner, grade, t, width, snipe, leg)
            plates.append(plate)
            welds += some


def _angles(case: Case, seat: _Seat) -> tuple[Angle, ...]:
    """The column against a beam that slopes over it, in the views along and across the beam."""
    if case.support is None or float(np.array(case.supported.away) @ seat.into) > 1 - 1e-6:
        return ()
    away = np.array(case.supported.away)
    return tuple(
        Angle(view, vec(seat.point), vec(seat.point + 100 * away), vec(seat.point + 100 * d * math.copysign(1.0, float(away @ d))))
        for view, d in (("front", seat.u), ("side", seat.v)) if abs(float(away @ d)) > 1e-3
    )  # fmt: skip


def _views(seat: _Seat, case: Case) -> tuple[SheetView, ...]:
    upward = seat.into if case.kind == "post on beam" else -seat.into
    point = vec(seat.point)
    return (
        SheetView("front", "Front", Frame.of(point, seat.u, crossed(seat.u, upward))),
        SheetView("side", "Side", Frame.of(point, crossed(upward, seat.u), seat.u)),
        SheetView("plan", "Plan", Frame.of(point, seat.u, upward)),
    )


def _dimensions(seat: _Seat, xs: list[float], ys: list[float], size: tuple[float, float, float], half: float, deep: tuple[float, float], turned: bool) -> tuple[Dimension, ...]:
    """``half`` is half the member's depth where the plate's edges are its own, ``turned`` whether the bottom comes first along the depth."""
    low, a, b = size[0], size[1], size[2] / 2
    pack, t = deep
    own = ("past_top", "", "past_bottom") if turned else ("past_bottom", "", "past_top")
    out = [
        Dimension("plan", "bottom", 1, (vec(seat.at(low, -b)), vec(seat.at(a, -b))), ("length",)),
        *((Dimension("plan", "bottom", 0, tuple(vec(seat.at(x, -b)) for x in (low, -half, half, a)), own),) if half else ()),
        Dimension("plan", "right", 1, (vec(seat.at(a, -b)), vec(seat.at(a, b))), ("width",)),
        Dimension("front", "right", 0, tuple(vec(seat.at(a, 0.0, z)) for z in ((0.0, pack, pack + t) if pack else (0.0, t))), ("pack", "thickness") if pack else ("thickness",)),
    ]
    if xs:
        out.append(Dimension("plan", "bottom", 0, tuple(vec(seat.at(x, -b)) for x in (low, *xs, a)), ("", *(("pitch",) * (len(xs) - 1)), "")))
        out.append(Dimension("plan", "right", 0, tuple(vec(seat.at(a, y)) for y in (-b, *ys, b)), ("", *(("gauge",) * (len(ys) - 1)), "")))
    return tuple(out)


FAMILY = Family(
    "cap-plate", "Cap plate", ("bearing plate", "column head", "beam over column", "post on beam", "top plate", "end cap", "closing plate"), ("column head", "column under beam", "post on beam", "free end"), SETTINGS, fits, build,
    {
        "edge-least": ("length", "width", "gauge", "pitch"), "edge-greatest": ("length", "width", "thickness"), "spacing-least": ("pitch", "gauge"), "spacing-greatest": ("pitch", "gauge", "thickness"),
        "bolt-room": ("pitch", "gauge"), "fillet-throat": ("flange_weld", "web_weld", "stiffener_weld"), "fillet-leg-least": ("flange_weld", "web_weld", "stiffener_weld"),
        "fillet-leg-greatest": ("flange_weld", "web_weld", "stiffener_weld"), "plate-stock": ("thickness", "stiffener_thickness", "pack"), "plate-step": ("length", "width", "stiffener_width"),
    },
    situations=("beams",), example=at_end(a_column("UC 203x203x46")),
)  # fmt: skip
