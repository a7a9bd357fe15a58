"""Details made and proved by several processes beside each other, where there are many of them.

Each process is this program's own Python with the core alone; work goes to it and comes back by its pipes, by value.  What one cannot do, or
does not live to tell, is left to whoever asked: he does it himself, and meets the same error there.  One that has done its work waits a while
for more: much is made first and proved next.
"""

import atexit
import os
import queue
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from pathlib import Path
from typing import IO, Any, Literal

import msgspec
import numpy as np

from tincleat.catalogue.sections import OwnName
from tincleat.details.assembled import Assembled
from tincleat.details.bodies import box_of
from tincleat.details.parts import Detail, mirrored_at
from tincleat.families.registry import family
from tincleat.geometry.frames import Vec3, vec
from tincleat.joints.case import Case, mirror_case
from tincleat.project.entities import HouseRules, Value
from tincleat.proof.finding import Finding
from tincleat.proof.registry import prove

WORTH = 120  # pieces of work from which processes are started for them: each takes about a second to load
MOST = 8  # processes, 150 MiB each
AT_ONCE = 6  # pieces of work in one message
SOME = 8  # of them are done first, to see how long all would take
LONG = 3.0  # s of work for one process, from which others are started
REST = 30.0  # s that one without work is kept for more
Making = tuple[str, Case, bool, Mapping[str, Value]]  # family, case, mirrored, settings
Proving = tuple[Case, Detail]
Box = tuple[Vec3, Vec3]
Told = tuple[Finding, ...]
Answer = tuple[Detail, Box, Told | None]  # what was made, and what is found in it where that was asked


Deed = Literal["make", "make and prove", "prove"]


class _Work(msgspec.Struct, frozen=True):
    """What a process is given at a time; the house rules and the pieces of work as they are sent."""

    deed: Deed
    house: msgspec.Raw
    jobs: msgspec.Raw


def _plain(value: Any) -> Any:
    """A number of the numeric library as Python's own."""
    if isinstance(value, np.generic):
        return value.item()
    raise TypeError(f"{type(value).__name__} cannot be sent")


_ENCODER = msgspec.msgpack.Encoder(enc_hook=_plain)
_WORK = msgspec.msgpack.Decoder(_Work)
_HOUSE = msgspec.msgpack.Decoder(HouseRules)
_MAKING: msgspec.msgpack.Decoder[Any] = msgspec.msgpack.Decoder(list[Making])
_JOBS: dict[Deed, msgspec.msgpack.Decoder[Any]] = {"make": _MAKING, "make and prove": _MAKING, "prove": msgspec.msgpack.Decoder(list[Proving])}
_HAVE: msgspec.msgpack.Decoder[Any] = msgspec.msgpack.Decoder(list[Answer | None])
_ANSWERS: dict[Deed, msgspec.msgpack.Decoder[Any]] = {"make": _HAVE, "make and prove": _HAVE, "prove": msgspec.msgpack.Decoder(list[Told | None])}


def _put(stream: IO[bytes], value: object) -> None:
    data = _ENCODER.encode(value)
    stream.write(len(data).to_bytes(8, "little") + data)
    stream.flush()


def _get(stream: IO[bytes]) -> bytes:
    """The next value as it was sent; raises EOFError where the other side is gone."""
    size = int.from_bytes(head, "little") if len(head := stream.read(8)) == 8 else -1
    data = stream.read(size) if size >= 0 else b""
    if len(data) != size:
        raise EOFError
    return data


def sendable(case: Case, settings: Mapping[str, Value]) -> bool:
    """Whether all of a case can be sent: the shape of a section of an office's own goes along with its name in this process only."""
    return not any(type(name) is OwnName for name in (*(m.section for m in case.members), *settings.values()))


def pays(jobs: Sequence[Any], do: Callable[[Any], object]) -> bool:
    """Whether much work takes so long that starting processes for it pays: told by some of it, which is done."""
    if not LONG:
        return True
    some = jobs[:: max(1, len(jobs) // SOME)]
    start = time.monotonic()
    for job in some:
        do(job)
    return (time.monotonic() - start) / len(some) * len(jobs) > LONG


def processes() -> int:
    """How many processes work beside each other: as many as this one may use processors."""
    return min(MOST, len(os.sched_getaffinity(0)))


def make_all(jobs: Sequence[Making], house: HouseRules, prove: bool, told: Callable[[int], None]) -> list[Answer | None]:
    """The details of many cases with their own parts' boxes, and what is found in them if they are to ``prove`` them, too; None where one is
    refused or fails.  ``told`` hears how many are done, and what it raises stops the work."""
    return _all("make and prove" if prove else "make", jobs, house, told)


def prove_all(jobs: Sequence[Proving], house: HouseRules, told: Callable[[int], None]) -> list[Told | None]:
    """The findings of many details, None where that failed; ``told`` as in :func:`make_all`."""
    return _all("prove", jobs, house, told)


class _Crew:
    """Processes that wait for work, and are let go where none comes for a while."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._resting: list[subprocess.Popen[bytes]] = []
        self._clock: threading.Timer | None = None

    def take(self, count: int) -> "list[subprocess.Popen[bytes]]":
        """That many processes, fewer where no more can be started: those that wait, then new ones."""
        with self._lock:
            if self._clock is not None:
                self._clock.cancel()
            out = [hand for hand in self._resting if hand.poll() is None][:count]
            gone = [hand for hand in self._resting if hand not in out]
            self._resting = []
        for hand in gone:
            _end(hand)
        with suppress(OSError):
            while len(out) < count:
                out.append(_start())
        return out

    def rest(self, hands: "Sequence[subprocess.Popen[bytes]]") -> None:
        """Some that have done what they were given wait for more."""
        if not hands:
            return
        with self._lock:
            self._resting += hands
            if self._clock is not None:
                self._clock.cancel()
            self._clock = threading.Timer(REST, self.leave)
            self._clock.daemon = True
            self._clock.start()

    def leave(self) -> None:
        """All that wait are let go."""
        with self._lock:
            gone, self._resting = self._resting, []
            if self._clock is not None:
                self._clock.cancel()
        for hand in gone:
            _end(hand)


_CREW = _Crew()
leave = _CREW.leave
atexit.register(leave)


def _all(deed: Deed, jobs: Sequence[Any], house: HouseRules, told: Callable[[int], None]) -> list[Any]:
    out: list[Any] = [None] * len(jobs)
    waiting = iter([range(i, min(i + AT_ONCE, len(jobs))) for i in range(0, len(jobs), AT_ONCE)])
    taking = threading.Lock()
    answers: queue.Queue[tuple[range, list[Any]] | None] = queue.Queue()
    rules = msgspec.Raw(_ENCODER.encode(house))
    hands = _CREW.take(min(processes(), -(-len(jobs) // AT_ONCE)))
    sound: list[subprocess.Popen[bytes]] = []  # those that gave every answer they owed

    def give(hand: "subprocess.Popen[bytes]") -> None:
        """One process is given work as long as there is some."""
        assert hand.stdin is not None and hand.stdout is not None
        try:
            while True:
                with taking:
                    some = next(waiting, None)
                if some is None:
                    sound.append(hand)
                    break
                _put(hand.stdin, _Work(deed, rules, msgspec.Raw(_ENCODER.encode([jobs[i] for i in some]))))
                found = _ANSWERS[deed].decode(_get(hand.stdout))
                if len(found) != len(some):
                    return
                answers.put((some, found))
        except Exception:  # it is gone, or tells what cannot be read: its work is left undone
            return
        finally:
            answers.put(None)

    givers = [threading.Thread(target=give, args=(hand,), daemon=True) for hand in hands]
    ended = False
    try:
        for giver in givers:
            giver.start()
        done, live = 0, len(givers)
        while live:
            answer = answers.get()
            if answer is None:
                live -= 1
                continue
            some, found = answer
            for i, one in zip(some, found, strict=True):
                out[i] = one
            done += len(some)
            told(done)
        ended = True
    finally:
        stay = sound if ended else []
        for hand in (gone := [h for h in hands if h not in stay]):
            hand.kill()
        for giver in givers:
            giver.join()  # it meets the end of the pipe
        for hand in gone:
            _end(hand)
        _CREW.rest(stay)
    return out


def _start() -> "subprocess.Popen[bytes]":
    source = str(Path(__file__).resolve().parents[2])
    one = dict.fromkeys(("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS"), "1")
    paths = os.pathsep.join([source, *filter(None, [os.environ.get("PYTHONPATH")])])
    return subprocess.Popen([sys.executable, "-m", "tincleat.ledger.hands"], stdin=subprocess.PIPE, stdout=subprocess.PIPE, env={**os.environ, **one, "PYTHONPATH": paths})


def _end(hand: "subprocess.Popen[bytes]") -> None:
    """A process is ended, whatever it is at."""
    hand.kill()
    hand.wait()
    for stream in (hand.stdin, hand.stdout):
        if stream is not None:
            with suppress(OSError):  # what was still to be written has no reader any more
                stream.close()


def build(name: str, case: Case, mirror: bool, settings: Mapping[str, Value], house: HouseRules) -> tuple[Case, Detail]:
    """What a family makes at a case, or at its mirror image, with the case it then lies in; raises what the family raises."""
    detail = family(name).detail(case, settings, house)
    if not mirror:
        return case, detail
    case = mirror_case(case)
    return case, mirrored_at(detail, case)


def _do(deed: Deed, job: Any, house: HouseRules) -> msgspec.Raw:
    """What comes of one piece of work, as it is sent; nothing where it fails."""
    try:
        return msgspec.Raw(_ENCODER.encode(_done(deed, job, house)))
    except Exception:  # whoever asked meets it again, where it can be told
        return msgspec.Raw(_ENCODER.encode(None))


def _done(deed: Deed, job: Any, house: HouseRules) -> "Answer | Told":
    if deed == "prove":
        case, detail = job
        return prove(Assembled(case, detail, house.rule_set, house.bolt_lengths), house)
    name, case, mirror, settings = job
    case, detail = build(name, case, mirror, settings, house)
    assembled = Assembled(case, detail, house.rule_set, house.bolt_lengths)
    low, high = (vec(corner) for corner in box_of(assembled))
    found = None
    if deed == "make and prove":
        with suppress(Exception):  # the detail is good all the same, and what failed fails again where it can be told
            found = prove(assembled, house)
    return detail, (low, high), found


def main() -> None:
    """In such a process: do what comes in until nothing more does.  What anything prints goes to where errors go, not into the answers."""
    reads, writes = os.fdopen(os.dup(0), "rb"), os.fdopen(os.dup(1), "wb")
    os.dup2(2, 1)
    told, house = b"", HouseRules()
    with suppress(EOFError):
        while True:
            work = _WORK.decode(_get(reads))
            if bytes(work.house) != told:  # the same rules stay one value for all that is kept of them
                told, house = bytes(work.house), _HOUSE.decode(work.house)
            _put(writes, [_do(work.deed, job, house) for job in _JOBS[work.deed].decode(work.jobs)])


if __name__ == "__main__":
    main()
