"""The project file: SQLite, one row an entity, one row a command, every command one committed transaction.

A killed process loses nothing that was committed (write-ahead log, full sync).  Files are treated as hostile: the
header, the application number and the version are checked, every body is decoded against its type.
"""

import contextlib
import os
import sqlite3
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

import msgspec

from tincleat.errors import BadFile, BadValue, Refused, TinCleatError
from tincleat.project.entities import TABLES, Delta, HouseRules
from tincleat.project.members import check_member
from tincleat.project.project import Project, inverse

APPLICATION = 0x54696E43  # "TinC"
# 2: runs, references, snapshots; 3: polygon cuts, locks, tapered girders.  Older files are read, and become this with their next change
VERSION = 3
SUFFIX = ".tincleat"
_HEADER = b"SQLite format 3\x00"
_SCHEMA = """
CREATE TABLE meta (key TEXT PRIMARY KEY, value) WITHOUT ROWID;
CREATE TABLE entity (tab TEXT NOT NULL, id TEXT NOT NULL, body BLOB NOT NULL, PRIMARY KEY (tab, id)) WITHOUT ROWID;
CREATE TABLE history (seq INTEGER PRIMARY KEY AUTOINCREMENT, command TEXT NOT NULL, title TEXT NOT NULL, args BLOB NOT NULL,
                      changes BLOB NOT NULL, done INTEGER NOT NULL DEFAULT 1);
"""


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


class Step(msgspec.Struct, frozen=True):
    """A command in the history."""

    seq: int
    command: str
    title: str
    done: bool


_encoder = msgspec.json.Encoder()
_decoders: dict[str, Any] = {name: msgspec.json.Decoder(kind) for name, kind in TABLES.items()}
_rows = msgspec.json.Decoder(list[_Row])


class Store:
    """An open project file and the project it holds."""

    def __init__(self, path: Path, connection: sqlite3.Connection) -> None:
        """Use :meth:`create` or :meth:`open`."""
        self.path, self._db = path, connection
        self.project = Project()
        self._revision = 0

    @classmethod
    def create(cls, path: "str | Path", house: HouseRules | None = None, overwrite: bool = False) -> "Store":
        """A new project file; raises :class:`BadFile` if it exists (unless ``overwrite``) or its folder does not."""
        path = Path(path)
        if path.is_dir():
            raise BadFile("this is a folder, not a file", str(path), f"a file name ending in {SUFFIX}")
        if not path.parent.is_dir():
            raise BadFile("its folder does not exist", str(path), "make the folder first or choose another")
        if path.exists() and not overwrite:
            raise BadFile("the file exists already", str(path), "choose another name, or delete it first")
        for name in (path, Path(f"{path}-wal"), Path(f"{path}-shm")):
            name.unlink(missing_ok=True)
        try:
            with contextlib.closing(sqlite3.connect(path, isolation_level=None)) as db:
                # numbers and tables go into the file itself before the log is switched on: a later kill cannot leave it unmarked
                db.execute(f"PRAGMA application_id = {APPLICATION}")
                db.execute(f"PRAGMA user_version = {VERSION}")
                db.executescript(f"BEGIN; {_SCHEMA} INSERT INTO meta VALUES ('revision', 0), ('number', 0); COMMIT;")
            store = cls(path, _connect(path))
        except (sqlite3.Error, OSError) as error:
            raise BadFile(f"cannot be written: {error}", str(path), "a place you may write to") from error
        if house is not None:
            store.project.apply(store.project.put(house))
        with store._transaction():
            store._write("house", "house", store.project.house)
        return store

    @classmethod
    def open(cls, path: "str | Path") -> "Store":
        """Open a project file; raises :class:`BadFile` saying what is wrong with it, and leaves it as it was."""
        path = Path(path)
        right = f"a project file written by this program ({SUFFIX})"
        if path.is_dir():
            raise BadFile("this is a folder, not a project file", str(path), right)
        try:
            with path.open("rb") as file:
                head = file.read(100)
        except FileNotFoundError:
            raise BadFile("there is no such file", str(path), right) from None
        except OSError as error:
            raise BadFile(f"cannot be read: {error.strerror}", str(path), right) from error
        if not head:
            raise BadFile("the file is empty", str(path), right)
        if len(head) < 100 or head[:16] != _HEADER:
            raise BadFile("this is not a project file", str(path), right)
        if int.from_bytes(head[68:72], "big") != APPLICATION:
            raise BadFile("this is a database of another program", str(path), right)
        version = int.from_bytes(head[60:64], "big")
        if version > VERSION:
            raise BadFile(f"the file has version {version}, newer than this program's {VERSION}", str(path), "open it with a newer Tin Cleat")
        store = None
        try:
            store = cls(path, _connect(path))
            store._load()
        except BadFile:
            if store is not None:
                store._db.close()
            raise
        except (sqlite3.Error, msgspec.MsgspecError, UnicodeDecodeError) as error:
            if store is not None:
                store._db.close()
            raise BadFile(f"the project is damaged: {error}", str(path), "restore it from a copy") from error
        return store

    def _load(self) -> None:
        check = self._db.execute("PRAGMA quick_check(1)").fetchone()[0]
        if check != "ok":
            raise BadFile(f"the project is damaged: {check}", str(self.path), "restore it from a copy")
        meta = dict(self._db.execute("SELECT key, value FROM meta"))
        if not all(isinstance(meta.get(key), int) for key in ("revision", "number")):
            raise BadFile("the project is damaged: its counters are missing", str(self.path), "restore it from a copy")
        self._revision, self.project.last_number = meta["revision"], meta["number"]
        for tab, key, body in self._db.execute("SELECT tab, id, body FROM entity ORDER BY tab, length(id), id"):
            if tab not in TABLES:
                raise BadFile(f"unknown table {tab!r}", str(self.path), "open it with a newer Tin Cleat")
            try:
                entity = _decoders[tab].decode(body)
            except msgspec.MsgspecError as error:
                raise BadFile(f"the project is damaged at {tab} {key}: {error}", str(self.path), "restore it from a copy") from error
            try:
                self.project.apply([Delta(tab, key, None, entity)])
            except BadValue as error:
                raise BadFile(f"the project is damaged at {tab} {key}: {error}", str(self.path), "restore it from a copy") from error
        for key, member in self.project.members.items():
            try:
                check_member(member)
            except TinCleatError as error:
                raise BadFile(f"the project is damaged at member {key}: {error}", str(self.path), "restore it from a copy") from error

    def close(self) -> None:
        """Close the file; everything is already kept."""
        self._db.close()

    @contextlib.contextmanager
    def _transaction(self) -> Iterator[None]:
        self._db.execute("BEGIN IMMEDIATE")
        try:
            yield
        except BaseException:
            self._db.execute("ROLLBACK")
            raise
        self._db.execute("COMMIT")

    def _write(self, table: str, key: str, entity: object) -> None:
        if entity is None:
            self._db.execute("DELETE FROM entity WHERE tab = ? AND id = ?", (table, key))
        else:
            self._db.execute("INSERT OR REPLACE INTO entity VALUES (?, ?, ?)", (table, key, _encoder.encode(entity)))

    def _bump(self) -> None:
        found = self._db.execute("SELECT value FROM meta WHERE key = 'revision'").fetchone()[0]
        if found != self._revision:
            raise Refused("the project was changed by another program run meanwhile", str(self.path), "open it again to see the change")
        self._db.execute(f"PRAGMA user_version = {VERSION}")
        self._db.execute("UPDATE meta SET value = ? WHERE key = 'revision'", (self._revision + 1,))
        self._db.execute("UPDATE meta SET value = ? WHERE key = 'number'", (self.project.last_number,))

    @contextlib.contextmanager
    def _kept(self) -> Iterator[None]:
        """A transaction that moves the revision on; database errors become a :class:`BadFile`."""
        try:
            with self._transaction():
                self._bump()
                yield
        except sqlite3.Error as error:
            raise BadFile(f"the change could not be kept: {error}", str(self.path), "free some disk space or save elsewhere") from error
        self._revision += 1

    def commit(self, steps: "Sequence[tuple[str, str, object, Sequence[Delta]]]") -> None:
        """Keep executed commands, each (command, title, arguments, changes), in one transaction; redo is cleared."""
        with self._kept():
            self._db.execute("DELETE FROM history WHERE done = 0")
            for command, title, args, changes in steps:
                for change in changes:
                    self._write(change.table, change.id, change.new)
                self._db.execute(
                    "INSERT INTO history (command, title, args, changes) VALUES (?, ?, ?, ?)",
                    (command, title, _encoder.encode(args), _encoder.encode(list(changes))),
                )

    def history(self, most: int = 200) -> list[Step]:
        """The latest commands, newest first; ``done`` is False for those taken back."""
        found = self._db.execute("SELECT seq, command, title, done FROM history ORDER BY seq DESC LIMIT ?", (most,))
        return [Step(seq, command, title, bool(done)) for seq, command, title, done in found]

    def next_undo(self) -> str:
        """Title of the command that undo would take back, or an empty text."""
        row = self._db.execute("SELECT title FROM history WHERE done = 1 ORDER BY seq DESC LIMIT 1").fetchone()
        return row[0] if row else ""

    def next_redo(self) -> str:
        """Title of the command that redo would do again, or an empty text."""
        row = self._db.execute("SELECT title FROM history WHERE done = 0 ORDER BY seq LIMIT 1").fetchone()
        return row[0] if row else ""

    def undo(self) -> list[Delta]:
        """Take the last command back, kept at once; the changes that were applied (none if there is nothing to undo)."""
        return self._turn("SELECT seq, changes FROM history WHERE done = 1 ORDER BY seq DESC LIMIT 1", 0)

    def redo(self) -> list[Delta]:
        """Do the last undone command again, kept at once; the changes that were applied."""
        return self._turn("SELECT seq, changes FROM history WHERE done = 0 ORDER BY seq LIMIT 1", 1)

    def _turn(self, query: str, done: int) -> list[Delta]:
        row = self._db.execute(query).fetchone()
        if row is None:
            return []
        changes = [r.change() for r in _rows.decode(row[1])]
        if not done:
            changes = inverse(changes)
        with self._kept():
            for change in changes:
                self._write(change.table, change.id, change.new)
            self._db.execute("UPDATE history SET done = ? WHERE seq = ?", (done, row[0]))
        self.project.apply(changes)
        return changes

    def copy_to(self, path: "str | Path") -> None:
        """Write a whole copy of the project, history included, to another file (replacing it only once complete)."""
        target = Path(path)
        part = target.with_name(target.name + ".part")
        try:
            part.unlink(missing_ok=True)
            with contextlib.closing(sqlite3.connect(part)) as copy:
                self._db.backup(copy)
            os.replace(part, target)
        except (sqlite3.Error, OSError) as error:
            part.unlink(missing_ok=True)
            raise BadFile(f"the copy could not be written: {error}", str(target), "a place you may write to") from error


def _connect(path: Path) -> sqlite3.Connection:
    db = sqlite3.connect(path, isolation_level=None, timeout=5.0)
    db.execute("PRAGMA journal_mode = WAL")
    db.execute("PRAGMA synchronous = FULL")
    db.execute("PRAGMA trusted_schema = OFF")
    return db
