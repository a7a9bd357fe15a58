"""Rod through a web: a bracing rod that goes aslant through a slot in a web and is held behind it by a hillside washer and a nut.

Joint frame: that of a brace's end, where its line meets that of what carries it; y square to the plane of the braces.
"""

import math

import numpy as np

from tincleat.catalogue.fasteners import bolt_sizes
from tincleat.details.fittings import Hillside
from tincleat.details.parts import Angle, Detail, Dimension, SheetView
from tincleat.errors import NoFit
from tincleat.families.declare import STEEL_GRADES, Family, Given, Setting
from tincleat.families.example import a_brace, a_column, at_end
from tincleat.geometry.frames import Frame, crossed, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case, CaseMember
from tincleat.kit.cope import web_of
from tincleat.kit.face import web_face
from tincleat.kit.layout import up
from tincleat.project.entities import HouseRules
from tincleat.steel.cuts import EndCut, Notch

MOST_SLANT = math.radians(62)  # from square to the web: beyond, the wedge is higher than it is broad
LEAST_SLANT = math.radians(3)  # under that a taper washer does
OUT_OF_PLANE = math.radians(3)
LEAST = 5.0  # mm of the wedge at its thin side
ROUND_SLOT = 4.0  # mm that the wedge covers past the slot at each end, at least

SETTINGS = (
    Setting("side", "Hillside washer", "length", "Washer", None, "Breadth of the wedge; room for the flat washer, and past the slot, if not typed.", 20, 300),
    Setting("thin", "Wedge at its thin side", "length", "Washer", LEAST, "Its height there, along the rod.", 2, 60, inches=4.7625),
    Setting("projection", "Rod past the nut", "length", "Rod", 10.0, "Thread beyond the nut.", 2, 200, inches=9.525),
    Setting("slot_width", "Slot width", "length", "Slot", None, "In the web, across the rod; a normal hole for its size if not typed.", 8, 120),
    Setting("slot_length", "Slot length", "length", "Slot", None, "In the web, in the rod's plane; what the slanting rod takes up, rounded, if not typed.", 8, 400),
    Setting("grade", "Grade", "choice", "Washer", lambda h: h.plate_grade, "Steel grade of the wedge.", choices=STEEL_GRADES),
)  # fmt: skip


def _carrier(case: Case) -> tuple[int, CaseMember]:
    return next((i, m) for i, m in enumerate(case.members) if m.role.partition("-")[0] in ("column", "beam"))


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless one round bar comes aslant to the web of an I-section or channel."""
    if case.kind != "brace end":
        raise NoFit(f"a rod goes through a web at the end of a brace; this is a {case.kind}", right="the end of a rod at a column or beam")
    braces = case.all("brace")
    if len(braces) != 1:
        raise NoFit(f"{len(braces)} braces end here together", right="a connection for each rod")
    rod = braces[0][1]
    if rod.shape.shape != "RD":
        raise NoFit(f"{rod.shape.name} is a {rod.shape.shape} section; a nut holds a round bar", right="a round bar, or a gusset")
    if not any(m.role.partition("-")[0] in ("column", "beam") for m in case.members):
        raise NoFit("the rod ends on another brace", right="a column or beam")
    carrier = _carrier(case)[1]
    if carrier.shape.shape not in ("I", "C"):
        raise NoFit(f"{carrier.shape.name} is a {carrier.shape.shape} section; nobody gets at a nut behind its wall", right="an I-section or channel")
    lean = math.asin(min(1.0, abs(float(np.array(carrier.frame.y)[1]))))
    if lean > OUT_OF_PLANE:
        words = "its flange" if lean > math.radians(80) else f"its web {math.degrees(lean):.0f}° off square to the rod's plane"
        raise NoFit(f"{carrier.shape.name} shows the rod {words}", right="a web square to the plane of rod and carrier, or a gusset")
    slant = _slant(rod, carrier)
    if not LEAST_SLANT <= slant <= MOST_SLANT:
        raise NoFit(f"the rod comes {math.degrees(slant):.0f}° off square to the web", right=f"{math.degrees(LEAST_SLANT):.0f} to {math.degrees(MOST_SLANT):.0f}°, or a gusset")


def _slant(rod: CaseMember, carrier: CaseMember) -> float:
    """Angle in rad between a rod and the normal of the carrier's web."""
    return math.acos(min(1.0, abs(float(np.array(rod.away) @ np.array(carrier.frame.y)))))


def build(case: Case, given: Given) -> Detail:
    """The slot in the web, washer and nut behind it, and where the rod ends."""
    house = given.house
    number, rod = case.all("brace")[0]
    host, carrier = _carrier(case)
    a, d = np.array(rod.away), rod.shape.h
    system, fine, step = ("in", 1.5875, 3.175) if house.inch else ("mm", 1.0, 5.0)
    nut = next((b for b in sorted((b for b in bolt_sizes().values() if b.system == system), key=lambda b: b.d) if b.d >= d - 0.1 and b.name not in ("M14", "M18", "M22")), None)
    if nut is None or nut.d > d + 6.5:
        raise NoFit(f"no nut is made for a rod of {d:g} mm", right=f"a rod of a bolt's size, up to {max(b.d for b in bolt_sizes().values() if b.system == system):g} mm")
    n, p = web_face(carrier, -a)
    slant = _slant(rod, carrier)
    web = web_of(carrier.shape.elements)
    assert web is not None
    # where the rod's middle leaves the web behind
    out = rod.frame.o + a * (float((p - rod.frame.o) @ n) / float(a @ n))
    width = float(given.worked_out("slot_width", house.hole(nut.name, "normal")[0]))
    long = float(given.worked_out("slot_length", up(width / math.cos(slant) + web.thickness * math.tan(slant), fine)))
    if long < d / math.cos(slant) + web.thickness * math.tan(slant) or width < d:
        raise NoFit(f"a slot {width:g} by {long:g} mm does not let a rod of {d:g} mm through at {math.degrees(slant):.0f}°", right=f"at least {d:g} by {d / math.cos(slant) + web.thickness * math.tan(slant):.1f} mm")
    if long < width:
        raise NoFit(f"a slot {long:g} mm long is shorter than its width of {width:g} mm", right=f"at least {width:g} mm")
    covers = (long + web.thickness * math.tan(slant) + 2 * ROUND_SLOT) * math.cos(slant)
    side = float(given.worked_out("side", up(max(nut.washer_d, nut.head_af * 2 / 3**0.5, covers, width + 2 * ROUND_SLOT), step)))
    if side < nut.washer_d:
        raise NoFit(f"a wedge {side:g} mm square is smaller than the flat washer of {nut.washer_d:g} mm", right=f"at least {nut.washer_d:g} mm")
    off, flat = abs(float((out - carrier.frame.o) @ np.array(carrier.frame.z))), carrier.shape.h / 2 - carrier.shape.root
    if off + side / 2 > flat + 0.05:
        raise NoFit(f"a wedge {side:.0f} mm square {off:.0f} mm off the middle of {carrier.shape.name} runs into its root: the web is flat for {flat:.0f} mm either way", right="a rod nearer to the middle, or a gusset")
    height = float(given.value("thin")) + side / 2 * math.tan(slant)
    # the wedge leans as the rod does to the web, be that not quite square to their plane
    across = crossed(n, a)
    frame = Frame.of(out, -a, across * math.copysign(1.0, float(across[1])))
    lean = math.copysign(slant, -float(np.array(frame.y) @ n))
    part = Hillside("hillside washer", nut.name, str(given.value("grade")), frame, d, lean, side, height, (nut.washer_d, nut.washer_t), nut.head_af, nut.nut_height)
    end = out - a * (part.length + float(given.value("projection")))
    along = np.array(carrier.frame.x)
    # the slot lies about the middle of what the rod takes of the web's thickness
    mid = out + a * (web.thickness / 2 / math.cos(slant))
    slot = Notch("slot", host, Frame.of(mid + n * (web.thickness / 2 + 1.0), along, -n), Outline.slot(0.0, 0.0, width, long, 0.0), web.thickness + 2.0)
    return Detail(
        "rod through", ends=(EndCut(number, vec(end), rod.away),), notches=(slot,), numbers=tuple(given.numbers.values()), fittings=(part,),
        dimensions=_dimensions(part, float(given.value("projection"))), angles=(Angle("front", vec(out), vec(out + 100 * a), vec(out - n * 100.0)),), views=_views(part, n, along),
    )  # fmt: skip


def _views(part: Hillside, n: np.ndarray, along: np.ndarray) -> tuple[SheetView, ...]:
    """The plane of the rod, the same turned so that the rod lies level, and the web from behind."""
    up_ = along if along[2] >= 0 else -along
    y = np.array([0.0, 1.0, 0.0])
    level = np.array(part.frame.x) * (1.0 if part.frame.x[0] >= 0 else -1.0)
    cut = part.side / 2 + 1.0
    return (
        SheetView("front", "Front", Frame.of(part.frame.o, crossed(up_, -y), -y), near=cut),
        SheetView("rod", "Along the rod", Frame.of(part.frame.o, level, -y), near=cut),
        SheetView("side", "From behind", Frame.of(part.frame.o, crossed(up_, n), n)),
    )


def _dimensions(part: Hillside, past: float) -> tuple[Dimension, ...]:
    half, slope = part.side / 2, math.tan(part.lean)
    thin = half if slope > 0 else -half
    a, b, c = (vec(q) for q in part.frame.to_world([(slope * thin, thin, half), (part.height, thin, half), (part.height, thin, -half)]))
    e, f = (vec(q) for q in part.frame.to_world([(part.length, 0.0, 0.0), (part.length + past, 0.0, 0.0)]))
    return (
        Dimension("side", "bottom", 0, (b, c), ("side",)),
        Dimension("rod", "bottom", 0, (a, b), ("thin",)),
        Dimension("rod", "bottom", 1, (e, f), ("projection",)),
    )


FAMILY = Family(
    "rod-through", "Rod through a web", ("hillside washer", "rod bracing", "slotted web", "bracing rod", "nut and washer"), ("brace end",), SETTINGS, fits, build,
    {"clash": ("side", "thin", "slot_length"), "thread-held": ("projection",)},
    situations=("bracing",), example=at_end(a_column("HEB 200", 90.0), a_brace("RD 16", 40.0), end="start"),
)  # fmt: skip
