"""One signature of a member's steel: section, length and all its cuts and holes, the same for all bars that are alike however they
lie, another for mirror images; and what is worked out once for all of them."""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

from tincleat.catalogue.sections import Section
from tincleat.geometry.frames import Frame, Vec3
from tincleat.steel.body import end_station, steel_volume
from tincleat.steel.cuts import Cuts
from tincleat.steel.flattened import flats_of

Signature = tuple[object, ...]
# turns of a bar by half a turn that lay its section on itself, as signs of x, y, z; along x it is run from its other end where that turns
TURNS: dict[str, tuple[tuple[int, int, int], ...]] = {
    "I": ((1, 1, 1), (1, -1, -1), (-1, 1, -1), (-1, -1, 1)), "RHS": ((1, 1, 1), (1, -1, -1), (-1, 1, -1), (-1, -1, 1)), "CHS": ((1, 1, 1), (1, -1, -1), (-1, 1, -1), (-1, -1, 1)),
    "FL": ((1, 1, 1), (1, -1, -1), (-1, 1, -1), (-1, -1, 1)), "RD": ((1, 1, 1), (1, -1, -1), (-1, 1, -1), (-1, -1, 1)), "C": ((1, 1, 1), (-1, 1, -1)), "CF": ((1, 1, 1), (-1, 1, -1)),
    "T": ((1, 1, 1), (-1, -1, 1)), "Z": ((1, 1, 1), (1, -1, -1)),
}  # fmt: skip


@dataclass(frozen=True)
class Worked:
    """What is known of all bars of one signature: the length to order (mm) and the volume left after all cuts (mm³)."""

    signature: Signature
    length: float
    volume: float


@lru_cache(maxsize=20000)
def worked(shape: Section, full: float, cuts: Cuts) -> Worked:
    """The facts of a bar of a section between 0 and ``full`` (mm) with its cuts, both in its own frame."""
    stations = [end_station(cuts.ends, 0.0, full, y, z) for y in (-shape.b / 2, shape.b / 2) for z in (-shape.reach, shape.reach)]
    first, last = min(s[0] for s in stations), max(s[1] for s in stations)
    return Worked(_signature(shape, first, last, cuts), last - first, steel_volume(shape, cuts, 0.0, full))


def _signature(shape: Section, first: float, last: float, cuts: Cuts) -> Signature:
    """The least of the bar's descriptions over the turns that lay its section on itself."""
    if flats := flats_of(cuts):  # a round tube has no side: it is looked at with one or the other of its flats level
        ways = [Frame.of((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, -e.across[2], e.across[1])) for e in flats]
        return min((_turned_about(shape, first, last, cuts.seen_from(way)) for way in ways), key=repr)
    return _turned_about(shape, first, last, cuts)


def _turned_about(shape: Section, first: float, last: float, cuts: Cuts) -> Signature:
    turns = ((1, 1, 1),) if shape.h_end or shape.narrow else TURNS.get(shape.shape, ((1, 1, 1),))
    return (shape.name, round(last - first, 1), min(tuple(sorted(_told(cuts, t, first, last), key=repr)) for t in turns))


def _told(cuts: Cuts, turn: tuple[int, int, int], first: float, last: float) -> Iterator[tuple[object, ...]]:
    """Every cut in words of numbers, after a turn; lengths on tenths, directions on ten-thousandths, counted from the bar's first end."""
    sx, sy, sz = turn

    def p(v: Vec3) -> tuple[float, float, float]:
        x = v[0] - first if sx > 0 else last - v[0]
        return (round(x, 1) + 0.0, round(v[1] * sy, 1) + 0.0, round(v[2] * sz, 1) + 0.0)

    def d(v: Vec3) -> tuple[float, float, float]:
        return (round(v[0] * sx, 4) + 0.0, round(v[1] * sy, 4) + 0.0, round(v[2] * sz, 4) + 0.0)

    for e in cuts.ends:
        n = d(e.normal)
        if abs(abs(n[0]) - 1.0) > 1e-4:  # a square end is the length itself
            # where the plane meets the bar's axis says as much as any of its points
            at = e.point[0] + (e.normal[1] * e.point[1] + e.normal[2] * e.point[2]) / e.normal[0] if abs(e.normal[0]) > 1e-6 else 0.0
            yield ("end", p((at, 0.0, 0.0)), n)
        if e.flat:
            across = d(e.across)
            yield ("flat", n[0], max(across, tuple(-v + 0.0 for v in across)), round(e.flat, 1), round(e.taper, 1))
    for c in cuts.notches:
        points = c.outline.points(0.5)
        low = c.frame.to_world([(u, v, 0.0) for u, v in points])
        high = c.frame.to_world([(u, v, c.depth) for u, v in points])
        yield ("notch", tuple(sorted(p((float(a), float(b), float(z))) for a, b, z in (*low, *high))))
    for h in cuts.holes:
        along = d(h.along)
        round_ = h.length <= h.width
        yield ("hole", p(h.point), () if round_ else max(along, tuple(-v + 0.0 for v in along)), round(h.width, 2), round(h.length, 2), *(("tapped",) if h.kind == "tapped" else ()), *(("sunk", round(h.sink, 2), round(h.sink_angle, 4), d(h.axis)) if h.sink else ()), tuple(abs(v) for v in d(h.axis)))
