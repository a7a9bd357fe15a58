"""Splice: two members end to end, held by cover plates on flanges and web, with packs where their faces differ.

Joint frame: origin where the members' ends meet, x along the first member.  The plates are laid in a frame of their own: x along the
first member, z along its depth, so that a column's and a beam's splice are the same.
"""

import math
from dataclasses import dataclass, field

import numpy as np

from tincleat.catalogue.fasteners import BoltSize, bolt_size
from tincleat.details.assembled import role_words
from tincleat.details.parts import Bolts, Detail, Dimension, Hole, Plate, SheetView, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import BOLT_GRADES, BOLT_SIZES, HOLES, STEEL_GRADES, Family, Given, Setting, bolt_choice, rounded
from tincleat.families.example import a_column, at_end
from tincleat.families.in_line import STRAIGHT, Side, in_line, line_of, sides_of
from tincleat.families.shear import bolt_that
from tincleat.geometry.frames import Frame, crossed, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case
from tincleat.kit.drill import drilled
from tincleat.kit.foot import foot_welds, legs_round
from tincleat.kit.layout import centred, down, fill, up
from tincleat.kit.packs import packs
from tincleat.project.entities import HouseRules
from tincleat.standards.rulesets import rules_of
from tincleat.steel.cuts import EndCut, MemberHole

OUTER, BOTH, NONE = "outer", "outer and inner", "none"

SETTINGS = (
    Setting("gap", "Gap", "length", "Ends", None, "Between the two ends; 0 where columns bear on each other.", 0, 200),
    Setting("division", "Division plate", "length", "Ends", 0.0, "Plate between two ends of unequal columns, welded to the lower one; 0 is none.", 0, 100),
    Setting("flange_covers", "Flange covers", "choice", "Flanges", OUTER, "Plates on the flanges' outer faces, or inside too.", choices=(OUTER, BOTH, NONE)),
    Setting("flange_thickness", "Flange cover thickness", "length", "Flanges", None, "Thickness of the flange covers; the thicker flange on plate stock if not typed, half of it where there are inner ones.", 5, 100),
    Setting("flange_width", "Flange cover width", "length", "Flanges", None, "Width of the outer covers; the narrower flange if not typed.", 40, 1000),
    Setting("flange_pitch", "Flange bolt pitch", "spacings", "Flanges", None, "Spacings of the rows along the flange on each side of the gap; two rows if not typed.", 0, 1000),
    Setting("gauge", "Flange gauge", "length", "Flanges", None, "Between the two lines of bolts in each flange.", 30, 1000),
    Setting("web_covers", "Web covers", "choice", "Web", None, "Plates on the web's faces; on both if not typed, on none beside a division plate.", choices=("near side", "far side", "both sides", "none"), handed=True),
    Setting("web_thickness", "Web cover thickness", "length", "Web", None, "Thickness of the web covers; on two sides half the thicker web, but 6 mm, on plate stock if not typed.", 3, 100),
    Setting("web_pitch", "Web bolt pitch", "spacings", "Web", None, "Spacings down the web; up to three rows, or four in deep webs, if not typed.", 0, 1000),
    Setting("web_lines", "Web lines", "spacings", "Web", lambda h: (), "Further lines of bolts along the member on each side of the gap, such as 70; one line if empty.", 0, 500),
    Setting("end_distance", "Member end distance", "length", "Bolts", None, "From a member's end to its first bolts.", 15, 300),
    Setting("edge", "Cover edge distance", "length", "Bolts", None, "From the last bolts to the covers' ends and edges.", 15, 300),
    Setting("bolt", "Bolt", "choice", "Bolts", bolt_choice, "Size of the bolts.", choices=BOLT_SIZES),
    Setting("bolt_grade", "Bolt grade", "choice", "Bolts", lambda h: h.bolt_grade, "Strength class of the bolts.", choices=BOLT_GRADES),
    Setting("hole", "Holes in covers", "choice", "Bolts", "normal", "Kind of hole in the covers; slots run along the member.", choices=HOLES),
    Setting("grade", "Plate grade", "choice", "Bolts", lambda h: h.plate_grade, "Steel grade of covers, packs and division plate.", choices=STEEL_GRADES),
    Setting("division_weld", "Division plate weld leg", "length", "Welds", None, "Fillets round the lower column's end.", 3, 30),
)  # fmt: skip


@dataclass
class _Made:
    plates: list[Plate] = field(default_factory=list)
    groups: list[Bolts] = field(default_factory=list)
    holes: list[MemberHole] = field(default_factory=list)
    welds: list[Weld] = field(default_factory=list)


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless two I-sections or channels meet end to end on one line, webs in one plane."""
    if case.kind not in FAMILY.kinds or len(case.members) < 2:
        raise NoFit(f"covers join two members end to end; this is a {case.kind}", right="a splice of two beams, rafters or columns")
    for m in case.members[:2]:
        if m.shape.shape not in ("I", "C"):
            raise NoFit(f"{m.shape.name} is a {m.shape.shape} section; covers go on flanges and webs", right="I-sections or channels")
    one, two = in_line(case, STRAIGHT)
    if min(one.outer(1.0), two.outer(1.0)) - max(one.outer(-1.0), two.outer(-1.0)) < 0.5 * max(one.shape.h, two.shape.h):
        raise NoFit(f"{one.shape.name} and {two.shape.name} overlap by less than half their depth", right="members on one line")


def build(case: Case, given: Given) -> Detail:
    """Covers, packs, bolts, holes, the ends cut back, a division plate."""
    house = given.house
    at = line_of(case)
    sides = sides_of(case, at)
    step = 6.35 if house.inch else 5.0
    size = _bolt(given, sides, step)
    hole = house.hole(size.name, str(given.value("hole")))
    least = rules_of(house).edge_least(size, Hole(0, 0, *hole), False).value
    division = float(given.value("division"))
    usual = 0.0 if case.kind == "column splice" else 9.525 if house.inch else 10.0
    gap = float(given.worked_out("gap", division or usual))
    if division and given.has("gap") and abs(gap - division) > 1e-6:
        raise NoFit(f"a gap of {gap:.1f} mm does not hold a division plate {division:.1f} mm thick", right=f"a gap of {division:g} mm, or none typed")
    usual_end = up(max(least, 1.75 * size.d), step)
    first, edge = float(given.worked_out("end_distance", usual_end)), float(given.worked_out("edge", usual_end))
    made = _Made()
    tapered = next((x.shape for x in sides if x.shape.slope), None)
    if tapered and given.value("flange_covers") == BOTH:
        raise NoFit(f"the inner faces of {tapered.name}'s flanges slope {math.degrees(math.atan(tapered.slope)):.1f}°: a flat cover does not lie on them", right="outer covers, with taper washers under the nuts")
    inner_t = _flanges(case, given, at, sides, gap, first, edge, size, hole, made) if given.value("flange_covers") != NONE else 0.0
    covers = str(given.worked_out("web_covers", "none" if division else "both sides"))
    if division and covers != "none":
        raise NoFit("a web cover does not pass the division plate", right="web covers 'none'")
    if covers != "none":
        _web(case, given, at, sides, covers, gap, first, edge, size, hole, inner_t, made)
    if not made.plates:
        raise NoFit("without flange and web covers nothing holds the members", right="covers on flanges or web")
    if division:
        _division(given, at, sides, division, made)
    ends = tuple(EndCut(x.number, at.point((x.way * gap / 2, 0.0, 0.0)), vec(at.turn((x.way, 0.0, 0.0)))) for x in sides)
    upright = case.kind == "column splice"
    return Detail(
        "splice", tuple(made.plates), tuple(made.groups), tuple(made.welds), ends=ends, holes=tuple(made.holes),
        dimensions=_dimensions(made, gap, upright), numbers=tuple(given.numbers.values()), views=_views(at, upright),
    )  # fmt: skip


def _nearest(sides: tuple[Side, Side], size: BoltSize) -> float:
    """How near bolts in a flange may stand to the middle of an I-section's web or the back of a channel's, mm: washer and head clear of the root."""
    half = max(size.washer_d, 1.16 * size.head_af) / 2
    return max((x.shape.tw if x.shape.shape == "C" else x.shape.tw / 2) + max(x.shape.r1 + half, size.clear) for x in sides)


def _bolt(given: Given, sides: tuple[Side, Side], step: float) -> BoltSize:
    """The bolt typed or the office's, or the next smaller one that the narrower flange holds between root and edge."""
    if given.value("flange_covers") == NONE:
        return bolt_size(str(given.value("bolt")), given.house.tighten_room)
    narrow = min(x.shape.b for x in sides)

    def holds(size: BoltSize, least: float) -> bool:
        if sides[0].shape.shape == "C":
            return up(_nearest(sides, size), step) + least <= narrow + 1e-6
        return up(2 * _nearest(sides, size), step) / 2 + least <= narrow / 2 + 1e-6

    return bolt_that(given, holds, f"the flange is {narrow:.0f} mm wide")


COVER = ("cover plate length", "cover plate width")  # along the splice and across: what covers are rounded as


def _rounded_half(given: Given, half: float, kind: str) -> float:
    """Half an extent of a cover brought to the house rule of its kind by more beyond its outer bolts, unless that is typed."""
    return half if given.has("edge") else rounded(2 * half, given.house.rounding_of(kind)[1], given.house.flats) / 2


def _stock(house: HouseRules, wanted: float) -> float:
    return next((p for p in sorted(house.plates) if p >= wanted - 0.3), wanted)


def _flanges(
    case: Case, given: Given, at: Frame, sides: tuple[Side, Side], gap: float, first: float, edge: float, size: BoltSize, hole: tuple[float, float], made: _Made
) -> float:
    """Covers on both flanges; the thickness of the inner ones."""
    house, step = given.house, 6.35 if given.house.inch else 5.0
    both = given.value("flange_covers") == BOTH
    a, b = (x.shape for x in sides)
    channel = a.shape == "C"
    t = float(given.worked_out("flange_thickness", _stock(house, max(a.tf, b.tf) * (0.55 if both else 1.0))))
    width = given.rounded("flange_width", down(min(a.b, b.b), step), COVER[1])
    pitch = tuple(given.worked_out("flange_pitch", (up(3 * size.d, step) if not house.inch else 76.2,)))
    narrow = min(a.b, b.b)
    if channel:
        back = _nearest(sides, size)
        gauge = float(given.worked_out("gauge", max(up(back, step), min(round(0.55 * narrow / step) * step, down(narrow - edge, step)))))
        lines = [_from_back(sides[0], gauge)]
        middle = sides[0].y + 0.0
    else:
        least = up(2 * _nearest(sides, size), step)
        apart = down(rules_of(house).spacing_greatest(min(t, a.tf, b.tf)).value, step) if house.exposed else math.inf
        gauge = float(given.worked_out("gauge", max(least, min(round(0.55 * narrow / step) * step, down(narrow - 2 * edge, step), apart))))
        middle = sides[0].y
        lines = centred((gauge,), middle)
    need = max(abs(w - middle) for w in lines) + edge
    if narrow / 2 < need - edge + rules_of(house).edge_least(size, Hole(0, 0, *hole), False).value - 1e-6:
        raise NoFit(f"flanges {narrow:.0f} mm wide do not hold {size.name} {gauge:.0f} mm apart", right="smaller bolts, or web covers alone")
    rows = [gap / 2 + first]
    for p in pitch:
        rows.append(rows[-1] + p)
    reach = _rounded_half(given, rows[-1] + edge, COVER[0])
    kinds = tuple("" if given.has(name) else kind for name, kind in zip(("edge", "flange_width"), COVER, strict=True))
    plain, _ = house.hole(size.name, "normal")
    grade, kind = str(given.value("grade")), given.value("hole")
    for s, label in ((1.0, "top"), (-1.0, "bottom")):
        face = max((x.outer(s) for x in sides), key=lambda v: s * v)
        made.plates.append(_level(at, f"{label} cover", face, s, t, (-reach, reach), (middle - width / 2, middle + width / 2), grade, [(x * w_, y) for w_ in (1.0, -1.0) for x in rows for y in lines], hole, kind, kinds))
        for x in sides:
            span = (gap / 2, reach) if x.way > 0 else (-reach, -gap / 2)
            for name, z, thick in _filled(f"{label} pack", x.outer(s), s, s * (face - x.outer(s)), house):
                made.plates.append(_level(at, name, z, s, thick, span, (middle - width / 2, middle + width / 2), grade, [(x.way * r, y) for r in rows for y in lines], hole, kind))
        if both:
            _inside(given, at, sides, s, label, t, gap, rows, reach, lines, middle, edge, hole, made)
        points = [at.point((w_ * r, y, face)) for w_ in (1.0, -1.0) for r in rows for y in lines]
        made.groups.append(Bolts(f"{label} flange bolts", size.name, str(given.value("bolt_grade")), tuple(points), vec(at.turn((0.0, 0.0, -s))), at.x, kind))
        for x in sides:
            mine = [at.to_world([(x.way * r, y, x.outer(s) - s * x.shape.tf / 2)])[0] for r in rows for y in lines]
            made.holes += drilled(case, x.number, mine, at.z, plain, plain, at.x)
    return t if both else 0.0


def _filled(name: str, face: float, s: float, difference: float, house: HouseRules) -> list[tuple[str, float, float]]:
    """Packs from a face on towards side ``s`` that fill a difference: name, where each lies, thickness."""
    some = packs(difference, house)
    out = []
    for i, t in enumerate(some, 1):
        out.append((name if len(some) == 1 else f"{name} {i}", face, t))
        face += s * t
    return out


def _from_back(x: Side, gauge: float) -> float:
    """Across the splice: a line ``gauge`` mm from the back of a channel's web."""
    web = next(e for e in x.shape.elements if e.name == "web")
    side = math.copysign(1.0, web.at) * x.turn
    return x.y + side * (x.shape.b / 2 - gauge)


def _inside(
    given: Given, at: Frame, sides: tuple[Side, Side], s: float, label: str, t: float, gap: float, rows: list[float], reach: float, lines: list[float], middle: float, edge: float,
    hole: tuple[float, float], made: _Made,
) -> None:  # fmt: skip
    """Covers under a flange, one on each side of the web (a channel has one), with packs where the thicknesses differ."""
    grade, kind = str(given.value("grade")), given.value("hole")
    face = min((x.inner(s) for x in sides), key=lambda v: s * v)
    step = 6.35 if given.house.inch else 5.0
    narrow = min(down(x.shape.b, step) for x in sides)
    room = max(x.shape.tw / 2 + x.shape.r1 for x in sides) + 1.0
    for line in lines:
        side = math.copysign(1.0, line - middle) if len(lines) > 1 else 0.0
        if side:
            wide = down(narrow / 2 - room, step)
            span = sorted((middle + side * (narrow / 2 - wide), middle + side * narrow / 2))
        else:
            toe = math.copysign(1.0, line - (sides[0].web(1.0) + sides[0].web(-1.0)) / 2)
            web = max(x.web(toe) * toe for x in sides) * toe
            end = middle + toe * narrow / 2
            wide = down(abs(end - web) - max(x.shape.r1 for x in sides) - 1.0, step)
            span = sorted((end - toe * wide, end))
        if min(line - span[0], span[1] - line) < edge * 0.75:
            raise NoFit(f"an inner cover {span[1] - span[0]:.0f} mm wide does not hold the bolts", right="outer covers, smaller bolts, or another gauge")
        name = f"{label} inner cover" + ({-1.0: " near", 1.0: " far"}.get(side, ""))
        kinds = ("" if given.has("edge") else COVER[0], "")
        made.plates.append(_level(at, name, face - s * t, s, t, (-reach, reach), (span[0], span[1]), grade, [(w_ * r, line) for w_ in (1.0, -1.0) for r in rows], hole, kind, kinds))
        for x in sides:
            along = (gap / 2, reach) if x.way > 0 else (-reach, -gap / 2)
            for pack, z, thick in _filled(name.replace("cover", "pack"), face, s, s * (x.inner(s) - face), given.house):
                made.plates.append(_level(at, pack, z, s, thick, along, (span[0], span[1]), grade, [(x.way * r, line) for r in rows], hole, kind))


def _level(at: Frame, name: str, z: float, s: float, t: float, x: tuple[float, float], y: tuple[float, float], grade: str, spots: list[tuple[float, float]], hole: tuple[float, float], kind: str, kinds: tuple[str, ...] = ("", "")) -> Plate:
    """A plate flat on a depth ``z``, growing towards side ``s``; spots of holes along and across."""
    frame = at.at(Frame((x[0], y[0] if s > 0 else y[1], z), (1.0, 0.0, 0.0), (0.0, 0.0, s)))
    holes = tuple(Hole(u - x[0], (v - y[0]) if s > 0 else (y[1] - v), *hole, 0.0, kind) for u, v in spots)  # type: ignore[arg-type]
    return Plate(name, Outline.rectangle(0.0, 0.0, x[1] - x[0], y[1] - y[0]), t, frame, grade, holes, ("pack", "") if "pack" in name else (kinds[0], kinds[1]))


def _web(
    case: Case, given: Given, at: Frame, sides: tuple[Side, Side], covers: str, gap: float, first: float, edge: float, size: BoltSize, hole: tuple[float, float], inner_t: float, made: _Made
) -> None:
    """Covers on the web, their rows in what is clear of both members' roots and of inner flange covers with their nuts."""
    house, step = given.house, 6.35 if given.house.inch else 5.0
    wanted = {"near side": (-1.0,), "far side": (1.0,), "both sides": (-1.0, 1.0)}[covers]
    nuts = inner_t + size.nut_height + 2 * size.washer_t + size.pitch if inner_t else 0.0
    top = min(x.inner(1.0) for x in sides) - max(max(x.shape.r1 for x in sides) + 1.0, inner_t and inner_t + 5.0)
    bottom = max(x.inner(-1.0) for x in sides) + max(max(x.shape.r1 for x in sides) + 1.0, inner_t and inner_t + 5.0)
    clear = (bottom + edge + max(0.0, nuts - edge), top - edge - max(0.0, nuts - edge))
    thick = max(x.shape.tw for x in sides)
    t = float(given.worked_out("web_thickness", _stock(house, max(thick / len(wanted) * (1.1 if len(wanted) > 1 else 1.0), 6.0))))
    most = rules_of(house).spacing_greatest(min(t, *(x.shape.tw for x in sides)) if len(wanted) == 1 else t).value if house.exposed else math.inf
    usual = min(up(3.5 * size.d, step) if not house.inch else 76.2, down(most, step))
    room = clear[1] - clear[0]
    pitch = tuple(given.worked_out("web_pitch", fill(room, min(usual, down(room, step)), 2 + int(room > 400.0)) if room >= 3 * size.d else ()))
    middle = (clear[0] + clear[1]) / 2
    rows = centred(pitch, middle)
    if rows[-1] > top - edge * 0.6 or rows[0] < bottom + edge * 0.6:
        raise NoFit(f"the clear web of {top - bottom:.0f} mm does not hold rows over {rows[-1] - rows[0]:.0f} mm", right=f"at most {max(0.0, top - bottom - 2 * edge):.0f} mm")
    xs = [gap / 2 + first]
    for more in tuple(given.value("web_lines")):
        xs.append(xs[-1] + more)
    reach = _rounded_half(given, xs[-1] + edge, COVER[0])
    half = _rounded_half(given, (rows[-1] - rows[0]) / 2 + edge, COVER[1])
    kinds = ("", "") if given.has("edge") else COVER
    grade, kind = str(given.value("grade")), given.value("hole")
    span = (middle - half, middle + half)
    for s in wanted:
        name = {-1.0: "near", 1.0: "far"}[s]
        face = max((x.web(s) for x in sides), key=lambda v: s * v)
        made.plates.append(_upright(at, f"{name} web cover", face, s, t, (-reach, reach), span, grade, [(w_ * x, z) for w_ in (1.0, -1.0) for x in xs for z in rows], hole, kind, kinds))
        for x in sides:
            along = (gap / 2, reach) if x.way > 0 else (-reach, -gap / 2)
            for pack, y, thick in _filled(f"{name} web pack", x.web(s), s, s * (face - x.web(s)), house):
                made.plates.append(_upright(at, pack, y, s, thick, along, span, grade, [(x.way * r, z) for r in xs for z in rows], hole, kind))
    head = wanted[0]
    across = (sides[0].web(1.0) + sides[0].web(-1.0)) / 2
    plain, _ = house.hole(size.name, "normal")
    points = [at.point((w_ * x, across, z)) for w_ in (1.0, -1.0) for x in xs for z in rows]
    made.groups.append(Bolts("web bolts", size.name, str(given.value("bolt_grade")), tuple(points), vec(at.turn((0.0, -head, 0.0))), at.x, kind))
    for side in sides:
        mine = [at.to_world([(side.way * x, (side.web(1.0) + side.web(-1.0)) / 2, z)])[0] for x in xs for z in rows]
        made.holes += drilled(case, side.number, mine, at.y, plain, plain, at.x)


def _upright(at: Frame, name: str, y: float, s: float, t: float, x: tuple[float, float], z: tuple[float, float], grade: str, spots: list[tuple[float, float]], hole: tuple[float, float], kind: str, kinds: tuple[str, ...] = ("", "")) -> Plate:
    """A plate on a face ``y`` of the web, growing towards side ``s``; spots of holes along and up."""
    frame = at.at(Frame((x[0], y, z[1] if s > 0 else z[0]), (1.0, 0.0, 0.0), (0.0, s, 0.0)))
    holes = tuple(Hole(u - x[0], (z[1] - v) if s > 0 else (v - z[0]), *hole, 0.0, kind) for u, v in spots)  # type: ignore[arg-type]
    return Plate(name, Outline.rectangle(0.0, 0.0, x[1] - x[0], z[1] - z[0]), t, frame, grade, holes, ("pack", "") if "pack" in name else (kinds[0], kinds[1]))


def _division(given: Given, at: Frame, sides: tuple[Side, Side], t: float, made: _Made) -> None:
    """The plate between the ends, as large as the larger of both, welded to the member on the far side of the splice."""
    low, high = min(x.outer(-1.0) for x in sides), max(x.outer(1.0) for x in sides)
    wide = max(x.shape.b for x in sides)
    y = sides[1].y
    frame = at.at(Frame((-t / 2, y, 0.0), (0.0, 0.0, 1.0), (1.0, 0.0, 0.0)))
    made.plates.append(Plate("division plate", Outline.rectangle(low, -wide / 2, high, wide / 2), t, frame, str(given.value("grade")), (), ("", "")))
    x = sides[1]
    flange, web = legs_round(x.shape, t, given.house.inch)
    leg = given.rounded("division_weld", min(flange, web), "weld leg")
    foot = at.at(Frame((-t / 2, x.y, x.z), (0.0, 0.0, 1.0), (-1.0, 0.0, 0.0)))
    # the plate ends flush with the flanges, the covers run past it: it is welded inside
    runs = foot_welds(x.shape, foot, leg, leg, ("division plate", role_words(x.member.role)), 1.0 if x.turn < 0 else -1.0)
    made.welds += [w for w in runs if "outer face" not in w.name and "tip" not in w.name]


def _views(at: Frame, upright: bool) -> tuple[SheetView, ...]:
    x, y, z = (np.array(v) for v in (at.x, at.y, at.z))
    right, up_ = (z, x) if upright else (x, z)
    front = crossed(right, up_)
    return (
        SheetView("front", "Web", Frame.of(at.origin, right, front)),
        SheetView("side", "Section", Frame.of(at.origin, y if not upright else -y, x)),
        SheetView("plan", "Flange", Frame.of(at.origin, x if not upright else -y, z)),
    )


def _dimensions(made: _Made, gap: float, upright: bool) -> tuple[Dimension, ...]:
    """Chains along and across one web cover and the top flange cover."""
    out: list[Dimension] = []
    web = next((p for p in made.plates if p.name.endswith("web cover")), None)
    top = next((p for p in made.plates if p.name == "top cover"), None)
    for plate, view, (along, across) in ((web, "front", ("web_lines", "web_pitch")), (top, "plan", ("flange_pitch", "gauge"))):
        if plate is None:
            continue
        x1, y1 = plate.outline.bounds[2:]
        us, vs = sorted({round(h.x, 4) for h in plate.holes if h.x > x1 / 2}), sorted({round(h.y, 4) for h in plate.holes})
        ends = "edge" if view == "front" else ""
        runs = ((x1 / 2 - gap / 2, x1 / 2 + gap / 2, *us, x1), ("gap", "end_distance", *((along,) * (len(us) - 1)), "edge")) if gap > 0 else ((x1 / 2, *us, x1), ("end_distance", *((along,) * (len(us) - 1)), "edge"))
        rises = ((0.0, *vs, y1), (ends, *((across,) * (len(vs) - 1)), ends))
        for (spots, names), level in ((runs, True), (rises, False)):
            points = plate.frame.to_world([(v, 0.0, plate.thickness) if level else (x1, v, plate.thickness) for v in spots])
            out.append(Dimension(view, "bottom" if level is not upright else "right", 0, tuple(vec(p) for p in points), names))
    return tuple(out)


FAMILY = Family(
    "splice-covers", "Cover splice", ("beam splice", "column splice", "cover plates", "fish plates", "bolted splice"), ("splice", "column splice"), SETTINGS, fits, build,
    {
        "edge-least": ("end_distance", "edge", "gauge"), "edge-greatest": ("edge", "end_distance", "flange_width", "gauge"), "spacing-least": ("flange_pitch", "web_pitch", "web_lines"),
        "spacing-greatest": ("flange_pitch", "web_pitch", "gauge"), "plate-stock": ("flange_thickness", "web_thickness", "division"), "bolt-room": ("gauge",), "fillet-throat": ("division_weld",),
        "fillet-leg-least": ("division_weld",),
    },
    situations=("splices",), example=at_end(a_column("UC 254x254x89", high=3000.0), a_column("UC 254x254x73", low=3000.0), end="start"),
)  # fmt: skip
