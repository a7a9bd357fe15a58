"""Post on a side: a rail post beside a channel's back or a flat, on a plate between them, or a flat bolted straight to it.

Joint frame: origin where the post's middle line ends, x level away from the side it is fixed to, z up the post.
"""

import math
from dataclasses import dataclass

import numpy as np

from tincleat.catalogue.fasteners import BoltSize, bolt_size
from tincleat.catalogue.sections import Section
from tincleat.details.parts import Bolts, Detail, Dimension, Hole, Plate, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import BOLT_GRADES, BOLT_SIZES, STEEL_GRADES, Family, Given, Setting
from tincleat.families.example import a_girder, a_member, at_end
from tincleat.geometry.frames import Array, Frame, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case
from tincleat.kit.drill import drilled
from tincleat.kit.face import keep_on
from tincleat.kit.layout import down, inner_face, up
from tincleat.kit.packs import packs
from tincleat.kit.weld import fillet, flare
from tincleat.project.entities import HouseRules
from tincleat.standards.rulesets import rules_of
from tincleat.steel.cuts import EndCut

ABOUT = 80.0  # mm either way of the post and of the side's middle that a plate reaches, for what is out of square
MOST_ASKEW = 2.0  # mm over that, which bolts draw together (EN 1090-2 8.1)
THINNEST = 6.0  # mm of plate between post and side at least
KEPT = 3.0  # mm that a plate keeps inside a channel's back

SETTINGS = (
    Setting("height", "Plate height", "length", "Plate", None, "Up the side; as far as its flat goes, no more than 150 mm or 6 in, if not typed.", 40, 600),
    Setting("width", "Plate width", "length", "Plate", None, "Along the side; the bolts on both sides of the post and their edges if not typed.", 40, 500),
    Setting("grade", "Plate grade", "choice", "Plate", lambda h: h.plate_grade, "Steel grade of plate and packs.", choices=STEEL_GRADES),
    Setting("bolt", "Bolt", "choice", "Bolts", lambda h: "1/2in" if h.inch else "M12", "Size of the bolts.", choices=BOLT_SIZES),
    Setting("bolt_grade", "Bolt grade", "choice", "Bolts", lambda h: h.bolt_grade, "Strength class of the bolts.", choices=BOLT_GRADES),
    Setting("gauge", "Gauge", "length", "Bolts", None, "Between the bolts on both sides of the post; clear of its welds if not typed.", 30, 400),
    Setting("pitch", "Row pitch", "length", "Bolts", None, "Between the two rows; as far apart as the plate, or the side, lets them be if not typed.", 20, 500),
    Setting("edge", "Edge distance", "length", "Bolts", None, "From the bolts to the plate's edges, or to a flat post's end.", 15, 200),
    Setting("past", "Post over the plate's end", "length", "Post", None, "How far the post ends over the plate's lower edge; room for its weld if not typed.", 0, 200),
    Setting("weld_leg", "Weld leg", "length", "Welds", None, "Fillets under the post's end and over the plate.", 2, 15),
)  # fmt: skip


@dataclass(frozen=True)
class _Side:
    """The side at the post: x of its face, the post's half size towards it and along it, what lies between, height of the side's middle,
    half of its flat measured plumb, how much of that a plate loses for every millimetre of its breadth, and half of the clear height inside."""

    face: float
    half: float
    wide: float
    gap: float
    middle: float
    flat: float
    lean: float
    inside: float

    def room(self, size: BoltSize, y: float) -> float:
        """Greatest distance of two rows about the middle, ``y`` mm beside the post, whose washers clear the flanges' fillets, mm."""
        return 2 * (self.inside - size.washer_d / 2 * math.hypot(1.0, self.lean) - self.lean * y)


def _side(case: Case) -> _Side:
    post, support = case.supported, case.support
    assert support is not None
    shape, f = support.shape, support.frame
    half = post.shape.h / 2 if post.shape.shape == "CHS" else abs(post.frame.y[0]) * post.shape.b / 2 + abs(post.frame.z[0]) * post.shape.h / 2
    wide = post.shape.h / 2 if post.shape.shape == "CHS" else abs(post.frame.y[1]) * post.shape.b / 2 + abs(post.frame.z[1]) * post.shape.h / 2
    reach = (shape.tw if shape.shape == "FL" else shape.b) / 2
    run = np.array(f.x)
    middle = f.origin[2] - run[2] / run[1] * f.origin[1] if abs(run[1]) > 1e-6 else f.origin[2]  # where its middle line passes the post
    channel = shape.shape == "C"
    # a side that is not quite square, and a post that is not quite plumb, touch where they come nearest
    askew = [run[0] / run[1] * (y - f.origin[1]) + f.y[2] / f.y[0] * z for y in (-ABOUT, ABOUT) for z in (-ABOUT, ABOUT)] if abs(run[1]) > 0.1 and abs(f.y[0]) > 0.1 else [0.0]
    up_post = np.array(post.frame.x) / post.frame.x[2]
    leans = [post.frame.origin[0] + up_post[0] * (middle + z - post.frame.origin[2]) for z in (-ABOUT, ABOUT)]
    for words, some in ((f"the side of {shape.name}", askew), (f"{post.shape.name}", leans)):
        if max(some) - min(some) > MOST_ASKEW:
            raise NoFit(f"{words} is {max(some) - min(some):.1f} mm out of square over {2 * ABOUT:.0f} mm", right=f"at most {MOST_ASKEW:g} mm: a plumb post at a level member square to it")
    face, half = f.origin[0] + reach + max(askew), half - min(leans)
    flat = shape.h / 2 - (KEPT if channel else 0.0)
    inside = inner_face(shape, shape.b - shape.tw) - shape.r1 if channel else math.inf
    return _Side(face, half, wide, -half - face, middle, flat / abs(run[1]), abs(run[2] / run[1]), inside / abs(run[1]))


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless a square tube or flat stands plumb beside the flat side of a lying member."""
    if case.kind != "post beside" or case.support is None:
        raise NoFit(f"a post on a side stands beside a member's flat side; this is a {case.kind}", right="the lower end of a post beside a channel's back or a flat")
    shape = case.supported.shape
    if shape.shape not in ("RHS", "FL"):
        raise NoFit(f"{shape.name} is a {shape.shape} section", right="a square or rectangular tube, or a flat")
    turned = min(abs(case.supported.frame.y[0]), abs(case.supported.frame.z[0]))
    if turned > 0.02:
        raise NoFit(f"the post stands {math.degrees(math.asin(min(1.0, turned))):.0f}° turned to the side", right="a face of it along the side")
    side = _side(case)
    if side.gap < -0.5:
        raise NoFit(f"the post stands {-side.gap:.0f} mm inside {case.support.shape.name}", right="a post beside it")
    if not _direct(case) and side.gap < THINNEST - 0.01:
        raise NoFit(f"between post and {case.support.shape.name} there are {side.gap:.1f} mm for the plate", right=f"at least {THINNEST:.0f} mm")


def _direct(case: Case) -> bool:
    """Whether a flat lies with its broad face to the side, to be bolted straight to it."""
    shape = case.supported.shape
    return shape.shape == "FL" and abs(case.supported.frame.y[0]) > 0.7


def build(case: Case, given: Given) -> Detail:
    """The plate with packs and welds, or a flat's own holes; bolts, holes in the side, the post's end."""
    house = given.house
    step = 6.35 if house.inch else 5.0
    size = bolt_size(str(given.value("bolt")), given.house.tighten_room)
    hole, _ = house.hole(size.name, "normal")
    least = rules_of(house).edge_least(size, Hole(0, 0, hole, hole), False).value
    edge = float(given.worked_out("edge", up(max(least, 1.5 * size.d), step)))
    side = _side(case)
    return (_bolted if _direct(case) else _plated)(case, given, side, size, hole, edge, step)


def _rows(given: Given, side: _Side, size: BoltSize, hole: float, room: float, step: float) -> list[float]:
    """Two rows about the side's middle, ``room`` mm apart at most."""
    house = given.house
    near = rules_of(house).spacing_least(size, Hole(0, 0, hole, hole), True).value
    pitch = float(given.worked_out("pitch", down(room, step)))
    if pitch < near - 0.01:
        raise NoFit(f"the side leaves {room:.0f} mm between two rows of {size.name}, which need {near:.0f} mm", right="smaller bolts, or a deeper member")
    return [side.middle - pitch / 2, side.middle + pitch / 2]


def _bolted(case: Case, given: Given, side: _Side, size: BoltSize, hole: float, edge: float, step: float) -> Detail:
    """A flat bolted straight to the side, with packs where it stands off."""
    house, shape = given.house, case.supported.shape
    rows = _rows(given, side, size, hole, min(2 * (side.flat - edge), side.room(size, 0.0), _apart(case, shape.tw, house), 152.4 if house.inch else 150.0), step)
    if rules_of(house).edge_least(size, Hole(0, 0, hole, hole), False).value > side.wide + 0.05:
        raise NoFit(f"a flat {2 * side.wide:.0f} mm broad does not hold {size.name}", right="smaller bolts, or a broader flat")
    bottom = rows[0] - edge
    spots = [(0.0, z) for z in rows]
    plates = _packs(side, side.gap, (-side.wide, side.wide), (bottom, rows[1] + edge), spots, hole, house, str(given.value("grade"))) if side.gap >= 1.0 else []
    return _made(case, given, side, size, hole, spots, plates, [], bottom, (2 * side.wide, rows[1] + edge - bottom))


def _plated(case: Case, given: Given, side: _Side, size: BoltSize, hole: float, edge: float, step: float) -> Detail:
    """A plate between post and side, welded to the post, bolted on both sides of it."""
    house, shape = given.house, case.supported.shape
    stock = [t for t in house.plates if t <= side.gap + 0.01]
    if not stock:
        raise NoFit(f"no stocked plate goes into the {side.gap:.1f} mm between post and side", right=f"at least {min(house.plates):g} mm")
    t = max(stock)
    leg = given.rounded("weld_leg", max(min(0.7 * min(t, shape.tw), shape.tw), 4.7625 if house.inch else 4.25), "weld leg")
    apart = _apart(case, t, house)
    clear = 2 * (side.wide + size.clear)
    gauge = float(given.worked_out("gauge", min(up(clear, step), max(clear, apart))))
    width = given.rounded("width", gauge + 2 * edge, "plate width")
    flat = 2 * (side.flat - side.lean * width / 2)
    height = float(given.worked_out("height", down(min(flat, 152.4 if house.inch else 150.0), step)))
    if height > flat + 0.05:
        raise NoFit(f"a plate {height:.0f} mm high and {width:.0f} mm broad leaves the side, which has {max(flat, 0.0):.0f} mm for it", right=f"at most {max(flat, 0.0):.0f} mm")
    rows = _rows(given, side, size, hole, min(height - 2 * edge, side.room(size, gauge / 2), apart), step)
    spots = [(s * gauge / 2, z) for z in rows for s in (-1.0, 1.0)]
    low, high = side.middle - height / 2, side.middle + height / 2
    grade = str(given.value("grade"))
    holes = tuple(Hole(y, z, hole, hole) for y, z in spots)
    frame = Frame((-side.half - t, 0.0, 0.0), (0.0, 1.0, 0.0), (1.0, 0.0, 0.0))
    plates = [Plate("post plate", Outline.rectangle(-width / 2, low, width / 2, high), t, frame, grade, holes, ("plate width", ""))]
    if side.gap - t >= 1.0:
        plates += _packs(side, side.gap - t, (-width / 2, width / 2), (low, high), spots, hole, house, grade)
    bottom = low + float(given.worked_out("past", up(leg + 2.0, step)))
    if high - bottom < 4 * leg:
        raise NoFit(f"the post ends {bottom - low:.0f} mm over the plate's lower edge, which leaves {max(high - bottom, 0.0):.0f} mm of weld", right=f"at most {max(height - 4 * leg, 0.0):.0f} mm")
    welds = held_by(given, shape, (side.half, side.wide), (bottom, high), leg, case.supported.frame)
    return _made(case, given, side, size, hole, spots, plates, welds, bottom, (width, height))


def held_by(given: Given, shape: Section, sides: tuple[float, float], span: tuple[float, float], leg: float, post: Frame) -> list[Weld]:
    """The welds of a post to the plate on the side of it towards -x: ``sides`` are its half sizes towards it and along it, ``span`` from where to
    where up the post they touch, mm; a tube's rounded corners are filled as flares, a flat has fillets.  They follow the ``post`` where that
    leans along the plate."""
    (half, wide), (bottom, high), house = sides, span, given.house
    x = -half
    y = wide - (shape.r1 if shape.shape == "RHS" else 0.0)
    parts = ("post plate", "supported member")
    low_y, high_y = (post.origin[1] + post.x[1] / post.x[2] * (z - post.origin[2]) for z in span)
    up_way, out = (0.0, 0.0, 1.0), (1.0, 0.0, 0.0)
    welds: list[Weld] = []
    least = rules_of(house).fillet_length(leg, leg * math.sqrt(0.5)).value
    long_enough = 2 * y - 2 * leg >= least  # less its start and end
    if not long_enough and not given.has("weld_leg"):
        given.fitted("weld_leg", leg, f"under and over the post fillets would be {2 * y - 2 * leg:.0f} mm long, {least:.0f} are required: left out, those beside it carry alone")
    if long_enough:
        welds.append(fillet("over the plate", leg, (x, high_y - y, high), (x, high_y + y, high), (-1.0, 0.0, 0.0), up_way, parts))
    if long_enough and (shape.shape != "RHS" or shape.tw >= leg - 0.01):  # a thinner wall's end holds no fillet that is thick enough
        welds.append(fillet("under the post", leg, (x, low_y - y, bottom), (x, low_y + y, bottom), (0.0, 0.0, -1.0), out, parts))
    for s in (-1.0, 1.0):
        if shape.shape == "RHS":
            welds.append(flare("flare beside the post", shape.r1, shape.tw, ((x, low_y + s * wide, bottom), (x, high_y + s * wide, high)), (0.0, s, 0.0), out, parts))
        else:
            welds.append(fillet("beside the post", leg, (x, low_y + s * y, bottom), (x, high_y + s * y, high), (0.0, s, 0.0), out, parts))
    return welds


def _apart(case: Case, thickness: float, house: HouseRules) -> float:
    """How far apart bolts through ``thickness`` mm of steel and the side may be where it is exposed, mm."""
    assert case.support is not None
    return rules_of(house).spacing_greatest(min(thickness, case.support.shape.tw)).value if house.exposed else math.inf


def _packs(side: _Side, gap: float, across: tuple[float, float], span: tuple[float, float], spots: "list[tuple[float, float]]", hole: float, house: HouseRules, grade: str) -> list[Plate]:
    out, x = [], side.face
    for i, t in enumerate(packs(gap, house), 1):
        out.append(Plate(f"pack {i}", Outline.rectangle(across[0], span[0], across[1], span[1]), t, Frame((x, 0.0, 0.0), (0.0, 1.0, 0.0), (1.0, 0.0, 0.0)), grade, tuple(Hole(y, z, hole, hole) for y, z in spots), ("pack", "pack")))
        x += t
    return out


def _made(
    case: Case, given: Given, side: _Side, size: BoltSize, hole: float, spots: "list[tuple[float, float]]", plates: list[Plate], welds: list[Weld], bottom: float, extent: tuple[float, float]
) -> Detail:
    assert case.support is not None
    keep_on(case.support, [np.array((side.face, s * extent[0] / 2, bottom)) for s in (-1.0, 1.0)], "the post or its plate")
    points: list[Array] = [np.array((side.face, y, z)) for y, z in spots]
    bolts = Bolts("bolts", size.name, str(given.value("bolt_grade")), tuple(vec(p) for p in points), (-1.0, 0.0, 0.0), (0.0, 0.0, 1.0))
    holes = drilled(case, 1, points, (1.0, 0.0, 0.0), hole, hole, (0.0, 0.0, 1.0))
    if not welds:
        holes += drilled(case, 0, points, (1.0, 0.0, 0.0), hole, hole, (0.0, 0.0, 1.0))
    return Detail(
        "post on a side", tuple(plates), (bolts,), tuple(welds), ends=(EndCut(0, (0.0, 0.0, bottom), (0.0, 0.0, 1.0)),), holes=holes, numbers=tuple(given.numbers.values()),
        dimensions=_dimensions(side, spots, bottom, extent, bool(welds)),
    )  # fmt: skip


def _dimensions(side: _Side, spots: "list[tuple[float, float]]", bottom: float, extent: tuple[float, float], plated: bool) -> tuple[Dimension, ...]:
    ys, zs = sorted({y for y, _ in spots}), sorted({z for _, z in spots})
    width, height = extent
    low, high = (side.middle - height / 2, side.middle + height / 2) if plated else (bottom, bottom + height)
    x = -side.half
    out = [Dimension("side", "right", 0, ((x, width / 2, low), *((x, ys[-1], z) for z in zs), (x, width / 2, high)), ("edge" if not plated else "", "pitch", ""))]
    if plated:
        out += [
            Dimension("side", "right", 1, ((x, width / 2, low), (x, width / 2, high)), ("height",)),
            Dimension("side", "bottom", 0, ((x, -width / 2, low), *((x, y, low) for y in ys), (x, width / 2, low)), ("edge", "gauge", "edge")),
            Dimension("side", "bottom", 1, ((x, -width / 2, low), (x, width / 2, low)), ("width",)),
            Dimension("front", "left", 0, ((x, 0.0, low), (x, 0.0, bottom)), ("past",)),
        ]
    return tuple(out)


FAMILY = Family(
    "post-side", "Post on side", ("rail post", "guard rail", "side mounted post", "fascia mounted", "baluster"), ("post beside",), SETTINGS, fits, build,
    {
        "edge-least": ("edge", "width", "height"), "edge-greatest": ("edge", "width", "height"), "spacing-least": ("pitch", "gauge"), "spacing-greatest": ("pitch", "gauge"), "fillet-throat": ("weld_leg",),
        "fillet-leg-least": ("weld_leg",), "fillet-length": ("weld_leg",), "plate-step": ("width",),
    },
    situations=("secondary",), example=at_end(a_girder("PFC 230x75x26"), a_member("SHS 40x40x4", (0.0, -67.5, 2940.0), (0.0, -67.5, 4100.0), "post"), end="start"),
)  # fmt: skip
