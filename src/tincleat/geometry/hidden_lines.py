"""Which edges of solids are seen from a direction, and which lie behind something.

Exact for meshes: every edge is split where it crosses another in the picture, and the middle of each piece is tested
against all faces in front of it, as matrix products.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from tincleat.geometry.frames import Array, Frame
from tincleat.geometry.mesh import Mesh, joined
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
        whole = joined(meshes)
        self.points, self.triangles, self.normals = whole.points, whole.triangles, whole.normals
        self.pairs, first, second = whole.edges
        self.sides = np.stack([first, second])
        self.sharp = np.einsum("ij,ij->i", first, second) < np.cos(FEATURE_ANGLE)
        self.body = np.repeat(np.arange(len(meshes)), [len(m.wings[0]) for m in meshes])

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
        hidden = np.concatenate([_behind(middle[view[edge] == i], local[i][self.triangles], v.unturn(self.normals)) for i, v in enumerate(views)])
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
    whole = joined(meshes)
    return _behind(view.to_local(points), view.to_local(whole.points)[whole.triangles], view.unturn(whole.normals))


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


def _behind(points: Array, faces: Array, normals: Array) -> "np.ndarray":
    """(n,) bool: a front face lies nearer to the viewer than the point; faces (m, 3, 3) and unit normals (m, 3) in view coordinates."""
    front = normals[:, 2] > 1e-6
    faces, normals = faces[front], normals[front]
    hidden = np.zeros(len(points), dtype=bool)
    if not len(faces) or not len(points):
        return hidden
    count = len(faces)
    x, y = faces[:, :, 0].T, faces[:, :, 1].T
    turn = [1, 2, 0]
    dx, dy = x[turn] - x, y[turn] - y
    size = np.hypot(dx, dy) + 1e-12
    dx /= size
    dy /= size
    # how far a point lies inside each side of each face, and how near the face is there, as products with (x, y, 1)
    rows = np.empty((3, 4, count))
    rows[0, :3], rows[1, :3], rows[2, :3] = -dy, dx, dy * x - dx * y
    rows[:2, 3] = -normals[:, :2].T
    rows[2, 3] = np.einsum("ij,ij->i", normals, faces[:, 0])
    rows[:, 3] /= normals[:, 2]
    flat = np.ones((len(points), 3))
    flat[:, :2] = points[:, :2]
    for start in range(0, len(points), 2000):
        part = slice(start, start + 2000)
        found = (flat[part] @ rows.reshape(3, -1)).reshape(-1, 4, count)
        inside = found[:, :3] > INSIDE
        hidden[part] = np.any(inside[:, 0] & inside[:, 1] & inside[:, 2] & (found[:, 3] > points[part, 2:3] + IN_FRONT), axis=1)
    return hidden
