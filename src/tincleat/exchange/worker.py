"""Files from outside are read in a process of their own, with bounds on its time and memory: what a hostile file can bring down is that process.

The parent sends one request on standard input; the worker answers on standard output with frames of four bytes of length, one
letter and a body: ``p`` progress, ``b`` the number of the body about to be made by the geometry engine, ``r`` the result,
``e`` an error in the program's own words.  A worker that dies or falls silent while it makes a body is started again and leaves
that body out; any other death is an error.
"""

import contextlib
import os
import resource
import selectors
import signal
import struct
import subprocess
import sys
import time
from collections.abc import Mapping
from dataclasses import dataclass, field
from importlib import import_module
from pathlib import Path
from typing import IO, Any, BinaryIO

import msgspec

from tincleat import errors
from tincleat.errors import BadFile, Progress, TinCleatError, go_on
from tincleat.files import plain_file

STOPPED = "the import was stopped; nothing was taken in"
# name: module and function; it takes the request's values, and a :class:`Line` to the parent
READERS = {
    "ifc": ("tincleat.exchange.ifc_in", "worked"),
    "dxf": ("tincleat.exchange.underlay_in", "worked_dxf"),
    "pdf": ("tincleat.exchange.underlay_in", "worked_pdf"),
}
MOST_MEMORY = 1_900_000_000  # bytes a worker may hold
SILENT = 9.0  # s without a word after which a worker is taken to hang; a second more for every megabyte of the file
BODY = 9.0  # s that one body may take
MOST_STARTS = 4  # times a worker is started for one file
MOST_FRAME = 1_500_000_000


class Request(msgspec.Struct, frozen=True):
    """What a worker is asked: a reader, its values, and bodies to leave alone with the reason."""

    reader: str
    values: dict[str, Any]
    skip: dict[int, str] = {}


@dataclass
class Line:
    """A worker's line to its parent."""

    out: BinaryIO
    skip: "Mapping[int, str]" = field(default_factory=dict)

    def step(self, share: float, words: str) -> bool:
        """Tell of progress; the parent ends the worker if it is to stop."""
        self._send(b"p", msgspec.json.encode([share, words]))
        return True

    def body(self, number: int) -> str:
        """Announce a body that the geometry engine is about to make; why it must be left alone, or an empty text."""
        why = self.skip.get(number, "") or self.skip.get(-1, "")
        if not why:
            self._send(b"b", struct.pack(">q", number))
        return why

    def _send(self, kind: bytes, data: bytes) -> None:
        self.out.write(struct.pack(">I", len(data)) + kind + data)
        self.out.flush()


class Ended(Exception):
    """A worker ended without an answer; ``body`` is what it was making, if anything."""

    def __init__(self, why: str, body: int | None) -> None:
        super().__init__(why)
        self.why, self.body = why, body


def read(reader: str, path: "str | Path", values: "Mapping[str, Any]", progress: "Progress | None" = None) -> bytes:
    """What a reader makes of a file, as the bytes it answers with.

    Raises what the reader raises, Cancelled when ``progress`` returns False, BadFile if the worker cannot finish within its bounds.
    """
    size = plain_file(Path(path), "a file to read").st_size
    skip: dict[int, str] = {}
    for start in range(MOST_STARTS):
        try:
            return _once(Request(reader, {**values, "path": str(path)}, skip), SILENT + size / 1e6, progress)
        except Ended as ended:
            if ended.body is None:
                raise BadFile(f"it cannot be read: {ended.why}", str(path), "a file that is not damaged") from None
            skip[ended.body] = f"the geometry engine could not make it: {ended.why}"
            if start == MOST_STARTS - 2:
                skip[-1] = f"the geometry engine gave up on {len(skip)} bodies before it and was not asked again"
    raise BadFile("it cannot be read: the geometry engine gives up on it again and again", str(path), "a file that is not damaged")


def _once(request: Request, patience: float, progress: "Progress | None") -> bytes:
    env = {**os.environ, "OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1", "PYTHONDONTWRITEBYTECODE": ""}
    child = subprocess.Popen([sys.executable, "-m", "tincleat.exchange.worker"], stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, env=env)
    assert child.stdin is not None and child.stdout is not None
    try:
        with contextlib.suppress(BrokenPipeError):
            child.stdin.write(msgspec.json.encode(request))
            child.stdin.close()
        return _heard(child, child.stdout, patience, progress)
    finally:
        child.kill()
        child.wait()
        child.stdout.close()


def _heard(child: "subprocess.Popen[bytes]", out: "IO[bytes]", patience: float, progress: "Progress | None") -> bytes:
    share, words, body = 0.0, "starting", None
    heard = time.monotonic()
    fd = out.fileno()
    os.set_blocking(fd, False)
    with selectors.DefaultSelector() as ready:
        ready.register(fd, selectors.EVENT_READ)
        held = bytearray()
        while True:
            go_on(progress, share, words, STOPPED)
            if time.monotonic() - heard > (BODY if body is not None else patience):
                raise Ended(f"it took more than {BODY if body is not None else patience:.0f} s", body)
            if not ready.select(0.1):
                continue
            data = os.read(fd, 1 << 20)
            if not data:
                raise Ended(_death(child), body)
            held += data
            while len(held) >= 5 and len(held) >= 5 + (size := struct.unpack(">I", held[:4])[0]):
                if size > MOST_FRAME:
                    raise Ended("it answers with more than can be held", body)
                kind, answer = bytes(held[4:5]), bytes(held[5 : 5 + size])
                del held[: 5 + size]
                heard = time.monotonic()
                if kind == b"r":
                    return answer
                if kind == b"e":
                    name, what, where, right = msgspec.json.decode(answer)
                    raise getattr(errors, name, BadFile)(what, where, right)
                if kind == b"b":
                    (body,) = struct.unpack(">q", answer)
                else:
                    body = None
                    share, words = msgspec.json.decode(answer)


def _death(child: "subprocess.Popen[bytes]") -> str:
    code = child.wait(5)
    if code == 77:
        return f"it needs more than {MOST_MEMORY / 1e9:.1f} GB of memory"
    if code < 0:
        return f"its reader crashed ({signal.Signals(-code).name})"
    return f"its reader ended with {code}"


def main() -> int:
    """Answer the one request on standard input; 77 if memory ran out."""
    # libraries print what they like: it must not get between the frames
    out = os.fdopen(os.dup(1), "wb")
    os.dup2(os.open(os.devnull, os.O_WRONLY), 1)
    resource.setrlimit(resource.RLIMIT_DATA, (MOST_MEMORY, MOST_MEMORY))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    request = msgspec.json.decode(sys.stdin.buffer.read(), type=Request)
    module, name = READERS[request.reader]
    line = Line(out, request.skip)
    try:
        answer = getattr(import_module(module), name)(line, **request.values)
        line._send(b"r", answer)
    except TinCleatError as error:
        line._send(b"e", msgspec.json.encode([type(error).__name__, error.what, error.where, error.right]))
    except MemoryError:
        return 77
    except Exception as error:  # libraries raise many kinds on broken files; the parent must hear of it in words
        where = str(request.values.get("path", ""))
        line._send(b"e", msgspec.json.encode(["BadFile", f"it cannot be read: it is damaged ({type(error).__name__}: {str(error)[:160]})", where, "a file that is not damaged"]))
    return 0


if __name__ == "__main__":
    code = main()
    sys.stdout.flush()
    os._exit(code)  # libraries that were left in the middle of something must not hold the process up
