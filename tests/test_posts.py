"""Rail posts fixed to a side, by hand: plate, bolts, the post's end, packs; where they are found; what is refused."""

import math
from pathlib import Path

import numpy as np
import pytest
from sites_feet import beside
from test_new_families import breaches, joined, made

from tincleat.errors import TinCleatError


def test_a_tube_on_a_plate(tmp_path: Path) -> None:
    _, e = joined(tmp_path / "a", beside("SHS 40x40x4", "UPN 240", 12.0), "post-side", "M2.start")
    d = made(e)
    # UPN 240: 240 x 85, back flat 240 less 3 on both sides, so 150 is the most.  12 mm are free: a plate of 12, no packs.
    (plate,) = d.plates
    x0, z0, x1, z1 = plate.outline.bounds
    assert plate.thickness == 12.0 and z1 - z0 == pytest.approx(150.0)
    # M12 turned by a spanner stands its clearance beside the post: edges 20, the gauge beside 40 of tube, up to 5
    (bolts,) = d.bolts
    gauge = 2 * max(p[1] for p in bolts.points)
    assert x1 - x0 == pytest.approx(gauge + 40.0) and gauge % 5 == pytest.approx(0.0) and gauge >= 40 + 24
    # two rows about the channel's middle, which lies 60 over the post's lower end; 150 - 2 x 20 = 110 apart at most
    rows = sorted({round(p[2], 3) for p in bolts.points})
    assert rows == [5.0, 115.0]
    # the post stops over the plate's lower edge, 60 - 75 = -15, by the weld's leg and 2, up to 5
    (cut,) = d.ends
    leg = float(d.number("weld_leg").value)
    assert cut.point[2] == pytest.approx(-15.0 + math.ceil((leg + 2) / 5) * 5)
    # every hole of the plate has its hole in the channel's back
    ours, theirs = plate.frame.to_world([(h.x, h.y, 0.0) for h in plate.holes]), list(bolts.points)
    assert {tuple(np.round(p[1:], 3)) for p in ours} == {tuple(np.round(p[1:], 3)) for p in theirs} and len(d.holes) == 4
    # the flare's root is where the tangent of the corner at 45 degrees meets the plate: r (1 - (sqrt 2 - 1)) from the tube's side
    flares = [w for w in d.welds if w.kind == "groove"]
    assert len(flares) == 2 and all(abs(w.start[1]) == pytest.approx(20 - 6 * (2 - math.sqrt(2))) for w in flares)
    assert not breaches(e)
    # level fillets on the 40 - 2 x 6 = 28 of flat would be shorter than 30 with their ends off: they are left out, and it is said
    assert {w.name for w in d.welds} == {"flare beside the post"}
    assert d.number("weld_leg").origin == "adapted" and "left out" in d.number("weld_leg").rule


def test_packs_fill_what_is_left(tmp_path: Path) -> None:
    _, e = joined(tmp_path / "a", beside("SHS 40x40x4", "UPN 240", 40.0), "post-side", "M2.start")
    d = made(e)
    assert sum(p.thickness for p in d.plates) == pytest.approx(40.0) and all(len(p.holes) == 4 for p in d.plates)
    # each lies on the next, from the post's face at -20 to the channel's at -60
    starts = sorted(p.frame.origin[0] for p in d.plates)
    assert starts[0] == pytest.approx(-60.0) and max(p.frame.origin[0] + p.thickness for p in d.plates) == pytest.approx(-20.0)


def test_a_flat_straight_to_it(tmp_path: Path) -> None:
    _, e = joined(tmp_path / "a", beside("FL 60x12", "UPN 200", 0.0, 0.0, 0.0, 6.0), "post-side", "M2.start")
    d = made(e)
    # nothing is welded; two bolts on the flat's middle line, through flat and channel; the flat ends one edge under the lower one
    assert not d.welds and not d.plates and {h.member for h in d.holes} == {0, 1}
    low, high = sorted(p[2] for p in d.bolts[0].points)
    assert low + high == pytest.approx(120.0) and d.ends[0].point[2] == pytest.approx(low - 20.0)
    # inside the channel the washers stay off the flanges' fillets: 200 / 2 less flange and root, no more than 14 x 8.5 where it is exposed
    assert high - low <= 14 * 8.5 and not breaches(e)


def test_what_is_typed_without_use_is_said(tmp_path: Path) -> None:
    # a flat bolted straight to the side has no plate that a width could be of
    desk, e = joined(tmp_path / "a", beside("FL 60x12", "UPN 200", 0.0, 0.0, 0.0, 6.0), "post-side", "M2.start")
    assert e.connection is not None
    width, pitch = (desk.run("change-connections", ids=[e.connection.id], settings=typed) for typed in ({"width": 120.0}, {"pitch": 80.0}))
    assert "plate width is not in use here" in str(width) and "not in use" not in str(pitch)


def test_only_beside_a_flat_side(tmp_path: Path) -> None:
    # behind the toes, leaning, or too far off it is not a post on a side
    toes = beside("SHS 40x40x4", "UPN 240", 12.0)
    toes[0]["start"], toes[0]["end"] = toes[0]["end"], toes[0]["start"]
    with pytest.raises(TinCleatError):
        joined(tmp_path / "a", toes, "post-side", "M2.start")
    with pytest.raises(TinCleatError):
        joined(tmp_path / "b", beside("SHS 40x40x4", "UPN 240", 90.0), "post-side", "M2.start")
    short = beside("SHS 40x40x4", "UPN 240", 12.0)
    short[0]["end"] = [20, 0, 3000]  # the channel ends inside the plate, half of which is more than 60
    with pytest.raises(TinCleatError, match="past the end of UPN 240"):
        joined(tmp_path / "d", short, "post-side", "M2.start")
    leans = beside("SHS 40x40x4", "UPN 240", 12.0)
    leans[1]["end"] = [leans[1]["end"][0] + 200, *leans[1]["end"][1:]]
    with pytest.raises(TinCleatError):
        joined(tmp_path / "c", leans, "post-side", "M2.start")


@pytest.mark.parametrize(
    ("members", "typed", "words"),
    [
        (beside("SHS 40x40x4", "UPN 240", 4.0), {}, "4.0 mm for the plate"),
        (beside("L 50x50x5", "UPN 240", 12.0), {}, "is a L section"),
        (beside("SHS 40x40x4", "UPN 240", 12.0, roll=20.0, half=26.0), {}, "turned"),
        (beside("SHS 40x40x4", "UPN 240", 12.0), {"height": 400.0}, "leaves the side"),
        (beside("SHS 40x40x4", "UPN 240", 12.0), {"past": 149.0}, "1 mm of weld"),
        (beside("SHS 40x40x4", "UPN 100", 12.0, low=-10.0), {"bolt": "M20"}, "between two rows"),
        (beside("SHS 40x40x4", "UPN 240", 12.0), {"pitch": 20.0}, "two rows"),
    ],
)  # fmt: skip
def test_what_cannot_be_made_says_why(tmp_path: Path, members: list[dict[str, object]], typed: dict[str, float], words: str) -> None:
    with pytest.raises(TinCleatError, match=words):
        joined(tmp_path / "a", members, "post-side", "M2.start", **typed)


@pytest.mark.parametrize(("wide", "welded"), [(62, False), (64, True)])
def test_level_fillets_are_as_long_as_their_throat_asks_for(tmp_path: Path, wide: int, welded: bool) -> None:
    # a leg of 10 has a throat of 7.07: six of those are 42.4; 62 less two legs is 42, 64 less two legs is 44
    _, e = joined(tmp_path / "a", beside(f"FL 100x{wide}", "UPN 260", 12.0, 0.0, 90.0, 50.0), "post-side", "M2.start", weld_leg=10.0)
    names = [w.name for w in made(e).welds]
    assert ("over the plate" in names) is welded and names.count("beside the post") == 2
