"""Plates against the house rules: stocked thicknesses, and sizes on the steps of their dimension kind."""

import math
from collections.abc import Iterator

from tincleat.details.assembled import Assembled
from tincleat.families.declare import rounded, rule_words
from tincleat.geometry.frames import Vec3
from tincleat.project.entities import HouseRules
from tincleat.proof.finding import Finding, Rule, at_least, at_most
from tincleat.standards.limit import Limit


def plates(a: Assembled, house: HouseRules) -> Iterator[Finding]:
    """Measured thickness, width and length of every plate, thickness and breadth of every bent one."""
    for plate in a.detail.plates:
        x0, y0, x1, y1 = plate.outline.bounds
        centre = plate.frame.point(((x0 + x1) / 2, (y0 + y1) / 2, plate.thickness / 2))
        yield from _thickness(plate.name, plate.thickness, "pack" in plate.kinds, centre, house)
        for size, kind, way in ((x1 - x0, plate.kinds[0], "x"), (y1 - y0, plate.kinds[1], "y")):
            yield from _extent(plate.name, size, kind, way, centre, house)
    for bent in a.detail.bents:
        at = bent.legs[0].frame.moved(x=bent.flats[0].length / 2, y=(bent.low + bent.high) / 2)
        yield from _thickness(bent.name, bent.thickness, False, at.origin, house)
        yield from _extent(bent.name, bent.high - bent.low, bent.kind, "y", at.origin, house)


def bevels(a: Assembled, house: HouseRules) -> Iterator[Finding]:
    """Edges that are bevelled steeper than the shop's machine cuts."""
    most = Limit(house.bevel_most, "house rule: steepest bevel that the shop's machine cuts")
    for plate in a.detail.plates if house.bevel_most else ():
        if plate.trims:
            worst = max(plate.trims, key=lambda e: abs(e.normal[2]))
            angle = math.degrees(math.asin(min(1.0, abs(worst.normal[2]) / math.dist(worst.normal, (0.0, 0.0, 0.0)))))
            at = plate.frame.point(worst.point)
            yield at_most("bevel-machine", "Bevel of an edge", most, plate.name, angle, at, f"edge of {plate.name} bevelled {angle:.0f}°", "deg", "note")


def _thickness(name: str, thickness: float, pack: bool, where: Vec3, house: HouseRules) -> Iterator[Finding]:
    if house.plates:
        stocked = (*house.plates, *house.sheets) if pack else house.plates
        stock = min(stocked, key=lambda t: abs(t - thickness))
        higher = min((t for t in stocked if t >= thickness - 0.01), default=max(stocked))
        off = abs(stock - thickness) > 0.01
        yield Finding(
            "plate-stock", "Stock thickness", "house rule: stocked plates", "breach" if off else "clear", name, thickness, higher, "is", "mm",
            where, f"{name} is {thickness:g} mm thick",
        )  # fmt: skip


def _extent(name: str, size: float, kind: str, way: str, where: Vec3, house: HouseRules) -> Iterator[Finding]:
    kind, rule = house.rounding_of(kind)
    if rule is None:
        return
    target = rounded(size, rule, house.flats, tolerance=1e-4)
    off = not math.isclose(target, size, abs_tol=0.01)
    words = rule_words(kind, rule, house.units)
    yield Finding(
        "plate-step", "Rounded size", f"house rule: {words}", "note" if off else "clear", f"{name}, {kind} ({way})", size, target, "is", "mm",
        where, f"{kind} of {name}",
    )  # fmt: skip


def bends(a: Assembled, house: HouseRules) -> Iterator[Finding]:
    """The inside radius of bends, as it is bent, and holes far enough from where a bend begins not to be drawn out of round."""
    for bent in a.detail.bents:
        least = Limit(house.bend_least * bent.thickness, f"house rule: at least {house.bend_least:g} thicknesses")
        yield at_least("bend-radius", "Inside of a bend", least, bent.name, bent.radius, bent.legs[0].frame.moved(x=bent.flats[0].length).origin, f"inside radius of {bent.name}")
        near: list[tuple[float, Vec3]] = []
        for i, (leg, flat) in enumerate(zip(bent.legs, bent.flats, strict=True)):
            for h in flat.holes:
                reach = h.length / 2
                ends = ([h.x - reach] if i else []) + ([flat.length - h.x - reach] if i < len(bent.turns) else [])
                near += [(gap, leg.frame.moved(x=h.x, y=h.y).origin) for gap in ends]
        if near:
            gap, where = min(near)
            yield at_least("bend-hole", "Hole beside a bend", Limit(bent.thickness, "house rule: a thickness from the bend"), bent.name, gap, where, f"edge of a hole of {bent.name} to where it bends")


def alterations(a: Assembled, house: HouseRules) -> Iterator[Finding]:
    """An alteration that finds nothing to alter any more: a note at its place, for the detail is as the family makes it there."""
    parts = a.detail.flats or a.detail.pieces
    where = parts[0].frame.origin if parts else (0.0, 0.0, 0.0)
    for i, words in enumerate(a.detail.unmet, 1):
        yield Finding("alteration", "Alteration without its part", "kept by hand on top of the family", "note", f"alteration {i}", 0, 1, ">=", "", where, words)


RULES = (Rule("alterations", "Alterations", alterations), Rule("plates", "Plate stock and rounding", plates), Rule("bends", "Bends", bends), Rule("bevels", "Bevels of edges", bevels))
