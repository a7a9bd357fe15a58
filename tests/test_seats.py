"""Seat cleats by hand: bolted, welded, stiffened, on a girder's web, and what they refuse."""

from pathlib import Path

import numpy as np
import pytest
from sites import beam, column, girder
from test_new_families import breaches, joined, made

from tincleat.errors import TinCleatError


def test_a_bolted_seat_by_hand(tmp_path: Path) -> None:
    _, e = joined(tmp_path, [column("HEB 300"), beam("IPE 300")], "seat-cleat", "M2.end")
    d = made(e)
    seat, top = d.pieces
    # L 150x100x12 with 150 down the column: its top at the beam's underside, 150 under the middle; the heel on the column's face
    frame = e.joint.case.members[0].frame
    box = np.concatenate([seat.frame.to_world([(0.0, y, z), (seat.length, y, z)]) for y in (-50.0, 50.0) for z in (-75.0, 75.0)])
    assert np.ptp(box, axis=0) == pytest.approx([100, d.number("length").value, 150], abs=0.01) and box[:, 2].max() == pytest.approx(-150, abs=0.01)
    assert box[:, 0].min() == pytest.approx(0, abs=0.05) and frame.o[0] == pytest.approx(0, abs=0.05)
    # M20, edge 1.5 x 20 = 30; in the beam at 10 + 30 = 40 or 12 + 31.75 = 43.75, up to 45; gauge in IPE 300: least 7.1 + 2 x 15 + 37 = 74.1 up to 80, usual 0.55 x 150 = 82.5, 80
    assert d.number("off_face").value == 45 and d.number("gauge").value == 80
    # down the leg 12 + 31.75 = 43.75 up to 45, another 60 on, 45 left; cross centres clear of HEB 300's root: 11 + 54 + 37 = 102 up to 105
    assert d.number("drop").value == 45 and d.number("rows").value == (60.0,) and d.number("cross_centres").value == 105
    # 105 + 2 x 30 = 165
    assert d.number("length").value == 165 and seat.length == pytest.approx(165) and top.length == pytest.approx(165)
    fitted = e.made.assembled.fitted if e.made is not None else ()
    assert len(fitted) == 2 + 4 + 2 + 2 and {len(f.plies) for f in fitted} == {2} and all(abs(f.gap) < 1e-6 for f in fitted) and not breaches(e)
    # the beam stops 10 off the face
    assert d.ends[0].point[0] == pytest.approx(10, abs=0.05)


def test_a_welded_and_stiffened_seat(tmp_path: Path) -> None:
    _, e = joined(tmp_path, [column("HEB 300"), beam("IPE 300")], "seat-cleat", "M2.end", to_support="welded", stiffener=12.0)
    d = made(e)
    (plate,) = d.plates
    # between the legs: 100 - 12 - 5 = 83 out, 150 - 12 - 5 = 133 down, 20 left at each toe, 15 off the root
    area = 83 * 133 - (83 - 20) * (133 - 20) / 2 - 15 * 15 / 2
    assert plate.volume == pytest.approx(12 * area)
    assert {w.name for w in d.welds} == {f"{n} {k} on the support" for n in ("seat", "top cleat") for k in ("toe", "end")} | {"seat stiffener, near side", "seat stiffener, far side"}
    assert not any("support" in b.name for b in d.bolts) and not breaches(e)


def test_a_seat_on_a_girders_web(tmp_path: Path) -> None:
    _, e = joined(tmp_path, [girder("UB 457x191x67"), beam("IPE 200", 90)], "seat-cleat", "M2.end")
    d = made(e)
    # IPE 200: 100 wide holds no two lines of M20; M12: 5.6 + 24 + 24 = 53.6, so 60.  453.4 / 2 - 12.7 - 10.2 = 203.8 of flat: 100 + 150 does not go down it
    assert d.number("bolt").origin == "adapted" and d.bolts[0].size == "M12" and d.number("long_leg").value == "under the beam" and not breaches(e)
    # the flat ends 104 over the beam's top of 100: a top cleat of 100 goes there
    assert [p.name for p in d.pieces] == ["seat", "top cleat"]
    _, e = joined(tmp_path / "h", [girder("UB 457x191x67"), beam("UB 203x133x25", 90, 0, 60)], "seat-cleat", "M2.end")
    assert [p.name for p in made(e).pieces] == ["seat"] and made(e).number("top").origin == "adapted" and "over the beam" in made(e).number("top").rule


def test_what_a_seat_refuses(tmp_path: Path) -> None:
    cases = (
        ([column("HEB 300"), beam("IPE 300", 20)], {}, "20.0° off square"), ([column("HEB 300"), beam("IPE 300", 0, 8)], {}, "8.0° off square"),
        ([column("SHS 200x200x8"), beam("IPE 240")], {"to_support": "bolted"}, "nobody can hold a nut"), ([girder("UB 457x191x67"), beam("UB 457x191x67", 90)], {}, "cannot stand on a seat"),
        ([girder("UB 610x229x101"), beam("UB 457x191x67", 90)], {}, "under the beam's middle"), ([column("HEB 300"), beam("IPE 300")], {"rows": "2@60"}, "do not fit in the seat's leg"),
        ([column("HEB 300"), beam("IPE 300")], {"bolt": "M36"}, "does not hold two lines of M36"), ([column("HEB 300"), beam("SHS 150x150x8")], {}, "without an open flange"),
    )  # fmt: skip
    for i, (members, typed, words) in enumerate(cases):
        with pytest.raises(TinCleatError, match=words):
            joined(tmp_path / str(i), members, "seat-cleat", "M2.end", **typed)


def test_a_web_cleat_holds_the_beam_upright(tmp_path: Path) -> None:
    _, e = joined(tmp_path / "a", [column("HEB 300"), beam("UB 457x191x67")], "seat-cleat", "M2.end", top="web cleat")
    d = made(e)
    cleat = next(p for p in d.pieces if p.name == "web cleat")
    # L 100x100x10; two M20 3 x 20 = 60 apart with 30 to both ends: 120 high, its top where the clear web ends: 226.7 - 12.7 - 10 = 204
    assert cleat.section == "L 100x100x10" and cleat.length == pytest.approx(120.0)
    on_web, on_wall = (next(b for b in d.bolts if b.name == f"bolts of the web cleat in the {w}") for w in ("beam", "support"))
    assert sorted(round(p[2], 1) for p in on_web.points) == [114.0, 174.0] == sorted(round(p[2], 1) for p in on_wall.points)
    # on the near side of the web, 8.5 / 2 off its middle; a socket's 31.8 and the leg's 10 from the heel: 41.8, on 2.5: 42.5
    assert {round(p[1], 2) for p in on_web.points} == {-4.25} and {round(p[0], 1) for p in on_web.points} == {42.5}
    # on the column's flange clear of its web and root behind it: 5.5 + 27 + half a washer of 37 is 51; on 2.5 from the beam's web's face
    assert {round(abs(p[1]), 2) for p in on_wall.points} == {4.25 + 47.5}
    for fitted in e.made.assembled.fitted:
        assert len(fitted.plies) == 2
    assert "top cleat" not in {p.name for p in d.pieces} and not breaches(e)
    # with a gap of 25 at the beam's end its web's edge distance governs: 25 + 30 = 55 off the face, more than a socket asks for
    _, e = joined(tmp_path / "g", [column("HEB 300"), beam("UB 457x191x67")], "seat-cleat", "M2.end", top="web cleat", setback=25.0)
    on_web = next(b for b in made(e).bolts if b.name == "bolts of the web cleat in the beam")
    assert {round(p[0], 1) for p in on_web.points} == {55.0}
    # behind a narrow flange the angle is a smaller one, and it says why
    _, e = joined(tmp_path / "b", [column("SHS 200x200x8"), beam("IPE 240")], "seat-cleat", "M2.end", top="web cleat")
    number = made(e).number("top_size")
    assert number.value == "L 70x70x7" and number.origin == "adapted" and "reaches past the flat" in number.rule
    with pytest.raises(TinCleatError, match="clear web of IPE 200"):
        joined(tmp_path / "c", [column("HEB 300"), beam("IPE 200")], "seat-cleat", "M2.end", top="web cleat", web_rows=(130.0,))


def test_a_column_that_ends_near_the_beam(tmp_path: Path) -> None:
    # the beam's top lies 151.7 over 3000; a top cleat of 100 reaches 251.7 over it, the column ends 200 over it
    members = [{"section": "UC 203x203x46", "role": "column", "start": [0, 0, 0], "end": [0, 0, 3200]}, beam("UB 305x165x40")]
    _, e = joined(tmp_path / "a", members, "seat-cleat", "M2.end")
    d = made(e)
    assert d.number("top").value == "none" and d.number("top").origin == "adapted" and [p.name for p in d.pieces] == ["seat"] and not breaches(e)
    with pytest.raises(TinCleatError, match="ends at 200 mm"):
        joined(tmp_path / "b", members, "seat-cleat", "M2.end", top="top cleat")
    # and under the beam a hanger's end: the seat of 150 reaches 301.7 down, the column begins 250 under the beam's middle
    hung = [{"section": "UC 203x203x46", "role": "column", "start": [0, 0, 2750], "end": [0, 0, 6000]}, beam("UB 305x165x40")]
    with pytest.raises(TinCleatError, match="ends at 250 mm"):
        joined(tmp_path / "c", hung, "seat-cleat", "M2.end")


def test_a_seat_is_welded_to_the_flat_of_a_tube(tmp_path: Path) -> None:
    with pytest.raises(TinCleatError, match="does not lie on the"):
        joined(tmp_path / "a", [column("SHS 120x120x6.3"), beam("UB 203x133x25")], "seat-cleat", "M2.end")
