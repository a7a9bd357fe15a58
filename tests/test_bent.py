"""Bent plates by hand: their steel, the strip they are bent from, how they count in the bill; fin plates bent to beams askew."""

import math
from pathlib import Path
from typing import Any

import manifold3d
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial import ConvexHull
from sites import beam, column, girder
from test_new_families import breaches, joined, made

from tincleat.details.parts import BentPlate, Flat, Hole, Plate
from tincleat.errors import TinCleatError
from tincleat.geometry.frames import Frame
from tincleat.geometry.mesh import Mesh, cut
from tincleat.geometry.outline import Outline
from tincleat.release.bill import _bent_key, _plate_key, bill

FLOOR = Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, 0.0, 1.0))


def strip(**more: Any) -> BentPlate:
    values: dict[str, Any] = {
        "name": "strip", "flats": (Flat(100.0), Flat(80.0)), "turns": (math.pi / 2,), "radius": 12.0, "low": -40.0, "high": 60.0, "thickness": 6.0, "frame": FLOOR, "grade": "S275",
    }  # fmt: skip
    return BentPlate(**{**values, **more})


def test_a_strip_bent_square() -> None:
    b = strip()
    # flats (100 + 80) 6 100 = 108,000; a quarter ring of 18 and 12: pi/4 (324 - 144) 100 = 14,137.2
    assert b.volume == pytest.approx(122137.17, abs=0.01)
    # up it goes: the outer face turns with 12 + 6, so the second flat rises from (118, 18) to (118, 98), its steel back to x = 112
    a, c = b.legs
    assert a.frame.origin == (0.0, 0.0, 0.0) and c.frame.origin == pytest.approx((118.0, 0.0, 18.0)) and c.frame.x == pytest.approx((0.0, 0.0, 1.0)) and c.frame.z == pytest.approx((-1.0, 0.0, 0.0))
    # r/t = 2: k = 0.65 + 0.5 lg 2 = 0.8005, the neutral line 12 + 0.8005 x 3 = 14.40 from the middle: 180 + 14.40 pi / 2 = 202.62
    assert b.developed == pytest.approx(202.62, abs=0.01)
    # down instead: the lower face is the inside one, 12: to (112, -12)
    down = strip(turns=(-math.pi / 2,))
    assert down.legs[1].frame.origin == pytest.approx((112.0, 0.0, -12.0)) and down.volume == pytest.approx(b.volume)
    # r/t = 6 and more: the middle of the thickness, 36 + 3
    assert strip(radius=36.0).developed == pytest.approx(180 + 39 * math.pi / 2)


TURN = st.floats(0.1, 2.2) | st.floats(-2.2, -0.1)


@settings(max_examples=150)
@given(st.lists(TURN, min_size=1, max_size=3), st.floats(2.0, 12.0), st.floats(1.0, 4.0))
def test_the_body_is_as_heavy_as_the_sum_and_its_covers_hold_it(turns: list[float], t: float, ratio: float) -> None:
    flats = tuple(Flat(150.0, (Hole(75.0, 10.0, 14.0, 14.0),)) for _ in range(len(turns) + 1))
    b = strip(flats=flats, turns=tuple(turns), thickness=t, radius=ratio * t, frame=Frame((5.0, -3.0, 7.0), (0.6, 0.8, 0.0), (0.0, 0.0, 1.0)))
    whole = b.mesh(24, False)
    solid = manifold3d.Manifold(manifold3d.Mesh64(vert_properties=np.ascontiguousarray(whole.points), tri_verts=whole.triangles.astype(np.uint64)))
    assert solid.status() == manifold3d.Error.NoError
    holes = len(flats) * math.pi / 4 * 14**2 * t
    assert whole.volume - holes == pytest.approx(b.volume, rel=2e-3)
    assert b.mesh(24, True).volume == pytest.approx(b.volume, rel=2e-3)
    # the covers hold all of it: corners, and middles of the triangles of its sides and ends
    spots = np.concatenate([whole.points, whole.points[whole.triangles].mean(axis=1)])
    held = np.zeros(len(spots), dtype=bool)
    for corners in b.covers:
        sides = ConvexHull(corners).equations
        held |= (spots @ sides[:, :3].T + sides[:, 3] < 1e-6).all(axis=1)
    assert held.all()
    # its image has the same steel on the other side
    image = b.mirrored.mesh(24, False)
    assert image.volume == pytest.approx(whole.volume) and image.points.min(axis=0) == pytest.approx(whole.points.min(axis=0) * (1, 0, 1) - (0, whole.points[:, 1].max(), 0))


def test_what_is_one_line_of_the_bill() -> None:
    hole = Hole(30.0, 20.0, 18.0, 18.0)  # of a flat 100 long and 100 broad from -40: 30 from its start, 60 from the low edge
    b = strip(flats=(Flat(100.0, (hole,)), Flat(80.0)))
    # the same strip taken up by its other end: bent the same way, its edges the other way round
    other_end = strip(flats=(Flat(80.0), Flat(100.0, (Hole(70.0, 0.0, 18.0, 18.0),))))
    # turned over about its length
    over = strip(flats=(Flat(100.0, (Hole(30.0, 0.0, 18.0, 18.0),)), Flat(80.0)), turns=(-math.pi / 2,))
    assert _bent_key(b) == _bent_key(other_end) == _bent_key(over)
    # its image is another part
    assert _bent_key(b) != _bent_key(b.mirrored)
    assert _bent_key(strip()) == _bent_key(strip().mirrored)  # without holes it is its own image
    # a slot in the middle (-40 to 60) lies along or across, and leans one way or the other; half a turn brings it on itself
    along, across, leaning, half = (strip(flats=(Flat(100.0, (Hole(50.0, 10.0, 18.0, 40.0, a),)), Flat(80.0))) for a in (0.0, math.pi / 2, 0.5, 0.5 - math.pi))
    assert len({_bent_key(along), _bent_key(across), _bent_key(leaning), _bent_key(leaning.mirrored)}) == 4
    assert _bent_key(leaning) == _bent_key(half) and _bent_key(along) == _bent_key(along.mirrored) and _bent_key(across) == _bent_key(across.mirrored)


def test_plates_whose_slots_lie_another_way_are_another_line() -> None:
    def plate(*holes: Hole) -> Plate:
        return Plate("fin", Outline.rectangle(0.0, 0.0, 200.0, 100.0), 10.0, Frame(), "S355", holes)

    keys = [_plate_key(plate(Hole(50.0, 50.0, 18.0, 40.0, a))) for a in (0.0, math.pi / 2, 0.5, -0.5, math.pi, -math.pi / 2, 0.5 - math.pi)]
    assert len(set(keys[:4])) == 4 and keys[4:] == keys[:3]
    assert _plate_key(plate(Hole(50.0, 50.0, 18.0, 18.0, 0.7))) == _plate_key(plate(Hole(50.0, 50.0, 18.0, 18.0)))  # a round hole has no way
    sunk = [_plate_key(plate(Hole(50.0, 50.0, 18.0, 18.0, sink=30.0, sink_angle=math.radians(a)))) for a in (82, 90)]
    assert sunk[0] != sunk[1]


def test_a_fin_plate_bent_to_a_beam_askew(tmp_path: Path) -> None:
    d, e = joined(tmp_path / "a", [column("HEB 300"), beam("IPE 300", 30)], "fin-plate", "M2.end", skewed="plate bent")
    (plate,) = made(e).bents
    # 10 thick: inside 2 x 10 = 20; fillets 0.8 x 10 = 8 on both faces where it stands square
    assert plate.radius == 20.0 and abs(plate.turns[0]) == pytest.approx(math.radians(30), abs=1e-4)
    assert {(w.leg, w.parts) for w in made(e).welds} == {(8.0, ("supporting member", "fin plate"))} and len(made(e).welds) == 2
    for w in made(e).welds:
        assert abs(float(np.dot(w.u, w.v))) < 1e-6 and abs(w.end[2] - w.start[2]) == pytest.approx(220.0)
    # flat at the foot: the weld's 8 and 8 more; the corner lies 30 tan 15 = 8.04 behind each end of the bend.  The web's face, 3.55 off
    # the beam's middle on the side away from which the face runs, meets it 3.55 tan 30 = 2.05 nearer the beam: the beam's end has to keep
    # (16 + 8.04) / cos 30 + 8.04 + 2.05 = 37.85 along, 32.8 square to the face: 35
    assert made(e).number("setback").value == 35.0
    # so that flat at the foot (35 / cos 30 - 2.05 - 8.04) cos 30 - 8.04 = 18.2
    assert plate.flats[0].length == pytest.approx(18.2, abs=0.1)
    assert not breaches(e)
    # on the bill as the strip it is bent from: 2.2 thicknesses in: k = 0.65 + 0.5 lg 2 = 0.80; 20 + 4.0 = 24.0 at 30 degrees 12.57
    line = next(x for x in bill(d.ledger) if x.kind == "plate")
    assert line.length == pytest.approx(plate.flats[0].length + plate.flats[1].length + 12.57, abs=0.05) and "bent 30°" in line.name and line.size.startswith("PL 10 x")
    rules = {f.rule: f for f in e.findings}
    assert rules["bend-radius"].required == 20.0 and rules["bend-radius"].actual == 20.0
    # hole 22 with its middle 40 from the bend
    assert rules["bend-hole"].actual == pytest.approx(29.0, abs=0.1)


def test_too_tight_a_bend_and_a_hole_in_it_are_findings(tmp_path: Path) -> None:
    _, e = joined(tmp_path / "a", [column("HEB 300"), beam("IPE 300", 30)], "fin-plate", "M2.end", skewed="plate bent", bend_radius=12.0, beam_end_distance=18.0)
    # the hole's edge 18 - 11 = 7 from the bend, less than the plate's 10
    assert {"bend-radius", "bend-hole"} <= {f.rule for f in e.findings if f.level == "breach"}
    assert next(f for f in e.findings if f.rule == "bend-hole").actual == pytest.approx(7.0, abs=0.1)


def test_where_nothing_can_be_bent(tmp_path: Path) -> None:
    for n, (skew, slope, words) in enumerate(((0, 0, "nothing to bend"), (20, 10, "slopes by 9"))):
        with pytest.raises(TinCleatError, match=words):
            joined(tmp_path / str(n), [column("HEB 300"), beam("IPE 300", skew, slope)], "fin-plate", "M2.end", skewed="plate bent")
    with pytest.raises(TinCleatError, match="would cross the beam's end"):
        joined(tmp_path / "s", [column("HEB 300"), beam("IPE 300", 20)], "fin-plate", "M2.end", skewed="plate bent", sides="both sides")
    with pytest.raises(TinCleatError, match=r"of the plate are left flat"):
        joined(tmp_path / "t", [column("HEB 300"), beam("IPE 300", 20)], "fin-plate", "M2.end", skewed="plate bent", setback=15.0)
    with pytest.raises(TinCleatError, match="past the flat of HEB 300"):
        joined(tmp_path / "f", [column("HEB 300"), beam("IPE 300", 45)], "fin-plate", "M2.end", skewed="plate bent")


def test_in_inches(tmp_path: Path) -> None:
    _, e = joined(tmp_path / "a", [girder("W16X40"), beam("W12X26", 70)], "fin-plate", "M2.end", True, skewed="plate bent")
    (plate,) = made(e).bents
    assert plate.radius == pytest.approx(19.05) and not breaches(e)  # 1.5 x 3/8 = 9/16, on 1/4: 3/4


def test_cutters_that_touch_take_what_they_cover_and_no_more() -> None:
    """The covers of a strip touch along faces; taken off it in one go, they once left a fifth of it standing."""
    t = 2.2058105135028354
    b = strip(flats=(Flat(150.0), Flat(150.0)), turns=(-0.11361835185662672,), thickness=t, radius=2.44140625 * t, frame=Frame((5.0, -3.0, 7.0), (0.6, 0.8, 0.0), (0.0, 0.0, 1.0)))
    hulls = []
    for corners in b.covers:
        made_ = manifold3d.Manifold.hull_points(np.ascontiguousarray(corners)).to_mesh64()
        hulls.append(Mesh(np.array(made_.vert_properties[:, :3]), np.array(made_.tri_verts, dtype=np.int32)))
    assert abs(cut(b.mesh(24, False), hulls).volume) < 1.0
