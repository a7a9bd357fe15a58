"""Where two parts touch, found from their shapes: the runs that fillets may take along every line of contact."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import LineString, Polygon

from tincleat.details.assembled import Ply
from tincleat.geometry.frames import Array, Frame, crossed, unit

TOUCH = 0.6  # mm that faces may lie apart and still touch
PARALLEL = 0.9998  # cosine from which two faces are parallel
LEAST = 3.0  # mm: a shorter line of contact is none; chords of curves are longer
STEP = 1.0  # mm at which a line of contact is looked along
SKIN = 2.0  # mm of a plate behind its edge that are looked at with it
OVER = 0.05  # mm off a face at which what lies on it is looked for


@dataclass(frozen=True)
class Seam:
    """A line of contact from ``start`` to ``end`` (3,), with the unit ways a fillet's legs lie along on the first part and on the second."""

    start: Array
    end: Array
    on_first: Array
    on_second: Array

    @property
    def length(self) -> float:
        """Its length, mm."""
        return float(np.linalg.norm(self.end - self.start))


def seams(first: Sequence[Ply], second: Sequence[Ply], leg: float, there: Sequence[Ply] = ()) -> list[Seam]:
    """Every line on which two parts (each given by its plies, in one frame) touch and both have room for a leg of ``leg`` mm: laps along
    edges that lie on a face, and both sides of edges that stand on one; a flat plate's edges are faces too.  No line goes where another of
    what is ``there`` lies.  In an order that only the shapes decide."""
    found: list[Seam] = []
    for p in first:
        for q in second:
            if (np.maximum(p.box[0], q.box[0]) > np.minimum(p.box[1], q.box[1]) + TOUCH).any():
                continue
            if abs(float(np.dot(p.frame.z, q.frame.z))) > PARALLEL:
                found += _laps(p, q, leg)
                found += [Seam(s.start, s.end, s.on_second, s.on_first) for s in _laps(q, p, leg)]
            else:
                found += _tees(p, q, leg)
                found += [Seam(s.start, s.end, s.on_second, s.on_first) for s in _tees(q, p, leg)]
    for e in (e for q in second for e in _edge_faces(q)):
        found += [s for p in first for s in _onto(p, e, leg)]
    for e in (e for p in first for e in _edge_faces(p)):
        found += [Seam(s.start, s.end, s.on_second, s.on_first) for q in second for s in _onto(q, e, leg)]
    every = [*first, *second, *there]
    return _once([part for s in found if s.length >= LEAST for part in _open(s, every, leg)])


def _edge_faces(p: Ply) -> list[Ply]:
    """The straight edges of a flat plate as faces that look out of it; none of what is bent, or part of a section."""
    if p.element or p.member >= 0:
        return []
    out = []
    z = np.array(p.frame.z)
    for a, b in _sides(p):
        u, v = p.frame.to_world(np.array([(*a, 0.0), (*b, 0.0)]))
        way = unit(v - u)
        outward = crossed(way, z)
        long = float(np.linalg.norm(v - u))
        out.append(Ply(p.owner, "edge", Frame.of(u - outward * SKIN, way, outward), shapely.box(0.0, 0.0, long, p.thickness), SKIN, ()))
    return out


def _onto(p: Ply, edge: Ply, leg: float) -> Iterator[Seam]:
    """The lines on which a ply lies or stands on another's edge."""
    if (np.maximum(p.box[0], edge.box[0]) > np.minimum(p.box[1], edge.box[1]) + TOUCH).any():
        return iter(())
    if abs(float(np.dot(p.frame.z, edge.frame.z))) < PARALLEL:
        return _tees(p, edge, leg)
    way = np.array(edge.frame.x)  # across the edge there is but the thickness of its plate
    return (s for s in _laps(p, edge, leg) if abs(float((s.end - s.start) @ way)) > 0.5 * s.length)


@dataclass(frozen=True)
class Bar:
    """A round tube or bar: its frame (x along it), diameter, and from where to where it goes, mm."""

    owner: str
    frame: Frame
    diameter: float
    low: float
    high: float


def round_seams(flat: Sequence[Ply], bar: Bar, leg: float) -> list[Seam]:
    """Every line along which a plate that lies along a round bar stands on its surface, or goes through it, on both of the plate's faces."""
    x, r = np.array(bar.frame.x), bar.diameter / 2
    found: list[Seam] = []
    for p in flat:
        z = np.array(p.frame.z)
        if abs(float(z @ x)) > 0.02:
            continue
        e = crossed(x, z)
        for face, out in ((0.0, -z), (p.thickness, z)):
            d = float((p.frame.o + z * face - bar.frame.o) @ z)
            if abs(d) >= r - 1.0:
                continue
            rise = float(np.sqrt(r * r - d * d))
            for s in (1.0, -1.0):
                root = bar.frame.o + z * d + e * s * rise
                normal = (e * s * rise + z * d) / r
                tangent = unit(out - normal * float(out @ normal))
                if float(tangent @ (e * s)) > 0.5:  # the surface turns back against the plate: no room
                    continue
                # a plate on a tube stands on it with its middle, a breath over these lines
                a, b = p.frame.to_local(np.array([root + x * at + e * s * TOUCH for at in (bar.low, bar.high)]))[:, :2]
                line = LineString([a, b]).intersection(p.polygon)
                for part in getattr(line, "geoms", [line]):
                    if part.geom_type == "LineString" and part.length >= LEAST:
                        u, v = (p.frame.to_world(np.array([(*c, face)]))[0] - e * s * TOUCH for c in np.asarray(part.coords)[[0, -1]])
                        on_plate = p.frame.to_local((u + v)[None] / 2 + e * s * leg)[0]
                        if shapely.contains_xy(p.polygon, on_plate[0], on_plate[1]):
                            found.append(Seam(u, v, e * s, tangent))
    return _once([part for s in found for part in _open(s, flat, leg)])


def _open(s: Seam, plies: Sequence[Ply], leg: float) -> list[Seam]:
    """The stretches of a seam along which no steel is where the fillet would be: elements of a section run through each other at its
    corners, and a web stands in the middle of a flange."""
    count = max(4, int(np.ceil(s.length / STEP)))
    shares = (np.arange(count) + 0.5) / count
    spots = s.start + (s.end - s.start) * shares[:, None] + (s.on_first + s.on_second) * leg * 0.3
    free = np.ones(count, dtype=bool)
    for p in plies:
        local = p.frame.to_local(spots)
        within = np.flatnonzero((local[:, 2] > OVER) & (local[:, 2] < p.thickness - OVER))
        if len(within):
            free[within[shapely.contains_xy(p.polygon, local[within, 0], local[within, 1])]] = False
    for walls in _hollows(plies):
        middle = np.mean([w.frame.o for w in walls], axis=0)
        free &= ~np.all([((spots - w.frame.o) @ w.frame.axes[2]) * np.sign((middle - w.frame.o) @ w.frame.axes[2]) > 0 for w in walls], axis=0)
    if free.all():
        return [s]
    edges = np.flatnonzero(np.diff(np.concatenate([[False], free, [False]]).astype(int)))
    out = [(i / count, j / count) for i, j in zip(edges[::2], edges[1::2], strict=True)]
    return [Seam(s.start + (s.end - s.start) * i, s.start + (s.end - s.start) * j, s.on_first, s.on_second) for i, j in out if (j - i) * s.length >= LEAST]


def _hollows(plies: Sequence[Ply]) -> list[list[Ply]]:
    """The walls of each hollow section among some plies: nobody welds inside it."""
    found: dict[str, list[Ply]] = {}
    for p in plies:
        if p.element.endswith("wall"):
            found.setdefault(p.owner, []).append(p)
    return [some for some in found.values() if len(some) == 4]


def _laps(p: Ply, q: Ply, leg: float) -> Iterator[Seam]:
    """The edges of a ply that lies on another's face."""
    n = np.array(q.frame.z)
    for face, out in ((q.thickness, n), (0.0, -n)):
        level = q.frame.o + n * face
        near = min((float((p.frame.o + np.array(p.frame.z) * h - level) @ out) for h in (0.0, p.thickness)), key=abs)
        far = max(float((p.frame.o + np.array(p.frame.z) * h - level) @ out) for h in (0.0, p.thickness))
        if abs(near) > TOUCH or far < p.thickness / 2:
            continue
        for a, b in _sides(p):
            u, v = (level + _flat(q, point, p) for point in (a, b))
            edge = unit(v - u)
            outward = crossed(edge, np.array(p.frame.z))  # outlines run counter-clockwise: out of a side is to its right
            yield from _clipped(q, u, v, outward, leg, out, outward)


def _flat(q: Ply, point: Array, p: Ply) -> Array:
    """A point (2,) of a ply's plane in the plane of the face it lies on, from that face's level."""
    world = p.frame.to_world(np.array([(point[0], point[1], 0.0)]))[0]
    local = q.frame.to_local(world[None])[0]
    return q.frame.turn(np.array((local[0], local[1], 0.0)))


def _tees(p: Ply, q: Ply, leg: float) -> Iterator[Seam]:
    """Both sides of the edges with which a ply stands on another's face."""
    n = np.array(q.frame.z)
    z = np.array(p.frame.z)
    for a, b in _sides(p):
        corners = p.frame.to_world(np.array([(*a, 0.0), (*b, 0.0), (*b, p.thickness), (*a, p.thickness)]))
        edge = unit(corners[1] - corners[0])
        outward = crossed(edge, z)  # out of the ply across this edge
        for face, out in ((q.thickness, n), (0.0, -n)):
            level = q.frame.o + n * face
            if float(outward @ out) > -0.5:
                continue
            off = (corners - level) @ n
            cut = max(abs(off[0] + off[3]), abs(off[1] + off[2])) / 2 <= TOUCH  # cut along the face, as a leaning bar's end is
            for side, (i, j) in ((-z, (0, 1)), (z, (3, 2))):
                if not cut and max(abs(off[i]), abs(off[j])) > TOUCH:
                    continue
                u, v = (corners[k] - outward * off[k] / float(outward @ n) for k in (i, j))
                along = unit(side - n * float(side @ n))
                yield from _clipped(q, u, v, along, leg, -outward, along)


def _clipped(q: Ply, u: Array, v: Array, on_q: Array, leg: float, on_p: Array, room: Array) -> Iterator[Seam]:
    """The parts of a line that lie on a ply's face with room for a leg along ``on_q`` there."""
    a, b = q.frame.to_local(np.array([u, v]))[:, :2]
    if float(np.hypot(*(b - a))) < LEAST:
        return
    shift = np.asarray(q.frame.unturn(room))[:2] * leg * 0.98
    # where the line lies on the face, and its leg's toe does too
    there = LineString([a, b]).intersection(_grown(q.polygon)).intersection(shapely.affinity.translate(_grown(q.polygon), -shift[0], -shift[1]))
    for part in getattr(there, "geoms", [there]):
        if part.geom_type == "LineString" and part.length >= LEAST:
            s, t = sorted(float((e - a) @ (b - a)) / float((b - a) @ (b - a)) for e in np.asarray(part.coords)[[0, -1]])
            yield Seam(u + (v - u) * s, u + (v - u) * t, on_p, on_q)


def _grown(flat: Polygon) -> Polygon:
    return flat.buffer(OVER, join_style="mitre")


def _sides(p: Ply) -> Iterator[tuple[Array, Array]]:
    """The straight sides of a ply's outline, counter-clockwise, but where it goes on: bent, or out of sight."""
    ring = np.asarray(shapely.orient_polygons(p.polygon).exterior.coords)[:, :2]
    for a, b in zip(ring[:-1], ring[1:], strict=True):
        on = any(abs(a[0] - x) < OVER and abs(b[0] - x) < OVER for x in p.beyond)
        if not on and float(np.hypot(*(b - a))) >= LEAST:
            yield a, b


def _once(found: list[Seam]) -> list[Seam]:
    """Each line once: two elements of a section that meet at a corner both show it."""
    out: list[Seam] = []
    for s in found:
        same = any(
            min(np.linalg.norm(s.start - o.start) + np.linalg.norm(s.end - o.end), np.linalg.norm(s.start - o.end) + np.linalg.norm(s.end - o.start)) < 0.5 and float(s.on_second @ o.on_second) > 0.9 and float(s.on_first @ o.on_first) > 0.9
            for o in out
        )
        if not same:
            out.append(s)
    return out
