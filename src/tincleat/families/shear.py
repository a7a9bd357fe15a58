"""What families that hold a beam by its web have in common: the clear web at its end, its notches, rows of bolts that fit."""

import math
from collections.abc import Callable
from dataclasses import dataclass

import msgspec
import numpy as np

from tincleat.catalogue.fasteners import BoltSize, bolt_size, bolt_sizes
from tincleat.catalogue.sections import Element, Section
from tincleat.details.parts import Hole
from tincleat.errors import NoFit
from tincleat.families.declare import Given, rounded
from tincleat.geometry.frames import Array, vec
from tincleat.joints.case import Case
from tincleat.kit.cope import in_the_way, notch, web_of
from tincleat.kit.face import along_x, face_of, face_places, face_width, steel_along
from tincleat.kit.gauge import flange_gauges
from tincleat.kit.layout import up
from tincleat.project.entities import HouseRules
from tincleat.standards.rulesets import rules_of
from tincleat.steel.cuts import Notch


@dataclass(frozen=True)
class BeamEnd:
    """What the case says in figures: sections, the support's face normal, clear zone and notches (mm, in the joint frame)."""

    beam: Section
    support: Section
    normal: Array
    point: Array
    web: Element
    at: float
    zone: tuple[float, float]
    top: tuple[float, float]
    bottom: tuple[float, float]

    def face(self, y: float, z: float) -> float:
        """Where the support's face is along the beam at (y, z)."""
        return along_x(self.normal, self.point, y, z)


def end_of_beam(case: Case, house: HouseRules, past: float | None, number: int = 0) -> BeamEnd:
    """The end of member ``number`` of a case at its support; ``past`` is the clear length of notches beyond the support's flange, mm."""
    support, own = case.support, case.members[number]
    assert support is not None
    beam, shape = own.shape, support.shape
    web = web_of(beam.elements)
    assert web is not None
    normal, point = face_of(case, own)
    reach = past if past is not None else (12.7 if house.inch else 10.0)
    way = in_the_way(own, support, vec(point), vec(normal), house.notch_clearance, reach)
    rule, half = house.rounding_of("notch")[1], beam.h / 2
    top, bottom = ((rounded(d, rule) if d else 0.0, rounded(x, rule) if d else 0.0) for d, x in ((way.top, way.top_length), (way.bottom, way.bottom_length)))
    low, high = max(way.low, -half + bottom[0]), min(way.high, half - top[0])
    zone, first, second = (low, high), top, bottom
    if own.frame.z[2] < 0:  # a channel that lies the other way up
        zone, first, second = (-high, -low), bottom, top
    # the plate is welded to the flat of the support: its web between the roots, its flange or wall between the edges
    along, least, most = face_width(case, own)
    rise = float(along[2] - along[0] * normal[2] / normal[0])
    if abs(rise) > 0.3:
        at0 = float((np.array([point[0] + (normal[1] * point[1] + normal[2] * point[2]) / normal[0], 0.0, 0.0]) - support.frame.o) @ along)
        z0, z1 = sorted(((least - at0) / rise, (most - at0) / rise))
        zone = (max(zone[0], z0), min(zone[1], z1))
    else:  # up a column as far as the column goes

        def station(z: float) -> float:
            x = point[0] - (normal[2] * (z - point[2]) - normal[1] * point[1]) / normal[0]
            return float((np.array([x, 0.0, z]) - support.frame.o) @ np.array(support.frame.x))

        at0 = station(0.0)
        rate = station(1.0) - at0
        if abs(rate) > 0.3:
            z0, z1 = sorted((s - at0) / rate for s in steel_along(support, face_places(support, normal)))
            zone = (max(zone[0], z0), min(zone[1], z1))
    return BeamEnd(beam, shape, normal, point, web, web.at * math.copysign(1.0, own.frame.y[1]), zone, first, second)


def room_in_web(sizes: BeamEnd, house: HouseRules) -> None:
    """Raise NoFit with figures where a notch would be too deep or what is left of the web too low for a single bolt."""
    deepest = max(sizes.top[0], sizes.bottom[0])
    if deepest > house.notch_most * sizes.beam.h + 0.5:
        raise NoFit(
            f"the beam {sizes.beam.name} would be notched {deepest:.0f} mm deep to clear {sizes.support.name}, more than {house.notch_most:g} of its {sizes.beam.h:.0f} mm",
            right="a shallower beam, another level, or an end plate",
        )
    clear = sizes.zone[1] - sizes.zone[0]
    smallest = smaller_bolts(house)[-1]
    least = 2 * rules_of(house).edge_least(bolt_size(smallest), Hole(0, 0, *house.hole(smallest, "normal")), False).value
    if clear < least:
        raise NoFit(
            f"the clear depth for the plate between roots, notches and the support's ends is {max(clear, 0.0):.0f} mm (beam {sizes.beam.name}, support {sizes.support.name})",
            right=f"one {smallest} bolt needs {least:.0f} mm",
        )


def smaller_bolts(house: HouseRules) -> list[str]:
    """The house's bolt and the smaller ones of its kind in general use, largest first."""
    own = bolt_size(house.bolt)
    some = [b for b in bolt_sizes().values() if b.system == own.system and b.d < own.d and b.d >= (12.0 if own.system == "mm" else 12.7)]
    return [house.bolt, *(b.name for b in sorted(some, key=lambda b: -b.d) if b.name not in ("M14", "M18", "M22"))]


def bolt_that(given: Given, holds: Callable[[BoltSize, float], bool], why: str) -> BoltSize:
    """The bolt typed or the office's, or the next smaller one that ``holds`` with its least edge distance (mm); ``why`` it had to be smaller."""
    usual = str(given.value("bolt"))
    for name in () if given.has("bolt") else smaller_bolts(given.house):
        size = bolt_size(name, given.house.tighten_room)
        hole, _ = given.house.hole(name, "normal")
        if holds(size, rules_of(given.house).edge_least(size, Hole(0, 0, hole, hole), False).value):
            if name != usual:
                given.fitted("bolt", name, why)
            return size
    return bolt_size(usual, given.house.tighten_room)


def flange_bolt(shape: Section, given: Given) -> BoltSize:
    """The bolt typed or the office's, or the next smaller one that a member's flange holds."""

    def holds(size: BoltSize, least: float) -> bool:
        try:
            flange_gauges(shape, size, up(max(least, 1.5 * size.d), 6.35 if given.house.inch else 5.0), given.house)
        except NoFit:
            return False
        return True

    return bolt_that(given, holds, f"the flange of {shape.name} is {shape.b:.0f} mm wide")


def bolt_and_end(given: Given, sizes: BeamEnd) -> tuple[str, float]:
    """The bolt and the plate's end distance: the standard ones where one row of them fits the clear web, else smaller."""
    house = given.house
    clear = sizes.zone[1] - sizes.zone[0]
    rules = rules_of(house)
    standard = float(given.value("end_distance"))
    if given.has("bolt") or clear >= 2 * standard - 1e-6:
        bolt = str(given.value("bolt"))
        if given.has("end_distance") or clear >= 2 * standard - 1e-6:
            return bolt, standard
        return bolt, float(given.fitted("end_distance", even_down(clear / 2, house), f"the clear web is {clear:.0f} mm"))
    for bolt in smaller_bolts(house):
        least = rules.edge_least(bolt_size(bolt), Hole(0, 0, *house.hole(bolt, "normal")), False).value
        if 2 * max(least, house.end_factor * bolt_size(bolt).d) <= clear + 1e-6:
            break
    why = f"the clear web is {clear:.0f} mm"
    if bolt != house.bolt:
        given.fitted("bolt", bolt, why)
    else:
        given.value("bolt")
    if given.has("end_distance"):
        return bolt, standard
    return bolt, float(given.fitted("end_distance", max(least, min(standard, even_down(clear / 2, house))), why))


def even_down(value: float, house: HouseRules) -> float:
    """A length on the step of small dimensions, not more than it was: 0.5 mm or 1/16 in."""
    step = 1.5875 if house.inch else 0.5
    return math.floor(value / step + 1e-6) * step


def farthest(house: HouseRules, sizes: BeamEnd, thickness: float) -> float:
    """The greatest distance from a bolt to a free edge of the web, mm."""
    return rules_of(house).edge_greatest(min(sizes.web.thickness, thickness)).value


def web_rows(given: Given, sizes: BeamEnd, bolt: str, end: float, thickness: float, zone: tuple[float, float] | None = None, top: float | None = None) -> tuple[list[float], float]:
    """Heights of the bolt rows from the top down, and the raw height of what they hold with its ``end`` distances; ``thickness`` is
    that of the plate or leg on the web.  The clear web is the beam's own, or ``zone``; its top of steel lies at ``top``, half its depth up
    if that is not said.
    """
    house = given.house
    low, high = zone or sizes.zone
    d = bolt_size(bolt).d
    inch = house.inch
    step = 76.2 if inch else 70.0
    step = max(step, 3 * d if inch else math.ceil(3 * d / 5 - 1e-9) * 5)
    gaps = int(max(0.0, (high - low - 2 * end + 1e-6) // step))
    if house.exposed and (sizes.top[0] or sizes.bottom[0]) and (high - low - gaps * step) / 2 > (far := farthest(house, sizes, thickness)):
        # a notched web has free edges, and water gets in where bolts are too far from them: the rows are drawn apart
        hole = Hole(0, 0, *house.hole(bolt, "normal"))
        even = 6.35 if inch else 5.0
        least = max(rules_of(house).spacing_least(bolt_size(bolt), hole, True).value, house.spacing_factor * d)
        most = min(rules_of(house).spacing_greatest(min(sizes.web.thickness, thickness)).value, high - low)
        for more in (gaps, gaps + 1, gaps + 2):
            wide = math.floor((high - low - 2 * end) / more / even + 1e-6) * even if more else 0.0
            if more and least <= wide <= most + 1e-6 and (high - low - more * wide) / 2 <= far:
                gaps, step = more, wide
                break
    if not gaps and sizes.beam.h >= house.two_rows_from:
        # two rows where the depth asks for them, as near as the standard lets them come
        hole = Hole(0, 0, *house.hole(bolt, "normal"))
        least = max(rules_of(house).spacing_least(bolt_size(bolt), hole, True).value, house.spacing_factor * d)
        near = math.ceil(least / (6.35 if inch else 5.0) - 1e-9) * (6.35 if inch else 5.0)
        if high - low - 2 * end >= near - 1e-6:
            gaps, step = 1, near
    pitch: tuple[float, ...] = tuple(given.worked_out("pitch", (step,) * gaps))
    total = sum(pitch)
    place = given.value("row_place")
    if place == "from the top":
        even = 6.35 if inch else 5.0
        standard = math.ceil((sizes.beam.h / 2 - high + end) / even - 1e-9) * even
        if inch and sizes.beam.h / 2 - 76.2 + end <= high + 1e-6 and 76.2 + total + end <= sizes.beam.h / 2 - low + 1e-6:
            standard = 76.2
        if standard + total + end > sizes.beam.h / 2 - low + 1e-6:
            standard = sizes.beam.h / 2 - high + end
        first = sizes.beam.h / 2 - float(given.worked_out("top_distance", standard))
    elif place == "in the clear web":
        steel = sizes.beam.h / 2 if top is None else top
        far = farthest(house, sizes, thickness) if house.exposed and (sizes.top[0] or sizes.bottom[0]) else math.inf
        first = steel - _round_from_top(steel - (low + high + total) / 2, (max(steel - high + end, 0.0), steel - low - end - total), (far - (high - steel), far + total - (steel - low)), inch)
    else:
        first = total / 2
    rows = [first]
    for gap in pitch:
        rows.append(rows[-1] - gap)
    return rows, total + 2 * end


def _round_from_top(middle: float, room: tuple[float, float], reach: tuple[float, float], inch: bool) -> float:
    """How far under the top of steel the first row lies, mm: 3 in flat where there is room, else the quarter inch or 5 mm next to the ``middle`` of
    the clear web, on finer steps where that is tight; never off the ``room`` between its ends, nor further from its free edges than may be.
    ``reach`` tells that of the first row from the upper one, and of the last from the lower one."""

    def fits(t: float) -> bool:
        return room[0] - 1e-6 <= t <= room[1] + 1e-6 and t <= reach[0] + 1e-6 and -t <= reach[1] + 1e-6

    steps = (6.35, 1.5875) if inch else (5.0, 1.0)
    wanted = [76.2] if inch else []
    for step in steps:
        near = round(middle / step)
        wanted += sorted((step * n for n in (near - 1, near, near + 1)), key=lambda t: abs(t - middle))
    return next((t for t in wanted if fits(t)), middle)


def end_notches(case: Case, sizes: BeamEnd, house: HouseRules, number: int = 0) -> tuple[Notch, ...]:
    """Notches with a rounded inner corner where the beam's flanges or web would run into the support."""
    upside = case.members[number].frame.z[2] < 0
    out = []
    for side, (depth, length) in (("top", sizes.top), ("bottom", sizes.bottom)):
        if depth:
            own = {"top": "bottom", "bottom": "top"}[side] if upside else side
            out.append(msgspec.structs.replace(notch(case.members[number], number, own, depth, length, house.notch_radius), name=f"{side} notch"))
    return tuple(out)
