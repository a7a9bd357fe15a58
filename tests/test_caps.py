"""Cap plates by hand: on a head, under a beam and on one, beside a tube, in a channel's flange."""

import math
from pathlib import Path

import numpy as np
import pytest
from sites import column, girder, over
from test_new_families import breaches, joined, made

from tincleat.errors import TinCleatError
from tincleat.proof.welds import fusion_angle

UNDER = [{**column("UC 203x203x46"), "end": [0, 0, 3000]}, over("UB 406x178x60")]


def test_a_cap_under_a_beam_by_hand(tmp_path: Path) -> None:
    _, e = joined(tmp_path, UNDER, "cap-plate", "M1.end")
    d = made(e)
    plate, *ribs = d.plates
    # UC 203x203x46: h 203.2, b 203.6, tf 11, tw 7.2.  UB 406x178x60: b 177.9, tw 7.9, r 10.2; M20: gauge at most 177.9 - 2 x 30 = 117 down to 110,
    # 0.55 x 177.9 up to 100.  Between the column's flanges: rows 110 apart, 101.6 - 11 - 55 = 35.6 off them where a socket needs 31.75
    assert d.number("gauge").value == 100 and d.number("pitch").value == (110.0,)
    # welds 0.6 x 11 = 6.6 up to 7; past the column 7 + 4 up to 15: 203.2 + 30, up to 235, and 203.6 + 30 the same
    assert d.number("flange_weld").value == 7 and plate.outline.bounds == pytest.approx((-117.5, -117.5, 117.5, 117.5)) and plate.thickness == 15
    # the plate lies under the beam at 3000, the column ends under the plate
    world = e.joint.frame.to_world(plate.frame.to_world([(0.0, 0.0, 0.0), (0.0, 0.0, 15.0)]))
    assert sorted(world[:, 2]) == pytest.approx([2985, 3000])
    assert e.joint.frame.to_world([d.ends[0].point])[0][2] == pytest.approx(2985)
    # stiffeners over the flanges' middles, (203.2 - 11) / 2 = 96.1 off; (177.9 - 7.9) / 2 = 85 wide down to 80; 11 on plate stock: 12
    stations = sorted({round(float(e.joint.frame.to_world(r.frame.to_world([(0.0, 0.0, r.thickness / 2)]))[0][0]), 1) for r in ribs})
    assert stations == [-96.1, 96.1] and len(ribs) == 4 and {r.thickness for r in ribs} == {12} and {round(r.outline.bounds[2] - r.outline.bounds[0], 3) for r in ribs} == {80}
    fitted = e.made.assembled.fitted if e.made is not None else ()
    assert [len(f.plies) for f in fitted] == [2] * 4 and all(f.grip == pytest.approx(15 + 12.8) and abs(f.gap) < 1e-6 for f in fitted) and not breaches(e)


def test_a_pack_lifts_the_beam_off_the_plate(tmp_path: Path) -> None:
    _, e = joined(tmp_path, UNDER, "cap-plate", "M1.end", pack=8.0)
    d = made(e)
    fitted = e.made.assembled.fitted if e.made is not None else ()
    assert [len(f.plies) for f in fitted] == [3] * 4 and {round(f.grip, 3) for f in fitted} == {35.8}
    assert e.joint.frame.to_world([d.ends[0].point])[0][2] == pytest.approx(3000 - 8 - 15)


def test_a_head_and_a_post(tmp_path: Path) -> None:
    _, e = joined(tmp_path, [column("CHS 168.3x6.3")], "cap-plate", "M1.end")
    d = made(e)
    # 0.6 x 6.3 = 3.8, 6 at least; 6 + 4 up to 10 past: 168.3 + 20 up to 190; the drawn end is the plate's top
    assert len(d.plates) == 1 and not d.bolts and d.plates[0].outline.bounds == pytest.approx((-95, -95, 95, 95)) and not breaches(e)
    assert e.joint.frame.to_world([d.ends[0].point])[0][2] == pytest.approx(6000 - 15)
    post = {"section": "SHS 150x150x8", "role": "post", "start": [0, 0, 3000 + 406.4 / 2], "end": [0, 0, 6000]}
    _, e = joined(tmp_path / "p", [girder("UB 406x178x60"), post], "cap-plate", "M2.start")
    d = made(e)
    assert e.joint.kind == "post on beam" and e.joint.frame.to_world([d.ends[0].point])[0][2] == pytest.approx(3203.2 + 15)
    # beside a closed tube: room for the socket 31.75 off its wall: 2 x (75 + 31.75) = 213.5 up to 220; a stiffener in the middle
    assert d.number("pitch").value == (220.0,) and d.number("stiffeners").value == "in the middle" and len(d.plates) == 3


def test_one_line_in_a_channels_flange(tmp_path: Path) -> None:
    _, e = joined(tmp_path, [{**column("SHS 150x150x8"), "end": [0, 0, 3000]}, over("PFC 300x100x46")], "cap-plate", "M1.end")
    d = made(e)
    (group,) = d.bolts
    # PFC 300x100x46: b 100, tw 9, r 15; from its back 0.55 x 100 = 55, at most 100 - 30
    assert len(group.points) == 2 and d.number("gauge").value == 55
    at = e.joint.case.members[1].frame.to_local(np.array(group.points))
    assert at[:, 1] == pytest.approx([-50 + 55] * 2, abs=0.05) or at[:, 1] == pytest.approx([50 - 55] * 2, abs=0.05)


def test_a_cap_under_tapered_flanges_by_hand(tmp_path: Path) -> None:
    _, e = joined(tmp_path, [{**column("UC 203x203x46"), "end": [0, 0, 3000]}, over("IPN 300")], "cap-plate", "M1.end")
    d = made(e)
    # IPN 300: (125 - 10.8) / 2 = 57.1 less 6.5 rounded off at the tip, down to 50; a snipe of 10.8 + 5 up to 20; less two throats of 3.54: 22.9
    number = d.number("stiffeners")
    assert number.value == "none" and "leaves their welds 23 mm of the 30 needed" in number.rule
    assert not [p for p in d.plates if "stiffener" in p.kinds] and not [f for f in e.findings if f.level == "breach"]
    assert {t.under_nut for f in e.made.assembled.fitted for t in f.tapers} <= {True, False} and all(len(f.tapers) == 1 for f in e.made.assembled.fitted)


def test_what_a_cap_refuses(tmp_path: Path) -> None:
    for i, (beam_, words) in enumerate((("SHS 200x200x8", "open flange"), ("IPE 80", "does not hold two lines of M20"))):
        with pytest.raises(TinCleatError, match=words):
            joined(tmp_path / str(i), [{**column("UC 203x203x46"), "end": [0, 0, 3000]}, over(beam_)], "cap-plate", "M1.end")
    steep = over("UB 406x178x60")
    steep["end"][2] += 4000 * 0.36
    steep["start"][2] -= 4000 * 0.36
    with pytest.raises(TinCleatError, match=r"19\.8° off square"):
        joined(tmp_path / "s", [{**column("UC 203x203x46"), "end": [0, 0, 3240]}, steep], "cap-plate", "M1.end")


def test_a_cap_under_a_sloping_rafter_by_hand(tmp_path: Path) -> None:
    slope = math.radians(10)
    rise = 4000 * math.tan(slope)
    rafter = {"section": "UB 533x210x92", "role": "rafter", "start": [-4000, 0, 5000 - rise], "end": [4000, 0, 5000 + rise]}
    _, e = joined(tmp_path, [{**column("UC 203x203x46"), "end": [0, 0, 5000]}, rafter], "cap-plate", "M1.end")
    d = made(e)
    plate = next(p for p in d.plates if p.name == "cap plate")
    normal = np.abs(e.joint.frame.turn(plate.frame.z))
    assert normal == pytest.approx([math.sin(slope), 0.0, math.cos(slope)], abs=1e-5) and not breaches(e)
    # along the slope the column's 203.2 cover 203.2 / cos 10 = 206.3; 7 of weld and 4 up to 15 past it each way: 236.3 up to 240
    assert plate.outline.bounds[2] - plate.outline.bounds[0] == pytest.approx(240.0)
    # the axis meets the rafter's underside 533.1 / 2 / cos 10 under its axis, the plate 15 / cos 10 under that
    cut = e.joint.frame.to_world([d.ends[0].point])[0]
    way = e.joint.frame.turn(d.ends[0].normal)
    on_axis = cut[2] + (cut[0] * way[0] + cut[1] * way[1]) / way[2]
    assert on_axis == pytest.approx(5000 - (533.1 / 2 + 15.0) / math.cos(slope), abs=0.01)
    # the web's fillets run down the slope: 203.2 less two roots of 11 + 10.2, over cos 10; flanges stay as wide, and their legs meet at 80 and 100 degrees
    web = [w for w in d.welds if w.name == "web"]
    runs = {round(math.dist(w.start, w.end), 1) for w in web}
    assert max(runs) == pytest.approx((203.2 - 2 * 21.2) / math.cos(slope), abs=1.3)
    angles = sorted({round(math.degrees(fusion_angle(w))) for w in d.welds if "outer face" in w.name})
    assert angles == [80, 100]
    # stiffeners over the flanges' middles as the slope sees them: 96.1 / cos 10 each way
    ribs = sorted({round(float((e.joint.frame.to_world(p.frame.to_world([(0.0, 0.0, p.thickness / 2)]))[0]) @ np.array([math.cos(slope), 0.0, math.sin(slope)])), 1) for p in d.plates if "stiffener" in p.name})
    assert ribs[1] - ribs[0] == pytest.approx(2 * 96.1 / math.cos(slope), abs=0.2)


def test_a_slope_too_steep_for_a_fillet_is_refused(tmp_path: Path) -> None:
    rise = 4000 * math.tan(math.radians(20))
    rafter = {"section": "UB 533x210x92", "role": "rafter", "start": [-4000, 0, 5000 - rise], "end": [4000, 0, 5000 + rise]}
    with pytest.raises(TinCleatError, match=r"20\.0° off square to the column"):
        joined(tmp_path, [{**column("UC 203x203x46"), "end": [0, 0, 5000]}, rafter], "cap-plate", "M1.end")


@pytest.mark.parametrize("end", ["start", "end"])
def test_a_girder_bears_with_the_plate_at_its_end(tmp_path: Path, end: str) -> None:
    """UB 457x191x67, 453.4 deep at 3000: its underside at 2773.3; the plate goes 15 under that and stops 10 under its top."""
    _, e = joined(tmp_path, [girder("UB 457x191x67")], "cap-plate", f"M1.{end}", past_bottom=15.0, past_top=-10.0)
    (plate,) = made(e).plates
    corners = e.joint.frame.to_world(plate.frame.to_world([(u, v, 0.0) for u, v, _ in plate.outline.vertices]))
    assert (corners[:, 2].min(), corners[:, 2].max()) == pytest.approx((3000 - 226.7 - 15, 3000 + 226.7 - 10))
    assert not breaches(e) and float(made(e).number("length").value) == pytest.approx(453.4 + 15 - 10)
    # there is no fillet over the top flange, where the plate ends under its upper face, and the sheet says so
    top = [w for w in made(e).welds if e.joint.frame.to_world(np.array([w.start, w.end]))[:, 2].min() > 3000 + 226.7 - 1]
    assert not top and "stops short there" in made(e).number("flange_weld").rule
    with pytest.raises(TinCleatError, match="400 mm is typed, but the edges make 458"):
        joined(tmp_path / "b", [girder("UB 457x191x67")], "cap-plate", f"M1.{end}", past_bottom=15.0, past_top=-10.0, length=400.0)
    with pytest.raises(TinCleatError, match="does not lie level"):
        joined(tmp_path / "c", [column("HEB 200")], "cap-plate", "M1.end", past_bottom=15.0)
