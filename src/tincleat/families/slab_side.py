"""Post on a slab's side: a rail post beside the edge of concrete, on a plate that rods in resin hold to it.

Joint frame: origin where the post's middle line ends, z up it, x along its depth.  Laid out in a frame whose x runs out of the concrete.
"""

import math

import numpy as np

from tincleat.catalogue.fasteners import bolt_size
from tincleat.details.parts import Block, Detail, Dimension, Hole, Plate, SheetView, Tie, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import ANCHOR_GRADES, BOLT_SIZES, STEEL_GRADES, Family, Given, Setting
from tincleat.families.example import a_member, at_end
from tincleat.families.post_side import held_by
from tincleat.geometry.frames import Frame, Vec3, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case
from tincleat.kit.layout import down, up
from tincleat.project.entities import HouseRules
from tincleat.standards.rulesets import rules_of
from tincleat.steel.cuts import EndCut

LEFT, RIGHT, AHEAD, BEHIND = "left", "right", "ahead", "behind"
WAYS = {LEFT: (0.0, 1.0), RIGHT: (0.0, -1.0), AHEAD: (1.0, 0.0), BEHIND: (-1.0, 0.0)}
COVER = 5.0  # diameters of a rod that concrete reaches past it at least, practice
INTO, ALONG = 350.0, 300.0  # mm of the slab that are drawn, into it and to either side

SETTINGS = (
    Setting("facing", "Concrete lies", "choice", "Concrete", LEFT, "On which side of the post, seen the way its depth points.", choices=(LEFT, RIGHT, AHEAD, BEHIND), handed=True),
    Setting("slab_depth", "Slab depth", "length", "Concrete", 200.0, "Thickness of the slab, or depth of its edge beam.", 80, 2000, inches=203.2),
    Setting("top", "Concrete's top over the post's end", "length", "Concrete", None, "The plate's middle lies at the slab's if not typed.", 20, 3000),
    Setting("concrete", "Concrete", "choice", "Concrete", lambda h: "4000 psi" if h.inch else "C30/37", "Concrete grade.", choices=("C25/30", "C30/37", "C35/45", "C40/50", "4000 psi", "5000 psi")),
    Setting("slab", "Draw the slab", "flag", "Concrete", True, "Draw a piece of the slab beside the post."),
    Setting("thickness", "Plate thickness", "length", "Plate", None, "On plate stock, about the rod's diameter if not typed.", 5, 60),
    Setting("height", "Plate height", "length", "Plate", None, "As far as the rods keep off the slab's top and underside, no more than 150 mm or 6 in, if not typed.", 40, 600),
    Setting("width", "Plate width", "length", "Plate", None, "The rods on both sides of the post and their edges if not typed.", 40, 600),
    Setting("grade", "Plate grade", "choice", "Plate", lambda h: h.plate_grade, "Steel grade of the plate.", choices=STEEL_GRADES),
    Setting("past", "Post over the plate's end", "length", "Post", None, "How far the post ends over the plate's lower edge; room for its weld if not typed.", 0, 200),
    Setting("rod", "Rod size", "choice", "Rods", lambda h: "1/2in" if h.inch else "M12", "Threaded rods in resin.", choices=BOLT_SIZES),
    Setting("rod_grade", "Rod grade", "choice", "Rods", lambda h: h.anchor_grade, "Strength class of the rods.", choices=ANCHOR_GRADES),
    Setting("gauge", "Gauge", "length", "Rods", None, "Between the rods on both sides of the post; clear of its welds if not typed.", 30, 400),
    Setting("pitch", "Row pitch", "length", "Rods", None, "Between the two rows; as far apart as the plate lets them be if not typed.", 20, 500),
    Setting("edge", "Edge distance", "length", "Rods", None, "From the rods to the plate's edges.", 15, 200),
    Setting("embedment", "Embedment", "length", "Rods", None, "Rod in the concrete; nine diameters if not typed.", 40, 600),
    Setting("weld_leg", "Weld leg", "length", "Welds", None, "Fillets under the post's end and over the plate.", 2, 15),
)  # fmt: skip


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless this is the foot of a plumb square or rectangular tube or flat."""
    if case.kind != "column foot":
        raise NoFit(f"a post on a slab's side is held at its foot; this is a {case.kind}", right="the lower end of a post that meets no steel")
    m = case.supported
    if m.shape.shape not in ("RHS", "FL"):
        raise NoFit(f"{m.shape.name} is a {m.shape.shape} section", right="a square or rectangular tube, or a flat")
    lean = math.degrees(math.acos(min(1.0, abs(m.away[2]))))
    if lean > 0.5:
        raise NoFit(f"the post leans by {lean:.1f}°", right="a plumb post")


def build(case: Case, given: Given) -> Detail:
    """The plate on the post's side, its welds, rods into the concrete, the slab's edge."""
    house, m = given.house, case.supported
    shape, inch = m.shape, house.inch
    step = 6.35 if inch else 5.0
    cx, cy = WAYS[str(given.value("facing"))]
    at = Frame.of(m.frame.o * (1.0, 1.0, 0.0), (-cx, -cy, 0.0), (0.0, 0.0, 1.0))
    deep = abs(float(np.dot(m.frame.z, at.x))) > 0.7  # whether the post's depth points at the concrete
    half, wide = (shape.h / 2, (shape.b or shape.tw) / 2) if deep else ((shape.b or shape.tw) / 2, shape.h / 2)
    size = bolt_size(str(given.value("rod")), house.tighten_room)
    hole, _ = house.hole(size.name, "normal")
    t = float(given.worked_out("thickness", next((p for p in sorted(house.plates) if p >= min(size.d, 12.7) - 0.3), size.d)))
    leg = given.rounded("weld_leg", max(min(0.7 * min(t, shape.tw), shape.tw), 4.7625 if inch else 4.25), "weld leg")
    least = rules_of(house).edge_least(size, Hole(0, 0, hole, hole), False).value
    edge = float(given.worked_out("edge", up(max(least, 1.5 * size.d), step)))
    gauge = float(given.worked_out("gauge", up(2 * (wide + size.clear), step)))
    width = given.rounded("width", gauge + 2 * edge, "plate width")
    slab, cover = float(given.value("slab_depth")), COVER * size.d
    height = float(given.worked_out("height", down(min(152.4 if inch else 150.0, slab - 2 * cover + 2 * edge), step)))
    pitch = float(given.worked_out("pitch", height - 2 * edge))
    near = rules_of(house).spacing_least(size, Hole(0, 0, hole, hole), True).value
    if pitch < near - 0.01:
        raise NoFit(f"a slab {slab:.0f} mm deep leaves {max(pitch, 0.0):.0f} mm between two rows of {size.name}, which need {near:.0f} mm", right="smaller rods, or a deeper slab or plate")
    if pitch + 2 * size.d > height:
        raise NoFit(f"rows {pitch:.0f} mm apart do not lie on a plate {height:.0f} mm high", right=f"at most {height - 2 * size.d:.0f} mm")
    low = -float(given.worked_out("past", up(leg + 2.0, step)))  # of the plate, under the post's end
    high, middle = low + height, low + height / 2
    if high < 4 * leg:
        raise NoFit(f"the post ends {-low:.0f} mm over the plate's lower edge, which leaves {max(high, 0.0):.0f} mm of weld", right=f"at most {max(height - 4 * leg, 0.0):.0f} mm")
    top = float(given.worked_out("top", middle + slab / 2))
    rows = [middle - pitch / 2, middle + pitch / 2]
    over, under = top - rows[1], rows[0] - (top - slab)
    if min(over, under) < cover - 0.01:
        raise NoFit(f"rods {min(over, under):.0f} mm from the concrete's {'top' if over <= under else 'underside'} would break it out", right=f"at least {cover:.0f} mm, {COVER:g} diameters")
    grade = str(given.value("grade"))
    spots = [(s * gauge / 2, z) for z in rows for s in (-1.0, 1.0)]
    post = at.inside(m.frame)
    half -= min(0.0, post.x[0] / post.x[2] * high)  # a post that leans towards the concrete touches the plate with its upper end
    local = Frame((-half - t, 0.0, 0.0), (0.0, 1.0, 0.0), (1.0, 0.0, 0.0))
    plate = Plate("post plate", Outline.rectangle(-width / 2, low, width / 2, high), t, at.at(local), grade, tuple(Hole(y, z, hole, hole) for y, z in spots), ("plate width", ""))
    face = -half - t  # of the concrete
    embedment = float(given.worked_out("embedment", up(9 * size.d, step)))
    long = up(embedment + t + size.washer_t + size.nut_height + 2 * size.pitch, step)
    rods = tuple(
        Tie(f"rod {i}", size.name, str(given.value("rod_grade")), at.at(Frame((face - embedment, y, z))), long, (0.0, long), ((embedment + t, 1),))
        for i, (y, z) in enumerate(spots, 1)
    )  # fmt: skip
    blocks: tuple[Block, ...] = ()
    if given.value("slab"):
        outline = Outline.rectangle(-INTO, -width / 2 - ALONG, 0.0, width / 2 + ALONG)
        blocks = (Block("slab", str(given.value("concrete")), outline, slab, at.at(Frame((face, 0.0, top - slab)))),)
    welds = [_turned(at, w) for w in held_by(given, shape, (half, wide), (0.0, high), leg, post)]
    return Detail(
        "post on a slab's side", (plate,), (), tuple(welds), ends=(EndCut(0, vec(at.origin), (0.0, 0.0, 1.0)),), ties=rods, blocks=blocks, numbers=tuple(given.numbers.values()),
        dimensions=_dimensions(at, (face, -half), spots, (low, high), width, top, embedment), views=_views(at),
    )  # fmt: skip


def _turned(at: Frame, w: Weld) -> Weld:
    """A weld laid out in a frame, in the joint's."""
    a, b = (vec(p) for p in at.to_world([w.start, w.end]))
    return Weld(w.name, w.leg, a, b, vec(at.turn(w.u)), vec(at.turn(w.v)), w.parts, w.site, w.kind, w.opening, w.tail)


def _views(at: Frame) -> tuple[SheetView, ...]:
    """Along the concrete's face, square to it, and from above."""
    x, y, z = (np.array(v) for v in (at.x, at.y, at.z))
    return (
        SheetView("front", "Front", Frame.of(at.o, x, -y)), SheetView("side", "At the concrete", Frame.of(at.o, y, x)), SheetView("plan", "Plan", Frame.of(at.o, x, z)),
    )  # fmt: skip


def _dimensions(at: Frame, faces: tuple[float, float], spots: "list[tuple[float, float]]", span: tuple[float, float], width: float, top: float, embedment: float) -> tuple[Dimension, ...]:
    def world(*points: Vec3) -> tuple[Vec3, ...]:
        return tuple(vec(p) for p in at.to_world(np.array(points)))

    (face, x), (low, high) = faces, span
    ys, zs = sorted({y for y, _ in spots}), sorted({z for _, z in spots})
    return (
        Dimension("side", "right", 0, world((x, width / 2, low), *((x, ys[-1], z) for z in zs), (x, width / 2, high)), ("", "pitch", "")),
        Dimension("side", "right", 1, world((x, width / 2, low), (x, width / 2, high)), ("height",)),
        Dimension("side", "bottom", 0, world((x, -width / 2, low), *((x, y, low) for y in ys), (x, width / 2, low)), ("edge", "gauge", "edge")),
        Dimension("side", "bottom", 1, world((x, -width / 2, low), (x, width / 2, low)), ("width",)),
        Dimension("front", "right", 0, world((x, 0.0, low), (x, 0.0, 0.0)), ("past",)),
        Dimension("front", "right", 1, world((x, 0.0, 0.0), (x, 0.0, top)), ("top",)),
        Dimension("front", "bottom", 0, world((face - embedment, 0.0, low), (face, 0.0, low), (x, 0.0, low)), ("embedment", "thickness")),
    )


FAMILY = Family(
    "slab-side", "Post on a slab's side", ("rail post", "guard rail", "side mounted post", "fascia mounted", "slab edge", "balcony"), ("column foot",), SETTINGS, fits, build,
    {
        "tie-edge": ("edge", "width", "height"), "tie-spacing": ("pitch", "gauge"), "fillet-throat": ("weld_leg",), "fillet-leg-least": ("weld_leg",), "fillet-length": ("weld_leg",), "plate-step": ("width",),
        "plate-stock": ("thickness",),
    },
    pointed=("column foot",), situations=("feet", "secondary"), example=at_end(a_member("SHS 40x40x4", (0.0, 0.0, 0.0), (0.0, 0.0, 1100.0), "post"), end="start", typed={"facing": "left"}),
)  # fmt: skip
