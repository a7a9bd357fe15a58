"""Loose parts by hand: where they lie, what they are bolted through and welded along, grooves by designation, and the commands of their list."""

import math
from pathlib import Path
from typing import Any

import ifcopenshell
import ifcopenshell.geom
import manifold3d
import msgspec
import numpy as np
import pytest
from site_parts import column, girder
from test_new_families import breaches

from tincleat.catalogue.grooves import groove, grooves, right_ones
from tincleat.catalogue.sections import section
from tincleat.commands.desk import Desk
from tincleat.details.assembled import Assembled
from tincleat.details.bodies import Body, bodies, solid
from tincleat.details.parts import BentPlate, Detail, Plate
from tincleat.errors import BadValue, NotFound, TinCleatError
from tincleat.exchange.ifc import export_ifc
from tincleat.families.loose.settings import SETTINGS
from tincleat.families.registry import family
from tincleat.ledger.entries import Entry
from tincleat.project.entities import HouseRules, inch_house
from tincleat.proof.registry import prove
from tincleat.proof.welds import length, throat
from tincleat.release.bill import bill, bolt_list
from tincleat.release.sheet import compose, pictures
from tincleat.release.weld_list import section_area, weld_list
from tincleat.standards.rulesets import rules_of
from tincleat.steel.body import steel_mesh, steel_volume
from tincleat.steel.cuts import Cuts

BEAM = "UB 457x191x67"  # 453.4 x 189.9, web 8.5, flange 12.7, root 10


def typed(**settings: Any) -> dict[str, Any]:
    return {k.replace("__", "/").replace("from/", "from_/"): v for k, v in settings.items()}


def laid(path: Path, member: str = BEAM, house: HouseRules | None = None, **settings: Any) -> tuple[Desk, Entry]:
    """Loose parts at 2,500 of an 8 m girder along x, its middle line at 3,000."""
    desk = Desk.create(path.with_suffix(".tincleat"), house or HouseRules(), True)
    desk.run("add-members", members=[girder(member)])
    desk.run("place-connection", family="loose", at=["m1@100" if house and house.inch else "m1@2500"], settings=typed(**settings))
    return desk, entry(desk)


def entry(desk: Desk) -> Entry:
    return next(e for e in desk.ledger.entries.values() if e.connection is not None)


def detail(e: Entry) -> Detail:
    assert e.made is not None, e.problem
    return e.made.detail


def box(p: Plate) -> tuple[np.ndarray, np.ndarray]:
    x0, y0, x1, y1 = p.outline.bounds
    c = p.frame.to_world([(x, y, z) for x in (x0, x1) for y in (y0, y1) for z in (0, p.thickness)])
    return c.min(axis=0), c.max(axis=0)


def exact(body: Body) -> "manifold3d.Manifold":
    """A body as a solid of another engine."""
    return manifold3d.Manifold(manifold3d.Mesh64(vert_properties=np.ascontiguousarray(body.mesh.points), tri_verts=body.mesh.triangles.astype(np.uint64)))


def runs(d: Detail) -> list[float]:
    return sorted(round(length(w), 1) for w in d.welds)


# --- where parts lie -------------------------------------------------------------


def test_faces_of_a_beam_by_hand(tmp_path: Path) -> None:
    half = 453.4 / 2
    want = {  # z or y of the face, and which way the plate of 10 grows from it
        "top": (2, half, half + 10), "bottom": (2, -half - 10, -half), "near side": (1, -4.25 - 10, -4.25), "far side": (1, 4.25, 14.25),
        "under the top far": (2, half - 12.7 - 10, half - 12.7), "over the bottom near": (2, -half + 12.7, -half + 12.7 + 10),
    }  # fmt: skip
    for i, (on, (axis, low, high)) in enumerate(want.items()):
        _, e = laid(tmp_path / str(i), part__1="plate", on__1=on, length__1=100, width__1=50)
        a, b = box(detail(e).plates[0])
        assert (a[axis], b[axis]) == (pytest.approx(low, abs=0.01), pytest.approx(high, abs=0.01)), on
        assert b[0] - a[0] == pytest.approx(100) and (a[0] + b[0]) / 2 == pytest.approx(0)
    # beside the web: from the root, 4.25 + 10 = 14.25, to the edge, 94.95: its middle is 54.6
    _, e = laid(tmp_path / "u", part__1="plate", on__1="under the top far", length__1=100, width__1=50)
    a, b = box(detail(e).plates[0])
    assert (a[1] + b[1]) / 2 == pytest.approx(54.6, abs=0.01)


def test_it_stays_centred_or_keeps_its_edge_when_the_section_changes(tmp_path: Path) -> None:
    desk, e = laid(tmp_path / "a", part__1="holes", lines__1=[90], part__2="holes", along__2=200, from__2="the left edge", across__2=35)
    spots = sorted(round(h.point[1], 2) for h in detail(e).holes)
    assert spots == [round(-189.9 / 2 + 35, 2), -45.0, 45.0]
    desk.run("change-members", ids=["m1"], section="HEB 300")
    assert sorted(round(h.point[1], 2) for h in detail(entry(desk)).holes) == [-150 + 35, -45.0, 45.0]
    desk.undo()
    desk.run("move-members", ids=["m1"], by=[0, 0, 700])
    assert entry(desk).joint.frame.origin[2] == pytest.approx(3700)


def test_upright_plates_corners_and_turns(tmp_path: Path) -> None:
    _, e = laid(tmp_path / "a", part__1="plate", on__1="top", stands__1="upright across", length__1=120, width__1=80, corner__1="sniped", corner_size__1=25, corners__1="away from the face")
    p = detail(e).plates[0]
    a, b = box(p)
    assert b - a == pytest.approx([10, 120, 80]) and a[2] == pytest.approx(226.7)
    assert p.outline.area == pytest.approx(120 * 80 - 25 * 25)  # two snipes of half 25 x 25
    _, e = laid(tmp_path / "b", part__1="plate", on__1="top", stands__1="upright along", length__1=120, width__1=80, corner__1="rounded", corner_size__1=40, corners__1="away from the face")
    assert detail(e).plates[0].outline.area == pytest.approx(120 * 80 - 2 * (1 - math.pi / 4) * 40 * 40)
    _, e = laid(tmp_path / "c", part__1="plate", length__1=100, width__1=40, turn__1="30")
    way = np.array(detail(e).plates[0].frame.x)
    assert way == pytest.approx([math.cos(math.radians(30)), math.sin(math.radians(30)), 0])
    with pytest.raises(TinCleatError, match=r"part 1, plate: snipes of 60 mm take all of a side 80 mm long"):
        laid(tmp_path / "d", part__1="plate", length__1=200, width__1=80, corner__1="sniped", corner_size__1=60)
    with pytest.raises(TinCleatError, match="crosses itself"):
        laid(tmp_path / "e", part__1="plate", points__1=[0, 0, 100, 100, 100, 0, 0, 100])
    with pytest.raises(TinCleatError, match="no inner face of a flange"):
        laid(tmp_path / "f", "SHS 200x200x8", part__1="plate", on__1="under the top far")


def test_a_bent_plate_weighs_and_unfolds_as_it_is_bent(tmp_path: Path) -> None:
    _, e = laid(tmp_path, part__1="bent plate", length__1=100, rise__1=60, width__1=120, thickness__1=8, radius__1=16)
    (b,) = detail(e).bents
    assert isinstance(b, BentPlate)
    # straight 100 + 60, a quarter ring of 16 to 24: pi / 4 (24² - 16²) = 251.3 mm²; times 120
    assert b.volume == pytest.approx((160 * 8 + math.pi / 4 * (24**2 - 16**2)) * 120)
    # k = 0.65 + 0.5 lg 2 = 0.8005: quarter of 2 pi (16 + 0.8005 x 4) = 30.16
    assert b.developed == pytest.approx(160 + math.pi / 2 * (16 + (0.65 + 0.5 * math.log10(2)) * 4))


def test_pieces_stand_lean_and_are_cut_to_the_shape(tmp_path: Path) -> None:
    _, e = laid(tmp_path / "a", part__1="piece", section__1="SHS 80x80x5", length__1=300)
    (p,) = detail(e).pieces
    assert p.volume == pytest.approx(p.shape.area * 300, rel=1e-6)
    # leaning 30° it is cut along the face; on its middle line it is as long
    _, e = laid(tmp_path / "b", part__1="piece", section__1="SHS 80x80x5", length__1=300, tilt__1="30")
    (p,) = detail(e).pieces
    assert p.volume == pytest.approx(p.shape.area * 300, rel=1e-6) and not breaches(e)
    # against the web and under the flanges, 3 off the true outline: no steel shared, by the proof's own solids and none lost
    _, e = laid(tmp_path / "c", part__1="piece", on__1="near side", section__1="IPE 200", length__1=300, end__1="to the member's shape", clear__1=3)
    (p,) = detail(e).pieces
    assert not breaches(e) and p.volume == pytest.approx(p.shape.area * (300 - 3), rel=0.002)


# --- bolts and holes -------------------------------------------------------------


def test_bolts_take_what_lies_on_what(tmp_path: Path) -> None:
    _, e = laid(tmp_path, part__1="plate", length__1=240, width__1=160, part__2="plate", on__2="part 1", length__2=160, width__2=120, thickness__2=6, part__3="bolts", on__3="part 2", rows__3=[80], lines__3=[70], bolt__3="M16")
    d = detail(e)
    assert [len(p.holes) for p in d.plates] == [4, 4] and len(d.holes) == 4 and {h.element for h in d.holes} == {"top flange"}
    assert {round(f.grip, 3) for f in e.made.assembled.fitted} == {10 + 6 + 12.7}  # type: ignore[union-attr]
    assert breaches(e) <= {"edge-greatest"}


def test_staggered_left_out_and_slotted(tmp_path: Path) -> None:
    # timber packers: 14 mm holes at 600, in turn on two lines 110 apart: of 5 x 2 places every second
    _, e = laid(tmp_path / "a", part__1="holes", rows__1="4@600", lines__1=[110], staggered__1=True, hole_width__1=14)
    assert sorted((round(h.point[0]), round(h.point[1])) for h in detail(e).holes) == [(-1200, -55), (-600, 55), (0, -55), (600, 55), (1200, -55)]
    assert {h.width for h in detail(e).holes} == {14}
    desk, e = laid(tmp_path / "b", part__1="holes", rows__1=[100, 100], lines__1=[90], left_out__1="3 4", slot_way__1="across", hole_length__1=30, hole_width__1=18)
    holes = detail(e).holes
    assert sorted((round(h.point[0]), round(h.point[1])) for h in holes) == [(-100, -45), (-100, 45), (100, -45), (100, 45)]
    assert all(h.length == 30 and abs(h.along[1]) == pytest.approx(1) for h in holes)
    with pytest.raises(TinCleatError, match="there is no place 7"):
        desk.run("change-connections", ids=["c2"], settings={"left_out/1": [7]})
    with pytest.raises(TinCleatError, match="place 1 of the bolts 1 meets no steel"):
        laid(tmp_path / "c", part__1="bolts", across__1=200)
    # the member ends 2,500 before the station: six spaces of 900 reach 2,700 to each side
    with pytest.raises(TinCleatError, match=r"place 7 of the holes 1 meets no steel \(places on the member or a part, or those left out"):
        laid(tmp_path / "d", part__1="holes", rows__1="6@900")


# --- welds: twelve situations -----------------------------------------------------


SITUATIONS: list[tuple[str, str, dict[str, Any], list[float]]] = [
    ("lap: a plate on a flange, all four sides", BEAM, {"part__1": "plate", "length__1": 160, "width__1": 100, "part__2": "weld"}, [100, 100, 160, 160]),
    # its edge flush with the flange's has no room there
    ("lap flush with an edge", BEAM, {"part__1": "plate", "length__1": 160, "width__1": 100, "from__1": "the left edge", "across__1": 50, "part__2": "weld"}, [100, 100, 160]),
    ("tee across a web", BEAM, {"part__1": "plate", "on__1": "near side", "stands__1": "upright across", "length__1": 120, "width__1": 80, "part__2": "weld"}, [120, 120]),
    ("tee along a flange, longer than the web is thick", BEAM, {"part__1": "plate", "stands__1": "upright along", "length__1": 200, "width__1": 80, "part__2": "weld"}, [200, 200]),
    # across a flange of 189.9: a plate of 240 stands on it along 189.9, and a touch
    ("tee past both edges", BEAM, {"part__1": "plate", "stands__1": "upright across", "length__1": 240, "width__1": 80, "part__2": "weld"}, [190.0, 190.0]),
    ("corner: flush with an edge, one side", BEAM, {"part__1": "plate", "stands__1": "upright along", "length__1": 200, "width__1": 80, "from__1": "the left edge", "across__1": 5, "part__2": "weld"}, [200]),
    ("a plate on a plate", BEAM, {"part__1": "plate", "length__1": 300, "width__1": 160, "part__2": "plate", "on__2": "part 1", "length__2": 150, "width__2": 80, "part__3": "weld", "of__3": "part 2"}, [80, 80, 150, 150]),
    ("a turned plate on a plate", BEAM, {"part__1": "plate", "length__1": 300, "width__1": 160, "part__2": "plate", "on__2": "part 1", "length__2": 120, "width__2": 60, "turn__2": "35", "part__3": "weld", "of__3": "part 2"}, [60, 60, 120, 120]),
    # L 90x90x8 lying along: heel, toe and the flat leg's two ends of 90
    ("an angle along a web", BEAM, {"part__1": "piece", "on__1": "far side", "lies__1": "along", "section__1": "L 90x90x8", "length__1": 200, "part__2": "weld"}, [90, 90, 200, 200]),
    # SHS 80x80x5 on a flange: walls of 80 less what the corners take, eight chords round these; the perimeter by its chords
    ("a square tube on a flange", BEAM, {"part__1": "piece", "section__1": "SHS 80x80x5", "length__1": 200, "part__2": "weld"}, []),
    ("a bent plate lying on a flange", BEAM, {"part__1": "bent plate", "length__1": 90, "width__1": 120, "rise__1": 60, "part__2": "weld"}, [90, 90, 120]),
    ("a plate between two others", BEAM, {"part__1": "plate", "on__1": "far side", "stands__1": "upright across", "along__1": -60, "length__1": 200, "width__1": 80, "part__2": "plate", "on__2": "far side", "stands__2": "upright across", "along__2": 60, "length__2": 200, "width__2": 80, "part__3": "plate", "on__3": "far side", "stands__3": "upright along", "length__3": 110, "width__3": 60, "part__4": "weld", "of__4": "part 3"}, [60, 60, 60, 60, 110, 110]),
    # its faces stand 5 off the tube's middle line, where the tube is sqrt(84.15² - 25) = 84 high: it stands on both lines
    ("a plate along a round tube", "CHS 168.3x6.3", {"part__1": "plate", "stands__1": "upright along", "length__1": 200, "width__1": 80, "part__2": "weld"}, [200, 200]),
    ("a plate in the corner of web and flange", BEAM, {"part__1": "plate", "on__1": "bottom", "stands__1": "upright across", "length__1": 150, "width__1": 60, "part__2": "weld"}, [150, 150]),
]  # fmt: skip


@pytest.mark.parametrize(("words", "member", "settings", "want"), SITUATIONS, ids=[s[0] for s in SITUATIONS])
def test_proposed_runs_by_hand(tmp_path: Path, words: str, member: str, settings: dict[str, Any], want: list[float]) -> None:
    _, e = laid(tmp_path / "a", member, **settings)
    d = detail(e)
    if want:
        assert runs(d) == want
    else:  # 4 (80 - 2 r) and the chords round four corners of r = 10, 30° each way: a little over a quarter circle each
        assert 4 * (80 - 20) + 2 * math.pi * 10 <= sum(runs(d)) <= 4 * (80 - 20) + 2 * math.pi * 10 * 1.1
    assert not [f for f in e.findings if f.level == "breach" and f.rule in ("weld-gap", "clash")]
    for w in d.welds if member == BEAM else ():  # a fillet is square where the faces are
        assert throat(w) == pytest.approx(w.leg / math.sqrt(2), rel=1e-6)


def test_runs_are_dropped_stitched_and_set_back(tmp_path: Path) -> None:
    base = {"part__1": "plate", "length__1": 160, "width__1": 100, "part__2": "weld"}
    desk, e = laid(tmp_path / "a", **base, left_out__2=[1], setback__2=15)
    assert runs(detail(e)) == [70, 130, 130] or runs(detail(e)) == [70, 70, 130]
    with pytest.raises(TinCleatError, match="every run of the 4 is left out"):
        desk.run("change-connections", ids=["c2"], settings={"left_out/2": [1, 2, 3, 4]})
    with pytest.raises(TinCleatError, match=r"part 2, weld: part 1|touches nothing"):
        laid(tmp_path / "b", part__1="plate", off__1=20, part__2="weld")
    _, e = laid(tmp_path / "t", **base, throat__2=5)
    assert {round(throat(w), 6) for w in detail(e).welds} == {5.0}
    with pytest.raises(TinCleatError, match="both typed"):
        laid(tmp_path / "tt", **base, throat__2=5, leg__2=7)
    # 700 long, stitches of 60 no further than 150 from middle to middle: 640 in 5 steps of 128, six of them; in turn on the other side five
    _, e = laid(tmp_path / "c", part__1="plate", stands__1="upright along", length__1=700, width__1=80, part__2="weld", stitch__2=60, pitch__2=150, stitches__2="in turn")
    assert runs(detail(e)) == [60] * 11
    first = sorted({round(float(w.start[0] + w.end[0]) / 2, 1) for w in detail(e).welds})
    assert np.diff(first) == pytest.approx([64.0] * 10)


# --- grooves ---------------------------------------------------------------------


def test_groove_designations() -> None:
    assert len(grooves()) >= 40 and {g.standard for g in grooves().values()} == {"AWS D1.1", "ISO 9692-1"}
    g = groove("tc-u4b gf")
    assert (g.designation, g.groove, g.angle, g.opening, g.root) == ("TC-U4b-GF", "single bevel", 45, 3.175, "backgouged") and not g.suits("B", 20) and g.suits("T", 20)
    assert groove("B-L1a").suits("B", 6) and not groove("B-L1a").suits("B", 8)  # 1/4 in at most
    with pytest.raises(NotFound, match="TC-U4b"):
        groove("TC-U4c")
    assert right_ones("T", 20.0, "AWS D1.1", "single bevel")[:2] == ["TC-U4a", "TC-U4a-GF"]


def test_a_groove_is_cut_into_the_plate_and_fills_in_its_figures(tmp_path: Path) -> None:
    plate = {"part__1": "plate", "stands__1": "upright along", "length__1": 180, "width__1": 100, "thickness__1": 20, "part__2": "weld"}
    _, e = laid(tmp_path / "a", **plate, prep__2="tc-u4b")
    d = detail(e)
    (p,) = d.plates
    # 45° right through 20: the edge loses a triangle of 20 x 20 / 2 along 180, and stands 3.175 off the flange
    assert p.volume == pytest.approx((100 * 20 - 200) * 180) and box(p)[0][2] == pytest.approx(226.7 + 3.175)
    (w,) = d.welds
    assert (w.kind, w.leg, w.opening, length(w)) == ("groove", 20, 3.175, pytest.approx(180)) and not breaches(e)
    assert math.degrees(math.acos(np.dot(w.u, w.v))) == pytest.approx(45)
    _, e = laid(tmp_path / "b", **plate, prep__2="TC-U4a-GF")
    assert [p.name for p in detail(e).plates] == ["plate 1", "backing 2"] and not breaches(e)
    for i, (name, words) in enumerate((("B-U2a", r"is for a butt joint.*\(TC-U4a"), ("TC-L1b", r"is for 3 mm to 6\.35 mm; this plate is 20 mm.*\(TC-U4a"), ("1.9.1", "is for 3 mm to 10 mm"))):
        with pytest.raises(TinCleatError, match=words):
            laid(tmp_path / f"r{i}", **plate, prep__2=name)
    with pytest.raises(BadValue, match="TC-U4b"):
        laid(tmp_path / "n", **plate, prep__2="TC-U4x")
    with pytest.raises(TinCleatError, match="does not stand upright"):
        laid(tmp_path / "f", part__1="plate", part__2="weld", prep__2="TC-U4b")


# --- cuts ------------------------------------------------------------------------


def test_cuts_weigh_what_they_take(tmp_path: Path) -> None:
    desk, e = laid(tmp_path, part__1="cut", on__1="near side", length__1=200, width__1=100)
    line = next(x for x in bill(desk.ledger) if x.kind == "beam")
    whole = e.joint.case.members[0].shape.area * 8000 * 7.85e-6
    assert line.mass == pytest.approx(whole - 200 * 100 * 8.5 * 7.85e-6, abs=0.01)
    desk.run("add-part", connection="c2", part="plate", settings={"on": "top", "length": 200, "width": 120})
    desk.run("add-part", connection="c2", part="cut", settings={"on": "part 2", "along": 80, "across": 50, "length": 60, "width": 40})
    (p,) = detail(entry(desk)).plates
    # the cut reaches from 50 to 110 along, the plate ends at 100; from 30 to 70 across, it ends at 60
    assert p.outline.area == pytest.approx(200 * 120 - 50 * 30)
    with pytest.raises(TinCleatError, match="lies inside plate 2"):
        desk.run("add-part", connection="c2", part="cut", settings={"on": "part 2", "length": 20, "width": 20})


# --- the list --------------------------------------------------------------------


def test_parts_are_added_copied_and_taken_out(tmp_path: Path) -> None:
    desk, _ = laid(tmp_path, part__1="plate", length__1=120, width__1=80)
    desk.run("add-part", connection="c2", part="weld")
    desk.run("copy-part", connection="c2", number=1, along=200, count=2)
    d = detail(entry(desk))
    assert [p.name for p in d.plates] == ["plate 1", "plate 3", "plate 5"] and len(d.welds) == 12
    assert [round(float(sum(box(p))[0]) / 2) for p in d.plates] == [0, 200, 400]
    with pytest.raises(TinCleatError, match="part 2 lies on part 1, or is a weld of it"):
        desk.run("remove-part", connection="c2", number=1)
    desk.run("remove-part", connection="c2", number=1, with_all=True)
    assert [p.name for p in detail(entry(desk)).plates] == ["plate 3", "plate 5"]
    desk.undo()
    assert len(detail(entry(desk)).plates) == 3
    with pytest.raises(TinCleatError, match="24 parts are the most"):
        desk.run("copy-part", connection="c2", number=1, along=100, count=20)
    for name, args, words in (("remove-part", {"number": 9}, "has no part 9"), ("add-part", {"part": "rope"}, "not a choice"), ("copy-part", {"number": 1}, "lies somewhere else")):
        with pytest.raises(TinCleatError, match=words):
            desk.run(name, connection="c2", **args)
    # bolts lie on the last plate, a cut on the face that it lies on
    two, _ = laid(tmp_path / "w", part__1="plate", on__1="far side", length__1=200, width__1=160)
    for what in ("bolts", "cut"):
        two.run("add-part", connection="c2", part=what)
    settings = next(iter(two.project.connections.values())).settings
    assert settings["on/2"] == "part 1" and settings["on/3"] == "far side"
    one, _ = laid(tmp_path / "o", part__1="holes")
    with pytest.raises(TinCleatError, match="no plate or piece to weld"):
        one.run("add-part", connection="c2", part="weld")
    with pytest.raises(TinCleatError, match="that is the last part"):
        one.run("remove-part", connection="c2", number=1)


def test_a_pattern_is_saved_and_used_on_another_member(tmp_path: Path) -> None:
    desk, _ = laid(tmp_path, part__1="holes", rows__1="4@600", lines__1=[110], staggered__1=True, hole_width__1=14)
    desk.run("save-typical", name="packer holes", connection="c2")
    desk.run("add-members", members=[{**girder("HEB 300"), "start": [-4000, 5000, 3000], "end": [4000, 5000, 3000]}])
    other = list(desk.project.members)[-1]
    desk.run("place-connection", family="loose", at=[f"{other}@4000"], typical="packer holes")
    found = [e for e in desk.ledger.entries.values() if e.connection is not None]
    assert len(found) == 2 and all(len(detail(e).holes) == 5 for e in found) and found[1].connection.typical  # type: ignore[union-attr]


def test_a_detail_is_copied_along_its_member(tmp_path: Path) -> None:
    desk, _ = laid(tmp_path, part__1="holes", lines__1=[90])
    desk.run("copy-along", connection="c2", spacings="3@600")
    assert sorted(c.at for c in desk.project.connections.values()) == [2500, 3100, 3700, 4300]  # type: ignore[type-var]
    desk.run("copy-along", connection="c2", spacings=[1000.0], back=True)
    assert len(desk.project.connections) == 5
    for args, words in (({"spacings": "9@600"}, "something is there already"), ({"spacings": "3@2500"}, "has no station"), ({"spacings": []}, "no spacing is given")):
        with pytest.raises(TinCleatError, match=words):
            desk.run("copy-along", connection="c2", **args)
    desk.undo()
    assert len(desk.project.connections) == 4
    foot, _ = laid(tmp_path / "f", part__1="plate")
    foot.run("add-members", members=[column("HEB 200")])
    foot.run("place-connection", family="base-plate", at=[f"{list(foot.project.members)[-1]}.start"])
    with pytest.raises(TinCleatError, match="hangs on no station"):
        foot.run("copy-along", connection=list(foot.project.connections)[-1], spacings="600")


def test_it_is_listed_copied_and_mirrored_with_its_member(tmp_path: Path) -> None:
    desk, e = laid(tmp_path, part__1="plate", on__1="far side", across__1=40, length__1=200, width__1=120, surface__1="chequer", part__2="bolts", on__2="far side", across__2=40, rows__2=[90], lines__2=[60])
    assert any("chequer" in p.name for p in detail(e).plates)
    desk.run("mirror-members", ids=["m1"], line=[[0, 2000, 0], [1, 2000, 0]])
    both = [x for x in desk.ledger.entries.values() if x.connection is not None]
    (a,), (b,) = (list(detail(x).plates) for x in both)
    ca, cb = (x.joint.frame.to_world([np.mean(box(p), axis=0)])[0] for x, p in zip(both, (a, b), strict=True))
    assert cb == pytest.approx([ca[0], 4000 - ca[1], ca[2]], abs=0.01)
    plates = [x for x in bill(desk.ledger) if x.kind == "plate"]
    assert sum(x.count for x in plates) == 2 and sum(x.count for x in bolt_list(desk.ledger)) == 8


# what a setting needs to mean something, and a value of it: of part 1 unless it says otherwise
EFFECTS: dict[str, tuple[dict[str, Any], Any]] = {
    "rise_3": ({"part/1": "bent plate", "rise_2/1": 40}, 30), "bend_3": ({"part/1": "bent plate", "rise_2/1": 40, "rise_3/1": 30}, -0.5),
    "rise_4": ({"part/1": "bent plate", "rise_2/1": 40, "rise_3/1": 30, "bend_3/1": -1.0}, 20), "bend_4": ({"part/1": "bent plate", "rise_2/1": 40, "rise_3/1": 30, "bend_3/1": -1.0, "rise_4/1": 20}, -0.5),
    "to_along": ({"part/1": "piece", "lies/1": "to a point"}, 120), "to_across": ({"part/1": "piece", "lies/1": "to a point"}, 30), "to_off": ({"part/1": "piece", "lies/1": "to a point"}, 420),
    "slant": ({"part/2": "cut", "on/2": "part 1", "shape/2": "bevel", "along/2": 200}, 0.5), "deep": ({"part/2": "cut", "on/2": "part 1", "shape/2": "bevel", "along/2": 200}, 4),
    "plane_turn": ({"on/1": "a plane of its own"}, 0.7), "plane_lean": ({"on/1": "a plane of its own"}, 0.7), "mitre_start": ({"part/1": "piece", "lies/1": "along"}, 0.5), "mitre": ({"part/1": "piece"}, 0.5),
    "mitre_way": ({"part/1": "piece", "section/1": "IPE 160", "mitre/1": 0.5}, "its breadth"), "through": ({"part/2": "bolts"}, [0]),
    "fill": ({"part/2": "plug welds", "on/2": "part 1"}, 6), "stud": ({"part/1": "studs", "length/1": 120}, "SD 22"),
    "finish": ({"part/2": "weld"}, "flush"), "tail": ({"part/2": "weld"}, "test by dye"),
    "hand": ({"on/1": "far side"}, "mirrored"), "part": ({}, "piece"), "on": ({}, "bottom"), "stands": ({}, "upright along"), "lies": ({"part/1": "piece"}, "along"), "along": ({}, 50), "from_": ({}, "the left edge"),
    "across": ({}, 20), "off": ({}, 5), "turn": ({}, 0.3), "length": ({}, 333), "width": ({}, 77), "thickness": ({}, 15), "points": ({}, [0, 0, 90, 0, 90, 60]), "corner": ({}, "sniped"), "corner_size": ({"corner/1": "rounded"}, 11),
    "corners": ({"corner/1": "sniped", "stands/1": "upright along"}, "at the face"), "grade": ({}, "S355"), "surface": ({}, "chequer"), "rise": ({"part/1": "bent plate"}, 90), "bend": ({"part/1": "bent plate"}, 0.7), "rise_2": ({"part/1": "bent plate"}, 40),
    "bend_2": ({"part/1": "bent plate", "rise_2/1": 40}, 0.5), "radius": ({"part/1": "bent plate"}, 33), "section": ({"part/1": "piece"}, "IPE 160"), "spin": ({"part/1": "piece"}, 0.4), "tilt": ({"part/1": "piece", "section/1": "SHS 60x60x5"}, 0.3),
    "end": ({"part/1": "piece", "section/1": "SHS 60x60x5", "tilt/1": 0.2}, "square"), "clear": ({"part/1": "piece", "on/1": "near side", "section/1": "IPE 160", "end/1": "to the member's shape"}, 9), "rows": ({"part/1": "holes"}, [80]), "lines": ({"part/1": "holes"}, [70]),
    "staggered": ({"part/1": "holes", "rows/1": [80], "lines/1": [70]}, True), "left_out": ({"part/1": "holes", "rows/1": [80]}, [2]), "bolt": ({"part/2": "bolts"}, "M16"), "bolt_grade": ({"part/2": "bolts"}, "10.9"), "hole": ({"part/2": "bolts"}, "oversize"), "head": ({"part/2": "bolts", "thickness/1": 15}, "countersunk"), "line": ({"part/2": "weld"}, [-40, 50, 40, 50]),
    "hole_width": ({"part/1": "holes"}, 31), "hole_length": ({"part/1": "holes"}, 55), "slot_way": ({"part/1": "holes", "hole_length/1": 55}, "across"), "site": ({"part/2": "bolts"}, False), "of": ({"part/2": "plate", "along/2": 250, "part/3": "weld"}, "part 2"),
    "to": ({"part/2": "plate", "on/2": "part 1", "length/2": 90, "width/2": 60, "part/3": "weld"}, "member"), "root_radius": ({"stands/1": "upright along", "thickness/1": 20, "part/2": "weld", "prep/2": "TC-U8a"}, 7), "prep": ({"stands/1": "upright along", "thickness/1": 20, "part/2": "weld"}, "TC-U4b"), "leg": ({"part/2": "weld"}, 9), "throat": ({"part/2": "weld"}, 6), "stitch": ({"part/2": "weld"}, 40),
    "pitch": ({"part/2": "weld", "stitch/2": 20}, 60), "stitches": ({"part/2": "weld", "stitch/2": 20, "pitch/2": 60}, "in turn"), "setback": ({"part/2": "weld"}, 12), "setback_far": ({"part/2": "weld"}, 12), "around": ({"part/1": "piece", "section/1": "SHS 150x150x8", "length/1": 250, "part/2": "weld"}, "both"), "shape": ({"part/1": "cut", "on/1": "near side"}, "round"),
}  # fmt: skip


@pytest.mark.parametrize("setting", SETTINGS, ids=[s.name for s in SETTINGS])
def test_every_setting_does_something(tmp_path: Path, setting: Any) -> None:
    _, e = laid(tmp_path, part__1="plate")
    case, kind, house = e.joint.case, family("loose"), HouseRules()
    base, value = EFFECTS[setting.name]
    base = {"part/1": "plate", "length/1": 160, "width/1": 100} | base
    number = "" if not setting.each else max(k for k in (1, 2, 3) if f"part/{k}" in base) if setting.name in ("fill", "through", "bolt", "bolt_grade", "hole", "head", "line", "site", "of", "to", "prep", "root_radius", "leg", "throat", "stitch", "pitch", "stitches", "setback", "setback_far", "around", "finish", "tail", "slant", "deep") else 1
    name = f"{setting.name}/{number}" if number else setting.name
    made = [msgspec.structs.replace(kind.detail(case, kind.checked(t, house), house), numbers=()) for t in (base, base | {name: value})]
    assert made[0] != made[1], name


def test_its_sheet_carries_what_can_be_typed_there(tmp_path: Path) -> None:
    _, e = laid(tmp_path / "a", part__1="plate", on__1="far side", length__1=240, width__1=160, part__2="bolts", on__2="far side", rows__2=[100], lines__2=[80], part__3="plate", stands__3="upright along", along__3=60)
    d = compose(pictures(e.made.assembled), e.findings, 118, 110, "mm", "loose")  # type: ignore[union-attr]
    texts = {(x.setting, x.text) for x in d.dimensions}
    assert {("length/1", "240"), ("width/1", "160"), ("rows/2", "100"), ("lines/2", "80"), ("along/3", "60")} <= texts
    _, e = laid(tmp_path / "b", "W18X50", inch_house(""), part__1="plate", length__1="8", width__1="6", part__2="bolts", rows__2="4", lines__2="3-1/2")
    d = compose(pictures(e.made.assembled), e.findings, 118, 110, "ft-in", "loose")  # type: ignore[union-attr]
    assert ("length/1", '8"') in {(x.setting, x.text) for x in d.dimensions} and not any("." in x.text for x in d.dimensions)


def test_on_a_column_and_a_flat(tmp_path: Path) -> None:
    desk = Desk.create(tmp_path / "c.tincleat", HouseRules(), True)
    desk.run("add-members", members=[column("HEB 200")])
    desk.run("place-connection", family="loose", at=["m1@1500"], settings={"part/1": "plate", "on/1": "near side", "stands/1": "upright along", "part/2": "weld"})
    assert not breaches(entry(desk)) and len(detail(entry(desk)).welds) == 2


def test_an_edge_bevelled_from_both_faces(tmp_path: Path) -> None:
    """TC-U5b on 20 mm: opening 3.175, 45 degrees from both faces to the middle, so 10 mm of weld on each side."""
    _, e = laid(tmp_path / "a", part__1="plate", stands__1="upright along", thickness__1=20.0, length__1=180.0, width__1=100.0, part__2="weld", prep__2="TC-U5b", finish__2="ground flush", tail__2="test by ultrasound")
    (plate,) = detail(e).plates
    welds = [w for w in detail(e).welds if w.kind == "groove"]
    assert [(w.leg, w.opening, w.tail) for w in welds] == [(10.0, 3.175, "ground flush, test by ultrasound")] * 2 and welds[0].start == welds[1].start
    # two wedges 10 x 10 / 2 are off its edge: 180 x (100 x 20 - 2 x 50)
    assert plate.volume == pytest.approx(180 * (100 * 20 - 100), rel=1e-6)
    # each weld fills its wedge and the opening under it: (3.175 + 3.175 + 10) / 2 x 10 over 180
    volumes = [b.mesh.volume for b in solid(e.made.assembled) if b.kind == "weld"]
    assert volumes == pytest.approx([(3.175 + 13.175) / 2 * 10 * 180] * 2, rel=1e-6)
    assert not breaches(e) and {f.actual for f in e.findings if f.rule == "groove-depth"} == {20.0}
    # one of the two alone does not go through
    half = msgspec.structs.replace(detail(e), welds=(welds[0],))
    (depth,) = [f for f in prove(Assembled(e.made.case, half, "EN"), HouseRules()) if f.rule == "groove-depth"]
    assert (depth.level, depth.actual, depth.required) == ("breach", 10.0, 12.7)
    # its symbol opens to both sides, and its tail says the rest
    d = compose(pictures(e.made.assembled), (), 200, 140, "mm", "loose")
    assert "ground flush, test by ultrasound" in {t.text for t in d.texts}


def test_a_piece_from_point_to_point(tmp_path: Path) -> None:
    _, e = laid(tmp_path / "a", part__1="piece", on__1="top", lies__1="to a point", section__1="SHS 50x50x5", end__1="square", along__1=-100.0, off__1=30.0, to_along__1=200.0, to_across__1=0.0, to_off__1=430.0)
    (piece,) = detail(e).pieces
    # 300 along, 400 up: 500 long, whatever length is typed
    assert piece.length == pytest.approx(500.0) and tuple(piece.frame.x) == pytest.approx((0.6, 0.0, 0.8))
    a, b = piece.frame.to_world([(0.0, 0.0, 0.0), (500.0, 0.0, 0.0)])
    top = float(a[2]) - 30.0
    assert a.tolist() == pytest.approx([-100.0, 0.0, top + 30.0]) and b.tolist() == pytest.approx([200.0, 0.0, top + 430.0])
    for end, words in (({"to_along__1": -100.0, "to_off__1": 30.0}, "begins and ends at one point"), ({"end__1": "to the face", "off__1": 0.0, "to_off__1": 5.0}, "off the way out of the face")):
        with pytest.raises(TinCleatError, match=words):
            laid(tmp_path / words[:6], **{"part__1": "piece", "on__1": "top", "lies__1": "to a point", "section__1": "SHS 50x50x5", "end__1": "square", "along__1": -100.0, "off__1": 30.0, "to_along__1": 200.0, **end})


def test_four_bends_have_a_length_by_hand(tmp_path: Path) -> None:
    typed = {"part__1": "bent plate", "on__1": "top", "length__1": 100.0, "width__1": 80.0, "thickness__1": 8.0, "radius__1": 16.0, "rise__1": 40.0, "rise_2__1": 30.0, "rise_3__1": 20.0, "rise_4__1": 10.0, "bend_3__1": -math.pi / 2, "bend_4__1": -math.pi / 2}
    _, e = laid(tmp_path / "a", **typed)
    (bent,) = detail(e).bents
    # 200 of flats and four quarter turns of 8 mm over an inside of 16
    assert len(bent.legs) == 5 and bent.volume == pytest.approx(80 * (200 * 8 + 4 * math.pi / 4 * (24**2 - 16**2)), rel=1e-9)
    with pytest.raises(TinCleatError, match="a flange 4, but none before it"):
        laid(tmp_path / "b", **{**typed, "rise_3__1": 0.0})


def test_a_bevel_steeper_than_the_shop_cuts_gets_a_note(tmp_path: Path) -> None:
    desk, e = laid(tmp_path / "a", part__1="plate", stands__1="upright along", thickness__1=20.0, length__1=180.0, part__2="weld", prep__2="2.6")
    assert not [f for f in e.findings if f.rule == "bevel-machine"]
    for most, level in ((45.0, "note"), (55.0, "clear")):
        desk.run("set-house-rules", values={"bevel_most": most})
        (told,) = [f for f in next(x for x in desk.ledger.entries.values() if x.connection).findings if f.rule == "bevel-machine"]
        assert (told.level, told.required) == (level, most) and told.actual == pytest.approx(50.0)


def test_an_edge_is_bevelled_from_either_face(tmp_path: Path) -> None:
    plate = {"part__1": "plate", "length__1": 200.0, "width__1": 100.0, "thickness__1": 20.0, "part__2": "cut", "shape__2": "bevel", "along__2": 150.0, "slant__2": math.radians(30), "deep__2": 12.0}
    for on, level in (("part 1", 20.0), ("back of part 1", 0.0)):
        _, e = laid(tmp_path / on[:4], **plate, on__2=on)
        (p,) = detail(e).plates
        # a wedge of 12 x 12 tan 30 / 2 along the edge, 100 long
        assert p.volume == pytest.approx(200 * 100 * 20 - 12 * 12 * math.tan(math.radians(30)) / 2 * 100, rel=1e-6)
        (body,) = [b for b in solid(e.made.assembled) if b.name == "plate 1"]
        local = p.frame.to_local(body.mesh.points)
        assert body.mesh.volume == pytest.approx(p.volume, rel=1e-6)
        assert local[abs(local[:, 2] - level) < 0.01][:, 0].max() == pytest.approx(100 - 12 * math.tan(math.radians(30))) and local[:, 0].max() == pytest.approx(100.0)
    for i, (more, words) in enumerate((({"on__2": "top"}, "the edge of a flat plate"), ({"on__2": "part 1", "deep__2": 30.0}, "goes further than"), ({"on__2": "part 1", "corner__1": "rounded", "corner_size__1": 10.0}, "round corners"), ({"on__2": "part 1", "slant__2": math.radians(79), "length__1": 60.0}, "nothing is left"))):
        with pytest.raises(TinCleatError, match=words):
            laid(tmp_path / f"r{i}", **{**plate, **more})


def test_pieces_are_mitred_and_notched(tmp_path: Path) -> None:
    """The longest corner keeps the length: a tube 60 square, cut 45 degrees off square at one end, has 200 above and 140 below; at both ends 30
    degrees off it is 200 - 60 tan 30 = 165.36 long on an average."""
    area = section("SHS 60x60x5").area
    one = detail(laid(tmp_path / "a", part__1="piece", section__1="SHS 60x60x5", lies__1="along", length__1=200, mitre__1=math.radians(45))[1]).pieces[0]
    assert one.volume == pytest.approx(area * 170, rel=2e-4)
    both = detail(laid(tmp_path / "b", part__1="piece", section__1="SHS 60x60x5", lies__1="along", length__1=200, mitre__1=math.radians(30), mitre_start__1=math.radians(30), mitre_way__1="its breadth")[1]).pieces[0]
    assert both.volume == pytest.approx(area * (200 - 60 * math.tan(math.radians(30))), rel=2e-4)
    mesh = steel_mesh(both.shape, both.cuts, 0.0, both.length, 1)
    for side, (low, high) in ((-30.0, (0.0, 200.0)), (30.0, (60 * math.tan(math.radians(30)), 200 - 60 * math.tan(math.radians(30))))):
        xs = mesh.points[np.abs(mesh.points[:, 1] - side) < 1e-6][:, 0]
        assert (xs.min(), xs.max()) == pytest.approx((low, high), abs=0.05)
    standing = detail(laid(tmp_path / "c", part__1="piece", section__1="SHS 60x60x5", length__1=300, mitre__1=math.radians(-45))[1]).pieces[0]
    assert standing.volume == pytest.approx(area * 270, rel=2e-4)
    with pytest.raises(TinCleatError, match="its first end is cut along what it stands on"):
        laid(tmp_path / "d", part__1="piece", mitre_start__1=0.3)
    with pytest.raises(TinCleatError, match="take 340 mm of the 200 mm"):
        laid(tmp_path / "e", part__1="piece", section__1="SHS 60x60x5", lies__1="along", length__1=200, mitre__1=math.radians(80))
    # a rectangle of 40 x 30 out of a wall 5 thick, on top and on a side
    for i, face in enumerate(("part 1", "left side of part 1", "right side of part 1", "back of part 1")):
        tube = detail(laid(tmp_path / f"n{i}", part__1="piece", section__1="SHS 80x80x5", lies__1="along", length__1=200, part__2="cut", on__2=face, length__2=40, width__2=30)[1]).pieces[0]
        assert section("SHS 80x80x5").area * 200 - tube.volume == pytest.approx(40 * 30 * 5, rel=1e-3), face
        low, high = (f(n.frame.to_world([(0, 0, 0), (0, 0, n.depth)]) @ np.eye(3)[2 if i in (0, 3) else 1]) for n in tube.cuts.notches for f in (min, max))
        assert (low > 0) == (i in (0, 1)) and high - low == pytest.approx(7.0)


def test_a_plate_stands_on_the_edge_of_another(tmp_path: Path) -> None:
    """A plate 200 x 100 x 20 lies on the flange; one 10 thick lies on its edge, 50 from its middle, and goes down to the flange no further than it."""
    e = laid(tmp_path, part__1="plate", length__1=200, width__1=100, thickness__1=20, part__2="plate", on__2="left side of part 1", length__2=120, part__3="weld", of__3="part 2")[1]
    first, other = detail(e).plates
    a, b = box(first), box(other)
    assert abs(a[0][1]) == pytest.approx(50) and sorted(np.abs((b[0][1], b[1][1]))) == pytest.approx([50, 60]) and (b[0][2], b[1][2]) == pytest.approx((a[0][2], a[1][2]))
    assert not [f.message for f in e.findings if f.rule == "clash" and f.level != "clear"]
    with pytest.raises(TinCleatError, match="no straight edge on that side"):
        laid(tmp_path / "r", part__1="plate", points__1=[-60, 0, 0, -50, 60, 0, 0, 50], part__2="plate", on__2="left side of part 1")


@pytest.mark.parametrize(("turn", "lean", "normal"), [(0, 0, (0, 0, 1)), (90, 0, (0, 1, 0)), (0, 90, (1, 0, 0)), (0, -30, (-0.5, 0, math.sqrt(0.75))), (180, 0, (0, 0, -1))])
def test_a_plate_on_a_plane_of_its_own(tmp_path: Path, turn: float, lean: float, normal: tuple[float, float, float]) -> None:
    e = laid(tmp_path, part__1="plate", on__1="a plane of its own", plane_turn__1=math.radians(turn), plane_lean__1=math.radians(lean), off__1=400, length__1=100, width__1=80)[1]
    (p,) = detail(e).plates
    assert p.frame.z == pytest.approx(normal, abs=1e-9)
    middle = np.mean(box(p), axis=0) - np.array(e.joint.case.members[0].frame.origin)
    assert middle == pytest.approx(np.array(normal) * 405, abs=1e-6)


def test_an_access_hole_lies_in_the_corner_of_web_and_flange(tmp_path: Path) -> None:
    """UB 457x191x67, web 8.5, root radius 10: 20 high and up from 38.1 to 40 long (AWS D1.1 5.16.1), its two inner corners 10 round.  It takes
    8.5 (40 x 20 - 2 (1 - pi / 4) 10²) = 6435 of the web and 2 x 40 (1 - pi / 4) 10² = 1717 of the fillets."""
    _, e = laid(tmp_path, part__1="cut", on__1="near side", shape__1="access hole", across__1=100)
    m = e.joint.case.members[0]
    d = detail(e)
    (hole,) = d.notches
    took = steel_volume(m.shape, Cuts(), -300.0, 300.0) - steel_volume(m.shape, d.cuts_of(0).seen_from(m.frame), -300.0, 300.0)
    assert took == pytest.approx(8.5 * (800 - 2 * (1 - math.pi / 4) * 100) + 2 * 40 * (1 - math.pi / 4) * 10**2, rel=1e-3)
    z = m.frame.to_local(hole.frame.to_world([(0, y, 0) for y in (-10, 10)]))[:, 2]
    assert sorted(np.abs(z)) == pytest.approx([m.shape.h / 2 - m.shape.tf - 20, m.shape.h / 2 - m.shape.tf])
    with pytest.raises(TinCleatError, match="into a web beside a flange"):
        laid(tmp_path / "x", part__1="cut", on__1="top", shape__1="access hole")


def test_bolts_go_through_the_parts_that_are_picked(tmp_path: Path) -> None:
    """Two plates 22 mm over the flange: M24 would take the flange along, 1.25 x 24 = 30 off; through parts 1 and 2 it does not."""
    some: dict[str, Any] = {"part__1": "plate", "off__1": 22, "length__1": 160, "width__1": 100, "part__2": "plate", "on__2": "part 1", "length__2": 160, "width__2": 100, "part__3": "bolts", "on__3": "part 2", "bolt__3": "M24"}
    every = laid(tmp_path / "a", **some)[1]
    assert every.made is not None and [len(f.plies) for f in every.made.assembled.fitted] == [3] and len(detail(every).holes) == 1
    picked = laid(tmp_path / "b", **some, through__3=[1, 2])[1]
    assert picked.made is not None
    (one,) = picked.made.assembled.fitted
    assert [picked.made.assembled.plies[p.ply].owner for p in one.plies] == ["plate 2", "plate 1"] and one.grip == pytest.approx(20) and not detail(picked).holes
    assert all(len(p.holes) == 1 for p in detail(picked).plates)
    with pytest.raises(TinCleatError, match="no plate or piece 7 to go through"):
        laid(tmp_path / "c", **some, through__3=[7])


def test_headed_studs_by_hand(tmp_path: Path) -> None:
    """SD 19, 100 long: collar 23 x 6, head 32 x 10, 84 of shank: pi / 4 (23² x 6 + 19² x 84 + 32² x 10) = 34,352 mm³.  On the flange of UB 457x191x67, 189.9
    wide, two lines 100 apart: 189.9 / 2 - 50 - 9.5 = 35.45 from shank to edge.  EN 1994-1-1: 3 x 19 high, 5 x 19 along, 2.5 x 19 across."""
    desk, e = laid(tmp_path / "a", part__1="studs", rows__1=[150, 150, 150], lines__1=[100], left_out__1=[8])
    some = detail(e).fittings
    assert len(some) == 7 and {f.frame.x for f in some} == {(0.0, 0.0, 1.0)} and {round(f.frame.origin[2], 2) for f in some} == {round(453.4 / 2, 2)}
    assert some[0].volume == pytest.approx(math.pi / 4 * (23**2 * 6 + 19**2 * 84 + 32**2 * 10)) == pytest.approx(34352, abs=1)
    assert some[0].mesh(16, False).volume == pytest.approx(some[0].volume, rel=2e-3)
    says = {f.rule: (f.level, round(f.actual, 2), round(f.required, 2)) for f in e.findings if f.rule.startswith("stud")}
    assert says == {"stud-height": ("clear", 100, 57), "stud-flange": ("clear", 12.7, 7.6), "stud-edge": ("clear", 35.45, 20), "stud-along": ("clear", 150, 95), "stud-across": ("clear", 100, 47.5), "stud-apart": ("clear", 150, 800)}
    assert not {n.name.partition("/")[0] for n in detail(e).numbers} & {"bolt", "hole", "slot_way", "through", "hole_width", "site"}  # no setting is shown that does nothing
    line = next(x for x in bill(desk.ledger) if x.kind == "fitting")
    assert (line.count, line.size, line.grade, line.length) == (7, "SD 19", "SD1", 100)
    bad = laid(tmp_path / "b", part__1="studs", rows__1=[90, 900], lines__1=[40, 120], stud__1="SD 22", length__1=60)[1]
    assert {f.rule for f in bad.findings if f.level == "breach"} >= {"stud-height", "stud-along", "stud-across", "stud-edge", "stud-apart"}
    thin = laid(tmp_path / "c", "SHS 200x200x8", part__1="studs", stud__1="SD 25")[1]
    assert next(f for f in thin.findings if f.rule == "stud-flange").level == "breach"  # 25 / 2.5 = 10 > 8
    over = laid(tmp_path / "d", "UB 305x127x37", part__1="studs", stud__1="SD 25", rows__1=[200])[1]
    assert "stud-flange" not in {f.rule for f in over.findings}  # over the web
    for apart, beside in ((24.0, False), (27.0, True)):  # 12 and 13.5 off the web's middle: its own half, 12.5, is over it
        near = laid(tmp_path / f"e{apart:g}", "UB 305x127x37", part__1="studs", stud__1="SD 25", rows__1=[200], lines__1=[apart])[1]
        assert ("stud-flange" in {f.rule for f in near.findings}) is beside
    with pytest.raises(TinCleatError, match="has no shank"):
        laid(tmp_path / "f", part__1="studs", length__1=20)
    inch = laid(tmp_path / "g", "W18X50", inch_house(""), part__1="studs", rows__1=[152.4])[1]
    assert detail(inch).fittings[0].size == "3/4in stud" and next(f for f in inch.findings if f.rule == "stud-height").required == pytest.approx(4 * 19.05)
    # AWS: a diameter and 1/8 in from its base to the flange's edge
    assert next(f for f in inch.findings if f.rule == "stud-edge").required == pytest.approx(19.05 + 3.175)
    held = laid(tmp_path / "h", part__1="plate", length__1=100, width__1=80, part__2="studs", on__2="part 1", along__2=46)[1]
    assert next(f for f in held.findings if f.rule == "stud-edge").actual == pytest.approx(50 - 46 - 9.5)


def test_plug_and_slot_welds_by_hand(tmp_path: Path) -> None:
    """A plate 12 thick on a flange: holes 12 + 8 = 20 across, filled 12 deep: pi / 4 x 20² x 12 = 3,770 mm³ each.  Slots 20 x 60 hold
    (pi / 4 x 20² + 40 x 20) 12 = 13,370.  One 20 thick is filled to 16 (EN 1993-1-8 4.3.5)."""
    plate = {"part__1": "plate", "length__1": 240, "width__1": 160, "thickness__1": 12}
    desk, e = laid(tmp_path / "a", **plate, part__2="plug welds", on__2="part 1", rows__2=[90, 90], lines__2=[80], left_out__2=[4])
    d = detail(e)
    assert len(d.plugs) == 5 and {p.parts for p in d.plugs} == {("member", "plate 1")} and {p.kind for p in d.plugs} == {"plug"}
    assert {(h.width, h.length, h.kind) for p in d.plates for h in p.holes} == {(20, 20, "vent")} and len(d.plates[0].holes) == 5
    assert d.plugs[0].volume == pytest.approx(math.pi / 4 * 400 * 12) and {round(p.frame.origin[2], 2) for p in d.plugs} == {round(453.4 / 2, 2)}
    assert {f.rule: f.level for f in e.findings if f.rule.startswith("plug")} == {"plug-base": "clear", "plug-hole": "clear", "plug-width": "clear", "plug-depth": "clear"}
    row = next(x for x in weld_list(desk.ledger) if x.kind == "plug")
    assert (row.runs, row.leg, row.length) == (5, 20, 0) and row.volume == pytest.approx(5 * 3769.9, abs=1)
    # the body fills the hole: nothing of it in the plate or the flange, and it touches both
    body = next(b for b in bodies(Assembled(e.joint.case, d, "EN"), 12) if b.name == "plug welds 2, 1")
    for other in (b for b in bodies(Assembled(e.joint.case, d, "EN"), 12, True, 300.0) if b.kind in ("plate", "member")):
        assert (exact(body) ^ exact(other)).volume() < 1.0
    drawn = compose(pictures(Assembled(e.joint.case, d, "EN")), (), 200, 150, "mm", "loose")
    assert any(t.text == "20" for t in drawn.texts) and any(t.text == "(5)" for t in drawn.texts)
    slots = laid(tmp_path / "b", **plate, part__2="plug welds", on__2="part 1", hole_length__2=60, lines__2=[90], slot_way__2="along")[1]
    assert {p.kind for p in detail(slots).plugs} == {"slot"} and detail(slots).plugs[0].volume == pytest.approx((math.pi / 4 * 400 + 40 * 20) * 12)
    thick = laid(tmp_path / "c", **(plate | {"thickness__1": 20}), part__2="plug welds", on__2="part 1")[1]
    assert detail(thick).plugs[0].depth == 16 and not [f for f in thick.findings if f.rule.startswith("plug") and f.level != "clear"]
    partly = compose(pictures(Assembled(thick.joint.case, detail(thick), "EN")), (), 200, 150, "mm", "loose")
    assert any(t.text == "28, 16 deep" for t in partly.texts)  # what is not filled is told on the sheet
    # AISC J2.3b: 5/16 in of plate wants 10/16, to the next odd 11/16; 1 1/4 in is filled to half, 5/8 in; in millimetres 10 + 8, and 11 + 8 to the next even one
    odd = laid(tmp_path / "o", "W18X50", inch_house(""), part__1="plate", length__1=254, width__1=152.4, thickness__1=7.9375, part__2="plug welds", on__2="part 1")[1]
    assert detail(odd).plugs[0].width == pytest.approx(11 / 16 * 25.4)
    deep = laid(tmp_path / "q", "W18X50", inch_house(""), part__1="plate", length__1=254, width__1=152.4, thickness__1=31.75, part__2="plug welds", on__2="part 1")[1]
    assert detail(deep).plugs[0].depth == pytest.approx(15.875) and not [f for f in deep.findings if f.rule.startswith("plug") and f.level != "clear"]
    metric = rules_of(HouseRules(rule_set="AISC"))
    assert [metric.plug(t, 0, 0, t)["least"].value for t in (10.0, 11.0)] == [18, 20]
    low = laid(tmp_path / "d", **plate, part__2="plug welds", on__2="part 1", fill__2=7, hole_width__2=16)[1]
    assert {f.rule for f in low.findings if f.level == "breach"} >= {"plug-width", "plug-depth"}
    # AISC J2.3b: 1/2 in plate, holes of 13/16 in at least, four widths apart
    inch = laid(tmp_path / "e", "W18X50", inch_house(""), part__1="plate", length__1=254, width__1=152.4, thickness__1=12.7, part__2="plug welds", on__2="part 1", rows__2=[76.2])[1]
    says = {f.rule: (f.level, round(f.actual / 25.4, 4), round(f.required / 25.4, 4)) for f in inch.findings if f.rule.startswith("plug-")}
    assert says["plug-width"] == ("clear", 0.8125, 0.8125) and says["plug-spacing"] == ("breach", 3, 3.25) and says["plug-width-most"] == ("clear", 0.8125, 1.125)
    with pytest.raises(TinCleatError, match="place 1 no steel touches plate 1"):
        laid(tmp_path / "f", **(plate | {"width__1": 400}), part__2="plug welds", on__2="part 1", lines__2=[300])
    with pytest.raises(TinCleatError, match="fills a hole of a plate among the parts"):
        laid(tmp_path / "g", part__1="plug welds")
    other = laid(tmp_path / "h", **plate, part__2="plug welds", on__2="part 1", rows__2=[90], hand="mirrored", across__2=20)[1]
    assert {round(p.frame.origin[1], 1) for p in detail(other).plugs} == {-20.0}


def test_parts_on_sides_and_through_picked_ones_go_with_what_they_are_of(tmp_path: Path) -> None:
    desk, e = laid(tmp_path, part__1="plate", off__1=30, length__1=160, width__1=100, thickness__1=20, part__2="plate", on__2="part 1", length__2=160, width__2=100, part__3="bolts", on__3="part 1", through__3=[1, 2], part__4="plate", on__4="left side of part 2", length__4=60)
    assert e.connection is not None
    with pytest.raises(TinCleatError, match="part 4 lies on part 2"):
        desk.run("remove-part", connection=e.connection.id, number=2)
    desk.run("remove-part", connection=e.connection.id, number=2, with_all=True)
    left = entry(desk).connection
    assert left is not None and left.settings["through/3"] == (1,) and not any(n.endswith(("/2", "/4")) for n in left.settings)
    plain, x = laid(tmp_path / "p", part__1="plate", length__1=160, width__1=100)
    assert x.connection is not None
    plain.run("add-part", connection=x.connection.id, part="plug welds")
    assert len(detail(entry(plain)).plugs) == 1
    plain.run("add-part", connection=x.connection.id, part="studs", settings={"along": 300})
    assert len(detail(entry(plain)).fittings) == 1
    plain.undo()
    plain.undo()
    assert not detail(entry(plain)).plugs


def test_a_square_tube_along_a_face_is_welded_in_its_flares(tmp_path: Path) -> None:
    """SHS 60x60x5, corners of 7.5: the tangent leaves the face 7.5 (sqrt 2 - 1) = 3.107 inside the corner's centre line: 30 - 7.5 + 3.107 = 25.607 from
    the middle, on both sides, and the weld is flush (7.5 - 3.107 = 4.393) or as deep as the wall of 5."""
    e = laid(tmp_path / "a", part__1="piece", section__1="SHS 60x60x5", lies__1="along", length__1=200, part__2="weld")[1]
    welds = detail(e).welds
    assert [(w.kind, w.leg, round(length(w), 6), w.parts) for w in welds] == [("groove", 5, 200, ("member", "piece 1"))] * 2
    assert sorted(round(w.start[1], 3) for w in welds) == [-25.607, 25.607] and {round(w.start[2], 3) for w in welds} == {226.7} and not breaches(e)
    # as long as the tube lies on it: its longest corner is the one below, where an end is cut off square
    off = detail(laid(tmp_path / "b", part__1="piece", section__1="SHS 60x60x5", lies__1="along", length__1=200, mitre__1=0.5, part__2="weld")[1]).welds
    assert {round(length(w), 3) for w in off} == {200.0}
    short = detail(laid(tmp_path / "c", part__1="piece", section__1="SHS 60x60x5", lies__1="along", length__1=200, mitre__1=-0.5, part__2="weld")[1]).welds
    assert {round(length(w), 3) for w in short} == {round(200 - 60 * math.tan(0.5), 3)}
    # on a plate no longer than 120 it is welded there alone
    plate = detail(laid(tmp_path / "d", part__1="plate", length__1=120, width__1=160, part__2="piece", on__2="part 1", section__2="SHS 60x60x5", lies__2="along", length__2=200, part__3="weld", of__3="part 2")[1]).welds
    assert {round(length(w), 3) for w in plate} == {120.0} and {w.parts for w in plate} == {("plate 1", "piece 2")}
    standing = detail(laid(tmp_path / "e", part__1="piece", section__1="SHS 60x60x5", length__1=200, part__2="weld")[1]).welds
    assert {w.kind for w in standing} == {"fillet"}


def test_countersunk_heads_lie_in_their_plate(tmp_path: Path) -> None:
    """M16 of ISO 10642: 33.6 across at 90 degrees, so (33.6 - 16) / 2 = 8.8 deep, and its countersink (33.6 - 18) / 2 = 7.8 to a hole of 18; through 20 and a flange of
    12.7 it is 32.7 + 3 washer + 14.8 nut + 2 pitch = 52.5, so 55 long."""
    floor = {"part__1": "plate", "length__1": 240, "width__1": 160, "thickness__1": 20, "part__2": "bolts", "on__2": "part 1", "bolt__2": "M16", "rows__2": [100], "lines__2": [90], "head__2": "countersunk"}
    desk, e = laid(tmp_path / "a", **floor)
    (plate,) = detail(e).plates
    assert {(h.width, h.sink, round(h.sink_depth, 6), h.sink_top) for h in plate.holes} == {(18.0, 33.6, 7.8, True)} and not breaches(e)
    cone = math.pi * 7.8 * ((16.8**2 + 16.8 * 9 + 9**2) / 3 - 81)
    assert plate.volume == pytest.approx(20 * (240 * 160 - 4 * math.pi * 81) - 4 * cone, rel=1e-9)
    a = e.made.assembled  # type: ignore[union-attr]
    assert {f.length for f in a.fitted} == {55.0}
    found = {b.name: b for b in bodies(a, 40, drilled=True)}
    assert exact(found["plate 1"]).volume() == pytest.approx(plate.volume, rel=2e-4)
    shanks = [exact(b) for b in bodies(a, 12) if b.kind == "shank"]
    assert all(abs(s.bounding_box()[5] - found["plate 1"].mesh.points[:, 2].max()) < 1e-6 for s in shanks) and len([b for b in bodies(a, 3) if b.kind == "head"]) == 4  # flush, and nuts alone
    says = {f.rule: (f.level, round(f.actual, 2), round(f.required, 2)) for f in e.findings}
    assert says["sink"] == ("clear", 33.6, 33.6) and says["sink-ply"] == ("clear", 20, 8.8)
    assert {(x.kind, x.count, x.nuts, x.washers) for x in bolt_list(desk.ledger)} == {("site countersunk bolt", 4, 4, 4)}
    there = ifcopenshell.open(str(export_ifc(desk.ledger, tmp_path / "a.ifc")))
    settings = ifcopenshell.geom.settings()
    settings.set("mesher-linear-deflection", 0.0001)
    settings.set("mesher-angular-deflection", 0.05)
    shape = ifcopenshell.geom.create_shape(settings, there.by_type("IfcPlate")[0])
    points, faces = np.array(shape.geometry.verts).reshape(-1, 3) * 1000, np.array(shape.geometry.faces).reshape(-1, 3)
    x, y, z = (points[faces[:, i]] for i in range(3))
    assert abs(float(np.einsum("ij,ij->i", x, np.cross(y, z)).sum() / 6)) == pytest.approx(plate.volume, rel=1e-4)
    bolts = ifcopenshell.geom.create_shape(settings, there.by_type("IfcMechanicalFastener")[0])
    assert np.ptp(np.array(bolts.geometry.verts).reshape(-1, 3)[:, 2]) * 1000 == pytest.approx(55, abs=0.01)
    thin = {f.rule: (f.level, f.actual, round(f.required, 2)) for f in laid(tmp_path / "b", **(floor | {"thickness__1": 8}))[1].findings}
    assert thin["sink-ply"] == ("breach", 8, 8.8)
    # through 6 the cone has no end: 33.6 - 2 x 6 = 21.6 wide at the back
    e = laid(tmp_path / "t", **(floor | {"thickness__1": 6}))[1]
    (sheet,) = detail(e).plates
    assert sheet.volume == pytest.approx(6 * 240 * 160 - 4 * math.pi * 6 * (16.8**2 + 16.8 * 10.8 + 10.8**2) / 3, rel=1e-9)
    assert exact(next(b for b in bodies(e.made.assembled, 40, drilled=True) if b.name == "plate 1")).volume() == pytest.approx(sheet.volume, rel=2e-4)  # type: ignore[union-attr]
    under = laid(tmp_path / "c", **(floor | {"part__1": "plate", "on__1": "bottom"}), hand="mirrored")[1]
    assert not breaches(under) and {f.rule: f.level for f in under.findings}["sink"] == "clear"
    for i, (wrong, words) in enumerate((({"hole__2": "short slot"}, "does not lie in a short slot"), ({"bolt__2": "M24"}, "no countersunk head is listed"))):
        with pytest.raises(TinCleatError, match=words):
            laid(tmp_path / f"d{i}", **(floor | wrong))


def test_bolts_screwed_into_their_last_ply(tmp_path: Path) -> None:
    """M12 through 10 into a flange of 12.7: 2.5 washer + 10 + 12 engaged = 24.5, so 25 long, 12.5 of it engaged; M16 would need 16 and gets 12.7."""
    screwed = {"part__1": "plate", "length__1": 200, "width__1": 140, "thickness__1": 10, "part__2": "bolts", "on__2": "part 1", "bolt__2": "M12", "rows__2": [100], "lines__2": [80], "hole__2": "threaded"}
    desk, e = laid(tmp_path / "a", **screwed)
    a = e.made.assembled  # type: ignore[union-attr]
    assert {h.width for h in detail(e).plates[0].holes} == {13.0} and {(h.width, h.kind) for h in detail(e).holes} == {(12.0, "tapped")}
    says = {f.rule: (f.level, round(f.actual, 2), round(f.required, 2)) for f in e.findings}
    assert {f.length for f in a.fitted} == {25.0} and says["thread-depth"] == ("clear", 12.5, 12) and "bolt-length" not in says and not breaches(e)
    assert {(x.kind, x.count, x.nuts, x.washers) for x in bolt_list(desk.ledger)} == {("site bolt", 4, 0, 4)}
    tops = [b.mesh.points[:, 2] for b in bodies(a, 3) if b.kind == "head"]
    face = 226.7 + 10
    assert len(tops) == 4 and all(float(t.min()) == pytest.approx(face) and float(t.max()) == pytest.approx(face + 2.5 + 7.5) for t in tops)  # washer and head over the plate, nothing under the flange
    deep = {f.rule: (f.level, round(f.actual, 2), round(f.required, 2)) for f in laid(tmp_path / "b", **(screwed | {"bolt__2": "M16"}))[1].findings}
    assert deep["thread-depth"] == ("breach", 12.7, 16)
    flush = laid(tmp_path / "c", **(screwed | {"thickness__1": 12}), head__2="countersunk")[1]
    assert not breaches(flush) and {f.length for f in flush.made.assembled.fitted} == {25.0}  # type: ignore[union-attr]
    assert {(h.width, h.kind) for h in detail(laid(tmp_path / "d", part__1="holes", hole__1="threaded", bolt__1="M16", rows__1=[100])[1]).holes} == {(16.0, "tapped")}
    with pytest.raises(TinCleatError, match="meets one part alone"):
        laid(tmp_path / "e", part__1="bolts", hole__1="threaded", on__1="near side", across__1=100)


def test_plates_edge_to_edge_are_welded_through(tmp_path: Path) -> None:
    """20 thick: B-U2a opens 6.35 at 45 degrees, 6.35 x 20 + 20^2 tan 22.5 = 292.69; B-U3 3.175 at 60 from both sides, each 31.75 + 100 tan 30 = 89.49; B-U4a one edge
    at 45, 127 + 400 / 2 = 327; 6 thick: B-L1a opens as much, 36.  The first is laid to the opening, the second stays."""
    pair = {"part__1": "plate", "length__1": 200, "width__1": 150, "thickness__1": 20, "off__1": 30, "along__1": -101, "part__2": "plate", "length__2": 200, "width__2": 150, "thickness__2": 20, "off__2": 30, "along__2": 101, "part__3": "weld", "to__3": "part 2"}
    for i, (prep, t, opening, areas, bar) in enumerate((("B-U2a", 20, 6.35, [292.69], True), ("B-U3-GF", 20, 3.175, [89.49] * 2, False), ("B-U4a", 20, 6.35, [327.0], True), ("B-L1a", 6, 6, [36.0], True), ("2.9.1", 20, 2, [79.59] * 2, False))):
        e = laid(tmp_path / f"a{i}", **(pair | {"prep__3": prep, "thickness__1": t, "thickness__2": t}))[1]
        d = detail(e)
        assert [round(section_area(w), 2) for w in d.welds] == areas and {round(length(w), 6) for w in d.welds} == {150.0} and not breaches(e), prep
        assert [p.name for p in d.plates] == ["plate 1", "plate 2"] + (["backing 3"] if bar else [])
        assert box(d.plates[0])[1][0] == pytest.approx(1 - opening) and box(d.plates[1])[0][0] == pytest.approx(1)
        found = [b for b in bodies(e.made.assembled, 8) if b.kind in ("plate", "weld")]  # type: ignore[union-attr]
        solids = [exact(b) for b in found if b.name != "backing 3"]
        assert sum(x.volume() for x in solids) == pytest.approx((400 + opening) * 150 * t, rel=1e-6)  # one piece without a hole or overlap
        assert all((x ^ y).volume() < 0.1 for k, x in enumerate(solids) for y in solids[:k]), prep
        there = laid(tmp_path / f"m{i}", **(pair | {"prep__3": prep, "thickness__1": t, "thickness__2": t, "turn__1": math.pi, "turn__2": math.pi}), hand="mirrored")[1]
        assert [round(section_area(w), 2) for w in detail(there).welds] == areas and not breaches(there)
    for i, (more, words) in enumerate((
        ({"prep__3": "TC-U4a"}, r"tee or corner joint; here two plates lie edge to edge \(B-U4a, B-U4a-GF"), ({"prep__3": "fillet"}, "no fillet has room there"),
        ({"prep__3": "B-U2", "off__1": 5, "off__2": 5}, "steel lies 5 mm behind the back of plate 1"), ({"prep__3": "B-U2a", "along__1": -160}, "lie 61.0 mm apart"), ({"prep__3": "B-U2a", "along__1": -125.5}, "lie 26.5 mm apart .at most 25 mm"), ({"prep__3": "B-U2a", "off__1": 4, "off__2": 4}, "steel lies 4 mm behind the back of plate 1: no room for a backing bar 6 mm thick"), ({"prep__3": "B-U2a", "off__1": 0, "off__2": 0, "across__1": 75, "across__2": 75}, "lies on steel along .* of it alone"), ({"prep__3": "1.2.1"}, "1.2.1 is for 1 mm to 4 mm"),
        ({"prep__3": "B-U2a", "turn__1": 0.4}, "no straight edge of plate 1 runs along one of plate 2"),
    )):  # fmt: skip
        with pytest.raises(TinCleatError, match=words):
            laid(tmp_path / f"w{i}", **(pair | more))


def test_a_weld_between_picked_points(tmp_path: Path) -> None:
    """A plate 160 x 100 lies about the station: its long edges at 50 and -50, its short ones at 80 and -80.  From -60,50 round the corner to 80,20 it is 140 and 30."""
    plate = {"part__1": "plate", "length__1": 160, "width__1": 100, "part__2": "weld"}
    d = detail(laid(tmp_path / "a", **plate, line__2=[-60, 50, 80, 50, 80, 20])[1])
    assert [round(length(w), 6) for w in d.welds] == [140, 30] and {w.parts for w in d.welds} == {("plate 1", "member")}
    assert {(round(x, 6), round(y, 6)) for w in d.welds for x, y, _ in (w.start, w.end)} == {(-60, 50), (80, 50), (80, 20)}
    assert [round(length(w), 6) for w in detail(laid(tmp_path / "b", **plate, line__2=[-200, 45, 0, 45])[1]).welds] == [80]  # no further than they touch
    there = detail(laid(tmp_path / "c", **plate, line__2=[-60, 50, 20, 50], hand="mirrored")[1])
    assert [round(length(w), 6) for w in there.welds] == [80] and {round(y, 6) for w in there.welds for _, y, _ in (w.start, w.end)} == {-50}
    for i, (line, words) in enumerate((([-60, 0, 60, 0], "from point 1 to point 2: the nearest line on which parts touch is 50 mm off"), ([0, 0, 0, 400], "point 2: "))):
        with pytest.raises(TinCleatError, match=words):
            laid(tmp_path / f"d{i}", **plate, line__2=line)
    with pytest.raises(TinCleatError, match="is no line"):
        laid(tmp_path / "e", **plate, line__2=[0, 0])


def test_a_round_tube_along_a_face_is_welded_in_its_flares(tmp_path: Path) -> None:
    """CHS 48.3x3.2: its tangent at 30 degrees leaves the face 24.15 tan 15 = 6.471 from the middle, and the weld is flush: 24.15 - 6.471 = 17.679 along the face;
    its root lies 24.15 (1 / cos 15 - 1) = 0.85 off the tube."""
    e = laid(tmp_path / "a", part__1="piece", section__1="CHS 48.3x3.2", lies__1="along", length__1=200, part__2="weld")[1]
    welds = detail(e).welds
    assert [(w.kind, round(w.leg, 3), round(length(w), 6), w.parts) for w in welds] == [("groove", 17.679, 200, ("member", "piece 1"))] * 2 and not breaches(e)
    assert sorted(round(w.start[1], 3) for w in welds) == [-6.471, 6.471] and {round(w.start[2], 3) for w in welds} == {226.7}
    says = {f.rule: (f.level, round(f.actual, 2)) for f in e.findings}
    assert says["weld-gap"] == ("clear", 0.85) and says["groove-angle"] == ("clear", 30)
    a = e.made.assembled  # type: ignore[union-attr]
    solids = {b.kind + b.name: exact(b) for b in bodies(a, 12)}
    tube = solids["piecepiece 1"]
    assert all((tube ^ x).volume() < 1 for n, x in solids.items() if n.startswith("weld"))
    plate = detail(laid(tmp_path / "b", part__1="plate", length__1=120, width__1=100, part__2="piece", on__2="part 1", section__2="CHS 48.3x3.2", lies__2="along", length__2=200, part__3="weld", of__3="part 2")[1]).welds
    assert {round(length(w), 3) for w in plate} == {120.0} and {w.parts for w in plate} == {("plate 1", "piece 2")}
    # 200 less 10 at both ends in stitches of 40: middles at 30 and 170 and, at most 80 apart, at 100; on the other side in turn, at 65 and 135
    turned = detail(laid(tmp_path / "d", part__1="piece", section__1="CHS 48.3x3.2", lies__1="along", length__1=200, part__2="weld", stitch__2=40, pitch__2=80, stitches__2="in turn", setback__2=10)[1]).welds
    middles = {s: sorted(round((w.start[0] + w.end[0]) / 2 + 100, 3) for w in turned if w.start[1] * s > 0) for s in (1, -1)}
    assert sorted(middles.values()) == [[30, 100, 170], [65, 135]] and {round(length(w), 6) for w in turned} == {40}
    wide = laid(tmp_path / "c", part__1="piece", section__1="CHS 139.7x5", lies__1="along", length__1=200, part__2="weld")[1]
    assert breaches(wide) == {"weld-gap"}  # 69.85 (1 / cos 15 - 1) = 2.46 off: more than a fillet may bridge
