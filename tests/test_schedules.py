"""Cover plates by hand, and schedules: rows that fit a joint's figures, rows that do not, what follows when a schedule changes."""

import math
from pathlib import Path
from typing import Any

import pytest
from sites import beam, column
from test_new_families import breaches, joined, made

from tincleat.commands.desk import Desk
from tincleat.errors import TinCleatError
from tincleat.ledger.entries import Entry
from tincleat.ledger.ledger import Ledger
from tincleat.project.entities import HouseRules

CSV = """mark,beam,level,beams,Top plate thickness,top_width,top pitch,bottom_thickness,fuse_length,fuse_width,first
MC1,IPE 400,3.2 m,1,25,180,3@80,25,,,
MC2,IPE 400,6.2 m,1,20,170,2@80,20,180,110,320
MC3,UB 457x191x67,3.2 m,,30,190,4@80,20,,,
"""


def frame(path: Path, text: str = CSV, **more: Any) -> Desk:
    """A column with beams at two levels, on one flange; their tops at 3.200 and 6.200; and a schedule."""
    path.mkdir(parents=True, exist_ok=True)
    desk = Desk.create(path / "p.tincleat", HouseRules(), True)
    members = [
        {"section": "HEB 300", "role": "column", "start": [0, 0, 0], "end": [0, 0, 8000], "name": "C1"},
        {"section": "IPE 400", "role": "beam", "start": [4000, 0, 3000], "end": [0, 0, 3000], "name": "B1"},
        {"section": "IPE 400", "role": "beam", "start": [4000, 0, 6000], "end": [0, 0, 6000], "name": "B2"},
    ]
    desk.run("add-members", members=members)
    (path / "moments.csv").write_text(text)
    desk.run("load-schedule", family="cover-plates", path=str(path / "moments.csv"), **more)
    return desk


def at(desk: Desk, name: str) -> Entry:
    return next(e for e in desk.ledger.entries.values() if e.connection is not None and any(desk.project.members[m].name == name for m, _ in e.joint.ends))


def test_cover_plates_from_the_members(tmp_path: Path) -> None:
    _, e = joined(tmp_path / "a", [column("HEB 300"), beam("IPE 400")], "cover-plates", "M2.end")
    d = made(e)
    top, bottom = (next(p for p in d.plates if p.name == n) for n in ("top plate", "bottom plate"))
    # 1.2 x 13.5 = 16.2, off stock no more than 0.3 thinner: 20.  Breadth: the flange's 180, which the column's 300 holds
    assert top.thickness == bottom.thickness == 20.0 and top.outline.bounds[3] - top.outline.bounds[1] == 180.0
    # on the flanges of a beam 400 deep
    assert top.frame.origin[2] == pytest.approx(200.0) and bottom.frame.origin[2] == pytest.approx(-220.0)
    # root opening 6, then up at 45 degrees: what is bevelled off is half of 20 x 20, 180 broad
    assert top.volume == pytest.approx((top.net_area * 20.0) - 20 * 20 / 2 * 180)
    groove = next(w for w in d.welds if w.name == "top plate groove")
    assert groove.opening == 6.0 and groove.leg == 20.0 and math.dist(groove.start, groove.end) == pytest.approx(180.0)
    # M20: 22 in its hole, 30 from the edge; the first row clear of the bevel's 26 by a socket's 31.8: on 5: 60; four rows 60 apart
    xs = sorted({round(p[0], 1) for p in d.bolts[0].points})
    assert xs == [60.0, 120.0, 180.0, 240.0] and top.outline.bounds[2] == 270.0
    for fitted in e.made.assembled.fitted:
        assert len(fitted.plies) == 2
    # stiffeners in the column go on where the plates end: middles 10 over the beam's top and under its underside
    stations = sorted({round(p.frame.to_world([(0, 0, p.thickness / 2)])[0][2], 1) for p in d.plates if p.name.startswith("column stiffener")})
    assert stations == [-210.0, 210.0]
    # the zone: one depth past the last bolts, 240 + 400, as high as beam and plates
    (zone,) = d.zones
    assert zone.outline.bounds[2] == pytest.approx(640.0) and zone.thickness == pytest.approx(440.0)
    assert not breaches(e)


def test_a_fuse_begins_past_the_preparation(tmp_path: Path) -> None:
    # a root opening of 5, 20 thick at 45 degrees and 5 more: 30 from the face, from there 200 long
    _, e = joined(tmp_path, [column("HEB 300"), beam("IPE 400")], "cover-plates", "M2.end", fuse_length=200.0, root_opening=5.0, top_thickness=20.0, bottom_thickness=20.0)
    for plate in made(e).plates[:2]:
        assert {30.0, 230.0} <= {round(x, 6) for x, _, _ in plate.outline.vertices} and plate.frame.origin[0] == 0


def test_a_fuse_narrows_both_plates(tmp_path: Path) -> None:
    _, e = joined(tmp_path / "a", [column("HEB 300"), beam("IPE 400")], "cover-plates", "M2.end", fuse_length=200.0)
    top = next(p for p in made(e).plates if p.name == "top plate")
    # two thirds of 180: 120; it begins 5 past the bevel's 26, on 5: 35; narrowed over 30 at both ends, the first row 30 past its end, on 5: 265
    assert [(round(x), round(y)) for x, y, _ in top.outline.vertices if y < 0] == [(6, -90), (35, -90), (65, -60), (205, -60), (235, -90), (475, -90)]
    assert min(p[0] for p in made(e).bolts[0].points) == 265.0
    for words, typed in (("does not hold its own narrowing", {"fuse_length": 60.0}), ("broad is none", {"fuse_length": 200.0, "fuse_width": 175.0}), ("stands in the fuse", {"fuse_length": 200.0, "first": 200.0})):
        with pytest.raises(TinCleatError, match=words):
            joined(tmp_path / words.split()[0], [column("HEB 300"), beam("IPE 400")], "cover-plates", "M2.end", **typed)


def test_the_row_that_fits_gives_the_sizes(tmp_path: Path) -> None:
    desk = frame(tmp_path)
    desk.run("place-connection", family="cover-plates", at=["B1.end", "B2.end"])
    low, high = made(at(desk, "B1")), made(at(desk, "B2"))
    assert low.number("mark").value == "MC1" and high.number("mark").value == "MC2"
    assert (low.number("top_thickness").value, low.number("top_thickness").origin) == (25.0, "schedule")
    assert low.number("top_pitch").value == (80.0, 80.0, 80.0) and high.number("fuse_length").value == 180.0
    assert low.number("gauge").origin == "worked out"  # what the row leaves out stays as the family has it
    # a typed value goes before the row's
    desk.run("change-connections", ids=[at(desk, "B1").connection.id], settings={"top_thickness": 30})
    low = made(at(desk, "B1"))
    assert (low.number("top_thickness").value, low.number("top_thickness").origin) == (30.0, "typed") and low.number("bottom_thickness").value == 25.0


def test_a_beam_off_its_row_is_told_in_figures(tmp_path: Path) -> None:
    desk = frame(tmp_path)
    desk.run("place-connection", family="cover-plates", at=["B1.end"])
    desk.run("move-members", ids=["B1"], by=[0, 0, 140])
    e = at(desk, "B1")
    assert e.made is None and "no row fits: beam top at +3.340, rows say +3.200 and +6.200" in e.problem
    desk.undo()
    assert at(desk, "B1").made is not None
    # by its mark, the same
    desk.run("change-connections", ids=[at(desk, "B1").connection.id], settings={"mark": "MC1"})
    with pytest.raises(TinCleatError, match=r"row MC2 is for another place: beam top at \+3\.200, the row says \+6\.200"):
        desk.run("change-connections", ids=[at(desk, "B1").connection.id], settings={"mark": "MC2"})
    with pytest.raises(TinCleatError, match="no row of the schedule is called 'MC9'"):
        desk.run("change-connections", ids=[at(desk, "B1").connection.id], settings={"mark": "MC9"})
    desk.run("change-members", ids=["B1"], section="IPE 300")
    assert "beam IPE 300, the row says IPE 400" in at(desk, "B1").problem
    # without a row at all
    desk.run("change-connections", ids=[at(desk, "B1").connection.id], settings={"mark": "none"})
    assert made(at(desk, "B1")).number("top_thickness").origin == "worked out"


def test_no_row_for_the_beam_or_for_both_sides(tmp_path: Path) -> None:
    desk = frame(tmp_path)
    desk.run("add-members", members=[{"section": "HEA 300", "role": "beam", "start": [4000, 0, 4500], "end": [0, 0, 4500], "name": "B3"}])
    with pytest.raises(TinCleatError, match="no row fits: beam is HEA 300, rows say IPE 400 and UB 457x191x67"):
        desk.run("place-connection", family="cover-plates", at=["B3.end"])
    desk.run("place-connection", family="cover-plates", at=["B1.end"])
    # a beam on the column's other flange: the row is for one side
    desk.run("add-members", members=[{"section": "IPE 400", "role": "beam", "start": [-4000, 0, 3000], "end": [0, 0, 3000], "name": "B4"}])
    assert "beams on 2 sides of the column, rows say 1" in at(desk, "B1").problem
    # kept in step as built anew
    again = Ledger(desk.project)
    assert {k: e.problem for k, e in again.entries.items()} == {k: e.problem for k, e in desk.ledger.entries.items()}


def test_what_is_joined_by_a_schedule_follows_it(tmp_path: Path) -> None:
    desk = frame(tmp_path, name="moments")
    desk.run("place-connection", family="cover-plates", at=["B1.end"])
    (tmp_path / "new.csv").write_text(CSV.replace("MC1,IPE 400,3.2 m,1,25", "MC1,IPE 400,3.2 m,1,35"))
    desk.run("load-schedule", family="cover-plates", path=str(tmp_path / "new.csv"), name="moments")
    assert len(desk.project.schedules) == 1 and made(at(desk, "B1")).number("top_thickness").value == 35.0
    desk.undo()
    assert made(at(desk, "B1")).number("top_thickness").value == 25.0
    desk.run("delete-schedule", name="moments")
    assert made(at(desk, "B1")).number("top_thickness").origin == "worked out"
    desk.undo()
    # it is kept in the file
    desk.close()
    again = Desk.open(tmp_path / "p.tincleat")
    assert made(at(again, "B1")).number("top_thickness").value == 25.0
    assert next(iter(again.project.schedules.values())).rows[1][1]["level"] == 6200.0
    again.close()


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("mark,beam\n", "it holds no rows"),
        ("beam,top_width\nIPE 400,180\n", "no column is headed mark"),
        ("mark,colour\nMC1,red\n", "no setting of Cover plates is called 'colour'"),
        ("mark,top_width,Top plate width\nMC1,1,2\n", "heads two columns"),
        ("mark,top_width\nMC1,broad\n", "row 2, top_width"),
        ("mark,top_width\nMC1,20000\n", "outside its limits"),
        ("mark,beam\nMC1,IPE 4000\n", "there is no section"),
        ("mark,beams\nMC1,3\n", "no number of sides"),
        ("mark,top_width\nMC1,180\nMC1,190\n", "stands in it twice"),
        ("mark,top_width\n,180\n", "it has no mark"),
        ("mark,top_width\nMC1,180,7\n", "3 cells under 2 heads"),
        ('mark,top_width\n"MC1,180\n', "cannot be read"),
        ('mark,top_width\n"MC\n1",180\n', "cannot be one"),
    ],
)
def test_a_bad_schedule_says_what_and_where(tmp_path: Path, text: str, words: str) -> None:
    desk = Desk.create(tmp_path / "p.tincleat", HouseRules(), True)
    (tmp_path / "s.csv").write_text(text)
    with pytest.raises(TinCleatError, match=words):
        desk.run("load-schedule", family="cover-plates", path=str(tmp_path / "s.csv"))
    assert not desk.project.schedules
    with pytest.raises(TinCleatError, match="takes no schedule"):
        desk.run("load-schedule", family="fin-plate", path=str(tmp_path / "s.csv"))


def test_nothing_else_is_fixed_in_the_protected_zone(tmp_path: Path) -> None:
    members = [column("HEB 300"), beam("IPE 400")]
    desk, e = joined(tmp_path / "a", members, "cover-plates", "M2.end")
    # the column's face at 150, 640 of zone: a stiffener 500 from the column's axis is in it, one at 900 not
    length = 4000
    desk.run("place-connection", family="stiffeners", at=[f"M2@{length - 500}"])
    inside = desk.ledger.entry_of(list(desk.project.connections)[-1])
    assert "protected-zone" in breaches(inside)
    desk.undo()
    desk.run("place-connection", family="stiffeners", at=[f"M2@{length - 900}"])
    outside = desk.ledger.entry_of(list(desk.project.connections)[-1])
    assert "protected-zone" not in breaches(outside) and "protected-zone" not in breaches(e)


def test_covers_in_a_columns_web(tmp_path: Path) -> None:
    _, e = joined(tmp_path / "a", [column("HEB 300", 90.0), beam("IPE 400")], "cover-plates", "M2.end")
    d = made(e)
    top = next(p for p in d.plates if p.name == "top plate")
    # HEB 300: its flanges' edges (300 - 11) / 2 = 144.5 before the web, 262 clear between them; roots of 27 sniped with 27 + 5, on 5: 35
    ring = [(round(x, 2), round(y, 2)) for x, y, _ in top.outline.vertices]
    assert ring[:4] == [(0.0, -96.0), (35.0, -131.0), (144.5, -131.0), (185.5, -90.0)] and not top.trims
    # the beam stops 20 outside the flanges; the first row 30 on, on 5: 195
    assert d.ends[0].point[0] == pytest.approx(164.5) and min(p[0] for p in d.bolts[0].points) == pytest.approx(195.0)
    # fillets on both faces along web and flanges, no grooves
    mine = [w for w in d.welds if "top plate" in w.parts]
    assert len(mine) == 6 and {w.kind for w in mine} == {"fillet"}
    assert sum(math.dist(w.start, w.end) for w in mine) == pytest.approx(2 * (262 - 70) + 4 * (144.5 - 35))
    # one plate at each level behind the web
    assert sorted(p.name for p in d.plates if p.name.startswith("column")) == ["column stiffener 1", "column stiffener 2"] and not breaches(e)
    with pytest.raises(TinCleatError, match="a fuse is laid out before a flange"):
        joined(tmp_path / "b", [column("HEB 300", 90.0), beam("IPE 400")], "cover-plates", "M2.end", fuse_length=200.0)
    with pytest.raises(TinCleatError, match="does not come out between the column's flanges"):
        joined(tmp_path / "c", [column("HEB 300", 90.0), beam("IPE 400")], "cover-plates", "M2.end", top_width=280.0)
