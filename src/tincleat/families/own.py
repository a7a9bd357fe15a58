"""Families of the office's own: Python files in a folder that the user names, loaded beside those of the program.

A file holds one ``FAMILY``.  Whatever goes wrong in it, at loading or at building, is told with its line; what takes too long is stopped,
as soon as it is back in Python: one long call into compiled code, such as an operation on a huge array, is waited for.
"""

import ctypes
import threading
import traceback
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, TypeVar, get_args

from tincleat.details.parts import Detail
from tincleat.errors import Fault, TinCleatError
from tincleat.families.declare import Family, Situation
from tincleat.families.registry import FAMILIES, families_for
from tincleat.joints.case import Kind

LONGEST = 2.0  # s that a family may take for one detail, or a file to load
MOST_FILES = 200
T = TypeVar("T")
_own: dict[str, Path] = {}  # names of loaded families, with their files


class _Slow(BaseException):
    """Raised in the thread that takes too long."""


@dataclass(frozen=True)
class Loaded:
    """One file of the folder: the family it holds, or in words why it is not taken."""

    path: Path
    family: str
    problem: str = ""


def own_families() -> dict[str, Path]:
    """Names of the loaded families of one's own, with the files they come from."""
    return dict(_own)


def load(folder: "str | Path") -> list[Loaded]:
    """Load every Python file of a folder in place of what was loaded before; no file can harm another.  The files' code is run: name folders you trust."""
    out = unload()
    for path in sorted(Path(folder).glob("*.py"))[:MOST_FILES] if Path(folder).is_dir() else ():
        if path.name.startswith("_"):
            continue
        try:
            found = _read(path)
        except TinCleatError as error:
            out.append(Loaded(path, "", str(error)))
            continue
        FAMILIES[found.name] = found
        _own[found.name] = path
        out.append(Loaded(path, found.name))
    families_for.cache_clear()
    return out


def unload() -> list[Loaded]:
    """Take all families of one's own out again; an empty list."""
    for name in _own:
        FAMILIES.pop(name, None)
    _own.clear()
    families_for.cache_clear()
    return []


def _read(path: Path) -> Family:
    space: dict[str, Any] = {"__name__": f"own_{path.stem}", "__file__": str(path)}

    def run() -> None:
        exec(compile(path.read_text(encoding="utf-8"), str(path), "exec"), space)

    watched(path, path.name, run)
    found = space.get("FAMILY")
    if not isinstance(found, Family):
        raise Fault("it holds no family", path.name, "FAMILY = Family(...) at its end")
    if found.name in FAMILIES:
        whose = f"{_own[found.name].name} has one of that name" if found.name in _own else "the program has a family of that name"
        raise Fault(f"{whose}: {found.name!r:.60}", path.name, "a name of its own")
    if not found.name or not all(c.isalnum() or c == "-" for c in found.name) or not found.label.strip():
        raise Fault(f"{found.name!r:.60} is no name for a family", path.name, "letters, figures and hyphens, and a label")
    if strange := [k for k in found.kinds if k not in get_args(Kind)] or [s for s in found.situations if s not in get_args(Situation)]:
        raise Fault(f"{strange[0]!r:.60} is no kind of joint or situation", path.name, "one of " + ", ".join((*get_args(Kind), *get_args(Situation))))
    names = [s.name for s in found.settings]
    if twice := next((n for n in names if names.count(n) > 1), None):
        raise Fault(f"two settings are called {twice!r}", path.name, "a name each")

    def fits(case: Any, house: Any) -> None:
        watched(path, found.label, lambda: found.fits(case, house))

    def build(case: Any, given: Any) -> Detail:
        made = watched(path, found.label, lambda: found.build(case, given))
        if not isinstance(made, Detail):
            raise Fault(f"{found.label} made no detail but {type(made).__name__}", path.name, "build() that returns a Detail")
        return made

    return replace(found, fits=fits, build=build)


def watched(path: Path, what: str, work: Callable[[], T]) -> T:
    """Do some work of a file: stopped after :data:`LONGEST`, and whatever it raises told with the file's line.  Raises TinCleatError."""
    here, lock, state = threading.get_ident(), threading.Lock(), {"done": False, "fired": False}

    def stop() -> None:
        with lock:
            if not state["done"]:
                state["fired"] = True
                ctypes.pythonapi.PyThreadState_SetAsyncExc(ctypes.c_ulong(here), ctypes.py_object(_Slow))

    timer = threading.Timer(LONGEST, stop)
    timer.daemon = True
    timer.start()
    try:
        try:
            return work()
        finally:
            with lock:
                state["done"] = True
            timer.cancel()
    except TinCleatError:
        raise
    except _Slow as slow:
        raise Fault(f"{what} takes more than {LONGEST:g} s and was stopped", _line(path, slow), "less work for one detail") from None
    except SyntaxError as error:
        raise Fault(f"{what} cannot be read: {error.msg}", f"{path.name}, line {error.lineno}", "Python that runs") from None
    except (Exception, SystemExit) as error:  # whatever an own file does
        raise Fault(f"{what} failed: {type(error).__name__}: {str(error)[:200]}", _line(path, error), "mend the file and load it again") from None


def _line(path: Path, error: BaseException) -> str:
    lines = [f.lineno for f in traceback.extract_tb(error.__traceback__) if f.filename == str(path)]
    return f"{path.name}, line {lines[-1]}" if lines else path.name
