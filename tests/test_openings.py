"""Web openings by hand: what they take out, where flats lie, what is refused."""

import math
from pathlib import Path

import pytest
from sites import girder
from test_new_families import breaches, joined, made

from tincleat.errors import TinCleatError
from tincleat.ledger.steel import worked_of


def taken(path: Path, section: str, **typed: object) -> float:
    """mm³ that an opening takes out of its girder, by the bill's own volume."""
    desk, e = joined(path, [girder(section)], "web-opening", "M1@2500", **typed)
    assert e.made is not None, e.problem
    (member,) = desk.project.members.values()
    with_it = worked_of(desk.ledger, member.id).volume
    assert e.connection is not None
    desk.run("delete-connections", ids=[e.connection.id])
    return worked_of(desk.ledger, member.id).volume - with_it


def test_what_an_opening_takes_out(tmp_path: Path) -> None:
    # the web of UB 457x191x67 is 8.5 thick
    assert taken(tmp_path / "r", "UB 457x191x67", height=200.0) == pytest.approx(math.pi * 100**2 * 8.5, rel=1e-3)
    square = 300 * 200 - (4 - math.pi) * 15**2
    assert taken(tmp_path / "q", "UB 457x191x67", shape="rectangular", height=200.0, width=300.0) == pytest.approx(square * 8.5, rel=1e-3)
    slot = 100 * 200 + math.pi * 100**2
    assert taken(tmp_path / "s", "UB 457x191x67", shape="slotted", height=200.0, width=300.0) == pytest.approx(slot * 8.5, rel=1e-3)
    assert taken(tmp_path / "n", "UB 457x191x67", height=80.0, row=(150.0, 150.0)) == pytest.approx(3 * math.pi * 40**2 * 8.5, rel=1e-3)


def test_flats_along_an_opening_by_hand(tmp_path: Path) -> None:
    _, e = joined(tmp_path, [girder("UB 457x191x67")], "web-opening", "M1@2500", shape="rectangular", height=200.0, width=300.0, flats="both sides")
    d = made(e)
    # (189.9 - 8.5) / 2 = 90.7 to the flange's edge, 8 x 10 = 80 of flat; 300 + 2 x 100 long; 15 over the opening: from 115 to 125 off the middle
    assert len(d.plates) == 4 and all(p.thickness == 10 and sorted((p.outline.bounds[2] - p.outline.bounds[0], p.outline.bounds[3] - p.outline.bounds[1])) == pytest.approx([80, 500]) for p in d.plates)
    heights = sorted({round(float(p.frame.origin[2]), 3) for p in d.plates})
    assert heights == [-125, 115] and {abs(round(float(p.frame.origin[1]), 3)) for p in d.plates} == {4.25} and not breaches(e)
    assert len(d.welds) == 8 and sum(math.dist(w.start, w.end) for w in d.welds) == pytest.approx(8 * 500)
    # with flats the worked out height leaves them room: 453.4 / 2 - 22.9 = 203.8, less 15 + 10 + 5, twice, is more than half the depth: 225
    _, e = joined(tmp_path / "w", [girder("HEB 300")], "web-opening", "M1@2500", flats="near side")
    assert made(e).number("height").value == 145.0  # 2 x (150 - 19 - 27 - 15 - 10 - 5) = 148
    # near is where the front view is looked at from, at the joint's lesser y: two flats there, none beyond the web 11 thick
    assert [p.frame.origin[1] for p in made(e).plates] == pytest.approx([-5.5, -5.5])
    _, e = joined(tmp_path / "f", [girder("HEB 300")], "web-opening", "M1@2500", flats="far side")
    assert [p.frame.origin[1] for p in made(e).plates] == pytest.approx([5.5, 5.5])


def test_what_an_opening_refuses(tmp_path: Path) -> None:
    cases = (
        ({"height": 260.0}, "249 mm high"), ({"height": 200.0, "up": 40.0}, "at most 169 mm"), ({"height": 100.0, "row": (105.0,)}, "leave 5 mm of web"), ({"height": 100.0, "row": (300.0, 300.0)}, "the row reaches 650 mm"),
        ({"shape": "slotted", "height": 100.0, "width": 80.0}, "narrower than its height"), ({"height": 220.0, "flats": "near side"}, "flat with its weld would reach"),
    )  # fmt: skip
    for i, (typed, words) in enumerate(cases):
        with pytest.raises(TinCleatError, match=words):
            joined(tmp_path / str(i), [girder("IPE 300")], "web-opening", "M1@2500", **typed)
    with pytest.raises(TinCleatError, match="without a web between two flanges"):
        joined(tmp_path / "t", [girder("SHS 200x200x8")], "web-opening", "M1@2500")
