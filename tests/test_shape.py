"""Members copied, mirrored, turned, stretched, split, joined, trimmed and mitred, with what is joined to them."""

import math
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from conftest import beam
from hypothesis import given, settings
from hypothesis import strategies as st

from tincleat.catalogue.sections import section as section_of
from tincleat.commands.desk import Desk
from tincleat.errors import BadValue, NoFit, NotFound, Refused, TinCleatError
from tincleat.ledger.steel import cuts_of
from tincleat.project.entities import Member
from tincleat.project.members import axis_frame, length
from tincleat.project.motion import Motion, moved
from tincleat.steel.members import cut_length, net_mass


@pytest.fixture
def desk(tmp_path: Path) -> Iterator[Desk]:
    """A grid of 3 x 6 m by 2 x 5 m with a level, and one joined bay: two columns and a beam with fin plates and base plates."""
    desk = Desk.create(tmp_path / "s.tincleat")
    desk.run("add-grid", name="main", x="3@6000", y="2@5000")
    desk.run("add-level", name="floor", elevation=4000)
    desk.run("add-columns", section="HEB 240", at=["A1", "A2"], base=0, top="floor+200")
    desk.run("add-beams", section="IPE 300", through=["A1 A2"], level="floor")
    desk.run("place-all", family="base-plate")
    desk.run("place-all", family="fin-plate")
    yield desk
    desk.close()


def the(desk: Desk, role: str) -> list[Member]:
    return [m for m in desk.project.members.values() if m.role == role]


def test_columns_and_beams_by_grid(desk: Desk) -> None:
    columns, (beam,) = the(desk, "column"), the(desk, "beam")
    assert [(m.start, m.end) for m in columns] == [((0, 0, 0), (0, 0, 4200)), ((6000, 0, 0), (6000, 0, 4200))]
    assert (beam.start, beam.end, beam.cardinal) == ((0, 0, 4000), (6000, 0, 4000), "top")
    assert desk.ledger.counts()["joined"] == 4
    # every crossing in a box: 4 x 3 crossings, of which two are taken
    assert desk.run("add-columns", section="HEB 240", at=["A1:C4"], base=0, top=4200) == "Add 10 columns, 2 stood there already"
    with pytest.raises(Refused, match="has a column"):
        desk.run("add-columns", section="HEB 240", at=["A1"], base=0, top=4200)
    desk.run("add-members", members=[{"section": "L 60x60x6", "role": "brace", "start": "A1", "end": "A2 floor-150"}])
    assert the(desk, "brace")[0].end == (6000, 0, 3850)


@pytest.mark.parametrize(
    ("name", "args", "words"),
    [
        ("add-columns", {"section": "HEB 240", "at": ["Z9"], "base": 0, "top": 4000}, "no grid crossing 'Z9'"),
        ("add-columns", {"section": "HEB 240", "at": ["A3"], "base": 0, "top": "roof"}, "no level 'roof'"),
        ("add-columns", {"section": "HEB 240", "at": ["A3"], "base": 4000, "top": 0}, "does not lie over"),
        ("add-beams", {"section": "IPE 300", "through": ["A1"], "level": 0}, "fewer than two"),
        ("copy-members", {"ids": ["M5"], "by": [0, 0, 0]}, "on the originals"),
        ("copy-members", {"ids": ["M5"], "by": [0, 1, 0], "count": 3, "skip": [4]}, "no copy number 4"),
        ("mirror-members", {"ids": ["M5"]}, "not given once"),
        ("mirror-members", {"ids": ["M5"], "grid_line": "Q"}, "no grid line 'Q'"),
        ("stretch-members", {"ids": ["M5"], "end": "end", "by": -7000}, "cannot be taken off"),
        ("split-members", {"ids": ["M5"], "at": [6000]}, "leaves no piece"),
        ("mitre-members", {"ids": ["M5", "M5"]}, "two members"),
        ("join-members", {"ids": ["M3", "M4"]}, "do not follow"),
    ],
)
def test_what_cannot_be_done_says_why(desk: Desk, name: str, args: dict[str, Any], words: str) -> None:
    before = dict(desk.project.members)
    with pytest.raises(TinCleatError, match=words):
        desk.run(name, **args)
    assert desk.project.members == before


def test_copied_bays_bring_their_connections(desk: Desk) -> None:
    ids = list(desk.project.members)
    title = desk.run("copy-members", ids=ids, by=[0, 5000, 0], count=3, skip=[2])
    # 4 connections a copy, copies 1 and 3
    assert title == "Copy 3 members 2 times, 8 connections along"
    assert sorted({m.start[1] for m in desk.project.members.values()}) == [0, 5000, 15000]
    assert desk.ledger.counts()["joined"] == 12 and not desk.ledger.lost
    assert len({id(e.made) for e in desk.ledger.entries.values() if e.connection and e.connection.family == "base-plate"}) == 1
    desk.undo()
    assert list(desk.project.members) == ids
    # the other way, and a beam alone: nothing carries it there, so its fin plates stay behind
    title = desk.run("copy-members", ids=[the(desk, "beam")[0].id], by=[0, -5000, 0])
    assert "2 connections left behind" in title


def test_mirrored_bay_is_right_handed(desk: Desk) -> None:
    (beam,) = the(desk, "beam")
    fin = next(c for c in desk.project.connections.values() if c.family == "fin-plate" and c.end == "start")
    base = next(c for c in desk.project.connections.values() if c.family == "base-plate")
    desk.run("change-connections", ids=[fin.id], settings={"sides": "far side"})
    desk.run("change-connections", ids=[base.id], settings={"offset_y": 30})
    desk.run("mirror-members", ids=list(desk.project.members), line=[[0, 8000, 0], [1, 8000, 0]])
    assert desk.ledger.counts()["joined"] == 8
    image = next(m for m in the(desk, "beam") if m.id != beam.id)
    assert image.start == (0, 16000, 4000) and image.end == (6000, 16000, 4000)

    def plates(member: str) -> list[np.ndarray]:
        entry = desk.ledger.entries[desk.ledger.by_end[(member, "start")]]
        assert entry.made is not None
        out = []
        for p in entry.made.detail.plates:
            flat = p.outline.points(1.0)
            out += [entry.joint.frame.to_world(p.frame.to_world(np.column_stack([flat, np.full(len(flat), z)]))) for z in (0.0, p.thickness)]
        return out

    def box(points: list[np.ndarray]) -> np.ndarray:
        all_ = np.concatenate(points)
        return np.array([all_.min(axis=0), all_.max(axis=0)])

    columns = {(m.start[0], m.start[1]): m.id for m in the(desk, "column")}
    for one, two in ((beam.id, image.id), (columns[(0, 0)], columns[(0, 16000)])):
        a, b = box(plates(one)), box(plates(two))
        # y of the image is 16000 - y: the far side stays on the side away from the mirror, the offset turns
        assert a[:, [0, 2]] == pytest.approx(b[:, [0, 2]], abs=0.11) and 16000 - a[:, 1] == pytest.approx(b[::-1, 1], abs=0.2)
    sides = {c.settings.get("sides") for c in desk.project.connections.values() if c.family == "fin-plate" and c.end == "start"}
    assert sides == {"far side", None} and {c.settings.get("offset_y") for c in desk.project.connections.values() if c.family == "base-plate"} == {
        30,
        -30,
        None,
    }


def test_mirrored_twice_is_the_original(desk: Desk) -> None:
    (beam,) = the(desk, "beam")
    desk.run("change-connections", ids=[next(c.id for c in desk.project.connections.values() if c.family == "fin-plate")], settings={"sides": "far side"})
    members, connections = dict(desk.project.members), dict(desk.project.connections)
    for _ in range(2):
        desk.run("mirror-members", ids=list(members), grid_line="B", copy=False)
    assert desk.project.members == members and desk.project.connections == connections
    desk.run("mirror-members", ids=[beam.id], middle="x", copy=False)
    assert desk.project.members[beam.id].start == (6000, 0, 4000)


sections = st.sampled_from(["IPE 300", "UPN 200", "L 150x75x9", "SHS 100x100x5", "L 80x80x8", "CHS 114.3x5"])
numbers = st.floats(-9000, 9000, allow_nan=False).map(lambda v: round(v, 1))
points = st.tuples(numbers, numbers, numbers)
cardinals = st.sampled_from(["centre", "top", "left", "bottom right"])


@given(sections, points, points, st.floats(-3, 3), cardinals, points, points.filter(lambda p: math.hypot(*p) > 100), st.booleans())
@settings(max_examples=80, deadline=None)
def test_a_moved_body_is_the_moved_steel(name: str, a: tuple, b: tuple, roll: float, cardinal: str, at: tuple, way: tuple, mirror: bool) -> None:
    """Every corner of the profile at both ends goes where the motion takes it; twice a mirror image is the original."""
    if math.dist(a, b) < 10:
        return
    m = Member("m1", "M1", "beam", name, "S355", a, b, roll, cardinal, (7.0, -3.0))  # type: ignore[arg-type]
    motion = Motion.mirror(at, way) if mirror else Motion.rotate(at, way, 0.7)
    new, flipped = moved(m, motion)
    from tincleat.catalogue.sections import section

    profile = section(name).outer.points(2.0)

    def corners(member: Member) -> np.ndarray:
        return axis_frame(member).to_world(np.concatenate([np.column_stack([np.full(len(profile), x), profile]) for x in (0.0, length(member))]))

    want = corners(m) @ motion.turn.T + motion.shift
    got = corners(new)
    gaps = np.linalg.norm(want[:, None] - got[None], axis=2).min(axis=1)
    assert gaps.max() < 0.05 and (not flipped or mirror)
    if mirror:
        back, again = moved(new, motion)
        assert np.allclose(back.start, m.start, atol=1e-4) and again == flipped and back.cardinal == m.cardinal
        assert np.allclose(corners(back), corners(m), atol=1e-2)


def test_rotate_about_a_point(desk: Desk) -> None:
    (beam,) = the(desk, "beam")
    desk.run("rotate-members", ids=list(desk.project.members), about=[0, 0, 0], angle_deg=90)
    assert desk.project.members[beam.id].end == (0, 6000, 4000)
    assert desk.ledger.counts()["joined"] == 4 and not any(e.problem for e in desk.ledger.entries.values())


def test_split_keeps_connections_and_join_takes_it_back(desk: Desk) -> None:
    (beam,) = the(desk, "beam")
    desk.run("split-members", ids=[beam.id], at=["2500"])
    first, second = the(desk, "beam")
    assert (length(first), length(second)) == (2500, 3500) and second.name == f"{beam.name}/2"
    ends = {(c.member, c.end) for c in desk.project.connections.values() if c.family == "fin-plate"}
    assert ends == {(first.id, "start"), (second.id, "end")} and desk.ledger.counts()["joined"] == 4
    assert desk.ledger.entries[desk.ledger.by_end[(second.id, "start")]].joint.kind == "splice"
    desk.run("join-members", ids=[first.id, second.id])
    assert [(m.start, m.end) for m in the(desk, "beam")] == [(beam.start, beam.end)]
    assert {(c.member, c.end) for c in desk.project.connections.values() if c.family == "fin-plate"} == {(beam.id, "start"), (beam.id, "end")}


def test_stretch_and_trim(desk: Desk) -> None:
    desk.run("add-members", members=[{"name": "T", "section": "IPE 200", "start": [1000, 1000, 0], "end": [1000, 4000, 0]}])
    desk.run("stretch-members", ids=["T"], end="start", by=250)
    assert desk.project.find("member", "T").start == (1000, 750, 0)  # type: ignore[union-attr]
    desk.run("add-members", members=[{"name": "X", "section": "IPE 200", "start": [-500, 5000, 0], "end": [2500, 6500, 0]}])
    # the plane along X (upright) crosses x = 1000 at y = 5000 + 1500 / 3000 * 1500 = 5750; squarest to T it stands across X
    desk.run("trim-members", ids=["T"], to="X")
    end = desk.project.find("member", "T").end  # type: ignore[union-attr]
    assert end == pytest.approx((1000, 5750, 0))
    desk.run("trim-members", ids=["T"], point=[0, 4000, 0], normal=[0, 1, 1], cut=True)
    m = desk.project.find("member", "T")
    assert isinstance(m, Member) and m.end == pytest.approx((1000, 4000, 0)) and len(m.cuts) == 1
    # a cut at 45 degrees through the middle of a 200 deep beam: 100 mm longer at one edge, volume as before
    assert cut_length(m, cuts_of(desk.ledger, m.id)) == pytest.approx(3250 + 100, abs=0.1)
    assert net_mass(m, cuts_of(desk.ledger, m.id)) == pytest.approx(22.36 * 3.25, rel=0.005)


def test_mitre_halves_the_corner(desk: Desk) -> None:
    desk.run("add-members", members=[{"name": "U", "section": "SHS 100x100x5", "start": [0, 20000, 0], "end": [2900, 20000, 0]},
                                     {"name": "V", "section": "SHS 100x100x5", "start": [3000, 20200, 0], "end": [3000, 23000, 0]}])  # fmt: skip
    desk.run("mitre-members", ids=["U", "V"])
    u, v = desk.project.find("member", "U"), desk.project.find("member", "V")
    assert isinstance(u, Member) and isinstance(v, Member) and u.end == v.start == pytest.approx((3000, 20000, 0))
    for m, long in ((u, 3000), (v, 3000)):
        cuts = cuts_of(desk.ledger, m.id)
        # the outer edge is half the width longer than the line, the inner half the width shorter
        assert cut_length(m, cuts) == pytest.approx(long + 50, abs=0.1)
        assert net_mass(m, cuts) == pytest.approx(14.7 * long / 1000, rel=0.01)
    desk.run("copy-members", ids=[u.id], by=[0, 0, 3000])
    assert list(desk.project.members.values())[-1].cuts[0].point == pytest.approx((3000, 20000, 3000))


def test_grid_and_levels_change(desk: Desk) -> None:
    desk.run("change-grid", id="main", x="2@4000 3000", angle_deg=30, x_labels=["a", "b", "c", "d"])
    grid = desk.project.find("grid", "main")
    assert [at for _, at in grid.x] == [0, 4000, 8000, 11000] and grid.angle == pytest.approx(math.radians(30))  # type: ignore[union-attr]
    desk.run("add-columns", section="HEB 240", at=["Cd"], base=0, top=3000)
    # 11 m along and 10 m across a grid at 30 degrees: x = 11 cos 30 - 10 sin 30, y = 11 sin 30 + 10 cos 30
    assert list(desk.project.members.values())[-1].start == pytest.approx((4526.279, 14160.254, 0), abs=0.01)
    desk.run("change-level", id="floor", elevation="4.5 m", name="deck")
    assert desk.project.find("level", "deck").elevation == 4500  # type: ignore[union-attr]
    desk.run("delete-levels", ids=["deck"])
    desk.run("delete-grids", ids=["main"])
    assert not desk.project.grids and not desk.project.levels
    with pytest.raises(NotFound):
        desk.run("add-columns", section="HEB 240", at=["A1"], base=0, top=3000)
    with pytest.raises(BadValue, match="one label"):
        desk.run("add-grid", name="g", x="2@1000", y="1000", x_labels=["1", "1", "2"])


def test_members_along_points_and_along_an_arc(desk: Desk) -> None:
    before = len(desk.project.members)
    desk.run("add-polyline", section="SHS 100x100x5", points=[[0, 0, 9000], [3000, 0, 9000], [3000, 4000, 9000]], role="other")
    a, b = list(desk.project.members.values())[before:]
    assert (a.end, b.start) == ((3000, 0, 9000), (3000, 0, 9000))
    # mitred at the square corner: half the width longer at the outer edge, the volume as before
    assert cut_length(a, cuts_of(desk.ledger, a.id)) == pytest.approx(3050, abs=0.1)
    # a half circle of radius 5000 in ten chords: each 2 * 5000 * sin(9 degrees)
    desk.run("add-polyline", section="CHS 114.3x5", points=[[0, 0, 0], [5000, 5000, 0], [10000, 0, 0]], arc=True, chords=10)
    chords = list(desk.project.members.values())[before + 2 :]
    assert len(chords) == 10 and all(length(m) == pytest.approx(10000 * math.sin(math.radians(9)), abs=1e-6) for m in chords)
    assert all(math.hypot(m.start[0] - 5000, m.start[1]) == pytest.approx(5000) for m in chords) and all(m.start[1] >= -1e-6 for m in chords)
    with pytest.raises(BadValue, match="one line"):
        desk.run("add-polyline", section="CHS 114.3x5", points=[[0, 0, 0], [1, 0, 0], [2, 0, 0]], arc=True)


def test_a_trial_leaves_no_trace(desk: Desk) -> None:
    state = (
        dict(desk.project.members),
        dict(desk.project.connections),
        dict(desk.ledger.entries),
        desk.ledger.counts(),
        desk.project.last_number,
        desk.store.next_undo(),
    )
    trial = desk.trial("change-members", ids=["?role:beam"], section="IPE 160")
    assert len(trial.changes) == 1 and {(old.connection.family if old and old.connection else "") for old, _ in trial.entries} == {"fin-plate"}
    desk.trial("copy-members", ids=list(desk.project.members), by=[0, 5000, 0])
    desk.trial("delete-members", ids=list(desk.project.members))
    with pytest.raises(NotFound):
        desk.trial("change-members", ids=["?role:beam"], section="IPE 9999")
    assert state[:2] == (desk.project.members, desk.project.connections) and state[3:] == (
        desk.ledger.counts(),
        desk.project.last_number,
        desk.store.next_undo(),
    )
    assert {k: (e.joint, e.connection, e.made) for k, e in state[2].items()} == {k: (e.joint, e.connection, e.made) for k, e in desk.ledger.entries.items()}


def test_plate_girders_by_size(desk: Desk) -> None:
    from tincleat.catalogue.sections import section

    g = section("PG1200x400x12x25")
    # two flanges 400 x 25, a web (1200 - 50) x 12
    assert g.name == "PG 1200x400x12x25" and g.area == pytest.approx(2 * 400 * 25 + 1150 * 12) and g.shape == "I"
    desk.run("add-beams", section="PG 800x300x10x20", through=["B1 B2"], level="floor")
    assert net_mass(the(desk, "beam")[-1], cuts_of(desk.ledger, the(desk, "beam")[-1].id)) == pytest.approx((2 * 300 * 20 + 760 * 10) * 7850e-9 * 6000)
    with pytest.raises(NotFound):
        section("PG 50x400x12x25")


def test_own_sections_from_csv(desk: Desk, tmp_path: Path) -> None:
    path = tmp_path / "own.csv"
    path.write_text("designation,shape,h,b,tw,tf,r1,mass\nYARD 210,I,210,110,6,9,10,\nYARD TUBE,RHS,90,90,4,4,8,10.55\n")
    assert desk.run("import-sections", path=str(path)) == "Import 2 sections from own.csv"
    desk.run("add-beams", section="yard210", through=["B1 B2"], level="floor")
    made = the(desk, "beam")[-1]
    # 2 * 110 * 9 + 192 * 6 + (4 - pi) * 100
    assert made.section == "YARD 210" and net_mass(made, cuts_of(desk.ledger, made.id)) == pytest.approx((1980 + 1152 + (4 - math.pi) * 100) * 7850e-9 * 6000)
    again = Desk.open(desk.store.path)
    assert len(again.project.tables["section"]) == 2 and again.project.members[made.id].section == "YARD 210"
    again.close()
    for text, words in (("name\nx\n", "no sections"), ("designation,shape,h,b,tw,tf\nA,Q,1,1,1,1\n", "not known"), ("designation,shape,h,b,tw,tf\nA,I,x,1,1,1\n", "not a number"),
                        ("designation,shape,h,b,tw,tf,mass\nA,I,200,100,6,9,99\n", "does not go with"), ("designation,shape,h,b,tw,tf\nIPE 300,I,300,150,7,10\n", "already"), ("designation,shape,h,b,tw,tf\nA,I,10,100,6,9\n", "make no shape")):  # fmt: skip
        path.write_text(text)
        with pytest.raises(TinCleatError, match=words):
            desk.run("import-sections", path=str(path))
    with pytest.raises(TinCleatError, match="no such file"):
        desk.run("import-sections", path=str(tmp_path / "none.csv"))


def plies(entry: Any, mirrored: bool) -> list[tuple[str, int, list[tuple[float, ...]]]]:
    """Corners of every ply and its holes in the world, mirrored in y = 9000 if asked."""
    out = []
    for ply in entry.made.assembled.plies:
        flat = np.asarray(ply.polygon.exterior.coords)[:-1, :2]
        body = np.concatenate([np.column_stack([flat, np.full(len(flat), z)]) for z in (0.0, ply.thickness)])
        holes = np.array([(h.x, h.y, ply.thickness / 2) for h in ply.holes]).reshape(-1, 3)
        points = entry.joint.frame.to_world(ply.frame.to_world(np.concatenate([body, holes])))
        if mirrored:
            points = points * (1, -1, 1) + (0, 18000, 0)
        # to a millimetre, from an origin that no true dimension is half a millimetre off
        out.append((ply.owner, len(holes), sorted(tuple((np.round(p + 0.23, 0) + 0.0).tolist()) for p in points)))
    return sorted(out)


@pytest.mark.parametrize("end", ["start", "end"])
@pytest.mark.parametrize("section", ["PFC 200x75x23", "UPN 200", "RHS 200x100x8", "L 250x250x28", "IPE 300"])
def test_mirrored_joints_of_lopsided_sections_come_along(tmp_path: Path, section: str, end: str) -> None:
    """A channel beam on a support of any section: bolts pass its web, and the mirror image is the mirrored steel, holes included."""
    desk = Desk.create(tmp_path / "m.tincleat")
    desk.run("add-level", name="floor", elevation=4000)
    points = {"start": [0, 700, 4000], "end": [5000, 700, 4000]} if end == "start" else {"start": [-5000, 700, 4000], "end": [0, 700, 4000]}
    desk.run("add-members", members=[
        {"section": section, "role": "beam", "start": [0, -2000, 4000], "end": [0, 4000, 4000], "cardinal": "top"},
        {"section": "PFC 200x75x23", "role": "beam", **points, "cardinal": "top"},
    ])  # fmt: skip
    support, beam = list(desk.project.members)
    if section.startswith("L ") and end == "end":  # there its other leg is in the way
        with pytest.raises(NoFit, match="inside of the angle"):
            desk.run("place-connection", family="fin-plate", at=[f"{beam}.{end}"])
        return
    desk.run("place-connection", family="fin-plate", at=[f"{beam}.{end}"])
    title = desk.run("mirror-members", ids=[support, beam], line=[[0, 9000, 0], [1, 9000, 0]])
    assert "1 connection along" in title, title
    a, b = (desk.ledger.entry_of(c) for c in desk.project.connections)
    assert a.made is not None and b.made is not None
    for entry in (a, b):
        state = {f.rule: f.level for f in entry.findings}
        assert state["bolt-plies"] == state["bolt-hole"] == state["weld-gap"] == state["ply-gap"] == "clear"
    assert plies(b, False) == plies(a, True)
    assert sum(n for _, n, _ in plies(b, False)) > 0


@pytest.mark.parametrize("upside_down", [False, True])
def test_a_channel_column_is_welded_where_its_web_is(tmp_path: Path, upside_down: bool) -> None:
    desk = Desk.create(tmp_path / "c.tincleat")
    ends = ([0, 0, 4000], [0, 0, 0]) if upside_down else ([0, 0, 0], [0, 0, 4000])
    desk.run("add-members", members=[{"section": "UPN 200", "role": "column", "start": ends[0], "end": ends[1]}])
    desk.run("place-all", family="base-plate")
    (entry,) = (e for e in desk.ledger.entries.values() if e.connection)
    assert {f.level for f in entry.findings if f.rule == "weld-gap"} == {"clear"}
    web = next(w for w in entry.made.detail.welds if w.name.startswith("web"))
    shape = section_of("UPN 200")
    member = next(iter(desk.project.members.values()))
    middle = entry.joint.frame.to_world([[(a + b) / 2 for a, b in zip(web.start, web.end, strict=True)]])
    # 75 mm wide: the web's outer face is 37.5 mm from the middle, on the side away from the toes
    assert axis_frame(member).to_local(middle)[0, 1] == pytest.approx(-shape.b / 2)


def test_an_end_that_stops_short_is_made_to_meet(tmp_path: Path) -> None:
    """By itself where its line reaches the other, by the other where that one is short, by both where each is; nothing where neither helps."""
    desk = Desk.create(tmp_path / "m.tincleat")
    desk.run(
        "add-members",
        members=[
            beam("HEB 200", (0, 0, 0), (0, 0, 4000), "column", name="C"), beam("IPE 200", (150, 0, 3000), (3000, 0, 3000), name="short"),
            beam("HEB 200", (0, 9000, 0), (0, 9000, 2850), "column", name="D"), beam("IPE 200", (0, 9000, 3000), (3000, 9000, 3000), name="over"),
            beam("HEB 200", (0, 18000, 0), (0, 18000, 2850), "column", name="E"), beam("IPE 200", (150, 18000, 3000), (3000, 18000, 3000), name="both"),
        ],
    )  # fmt: skip
    ids = {m.name: m.id for m in desk.project.members.values()}
    assert all(desk.ledger.joint_of(ids[name], "start").kind == "near miss" for name in ("short", "over", "both"))
    for name, words in (("short", "Lengthen short to the line of C"), ("over", "Lengthen D to the line of over"), ("both", "Trim E and both to each other")):
        assert desk.run("meet-member", at=f"{name}.start") == words
        there = desk.ledger.joint_of(ids[name], "start")
        assert there.kind not in ("near miss", "free end") and there.support in (ids["C"], ids["D"], ids["E"]), there.kind
    assert desk.project.members[ids["short"]].start == (0.0, 0.0, 3000.0) and desk.project.members[ids["D"]].end == (0.0, 9000.0, 3000.0)
    with pytest.raises(Refused, match="stops short of nothing"):
        desk.run("meet-member", at="short.start")
    with pytest.raises(BadValue, match="no end of a member"):
        desk.run("meet-member", at="short.middle")
    desk.close()
