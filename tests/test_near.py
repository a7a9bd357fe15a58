"""Connections that share no member but stand in each other's way, and the boxes by which they are found."""

from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from sites import beam, column

from tincleat.commands.desk import Desk
from tincleat.ledger.near import Nearby

corner = st.tuples(*[st.floats(-2e4, 2e4)] * 3)
size = st.tuples(*[st.floats(0.0, 9000.0)] * 3)


@given(st.lists(st.tuples(corner, size), max_size=30), st.data())
@settings(max_examples=80, deadline=None)
def test_boxes_are_found_as_by_looking_at_all(boxes: list[tuple[tuple[float, ...], tuple[float, ...]]], data: st.DataObject) -> None:
    kept: dict[str, tuple[tuple[float, ...], tuple[float, ...]]] = {}
    near = Nearby()
    for i, (low, long) in enumerate(boxes):
        key = f"k{data.draw(st.integers(0, 12))}"  # some take the place of others
        kept[key] = (low, tuple(a + b for a, b in zip(low, long, strict=True)))
        near.put(key, *kept[key])  # type: ignore[arg-type]
        if i % 5 == 4:
            gone = data.draw(st.sampled_from(sorted(kept)))
            del kept[gone]
            near.drop(gone)
    for low, high in [*kept.values(), ((-1e5,) * 3, (1e5,) * 3)]:
        expected = {k for k, (a, b) in kept.items() if all(p < s and r < q for p, q, r, s in zip(low, high, a, b, strict=True))}
        assert set(near.near(low, high)) == expected  # type: ignore[arg-type]


def test_what_is_no_box_is_near_nothing() -> None:
    near = Nearby()
    nothing = (float("nan"),) * 3
    near.put("a", nothing, nothing)
    near.put("b", (0, 0, 0), (1, 1, 1))
    assert near.near(nothing, nothing) == [] and near.box("a") is None and near.near((0, 0, 0), (2, 2, 2)) == ["b"]
    near.put("b", nothing, nothing)
    assert near.near((0, 0, 0), (2, 2, 2)) == []


def told(desk: Desk) -> list[tuple[str, str, float]]:
    return [(e.connection.id, f.part, round(f.actual)) for e in desk.ledger.entries.values() if e.connection for f in e.findings if f.rule == "clash" and f.level == "breach"]


def test_feet_of_columns_side_by_side(tmp_path: Path) -> None:
    desk = Desk.create(tmp_path / "p.tincleat")
    second = {**column("HEB 200"), "start": [380, 0, 0], "end": [380, 0, 6000]}
    desk.run("add-members", members=[column("HEB 200"), second])
    desk.run("place-connection", family="base-plate", at=["m1.start", "m2.start"])
    one, two = desk.project.connections
    # HEB 200 with M24: plates 390 x 390 x 20 every 380: 10 x 390 x 20 = 78,000 mm³ in each other; the later one tells
    found = told(desk)
    assert [f for f in found if f[1] == "base plate and base plate (base plate beside it)"] == [(two, "base plate and base plate (base plate beside it)", 78000)]
    # moved away it is clear, moved back it is told again, undo included
    desk.run("move-members", ids=["m2"], by=[100, 0, 0])
    assert not told(desk)
    desk.undo()
    assert told(desk) == found
    desk.run("change-connections", ids=[one], settings={"plate_length": 370})
    assert not told(desk)
    desk.undo()
    desk.run("delete-connections", ids=[one])
    assert not told(desk)
    desk.undo()
    assert told(desk) == found
    desk.close()
    assert told(Desk.open(tmp_path / "p.tincleat")) == found


@pytest.mark.parametrize("count", [3, 120])
def test_a_row_of_feet_tells_as_often_as_they_meet(tmp_path: Path, count: int) -> None:
    """Few are looked at one by one, many all together: with the same outcome."""
    desk = Desk.create(tmp_path / "p.tincleat")
    desk.run("add-members", members=[{**column("HEB 200"), "start": [380 * i, 0, 0], "end": [380 * i, 0, 6000]} for i in range(count)])
    desk.run("place-all", family="base-plate")
    assert len([f for f in told(desk) if f[1].startswith("base plate and base plate")]) == count - 1


def test_a_member_that_passes_through_a_plate(tmp_path: Path) -> None:
    desk = Desk.create(tmp_path / "p.tincleat")
    # a brace whose ends lie far away runs through the fin plate of a beam on a column's flange
    passing = {"section": "CHS 88.9x5", "role": "brace", "start": [200, -2000, 3000], "end": [200, 2000, 3000]}
    desk.run("add-members", members=[column("HEB 300"), beam("UB 305x165x40"), passing])
    desk.run("place-connection", family="fin-plate", at=["m2.end"])
    found = told(desk)
    assert {f[1] for f in found} >= {"fin plate and CHS 88.9x5 that passes"}
    desk.run("move-members", ids=["m3"], by=[0, 0, 1000])
    assert not told(desk)
    desk.undo()
    assert told(desk) == found
    desk.run("delete-members", ids=["m3"])
    assert not told(desk)
    desk.undo()
    assert told(desk) == found
    desk.run("delete-connections", ids=[desk.ledger.entries["m2.end"].connection.id])  # type: ignore[union-attr]
    desk.run("place-connection", family="fin-plate", at=["m2.end"])
    assert {f[1] for f in told(desk)} == {f[1] for f in found}


def test_steel_that_will_be_cut_back_passes_nothing(tmp_path: Path) -> None:
    """A beam drawn to a column's middle runs through the stiffeners there only on paper: before it is joined, and after."""
    desk = Desk.create(tmp_path / "p.tincleat")
    side = {**beam("IPE 200"), "start": [-3000, 0, 2712], "end": [0, 0, 2712]}
    desk.run("add-members", members=[column("HEB 300"), beam("IPE 400"), side])
    desk.run("place-connection", family="welded-moment", at=["m2.end"])
    assert not told(desk)
    desk.run("place-connection", family="fin-plate", at=["m3.end"])
    assert not told(desk)
    # left plain as drawn it does run through them
    desk.undo()
    desk.run("place-connection", family="left-plain", at=["m3.end"])
    found = told(desk)
    assert any("that passes" in f[1] for f in found) and {f[0] for f in found} == {desk.ledger.entries["m2.end"].connection.id}  # type: ignore[union-attr]
    desk.close()
    assert told(Desk.open(tmp_path / "p.tincleat")) == found  # and so it is found anew
