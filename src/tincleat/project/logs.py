"""The log beside a project file: whether it belongs to that file.

SQLite replays whatever write-ahead log lies beside a database, though somebody may have put another file in its place.  So
every commit writes a stamp, ``TCSTAMP:was:now``, that names the commit before it: a log belongs to a file when the file's own
stamp is one that the log begins with or passes through.
"""

import contextlib
import os
import re
import sqlite3
import struct
from pathlib import Path
from urllib.parse import quote

from tincleat.files import is_project, same_file

NO_STAMP = "0" * 16
_STAMP = re.compile(rb"TCSTAMP:([0-9a-f]{16}):([0-9a-f]{16})")
MOST_LOG = 1_000_000_000


def stamp_text(was: str, now: str) -> str:
    """A commit's stamp as it is kept."""
    return f"TCSTAMP:{was}:{now}"


def log_of(path: Path) -> Path:
    """The write-ahead log beside a project file."""
    return Path(f"{path}-wal")


def beside(path: Path) -> tuple[Path, Path]:
    """The log and the shared-memory file beside a project file."""
    return log_of(path), Path(f"{path}-shm")


def uri(path: Path, how: str) -> str:
    """A database's address for SQLite, its name quoted."""
    return f"file:{quote(str(path.absolute()), safe='/')}?{how}"


def stamp_in_file(path: Path) -> str | None:
    """The stamp that stands in the file itself, its log not looked at: ``NO_STAMP`` for files that have none, None if it cannot be read."""
    try:
        with contextlib.closing(sqlite3.connect(uri(path, "mode=ro&immutable=1"), uri=True)) as db:
            row = db.execute("SELECT text FROM stamp").fetchone()
    except sqlite3.OperationalError as error:
        return NO_STAMP if "no such table" in str(error) else None
    except sqlite3.Error:
        return None
    found = _STAMP.fullmatch(str(row[0]).encode()) if row else None
    return found[2].decode() if found else None


def stamps_in_log(log: Path) -> "tuple[set[str], set[str], int]":
    """The stamps of the committed frames of a log: those they follow, those they make, and how many commits there are."""
    try:
        size = log.stat().st_size
        if size < 32 or size > MOST_LOG:
            return set(), set(), 0
        data = log.read_bytes()
    except OSError:
        return set(), set(), 0
    magic, _, page = struct.unpack(">III", data[:12])
    if magic not in (0x377F0682, 0x377F0683) or not 512 <= page <= 65536:
        return set(), set(), 0
    salts, frame = data[16:24], page + 24
    was: set[str] = set()
    now: set[str] = set()
    held: list[tuple[str, str]] = []
    commits = 0
    for at in range(32, size - frame + 1, frame):
        if data[at + 8 : at + 16] != salts:
            break
        held += [(a.decode(), b.decode()) for a, b in _STAMP.findall(data, at + 24, at + frame)]
        if struct.unpack(">I", data[at + 4 : at + 8])[0]:
            commits += 1
            was |= {a for a, _ in held}
            now |= {b for _, b in held}
            held = []
    return was, now, commits


def is_foreign(path: Path) -> int:
    """How many commits the log beside a file holds if it is another file's log; 0 if it is its own or there is none."""
    was, now, commits = stamps_in_log(log_of(path))
    if not commits:
        return 0
    own = stamp_in_file(path)
    if own is None:  # in the middle of being brought up to date: only its own log can be meant to mend it
        return 0
    if own == NO_STAMP and not was:
        return 0  # written before stamps were
    return 0 if own in was | now else commits


def put_aside(path: Path) -> Path:
    """Give the log beside a file another name, under which nothing reads it; the new name."""
    log, shared = beside(path)
    for i in range(1, 1000):
        name = Path(f"{log}.not-its-own-{i}")
        if not name.exists():
            break
    os.replace(log, name)
    shared.unlink(missing_ok=True)
    return name


def settle(target: Path) -> bool:
    """Make a project that is to be written over whole in its own file, so that no log is left beside it; False if another program has it open.

    Logs of files that are gone are removed.
    """
    log, shared = beside(target)
    if target.exists() and is_project(target) and _open_elsewhere(target):
        return False
    if target.exists() and log.exists() and not is_foreign(target):
        try:
            with contextlib.closing(sqlite3.connect(uri(target, "mode=rw"), uri=True, timeout=0.2)) as db:
                busy = db.execute("PRAGMA wal_checkpoint(TRUNCATE)").fetchone()[0]
                if busy:
                    return False
        except sqlite3.OperationalError as error:
            if "locked" in str(error):
                return False
        except sqlite3.Error:
            pass  # too damaged to be settled, and to be written over anyway
    for name in (log, shared):
        name.unlink(missing_ok=True)
    return True


def _open_elsewhere(target: Path) -> bool:
    """Whether a process (this one included) holds the file open."""
    for entry in Path("/proc").glob("[0-9]*/fd"):
        with contextlib.suppress(OSError):
            for link in entry.iterdir():
                with contextlib.suppress(OSError):
                    if same_file(Path(os.readlink(link)), target):
                        return True
    return False
