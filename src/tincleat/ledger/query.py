"""Members picked by what they are: ``role:beam size:UB* level:+4200 end:open joined:fin-plate``.

Words are parted by spaces and all must hold; a comma gives a choice (``role:beam,joist``), a leading ``-`` turns one
round, ``*`` stands for anything.  Lengths are in the project's unit.  A bare word is looked for in name, section and role.
"""

import fnmatch
import operator
import re
import shlex
from collections.abc import Callable

from tincleat.errors import BadValue
from tincleat.joints.case import MEETING
from tincleat.ledger.entries import Entry
from tincleat.ledger.ledger import Ledger
from tincleat.project.entities import Member
from tincleat.project.members import length
from tincleat.project.places import elevation
from tincleat.units import parse_length

Test = Callable[[Member], bool]
LEVEL_NEAR = 100.0  # mm a member's ends may lie off a level and still count as at it
SAME = 1.0  # mm within which a coordinate or length counts as equal
KEYS = {
    "role": "column, beam, rafter, purlin, girt, brace, joist, post, other",
    "size": "a section, such as UB* or IPE300",
    "grade": "a grade, such as S355",
    "name": "a member's name",
    "id": "a member's id",
    "level": "a level's name or an elevation; the member lies at it, or stands on it",
    "end": "open (an end not joined), joined, plain (left so), apart (an end that meets nothing)",
    "joined": "a family, such as fin-plate; at either end",
    "start": "a family at the start",
    "finish": "a family at the end",
    "breach": "yes or no",
    "run": "yes, no, or a run's id",
    "length": "a length with <, > or =, such as length:>12000",
    "x": "every point's x, with <, > or =",
    "y": "every point's y, with <, > or =",
    "z": "every point's z, with <, > or =",
}


def members_like(ledger: Ledger, text: str) -> list[str]:
    """Ids of the members a query picks, in the order of the model; raises BadValue naming the word that cannot be read."""
    try:
        words = shlex.split(text)
    except ValueError:
        raise BadValue(f"a quote is not closed in {text!r}", "query", 'such as level:"office floor"') from None
    if not words:
        raise BadValue("the query is empty", "query", "such as role:beam size:UB*")
    found = list(ledger.project.members.values())
    for word in words:
        test = _word(ledger, word)
        found = [m for m in found if test(m)]
    return [m.id for m in found]


def _word(ledger: Ledger, word: str) -> Test:
    if word.startswith("-") and len(word) > 1:
        inner = _word(ledger, word[1:])
        return lambda m: not inner(m)
    key, colon, value = word.partition(":")
    if not colon:
        text = word.lower()
        return lambda m: text in m.name.lower() or text in m.section.lower() or text in m.role
    if key not in KEYS:
        raise BadValue(f"members have no {key!r}", "query", "one of " + ", ".join(KEYS))
    choices = [_one(ledger, key, v) for v in value.split(",") if v]
    if not choices:
        raise BadValue(f"{key}: says nothing", "query", KEYS[key])
    return choices[0] if len(choices) == 1 else lambda m: any(test(m) for test in choices)


def _one(ledger: Ledger, key: str, value: str) -> Test:
    if key in ("role", "grade", "name", "id", "size"):
        pattern = re.compile(fnmatch.translate(_plain(value)))
        field = operator.attrgetter({"size": "section"}.get(key, key))
        # of thousands of members few differ in these: each value is looked at once
        good = {v for v in set(map(field, ledger.project.members.values())) if pattern.match(_plain(v))}
        return lambda m: field(m) in good
    if key == "level":
        high = elevation(ledger.project, value)
        return lambda m: abs(m.start[2] - high) <= LEVEL_NEAR or abs(m.end[2] - high) <= LEVEL_NEAR
    if key in ("length", "x", "y", "z"):
        return _measured(ledger, key, value)
    if key == "run":
        return lambda m: (bool(m.run) == (value == "yes")) if value in ("yes", "no") else m.run.partition(":")[0] == value
    return _joined(ledger, key, value)


def _plain(text: str) -> str:
    return text.lower().replace(" ", "")


def _measured(ledger: Ledger, key: str, value: str) -> Test:
    sense, number = (value[0], value[1:]) if value[0] in "<>=" else ("=", value)
    limit = parse_length(number, ledger.project.house.units)

    def holds(v: float) -> bool:
        return v < limit - 1e-6 if sense == "<" else v > limit + 1e-6 if sense == ">" else abs(v - limit) <= SAME

    if key == "length":
        return lambda m: holds(length(m))
    axis = "xyz".index(key)
    # of an interval both ends may touch the limit, as frames end where bays do
    return lambda m: (
        all(holds(p[axis]) or (sense != "=" and abs(p[axis] - limit) <= SAME) for p in (m.start, m.end)) and holds((m.start[axis] + m.end[axis]) / 2)
    )


def _joined(ledger: Ledger, key: str, value: str) -> Test:
    named = {f for f in {c.family for c in ledger.project.connections.values()} if fnmatch.fnmatch(f, value)}
    entries: dict[str, Callable[[Entry], bool]] = {
        "open": lambda e: not e.settled, "joined": lambda e: e.connection is not None and not e.left_plain, "plain": lambda e: e.left_plain, "apart": lambda e: e.joint.kind in MEETING,
        "breach": lambda e: e.level == "breach", "family": lambda e: e.connection is not None and e.connection.family in named,
    }  # fmt: skip
    if key == "end" and value not in ("open", "joined", "plain", "apart"):
        raise BadValue(f"end:{value} is not known", "query", KEYS["end"])
    holds = entries[value if key == "end" else "breach" if key == "breach" else "family"]
    side = {"start": "start", "finish": "end"}.get(key, "")
    # asked of every joint once, not of every member
    good = {member for e in ledger.entries.values() if holds(e) for member, end in e.joint.ends if not side or end == side}
    return (lambda m: m.id not in good) if key == "breach" and value == "no" else (lambda m: m.id in good)
