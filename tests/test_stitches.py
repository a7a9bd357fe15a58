"""Packs between double braces, by hand."""

import tempfile
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from site_parts import back_to_back, brace, starred
from test_new_families import breaches, joined

from tincleat.errors import TinCleatError


def stitch(path: Path, members: list[dict[str, Any]], **typed: Any) -> Any:
    path = Path(tempfile.mkdtemp(dir=path))
    return joined(path, members, "stitch", "M1+M2@1000", **typed)[1]


def test_a_pack_between_two_backs(tmp_path: Path) -> None:
    """L 100x100x10, 12 apart: the pack fills the 12 and stands 5 short of heel and toe, 90 wide; the line 55 from the heel (0.55 x 100), 60 long: 1.5 x 20 each way."""
    e = stitch(tmp_path, back_to_back("L 100x100x10", 30, 100, 12))
    (pack,) = e.made.detail.plates
    x0, y0, x1, y1 = pack.outline.bounds
    assert pack.thickness == 12.0 and (x1 - x0, y1 - y0) == pytest.approx((60.0, 90.0))
    (bolt,) = e.made.assembled.fitted
    assert len(bolt.plies) == 3 and bolt.grip == pytest.approx(10 + 12 + 10)
    # 5 off the leg's middle, towards the toe: 45 from it
    angle = e.made.case.members[0]
    local = angle.frame.to_local(np.array([bolt.point]))[0]
    assert max(abs(local[1]), abs(local[2])) >= 50.0 and min(abs(local[1]), abs(local[2])) == pytest.approx(5.0)
    assert not breaches(e) and e.made.detail.holes[0].width == 22.0


def test_starred_angles_have_a_bolt_each(tmp_path: Path) -> None:
    e = stitch(tmp_path, starred("L 80x80x8", 20, 80, 10))
    (pack,) = e.made.detail.plates
    assert pack.outline.bounds[3] - pack.outline.bounds[1] == pytest.approx(2 * 80 - 2 * 5, abs=0.01)
    assert [len(f.plies) for f in e.made.assembled.fitted] == [2, 2] and all(f.grip == pytest.approx(18.0, abs=0.01) for f in e.made.assembled.fitted)
    apart = np.array(e.made.detail.bolts[0].points[0]) - np.array(e.made.detail.bolts[1].points[0])
    assert float(np.linalg.norm(apart)) == pytest.approx(80.0, abs=0.05)  # 40 from each heel


def test_backs_that_are_not_parallel_leave_the_pack_what_is_free(tmp_path: Path) -> None:
    """The second angle of the first test rolled by half a degree about its middle: over the pack, 45 either way of that, the 12 between the backs become
    12 -+ 45 tan 0.5 deg = 11.607 to 12.393; the pack is 11.607 thick, lies in neither leg, and is not in stock: 10 would lie 2.393 off."""
    one, two = back_to_back("L 100x100x10", 30, 100, 12)
    for turn in (0.5, -0.5):
        e = stitch(tmp_path, [one, {**two, "roll_deg": two["roll_deg"] + turn}])
        assert e.made.detail.plates[0].thickness == pytest.approx(12 - 45 * np.tan(np.radians(0.5)), abs=0.005)
        assert breaches(e) == {"plate-stock"} and 0.0 < e.made.assembled.fitted[0].gap < 0.8
    # 13.5 apart a stocked pack of 12 lies 1.5 off one of them, which plies may; 14.5 apart it would be 2.5
    for gap, thick, left in ((13.5, 12.0, {}), (14.5, 14.5, {"plate-stock"})):
        e = stitch(tmp_path, back_to_back("L 100x100x10", 30, 100, gap))
        assert e.made.detail.plates[0].thickness == pytest.approx(thick) and breaches(e) == set(left)
        assert e.made.assembled.fitted[0].gap == pytest.approx(gap - thick)
        number = e.made.detail.number("thickness")
        assert number.value == pytest.approx(thick) and number.rule == ("the backs are 13.5 mm apart, and no stocked plate is as thick" if thick == 12.0 else "")
    # a hair less than a stocked thickness is that thickness, not the next one
    e = stitch(tmp_path, back_to_back("L 100x100x10", 30, 100, 12 - 1e-6))
    assert e.made.detail.plates[0].thickness == pytest.approx(12.0, abs=1e-5) and not breaches(e)
    assert stitch(tmp_path, starred("L 100x100x10", 50, 100, 10)).made.detail.plates[0].thickness == pytest.approx(10.0, abs=0.001)
    # a typed one: 3 less leaves 3 between the plies, 1 more does not go in
    e = stitch(tmp_path, back_to_back("L 100x100x10", 30, 100, 12), thickness=9.0)
    assert e.made.assembled.fitted[0].gap == pytest.approx(3.0) and breaches(e) == {"ply-gap", "plate-stock"}
    with pytest.raises(TinCleatError, match=r"a pack 13 mm thick does not go between backs 12\.0 mm apart"):
        stitch(tmp_path, back_to_back("L 100x100x10", 30, 100, 12), thickness=13.0)
    # one that runs away by 3 in 1000 is 3 mm nearer at the pack's one end than at the other, when that is 1 m long
    away = {**two, "end": [v + 0.003 * 3000 * k for v, k in zip(two["end"], (0.0, 1.0, 0.0), strict=True)]}
    with pytest.raises(TinCleatError, match=r"the backs are not parallel: \d+\.\d to \d+\.\d mm apart over the pack"):
        stitch(tmp_path, [one, away], length=1000.0)


def test_several_along_a_brace(tmp_path: Path) -> None:
    desk, _ = joined(tmp_path, back_to_back("L 80x80x8", 30, 80, 10), "stitch", "M1+M2@1000")
    desk.run("delete-connections", ids=list(desk.project.connections))
    desk.run("place-rows", family="stitch", members=["M1", "M2"], lines=3, widest="100")
    made = [e for e in desk.ledger.entries.values() if e.made is not None]
    assert len(made) == 3 and all(e.made.counts["breach"] == 0 for e in made)  # type: ignore[union-attr]


@pytest.mark.parametrize(
    ("members", "words"),
    [
        (back_to_back("L 80x80x8", 30, 80, 60), "the backs lie 60.0 mm apart"),
        (back_to_back("L 80x80x8", 30, 80, 2), "the backs lie 2.0 mm apart"),
        ([{**brace("L 80x80x8", 30), "offset": [y, 0]} for y in (-60, 60)], "do not turn their backs to each other"),
        ([{**brace("SHS 80x80x5", 30), "offset": [y, 0]} for y in (-60, 60)], "is a RHS section"),
        ([back_to_back("L 80x80x8", 30, 80, 10)[0], {**back_to_back("L 80x80x8", 30, 80, 10)[1], "offset": [45, 12]}], "heels lie 12.0 mm off each other"),
    ],
)
def test_what_is_no_pair_is_refused(tmp_path: Path, members: list[dict[str, Any]], words: str) -> None:
    with pytest.raises(TinCleatError, match=words):
        stitch(tmp_path, members)
