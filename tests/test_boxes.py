"""Pieces and turned boxes against each other, held to other people's geometry."""

import manifold3d
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import minimize
from scipy.spatial.transform import Rotation

from tincleat.geometry.boxes import meet
from tincleat.geometry.lines import apart

seeds = st.integers(0, 2**32 - 1)


@given(seeds)
@settings(max_examples=200, deadline=None)
def test_boxes_meet_as_solids_do(seed: int) -> None:
    rng = np.random.default_rng(seed)
    middle, half = rng.uniform(-150, 150, (2, 3)), rng.uniform(10, 150, (2, 3))
    axes = Rotation.random(2, random_state=int(rng.integers(1 << 31))).as_matrix()
    solids = [manifold3d.Manifold.cube(tuple(2 * h), True).transform(np.column_stack([a.T, m])) for m, a, h in zip(middle, axes, half, strict=True)]
    volume = (solids[0] ^ solids[1]).volume()
    told = bool(meet(middle, axes, half, np.array([0]), np.array([1]))[0])
    if volume > 1e-3:
        assert told
    elif volume == 0.0 and told:  # touching to within what the other engine resolves
        grown = manifold3d.Manifold.cube(tuple(2 * half[1] + 0.01), True).transform(np.column_stack([axes[1].T, middle[1]]))
        assert (solids[0] ^ grown).volume() > 0.0
    # nothing is two metres deep in anything
    assert not meet(middle, axes, half, np.array([0]), np.array([1]), 2000.0)[0]


@given(seeds)
@settings(max_examples=60, deadline=None)
def test_pieces_lie_as_far_apart_as_a_minimiser_finds(seed: int) -> None:
    rng = np.random.default_rng(seed)
    a, b = rng.uniform(-100, 100, (2, 2, 3))

    def far(x: np.ndarray) -> float:
        return float(np.sum((a[0] + x[0] * (a[1] - a[0]) - b[0] - x[1] * (b[1] - b[0])) ** 2))

    best = min(float(minimize(far, start, bounds=[(0, 1), (0, 1)], method="L-BFGS-B").fun) for start in ((0.5, 0.5), (0, 0), (1, 1), (0, 1), (1, 0)))
    assert abs(float(apart(a[None], b[None])[0]) - np.sqrt(best)) < 0.05
