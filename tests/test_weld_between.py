"""Welds between points that are picked in the model: on whatever face they lie, wherever the member and its parts were drawn to."""

import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from test_loose import detail, entry, typed

from tincleat.commands.desk import Desk
from tincleat.errors import TinCleatError

GIRDER = {"section": "UB 305x165x40", "role": "beam", "start": [0, 0, 3000], "end": [8000, 0, 3000]}
TOP = 3000 + 303.4 / 2  # mm: UB 305x165x40 is 303.4 deep, its middle line at 3,000


def laid(path: Path, member: dict[str, Any], **settings: Any) -> Desk:
    desk = Desk.create(path.with_suffix(".tincleat"))
    desk.run("add-members", members=[member])
    desk.run("place-connection", family="loose", at=["m1@2500"], settings=typed(**settings))
    return desk


def runs(desk: Desk) -> list[tuple[np.ndarray, np.ndarray]]:
    """Start and end of every weld in the world."""
    e = entry(desk)
    return [tuple(e.joint.frame.to_world([w.start, w.end])) for w in detail(e).welds]  # type: ignore[misc]


def between(desk: Desk, *points: tuple[float, float, float]) -> list[np.ndarray]:
    """Ends of the runs after the points were picked, least first."""
    (key,) = desk.project.connections
    desk.run("weld-between", connection=key, number=2, points=[[float(v) for v in p] for p in points])
    return [np.array(sorted((tuple(np.round(a, 3)), tuple(np.round(b, 3))))) for a, b in runs(desk)]


PLATE = {"part__1": "plate", "length__1": 200, "width__1": 100, "thickness__1": 10, "part__2": "weld"}


@pytest.mark.parametrize("hand", ["as told", "mirrored"])
def test_on_the_flange(tmp_path: Path, hand: str) -> None:
    desk = laid(tmp_path / "a", GIRDER, **PLATE, hand=hand)
    assert len(runs(desk)) == 4
    # along the edge at y = 50, 60 mm of its 200, as they are clicked on the plate's lower corners
    (found,) = between(desk, (2440, 50, TOP), (2500, 50, TOP))
    assert found == pytest.approx(np.array([(2440, 50, TOP), (2500, 50, TOP)]), abs=0.06)
    # the other edge, and round its corner
    one, two = between(desk, (2460, -50, TOP), (2600, -50, TOP), (2600, 10, TOP))
    assert one == pytest.approx(np.array([(2460, -50, TOP), (2600, -50, TOP)]), abs=0.06) and two == pytest.approx(np.array([(2600, -50, TOP), (2600, 10, TOP)]), abs=0.06)
    desk.undo()
    assert len(runs(desk)) == 1


def test_on_a_web_of_a_member_that_slopes_and_was_drawn_the_other_way(tmp_path: Path) -> None:
    """A stiffener across a web: its run down the web, between points that are worked out in the member's own directions."""
    slope = math.radians(20)
    a, b = np.array([0.0, 0.0, 3000.0]), np.array([8000 * math.cos(slope), 0.0, 3000 + 8000 * math.sin(slope)])
    for start, end in ((a, b), (b, a)):
        desk = laid(tmp_path / str(start[0]), {"section": "UB 305x165x40", "role": "beam", "start": start.tolist(), "end": end.tolist()}, part__1="plate", on__1="near side", stands__1="upright across", length__1=200, width__1=70, thickness__1=10, part__2="weld")
        e = entry(desk)
        (plate,) = detail(e).plates
        x0, y0, x1, _ = plate.outline.bounds
        # two points of the plate's foot, 30 and 130 from its end, on the face that is told first
        foot = e.joint.frame.to_world(plate.frame.to_world([(x0 + 30, y0, 0.0), (x0 + 130, y0, 0.0)]))
        (found,) = between(desk, *(tuple(p) for p in foot))
        assert float(np.linalg.norm(found[1] - found[0])) == pytest.approx(100, abs=0.2)
        assert min(np.abs(found - foot).max(), np.abs(found[::-1] - foot).max()) < 0.2
        assert x1 - x0 == pytest.approx(200)
        desk.close()


def test_on_another_part_than_it_was_told(tmp_path: Path) -> None:
    """A lug on a plate on the flange: the points lie on the plate, not on the top flange that the weld is told to be on."""
    desk = laid(tmp_path / "a", GIRDER, **PLATE | {"thickness__1": 12}, part__3="plate", on__3="part 1", stands__3="upright along", length__3=80, width__3=60, thickness__3=10, of__2="part 3")
    high = TOP + 12
    (found,) = between(desk, (2470, 5, high), (2520, 5, high))
    assert found == pytest.approx(np.array([(2470, 5, high), (2520, 5, high)]), abs=0.1)
    (key,) = desk.project.connections
    assert desk.project.connections[key].settings["on/2"] == "part 1"


def test_what_cannot_be_is_refused_in_figures_and_nothing_is_changed(tmp_path: Path) -> None:
    desk = laid(tmp_path / "a", GIRDER, **PLATE)
    (key,) = desk.project.connections
    before = desk.project.connections[key]
    for points, number, words in (
        ([(2440, 50, TOP)], 2, "too few"),
        ([(2440, 50, TOP + 25), (2500, 50, TOP + 40)], 2, r"mm off"),
        ([(2440, 50, TOP), (2441, 50, TOP)], 2, "on one another"),
        ([(2440, 80, TOP), (2500, 80, TOP)], 2, "30 mm off"),
        ([(2440, 50, TOP), (2500, 50, TOP)], 1, "no weld 1"),
    ):
        with pytest.raises(TinCleatError, match=words):
            desk.run("weld-between", connection=key, number=number, points=[list(p) for p in points])
        assert desk.project.connections[key] == before
    desk.close()


def test_a_groove_takes_no_points_without_a_word(tmp_path: Path) -> None:
    """Where a weld goes along all of its edge, points told for it are no longer left out of account silently."""
    standing = {"part__1": "plate", "stands__1": "upright along", "length__1": 200, "width__1": 100, "thickness__1": 16, "part__2": "weld", "prep__2": "TC-U4b"}
    desk = laid(tmp_path / "a", GIRDER, **standing)
    (key,) = desk.project.connections
    with pytest.raises(TinCleatError, match="a prepared groove goes along all of its edge"):
        desk.run("weld-between", connection=key, number=2, points=[[2440, 5, TOP], [2500, 5, TOP]])
    for name, more, words in (("b", {"section__1": "SHS 60x60x5"}, "round a tube"), ("c", {"section__1": "SHS 60x60x5", "lies__1": "along"}, "a flare beside a tube")):
        with pytest.raises(TinCleatError, match=words):
            laid(tmp_path / name, GIRDER, part__1="piece", length__1=200, part__2="weld", line__2=[0, 0, 50, 0], **more)
