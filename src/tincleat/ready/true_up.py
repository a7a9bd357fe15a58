"""True up: which members the chosen rules would change, before anything is changed."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from tincleat.errors import BadValue, NotFound
from tincleat.ledger.ledger import Ledger
from tincleat.project.entities import Member
from tincleat.ready.rules import RULES
from tincleat.ready.work import Change, Left, Work, same


@dataclass(frozen=True)
class Plan:
    """What true-up would do: a change a member and rule, in order, and what was left and why."""

    changes: tuple[Change, ...]
    left: tuple[Left, ...]
    checked: int

    def results(self) -> list[Member]:
        """The members as they would be in the end."""
        return list({c.new.id: c.new for c in self.changes}.values())


def plan(
    ledger: Ledger,
    rules: "Sequence[str]" = (),
    settings: "Mapping[str, Mapping[str, float]] | None" = None,
    only: "Iterable[str]" = (),
    skip: "Iterable[str]" = (),
) -> Plan:
    """Work out what the rules (all if none is named) would change; raises NotFound or BadValue for a rule or setting that is not there.

    ``only`` limits it to some members, ``skip`` leaves some alone.  The project is not touched.
    """
    names = list(rules) or list(RULES)
    for name in names:
        if name not in RULES:
            raise NotFound(f"there is no true-up rule {name!r}", right="one of " + ", ".join(RULES))
    for name, values in (settings or {}).items():
        if name not in RULES:
            raise NotFound(f"there is no true-up rule {name!r}", right="one of " + ", ".join(RULES))
        known = [s for s, *_ in RULES[name].settings]
        wrong = next((s for s in values if s not in known), None)
        if wrong is not None:
            raise BadValue(f"the rule has no setting {wrong!r}", name, "one of " + ", ".join(known) if known else "it has none")
    skipped = set(skip)
    chosen = frozenset(only) - skipped if only else frozenset(ledger.project.members.keys() - skipped) if skipped else frozenset()
    work = Work(dict(ledger.project.members), tuple(v.elevation for v in ledger.project.levels.values()), ledger.finder, chosen)
    for name, rule in RULES.items():
        if name in names:
            rule.run(work, {s: float((settings or {}).get(name, {}).get(s, default)) for s, _, default in rule.settings})
            work.settled()
    changes = tuple(c for c in work.changes if not same(c.old, c.new))
    return Plan(changes, tuple(work.left), len(work.members))
