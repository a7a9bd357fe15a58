"""Grids of an IFC file as ours: two families of straight lines square to each other."""

import math
from typing import Any

import numpy as np

from tincleat.exchange.ifc_shapes import Broken, curve_points
from tincleat.geometry.frames import Array, vec
from tincleat.project.entities import Grid

SQUARE = math.radians(0.1)  # lines of a family run within this of each other, families this square
Line = tuple[str, Array, Array]  # tag, a point and the unit direction, plan mm


def _lines(axes: Any, matrix: Array, scale: float) -> list[Line]:
    out = []
    for i, axis in enumerate(axes or ()):
        points = np.array(list(curve_points(axis.AxisCurve)), dtype=float).reshape(-1, 3)
        if len(points) < 2:
            raise Broken("one of its axes is no line")
        world = (points[[0, -1]] @ matrix[:3, :3].T + matrix[:3, 3]) * scale
        step = (world[1] - world[0])[:2]
        size = float(np.hypot(*step))
        bend = max((abs(_aside(points[0], points[-1], p)) for p in points[1:-1]), default=0.0) * scale
        if not math.isfinite(size) or size < 1.0 or bend > 1.0:
            raise Broken("one of its axes is not straight")
        out.append((str(axis.AxisTag or i + 1), world[0][:2], step / size))
    return out


def _aside(a: Array, b: Array, p: Array) -> float:
    """Distance of a point from the line through two others, in the plan."""
    d = (b - a)[:2]
    gap = (p - a)[:2]
    return float(gap[0] * d[1] - gap[1] * d[0]) / max(float(np.hypot(*d)), 1e-12)


def grid_of(product: Any, matrix: Array, scale: float) -> Grid:
    """The grid of an IfcGrid placed by ``matrix`` (4, 4), ``scale`` mm a unit; its id is empty.  Raises Broken for one that is not square."""
    if getattr(product, "WAxes", None):
        raise Broken("it has a third family of axes")
    across, along = (_lines(axes, matrix, scale) for axes in (product.UAxes, product.VAxes))
    if not across or not along:
        raise Broken("it has axes in one direction only")
    ex = along[0][2]
    # numbers run the way the file lists them
    if len(across) > 1 and float((across[1][1] - across[0][1]) @ ex) < 0:
        ex = -ex
    ey = np.array([-ex[1], ex[0]])
    limit = math.sin(SQUARE)
    if any(abs(float(d @ ex)) > limit for _, _, d in across) or any(abs(float(d @ ey)) > limit for _, _, d in along):
        raise Broken("its axes are not square to each other")
    xs = sorted((float(p @ ex), tag) for tag, p, _ in across)
    ys = sorted((float(p @ ey), tag) for tag, p, _ in along)
    origin = ex * xs[0][0] + ey * ys[0][0]
    x = tuple((tag, round(at - xs[0][0], 3) + 0.0) for at, tag in xs)
    y = tuple((tag, round(at - ys[0][0], 3) + 0.0) for at, tag in ys)
    for family in (x, y):
        if len({tag for tag, _ in family}) < len(family) or any(b[1] - a[1] < 1.0 for a, b in zip(family, family[1:], strict=False)):
            raise Broken("two of its axes have one tag or lie on each other")
    high = float(matrix[2, 3]) * scale
    angle = math.atan2(ex[1], ex[0])
    return Grid("", str(product.Name or "grid"), vec([*origin.round(3), round(high, 3)]), round(angle, 9) + 0.0, x, y)
