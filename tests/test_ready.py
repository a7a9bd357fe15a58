"""True-up rules, stock splits, snapshots and revised models, by value."""

import json
import math
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tincleat.catalogue.sections import section
from tincleat.cli import main
from tincleat.commands.desk import Desk
from tincleat.commands.ready import differences, revision
from tincleat.demo.registry import make_demo
from tincleat.errors import BadFile, BadValue, NotFound, Refused
from tincleat.exchange.ifc import export_ifc
from tincleat.ledger.look import standing, want_look
from tincleat.project.entities import Member
from tincleat.project.members import axis_frame, length
from tincleat.ready.stock import over_stock, pieces, split_places
from tincleat.ready.true_up import plan
from tincleat.ready.work import gravity_line, top_of


@pytest.fixture
def desk(tmp_path: Path) -> Iterator[Desk]:
    """One bay of a wireframe: two columns with a floor at 4000 and a splice there, a beam on the node line."""
    desk = Desk.create(tmp_path / "w.tincleat")
    desk.run("add-level", name="ground", elevation=0)
    desk.run("add-level", name="floor", elevation=4000)
    add(desk, "column", "HEB 240", (0, 0, 0), (0, 0, 4000), "C1")
    add(desk, "column", "HEB 240", (0, 0, 4000), (0, 0, 8000), "C2")
    add(desk, "column", "HEB 240", (6000, 0, 0), (6000, 0, 8000), "D1")
    add(desk, "beam", "IPE 300", (0, 0, 4000), (6000, 0, 4000), "B1")
    yield desk
    desk.close()


def add(desk: Desk, role: str, name: str, start: tuple, end: tuple, label: str, **more: Any) -> None:
    desk.run("add-members", members=[{"role": role, "section": name, "start": list(start), "end": list(end), "name": label, **more}])


def get(desk: Desk, name: str) -> Member:
    found = desk.project.find("member", name)
    assert isinstance(found, Member)
    return found


def test_floor_beams_hang_by_their_top(desk: Desk) -> None:
    # IPE 300 on its middle reaches 150 over the level
    (change,) = plan(desk.ledger, ["floor-beams"]).changes
    assert change.words == "top of steel 4150.0 → 4000.0" and change.new.cardinal == "top"
    desk.run("true-up", rules=["floor-beams"])
    b = get(desk, "B1")
    assert (b.start, b.end) == ((0, 0, 4000), (6000, 0, 4000)) and top_of(b, np.array(b.start)) == pytest.approx(4000)
    with pytest.raises(Refused, match="nothing is to be trued up"):
        desk.run("true-up", rules=["floor-beams"])
    desk.run("true-up", rules=["floor-beams"], settings={"floor-beams": {"drop": 150}})
    assert top_of(get(desk, "B1"), np.array(b.start)) == pytest.approx(3850)


def test_a_rolled_beam_is_left_and_said(desk: Desk) -> None:
    add(desk, "beam", "IPE 200", (0, 0, 4000), (0, 5000, 4000), "B2", roll_deg=30)
    found = plan(desk.ledger, ["floor-beams"])
    assert [(x.member, x.rule) for x in found.left] == [(get(desk, "B2").id, "floor-beams")] and "rolled" in found.left[0].why


def test_vertical_bracing_goes_to_the_centre_line_and_stays_at_feet(desk: Desk) -> None:
    add(desk, "brace", "CHS 114.3x5", (0, 0, 0), (6000, 0, 4000), "W1")
    add(desk, "brace", "CHS 114.3x5", (6000, 0, 0), (0, 0, 3850), "W2")  # right already
    desk.run("true-up", rules=["floor-beams", "vertical-bracing"])
    # top of steel 4000, IPE 300: the centre line lies at 3850
    assert (get(desk, "W1").start, get(desk, "W1").end) == ((0, 0, 0), (6000, 0, 3850))
    assert (get(desk, "W2").start, get(desk, "W2").end) == ((6000, 0, 0), (0, 0, 3850))
    assert not plan(desk.ledger).changes or {c.rule for c in plan(desk.ledger).changes} == {"splices"}


def test_vertical_bracing_is_left_where_beams_lie_at_two_heights(desk: Desk) -> None:
    # tops at 4000: 303.4 and 304.4 deep, the middles 0.5 apart: one of them; 200 and 300 deep: 50 apart, left
    desk.run("delete-members", ids=[get(desk, "B1").id])
    for label, first, second, x in (("W1", "UB 305x165x40", "UB 305x127x37", 0.0), ("W2", "IPE 300", "IPE 200", 20000.0)):
        add(desk, "column", "HEB 240", (x, 0, 0), (x, 0, 8000), f"K{label}")
        add(desk, "beam", first, (x, 0, 4000), (x + 6000, 0, 4000), f"F{label}")
        add(desk, "beam", second, (x - 6000, 0, 4000), (x, 0, 4000), f"S{label}")
        add(desk, "brace", "CHS 114.3x5", (x + 6000, 0, 0), (x, 0, 4000), label)
    found = plan(desk.ledger, ["floor-beams", "vertical-bracing"])
    assert [(x.member, x.why) for x in found.left if x.rule == "vertical-bracing"] == [(get(desk, "W2").id, "at its end the beams' centre lines lie 50 mm apart")]
    desk.run("true-up", rules=["floor-beams", "vertical-bracing"])
    assert get(desk, "W1").end[2] == pytest.approx(4000 - 152, abs=0.31) and get(desk, "W2").end[2] == 4000


def test_horizontal_bracing_goes_under_the_flange(desk: Desk) -> None:
    add(desk, "beam", "IPE 400", (0, 5000, 4000), (6000, 5000, 4000), "B3")
    add(desk, "brace", "L 80x80x8", (0, 0, 4000), (6000, 5000, 4000), "H1")
    add(desk, "brace", "L 80x80x8", (0, 9000, 4000), (2000, 9500, 4000), "H2")  # nothing near
    found = plan(desk.ledger, ["floor-beams", "horizontal-bracing"], {"horizontal-bracing": {"offset": 30}})
    desk.run("true-up", rules=["floor-beams", "horizontal-bracing"], settings={"horizontal-bracing": {"offset": 30}})
    # top of steel 4000, the thicker flange is the IPE 400's 13.5, 30 clear, then half the angle's 80
    assert axis_frame(get(desk, "H1")).o[2] == pytest.approx(4000 - 13.5 - 30 - 40)
    assert [(x.member, x.why) for x in found.left] == [(get(desk, "H2").id, "no beam is near either end")]
    assert get(desk, "H2").start[2] == 4000


def test_truss_members_meet_at_one_point(desk: Desk) -> None:
    for z, name in ((7000, "top"), (5000, "bottom")):
        add(desk, "beam", "UC 152x152x23", (0, 20000, z), (9000, 20000, z), name)
    add(desk, "brace", "L 90x90x8", (0, 20000, 5000), (3000, 20000, 7000), "d1")
    add(desk, "brace", "L 90x90x8", (3050, 20000, 7000), (6000, 20000, 5000), "d2")  # the nodes lie 50 apart
    add(desk, "post", "L 70x70x7", (3020, 20000, 7000), (3020, 20000, 5000), "p1")
    desk.run("true-up", rules=["trusses"])
    chord, way = gravity_line(get(desk, "top"))

    def crossing(name: str) -> np.ndarray:
        point, line = gravity_line(get(desk, name))
        n = np.cross(line, np.cross(way, line))
        at = chord + way * float((point - chord) @ n / (way @ n))
        off = at - point
        assert np.linalg.norm(off - line * float(off @ line)) < 0.1  # the two lines meet, and do not pass each other
        return at

    nodes = [crossing(n) for n in ("d1", "d2", "p1")]
    # the mean of 3000, 3050 and 3020, on the chord's own centre of gravity
    assert all(np.allclose(n, (3023.333, 20000, 7000), atol=0.1) for n in nodes)
    assert not plan(desk.ledger, ["trusses"]).changes


def test_purlins_sit_on_the_rafter(desk: Desk) -> None:
    for x in (0, 6000):
        add(desk, "rafter", "IPE 400", (x, 30000, 5000), (x, 40000, 6000), f"R{x}")
    add(desk, "purlin", "Z 200x65x20x2", (0, 35000, 5500), (6000, 35000, 5500), "P1")
    add(desk, "purlin", "Z 200x65x20x2", (9000, 35000, 5500), (12000, 35000, 5500), "P2")
    found = plan(desk.ledger, ["purlins"])
    desk.run("true-up", rules=["purlins"])
    slope = math.hypot(10000, 1000)
    p = get(desk, "P1")
    # half the rafter's 400 square to the slope
    assert p.start == pytest.approx((0, 35000 - 200 * 1000 / slope, 5500 + 200 * 10000 / slope), abs=1e-3) and p.cardinal == "bottom"
    assert axis_frame(p).z == pytest.approx((0, -1000 / slope, 10000 / slope), abs=1e-6)
    assert [x.why for x in found.left] == ["nothing carries it at start and end"]


def test_column_splices_go_over_the_floor(desk: Desk) -> None:
    desk.run("true-up", rules=["splices"], settings={"splices": {"height": 600}})
    assert get(desk, "C1").end == get(desk, "C2").start == (0, 0, 4600) and get(desk, "C2").end == (0, 0, 8000)
    assert any(e.joint.kind == "column splice" for e in desk.ledger.entries.values())
    assert not plan(desk.ledger, ["splices"], {"splices": {"height": 600}}).changes


def test_the_demo_has_work_for_every_rule_and_none_twice(tmp_path: Path) -> None:
    desk = make_demo("wireframe", tmp_path / "f.tincleat")
    apart = desk.ledger.counts()["apart"]
    found = plan(desk.ledger)
    assert {c.rule for c in found.changes} == {"splices", "floor-beams", "purlins", "trusses", "horizontal-bracing", "vertical-bracing"} and found.left
    some = found.changes[0].new.id
    desk.run("true-up", skip=[some])
    assert {c.new.id for c in plan(desk.ledger).changes} >= {some}
    desk.run("true-up")
    assert not plan(desk.ledger).changes
    # connectivity: whatever met something still does
    assert desk.ledger.counts()["apart"] <= apart
    # every web of the gangway meets its chord within a tenth of a millimetre
    for m in desk.project.members.values():
        if m.name.startswith(("GW", "GP")):
            for p in (m.start, m.end):
                gaps = []
                for c in desk.project.members.values():
                    if c.name.startswith(("GT", "GB")):
                        point, way = gravity_line(c)
                        off = np.array(p) - point
                        gaps.append(np.linalg.norm(off - way * float(off @ way)))
                assert min(gaps) < 0.1
    desk.close()


def test_true_up_says_what_is_not_there(desk: Desk) -> None:
    with pytest.raises(NotFound, match="no true-up rule"):
        plan(desk.ledger, ["paint"])
    with pytest.raises(BadValue, match="no setting"):
        plan(desk.ledger, [], {"splices": {"colour": 1}})
    only = plan(desk.ledger, [], {}, only=[get(desk, "B1").id])
    assert {c.new.name for c in only.changes} == {"B1"}


# --- stock -----------------------------------------------------------------------


def test_splits_avoid_what_meets_the_member(desk: Desk) -> None:
    add(desk, "beam", "IPE 500", (0, 50000, 0), (40000, 50000, 0), "long")
    for x in (12500, 13500, 26500):
        add(desk, "beam", "IPE 300", (x, 50000, 0), (x, 54000, 0), f"on{x}")
    (over,) = over_stock(desk.ledger)
    # 40 m of 18 m bars: three pieces; IPE 300 is 150 wide: 75 + 300 clear of each, the ends are joints of their own
    assert over.stock == 18000 and len(over.pieces) == 3 and max(over.pieces) <= 18000
    assert [z for z in over.blocked if 1000 < z[0] < 39000] == [(12125, 12875), (13125, 13875), (26125, 26875)]
    # the even thirds are 13333.3 and 26666.7: the first is blocked down to 12875..13125, the second goes to 26875 or a step nearer to even
    assert all(not (low + 1e-6 < a < high - 1e-6) for a in over.at for low, high in over.blocked)
    assert abs(over.at[0] - 13333) < 500 and abs(over.at[1] - 26667) < 600
    desk.run("split-stock")
    assert sorted(round(length(m), 3) for m in desk.project.members.values() if m.section == "IPE 500") == sorted(over.pieces)
    assert not over_stock(desk.ledger)
    with pytest.raises(Refused, match="no member is over"):
        desk.run("split-stock")


def test_split_where_told_and_all_alike(desk: Desk) -> None:
    for i in range(3):
        add(desk, "beam", "IPE 500", (0, 50000 + 3000 * i, 0), (20000, 50000 + 3000 * i, 0), f"L{i}")
    desk.run("split-stock", ids=["L1"], at=["8 m"], all_like=True)
    assert sorted(length(m) for m in desk.project.members.values() if m.section == "IPE 500") == [8000] * 3 + [12000] * 3
    desk.run("set-house-rules", values={"bars": {"I": 7000}})
    assert len(over_stock(desk.ledger)) == 7  # 3 + 3 pieces, and D1 of 8 m
    with pytest.raises(BadValue, match="no member"):
        desk.run("split-stock", at=[100])
    with pytest.raises(BadValue, match="leaves no piece"):
        desk.run("split-stock", ids=["L0"], at=[8000])
    with pytest.raises(BadValue, match="500 to 60000"):
        desk.run("set-house-rules", values={"bars": {"I": 7}})


def test_no_clear_place_is_said(desk: Desk) -> None:
    assert split_places(20000, 18000, ((0, 20000),)) == ()
    # free only at 1900..2100 and 17900..18100: the even half is out of reach, and the nearest free places to it are 2100 and 17900
    assert split_places(20000, 18100, ((0, 1900), (2100, 17900), (18100, 20000))) in ((2100.0,), (17900.0,))
    assert split_places(30000, 12000, ()) == (10000.0, 20000.0)


@given(st.floats(9000, 90000), st.floats(6000, 18000), st.lists(st.tuples(st.floats(0, 90000), st.floats(100, 3000)), max_size=12))
@settings(max_examples=60, deadline=None)
def test_splits_hold_what_they_promise(full: float, stock: float, raw: list) -> None:
    blocked: list[tuple[float, float]] = []
    for low, wide in sorted(raw):
        if blocked and low <= blocked[-1][1]:
            blocked[-1] = (blocked[-1][0], max(blocked[-1][1], low + wide))
        else:
            blocked.append((low, low + wide))
    at = split_places(full, stock, tuple(blocked))
    parts = pieces(full, at)
    assert sum(parts) == pytest.approx(full)
    if at:
        assert max(parts) <= stock + 1e-3 and min(parts) >= 1000 - 1e-3
        assert not any(low + 1e-3 < a < high - 1e-3 for a in at for low, high in blocked)


# --- snapshots and revisions -----------------------------------------------------


def test_snapshots_compare_and_restore(desk: Desk) -> None:
    desk.run("take-snapshot", name="before joining")
    members = dict(desk.project.members)
    desk.run("place-all", family="base-plate")
    desk.run("move-members", ids=["D1"], by=[100, 0, 0])
    desk.run("change-members", ids=["B1"], section="IPE 330")
    desk.run("delete-members", ids=["C2"])
    add(desk, "beam", "IPE 200", (0, 0, 2000), (6000, 0, 2000), "N")
    rows = {(d.kind, d.label): d.words.replace(" mm", "mm") for d in differences(desk.project, "before joining")}
    assert rows == {
        ("moved", "D1"): "moved 100mm",
        ("resized", "B1"): "IPE 300 → IPE 330",
        ("removed", "C2"): "HEB 240, 4000mm",
        ("added", "N"): "IPE 200, 6000mm",
    }
    desk.run("take-snapshot", name="after")
    desk.run("restore-snapshot", name="before joining")
    assert desk.project.members == members and not desk.project.connections
    assert len(differences(desk.project, "before joining", "after")) == 4 and differences(desk.project, "before joining") == []
    desk.undo()
    assert desk.ledger.counts()["joined"] == 2 and get(desk, "N").section == "IPE 200"
    path = desk.store.path
    again = Desk.open(path)
    assert [s.name for s in again.project.snapshots.values()] == ["before joining", "after"]
    again.close()
    with pytest.raises(Refused, match="already"):
        desk.run("take-snapshot", name="after")
    with pytest.raises(NotFound, match="no snapshot 'x'"):
        desk.run("restore-snapshot", name="x")
    desk.run("delete-snapshot", name="after")
    assert len(desk.project.snapshots) == 1


def test_a_damaged_snapshot_is_said(desk: Desk) -> None:
    import msgspec

    desk.run("take-snapshot", name="s")
    (s,) = desk.project.snapshots.values()
    desk.project.tables["snapshot"][s.id] = msgspec.structs.replace(s, body=s.body[:40])
    with pytest.raises(BadFile, match="damaged"):
        desk.run("restore-snapshot", name="s")


def test_a_revised_model_keeps_what_was_trued_up(desk: Desk, tmp_path: Path) -> None:
    """Issue 1 comes in and is trued up and joined; issue 2 moves, resizes, adds and removes; each lands on what we made of it."""
    first = export_ifc(desk.ledger, tmp_path / "1.ifc")
    ours = Desk.create(tmp_path / "ours.tincleat")
    ours.run("import-frame", path=str(first))
    ours.run("true-up", rules=["floor-beams", "splices"])
    ours.run("place-all", family="fin-plate")
    ours.run("place-all", family="base-plate")
    joined = ours.ledger.counts()["joined"]
    # the engineer's second issue: his beam moves up 200 and grows, D1 goes, a new beam comes
    for name in ("B1",):
        m = get(desk, name)
        desk.project.tables["member"][m.id] = _with_guid(m, get(ours, name).guid)
    for name in ("C1", "C2", "D1"):
        desk.project.tables["member"][get(desk, name).id] = _with_guid(get(desk, name), get(ours, name).guid)
    desk.run("move-members", ids=["B1"], by=[0, 0, 200])
    desk.run("change-members", ids=["B1"], section="IPE 360")
    desk.run("delete-members", ids=["D1"])
    add(desk, "beam", "IPE 200", (0, 0, 2000), (0, 4000, 2000), "N")
    second = export_ifc(desk.ledger, tmp_path / "2.ifc")
    rows = revision(ours.project, str(second))
    assert sorted((d.kind, d.label) for d in rows) == [("added", "N"), ("removed", "D1"), ("resized", "B1")]
    # one row accepted: the beam follows, still hung by its top
    key = next(d.key for d in rows if d.label == "B1")
    before = standing(ours.ledger)
    ours.run("take-revision", path=str(second), accept=[key])
    # its fin plates were made for another beam: both ends are to be looked at, nothing else is
    looks = want_look(before, ours.ledger)
    assert [look.member for look in looks] == [get(ours, "B1").id] * 2 and all("another kin" in look.why or "breach" in look.why for look in looks)
    b = get(ours, "B1")
    assert (b.section, b.cardinal, b.start[2]) == ("IPE 360", "top", 4200) and get(ours, "C1").end[2] == 4500
    assert ours.ledger.counts()["joined"] == joined and {e.connection.member for e in ours.ledger.entries.values() if e.connection} >= {b.id}
    with pytest.raises(NotFound, match="no row"):
        ours.run("take-revision", path=str(second), accept=["nonsense"])
    before = standing(ours.ledger)
    assert want_look(before, ours.ledger) == []
    ours.run("move-members", ids=[b.id], by=[0, 0, 9000])
    # nine metres up it meets nothing: neither fin plate can be made there
    looks = want_look(before, ours.ledger)
    assert [look.member for look in looks] == [b.id] * 2 and all("this joint is a free end" in look.why for look in looks)
    ours.undo()
    ours.run("delete-members", ids=[b.id])
    assert [(look.member, look.why.split(";")[0]) for look in want_look(before, ours.ledger)] == [(b.id, "gone with its member")] * 2
    ours.close()


def _with_guid(m: Member, guid: str) -> Member:
    import msgspec

    return msgspec.structs.replace(m, guid=guid)


def test_without_a_first_issue_there_is_nothing_to_revise(desk: Desk, tmp_path: Path) -> None:
    path = export_ifc(desk.ledger, tmp_path / "1.ifc")
    with pytest.raises(Refused, match="no engineer's model"):
        desk.run("take-revision", path=str(path))


def test_command_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = str(tmp_path / "w.tincleat")
    assert main(["new", "--demo", "wireframe", path]) == 0
    capsys.readouterr()
    assert main(["true-up", path, "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert len(told["changes"]) > 100 and told["left"] and not told["kept"]
    assert main(["true-up", path, "--rules", "splices", "--keep"]) == 0
    assert "trued up" in capsys.readouterr().out
    assert main(["true-up", path, "--rules", "glue"]) == 2
    assert main(["stock", path, "--json"]) == 0
    out = capsys.readouterr().out
    (row,) = json.loads(out[out.index("[") :])
    assert row["name"] == "ridge" and sum(row["pieces"]) == 33000 and max(row["pieces"]) <= 12000
    script = tmp_path / "s.jsonl"
    script.write_text('{"do": "take-snapshot", "name": "a"}\n{"do": "split-stock"}\n{"do": "true-up"}\n')
    assert main(["do", path, str(script)]) == 0
    capsys.readouterr()
    assert main(["compare", path, "a", "--json"]) == 0
    kinds = {r["kind"] for r in json.loads(capsys.readouterr().out)}
    assert kinds == {"moved", "changed", "added"}
    assert main(["select", path, "role:purlin", "--json"]) == 0
    assert len(json.loads(capsys.readouterr().out)) == 60
    assert section("SHS 100x100x5").shape == "RHS"


@pytest.mark.parametrize("off", [0.0, 150.0, 300.0, -150.0, -300.0])
def test_horizontal_bracing_finds_its_beams_over_and_under_it(desk: Desk, off: float) -> None:
    # drawn on the beams' line, 150 or 300 over or under it, where it may have been put already
    add(desk, "beam", "IPE 400", (0, 5000, 4000), (6000, 5000, 4000), "B3")
    add(desk, "beam", "IPE 400", (0, 15000, 4000), (6000, 15000, 4000), "B4")
    add(desk, "brace", "L 80x80x8", (100, 5000, 4000 + off), (5900, 15000, 4000 + off), "H1")
    found = plan(desk.ledger, ["horizontal-bracing"])
    assert not found.left and [c.new.name for c in found.changes] == ["H1"]
