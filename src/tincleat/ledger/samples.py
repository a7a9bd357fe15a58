"""What a family looks like in a project: how many places it might join, and its detail at one of them."""

from collections import Counter
from collections.abc import Iterator

import numpy as np
from msgspec.structs import replace

from tincleat.errors import TinCleatError
from tincleat.families.declare import Family
from tincleat.families.registry import FAMILIES
from tincleat.joints.case import Joint
from tincleat.ledger.entries import PLAIN
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.made import Made
from tincleat.project.entities import Typical
from tincleat.project.project import Project

TRIED = 12  # places of different steel that are tried before a family is shown without a picture


def open_places(ledger: Ledger) -> dict[str, int]:
    """How many open joints there are of each family's kinds; whether it suits each is not asked."""
    kinds: dict[str, int] = {}
    for e in ledger.entries.values():
        if not e.settled:
            kinds[e.joint.kind] = kinds.get(e.joint.kind, 0) + 1
    return {name: sum(kinds.get(k, 0) for k in f.kinds) for name, f in FAMILIES.items()}


def sample(ledger: Ledger, family: str, typical: Typical | None = None) -> Made | None:
    """A family's detail, or a typical's, at the first place that it suits: an open joint, a joined one, a crossing or the middle of a member; None
    where a dozen places of different steel were tried in vain."""
    kind = FAMILIES[family]
    tried: set[int] = set()
    for joint in () if family == PLAIN else _places(ledger, kind):
        if id(joint.case) in tried:
            continue
        if len(tried) == TRIED:
            break
        tried.add(id(joint.case))
        try:
            return ledger.make(joint, family, {}, typical=typical.id if typical else "")
        except TinCleatError:
            continue
    if typical is None:
        return next((e.made for e in ledger.entries.values() if e.connection is not None and e.connection.family == family and e.made is not None), None)
    return None


def example(family: str, typical: Typical | None = None) -> Made | None:
    """A family's detail, or a typical's, at the members of its own example, under standard house rules; None where it has none or does not suit it."""
    kind = FAMILIES[family]
    if kind.example is None:
        return None
    project, place = Project(), kind.example.place
    project.apply(project.put(*kind.example.members, *([typical] if typical else ())))
    ledger = Ledger(project)
    joint = ledger.site(replace(place, family=family))
    if joint is None:
        return None
    try:
        return ledger.make(joint, family, place.settings, typical=typical.id if typical else "")
    except TinCleatError:
        return None


def _places(ledger: Ledger, kind: Family) -> Iterator[Joint]:
    """Joints that a family might join, open ones before those that are joined and those of which there are most first; then places that are pointed at."""
    there = [e for e in ledger.entries.values() if e.joint.kind in kind.kinds and e.joint.ends]
    alike = Counter(id(e.joint.case) for e in there)
    yield from (e.joint for e in sorted(there, key=lambda e: (e.settled, e.joint.kind in kind.pointed, -alike[id(e.joint.case)])))
    finder = ledger.finder
    if "crossing" in kind.kinds:
        for over, under in finder.crossings():
            if (joint := finder.crossing(over, under)) is not None:
                yield joint
    if "station" in kind.kinds or "along" in kind.kinds:
        seen: set[str] = set()
        for key, member in ledger.project.members.items():
            if member.section in seen:
                continue
            seen.add(member.section)
            if (joint := finder.station(key, float(np.round(finder.lengths[key] / 2)), kind.name in finder.along)) is not None:
                yield joint
