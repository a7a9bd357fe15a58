"""Bolts against the real plies: edge and end distance, spacing, fit in holes, length to grip, room to tighten."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import NamedTuple

import numpy as np
import shapely

from tincleat.catalogue.fasteners import HOLE_KINDS, bolt_size, hole_size
from tincleat.details.assembled import Assembled, Fitted, Passing, Ply, bolt_frame
from tincleat.details.bolting import stack
from tincleat.details.parts import Bolts, Hole
from tincleat.details.tapers import square
from tincleat.geometry.frames import Array
from tincleat.geometry.tolerances import ON_FACE
from tincleat.project.entities import HouseRules
from tincleat.proof.finding import Finding, Rule, at_least, at_most
from tincleat.proof.measure import Plane, Reach, in_joint, load_in, reaches
from tincleat.standards.limit import Limit, governing
from tincleat.standards.rulesets import rules_of

OFF_FLANGE = 1.0  # mm that a corner of a taper washer may stand off the flange, as where that is rounded off at its tip


@dataclass(frozen=True, eq=False)
class _Drilled:
    """The bolts of one group in one ply."""

    ply: Ply
    number: int  # of the group in the detail
    group: Bolts
    points: Array
    holes: tuple[Hole, ...]
    load: Array
    bolts: tuple[int, ...]  # numbers of the fitted bolts the points are of
    index: int  # of the ply in the assembled detail


@lru_cache(maxsize=8)
def _drilled(a: Assembled) -> list[_Drilled]:
    """Worked out once for all rules that ask of one detail."""
    return list(_each_drilled(a))


def _each_drilled(a: Assembled) -> Iterator[_Drilled]:
    passed: dict[tuple[int, int], list[tuple[int, Passing]]] = {}
    for i, f in enumerate(a.fitted):
        for p in f.plies:
            passed.setdefault((p.ply, f.group), []).append((i, p))
    for (number, g), some in sorted(passed.items(), key=lambda x: x[0]):
        ply, group = a.plies[number], a.detail.bolts[g]
        if ply.timber:
            continue  # its edges have rules of their own
        width, length = a.hole_for(group)
        holes = tuple(p.hole or Hole(p.at[0], p.at[1], width, length) for _, p in some)
        yield _Drilled(ply, g, group, np.array([p.at for _, p in some]), holes, load_in(ply, group.load), tuple(i for i, _ in some), number)


def edges(a: Assembled, house: HouseRules) -> Iterator[Finding]:
    """Least and greatest distance of every bolt from the true outline of every ply it passes."""
    rules = rules_of(house)
    drilled = _drilled(a)
    measured = [_measured(d, rules.slot_end) for d in drilled]
    groups = {number: _groups(a, ply, house) for number, ply in {d.index: d.ply for d in drilled}.items()}
    reached = reaches([Plane(points, d.load, *d.ply.edges[:2], groups[d.index]) for d, (points, _) in zip(drilled, measured, strict=True)])
    for d, (points, owner), reach in zip(drilled, measured, reached, strict=True):
        for hole_kind in dict.fromkeys(h.kind for h in d.holes):
            asks, clause = rules.hole_use(hole_kind)
            if asks:
                yield Finding("hole-use", "What the hole asks for", clause, "note", f"{d.ply.name}, {hole_kind}", 0, 1, ">=", "", in_joint(d.ply, points[0]),
                              f"{hole_kind} holes in {d.ply.name} ask for {asks}")  # fmt: skip
        near = reach.near[FREE]
        if not np.isfinite(near).any():
            continue
        size = bolt_size(d.group.size)
        met = first_met(reach, FREE)
        sides = met.reshape(2, 2, -1).min(axis=1)
        near = np.where(near < sides.min(axis=0) - 0.01, near, np.inf)
        far = np.concatenate([sides, near[None]])
        worst = far.argmin(axis=1).tolist()
        across = (-float(d.load[1]), float(d.load[0]))
        for k, (kind, title, way) in enumerate((("end", "End distance", d.load.tolist()), ("edge", "Edge distance", across), ("nearest edge", "Distance to the nearest edge", across))):
            i = worst[k]
            actual = float(far[k, i])
            if not math.isfinite(actual):
                continue
            hole = d.holes[owner[i]]
            limit = rules.edge_least(size, hole, abs(math.cos(hole.angle) * way[0] + math.sin(hole.angle) * way[1]) > 0.5)
            factor = house.end_factor * size.d
            limit = governing(limit, factor, f"{kind} distance ≥ {house.end_factor:g} d") if factor else limit
            words = f"{d.group.size} hole to the {'end' if kind == 'end' else 'edge'} of {d.ply.name}"
            yield at_least("edge-least", title, limit, f"{d.ply.name}, {kind}", actual, in_joint(d.ply, points[i]), words)
    if house.exposed:
        if any(len(points) > len(d.points) for d, (points, _) in zip(drilled, measured, strict=True)):  # of slots the ends were measured, not the bolts
            reached = reaches([Plane(d.points, d.load, *d.ply.edges[:2], groups[d.index]) for d in drilled])
        yield from _greatest_edges(a, house, drilled, reached)


EVERY, FREE, OPEN = range(3)  # all sides of a ply; those that are no other plate's; those of them that are not welded


def _groups(a: Assembled, ply: Ply, house: HouseRules) -> "np.ndarray":
    """Which sides of a ply's outline (m,) are EVERY, FREE, OPEN; a welded edge is sealed."""
    free = ply.edges[2]
    return np.array([np.ones(len(free), dtype=bool), free, free & ~_welded(a, ply, house.weld_gap) if house.exposed else free])


def first_met(reach: Reach, group: int) -> Array:
    """Distances (4, n) to the first side met where it is one of a group (at a corner either is), elsewhere infinite."""
    return np.where(reach.along[group] <= reach.along[EVERY] + 1e-6, reach.along[group], np.inf)


class _Ahead(NamedTuple):
    """From each bolt of a group in a ply what lies ahead in four ways (4, 3) of the joint: distances (4, n) to free edges, and to any edges."""

    free: Array
    every: Array
    ways: Array
    column: dict[int, int]  # of each bolt by its number


def _greatest_edges(a: Assembled, house: HouseRules, drilled: "Sequence[_Drilled]", reached: Sequence[Reach]) -> Iterator[Finding]:
    """Water gets in where a lap ends: at the nearer of two touching plies' free edges.  No bolt may be too far from there."""
    rules = rules_of(house)
    laps: dict[tuple[int, int], _Ahead] = {}  # by group and ply
    fillers = {p.name for p in a.detail.plates if "pack" in p.kinds}  # they fill, and join nothing
    for d, reach in zip(drilled, reached, strict=True):
        across = np.array([-d.load[1], d.load[0]])
        ways = np.array([d.load, -d.load, across, -across])
        met = first_met(reach, OPEN)
        if d.ply.stem is not None:  # what lies beyond the web that stands on a flange is another outstand
            rise = np.where(np.abs(ways[:, 1]) > 1e-9, ways[:, 1], np.inf)[:, None]
            stem = (d.ply.stem - d.points[None, :, 1]) / rise
            met = np.where((stem > 0) & (stem < met), np.inf, met)
        laps[d.number, d.index] = _Ahead(met, reach.along[EVERY], ways @ d.ply.frame.axes[:2], {bolt: k for k, bolt in enumerate(d.bolts)})
    for d in drilled:
        if d.ply.owner in fillers or any(a.plies[p.ply].sheet for i in d.bolts for p in a.fitted[i].plies):
            continue
        t = _outer(a, d.number) if rules.outer_governs else d.ply.thickness
        limit = rules.edge_greatest(t)
        if math.isfinite(limit.value):
            far = _lap(a, laps, d)
            others = [o.points for o in drilled if o.index == d.index and o.number != d.number]
            yield from _greatest(d, limit, t, far, np.concatenate(others) if others else np.zeros((0, 2)))


def _lap(a: Assembled, laps: dict[tuple[int, int], _Ahead], d: _Drilled) -> Array:
    """Distances (4, n) from bolts to a ply's free edges, in its four ways, where it is that edge at which a lap ends; elsewhere infinite.

    The other ply ends the lap with any of its edges: an angle's leg at its heel, where its other leg stands, too.
    """
    mine = laps[d.number, d.index]
    beside: dict[int, list[tuple[int, int]]] = {}  # by ply that touches: bolts here and there
    for k, bolt in enumerate(d.bolts):
        order = [p.ply for p in a.fitted[bolt].plies]
        at = order.index(d.index)
        for other in order[max(0, at - 1) : at] + order[at + 1 : at + 2]:
            if (found := laps.get((d.number, other))) is not None:
                beside.setdefault(other, []).append((k, found.column[bolt]))
    ends = np.zeros(mine.free.shape, dtype=bool)
    for other, some in beside.items():
        theirs, (here, there) = laps[d.number, other], np.array(some).T
        ends[:, here] |= mine.free[:, here] <= theirs.every[(mine.ways @ theirs.ways.T).argmax(axis=1)[:, None], there] + 0.01
    return np.where(ends, mine.free, np.inf)


def _welded(a: Assembled, ply: Ply, gap: float) -> "np.ndarray":
    """Which sides of a ply's outline are welded along nine tenths of their length or more, (m,)."""
    starts, stops, _ = ply.edges
    mine = [(w.start, w.end) for w in a.detail.welds if ply.owner in w.parts]
    sealed = np.zeros(len(starts), dtype=bool)
    if not mine:
        return sealed
    runs = ply.frame.to_local(np.array(mine).reshape(-1, 3)).reshape(-1, 2, 3)
    runs = runs[(runs[:, :, 2].min(axis=1) >= -gap - ON_FACE) & (runs[:, :, 2].max(axis=1) <= ply.thickness + gap + ON_FACE)]
    along = stops - starts
    size = np.maximum(np.hypot(along[:, 0], along[:, 1]), 1e-9)
    unit = along / size[:, None]
    from_start = runs[:, None, :, :2] - starts[:, None]  # (runs, sides, ends, 2)
    off = np.abs(from_start[..., 1] * unit[:, None, 0] - from_start[..., 0] * unit[:, None, 1]).max(axis=2, initial=0.0)
    at = np.clip((from_start * unit[:, None]).sum(axis=3), 0.0, size[:, None])
    # welds on both faces lie over each other: the longest run counts
    covered = np.where(off <= gap + ON_FACE, at.max(axis=2) - at.min(axis=2), 0.0) if len(runs) else np.zeros((1, len(size)))
    return covered.max(axis=0) >= 0.9 * size


def _measured(d: _Drilled, slot_end: bool) -> "tuple[Array, np.ndarray]":
    """Where edge distances are measured from, (k, 2), and the bolt each point is of: the bolts, or of slots the centres of both end radii."""
    points: list[Array] = []
    owner: list[int] = []
    for i, (p, h) in enumerate(zip(d.points, d.holes, strict=True)):
        if slot_end and h.length > h.width:
            half = (h.length - h.width) / 2 * np.array([np.cos(h.angle), np.sin(h.angle)])
            points += [np.array([h.x, h.y]) + half, np.array([h.x, h.y]) - half]
            owner += [i, i]
        else:
            points.append(p)
            owner.append(i)
    return np.array(points), np.array(owner)


def _outer(a: Assembled, g: int) -> float:
    """Thickness of the thinner outer ply that the bolts of a group pass."""
    outer = [a.plies[p.ply].thickness for f in a.fitted if f.group == g and f.plies for p in (f.plies[0], f.plies[-1])]
    return min(outer)


def _greatest(d: _Drilled, limit: Limit, t: float, reach: Array, others: Array) -> Iterator[Finding]:
    """The bolt next to each free edge must not be too far from it.  ``reach`` (4, n) along the load, against it, across it, against that;
    ``others`` (k, 2) are bolts of other groups in the ply: an edge that they lie nearer to, no further aside than the limit, is theirs."""
    half = max(h.width for h in d.holes) / 2
    axes = np.array([d.load, (-d.load[1], d.load[0])])
    # by axis (2) and way along it (2): whether another bolt (n, n) or one of the others (n, k) stands between one and the edge
    ahead = np.moveaxis((d.points - d.points[:, None]) @ axes.T, 2, 0)
    between = ((SIGNS * ahead[:, None] > half) & (np.abs(ahead[::-1]) < 2 * half)[:, None]).any(axis=3)
    if len(others):
        beside = np.moveaxis((others - d.points[:, None]) @ axes.T, 2, 0)
        between |= ((SIGNS * beside[:, None] > half) & (np.abs(beside[::-1]) < limit.value)[:, None]).any(axis=3)
    far = reach.reshape(2, 2, -1)
    outer = np.where(np.isfinite(far) & ~between, far, -1.0)
    for k, sign, i in np.argwhere(outer > limit.value).tolist() if outer.max() > limit.value else ():
        # the edge there may lie nearer to another bolt, as on a round plate
        edge = d.points[i] + axes[k] * (outer[k, sign, i] if sign == 0 else -outer[k, sign, i])
        nearest = float(np.hypot(*(np.concatenate([d.points, others]) - edge).T).min())
        outer[k, sign, i] = max(min(outer[k, sign, i], nearest), 0.0)
    for kind, some in zip(("end", "edge"), outer, strict=True):
        sign, i = divmod(int(some.argmax()), some.shape[1])
        worst = float(some[sign, i])
        if worst >= 0:
            words = f"{d.group.size} hole to the {kind} of {d.ply.name}, thinner outer ply {t:g} mm, exposed to weather"
            yield at_most("edge-greatest", f"Greatest {kind} distance", limit, f"{d.ply.name}, {kind}", worst, in_joint(d.ply, d.points[i]), words)


SIGNS = np.array([1.0, -1.0])[None, :, None, None]  # along an axis and against it


IN_ROW, IN_LINE = 1, 2  # how two bolts lie to each other, across the load and along it; else aslant
SPACED = ((IN_LINE, "in line with the load"), (IN_ROW, "across the load"), (0, "staggered"), (3, "holes on top of each other"))


@lru_cache(maxsize=256)
def _pairs(n: int) -> "tuple[np.ndarray, np.ndarray]":
    """Numbers of the first and of the second of all pairs of ``n`` things."""
    one, two = np.triu_indices(n, 1)
    return one, two


def spacing(a: Assembled, house: HouseRules) -> Iterator[Finding]:
    """Least spacing of all holes in a ply, and greatest spacing within a group by its thinner outer ply."""
    rules = rules_of(house)
    for d in _drilled(a):
        if len(d.points) < 2:
            continue
        size = bolt_size(d.group.size)
        one, two = _pairs(len(d.points))
        gap = d.points[one] - d.points[two]
        du, dv = np.abs(gap @ d.load), np.abs(gap @ (-d.load[1], d.load[0]))
        hole = max(d.holes, key=lambda h: h.length)
        slot_along = hole.length > hole.width and abs(math.cos(hole.angle) * d.load[0] + math.sin(hole.angle) * d.load[1]) > 0.5
        how = 2 * (dv < hole.width / 2) + (du < hole.width / 2)
        far = np.where(how == IN_LINE, du, np.where(how == IN_ROW, dv, np.hypot(du, dv)))
        for lie, words in SPACED:
            some = np.flatnonzero(how == lie)
            if not len(some):
                continue
            k = some[far[some].argmin()]
            if lie == IN_LINE:
                limit = rules.spacing_least(size, hole, slot_along or house.rule_set == "EN")
            elif lie == IN_ROW:
                limit = rules.spacing_least(size, hole, not slot_along and house.rule_set != "EN")
            else:
                limit = rules.stagger_least(size, hole)
            asked = house.spacing_factor * size.d
            limit = governing(limit, asked, f"spacing ≥ {house.spacing_factor:g} d") if asked else limit
            if words == "staggered" and far[k] > 3 * limit.value:
                continue
            at = in_joint(d.ply, (d.points[one[k]] + d.points[two[k]]) / 2)
            yield at_least("spacing-least", "Bolt spacing", limit, f"{d.ply.name}, {words}", float(far[k]), at, f"{d.group.size} bolts {words} in {d.ply.name}")
    if house.exposed:
        for g, group in enumerate(a.detail.bolts):
            yield from _greatest_spacing(a, g, group, house)


def _greatest_spacing(a: Assembled, g: int, group: Bolts, house: HouseRules) -> Iterator[Finding]:
    rules = rules_of(house)
    mine = [f for f in a.fitted if f.group == g and len(f.plies) >= 2]
    if len(mine) < 2 or any(a.plies[p.ply].timber or a.plies[p.ply].sheet for f in mine for p in f.plies):
        return  # no two plies of steel lie on each other there, or sheet on sheet
    outer = [a.plies[p.ply] for f in mine for p in (f.plies[0], f.plies[-1])]
    t = min(p.thickness for p in outer)
    ply = a.plies[mine[0].plies[0].ply]
    load = load_in(ply, group.load)
    points = np.array([f.plies[0].at for f in mine])
    limit = rules.spacing_greatest(t)
    if not np.isfinite(limit.value):
        return
    for words, way in (("in line with the load", load), ("across the load", np.array([-load[1], load[0]]))):
        aside = np.array([-way[1], way[0]])
        gap = points - points[:, None]
        steps = gap @ way
        # from each bolt to the next one ahead of it in its line
        ahead = np.where((steps > 1) & (np.abs(gap @ aside) < bolt_size(group.size).d), steps, np.inf)
        near = ahead.min(axis=1)
        if near[np.isfinite(near)].max(initial=0.0) > limit.value:
            closed, side = _closed_round(points, limit.value)
            # what counts there is how far apart neighbours on the ring are
            near = np.where(closed & np.isfinite(ahead), np.minimum(ahead, side), ahead).min(axis=1)
        near = np.where(np.isfinite(near), near, -1.0)
        spot = int(near.argmax())
        worst = float(near[spot])
        if worst >= 0:
            words_ = f"{group.size} bolts {words}; thinner outer ply {t:g} mm, exposed to weather"
            yield at_most(
                "spacing-greatest", "Greatest bolt spacing", limit, f"{group.name}, {words}", worst, in_joint(ply, points[spot]), words_
            )


def _closed_round(points: Array, most: float) -> "tuple[np.ndarray, float]":
    """Which pairs of bolts (n, n) lie across a ring of others, no two neighbours of which are further apart than ``most``, and how far
    apart its neighbours are at most, mm.

    The lap is closed all along such a ring, as round a tube's flange plate; a gap at the group's own border is no such pair.
    """
    n = len(points)
    none = np.zeros((n, n), dtype=bool)
    hull = shapely.MultiPoint(points).convex_hull
    if n < 5 or hull.geom_type != "Polygon":
        return none, 0.0
    rim = hull.exterior
    order = np.argsort([rim.project(shapely.Point(p)) for p in points])
    on_rim = np.array([i for i in order if rim.distance(shapely.Point(points[i])) < 0.1])
    sides = np.hypot(*(points[np.roll(on_rim, -1)] - points[on_rim]).T)
    if sides.max() > most:
        return none, 0.0
    middles = shapely.points((points[:, None] + points[None]) / 2)
    return shapely.distance(rim, middles) > 0.1, float(sides.max())


def fit(a: Assembled, house: HouseRules) -> Iterator[Finding]:
    """Every bolt passes two plies or more that touch, through a hole it fits, and is long enough but not shank-bound."""
    for g, group in enumerate(a.detail.bolts):
        mine = [f for f in a.fitted if f.group == g]
        if not mine:
            continue
        alone = min(mine, key=lambda f: len(f.plies))
        yield at_least("bolt-plies", "Bolt through plies", Limit(2, "a bolt joins two plies"), group.name, len(alone.plies), alone.point,
                       f"{group.size} bolt passes {len(alone.plies)} plies", unit="")  # fmt: skip
        joined = [f for f in mine if len(f.plies) >= 2]
        if not joined:
            continue
        gapped = max(joined, key=lambda f: f.gap)
        yield at_most("ply-gap", "Gap between plies", rules_of(house).ply_gap, group.name, gapped.gap, gapped.point, f"{group.size} bolt, plies apart")
        yield from _taper(a, group, joined)
        yield from _holes(a, group, joined, house)
        yield from _length(group, joined, house) if group.nut else _screwed(group, joined, a)
        if group.head == "countersunk":
            yield from _sunk(group, joined, a)


def filled(a: Assembled, house: HouseRules) -> Iterator[Finding]:
    """Every hole of a plate or piece that is meant for a bolt has one through it, or a threaded rod; a finding a part that has not."""
    own = {p.name for p in (*a.detail.flats, *a.detail.fittings)} | {p.name for p in a.detail.pieces}
    used = {(p.ply, p.hole) for through in (*(f.plies for f in a.fitted), *a.tied) for p in through if p.hole is not None}
    empty: dict[str, list[tuple[Ply, Hole]]] = {}
    some_there = False
    for i, ply in enumerate(a.plies):
        holes = [h for h in ply.holes if h.kind in HOLE_KINDS] if ply.member < 0 and ply.owner in own else []
        some_there = some_there or bool(holes)
        for h in holes:
            if (i, h) not in used:
                empty.setdefault(ply.owner, []).append((ply, h))
    none = Limit(0, "a bolt for every hole")
    for name, some in empty.items():
        first, hole = some[0]
        at = first.frame.point((hole.x, hole.y, 0.0))
        yield at_most("hole-empty", "Hole without a bolt", none, name, len(some), at, f"{len(some)} hole{'s' if len(some) > 1 else ''} in {name} without a bolt", unit="")
    if some_there and not empty:
        yield at_most("hole-empty", "Hole without a bolt", none, "plates", 0, a.fitted[0].point if a.fitted else (0.0, 0.0, 0.0), "every hole has its bolt", unit="")


def _taper(a: Assembled, group: Bolts, joined: list[Fitted]) -> Iterator[Finding]:
    """Taper washers lie on the flange that slopes under them: how far the corners of their slanting face stand off the member's true profile."""
    worst: dict[str, tuple[float, Fitted, str]] = {}
    for f in joined:
        for t in f.tapers:
            ply = a.plies[(f.plies[-1] if t.under_nut else f.plies[0]).ply]
            member = a.case.members[ply.member]
            flat = np.array([(x, y) for x, y, _ in square(t).vertices])
            rise = t.at - flat @ np.array(t.kept[:2]) / t.kept[2]
            spots = member.frame.to_local(bolt_frame(group, f).to_world(np.column_stack([flat, rise])))
            gap = float(shapely.distance(member.shape.outer.polygon(), shapely.points(spots[:, 1:])).max())
            if ply.name not in worst or gap > worst[ply.name][0]:
                washer = float(np.degrees(np.arctan(t.slope)))
                worst[ply.name] = (gap, f, f"{group.size} bolts on {ply.name} of {member.shape.name}: taper washers of {washer:.1f}° are drawn")
    for name, (gap, f, words) in worst.items():
        yield at_most("taper-washer", "Taper washer off the flange", Limit(OFF_FLANGE, "practice: the washer lies on the flange"), f"{group.name}, {name}", gap, f.point, words)


def _holes(a: Assembled, group: Bolts, joined: list[Fitted], house: HouseRules) -> Iterator[Finding]:
    size = bolt_size(group.size)
    tight, where, words = float("inf"), joined[0].point, ""
    for f in joined:
        for p in f.plies:
            ply = a.plies[p.ply]
            if p.hole is None:
                spare, text = -size.d, f"{ply.name} has no hole for the {group.size} bolt"
            elif (p is f.plies[-1] and not group.nut) != (p.hole.kind == "tapped"):
                spare, text = -size.d, f"the hole of {ply.name} has {'a' if p.hole.kind == 'tapped' else 'no'} thread for the {group.size} bolt"
            else:
                off = float(np.hypot(p.hole.x - p.at[0], p.hole.y - p.at[1]))
                along = abs((p.at[0] - p.hole.x) * np.cos(p.hole.angle) + (p.at[1] - p.hole.y) * np.sin(p.hole.angle))
                play = off if p.hole.length <= p.hole.width else max(0.0, off - along)
                spare, text = p.hole.width - 2 * play - size.d, f"{group.size} bolt in the hole of {ply.name}"
            if spare < tight:
                tight, where, words = spare, f.point, text
    yield at_least("bolt-hole", "Bolt in its hole", Limit(0.0, "hole ≥ bolt"), group.name, tight, where, words)
    found = [(p.hole, a.plies[p.ply], f.point) for f in joined for p in f.plies if p.hole is not None and p.hole.kind in HOLE_KINDS and not a.plies[p.ply].timber]
    if found:
        rules = rules_of(house)
        over = [hole.width - hole_size(rules.name, group.size, hole.kind)[0] for hole, _, _ in found]
        i = int(np.argmax(over))
        hole, drilled, point = found[i]
        words = f"{hole.kind} hole for {group.size} bolts in {drilled.name}"
        yield at_most("hole-size", "Size of a hole of its kind", Limit(hole.width - over[i], rules.holes), group.name, hole.width, point, words)


def _screwed(group: Bolts, joined: list[Fitted], a: Assembled) -> Iterator[Finding]:
    """Bolts that are screwed into their last ply: how much thread is engaged, and whether it begins before that ply does."""
    size = bolt_size(group.size)
    ends = [(stack(group, f).shank[1], f) for f in joined]
    engaged, f = min(((min(end, f.plies[-1].leave) - f.plies[-1].enter, f) for end, f in ends), key=lambda x: x[0])
    words = f"{group.size} x {f.length:g} bolt into {a.plies[f.plies[-1].ply].name}"
    yield at_least("thread-depth", "Thread engaged", Limit(size.d, "practice: as deep as the bolt is thick"), group.name, engaged, f.point, words)
    plain, f = max(((end - size.thread_length(f.length) - f.plies[-1].enter, f) for end, f in ends), key=lambda x: x[0])
    words = f"{group.size} x {f.length:g} bolt: plain shank past where {a.plies[f.plies[-1].ply].name} begins"
    yield at_most("bolt-shank", "Plain shank within the grip", Limit(0.0, "thread begins before the threaded ply"), group.name, plain, f.point, words)


def _sunk(group: Bolts, joined: list[Fitted], a: Assembled) -> Iterator[Finding]:
    """Countersunk heads: whether they lie in their countersinks, and in their plies."""
    least, where = math.inf, joined[0]
    for f in joined:
        s, hole = stack(group, f), f.plies[0].hole
        ply = a.plies[f.plies[0].ply]
        near = float(ply.frame.unturn(group.axis)[2]) < 0  # whether the head lies on the face at the ply's thickness
        over = hole.sink - s.sunk if hole is not None and hole.sink_top == near else -s.sunk
        if over < least:
            least, where = over, f
    s, ply = stack(group, where), a.plies[where.plies[0].ply]
    yield at_least("sink", "Countersink for its head", Limit(s.sunk, "the head lies flush in its ply"), group.name, least + s.sunk, where.point, f"countersunk {group.size} bolts in {ply.name}")
    deep, f = min(((a.plies[f.plies[0].ply].thickness, f) for f in joined), key=lambda x: x[0])
    yield at_least("sink-ply", "Ply for a countersunk head", Limit(s.head[1] - s.head[0], "the head no deeper than its ply"), group.name, deep, f.point, f"countersunk {group.size} bolts in {a.plies[f.plies[0].ply].name}")


def _length(group: Bolts, joined: list[Fitted], house: HouseRules) -> Iterator[Finding]:
    size = bolt_size(group.size)
    f = min(joined, key=lambda f: f.length - size.least_length(f.grip, group.washers))
    rules = rules_of(house)
    least = Limit(size.least_length(f.grip, group.washers), rules.length_clause())
    yield at_least("bolt-length", "Bolt length to grip", least, group.name, f.length, f.point, f"{group.size} bolt, grip {f.grip:.1f} mm")
    if house.bolt_lengths and (odd := [x for x in joined if not any(abs(x.length - s) < 0.01 for s in house.bolt_lengths)]):
        words = f"{group.size} bolts {', '.join(f'{v:g}' for v in sorted({x.length for x in odd}))} long are not in stock"
        yield Finding("bolt-stock", "Bolt length in stock", "house rule: lengths of bolts in stock", "note", group.name, len(odd), 0, "<=", "", odd[0].point, words)
    f = max(joined, key=lambda f: f.length - f.grip)
    shank = f.length - size.thread_length(f.length)
    room = f.grip + group.washers * size.washer_t
    yield at_most("bolt-shank", "Plain shank within the grip", rules.shank(room, size.pitch), group.name, shank, f.point,
                  f"{group.size} x {f.length:g} bolt, grip {f.grip:.1f} mm")  # fmt: skip


RULES = (
    Rule("edges", "Edge and end distances", edges),
    Rule("spacing", "Bolt spacing", spacing),
    Rule("fit", "Bolts in holes, length", fit),
    Rule("filled", "A bolt for every hole", filled),
)
