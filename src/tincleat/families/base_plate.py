"""Base plate: a plate welded under a column, on grout over concrete, held by anchor rods.

Joint frame: origin where the column's middle line ends, z up the column, x along its depth, y across its flanges.
"""

import math

from tincleat.catalogue.fasteners import AnchorSize, anchor_size
from tincleat.catalogue.sections import Section
from tincleat.details.parts import Block, Detail, Dimension, Hole, Plate, Rod, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import ANCHOR_GRADES, ANCHOR_SIZES, STEEL_GRADES, Family, Given, Setting
from tincleat.geometry.frames import Frame, Vec3, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case
from tincleat.kit.foot import foot_welds, legs_round
from tincleat.project.entities import HouseRules
from tincleat.steel.cuts import EndCut

MOST_LEAN = math.radians(1)

SETTINGS = (
    Setting("plate_length", "Plate length", "length", "Plate", None, "Along the column's depth; worked out from the projection if not typed.", 60, 3000),
    Setting("plate_width", "Plate width", "length", "Plate", None, "Across the column's flanges; worked out from the projection if not typed.", 60, 3000),
    Setting("projection", "Projection", "length", "Plate", None, "Plate past the column on every side, before rounding; worked out so that washers and wrench clear the column.", 0, 1000),
    Setting("plate_thickness", "Plate thickness", "length", "Plate", 20.0, "Thickness of the base plate.", 6, 200, inches=19.05),
    Setting("plate_grade", "Plate grade", "choice", "Plate", lambda h: h.plate_grade, "Steel grade of the plate.", choices=STEEL_GRADES),
    Setting("offset_x", "Offset along the depth", "length", "Plate", 0.0, "Plate's middle from the column's, along its depth.", -500, 500),
    Setting("offset_y", "Offset across", "length", "Plate", 0.0, "Plate's middle from the column's, across its flanges.", -500, 500, handed=True),
    Setting("vents", "Vent holes", "count", "Plate", 0, "Round holes beside the web for galvanizing.", 0, 2),
    Setting("vent_size", "Vent hole diameter", "length", "Plate", 30.0, "Diameter of the vent holes.", 8, 100, inches=31.75),
    Setting("grout", "Grout", "length", "Foot", 30.0, "Grout between plate and concrete.", 0, 200, inches=38.1),
    Setting("foot_means", "Column foot is", "choice", "Foot", "top of concrete", "What the column's drawn foot stands for; the column is shortened to suit.",
            choices=("top of concrete", "underside of plate", "end of column")),
    Setting("anchors_x", "Rods along the depth", "spacings", "Anchor rods", None, "Spacings between rod lines, centred on the plate.", 0, 3000),
    Setting("anchors_y", "Rods across", "spacings", "Anchor rods", None, "Spacings between rod lines, centred on the plate.", 0, 3000),
    Setting("rods_where", "Rods stand", "choice", "Anchor rods", "round the edge", "All crossings of the rod lines, or only the outer ones.",
            choices=("round the edge", "at every crossing")),
    Setting("anchor", "Rod size", "choice", "Anchor rods", lambda h: h.anchor, "Diameter of the anchor rods.", choices=ANCHOR_SIZES),
    Setting("anchor_grade", "Rod grade", "choice", "Anchor rods", lambda h: h.anchor_grade, "Strength class of the rods.", choices=ANCHOR_GRADES),
    Setting("embedment", "Embedment", "length", "Anchor rods", 400.0, "Rod below the top of concrete.", 50, 3000, inches=406.4),
    Setting("rod_projection", "Rod above the plate", "length", "Anchor rods", None, "Worked out from washer and nuts if not typed.", 10, 500),
    Setting("rod_foot", "Rod foot", "choice", "Anchor rods", "plate", "How the rod is held in the concrete.", choices=("hooked", "headed", "plate")),
    Setting("lock_nut", "Second nut", "flag", "Anchor rods", False, "A second nut on top."),
    Setting("levelling_nut", "Levelling nuts", "flag", "Anchor rods", False, "A nut and washer under the plate."),
    Setting("hole_size", "Hole diameter", "length", "Anchor rods", None, "Worked out from the rod if not typed.", 10, 200),
    Setting("flange_weld", "Flange weld leg", "length", "Welds", None, "Fillet round the flanges.", 2, 40),
    Setting("web_weld", "Web weld leg", "length", "Welds", None, "Fillets along the web.", 2, 40),
    Setting("key_depth", "Shear key depth", "length", "Shear key", 0.0, "Flat under the plate, from its underside; 0 is none.", 0, 500),
    Setting("key_length", "Shear key length", "length", "Shear key", 100.0, "Length across the column's flanges.", 20, 1000, inches=101.6),
    Setting("key_thickness", "Shear key thickness", "length", "Shear key", 20.0, "Thickness of the flat.", 6, 100, inches=19.05),
    Setting("pad", "Concrete pad", "flag", "Concrete", True, "Draw the pad under the base."),
    Setting("pad_margin", "Pad past the plate", "length", "Concrete", 150.0, "Pad past the plate on every side.", 0, 3000, inches=152.4),
    Setting("pad_depth", "Pad depth", "length", "Concrete", 600.0, "Depth of the pad.", 100, 5000, inches=609.6),
    Setting("concrete", "Concrete", "choice", "Concrete", "C30/37", "Concrete grade of the pad.", choices=("C25/30", "C30/37", "C35/45", "C40/50", "4000 psi", "5000 psi")),
)  # fmt: skip


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless this is the foot of an I, channel or hollow column that stands upright within 1 degree."""
    if case.kind != "column foot":
        raise NoFit(f"a base plate goes under a column's foot; this joint is a {case.kind}", right="choose the lower end of a column that stands on nothing")
    shape = case.supported.shape
    if shape.shape not in ("I", "C", "RHS", "CHS"):
        raise NoFit(f"{shape.name} is a {shape.shape} section; a base plate takes I-sections, channels and hollow sections")
    if case.lean > MOST_LEAN:
        raise NoFit(f"the column leans {math.degrees(case.lean):.1f}°", right="a square base plate takes up to 1°")


def build(case: Case, given: Given) -> Detail:
    """Plate, rods with nuts and washers, welds, shortened column, grout, shear key and pad."""
    house = given.house
    shape = case.supported.shape
    inch = house.inch
    rod = anchor_size(str(given.value("anchor")))
    t = float(given.value("plate_thickness"))
    flange, web = (given.rounded(name, leg, "weld leg") for name, leg in zip(("flange_weld", "web_weld"), legs_round(shape, t, inch), strict=True))
    step = 12.7 if inch else 5.0
    inset = math.ceil(1.75 * rod.d / step) * step
    # past the column come the weld, half a washer or the room a wrench needs, then the way to the edge
    past = flange + max(rod.washer_side / 2, rod.nut_af) + inset
    projection = float(given.worked_out("projection", max(76.2 if inch else 75.0, math.ceil(past / step + 1) * step)))
    length = given.rounded("plate_length", shape.h + 2 * projection, "base plate")
    width = given.rounded("plate_width", shape.b + 2 * projection, "base plate")
    ox, oy = float(given.value("offset_x")), float(given.value("offset_y"))
    grout = float(given.value("grout"))
    foot = given.value("foot_means")
    concrete = {"top of concrete": 0.0, "underside of plate": -grout, "end of column": -grout - t}[foot]
    under, over = concrete + grout, concrete + grout + t

    gap_x, gap_y = (max(step, math.floor((side - 2 * inset) / (2 * step)) * 2 * step) for side in (length, width))
    xs, ys = (_centred(tuple(given.worked_out(name, (gap,)))) for name, gap in (("anchors_x", gap_x), ("anchors_y", gap_y)))
    spots = [(x + ox, y + oy) for x in xs for y in ys if given.value("rods_where") == "at every crossing" or x in (xs[0], xs[-1]) or y in (ys[0], ys[-1])]
    hole = float(given.worked_out("hole_size", rod.hole))
    holes = [Hole(x - ox, y - oy, hole, hole, 0.0, "anchor") for x, y in spots]
    holes += _vents(shape, int(given.value("vents")), float(given.value("vent_size")), ox, oy)
    plate = Plate(
        "base plate", Outline.rectangle(-length / 2, -width / 2, length / 2, width / 2), t, Frame((ox, oy, under)), str(given.value("plate_grade")),
        tuple(holes), ("base plate", "base plate"),
    )  # fmt: skip
    rods = _rods(given, rod, spots, concrete, under, over)

    frame = Frame((0.0, 0.0, over))
    welds = foot_welds(shape, frame, flange, web, ("base plate", "supported member"), -math.copysign(1.0, case.supported.frame.y[1]))
    plates = [plate]
    depth = float(given.value("key_depth"))
    key_length, key_t = float(given.value("key_length")), float(given.value("key_thickness"))
    if depth > 0:
        key = Frame((ox - key_t / 2, oy, under), (0.0, 1.0, 0.0), (1.0, 0.0, 0.0))
        plates.append(
            Plate("shear key", Outline.rectangle(-key_length / 2, -depth, key_length / 2, 0.0), key_t, key, plate.grade, (), ("plate length", "plate width"))
        )
        for side in (-1.0, 1.0):
            x = ox + side * key_t / 2
            ends = (x, oy - key_length / 2, under), (x, oy + key_length / 2, under)
            welds.append(Weld("shear key fillet", web, *ends, (side, 0.0, 0.0), (0.0, 0.0, -1.0), ("base plate", "shear key")))
    blocks = []
    if grout > 0:
        blocks.append(Block("grout", "grout", Outline.rectangle(-length / 2, -width / 2, length / 2, width / 2), grout, Frame((ox, oy, concrete))))
    margin, pad_depth, grade = float(given.value("pad_margin")), float(given.value("pad_depth")), str(given.value("concrete"))
    if given.value("pad"):
        a, b = length / 2 + margin, width / 2 + margin
        blocks.append(Block("pad", grade, Outline.rectangle(-a, -b, a, b), pad_depth, Frame((ox, oy, concrete - pad_depth))))
    return Detail(
        "base plate", tuple(plates), (), tuple(welds), rods, tuple(blocks), (EndCut(0, (0.0, 0.0, over), (0.0, 0.0, 1.0)),), (), (),
        _dimensions(shape, plate, spots, (xs, ys), (ox, oy), (concrete, under, over), rods), (), tuple(given.numbers.values()),
    )  # fmt: skip


def _centred(gaps: tuple[float, ...]) -> list[float]:
    """Lines with these gaps, centred on 0: spacing stays centred whatever is typed."""
    out = [-sum(gaps) / 2]
    for gap in gaps:
        out.append(out[-1] + gap)
    return out


def _vents(shape: Section, count: int, size: float, ox: float, oy: float) -> list[Hole]:
    if not count:
        return []
    aside = (shape.tw / 2 + shape.r1 + size / 2 + 5) if shape.shape == "I" else 0.0
    spots = [(0.0, aside), (0.0, -aside)][:count] if aside else [(0.0, 0.0)]
    return [Hole(x - ox, y - oy, size, size, 0.0, "vent") for x, y in spots]


def _rods(given: Given, rod: AnchorSize, spots: list[tuple[float, float]], concrete: float, under: float, over: float) -> tuple[Rod, ...]:
    nuts = 2 if given.value("lock_nut") else 1
    need = rod.washer_t + nuts * rod.nut_height + 2 * rod.pitch
    step = 6.35 if given.house.inch else 5.0
    projection = float(given.worked_out("rod_projection", math.ceil(need / step - 1e-9) * step))
    top_nut = over + rod.washer_t
    levels = [top_nut + i * rod.nut_height for i in range(nuts)]
    washers = [over]
    if given.value("levelling_nut"):
        washers.append(under - rod.washer_t)
        levels.append(under - rod.washer_t - rod.nut_height)
    bottom = concrete - float(given.value("embedment"))
    grade, foot = str(given.value("anchor_grade")), given.value("rod_foot")
    return tuple(Rod(f"rod {i + 1}", rod.name, grade, x, y, bottom, over + projection, foot, tuple(levels), tuple(washers)) for i, (x, y) in enumerate(spots))


def _dimensions(
    shape: Section, plate: Plate, spots: list[tuple[float, float]], lines: tuple[list[float], list[float]], offset: tuple[float, float],
    heights: tuple[float, float, float], rods: tuple[Rod, ...],
) -> tuple[Dimension, ...]:  # fmt: skip
    x0, y0, x1, y1 = (v + o for v, o in zip(plate.outline.bounds, offset + offset, strict=True))
    concrete, under, over = heights
    xs, ys = ([v + o for v in line] for line, o in zip(lines, offset, strict=True))
    top = rods[0].top if rods else over

    def chain(view: str, side: str, row: int, points: list[Vec3], names: tuple[str, ...]) -> Dimension:
        return Dimension(view, side, row, tuple(vec(p) for p in points), names)  # type: ignore[arg-type]

    return (
        chain("plan", "bottom", 0, [(x0, y0, over)] + [(x, ys[0], over) for x in xs] + [(x1, y0, over)], ("",) + ("anchors_x",) * (len(xs) - 1) + ("",)),
        chain("plan", "bottom", 1, [(x0, y0, over), (x1, y0, over)], ("plate_length",)),
        chain("plan", "right", 0, [(x1, y1, over)] + [(xs[-1], y, over) for y in ys[::-1]] + [(x1, y0, over)], ("",) + ("anchors_y",) * (len(ys) - 1) + ("",)),
        chain("plan", "right", 1, [(x1, y1, over), (x1, y0, over)], ("plate_width",)),
        chain(
            "front",
            "right",
            0,
            [(x1, 0.0, over), (x1, 0.0, under)] + ([(x1, 0.0, concrete)] if under > concrete else []),
            ("plate_thickness", "grout")[: 1 + (under > concrete)],
        ),
        chain("front", "left", 0, [(xs[0], 0.0, top), (x0, 0.0, over)], ("rod_projection",)),
        chain(
            "side",
            "bottom",
            0,
            [(0.0, y0, concrete), (0.0, -shape.b / 2, over), (0.0, shape.b / 2, over), (0.0, y1, concrete)],
            ("projection", "", "projection"),
        ),
    )


FAMILY = Family(
    "base-plate", "Base plate", ("column base", "foot plate", "anchor rods", "holding down bolts"), ("column foot",), SETTINGS, fits, build,
    {
        "rod-edge": ("projection", "anchors_x", "anchors_y", "plate_length", "plate_width"),
        "rod-spacing": ("anchors_x", "anchors_y"),
        "rod-hole": ("hole_size",),
        "rod-thread": ("rod_projection",),
        "rod-clear": ("anchors_x", "anchors_y", "projection"),
        "fillet-throat": ("flange_weld", "web_weld"),
        "fillet-leg-least": ("flange_weld", "web_weld"),
        "fillet-leg-greatest": ("flange_weld", "web_weld"),
        "fillet-length": ("web_weld", "flange_weld"),
        "plate-stock": ("plate_thickness", "key_thickness"),
        "plate-step": ("plate_length", "plate_width", "key_length", "key_depth"),
    },
)  # fmt: skip
