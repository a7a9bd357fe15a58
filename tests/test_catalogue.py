"""The catalogue: every mass agrees with its area; a few sections against their standards; fastener tables."""

import math

import pytest

from tincleat.catalogue.fasteners import bolt_size, bolt_sizes, hole_size, strengths
from tincleat.catalogue.sections import catalogue, check_mass, is_listed, section, suggest
from tincleat.errors import NotFound


def test_every_row_weighs_what_its_area_says_within_two_percent() -> None:
    rows = catalogue()
    assert len(rows) >= 1200
    wrong = [s.name for s in rows.values() if abs(check_mass(s) - 1) > 0.02]
    assert wrong == []


def test_each_kind_is_there() -> None:
    names = list(catalogue())
    for start in (
        "IPE 300",
        "HEA 200",
        "HEB 200",
        "HEM 200",
        "UB 305x165x40",
        "UC 203x203x46",
        "W14X74",
        "L 100x100x10",
        "RHS",
        "SHS",
        "CHS",
        "UPN 200",
        "PFC 200",
        "FL 100x10",
        "RD 20",
        "HSS",
        "C10X",
        "WT",
    ):
        assert any(n.startswith(start) for n in names), start


def test_ipe_300_area() -> None:
    # EN 10365: h 300, b 150, tw 7.1, tf 10.7, r 15.  2 b tf + (h - 2 tf) tw + (4 - pi) r² = 3210 + 1978.06 + 193.14
    assert section("IPE 300").area == pytest.approx(2 * 150 * 10.7 + (300 - 21.4) * 7.1 + (4 - math.pi) * 225, rel=1e-9)
    assert section("ipe300").name == "IPE 300"


def test_hollow_and_angle_areas() -> None:
    s = section("SHS 120x120x6.3")
    outer, inner = 120 * 120 - (4 - math.pi) * s.r1**2, (120 - 12.6) ** 2 - (4 - math.pi) * s.r2**2
    assert s.area == pytest.approx(outer - inner, rel=1e-9)
    angle = section("L 100x100x10")
    # (h + b - t) t + root fillet - two toe roundings, a quarter of (4 - pi) r² each
    fillet = (1 - math.pi / 4) * angle.r1**2 - 2 * (1 - math.pi / 4) * angle.r2**2
    assert angle.area == pytest.approx(190 * 10 + fillet, rel=1e-9)
    assert angle.centroid[0] < 0 and angle.centroid[1] < 0  # towards the heel


def test_bars_of_any_size_and_unknown_names() -> None:
    assert section("FL 137x12").area == pytest.approx(137 * 12)
    assert section("RD 33").mass == pytest.approx(math.pi * 33**2 / 4 * 7.85e-3)
    with pytest.raises(NotFound, match="UB 305x165x40"):
        section("UB 305x165x41")
    assert suggest("ub 305x165")[0].startswith("UB 305x165")


def test_holes_from_the_standards() -> None:
    assert hole_size("EN", "M20", "normal") == (22, 22)
    assert hole_size("EN", "M27", "normal") == (30, 30)
    assert hole_size("EN", "M24", "oversize") == (30, 30)
    # EN 1090-2 table 11: 1.5 d is the clearance on the length, 20 + 30 over all; AISC J3.3M lists 67 for M27
    assert hole_size("EN", "M20", "long slot") == (22, 50) and hole_size("EN", "M12", "long slot") == (13, 30) and hole_size("EN", "M36", "long slot") == (39, 90)
    assert hole_size("AISC", "M27", "long slot") == (30, 67) and hole_size("AISC", "M24", "long slot") == (27, 60)
    assert hole_size("AISC", "M24", "normal") == (27, 27)
    assert hole_size("AISC", "3/4in", "normal")[0] == pytest.approx(25.4 * 13 / 16)
    assert hole_size("AISC", "3/4in", "short slot") == pytest.approx((25.4 * 13 / 16, 25.4))
    assert hole_size("EN", "3/4in", "normal")[0] == pytest.approx(20.6375)  # EN lists no inch bolts


def test_bolt_lengths() -> None:
    m20 = bolt_size("M20")
    # grip 20 + washer 3 + nut 18 + pitch 2.5 = 43.5, stocked 45
    assert m20.least_length(20, 1) == pytest.approx(43.5)
    assert m20.stocked_length(20, 1) == 45
    assert m20.stocked_length(21.5, 1) == 45 and m20.stocked_length(21.6, 1) == 50
    assert m20.thread_length(80) == 46 and m20.thread_length(130) == 52
    inch = bolt_size("3/4in")
    # flush with the nut: grip 3/4 + washer 0.136 + nut 0.734 = 1.62 in; bought with the usual stick-through: 3/4 + 1 + 5/32 = 1.906, stocked 2 in
    assert inch.least_length(19.05, 1) == pytest.approx((0.75 + 0.136) * 25.4 + 18.6531, abs=0.01)
    assert inch.stocked_length(19.05, 1) == pytest.approx(2.0 * 25.4)
    # 7/8 with two washers on a grip of 1 1/2: 1.5 + 1 1/8 + 5/16 = 2 15/16, stocked 3 in
    assert bolt_size("7/8in").stocked_length(38.1, 2) == pytest.approx(3.0 * 25.4)
    assert all(b.head_af > b.d and b.stress_area < math.pi * b.d**2 / 4 for b in bolt_sizes().values())
    assert strengths("grades", "S355") == (355, 490)


def test_a_zed_with_two_flange_widths() -> None:
    s = section("Z 200 x 65/59 x 20 x 2")
    # r = 3, R = 5, middle radius 4: flats 190 + 55 + 49 + 2 x 15 = 324, four quarter bends 2 pi 4 = 25.13; box 65 + 59 - 2
    assert s.area == pytest.approx(2 * (324 + 8 * math.pi)) and s.b == 122 and s.name == "Z 200x65/59x20x2"
    # the lower flange ends 59 from the web's other face: its middle lies 61 - 59 + 1 = 3 to that side
    assert s.elements[0].at == -3 and (s.elements[1].high - s.elements[1].low, s.elements[2].high - s.elements[2].low) == (65, 59)
    assert not is_listed("Z 200x59/65x20x2") and not is_listed("Z 200x65/65x20x2") and not is_listed("CF 200x65/59x20x2")
