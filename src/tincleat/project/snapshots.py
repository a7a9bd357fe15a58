"""Named states of a project, packed into one entity each."""

import datetime
import zlib
from collections.abc import Mapping, Sequence
from typing import Any

import msgspec

from tincleat.errors import BadFile
from tincleat.project.entities import TABLES, Delta, Entity, Snapshot
from tincleat.project.project import Project

KEPT = ("house", "grid", "level", "member", "connection", "concession", "run", "query", "meaning")  # a snapshot holds neither snapshots nor references
MOST = 400_000_000  # bytes a packed state may unfold to


def packed(project: Project, changes: Sequence[Delta] = ()) -> bytes:
    """The project's present state, or as it will be after some changes."""
    tables = {name: dict(project.tables[name]) for name in KEPT}
    for c in changes:
        if c.table in tables:
            if c.new is None:
                tables[c.table].pop(c.id, None)
            else:
                tables[c.table][c.id] = c.new
    return zlib.compress(msgspec.json.encode({name: list(table.values()) for name, table in tables.items()}), 6)


ISSUE = "engineer's issue"


def issue(project: Project, source: str, changes: Sequence[Delta]) -> list[Delta]:
    """``changes`` that bring an engineer's model in, with a snapshot of it as it came: the next issue is compared with that."""
    number = 1 + sum(s.name.startswith(ISSUE) for s in project.snapshots.values())
    when = datetime.datetime.now().strftime("%Y-%m-%d %H:%M")
    members = {**project.members, **{c.id: c.new for c in changes if c.table == "member"}}
    count = sum(m is not None for m in members.values())
    name = f"{ISSUE} {number}: {source}"
    return [*changes, *project.put(Snapshot(project.new_id("s"), name, when, count, packed(project, changes)))]


def last_issue(project: Project) -> "Snapshot | None":
    """The engineer's model as it last came, if one did."""
    found = [s for s in project.snapshots.values() if s.name.startswith(ISSUE)]
    return found[-1] if found else None


def unpacked(snapshot: Snapshot) -> dict[str, dict[str, Any]]:
    """The tables of a snapshot by name and id; raises BadFile if it is damaged."""
    try:
        reader = zlib.decompressobj()
        raw = reader.decompress(snapshot.body, MOST)
        if reader.unconsumed_tail:
            raise BadFile("the snapshot is larger than any project", snapshot.name)
        rows = msgspec.json.decode(raw, type=dict[str, list[msgspec.Raw]])
        out = {name: {e.id: e for e in (msgspec.json.decode(r, type=TABLES[name]) for r in rows.get(name, ()))} for name in KEPT}
    except (zlib.error, msgspec.MsgspecError) as error:
        raise BadFile(f"the snapshot is damaged: {error}", snapshot.name, "another snapshot") from error
    return out


def restored(project: Project, tables: Mapping[str, Mapping[str, Entity]]) -> list[Delta]:
    """Changes that bring the project back to a snapshot's tables."""
    out: list[Delta] = []
    for name in KEPT:
        now, then = project.tables[name], tables.get(name, {})
        out += [Delta(name, key, e, None) for key, e in now.items() if key not in then]
        out += [Delta(name, key, now.get(key), e) for key, e in then.items() if now.get(key) != e]
    return out
