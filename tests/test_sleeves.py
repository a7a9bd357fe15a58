"""Sleeves over purlins that end on one carrier, by hand."""

from pathlib import Path
from typing import Any

import pytest
from sites import girder
from sites import sized as section
from test_new_families import breaches, joined, made

from tincleat.errors import TinCleatError


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
