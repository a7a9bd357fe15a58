"""Anchor rods of a foot together."""

import math
from collections.abc import Sequence

import numpy as np

from tincleat.details.parts import HOOK
from tincleat.geometry.frames import Array

CLEAR = 2.0  # from axis to axis of a hook and another rod or hook, in diameters: concrete flows between


def hooks(foot: str, spots: Sequence[Sequence[float]], d: float, turn: float = 0.0) -> list[float]:
    """Which way (rad, in plan) the tail of each of some rods looks, if their ``foot`` is hooked, so that none meets another rod or its tail:
    to the middle along x, along y, or all one way; ``spots`` (mm) are in plan, x is turned there by ``turn``, the rods are ``d`` mm thick.

    Where concrete has no room to flow between them in any of these ways, the one that leaves most is taken.
    """
    if foot != "hooked":
        return [0.0] * len(spots)
    c, s = math.cos(turn), math.sin(turn)
    points = np.array(spots, dtype=float).reshape(-1, 2) @ np.array(((c, -s), (s, c)))
    points = points - (points.min(axis=0) + points.max(axis=0)) / 2 if len(points) else points
    inward = [np.arctan2(np.zeros(len(points)), -points[:, 0]), np.arctan2(-points[:, 1], np.zeros(len(points)))]
    for k in (0, 1):  # what stands in the middle of one way looks the other
        level = np.abs(points[:, k]) < 1e-6
        inward[k] = np.where(level, inward[1 - k], inward[k])
    ways = [*inward, *(np.full(len(points), math.radians(a)) for a in (0, 90, 45, 30, 60, 15, 75))]
    room = [_room(points, w, d) for w in ways]
    best = next((i for i, far in enumerate(room) if far >= CLEAR * d), int(np.argmax(room)))
    return [float(w) + turn for w in ways[best]]


def _room(points: Array, ways: Array, d: float) -> float:
    """How near the tails of hooked rods at points (n, 2), looking some ways (n,), come to each other and to the other rods, mm between axes."""
    tips = points + HOOK * d * np.column_stack([np.cos(ways), np.sin(ways)])
    steps = np.linspace(0.0, 1.0, int(4 * HOOK) + 1)[:, None, None]  # every quarter of a diameter
    along = (points + (tips - points) * steps).swapaxes(0, 1)
    far = np.sqrt(((along[:, :, None, None] - along[None, None]) ** 2).sum(axis=-1)).min(axis=(1, 3))
    return float((far + np.eye(len(points)) * 1e9).min(initial=1e9))
