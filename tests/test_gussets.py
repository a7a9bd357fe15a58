"""Gussets by hand: double braces, tees, crosses, feet on a base plate, corners beside an end plate, numbers for one brace alone."""

import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import shapely
from shapely.geometry import Polygon
from site_parts import starred
from sites import back_to_back, beam, brace, column, girder, half, passing
from test_new_families import breaches, joined, made

from tincleat.commands.desk import Desk
from tincleat.details.parts import Plate
from tincleat.errors import BadValue, NotFound, TinCleatError
from tincleat.kit.contact import plate_round
from tincleat.ledger.entries import Entry
from tincleat.ledger.ledger import Ledger


def flat(plate: Plate) -> Polygon:
    """A gusset's outline in the joint's x-z plane."""
    ring = plate.frame.to_world(np.column_stack([np.array(plate.outline.points()), np.zeros(len(plate.outline.points()))]))
    return Polygon(ring[:, [0, 2]])


def placed(desk: Desk, family: str, *at: str, **typed: Any) -> Entry:
    desk.run("place-connection", family=family, at=list(at), settings=typed)
    return desk.ledger.entry_of(list(desk.project.connections)[-1])


def test_a_double_brace_takes_one_row_of_bolts_through_both(tmp_path: Path) -> None:
    _, e = joined(tmp_path, [column("HEB 200"), *back_to_back("L 80x80x8", 40, 80, 12)], "bracing-gusset", "M2.start and M3.end")
    d = made(e)
    (group,) = d.bolts
    # the plate is as thick as the gap of 12, whatever its default; every bolt passes angle, plate, angle: 8 + 12 + 8
    assert d.plates[0].thickness == pytest.approx(12) and d.number("thickness").origin == "adapted" and "gap" in d.number("thickness").rule
    fitted = e.made.assembled.fitted if e.made is not None else ()
    assert len(group.points) == 2 and [len(f.plies) for f in fitted] == [3, 3] and all(f.grip == pytest.approx(28) and f.gap == pytest.approx(0, abs=1e-6) for f in fitted)
    assert sorted(h.member for h in d.holes) == [0, 0, 1, 1] and len(d.ends) == 2 and not breaches(e)
    # both angles end in one plane, square to the brace
    assert d.ends[0].point == pytest.approx(d.ends[1].point) and d.ends[0].normal == pytest.approx(d.ends[1].normal)
    with pytest.raises(TinCleatError, match=r"12\.0 mm apart, the plate is 10 mm"):
        joined(tmp_path / "x", [column("HEB 200"), *back_to_back("L 80x80x8", 40, 80, 12)], "bracing-gusset", "M2.start and M3.end", thickness=10.0)


def test_a_tee_at_a_tube_by_hand(tmp_path: Path) -> None:
    _, e = joined(tmp_path, [column("HEB 200"), brace("SHS 100x100x5", 40)], "bracing-gusset", "M2.start", tube_end="tee")
    d = made(e)
    gusset, tongue, cap = d.plates
    # M20: first 1.75 x 20 up to 35, pitch 3 x 20 up to 60, edge 35; gap to the end cap 10: 35 + 60 + 35 + 10 = 140; wide 1.6 x 50 = 80
    assert tongue.outline.bounds == pytest.approx((0, 0, 140, 80)) and tongue.thickness == 12
    # the tube's 100 and 10 past it all round
    assert cap.outline.bounds == pytest.approx((-60, -60, 60, 60)) and cap.thickness == 12
    # the tongue lies in the tube's middle, the gusset beside it
    assert sorted(float(v) for v in (tongue.frame.origin[1], tongue.frame.origin[1] - 12)) == pytest.approx([-6, 6])
    assert abs(gusset.frame.origin[1] - 5 * math.copysign(1, gusset.frame.origin[1])) in (pytest.approx(1), pytest.approx(6), pytest.approx(11))
    # the tube ends on the cap's far side: 140 + 12 after the tongue's start
    along = np.array(d.ends[0].normal)
    assert float((np.array(d.ends[0].point) - tongue.frame.to_world([(0.0, 40.0, 0.0)])[0]) @ along) == pytest.approx(152)
    assert {w.name for w in d.welds if "cap" in w.name} == {"tongue to end cap, near side", "tongue to end cap, far side", "brace to end cap"}
    assert all(h.member != 0 for h in d.holes) and not breaches(e)
    _, e = joined(tmp_path / "f", [column("HEB 200"), brace("CHS 114.3x5", 40)], "bracing-gusset", "M2.start", tube_end="tee")
    # a round cap, welded all round in chords that touch the tube: 24 of 114.3 tan(7.5 deg)
    round_welds = [w for w in made(e).welds if w.name == "brace to end cap"]
    assert sum(math.dist(w.start, w.end) for w in round_welds) == pytest.approx(24 * 114.3 * math.tan(math.pi / 24), rel=1e-6)


def test_a_cross_of_angles_on_one_plate(tmp_path: Path) -> None:
    members = [passing("L 80x80x8", 45), half("L 80x80x8", 45, 1.0), half("L 80x80x8", 45, -1.0, roll=180.0)]
    _, e = joined(tmp_path, members, "bracing-gusset", "M2.start and M3.start")
    d = made(e)
    assert [m.role for m in e.joint.case.members] == ["brace-1", "brace-2", "through"] and "to L 80x80x8" in e.joint.words
    assert sorted(b.name for b in d.bolts) == ["bolts of brace 1", "bolts of brace 2", "bolts of the passing brace"]
    assert not d.welds and len(d.ends) == 2 and {h.member for h in d.holes} == {0, 1, 2}  # the passing one is drilled and goes on
    assert not breaches(e)
    # on a tube that passes the plate is welded to its side; both sides at once it refuses
    members = [passing("SHS 100x100x5", 45), half("SHS 80x80x5", 45, 1.0), half("SHS 80x80x5", 45, -1.0)]
    _, e = joined(tmp_path / "t", members, "bracing-gusset", "M2.start")
    assert {w.parts for w in made(e).welds if "gusset to" in w.name} == {("through", "gusset")} and not breaches(e)
    with pytest.raises(TinCleatError, match="to both sides of SHS 100x100x5"):
        joined(tmp_path / "u", members, "bracing-gusset", "M2.start and M3.start")


FOOT = [column("HEB 200"), brace("L 80x80x8", 45, z0=50)]


def test_a_gusset_at_a_foot_stands_on_the_base_plate(tmp_path: Path) -> None:
    desk, e = joined(tmp_path, FOOT, "bracing-gusset", "M2.start")
    alone = flat(made(e).plates[0])
    assert {w.parts[0] for w in made(e).welds} == {"column"}
    gusset, before = e.connection, alone.bounds
    assert gusset is not None
    # placed later, the base plate is taken into account: grout 30 and plate 20 bring its top to the working point's 50
    placed(desk, "base-plate", "m1.start")
    e = desk.ledger.entry_of(gusset.id)
    outline = flat(made(e).plates[0])
    assert {w.parts[0] for w in made(e).welds} == {"column", "base plate"} and outline.bounds[1] == pytest.approx(0, abs=0.02)
    # HEB 200: its face at 100; the base plate ends 10 past the gusset's edge on it
    base = desk.ledger.entries["m1.start"]
    half_length = made(base).plates[0].outline.bounds[2]
    on_base = [x for x, z in outline.exterior.coords if abs(z) < 0.05]
    assert max(abs(x) for x in on_base) == pytest.approx(half_length - 10, abs=0.1)
    # the snipe of 20 keeps it clear of the column's own weld
    assert min(abs(x) for x in on_base) == pytest.approx(120, abs=0.5)
    assert not breaches(e) and not breaches(base)
    # what it stands on moves: a thicker plate, no plate, and back
    desk.run("change-connections", ids=[base.connection.id if base.connection else ""], settings={"plate_thickness": 30.0})
    assert flat(made(desk.ledger.entry_of(gusset.id)).plates[0]).bounds[1] == pytest.approx(10, abs=0.02)
    desk.run("delete-connections", ids=[base.connection.id if base.connection else ""])
    assert flat(made(desk.ledger.entry_of(gusset.id)).plates[0]).bounds == pytest.approx(before)
    desk.undo()
    desk.undo()
    assert flat(made(desk.ledger.entry_of(gusset.id)).plates[0]).bounds[1] == pytest.approx(0, abs=0.02)
    again = Ledger(desk.project)
    assert made(again.entry_of(gusset.id)) == made(desk.ledger.entry_of(gusset.id))
    # welded to the column alone it keeps clear of the base
    desk.run("change-connections", ids=[gusset.id], settings={"stands": "upright member"})
    e = desk.ledger.entry_of(gusset.id)
    assert {w.parts[0] for w in made(e).welds} == {"column"} and flat(made(e).plates[0]).bounds[1] >= 10 - 0.02 and not breaches(e)


def test_a_mirrored_foot_is_the_mirror_image(tmp_path: Path) -> None:
    desk, _ = joined(tmp_path, FOOT, "bracing-gusset", "M2.start")
    placed(desk, "base-plate", "m1.start")
    desk.run("mirror-members", ids=["m1", "m2"], line=[[3000, 0, 0], [3000, 1, 0]])
    gussets = [x for x in (desk.ledger.entry_of(c) for c in desk.project.connections) if x.connection is not None and x.connection.family == "bracing-gusset"]
    one, two = (x.joint.frame.to_world(np.concatenate([p.frame.to_world(np.column_stack([np.array(p.outline.points()), np.full(len(p.outline.points()), z)])) for p in made(x).plates for z in (0.0, p.thickness)])) for x in gussets)
    image = one * (-1, 1, 1) + (6000, 0, 0)
    assert len(gussets) == 2 and np.abs(np.sort(image.round(1), axis=0) - np.sort(two.round(1), axis=0)).max() < 0.15
    assert {w.parts[0] for x in gussets for w in made(x).welds} == {"column", "base plate"}


def test_a_gusset_in_a_corner_is_cut_round_an_end_plate(tmp_path: Path) -> None:
    corner = [column("HEB 200"), {**beam("IPE 300"), "end": [0, 0, 3000], "start": [4000, 0, 3000]}, brace("L 80x80x8", 45)]
    desk, e = joined(tmp_path, corner, "bracing-gusset", "M3.start")
    assert e.connection is not None
    plain = made(e)
    assert plain.number("beside").origin == "default"
    plate = made(placed(desk, "end-plate", "m2.end")).plates[0]
    e = desk.ledger.entry_of(e.connection.id)
    d = made(e)
    assert d.number("beside").origin == "adapted" and "end plate" in d.number("beside").rule
    # IPE 300 with its plate 20 past the flanges, 20 thick: its corner at (100 + 20, 170); 10 clear both ways
    assert plate.thickness == 20 and plate.outline.bounds[3] == pytest.approx(170)
    corner_ = Polygon([(100, 0), (120, 0), (120, 170), (100, 170)])
    assert flat(d.plates[0]).distance(corner_) == pytest.approx(10, abs=0.05) or flat(d.plates[0]).distance(Polygon([(-x, z) for x, z in corner_.exterior.coords])) == pytest.approx(10, abs=0.05)
    assert {w.parts[0] for w in d.welds} == {"column", "beam 1"} and not breaches(e) and not [f for f in e.findings if f.rule == "clash" and f.level != "clear"]
    # on one of both only
    for stands, parts in (("upright member", {"column"}), ("lying member or base", {"beam 1"})):
        desk.run("change-connections", ids=[e.connection.id], settings={"stands": stands})  # type: ignore[union-attr]
        e = desk.ledger.entry_of(e.connection.id)  # type: ignore[union-attr]
        assert {w.parts[0] for w in made(e).welds if "gusset" in w.parts[1]} == parts and not breaches(e)


def test_bolts_of_one_brace_alone(tmp_path: Path) -> None:
    members = [column("UC 203x203x46"), brace("L 80x80x8", 40), brace("L 80x80x8", -40)]
    desk, e = joined(tmp_path, members, "bracing-gusset", "M2.start and M3.start")
    assert e.connection is not None
    ids = [e.connection.id]
    assert [len(b.points) for b in made(e).bolts] == [2, 2]
    desk.run("change-connections", ids=ids, settings={"pitch/2": "3@60", "brace_end": 40.0})
    d = made(desk.ledger.entry_of(ids[0]))
    assert [len(b.points) for b in d.bolts] == [2, 4]
    assert d.number("pitch/2").origin == "typed" and d.number("pitch/1").origin == "worked out" and d.number("brace_end/1").value == d.number("brace_end/2").value == 40
    # the sheet's chain along the second brace edits that one
    assert {s for dim in d.dimensions if dim.view == "brace 2" for s in dim.settings} >= {"pitch/2", "brace_end/2"}
    # what is typed for all goes on counting for the rest
    desk.run("change-connections", ids=ids, settings={"pitch": "2@70"})
    assert [len(b.points) for b in made(desk.ledger.entry_of(ids[0])).bolts] == [3, 4]
    desk.run("change-connections", ids=ids, settings={"pitch/2": None})
    assert [len(b.points) for b in made(desk.ledger.entry_of(ids[0])).bolts] == [3, 3]
    for name in ("pitch/5", "pitch/0", "pitch/x", "thickness/2"):
        with pytest.raises(NotFound, match="has no setting"):
            desk.run("change-connections", ids=ids, settings={name: 10.0})
    with pytest.raises(BadValue, match="Brace end distance, brace 2"):
        desk.run("change-connections", ids=ids, settings={"brace_end/2": 5000.0})
    again = Desk.open(desk.store.path)
    assert made(again.ledger.entry_of(ids[0])) == made(desk.ledger.entry_of(ids[0]))


def test_what_is_typed_for_one_brace_stays_with_it(tmp_path: Path) -> None:
    members = [column("UC 203x203x46"), brace("L 80x80x8", 50), brace("L 80x80x8", 0.5), brace("L 80x80x8", -50)]
    desk, e = joined(tmp_path, members, "bracing-gusset", "M2.start and M3.start and M4.start")
    assert e.connection is not None
    ids, order = [e.connection.id], list(e.joint.members[:3])
    desk.run("change-connections", ids=ids, settings={f"pitch/{order.index('m3') + 1}": "2@60", f"pitch/{order.index('m4') + 1}": "3@60"})

    def bolts(member: str) -> int:
        entry = desk.ledger.entry_of(ids[0])
        number = entry.joint.members.index(member)
        return sum(h.member == number for h in made(entry).holes)

    assert [bolts(m) for m in ("m2", "m3", "m4")] == [2, 3, 4]
    for gone, left in (("m2", {"m3": 3, "m4": 4}), ("m3", {"m2": 2, "m4": 4}), ("m4", {"m2": 2, "m3": 3})):
        desk.run("delete-members", ids=[gone])
        assert {m: bolts(m) for m in left} == left
        assert len([k for k in desk.project.connections[ids[0]].settings if "/" in k]) == len([m for m in left if m != "m2"])
        desk.undo()
    desk.run("delete-members", ids=["m2", "m4"])
    assert bolts("m3") == 3 and desk.project.connections[ids[0]].settings == {"pitch/1": (60.0, 60.0)}


def test_slim_angles_take_smaller_bolts_clear_of_their_heel(tmp_path: Path) -> None:
    # L 50x50x5: t 5, r 7; M20's head of 30 across flats, 34.8 at its corners, washer 37: 5 + 7 + 18.5 + 1 = 31.5, and 26.4 to the edge is more than 50;
    # M16: washer 30: 28 + 21.6; M12: washer 24: 5 + 7 + 12 + 1 = 25, 25 to the edge where 16.8 are needed; half of 50 down to 25
    _, e = joined(tmp_path, [column("HEB 200"), brace("L 50x50x5", 45)], "bracing-gusset", "M2.start")
    d = made(e)
    assert d.number("bolt").origin == "adapted" and "50 mm wide" in d.number("bolt").rule and not breaches(e)
    size = {"M16": 28.0, "M12": 25.0}[d.bolts[0].size]
    assert d.number("gauge").value == size
    _, typed = joined(tmp_path / "t", [column("HEB 200"), brace("L 50x50x5", 45)], "bracing-gusset", "M2.start", bolt="M20")
    assert made(typed).bolts[0].size == "M20" and "edge-least" in breaches(typed)
    _, inch = joined(tmp_path / "i", [column("W14X145"), brace("L2X2X1/4", 45)], "bracing-gusset", "M2.start", inch=True)
    assert not breaches(inch) and made(inch).bolts[0].size != "3/4in"


def test_wide_braces_take_two_lines_of_bolts(tmp_path: Path) -> None:
    _, e = joined(tmp_path, [column("HEB 200"), brace("FL 150x10", 40)], "bracing-gusset", "M2.start")
    (group,) = made(e).bolts
    along = np.array(group.load)
    across = np.cross((0.0, 1.0, 0.0), along)
    lines = sorted({round(float(np.array(p) @ across), 3) for p in group.points})
    # half of 150, so 75 apart and 37.5 from each edge
    assert len(group.points) == 4 and lines[1] - lines[0] == pytest.approx(75) and made(e).number("lines").value == (75.0,) and not breaches(e)
    _, e = joined(tmp_path / "c", [column("HEB 200"), brace("PFC 150x75x18", 40, roll=180)], "bracing-gusset", "M2.start")
    # washers of 37 clear of the roots: 2 x (75 - 10 - 12) - 37 = 69, down to 65
    assert made(e).number("lines").value == (65.0,) and not breaches(e)


def test_stiffeners_over_braces_that_meet_at_a_beams_middle(tmp_path: Path) -> None:
    pair = [girder("UB 305x165x40"), brace("CHS 88.9x5", -45), brace("CHS 88.9x5", -45, side=-1.0)]
    _, e = joined(tmp_path, pair, "bracing-gusset", "M2.start and M3.start", stiffeners=True)
    d = made(e)
    ribs = [p for p in d.plates if "stiffener" in p.name]
    # b 165, tw 6: 79.5 to the flange's edge, down to a flat of 75; as thick as the gusset; in the web over the working point at x = 0
    assert len(ribs) == 2 and {p.thickness for p in ribs} == {10.0} and {round(p.outline.bounds[2] - p.outline.bounds[0], 3) for p in ribs} == {d.number("stiffener_width").value}
    assert float(d.number("stiffener_width").value) <= 79.5  # type: ignore[arg-type]
    assert {round(float(e.joint.frame.to_world(p.frame.to_world([(0.0, 0.0, p.thickness / 2)]))[0][0]), 3) for p in ribs} == {0.0} and not breaches(e)
    # from flange to flange: 303.4 less two of 10.2
    assert all(p.outline.bounds[3] - p.outline.bounds[1] == pytest.approx(303.4 - 2 * 10.2, abs=0.01) for p in ribs)
    for members, at, words in (([column("HEB 200"), brace("CHS 88.9x5", 45)], "M2.start", "no beam with a web"), ([column("UC 203x203x46"), {**girder("UB 305x165x40"), "start": [0, 0, 3000]}, brace("CHS 88.9x5", -45)], "M3.start", "in the air")):
        with pytest.raises(TinCleatError, match=words):
            joined(tmp_path / at, members, "bracing-gusset", at, stiffeners=True)


@pytest.mark.parametrize(("carrier", "width", "origin"), [("IPE 300", 70.0, "rounded"), ("W8X10", 47.0, "adapted")])
def test_only_a_stiffener_that_has_to_be_wider_is_told_as_adapted(tmp_path: Path, carrier: str, width: float, origin: str) -> None:
    # IPE 300: (150 - 7.1) / 2 = 71.4 down to a flat of 70; W8X10: (100 - 4.3) / 2 = 47.8, the flat of 45 would leave its fillet on the flange too short
    _, e = joined(tmp_path, [girder(carrier), brace("CHS 88.9x5", -45), brace("CHS 88.9x5", -45, side=-1.0)], "bracing-gusset", "M2.start and M3.start", stiffeners=True)
    told = made(e).number("stiffener_width")
    assert (told.value, told.origin) == (width, origin)
    assert {round(p.outline.bounds[2] - p.outline.bounds[0], 3) for p in made(e).plates if "stiffener" in p.name} == {width}


def test_an_i_brace_by_its_web(tmp_path: Path) -> None:
    _, e = joined(tmp_path / "a", [column("HEB 240"), brace("UC 203x203x46", 40)], "bracing-gusset", "M2.start")
    d = made(e)
    gusset = next(p for p in d.plates if p.name == "gusset")
    # UC 203x203x46: 203.2 deep, web 7.2, flanges 11, roots 10.2 or so: the plate lies on the web, 3.6 off its middle, between the flanges
    ys = sorted(float(gusset.frame.to_world([(0.0, 0.0, z)])[0][1]) for z in (0.0, gusset.thickness))
    assert ys == pytest.approx([-13.6, -3.6], abs=0.06)
    # two lines of bolts, each pair through web and plate
    away, across = np.array(e.joint.case.supported.away), np.cross((0.0, -1.0, 0.0), e.joint.case.supported.away)
    assert len(d.bolts[0].points) == 4 and sorted({round(float(np.dot(p, across)), 1) for p in d.bolts[0].points}) == [-42.5, 42.5]
    for fitted in e.made.assembled.fitted:
        assert {e.made.assembled.plies[p.ply].owner for p in fitted.plies} == {"gusset", "brace"} and fitted.grip == pytest.approx(17.2, abs=0.05)
    # no part of the plate between or outside the flanges comes nearer than 2 to their roots: half of 203.2 less root and 2
    shape = e.joint.case.supported.shape
    corners = gusset.frame.to_world([(x, y, 0.0) for x, y, _ in gusset.outline.vertices])
    start = min(float(np.dot(p, away)) for p in d.bolts[0].points) - 60.0
    inside = [abs(float(p @ across)) for p in corners if float(p @ away) > start + 30.0]
    assert inside and max(inside) <= shape.h / 2 - shape.root - 2.0 + 1e-6 and not breaches(e)
    with pytest.raises(TinCleatError, match="turned to the plane"):
        joined(tmp_path / "b", [column("HEB 240"), brace("UC 203x203x46", 40, roll=30.0)], "bracing-gusset", "M2.start")
    # IPE 100: 2 x (50 - 5.7 - 7 - 2) = 70.6 between the roots
    with pytest.raises(TinCleatError, match="the plate is 71 mm wide at most"):
        joined(tmp_path / "c", [column("HEB 240"), brace("IPE 100", 40)], "bracing-gusset", "M2.start", bolt="M30")


def test_starred_angles_have_a_line_of_bolts_each_on_both_faces_of_the_plate(tmp_path: Path) -> None:
    """L 80x80x8 about one line, heels to each other: 40 from each heel (0.55 x 80 down to fives) lies a line, so 80 apart; the plate fills the 10 between their backs."""
    e = joined(tmp_path, [column("UC 203x203x46"), *starred("L 80x80x8", 35, 80, 10)], "bracing-gusset", "M2.start and M3.start")[1]
    d = e.made.detail
    one, two = d.bolts
    assert d.plates[0].thickness == 10.0 and len(one.points) == len(two.points) == 2 and one.axis == tuple(-v for v in two.axis)
    along = np.array(e.made.case.members[0].away)
    across = np.cross([0.0, 1.0, 0.0], along)
    lines = sorted(round(float(np.array(b.points[0]) @ across), 2) for b in d.bolts)
    assert lines[1] - lines[0] == pytest.approx(80.0)
    # every bolt through the plate and one leg
    assert all(len(f.plies) == 2 and f.grip == pytest.approx(18.0) for f in e.made.assembled.fitted)
    assert {e.made.assembled.plies[p.ply].owner for f in e.made.assembled.fitted for p in f.plies} == {"gusset", "brace 1", "brace 2"}


def test_steel_that_is_only_touched_has_no_corner_to_snipe() -> None:
    """A plane through a face cuts points and lines beside polygons: a plate of 100 x 100 in the corner of two bodies is sniped 10 all the same."""
    column = shapely.GeometryCollection([shapely.box(-50, -200, 0, 200), shapely.Point(300, 300)])
    beam = shapely.GeometryCollection([shapely.box(-20, -50, 200, 0), shapely.LineString([(0, 500), (10, 500)])])
    flat = plate_round(np.array([(-2.0, -2.0), (100.0, -2.0), (100.0, 100.0), (-2.0, 100.0)]), [column, beam], np.array((80.0, 80.0)), 10.0)  # type: ignore[list-item]
    assert flat.area == pytest.approx(100 * 100 - 10 * 10 / 2)


def test_a_level_gusset_keeps_off_the_root_of_its_beam(tmp_path: Path) -> None:
    """UB 457x191x67: 226.7 - 12.7 - 10.2 = 203.8 from the middle to the web's root.  An 80 mm angle 150 under the middle has its flat face at
    -190: the plate, 10 thick, ends at -200 and its weld 6 further; at -120 it stands, its bolts past the flange, 190 / 2 from the web."""
    girder = {"section": "UB 457x191x67", "role": "beam", "start": [-3000, 0, 3000], "end": [3000, 0, 3000]}

    def plan(off: float) -> list[dict[str, Any]]:
        return [girder, {"section": "L 80x80x8", "role": "brace", "start": [0, 0, 3000 + off], "end": [2200, 2500, 3000 + off]}]

    with pytest.raises(TinCleatError, match="into its root"):
        joined(tmp_path / "a", plan(-150.0), "bracing-gusset", "M2.start")
    _, e = joined(tmp_path / "b", plan(-120.0), "bracing-gusset", "M2.start")
    assert not breaches(e)
    m = next(m for m in e.made.case.members if m.role == "beam")
    for group in made(e).bolts:
        assert all(abs(float(m.frame.to_local(np.array([p]))[0, 1])) > 190 / 2 for p in group.points)


def test_a_fillet_that_has_no_room_on_the_plate_is_refused_in_figures(tmp_path: Path) -> None:
    """A rod at 60 degrees: a plate that goes 21 mm out from what it stands on has no room for a leg of 22."""
    members = [column("HEB 200"), {"section": "RD 20", "role": "brace", "start": [0, 0, 3000], "end": [1500, 0, 3000 + 1500 * math.sqrt(3)]}]
    with pytest.raises(TinCleatError, match="a leg of 22 mm has no room on the plate, which goes 21 mm out"):
        joined(tmp_path / "a", members, "bracing-gusset", "M2.start", fork_start=138.0, fork_width=42.0, weld_leg=22.0)
    assert made(joined(tmp_path / "b", members, "bracing-gusset", "M2.start")[1]).welds


def test_a_gusset_on_a_column_turned_to_it_has_its_edge_bevelled(tmp_path: Path) -> None:
    # HEB 200 turned by 10: over a plate of 12 its face falls back by 12 tan 10 = 2.12
    _, e = joined(tmp_path, [{**column("HEB 200"), "roll_deg": 10.0}, brace("L 80x80x8", 45)], "bracing-gusset", "M2.start", thickness=12.0)
    d = made(e)
    assert not breaches(e)
    (plate,) = d.plates
    (bevel,) = plate.trims
    assert abs(bevel.normal[2] / bevel.normal[0]) == pytest.approx(math.tan(math.radians(10)), abs=1e-4)
    x = min(p[0] for p in plate.outline.vertices)
    stands = [p[1] for p in plate.outline.vertices if p[0] < x + 0.01]
    long = max(stands) - min(stands)
    assert flat(plate).area * 12 - 0.5 * 12 * 12 * math.tan(math.radians(10)) * long == pytest.approx(plate.volume + sum(h.area for h in plate.holes) * 12, rel=1e-4)
    # each fillet runs where its face of the plate meets the column's: one 2.12 further out than the other, and both legs lie on steel
    near, far = sorted(d.welds[:2], key=lambda w: w.start[0])
    assert far.start[0] - near.start[0] == pytest.approx(12 * math.tan(math.radians(10)), abs=0.01)
    for w in (near, far):
        assert abs(float(np.array(w.u) @ np.array(w.v))) == pytest.approx(math.sin(math.radians(10)), abs=1e-4)
