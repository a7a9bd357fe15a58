"""Distances from bolts to the true edges of plies, in arrays."""

import numpy as np

from tincleat.details.assembled import Ply
from tincleat.geometry.frames import Array, Vec3, vec


def nearest_edge(points: Array, starts: Array, stops: Array) -> tuple[Array, "np.ndarray"]:
    """Distance (n,) from points (n, 2) to the nearest of some sides (m, 2), and which side it is."""
    d = stops - starts
    size = np.einsum("ij,ij->i", d, d)
    t = np.clip(((points[:, None] - starts) * d).sum(-1) / np.where(size > 0, size, 1), 0, 1)
    gap = points[:, None] - (starts + t[..., None] * d)
    far = np.hypot(gap[..., 0], gap[..., 1])
    side = far.argmin(axis=1)
    return far[np.arange(len(points)), side], side


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
