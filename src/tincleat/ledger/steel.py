"""The members as they are made: every connection's cuts brought to the member they belong to."""

from tincleat.catalogue.sections import section
from tincleat.ledger.entries import Entry
from tincleat.ledger.ledger import Ledger
from tincleat.project.members import axis_frame
from tincleat.steel.body import named
from tincleat.steel.cuts import Cuts
from tincleat.steel.members import own_cuts


def entry_cuts(ledger: Ledger, entry: Entry) -> list[tuple[str, Cuts]]:
    """Cuts that one joint's connection makes, by member, in the members' axis frames; the ledger keeps them until the entry is another."""
    kept = ledger.cut_book.get(entry.joint.key)
    if kept is None or kept[0] is not entry:
        kept = ledger.cut_book[entry.joint.key] = (entry, _entry_cuts(ledger, entry))
    return kept[1]


def _entry_cuts(ledger: Ledger, entry: Entry) -> list[tuple[str, Cuts]]:
    if entry.made is None:
        return []
    detail, out = entry.made.detail, []
    for number, key in enumerate(entry.joint.members):
        mine = Cuts(
            tuple(e for e in detail.ends if e.member == number),
            tuple(n for n in detail.notches if n.member == number),
            tuple(h for h in detail.holes if h.member == number),
        )
        if mine:
            member = ledger.project.members[key]
            out.append((key, named(mine.seen_from(entry.joint.frame.inside(axis_frame(member))), section(member.section))))
    return out


def cuts_of(ledger: Ledger, member: str) -> Cuts:
    """All cuts of one member, its own and those of its connections, in its axis frame."""
    out = own_cuts(ledger.project.members[member])
    for entry in ledger.entries.of_member(member):
        for key, cuts in entry_cuts(ledger, entry):
            if key == member:
                out = out + cuts
    return out


def member_cuts(ledger: Ledger) -> dict[str, Cuts]:
    """Cuts of every member that has any, in the member's axis frame."""
    return {key: cuts for key in ledger.project.members if (cuts := cuts_of(ledger, key))}
