"""Plates across the ends of hollow sections, by hand: where bolts and plates land, what two tubes share, what is refused."""

import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from sites import beam, column, girder
from test_new_families import breaches, joined, made

from tincleat.catalogue.sections import section
from tincleat.errors import TinCleatError
from tincleat.proof.welds import all_round


def on_web(path: Path, *tubes: str, support: str = "UB 610x229x125", turn: float = 90.0, **typed: Any) -> Any:
    ways = (1.0, -1.0)
    members = [column(support, turn), *({**beam(t), "start": [4000 * s, 0, 3000]} for t, s in zip(tubes, ways, strict=False))]
    return joined(path, members, "tube-end-plate", " and ".join(f"M{i}.end" for i in range(2, 2 + len(tubes))), **typed)


def test_a_square_tube_on_a_columns_web_by_hand(tmp_path: Path) -> None:
    _, e = on_web(tmp_path, "SHS 120x120x5")
    d = made(e)
    (plate,) = d.plates
    # M20: plate of 20; weld 6 (0.6 x 5 is less than 6); room for a socket 31.8 on 5: 35 off the tube; edge 1.5 x 20 = 30
    # past the tube 60 + 35 = 95: two rows 190 apart, more than 14 x 11.9 = 166.6 of the web, so bolts stand on all four sides
    assert d.number("where").value == "all round" and not breaches(e)
    assert plate.thickness == 20.0 and plate.outline.bounds == pytest.approx((-125.0, -125.0, 125.0, 125.0))
    spots = {(round(abs(p[1]), 3), round(abs(p[2]), 3)) for p in d.bolts[0].points}
    assert spots == {(45.0, 95.0), (95.0, 60.0)} and len(d.bolts[0].points) == 8
    # the tube ends on the plate, the plate on the web: 11.9 / 2 from the column's axis, where the beam was drawn to
    (cut,) = d.ends
    assert cut.point[0] == pytest.approx(20.0) and e.joint.frame.origin[0] == pytest.approx(11.9 / 2)
    assert len(d.holes) == 8 and {h.width for h in d.holes} == {22.0}
    # all round: four walls less their corners, and round each the lines that touch its arc at 0, 30, 60 and 90 degrees: 6 r tan 15
    r = section("SHS 120x120x5").r1
    assert sum(math.dist(w.start, w.end) for w in d.welds) == pytest.approx(4 * (120 - 2 * r) + 4 * 6 * r * math.tan(math.radians(15)))
    assert len(d.welds) == 12 and {w.leg for w in d.welds} == {6.0} and all_round(d.welds)


def test_a_narrow_tube_is_welded_all_round(tmp_path: Path) -> None:
    # 50 less two corners is 30-odd: too short a fillet for itself, but it goes on round the corners
    _, e = on_web(tmp_path, "RHS 100x50x5")
    assert not breaches(e) and all_round(made(e).welds)


def test_bolts_clear_the_web_behind_a_flange(tmp_path: Path) -> None:
    _, e = joined(tmp_path, [column("UC 254x254x73"), beam("SHS 60x60x4")], "tube-end-plate", "M2.end")
    d = made(e)
    # web 8.6, root 12.7, washer 37: 4.3 + max(12.7 + 18.5, 31.75) = 36.05 a side, 72.1 on 5: 75
    assert d.number("gauge").value == (75.0,) and not breaches(e)
    assert {round(abs(p[1]), 2) for p in d.bolts[0].points} == {37.5}
    # off the column's middle the bolts stay over its web, the plate is as wide as both need
    _, aside = joined(tmp_path / "aside", [column("UC 254x254x73"), beam("SHS 60x60x4", offset=[20, 0])], "tube-end-plate", "M2.end")
    ys = sorted({round(p[1] + aside.joint.frame.origin[1], 3) for p in made(aside).bolts[0].points})
    assert ys == pytest.approx([-37.5, 37.5]) and not breaches(aside)


def test_two_tubes_share_the_bolts_of_one_web(tmp_path: Path) -> None:
    desk, e = on_web(tmp_path, "SHS 120x120x5", "CHS 114.3x5")
    d = made(e)
    assert [p.name for p in d.plates] == ["end plate 1", "end plate 2"] and len(d.bolts) == 1 and not breaches(e)
    assert d.plates[0].outline == d.plates[1].outline and len(d.ends) == 2
    faces = sorted(p.frame.origin[0] for p in d.plates)
    assert faces == pytest.approx([-11.9 - 20.0, 0.0])
    # 20 + 11.9 + 20 in the grip of every bolt
    assert {round(sum(p.leave - p.enter for p in f.plies), 2) for f in e.made.assembled.fitted} == {51.9}
    # as much of the one behind the web of 11.9 is seen as of the one before it
    seen = [v.clip for v in d.views if v.clip is not None]
    assert seen and all(c[0] == pytest.approx(-11.9 - c[2]) for c in seen)
    desk.run("delete-members", ids=[next(m.id for m in desk.project.members.values() if m.section == "CHS 114.3x5")])
    (left,) = [x for x in desk.ledger.entries.values() if x.connection]
    assert [p.name for p in made(left).plates] == ["end plate"]


@pytest.mark.parametrize(
    ("members", "words"),
    [
        ([column("HEB 300"), beam("SHS 100x100x5", 10)], "10.0° off square"),
        ([column("HEB 300"), beam("IPE 300")], "closes a hollow one"),
        ([column("PFC 300x100x46"), beam("SHS 120x120x5")], "leaves 50 mm"),
        ([column("UC 152x152x23", 90), beam("CHS 114.3x5")], "mm across"),
    ],
)
def test_what_does_not_fit_is_refused_in_figures(tmp_path: Path, members: Any, words: str) -> None:
    with pytest.raises(TinCleatError, match=words):
        joined(tmp_path, members, "tube-end-plate", "M2.end")


def test_tubes_beside_each_other_take_plates_of_their_own(tmp_path: Path) -> None:
    members = [column("UB 610x229x125", 90), beam("SHS 60x60x4"), {**beam("SHS 60x60x4", offset=[150, 0]), "start": [-4000, 0, 3000]}]
    with pytest.raises(TinCleatError, match="beside each other"):
        joined(tmp_path, members, "tube-end-plate", "M2.end and M3.end")


def test_a_lying_web_has_its_rows_along_the_girder(tmp_path: Path) -> None:
    _, e = joined(tmp_path, [girder("UB 457x191x67"), beam("SHS 60x60x4", 90)], "tube-end-plate", "M2.end", where="along the support")
    # past the tube along the girder: 30 + 35 = 65 each way from the tube's middle
    line = np.array([1.0, 0.0, 0.0])
    along = [float(e.joint.frame.turn(p) @ line) for p in np.array(made(e).bolts[0].points)]
    assert sorted({round(v, 3) for v in along}) == pytest.approx([-65.0, 65.0])
