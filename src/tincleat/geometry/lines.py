"""Straight lines and pieces of them in space: where they come nearest, and how far apart edges lie."""

import math
from dataclasses import dataclass

import numpy as np

from tincleat.geometry.frames import Array

PARALLEL = 1e-6  # sine of the angle under which two lines count as parallel


def crossing(a: Array, b: Array) -> tuple[float, float, float] | None:
    """Where two lines through the pieces ``a`` and ``b`` (2, 3) come nearest: shares along each piece, and their gap in mm; None if parallel."""
    u, v, w = a[1] - a[0], b[1] - b[0], b[0] - a[0]
    uu, vv, uv = float(u @ u), float(v @ v), float(u @ v)
    det = uu * vv - uv * uv
    if det <= PARALLEL**2 * uu * vv:
        return None
    s = (float(w @ u) * vv - float(w @ v) * uv) / det
    t = (float(w @ u) * uv - float(w @ v) * uu) / det
    return s, t, float(np.linalg.norm(a[0] + u * s - b[0] - v * t))


def apart(a: Array, b: Array) -> Array:
    """Least distances (n,) between pairs of segments (n, 2, 3): by the closest points of their lines, clamped to the ends."""
    p, q = a[:, 0], b[:, 0]
    u, v, w = a[:, 1] - p, b[:, 1] - q, p - q
    uu, uv, vv = (u * u).sum(axis=1), (u * v).sum(axis=1), (v * v).sum(axis=1)
    uw, vw = (u * w).sum(axis=1), (v * w).sum(axis=1)
    den = uu * vv - uv * uv
    s = np.clip(np.where(den > 1e-9 * uu * vv, (uv * vw - vv * uw) / np.where(den > 0, den, 1.0), 0.5), 0.0, 1.0)
    t = np.clip((uv * s + vw) / vv, 0.0, 1.0)
    s = np.clip((uv * t - uw) / uu, 0.0, 1.0)
    gap = w + s[:, None] * u - t[:, None] * v
    out: Array = np.sqrt((gap * gap).sum(axis=1))
    return out


@dataclass(frozen=True, eq=False)
class Between:
    """The way from one edge to another: its ends (3,) each, its length in mm and the angle between the edges in rad (0 if parallel)."""

    first: Array
    second: Array
    distance: float
    angle: float


def between_edges(a: Array, b: Array, near: "Array | None" = None) -> Between:
    """The way between two edges (2, 3): square between parallel ones, else the shortest between the two pieces.

    Between parallel ones it lies as close to the point ``near`` (3,) as both edges go, in the middle if none is given.
    Raises nothing; an edge without length counts as a point.
    """
    u, v = a[1] - a[0], b[1] - b[0]
    sizes = float(np.linalg.norm(u)) * float(np.linalg.norm(v))
    cosine = min(1.0, abs(float(u @ v)) / sizes) if sizes > 0 else 1.0
    met = crossing(a, b) if sizes > 0 else None
    if met is None and sizes > 0:
        # on the stretch both have, or in the middle of the gap along them, straight across
        way = u / float(u @ u)
        s = sorted(float((p - a[0]) @ way) for p in b)
        low, high = max(0.0, s[0]), min(1.0, s[1])
        share = (low + high) / 2 if near is None or low > high else min(high, max(low, float((near - a[0]) @ way)))
        p = a[0] + u * share
        q = b[0] + v * (float((p - b[0]) @ v) / float(v @ v))
        return Between(p, q, float(np.linalg.norm(q - p)), 0.0)
    angle = math.acos(cosine)
    if met is not None and 0 <= met[0] <= 1 and 0 <= met[1] <= 1:
        p, q = a[0] + u * met[0], b[0] + v * met[1]
        return Between(p, q, float(np.linalg.norm(q - p)), angle)
    ways = [(p, _nearest(p, b)) for p in a] + [(_nearest(q, a), q) for q in b]
    p, q = min(ways, key=lambda pair: float(np.linalg.norm(pair[1] - pair[0])))
    return Between(p, q, float(np.linalg.norm(q - p)), angle)


def _nearest(p: Array, piece: Array) -> Array:
    d = piece[1] - piece[0]
    size = float(d @ d)
    out: Array = piece[0] + d * (min(1.0, max(0.0, float((p - piece[0]) @ d) / size)) if size > 0 else 0.0)
    return out
