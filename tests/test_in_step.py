"""The ledger kept in step change by change is the ledger built anew."""

import random
from pathlib import Path

import pytest

from tincleat.commands.desk import Desk
from tincleat.demo.registry import make_demo
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.steel import member_cuts
from tincleat.ledger.through import through, told


def _same(kept: Ledger, anew: Ledger) -> None:
    assert kept.entries.keys() == anew.entries.keys()
    for key, entry in anew.entries.items():
        mine = kept.entries[key]
        assert (mine.joint, mine.connection, mine.problem, mine.made) == (entry.joint, entry.connection, entry.problem, entry.made), key
    assert kept.by_end == anew.by_end and kept.lost == anew.lost
    assert kept.counts() == anew.counts()
    assert {frozenset(e.joint.key for e in k.entries) for k in kept.kin()} == {frozenset(e.joint.key for e in k.entries) for k in anew.kin()}
    assert member_cuts(kept).keys() == member_cuts(anew).keys()


def _join(desk: Desk, rng: random.Random) -> None:
    """A change of connections, of such as others look at above all."""
    name = rng.choice(list(desk.project.connections))
    what = rng.random()
    if what < 0.4:
        desk.run("delete-connections", ids=[name])
    elif what < 0.8:
        bases = [c.id for c in desk.project.connections.values() if c.family == "base-plate"]
        if bases:
            desk.run("change-connections", ids=rng.sample(bases, 1), settings={"plate_thickness": rng.choice([20.0, 30.0, 45.0])})
    else:
        desk.undo()


def _edit(desk: Desk, rng: random.Random) -> None:
    chosen = rng.sample(list(desk.project.members), rng.randint(1, 3))
    what = rng.random()
    if what < 0.55:
        desk.run("move-members", ids=chosen, by=[rng.choice([0, 50, -3000, 6000]), rng.choice([0, 20, -6000]), rng.choice([0, 100, -400])])
    elif what < 0.7:
        desk.run("delete-members", ids=chosen)
    elif what < 0.8:
        desk.run("change-members", ids=chosen, section=rng.choice(["UB 457x191x67", "PFC 200x75x23", "L 150x150x15", "PG 450-250x180x8x12 top"]))
    elif what < 0.86:
        desk.run("mirror-members", ids=chosen, middle="x", copy=rng.random() < 0.5)
    elif what < 0.92:
        desk.undo()
    else:
        desk.redo()


@pytest.mark.parametrize("seed", [1, 4, 6])
def test_kept_in_step_is_built_anew(tmp_path: Path, seed: int) -> None:
    desk = make_demo("boathouse", tmp_path / "b.tincleat")
    desk.ledger.counts()  # from here on only differences are counted
    rng = random.Random(seed)
    seen = 0
    for step in range(60):
        _edit(desk, rng)
        if step % 2:
            seen += len(desk.overlaps.found())
        if step % 4 == 3:
            anew = Ledger(desk.project, desk.ledger.workshop)
            _same(desk.ledger, anew)
            assert desk.overlaps.found() == through(anew)
            assert desk.overlaps.told() == told(anew)
    assert seen > 0  # some members did come through each other
    desk.close()


def test_what_looks_at_others_is_kept_in_step(tmp_path: Path) -> None:
    desk = make_demo("boathouse-joined", tmp_path / "j.tincleat")
    rng = random.Random(2)
    for step in range(32):
        (_join if rng.random() < 0.7 else _edit)(desk, rng)
        if step % 8 == 7:
            _same(desk.ledger, Ledger(desk.project, desk.ledger.workshop))
            assert desk.overlaps.told() == told(desk.ledger)
    desk.close()


@pytest.mark.parametrize("seed", [3, 5])
def test_many_commands_at_once_end_where_one_by_one_do(tmp_path: Path, seed: int) -> None:
    """What details near each other do to each other is worked out once, after the last command: nothing of it may be left out."""
    desk = make_demo("boathouse-joined", tmp_path / "j.tincleat")
    desk.ledger.counts()
    rng = random.Random(seed)
    for _ in range(6):
        connections, members = list(desk.project.connections.values()), list(desk.project.members)
        gone = rng.sample(connections, 12)
        shared = next((c for c in rng.sample(connections, len(connections)) if c.more and c not in gone), None)
        steps: list[tuple[str, dict[str, object]]] = [("delete-connections", {"ids": [c.id for c in gone]})]
        if shared is not None:
            steps.append(("delete-connections", {"ids": [shared.id]}))
            again = [f"{m}.{e}" for m, e in shared.ends]
            steps.append(("place-connection", {"family": shared.family, "at": again, "settings": dict(shared.settings)}))
        steps.append(("move-members", {"ids": rng.sample(members, 2), "by": [0, rng.choice([0, 40]), rng.choice([0, 60])]}))
        back = next((c for c in gone if c.ends and not c.more and c.family == "base-plate"), None)
        if back is not None:
            steps.append(("place-connection", {"family": back.family, "at": [f"{back.member}.{back.end}"], "settings": dict(back.settings)}))
        desk.run_all(steps)
        anew = Ledger(desk.project, desk.ledger.workshop)
        _same(desk.ledger, anew)
        assert {k: e.near for k, e in desk.ledger.entries.items()} == {k: e.near for k, e in anew.entries.items()}
        desk.undo()
        _same(desk.ledger, Ledger(desk.project, desk.ledger.workshop))
    desk.close()
