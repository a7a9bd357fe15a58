"""Trimmers between purlins, by hand."""

import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from sites_sheds import trimmed
from test_new_families import breaches, joined

from tincleat.errors import TinCleatError


def trimmer(path: Path, members: list[dict[str, Any]], at: str = "start", **typed: Any) -> Any:
    return joined(path, members, "trimmer-cleat", f"M2.{at}", **typed)[1]


@pytest.mark.parametrize("at", ["start", "end"])
def test_the_trimmer_ends_clear_of_the_purlins_flange(tmp_path: Path, at: str) -> None:
    """Z 200x65x20x2: its web 2 thick about its middle, each flange out to 64 from there: 63 off the web's face; 5 more is 68."""
    e = trimmer(tmp_path, trimmed("CF 200x65x20x2", "Z200x65x20x2"), at)
    cut = next(c for c in e.made.detail.ends if c.member == 0)
    y = float(e.joint.frame.to_world([cut.point])[0][1])
    assert abs(y - (0 if at == "start" else 1500)) == pytest.approx(1 + 63 + 5)
    assert not breaches(e) and [len(f.plies) for f in e.made.assembled.fitted] == [2] * 4


def test_a_channel_goes_in_between_flanges_that_leave_it_room(tmp_path: Path) -> None:
    """UPN 160 between the flanges of UPN 200: its end comes to 5 from the web's inner face, 29 off the line, and the root rounds off 2 more."""
    e = trimmer(tmp_path, trimmed("UPN 160", "UPN 200"))
    (y,) = (float(e.joint.frame.to_world([c.point])[0][1]) for c in e.made.detail.ends if c.member == 0)
    assert 5.0 <= y - (-75 / 2 + 8.5) <= 5.0 + 3.0 and not breaches(e)


def test_the_cleat_and_its_flat_length(tmp_path: Path) -> None:
    """5 thick, bent by 2 t = 10: k = 0.65 + 0.5 lg 2 = 0.8005; the bend takes pi/2 (10 + 0.8005 x 2.5) = 18.85 of strip (DIN 6935)."""
    e = trimmer(tmp_path, trimmed("CF 200x65x20x2", "Z200x65x20x2"))
    (cleat,) = e.made.detail.bents
    assert cleat.radius == 10.0 and cleat.thickness == 5.0
    flat = sum(f.length for f in cleat.flats)
    assert cleat.developed == pytest.approx(flat + math.pi / 2 * (10 + (0.65 + 0.5 * math.log10(2)) * 2.5))
    # M12 rows 100 apart with 20 of edge: 140 high, between roots of 200 - 2 x 5
    assert cleat.high - cleat.low == pytest.approx(140.0)
    # the support's bolts: past 5 of cleat, a head of 7.5, half a socket of 44.5 and 1: 35.75 up to 40 from the trimmer's web
    local = [e.made.case.members[0].frame.to_local(np.array([p]))[0] for p in e.made.detail.bolts[1].points]
    web = 32.5  # the back of the channel from its middle
    assert {round(abs(float(p[1])) - web, 2) for p in local} == {40.0}


@pytest.mark.parametrize("raised", [40.0, -40.0])
def test_a_trimmer_off_the_purlins_level_keeps_its_cleat_on_the_straight_of_both_webs(tmp_path: Path, raised: float) -> None:
    """Both webs are straight 95 either way of their middles: with 40 between those, 150 in all, from -55 to 95 of the purlin's where the trimmer
    lies higher; rows 100 apart with 20 of edge stand about their middle 20.  But the purlin's lip of 20 hangs down from its upper flange, and
    the cleat ends 2 under that, at 100 - 20 - 2 = 78: 133 take rows 90 apart, 65 under that at 13.  Lower down no lip is in the way."""
    members = trimmed("Z200x65x20x2", "Z200x65x20x2")
    for point in ("start", "end"):
        x, y, z = members[1][point]
        members[1][point] = [x, y, z + raised]
    e = trimmer(tmp_path, members)
    over, half = (13.0, 45.0) if raised > 0 else (-20.0, 50.0)
    for i, off in ((0, over - raised), (1, over)):
        own = e.made.case.members[i].frame
        up = 1.0 if own.z[2] > 0 else -1.0
        for group in e.made.detail.bolts:
            heights = sorted(own.to_local(np.array(group.points))[:, 2] * up)
            assert heights == pytest.approx([off - half, off + half])
    assert not breaches(e)


@pytest.mark.parametrize(
    ("members", "typed", "words"),
    [
        (trimmed("IPE 160", "Z200x65x20x2"), {}, "IPE 160 is a I section"),
        (trimmed("Z200x65x20x2", "Z200x65x20x2", roll_deg=90), {}, "does not stand along the support's"),
        (trimmed("Z200x65x20x2", "Z200x65x20x2"), {"pitch": (170.0,)}, "173 mm are straight; the cleat takes 210 mm"),
        (trimmed("Z200x65x20x2", "Z200x65x20x2"), {"off_web": 18.0}, "in the bend"),
    ],
)
def test_what_does_not_fit_is_refused(tmp_path: Path, members: list[dict[str, Any]], typed: dict[str, Any], words: str) -> None:
    with pytest.raises(TinCleatError, match=words):
        trimmer(tmp_path, members, **typed)


def test_one_that_comes_askew_is_refused_with_its_angle(tmp_path: Path) -> None:
    members = trimmed("Z200x65x20x2", "Z200x65x20x2")
    members[1]["end"] = [300, 1500, 3000]
    with pytest.raises(TinCleatError, match=r"11\.3° off square"):  # atan(300 / 1500)
        trimmer(tmp_path, members)


def test_bolts_in_sheet_have_no_greatest_distances(tmp_path: Path) -> None:
    e = trimmer(tmp_path, trimmed("Z200x65x20x2", "Z200x65x20x2"))
    assert not {f.rule for f in e.findings} & {"spacing-greatest", "edge-greatest"}
    e = trimmer(tmp_path / "c", trimmed("UPN 160", "UPN 200"))
    found = [f for f in e.findings if f.rule == "spacing-greatest"]
    assert found and all(f.level == "clear" and f.required == pytest.approx(14 * 5) for f in found)
