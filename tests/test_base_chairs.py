"""Chairs on base plates: measures by hand, what they refuse, and what their rods' top plates are proved for."""

import math
from pathlib import Path
from typing import Any

import pytest

from tincleat.commands.desk import Desk
from tincleat.ledger.made import Made


@pytest.fixture
def desk(tmp_path: Path) -> Desk:
    out = Desk.create(tmp_path / "c.tincleat")
    out.run("add-members", members=[
        {"section": name, "role": "column", "start": [3000 * i, 0, 0], "end": [3000 * i + dx, 0, 4000]} for i, (name, dx) in enumerate((("HEB 300", 0), ("UB 406x178x60", 0), ("SHS 200x200x8", 0), ("HEB 300", 40), ("CHS 219.1x8", 0)))
    ])  # fmt: skip
    return out


def made(desk: Desk, member: str, **typed: Any) -> Made:
    return desk.ledger.make(desk.ledger.entries[f"{member}.start"].joint, "base-plate", {"chairs": True, **typed})


def test_a_chair_by_hand(desk: Desk) -> None:
    """M24 with holes of 30: between the sides 24 + 25 = 49, up to 50; fillets 0.5 x 12 = 6; the top 50 + 2 x 12 + 2 x (6 + 4) = 94, up to 95 wide; past the rod 1.5 x 30 = 45.

    The base plate's top is at 30 + 20 = 50, the chair's at 250.  On HEB 300 (b = 300) two stand beside each other: (300 - 95) = 205, down to 200.
    The rod stands 205 - 150 = 55 before the flange, so the chair reaches 55 + 45 = 100.
    """
    one = made(desk, "m1")
    d = one.detail
    tops = [p for p in d.plates if p.name.endswith("top")]
    sides = [p for p in d.plates if p.name.endswith("side")]
    assert len(tops) == 4 and len(sides) == 8 and one.counts["breach"] == 0 and one.counts["note"] == 0
    assert all(p.outline.bounds == pytest.approx((0, -47.5, 100, 47.5)) and p.frame.origin[2] == pytest.approx(225) and p.thickness == 25 for p in tops)
    assert sorted((round(p.frame.origin[0]), round(p.frame.origin[1])) for p in tops) == [(-150, -100), (-150, 100), (150, -100), (150, 100)]
    # 100 x 175 less the snipe over the column's own weld (its legs 10, and 5 more: 15), 12 thick: (17 500 - 15 x 15 / 2) x 12
    leg = next(n.value for n in d.numbers if n.name == "flange_weld")
    snipe = math.ceil((float(leg) + 5) / 5) * 5  # type: ignore[arg-type]
    assert all(p.volume == pytest.approx((100 * 175 - snipe**2 / 2) * 12) for p in sides)
    # sides lie 25 to 37 from the rod's line, on both of its sides
    spans = sorted({round(y, 3) for p in sides if p.frame.origin[0] > 0 and p.frame.origin[1] > 0 for y in (p.frame.origin[1], p.frame.origin[1] + p.frame.z[1] * 12)})
    assert spans == [63, 75, 125, 137]
    # washers on the chairs at 250, nuts 8 higher; above that a nut of M24 and two pitches
    assert all(r.washers == (250.0,) and r.nuts == (258.0,) and r.top == pytest.approx(290.0) for r in d.rods)
    # three fillets outside each of the two sides, and one along the top
    assert sum("chair 1," in w.name for w in d.welds) == 7


def test_a_narrow_flange_has_one_chair_in_its_middle(desk: Desk) -> None:
    """UB 406x178: 178 - 95 leaves less than another chair."""
    d = made(desk, "m2").detail
    assert [(round(r.x), round(r.y)) for r in d.rods] == [(-1 * round(d.rods[1].x), 0), (round(d.rods[1].x), 0)]
    assert made(desk, "m2").counts["breach"] == 0


def test_against_a_tubes_wall_and_on_a_turned_plate(desk: Desk) -> None:
    """SHS 200x200x8 has corners of 16: 168 of flat take one chair of 95 a side.  On a plate turned by 0.2 the one rod a side of HEB 300 goes along with it."""
    one = made(desk, "m3")
    assert one.counts["breach"] == 0 and [round(r.y) for r in one.detail.rods] == [0, 0]
    assert {round(abs(p.frame.origin[0])) for p in one.detail.plates if p.name.endswith("top")} == {100}
    turned = made(desk, "m1", turn=0.2, anchors_y=())
    plain = made(desk, "m1", anchors_y=())
    assert turned.counts["breach"] == 0
    x = abs(plain.detail.rods[0].x)
    assert sorted((round(r.x, 3), round(r.y, 3)) for r in turned.detail.rods) == sorted((round(s * abs(turned.detail.rods[0].x), 3), round(s * abs(turned.detail.rods[0].x) * math.tan(0.2), 3)) for s in (-1.0, 1.0))
    tops = [p for p in turned.detail.plates if p.name.endswith("top")]
    assert {round(abs(p.frame.origin[0])) for p in tops} == {150} and {round(p.frame.x[0] ** 2) for p in tops} == {1} and x > 150  # they stand square to the flange


@pytest.mark.parametrize(
    ("member", "typed", "words"),
    [
        ("m1", {"hole_shape": "slotted along"}, "cannot move along a slot"),
        ("m1", {"turn": 0.2}, "95 mm wide, would stand 42 mm past the flat of 300 mm"),  # 205 sin 0.2 + 100 cos 0.2 = 138.7, and 47.5 - 150 = 36.. with rods 5 further out
        ("m4", {}, "leans 0.6°; chairs stand plumb"),
        ("m5", {}, "is a CHS section; chairs stand against the flanges of an I-section or the walls of a square"),
        ("m1", {"anchors_y": (80.0,)}, "are 95 mm wide and would overlap"),
        ("m1", {"anchors_y": (260.0,)}, "95 mm wide, would stand 28 mm past the flat of 300 mm"),  # 130 + 47.5 - 150
        ("m1", {"anchors_x": (300.0,)}, "rod 1 stands 0 mm before the column's flange; its washer and the chair's weld need 41 mm"),  # 70 / 2 + 6
        ("m1", {"plate_length": 400.0, "anchors_x": (400.0,)}, "would stand 45 mm past the base plate"),
        ("m1", {"chair_width": 70.0}, "70 mm wide does not lie over its sides, 74 mm over all"),
        ("m1", {"chair_height": 60.0}, "are little more than their snipe"),
    ],
)
def test_what_is_refused(desk: Desk, member: str, typed: "dict[str, Any]", words: str) -> None:
    why = desk.ledger.refusal(desk.ledger.entries[f"{member}.start"].joint, "base-plate", {"chairs": True, **typed})
    assert words in why


def test_the_top_plates_are_proved_too(desk: Desk) -> None:
    """A rod 25 from the chair's outer edge: 1.2 x 30 = 36 is required by EN; and the fix clears it."""
    desk.run("place-connection", family="base-plate", at=["m1.start"], settings={"chairs": True, "chair_past": 25.0})
    entry = desk.ledger.entries["m1.start"]
    assert entry.made is not None
    (found,) = [f for f in entry.made.findings if f.level == "breach"]
    assert found.rule == "rod-edge" and found.part == "chair 1, top" and (found.actual, found.required) == (pytest.approx(25.0), pytest.approx(36.0))
    assert {f.part for f in entry.made.findings if f.rule == "rod-hole"} == {"anchor rods", "chair 1, top"}
    assert len({f.key for f in entry.made.findings}) == len(entry.made.findings)
