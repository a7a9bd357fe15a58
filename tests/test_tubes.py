"""Tubes welded straight to tubes, by hand: where they land, what is left of them, fillet or groove, what is refused."""

import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from sites import beam, brace, column
from test_new_families import breaches, joined, made

from tincleat.catalogue.sections import section as sized
from tincleat.errors import TinCleatError
from tincleat.ledger.steel import worked_of
from tincleat.proof.welds import fusion_angle, length


def tubes(path: Path, support: str, *branches: dict[str, Any], **typed: Any) -> Any:
    return joined(path, [column(support), *branches], "tube-joint", " and ".join(f"M{i}.start" for i in range(2, 2 + len(branches))), **typed)


def left(desk: Any, section: str) -> float:
    """mm³ of a member by the bill."""
    (m,) = [m for m in desk.project.members.values() if m.section == section]
    return worked_of(desk.ledger, m.id).volume


def test_a_saddle_by_hand(tmp_path: Path) -> None:
    desk, e = tubes(tmp_path, "CHS 168.3x6.3", brace("CHS 88.9x5", 0))
    d = made(e)
    # R 84.15, r 44.45: the root runs from 84.15 out at the crown to sqrt(84.15² - 44.45²) = 71.45 at the saddle
    points = np.array([p for w in d.welds for p in (w.start, w.end)])
    out = np.hypot(points[:, 0], points[:, 1])
    assert out == pytest.approx(84.15, abs=0.01)
    along = np.abs(points[:, 0])
    assert along.max() == pytest.approx(84.15, abs=0.01) and along.min() == pytest.approx(math.sqrt(84.15**2 - 44.45**2), abs=0.02)
    # and lies on the branch: 44.45 from its middle line, which lies 3000 up
    assert np.hypot(points[:, 1], points[:, 2]) == pytest.approx(44.45, abs=0.01)
    # what is left of 3000 of tube: for each fibre of its wall less what the chord takes, the mean of sqrt(R² - r² cos²) over wall and angle
    radii, angles = np.linspace(39.45, 44.45, 41), np.linspace(0, 2 * math.pi, 721)[:-1]
    taken = np.mean([np.sqrt(84.15**2 - (r * np.sin(angles)) ** 2).mean() * r for r in radii]) / np.mean(radii)
    area = math.pi * (44.45**2 - 39.45**2)
    assert left(desk, "CHS 88.9x5") == pytest.approx(area * (3000 - taken), rel=2e-4)
    assert not breaches(e)


def test_a_branch_on_a_flat_wall(tmp_path: Path) -> None:
    desk, e = tubes(tmp_path, "SHS 150x150x8", brace("SHS 80x80x5", 45))
    # cut at 45° on the wall 75 off the middle: its middle line is 75 / cos 45 = 106.07 shorter
    assert left(desk, "SHS 80x80x5") / sized("SHS 80x80x5").area == pytest.approx(3000 - 75 / math.cos(math.radians(45)), rel=1e-3)
    welds = made(e).welds
    kinds = {w.name.removeprefix("brace to column").strip(): (w.kind, round(math.degrees(fusion_angle(w)))) for w in welds}
    # the side walls stand square; the heel's wall 45° and the toe's 135° to the chord are grooves through the wall
    assert kinds == {"": ("fillet", 90), "heel": ("groove", 45), "toe": ("groove", 135)}
    assert {w.leg for w in welds if w.kind == "groove"} == {5.0} and {w.leg for w in welds if w.kind == "fillet"} == {6.0} and not breaches(e)


def test_branches_apart_and_over_each_other(tmp_path: Path) -> None:
    apart = [brace("CHS 88.9x5", 45, z0=3100), brace("CHS 88.9x5", -45, z0=2900)]
    _, e = tubes(tmp_path / "a", "SHS 150x150x8", *apart)
    # on the wall 75 out: middles at 3100 + 75 and 2900 - 75, each 44.45 / sin 45 = 62.86 either way: 350 - 125.73 = 224.27 apart
    (gap,) = [x for x in made(e).dimensions if x.settings == ("",)]
    assert math.dist(*gap.points) == pytest.approx(350 - 2 * 44.45 * math.sqrt(2), abs=0.01)
    over = [brace("CHS 88.9x5", 45, z0=2950), brace("CHS 88.9x5", -45, z0=3050)]
    # 3025 and 2975, 50 and 125.73: over each other by 75.73
    with pytest.raises(TinCleatError, match=r"overlap by 76 mm on SHS 150x150x8 \(branches further apart, or one that goes through\)"):
        tubes(tmp_path / "b", "SHS 150x150x8", *over)
    desk, e = tubes(tmp_path / "c", "SHS 150x150x8", *over, through="the first")
    d = made(e)
    assert {w.parts for w in d.welds} == {("column", "brace 1"), ("column", "brace 2"), ("brace 1", "brace 2")} and not breaches(e)
    whole, cut = sorted((worked_of(desk.ledger, m.id).volume for m in desk.project.members.values() if m.section == "CHS 88.9x5"), reverse=True)
    assert cut < whole
    # 1 apart is too near: the sum of both walls is asked
    near = [brace("CHS 88.9x5", 45, z0=2989.0), brace("CHS 88.9x5", -45, z0=3010.27)]
    with pytest.raises(TinCleatError, match=r"stand 3\.0 mm apart on SHS 150x150x8 \(at least 10 mm"):
        tubes(tmp_path / "d", "SHS 150x150x8", *near)
    with pytest.raises(TinCleatError, match="the third branch goes through, but there are 2"):
        tubes(tmp_path / "e", "SHS 150x150x8", *apart, through="the third")


def test_one_branch_less_and_the_other_stays(tmp_path: Path) -> None:
    desk, e = tubes(tmp_path, "SHS 150x150x8", brace("CHS 88.9x5", 45, z0=3100), brace("CHS 88.9x5", -45, z0=2900))
    assert e.connection is not None and len(e.connection.ends) == 2
    desk.run("delete-members", ids=["M3"])
    entry = desk.ledger.entry_of(e.connection.id)
    assert {w.parts for w in made(entry).welds} == {("column", "brace")} and not breaches(entry)


@pytest.mark.parametrize(
    ("support", "branch", "words"),
    [
        ("SHS 150x150x8", brace("CHS 139.7x5", 45), "reaches over the rounded corner of SHS 150x150x8, whose walls are flat over 126 mm"),
        ("CHS 88.9x5", brace("CHS 168.3x6.3", 45), "wider than CHS 88.9x5"),
        ("CHS 168.3x6.3", brace("CHS 88.9x5", 65), r"meets CHS 168.3x6.3 at 25.0° \(at least 30°\)"),
        ("CHS 168.3x6.3", brace("L 80x80x8", 45), "L 80x80x8 is a L section"),
        ("HEB 200", brace("CHS 88.9x5", 45), "HEB 200 is a I section"),
        ("SHS 150x150x8", brace("SHS 80x80x5", 45, roll=45.0), "reaches over the rounded corner|SHS 80x80x5"),
    ],
)
def test_what_it_refuses(tmp_path: Path, support: str, branch: dict[str, Any], words: str) -> None:
    if support == "SHS 150x150x8" and branch["section"] == "SHS 80x80x5":
        # on edge its diagonal of 113 still stands on 126 of flat wall
        assert not breaches(tubes(tmp_path, support, branch)[1])
        return
    with pytest.raises(TinCleatError, match=words):
        tubes(tmp_path, support, branch)


def test_beams_stand_on_tubes_too(tmp_path: Path) -> None:
    _, e = joined(tmp_path, [column("SHS 150x150x8"), beam("SHS 100x100x5")], "tube-joint", "M2.end")
    assert {w.parts for w in made(e).welds} == {("supporting member", "supported member")} and not breaches(e)


def test_a_branch_as_wide_as_its_carrier(tmp_path: Path) -> None:
    """SHS 100x100x5 on SHS 100x100x5 at 45 degrees, corners of 7.5: the tangent that leaves the wall's inside, 5 from its outside, turns 2 atan(1 - 5 / 7.5) = 36.87 degrees,
    so the root lies at 45 on the carrier's face, which is 50 off its middle; the wall is flat over (100 - 15) / sin 45 = 120.2."""
    _, e = joined(tmp_path / "a", [column("SHS 100x100x5"), brace("SHS 100x100x5", 45)], "tube-joint", "M2.start")
    welds = e.made.detail.welds  # type: ignore[union-attr]
    sides = [w for w in welds if w.name.endswith("side")]
    assert [(w.kind, round(w.leg, 3), round(length(w), 1)) for w in sides] == [("groove", 5.0, 120.2)] * 2 and {w.parts for w in sides} == {("column", "brace")}
    at = sorted({(round(abs(w.start[0]), 3), round(w.start[1], 3)) for w in sides})
    assert at == [(50, -45), (50, 45)] and {round(math.degrees(math.acos(float(np.dot(w.u, w.v)))), 2) for w in sides} == {36.87}
    assert sorted(round(length(w), 1) for w in welds if w not in sides) == [85.0, 85.0]  # the two other walls, between the corners
    assert not [f.rule for f in e.findings if f.level == "breach"]
    # thin walls over wide corners: 6.35 of 12.7 is half, 2 atan(1/2) = 53.13; thicker than the corner is round it opens by 30 at least
    for name, on, turn, leg in (("HSS4X4X1/4", "HSS4X4X1/4", 53.13, 6.35), ("SHS 100x100x10", "SHS 100x100x5", 30.0, 7.5 * (1 - math.tan(math.radians(15))))):
        w = next(w for w in joined(tmp_path / name.replace("/", ""), [column(on), brace(name, 45)], "tube-joint", "M2.start")[1].made.detail.welds if w.name.endswith("side"))  # type: ignore[union-attr]
        assert round(math.degrees(math.acos(float(np.dot(w.u, w.v)))), 2) == turn and w.leg == pytest.approx(leg, abs=0.01), name
