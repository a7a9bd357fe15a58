"""A detail seen from the front, the side and above: visible and hidden edges of its real bodies, in joint millimetres."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from tincleat.catalogue.fasteners import anchor_size, bolt_size
from tincleat.details.assembled import Assembled, bolt_frame, plate_mesh, tie_bodies
from tincleat.details.bodies import zone_corners
from tincleat.details.bolting import stack
from tincleat.details.parts import Rod, SheetView, View
from tincleat.details.tapers import taper_mesh
from tincleat.geometry.frames import Array, Frame
from tincleat.geometry.hidden_lines import Scene, Seen
from tincleat.geometry.mesh import Mesh, cylinder, frustum, hexagon, joined, prism, square_bar, trimmed
from tincleat.joints.case import reach_of
from tincleat.release.drawing import Style
from tincleat.release.holes_drawn import holes_drawn
from tincleat.steel.body import steel_mesh
from tincleat.steel.cuts import Cuts, EndCut
from tincleat.steel.flattened import breadth, flats_of

DRAWN: tuple[Style, ...] = ("part", "member", "bolt", "rod", "hidden")
ROUND = 40.0  # mm of surroundings shown past the parts, at least
SHOWN_ROD = 160.0  # mm of an anchor rod; the rest goes on below the picture
SHARE = 0.08  # and as a share of the parts' size


@dataclass(frozen=True, eq=False)
class Projected:
    """One view's edges by style, (k, 4) each in the view's plane, its extent, and the bolts seen along their axis."""

    lines: dict[Style, Array]
    extent: tuple[float, float, float, float]
    rounds: tuple[tuple[Style, float, float, float], ...]
    crosses: Array
    fills: tuple[Array, ...]


def _part_points(a: Assembled) -> Array:
    """Corners of the made parts, to size the picture by."""
    out = []
    for p in a.detail.flats:
        flat = p.outline.points(0.5)
        out += [p.frame.to_world(np.column_stack([flat, np.full(len(flat), z)])) for z in (0.0, p.thickness)]
    for piece in a.detail.pieces:
        deep, wide = piece.shape.reach, piece.shape.b / 2
        out.append(piece.frame.to_world(np.array([(x, y, z) for x in (0.0, piece.length) for y in (-wide, wide) for z in (-deep, deep)])))
    for f in a.detail.fittings:
        out += f.covers
    for r in a.detail.rods:
        out.append(np.array([(r.x, r.y, max(r.bottom, r.top - SHOWN_ROD)), (r.x, r.y, r.top)]))
    for tie in a.detail.ties:
        out.append(tie.frame.to_world(np.array([(0.0, 0.0, 0.0), (tie.length, 0.0, 0.0)])))
    for b in a.detail.bolts:
        out.append(np.array(b.points))
    for e in flats_of(Cuts(a.detail.ends)):
        half = breadth(a.case.members[e.member].shape) / 2
        out.append(np.array([np.array(e.point) + np.array(e.normal) * x + np.array(e.across) * w for x in (0.0, e.flat + e.taper) for w in (-half, half)]))
    if a.detail.holes:
        out.append(np.array([h.point for h in a.detail.holes]))
    if not out:  # a place where nothing is made, only taken away
        out += [n.frame.to_world(np.column_stack([flat, np.full(len(flat), n.depth)])) for n in a.detail.notches for flat in (n.outline.points(0.5),)]
    if not out and a.detail.welds:  # members welded straight to each other
        out.append(np.array([p for w in a.detail.welds for p in (w.start, w.end)]))
    return np.concatenate(out) if out else np.zeros((1, 3))


@lru_cache(maxsize=8)
def window(a: Assembled) -> tuple[Array, Array]:
    """Least and greatest corner of what the sheet shows: the parts, the joined member's section beside them, and a margin."""
    points = shown_points(a)
    low, high = points.min(axis=0), points.max(axis=0)
    margin = max(ROUND, SHARE * float((high - low).max()))
    return low - margin, high + margin


@lru_cache(maxsize=8)
def shown_points(a: Assembled) -> Array:
    """Corners of the parts and of the joined member's section beside them (n, 3)."""
    points = _part_points(a)
    lead = a.case.supported
    along = lead.frame.to_local(points)[:, 0]
    h, b = lead.shape.h / 2, lead.shape.b / 2
    # from the joint as far along the member as the parts reach
    if lead.high >= -lead.low:
        first, last = max(0.0, float(along.min())), float(along.max())
    else:
        first, last = float(along.min()), min(0.0, float(along.max()))
    corners = np.array([(x, y, z) for x in (first, last) for y in (-b, b) for z in (-h, h)])
    return np.concatenate([points, lead.frame.to_world(corners)])


def _stub(a: Assembled, number: int, start: float, stop: float, goes_on: tuple[bool, bool]) -> Mesh:
    """What is drawn of a member; one that is cut slanting at the joint and goes on past the picture (at its start, at its stop) is broken off as
    slanting there, so that no end shows beside the picture's edge."""
    member, cuts = a.case.members[number], a.cuts(number)
    if len(cuts.ends) == 1 and not cuts.ends[0].flat and abs(cuts.ends[0].normal[0]) > 0.3 and goes_on[cuts.ends[0].normal[0] > 0]:
        x, y, z = cuts.ends[0].normal
        broken = EndCut(number, (stop if x > 0 else start, 0.0, 0.0), (-x, -y, -z))
        return steel_mesh(member.shape, cuts + Cuts((broken,)), start, stop, 2).placed(member.frame)
    return a.member_mesh(number, start, stop, per_arc=2)


def bodies(a: Assembled) -> list[tuple[Style, Mesh]]:
    """Meshes of everything drawn by its edges: plates without holes, stubs of the members, heads and nuts, rods."""
    out: list[tuple[Style, Mesh]] = [("part", plate_mesh(p, 4, False)) for p in a.detail.plates]
    out += [("part", b.mesh(4, False)) for b in a.detail.bents]
    out += [("part", f.mesh(4, False)) for f in a.detail.fittings]
    out += [("part", steel_mesh(p.shape, p.cuts, 0.0, p.length, 2).placed(p.frame)) for p in a.detail.pieces]
    low, high = window(a)
    corners = np.array([(x, y, z) for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])])
    for number, member in enumerate(a.case.members):
        along = member.frame.to_local(corners)[:, 0]
        # a little past the picture, so that a bar going on shows no end
        far = reach_of(a.case.kind, number) - 0.5
        start, stop = float(along.min()) - 30, float(along.max()) + 30
        goes_on = member.low < -far or start > member.low, member.high > far or stop < member.high
        out.append(("member", _stub(a, number, start if goes_on[0] else member.low, stop if goes_on[1] else member.high, goes_on)))
    out += [("member", prism(s.outline, (), 0.0, s.thickness, 2).placed(s.frame)) for s in a.case.context]
    hexes = []
    for fitted in a.fitted:
        group = a.detail.bolts[fitted.group]
        s, frame = stack(group, fitted), bolt_frame(group, fitted)
        ends = [frustum(s.sunk, s.size.d, *s.head, 16) if s.sunk else hexagon(s.size.head_af, *s.head), *([hexagon(s.size.head_af, *s.nut)] if s.nut else [])]
        hexes += [m.placed(frame) for m in (*ends, *(taper_mesh(t, False) for t in fitted.tapers))]
    for tie in a.detail.ties:
        bar, nuts = tie_bodies(tie)
        hexes += nuts
        out.append(("rod", bar))
    if hexes:
        out.append(("bolt", joined(hexes)))
    if a.detail.rods:
        first = a.detail.rods[0]
        shape = _plain_rod(first)
        alike = all((r.size, r.bottom, r.top, r.nuts, r.washers, r.washer) == (first.size, first.bottom, first.top, first.nuts, first.washers, first.washer) for r in a.detail.rods)
        shapes = [shape if alike else _plain_rod(r) for r in a.detail.rods]
        out.append(("rod", joined([s.placed(r.stand) for s, r in zip(shapes, a.detail.rods, strict=True)])))
    return out


def _plain_rod(rod: Rod) -> Mesh:
    """An anchor rod at the origin as the sheet shows it: a square bar looks the same from the side, and its nuts cover it from above, but for its end."""
    size = anchor_size(rod.size)
    over = min(max((n + size.nut_height / 2 for n in rod.nuts), default=rod.bottom), rod.top)  # inside the uppermost nut
    parts = [square_bar(size.d, rod.bottom, over), cylinder(size.d, over, rod.top, 24), *(hexagon(size.nut_af, n, n + size.nut_height) for n in rod.nuts)]
    parts += [square_bar(rod.washer[0], z, z + rod.washer[1]) for z in rod.washers]
    return joined(parts)


def projected(a: Assembled) -> dict[View, Projected]:
    """An assembled detail in every view."""
    made = bodies(a)
    frames = [v.frame for v in a.detail.views]
    cut_open = [_opened(made, v) if v.near is not None else made for v in a.detail.views]
    seen = _seen(cut_open, made, frames)
    low, high = (np.array([_extent(a, v)[k] for v in a.detail.views]) for k in (0, 1))
    pieces, kept = clipped(seen.lines, low[seen.view], high[seen.view])
    style = np.array([DRAWN.index(s) for s, _ in made])[seen.body]
    # a rod's own hidden edges would only blur it
    style = np.where(seen.hidden, np.where(style == DRAWN.index("rod"), -1, DRAWN.index("hidden")), style)[kept]
    symbols = [_symbols(a, frame) for frame in frames]
    dashed = a.rules == "AISC"
    holes = [holes_drawn(a, frame, [m for s, m in some if s != "bolt"], lo, hi, dashed) for frame, some, lo, hi in zip(frames, cut_open, low, high, strict=True)]
    # centre lines and the outlines of concrete, of all views in one go
    loose = [lines for (crosses, fills), h in zip(symbols, holes, strict=True) for lines in (np.concatenate([crosses, np.array(h.marks).reshape(-1, 4)]), _sides(fills))]
    owner = np.repeat(np.arange(len(loose)), [len(lines) for lines in loose])
    cut, left = clipped(np.concatenate(loose), low[owner // 2], high[owner // 2])
    owner = owner[left]
    out: dict[View, Projected] = {}
    for i, view in enumerate(v.name for v in a.detail.views):
        mine = seen.view[kept] == i
        lines = _by_style(pieces[mine], style[mine]) | {"concrete": cut[owner == 2 * i + 1]}
        for line, rings in holes[i].strokes:
            lines[line] = np.concatenate([lines.get(line, np.zeros((0, 4))), rings])
        out[view] = Projected(lines, (*low[i].tolist(), *high[i].tolist()), tuple(holes[i].rounds), cut[owner == 2 * i], symbols[i][1])
    return out


def _opened(made: "list[tuple[Style, Mesh]]", view: SheetView) -> "list[tuple[Style, Mesh]]":
    """The bodies with what members have nearer to the viewer than the view's cut taken off; one that is all nearer is left whole."""
    assert view.near is not None
    z, point = np.array(view.frame.z), view.frame.o + np.array(view.frame.z) * view.near
    out: list[tuple[Style, Mesh]] = []
    for style, mesh in made:
        along = (mesh.points - point) @ z
        out.append((style, trimmed(mesh, point, -z) if style == "member" and along.max() > 0 > along.min() else mesh))
    return out


def _seen(cut_open: "list[list[tuple[Style, Mesh]]]", made: "list[tuple[Style, Mesh]]", frames: Sequence[Frame]) -> Seen:
    """All edges in all views: those that show whole bodies in one go."""
    whole = [i for i, some in enumerate(cut_open) if some is made]
    parts = [(whole, Scene([m for _, m in made]).seen([frames[i] for i in whole]))] if whole else []
    parts += [([i], Scene([m for _, m in some]).seen([frames[i]])) for i, some in enumerate(cut_open) if some is not made]
    if len(parts) == 1 and len(whole) == len(frames):
        return parts[0][1]
    lines, hidden, body = (np.concatenate([getattr(s, part) for _, s in parts]) for part in ("lines", "hidden", "body"))
    return Seen(lines, hidden, body, np.concatenate([np.array(views)[s.view] for views, s in parts]))


def _extent(a: Assembled, view: SheetView) -> tuple[Array, Array]:
    """Least and greatest corner (2,) of what a view shows: its clip, or the window round the parts as they lie in it."""
    frame = view.frame
    if view.clip is not None:
        return np.array(view.clip[:2]), np.array(view.clip[2:])
    if max(abs(v) for v in frame.x) > 0.9999 and max(abs(v) for v in frame.z) > 0.9999:
        corners = frame.to_local(np.array(window(a)))[:, :2]
        return corners.min(axis=0), corners.max(axis=0)
    flat = frame.to_local(shown_points(a))[:, :2]
    low, high = flat.min(axis=0), flat.max(axis=0)
    margin = max(ROUND, SHARE * float((high - low).max()))
    return low - margin, high + margin


def _by_style(pieces: Array, style: "np.ndarray") -> dict[Style, Array]:
    lines: dict[Style, Array] = {s: pieces[style == i] for i, s in enumerate(DRAWN)}
    lines["hidden"] = _not_under(lines["hidden"], pieces[(style >= 0) & (style != DRAWN.index("hidden"))])
    return lines


def clipped(pieces: Array, low: Array, high: Array) -> "tuple[Array, np.ndarray]":
    """Line pieces (k, 4) cut to a box (corners (2,), or (k, 2) for a box each), and the numbers of those of which something is left."""
    a, b = pieces[:, :2], pieces[:, 2:]
    step = b - a
    moving = np.abs(step) > 1e-9
    safe = np.where(moving, step, 1.0)
    u, v = (low - a) / safe, (high - a) / safe
    beside = ~moving & ((a < low) | (a > high))
    enter = np.where(moving, np.minimum(u, v), 0.0).max(axis=1, initial=0.0)
    leave = np.where(beside, -1.0, np.where(moving, np.maximum(u, v), 1.0)).min(axis=1, initial=1.0)
    kept = np.flatnonzero(leave > enter)
    a, step = a[kept], step[kept]
    return np.concatenate([a + step * enter[kept, None], a + step * leave[kept, None]], axis=1), kept


def _not_under(hidden: Array, seen: Array) -> Array:
    """Hidden pieces less those that lie wholly on a visible one: dashes under a line only make it ragged."""
    if not len(hidden) or not len(seen):
        return hidden
    a, step = seen[:, :2], seen[:, 2:] - seen[:, :2]
    size = np.maximum(np.hypot(step[:, 0], step[:, 1]), 1e-9)
    way = step / size[:, None]
    covered_ = np.ones((len(hidden), len(seen)), dtype=bool)
    for point in (hidden[:, :2], hidden[:, 2:]):
        gap = point[:, None] - a
        along = (gap * way).sum(axis=2)
        aside = np.abs(gap[..., 0] * way[:, 1] - gap[..., 1] * way[:, 0])
        covered_ &= (aside < 0.05) & (along > -0.05) & (along < size + 0.05)
    return hidden[~covered_.any(axis=1)]


def _symbols(a: Assembled, frame: Frame) -> "tuple[Array, tuple[Array, ...]]":
    """Centre lines of bolts and rods, crossed zones, and the outlines of concrete."""
    crosses: list[tuple[float, float, float, float]] = []
    z = np.array(frame.z)
    points = frame.to_local(np.array([f.point for f in a.fitted]).reshape(-1, 3)).tolist()
    axes = [frame.unturn(group.axis).tolist() for group in a.detail.bolts]
    for fitted, at in zip(a.fitted, points, strict=True):
        group, axis = a.detail.bolts[fitted.group], axes[fitted.group]
        reach = bolt_size(group.size).d * 1.1
        if abs(axis[2]) > 0.9:
            crosses += [(at[0] - reach, at[1], at[0] + reach, at[1]), (at[0], at[1] - reach, at[0], at[1] + reach)]
        else:
            a0, a1 = fitted.enter - 1.5 * reach, fitted.enter + fitted.length + reach
            crosses.append((at[0] + axis[0] * a0, at[1] + axis[1] * a0, at[0] + axis[0] * a1, at[1] + axis[1] * a1))
    for tie in a.detail.ties:
        (x0, y0, _), (x1, y1, _) = frame.to_local(tie.frame.to_world(np.array([(-15.0, 0.0, 0.0), (tie.length + 15.0, 0.0, 0.0)]))).tolist()
        crosses.append((x0, y0, x1, y1))
    ends = [[(rod.x, rod.y, rod.bottom - 30), (rod.x, rod.y, rod.top + 30)] for rod in a.detail.rods]
    for (x0, y0, _), (x1, y1, _) in frame.to_local(np.array(ends).reshape(-1, 3)).reshape(-1, 2, 3).tolist():
        crosses += [(x1 - 30, y1, x1 + 30, y1), (x1, y1 - 30, x1, y1 + 30)] if abs(z[2]) > 0.9 else [(x0, y0, x1, y1)]
    for corners in zone_corners(a.detail):
        flat = frame.to_local(corners)[:, :2]
        (u0, v0), (u1, v1) = flat.min(axis=0).tolist(), flat.max(axis=0).tolist()
        crosses += [(u0, v0, u1, v0), (u1, v0, u1, v1), (u1, v1, u0, v1), (u0, v1, u0, v0), (u0, v0, u1, v1), (u0, v1, u1, v0)]
    fills = []
    for block in a.detail.blocks:
        flat = block.outline.points(0.5)
        body = np.concatenate([block.frame.to_world(np.column_stack([flat, np.full(len(flat), h)])) for h in (0.0, block.thickness)])
        local = frame.to_local(body)[:, :2]
        low, high = local.min(axis=0), local.max(axis=0)
        fills.append(np.array([(low[0], low[1]), (high[0], low[1]), (high[0], high[1]), (low[0], high[1])]))
    return np.array(crosses, dtype=float).reshape(-1, 4), tuple(fills)


def _sides(fills: tuple[Array, ...]) -> Array:
    out = [np.concatenate([corners, np.roll(corners, -1, axis=0)], axis=1) for corners in fills]
    return np.concatenate(out) if out else np.zeros((0, 4))
