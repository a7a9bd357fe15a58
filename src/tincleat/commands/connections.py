"""Commands for connections."""

import math
from itertools import product
from typing import Any

import msgspec

from tincleat.commands.registry import command
from tincleat.details.parts import Detail
from tincleat.errors import BadValue, NotFound, Refused, TinCleatError
from tincleat.families.declare import Family
from tincleat.families.registry import family
from tincleat.joints.bracing import NODE
from tincleat.joints.case import Joint
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.mend import mend, mend_words
from tincleat.project.entities import Connection, Delta, End, Value
from tincleat.project.project import Project
from tincleat.units import parse_length


def _joint(project: Project, ledger: Ledger, name: str) -> Joint:
    member, _, end = name.rpartition(".")
    if end not in ("start", "end") or not member:
        raise BadValue(f"{name!r} does not name a member end", right="a member's id or name and its end, such as m12.start")
    key: End = "start" if end == "start" else "end"
    return ledger.joint_of(project.find("member", member).id, key)


def _anchored(project: Project, ledger: Ledger, name: str, family_name: str) -> Connection:
    """A connection without an id at the place a name tells: a member's end, a station ``m12@2500``, ``m12 over m14``,
    or members beside each other at a station of the first, ``m12+m13+m14@2500``."""
    for word in (" over ", "x"):
        upper, found, lower = name.partition(word)
        if found and upper and lower and "." not in lower and "@" not in name:
            try:
                ids = [project.find("member", part.strip()).id for part in (upper, lower)]
            except TinCleatError:
                if word == "x":
                    break
                raise
            return Connection("", family_name, ids[0], "start", other=ids[1])
    if "@" in name:
        members, _, at = name.rpartition("@")
        first, *row = _row(project, members)
        return Connection("", family_name, first, "start", at=round(parse_length(at, project.house.units), 3), row=tuple(row))
    joint = _joint(project, ledger, name)
    if not joint.ends:
        raise BadValue(f"{name!r} does not name a member end")
    return Connection("", family_name, *joint.ends[0])


def _row(project: Project, names: str) -> list[str]:
    """The ids of members named one by one with ``+`` between; a single member's name may have one in it."""
    try:
        return [project.find("member", names.strip()).id]
    except TinCleatError:
        if "+" not in names:
            raise
    out = [project.find("member", n.strip()).id for n in names.split("+")]
    if len(set(out)) < len(out):
        raise BadValue(f"{names!r} names a member twice", right="each member of a row once")
    return out


def _free(project: Project, ledger: Ledger, joint: Joint, name: str) -> None:
    """Raise Refused if a place or one of its ends is taken."""
    for key in dict.fromkeys([joint.key, *(ledger.by_end.get(end, "") for end in joint.ends)]):
        entry = ledger.entries.get(key)
        taken = entry.connection if entry is not None else None
        if taken is not None and taken.id in project.connections:
            raise Refused(f"{taken.family} is there already ({taken.id})", name, "delete or change that one")


def _idle(kind: Family, details: list[Detail], settings: dict[str, Any]) -> str:
    """Words for what is typed without use, with the number of places: nothing in their details comes of it."""
    out = []
    for name, value in settings.items():
        count = sum(bool(kind.idle(d, [name])) for d in details) if value is not None else 0
        if count:
            out.append(f"{kind.setting(name).label.lower()} is not in use " + ("here" if len(details) == 1 else f"at {count} of {len(details)}"))
    return "".join(f"; {words}" for words in out)


class Place(msgspec.Struct, forbid_unknown_fields=True):
    """A family and the member ends to place it at; its settings over those of a typical, by id or name, if one is given."""

    family: str
    at: list[str]
    settings: dict[str, Any] = {}
    typical: str = ""


@command("place-connection", "Place a connection", Place, ("join", "connect"), needs_joints=True)
def place(project: Project, ledger: Ledger, args: Place) -> tuple[str, list[Delta]]:
    """Place a family at the joints of member ends (``m12.start``); refused with the joint's figures where it does not fit."""
    kind = family(args.family)
    settings, typical = kind.checked(args.settings, project.house), typical_of(project, kind.name, args.typical)
    if not args.at:
        raise BadValue("no member end is given", "place-connection", "such as m12.start")
    made: dict[str, Connection] = {}
    details: list[Detail] = []
    wanted = [_anchored(project, ledger, name, kind.name) for name in args.at]
    if kind.shares > 1:
        wanted = together(ledger, wanted, kind.shares)
    for one in wanted:
        name = _name(one)
        joint = ledger.site(one)
        if joint is None:
            right = "parallel members beside each other, and a station on the first that all of them pass" if one.row else "a member's end, a station on a member, or a member that lies over another"
            raise NotFound(f"there is no place {name}", right=right)
        if joint.key in made:
            continue
        _free(project, ledger, joint, name)
        try:
            details.append(ledger.make(joint, kind.name, settings, typical=typical).detail)
        except TinCleatError as error:
            raise error.at(f"{name}, {joint.words}") from None
        made[joint.key] = msgspec.structs.replace(one, id=project.new_id("c"), settings=settings, typical=typical)
    count = len(made)
    return kind.placing + (f" at {count} joints" if count > 1 else "") + _idle(kind, details, settings), project.put(*made.values())


def typical_of(project: Project, family: str, name: str) -> str:
    """The id of a family's typical by id or name, empty for none; raises NotFound with those there are."""
    if not name:
        return ""
    some = [t for t in project.typicals.values() if t.family == family]
    found = next((t for t in some if t.id == name), None) or next((t for t in some if t.name == name), None)
    if found is None:
        raise NotFound(f"there is no typical {name!r} for {family}", right="one of " + ", ".join(t.name for t in some) if some else "there is none for it yet")
    return found.id


def _name(c: Connection) -> str:
    """What a user calls a connection's place."""
    if c.at is not None:
        return f"{'+'.join((c.member, *c.row))}@{c.at:g}"
    if c.other:
        return f"{c.member} over {c.other}"
    return " and ".join(f"{m}.{e}" for m, e in c.ends)


def together(ledger: Ledger, wanted: "list[Connection]", most: int) -> list[Connection]:
    """Connections at ends of one node as one that they share, as far as the model has a site for them together."""
    out: list[Connection] = []
    members = ledger.finder.members
    cells: dict[tuple[int, ...], list[int]] = {}  # by where the first end of each lies: a node is as wide as a cell

    def cell(ends: "tuple[tuple[str, End], ...]") -> tuple[int, ...] | None:
        if not ends or ends[0][0] not in members:
            return None
        m = members[ends[0][0]]
        return tuple(math.floor(v / NODE) for v in (m.start if ends[0][1] == "start" else m.end))

    for one in wanted:
        here = cell(one.ends)
        near = [] if here is None else sorted({i for step in product((-1, 0, 1), repeat=3) for i in cells.get(tuple(a + b for a, b in zip(here, step, strict=True)), ())})
        for i in near:
            other = out[i]
            if len(other.ends) >= most or one.ends[0] in other.ends:
                continue
            if not ledger.finder.one_node([*other.ends, *one.ends]):
                continue
            both = msgspec.structs.replace(other, more=tuple(f"{m}.{e}" for m, e in (*other.ends[1:], *one.ends)))
            joint = ledger.shared(both.ends)
            if joint is not None:
                first, *rest = joint.ends
                out[i] = msgspec.structs.replace(both, member=first[0], end=first[1], more=tuple(f"{m}.{e}" for m, e in rest))
                if (there := cell(out[i].ends)) != cell(other.ends) and there is not None:
                    cells.setdefault(there, []).append(i)  # found from where either end lies
                break
        else:
            if here is not None:
                cells.setdefault(here, []).append(len(out))
            out.append(one)
    return out


class PlaceAll(msgspec.Struct, forbid_unknown_fields=True):
    """A family to place at every open joint that suits it, of all kinds or of the kin of one member end; with a typical under its settings if one is given."""

    family: str
    like: str = ""
    settings: dict[str, Any] = {}
    typical: str = ""


@command("place-all", "Place at all like joints", PlaceAll, ("roll out", "everywhere"), needs_joints=True)
def place_all(project: Project, ledger: Ledger, args: PlaceAll) -> tuple[str, list[Delta]]:
    """Place a family at all open joints it fits; with ``like``, only at the kin of that member end's joint."""
    kind = family(args.family)
    settings, typical = kind.checked(args.settings, project.house), typical_of(project, kind.name, args.typical)
    case = _joint(project, ledger, args.like).case if args.like else None
    made, refused, left = [], "", 0
    details: list[Detail] = []
    wanted = []
    for entry in ledger.entries.values():
        if entry.settled or not entry.joint.ends or (case is not None and entry.joint.case != case) or (case is None and entry.joint.kind not in kind.kinds):
            continue
        if case is None and entry.joint.kind in kind.pointed:
            left += 1
            continue
        wanted.append(Connection("", kind.name, *entry.joint.ends[0]))
    if case is None and "crossing" in kind.kinds:
        wanted += [Connection("", kind.name, over, "start", other=under) for over, under in ledger.finder.crossings() if f"{over}x{under}" not in ledger.entries]
    if kind.shares > 1 and case is None:
        wanted = together(ledger, wanted, kind.shares)
    while wanted:
        one = wanted.pop(0)
        joint = ledger.site(one)
        if joint is None:
            continue
        try:
            details.append(ledger.make(joint, kind.name, settings, typical=typical).detail)
        except TinCleatError as error:
            refused = f"{joint.words}: {error}"
            if one.more:  # what does not suit several ends together may suit each
                wanted += [Connection("", kind.name, *end) for end in one.ends]
            continue
        made.append(msgspec.structs.replace(one, id=project.new_id("c"), settings=settings, typical=typical))
    if not made:
        raise Refused("no open joint suits " + kind.label.lower(), "place-all", refused or (f"at {_pointed(kind, left)} place it by itself" if left else "place it where ends are open"))
    words = f", {_pointed(kind, left)} left: there it is placed by itself" if left else ""
    return f"{kind.placing} at {len(made)} joint{'s' if len(made) > 1 else ''}{words}" + _idle(kind, details, settings), project.put(*made)


def _pointed(kind: Family, count: int) -> str:
    """Joints that a family leaves to others when it is placed everywhere, in words."""
    noun = kind.pointed[0] if len(kind.pointed) == 1 else "joint"
    return f"{count} {noun}{'s' if count > 1 else ''}"


class RollOut(msgspec.Struct, forbid_unknown_fields=True):
    """A connection, and the member ends of open joints that shall have one like it."""

    connection: str
    at: list[str]


@command("roll-out", "Roll out", RollOut, ("same everywhere", "copy to kin", "similar joints"), needs_joints=True)
def roll_out(project: Project, ledger: Ledger, args: RollOut) -> tuple[str, list[Delta]]:
    """Join other open joints as one is joined, by the same family, typical and settings, in one step; refused with the figures of the joint that does not suit."""
    source = project.find("connection", args.connection)
    assert isinstance(source, Connection)
    kind = family(source.family)
    made: dict[str, Connection] = {}
    for name in args.at:
        joint = _joint(project, ledger, name)
        if joint.key in made:
            continue
        _free(project, ledger, joint, name)
        try:
            ledger.make(joint, kind.name, source.settings, typical=source.typical)
        except TinCleatError as error:
            raise error.at(f"{name}, {joint.words}") from None
        made[joint.key] = Connection(project.new_id("c"), kind.name, *joint.ends[0], settings=dict(source.settings), typical=source.typical)
    if not made:
        raise BadValue("no member end is given", "roll-out", "such as m12.start")
    return f"Roll out {kind.label.lower()} {source.id} to {len(made)} joint{'s' if len(made) > 1 else ''}", project.put(*made.values())


class ChangeConnections(msgspec.Struct, forbid_unknown_fields=True):
    """Settings to change on some connections; a value of null goes back to the default."""

    ids: list[str]
    settings: dict[str, Any]


@command("change-connections", "Change connections", ChangeConnections, ("edit", "settings"), needs_joints=True)
def change(project: Project, ledger: Ledger, args: ChangeConnections) -> tuple[str, list[Delta]]:
    """Change settings of connections; a value of null goes back to the default or worked-out one."""
    changed, label = [], ""
    details: dict[str, list[Detail]] = {}
    for key in args.ids:
        old = project.find("connection", key)
        assert isinstance(old, Connection)
        kind = family(old.family)
        for name in args.settings:
            label = kind.setting(name).label
        new: dict[str, Value] = {k: v for k, v in old.settings.items() if k not in args.settings}
        new |= kind.checked(args.settings, project.house)
        entry = ledger.entry_of(key)
        if not entry.problem:
            details.setdefault(kind.name, []).append(ledger.make(entry.joint, kind.name, new, typical=old.typical).detail)
        changed.append(msgspec.structs.replace(old, settings=new))
    what = label.lower() if len(args.settings) == 1 else f"{len(args.settings)} settings"
    without = "".join(_idle(family(name), some, args.settings) for name, some in details.items())
    return f"Change {what}" + (f" of {len(changed)} connections" if len(changed) > 1 else "") + without, project.put(*changed)


class Mend(msgspec.Struct, forbid_unknown_fields=True):
    """A finding to mend, on one connection or on all its kin with the same settings."""

    connection: str
    finding: str
    all_like: bool = False


@command("mend-finding", "Fix a finding", Mend, ("repair", "correct"), needs_findings=True)
def mend_finding(project: Project, ledger: Ledger, args: Mend) -> tuple[str, list[Delta]]:
    """Change the one setting that clears a finding without a new breach; refused if there is none."""
    entry = ledger.entry_of(args.connection)
    finding = next((f for f in entry.findings if f.key == args.finding), None)
    if finding is None:
        raise NotFound(f"there is no finding {args.finding!r}", args.connection)
    found = mend(ledger, entry, finding)
    if found is None or entry.connection is None:
        raise Refused("no single setting mends this", f"{args.connection}, {finding.title}", "change the joint, or accept the finding with a reason")
    name, value = found
    chosen = [entry]
    if args.all_like:
        chosen = [e for e in ledger.entries.values() if e.connection and e.made and any(f.key == finding.key and f.level == finding.level for f in e.findings)
                  and e.joint.case is entry.joint.case and e.connection.settings == entry.connection.settings and e.connection.typical == entry.connection.typical]  # fmt: skip
    changed = []
    for e in chosen:
        assert e.connection is not None
        settings = {k: v for k, v in e.connection.settings.items() if k != name}
        changed.append(msgspec.structs.replace(e.connection, settings=settings if value is None else {**settings, name: value}))
    return f"Fix: {mend_words(ledger, entry, name, value)}" + (f" at {len(changed)} joints" if len(changed) > 1 else ""), project.put(*changed)


class DeleteConnections(msgspec.Struct, forbid_unknown_fields=True):
    """Connections to delete, by id or by a member end."""

    ids: list[str]


@command("delete-connections", "Delete connections", DeleteConnections, ("remove", "clear"), needs_joints=True)
def delete(project: Project, ledger: Ledger, args: DeleteConnections) -> tuple[str, list[Delta]]:
    """Delete connections with all their parts and cuts."""
    ids = []
    for name in args.ids:
        if name in project.connections:
            ids.append(name)
            continue
        try:
            found = ledger.entries[_joint(project, ledger, name).key].connection
        except TinCleatError:
            found = None
        if found is None:
            raise NotFound(f"there is no connection {name!r}", right="a connection's id, or a joined member end such as m12.start")
        ids.append(found.id)
    return f"Delete {len(ids)} connection{'s' if len(ids) > 1 else ''}", project.drop("connection", ids)
