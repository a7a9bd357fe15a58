"""Details made and proved by several processes are what one process makes and proves, whatever becomes of the processes."""

import os
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from conftest import beam
from sites import SITES
from test_settings import site_case

from tincleat.commands.desk import Desk
from tincleat.errors import Cancelled
from tincleat.ledger import hands, made
from tincleat.ledger.made import Made, Workshop, prove_many
from tincleat.project.entities import HouseRules, inch_house

HOUSE = HouseRules()


def unfollowed(done: int, all_: int) -> None:
    assert 0 < done <= all_


@pytest.fixture(autouse=True)
def nobody_waits() -> Iterator[None]:
    hands.leave()
    yield
    hands.leave()


@pytest.fixture
def few(monkeypatch: pytest.MonkeyPatch) -> None:
    """Few are many, and little work is long."""
    monkeypatch.setattr(made, "WORTH", 2)
    monkeypatch.setattr(hands, "LONG", 0.0)


def places(inch: bool) -> list[Any]:
    """The second site of every family, its mirror image and its settings."""
    seen: dict[str, int] = {}
    out = []
    for site in SITES:
        if site.inch is inch and not any(isinstance(v, list) for v in site.typed.values()):
            seen[site.family] = seen.get(site.family, 0) + 1
            if seen[site.family] == 2:
                out += [(site.family, site_case(site), mirror, dict(site.typed)) for mirror in (False, True)]
    return out


@pytest.mark.usefixtures("few")
@pytest.mark.parametrize(("inch", "prove"), [(False, False), (True, True), (False, True)])
def test_it_is_the_same_as_by_oneself(inch: bool, prove: bool) -> None:
    house = inch_house("") if inch else HOUSE
    jobs = places(inch)
    assert len({j[0] for j in jobs}) > (15 if inch else 30)
    told: list[tuple[int, int]] = []
    shop, alone = Workshop(), Workshop()
    assert shop.make_many(jobs, house, prove, lambda done, all_: told.append((done, all_)))
    together = [shop.known(*job, house) for job in jobs]
    assert told[-1] == (len(jobs), len(jobs)) and told == sorted(told) and all(isinstance(m, Made) and m.proved is prove for m in together)
    prove_many([m for m in together if m is not None], unfollowed)
    for job, one in zip(jobs, together, strict=True):
        assert one is not None and one.proved
        by_itself = alone.make(*job, house)
        assert not by_itself.proved
        assert (one.case, one.detail) == (by_itself.case, by_itself.detail), job[0]
        assert one.findings == by_itself.findings, job[0]
        assert np.allclose(one.box, by_itself.box, atol=1e-9, equal_nan=True), job[0]
    assert shop.built == alone.built == len(jobs)


def frame(desk: Desk, bays: int) -> list[str]:
    """Columns in a row with a beam from each to the next, and fin plates on them, each of its own gap."""
    members = [beam("UC 203x203x46", (6000 * i, 0, 0), (6000 * i, 0, 4000), "column") for i in range(bays + 1)]
    members += [beam("UB 305x165x40", (6000 * i, 0, 3000), (6000 * (i + 1), 0, 3000)) for i in range(bays)]
    desk.run("add-members", members=members)
    desk.run("place-connection", family="fin-plate", at=[f"m{bays + 2 + i}.{end}" for i in range(bays) for end in ("start", "end")])
    return list(desk.project.connections)


def state(desk: Desk) -> dict[str, Any]:
    return {key: (e.made.detail if e.made is not None else None, e.problem, e.findings) for key, e in desk.ledger.entries.items()}


@pytest.mark.parametrize("ends", ["lives", "dies at once", "dies at the third answer", "says nothing that can be read", "cannot be started"])
def test_a_change_of_many_is_the_same_whatever_becomes_of_the_processes(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, ends: str) -> None:
    code = {
        "dies at once": "import sys; sys.exit(3)",
        "dies at the third answer": "from tincleat.ledger import hands; put, n = hands._put, [0]\ndef short(s, v):\n    n[0] += 1\n    put(s, v) if n[0] < 3 else hands.os._exit(9)\nhands._put = short; hands.main()",
        "says nothing that can be read": "import sys\nwhile sys.stdin.buffer.read(64):\n    sys.stdout.buffer.write((5).to_bytes(8, 'little') + b'hello'); sys.stdout.buffer.flush()",
    }.get(ends)
    if code is not None:
        monkeypatch.setattr(hands, "_start", lambda: subprocess.Popen([sys.executable, "-c", code], stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL))
    if ends == "cannot be started":

        def none() -> Any:
            raise OSError("no memory")

        monkeypatch.setattr(hands, "_start", none)
    monkeypatch.setattr(hands, "AT_ONCE", 2)
    monkeypatch.setattr(hands, "LONG", 0.0)
    found = []
    for worth in (10**6, 3):
        monkeypatch.setattr(made, "WORTH", worth)
        desk = Desk.create(tmp_path / f"{worth}.tincleat")
        ids = frame(desk, 12)
        desk.run_all([("change-connections", {"ids": [c], "settings": {"edge_distance": 40 + i / 10, "bolt": "M24"}}) for i, c in enumerate(ids)])
        desk.run("change-members", ids=["m14", "m17", "m20"], section="RD 30")  # nothing that a fin plate could be bolted to
        counts = desk.ledger.counts()
        assert sum(bool(e.problem) for e in desk.ledger.entries.values()) == 6
        found.append((state(desk), counts))
        desk.close()
        if ends == "lives":
            again = Desk.open(tmp_path / f"{worth}.tincleat")
            assert (state(again), again.ledger.counts()) == found[-1]
            again.close()
    assert found[0] == found[1]
    assert found[0][1]["joined"] == 24


@pytest.mark.usefixtures("few")
def test_stopping_it_changes_nothing_and_leaves_no_process(tmp_path: Path) -> None:
    shop = Workshop()
    case = site_case(next(s for s in SITES if s.family == "base-plate"))
    jobs = [("base-plate", case, False, {"plate_thickness": 20.0 + i / 10}) for i in range(40)]

    def stop(done: int, all_: int) -> None:
        raise Cancelled("stopped")

    before = children()
    with pytest.raises(Cancelled):
        shop.make_many(jobs, HOUSE, False, stop)
    assert shop.built == 0 and shop.known(*jobs[0], HOUSE) is None
    assert children() == before


def some(shop: Workshop, first: float, count: int = 12) -> list[Made]:
    """Base plates of different thickness, made by several processes."""
    case = site_case(next(s for s in SITES if s.family == "base-plate"))
    jobs = [("base-plate", case, False, {"plate_thickness": first + i / 10}) for i in range(count)]
    assert shop.make_many(jobs, HOUSE, False, unfollowed)
    return [m for m in (shop.known(*job, HOUSE) for job in jobs) if m is not None]


@pytest.mark.usefixtures("few")
def test_those_that_made_things_prove_them_and_are_let_go_in_the_end(monkeypatch: pytest.MonkeyPatch) -> None:
    none, shop = children(), Workshop()
    made_ = some(shop, 20.0)
    waiting = children() - none
    assert len(made_) == 12 and len(waiting) == min(2, hands.processes())
    prove_many(made_, unfollowed)
    assert all(m.proved for m in made_) and children() - none == waiting
    inch = inch_house("")  # the next ones go by other rules: those are told them
    case = site_case(next(s for s in SITES if s.family == "base-plate"))
    jobs = [("base-plate", case, False, {"plate_thickness": 20.0 + i / 10}) for i in range(12)]
    assert shop.make_many(jobs, inch, True, unfollowed)
    assert [m.detail for m in (shop.known(*j, inch) for j in jobs) if m is not None] == [Workshop().make(*j, inch).detail for j in jobs]
    assert children() - none == waiting
    monkeypatch.setattr(hands, "REST", 0.05)
    some(shop, 40.0)
    until = time.monotonic() + 20.0
    while children() - none and time.monotonic() < until:
        time.sleep(0.02)
    assert children() == none


@pytest.mark.usefixtures("few")
def test_one_that_died_while_it_waited_is_not_asked() -> None:
    none, shop = children(), Workshop()
    some(shop, 20.0)
    for one in (dead := children() - none):
        os.kill(int(one), 9)
    time.sleep(0.1)
    made_ = some(shop, 30.0)
    assert len(made_) == 12 and shop.built == 24
    assert dead.isdisjoint(children())


def children() -> set[str]:
    return set(Path(f"/proc/{os.getpid()}/task/{os.getpid()}/children").read_text().split())


def test_a_change_of_some_is_counted_as_if_all_were_counted_anew(desk: Desk) -> None:
    ids = frame(desk, 3)
    before = desk.ledger.counts()
    desk.run("change-connections", ids=ids[:2], settings={"plate_thickness": 4.0})
    desk.run("delete-connections", ids=ids[4:5])
    told = desk.ledger.counts()
    desk.ledger.rebuild()
    assert told == desk.ledger.counts() != before


def test_little_work_is_done_where_it_is_asked_for(monkeypatch: pytest.MonkeyPatch) -> None:
    done: list[int] = []
    # 200 pieces of 1 ms are 0.2 s, of 30 ms are 6: by eight of them or so, which are done
    monkeypatch.setattr(hands.time, "monotonic", lambda: len(done) * 0.001)
    assert not hands.pays(range(200), done.append) and len(done) == 8
    done.clear()
    monkeypatch.setattr(hands.time, "monotonic", lambda: len(done) * 0.03)
    assert hands.pays(range(200), done.append) and done == list(range(0, 200, 25))
