"""Runs by value, and as they follow what they lie on; queries; the scripted shed; cold-formed sections."""

import math
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

import pytest

from tincleat.catalogue.sections import section
from tincleat.commands.desk import Desk
from tincleat.errors import NoFit, NotFound, TinCleatError
from tincleat.ledger.query import members_like
from tincleat.ledger.through import told
from tincleat.project.entities import Member
from tincleat.project.members import axis_frame
from tincleat.ready.true_up import plan

SHED = Path(__file__).parent.parent / "examples" / "shed.jsonl"


@pytest.fixture
def desk(tmp_path: Path) -> Iterator[Desk]:
    """Three portal frames of 20 m, 6 m apart, eaves 5 m, ridge 6 m."""
    desk = Desk.create(tmp_path / "r.tincleat")
    desk.run(
        "add-run",
        kind="portals",
        settings={"origin": [0, 0, 0], "span": "20 m", "eaves": 5000, "ridge": 6000, "bays": "2@6000", "column": "HEA 300", "rafter": "IPE 400"},
    )
    yield desk
    desk.close()


def of(desk: Desk, query: str) -> list[Member]:
    return [desk.project.members[k] for k in members_like(desk.ledger, query)]


def lay_purlins(desk: Desk) -> str:
    return desk.run(
        "add-run",
        kind="purlins",
        settings={"rafters": ["?role:rafter y:<10000"], "section": "Z 200x65x20x2", "spacing": 2500, "eaves": 250, "ridge": 250, "lap": 600},
    )


def test_portals(desk: Desk) -> None:
    columns, rafters = of(desk, "role:column"), of(desk, "role:rafter")
    assert len(columns) == 6 and len(rafters) == 6
    assert {m.start for m in columns} == {(x, y, 0) for x in (0, 6000, 12000) for y in (0, 20000)}
    assert all(m.end == (m.start[0], 10000, 6000) for m in rafters)
    # the column's depth lies in the plane of the frame
    assert all(abs(axis_frame(m).z[1]) == pytest.approx(1) for m in columns)
    kinds = Counter(e.joint.kind for e in desk.ledger.entries.values())
    assert kinds == {"column foot": 6, "knee": 6, "apex": 3}


def test_purlins_lie_on_the_rafters(desk: Desk) -> None:
    lay_purlins(desk)
    rows = of(desk, "role:purlin")
    # the slope is sqrt(10000² + 1000²) = 10049.88 mm; between 250 and 9799.88 there is room for ceil(9549.88 / 2500) = 4 gaps, 5 rows of 2 bays
    assert len(rows) == 10
    slope = math.hypot(10000, 1000)
    cos, sin = 10000 / slope, 1000 / slope
    first = min(rows, key=lambda m: (round(m.start[1], 1), m.start[0]))
    # 250 up the slope, then half the rafter's depth square to it
    assert first.start == pytest.approx((0, 250 * cos - 200 * sin, 5000 + 250 * sin + 200 * cos), abs=1e-6)
    assert first.end == pytest.approx((6300, first.start[1], first.start[2]), abs=1e-6) and first.cardinal == "bottom"
    assert axis_frame(first).z == pytest.approx((0, -sin, cos), abs=1e-9)
    # lapped ends meet the next purlin, outer ends the rafter: none hangs in the air
    assert not [e for e in desk.ledger.entries.values() if e.joint.kind in ("near miss", "free end")]


def test_a_run_follows_its_rafters_and_keeps_its_members(desk: Desk) -> None:
    lay_purlins(desk)
    run = list(desk.project.runs)[-1]
    before = {m.run: m for m in of(desk, "role:purlin")}
    desk.run("move-members", ids=["?role:rafter"], by=[0, 0, 300])
    after = {m.run: m for m in of(desk, "role:purlin")}
    assert all(after[k].id == m.id and after[k].start[2] == pytest.approx(m.start[2] + 300) for k, m in before.items())
    desk.undo()
    assert {m.run: m for m in of(desk, "role:purlin")} == before
    assert desk.run("change-run", id=run, settings={"spacing": "1.6 m"}).startswith("Change purlins")
    # ceil(9549.88 / 1600) = 6 gaps, 7 rows
    assert len(of(desk, "role:purlin")) == 14
    # taken out by hand: one moved becomes plain, one deleted stays away
    first, second = [m for m in of(desk, "role:purlin") if m.run.endswith((":2.0", ":3.1"))]
    desk.run("move-members", ids=[first.id], by=[0, 0, 100])
    desk.run("delete-members", ids=[second.id])
    assert desk.project.members[first.id].run == "" and desk.project.runs[run].loose == ("2.0", "3.1")
    desk.run("change-run", id=run, settings={"lap": 400})
    assert len([m for m in of(desk, "role:purlin") if m.run]) == 12 and second.id not in desk.project.members
    desk.run("loosen-run", id=run)
    assert run not in desk.project.runs and not [m for m in of(desk, "role:purlin") if m.run]


def test_a_run_without_its_members_is_loosened(desk: Desk) -> None:
    lay_purlins(desk)
    count = len(of(desk, "role:purlin"))
    desk.run("delete-members", ids=["?role:rafter y:<10000"])
    assert len(of(desk, "role:purlin")) == count and len(desk.project.runs) == 1
    assert not [m for m in of(desk, "role:purlin") if m.run]


def test_girts_stand_on_the_outer_face(desk: Desk) -> None:
    desk.run("add-run", kind="girts", settings={"columns": ["?role:column y:0"], "section": "CF 200x65x20x2", "spacing": 1800, "first": 1000, "last": 400})
    rows = of(desk, "role:girt")
    # 1000 to 4600 is 3600: two gaps of 1800, three rows of two bays; HEA 300 is 290 deep
    assert len(rows) == 6 and {round(m.start[2]) for m in rows} == {1000, 2800, 4600}
    assert {round(m.start[1], 3) for m in rows} == {-145.0}
    assert all(axis_frame(m).z == pytest.approx((0, -1, 0)) for m in rows)
    desk.run("change-run", id=list(desk.project.runs)[-1], settings={"side": -1})
    assert {round(m.start[1], 3) for m in of(desk, "role:girt")} == {145.0}


@pytest.mark.parametrize(("pattern", "count"), [("X", 4), ("single", 2), ("K", 4)])
def test_bracing(desk: Desk, pattern: str, count: int) -> None:
    desk.run(
        "add-run",
        kind="bracing",
        settings={"columns": ["?role:column y:0 x:<7000"], "section": "RD 24", "pattern": pattern, "base": 500, "top": 500, "panels": 2},
    )
    braces = of(desk, "role:brace")
    assert len(braces) == count
    heights = {round(p[2]) for m in braces for p in (m.start, m.end)}
    assert heights == ({500, 2500, 4500} if pattern != "K" else {500, 1500, 2500, 3500, 4500})
    assert all(e.joint.kind == "brace end" for e in desk.ledger.entries.values() if e.joint.ends[0][0] in {m.id for m in braces})


def test_a_cross_of_tubes_has_one_brace_through(desk: Desk) -> None:
    desk.run("add-run", kind="bracing", settings={"columns": ["?role:column y:0 x:<7000"], "section": "CHS 88.9x5", "pattern": "X", "base": 500, "top": 500})
    whole, low, high = of(desk, "role:brace")
    # 500 to 4500 over 6000: they meet half way up, in the middle of the bay
    assert low.end == high.start == pytest.approx((3000.0, 0.0, 2500.0)) and {round(p[2]) for p in (whole.start, whole.end)} == {500, 4500}
    desk.run("place-all", family="bracing-gusset")
    assert not told(desk.ledger) and desk.ledger.counts()["breach"] == 0
    ends = [e for e in desk.ledger.entries.values() if any(m in {whole.id, low.id, high.id} for m, _ in e.joint.ends)]
    assert len(ends) == 6 and all(e.settled for e in ends)


def test_rods_that_cross_are_told(desk: Desk) -> None:
    desk.run("add-run", kind="bracing", settings={"columns": ["?role:column y:0 x:<7000"], "section": "RD 24", "pattern": "X", "base": 500, "top": 500})
    one, two = of(desk, "role:brace")
    ((pair, finding),) = told(desk.ledger)
    assert {pair.one, pair.two} == {one.id, two.id} and pair.where == pytest.approx((3000.0, 0.0, 2500.0), abs=1.0)
    # two round bars of d across each other at an angle a share 2 d³ / (3 sin a): slopes of 4000 in 6000 meet at 2 atan(2/3) = 67.4 degrees
    assert finding.actual == pytest.approx(2 * 24**3 / 3 / math.sin(2 * math.atan2(4000, 6000)), rel=0.12)


def test_joists(desk: Desk) -> None:
    desk.run("add-members", members=[{"name": "P", "section": "IPE 360", "start": [0, 30000, 4000], "end": [9000, 30000, 4000], "cardinal": "top"},
                                     {"name": "Q", "section": "IPE 300", "start": [9000, 34000, 4000], "end": [0, 34000, 4000], "cardinal": "top"}])  # fmt: skip
    desk.run("add-run", kind="joists", settings={"beams": ["P", "Q"], "section": "IPE 200", "spacing": 2500, "drop": 20})
    rows = of(desk, "role:joist")
    # 9000 / 2500 asks for 4 gaps of 2250: three joists, their tops 20 under 4000
    assert [(round(m.start[0]), round(m.start[2]), round(m.end[1])) for m in rows] == [(2250, 3980, 34000), (4500, 3980, 34000), (6750, 3980, 34000)]
    assert all(e.joint.kind == "beam to beam web" for e in desk.ledger.entries.values() if e.joint.ends[0][0] in {m.id for m in rows})


@pytest.mark.parametrize(
    ("kind", "settings", "words"),
    [
        ("rails", {}, "no run called"),
        ("purlins", {"rafters": ["?role:rafter"], "section": "Z 200x65x20x2", "pitch": 3}, "no 'pitch'"),
        ("purlins", {"rafters": ["?role:joist"], "section": "Z 200x65x20x2"}, "no member is picked"),
        ("purlins", {"rafters": ["?role:rafter y:<10000"], "section": "Z 200x65x20x2", "spacing": 0}, "spacing of 0"),
        ("purlins", {"rafters": ["?role:rafter y:<10000"], "section": "Z 200x65x20x2", "eaves": 9000, "ridge": 9000}, "lies past the last"),
        ("purlins", {"rafters": ["?role:rafter y:<10000"], "section": "Q 12"}, "no section"),
        ("bracing", {"columns": ["?role:column"], "section": "RD 24"}, "6 columns"),
        ("bracing", {"columns": ["?role:column y:0 x:<7000"], "section": "RD 24", "pattern": "Y"}, "pattern: 'Y' is none of the choices"),
        ("portals", {"origin": [0, 0, 0], "span": 10, "eaves": 5000, "ridge": 6000, "bays": "6000", "column": "HEA 300", "rafter": "IPE 400"}, "span over"),
    ],
)
def test_a_run_that_cannot_be_laid_says_why(desk: Desk, kind: str, settings: dict, words: str) -> None:
    before = dict(desk.project.members)
    with pytest.raises(TinCleatError, match=words):
        desk.run("add-run", kind=kind, settings=settings)
    assert desk.project.members == before and len(desk.project.runs) == 1


def test_queries(desk: Desk) -> None:
    desk.run("add-level", name="eaves", elevation=5000)
    assert len(of(desk, "role:column size:hea*")) == 6 and len(of(desk, "role:column,rafter -x:>3000")) == 4
    assert len(of(desk, "level:eaves role:rafter")) == 6 and len(of(desk, "level:+6000")) == 6 and len(of(desk, 'level:"eaves+1000"')) == 6
    assert len(of(desk, "length:>10m")) == 6 and len(of(desk, "ipe")) == 6 and len(of(desk, "end:apart")) == 0
    desk.run("place-all", family="base-plate")
    assert len(of(desk, "joined:base-*")) == 6 and len(of(desk, "start:base-plate -role:rafter")) == 6 and len(of(desk, "finish:base-plate")) == 0
    assert len(of(desk, "end:open")) == 12 and len(of(desk, "run:yes")) == 12 and len(of(desk, "breach:yes")) == 0
    desk.run("save-query", name="south", text="y:<10000 role:rafter")
    desk.run("change-members", ids=["@south"], grade="S275")
    assert len(of(desk, "grade:S275")) == 3
    for text, words in (
        ("colour:red", "no 'colour'"),
        ("role:", "says nothing"),
        ("end:up", "not known"),
        ("", "empty"),
        ('name:"x', "quote"),
        ("level:attic", "no level"),
    ):
        with pytest.raises(TinCleatError, match=words):
            of(desk, text)
    with pytest.raises(NotFound, match="saved query"):
        desk.run("delete-members", ids=["@north"])


def test_the_scripted_shed(tmp_path: Path) -> None:
    """30 x 60 m from nothing, in fewer than 60 lines."""
    text = SHED.read_text()
    assert len(text.splitlines()) < 60
    desk = Desk.create(tmp_path / "shed.tincleat")
    desk.run_script(text)
    points = [p for m in desk.project.members.values() if m.role == "column" for p in (m.start, m.end)]
    assert (min(p[0] for p in points), max(p[0] for p in points), min(p[1] for p in points), max(p[1] for p in points)) == (0, 60000, 0, 30000)
    counts = desk.ledger.counts()
    assert len(desk.project.members) > 380 and counts["joints"] == counts["joined"] > 450 and not counts["breach"] and not counts["note"] and not desk.ledger.lost
    assert not [e for e in desk.ledger.entries.values() if e.joint.kind in ("near miss", "free end")]
    desk.close()


def test_cold_formed_sections() -> None:
    # a strip of web + 2 flanges + 2 lips, bends of 1.5 t: developed middle line times the sheet.
    # Z 200 x 65 x 20 x 2, r = 3, R = 5, middle radius 4: flats 190 + 2 * 55 + 2 * 15, four quarter bends 2 pi 4 -> 330 + 25.13
    z = section("Z200x65x20x2")
    assert z.area == pytest.approx(2 * (190 + 110 + 30 + 2 * math.pi * 4), rel=1e-6) and z.centroid == pytest.approx((0, 0), abs=1e-9)
    c = section("CF 200x65x20x2")
    assert c.area == pytest.approx(z.area, rel=1e-6) and c.centroid[0] < 0 and c.centroid[1] == pytest.approx(0, abs=1e-9)
    assert (z.b, c.b, z.h) == (128, 65, 200)
    for wrong in ("Z 200x65x3x2", "CF 20x65x20x2", "Z 200x65x20x20"):
        with pytest.raises(NotFound):
            section(wrong)


def test_an_end_left_plain_by_rule_is_told_where_it_runs_into_steel(tmp_path: Path) -> None:
    desk = Desk.create(tmp_path / "p.tincleat")
    post = {"section": "UC 203x203x46", "role": "column", "start": [0, 0, 0], "end": [0, 0, 5000]}
    desk.run("add-members", members=[post, {"section": "UB 533x210x92", "role": "rafter", "start": [-4000, 0, 4300], "end": [4000, 0, 5700]}])
    assert not told(desk.ledger)  # not joined yet: it will be cut
    desk.run("set-house-rules", values={"plain": ["column under beam"]})
    ((pair, finding),) = told(desk.ledger)
    assert {pair.one, pair.two} == {"m1", "m2"} and finding.actual > 1e5
    desk.run("set-house-rules", values={"plain": []})
    desk.run("place-connection", family="cap-plate", at=["m1.end"])
    assert not told(desk.ledger)
    desk.close()


def test_lapped_zeds_lie_in_each_other(desk: Desk) -> None:
    rafters = {"rafters": ["?role:rafter y:<10000"], "spacing": 2500, "eaves": 250, "ridge": 250, "lap": 600}
    desk.run("add-run", kind="purlins", settings={**rafters, "section": "Z 200x65/59x20x2"})
    rows = of(desk, "role:purlin")
    assert len(rows) == 10
    laps = [e for e in desk.ledger.entries.values() if e.joint.kind == "lap"]
    # three rafters carry two bays: one lap a row, over the middle rafter
    assert len(laps) == 5 and all(len(e.joint.ends) == 2 for e in laps)
    for e in laps:
        # those of the first bays lie one sheet (2 mm) off the rafters; those turned over lie on them, 59 + 59 - 122 = -4 mm aside
        (a,), (b,) = ([m for m in (desk.project.members[k] for k, _ in e.joint.ends) if m.run.endswith(f".{bay}")] for bay in (0, 1))
        at, other = axis_frame(a), axis_frame(b)
        apart = at.into(tuple(p - q for p, q in zip(other.origin, at.origin, strict=True)))  # type: ignore[arg-type]
        assert apart == pytest.approx((5700, -4, -2), abs=1e-6) and other.z == pytest.approx([-v for v in at.z], abs=1e-9)
    desk.run("place-connection", family="purlin-cleat", at=[f"{laps[0].joint.ends[0][0]}.{laps[0].joint.ends[0][1]}"], settings={})
    placed = desk.ledger.entry_of(list(desk.project.connections)[-1])
    assert placed.made is not None, placed.problem
    # M16 in 18: 30 from the ends, which go 300 past the rafter's middle, through two webs; the cleat's go through cleat and webs
    assert sorted({(round(abs(f.point[0]), 3), len(f.plies)) for f in placed.made.assembled.fitted}) == [(0.0, 3), (270.0, 2)]
    assert not [f for f in placed.findings if f.level == "breach"]
    # the lap is found anew when what carries it goes
    desk.run("delete-members", ids=[laps[1].joint.support])
    assert not [e for e in desk.ledger.entries.values() if e.joint.kind == "lap"]
    desk.undo()
    assert len([e for e in desk.ledger.entries.values() if e.joint.kind == "lap"]) == 5


def test_what_does_not_lie_in_each_other_is_told_with_figures(desk: Desk) -> None:
    lay_purlins(desk)
    lap = next(e for e in desk.ledger.entries.values() if e.joint.kind == "lap")
    with pytest.raises(NoFit, match=r"Z 200x65x20x2 do not lie in each other.*59"):
        desk.run("place-connection", family="purlin-cleat", at=[f"{lap.joint.ends[0][0]}.{lap.joint.ends[0][1]}"], settings={})


def test_truing_up_leaves_lapped_zeds_where_they_lie_in_each_other(desk: Desk) -> None:
    # laps of 100 end 50 past the rafter's middle, on its flange: they would be set down on it and turned upright
    desk.run("add-run", kind="purlins", settings={"rafters": ["?role:rafter y:<10000"], "section": "Z 200x65/59x20x2", "spacing": 2500, "eaves": 250, "ridge": 250, "lap": 100})
    rows = {m.id: m for m in of(desk, "role:purlin")}
    found = plan(desk.ledger, ["purlins"])
    assert not found.changes and {left.member for left in found.left} == set(rows) and all(left.why.startswith("it laps on M") for left in found.left)
