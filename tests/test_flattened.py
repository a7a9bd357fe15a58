"""Ends of round tubes pressed flat, by hand, against exact solids and by the other engine."""

import math
from pathlib import Path
from typing import Any

import ifcopenshell
import ifcopenshell.geom
import ifcopenshell.util.shape
import manifold3d
import numpy as np
import pytest
from sites import brace, column
from sites import sized as section
from test_new_families import breaches, joined, made

from tincleat.commands.desk import Desk
from tincleat.details.bodies import bodies
from tincleat.errors import NoFit
from tincleat.exchange.ifc import export_ifc
from tincleat.geometry.mesh import Mesh
from tincleat.ledger.steel import worked_of
from tincleat.release.bill import bill
from tincleat.steel.body import cover, steel_mesh, steel_volume
from tincleat.steel.cuts import FLAT, Cuts, EndCut, MemberHole
from tincleat.steel.flattened import breadth, flattened_body, section_at
from tincleat.steel.likes import worked

TUBE = section("CHS 88.9x5")
NEAR = EndCut(0, (100.0, 0.0, 0.0), (1.0, 0.0, 0.0), 120.0, 90.0, (0.0, 0.6, 0.8))
FAR = EndCut(0, (2000.0, 0.0, 0.0), (-1.0, 0.0, 0.0), 140.0, 90.0, (0.0, 1.0, 0.0))


def exact(mesh: Mesh) -> "manifold3d.Manifold":
    return manifold3d.Manifold(manifold3d.Mesh64(vert_properties=np.ascontiguousarray(mesh.points), tri_verts=mesh.triangles.astype(np.uint64)))


def pressed(path: Path, name: str = "CHS 88.9x5", roll: float = 0.0, **typed: Any) -> Any:
    return joined(path, [column("UC 203x203x46"), brace(name, 40, roll=roll)], "bracing-gusset", "M2.start", tube_end="flattened", **typed)


def test_the_wall_keeps_its_girth_and_its_area() -> None:
    # inside pi (88.9 - 10) = 247.87 round: two faces of 123.94 on each other, and a wall of 5 at each end
    assert breadth(TUBE) == pytest.approx(133.935, abs=0.001)
    for radius in (44.45, 30.0, 12.0, 5.0):
        outer = section_at(TUBE, radius).area
        # half circles as wide as the wall less, the same straights
        inner = section_at(TUBE, radius).area - TUBE.area
        straight = math.pi * (44.45 - radius)
        assert outer == pytest.approx(math.pi * radius**2 + 2 * radius * straight)
        assert inner == pytest.approx(math.pi * (radius - 5) ** 2 + 2 * (radius - 5) * straight, abs=1e-6)
        assert 2 * math.pi * radius + 2 * straight == pytest.approx(math.pi * 88.9)


@pytest.mark.parametrize("cuts", [Cuts((NEAR,)), Cuts((FAR,)), Cuts((NEAR, FAR)), Cuts((NEAR, EndCut(0, (2000.0, 0.0, 0.0), (-0.8, 0.6, 0.0))))])
def test_the_body_weighs_what_the_closed_form_says(cuts: Cuts) -> None:
    fine = tuple(r.points(0.0002)[:: 1 if i == 0 else -1] for i, r in enumerate((TUBE.outer, TUBE.inner[0])))
    body = exact(flattened_body(TUBE, cuts, 0.0, 2000.0, (fine[0], fine[1])))
    assert body.status() == manifold3d.Error.NoError
    # chords, and walls drawn a fiftieth of a millimetre apart
    assert body.volume() == pytest.approx(steel_volume(TUBE, cuts, 0.0, 2000.0), rel=6e-4)
    # pi (88.9 - 5) 5 = 1317.9 mm², from 100 to 2000, or as far as it goes
    if cuts == Cuts((NEAR, FAR)):
        assert steel_volume(TUBE, cuts, 0.0, 2000.0) == pytest.approx(math.pi * 83.9 * 5 * 1900)


@pytest.mark.parametrize("per_arc", [0, 1, 3])
def test_a_drawn_body_is_closed_and_its_covers_hold_it(per_arc: int) -> None:
    holes = tuple(MemberHole(0, FLAT, (x, 0.0, 0.0), (0.0, -0.8, 0.6), 22.0, 22.0, (1.0, 0.0, 0.0)) for x in (135.0, 195.0))
    cuts = Cuts((NEAR, FAR), (), holes)
    whole, drilled = (exact(steel_mesh(TUBE, cuts, 0.0, 2000.0, per_arc, drill=d)) for d in (False, True))
    # two holes of 22 through two walls of 5
    assert whole.volume() - drilled.volume() == pytest.approx(2 * math.pi * 121 * 10, rel=0.03)
    assert steel_volume(TUBE, cuts, 0.0, 2000.0) == pytest.approx(math.pi * 83.9 * 5 * 1900 - 2 * math.pi * 121 * 10)
    hulls = [manifold3d.Manifold.hull_points(np.ascontiguousarray(h)) for h in cover(TUBE, cuts, 0.0, 2000.0)]
    rest = whole
    for h in hulls:
        rest = rest - h.scale((1.0, 1.0001, 1.0001))
    assert rest.volume() < 1.0


def test_like_tubes_have_one_mark_however_they_lie_about_their_axis() -> None:
    def at(near: float, far: float) -> Cuts:
        ends = ((NEAR, near), (FAR, far))
        return Cuts(tuple(EndCut(0, e.point, e.normal, e.flat, e.taper, (0.0, math.cos(a), math.sin(a))) for e, a in ends))

    marks = [worked(TUBE, 2000.0, at(a, a + 0.5)).signature for a in (0.0, 0.3, 1.1)]
    assert len(set(marks)) == 1
    # the flats turned against each other the other way, or by another angle, are other bars
    assert len({*marks, worked(TUBE, 2000.0, at(0.0, -0.5)).signature, worked(TUBE, 2000.0, at(0.0, 0.0)).signature}) == 3


def test_a_gusset_by_hand(tmp_path: Path) -> None:
    desk, e = pressed(tmp_path)
    d = made(e)
    assert not breaches(e)
    (cut,) = [c for c in d.ends if c.flat]
    # M20: first bolt 1.75 x 20 = 35, one more 60 on, 35 to the plate's edge: 130, past it 10 and up to 5: 140; the taper as long as 88.9, up to 90
    assert (cut.flat, cut.taper) == (140.0, 90.0)
    (bolts,) = d.bolts
    assert [round(math.dist(p, (cut.point[0], p[1], cut.point[2])), 6) for p in bolts.points] == [35.0, 95.0]
    # the bolts go through the plate, 10, and both walls, 2 x 5
    assert [(f.grip, len(f.plies)) for f in e.made.assembled.fitted] == [(20.0, 2)] * 2
    # the plate lies on the flat: its middle 5 + 5 off the tube's
    assert abs(d.plates[0].frame.point((0.0, 0.0, 5.0))[1]) == pytest.approx(10.0, abs=0.01)
    member = desk.project.find("member", "M2")
    bare = math.pi * 83.9 * 5
    assert worked_of(desk.ledger, member.id).volume == pytest.approx(bare * worked_of(desk.ledger, member.id).length - 2 * math.pi * 121 * 10)
    assert any("CHS 88.9x5" in str(row) for row in bill(desk.ledger))


def test_flats_and_tapers_may_be_typed_and_what_cannot_be_is_refused(tmp_path: Path) -> None:
    _, e = pressed(tmp_path, flat=180.0, taper=120.0)
    (cut,) = [c for c in made(e).ends if c.flat]
    assert (cut.flat, cut.taper) == (180.0, 120.0)
    with pytest.raises(NoFit, match="a flat of 100 mm ends on the plate, which it meets for 130 mm"):
        pressed(tmp_path / "short", flat=100.0)
    with pytest.raises(NoFit, match="is rectangular"):
        pressed(tmp_path / "square", "SHS 80x80x5")


def test_a_flat_too_narrow_for_its_bolts_is_found(tmp_path: Path) -> None:
    # CHS 33.7x3.2: pi (33.7 - 6.4) / 2 + 6.4 = 49.3 wide, 24.6 from the bolt's middle; M20 wants 1.2 x 22 = 26.4
    _, e = pressed(tmp_path, "CHS 33.7x3.2")
    found = [f for f in e.findings if f.rule == "edge-least" and f.level == "breach" and FLAT in f.part]
    assert found and found[0].actual == pytest.approx(24.64, abs=0.02) and found[0].required == pytest.approx(26.4)


def test_the_other_engine_weighs_the_same(tmp_path: Path) -> None:
    desk, e = pressed(tmp_path, roll=25.0)
    export_ifc(desk.ledger, tmp_path / "out.ifc")
    file = ifcopenshell.open(str(tmp_path / "out.ifc"))
    settings = ifcopenshell.geom.settings()
    settings.set("mesher-linear-deflection", 0.0005)
    settings.set("mesher-angular-deflection", 0.1)
    (tube,) = [m for m in file.by_type("IfcMember") if m.ObjectType == "CHS 88.9x5"]
    shape = ifcopenshell.geom.create_shape(settings, tube)
    volume = ifcopenshell.util.shape.get_volume(shape.geometry) * 1e9
    member = desk.project.find("member", "M2")
    assert volume == pytest.approx(worked_of(desk.ledger, member.id).volume, rel=4e-3)
    # and it lies where ours does: over the breadth of the flat
    verts = np.array(shape.geometry.verts).reshape(-1, 3) * 1000
    assert e.made is not None
    (body,) = [b for b in bodies(e.made.assembled, 3) if b.kind == "member" and b.name == "brace"]
    matrix = np.array(shape.transformation.matrix).reshape(4, 4).T
    world = verts @ matrix[:3, :3].T + matrix[:3, 3] * 1000
    ours = e.joint.frame.to_world(body.mesh.points)
    assert np.allclose(world.min(axis=0)[1], ours.min(axis=0)[1], atol=1.0) and np.allclose(world.max(axis=0)[1], ours.max(axis=0)[1], atol=1.0)


def test_it_comes_back_from_its_own_file_as_one_bar(tmp_path: Path) -> None:
    desk, _ = pressed(tmp_path)
    export_ifc(desk.ledger, tmp_path / "out.ifc")
    other = Desk.create(tmp_path / "back.tincleat")
    other.run("import-frame", path=str(tmp_path / "out.ifc"))
    (tube,) = [m for m in other.project.members.values() if m.section != "UC 203x203x46"]
    was = desk.project.find("member", "M2")
    assert len(other.project.members) == 2 and tube.section == "CHS 88.9x5" and not tube.cuts
    assert tube.start == pytest.approx(was.start, abs=1e-2) and tube.end == pytest.approx(was.end, abs=1e-2)
