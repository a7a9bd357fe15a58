"""What stands in a project file, read with suspicion: what cannot be read is set aside and named, and the rest opens."""

import os
import re
import sqlite3
import stat
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import msgspec

from tincleat.errors import BadFile, BadValue, TinCleatError
from tincleat.files import PROJECT_MARK, plain_file, reason
from tincleat.project.entities import TABLES, Delta, HouseRules, Member
from tincleat.project.limits import check_entity, shown
from tincleat.project.members import check_member
from tincleat.project.project import Project
from tincleat.project.sound import check_sound

ASIDE = "aside"  # rows of this table are what could not be read and was replaced since
HIGHEST = 1 << 60  # counters beyond this are damaged
_HEADER = b"SQLite format 3\x00"
_TABLES = {"meta": ("key", "value"), "entity": ("tab", "id", "body"), "history": ("seq", "command", "title", "args", "changes", "done"), "stamp": ("id", "text")}


@dataclass(frozen=True)
class Aside:
    """A row of the file that could not be read, and why; it stays in the file."""

    table: str
    id: str
    why: str

    def __str__(self) -> str:
        return f"{self.table} {self.id}: {self.why}"


@dataclass
class Loaded:
    """What else was found when a project was read."""

    revision: int = 0
    aside: list[Aside] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)


class _Row(msgspec.Struct, frozen=True):
    """A change as written to the history: bodies stay raw (``null`` for absent) until their table is known."""

    table: str
    id: str
    old: msgspec.Raw
    new: msgspec.Raw

    def change(self) -> Delta:
        """The change with its bodies decoded."""
        old, new = (None if bytes(body) == b"null" else _decoders[self.table].decode(body) for body in (self.old, self.new))
        return Delta(self.table, self.id, old, new)


_decoders: dict[str, Any] = {name: msgspec.json.Decoder(kind) for name, kind in TABLES.items()}
_rows = msgspec.json.Decoder(list[_Row])


def changes_of(body: Any, path: Path) -> list[Delta]:
    """The changes of a row of the history; raises BadFile if they cannot be read or would bring in what cannot be kept."""
    try:
        found = [r.change() for r in _rows.decode(body)]
        for change in found:
            for side in (change.old, change.new):
                if side is not None:
                    check_entity(side)
    except (msgspec.MsgspecError, UnicodeDecodeError, KeyError, TypeError, BadValue) as error:
        raise BadFile(f"this step of the history cannot be read: {error}", str(path), "the project is as it was; later steps can still be made") from error
    return found


def check_head(path: Path, suffix: str, version: int, most: int) -> os.stat_result:
    """The facts of a project file; raises BadFile for anything that is none, without waiting on pipes or reading more than its head."""
    right = f"a project file written by this program ({suffix})"
    try:
        facts = plain_file(path, right)
        with path.open("rb") as file:
            head = file.read(100)
    except BadFile:
        raise
    except OSError as error:
        raise BadFile(f"cannot be read: {reason(error)}", str(path), right) from error
    if not head:
        raise BadFile("the file is empty", str(path), right)
    if len(head) < 100 or head[:16] != _HEADER:
        raise BadFile("this is not a project file", str(path), right)
    if int.from_bytes(head[68:72], "big") != PROJECT_MARK:
        raise BadFile("this is a database of another program", str(path), right)
    found = int.from_bytes(head[60:64], "big")
    if found > version:
        raise BadFile(f"the file has version {found}, newer than this program's {version}", str(path), "open it with a newer Tin Cleat")
    if facts.st_size > most:
        raise BadFile(f"the file has {facts.st_size / 1e9:.1f} GB", str(path), f"at most {most / 1e9:.0f} GB")
    return facts


def read_only_reason(path: Path, facts: os.stat_result) -> str:
    """Why a file should be opened without writing to it, in words that follow "since"; empty if there is no reason."""
    if facts.st_nlink > 1:
        return f"the file has {facts.st_nlink} names (hard links), and changes under two names would damage it"
    if not facts.st_mode & (stat.S_IWUSR | stat.S_IWGRP | stat.S_IWOTH):
        return "the file is write-protected"
    if not os.access(path, os.W_OK):
        return "you may not write to the file"
    folder = path.resolve().parent
    if not folder.stat().st_mode & (stat.S_IWUSR | stat.S_IWGRP | stat.S_IWOTH) or not os.access(folder, os.W_OK):
        return "its folder is write-protected"
    return ""


def check_schema(db: sqlite3.Connection, path: Path) -> None:
    """Raises BadFile if the file holds anything but the tables of a project: triggers and views would run inside our own commands."""
    for kind, name, sql in db.execute("SELECT type, name, sql FROM sqlite_master").fetchall():
        if kind in ("trigger", "view"):
            raise BadFile(f"it holds a {kind} ({shown(str(name))[:40]}), which no project has", str(path), "a project file written by this program")
        if kind == "table" and not str(name).startswith("sqlite_") and (name not in _TABLES or re.search(r"\b(VIRTUAL|GENERATED|CHECK|REFERENCES)\b", str(sql), re.I)):
            raise BadFile(f"it holds a table that no project has ({shown(str(name))[:40]})", str(path), "a project file written by this program")
        if kind == "index" and sql:
            raise BadFile(f"it holds an index that no project has ({shown(str(name))[:40]})", str(path), "a project file written by this program")
    for name, columns in _TABLES.items():
        have = tuple(row[1] for row in db.execute(f"PRAGMA table_xinfo({name})"))
        if have != columns and not (name == "stamp" and not have):
            raise BadFile(f"the project is damaged: its table {name} is {'missing' if not have else 'another one'}", str(path), "open a copy kept elsewhere, under its own name")


def load(db: sqlite3.Connection, path: Path, project: Project) -> Loaded:
    """Read all entities into an empty project.  Raises BadFile for damage of the file itself; what single rows hold is set aside and named."""
    out = Loaded()
    elsewhere = "open a copy kept elsewhere, under its own name"
    check = db.execute("PRAGMA quick_check(1)").fetchone()[0]
    if check != "ok":
        raise BadFile(f"the project is damaged: {str(check)[:200]}", str(path), elsewhere)
    meta = dict(db.execute("SELECT key, value FROM meta"))
    if not all(isinstance(meta.get(key), int) for key in ("revision", "number")):
        raise BadFile("the project is damaged: its counters are missing", str(path), elsewhere)
    out.revision = meta["revision"] if 0 <= meta["revision"] < HIGHEST else 0
    highest = 0
    entities: list[Delta] = []
    for tab, key, body in db.execute("SELECT tab, id, body FROM entity ORDER BY tab != 'section', tab, length(id), id"):
        if tab == ASIDE:
            out.aside.append(Aside(ASIDE, shown(str(key)), "it could not be read, and was replaced since"))
            continue
        digits = re.search(r"(\d{1,15})$", str(key))
        highest = max(highest, int(digits[1]) if digits else 0)
        try:
            if tab not in TABLES:
                raise BadValue("nothing of that kind is known; open it with a newer Tin Cleat")
            entity = _decoders[tab].decode(body)
            if entity.id != key:
                raise BadValue(f"it calls itself {entity.id!r}")
            check_entity(entity)
            check_sound(entity)
            entities.append(Delta(tab, key, None, entity))
        except (msgspec.MsgspecError, UnicodeDecodeError, TypeError, TinCleatError) as error:
            out.aside.append(Aside(shown(str(tab)), shown(str(key)), shown(str(error))[:300]))
    for change in entities:
        try:
            project.apply([change])
            new = change.new
            if isinstance(new, Member):
                check_member(project.members[change.id])
        except TinCleatError as error:
            project.tables[change.table].pop(change.id, None)
            out.aside.append(Aside(change.table, change.id, shown(str(error))[:300]))
    if "house" not in project.tables["house"]:
        project.tables["house"]["house"] = HouseRules()
    if any(a.table == "house" for a in out.aside):
        out.notes.append("the house rules could not be read; default ones are in force until they are set again")
    number = meta["number"]
    project.last_number = number if highest <= number < HIGHEST else highest
    if number != project.last_number:
        out.notes.append(f"the counter of names stood at {number}; it was set to {project.last_number}")
    if out.aside:
        many = len(out.aside) != 1
        words = f"{len(out.aside)} things in the file could not be read and were set aside; they stay" if many else "one thing in the file could not be read and was set aside; it stays"
        out.notes.append(f"{words} in the file: " + "; ".join(str(a) for a in out.aside[:20]))
    return out
