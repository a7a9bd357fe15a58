"""How far a frame is joined, by kind of joint and by level: what the panel at rest and the command line show."""

from dataclasses import dataclass

from tincleat.ledger.entries import Kin, Lines
from tincleat.ledger.groups import Groups
from tincleat.ledger.ledger import Ledger


@dataclass(frozen=True)
class Share:
    """Joints of one kind, or at one place: how many there are, how many are settled, and how many of those are in breach."""

    kind: str
    total: int
    settled: int
    breach: int
    groups: tuple[Lines, ...]

    @property
    def open_keys(self) -> list[str]:
        """Keys of those that are not settled."""
        return [e.joint.key for k in self.groups if k.joined < len(k.entries) for e in k.entries if not e.settled]

    @property
    def breach_keys(self) -> list[str]:
        """Keys of those in breach."""
        return [e.joint.key for k in self.groups if k.breaches for e in k.entries if e.level == "breach"]


def by_kind(ledger: Ledger) -> list[Share]:
    """Every kind of joint that the frame has, those with most left to do first, then the largest; the groups' own counts are read, no joint is looked at."""
    kinds: dict[str, list[Kin]] = {}
    for k in ledger.kin():
        kinds.setdefault(k.kind, []).append(k)
    out = [Share(kind, sum(len(k.entries) for k in some), sum(k.joined for k in some), sum(k.breaches for k in some), tuple(some)) for kind, some in kinds.items()]
    return sorted(out, key=lambda s: (s.settled - s.total, -s.breach, -s.total, s.kind))


def by_place(ledger: Ledger, groups: Groups) -> list[Share]:
    """Every level that joints lie at, from the lowest up."""
    return [Share(g.name, len(g.entries), g.joined, g.breaches, (g,)) for g in groups.of(ledger, "level")]
