"""Rail posts beside a slab's edge, by hand: plate, rods in resin, what keeps off the concrete's edges; what is refused."""

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from test_new_families import breaches, joined, made

from tincleat.errors import TinCleatError
from tincleat.ledger.entries import Entry


def post(path: Path, section: str = "SHS 40x40x4", end: tuple[float, float, float] = (0, 0, 1100), inch: bool = False, **typed: Any) -> Entry:
    return joined(path, [{"section": section, "role": "post", "start": [0, 0, 0], "end": list(end)}], "slab-side", "M1.start", inch, **typed)[1]


def test_plate_and_rods_by_hand(tmp_path: Path) -> None:
    """M12 keeps 5 x 12 = 60 from the slab's top and underside: of 200 there are 80 between the rows at most, a plate of 80 + 2 x 20 = 120, with its
    middle at the slab's.  The post ends 10 over its lower edge (leg 4.5 and 2, up to 5), so that edge is at -10, the rows at 10 and 90, the slab's top
    at 150.  Rods are 9 x 12 = 108, up to 110, in the concrete."""
    e = post(tmp_path / "a")
    d = made(e)
    (plate,) = d.plates
    x0, y0, x1, y1 = plate.outline.bounds
    # beside 40 of tube and a spanner's room, gauge and edges
    gauge = float(d.number("gauge").value)
    assert (y0, y1, plate.thickness) == (-10, 110, 12) and x1 - x0 == pytest.approx(gauge + 40) and gauge >= 40 + 2 * 12
    # concrete on the left is towards +y: the plate lies from 20 to 32 there, the rods from 142 in the concrete out to it
    corners = plate.frame.to_world([(0.0, 0.0, z) for z in (0.0, 12.0)])
    assert sorted(np.round(corners[:, 1], 6)) == [20, 32]
    starts = np.array([t.frame.origin for t in d.ties])
    assert {round(float(v), 3) for v in starts[:, 1]} == {32.0 + 110.0} and sorted({round(float(v), 3) for v in starts[:, 2]}) == [10, 90]
    assert all(t.frame.x == pytest.approx((0, -1, 0)) and t.nuts == ((122.0, 1),) for t in d.ties)
    (slab,) = d.blocks
    assert slab.frame.origin[2] == pytest.approx(-50) and slab.thickness == 200 and d.number("top").value == 150
    assert not breaches(e) and {f.rule for f in e.findings if f.level == "clear"} >= {"tie-hole", "tie-edge", "tie-nut", "tie-thread", "tie-projection", "hole-empty"}


@pytest.mark.parametrize(("facing", "way"), [("left", (0, 1)), ("right", (0, -1)), ("ahead", (1, 0)), ("behind", (-1, 0))])
def test_the_concrete_lies_where_it_is_told(tmp_path: Path, facing: str, way: tuple[int, int]) -> None:
    """RHS 60 x 40: its depth of 60 points ahead; the plate lies at half of it, or of its breadth."""
    e = post(tmp_path, "RHS 60x40x4", facing=facing)
    d = made(e)
    near = 30.0 if way[0] else 20.0
    (plate,) = d.plates
    out = sorted(float(np.dot(p[:2], way)) for p in plate.frame.to_world([(0.0, 0.0, z) for z in (0.0, 12.0)]))
    assert out == pytest.approx([near, near + 12]) and not breaches(e)
    assert all(float(np.dot(np.array(t.frame.origin)[:2], way)) == pytest.approx(near + 12 + 110) for t in d.ties)


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ({"section": "CHS 48.3x4"}, "a square or rectangular tube, or a flat"),
        ({"end": (120, 0, 1100)}, "the post leans by 6.2"),
        ({"slab_depth": 130.0}, "leaves 10 mm between two rows of M12"),
        ({"height": 150.0}, "rods 45 mm from the concrete's top would break it out"),
        ({"top": 120.0}, "rods 30 mm from the concrete's top would break it out"),
        ({"pitch": 118.0}, "rows 118 mm apart do not lie on a plate 120 mm high"),
        ({"past": 110.0}, "which leaves 10 mm of weld"),
    ],
)
def test_what_does_not_fit_is_refused_in_figures(tmp_path: Path, typed: dict[str, Any], words: str) -> None:
    with pytest.raises(TinCleatError, match=words):
        post(tmp_path, **typed)


def test_in_inches(tmp_path: Path) -> None:
    e = post(tmp_path, "HSS2X2X3/16", (0, 0, 1066.8), True)
    d = made(e)
    assert {t.size for t in d.ties} == {"1/2in"} and d.blocks[0].thickness == pytest.approx(203.2) and not breaches(e)
