"""Distances from bolts to the true edges of plies, in arrays."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from tincleat.details.assembled import Ply
from tincleat.geometry.frames import Array, Vec3

BLOCK = 4096


def nearest_edge(points: Array, starts: Array, stops: Array) -> tuple[Array, "np.ndarray"]:
    """Distance (n,) from points (n, 2) to the nearest of some sides (m, 2), and which side it is."""
    d = stops - starts
    size = np.einsum("ij,ij->i", d, d)
    size = np.where(size > 0, size, 1)
    far, side = np.empty(len(points)), np.empty(len(points), dtype=np.intp)
    for first in range(0, len(points), BLOCK):  # blocks that stay in the processor's cache
        part = slice(first, first + BLOCK)
        x, y = points[part, 0, None] - starts[:, 0], points[part, 1, None] - starts[:, 1]
        t = np.clip((x * d[:, 0] + y * d[:, 1]) / size, 0, 1)
        square = (x - t * d[:, 0]) ** 2 + (y - t * d[:, 1]) ** 2
        side[part] = square.argmin(axis=1)
        far[part] = np.sqrt(square.min(axis=1))
    return far, side


class Plane(NamedTuple):
    """Points (n, 2) in a plane with a direction (2,) of load, the sides (m, 2) of an outline by start and stop, and groups of those (k, m)."""

    points: Array
    load: Array
    starts: Array
    stops: Array
    groups: "np.ndarray"


class Reach(NamedTuple):
    """From every point of a plane: distances (k, 4, n) along the load, against it, across it and against that to the first side of each
    group, inf where none is met, and (k, n) to the nearest side of each."""

    along: Array
    near: Array


def reaches(planes: Sequence[Plane]) -> list[Reach]:
    """:class:`Reach` of many planes with as many groups each, all at once: most have so few points and sides that calls cost more than sums."""
    if not planes:
        return []
    n, m = np.array([len(p.points) for p in planes]), np.array([len(p.starts) for p in planes])
    # a row for every point with every side of its plane, a point's own rows together
    sides = np.repeat(m, n)
    first = np.concatenate([[0], np.cumsum(sides)[:-1]])
    point = np.repeat(np.arange(len(sides)), sides)
    side = np.arange(len(point)) - first[point] + np.repeat(np.concatenate([[0], np.cumsum(m)[:-1]]), n)[point]
    px, py = np.concatenate([p.points for p in planes]).T[:, point]
    (ax, ay), (bx, by) = (np.concatenate([getattr(p, end) for p in planes]).T[:, side] for end in ("starts", "stops"))
    lx, ly = np.repeat(np.array([p.load for p in planes]), n, axis=0).T[:, point]
    gx, gy, dx, dy = ax - px, ay - py, bx - ax, by - ay
    out = np.full((4, len(point)), np.inf)
    turned = gx * dy - gy * dx
    for row, (wx, wy) in ((0, (lx, ly)), (2, (-ly, lx))):
        cross = wx * dy - wy * dx
        skew = np.abs(cross) > 1e-9
        safe = np.where(skew, cross, 1.0)
        t, s = turned / safe, (gx * wy - gy * wx) / safe
        met = skew & (s >= -1e-9) & (s <= 1 + 1e-9)
        out[row] = np.where(met & (t > 0), t, np.inf)
        out[row + 1] = np.where(met & (t < 0), -t, np.inf)
    size = dx * dx + dy * dy
    t = np.clip(-(gx * dx + gy * dy) / np.where(size > 0, size, 1.0), 0.0, 1.0)
    off = np.hypot(gx + t * dx, gy + t * dy)
    in_group = np.concatenate([p.groups for p in planes], axis=1)[:, side]
    rows = np.concatenate([np.where(in_group[:, None], out, np.inf), np.where(in_group, off, np.inf)[:, None]], axis=1)
    least = np.minimum.reduceat(rows, first, axis=2)
    stops = np.cumsum(n)
    return [Reach(least[:, :4, b - c : b], least[:, 4, b - c : b]) for b, c in zip(stops.tolist(), n.tolist(), strict=True)]


def load_in(ply: Ply, load: Vec3) -> Array:
    """Unit direction (2,) of a load in the ply's plane; x where the load stands square on it."""
    flat = ply.frame.unturn(load)[:2]
    size = float(np.hypot(*flat))
    return flat / size if size > 0.1 else np.array([1.0, 0.0])


def in_joint(ply: Ply, at: "tuple[float, float] | Array") -> Vec3:
    """A point of a ply's middle plane in the joint frame."""
    return ply.frame.point((at[0], at[1], ply.thickness / 2))
