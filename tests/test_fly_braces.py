"""Fly braces of a purlin cleat, by hand: where lug and bolts are, how long the angle is, what is refused."""

import math
from pathlib import Path
from typing import Any

import pytest
from test_new_families import breaches, joined, made

from tincleat.errors import TinCleatError


def crossing(purlin: str = "UPN 160", rafter: str = "UB 356x171x45", deep: float = 351.4, x: tuple[float, float] = (-4000.0, 4000.0), turn: float = 0.0) -> list[dict[str, Any]]:
    t = math.radians(turn)
    return [
        {"section": rafter, "role": "rafter", "start": [4000 * math.sin(t), -4000 * math.cos(t), 0], "end": [-4000 * math.sin(t), 4000 * math.cos(t), 0]},
        {"section": purlin, "role": "purlin", "start": [x[0], 0, deep / 2], "end": [x[1], 0, deep / 2], "cardinal": "bottom"},
    ]


def test_where_a_fly_brace_goes(tmp_path: Path) -> None:
    _, e = joined(tmp_path / "a", crossing(), "purlin-cleat", "M2 over M1", fly="both sides")
    d = made(e)
    # M12 in 13: edge 1.2 x 13 = 15.6, 1.5 x 12 = 18, on 5: 20.  L 50x50x5: a socket's 25.4 off the other leg's face: 30.4, on 1: 31, and 31 + 15.6 < 50
    left, right = (next(p for p in d.pieces if p.name == f"fly brace {s}") for s in ("left", "right"))
    groups = {b.name: b.points[0] for b in d.bolts if b.name.startswith("fly")}
    assert set(groups) == {"fly brace left, lug", "fly brace left, purlin", "fly brace right, lug", "fly brace right, purlin"}
    foot, head = groups["fly brace right, lug"], groups["fly brace right, purlin"]
    # 45 degrees to the round step; the upper bolt in the row of the cleat's lowest, 40 up
    assert head[2] == pytest.approx(40.0) and abs(head[0] - foot[0] - (head[2] - foot[2])) <= 5.0
    # the angle goes 20 past both bolts
    assert left.length == pytest.approx(math.dist(foot, head) + 40.0) == right.length
    # lug on the inner flange: 351.4 deep, flange 9.7: its inner face at -341.7, standing on it
    lug = next(p for p in d.plates if p.name == "lug of fly brace right")
    zs = [lug.frame.to_world([(x, y, 0.0)])[0][2] for x, y, _ in lug.outline.vertices]
    assert min(zs) == pytest.approx(-341.7) and lug.thickness == 8.0
    # its face, the angle's back and the purlin's web lie in one plane
    for fitted in e.made.assembled.fitted:
        assert len(fitted.plies) == 2 and fitted.gap == pytest.approx(0.0, abs=1e-6)
    # what welds it: both faces to flange and to web; no run past the flange's edge at 171.1 / 2
    welds = [w for w in d.welds if "lug of fly brace right" in w.parts]
    assert len(welds) == 4 and max(max(w.start[0], w.end[0]) for w in welds) <= 171.1 / 2 + 1e-6
    assert not breaches(e)


def test_one_side_is_the_side_that_is_named(tmp_path: Path) -> None:
    for side, sign in (("left", -1), ("right", 1)):
        _, e = joined(tmp_path / side, crossing(), "purlin-cleat", "M2 over M1", fly=side)
        (head,) = (b.points[0] for b in made(e).bolts if b.name.endswith("purlin"))
        assert math.copysign(1, head[0]) == sign and len(made(e).pieces) == 2


def test_a_sleeve_pushes_it_out(tmp_path: Path) -> None:
    members = [*crossing(x=(-4000.0, 0.0)), crossing(x=(0.0, 4000.0))[1]]
    _, e = joined(tmp_path / "a", members, "purlin-cleat", "M2.end", fly="both sides", sleeve=5.0)
    sleeve = next(p for p in made(e).plates if p.name == "sleeve")
    out = max(b.points[0][0] for b in made(e).bolts if b.name.endswith("purlin"))
    assert out > sleeve.outline.bounds[2] + 20.0 and not breaches(e)


def test_what_is_refused(tmp_path: Path) -> None:
    for n, (members, typed, words) in enumerate((
        (crossing(rafter="PFC 300x100x46", deep=300.0), {"fly": "both sides"}, "PFC 300x100x46 is a C section"),
        (crossing(rafter="IPE 120", deep=120.0), {"fly": "both sides"}, "120 mm deep: its purlin cleat holds the inner flange already"),
        (crossing("Z 200x65x20x2.5"), {"fly": "left"}, "alike from both ends"),
        (crossing(turn=8), {"fly": "both sides"}, "8° off square"),
        (crossing(), {"fly": "both sides", "fly_out": 120.0}, "at most 65°"),
        (crossing(), {"fly": "both sides", "fly_bolt": "M20"}, "does not hold M20"),
        (crossing(x=(-4000.0, 40.0)), {"fly": "both sides"}, "does not reach"),
    )):  # fmt: skip
        with pytest.raises(TinCleatError, match=words):
            joined(tmp_path / str(n), members, "purlin-cleat", "M2.end" if n == 6 else "M2 over M1", **typed)
