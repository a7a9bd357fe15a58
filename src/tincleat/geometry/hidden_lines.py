"""Which edges of solids are seen from a direction, and which lie behind something.

Exact for meshes: every edge is split where it crosses another in the picture, and the middle of each piece is tested
against all faces in front of it, as matrix products.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from tincleat.geometry.frames import Array, Frame
from tincleat.geometry.mesh import Mesh
from tincleat.geometry.tolerances import FEATURE_ANGLE

IN_FRONT = 0.05  # mm by which a face must be nearer to hide an edge
INSIDE = -0.001  # mm a point may lie outside a face and still count as on it (seams between triangles must not let through)


@dataclass(frozen=True, eq=False)
class Seen:
    """Line pieces in the picture: ``lines`` (k, 4) as x0, y0, x1, y1; ``hidden`` (k,) bool; ``body`` (k,) mesh numbers."""

    lines: Array
    hidden: "np.ndarray"
    body: "np.ndarray"


def seen_edges(meshes: Sequence[Mesh], view: Frame) -> Seen:
    """Edges of ``meshes`` projected on the x-y plane of ``view`` (its z axis points at the viewer)."""
    starts, stops, owner, faces = [], [], [], []
    towards = np.array(view.z)
    for number, mesh in enumerate(meshes):
        pairs, n1, n2 = mesh.edges
        f1, f2 = n1 @ towards, n2 @ towards
        sharp = np.einsum("ij,ij->i", n1, n2) < np.cos(FEATURE_ANGLE)
        kept = pairs[sharp | ((f1 > 1e-6) != (f2 > 1e-6))]
        local = view.to_local(mesh.points)
        starts.append(local[kept[:, 0]])
        stops.append(local[kept[:, 1]])
        owner.append(np.full(len(kept), number))
        faces.append(local[mesh.triangles])
    if not starts:
        return Seen(np.zeros((0, 4)), np.zeros(0, dtype=bool), np.zeros(0, dtype=int))
    p, q, body = np.concatenate(starts), np.concatenate(stops), np.concatenate(owner)
    long = np.hypot(*(q - p)[:, :2].T) > 0.05
    p, q, body = p[long], q[long], body[long]
    edge, t0, t1 = _pieces(p[:, :2], q[:, :2])
    middle = p[edge] + (q - p)[edge] * ((t0 + t1) / 2)[:, None]
    hidden = _behind(middle, np.concatenate(faces))
    # neighbouring pieces of one edge in the same state become one line again
    if len(edge):
        change = np.flatnonzero((edge[1:] != edge[:-1]) | (hidden[1:] != hidden[:-1])) + 1
        first = np.concatenate([[0], change])
        last = np.concatenate([change - 1, [len(edge) - 1]])
        e = edge[first]
        a = p[e, :2] + (q - p)[e, :2] * t0[first][:, None]
        b = p[e, :2] + (q - p)[e, :2] * t1[last][:, None]
        return Seen(np.concatenate([a, b], axis=1), hidden[first], body[e])
    return Seen(np.zeros((0, 4)), np.zeros(0, dtype=bool), np.zeros(0, dtype=int))


def covered(points: Array, meshes: Sequence[Mesh], view: Frame) -> "np.ndarray":
    """(n,) bool: which points (n, 3) some mesh hides from the viewer of ``view``."""
    if not len(points) or not meshes:
        return np.zeros(len(points), dtype=bool)
    return _behind(view.to_local(points), np.concatenate([view.to_local(m.points)[m.triangles] for m in meshes]))


def _pieces(p: Array, q: Array) -> tuple["np.ndarray", Array, Array]:
    """Each edge cut at all crossings: edge numbers, and start and stop as fractions of the edge."""
    d = q - p
    n = len(p)
    low, high = np.minimum(p, q) - 1e-6, np.maximum(p, q) + 1e-6
    boxes = shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1])
    i, j = shapely.STRtree(boxes).query(boxes)
    cross = d[i, 0] * d[j, 1] - d[i, 1] * d[j, 0]
    length = np.hypot(d[:, 0], d[:, 1])
    skew = np.abs(cross) > 1e-9 * length[i] * length[j]
    i, j, cross = i[skew], j[skew], cross[skew]
    gap = p[j] - p[i]
    t = (gap[:, 0] * d[j, 1] - gap[:, 1] * d[j, 0]) / cross
    s = (gap[:, 0] * d[i, 1] - gap[:, 1] * d[i, 0]) / cross
    hit = (t > 1e-6) & (t < 1 - 1e-6) & (s > -1e-4) & (s < 1 + 1e-4)
    i, t = i[hit], t[hit]
    edge = np.concatenate([np.arange(n), np.arange(n), i])
    at = np.concatenate([np.zeros(n), np.ones(n), t])
    order = np.lexsort((at, edge))
    edge, at = edge[order], at[order]
    inner = (edge[1:] == edge[:-1]) & (at[1:] - at[:-1] > 1e-6)
    first = np.flatnonzero(inner)
    return edge[first], at[first], at[first + 1]


def _behind(points: Array, faces: Array) -> "np.ndarray":
    """(n,) bool: a front face lies nearer to the viewer than the point; faces (m, 3, 3) in view coordinates."""
    a, b, c = faces[:, 0], faces[:, 1], faces[:, 2]
    normal = np.cross(b - a, c - a)
    front = normal[:, 2] > 1e-6 * (np.linalg.norm(normal, axis=1) + 1e-12)
    a, b, c, normal = a[front], b[front], c[front], normal[front]
    if not len(a) or not len(points):
        return np.zeros(len(points), dtype=bool)
    rows = []
    for u, v in ((a, b), (b, c), (c, a)):
        e = (v - u)[:, :2]
        size = np.hypot(e[:, 0], e[:, 1]) + 1e-12
        rows.append(np.stack([-e[:, 1], e[:, 0], -(e[:, 0] * u[:, 1] - e[:, 1] * u[:, 0])]) / size)
    depth = np.stack([-normal[:, 0], -normal[:, 1], np.einsum("ij,ij->i", normal, a)]) / normal[:, 2]
    flat = np.column_stack([points[:, :2], np.ones(len(points))])
    hidden = np.zeros(len(points), dtype=bool)
    for start in range(0, len(points), 2000):
        part = slice(start, start + 2000)
        inside = (flat[part] @ rows[0] > INSIDE) & (flat[part] @ rows[1] > INSIDE) & (flat[part] @ rows[2] > INSIDE)
        hidden[part] = np.any(inside & (flat[part] @ depth > points[part, 2:3] + IN_FRONT), axis=1)
    return hidden
