"""Angle cleats: one or two angles that hold a beam by its web, bolted or welded to it and to its support; two beams that meet one
web from both sides share the bolts through it.

Joint frame: origin where the beam's middle line meets the support's face, x out along the beam, z up the beam's depth.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from tincleat.catalogue.fasteners import BoltSize, bolt_size
from tincleat.catalogue.sections import Section, section
from tincleat.details.assembled import role_words
from tincleat.details.parts import Bolts, Detail, Dimension, Hole, Piece, SheetView, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import BOLT_GRADES, BOLT_SIZES, STEEL_GRADES, Family, Given, Setting, bolt_choice
from tincleat.families.example import a_beam, a_column, at_end
from tincleat.families.shear import BeamEnd, bolt_and_end, end_notches, end_of_beam, room_in_web, smaller_bolts, web_rows
from tincleat.geometry.frames import Array, Frame, Vec3, unit, vec
from tincleat.joints.case import Case
from tincleat.kit.angle import ANGLES, INCH, METRIC, angle, first_choice, longer, shorter
from tincleat.kit.cope import skew
from tincleat.kit.drill import drilled
from tincleat.kit.face import FLANGED, face_angles, face_of, face_width, raised
from tincleat.kit.weld import fillet
from tincleat.project.entities import HouseRules
from tincleat.standards.rulesets import rules_of
from tincleat.steel.cuts import EndCut, MemberHole

KINDS = ("beam to column flange", "knee", "beam to column web", "beam to beam web", "beam to hollow face")
MOST_SKEW = math.radians(0.5)

SETTINGS = (
    Setting("sides", "Cleats", "choice", "Cleats", "both sides", "Two cleats, or one on a side of the web.", choices=("near side", "far side", "both sides"), handed=True),
    Setting("size", "Angle", "choice", "Cleats", lambda h: first_choice(h, "L 100x100x10", "L4X3-1/2X3/8"), "Section of the cleats.", choices=ANGLES),
    Setting("long_leg", "Longer leg", "choice", "Cleats", "on the support", "Where the longer leg of an unequal angle lies.", choices=("on the support", "on the beam")),
    Setting("length", "Cleat length", "length", "Cleats", None, "Worked out from the rows and rounded if not typed.", 40, 3000),
    Setting("grade", "Grade", "choice", "Cleats", lambda h: h.plate_grade, "Steel grade of the cleats.", choices=STEEL_GRADES),
    Setting("to_beam", "On the beam", "choice", "Cleats", "bolted", "How the cleats are fixed to the beam's web.", choices=("bolted", "welded")),
    Setting("to_support", "On the support", "choice", "Cleats", "bolted", "How the cleats are fixed to the support.", choices=("bolted", "welded")),
    Setting("bolt", "Bolt", "choice", "Bolts", bolt_choice, "Size of the bolts.", choices=BOLT_SIZES),
    Setting("bolt_grade", "Bolt grade", "choice", "Bolts", lambda h: h.bolt_grade, "Strength class of the bolts.", choices=BOLT_GRADES),
    Setting("pitch", "Row pitch", "spacings", "Bolts", None, "Spacings between bolt rows, such as 3@70. Worked out from the clear web if not typed.", 0, 2000),
    Setting("row_place", "Rows sit", "choice", "Bolts", "in the clear web", "In the middle of the clear web, the first a round distance from the top of the beam (3 in where there is room); centred on the beam's axis; or from a distance that is typed.",
            choices=("in the clear web", "on the beam axis", "from the top")),
    Setting("top_distance", "Top of beam to first row", "length", "Bolts", None, "Used when rows start from the top.", 20, 2000),
    Setting("end_distance", "Cleat end distance", "length", "Bolts", 40.0, "From the outer rows to the cleat's ends.", 15, 500, inches=38.1),
    Setting("gauge", "Gauge on the beam", "length", "Bolts", None, "From the support's face to the bolts in the beam's web.", 20, 400),
    Setting("cross_centres", "Cross centres", "length", "Bolts", lambda h: 139.7 if h.inch else 140.0, "Between the bolt lines on the support.", 40, 600),
    Setting("weld_leg", "Weld leg", "length", "Welds", None, "Fillets where cleats are welded.", 2, 30),
    Setting("setback", "Setback", "length", "Beam end", None, "Gap between the beam's end and the support's face.", 0, 200),
    Setting("notch_past", "Notch past the flange", "length", "Beam end", 10.0, "Clear distance from the supporting flange's tip to the notch's end.", 0, 300, inches=12.7),
)  # fmt: skip


@dataclass(frozen=True)
class _End:
    """One beam at the support: its number in the case, its end in figures, and the axes of its cleats: up along the face, out of it."""

    number: int
    end: BeamEnd
    up: Array
    out: Array

    def at(self, s: float, out: float, y: float) -> Array:
        """A point ``s`` up the face from where the web meets it, ``out`` mm off the face, at ``y`` across."""
        foot = np.array([self.end.face(self.end.at, 0.0), 0.0, 0.0])
        return foot + self.up * s + self.out * out + np.array([0.0, y, 0.0])


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless one beam, or two from both sides, come square in plan to a flange, web or wall."""
    if case.kind not in KINDS or case.support is None:
        raise NoFit(f"angle cleats join a beam's end to a flange, web or wall; this joint is a {case.kind}", right="choose a beam end at a support")
    support = case.support.shape
    if support.shape not in ("I", "C", "RHS", "T"):
        raise NoFit(f"{support.name} is a {support.shape} section, which has no flat face wide enough for cleats")
    for number, beam in case.all("supported"):
        shape = beam.shape
        if shape.shape not in ("I", "C"):
            raise NoFit(f"cleats are fixed to a web; {shape.name} is a {shape.shape} section without one", right="an I-section or channel")
        normal, _ = face_of(case, beam)
        turned = skew(np.array([normal[0], normal[1], 0.0]) / max(math.hypot(normal[0], normal[1]), 1e-9))
        if turned > MOST_SKEW:
            raise NoFit(f"the beam meets the face {math.degrees(turned):.1f}° off square in plan; the legs of an angle are square", right="a fin plate or an end plate")
        if skew(normal) > math.radians(45):
            raise NoFit(f"the beam meets the face {math.degrees(skew(normal)):.0f}° off square", right="at most 45°")
        room_in_web(end_of_beam(case, house, None, number), house)


def _ends(case: Case, house: HouseRules, past: float) -> list[_End]:
    out = []
    for number, _ in case.all("supported"):
        end = end_of_beam(case, house, past, number)
        if number:  # of the beam beyond the support, which may lie beside and above the first one's
            own = case.members[number].frame
            there = own.o + np.array(own.x) * float(end.normal @ (end.point - own.o)) / float(end.normal @ np.array(own.x))
            end = replace(end, at=end.at + float(there[1]), zone=(end.zone[0] + float(there[2]), end.zone[1] + float(there[2])))
        up = unit(np.array([-end.normal[2] / end.normal[0], 0.0, 1.0]))
        out.append(_End(number, end, up, unit(np.array([end.normal[0], 0.0, end.normal[2]]))))
    return out


def build(case: Case, given: Given) -> Detail:
    """Cleats, bolts through web and support or welds, beam ends, notches, holes."""
    house = given.house
    case, heads = raised(case)
    rules = rules_of(house)
    if given.value("to_support") == "bolted" and case.support is not None and case.support.shape.shape == "RHS":
        raise NoFit(f"{case.support.shape.name} is closed: nobody can hold a nut inside it", right="cleats welded to the support")
    if given.value("to_beam") == "welded" and given.value("to_support") == "welded":
        raise NoFit("both legs welded leaves nothing to erect the beam by", right="one of them bolted")
    ends = _ends(case, house, float(given.value("notch_past")))
    first = ends[0]
    if any(abs(e.end.at - first.end.at) > 1.0 for e in ends):
        raise NoFit(f"the webs of the two beams lie {abs(ends[1].end.at - first.end.at):.1f} mm beside each other", right="webs in one plane, or cleats of their own")
    for e in ends[1:]:
        askew = math.acos(min(1.0, abs(float(np.dot(case.members[e.number].frame.y, case.supported.frame.y)))))
        if askew > MOST_SKEW:
            raise NoFit(f"the webs of the two beams stand {math.degrees(askew):.1f}° to each other", right="webs in one plane, or cleats of their own")
    shape = _angle(case, given, first, max(e.end.web.thickness for e in ends))
    on_support, on_beam = (longer(shape), shorter(shape)) if given.value("long_leg") == "on the support" else (shorter(shape), longer(shape))
    t = shape.tw
    setback = float(given.worked_out("setback", 12.7 if house.inch else 10.0))
    leg = given.rounded("weld_leg", min(0.7 * t, t - (1.5875 if house.inch else 2.0)), "weld leg")
    room = 0.0 if given.value("to_beam") == "bolted" else 1.2 * leg  # fillets at a cleat's ends stay off the roots
    zones = [_zone(e, on_beam) for e in ends]
    zone = (max(low for low, _ in zones) + room, min(high for _, high in zones) - room)
    sizes = replace(first.end, zone=zone)
    room_in_web(sizes, house)
    bolt, end = bolt_and_end(given, sizes)
    b = bolt_size(bolt, house.tighten_room)
    hole, _ = house.hole(bolt, "normal")
    edge = rules.edge_least(b, Hole(0, 0, hole, hole), False).value
    step = 3.175 if house.inch else 5.0
    centres = _centres(case, given, first, edge, on_support, shape)
    bolted = {"beam": given.value("to_beam") == "bolted", "support": given.value("to_support") == "bolted"}
    web = max(e.end.web.thickness for e in ends)
    other = (centres - web) / 2 if all(bolted.values()) else math.inf
    nuts = case.support.shape.tw if len(ends) > 1 and case.support is not None else 0.0
    if not given.has("gauge") and not given.has("bolt") and _past_heads(b, t, other, web, nuts) > on_beam - edge:
        for smaller in map(bolt_size, smaller_bolts(house)):
            least = rules.edge_least(smaller, Hole(0, 0, *house.hole(smaller.name, "normal")), False).value
            if smaller.d < b.d and _past_heads(smaller, t, other, web, nuts) <= on_beam - least:
                given.fitted("bolt", smaller.name, f"heads in the two legs of {shape.name} keep clear of each other")
                bolt, edge = smaller.name, least
                b = bolt_size(bolt, house.tighten_room)
                hole, _ = house.hole(bolt, "normal")
                break
    inner, outer = _past_heads(b, t, other, web, nuts), math.floor((on_beam - edge) / step + 1e-9) * step
    gauge = float(given.worked_out("gauge", min(math.ceil(max(setback + max(edge, 1.5 * b.d), t + b.clear, inner) / step - 1e-9) * step, outer)))
    rows, raw = web_rows(given, first.end, bolt, end, t, zone, first.end.beam.h / 2 / first.up[2])
    length = given.rounded("length", raw, "cleat length")
    if not given.has("length") and raw <= zone[1] - zone[0] + 1e-6 < length:
        length = float(given.fitted("length", raw, f"the clear web is {zone[1] - zone[0]:.0f} mm"))
    if bolted["support"]:
        _beside_web(case, [first.at(r, 0.0, first.end.at) for r in rows], b)
    middle = (rows[0] + rows[-1]) / 2
    sides = {"near side": (-1.0,), "far side": (1.0,), "both sides": (-1.0, 1.0)}[str(given.value("sides"))]
    site = str(given.value("bolt_grade"))

    pieces: list[Piece] = []
    welds: list[Weld] = []
    groups: list[Bolts] = []
    holes: list[MemberHole] = []
    across = np.array([0.0, 1.0, 0.0])
    for e in ends:
        tag = "" if e.number == 0 else " 2"
        for side in sides:
            beside = _beside(case, e, side, (middle - length / 2, middle + length / 2), on_beam)
            off = _off_face(e, beside, side * on_support, rules.ply_gap.value)
            name = "cleat" + ("" if len(sides) == 1 else " near" if side < 0 else " far") + tag
            on_web = [e.at(s, gauge, beside + side * t / 2) for s in rows] if bolted["beam"] else []
            on_face = [e.at(s, off + t / 2, first.end.at + side * centres / 2) for s in rows] if bolted["support"] else []
            drill = [(p, across, hole, hole, e.up) for p in on_web] + [(p, e.out, hole, hole, e.up) for p in on_face]
            heel = e.at(middle - length / 2, off, beside)
            pieces.append(
                angle(name, shape.name, str(given.value("grade")), heel, e.up, e.out, across * side, length, on_beam > on_support, drill)  # type: ignore[arg-type]
            )
            welds += _welds(e, case, name, side, (middle - length / 2, middle + length / 2), (on_beam, on_support), leg, bolted, off, beside)
        points = [e.at(s, gauge, e.end.at) for s in rows]
        if bolted["beam"]:
            groups.append(Bolts(f"bolts in the web{tag}", bolt, site, tuple(vec(p) for p in points), (0.0, 1.0, 0.0), vec(e.up)))
            holes += drilled(case, e.number, points, across, hole, hole, e.up)
    if bolted["support"]:
        spots = [first.at(s, 0.0, first.end.at + side * centres / 2) for s in rows for side in sides]
        groups.append(Bolts("bolts in the support", bolt, site, tuple(vec(p) for p in spots), vec(-first.out), vec(first.up)))
        holes += drilled(case, next(i for i, m in enumerate(case.members) if m.role == "support"), spots, first.out, hole, hole, first.up)
    cuts = tuple(EndCut(e.number, vec(e.end.point + e.end.normal * setback), vec(e.end.normal)) for e in ends)
    notches = tuple(n for e in ends for n in end_notches(case, e.end, house, e.number))
    return Detail(
        "angle cleats", (), tuple(groups), tuple(welds), ends=(*cuts, *heads), notches=notches, holes=tuple(holes),
        dimensions=_dimensions(first, rows, gauge, setback, (middle - length / 2, middle + length / 2), sides, centres, bolted), pieces=tuple(pieces), views=_views(first), angles=face_angles(first.end.normal, first.at(0.0, 0.0, first.end.at)),
        numbers=tuple(given.numbers.values()),
    )  # fmt: skip


def _beside_web(case: Case, spots: Sequence[Array], b: BoltSize) -> None:
    """Raise NoFit with figures where rows that run across a flange, for the beam lies on its side, have a bolt over the web behind it."""
    support, (along, _, _) = case.support, face_width(case)
    if support is None or support.shape.shape not in ("I", "T") or case.kind not in FLANGED or abs(along[1]) > 0.7:
        return
    stem = support.shape.tw / 2 + support.shape.r1 + b.washer_d / 2
    near = min(abs(float((spot - support.frame.o) @ along)) for spot in spots)
    if near < stem - 0.05:
        raise NoFit(f"a row of bolts would stand {near:.0f} mm from the middle of {support.shape.name}, where its web's root needs {stem:.0f} mm", right="two rows further apart, or cleats welded to the support")


def _past_heads(b: BoltSize, t: float, other: float, web: float, nuts: float) -> float:
    """How far from the heel bolts through a beam's ``web`` and the angles' legs, ``t`` mm thick, have to be so that they pass those in the other legs,
    which stand ``other`` mm from the heel in the same rows with their heads there, or with their nuts where they hold ``nuts`` mm; 0 where those lie
    beyond their ends."""
    corner, grip = b.head_af / 3**0.5, 2 * t + web
    tall = b.stocked_length(2 * t + nuts, 1) - 2 * t - nuts if nuts else b.head_height
    return 0.0 if other - corner >= t + b.stocked_length(grip, 1) - grip else t + tall + corner


def _beside(case: Case, e: _End, side: float, span: tuple[float, float], out: float) -> float:
    """The y of a beam's web face on a ``side`` (sign of y), where it comes furthest over a cleat ``out`` mm deep on it between two heights: a second
    beam's web may stand a little askew to the first one's."""
    y = np.array(case.members[e.number].frame.y)
    on = case.members[e.number].frame.o + y * (e.end.web.at + math.copysign(e.end.web.thickness / 2, side * y[1]))
    corners = [e.at(s, far, 0.0) for s in span for far in (0.0, out)]
    return side * max(side * float(on[1] - (y[0] * (p[0] - on[0]) + y[2] * (p[2] - on[2])) / y[1]) for p in corners)


def _off_face(e: _End, heel: float, leg: float, spare: float) -> float:
    """How far off the support's face, where the web meets it, a leg there has to lie so that it touches with its heel or its toe (mm); raises
    NoFit where the other one would stand too far off."""
    rise = [(e.end.face(y, 0.0) - e.end.face(e.end.at, 0.0)) * float(e.out[0]) for y in (heel, heel + leg)]
    if max(rise) - min(rise) > spare:
        raise NoFit(f"a leg {abs(leg):.0f} mm wide would stand {max(rise) - min(rise):.1f} mm off the face at one edge", right=f"up to {spare:g} mm")
    return max(rise)


def _zone(e: _End, out: float) -> tuple[float, float]:
    """How far up and down the face a cleat may reach so that its leg, ``out`` mm deep, stays on the clear web."""
    low, high = e.end.zone
    drops = [e.out[2] * v for v in (0.0, out)]
    return max((low - d) / e.up[2] for d in drops), min((high - d) / e.up[2] for d in drops)


def _angle(case: Case, given: Given, e: _End, web: float) -> Section:
    """The cleats' section; between a column's flanges one whose leg on the web keeps off their roots, with the fillet at its toe if it is welded
    there.  ``web`` is the thickest one among the beams'."""
    chosen = section(str(given.value("size")))
    if case.kind != "beam to column web" or case.support is None:
        return chosen
    along, low, high = face_width(case)
    aside = float((e.at(0.0, 0.0, e.end.at) - case.support.frame.o) @ along)
    room = min(high - aside, aside - low) - web / 2

    def leg(a: Section) -> float:
        toe = 0.0 if given.value("to_support") == "bolted" else float(given.value("weld_leg")) if given.has("weld_leg") else math.ceil(0.7 * a.tw)
        return (longer(a) if given.value("long_leg") == "on the support" else shorter(a)) + toe

    if leg(chosen) <= room + 0.05:
        return chosen
    own = INCH if given.house.inch else METRIC
    fitting = [a for a in map(section, own) if leg(a) <= room + 0.05 and a.tw <= chosen.tw + 0.05]
    if given.has("size") or not fitting:
        raise NoFit(
            f"a leg of {leg(chosen):.0f} mm{'' if given.value('to_support') == 'bolted' else ' with its fillet'} beside the beam's web runs into the root of {case.support.shape.name}, which leaves {room:.0f} mm on its web",
            right="a smaller angle, a fin plate, or an end plate of partial depth",
        )
    best = max(fitting, key=lambda a: (leg(a), a.tw))
    given.fitted("size", best.name, f"the web of {case.support.shape.name} leaves {room:.0f} mm beside the beam's")
    return best


def _centres(case: Case, given: Given, e: _End, edge: float, reach: float, shape: Section) -> float:
    """The cross centres: the office's, or as far apart as the support's face lets the bolts be."""
    assert case.support is not None
    usual = float(given.value("cross_centres"))
    along, low, high = face_width(case)
    if given.value("to_support") == "welded" and abs(along[1]) > 0.7:
        aside = abs(float((e.at(0.0, 0.0, e.end.at) - case.support.frame.o) @ along))
        if aside + e.end.web.thickness / 2 + reach > high + 0.05:
            raise NoFit(f"the cleats reach {aside + e.end.web.thickness / 2 + reach:.0f} mm from the middle of {case.support.shape.name}, whose flat is {high - low:.0f} mm wide", right="a smaller angle, or its longer leg on the beam")
    if given.has("cross_centres") or given.value("to_support") == "welded":
        return usual
    if abs(along[1]) < 0.7:
        return usual
    aside = float((e.at(0.0, 0.0, e.end.at) - case.support.frame.o) @ along)
    room = 2 * min(high - aside, aside - low) - 2 * edge
    least = 2 * (e.end.web.thickness / 2 + shape.tw + 1.1 * bolt_size(str(given.typed.get("bolt", given.house.bolt))).head_af)
    out = min(usual, room, e.end.web.thickness + 2 * (reach - edge))
    if out < usual - 1e-6:
        out = math.floor(out / 5.0 + 1e-6) * 5.0 if not given.house.inch else math.floor(out / 6.35 + 1e-6) * 6.35
    stem = case.support.shape.tw / 2 + case.support.shape.r1 + bolt_size(str(given.typed.get("bolt", given.house.bolt))).washer_d / 2
    nearest = min(abs(aside + s * out / 2) for s in (-1, 1))
    if case.support.shape.shape in ("I", "T") and abs(along[1]) > 0.7 and case.kind in FLANGED and nearest < stem - 0.05:
        raise NoFit(
            f"a bolt would stand {nearest:.0f} mm from the middle of {case.support.shape.name}, where its web's root needs {stem:.0f} mm",
            right="other cross centres, one cleat, or cleats welded to the support",
        )
    if out < least:
        raise NoFit(f"the bolts on {case.support.shape.name} could be {room:.0f} mm apart at most; the cleats need {least:.0f} mm", right="a wider support, smaller bolts, or cleats welded to it")
    return usual if out == usual else float(given.fitted("cross_centres", out, f"the face of {case.support.shape.name} is {high - low:.0f} mm wide"))


def _welds(e: _End, case: Case, name: str, side: float, span: tuple[float, float], legs: tuple[float, float], leg: float, bolted: "dict[str, bool]", off: float, web: float) -> list[Weld]:
    """Fillets at the toe and both ends of a welded leg, that on the beam's web at y = ``web``."""
    out: list[Weld] = []
    across = np.array([0.0, side, 0.0])
    if not bolted["beam"]:
        parts = (role_words(case.members[e.number].role), name)
        start = 15.0
        out.append(fillet(f"{name} toe on the web", leg, e.at(span[0], off + legs[0], web), e.at(span[1], off + legs[0], web), e.out, across, parts))
        for s, way in ((span[0], -1.0), (span[1], 1.0)):
            out.append(fillet(f"{name} end on the web", leg, e.at(s, off + start, web), e.at(s, off + legs[0], web), e.up * way, across, parts))
    if not bolted["support"]:
        parts = ("supporting member", name)
        toe = web + side * legs[1]
        out.append(fillet(f"{name} toe on the support", leg, e.at(span[0], off, toe), e.at(span[1], off, toe), across, e.out, parts))
        for s, way in ((span[0], -1.0), (span[1], 1.0)):
            out.append(fillet(f"{name} end on the support", leg, e.at(s, off, web), e.at(s, off, toe), e.up * way, e.out, parts))
    return out


def _views(e: _End) -> tuple[SheetView, ...]:
    """Square to the cleats, which stand along the face however the beam slopes: their sizes are as they are made."""
    across = np.array([0.0, 1.0, 0.0])
    return (
        SheetView("front", "Front", Frame.of((0.0, 0.0, 0.0), e.out, -across)),
        SheetView("side", "Side", Frame.of((0.0, 0.0, 0.0), across, e.out)),
        SheetView("plan", "Plan", Frame.of((0.0, 0.0, 0.0), e.out, e.up)),
    )


def _dimensions(
    e: _End, rows: list[float], gauge: float, setback: float, span: tuple[float, float], sides: tuple[float, ...], centres: float, bolted: "dict[str, bool]"
) -> tuple[Dimension, ...]:
    y = e.end.at

    def p(s: float, out: float, across: float = y) -> Vec3:
        return vec(e.at(s, out, across))

    chain = ("end_distance", *(("pitch",) * (len(rows) - 1)), "end_distance")
    out = [
        Dimension("front", "right", 0, (p(span[1], gauge), *(p(s, gauge) for s in rows), p(span[0], gauge)), chain),
        Dimension("front", "right", 1, (p(span[1], gauge), p(span[0], gauge)), ("length",)),
        Dimension("front", "bottom", 0, (p(span[0], 0.0), p(span[0], setback)), ("setback",)),
        Dimension("front", "left", 0, (p(e.end.beam.h / 2 / e.up[2], 0.0), p(rows[0], 0.0)), ("top_distance",)),
    ]
    if bolted["beam"]:
        out.append(Dimension("front", "bottom", 1, (p(span[0], 0.0), p(span[0], gauge)), ("gauge",)))
    if bolted["support"] and len(sides) == 2:
        out.append(Dimension("side", "bottom", 0, (p(span[0], 0.0, y - centres / 2), p(span[0], 0.0, y + centres / 2)), ("cross_centres",)))
    return tuple(out)


FAMILY = Family(
    "angle-cleats", "Angle cleats", ("web cleats", "double angle", "single angle", "clip angle", "simple connection"), KINDS, SETTINGS, fits, build,
    {
        "edge-least": ("end_distance", "gauge", "cross_centres", "size"), "edge-greatest": ("end_distance", "gauge", "cross_centres"),
        "spacing-least": ("pitch",), "spacing-greatest": ("pitch",), "fillet-throat": ("weld_leg",), "fillet-leg-least": ("weld_leg",),
        "fillet-leg-greatest": ("weld_leg",), "fillet-length": ("weld_leg", "end_distance"), "plate-step": ("length",),
    },
    shares=2,
    pointed=("knee",),
    situations=("beams",), example=at_end(a_column("HEB 300"), a_beam("IPE 300")),
)  # fmt: skip
