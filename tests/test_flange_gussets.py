"""Plates on flanges that hold braces in plan, by hand: where they lie, what fills the gap, where braces end, what is refused."""

import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from sites import girder
from sites_bracing import along
from test_new_families import joined

from tincleat.commands.desk import Desk
from tincleat.errors import TinCleatError


def plan(path: Path, members: list[dict[str, Any]], **typed: Any) -> Any:
    path.mkdir(exist_ok=True)
    return joined(path, members, "flange-gusset", "M2.start", **typed)[1]


def places(entry: Any, name: str) -> np.ndarray:
    """Where the bolts of a group lie in the world."""
    group = next(b for b in entry.made.detail.bolts if b.name == name)
    return np.asarray(entry.joint.frame.to_world(np.array(group.points)))


def world(entry: Any, plate: Any) -> tuple[np.ndarray, np.ndarray]:
    """Least and greatest corner of a plate in the world."""
    corners = entry.joint.frame.to_world(plate.frame.to_world([(u, v, w) for u, v, _ in plate.outline.vertices for w in (0.0, plate.thickness)]))
    return corners.min(axis=0), corners.max(axis=0)


def test_plate_bolts_and_brace_end_under_a_beam(tmp_path: Path) -> None:
    """HEB 200 at 3000: the underside of its flange lies at 2900.  The plate of 10 lies from there down to 2890, the back of the leg on it."""
    e = plan(tmp_path, [girder("HEB 200"), along("L 80x80x8", 90, "HEB 200")])
    d = e.made.detail
    (plate,) = d.plates
    low, high = world(e, plate)
    assert (low[2], high[2]) == pytest.approx((2890.0, 2900.0))
    # two rows 60 apart, their lines at a usual gauge of 110 (0.55 x 200): +-30 along, +-55 across
    assert sorted((round(x), round(y)) for x, y, _ in places(e, "bolts through the flange")) == [(-30, -55), (-30, 55), (30, -55), (30, 55)]
    # the brace ends 10 past the flange's edge at 100, its first bolt 1.75 d = 35 on, the next 60 on; the line 40 from the heel (0.55 x 80 down to fives), the middle
    bolts = places(e, "bolts")
    assert sorted(round(float(y)) for y in bolts[:, 1]) == [145, 205] and {round(abs(float(x)), 1) for x in bolts[:, 0]} == {0.0}
    cut = next(c for c in d.ends if c.member == 0)
    assert e.joint.frame.to_world([cut.point])[0][1] == pytest.approx(110.0)
    # the plate's end: 35 past the last bolt
    assert high[1] == pytest.approx(240.0) and low[1] == pytest.approx(-90.0)
    assert {len(f.plies) for f in e.made.assembled.fitted} == {2} and e.made.counts["breach"] == 0


def test_what_is_left_to_the_flange_is_packed(tmp_path: Path) -> None:
    """The leg lies 35 off the flange: 10 of plate, 25 of pack; at 8 the plate has to be 8; at 3 no plate goes between."""
    e = plan(tmp_path / "a", [girder("IPE 360"), along("L 80x80x8", 45, "IPE 360", 35.0)])
    assert [(p.name, p.thickness) for p in e.made.detail.plates] == [("gusset", 10.0), ("pack", 25.0)]
    low, high = world(e, e.made.detail.plates[1])
    assert (low[2], high[2]) == pytest.approx((3000 - 180 - 25, 3000 - 180))
    through = [f for f in e.made.assembled.fitted if e.made.detail.bolts[f.group].name == "bolts through the flange"]
    assert all(len(f.plies) == 3 and f.grip == pytest.approx(10 + 25 + 12.7) for f in through)
    e = plan(tmp_path / "b", [girder("IPE 360"), along("L 80x80x8", 45, "IPE 360", 8.0)])
    number = e.made.detail.number("thickness")
    assert (number.value, number.origin) == (8.0, "adapted") and "8.0 mm off the flange" in number.rule
    with pytest.raises(TinCleatError, match=r"lies 3\.0 mm off the flange of IPE 360, the plate between them is 10 mm thick .*7\.0 mm further off"):
        plan(tmp_path / "c", [girder("IPE 360"), along("L 80x80x8", 45, "IPE 360", 3.0)])
    with pytest.raises(TinCleatError, match="its back looks away from it"):
        plan(tmp_path / "d", [girder("IPE 360"), along("L 80x80x8", 45, "IPE 360", 10.0, roll=0.0)])


def test_a_flat_straight_to_the_flange(tmp_path: Path) -> None:
    """HEB 240: bolts keep 1.2 d0 = 26.4 from the flange's edge at 120 and 31.8 from the web's middle, its root being 21 + 18.5 from its face 5 off."""
    e = plan(tmp_path / "a", [girder("HEB 240"), along("FL 80x10", 90, "HEB 240", 0.0, roll=90)])
    assert not e.made.detail.plates and e.made.detail.number("how").value == "straight to the flange"
    ys = places(e, "bolts")[:, 1]
    assert all(44.5 - 0.1 <= abs(float(y)) <= 120 - 26.4 for y in ys) and float(ys.min()) < 0 < float(ys.max())  # on both sides of the web
    for f in e.made.assembled.fitted:
        assert f.grip == pytest.approx(17 + 10)
    by_plate = {"how": "by a plate"}
    with pytest.raises(TinCleatError, match=r"lies 0\.0 mm off the flange"):
        plan(tmp_path / "b", [girder("HEB 240"), along("FL 80x10", 90, "HEB 240", 0.0, roll=90)], **by_plate)
    # outside the flat the plate is packed by the flat's thickness
    e = plan(tmp_path / "d", [girder("HEB 240"), along("FL 80x10", 90, "HEB 240", 0.0, roll=90)], side="outside")
    assert [(p.name, p.thickness) for p in e.made.detail.plates] == [("gusset", 10.0), ("pack", 10.0)]
    with pytest.raises(TinCleatError, match=r"12\.0 mm off the flange"):
        plan(tmp_path / "c", [girder("HEB 240"), along("FL 80x10", 90, "HEB 240", 12.0, roll=90)], how="straight to the flange")


def test_at_a_beams_end_the_bolts_move_onto_it(tmp_path: Path) -> None:
    """The beam begins 40 before the braces' point: rows 60 apart with 35 of plate beside them need 65, so they move 25 along."""
    short = {"section": "HEB 240", "role": "beam", "start": [-40, 0, 3000], "end": [4000, 0, 3000]}
    e = plan(tmp_path, [short, along("FL 80x10", 45, "HEB 240", roll=90)])
    number = e.made.detail.number("offset")
    assert number.origin == "adapted" and abs(float(number.value)) == pytest.approx(25.0) and "stays on HEB 240" in number.rule
    assert float(places(e, "bolts through the flange")[:, 0].min()) == pytest.approx(-5.0)


def test_braces_of_one_node_share_a_plate_and_others_are_refused(tmp_path: Path) -> None:
    members = [girder("HEB 260"), along("FL 80x10", 45, "HEB 260", roll=90), along("FL 80x10", 135, "HEB 260", roll=90), along("FL 80x10", -45, "HEB 260", over=True, roll=90)]
    desk = Desk.create(tmp_path / "n.tincleat")
    desk.run("add-members", members=members)
    desk.run("place-all", family="flange-gusset")
    made = [e for e in desk.ledger.entries.values() if e.connection is not None]
    # two under the flange together, the one over it by itself
    assert sorted(len(e.joint.ends) for e in made) == [1, 2]
    both = next(e for e in made if len(e.joint.ends) == 2)
    assert len(both.made.detail.plates) == 1 and both.made.counts["breach"] == 0  # type: ignore[union-attr]
    tube = [girder("HEB 260"), {"section": "CHS 88.9x5", "role": "brace", "start": [0, 0, 3000 - 130 - 60], "end": [2000, 2000, 3000 - 130 - 60]}]
    (tmp_path / "t").mkdir()
    with pytest.raises(TinCleatError, match=r"CHS 88\.9x5 is a CHS section"):
        joined(tmp_path / "t", tube, "flange-gusset", "M2.start")


@pytest.mark.parametrize(("off", "lean", "kind"), [(10.0, 0.0, "brace on flange"), (99.0, 0.0, "brace on flange"), (150.0, 0.0, "near miss"), (10.0, 5.0, "near miss"), (-60.0, 0.0, "brace end")])
def test_what_lies_along_a_flange(tmp_path: Path, off: float, lean: float, kind: str) -> None:
    one = along("FL 80x10", 60, "HEB 240", off, roll=90)
    one["end"][2] += 3000 * math.tan(math.radians(lean))
    desk = Desk.create(tmp_path / "n.tincleat")
    desk.run("add-members", members=[girder("HEB 240"), one])
    assert desk.ledger.joint_of(list(desk.project.members)[1], "start").kind == kind
