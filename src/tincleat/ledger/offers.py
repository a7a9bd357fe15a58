"""What could join an open joint: families and typicals that suit it, each built there, with figures to choose by; and why the others do not."""

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

from tincleat.catalogue.sections import STEEL_DENSITY
from tincleat.errors import TinCleatError
from tincleat.families.registry import FAMILIES, families_for
from tincleat.joints.case import Joint
from tincleat.ledger.entries import PLAIN
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.made import Made
from tincleat.project.entities import Typical
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

    @property
    def words(self) -> str:
        """What it is called."""
        return FAMILIES[self.family].label + (f": {self.typical.name}" if self.typical else "")

    @property
    def breaches(self) -> int:
        """Breaches that it would have by itself."""
        return self.made.counts["breach"] if self.made is not None else 0

    @cached_property
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
    def rank(self) -> tuple[bool, bool, int, int]:
        """Its place among others: clear before in breach, what is usual there, then what the office uses most at such joints; leaving plain comes last."""
        return (self.breaches > 0 or self.family == PLAIN, self.aside and not self.used, self.breaches if self.family != PLAIN else 10**6, -self.used)


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


def offers(ledger: Ledger, joint: Joint) -> Iterator[Offer]:
    """Every family of a joint's kind and every typical of those, one by one, the most used first: each is built as it is asked for."""
    used: Counter[str] = Counter(e.connection.family for e in ledger.entries.values() if e.connection is not None and e.joint.kind == joint.kind)
    typicals: dict[str, list[Typical]] = {}
    for t in ledger.project.typicals.values():
        typicals.setdefault(t.family, []).append(t)
    for kind in sorted(families_for(joint.kind), key=lambda f: (f.name == PLAIN, -used[f.name])):
        for typical in (None, *sorted(typicals.get(kind.name, []), key=lambda t: (not t.favourite, t.name))):
            made, why = None, ""
            try:
                made = ledger.make(joint, kind.name, {}, typical=typical.id if typical else "")
            except TinCleatError as error:
                why = str(error)
            yield Offer(kind.name, typical, made, why, used[kind.name], joint.kind in kind.pointed)
