"""Tube mitres by hand: where the cut lies, the plate's size, what is a fillet and what a groove, what is refused."""

import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from test_new_families import breaches, joined, made

from tincleat.errors import TinCleatError
from tincleat.proof.welds import throat


def corner(first: str, second: str, angle: float, **more: Any) -> list[dict[str, Any]]:
    a = math.radians(angle)
    return [
        {"section": first, "role": "beam", "start": [-3000, 0, 1000], "end": [0, 0, 1000]},
        {"section": second, "role": "beam", "start": [0, 0, 1000], "end": [2000 * math.cos(a), 2000 * math.sin(a), 1000], **more},
    ]


def test_a_square_corner_welded_edge_to_edge(tmp_path: Path) -> None:
    _, e = joined(tmp_path / "a", corner("SHS 100x100x4", "SHS 100x100x4", 90), "tube-mitre", "M1.end")
    d = made(e)
    # walls of 4, cut at 45 degrees: 4 sqrt 2 = 5.66 deep, more than 4: on backing; opened as much as the wall
    assert not d.plates and {round(w.opening, 3) for w in d.welds} == {4.0} and not breaches(e)
    inside = [w for w in d.welds if abs(w.u[2]) < 0.1 and abs(w.end[2] - w.start[2]) > 50]  # along the walls that stand square to the corner's plane
    assert len(inside) == 2 and {round(w.leg, 2) for w in inside} == {5.66}
    top = next(w for w in d.welds if w.u[2] > 0.99)
    assert {w.name for w in inside} == {"seam, on backing"} and top.name == "seam"  # square edges go through 4 without
    assert top.leg == pytest.approx(4.0)  # along the walls in the corner's plane only as deep as the wall
    # the cut goes through the middle lines' meeting point less half the opening: tube 1 is 3000 long on its middle line less 2 / cos 45
    (one, two) = (c for c in d.ends)
    assert {round(abs(c.normal[0]), 3) for c in (one, two)} == {0.707}
    assert float(np.linalg.norm(np.subtract(one.point, two.point))) == pytest.approx(4.0)
    findings = {f.rule: f for f in e.findings}
    assert findings["groove-square"].actual == pytest.approx(5.657, abs=0.01) and findings["groove-square"].required == 8.0


def test_thick_walls_get_a_plate(tmp_path: Path) -> None:
    _, e = joined(tmp_path / "a", corner("SHS 150x150x8", "SHS 150x150x8", 90), "tube-mitre", "M1.end")
    d = made(e)
    (plate,) = d.plates
    # 8 sqrt 2 = 11.3 is too deep for square edges.  1.5 walls: 12 thick.  The cut is 150 sqrt 2 = 212.13 long, on the plate's faces 6 tan 45 = 6
    # further at its end; past it 1.3 x 6 + 4 = 11.8, on 5: 15: half of it 106.07 + 6 + 15 = 127.07, on 2.5: 127.5; across 75 + 15 = 90
    x0, y0, x1, y1 = plate.outline.bounds
    assert plate.thickness == 12.0 and (x1 - x0, y1 - y0) == pytest.approx((255.0, 180.0)) and not breaches(e)
    # the walls in the corner's plane stand square on it: fillets 0.6 x 8 = 4.8, 6 at least; those across it at 45 and 135 degrees: grooves of the wall
    assert {w.leg for w in d.welds if w.kind == "fillet"} == {6.0} and all(w.leg == 8.0 for w in d.welds if w.kind == "groove")
    assert {"heel", "toe"} == {w.name.split()[-1] for w in d.welds if w.kind == "groove"}
    assert {p for w in d.welds for p in w.parts} == {"mitre plate", "supported member", "supporting member"}
    # a blunt corner: 60 degrees of turn, every wall between 60 and 120 to the cut
    _, e = joined(tmp_path / "b", corner("SHS 150x150x8", "SHS 150x150x8", 50), "tube-mitre", "M1.end")
    assert {w.kind for w in made(e).welds} == {"fillet"} and not breaches(e)
    assert min(throat(w) for w in made(e).welds) > 6.0 * math.cos(math.radians(60)) - 1e-6


def test_tubes_of_two_depths_meet_corner_to_corner(tmp_path: Path) -> None:
    _, e = joined(tmp_path / "a", corner("SHS 120x120x6.3", "SHS 100x100x5", 90), "tube-mitre", "M1.end")
    d = made(e)
    # in plan the outer corner is at (50, -60), the inner one at (-50, 60): the plane runs between them, 50.2 degrees to the first tube
    n = e.joint.frame.turn(np.array(d.ends[0].normal))
    assert abs(n[0] / n[1]) == pytest.approx(120 / 100, abs=1e-3)
    assert d.plates and not breaches(e)


def test_the_head_of_a_post_is_settled_with_its_rail(tmp_path: Path) -> None:
    members = [{"section": "SHS 150x150x8", "role": "column", "start": [0, 0, 0], "end": [0, 0, 4000]}, {"section": "SHS 150x150x8", "role": "rafter", "start": [0, 0, 4000], "end": [5000, 0, 5000]}]
    _, e = joined(tmp_path / "a", members, "tube-mitre", "M2.start")
    assert len(e.joint.ends) == 2 and not breaches(e)


def test_what_is_refused(tmp_path: Path) -> None:
    for n, (members, typed, words) in enumerate((
        (corner("SHS 100x100x5", "IPE 100", 90), {}, "IPE 100 is a I section"),
        (corner("SHS 100x100x5", "SHS 100x100x5", 150), {}, "meet at 30°"),
        (corner("SHS 100x100x5", "SHS 100x100x5", 60, roll_deg=20), {}, "20° turned"),
        (corner("SHS 100x100x5", "SHS 80x80x5", 60), {"joined": "to each other"}, "do not meet edge to edge"),
        (corner("SHS 100x100x5", "SHS 100x100x5", 60), {"joined": "on a plate", "past": 4.0}, r"their fillets take 6 mm"),
    )):  # fmt: skip
        with pytest.raises(TinCleatError, match=words):
            joined(tmp_path / str(n), members, "tube-mitre", "M1.end", **typed)
    # a pipe with walls too thick for square edges is a breach when it is typed all the same
    _, e = joined(tmp_path / "z", corner("CHS 168.3x10", "CHS 168.3x10", 90), "tube-mitre", "M1.end", joined="to each other")
    assert "groove-square" in breaches(e)


def test_thin_walls_of_tubes_may_be_welded(tmp_path: Path) -> None:
    """EN 1993-1-8 asks for 4 mm, of hollow sections for 2.5 mm."""
    _, e = joined(tmp_path / "a", corner("CHS 48.3x3.2", "CHS 48.3x3.2", 60), "tube-mitre", "M1.end")
    f = next(f for f in e.findings if f.rule == "weld-part")
    assert f.level == "clear" and f.required == 2.5 and f.actual == pytest.approx(3.2)


def test_a_tube_too_flat_to_the_plate_is_refused(tmp_path: Path) -> None:
    # one plane through both tubes' corners leans towards the smaller one
    members = [
        {"section": "SHS 300x300x10", "role": "beam", "start": [-3000, 0, 1000], "end": [0, 0, 1000]},
        {"section": "SHS 60x60x5", "role": "beam", "start": [0, 0, 1000], "end": [0, 2500, 1000]},
    ]
    with pytest.raises(TinCleatError, match="opens no further"):
        joined(tmp_path / "a", members, "tube-mitre", "M1.end")


@pytest.mark.parametrize("turn", [40.0, 75.0, 110.0])
def test_the_angle_drawn_is_the_one_between_the_tubes(tmp_path: Path, turn: float) -> None:
    """The second tube turns off the first one's line by so much: between the two of them lies what is left of 180 degrees."""
    _, e = joined(tmp_path, corner("SHS 100x100x4", "SHS 100x100x4", turn), "tube-mitre", "M1.end")
    (drawn,) = made(e).angles
    a, b = (np.subtract(p, drawn.vertex) for p in (drawn.first, drawn.second))
    told = math.degrees(math.acos(float(a @ b) / float(np.linalg.norm(a) * np.linalg.norm(b))))
    assert told == pytest.approx(180.0 - turn, abs=0.01)
