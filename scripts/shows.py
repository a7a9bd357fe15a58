"""A part of ``mutate.py`` that pytest loads: what each test calls, and what becomes of tests once a function is changed.

All tests are collected once.  Told to note (``NOTE``), every one is run with the functions of the program that it calls written down; told to
show (``SHOW``), a child process is branched off for each change, gets the changed functions, and runs the tests that call them, quickest
first, until one fails.  Nothing is imported or collected anew for a change.
"""

import base64
import functools
import gc
import json
import marshal
import os
import shutil
import signal
import sys
import tempfile
import threading
import time
from collections.abc import Generator, Iterator
from pathlib import Path
from types import CodeType, FrameType, FunctionType
from typing import Any

import hypothesis
import pytest
from _pytest.runner import runtestprotocol

PROGRAM = "/src/tincleat/"
FEW = 300  # cases of a test by chance, in place of thousands
STAYS = "tincleat.catalogue"  # tables read from files: their caches stay between tests
Place = tuple[str, int]  # a file of the program and the first line of a function in it


class Calls:
    """Which functions run, test by test; what a fixture that several tests share calls counts for each of them."""

    def __init__(self) -> None:
        self.seen: set[CodeType] = set()
        self.shared: dict[int, set[CodeType]] = {}  # by the identity of a fixture of more than one test

    def note(self, frame: FrameType, event: str, arg: object) -> None:
        """A call, told by the interpreter; nothing inside it is looked at."""
        self.seen.add(frame.f_code)

    def start(self) -> None:
        """From here on calls are noted, of all threads."""
        sys.settrace(self.note)
        threading.settrace(self.note)

    @staticmethod
    def stop() -> None:
        """Calls are no longer noted."""
        sys.settrace(None)
        threading.settrace(None)  # type: ignore[arg-type]

    @pytest.hookimpl(wrapper=True)
    def pytest_fixture_setup(self, fixturedef: Any, request: Any) -> Generator[None, object, object]:
        """What setting a shared fixture up calls is kept for all tests that ask for it."""
        before = self.seen
        self.seen = set()
        try:
            return (yield)
        finally:
            if fixturedef.scope != "function":
                self.shared[id(fixturedef)] = self.shared.get(id(fixturedef), set()) | self.seen
            self.seen |= before

    def of(self, item: Any) -> set[Place]:
        """The functions of the program that a test called, what its fixtures called among them."""
        called = set(self.seen)
        for found in item._fixtureinfo.name2fixturedefs.values():
            for fixture in found:
                called |= self.shared.get(id(fixture), set())
        return {(c.co_filename.split(PROGRAM)[1], c.co_firstlineno) for c in called if PROGRAM in c.co_filename}


class Kept:
    """What functions keep of former calls, but for tables read from files, and for what fixtures keep inside themselves."""

    def __init__(self) -> None:
        caches = [found for found in gc.get_objects() if isinstance(found, functools._lru_cache_wrapper)]
        self.caches = [c for c in caches if not str(c.__module__).startswith(STAYS) and "<locals>" not in getattr(c, "__qualname__", "")]

    def forget(self) -> None:
        """It is gone, so that a test calls all that it needs."""
        for cache in self.caches:
            cache.cache_clear()


@pytest.hookimpl(tryfirst=True)
def pytest_collection(session: pytest.Session) -> None:
    """Cases that fail are not made smaller: that one fails is all that is asked."""
    hypothesis.settings.register_profile("shown", deadline=None, database=None, phases=[hypothesis.Phase.explicit, hypothesis.Phase.generate])
    hypothesis.settings.load_profile("shown")


@pytest.hookimpl(tryfirst=True)
def pytest_runtestloop(session: pytest.Session) -> bool:
    """Notes or shows, as the environment says."""
    for module in {item.module for item in session.items}:  # type: ignore[attr-defined]
        if hasattr(module, "MOST_SITES"):
            module.MOST_SITES = 1  # what is made for several tests at once would count for the first of them alone
        if isinstance(getattr(module, "CASES", None), int):
            module.CASES = min(module.CASES, FEW)
    if "NOTE" in os.environ:
        note_all(session, Path(os.environ["NOTE"]), int(os.environ["PART"]), int(os.environ["PARTS"]))
    else:
        for line in show_all(session, json.loads(Path(os.environ["SHOW"]).read_text()), int(os.environ["BESIDE"])):
            print("SHOWN " + json.dumps(line), file=sys.__stderr__, flush=True)
    return True


def note_all(session: pytest.Session, into: Path, part: int, parts: int) -> None:
    """Run every ``parts``-th test and write what each calls: ``{"tests": {name: [s, [number of function]]}, "functions": [[file, line]]}``."""
    calls = Calls()
    session.config.pluginmanager.register(calls)
    numbers: dict[Place, int] = {}
    tests: dict[str, tuple[float, list[int]]] = {}
    mine, kept = session.items[part::parts], Kept()
    for item, following in zip(mine, [*mine[1:], None], strict=True):
        kept.forget()
        calls.seen = set()
        start = time.monotonic()
        calls.start()
        reports = runtestprotocol(item, nextitem=following, log=False)
        calls.stop()
        if any(r.failed for r in reports):
            print(f"fails without any change, left out: {item.nodeid}", file=sys.__stderr__, flush=True)
            continue
        tests[item.nodeid] = (round(time.monotonic() - start, 3), sorted(numbers.setdefault(place, len(numbers)) for place in calls.of(item)))
    into.write_text(json.dumps({"tests": tests, "functions": list(numbers)}))


def _own(code: CodeType) -> str:
    """What a piece of compiled code does in itself, the functions inside it left out."""
    return repr((code.co_code, [c for c in code.co_consts if not isinstance(c, CodeType)]))


def _inside(old: CodeType, new: CodeType) -> list[tuple[CodeType, CodeType]]:
    return [(a, b) for a, b in zip(old.co_consts, new.co_consts, strict=False) if isinstance(a, CodeType) and isinstance(b, CodeType)]


def differing(old: CodeType, new: CodeType) -> list[tuple[CodeType, CodeType]]:
    """Compiled code that differs in itself or in a function inside it, each with what it becomes."""
    below = [pair for a, b in _inside(old, new) for pair in differing(a, b)]
    return [(old, new), *below] if below or _own(old) != _own(new) else []


def when_loaded(old: CodeType, new: CodeType) -> bool:
    """Whether something differs that runs when a module is loaded: its own lines, those of its classes, the default of an argument."""
    if _own(old) != _own(new):
        return True
    at_once = ("<listcomp>", "<genexpr>", "<setcomp>", "<dictcomp>")
    return any(when_loaded(a, b) for a, b in _inside(old, new) if a.co_name in at_once or {"__module__", "__qualname__"} <= set(a.co_names))


def put_in(code: CodeType, was: CodeType, name: str) -> int:
    """Every function that is there of a changed file runs the changed code from now on; how many there were."""
    pairs = {(o.co_qualname, o.co_firstlineno): n for o, n in differing(was, code)}
    count = 0
    for found in gc.get_objects():
        if isinstance(found, FunctionType) and found.__code__.co_filename.endswith(PROGRAM + name):
            new = pairs.get((found.__code__.co_qualname, found.__code__.co_firstlineno))
            if new is not None:
                found.__code__ = new
                count += 1
    return count


def show_all(session: pytest.Session, jobs: list[dict[str, Any]], beside: int) -> Iterator[dict[str, Any]]:
    """What became of each change: its ``number``, ``by`` (a test's name; empty where all passed) and ``seconds``; ``beside`` at once."""
    items = {item.nodeid: item for item in session.items}
    waiting, live = list(jobs), {}
    while waiting or live:
        while waiting and len(live) < beside:
            job = waiting.pop(0)
            own = Path(tempfile.mkdtemp())
            reads, writes = os.pipe()
            child = os.fork()
            if child == 0:
                os.close(reads)
                _child(session, [items[n] for n in job["tests"] if n in items], job, own, writes)
            os.close(writes)
            live[child] = (job, own, reads, time.monotonic())
        done, status = os.wait()
        job, own, reads, start = live.pop(done)
        with os.fdopen(reads) as told:
            said = told.read().splitlines()
        by = next((s[2:] for s in said if s.startswith("! ")), "")
        if not by and status:
            by = f"{said[-1][2:] if said else 'nothing'} hangs or ends the process"
        shutil.rmtree(own, ignore_errors=True)
        yield {"number": job["number"], "by": by, "seconds": round(time.monotonic() - start, 1)}


def _child(session: pytest.Session, items: list[Any], job: dict[str, Any], own: Path, writes: int) -> None:
    """In a branch of the process: change the functions, run the tests, tell of each as it starts and of the one that fails, and end."""
    quiet = os.open(os.devnull, os.O_WRONLY)
    os.dup2(quiet, 1)
    os.dup2(quiet, 2)
    session.config._tmp_path_factory._basetemp = own  # type: ignore[attr-defined]
    signal.signal(signal.SIGALRM, signal.SIG_DFL)
    seconds = dict(zip(job["tests"], job["seconds"], strict=True))
    try:
        if job["code"]:
            Kept().forget()
            if not put_in(*(marshal.loads(base64.b64decode(c)) for c in job["code"]), job["name"]):
                os.write(writes, b"! no function there to change\n")
                os._exit(0)
        for item, following in zip(items, [*items[1:], None], strict=True):
            os.write(writes, f". {item.nodeid}\n".encode())
            signal.alarm(int(120 + 20 * seconds[item.nodeid]))
            if any(r.failed for r in runtestprotocol(item, nextitem=following, log=False)):
                os.write(writes, f"! {item.nodeid}\n".encode())
                break
    except BaseException as error:  # pytest's own ends, and what a changed program may raise outside a test
        os.write(writes, f"! {type(error).__name__}\n".encode())
    os._exit(0)
