"""Fillets where two faces meet, in the joint's frame."""

from collections.abc import Sequence

import numpy as np

from tincleat.details.parts import Weld
from tincleat.geometry.frames import unit, vec

Point = "Array | Vec3 | Sequence[float]"


def fillet(name: str, leg: float, a: Point, b: Point, on_a: Point, on_b: Point, parts: tuple[str, str], site: bool = False) -> Weld:  # type: ignore[valid-type]
    """A fillet whose root runs from ``a`` to ``b``; its legs lie along ``on_a`` on the first part and ``on_b`` on the second, made square to the run."""
    start, end = np.asarray(a, dtype=float), np.asarray(b, dtype=float)
    way = unit(end - start)
    u, v = (unit(np.asarray(w, dtype=float) - way * float(way @ np.asarray(w, dtype=float))) for w in (on_a, on_b))
    return Weld(name, leg, vec(start), vec(end), vec(u), vec(v), parts, site)


def both_sides(name: str, leg: float, run: Sequence[Point], across: Point, thickness: float, away: Point, parts: tuple[str, str], site: bool = False) -> list[Weld]:  # type: ignore[valid-type]
    """Fillets on both faces of a plate whose edge stands on another part along ``run`` (two points in the plate's middle plane).

    ``across`` is the plate's normal, ``away`` the direction from the other part into the plate.
    """
    n = unit(np.asarray(across, dtype=float))
    a, b = (np.asarray(p, dtype=float) for p in run)
    return [fillet(f"{name}, {side} side", leg, a + n * s * thickness / 2, b + n * s * thickness / 2, n * s, away, parts, site) for side, s in (("near", -1.0), ("far", 1.0))]
