"""Figures at the edge of a rule or off the middle of a part, each by hand."""

import math
from pathlib import Path
from typing import Any

import msgspec
import numpy as np
import pytest
from sites import SITES, brace, column
from sites import beam as beam_at
from test_loose import detail, laid
from test_new_families import joined, made
from test_settings import site_case
from test_small_figures import HOUSE, detail_at

from tincleat.catalogue.sections import section
from tincleat.commands.desk import Desk
from tincleat.details.assembled import Assembled
from tincleat.details.scoops import arc_to
from tincleat.errors import TinCleatError
from tincleat.families.cover_plates import _Inside
from tincleat.families.loose.family import picked
from tincleat.kit.rods import hooks
from tincleat.proof.registry import prove


def level_of(e: Any, rule: str) -> set[str]:
    return {f.level for f in e.findings if f.rule == rule}


@pytest.mark.parametrize(("off", "told"), [(0.55, True), (0.45, False)])
def test_a_part_half_a_millimetre_off_the_middle_is_dimensioned(tmp_path: Path, off: float, told: bool) -> None:
    _, e = laid(tmp_path / "a", part__1="plate", length__1=200, width__1=80, along__1=off)
    assert ("along/1" in {n for x in detail(e).dimensions for n in x.settings}) is told


def test_a_chairs_top_may_end_with_its_sides(tmp_path: Path) -> None:
    # 60 between sides of 12: 84 over all
    same = {"chairs": True, "chair_gap": 60.0, "chair_side": 12.0}
    assert detail_at("base HEB 300 on chairs {}", **{**same, "chair_width": 84.0}).number("chair_width").value == 84.0
    with pytest.raises(TinCleatError, match="83 mm wide does not lie over its sides, 84 mm over all"):
        detail_at("base HEB 300 on chairs {}", **{**same, "chair_width": 83.0})


def test_a_lapped_zed_is_no_crossing_at_either_of_its_ends(desk: Desk) -> None:
    """Over the rafter at 0 the first goes on 300 past its start's carrier line with its end, the second with its start."""
    rafter = {"section": "IPE 300", "role": "rafter", "start": [0, -4000, 0], "end": [0, 4000, 0]}
    over = 150.0 + 100.0
    zeds = [{"section": "Z 200x65/59x20x2", "role": "purlin", "start": [a, 0, over], "end": [b, 0, over], "roll_deg": r} for a, b, r in ((-5000, 300, 0.0), (-300, 5000, 180.0))]
    desk.run("add-members", members=[rafter, *zeds])
    ids = list(desk.project.members)
    finder = desk.ledger.finder
    assert finder.lapped(ids[1], "end") is not None and finder.lapped(ids[2], "start") is not None
    assert not [pair for pair in finder.crossings() if pair[1] == ids[0]]


def test_a_rod_is_seen_from_above_in_plan_and_level_in_front(tmp_path: Path) -> None:
    views = {v.name: v for v in detail_at("sag rods UPE 160 4 level").views}
    assert abs(views["plan"].frame.z[1]) < 1e-9 < abs(views["plan"].frame.z[2]) and abs(views["front"].frame.z[2]) < 1e-9


def test_a_sleeve_with_too_little_play_is_refused(tmp_path: Path) -> None:
    # CHS 114.3x6.3 is 114.3 - 12.6 = 101.7 inside: CHS 101.6 would have 0.05 a side, 0.2 are asked for
    tubes = [{"section": "CHS 114.3x6.3", "role": "beam", "start": [0, 0, 3000], "end": [4000 * s, 0, 3000]} for s in (1, -1)]
    with pytest.raises(TinCleatError, match=r"CHS 101\.6x5 does not go into CHS 114\.3x6\.3, 101\.7 mm inside"):
        joined(tmp_path, tubes, "tube-sleeve", "M1.start", size="CHS 101.6x5")


def test_a_runs_cross_is_seen_from_between_its_two_faces(tmp_path: Path) -> None:
    _, e = laid(tmp_path / "a", part__1="plate", stands__1="upright along", length__1=200, width__1=80, part__2="weld")
    d = detail(e)
    assert len(d.switches) == 2
    for s, w in zip(d.switches, d.welds, strict=True):
        assert np.array(s.towards) == pytest.approx(np.array(w.u) + w.v)


def test_a_stitch_more_only_where_the_pitch_asks_for_it(tmp_path: Path) -> None:
    # 200 long, welded 50 at a time: middles from 25 to 175, which is one pitch of 150 and two of 75
    for pitch, count in ((150.0, 2), (75.0, 3), (74.0, 4)):
        _, e = laid(tmp_path / f"{pitch}", part__1="plate", stands__1="upright along", length__1=200, width__1=80, part__2="weld", stitch__2=50, pitch__2=pitch)
        assert {sum(w.name == n for w in detail(e).welds) for n in {w.name for w in detail(e).welds}} == {count}


def test_a_stiffener_of_eight_has_fillets_of_four() -> None:
    assert {w.leg for w in detail_at("stiffeners UB 457x191x67 {}", thickness=8.0).welds} == {4.0}  # half of it, on whole millimetres


def test_a_hooked_rod_ends_where_it_is_said_to() -> None:
    d = detail_at("base UC 203x203x46 {}", rod_foot="hooked", embedment=400.0)
    for rod in d.rods:
        assert rod.tail.origin[2] == pytest.approx(rod.bottom + 12.0)  # M24: the tail's axis lies half its thickness over its underside


@pytest.mark.parametrize(("drop", "told"), [(0.55, True), (0.45, False)])
def test_a_rod_half_a_millimetre_off_the_middle_is_dimensioned(drop: float, told: bool) -> None:
    shown = {n for x in detail_at("sag rods UPE 160 4 level", level="middle", drop=drop).dimensions for n in x.settings}
    assert ("drop" in shown) is told


def test_tails_look_to_the_middle_of_rods_that_lie_aside() -> None:
    assert np.cos(hooks("hooked", [(100.0, 0.0), (700.0, 0.0)], 20.0)) == pytest.approx([1.0, -1.0])


def test_an_arc_in_a_thin_plate_ends_where_the_plate_does() -> None:
    # 3 mm over the land of a radius of 6: 1 - cos t = 0.5, t = 60 degrees, where 70 would go 3.95 up
    assert arc_to(2.0, 6.0, math.radians(20.0), 5.0) == pytest.approx(math.radians(60.0))
    assert arc_to(2.0, 6.0, math.radians(20.0), 9.0) == pytest.approx(math.radians(70.0))


def test_a_plug_off_the_middle_has_its_hole(tmp_path: Path) -> None:
    _, e = laid(tmp_path / "a", part__1="plate", length__1=200, width__1=120, part__2="plug welds", on__2="part 1", across__2=25)
    assert len(detail(e).plugs) == 1 and level_of(e, "plug-hole") == {"clear"} == level_of(e, "plug-width")


def test_a_tubes_weld_stands_in_its_slot_however_it_is_rolled(tmp_path: Path) -> None:
    """A square tube rolled a degree about a plate of its slot: the fillets' roots lie on the walls' outer faces, 50 off the axis."""
    for roll in (1.0, -1.0):
        _, e = joined(tmp_path / f"{roll}", [column("UC 203x203x46"), {**brace("SHS 100x100x5", 40.0), "roll_deg": roll}], "bracing-gusset", "M2.start")
        m = next(x for x in e.made.assembled.case.members if x.shape.name == "SHS 100x100x5")
        roots = np.array([p for w in made(e).welds if w.name.endswith("in the slot") for p in (w.start, w.end)])
        assert len(roots) == 8 and abs(np.abs(m.frame.to_local(roots)[:, 1:]).max(axis=1) - 50.0).max() < 0.01


def test_cleats_lie_on_webs_that_lean_a_little(tmp_path: Path) -> None:
    """Two beams on one web share their bolts near their tops; the second's web is rolled 0.4 degrees: there nothing lies in anything, nor further off than allowed."""
    for roll in (0.4, -0.4):
        members = [{"section": "UB 610x229x101", "role": "beam", "start": [-4000, 0, 3000], "end": [4000, 0, 3000]}, beam_at("UB 457x191x67", 90, 0, 0), {**beam_at("UB 457x191x67", -90, 0, 0), "roll_deg": roll}]
        _, e = joined(tmp_path / f"{roll}", members, "angle-cleats", "M2.end and M3.end", pitch=[60.0], row_place="from the top", top_distance=90.0)
        assert len(e.joint.ends) == 2 and level_of(e, "clash") <= {"clear"} and level_of(e, "ply-gap") == {"clear"}, [f for f in e.findings if f.level == "breach"]


def test_a_leg_that_goes_out_past_a_tubes_wall_is_told() -> None:
    """On the end of CHS 114.3x5 round its sleeve: the root lies 51.2 off the axis, a leg of 20 ends about 71.1 off it, where the wall ends at 57.15."""
    d = detail_at("sleeve CHS 114.3x5")
    case = site_case(next(s for s in SITES if s.name == "sleeve CHS 114.3x5"))
    for leg, far in ((6.0, 0.0), (20.0, 13.94)):
        found = prove(Assembled(case, msgspec.structs.replace(d, welds=(msgspec.structs.replace(d.welds[0], leg=leg), *d.welds[1:])), "EN"), HOUSE)
        gap = max(f.actual for f in found if f.rule == "weld-gap")
        assert (gap <= 2.0) if not far else gap == pytest.approx(far, abs=0.05)


def test_a_cover_plate_narrows_from_where_its_groove_is_whole() -> None:
    """20 thick, its root 6 off the face: bevelled 30 degrees the groove takes 20 tan 30 = 11.5 of it, so that it is whole from 17.5 on.  The first
    bolts at 60 have 30 before them, at 45 only 15."""
    for first, corner in ((60.0, 30.0), (45.0, 45.0)):
        d = detail_at("covers IPE 400 {'zone': False}", bevel=math.radians(30.0), top_end=160.0, bottom_end=160.0, first=first)
        ring = next(p for p in d.plates if "top plate" in p.name).outline.points(0.5)
        assert sorted({round(float(x), 3) for x, y in ring if abs(abs(y) - 90.0) < 1e-6}) == [6.0, corner]


def test_bolts_between_the_flanges_are_near_enough_to_an_exposed_plates_edge() -> None:
    # of 10 mm it may reach 4 x 10 + 40 = 80 past them; it does so by 117.5 - 55 = 62.5
    d = detail_at("cap and base UC 203x203x46 on UC 203x203x46", cap_thickness=10.0)
    assert d.number("where").value == "between the flanges" and max(abs(y) for b in d.bolts for _, y, _ in b.points) == 55.0 and d.number("length").value == 235.0


@pytest.mark.parametrize(("level", "face"), [(226.7, "top"), (-226.7, "bottom")])
def test_picked_points_lie_on_the_face_they_were_picked_on(tmp_path: Path, level: float, face: str) -> None:
    _, e = laid(tmp_path / "a", part__1="plate", length__1=200, width__1=80)
    found = picked(e.joint.case, {"part/1": "weld"}, HOUSE, 1, np.array([(-40.0, 30.0, level), (40.0, 30.0, level)]))
    assert found["on/1"] == face


def test_picked_points_are_told_from_the_middle_of_their_face(tmp_path: Path) -> None:
    # a plate of 12 on the top, 100 along and 20 across: its own top lies at 226.7 + 12
    _, e = laid(tmp_path / "a", part__1="plate", length__1=200, width__1=80, thickness__1=12, along__1=100, across__1=20)
    case, plate = e.joint.case, detail(e).plates[0]
    middle = plate.frame.to_world(np.array([(0.0, 0.0, z) for z in (0.0, plate.thickness)]))
    upper = middle[middle[:, 2].argmax()]
    typed = {"part/1": "plate", "length/1": 200.0, "width/1": 80.0, "thickness/1": 12.0, "along/1": 100.0, "across/1": 20.0, "part/2": "weld", "on/2": "part 1"}
    found = picked(case, typed, HOUSE, 2, np.array([upper + (-30.0, 0.0, 0.0), upper + (30.0, 0.0, 0.0)]))
    assert found["on/2"] == "part 1" and sorted(abs(v) for v in found["line/2"]) == pytest.approx([0.0, 0.0, 30.0, 30.0], abs=0.1)  # type: ignore[union-attr]


def test_webs_of_two_beams_half_a_degree_to_each_other_have_no_common_cleats(tmp_path: Path) -> None:
    members = [{"section": "UB 610x229x101", "role": "beam", "start": [-4000, 0, 3000], "end": [4000, 0, 3000]}, beam_at("UB 457x191x67", 90), {**beam_at("UB 457x191x67", -90), "roll_deg": 0.55}]
    with pytest.raises(TinCleatError, match=r"stand 0\.5° to each other|stand 0\.6° to each other"):
        joined(tmp_path, members, "angle-cleats", "M2.end and M3.end")


def test_a_beam_that_slopes_over_its_column_tells_the_lesser_angle() -> None:
    (angle,) = detail_at("cap UB 254x146x31 0 under a slope of 6").angles
    one, two = (np.array(p) - angle.vertex for p in (angle.first, angle.second))
    assert math.degrees(math.acos(float(one @ two) / float(np.linalg.norm(one) * np.linalg.norm(two)))) == pytest.approx(84.0, abs=0.01)


def test_bolts_of_a_slender_cap_and_base_stand_as_wide_as_they_go() -> None:
    d = detail_at("cap and base IPE 200 on IPE 200", bolt="M16")
    assert (d.number("where").value, d.number("gauge").value, d.number("pitch").value) == ("between the flanges", 60.0, (130.0,))


@pytest.mark.parametrize(("aside", "kind"), [(175.0, "brace on flange"), (185.0, "near miss")])
def test_a_brace_beside_a_flange_is_on_it_as_far_as_a_plate_reaches(desk: Desk, aside: float, kind: str) -> None:
    # HEB 240: 120 to the flange's edge, and 60
    level = 3000 - 120 - 5 - 10
    desk.run("add-members", members=[{"section": "HEB 240", "role": "beam", "start": [-4000, 0, 3000], "end": [4000, 0, 3000]}, {"section": "FL 80x10", "role": "brace", "start": [0, aside, level], "end": [1500, aside + 2600, level], "roll_deg": 90}])
    assert desk.ledger.joint_of(list(desk.project.members)[1], "start").kind == kind


def test_a_cleats_leg_as_long_as_there_is_room_is_taken(tmp_path: Path) -> None:
    # half of what HP 305x79 leaves its web between its roots, less half of IPE 300's web
    column_, web = section("HP 305x79"), section("IPE 300").tw
    assert column_.h / 2 - column_.tf - column_.r1 - web / 2 == pytest.approx(120.0, abs=0.01)
    _, e = joined(tmp_path, [column("HP 305x79", 90), beam_at("IPE 300")], "angle-cleats", "M2.end", size="L 120x120x12")
    assert {p.shape.name for p in made(e).pieces} == {"L 120x120x12"} and not level_of(e, "clash") & {"breach"}


def test_a_cap_plates_holes_lie_in_the_flange_it_is_bolted_to() -> None:
    d, case = detail_at("cap UC 203x203x46 0 under UB 406x178x60", pack=20.0), site_case(next(s for s in SITES if s.name == "cap UC 203x203x46 0 under UB 406x178x60"))
    beam = case.members[1]
    depths = [abs(float(beam.frame.to_local(np.array([h.point]))[0, 2])) for h in d.holes if h.member == 1]
    assert len(depths) == len(d.bolts[0].points) and all(beam.shape.h / 2 - beam.shape.tf - 0.01 <= z <= beam.shape.h / 2 + 0.01 for z in depths)


def test_a_column_seen_from_its_web_leans_along_and_across() -> None:
    # from 100 up a plate of 20, its middle at 110, leaning 0.1: 11 further out and half its own thickness's lean, 1, clear of it
    on = _Inside(10.0, 100.0, 50.0, 0.0, 5.0, (-0.1, 0.2)).on(100.0, 20.0)
    assert (on.face, on.out, on.half, on.y) == pytest.approx((10.0 - 11.0 + 1.0, 100.0 - 11.0 + 1.0, 50.0 - 2.0, 22.0))


def test_a_bolt_left_out_leaves_the_other_holes_of_its_cleats(tmp_path: Path) -> None:
    def holes(d: Any) -> list[int]:
        return [len(p.cuts.holes) for p in d.pieces]

    whole = made(joined(tmp_path / "a", [column("HEB 300"), beam_at("IPE 300")], "angle-cleats", "M2.end")[1])
    name = whole.bolts[0].name
    less = made(joined(tmp_path / "b", [column("HEB 300"), beam_at("IPE 300")], "angle-cleats", "M2.end", **{"@altered": f"without bolt 1 of {name}"})[1])
    assert sum(holes(whole)) > 4 and 1 <= sum(holes(whole)) - sum(holes(less)) <= 2


def test_a_plate_broader_than_what_it_stands_on_is_at_no_corner(tmp_path: Path) -> None:
    # its middle stands on IPE 200's flange of 100; only its ends, 80 to either side, do not
    with pytest.raises(TinCleatError, match="C-U2 is for a corner joint"):
        laid(tmp_path / "a", "IPE 200", part__1="plate", stands__1="upright across", length__1=160, width__1=100, thickness__1=20, part__2="weld", prep__2="C-U2")
