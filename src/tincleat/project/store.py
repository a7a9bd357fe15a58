"""The project file: SQLite, one row an entity, one row a command, every command one committed transaction.

A killed process loses nothing that was committed (write-ahead log, full sync).  Before anything is called kept, the file at the
path is looked at: it must still be the one that was opened.
"""

import contextlib
import os
import secrets
import sqlite3
import tempfile
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path

import msgspec

from tincleat.errors import BadFile, Refused
from tincleat.files import part_of, put_in_place, same_file, sweep, target_of, written
from tincleat.project.entities import Delta as Delta
from tincleat.project.entities import HouseRules, encoded
from tincleat.project.logs import NO_STAMP, beside, is_foreign, log_of, put_aside, settle, stamp_in_file, stamp_text, stamps_in_log, uri
from tincleat.project.project import Project, inverse
from tincleat.project.reading import ASIDE, HIGHEST, Aside, changes_of, check_head, check_schema, load, read_only_reason

# 2: runs, references, snapshots; 3: polygon cuts, locks, tapered girders; 4: stamps and an identity.  Older files are read, and become this with their next change
VERSION = 5
APPLICATION = 0x54696E43  # "TinC"
SUFFIX = ".tincleat"
MOST_FILE = 4_000_000_000
_SCHEMA = """
CREATE TABLE meta (key TEXT PRIMARY KEY, value) WITHOUT ROWID;
CREATE TABLE entity (tab TEXT NOT NULL, id TEXT NOT NULL, body BLOB NOT NULL, PRIMARY KEY (tab, id)) WITHOUT ROWID;
CREATE TABLE history (seq INTEGER PRIMARY KEY AUTOINCREMENT, command TEXT NOT NULL, title TEXT NOT NULL, args BLOB NOT NULL,
                      changes BLOB NOT NULL, done INTEGER NOT NULL DEFAULT 1);
"""
_STAMPS = "CREATE TABLE stamp (id INTEGER PRIMARY KEY, text TEXT NOT NULL)"
_ELSEWHERE = "save the project elsewhere with Save a copy, and go on there"


class Step(msgspec.Struct, frozen=True):
    """A command in the history."""

    seq: int
    command: str
    title: str
    done: bool


class Turn(msgspec.Struct, frozen=True):
    """A command about to be taken back or done again: its changes in the order to apply them."""

    seq: int
    title: str
    done: int
    changes: list[Delta]


class Store:
    """An open project file and the project it holds.

    ``aside`` lists what stands in the file but could not be read, ``notes`` what else was found on opening, ``read_only`` why nothing can be kept.
    """

    def __init__(self, path: Path, connection: sqlite3.Connection, read_only: str = "") -> None:
        """Use :meth:`create` or :meth:`open`."""
        self.path, self._db = path, connection
        self.project = Project()
        self.read_only = read_only
        self.aside: list[Aside] = []
        self.notes: list[str] = []
        self._scratch: tempfile.TemporaryDirectory[str] | None = None
        self._revision = 0
        self._stamp = NO_STAMP
        self._stamps: set[str] = set()
        self._file: tuple[int, int] = (0, 0)
        self._seen: tuple[int, int] = (0, 0)

    # --- opening ---------------------------------------------------------------

    @classmethod
    def create(cls, path: "str | Path", house: HouseRules | None = None, overwrite: bool = False) -> "Store":
        """A new project file; raises :class:`BadFile` if it exists (unless ``overwrite``) or its folder does not."""
        return cls.create_whole(path, lambda part: _blank(part, house), overwrite)

    @classmethod
    def create_whole(cls, path: "str | Path", make: Callable[[Path], None], overwrite: bool = False) -> "Store":
        """A new project file that ``make`` writes under another name first: whoever is stopped on the way leaves no half made project."""
        path = Path(path)
        target = target_of(path, projects=True)
        if target.exists() and not overwrite:
            raise BadFile("the file exists already", str(path), "choose another name, or delete it first")
        sweep(target.parent)
        part = part_of(target)
        try:
            with written(path):
                try:
                    make(part)
                    if not settle(target):
                        raise BadFile("the project to be replaced is open", str(path), "close it there, or choose another name")
                    put_in_place(part, target)
                finally:
                    for name in (part, *beside(part), Path(f"{part}-journal")):
                        name.unlink(missing_ok=True)
        except sqlite3.Error as error:
            raise BadFile(f"cannot be written: {error}", str(path), "a place you may write to") from error
        return cls.open(target)

    @classmethod
    def open(cls, path: "str | Path") -> "Store":
        """Open a project file; raises :class:`BadFile` saying what is wrong with it, and leaves it as it was.

        One that cannot be written opens read-only, and says why.
        """
        path = Path(path)
        facts = check_head(path, SUFFIX, VERSION, MOST_FILE)
        path = path.resolve()
        sweep(path.parent)
        why = read_only_reason(path, facts)
        notes = []
        if foreign := is_foreign(path):
            if why:
                why += "; the log beside it belongs to another file and was not read"
            else:
                aside = put_aside(path)
                notes.append(f"beside it lay the log of another file with {foreign} change{'s' if foreign != 1 else ''}; nothing of it was read, it is now called {aside.name}")
        store = None
        try:
            store = cls._unread(path, why, bool(foreign))
            store.notes += notes
            check_schema(store._db, path)
            store._load()
        except BadFile:
            if store is not None:
                store.close()
            raise
        except sqlite3.Error as error:
            if store is not None:
                store.close()
            if "locked" in str(error) or "busy" in str(error):
                raise BadFile("another program has locked the file", str(path), "close it there, then open it again") from error
            if isinstance(error, sqlite3.OperationalError) and ("disk I/O" in str(error) or "unable to open" in str(error)):
                raise BadFile(f"the file cannot be read: {error}", str(path), "look at the disk, or try again") from error
            raise BadFile(f"the project is damaged: {error}", str(path), "open a copy kept elsewhere, under its own name") from error
        return store

    @classmethod
    def _unread(cls, path: Path, why: str, foreign: bool) -> "Store":
        """A store on the file, read-only if there is a reason ``why`` or the file turns out not to be writable."""
        if not why:
            try:
                store = cls(path, _connect(path))
            except sqlite3.OperationalError as error:
                if "readonly" not in str(error) and "unable to open" not in str(error):
                    raise
                why = "the file cannot be written here"
            else:
                facts = path.stat()
                store._file, store._seen = (facts.st_dev, facts.st_ino), (facts.st_mtime_ns, facts.st_size)
                return store
        log = log_of(path)
        if not foreign and log.exists() and log.stat().st_size:
            # what stands in the log only is read from a copy of both, since the log cannot be worked on here
            scratch = tempfile.TemporaryDirectory(prefix="tincleat-")
            copy = Path(scratch.name) / path.name
            copy.write_bytes(path.read_bytes())
            log_of(copy).write_bytes(log.read_bytes())
            store = cls(path, _connect(copy), why)
            store._scratch = scratch
        else:
            store = cls(path, sqlite3.connect(uri(path, "mode=ro&immutable=1"), uri=True, isolation_level=None, check_same_thread=False), why)
            store._db.execute("PRAGMA trusted_schema = OFF")
        return store

    def _load(self) -> None:
        found = load(self._db, self.path, self.project)
        self.aside, self._revision = found.aside, found.revision
        self.notes += found.notes
        with contextlib.suppress(sqlite3.OperationalError):  # no stamps before version 4
            row = self._db.execute("SELECT text FROM stamp").fetchone()
            self._stamp = str(row[0])[-16:] if row else NO_STAMP
        was, now, _ = stamps_in_log(log_of(self.path))
        self._stamps = {self._stamp, stamp_in_file(self.path) or NO_STAMP} | was | now
        identity = self._db.execute("SELECT value FROM meta WHERE key = 'identity'").fetchone()
        if identity is not None and isinstance(identity[0], str) and len(identity[0]) == 32:
            self.project.identity = identity[0]
        else:
            self.project.identity = secrets.token_hex(16)
            if not self.read_only:
                with self._transaction():
                    self._db.execute("INSERT OR REPLACE INTO meta VALUES ('identity', ?)", (self.project.identity,))

    def close(self) -> None:
        """Close the file; everything is already kept."""
        self._db.close()
        if self._scratch is not None:
            self._scratch.cleanup()
            self._scratch = None

    # --- keeping ---------------------------------------------------------------

    def trouble(self) -> str:
        """What became of the file at the path while it was open, in words; empty as long as it is the one that was opened."""
        if self.read_only:
            return ""
        try:
            facts = os.stat(self.path)
        except FileNotFoundError:
            return "its file is gone: it was renamed, moved or deleted while the project was open"
        except OSError as error:
            return f"its file cannot be reached any more: {error.strerror}"
        if (facts.st_dev, facts.st_ino) != self._file:
            return "another file was put in the place of its file while the project was open"
        if (facts.st_mtime_ns, facts.st_size) != self._seen:
            if stamp_in_file(self.path) not in self._stamps and self._db_revision() in (None, self._revision):
                return "its file was written over by another program while the project was open"
            self._seen = (facts.st_mtime_ns, facts.st_size)
        return ""

    def _db_revision(self) -> int | None:
        try:
            row = self._db.execute("SELECT value FROM meta WHERE key = 'revision'").fetchone()
        except sqlite3.Error:
            return None
        return row[0] if row else None

    @contextlib.contextmanager
    def _transaction(self) -> Iterator[None]:
        self._db.execute("BEGIN IMMEDIATE")
        try:
            yield
            self._db.execute("COMMIT")
        except BaseException:
            if self._db.in_transaction:
                self._db.execute("ROLLBACK")
            raise
        with contextlib.suppress(OSError):
            facts = os.stat(self.path)
            if (facts.st_dev, facts.st_ino) == self._file:
                self._seen = (facts.st_mtime_ns, facts.st_size)

    def _write(self, table: str, key: str, entity: object) -> None:
        for odd in self.aside:
            if (odd.table, odd.id) == (table, key):  # what could not be read is kept beside what takes its place
                self._db.execute("INSERT OR REPLACE INTO entity SELECT ?, tab || ' ' || id, body FROM entity WHERE tab = ? AND id = ?", (ASIDE, table, key))
        if entity is None:
            self._db.execute("DELETE FROM entity WHERE tab = ? AND id = ?", (table, key))
        else:
            self._db.execute("INSERT OR REPLACE INTO entity VALUES (?, ?, ?)", (table, key, encoded(entity)))

    def _bump(self) -> str:
        """Move the revision and the stamp on; the new stamp."""
        found = self._db.execute("SELECT value FROM meta WHERE key = 'revision'").fetchone()[0]
        if found != self._revision and 0 <= found < HIGHEST:
            raise Refused("the project was changed by another program run meanwhile", str(self.path), "open it again to see the change")
        self._db.execute(f"PRAGMA user_version = {VERSION}")
        self._db.execute("UPDATE meta SET value = ? WHERE key = 'revision'", (self._revision + 1,))
        self._db.execute("INSERT OR REPLACE INTO meta VALUES ('number', ?)", (self.project.last_number,))
        now = secrets.token_hex(8)
        if not self._db.execute("SELECT 1 FROM sqlite_master WHERE name = 'stamp'").fetchone():
            self._db.execute(_STAMPS)
        self._db.execute("INSERT OR REPLACE INTO stamp VALUES (1, ?)", (stamp_text(self._stamp, now),))
        return now

    @contextlib.contextmanager
    def _kept(self) -> Iterator[None]:
        """A transaction that moves the revision on; database errors become a :class:`BadFile`, a file that is not ours any more a Refused."""
        if self.read_only:
            raise Refused(f"nothing can be kept: the project is open read-only, since {self.read_only}", str(self.path), _ELSEWHERE)
        if trouble := self.trouble():
            raise Refused(f"the change was not kept: {trouble}", str(self.path), _ELSEWHERE)
        try:
            with self._transaction():
                now = self._bump()
                yield
        except sqlite3.Error as error:
            words = str(error)
            if "locked" in words:
                raise Refused("another program is writing to the project", str(self.path), "try again when it has finished") from error
            if "full" in words:
                raise BadFile("the change could not be kept: the disk is full", str(self.path), "free some disk space or save elsewhere") from error
            raise BadFile(f"the change could not be kept: {words}", str(self.path), _ELSEWHERE) from error
        self._revision += 1
        self._stamp = now
        self._stamps.add(now)

    def commit(self, steps: "Sequence[tuple[str, str, object, Sequence[Delta]]]") -> None:
        """Keep executed commands, each (command, title, arguments, changes), in one transaction; redo is cleared."""
        rows = [(command, title[:500], encoded(args), encoded(list(changes)), changes) for command, title, args, changes in steps]
        with self._kept():
            self._db.execute("DELETE FROM history WHERE done = 0")
            last = self._db.execute("SELECT coalesce(max(seq), 0) FROM history").fetchone()[0]
            if last >= HIGHEST:  # a file with counters at their end is counted anew
                for i, (seq,) in enumerate(self._db.execute("SELECT seq FROM history ORDER BY seq").fetchall(), 1):
                    self._db.execute("UPDATE history SET seq = ? WHERE seq = ?", (-i, seq))
                self._db.execute("UPDATE history SET seq = -seq")
                last = self._db.execute("SELECT max(seq) FROM history").fetchone()[0]
            for i, (command, title, args, body, changes) in enumerate(rows, 1):
                for change in changes:
                    self._write(change.table, change.id, change.new)
                self._db.execute("INSERT INTO history (seq, command, title, args, changes) VALUES (?, ?, ?, ?, ?)", (last + i, command, title, args, body))

    def history(self, most: int = 200) -> list[Step]:
        """The latest commands, newest first; ``done`` is False for those taken back."""
        found = self._db.execute("SELECT seq, command, title, done FROM history ORDER BY seq DESC LIMIT ?", (most,))
        return [Step(seq, str(command), str(title), bool(done)) for seq, command, title, done in found]

    def next_undo(self) -> str:
        """Title of the command that undo would take back, or an empty text."""
        row = self._db.execute("SELECT title FROM history WHERE done = 1 ORDER BY seq DESC LIMIT 1").fetchone()
        return str(row[0]) if row else ""

    def next_redo(self) -> str:
        """Title of the command that redo would do again, or an empty text."""
        row = self._db.execute("SELECT title FROM history WHERE done = 0 ORDER BY seq LIMIT 1").fetchone()
        return str(row[0]) if row else ""

    def undo_turn(self) -> Turn | None:
        """The last command about to be taken back, or None; raises BadFile if the history is damaged there."""
        row = self._db.execute("SELECT seq, title, changes FROM history WHERE done = 1 ORDER BY seq DESC LIMIT 1").fetchone()
        return Turn(row[0], str(row[1]), 0, inverse(changes_of(row[2], self.path))) if row else None

    def redo_turn(self) -> Turn | None:
        """The last command taken back, about to be done again, or None; raises BadFile if the history is damaged there."""
        row = self._db.execute("SELECT seq, title, changes FROM history WHERE done = 0 ORDER BY seq LIMIT 1").fetchone()
        return Turn(row[0], str(row[1]), 1, changes_of(row[2], self.path)) if row else None

    def keep_turn(self, turn: Turn) -> None:
        """Keep a command taken back or done again."""
        with self._kept():
            for change in turn.changes:
                self._write(change.table, change.id, change.new)
            self._db.execute("UPDATE history SET done = ? WHERE seq = ?", (turn.done, turn.seq))

    # --- copies ----------------------------------------------------------------

    def copy_to(self, path: "str | Path") -> str:
        """Write a whole copy of the project to another file (replacing it only once complete); what the copy lacks, in words, or an empty text.

        A project whose own file was written over is written from memory, without its history.  Raises BadFile.
        """
        target = target_of(path, projects=True)
        overwritten = "written over" in self.trouble()
        if same_file(target, self.path) and not self.trouble():
            raise BadFile("this is the project itself, and everything in it is kept already", str(path), "another name")

        def copied(part: Path) -> None:
            with contextlib.closing(sqlite3.connect(part)) as copy:
                self._db.backup(copy)

        type(self).create_whole(path, self._from_memory if overwritten else copied, overwrite=True).close()
        return "the copy has no history: the file it stood in was written over" if overwritten else ""

    def _from_memory(self, part: Path) -> None:
        _blank(part, self.project.house, self.project.identity)
        with contextlib.closing(sqlite3.connect(part)) as db:
            for table, rows in self.project.tables.items():
                db.executemany("INSERT OR REPLACE INTO entity VALUES (?, ?, ?)", [(table, key, encoded(e)) for key, e in rows.items()])
            db.execute("UPDATE meta SET value = ? WHERE key = 'number'", (self.project.last_number,))
            db.commit()


def _blank(part: Path, house: HouseRules | None, identity: str = "") -> None:
    """A project file that holds house rules and nothing else; marked as a project before anything else is written."""
    with contextlib.closing(sqlite3.connect(part, isolation_level=None)) as db:
        db.execute(f"PRAGMA application_id = {APPLICATION}")
        db.execute(f"PRAGMA user_version = {VERSION}")
        db.executescript(f"BEGIN; {_SCHEMA} {_STAMPS}; INSERT INTO meta VALUES ('revision', 0), ('number', 0); COMMIT;")
        db.execute("INSERT INTO meta VALUES ('identity', ?)", (identity or secrets.token_hex(16),))
        db.execute("INSERT INTO stamp VALUES (1, ?)", (stamp_text(NO_STAMP, secrets.token_hex(8)),))
        db.execute("INSERT INTO entity VALUES ('house', 'house', ?)", (encoded(house or HouseRules()),))


def _connect(path: Path) -> sqlite3.Connection:
    db = sqlite3.connect(uri(path, "mode=rw"), uri=True, isolation_level=None, timeout=5.0, check_same_thread=False)  # it may be opened in the background and is worked on in front
    try:
        db.execute("PRAGMA trusted_schema = OFF")
        db.execute("PRAGMA cell_size_check = ON")
        db.execute("PRAGMA journal_mode = WAL")
        db.execute("PRAGMA synchronous = FULL")
    except BaseException:
        db.close()
        raise
    return db
