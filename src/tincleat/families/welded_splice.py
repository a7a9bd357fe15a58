"""Welded splice: two like I-sections end to end, flanges and web welded through on site, with backing bars and access holes.

Joint frame: origin where the members' ends meet.  Everything is laid in the splice's own frame: x along the first member, whose edges
are bevelled, z along its depth; the second member's end is square.
"""

import math
from collections.abc import Callable

import numpy as np

from tincleat.details.assembled import role_words
from tincleat.details.parts import Detail, Dimension, Plate, SheetView, Weld
from tincleat.details.parts import Side as Side_
from tincleat.errors import NoFit
from tincleat.families.declare import STEEL_GRADES, Family, Given, Setting
from tincleat.families.example import a_member, at_end
from tincleat.families.in_line import STRAIGHT, Side, in_line, line_of
from tincleat.geometry.frames import Frame, Vec3, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case
from tincleat.kit.access import access_hole, access_usual, across
from tincleat.project.entities import HouseRules
from tincleat.steel.cuts import EndCut, Notch

LIKE = 1.0  # mm that the two sections may differ in any size
ABOVE, OUTSIDE = "from above", "from outside"

SETTINGS = (
    Setting("root_opening", "Root opening", "length", "Grooves", 10.0, "Between the two ends, at the root.", 3, 25, inches=9.525),
    Setting("bevel", "Bevel", "angle", "Grooves", math.radians(30), "Of the first member's flanges and web, against its end.", math.radians(30), math.radians(60)),
    Setting("flanges", "Flanges welded", "choice", "Grooves", None, "Both from above, as a beam lies; or from outside, as a column stands, which is usual for one if not typed.", choices=(ABOVE, OUTSIDE)),
    Setting("web_side", "Web welded from", "choice", "Grooves", "near side", "Which side the web's groove opens to.", choices=("near side", "far side"), handed=True),
    Setting("backing", "Backing thickness", "length", "Backing", 10.0, "Of the bars behind the welds; 0 is none.", 0, 30, inches=9.525),
    Setting("backing_width", "Backing width", "length", "Backing", 40.0, "Of the bars, along the members.", 15, 100, inches=38.1),
    Setting("backing_past", "Backing past the flange", "length", "Backing", 10.0, "How far the flanges' bars reach past them on each side.", 0, 100, inches=12.7),
    Setting("hole_height", "Access hole height", "length", "Access holes", None, "From the flange's inner face; the web's thickness, or what the backing asks for, if not typed.", 10, 80),
    Setting("hole_length", "Access hole length", "length", "Access holes", None, "From the bevel's foot; one and a half times the web's thickness if not typed.", 20, 150),
    Setting("hole_radius", "Access hole radius", "length", "Access holes", None, "Of the holes' inner corner.", 3, 40),
    Setting("grade", "Grade", "choice", "Backing", lambda h: h.plate_grade, "Steel grade of the backing.", choices=STEEL_GRADES),
)  # fmt: skip


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless two like I-sections with even flanges meet end to end on one line."""
    if case.kind not in FAMILY.kinds or len(case.members) < 2:
        raise NoFit(f"a welded splice joins two members end to end; this is a {case.kind}", right="a splice of two beams, rafters or columns")
    for m in case.members[:2]:
        if m.shape.shape != "I" or m.shape.slope or m.shape.h_end:
            raise NoFit(f"{m.shape.name} is {'tapered' if m.shape.shape == 'I' else f'a {m.shape.shape} section'}; its flanges are welded edge to edge", right="I-sections with even flanges")
    one, two = in_line(case, STRAIGHT)
    a, b = one.shape, two.shape
    for words, x, y in (("deep", a.h, b.h), ("broad", a.b, b.b), ("thick in the flange", a.tf, b.tf), ("thick in the web", a.tw, b.tw)):
        if abs(x - y) > LIKE:
            raise NoFit(f"{a.name} is {x:.1f} mm {words}, {b.name} {y:.1f} mm", right=f"sections that differ by {LIKE:.0f} mm at most, or a splice with covers")
    if abs(one.z - two.z) > LIKE:
        raise NoFit(f"their middles lie {abs(one.z - two.z):.1f} mm apart in depth", right=f"at most {LIKE:.0f} mm")


def build(case: Case, given: Given) -> Detail:
    """Grooves of both flanges and the web, what is cut for them, backing bars."""
    inch = given.house.inch
    at = line_of(case)
    one, two = in_line(case)
    shape = one.shape
    half, tf, tw = shape.h / 2, min(shape.tf, two.shape.tf), max(shape.tw, two.shape.tw)
    opening, bevel, backing = (float(given.value(k)) for k in ("root_opening", "bevel", "backing"))
    outside = str(given.worked_out("flanges", OUTSIDE if case.kind == "column splice" else ABOVE)) == OUTSIDE
    high, long = access_usual(tw, backing, inch)
    high, long = float(given.worked_out("hole_height", high)), float(given.worked_out("hole_length", long))
    if backing and backing > high - 3.0:
        raise NoFit(f"a backing bar {backing:g} mm thick does not pass an access hole {high:g} mm high", right=f"a hole of {backing + 3:.0f} mm, or thinner backing")
    if high + shape.tf > half - 40.0:
        raise NoFit(f"access holes {high:.0f} mm high leave {2 * (half - shape.tf - high):.0f} mm of the web of {shape.name}", right="a deeper member")
    widest = min(high - 0.5, long)
    radius = float(given.worked_out("hole_radius", min(9.525 if inch else 10.0, widest)))
    if radius > widest + 1e-6:
        raise NoFit(f"a radius of {radius:g} mm does not go into an access hole {high:g} mm high and {long:g} mm long", right=f"at most {widest:g} mm")
    parts = (role_words(two.member.role), role_words(one.member.role))
    wide = float(given.value("backing_width")) / 2
    past = float(given.value("backing_past"))
    notches: list[Notch] = []
    welds: list[Weld] = []
    plates: list[Plate] = []
    grade = str(given.value("grade"))
    aside = tw / 2 + shape.r1 + 1.0
    half_gap = opening / 2

    def spot(x: float, y: float, z: float) -> Vec3:
        return at.point((x, y, z))

    for name, s in (("top", 1.0), ("bottom", -1.0)):
        d = s if outside else 1.0  # which way the groove opens
        inner, outer = one.inner(s), one.outer(s)
        root = inner if d == s else outer
        slant = half_gap + shape.tf * math.tan(bevel)
        notches.append(across(f"{name} bevel", 0, at, ((half_gap - 1.0, root), (half_gap, root), (slant, root + d * shape.tf), (half_gap - 1.0, root + d * shape.tf)), one.shape.b / 2 + 5.0 + abs(one.y)))
        # the bevel's foot is at the web's side where the groove opens inward
        foot = slant if root == outer else half_gap
        for x, end in ((one, (half_gap - 1.0, foot + long)), (two, (-half_gap + 1.0, -half_gap - long))):
            notches.append(access_hole(f"{name} access hole", x.number, at, *end, x.inner(s), x.inner(s) - s * high, radius, aside + abs(one.y)))
        c = math.cos(bevel)
        b = min(one.shape.b, two.shape.b) / 2
        welds.append(Weld(f"{name} flange groove", tf, spot(-half_gap, one.y - b, root), spot(-half_gap, one.y + b, root), vec(at.turn((0.0, 0.0, d))), vec(at.turn((math.sin(bevel), 0.0, d * c))), parts, True, "groove", opening))
        if backing:
            level = d * min(d * root, d * (two.inner(s) if d == s else two.outer(s)))  # it touches the one that comes further
            z = min(level, level - d * backing)
            plates.append(Plate(f"backing, {name} flange", Outline.rectangle(-wide, one.y - b - past, wide, one.y + b + past), backing, at.at(Frame((0.0, 0.0, z))), grade, (), ("", "")))
    side = -1.0 if given.value("web_side") == "near side" else 1.0
    side *= math.copysign(1.0, at.y[1])
    welds.append(_web(at, one, side, (half_gap, bevel), (one.inner(-1.0) + high, one.inner(1.0) - high), notches, parts))
    if backing:
        face = side * min(side * one.web(-side), side * two.web(-side))
        straight = half - max(shape.root, two.shape.root)
        low, top = max(one.inner(-1.0) + high, one.z - straight), min(one.inner(1.0) - high, one.z + straight)
        frame = at.at(Frame.of(np.array((0.0, min(face, face - side * backing) + backing, 0.0)), np.array((1.0, 0.0, 0.0)), np.array((0.0, -1.0, 0.0))))
        plates.append(Plate("backing, web", Outline.rectangle(-wide, low, wide, top), backing, frame, grade, (), ("", "")))
    ends = tuple(EndCut(x.number, spot(x.way * half_gap, 0.0, 0.0), vec(at.turn((x.way, 0.0, 0.0)))) for x in (one, two))
    upright = case.kind == "column splice"
    return Detail(
        "welded splice", tuple(plates), (), tuple(welds), ends=ends, notches=tuple(notches), numbers=tuple(given.numbers.values()), views=_views(at, upright),
        dimensions=_dimensions(spot, one, half_gap, high, long, backing, upright),
    )  # fmt: skip


def _web(at: Frame, one: Side, side: float, prep: tuple[float, float], span: tuple[float, float], notches: list[Notch], parts: tuple[str, str]) -> Weld:
    """The web's groove, open to ``side``, and the bevel that the first member's web loses for it."""
    half_gap, bevel = prep
    near, far = one.web(-side), one.web(side)
    t = abs(far - near)
    reach = half_gap + t * math.tan(bevel)
    ring = [(half_gap - 1.0, near, 0.0), (half_gap, near, 0.0), (reach, far, 0.0), (half_gap - 1.0, far, 0.0)]
    notches.append(Notch("web bevel", 0, at.moved(z=one.inner(-1.0)), Outline(tuple(ring if far > near else ring[::-1])), one.inner(1.0) - one.inner(-1.0)))
    a, b = (at.point((-half_gap, near, z)) for z in span)
    return Weld("web groove", t, a, b, vec(at.turn((0.0, side, 0.0))), vec(at.turn((math.sin(bevel), side * math.cos(bevel), 0.0))), parts, True, "groove", 2 * half_gap)


def _views(at: Frame, upright: bool) -> tuple[SheetView, ...]:
    """The web in its plane, a column's upright; and a flange."""
    x, y, z = (np.array(v) for v in (at.x, at.y, at.z))
    front = SheetView("front", "Web", Frame.of(at.o, -z, -y)) if upright else SheetView("front", "Web", Frame.of(at.o, x, -y))
    return (front, SheetView("flange", "Flange", Frame.of(at.o, y, z) if upright else Frame.of(at.o, x, z)), SheetView("side", "Across", Frame.of(at.o, y, x)))


def _dimensions(spot: Callable[[float, float, float], Vec3], one: Side, half_gap: float, high: float, long: float, backing: float, upright: bool) -> tuple[Dimension, ...]:
    inner, outer = one.inner(-1.0), one.outer(1.0)
    sides: tuple[Side_, Side_] = ("left", "bottom") if upright else ("bottom", "left")
    out = [
        Dimension("front", sides[0], 0, (spot(-half_gap, one.y, one.outer(-1.0)), spot(half_gap, one.y, one.outer(-1.0))), ("root_opening",)),
        Dimension("front", sides[1], 0, (spot(-half_gap, one.y, inner), spot(-half_gap, one.y, inner + high)), ("hole_height",)),
        Dimension("front", sides[0], 1, (spot(-half_gap - long, one.y, inner), spot(-half_gap, one.y, inner)), ("hole_length",)),
    ]
    if backing:
        z = outer - one.shape.tf
        out.append(Dimension("front", sides[1], 1, (spot(0.0, one.y, z - backing), spot(0.0, one.y, z)), ("backing",)))
    return tuple(out)


FAMILY = Family(
    "welded-splice", "Welded splice", ("site weld", "full penetration splice", "groove weld", "butt weld"), ("splice", "column splice"), SETTINGS, fits, build,
    {"groove-angle": ("bevel",), "plate-stock": ("backing",), "weld-gap": ("root_opening",)},
    situations=("splices",), example=at_end(a_member("IPE 400", (0.0, 0.0, 3000.0), (4000.0, 0.0, 3000.0)), a_member("IPE 400", (-4000.0, 0.0, 3000.0), (0.0, 0.0, 3000.0))),
)  # fmt: skip
