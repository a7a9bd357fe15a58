"""Which connections want a look after a large change: those that lost their joint, sit at another one, or breach now."""

from dataclasses import dataclass

from tincleat.joints.case import Case
from tincleat.ledger.ledger import Ledger


@dataclass(frozen=True)
class Standing:
    """How a connection stands: the member it hangs on, its joint's case and words, its level and why it cannot be made."""

    member: str
    case: Case | None
    words: str
    level: str
    problem: str


def standing(ledger: Ledger) -> dict[str, Standing]:
    """How every connection of a project stands, by id."""
    out = {}
    for c in ledger.project.connections.values():
        entry = None if c.id in ledger.lost else ledger.entries.get(ledger.by_end.get((c.member, c.end), ""))
        # a joint shows the connection made last; another one hidden behind it stands at the same joint
        mine = entry is not None and entry.connection is not None and entry.connection.id == c.id
        out[c.id] = Standing(
            c.member,
            entry.joint.case if entry is not None else None,
            entry.joint.words if entry is not None else ledger.lost.get(c.id, ""),
            entry.level if entry is not None and mine else "",
            entry.problem if entry is not None and mine else "",
        )
    return out


@dataclass(frozen=True)
class Look:
    """One connection that wants a look: its id, the member it hung on, and why."""

    connection: str
    member: str
    why: str


def want_look(before: dict[str, Standing], ledger: Ledger) -> list[Look]:
    """What a change did to connections that were there before it, in words; those it left as they were are not named."""
    now = standing(ledger)
    out = []
    for key, old in before.items():
        new = now.get(key)
        if new is None:
            why = f"gone with its member; it was at {old.words}"
        elif new.case is None:
            why = f"no longer at a joint: {new.words}" if old.case is not None else ""
        elif new.problem:
            why = new.problem if new.problem != old.problem else ""
        elif new.level == "breach" and (old.level != "breach" or new.case is not old.case):
            why = f"breaches now: {new.words}"
        elif old.case is not None and new.case != old.case:
            why = f"made for {old.words}; it sits at another kin now: {new.words}"
        else:
            why = ""
        if why:
            out.append(Look(key, old.member, why))
    return out
