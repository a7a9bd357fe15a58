"""The end of a round tube pressed flat: its two walls on each other, drawn out of the round over a taper.

Every section of it is two half circles and two straights, as long round the outside and inside as the tube's own: the wall keeps its
thickness and its area, from the round tube (no straight) to the flat (half circles as small as the wall).  So nothing is lost in weight.
"""

import math
from collections.abc import Sequence

import numpy as np
from shapely.geometry import Polygon

from tincleat.catalogue.sections import Section
from tincleat.geometry.frames import Array, Frame
from tincleat.geometry.mesh import Mesh
from tincleat.geometry.outline import Outline
from tincleat.steel.cuts import Cuts, EndCut

OPEN = 0.02  # mm that the walls of a flat are drawn apart, inside their faces, so that its body stays closed
EDGE = 1e-5  # rad between the two points of a ring that are the ends of a straight where it has none


def flats_of(cuts: Cuts) -> tuple[EndCut, ...]:
    """The ends that are pressed flat."""
    return tuple(e for e in cuts.ends if e.flat)


def breadth(shape: Section) -> float:
    """Of a round tube pressed flat, mm: half the inside's girth, and the two walls."""
    return math.pi * (shape.h - 2 * shape.tw) / 2 + 2 * shape.tw


def flat_frame(end: EndCut, shape: Section) -> Frame:
    """Frame of a flat: origin on its lower face in the middle of its tip, x along it into the bar, y over its breadth, z through its walls."""
    return Frame.of(end.point, end.normal, np.cross(end.normal, end.across)).moved(z=-shape.tw)


def flat_ply(end: EndCut, shape: Section) -> Polygon:
    """Outline of a flat as a bolt finds it, in its frame's x-y plane."""
    half = breadth(shape) / 2
    return Outline.rectangle(0.0, -half, end.flat, half).polygon()


def section_at(shape: Section, radius: float) -> Outline:
    """Outer outline of a section on the way from round to flat whose half circles have this radius, its breadth along x."""
    return Outline.slot(0.0, 0.0, 2 * radius, 2 * radius + math.pi * (shape.h / 2 - radius), 0.0)


def _ring(radius: float, straight: float, angles: Array) -> Array:
    """Points (n, 2) of two half circles and the straights between them where a line at these angles (rad from the breadth) stands square to it:
    joined to those of another radius along a taper they make faces that do not twist."""
    c = np.cos(angles)
    return np.column_stack([np.sign(c) * straight / 2 + radius * c, radius * np.sin(angles)])


def _chords(ring: Array, angles: Array) -> Array:
    """Points (n, 2) at angles (rad) of a round ring, on the chords that it is drawn with."""
    own = np.mod(np.arctan2(ring[:, 1], ring[:, 0]), 2 * math.pi)
    order = np.argsort(own)
    at, points = own[order], ring[order]
    at, points = np.concatenate([at[-1:] - 2 * math.pi, at, at[:1] + 2 * math.pi]), np.concatenate([points[-1:], points, points[:1]])
    return np.column_stack([np.interp(np.mod(angles, 2 * math.pi), at, points[:, k]) for k in (0, 1)])


def _angles(ring: Array, turns: Sequence[float]) -> Array:
    """Angles (rad) at which a body's rings have their points: those of the round ring, and of each flat the ends of its half circles."""
    ends = [t + way * (math.pi / 2 + d) for t in turns for way in (1.0, -1.0) for d in (EDGE, -EDGE)]
    found = np.mod([*np.arctan2(ring[:, 1], ring[:, 0]).tolist(), *ends], 2 * math.pi)
    # a point of the round ring that lies there already is left out: those two stand for it
    kept = found[: len(ring)][[min(abs(math.remainder(a - e, 2 * math.pi)) for e in ends) > 2 * EDGE for a in found[: len(ring)].tolist()]]
    return np.unique(np.round(np.concatenate([kept, found[len(ring) :]]), 9))


def flattened_body(shape: Section, cuts: Cuts, low: float, high: float, rings: tuple[Array, Array], taper: bool = False) -> Mesh:
    """Body of a round tube with one or both ends pressed flat between two stations; ``rings`` (n, 2) are its round outer and inner outlines.

    An end that is not flat is cut by its first plane.  Of the ``taper`` alone only that of its flat end is made.
    """
    outer, inner = rings
    ends = {1.0: next((e for e in cuts.ends if e.normal[0] > 1e-6), None), -1.0: next((e for e in cuts.ends if e.normal[0] < -1e-6), None)}
    first = next(e for e in ends.values() if e is not None and e.flat)
    angles = _angles(outer, [math.atan2(e.across[2], e.across[1]) for e in ends.values() if e is not None and e.flat])
    round_ = [_chords(r, angles) for r in (outer, inner)]
    rows: list[tuple[Array, Array]] = []  # of the outer and the inner ring, from the least station on

    def flat_rows(end: EndCut) -> list[tuple[Array, Array]]:
        """From the tip of a flat, or from where its taper begins, to the round."""
        own = math.atan2(end.across[2], end.across[1])
        straight = math.pi * (shape.h / 2 - shape.tw)
        out = []
        for far in (end.flat,) if taper else (0.0, end.flat):
            pair = []
            for r in (shape.tw, OPEN / 2):
                p = _ring(r, straight, angles - own)
                c, s = math.cos(own), math.sin(own)
                pair.append(_at(p @ np.array([[c, s], [-s, c]]), end.point[0] + math.copysign(far, end.normal[0])))
            out.append((pair[0], pair[1]))
        x = end.point[0] + math.copysign(end.flat + end.taper, end.normal[0])
        return [*out, (_at(round_[0], x), _at(round_[1], x))]

    def cut_row(end: EndCut | None, x: float) -> tuple[Array, Array]:
        out = []
        for r in round_:
            p = _at(r, x)
            if end is not None:
                p[:, 0] = end.point[0] - (end.normal[1] * (p[:, 1] - end.point[1]) + end.normal[2] * (p[:, 2] - end.point[2])) / end.normal[0]
            out.append(p)
        return out[0], out[1]

    if taper:
        rows = flat_rows(first)
        rows = rows if first.normal[0] > 0 else rows[::-1]
    else:
        start, stop = ends[1.0], ends[-1.0]
        rows += flat_rows(start) if start is not None and start.flat else [cut_row(start, low)]
        rows += flat_rows(stop)[::-1] if stop is not None and stop.flat else [cut_row(stop, high)]
    return _skinned(rows)


def _at(ring: Array, x: float) -> Array:
    return np.column_stack([np.full(len(ring), x), ring])


def _skinned(rows: list[tuple[Array, Array]]) -> Mesh:
    """The closed body between outer and inner rings (k of n points each, anticlockwise seen against x)."""
    n, k = len(rows[0][0]), len(rows)
    points = np.concatenate([ring for row in rows for ring in row])
    i, j = np.arange(n), np.roll(np.arange(n), -1)

    def quads(a: "np.ndarray", b: "np.ndarray", c: "np.ndarray", d: "np.ndarray") -> "np.ndarray":
        return np.concatenate([np.column_stack([a, b, c]), np.column_stack([a, c, d])])

    out = []
    for r in range(k - 1):
        o, p = 2 * r * n, 2 * (r + 1) * n
        out += [quads(o + i, o + j, p + j, p + i), quads(o + n + j, o + n + i, p + n + i, p + n + j)]
    last = 2 * (k - 1) * n
    out += [quads(j, i, n + i, n + j), quads(last + i, last + j, last + n + j, last + n + i)]
    return Mesh(points, np.concatenate(out).astype(np.int32))


def flat_covers(shape: Section, cuts: Cuts, low: float, high: float) -> list[Array]:
    """Corners (n, 3) of convex bodies that together hold all of such a tube."""
    out: list[Array] = []
    round_ = shape.outer.coarse(6)
    reach = np.column_stack([np.zeros(len(round_)), round_]) / math.cos(math.pi / len(round_))
    for end in flats_of(cuts):
        at, half = flat_frame(end, shape), breadth(shape) / 2 + OPEN
        corners = [(x, y, z) for y in (-half, half) for z in (0.0, 2 * shape.tw) for x in (0.0, end.flat)]
        box = at.to_world(corners)
        ring = reach + (end.point[0] + math.copysign(end.flat + end.taper, end.normal[0]), 0.0, 0.0)
        out += [box, np.concatenate([box[1::2], ring])]
        if end.normal[0] > 0:
            low = max(low, end.point[0] + end.flat + end.taper)
        else:
            high = min(high, end.point[0] - end.flat - end.taper)
    out.append(np.concatenate([reach + (x, 0.0, 0.0) for x in (low, high)]))
    return out
