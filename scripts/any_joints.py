"""Every family that fits at every joint of a frame, with default settings: what fails, what is in breach, what shares steel with what.

``any_joints.py [SEED] [NUMBER]`` draws NUMBER small frames at random: columns and girders of any section that stop near what meets
them or go on, beams at any level, skewed, sloping, rolled, drawn either way, in both unit systems.  ``any_joints.py --demo NAME``
takes the joints of a demo instead.  A refusal in words is well; a failure is not; overlaps are worked out by the solids library from
the bodies themselves.  Each pair of family and rule is printed with up to two places, to be looked at.
"""

import math
import random
import sys
import tempfile
from collections import Counter, defaultdict
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests"))

from any_sections import american
from test_matrix import SHARED, shared

from tincleat.catalogue.sections import catalogue
from tincleat.commands.desk import Desk
from tincleat.demo.registry import DEMOS, make_demo
from tincleat.details.bodies import bodies
from tincleat.errors import Fault, TinCleatError
from tincleat.families.registry import families_for
from tincleat.project.entities import HouseRules, inch_house

REACH = 1500.0  # mm of the members that are looked at


def pick(chance: random.Random, shapes: str, inch: bool, low: float, high: float) -> str:
    """A section of one of some shapes and a depth (mm) of a system of sizes."""
    some: dict[str, list[str]] = defaultdict(list)
    for name, s in catalogue().items():
        if american(name) is inch and low <= s.h <= high:
            some[s.shape].append(name)
    return chance.choice(some[chance.choice([s for s in shapes.split() if some[s]])])


def frame(chance: random.Random, inch: bool) -> tuple[list[dict[str, Any]], str]:
    """One or two beams at a column or a girder, and words for how they meet."""
    kind = chance.choice(["column", "column", "girder", "girder", "corner", "hanger"])
    support = pick(chance, "I C RHS" if kind == "girder" else "I I RHS CHS", inch, 150, 600)
    beam = pick(chance, "I I I C RHS CHS", inch, 100, 500)
    skew, slope, dz = chance.choice([0, 0, 0, 0, 10, -25, 40]), chance.choice([0, 0, 0, 0, 8, -15]), chance.choice([0, 0, 20, -35, 75])
    roll, top = chance.choice([0, 90, 180, 270]), chance.choice([6000.0, 6000.0, 3000.0 + round(chance.uniform(100, 400))])
    a, t = math.radians(skew + (90 if kind == "girder" else 0)), math.radians(slope)
    far, near = [4000 * math.cos(a) * math.cos(t), 4000 * math.sin(a) * math.cos(t), 3000 + dz + 4000 * math.sin(t)], [0, 0, 3000 + dz]
    if kind == "girder":
        members = [{"section": support, "role": "beam", "start": [-4000, 0, 3000], "end": [4000, 0, 3000], "roll_deg": roll // 180 * 180}]
    else:
        members = [{"section": support, "role": "column", "start": [0, 0, 2500 if kind == "hanger" else 0], "end": [0, 0, top], "roll_deg": roll}]
    flipped = chance.random() < 0.5
    members.append({"section": beam, "role": "beam", "start": near if flipped else far, "end": far if flipped else near})
    if kind == "corner":
        members.append({"section": beam, "role": "beam", "start": [0, 4000, 3000 + dz], "end": near})
    return members, f"{kind} to {top:g}, skew {skew}, slope {slope}, {dz:+} high, roll {roll}"


def look(desk: Desk, words: str, found: "Counter[tuple[str, str]]", made: "Counter[str]", crowded: bool) -> None:
    """Place every family that fits at each kin of a project, and print what is wrong."""
    seen = set()
    for entry in list(desk.ledger.entries.values()):
        joint = entry.joint
        if (joint.kind, joint.case) in seen:
            continue
        seen.add((joint.kind, joint.case))
        for family in families_for(joint.kind):
            if family.name == "left-plain":
                continue
            try:
                one = desk.ledger.make(joint, family.name, {})
            except Fault as error:  # a family's own mistake is no refusal
                made["FAILED"] += 1
                print("FAILED", joint.words, family.name, error)
                continue
            except TinCleatError:
                made["refused"] += 1
                continue
            made[family.name] += 1
            wrong: dict[str, Any] = {}
            for f in one.findings:
                if f.level == "breach":
                    wrong.setdefault(f.rule, (f.part, round(f.actual, 1), round(f.required, 1)))
            if "clash" not in wrong:
                solids = list(bodies(one.assembled, 8, drilled=True, reach=REACH))
                for a, b, volume in shared(solids):
                    if volume > SHARED and not (crowded and a.startswith("member") and b.startswith("member")):
                        wrong.setdefault("steel shared", (a, b, round(volume, 1)))
            for rule, what in wrong.items():
                found[family.name, rule] += 1
                if found[family.name, rule] <= 2:
                    print(f"{family.name}, {rule}: {joint.words}, {words}: {what}", flush=True)


def frames(seed: int, number: int) -> Iterator[tuple[Desk, str, bool]]:
    """Projects of one small frame each, with words for it and whether members of it may share steel away from a joint."""
    chance = random.Random(seed)
    with tempfile.TemporaryDirectory() as folder:
        for i in range(number):
            inch = chance.random() < 0.4
            members, words = frame(chance, inch)
            desk = Desk.create(Path(folder) / f"{i}.tincleat", inch_house("") if inch else HouseRules())
            desk.run("add-members", members=members)
            yield desk, words, len(members) > 2
            desk.close()


def main(argv: list[str]) -> int:
    """Look at frames or a demo; 1 if anything failed that is no refusal in words (it is shown as it comes)."""
    found: Counter[tuple[str, str]] = Counter()
    made: Counter[str] = Counter()
    each: Callable[[Desk, str, bool], None] = lambda desk, words, crowded: look(desk, words, found, made, crowded)  # noqa: E731
    if argv == ["--demo"]:
        print(f"--demo takes a name: one of {', '.join(DEMOS)}", file=sys.stderr)
        return 2
    if argv[:1] == ["--demo"]:
        with tempfile.TemporaryDirectory() as folder:
            desk = make_demo(argv[1], Path(folder) / "demo.tincleat")
            each(desk, argv[1], True)
            desk.close()
    else:
        for desk, words, crowded in frames(int(argv[0]) if argv else 1, int(argv[1]) if len(argv) > 1 else 100):
            each(desk, words, crowded)
    print(f"{sum(made.values()) - made['refused']} details of {len(made) - ('refused' in made)} families, {made['refused']} refused in words")
    for (family, rule), count in sorted(found.items()):
        print(f"  {family}, {rule}: {count} of {made[family]}")
    return 1 if made["FAILED"] else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
