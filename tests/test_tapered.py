"""Tapered plate girders: by name, mass by hand, joints at their true depth, splits, IFC both ways."""

import math
from pathlib import Path

import ifcopenshell
import ifcopenshell.geom
import ifcopenshell.util.element
import ifcopenshell.util.shape
import ifcopenshell.validate
import numpy as np
import pytest

from tincleat.app.bodies import member_mesh
from tincleat.catalogue.sections import STEEL_DENSITY, at_share, section
from tincleat.commands.desk import Desk
from tincleat.errors import NotFound
from tincleat.exchange.ifc import export_ifc
from tincleat.exchange.ifc_in import import_ifc as read_ifc
from tincleat.ledger.steel import cuts_of
from tincleat.project.members import length
from tincleat.steel.body import steel_mesh, steel_volume
from tincleat.steel.cuts import Cuts, EndCut
from tincleat.steel.members import net_mass, own_cuts

NAME = "PG 600-300x200x8x12 top"


def test_named_by_both_depths() -> None:
    s = section("pg600-300x200x8x12 TOP")
    assert (s.name, s.h, s.h_end, s.straight, s.slopes, s.reach) == (NAME, 600, 300, "top", (300, 0), 300)
    assert section("PG 300-600x200x8x12 top").reach == 450 and section("PG 300-600x200x8x12").slopes == (-150, 150)
    # half way: 450 deep; its top stays, so that its middle rises by 75
    local, rise = at_share(s, 0.5)
    assert (local.name, local.h_end, rise) == ("PG 450x200x8x12", 0, 75)
    assert s.mass == pytest.approx((section("PG 600x200x8x12").mass + section("PG 300x200x8x12").mass) / 2)
    with pytest.raises(NotFound):
        section("PG 600-30x200x8x12")


@pytest.mark.parametrize("name", [NAME, "PG 300-600x200x8x12 bottom", "PG 600-300x200x8x12"])
def test_mass_by_hand(name: str) -> None:
    s = section(name)
    # two flanges 200 x 12 and a web of 8 whose height falls from 576 to 276 or the other way: 426 on the mean
    assert steel_volume(s, Cuts(), 0, 6000) == pytest.approx((2 * 200 * 12 + 426 * 8) * 6000)
    # 1.5 m off the deep end, where the web is 501 high
    end = (1500.0, 1.0) if s.h > s.h_end else (4500.0, -1.0)
    cut = EndCut(0, (end[0], 0.0, 0.0), (end[1], 0.0, 0.0))
    assert steel_volume(s, Cuts((cut,)), 0, 6000) == pytest.approx((4800 + (501 + 276) / 2 * 8) * 4500)
    # a slanted cut at the start lies on its plane all over
    lean = EndCut(0, (200.0, 0.0, 0.0), (math.cos(0.3), 0.0, math.sin(0.3)))
    points = steel_mesh(s, Cuts((lean,)), 0, 6000).points
    first = points[points[:, 0] < 3000]
    assert (first - (200, 0, 0)) @ np.array(lean.normal) == pytest.approx(np.zeros(len(first)), abs=1e-6)


def frame(tmp_path: Path) -> Desk:
    """Two columns 12 m apart and a tapered rafter between, its top flange level at 5 m, 600 deep at the first column."""
    desk = Desk.create(tmp_path / "t.tincleat")
    desk.run("add-level", name="floor", elevation=5000)
    desk.run("add-members", members=[
        {"section": "HEB 300", "role": "column", "start": [0, 0, 0], "end": [0, 0, 6000], "name": "A"},
        {"section": "HEB 300", "role": "column", "start": [12000, 0, 0], "end": [12000, 0, 6000], "name": "B"},
        {"section": NAME, "role": "beam", "start": [0, 0, 5000], "end": [12000, 0, 5000], "cardinal": "top", "name": "T"},
        {"section": "IPE 200", "role": "beam", "start": [6000, 0, 4950], "end": [6000, 4000, 4950], "cardinal": "top", "name": "S"},
    ])  # fmt: skip
    return desk


def test_joints_see_the_depth_there_is(tmp_path: Path) -> None:
    desk = frame(tmp_path)
    beam = next(m for m in desk.project.members.values() if m.name == "T")
    mesh = member_mesh(beam, own_cuts(beam), 1)
    assert mesh.points[:, 2].max() == pytest.approx(5000) and mesh.points[mesh.points[:, 0] > 11999][:, 2].min() == pytest.approx(4700)
    start, end = (desk.ledger.joint_of(beam.id, e) for e in ("start", "end"))
    # the column's face is 150 from its middle: 300 / 12000 x 150 = 3.75 shallower there, so 596.2 (to a tenth) and 303.8
    assert [j.case.supported.section for j in (start, end)] == ["PG 596.2x200x8x12", "PG 303.8x200x8x12"]
    assert start.frame.origin == pytest.approx((150, 0, 5000 - 596.25 / 2)) and end.frame.origin == pytest.approx((11850, 0, 5000 - 303.75 / 2))
    side = desk.ledger.joint_of(next(m.id for m in desk.project.members.values() if m.name == "S"), "start")
    assert side.case.support is not None and side.case.support.section == "PG 450x200x8x12"
    desk.run("place-all", family="fin-plate")
    made = [e for e in desk.ledger.entries.values() if e.connection is not None]
    assert len(made) == 3 and not [f for e in made for f in e.findings if f.rule in ("bolt-plies", "bolt-hole", "weld-gap", "ply-gap") and f.level == "breach"]
    desk.close()


def test_pieces_make_the_whole(tmp_path: Path) -> None:
    desk = frame(tmp_path)
    beam = next(m for m in desk.project.members.values() if m.name == "T")
    whole = net_mass(beam, own_cuts(beam))
    assert whole == pytest.approx((4800 + 426 * 8) * 12000 * STEEL_DENSITY)
    desk.run("change-members", ids=["T"], cardinal="centre")  # the line runs through the start's middle now
    desk.run("move-members", ids=["T"], by=[0, 0, -300])
    desk.run("split-members", ids=["T"], at=[4000])
    pieces = [m for m in desk.project.members.values() if m.name.startswith("T")]
    assert [m.section for m in pieces] == ["PG 600-500x200x8x12 top", "PG 500-300x200x8x12 top"]
    assert sum(net_mass(m, own_cuts(m)) for m in pieces) == pytest.approx(whole)
    assert [member_mesh(m, own_cuts(m), 1).points[:, 2].max() for m in pieces] == pytest.approx([5000, 5000])
    desk.run("mirror-members", ids=[m.id for m in pieces], line=[[0, 3000, 0], [1, 3000, 0]], copy=False)
    assert {
        round(float(v), 3) for m in desk.project.members.values() if m.name.startswith("T") for v in [member_mesh(m, own_cuts(m), 1).points[:, 2].max()]
    } == {5000}
    desk.close()


def test_ifc_both_ways(tmp_path: Path) -> None:
    desk = frame(tmp_path)
    desk.run("place-all", family="fin-plate")
    path = export_ifc(desk.ledger, tmp_path / "t.ifc")
    file = ifcopenshell.open(str(path))
    logger = ifcopenshell.validate.json_logger()
    ifcopenshell.validate.validate(file, logger)
    assert logger.statements == []
    element = next(e for e in file.by_type("IfcBeam") if e.Name == "T")
    settings = ifcopenshell.geom.settings()
    settings.set("mesher-linear-deflection", 0.00005)
    volume = ifcopenshell.util.shape.get_volume(ifcopenshell.geom.create_shape(settings, element).geometry)
    beam = next(m for m in desk.project.members.values() if m.name == "T")
    ours = steel_volume(section(beam.section), cuts_of(desk.ledger, beam.id), 0, length(beam)) * 1e-9
    assert volume == pytest.approx(ours, rel=0.001)
    again = Desk.create(tmp_path / "again.tincleat")
    again.run("import-frame", path=str(path))
    back = next(m for m in again.project.members.values() if m.name == "T")
    assert (
        (back.section, back.cardinal) == (NAME, "top") and back.start == pytest.approx(beam.start, abs=0.01) and back.end == pytest.approx(beam.end, abs=0.01)
    )
    assert {e.joint.case for e in again.ledger.entries.values()} == {e.joint.case for e in desk.ledger.entries.values()}
    again.close()
    # under a name of somebody else's it comes in as its first profile, and the report says so
    renamed = tmp_path / "other.ifc"
    renamed.write_text(path.read_text().replace(NAME, "girder 7"))
    found = read_ifc(renamed)
    assert any("tapered" in note and "T:" in note for note in found.notes), found.notes
    # cut 10 past the face at 150: 300 / 12000 x 160 = 4 less deep
    assert next(m for m in found.members if m.name == "T").section == "PG 596x200x8x12"
    desk.close()


def test_a_taper_cut_askew_lies_the_same_wherever_it_begins() -> None:
    shape = section("PG 400-800x200x8x12 top")
    t = math.radians(20)

    def cut(x: float) -> Cuts:
        return Cuts((EndCut(0, (x, 0.0, 0.0), (math.cos(t), 0.0, math.sin(t))),))

    here, there = steel_mesh(shape, cut(200.0), 0.0, 1000.0), steel_mesh(shape, cut(500.0), 300.0, 1300.0)
    assert there.points - (300.0, 0.0, 0.0) == pytest.approx(here.points, abs=1e-9)
