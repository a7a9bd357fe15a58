"""Every site of the tests a little otherwise than it was thought out: members moved, tilted and rolled at random, their sizes another of their kind.

``nudged.py [SEED] [NUMBER] [WORD...]``: NUMBER times each site, of those only whose family or name has one of the words.  A refusal in words is well, and so is what is
in breach as drawn; what is printed is what a place that was clear became: a rule broken by default, to be looked at, or a failure that is not told in words.
"""

import copy
import math
import random
import sys
from collections import Counter, defaultdict
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests"))

from sites import SITES, Site
from test_settings import site_case

from tincleat.catalogue.sections import catalogue
from tincleat.errors import TinCleatError
from tincleat.families.registry import family
from tincleat.ledger.made import Made
from tincleat.project.entities import HouseRules, inch_house

Members = list[dict[str, Any]]


def nudged(members: Members, chance: random.Random) -> tuple[Members, str]:
    """One member changed in one way, and that in words."""
    out = copy.deepcopy(members)
    i = chance.randrange(len(out))
    m = out[i]
    how = chance.choice(("up", "aside", "along", "tilt", "roll", "size", "size"))
    if how == "size" and m["section"] in catalogue():
        mine = catalogue()[m["section"]]
        like = [n for n, s in catalogue().items() if s.shape == mine.shape and 0.6 * mine.h <= s.h <= 1.6 * mine.h and ("X" in n) == ("X" in m["section"])]
        m["section"] = chance.choice(like)
        return out, f"{i} a {m['section']}"
    if how == "roll":
        turn = chance.choice((90.0, 180.0, chance.uniform(-12.0, 12.0)))
        m["roll_deg"] = m.get("roll_deg", 0.0) + turn
        return out, f"{i} rolled {turn:.1f}"
    if how == "tilt":
        end, axis, far = chance.choice(("start", "end")), chance.randrange(3), chance.uniform(-1.0, 1.0)
        far *= math.dist(m["start"], m["end"]) * math.tan(math.radians(12.0))
        m[end] = [c + (far if k == axis else 0.0) for k, c in enumerate(m[end])]
        return out, f"{i}.{end} moved {'xyz'[axis]} {far:.0f}"
    axis = {"up": 2, "aside": 1, "along": 0}.get(how, 2)
    far = chance.uniform(-1.0, 1.0) * chance.choice((10.0, 40.0, 120.0))
    for end in ("start", "end"):
        m[end] = [c + (far if k == axis else 0.0) for k, c in enumerate(m[end])]
    return out, f"{i} moved {'xyz'[axis]} {far:.0f}"


def broken(site: Site, members: Members) -> set[str] | None:
    """The rules a site breaks; None where it is refused in words."""
    house = inch_house("") if site.inch else HouseRules()
    try:
        case = site_case(Site(site.name, members, site.family, site.at, site.typed, site.inch))
        kind = family(site.family)
        return {f.rule for f in Made(case, kind.detail(case, kind.checked(dict(site.typed), house), house), house).findings if f.level == "breach"}
    except (TinCleatError, AssertionError):
        return None


def main() -> int:
    """Print a line of counts a family and what broke; exit code 1 if anything failed otherwise than in words."""
    chance = random.Random(int(sys.argv[1]) if len(sys.argv) > 1 else 1)
    number = int(sys.argv[2]) if len(sys.argv) > 2 else 1
    words = sys.argv[3:]
    counts: dict[str, Counter[str]] = defaultdict(Counter)
    shown: dict[str, dict[str, list[str]]] = defaultdict(lambda: defaultdict(list))
    failed = 0
    for site in SITES:
        if words and not any(w in f"{site.family} {site.name}" for w in words):
            continue
        usual = broken(site, site.members)
        for _ in range(number):
            members, what = nudged(site.members, chance)
            try:
                bad = broken(site, members)
            except Exception as error:  # to be counted and shown
                failed += 1
                shown[site.family][f"FAILED {error!r:.90}"].append(f"{site.name}: {what}")
                counts[site.family]["FAILED"] += 1
                continue
            counts[site.family]["refused" if bad is None else "in breach" if bad else "clear"] += 1
            for rule in (bad or set()) - (usual or set()):
                shown[site.family][rule].append(f"{site.name}: {what}")
    for name, some in counts.items():
        print(f"{name}: " + ", ".join(f"{n} {k}" for k, n in some.most_common()), flush=True)
        for rule, where in shown[name].items():
            print(f"    {len(where)} {rule}: " + "; ".join(where[:5]))
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
