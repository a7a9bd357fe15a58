"""The file on the disk: damaged rows set aside, files renamed and replaced under an open project, logs of others, writers that die, files that must not be written over."""

import os
import resource
import shutil
import signal
import sqlite3
import stat
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

import msgspec
import pytest
from conftest import beam
from hypothesis import given, settings
from hypothesis import strategies as st

from tincleat.cli import main
from tincleat.commands.desk import Desk
from tincleat.errors import BadFile, BadValue, Fault, Refused, TinCleatError
from tincleat.exchange.ifc import export_ifc
from tincleat.exchange.tables import export_bill
from tincleat.files import sweep, write_whole
from tincleat.project.entities import Grid, HouseRules, Member, Snapshot
from tincleat.project.limits import check_entity, shown
from tincleat.project.store import Store


def state(desk: Desk) -> dict[str, Any]:
    """All entities as the file would keep them."""
    return {t: dict(rows) for t, rows in desk.project.tables.items()}


def edit(path: Path, sql: str, *values: Any) -> None:
    """Change a project file behind the program's back."""
    db = sqlite3.connect(path)
    db.execute(sql, values)
    db.commit()
    db.close()


# --- numbers and texts ------------------------------------------------------------

BAD_NUMBERS = [float("nan"), float("inf"), -float("inf"), 1e308, 1.1e8, -1e12]


@pytest.mark.parametrize("bad", BAD_NUMBERS)
@pytest.mark.parametrize(
    "command",
    [
        lambda v: ("add-grid", {"name": "g", "x": "2@6000", "y": "6000", "angle_deg": v * 180}),
        lambda v: ("add-grid", {"name": "g", "x": "2@6000", "y": "6000", "origin": [0, v, 0]}),
        lambda v: ("change-grid", {"id": "main", "angle_deg": v * 180}),
        lambda v: ("change-grid", {"id": "main", "origin": [v, 0, 0]}),
        lambda v: ("add-level", {"name": "z", "elevation": v}),
        lambda v: ("add-members", {"members": [beam("IPE 200", (0, 0, 0), (5000, 0, 0), roll_deg=v * 180)]}),
        lambda v: ("add-members", {"members": [beam("IPE 200", (0, 0, 0), (5000, 0, 0), offset=[0, v])]}),
        lambda v: ("change-members", {"ids": ["B1"], "roll_deg": v * 180}),
        lambda v: ("move-members", {"ids": ["B1"], "by": [0, 0, v]}),
        lambda v: ("set-house-rules", {"values": {"north_deg": v}}),
        lambda v: ("set-house-rules", {"values": {"rounding": {"plate width": {"step": v}}}}),
        lambda v: ("place-connection", {"family": "fin-plate", "at": ["B1.start"], "settings": {"edge_distance": v}}),
    ],
)
def test_no_number_out_of_reach_enters_a_project(corner: Desk, bad: float, command: Any) -> None:
    corner.run("add-grid", name="main", x="2@6000", y="6000")
    before, rows = state(corner), len(corner.store.history())
    name, args = command(bad)
    with pytest.raises(TinCleatError):
        corner.run(name, **args)
    assert state(corner) == before and len(corner.store.history()) == rows
    again = Desk.open(corner.store.path)
    assert state(again) == before and not again.faults()
    again.close()


@given(st.floats(allow_nan=True, allow_infinity=True), st.integers(0, 5))
@settings(max_examples=200)
def test_every_number_of_an_entity_is_looked_at(value: float, place: int) -> None:
    numbers = [0.0] * 6
    numbers[place] = value
    member = Member("m1", "M", "beam", "IPE 200", "S355", (numbers[0], numbers[1], numbers[2]), (1.0, 0.0, 0.0), numbers[3], "centre", (numbers[4], numbers[5]))
    good = abs(value) <= 1e8  # false for what is no number
    if good:
        check_entity(member)
    else:
        with pytest.raises(BadValue, match="number"):
            check_entity(member)


def test_script_numbers_that_json_does_not_have_are_refused(corner: Desk) -> None:
    for word in ("NaN", "Infinity", "-Infinity"):
        with pytest.raises(BadValue, match="line 1"):
            corner.run_script(f'{{"do": "add-level", "name": "a", "elevation": {word}}}')
    with pytest.raises(BadValue):
        corner.run_script('{"do": "add-level", "name": "a", "elevation": 1e400}')


def test_texts_are_of_a_size_that_can_be_shown_and_are_whole(corner: Desk) -> None:
    before = state(corner)
    for title in ("x" * 1_000_000, "half \ud800", "nul \0"):
        with pytest.raises(BadValue):
            corner.run("set-house-rules", values={"title": title})
        with pytest.raises(BadValue):
            corner.run("add-level", name=title, elevation=0)
    assert state(corner) == before
    assert shown("a\x1b[31mred") == "a\\x1b[31mred" and shown("Gärten – ü") == "Gärten – ü"


# --- what cannot be read is set aside -----------------------------------------------

DAMAGE = {
    "null in a number": "UPDATE entity SET body = json_set(body, '$.roll', json('null')) WHERE tab = 'member' AND id = 'm1'",
    "not its type": "UPDATE entity SET body = '{\"id\": 3}' WHERE tab = 'member' AND id = 'm1'",
    "no JSON": "UPDATE entity SET body = x'ff00ff' WHERE tab = 'member' AND id = 'm1'",
    "a number for a body": "UPDATE entity SET body = 7 WHERE tab = 'member' AND id = 'm1'",
    "a section that is not there": "UPDATE entity SET body = json_set(body, '$.section', 'UB 1x1x1') WHERE tab = 'member' AND id = 'm1'",
    "two corners": """UPDATE entity SET body = json_set(body, '$.outs', json('[{"point":[0,0,0],"x":[1,0,0],"z":[0,1,0],"corners":[[0,0],[1,1]],"radii":[0,0]}]'))
                   WHERE tab = 'member' AND id = 'm1'""",
    "a radius that does not fit": """UPDATE entity SET body = json_set(body, '$.outs',
                   json('[{"point":[0,0,0],"x":[1,0,0],"z":[0,1,0],"corners":[[0,0],[100,0],[0,100]],"radii":[900,0,0]}]')) WHERE tab = 'member' AND id = 'm1'""",
    "far away": "UPDATE entity SET body = json_set(body, '$.start', json('[1e300, 0, 0]')) WHERE tab = 'member' AND id = 'm1'",
    "another's name": "UPDATE entity SET body = json_set(body, '$.id', 'm2') WHERE tab = 'member' AND id = 'm1'",
    "an unknown table": "INSERT INTO entity VALUES ('spaceship', 'x1', '{}')",
    "a body without its points": """INSERT INTO entity VALUES ('reference', 'b9', '{"id":"b9","name":"x","kind":"pad","guid":"","points":[[0,0,0]],"triangles":[[0,1,2]]}')""",
    "a drawing that cannot be unpacked": """INSERT INTO entity VALUES ('underlay', 'u9', '{"id":"u9","name":"x","kind":"lines","level":0,"body":"AAAA","pixels":[0,0],"base":[0,0],"at":[0,0],"scale":1,"angle":0}')""",
    "a grid without lines": """INSERT INTO entity VALUES ('grid', 'g9', '{"id":"g9","name":"x","origin":[0,0,0],"angle":0,"x":[],"y":[]}')""",
    "no stock": "UPDATE entity SET body = json_set(body, '$.plates', json('[]')) WHERE tab = 'house'",
    "house rules": "UPDATE entity SET body = json_set(body, '$.units', 'cubits') WHERE tab = 'house'",
}


@pytest.mark.parametrize("kind", DAMAGE)
def test_one_damaged_thing_is_set_aside_named_and_kept_in_the_file(corner: Desk, kind: str) -> None:
    corner.run("place-all", family="fin-plate")
    path = corner.store.path
    corner.close()
    whole = Desk.open(path)
    before = state(whole)
    whole.close()
    edit(path, DAMAGE[kind])
    db = sqlite3.connect(path)
    rows = set(db.execute("SELECT tab, id, body FROM entity"))
    db.close()
    opened = Desk.open(path)
    assert len(opened.store.aside) == 1 and "set aside" in " ".join(opened.faults())
    odd = opened.store.aside[0]
    for table, entities in before.items():
        for key, entity in entities.items():
            if (table, key) != (odd.table, odd.id):
                assert opened.project.tables[table][key] == entity
    opened.run("add-level", name="on with it", elevation=1)
    opened.undo()
    opened.close()
    db = sqlite3.connect(path)
    assert rows <= set(db.execute("SELECT tab, id, body FROM entity"))
    db.close()
    assert main(["info", str(path), "--json"]) == 0


def test_damaged_house_rules_are_kept_beside_the_ones_that_replace_them(corner: Desk) -> None:
    path = corner.store.path
    corner.close()
    edit(path, DAMAGE["house rules"])
    desk = Desk.open(path)
    desk.run("set-house-rules", values={"title": "Anew"})
    desk.close()
    again = Desk.open(path)
    assert again.project.house.title == "Anew" and [a.table for a in again.store.aside] == ["aside"]
    again.close()


def test_a_connection_of_an_unknown_family_is_listed_and_the_rest_is_joined(corner: Desk) -> None:
    corner.run("place-all", family="fin-plate")
    path = corner.store.path
    corner.close()
    edit(path, "UPDATE entity SET body = json_set(body, '$.family', 'glue') WHERE tab = 'connection' AND id = (SELECT min(id) FROM entity WHERE tab = 'connection')")
    desk = Desk.open(path)
    assert sum("glue" in f for f in desk.faults()) == 1
    assert sum(e.made is not None for e in desk.ledger.entries.values()) == 1
    desk.close()


def test_a_snapshot_with_one_damaged_member_still_restores_the_rest(corner: Desk) -> None:
    import zlib

    from tincleat.project.entities import encoded
    from tincleat.project.snapshots import packed, unpacked, unusable

    corner.run("take-snapshot", name="before")
    good = next(iter(corner.project.snapshots.values()))
    tables = msgspec.json.decode(zlib.decompress(packed(corner.project)))
    tables["member"][0]["section"] = "UB 1x1x1"
    tables["grid"] = [{"id": 3}]
    odd = msgspec.structs.replace(good, body=zlib.compress(encoded(tables)))
    assert set(unpacked(odd)["member"]) == {"m2", "m3"} and len(unusable(odd)) == 2
    bomb = msgspec.structs.replace(good, body=zlib.compress(b"[" * 70_000_000, 9))
    with pytest.raises(BadFile, match="MB"):
        unpacked(bomb)


def test_counters_at_their_ends_do_not_stop_the_work(corner: Desk) -> None:
    path = corner.store.path
    corner.close()
    for number, revision, seq in ((0, 0, 5), (2**63 - 1, 2**63 - 1, 2**63 - 1), (-5, -7, 1)):
        edit(path, "UPDATE meta SET value = ? WHERE key = 'number'", number)
        edit(path, "UPDATE meta SET value = ? WHERE key = 'revision'", revision)
        edit(path, "UPDATE history SET seq = ? WHERE seq = (SELECT max(seq) FROM history)", seq)
        desk = Desk.open(path)
        have = set(desk.project.members)
        desk.run("add-members", members=[beam("IPE 200", (0, 9000, 0), (5000, 9000, 0))])
        desk.run("add-level", name=f"after {number}", elevation=1)
        assert len(desk.project.members) == len(have) + 1
        assert desk.undo().startswith("Add level") and desk.redo().startswith("Add level") and desk.undo() and desk.undo()
        desk.close()


@pytest.mark.parametrize(
    "sql",
    [
        "CREATE TRIGGER t AFTER INSERT ON history BEGIN DELETE FROM entity; END",
        "CREATE VIEW v AS SELECT * FROM entity",
        "CREATE TABLE other (a)",
        "CREATE INDEX i ON entity (body)",
        "ALTER TABLE entity ADD COLUMN more",
        "DROP TABLE history",
        "CREATE VIRTUAL TABLE f USING fts5(a)",
    ],
)
def test_a_file_with_anything_but_the_tables_of_a_project_is_refused(corner: Desk, sql: str) -> None:
    path = corner.store.path
    corner.close()
    edit(path, sql)
    with pytest.raises(BadFile):
        Desk.open(path)


# --- own sections belong to their project -------------------------------------------

CSV = "designation,shape,h,b,tw,tf,r1,r2,slope,tf_at,mass\nMY 300,I,300,{b},8,12,15,0,0,0,\n"


def own(folder: Path, name: str, width: int) -> Desk:
    """A project with a beam of a section called MY 300 that is its own."""
    table = folder / f"{name}.csv"
    table.write_text(CSV.format(b=width))
    desk = Desk.create(folder / f"{name}.tincleat")
    desk.run("import-sections", path=str(table))
    desk.run("add-members", members=[beam("my300", (0, 0, 0), (5000, 0, 0), name="B")])
    return desk


def width_of(desk: Desk) -> float:
    return desk.project.section(desk.project.find("member", "B").section).b  # type: ignore[union-attr]


def mass_of(desk: Desk) -> float:
    from tincleat.release.bill import total_mass

    return round(total_mass(desk.ledger), 3)


def test_two_projects_with_a_section_of_one_name_each_see_their_own(tmp_path: Path) -> None:
    a, b = own(tmp_path, "a", 150), own(tmp_path, "b", 200)
    assert (width_of(a), width_of(b)) == (150, 200)
    # by hand: 2 x b x 12 + 276 x 8 + (4 - pi) 15²; 7850 kg/m³ over 5 m
    for desk, wide in ((a, 150), (b, 200)):
        area = 2 * wide * 12 + 276 * 8 + 0.8584073 * 225
        assert mass_of(desk) == pytest.approx(area * 7850e-9 * 5000, abs=0.01)
    with pytest.raises(TinCleatError):
        none = Desk.create(tmp_path / "c.tincleat")
        none.run("add-members", members=[beam("MY 300", (0, 0, 0), (5000, 0, 0))])
    a.close()
    again = Desk.open(tmp_path / "a.tincleat")
    assert width_of(again) == 150 and width_of(b) == 200
    again.close()
    b.close()


def test_a_section_read_anew_changes_its_members_and_undo_brings_the_old_one_back(tmp_path: Path) -> None:
    desk = own(tmp_path, "a", 150)
    desk.run("take-snapshot", name="thin")
    before = mass_of(desk)
    (tmp_path / "a.csv").write_text(CSV.format(b=220))
    desk.run("import-sections", path=str(tmp_path / "a.csv"))
    after = mass_of(desk)
    assert width_of(desk) == 220 and after > before
    desk.undo()
    assert width_of(desk) == 150 and mass_of(desk) == before
    desk.redo()
    assert width_of(desk) == 220 and mass_of(desk) == after
    desk.run("restore-snapshot", name="thin")
    assert width_of(desk) == 150 and mass_of(desk) == before
    for _ in range(5):
        desk.undo()
    with pytest.raises(TinCleatError):
        desk.project.section("MY 300")
    for _ in range(5):
        desk.redo()
    assert width_of(desk) == 150
    desk.close()


# --- nothing is called kept that is not in the file the user sees ---------------------


@pytest.mark.parametrize("what", ["renamed", "deleted", "replaced", "written over"])
def test_a_file_that_is_no_longer_ours_is_noticed_before_anything_is_called_kept(corner: Desk, tmp_path: Path, what: str) -> None:
    path = corner.store.path
    corner.run("place-all", family="fin-plate")
    other = Desk.create(tmp_path / "other.tincleat", HouseRules(title="Other"))
    for i in range(30):
        other.run("add-level", name=f"l{i}", elevation=i)
    other.close()
    if what == "renamed":
        path.rename(tmp_path / "elsewhere.tincleat")
    elif what == "deleted":
        path.unlink()
    elif what == "replaced":
        os.replace(tmp_path / "other.tincleat", path)
    else:
        time.sleep(0.02)
        path.write_bytes((tmp_path / "other.tincleat").read_bytes())
    before = state(corner)
    for act in (lambda: corner.run("add-level", name="new", elevation=1), corner.undo, lambda: corner.run("delete-members", ids=["B1"])):
        with pytest.raises(Refused, match="Save a copy"):
            act()
        assert state(corner) == before
    words = corner.store.copy_to(tmp_path / "saved.tincleat")
    assert bool(words) == (what == "written over")
    saved = Desk.open(tmp_path / "saved.tincleat")
    assert state(saved) == before and not saved.faults()
    saved.close()


@pytest.mark.parametrize("same", [False, True])
def test_a_log_that_belongs_to_another_file_is_not_replayed(tmp_path: Path, same: bool) -> None:
    """A file is put in the place of one whose program was killed; ``same``: it is an older copy of the same project."""
    path, other = tmp_path / "job.tincleat", tmp_path / "other.tincleat"
    child = """
import os, sys
from tincleat.commands.desk import Desk
desk = Desk.open(sys.argv[1])
for i in range(12):
    desk.run("add-level", name=f"level {i}", elevation=i)
os.kill(os.getpid(), 9)
"""
    Desk.create(path, HouseRules(title="Job")).close()
    if same:
        shutil.copy(path, other)
        desk = Desk.open(path)
        for i in range(5):
            desk.run("add-level", name=f"early {i}", elevation=100 + i)
        desk.close()
    else:
        Desk.create(other, HouseRules(title="Other")).close()
    subprocess.run([sys.executable, "-c", child, str(path)], check=False)
    assert Path(f"{path}-wal").stat().st_size > 0
    lived = shutil.copytree(tmp_path, tmp_path.with_name(tmp_path.name + "-lived"))
    assert len(Desk.open(lived / "job.tincleat").project.levels) == (17 if same else 12)  # its own log is replayed
    shutil.copy(other, path)
    desk = Desk.open(path)
    assert desk.project.house.title == ("Job" if same else "Other") and not desk.project.levels
    assert any("log of another file" in f for f in desk.faults())
    assert list(tmp_path.glob("*.not-its-own-1"))
    desk.run("add-level", name="mine", elevation=1)
    desk.close()
    again = Desk.open(path)
    assert len(again.project.levels) == 1 and not again.faults()
    again.close()


def test_the_commit_is_the_last_step_that_can_fail(corner: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    corner.run("place-all", family="fin-plate")
    corner.run("take-snapshot", name="s")
    corner.run("add-level", name="one", elevation=1)
    corner.undo()
    path = corner.store.path

    def on_disk() -> list[Any]:
        db = sqlite3.connect(path)
        found = [db.execute("SELECT * FROM entity ORDER BY tab, id").fetchall(), db.execute("SELECT seq, done FROM history").fetchall()]
        db.close()
        return found

    acts = [
        lambda: corner.run("change-members", ids=["B1"], section="IPE 300"),
        corner.undo,
        corner.redo,
        lambda: corner.run("restore-snapshot", name="s"),
        lambda: corner.keep("add-level", {}, lambda p: ("x", p.put(Grid("g9", "g", (0.0, 0.0, 0.0), 0.0, (("1", 0.0),), (("A", 0.0),))))),
    ]
    corner.run("change-members", ids=["B2"], section="IPE 300")
    corner.run("add-level", name="two", elevation=2)
    corner.undo()
    before, disk, counts = state(corner), on_disk(), corner.ledger.counts()
    for target, name in ((type(corner.ledger), "build"), (type(corner.ledger), "settle"), (Store, "_write")):
        for act in acts:
            with monkeypatch.context() as patch:

                def fail(*args: Any, **more: Any) -> None:
                    raise ValueError("a fault")

                patch.setattr(target, name, fail)
                with pytest.raises(Fault, match="nothing was changed"):
                    act()
            assert state(corner) == before and on_disk() == disk and corner.ledger.counts() == counts
            corner.ledger.rebuild()
            assert corner.ledger.counts() == counts
    corner.run("add-level", name="three", elevation=3)


def test_a_listener_that_fails_does_not_undo_what_was_kept(corner: Desk) -> None:
    heard = []

    def fail(*_: object) -> None:
        raise RuntimeError("no picture")

    corner.listeners += [fail, lambda *_: heard.append(1)]
    with pytest.raises(Fault, match="is kept"):
        corner.run("add-level", name="a", elevation=1)
    assert heard == [1] and len(Desk.open(corner.store.path).project.levels) == 1


# --- what cannot be written opens read-only, and says why -------------------------------


@pytest.mark.parametrize("why", ["write-protected", "hard links", "folder"])
def test_a_file_that_should_not_be_written_opens_read_only(corner: Desk, tmp_path: Path, why: str) -> None:
    folder = tmp_path / "place"
    folder.mkdir()
    path = folder / "p.tincleat"
    corner.store.copy_to(path)
    log = why == "folder"  # with a log of a killed program beside it, whose changes must be seen
    if log:
        child = "import os, sys\nfrom tincleat.commands.desk import Desk\nDesk.open(sys.argv[1]).run('add-level', name='late', elevation=1)\nos.kill(os.getpid(), 9)"
        subprocess.run([sys.executable, "-c", child, str(path)], check=False)
    if why == "write-protected":
        path.chmod(0o444)
    elif why == "hard links":
        os.link(path, tmp_path / "second.tincleat")
    else:
        folder.chmod(0o555)
    before = {f.name: f.read_bytes() for f in folder.iterdir()}
    desk = Desk.open(path)
    assert why in desk.store.read_only and len(desk.project.members) == 3 and len(desk.project.levels) == log
    assert any("read-only" in f for f in desk.faults())
    with pytest.raises(Refused, match="read-only"):
        desk.run("add-level", name="a", elevation=1)
    assert len(desk.project.levels) == log
    desk.store.copy_to(tmp_path / "copy.tincleat")
    desk.close()
    copied = Desk.open(tmp_path / "copy.tincleat")
    copied.run("add-level", name="a", elevation=1)
    copied.close()
    assert {f.name: f.read_bytes() for f in folder.iterdir()} == before
    folder.chmod(0o755)


def test_a_locked_file_is_called_locked_not_damaged(corner: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    holder = sqlite3.connect(corner.store.path, isolation_level=None)
    holder.execute("BEGIN IMMEDIATE")
    corner.store._db.execute("PRAGMA busy_timeout = 50")
    with pytest.raises(Refused, match="another program is writing"):
        corner.run("add-level", name="a", elevation=1)
    holder.execute("ROLLBACK")
    holder.close()
    corner.run("add-level", name="a", elevation=1)
    path = corner.store.path
    corner.close()
    holder = sqlite3.connect(path, isolation_level=None)
    holder.execute("PRAGMA locking_mode = EXCLUSIVE")
    holder.execute("BEGIN EXCLUSIVE")
    real = sqlite3.connect
    monkeypatch.setattr(sqlite3, "connect", lambda *a, **k: real(*a, **{**k, "timeout": 0.05}))
    with pytest.raises(BadFile) as told:
        Desk.open(path)
    assert "locked" in str(told.value) and "damaged" not in str(told.value)
    holder.close()


def test_pipes_devices_and_huge_files_are_named_at_once(tmp_path: Path) -> None:
    pipe = tmp_path / "pipe.tincleat"
    os.mkfifo(pipe)
    huge = tmp_path / "huge.tincleat"
    with huge.open("wb") as file:
        file.truncate(10_000_000_000)
    real = tmp_path / "real.tincleat"
    Desk.create(real).close()
    with real.open("r+b") as file:
        file.truncate(10_000_000_000)
    started = time.monotonic()
    for path, word in ((pipe, "pipe"), (Path("/dev/zero"), "device"), (huge, "not a project"), (real, "GB"), (tmp_path / "none", "no such"), (Path("a\0b"), "NUL")):
        with pytest.raises(BadFile, match=word):
            Desk.open(path)
        assert main(["do", str(tmp_path / "small.tincleat"), str(path)]) == 2
    assert time.monotonic() - started < 5


# --- one path for everything that is written ----------------------------------------------


def test_exports_never_write_over_a_project_a_device_or_what_is_being_read(corner: Desk, tmp_path: Path) -> None:
    other = tmp_path / "other.tincleat"
    Desk.create(other).close()
    link = tmp_path / "link.ifc"
    link.symlink_to(other)
    os.mkfifo(tmp_path / "pipe.ifc")
    before = other.read_bytes()
    for target, word in ((corner.store.path, "project"), (other, "project"), (link, "project"), (tmp_path / "pipe.ifc", "pipe"), (tmp_path, "folder"), (tmp_path / "no" / "x.ifc", "folder")):
        with pytest.raises(BadFile, match=word):
            export_ifc(corner.ledger, target)
    with pytest.raises(BadFile):
        export_bill(corner.ledger, Path("/dev/null"))
    assert other.read_bytes() == before
    through = tmp_path / "through.csv"
    through.symlink_to(tmp_path / "real.csv")
    (tmp_path / "real.csv").write_text("old")
    export_bill(corner.ledger, through)
    assert through.is_symlink() and "mark" in (tmp_path / "real.csv").read_text()


def test_a_copy_onto_itself_is_refused_and_onto_a_file_with_a_leftover_log_done_right(corner: Desk, tmp_path: Path) -> None:
    corner.run("add-level", name="mine", elevation=1)
    for same in (corner.store.path, tmp_path / "sub" / ".." / corner.store.path.name):
        (tmp_path / "sub").mkdir(exist_ok=True)
        with pytest.raises(BadFile, match="itself"):
            corner.store.copy_to(same)
    target = tmp_path / "old.tincleat"
    Desk.create(target, HouseRules(title="Old")).close()
    child = "import os, sys\nfrom tincleat.commands.desk import Desk\nd = Desk.open(sys.argv[1])\n[d.run('add-level', name=f'o{i}', elevation=i) for i in range(9)]\nos.kill(os.getpid(), 9)"
    subprocess.run([sys.executable, "-c", child, str(target)], check=False)
    assert Path(f"{target}-wal").stat().st_size
    corner.store.copy_to(target)
    copied = Desk.open(target)
    assert state(copied) == state(corner) and not copied.faults()
    copied.close()
    stray = tmp_path / "stray.tincleat"
    Path(f"{stray}-wal").write_bytes(Path(corner.store.path.as_posix() + "-wal").read_bytes())
    corner.store.copy_to(stray)
    assert state(Desk.open(stray)) == state(corner)


def test_a_project_that_is_open_is_not_written_over_under_its_program(corner: Desk, tmp_path: Path) -> None:
    corner.run("add-level", name="mine", elevation=1)
    before = state(corner)
    assert main(["new", str(corner.store.path), "--force"]) == 2
    corner.run("add-level", name="more", elevation=2)
    corner.undo()
    assert state(corner) == before


def test_force_that_fails_leaves_the_old_file_and_no_parts(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    target = tmp_path / "keep.tincleat"
    Desk.create(target, HouseRules(title="Old")).close()
    before = target.read_bytes()

    def fail(desk: Desk) -> None:
        raise BadValue("on purpose")

    with pytest.raises(BadValue):
        Desk.create_whole(target, None, True, fail)
    bad = tmp_path / "bad.ifc"
    bad.write_text("ISO-10303-21;\nnothing\n")
    assert main(["import", str(bad), "-o", str(target), "--force"]) == 2
    assert target.read_bytes() == before and sorted(p.name for p in tmp_path.iterdir()) == ["bad.ifc", "keep.tincleat"]


def test_parts_of_dead_writers_are_swept_up_and_those_of_the_living_left(tmp_path: Path) -> None:
    dead = subprocess.Popen([sys.executable, "-c", "pass"])
    dead.wait()
    for name in (f".x.ifc.part-{dead.pid}.ifc", f".x.tincleat.part-{dead.pid}.tincleat-wal", f".mine.part-{os.getpid()}", ".other.part-x", "seen.part-1"):
        (tmp_path / name).write_text("x")
    assert sweep(tmp_path) == 2
    assert sorted(p.name for p in tmp_path.iterdir()) == [f".mine.part-{os.getpid()}", ".other.part-x", "seen.part-1"]
    (tmp_path / f".x.ifc.part-{dead.pid}.ifc").write_text("x")
    write_whole(tmp_path / "new.txt", lambda p: p.write_text("y"))
    assert not (tmp_path / f".x.ifc.part-{dead.pid}.ifc").exists() and (tmp_path / "new.txt").read_text() == "y"


@pytest.mark.parametrize("argv", [["export", "P", "--bom", "o.csv"], ["export", "P", "--bom", "o.xlsx"], ["export", "P", "--ifc", "o.ifc"], ["new", "o.tincleat"], ["undo", "P"]])
def test_a_full_disk_is_said_and_leaves_what_was_there(demo_file: Path, tmp_path: Path, argv: list[str]) -> None:
    project = tmp_path / "p.tincleat"
    shutil.copy(demo_file, project)
    old = tmp_path / argv[-1]
    if argv[0] == "export":
        old.write_text("old")
    args = [str(project) if a == "P" else str(tmp_path / a) if a.startswith("o.") else a for a in argv]

    def little_room() -> None:
        resource.setrlimit(resource.RLIMIT_FSIZE, (4096, 4096))
        signal.signal(signal.SIGXFSZ, signal.SIG_IGN)

    done = subprocess.run([sys.executable, "-m", "tincleat.cli", *args], capture_output=True, text=True, preexec_fn=little_room, check=False, env={**os.environ, "PYTHONDONTWRITEBYTECODE": "1"})  # half a compiled module would stay behind
    assert done.returncode == 2 and "Traceback" not in done.stderr and done.stderr.startswith("tincleat: ")
    assert not list(tmp_path.glob(".*part*"))
    if argv[0] == "export":
        assert old.read_text() == "old"
    Desk.open(project).close()


@pytest.mark.parametrize("argv", [["new", "X", "--demo", "boathouse"], ["new", "X"]])
def test_a_new_project_is_whole_or_not_there_at_all(tmp_path: Path, argv: list[str]) -> None:
    target = tmp_path / "x.tincleat"
    for i in range(6):
        child = subprocess.Popen([sys.executable, "-m", "tincleat.cli", *[str(target) if a == "X" else a for a in argv]], stdout=subprocess.DEVNULL)
        time.sleep(0.6 + 0.12 * i)
        child.kill()
        child.wait()
        if target.exists():
            desk = Desk.open(target)
            assert len(desk.project.members) == (156 if "--demo" in argv else 0) or len(desk.project.connections) > 20
            assert not desk.faults()
            desk.close()
            target.unlink()
        else:
            assert not Path(f"{target}-wal").exists()


def test_nobody_without_permission_gets_a_traceback(corner: Desk, tmp_path: Path) -> None:
    """As another user: a file he may not read, and one in a folder he may not write to."""
    if os.getuid() != 0:
        pytest.skip("only root can become another user")
    place = Path("/tmp") / f"tincleat-test-{os.getpid()}"
    place.mkdir(mode=0o755)
    try:
        corner.store.copy_to(place / "open.tincleat")
        corner.store.copy_to(place / "closed.tincleat")
        (place / "open.tincleat").chmod(0o644)
        (place / "closed.tincleat").chmod(0o600)
        pid = os.fork()
        if pid == 0:
            code = 1
            try:
                os.setgid(65534)
                os.setuid(65534)
                try:
                    Desk.open(place / "closed.tincleat")
                except BadFile as error:
                    assert "permission" in str(error)
                    desk = Desk.open(place / "open.tincleat")
                    assert "may not write" in desk.store.read_only and len(desk.project.members) == 3
                    try:
                        export_bill(desk.ledger, place / "bill.csv")
                    except BadFile as told:
                        assert "permission" in str(told)
                        code = 0
            finally:
                os._exit(code)
        assert os.waitstatus_to_exitcode(os.waitpid(pid, 0)[1]) == 0
    finally:
        shutil.rmtree(place)


def test_the_mode_of_a_new_file_is_that_of_any_new_file(tmp_path: Path) -> None:
    Desk.create(tmp_path / "a.tincleat").close()
    plain = tmp_path / "plain"
    plain.touch()
    assert stat.S_IMODE((tmp_path / "a.tincleat").stat().st_mode) == stat.S_IMODE(plain.stat().st_mode)


def test_identities_of_projects_differ_and_stay(tmp_path: Path) -> None:
    a, b = (Desk.create(tmp_path / f"{n}.tincleat", HouseRules(title="Same")) for n in "ab")
    first = a.project.identity
    assert first and first != b.project.identity
    a.run("set-house-rules", values={"title": "Other"})
    a.close()
    assert Desk.open(tmp_path / "a.tincleat").project.identity == first


def test_snapshots_and_underlays_are_not_looked_through_for_numbers(corner: Desk) -> None:
    check_entity(Snapshot("s1", "n", "w", 1, b"\x00" * 10_000_000))
