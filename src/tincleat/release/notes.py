"""What is written inside a view where there is room for it: angles, radii and diameters, levels.  A number over lines says less than none."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import NDArray

from tincleat.details.assembled import Assembled
from tincleat.details.parts import Angle, Detail
from tincleat.geometry.frames import Array, Frame, vec
from tincleat.geometry.outline import Outline
from tincleat.release.drawing import DimensionText, Drawing, Lines, Text, ViewBox
from tincleat.units import format_force, format_length, format_level

SMALL = 2.1  # mm, height of letters inside a view
WIDE = 0.8  # mean width of a letter by its height
LEAST_ANGLE = 0.05  # degrees off straight or square from which an angle is written
SQUARE = 0.9999  # cosine within which a view looks square at a plane
LEAST_ARC = 0.5  # mm of paper under which an arc is not seen as one
LEVEL = 0.005  # sine of the slope under which a member is level
ASIDE = 22.0  # mm beside a level line that its height may stand, on a line led out
RADIUS_SETTINGS = ("bend_radius", "radius")  # those that say how large an arc is, where their value is the arc's


Flags = NDArray[np.bool_]
Spot = tuple[float, float, float, float]  # left, lower, right, upper on the paper
AT_ONCE = 160  # places looked at together


@dataclass(frozen=True, eq=False)
class Arc:
    """An arc of a detail in its frame: ``on`` is its middle; a whole ``circle`` is told by its diameter."""

    centre: Array
    on: Array
    normal: Array
    radius: float
    circle: bool = False


@dataclass(frozen=True, eq=False)
class Height:
    """A level line of a detail: from one point to another in its frame, to be told by its height."""

    one: Array
    two: Array


class Room:
    """What is drawn on a sheet so far, to find places that are free of it."""

    def __init__(self, d: Drawing) -> None:
        drawn = np.concatenate([x.pieces for x in d.lines if x.style != "centre" and len(x.pieces)] or [np.zeros((0, 4))])
        texts: list[Text | DimensionText] = [*d.texts, *d.dimensions]
        boxes = []
        for t in texts:
            wide, tall = len(t.text) * t.height * WIDE, t.height * 0.6
            left = t.x - {"left": 0.0, "middle": wide / 2, "right": wide}[t.anchor]
            boxes.append((left, t.y - tall, left + wide, t.y + tall))
        self.edge = np.array([0.5, 0.5, d.width - 0.5, d.height - 0.5])
        self.tree = shapely.STRtree([*shapely.linestrings(drawn.reshape(-1, 2, 2)), *shapely.box(*np.array(boxes).reshape(-1, 4).T)])
        self.taken: list[Spot] = []

    def openings(self, spots: "Sequence[Spot] | Array", ways: Array | None = None) -> Iterator[int]:
        """Numbers of those boxes that lie on the paper with nothing in them, nor in the boxes that are their ``ways`` (n, 4; not a number where a box
        needs none), in order; looked at some at a time, for the first is mostly what is wanted."""
        for start in range(0, len(spots), AT_ONCE):
            good = np.flatnonzero(self.clear(np.array(spots[start : start + AT_ONCE]))) + start
            if ways is not None:
                led = ~np.isnan(ways[good, 0])
                fit = ~led
                fit[led] = self.clear(ways[good[led]])
                good = good[fit]
            yield from good.tolist()

    def clear(self, spots: Array) -> Flags:
        """Which of some boxes (n, 4) lie on the paper with nothing in them."""
        good: Flags = np.logical_and((spots[:, :2] >= self.edge[:2]).all(axis=1), (spots[:, 2:] <= self.edge[2:]).all(axis=1))
        good[self.tree.query(shapely.box(*spots.T), predicate="intersects")[0]] = False
        for x0, y0, x1, y1 in self.taken:
            good &= (spots[:, 0] > x1) | (spots[:, 2] < x0) | (spots[:, 1] > y1) | (spots[:, 3] < y0)
        return good

    def free(self, x0: float, y0: float, x1: float, y1: float) -> bool:
        """Whether a box lies on the paper and nothing in it."""
        return any(True for _ in self.openings([(x0, y0, x1, y1)]))

    def take(self, x0: float, y0: float, x1: float, y1: float) -> None:
        """Note that something is written there."""
        self.taken.append((x0, y0, x1, y1))


def paper(place: ViewBox, scale: float, points: "Array | Sequence[Array]") -> Array:
    """Points (n, 3) of the detail on the paper (n, 2)."""
    return (place.frame.to_local(np.asarray(points, dtype=float))[:, :2] - place.centre) / scale + (place.x, place.y)


def write_notes(d: Drawing, a: Assembled, units: str, at: Frame | None) -> None:
    """Write the angles, levels and radii of a detail, each in the first of its views that has room for it; levels if it is known where in the
    world the detail stands.  All else is on the sheet already."""
    strokes: list[tuple[float, float, float, float]] = []
    written: set[tuple[object, ...]] = set()
    room = Room(d)
    levels = heights(a, at) if at is not None else []
    for place in d.views:
        _angles(d, place, [x for x in a.detail.angles if x.view == place.name], room, strokes, written)
        if at is not None:
            _levels(d, place, levels, at, units, room, strokes, written)
        _radii(d, place, a.detail, units, room, strokes, written)
    if a.detail.forces:
        _forces(d, ", ".join(f"{words} {format_force(force, units, True)}" for words, force in a.detail.forces), room)
    if strokes:
        d.lines.append(Lines("dimension", np.array(strokes)))


def _forces(d: Drawing, text: str, room: Room) -> None:
    """The forces a detail was told to carry, in the first place along the foot of the sheet or upward from there that is free."""
    text = f"Greatest force {text}"
    wide = len(text) * SMALL * WIDE
    across = np.arange(2.0, max(2.1, d.width - wide - 1.0), 4.0).tolist()
    spots = [(x, y - 1.6, x + wide, y + 1.6) for y in np.arange(2.5, d.height - 2.0, 1.5).tolist() for x in across]
    for number in room.openings(spots):
        x, low = spots[number][:2]
        d.texts.append(Text(text, x, low + 1.6, SMALL, "left"))
        room.take(*spots[number])
        return


def _angles(d: Drawing, place: ViewBox, angles: "Sequence[Angle]", room: Room, strokes: list[tuple[float, float, float, float]], written: set[tuple[object, ...]]) -> None:
    """An arc between two directions with its degrees, inside the view, as near to the vertex as its number lies off every line."""
    for x in angles:
        if ("angle", x.vertex, x.first, x.second) in written:
            continue
        at, one, two = paper(place, d.scale, [np.array(p) for p in (x.vertex, x.first, x.second)])
        start, end = (math.atan2(*(p - at)[::-1]) for p in (one, two))
        turn = (end - start + math.pi) % (2 * math.pi) - math.pi
        degrees = abs(math.degrees(turn))
        if degrees < LEAST_ANGLE or abs(degrees - 90.0) < LEAST_ANGLE or degrees > 180.0 - LEAST_ANGLE:
            continue
        words = f"{degrees:.1f}°"
        half = len(words) * SMALL * WIDE / 2 - 0.4  # a degree sign and a point are narrow
        for radius, share in ((r, f) for r in range(6, 60, 2) for f in (0.5, 0.3, 0.7, -0.3, 1.3)):
            sweep = [at + radius * np.array([math.cos(start + turn * k / 12), math.sin(start + turn * k / 12)]) for k in range(13)]
            text = at + (radius + 3.2) * np.array([math.cos(start + turn * share), math.sin(start + turn * share)])
            spot = (text[0] - half, text[1] - 1.3, text[0] + half, text[1] + 1.3)
            if all(_inside(place, q) for q in (*sweep, text)) and room.free(*spot):
                strokes += [(*p.tolist(), *q.tolist()) for p, q in pairwise(sweep)]
                d.texts.append(Text(words, float(text[0]), float(text[1]), SMALL))
                room.take(*spot)
                written.add(("angle", x.vertex, x.first, x.second))
                break


def _inside(place: ViewBox, q: Array) -> bool:
    return bool(place.box[0] - 1 <= q[0] <= place.box[2] + 1 and place.box[1] - 1 <= q[1] <= place.box[3] + 1)


def arcs(detail: Detail) -> Iterator[Arc]:
    """The arcs of a detail: corners and rims of plates, what is cut out of members, the insides of bends; not its holes."""
    for p in detail.plates:
        yield from _arcs(p.outline, p.frame)
    for n in detail.notches:
        yield from _arcs(n.outline, n.frame)
    for b in detail.bents:
        yield from (x for x in _arcs(b.profile, b.side) if abs(x.radius - b.radius) < 0.01)


def _arcs(outline: Outline, at: Frame) -> Iterator[Arc]:
    corners = outline.vertices
    z = np.array(at.z)
    if len(corners) == 2 and all(abs(c[2] - 1.0) < 1e-9 for c in corners):
        (x0, y0, _), (x1, y1, _) = corners
        centre, rim = at.to_world([((x0 + x1) / 2, (y0 + y1) / 2, 0.0), (x1, y1, 0.0)])
        yield Arc(centre, rim, z, math.dist((x0, y0), (x1, y1)) / 2, circle=True)
        return
    for (x0, y0, bulge), (x1, y1, _) in zip(corners, corners[1:] + corners[:1], strict=True):
        chord = math.dist((x0, y0), (x1, y1))
        if abs(bulge) < 1e-9 or chord < 1e-9:
            continue
        right = ((y1 - y0) / chord, (x0 - x1) / chord)
        radius = chord * (1 + bulge * bulge) / (4 * abs(bulge))
        on = ((x0 + x1) / 2 + right[0] * bulge * chord / 2, (y0 + y1) / 2 + right[1] * bulge * chord / 2)
        back = radius * math.copysign(1.0, bulge)
        middle, spot = at.to_world([(on[0] - right[0] * back, on[1] - right[1] * back, 0.0), (*on, 0.0)])
        yield Arc(middle, spot, z, radius)


def _radii(d: Drawing, place: ViewBox, detail: Detail, units: str, room: Room, strokes: list[tuple[float, float, float, float]], written: set[tuple[object, ...]]) -> None:
    """Every radius once, at the first of its arcs that the view sees square and that has room: how many there are, and by which setting it is edited."""
    away = np.array(place.frame.z)
    groups: dict[tuple[float, bool], list[Arc]] = {}
    for x in arcs(detail):
        if abs(float(x.normal @ away)) > SQUARE and x.radius / d.scale >= LEAST_ARC:
            groups.setdefault((round(x.radius, 2), x.circle), []).append(x)
    for (radius, circle), some in groups.items():
        key = ("radius", radius, circle)
        if key in written:
            continue
        places = {tuple((paper(place, d.scale, [x.on])[0] / 0.2).round().tolist()): x for x in some}  # one behind the other is seen once
        shown = format_length(radius * (2 if circle else 1), units)
        text = (f"{len(places)} × " if len(places) > 1 else "") + ("Ø" if circle else "R") + shown
        setting = next((n.name for n in detail.numbers if n.name in RADIUS_SETTINGS and isinstance(n.value, float) and abs(n.value - radius) < 0.01), "")
        for x in places.values():
            if (where := _lead(d, place, x, text, room, strokes)) is not None:
                wide = len(text) * SMALL * WIDE
                if setting:
                    d.dimensions.append(DimensionText(text, where[0], where[1], wide, SMALL, radius, setting, 0, place.name))
                else:
                    d.texts.append(Text(text, where[0], where[1], SMALL))
                written.add(key)
                break


def _lead(d: Drawing, place: ViewBox, x: Arc, text: str, room: Room, strokes: list[tuple[float, float, float, float]]) -> tuple[float, float] | None:
    """Draw a leader from an arc to where its number is free of everything; the number's middle, or None where that is nowhere."""
    on, centre = paper(place, d.scale, [x.on, x.centre])
    out = on - centre
    start = math.atan2(out[1], out[0])
    half = len(text) * SMALL * WIDE / 2
    # outward from a rim, towards the centre of a hollow, a little turned either way
    for long, turn, way in ((r, t, w) for r in (3.5, 5.0, 7.0, 9.5, 12.5, 16.0) for w in (1.0, -1.0) for t in (0.0, 0.5, -0.5, 0.9, -0.9)):
        along = np.array([math.cos(start + turn), math.sin(start + turn)]) * way
        tip = on + along * long
        middle = tip + np.array([math.copysign(half + 0.6, along[0]), 0.0])
        spot = (middle[0] - half - 0.3, middle[1] - SMALL * 0.75, middle[0] + half + 0.3, middle[1] + SMALL * 0.75)
        if _inside(place, np.array(spot[:2])) and _inside(place, np.array(spot[2:])) and room.free(*spot):
            head = math.atan2(-along[1], -along[0])
            strokes.append((*on.tolist(), *tip.tolist()))
            strokes += [(*on.tolist(), float(on[0] - 1.6 * math.cos(head + s)), float(on[1] - 1.6 * math.sin(head + s))) for s in (0.22, -0.22)]
            room.take(*spot)
            return float(middle[0]), float(middle[1])
    return None


def heights(a: Assembled, at: Frame) -> list[Height]:
    """The levels that a detail is set out by: the top of the first member that is level (of a brace only where nothing else is), the underside of the lowest level plate at a foot,
    the top of the highest at a head."""
    up = at.unturn((0.0, 0.0, 1.0))
    out = []
    lead = min((m for m in a.case.members if abs(float(np.array(m.frame.x) @ up)) < LEVEL), key=lambda m: m.role.startswith("brace"), default=None)
    if lead is not None:
        y, z = (float(np.array(v) @ up) for v in (lead.frame.y, lead.frame.z))
        x0, y0, x1, y1 = lead.shape.outer.bounds  # y across, z up the section
        top = max(((u, v) for u in (x0, x1) for v in (y0, y1)), key=lambda c: c[0] * y + c[1] * z)
        low, high = (lead.low, lead.high) if max(abs(lead.low), abs(lead.high)) < 1e6 else (max(lead.low, -2000.0), min(lead.high, 2000.0))
        one, two = lead.frame.to_world([(low, *top), (high, *top)])
        out.append(Height(one, two))
    if a.case.kind in ("column foot", "column head"):
        flat = [(p, face) for p in a.detail.plates if abs(float(np.array(p.frame.z) @ up)) > SQUARE for face in (0.0, p.thickness)]
        if flat:
            sign = 1.0 if a.case.kind == "column foot" else -1.0
            plate, face = min(flat, key=lambda f: sign * float(f[0].frame.to_world([(0.0, 0.0, f[1])])[0] @ up))
            u0, v0, u1, v1 = plate.outline.bounds
            out += [Height(*plate.frame.to_world([(u0, m, face), (u1, m, face)])) for m in ((v0 + v1) / 2,)]
            out += [Height(*plate.frame.to_world([(m, v0, face), (m, v1, face)])) for m in ((u0 + u1) / 2,)]
    return out


def _levels(
    d: Drawing, place: ViewBox, levels: "Sequence[Height]", at: Frame, units: str, room: Room, strokes: list[tuple[float, float, float, float]], written: set[tuple[object, ...]]
) -> None:  # fmt: skip
    """A triangle on a level line with its height over the datum, over the line or under it, wherever that is free."""
    up = at.unturn((0.0, 0.0, 1.0))
    if float(np.array(place.frame.y) @ up) < SQUARE:
        return
    for x in levels:
        height = float(at.to_world([vec(x.one)])[0][2])
        key = ("level", round(height, 1))
        (x0, y), (x1, _) = paper(place, d.scale, [x.one, x.two]).tolist()
        low, high = max(min(x0, x1), place.box[0]), min(max(x0, x1), place.box[2])
        if key in written or not place.box[1] - 0.5 <= y <= place.box[3] + 0.5:
            continue
        text = format_level(height, "m" if units in ("mm", "m") else "ft-in")
        wide = len(text) * SMALL * WIDE
        inner = [low + k * 2.0 for k in range(int(max(high - low, 0.0) // 2.0) + 1)]
        outer = [e + s * (2.0 + k * 2.0) for k in range(int(ASIDE // 2.0)) for e, s in ((low, -1.0), (high, 1.0))]
        # over or under which place of the line it is written, and to which side
        tried = np.array([(w, s, h) for some in (sorted(inner, reverse=True), outer) for w in (1.0, -1.0) for s in some for h in (-1.0, 1.0)])
        ends, rims = ([base + tried[:, i] * v for v in pair] for base, i, pair in ((tried[:, 1], 2, (-1.2, 1.2 + wide)), (y, 0, (0.4, 4.6))))
        spots = np.column_stack([np.minimum(*ends), np.minimum(*rims), np.maximum(*ends), np.maximum(*rims)])
        for b in (v.box for v in d.views if v is not place):
            clear = (spots[:, 0] >= b[2] + 1) | (spots[:, 2] <= b[0] - 1) | (spots[:, 1] >= b[3] + 1) | (spots[:, 3] <= b[1] - 1)
            tried, spots = tried[clear], spots[clear]
        # a place beside the line is reached by leading it out, where nothing lies in between
        left_out, right_out = tried[:, 1] < low, tried[:, 1] > high
        ways = np.column_stack([np.where(left_out, spots[:, 0], high + 0.5), np.full(len(tried), y - 0.3), np.where(right_out, spots[:, 2], low - 0.5), np.full(len(tried), y + 0.3)])
        ways[~(left_out | right_out)] = np.nan
        for number in room.openings(spots, ways):
            (way, spot, hand), (left, lower, right, upper) = tried[number].tolist(), spots[number].tolist()
            far = spot + hand * (1.2 + wide)
            base = y + way * 2.0
            strokes += [(spot, y, spot - 1.1, base), (spot, y, spot + 1.1, base), (spot - hand * 1.1, base, far, base)]
            if left_out[number] or right_out[number]:
                strokes.append((ways[number, 0], y, ways[number, 2], y))
            d.texts.append(Text(text, (spot + hand * 1.2 + far) / 2 if hand > 0 else (far + spot - 1.2) / 2 + 0.6, base + way * 1.5, SMALL))
            room.take(left, lower, right, upper)
            written.add(key)
            break
