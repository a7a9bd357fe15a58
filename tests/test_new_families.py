"""End plates, cleats, gussets, stiffeners and purlin cleats by hand, and what they hang on."""

import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from sites import END, SITES, Site, beam, brace, column, girder, rafter

from tincleat.catalogue.sections import section
from tincleat.commands.desk import Desk
from tincleat.details.parts import Detail
from tincleat.errors import BadValue, NoFit, TinCleatError
from tincleat.families.declare import other_hand
from tincleat.families.registry import FAMILIES, families_for, family
from tincleat.geometry.frames import Frame
from tincleat.geometry.mesh import overlap_volume
from tincleat.ledger.entries import Entry
from tincleat.ledger.steel import worked_of
from tincleat.project.entities import HouseRules, inch_house
from tincleat.project.members import axis_frame
from tincleat.release.bill import bill
from tincleat.steel.body import steel_mesh
from tincleat.steel.cuts import Cuts
from tincleat.steel.likes import TURNS


def joined(path: Path, members: list[dict[str, Any]], family: str, at: str, inch: bool = False, **typed: Any) -> tuple[Desk, Entry]:
    """Members M1, M2 … in a fresh project with one connection."""
    path.mkdir(parents=True, exist_ok=True)
    desk = Desk.create(path / "p.tincleat", inch_house("") if inch else HouseRules(), True)
    desk.run("add-members", members=[{**m, "name": f"M{i}"} for i, m in enumerate(members, 1)])
    desk.run("place-connection", family=family, at=at.split(" and "), settings=typed)
    return desk, desk.ledger.entry_of(list(desk.project.connections)[-1])


def made(entry: Entry) -> Detail:
    assert entry.made is not None, entry.problem
    return entry.made.detail


def breaches(entry: Entry) -> set[str]:
    return {f.rule for f in entry.findings if f.level == "breach"}


def test_flush_end_plate_by_hand(tmp_path: Path) -> None:
    _, e = joined(tmp_path, [column("HEB 300"), beam("IPE 300")], "end-plate", "M2.end")
    d = made(e)
    plate = d.plates[0]
    # IPE 300: b 150, tf 10.7, tw 7.1, r 15; HEB 300: tw 11, r 27.  Width 150 + 20; gauge clear of the column's root and an M20 washer of 37:
    # 2 x (5.5 + 27 + 18.5) = 102, up to 105
    assert plate.outline.bounds[2] - plate.outline.bounds[0] == pytest.approx(170) and d.number("gauge").value == 105
    # flange weld 0.7 x 10.7 = 7.49, up to 8; past the flanges 1.3 x 8 + 5 = 15.4, up to 20: 300 + 40
    assert d.number("flange_weld").value == 8 and plate.outline.bounds[3] - plate.outline.bounds[1] == pytest.approx(340)
    # first row: flange 10.7 + weld 8 + half a washer 18.5 + 10 = 47.2, up to 50; between the rows 300 - 2 x 50 = 200, no more than 144 apart: 2 x 100
    assert sorted({round(h.y, 6) for h in plate.holes}) == [-100, 0, 100]
    # as thick as the bolt; the beam is cut back by it
    assert plate.thickness == 20 and d.ends[0].point[0] == pytest.approx(20, abs=0.01) and not breaches(e)


def test_a_partial_depth_end_plate_by_hand(tmp_path: Path) -> None:
    _, e = joined(tmp_path, [column("HEB 300"), beam("IPE 300")], "end-plate", "M2.end", shape="partial depth")
    # straight web 300 - 2 x (10.7 + 15) = 248.6; less two end distances of 40 leaves 168.6: two gaps of 70, three rows about the middle
    d = made(e)
    assert d.number("end_distance").value == 40
    assert sorted({round(h.y, 6) for h in d.plates[0].holes}) == [-70, 0, 70]
    bounds = d.plates[0].outline.bounds
    assert bounds[3] - bounds[1] == pytest.approx(220) and not breaches(e)
    # IPE 360: 360 - 2 x (12.7 + 18) - 80 = 218.6: three gaps of 70
    _, e = joined(tmp_path / "deeper", [column("HEB 300"), beam("IPE 360")], "end-plate", "M2.end", shape="partial depth")
    assert sorted({round(h.y, 6) for h in made(e).plates[0].holes}) == [-105, -35, 35, 105]


def test_an_extended_end_plate_has_a_row_past_each_flange(tmp_path: Path) -> None:
    _, e = joined(tmp_path, [column("HEB 300"), beam("IPE 300")], "end-plate", "M2.end", shape="past both flanges")
    # past: weld 8 + half a washer 18.5 + 5 = 31.5 and the socket's 31.8, up to 35: rows at 150 + 35; the plate ends 40 further on
    d = made(e)
    assert max(h.y for h in d.plates[0].holes) == pytest.approx(185) and d.plates[0].outline.bounds[3] == pytest.approx(225)
    with pytest.raises(TinCleatError, match="joint is a beam to hollow"):
        joined(tmp_path / "x", [column("SHS 200x200x8"), beam("IPE 300")], "end-plate", "M2.end")


def test_a_knee_has_a_haunch_a_cap_and_a_stiffener(tmp_path: Path) -> None:
    _, e = joined(tmp_path, [column("UB 406x178x60"), rafter("UB 356x171x45", 17)], "end-plate", "M2.start")
    d = made(e)
    names = {p.name for p in d.plates}
    assert {"end plate", "haunch web", "haunch flange", "cap plate", "column stiffener 1 near", "column stiffener 1 far"} <= names
    # the column ends under its cap: at the top of the plate
    cap = next(p for p in d.plates if p.name == "cap plate")
    (end,) = (c for c in d.ends if c.member == 1)
    assert end.point == pytest.approx(cap.frame.origin) and not breaches(e)
    assert made(joined(tmp_path / "s", [column("UB 406x178x60"), rafter("UB 356x171x45", 17)], "end-plate", "M2.start", haunch_depth=0.0)[1]).plates[1].name != "haunch web"


def test_haunches_and_gussets_land_by_rounding_rules_of_their_own(tmp_path: Path) -> None:
    """A rafter 351.4 deep has a haunch of 350, 3 x 350 = 1050 long; in steps of 40 up 360 deep, and of 3 x 360 = 1080, up to 1100, in steps of 400 it is 1200."""
    desk, e = joined(tmp_path, [column("UB 406x178x60"), rafter("UB 356x171x45", 17)], "end-plate", "M2.start")
    assert made(e).number("haunch_depth").value == 350 and made(e).number("haunch_length").value == 1050
    desk.run("set-house-rules", values={"rounding/haunch depth": "40 up", "rounding/haunch length": "400 up"})
    assert e.connection is not None
    d = made(desk.ledger.entry_of(e.connection.id))
    assert d.number("haunch_depth").value == 360 and d.number("haunch_length").value == 1200
    assert made(joined(tmp_path / "t", [column("UB 406x178x60"), rafter("UB 356x171x45", 17)], "end-plate", "M2.start", haunch_depth=333.0)[1]).number("haunch_depth").value == 333
    # a gusset between column and beam: along the beam 100 up, along the column 90 up
    some = [column("HEB 200"), {"section": "IPE 300", "role": "beam", "start": [0, 0, 3000], "end": [5000, 0, 3000]}, {"section": "L 100x100x10", "role": "brace", "start": [0, 0, 3000], "end": [4000, 0, 6000]}]
    desk, e = joined(tmp_path / "g", some, "bracing-gusset", "M3.start")
    desk.run("set-house-rules", values={"rounding/gusset length": "100 up", "rounding/gusset width": "90 up"})
    assert e.connection is not None
    gusset = next(p for p in made(desk.ledger.entry_of(e.connection.id)).plates if p.name == "gusset")
    low, high = (np.array(v) for v in zip(*[(min(c), max(c)) for c in np.array([gusset.frame.turn((x, y, 0.0)) for x, y, _ in gusset.outline.vertices]).T], strict=True))
    extents = high - low
    assert extents[0] % 100 == pytest.approx(0, abs=1e-6) or extents[0] % 100 == pytest.approx(100, abs=1e-6)
    assert extents[2] % 90 == pytest.approx(0, abs=1e-6) or extents[2] % 90 == pytest.approx(90, abs=1e-6)


def test_double_cleats_by_hand(tmp_path: Path) -> None:
    _, e = joined(tmp_path, [column("HEB 300"), beam("IPE 300")], "angle-cleats", "M2.end")
    d = made(e)
    # clear web 300 / 2 - 10.7 - 15 = 124.3 either way; 2 x 124.3 - 2 x 40 = 168.6 holds 2 x 70: three rows, cleats 140 + 80
    near, far = d.pieces
    assert near.length == far.length == pytest.approx(220)
    # gauge: setback 10 + 1.5 x 20 = 40, but the leg's 10 and the socket's 31.8 = 41.8, up to 45
    assert d.number("gauge").value == 45 and {round(p[0], 2) for p in d.bolts[0].points} == {45.0}
    assert {round(p[1], 2) for p in d.bolts[1].points} == {-70.0, 70.0}
    # each cleat: 220 of the section less six holes of 22 through 10
    shape = near.shape
    assert near.volume == pytest.approx(220 * shape.area - 6 * math.pi * 11**2 * 10, rel=1e-6)
    assert not breaches(e)
    with pytest.raises(TinCleatError, match=r"10\.0° off square in plan"):
        joined(tmp_path / "x", [column("HEB 300"), beam("IPE 300", 10)], "angle-cleats", "M2.end")


def test_two_beams_on_one_web_share_the_bolts_through_it(tmp_path: Path) -> None:
    members = [girder("UB 457x191x67"), beam("UB 305x165x40", 90, 0, 75), beam("UB 203x133x25", -90, 0, 125)]
    desk, e = joined(tmp_path, members, "angle-cleats", "M2.end and M3.end")
    d = made(e)
    assert len(e.joint.ends) == 2 and len(d.pieces) == 4 and len(desk.project.connections) == 1
    through = [f for f in e.made.assembled.fitted if d.bolts[f.group].name == "bolts in the support"]  # type: ignore[union-attr]
    # cleat 10, web 8.5, cleat 10
    assert through and all(len(f.plies) == 3 and f.grip == pytest.approx(28.5) for f in through)
    # one of them goes: what is left is a connection of the other
    desk.run("delete-members", ids=["M2"])
    (c,) = desk.project.connections.values()
    left = desk.ledger.entry_of(c.id)
    assert c.ends == (("m3", "end"),) and len(made(left).pieces) == 2
    desk.undo()
    assert len(made(desk.ledger.entry_of(c.id)).pieces) == 4


def test_a_slotted_tube_by_hand(tmp_path: Path) -> None:
    _, e = joined(tmp_path, [column("UC 203x203x46"), brace("CHS 88.9x5", 45)], "bracing-gusset", "M2.start")
    d = made(e)
    # over the plate by 1.2 x 88.9 = 106.7, up to 110; the slot 5 longer and 2 wider than the plate
    assert d.number("overlap").value == 110
    u = np.array([v[:2] for v in d.notches[0].outline.vertices])
    assert u[:, 1].max() - u[:, 1].min() == pytest.approx(12, abs=0.1)
    # four fillets of that length, 0.9 x 5 = 4.5 but 5 at least
    slot = [w for w in d.welds if "slot" in w.name]
    assert len(slot) == 4 and all(math.dist(w.start, w.end) == pytest.approx(110) and w.leg == 5 for w in slot) and not breaches(e)
    # the tube ends clear of the column by 25 all across its breadth: nearest corner of its end
    assert e.made is not None
    tube, post = (e.made.assembled.member_mesh(i, -600, 600, 6) for i in (0, 1))
    assert 25.0 <= tube.points[:, 0].min() - post.points[:, 0].max() < 45.0 or tube.points[:, 0].min() < 0


def test_an_angle_lies_on_its_plate(tmp_path: Path) -> None:
    for roll in (0.0, 90.0, 180.0, 270.0):
        _, e = joined(tmp_path / f"{roll:g}", [column("UC 203x203x46"), brace("L 80x80x8", 45, roll=roll)], "bracing-gusset", "M2.start")
        # leg 8 on a plate of 10, whatever way the angle lies
        assert all(f.grip == pytest.approx(18) and len(f.plies) == 2 and f.gap == pytest.approx(0, abs=0.02) for f in e.made.assembled.fitted)  # type: ignore[union-attr]
    # gauge 0.55 x 80 = 44, down to 40
    assert abs(made(e).number("edge").value) >= 26.4 and not breaches(e)


def test_one_gusset_for_two_braces_outlives_one_of_them(tmp_path: Path) -> None:
    members = [girder("UB 305x165x40"), brace("CHS 88.9x5", -45), brace("CHS 88.9x5", -45, side=-1.0)]
    desk, e = joined(tmp_path, members, "bracing-gusset", "M2.start and M3.start")
    assert len(made(e).plates) == 1 and len(made(e).notches) == 2 and set(e.joint.ends) == {("m2", "start"), ("m3", "start")}
    assert desk.ledger.counts()["joints"] == 5  # both ends of the girder, two free ends and the node
    desk.run("delete-members", ids=["M2"])
    (c,) = desk.project.connections.values()
    assert len(made(desk.ledger.entry_of(c.id)).notches) == 1
    again = Desk.open(desk.store.path)
    assert len(made(again.ledger.entry_of(c.id)).notches) == 1


def test_stiffeners_by_hand(tmp_path: Path) -> None:
    _, e = joined(tmp_path, [girder("IPE 300")], "stiffeners", "M1@2500")
    d = made(e)
    # (150 - 7.1) / 2 = 71.45, down to 70 of flat stock; snipe 15 + 5; from flange to flange 300 - 2 x 10.7 = 278.6
    near = d.plates[0]
    assert len(d.plates) == 2 and near.volume == pytest.approx(10 * (70 * 278.6 - 2 * 20 * 20 / 2))
    assert {w.leg for w in d.welds} == {5} and len(d.welds) == 12 and not breaches(e)
    with pytest.raises(TinCleatError, match="no place m1@9000"):
        joined(tmp_path / "x", [girder("IPE 300")], "stiffeners", "M1@9000")
    with pytest.raises(TinCleatError, match="leaves nothing"):
        joined(tmp_path / "y", [girder("IPE 300")], "stiffeners", "M1@2500", snipe=120.0)


def test_a_purlin_cleat_by_hand(tmp_path: Path) -> None:
    site = next(s for s in SITES if s.name == "purlins PFC 150x75x18 meet 0")
    _, e = joined(tmp_path, site.members, "purlin-cleat", "M2.end")
    d = made(e)
    (piece,) = d.pieces
    # M16 in holes of 18: edge 1.6 x 16 = 25.6, up to 30; gap 10: bolts at 5 + 30 either side, the cleat 70 + 60
    assert piece.length == 130 and {round(p[0], 2) for p in d.bolts[0].points} == {-35.0, 35.0}
    assert {c.point[0] for c in d.ends} == {-5.0, 5.0} and len(e.made.assembled.fitted) == 4 and not breaches(e)  # type: ignore[union-attr]
    # it stands on the rafter's flange, against the back of the web
    assert piece.frame.to_world([(0.0, -37.5, -75.0)])[0][2] == pytest.approx(0, abs=1e-6)


def test_an_end_is_left_plain_by_hand_or_by_rule(tmp_path: Path) -> None:
    desk, e = joined(tmp_path, [column("HEB 300"), beam("IPE 300")], "left-plain", "M1.end")
    assert e.settled and e.left_plain and e.state == "plain" and not made(e).plates
    counts = desk.ledger.counts()
    assert counts["plain"] == 1 and counts["joined"] == 1
    desk.run("delete-connections", ids=[e.connection.id])  # type: ignore[union-attr]
    assert desk.ledger.counts()["joined"] == 0
    desk.run("set-house-rules", values={"plain": ["column head"]})
    assert desk.ledger.counts()["plain"] == 1 and desk.ledger.entries["m1.end"].state == "plain"
    desk.undo()
    assert desk.ledger.counts()["plain"] == 0


def test_what_fits_a_place_is_known_by_its_kind() -> None:
    assert [f.name for f in families_for("station")] == ["stiffeners", "web-opening", "turnbuckle"] and [f.name for f in families_for("along")] == ["edge-angle", "loose"] and "purlin-cleat" in {f.name for f in families_for("crossing")}
    assert {f.name for f in families_for("beam to beam web")} == {"fin-plate", "angle-cleats", "end-plate", "seat-cleat", "tube-end-plate", "stringer-head", "timber-seat", "trimmer-cleat", "left-plain"}
    assert [f.name for f in families_for("column head")] == ["cap-plate", "slab-head", "left-plain"] and [f.name for f in families_for("column splice")] == ["splice-covers", "welded-splice", "flange-plates", "tube-sleeve", "cap-and-base", "left-plain"]
    assert list(FAMILIES)[-1] == "left-plain"


def test_connections_beside_each_other_are_seen(tmp_path: Path) -> None:
    members = [girder("UB 457x191x67"), beam("UB 305x165x40", 90, 0, 75), beam("UB 305x165x40", -90, 0, 75)]
    desk, first = joined(tmp_path, members, "end-plate", "M2.end")
    assert "clash" not in breaches(first)
    desk.run("place-connection", family="end-plate", at=["M3.end"])
    # the later one tells of it: its bolts stand in the holes of the other's
    second = desk.ledger.entry_of(list(desk.project.connections)[-1])
    assert "clash" in breaches(second) and any("beside it" in f.part for f in second.findings)
    desk.run("delete-connections", ids=[first.connection.id])  # type: ignore[union-attr]
    second = desk.ledger.entry_of(list(desk.project.connections)[-1])
    assert "clash" not in breaches(second)


def test_holes_of_two_connections_in_one_web_are_measured(tmp_path: Path) -> None:
    shifted = beam("UB 305x165x40", -90, 0, 75)
    for x, level in ((30.0, "breach"), (60.0, "breach"), (145.0, "clear")):
        other = {**shifted, "start": [x, *shifted["start"][1:]], "end": [x, *shifted["end"][1:]]}
        desk, first = joined(tmp_path / f"{x}", [girder("UB 457x191x67"), beam("UB 305x165x40", 90, 0, 75), other], "end-plate", "M2.end")
        assert made(first).number("gauge").value == 90
        desk.run("place-connection", family="end-plate", at=["M3.end"])
        second = desk.ledger.entry_of(list(desk.project.connections)[-1])
        (found,) = [f for f in second.findings if f.rule == "spacing-beside"]
        # holes at 45 either side of 0 and of x, in rows of one height: the nearest are x, or 90 - x, or x - 90 apart; across the load 2.4 x 22 = 52.8
        assert found.actual == pytest.approx(min(x, abs(x - 90))) and found.required == pytest.approx(52.8) and found.level == level


def test_holes_near_what_another_connection_cuts_are_measured(tmp_path: Path) -> None:
    # a girder notched at its end; a beam beside that end lands on the girder's web, though the girder's end is near
    main = {"section": "UB 610x229x101", "role": "beam", "start": [0, -4000, 3000], "end": [0, 4000, 3000]}
    carried = {"section": "UB 457x191x67", "role": "beam", "start": [0, 0, 3074], "end": [6000, 0, 3074]}
    third = {"section": "UB 254x146x31", "role": "beam", "start": [165, 0, 3170], "end": [165, 4000, 3170]}
    desk, first = joined(tmp_path, [main, carried, third], "fin-plate", "M2.start")
    assert made(first).notches
    desk.run("place-connection", family="end-plate", at=["M3.start"])
    second = desk.ledger.entry_of(list(desk.project.connections)[-1])
    assert second.joint.support == second.joint.members[1] and second.joint.kind == "beam to beam web"
    (found,) = [f for f in second.findings if f.rule == "edge-beside"]
    # from the main web's face (5.25) the notch reaches 120 with a corner of 10 and lies 50 below the girder's top, 3074 + 226.7 - 50 = 3250.7:
    # the corner's centre is at 115.25, 3260.7; the upper hole at 165 - 45 = 120, 3170 + 23.3 = 3193.3: sqrt(4.75² + 67.4²) - 10 = 57.57
    assert found.actual == pytest.approx(math.hypot(4.75, 67.4) - 10, abs=0.02) and found.required == pytest.approx(1.2 * 22) and found.level == "clear"


def test_clash_reads_the_bodies(tmp_path: Path) -> None:
    # without its notch the beam's flange stands in the girder's: the rule's figure is the volume the solids share
    desk, e = joined(tmp_path, [girder("UB 457x191x67"), beam("UB 305x165x40", 90, 0, 75)], "fin-plate", "M2.end", notch="never")
    worst = max((f for f in e.findings if f.rule == "clash"), key=lambda f: f.actual)
    assert e.made is not None
    a, b = (e.made.assembled.member_mesh(n, -600, 600, 4) for n in (0, 1))
    assert worst.level == "breach" and worst.actual == pytest.approx(overlap_volume(a, b), rel=1e-6) and worst.actual > 1000
    desk.run("set-house-rules", values={"clash_volume": worst.actual + 1})
    assert "clash" not in breaches(desk.ledger.entry_of(e.connection.id))  # type: ignore[union-attr]


def test_title_north_and_unit_of_display_make_nothing_anew(tmp_path: Path) -> None:
    desk, _ = joined(tmp_path, [column("HEB 300"), beam("IPE 300")], "fin-plate", "M2.end")
    built, entries = desk.ledger.workshop.built, dict(desk.ledger.entries)
    desk.run("set-house-rules", values={"title": "Other", "north_deg": 12.0, "units": "m"})
    assert desk.ledger.workshop.built == built and all(desk.ledger.entries[k] is v for k, v in entries.items())
    desk.run("set-house-rules", values={"notch_radius": 15.0})
    assert desk.ledger.workshop.built > built


@pytest.mark.parametrize("lean", [0.0, 0.5, 0.7, 1.0, 30.0, 800.0])
@pytest.mark.parametrize("way", [(1, 0), (0, 1), (-1, 1)])
def test_a_column_that_leans_keeps_its_axes(tmp_path: Path, lean: float, way: tuple[int, int]) -> None:
    desk = Desk.create(tmp_path / "l.tincleat")
    desk.run("add-members", members=[{"section": "HEB 300", "role": "column", "start": [0, 0, 0], "end": [way[0] * lean, way[1] * lean, 6000]}])
    (m,) = desk.project.members.values()
    # its depth lies along x as far as its lean lets it
    assert axis_frame(m).z[0] > 0.98 and abs(axis_frame(m).z[1]) < 0.02


def test_three_beams_at_one_point_each_have_a_joint(tmp_path: Path) -> None:
    desk = Desk.create(tmp_path / "t.tincleat")
    desk.run("add-members", members=[{"section": "IPE 200", "role": "beam", "start": [0, 0, 3000], "end": [4000 * math.cos(a), 4000 * math.sin(a), 3000]} for a in (0.0, 2.2, 4.1)])
    assert set(desk.ledger.by_end) == {(m, e) for m in desk.project.members for e in ("start", "end")}
    assert all(end in desk.ledger.entries[key].joint.ends for end, key in desk.ledger.by_end.items())


def test_splices_are_kin_whichever_way_they_were_drawn(tmp_path: Path) -> None:
    desk = Desk.create(tmp_path / "k.tincleat")
    pieces = [("IPE 300", -4000, 0), ("IPE 240", 0, 4000)]
    for y, order in ((0, (0, 1)), (5000, (1, 0))):
        desk.run("add-members", members=[{"section": pieces[i][0], "role": "beam", "start": [pieces[i][1], y, 3000], "end": [pieces[i][2], y, 3000]} for i in order])
    found = [e.joint for e in desk.ledger.entries.values() if e.joint.kind == "splice"]
    assert len(found) == 2 and found[0].case == found[1].case


def test_equal_marks_only_for_equal_shapes(tmp_path: Path) -> None:
    desk = Desk.create(tmp_path / "m.tincleat")
    desk.run("add-members", members=[{**girder("IPE 300"), "start": [-4000, 4000 * i, 3000], "end": [4000, 4000 * i, 3000], "name": f"G{i}"} for i in range(4)])
    desk.run("place-connection", family="stiffeners", at=["G0@2500", "G1@5500"])
    # stiffeners cut nothing: all four are alike still
    assert [line.count for line in bill(desk.ledger) if line.mark.startswith("A")] == [4]
    joists = [{"section": "IPE 200", "role": "joist", "start": [x, y, 3050], "end": [x, y + 1500, 3050], "name": f"J{i}"} for i, (x, y) in enumerate([(-1500, 0), (1500, 4000), (-1000, 8000)])]
    desk.run("add-members", members=joists)
    desk.run("place-all", family="angle-cleats")
    marks = {key: worked_of(desk.ledger, key).signature for key in desk.project.members}
    g = [marks[f"m{i}"] for i in range(1, 5)]
    # holes 2500 from one end and 2500 from the other: the same bar turned round; those at 3000 are another, and so is one without
    assert g[0] == g[1] and len({repr(s) for s in g}) == 3


def test_a_default_hand_is_turned_in_the_mirror() -> None:
    fin = family("fin-plate").settings
    assert other_hand(fin, {})["sides"] == "far side" and other_hand(fin, other_hand(fin, {})) == {}
    assert "doubler" not in other_hand(family("end-plate").settings, {})


def test_slots_may_not_meet_or_leave_the_plate(tmp_path: Path) -> None:
    members = [column("HEB 300"), beam("IPE 300")]
    with pytest.raises(TinCleatError, match="slot runs over the edge"):
        joined(tmp_path, members, "fin-plate", "M2.end", hole="long slot", edge_distance=20.0)
    with pytest.raises(TinCleatError, match="run into each other"):
        joined(tmp_path / "x", members, "fin-plate", "M2.end", hole="long slot", gauge=(45.0,), edge_distance=60.0, beam_end_distance=60.0)


def test_a_connection_at_a_station_goes_with_its_piece(tmp_path: Path) -> None:
    desk, e = joined(tmp_path, [girder("IPE 300")], "stiffeners", "M1@5000")
    before = e.joint.frame.origin
    desk.run("split-members", ids=["M1"], at=[3000])
    (c,) = desk.project.connections.values()
    assert c.at == 2000 and c.member != "m1" and desk.ledger.entry_of(c.id).joint.frame.origin == pytest.approx(before)
    desk.run("join-members", ids=["M1", c.member])
    (c,) = desk.project.connections.values()
    assert (c.member, c.at) == ("m1", 5000) and desk.ledger.entry_of(c.id).joint.frame.origin == pytest.approx(before)
    desk.run("delete-connections", ids=[c.id])
    assert "m1@5000" not in desk.ledger.entries


def test_refusals_tell_figures(tmp_path: Path) -> None:
    for n, (members, name, at, words) in enumerate((
        ([column("HEB 300"), beam("PFC 200x75x23", 45)], "fin-plate", "M2.end", "45 mm past the flat"),
        ([column("CHS 168.3x6.3"), beam("IPE 200")], "seat-cleat", "M2.end", "no flat face"),
        ([girder("IPE 80"), beam("UB 914x305x289", 90)], "fin-plate", "M2.end", "needs 31 mm"),
        ([column("UC 203x203x46"), brace("TM 75x225", 45)], "bracing-gusset", "M2.start", "is timber"),
        ([column("UC 203x203x46"), brace("SHS 80x80x5", 45, roll=20)], "bracing-gusset", "M2.start", "20° turned"),
        ([girder("CHS 168.3x6.3")], "stiffeners", "M1@2000", "between two flanges"),
    )):  # fmt: skip
        with pytest.raises(NoFit, match=words):
            joined(tmp_path / str(n), members, name, at)
    with pytest.raises(BadValue, match="does not name"):
        joined(tmp_path / "n", [column("HEB 300")], "base-plate", "M1.middle")
    assert Site("x", [], "fin-plate", END).inch is False


@pytest.mark.parametrize("angle", [30, 45, -40])
def test_a_gusset_stands_on_a_round_length(tmp_path: Path, angle: int) -> None:
    _, e = joined(tmp_path, [column("HEB 200"), brace("CHS 88.9x5", angle)], "bracing-gusset", "M2.start")
    plate = made(e).plates[0]
    ring = np.array(plate.outline.points())
    ring[:, 0] *= -math.copysign(1.0, ring[:, 0].mean())
    # the edge on the column, 100 from its middle; level edges run out from there
    assert ring[:, 0].max() == pytest.approx(-100)
    on_face = ring[ring[:, 0] > -100.01]
    size = float(np.ptp(on_face[:, 1]))
    assert size == pytest.approx(5 * round(size / 5), abs=1e-6) and size == pytest.approx(plate.outline.bounds[3] - plate.outline.bounds[1])
    for end in (on_face[:, 1].min(), on_face[:, 1].max()):
        assert (np.abs(ring[:, 1] - end) < 1e-6).sum() >= 2  # square to the column
    (step,) = [f for f in e.findings if f.rule == "plate-step"]
    assert step.level == "clear" and step.actual == pytest.approx(size)
    # without the rule the plate is as wide as its weld and brace ask for
    desk = Desk.create(tmp_path / "q.tincleat", HouseRules(rounding={}), True)
    desk.run("add-members", members=[column("HEB 200"), brace("CHS 88.9x5", angle)])
    desk.run("place-connection", family="bracing-gusset", at=["m2.start"])
    bare = made(desk.ledger.entry_of(list(desk.project.connections)[-1])).plates[0].outline.bounds
    assert 0.1 < size - (bare[3] - bare[1]) < 5


@pytest.mark.parametrize("name", ["IPE 300", "PFC 200x75x23", "SHS 80x80x5", "RHS 120x80x5", "CHS 88.9x5", "FL 80x10", "Z 200x65x20x2.5", "IPN 300", "L 80x80x8", "WT22X204", "CF 200x65x20x2", "RD 24"])
def test_bars_are_alike_only_by_turns_that_lay_them_on_themselves(name: str) -> None:
    shape = section(name)
    bar = steel_mesh(shape, Cuts(), -50.0, 50.0, 6)
    turns = TURNS.get(shape.shape, ((1, 1, 1),))
    for sx, sy, sz in turns:
        assert sx * sy * sz == 1  # half turns: a mirror image is another bar
        turned = bar.placed(Frame((0.0, 0.0, 0.0), (float(sx), 0.0, 0.0), (0.0, 0.0, float(sz))))
        assert overlap_volume(bar, turned) == pytest.approx(bar.volume, rel=1e-6)
    # and by every such turn there is
    for sx, sy, sz in ((1, -1, -1), (-1, 1, -1), (-1, -1, 1)):
        turned = bar.placed(Frame((0.0, 0.0, 0.0), (float(sx), 0.0, 0.0), (0.0, 0.0, float(sz))))
        same = overlap_volume(bar, turned) > bar.volume * (1 - 1e-6)
        assert ((sx, sy, sz) in turns) == same


def test_the_first_row_keeps_its_round_distance_only_where_the_web_allows(tmp_path: Path) -> None:
    # IPE 240: straight web from 9.8 + 15 = 24.8 to 215.2 below the top.  Rows 88 apart with 51 at each end take 190 of its 190.4:
    # 24.8 + 51 = 75.8 would be 80, but 80 + 88 + 51 = 219 runs past 215.2
    _, e = joined(tmp_path / "tight", [column("HEB 200"), beam("IPE 240")], "fin-plate", "M2.end", row_place="from the top", end_distance=51.0, pitch=[88.0])
    assert made(e).number("top_distance").value == pytest.approx(75.8)
    # with 46 there is room: 24.8 + 46 = 70.8, up to 75; 75 + 88 + 46 = 209
    _, e = joined(tmp_path / "roomy", [column("HEB 200"), beam("IPE 240")], "fin-plate", "M2.end", row_place="from the top", end_distance=46.0, pitch=[88.0])
    assert made(e).number("top_distance").value == pytest.approx(75)


def test_cleats_between_a_columns_flanges_keep_off_its_roots(tmp_path: Path) -> None:
    # UC 203x203x46: 203.2 less two flanges of 11 and two roots of 10.2 leaves 160.8; the beam's web is 6: 77.4 to a side, an angle of 75
    _, e = joined(tmp_path, [column("UC 203x203x46", 90), beam("UB 305x165x40")], "angle-cleats", "M2.end")
    d = made(e)
    assert d.number("size").value == "L 75x75x8" and d.number("size").origin == "adapted" and not breaches(e)
    with pytest.raises(TinCleatError, match="a leg of 100 mm beside the beam's web runs into the root of UC 203x203x46, which leaves 77 mm"):
        joined(tmp_path / "typed", [column("UC 203x203x46", 90), beam("UB 305x165x40")], "angle-cleats", "M2.end", size="L 100x100x10")


def test_beams_on_two_flanges_of_one_column_are_two_joints(tmp_path: Path) -> None:
    web = [{**column("HEB 300", 90.0)}, beam("IPE 300"), {**beam("IPE 300"), "start": [-4000, 0, 3000]}]
    flange = [{**column("HEB 300")}, *web[1:]]
    for members, together in ((web, 1), (flange, 2)):
        desk = Desk.create(tmp_path / f"{together}.tincleat")
        desk.run("add-members", members=members)
        desk.run("place-all", family="angle-cleats")
        assert len(desk.project.connections) == together
        # every bolted leg has its bolts
        told = [f for c in desk.project.connections for f in desk.ledger.entry_of(c).findings if f.rule == "hole-empty"]
        assert [f.level for f in told] == ["clear"] * together
        desk.close()


def test_bolts_of_a_partial_end_plate_on_a_thin_web(tmp_path: Path) -> None:
    # UB 254x146x31 has a web of 6.0: where it is exposed bolts stand 14 x 6 = 84 apart at most, on fives 80, not the usual 90
    _, e = joined(tmp_path / "a", [girder("UB 254x146x31"), beam("UB 203x133x25", 90)], "end-plate", "M2.end", shape="partial depth")
    assert made(e).number("gauge").value == 80.0 and not breaches(e)
    _, e = joined(tmp_path / "b", [girder("UB 457x191x67"), beam("UB 203x133x25", 90)], "end-plate", "M2.end", shape="partial depth")
    assert made(e).number("gauge").value == 90.0 and not breaches(e)


def test_cleats_on_a_low_web_that_slopes(tmp_path: Path) -> None:
    # HEB 120: 74 of clear web; a leg of 100 along the level drops 100 sin 15° = 25.9 on it: (74 - 25.9) / cos 15° = 49.8 is left up the face
    _, e = joined(tmp_path / "a", [girder("UPN 260"), beam("HEB 120", 90, -15)], "angle-cleats", "M2.end")
    d = made(e)
    assert d.pieces[0].length == pytest.approx(49.0) and d.number("bolt").value == "M16" and "clash" not in breaches(e)


def test_a_partial_end_plate_on_a_low_web(tmp_path: Path) -> None:
    # HEB 120 has 120 - 2 (11 + 12) = 74 of straight web: two end distances of 40 do not lie on it, two of 37 do
    _, e = joined(tmp_path / "a", [column("HEB 300"), beam("HEB 120")], "end-plate", "M2.end", shape="partial depth")
    d = made(e)
    assert d.number("end_distance").value == 37.0 and d.number("end_distance").origin == "adapted" and not breaches(e)
    web = [w for w in d.welds if w.name == "web"]
    assert web and all(abs(w.start[2] - w.end[2]) <= 74.01 for w in web)


def test_no_haunch_where_the_rafter_comes_askew(tmp_path: Path) -> None:
    members = [{**column("HEB 300"), "end": [0, 0, 3000]}, {**beam("IPE 300", 15, 8), "role": "rafter"}]
    _, e = joined(tmp_path / "a", members, "end-plate", "M2.end")
    assert e.joint.kind == "knee" and made(e).number("haunch_depth").value == 0.0 and made(e).number("haunch_depth").origin == "adapted"
    with pytest.raises(TinCleatError, match="15° askew"):
        joined(tmp_path / "b", members, "end-plate", "M2.end", haunch_depth=300.0)
