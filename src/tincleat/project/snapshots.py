"""Named states of a project, packed into one entity each."""

import datetime
import zlib
from collections.abc import Mapping, Sequence
from typing import Any

import msgspec

from tincleat.errors import BadFile, TinCleatError
from tincleat.project.entities import TABLES, Delta, Entity, Member, Snapshot, encoded
from tincleat.project.limits import check_entity
from tincleat.project.members import check_member
from tincleat.project.project import Project
from tincleat.project.sound import check_sound

KEPT = ("section", "house", "grid", "level", "member", "connection", "concession", "run", "query", "meaning", "schedule", "typical", "joining")  # a snapshot holds neither snapshots nor references
MOST = 64_000_000  # bytes a packed state may unfold to


def packed(project: Project, changes: Sequence[Delta] = ()) -> bytes:
    """The project's present state, or as it will be after some changes."""
    tables = {name: dict(project.tables[name]) for name in KEPT}
    for c in changes:
        if c.table in tables:
            if c.new is None:
                tables[c.table].pop(c.id, None)
            else:
                tables[c.table][c.id] = c.new
    return zlib.compress(encoded({name: list(table.values()) for name, table in tables.items()}), 6)


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
    """The tables of a snapshot by name and id; raises BadFile if it is damaged.  What single rows hold that cannot be used is in :func:`unusable`."""
    return _unpacked(snapshot)[0]


def unusable(snapshot: Snapshot) -> list[str]:
    """What of a snapshot cannot be used, and why; raises BadFile if all of it cannot."""
    return _unpacked(snapshot)[1]


def _unpacked(snapshot: Snapshot) -> tuple[dict[str, dict[str, Any]], list[str]]:
    try:
        reader = zlib.decompressobj()
        raw = reader.decompress(snapshot.body, MOST)
        if reader.unconsumed_tail:
            raise BadFile(f"the snapshot unfolds to more than {MOST // 1_000_000} MB, larger than any project", snapshot.name, "another snapshot")
        rows = msgspec.json.decode(raw, type=dict[str, list[msgspec.Raw]])
    except (zlib.error, msgspec.MsgspecError, UnicodeDecodeError) as error:
        raise BadFile(f"the snapshot is damaged: {error}", snapshot.name, "another snapshot") from error
    state = Project()  # so that names of own sections are read with the shapes they had then
    odd: list[str] = []
    for name in (n for n in KEPT if n in rows):
        for i, row in enumerate(rows[name]):
            try:
                entity = msgspec.json.decode(row, type=TABLES[name])
                check_entity(entity)
                check_sound(entity)
                state.apply([Delta(name, entity.id, None, entity)])
                if isinstance(entity, Member):
                    try:
                        check_member(state.members[entity.id])
                    except TinCleatError:
                        state.apply([Delta(name, entity.id, entity, None)])
                        raise
            except (msgspec.MsgspecError, UnicodeDecodeError, TinCleatError) as error:
                odd.append(f"{name} {i + 1}: {error}")
    return {name: state.tables[name] for name in KEPT if name in rows}, odd


def restored(project: Project, tables: Mapping[str, Mapping[str, Entity]]) -> list[Delta]:
    """Changes that bring the project back to a snapshot's tables."""
    out: list[Delta] = []
    for name in KEPT:
        if name not in tables:
            continue  # a snapshot from before that was kept in it
        now, then = project.tables[name], tables[name]
        out += [Delta(name, key, e, None) for key, e in now.items() if key not in then]
        out += [Delta(name, key, now.get(key), e) for key, e in then.items() if now.get(key) != e]
    return out
