"""Which connections come along when members are copied or mirrored, and with which settings."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import msgspec

from tincleat.families.declare import other_hand
from tincleat.families.registry import FAMILIES
from tincleat.joints.case import Joint
from tincleat.ledger.ledger import Ledger
from tincleat.project.entities import Connection, End, Member


@dataclass(frozen=True)
class Moved:
    """A member made from another: its id, the new member, and whether start and end changed places."""

    source: str
    member: Member
    flipped: bool = False


def turned_end(end: End, flipped: bool) -> End:
    """The end that an end became."""
    return end if not flipped else "end" if end == "start" else "start"


def come_along(ledger: Ledger, made: "Sequence[Moved]", mirrors: bool, new_id: "Callable[[str], str]") -> tuple[list[Connection], int]:
    """Connections for copies of joined members, and how many could not come along.

    A connection comes along where the copy ends in a joint of the same kin, with whatever supports it there; elsewhere it
    would be another detail than the one that was approved.
    """
    sources = _sources(ledger, made)
    if not sources:
        return [], 0
    finder = ledger.finder.beside({m.member.id: m.member for m in made})
    found = {end: joint for joint in finder.joints([m.member.id for m in made]) for end in joint.ends}
    out: dict[tuple[str, End], Connection] = {}
    left = 0
    for (member, end), connection in sources.items():
        joint, old = found.get((member, end)), ledger.joint_of(connection.member, connection.end)
        if joint is None or joint.case != old.case:
            left += 1
            continue
        first = joint.ends[0]
        if first not in out:
            out[first] = Connection(new_id("c"), connection.family, *first, handed(connection, old, joint, mirrors))
    return list(out.values()), left


def _sources(ledger: Ledger, made: "Sequence[Moved]") -> dict[tuple[str, End], Connection]:
    sources: dict[tuple[str, End], Connection] = {}
    both: tuple[End, End] = ("start", "end")
    for one in made:
        for end in both:
            key = ledger.by_end.get((one.source, end))
            entry = ledger.entries.get(key) if key else None
            # a joint of several ends comes along with the member it is named by
            if entry is not None and entry.connection is not None and (entry.connection.member, entry.connection.end) == (one.source, end):
                sources[(one.member.id, turned_end(end, one.flipped))] = entry.connection
    return sources


def handed(connection: Connection, old: Joint, new: Joint, mirrors: bool) -> dict[str, "bool | int | float | str | tuple[float, ...]"]:
    """The settings of a connection at the copy of its joint: handed ones change sides at a mirror image that is built unmirrored."""
    family = FAMILIES.get(connection.family)
    if family is None or not mirrors or new.mirrored != old.mirrored:
        return dict(connection.settings)
    return other_hand(family.settings, connection.settings)


def same_place(ledger: Ledger, changed: Mapping[str, tuple[Member, bool]], mirrors: bool) -> list[Connection]:
    """The connections of members moved in place that must be written otherwise: turned ends, other hands."""
    finder = ledger.finder.beside({key: member for key, (member, _) in changed.items()})
    found = {end: joint for joint in finder.joints(changed) for end in joint.ends}
    out = []
    for connection in ledger.project.connections.values():
        if connection.member not in changed:
            continue
        end = turned_end(connection.end, changed[connection.member][1])
        old = ledger.entries.get(ledger.by_end.get((connection.member, connection.end), ""))
        joint = found.get((connection.member, end))
        settings = handed(connection, old.joint, joint, mirrors) if old is not None and joint is not None else dict(connection.settings)
        new = msgspec.structs.replace(connection, end=end, settings=settings)
        if new != connection:
            out.append(new)
    return out
