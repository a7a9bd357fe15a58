"""Where loose parts, their switches and their handles lie, by hand."""

from pathlib import Path

import pytest
from msgspec.structs import replace
from test_loose import detail, laid

from tincleat.details.assembled import Assembled
from tincleat.families.registry import family
from tincleat.project.entities import HouseRules
from tincleat.proof.registry import prove


@pytest.mark.parametrize(("member", "off"), [("CHS 168.3x6.3", 168.3 / 2), ("RD 60", 30.0), ("FL 200x20", 10.0), ("SHS 100x100x5", 50.0)])
def test_a_plate_lies_on_the_side_of_bars_without_flanges(tmp_path: Path, member: str, off: float) -> None:
    for side, way in (("near side", -1.0), ("far side", 1.0)):
        _, e = laid(tmp_path / side[:3], member, part__1="plate", length__1=60, width__1=16, on__1=side)
        (plate,) = detail(e).plates
        assert plate.frame.origin == pytest.approx((0.0, way * off, 0.0), abs=1e-9) and plate.frame.z == pytest.approx((0.0, way, 0.0))


def test_a_runs_switch_lies_in_its_middle(tmp_path: Path) -> None:
    _, e = laid(tmp_path / "a", part__1="plate", length__1=160, width__1=100, along__1=30, part__2="weld")
    d = detail(e)
    middles = {w.name[-1]: tuple((a + b) / 2 for a, b in zip(w.start, w.end, strict=True)) for w in d.welds}
    assert {str(s.number): pytest.approx(middles[str(s.number)]) for s in d.switches} == {str(s.number): s.at for s in d.switches} and len(d.switches) == 4


def test_a_plate_of_an_own_outline_is_moved_by_its_middle(tmp_path: Path) -> None:
    # corners from the station: 0 to 200 along, 0 to 80 across, 10 thick on a flange 226.7 over the middle
    _, e = laid(tmp_path / "a", part__1="plate", points__1=[0, 0, 200, 0, 200, 80, 0, 80])
    at = {h.words: h.at for h in detail(e).handles}
    assert at["plate 1, moved over its face"] == pytest.approx((100.0, 40.0, 231.7)) and at["corner 3 of plate 1"] == pytest.approx((200.0, 80.0, 231.7))


def test_a_countersunk_head_without_its_countersink_stands_proud(tmp_path: Path) -> None:
    floor = {"part__1": "plate", "length__1": 240, "width__1": 160, "thickness__1": 20, "part__2": "bolts", "on__2": "part 1", "bolt__2": "M16", "rows__2": [100], "lines__2": [90], "head__2": "countersunk"}
    _, e = laid(tmp_path / "a", **floor)
    assert e.made is not None
    (plate,) = e.made.detail.plates
    # the cone on the plate's other face, and none: nothing is there of the 33.6 that the head needs
    for holes in ([replace(h, sink_top=not h.sink_top) for h in plate.holes], [replace(h, sink=0.0) for h in plate.holes]):
        wrong = replace(e.made.detail, plates=(replace(plate, holes=tuple(holes)),))
        found = [f for f in prove(Assembled(e.made.case, wrong, "EN"), HouseRules()) if f.rule == "sink"]
        assert [(f.level, round(f.actual, 2), round(f.required, 2)) for f in found] == [("breach", 0.0, 33.6)]


def test_every_part_may_be_lain_on() -> None:
    kind = family("loose")
    offered = set(kind.setting("on/24").choices)
    assert {f"{side}part {i}" for i in range(1, 25) for side in ("", "back of ", "left side of ", "right side of ")} <= offered and "part 25" not in offered
