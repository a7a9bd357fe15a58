"""Bolts through timber: how far they are from its end and edges, and from each other."""

from collections.abc import Iterator

import numpy as np

from tincleat.catalogue.fasteners import bolt_size
from tincleat.details.assembled import Assembled
from tincleat.project.entities import HouseRules
from tincleat.proof.finding import Finding, Rule, at_least, at_most
from tincleat.standards.rulesets import rules_of


def timber(a: Assembled, house: HouseRules) -> Iterator[Finding]:
    """Of every group in every timber the least distance to its ends and to its edges, the least spacing, and the play of the holes."""
    rules = rules_of(house)
    for number, ply in enumerate(a.plies):
        if not ply.timber:
            continue
        for g, group in enumerate(a.detail.bolts):
            found = [p for f in a.fitted if f.group == g for p in f.plies if p.ply == number]
            if not found:
                continue
            d = bolt_size(group.size).d
            spots = np.array([p.at for p in found])
            x0, y0, x1, y1 = ply.polygon.bounds
            free = [x for x in (x0, x1) if not any(abs(x - b) < 0.1 for b in ply.beyond)]

            def at(i: int, spots: "np.ndarray" = spots, frame: object = ply.frame, t: float = ply.thickness) -> tuple[float, float, float]:
                return frame.point((float(spots[i, 0]), float(spots[i, 1]), t / 2))  # type: ignore[attr-defined]

            limits = rules.timber(d)
            if free:
                end = np.min([np.abs(spots[:, 0] - x) for x in free], axis=0)
                i = int(end.argmin())
                yield at_least("timber-end", "End distance in timber", limits["end"], f"{ply.name}, {group.name}", float(end[i]), at(i), f"{group.size} to the end of the timber")
            edge = np.minimum(spots[:, 1] - y0, y1 - spots[:, 1])
            i = int(edge.argmin())
            yield at_least("timber-edge", "Edge distance in timber", limits["edge"], f"{ply.name}, {group.name}", float(edge[i]), at(i), f"{group.size} to the edge of the timber")
            if len(spots) > 1:
                near = [(float(np.hypot(*(spots[i] - spots[k]))), i) for i in range(len(spots)) for k in range(i)]
                gap, i = min(near)
                yield at_least("timber-spacing", "Spacing in timber", limits["spacing"], f"{ply.name}, {group.name}", gap, at(i), f"{group.size} from bolt to bolt in the timber")
            play = max((p.hole.width - d if p.hole is not None else 0.0) for p in found)
            yield at_most("timber-hole", "Holes in timber", limits["hole"], f"{ply.name}, {group.name}", play, at(0), f"play of holes for {group.size}")


RULES = (Rule("timber", "Bolts in timber", timber),)
