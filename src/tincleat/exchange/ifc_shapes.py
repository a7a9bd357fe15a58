"""IFC placements, extrusions and profiles read as numbers, without a geometry engine.  Lengths stay in the file's unit until scaled."""

import math
from collections.abc import Iterator
from typing import Any

import numpy as np

from tincleat.geometry.frames import Array

DEEPEST = 60  # placements or mapped items inside each other; more is a circle or an attack
MOST_POINTS = 20_000


class Broken(Exception):
    """One entity cannot be read; the words say why, for the report."""


class Unread(Broken):
    """An entity is in order, but of a kind that is not read as numbers; a geometry engine may know it."""


def numbers(values: Any, count: int, what: str) -> list[float]:
    """The first coordinates of a point or direction, padded with zeros; Broken if one is no finite number."""
    try:
        out = [float(v) for v in values[:count]]
    except (TypeError, ValueError) as error:
        raise Broken(f"{what} is unreadable") from error
    if not out or not all(map(math.isfinite, out)):
        raise Broken(f"{what} holds a value that is no number")
    return out + [0.0] * (count - len(out))


def direction(entity: Any, default: tuple[float, float, float]) -> tuple[float, float, float]:
    """A unit direction, or the default where none is given."""
    if entity is None:
        return default
    x, y, z = numbers(entity.DirectionRatios, 3, "a direction")
    size = math.sqrt(x * x + y * y + z * z)
    if size < 1e-12:
        raise Broken("a direction has no length")
    return (x / size, y / size, z / size)


def axes(entity: Any) -> Array:
    """(4, 4) matrix of an IfcAxis2Placement3D or 2D (identity for none).  Plain arithmetic: it runs for every product."""
    if entity is None:
        return np.eye(4)
    px, py, pz = numbers(entity.Location.Coordinates, 3, "a location")
    if entity.is_a("IfcAxis2Placement2D"):
        cx, cy, _ = direction(entity.RefDirection, (1.0, 0.0, 0.0))
        return np.array([(cx, -cy, 0.0, px), (cy, cx, 0.0, py), (0.0, 0.0, 1.0, 0.0), (0.0, 0.0, 0.0, 1.0)])
    zx, zy, zz = direction(entity.Axis, (0.0, 0.0, 1.0))
    xx, xy, xz = direction(entity.RefDirection, (1.0, 0.0, 0.0) if abs(zx) < 0.99 else (0.0, 1.0, 0.0))
    along = xx * zx + xy * zy + xz * zz
    xx, xy, xz = xx - along * zx, xy - along * zy, xz - along * zz
    size = math.sqrt(xx * xx + xy * xy + xz * xz)
    if size < 1e-9:
        raise Broken("the axes of a placement are parallel")
    xx, xy, xz = xx / size, xy / size, xz / size
    return np.array([
        (xx, zy * xz - zz * xy, zx, px), (xy, zz * xx - zx * xz, zy, py), (xz, zx * xy - zy * xx, zz, pz), (0.0, 0.0, 0.0, 1.0),
    ])  # fmt: skip


def _virtual(v: Any) -> Array:
    """Where two grid axes cross, moved by the offsets of a virtual intersection, (3,) in the grid's frame."""
    lines = []
    offsets = [*numbers(v.OffsetDistances, min(3, len(v.OffsetDistances)), "an offset"), 0.0, 0.0, 0.0]
    for axis, off in zip(v.IntersectingAxes, offsets[:2], strict=True):
        points = np.array(list(curve_points(axis.AxisCurve)), dtype=float).reshape(-1, 3)
        if len(points) < 2:
            raise Broken("a grid axis is no line")
        way = (points[-1] - points[0])[:2]
        way = way / max(float(np.hypot(*way)), 1e-12) * (1.0 if axis.SameSense in (None, True) else -1.0)
        lines.append((points[0][:2] + off * np.array([-way[1], way[0]]), way))
    (a, u), (b, w) = lines
    den = float(u[0] * w[1] - u[1] * w[0])
    if abs(den) < 1e-9:
        raise Broken("the axes of a grid placement do not cross")
    t = float((b - a)[0] * w[1] - (b - a)[1] * w[0]) / den
    x, y = a + u * t
    return np.array([float(x), float(y), offsets[2]])


class Placements:
    """World matrices of local placements, each worked out once."""

    def __init__(self) -> None:
        self._known: dict[int, Array] = {}

    def of(self, placement: Any) -> Array:
        """(4, 4) world matrix; Broken if placements refer to each other in a circle."""
        chain: list[Any] = []
        while placement is not None:
            found = self._known.get(placement.id())
            if found is not None:
                break
            if len(chain) > DEEPEST or any(p.id() == placement.id() for p in chain):
                raise Broken("its placement refers to itself")
            chain.append(placement)
            placement = getattr(placement, "PlacementRelTo", None)
        matrix = np.eye(4) if placement is None else self._known[placement.id()]
        for p in reversed(chain):
            matrix = matrix @ self._own(p)
            self._known[p.id()] = matrix
        return matrix

    def _own(self, p: Any) -> Array:
        """A placement's own matrix, by what kind it is; Broken for kinds that are not read."""
        if p.is_a("IfcGridPlacement"):
            return self._on_grid(p)
        if p.is_a("IfcLinearPlacement"):
            if getattr(p, "CartesianPosition", None) is not None:
                return axes(p.CartesianPosition)
            raise Unread("it is placed along an alignment")
        return axes(getattr(p, "RelativePlacement", None))

    def _on_grid(self, p: Any) -> Array:
        at = _virtual(p.PlacementLocation)
        toward = p.PlacementRefDirection
        x = np.array([1.0, 0.0, 0.0])
        if toward is not None:
            x = _virtual(toward) - at if toward.is_a("IfcVirtualGridIntersection") else np.array(direction(toward, (1.0, 0.0, 0.0)))
        else:
            one = np.array(list(curve_points(p.PlacementLocation.IntersectingAxes[0].AxisCurve)), dtype=float).reshape(-1, 3)
            x = one[-1] - one[0]
        x[2] = 0.0
        size = float(np.linalg.norm(x))
        if size < 1e-9:
            raise Broken("its direction on the grid has no length")
        x = x / size
        own = np.eye(4)
        own[:3, 0], own[:3, 1], own[:3, 3] = x, (-x[1], x[0], 0.0), at
        axis = p.PlacementLocation.IntersectingAxes[0]
        grids = [g for name in ("PartOfU", "PartOfV", "PartOfW") for g in (getattr(axis, name, None) or ())]
        # where the placement names no frame of its own, the grid's frame is the one meant
        if getattr(p, "PlacementRelTo", None) is None and grids and grids[0].ObjectPlacement is not None:
            if grids[0].ObjectPlacement.id() == p.id():
                raise Broken("its placement refers to itself")
            return self.of(grids[0].ObjectPlacement) @ own
        return own


def operator(t: Any) -> tuple[Array, bool]:
    """(4, 4) matrix of a transformation operator, and whether it keeps shapes like themselves (one scale all ways)."""
    out = np.eye(4)
    x = np.array(direction(t.Axis1, (1.0, 0.0, 0.0)))
    flat = t.is_a("IfcCartesianTransformationOperator2D")
    third = getattr(t, "Axis3", None)
    z = np.array(direction(third, (0.0, 0.0, 1.0))) if third is not None else np.array([0.0, 0.0, 1.0])
    if third is None and not flat and t.Axis1 is not None and t.Axis2 is not None:
        z = np.cross(x, direction(t.Axis2, (0.0, 1.0, 0.0)))
    # the axes are squared up as ISO 10303-42 does: the second keeps its side
    z = z / np.linalg.norm(z)
    x = x - z * float(x @ z)
    if np.linalg.norm(x) < 1e-9:
        raise Broken("the axes of a transformation are parallel")
    x = x / np.linalg.norm(x)
    y = np.cross(z, x)
    if t.Axis2 is not None and float(y @ direction(t.Axis2, (0.0, 1.0, 0.0))) < 0:
        y = -y
    first = numbers((t.Scale if t.Scale is not None else 1.0,), 1, "a scale")[0]
    scales = [first, *(numbers((v if v is not None else first,), 1, "a scale")[0] for v in (getattr(t, "Scale2", None), getattr(t, "Scale3", None)))]
    if any(abs(v) < 1e-9 for v in scales):
        raise Broken("a transformation has no scale")
    out[:3, 0], out[:3, 1], out[:3, 2] = x * scales[0], y * scales[1], z * scales[2]
    out[:3, 3] = numbers(t.LocalOrigin.Coordinates, 3, "an origin")
    return out, max(scales) - min(scales) < 1e-9


def line_of(representation: Any, world: Array) -> tuple[Array, Array] | None:
    """First and last point of an axis curve in the world; None if it is no curve of points."""
    for item in representation.Items or ():
        if item.is_a("IfcTrimmedCurve"):
            ends = [[t for t in trim if not isinstance(t, int | float) and t.is_a("IfcCartesianPoint")] for trim in (item.Trim1, item.Trim2)]
            if not all(ends):
                continue
            points = np.array([numbers(e[0].Coordinates, 3, "an axis point") for e in ends])
        elif item.is_a("IfcCurve"):
            flat = list(curve_points(item))
            if len(flat) < 2:
                continue
            points = np.array([flat[0], flat[-1]])
        else:
            continue
        out = points @ world[:3, :3].T + world[:3, 3]
        return out[0], out[1]
    return None


def curve_points(curve: Any, depth: int = 0) -> Iterator[list[float]]:
    """Points along a curve, arcs in chords; Broken for curves that are none of the usual."""
    if depth > DEEPEST:
        raise Broken("a curve refers to itself")
    if curve.is_a("IfcPolyline"):
        for p in curve.Points[:MOST_POINTS]:
            yield numbers(p.Coordinates, 3, "a curve's point")
    elif curve.is_a("IfcIndexedPolyCurve"):
        listed = [numbers(p, 3, "a curve's point") for p in curve.Points.CoordList[:MOST_POINTS]]
        segments = curve.Segments
        if not segments:
            yield from listed
            return
        for segment in segments:
            at = segment.wrappedValue
            if any(not 1 <= i <= len(listed) for i in at):
                raise Broken("a curve refers to a point it does not have")
            points = [listed[i - 1] for i in at]
            yield from _arc(points) if segment.is_a("IfcArcIndex") and len(points) == 3 else points
    elif curve.is_a("IfcCompositeCurve"):
        for part in curve.Segments:
            inner = list(curve_points(part.ParentCurve, depth + 1))
            yield from inner if part.SameSense else reversed(inner)
    elif curve.is_a("IfcTrimmedCurve"):
        yield from _trimmed(curve)
    elif curve.is_a("IfcCircle"):
        m, r = axes(curve.Position), numbers((curve.Radius,), 1, "a radius")[0]
        for i in range(32):
            t = math.tau * i / 32
            yield (m[:3, :3] @ (r * math.cos(t), r * math.sin(t), 0.0) + m[:3, 3]).tolist()
    else:
        raise Broken(f"a curve of kind {curve.is_a()} is not read")


def _arc(points: list[list[float]]) -> list[list[float]]:
    (ax, ay, az), (bx, by, _), (cx, cy, _) = points
    d = 2 * (ax * (by - cy) + bx * (cy - ay) + cx * (ay - by))
    if abs(d) < 1e-12:
        return points
    a2, b2, c2 = ax * ax + ay * ay, bx * bx + by * by, cx * cx + cy * cy
    ux, uy = (a2 * (by - cy) + b2 * (cy - ay) + c2 * (ay - by)) / d, (a2 * (cx - bx) + b2 * (ax - cx) + c2 * (bx - ax)) / d
    r = math.hypot(ax - ux, ay - uy)
    t0, t1, t2 = (math.atan2(y - uy, x - ux) for x, y in ((ax, ay), (bx, by), (cx, cy)))
    turn = (t2 - t0) % math.tau
    if (t1 - t0) % math.tau > turn:
        turn -= math.tau
    return [[ux + r * math.cos(t0 + turn * i / 8), uy + r * math.sin(t0 + turn * i / 8), az] for i in range(9)]


def _trimmed(curve: Any) -> Iterator[list[float]]:
    basis = curve.BasisCurve
    ends = [next((t for t in trim if not isinstance(t, int | float) and t.is_a("IfcCartesianPoint")), None) for trim in (curve.Trim1, curve.Trim2)]
    if all(e is not None for e in ends):
        points = [numbers(e.Coordinates, 3, "a trim") for e in ends if e is not None]
    else:
        values = [next((float(getattr(t, "wrappedValue", t)) for t in trim if not hasattr(t, "Coordinates")), 0.0) for trim in (curve.Trim1, curve.Trim2)]
        points = [_at(basis, v) for v in values]
    if not basis.is_a("IfcCircle"):
        yield from points
        return
    m, r = axes(basis.Position), numbers((basis.Radius,), 1, "a radius")[0]
    local = [np.linalg.inv(m) @ np.array([*p, 1.0]) for p in points]
    t0, t1 = (math.atan2(p[1], p[0]) for p in local)
    turn = (t1 - t0) % math.tau if curve.SenseAgreement else -((t0 - t1) % math.tau)
    for i in range(9):
        t = t0 + turn * i / 8
        yield (m[:3, :3] @ (r * math.cos(t), r * math.sin(t), 0.0) + m[:3, 3]).tolist()


def _at(basis: Any, value: float) -> list[float]:
    if basis.is_a("IfcLine"):
        way = basis.Dir
        return (
            np.array(numbers(basis.Pnt.Coordinates, 3, "a point")) + np.array(direction(way.Orientation, (1.0, 0.0, 0.0))) * float(way.Magnitude) * value
        ).tolist()
    if basis.is_a("IfcCircle"):
        m, r = axes(basis.Position), float(basis.Radius)
        return (m[:3, :3] @ (r * math.cos(value), r * math.sin(value), 0.0) + m[:3, 3]).tolist()
    raise Broken(f"a trimmed {basis.is_a()} is not read")
