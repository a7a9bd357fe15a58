"""The project file: round trips, undo across a restart, a killed process, hostile files."""

import os
import random
import signal
import sqlite3
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

import msgspec
import pytest
from conftest import beam
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tincleat.commands.desk import Desk
from tincleat.errors import BadFile, BadValue, NotFound, Refused, TinCleatError
from tincleat.project.store import APPLICATION, VERSION, Store


def state(desk: Desk) -> dict[str, Any]:
    """All entities as plain data."""
    return {t: {k: msgspec.to_builtins(e) for k, e in rows.items()} for t, rows in desk.project.tables.items()}


def test_what_was_done_is_there_after_opening_again(corner: Desk) -> None:
    corner.run("place-connection", family="fin-plate", at=["B1.start"], settings={"pitch": "2@75", "site_weld": True})
    before = state(corner)
    again = Desk.open(corner.store.path)
    assert state(again) == before
    assert again.ledger.counts() == corner.ledger.counts()
    again.close()


def test_undo_and_redo_survive_a_restart(corner: Desk) -> None:
    states = [state(corner)]
    corner.run("place-connection", family="base-plate", at=["C1.start"])
    states.append(state(corner))
    corner.run("change-members", ids=["B1"], section="IPE 300")
    states.append(state(corner))
    corner.run("delete-members", ids=["C1"])
    corner.undo()
    again = Desk.open(corner.store.path)
    assert state(again) == states[2]
    assert again.undo() == "Change 1 member" and state(again) == states[1]
    assert again.redo() == "Change 1 member" and state(again) == states[2]
    assert again.redo() == "Delete 1 member" and not again.project.connections
    assert again.undo() and state(again) == states[2] and len(again.project.connections) == 1
    again.undo()
    again.run("add-level", name="new", elevation=1)
    assert again.redo() == ""  # a new command ends redo
    again.close()


SCRIPT = st.lists(st.sampled_from(["place", "edit", "move", "delete", "level", "undo", "redo", "house"]), max_size=10)


@settings(max_examples=20, deadline=None, suppress_health_check=list(HealthCheck))
@given(SCRIPT)
def test_undoing_everything_gives_the_beginning(tmp_path_factory: pytest.TempPathFactory, script: list[str]) -> None:
    desk = Desk.create(tmp_path_factory.mktemp("undo") / "u.tincleat")
    start = state(desk)
    desk.run(
        "add-members",
        members=[beam("UC 203x203x46", (0, 0, 0), (0, 0, 4000), "column", name="C"), beam("UB 305x165x40", (0, 0, 3000), (5000, 0, 3000), name="B")],
    )
    for i, step in enumerate(script):
        try:
            if step == "place":
                desk.run("place-all", family="fin-plate")
            elif step == "edit":
                desk.run("change-connections", ids=list(desk.project.connections), settings={"edge_distance": 40 + i})
            elif step == "move":
                desk.run("move-members", ids=["B"], by=[0, 0, 10])
            elif step == "delete":
                desk.run("delete-connections", ids=list(desk.project.connections))
            elif step == "level":
                desk.run("add-level", name=f"l{i}", elevation=i)
            elif step == "house":
                desk.run("set-house-rules", values={"exposed": i % 2 == 0})
            else:
                (desk.undo if step == "undo" else desk.redo)()
        except TinCleatError:
            continue
    end = state(desk)
    steps = 0
    while desk.store.next_undo():
        desk.undo()
        steps += 1
    assert state(desk) == start
    for _ in range(steps):
        desk.redo()
    assert state(desk) == end
    fresh = desk.ledger.counts()
    desk.ledger.rebuild()
    assert desk.ledger.counts() == fresh  # the ledger kept in step is the ledger built anew
    desk.close()


CHILD = """
import sys
from tincleat.commands.desk import Desk
desk = Desk.open(sys.argv[1])
name = next(iter(desk.project.connections))
i = 0
while True:
    i += 1
    desk.run("change-connections", ids=[name], settings={"edge_distance": 40.0 + i % 200})
    print(i, flush=True)
"""


def test_kill_9_in_the_middle_of_editing_loses_nothing_shown_as_kept(tmp_path: Path) -> None:
    path = tmp_path / "kill.tincleat"
    desk = Desk.create(path)
    desk.run("add-members", members=[beam("UC 203x203x46", (0, 0, 0), (0, 0, 4000), "column"), beam("UB 305x165x40", (0, 0, 3000), (5000, 0, 3000), name="B")])
    desk.run("place-connection", family="fin-plate", at=["B.start"])
    desk.close()
    rng = random.Random(3)
    for _ in range(3):
        child = subprocess.Popen([sys.executable, "-c", CHILD, str(path)], stdout=subprocess.PIPE, text=True)
        assert child.stdout is not None
        child.stdout.readline()
        time.sleep(0.1 + rng.random() * 0.3)
        os.kill(child.pid, signal.SIGKILL)
        told = [int(line) for line in child.stdout.read().split("\n") if line.isdigit()]
        child.wait()
        again = Desk.open(path)
        value = next(iter(again.project.connections.values())).settings["edge_distance"]
        last = told[-1] if told else 1
        # the last value told, or the one being written when the kill came
        assert value in (40.0 + last % 200, 40.0 + (last + 1) % 200)
        assert again.store.next_undo().startswith("Change")
        again.undo()
        again.redo()
        again.close()


def test_a_new_file_is_marked_before_anything_else_is_written(tmp_path: Path) -> None:
    store = Store.create(tmp_path / "fresh.tincleat")
    head = (tmp_path / "fresh.tincleat").read_bytes()[:100]
    assert int.from_bytes(head[68:72], "big") == APPLICATION and int.from_bytes(head[60:64], "big") == VERSION
    store.close()


@pytest.mark.parametrize("kind", ["empty", "folder", "text", "other", "newer", "truncated", "scrambled", "missing"])
def test_files_that_are_no_project_are_named_and_left_alone(tmp_path: Path, demo_file: Path, kind: str) -> None:
    path = tmp_path / "bad.tincleat"
    good = demo_file.read_bytes()
    if kind == "folder":
        path.mkdir()
    elif kind == "other":
        db = sqlite3.connect(path)
        db.execute("CREATE TABLE t (a)")
        db.commit()
        db.close()
    elif kind == "newer":
        path.write_bytes(good)
        db = sqlite3.connect(path)
        db.execute(f"PRAGMA user_version = {VERSION + 1}")
        db.commit()
        db.close()
    elif kind != "missing":
        path.write_bytes(
            {"empty": b"", "text": b"hello\n" * 50, "truncated": good[: len(good) // 2], "scrambled": good[:4096] + os.urandom(len(good) - 4096)}[kind]
        )
    before = path.read_bytes() if path.is_file() else b""
    with pytest.raises(BadFile) as told:
        Store.open(path)
    assert str(path) in str(told.value)
    assert (path.read_bytes() if path.is_file() else b"") == before


def test_two_writers_do_not_overwrite_each_other(corner: Desk) -> None:
    other = Desk.open(corner.store.path)
    corner.run("add-level", name="mine", elevation=1)
    before = state(other)
    with pytest.raises(Refused, match="changed by another"):
        other.run("add-level", name="theirs", elevation=2)
    assert state(other) == before
    other.close()


def test_a_failing_command_changes_nothing(corner: Desk) -> None:
    before, history = state(corner), len(corner.store.history())
    for name, args, error in (
        ("place-connection", {"family": "fin-plate", "at": ["B1.start", "C1.start"]}, TinCleatError),
        ("place-connection", {"family": "fin-plate", "at": ["B1.start"], "settings": {"pitch": "3@x"}}, BadValue),
        ("place-connection", {"family": "fin-plate", "at": ["B1.start"], "settings": {"colour": 1}}, NotFound),
        ("place-connection", {"family": "glue", "at": ["B1.start"]}, NotFound),
        ("place-connection", {"family": "fin-plate", "at": ["B9.start"]}, NotFound),
        ("place-connection", {"family": "fin-plate", "at": ["B1"]}, BadValue),
        ("place-connection", {"family": "fin-plate"}, BadValue),
        ("add-members", {"members": [beam("IPE 300", (0, 0, 0), (0, 0, 0))]}, BadValue),
        ("add-members", {"members": [beam("IPE 301", (0, 0, 0), (0, 0, 1))]}, NotFound),
        ("add-members", {"members": [beam("IPE 300", (0, 0, float("nan")), (0, 0, 1))]}, BadValue),
        ("add-members", {"members": [beam("IPE 300", (0, 0, 0), (0, 0, 1e12))]}, BadValue),
        ("change-members", {"ids": ["B1"]}, BadValue),
        ("set-house-rules", {"values": {"bolt": "M21"}}, NotFound),
        ("set-house-rules", {"values": {"units": "cubits"}}, BadValue),
        ("set-house-rules", {"values": {"colour": "red"}}, BadValue),
        ("accept-finding", {"connection": "c1", "finding": "x", "by": "", "reason": ""}, BadValue),
        ("fly", {}, NotFound),
    ):  # fmt: skip
        with pytest.raises(error):
            corner.run(name, **args)
        assert state(corner) == before and len(corner.store.history()) == history


def test_script_is_all_or_nothing_and_names_the_line(corner: Desk) -> None:
    before = state(corner)
    good = '{"do": "add-level", "name": "a", "elevation": "1ft"}\n\n# a remark\n'
    with pytest.raises(BadValue, match="line 4"):
        corner.run_script(good + '{"do": "add-level", "name": "b", "elevation": "high"}')
    with pytest.raises(BadValue, match="line 1"):
        corner.run_script('{"do": "add-level"}')
    with pytest.raises(BadValue, match=r"line 2.*not JSON"):
        corner.run_script('{"do": "undo"}\n{oops')
    with pytest.raises(BadValue, match="line 1"):
        corner.run_script("[1, 2]")
    assert state(corner) == before
    titles = corner.run_script(good + '{"do": "place-all", "family": "fin-plate"}\n{"do": "place-all", "family": "base-plate"}')
    assert titles == ["Add level a", "Place fin plate at 2 joints", "Place base plate at 1 joint"]
    assert len(corner.project.connections) == 3


def test_copy(corner: Desk, tmp_path: Path) -> None:
    corner.run("place-all", family="base-plate")
    corner.store.copy_to(tmp_path / "copy.tincleat")
    copied = Desk.open(tmp_path / "copy.tincleat")
    assert state(copied) == state(corner) and copied.undo().startswith("Place")
    copied.close()
    with pytest.raises(BadFile):
        corner.store.copy_to(tmp_path / "nowhere" / "copy.tincleat")
