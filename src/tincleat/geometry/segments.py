"""Straight pieces and boxes against each other, many at once."""

import numpy as np

from tincleat.geometry.frames import Array


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


def meet(middle: Array, axes: Array, half: Array, one: "np.ndarray", two: "np.ndarray", more: float = 0.0) -> "np.ndarray":
    """Whether pairs of turned boxes reach into each other by ``more`` mm at least, by planes that part them.

    ``middle`` (n, 3), ``axes`` (n, 3, 3) rows of unit vectors, ``half`` (n, 3) along them; ``one`` and ``two`` (k,) number the pairs.
    """
    a, b, t = axes[one], axes[two], middle[two] - middle[one]
    turn = np.einsum("kia,kja->kij", a, b)
    size = np.abs(turn)
    t_a, t_b = np.einsum("kia,ka->ki", a, t), np.einsum("kia,ka->ki", b, t)
    h_a, h_b = half[one], half[two]
    out = (np.abs(t_a) < h_a + np.einsum("kij,kj->ki", size, h_b) - more).all(axis=1)
    out &= (np.abs(t_b) < h_b + np.einsum("kij,ki->kj", size, h_a) - more).all(axis=1)
    for i in range(3):
        for j in range(3):
            axis = np.cross(a[:, i], b[:, j])
            long = np.sqrt((axis * axis).sum(axis=1))
            reach = np.abs(np.einsum("kia,ka->ki", a, axis)) * h_a
            reach_b = np.abs(np.einsum("kia,ka->ki", b, axis)) * h_b
            far = np.abs((t * axis).sum(axis=1))
            out &= (long < 1e-6) | (far < reach.sum(axis=1) + reach_b.sum(axis=1) - more * long)
    found: np.ndarray = out
    return found
