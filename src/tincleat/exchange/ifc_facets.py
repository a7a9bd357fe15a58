"""Faceted IFC bodies read as meshes without a geometry engine: triangulated and polygonal face sets, faceted breps, face based surfaces."""

from collections.abc import Iterator
from typing import Any

import mapbox_earcut
import numpy as np

from tincleat.exchange.ifc_shapes import DEEPEST, Broken, axes, numbers, operator
from tincleat.geometry.frames import Array

MOST_FACES = 400_000


def facets_of(representation: Any, world: Array) -> "tuple[Array, np.ndarray] | None":
    """Points (n, 3) in the world in the file's unit and triangles (m, 3) of a representation made of facets only; None if it holds anything else."""
    points: list[Array] = []
    triangles: list[np.ndarray] = []
    count = 0
    for item, matrix in _items(representation.Items or (), world, 0):
        found = _of(item)
        if found is None:
            return None
        own, faces = found
        points.append(own @ matrix[:3, :3].T + matrix[:3, 3])
        triangles.append((faces[:, ::-1] if np.linalg.det(matrix[:3, :3]) < 0 else faces) + count)
        count += len(own)
        if count > MOST_FACES * 3:
            raise Broken("its shape has too many faces")
    if not points:
        return None
    return np.concatenate(points), np.concatenate(triangles).astype(np.int32)


def _items(items: Any, world: Array, depth: int) -> "Iterator[tuple[Any, Array]]":
    if depth > DEEPEST:
        raise Broken("its shape refers to itself")
    for item in items:
        if item.is_a("IfcMappedItem"):
            source = item.MappingSource
            inner = world @ operator(item.MappingTarget)[0] @ np.linalg.inv(axes(source.MappingOrigin))
            yield from _items(source.MappedRepresentation.Items or (), inner, depth + 1)
        else:
            yield item, world


def _of(item: Any) -> "tuple[Array, np.ndarray] | None":
    if item.is_a("IfcTriangulatedFaceSet"):
        listed = _coordinates(item.Coordinates)
        faces = np.array(item.CoordIndex, dtype=np.int64).reshape(-1, 3) - 1
        if item.PnIndex:
            faces = np.array(item.PnIndex, dtype=np.int64)[faces] - 1
        return listed, _within(faces, listed)
    if item.is_a("IfcPolygonalFaceSet"):
        listed = _coordinates(item.Coordinates)
        parts = []
        for face in item.Faces[:MOST_FACES]:
            rings = [face.CoordIndex, *(face.InnerCoordIndices if face.is_a("IfcIndexedPolygonalFaceWithVoids") else ())]
            picked = [np.array(item.PnIndex)[np.array(r) - 1] - 1 if item.PnIndex else np.array(r, dtype=np.int64) - 1 for r in rings]
            parts.append(_flat([_within(p, listed) for p in picked], listed))
        return listed, np.concatenate(parts) if parts else np.zeros((0, 3), dtype=np.int64)
    if item.is_a("IfcFacetedBrep"):
        return _shells([item.Outer, *(item.Voids if item.is_a("IfcFacetedBrepWithVoids") else ())])
    if item.is_a("IfcShellBasedSurfaceModel"):
        return _shells(item.SbsmBoundary)
    if item.is_a("IfcFaceBasedSurfaceModel"):
        return _shells(item.FbsmFaces)
    return None


def _coordinates(points: Any) -> Array:
    listed = np.array(points.CoordList, dtype=float).reshape(-1, 3)
    if len(listed) > MOST_FACES * 3:
        raise Broken("its shape has too many points")
    if not np.isfinite(listed).all():
        raise Broken("a point of its shape is no number")
    return listed


def _within(index: "np.ndarray", listed: Array) -> "np.ndarray":
    if len(index) and (int(index.min()) < 0 or int(index.max()) >= len(listed)):
        raise Broken("a face of its shape refers to a point it does not have")
    return index


def _shells(shells: Any) -> "tuple[Array, np.ndarray] | None":
    points: list[list[float]] = []
    known: dict[int, int] = {}
    parts: list[np.ndarray] = []
    faces = [f for shell in shells for f in shell.CfsFaces]
    if len(faces) > MOST_FACES:
        raise Broken("its shape has too many faces")
    rings_of: list[list[np.ndarray]] = []
    for face in faces:
        rings = []
        for bound in sorted(face.Bounds, key=lambda b: not b.is_a("IfcFaceOuterBound")):
            loop = bound.Bound
            if not loop.is_a("IfcPolyLoop"):
                return None
            at = []
            for p in loop.Polygon:
                i = known.get(p.id())
                if i is None:
                    i = known[p.id()] = len(points)
                    points.append(numbers(p.Coordinates, 3, "a point of its shape"))
                at.append(i)
            rings.append(np.array(at if bound.Orientation in (None, True) else at[::-1], dtype=np.int64))
        rings_of.append(rings)
    listed = np.array(points, dtype=float).reshape(-1, 3)
    for rings in rings_of:
        parts.append(_flat(rings, listed))
    return listed, np.concatenate(parts) if parts else np.zeros((0, 3), dtype=np.int64)


def _flat(rings: "list[np.ndarray]", listed: Array) -> "np.ndarray":
    """Triangles of one plane face with voids, running as its outer ring does."""
    outer = rings[0]
    if len(outer) < 3:
        return np.zeros((0, 3), dtype=np.int64)
    if len(rings) == 1 and len(outer) == 3:
        return outer.reshape(1, 3)
    ring = listed[outer]
    normal = np.cross(ring, np.roll(ring, -1, axis=0)).sum(axis=0)
    drop = int(np.abs(normal).argmax())
    keep = [k for k in range(3) if k != drop]
    joined = np.concatenate(rings)
    made = mapbox_earcut.triangulate_float64(listed[joined][:, keep].copy(), np.cumsum([len(r) for r in rings]).astype(np.uint32)).reshape(-1, 3)
    faces = joined[made]
    if len(faces):
        a, b, c = (listed[faces[:, k]] for k in range(3))
        if float((np.cross(b - a, c - a) @ normal).sum()) < 0:
            faces = faces[:, ::-1]
    return faces
