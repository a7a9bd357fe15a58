"""Edge angle: an angle along a beam's top flange that holds the edge of a deck or slab, welded down by stitches.

Joint frame: origin on the beam's middle at the station, x along it, z up.  The angle lies to both sides of the station.
"""

import math

import numpy as np

from tincleat.catalogue.sections import section
from tincleat.details.parts import Detail, Dimension, SheetView, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import STEEL_GRADES, Family, Given, Setting
from tincleat.families.example import a_girder, at_station
from tincleat.geometry.frames import Frame, Vec3, vec
from tincleat.joints.case import Case
from tincleat.kit.angle import ANGLES, angle, first_choice, longer, shorter
from tincleat.kit.face import steel_along
from tincleat.kit.layout import down, up
from tincleat.kit.weld import fillet
from tincleat.project.entities import HouseRules

MOST_LENGTH = 8000.0  # mm: as far as the steel of a stretch is looked at
LEAST_LAP = 20.0  # mm of the lying leg on the flange
TOE, BOTH = "at the toe", "at toe and flange edge"

SETTINGS = (
    Setting("side", "Side", "choice", "Angle", "near side", "On which edge of the flange it stands.", choices=("near side", "far side"), handed=True),
    Setting("size", "Angle", "choice", "Angle", lambda h: first_choice(h, "L 150x90x10", "L6X4X3/8"), "Section of the angle.", choices=ANGLES),
    Setting("upright", "Upright leg", "choice", "Angle", "the longer", "Which leg of an unequal angle stands up.", choices=("the longer", "the shorter")),
    Setting("length", "Length", "length", "Angle", None, "Half to each side of the station; as far as the beam's nearer end lets it if not typed.", 100, MOST_LENGTH),
    Setting("out", "Past the flange", "length", "Angle", None, "From the flange's edge out to the angle's back; half its lying leg if not typed.", 0, 400),
    Setting("grade", "Grade", "choice", "Angle", lambda h: h.plate_grade, "Steel grade of the angle.", choices=STEEL_GRADES),
    Setting("welded", "Welded", "choice", "Welds", None, "At the toe, or under the angle along the flange's edge too, which is usual where there is room.", choices=(TOE, BOTH)),
    Setting("weld_leg", "Weld leg", "length", "Welds", None, "Of the stitches.", 3, 20),
    Setting("stitch", "Stitch length", "length", "Welds", None, "Of each weld; 50 mm, or what its leg asks for, if not typed.", 20, 1000),
    Setting("pitch", "Stitch pitch", "length", "Welds", 300.0, "Between middles of welds, from the station out; one lies at each end.", 40, 2000, inches=304.8),
)  # fmt: skip


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit unless this is a stretch of a member with flanges."""
    if case.kind != "along":
        raise NoFit(f"an edge angle lies along a member; this is a {case.kind}", right="a member and a distance from its start, such as m12@2500")
    m = case.members[0]
    if m.shape.shape not in ("I", "C"):
        raise NoFit(f"{m.shape.name} is a {m.shape.shape} section; the angle lies on a flange", right="an I-section or channel")


def build(case: Case, given: Given) -> Detail:
    """The angle and its stitches."""
    house, m = given.house, case.members[0]
    inch, shape = house.inch, section(str(given.value("size")))
    tall, flat = (longer(shape), shorter(shape)) if given.value("upright") == "the longer" else (shorter(shape), longer(shape))
    t, step = shape.tw, 6.35 if inch else 5.0
    side = -1.0 if given.value("side") == "near side" else 1.0
    flange = next(e for e in m.shape.elements if e.normal == "z" and e.at * m.frame.z[2] > 0)
    edges = sorted(float(v) for v in m.frame.to_world([(0.0, flange.low, 0.0), (0.0, flange.high, 0.0)])[:, 1])
    edge = edges[1] if side > 0 else edges[0]
    top = abs(float(m.frame.z[2])) * m.shape.h / 2 + float(m.frame.origin[2])
    low, high = steel_along(m, [(v, flange.at + math.copysign(flange.thickness / 2, flange.at)) for v in (flange.low, flange.high)])
    most = 2 * min(-low, high)
    length = float(given.worked_out("length", min(down(most - 2 * step, step), MOST_LENGTH)))
    if length > most + 0.1:
        raise NoFit(f"an angle {length:.0f} mm long reaches {(length - most) / 2:.0f} mm past the beam's end", right=f"at most {most:.0f} mm at this station")
    out = float(given.worked_out("out", down(flat / 2, step)))
    if flat - out < LEAST_LAP:
        raise NoFit(f"the lying leg of {shape.name}, {flat:.0f} mm, lies on the flange by {flat - out:.0f} mm", right=f"at least {LEAST_LAP:.0f} mm: {flat - LEAST_LAP:.0f} mm past the flange at most")
    leg = given.rounded("weld_leg", min(0.7 * t, t - (1.5875 if inch else 2.0), m.shape.tf), "weld leg")
    if flat - out + leg > edges[1] - edges[0] + 0.05:
        raise NoFit(f"the lying leg of {shape.name} and its weld take {flat - out + leg:.0f} mm of a flange {edges[1] - edges[0]:.0f} mm wide", right="a smaller angle, or further past the flange")
    welded = str(given.worked_out("welded", BOTH if out >= up(leg + 5.0, step) and m.shape.tf >= leg and not m.shape.slope else TOE))
    if welded == BOTH and out < leg + 1.0:
        raise NoFit(f"the angle stands {out:.0f} mm past the flange's edge: no room for a weld of {leg:g} mm under it", right=TOE)
    heel = np.array([-length / 2, edge + side * out, top])
    piece = angle("edge angle", shape.name, str(given.value("grade")), heel, (1.0, 0.0, 0.0), (0.0, 0.0, 1.0), (0.0, -side, 0.0), length, tall >= flat)
    stitch = float(given.worked_out("stitch", up(max(50.8 if inch else 50.0, 8 * 0.71 * leg), step)))  # 6 a without its ends, EN 1993-1-8 4.5.1
    pitch = float(given.value("pitch"))
    stitch = min(stitch, length)
    last = (length - stitch) / 2
    count = int(last / pitch + 1e-9)
    spots = [i * pitch for i in range(-count, count + 1)]
    if last - count * pitch > stitch:  # one at each end too
        spots = [-last, *spots, last]
    parts = ("member", "edge angle")
    welds: list[Weld] = []
    toe = edge + side * (out - flat)
    for x in spots:
        a, b = x - stitch / 2, x + stitch / 2
        welds.append(fillet("stitch at the toe", leg, (a, toe, top), (b, toe, top), (0.0, -side, 0.0), (0.0, 0.0, 1.0), parts))
        if welded == BOTH:
            welds.append(fillet("stitch under the angle", leg, (a, edge, top), (b, edge, top), (0.0, 0.0, -1.0), (0.0, side, 0.0), parts))
    return Detail(
        "edge angle", (), (), tuple(welds), pieces=(piece,), numbers=tuple(given.numbers.values()), views=_views(edges, top, tall, length, side, edge + side * out, pitch),
        dimensions=_dimensions(length, spots, stitch, (edge, edge + side * out, toe), (top, tall), side, count > 0),
    )  # fmt: skip


def _views(edges: list[float], top: float, tall: float, length: float, side: float, back: float, pitch: float) -> tuple[SheetView, ...]:
    """The beam's section with the angle on it, and a stretch of the angle from outside."""
    half = min(length / 2, 1.3 * pitch)
    low, high = min(edges[0], back) - 15.0, max(edges[1], back) + 15.0
    across = Frame.of((0.0, 0.0, 0.0), (0.0, 1.0, 0.0), (1.0, 0.0, 0.0))
    along = Frame.of((0.0, 0.0, 0.0), (-side, 0.0, 0.0), (0.0, side, 0.0))
    return (
        SheetView("side", "Across", across, (low, top - 2 * tall, high, top + tall + 15.0)),
        SheetView("front", "Along", along, (-half, top - tall, half, top + tall + 15.0)),
    )


def _dimensions(length: float, spots: list[float], stitch: float, ys: tuple[float, float, float], zs: tuple[float, float], side: float, on_pitch: bool) -> tuple[Dimension, ...]:
    edge, back, toe = ys
    top, tall = zs

    def p(x: float, y: float, z: float) -> Vec3:
        return vec((x, y, z))

    out = [
        Dimension("side", "bottom", 0, (p(0.0, edge, top), p(0.0, back, top)), ("out",)),
        Dimension("side", "bottom", 1, (p(0.0, toe, top), p(0.0, back, top)), ("",)),
        Dimension("side", "right" if side > 0 else "left", 0, (p(0.0, back, top), p(0.0, back, top + tall)), ("",)),
    ]
    if len(spots) > 1:
        first, second = sorted(spots, key=abs)[:2]
        out.append(Dimension("front", "bottom", 0, (p(first - stitch / 2, back, top), p(first + stitch / 2, back, top)), ("stitch",)))
        out.append(Dimension("front", "bottom", 1, tuple(p(x, back, top) for x in sorted((first, second))), ("pitch" if on_pitch else "",)))
    return tuple(out)


FAMILY = Family(
    "edge-angle", "Edge angle", ("deck edge", "slab edge", "pour stop", "edge trim", "closure angle", "stop end"), ("along",), SETTINGS, fits, build,
    {"fillet-throat": ("weld_leg",), "fillet-leg-least": ("weld_leg",), "fillet-leg-greatest": ("weld_leg",), "fillet-length": ("stitch", "weld_leg")},
    situations=("secondary",), example=at_station(a_girder("UB 457x191x67")),
)  # fmt: skip
