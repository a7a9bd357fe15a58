"""Angle cleats: a length of an angle laid by its heel and the ways its legs point."""

from collections.abc import Sequence

import numpy as np

from tincleat.catalogue.sections import Section, section
from tincleat.details.parts import Piece
from tincleat.errors import NotFound
from tincleat.geometry.frames import Array, Frame, Vec3, crossed, vec
from tincleat.project.entities import HouseRules
from tincleat.steel.body import named
from tincleat.steel.cuts import Cuts, MemberHole

_METRIC = ("L 70x70x7", "L 75x75x8", "L 80x80x8", "L 90x90x8", "L 90x90x9", "L 90x90x10", "L 100x100x8", "L 100x100x10", "L 120x120x10", "L 120x120x12", "L 150x75x9", "L 150x75x10", "L 150x90x10", "L 150x100x10", "L 150x100x12", "L 150x150x12", "L 150x150x15", "L 200x100x10", "L 200x100x12", "L 200x150x15")  # fmt: skip
_INCH = ("L3X3X1/4", "L3X3X5/16", "L3-1/2X3-1/2X5/16", "L3-1/2X3-1/2X3/8", "L4X3X3/8", "L4X3-1/2X5/16", "L4X3-1/2X3/8", "L4X4X3/8", "L4X4X1/2", "L5X3-1/2X3/8", "L5X5X3/8", "L6X4X3/8", "L6X4X1/2", "L8X4X1/2")  # fmt: skip


def known(names: Sequence[str]) -> tuple[str, ...]:
    """Those of some angles that the catalogue has, by their proper names."""
    out = []
    for name in names:
        try:
            out.append(section(name).name)
        except NotFound:
            continue
    return tuple(out)


METRIC, INCH = known(_METRIC), known(_INCH)
ANGLES = METRIC + INCH


def longer(shape: Section) -> float:
    """The longer leg, mm."""
    return max(shape.h, shape.b)


def shorter(shape: Section) -> float:
    """The shorter leg, mm."""
    return min(shape.h, shape.b)


def angle(
    name: str, size: str, grade: str, heel: "Array | Vec3", along: "Array | Vec3", leg_a: "Array | Vec3", leg_b: "Array | Vec3", length: float, long_a: bool,
    holes: "Sequence[tuple[Array | Vec3, Array | Vec3, float, float, Array | Vec3]]" = (),
) -> Piece:  # fmt: skip
    """A length of an angle whose outer heel starts at a point and runs ``along``, its legs pointing along ``leg_a`` and ``leg_b``.

    The longer leg points along ``leg_a`` if ``long_a``.  ``holes`` are given by point, axis, width, length and the direction of
    that length, in the frame everything here is given in.
    """
    shape = section(size)
    a, b, run = (np.asarray(v, dtype=float) for v in (leg_a, leg_b, along))
    upright = (shape.h >= shape.b) == long_a  # whether the section's upright leg is the one along a
    z, y = (a, b) if upright else (b, a)
    x = crossed(y, z)
    origin = np.asarray(heel, dtype=float) + y * shape.b / 2 + z * shape.h / 2
    if float(x @ run) < 0:
        origin = origin + run * length
    frame = Frame.of(origin, x, z)
    cuts = Cuts((), (), tuple(MemberHole(0, "", vec(p), vec(axis), w, size_, vec(way)) for p, axis, w, size_, way in holes)).seen_from(frame)
    return Piece(name, shape.name, grade, frame, length, named(cuts, shape))


def first_choice(house: HouseRules, metric: str, inch: str) -> str:
    """The usual angle of an office."""
    return section(inch if house.inch else metric).name
