"""IFC bodies read as numbers: profiles swept along lines, with the planes, half spaces and prisms that are taken off them.

Everything is in the world, in the file's unit.  What is not read here is named, and a body that holds it is looked at by the geometry engine.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from tincleat.exchange.ifc_shapes import DEEPEST, Broken, axes, curve_points, direction, numbers, operator
from tincleat.geometry.frames import Array

MOST_STEPS = 2000  # operands and items of one body; more is an attack


@dataclass(frozen=True, eq=False)
class Halfspace:
    """What lies on one side of a plane is taken off; ``normal`` points to what stays.  ``bounded`` by a prism about ``boundary`` (n, 3) along ``way``, if given."""

    point: Array
    normal: Array
    boundary: "Array | None" = None
    way: "Array | None" = None


@dataclass(frozen=True, eq=False)
class Prism:
    """An outline (n, 2) in the plane of ``matrix`` (4, 4), each corner rounded by its radius (n,), swept along ``way``."""

    outline: Array
    matrix: Array
    way: Array
    radii: "Array | None" = None


@dataclass(eq=False)
class Swept:
    """A profile swept along a line: ``matrix`` (4, 4) carries the profile's plane into the world, ``way`` is the sweep as a vector.

    ``tapered`` ones end in another profile.  ``round_`` is the (radius, wall) of a bar that has no profile of its own, in the file's unit.
    """

    profile: Any
    matrix: Array
    way: Array
    tapered: bool = False
    planes: list[Halfspace] = field(default_factory=list)
    prisms: list[Prism] = field(default_factory=list)
    round_: tuple[float, float] | None = None
    odd: list[str] = field(default_factory=list)
    plain: bool = True  # nothing about it that numbers alone do not settle
    shear: bool = False  # swept askew or scaled unevenly: its section is not its profile


class Reader:
    """Reads the items of one body; counts what it goes through."""

    def __init__(self) -> None:
        self.steps = 0
        self.odd: list[str] = []

    def of(self, representation: Any, world: Array) -> list[Swept]:
        """The swept solids of a representation; what else is in it is named in ``odd``.  Raises Broken for one that refers to itself or is too large."""
        out: list[Swept] = []
        for item in representation.Items or ():
            out += self._item(item, world, 0)
        return out

    def _count(self, depth: int) -> None:
        self.steps += 1
        if depth > DEEPEST or self.steps > MOST_STEPS:
            raise Broken("its shape refers to itself, or has more parts than a bar can have")

    def _item(self, item: Any, world: Array, depth: int) -> list[Swept]:
        self._count(depth)
        if item.is_a("IfcExtrudedAreaSolid"):
            return [_extruded(item, world)]
        if item.is_a("IfcSweptDiskSolid"):
            return self._disk(item, world)
        if item.is_a("IfcBooleanResult"):
            return self._boolean(item, world, depth)
        if item.is_a("IfcCsgSolid"):
            return self._item(item.TreeRootExpression, world, depth + 1)
        if item.is_a("IfcMappedItem"):
            source = item.MappingSource
            turn, uniform = operator(item.MappingTarget)
            inner = world @ turn @ np.linalg.inv(axes(source.MappingOrigin))
            out: list[Swept] = []
            for one in source.MappedRepresentation.Items or ():
                out += self._item(one, inner, depth + 1)
            for s in out:
                s.shear = s.shear or not uniform
            return out
        if item.is_a("IfcStyledItem") or item.is_a("IfcTopologicalRepresentationItem") or item.is_a("IfcCurve") or item.is_a("IfcPoint"):
            return []
        self.odd.append(str(item.is_a()))
        return []

    def _boolean(self, item: Any, world: Array, depth: int) -> list[Swept]:
        how = str(item.Operator)
        first = self._item(item.FirstOperand, world, depth + 1)
        if how == "UNION":
            return first + self._item(item.SecondOperand, world, depth + 1)
        other = item.SecondOperand
        self._count(depth)
        try:
            cut = _halfspace(other, world)
            taken = None
            if cut is not None and how == "INTERSECTION":
                cut = Halfspace(cut.point, -cut.normal) if cut.boundary is None else None
            if cut is None and how == "DIFFERENCE":
                taken = self._prisms(other, world, depth)
        except Broken as error:
            cut, taken = None, None
            self.odd.append(str(error))
        for s in first:
            s.plain = False
            if cut is not None:
                s.planes.append(cut)
            elif taken is not None:
                s.prisms += taken
            else:
                s.odd.append(f"a boolean with {other.is_a()}")
        return first

    def _prisms(self, item: Any, world: Array, depth: int) -> "list[Prism] | None":
        inner = Reader()
        inner.steps = self.steps
        found = inner._item(item, world, depth + 1)
        self.steps = inner.steps
        if inner.odd or any(s.planes or s.prisms or s.odd or s.tapered or s.round_ for s in found):
            return None
        return [prism_of(s) for s in found]

    def _disk(self, item: Any, world: Array) -> list[Swept]:
        points = np.array(list(curve_points(item.Directrix)), dtype=float).reshape(-1, 3)
        if len(points) < 2:
            raise Broken("its directrix is no line")
        points = points @ world[:3, :3].T + world[:3, 3]
        way = points[-1] - points[0]
        size = float(np.linalg.norm(way))
        if size <= 0:
            raise Broken("it has no length")
        bend = np.linalg.norm(np.cross(points - points[0], way / size), axis=1).max()
        if bend > 1e-3 * size:
            self.odd.append("a bent rod")
            return []
        z = way / size
        aside = np.cross((0.0, 0.0, 1.0) if abs(z[2]) < 0.9 else (1.0, 0.0, 0.0), z)
        matrix = np.eye(4)
        matrix[:3, 0] = aside / np.linalg.norm(aside)
        matrix[:3, 1], matrix[:3, 2], matrix[:3, 3] = np.cross(z, matrix[:3, 0]), z, points[0]
        radius, inner = numbers((item.Radius,), 1, "a radius")[0], numbers((item.InnerRadius or 0.0,), 1, "a radius")[0]
        return [Swept(None, matrix, way, round_=(radius, radius - inner if inner else 0.0))]


def _extruded(item: Any, world: Array) -> Swept:
    if item.SweptArea is None:
        raise Broken("it has no profile")
    matrix = world @ axes(item.Position)
    long = numbers((item.Depth,), 1, "an extrusion's depth")[0]
    x, y, z = direction(item.ExtrudedDirection, (0.0, 0.0, 1.0))
    way = matrix[:3, :3] @ (x, y, z) * long
    askew = math.hypot(x, y) > 1e-6
    return Swept(item.SweptArea, matrix, way, bool(item.is_a("IfcExtrudedAreaSolidTapered")), shear=askew)


def _halfspace(item: Any, world: Array) -> Halfspace | None:
    if not item.is_a("IfcHalfSpaceSolid"):
        return None
    surface = item.BaseSurface
    if not surface.is_a("IfcPlane"):
        raise Broken(f"a half space of {surface.is_a()}")
    plane = world @ axes(surface.Position)
    normal = plane[:3, 2] / np.linalg.norm(plane[:3, 2])
    # the half space lies against the normal where AgreementFlag is true, and is what is taken off
    normal = normal if item.AgreementFlag else -normal
    boundary = way = None
    if item.is_a("IfcPolygonalBoundedHalfSpace"):
        at = world @ axes(item.Position)
        flat = _open(np.array(list(_tidied(curve_points(item.PolygonalBoundary))), dtype=float).reshape(-1, 3))
        if len(flat) < 3:
            raise Broken("a bounded half space has no boundary")
        boundary, way = flat @ at[:3, :3].T + at[:3, 3], at[:3, 2]
    return Halfspace(plane[:3, 3], normal, boundary, way)


def prism_of(s: Swept) -> Prism:
    """A swept solid as a prism to be taken out; Broken for a profile that is no simple outline."""
    profile, matrix = s.profile, s.matrix
    if profile.is_a("IfcParameterizedProfileDef"):
        matrix = matrix @ axes(profile.Position)
    if profile.is_a("IfcCircleProfileDef") and not profile.is_a("IfcCircleHollowProfileDef"):
        r = numbers((profile.Radius,), 1, "a radius")[0]
        return Prism(np.array([(-r, -r), (r, -r), (r, r), (-r, r)]), matrix, s.way, np.full(4, r))
    if profile.is_a("IfcRectangleProfileDef") and not profile.is_a("IfcRectangleHollowProfileDef") and not profile.is_a("IfcRoundedRectangleProfileDef"):
        x, y = (numbers((v,), 1, "a size")[0] / 2 for v in (profile.XDim, profile.YDim))
        return Prism(np.array([(-x, -y), (x, -y), (x, y), (-x, y)]), matrix, s.way)
    if profile.is_a("IfcArbitraryClosedProfileDef") and not profile.is_a("IfcArbitraryProfileDefWithVoids"):
        rounded = _rounded(profile.OuterCurve)
        if rounded is not None:
            return Prism(rounded[0], matrix, s.way, rounded[1])
        flat = _open(np.array(list(_tidied(curve_points(profile.OuterCurve))), dtype=float).reshape(-1, 3))[:, :2]
        if len(flat) < 3:
            raise Broken("an opening has no outline")
        return Prism(flat, matrix, s.way)
    raise Broken(f"an opening of {profile.is_a()}")


def _open(ring: Array) -> Array:
    """A ring without its first point again at the end."""
    return ring[:-1] if len(ring) > 1 and np.allclose(ring[0], ring[-1], atol=1e-9) else ring


def _rounded(curve: Any) -> "tuple[Array, Array] | None":
    """Corners (n, 2) and radii (n,) of a polycurve whose arcs round its corners off; None if it has no arcs, or arcs that do something else."""
    if not curve.is_a("IfcIndexedPolyCurve") or not any(s.is_a("IfcArcIndex") for s in curve.Segments or ()):
        return None
    listed = np.array([numbers(p, 2, "a curve's point") for p in curve.Points.CoordList], dtype=float)
    corners: list[Array] = []
    radii: list[float] = []
    for segment in curve.Segments:
        at = [i - 1 for i in segment.wrappedValue]
        if any(not 0 <= i < len(listed) for i in at):
            raise Broken("a curve refers to a point it does not have")
        if segment.is_a("IfcLineIndex"):
            for i in at[1:-1]:
                corners.append(listed[i])
                radii.append(0.0)
            corners.append(listed[at[-1]])  # taken back where an arc begins there
            radii.append(-1.0)
            continue
        a, b, c = (listed[i] for i in at[:3])
        den = 2 * float(a[0] * (b[1] - c[1]) + b[0] * (c[1] - a[1]) + c[0] * (a[1] - b[1]))
        if abs(den) < 1e-9:
            return None
        sa, sb, sc = (float(p @ p) for p in (a, b, c))
        centre = np.array([(sa * (b[1] - c[1]) + sb * (c[1] - a[1]) + sc * (a[1] - b[1])) / den, (sa * (c[0] - b[0]) + sb * (a[0] - c[0]) + sc * (b[0] - a[0])) / den])
        r = float(np.linalg.norm(a - centre))
        middle = (a + c) / 2 - centre
        if float(middle @ middle) < 1e-6 * r * r or float(middle @ (b - centre)) < 0:
            return None  # half a circle or more rounds no corner
        if corners and radii[-1] < 0 and np.allclose(corners[-1], a, atol=1e-6):
            corners.pop()
            radii.pop()
        corners.append(centre + middle * (r * r / float(middle @ middle)))
        radii.append(r)
    if radii and radii[-1] < 0:  # the last line ends where the first segment began
        first = listed[curve.Segments[0].wrappedValue[0] - 1]
        if curve.Segments[0].is_a("IfcArcIndex") and np.allclose(corners[-1], first, atol=1e-6):
            corners.pop()
            radii.pop()
    flat, round_ = np.array(corners), np.array([max(0.0, v) for v in radii])
    # the sides must run along the lines between arcs: an arc that is not tangent to them rounds nothing
    ends = [p for s in curve.Segments if s.is_a("IfcArcIndex") for p in (listed[s.wrappedValue[0] - 1], listed[s.wrappedValue[2] - 1])]
    sides = list(zip(flat, np.roll(flat, -1, axis=0), strict=True))
    for p in ends:
        far = min(abs(float((q - o)[0] * (p - o)[1] - (q - o)[1] * (p - o)[0])) / max(float(np.linalg.norm(q - o)), 1e-9) for o, q in sides)
        if far > 1e-3:
            return None
    return (flat, round_) if len(flat) >= 3 else None


def _tidied(points: Iterator[list[float]]) -> Iterator[list[float]]:
    """Points that lie on each other once."""
    first: list[float] | None = None
    last: list[float] | None = None
    for p in points:
        if last is not None and max(abs(a - b) for a, b in zip(p, last, strict=True)) < 1e-9:
            continue
        if first is None:
            first = p
        last = p
        yield p
