"""Base plate: a plate welded under a column, on grout over concrete, held by anchor rods.

Joint frame: origin where the column's middle line ends, z up the column, x along its depth, y across its flanges.
The plate may be turned on its column: what lies on it is given along the plate's own length and width.
"""

import math
from dataclasses import dataclass

import numpy as np
from shapely.geometry import Polygon

from tincleat.catalogue.fasteners import AnchorSize, anchor_size
from tincleat.details.parts import STANDARD_VIEWS, Angle, Block, Detail, Dimension, Hole, Piece, Plate, Rod, SheetView
from tincleat.errors import NoFit
from tincleat.families import base_chairs as chairing
from tincleat.families.base_parts import CROSS, FLAT, KEY_SECTIONS, SECTION, foot_stiffeners, room_of, shear_key, slot_or_round, vents
from tincleat.families.declare import ANCHOR_GRADES, ANCHOR_SIZES, STEEL_GRADES, Family, Given, Setting
from tincleat.families.example import a_column, at_end
from tincleat.geometry.frames import Array, Frame, Vec3, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case
from tincleat.kit.foot import foot_welds, footprint, leaned, legs_round
from tincleat.kit.layout import up
from tincleat.kit.rods import hooks
from tincleat.project.entities import HouseRules
from tincleat.steel.cuts import EndCut

MOST_LEAN = math.radians(10)  # at more the fillet on the sharp side of a leaning column cannot be laid
EVEN = 1e-6  # rad within which a column stands plumb
UP = (0.0, 0.0, 1.0)
ROUND, ALONG, ACROSS = "round", "slotted along", "slotted across"
NONE = "none"
FORCES = (("force_down", "down"), ("force_up", "up"), ("force_across", "across"))

SETTINGS = (
    Setting("plate_length", "Plate length", "length", "Plate", None, "Along the column's depth; worked out from the projection if not typed.", 60, 3000),
    Setting("plate_width", "Plate width", "length", "Plate", None, "Across the column's flanges; worked out from the projection if not typed.", 60, 3000),
    Setting("projection", "Projection", "length", "Plate", None, "Plate past the column on every side, before rounding; worked out so that washers and wrench clear the column.", 0, 1000),
    Setting("past_left", "Past the column, left", "length", "Plate", None, "On this side alone, as seen from above; the projection if not typed.", 0, 1500),
    Setting("past_right", "Past the column, right", "length", "Plate", None, "On this side alone, as seen from above; the projection if not typed.", 0, 1500),
    Setting("past_near", "Past the column, near", "length", "Plate", None, "On the side at the foot of the plan alone; the projection if not typed.", 0, 1500, trades="past_far"),
    Setting("past_far", "Past the column, far", "length", "Plate", None, "On the side at the head of the plan alone; the projection if not typed.", 0, 1500, trades="past_near"),
    Setting("plate_thickness", "Plate thickness", "length", "Plate", 20.0, "Thickness of the base plate.", 6, 200, inches=19.05),
    Setting("plate_grade", "Plate grade", "choice", "Plate", lambda h: h.plate_grade, "Steel grade of the plate.", choices=STEEL_GRADES),
    Setting("turn", "Plate turned", "angle", "Plate", 0.0, "The plate and its rods turned under the column, to lie square to the grid; counter-clockwise from above.", -math.pi / 4, math.pi / 4, handed=True),
    Setting("offset_x", "Offset along the depth", "length", "Plate", 0.0, "Plate's middle from the column's, along its depth.", -500, 500),
    Setting("offset_y", "Offset across", "length", "Plate", 0.0, "Plate's middle from the column's, across its flanges.", -500, 500, handed=True),
    Setting("vents", "Vent holes", "count", "Plate", 0, "Round holes for galvanizing.", 0, 4),
    Setting("vent_size", "Vent hole diameter", "length", "Plate", 30.0, "Diameter of the vent holes.", 8, 100, inches=31.75),
    Setting("vent_place", "Vents in", "choice", "Plate", "the plate", "Beside the column's web in the plate, or in the web just over the plate.", choices=("the plate", "the web")),
    Setting("levelling_plate", "Levelling plate", "length", "Plate", 0.0, "Thickness of a second plate that is grouted in first and the column then stands on; 0 is none.", 0, 60),
    Setting("grout", "Grout", "length", "Foot", 30.0, "Grout between plate and concrete.", 0, 200, inches=38.1),
    Setting("foot_means", "Column foot is", "choice", "Foot", "top of concrete", "What the column's drawn foot stands for; the column is shortened to suit.",
            choices=("top of concrete", "underside of plate", "end of column")),
    Setting("anchors_x", "Rods along the depth", "spacings", "Anchor rods", None, "Spacings between rod lines, centred on the plate.", 0, 3000),
    Setting("anchors_y", "Rods across", "spacings", "Anchor rods", None, "Spacings between rod lines, centred on the plate.", 0, 3000),
    Setting("rods_where", "Rods stand", "choice", "Anchor rods", "round the edge", "All crossings of the rod lines, or only the outer ones.",
            choices=("round the edge", "at every crossing")),
    Setting("rods_off", "Rods left out", "numbers", "Anchor rods", lambda h: (), "Numbers of single rods that are left out, counted along the plate's width, line by line from the left; such as 2 5.", 1, 400),
    Setting("rods_counted", "Counted from the", "choice", "Anchor rods", "near side", "The side of the plate that each line of rods is counted from.", choices=("near side", "far side"), handed=True),
    Setting("anchor", "Rod size", "choice", "Anchor rods", lambda h: h.anchor, "Diameter of the anchor rods.", choices=ANCHOR_SIZES),
    Setting("anchor_grade", "Rod grade", "choice", "Anchor rods", lambda h: h.anchor_grade, "Strength class of the rods.", choices=ANCHOR_GRADES),
    Setting("embedment", "Embedment", "length", "Anchor rods", 400.0, "Rod below the top of concrete.", 50, 3000, inches=406.4),
    Setting("rod_projection", "Rod above the plate", "length", "Anchor rods", None, "Worked out from washer and nuts if not typed.", 10, 500),
    Setting("rod_foot", "Rod foot", "choice", "Anchor rods", "plate", "How the rod is held in the concrete: hooked, headed, with a plate, bare in resin, or through the concrete with a plate and nut on its other face.",
            choices=("hooked", "headed", "plate", "resin", "through")),
    Setting("lock_nut", "Second nut", "flag", "Anchor rods", False, "A second nut on top."),
    Setting("levelling_nut", "Levelling nuts", "flag", "Anchor rods", False, "A nut and washer under the plate."),
    Setting("hole_size", "Hole diameter", "length", "Anchor rods", None, "Or a slot's width. Worked out from the rod if not typed.", 10, 200),
    Setting("hole_shape", "Holes", "choice", "Anchor rods", ROUND, "Round, or slotted along the plate's length or width.", choices=(ROUND, ALONG, ACROSS)),
    Setting("slot_length", "Slot length", "length", "Anchor rods", None, "Over all; the hole's width and two thirds more if not typed.", 10, 400),
    Setting("washer_side", "Plate washer", "length", "Anchor rods", None, "Side of the square washers; the rod's usual one, or what covers a slot, if not typed.", 20, 400),
    Setting("washer_thickness", "Washer thickness", "length", "Anchor rods", None, "The rod's usual one if not typed.", 3, 60),
    Setting("template", "Rod template", "length", "Anchor rods", 0.0, "Thickness of a plate with the rods' holes that holds them while the concrete is poured, on top of it; 0 is none.", 0, 30),
    Setting("flange_weld", "Flange weld leg", "length", "Welds", None, "Fillet round the flanges.", 2, 40),
    Setting("web_weld", "Web weld leg", "length", "Welds", None, "Fillets along the web.", 2, 40),
    Setting("stiffeners", "Stiffeners", "choice", "Stiffeners", NONE, "Plates that stand on the base plate and against the column.", choices=(NONE, "on the flanges", "on the web", "on flanges and web")),
    Setting("stiffener_height", "Stiffener height", "length", "Stiffeners", 150.0, "Up the column.", 40, 1500, inches=152.4),
    Setting("stiffener_thickness", "Stiffener thickness", "length", "Stiffeners", 12.0, "Thickness of the stiffeners.", 4, 80, inches=12.7),
    Setting("stiffener_snipe", "Snipe", "length", "Stiffeners", None, "Corner cut off over the column's own weld; as much as that needs if not typed.", 3, 100),
    Setting("stiffener_weld", "Stiffener weld leg", "length", "Stiffeners", None, "Fillets on both faces of the stiffeners.", 3, 30),
    Setting("stiffener_in", "Short of the edge", "length", "Stiffeners", 10.0, "From the stiffeners to the plate's edge.", 0, 300, inches=12.7),
    *chairing.SETTINGS,
    Setting("key_depth", "Shear key depth", "length", "Shear key", 0.0, "From the plate's underside; 0 is none.", 0, 500),
    Setting("key_form", "Shear key of", "choice", "Shear key", FLAT, "A flat across the plate's length, two crossed flats, or a piece of a section.", choices=(FLAT, CROSS, SECTION)),
    Setting("key_section", "Key section", "choice", "Shear key", lambda h: "W4X13" if h.inch else "HEA 100", "The section of the piece.", choices=KEY_SECTIONS),
    Setting("key_length", "Shear key length", "length", "Shear key", 100.0, "Length of the flats.", 20, 1000, inches=101.6),
    Setting("key_thickness", "Shear key thickness", "length", "Shear key", 20.0, "Thickness of the flats.", 6, 100, inches=19.05),
    Setting("key_turn", "Key turned", "angle", "Shear key", 0.0, "Turned on the plate, counter-clockwise from above.", -math.pi / 2, math.pi / 2, handed=True),
    Setting("key_off_x", "Key off the middle, along", "length", "Shear key", 0.0, "From the plate's middle along its length.", -500, 500),
    Setting("key_off_y", "Key off the middle, across", "length", "Shear key", 0.0, "From the plate's middle along its width.", -500, 500, handed=True),
    Setting("key_pocket", "Pocket round the key", "length", "Shear key", 50.0, "Left in the concrete on every side of the key and under it, and filled with grout; 0 is none.", 0, 500, inches=50.8),
    Setting("pad", "Concrete pad", "flag", "Concrete", True, "Draw the pad under the base."),
    Setting("pad_margin", "Pad past the plate", "length", "Concrete", 150.0, "Pad past the plate on every side.", 0, 3000, inches=152.4),
    Setting("pad_depth", "Pad depth", "length", "Concrete", 600.0, "Depth of the pad.", 100, 5000, inches=609.6),
    Setting("force_down", "Greatest force down", "force", "Forces", 0.0, "As the engineer gives it; written on the sheet and handed on, nothing is worked out from it. 0 is not given.", 0, 1e9),
    Setting("force_up", "Greatest force up", "force", "Forces", 0.0, "Uplift, as the engineer gives it; 0 is not given.", 0, 1e9),
    Setting("force_across", "Greatest force across", "force", "Forces", 0.0, "Shear at the foot, as the engineer gives it; 0 is not given.", 0, 1e9),
    Setting("concrete", "Concrete", "choice", "Concrete", lambda h: "4000 psi" if h.inch else "C30/37", "Concrete grade of the pad.", choices=("C25/30", "C30/37", "C35/45", "C40/50", "4000 psi", "5000 psi")),
)  # fmt: skip


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless this is the foot of a column that leans no more than 15 degrees."""
    if case.kind != "column foot":
        raise NoFit(f"a base plate goes under a column's foot; this joint is a {case.kind}", right="choose the lower end of a column that stands on nothing")
    shape = case.supported.shape
    if shape.shape not in ("I", "C", "RHS", "CHS", "L", "T", "FL"):
        raise NoFit(f"{shape.name} is a {shape.shape} section; a base plate takes I-sections, channels, hollow sections, angles, tees and flats")
    if case.lean > MOST_LEAN:
        raise NoFit(f"the column leans {math.degrees(case.lean):.1f}°", right=f"a level base plate takes up to {math.degrees(MOST_LEAN):.0f}°")


def build(case: Case, given: Given) -> Detail:
    """Plate, rods with nuts and washers, welds, shortened column, grout, stiffeners, shear key, levelling plate, template and pad."""
    house, column = given.house, case.supported
    shape, inch = column.shape, house.inch
    rod = anchor_size(str(given.value("anchor")))
    step = 12.7 if inch else 5.0
    t, turn = float(given.value("plate_thickness")), float(given.value("turn"))
    flange, web = (given.rounded(name, leg, "weld leg") for name, leg in zip(("flange_weld", "web_weld"), legs_round(shape, t, inch, case.lean), strict=True))
    wide, long, way, washer = _holes(given, rod, step)
    inset = up(1.75 * rod.d if way == ROUND else max(1.75 * rod.d, 1.5 * wide + (long - wide) / 2), step)
    chair = _chair(given, case, rod, wide, step) if given.value("chairs") else None
    if chair is not None:
        inset = max(inset, up(chair.past + (chair.gap / 2 + chair.side) * abs(math.sin(turn)) + step, step))
    # past the column come the weld, half a washer or the room a wrench needs, then the way to the edge
    past = max(flange, chair.leg if chair else 0.0) + max(washer[0] / 2, rod.nut_af) + inset + (rod.washer_t + rod.nut_height) * math.tan(case.lean)
    projection = float(given.worked_out("projection", max(76.2 if inch else 75.0, math.ceil(past / step + 1) * step)))
    u, v = np.array([math.cos(turn), math.sin(turn)]), np.array([-math.sin(turn), math.cos(turn)])
    lean = np.array(column.away) / column.away[2]
    deep = np.array(column.frame.z) * math.copysign(1.0, column.frame.z[0])
    stands = Frame.of(column.frame.o, deep, np.array(column.away)) if case.lean > EVEN else Frame((0.0, 0.0, 0.0))
    half_u, half_v = footprint(shape, stands, (*u.tolist(), 0.0), (*v.tolist(), 0.0), UP)
    offset = np.array([float(given.value("offset_x")), float(given.value("offset_y"))])
    u0, u1 = _edges(given, ("past_left", "past_right"), "plate_length", half_u, float(offset @ u), projection)
    v0, v1 = _edges(given, ("past_near", "past_far"), "plate_width", half_v, float(offset @ v), projection)
    length, width = u1 - u0, v1 - v0

    grout, levelling = float(given.value("grout")), float(given.value("levelling_plate"))
    foot = given.value("foot_means")
    concrete = {"top of concrete": 0.0, "underside of plate": -grout - levelling, "end of column": -grout - levelling - t}[foot]
    under = concrete + grout + levelling
    over = under + t
    # where a leaning column comes to stand
    foot_at = lean * over if case.lean > EVEN else np.array([0.0, 0.0, over])
    middle = foot_at[:2] + u * (u0 + u1) / 2 + v * (v0 + v1) / 2
    base = Frame((float(middle[0]), float(middle[1]), 0.0), (float(u[0]), float(u[1]), 0.0))
    gap_x, gap_y = (max(step, math.floor((side - 2 * inset) / (2 * step)) * 2 * step) for side in (length, width))
    xs, ys = (_centred(tuple(given.worked_out(name, (gap,)))) for name, gap in (("anchors_x", gap_x), ("anchors_y", gap_y)))
    if chair is not None and not given.has("anchors_y"):  # as many chairs as a flange has room for
        ys = _centred(tuple(given.worked_out("anchors_y", (gap,) if (gap := math.floor((chairing.face_width(shape) - chair.wide) / (2 * step)) * 2 * step) >= max(chair.wide, 4 * rod.d) else ())))
    everywhere = given.value("rods_where") == "at every crossing"
    spots = [(x, y) for x in xs for y in ys if everywhere or x in (xs[0], xs[-1]) or y in (ys[0], ys[-1])]
    near = given.value("rods_counted") == "near side"
    spots = _left(sorted(spots, key=lambda p: (p[0], p[1] if near else -p[1])), tuple(given.value("rods_off")))
    vented, bored = vents(column, int(given.value("vents")), float(given.value("vent_size")), given.value("vent_place") == "the web", foot_at)
    holes = [slot_or_round(x, y, wide, long, way) for x, y in spots]
    for x, y in vented:
        p = base.to_local(np.array([(x, y, 0.0)]))[0]
        size = float(given.value("vent_size"))
        holes.append(Hole(float(p[0]), float(p[1]), size, size, 0.0, "vent"))
    outline = Outline.rectangle(-length / 2, -width / 2, length / 2, width / 2)
    plate = Plate("base plate", outline, t, base.moved(z=under), str(given.value("plate_grade")), tuple(holes), ("base plate", "base plate"))
    plates = [plate]
    if levelling:
        plates.append(Plate("levelling plate", outline, levelling, base.moved(z=concrete + grout), plate.grade, tuple(slot_or_round(x, y, rod.hole, rod.hole, ROUND) for x, y in spots), ("base plate", "base plate")))
    template = float(given.value("template"))
    if template:
        if template > grout:
            raise NoFit(f"a rod template of {template:g} mm does not lie in {grout:g} mm of grout", right=f"at most {grout:g} mm, or more grout")
        clear = rod.d + (1.5875 if inch else 2.0)
        plates.append(Plate("rod template", outline, template, base.moved(z=concrete), plate.grade, tuple(slot_or_round(x, y, clear, clear, ROUND) for x, y in spots), ("base plate", "base plate")))
    world = base.to_world(np.array([(x, y, 0.0) for x, y in spots]))[:, :2].tolist()
    pad, pad_depth = bool(given.value("pad")), float(given.value("pad_depth"))
    rods = _rods(given, rod, washer, world, turn, (concrete, under - levelling, over + (chair.height if chair else 0.0)), pad_depth)
    stands = Frame(vec(foot_at), stands.x, stands.z)
    welds = leaned(foot_welds(shape, stands, flange, web, ("base plate", "supported member"), -math.copysign(1.0, column.frame.y[1]), column.frame), stands, UP)
    if (where := given.value("stiffeners")) != NONE:
        inwards = float(given.value("stiffener_in"))
        t_s = float(given.value("stiffener_thickness"))
        leg = given.rounded("stiffener_weld", min(max(0.5 * t_s, 4.7625 if inch else 5.0), 12.0), "weld leg")
        snipe = float(given.worked_out("stiffener_snipe", up(max(flange, web) + 5.0, step)))
        reach = room_of(shape, (u, v), (-u0 - inwards, u1 - inwards, -v0 - inwards, v1 - inwards))
        some, seams = foot_stiffeners(column, str(where), t_s, float(given.value("stiffener_height")), snipe, plate.grade, leg, foot_at, reach, 6.35 if inch else 5.0)
        plates += some
        welds += seams
    if chair is not None:
        snipe = up(max(flange, web) + 5.0, step)
        some, seams = chairing.chairs(column, world, over, chair.height, chair.top, chair.side, chair.gap, chair.wide, chair.past, chair.leg, snipe, wide, washer[0], plate.grade, Polygon([tuple(p[:2]) for p in base.to_world([(x, y, 0.0) for x, y, _ in outline.vertices])]))
        plates += some
        welds += seams
    depth = float(given.value("key_depth"))
    pieces: tuple[Piece, ...] = ()
    if depth > 0:
        if levelling:
            raise NoFit("a shear key under the base plate would pass the levelling plate", right="one of both")
        off = (float(given.value("key_off_x")), float(given.value("key_off_y")))
        angle = float(given.value("key_turn"))
        at = base.at(Frame((*off, under), (math.cos(angle), math.sin(angle), 0.0)))
        room = (length / 2 - abs(off[0]), width / 2 - abs(off[1]))
        key = shear_key(at, str(given.value("key_form")), depth, float(given.value("key_length")), float(given.value("key_thickness")), str(given.value("key_section")), plate.grade, web, room)
        plates += key.plates
        welds += key.welds
        pieces = key.pieces
    blocks = []
    pocket = float(given.value("key_pocket")) if depth > 0 else 0.0
    if pocket:
        blocks.append(_pocket(at, (*key.plates, *key.pieces), depth - (under - concrete), pocket, concrete - under, rods, house))
    if grout > 0:
        blocks.append(Block("grout", "grout", outline, grout, base.moved(z=concrete)))
    margin, grade = float(given.value("pad_margin")), str(given.value("concrete"))
    if pad:
        a, b = length / 2 + margin, width / 2 + margin
        blocks.append(Block("pad", grade, Outline.rectangle(-a, -b, a, b), pad_depth, base.moved(z=concrete - pad_depth)))
    forces = tuple((words, force) for name, words in FORCES if (force := float(given.value(name))))
    return Detail(
        "base plate", tuple(plates), (), tuple(welds), rods, tuple(blocks), (EndCut(0, vec(foot_at), UP),), (), tuple(bored),
        _dimensions(given, base, (length, width), (-u0, u1, -v0, v1), (half_u, half_v), (xs, ys), (concrete, under, over), rods), pieces, tuple(given.numbers.values()), _views(base, turn),
        _angles(foot_at, lean, base) if case.lean > 1e-3 else (), forces=forces,
    )  # fmt: skip


@dataclass(frozen=True)
class _Chair:
    """Measures of the chairs, mm: over all, of the top plate and of the sides, clear between them, past the rod, the fillets' leg, the top's width."""

    height: float
    top: float
    side: float
    gap: float
    past: float
    leg: float
    wide: float


def _chair(given: Given, case: Case, rod: AnchorSize, hole: float, step: float) -> _Chair:
    """The chairs' measures; raises NoFit where the column leans, or the holes are slots."""
    if case.lean > EVEN:
        raise NoFit(f"the column leans {math.degrees(case.lean):.1f}°; chairs stand plumb on their plate and against its face", right="a plumb column")
    if given.value("hole_shape") != ROUND:
        raise NoFit("a rod that goes up through a chair cannot move along a slot", right="round holes")
    side = float(given.value("chair_side"))
    leg = given.rounded("chair_weld", min(max(0.5 * side, 4.7625 if given.house.inch else 5.0), 12.0), "weld leg")
    gap = float(given.worked_out("chair_gap", chairing.least_gap(rod.d, hole, step)))
    past = float(given.worked_out("chair_past", up(1.5 * hole, step)))
    return _Chair(float(given.value("chair_height")), float(given.value("chair_top")), side, gap, past, leg, given.rounded("chair_width", chairing.apart(gap, side, leg), "plate width"))


def _holes(given: Given, rod: AnchorSize, step: float) -> tuple[float, float, str, tuple[float, float]]:
    """Width and length of the rods' holes in the plate, how they lie, and side and thickness of the plate washers over them."""
    wide, way = float(given.worked_out("hole_size", rod.hole)), str(given.value("hole_shape"))
    long = wide if way == ROUND else float(given.worked_out("slot_length", up(wide * 5 / 3, step)))
    if long < wide:
        raise NoFit(f"a slot {long:g} mm long is shorter than its width of {wide:g} mm", right="a longer slot, or round holes")
    cover = rod.washer_side if long <= wide and wide <= rod.hole else max(rod.washer_side, up(long + rod.d / 2, step))
    side = float(given.worked_out("washer_side", cover))
    return wide, long, way, (side, float(given.worked_out("washer_thickness", rod.washer_t)))


def _edges(given: Given, names: tuple[str, str], total: str, half: float, off: float, projection: float) -> tuple[float, float]:
    """The plate's edges along one of its axes, from the column's middle: symmetric about the offset, or where one is typed by itself."""
    typed = [given.has(n) for n in names]
    if not any(typed):
        whole = given.rounded(total, 2 * half + 2 * projection, "base plate")
        low, high = off - whole / 2, off + whole / 2
    else:
        if abs(off) > 1e-6:
            raise NoFit(f"an edge of its own and an offset of {off:.0f} mm are both typed", right="one of both")
        past = [float(given.value(n)) if t else projection for n, t in zip(names, typed, strict=True)]
        if all(typed):
            if given.has(total) and abs(float(given.value(total)) - sum(past) - 2 * half) > 0.05:
                raise NoFit(f"{given.value(total):.0f} mm is typed, but the edges make {sum(past) + 2 * half:.0f} mm", right="both edges, or one and the whole")
            given.worked_out(total, sum(past) + 2 * half)
        else:
            free = typed.index(False)
            past[free] = given.rounded(total, 2 * half + sum(past), "base plate") - 2 * half - past[1 - free]
        low, high = -half - past[0], half + past[1]
    if -low < half - 1e-6 or high < half - 1e-6:
        raise NoFit(f"the plate ends {max(half + low, half - high):.0f} mm inside the column", right="edges past the column on every side")
    return low, high


def _centred(gaps: tuple[float, ...]) -> list[float]:
    """Lines with these gaps, centred on 0: spacing stays centred whatever is typed."""
    out = [-sum(gaps) / 2]
    for gap in gaps:
        out.append(out[-1] + gap)
    return out


def _pocket(at: Frame, key: "tuple[Plate | Piece, ...]", deep: float, margin: float, top: float, rods: tuple[Rod, ...], house: HouseRules) -> Block:
    """The grouted pocket round a shear key; ``at`` lies on the plate's underside in the key's middle, ``deep`` is how far the key goes into
    the concrete, whose top is at ``top`` of ``at``.  Raises NoFit where the key stays out of the concrete or a rod stands in the pocket."""
    if deep <= 0:
        raise NoFit(f"the shear key ends {-deep:.0f} mm over the concrete, in the grout under the plate", right="a deeper key")
    corners = []
    for part in key:
        if isinstance(part, Plate):
            x0, y0, x1, y1 = part.outline.bounds
            points = [(x, y, z) for x in (x0, x1) for y in (y0, y1) for z in (0.0, part.thickness)]
        else:
            points = [(0.0, y, z) for y in (-part.shape.b / 2, part.shape.b / 2) for z in (-part.shape.reach, part.shape.reach)]
        corners += at.to_local(part.frame.to_world(points)).tolist()
    xs, ys = [c[0] for c in corners], [c[1] for c in corners]
    outline = Outline.rectangle(min(xs) - margin, min(ys) - margin, max(xs) + margin, max(ys) + margin)
    for r in rods:
        x, y, _ = at.to_local(np.array([(r.x, r.y, 0.0)]))[0].tolist()
        size = anchor_size(r.size).d
        x0, y0, x1, y1 = outline.bounds
        if x0 - size < x < x1 + size and y0 - size < y < y1 + size:
            raise NoFit(f"{r.name} would stand in the key's pocket, {x1 - x0:.0f} x {y1 - y0:.0f} mm", right="rods further out, a smaller key, or less of a pocket")
    return Block("key pocket", "grout", outline, deep + margin, at.moved(z=top - deep - margin))


def _left(spots: list[tuple[float, float]], off: tuple[int, ...]) -> list[tuple[float, float]]:
    """The rods that are left; raises NoFit where a number is none of theirs, or none are left."""
    if wrong := [n for n in off if n > len(spots)]:
        raise NoFit(f"there is no rod {wrong[0]}", right=f"numbers from 1 to {len(spots)}")
    left = [p for i, p in enumerate(spots, 1) if i not in off]
    if not left:
        raise NoFit(f"all {len(spots)} rods are left out", right="at least one rod")
    return left


def _rods(
    given: Given, rod: AnchorSize, washer: tuple[float, float], spots: list[list[float]], turn: float, heights: tuple[float, float, float], pad_depth: float,
) -> tuple[Rod, ...]:  # fmt: skip
    concrete, under, over = heights
    nuts = 2 if given.value("lock_nut") else 1
    need = washer[1] + nuts * rod.nut_height + 2 * rod.pitch
    step = 6.35 if given.house.inch else 5.0
    projection = float(given.worked_out("rod_projection", math.ceil(need / step - 1e-9) * step))
    top_nut = over + washer[1]
    levels = [top_nut + i * rod.nut_height for i in range(nuts)]
    washers = [over]
    if given.value("levelling_nut"):
        washers.append(under - washer[1])
        levels.append(under - washer[1] - rod.nut_height)
    grade, foot = str(given.value("anchor_grade")), given.value("rod_foot")
    bottom = concrete - float(given.value("embedment"))
    if foot == "through":
        face = concrete - pad_depth if given.value("pad") else bottom
        washers.append(face - washer[1])
        levels.append(face - washer[1] - rod.nut_height)
        bottom = face - math.ceil(need / step - 1e-9) * step
    ways = hooks(foot, spots, rod.d, turn)
    return tuple(Rod(f"rod {i + 1}", rod.name, grade, x, y, bottom, over + projection, foot, tuple(levels), tuple(washers), washer, turn, ways[i]) for i, (x, y) in enumerate(spots))


def _angles(foot: Array, lean: Array, base: Frame) -> tuple[Angle, ...]:
    """A leaning column against its plate, in each view that shows it lean."""
    out = []
    for view, way in (("front", base.x), ("side", base.y)):
        along = float(lean @ np.array(way))
        if abs(along) > 1e-3:
            out.append(Angle(view, vec(foot), vec(foot + 100 * lean), vec(foot + 100 * np.array(way) * math.copysign(1.0, along))))
    return tuple(out)


def _views(base: Frame, turn: float) -> tuple[SheetView, ...]:
    """Front, side and plan, square to the plate."""
    if not turn:
        return STANDARD_VIEWS
    x, y, z = (vec(a) for a in (base.x, base.y, base.z))
    frames = (Frame((0.0, 0.0, 0.0), x, vec(-np.array(y))), Frame((0.0, 0.0, 0.0), y, x), Frame((0.0, 0.0, 0.0), x, z))
    return tuple(SheetView(v.name, v.title, f) for v, f in zip(STANDARD_VIEWS, frames, strict=True))


def _dimensions(
    given: Given, base: Frame, size: tuple[float, float], edges: tuple[float, float, float, float], half: tuple[float, float], lines: tuple[list[float], list[float]],
    heights: tuple[float, float, float], rods: tuple[Rod, ...],
) -> tuple[Dimension, ...]:  # fmt: skip
    x0, y0, x1, y1 = -size[0] / 2, -size[1] / 2, size[0] / 2, size[1] / 2
    concrete, under, over = heights
    xs, ys = lines
    top = rods[0].top
    high = float(given.value("chair_height")) if given.value("chairs") else 0.0
    # the column's middle on the plate
    cx, cy = x0 + edges[0], y0 + edges[2]

    def chain(view: str, side: str, row: int, points: list[Vec3], names: tuple[str, ...]) -> Dimension:
        return Dimension(view, side, row, tuple(vec(p) for p in base.to_world(np.array(points))), names)  # type: ignore[arg-type]

    def past(*names: str) -> tuple[str, ...]:
        one, two = (n if given.has(n) else "projection" for n in names)
        return (one, "", two)

    out = [
        chain("plan", "bottom", 0, [(x0, y0, over)] + [(x, ys[0], over) for x in xs] + [(x1, y0, over)], ("",) + ("anchors_x",) * (len(xs) - 1) + ("",)),
        chain("plan", "bottom", 1, [(x0, y0, over), (x1, y0, over)], ("plate_length",)),
        chain("plan", "right", 0, [(x1, y1, over)] + [(xs[-1], y, over) for y in ys[::-1]] + [(x1, y0, over)], ("",) + ("anchors_y",) * (len(ys) - 1) + ("",)),
        chain("plan", "right", 1, [(x1, y1, over), (x1, y0, over)], ("plate_width",)),
        chain("front", "right", 0, [(x1, 0.0, over), (x1, 0.0, under)] + ([(x1, 0.0, concrete)] if under > concrete else []), ("plate_thickness", "grout" if given.value("levelling_plate") == 0 else "")[: 1 + (under > concrete)]),
        chain("front", "left", 0, [(xs[0], 0.0, top), (x0, 0.0, over + high), *([(x0, 0.0, over)] if high else [])], ("rod_projection", "chair_height")[: 1 + (high > 0)]),
        chain("side", "bottom", 0, [(0.0, y0, concrete), (0.0, cy - half[1], over), (0.0, cy + half[1], over), (0.0, y1, concrete)], past("past_near", "past_far")),
    ]  # fmt: skip
    if given.has("past_left") or given.has("past_right"):
        out.append(chain("front", "bottom", 0, [(x0, 0.0, concrete), (cx - half[0], 0.0, over), (cx + half[0], 0.0, over), (x1, 0.0, concrete)], past("past_left", "past_right")))
    if given.value("stiffeners") != NONE:
        stiffened = float(given.value("stiffener_height"))
        out.append(chain("side", "left", 0, [(0.0, y0, over), (0.0, y0, over + stiffened)], ("stiffener_height",)))
    if (depth := float(given.value("key_depth"))) > 0:
        out.append(chain("side", "right", 0, [(0.0, y1, under), (0.0, y1, under - depth)], ("key_depth",)))
    return tuple(out)


FAMILY = Family(
    "base-plate", "Base plate", ("column base", "foot plate", "anchor rods", "holding down bolts", "shear key", "chair"), ("column foot",), SETTINGS, fits, build,
    {
        "rod-edge": ("projection", "chair_past", "anchors_x", "anchors_y", "plate_length", "plate_width"),
        "rod-spacing": ("anchors_x", "anchors_y"),
        "rod-hole": ("hole_size",),
        "rod-cover": ("washer_side",),
        "rod-thread": ("rod_projection",),
        "rod-clear": ("anchors_x", "anchors_y", "projection"),
        "fillet-throat": ("flange_weld", "web_weld", "stiffener_weld", "chair_weld"),
        "fillet-leg-least": ("flange_weld", "web_weld", "stiffener_weld", "chair_weld"),
        "fillet-leg-greatest": ("flange_weld", "web_weld"),
        "fillet-length": ("web_weld", "flange_weld", "stiffener_weld"),
        "plate-stock": ("plate_thickness", "key_thickness", "stiffener_thickness", "levelling_plate", "template", "chair_top", "chair_side"),
        "plate-step": ("plate_length", "plate_width", "key_length", "key_depth"),
        "clash": ("key_turn", "stiffener_in", "anchors_x", "anchors_y"),
    },
    situations=("feet",), example=at_end(a_column("UC 203x203x46"), end="start"),
)  # fmt: skip
