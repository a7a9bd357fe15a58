"""Which connections come along when members are copied or mirrored, and with which settings."""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import msgspec
import numpy as np

from tincleat.families.registry import FAMILIES
from tincleat.geometry.frames import Array
from tincleat.joints.case import Joint
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.typical import other_handed, under
from tincleat.project.entities import Connection, End, Member, Value
from tincleat.project.members import axis_frame, length
from tincleat.project.project import Project


@dataclass(frozen=True)
class Moved:
    """A member made from another: its id, the new member, and whether start and end changed places."""

    source: str
    member: Member
    flipped: bool = False


def turned_end(end: End, flipped: bool) -> End:
    """The end that an end became."""
    return end if not flipped else "end" if end == "start" else "start"


def renamed(c: Connection, names: "Mapping[str, Moved]", full: "Callable[[str], float]") -> Connection | None:
    """A connection hung on the members that others became; None if none of its ends, or not all of a crossing's or a row's members, are among them."""
    if c.at is not None:
        new = names.get(c.member)
        if new is None or any(m not in names for m in c.row):
            return None
        row = tuple(names[m].member.id for m in c.row)
        return msgspec.structs.replace(c, member=new.member.id, at=round(full(c.member) - c.at, 3) if new.flipped else c.at, row=row)
    if c.other:
        if c.member not in names or c.other not in names:
            return None
        return msgspec.structs.replace(c, member=names[c.member].member.id, other=names[c.other].member.id)
    ends = [(names[m].member.id, turned_end(e, names[m].flipped)) for m, e in c.ends if m in names]
    return hung_on(c, ends) if ends else None


def hung_on(c: Connection, ends: "Sequence[tuple[str, End]]") -> Connection:
    """A connection at other member ends."""
    (member, end), *more = ends
    return msgspec.structs.replace(c, member=member, end=end, more=tuple(f"{m}.{e}" for m, e in more))


def come_along(ledger: Ledger, made: "Sequence[Moved]", turn: Array, new_id: "Callable[[str], str]") -> tuple[list[Connection], int]:
    """Connections for copies of joined members, and how many could not come along.

    A connection comes along where the copy finds a place of the same kin, with whatever supports it there; elsewhere it
    would be another detail than the one that was approved.
    """
    batches: list[dict[str, Moved]] = []
    for one in made:
        batch = next((b for b in batches if one.source not in b), None)
        if batch is None:
            batches.append(batch := {})
        batch[one.source] = one
    sources = ledger.hanging(dict.fromkeys(one.source for one in made))
    if not sources:
        return [], 0
    finder = ledger.finder.beside({m.member.id: m.member for m in made})
    found = {end: joint for joint in finder.joints([m.member.id for m in made]) for end in joint.ends}
    out: list[Connection] = []
    left = 0
    for batch in batches:
        for connection in sources:
            if connection.ends and connection.member not in batch:
                continue  # it comes along with the member it is named by
            new = renamed(connection, batch, lambda m: length(ledger.project.members[m]))
            old = ledger.entries.get(ledger.key_of(connection) or "")
            if old is None or old.connection is None or old.connection.id != connection.id:
                continue
            joint = None if new is None else finder.site(new, found)
            if new is None or joint is None or joint.case != old.joint.case:
                left += 1
                continue
            if joint.ends:
                new = hung_on(new, joint.ends if new.more else joint.ends[:1])
            out.append(msgspec.structs.replace(new, id=new_id("c"), settings=handed(ledger.project, connection, old.joint, joint, turn)))
    return out, left


def handed(project: Project, connection: Connection, old: Joint, new: Joint, turn: Array) -> dict[str, Value]:
    """The settings of a connection at the image of its joint under a motion (``turn`` (3, 3) is its linear part): handed ones change
    sides where the new joint's own far side is not the image of the old one's, as at a mirror image that is built unmirrored."""
    settings = dict(connection.settings)
    far = [np.array(j.frame.y) * (-1.0 if j.mirrored else 1.0) for j in (old, new)]
    if connection.family not in FAMILIES or float((turn @ far[0]) @ far[1]) > -0.5:
        return settings
    return other_handed(connection.family, settings, under(project, old, connection))


def renumbered(connection: Connection, old: Joint, new: Joint) -> dict[str, Value]:
    """The settings of a connection whose joint lost members or whose members stand in another order: what was typed for one of
    several alone (``pitch/2``) stays with its member, and goes with it."""
    each = FAMILIES[connection.family].each if connection.family in FAMILIES else None
    if each is None or not any("/" in name for name in connection.settings):
        return dict(connection.settings)
    was = {k: {old.members[i] for i in some} for k, some in enumerate(each(old.case), 1)}
    now = {m: k for k, some in enumerate(each(new.case), 1) for i in some for m in (new.members[i],)}
    out: dict[str, Value] = {}
    for name, value in connection.settings.items():
        plain, _, which = name.partition("/")
        places = {now[m] for m in was.get(int(which), ()) if m in now} if which else set()
        if not which or places:
            out[f"{plain}/{min(places)}" if which else name] = value
    return out


def same_place(ledger: Ledger, changed: Mapping[str, tuple[Member, bool]], turn: Array) -> list[Connection]:
    """The connections of members moved in place that must be written otherwise: turned ends, other hands."""
    finder = ledger.finder.beside({key: member for key, (member, _) in changed.items()})
    found = {end: joint for joint in finder.joints(changed) for end in joint.ends}
    all_ = {m: Moved(m, member) for m, member in ledger.project.members.items()}
    names = {**all_, **{key: Moved(key, member, flipped) for key, (member, flipped) in changed.items()}}
    out = []
    for connection in ledger.hanging(changed):
        new = renamed(connection, names, lambda m: length(ledger.project.members[m]))
        if new is None:
            continue
        old, joint = ledger.entries.get(ledger.key_of(connection) or ""), finder.site(new, found)
        if old is not None and joint is not None:
            new = msgspec.structs.replace(new, settings=handed(ledger.project, msgspec.structs.replace(connection, settings=renumbered(connection, old.joint, joint)), old.joint, joint, turn))
        if new != connection:
            out.append(new)
    return out


def on_pieces(ledger: Ledger, m: Member, pieces: Sequence[Member], stations: Sequence[float]) -> list[Connection]:
    """Connections of a member that was split, hung on the piece they belong to; ``stations`` are where it was split, mm from its start."""
    bounds = [0.0, *sorted(stations), math.inf]

    def piece(at: float) -> int:
        return next(i for i, (a, b) in enumerate(zip(bounds, bounds[1:], strict=False)) if a <= at < b or b == math.inf)

    out = []
    for c in ledger.hanging([m.id]):
        if c.at is not None and c.member == m.id:
            i = piece(c.at)
            new = msgspec.structs.replace(c, member=pieces[i].id, at=round(c.at - bounds[i], 3))
        elif c.row:
            entry = ledger.entries.get(ledger.key_of(c) or "")
            if entry is None:
                continue
            own = axis_frame(m)
            i = piece(float((entry.joint.frame.o - own.o) @ own.axes[0]))
            new = msgspec.structs.replace(c, row=tuple(pieces[i].id if k == m.id else k for k in c.row))
        elif c.other:
            entry = ledger.entries.get(ledger.key_of(c) or "")
            if entry is None:
                continue
            own = axis_frame(m)
            i = piece(float((entry.joint.frame.o - own.o) @ own.axes[0]))
            new = msgspec.structs.replace(c, **{"member" if c.member == m.id else "other": pieces[i].id})
        else:
            new = hung_on(c, [(pieces[-1].id if (k, e) == (m.id, "end") else k, e) for k, e in c.ends])
        if new != c:
            out.append(new)
    return out
