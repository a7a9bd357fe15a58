"""Plug and slot welds: their holes, how far they are filled, what they stand on, and how far apart they are."""

from collections.abc import Iterator

import numpy as np
import shapely

from tincleat.details.assembled import Assembled, Ply
from tincleat.details.parts import Plug
from tincleat.geometry.frames import vec
from tincleat.project.entities import HouseRules
from tincleat.proof.finding import Finding, Rule, at_least, at_most
from tincleat.standards.limit import Limit
from tincleat.standards.rulesets import rules_of

ON_FACE = 0.6  # mm that its foot may lie off the face it is welded to


def plugs(a: Assembled, house: HouseRules) -> Iterator[Finding]:
    """Of the plugs of each name the worst of every rule, by the hole that is there."""
    rules = rules_of(house)
    groups: dict[str, list[Plug]] = {}
    for p in a.detail.plugs:
        groups.setdefault(p.name.rpartition(",")[0] or p.name, []).append(p)
    for name, some in groups.items():
        first = some[0]
        far = max(some, key=lambda p: _off(a, p))
        yield at_most("plug-base", "Plug on its part", Limit(ON_FACE, "it stands on the part below, its whole foot on it"), name, _off(a, far), far.frame.origin, f"foot of {far.name} off {far.parts[0]}")
        ply, width, length = _hole(a, first)
        if ply is None:
            yield at_most("plug-hole", "Hole of a plug", Limit(0.0, "it fills a hole"), name, first.width, first.frame.origin, f"{first.name} has no hole in {first.parts[1]}")
            continue
        play = max(abs(width - first.width), abs(length - first.length))
        yield at_most("plug-hole", "Hole of a plug", Limit(0.1, "it fills its hole"), name, play, first.frame.origin, f"{first.name} and its hole")
        t = ply.thickness
        limits = rules.plug(t, width, length, first.depth)
        at = first.frame.origin
        yield at_least("plug-width", "Width of a plug", limits["least"], name, width, at, f"hole for a {first.kind} through {t:g} mm")
        yield at_least("plug-depth", "Depth of a plug", limits["depth"], name, first.depth, at, f"{first.kind} in {t:g} mm filled")
        if "most" in limits:
            yield at_most("plug-width-most", "Greatest width of a plug", limits["most"], name, width, at, f"hole for a {first.kind} through {t:g} mm")
        if "long" in limits and first.kind == "slot":
            yield at_most("plug-long", "Greatest length of a slot", limits["long"], name, length, at, f"slot filled {first.depth:g} mm deep")
        if "spacing" in limits and len(some) > 1:
            flat = np.array([first.frame.to_local(p.frame.o[None])[0, :2] for p in some])
            gaps = np.abs(flat[:, None] - flat[None])
            slot = first.kind == "slot"
            # of slots side by side what is between them across counts, of those end to end what is along
            need = np.where(gaps[:, :, 1] < 0.1, limits["along"].value, limits["spacing"].value) if slot else np.full(gaps.shape[:2], limits["spacing"].value)
            far_ = np.where(gaps[:, :, 1] < 0.1, gaps[:, :, 0], gaps[:, :, 1]) if slot else np.hypot(gaps[:, :, 0], gaps[:, :, 1])
            spare = np.where(np.eye(len(some), dtype=bool), np.inf, far_ - need)
            i, k = np.unravel_index(int(spare.argmin()), spare.shape)
            limit = limits["along"] if slot and gaps[i, k, 1] < 0.1 else limits["spacing"]
            yield at_least("plug-spacing", "Spacing of plugs", limit, name, float(far_[i, k]), vec(some[int(i)].frame.o), f"{first.kind} to {first.kind}")


def _off(a: Assembled, p: Plug) -> float:
    """How far a plug's foot lies off the part below it, mm: off its face, or off its edge."""
    foot = p.frame.to_world(np.column_stack([p.outline.points(0.2), np.zeros(len(p.outline.points(0.2)))]))
    best = float("inf")
    for ply in a.plies:
        if ply.owner == p.parts[0] and abs(float(np.dot(ply.frame.z, p.frame.z))) > 0.999:
            local = ply.frame.to_local(foot)
            level = np.minimum(np.abs(local[:, 2]), np.abs(local[:, 2] - ply.thickness))
            beside = shapely.distance(ply.polygon, shapely.points(local[:, :2]))
            best = min(best, float(np.maximum(level, beside).max()))
    return best if np.isfinite(best) else float(p.width)


def _hole(a: Assembled, p: Plug) -> "tuple[Ply | None, float, float]":
    """The ply with the hole that a plug is in, and the hole's width and length, mm."""
    for ply in a.plies:
        if ply.owner == p.parts[1] and abs(float(np.dot(ply.frame.z, p.frame.z))) > 0.999:
            x, y, _ = ply.frame.to_local(p.frame.o[None])[0]
            for h in ply.holes:
                if np.hypot(h.x - x, h.y - y) < 0.5:
                    return ply, h.width, max(h.width, h.length)
    return None, 0.0, 0.0


RULES = (Rule("plugs", "Plug and slot welds", plugs),)
