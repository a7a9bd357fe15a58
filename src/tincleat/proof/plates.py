"""Plates against the house rules: stocked thicknesses, and sizes on the steps of their dimension kind."""

import math
from collections.abc import Iterator

import numpy as np

from tincleat.details.assembled import Assembled
from tincleat.families.declare import rounded, rule_words
from tincleat.geometry.frames import vec
from tincleat.project.entities import HouseRules
from tincleat.proof.finding import Finding, Rule


def plates(a: Assembled, house: HouseRules) -> Iterator[Finding]:
    """Measured thickness, width and length of every plate."""
    for plate in a.detail.plates:
        x0, y0, x1, y1 = plate.outline.bounds
        centre = vec(plate.frame.to_world(np.array([((x0 + x1) / 2, (y0 + y1) / 2, plate.thickness / 2)]))[0])
        if house.plates:
            stocked = (*house.plates, *house.sheets) if "pack" in plate.kinds else house.plates
            stock = min(stocked, key=lambda t: abs(t - plate.thickness))
            higher = min((t for t in stocked if t >= plate.thickness - 0.01), default=max(stocked))
            off = abs(stock - plate.thickness) > 0.01
            yield Finding(
                "plate-stock", "Stock thickness", "house rule: stocked plates", "breach" if off else "clear", plate.name, plate.thickness, higher, "is", "mm",
                centre, f"{plate.name} is {plate.thickness:g} mm thick",
            )  # fmt: skip
        for size, kind, way in ((x1 - x0, plate.kinds[0], "x"), (y1 - y0, plate.kinds[1], "y")):
            rule = house.rounding.get(kind)
            if rule is None:
                continue
            target = rounded(size, rule, house.flats, tolerance=1e-4)
            off = not math.isclose(target, size, abs_tol=0.01)
            words = rule_words(kind, rule, house.units)
            yield Finding(
                "plate-step", "Rounded size", f"house rule: {words}", "note" if off else "clear", f"{plate.name}, {kind} ({way})", size, target, "is", "mm",
                centre, f"{kind} of {plate.name}",
            )  # fmt: skip


RULES = (Rule("plates", "Plate stock and rounding", plates),)
