"""Commands that make an engineer's frame fit to detail."""

import datetime
import math
from collections.abc import Sequence
from pathlib import Path

import msgspec
import numpy as np

from tincleat.commands.frame import Length, to_mm
from tincleat.commands.imports import ImportFrame, read
from tincleat.commands.picking import picked
from tincleat.commands.registry import command
from tincleat.commands.shape import several, split_at
from tincleat.errors import BadValue, NotFound, Refused
from tincleat.geometry.frames import vec
from tincleat.ledger.carry import on_pieces
from tincleat.ledger.ledger import Ledger
from tincleat.project.entities import Connection, Delta, Member, Snapshot
from tincleat.project.members import check_member, length
from tincleat.project.project import Project
from tincleat.project.snapshots import issue, last_issue, packed, restored, unpacked
from tincleat.ready.compare import Difference, by_id, by_identity
from tincleat.ready.stock import over_stock, proposed
from tincleat.ready.true_up import plan
from tincleat.ready.work import same


class TrueUp(msgspec.Struct, forbid_unknown_fields=True):
    """Rules to apply (all if none is named), their settings in mm, and members to limit it to or to leave alone."""

    rules: list[str] = []
    settings: dict[str, dict[str, float]] = {}
    only: list[str] = []
    skip: list[str] = []


@command("true-up", "True up", TrueUp, ("bracing", "working points", "top of steel", "purlins", "truss", "splices", "analysis"), needs_joints=True)
def true_up(project: Project, ledger: Ledger, args: TrueUp) -> tuple[str, list[Delta]]:
    """Move system lines to where steel is set out, by rules; what a rule cannot settle is left as it is."""
    only = [m.id for m in picked(project, ledger, args.only)] if args.only else []
    skip = [m.id for m in picked(project, ledger, args.skip)] if args.skip else []
    found = plan(ledger, args.rules, args.settings, only, skip)
    if not found.changes:
        why = f"; {len(found.left)} could not be settled: {found.left[0].why}" if found.left else ""
        raise Refused(f"nothing is to be trued up{why}", "true-up", "other rules, or members that need it")
    made = project.put(*(check_member(m) for m in found.results()))
    return f"True up {several(len(made))}" + (f", {len(found.left)} left" if found.left else ""), made


class SplitStock(msgspec.Struct, forbid_unknown_fields=True):
    """Members over stock length to split (all if none is named), ``at`` distances from their start or as proposed; ``all_like``: the same for all like them."""

    ids: list[str] = []
    at: tuple[Length, ...] = ()
    all_like: bool = False


@command("split-stock", "Split to stock length", SplitStock, ("bar", "mill", "too long", "splice"), needs_joints=True)
def split_stock(project: Project, ledger: Ledger, args: SplitStock) -> tuple[str, list[Delta]]:
    """Split members that are longer than the bar the mill delivers, clear of supports, connections and stubs."""
    if args.at and not args.ids:
        raise BadValue("distances are given, but no member", "split-stock", "ids of members too")
    named = picked(project, ledger, args.ids) if args.ids else [o.member for o in over_stock(ledger)]
    if not named:
        raise Refused("no member is over stock length", "split-stock", "nothing to do")
    if args.all_like:
        named = list({m.id: m for one in named for m in like_bars(project, one)}.values())
    stations = [to_mm(a, project.house, "at") for a in args.at]
    made: list[Member] = []
    moved: list[Connection] = []
    stuck = []
    for m in named:
        at = stations or list(proposed(ledger, m).at)
        if not at:
            stuck.append(m.name)
            continue
        new, _ = split_at(project, m, at)
        made += new
        moved += on_pieces(ledger, m, new, at)
    if not made:
        raise Refused(f"no place to split {', '.join(stuck[:5])} is clear of what meets them", "split-stock", "give the distances yourself")
    words = f", {several(len(stuck))} left: no clear place" if stuck else ""
    return f"Split {several(len(named) - len(stuck))} to stock, {len(made)} pieces{words}", project.put(*made, *moved)


def like_bars(project: Project, m: Member) -> list[Member]:
    """Members of the same section, role and length as one."""
    return [o for o in project.members.values() if o.section == m.section and o.role == m.role and abs(length(o) - length(m)) < 1.0]


class Named(msgspec.Struct, forbid_unknown_fields=True):
    """A snapshot's name."""

    name: str


def snapshot_named(project: Project, name: str) -> Snapshot:
    """The snapshot of a name; raises NotFound."""
    found = next((s for s in project.snapshots.values() if name in (s.name, s.id)), None)
    if found is None:
        raise NotFound(
            f"there is no snapshot {name!r}", right="one of " + ", ".join(s.name for s in project.snapshots.values()) if project.snapshots else "take one first"
        )
    return found


@command("take-snapshot", "Take a snapshot", Named, ("save state", "before joining", "keep"))
def take_snapshot(project: Project, ledger: Ledger, args: Named) -> tuple[str, list[Delta]]:
    """Keep the present state of the project under a name, to compare with or return to."""
    name = args.name.strip()
    if not name or name == "now":
        raise BadValue(f"{args.name!r} is no name for a snapshot", "take-snapshot", "such as before joining")
    if any(s.name == name for s in project.snapshots.values()):
        raise Refused(f"there is a snapshot {name!r} already", "take-snapshot", "another name, or delete that one")
    when = datetime.datetime.now().strftime("%Y-%m-%d %H:%M")
    return f"Take snapshot {name}", project.put(Snapshot(project.new_id("s"), name, when, len(project.members), packed(project)))


@command("restore-snapshot", "Return to a snapshot", Named, ("go back", "restore", "revert"))
def restore_snapshot(project: Project, ledger: Ledger, args: Named) -> tuple[str, list[Delta]]:
    """Bring members, grids, levels, runs, connections and house rules back to a snapshot; undo returns from it."""
    found = snapshot_named(project, args.name)
    changes = restored(project, unpacked(found))
    if not changes:
        raise Refused(f"nothing differs from {found.name}", "restore-snapshot")
    return f"Return to snapshot {found.name}", changes


@command("delete-snapshot", "Delete a snapshot", Named, ("remove snapshot",))
def delete_snapshot(project: Project, ledger: Ledger, args: Named) -> tuple[str, list[Delta]]:
    """Delete a snapshot; the project stays as it is."""
    found = snapshot_named(project, args.name)
    return f"Delete snapshot {found.name}", [Delta("snapshot", found.id, found, None)]


def differences(project: Project, first: str, second: str = "now") -> list[Difference]:
    """What differs between two snapshots, or a snapshot and ``now``; raises NotFound, BadFile."""
    return by_id(members_of(project, first), members_of(project, second), project.house.units)


def members_of(project: Project, name: str) -> "dict[str, Member]":
    """The members of a snapshot, or as they are ``now``; raises NotFound, BadFile."""
    return project.members if name == "now" else unpacked(snapshot_named(project, name))["member"]


class TakeRevision(msgspec.Struct, forbid_unknown_fields=True):
    """A revised engineer's model, and the rows to accept (ids of members, or identities of new ones; all if none is named)."""

    path: str
    accept: list[str] = []
    unit: str = ""


def revision(project: Project, path: str, unit: str = "") -> list[Difference]:
    """What a revised model differs in from the engineer's last issue; raises BadFile, or Refused if none came in."""
    base = last_issue(project)
    if base is None:
        raise Refused("no engineer's model was imported into this project", "take-revision", "import the first issue with import-frame")
    found = read(project, ImportFrame(path, {}, unit))
    return by_identity(unpacked(base)["member"].values(), found.members, project.house.units)


@command("take-revision", "Take in a revised model", TakeRevision, ("revise", "update", "engineer", "new issue"), needs_joints=True)
def take_revision(project: Project, ledger: Ledger, args: TakeRevision) -> tuple[str, list[Delta]]:
    """Accept rows of a revised engineer's model against his last issue: members are added, moved, resized and removed, connections follow.

    What was trued up stays trued up: a member moves by as much as the engineer moved it.
    """
    return accept_rows(project, revision(project, args.path, args.unit), args.accept, Path(args.path).name)


def accept_rows(project: Project, rows: Sequence[Difference], accept: Sequence[str], source: str) -> tuple[str, list[Delta]]:
    """Changes of the accepted rows (all if none is named); raises NotFound, Refused."""
    wanted = set(accept)
    unknown = wanted - {r.key for r in rows}
    if unknown:
        raise NotFound(f"no row of the comparison is called {min(unknown)!r}", "take-revision", "ids that the comparison shows")
    chosen = [r for r in rows if not wanted or r.key in wanted]
    if not chosen:
        raise Refused("the revised model differs in nothing", "take-revision")
    put, drop, lost = [], [], 0
    for r in chosen:
        ours = project.members.get(r.old.id) if r.old is not None else None
        if r.old is None and r.new is not None:
            key = project.new_id("m")
            put.append(check_member(msgspec.structs.replace(r.new, id=key, name=r.new.name or key.upper())))
        elif ours is None:
            lost += 1  # deleted or split here meanwhile: there is nothing to follow
        elif r.new is None:
            drop.append(ours.id)
        elif r.old is not None:
            put.append(check_member(_followed(ours, r.old, r.new)))
    words = f", {lost} no longer here" if lost else ""
    return f"Take in {len(chosen)} of {len(rows)} revised rows{words}", issue(project, source, [*project.drop("member", drop), *project.put(*put)])


def _followed(ours: Member, old: Member, new: Member) -> Member:
    """Our member after what the engineer did to his: moved by as much, of his section and grade where he changed them."""
    first, last = (new.start, new.end)
    if math.dist(old.start, new.end) + math.dist(old.end, new.start) < math.dist(old.start, new.start) + math.dist(old.end, new.end):
        first, last = last, first
    out = msgspec.structs.replace(
        ours,
        start=vec(np.array(ours.start) + np.subtract(first, old.start)),
        end=vec(np.array(ours.end) + np.subtract(last, old.end)),
        guid=new.guid or ours.guid,
        run="",
    )
    changed = {name: getattr(new, name) for name in ("section", "grade", "role") if getattr(old, name) != getattr(new, name)}
    if same(ours, old):  # not trued up here: hung and rolled as he has it
        changed |= {name: getattr(new, name) for name in ("roll", "cardinal", "offset")}
    return msgspec.structs.replace(out, **changed)
