"""The members as they are made: every connection's cuts brought to the member they belong to."""

from tincleat.catalogue.sections import STEEL_DENSITY, section
from tincleat.details.steel import Cuts, end_station, steel_volume
from tincleat.ledger.ledger import Ledger
from tincleat.project.entities import Member
from tincleat.project.members import axis_frame, length


def member_cuts(ledger: Ledger) -> dict[str, Cuts]:
    """Cuts of every member that has any, in the member's axis frame."""
    out: dict[str, Cuts] = {}
    for entry in ledger.entries.values():
        if entry.made is None:
            continue
        for number, key in enumerate(entry.joint.members):
            detail = entry.made.detail
            mine = Cuts(
                tuple(e for e in detail.ends if e.member == number),
                tuple(n for n in detail.notches if n.member == number),
                tuple(h for h in detail.holes if h.member == number),
            )
            if not (mine.ends or mine.notches or mine.holes):
                continue
            local = mine.seen_from(entry.joint.frame.inside(axis_frame(ledger.project.members[key])))
            old = out.get(key, Cuts())
            out[key] = Cuts(old.ends + local.ends, old.notches + local.notches, old.holes + local.holes)
    return out


def cut_length(member: Member, cuts: Cuts) -> float:
    """Length to order, mm: between the outermost points of the cut ends."""
    shape = section(member.section)
    stations = [end_station(cuts.ends, 0.0, length(member), y, z) for y in (-shape.b / 2, shape.b / 2) for z in (-shape.h / 2, shape.h / 2)]
    return max(s[1] for s in stations) - min(s[0] for s in stations)


def net_mass(member: Member, cuts: Cuts) -> float:
    """Mass in kg from the exact volume left after all cuts."""
    return steel_volume(section(member.section), cuts, 0.0, length(member)) * STEEL_DENSITY
