"""Stringer foot: a plate on concrete under the sloping end of a stair's stringer, welded to its web or walls and held by rods.

Joint frame: origin where the stringer's middle line ends, z up, x level in the direction it rises.
"""

import math

from tincleat.catalogue.fasteners import anchor_size
from tincleat.details.parts import Block, Detail, Dimension, Hole, Plate, Rod
from tincleat.errors import NoFit
from tincleat.families.declare import ANCHOR_GRADES, ANCHOR_SIZES, STEEL_GRADES, Family, Given, Setting
from tincleat.families.example import a_member, at_end
from tincleat.geometry.frames import Frame, Vec3, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case, CaseMember
from tincleat.kit.foot import web_welds
from tincleat.kit.layout import up
from tincleat.kit.rods import hooks
from tincleat.project.entities import HouseRules
from tincleat.steel.cuts import EndCut

FLATTEST, UPRIGHT = math.radians(15), math.radians(75)

SETTINGS = (
    Setting("plate_length", "Plate length", "length", "Plate", None, "Along the stringer's run; its foot and a little more if not typed.", 40, 2000),
    Setting("plate_width", "Plate width", "length", "Plate", None, "Across; room for rods on both sides if not typed.", 40, 1500),
    Setting("plate_thickness", "Plate thickness", "length", "Plate", 12.0, "Thickness of the plate.", 5, 80, inches=12.7),
    Setting("plate_grade", "Plate grade", "choice", "Plate", lambda h: h.plate_grade, "Steel grade of the plate.", choices=STEEL_GRADES),
    Setting("past", "Plate past the foot", "length", "Plate", 15.0, "Before and behind the stringer's foot on the plate, before rounding.", 0, 500, inches=12.7),
    Setting("grout", "Grout", "length", "Foot", 0.0, "Grout between plate and concrete.", 0, 100),
    Setting("foot_means", "Stringer's end is", "choice", "Foot", "top of concrete", "What the drawn end stands for; the stringer is cut to suit.", choices=("top of concrete", "top of plate")),
    Setting("anchor", "Rod size", "choice", "Anchor rods", lambda h: "3/4in" if h.inch else "M16", "Diameter of the rods.", choices=ANCHOR_SIZES),
    Setting("anchor_grade", "Rod grade", "choice", "Anchor rods", lambda h: h.anchor_grade, "Strength class of the rods.", choices=ANCHOR_GRADES),
    Setting("rods", "Rods on each side", "count", "Anchor rods", 1, "How many stand beside the stringer on each side.", 1, 4),
    Setting("pitch", "Rod pitch", "length", "Anchor rods", None, "Between rods of one side, along the run.", 20, 800),
    Setting("gauge", "Rods across", "length", "Anchor rods", None, "Between the rods of both sides; clear of the stringer if not typed.", 30, 1200),
    Setting("rod_foot", "Rod foot", "choice", "Anchor rods", "resin", "How the rod is held in the concrete.", choices=("resin", "hooked", "headed", "plate")),
    Setting("embedment", "Embedment", "length", "Anchor rods", 125.0, "Rod below the top of concrete.", 40, 1500, inches=127.0),
    Setting("rod_projection", "Rod above the plate", "length", "Anchor rods", None, "Worked out from washer and nut if not typed.", 10, 300),
    Setting("weld_leg", "Weld leg", "length", "Welds", None, "Fillets on both sides of the web, or along the walls.", 3, 30),
)  # fmt: skip


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless a channel, I-section, flat or square tube slopes up from an end that meets nothing, its web plumb."""
    if case.kind != "sloping foot":
        raise NoFit(f"a stringer foot stands under the lower end of a sloping member; this is a {case.kind}", right="such an end that meets nothing")
    m = case.supported
    if m.shape.shape not in ("C", "I", "FL", "RHS"):
        raise NoFit(f"{m.section} is a {m.shape.shape} section", right="a channel, I-section, flat or square tube")
    slope = math.asin(max(-1.0, min(1.0, m.away[2])))
    if not FLATTEST - 1e-4 <= slope <= UPRIGHT:
        raise NoFit(f"the stringer rises at {math.degrees(slope):.1f}°", right=f"{math.degrees(FLATTEST):.0f} to {math.degrees(UPRIGHT):.0f}°")
    if abs(m.frame.y[2]) > 0.02:
        raise NoFit(f"the web leans by {math.degrees(math.asin(abs(m.frame.y[2]))):.1f}°", right="a web that stands plumb")


def _foot(m: CaseMember, level: float) -> tuple[float, float, float]:
    """Where the stringer's lower and upper edge and its middle line cross a level (x in the joint, mm)."""
    rise = m.away[2] / math.hypot(m.away[0], m.away[1])
    middle = level / rise
    half = m.shape.h / 2 / m.away[2]
    return middle - half, middle + half, middle


def build(case: Case, given: Given) -> Detail:
    """Plate, rods beside the stringer, fillets along its web or walls, its end cut level."""
    house, m = given.house, case.supported
    shape, inch = m.shape, house.inch
    rod = anchor_size(str(given.value("anchor")))
    step = 6.35 if inch else 5.0
    t, grout = float(given.value("plate_thickness")), float(given.value("grout"))
    concrete = {"top of concrete": 0.0, "top of plate": -t - grout}[str(given.value("foot_means"))]
    under = concrete + grout
    over = under + t
    low, high, middle = _foot(m, over)
    leg = given.rounded("weld_leg", min(max(0.7 * shape.tw, 4.7625 if inch else 5.0), 10.0), "weld leg")
    welds = web_welds(m, (middle, 0.0, over), (0.0, 0.0, 1.0), (1.0, 0.0, 0.0), leg, ("foot plate", "supported member"))
    inset = up(1.75 * rod.d, step)
    clear = shape.b + 2 * (leg + max(rod.washer_side / 2, rod.nut_af))
    gauge = float(given.worked_out("gauge", up(clear, 2 * step)))
    count = int(given.value("rods"))
    pitch = float(given.worked_out("pitch", up(4 * rod.d, step))) if count > 1 else 0.0
    length = given.rounded("plate_length", max(high - low + 2 * float(given.value("past")), (count - 1) * pitch + 2 * inset), "base plate")
    width = given.rounded("plate_width", gauge + 2 * inset, "base plate")
    if length < high - low - 0.01:
        raise NoFit(f"the stringer's foot is {high - low:.0f} mm long, the plate {length:.0f} mm", right=f"at least {high - low:.0f} mm")
    centre = (low + high) / 2
    xs = [centre + (i - (count - 1) / 2) * pitch for i in range(count)]
    spots = [(x, s * gauge / 2) for x in xs for s in (-1.0, 1.0)]
    outline = Outline.rectangle(-length / 2, -width / 2, length / 2, width / 2)
    holes = tuple(Hole(x - centre, y, rod.hole, rod.hole, 0.0, "anchor") for x, y in spots)
    plate = Plate("foot plate", outline, t, Frame((centre, 0.0, under)), str(given.value("plate_grade")), holes, ("base plate", "base plate"))
    need = rod.washer_t + rod.nut_height + 2 * rod.pitch
    projection = float(given.worked_out("rod_projection", up(need, step)))
    bottom = concrete - float(given.value("embedment"))
    foot, grade = given.value("rod_foot"), str(given.value("anchor_grade"))
    ways = hooks(foot, spots, rod.d)
    rods = tuple(
        Rod(f"rod {i}", rod.name, grade, x, y, bottom, over + projection, foot, (over + rod.washer_t,), (over,), (rod.washer_side, rod.washer_t), hook=way)
        for i, ((x, y), way) in enumerate(zip(spots, ways, strict=True), 1)
    )  # fmt: skip
    blocks = (Block("grout", "grout", outline, grout, Frame((centre, 0.0, concrete))),) if grout else ()
    return Detail(
        "stringer foot", (plate,), (), tuple(welds), rods, blocks, (EndCut(0, (0.0, 0.0, over), (0.0, 0.0, 1.0)),), numbers=tuple(given.numbers.values()),
        dimensions=_dimensions((low, high), (centre, length, width), spots, gauge, pitch, (under, over), over + projection, xs),
    )  # fmt: skip


def _dimensions(
    foot: tuple[float, float], plate: tuple[float, float, float], spots: list[tuple[float, float]], gauge: float, pitch: float, levels: tuple[float, float], top: float, xs: list[float],
) -> tuple[Dimension, ...]:  # fmt: skip
    centre, length, width = plate
    under, over = levels
    x0, x1, y = centre - length / 2, centre + length / 2, width / 2

    def chain(view: str, side: str, row: int, points: list[Vec3], names: tuple[str, ...]) -> Dimension:
        return Dimension(view, side, row, tuple(vec(p) for p in points), names)  # type: ignore[arg-type]

    along = [(x0, -y, over), *((x, -gauge / 2, over) for x in xs), (x1, -y, over)]
    return (
        chain("plan", "bottom", 0, along, ("", *("pitch",) * (len(xs) - 1), "")),
        chain("plan", "bottom", 1, [(x0, -y, over), (x1, -y, over)], ("plate_length",)),
        chain("plan", "right", 0, [(x1, y, over), (xs[-1], gauge / 2, over), (xs[-1], -gauge / 2, over), (x1, -y, over)], ("", "gauge", "")),
        chain("plan", "right", 1, [(x1, y, over), (x1, -y, over)], ("plate_width",)),
        chain("front", "bottom", 0, [(x0, 0.0, under), (foot[0], 0.0, over), (foot[1], 0.0, over), (x1, 0.0, under)], ("past", "", "past")),
        chain("front", "left", 0, [(x0, 0.0, under), (x0, 0.0, over)], ("plate_thickness",)),
        chain("side", "right", 0, [(xs[0], y, over), (xs[0], gauge / 2, top)], ("rod_projection",)),
    )


FAMILY = Family(
    "stringer-foot", "Stringer foot", ("stair foot", "stringer base", "stair", "flight"), ("sloping foot",), SETTINGS, fits, build,
    {
        "rod-edge": ("gauge", "plate_width", "plate_length"), "rod-spacing": ("pitch", "gauge"), "rod-thread": ("rod_projection",), "rod-clear": ("gauge",), "rod-cover": ("anchor",),
        "fillet-throat": ("weld_leg",), "fillet-leg-least": ("weld_leg",), "plate-stock": ("plate_thickness",), "plate-step": ("plate_length", "plate_width"),
    },
    situations=("secondary",), example=at_end(a_member("UPN 200", (0.0, 0.0, 0.0), (2700.0, 0.0, 1260.0)), end="start"),
)  # fmt: skip
