"""The demo projects are what the README says of them."""

import shutil
from collections import Counter
from pathlib import Path

import pytest

from tincleat.commands.desk import Desk
from tincleat.demo.longshed import build as longshed
from tincleat.demo.longshed import build_joined
from tincleat.demo.registry import make_demo
from tincleat.errors import NotFound


def test_the_boathouse(demo_file: Path) -> None:
    desk = Desk.open(demo_file)
    assert desk.project.house.title == "Plover Spit boathouse" and len(desk.project.members) >= 90
    kinds = Counter(e.joint.kind for e in desk.ledger.entries.values())
    for kind in (
        "column foot",
        "beam to column flange",
        "beam to column web",
        "beam to beam web",
        "beam to hollow face",
        "knee",
        "apex",
        "brace end",
        "column under beam",
        "near miss",
    ):
        assert kinds[kind], kind
    assert any("38 mm short of K4" in e.joint.words for e in desk.ledger.entries.values())
    groups = desk.ledger.kin()
    assert sum(len(k.entries) >= 4 for k in groups) >= 8  # several groups of like joints
    assert any(k.joined == 0 for k in groups) and any(k.joined == len(k.entries) for k in groups)
    joints = {j for m in desk.project.members for j in (f"{m}.start", f"{m}.end")}
    settled = {f"{m}.{e}" for entry in desk.ledger.entries.values() for m, e in entry.joint.ends}
    assert settled == joints  # every member end is in the ledger, once
    assert len(desk.project.grids) == 1 and len(desk.project.levels) == 6
    desk.close()


def test_its_awkward_joints_are_refused_with_figures(demo_file: Path, tmp_path: Path) -> None:
    desk = Desk.open(shutil.copy(demo_file, tmp_path / "own.tincleat"))
    # its prop leans by 3.8 degrees: a plate with the fillets slid along it, stiffeners against its walls, but no chairs
    z1 = desk.ledger.joint_of(desk.project.find("member", "Z1").id, "start")
    assert not desk.ledger.refusal(z1, "base-plate", {}) and not desk.ledger.refusal(z1, "base-plate", {"stiffeners": "on the web"})
    assert "leans 3." in desk.ledger.refusal(z1, "base-plate", {"chairs": True})
    knee = next(e.joint for e in desk.ledger.entries.values() if e.joint.kind == "knee")
    assert "this joint is a knee" in desk.ledger.refusal(knee, "welded-moment", {})
    # a fin plate goes there where it is pointed at, and is left out where fin plates are placed everywhere
    assert not desk.ledger.refusal(knee, "fin-plate", {})
    knees = sum(e.joint.kind == "knee" and not e.settled for e in desk.ledger.entries.values())
    title = desk.run("place-all", family="fin-plate")
    assert knees and f", {knees} knees left: there it is placed by itself" in title
    assert not any(e.connection is not None and e.connection.family == "fin-plate" for e in desk.ledger.entries.values() if e.joint.kind == "knee")
    desk.close()


def test_nothing_stands_inside_anything_it_should_not(demo_file: Path) -> None:
    """No plate of the demo overlaps the members it joins (touching is fine)."""
    from tincleat.details.assembled import plate_mesh
    from tincleat.geometry.mesh import overlap_volume

    desk = Desk.open(demo_file)
    seen = set()
    for entry in desk.ledger.entries.values():
        if entry.made is None or id(entry.made) in seen:
            continue
        seen.add(id(entry.made))
        a = entry.made.assembled
        for number, member in enumerate(a.case.members):
            steel = a.member_mesh(number, max(member.low, -400), min(member.high, 600), per_arc=4)
            for plate in entry.made.detail.plates:
                assert overlap_volume(steel, plate_mesh(plate, 3, False)) < 1.0, (entry.joint.words, plate.name, number)
        for i, first in enumerate(a.case.members):
            for j in range(i + 1, len(a.case.members)):
                other = a.case.members[j]
                one = a.member_mesh(i, max(first.low, -400), min(first.high, 600), per_arc=4)
                two = a.member_mesh(j, max(other.low, -400), min(other.high, 400), per_arc=4)
                assert overlap_volume(one, two) < 1.0, (entry.joint.words, "members", i, j)
    desk.close()


def test_long_shed(tmp_path: Path) -> None:
    desk = longshed(tmp_path / "s.tincleat", count=300)
    counts = desk.ledger.counts()
    assert 300 <= len(desk.project.members) < 400 and counts["joined"] > 400 and len(desk.ledger.kin()) < 80
    assert len({id(e.made) for e in desk.ledger.entries.values() if e.made}) < 60  # kin share their details
    desk.close()


def test_the_long_shed_joined(tmp_path: Path) -> None:
    desk = build_joined(tmp_path / "s.tincleat", count=600)
    counts = desk.ledger.counts()
    assert counts["joints"] == counts["joined"] > 1000 and not counts["breach"] and not desk.ledger.lost
    assert {c.family for c in desk.project.connections.values()} == {"base-plate", "fin-plate", "bracing-gusset", "cap-plate"}
    desk.close()


def test_unknown_demo(tmp_path: Path) -> None:
    with pytest.raises(NotFound, match="boathouse"):
        make_demo("castle", tmp_path / "c.tincleat")


def test_the_pump_house(tmp_path: Path) -> None:
    desk = make_demo("pumphouse-joined", tmp_path / "p.tincleat")
    house = desk.project.house
    assert (house.units, house.rule_set, house.title) == ("ft-in", "AISC", "Juniper Flat pump house, joined")
    counts = desk.ledger.counts()
    assert counts["joints"] == counts["joined"] == 180 and not counts["breach"] and not counts["note"] and not desk.ledger.lost
    ends = {(m, e) for m in desk.project.members for e in ("start", "end")}
    assert {end for e in desk.ledger.entries.values() if e.settled for end in e.joint.ends} == ends
    families = {c.family for c in desk.project.connections.values()}
    assert families == {"base-plate", "welded-moment", "timber-seat", "angle-cleats", "tube-joint", "stringer-foot", "fin-plate", "bracing-gusset", "purlin-cleat", "cap-plate", "sag-rods"}
    assert sum(r.kind == "timber" for r in desk.project.references.values()) == 14
    # every length that is shown lands on a 1/16
    for entry in desk.ledger.entries.values():
        assert entry.made is not None
        for p in entry.made.detail.plates:
            assert abs(p.thickness / 1.5875 - round(p.thickness / 1.5875)) < 1e-6, (entry.joint.words, p.name, p.thickness)
    desk.close()
    open_one = make_demo("pumphouse", tmp_path / "o.tincleat")
    assert open_one.ledger.counts()["joined"] == 10 and open_one.project.house.title == "Juniper Flat pump house"
    open_one.close()
