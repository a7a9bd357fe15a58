"""Edges of drawn bodies under the pointer, to measure from one to another."""


import numpy as np
from PySide6.QtCore import QPointF

from tincleat.app.model_view import ModelView
from tincleat.geometry.frames import Array
from tincleat.geometry.lines import Between
from tincleat.geometry.mesh import Mesh
from tincleat.units import format_length

REACH = 14.0  # px from the pointer to an edge
AROUND = ((0, 0), (6, 0), (-6, 0), (0, 6), (0, -6))  # px: an outline is pointed at from outside as often as from within


def bodies_at(view: ModelView, at: QPointF) -> list[Mesh]:
    """The bodies drawn under a pixel and right beside it, in the world."""
    bodies = view.bodies
    if bodies is None:
        return []
    found: dict[tuple[str, str], Mesh] = {}
    for dx, dy in AROUND:
        hit = bodies.pick(*view.camera.ray(at.x() + dx, at.y() + dy))
        if hit is None or hit[:2] in found:
            continue
        kind, key, _ = hit
        if kind == "member":
            found[hit[:2]] = bodies.member(key, 2)
        elif (made := bodies.ledger.entries[key].made) is not None:
            found[hit[:2]] = made.shapes.all.placed(bodies.ledger.entries[key].joint.frame)
    return list(found.values())


def edge_at(view: ModelView, at: QPointF) -> tuple[Array, Array] | None:
    """The sharp edge (2, 3) of a body nearest to a pixel, and the point (3,) of it there; of edges over each other the one nearer
    to the eye."""
    some = [m.points[m.sharp_edges] for m in bodies_at(view, at) if len(m.sharp_edges)]
    if not some:
        return None
    ends = np.concatenate(some)
    flat = view.camera.project(ends.reshape(-1, 3)).reshape(-1, 2, 3)
    a, d = flat[:, 0, :2], flat[:, 1, :2] - flat[:, 0, :2]
    size = np.maximum(np.einsum("ij,ij->i", d, d), 1e-9)
    pixel = np.array([at.x(), at.y()])
    t = np.clip(np.einsum("ij,ij->i", pixel - a, d) / size, 0, 1)
    far = np.linalg.norm(a + d * t[:, None] - pixel, axis=1)
    near = np.flatnonzero((far < REACH) & (size > 1.0))
    if not len(near):
        return None
    depth = flat[near, 0, 2] + (flat[near, 1, 2] - flat[near, 0, 2]) * t[near]
    i = int(near[np.lexsort((-depth, np.round(far[near] / 3)))[0]])
    return ends[i], ends[i, 0] + (ends[i, 1] - ends[i, 0]) * t[i]


def between_words(found: Between, unit: str) -> str:
    """The measured way in words: its length, its parts along the axes, and the angle between the edges."""
    step = found.second - found.first
    along = "  ".join(f"{axis} {format_length(round(float(v), 2), unit)}" for axis, v in zip("xyz", step, strict=True) if abs(v) > 0.005)
    lean = "parallel" if found.angle < 1e-4 else f"{np.degrees(found.angle):.1f}° between them"
    return f"{format_length(round(found.distance, 2), unit, True)}   {lean}" + (f"\n{along}" if along else "")
