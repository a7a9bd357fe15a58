"""Commands for runs, and how runs follow the members they lie on."""

from collections.abc import Sequence
from typing import Any

import msgspec

from tincleat.catalogue.fasteners import strengths
from tincleat.commands.frame import to_mm
from tincleat.commands.picking import picked
from tincleat.commands.registry import command, in_words
from tincleat.commands.shape import several
from tincleat.errors import BadValue, TinCleatError
from tincleat.ledger.ledger import Ledger
from tincleat.project.entities import Bracing, Delta, Girts, Joists, Member, Portals, Purlins, Run, encoded
from tincleat.project.members import check_member, up_of
from tincleat.project.project import Project
from tincleat.runs.kinds import REFERS, lay, referred
from tincleat.units import parse_spacings

KINDS: dict[str, Any] = {"purlins": Purlins, "girts": Girts, "joists": Joists, "bracing": Bracing, "portals": Portals}
LENGTHS = ("spacing", "eaves", "ridge", "lap", "overhang", "first", "last", "drop", "base", "top", "span")


class AddRun(msgspec.Struct, forbid_unknown_fields=True):
    """A run: its kind and settings; lengths are mm or texts in the project's unit, members ids or names."""

    kind: str
    settings: dict[str, Any]


def _read(project: Project, ledger: Ledger, kind: str, settings: dict[str, Any], key: str, old: "dict[str, Any] | None" = None) -> Run:
    made = KINDS.get(kind)
    if made is None:
        raise BadValue(f"there is no run called {kind!r}", "add-run", "one of " + ", ".join(KINDS))
    names = [f.name for f in msgspec.structs.fields(made) if f.name not in ("id", "loose")]
    body: dict[str, Any] = {**(old or {}), "kind": kind, "id": key}
    for name, value in settings.items():
        if name not in names:
            raise BadValue(f"{kind} have no {name!r}", "run", "one of " + ", ".join(names))
        if name in LENGTHS:
            value = to_mm(value, project.house, f"{kind}, {name}")
        elif name in REFERS:
            value = [m.id for m in picked(project, ledger, value if isinstance(value, list | tuple) else [str(value)])]
        elif name == "bays" and isinstance(value, str):
            gaps = parse_spacings(value, project.house.units)
            value = [sum(gaps[:i]) for i in range(len(gaps) + 1)]
        body[name] = value
    for name in ("section", "column", "rafter"):
        if isinstance(body.get(name), str):
            body[name] = str(project.named(body[name]))
    try:
        run: Run = msgspec.convert(body, made, strict=False)
    except msgspec.ValidationError as error:
        raise BadValue(in_words(error), kind, "the settings " + ", ".join(names)) from None
    strengths("grades", run.grade)
    return project.resolved(run)  # type: ignore[no-any-return]


def _laid(project: Project, run: Run, members: "dict[str, Member]") -> list[Delta]:
    """Changes that bring a run's members in step with it; equal places keep their member and its connections."""
    before = {m.run: m for m in members.values() if m.run.startswith(run.id + ":")}
    out: list[Member] = []
    for one in lay(run, members):
        key = f"{run.id}:{one.place}"
        old = before.pop(key, None)
        if old is None:
            name = project.new_id("m")
            old = Member(name, name.upper(), one.role, one.section, run.grade, one.start, one.end, run=key, up=up_of(one.role))
        new = msgspec.structs.replace(
            old, section=project.named(one.section), grade=run.grade, role=one.role, start=one.start, end=one.end, roll=one.roll, cardinal=one.cardinal
        )
        out.append(check_member(new))
    if not out and not before:
        raise BadValue("nothing would be laid", run.id, "other settings")
    return [*project.drop("member", [m.id for m in before.values()]), *project.put(*out)]


@command("add-run", "Lay a run", AddRun, ("purlins", "girts", "joists", "bracing", "portal", "cross brace", "frames"))
def add_run(project: Project, ledger: Ledger, args: AddRun) -> tuple[str, list[Delta]]:
    """Lay purlins, girts, joists, bracing or portals; the run stays parametric and follows the members it lies on."""
    run = _read(project, ledger, args.kind, args.settings, project.new_id("r"))
    deltas = _laid(project, run, project.members)
    return f"Lay {args.kind}: {several(len(deltas))}", [*project.put(run), *deltas]


class ChangeRun(msgspec.Struct, forbid_unknown_fields=True):
    """Settings to change on a run."""

    id: str
    settings: dict[str, Any]


@command("change-run", "Change a run", ChangeRun, ("purlins", "girts", "joists", "bracing", "portal", "respace"))
def change_run(project: Project, ledger: Ledger, args: ChangeRun) -> tuple[str, list[Delta]]:
    """Change a run's settings; members at the same place in it stay the same, with their connections."""
    old = project.find("run", args.id)
    body = msgspec.json.decode(encoded(old))
    run = _read(project, ledger, body["kind"], args.settings, args.id, body)
    deltas = _laid(project, run, project.members)
    return f"Change {body['kind']}: {several(len(deltas))} differ", [*project.put(run), *deltas]


class OfRun(msgspec.Struct, forbid_unknown_fields=True):
    """A run."""

    id: str


@command("loosen-run", "Loosen a run", OfRun, ("explode", "plain members"))
def loosen(project: Project, ledger: Ledger, args: OfRun) -> tuple[str, list[Delta]]:
    """Turn a run into plain members that no longer follow."""
    run = project.find("run", args.id)
    mine = [m for m in project.members.values() if m.run.startswith(run.id + ":")]
    return f"Loosen {several(len(mine))}", [*project.put(*(msgspec.structs.replace(m, run="") for m in mine)), Delta("run", run.id, run, None)]


@command("delete-run", "Delete a run", OfRun, ("remove purlins", "remove run"))
def delete_run(project: Project, ledger: Ledger, args: OfRun) -> tuple[str, list[Delta]]:
    """Delete a run with all its members and their connections."""
    run = project.find("run", args.id)
    mine = [m.id for m in project.members.values() if m.run.startswith(run.id + ":")]
    return f"Delete a run of {several(len(mine))}", [*project.drop("member", mine), Delta("run", run.id, run, None)]


def follow(project: Project, changes: Sequence[Delta]) -> list[Delta]:
    """What runs do after some changes were applied: a member changed by hand leaves its run, the others are laid anew on what moved."""
    if not project.runs:
        return []
    own = {c.id for c in changes if c.table == "run"}
    changed = {c.id: c for c in changes if c.table == "member"}
    runs: dict[str, Run] = {}
    out: list[Delta] = []
    for c in changed.values():
        for side in (c.new, c.old):
            if isinstance(side, Member) and side.run and (key := side.run.partition(":")[0]) in project.runs and key not in own:
                run = runs.get(key, project.runs[key])
                if side.run.partition(":")[2] not in run.loose:
                    runs[key] = msgspec.structs.replace(run, loose=(*run.loose, side.run.partition(":")[2]))
                if c.new is not None:
                    out += project.put(msgspec.structs.replace(side, run=""))
                break
    for key, run in project.runs.items():
        hit = [m for m in referred(run) if m in changed]
        if hit and key not in own:
            left = tuple(m for m in referred(run) if m in project.members)
            field = next(name for name in REFERS if hasattr(run, name))
            runs[key] = msgspec.structs.replace(runs.get(key, run), **{field: left})
    plain = {d.id: d.new for d in out if isinstance(d.new, Member)}
    members = {**project.members, **plain}
    for key, run in runs.items():
        mine = [m for m in project.members.values() if m.run.startswith(key + ":") and m.id not in changed]
        try:
            laid = _laid(project, run, members)
        except TinCleatError:
            # nothing carries it any more: what was laid stays, as plain members
            out += [*project.put(*(msgspec.structs.replace(m, run="") for m in mine)), Delta("run", key, project.runs[key], None)]
            continue
        out += [*project.put(run), *laid]
    return out
