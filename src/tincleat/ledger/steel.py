"""The members as they are made: every connection's cuts brought to the member they belong to."""

from tincleat.catalogue.sections import section
from tincleat.ledger.entries import Entry
from tincleat.ledger.ledger import Ledger
from tincleat.project.members import length
from tincleat.steel.cuts import Cuts
from tincleat.steel.likes import Worked
from tincleat.steel.members import own_cuts


def _cut(ledger: Ledger, entry: Entry, number: int, key: str) -> Cuts:
    assert entry.made is not None
    return ledger.book.cut_by(entry.made, number, entry.joint.frame, ledger.finder.frames[key], ledger.finder.shapes[key])


def parts_of(ledger: Ledger, member: str) -> list[Cuts]:
    """What every connection at a member cuts of it, in its axis frame."""
    out = []
    for entry in ledger.entries.of_member(member):
        if entry.made is not None:
            out += [cuts for i, key in enumerate(entry.joint.members) if key == member and (cuts := _cut(ledger, entry, i, key))]
    return out


def worked_of(ledger: Ledger, key: str) -> Worked:
    """Length to order, volume and signature of a member as it is made."""
    m, stamp = ledger.project.members[key], ledger.entries.stamp(key)
    kept = ledger.book.known.get(key)
    if kept is not None and kept[0] is m and kept[1] is stamp:
        return kept[2]
    out = ledger.book.worked(section(m.section), length(m), own_cuts(m), parts_of(ledger, key))
    ledger.book.known[key] = (m, stamp, out)
    return out


def cuts_of(ledger: Ledger, member: str) -> Cuts:
    """All cuts of one member, its own and those of its connections, in its axis frame."""
    out = own_cuts(ledger.project.members[member])
    for cuts in parts_of(ledger, member):
        out = out + cuts
    return out


def member_cuts(ledger: Ledger) -> dict[str, Cuts]:
    """Cuts of every member that has any, in the member's axis frame."""
    return {key: cuts for key in ledger.project.members if (cuts := cuts_of(ledger, key))}
