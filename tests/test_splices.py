"""Splices with covers by hand: equal and unequal beams, packs, inner covers, columns on a division plate."""

import math
from dataclasses import replace
from pathlib import Path

import manifold3d
import msgspec
import numpy as np
import pytest
from sites import girder, spliced
from test_new_families import breaches, joined, made

from tincleat.catalogue.sections import section
from tincleat.details.parts import Detail, Plate
from tincleat.details.tapers import taper_mesh
from tincleat.errors import TinCleatError
from tincleat.kit.packs import packs
from tincleat.project.entities import HouseRules, inch_house
from tincleat.proof.bolts import _taper
from tincleat.release.bill import bolt_list
from tincleat.steel.body import steel_mesh, steel_volume
from tincleat.steel.cuts import Cuts, MemberHole


def plate(d: Detail, name: str) -> Plate:
    return next(p for p in d.plates if p.name == name)


def size(p: Plate) -> tuple[float, float, float]:
    x0, y0, x1, y1 = p.outline.bounds
    return round(x1 - x0, 3), round(y1 - y0, 3), p.thickness


def test_equal_beams_by_hand(tmp_path: Path) -> None:
    _, e = joined(tmp_path, spliced("UB 457x191x67", "UB 457x191x67"), "splice-covers", "M1.start")
    d = made(e)
    # M20: 1.75 x 20 = 35 to ends and edges, rows 3 x 20 = 60; gap 10: half a cover 5 + 35 + 60 + 35 = 135.  Flange 12.7 on stock 12 (within 0.3: no, so 15);
    # as wide as the flange, 189.9 down to 185.  The web: 8.5 / 2 x 1.1 = 4.7, but 6; 5 + 35 + 35 = 75 a side; rows 84 = 14 x 6 at most, so 70 down from 3.5 x 20: two gaps, 140 + 70
    assert size(plate(d, "top cover")) == (270, 185, 15) and size(plate(d, "bottom cover")) == (270, 185, 15)
    assert size(plate(d, "near web cover")) == (150, 210, 6) and len(d.plates) == 4
    assert {b.name: len(b.points) for b in d.bolts} == {"top flange bolts": 8, "bottom flange bolts": 8, "web bolts": 6}
    fitted = e.made.assembled.fitted if e.made is not None else ()
    assert {(len(f.plies), round(f.grip, 2)) for f in fitted} == {(2, 27.7), (3, 20.5)} and all(abs(f.gap) < 1e-6 for f in fitted)
    # both ends are cut back by half the gap
    assert sorted(round(float(e.joint.frame.to_world([c.point])[0][0]), 3) for c in d.ends) == [-5, 5] and not breaches(e)


def test_unequal_beams_are_packed(tmp_path: Path) -> None:
    _, e = joined(tmp_path, spliced("UB 457x191x67", "UB 457x191x98"), "splice-covers", "M1.start", flange_covers="outer and inner")
    d = made(e)
    # depths 453.4 and 467.2: 6.9 a side, a pack of 6; flanges 12.7 and 19.6: inside they lie level; webs 8.5 and 11.4: 1.45 a side, a sheet of 1
    assert sorted((p.name, p.thickness) for p in d.plates if "pack" in p.name) == [("bottom pack", 6), ("far web pack", 1), ("near web pack", 1), ("top pack", 6)]
    top, pack = plate(d, "top cover"), plate(d, "top pack")
    assert e.joint.frame.to_world([top.frame.origin])[0][2] == pytest.approx(3000 + 467.2 / 2) and e.joint.frame.to_world([pack.frame.origin])[0][2] == pytest.approx(3000 + 453.4 / 2)
    fitted = e.made.assembled.fitted if e.made is not None else ()
    assert {len(f.plies) for f in fitted} == {3, 4, 5} and max(f.gap for f in fitted) == pytest.approx(0.9, abs=0.01) and not breaches(e)


def test_covers_land_by_rounding_rules_of_their_own(tmp_path: Path) -> None:
    """Covers of 270 by 185 and 150 by 210: lengths in steps of 40 up are 280 and 160, widths in steps of 25 to the nearest 175 and 200.  What is more
    lies beyond the outer bolts: 35 + 5 at the ends; with the edge typed, lengths stay as they come."""
    desk, e = joined(tmp_path, spliced("UB 457x191x67", "UB 457x191x67"), "splice-covers", "M1.start")
    assert e.connection is not None
    desk.run("set-house-rules", values={"rounding/cover plate length": "40 up", "rounding/cover plate width": "25 nearest"})
    e = desk.ledger.entry_of(e.connection.id)
    d = made(e)
    top, web = plate(d, "top cover"), plate(d, "near web cover")
    assert size(top) == (280, 175, 15) and size(web) == (160, 200, 6) and not breaches(e)
    assert min(h.x for h in top.holes) == pytest.approx(40) and max(h.x for h in top.holes) == pytest.approx(240)
    told = {(f.part, f.clause) for f in e.findings if f.rule == "plate-step" and "cover" in f.part}
    assert len(told) >= 4 and all("cover plate" in clause for _, clause in told)
    assert e.connection is not None
    desk.run("change-connections", ids=[e.connection.id], settings={"edge": 35.0})
    assert size(plate(made(desk.ledger.entry_of(e.connection.id)), "top cover")) == (270, 175, 15)


def test_packs_are_cut_of_stock() -> None:
    house, inch = HouseRules(), inch_house("")
    assert packs(6.9, house) == [6] and packs(22.3, house) == [20, 2] and packs(0.9, house) == [] and packs(1.0, house) == [1] and packs(3.1, house) == [3]
    assert packs(25.4 * 0.5625, inch) == [12.7, 1.5875] and packs(1.4, inch) == []


def test_a_column_splice_on_a_division_plate(tmp_path: Path) -> None:
    _, e = joined(tmp_path, spliced("UC 254x254x89", "UC 203x203x60", True), "splice-covers", "M2.start", division=20.0)
    d = made(e)
    assert d.number("gap").value == 20 and d.number("web_covers").value == "none"
    division = plate(d, "division plate")
    # as large as the lower column, 260.3 x 256.3; the ends stand 10 over and under the drawn level
    assert size(division) == (260.3, 256.3, 20) and sorted(round(float(e.joint.frame.to_world([c.point])[0][2]), 2) for c in d.ends) == [2990, 3010]
    # (260.3 - 209.6) / 2 = 25.35 a side, a pack of 25
    assert {p.thickness for p in d.plates if p.name.endswith("pack")} == {25}
    welds = np.array([e.joint.frame.to_world([w.start])[0][2] for w in d.welds])
    assert len(welds) and welds == pytest.approx(np.full(len(welds), 2990.0)) and not breaches(e)
    for typed, words in (({"division": 20.0, "web_covers": "both sides"}, "does not pass the division"), ({"division": 20.0, "gap": 10.0}, "does not hold a division plate"), ({"flange_covers": "none", "web_covers": "none"}, "nothing holds")):
        with pytest.raises(TinCleatError, match=words):
            joined(tmp_path / words.replace(" ", "")[-9:], spliced("UC 254x254x89", "UC 203x203x60", True), "splice-covers", "M2.start", **typed)


def test_what_covers_refuse(tmp_path: Path) -> None:
    bent = [{**girder("IPE 300"), "start": [0, 0, 3000]}, {**girder("IPE 300"), "start": [-4000, 0, 2800], "end": [0, 0, 3000]}]
    cases = ((bent, "bend by 2"), (spliced("SHS 150x150x8", "SHS 150x150x8"), "covers go on flanges"), (spliced("IPE 300", "PFC 300x100x46"), "not of one kind"))
    for i, (members, words) in enumerate(cases):
        with pytest.raises(TinCleatError, match=words):
            joined(tmp_path / str(i), members, "splice-covers", "M1.start")
    with pytest.raises(TinCleatError, match="55 mm wide does not hold"):
        joined(tmp_path / "i", spliced("IPE 300", "IPE 300"), "splice-covers", "M1.start", flange_covers="outer and inner")


def test_covers_on_tapered_flanges_have_taper_washers(tmp_path: Path) -> None:
    """IPN 300: 125 wide, 16.2 thick a quarter of its width from the tip, 14 % steep; M12 hold where M20 do not."""
    desk, e = joined(tmp_path / "a", spliced("IPN 300", "IPN 300"), "splice-covers", "M1.start")
    d = made(e)
    number = d.number("bolt")
    assert number.value == "M16" and "125 mm wide" in number.rule and not breaches(e)
    gauge, cover = d.number("gauge").value, plate(d, "top cover").thickness
    some = [f for f in e.made.assembled.fitted if d.bolts[f.group].name == "top flange bolts"]
    # a nut lies on a wedge 30 square, 3 at its thin edge: 3 + 0.14 x 30 / 2 = 5.1 in its middle, on steel 16.2 + 0.14 (62.5 - gauge / 2 - 31.25) thick
    steel = 16.2 + 0.14 * (62.5 - gauge / 2 - 31.25)
    for f in some:
        assert f.grip == pytest.approx(cover + steel + 5.1, abs=1e-6) and len(f.tapers) == 1
    found = next(f for f in e.findings if f.rule == "taper-washer")
    assert found.level == "clear" and "8.0° are drawn" in found.message  # atan 0.14 = 7.97
    # a washer that stood 3 further off the steel would be told by its shape: its corners 3 cos(atan 0.14) = 2.97 off the profile
    off = replace(some[0], tapers=tuple(msgspec.structs.replace(t, at=t.at + 3 * t.way) for t in some[0].tapers))
    (told,) = _taper(e.made.assembled, d.bolts[some[0].group], [off])
    assert told.level == "breach" and told.actual == pytest.approx(3 / math.hypot(1, 0.14), abs=0.05) and found.actual < 0.05
    # the wedge's volume, by the solids library: 30 x 30 x 5.1, less a hole of 18 in its middle
    mesh = taper_mesh(some[0].tapers[0])
    circle = 8 * 81 * math.sin(math.pi / 4) / 2  # of eight chords
    volume = manifold3d.Manifold(manifold3d.Mesh64(vert_properties=np.ascontiguousarray(mesh.points), tri_verts=mesh.triangles.astype(np.uint64))).volume()
    assert volume == pytest.approx((900 - circle) * 5.1, rel=1e-6)
    line = next(x for x in bolt_list(desk.ledger) if x.kind == "taper washer")
    assert (line.size, line.count, line.length) == ("M16", 16, 30.0)
    with pytest.raises(TinCleatError, match=r"slope 8\.0°: a flat cover does not lie on them"):
        joined(tmp_path / "b", spliced("IPN 300", "IPN 300"), "splice-covers", "M1.start", flange_covers="outer and inner")


def test_a_hole_in_a_tapered_flange_goes_all_through_it() -> None:
    """Where the flange is 16.2 + 0.14 (62.5 - 24 - 31.25) = 17.215 thick, by its own volume and by the solids library."""
    shape = section("IPN 300")
    hole = MemberHole(0, "top flange", (500.0, 24.0, 150.0 - 8.1), (0.0, 0.0, 1.0), 18.0, 18.0, (1.0, 0.0, 0.0))
    plain, drilled = Cuts(), Cuts((), (), (hole,))
    by_hand = math.pi * 81 * 17.215
    assert steel_volume(shape, plain, 0, 1000) - steel_volume(shape, drilled, 0, 1000) == pytest.approx(by_hand, rel=1e-9)
    meshes = [steel_mesh(shape, c, 0, 1000, 4, True) for c in (plain, drilled)]
    solids = [manifold3d.Manifold(manifold3d.Mesh64(vert_properties=np.ascontiguousarray(m.points), tri_verts=m.triangles.astype(np.uint64))).volume() for m in meshes]
    assert solids[0] - solids[1] == pytest.approx(by_hand * 8 * math.sin(math.pi / 8) / math.pi, rel=1e-4)  # of sixteen chords


def test_round_flange_plates_by_hand(tmp_path: Path) -> None:
    _, e = joined(tmp_path, spliced("CHS 219.1x8", "CHS 168.3x6.3"), "flange-plates", "M1.start")
    d = made(e)
    one, two = d.plates
    # M20: 20 thick; fillet 0.6 x 6.3 = 3.8, 6 at least; off the wall 31.75 up to 35: a circle of 219.1 + 70 up to 290; 290 pi / 160 = 5.7: six; 290 + 60 = 350 wide
    assert one.thickness == two.thickness == 20 and one.outline.bounds == pytest.approx((-175, -175, 175, 175)) and len(d.bolts[0].points) == 6
    assert {round(float(np.hypot(h.x, h.y)), 4) for h in one.holes} == {145.0}
    # each tube ends on its own plate, 20 off the middle; welded all round in chords
    assert sorted(round(float(e.joint.frame.to_world([c.point])[0][0]), 3) for c in d.ends) == [-20, 20]
    assert sorted({round(float(e.joint.frame.to_world([w.start])[0][0]), 3) for w in d.welds}) == [-20, 20] and len(d.welds) == 48
    assert not breaches(e) and {round(f.grip, 3) for f in (e.made.assembled.fitted if e.made is not None else ())} == {40}
    with pytest.raises(TinCleatError, match="stand 38 mm apart on a circle of 290"):
        joined(tmp_path / "x", spliced("CHS 219.1x8", "CHS 168.3x6.3"), "flange-plates", "M1.start", count=24)


def test_square_flange_plates_go_round_where_two_sides_are_too_far_apart(tmp_path: Path) -> None:
    _, small = joined(tmp_path / "s", spliced("SHS 100x100x5", "SHS 100x100x5"), "flange-plates", "M1.start")
    _, large = joined(tmp_path / "l", spliced("SHS 200x200x8", "SHS 200x200x8"), "flange-plates", "M1.start")
    # 100 + 2 x 35 = 170 under 200; 200 + 70 = 270 over it
    assert made(small).number("where").value == "on two sides" and len(made(small).bolts[0].points) == 4
    assert made(large).number("where").value == "on four sides" and len(made(large).bolts[0].points) == 8 and not breaches(small) and not breaches(large)
    _, forced = joined(tmp_path / "f", spliced("SHS 200x200x8", "SHS 200x200x8"), "flange-plates", "M1.start", where="on two sides")
    worst = [f for f in forced.findings if f.rule == "spacing-greatest" and f.level == "breach"]
    assert [round(f.actual) for f in worst] == [270]


def test_a_ring_of_bolts_closes_a_lap(tmp_path: Path) -> None:
    def greatest(count: int) -> list[tuple[float, float]]:
        _, e = joined(tmp_path / str(count), spliced("CHS 406.4x10", "CHS 406.4x10"), "flange-plates", "M1.start", count=count)
        found = [f for f in e.findings if f.rule == "spacing-greatest"]
        if not any(f.level == "breach" for f in found):  # what is told is what is measured round the ring
            assert max(f.actual for f in found) == pytest.approx(480 * math.sin(math.pi / count), abs=0.01)
        return [(f.actual, f.required) for f in found if f.level == "breach"]

    # on a circle of 480 eight bolts stand 480 sin(22.5 deg) = 184 apart, six 240, where 14 x 20 = 280, but 200, is the limit
    assert greatest(8) == []
    wide = greatest(6)
    assert wide and {round(a) for a, _ in wide} <= {240, 416, 480} and wide[0][1] == 200
