"""A member with its cuts: plate elements as true 2D outlines, meshes, and volume in closed form.

Everything here works in the member's own frame: x along it, y across, z along the depth, origin on the section's middle.
"""

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import msgspec
import numpy as np
import shapely
from shapely.geometry import LineString, MultiPolygon, Polygon, box

from tincleat.catalogue.sections import Element, Section
from tincleat.geometry.frames import Array, Frame
from tincleat.geometry.mesh import Mesh, cut, frustum, prism, ring_prism, trimmed
from tincleat.geometry.outline import Outline, half_plane
from tincleat.steel.cuts import FLAT, Cuts, EndCut, MemberHole, Notch, sunk, sunk_volume
from tincleat.steel.flattened import flat_covers, flats_of, flattened_body

FILM = 1e-3  # mm
OFF_FACE = 0.5  # mm that what cuts a countersink begins off its face
SINK_SIDES = 32  # of a countersink: a head with half as many, half a hundredth thinner, lies within its chords


def end_station(ends: Sequence[EndCut], low: float, high: float, y: float = 0.0, z: float = 0.0) -> tuple[float, float]:
    """Where the steel starts and stops along the fibre (y, z), given planes and the uncut extent, mm."""
    starts: list[float] = []
    stops: list[float] = []
    for e in ends:
        nx = e.normal[0]
        if abs(nx) < 1e-6:
            continue
        x = e.point[0] - (e.normal[1] * (y - e.point[1]) + e.normal[2] * (z - e.point[2])) / nx
        (starts if nx > 0 else stops).append(x)
    # a cut says where steel ends, be it shorter or longer than the line that was drawn
    return (max(starts) if starts else low), (min(stops) if stops else high)


@lru_cache(maxsize=512)
def _parts(shape: Section) -> tuple[Array, ...]:
    """Corners (n, 2) of convex pieces that together cover a section: its plates, and what lies between them and the outline."""
    whole = Polygon(shape.outer.points(0.05), [hole.points(0.05) for hole in shape.inner])
    found, rest = [], whole
    for e in shape.elements:
        a, b = e.at - e.thickness / 2, e.at + e.thickness / 2
        plate = box(a, e.low, b, e.high) if e.normal == "y" else box(e.low, a, e.high, b)
        found.append(whole.intersection(plate))
        # a hair more than the plate: films along its faces would join roots to tips, and what holds them would hold all between
        rest = rest.difference(plate.buffer(FILM, join_style="mitre"))
    found += [g.buffer(2 * FILM, join_style="mitre") for g in getattr(rest, "geoms", [rest]) if g.area > 1e-6]
    return tuple(np.asarray(g.convex_hull.exterior.coords)[:-1] for g in found if not g.is_empty and g.convex_hull.geom_type == "Polygon")


def cover(shape: Section, cuts: Cuts, low: float, high: float) -> tuple[Array, ...]:
    """Corners (n, 3) of convex bodies that together hold all of a stretch of a bar, its end planes taken into account."""
    if flats_of(cuts):
        return tuple(flat_covers(shape, cuts, low, high))
    if shape.h_end:
        reach, wide = shape.reach + abs(sum(shape.slopes)) * (high - low), shape.b / 2
        return (np.array([(x, y, z) for x in (low, high) for y in (-wide, wide) for z in (-reach, reach)]),)
    out: list[Array] = []
    square = [n for n in map(_square_notch, cuts.notches) if n is not None]
    flats = _parts(shape)
    every = end_stations(cuts.ends, low, high, np.concatenate(flats))
    first = 0
    left: dict[tuple[object, ...], list[tuple[float, float, bool, Array]]] = {}
    for flat in flats:
        spans = every[first : first + len(flat)]
        first += len(flat)
        out += _notched(flat, float(spans[0, 0]), float(spans[0, 1]), square, left) if square and np.ptp(spans, axis=0).max() < 1e-6 else [_prism_corners(flat, spans)]
    return tuple(out)


def end_stations(ends: Sequence[EndCut], low: float, high: float, fibres: Array) -> Array:
    """:func:`end_station` (n, 2) of many fibres (y, z) (n, 2)."""
    starts: list[Array] = []
    stops: list[Array] = []
    for e in ends:
        nx = e.normal[0]
        if abs(nx) >= 1e-6:
            x = e.point[0] - (e.normal[1] * (fibres[:, 0] - e.point[1]) + e.normal[2] * (fibres[:, 1] - e.point[2])) / nx
            (starts if nx > 0 else stops).append(x)
    out = np.empty((len(fibres), 2))
    out[:, 0] = np.max(starts, axis=0) if starts else low
    out[:, 1] = np.min(stops, axis=0) if stops else high
    return out


def _prism_corners(flat: Array, spans: Array) -> Array:
    """Corners (2 n, 3) of a convex piece of a section (n, 2), each fibre of it from one station to another (n, 2)."""
    return np.column_stack([spans.ravel(), np.repeat(flat, 2, axis=0)])


@dataclass(frozen=True, eq=False)
class _SquareNotch:
    """A notch that runs square to a bar: along its y (axis 1) or z (axis 2), from where to where, and what it takes in (x, the other axis)."""

    axis: int
    near: float
    far: float
    taken: Polygon
    box: tuple[float, float, float, float]


@lru_cache(maxsize=1024)
def _square_notch(n: Notch) -> _SquareNotch | None:
    """A notch, if it runs square to its bar."""
    way = n.frame.z
    axis = 1 if abs(way[1]) > 0.9999 else 2
    if abs(way[axis]) < 0.9999:
        return None
    outline = n.outline.coarse(2)
    at = n.frame.to_world(np.column_stack([outline, np.zeros(len(outline))]))
    start = float(at[:, axis].mean())
    near, far = sorted((start, start + way[axis] * n.depth))
    taken = Polygon(at[:, [0, 3 - axis]])
    return _SquareNotch(axis, near, far, taken, taken.bounds)


def _notched(flat: Array, low: float, high: float, notches: Sequence[_SquareNotch], left: "dict[tuple[object, ...], list[tuple[float, float, bool, Array]]]") -> list[Array]:
    """Corners of convex bodies that hold what notches leave of a convex piece of a section between two stations.

    A notch counts where it runs all through the piece: copes and snipes do.  What is left is parted where the notch ends, so that a cope
    leaves a full bar and a stub.  Pieces that reach as far, as the roots on both sides of a web do, share what is ``left``.
    """
    (y0, z0), (y1, z1) = flat.min(axis=0).tolist(), flat.max(axis=0).tolist()
    through = []
    for k, n in enumerate(notches):
        (first, last), (lower, upper) = ((y0, y1), (z0, z1)) if n.axis == 1 else ((z0, z1), (y0, y1))
        x0, w0, x1, w1 = n.box
        if n.near <= first + 1e-6 and n.far >= last - 1e-6 and x0 < high and x1 > low and w0 < upper and w1 > lower:
            through.append(k)
    if not through:
        return [_prism_corners(flat, np.array([(low, high)] * len(flat)))]
    # one axis is enough: the other's notches take off more, and a cover may hold more than the steel
    axis = min(notches[k].axis for k in through)
    ends, (lower, upper) = ((y0, y1), (z0, z1)) if axis == 1 else ((z0, z1), (y0, y1))
    taking = tuple(k for k in through if notches[k].axis == axis)
    key = (low, high, lower, upper, taking)
    if key not in left:
        left[key] = _left(low, high, lower, upper, [notches[k] for k in taking])
    out = []
    for start, stop, full, hull in left[key]:
        if full:  # it keeps its own section, which may be aslant
            out.append(_prism_corners(flat, np.array([(start, stop)] * len(flat))))
        else:
            corners = np.empty((2 * len(hull), 3))
            corners[:, 0], corners[:, 3 - axis] = np.repeat(hull[:, 0], 2), np.repeat(hull[:, 1], 2)
            corners[0::2, axis], corners[1::2, axis] = ends
            out.append(corners)
    return out


def _left(low: float, high: float, lower: float, upper: float, notches: Sequence[_SquareNotch]) -> "list[tuple[float, float, bool, Array]]":
    """What notches of one axis leave of a stretch seen along that: of each convex piece from where to where it goes, whether over the
    whole breadth, and its corners (n, 2)."""
    rest: shapely.Geometry = box(low, lower, high, upper)
    breaks: list[float] = []
    for n in notches:
        rest = rest.difference(n.taken)
        breaks += [x for x in (n.box[0], n.box[2]) if low < x < high]
    out = []
    stations = sorted({low, *breaks, high})
    for x0, x1 in zip(stations, stations[1:], strict=False):
        part = shapely.clip_by_rect(rest, x0, lower - 1.0, x1, upper + 1.0)
        for piece in getattr(part, "geoms", [part]):
            if piece.geom_type == "Polygon" and piece.area > 1e-6:
                x2, w0, x3, w1 = piece.bounds
                hull = shapely.get_coordinates(piece.convex_hull)[:-1]
                out.append((x2, x3, len(hull) == 4 and abs(w0 - lower) < 1e-6 and abs(w1 - upper) < 1e-6, hull))
    return out


def element_polygon(element: Element, cuts: Cuts, low: float, high: float) -> Polygon:
    """True outline (no holes) of one element in its middle plane: (x, z) for webs, (x, y) for flanges; mm."""
    across = element.normal

    def fibre(w: float) -> tuple[float, float]:
        return (element.at, w) if across == "y" else (w, element.at)

    a0, a1 = end_station(cuts.ends, low, high, *fibre(element.low))
    b0, b1 = end_station(cuts.ends, low, high, *fibre(element.high))
    several = [planes for side in (1.0, -1.0) if len(planes := [e for e in cuts.ends if e.normal[0] * side > 1e-6]) > 1]
    for planes in several:  # between its two long sides the element may reach further than along them: as far as any plane alone lets it
        ends = [end_station((e,), low, high, *fibre(w)) for e in planes for w in (element.low, element.high)]
        if planes[0].normal[0] > 0:
            a0 = b0 = min(start for start, _ in ends)
        else:
            a1 = b1 = max(stop for _, stop in ends)
    shape = Polygon([(a0, element.low), (a1, element.low), (b1, element.high), (b0, element.high)])
    for e in (e for planes in several for e in planes):
        shape = shape.intersection(_half(e, element, low, high))
    for notch in cuts.notches:
        hole = _slice(notch, across, element.at)
        if hole is not None:
            rest = shape.difference(hole)
            shape = max(rest.geoms, key=lambda g: g.area) if rest.geom_type == "MultiPolygon" else rest
    return shape


def _half(e: EndCut, element: Element, low: float, high: float) -> Polygon:
    """The side of an end plane on which steel stays, in an element's middle plane."""
    n = np.array([e.normal[0], e.normal[2 if element.normal == "y" else 1]])
    rest = e.normal[1 if element.normal == "y" else 2]
    at = float(np.dot(e.normal, e.point)) - rest * element.at  # n . (x, w) = at on the plane
    size = float(np.hypot(*n))
    return half_plane(n / size, at / size, 4 * (high - low + abs(element.low) + abs(element.high)) + abs(at / size))


def named(cuts: Cuts, shape: Section) -> Cuts:
    """The same cuts with each hole naming the element of the section in whose plane it really lies: a mirror image or a
    member that was turned over has its flanges the other way round."""
    if not cuts.holes:
        return cuts

    def element(h: MemberHole) -> str:
        if h.element == FLAT:
            return FLAT
        def off(e: Element) -> tuple[float, float]:
            axis = 1 if e.normal == "y" else 2
            w = h.point[3 - axis]
            return abs(h.point[axis] - e.at) + 1000.0 * (abs(h.axis[axis]) < 0.7), max(0.0, e.low - w, w - e.high)

        return min(shape.elements, key=off).name

    return msgspec.structs.replace(cuts, holes=tuple(msgspec.structs.replace(h, element=element(h)) for h in cuts.holes))


def laid(hole: MemberHole, shape: Section) -> MemberHole:
    """A hole in its element's middle plane, wherever along its axis it was given; it names its element already."""
    if hole.element == FLAT:
        return hole
    element = next(e for e in shape.elements if e.name == hole.element)
    k = 1 if element.normal == "y" else 2
    if abs(hole.axis[k]) < 1e-6:
        return hole
    far = (element.at - hole.point[k]) / hole.axis[k]
    x, y, z = (p + a * far for p, a in zip(hole.point, hole.axis, strict=True))
    return msgspec.structs.replace(hole, point=(x, y, z))


def sink_frame(hole: MemberHole, shape: Section) -> Frame:
    """Where a countersink opens: its origin on the face that the hole's axis goes in by, z along it."""
    element = next(e for e in shape.elements if e.name == hole.element)
    k = 1 if element.normal == "y" else 2
    half = element.thickness / 2 / abs(hole.axis[k])
    return Frame.of(hole.point, hole.along, hole.axis).moved(z=-half)


@lru_cache(maxsize=2048)
def _slice(notch: Notch, across: str, at: float) -> Polygon | MultiPolygon | None:
    """Where a notch's prism meets the plane y = at or z = at, in that plane's (x, other) coordinates."""
    axis = 1 if across == "y" else 2
    other = 3 - axis
    z = notch.frame.z
    flat = notch.outline.points()
    low = flat @ notch.frame.axes[:2] + notch.frame.o
    if abs(z[axis]) > 0.999:
        height = (at - float(low[0, axis])) * math.copysign(1.0, z[axis])
        if not -1e-6 <= height <= notch.depth + 1e-6:
            return None
        return Polygon(low[:, [0, other]])
    if abs(z[other]) > 0.999:
        if not low[:, axis].min() - 1e-6 <= at <= low[:, axis].max() + 1e-6:
            return None
        # the prism runs along the element's breadth: what it takes is as long as the outline is at this height
        outline, breadth = Polygon(low[:, [0, axis]]), sorted((low[0, other], low[0, other] + z[other] * notch.depth))
        x0, _, x1, _ = outline.bounds
        met = outline.intersection(LineString([(x0 - 1, at), (x1 + 1, at)]))
        spans = [p.bounds for p in getattr(met, "geoms", [met]) if p.length > 1e-6]
        return shapely.union_all([box(a, breadth[0], b, breadth[1]) for a, _, b, _ in spans]) if spans else None
    points = np.concatenate([low, low + np.array(z) * notch.depth])
    near = points[:, axis]
    if not near.min() < at < near.max():
        return None
    hull = _section_of_hull(points, axis, at, len(flat))
    return shapely.MultiPoint(hull[:, [0, other]]).convex_hull.buffer(0) if len(hull) >= 3 else None


def _section_of_hull(points: Array, axis: int, at: float, n: int) -> Array:
    """Points where the prism's edges pierce a plane; the prism's outline is taken as convex there."""
    i = np.arange(n)
    pairs = np.concatenate([np.stack([i, np.roll(i, -1)], 1), np.stack([i + n, np.roll(i, -1) + n], 1), np.stack([i, i + n], 1)])
    a, b = points[pairs[:, 0]], points[pairs[:, 1]]
    da, db = a[:, axis] - at, b[:, axis] - at
    hit = (da * db < 0) & (np.abs(da - db) > 1e-12)
    t = da[hit] / (da[hit] - db[hit])
    return a[hit] + (b[hit] - a[hit]) * t[:, None]


@lru_cache(maxsize=2048)
def rings(shape: Section, per_arc: int) -> tuple[Array, ...]:
    """Corners (n, 2) of a section's outline and of its hollows as its body has them, ``per_arc`` chords a quarter turn; 0 leaves radii out."""
    outer = shape.outer.coarse(6 if shape.shape in ("CHS", "RD") and per_arc else per_arc) if per_arc else _sharp(shape)
    inner = [h.coarse(6 if shape.shape == "CHS" else max(per_arc, 1))[::-1] for h in shape.inner]
    return (outer, *inner)


@lru_cache(maxsize=2048)
def _sharp(shape: Section) -> Array:
    """The profile without radii, for far views."""
    if shape.shape in ("CHS", "RD"):
        return shape.outer.coarse(4)
    return replace(shape, r1=0.0, r2=0.0, h_end=0.0).outer.points()


@lru_cache(maxsize=2048)
def bar(shape: Section, per_arc: int) -> Mesh:
    """The member's body from x = 0 to 1; stretch its x to length.  ``per_arc`` 0 leaves radii out."""
    flat = ring_prism(list(rings(shape, per_arc)), 0.0, 1.0)
    points = flat.points[:, [2, 0, 1]]
    if shape.h_end:
        points[:, 2] += points[:, 0] * _rise(shape, points[:, 2])
    return Mesh(points, flat.triangles, flat)


def _rise(shape: Section, z: Array) -> Array:
    """How far fibres at heights ``z`` of the start rise towards the end of a tapered girder, mm: each goes with the flange on its side."""
    low, high = shape.slopes
    return np.where(z > 0, high, low)


def steel_mesh(shape: Section, cuts: Cuts, low: float, high: float, per_arc: int = 1, drill: bool = False) -> Mesh:
    """Mesh of the member between ``low`` and ``high`` with its end planes and notches, and holes if ``drill``."""
    if flats_of(cuts):
        outer, inner = rings(shape, per_arc)
        return _cut_out(shape, _pointed_off(flattened_body(shape, cuts, low, high, (outer, inner)), cuts), cuts, per_arc, drill)
    unit_bar = bar(replace(shape, h_end=0.0) if shape.h_end else shape, per_arc)
    points = unit_bar.points.copy()
    first = points[:, 0] < 0.5
    lean = _rise(shape, points[:, 2]) / (high - low) if shape.h_end else np.zeros(len(points))
    starts = [e for e in cuts.ends if e.normal[0] > 1e-6]
    stops = [e for e in cuts.ends if e.normal[0] < -1e-6]
    for ends, chosen, default in ((starts, first, low), (stops, ~first, high)):
        if ends:
            e = ends[0]
            y, z, k = points[chosen, 1], points[chosen, 2], lean[chosen]
            ahead = e.normal[0] * e.point[0] - e.normal[1] * (y - e.point[1]) - e.normal[2] * (z - k * low - e.point[2])
            points[chosen, 0] = ahead / (e.normal[0] + e.normal[2] * k)
        else:
            points[chosen, 0] = default
    points[:, 2] += lean * (points[:, 0] - low)
    return _cut_out(shape, _pointed_off(Mesh(points, unit_bar.triangles, unit_bar), cuts), cuts, per_arc, drill)


def _pointed_off(mesh: Mesh, cuts: Cuts) -> Mesh:
    """A body whose ends are cut by their first planes, cut by the others too: an end of several planes is what all of them leave."""
    for side in (1, -1):
        for e in [e for e in cuts.ends if e.normal[0] * side > 1e-6][1:]:
            mesh = trimmed(mesh, e.point, e.normal)
    return mesh


def _cut_out(shape: Section, mesh: Mesh, cuts: Cuts, per_arc: int, drill: bool) -> Mesh:
    """A body without what notches, and holes if ``drill``, take out of it."""
    # a round cutter has the chords of a round tube, so that a tube cut to another's shape touches it
    cutters = [prism(n.outline, (), 0.0, n.depth, per_arc=6 if len(n.outline.vertices) == 2 else max(per_arc, 2)).placed(n.frame) for n in cuts.notches]
    if drill:
        for h in cuts.holes:
            frame = Frame.of(h.point, h.along, h.axis)
            edge = Outline.circle(0, 0, h.width) if h.length <= h.width else Outline.slot(0, 0, h.width, h.length, 0.0)
            reach = drill_depth(shape, h.element) / 2
            cutters.append(prism(edge, (), -reach, reach, per_arc=4).placed(frame))
            if h.sink:  # begun a little off the face, so that no film is left there
                deep, wide = sunk(h.width, h.sink, h.sink_angle, next(e.thickness for e in shape.elements if e.name == h.element))
                cutters.append(frustum(h.sink + 2 * OFF_FACE * math.tan(h.sink_angle / 2), wide, -OFF_FACE, deep, SINK_SIDES).placed(sink_frame(h, shape)))
    return cut(mesh, cutters) if cutters else mesh


def steel_volume(shape: Section, cuts: Cuts, low: float, high: float) -> float:
    """Volume in mm³: area times length on the centroid axis, less notches and holes, all in closed form.

    Plane end cuts are exact (a prism's volume between planes is its area times the length at the centroid); notches that run
    through along y, or along z, are the integral of profile width times notch length over the other axis.  Notches at odd
    angles, or of both kinds over each other, are cut out of a fine mesh instead.  A tapered girder has flat faces only, so
    that its mesh is exact too.
    """
    if shape.h_end or _pointed(cuts):
        return steel_mesh(shape, Cuts(cuts.ends, cuts.notches), low, high, FINE).volume - _holes_volume(shape, cuts, low, high)
    start, stop = end_station(cuts.ends, low, high, *shape.centroid)
    volume = shape.area * (stop - start)
    if cuts.notches:
        volume -= _notches_volume(shape, cuts, low, high)
    return volume - _holes_volume(shape, cuts, low, high)


def _pointed(cuts: Cuts) -> bool:
    """Whether an end is cut by several planes, so that its fibres end on one or another."""
    return any(len({(e.point, e.normal) for e in cuts.ends if e.normal[0] * side > 1e-6}) > 1 for side in (1, -1))


def thickness_at(shape: Section, element: Element, w: float) -> float:
    """An element's thickness at ``w`` across it in profile coordinates, mm: of a tapered flange ``tf`` at ``tf_at`` from its tip, more
    towards the web (of a channel it has one tip only)."""
    if not shape.slope or element.normal != "z":
        return element.thickness
    if shape.shape == "C":
        web = next(e for e in shape.elements if e.name == "web")
        from_tip = element.high - w if web.at < 0 else w - element.low
    else:
        from_tip = (element.high - element.low) / 2 - abs(w - (element.low + element.high) / 2)
    return flange_at(shape, from_tip)


def flange_at(shape: Section, from_tip: float) -> float:
    """Thickness of a flange at a distance from its free edge, mm: of a tapered one ``tf`` at ``tf_at`` from there, more towards the web."""
    return shape.tf + shape.slope * (from_tip - shape.tf_at)


def drill_depth(shape: Section, name: str) -> float:
    """How deep, mm, both ways of an element's middle plane together, what drills a hole through it has to reach."""
    if name == FLAT:
        return 2 * shape.tw + 2.0
    element = max((e for e in shape.elements if e.name == name), key=lambda e: e.thickness)
    return element.thickness + 2.0 + (2 * shape.slope * shape.outstand if element.normal == "z" else 0.0)


def _holes_volume(shape: Section, cuts: Cuts, low: float, high: float) -> float:
    """What holes take out: closed form, but holes that meet each other or leave the steel take what they cover once."""
    volume = 0.0
    for name in dict.fromkeys(h.element for h in cuts.holes):
        if name == FLAT:
            volume += sum((Outline.circle(0, 0, h.width) if h.length <= h.width else Outline.slot(0, 0, h.width, h.length, 0.0)).area for h in cuts.holes if h.element == FLAT) * 2 * shape.tw
            continue
        element = next(e for e in shape.elements if e.name == name)
        holes = [h for h in cuts.holes if h.element == name]
        up = 2 if element.normal == "y" else 1
        at = np.array([[h.point[0], h.point[up]] for h in holes])
        reach = np.array([max(h.length, h.width, h.sink) / 2 for h in holes])
        volume += sum(sunk_volume(h.width, h.sink, h.sink_angle, element.thickness) for h in holes if h.sink)
        turn = [math.atan2(h.along[up], h.along[0]) for h in holes]
        edges = [
            Outline.circle(x, y, h.width) if h.length <= h.width else Outline.slot(x, y, h.width, h.length, t)
            for (x, y), h, t in zip(at.tolist(), holes, turn, strict=True)
        ]
        apart = np.hypot(*(at[:, None] - at[None]).T) >= reach[:, None] + reach[None]
        start, stop = end_station(cuts.ends, low, high)
        alone = bool((apart | np.eye(len(holes), dtype=bool)).all())
        inside = bool((at[:, 0] - reach >= start).all() and (at[:, 0] + reach <= stop).all() and (at[:, 1] - reach >= element.low).all() and (at[:, 1] + reach <= element.high).all())
        if alone and inside:
            # of a flange that tapers evenly across a hole the thickness in its middle is its mean
            volume += sum(e.area * thickness_at(shape, element, float(w)) for e, (_, w) in zip(edges, at, strict=True))
        else:
            covered = shapely.union_all([Polygon(e.points(0.001)) for e in edges]).intersection(element_polygon(element, Cuts(cuts.ends, cuts.notches), low, high))
            for part in (p for p in shapely.get_parts(covered) if p.area > 0):
                volume += part.area * thickness_at(shape, element, float(part.centroid.y))
    return volume


def _notches_volume(shape: Section, cuts: Cuts, low: float, high: float) -> float:
    """What the notches take out of a member, each place once."""
    taken = {axis: [n for n in cuts.notches if abs(n.frame.z[axis]) > 0.9999] for axis in (1, 2)}
    spans = [[(p[:, 0].min(), p[:, 0].max()) for n in some if len(p := n.frame.to_world(_flat(n)))] for some in taken.values()]
    crossed = any(a0 < b1 and b0 < a1 for a0, a1 in spans[0] for b0, b1 in spans[1])
    reaches = {axis: [_reach_of(n, axis, shape) for n in some] for axis, some in taken.items()}
    shallow = any(any(r != _all(shape, axis) for r in some) for axis, some in reaches.items())
    apart = sorted(span for some in spans for span in some)
    crossed = crossed or (shallow and any(b > a for (_, b), (a, _) in itertools.pairwise(apart)))
    if crossed or sum(map(len, taken.values())) < len(cuts.notches):
        whole, rest = (steel_mesh(shape, Cuts(cuts.ends, notches), low, high, FINE) for notches in ((), cuts.notches))
        return whole.volume - rest.volume
    if shallow:
        return sum(_taken_through(shape, [n], axis, cuts, low, high, reach) for axis, some in taken.items() for n, reach in zip(some, reaches[axis], strict=True))
    return sum(_taken_through(shape, some, axis, cuts, low, high, _all(shape, axis)) for axis, some in taken.items() if some)


def _all(shape: Section, axis: int) -> tuple[float, float]:
    """From where to where a section goes along y (``axis`` 1) or z (2), mm."""
    half = (shape.b if axis == 1 else shape.h) / 2
    return -half, half


def _reach_of(notch: Notch, axis: int, shape: Section) -> tuple[float, float]:
    """From where to where a notch along an axis takes steel of a section, mm: one in a tube's wall leaves the wall beyond."""
    least, most = _all(shape, axis)
    a, b = sorted((notch.frame.origin[axis], notch.frame.origin[axis] + notch.frame.z[axis] * notch.depth))
    return max(a, least), min(b, most)


FINE = 12  # chords a quarter turn where a mesh must be weighed


def _flat(notch: Notch) -> Array:
    flat = notch.outline.points(0.005)
    return np.column_stack([flat, np.zeros(len(flat))])


def _taken_through(shape: Section, notches: Sequence[Notch], axis: int, cuts: Cuts, low: float, high: float, reach: tuple[float, float]) -> float:
    """Volume that notches running along y (``axis`` 1) or z (2) over a ``reach`` of it take: seen along it they are polygons, united."""
    other = 3 - axis
    half = (shape.h if other == 2 else shape.b) / 2
    ends = [end_station(cuts.ends, low, high, *((0.0, s) if other == 2 else (s, 0.0))) for s in (-half, half)]
    side = Polygon([(ends[0][0], -half), (ends[0][1], -half), (ends[1][1], half), (ends[1][0], half)])
    taken = shapely.union_all([Polygon(n.frame.to_world(_flat(n))[:, [0, other]]).buffer(0) for n in notches]).intersection(side)
    columns = [0, 1] if other == 2 else [1, 0]
    profile = Polygon(shape.outer.points(0.005)[:, columns], [h.points(0.005)[:, columns] for h in shape.inner])
    if reach != _all(shape, axis):
        profile = profile.intersection(shapely.box(reach[0], -half - 1.0, reach[1], half + 1.0))
    total = 0.0
    for steel in (p for p in shapely.get_parts(profile) if p.area > 0):
        rings = [np.asarray(r.coords) for r in (steel.exterior, *steel.interiors)]
        for part in (p for p in shapely.get_parts(taken) if p.area > 0):
            total += _product_of_widths(np.asarray(part.exterior.coords), rings)
            total -= sum(_product_of_widths(np.asarray(hole.coords), rings) for hole in part.interiors)
    return total


def _product_of_widths(notch: Array, profile: "list[Array]") -> float:
    """Integral over z of (notch length at z) x (profile width at z); both are piecewise linear, so three Gauss points are exact."""
    z0, z1 = notch[:, 1].min(), notch[:, 1].max()
    breaks = np.unique(np.concatenate([notch[:, 1]] + [ring[:, 1] for ring in profile]))
    breaks = breaks[(breaks >= z0) & (breaks <= z1)]
    half, middle = np.diff(breaks) / 2, (breaks[1:] + breaks[:-1]) / 2
    total = 0.0
    for at, weight in ((-np.sqrt(0.6), 5 / 9), (0.0, 8 / 9), (np.sqrt(0.6), 5 / 9)):
        z = middle + half * at
        width = abs(_width(profile[0], z)) - sum(abs(_width(r, z)) for r in profile[1:])
        total += float((weight * half * abs(_width(notch, z)) * width).sum())
    return total


def _width(ring: Array, z: Array) -> Array:
    """Width of a closed ring of (x, z) points at heights ``z``."""
    a, b = ring[:-1], ring[1:]
    lower, upper = np.minimum(a[:, 1], b[:, 1]), np.maximum(a[:, 1], b[:, 1])
    crosses = (lower[:, None] < z) & (z < upper[:, None])
    rise = np.where(upper - lower > 0, b[:, 1] - a[:, 1], 1.0)
    x = a[:, 0, None] + (z - a[:, 1, None]) * ((b[:, 0] - a[:, 0]) / rise)[:, None]
    return np.where(crosses, x * np.sign(b[:, 1] - a[:, 1])[:, None], 0.0).sum(axis=0)
