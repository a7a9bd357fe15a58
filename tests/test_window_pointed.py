"""Copied, moved, mirrored, stretched and split by pointing in the model, with distances typed meanwhile; each deed one step to undo."""

import numpy as np
import pytest
from PySide6.QtTest import QTest
from test_window import desk
from test_window_frame import empty, fill
from test_window_ready import Answer, at, build_bay, w

from tincleat.app.window import Window
from tincleat.errors import TinCleatError

assert empty and fill and w  # the fixtures


@pytest.fixture
def bay(w: Window, fill: Answer) -> Window:
    """Two columns at (0, 0) and (6000, 0) with a beam at 4000 between them; the window looks at all of it."""
    build_bay(w, fill)
    w.view.fit()
    return w


def beam(window: Window) -> str:
    return next(k for k, m in desk(window).project.members.items() if m.role == "beam")


def lines(window: Window) -> set[tuple[float, ...]]:
    return {(*np.round(m.start, 1).tolist(), *np.round(m.end, 1).tolist()) for m in desk(window).project.members.values() if m.role == "beam"}


def typed(window: Window, text: str) -> None:
    QTest.keyClicks(window.view, text)
    window.view.point_typed.emit("enter")


def test_copies_for_every_click_and_a_typed_row(bay: Window) -> None:
    d = desk(bay)
    bay.select([], [beam(bay)])
    bay.do("copy-pointed")
    assert bay.pointing.mode == "deed" and "click a point to copy from" in bay.hint.text()
    bay.pointing.clicked(at(bay, (0, 0, 4000)))
    bay.pointing.pointed(at(bay, (0, 5000, 4000)))
    # the line from point to point, and the beam where it would come to
    (_, way, _), (ghost, _, dashed) = (bay.view.lines[0][0], *bay.view.lines[0][1:]), bay.view.lines[1]
    assert dashed and np.allclose(ghost, [(0, 5000, 4000), (6000, 5000, 4000)]) and way is not None
    bay.pointing.clicked(at(bay, (0, 5000, 4000)))
    assert (0, 5000, 4000, 6000, 5000, 4000) in lines(bay) and len(lines(bay)) == 2 and bay.pointing.mode == "deed"  # and goes on
    bay.pointing.pointed(at(bay, (0, 5000, 4000)))
    typed(bay, "3@1200")
    assert len(lines(bay)) == 5 and {round(v[1]) for v in lines(bay)} == {0, 1200, 2400, 3600, 5000}
    bay.pointing.pointed(at(bay, (0, 5000, 4000)))
    typed(bay, "7500")
    assert (0, 7500, 4000, 6000, 7500, 4000) in lines(bay)
    bay.pointing.pointed(at(bay, (0, 5000, 4000)))
    typed(bay, "2@x")
    assert "cannot read" in bay.hint.text() and len(lines(bay)) == 6 and bay.pointing.mode == "deed"
    bay.escape()
    assert not bay.pointing.mode and not bay.view.lines
    for left in (5, 2, 1):
        bay.undo()
        assert len(lines(bay)) == left
    assert d.ledger.counts()["joints"]


def test_moved_and_mirrored(bay: Window) -> None:
    one = beam(bay)
    bay.select([], [one])
    bay.do("move-pointed")
    bay.pointing.clicked(at(bay, (0, 0, 4000)))
    bay.pointing.pointed(at(bay, (0, 5000, 4000)))
    typed(bay, "300")
    assert lines(bay) == {(0, 300, 4000, 6000, 300, 4000)} and not bay.pointing.mode and "Move 1 member" in bay.hint.text()
    bay.undo()
    bay.do("mirror-pointed")
    bay.pointing.clicked(at(bay, (6000, 0, 4000)))
    bay.pointing.pointed(at(bay, (6000, 5000, 4000)))
    (ghost, *_) = bay.view.lines[1]
    assert np.allclose(ghost, [(12000, 0, 4000), (6000, 0, 4000)])
    bay.pointing.clicked(at(bay, (6000, 5000, 4000)))
    assert len(lines(bay)) == 2 and {(6000, 0, 4000, 12000, 0, 4000), (12000, 0, 4000, 6000, 0, 4000)} & lines(bay)


def test_stretched_and_split(bay: Window) -> None:
    one = beam(bay)
    desk(bay).run("copy-members", ids=[one], by=[0, 5000, 0])
    both = [k for k, m in desk(bay).project.members.items() if m.role == "beam"]
    bay.view.fit()
    bay.select([], both)
    bay.do("stretch-pointed")
    bay.pointing.clicked(at(bay, (6000, 0, 4000)))
    bay.pointing.pointed(at(bay, (3000, 0, 4000)))  # back along it
    typed(bay, "500")
    assert lines(bay) == {(0, 0, 4000, 5500, 0, 4000), (0, 5000, 4000, 5500, 5000, 4000)}
    bay.undo()
    assert {v[3] for v in lines(bay)} == {6000}
    bay.do("split-pointed")
    bay.pointing.clicked(at(bay, (0, 0, 4000)))
    bay.pointing.pointed(at(bay, (6000, 0, 4000)))
    typed(bay, "2400")
    assert len(lines(bay)) == 4 and {v[3] for v in lines(bay)} == {2400, 6000}
    bay.undo()
    bay.do("split-pointed")
    bay.pointing.clicked(at(bay, (6000, 0, 4000)))
    bay.pointing.clicked(at(bay, (6000, 5000, 4000)))
    assert "beside none" in bay.hint.text() and len(lines(bay)) == 2 and bay.pointing.mode == "deed"


def test_nothing_selected_has_no_deed(bay: Window) -> None:
    bay.select([], [])
    assert not any(bay.actions_[f"{n}-pointed"].enabled() for n in ("copy", "move", "mirror", "stretch", "split"))


def test_the_end_next_to_a_point_by_command(bay: Window) -> None:
    d = desk(bay)
    one = beam(bay)
    d.run("stretch-members", ids=[one], near=[100, 0, 4000], to=[-400, 77, 4100])
    assert lines(bay) == {(-500, 0, 4000, 6000, 0, 4000)}  # 500 further out along it: what lies aside does not count
    for bad in ({"end": "end"}, {"near": [0, 0, 0]}, {"end": "end", "by": 5, "near": [0, 0, 0], "to": [1, 1, 1]}):
        with pytest.raises(TinCleatError, match="not given once"):
            d.run("stretch-members", ids=[one], **bad)
