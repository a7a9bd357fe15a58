"""Fillet welds against the parts they join: size, throat, continuous length, fusion angle, and whether they touch steel at all."""

import math
from collections.abc import Callable, Iterator, Sequence

import numpy as np
import shapely
from shapely.geometry import Polygon

from tincleat.catalogue.fasteners import bolt_size
from tincleat.details.assembled import Assembled, Ply, gaps, role_words
from tincleat.details.bodies import ROUND, member_body
from tincleat.details.parts import Weld
from tincleat.geometry.frames import Array, Frame, Vec3, crossed_rows, vec
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


def continuous(welds: "tuple[Weld, ...]") -> "list[list[Weld]]":
    """Runs of one size that follow end to end round a part, as one weld each; a fillet that goes over into a groove is one with it."""
    if not welds:
        return []
    ends = np.array([(w.start, w.end) for w in welds])
    kinds: dict[tuple[str, str], int] = {}
    parts = np.array([kinds.setdefault(w.parts, len(kinds)) for w in welds])
    leg, groove = np.array([w.leg for w in welds]), np.array([w.kind != "fillet" for w in welds])
    near = (np.square(ends[:, None, :, None] - ends[None, :, None]).sum(axis=4) < 1.0).any(axis=(2, 3))
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
    ends = [p for w in run for p in (w.start, w.end)]
    if len(run) < 2:
        return False
    off = np.array(ends)[:, None] - np.array(ends)
    return bool((np.count_nonzero(np.einsum("ijk,ijk->ij", off, off) < 1.0, axis=1) > 1).all())


def all_round(welds: "Sequence[Weld]") -> bool:
    """Whether some welds are runs that each go all round a part: no end of a piece without another's."""
    return len(welds) > 3 and all(_closed(run) for run in continuous(tuple(welds)))


def _touching(a: Assembled) -> dict[tuple[int, str], tuple[Ply | None, float, Vec3]]:
    """For every weld and part of it: the part's ply nearest to the run, the greatest gap along its root and the toe of its leg there, and where that is."""
    welds = a.detail.welds
    start, end = np.array([w.start for w in welds]), np.array([w.end for w in welds])
    points = start[:, None] + (end - start)[:, None] * np.array(STATIONS)[None, :, None]
    out: dict[tuple[int, str], tuple[Ply | None, float, Vec3]] = {}
    for part in dict.fromkeys(p for w in welds for p in w.parts):
        mine = [i for i, w in enumerate(welds) if part in w.parts]
        plies = [p for p in a.plies if p.owner == part] or [p for p in a.standing if p.owner == part]
        if not plies:
            out |= {(i, part): (None, math.inf, middle(welds[i])) for i in mine}
            continue
        legs = np.array([welds[i].u if part == welds[i].parts[0] else welds[i].v for i in mine])
        # root and toe of its leg on this part: a groove that opens at its root has a root on each
        corners = [(s[0], s[1]) if part == welds[i].parts[0] else (s[3] if welds[i].opening else s[0], s[2]) for i in mine for s in (welds[i].ends,)]
        roots, toes = (points[mine] + np.array([c[k] for c in corners])[:, None] for k in (0, 1))
        spots = np.concatenate([roots, toes], axis=1)
        far = np.array([_gaps(a, p, spots.reshape(-1, 3)).reshape(len(mine), -1) for p in plies])
        greatest = far.max(axis=2)
        apart = np.flatnonzero(greatest.min(axis=0) > ON_FACE) if plies[0].member >= 0 else ()
        if len(apart):  # a preparation cuts a flange slanting, and so does the end of what stands slanting: to the true faces
            far[:, apart] = off_faces(member_body(a, plies[0].member, ROUND).mesh, spots[apart].reshape(-1, 3)).reshape(len(apart), -1)
            greatest = far.max(axis=2)
        # several elements of a section meet at a corner: the one whose face the leg lies on is meant
        runs = (end - start)[mine]
        faces = crossed_rows(runs, legs) / np.maximum(np.hypot(np.hypot(runs[:, 0], runs[:, 1]), runs[:, 2]), 1e-9)[:, None]
        lies = np.abs(np.array([p.frame.z for p in plies]) @ faces.T)
        best = (greatest + (1 - lies) * ON_FACE).argmin(axis=0)
        for row, (i, ply) in enumerate(zip(mine, best.tolist(), strict=True)):
            out[(i, part)] = (plies[ply], float(greatest[ply, row]), vec(spots[row, int(far[ply, row].argmax())]))
    return out


def _gaps(a: Assembled, ply: Ply, points: Array) -> Array:
    """Distances (n,) of points to a ply; on a tapered flange, and at a tube's corners, to the true profile, for its faces are not where an even plate's would be."""
    far = gaps(ply, points)
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


def _off_round(weld: Weld, second: bool, at: Frame, diameter: float, wall: float) -> tuple[float, Vec3]:
    """How far a weld's root lies off the surface of a round bar along ``at``'s x at most, mm, and where; that of a square groove, which
    goes through a tube's wall, off the wall.  With an opening its ``second`` part has a root of its own."""
    points = np.array(weld.start) + np.array(weld.ends[3] if second and weld.opening else (0.0, 0.0, 0.0)) + (np.array(weld.end) - np.array(weld.start)) * np.array(STATIONS)[:, None]
    local = at.to_local(points)
    off = np.hypot(local[:, 1], local[:, 2]) - diameter / 2
    # a fillet lies on the outer or on the inner surface
    off = np.maximum(off, -off - wall) if weld.opening else np.minimum(np.abs(off), np.abs(off + wall))
    # across a bar the root follows its section's rim, chord by chord
    i = int(off.argmax())
    return float(off[i]) if off[i] > ON_FACE else 0.0, vec(points[i])


def _off_end(a: Assembled, weld: Weld, number: int, leg: Vec3) -> tuple[float, Vec3]:
    """How far the root, or the toe of the leg, of a fillet lies off a round tube's cut end at most, mm, and where: off the ring of its wall
    and off the plane it is cut along, for beside what goes into a tube the root bridges its play."""
    m = a.case.members[number]
    roots = np.array(weld.start) + (np.array(weld.end) - np.array(weld.start)) * np.array(STATIONS)[:, None]
    spots = m.frame.to_local(np.concatenate([roots, roots + weld.leg * np.array(leg)]))
    r = np.hypot(spots[:, 1], spots[:, 2])
    ring = np.maximum(np.maximum(m.shape.h / 2 - m.shape.tw - r, r - m.shape.h / 2), 0.0)
    planes = [abs((spots - np.array(e.point)) @ np.array(e.normal)) for e in a.cuts(number).ends] or [abs(spots[:, 0] - m.low), abs(spots[:, 0] - m.high)]
    far = np.hypot(ring, np.min(planes, axis=0)).reshape(2, -1).max(axis=0)
    i = int(far.argmax())
    return float(far[i]) if far[i] > ON_FACE else 0.0, vec(roots[i])


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


def fillets(a: Assembled, house: HouseRules) -> Iterator[Finding]:
    """All checks of fillets and grooves; the worst run of each named weld is reported."""
    rules = rules_of(house)
    found = _Worst()
    touching = _touching(a) if a.detail.welds else {}
    bars = {role_words(m.role): (m.frame, m.shape.h, m.shape.tw) for m in a.case.members if m.shape.shape in ("CHS", "RD")}
    numbers = {role_words(m.role): i for i, m in enumerate(a.case.members)}
    bars |= {p.name: (p.frame, p.shape.h, p.shape.tw) for p in a.detail.pieces if p.shape.shape in ("CHS", "RD")}
    bars |= {t.name: (t.frame, d, d) for t in a.detail.ties for d in (bolt_size(t.size).d,)}
    tubes = {role_words(m.role) for m in a.case.members if m.shape.shape in ("CHS", "RHS")} | {p.name for p in a.detail.pieces if p.shape.shape in ("CHS", "RHS")}
    off_part = rules.weld_gap(house.weld_gap)
    depths: dict[tuple[object, ...], float] = {}
    for weld in a.detail.welds:
        if weld.kind == "groove":
            depths[_root(weld)] = depths.get(_root(weld), 0.0) + weld.leg
    asked: set[tuple[str, float, str, bool, float, float, bool]] = set()  # runs alike in all that the rules ask: the first one stands for them
    for i, weld in enumerate(a.detail.welds):
        thin: list[float] = []
        hollow: set[float] = set()  # walls of hollow sections among them
        name = weld.name
        for part in weld.parts:
            if part in bars:
                at, diameter, wall = bars[part]
                leg, run = weld.v if part == weld.parts[1] else weld.u, np.array(weld.end) - np.array(weld.start)
                across = max(abs(float(np.dot(leg, at.x))), abs(float(run @ np.array(at.x))) / max(float(np.linalg.norm(run)), 1e-9)) < 0.05
                if part in numbers and weld.kind == "fillet" and across:  # it lies on the tube's end, not along its surface
                    gap, where = _off_end(a, weld, numbers[part], leg)
                else:
                    gap, where = _off_round(weld, part == weld.parts[1], at, diameter, wall)
                found.keep(at_most, "weld-gap", "Weld on its part", off_part, name, gap, where, f"{name}: root to {part}")
                thin.append(wall)
                hollow |= {wall} if part in tubes else set()
                continue
            ply, gap, where = touching[(i, part)]
            found.keep(at_most, "weld-gap", "Weld on its part", off_part, name, gap, where, f"{name}: root to {part}")
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
