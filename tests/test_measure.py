"""Distances to edges against another reckoning, and what must always hold of the proof."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from test_families import HOUSE, on_flange
from test_proof import fin, findings, part

from tincleat.details.assembled import Assembled, gaps
from tincleat.details.parts import Weld, mirrored
from tincleat.families.registry import family
from tincleat.joints.case import mirror_case
from tincleat.proof.measure import Plane, nearest_edge, reaches
from tincleat.proof.registry import prove
from tincleat.proof.welds import continuous, fusion_angle, length, throat

star = st.lists(st.floats(40, 200), min_size=5, max_size=14)


def ring(radii: list[float]) -> np.ndarray:
    """A star-shaped outline, closed."""
    angle = np.linspace(0, 2 * np.pi, len(radii), endpoint=False)
    points = np.column_stack([np.cos(angle) * radii, np.sin(angle) * radii])
    return np.concatenate([points, points[:1]])


@given(star, st.floats(0, 2 * math.pi), st.floats(0, 20))
def test_nearest_edge_agrees_with_shapely(radii: list[float], angle: float, out: float) -> None:
    outline = ring(radii)
    point = np.array([[math.cos(angle) * out, math.sin(angle) * out]])
    far, _ = nearest_edge(point, outline[:-1], outline[1:])
    assert far[0] == pytest.approx(shapely.distance(shapely.LinearRing(outline), shapely.Point(point[0])), abs=1e-9)


@given(st.lists(st.tuples(star, st.floats(0, 2 * math.pi), st.integers(1, 3)), min_size=1, max_size=4))
def test_reaches_agree_with_shapely(some: list[tuple[list[float], float, int]]) -> None:
    """Several planes at once, each with points of its own and every second side in a group of its own, held to shapely one by one."""
    planes = []
    for radii, angle, count in some:
        outline = ring(radii)
        odd = np.arange(len(radii)) % 2 == 1
        points = np.array([(0.01 * k, 0.02 * k) for k in range(count)])
        planes.append(Plane(points, np.array([math.cos(angle), math.sin(angle)]), outline[:-1], outline[1:], np.array([np.ones(len(radii), dtype=bool), odd])))
    for plane, reach in zip(planes, reaches(planes), strict=True):
        load, across = plane.load, np.array([-plane.load[1], plane.load[0]])
        for group, chosen in enumerate(plane.groups):
            sides = shapely.MultiLineString([(a, b) for a, b, c in zip(plane.starts, plane.stops, chosen, strict=True) if c])
            for k, point in enumerate(plane.points):
                assert reach.near[group, k] == pytest.approx(sides.distance(shapely.Point(point)), abs=1e-9)
                for way, far in zip((load, -load, across, -across), reach.along[group, :, k], strict=True):
                    hit = sides.intersection(shapely.LineString([point, point + way * 1000]))
                    if hit.is_empty or far == math.inf:  # a ray that slips through between two sides that only meet
                        assert hit.is_empty == (far == math.inf) or sides.distance(shapely.Point(point + way * min(far, 999.0))) < 1e-6 or hit.distance(shapely.MultiPoint([*plane.starts, *plane.stops])) < 1e-6
                    else:
                        assert far == pytest.approx(hit.distance(shapely.Point(point)), rel=1e-6, abs=1e-6)


@settings(max_examples=25, deadline=None)
@given(st.integers(20, 90), st.integers(20, 90))
def test_a_wider_edge_never_has_a_worse_least_finding(a: int, b: int) -> None:
    small, large = sorted((a, b))
    first, second = (part(fin({"edge_distance": float(v)})["edge-least"], "fin plate, edge").actual for v in (small, large))
    assert second >= first - 1e-9


@settings(max_examples=20, deadline=None)
@given(st.sampled_from(["near side", "far side", "both sides"]), st.integers(25, 60), st.sampled_from([(), (60.0,)]))
def test_the_mirror_image_is_proved_alike(sides: str, edge: int, gauge: tuple[float, ...]) -> None:
    case = on_flange()
    d = family("fin-plate").detail(case, {"sides": sides, "edge_distance": float(edge), "gauge": gauge}, HOUSE)
    plain = {f.key: f for f in prove(Assembled(case, d, "EN"), HOUSE)}
    image = {f.key: f for f in prove(Assembled(mirror_case(case), mirrored(d), "EN"), HOUSE)}
    assert plain.keys() == image.keys()
    for key, f in plain.items():
        assert image[key].actual == pytest.approx(f.actual, abs=1e-6) and image[key].level == f.level


def test_gap_to_a_solid() -> None:
    a = Assembled(on_flange(), family("fin-plate").detail(on_flange(), {}, HOUSE), "EN")
    plate = next(p for p in a.plies if p.owner == "fin plate")
    x0, y0, z0 = plate.frame.origin
    points = np.array([(50.0, y0 - 5, 0.0), (50.0, y0 + 7, 0.0), (50.0, y0 - 10 - 4, 0.0), (100.0, y0 - 5, 0.0), (93.0, y0 + 4, 0.0)])
    assert gaps([plate], [points])[0] == pytest.approx([0, 7, 4, 10, 5]) and z0 == x0 == 0


def test_throat_and_angle() -> None:
    square = Weld("w", 8.0, (0, 0, 0), (0, 0, 100), (1, 0, 0), (0, 1, 0), ("a", "b"))
    assert throat(square) == pytest.approx(8 / math.sqrt(2)) and math.degrees(fusion_angle(square)) == pytest.approx(90) and length(square) == 100
    # 120 degrees between the faces: throat is half the leg; 60 degrees: leg cos 30
    wide = Weld("w", 8.0, (0, 0, 0), (0, 0, 1), (1, 0, 0), (-0.5, math.sqrt(0.75), 0), ("a", "b"))
    assert throat(wide) == pytest.approx(4)
    sharp = Weld("w", 8.0, (0, 0, 0), (0, 0, 1), (1, 0, 0), (0.5, math.sqrt(0.75), 0), ("a", "b"))
    assert throat(sharp) == pytest.approx(8 * math.cos(math.radians(30)))


def test_runs_join_only_where_they_meet() -> None:
    def run(start: tuple[float, float, float], end: tuple[float, float, float], leg: float = 6.0) -> Weld:
        return Weld("w", leg, start, end, (1, 0, 0), (0, 0, 1), ("a", "b"))

    a, b, c = run((0, 0, 0), (10, 0, 0)), run((10, 0, 0), (10, 10, 0)), run((10, 10, 0), (0, 10, 0))
    lone, other = run((50, 0, 0), (60, 0, 0)), run((0, 10, 0), (0, 0, 0), 8.0)
    groups = sorted(len(g) for g in continuous((a, lone, c, b, other)))
    assert groups == [1, 1, 3]


def test_slots_along_and_across() -> None:
    # slots of the fin plate run along the beam; sideways play does not count as room, lengthwise does
    case = on_flange()
    d = family("fin-plate").detail(case, {"hole": "long slot"}, HOUSE)
    # EN 1090-2 table 11: a long slot leaves 1.5 d of play, 20 + 30 = 50 over all
    assert {(h.width, h.length) for h in d.plates[0].holes} == {(22, 50)}
    assert findings(case, d)["bolt-hole"][0].level == "clear"
