"""Families on sections drawn at random from the whole catalogue, with default settings: what is refused, what is in breach, what fails.

``any_sections.py [SEED] [NUMBER] [WORD...]``: NUMBER places a family, of those only whose name has one of the words.  A refusal in words is well; a failure is not; every rule that is broken is
printed with up to three places, to be looked at: either an awkward place, or a default that could be better.
"""

import math
import random
import sys
from collections import Counter, defaultdict
from collections.abc import Callable
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests"))

from sites import Site, beam, brace, column, girder, lapping, over, rafter, spliced
from sites_feet import lying, stringer
from test_settings import site_case

from tincleat.catalogue.sections import catalogue
from tincleat.errors import TinCleatError
from tincleat.families.registry import family
from tincleat.ledger.made import Made
from tincleat.project.entities import HouseRules, inch_house

Place = tuple[list[dict[str, Any]], tuple[tuple[int, str], ...]]
Pick = Callable[[str, float, float], str]
TYPED: dict[str, dict[str, Any]] = {"bracing-gusset pressed flat": {"tube_end": "flattened"}}  # what is typed at a place


def american(name: str) -> bool:
    """Whether a section is of the inch system."""
    return "X" in name and name.startswith(("W", "HSS", "S", "C", "MC", "M", "HP", "L"))


def places(chance: random.Random, pick: Pick) -> dict[str, Callable[[], Place]]:
    """For each family a place of its own kind, its sections drawn anew each time."""
    turn = lambda: chance.choice([0.0, 90.0])  # noqa: E731

    def splice() -> Place:
        one, upright = pick("I", 150, 800), chance.random() < 0.4
        return spliced(one, one, upright), ((1 if upright else 0, "start"),)

    def tubes() -> Place:
        one = pick(chance.choice(["RHS", "CHS"]), 60, 500)
        return spliced(one, one), ((0, "start"),)

    def purlin() -> Place:
        one, under = pick("C", 120, 260), pick("I", 200, 600)
        z = 3000 + catalogue()[under].h / 2
        return [girder(under), {"section": one, "role": "purlin", "start": [0, -4000, z], "end": [0, 4000, z], "cardinal": "bottom"}], ((1, "over 0"),)

    def lap() -> Place:
        t, h, f = chance.choice([1.2, 1.5, 1.8, 2.0, 2.5, 3.0]), chance.choice([140, 150, 175, 200, 225, 250, 300]), chance.randint(50, 90)
        name = f"Z {h}x{f}/{f - chance.randint(math.ceil(2 * t), 12)}x{chance.randint(math.ceil(3.5 * t), 25)}x{t:g}"
        return lapping(name, float(chance.randint(150, 900)), chance.choice([0.0, 5.0, 15.0])), ((1, "end"),)

    return {
        "purlin-cleat lapped": lap,
        "bracing-gusset pressed flat": lambda: ([column(pick("I", 180, 400), turn()), brace(pick("CHS", 33, 200), chance.choice([30, 40, 50, 60]), roll=chance.uniform(0, 90))], ((1, "start"),)),
        "base-plate": lambda: ([column(pick(chance.choice(["I", "I", "RHS", "CHS"]), 100, 450))], ((0, "start"),)),
        "fin-plate": lambda: ([column(pick("I", 180, 450), turn()), beam(pick("I", 150, 600), chance.choice([0, 0, 20]))], ((1, "end"),)),
        "fin-plate on a girder": lambda: ([girder(pick(chance.choice(["I", "C"]), 300, 900)), beam(pick("I", 150, 600), 90, 0, chance.choice([0, 0, 40]))], ((1, "end"),)),
        "angle-cleats": lambda: ([girder(pick("I", 400, 900)), beam(pick("I", 150, 390), 90)], ((1, "end"),)),
        "angle-cleats on a column": lambda: ([column(pick("I", 180, 450), turn()), beam(pick("I", 150, 600))], ((1, "end"),)),
        "end-plate": lambda: ([column(pick("I", 200, 450)), beam(pick("I", 150, 600))], ((1, "end"),)),
        "end-plate on a web": lambda: ([column(pick("I", 200, 450), 90.0), beam(pick("I", 150, 600))], ((1, "end"),)),
        "end-plate at a knee": lambda: ([column(pick("I", 200, 600)), rafter(pick("I", 200, 600), chance.choice([5, 10, 15]))], ((1, "start"),)),
        "welded-moment": lambda: ([column(pick("I", 200, 450)), beam(pick("I", 200, 600))], ((1, "end"),)),
        "tube-end-plate": lambda: ([column(pick("I", 180, 600), turn()), beam(pick(chance.choice(["RHS", "CHS"]), 50, 250))], ((1, "end"),)),
        "tube-joint": lambda: ([column(pick("CHS", 120, 400)), brace(pick("CHS", 50, 119), chance.choice([35, 45, 60]))], ((1, "start"),)),
        "cap-and-base": lambda: (spliced(pick("I", 150, 500), pick(chance.choice(["I", "I", "RHS"]), 150, 300), True), ((1, "start"),)),
        "wall-bearing": lambda: ([lying(pick(chance.choice(["I", "C"]), 100, 600))], ((0, "start"),)),
        "stringer-foot": lambda: ([stringer(pick(chance.choice(["C", "I"]), 150, 350), chance.choice([25, 35, 45]))], ((0, "start"),)),
        "base-plate leaning": lambda: ([{**column(pick(chance.choice(["I", "RHS", "CHS"]), 100, 400)), "end": [350, chance.choice([0, -250]), 4000]}], ((0, "start"),)),
        "cap-plate under a slope": lambda: ([{**column(pick("I", 100, 350), turn()), "end": [0, 0, 5000]}, {"section": pick("I", 250, 600), "role": "rafter", "start": [-4000, 0, 4500], "end": [4000, 0, 5500]}], ((0, "end"),)),
        "purlin-cleat": purlin,
        "seat-cleat": lambda: ([column(pick("I", 180, 450), turn()), beam(pick("I", 150, 500))], ((1, "end"),)),
        "cap-plate": lambda: ([{**column(pick(chance.choice(["I", "I", "RHS", "CHS"]), 100, 400), turn()), "end": [0, 0, 3000]}, over(pick("I", 200, 700))], ((0, "end"),)),
        "bracing-gusset": lambda: ([column(pick("I", 180, 400), turn()), brace(pick(chance.choice(["L", "RHS", "CHS", "C"]), 50, 250), chance.choice([30, 40, 50, 60]))], ((1, "start"),)),
        "splice-covers": splice, "flange-plates": tubes,
        "stiffeners": lambda: ([girder(pick("I", 150, 900))], ((0, "@2500"),)), "web-opening": lambda: ([girder(pick("I", 150, 900))], ((0, "@2500"),)),
    }  # fmt: skip


def main() -> int:
    """Print a line of counts a family, and the broken rules; exit code 1 if anything failed otherwise than in words."""
    chance = random.Random(int(sys.argv[1]) if len(sys.argv) > 1 else 1)
    number = int(sys.argv[2]) if len(sys.argv) > 2 else 100
    shelf: dict[tuple[str, bool], list[str]] = defaultdict(list)
    for name, s in catalogue().items():
        if s.b >= 50:
            shelf[s.shape, american(name)].append(name)
    failed = 0
    inch = False

    def pick(shape: str, low: float, high: float) -> str:
        return chance.choice([n for n in shelf[shape, inch] if low <= catalogue()[n].h <= high])

    words_of = sys.argv[3:]
    for name, place in places(chance, pick).items():
        if words_of and not any(w in name for w in words_of):
            continue
        counts: Counter[str] = Counter()
        kind = name.split(" ")[0]
        shown: dict[str, list[str]] = defaultdict(list)
        for _ in range(number):
            inch = chance.random() < 0.4
            members, at = place()
            words = " + ".join(m["section"] for m in members)
            house = inch_house("") if inch else HouseRules()
            try:
                case = site_case(Site("", members, kind, at))
                bad = {f.rule for f in Made(case, family(kind).detail(case, family(kind).checked(TYPED.get(name, {}), house), house), house).findings if f.level == "breach"}
            except TinCleatError:
                counts["refused"] += 1
                continue
            except Exception as error:  # to be counted and shown
                counts["FAILED"] += 1
                shown[f"FAILED {error!r:.80}"].append(words)
                failed += 1
                continue
            counts["in breach" if bad else "clear"] += 1
            for rule in bad:
                shown[rule].append(words)
        print(f"{name}: " + ", ".join(f"{n} {k}" for k, n in counts.most_common()), flush=True)
        for rule, where in shown.items():
            print(f"    {len(where)} {rule}: " + "; ".join(where[:3]))
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
