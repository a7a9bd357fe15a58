"""Outlines, frames, meshes and hidden lines on known numbers."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tincleat.errors import BadValue
from tincleat.geometry.frames import Frame
from tincleat.geometry.hidden_lines import Scene, covered
from tincleat.geometry.lines import between_edges, crossing
from tincleat.geometry.mesh import Mesh, cut, cylinder, joined, overlap_volume, prism, trimmed
from tincleat.geometry.outline import Outline

LEFT = Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, -1.0, 0.0))


def test_area_with_true_arcs() -> None:
    assert Outline.circle(5, 7, 22).area == pytest.approx(math.pi * 121, rel=1e-12)
    assert Outline.slot(0, 0, 22, 26, 0.3).area == pytest.approx(math.pi * 121 + 4 * 22, rel=1e-12)
    # a 100 x 50 rectangle whose corners are rounded by 10: each loses 100 - 25 pi
    rounded = Outline.rounded([(0, 0), (100, 0), (100, 50), (0, 50)], [10, 10, 10, 10])
    assert rounded.area == pytest.approx(5000 - 4 * (100 - 25 * math.pi), rel=1e-12)
    assert rounded.length == pytest.approx(2 * 80 + 2 * 30 + 20 * math.pi, rel=1e-12)


def test_centroid_with_arcs() -> None:
    # half disc of radius 30 on the x axis: centroid at 4 r / (3 pi)
    half = Outline(((-30.0, 0.0, 0.0), (30.0, 0.0, 1.0)))
    assert half.area == pytest.approx(math.pi * 450)
    assert half.centroid[1] == pytest.approx(4 * 30 / (3 * math.pi))
    assert half.centroid[0] == pytest.approx(0, abs=1e-9)


def test_a_corner_that_comes_twice_is_refused() -> None:
    with pytest.raises(BadValue, match=r"two corners of the outline lie on each other, at \(100, 0\)"):
        Outline.rounded([(0, 0), (100, 0), (100, 0), (100, 50), (0, 50)], [5.0] * 5)
    with pytest.raises(BadValue, match="shorter than its width"):
        Outline.slot(0, 0, 30, 29, 0)


def test_rounding_that_does_not_fit_is_refused() -> None:
    with pytest.raises(BadValue):
        Outline.rounded([(0, 0), (10, 0), (10, 10), (0, 10)], [8, 8, 8, 8])


@given(st.floats(1, 200), st.floats(1, 200), st.floats(0.1, 0.45))
def test_polygon_area_agrees_with_closed_form(w: float, h: float, share: float) -> None:
    o = Outline.rounded([(0, 0), (w, 0), (w, h), (0, h)], [min(w, h) * share] * 4)
    assert o.polygon().area == pytest.approx(o.area, rel=0.01, abs=0.3)
    assert o.mirrored_y().area == pytest.approx(o.area)
    assert o.mirrored_y().mirrored_y().polygon().symmetric_difference(o.polygon()).area < 1e-6


@given(st.tuples(*[st.floats(-1, 1)] * 6), st.tuples(*[st.floats(-1000, 1000)] * 3))
def test_frames_undo_themselves(axes: tuple[float, ...], origin: tuple[float, float, float]) -> None:
    x, z = np.array(axes[:3]), np.array(axes[3:])
    if np.linalg.norm(np.cross(x, z)) < 0.05:
        return
    frame = Frame.of(origin, x, z)
    points = np.array([[1.0, 2.0, 3.0], [-50.0, 7.0, 0.5]])
    assert frame.to_local(frame.to_world(points)) == pytest.approx(points, abs=1e-8)
    other = Frame((3.0, 4.0, 5.0), (0.0, 1.0, 0.0), (1.0, 0.0, 0.0))
    assert frame.inside(frame.at(other)).o == pytest.approx(other.o, abs=1e-8)
    assert np.linalg.det(frame.mirrored_y().axes) == pytest.approx(1.0)


def test_mesh_volumes() -> None:
    plate = prism(Outline.rectangle(0, 0, 100, 50), (Outline.rectangle(10, 10, 20, 20),), 0, 10)
    assert plate.volume == pytest.approx((5000 - 100) * 10)
    assert cylinder(20, 0, 10, 12).volume == pytest.approx(math.pi * 100 * 10)  # equal area by construction
    box = prism(Outline.rectangle(0, 0, 10, 10), (), 0, 10)
    other = prism(Outline.rectangle(5, 5, 15, 15), (), 5, 15)
    assert overlap_volume(box, other) == pytest.approx(125)
    assert cut(box, [other]).volume == pytest.approx(875)
    assert trimmed(box, (0, 0, 4), (0, 0, 1)).volume == pytest.approx(600)


def test_a_cube_seen_square_on_hides_nothing_and_a_cube_behind_is_hidden() -> None:
    front = prism(Outline.rectangle(0, 0, 10, 10), (), 0, 10)
    seen = Scene([front]).seen([LEFT])
    assert not seen.hidden[np.isclose(seen.lines[:, 0], 0) & np.isclose(seen.lines[:, 2], 0)].all()
    small = prism(Outline.rectangle(2, 20, 8, 30), (), 2, 8)  # behind, as seen from -y
    both = Scene([front, small]).seen([LEFT])
    assert both.hidden[both.body == 1].all()
    # half covered: the small cube reaches 5 mm past the front one's right edge
    half = prism(Outline.rectangle(5, 20, 15, 30), (), 2, 8)
    both = Scene([front, half]).seen([LEFT])
    top = both.lines[(both.body == 1) & np.isclose(both.lines[:, 1], 8) & np.isclose(both.lines[:, 3], 8)]
    hidden = both.hidden[(both.body == 1) & np.isclose(both.lines[:, 1], 8) & np.isclose(both.lines[:, 3], 8)]
    spans = {(round(min(a, c)), round(max(a, c)), bool(h)) for (a, _, c, _), h in zip(top, hidden, strict=True)}
    assert (5, 10, True) in spans and (10, 15, False) in spans
    assert covered(np.array([[5.0, 25.0, 5.0], [12.0, 25.0, 5.0]]), [front], LEFT).tolist() == [True, False]


@pytest.mark.parametrize("rings", [1, 2])
@given(st.floats(20, 400), st.floats(5, 40), st.floats(0, 6))
def test_a_prism_knows_the_edges_a_search_would_find(rings: int, side: float, t: float, turn: float) -> None:
    outline = Outline.rectangle(-side, -side / 2, side, side / 2)
    holes = (Outline.circle(0.0, 0.0, side / 3),) if rings == 2 else ()
    made = prism(outline, holes, 0.0, t, per_arc=3)
    placed = joined([made, made]).placed(Frame.of((1.0, 2.0, 3.0), (math.cos(turn), math.sin(turn), 0.3), (0.0, 0.0, 1.0)))
    bare = Mesh(placed.points, placed.triangles)

    def told(mesh: Mesh) -> dict[tuple[int, ...], np.ndarray]:
        pairs, f, g = mesh.edges
        order = [tuple(sorted(p)) for p in pairs.tolist()]
        return {p: np.sort(np.stack([a, b]), axis=0) for p, a, b in zip(order, f, g, strict=True)}

    known, found = told(placed), told(bare)
    # two rings of four and twelve corners: each corner has one edge below, one above and one upright, in two bodies
    assert len(known) == 2 * 3 * (4 if rings == 1 else 4 + 12)
    assert known.keys() == found.keys()
    for pair, normals in known.items():
        assert np.allclose(normals, found[pair], atol=1e-9)


def test_where_lines_cross_and_how_far_edges_lie_apart() -> None:
    a = np.array([(0.0, 0.0, 0.0), (100.0, 0.0, 0.0)])
    # at x = 30 on the first, half way along the second; 7 mm apart
    assert crossing(a, np.array([(30.0, -5.0, 7.0), (30.0, 5.0, 7.0)])) == pytest.approx((0.3, 0.5, 7.0))
    assert crossing(a, a + (0, 9, 0)) is None
    # parallel: 3-4-5 across, measured in the middle of what both have, x = 20 to 80
    found = between_edges(a, np.array([(80.0, 30.0, 40.0), (20.0, 30.0, 40.0)]))
    assert found.distance == pytest.approx(50) and found.angle == 0.0 and found.first[0] == pytest.approx(50) and found.second == pytest.approx((50, 30, 40))
    # close to a point, as far as both go: x = 80
    found = between_edges(a, np.array([(80.0, 30.0, 40.0), (20.0, 30.0, 40.0)]), np.array((95.0, 7.0, 7.0)))
    assert found.first == pytest.approx((80, 0, 0)) and found.distance == pytest.approx(50)
    # parallel and apart along the line too: still straight across
    assert between_edges(a, np.array([(300.0, 30.0, 40.0), (400.0, 30.0, 40.0)])).distance == pytest.approx(50)
    # they pass each other at 60 degrees, 12 mm apart
    way = np.array((math.cos(math.pi / 3), math.sin(math.pi / 3), 0.0)) * 40
    found = between_edges(a, np.stack([np.array((50.0, 0.0, 12.0)) - way, np.array((50.0, 0.0, 12.0)) + way]))
    assert (found.distance, found.angle) == (pytest.approx(12), pytest.approx(math.pi / 3))
    # square to each other, but the second ends 3-4 off the first one's end
    found = between_edges(a, np.array([(103.0, 4.0, 0.0), (103.0, 90.0, 0.0)]))
    assert found.distance == pytest.approx(5) and found.first == pytest.approx((100, 0, 0))
