"""Triangle meshes for drawing, hidden lines and the odd boolean; never used to weigh anything."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache

import manifold3d
import mapbox_earcut
import numpy as np
from numpy.typing import NDArray

from tincleat.geometry.frames import Array, Frame
from tincleat.geometry.outline import Outline
from tincleat.geometry.tolerances import FEATURE_ANGLE

Index = NDArray[np.int32]


@dataclass(frozen=True, eq=False)
class Mesh:
    """Points (n, 3) in mm and triangles (m, 3) of point numbers, outward when counter-clockwise."""

    points: Array
    triangles: Index
    like: "Mesh | None" = None  # a mesh of the same corners, moved or stretched, that knows its sharp edges

    @cached_property
    def volume(self) -> float:
        """Enclosed volume in mm³ of the (chord-sided) mesh."""
        a, b, c = (self.points[self.triangles[:, i]] for i in range(3))
        return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)

    @cached_property
    def edges(self) -> tuple[Index, Array, Array]:
        """All edges (k, 2) with the unit normals (k, 3) of the faces on both sides; coplanar seams are left out."""
        return _edges(self)

    @cached_property
    def sharp_edges(self) -> Index:
        """(k, 2) point numbers of the edges worth drawing from any direction."""
        if self.like is not None:
            return self.like.sharp_edges
        pairs, first, second = self.edges
        return pairs[np.einsum("ij,ij->i", first, second) < np.cos(FEATURE_ANGLE)]

    def placed(self, frame: Frame) -> "Mesh":
        """The mesh, given in ``frame``, in the outer frame."""
        return Mesh(frame.to_world(self.points), self.triangles, self.like or self)


def joined(meshes: Sequence[Mesh]) -> Mesh:
    """All meshes as one array pair (bodies are not united)."""
    if not meshes:
        return Mesh(np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int32))
    starts = np.cumsum([0] + [len(m.points) for m in meshes[:-1]], dtype=np.int32)
    shift = np.repeat(starts, [len(m.triangles) for m in meshes])
    return Mesh(np.concatenate([m.points for m in meshes]), (np.concatenate([m.triangles for m in meshes]) + shift[:, None]).astype(np.int32, copy=False))


def prism(outline: Outline, holes: Sequence[Outline], z0: float, z1: float, per_arc: int = 3) -> Mesh:
    """The solid between ``z0`` and ``z1`` (mm) over an outline with holes; arcs get ``per_arc`` chords a quarter turn."""
    return ring_prism([outline.coarse(per_arc)] + [hole.coarse(max(per_arc, 2))[::-1] for hole in holes], z0, z1)


def ring_prism(rings: "list[Array]", z0: float, z1: float) -> Mesh:
    """The solid over plane rings: the first counter-clockwise, holes clockwise, each (n, 2) in mm."""
    flat = np.concatenate(rings)
    ends = np.cumsum([len(r) for r in rings]).astype(np.uint32)
    caps = np.asarray(mapbox_earcut.triangulate_float64(flat, ends), dtype=np.int32).reshape(-1, 3)
    n = len(flat)
    a, b, c = (flat[caps[:, i]] for i in range(3))
    clockwise = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0]) < 0
    caps[clockwise] = caps[clockwise][:, ::-1]
    sides = []
    start = 0
    for end in ends.tolist():
        i = np.arange(start, end)
        j = np.roll(i, -1)
        sides += [np.stack([i, j, j + n], 1), np.stack([i, j + n, i + n], 1)]
        start = end
    points = np.concatenate([np.column_stack([flat, np.full(n, z)]) for z in (z0, z1)])
    return Mesh(points, np.concatenate([caps[:, ::-1], caps + n, *sides]).astype(np.int32))


def cylinder(diameter: float, z0: float, z1: float, sides: int = 12) -> Mesh:
    """A cylinder about the z axis with a polygon of equal cross-section area."""
    angle = 2 * np.pi / sides
    return _regular(sides, diameter / 2 * float(np.sqrt(angle / np.sin(angle))), z0, z1)


def hexagon(across_flats: float, z0: float, z1: float) -> Mesh:
    """A hexagonal prism about the z axis."""
    return _regular(6, across_flats / 3**0.5, z0, z1)


def _regular(sides: int, radius: float, z0: float, z1: float) -> Mesh:
    unit = _unit_prism(sides)
    return Mesh(unit.points * (radius, radius, z1 - z0) + (0.0, 0.0, z0), unit.triangles, unit)


@lru_cache(maxsize=64)
def _unit_prism(sides: int) -> Mesh:
    turn = np.arange(sides) * 2 * np.pi / sides
    return ring_prism([np.column_stack([np.cos(turn), np.sin(turn)])], 0.0, 1.0)


def _edges(mesh: Mesh) -> tuple[Index, Array, Array]:
    tri = mesh.triangles
    a, b, c = (mesh.points[tri[:, i]] for i in range(3))
    normal = np.cross(b - a, c - a)
    size = np.linalg.norm(normal, axis=1)
    good = size > 1e-9
    tri, normal = tri[good], normal[good] / size[good, None]
    pairs = np.concatenate([tri[:, [0, 1]], tri[:, [1, 2]], tri[:, [2, 0]]])
    face = np.tile(np.arange(len(tri)), 3)
    pairs.sort(axis=1)
    order = np.lexsort((pairs[:, 1], pairs[:, 0]))
    pairs, face = pairs[order], face[order]
    same = np.all(pairs[1:] == pairs[:-1], axis=1)
    first = np.flatnonzero(same)
    f, g = normal[face[first]], normal[face[first + 1]]
    kept = np.einsum("ij,ij->i", f, g) < 0.99999
    lone = np.ones(len(pairs), dtype=bool)
    lone[first] = lone[first + 1] = False
    loners = np.flatnonzero(lone)
    return (
        np.concatenate([pairs[first][kept], pairs[loners]]).astype(np.int32),
        np.concatenate([f[kept], normal[face[loners]]]),
        np.concatenate([g[kept], -normal[face[loners]]]),
    )


def cut(body: Mesh, cutters: Sequence[Mesh]) -> Mesh:
    """``body`` less all ``cutters``, exact to the meshes' chords."""
    solid = _solid(body)
    for cutter in cutters:
        solid = solid - _solid(cutter)
    return _mesh(solid)


def trimmed(body: Mesh, point: "Array | tuple[float, float, float]", normal: "Array | tuple[float, float, float]") -> Mesh:
    """The part of ``body`` on the side of the plane to which ``normal`` points."""
    n = np.asarray(normal, dtype=np.float64)
    n = n / np.linalg.norm(n)
    return _mesh(_solid(body).trim_by_plane(tuple(n.tolist()), float(n @ np.asarray(point))))


def overlap_volume(a: Mesh, b: Mesh) -> float:
    """Volume in mm³ that two meshes share."""
    return float((_solid(a) ^ _solid(b)).volume())


def _solid(mesh: Mesh) -> "manifold3d.Manifold":
    return manifold3d.Manifold(manifold3d.Mesh64(vert_properties=np.ascontiguousarray(mesh.points), tri_verts=mesh.triangles.astype(np.uint64)))


def _mesh(solid: "manifold3d.Manifold") -> Mesh:
    out = solid.to_mesh64()
    return Mesh(np.array(out.vert_properties[:, :3], dtype=np.float64), np.array(out.tri_verts, dtype=np.int32))
