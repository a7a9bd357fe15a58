"""Chairs that a column's anchor rods pull at, over the base plate: two sides against the flange and a top plate with the rod through it."""

from collections.abc import Sequence

import numpy as np
from shapely.geometry import Point, Polygon

from tincleat.catalogue.sections import Section
from tincleat.details.parts import Hole, Plate, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import Setting
from tincleat.geometry.frames import Array, Frame, crossed, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import CaseMember
from tincleat.kit.layout import up
from tincleat.kit.weld import fillet

SETTINGS = (
    Setting("chairs", "Chairs", "flag", "Chairs", False, "Each rod goes up through a chair that is welded to the column's flange and to the base plate, and is held on top of it."),
    Setting("chair_height", "Chair height", "length", "Chairs", 200.0, "From the base plate to the top of the chair.", 60, 1200, inches=203.2),
    Setting("chair_top", "Chair top", "length", "Chairs", 25.0, "Thickness of the plate that the rod's nut bears on.", 6, 100, inches=25.4),
    Setting("chair_side", "Chair sides", "length", "Chairs", 12.0, "Thickness of the two upright plates.", 5, 60, inches=12.7),
    Setting("chair_width", "Width of the top", "length", "Chairs", None, "Across the chair; past the sides by their fillet and 4 mm, rounded, if not typed.", 40, 800),
    Setting("chair_gap", "Between the sides", "length", "Chairs", None, "Clear width; worked out so that the rod's hole in the base plate lies between the sides.", 15, 400),
    Setting("chair_past", "Past the rod", "length", "Chairs", None, "From the rod to the chair's outer edge; 1.5 of its hole if not typed.", 15, 300),
    Setting("chair_weld", "Chair weld leg", "length", "Chairs", None, "Fillets outside the sides and on the top plate.", 3, 30),
)


def face_width(shape: Section) -> float:
    """Width of the flat that chairs stand against, mm: a flange, or a tube's wall between its corners."""
    return shape.b - 2 * shape.r1 if shape.shape == "RHS" else shape.b


def apart(gap: float, side: float, leg: float) -> float:
    """Width of a chair's top plate: it stands past the sides by their fillet and 4 mm, mm."""
    return gap + 2 * side + 2 * (leg + 4.0)


def least_gap(d: float, hole: float, step: float) -> float:
    """Clear width between a chair's sides: 25 mm round the rod, or the hole in the base plate and 3 mm on both sides, mm."""
    return up(max(d + 25.0, hole + 6.0), step)


def chairs(
    column: CaseMember, spots: Sequence[Sequence[float]], over: float, height: float, top: float, side: float, gap: float, wide: float, past: float, leg: float,
    snipe: float, hole: float, washer: float, grade: str, plate: Polygon,
) -> tuple[list[Plate], list[Weld]]:  # fmt: skip
    """A chair at each spot (joint's x, y), on a base plate whose top is at ``over`` and whose outline is ``plate`` (both in the joint's frame).  The column
    is an I-section, or a square or rectangular tube, that stands plumb in the joint's frame, depth along x.

    Sides are cut off by ``snipe`` over the column's own weld; they are welded on their outside, as nobody gets between them.  Raises NoFit
    where a rod (its plate washer ``washer`` mm wide) does not stand before a flange, or two chairs have no room beside each other.
    """
    shape = column.shape
    if shape.shape not in ("I", "RHS"):
        raise NoFit(f"{shape.name} is a {shape.shape} section; chairs stand against the flanges of an I-section or the walls of a square or rectangular tube", right="no chairs")
    broad = face_width(shape)
    if height - top < 2 * snipe + 15:
        raise NoFit(f"chair sides {height - top:.0f} mm high are little more than their snipe of {snipe:.0f} mm", right=f"a chair of at least {2 * snipe + 15 + top:.0f} mm")
    upright = np.array([0.0, 0.0, 1.0])
    if wide < gap + 2 * side - 1e-6:
        raise NoFit(f"a chair's top {wide:.0f} mm wide does not lie over its sides, {gap + 2 * side:.0f} mm over all", right=f"at least {apart(gap, side, leg):.0f} mm")
    plates: list[Plate] = []
    welds: list[Weld] = []
    taken: list[tuple[float, float]] = []
    for i, (x, y) in enumerate(spots, 1):
        s = 1.0 if x > 0 else -1.0
        off, name = s * x - shape.h / 2, f"chair {i}"
        if off < (least := max(hole, washer) / 2 + leg) - 1e-6:
            raise NoFit(f"rod {i} stands {off:.0f} mm before the column's flange; its washer and the chair's weld need {least:.0f} mm", right=f"rods at least {shape.h / 2 + least:.0f} mm from the column's middle, along its depth")
        if (over_edge := abs(y) + wide / 2 - broad / 2) > 1e-6:
            raise NoFit(f"the chair at rod {i}, {wide:.0f} mm wide, would stand {over_edge:.0f} mm past the flat of {broad:.0f} mm it stands against", right="rods nearer to the column's middle, or one in its middle")
        if any(s == a and abs(y - b) < wide for a, b in taken):
            raise NoFit(f"the chairs at rod {i} and beside it are {wide:.0f} mm wide and would overlap", right=f"rods at least {wide:.0f} mm apart")
        taken.append((s, y))
        reach = off + past
        beyond = max(plate.distance(Point(s * (shape.h / 2 + out_), y + v * (gap / 2 + side))) for out_ in (0.0, reach) for v in (-1.0, 1.0))
        if beyond > 1e-6:
            raise NoFit(f"the chair at rod {i} would stand {beyond:.0f} mm past the base plate", right="a longer plate, or less past the rod")
        out = np.array([s, 0.0, 0.0])
        foot = np.array([s * shape.h / 2, y, over])
        for called, t in ((f"{name}, near side", -1.0), (f"{name}, far side", 1.0)):
            _side(plates, welds, called, foot, out, np.array([0.0, t, 0.0]), gap / 2, side, reach, height - top, snipe, leg, grade, name)
        seat = foot + upright * (height - top)
        plates.append(Plate(
            f"{name}, top", Outline.rectangle(0.0, -wide / 2, reach, wide / 2), top, Frame(vec(seat), vec(out)), grade, (Hole(off, 0.0, hole, hole, 0.0, "anchor"),), ("plate length", "plate width"),
        ))  # fmt: skip
        a, b = (seat + upright * top + np.array([0.0, v * wide / 2, 0.0]) for v in (-1.0, 1.0))
        welds.append(fillet(f"{name}, top to column", leg, a, b, upright, out, ("supported member", f"{name}, top")))
    return plates, welds


def _side(
    plates: list[Plate], welds: list[Weld], called: str, foot: Array, out: Array, beside: Array, inner: float, t: float, reach: float, high: float, snipe: float, leg: float, grade: str, name: str,
) -> None:  # fmt: skip
    """One upright plate, its inner face ``inner`` from the rod's line towards ``beside``, with its fillets on the outer face."""
    upright = np.array([0.0, 0.0, 1.0])
    normal = crossed(out, upright)  # so that the plate's y is up
    near = min(float(beside @ normal) * inner, float(beside @ normal) * (inner + t))
    ring = ((snipe, 0.0, 0.0), (reach, 0.0, 0.0), (reach, high, 0.0), (0.0, high, 0.0), (0.0, snipe, 0.0))
    plates.append(Plate(called, Outline(ring), t, Frame(vec(foot + normal * near), vec(out), vec(normal)), grade, (), ("plate width", "plate length")))
    face = foot + beside * (inner + t)
    welds.append(fillet(f"{called} to plate", leg, face + out * snipe, face + out * reach, beside, upright, ("base plate", called)))
    welds.append(fillet(f"{called} to column", leg, face + upright * snipe, face + upright * high, beside, out, ("supported member", called)))
    welds.append(fillet(f"{called} to top", leg, face + upright * high + out * leg, face + upright * high + out * reach, beside, -upright, (f"{name}, top", called)))
