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
    """Line pieces in the picture: ``lines`` (k, 4) as x0, y0, x1, y1; ``hidden`` (k,) bool; ``body`` (k,) mesh numbers; ``view`` (k,) view numbers."""

    lines: Array
    hidden: "np.ndarray"
    body: "np.ndarray"
    view: "np.ndarray"


class Scene:
    """Meshes made ready to be looked at from several sides: what does not depend on the side is worked out once."""

    def __init__(self, meshes: Sequence[Mesh]) -> None:
        starts = np.cumsum([0] + [len(m.points) for m in meshes])
        found = [m.edges for m in meshes]
        none = np.zeros((0, 3))
        self.points = np.concatenate([m.points for m in meshes] or [none])
        self.triangles = np.concatenate([m.triangles + s for m, s in zip(meshes, starts, strict=False)] or [none.astype(np.int32)])
        self.pairs = np.concatenate([e[0] + s for e, s in zip(found, starts, strict=False)] or [np.zeros((0, 2), dtype=np.int32)])
        self.sides = np.stack([np.concatenate([e[i] for e in found] or [none]) for i in (1, 2)])
        self.sharp = np.einsum("ij,ij->i", *self.sides) < np.cos(FEATURE_ANGLE)
        self.body = np.repeat(np.arange(len(meshes)), [len(e[0]) for e in found])

    def seen(self, views: Sequence[Frame]) -> Seen:
        """Edges projected on the x-y plane of each view (its z axis points at the viewer), all views in one go."""
        towards = np.stack([self.sides @ np.array(v.z) > 1e-6 for v in views])
        view, row = np.nonzero(self.sharp | (towards[:, 0] != towards[:, 1]))
        local = np.stack([v.to_local(self.points) for v in views])
        pairs, body = self.pairs[row], self.body[row]
        p = local[view, pairs[:, 0]]
        step = local[view, pairs[:, 1]] - p
        long = np.hypot(step[:, 0], step[:, 1]) > 0.05
        p, step, body, view = p[long], step[long], body[long], view[long]
        kept = _foremost(p, step, view)
        p, step, body, view = p[kept], step[kept], body[kept], view[kept]
        # the views lie side by side while edges are crossed, so that edges of one never meet those of another
        beside = np.ptp(local[:, :, 0]) + 1.0 if len(p) else 0.0
        edge, t0, t1 = _pieces(p[:, :2] + np.column_stack([view * beside, np.zeros(len(view))]), step[:, :2])
        if not len(edge):
            return Seen(np.zeros((0, 4)), np.zeros(0, dtype=bool), np.zeros(0, dtype=int), np.zeros(0, dtype=int))
        middle = p[edge] + step[edge] * ((t0 + t1) / 2)[:, None]
        hidden = np.concatenate([_behind(middle[view[edge] == i], local[i][self.triangles]) for i in range(len(views))])
        # neighbouring pieces of one edge in the same state become one line again
        change = np.flatnonzero((edge[1:] != edge[:-1]) | (hidden[1:] != hidden[:-1])) + 1
        first = np.concatenate([[0], change])
        last = np.concatenate([change - 1, [len(edge) - 1]])
        e = edge[first]
        a = p[e, :2] + step[e, :2] * t0[first][:, None]
        b = p[e, :2] + step[e, :2] * t1[last][:, None]
        return Seen(np.concatenate([a, b], axis=1), hidden[first], body[e], view[e])


def _foremost(p: Array, step: Array, view: "np.ndarray") -> "np.ndarray":
    """Of edges that lie on each other in a picture (symmetric things seen square on) the numbers of those nearest to the viewer."""
    q = p + step
    flat = np.round(np.concatenate([p[:, :2], q[:, :2]], axis=1) * 200.0).astype(np.int64)
    turned = (flat[:, 0] > flat[:, 2]) | ((flat[:, 0] == flat[:, 2]) & (flat[:, 1] > flat[:, 3]))
    flat[turned] = flat[turned][:, [2, 3, 0, 1]]
    # one number an edge; that two different edges share one by chance is less likely than a broken machine
    name = ((view.astype(np.int64) * 1_000_003 + flat[:, 0]) * 1_000_033 + flat[:, 1]) * 1_000_037 + flat[:, 2]
    name = name * 1_000_039 + flat[:, 3]
    order = np.lexsort((-(p[:, 2] + q[:, 2]), name))
    first = np.ones(len(order), dtype=bool)
    first[1:] = name[order][1:] != name[order][:-1]
    return np.sort(order[first])


def covered(points: Array, meshes: Sequence[Mesh], view: Frame) -> "np.ndarray":
    """(n,) bool: which points (n, 3) some mesh hides from the viewer of ``view``."""
    if not len(points) or not meshes:
        return np.zeros(len(points), dtype=bool)
    return _behind(view.to_local(points), np.concatenate([view.to_local(m.points)[m.triangles] for m in meshes]))


def _pieces(p: Array, d: Array) -> tuple["np.ndarray", Array, Array]:
    """Each edge, from ``p`` by ``d``, cut at all crossings: edge numbers, and start and stop as fractions of the edge."""
    n = len(p)
    low, high = np.minimum(p, p + d) - 1e-6, np.maximum(p, p + d) + 1e-6
    boxes = shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1])
    i, j = shapely.STRtree(boxes).query(boxes)
    px, py, dx, dy = (np.ascontiguousarray(v) for v in (p[:, 0], p[:, 1], d[:, 0], d[:, 1]))
    ix, iy, jx, jy = dx.take(i), dy.take(i), dx.take(j), dy.take(j)
    cross = ix * jy - iy * jx
    length = np.hypot(dx, dy)
    skew = np.abs(cross) > 1e-9 * length.take(i) * length.take(j)
    safe = np.where(skew, cross, 1.0)
    gx, gy = px.take(j) - px.take(i), py.take(j) - py.take(i)
    t = (gx * jy - gy * jx) / safe
    s = (gx * iy - gy * ix) / safe
    hit = skew & (t > 1e-6) & (t < 1 - 1e-6) & (s > -1e-4) & (s < 1 + 1e-4)
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
