"""Seat cleat: an angle under a beam's end that it stands on, alone or stiffened, with a cleat on top to hold the beam upright.

Joint frame: origin where the beam's middle line pierces the support's face, x along the beam away from it, z up the beam's depth.
"""

import math
from collections.abc import Callable

import numpy as np

from tincleat.catalogue.fasteners import BoltSize
from tincleat.catalogue.sections import Section, section
from tincleat.details.assembled import role_words
from tincleat.details.parts import Bolts, Detail, Dimension, Hole, Piece, Plate, Weld
from tincleat.errors import NoFit
from tincleat.families.angle_cleats import KINDS
from tincleat.families.declare import BOLT_GRADES, BOLT_SIZES, STEEL_GRADES, Family, Given, Setting, bolt_choice
from tincleat.families.example import a_beam, a_column, at_end
from tincleat.families.shear import BeamEnd, end_notches, end_of_beam, flange_bolt
from tincleat.geometry.frames import Array, Frame, Vec3, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case
from tincleat.kit.angle import ANGLES, angle, first_choice, longer, shorter
from tincleat.kit.cope import skew
from tincleat.kit.drill import drilled
from tincleat.kit.face import FLANGED, face_of, face_places, face_width, stand_off, steel_along
from tincleat.kit.gauge import flange_gauges, lines_across
from tincleat.kit.layout import centred, down, up
from tincleat.kit.weld import both_sides, fillet
from tincleat.project.entities import HouseRules
from tincleat.standards.rulesets import rules_of
from tincleat.steel.cuts import EndCut, MemberHole

TOP, WEB = "top cleat", "web cleat"
MOST_OFF = math.radians(1)  # between the beam and the face's normal

SETTINGS = (
    Setting("size", "Seat angle", "choice", "Seat", lambda h: first_choice(h, "L 150x100x12", "L6X4X1/2"), "Section of the seat.", choices=ANGLES),
    Setting("long_leg", "Longer leg", "choice", "Seat", None, "Where the longer leg of an unequal angle lies; on the support where its web is high enough if not typed.", choices=("on the support", "under the beam")),
    Setting("length", "Seat length", "length", "Seat", None, "Along the support's face; worked out from beam and bolts if not typed.", 40, 2000),
    Setting("grade", "Grade", "choice", "Seat", lambda h: h.plate_grade, "Steel grade of angles and stiffener.", choices=STEEL_GRADES),
    Setting("to_support", "On the support", "choice", "Seat", None, "How seat and top cleat are fixed to the support; welded to closed sections and tapered flanges if not typed.", choices=("bolted", "welded")),
    Setting("stiffener", "Stiffener", "length", "Seat", 0.0, "Plate in the middle under the seat, its thickness; 0 is none.", 0, 50),
    Setting("top", "On top", "choice", "Top", TOP, "What holds the beam's top: an angle on its flange, one high on its web, or nothing.", choices=(TOP, WEB, "none")),
    Setting("top_size", "Top or web angle", "choice", "Top", lambda h: first_choice(h, "L 100x100x10", "L4X4X3/8"), "Section of the top or web cleat.", choices=ANGLES),
    Setting("web_side", "Web cleat on", "choice", "Top", "near side", "Which side of the web a web cleat lies on.", choices=("near side", "far side"), handed=True),
    Setting("web_rows", "Web cleat bolts", "spacings", "Top", None, "Spacings of the bolts up a web cleat; two bolts if not typed.", 0, 400),
    Setting("bolt", "Bolt", "choice", "Bolts", bolt_choice, "Size of the bolts.", choices=BOLT_SIZES),
    Setting("bolt_grade", "Bolt grade", "choice", "Bolts", lambda h: h.bolt_grade, "Strength class of the bolts.", choices=BOLT_GRADES),
    Setting("gauge", "Gauge in the beam", "length", "Bolts", None, "Between the lines of bolts in the beam's flange; in a channel from its back.", 30, 600),
    Setting("off_face", "Beam bolts off the face", "length", "Bolts", None, "From the support's face to the bolts in the beam's flange.", 20, 400),
    Setting("rows", "Rows on the support", "spacings", "Bolts", None, "Further rows down the seat's leg, such as 60; one more where the leg is long enough if not typed.", 0, 500),
    Setting("drop", "First row from the seat", "length", "Bolts", None, "From the beam's underside down to the first row on the support.", 20, 400),
    Setting("cross_centres", "Cross centres", "length", "Bolts", None, "Between the bolt lines on the support.", 40, 600),
    Setting("weld_leg", "Weld leg", "length", "Welds", None, "Fillets of welded angles and of the stiffener.", 2, 30),
    Setting("setback", "Setback", "length", "Beam end", None, "Gap between the beam's end and the support's face.", 0, 100),
)  # fmt: skip


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless a beam comes square to a flange, web or wall."""
    if case.kind not in KINDS or case.support is None or len(case.members) > 2:
        raise NoFit(f"a seat carries one beam's end at a flange, web or wall; this joint is a {case.kind}", right="one beam end at a support")
    beam, support = case.supported.shape, case.support.shape
    if support.shape not in ("I", "C", "RHS", "T"):
        raise NoFit(f"{support.name} is a {support.shape} section, which has no flat face for a seat")
    if beam.shape not in ("I", "C"):
        raise NoFit(f"{beam.name} is a {beam.shape} section without an open flange to bolt down", right="an I-section or channel")
    off = skew(face_of(case)[0])
    if off > MOST_OFF:
        raise NoFit(f"the beam comes {math.degrees(off):.1f}° off square to the face; the legs of a seat are square", right=f"up to {math.degrees(MOST_OFF):.0f}°, a fin plate or an end plate")
    up_it, across = (abs(float(np.dot(way, case.support.frame.x))) for way in (case.supported.frame.z, case.supported.frame.y))
    rolled = math.asin(min(1.0, min(up_it, across)))  # to a column's length, or to that of a support that lies
    if rolled > MOST_OFF:
        raise NoFit(f"the beam lies rolled {math.degrees(rolled):.1f}° to {support.name}; a seat lies level on it", right=f"up to {math.degrees(MOST_OFF):.0f}°")


def build(case: Case, given: Given) -> Detail:
    """Seat and top angle, bolts or welds, stiffener, the beam's end."""
    house, beam = given.house, case.supported
    assert case.support is not None
    support = case.support
    step = 3.175 if house.inch else 5.0
    size = flange_bolt(beam.shape, given)
    hole, _ = house.hole(size.name, "normal")
    edge = up(max(rules_of(house).edge_least(size, Hole(0, 0, hole, hole), False).value, 1.5 * size.d), step)
    seat, top = section(str(given.value("size"))), section(str(given.value("top_size")))
    usual = "welded" if support.shape.shape == "RHS" or (support.shape.slope and case.kind in FLANGED) else "bolted"
    bolted = given.worked_out("to_support", usual) == "bolted"
    if bolted and support.shape.shape == "RHS":
        raise NoFit(f"{support.shape.name} is closed: nobody can hold a nut inside it", right="a seat welded to it")
    setback = float(given.worked_out("setback", 12.7 if house.inch else 10.0))
    end = end_of_beam(case, house, None)
    if end.bottom[0]:
        raise NoFit(f"the lower flange of {beam.shape.name} is notched {end.bottom[0]:.0f} mm deep and cannot stand on a seat", right="a shallower beam, a higher level, or cleats on its web")
    half = beam.shape.h / 2
    face = end.face(0.0, -half)
    along, low, high = face_width(case)
    sideways = abs(float(along[1])) > 0.7
    aside = float((np.array([face, 0.0, 0.0]) - support.frame.o) @ along)
    if sideways:  # up a column its steel goes as far as the column does
        f = support.frame
        lowest, highest = sorted(float(f.origin[2] + f.x[2] * s) for s in steel_along(support, face_places(support, face_of(case)[0])))
    else:  # along a lying support's web the angles' legs need its flat above and below
        lowest, highest = sorted((v - aside) * math.copysign(1.0, float(along[2])) for v in (low, high))
    limit = "" if sideways else "flat of "
    deep = -half - longer(seat) >= lowest - 1e-6
    down_leg, out_leg = (longer(seat), shorter(seat)) if given.worked_out("long_leg", "on the support" if deep else "under the beam") == "on the support" else (shorter(seat), longer(seat))
    gauges = [float(given.value("gauge"))] if given.has("gauge") else flange_gauges(beam.shape, size, edge, house)
    apart = rules_of(house).spacing_greatest(min(seat.tw, top.tw, beam.shape.tf)).value if house.exposed else math.inf
    gauge = float(given.worked_out("gauge", next((g for g in gauges if g <= apart), gauges[-1])))
    lines = sorted(float(beam.frame.to_world([(0.0, y, 0.0)])[0][1]) for y in lines_across(beam, gauge))
    most = rules_of(house).edge_greatest(min(seat.tw, beam.shape.tf)).value if house.exposed else math.inf

    def off_face(thick: float, out: float) -> float:
        """Bolts in a leg ``out`` mm deep: clear of the other leg and the beam's end, no further from its toe than the rules let them be."""
        wanted = max(setback + edge, thick, out - most)
        return min(up(wanted, step), max(down(out - edge, step), setback + edge))

    head = max(size.washer_d, 1.16 * size.head_af) / 2

    def inside(shape: Section) -> float:
        """From an angle's heel to where a bolt in one leg is clear of the other leg, its root and its socket."""
        return shape.tw + max(size.clear, shape.r1 + head + 1.0)

    off = float(given.worked_out("off_face", off_face(inside(seat), out_leg)))
    if off + edge > out_leg + step:
        raise NoFit(f"bolts {off:.0f} mm off the face do not fit in a leg of {out_leg:.0f} mm", right="a larger angle, smaller bolts, or a smaller setback")
    rows = [float(given.worked_out("drop", up(max(inside(seat), 2.0 * size.d), step)))]
    more = up(3 * size.d, step)
    for gap in tuple(given.worked_out("rows", (more,) if down_leg - rows[0] - more >= edge else ())):
        rows.append(rows[-1] + gap)
    flat = 2 * min(high - aside, aside - low) if sideways else math.inf
    centres = _centres(case, given, size, flat, abs(aside) if sideways else 0.0, edge, min(max(lines) - min(lines), apart), step, bolted)
    wanted = max(2 * (max(abs(y) for y in lines) + edge), centres + 2 * edge if bolted else 0.0)
    length = given.rounded("length", wanted, "seat length")
    leg = given.rounded("weld_leg", min(0.7 * seat.tw, seat.tw - (1.5875 if house.inch else 2.0)), "weld leg")
    if sideways and not bolted and length + 2 * leg > flat + 0.05:
        raise NoFit(f"a seat {length:.0f} mm long with fillets of {leg:g} mm does not lie on the {flat:.0f} mm flat of {support.shape.name}", right="smaller bolts, a shorter seat or a fin plate")
    if sideways and case.kind in ("beam to column web", "beam to beam web") and length > flat:
        raise NoFit(f"a seat {length:.0f} mm long does not fit in the {flat:.0f} mm between the roots of {support.shape.name}", right="a narrower beam, smaller bolts, or a fin plate")
    on_top = given.value("top")
    top_there = on_top == TOP
    if -half - down_leg < lowest - 1e-6:
        raise NoFit(f"the seat reaches {half + down_leg:.0f} mm under the beam's middle, the {limit}{support.shape.name} ends at {-lowest:.0f} mm", right="a shorter leg, a higher beam, or a fin plate")
    if top_there and half + longer(top) > highest + 1e-6:
        if given.has("top"):
            raise NoFit(f"a top cleat reaches {half + longer(top):.0f} mm over the beam's middle, the {limit}{support.shape.name} ends at {highest:.0f} mm", right="no top cleat, or a smaller one")
        given.fitted("top", "none", f"the {limit}{support.shape.name} ends {highest - half:.0f} mm over the beam")
        top_there = False

    spare = rules_of(house).ply_gap.value if bolted else rules_of(house).weld_gap(house.weld_gap).value

    def leg_at(z: float, tall: float, s: float) -> "Callable[[float, float, float], Array]":
        """Points by how far they lie off a leg on the support that begins at ``z`` and goes ``tall`` up (``s`` 1) or down (-1) along it."""
        x = stand_off(end.face, (-length / 2, length / 2), (z, z + s * tall), spare)
        return lambda off, y, z: np.array([x + off, y, z])

    p = leg_at(-half, down_leg, -1.0)
    pieces: list[Piece] = []
    groups: list[Bolts] = []
    holes: list[MemberHole] = []
    welds: list[Weld] = []
    grade, strength = str(given.value("grade")), str(given.value("bolt_grade"))
    x_way, y_way, z_way = (np.array(v, dtype=float) for v in ((1, 0, 0), (0, 1, 0), (0, 0, 1)))
    angles = [("seat", seat, -1.0, -half, out_leg, down_leg, rows)]
    if top_there:
        angles.append(("top cleat", top, 1.0, half, longer(top), longer(top), [up(max(inside(top), 2.0 * size.d), step)]))
    for name, shape, s, z, out, tall, spots in angles:
        x = off if shape is seat or given.has("off_face") else off_face(inside(shape), out)
        at = p if shape is seat else leg_at(z, tall, s)
        flange = [at(x, y, z + s * shape.tw / 2) for y in lines]
        wall = [at(shape.tw / 2, y, z + s * r) for r in spots for y in centred((centres,))] if bolted else []
        drill = [(q, z_way, hole, hole, x_way) for q in flange] + [(q, x_way, hole, hole, z_way) for q in wall]
        if bolted and spots[-1] + edge > tall + step:
            raise NoFit(f"rows down to {spots[-1]:.0f} mm do not fit in the {name}'s leg of {tall:.0f} mm", right="a larger angle, or fewer rows")
        pieces.append(angle(name, shape.name, grade, at(0.0, -length / 2, z), y_way, x_way, z_way * s, length, out >= tall, drill))
        points = [at(x, y, z) for y in lines]
        groups.append(Bolts(f"bolts of the {name} in the beam", size.name, strength, tuple(vec(q) for q in points), vec(-z_way * s), vec(x_way)))
        holes += drilled(case, 0, [q - z_way * s * beam.shape.tf / 2 for q in points], z_way, hole, hole, x_way)
        if bolted:
            spots_ = [at(0.0, y, z + s * r) for r in spots for y in centred((centres,))]
            groups.append(Bolts(f"bolts of the {name} in the support", size.name, strength, tuple(vec(q) for q in spots_), vec(-x_way), vec(z_way)))
            holes += drilled(case, 1, spots_, x_way, hole, hole, z_way)
        else:
            welds += _round_leg(name, leg if shape is seat else min(leg, shape.tw - (1.5875 if house.inch else 2.0)), at, length, z, s, tall, role_words(support.role))
    if on_top == WEB:
        one, more_bolts, more_holes, seams = _web_angle(case, given, end, top, (setback, edge), size, inside, step, bolted, grade)
        pieces.append(one)
        groups += more_bolts
        holes += more_holes
        welds += seams
    plates: list[Plate] = []
    t = float(given.value("stiffener"))
    if t:
        plate, some = _stiffener(given, p, t, seat.tw, out_leg, down_leg, -half, leg, grade, centres if bolted else 0.0, size.clear)
        plates.append(plate)
        welds += some
    return Detail(
        "seat cleat", tuple(plates), tuple(groups), tuple(welds), ends=(EndCut(0, vec(end.point + end.normal * setback), vec(end.normal)),), notches=tuple(end_notches(case, end, house)), holes=tuple(holes),
        dimensions=_dimensions(p, half, length, lines, off, setback, rows, centres if bolted else 0.0, (out_leg, down_leg)), pieces=tuple(pieces), numbers=tuple(given.numbers.values()),
    )  # fmt: skip


SMALLER = (("L 100x100x10", "L 90x90x9", "L 80x80x8", "L 70x70x7"), ("L4X4X3/8", "L3-1/2X3-1/2X3/8", "L3X3X5/16"))


def _web_angle(
    case: Case, given: Given, end: BeamEnd, shape: Section, ends: tuple[float, float], size: BoltSize, inside: "Callable[[Section], float]", step: float, bolted: bool, grade: str
) -> tuple[Piece, list[Bolts], list[MemberHole], list[Weld]]:
    """The web cleat with the angle chosen, or, where none was typed and it does not fit, with the next smaller one that does."""
    some = [shape.name] if given.has("top_size") else [shape.name, *(n for n in SMALLER[given.house.inch] if longer(section(n)) < longer(shape))]
    problem: NoFit | None = None
    for name in some:
        try:
            found = _web_cleat(case, given, end, section(name), ends, size, (inside(section(name)), step), bolted, grade)
        except NoFit as error:
            problem = problem or error
            continue
        if problem is not None:
            given.fitted("top_size", name, problem.what)
        return found
    assert problem is not None
    raise problem


def _web_cleat(
    case: Case, given: Given, end: BeamEnd, shape: Section, ends: tuple[float, float], size: BoltSize, room: tuple[float, float], bolted: bool, grade: str
) -> tuple[Piece, list[Bolts], list[MemberHole], list[Weld]]:
    """An angle high on the beam's web that keeps it upright: one leg on the web, one on the support."""
    house, support = given.house, case.support
    assert support is not None
    setback, edge = ends
    clear, step = room
    hole, _ = house.hole(size.name, "normal")
    least = rules_of(house).edge_least(size, Hole(0, 0, hole, hole), False).value
    side = -1.0 if given.value("web_side") == "near side" else 1.0
    web = end.at + side * end.web.thickness / 2
    pitch = tuple(given.worked_out("web_rows", (up(3 * size.d, step),) if end.zone[1] - end.zone[0] >= up(3 * size.d, step) + 2 * edge else ()))
    tall = sum(pitch) + 2 * edge
    top = down(end.zone[1], 1.5875 if house.inch else 1.0)
    if tall > end.zone[1] - end.zone[0] + 1e-6:
        raise NoFit(f"a web cleat {tall:.0f} mm high does not lie in the {end.zone[1] - end.zone[0]:.0f} mm of clear web of {end.beam.name}", right="fewer bolts, or a top cleat")
    low = top - tall
    rows = [low + edge]
    for gap in pitch:
        rows.append(rows[-1] + gap)
    x = up(max(clear, setback + edge), step / 2)
    head = max(size.washer_d, 1.16 * size.head_af) / 2
    behind = support.shape.tw / 2 + support.shape.r1 + head if case.kind in FLANGED and support.shape.shape in ("I", "T") else 0.0
    middle = float(np.array(support.frame.o)[1]) if case.kind in FLANGED else 0.0
    out = up(max(clear, behind - side * (web - middle)), step / 2)
    leg_on_web, leg_on_support = longer(shape), shorter(shape)
    face = stand_off(end.face, (web, web + side * leg_on_support), (low, top), rules_of(house).ply_gap.value if bolted else rules_of(house).weld_gap(house.weld_gap).value)
    if x + least > leg_on_web + 0.01 or (bolted and out + least > leg_on_support + 0.01):
        raise NoFit(f"bolts {x:.0f} mm along and {out:.0f} mm across do not fit in the legs of {shape.name}", right="a larger angle, smaller bolts, or a top cleat")
    along, least_w, most_w = face_width(case)
    if abs(float(along[1])) > 0.7:
        seam = 0.0 if bolted else 0.7 * shape.tw
        tip = float((np.array([face, web + side * (leg_on_support + seam), 0.0]) - support.frame.o) @ along)
        if not least_w - 0.05 <= tip <= most_w + 0.05:
            raise NoFit(f"the web cleat's leg reaches past the flat of {support.shape.name}", right="its other side, a smaller angle, or a top cleat")
    y_way, z_way, x_way = np.array((0.0, side, 0.0)), np.array((0.0, 0.0, 1.0)), np.array((1.0, 0.0, 0.0))
    on_web = [np.array((face + x, web, z)) for z in rows]
    on_wall = [np.array((face, web + side * out, z)) for z in rows] if bolted else []
    drill = [(q + y_way * shape.tw / 2, (0.0, 1.0, 0.0), hole, hole, x_way) for q in on_web] + [(q + x_way * shape.tw / 2, x_way, hole, hole, z_way) for q in on_wall]
    piece = angle("web cleat", shape.name, grade, (face, web, low), z_way, x_way, y_way, tall, True, drill)
    strength = str(given.value("bolt_grade"))
    groups = [Bolts("bolts of the web cleat in the beam", size.name, strength, tuple(vec(q) for q in on_web), vec(-y_way), vec(z_way))]
    holes = list(drilled(case, 0, on_web, y_way, hole, hole, x_way))
    welds: list[Weld] = []
    if bolted:
        groups.append(Bolts("bolts of the web cleat in the support", size.name, strength, tuple(vec(q) for q in on_wall), vec(-x_way), vec(z_way)))
        holes += drilled(case, 1, on_wall, x_way, hole, hole, z_way)
    else:
        parts = (role_words(support.role), "web cleat")
        leg = max(down(min(0.7 * shape.tw, shape.tw - (1.5875 if house.inch else 2.0)), 1.5875 if house.inch else 1.0), 4.7625 if house.inch else 5.0)
        toe = web + side * leg_on_support
        welds.append(fillet("web cleat toe", leg, (face, toe, low), (face, toe, top), y_way, x_way, parts))
        welds += [fillet("web cleat end", leg, (face, web, z), (face, toe, z), (0.0, 0.0, s), x_way, parts) for z, s in ((low, -1.0), (top, 1.0))]
    return piece, groups, holes, welds


def _centres(case: Case, given: Given, size: BoltSize, flat: float, aside: float, edge: float, lines: float, step: float, bolted: bool) -> float:
    """Cross centres on the support: clear of a column's web behind its flange, ``aside`` mm off the beam's middle, in from the face's edges."""
    assert case.support is not None
    shape = case.support.shape
    behind = 2 * aside + shape.tw + 2 * shape.r1 + max(size.washer_d, 1.16 * size.head_af) if case.kind in FLANGED and shape.shape in ("I", "T") else 0.0
    least = max(up(behind, step), up(3 * size.d, step))
    usual = max(least, up(lines, step))
    most = down(flat - 2 * edge, step) if math.isfinite(flat) else usual
    if bolted and least > most + 1e-6:
        raise NoFit(f"the bolts on {shape.name} could be {most:.0f} mm apart at most, they need {least:.0f} mm", right="smaller bolts, or a seat welded on")
    return float(given.worked_out("cross_centres", min(usual, most)))


def _round_leg(name: str, leg: float, at: "Callable[[float, float, float], Array]", length: float, z: float, s: float, tall: float, owner: str) -> list[Weld]:
    """Fillets at the toe and both ends of a leg welded to the support."""
    x_way, y_way, z_way = (np.array(v, dtype=float) for v in ((1, 0, 0), (0, 1, 0), (0, 0, 1)))
    parts = (owner, name)
    out = [fillet(f"{name} toe on the support", leg, at(0.0, -length / 2, z + s * tall), at(0.0, length / 2, z + s * tall), z_way * s, x_way, parts)]
    for side in (-1.0, 1.0):
        y = side * length / 2
        out.append(fillet(f"{name} end on the support", leg, at(0.0, y, z), at(0.0, y, z + s * tall), y_way * side, x_way, parts))
    return out


def _stiffener(given: Given, at: "Callable[[float, float, float], Array]", t: float, leg_t: float, out: float, tall: float, z: float, leg: float, grade: str, centres: float, clear: float) -> tuple[Plate, list[Weld]]:
    """A plate in the middle between the seat's two legs, its corner sniped at their root."""
    if centres and centres / 2 - t / 2 < clear:
        raise NoFit(f"a stiffener {t:g} mm thick leaves {centres / 2 - t / 2:.0f} mm to tighten bolts {centres:.0f} mm apart; {clear:.0f} mm are needed", right="wider cross centres, or a welded seat")
    a, b, snipe = out - leg_t - 5.0, tall - leg_t - 5.0, 15.0
    ring = [(snipe, 0.0), (a, 0.0), (a, 20.0), (20.0, b), (0.0, b), (0.0, snipe)]
    corner = at(leg_t, -t / 2, z - leg_t)
    # its x out from the support, its y down
    plate = Plate("seat stiffener", Outline(tuple((u, v, 0.0) for u, v in ring)), t, Frame.of(corner, (1.0, 0.0, 0.0), (0.0, 1.0, 0.0)), grade, (), ("", ""))
    small = min(leg, down(max(0.7 * t, 5.0 if not given.house.inch else 4.7625), 1.5875 if given.house.inch else 1.0))
    runs = (((snipe, 0.0), (a, 0.0), (0.0, 0.0, -1.0)), ((0.0, snipe), (0.0, b), (1.0, 0.0, 0.0)))
    welds: list[Weld] = []
    for (u0, v0), (u1, v1), away in runs:
        run = tuple(vec(at(leg_t + u, 0.0, z - leg_t - v)) for u, v in ((u0, v0), (u1, v1)))
        welds += both_sides("seat stiffener", small, run, (0.0, 1.0, 0.0), t, away, ("seat", "seat stiffener"))
    return plate, welds


def _dimensions(
    at: "Callable[[float, float, float], Array]", half: float, length: float, lines: list[float], off: float, setback: float, rows: list[float], centres: float, legs: tuple[float, float]
) -> tuple[Dimension, ...]:  # fmt: skip

    def q(x: float, y: float, z: float) -> Vec3:
        return vec(at(x, y, z))

    z = -half
    out = [
        Dimension("front", "bottom", 0, (q(0.0, 0.0, z - legs[1]), q(setback, 0.0, z - legs[1])), ("setback",)),
        Dimension("front", "bottom", 1, (q(0.0, 0.0, z - legs[1]), q(off, 0.0, z - legs[1])), ("off_face",)),
        Dimension("side", "bottom", 1, (q(0.0, -length / 2, z - legs[1]), q(0.0, length / 2, z - legs[1])), ("length",)),
        Dimension("plan", "right", 0, tuple(q(off, y, z) for y in lines) if len(lines) > 1 else (q(off, -length / 2, z), q(off, lines[0], z)), ("gauge",) if len(lines) > 1 else ("",)),
    ]
    if centres:
        out.append(Dimension("side", "bottom", 0, (q(0.0, -centres / 2, z), q(0.0, centres / 2, z)), ("cross_centres",)))
        out.append(Dimension("side", "right", 0, tuple(q(0.0, centres / 2, z - v) for v in (0.0, *rows)), ("drop", *(("rows",) * (len(rows) - 1)))))
    return tuple(out)


FAMILY = Family(
    "seat-cleat", "Seat cleat", ("seat", "seating cleat", "web cleat", "stability cleat", "angle seat", "stiffened seat", "top and seat angle"), KINDS, SETTINGS, fits, build,
    {
        "edge-least": ("off_face", "drop", "cross_centres", "length", "size", "gauge"), "edge-greatest": ("length", "off_face", "drop", "size"), "spacing-least": ("rows", "cross_centres", "gauge"),
        "spacing-greatest": ("cross_centres", "gauge"), "fillet-throat": ("weld_leg",), "fillet-leg-least": ("weld_leg",), "fillet-leg-greatest": ("weld_leg",), "plate-step": ("length",), "bolt-room": ("drop", "off_face", "gauge"),
        "plate-stock": ("stiffener",),
    },
    situations=("beams",), example=at_end(a_column("UC 254x254x73"), a_beam("UB 305x165x40")),
)  # fmt: skip
