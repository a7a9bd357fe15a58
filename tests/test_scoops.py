"""U and J grooves of loose plates: what is cut off their edges and what fills it again, by hand, in exact solids and by another engine."""

import math
from pathlib import Path
from typing import Any

import pytest
from test_loose import breaches, detail, exact, laid, length
from test_sunk import volume

from tincleat.details.bodies import bodies
from tincleat.errors import TinCleatError
from tincleat.exchange.ifc import export_ifc
from tincleat.ledger.entries import Entry
from tincleat.release.bill import bill
from tincleat.release.weld_list import section_area, weld_list

PAIR: dict[str, Any] = {"part__1": "plate", "length__1": 200, "width__1": 150, "thickness__1": 20, "off__1": 30, "along__1": -101, "part__2": "plate", "length__2": 200, "width__2": 150, "thickness__2": 20, "off__2": 30, "along__2": 101, "part__3": "weld", "to__3": "part 2"}


def half(land: float, radius: float, degrees: float, depth: float) -> float:
    """One side's area, by hand: beside the arc a sector less its triangle, r²/2 (φ - sin φ cos φ) with φ = 90° - β; beside the straight face a trapezium."""
    beta = math.radians(degrees)
    phi = math.pi / 2 - beta
    straight = depth - land - radius * (1 - math.cos(phi))
    return radius**2 / 2 * (phi - math.sin(phi) * math.cos(phi)) + straight * (radius * math.sin(phi) + straight * math.tan(beta) / 2)


def sound(e: Entry) -> None:
    """Nothing lies in anything, and every weld fills what is between its plates to their faces."""
    assert e.made is not None
    some = [(b.kind, b.name, exact(b)) for b in bodies(e.made.assembled, 6, drilled=True, reach=500.0)]
    for i, (kind, name, one) in enumerate(some):
        for kind2, name2, two in some[:i]:
            if kind == kind2 == "weld":
                continue
            assert float((one ^ two).volume()) < 1.0, (name, name2)


@pytest.mark.parametrize(("prep", "side", "opening", "both", "twice"), [
    ("B-U6", (3.175, 6.35, 22.5, 20.0), 3.175, True, False), ("1.8", (3.0, 6.0, 10.0, 20.0), 2.0, True, False), ("B-U8", (3.175, 9.525, 45.0, 20.0), 3.175, False, False),
    ("B-U7", (3.175 / 2, 6.35, 22.5, 10.0), 3.175, True, True), ("B-U9", (3.175 / 2, 9.525, 45.0, 10.0), 3.175, False, True),
])  # fmt: skip
def test_between_two_plates(tmp_path: Path, prep: str, side: tuple[float, float, float, float], opening: float, both: bool, twice: bool) -> None:
    desk, e = laid(tmp_path / "a", **PAIR, prep__3=prep)
    d = detail(e)
    plates = {p.name: p for p in d.plates if p.name.startswith("plate")}
    area, count = half(*side), 2 if twice else 1
    assert 200 * 150 * 20 - plates["plate 1"].volume == pytest.approx(150 * area * count, rel=1e-9)
    assert 200 * 150 * 20 - plates["plate 2"].volume == pytest.approx(150 * area * count * both, rel=1e-9, abs=1e-6)
    welds = [w for w in d.welds if w.kind == "groove"]
    assert len(welds) == count and {round(length(w), 6) for w in welds} == {150.0} and {w.radius for w in welds} == {side[1]}
    # the gap between the plates, and what was cut off both: eight chords of an arc take a little less
    filled = opening * side[3] + area * (2 if both else 1)
    assert all(section_area(w) == pytest.approx(filled, rel=4e-3) for w in welds)
    sound(e)
    assert not breaches(e), breaches(e)
    # plates and welds together are one piece without a hole
    assert sum(float(exact(b).volume()) for b in bodies(e.made.assembled, 6) if b.kind in ("plate", "weld") and "backing" not in b.name) == pytest.approx((400 + opening) * 150 * 20, rel=1e-6)  # type: ignore[union-attr]
    # exact solids of the picture, and the other engine's of the file, weigh as much
    found = {b.name: float(exact(b).volume()) for b in bodies(e.made.assembled, 12, drilled=True) if b.kind in ("plate", "weld")}  # type: ignore[union-attr]
    assert found["plate 1"] == pytest.approx(plates["plate 1"].volume, rel=5e-4)
    assert volume(export_ifc(desk.ledger, tmp_path / "a.ifc"), "IfcPlate", "plate 1") == pytest.approx(plates["plate 1"].volume, rel=5e-4)
    (line,) = [x for x in weld_list(desk.ledger) if x.kind == "groove"]
    assert line.length == 150 * count and line.volume == pytest.approx(150 * count * filled, rel=4e-3)
    # mirrored it is the same; a plate with the preparation is another plate than one without
    there = laid(tmp_path / "m", **PAIR, prep__3=prep, hand="mirrored")[1]
    sound(there)
    assert not breaches(there) and {round(p.volume, 3) for p in detail(there).plates} == {round(p.volume, 3) for p in d.plates}
    # turned about they are alike where both are prepared; else the square one is another plate
    assert sum(x.count for x in bill(desk.ledger) if x.name.startswith("plate")) == 2


@pytest.mark.parametrize(("prep", "side", "twice"), [("TC-U8a", (3.175, 9.525, 45.0, 20.0), False), ("TC-U9a", (3.175 / 2, 9.525, 45.0, 10.0), True)])
def test_under_a_standing_plate(tmp_path: Path, prep: str, side: tuple[float, float, float, float], twice: bool) -> None:
    e = laid(tmp_path / "a", part__1="plate", stands__1="upright along", thickness__1=20, length__1=180, width__1=120, part__2="weld", prep__2=prep)[1]
    (plate,) = (p for p in detail(e).plates if p.name == "plate 1")
    count = 2 if twice else 1
    assert 180 * 120 * 20 - plate.volume == pytest.approx(180 * count * half(*side), rel=1e-9)
    assert [section_area(w) for w in detail(e).welds] == pytest.approx([3.175 * side[3] + half(*side)] * count, rel=4e-3)
    sound(e)
    assert not breaches(e), breaches(e)


def test_what_has_no_room_is_refused_in_figures(tmp_path: Path) -> None:
    for i, (more, words) in enumerate((
        ({"prep__3": "B-U6", "root_radius__3": 1.0}, "Groove radius"),
        ({"prep__3": "B-U6", "length__1": 9, "along__1": -5.5}, "past its outline beside the edge"), ({"prep__3": "B-U6", "thickness__1": 5, "thickness__2": 5}, "B-U6 is for 6 mm and more"),
    )):  # fmt: skip
        with pytest.raises(TinCleatError, match=words):
            laid(tmp_path / f"w{i}", **PAIR | more)
    # a radius of one's own
    d = detail(laid(tmp_path / "r", **PAIR, prep__3="1.8", root_radius__3=8.0)[1])
    assert {w.radius for w in d.welds} == {8.0} and 200 * 150 * 20 - d.plates[0].volume == pytest.approx(150 * half(3.0, 8.0, 10.0, 20.0), rel=1e-9)


def test_a_plate_at_an_edge_is_a_corner_joint(tmp_path: Path) -> None:
    """A plate of 10 that stands on another of 100, its outer face 50 from the middle: nothing lies beside it there.  What is for tee joints and
    corners goes, what is for butts or for corners of two bevelled plates does not."""
    base: dict[str, Any] = {"part__1": "plate", "length__1": 240, "width__1": 100, "thickness__1": 16, "part__2": "plate", "on__2": "part 1", "stands__2": "upright along", "length__2": 180, "width__2": 80, "thickness__2": 10, "part__3": "weld", "of__3": "part 2"}
    for across, here in ((45.0, "a corner"), (-45.0, "a corner"), (40.0, "stands on a face"), (0.0, "stands on a face")):
        e = laid(tmp_path / f"a{across}", **base, across__2=across, prep__3="TC-U4b")[1]
        assert [w.kind for w in detail(e).welds] == ["groove"]
        with pytest.raises(TinCleatError, match=rf"B-U4b is for a butt joint; here a plate .*{here}"):
            laid(tmp_path / f"b{across}", **base, across__2=across, prep__3="B-U4b")
    # a single V between two plates at a corner is cut into neither here, and the right ones are told
    with pytest.raises(TinCleatError, match=r"single V groove is not cut into a plate's edge here \(TC-U4a"):
        laid(tmp_path / "c", **base, across__2=45.0, prep__3="C-U2")
    with pytest.raises(TinCleatError, match=r"C-U2 is for a corner joint; here a plate stands on a face"):
        laid(tmp_path / "d", **base, across__2=0.0, prep__3="C-U2")
