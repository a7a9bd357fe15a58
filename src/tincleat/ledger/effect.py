"""What other house rules would do to a model, before they are kept: plates that change, connections that no longer fit, breaches that come and go."""

import contextlib
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from tincleat.catalogue.sections import STEEL_DENSITY
from tincleat.details.parts import Detail
from tincleat.errors import Progress, TinCleatError, go_on
from tincleat.ledger.entries import NO_CASE, Entry
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.made import bench_rules, prove_many
from tincleat.project.entities import HouseRules
from tincleat.proof.finding import Level
from tincleat.units import format_mass

EVERY = 20  # details made between two looks at whether to go on
MOST_NAMED = 3


@dataclass(frozen=True)
class Effect:
    """What changes, by key of the joint: connections, breaches and notes that come, breaches that go, connections that fit no longer; how many
    plates, and how much more they weigh (kg); how many more ends count as settled for being left plain."""

    connections: tuple[str, ...]
    plates: int
    breaches: tuple[str, ...]
    notes: tuple[str, ...]
    mended: tuple[str, ...]
    unfit: tuple[tuple[str, str], ...]
    mass: float
    plain: int = 0

    @property
    def nothing(self) -> bool:
        """Whether nothing that is placed changes."""
        return not (self.connections or self.breaches or self.notes or self.mended or self.unfit or self.plain)


def effect(ledger: Ledger, house: HouseRules, progress: Progress | None = None) -> Effect:
    """What other house rules would change in a model; raises Cancelled if ``progress`` says so.  Nothing is kept."""
    open_ = [e for e in ledger.entries.values() if e.connection is None]
    plain = sum(e.joint.kind in house.plain for e in open_) - sum(e.plain for e in open_)
    if bench_rules(house) == bench_rules(ledger.project.house):
        return Effect((), 0, (), (), (), (), 0.0, plain)
    _warm(ledger, house, progress)
    other = ledger.tried(house)
    connections, breaches, notes, mended, unfit = [], [], [], [], []
    plates, mass = 0, 0.0
    known: dict[tuple[int, int], tuple[int, float]] = {}  # what differs between two details, worked out once for all their uses
    for key, old in ledger.entries.items():
        new = other.entries[key]
        if old.connection is None:
            continue
        if new.problem and not old.problem:
            unfit.append((key, new.problem))
        if old.made is not None and new.made is not None and old.made is not new.made and old.made.detail is not new.made.detail:
            pair = (id(old.made), id(new.made))
            if pair not in known:
                known[pair] = _differ(old.made.detail, new.made.detail)
            count, more = known[pair]
            if count or old.made.detail.numbers != new.made.detail.numbers:
                connections.append(key)
            plates, mass = plates + count, mass + more
        if old.level == new.level == "clear":
            continue
        before, after = _at(old, "breach"), _at(new, "breach")
        if after - before:
            breaches.append(key)
        if _at(new, "note") - _at(old, "note") - before:
            notes.append(key)
        if before - after and not new.problem:
            mended.append(key)
    return Effect(tuple(connections), plates, tuple(breaches), tuple(notes), tuple(mended), tuple(unfit), mass, plain)


def _warm(ledger: Ledger, house: HouseRules, progress: Progress | None) -> None:
    """Make and prove every distinct detail under other house rules, so that what is slow can be followed and cancelled."""
    distinct = list({id(e.made): e for e in ledger.entries.values() if e.made is not None and e.connection is not None}.values())

    def tell(share: float, done: int, all_: int) -> None:
        go_on(progress, share, f"{done:,} of {all_:,} details", "trying the house rules was cancelled; nothing was changed")

    jobs, made = [], []
    for e in distinct:
        assert e.connection is not None
        with contextlib.suppress(TinCleatError):  # what does not fit is told where the connection is made for good
            jobs.append(ledger.asked(e.joint, e.connection.family, e.connection.settings, e.connection.typical))
    shared = ledger.workshop.make_many(jobs, house, True, lambda done, all_: tell(0.95 * done / all_, done, all_))
    for i, job in enumerate(jobs):
        if not shared and i % EVERY == 0:
            tell(0.3 * i / len(jobs), i, len(jobs))
        with contextlib.suppress(TinCleatError):
            made.append(ledger.workshop.make(*job, house))
    first = 0.95 if shared else 0.3
    prove_many(made, lambda done, all_: tell(first + (1 - first) * done / all_, done, all_))
    for i, one in enumerate(made):
        if not one.proved and i % EVERY == 0:
            tell(first + (1 - first) * i / len(made), i, len(made))
        _ = one.findings


def _at(entry: Entry, level: Level) -> Counter[str]:
    return Counter(f.key for f in entry.findings if f.level == level and f.rule != NO_CASE)


def _differ(old: Detail, new: Detail) -> tuple[int, float]:
    """How many flat and bent plates of a detail are other ones, and by how much (kg) all of them are heavier."""

    def keys(d: Detail) -> Counter[object]:
        return Counter([*((p.name, p.thickness, p.grade, p.outline, p.holes) for p in d.plates), *((b.name, b.thickness, b.radius, b.flats, b.turns) for b in d.bents)])

    a, b = keys(old), keys(new)
    before, after = (sum(p.volume for p in d.plates) + sum(b.volume for b in d.bents) for d in (old, new))
    return max((b - a).total(), (a - b).total()), (after - before) * STEEL_DENSITY


def in_words(found: Effect, places: Callable[[str], str], unit: str = "mm") -> list[str]:
    """An effect in lines, the gravest first; ``places`` says where a joint is."""
    if found.nothing:
        return ["Nothing that is placed changes."]
    out = []
    if found.unfit:
        key, why = found.unfit[0]
        out.append(f"{_count(found.unfit, 'connection')} would not fit any more, first {places(key)}: {why}")
    if found.breaches:
        out.append(f"{_count(found.breaches, 'connection')} would come into breach: " + _named(found.breaches, places))
    if found.notes:
        out.append(f"{_count(found.notes, 'connection')} would get a note: " + _named(found.notes, places))
    if found.mended:
        out.append(f"{_count(found.mended, 'connection')} would lose a breach: " + _named(found.mended, places))
    if found.connections:
        sizes = f"{_count(range(found.plates), 'plate')} change" + ("s" if found.plates == 1 else "") if found.plates else "no plate changes"
        weight = f", all together {format_mass(abs(found.mass), unit)} {'heavier' if found.mass > 0 else 'lighter'}" if abs(found.mass) >= 0.05 else ""
        out.append(f"{_count(found.connections, 'connection')} would differ: {sizes}{weight}")
    if found.plain:
        out.append(f"{_count(range(abs(found.plain)), 'end')} would " + ("count as settled, left plain" if found.plain > 0 else "be open again"))
    return out


def _count(some: Sequence[object], one: str) -> str:
    return f"{len(some):,} {one}{'' if len(some) == 1 else 's'}"


def _named(keys: Sequence[str], places: Callable[[str], str]) -> str:
    groups = Counter(places(k) for k in keys).most_common()
    more = len(groups) - MOST_NAMED
    return "; ".join(f"{n:,} × {words}" if n > 1 else words for words, n in groups[:MOST_NAMED]) + (f" and {more:,} other joint{'s' if more > 1 else ''}" if more > 0 else "")
