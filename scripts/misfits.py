"""Every site of the tests a little out of true: each member 0.7 mm aside, 0.3 degrees rolled, 7 in 1000 off its line, one at a time, default settings.

``misfits.py [WORD...]``, of the families or sites whose name has one of the words.  Frames come in like this from elsewhere.  What shares steel, has welds
in the air or bolts without steel is printed, a line each, and at the end how many places were looked at; exit code 1 if anything was.
"""

import math
import sys
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests"))

from sites import SITES, Site
from test_settings import site_case

from tincleat.errors import TinCleatError
from tincleat.families.registry import family
from tincleat.ledger.made import Made
from tincleat.project.entities import HouseRules, inch_house

ASIDE, ROLL, LEAN = 0.7, 0.3, 0.007  # mm, degrees, for each mm of length
ASKED = ("clash", "weld-gap", "bolt-plies", "bolt-hole")
Members = list[dict[str, Any]]


def misfits(site: Site) -> Iterator[tuple[Members, str]]:
    """The site's members with one of them out of true, and how in words."""
    for number, m in enumerate(site.members):
        joined = next((end for k, end in site.at if k == number), "")
        ends = {"start": ("end",), "end": ("start",)}.get(joined, ("end",))
        for how in ("roll", *((deed, axis) for deed in ("aside", "lean") for axis in range(3))):
            one = {**m}
            if how == "roll":
                one["roll_deg"] = m.get("roll_deg", 0.0) + ROLL
            else:
                deed, axis = how
                for end in ("start", "end") if deed == "aside" else ends:
                    far = ASIDE if deed == "aside" else LEAN * math.dist(m["start"], m["end"])
                    one[end] = [v + far * (k == axis) for k, v in enumerate(m[end])]
            words = how if isinstance(how, str) else f"{how[0]} {'xyz'[how[1]]}"
            yield [one if k == number else {**x} for k, x in enumerate(site.members)], f"{number} {words}"


def main() -> int:
    """Print what is wrong and the counts; exit code 1 if anything is."""
    words = sys.argv[1:]
    looked, wrong = 0, Counter[str]()
    for site in (s for s in SITES if s.family != "loose" and (not words or any(w in s.family or w in s.name for w in words))):
        house, kind = inch_house("") if site.inch else HouseRules(), family(site.family)
        for members, how in misfits(site):
            try:
                case = site_case(Site(site.name, members, site.family, site.at, site.typed, site.inch))
                findings = Made(case, kind.detail(case, kind.checked(dict(site.typed), house), house), house).findings
            except (TinCleatError, AssertionError):  # refused in words, or no such joint any more
                continue
            looked += 1
            bad = [(f.rule, f.part, round(f.actual, 1)) for f in findings if f.level == "breach" and f.rule in ASKED and f.rule not in site.breaks]
            if bad:
                wrong[site.family] += 1
                print(f"{site.family} | {site.name} | {how} | {bad[:3]}", flush=True)
    print(f"{looked} places, of which wrong: {dict(wrong) or 'none'}")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
