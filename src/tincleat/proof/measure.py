"""Distances from bolts to the true edges of plies, in arrays."""

import numpy as np

from tincleat.details.assembled import Ply
from tincleat.geometry.frames import Array, Vec3, vec

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


def along_rays(points: Array, directions: Array, starts: Array, stops: Array) -> tuple[Array, "np.ndarray"]:
    """Distances (k, n) from points along k unit directions (k, 2) to the first side met (inf if none), and which side it is."""
    d = stops - starts
    cross = directions[:, :1] * d[:, 1] - directions[:, 1:] * d[:, 0]
    skew = np.abs(cross) > 1e-9
    safe = np.where(skew, cross, 1.0)[:, None, :]
    gap = starts[None] - points[:, None]
    t = (gap[..., 0] * d[:, 1] - gap[..., 1] * d[:, 0])[None] / safe
    s = (gap[None, ..., 0] * directions[:, 1, None, None] - gap[None, ..., 1] * directions[:, 0, None, None]) / safe
    t = np.where(skew[:, None, :] & (s >= -1e-9) & (s <= 1 + 1e-9) & (t > 0), t, np.inf)
    side = t.argmin(axis=2)
    return np.take_along_axis(t, side[..., None], axis=2)[..., 0], side


def load_in(ply: Ply, load: Vec3) -> Array:
    """Unit direction (2,) of a load in the ply's plane; x where the load stands square on it."""
    flat = ply.frame.unturn(load)[:2]
    size = float(np.hypot(*flat))
    return flat / size if size > 0.1 else np.array([1.0, 0.0])


def in_joint(ply: Ply, at: "tuple[float, float] | Array") -> Vec3:
    """A point of a ply's middle plane in the joint frame."""
    return vec(ply.frame.to_world(np.array([(at[0], at[1], ply.thickness / 2)]))[0])
