"""Sleeves over purlins that end on one carrier, by hand."""

from pathlib import Path
from typing import Any

import pytest
from sites import girder, lapping
from sites import sized as section
from test_new_families import breaches, joined, made

from tincleat.errors import NoFit, TinCleatError


def purlins(path: Path, name: str = "Z 200x65x20x2", two: bool = True, **typed: Any) -> Any:
    z = 3000 + section("UB 457x191x67").h / 2
    bar = {"section": name, "role": "purlin", "cardinal": "bottom"}
    over = [{**bar, "start": [0, -4000, z], "end": [0, 0, z]}, {**bar, "start": [0, 0, z], "end": [0, 4000, z]}] if two else [{**bar, "start": [0, -4000, z], "end": [0, 4000, z]}]
    return joined(path, [girder("UB 457x191x67"), *over], "purlin-cleat", "M2.end" if two else "M2 over M1", **typed)


def test_a_sleeve_by_hand(tmp_path: Path) -> None:
    _, e = purlins(tmp_path, sleeve=5.0)
    d = made(e)
    (sleeve,) = d.plates
    # M16 in 18: edge 1.6 x 16 = 25.6 up to 30; gap 10: the cleat's bolts 5 + 30 = 35 off the middle, the sleeve's 300 further, then 30 to its ends
    xs = sorted({round(h.x, 3) for h in sleeve.holes})
    assert xs == [-335.0, -35.0, 35.0, 335.0] and sleeve.outline.bounds[2] - sleeve.outline.bounds[0] == pytest.approx(2 * 365.0)
    # as high as its rows and 30 to each edge, between the roots (2 + 3 of bend off the flanges' inner faces)
    rows = sorted({round(h.y, 3) for h in sleeve.holes})
    assert sleeve.outline.bounds[3] - sleeve.outline.bounds[1] == pytest.approx(rows[-1] - rows[0] + 60.0) and not breaches(e)
    # the cleat's bolts go through cleat, web and sleeve, the sleeve's own through web and sleeve
    assert sorted({len(f.plies) for f in e.made.assembled.fitted}) == [2, 3]
    # each purlin has its two lines of holes
    assert sorted({h.member for h in d.holes}) == [0, 1] and len(d.holes) == 2 * 2 * len(rows)
    sides = {m: {h.point[0] > 0 for h in d.holes if h.member == m} for m in (0, 1)}
    assert {round(abs(h.point[0]), 3) for h in d.holes} == {35.0, 335.0} and sorted(len(v) for v in sides.values()) == [1, 1] and sides[0] != sides[1]


@pytest.mark.parametrize(
    ("two", "name", "typed", "words"),
    [(False, "Z 200x65x20x2", {"sleeve": 5.0}, "nothing to join"), (True, "Z 200x65x20x2", {"sleeve": 5.0, "sleeve_height": 195.0}, "between the roots"), (True, "Z 200x65x20x2", {"sleeve": 5.0, "sleeve_height": 30.0}, "miss a sleeve")],
)
def test_what_a_sleeve_cannot_do(tmp_path: Path, two: bool, name: str, typed: dict[str, Any], words: str) -> None:
    with pytest.raises(TinCleatError, match=words):
        purlins(tmp_path, name, two, **typed)


def test_a_lap_by_hand(tmp_path: Path) -> None:
    # flanges of 65 and 59 differ by 6, two sheets of 2 are enough; webs 2 mm beside each other, the one turned over 2 mm lower
    _, e = joined(tmp_path, lapping("Z 200x65/59x20x2", 300.0), "purlin-cleat", "M2.end")
    d = made(e)
    assert not breaches(e)
    # M16: 25.6 up to 30 from the ends, which lie 300 past the middle; the cleat's own bolts over the rafter's middle
    assert sorted({round(p[0], 2) for b in d.bolts for p in b.points}) == [-270.0, 0.0, 270.0]
    # through cleat and both webs, 9 + 2 + 2, and through both webs alone
    assert sorted({(round(abs(f.point[0])), len(f.plies), round(f.grip, 2)) for f in e.made.assembled.fitted}) == [(0, 3, 13.0), (270, 2, 4.0)]
    rows = len({round(p[2], 3) for p in d.bolts[0].points})
    assert [len([h for h in d.holes if h.member == m]) for m in (0, 1)] == [3 * rows, 3 * rows]
    # shorter where it is typed: both zeds are cut
    _, e = joined(tmp_path / "typed", lapping("Z 200x65/59x20x2", 300.0), "purlin-cleat", "M2.end", lap=250.0)
    assert sorted(round(c.point[0], 3) for c in made(e).ends) == [-250.0, 250.0]
    # drawn unlike, 300 and 380, both end as the shorter one, and the number says why
    members = lapping("Z 200x65/59x20x2", 300.0)
    members[1] = {**members[1], "end": [380.0, *members[1]["end"][1:]]}
    d = made(joined(tmp_path / "unlike", members, "purlin-cleat", "M2.end")[1])
    assert (d.number("lap").value, d.number("lap").origin) == (300.0, "adapted") and "300 and 380" in d.number("lap").rule


def moved(aside: float, down: float, section: str = "Z 200x65/59x20x2", turned: bool = True) -> list[dict[str, Any]]:
    """The second zed of a lap, drawn off its place."""
    under, one, two = lapping(section, 300.0)
    there = {**two, "start": [two["start"][0], two["start"][1] + aside, two["start"][2] - down], "end": [two["end"][0], two["end"][1] + aside, two["end"][2] - down]}
    return [under, one, there if turned else {**there, "roll_deg": 0.0}]


@pytest.mark.parametrize(
    ("members", "words"),
    [
        (moved(1.0, 0.0), "3.0 mm to the side.*moved -1.0 mm to that side and 0.0 mm down"),
        (moved(0.0, -2.0), "its top 0.0 mm under.*moved 0.0 mm to that side and 2.0 mm down"),
        (moved(4.0, -2.0, turned=False), "the same way up"),
        (moved(0.0, 0.0, "Z 200x65/63x20x2"), "differ by 2 mm.*at least 4 mm"),
        (moved(128.0, 0.0, "Z 200x65x20x2"), "do not lie in each other"),
    ],
)
def test_zeds_that_do_not_lie_in_each_other_are_refused_with_figures(tmp_path: Path, members: list[dict[str, Any]], words: str) -> None:
    with pytest.raises(NoFit, match=words):
        joined(tmp_path, members, "purlin-cleat", "M2.end")


def test_a_fly_brace_at_a_lap_is_refused(tmp_path: Path) -> None:
    with pytest.raises(NoFit, match="lie beside each other"):
        joined(tmp_path, lapping("Z 200x65/59x20x2", 300.0), "purlin-cleat", "M2.end", fly="both sides")


def test_a_cleat_under_a_flange_is_shorter_than_the_usual_one(tmp_path: Path) -> None:
    # Z 150x60/54x18x1.5: the lower zed's top flange bends 150 - 1.5 - 2.25 up, 2 less: 144 leave a leg of 125 or so where the usual one has 150
    _, e = joined(tmp_path, lapping("Z 150x60/54x18x1.5", 240.0), "purlin-cleat", "M2.end")
    size = made(e).number("size")
    assert size.origin == "adapted" and max(section(str(size.value)).h, section(str(size.value)).b) <= 144.25
    with pytest.raises(NoFit, match="does not end under the flange"):
        joined(tmp_path / "typed", lapping("Z 150x60/54x18x1.5", 240.0), "purlin-cleat", "M2.end", size="L 150x75x9")
