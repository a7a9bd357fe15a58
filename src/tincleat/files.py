"""Files written whole or not at all, by one way: regular files only, through a neighbour that is renamed into place.

Neighbours of writers that died are swept up at the next write or start beside them.
"""

import contextlib
import csv
import errno
import io
import os
import re
import stat
from collections.abc import Callable, Iterator
from pathlib import Path

from tincleat.errors import BadFile

PROJECT_MARK = 0x54696E43  # "TinC", the application number in the head of a project file
_SQLITE = b"SQLite format 3\x00"
_PART = re.compile(r"^\..+\.part-(\d+)(?:\..*)?$")


def plain_file(path: Path, right: str) -> os.stat_result:
    """The facts of a file that is there to be read; raises BadFile for what is none, without opening it (a pipe would wait for ever)."""
    try:
        facts = path.stat()
    except FileNotFoundError:
        raise BadFile("there is no such file", str(path), right) from None
    except (OSError, ValueError) as error:
        raise BadFile(f"cannot be read: {reason(error)}", str(path), right) from error
    if stat.S_ISDIR(facts.st_mode):
        raise BadFile("this is a folder, not a file", str(path), right)
    if not stat.S_ISREG(facts.st_mode):
        raise BadFile("this is a device or a pipe, not a file", str(path), right)
    return facts


def read_whole(path: "str | Path", most: int, right: str) -> bytes:
    """The bytes of a regular file of at most ``most`` bytes; raises BadFile."""
    path = Path(path)
    size = plain_file(path, right).st_size
    if size > most:
        raise BadFile(f"the file has {size / 1e6:.1f} MB", str(path), f"at most {most / 1e6:.0f} MB")
    try:
        return path.read_bytes()
    except OSError as error:
        raise BadFile(f"cannot be read: {reason(error)}", str(path), right) from error


def read_rows(path: "str | Path", most: int, right: str) -> list[list[str]]:
    """The rows of a CSV file (UTF-8) of at most ``most`` bytes, its head first, blank ones left out; raises BadFile."""
    try:
        text = read_whole(path, most, right).decode("utf-8-sig")
        return [row for row in csv.reader(io.StringIO(text, newline=""), strict=True) if any(cell.strip() for cell in row)]
    except (UnicodeDecodeError, csv.Error) as error:
        raise BadFile(f"cannot be read: {error}", str(path), right) from None


def is_project(path: Path) -> bool:
    """Whether a regular file's head is that of a project of this program."""
    try:
        if not stat.S_ISREG(path.stat().st_mode):
            return False
        with path.open("rb") as file:
            head = file.read(100)
    except OSError:
        return False
    return len(head) == 100 and head[:16] == _SQLITE and int.from_bytes(head[68:72], "big") == PROJECT_MARK


def target_of(path: "str | Path", keep: "tuple[Path, ...]" = (), projects: bool = False) -> Path:
    """Where writing to ``path`` ends up (links followed); raises BadFile for what must not be written over.

    That is anything but a regular file, the files in ``keep`` (those being read), and projects unless ``projects``.
    """
    path = Path(path)
    try:
        target = path.resolve()
        parent = target.parent.is_dir()
        there = target.exists()
    except (OSError, ValueError, RuntimeError) as error:
        raise BadFile(f"is no place to write to: {reason(error)}", str(path), "a file name in a folder that exists") from error
    if not parent:
        raise BadFile("its folder does not exist", str(path), "make the folder first or choose another")
    if there:
        plain_file(target, "a file name")
        if any(same_file(target, k) for k in keep):
            raise BadFile("this is the file that is being read or worked on", str(path), "another name")
        if not projects and is_project(target):
            raise BadFile("this is a Tin Cleat project, which an export never writes over", str(path), "another name")
    elif not target.name or len(target.name.encode("utf-8", "surrogateescape")) > 200:
        raise BadFile("the name is too long", str(path), "at most 200 letters")
    return target


def same_file(a: Path, b: Path) -> bool:
    """Whether two paths are one file, by whatever names."""
    try:
        return os.path.samefile(a, b)
    except (OSError, ValueError):
        return False


def part_of(target: Path) -> Path:
    """The neighbour that becomes ``target``; its suffix is kept, since writers go by it."""
    return target.with_name(f".{target.name}.part-{os.getpid()}{target.suffix}")


def write_whole(path: "str | Path", write: Callable[[Path], object], keep: "tuple[Path, ...]" = ()) -> Path:
    """Let ``write`` fill a neighbour, then put it in place; raises :class:`BadFile` and leaves what was there."""
    target = target_of(path, keep)
    sweep(target.parent)
    with written(path):
        part = part_of(target)
        try:
            write(part)
            put_in_place(part, target)
        finally:
            part.unlink(missing_ok=True)
    return Path(path)


@contextlib.contextmanager
def written(path: "str | Path") -> Iterator[None]:
    """Turns what the system says against writing into a BadFile in plain words."""
    try:
        yield
    except BadFile:
        raise
    except OSError as error:
        raise BadFile(f"cannot be written: {reason(error)}", str(path), _way_on(error)) from error


def put_in_place(part: Path, target: Path) -> None:
    """Rename a finished neighbour over its target, both on the disk for good before this returns."""
    with part.open("rb") as file:
        os.fsync(file.fileno())
    os.replace(part, target)
    with contextlib.suppress(OSError):  # some file systems have no folders to flush
        folder = os.open(target.parent, os.O_RDONLY)
        try:
            os.fsync(folder)
        finally:
            os.close(folder)


def sweep(folder: Path) -> int:
    """Remove neighbours whose writer is dead; how many."""
    count = 0
    try:
        names = [e.name for e in os.scandir(folder) if e.name.startswith(".") and ".part-" in e.name]
    except OSError:
        return 0
    for name in names:
        found = _PART.match(name)
        if found and not _alive(int(found[1])):
            with contextlib.suppress(OSError):
                (folder / name).unlink()
                count += 1
    return count


def _alive(pid: int) -> bool:
    if pid == os.getpid():
        return True
    try:
        os.kill(pid, 0)
    except (ProcessLookupError, OverflowError):
        return False
    except OSError:
        return True
    return True


def reason(error: BaseException) -> str:
    """Why the system refused, in words."""
    number = getattr(error, "errno", None)
    if number == errno.ENOSPC:
        return "the disk is full"
    if number == errno.EROFS:
        return "the disk is read-only"
    if number in (errno.EACCES, errno.EPERM):
        return "you have no permission"
    if number == errno.ENAMETOOLONG:
        return "the name is too long"
    if number == errno.EFBIG:
        return "the file would be larger than is allowed here"
    if "null byte" in str(error):
        return "the name holds a NUL"
    if isinstance(error, UnicodeError):
        return "the name holds half a character"
    return str(getattr(error, "strerror", None) or error)


def _way_on(error: OSError) -> str:
    if error.errno in (errno.ENOSPC, errno.EDQUOT, errno.EFBIG):
        return "free some space, or write elsewhere"
    return "a place you may write to"
