"""Rods through a web, held by a hillside washer and a nut, against figures worked out by hand."""

import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from sites import brace, column
from test_new_families import breaches, joined, made

from tincleat.errors import TinCleatError
from tincleat.geometry.mesh import overlap_volume, prism
from tincleat.geometry.outline import Outline


def through(path: Path, carrier: str = "HEB 200", rod: str = "RD 24", angle: float = 40.0, roll: float = 90.0, **typed: Any) -> Any:
    return joined(path, [column(carrier, roll), brace(rod, angle)], "rod-through", "M2.start", **typed)[1]


def number(entry: Any, name: str) -> float:
    return float(next(n.value for n in made(entry).numbers if n.name == name))


def test_wedge_nut_and_slot_by_hand(tmp_path: Path) -> None:
    """HEB 200's web is 9 thick.  A 24 mm rod 40 degrees off square, M24 hole 26: it takes 26 / cos 40 + 9 tan 40 = 33.94 + 7.55 = 41.49, a
    slot of 42.  The wedge covers (42 + 7.55 + 8) cos 40 = 44.1, the flat washer is 44: 45.  On the rod it is 5 + 22.5 tan 40 = 23.88 high;
    washer 4, nut 21.5: the rod ends 23.88 + 4 + 21.5 + 10 = 59.38 past the web's far face along itself."""
    entry = through(tmp_path)
    d = made(entry)
    (part,) = d.fittings
    assert not breaches(entry) and number(entry, "slot_width") == 26.0 and number(entry, "slot_length") == 42.0
    assert part.side == 45.0 and part.height == pytest.approx(5 + 22.5 * math.tan(math.radians(40)), abs=1e-3)
    assert part.length == pytest.approx(23.88 + 4 + 21.5, abs=0.01)
    a = np.array(entry.made.case.all("brace")[0][1].away)
    assert float((np.array(d.ends[0].point) - np.array(part.frame.origin)) @ -a) == pytest.approx(59.38, abs=0.01)
    # it bears on the web's far face: 4.5 from the middle, away from the bay
    post = next(m for m in entry.made.case.members if m.role == "column")
    local = post.frame.to_local(np.array([part.frame.origin]))[0]
    assert abs(local[1]) == pytest.approx(4.5, abs=1e-6) and float(np.array(part.bearing) @ a) < 0
    assert abs(float(np.array(part.bearing) @ np.array(post.frame.y))) == pytest.approx(1.0)


def test_its_volume_is_that_of_its_body(tmp_path: Path) -> None:
    """45 x 45 less the bore, 25 square, times 23.88 on the middle; the flat washer 44 and 4, the nut 36 across and 21.5, both less a bore of 25."""
    (part,) = made(through(tmp_path)).fittings
    by_hand = (45**2 - 25**2) * 23.880 + math.pi / 4 * (44**2 - 25**2) * 4 + (36**2 * math.sqrt(3) / 2 - math.pi / 4 * 25**2) * 21.5
    assert part.volume == pytest.approx(by_hand, rel=1e-4)
    assert part.mesh(24, True).volume == pytest.approx(by_hand, rel=0.003)


def test_the_rod_touches_nothing_on_its_way(tmp_path: Path) -> None:
    entry = through(tmp_path, angle=-55.0)
    (part,) = made(entry).fittings
    # a bar a little thinner than the bore passes the whole fitting, one thicker does not
    for bar, free in ((24.8, True), (26.0, False)):
        rod = prism(Outline.circle(0.0, 0.0, bar), (), -80.0, 120.0, 12).placed(part.frame.at(type(part.frame)((0.0, 0.0, 0.0), (0.0, 1.0, 0.0), (1.0, 0.0, 0.0))))
        assert (overlap_volume(rod, part.mesh(12, True)) < 1.0) is free


def test_on_both_sides_of_a_bay_it_is_the_same_detail(tmp_path: Path) -> None:
    one = through(tmp_path / "a")
    other = joined(tmp_path / "b", [column("HEB 200", 90), brace("RD 24", 40, side=-1.0)], "rod-through", "M2.start")[1]
    assert one.joint.case == other.joint.case


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ({"roll": 0.0}, "shows the rod its flange"),
        ({"angle": 70.0}, "70° off square to the web .3 to 62°"),
        ({"rod": "CHS 60.3x5"}, "a nut holds a round bar"),
        ({"carrier": "SHS 200x200x8"}, "nobody gets at a nut behind its wall"),
        ({"slot_length": 30.0}, "at least 24 by 38.9 mm"),
        ({"slot_width": 45.0, "slot_length": 42.0}, "a slot 42 mm long is shorter than its width of 45 mm"),
        ({"side": 40.0}, "smaller than the flat washer of 44 mm"),
    ],
)
def test_what_does_not_fit_is_refused_in_figures(tmp_path: Path, typed: dict[str, Any], words: str) -> None:
    with pytest.raises(TinCleatError, match=words):
        through(tmp_path, **typed)


def test_a_short_rod_leaves_its_nut(tmp_path: Path) -> None:
    """The whole nut is on the thread where the rod goes on past it."""
    entry = through(tmp_path, projection=2.0)
    held = next(f for f in entry.findings if f.rule == "thread-held")
    assert held.level == "clear" and held.actual == pytest.approx(21.5, abs=0.2) and held.required == 21.5


def test_views_look_from_in_front_of_the_whole_wedge(tmp_path: Path) -> None:
    # a 45 mm wedge reaches 22.5 to either side of the rod: the view begins a millimetre before it, so that nothing of it is cut off
    d = made(through(tmp_path))
    assert d.fittings[0].side == 45.0 and [v.near for v in d.views[:2]] == [23.5, 23.5]
