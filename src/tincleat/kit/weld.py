"""Fillets where two faces meet, in the joint's frame."""

import math
from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from tincleat.catalogue.sections import Section
from tincleat.details.parts import Weld
from tincleat.geometry.frames import Array, Frame, Vec3, unit, vec

Point = "Array | Vec3 | Sequence[float]"


def fillet(name: str, leg: float, a: Point, b: Point, on_a: Point, on_b: Point, parts: tuple[str, str], site: bool = False) -> Weld:  # type: ignore[valid-type]
    """A fillet whose root runs from ``a`` to ``b``; its legs lie along ``on_a`` on the first part and ``on_b`` on the second, made square to the run."""
    # plain arithmetic: a round tube alone has dozens of runs
    (ax, ay, az), (bx, by, bz) = map(float, a), map(float, b)  # type: ignore[arg-type]
    x, y, z = bx - ax, by - ay, bz - az
    size = math.sqrt(x * x + y * y + z * z)
    x, y, z = x / size, y / size, z / size

    def square(w: Point) -> Vec3:  # type: ignore[valid-type]
        p, q, r = map(float, w)  # type: ignore[arg-type]
        along = p * x + q * y + r * z
        p, q, r = p - along * x, q - along * y, r - along * z
        long = math.sqrt(p * p + q * q + r * r)
        return (p / long, q / long, r / long)

    return Weld(name, leg, (ax, ay, az), (bx, by, bz), square(on_a), square(on_b), parts, site)


def flare(name: str, radius: float, wall: float, corner: tuple["Array | Vec3", "Array | Vec3"], aside: "Array | Vec3", off: "Array | Vec3", parts: tuple[str, str], site: bool = False, tail: str = "", angle: float = math.pi / 4) -> Weld:
    """The flare between a tube's rounded corner, or a round one, and the flat face it lies on: ``corner`` is the line (two points) that the tube's
    side would meet the face on if it were sharp, ``aside`` the unit way along the face out of the tube, ``off`` that off the face.

    The corner and the face are its preparation: faces at ``angle`` (rad) where the corner's tangent leaves the face, flush with the tube or as
    deep as its wall.
    """
    out_of = radius * math.tan(angle / 2)
    side, up = np.asarray(aside), np.asarray(off)
    a, b = (np.asarray(p) - side * (radius - out_of) for p in corner)
    return Weld(name, max(radius - out_of, wall), vec(a), vec(b), vec(side), vec(side * math.cos(angle) + up * math.sin(angle)), parts, site, "groove", 0.0, tail)


def both_sides(name: str, leg: float, run: Sequence[Point], across: Point, thickness: float, away: Point, parts: tuple[str, str], site: bool = False) -> list[Weld]:  # type: ignore[valid-type]
    """Fillets on both faces of a plate whose edge stands on another part along ``run`` (two points in the plate's middle plane).

    ``across`` is the plate's normal, ``away`` the direction from the other part into the plate.
    """
    n = unit(np.asarray(across, dtype=float))
    a, b = (np.asarray(p, dtype=float) for p in run)
    return [fillet(f"{name}, {side} side", leg, a + n * s * thickness / 2, b + n * s * thickness / 2, n * s, away, parts, site) for side, s in (("near", -1.0), ("far", 1.0))]


def square_tube(shape: Section) -> list[tuple[str, tuple[float, float], tuple[float, float], tuple[float, float]]]:
    """Straight runs all round a square or rectangular tube, in its depth and breadth: what each goes along, its ends, the way out of it.

    At a corner two chords touch its arc at 30 and 60 degrees, and the walls' runs reach to where they begin: nowhere further off than
    a twenty-eighth of the radius.
    """
    h, b, r = shape.h / 2, shape.b / 2, shape.r1
    far, near = r * (1 - math.tan(math.pi / 12)), r * (1 - math.cos(math.pi / 4) / math.cos(math.pi / 12))
    out = []
    for s in (1.0, -1.0):
        out.append(("end wall", (s * h, far - b), (s * h, b - far), (s, 0.0)))
        out.append(("side wall", (far - h, s * b), (h - far, s * b), (0.0, s)))
    if r > 0:
        for s in (1.0, -1.0):
            for t in (1.0, -1.0):
                tip = (s * (h - near), t * (b - near))
                c, d = math.cos(math.pi / 6), math.sin(math.pi / 6)
                out.append(("corner", (s * h, t * (b - far)), tip, (s * c, t * d)))
                out.append(("corner", tip, (s * (h - far), t * b), (s * d, t * c)))
    return out


def round_runs(shape: Section) -> list[tuple[tuple[float, float], tuple[float, float], tuple[float, float]]]:
    """Straight runs all round a hollow section, in its depth and breadth: ends, and the way out of it."""
    if shape.shape != "CHS":
        return [(a, c, out) for _, a, c, out in square_tube(shape)]
    h = shape.h / 2
    chords = 24 if h * (1 / math.cos(math.pi / 24) - 1) <= 1.55 else 48
    off = h / math.cos(math.pi / chords)
    ring = [(off * math.cos(2 * math.pi * i / chords), off * math.sin(2 * math.pi * i / chords)) for i in range(chords + 1)]
    return [(a, c, ((a[0] + c[0]) / 2, (a[1] + c[1]) / 2)) for a, c in pairwise(ring)]


def round_tube(name: str, leg: float, shape: Section, frame: Frame, parts: tuple[str, str]) -> list[Weld]:
    """Fillets all round a hollow section that stands square on a face of the first part.

    ``frame`` has its origin on that face in the tube's middle, z up the tube and x along the section's depth.  A round tube's fillet
    runs in 24 chords that touch the tube, of a large one in 48, so that they lie no more than 1.55 mm off it; a square one's along its
    walls and in two chords round each corner.
    """
    runs = round_runs(shape)
    ends = frame.to_world([(*p, 0.0) for a, c, _ in runs for p in (a, c)]).tolist()
    ways = frame.turn(np.array([(*outward, 0.0) for *_, outward in runs])).tolist()
    return [fillet(name, leg, ends[2 * i], ends[2 * i + 1], way, frame.z, parts) for i, way in enumerate(ways)]


def inner_runs(shape: Section) -> list[tuple[tuple[float, float], tuple[float, float], tuple[float, float]]]:
    """Straight runs all round the inside of a hollow section, in its depth and breadth: ends, and the way out of the wall, inwards.

    Their chords lie inside its arcs: of a round one 24, or 48 where those would lie more than 0.5 mm off, of a corner three.
    """
    if shape.shape == "CHS":
        r = shape.h / 2 - shape.tw
        chords = 24 if r * (1 - math.cos(math.pi / 24)) <= 0.5 else 48
        ring = [(r * math.cos(2 * math.pi * i / chords), r * math.sin(2 * math.pi * i / chords)) for i in range(chords + 1)]
    else:
        h, b, r = shape.h / 2 - shape.tw, shape.b / 2 - shape.tw, shape.r2
        ring = []
        for s, t, first in ((1.0, 1.0, 0.0), (-1.0, 1.0, 0.5), (-1.0, -1.0, 1.0), (1.0, -1.0, 1.5)):
            for k in range(4):
                turn = math.pi * (first + k / 6)
                ring.append((s * (h - r) + r * math.cos(turn), t * (b - r) + r * math.sin(turn)))
        ring.append(ring[0])
    out = []
    for a, c in pairwise(ring):
        size = math.dist(a, c)
        if size > 1e-6:
            out.append((a, c, ((a[1] - c[1]) / size, (c[0] - a[0]) / size)))  # the ring runs counter-clockwise: inwards is to its left
    return out


def inside_tube(name: str, leg: float, shape: Section, frame: Frame, parts: tuple[str, str]) -> list[Weld]:
    """Fillets all round the inside of a hollow section that stands square on a face of the first part; ``frame`` as for :func:`round_tube`."""
    runs = inner_runs(shape)
    ends = frame.to_world([(*p, 0.0) for a, c, _ in runs for p in (a, c)]).tolist()
    ways = frame.turn(np.array([(*inward, 0.0) for *_, inward in runs])).tolist()
    return [fillet(name, leg, ends[2 * i], ends[2 * i + 1], way, frame.z, parts) for i, way in enumerate(ways)]
