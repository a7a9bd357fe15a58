"""Stringer head: a plumb plate on the upper end of a stair's stringer, welded to its web and bolted beside it to the web of a floor beam.

Joint frame: origin where the stringer's middle line meets the support's face, x along the stringer, which falls or rises away.
"""

import math

import numpy as np

from tincleat.catalogue.fasteners import bolt_size
from tincleat.details.parts import Angle, Bolts, Detail, Dimension, Hole, Plate, SheetView
from tincleat.errors import NoFit
from tincleat.families.declare import BOLT_GRADES, BOLT_SIZES, STEEL_GRADES, Family, Given, Setting
from tincleat.families.example import a_girder, a_member, at_end
from tincleat.geometry.frames import Array, Frame, Vec3, crossed, unit, vec
from tincleat.geometry.mesh import overlap
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case, CaseMember
from tincleat.kit.cope import web_of
from tincleat.kit.drill import drilled
from tincleat.kit.face import face_of, face_width
from tincleat.kit.foot import web_welds
from tincleat.kit.layout import centred, down, up
from tincleat.project.entities import HouseRules
from tincleat.standards.rulesets import rules_of
from tincleat.steel.body import steel_mesh
from tincleat.steel.cuts import Cuts, EndCut
from tincleat.units import format_volume

FLATTEST, STEEPEST = math.radians(15), math.radians(60)
NEAR = 600.0  # mm of both members that are looked at
KINDS = ("beam to beam web", "beam to column web")

SETTINGS = (
    Setting("thickness", "Plate thickness", "length", "Plate", 10.0, "Thickness of the plate.", 5, 60, inches=9.525),
    Setting("height", "Plate height", "length", "Plate", None, "Along the support's face; the stringer's end and a little more, as far as the face goes, if not typed.", 40, 1500),
    Setting("width", "Plate width", "length", "Plate", None, "Across; the bolts and their edges if not typed.", 40, 800),
    Setting("past", "Plate past the end", "length", "Plate", 10.0, "Over and under the stringer's end, before rounding.", 0, 300, inches=9.525),
    Setting("grade", "Plate grade", "choice", "Plate", lambda h: h.plate_grade, "Steel grade of the plate.", choices=STEEL_GRADES),
    Setting("bolt", "Bolt", "choice", "Bolts", lambda h: "5/8in" if h.inch else "M16", "Size of the bolts.", choices=BOLT_SIZES),
    Setting("bolt_grade", "Bolt grade", "choice", "Bolts", lambda h: h.bolt_grade, "Strength class of the bolts.", choices=BOLT_GRADES),
    Setting("gauge", "Gauge", "length", "Bolts", None, "Between the bolts on both sides of the stringer's web; clear of its welds if not typed.", 30, 400),
    Setting("pitch", "Row pitch", "spacings", "Bolts", None, "Spacings of the rows; two rows between the flanges, of a flat two or three, if not typed.", 0, 800),
    Setting("edge", "Edge distance", "length", "Bolts", None, "From the bolts to the plate's sides.", 15, 200),
    Setting("weld_leg", "Weld leg", "length", "Welds", None, "Fillets on both faces of the stringer's web.", 3, 20),
)  # fmt: skip


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless a channel, I-section or flat with a plumb web comes slanting, square in plan, to the web of a beam or column."""
    if case.kind not in KINDS or case.support is None:
        raise NoFit(f"a stringer's head is bolted to a web; this is a {case.kind}", right="a stringer's end on the web of a beam or column")
    m = case.supported
    if m.shape.shape not in ("C", "I", "FL"):
        raise NoFit(f"{m.section} is a {m.shape.shape} section", right="a channel, I-section or flat")
    n, _, w = _plane(case)
    slope = math.acos(min(1.0, float(n @ np.array(m.away))))
    if not FLATTEST - 1e-4 <= slope <= STEEPEST + 1e-4:
        raise NoFit(f"the stringer stands {math.degrees(slope):.1f}° off square to the face", right=f"{math.degrees(FLATTEST):.0f} to {math.degrees(STEEPEST):.0f}°; flatter ones have cleats or a fin plate")
    aside = max(abs(float(w @ np.array(m.frame.x))), 1 - abs(float(w @ np.array(m.frame.y))))
    if aside > 0.02:
        raise NoFit(f"the stringer comes {math.degrees(math.asin(min(1.0, abs(float(w @ np.array(m.frame.x)))))):.0f}° askew in plan, or its web leans", right="square in plan, its web plumb")


def _plane(case: Case) -> tuple[Array, Array, Array]:
    """The face's normal, the way up it in the stringer's plane, and the way across."""
    n, _ = face_of(case)
    z = np.array(case.supported.frame.z)
    v = unit(z - n * float(z @ n))
    v = v if v[2] > 0 else -v
    return n, v, crossed(v, n)


def build(case: Case, given: Given) -> Detail:
    """Plate, fillets on the stringer's web, bolts in rows beside it, holes in the support, the stringer cut along the plate."""
    house, m, support = given.house, case.supported, case.support
    assert support is not None
    inch, shape = house.inch, m.shape
    step = 6.35 if inch else 5.0
    n, v, w = _plane(case)
    _, on_face = face_of(case)
    away = np.array(m.away)
    steep = float(n @ away)
    t = float(given.value("thickness"))
    size = bolt_size(str(given.value("bolt")), given.house.tighten_room)
    hole, _ = house.hole(size.name, "normal")
    least = rules_of(house).edge_least(size, Hole(0, 0, hole, hole), False).value
    edge = float(given.worked_out("edge", up(max(least, 1.5 * size.d), step)))
    leg = given.rounded("weld_leg", min(max(0.7 * shape.tw, 4.7625 if inch else 5.0), 10.0), "weld leg")
    centre = m.frame.o + away * (float((on_face + n * t - m.frame.o) @ n) / steep)  # where the stringer's middle line meets the plate
    web = web_of(shape.elements)
    at = web.at if web is not None else 0.0
    middle = centre + np.array(m.frame.y) * at
    middle = middle - n * float((middle - on_face) @ n)  # on the support's face behind the web
    tall = shape.h / steep
    low, high = _room(case, middle, v)
    root = support.shape.root if _at_back(case) else 0.0  # behind a channel's back its flanges are in the nuts' way
    if low > -tall / 2 + 0.05 or high < tall / 2 - 0.05:
        raise NoFit(
            f"the stringer's end is {tall:.0f} mm high on the face and reaches {max(low + tall / 2, tall / 2 - high):.0f} mm past the flat of {support.shape.name}", right="a stringer nearer the middle of the web, or a deeper beam"
        )
    _clear_of_support(m, support, centre, n, v)
    gauge = float(given.worked_out("gauge", up(shape.tw + 2 * max(leg + size.washer_d / 2 + 2.0, size.off_steel(leg)), step)))
    closest = rules_of(house).spacing_least(size, Hole(0, 0, hole, hole), True).value
    pitch = _pitch(given, m, up(closest, step), size.washer_d / 2, steep, edge, (low + root, high - root), step)
    rows = centred(pitch)
    wanted = max(tall + 2 * float(given.value("past")), rows[-1] - rows[0] + 2 * edge)
    height = given.rounded("height", wanted, "plate length")
    if height > 2 * min(-low, high) and not given.has("height"):
        height = float(given.fitted("height", down(2 * min(-low, high), 1.5875 if inch else 1.0), f"the flat of {support.shape.name} goes {min(-low, high):.0f} mm from the stringer's middle"))
    welds = web_welds(m, vec(centre), vec(n), vec(v), leg, ("head plate", "supported member"))
    seam = 2 * max(abs(float((np.array(p) - centre) @ v)) for one in welds for p in (one.start, one.end))
    if height < seam - 0.05:
        raise NoFit(f"the stringer's web is welded over {seam:.0f} mm, the plate is {height:.0f} mm high", right=f"at least {seam:.0f} mm")
    far = rules_of(house).edge_greatest(min(t, web_of(support.shape.elements).thickness if web_of(support.shape.elements) else t)).value  # type: ignore[union-attr]
    if house.exposed and not given.has("height") and (height - rows[-1] + rows[0]) / 2 > far:
        height = float(given.fitted("height", max(down(rows[-1] - rows[0] + 2 * far, step), up(seam, 1.5875 if inch else 1.0)), f"no bolt further than {far:.0f} mm from the plate's end, where water gets in"))
    width = given.rounded("width", gauge + 2 * edge, "plate width")
    z = np.array(support.frame.z)
    if abs(float(z @ w)) > 0.7:  # on a column's web, between its flanges
        aside, flat = abs(float((middle - support.frame.o) @ z)), support.shape.h / 2 - support.shape.root
        if aside + width / 2 > flat + 0.05:
            raise NoFit(f"a plate {width:.0f} mm wide, {aside:.0f} mm off the middle of {support.shape.name}, runs into its root: the web is flat for {flat:.0f} mm either way", right="a stringer nearer to the middle, or a larger column")
    if rows[-1] + hole / 2 + 1.0 > height / 2:
        raise NoFit(f"rows {rows[-1] - rows[0]:.0f} mm apart do not stand in a plate {height:.0f} mm high", right="rows closer together")
    spots = [(x, y) for y in rows for x in (-gauge / 2, gauge / 2)]
    frame = Frame.of(middle, w, n)  # x across, y up the face
    plate = Plate("head plate", Outline.rectangle(-width / 2, -height / 2, width / 2, height / 2), t, frame, str(given.value("grade")), tuple(Hole(x, y, hole, hole) for x, y in spots), ("plate width", "plate length"))
    points = [middle + w * x + v * y for x, y in spots]
    bolts = Bolts("bolts", size.name, str(given.value("bolt_grade")), tuple(vec(p) for p in points), vec(-n), vec(v))
    return Detail(
        "stringer head", (plate,), (bolts,), tuple(welds), ends=(EndCut(0, vec(centre), vec(n)),),
        holes=drilled(case, 1, points, n, hole, hole, v), numbers=tuple(given.numbers.values()), dimensions=_dimensions(plate, rows, gauge), views=_views(middle, n, v, w),
        angles=(Angle("front", vec(centre), vec(centre + 100 * away), vec(centre + 100 * n)),),
    )  # fmt: skip


def _clear_of_support(m: CaseMember, support: CaseMember, centre: Array, n: Array, v: Array) -> None:
    """Raise NoFit where the stringer, cut along the plate, runs into the support: steep ones go under a beam and meet its lower flange."""
    cut = Cuts((EndCut(0, vec(centre), vec(n)),)).seen_from(m.frame)
    body = steel_mesh(m.shape, m.cuts + cut, max(m.low, -NEAR), min(m.high, NEAR), 2).placed(m.frame)
    other = steel_mesh(support.shape, support.cuts, max(support.low, -NEAR), min(support.high, NEAR), 2).placed(support.frame)
    volume, where = overlap(body, other)
    if volume > 1.0:
        side = "over" if float((where - centre) @ v) > 0 else "under"
        raise NoFit(
            f"the stringer would run into {support.shape.name} {abs(float((where - centre) @ v)):.0f} mm {side} its middle, {abs(float((where - centre) @ n)):.0f} mm off the plate ({format_volume(volume, 'mm')})",
            right="a channel with its back to the stair, another level, or a deeper beam",
        )


def _pitch(given: Given, m: CaseMember, least: float, washer: float, steep: float, edge: float, room: tuple[float, float], step: float) -> tuple[float, ...]:
    """Rows between the flanges, which run on slanting over the bolts' heads; of a flat as its end is high."""
    shape = m.shape
    lean = math.sqrt(1 - steep**2) / steep
    flat = shape.h / 2 if shape.shape == "FL" else shape.h / 2 - shape.root
    reach = flat / steep - (0.0 if shape.shape == "FL" else washer + 2.0 + 20.0 * lean)
    usable = 2 * min(reach, -room[0] - washer, room[1] - washer) - (2 * edge if shape.shape == "FL" else 0.0)
    total = down(usable, step)
    if not given.has("pitch") and total < least:
        if shape.shape != "FL" and reach < washer:
            raise NoFit(f"between the flanges of {shape.name} there is no room for bolts beside its web", right="a deeper stringer, or smaller bolts")
        return tuple(given.worked_out("pitch", ()))
    count = max(1, math.ceil(total / 100.0 - 1e-6))
    return tuple(given.worked_out("pitch", (down(total / count, step),) * count))


def _at_back(case: Case) -> bool:
    """Whether the stringer comes to the flat back of a channel."""
    assert case.support is not None
    n, p = face_of(case)
    return case.support.shape.shape == "C" and float((p - case.support.frame.o) @ n) > case.support.shape.b / 2 - 0.1


def _room(case: Case, middle: Array, v: Array) -> tuple[float, float]:
    """How far the flat of the support's face goes down and up from a point."""
    assert case.support is not None
    along, low, high = face_width(case)
    if abs(float(along @ v)) < 0.9:  # a column's web: it goes on up and down
        return -1e4, 1e4
    if _at_back(case):
        low, high = -case.support.shape.h / 2, case.support.shape.h / 2
    s = math.copysign(1.0, float(along @ v))
    at = float((middle - case.support.frame.o) @ along)
    ends = sorted((s * (low - at), s * (high - at)))
    return ends[0], ends[1]


def _views(middle: Array, n: Array, v: Array, w: Array) -> tuple[SheetView, ...]:
    return (
        SheetView("front", "Front", Frame.of(middle, n, -w)),
        SheetView("plate", "On the plate", Frame.of(middle, w, n)),
        SheetView("plan", "From above", Frame.of(middle, n, v)),
    )


def _dimensions(plate: Plate, rows: list[float], gauge: float) -> tuple[Dimension, ...]:
    x0, y0, x1, y1 = plate.outline.bounds

    def p(x: float, y: float, z: float = 0.0) -> Vec3:
        return plate.frame.point((x, y, z))

    return (
        Dimension("plate", "right", 0, (p(x1, y1), *(p(gauge / 2, y) for y in rows[::-1]), p(x1, y0)), ("", *("pitch",) * (len(rows) - 1), "")),
        Dimension("plate", "right", 1, (p(x1, y1), p(x1, y0)), ("height",)),
        Dimension("plate", "bottom", 0, (p(x0, y0), p(-gauge / 2, y0), p(gauge / 2, y0), p(x1, y0)), ("edge", "gauge", "edge")),
        Dimension("plate", "bottom", 1, (p(x0, y0), p(x1, y0)), ("width",)),
        Dimension("front", "bottom", 0, (p(0.0, y0), p(0.0, y0, plate.thickness)), ("thickness",)),
    )


FAMILY = Family(
    "stringer-head", "Stringer head", ("stair head", "stair", "flight", "landing"), KINDS, SETTINGS, fits, build,
    {
        "edge-least": ("edge", "height", "pitch"), "edge-greatest": ("edge", "height", "pitch"), "spacing-least": ("pitch", "gauge"), "spacing-greatest": ("pitch", "gauge"),
        "fillet-throat": ("weld_leg",), "fillet-leg-least": ("weld_leg",), "fillet-length": ("weld_leg",), "plate-stock": ("thickness",), "plate-step": ("height", "width"),
    },
    situations=("secondary",), example=at_end(a_girder("UB 533x210x92"), a_member("UPN 200", (0.0, -3290.0, 1863.0), (0.0, 0.0, 3060.0))),
)  # fmt: skip
