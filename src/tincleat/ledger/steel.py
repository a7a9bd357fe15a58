"""The members as they are made: every connection's cuts brought to the member they belong to."""

from tincleat.catalogue.sections import section
from tincleat.ledger.ledger import Ledger
from tincleat.project.members import length
from tincleat.steel.cuts import Cuts
from tincleat.steel.likes import Worked
from tincleat.steel.members import own_cuts


def worked_of(ledger: Ledger, key: str) -> Worked:
    """Length to order, volume and signature of a member as it is made."""
    m, stamp = ledger.project.members[key], ledger.entries.stamp(key)
    kept = ledger.book.known.get(key)
    if kept is not None and kept[0] is m and kept[1] is stamp:
        return kept[2]
    out = ledger.book.worked(section(m.section), length(m), own_cuts(m), ledger.cuts_by(key))
    ledger.book.known[key] = (m, stamp, out)
    return out


def cuts_of(ledger: Ledger, member: str) -> Cuts:
    """All cuts of one member, its own and those of its connections, in its axis frame."""
    out = own_cuts(ledger.project.members[member])
    for cuts in ledger.cuts_by(member):
        out = out + cuts
    return out


def member_cuts(ledger: Ledger) -> dict[str, Cuts]:
    """Cuts of every member that has any, in the member's axis frame."""
    return {key: cuts for key in ledger.project.members if (cuts := cuts_of(ledger, key))}
