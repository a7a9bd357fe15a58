"""Connections that share no member but stand in each other's way, and the boxes by which they are found."""

from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from sites import column

from tincleat.commands.desk import Desk
from tincleat.ledger.near import Nearby

corner = st.tuples(*[st.floats(-2e4, 2e4)] * 3)
size = st.tuples(*[st.floats(0.0, 9000.0)] * 3)


@given(st.lists(st.tuples(corner, size), max_size=30), st.data())
@settings(max_examples=200, deadline=None)
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
