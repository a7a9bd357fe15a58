"""Figures at which a family, a kit or a rule changes over, on both sides of each."""

import math
from pathlib import Path
from typing import Any

import msgspec
import numpy as np
import pytest
from sites import beam, brace, column, girder, over, rafter, spliced
from test_families import HOUSE, foot, on_flange
from test_new_families import joined, made
from test_proof import findings

from tincleat.catalogue.sections import section
from tincleat.commands.desk import Desk
from tincleat.details.parts import Hole
from tincleat.details.tapers import Taper, taper_mesh
from tincleat.errors import Refused, TinCleatError
from tincleat.families.declare import rounded
from tincleat.families.loose.welds import between
from tincleat.families.registry import family
from tincleat.kit.foot import legs_round
from tincleat.kit.seams import Seam
from tincleat.ledger.made import Made
from tincleat.project.entities import HouseRules, RoundRule, inch_house
from tincleat.steel.body import element_polygon
from tincleat.steel.cuts import Cuts, EndCut


def test_legs_round_a_bar() -> None:
    # 0.6 of the thinner part, 6 and 5 at least, 12 at most; 1/4 and 3/16 in, 1/2 in at most
    heavy, light = section("UC 356x406x634"), section("IPE 80")
    assert legs_round(heavy, 60.0, False) == (12.0, 12.0) and legs_round(light, 20.0, False) == (6.0, 5.0)
    assert legs_round(section("HEB 300"), 15.0, False) == pytest.approx((0.6 * 15, 0.6 * 11))
    assert legs_round(section("W14X730"), 60.0, True) == (12.7, 12.7) and legs_round(section("W8X31"), 6.35, True) == (6.35, 4.7625)
    assert legs_round(section("SHS 150x150x8"), 20.0, False) == (6.0, 5.0) and legs_round(section("SHS 200x200x12.5"), 20.0, False) == pytest.approx((7.5, 7.5))


def test_a_haunch_takes_stock_a_little_thinner_than_the_flange(tmp_path: Path) -> None:
    # flange 10.2: a plate of 10 is within 0.3 of it; 10.7: one of 12
    for name, thick in (("UB 305x165x40", 10), ("IPE 300", 12)):
        members = [{**column("UB 457x191x67")}, rafter(name, 8.0)]
        _, e = joined(tmp_path / str(thick), members, "end-plate", "M2.start")
        assert e.joint.kind == "knee" and {p.thickness for p in made(e).plates if "haunch flange" in p.name} == {thick}
        assert {p.thickness for p in made(e).plates if "column stiffener" in p.name} == {thick}


def test_a_haunch_is_three_times_as_long_as_deep_in_whole_steps(tmp_path: Path) -> None:
    _, e = joined(tmp_path, [column("W18X50"), rafter("W14X30", 8.0)], "end-plate", "M2.start", inch=True)
    d = made(e)
    # 13.8 in deep on 1/4 in: 13.75 = 349.25; three times 1047.75 up to a step of 2 in: 1066.8
    assert d.number("haunch_depth").value == pytest.approx(349.25, abs=0.2) and d.number("haunch_length").value == pytest.approx(1066.8, abs=0.2)


def test_a_haunch_steeper_than_thirty_degrees_is_refused(tmp_path: Path) -> None:
    # 200 deep and 348 long rises at atan(200 / 348) = 29.9 degrees, 345 long at 30.1: its flange's tip could not be welded
    members = [column("HEB 300"), beam("IPE 400")]
    assert made(joined(tmp_path / "a", members, "end-plate", "M2.end", haunch_depth=200.0, haunch_length=348.0)[1]).plates
    with pytest.raises(TinCleatError, match="would rise 30°, too steep to weld its tip"):
        joined(tmp_path / "b", members, "end-plate", "M2.end", haunch_depth=200.0, haunch_length=345.0)
    with pytest.raises(TinCleatError, match=r"would rise 45°.*5° to 45°"):
        joined(tmp_path / "c", members, "end-plate", "M2.end", haunch_depth=200.0, haunch_length=199.0)


def test_a_wide_tube_weld_widens_the_gusset(tmp_path: Path) -> None:
    def across(leg: float) -> float:
        _, e = joined(tmp_path / f"{leg}-{len(list(tmp_path.iterdir()))}", [column("HEB 200"), brace("SHS 80x80x5", 45)], "bracing-gusset", "M2.start", tube_weld=leg, edge=30.0)
        d = made(e)
        views = {v.name: v for v in d.views}
        plate = d.plates[0]
        flat = views["brace 1"].frame.to_local(plate.frame.to_world([(x, y, 0.0) for x, y, _ in plate.outline.vertices]))
        reach = max(p[0] for p in flat)
        return float(max(abs(p[1]) for p in flat if p[0] > reach - 1.0))

    # beside the tube's 40 the plate's edge of 30, or two legs and 8 more: 2 x 14 + 8 = 36
    narrow, wide = across(8.0), across(14.0)
    assert 70 <= narrow < 73 and 76 <= wide < 79


def test_a_head_in_its_own_members_root_is_a_clash(tmp_path: Path) -> None:
    # HEB 300: web 11, root 27: 5.5 + 27 = 32.5; heads of 30 across flats, 17.3 at the corners, at 40 reach to 22.7
    _, near = joined(tmp_path / "n", [column("HEB 300"), beam("IPE 300")], "end-plate", "M2.end", gauge=70.0)
    _, wide = joined(tmp_path / "w", [column("HEB 300"), beam("IPE 300")], "end-plate", "M2.end")
    assert [f.part for f in near.findings if f.rule == "clash" and f.level == "breach"] == ["supporting member and bolts"]
    assert not [f for f in wide.findings if f.rule == "clash" and f.level == "breach"]


def test_cross_centres_step_down_in_inches(tmp_path: Path) -> None:
    # the office's 5 1/2 in on W8X31; W8X24's flange of 6 1/2 in less an inch at each edge; W6X25's 6.08 in leave 4.08, down to 4
    for name, inches in (("W8X31", 5.5), ("W8X24", 4.5), ("W6X25", 4.0)):
        _, e = joined(tmp_path / name, [column(name), beam("W10X22")], "angle-cleats", "M2.end", inch=True)
        assert float(made(e).number("cross_centres").value) == pytest.approx(inches * 25.4, abs=0.01)  # type: ignore[arg-type]


@pytest.mark.parametrize(("at", "lean", "expected"), [(4000.0, 0.0, 4600.0), (4300.0, 0.0, 4600.0), (4400.0, 0.0, 4400.0), (3700.0, 0.0, 4600.0), (4000.0, 0.1, 4600.0)])
def test_a_splice_is_lifted_over_the_floor_it_lies_at(tmp_path: Path, at: float, lean: float, expected: float) -> None:
    # within 0.6 of 600 = 360 of the floor at 4000 it goes 600 over it, along the column however it leans; further off it stays
    desk = Desk.create(tmp_path / "p.tincleat", None, True)
    desk.run("add-level", name="floor", elevation=4000.0)
    lower = {**column("UC 203x203x46"), "end": [lean * at, 0, at]}
    desk.run("add-members", members=[lower, {**column("UC 203x203x46"), "start": [lean * at, 0, at], "end": [lean * 8000, 0, 8000]}])
    if expected == at:
        with pytest.raises(Refused, match="nothing is to be trued up"):
            desk.run("true-up", rules=["splices"], settings={"splices": {"height": 600}})
    else:
        desk.run("true-up", rules=["splices"], settings={"splices": {"height": 600}})
    low, high = desk.project.members.values()
    assert low.end[2] == pytest.approx(expected, abs=0.01) and low.end == pytest.approx(high.start) and low.end[0] == pytest.approx(lean * expected, abs=0.05)


@pytest.mark.parametrize(("value", "way", "expected"), [(12.2, "up", 15.0), (12.2, "down", 10.0), (12.2, "nearest", 10.0), (12.6, "nearest", 15.0), (12.5, "nearest", 15.0), (10.0, "up", 10.0)])
def test_rounding_on_a_step(value: float, way: Any, expected: float) -> None:
    assert rounded(value, RoundRule(5.0, way)) == expected


def test_flats_go_on_a_quarter_of_a_wide_opening(tmp_path: Path) -> None:
    # 800 wide: 200 on each side; 300 wide: 75, but 100 at least
    for width, past in ((800.0, 200.0), (300.0, 100.0)):
        _, e = joined(tmp_path / f"{width:g}", [girder("UB 610x229x101")], "web-opening", "M1@3500", shape="rectangular", height=200.0, width=width, flats="near side")
        assert made(e).number("past").value == past and {p.outline.bounds[2] - p.outline.bounds[0] for p in made(e).plates} == {width + 2 * past}


def test_bolts_round_a_tube_stand_two_and_four_tenths_of_their_diameter_apart(tmp_path: Path) -> None:
    """M20 from 48 mm on; the chord between n bolts on a circle is its diameter times sin(pi / n)."""
    ends = [{"section": "CHS 219.1x8", "role": "beam", "start": [0, 0, 3000], "end": [3000, 0, 3000]}, {"section": "CHS 219.1x8", "role": "beam", "start": [6000, 0, 3000], "end": [3000, 0, 3000]}]
    _, e = joined(tmp_path / "a", ends, "flange-plates", "M1.end")
    spots = np.array(made(e).bolts[0].points)
    circle = 2 * float(np.linalg.norm(spots - spots.mean(axis=0), axis=1).mean())
    most = math.floor(math.pi / math.asin(2.4 * 20 / circle))
    assert circle * math.sin(math.pi / most) < 2.76 * 20  # near enough to the limit to tell
    assert len(made(joined(tmp_path / "b", ends, "flange-plates", "M1.end", count=most)[1]).bolts[0].points) == most
    with pytest.raises(TinCleatError, match=f"{most + 1} bolts stand"):
        joined(tmp_path / "c", ends, "flange-plates", "M1.end", count=most + 1)


def test_an_end_cut_askew_ends_a_web_where_it_lies() -> None:
    # a channel's web lies off its middle: a plane turned by 30 degrees about the depth ends it tan 30 times that further on
    shape = section("PFC 230x75x26")
    web = next(e for e in shape.elements if e.name == "web")
    assert abs(web.at) > 20
    c, s = math.cos(math.radians(30)), math.sin(math.radians(30))
    cut = Cuts((EndCut(0, (100.0, 0.0, 0.0), (c, s, 0.0)),))
    polygon = element_polygon(web, cut, 0.0, 1000.0)
    assert polygon.bounds[0] == pytest.approx(100.0 - web.at * s / c, abs=1e-6) and polygon.bounds[2] == 1000.0


def test_rows_keep_the_offices_own_spacing(tmp_path: Path) -> None:
    # IPE 180 has 146 of clear web: 66 between two rows 40 from its ends.  2.2 x 22 = 48.4, on 5: 50; 2.9 x 20 = 58, on 5: 60; 3.4 x 20 = 68 is more than there is
    for factor, pitch in ((0.0, (50.0,)), (2.9, (60.0,)), (3.4, ())):
        desk = Desk.create(tmp_path / f"{factor:g}.tincleat", HouseRules(spacing_factor=factor))
        desk.run("add-members", members=[column("HEB 300"), beam("IPE 180")])
        desk.run("place-connection", family="fin-plate", at=["m2.end"])
        assert made(desk.ledger.entries["m2.end"]).number("pitch").value == pitch


def test_a_bolt_off_the_middle_of_a_turned_slot() -> None:
    # a slot 22 wide and 34 long, turned by 60 degrees: 3 mm along it a bolt of 20 has 22 - 20 to spare, 3 mm across it 22 - 6 - 20
    case = on_flange()
    d = family("fin-plate").detail(case, {}, HOUSE)
    turn = math.radians(60)
    for way, spare in (((math.cos(turn), math.sin(turn)), 2.0), ((-math.sin(turn), math.cos(turn)), -4.0)):
        moved = tuple(Hole(h.x + 3 * way[0], h.y + 3 * way[1], 22.0, 34.0, turn, "short slot") for h in d.plates[0].holes)
        plate = msgspec.structs.replace(d.plates[0], holes=moved)
        assert findings(case, msgspec.structs.replace(d, plates=(plate,)))["bolt-hole"][0].actual == pytest.approx(spare, abs=1e-6)


def test_slots_along_the_load_keep_their_bolts_further_apart() -> None:
    # AISC J3.4: clear between slots of 27 along the load at least d: 20 + 27 = 47, less than 2 2/3 x 20 = 53.3; of 50: 70
    house = HouseRules(rule_set="AISC")
    case = on_flange()
    d = family("fin-plate").detail(case, {"pitch": (60.0, 60.0)}, house)
    along = {True: math.pi / 2, False: 0.0}
    for lies, required in ((True, 70.0), (False, 8 / 3 * 20)):
        holes = tuple(Hole(h.x, h.y, 22.0, 50.0, along[lies], "long slot") for h in d.plates[0].holes)
        found = findings(case, msgspec.structs.replace(d, plates=(msgspec.structs.replace(d.plates[0], holes=holes),)), house)["spacing-least"]
        assert next(f for f in found if f.part.startswith("fin plate") and "in line" in f.part).required == pytest.approx(required)


def test_one_place_and_several(tmp_path: Path) -> None:
    _, e = joined(tmp_path, [column("HEB 300"), beam("IPE 300")], "end-plate", "M2.end", gauge=70.0)
    (clash,) = [f for f in e.findings if f.rule == "clash" and f.level == "breach"]
    assert clash.message.endswith("the worst of 6 places")


def test_backing_plates_clear_the_root(tmp_path: Path) -> None:
    # HEB 300: half its web 5.5, root 27, 1 mm off it
    _, e = joined(tmp_path, [column("HEB 300"), beam("IPE 300")], "end-plate", "M2.end", backing=12.0)
    edges = [sorted(abs(v) for v in p.outline.bounds[::2])[0] for p in made(e).plates if "backing" in p.name]
    assert edges == pytest.approx([33.5, 33.5])


def test_a_short_leg_brings_cross_centres_nearer(tmp_path: Path) -> None:
    # web 7.1 and twice 80 - 26.4 (1.2 x 22): 114.3 down to 110
    _, e = joined(tmp_path, [column("HEB 300"), beam("IPE 300")], "angle-cleats", "M2.end", size="L 80x80x8")
    assert made(e).number("cross_centres").value == 110.0 and made(e).number("cross_centres").origin == "adapted"


def test_stiffeners_of_a_foot(tmp_path: Path) -> None:
    # a quarter of 150 at their tip, of 240 the 50 that is most
    for height, tip in ((150.0, 37.5), (240.0, 50.0)):
        _, e = joined(tmp_path / f"{height:g}", [column("HEB 300")], "base-plate", "M1.start", stiffeners="on the flanges", stiffener_height=height)
        rib = next(p for p in made(e).plates if p.name == "stiffener right")
        assert sorted(y for x, y, _ in rib.outline.vertices if x == pytest.approx(rib.outline.bounds[2]))[-1] == pytest.approx(tip)
    # half of 1/4 in is less than 3/16
    _, e = joined(tmp_path / "inch", [column("W14X90")], "base-plate", "M1.start", inch=True, stiffeners="on the flanges", stiffener_thickness=6.35)
    assert made(e).number("stiffener_weld").value == pytest.approx(4.7625)


def test_a_beam_rolled_over_a_column_says_what_is_wrong(tmp_path: Path) -> None:
    for roll, words in ((40.0, r"40\.0° off square"), (50.0, "shows the column its side")):
        with pytest.raises(TinCleatError, match=words):
            joined(tmp_path / f"{roll:g}", [{**column("UC 203x203x46"), "end": [0, 0, 3000]}, over("HEB 300", roll_deg=roll)], "cap-plate", "M1.end")


def test_a_brace_nearly_along_its_column_makes_no_plane(tmp_path: Path) -> None:
    # sine of 6.2 degrees 0.108, of 5.4 0.094: under a tenth there is no plane to lay a gusset in
    for angle, role in ((6.2, "brace"), (5.4, "supported")):
        desk = Desk.create(tmp_path / f"{angle:g}.tincleat")
        t = math.radians(angle)
        desk.run("add-members", members=[column("UC 203x203x46"), {"section": "L 80x80x8", "role": "brace", "start": [0, 0, 3000], "end": [3000 * math.sin(t), 0, 3000 + 3000 * math.cos(t)]}])
        assert desk.ledger.joint_of("m2", "start").case.members[0].role == role
        desk.close()


def test_a_weld_leg_under_a_short_flange_lands_on_sixteenths_too(tmp_path: Path) -> None:
    # HEM 120: 126 / 2 - 12.5 / 2 - 12 = 44.75 of flange: 44.75 / 8 / 0.77 = 7.26, down to 4 sixteenths
    desk = Desk.create(tmp_path / "p.tincleat", msgspec.structs.replace(inch_house(""), rule_set="EN"), True)
    desk.run("add-members", members=[column("W12X65"), beam("HEM 120")])
    desk.run("place-connection", family="end-plate", at=["m2.end"])
    assert made(desk.ledger.entry_of(next(iter(desk.project.connections)))).number("flange_weld").value == pytest.approx(4 * 1.5875)


def test_a_seat_beside_the_middle_of_a_web_keeps_off_both_roots(tmp_path: Path) -> None:
    for off in (30.0, -30.0):
        _, e = joined(tmp_path / f"{off:g}", [column("HEB 300", 90), beam("UB 203x133x25", offset=[off, 0])], "seat-cleat", "M2.end")
        # the straight web is 208 wide: 104 - 30 = 74 to the nearer root
        assert float(made(e).number("length").value) <= 148.0 and not [f for f in e.findings if f.level == "breach"]  # type: ignore[arg-type]
        with pytest.raises(TinCleatError, match="148 mm between the roots"):
            joined(tmp_path / f"wide {off:g}", [column("HEB 300", 90), beam("UB 203x133x25", offset=[off, 0])], "seat-cleat", "M2.end", length=180.0)


def test_the_picture_of_a_detail_holds_all_of_it() -> None:
    m = Made(foot(), family("base-plate").detail(foot(), {}, HOUSE), HOUSE)
    low, high = m.shapes.low, m.shapes.high
    rod = m.detail.rods[0]
    assert low[2] <= rod.bottom + 1e-6 and high[2] >= rod.top - 1e-6 and high[0] >= m.detail.plates[0].outline.bounds[2] - 1e-6


@pytest.mark.parametrize(("cleat", "pitch"), [("L 90x90x8", (35.0,)), ("L 80x80x8", ())])
def test_a_second_row_in_a_purlin_from_two_and_a_half_holes(tmp_path: Path, cleat: str, pitch: tuple[float, ...]) -> None:
    """M12 in holes of 13: 2.5 x 13 = 32.5, up to 35.  L 90x90x8 (r 11) leaves 90 - 20 - (8 + 11 + 12 + 2) = 37 up its leg, L 80x80x8 (r 10) 80 - 20 - (8 + 10 + 12 + 2) = 28."""
    desk = Desk.create(tmp_path / "p.tincleat")
    desk.run("add-members", members=[
        {"section": "UB 356x171x45", "role": "rafter", "start": [0, -4000, 0], "end": [0, 4000, 0]},
        {"section": "UPN 120", "role": "purlin", "start": [-4000, 0, 175.7], "end": [4000, 0, 175.7], "cardinal": "bottom"},
    ])  # fmt: skip
    desk.run("place-connection", family="purlin-cleat", at=["m2 over m1"], settings={"bolt": "M12", "size": cleat})
    (made,) = (e.made for e in desk.ledger.entries.values() if e.connection is not None)
    assert made is not None and made.detail.number("pitch").value == pitch and made.counts["breach"] == 0


@pytest.mark.parametrize(("name", "under"), [("W10X22", 3.0), ("W16X36", 3.0), ("W21X44", 3.0)])
def test_the_first_row_lies_three_inches_under_the_top(tmp_path: Path, name: str, under: float) -> None:
    """By AISC practice 3 in flat: W16X36 is 15.9 deep, its four rows at 3 take 9, so that the middle would be 3.45; the last one lies 3.9 over the bottom."""
    desk = Desk.create(tmp_path / "i.tincleat", inch_house(""))
    desk.run("add-members", members=[{"section": "W12X96", "role": "column", "start": [0, 0, 0], "end": [0, 0, 6000]}, {"section": name, "role": "beam", "start": [4000, 0, 3000], "end": [0, 0, 3000]}])
    for kind in ("fin-plate", "angle-cleats"):
        made_ = desk.ledger.make(desk.ledger.entries["m2.end"].joint, kind, {})
        tops = [p[2] for p in made_.detail.bolts[0].points]
        assert section(name).h / 2 - max(tops) == pytest.approx(under * 25.4) and made_.counts["breach"] == 0


@pytest.mark.parametrize(("name", "inch"), [("W14X22", True), ("W18X50", True), ("UB 305x165x40", False), ("IPE 240", False)])
def test_rows_of_an_end_plate_stand_on_full_steps(tmp_path: Path, name: str, inch: bool) -> None:
    """From the first row down on full 5 mm, or quarter inches; what the beam's depth leaves over lies under the last row: less than a step more than over the first."""
    desk = Desk.create(tmp_path / "e.tincleat", inch_house("") if inch else HouseRules())
    desk.run("add-members", members=[{"section": "W12X96" if inch else "HEB 300", "role": "column", "start": [0, 0, 0], "end": [0, 0, 6000]}, {"section": name, "role": "beam", "start": [4000, 0, 3000], "end": [0, 0, 3000]}])
    detail = desk.ledger.make(desk.ledger.entries["m2.end"].joint, "end-plate", {}).detail
    step, pitch, first = (6.35 if inch else 5.0), detail.number("pitch").value, detail.number("first_row").value
    assert isinstance(pitch, tuple) and isinstance(first, float) and pitch
    assert all(abs(g / step - round(g / step)) < 1e-6 for g in (first, *pitch))
    under = section(name).h - first - sum(pitch)
    assert first - 1e-6 <= under < first + step + 10.0


def test_stiffeners_of_narrow_flanges_keep_a_weld_worth_its_length(tmp_path: Path) -> None:
    # UB 254x102x22: 101.6 wide, web 5.7, root 7.6: 47.95 beside the web.  A fillet of 5 wants 30 + 2 x 3.54 = 37.07 on the flange.  A flat of
    # 45 less a snipe of 15 has 30, less one of 9 it has 36; 47 to the flange's edge less 9 has 38
    _, e = joined(tmp_path / "a", [girder("UB 254x102x22")], "stiffeners", "M1@2500")
    d = made(e)
    x0, _, x1, _ = d.plates[0].outline.bounds
    assert (x1 - x0, d.number("snipe").value, d.number("width").origin) == (pytest.approx(47.0), 9.0, "adapted")
    assert not [f for f in e.findings if f.level == "breach"]
    # UB 457x191x67: root 10: a flat of 90 less a snipe of 15 has 75 and stays as it is
    _, e = joined(tmp_path / "b", [girder("UB 457x191x67")], "stiffeners", "M1@2500")
    assert made(e).number("snipe").value == 15.0 and made(e).number("width").origin == "rounded"
    # what is typed is not changed
    _, e = joined(tmp_path / "c", [girder("UB 254x102x22")], "stiffeners", "M1@2500", width=40.0, snipe=15.0)
    assert (made(e).number("width").value, made(e).number("snipe").value) == (40.0, 15.0) and "fillet-length" in {f.rule for f in e.findings if f.level == "breach"}


def test_a_flange_plate_is_as_wide_as_the_tube_with_its_weld(tmp_path: Path) -> None:
    # bolts on two sides 60 apart: 30 + 30 across is less than the tube's 100, its fillet of 6 and 5 more: 111, and twice that on 5 is 225
    _, e = joined(tmp_path, spliced("SHS 200x200x8", "SHS 200x200x8"), "flange-plates", "M1.start", where="on two sides", pitch=(60.0,))
    x0, y0, x1, y1 = made(e).plates[0].outline.bounds
    assert min(x1 - x0, y1 - y0) == pytest.approx(225.0)


@pytest.mark.parametrize(("x", "kind"), [(0.0, "brace on flange"), (10.0, "brace on flange"), (10.5, "near miss")])
def test_bracing_lies_on_a_flange_to_its_very_end(tmp_path: Path, x: float, kind: str) -> None:
    desk = Desk.create(tmp_path / "p.tincleat", HOUSE, True)
    level = 3000 - 120 - 40
    desk.run("add-members", members=[{**girder("HEB 240"), "end": [0, 0, 3000]}, {"section": "L 80x80x8", "role": "brace", "start": [x, 0, level], "end": [x - 2000, 2000, level]}])
    assert desk.ledger.joint_of("m2", "start").kind == kind


def test_a_chosen_run_of_a_weld_is_three_millimetres_at_least() -> None:
    run = Seam(np.array([0.0, 0.0, 0.0]), np.array([100.0, 0.0, 0.0]), np.array([0.0, 1.0, 0.0]), np.array([0.0, 0.0, 1.0]))
    ((owner, found),) = between([("web", run)], np.array([[20.0, 0.0, 0.0], [23.2, 0.0, 0.0]]))
    assert owner == "web" and found.length == pytest.approx(3.2)
    with pytest.raises(TinCleatError, match="from point 1 to point 2"):
        between([("web", run)], np.array([[20.0, 0.0, 0.0], [22.8, 0.0, 0.0]]))


def test_two_planes_end_each_element_where_both_leave_steel() -> None:
    # HEB 200, flanges 200 x 15 at 92.5: square at 1000, and x + y <= 1000: the triangle from the middle out, 100 x 100 / 2, goes; the web's middle plane stays whole
    shape = section("HEB 200")
    top, bottom, web = (next(e for e in shape.elements if e.name == n) for n in ("top flange", "bottom flange", "web"))
    square = EndCut(0, (1000.0, 0.0, 0.0), (-1.0, 0.0, 0.0))
    skew = EndCut(0, (1000.0, 0.0, 0.0), (-math.sqrt(0.5), -math.sqrt(0.5), 0.0))
    both = Cuts((square, skew), (), ())
    assert element_polygon(top, both, 0.0, 1000.0).area == pytest.approx(200 * 1000 - 100 * 100 / 2)
    assert element_polygon(web, both, 0.0, 1000.0).area == pytest.approx((web.high - web.low) * 1000)
    # leaning: x <= 1000 + 0.75 z: nothing of the upper flange, 0.75 x 92.5 = 69.4 of the lower one, a triangle of the web
    lean = Cuts((square, EndCut(0, (1000.0, 0.0, 0.0), (-0.8, 0.0, 0.6))), (), ())
    assert element_polygon(top, lean, 0.0, 1000.0).area == pytest.approx(200 * 1000)
    assert element_polygon(bottom, lean, 0.0, 1000.0).area == pytest.approx(200 * (1000 - 0.75 * 92.5))
    assert element_polygon(web, lean, 0.0, 1000.0).area == pytest.approx((web.high - web.low) * 1000 - 0.75 * web.low**2 / 2)


def test_a_taper_washer_gets_thicker_the_way_it_is_told() -> None:
    # 1 in 7 over 30, towards (0.6, 0.8): on the middle 3 + 30 / 14 = 5.14 thick; its slanting face falls by a seventh of the way gone there
    washer = Taper(10.0, True, (0.6, 0.8), 1 / 7, 30.0, 18.0)
    points = taper_mesh(washer, drilled=False).points
    even = 10.0 + 3.0 + 30 / 14
    assert points[:, 2].max() == pytest.approx(even) == pytest.approx(washer.seat)
    slant = points[points[:, 2] < even - 0.01]
    assert slant[:, 2] == pytest.approx(10.0 - (slant[:, 0] * 0.6 + slant[:, 1] * 0.8) / 7)
    assert len(slant) and (points[:, :2] @ (0.6, 0.8)).max() == pytest.approx(15.0)
