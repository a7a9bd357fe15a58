"""Timber members and their seats by hand: sizes, weight, what no steel family takes, distances in the timber."""

import math
import re
from pathlib import Path
from typing import Any

import pytest
from sites import beam, column, girder
from test_new_families import breaches, joined, made

from tincleat.catalogue.sections import section
from tincleat.catalogue.timber import timber_grades
from tincleat.commands.desk import Desk
from tincleat.details.bodies import bodies
from tincleat.errors import TinCleatError
from tincleat.project.entities import HouseRules
from tincleat.release.bill import bill, total_mass


def joist(name: str = "TM 75x225", skew: float = 0.0, **more: Any) -> dict[str, Any]:
    return {**beam(name, skew), "role": "joist", **more}


def test_sizes_and_grades() -> None:
    for name, b, h in (("TM 75x225", 75.0, 225.0), ("TM1-1/2X9-1/4", 38.1, 234.95), ("tm2x10", 50.8, 254.0)):
        s = section(name)
        assert s.timber and (s.b, s.h) == pytest.approx((b, h))
    assert not section("FL 225x75").timber and {"C24", "DF-L"} <= set(timber_grades())


def test_what_it_weighs_and_that_it_is_no_steel(tmp_path: Path) -> None:
    desk = Desk.create(tmp_path / "p.tincleat", HouseRules(), True)
    desk.run("add-members", members=[column("HEB 300"), joist("TM 75x225")])
    _, wood = desk.project.members.values()
    assert wood.grade == "C24"
    line = next(x for x in bill(desk.ledger) if x.kind == "timber")
    # 4 m of 75 x 225 at 420 kg/m3
    assert line.mass_each == pytest.approx(4.0 * 0.075 * 0.225 * 420) and line.size == "TM 75x225"
    assert total_mass(desk.ledger) == pytest.approx(sum(x.mass for x in bill(desk.ledger) if x.kind == "column"))
    for bad, words in (({"grade": "S355"}, "is timber, 'S355' is none of its grades"), ({"section": "HEB 300", "grade": "C24"}, "HEB 300 is steel, 'C24' is a grade of timber")):
        with pytest.raises(TinCleatError, match=words):
            desk.run("add-members", members=[{**joist(), **bad}])
    # a change to steel and back takes the usual grade along
    desk.run("change-members", ids=[wood.id], section="IPE 200")
    assert desk.project.members[wood.id].grade == "S355"
    desk.run("change-members", ids=[wood.id], section="TM 50x150")
    assert desk.project.members[wood.id].grade == "C24"
    with pytest.raises(TinCleatError, match="is timber"):
        desk.run("change-members", ids=[wood.id], grade="S275")
    for name in ("fin-plate", "end-plate", "seat-cleat"):
        with pytest.raises(TinCleatError, match="TM 50x150 is timber"):
            desk.run("place-connection", family=name, at=[f"{wood.id}.end"])


def test_a_seat_on_a_beams_web(tmp_path: Path) -> None:
    _, e = joined(tmp_path / "a", [girder("UB 457x191x67"), joist("TM 75x225", 90)], "timber-seat", "M2.end")
    d = made(e)
    (bent,) = d.bents
    # between the cheeks 75 + 2; the web's face is (189.9 - 8.5) / 2 = 90.7 behind the flange's edge, 5 more, on 5: the back at 100
    assert bent.flats[1].length == pytest.approx(77 - 2 * 12) and bent.radius == 12.0 and [round(math.degrees(a)) for a in bent.turns] == [90, 90]
    rib = next(p for p in d.plates if p.name == "rib")
    x0, _, x1, _ = rib.outline.bounds
    assert x1 - x0 == pytest.approx(100.0)
    # the joist ends clear of the bends: 12 and 1; M12 in timber: 7 x 12 = 84 from its end, on 5: 85; 4 x 12 = 48 from the edges, on 5: 50
    assert d.ends[0].point[0] == pytest.approx(100 + 6 + 13)
    first, second = sorted(d.bolts[0].points)
    assert first[0] == pytest.approx(119 + 85) and first[2] == pytest.approx(-112.5 + 50)
    # the second as far up as a third of the joist, 75, and 48 further along, on 5: 50
    assert (second[0] - first[0], second[2] - first[2]) == pytest.approx((50.0, 75.0))
    # through cheek, timber, cheek; the timber drilled a millimetre larger
    for fitted in e.made.assembled.fitted:
        assert [e.made.assembled.plies[p.ply].owner for p in fitted.plies] == ["bent plate", "supported member", "bent plate"] and fitted.grip == pytest.approx(77 + 12)
    assert {h.width for h in d.holes} == {13.0}
    # the seat is under the joist, and its welds under the seat
    seat = next(p for p in d.plates if p.name == "seat")
    assert seat.frame.origin[2] + seat.thickness == pytest.approx(-112.5) and all(w.start[2] == pytest.approx(-120.5) for w in d.welds if "seat" in w.parts)
    rules = {f.rule: f for f in e.findings if f.rule.startswith("timber")}
    assert rules["timber-end"].required == 84.0 and rules["timber-end"].actual == pytest.approx(85.0)
    assert rules["timber-edge"].required == 48.0 and rules["timber-edge"].actual == pytest.approx(50.0)
    assert rules["timber-spacing"].actual == pytest.approx(math.hypot(50, 75)) and rules["timber-hole"].actual == pytest.approx(1.0)
    assert not breaches(e)


def test_bolts_too_near_the_end_or_edge_are_told(tmp_path: Path) -> None:
    _, e = joined(tmp_path / "a", [column("HEB 300"), joist()], "timber-seat", "M2.end", end_distance=60.0, first=40.0, rows=(30.0,), stagger=0.0)
    assert {"timber-end", "timber-edge", "timber-spacing"} <= breaches(e)
    # by NDS four diameters are enough
    _, e = joined(tmp_path / "b", [column("W12X65"), joist("TM2-1/2X9-1/4")], "timber-seat", "M2.end", True)
    limit = next(f for f in e.findings if f.rule == "timber-end")
    assert limit.required == pytest.approx(4 * 12.7) and "NDS" in limit.clause and not breaches(e)


def test_a_narrow_joist_stands_off_on_a_rib(tmp_path: Path) -> None:
    # 50 + 2 - 2 x 12 = 28 flat, less than a fillet needs: 30 and its ends
    _, e = joined(tmp_path / "a", [column("HEB 300"), joist("TM 50x150")], "timber-seat", "M2.end")
    assert "rib" in {p.name for p in made(e).plates} and made(e).number("stand_off").value == 40.0 and not breaches(e)
    _, e = joined(tmp_path / "b", [column("HEB 300"), joist("TM 75x225")], "timber-seat", "M2.end")
    assert "rib" not in {p.name for p in made(e).plates} and made(e).number("stand_off").value == 0.0


def test_what_is_refused(tmp_path: Path) -> None:
    for n, (members, typed, words) in enumerate((
        ([column("HEB 300"), beam("IPE 200")], {}, "IPE 200 is steel"), ([column("HEB 300"), joist(skew=12.0)], {}, r"12\.0° off square"),
        ([column("HEB 300"), joist()], {"gap": 5.0}, "would stand in the bends"), ([column("HEB 300"), joist("TM 50x75")], {}, "does not hold a bolt"),
        ([column("HEB 300"), joist()], {"cheek": 300.0}, "stand over the joist"), ([column("HEB 300"), joist()], {"bearing": 40.0}, "carries 27 mm"),
        ([column("HEB 300"), joist()], {"radius": 40.0, "gap": 50.0}, "is left"), ([girder("UB 457x191x67"), joist("TM 50x150", 90)], {"rib": 25.0}, "does not stand on the back's flat"),
        ([column("SHS 100x100x5"), joist("TM 140x360")], {}, "leaves the face of SHS 100x100x5"), ([girder("IPE 80"), joist("TM 75x225", 90)], {}, "are left for its rib"),
    )):  # fmt: skip
        try:
            joined(tmp_path / str(n), members, "timber-seat", "M2.end", **typed)
        except TinCleatError as error:
            assert re.search(words, str(error)), error
        else:
            raise AssertionError(words)


@pytest.mark.parametrize("turn", [-0.6, 0.6])
def test_a_back_stands_off_a_face_that_is_not_quite_square(tmp_path: Path, turn: float) -> None:
    # under a back (75 + 4) wide, turned by 0.6, the face comes nearer by 39.5 x tan 0.6 = 0.41 at one end, whichever that is
    _, e = joined(tmp_path, [{**column("HEB 300"), "roll_deg": turn}, joist()], "timber-seat", "M2.end")
    assert e.made is not None and not breaches(e)
    (back,) = (b.mesh.points[:, 0].min() for b in bodies(e.made.assembled, 8) if b.name == "bent plate")
    nearest = 39.5 * math.tan(math.radians(0.6))
    assert nearest - 0.06 <= back <= nearest + 0.2


def test_a_back_may_not_run_past_the_flat_of_a_tubes_side(tmp_path: Path) -> None:
    # RHS 400x200x10 lying: flat to 200 - 15 = 185 under its middle; the back ends 126.5 under the joist's middle and its fillet 5 more
    for drop, fits in ((53.0, True), (54.0, False)):
        z = 3000 - drop
        members = [girder("RHS 400x200x10"), joist(skew=90.0, start=[0, 4000, z], end=[0, 0, z])]
        if fits:
            assert not breaches(joined(tmp_path / "a", members, "timber-seat", "M2.end")[1])
        else:
            with pytest.raises(TinCleatError, match=r"the back reaches [01] mm past the flat of RHS 400x200x10"):
                joined(tmp_path / "b", members, "timber-seat", "M2.end")


def test_a_joist_holds_a_bolt_between_its_edges_or_is_refused(tmp_path: Path) -> None:
    # M12: 48 from the upper edge, 50 from the lower: 98 deep just does
    d = made(joined(tmp_path / "a", [column("HEB 300"), joist("TM 75x98")], "timber-seat", "M2.end")[1])
    assert d.number("first").value == 50 and d.number("rows").value == ()
    with pytest.raises(TinCleatError, match="a joist 97 mm deep does not hold a bolt 48 mm from both edges"):
        joined(tmp_path / "b", [column("HEB 300"), joist("TM 75x97")], "timber-seat", "M2.end")


@pytest.mark.parametrize("aside", [-130.0, 130.0])
def test_a_back_may_not_leave_the_side_of_a_flange(tmp_path: Path, aside: float) -> None:
    # HEB 300: its flange goes to 150; 20 are left beside a joist 130 off its middle, and the back's flat is 53 wide
    with pytest.raises(TinCleatError, match="the back's flat, 53 mm wide, leaves the face of HEB 300 by 6 mm"):
        joined(tmp_path, [column("HEB 300"), joist(start=[4000, aside, 3000], end=[0, aside, 3000])], "timber-seat", "M2.end")
