"""The members as they are made: every connection's cuts brought to the member they belong to."""

import math

from tincleat.catalogue.sections import STEEL_DENSITY, section
from tincleat.details.parts import EndCut, Notch
from tincleat.details.steel import Cuts, end_station, steel_volume
from tincleat.geometry.frames import Frame, vec
from tincleat.geometry.outline import Outline
from tincleat.ledger.entries import Entry
from tincleat.ledger.ledger import Ledger
from tincleat.project.entities import Member
from tincleat.project.members import axis_frame, length

NONE = Cuts()


def entry_cuts(ledger: Ledger, entry: Entry) -> list[tuple[str, Cuts]]:
    """Cuts that one joint's connection makes, by member, in the members' axis frames; kept with the entry."""
    found = entry.__dict__.get("_cuts")
    if found is None:
        found = entry.__dict__["_cuts"] = _entry_cuts(ledger, entry)
    return found


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
        if mine.ends or mine.notches or mine.holes:
            out.append((key, mine.seen_from(entry.joint.frame.inside(axis_frame(ledger.project.members[key])))))
    return out


def own_cuts(member: Member) -> Cuts:
    """The cuts a member has of itself, in its axis frame."""
    if not member.cuts and not member.outs:
        return NONE
    frame = axis_frame(member)
    shape = section(member.section)
    # from any point of its plane a polygon cuts through the whole member
    reach = length(member) + shape.h + shape.b + max((math.dist(c.point, member.start) for c in member.outs), default=0.0)
    across = shape.h + shape.b
    notches = []
    for c in member.outs:
        own = frame.inside(Frame(c.point, c.x, c.z))
        square = abs(own.z[0]) < 1e-6
        depth = across + abs(sum(a * b for a, b in zip(own.origin, own.z, strict=True))) if square else reach
        notches.append(Notch("polygon cut", 0, own.moved(z=-depth), Outline.rounded(list(c.corners), list(c.radii)), 2 * depth))
    return Cuts(tuple(EndCut(0, vec(frame.to_local((c.point,))[0]), vec(frame.unturn(c.normal))) for c in member.cuts), tuple(notches))


def cuts_of(ledger: Ledger, member: str) -> Cuts:
    """All cuts of one member, its own and those of its connections, in its axis frame."""
    out = own_cuts(ledger.project.members[member])
    for entry in ledger.entries.of_member(member):
        for key, cuts in entry_cuts(ledger, entry):
            if key == member:
                out = cuts if out is NONE else Cuts(out.ends + cuts.ends, out.notches + cuts.notches, out.holes + cuts.holes)
    return out


def member_cuts(ledger: Ledger) -> dict[str, Cuts]:
    """Cuts of every member that has any, in the member's axis frame."""
    return {key: cuts for key in ledger.project.members if (cuts := cuts_of(ledger, key)) is not NONE}


def cut_length(member: Member, cuts: Cuts) -> float:
    """Length to order, mm: between the outermost points of the cut ends."""
    shape = section(member.section)
    stations = [end_station(cuts.ends, 0.0, length(member), y, z) for y in (-shape.b / 2, shape.b / 2) for z in (-shape.reach, shape.reach)]
    return max(s[1] for s in stations) - min(s[0] for s in stations)


def net_mass(member: Member, cuts: Cuts) -> float:
    """Mass in kg from the exact volume left after all cuts."""
    return steel_volume(section(member.section), cuts, 0.0, length(member)) * STEEL_DENSITY
