"""End plate: a plate welded across a beam's end and bolted to a column, a beam's web, or the like plate of another beam.

Joint frame: origin where the beam's middle line meets the face, x out along the beam, z up its depth.  Everything is laid out in
the plate's own plane: ``v`` runs up it along the beam's depth, ``w`` across.
"""

import math
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np

from tincleat.catalogue.fasteners import BoltSize, bolt_size
from tincleat.catalogue.sections import Section
from tincleat.details.assembled import role_words
from tincleat.details.parts import Angle, Bolts, Detail, Dimension, Hole, Plate, SheetView, Weld
from tincleat.errors import NoFit
from tincleat.families.column_side import COLUMN_WELDS, column_leg, column_stiffeners, web_plates
from tincleat.families.declare import BOLT_GRADES, BOLT_SIZES, HOLES, STEEL_GRADES, Family, Given, Setting, bolt_choice
from tincleat.families.example import a_beam, a_column, at_end
from tincleat.families.haunch import haunch
from tincleat.families.shear import end_notches, end_of_beam, even_down, room_in_web
from tincleat.geometry.frames import Array, Frame, Vec3, crossed, unit, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case, CaseMember
from tincleat.kit.cope import in_the_way
from tincleat.kit.drill import drilled
from tincleat.kit.face import face_of, face_width, keep_on
from tincleat.kit.layout import centred, down, inner_face, up
from tincleat.kit.packs import stocked
from tincleat.kit.weld import fillet
from tincleat.project.entities import HouseRules
from tincleat.standards.rulesets import rules_of
from tincleat.steel.cuts import EndCut, MemberHole, Notch

FACED = ("beam to column flange", "beam to column web", "beam to beam web", "beam on flange", "knee")
PAIRED = ("apex", "splice")
MOST_SKEW = math.radians(30)
MOST_LEAN = math.radians(15)  # of a beam's web off the way up the plate
MOST_ROLLED = math.radians(1)  # of two beams' webs to each other

SETTINGS = (
    Setting("shape", "Plate reaches", "choice", "Plate", None, "Flush with the flanges, past the top one, past both, or on the web only.",
            choices=("flush", "past the top", "past both flanges", "partial depth")),
    Setting("thickness", "Plate thickness", "length", "Plate", None, "About the bolt's diameter if not typed.", 6, 100),
    Setting("width", "Plate width", "length", "Plate", None, "The beam's flange and a little; not wider than what it lies on.", 60, 1000),
    Setting("height", "Plate height", "length", "Plate", None, "From the rows; rounded if not typed.", 60, 3000),
    Setting("grade", "Plate grade", "choice", "Plate", lambda h: h.plate_grade, "Steel grade of plates and stiffeners.", choices=STEEL_GRADES),
    Setting("bolt", "Bolt", "choice", "Bolts", bolt_choice, "Size of the bolts.", choices=BOLT_SIZES),
    Setting("bolt_grade", "Bolt grade", "choice", "Bolts", lambda h: h.bolt_grade, "Strength class of the bolts.", choices=BOLT_GRADES),
    Setting("gauge", "Gauge", "length", "Bolts", None, "Between the two lines of bolts; clear of webs and roots.", 40, 600),
    Setting("pitch", "Row pitch", "spacings", "Bolts", None, "Spacings of the rows between the flanges, from the top down.", 0, 2000),
    Setting("first_row", "First row in", "length", "Bolts", None, "From the outer face of the flange to the first row inside it.", 20, 400),
    Setting("row_past", "Row past the flange", "length", "Bolts", None, "From the outer face of the flange to the row beyond it.", 20, 400),
    Setting("end_distance", "Plate end distance", "length", "Bolts", 40.0, "From the outer row to the plate's end, where it reaches past a flange.", 15, 300, inches=38.1),
    Setting("hole", "Holes", "choice", "Bolts", "normal", "Kind of hole in the plates.", choices=HOLES),
    Setting("flange_weld", "Flange weld leg", "length", "Welds", None, "Fillets along both faces of the flanges.", 2, 40),
    Setting("web_weld", "Web weld leg", "length", "Welds", None, "Fillets on both faces of the web.", 2, 40),
    Setting("haunch_depth", "Haunch depth", "length", "Haunch", None, "Under the beam at the plate; 0 is none.  A knee has one as deep as its rafter.", 0, 2000),
    Setting("haunch_length", "Haunch length", "length", "Haunch", None, "Along the beam.", 100, 6000),
    Setting("column_stiffeners", "Column stiffeners", "choice", "Column", None, "Plates in the column at the level of the beam's flanges.", choices=("none", "bottom", "top and bottom")),
    Setting("stiffener_thickness", "Stiffener thickness", "length", "Column", None, "At least the flange's if not typed.", 5, 80),
    Setting("doubler", "Web plates", "choice", "Column", "none", "Plates on the column's web between the stiffeners.", choices=("near side", "far side", "both sides", "none"), handed=True),
    Setting("doubler_thickness", "Web plate thickness", "length", "Column", 8.0, "Thickness of the web plates.", 5, 40, inches=9.525),
    *COLUMN_WELDS,
    Setting("backing", "Backing plates", "length", "Column", 0.0, "Thickness of plates behind the column's flange, under the bolts; 0 is none.", 0, 40),
    Setting("cap", "Cap plate", "length", "Column", None, "Thickness of the plate on a column's head at a knee; 0 is none.", 0, 50),
    Setting("pack", "Pack", "length", "Plate", 0.0, "Thickness of a pack between plate and column; 0 is none.", 0, 60),
)  # fmt: skip


@dataclass(frozen=True)
class _Plane:
    """The plate's plane: a point of the face, its normal towards the first beam, the ways up it and across it."""

    point: Array
    n: Array
    v: Array
    w: Array

    def at(self, v: float, w: float = 0.0, off: float = 0.0) -> Array:
        """A point ``v`` up, ``w`` across and ``off`` out of the face."""
        return self.point + self.v * v + self.w * w + self.n * off


@dataclass
class _Made:
    """What has been made so far."""

    plates: list[Plate] = field(default_factory=list)
    welds: list[Weld] = field(default_factory=list)
    ends: list[EndCut] = field(default_factory=list)
    notches: list[Notch] = field(default_factory=list)
    holes: list[MemberHole] = field(default_factory=list)


@dataclass(frozen=True)
class _Beam:
    """A beam at the plate: its number, the side of the plane it lies on, and where its fibres meet the plate's front."""

    number: int
    member: CaseMember
    side: float
    front: Array  # a point of the plane its end is cut at
    plane: _Plane

    @property
    def shape(self) -> Section:
        return self.member.shape

    @property
    def up(self) -> float:
        """Which of its own depth's ends is up the plate."""
        return 1.0 if float(np.array(self.member.frame.z) @ self.plane.v) > 0 else -1.0

    def fibre(self, y: float, z: float) -> Array:
        """Where its fibre (own y, height up the plate) meets the front of the plate."""
        f, n = self.member.frame, self.plane.n
        start = f.o + np.array(f.y) * y + np.array(f.z) * z * self.up
        return start + np.array(f.x) * float(n @ (self.front - start)) / float(n @ np.array(f.x))

    def v(self, y: float, z: float) -> float:
        """How far up the plate that is."""
        return float((self.fibre(y, z) - self.plane.point) @ self.plane.v)

    def w(self, y: float, z: float) -> float:
        """How far across the plate that is."""
        return float((self.fibre(y, z) - self.plane.point) @ self.plane.w)


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless a beam ends on a face that bolts can pass, or two beams end against each other."""
    if case.kind not in FACED + PAIRED or len(case.members) < 2:
        raise NoFit(f"an end plate joins a beam's end to a flange, a web or another beam's end; this joint is a {case.kind}", right="such a beam end")
    for number in (0, 1) if case.kind in PAIRED else (0,):
        shape = case.members[number].shape
        if shape.shape != "I":
            raise NoFit(f"{shape.name} is a {shape.shape} section; an end plate is laid out on two flanges and a web", right="an I-section")
    if case.kind in FACED:
        support = case.members[1].shape
        if support.shape not in ("I", "C", "T"):
            raise NoFit(f"{support.name} is a {support.shape} section: nobody can hold a nut behind its wall", right="an I-section or channel")
        turned = math.acos(min(1.0, abs(float(face_of(case)[0][0]))))
        if case.kind in ("beam to column flange", "knee", "beam on flange") and abs(float(np.dot(case.members[1].frame.x, _plane(case).v))) < 0.7:
            raise NoFit(f"the beam lies on its side across {support.name}, whose web stands where its rows of bolts would", right="a beam whose web runs along the support's")
        if (lean := _lean(case, _plane(case))) > MOST_LEAN:
            raise NoFit(f"the beam lies rolled {math.degrees(lean):.0f}° from upright on {support.name}", right=f"a web that stands up the plate, within {math.degrees(MOST_LEAN):.0f}°")
    else:
        turned = math.acos(max(-1.0, min(1.0, -float(np.dot(case.members[0].away, case.members[1].away))))) / 2
        rolled = math.acos(min(1.0, abs(float(np.dot(case.members[0].frame.y, case.members[1].frame.y)))))
        if rolled > MOST_ROLLED:
            raise NoFit(f"the webs of the two beams stand {math.degrees(rolled):.1f}° to each other", right="two beams whose webs lie in one plane")
    if turned > MOST_SKEW + 1e-4:
        raise NoFit(f"the plate would stand {math.degrees(turned):.0f}° off square to the beam", right="at most 30°")
    if case.kind == "beam to beam web":
        room_in_web(end_of_beam(case, house, None), house)


def _lean(case: Case, plane: "_Plane") -> float:
    """How far a beam's depth leans aside on its plate, rad."""
    z = np.array(case.members[0].frame.z)
    return math.acos(min(1.0, abs(float(z @ plane.v)) / math.hypot(float(z @ plane.v), float(z @ plane.w))))


def _plane(case: Case) -> _Plane:
    first = case.members[0]
    if case.kind in FACED:
        n, p = face_of(case)
    else:
        n = unit(np.array(first.away) - np.array(case.members[1].away))
        p = np.zeros(3)
    z = np.array(first.frame.z) * (1.0 if first.frame.z[2] >= 0 else -1.0)
    v = unit(z - n * float(z @ n))
    if case.kind in FACED:  # square to what it is bolted to: on a skew and a slope at once the beam's depth leans a little
        along = np.array(case.members[1].frame.x)
        line = along if abs(float(along @ v)) > 0.7 else crossed(n, along)
        v = line * math.copysign(1.0, float(line @ v)) if abs(float(line @ v)) > 0.95 else v
    # where the beam's middle line meets the face
    x = np.array(first.frame.x)
    p = first.frame.o + x * float(n @ (p - first.frame.o)) / float(n @ x)
    return _Plane(p, n, v, crossed(v, n))


def build(case: Case, given: Given) -> Detail:
    """Plates, bolts, welds, haunch, what stiffens the column, ends, holes."""
    house = given.house
    inch, step = house.inch, (6.35 if house.inch else 5.0)
    plane = _plane(case)
    first = case.members[0]
    form = _form(case, given)
    bolt = str(given.value("bolt"))
    b = bolt_size(bolt, given.house.tighten_room)
    usual = min((t for t in house.plates if t >= b.d * (0.95 if form != "partial depth" else 0.5) - 0.3), default=b.d)
    t = float(given.worked_out("thickness", usual))
    pack = float(given.value("pack")) if case.kind in FACED else 0.0
    shapes = [case.members[i].shape for i in ((0, 1) if case.kind in PAIRED else (0,))]
    leg_f = given.rounded("flange_weld", max(0.7 * max(s.tf for s in shapes), 5.0 if not inch else 4.7625), "weld leg")
    short = min(s.b / 2 - s.tw / 2 - s.r1 for s in shapes)
    longest = down(short / 8 / 0.77, 1.5875 if inch else 1.0)  # of which a run is long enough to count: 6 a and a at each end
    if house.rule_set == "EN" and leg_f > longest and not given.has("flange_weld"):
        leg_f = float(given.fitted("flange_weld", max(longest, 5.0), f"the flange is welded along {short:.0f} mm inside"))
    askew = math.asin(min(0.9, abs(float(np.dot(first.away, plane.w)))))
    blunt = 3.0 / math.cos(math.pi / 4 + askew / 2)  # on its blunt side a fillet's throat is less: 3 mm there too (EN 1993-1-8, 4.5.2)
    leg_w = given.rounded("web_weld", max(0.7 * max(s.tw for s in shapes), blunt, 4.5 if not inch else 4.7625), "weld leg")
    beams = [_Beam(0, first, 1.0, plane.point + plane.n * (pack + t), plane)]
    if case.kind in PAIRED:
        beams.append(_Beam(1, case.members[1], -1.0, plane.point - plane.n * t, plane))
    made = _Made()
    for x in beams:
        made.ends.append(EndCut(x.number, vec(x.front), vec(plane.n * x.side)))
    v_top, v_bottom = max(x.v(0.0, x.shape.h / 2) for x in beams), min(x.v(0.0, -x.shape.h / 2) for x in beams)
    tf = max(x.shape.tf for x in beams)
    hd = 0.0
    aside = math.degrees(askew)
    if form != "partial depth" and case.kind == "knee" and aside > 5.0 and not given.has("haunch_depth"):
        given.fitted("haunch_depth", 0.0, f"the beam comes {aside:.0f}° askew to the column, a haunch would run into its own bolts")
    elif form != "partial depth":
        usual = float(round(first.shape.h / step) * step)
        hd = given.rounded("haunch_depth", usual, "haunch depth") if case.kind == "knee" else float(given.worked_out("haunch_depth", 0.0))
        if hd and aside > 5.0:
            raise NoFit(f"the beam comes {aside:.0f}° askew; a haunch would run into its own bolts", right="no haunch, or a beam within 5° of square")
    low, rise = v_bottom, 0.0
    if hd:
        sizes = (stocked(first.shape.tw, house), stocked(tf, house))
        length = given.rounded("haunch_length", max(up(3 * hd, 50.0 if not inch else 50.8), 400.0), "haunch length")
        for x in beams:
            foot, steep = haunch(case, x.number, x.side, plane.n, plane.v, plane.point, x.front, hd, length, sizes, str(given.value("grade")), (leg_f, leg_w), house, made.plates, made.welds, "" if len(beams) == 1 else f" {x.number + 1}")
            low, rise = min(low, foot), max(rise, steep)
    rows, ends = _rows(given, form, (v_top, low), (v_bottom, rise) if hd else None, _apart(beams, v_top, v_bottom), tf, leg_f, case, house)
    if form == "partial depth":
        notched = end_of_beam(case, house, None)
        made.notches += end_notches(case, notched, house)
    width, gauge, middle_w = _across(case, given, beams, form, bolt, plane, leg_w, stocked(first.shape.tw, house) if hd else 0.0)
    height = given.rounded("height", ends[0] - ends[1], "end plate length")
    if given.has("height") or form == "past both flanges" or form == "partial depth":
        middle = (ends[0] + ends[1]) / 2
        top, bottom = middle + height / 2, middle - height / 2
        if form == "partial depth" and not given.has("height"):
            zone = _web_zone(case, house, beams[0])
            if top > zone[1] + 1e-6 or bottom < zone[0] - 1e-6:
                top, bottom = ends
                given.fitted("height", ends[0] - ends[1], f"the clear web is {zone[1] - zone[0]:.0f} mm")
    elif form == "past the top" or hd:
        top, bottom = ends[0], ends[0] - height
    else:
        top, bottom = (ends[0] + ends[1] + height) / 2, (ends[0] + ends[1] - height) / 2
    lines = centred((gauge,), middle_w)
    hole_w, hole_l = house.hole(bolt, str(given.value("hole")))
    spots = [(v, w) for v in rows for w in lines]
    _end_plates(beams, made, (bottom, top), middle_w, width, t, pack, str(given.value("grade")), [Hole(w, v, hole_w, hole_l, math.pi / 2, given.value("hole")) for v, w in spots], plane)
    rules, throat = rules_of(house), leg_f / math.sqrt(2)
    alone = rules.fillet_length(leg_f, throat).value + 100.0 - rules.effective(100.0, throat, False)  # of a run that counts by itself
    for x in beams:
        _profile_welds(x, made, (bottom, top), form, (leg_f, leg_w), bool(hd), 0.0 if x.shape.slope else alone)
    points = tuple(vec(plane.at(v, w)) for v, w in spots)
    bolts = Bolts("bolts", bolt, str(given.value("bolt_grade")), points, vec(-plane.n), vec(plane.v), given.value("hole"))
    plain, _ = house.hole(bolt, "normal")
    if case.kind in FACED:
        if case.kind != "knee":
            keep_on(case.members[1], [plane.at(v, middle_w + s * width / 2) for v in (bottom, top) for s in (-1.0, 1.0)], "the end plate")
        made.holes += drilled(case, 1, points, plane.n, plain, plain, plane.v)
        _column(case, given, made, beams[0], plane, (v_top, low), (bottom, top), rows, (width, t + pack), lines, plain)
    if case.kind == "beam to column web" and form != "partial depth":
        way = in_the_way(first, case.members[1], vec(plane.point), vec(plane.n), house.notch_clearance, 10.0)
        if way.top or way.bottom:
            raise NoFit(f"the flanges of {first.shape.name} do not pass between those of {case.members[1].shape.name}", right="a plate of partial depth, or a narrower beam")
    return Detail(
        "end plate", tuple(made.plates), (bolts,), tuple(made.welds), ends=tuple(made.ends), notches=tuple(made.notches), holes=tuple(made.holes),
        dimensions=_dimensions(plane, rows, (bottom, top), middle_w, width, gauge, t, (v_top, v_bottom), _told(given, "row_past")), numbers=tuple(given.numbers.values()), angles=_leans(beams, plane),
        views=(
            SheetView("front", "Front", Frame.of(plane.point, plane.n, -plane.w)),
            SheetView("side", "Plate", Frame.of(plane.point, plane.w, plane.n)),
            SheetView("plan", "Plan", Frame.of(plane.point, plane.n, plane.v)),
        ),
    )  # fmt: skip


def _apart(beams: "list[_Beam]", top: float, bottom: float) -> tuple[tuple[float, float], tuple[float, float]]:
    """How far the beams' outer faces come over and under where their upper ones (first) and lower ones are said to lie: of two beams that do
    not lie at one level, and of one that leans on its plate; never less than 0."""
    heights = [[x.v(y, sign * x.shape.h / 2) for x in beams for y in (-x.shape.b / 2, x.shape.b / 2)] for sign in (1.0, -1.0)]
    return (max(0.0, max(heights[0]) - top), max(0.0, top - min(heights[0]))), (max(0.0, max(heights[1]) - bottom), max(0.0, bottom - min(heights[1])))


def _leans(beams: "list[_Beam]", plane: "_Plane") -> tuple[Angle, ...]:
    """Each beam against the plate, seen from the side; a haunched plate's own lean shows there too."""
    out = []
    for x in beams:
        away = np.array(x.member.away)
        out.append(Angle("front", vec(plane.point), vec(plane.point + 100 * away), vec(plane.point + 100 * plane.v * math.copysign(1.0, float(away @ plane.v)))))
    return tuple(out)


def _form(case: Case, given: Given) -> str:
    usual = {"beam to beam web": "partial depth", "beam to column web": "partial depth", "beam to column flange": "flush", "beam on flange": "flush", "knee": "past the top", "apex": "flush"}
    form = str(given.worked_out("shape", usual.get(case.kind, "past both flanges")))
    if case.kind == "beam to beam web" and form != "partial depth":
        raise NoFit(f"a plate {form} on the web of {case.members[1].shape.name} would run into its flanges", right="a plate of partial depth")
    return form


def _web_zone(case: Case, house: HouseRules, beam: _Beam) -> tuple[float, float]:
    """The straight part of the beam's web on the plate, from and to, up it."""
    end = end_of_beam(case, house, None)
    return beam.v(0.0, end.zone[0]), beam.v(0.0, end.zone[1])


def _rows(given: Given, form: str, span: tuple[float, float], flange: tuple[float, float] | None, apart: "tuple[tuple[float, float], tuple[float, float]]", tf: float, leg: float, case: Case, house: HouseRules) -> tuple[list[float], tuple[float, float]]:
    """Rows from the top down (up the plate, mm), and the plate's raw upper and lower end; ``flange`` is where the beam's lower one lies over a haunch, and how steeply that rises."""
    inch, step = house.inch, (6.35 if house.inch else 5.0)
    b = bolt_size(str(given.value("bolt")), given.house.tighten_room)
    end = float(given.value("end_distance"))
    hole = Hole(0, 0, *house.hole(b.name, "normal"))
    rules = rules_of(house)
    least = max(rules.spacing_least(b, hole, True).value, 3 * b.d if inch else 0.0)
    usual = 76.2 if inch else 90.0
    if form == "partial depth":
        beam = _Beam(0, case.members[0], 1.0, _plane(case).point, _plane(case))
        low, high = _web_zone(case, house, beam)
        if 2 * end > high - low + 1e-6 and not given.has("end_distance"):
            fewest = rules.edge_least(b, hole, False).value
            if 2 * fewest > high - low + 1e-6:
                raise NoFit(f"the clear web on the plate is {max(high - low, 0.0):.0f} mm; one row of {b.name} needs {2 * fewest:.0f} mm", right="smaller bolts, or a deeper beam")
            end = float(given.fitted("end_distance", max(fewest, even_down((high - low) / 2, house)), f"the clear web is {high - low:.0f} mm"))
        gaps = int(max(0.0, (high - low - 2 * end + 1e-6) // max(usual if inch else 70.0, least)))
        pitch: tuple[float, ...] = tuple(given.worked_out("pitch", (max(usual if inch else 70.0, up(least, step)),) * gaps))
        rows = centred(pitch, (low + high) / 2)[::-1]
        return rows, (rows[0] + end, rows[-1] - end)
    top, bottom = span
    square = abs(float(np.dot(case.members[0].away, _plane(case).n)))  # how square the beam stands on the plate
    under, over = _let_in(given, case, b)
    base, beside = (tf + max(leg + b.washer_d / 2 + 10.0, b.off_steel(leg))) / square, max(leg + b.washer_d / 2 + 5.0, b.off_steel(leg)) / square
    (top_over, top_under), (bottom_over, bottom_under) = apart
    inside = float(given.worked_out("first_row", up(top_under + max(base, tf / square + under), step)))
    last = inside if given.has("first_row") else up(max(base, tf / square + over) + (bottom_over if flange is None else 0.0), step)
    past = float(given.worked_out("row_past", up(max(top_over, bottom_under) + max(beside, under if flange is not None or form == "past both flanges" else 0.0, over if form != "flush" else 0.0), step)))
    room = (top - inside) - ((flange[0] + bottom_over if flange is not None else bottom) + last)
    if room < 0:
        raise NoFit(f"between the flanges there is no room for a row: {top - bottom:.0f} mm less {inside:.0f} and {last:.0f} mm", right="a smaller bolt or a plate past the flanges")
    most = rules.spacing_greatest(min(case.members[1].shape.tf if len(case.members) > 1 else 99.0, float(given.value("thickness")) if given.has("thickness") else b.d)).value if house.exposed else 1e9
    # the rows stand on full steps from the first one down; what is over lies under the last, over the lower flange
    lowest = top - inside - math.floor(room / step + 1e-6) * step
    worked = _spread(top - inside, lowest, min(most, usual * 1.6), least, step)
    if flange is not None:  # on past the beam's lower flange, into the haunch
        # a nut needs its room over the sloping flange as far out as it reaches
        thin = min(case.members[1].shape.tf, b.d)
        farthest = rules.edge_greatest(thin).value - up(1.3 * leg + 5.0, step) - 2 * step if house.exposed else 1e9
        worked += _spread(flange[0] - past, bottom + max(inside, min(up(inside + 1.2 * b.d * flange[1], step), farthest)), min(most, usual * 1.6), least, step)
    pitch = tuple(given.worked_out("pitch", tuple(a - b for a, b in zip(worked, worked[1:], strict=False))))
    rows = [top - inside]
    for g in pitch:
        rows.append(rows[-1] - g)
    margin = up(1.3 * leg + 5.0, step)
    upper, lower = top + margin, bottom - margin
    if form in ("past the top", "past both flanges"):
        rows.insert(0, top + past)
        upper = top + past + end
    if form == "past both flanges":
        rows.append(bottom - past)
        lower = bottom - past - end
    return rows, (upper, lower)


def _let_in(given: Given, case: Case, b: BoltSize) -> tuple[float, float]:
    """How far below and above a flange's face the axis of a bolt has to lie at the plate so that it still goes in under the flange, or over
    it, where the beam leans: a flange that falls away from the plate comes down on the bolt's way."""
    away, plane = np.array(case.members[0].away), _plane(case)
    lean = float(away @ plane.v) / abs(float(away @ plane.n))
    plate = float(given.typed["thickness"]) if given.has("thickness") else b.d  # type: ignore[arg-type]
    other = case.members[1].shape.tf if case.kind in FACED else plate
    need = b.stocked_length(plate + other, 1) + b.head_height
    radius = b.head_af / 3**0.5 + 1.0
    return max(-lean, 0.0) * need + radius, max(lean, 0.0) * need + radius


def _spread(top: float, bottom: float, most: float, least: float, step: float) -> list[float]:
    """Rows from one height down to another, evenly and no further apart than ``most`` nor nearer than ``least``."""
    room = top - bottom
    if room < 0:
        return []
    count = max(1, math.ceil(room / most - 1e-9)) if room >= least else 0
    while count and down(room / count, step) < least:
        count -= 1
    # on round spacings, but the last row where it is wanted
    return [*(top - i * down(room / count, step) for i in range(count)), bottom] if count else [top]


def _across(case: Case, given: Given, beams: list[_Beam], form: str, bolt: str, plane: _Plane, leg: float, web: float) -> tuple[float, float, float]:
    """The plate's width, the gauge, and where the middle of both lies across the plate: over the web of the column it is bolted to; a haunch's ``web`` (mm) stands there too."""
    house, beam = given.house, beams[0]
    shape = beam.shape
    b, step = bolt_size(bolt, house.tighten_room), (6.35 if house.inch else 5.0)
    edge = rules_of(house).edge_least(b, Hole(0, 0, *house.hole(bolt, "normal")), False).value
    support = case.members[1].shape
    wide, middle = 1e9, 0.0
    root = max(shape.tw / 2 + max(shape.r1, leg), web / 2 + leg) + b.washer_d / 2
    if float(given.value("backing")) and case.kind in FACED:
        root = max(root, support.tw / 2 + support.r1 + 1.0 + edge)
    if case.kind in FACED:
        along, low, high = face_width(case)
        if abs(float(along @ plane.w)) > 0.7:
            aside = float((plane.point - case.members[1].frame.o) @ along)
            wide = 2 * min(high - aside, aside - low)
            if case.kind in ("beam to column flange", "knee", "beam on flange"):
                wide, middle = high - low, -aside * (1.0 if float(along @ plane.w) > 0 else -1.0)
        if case.kind in ("beam to column flange", "knee", "beam on flange"):
            root = max(root, support.tw / 2 + support.r1 + b.washer_d / 2)
    for x in beams:  # a web may lie beside the middle, or lean
        aside = max(abs(x.w(0.0, z) - middle) for z in ((-x.shape.h / 2, x.shape.h / 2) if form != "partial depth" else (0.0,)))
        root = max(root, x.shape.tw / 2 + max(x.shape.r1, leg) + b.washer_d / 2, aside + x.shape.tw / 2 + x.shape.r1 + b.washer_d / 2 if aside > 0.5 else 0.0)
    usual = 139.7 if house.inch and shape.b > 180 else 101.6 if house.inch else 140.0 if form == "partial depth" and shape.h > 533 else 90.0
    even = step
    if form == "partial depth" and house.exposed:  # a thin web wants bolts nearer to each other
        apart = rules_of(house).spacing_greatest(support.tw).value
        usual, even = min(usual, down(apart, step)), step if up(2 * root, step) <= apart else 1.5875 if house.inch else 1.0
    gauge = float(given.worked_out("gauge", max(usual, up(2 * root, even))))
    if not given.has("gauge") and gauge + 2 * edge > wide:
        raise NoFit(f"{support.name} is {wide:.0f} mm wide there; {bolt} bolts clear of the roots need {gauge + 2 * edge:.0f} mm", right="smaller bolts or a wider support")
    reach = max(abs(x.w(y, z) - middle) for x in beams for y in (-x.shape.b / 2, x.shape.b / 2) for z in (-x.shape.h / 2, x.shape.h / 2)) if form != "partial depth" else shape.tw
    if 2 * reach > wide + 0.05:
        raise NoFit(f"the beam's flange reaches {reach:.0f} mm from the middle of {support.name}, which is {wide:.0f} mm wide there", right="a plate of partial depth, or a wider support")
    raw = gauge + 2 * max(edge, 1.5 * b.d) if form == "partial depth" else max(2 * reach + 20.0, gauge + 2 * edge)
    width = given.rounded("width", raw, "end plate width")
    if width > wide + 1e-6 and not given.has("width"):
        width = float(given.fitted("width", max(gauge + 2 * edge, down(wide, step)), f"{support.name} is {wide:.0f} mm wide there"))
    if width > wide + 0.05:
        raise NoFit(f"the plate is {width:.0f} mm wide and {support.name} {wide:.0f} mm there", right="a narrower plate or a smaller gauge")
    return width, gauge, middle


def _end_plates(beams: list[_Beam], made: _Made, span: tuple[float, float], middle: float, width: float, t: float, pack: float, grade: str, holes: list[Hole], plane: _Plane) -> None:
    outline = Outline.rectangle(middle - width / 2, span[0], middle + width / 2, span[1])
    for x in beams:
        name = "end plate" if len(beams) == 1 else f"end plate {x.number + 1}"
        off = pack if x.side > 0 else -t
        frame = Frame.of(plane.point + plane.n * off, plane.w, plane.n)
        made.plates.append(Plate(name, outline, t, frame, grade, tuple(holes), ("end plate width", "end plate length")))
    if pack:
        mine = tuple(Hole(h.x, h.y, h.width, h.width, 0.0, "normal") for h in holes)
        made.plates.append(Plate("pack", outline, pack, Frame.of(plane.point, plane.w, plane.n), grade, mine, ("end plate width", "end plate length")))


def _profile_welds(x: _Beam, made: _Made, span: tuple[float, float], form: str, legs: tuple[float, float], haunched: bool, round_tips: float) -> None:
    """Fillets round the beam's profile on the plate, as far as the plate reaches; those inside a flange narrower than ``round_tips`` beside the web go on
    round its tips."""
    s = x.shape
    name, plate = role_words(x.member.role), "end plate" if x.plane is x.plane and len([p for p in made.plates if p.name.startswith("end plate")]) == 1 else f"end plate {x.number + 1}"
    along = np.array(x.member.away)
    half, b, web = s.h / 2, s.b / 2, s.tw / 2
    parts = (plate, name)
    v, w = x.plane.v, x.plane.w * (1.0 if float(np.array(x.member.frame.y) @ x.plane.w) > 0 else -1.0)

    def run(label: str, leg: float, a: tuple[float, float], c: tuple[float, float], outward: Array) -> None:
        made.welds.append(fillet(label, leg, x.fibre(*a), x.fibre(*c), outward, along, parts))

    if form != "partial depth":
        y0 = web + s.r1
        for sign, label in ((1.0, "top flange"), (-1.0, "bottom flange")):
            if not (haunched and sign < 0):
                run(f"{label}, outer face", legs[0], (-b, sign * half), (b, sign * half), v * sign)
            for flank in (1.0, -1.0):
                run(f"{label}, inner face", legs[0], (flank * y0, sign * inner_face(s, b - y0)), (flank * b, sign * inner_face(s, 0.0)), -v * sign)
                if b - y0 < round_tips and not (haunched and sign < 0):  # a run too short by itself goes on round the flange's tip
                    run(f"{label}, tip", legs[0], (flank * b, sign * half), (flank * b, sign * inner_face(s, 0.0)), w * flank)
    low, high = -half + s.root, half - s.root
    if form == "partial depth":
        # up the plate and along the depth of the beam are not the same on a slope
        rate = (x.v(0.0, 100.0) - x.v(0.0, 0.0)) / 100.0
        low, high = (span[0] - x.v(0.0, 0.0)) / rate, (span[1] - x.v(0.0, 0.0)) / rate
    else:  # on a plate that leans the leg up the web comes nearer to one of the roots than its own foot does
        way = unit(x.fibre(0.0, 1.0) - x.fibre(0.0, 0.0))
        rise = legs[1] * x.up * float(unit(along - way * float(along @ way)) @ np.array(x.member.frame.z))
        low, high = low - min(rise, 0.0), high - max(rise, 0.0)
    for flank in (1.0, -1.0):
        run("web", legs[1], (flank * web, low), (flank * web, high), w * flank)


def _column(
    case: Case, given: Given, made: _Made, beam: _Beam, plane: _Plane, flanges: tuple[float, float], span: tuple[float, float], rows: list[float],
    sizes: tuple[float, float], lines: list[float], hole: float,
) -> None:  # fmt: skip
    """Stiffeners, web plates, backing plates and a cap, where the plate is bolted to a column's flange."""
    house, column = given.house, case.members[1]
    shape, f = column.shape, column.frame
    flanged = case.kind in ("beam to column flange", "knee") and shape.shape == "I"
    usual = "bottom" if case.kind == "knee" else "none"
    wanted = str(given.worked_out("column_stiffeners", usual)) if flanged else "none"
    x, up_way = np.array(f.x), 1.0 if float(np.array(f.x) @ plane.v) > 0 else -1.0
    tf = beam.shape.tf
    t = float(given.worked_out("stiffener_thickness", stocked(tf, house))) if wanted != "none" else 0.0
    web = float(given.value("doubler_thickness")) if flanged and given.value("doubler") != "none" else 0.0
    leg = column_leg(column, given, t) if t or web or case.kind == "knee" else 0.0
    grade = str(given.value("grade"))
    owner = role_words(column.role)

    def station(v: float) -> float:
        """Where on the column a height up the plate is."""
        return float((plane.at(v) - f.o) @ x)

    levels = {"none": [], "bottom": [flanges[1] + tf / 2], "top and bottom": [flanges[0] - tf / 2, flanges[1] + tf / 2]}[wanted]
    plates, welds = column_stiffeners(column, [station(v) for v in levels], t, leg, grade, owner, house)
    made.plates += plates
    made.welds += welds
    if web:
        low, high = sorted(station(v) for v in (flanges[0] - tf - t, flanges[1] + tf + t))
        plates, welds = web_plates(column, str(given.value("doubler")), web, (low, high), float(given.worked_out("doubler_weld", min(leg, web))), grade, owner)
        made.plates += plates
        made.welds += welds
    if float(given.value("backing")) and flanged:
        low, high = ((levels[-1] + t / 2 + leg + 5.0, levels[0] - t / 2 - leg - 5.0) if len(levels) > 1 else (-1e9, 1e9))
        _backing(given, made, column, plane, [v for v in rows if low + 1.2 * hole < v < high - 1.2 * hole], lines, hole, (low, high))
    if case.kind == "knee":
        cap = float(given.worked_out("cap", stocked(10.0, house)))
        top = station(span[1])
        away = -up_way
        made.ends.append(EndCut(1, vec(f.o + x * top), vec(x * away)))
        if cap:
            length, wide = shape.h, shape.b
            frame = Frame.of(f.o + x * top, np.array(f.z), x * up_way)
            made.plates.append(Plate("cap plate", Outline.rectangle(-length / 2, -wide / 2, length / 2, wide / 2), cap, frame, grade, (), ("", "")))
            at = f.o + x * top
            y, z = np.array(f.y), np.array(f.z)
            inner, web = shape.h / 2 - (shape.root - shape.r1), shape.tw / 2
            for flank in (1.0, -1.0):
                a, c = at + y * flank * web - z * (shape.h / 2 - shape.root), at + y * flank * web + z * (shape.h / 2 - shape.root)
                made.welds.append(fillet("cap to web", leg, a, c, y * flank, -x * up_way, ("cap plate", owner)))
                for side in (1.0, -1.0):
                    a, c = (at + z * side * inner + y * flank * d for d in (web + shape.r1, shape.b / 2))
                    made.welds.append(fillet("cap to flange", leg, a, c, -z * side, -x * up_way, ("cap plate", owner)))
    elif not given.has("cap"):
        given.worked_out("cap", 0.0)


def _backing(given: Given, made: _Made, column: CaseMember, plane: _Plane, rows: list[float], lines: list[float], hole: float, between: tuple[float, float]) -> None:
    """Plates behind a column's flange, one each side of its web, with the holes of all rows."""
    t, shape = float(given.value("backing")), column.shape
    if shape.slope:
        raise NoFit(f"the flanges of {shape.name} taper; a backing plate does not lie on them", right="no backing plates")
    edge = up(1.5 * hole, 5.0)
    flange = shape.tf
    if not rows:
        raise NoFit("no row of bolts lies between the column's stiffeners for a backing plate", right="no backing plates")
    aside = sum(lines) / 2
    outer = min(shape.b / 2, abs(lines[0] - aside) + edge)
    inner = shape.tw / 2 + shape.r1 + 1.0
    for w in (v - aside for v in lines):
        side = math.copysign(1.0, w)
        low, high = max(rows[-1] - edge, between[0]), min(rows[0] + edge, between[1])
        outline = Outline.rectangle(aside + inner, low, aside + outer, high) if side > 0 else Outline.rectangle(aside - outer, low, aside - inner, high)
        frame = Frame.of(plane.point - plane.n * (flange + t), plane.w, plane.n)
        holes = tuple(Hole(w + aside, v, hole, hole) for v in rows)
        made.plates.append(Plate("backing plate " + ("near" if side < 0 else "far"), outline, t, frame, str(given.value("grade")), holes, ("", "")))


def _told(given: Given, name: str) -> float:
    """A length in use, 0 where it is not."""
    number = given.numbers.get(name)
    return number.value if number is not None and isinstance(number.value, float) else 0.0


def _dimensions(
    plane: _Plane, rows: list[float], span: tuple[float, float], middle: float, width: float, gauge: float, t: float, flanges: tuple[float, float], past: float,
) -> tuple[Dimension, ...]:
    def p(v: float, w: float = 0.0, off: float = 0.0) -> Vec3:
        return vec(plane.at(v, middle + w, off))

    inside = [v for v in rows if flanges[1] < v < flanges[0]]
    # past a flange the row's distance is told from its outer face, and from there the first row inside
    spots, names = [rows[0]], list[str]()
    for one, two in pairwise(rows):
        if one in inside and two in inside:
            names.append("pitch")
        elif one > flanges[0] > two:
            spots.append(flanges[0])
            names += ["row_past", "first_row"]
        elif one > flanges[1] > two and abs(flanges[1] - two - past) < 0.05:
            spots.append(flanges[1])
            names += ["", "row_past"]
        else:
            names.append("")
        spots.append(two)
    out = [
        Dimension("side", "right", 0, (p(span[1], -width / 2), *(p(v, -gauge / 2) for v in spots), p(span[0], -width / 2)), ("end_distance", *names, "end_distance")),
        Dimension("side", "right", 1, (p(span[1], -width / 2), p(span[0], -width / 2)), ("height",)),
        Dimension("side", "bottom", 0, (p(span[0], gauge / 2), p(span[0], -gauge / 2)), ("gauge",)),
        Dimension("side", "bottom", 1, (p(span[0], width / 2), p(span[0], -width / 2)), ("width",)),
        Dimension("front", "bottom", 0, (p(span[0]), p(span[0], 0.0, t)), ("thickness",)),
        Dimension("front", "left", 0, (p(flanges[0]), p(inside[0] if inside else rows[0])), ("first_row",)),
    ]
    return tuple(out)


FAMILY = Family(
    "end-plate", "End plate", ("moment connection", "flush end plate", "extended end plate", "partial depth end plate", "knee", "apex", "haunch"),
    FACED + PAIRED, SETTINGS, fits, build,
    {
        "edge-least": ("end_distance", "width", "gauge"), "edge-greatest": ("end_distance", "width", "gauge", "thickness"), "spacing-least": ("pitch", "row_past", "first_row"),
        "spacing-greatest": ("pitch", "thickness"), "fillet-throat": ("flange_weld", "web_weld", "column_weld", "doubler_weld"), "fillet-leg-least": ("flange_weld", "web_weld", "column_weld", "doubler_weld"),
        "fillet-leg-greatest": ("flange_weld", "web_weld", "column_weld", "doubler_weld"), "fillet-length": ("web_weld", "column_weld"), "plate-stock": ("thickness", "stiffener_thickness", "cap"), "plate-step": ("height", "width"),
        "clash": ("haunch_depth",),
    },
    situations=("beams", "moment"), example=at_end(a_column("UC 254x254x73"), a_beam("UB 305x165x40")),
)  # fmt: skip
