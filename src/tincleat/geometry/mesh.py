"""Triangle meshes for drawing, hidden lines and the odd boolean; never used to weigh anything."""

import atexit
import weakref
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import manifold3d
import mapbox_earcut
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon

from tincleat.geometry.frames import Array, Frame, Vec3, crossed_rows
from tincleat.geometry.outline import Outline
from tincleat.geometry.tolerances import FEATURE_ANGLE
from tincleat.lazy import lazy

Index = NDArray[np.int32]


Wings = tuple[Index, Index, Index]
COPLANAR = 0.99999  # cosine from which on two faces count as one


@dataclass(eq=False)
class Made:
    """What the solids library made of a cut; let go as the program ends, for the library tells of all that is held then."""

    solid: "manifold3d.Manifold | None"


_held: "weakref.WeakSet[Made]" = weakref.WeakSet()


@atexit.register
def _let_go() -> None:
    for one in list(_held):
        one.solid = None
    _solids.clear()


@dataclass(frozen=True, eq=False)
class Mesh:
    """Points (n, 3) in mm and triangles (m, 3) of point numbers, outward when counter-clockwise.

    A mesh that says what it was made of knows its edges without a search: ``like`` is a mesh of the same corners, moved
    or stretched along its prism; ``parts`` are the meshes it joins; ``rings`` are the corner counts of a prism's rings;
    ``solid`` is what the solids library made it as.
    """

    points: Array
    triangles: Index
    like: "Mesh | None" = None
    parts: "tuple[Mesh, ...]" = ()
    rings: tuple[int, ...] = ()
    solid: "Made | None" = None

    @lazy
    def volume(self) -> float:
        """Enclosed volume in mm³ of the (chord-sided) mesh."""
        a, b, c = (self.points[self.triangles[:, i]] for i in range(3))
        return float(np.einsum("ij,ij->i", a, crossed_rows(b, c)).sum() / 6)

    @lazy
    def normals(self) -> Array:
        """Unit normals (m, 3) of the triangles; zero for one without area."""
        return unit_normals(self.points[self.triangles])

    @lazy
    def wings(self) -> Wings:
        """All edges (k, 2) and the numbers (k,) of the triangles on both sides, -1 where there is none; coplanar seams are left out."""
        if self.like is not None:
            return self.like.wings
        if self.parts:
            return _joined_wings(self.parts)
        return _prism_wings(self) if self.rings else _found_wings(self)

    @lazy
    def edges(self) -> tuple[Index, Array, Array]:
        """All edges (k, 2) with the unit normals (k, 3) of the faces on both sides; coplanar seams are left out."""
        pairs, first, second = self.wings
        f, g = self.normals[first], self.normals[second]
        lone = second < 0
        if lone.any():
            g[lone] = -f[lone]
        return pairs, f, g

    @lazy
    def sharp_edges(self) -> Index:
        """(k, 2) point numbers of the edges worth drawing from any direction."""
        if self.like is not None:
            return self.like.sharp_edges
        pairs, first, second = self.edges
        return pairs[np.einsum("ij,ij->i", first, second) < np.cos(FEATURE_ANGLE)]

    def placed(self, frame: Frame) -> "Mesh":
        """The mesh, given in ``frame``, in the outer frame."""
        return Mesh(frame.to_world(self.points), self.triangles, self.like or self)

    def moved(self, by: Vec3) -> "Mesh":
        """The mesh shifted by (3,), mm."""
        return Mesh(self.points + by, self.triangles, self.like or self)


def unit_normals(corners: Array) -> Array:
    """Unit normals (m, 3) of triangles (m, 3, 3); zero for one without area."""
    u, v = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    normal = crossed_rows(u, v)
    size = np.sqrt(np.einsum("ij,ij->i", normal, normal))
    return normal / np.where(size > 1e-9, size, np.inf)[:, None]


def joined(meshes: Sequence[Mesh]) -> Mesh:
    """All meshes as one array pair (bodies are not united)."""
    if not meshes:
        return Mesh(np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int32))
    starts = np.cumsum([0] + [len(m.points) for m in meshes[:-1]], dtype=np.int32)
    shift = np.repeat(starts, [len(m.triangles) for m in meshes])
    triangles = (np.concatenate([m.triangles for m in meshes]) + shift[:, None]).astype(np.int32, copy=False)
    return Mesh(np.concatenate([m.points for m in meshes]), triangles, parts=tuple(meshes))


def prism(outline: Outline, holes: Sequence[Outline], z0: float, z1: float, per_arc: int = 3) -> Mesh:
    """The solid between ``z0`` and ``z1`` (mm) over an outline with holes; arcs get ``per_arc`` chords a quarter turn."""
    return _prism(outline, tuple(holes), z0, z1, per_arc)


@lru_cache(maxsize=512)
def _prism(outline: Outline, holes: tuple[Outline, ...], z0: float, z1: float, per_arc: int) -> Mesh:
    # most changes of a detail leave most of its flats as they are
    return ring_prism([outline.coarse(per_arc)] + [hole.coarse(max(per_arc, 2))[::-1] for hole in holes], z0, z1)


def ring_prism(rings: "list[Array]", z0: float, z1: float) -> Mesh:
    """The solid over plane rings: the first counter-clockwise, holes clockwise, each (n, 2) in mm."""
    flat = np.concatenate(rings)
    counts = tuple(len(r) for r in rings)
    n = len(flat)
    caps = np.asarray(mapbox_earcut.triangulate_float64(flat, np.cumsum(counts).astype(np.uint32)), dtype=np.int32).reshape(-1, 3)
    a, b, c = (flat[caps[:, i]] for i in range(3))
    clockwise = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0]) < 0
    caps[clockwise] = caps[clockwise][:, ::-1]
    i, j = _around(counts)
    m = len(caps)
    triangles = np.empty((2 * m + 2 * n, 3), dtype=np.int32)
    triangles[:m], triangles[m : 2 * m] = caps[:, ::-1], caps + n
    sides = triangles[2 * m :].reshape(n, 2, 3)
    sides[:, 0, 0] = sides[:, 1, 0] = i
    sides[:, 0, 1] = j
    sides[:, 0, 2] = sides[:, 1, 1] = j + n
    sides[:, 1, 2] = i + n
    points = np.empty((2 * n, 3))
    points[:n, :2] = points[n:, :2] = flat
    points[:n, 2], points[n:, 2] = z0, z1
    return Mesh(points, triangles, rings=counts)


def sunk_prism(outline: Outline, holes: Sequence[Outline], sinks: "Sequence[tuple[float, float, float, float, float, bool]]", z0: float, z1: float, per_arc: int = 3) -> Mesh:
    """A solid as :func:`prism` makes it, with countersunk holes besides: x, y, diameter, diameter at the face, depth of the cone, and whether
    that face is the one at ``z1`` (mm)."""
    n = 4 * max(per_arc, 2)
    a = np.arange(n) * (-2 * np.pi / n)  # clockwise, as holes are
    circle = np.column_stack([np.cos(a), np.sin(a)])
    rings = [outline.coarse(per_arc), *(hole.coarse(max(per_arc, 2))[::-1] for hole in holes)]
    walls = [[(r, z0), (r, z1)] for r in rings]
    for x, y, d, face, deep, top in sinks:
        small, wide = (np.array([x, y]) + circle * (e / 2) for e in (d, face))
        wall = [(small, z0), (small, z1 - deep), (wide, z1)] if top else [(wide, z0), (small, z0 + deep), (small, z1)]
        walls.append(wall if deep < z1 - z0 - 1e-9 else [wall[0], wall[2]])
    points: list[Array] = []
    triangles: list[np.ndarray] = []
    ends: tuple[list[np.ndarray], list[np.ndarray]] = ([], [])
    count = 0
    for wall in walls:
        m = len(wall[0][0])
        i = np.arange(m)
        j = np.roll(i, -1)
        for k, (ring, z) in enumerate(wall):
            points.append(np.column_stack([ring, np.full(m, z)]))
            if k:
                low, high = count + (k - 1) * m, count + k * m
                triangles += [np.column_stack([low + i, low + j, high + j]), np.column_stack([low + i, high + j, high + i])]
        ends[0].append(count + i)
        ends[1].append(count + (len(wall) - 1) * m + i)
        count += m * len(wall)
    at = np.concatenate(points)
    for numbers, up in zip(ends, (False, True), strict=True):
        order = np.concatenate(numbers)
        flat = np.ascontiguousarray(at[order, :2])
        caps = np.asarray(mapbox_earcut.triangulate_float64(flat, np.cumsum([len(r) for r in numbers]).astype(np.uint32)), dtype=np.int64).reshape(-1, 3)
        p, q, r = (flat[caps[:, c]] for c in range(3))
        turned = (q[:, 0] - p[:, 0]) * (r[:, 1] - p[:, 1]) - (q[:, 1] - p[:, 1]) * (r[:, 0] - p[:, 0]) < 0
        caps[turned == up] = caps[turned == up][:, ::-1]
        triangles.append(order[caps])
    return Mesh(at, np.concatenate(triangles).astype(np.int32))


def frustum(d0: float, d1: float, z0: float, z1: float, sides: int) -> Mesh:
    """The solid between two circles about z, of diameter ``d0`` at ``z0`` and ``d1`` at ``z1`` (mm): its corners lie on them."""
    flat = _regular(sides, 1.0, z0, z1)
    return Mesh(flat.points * np.column_stack([np.where(flat.points[:, 2] < (z0 + z1) / 2, d0 / 2, d1 / 2)] * 2 + [np.ones(len(flat.points))]), flat.triangles)


def _around(counts: tuple[int, ...]) -> "tuple[Index, Index]":
    """Corner numbers of rings that follow each other, and for each corner the next one of its ring."""
    i = np.arange(sum(counts), dtype=np.int32)
    j = i + 1
    end = 0
    for count in counts:
        end += count
        j[end - 1] = end - count
    return i, j


def _prism_wings(mesh: Mesh) -> Wings:
    """Edges of a prism as :func:`ring_prism` lays its triangles: both caps, then two for each side."""
    i, j = _around(mesh.rings)
    n = len(i)
    m = (len(mesh.triangles) - 2 * n) // 2
    side = 2 * m + 2 * i
    before = np.empty_like(side)
    before[j] = side
    size = np.abs(mesh.normals[:m]).max(axis=1) > 0.5
    cap = int(size.argmax())  # all triangles of a cap share its normal, save slivers without one
    bend = np.einsum("ij,ij->i", mesh.normals[side], mesh.normals[before]) < COPLANAR
    pairs = np.concatenate([np.stack([i, j], 1), np.stack([i, j], 1) + n, np.stack([i, i + n], 1)[bend]])
    return pairs, np.concatenate([np.full(n, cap), np.full(n, m + cap), before[bend]]).astype(np.int32), np.concatenate([side, side, side[bend]])


def _joined_wings(parts: Sequence[Mesh]) -> Wings:
    point = triangle = 0
    found: list[Wings] = []
    for part in parts:
        pairs, first, second = part.wings
        found.append((pairs + np.int32(point), first + np.int32(triangle), np.where(second < 0, second, second + np.int32(triangle))))
        point += len(part.points)
        triangle += len(part.triangles)
    pairs, first, second = (np.concatenate([wings[k] for wings in found]) for k in range(3))
    return pairs, first, second


def cylinder(diameter: float, z0: float, z1: float, sides: int = 12) -> Mesh:
    """A cylinder about the z axis with a polygon of equal cross-section area."""
    angle = 2 * np.pi / sides
    return _regular(sides, diameter / 2 * float(np.sqrt(angle / np.sin(angle))), z0, z1)


def hexagon(across_flats: float, z0: float, z1: float) -> Mesh:
    """A hexagonal prism about the z axis."""
    return _regular(6, across_flats / 3**0.5, z0, z1)


def _regular(sides: int, radius: float, z0: float, z1: float) -> Mesh:
    return stretched(_unit_prism(sides), radius, z0, z1)


def square_bar(side: float, z0: float, z1: float) -> Mesh:
    """A square prism about the z axis, its sides along x and y."""
    return stretched(_unit_square(), side / 2, z0, z1)


def stretched(unit: Mesh, size: float, z0: float, z1: float) -> Mesh:
    """A prism made between z = 0 and 1 made ``size`` times as wide, and put between ``z0`` and ``z1``."""
    return Mesh(unit.points * (size, size, z1 - z0) + (0.0, 0.0, z0), unit.triangles, unit.like or unit)


@lru_cache(maxsize=1)
def _unit_square() -> Mesh:
    return prism(Outline.rectangle(-1.0, -1.0, 1.0, 1.0), (), 0.0, 1.0)


@lru_cache(maxsize=64)
def _unit_prism(sides: int) -> Mesh:
    turn = np.arange(sides) * 2 * np.pi / sides
    return ring_prism([np.column_stack([np.cos(turn), np.sin(turn)])], 0.0, 1.0)


def _found_wings(mesh: Mesh) -> Wings:
    """Edges of any triangles, by sorting their sides."""
    good = np.flatnonzero(np.abs(mesh.normals).max(axis=1, initial=0.0) > 0.0)
    tri, normal = mesh.triangles[good], mesh.normals[good]
    pairs = np.concatenate([tri[:, [0, 1]], tri[:, [1, 2]], tri[:, [2, 0]]])
    face = np.tile(np.arange(len(tri)), 3)
    pairs.sort(axis=1)
    order = np.lexsort((pairs[:, 1], pairs[:, 0]))
    pairs, face = pairs[order], face[order]
    same = np.all(pairs[1:] == pairs[:-1], axis=1)
    first = np.flatnonzero(same)
    f, g = face[first], face[first + 1]
    kept = np.einsum("ij,ij->i", normal[f], normal[g]) < COPLANAR
    lone = np.ones(len(pairs), dtype=bool)
    lone[first] = lone[first + 1] = False
    loners = np.flatnonzero(lone)
    return (
        np.concatenate([pairs[first][kept], pairs[loners]]).astype(np.int32),
        np.concatenate([good[f[kept]], good[face[loners]]]).astype(np.int32),
        np.concatenate([good[g[kept]], np.full(len(loners), -1)]).astype(np.int32),
    )


def cut(body: Mesh, cutters: Sequence[Mesh]) -> Mesh:
    """``body`` less all ``cutters``, exact to the meshes' chords."""
    solid = _solid(body)
    for cutter in cutters:
        solid = solid - _solid(cutter)
        solid.num_tri()  # now: put off and taken together, cutters that touch along a face can take steel they do not cover
    return _mesh(solid)


def trimmed(body: Mesh, point: "Array | tuple[float, float, float]", normal: "Array | tuple[float, float, float]") -> Mesh:
    """The part of ``body`` on the side of the plane to which ``normal`` points."""
    n = np.asarray(normal, dtype=np.float64)
    n = n / np.linalg.norm(n)
    return _mesh(_solid(body).trim_by_plane(tuple(n.tolist()), float(n @ np.asarray(point))))


def off_faces(body: Mesh, points: Array) -> Array:
    """Distances (n,) from points (n, 3) to the nearest of a body's faces, mm."""
    middle = points.mean(axis=0)  # products of small numbers keep their digits
    points = points - middle
    a, b, c = (body.points[body.triangles[:, k]] - middle for k in range(3))
    ab, ac = b - a, c - a
    one, two, both = (ab * ab).sum(axis=1), (ac * ac).sum(axis=1), (ab * ac).sum(axis=1)
    size = one * two - both * both  # of the normal, squared
    sound = size > 1e-12
    a, b, c, ab, ac, one, two, both, size = (v[sound] for v in (a, b, c, ab, ac, one, two, both, size))
    n = crossed_rows(ab, ac) / np.sqrt(size)[:, None]
    # barycentric place of each point's foot on each plane, points by rows, triangles by columns
    along, across = points @ ab.T - (a * ab).sum(axis=1), points @ ac.T - (a * ac).sum(axis=1)
    u, v = (two * along - both * across) / size, (one * across - both * along) / size
    flat = np.abs(points @ n.T - (a * n).sum(axis=1))
    best = np.where((v >= 0) & (u >= 0) & (u + v <= 1), flat, np.inf).min(axis=1)
    square = (points * points).sum(axis=1)[:, None]
    for start, way in ((a, ab), (b, c - b), (c, a - c)):
        long = (way * way).sum(axis=1)
        run = points @ way.T - (start * way).sum(axis=1)
        t = np.clip(run / long, 0.0, 1.0)
        off = square - 2 * (points @ start.T) + (start * start).sum(axis=1) - 2 * t * run + t * t * long
        best = np.minimum(best, np.sqrt(np.maximum(off.min(axis=1), 0.0)))
    return best


def overlap_volume(a: Mesh, b: Mesh) -> float:
    """Volume in mm³ that two meshes share."""
    return float((_solid(a) ^ _solid(b)).volume())


def overlap(a: Mesh, b: Mesh) -> tuple[float, Array]:
    """Volume in mm³ that two meshes share, and the middle (3,) of its box."""
    shared = _solid(a) ^ _solid(b)
    volume = float(shared.volume())
    if volume <= 0:
        return 0.0, np.zeros(3)
    box = np.array(shared.bounding_box())
    return volume, (box[:3] + box[3:]) / 2


def shared_pieces(a: Mesh, b: Mesh) -> list[tuple[float, Array]]:
    """Every separate piece that two meshes share: its volume in mm³ and its corners (n, 3)."""
    shared = _solid(a) ^ _solid(b)
    return [(float(piece.volume()), _mesh(piece).points) for piece in shared.decompose()] if shared.volume() > 0 else []


def volumes_apart(mesh: Mesh, least: float = 1.0) -> list[float]:
    """Volumes in mm³ of the separate pieces of a body, the largest first; those up to ``least`` left out."""
    return sorted((v for piece in _solid(mesh).decompose() if (v := float(piece.volume())) > least), reverse=True)


def shared_moved(a: Mesh, shift: Array, b: Mesh) -> float:
    """Volume in mm³ that ``a``, moved by ``shift`` (3,), shares with ``b``."""
    return float((_solid(a).translate(tuple(shift.tolist())) ^ _solid(b)).volume())


def shared_points(a: Mesh, b: Mesh) -> Array:
    """Corners (n, 3) of what two meshes share."""
    return _mesh(_solid(a) ^ _solid(b)).points


def common_boxes(a: Mesh, b: Mesh, point: Array, normal: Array, least: float = 0.01) -> list[Array]:
    """Boxes (2, 3), least and greatest corner, of the separate pieces that two meshes share on the side of a plane to which ``normal`` points."""
    n = normal / np.linalg.norm(normal)
    shared = (_solid(a) ^ _solid(b)).trim_by_plane(tuple(n.tolist()), float(n @ point))
    boxes = [(float(piece.volume()), np.array(piece.bounding_box()).reshape(2, 3)) for piece in shared.decompose()]
    return [box for volume, box in boxes if volume > least]


def sliced(mesh: Mesh, height: float) -> list[Polygon]:
    """The faces a mesh shows where it is cut at a height z, as polygons of its x-y plane."""
    rings = [np.asarray(ring, dtype=np.float64) for ring in _solid(mesh).slice(height).to_polygons()]
    outer = [Polygon(r) for r in rings if len(r) > 2 and _turns(r) > 0]
    inner = shapely.union_all([Polygon(r) for r in rings if len(r) > 2 and _turns(r) < 0])
    return [p.difference(inner) for p in outer]


def _turns(ring: Array) -> float:
    x, y = ring[:, 0], ring[:, 1]
    return float((x * np.roll(y, -1) - y * np.roll(x, -1)).sum())


MOST_SOLIDS = 512
_solids: "dict[int, tuple[Mesh, manifold3d.Manifold]]" = {}  # of the meshes asked for last, with the mesh, so that its identity stays its own


def _solid(mesh: Mesh) -> "manifold3d.Manifold":
    """The mesh as a solid for exact booleans; those asked for last are kept."""
    found = _solids.get(id(mesh))
    if found is None:
        if len(_solids) >= MOST_SOLIDS:
            _solids.clear()
        found = _solids[id(mesh)] = (mesh, _made(mesh))
    return found[1]


def _made(mesh: Mesh) -> "manifold3d.Manifold":
    """A mesh as a solid.  What the library made itself is kept and moved along: given its own triangles back it turns edges beside slivers, which are
    there where a cut all but runs in a face, and another body comes of it."""
    source = mesh if mesh.solid is not None else mesh.like
    if source is None or source.solid is None or (solid := source.solid.solid) is None:
        return manifold3d.Manifold(manifold3d.Mesh64(vert_properties=np.ascontiguousarray(mesh.points), tri_verts=mesh.triangles.astype(np.uint64)))
    if source is mesh or not len(mesh.points):
        return solid
    middle = source.points.mean(axis=0)  # about it small differences keep their digits
    way, *_ = np.linalg.lstsq(source.points - middle, mesh.points - mesh.points.mean(axis=0), rcond=None)
    return solid.transform(np.column_stack([way.T, mesh.points.mean(axis=0) - middle @ way]))


def _mesh(solid: "manifold3d.Manifold") -> Mesh:
    out, made = solid.to_mesh64(), Made(solid)
    _held.add(made)
    return Mesh(np.array(out.vert_properties[:, :3], dtype=np.float64), np.array(out.tri_verts, dtype=np.int32), solid=made)
