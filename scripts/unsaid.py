"""What the proof does not say: details with any settings at places moved at random that it calls clear, measured by the solids library.

``unsaid.py [SEED] [NUMBER] [FAMILY...]``: NUMBER clear details a family.  Nothing shares more than 1.5 mm³, every bolt stands in its plies with the least
edge distance and spacing there is in any rule, every weld lies on its parts: all from the bodies themselves, by slices and gaps, not by the rules' own
measures.  What differs is printed, to be looked at (timber has other edges; welds round large tubes are chords); exit code 1 if anything does.
"""

import random
import sys
from collections import Counter, defaultdict
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import manifold3d
import numpy as np
import shapely

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests"))

from nudged import nudged
from sites import SITES, Site
from test_families import settings_by
from test_matrix import shared, solid
from test_settings import site_case

from tincleat.catalogue.fasteners import bolt_size
from tincleat.details.assembled import Assembled, bolt_frame
from tincleat.details.bodies import Body, bodies
from tincleat.errors import TinCleatError
from tincleat.families.registry import FAMILIES, family
from tincleat.ledger.made import Made
from tincleat.project.entities import HouseRules, inch_house

SHARED = 1.5  # mm³
TRIES = 20  # a clear detail
CHORD = 2.3  # mm that chords of welds and bodies round a large tube may lie apart


def unsaid(a: Assembled) -> Iterator[str]:
    """What is wrong with a detail, in words."""
    for one, two, volume in shared(list(bodies(a, 8, drilled=True, reach=1500.0))):
        if volume > SHARED:
            yield f"{one} and {two} share {volume:.1f} mm³"
    whole: dict[str, list[Body]] = defaultdict(list)
    for b in bodies(a, 8):
        whole[b.name].append(b)
    yield from _bolts(a, whole)
    parts = {name: [solid(b) for b in some if b.kind in ("plate", "piece", "member", "rod", "head", "shank")] for name, some in whole.items()}
    for w in a.detail.welds:
        for name in (n for n in w.parts if parts.get(n)):
            gaps = []
            for t in (0.03, 0.25, 0.5, 0.75, 0.97):
                dot = manifold3d.Manifold.cube((0.02, 0.02, 0.02), True).translate(tuple(np.array(w.start) + (np.array(w.end) - np.array(w.start)) * t))
                gaps.append(min(p.min_gap(dot, 8.0) for p in parts[name]))
            if max(gaps) > max(CHORD, w.opening + 0.05 + (w.land if w.radius else 0.0)):
                yield f"{w.name} lies {max(gaps):.1f} mm off {name}"


def _bolts(a: Assembled, whole: "dict[str, list[Body]]") -> Iterator[str]:
    for f in a.fitted:
        group = a.detail.bolts[f.group]
        at, size = bolt_frame(group, f), bolt_size(group.size)
        spot = shapely.Point(at.to_local([f.point])[0][:2])
        for p in f.plies:
            ply = a.plies[p.ply]
            steel = shapely.Polygon()
            for b in whole[ply.owner]:
                body = manifold3d.Manifold(manifold3d.Mesh64(vert_properties=np.ascontiguousarray(at.to_local(b.mesh.points) - (0.0, 0.0, (p.enter + p.leave) / 2)), tri_verts=b.mesh.triangles.astype(np.uint64)))
                for ring in body.slice(0.0).to_polygons():
                    steel = steel.symmetric_difference(shapely.Polygon(ring).buffer(0)) if len(ring) > 2 else steel
            if "pressed" in ply.name or ply.element.startswith("cheek"):  # two walls that meet at its middle; a fork is made with its bore
                continue
            edge = steel.boundary.distance(spot) if steel.contains(spot) else -1.0
            least = 1.1 * size.d if a.rules == "AISC" else 1.2 * (size.d + 1.0)
            if edge < least - 0.6:
                yield f"{group.name}: {edge:.1f} mm to the edge of {ply.name}, {least:.1f} at least"
    for i, f in enumerate(a.fitted):
        axis, size = np.array(a.detail.bolts[f.group].axis), bolt_size(a.detail.bolts[f.group].size)
        for other in a.fitted[:i]:
            if abs(axis @ np.array(a.detail.bolts[other.group].axis)) > 0.999 and {p.ply for p in f.plies} & {p.ply for p in other.plies}:
                way = np.subtract(f.point, other.point)
                if (far := float(np.linalg.norm(way - axis * (way @ axis)))) < 2.2 * min(size.d, bolt_size(a.detail.bolts[other.group].size).d):
                    yield f"bolts {far:.1f} mm apart"


def drawn(site: Site, chance: random.Random) -> tuple[Made, str]:
    """A detail at a site, moved or not, with some settings drawn; raises what its family raises."""
    house, kind = inch_house("") if site.inch else HouseRules(), family(site.family)
    every = settings_by(site.family, chance.randrange(10**9))
    names = chance.sample(sorted(every), min(chance.choice((0, 1, 1, 2, 3, 6, 99)), len(every)))
    typed: dict[str, Any] = {**site.typed, **{n: every[n] for n in names}}
    members, how = nudged(site.members, chance) if chance.random() < 0.5 else (site.members, "as it is")
    case = site_case(Site(site.name, members, site.family, site.at, typed, site.inch))
    return Made(case, kind.detail(case, kind.checked(typed, house), house), house), f"{site.name} | {how} | { {n: every[n] for n in names} }"


def main() -> int:
    """Print what the proof did not say and the counts; exit code 1 if there was anything."""
    chance, number = random.Random(int(sys.argv[1]) if len(sys.argv) > 1 else 1), int(sys.argv[2]) if len(sys.argv) > 2 else 20
    wrong = 0
    for name in sys.argv[3:] or [f for f in FAMILIES if f != "left-plain"]:
        mine, counts = [s for s in SITES if s.family == name], Counter[str]()
        while counts["clear"] < number and counts["tried"] < number * TRIES:
            counts["tried"] += 1
            try:
                made, how = drawn(chance.choice(mine), chance)
                if any(f.level == "breach" for f in made.findings):
                    continue
            except (TinCleatError, AssertionError):  # refused in words, or no such joint any more
                continue
            counts["clear"] += 1
            found = list(unsaid(made.assembled))
            wrong += bool(found)
            if found:
                print(f"{name} | {how} | {'; '.join(found[:4])}", flush=True)
        print(f"{name:16} {counts['clear']} clear of {counts['tried']}", flush=True)
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
