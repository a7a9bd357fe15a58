"""What another connection takes out of a member that both have: its holes, notches and cut ends against one's bolts."""

from collections.abc import Iterator

import numpy as np
from shapely.geometry import LineString, Point

from tincleat.catalogue.fasteners import BoltSize, bolt_size
from tincleat.details.assembled import role_words
from tincleat.details.parts import Bolts, Detail, Hole
from tincleat.geometry.frames import Array, Frame, vec
from tincleat.joints.case import Case
from tincleat.project.entities import HouseRules
from tincleat.proof.finding import Finding, at_least
from tincleat.standards.rulesets import rules_of
from tincleat.steel.cuts import Cuts, MemberHole, Notch, in_outer

SAME_PLY = 2.0  # mm that two holes' middle planes may lie apart in one element, tapered flanges included
SAME_HOLE = 0.5  # mm: one hole for both, which is for the clash of their bolts to tell
FAR = 1e5  # mm, beyond every member


def taken_beside(case: Case, mine: Detail, theirs: Detail, at: Frame, shared: tuple[tuple[int, int], ...], house: HouseRules, words: str) -> Iterator[Finding]:
    """Distances between two connections' holes in one ply, and from holes of one to what the other takes off the member's edge.

    ``at`` is the other's frame in this one's; ``shared`` pairs the members' numbers in both; one finding a member and kind, the worst.
    """
    for i, j in shared:
        ours, others = mine.cuts_of(i), in_outer(theirs.cuts_of(j), at)
        there = [(bolt_size(b.size), at.to_world(b.points)) for b in theirs.bolts]
        here = [(bolt_size(b.size), np.array(b.points)) for b in mine.bolts]
        name = role_words(case.members[i].role)
        yield from _spacing(ours.holes, others.holes, here + there, mine.bolts, house, f"{name}{words}")
        yield from _edges(ours.holes, here, others, house, f"{name}{words}")
        yield from _edges(others.holes, there, ours, house, f"{name}, holes{words}")


Groups = list[tuple[BoltSize, Array]]  # sizes with the points of their bolts (n, 3)


def _size(hole: MemberHole, groups: Groups) -> BoltSize:
    """The bolt whose line passes nearest a hole's middle."""
    axis, point = np.array(hole.axis), np.array(hole.point)

    def off(points: Array) -> float:
        gap = points - point
        return float(np.linalg.norm(gap - np.outer(gap @ axis, axis), axis=1).min())

    return min(groups, key=lambda g: off(g[1]))[0]


def _spacing(ours: tuple[MemberHole, ...], others: tuple[MemberHole, ...], groups: Groups, bolts: tuple[Bolts, ...], house: HouseRules, part: str) -> Iterator[Finding]:
    """Least distance of a hole of one from a hole of the other in the same ply."""
    if not ours or not others:
        return
    a, b = np.array([h.point for h in ours]), np.array([h.point for h in others])
    na, nb = np.array([h.axis for h in ours]), np.array([h.axis for h in others])
    gap = b[None] - a[:, None]
    along = np.einsum("ijk,ik->ij", gap, na)
    flat = np.linalg.norm(gap - along[..., None] * na[:, None], axis=2)
    same = (np.abs(na @ nb.T) > 0.99) & (np.abs(along) < SAME_PLY) & (flat > SAME_HOLE)
    if not same.any():
        return
    i, j = np.unravel_index(int(np.where(same, flat, np.inf).argmin()), flat.shape)
    rules = rules_of(house)
    wide = max(ours[i], others[j], key=lambda h: h.width)
    hole = Hole(0.0, 0.0, wide.width, wide.length, 0.0, wide.kind)
    # in line with the load the least spacing is another than in other directions
    inline = any(np.linalg.norm(gap[i, j] - float(gap[i, j] @ np.array(g.load)) * np.array(g.load)) < wide.width / 2 for g in bolts)
    sizes = max((_size(h, groups) for h in (ours[i], others[j])), key=lambda s: s.d)
    limit = rules.spacing_least(sizes, hole, True) if inline and wide.length <= wide.width else rules.stagger_least(sizes, hole)
    middle = vec((a[i] + b[j]) / 2)
    yield at_least("spacing-beside", "Spacing from another connection's holes", limit, part, float(flat[i, j]), middle, f"holes of two connections in {part}")


def _edges(holes: tuple[MemberHole, ...], groups: Groups, off: Cuts, house: HouseRules, part: str) -> Iterator[Finding]:
    """Least distance of holes from the edges that the other connection cuts."""
    rules = rules_of(house)
    worst: tuple[float, MemberHole] | None = None
    for h in holes:
        near = min([_to_notch(h, n) for n in off.notches] + [_to_plane(h, np.array(e.point), np.array(e.normal)) for e in off.ends], default=np.inf)
        if np.isfinite(near) and near < FAR and (worst is None or near < worst[0]):
            worst = (near, h)
    if worst is None:
        return
    near, h = worst
    limit = rules.edge_least(_size(h, groups), Hole(0.0, 0.0, h.width, h.length, 0.0, h.kind), False)
    yield at_least("edge-beside", "Distance from what another connection cuts", limit, part, near, h.point, f"hole to the edge cut in {part}")


def _to_plane(h: MemberHole, point: Array, normal: Array) -> float:
    """From a hole's middle along its ply to a cut end, mm; negative where the hole is cut off."""
    axis = np.array(h.axis)
    lean = float(np.linalg.norm(normal - (normal @ axis) * axis))
    return float((np.array(h.point) - point) @ normal) / lean if lean > 0.1 else np.inf


def _to_notch(h: MemberHole, n: Notch) -> float:
    """From a hole's middle to a notch's outline in the hole's ply, mm; 0 inside the notch, infinite if the notch leaves the ply alone."""
    (at,) = n.frame.to_local([h.point])
    axis = n.frame.unturn(h.axis)
    outline = n.outline.polygon()
    if abs(axis[2]) > 0.9:  # seen along the hole
        return float(outline.distance(Point(at[0], at[1]))) if -1.0 <= at[2] <= n.depth + 1.0 else np.inf
    way = np.array([-axis[1], axis[0]]) / np.hypot(axis[0], axis[1])
    met = outline.intersection(LineString([at[:2] - way * FAR, at[:2] + way * FAR]))
    if met.is_empty or met.length < 1e-6:
        return np.inf
    flat = met.distance(Point(at[0], at[1]))
    deep = max(0.0, -at[2], at[2] - n.depth)
    return float(np.hypot(flat, deep))
