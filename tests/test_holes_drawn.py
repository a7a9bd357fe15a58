"""Holes on sheets: in members without a bolt too, slots as slots, threads by their symbol, one line where several plies share a hole."""

import math
from pathlib import Path

import numpy as np
import pytest
from test_loose import detail, laid

from tincleat.project.entities import inch_house
from tincleat.release.projected import Projected, projected


def plan(e: object, name: str) -> Projected:
    views = {v.name: v.title for v in detail(e).views}  # type: ignore[arg-type]
    return next(p for key, p in projected(e.made.assembled).items() if views[key] == name)  # type: ignore[attr-defined]


def test_a_hole_in_a_flange_is_drawn_where_it_is_without_any_bolt(tmp_path: Path) -> None:
    _, e = laid(tmp_path / "a", part__1="holes", bolt__1="M16", rows__1=[100], lines__1=[90])
    p = plan(e, "Plan")
    # M16 in a hole of 18 mm (EN 1090-2, table 11), at 50 to either side along, 45 across
    assert sorted((abs(round(x, 3)), abs(round(y, 3)), r) for _, x, y, r in p.rounds) == [(50.0, 45.0, 9.0)] * 4
    assert {s for s, *_ in p.rounds} == {"member"}
    # each with two centre marks through it, 1.35 of its radius long to either side
    marks = np.abs(p.crosses[:, :2] - p.crosses[:, 2:]).max(axis=1)
    assert len(marks) == 8 and marks == pytest.approx(18 * 1.35)
    x0, _, x1, _ = p.extent
    assert x0 < -59 and x1 > 59


def test_a_slot_is_drawn_as_a_slot(tmp_path: Path) -> None:
    _, e = laid(tmp_path / "a", part__1="holes", bolt__1="M16", hole__1="long slot", rows__1=[200], slot_way__1="across")
    p = plan(e, "Plan")
    (slots,) = [p.lines["member"]]
    inside = slots[(np.abs(slots[:, 1]) < 30) & (np.abs(slots[:, 3]) < 30)]
    # EN 1090-2 11: a long slot may be 1.5 d longer than the bolt is thick: 16 + 24 = 40 over all, 18 wide
    for centre in (-100.0, 100.0):
        one = inside[np.abs(inside[:, 0] - centre) < 50]
        flat = np.concatenate([one[:, :2], one[:, 2:]])
        assert np.ptp(flat, axis=0) == pytest.approx([18.0, 40.0], abs=0.05) and flat.mean(axis=0) == pytest.approx([centre, 0.0], abs=0.5)
    assert not p.rounds


def test_a_thread_is_drawn_by_its_symbol(tmp_path: Path) -> None:
    _, e = laid(tmp_path / "a", part__1="holes", hole__1="threaded", bolt__1="M16", rows__1=[100])
    p = plan(e, "Plan")
    # ISO 724: d1 = 16 - 1.0825 * 2 = 13.835; drawn within a tenth of a pitch
    assert len(p.rounds) == 2 and all(r * 2 == pytest.approx(13.835, abs=0.4) for *_, r in p.rounds)
    outer = p.lines["dimension"]
    middles = (outer[:, :2] + outer[:, 2:]) / 2
    for _, x, y, _ in p.rounds:
        mine = outer[np.hypot(*(middles - (x, y)).T) < 9]
        assert np.hypot(mine[:, 0] - x, mine[:, 1] - y) == pytest.approx(8.0)
        turn = np.degrees(np.arctan2(mine[:, 1] - y, mine[:, 0] - x)) % 360
        assert np.hypot(*(mine[:, 2:] - mine[:, :2]).T).sum() == pytest.approx(8.0 * 1.5 * math.pi, rel=0.01)  # three quarters round
        assert not ((turn > 5) & (turn < 90)).any()  # open to the upper right
    # ASME Y14.6: the larger circle dashed
    _, e = laid(tmp_path / "b", "W12X26", inch_house(""), part__1="holes", hole__1="threaded", bolt__1="5/8in", rows__1=[100])
    p = plan(e, "Plan")
    assert sorted((s, round(2 * r, 2)) for s, _, _, r in p.rounds)[:2] == [("hidden", 15.88)] * 2 and len(p.lines.get("dimension", ())) == 0


def test_a_hole_through_several_plies_is_drawn_once(tmp_path: Path) -> None:
    both = {"part__1": "plate", "length__1": 200, "width__1": 140, "thickness__1": 12, "part__2": "bolts", "on__2": "part 1", "bolt__2": "M16", "rows__2": [100], "lines__2": [80]}
    _, e = laid(tmp_path / "a", **both)
    p = plan(e, "Plan")
    assert sorted((s, r) for s, _, _, r in p.rounds) == [("part", 9.0)] * 4
    _, e = laid(tmp_path / "b", **both, hole__2="threaded")
    # the plate is drilled for the bolt, the flange below has the thread: what is hidden there is told in dashes
    assert sorted((s, round(r, 1)) for s, _, _, r in plan(e, "Plan").rounds) == [("hidden", 6.8)] * 4 + [("hidden", 8.0)] * 4 + [("part", 9.0)] * 4


def test_cuts_are_drawn_and_dimensioned_where_they_are(tmp_path: Path) -> None:
    """A cope of 220 x 120 in a web and a vent of 60 beside it, 300 along: seen from the front, each by its sizes, nothing of the access hole's side that was told as a distance."""
    _, e = laid(tmp_path / "a", part__1="cut", on__1="near side", shape__1="rectangle", length__1=220, width__1=120, part__2="cut", on__2="near side", along__2=300, shape__2="round", length__2=60)
    d = detail(e)
    assert d.views[0].title == "Front"
    found = {x.settings[0]: np.array(x.points) for x in d.dimensions if x.view == d.views[0].name}
    assert set(found) == {"length/1", "width/1", "length/2", "along/2"}
    assert sorted(found["length/1"][:, 0].tolist()) == pytest.approx([-110, 110]) and sorted(found["width/1"][:, 2].tolist()) == pytest.approx([-60, 60])
    assert sorted(found["length/2"][:, 0].tolist()) == pytest.approx([270, 330]) and sorted(found["along/2"][:, 0].tolist()) == pytest.approx([0, 300])
    p = plan(e, "Front")
    edges = p.lines["member"]
    # the four sides of the cope in the web are seen: 220 and 120 long
    for (x0, y0), (x1, y1) in (((-110, -60), (110, -60)), ((-110, 60), (110, 60)), ((-110, -60), (-110, 60)), ((110, -60), (110, 60))):
        on = [s for s in edges if np.allclose(sorted([s[0], s[2]]), sorted([x0, x1]), atol=0.1) and np.allclose(sorted([s[1], s[3]]), sorted([y0, y1]), atol=0.1)]
        assert on, ((x0, y0), (x1, y1))
    assert {h.words.split(",")[0] for h in d.handles} == {"cut 1", "cut 2"}
    _, e = laid(tmp_path / "b", part__1="cut", on__1="near side", shape__1="access hole", across__1=100)
    assert {s for x in detail(e).dimensions for s in x.settings} == {"length/1", "width/1"}
