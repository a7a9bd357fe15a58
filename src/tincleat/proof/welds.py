"""Fillet welds against the parts they join: size, throat, continuous length, fusion angle, and whether they touch steel at all."""

import math
from collections.abc import Callable, Container, Iterator, Sequence
from typing import NamedTuple

import numpy as np
import shapely
from shapely.geometry import Polygon

from tincleat.catalogue.fasteners import bolt_size
from tincleat.details.assembled import Assembled, Ply, gaps, role_words
from tincleat.details.bodies import ROUND, member_body
from tincleat.details.parts import Weld
from tincleat.geometry.frames import Array, Frame, Vec3, crossed_rows
from tincleat.geometry.mesh import off_faces
from tincleat.geometry.tolerances import ON_FACE
from tincleat.project.entities import HouseRules
from tincleat.proof.finding import Finding, Rule, at_least, at_most
from tincleat.standards.limit import Limit
from tincleat.standards.rulesets import rules_of

STATIONS = (0.02, 0.5, 0.98)


def throat(weld: Weld) -> float:
    """Throat of an equal-legged fillet in mm: the height of its triangle over the face, leg · cos(half the fusion angle)."""
    return weld.leg * math.cos(fusion_angle(weld) / 2)


def fusion_angle(weld: Weld) -> float:
    """Angle in rad between the two fusion faces."""
    (a, b, c), (d, e, f) = weld.u, weld.v
    return math.acos(max(-1.0, min(1.0, a * d + b * e + c * f)))


def length(weld: Weld) -> float:
    """Length of the run, mm."""
    return math.dist(weld.start, weld.end)


def middle(weld: Weld) -> Vec3:
    """The middle of the run."""
    (ax, ay, az), (bx, by, bz) = weld.start, weld.end
    return ((ax + bx) / 2, (ay + by) / 2, (az + bz) / 2)


def _meeting(points: Array) -> "np.ndarray":
    """Which of some points (n, 3) lie within 1 mm of each other, (n, n)."""
    points = points - points.mean(axis=0)  # products of small numbers keep their digits
    size = (points * points).sum(axis=1)
    return size[:, None] + size - 2 * (points @ points.T) < 1.0


def continuous(welds: "tuple[Weld, ...]") -> "list[list[Weld]]":
    """Runs of one size that follow end to end round a part, as one weld each; a fillet that goes over into a groove is one with it."""
    if not welds:
        return []
    ends = np.array([(w.start, w.end) for w in welds])
    kinds: dict[tuple[str, str], int] = {}
    parts = np.array([kinds.setdefault(w.parts, len(kinds)) for w in welds])
    leg, groove = np.array([w.leg for w in welds]), np.array([w.kind != "fillet" for w in welds])
    near = _meeting(ends.reshape(-1, 3)).reshape(len(welds), 2, len(welds), 2).any(axis=(1, 3))
    near &= (parts[:, None] == parts) & ((leg[:, None] == leg) | (groove[:, None] != groove))
    groups: list[list[int]] = []
    for i, row in enumerate(near):
        beside = set(np.flatnonzero(row[:i]).tolist())
        merged = [i]
        for g in [g for g in groups if not beside.isdisjoint(g)] if beside else ():
            merged = g + merged
            groups.remove(g)
        groups.append(merged)
    return [[welds[i] for i in g] for g in groups]


def _closed(run: "list[Weld]") -> bool:
    """Whether a run goes all round: every end of a piece is met by another's, or is carried round a corner."""
    if len(run) < 2:
        return False
    ends = np.array([p for w in run for p in (w.start, w.end)])
    return bool((np.count_nonzero(_meeting(ends), axis=1) > 1).all())


def all_round(welds: "Sequence[Weld]") -> bool:
    """Whether some welds are runs that each go all round a part: no end of a piece without another's."""
    return len(welds) > 3 and all(_closed(run) for run in continuous(tuple(welds)))


class _Lain(NamedTuple):
    """How welds lie on one part: their numbers, the part's plies, points (n, 6, 3) along their roots and the toes of their legs there, and the
    directions (n, 3) square to run and leg."""

    welds: list[int]
    plies: list[Ply]
    spots: Array
    faces: Array


def _lain(a: Assembled, rounds: "Container[str]") -> "Iterator[tuple[str, _Lain]]":
    """Every part that is not round with the welds on it."""
    welds = a.detail.welds
    start, end, u, v = np.array([(w.start, w.end, w.u, w.v) for w in welds]).swapaxes(0, 1)
    run = end - start
    points = start[:, None] + run[:, None] * np.array(STATIONS)[:, None]
    leg = np.array([w.leg for w in welds])[:, None]
    # root and toe on the first part, and on the second: a groove that opens at its root has a root on each
    corners = np.stack([np.zeros_like(u), leg * u, np.zeros_like(u), leg * v], axis=1)
    for i, w in enumerate(welds):
        if w.opening or w.radius:
            ends = w.ends
            corners[i] = ends[0], ends[1], ends[3] if w.opening else ends[0], ends[2]
    size = np.maximum(np.sqrt((run * run).sum(axis=1)), 1e-9)[:, None]
    spots = [np.concatenate([points + corners[:, k, None], points + corners[:, k + 1, None]], axis=1) for k in (0, 2)]
    faces = [crossed_rows(run, way) / size for way in (u, v)]
    on: dict[str, list[tuple[int, int]]] = {}
    for i, w in enumerate(welds):
        for side, part in enumerate(w.parts):
            on.setdefault(part, []).append((i, side))
    for part, rows in on.items():
        if part not in rounds:
            numbers, sides = [i for i, _ in rows], np.array([side for _, side in rows])
            plies = [p for p in a.plies if p.owner == part] or [p for p in a.standing if p.owner == part]
            first = sides == 0
            yield part, _Lain(numbers, plies, np.where(first[:, None, None], spots[0][numbers], spots[1][numbers]), np.where(first[:, None], faces[0][numbers], faces[1][numbers]))


def _touching(a: Assembled, rounds: "Container[str]") -> dict[tuple[int, str], tuple[Ply | None, float, Vec3]]:
    """For every weld and part of it that is not round: the part's ply nearest to the run, the greatest gap along its root and the toe of its leg there, and where that is."""
    welds = a.detail.welds
    out: dict[tuple[int, str], tuple[Ply | None, float, Vec3]] = {}
    parts = list(_lain(a, rounds))
    wanted = [(p, on.spots.reshape(-1, 3)) for _, on in parts for p in on.plies]
    measured = iter(gaps([p for p, _ in wanted], [spots for _, spots in wanted]))
    for part, on in parts:
        if not on.plies:
            out |= {(i, part): (None, math.inf, middle(welds[i])) for i in on.welds}
            continue
        spots, member = on.spots, on.plies[0].member
        far = np.array([_true(a, p, spots.reshape(-1, 3), next(measured)) for p in on.plies]).reshape(len(on.plies), len(on.welds), -1)
        greatest = far.max(axis=2)
        apart = np.flatnonzero(greatest.min(axis=0) > ON_FACE) if member >= 0 else ()
        if len(apart):  # a preparation cuts a flange slanting, and so does the end of what stands slanting: to the true faces
            far[:, apart] = off_faces(member_body(a, member, ROUND).mesh, spots[apart].reshape(-1, 3)).reshape(len(apart), -1)
            greatest = far.max(axis=2)
        # several elements of a section meet at a corner: the one whose face the leg lies on is meant
        lies = np.abs(np.array([p.frame.z for p in on.plies]) @ on.faces.T)
        best = (greatest + (1 - lies) * ON_FACE).argmin(axis=0)
        every = np.arange(len(on.welds))
        gap, where = greatest[best, every], spots[every, far[best, every].argmax(axis=1)]
        for i, ply, off, at in zip(on.welds, best.tolist(), gap.tolist(), where.tolist(), strict=True):
            out[i, part] = (on.plies[ply], off, (at[0], at[1], at[2]))
    return out


def _true(a: Assembled, ply: Ply, points: Array, far: Array) -> Array:
    """Distances (n,) of points to a ply, ``far`` as if it were of one thickness: on a tapered flange, and at a tube's corners, to the true
    profile, for its faces are not where an even plate's would be."""
    if (tube := next((p for p in a.detail.pieces if p.name == ply.owner and p.shape.shape == "RHS"), None)) is not None:
        # round its corners a tube's steel lies inside its walls' flats
        local = tube.frame.to_local(points)
        wall = Polygon(tube.shape.outer.points(0.02), [hole.points(0.02) for hole in tube.shape.inner])
        along = np.maximum(np.maximum(-local[:, 0], local[:, 0] - tube.length), 0.0)
        return np.minimum(far, np.hypot(shapely.distance(wall, shapely.points(local[:, 1:])), along))
    if ply.member < 0 or not a.case.members[ply.member].shape.slope:
        return far
    member = a.case.members[ply.member]
    local = member.frame.to_local(points)
    off = shapely.distance(member.shape.outer.polygon(), shapely.points(local[:, 1:]))
    flat = shapely.distance(ply.polygon, shapely.points(ply.frame.to_local(points)[:, :2]))
    return np.where(np.hypot(off, flat) <= ON_FACE, 0.0, np.hypot(off, flat))


class _Round(NamedTuple):
    """A round bar, or a tube with its wall, along a frame's x; ``number`` of a member, -1 for others."""

    frame: Frame
    diameter: float
    wall: float
    number: int = -1


def _on_rounds(a: Assembled, rounds: "dict[str, _Round]") -> dict[tuple[int, str], tuple[float, Vec3]]:
    """For every weld and round part of it: how far the weld lies off that at most, mm, and where."""
    out: dict[tuple[int, str], tuple[float, Vec3]] = {}
    welds = a.detail.welds
    for part, bar in rounds.items():
        mine = [i for i, w in enumerate(welds) if part in w.parts]
        if not mine:
            continue
        some = [welds[i] for i in mine]
        start, end = np.array([w.start for w in some]), np.array([w.end for w in some])
        legs = np.array([w.v if part == w.parts[1] else w.u for w in some])
        run, x = end - start, np.array(bar.frame.x)
        along = np.abs(run @ x) / np.maximum(np.sqrt((run * run).sum(axis=1)), 1e-9)
        on_end = (np.maximum(np.abs(legs @ x), along) < 0.05) & (bar.number >= 0) & np.array([w.kind == "fillet" for w in some])
        roots = start[:, None] + run[:, None] * np.array(STATIONS)[:, None]
        for chosen, off in ((on_end, _off_end), (~on_end, _off_round)):  # a fillet on a tube's end does not lie along its surface
            rows = np.flatnonzero(chosen)
            if not len(rows):
                continue
            there = [some[k] for k in rows.tolist()]
            far, spots = off(a, bar, part, there, roots[rows], legs[rows])
            worst = far.argmax(axis=1)
            every = np.arange(len(rows))
            greatest, where = far[every, worst], spots[every, worst]
            for k, gap, at in zip(rows.tolist(), np.where(greatest > ON_FACE, greatest, 0.0).tolist(), where.tolist(), strict=True):
                out[mine[k], part] = gap, (at[0], at[1], at[2])
    return out


def _off_round(a: Assembled, bar: _Round, part: str, welds: Sequence[Weld], roots: Array, legs: Array) -> tuple[Array, Array]:
    """How far the roots (n, k, 3) of some welds lie off the surface of a round bar, mm (n, k), and the points that were measured; that of
    a square groove, which goes through a tube's wall, off the wall.  With an opening its second part has a root of its own."""
    open_ = np.array([bool(w.opening) for w in welds])
    if open_.any():
        roots = roots + np.array([w.ends[3] if w.opening and part == w.parts[1] else (0.0, 0.0, 0.0) for w in welds])[:, None]
    local = bar.frame.to_local(roots.reshape(-1, 3)).reshape(roots.shape)
    off = np.hypot(local[..., 1], local[..., 2]) - bar.diameter / 2
    # a fillet lies on the outer or on the inner surface
    return np.where(open_[:, None], np.maximum(off, -off - bar.wall), np.minimum(np.abs(off), np.abs(off + bar.wall))), roots


def _off_end(a: Assembled, bar: _Round, part: str, welds: Sequence[Weld], roots: Array, legs: Array) -> tuple[Array, Array]:
    """How far the roots (n, k, 3), or the toes of the legs (n, 3), of some fillets lie off a round tube's cut end, mm (n, k), and the roots: off
    the ring of its wall and off the plane it is cut along, for beside what goes into a tube the root bridges its play."""
    m = a.case.members[bar.number]
    toes = roots + (np.array([w.leg for w in welds])[:, None] * legs)[:, None]
    spots = m.frame.to_local(np.concatenate([roots, toes], axis=1).reshape(-1, 3))
    r = np.hypot(spots[:, 1], spots[:, 2])
    ring = np.maximum(np.maximum(m.shape.h / 2 - m.shape.tw - r, r - m.shape.h / 2), 0.0)
    planes = [abs((spots - np.array(e.point)) @ np.array(e.normal)) for e in a.cuts(bar.number).ends] or [abs(spots[:, 0] - m.low), abs(spots[:, 0] - m.high)]
    return np.hypot(ring, np.min(planes, axis=0)).reshape(len(roots), 2, -1).max(axis=1), roots


def _root(weld: Weld) -> tuple[object, ...]:
    """Names the root of a groove: those that open to both sides of a part share it, and go through together."""
    ends = sorted(tuple(round(c, 2) + 0.0 for c in p) for p in (weld.start, weld.end))
    return (weld.parts, *ends)


class _Worst:
    """The worst finding of each rule on each named weld, in the order in which they were first met; made only where it is worse than one before."""

    def __init__(self) -> None:
        self.margins: dict[tuple[str, str], float] = {}
        self.findings: dict[tuple[str, str], Finding] = {}

    def keep(self, make: "Callable[..., Finding]", rule: str, title: str, limit: Limit, part: str, actual: float, where: "Vec3 | Weld", words: str, unit: str = "mm") -> None:
        """Take a finding of ``make``, at_least or at_most; ``where`` may be a weld, whose middle is meant."""
        margin = actual - limit.value if make is at_least else limit.value - actual
        key = (rule, part)
        if key not in self.margins or margin < self.margins[key]:
            self.margins[key] = margin
            self.findings[key] = make(rule, title, limit, part, actual, middle(where) if isinstance(where, Weld) else where, words, unit)


def _rounds(a: Assembled) -> dict[str, _Round]:
    """All round bars and tubes of a detail by name."""
    out = {role_words(m.role): _Round(m.frame, m.shape.h, m.shape.tw, i) for i, m in enumerate(a.case.members) if m.shape.shape in ("CHS", "RD")}
    out |= {p.name: _Round(p.frame, p.shape.h, p.shape.tw) for p in a.detail.pieces if p.shape.shape in ("CHS", "RD")}
    return out | {t.name: _Round(t.frame, d, d) for t in a.detail.ties for d in (bolt_size(t.size).d,)}


def fillets(a: Assembled, house: HouseRules) -> Iterator[Finding]:
    """All checks of fillets and grooves; the worst run of each named weld is reported."""
    if not a.detail.welds:
        return
    rules = rules_of(house)
    found = _Worst()
    rounds = _rounds(a)
    touching = _touching(a, rounds)
    off_round = _on_rounds(a, rounds)
    tubes = {role_words(m.role) for m in a.case.members if m.shape.shape in ("CHS", "RHS")} | {p.name for p in a.detail.pieces if p.shape.shape in ("CHS", "RHS")}
    off_part = rules.weld_gap(house.weld_gap)
    gapped: dict[str, tuple[float, Vec3, str]] = {}  # of each name the run that lies furthest off a part of it
    depths: dict[tuple[object, ...], float] = {}
    for i, weld in enumerate(a.detail.welds):
        for part in weld.parts:
            gap, where = off_round[i, part] if part in rounds else touching[i, part][1:]
            if weld.name not in gapped or gap > gapped[weld.name][0]:
                gapped[weld.name] = (gap, where, part)
        if weld.kind == "groove":
            depths[_root(weld)] = depths.get(_root(weld), 0.0) + weld.leg
    asked: set[tuple[str, float, str, bool, float, float, bool]] = set()  # runs alike in all that the rules ask: the first one stands for them
    for i, weld in enumerate(a.detail.welds):
        thin: list[float] = []
        hollow: set[float] = set()  # walls of hollow sections among them
        name = weld.name
        if name in gapped:
            gap, where, part = gapped.pop(name)
            found.keep(at_most, "weld-gap", "Weld on its part", off_part, name, gap, where, f"{name}: root to {part}")
        for part in weld.parts:
            if part in rounds:
                thin.append(rounds[part].wall)
                hollow |= {rounds[part].wall} if part in tubes else set()
                continue
            ply = touching[i, part][0]
            if ply is not None:
                thin.append(ply.thickness)
                hollow |= {ply.thickness} if part in tubes else set()
                edge = rules.fillet_along_edge(ply.thickness)
                (x, y, z), (p, q, r) = weld.u if part == weld.parts[0] else weld.v, ply.frame.z
                if edge is not None and weld.kind == "fillet" and abs(x * p + y * q + z * r) > 0.95:
                    found.keep(at_most, "fillet-leg-greatest", "Greatest leg along an edge", edge, name, weld.leg, weld, f"{name} along the edge of {ply.name}")
        thinner = min(thin, default=0.0)
        angle = fusion_angle(weld)
        alike = (name, weld.leg, weld.kind, bool(weld.opening), round(angle, 9), thinner, bool(thin) and thinner in hollow)
        if alike in asked:
            continue
        asked.add(alike)
        if weld.kind == "groove":
            whole = Limit(thinner, "the groove goes through the thinner part")
            found.keep(at_least, "groove-depth", "Depth of a groove weld", whole, name, depths[_root(weld)], weld, f"{name}, thinner part {thinner:g} mm")
        else:
            measure, least = rules.fillet_least(thinner)
            size = weld.leg * math.cos(angle / 2) if measure == "throat" else weld.leg
            rule = "fillet-throat" if measure == "throat" else "fillet-leg-least"
            found.keep(at_least, rule, f"Least {measure} of fillet", least, name, size, weld, f"{name}, thinner part {thinner:g} mm")
        if thickness := rules.thinnest(alike[-1]):
            found.keep(at_least, "weld-part", "Thinnest part welded", thickness, name, thinner, weld, f"{name}, thinner part")
        angle = math.degrees(angle)
        if weld.kind == "groove" and weld.opening and angle < 0.01:
            found.keep(at_most, "groove-square", "Thickness of a square groove", rules.square_groove, name, weld.leg, weld, f"{name}: parallel faces")
        elif weld.kind == "groove":
            if not weld.radius:  # a U or a J is open at its root by that
                found.keep(at_least, "groove-angle", "Opening of a groove", rules.groove_least, name, angle, weld, f"{name}: opening of the preparation", "deg")
        else:
            words = f"{name}: angle between the parts"
            found.keep(at_least, "fusion-angle", "Fusion faces, least angle", rules.fusion_least, name, angle, weld, words, "deg")
            found.keep(at_most, "fusion-angle-most", "Fusion faces, greatest angle", rules.fusion_most, name, angle, weld, words, "deg")
    for run in continuous(a.detail.welds):
        run.sort(key=lambda w: w.kind != "fillet")
        first = run[0]
        if first.kind != "fillet":
            continue
        total = rules.effective(sum(length(w) for w in run), throat(first), _closed(run))
        name = first.name if len(run) == 1 else f"{first.name} and {len(run) - 1} more in one run"
        least = rules.fillet_length(first.leg, throat(first))
        found.keep(at_least, "fillet-length", "Least length of fillet", least, name, total, first, f"{name}, effective length")
    yield from found.findings.values()


RULES = (Rule("fillets", "Fillet welds", fillets),)
