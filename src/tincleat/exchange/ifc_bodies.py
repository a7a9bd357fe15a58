"""Bars told from bare bodies: the axis a body runs along, and the outline it shows when it is cut across."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import LineString, Polygon

from tincleat.catalogue.recognise import SURE, Match, by_outline
from tincleat.catalogue.sections import Section
from tincleat.exchange.ifc_solids import Halfspace
from tincleat.geometry.frames import Array, crossed, unit
from tincleat.geometry.mesh import Mesh

STATIONS = (0.5, 0.37, 0.63, 0.21, 0.79)  # shares of the length to cut at: notches and holes spoil some
STRAIGHT = 0.5  # least share of the edges' length that runs along the bar
SLENDER = 1.5  # least length by the larger size across


@dataclass(frozen=True, eq=False)
class Bar:
    """A body taken for a section: ``matrix`` (4, 4) carries the section's plane (at its bounding box's middle) to the bar's start in
    the world (mm), ``way`` (3,) runs to its end."""

    match: Match
    matrix: Array
    way: Array


def bar_of(points: Array, triangles: "np.ndarray", called: "Section | None" = None) -> Bar | None:
    """The bar that a closed body (n, 3) mm is, by the best fit of a cut across it to the catalogue and to the section it is ``called``; None if it is like none."""
    points, index = np.unique(points.round(3), axis=0, return_inverse=True)
    triangles = index.reshape(-1)[triangles].astype(np.int32)
    body = Mesh(points, triangles)
    pairs = body.wings[0]
    if not len(pairs):
        return None
    edges = points[pairs[:, 1]] - points[pairs[:, 0]]
    sizes = np.linalg.norm(edges, axis=1)
    axis = unit(edges[int(sizes.argmax())])
    along = np.abs(edges @ axis) > 0.9999 * sizes
    if sizes[along].sum() < STRAIGHT * sizes.sum():
        return None
    aside = unit(crossed(axis, (0.0, 0.0, 1.0) if abs(axis[2]) < 0.9 else (1.0, 0.0, 0.0)))
    frame = np.stack([aside, crossed(axis, aside), axis])
    local = points @ frame.T
    low, high = local.min(axis=0), local.max(axis=0)
    if high[2] - low[2] < SLENDER * max(high[0] - low[0], high[1] - low[1]):
        return None
    best: Bar | None = None
    for share in STATIONS:
        for plane in _cuts(local, triangles, float(low[2] + share * (high[2] - low[2]))):
            found = _fitted(plane, called)
            if found is None or (best is not None and found[0].confidence <= best.match.confidence):
                continue
            match, at, turn = found
            matrix = np.eye(4)
            matrix[:3, 0], matrix[:3, 1], matrix[:3, 2] = turn[0] @ frame[:2], turn[1] @ frame[:2], axis
            matrix[:3, 3] = np.array([*at, low[2]]) @ frame
            best = Bar(match, matrix, axis * (high[2] - low[2]))
        if best is not None and best.match.confidence > 0.98:
            break
    return best if best is not None and best.match.confidence >= SURE else None


def _cuts(local: Array, triangles: "np.ndarray", at: float) -> Iterator[Polygon]:
    """The largest outline in which a plane across the bar cuts it, if there is one."""
    z = local[triangles][:, :, 2] - at
    hit = (z.min(axis=1) < 0) & (z.max(axis=1) > 0)
    pieces = []
    for corners, height in zip(local[triangles[hit]], z[hit], strict=True):
        ends = []
        for i, j in ((0, 1), (1, 2), (2, 0)):
            if (height[i] < 0) != (height[j] < 0):
                ends.append((corners[i] + (corners[j] - corners[i]) * (height[i] / (height[i] - height[j])))[:2])
        if len(ends) == 2 and float(np.hypot(*(ends[1] - ends[0]))) > 1e-3:
            pieces.append(LineString(np.round(ends, 3)))
    faces = list(shapely.polygonize(pieces).geoms) if pieces else []
    if faces:
        # of a hollow section the hollow is a face too: the steel is the one that reaches farthest out
        yield max(faces, key=lambda p: Polygon(p.exterior).area)


def _fitted(plane: Polygon, called: "Section | None") -> "tuple[Match, Array, Array] | None":
    """The section an outline is like, where its middle lies (2,), and the axes (2, 2) it was measured along."""
    box = np.asarray(shapely.minimum_rotated_rectangle(plane).exterior.coords)
    side = box[1] - box[0]
    u = side / np.hypot(*side)
    turn = np.array([u, (-u[1], u[0])])
    rings = [_round(np.asarray(r.simplify(0.02).coords)[:-1]) @ turn.T for r in (plane.exterior, *plane.interiors)]
    match, middle = by_outline(rings, called)
    return None if match is None else (match, np.array(middle) @ turn, turn)


def _round(ring: Array) -> Array:
    """A ring of chords of one circle as the circle it stands for (fewer chords weigh less than a pipe does); others as they are."""
    middle = (ring.min(axis=0) + ring.max(axis=0)) / 2
    far = np.hypot(*(ring - middle).T)
    if len(ring) < 8 or float(np.ptp(far)) > 0.01 * float(far.max()):
        return ring
    turn = np.arange(96) * (2 * np.pi / 96)
    out: Array = middle + float(far.mean()) * np.column_stack([np.cos(turn), np.sin(turn)])
    return out


def end_planes(points: Array, triangles: "np.ndarray", bar: Bar, scale: float) -> list[Halfspace]:
    """The planes a bar's body ends in where an end is one plane not square to it, in the file's unit (``scale`` mm): ends of several planes stay square."""
    x = unit(bar.way)
    corners = points[triangles]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    areas = np.linalg.norm(normals, axis=1)
    good = areas > 1e-6
    corners, normals, areas = corners[good], normals[good] / areas[good, None], areas[good]
    middle = bar.matrix[:3, 3] + bar.way / 2
    lean = normals @ x
    out = []
    for side in (-1.0, 1.0):
        cap = (np.sign(lean) == side) & (np.abs(lean) > 0.02) & (((corners.mean(axis=1) - middle) @ x) * side > 0)
        if not cap.any():
            continue
        normal = unit((normals[cap] * areas[cap, None]).sum(axis=0))
        point = corners[cap][int(areas[cap].argmax())].mean(axis=0)
        flat = float(np.abs((corners[cap].reshape(-1, 3) - point) @ normal).max())
        if flat < 0.5 and abs(float(normal @ x)) < 1.0 - 1e-7:
            out.append(Halfspace(point / scale, -normal))
    return out
