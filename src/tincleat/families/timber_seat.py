"""Timber seat: a plate bent to a back and two cheeks that hold a joist's end, a seat under it, on the side of a steel member.

Joint frame: origin where the joist's middle line meets the support's face, x out along the joist, z up its depth.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from tincleat.catalogue.fasteners import bolt_size
from tincleat.details.assembled import role_words
from tincleat.details.parts import BentPlate, Bolts, Detail, Dimension, Flat, Hole, Plate, SheetView, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import BOLT_GRADES, BOLT_SIZES, STEEL_GRADES, Family, Given, Setting
from tincleat.families.example import a_girder, a_member, at_end
from tincleat.geometry.frames import Frame, Vec3, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case
from tincleat.kit.cope import skew
from tincleat.kit.drill import drilled
from tincleat.kit.face import FLANGED, face_of, face_width, out_along, stand_off
from tincleat.kit.layout import down, up
from tincleat.kit.weld import both_sides, fillet
from tincleat.project.entities import HouseRules
from tincleat.standards.rulesets import rules_of
from tincleat.steel.cuts import EndCut

KINDS = ("beam to beam web", "beam to column web", "beam to column flange", "beam to hollow face")
MOST_TURN = math.radians(1.0)

SETTINGS = (
    Setting("thickness", "Plate thickness", "length", "Bent plate", 6.0, "Of back and cheeks.", 3, 20, inches=6.35),
    Setting("radius", "Bend radius", "length", "Bent plate", None, "Inside of both bends; by the house rule if not typed.", 3, 100),
    Setting("play", "Play", "length", "Bent plate", 2.0, "Between the cheeks, over the timber's breadth.", 0, 10, inches=1.5875),
    Setting("cheek", "Cheek height", "length", "Bent plate", None, "Over the seat; two thirds of the joist if not typed.", 40, 1500),
    Setting("reach", "Cheek reach", "length", "Bent plate", None, "From the joist's end along it; past the last bolt if not typed.", 40, 1000),
    Setting("grade", "Grade", "choice", "Bent plate", lambda h: h.plate_grade, "Steel grade of all its plates.", choices=STEEL_GRADES),
    Setting("seat", "Seat thickness", "length", "Seat", 8.0, "Of the plate the joist bears on.", 3, 30, inches=7.9375),
    Setting("bearing", "Bearing", "length", "Seat", None, "Length of the seat along the joist; as the cheeks, and no more than 100 mm or 4 in, if not typed.", 35, 600),
    Setting("gap", "End gap", "length", "Seat", None, "From the back to the joist's end; clear of the bends if not typed.", 0, 100),
    Setting("rib", "Rib thickness", "length", "Rib", 8.0, "Of the plate that carries the back where a flange stands out before the web.", 4, 30, inches=6.35),
    Setting("stand_off", "Stand off", "length", "Rib", None, "From a flat face to the back, on a rib; where the back's flat is too narrow to be welded along its edges, and 0 elsewhere, if not typed.", 0, 300),
    Setting("clear", "Clear of the flange", "length", "Rib", 5.0, "From the flange's edge to the back.", 0, 100, inches=6.35),
    Setting("bolt", "Bolt", "choice", "Bolts", lambda h: "1/2in" if h.inch else "M12", "Size of the bolts through cheeks and timber.", choices=BOLT_SIZES),
    Setting("bolt_grade", "Bolt grade", "choice", "Bolts", lambda h: h.bolt_grade, "Strength class of the bolts.", choices=BOLT_GRADES),
    Setting("rows", "Bolts over each other", "spacings", "Bolts", None, "Spacings up the joist; one row less for shallow ones if not typed.", 0, 1000),
    Setting("first", "Seat to first bolt", "length", "Bolts", None, "From the joist's underside; as far as its edge asks for if not typed.", 15, 500),
    Setting("end_distance", "End distance", "length", "Bolts", None, "From the joist's end to the first bolts; as far as timber asks for if not typed.", 15, 500),
    Setting("stagger", "Stagger", "length", "Bolts", None, "How much further along every other bolt stands, so that they do not split one line of the grain; 0 is none.", 0, 500),
    Setting("weld_leg", "Weld leg", "length", "Welds", None, "Fillets of seat, rib and back.", 3, 15),
)  # fmt: skip


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless a timber joist ends square on the side of a steel member."""
    if case.kind not in KINDS or case.support is None or len(case.members) > 2:
        raise NoFit(f"a timber seat carries one joist's end on a steel member's side; this is a {case.kind}", right="the end of a timber joist at a beam or column")
    joist, support = case.supported.shape, case.support.shape
    if not joist.timber:
        raise NoFit(f"{joist.name} is steel", right="a timber joist, such as TM 75x225")
    if support.timber or support.shape not in ("I", "C", "RHS"):
        raise NoFit(f"{support.name} has no flat steel face for a seat", right="an I-section, channel or square tube")
    normal, _ = face_of(case)
    off = max(skew(normal), math.acos(min(1.0, abs(float(np.array(case.supported.frame.x) @ normal)))))
    if off > MOST_TURN:
        raise NoFit(f"the joist comes {math.degrees(off):.1f}° off square to the face", right=f"at most {math.degrees(MOST_TURN):.0f}°")
    if abs(case.supported.frame.z[2]) < 0.9998:
        raise NoFit("the joist leans on its side", right="a joist that stands upright")


@dataclass(frozen=True)
class _Box:
    """The bent plate in figures: x of the back's outer and inner face and of the cheeks' tips, half the clear width, its middle, its lower
    and upper edge."""

    back: float
    inner: float
    tip: float
    half: float
    y: float
    low: float
    high: float


def build(case: Case, given: Given) -> Detail:
    """Back and cheeks, seat, rib, bolts through the timber, the joist cut back and drilled."""
    house, joist, support = given.house, case.supported, case.support
    assert support is not None
    inch, shape = house.inch, joist.shape
    step, fine = (3.175, 1.5875) if inch else (5.0, 1.0)
    t, seat_t, play = (float(given.value(k)) for k in ("thickness", "seat", "play"))
    radius = float(given.worked_out("radius", up(house.bend_least * t, fine)))
    leg = given.rounded("weld_leg", max(0.7 * t, 4.7625 if inch else 4.25), "weld leg")
    size = bolt_size(str(given.value("bolt")))
    need = rules_of(house).timber(size.d)
    steel_hole, _ = house.hole(size.name, "normal")
    wood_hole = size.d + (1.5875 if inch else 1.0)
    least = rules_of(house).edge_least(size, Hole(0, 0, steel_hole, steel_hole), False).value
    edge = up(max(least, 1.5 * size.d), step)
    middle, half = joist.frame.origin[1], shape.b / 2 + play / 2
    under = joist.frame.origin[2] - shape.h / 2
    # where the back stands: on a flat face, or clear of the flanges before a web
    at_face = out_along(case)
    face = at_face(0.0, 0.0)
    out = _flange_out(case)
    low = under - seat_t - up(leg + 1.0, fine)
    narrow = 2 * (half - radius) < max(30.0, 6 * 0.71 * leg) + 2 * 0.71 * leg  # what a fillet has to be long
    stand = float(given.worked_out("stand_off", (38.1 if inch else 40.0) if narrow and out <= 0.0 else 0.0))
    if out <= 0.0 and not stand:
        face = stand_off(at_face, (middle - half, middle + half), (low, under + shape.h), rules_of(house).weld_gap(house.weld_gap).value)
    back = face + (stand if out <= 0.0 else up(out + float(given.value("clear")), step))
    inner = back + t
    gap = float(given.worked_out("gap", up(radius + 1.0, fine)))
    if gap < radius - 1e-6:
        raise NoFit(f"the joist's end {gap:.0f} mm off the back would stand in the bends, {radius:.0f} mm inside", right=f"at least {radius:.0f} mm")
    end = inner + gap
    rows = _rows(given, shape.h, need["edge"].value, need["spacing"].value, step)
    stagger = float(given.worked_out("stagger", up(need["spacing"].value, step) if len(rows) > 1 else 0.0))
    first = end + float(given.worked_out("end_distance", up(need["end"].value, step)))
    points = [(first + (stagger if i % 2 else 0.0), under + z) for i, z in enumerate(rows)]
    tip = end + float(given.worked_out("reach", up(max(x for x, _ in points) - end + edge, step)))
    high = under + float(given.worked_out("cheek", up(max(rows[-1] + edge, 2 * shape.h / 3), step)))
    if high > under + shape.h:
        if given.has("cheek"):
            raise NoFit(f"cheeks {high - under:.0f} mm high stand over the joist, {shape.h:.0f} mm deep", right=f"at most {shape.h:.0f} mm")
        high = under + float(given.fitted("cheek", down(shape.h, fine), f"the joist is {shape.h:.0f} mm deep"))
    if max(z for _, z in points) + edge > high + 0.05 or max(x for x, _ in points) + edge > tip + 0.05:
        raise NoFit("the bolts stand nearer to the cheeks' edges than steel lets them", right=f"cheeks {edge:.0f} mm past the outer bolts")
    box = _Box(back, inner, tip, half, middle, low, high)
    if half - radius < 10.0:
        raise NoFit(f"between bends of {radius:.0f} mm a back {2 * half:.0f} mm wide is left {2 * (half - radius):.0f} mm flat", right="a smaller radius, or a broader joist")
    grade = str(given.value("grade"))
    bent = _bent(box, t, radius, grade, points, steel_hole)
    bearing = float(given.worked_out("bearing", min(tip - inner, up(end - inner + (101.6 if inch else 100.0), step))))
    if inner + bearing < end + 35.0:
        raise NoFit(f"a seat {bearing:.0f} mm long carries {inner + bearing - end:.0f} mm of the joist", right=f"at least {end - inner + 35.0:.0f} mm")
    plates, welds = _seat(box, under - seat_t, radius, seat_t, min(bearing, tip - inner), leg, grade, narrow)
    if back > face:
        rib = float(given.value("rib"))
        if rib + 2 * leg > 2 * (half - radius) + 0.05:
            raise NoFit(f"a rib {rib:g} mm thick with fillets of {leg:g} mm does not stand on the back's flat, {2 * (half - radius):.0f} mm wide", right="a thinner rib, a smaller radius, or a broader joist")
        some, seams = _rib(case, given, box, at_face, leg, grade)
    else:
        some, seams = [], _on_face(case, box, radius, leg)
    plates += some
    welds += seams
    spots = [np.array((x, middle, z)) for x, z in points]  # in the timber's middle, whichever side their heads are on
    bolts = Bolts("bolts", size.name, str(given.value("bolt_grade")), tuple(vec(q) for q in spots), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))
    return Detail(
        "timber seat", tuple(plates), (bolts,), tuple(welds), ends=(EndCut(0, (end, 0.0, 0.0), (1.0, 0.0, 0.0)),),
        holes=drilled(case, 0, spots, (0.0, 1.0, 0.0), wood_hole, wood_hole, (1.0, 0.0, 0.0)),
        dimensions=_dimensions(box, end, points, under, seat_t, face), numbers=tuple(given.numbers.values()), bents=(bent,), views=_views(),
    )  # fmt: skip


def _flange_out(case: Case) -> float:
    """How far the support's flanges stand out before the face the joist comes to, mm; 0 where nothing does."""
    support = case.support
    assert support is not None
    shape = support.shape
    if case.kind in FLANGED or shape.shape == "RHS":
        return 0.0
    n, p = face_of(case)
    return max(0.0, shape.b / 2 - float((p - support.frame.o) @ n))


def _rows(given: Given, h: float, edge: float, apart: float, step: float) -> list[float]:
    """Heights of the bolts over the joist's underside, as wide apart as its depth lets them be."""
    first = float(given.worked_out("first", up(edge, step)))
    room = h - first - edge
    if not given.has("first") and room < -0.05:
        raise NoFit(f"a joist {h:.0f} mm deep does not hold a bolt {edge:.0f} mm from both edges", right="smaller bolts")
    usual: tuple[float, ...] = ()
    if room >= apart:
        count = 2 if h > 280 and room >= 2 * apart else 1
        usual = (down(min(room / count, h / 3), step),) * count
        if usual[0] < apart:
            usual = (down(room, step),)
    out = [first]
    for g in tuple(given.worked_out("rows", usual)):
        out.append(out[-1] + g)
    return out


def _bent(box: _Box, t: float, radius: float, grade: str, points: "list[tuple[float, float]]", hole: float) -> BentPlate:
    """Cheek, back, cheek: from the tip of the one at the lower y round to that of the other."""
    bend = radius + t
    long, wide = box.tip - box.back - bend, 2 * box.half - 2 * radius
    one = tuple(Hole(box.tip - x, z, hole, hole) for x, z in points)
    two = tuple(Hole(x - box.back - bend, z, hole, hole) for x, z in points)
    frame = Frame((box.tip, box.y - box.half - t, 0.0), (-1.0, 0.0, 0.0), (0.0, 1.0, 0.0))
    return BentPlate("bent plate", (Flat(long, one), Flat(wide), Flat(long, two)), (math.pi / 2, math.pi / 2), radius, box.low, box.high, t, frame, grade, "")


def _seat(box: _Box, z: float, radius: float, t: float, bearing: float, leg: float, grade: str, narrow: bool) -> tuple[list[Plate], list[Weld]]:
    """The plate between the cheeks, its corners cut off clear of the bends; welded from below, for the joist lies on it."""
    x0, x1, y = box.inner, box.inner + bearing, box.half
    cut = radius + 2.0
    ring = [(x0, -y + cut), (x0 + cut, -y), (x1, -y), (x1, y), (x0 + cut, y), (x0, y - cut)]
    plate = Plate("seat", Outline(tuple((a, b, 0.0) for a, b in ring)), t, Frame((0.0, box.y, z)), grade, (), ("", ""))
    welds = []
    for s, side in ((-1.0, "near"), (1.0, "far")):
        welds.append(fillet(f"seat to cheek, {side}", leg, (x0 + cut, box.y + s * y, z), (x1, box.y + s * y, z), (0.0, 0.0, -1.0), (0.0, -s, 0.0), ("bent plate", "seat")))
    if not narrow:
        welds.append(fillet("seat to back", leg, (x0, box.y - y + cut, z), (x0, box.y + y - cut, z), (0.0, 0.0, -1.0), (1.0, 0.0, 0.0), ("bent plate", "seat")))
    return [plate], welds


def _rib(case: Case, given: Given, box: _Box, face: Callable[[float, float], float], leg: float, grade: str) -> tuple[list[Plate], list[Weld]]:
    """A plate from the support's web out to the back, in the joist's middle."""
    support = case.support
    assert support is not None
    t = float(given.value("rib"))
    step = 3.175 if given.house.inch else 5.0
    along, low, high = face_width(case)
    zone = (box.low + leg, box.high - leg)
    if abs(float(along[2])) > 0.7:  # a lying web: between its roots
        at = float((np.array((face(box.y, 0.0), box.y, 0.0)) - support.frame.o) @ along)
        ends = sorted(math.copysign(1.0, float(along[2])) * (v - at) for v in (low, high))
        zone = (max(zone[0], ends[0] + 2.0), min(zone[1], ends[1] - 2.0))
    tall = down(zone[1] - zone[0], step)
    if tall < 60.0:
        raise NoFit(f"between the flanges of {support.shape.name} and the seat's edges {max(tall, 0.0):.0f} mm are left for its rib", right="a joist nearer the middle of the web, or higher cheeks")
    low_z = (zone[0] + zone[1] - tall) / 2
    # at the face as that stands, and clear of it over the rib's thickness
    foot, head = (max(face(box.y - t / 2, z), face(box.y + t / 2, z)) for z in (low_z, low_z + tall))
    plate = Plate("rib", Outline(((foot, low_z, 0.0), (box.back, low_z, 0.0), (box.back, low_z + tall, 0.0), (head, low_z + tall, 0.0))), t, Frame((0.0, box.y + t / 2, 0.0), (1.0, 0.0, 0.0), (0.0, -1.0, 0.0)), grade, (), ("", ""))
    y = box.y
    welds = both_sides("rib to web", leg, [(foot, y, low_z), (head, y, low_z + tall)], (0.0, 1.0, 0.0), t, (1.0, 0.0, 0.0), (role_words(support.role), "rib"))
    welds += both_sides("rib to back", leg, [(box.back, y, low_z), (box.back, y, low_z + tall)], (0.0, 1.0, 0.0), t, (-1.0, 0.0, 0.0), ("bent plate", "rib"))
    return [plate], welds


def _on_face(case: Case, box: _Box, radius: float, leg: float) -> list[Weld]:
    """Fillets along the back's upper and lower edge on a flat face; its sides are round."""
    support = case.support
    assert support is not None
    along, low, high = face_width(case)
    if abs(float(along[1])) > 0.7:
        at = float((np.array((box.back, box.y, 0.0)) - support.frame.o) @ along)
        room = min(high - at, at - low)
        if room < box.half - radius:
            raise NoFit(f"the back's flat, {2 * (box.half - radius):.0f} mm wide, leaves the face of {support.shape.name} by {box.half - radius - room:.0f} mm", right="a narrower joist, or one nearer the middle")
    else:
        at = float((np.array((box.back, box.y, 0.0)) - support.frame.o) @ along)
        ends = sorted(math.copysign(1.0, float(along[2])) * (v - at) for v in ((-support.shape.h / 2, support.shape.h / 2) if support.shape.shape == "C" else (low, high)))
        if box.low - leg < ends[0] or box.high + leg > ends[1]:
            raise NoFit(f"the back reaches {max(ends[0] - box.low + leg, box.high + leg - ends[1]):.0f} mm past the flat of {support.shape.name} with its welds", right="a shallower joist, lower cheeks, or another level")
    owner = role_words(support.role)
    y = box.half - radius
    return [
        fillet(f"back to support, {name}", leg, (box.back, box.y - y, z), (box.back, box.y + y, z), (0.0, 0.0, s), (1.0, 0.0, 0.0), (owner, "bent plate"))
        for name, z, s in (("bottom", box.low, -1.0), ("top", box.high, 1.0))
    ]  # fmt: skip


def _views() -> tuple[SheetView, ...]:
    o = (0.0, 0.0, 0.0)
    return (SheetView("front", "Front", Frame(o, (1.0, 0.0, 0.0), (0.0, -1.0, 0.0))), SheetView("side", "Side", Frame(o, (0.0, 1.0, 0.0), (1.0, 0.0, 0.0))), SheetView("plan", "Plan", Frame(o, (1.0, 0.0, 0.0), (0.0, 0.0, 1.0))))


def _dimensions(box: _Box, end: float, points: "list[tuple[float, float]]", under: float, seat: float, face: float) -> tuple[Dimension, ...]:
    y = box.y - box.half

    def p(x: float, z: float) -> Vec3:
        return (x, y, z)

    xs = sorted({x for x, _ in points})
    zs = [z for _, z in points]
    out = [
        Dimension("front", "bottom", 0, (p(box.inner, box.low), p(end, box.low), *(p(x, box.low) for x in xs), p(box.tip, box.low)), ("gap", "end_distance", *("stagger",) * (len(xs) - 1), "")),
        Dimension("front", "right", 0, (p(box.tip, under), *(p(xs[-1], z) for z in zs), p(box.tip, box.high)), ("first", *("rows",) * (len(zs) - 1), "")),
        Dimension("front", "right", 1, (p(box.tip, box.low), p(box.tip, under - seat), p(box.tip, under), p(box.tip, box.high)), ("", "seat", "cheek")),
        Dimension("plan", "left", 0, ((box.inner, box.y - box.half, box.high), (box.inner, box.y + box.half, box.high)), ("",)),
    ]
    if box.back > face + 0.1:
        out.append(Dimension("plan", "bottom", 0, ((face, y, box.high), (box.back, y, box.high)), ("",)))
    return tuple(out)


FAMILY = Family(
    "timber-seat", "Timber seat", ("joist hanger", "joist seat", "bent plate seat", "wood", "timber joist"), KINDS, SETTINGS, fits, build,
    {
        "timber-end": ("end_distance",), "timber-edge": ("first", "rows"), "timber-spacing": ("rows", "stagger"), "edge-least": ("reach", "cheek"), "edge-greatest": ("reach", "cheek", "end_distance"),
        "bend-radius": ("radius",), "plate-stock": ("thickness", "seat", "rib"), "fillet-throat": ("weld_leg",), "fillet-leg-least": ("weld_leg",), "fillet-length": ("weld_leg", "bearing"),
    },
    timber=True,
    situations=("secondary",), example=at_end(a_girder("UB 457x191x67"), a_member("TM 50x150", (0.0, 4000.0, 3000.0), (0.0, 0.0, 3000.0), "joist")),
)  # fmt: skip
