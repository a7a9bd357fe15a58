"""Columns on each other with a cap and a base plate, by hand: where bolts and plates land, what is refused."""

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from sites import column, spliced
from test_new_families import breaches, joined, made

from tincleat.errors import TinCleatError


def stacked(path: Path, one: str, two: str, **typed: Any) -> Any:
    return joined(path, spliced(one, two, True), "cap-and-base", "M2.start", **typed)[1]


def rows(e: Any) -> tuple[list[float], list[float]]:
    """Where the bolts stand from the middle, along the lower column's depth and across."""
    plate = next(p for p in made(e).plates if p.name == "cap plate")
    xs, ys = sorted({round(h.x, 3) for h in plate.holes}), sorted({round(h.y, 3) for h in plate.holes})
    return xs, ys


def test_a_smaller_column_on_a_larger_by_hand(tmp_path: Path) -> None:
    e = stacked(tmp_path, "UC 254x254x73", "UC 203x203x46")
    d = made(e)
    # upper 203.2 deep, flanges 11: inside faces 90.6 off; M20 needs 31.75: 58.85 down to 55 on 5: rows 110 apart
    # lower 254.1 deep, flanges 14.2: 112.85 - 31.75 is further out.  Across: 1.1 x 127.3 = 140
    assert rows(e) == ([-55.0, 55.0], [-70.0, 70.0]) and not breaches(e)
    # welds 0.6 x 14.2 = 8.5 up to 9; 9 + 4 up to 15 past 254.1 and 254.6: 284.1 up to 285
    assert d.number("flange_weld").value == 9.0 and d.plates[0].outline.bounds == pytest.approx((-142.5, -142.5, 142.5, 142.5))
    # they were drawn to meet at 3000: the cap lies under it, the base plate over it; each column ends on its own
    spans = {p.name: sorted(e.joint.frame.to_world(p.frame.to_world([(0.0, 0.0, z) for z in (0.0, p.thickness)]))[:, 2]) for p in d.plates}
    assert spans["cap plate"] == pytest.approx([2980, 3000]) and spans["base plate"] == pytest.approx([3000, 3020])
    assert sorted(e.joint.frame.to_world([c.point for c in d.ends])[:, 2]) == pytest.approx([2980, 3020])
    assert len({w.parts for w in d.welds}) == 2 and {w.parts[0] for w in d.welds} == {"cap plate", "base plate"}
    assert [len(f.plies) for f in e.made.assembled.fitted] == [2] * 4 and {round(f.grip, 3) for f in e.made.assembled.fitted} == {40.0}


def test_a_pack_parts_them_evenly(tmp_path: Path) -> None:
    e = stacked(tmp_path, "HEB 300", "HEB 200", pack=12.0)
    spans = {p.name: sorted(e.joint.frame.to_world(p.frame.to_world([(0.0, 0.0, z) for z in (0.0, p.thickness)]))[:, 2]) for p in made(e).plates}
    assert spans["pack"] == pytest.approx([2994, 3006]) and spans["cap plate"][1] == pytest.approx(2994) and spans["base plate"][0] == pytest.approx(3006)
    assert {round(f.grip, 3) for f in e.made.assembled.fitted} == {20 + 12 + 20}


def test_rows_in_exposed_work_stand_no_further_apart_than_allowed(tmp_path: Path) -> None:
    e = stacked(tmp_path, "HEB 600", "HEB 400")
    xs, _ = rows(e)
    # plates of 20: 14 x 20 = 280, 200 at most; the upper's flanges 200 to 176 off, 31.75 clear of both sides
    assert max(np.diff(xs)) <= 200 and all(abs(x) >= 231.75 or abs(x) <= 144.25 for x in xs) and not breaches(e)


def test_a_column_turned_on_the_one_below(tmp_path: Path) -> None:
    members = [{**column("UC 254x254x73"), "end": [0, 0, 3000]}, {**column("UC 203x203x46", 90), "start": [0, 0, 3000]}]
    _, e = joined(tmp_path, members, "cap-and-base", "M2.start")
    xs, ys = rows(e)
    # the upper's web lies along x and its flanges 90.6 off across: 36 off its web, 58.85 at most from its flanges; the lower's web is 36 off the other way
    assert min(abs(y) for y in ys) >= 7.2 / 2 + 31.75 and max(abs(y) for y in ys) <= 58.85 and min(abs(x) for x in xs) >= 8.6 / 2 + 31.75 and not breaches(e)


@pytest.mark.parametrize(
    ("members", "words"),
    [
        ([{**column("UC 203x203x46"), "end": [0, 0, 3000]}, {**column("UC 203x203x46"), "start": [0, 0, 3000], "end": [200, 0, 6000]}], "bend by 3.8°"),
        ([{**column("UC 203x203x46"), "end": [0, 0, 3000]}, {**column("UC 203x203x46"), "offset": [30, 0], "start": [0, 0, 3000]}], "middles lie 30.0 mm apart"),
        (spliced("L 100x100x10", "L 100x100x10", True), "is a L section"),
    ],
)
def test_what_does_not_fit_is_refused_in_figures(tmp_path: Path, members: Any, words: str) -> None:
    with pytest.raises(TinCleatError, match=words):
        joined(tmp_path, members, "cap-and-base", "M2.start")


def test_no_room_between_the_flanges_says_so(tmp_path: Path) -> None:
    with pytest.raises(TinCleatError, match="no room for M24 bolts"):
        stacked(tmp_path, "IPE 120", "IPE 120", where="between the flanges", bolt="M24")


def test_an_edge_wider_than_the_columns_puts_bolts_outside(tmp_path: Path) -> None:
    # 203.2 / 2 + 15 less 160 leaves nothing inside: outside they stand, 160 from the plates' edges
    e = stacked(tmp_path, "UC 203x203x46", "UC 203x203x46", edge=160.0)
    d = made(e)
    plate = next(p for p in d.plates if p.name == "cap plate")
    assert d.number("where").value == "outside the column" and min(plate.outline.bounds[2] - abs(h.x) for h in plate.holes) >= 160.0 - 1e-6
