"""Rows: members that lie beside each other as one place for a connection, and sag rods through them, by hand."""

import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from sites import girts, over_ridge, purlins
from test_new_families import breaches, joined, made

from tincleat.catalogue.fasteners import bolt_size
from tincleat.commands.desk import Desk
from tincleat.demo.registry import make_demo
from tincleat.details.assembled import tie_bodies, tie_frame
from tincleat.errors import TinCleatError
from tincleat.project.entities import HouseRules
from tincleat.proof.finding import Finding
from tincleat.release.bill import bill, bolt_list


def rods(path: Path, members: list[dict[str, Any]], at: str, **typed: Any) -> Any:
    return joined(path, members, "sag-rods", at, **typed)[1]


def of(entry: Any, rule: str) -> list[Finding]:
    return [f for f in entry.findings if f.rule == rule]


def test_staggered_rods_by_hand(tmp_path: Path) -> None:
    # UPE 160: web 5.5. Webs 1500 apart; 40 out of the outer faces: 1500 + 5.5 + 2 x 40 = 1585.5, cut to 1590
    d = made(rods(tmp_path, purlins("UPE 160", 4), "M1+M2+M3+M4@3000"))
    assert [t.length for t in d.ties] == [1590.0] * 3 and {t.size for t in d.ties} == {"M16"}
    # 50 apart where they meet, in turn on either side of the line
    sides = [t.frame.origin[1] for t in d.ties]
    assert sides[0] == sides[2] == -sides[1] and abs(sides[0]) == 25.0
    # nut 14.8 and washer 3 inside, 16 to turn: 40 + 5.5 + 17.8 + 16 = 79.3, on 5: 80; at the far end with what was added to the length
    assert d.ties[0].threads == pytest.approx((80.0, 84.5))
    assert [round(x, 2) for x, _ in d.ties[0].nuts] == [40.0, 45.5, 1540.0, 1545.5] and [w for _, w in d.ties[0].nuts] == [-1, 1, -1, 1]
    # holes of 18 for M16: one in the outer webs, two in those between
    assert sorted(h.member for h in d.holes) == [0, 1, 1, 2, 2, 3] and {h.width for h in d.holes} == {18.0}


def test_a_nut_is_drawn_on_its_washer(tmp_path: Path) -> None:
    d = made(rods(tmp_path, purlins("UPE 160", 4), "M1+M2+M3+M4@3000"))
    size = bolt_size("M16")
    for tie in d.ties:
        at = tie_frame(tie)
        for (x, way), nut in zip(tie.nuts, tie_bodies(tie)[1], strict=True):
            z = at.to_local(nut.points)[:, 2]
            # washer 3 and nut 14.8 from the face on, the washer's 30 across at the face, the nut's corners 24 x 2 / sqrt 3 = 27.7 beyond it
            assert sorted((z.min(), z.max())) == pytest.approx(sorted((x, x + way * 17.8)))
            assert np.hypot(*at.to_local(nut.points)[np.abs(z - x) < 0.1, :2].T).max() * 2 == pytest.approx(size.washer_d, rel=0.03)  # twelve sides of the same area
            assert np.hypot(*at.to_local(nut.points)[np.abs(z - x) > 3.1, :2].T).max() * 2 == pytest.approx(24 * 2 / math.sqrt(3))


def test_one_bar_and_welded_bars_by_hand(tmp_path: Path) -> None:
    d = made(rods(tmp_path / "a", purlins("UPE 160", 4), "M1+M2+M3+M4@3000", arrange="in line"))
    (bar,) = d.ties
    # 3 x 1500 + 5.5 + 80 = 4585.5, cut to 4590, threaded throughout, a nut on both faces of four webs
    assert bar.length == 4590.0 and bar.threads == (4590.0, 4590.0) and len(bar.nuts) == 8
    e = rods(tmp_path / "b", purlins("UPE 160", 3), "M1+M2+M3@3000", projection=0.0)
    d = made(e)
    # between the faces: 1500 - 5.5; no nuts, no holes, a fillet all round each end
    assert [t.length for t in d.ties] == [1494.5, 1494.5] and not d.holes and not any(t.nuts for t in d.ties)
    assert len({w.name for w in d.welds}) == 4 and not breaches(e)
    assert sum(math.dist(w.start, w.end) for w in d.welds) == pytest.approx(4 * math.pi * 16, rel=0.01)


def test_a_welded_bar_that_is_not_quite_square_ends_where_it_touches(tmp_path: Path) -> None:
    # 30 up in 1500: a web of 5.5 is 5.5 / cos long on its line, and a bar of 16 touches each web 8 tan before its middle would
    one, two = purlins("UPE 160", 2)
    higher = {**two, **{end: [*two[end][:2], two[end][2] + 30.0] for end in ("start", "end")}}
    (bar,) = made(rods(tmp_path, [one, higher], "M1+M2@3000", projection=0.0)).ties
    slant = math.atan(30 / 1500)
    assert bar.length == pytest.approx(math.hypot(1500, 30) - 5.5 / math.cos(slant) - 2 * 8 * math.tan(slant), abs=2e-3)


def test_rods_over_a_ridge_get_taper_washers(tmp_path: Path) -> None:
    e = rods(tmp_path, over_ridge("IPE 160", 6.0), "M2+M1+M3+M4@3000")
    d = made(e)
    level = [t for t in d.ties if t.seats]
    assert len(d.ties) == 3 and len(level) == 1
    (note,) = [f for f in of(e, "tie-slant") if f.level == "note"]
    # IPE 160 is symmetric: its webs lean by the roof's 6°, the rod over the ridge lies level
    assert note.actual == pytest.approx(6.0, abs=0.05) and "taper washers" in note.message
    # a washer of 30 over 6°: its middle is 15 x tan 6° = 1.58 thicker than its thin edge of 3
    bearing = level[0].bearing(0, 30.0, 3.0)
    assert abs(bearing - level[0].nuts[0][0]) == pytest.approx(3.0 + 15 * math.tan(math.radians(6.0)), abs=0.02)


@pytest.mark.parametrize(
    ("members", "at", "typed", "words"),
    [
        (purlins("SHS 100x100x5", 3), "M1+M2+M3@3000", {}, "without one web"),
        (purlins("UPE 160", 3, gap=4500.0), "M1+M2+M3@3000", {}, "lie 4500 mm apart"),
        (purlins("UPE 160", 2), "M1+M2@3000", {"drop": 60.0}, "leaves its straight web"),
        (over_ridge("UPE 160", 15.0), "M2+M1+M3+M4@3000", {"arrange": "in line"}, "off one line"),
        (over_ridge("IPE 160", 15.0), "M2+M1+M3+M4@3000", {"projection": 0.0}, "15.0° off square"),
        (purlins("IPE 160", 2, 25.0, roll_deg=0.0), "M1+M2@3000", {}, "25° off square"),
        (purlins("UPE 160", 2), "M1+M2@9000", {}, "there is no place"),
        ([*purlins("UPE 160", 1), {"section": "UPE 160", "role": "beam", "start": [1500, 0, 3000], "end": [2500, 6000, 3000]}], "M1+M2@3000", {}, "parallel members"),
        (purlins("UPE 160", 2), "M1+M1@3000", {}, "names a member twice"),
    ],
)  # fmt: skip
def test_rows_and_rods_refuse_in_figures(tmp_path: Path, members: list[dict[str, Any]], at: str, typed: dict[str, Any], words: str) -> None:
    with pytest.raises(TinCleatError, match=words):
        rods(tmp_path, members, at, **typed)


def test_the_proof_reads_the_bar(tmp_path: Path) -> None:
    """Each rule tells when only the shape it looks at is bad."""
    tight = rods(tmp_path / "a", purlins("UPE 160", 3), "M1+M2+M3@3000", stagger=30.0)
    # 30 between holes of 18: 2.2 x 18 = 39.6
    (f,) = of(tight, "tie-spacing")
    assert (f.level, round(f.actual, 2), round(f.required, 2)) == ("breach", 30.0, 39.6)
    short = rods(tmp_path / "b", purlins("UPE 160", 2), "M1+M2@3000", projection=18.0)
    # 18 - 3 - 14.8 = 0.2 of thread beyond the nut, a pitch of 2 is asked
    (f,) = of(short, "tie-projection")
    assert (f.level, round(f.actual, 1), f.required) == ("breach", 0.2, 2.0)
    bare = rods(tmp_path / "c", purlins("UPE 160", 2), "M1+M2@3000", thread=50.0)
    # the inner nut reaches to 40 + 5.5 + 17.8 = 63.3, the thread to 50
    (f,) = of(bare, "tie-thread")
    assert f.level == "breach" and f.actual == pytest.approx(50 - 63.3)
    # wide of the middle its nuts would lie in the flange's root: refused before that; a washer in the root is a clash
    low = rods(tmp_path / "d", purlins("UPE 160", 2), "M1+M2@3000")
    assert not breaches(low) and not [f for f in low.findings if f.rule == "clash" and f.level == "breach"]


def test_a_row_however_named_is_one_place(tmp_path: Path) -> None:
    """Order and direction in which its members were drawn or named change nothing."""
    outcomes = set()
    flipped = [{**m, "start": m["end"], "end": m["start"], "roll_deg": 180.0} if i % 2 else m for i, m in enumerate(purlins("IPE 160", 3))]
    for i, (members, at) in enumerate(((purlins("IPE 160", 3), "M1+M2+M3@2000"), (purlins("IPE 160", 3), "M3+M1+M2@2000"), (purlins("IPE 160", 3)[::-1], "M2+M3+M1@2000"), (flipped, "M1+M2+M3@2000"))):
        e = rods(tmp_path / str(i), members, at)
        ends = [np.round(e.joint.frame.to_world(t.frame.to_world(np.array([(0.0, 0.0, 0.0), (t.length, 0.0, 0.0)]))), 2) for t in made(e).ties]
        outcomes.add(str(sorted(tuple(sorted(map(tuple, p[:, [0, 2]].tolist()))) for p in ends)))
    assert len(outcomes) == 1


def test_a_member_less_makes_the_row_shorter(tmp_path: Path) -> None:
    desk, _ = joined(tmp_path, purlins("UPE 160", 4), "sag-rods", "M1+M2+M3+M4@2000")
    ids = list(desk.project.members)
    desk.run("delete-members", ids=[ids[0]])
    (c,) = desk.project.connections.values()
    assert c.members == tuple(ids[1:]) and c.at == 2000.0 and len(made(desk.ledger.entry_of(c.id)).ties) == 2
    desk.run("delete-members", ids=[ids[2]])
    # M2 and M4 are left, 3000 apart: one rod bridges them
    assert [t.length for t in made(desk.ledger.entry_of(c.id)).ties] == [3090.0]
    desk.run("delete-members", ids=[ids[1]])
    assert not desk.project.connections
    for _ in range(3):
        desk.undo()
    assert len(made(desk.ledger.entry_of(c.id)).ties) == 3
    # moved aside so that it does not pass the place any more, a member takes the connection with it into the list of what is lost
    desk.run("move-members", ids=[ids[1]], by=[0, 9000, 0])
    assert desk.ledger.lost == {c.id: "its members do not lie beside each other there"}
    desk.undo()
    assert not desk.ledger.lost


def test_rows_come_along_and_split_and_join(tmp_path: Path) -> None:
    desk, _ = joined(tmp_path, purlins("UPE 160", 3), "sag-rods", "M1+M2+M3@2000")
    ids = list(desk.project.members)
    desk.run("copy-members", ids=ids, by=[0, 0, 5000])
    assert [len(c.row) for c in desk.project.connections.values()] == [2, 2]
    desk.undo()
    desk.run("copy-members", ids=ids[:2], by=[0, 0, 5000])
    assert len(desk.project.connections) == 1  # not without its third member
    desk.undo()
    (c,) = desk.project.connections
    for first in (0, 1):
        desk.run("split-members", ids=[ids[first]], at=[1500])
        e = desk.ledger.entry_of(c)
        assert len(made(e).ties) == 2 and not e.problem and ids[first] not in e.joint.members
        assert round(abs(e.joint.frame.origin[1]), 1) == 2000.0
        desk.undo()
    desk.run("split-members", ids=[ids[1]], at=[1500])
    pieces = [k for k in desk.project.members if k not in ids] + [ids[1]]
    both = [k for k in dict.fromkeys(pieces) if k in desk.project.members][:2]
    desk.run("join-members", ids=both)
    e = desk.ledger.entry_of(c)
    assert len(made(e).ties) == 2 and round(abs(e.joint.frame.origin[1]), 1) == 2000.0


def test_rods_along_every_row_of_a_roof(tmp_path: Path) -> None:
    desk = make_demo("boathouse-joined", tmp_path / "b.tincleat")
    before = set(desk.project.connections)
    assert desk.run("place-rows", family="sag-rods", members=["?role:purlin"]) == "Place sag rods along 6 rows"
    new = [desk.ledger.entry_of(c) for c in desk.project.connections if c not in before]
    # six bays of 5500: in the middle of each, from eaves over the ridge to eaves
    assert [e.connection.at for e in new if e.connection] == [2750.0] * 6 and {len(e.joint.members) for e in new} == {10}
    assert len({id(e.made) for e in new}) == 1 and not any(f.level == "breach" for e in new for f in e.findings)
    with pytest.raises(TinCleatError, match="6 are there already"):
        desk.run("place-rows", family="sag-rods", members=["?role:purlin"])
    desk.undo()
    assert desk.run("place-rows", family="sag-rods", members=["?role:purlin"], lines=2, bays_left_out=[1, 6]) == "Place sag rods along 8 rows"
    desk.undo()
    with pytest.raises(TinCleatError, match="there is no bay 7"):
        desk.run("place-rows", family="sag-rods", members=["?role:purlin"], bays_left_out=[7])
    # no gap as wide as any: every purlin stands alone
    with pytest.raises(TinCleatError, match="60 places with one member alone"):
        desk.run("place-rows", family="sag-rods", members=["?role:purlin"], widest=100)


def test_short_tails_get_no_rods_and_it_is_said(tmp_path: Path) -> None:
    desk = Desk.create(tmp_path / "t.tincleat", HouseRules())
    # girders under purlins of 7000, 6000 apart: tails of 500 beyond each
    half = 80.0 + 150.0
    desk.run("add-members", members=[{"section": "IPE 300", "role": "beam", "start": [-500, y, 3000 - half], "end": [3500, y, 3000 - half]} for y in (500, 6500)])
    desk.run("add-members", members=purlins("UPE 160", 3, long=7000.0))
    said = desk.run("place-rows", family="sag-rods", members=["?role:purlin"])
    assert said == "Place sag rods along 1 row (6 spans under 1200 mm left out, from 500 mm)"
    assert [c.at for c in desk.project.connections.values()] == [3500.0]


def test_walls_have_rods_too_and_the_lists_count_them(tmp_path: Path) -> None:
    desk = Desk.create(tmp_path / "w.tincleat", HouseRules())
    desk.run("add-members", members=girts("UPE 160", 4))
    assert desk.run("place-rows", family="sag-rods", members=["?role:girt"], at=[2000, 4000]) == "Place sag rods along 2 rows"
    lines = [line for line in bill(desk.ledger) if line.kind == "rod"]
    # three gaps of 1400 on two lines, all alike: 1400 + 5.5 + 80, cut to 1490; 16 mm round is 1.578 kg/m
    assert [(line.size, line.length, line.count) for line in lines] == [("M16", 1490.0, 6)] and lines[0].mass_each == pytest.approx(1.49 * math.pi * 0.008**2 * 7850, rel=1e-6)
    (row,) = [line for line in bolt_list(desk.ledger) if line.kind == "rod"]
    assert (row.count, row.nuts, row.washers) == (6, 24, 24)


def test_the_views_of_a_row_hold_its_first_rods(tmp_path: Path) -> None:
    d = made(rods(tmp_path, over_ridge("IPE 160", 6.0), "M2+M1+M3+M4@3000"))
    assert [v.name for v in d.views] == ["front", "plan", "slanting"]
    for view, tie in zip(d.views, (d.ties[0], d.ties[0], next(t for t in d.ties if t.seats)), strict=True):
        assert view.clip is not None
        x0, y0, x1, y1 = view.clip
        ends = view.frame.to_local(tie.frame.to_world(np.array([(0.0, 0.0, 0.0), (tie.length, 0.0, 0.0)])))
        assert x0 < ends[0, 0] and ends[1, 0] < x1 and y0 < ends[:, 1].min() - 50 and ends[:, 1].max() + 50 < y1
        assert ends[:, 1] == pytest.approx(ends[0, 1])  # it lies level on the paper
