"""Turned boxes against each other, many at once."""

import numpy as np

from tincleat.geometry.frames import Array


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
