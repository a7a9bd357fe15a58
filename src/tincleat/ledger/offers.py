"""What could join an open joint: families and typicals that suit it, each built there, with figures to choose by; and why the others do not."""

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass

import msgspec

from tincleat.catalogue.sections import STEEL_DENSITY
from tincleat.errors import TinCleatError
from tincleat.families.declare import show
from tincleat.families.registry import FAMILIES, families_for
from tincleat.joints.case import Joint
from tincleat.lazy import lazy
from tincleat.ledger.entries import PLAIN
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.made import Made
from tincleat.ledger.meet import rank
from tincleat.project.entities import Connection, Typical, Value
from tincleat.proof.welds import length


@dataclass(frozen=True)
class Offer:
    """A family, or a typical of it, at one joint: what it makes there, or why it does not suit."""

    family: str
    typical: Typical | None
    made: Made | None
    why: str
    used: int  # how often this family joins such a kind of joint in the project
    aside: bool = False  # whether it takes such joints only where it is pointed at
    last: Connection | None = None  # the one whose typed settings it takes over: the last of its family at such a joint

    @property
    def settings(self) -> dict[str, Value]:
        """What would be typed of it."""
        return dict(self.last.settings) if self.last is not None else {}

    @property
    def words(self) -> str:
        """What it is called."""
        return FAMILIES[self.family].label + (f": {self.typical.name}" if self.typical else "") + (", as last" if self.last else "")

    @property
    def breaches(self) -> int:
        """Breaches that it would have by itself."""
        return self.made.counts["breach"] if self.made is not None else 0

    @lazy
    def figures(self) -> "Figures":
        """What it takes."""
        assert self.made is not None
        d = self.made.detail
        steel = sum(p.volume for p in d.plates) + sum(b.volume for b in d.bents) + sum(p.volume for p in d.pieces) + sum(f.volume for f in d.fittings)
        runs = [(length(w), w.leg, w.site) for w in d.welds]
        weld = sum(run * leg * leg / 2 for run, leg, _ in runs)
        bolts = Counter({g.size: 0 for g in d.bolts})
        for g in d.bolts:
            bolts[g.size] += len(g.points)
        return Figures(
            steel * STEEL_DENSITY, tuple(bolts.items()), len(d.rods) + len(d.ties), sum(run for run, _, _ in runs), weld * STEEL_DENSITY,
            sum(len(g.points) for g in d.bolts if g.site), sum(run for run, _, site in runs if site),
        )  # fmt: skip

    @property
    def rank(self) -> tuple[bool, bool, int, int, bool]:
        """Its place among others: clear before in breach, what is usual there, then what the office uses most at such joints, as it was
        last typed before as it comes; leaving plain comes last."""
        return (self.breaches > 0 or self.family == PLAIN, self.aside and not self.used, self.breaches if self.family != PLAIN else 10**6, -self.used, self.last is None)

    def typed_words(self, unit: str) -> str:
        """The settings that it takes over, in words; empty if none."""
        kind = FAMILIES[self.family]
        return ", ".join(f"{s.label.lower()} {show(s, v, unit)}" for n, v in self.settings.items() for s in (kind.setting(n),))


@dataclass(frozen=True)
class Figures:
    """Steel in kg, bolts by size, rods, weld length in mm and its mass in kg; bolts and weld length of those made on site."""

    mass: float
    bolts: tuple[tuple[str, int], ...]
    rods: int
    weld_length: float
    weld_mass: float
    site_bolts: int
    site_weld: float


def last_typed(ledger: Ledger, kind: str) -> dict[str, Connection]:
    """By family the connection that was typed last, without a typical, at a joint of some kind: what is typed there is likely wanted again."""
    last: dict[str, Connection] = {}
    for e in ledger.entries.values():
        c = e.connection
        if c is not None and c.settings and not c.typical and e.joint.kind == kind and (c.family not in last or rank(c) > rank(last[c.family])):
            last[c.family] = c
    return last


def offers(ledger: Ledger, joint: Joint) -> Iterator[Offer]:
    """Every family of a joint's kind and every typical of those, one by one, the most used first: each is built as it is asked for."""
    used: Counter[str] = Counter(e.connection.family for e in ledger.entries.values() if e.connection is not None and e.joint.kind == joint.kind)
    last = last_typed(ledger, joint.kind)
    typicals: dict[str, list[Typical]] = {}
    for t in ledger.project.typicals.values():
        typicals.setdefault(t.family, []).append(t)
    for kind in sorted(families_for(joint.kind), key=lambda f: (f.name == PLAIN, -used[f.name])):
        plain: Made | None = None
        plainly = ""  # why not, as the family comes
        for typical in (None, *sorted(typicals.get(kind.name, []), key=lambda t: (not t.favourite, t.name))):
            made, why = None, ""
            try:
                made = ledger.make(joint, kind.name, {}, typical=typical.id if typical else "")
            except TinCleatError as error:
                why = str(error)
            plain, plainly = (made, why) if typical is None else (plain, plainly)
            yield Offer(kind.name, typical, made, why, used[kind.name], joint.kind in kind.pointed)
        if (one := last.get(kind.name)) is not None:
            again, why = None, ""
            try:
                again = ledger.make(joint, kind.name, one.settings)
            except TinCleatError as error:  # what was right for the last one need not be for this
                why = str(error)
            new = why != plainly if again is None else plain is None or msgspec.structs.replace(again.detail, numbers=()) != msgspec.structs.replace(plain.detail, numbers=())
            if new:
                yield Offer(kind.name, None, again, why, used[kind.name], joint.kind in kind.pointed, one)
