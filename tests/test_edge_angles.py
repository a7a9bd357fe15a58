"""Edge angles against figures worked out by hand."""

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from sites import girder
from test_new_families import breaches, joined, made

from tincleat.errors import TinCleatError


def along(path: Path, section: str = "UB 457x191x67", at: str = "M1@4000", **typed: Any) -> Any:
    return joined(path, [girder(section)], "edge-angle", at, **typed)[1]


def test_it_lies_on_the_flange_by_hand(tmp_path: Path) -> None:
    """UB 457x191x67, 453.4 deep and 189.9 broad, its middle at 3000: top of steel 3226.7, edges 94.95 aside.  L 150x90x10 with half its
    lying leg past the flange: its back 139.95 aside, its toe 49.95, its top at 3376.7.  The girder is 8000 long: 2 x (4000 - 10) - 10 of play."""
    entry = along(tmp_path)
    d, shape = made(entry), entry.joint
    (piece,) = d.pieces
    assert piece.length == 7990.0 and not breaches(entry)
    points = shape.frame.to_world(piece.frame.to_world(np.array([(x, y * piece.shape.b / 2, z * piece.shape.h / 2) for x in (0.0, piece.length) for y in (-1, 1) for z in (-1, 1)])))
    assert (points[:, 2].min(), points[:, 2].max()) == pytest.approx((3226.7, 3376.7), abs=0.06)
    assert sorted(abs(v) for v in (points[:, 1].min(), points[:, 1].max())) == pytest.approx([49.95, 139.95], abs=0.06)
    assert (points[:, 0].min(), points[:, 0].max()) == pytest.approx((-3995.0, 3995.0))
    # 0.7 x 10 = 7; stitches 8 x 0.71 x 7 = 39.8, so 50; every 300 from the middle as far as 3970, and one more at each end
    assert {w.leg for w in d.welds} == {7.0}
    toe = sorted((w.start[0] + w.end[0]) / 2 for w in d.welds if w.name == "stitch at the toe")
    assert len(toe) == 2 * 13 + 1 + 2 and toe[1] == pytest.approx(-3900) and toe[0] == pytest.approx(-3970) and 0.0 in toe
    assert all(abs(abs(w.end[0] - w.start[0]) - 50.0) < 1e-6 for w in d.welds)
    # under the angle, along the flange's edge, as many again
    assert sum(w.name == "stitch under the angle" for w in d.welds) == len(toe)


def test_a_thicker_leg_has_longer_stitches(tmp_path: Path) -> None:
    """EN 1993-1-8 4.5.1: 6 a of effective length, and two throats more: 8 x 0.71 x 8.4 = 47.7 for 12 mm, but 8 x 0.71 x 9 = 51.1, so 55."""
    entry = along(tmp_path, size="L 200x100x12", length=1500.0, weld_leg=9.0)
    assert {round(w.end[0] - w.start[0], 3) for w in made(entry).welds} == {55.0} and not breaches(entry)


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ({"length": 8000.0, "at": "M1@3900"}, "100 mm past the beam's end"),
        ({"out": 75.0}, "lies on the flange by 15 mm"),
        ({"section": "IPE 80", "out": 20.0}, "76 mm of a flange 46 mm wide"),
        ({"out": 4.0, "welded": "at toe and flange edge"}, "no room for a weld"),
        ({"section": "SHS 200x200x8"}, "the angle lies on a flange"),
    ],
)
def test_what_does_not_fit_is_refused_in_figures(tmp_path: Path, typed: dict[str, Any], words: str) -> None:
    with pytest.raises(TinCleatError, match=words):
        along(tmp_path, **typed)


def test_a_stretch_and_a_station_are_places_of_their_own(tmp_path: Path) -> None:
    """The angle sees the beam as far as it reaches, stiffeners at the same beam only near by: beams of other lengths stay their kin."""
    desk, entry = joined(tmp_path, [girder("UB 457x191x67")], "edge-angle", "M1@4000")
    desk.run("place-connection", family="stiffeners", at=["M1@2500"])
    ribs = next(e for e in desk.ledger.entries.values() if e.connection is not None and e.connection.family == "stiffeners")
    assert entry.joint.kind == "along" and ribs.joint.kind == "station"
    assert entry.joint.case.members[0].high == pytest.approx(4000.0, abs=0.1) and ribs.joint.case.members[0].high == pytest.approx(600.0, abs=0.1)
    # the beam made shorter: the angle of worked-out length follows, at its station
    desk.run("change-members", ids=["M1"], end=[3000, 0, 3000])
    assert made(desk.ledger.entry_of(entry.connection.id)).pieces[0].length == 5990.0
    desk.close()
