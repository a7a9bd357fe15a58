"""Base plates with all that goes with them, by hand: edges, turned plates, slots, washers, stiffeners, keys, levelling plates, rods."""

import math
from pathlib import Path
from typing import Any

import ifcopenshell
import numpy as np
import pytest
from sites import column
from test_new_families import breaches, joined, made

from tincleat.catalogue.sections import section as sized
from tincleat.details.parts import Detail
from tincleat.errors import TinCleatError
from tincleat.exchange.ifc import export_ifc
from tincleat.ledger.steel import worked_of
from tincleat.proof.welds import all_round, fusion_angle
from tincleat.release.sheet import compose, pictures


def foot(path: Path, section: str = "HEB 300", roll: float = 0.0, **typed: Any) -> Any:
    return joined(path, [column(section, roll)], "base-plate", "M1.start", **typed)[1]


def plate(d: Detail, name: str = "base plate") -> Any:
    return next(p for p in d.plates if p.name == name)


def bounds(d: Detail) -> list[float]:
    """Edges of the base plate from the column's middle along its own axes: left, right, near, far."""
    p = plate(d)
    x, y = p.frame.to_local(np.zeros((1, 3)))[0][:2]
    u0, v0, u1, v1 = p.outline.bounds
    return [round(v, 2) for v in (x - u0, u1 - x, y - v0, v1 - y)]


def test_edges_of_their_own(tmp_path: Path) -> None:
    # the column is 300 x 300: 150 to its edges, and 100 past it where nothing is typed
    assert bounds(made(foot(tmp_path / "a"))) == [250.0] * 4
    # 80 left: 150 + 80; the right keeps its 100; near 60 and far 220 are both typed
    d = made(foot(tmp_path / "b", past_left=80.0, past_near=60.0, past_far=220.0))
    assert bounds(d) == [230.0, 250.0, 210.0, 370.0] and d.number("plate_width").value == 580.0
    # a whole and one edge: the other is what is left, 600 - 300 - 120 = 180
    assert bounds(made(foot(tmp_path / "c", past_right=120.0, plate_length=600.0)))[:2] == [330.0, 270.0]
    for i, (typed, words) in enumerate((
        ({"past_left": 80.0, "past_right": 90.0, "plate_length": 500.0}, "500 mm is typed, but the edges make 470"),
        ({"past_left": 80.0, "offset_x": 30.0}, "an offset of 30 mm are both typed"),
        ({"plate_length": 280.0}, "the plate ends 10 mm inside the column"),
    )):  # fmt: skip
        with pytest.raises(TinCleatError, match=words):
            foot(tmp_path / f"r{i}", **typed)


def test_edges_trade_places_at_a_mirror_image(tmp_path: Path) -> None:
    desk, e = joined(tmp_path, [column("HEB 300")], "base-plate", "M1.start", past_near=60.0, past_far=220.0, turn=math.radians(10), rods_off=[2])
    desk.run("mirror-members", ids=["M1"], line=[[-2000, 0, 0], [2000, 0, 0]], copy=True)
    desk.run("mirror-members", ids=["M1"], line=[[2000, -1000, 0], [2000, 1000, 0]], copy=True)
    for c in desk.project.connections.values():
        other = desk.ledger.entry_of(c.id)
        if other.joint.key == e.joint.key:
            continue
        flip = np.array([1, -1, 1]) if abs(other.joint.frame.origin[0]) < 1 else np.array([-1, 1, 1])
        shift = np.array([0, 0, 0]) if flip[1] < 0 else np.array([4000, 0, 0])
        mine, theirs = (np.array([x.joint.frame.to_world(np.array([(r.x, r.y, 0.0)]))[0] for r in made(x).rods]) for x in (e, other))
        assert sorted(np.round(mine * flip + shift, 2).tolist()) == sorted(np.round(theirs, 2).tolist())


def test_a_turned_plate_lies_square_to_the_grid(tmp_path: Path) -> None:
    # the column turned by 30°, the plate turned back: UC 203x203x46 is 203.2 x 203.6; along the plate it covers
    # 203.2 cos 30 + 203.6 sin 30 = 277.78, and 203.6 cos 30 + 203.2 sin 30 = 277.92 across. Past it a weld of 7, 36 for the nut, 45 to the edge, on 5, and 5: 95 on each side;
    # 467.9, on 10: 470
    e = foot(tmp_path, "UC 203x203x46", 30.0, turn=math.radians(-30))
    d = made(e)
    p = plate(d)
    assert p.outline.bounds == pytest.approx((-235, -235, 235, 235)) and not breaches(e)
    ways = np.abs(e.joint.frame.turn(np.array([p.frame.x, p.frame.y])))
    assert np.sort(ways.max(axis=1)) == pytest.approx([1, 1], abs=1e-3)  # along the grid
    assert {round(r.turn, 4) for r in d.rods} in ({round(math.radians(30), 4)}, {round(math.radians(-30), 4)})


def test_slots_and_their_washers(tmp_path: Path) -> None:
    # M24: holes of 30; slots of two thirds more, 50; a washer over 50 + 12 is 65 long, 1.5 x 30 + 10 from the edge: 55
    e = foot(tmp_path / "a", hole_shape="slotted along")
    d = made(e)
    slots = [h for h in plate(d).holes if h.kind == "anchor"]
    assert {(h.width, h.length, h.angle) for h in slots} == {(30.0, 50.0, 0.0)} and {r.washer for r in d.rods} == {(70.0, 8.0)} and not breaches(e)
    # the washer's half less the slot's: 35 - 25 = 10
    (cover,) = [f for f in e.findings if f.rule == "rod-cover"]
    assert cover.actual == pytest.approx(10.0, abs=0.01)
    small = foot(tmp_path / "b", hole_shape="slotted across", washer_side=40.0)
    (cover,) = [f for f in small.findings if f.rule == "rod-cover"]
    assert cover.level == "breach" and cover.actual == pytest.approx(-5.0, abs=0.01)
    # EN table 3.3: 1.5 d0 from the middle of a slot's end: 30 - 10 = 20 of the 45 asked
    near = foot(tmp_path / "c", hole_shape="slotted along", anchors_x=(440.0,))
    (edge,) = [f for f in near.findings if f.rule == "rod-edge"]
    # past the column a weld of 12, 36 for the nut, 55 to the edge, on 5, and 5: 110; 260 to the edge, a rod at 220
    assert bounds(made(near))[0] == 260.0 and (edge.level, round(edge.actual, 2), edge.required) == ("breach", 260.0 - 220.0 - 10.0, 45.0)


def test_rods_left_out_and_how_they_are_held(tmp_path: Path) -> None:
    four = made(foot(tmp_path / "a"))
    three = made(foot(tmp_path / "b", rods_off=[2]))
    gone = {(r.x, r.y) for r in four.rods} - {(r.x, r.y) for r in three.rods}
    assert gone == {(min(r.x for r in four.rods), max(r.y for r in four.rods))}  # the second of the left line, from the near side
    assert len([h for h in plate(three).holes if h.kind == "anchor"]) == 3
    other = made(foot(tmp_path / "c", rods_off=[2], rods_counted="far side"))
    assert {(r.x, r.y) for r in four.rods} - {(r.x, r.y) for r in other.rods} == {(min(r.x for r in four.rods), min(r.y for r in four.rods))}
    with pytest.raises(TinCleatError, match="there is no rod 5"):
        foot(tmp_path / "d", rods_off=[5])
    with pytest.raises(TinCleatError, match="all 4 rods are left out"):
        foot(tmp_path / "e", rods_off=[1, 2, 3, 4])
    # through a pad 600 deep: a plate washer of 8 and a nut of 21.5 on its other face, and the rod beyond them
    through = made(foot(tmp_path / "f", rod_foot="through")).rods[0]
    assert through.washers == pytest.approx((50.0, -608.0)) and through.nuts == pytest.approx((58.0, -629.5)) and through.bottom < -629.5 - 6
    assert made(foot(tmp_path / "g", rod_foot="resin")).rods[0].nuts == pytest.approx((58.0,))


@pytest.mark.parametrize(("thick", "leg"), [(8.0, 5.0), (10.0, 5.0), (11.0, 6.0), (30.0, 12.0)])
def test_fillets_of_stiffeners_by_hand(tmp_path: Path, thick: float, leg: float) -> None:
    """Half as thick as the stiffener, on full millimetres, 5 at least and 12 at most: 0.5 x 11 = 5.5, up to 6."""
    d = foot(tmp_path / "s", stiffeners="on the flanges", stiffener_thickness=thick).made.detail  # type: ignore[union-attr]
    assert d.number("stiffener_weld").value == leg


def test_stiffeners_by_hand(tmp_path: Path) -> None:
    # plate 500 long: 250 - 150 - 10 = 90 from flange to 10 short of the edge; on the web 250 - 5.5 - 10 = 234.5, on 5: 230
    e = foot(tmp_path / "a", stiffeners="on flanges and web", stiffener_height=200.0)
    d = made(e)
    some = [p for p in d.plates if p.name.startswith("stiffener")]
    assert sorted((round(p.outline.bounds[2], 2), round(p.outline.bounds[3], 2)) for p in some) == [(90, 200), (90, 200), (230, 200), (230, 200)]
    assert not breaches(e)
    # flange welds of 12 (0.6 x 19 = 11.4) and 5 more: a snipe of 20
    assert d.number("stiffener_snipe").value == 20.0
    # 0.5 x 12 = 6: four plates, both faces, along the base plate and up the column: from the snipe on
    seams = [w for w in d.welds if "stiffener" in " ".join(w.parts)]
    assert len(seams) == 16 and sum(math.dist(w.start, w.end) for w in seams) == pytest.approx(2 * 2 * (90 - 20 + 230 - 20 + 2 * (200 - 20)))
    with pytest.raises(TinCleatError, match="stand against the flanges and web of an I-section, or the walls of a square"):
        foot(tmp_path / "b", "CHS 168.3x6.3", stiffeners="on the flanges")
    with pytest.raises(TinCleatError, match="little more than its snipe"):
        foot(tmp_path / "c", stiffeners="on the flanges", projection=50.0)


def test_keys_of_every_form(tmp_path: Path) -> None:
    flat = made(foot(tmp_path / "a", key_depth=80.0))
    cross = made(foot(tmp_path / "b", key_depth=80.0, key_form="cross"))
    # a flat 100 x 80 x 20; crossed by two wings of (100 - 20) / 2 = 40 each
    assert plate(flat, "shear key").volume == 100 * 80 * 20
    assert sum(p.volume for p in cross.plates if "key" in p.name) == pytest.approx((100 + 80) * 80 * 20)
    e = foot(tmp_path / "c", key_depth=90.0, key_form="section", key_turn=math.radians(30), key_off_x=40.0)
    (piece,) = made(e).pieces
    assert (piece.section, piece.length) == ("HEA 100", 90.0) and not breaches(e)
    assert piece.frame.origin == pytest.approx((40.0, 0.0, 30.0)) and piece.frame.x == pytest.approx((0, 0, -1)) and abs(piece.frame.z[1]) == pytest.approx(0.5)
    with pytest.raises(TinCleatError, match="shear key 20 x 600 mm leaves the plate"):
        foot(tmp_path / "d", key_depth=80.0, key_length=600.0)
    with pytest.raises(TinCleatError, match="crossed flats 30 mm long are little longer than they are thick, 20 mm"):
        foot(tmp_path / "f", key_depth=80.0, key_form="cross", key_length=30.0)
    with pytest.raises(TinCleatError, match="would pass the levelling plate"):
        foot(tmp_path / "e", key_depth=80.0, levelling_plate=10.0)


def test_levelling_plate_and_template(tmp_path: Path) -> None:
    e = foot(tmp_path / "a", levelling_plate=10.0, template=6.0)
    d = made(e)
    # from the top of concrete up: 30 of grout with the template lying in it, 10 of levelling plate, the base plate
    levels = {p.name: (round(p.frame.origin[2], 2), p.thickness) for p in d.plates}
    assert levels == {"base plate": (40.0, 20.0), "levelling plate": (30.0, 10.0), "rod template": (0.0, 6.0)} and d.ends[0].point[2] == 60.0
    assert {h.width for h in plate(d, "rod template").holes} == {26.0} and {h.width for h in plate(d, "levelling plate").holes} == {30.0}
    with pytest.raises(TinCleatError, match="template of 6 mm does not lie in 0 mm of grout"):
        foot(tmp_path / "b", template=6.0, grout=0.0)


def test_vents(tmp_path: Path) -> None:
    desk, e = joined(tmp_path / "a", [column("HEB 300")], "base-plate", "M1.start", vents=2, vent_place="the web")
    assert {(h.element, h.width) for h in made(e).holes} == {("web", 30.0)}
    bare = joined(tmp_path / "b", [column("HEB 300")], "base-plate", "M1.start")[0]
    (m,), (n,) = desk.project.members, bare.project.members
    assert worked_of(bare.ledger, n).volume - worked_of(desk.ledger, m).volume == pytest.approx(2 * math.pi * 15**2 * 11, rel=2e-3)
    four = [h for h in plate(made(foot(tmp_path / "c", vents=4))).holes if h.kind == "vent"]
    assert len(four) == 4 and len({(round(h.x, 2), round(h.y, 2)) for h in four}) == 4
    with pytest.raises(TinCleatError, match="has no web for vent holes"):
        foot(tmp_path / "d", "SHS 150x150x8", vents=1, vent_place="the web")


def test_posts_of_angles_tees_and_flats(tmp_path: Path) -> None:
    # L 100x100x10, root 12: both outer faces whole, the inner ones from the root on: 2 x 100 + 2 x (100 - 10 - 12)
    d = made(e := foot(tmp_path / "l", "L 100x100x10"))
    assert sum(math.dist(w.start, w.end) for w in d.welds) == pytest.approx(2 * 100 + 2 * 78, abs=0.5) and not breaches(e)
    d = made(e := foot(tmp_path / "f", "FL 100x20"))
    assert sum(math.dist(w.start, w.end) for w in d.welds) == pytest.approx(2 * 100) and not breaches(e)
    assert not breaches(foot(tmp_path / "t", "WT9X71.5"))


def test_a_leaning_foot_by_hand(tmp_path: Path) -> None:
    lean = math.radians(8)
    members = [{**column("SHS 150x150x8"), "end": [4000 * math.tan(lean), 0, 4000]}]
    _, e = joined(tmp_path, members, "base-plate", "M1.start", grout=30.0)
    d = made(e)
    under = plate(d)
    t = under.thickness
    # the drawn foot is on the concrete: 30 of grout and the plate over it the column stands (30 + t) tan 8 further on, in the plate's middle
    assert under.frame.origin[2] == pytest.approx(30.0)
    assert math.hypot(under.frame.origin[0], under.frame.origin[1]) == pytest.approx((30 + t) * math.tan(lean), abs=1e-3)
    assert d.ends[0].point[2] == pytest.approx(30 + t) and d.ends[0].normal == (0.0, 0.0, 1.0) and not breaches(e)
    # walls across the lean stay 150 less two corners and their first chords, those along it are 1 / cos 8 as long
    r = sized("SHS 150x150x8").r1
    flat = 150 - 2 * r + 2 * r * math.tan(math.radians(15))
    walls = [w for w in d.welds if "wall" in w.name]
    runs = sorted({round(math.dist(w.start, w.end), 1) for w in walls})
    assert runs[0] == pytest.approx(flat, abs=0.1) and runs[-1] == pytest.approx(flat / math.cos(lean), abs=0.1)
    assert sorted({round(math.degrees(fusion_angle(w))) for w in walls}) == [82, 90, 98] and all_round(d.welds)


def test_stiffeners_on_a_tubes_walls(tmp_path: Path) -> None:
    """SHS 150x150x8: four plates in the middle of its walls, each 75 from the column's middle."""
    e = foot(tmp_path / "a", "SHS 150x150x8", stiffeners="on flanges and web", stiffener_height=150.0)
    some = [p for p in made(e).plates if p.name.startswith("stiffener")]
    reach = plate(made(e)).outline.bounds[2] - 75 - 10  # to 10 short of the edge, on 5
    assert len(some) == 4 and {p.outline.bounds[2] for p in some} == {math.floor(reach / 5) * 5} and not breaches(e)
    middles = sorted((round(float(x)), round(float(y))) for p in some for x, y, _ in p.frame.to_world([(0.0, 0.0, p.thickness / 2)]))
    assert middles == [(-75, 0), (0, -75), (0, 75), (75, 0)]


def test_a_leaning_foot_is_stiffened(tmp_path: Path) -> None:
    """HEB 300 that leans 8 degrees along its depth: the flanges lean with it, the stiffeners stand plumb.  On the side it leans to a stiffener's
    inner edge goes 150 tan 8 = 21.08 out over its height, on the other as far in."""
    lean = math.radians(8)
    e = joined(tmp_path / "a", [{**column("HEB 300"), "end": [4000 * math.tan(lean), 0, 4000]}], "base-plate", "M1.start", stiffeners="on the flanges", stiffener_height=150.0)[1]
    assert not breaches(e)
    some = {p.name: p for p in made(e).plates if p.name.startswith("stiffener")}
    tops = {}
    for name, p in some.items():
        high = [(x, y) for x, y, _ in p.outline.vertices if abs(y - 150) < 1e-6]
        tops[name] = round(min(x for x, _ in high), 2)
    assert sorted(tops.values()) == [-21.08, 21.08]
    # a flange of a leaning column lies 150 / cos 8 from its middle along the level
    at = {name: float(p.frame.origin[0]) for name, p in some.items()}
    assert abs(at["stiffener right"] - at["stiffener left"]) == pytest.approx(300 / math.cos(lean), abs=1e-3)
    # aside it would run off a narrow face: 400 tan 8 = 56 over 400, and half its 12; half a flange is 45.5
    with pytest.raises(TinCleatError, match=r"stiffener right, 400 mm high, runs \d+ mm past the column's face, which leans aside"):
        joined(tmp_path / "b", [{**column("IPE 180"), "end": [0, 4000 * math.tan(lean), 4000]}], "base-plate", "M1.start", stiffeners="on the flanges", stiffener_height=400.0)


def test_the_pocket_round_a_key(tmp_path: Path) -> None:
    _, e = joined(tmp_path / "a", [column("HEB 300")], "base-plate", "M1.start", key_depth=80.0)
    (pocket,) = (b for b in made(e).blocks if b.name == "key pocket")
    x0, y0, x1, y1 = pocket.outline.bounds
    # a flat 100 x 20 with 50 round it; 30 of grout over the concrete: the key goes 50 into it, the pocket 50 further
    assert (x1 - x0, y1 - y0) == pytest.approx((120.0, 200.0)) and pocket.thickness == pytest.approx(100.0) and pocket.material == "grout"
    top = pocket.frame.to_world([(0.0, 0.0, pocket.thickness)])[0][2]
    assert top == pytest.approx(0.0)  # the top of the concrete, where the column was drawn to
    # a piece of a section, turned: its own extents
    _, e = joined(tmp_path / "b", [column("HEB 300")], "base-plate", "M1.start", key_depth=80.0, key_form="section", key_pocket=30.0)
    (pocket,) = (b for b in made(e).blocks if b.name == "key pocket")
    x0, y0, x1, y1 = pocket.outline.bounds
    assert sorted((round(x1 - x0), round(y1 - y0))) == [96 + 60, 100 + 60]
    assert not [b for b in made(joined(tmp_path / "c", [column("HEB 300")], "base-plate", "M1.start", key_depth=80.0, key_pocket=0.0)[1]).blocks if b.name == "key pocket"]
    for n, (typed, words) in enumerate((({"key_depth": 25.0}, "5 mm over the concrete"), ({"key_depth": 80.0, "key_pocket": 250.0}, "would stand in the key's pocket"))):
        with pytest.raises(TinCleatError, match=words):
            joined(tmp_path / f"z{n}", [column("HEB 300")], "base-plate", "M1.start", **typed)


def test_fillets_follow_the_rounded_tips_of_tapered_flanges(tmp_path: Path) -> None:
    # IPN 380: flange tips rounded with 8.2 mm; square corners would leave the steel by 8.2 (1/sin 49° - 1) = 2.7 mm
    _, e = joined(tmp_path / "a", [column("IPN 380")], "base-plate", "M1.start")
    tips = [w for w in made(e).welds if w.name.endswith("rounded tip")]
    half = (math.pi / 2 + math.atan(0.14)) / 2
    # the tangent at the middle of the rounding cuts both faces 8.2 (1/sin - 1)/cos from the corner: its length is 2 sin of half the angle times that
    assert len(tips) == 4 and all(math.dist(w.start, w.end) == pytest.approx(2 * math.sin(half) * 8.2 * (1 / math.sin(half) - 1) / math.cos(half), abs=0.1) for w in tips)
    assert not breaches(e)


def test_forces_go_with_the_foot_and_shape_nothing(tmp_path: Path) -> None:
    """450 kN down and 60 up are on the sheet, in the file handed on, and change no plate."""
    plain = made(foot(tmp_path / "a"))
    desk, e = joined(tmp_path / "b", [column("HEB 300")], "base-plate", "M1.start", force_down="450", force_up="60 kN")
    assert made(e).plates == plain.plates and made(e).forces == (("down", 450e3), ("up", 60e3))
    d = compose(pictures(e.made.assembled), e.findings, 160, 110, "mm", "base-plate")
    assert [t.text for t in d.texts if "force" in t.text] == ["Greatest force down 450 kN, up 60 kN"]
    d = compose(pictures(e.made.assembled), e.findings, 160, 110, "ft-in", "base-plate")
    assert [t.text for t in d.texts if "force" in t.text] == ["Greatest force down 101.16 kip, up 13.49 kip"]  # 450 / 4.4482216
    file = ifcopenshell.open(str(export_ifc(desk.ledger, tmp_path / "f.ifc")))
    told = {p.Name: p.NominalValue.wrappedValue for s in file.by_type("IfcPropertySet") if s.Name == "TinCleat_Connection" for p in s.HasProperties}
    assert told["Greatest force down"] == "450 kN" and told["Greatest force up"] == "60 kN" and "Greatest force across" not in told
    with pytest.raises(TinCleatError, match=r"Greatest force down: .*a force such as 450"):
        desk.run("change-connections", ids=[e.connection.id], settings={"force_down": "much"})
