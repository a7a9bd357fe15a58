"""Commands for connections."""

from typing import Any

import msgspec

from tincleat.commands.registry import command
from tincleat.errors import BadValue, NotFound, Refused, TinCleatError
from tincleat.families.registry import family
from tincleat.joints.case import Joint
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.mend import mend, mend_words
from tincleat.project.entities import Connection, Delta, End, Value
from tincleat.project.project import Project


def _joint(project: Project, ledger: Ledger, name: str) -> Joint:
    member, _, end = name.rpartition(".")
    if end not in ("start", "end") or not member:
        raise BadValue(f"{name!r} does not name a member end", right="a member's id or name and its end, such as m12.start")
    key: End = "start" if end == "start" else "end"
    return ledger.joint_of(project.find("member", member).id, key)


class Place(msgspec.Struct, forbid_unknown_fields=True):
    """A family and the member ends to place it at."""

    family: str
    at: list[str]
    settings: dict[str, Any] = {}


@command("place-connection", "Place a connection", Place, ("join", "connect"), needs_joints=True)
def place(project: Project, ledger: Ledger, args: Place) -> tuple[str, list[Delta]]:
    """Place a family at the joints of member ends (``m12.start``); refused with the joint's figures where it does not fit."""
    kind = family(args.family)
    settings = kind.checked(args.settings, project.house)
    if not args.at:
        raise BadValue("no member end is given", "place-connection", "such as m12.start")
    made: dict[str, Connection] = {}
    for name in args.at:
        joint = _joint(project, ledger, name)
        if joint.key in made:
            continue
        taken = ledger.entries[joint.key].connection
        if taken is not None and taken.id in project.connections:
            raise Refused(f"there is a {taken.family} already ({taken.id})", name, "delete or change that one")
        try:
            ledger.make(joint, kind.name, settings)
        except TinCleatError as error:
            raise error.at(f"{name}, {joint.words}") from None
        member, end = joint.ends[0]
        made[joint.key] = Connection(project.new_id("c"), kind.name, member, end, settings)
    count = len(made)
    return f"Place {kind.label.lower()}" + (f" at {count} joints" if count > 1 else ""), project.put(*made.values())


class PlaceAll(msgspec.Struct, forbid_unknown_fields=True):
    """A family to place at every open joint that suits it, of all kinds or of the kin of one member end."""

    family: str
    like: str = ""
    settings: dict[str, Any] = {}


@command("place-all", "Place at all like joints", PlaceAll, ("roll out", "everywhere"), needs_joints=True)
def place_all(project: Project, ledger: Ledger, args: PlaceAll) -> tuple[str, list[Delta]]:
    """Place a family at all open joints it fits; with ``like``, only at the kin of that member end's joint."""
    kind = family(args.family)
    settings = kind.checked(args.settings, project.house)
    case = _joint(project, ledger, args.like).case if args.like else None
    made, refused = [], ""
    for entry in list(ledger.entries.values()):
        if entry.connection is not None or (case is not None and entry.joint.case != case) or (case is None and entry.joint.kind not in kind.kinds):
            continue
        try:
            ledger.make(entry.joint, kind.name, settings)
        except TinCleatError as error:
            refused = f"{entry.joint.words}: {error}"
            continue
        member, end = entry.joint.ends[0]
        made.append(Connection(project.new_id("c"), kind.name, member, end, settings))
    if not made:
        raise Refused("no open joint suits " + kind.label.lower(), "place-all", refused or "place it where ends are open")
    return f"Place {kind.label.lower()} at {len(made)} joint{'s' if len(made) > 1 else ''}", project.put(*made)


class ChangeConnections(msgspec.Struct, forbid_unknown_fields=True):
    """Settings to change on some connections; a value of null goes back to the default."""

    ids: list[str]
    settings: dict[str, Any]


@command("change-connections", "Change connections", ChangeConnections, ("edit", "settings"), needs_joints=True)
def change(project: Project, ledger: Ledger, args: ChangeConnections) -> tuple[str, list[Delta]]:
    """Change settings of connections; a value of null goes back to the default or worked-out one."""
    changed, label = [], ""
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
            ledger.make(entry.joint, kind.name, new)
        changed.append(msgspec.structs.replace(old, settings=new))
    what = label.lower() if len(args.settings) == 1 else f"{len(args.settings)} settings"
    return f"Change {what}" + (f" of {len(changed)} connections" if len(changed) > 1 else ""), project.put(*changed)


class Mend(msgspec.Struct, forbid_unknown_fields=True):
    """A finding to mend, on one connection or on all its kin with the same settings."""

    connection: str
    finding: str
    all_like: bool = False


@command("mend-finding", "Fix a finding", Mend, ("repair", "correct"), needs_joints=True)
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
                  and e.joint.case is entry.joint.case and e.connection.settings == entry.connection.settings]  # fmt: skip
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
