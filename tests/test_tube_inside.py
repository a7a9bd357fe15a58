"""Welds round the inside of a tube that stands on a face, and setbacks that differ at the two ends of a run."""

import math
from pathlib import Path
from typing import Any

import pytest
from test_loose import breaches, detail, exact, laid, length

from tincleat.details.bodies import bodies
from tincleat.errors import TinCleatError
from tincleat.release.weld_list import weld_list

ON: dict[str, Any] = {"part__1": "plate", "length__1": 320, "width__1": 300, "thickness__1": 15, "part__2": "piece", "on__2": "part 1", "length__2": 250, "part__3": "weld", "of__3": "part 2", "to__3": "part 1"}
BROAD = "UC 356x406x340"  # its flange is 403 wide


@pytest.mark.parametrize(("section", "inside", "outside"), [
    # 219.1 / 2 - 8 = 101.55: 48 chords 2 r sin(pi / 48) long; outside 24 that touch 109.55: 2 r tan(pi / 24)
    ("CHS 219.1x8", 48 * 2 * 101.55 * math.sin(math.pi / 48), 24 * 2 * 109.55 * math.tan(math.pi / 24)),
    # 150 - 16 = 134 less two radii of 8 on each side, and three chords of 2 r sin 15 at each corner
    ("SHS 150x150x8", 4 * (134 - 2 * 8) + 12 * 2 * 8 * math.sin(math.radians(15)), None),
])  # fmt: skip
def test_all_round_inside(tmp_path: Path, section: str, inside: float, outside: float | None) -> None:
    totals = {}
    for where in ("outside", "inside", "both"):
        desk, e = laid(tmp_path / where, BROAD, **ON, section__2=section, around__3=where, leg__3=6)
        totals[where] = sum(length(w) for w in detail(e).welds)
        assert not breaches(e), (where, breaches(e))
        assert sum(x.length for x in weld_list(desk.ledger)) == pytest.approx(totals[where])
        assert e.made is not None
        some = [(b.kind, exact(b)) for b in bodies(e.made.assembled, 12, drilled=True, reach=400.0)]
        for kind, one in some:
            for kind2, two in some:
                if kind == "weld" and kind2 != "weld":
                    # chords of welds and of round steel do not fall on each other: slivers along 640 mm
                    assert float((one ^ two).volume()) < 40.0
    assert totals["inside"] == pytest.approx(inside, rel=1e-6) and totals["both"] == pytest.approx(totals["inside"] + totals["outside"])
    if outside is not None:
        assert totals["outside"] == pytest.approx(outside, rel=1e-6)


def test_where_nobody_gets_in(tmp_path: Path) -> None:
    for more, words in (({"section__2": "SHS 80x80x5"}, "70 mm wide inside: nobody gets in to weld"), ({"section__2": "SHS 150x150x8", "length__2": 500}, r"50\d mm long and 134 mm wide inside: its foot is not reached")):
        with pytest.raises(TinCleatError, match=words):
            laid(tmp_path / str(len(words)), BROAD, **ON | more, around__3="inside")


@pytest.mark.parametrize("flipped", [False, True])
def test_setbacks_at_either_end(tmp_path: Path, flipped: bool) -> None:
    """A plate of 200 about the station: 20 free at the end nearer to the member's start, 5 at the other, on both of its long edges."""
    d = detail(laid(tmp_path / "a", part__1="plate", length__1=200, width__1=100, turn__1=math.pi if flipped else 0.0, part__2="weld", setback__2=20, setback_far__2=5)[1])
    along = [sorted((w.start[0], w.end[0])) for w in d.welds if abs(w.start[0] - w.end[0]) > 1.0]
    assert len(along) == 2 and all(ends == pytest.approx([-80.0, 95.0]) for ends in along)
    plain = detail(laid(tmp_path / "b", part__1="plate", length__1=200, width__1=100, part__2="weld", setback__2=20)[1])
    assert {round(length(w), 6) for w in plain.welds} == {160.0, 60.0}
