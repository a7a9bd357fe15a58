"""Fin plates past a column's flanges and in deep beams, by hand."""

import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from sites import beam, column, girder
from test_new_families import breaches, joined, made

from tincleat.catalogue.sections import section as sized
from tincleat.commands.desk import Desk
from tincleat.errors import TinCleatError


def past(path: Path, support: str, name: str, roll: float = 90.0, **typed: Any) -> Any:
    return joined(path, [column(support, roll), beam(name)], "fin-plate", "M2.end", reach="past the flanges", **typed)[1]


def test_a_plate_past_the_flanges(tmp_path: Path) -> None:
    e = past(tmp_path / "a", "HEB 300", "UB 457x191x67")
    d = made(e)
    # HEB 300: from its web's face to the flange's edge (300 - 11) / 2 = 144.5; 15 on, on 5: 160.  Bolts 40 on, the edge another 40
    (fin,) = d.plates
    assert d.ends[0].point[0] == pytest.approx(160.0) and {p[0] for p in d.bolts[0].points} == {200.0} and fin.outline.bounds[2] == 240.0
    assert not d.notches and not breaches(e)
    # with plates over and under it: three plates, corners of the fin cut off over their welds, 8 and 2 on 5: 10
    e = past(tmp_path / "b", "HEB 300", "UB 457x191x67", stiffeners="above and below")
    d = made(e)
    fin = next(p for p in d.plates if p.name == "fin plate")
    others = [p for p in d.plates if p.name != "fin plate"]
    assert {p.name for p in others} == {"plate above", "plate below"} and {p.thickness for p in others} == {10.0} and not breaches(e)
    x0, y0, x1, y1 = fin.outline.bounds
    assert fin.outline.area == pytest.approx((x1 - x0) * (y1 - y0) - 2 * 10 * 10 / 2)
    # welded to each on both faces of the fin, and each to the column's web and both flanges
    assert {w.parts for w in d.welds} == {("supporting member", "fin plate"), ("plate above", "fin plate"), ("plate below", "fin plate"), ("supporting member", "plate above"), ("supporting member", "plate below")}


@pytest.mark.parametrize(("bolt", "apart"), [("M20", 70.0), ("M24", 75.0), ("M30", 90.0)])
def test_rows_stand_three_bolts_apart(tmp_path: Path, bolt: str, apart: float) -> None:
    """70 as is usual, but no less than 3 d on fives: 3 x 24 = 72 makes 75, 3 x 30 = 90."""
    e = joined(tmp_path, [column("HEB 300"), beam("UB 610x229x101")], "fin-plate", "M2.end", bolt=bolt)[1]
    heights = sorted({round(p[2], 6) for p in made(e).bolts[0].points})
    assert {round(b - a, 6) for a, b in zip(heights, heights[1:], strict=False)} == {apart} and "spacing-least" not in breaches(e)


def test_a_beam_too_wide_to_come_in_stops_outside(tmp_path: Path) -> None:
    # 209 of flange between flanges 170 apart: notched to come in, whole outside
    _, e = joined(tmp_path / "a", [column("HEB 200", 90.0), beam("UB 533x210x92")], "fin-plate", "M2.end")
    assert len(made(e).notches) == 2
    e = past(tmp_path / "b", "HEB 200", "UB 533x210x92")
    assert not made(e).notches and not breaches(e)


def test_where_it_does_not_go(tmp_path: Path) -> None:
    with pytest.raises(TinCleatError, match="this is a beam to column flange"):
        past(tmp_path / "a", "HEB 300", "UB 457x191x67", roll=0.0)
    with pytest.raises(TinCleatError, match="this is a beam to beam web"):
        joined(tmp_path / "b", [girder("UB 533x210x92"), beam("UB 305x165x40", 90)], "fin-plate", "M2.end", reach="past the flanges")
    with pytest.raises(TinCleatError, match=r"12\.00° off square to the column; the plates above and below"):
        joined(tmp_path / "c", [column("HEB 300", 90.0), beam("UB 305x165x40", 12)], "fin-plate", "M2.end", reach="past the flanges", stiffeners="above and below")


def test_deep_beams_have_two_lines(tmp_path: Path) -> None:
    for name, lines in (("UB 610x229x101", 1), ("UB 686x254x125", 2)):  # 602.6 and 677.9 deep
        _, e = joined(tmp_path / name.replace(" ", ""), [column("HEB 500"), beam(name)], "fin-plate", "M2.end")
        xs = sorted({round(p[0], 3) for p in made(e).bolts[0].points})
        assert len(xs) == lines and not breaches(e)
        assert lines == 1 or xs[1] - xs[0] == pytest.approx(70.0)  # 2.4 x 22 = 52.8 at least
    # typed, a single line stays
    _, e = joined(tmp_path / "one", [column("HEB 500"), beam("UB 686x254x125")], "fin-plate", "M2.end", gauge=())
    assert len({round(p[0], 3) for p in made(e).bolts[0].points}) == 1
    assert math.isclose(made(e).plates[0].outline.bounds[2], 100.0)


def test_a_plate_through_a_round_column(tmp_path: Path) -> None:
    _, e = joined(tmp_path / "a", [column("CHS 219.1x8"), beam("IPE 200", 30)], "fin-plate", "M2.end")
    d = made(e)
    (fin,) = d.plates
    assert d.number("reach").value == "through the tube" and d.number("reach").origin == "adapted"
    tube = e.joint.case.support
    # the plate's faces lie 2.8 and 12.8 off the beam's middle, which goes through the tube's: its walls are left at sqrt(109.55^2 - y^2)
    near = {round(w.start[0] - tube.frame.origin[0], 2) for w in d.welds if "near wall" in w.name}
    assert near == {round(math.sqrt(109.55**2 - y**2), 2) for y in (2.8, 12.8)}
    # four fillets over the plate's height, legs on tube and plate
    assert len(d.welds) == 4 and {round(math.dist(w.start, w.end), 1) for w in d.welds} == {150.0}
    # slot: 10 + 2 by 150 + 2, through both walls
    (slot,) = (n for n in d.notches if n.name == "slot")
    x0, y0, x1, y1 = slot.outline.bounds
    assert sorted((x1 - x0, y1 - y0)) == pytest.approx([12.0, 152.0]) and slot.member == 1 and slot.depth > 219.1
    # it stands out behind by the weld's 8 and 2, rounded up so that the whole plate is on 5
    width = fin.outline.bounds[2] - fin.outline.bounds[0]
    assert width / 5 == pytest.approx(round(width / 5)) and not breaches(e)
    # the tube has lost 2 x 12 x 152 x about 8 of wall
    from tincleat.ledger.steel import worked_of

    desk, e = joined(tmp_path / "b", [column("CHS 219.1x8", height=3000.0), beam("IPE 200", dz=-1500)], "fin-plate", "M2.end")
    lost = sized("CHS 219.1x8").area * 3000 - worked_of(desk.ledger, "m1").volume
    assert lost == pytest.approx(2 * 12 * 152 * 8.0, rel=0.01)
    for n, (members, typed, words) in enumerate((
        ([column("CHS 219.1x8"), beam("IPE 200", 0, 12)], {}, r"12\.0° off square to the tube"), ([column("CHS 219.1x8"), beam("IPE 200")], {"reach": "between the flanges"}, "is round"),
        ([column("CHS 88.9x5"), {**beam("IPE 200"), "offset": [30, 0]}], {}, "off its middle"), ([column("HEB 300"), beam("IPE 200")], {"reach": "through the tube"}, "goes through hollow ones"),
    )):  # fmt: skip
        with pytest.raises(TinCleatError, match=words):
            joined(tmp_path / f"z{n}", members, "fin-plate", "M2.end", **typed)


@pytest.mark.parametrize("family", ["fin-plate", "angle-cleats"])
def test_no_plate_past_a_columns_end(tmp_path: Path, family: str) -> None:
    # the beam, 412.8 deep, runs past the tube's end, 100 over its middle: what lies on it ends there
    members = [{"section": "UC 254x254x73", "role": "column", "start": [0, 0, 0], "end": [0, 0, 3100]}, beam("UB 406x178x67")]
    _, e = joined(tmp_path / "a", members, family, "M2.end")
    d = made(e)
    tops = [float(p.frame.to_world(np.array([(x, y, 0.0) for x in p.outline.bounds[::2] for y in p.outline.bounds[1::2]]))[:, 2].max()) for p in d.plates]
    tops += [max(p.frame.origin[2], float(p.frame.to_world([(p.length, 0, 0)])[0][2])) for p in d.pieces]
    assert 0 < max(tops) <= 100.0 and not breaches(e)


@pytest.mark.parametrize(("family", "section"), [("end-plate", "UB 406x178x67"), ("tube-end-plate", "SHS 100x100x5")])
def test_an_end_plate_past_a_columns_end_is_refused(tmp_path: Path, family: str, section: str) -> None:
    members = [{"section": "UC 254x254x73", "role": "column", "start": [0, 0, 0], "end": [0, 0, 3060]}, beam(section)]
    with pytest.raises(TinCleatError, match="past the end of UC 254x254x73"):
        joined(tmp_path / "a", members, family, "M2.end")


def test_a_knee_takes_a_fin_plate_and_its_column_goes_up_with_it(tmp_path: Path) -> None:
    """A roof beam that falls 4 degrees away, drawn from the column's drawn head at 3000: by hand the column goes up to the beam's top at its
    face.  UC 254x254x73 is 254.1 deep, UB 305x165x40 303.4: at x = 127.05 the axis is at 3000 - 127.05 tan 4 = 2991.12, the top
    151.7 / cos 4 = 152.07 above it: 3143.19."""
    desk = Desk.create(tmp_path / "k.tincleat")
    t = math.radians(4)
    desk.run("add-members", members=[
        {"section": "UC 254x254x73", "role": "column", "start": [0, 0, 0], "end": [0, 0, 3000]},
        {"section": "UB 305x165x40", "role": "beam", "start": [0, 0, 3000], "end": [4000, 0, 3000 - 4000 * math.tan(t)]},
    ])  # fmt: skip
    desk.run("place-connection", family="fin-plate", at=["m2.start"])
    entry = desk.ledger.joint_of("m2", "start")
    made = desk.ledger.entries[entry.key].made
    assert entry.kind == "knee" and made is not None and entry.ends == (("m2", "start"), ("m1", "end"))
    head = next(e for e in made.detail.ends if e.member == 1)
    assert entry.frame.to_world([head.point])[0, 2] == pytest.approx(3143.19, abs=0.05)
    # and the plate keeps to the steel that is there now: three bolts, where the drawn column would have left room for one
    assert len(made.detail.bolts[0].points) == 3
    low, high = made.detail.plates[0].outline.bounds[1::2]
    assert high - low == pytest.approx(220.0)
    desk.close()


def test_a_plate_higher_than_its_sloping_beam_reaches_past_the_face(tmp_path: Path) -> None:
    """339 mm of plate past the outer rows of a beam that slopes: cut square, it still has steel all the way up."""
    _, e = joined(tmp_path, [column("HEB 300"), beam("IPE 300", -20, -20)], "fin-plate", "M2.end", weld_leg=2.0, bolt="M12", pitch=[25.0, 25.0, 53.0], end_distance=339.0, setback=1.0)
    (plate,) = made(e).plates
    assert plate.volume > 0.9 * plate.outline.area * plate.thickness
    low, _, high, _ = plate.outline.bounds
    assert high > low + 100.0


@pytest.mark.parametrize(("skew", "slope"), [(0, 0), (20, 0), (0, -15), (15, 6)])
def test_past_the_flanges_the_beam_stays_outside_them(tmp_path: Path, skew: float, slope: float) -> None:
    """HEB 300: flange tips 150 from the web's middle, its face at 5.5.  15 past the tips and up to a multiple of 5 from the face: 144.5 + 15
    makes 160, so that the beam's nearest steel lies 165.5 from the web's middle, whichever way it comes."""
    _, e = joined(tmp_path, [column("HEB 300", 90), beam("UB 457x191x67", skew, slope)], "fin-plate", "M2.end", reach="past the flanges")
    assert e.made is not None and not breaches(e)
    post = e.made.case.members[1]
    steel = e.made.assembled.member_mesh(0, 0.0, 1500.0, 4)
    off = np.abs(post.frame.to_local(steel.points)[:, 1])
    assert off.min() == pytest.approx(165.5, abs=0.05)


def test_a_plate_too_far_askew_does_not_pass_between_the_flanges(tmp_path: Path) -> None:
    """UC 203x203x46: its flanges' inner faces 203.2 / 2 - 11 = 90.6 from its middle; 101.8 - 3.6 = 98.2 of plate from its web.  At 43
    degrees that leads 91.6 aside, past the flange; at 28 it leads 52.2, and with (3 + 10) / cos 28 = 14.7 of plate 23.7 are left."""
    members = [column("UC 203x203x46", 90), beam("UB 254x102x25", 28)]
    assert not breaches(joined(tmp_path / "a", members, "fin-plate", "M2.end", reach="past the flanges")[1])
    with pytest.raises(TinCleatError, match="would pass one by -"):
        joined(tmp_path / "b", [members[0], beam("UB 254x102x25", 43)], "fin-plate", "M2.end", reach="past the flanges")


def test_how_far_off_its_middle_a_plate_may_go_through_a_round_tube(tmp_path: Path) -> None:
    """0.35 of 88.9 is 31.1.  The further face of a plate of 10 beside a web of 5.6 lies 2.8 + 10 from the beam's middle: 18 off it is 30.8, 19 off 31.8."""
    for aside in (18, -18):
        e = joined(tmp_path / f"a{aside}", [column("CHS 88.9x5"), {**beam("IPE 200"), "offset": [aside, 0]}], "fin-plate", "M2.end", plate_thickness=10.0)[1]
        assert made(e).number("reach").value == "through the tube"
    with pytest.raises(TinCleatError, match=r"32 mm off its middle .*31 mm"):
        joined(tmp_path / "b", [column("CHS 88.9x5"), {**beam("IPE 200"), "offset": [19, 0]}], "fin-plate", "M2.end", plate_thickness=10.0)
