"""Bearing on a wall: a plate on grout under the level end of a beam, welded to its flange and held by rods beside it, on a
padstone or in a pocket.

Joint frame: origin where the beam's middle line ends, x along the beam into its length, z plumb.
"""

import math

import numpy as np

from tincleat.catalogue.fasteners import AnchorSize, anchor_size
from tincleat.details.parts import Block, Detail, Dimension, Hole, Plate, Rod, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import ANCHOR_GRADES, ANCHOR_SIZES, STEEL_GRADES, Family, Given, Setting
from tincleat.families.example import a_beam, at_end
from tincleat.geometry.frames import Frame, Vec3, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case, CaseMember
from tincleat.kit.foot import legs_round
from tincleat.kit.layout import down, up
from tincleat.kit.packs import stocked
from tincleat.kit.rods import hooks
from tincleat.kit.stiffen import room_beside, stiffeners_at
from tincleat.kit.weld import fillet
from tincleat.project.entities import HouseRules
from tincleat.standards.rulesets import rules_of
from tincleat.steel.cuts import EndCut

MOST_SLOPE = math.radians(0.5)
NONE, TWO, FOUR = "none", "two", "four"

SETTINGS = (
    Setting("bearing", "Bearing", "length", "Bearing", 150.0, "How far the beam's end lies on its plate, which is as long.", 50, 1500, inches=152.4),
    Setting("width", "Plate width", "length", "Bearing", None, "Across the beam; the flange with its welds, or room for rods on both sides, if not typed.", 40, 1500),
    Setting("thickness", "Plate thickness", "length", "Bearing", 15.0, "Thickness of the bearing plate.", 5, 100, inches=15.875),
    Setting("grade", "Plate grade", "choice", "Bearing", lambda h: h.plate_grade, "Steel grade of plate and stiffeners.", choices=STEEL_GRADES),
    Setting("grout", "Grout", "length", "Bearing", 20.0, "Grout under the plate.", 0, 150, inches=19.05),
    Setting("face", "Wall's face to plate", "length", "Bearing", 25.0, "How far the plate is kept back from the wall's face.", 0, 500, inches=25.4),
    Setting("padstone", "Padstone", "flag", "Bearing", True, "Draw the padstone under the plate."),
    Setting("pad_margin", "Padstone past the plate", "length", "Bearing", 100.0, "To both sides and behind the beam's end.", 0, 1000, inches=101.6),
    Setting("pad_depth", "Padstone depth", "length", "Bearing", 215.0, "Depth of the padstone.", 50, 1500, inches=203.2),
    Setting("concrete", "Concrete", "choice", "Bearing", lambda h: "4000 psi" if h.inch else "C30/37", "Concrete grade of the padstone.", choices=("C25/30", "C30/37", "C35/45", "C40/50", "4000 psi", "5000 psi")),
    Setting("rods", "Rods", "choice", "Anchor rods", TWO, "How many stand beside the beam.", choices=(NONE, TWO, FOUR)),
    Setting("anchor", "Rod size", "choice", "Anchor rods", lambda h: "3/4in" if h.inch else "M16", "Diameter of the rods.", choices=ANCHOR_SIZES),
    Setting("anchor_grade", "Rod grade", "choice", "Anchor rods", lambda h: h.anchor_grade, "Strength class of the rods.", choices=ANCHOR_GRADES),
    Setting("gauge", "Rods across", "length", "Anchor rods", None, "Between the rods of both sides; clear of flange and welds if not typed.", 30, 1500),
    Setting("pitch", "Rods along", "length", "Anchor rods", None, "Between the two rods of a side, where there are four.", 30, 1000),
    Setting("rod_foot", "Rod foot", "choice", "Anchor rods", "resin", "How the rod is held in the concrete.", choices=("resin", "hooked", "headed", "plate")),
    Setting("embedment", "Embedment", "length", "Anchor rods", 125.0, "Rod below the top of the padstone.", 40, 1500, inches=127.0),
    Setting("rod_projection", "Rod above the plate", "length", "Anchor rods", None, "Worked out from washer and nut if not typed.", 10, 300),
    Setting("weld_leg", "Weld leg", "length", "Welds", None, "Fillets along both edges of the flange.", 3, 30),
    Setting("stiffeners", "Stiffeners", "flag", "Stiffeners", False, "Plates on both sides of the beam's web over the middle of the bearing."),
    Setting("stiffener_thickness", "Stiffener thickness", "length", "Stiffeners", None, "On plate stock, about the flange's, if not typed.", 4, 60),
    Setting("stiffener_width", "Stiffener width", "length", "Stiffeners", None, "From the web out; to the flange's edge and down to flat-bar stock if not typed.", 15, 500),
    Setting("stiffener_weld", "Stiffener weld leg", "length", "Stiffeners", None, "Fillets on both faces of the stiffeners.", 3, 30),
)  # fmt: skip


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless an I-section or channel ends level and upright, meeting nothing."""
    if case.kind != "free end":
        raise NoFit(f"a wall bears a beam's end that meets no steel; this is a {case.kind}", right="such an end")
    m = case.supported
    if m.shape.shape not in ("I", "C"):
        raise NoFit(f"{m.section} is a {m.shape.shape} section; the plate is welded to the edges of a flat flange", right="an I-section or channel")
    slope = math.asin(max(-1.0, min(1.0, abs(m.away[2]))))
    if slope > MOST_SLOPE:
        raise NoFit(f"the beam slopes by {math.degrees(slope):.1f}°", right="a level beam")
    lean = math.acos(min(1.0, abs(m.frame.z[2])))
    if lean > MOST_SLOPE:
        raise NoFit(f"the beam leans by {math.degrees(lean):.1f}°", right="a beam that stands upright on its flange")
    if m.shape.h_end or m.shape.slope:
        raise NoFit(f"the depth or the flanges of {m.section} taper", right="a beam of even depth and flanges")


def build(case: Case, given: Given) -> Detail:
    """Plate, fillets, rods with washers and nuts, grout, padstone, stiffeners, the end cut square."""
    house, m = given.house, case.supported
    shape, inch = m.shape, house.inch
    step = 6.35 if inch else 5.0
    rod = anchor_size(str(given.value("anchor")))
    t, grout, bearing = (float(given.value(k)) for k in ("thickness", "grout", "bearing"))
    leg = given.rounded("weld_leg", legs_round(shape, t, inch)[0], "weld leg")
    edge = shape.tf or shape.tw  # of the flange, which a fillet may not melt away: to 1/16 in of it where it is thick
    edge = edge if edge < 6.35 or not inch else edge - 1.5875
    if leg > edge and not given.has("weld_leg"):
        leg = float(given.fitted("weld_leg", down(edge, 1.5875 if inch else 0.5), f"the flange's edge is {shape.tf or shape.tw:.1f} mm thick"))
    count = {NONE: 0, TWO: 1, FOUR: 2}[str(given.value("rods"))]
    inset = up(1.75 * rod.d, step)
    gauge = float(given.worked_out("gauge", up(shape.b + 2 * (leg + max(rod.washer_side / 2, rod.nut_af)), 2 * step))) if count else 0.0
    width = given.rounded("width", max(shape.b + 2 * (leg + 5.0), gauge + 2 * inset if count else 0.0), "base plate")
    if width < shape.b + 2 * leg:
        raise NoFit(f"the plate is {width:.0f} mm wide, the beam with its fillets {shape.b + 2 * leg:.0f} mm", right=f"at least {shape.b + 2 * leg:.0f} mm")
    pitch = float(given.worked_out("pitch", max(up(4 * rod.d, step), bearing - 2 * inset))) if count > 1 else 0.0
    if count > 1 and pitch > bearing - 2 * rod.d:
        raise NoFit(f"two rods {pitch:.0f} mm apart do not stand on a plate {bearing:.0f} mm long", right=f"at most {bearing - 2 * rod.d:.0f} mm, a longer bearing, or two rods")
    side = math.copysign(1.0, m.away[0])
    # the beam's underside lies on the plate; of one that is not quite level what comes lowest
    lies = [m.frame.point((x, y, -shape.h / 2 if m.frame.z[2] > 0 else shape.h / 2))[2] for x in _stations(m, bearing) for y in (-shape.b / 2, shape.b / 2)]
    over, spare = min(lies), rules_of(house).weld_gap(house.weld_gap).value
    if max(lies) - over > spare + 0.005:
        raise NoFit(f"the beam is {max(lies) - over:.1f} mm out of level over the plate", right=f"at most {spare:g} mm")
    middle = side * bearing / 2
    under = over - t
    outline = Outline.rectangle(-bearing / 2, -width / 2, bearing / 2, width / 2)
    y0 = m.frame.origin[1]
    at = Frame((middle, y0, under))
    xs = [-pitch / 2, pitch / 2] if count > 1 else [0.0] * count
    spots = [(x, s * gauge / 2) for x in xs for s in (-1.0, 1.0)]
    plate = Plate("bearing plate", outline, t, at, str(given.value("grade")), tuple(Hole(x, y, rod.hole, rod.hole, 0.0, "anchor") for x, y in spots), ("", "base plate"))
    top = under - grout
    rods = _rods(given, rod, [(middle + x, y0 + y) for x, y in spots], top, over, step)
    welds = [
        fillet(f"beam to plate, {'near' if s < 0 else 'far'} side", leg, (middle - bearing / 2, y0 + s * shape.b / 2, over), (middle + bearing / 2, y0 + s * shape.b / 2, over), (0.0, s, 0.0), (0.0, 0.0, 1.0),
               ("bearing plate", "supported member")) for s in (-1.0, 1.0)
    ]  # fmt: skip
    plates = [plate]
    if given.value("stiffeners"):
        some, seams = _stiffeners(m, given, abs(middle), step)
        plates += some
        welds += seams
    blocks = [Block("grout", "grout", outline, grout, at.moved(z=-grout))] if grout else []
    if given.value("padstone"):
        margin, deep = float(given.value("pad_margin")), float(given.value("pad_depth"))
        ends = sorted((-side * (bearing / 2 + margin), side * (bearing / 2 + float(given.value("face")))))
        blocks.append(Block("padstone", str(given.value("concrete")), Outline.rectangle(ends[0], -width / 2 - margin, ends[1], width / 2 + margin), deep, Frame((middle, y0, top - deep))))
    return Detail(
        "wall bearing", tuple(plates), (), tuple(welds), rods, tuple(blocks), (EndCut(0, (0.0, 0.0, 0.0), (side, 0.0, 0.0)),),
        dimensions=_dimensions((middle, y0), (bearing, width), spots, (top, under, over), rods, side * float(given.value("face")) if given.value("padstone") else 0.0), numbers=tuple(given.numbers.values()),
    )  # fmt: skip


def _stations(m: CaseMember, bearing: float) -> tuple[float, float]:
    """Where along the member's own frame its end stands, and where the plate under it ends, mm."""
    end = -float(np.dot(m.frame.origin, m.frame.x))  # the joint's origin
    return end, end + bearing * math.copysign(1.0, float(np.dot(m.away, m.frame.x)))


def _rods(given: Given, rod: AnchorSize, spots: list[tuple[float, float]], top: float, over: float, step: float) -> tuple[Rod, ...]:
    """Rods from their foot in the padstone to their thread over the plate."""
    need = rod.washer_t + rod.nut_height + 2 * rod.pitch
    projection = float(given.worked_out("rod_projection", up(need, step))) if spots else 0.0
    bottom = top - float(given.value("embedment"))
    foot = given.value("rod_foot")
    ways = hooks(foot, spots, rod.d)
    return tuple(
        Rod(f"rod {i}", rod.name, str(given.value("anchor_grade")), x, y, bottom, over + projection, foot, (over + rod.washer_t,), (over,), (rod.washer_side, rod.washer_t), hook=way)
        for i, ((x, y), way) in enumerate(zip(spots, ways, strict=True), 1)
    )  # fmt: skip


def _stiffeners(m: CaseMember, given: Given, station: float, step: float) -> tuple[list[Plate], list[Weld]]:
    house, shape = given.house, m.shape
    t = float(given.worked_out("stiffener_thickness", stocked(shape.tf, house)))
    leg = given.rounded("stiffener_weld", min(max(0.5 * t, 4.7625 if house.inch else 5.0), max(shape.tw, 5.0)), "weld leg")
    width = given.rounded("stiffener_width", room_beside(shape), "stiffener")
    way = math.copysign(1.0, float(np.array(m.away) @ np.array(m.frame.x)))
    return stiffeners_at(m, way * station, str(given.value("grade")), t, width, up(shape.r1 + 5.0, step), leg, "supported member")


def _dimensions(
    middle: tuple[float, float], size: tuple[float, float], spots: list[tuple[float, float]], levels: tuple[float, float, float], rods: tuple[Rod, ...], face: float
) -> tuple[Dimension, ...]:
    x, y = middle
    a, b = size[0] / 2, size[1] / 2
    top, under, over = levels

    def p(u: float, v: float, z: float = over) -> Vec3:
        return vec((x + u, y + v, z))

    us, vs = sorted({u for u, _ in spots}), sorted({v for _, v in spots})
    out = [
        Dimension("plan", "bottom", 1, (p(-a, -b), p(a, -b)), ("bearing",)),
        Dimension("plan", "right", 1, (p(a, -b), p(a, b)), ("width",)),
        Dimension("front", "left" if face >= 0 else "right", 0, (p(-a if face >= 0 else a, 0.0, over), p(-a if face >= 0 else a, 0.0, under), *((p(-a if face >= 0 else a, 0.0, top),) if under > top else ())), ("thickness", "grout")[: 1 + (under > top)]),
    ]
    if us:
        out.append(Dimension("plan", "bottom", 0, (p(-a, -b), *(p(u, -b) for u in us), p(a, -b)), ("", *("pitch",) * (len(us) - 1), "")))
        out.append(Dimension("plan", "right", 0, (p(a, -b), *(p(a, v) for v in vs), p(a, b)), ("", "gauge", "")))
        out.append(Dimension("side", "right", 0, (p(0.0, b, over), p(0.0, vs[-1], rods[0].top)), ("rod_projection",)))
    if face:
        edge = math.copysign(a, face)
        out.append(Dimension("front", "bottom", 0, (p(edge, 0.0, top), p(edge + face, 0.0, top)), ("face",)))
    return tuple(out)


FAMILY = Family(
    "wall-bearing", "Wall bearing", ("bearing on a wall", "beam on wall", "padstone", "pocket", "bearing plate", "wall plate", "lintel"), ("free end",), SETTINGS, fits, build,
    {
        "rod-edge": ("gauge", "width", "pitch", "bearing"), "rod-spacing": ("pitch", "gauge"), "rod-thread": ("rod_projection",), "rod-clear": ("gauge",), "rod-cover": ("anchor",),
        "fillet-throat": ("weld_leg", "stiffener_weld"), "fillet-leg-least": ("weld_leg", "stiffener_weld"), "fillet-leg-greatest": ("weld_leg", "stiffener_weld"), "fillet-length": ("bearing", "weld_leg"),
        "plate-stock": ("thickness", "stiffener_thickness"), "plate-step": ("width", "stiffener_width"),
    },
    situations=("beams",), example=at_end(a_beam("IPE 300")),
)  # fmt: skip
