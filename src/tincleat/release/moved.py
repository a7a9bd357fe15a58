"""What a setting moves: the lines of a sheet's views that lie elsewhere when it has another value."""

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import shapely

from tincleat.catalogue.fasteners import bolt_size
from tincleat.details.parts import Block, Detail, Plate, View
from tincleat.families.declare import Setting
from tincleat.geometry.frames import Array, Frame, Vec3, unit, vec
from tincleat.project.entities import HouseRules, Value
from tincleat.release.drawing import Drawing
from tincleat.release.projected import Projected, clipped
from tincleat.release.sheet import Pictures, laid_out

NEAR = 0.15  # mm within which two lines are one
CROSSED = 0.9  # of a line's length that lies bare where others only cross it
TURN = math.radians(10)
CORNERS = 24  # of a circle as lines
# mm: what the values tried lie on, by how much a length is tried more at least, a spacing where there is none, by how much a weld's leg is tried more
STEPS, INCH_STEPS = (1.0, 10.0, 70.0, 2.0), (1.5875, 12.7, 76.2, 1.5875)
CHOICES = 3  # that are tried


@dataclass(frozen=True, eq=False)
class Moved:
    """Lines of one view, (k, 4) each in its plane: those that lie elsewhere, and where they would."""

    gone: Array
    come: Array


def other_values(s: Setting, value: Value | None, house: HouseRules) -> Iterator[Value]:
    """Values to try a setting with in place of ``value``, the likeliest first: a stocked plate thicker or thinner, a tenth and a centimetre at
    least more or less of a length, one more, the other answer, another choice.  None of a force or a name, which move nothing."""
    grid, least, first, leg = INCH_STEPS if house.inch else STEPS

    def beside(now: float, way: float) -> float:
        return min(s.high, max(s.low, round((now + way * max(least, abs(now) / 10)) / grid) * grid))

    if s.kind == "flag":
        yield not value
    elif s.kind == "choice":
        after = s.choices.index(value) + 1 if value in s.choices else 0
        yield from [c for c in (*s.choices[after:], *s.choices[:after]) if c != value][:CHOICES]
    elif s.kind == "numbers":
        yield () if value else (1,)
    elif s.kind == "spacings":
        old = value if isinstance(value, tuple) and value else ()
        yield from (tuple(beside(float(v), way) for v in old) for way in (1, -1) if old)
        yield (first,)
    elif s.kind in ("length", "angle", "count"):
        now = float(value) if isinstance(value, float | int) else 0.0
        step = 1.0 if s.kind == "count" else TURN
        found = [now + step, now - step] if s.kind != "length" else [beside(now, 1), beside(now, -1)] if now else [least, 5 * least, 20 * least]
        if "thickness" in s.name:
            found = [*sorted(t for t in house.plates if t > now + 0.1)[:1], *sorted((t for t in house.plates if t < now - 0.1), reverse=True)[:1], *found]
        elif "weld" in s.name and s.kind == "length":
            found = [now + leg, now - leg, *found]
        within = dict.fromkeys(min(s.high, max(s.low, f)) for f in found)
        yield from (round(v) if s.kind == "count" else v for v in within if abs(v - now) > 1e-6)


def moved(before: Pictures, after: Pictures) -> dict[View, Moved]:
    """The lines that differ between two states of one detail, by the views of the first; welds that differ as the lines of their roots, and
    where no line does, the outlines of parts that are otherwise made."""
    frames = {v.name: v.frame for v in after.assembled.detail.views}
    out: dict[View, Moved] = {}
    for view in before.assembled.detail.views:
        if view.name not in after.views:
            continue
        old, new, there = _all(before.views[view.name]), _all(after.views[view.name]), frames[view.name]
        ends = np.column_stack([new.reshape(-1, 2), np.zeros(2 * len(new))])
        new = view.frame.to_local(there.to_world(ends))[:, :2].reshape(-1, 4)
        gone, come = _without(old, new), _without(new, old)
        welds = _roots(before.assembled.detail, after.assembled.detail, view.frame), _roots(after.assembled.detail, before.assembled.detail, view.frame)
        low, high = (np.array(before.views[view.name].extent[k : k + 2]) for k in (0, 2))
        out[view.name] = Moved(*(clipped(np.concatenate([lines, roots]), low, high)[0] for lines, roots in zip((gone, come), welds, strict=True)))
    if anything(out):
        return out
    parts = _parts(before.assembled.detail, after.assembled.detail)
    for view in before.assembled.detail.views:
        low, high = (np.array(before.views[view.name].extent[k : k + 2]) for k in (0, 2))
        sides = [np.concatenate([flat[:-1], flat[1:]], axis=1) for p in parts for flat in (view.frame.to_local(p)[:, :2],)]
        out[view.name] = Moved(clipped(np.concatenate([np.zeros((0, 4)), *sides]), low, high)[0], np.zeros((0, 4)))
    return out


def _roots(one: Detail, other: Detail, frame: Frame) -> Array:
    """The roots of welds of one detail that the other has not as large there, as lines (k, 4) of a view."""
    some = [frame.to_local(np.array([p for w in d.welds for p in (w.start, w.end)]).reshape(-1, 3))[:, :2].reshape(-1, 4) for d in (one, other)]
    keys = [[(w.leg, w.kind, w.opening, w.site, *row) for w, row in zip(d.welds, np.round(flat, 1).tolist(), strict=True)] for d, flat in zip((one, other), some, strict=True)]
    known = set(keys[1])
    return some[0][[k not in known for k in keys[0]]]


def anything(found: dict[View, Moved]) -> bool:
    """Whether any line lies elsewhere."""
    return any(len(m.gone) or len(m.come) for m in found.values())


def _parts(before: Detail, after: Detail) -> list[Array]:
    """Rings (n, 3) round the plates, pieces, bolts and blocks of one state that the other makes otherwise, and the axes of such rods."""
    out = [r.stand.to_world(np.array([(0.0, 0.0, r.bottom), (0.0, 0.0, r.top)])) for r in before.rods if r not in after.rods]
    out += [t.frame.to_world(np.array([(0.0, 0.0, 0.0), (t.length, 0.0, 0.0)])) for t in before.ties if t not in after.ties]
    kept: list[Plate | Block] = [*after.flats, *after.blocks]
    mine: list[Plate | Block] = [*before.flats, *before.blocks]
    for p in mine:
        if p not in kept:
            flat = p.outline.points(0.5)
            out += [p.frame.to_world(np.column_stack([ring, np.full(len(ring), z)])) for ring in (np.concatenate([flat, flat[:1]]),) for z in (0.0, p.thickness)]
    for piece in before.pieces:
        if piece not in after.pieces:
            wide, deep = piece.shape.b / 2, piece.shape.h / 2
            corners = np.array([(x, y, z) for x, y in ((0.0, -wide), (piece.length, -wide), (piece.length, wide), (0.0, wide), (0.0, -wide)) for z in (-deep, deep)])
            out += [piece.frame.to_world(corners[k::2]) for k in (0, 1)]
    turn = np.linspace(0.0, 2 * math.pi, CORNERS + 1)
    for group in before.bolts:
        if group not in after.bolts:
            across = Frame.of(group.points[0], _aside(group.axis), group.axis) if group.points else None
            ring = bolt_size(group.size).d * np.column_stack([np.cos(turn), np.sin(turn), np.zeros(len(turn))])
            out += [across.to_world(ring) + (np.array(point) - across.o) for point in group.points] if across is not None else []
    return out


def _aside(axis: Vec3) -> Vec3:
    """A direction square to another."""
    return vec(unit(np.cross(axis, (0.0, 0.0, 1.0) if abs(axis[2]) < 0.9 else (1.0, 0.0, 0.0))))


def on_paper(d: Drawing, found: dict[View, Moved]) -> tuple[Array, Array]:
    """The same on the paper of a drawing of the first state, (k, 4) each: what lies elsewhere, and where it would."""
    places = {v.name: v for v in d.views}

    both = [[laid_out(places[name], d.scale, getattr(m, part)).reshape(-1, 4) for name, m in found.items() if name in places] for part in ("gone", "come")]
    gone, come = (np.concatenate([np.zeros((0, 4)), *lines]) for lines in both)
    return gone, come


def _all(p: Projected) -> Array:
    """Every line of a view of whatever style, circles as their sides."""
    turn = np.linspace(0.0, 2 * math.pi, CORNERS + 1)
    rings = [np.column_stack([x + r * np.cos(turn), y + r * np.sin(turn)]) for _, x, y, r in p.rounds]
    return np.concatenate([np.zeros((0, 4)), *p.lines.values(), *(np.concatenate([ring[:-1], ring[1:]], axis=1) for ring in rings)])


def _without(lines: Array, others: Array) -> Array:
    """What of lines (k, 4) lies on none of some others."""
    known = {tuple(row) for row in np.round(_ordered(others), 1).tolist()}
    left = lines[[tuple(row) not in known for row in np.round(_ordered(lines), 1).tolist()]]
    if not len(left) or not len(others):
        return left
    cover = shapely.union_all(shapely.buffer(shapely.linestrings(others.reshape(-1, 2, 2)), NEAR, cap_style="square"))
    whole = shapely.linestrings(left.reshape(-1, 2, 2))
    bare = shapely.difference(whole, cover)
    bare = np.where(shapely.length(bare) > CROSSED * shapely.length(whole), whole, bare)
    parts = shapely.get_parts(bare)
    parts = parts[shapely.length(parts) > 2 * NEAR]
    return np.array([shapely.get_coordinates(p)[[0, -1]].ravel() for p in parts]).reshape(-1, 4)


def _ordered(lines: Array) -> Array:
    """Lines (k, 4) with the lesser of their ends first."""
    turned = (lines[:, 0] > lines[:, 2] + 1e-6) | ((abs(lines[:, 0] - lines[:, 2]) <= 1e-6) & (lines[:, 1] > lines[:, 3]))
    return np.where(turned[:, None], lines[:, [2, 3, 0, 1]], lines)
