"""The proof by hand-worked values: each case shows its arithmetic and the clause it stands on."""

import math
from typing import Any

import msgspec
import numpy as np
import pytest
from test_families import HOUSE, foot, on_flange, on_web

from tincleat.commands.desk import Desk
from tincleat.details.assembled import Assembled
from tincleat.details.parts import Detail, Hole, Plate, Weld
from tincleat.families.registry import family
from tincleat.geometry.frames import Frame
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case
from tincleat.project.defaults import along, brought
from tincleat.project.entities import HouseRules, inch_house
from tincleat.proof.finding import Finding
from tincleat.proof.registry import RULES, prove
from tincleat.standards.rulesets import rules_of

AISC = HouseRules(rule_set="AISC")  # in millimetres: the metric tables
INCH = inch_house("")


def findings(case: Case, detail: Detail, house: HouseRules = HOUSE) -> dict[str, list[Finding]]:
    """All findings by rule."""
    out: dict[str, list[Finding]] = {}
    for f in prove(Assembled(case, detail, house.rule_set, house.bolt_lengths), house):
        out.setdefault(f.rule, []).append(f)
    return out


def fin(typed: dict[str, Any], case: Case | None = None, house: HouseRules = HOUSE) -> dict[str, list[Finding]]:
    """Findings of a fin plate on a column flange."""
    case = case or on_flange()
    return findings(case, family("fin-plate").detail(case, family("fin-plate").checked(typed, house), house), house)


def base(typed: dict[str, Any], house: HouseRules = HOUSE) -> dict[str, list[Finding]]:
    """Findings of a base plate."""
    return findings(foot(), family("base-plate").detail(foot(), family("base-plate").checked(typed, house), house), house)


def part(found: list[Finding], words: str) -> Finding:
    """The finding whose part or title holds some words."""
    return next(f for f in found if words in f.part or words in f.title)


def test_default_details_are_clear_under_both_rule_sets() -> None:
    for house in (HOUSE, AISC):
        for found in (fin({}, house=house), base({}, house)):
            assert [f for group in found.values() for f in group if f.level != "clear"] == []


def test_edge_distance_en_table_3_3() -> None:
    # M20 normal hole d0 = 22: e >= 1.2 x 22 = 26.4.  The width rounds up to 5: 50 + 25 = 75, so 25 is left
    edge = part(fin({"edge_distance": 25.0})["edge-least"], "fin plate, edge")
    assert (edge.level, edge.actual, edge.required) == ("breach", pytest.approx(25.0), pytest.approx(26.4))
    assert "table 3.3" in edge.clause and edge.where[0] == pytest.approx(50)
    assert part(fin({"edge_distance": 30.0})["edge-least"], "fin plate, edge").level == "clear"


def test_edge_distance_is_read_from_the_shape_not_the_setting() -> None:
    case = on_flange()
    d = family("fin-plate").detail(case, {"row_place": "on the beam axis"}, HOUSE)
    plate = d.plates[0]
    # cut the corner beside the top hole: the chamfer from (60, 110) to (90, 80) passes (50, 70) at (170 - 120) / sqrt 2 = 35.36
    chamfered = Outline(((0, -110, 0), (90, -110, 0), (90, 80, 0), (60, 110, 0), (0, 110, 0)))
    cut = msgspec.structs.replace(d, plates=(msgspec.structs.replace(plate, outline=chamfered),))
    near = part(findings(case, cut)["edge-least"], "nearest")
    assert near.actual == pytest.approx(50 / math.sqrt(2))
    # and a plate trimmed at x = 70 is in breach though every setting still says 40
    short = msgspec.structs.replace(plate, outline=Outline.rectangle(0, -110, 70, 110))
    assert part(findings(case, msgspec.structs.replace(d, plates=(short,)))["edge-least"], "fin plate, edge").actual == pytest.approx(20)


def test_slots_ask_for_more() -> None:
    # EN 1090-2: M20 short slot 22 x 26; table 3.3: e3, e4 >= 1.5 d0 = 33
    assert part(fin({"hole": "short slot"})["edge-least"], "fin plate, edge").required == pytest.approx(33)
    # AISC: short slot across the edge adds C2 = 3 mm for M20; along the end nothing
    found = fin({"hole": "short slot"}, house=AISC)["edge-least"]
    assert part(found, "fin plate, edge").required == pytest.approx(29) and part(found, "fin plate, end").required == pytest.approx(26)
    # oversize M20: 26 + 2
    assert part(fin({"hole": "oversize"}, house=AISC)["edge-least"], "fin plate, edge").required == pytest.approx(28)


def test_greatest_edge_distance() -> None:
    # 4 t + 40 with the thinner outer ply, plate or web, of 6: 64
    found = fin({"end_distance": 70.0, "pitch": (70.0,), "plate_thickness": 6.0})["edge-greatest"]
    assert part(found, "fin plate, end").level == "breach" and part(found, "fin plate, end").required == pytest.approx(64)
    assert fin({"end_distance": 70.0, "pitch": (70.0,)}, house=HouseRules(exposed=False)).get("edge-greatest") is None
    assert part(fin({"edge_distance": 40.0}, house=AISC)["edge-greatest"], "fin plate, edge").required == pytest.approx(120)  # 12 x 10


def test_a_web_that_runs_into_flanges_has_no_free_edge_there() -> None:
    found = fin({})
    assert not any("web, end" in f.part for f in found["edge-least"])
    notched = fin({}, on_web("UB 254x146x31", "UB 356x171x51", 7.4, (355.0 - 251.4) / 2))
    assert any("web, end" in f.part for f in notched["edge-least"])  # the notch is a free edge


def test_spacing() -> None:
    # p1 >= 2.2 d0 = 48.4, p2 >= 2.4 d0 = 52.8
    found = fin({"pitch": (45.0, 45.0), "gauge": (50.0,)})["spacing-least"]
    assert part(found, "fin plate, in line").actual == 45 and part(found, "fin plate, in line").required == pytest.approx(48.4)
    assert part(found, "fin plate, across").actual == 50 and part(found, "fin plate, across").required == pytest.approx(52.8)
    # AISC J3.4: 2 2/3 d = 53.3 for M20
    assert part(fin({"pitch": (50.0,)}, house=AISC)["spacing-least"], "fin plate, in line").required == pytest.approx(160 / 3)
    # greatest: min(14 t, 200) with the thinner outer ply, the web of 6.0: 84
    wide = part(fin({"pitch": (100.0,)})["spacing-greatest"], "in line")
    assert (wide.level, wide.required) == ("breach", pytest.approx(84))


def test_staggered_rows() -> None:
    # EN note 5: L >= 2.4 d0 = 52.8 between the two nearest; 30 along and 40 across make 50
    case = on_flange()
    d = family("fin-plate").detail(case, {"pitch": (70.0, 70.0)}, HOUSE)
    points = ((50.0, 0.0, 30.0), (90.0, 0.0, 0.0))
    plate = msgspec.structs.replace(d.plates[0], holes=tuple(Hole(p[0], p[2], 22, 22) for p in points), outline=Outline.rectangle(0, -110, 130, 110))
    moved = msgspec.structs.replace(d, plates=(plate,), bolts=(msgspec.structs.replace(d.bolts[0], points=points),), holes=())
    staggered = part(findings(case, moved)["spacing-least"], "fin plate, staggered")
    assert staggered.actual == pytest.approx(50) and staggered.required == pytest.approx(52.8) and staggered.level == "breach"


def test_house_factor_governs_where_stricter_and_says_so() -> None:
    f = part(fin({}, house=HouseRules(end_factor=2.5))["edge-least"], "fin plate, end")
    assert f.required == 50 and f.level == "breach" and f.clause.startswith("house rule")
    assert part(fin({}, house=HouseRules(end_factor=1.0))["edge-least"], "fin plate, end").required == pytest.approx(26.4)
    assert part(fin({}, house=HouseRules(spacing_factor=4))["spacing-least"], "in line").required == 80


def test_bolts_through_air_and_without_holes() -> None:
    case = on_flange()
    d = family("fin-plate").detail(case, {}, HOUSE)
    away = msgspec.structs.replace(d.bolts[0], points=((50.0, 0.0, 300.0),))
    assert findings(case, msgspec.structs.replace(d, bolts=(away,)))["bolt-plies"][0].level == "breach"
    blind = msgspec.structs.replace(d, plates=(msgspec.structs.replace(d.plates[0], holes=()),))
    hole = findings(case, blind)["bolt-hole"][0]
    assert hole.level == "breach" and "no hole" in hole.message
    apart = msgspec.structs.replace(d, plates=(msgspec.structs.replace(d.plates[0], frame=Frame((0.0, -8.0, 0.0), (1.0, 0.0, 0.0), (0.0, -1.0, 0.0))),))
    assert findings(case, apart)["ply-gap"][0].actual == pytest.approx(5)


def test_bolt_length_to_grip() -> None:
    # grip 10 + 6 = 16; least 16 + 3 + 18 + 2.5 = 39.5
    f = fin({"bolt_length": 35.0})["bolt-length"][0]
    assert (f.level, f.actual, f.required) == ("breach", 35, pytest.approx(39.5))
    # a 100 long M20 has 100 - 46 = 54 of plain shank, but only 16 + 3 = 19 of grip and washer, and a thread of 2.5 must stay clear under the nut
    f = fin({"bolt_length": 100.0})["bolt-shank"][0]
    assert (f.level, f.actual, f.required) == ("breach", 54, pytest.approx(16.5)) and "8.2.2" in f.clause
    assert fin({"bolt_length": 100.0}, house=AISC)["bolt-shank"][0].required == pytest.approx(19)
    assert fin({"sides": "both sides"})["bolt-length"][0].actual == 50  # grip 26, least 49.5


def test_room_to_tighten_looks_at_real_steel() -> None:
    # first row 40 below the top of UB 305x165x40: the flange's inner face is 40 - 10.2 = 29.8 away; an M20 socket needs 31.8
    f = fin({"row_place": "from the top", "top_distance": 40.0, "pitch": (70.0,)})["bolt-room"][0]
    assert f.level == "note" and f.actual == pytest.approx(29.8) and f.required == pytest.approx(31.8)


def test_fillets_en() -> None:
    # leg 4: throat 4 / sqrt 2 = 2.83 < 3; its ends are not returned: 220 - 2 x 2.83 = 214.3 count, at least max(30, 6 x 2.83)
    found = fin({"weld_leg": 4.0})
    assert found["fillet-throat"][0].actual == pytest.approx(4 / math.sqrt(2)) and found["fillet-throat"][0].level == "breach"
    assert [f.actual for f in found["fillet-length"]] == [pytest.approx(220 - 2 * 4 / math.sqrt(2))] * 2
    assert [f.actual for f in fin({"weld_leg": 4.0}, house=AISC)["fillet-length"]] == [pytest.approx(220)] * 2
    thin = part(fin({"plate_thickness": 3.0})["weld-part"], "fillet")
    assert thin.actual == 3 and thin.required == 4 and thin.level == "breach"


def test_short_fillet() -> None:
    # one row: the plate is 2 x 30 = 60 high; leg 16: throat 11.3, 60 - 2 x 11.3 = 37.4 count, 6 a = 67.9
    f = fin({"pitch": (), "end_distance": 30.0, "weld_leg": 16.0})["fillet-length"][0]
    assert f.level == "breach" and f.actual == pytest.approx(60 - 2 * 16 / math.sqrt(2)) and f.required == pytest.approx(6 * 16 / math.sqrt(2))


def test_fillets_aisc() -> None:
    # in inches: plate 3/8 in, web 0.3 in and more: least leg 3/16 in = 4.76 (table J2.4); in millimetres 5 for parts over 6 (J2.4M)
    f = fin({"weld_leg": 3.5}, house=INCH)["fillet-leg-least"][0]
    assert f.required == pytest.approx(4.7625) and f.level == "breach" and f.clause.endswith("J2.4")
    f = fin({"weld_leg": 4.0}, house=AISC)["fillet-leg-least"][0]
    assert f.required == pytest.approx(5.0) and f.level == "breach" and f.clause.endswith("J2.4M")
    # J2.4M by the thinner part: 6 -> 3, 13 -> 5, 19 -> 6, over -> 8
    rules = rules_of(AISC)
    assert [rules.fillet_least(t)[1].value for t in (6.0, 6.1, 13.0, 13.1, 19.0, 19.1, 40.0)] == [3, 5, 5, 6, 6, 8, 8]
    assert [rules_of(INCH).fillet_least(25.4 * t)[1].value for t in (0.25, 0.5, 0.75, 1.0)] == pytest.approx([25.4 * v for v in (1 / 8, 3 / 16, 1 / 4, 5 / 16)])


def test_metric_aisc_knows_no_converted_inches() -> None:
    metric, inch = rules_of(AISC), rules_of(INCH)
    assert metric.edge_greatest(20).value == 150 and inch.edge_greatest(20).value == pytest.approx(6 * 25.4)
    assert metric.spacing_greatest(20).value == 300 and inch.spacing_greatest(20).value == pytest.approx(12 * 25.4)
    assert metric.fillet_along_edge(5).value == 5 and metric.fillet_along_edge(6).value == 4  # type: ignore[union-attr]
    assert rules_of(HouseRules(rule_set="AISC", units="m")) is metric and rules_of(HouseRules(rule_set="AISC", units="in")) is inch


def test_aisc_findings_cite_american_texts_only_and_say_what_holes_ask_for() -> None:
    for house in (AISC, INCH):
        clauses = {f.clause for typed in ({}, {"hole": "oversize"}, {"hole": "short slot"}, {"hole": "long slot"}) for group in fin(typed, house=house).values() for f in group}
        clauses |= {f.clause for group in base({}, house).values() for f in group}
        assert not [c for c in clauses if "EN " in c], clauses
    found = fin({"hole": "oversize"}, house=AISC)["hole-use"]
    assert found[0].level == "note" and "slip-critical" in found[0].message and "J3.2" in found[0].clause
    assert "plate washer" in fin({"hole": "long slot"}, house=AISC)["hole-use"][0].message and "hole-use" not in fin({}, house=AISC)


def test_slots_are_measured_from_the_centre_of_their_end_radius() -> None:
    # M20 short slot 22 x 26 lying across the plate's free edge: its end radius is centred (26 - 22) / 2 = 2 nearer to the edge than its middle
    plain, slotted = (part(fin({"edge_distance": 40.0, "hole": kind})["edge-least"], "fin plate, edge") for kind in ("normal", "short slot"))
    assert slotted.actual == pytest.approx(plain.actual - 2) and slotted.required == pytest.approx(33)
    # under AISC the distance is the hole's, and C2 is added instead
    assert part(fin({"edge_distance": 40.0, "hole": "short slot"}, house=AISC)["edge-least"], "fin plate, edge").actual == pytest.approx(plain.actual)


def test_greatest_distances_go_by_the_thinner_outer_ply() -> None:
    # a plate of 10 on a web of 6.0: 4 x 6.0 + 40 = 64 for the plate too
    assert part(fin({})["edge-greatest"], "fin plate, edge").required == pytest.approx(64)
    assert part(fin({}, house=AISC)["edge-greatest"], "fin plate, edge").required == pytest.approx(120)  # 12 x 10, its own


def test_greatest_leg_along_an_edge() -> None:
    """AISC J2.2b on a lap: a 10 mm plate lying on another, its long edge welded with 9 mm: 10 - 2 = 8; in inches 10 - 1.59 = 8.41."""
    lower = Plate("lower", Outline.rectangle(0, 0, 300, 200), 12.0, Frame(), "S275")
    upper = Plate("upper", Outline.rectangle(50, 0, 250, 100), 10.0, Frame((0.0, 0.0, 12.0)), "S275")
    weld = Weld("lap", 9.0, (50.0, 100.0, 12.0), (250.0, 100.0, 12.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0), ("lower", "upper"))
    detail = Detail("lap", (lower, upper), (), (weld,))
    case = Case("column foot", foot().members)
    f = findings(case, detail, AISC)["fillet-leg-greatest"][0]
    assert f.required == pytest.approx(8) and f.level == "breach"
    assert findings(case, detail, INCH)["fillet-leg-greatest"][0].required == pytest.approx(10 - 1.5875)
    assert "fillet-leg-greatest" not in findings(case, detail, HOUSE)  # EN sets no such limit


def test_a_weld_off_its_part_is_a_breach() -> None:
    case = on_flange()
    d = family("fin-plate").detail(case, {}, HOUSE)
    off = tuple(msgspec.structs.replace(w, start=(5.0, w.start[1], w.start[2]), end=(5.0, w.end[1], w.end[2])) for w in d.welds)
    f = findings(case, msgspec.structs.replace(d, welds=off))["weld-gap"]
    assert max(x.actual for x in f) == pytest.approx(5) and any(x.level == "breach" for x in f)


def test_fusion_angle_of_a_skewed_fillet() -> None:
    case = on_flange()
    d = family("fin-plate").detail(case, {}, HOUSE)
    c, s = math.cos(math.radians(50)), math.sin(math.radians(50))
    tilted = msgspec.structs.replace(d.welds[0], v=(s, c * np.sign(d.welds[0].u[1]), 0.0))
    found = findings(case, msgspec.structs.replace(d, welds=(tilted,)))
    assert found["fusion-angle"][0].actual == pytest.approx(50) and found["fusion-angle"][0].level == "breach"


def test_runs_round_a_flange_count_as_one_length() -> None:
    # UC 203x203x46: outer face 203.6, two tips of 11, two inner faces of (203.6 - 7.2) / 2 - 10.2 = 88
    lengths = sorted(round(f.actual, 1) for f in base({})["fillet-length"])
    # less two throats, for the run ends at the web
    throats = 2 * max(f.required / 6 for f in base({})["fillet-length"])
    assert lengths[-1] == pytest.approx(203.6 + 2 * 11 + 2 * 88 - throats, abs=0.3)


def test_plates_against_house_rules() -> None:
    found = fin({"plate_thickness": 9.0, "plate_width": 93.0})
    assert found["plate-stock"][0].level == "breach" and found["plate-stock"][0].required == 10
    assert part(found["plate-step"], "plate width").level == "note" and part(found["plate-step"], "plate width").required == 95
    assert fin({"plate_thickness": 12.0})["plate-stock"][0].level == "clear"


def test_anchor_rods() -> None:
    # rods 400 apart on a 360 plate do not fit; 300 apart leaves 30 to the edge, 1.2 x 30 = 36 asked
    assert base({"projection": 75.0, "anchors_x": (300.0,)})["rod-edge"][0].actual == pytest.approx(30)
    assert base({"projection": 75.0, "anchors_x": (300.0,)})["rod-edge"][0].level == "breach"
    # practice 4 d = 96: three lines 80 apart
    assert base({"anchors_x": (135.0, 135.0), "anchors_y": (80.0, 80.0)})["rod-spacing"][0].actual == pytest.approx(80)
    # rod 30 above the plate: 30 - 8 - 21.5 = 0.5 past the nut, a pitch of 3 asked
    assert base({"rod_projection": 30.0})["rod-thread"][0].actual == pytest.approx(0.5)
    assert base({"hole_size": 22.0})["rod-hole"][0].level == "breach"
    # the washer is square: 40 off the flange's corner along x and 40 - 7 off its tip's weld across, the larger of both counts, not 51.9 aslant
    corner = base({"anchors_x": (2 * (101.6 + 40),), "anchors_y": (2 * (101.8 + 40),)})["rod-clear"][0]
    assert corner.actual == pytest.approx(40)
    # lines 230 apart stand at 115: 13.4 from the flange face at 101.6, 6.4 from its weld of 7 (0.6 x 11), but the washer is 70 square
    clear = base({"anchors_x": (230.0,), "anchors_y": (100.0,)})["rod-clear"][0]
    assert clear.actual == pytest.approx(115 - 101.6 - 7) and clear.required == 35 and clear.level == "breach"


def test_every_rule_is_reported_clear_or_not() -> None:
    assert {r.name for r in RULES} == {"edges", "spacing", "fit", "filled", "fillets", "plates", "bends", "bevels", "rods", "ties", "held", "studs", "plugs", "timber", "entry", "room", "way-in", "clashes", "alterations"}
    assert all(f.level == "clear" for group in fin({}).values() for f in group)


def test_defaults_that_go_with_units_and_rules() -> None:
    feet = inch_house("")
    assert along(HouseRules()) == () and along(feet) == ()
    # inches alone change stock and steps, the rule set alone the grades and the bends; bolts stay metric as EN has no inch sizes
    inches = {a.field for a in along(HouseRules(units="in"))}
    assert inches == {"plates", "flats", "rounding", "notch_clearance", "notch_radius", "weld_gap", "bars"}
    assert {a.field: a.then for a in along(HouseRules(rule_set="AISC"))} == {"plate_grade": "A36", "bolt_grade": "Group 120", "anchor_grade": "F1554-36", "bend_least": 1.5, "weld_symbols": "AWS A2.4"}
    both = HouseRules(units="ft-in", rule_set="AISC", bolt="M24")
    assert {a.field for a in along(both) if a.own} == {"bolt"}
    assert msgspec.structs.replace(both, title="", **{a.field: a.then for a in along(both)}) == feet
    back = msgspec.structs.replace(feet, units="mm", rule_set="EN")
    assert msgspec.convert({**msgspec.to_builtins(back), **brought(back)}, HouseRules) == HouseRules(title="")
    # every size an office in feet and inches starts with is a whole number of 1/16 in
    sizes = [*feet.plates, *feet.flats, *feet.bars.values(), *(r.step for r in feet.rounding.values()), feet.notch_clearance, feet.notch_radius, feet.weld_gap]
    assert all(abs(v / 1.5875 - round(v / 1.5875)) < 1e-9 for v in sizes)


def test_a_script_brings_the_defaults_along(corner: Desk) -> None:
    said = corner.run("set-house-rules", values={"units": "ft-in", "rule_set": "AISC"})
    assert corner.project.house.bolt == "M20" and "14 defaults of other units or rules stay" in said
    corner.undo()
    title = corner.run("set-house-rules", values={"units": "ft-in", "rule_set": "AISC"}, bring=True)
    assert corner.project.house.bolt == "3/4in" and "brought along: plate grade, bolts" in title
    corner.undo()
    assert corner.project.house == HouseRules(title=corner.project.house.title)


def test_a_welded_edge_is_sealed_and_no_free_edge() -> None:
    # 30 mm of setback: 30 + 40 = 70 from the bolts to the welded edge, over 4 t + 40 = 4 x 6 + 40 = 64 (web of 6), yet no water gets in there;
    # the free edge on the other side is 40 away
    (edge,) = [f for f in fin({"setback": 30.0})["edge-greatest"] if f.part == "fin plate, edge"]
    assert edge.level == "clear" and edge.actual == pytest.approx(40) and edge.required == pytest.approx(64)
    (edge,) = [f for f in fin({"setback": 30.0, "edge_distance": 70.0})["edge-greatest"] if f.part == "fin plate, edge"]
    assert edge.level == "breach" and edge.actual == pytest.approx(70)
    # without its welds the same edge is free, and the lap ends there if the beam's web goes on past it
    case = on_flange()
    detail = family("fin-plate").detail(case, family("fin-plate").checked({"setback": 30.0}, HOUSE), HOUSE)
    bare = msgspec.structs.replace(detail, welds=(), ends=())
    # with the beam cut off 40 from the bolts it is the beam's end at which water gets in
    cut = msgspec.structs.replace(detail, welds=())
    assert max(f.actual for f in findings(case, cut)["edge-greatest"] if f.part == "fin plate, edge") == pytest.approx(40)
    assert max(f.actual for f in findings(case, bare)["edge-greatest"] if f.part == "fin plate, edge") == pytest.approx(70)


def test_a_hole_without_a_bolt_is_told() -> None:
    case = on_flange()
    d = family("fin-plate").detail(case, {"pitch": (70.0, 70.0)}, HOUSE)
    assert [f.level for f in findings(case, d)["hole-empty"]] == ["clear"]
    # one bolt of three taken out: one hole of the plate is left; none at all: three
    fewer = msgspec.structs.replace(d.bolts[0], points=d.bolts[0].points[1:])
    (f,) = findings(case, msgspec.structs.replace(d, bolts=(fewer,)))["hole-empty"]
    assert (f.level, f.part, f.actual) == ("breach", "fin plate", 1) and f.where == pytest.approx(d.bolts[0].points[0], abs=10)
    (f,) = findings(case, msgspec.structs.replace(d, bolts=()))["hole-empty"]
    assert f.actual == 3 and f.message == "3 holes in fin plate without a bolt"
    # anchors and vents are no bolts' holes
    assert "hole-empty" not in base({"vents": 2})


def test_bolts_come_in_the_lengths_that_are_stocked() -> None:
    plain = fin({})
    # 16 of plate and web, washer 3, nut 18, pitch 2.5 are 39.5: 40, or the next one in stock
    assert part(plain["bolt-length"], "bolts").actual == 40.0 and "bolt-stock" not in plain
    few = fin({}, house=msgspec.structs.replace(HOUSE, bolt_lengths=(35.0, 60.0, 80.0)))
    assert part(few["bolt-length"], "bolts").actual == 60.0 and "bolt-stock" not in few
    short = fin({}, house=msgspec.structs.replace(HOUSE, bolt_lengths=(30.0,)))
    (told,) = short["bolt-stock"]
    assert part(short["bolt-length"], "bolts").actual == 40.0 and told.level == "note" and "40 long are not in stock" in told.message


def test_more_room_to_tighten_by_house_rule() -> None:
    roomy = msgspec.structs.replace(HOUSE, tighten_room=6.0)
    (one,), (two,) = (fin({}, house=h)["bolt-room"] for h in (HOUSE, roomy))
    assert two.required == pytest.approx(one.required + 6.0) and "house rule: 6 mm more" in two.clause
    # families that keep off by themselves keep further off: an end plate's bolts beside the flange
    case = on_flange()
    near, far = (family("angle-cleats").detail(case, {}, h).number("gauge").value for h in (HOUSE, msgspec.structs.replace(HOUSE, tighten_room=25.0)))
    assert far > near  # type: ignore[operator]


def test_a_spacing_is_shown_between_its_two_bolts() -> None:
    case = on_flange()
    d = family("fin-plate").detail(case, {"pitch": (45.0,)}, HOUSE)
    one = part(findings(case, d)["spacing-least"], "fin plate, in line")
    a, b = (np.array(p) for p in d.bolts[0].points)
    assert one.actual == pytest.approx(45.0) and float(np.linalg.norm((np.array(one.where) - (a + b) / 2)[[0, 2]])) < 1e-6
