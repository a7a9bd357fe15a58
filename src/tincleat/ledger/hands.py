"""Details made and proved by several processes beside each other, where there are many of them.

Each process is this program's own Python with the core alone; work goes to it and comes back by its pipes, by value.  What one cannot do, or
does not live to tell, is left to whoever asked: he does it himself, and meets the same error there.
"""

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
from tincleat.geometry.frames import Vec3
from tincleat.joints.case import Case, mirror_case
from tincleat.project.entities import HouseRules, Value
from tincleat.proof.finding import Finding
from tincleat.proof.registry import prove

WORTH = 120  # pieces of work from which processes are started for them: each takes about a second to load
MOST = 8  # processes, 150 MiB each
AT_ONCE = 6  # pieces of work in one message
SOME = 8  # of them are done first, to see how long all would take
LONG = 3.0  # s of work for one process, from which others are started
Making = tuple[str, Case, bool, Mapping[str, Value]]  # family, case, mirrored, settings
Proving = tuple[Case, Detail]
Box = tuple[Vec3, Vec3]


class _Start(msgspec.Struct, frozen=True):
    """What a process is told first."""

    deed: Literal["make", "prove"]
    house: HouseRules


def _plain(value: Any) -> Any:
    """A number of the numeric library as Python's own."""
    if isinstance(value, np.generic):
        return value.item()
    raise TypeError(f"{type(value).__name__} cannot be sent")


_ENCODER = msgspec.msgpack.Encoder(enc_hook=_plain)
_START = msgspec.msgpack.Decoder(_Start)
_JOBS: dict[str, msgspec.msgpack.Decoder[Any]] = {"make": msgspec.msgpack.Decoder(list[Making]), "prove": msgspec.msgpack.Decoder(list[Proving])}
_ANSWERS: dict[str, msgspec.msgpack.Decoder[Any]] = {"make": msgspec.msgpack.Decoder(list[tuple[Detail, Box] | None]), "prove": msgspec.msgpack.Decoder(list[tuple[Finding, ...] | None])}


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


def make_all(jobs: Sequence[Making], house: HouseRules, told: Callable[[int], None]) -> list[tuple[Detail, Box] | None]:
    """The details of many cases with their own parts' boxes, None where one is refused or fails; ``told`` hears how many are done, and what
    it raises stops the work."""
    return _all("make", jobs, house, told)


def prove_all(jobs: Sequence[Proving], house: HouseRules, told: Callable[[int], None]) -> list[tuple[Finding, ...] | None]:
    """The findings of many details, None where that failed; ``told`` as in :func:`make_all`."""
    return _all("prove", jobs, house, told)


def _all(deed: Literal["make", "prove"], jobs: Sequence[Any], house: HouseRules, told: Callable[[int], None]) -> list[Any]:
    out: list[Any] = [None] * len(jobs)
    waiting = iter([range(i, min(i + AT_ONCE, len(jobs))) for i in range(0, len(jobs), AT_ONCE)])
    taking = threading.Lock()
    answers: queue.Queue[tuple[range, list[Any]] | None] = queue.Queue()
    hands: list[subprocess.Popen[bytes]] = []
    with suppress(OSError):  # where no more can be started those that are there do it, or nobody
        for _ in range(min(processes(), -(-len(jobs) // AT_ONCE))):
            hands.append(_start())

    def give(hand: "subprocess.Popen[bytes]") -> None:
        """One process is given work as long as there is some."""
        assert hand.stdin is not None and hand.stdout is not None
        try:
            _put(hand.stdin, _Start(deed, house))
            while True:
                with taking:
                    some = next(waiting, None)
                if some is None:
                    break
                _put(hand.stdin, [jobs[i] for i in some])
                found = _ANSWERS[deed].decode(_get(hand.stdout))
                answers.put((some, found if len(found) == len(some) else [None] * len(some)))
        except Exception:  # it is gone, or tells what cannot be read: its work is left undone
            return
        finally:
            answers.put(None)

    givers = [threading.Thread(target=give, args=(hand,), daemon=True) for hand in hands]
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
    finally:
        for hand in hands:
            hand.kill()
        for giver in givers:
            giver.join()  # it meets the end of the pipe
        for hand in hands:
            hand.wait()
            for stream in (hand.stdin, hand.stdout):
                if stream is not None:
                    with suppress(OSError):  # what was still to be written has no reader any more
                        stream.close()
    return out


def _start() -> "subprocess.Popen[bytes]":
    source = str(Path(__file__).resolve().parents[2])
    one = dict.fromkeys(("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS"), "1")
    paths = os.pathsep.join([source, *filter(None, [os.environ.get("PYTHONPATH")])])
    return subprocess.Popen([sys.executable, "-m", "tincleat.ledger.hands"], stdin=subprocess.PIPE, stdout=subprocess.PIPE, env={**os.environ, **one, "PYTHONPATH": paths})


def build(name: str, case: Case, mirror: bool, settings: Mapping[str, Value], house: HouseRules) -> tuple[Case, Detail]:
    """What a family makes at a case, or at its mirror image, with the case it then lies in; raises what the family raises."""
    detail = family(name).detail(case, settings, house)
    if not mirror:
        return case, detail
    case = mirror_case(case)
    return case, mirrored_at(detail, case)


def _do(deed: str, job: Any, house: HouseRules) -> msgspec.Raw:
    """What comes of one piece of work, as it is sent; nothing where it fails."""
    try:
        return msgspec.Raw(_ENCODER.encode(_done(deed, job, house)))
    except Exception:  # whoever asked meets it again, where it can be told
        return msgspec.Raw(_ENCODER.encode(None))


def _done(deed: str, job: Any, house: HouseRules) -> Any:
    if deed == "make":
        name, case, mirror, settings = job
        case, detail = build(name, case, mirror, settings, house)
        return detail, tuple(corner.tolist() for corner in box_of(Assembled(case, detail, house.rule_set, house.bolt_lengths)))
    case, detail = job
    return prove(Assembled(case, detail, house.rule_set, house.bolt_lengths), house)


def main() -> None:
    """In such a process: do what comes in until nothing more does.  What anything prints goes to where errors go, not into the answers."""
    reads, writes = os.fdopen(os.dup(0), "rb"), os.fdopen(os.dup(1), "wb")
    os.dup2(2, 1)
    start = _START.decode(_get(reads))
    with suppress(EOFError):
        while True:
            jobs = _JOBS[start.deed].decode(_get(reads))
            _put(writes, [_do(start.deed, job, start.house) for job in jobs])


if __name__ == "__main__":
    main()
