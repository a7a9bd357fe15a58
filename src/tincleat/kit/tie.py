"""Round bars between faces: with nuts on them, or welded to them."""

import math
from itertools import pairwise

import numpy as np

from tincleat.catalogue.fasteners import bolt_size
from tincleat.details.parts import Tie, Weld
from tincleat.geometry.frames import Array, Frame, vec
from tincleat.kit.layout import up
from tincleat.kit.weld import fillet

CHORDS = 24  # of a weld round a bar


def along(axis: Array, origin: Array) -> Frame:
    """A bar's frame: x along it, z as upright as may be."""
    aside = np.array([0.0, 0.0, 1.0]) if abs(axis[2]) < 0.9 else np.array([1.0, 0.0, 0.0])
    z = aside - axis * float(aside @ axis)
    return Frame(vec(origin), vec(axis), vec(z / np.linalg.norm(z)))


def bolted_bar(name: str, size: str, grade: str, spots: "list[tuple[Array, float]]", projection: float, inner: bool, washers: bool, thread: float | None, step: float, normals: "list[Array] | None" = None, stand: "list[float] | None" = None) -> Tie:
    """A threaded bar through steel at ``spots`` (points on its line with half the thickness there, along it), in order.

    Nuts bear outside on the first and last, and inside too if ``inner``; on both faces of those between.  It stands ``projection``
    out of the outer faces; a ``thread`` of None is as long as its inner nut needs, with some to turn, on ``step``.  ``normals`` of
    faces that slant, one a spot, give it taper washers; it stands out further by what they take.  ``stand`` is, one a spot, how far off faces
    that are not quite square to it its nuts bear, on one side of theirs.
    """
    d = bolt_size(size)
    first, last = spots[0], spots[-1]
    axis = last[0] - first[0]
    long = float(np.linalg.norm(axis))
    axis = axis / long
    taper = max((d.washer_d / 2 * math.tan(math.acos(min(1.0, abs(float(n @ axis))))) for n in normals or ()), default=0.0)
    projection += up(taper, step)
    start = first[0] - axis * (first[1] + projection)
    total = up(long + first[1] + last[1] + 2 * projection, step)  # cut to a round length, what that adds at its far end
    faces = [(float((p - start) @ axis), half) for p, half in spots]
    nuts = _nuts([(x, half + more) for (x, half), more in zip(faces, stand or [0.0] * len(faces), strict=True)], inner)
    at = along(axis, start)
    seats = [at.unturn(n) for n in normals or ()]
    seats = [s * (1.0 if s[0] > 0 else -1.0) for s in seats]
    owner = [min(range(len(faces)), key=lambda i: abs(faces[i][0] - x)) for x, _ in nuts]
    reach = 0.0 if not inner else d.nut_height + (d.washer_t if washers else 0.0) + d.d + taper
    threads = tuple(thread if thread is not None else up(projection + 2 * half + reach, step) for _, half in (faces[0], faces[-1]))
    threads = (threads[0], threads[1] + total - faces[-1][0] - last[1] - projection)
    if len(spots) > 2:
        threads = (total, total)  # nuts sit all along it
    tapers = tuple(vec(seats[k] * way) for k, (_, way) in zip(owner, nuts, strict=True)) if seats else ()
    return Tie(name, size, grade, at, total, (min(threads[0], total), min(threads[1], total)), tuple(nuts), washers, tapers)


def _nuts(faces: "list[tuple[float, float]]", inner: bool) -> list[tuple[float, int]]:
    """Where nuts bear: outside on the first and last of some plies, inside too if wanted, on both sides of those between."""
    out: list[tuple[float, int]] = []
    for i, (x, half) in enumerate(faces):
        ends = (i == 0, i == len(faces) - 1)
        if ends[0] or inner or not ends[1]:
            out.append((x - half, -1))
        if ends[1] or inner or not ends[0]:
            out.append((x + half, 1))
    return out


def welded_bar(name: str, size: str, grade: str, ends: "tuple[tuple[Array, float], tuple[Array, float]]", leg: float, parts: tuple[str, str]) -> tuple[Tie, list[Weld]]:
    """A plain bar between two faces, welded to both all round; ``ends`` as the spots of a bolted one, ``parts`` what it is welded to."""
    (a, half_a), (b, half_b) = ends
    axis = b - a
    long = float(np.linalg.norm(axis))
    axis = axis / long
    start, end = a + axis * half_a, b - axis * half_b
    at = along(axis, start)
    tie = Tie(name, size, grade, at, long - half_a - half_b, (0.0, 0.0), ())
    off = bolt_size(size).d / 2 / math.cos(math.pi / CHORDS)
    y, z = np.array(at.y), np.array(at.z)
    ring = [off * (y * math.cos(w) + z * math.sin(w)) for w in np.arange(CHORDS + 1) * 2 * math.pi / CHORDS]
    welds = [fillet(f"{name} to {part}", leg, point + p, point + q, p + q, way, (part, name)) for part, point, way in zip(parts, (start, end), (axis, -axis), strict=True) for p, q in pairwise(ring)]
    return tie, welds
