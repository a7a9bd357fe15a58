"""Round bars with threaded ends against the steel they pass: hole, edges, bearing of nuts, thread, angle, distance from each other."""

import math
from collections.abc import Iterator

import numpy as np

from tincleat.catalogue.fasteners import bolt_size
from tincleat.details.assembled import Assembled, Passing, Ply
from tincleat.details.parts import Hole, Tie
from tincleat.geometry.frames import Vec3
from tincleat.project.entities import HouseRules
from tincleat.proof.finding import Finding, Rule, at_least, at_most
from tincleat.proof.measure import in_joint, nearest_edge
from tincleat.standards.limit import Limit
from tincleat.standards.rulesets import rules_of

BEARS = 1.0  # mm that a nut's face may lie off the steel's where the bar passes it
SQUARE = Limit(3.0, "practice: taper washers over 3°")


def ties(a: Assembled, house: HouseRules) -> Iterator[Finding]:
    """All checks of ties, the worst place of each tie."""
    spots: dict[int, list[tuple[Hole, Tie]]] = {}
    for tie, passed in zip(a.detail.ties, a.tied, strict=True):
        yield from _in_steel(a, house, tie, passed)
        yield from _nuts(a, house, tie, passed)
        for p in passed:
            if p.hole is not None:
                spots.setdefault(p.ply, []).append((p.hole, tie))
    for ply, some in spots.items():
        if len(some) > 1:
            yield _apart(a.plies[ply], some, house)


def _in_steel(a: Assembled, house: HouseRules, tie: Tie, passed: tuple[Passing, ...]) -> Iterator[Finding]:
    """The bar in the plies it passes: its hole at its slant, that hole's edges, the slant itself."""
    rules, size = rules_of(house), bolt_size(tie.size)
    found: dict[str, list[Finding]] = {}
    for p in passed:
        ply = a.plies[p.ply]
        c = abs(float(np.dot(ply.frame.z, tie.frame.x)))
        where = in_joint(ply, p.at)
        wide = p.hole.width if p.hole is not None else 0.0
        need = Limit(size.d / c + ply.thickness * math.sqrt(max(0.0, 1 - c * c)) / c, "the bar passes its hole at its slant")
        found.setdefault("hole", []).append(at_least("tie-hole", "Rod in its hole", need, tie.name, wide, where, f"{tie.name} in {ply.name}" + ("" if p.hole else ": no hole there")))
        slant = math.degrees(math.acos(min(1.0, c)))
        words = f"{tie.name} on {ply.name}" + (f": taper washers of {slant:.1f}° are drawn" if tie.seats else "")
        found.setdefault("slant", []).append(at_most("tie-slant", "Rod square to the steel", SQUARE, tie.name, slant, where, words, "deg", "note" if tie.seats else "breach"))
        if p.hole is None:
            continue
        starts, stops, free = ply.edges
        if free.any():
            far, _ = nearest_edge(np.array([(p.hole.x, p.hole.y)]), starts[free], stops[free])
            limit = rules.edge_least(size, p.hole, False)
            found.setdefault("edge", []).append(at_least("tie-edge", "Rod's hole to the edge", limit, tie.name, float(far[0]), where, f"{tie.name}, {ply.name}"))
    for some in found.values():
        yield _worst(some)


def _worst(some: list[Finding]) -> Finding:
    return min(some, key=lambda f: (f.actual - f.required) * (1.0 if f.sense == ">=" else -1.0))


def _nuts(a: Assembled, house: HouseRules, tie: Tie, passed: tuple[Passing, ...]) -> Iterator[Finding]:
    """Nuts against the steel they bear on and the thread they sit on."""
    if not tie.nuts:
        return
    rules, size = rules_of(house), bolt_size(tie.size)
    off, loose, short = [], [], []
    for i, (x, way) in enumerate(tie.nuts):
        where = _on(tie, x)
        # a nut that lies on from its face bears on steel that ends there, and the other way round
        gap = min((abs(x - (p.leave if way > 0 else p.enter)) for p in passed), default=math.inf)
        off.append(at_most("tie-nut", "Nut on the steel", Limit(BEARS, f"nuts bear, {BEARS:g} mm at most off"), tie.name, min(gap, 1e4), where, f"{tie.name}: nut to the steel"))
        far = tie.bearing(i, size.washer_d, size.washer_t) + way * size.nut_height
        low, high = min(x, far), max(x, far)
        threaded = max(tie.threads[0] - high, tie.threads[1] - (tie.length - low))
        loose.append(at_least("tie-thread", "Nut on its thread", Limit(0.0, "nuts sit on thread"), tie.name, threaded, where, f"{tie.name}: thread inside the nut"))
    for end in (0.0, tie.length):
        fars = [tie.bearing(i, size.washer_d, size.washer_t) + way * size.nut_height for i, (_, way) in enumerate(tie.nuts) if (way < 0) == (end == 0.0)]
        if fars:
            beyond = min(fars) if end == 0.0 else tie.length - max(fars)
            short.append(at_least("tie-projection", "Thread beyond the nut", rules.rod_thread(size.pitch), tie.name, beyond, _on(tie, end), f"{tie.name}: beyond its outer nut"))
    for some in (off, loose, short):
        if some:
            yield _worst(some)


def _apart(ply: Ply, some: "list[tuple[Hole, Tie]]", house: HouseRules) -> Finding:
    """The least distance of ties in one ply."""
    rules = rules_of(house)
    best: tuple[float, Hole, Tie, Tie] | None = None
    for i, (h, t) in enumerate(some):
        for k, u in some[i + 1 :]:
            far = math.hypot(h.x - k.x, h.y - k.y)
            if best is None or far < best[0]:
                best = (far, h, t, u)
    assert best is not None
    far, hole, t, u = best
    limit = rules.spacing_least(bolt_size(t.size), hole, True)
    return at_least("tie-spacing", "Rods beside each other", limit, ply.name, far, in_joint(ply, (hole.x, hole.y)), f"{t.name} and {u.name} in {ply.name}")


def _on(tie: Tie, x: float) -> Vec3:
    return tie.frame.point((x, 0.0, 0.0))


RULES = (Rule("ties", "Rods with threaded ends", ties),)
