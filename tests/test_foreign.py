"""Members of foreign models beside the bodies that another geometry engine makes of the same file: box and volume, or it is said."""

import math
from pathlib import Path

import ifcopenshell
import ifcopenshell.geom
import ifcopenshell.validate
import manifold3d
import msgspec
import numpy as np
import pytest
from foreign_cases import CASES, Case, Lines

from tincleat.catalogue.grades import grade_of, material_of
from tincleat.catalogue.recognise import by_name
from tincleat.catalogue.sections import section
from tincleat.cli import main
from tincleat.commands.desk import Desk
from tincleat.exchange.ifc import export_ifc
from tincleat.exchange.ifc_cuts import member_mesh
from tincleat.exchange.ifc_in import import_ifc
from tincleat.exchange.ifc_source import Imported
from tincleat.project.entities import Member
from tincleat.project.members import length
from tincleat.steel.body import steel_volume
from tincleat.steel.members import own_cuts


def taken(path: Path, case: Case) -> tuple[Imported, Desk]:
    lines = Lines(case.schema, case.unit)
    case.make(lines)
    path.write_text(lines.text())
    desk = Desk.create(path.with_suffix(".tincleat"))
    found = import_ifc(path)
    if found.members or found.bodies:
        desk.take_in(str(path), found)
    return found, desk


def source_bodies(path: Path) -> "list[tuple[np.ndarray, float]]":
    """Points (n, 3) mm and volume (mm³) of every member's body in a file, by the other engine."""
    f = ifcopenshell.open(str(path))
    settings = ifcopenshell.geom.settings()
    settings.set("use-world-coords", True)
    settings.set("mesher-linear-deflection", 0.0002)
    settings.set("mesher-angular-deflection", 0.1)
    out = []
    for product in [*f.by_type("IfcBeam"), *f.by_type("IfcColumn"), *f.by_type("IfcMember")]:
        shape = ifcopenshell.geom.create_shape(settings, product)
        points = np.array(shape.geometry.verts).reshape(-1, 3) * 1000
        faces = np.array(shape.geometry.faces).reshape(-1, 3)
        a, b, c = (points[faces[:, i]] for i in range(3))
        out.append((points, abs(float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6))))
    return out


def solid(m: Member) -> "manifold3d.Manifold":
    mesh = member_mesh(m, 12)
    return manifold3d.Manifold(manifold3d.Mesh64(vert_properties=np.ascontiguousarray(mesh.points), tri_verts=mesh.triangles.astype(np.uint64)))


@pytest.mark.parametrize("name", CASES)
def test_a_foreign_member_comes_in_as_its_body_is_or_it_is_said(tmp_path: Path, name: str) -> None:
    case = CASES[name]
    found, desk = taken(tmp_path / "f.ifc", case)
    members = list(desk.project.members.values())
    assert tuple(sorted(str(m.section) for m in members)) == tuple(sorted(case.sections)), found.report()
    told = " ".join([*found.notes, *(row["why"] for row in found.left)])
    for words in case.said:
        assert words in told, told
    for key, value in case.more.items():
        assert getattr(members[0], key) == value
    bodies = source_bodies(tmp_path / "f.ifc") if case.exact and "axis and profile" not in name else []
    if bodies:
        points = np.concatenate([p for p, _ in bodies])
        ours = [solid(m) for m in members]
        boxes = np.array([o.bounding_box() for o in ours])
        low, high = boxes[:, :3].min(axis=0), boxes[:, 3:].max(axis=0)
        assert np.abs(low - points.min(axis=0)).max() < 0.1 and np.abs(high - points.max(axis=0)).max() < 0.1, (low, points.min(axis=0), high, points.max(axis=0))
        assert sum(steel_volume(section(m.section), own_cuts(m), 0.0, length(m)) for m in members) == pytest.approx(sum(v for _, v in bodies), rel=0.004)
        assert not any("differs" in n or ("lies" in n and "off the body" in n) or "its volume" in n for n in found.notes), found.notes
    desk.close()


def test_axis_only_members_hang_and_roll_as_they_say(tmp_path: Path) -> None:
    # drawn along the placement's z, the profile's y along (0, -0.6, 0.8): top centre on the line, so that the middle lies 150 below it along that
    _, desk = taken(tmp_path / "a.ifc", CASES["axis and profile, top centre, drawn along z"])
    (m,) = desk.project.members.values()
    points = member_mesh(m).points
    up = np.array([0.0, -0.6, 0.8])
    assert (points @ up).max() == pytest.approx(0.0, abs=0.01) and (points @ up).min() == pytest.approx(-300.0, abs=0.01)
    assert m.start == (0, 0, 0) and m.end == (6000, 0, 0)
    # drawn along its x, its z up: bottom left on the line; left is where the profile's x points, which is z cross x
    _, desk = taken(tmp_path / "b.ifc", CASES["axis and profile, bottom left, drawn along x"])
    (m,) = desk.project.members.values()
    points = member_mesh(m).points
    up, left = np.array([0.0, 0.6, 0.8]), np.array([0.0, 0.8, -0.6])
    assert (points @ up).min() == pytest.approx(0.0, abs=0.01) and (points @ up).max() == pytest.approx(300.0, abs=0.01)
    assert {round(float((points @ left).min())), round(float((points @ left).max()))} == {-150, 0}


def test_derived_profiles_by_hand(tmp_path: Path) -> None:
    """The other engine's kernels disagree on these (one leaves the operator out, one scales by a cube root), so the corners are worked out.

    An angle 100 x 75 about its middle, its heel at (-37.5, -50), turned by the operator whose x axis is (0.8, 0.6), then shifted by (20, 30):
    heel (-37.5 * 0.8 + 50 * 0.6 + 20, -37.5 * 0.6 - 50 * 0.8 + 30) = (20, -32.5), toe of the short leg (37.5, -50): (80, 12.5),
    toe of the long leg (-37.5, 50): (-40, 47.5); their outer corners, toes rounded off by at most 5.
    """
    _, desk = taken(tmp_path / "d.ifc", CASES["derived, turned and shifted"])
    (m,) = desk.project.members.values()
    points = member_mesh(m, 12).points
    for y, z, near in ((20.0, -32.5, 0.01), (80.0, 12.5, 0.01), (-40.0, 47.5, 0.01)):
        assert float(np.hypot(points[:, 1] - y, points[:, 2] - z).min()) < near
    _, desk = taken(tmp_path / "h.ifc", CASES["derived at half scale"])
    (m,) = desk.project.members.values()
    assert m.section == "IPE 300" and m.end == (6000, 0, 0)


def test_a_grid_placement_is_read(tmp_path: Path) -> None:
    # where line A crosses line 2, 500 over the grid, its x towards line 1
    _, desk = taken(tmp_path / "g.ifc", CASES["placed on a grid"])
    (m,) = desk.project.members.values()
    assert m.start == (6000, 0, 500) and m.end == (6000, 0, 4500)
    points = member_mesh(m).points
    assert np.ptp(points, axis=0)[:2] == pytest.approx((200, 190), abs=0.01)  # the profile's x lies along the world's


def test_hands_of_zeds_differ(tmp_path: Path) -> None:
    # seen along the bar, the upper flange points one way in one file and the other way in the other
    ways = []
    for i, name in enumerate(("Z of one hand", "Z of the other hand")):
        _, desk = taken(tmp_path / f"{i}.ifc", CASES[name])
        (m,) = desk.project.members.values()
        points = member_mesh(m).points
        top = points[points[:, 2] > 97]
        ways.append(float(top[np.abs(top[:, 1]).argmax(), 1]))
        bodies = source_bodies(tmp_path / f"{i}.ifc")[0][0]
        high = bodies[bodies[:, 2] > 97]
        assert math.copysign(1, ways[-1]) == math.copysign(1, float(high[np.abs(high[:, 1]).argmax(), 1]))
    assert ways[0] * ways[1] < 0


def test_a_skewed_sweep_keeps_its_sloping_ends(tmp_path: Path) -> None:
    _, desk = taken(tmp_path / "s.ifc", CASES["swept askew"])
    (m,) = desk.project.members.values()
    (points, volume), = source_bodies(tmp_path / "s.ifc")
    mesh = member_mesh(m)
    assert len(m.cuts) == 2 and mesh.volume == pytest.approx(volume, rel=1e-3)
    assert np.abs(mesh.points.min(axis=0) - points.min(axis=0)).max() < 0.1 and np.abs(mesh.points.max(axis=0) - points.max(axis=0)).max() < 0.1


SPELT = {
    "254x146x31UB": "UB 254x146x31", "254x146x31 UKB": "UB 254x146x31", "UKC 203x203x46": "UC 203x203x46", "W360X110": "W14X74", "HSS8X8X.5": "HSS8X8X1/2", "L4x4x.5": "L4X4X1/2",
    "RHS 200/100/8": "RHS 200x100x8", "RHS150*100*6.0": "RHS 150x100x6 CF", "C 200x75x20x2.5": "CF 200x75x20x2.5", "UNP200": "UPN 200", "200x75x23 PFC": "PFC 200x75x23",
    "BL10*100": "FL 100x10", "Ø20": "RD 20", "HEA200 - S355": "HEA 200", "Steel:HEA200": "HEA 200", "HE 200 A": "HEA 200", "SHS100*5": "SHS 100x100x5", "C380X74": "C15X50",
}  # fmt: skip


@pytest.mark.parametrize("name", SPELT)
def test_sections_in_the_spellings_in_use(name: str) -> None:
    found = by_name(name)
    assert found is not None and found.name == SPELT[name]


GRADES = {
    "St37-2": "S235", "S420M": "S420", "A572 Gr.50": "A572-50", "A500 Gr.B": "A500-B", "E250": "E250", "Q345B": "Q345", "S355J2+N": "S355", "S 355 JR": "S355", "Steel - S275JR": "S275",
    "ASTM A992": "A992", "A500 Grade C": "A500-C", "Fe 510 D": "S355", "Fe410": "E250", "G40.21 350W": "350W", "A53 Gr B": "A53-B", "A36": "A36", "S235JRG2": "S235", "STEEL/S355J0": "S355",
    "S355J2H": "S355", "A572-50": "A572-50", "EN 10025-2:S275": "S275", "A913 Gr 65": "A913-65", "SM490A": "SM490", "SS400": "SS400", "Q235B": "Q235", "IS2062 E350": "E350", "ST52-3": "S355",
}  # fmt: skip


@pytest.mark.parametrize("name", GRADES)
def test_grades_in_27_spellings(name: str) -> None:
    assert grade_of(name) == GRADES[name] and material_of(name) == "steel"


def _with_material(f: Lines, how: str) -> None:
    m = f.member(f.shape(f.extruded("IFCISHAPEPROFILEDEF(.AREA.,'IPE300',$,150.,300.,7.1,10.7,15.,$,$)")), name="B S275" if how == "name" else "M1")
    steel = f.add("IFCMATERIAL('Structural steel',$,'steel')")
    if how == "occurrence":
        f.add(f"IFCRELASSOCIATESMATERIAL('{f.n:022d}',$,$,$,({m}),{f.add(chr(73) + 'FCMATERIAL(' + chr(39) + 'S460' + chr(39) + ',$,$)')})")
    elif how == "type":
        kind = f.add(f"IFCBEAMTYPE('{f.n:022d}',$,'t',$,$,$,$,$,$,.BEAM.)")
        f.add(f"IFCRELDEFINESBYTYPE('{f.n:022d}',$,$,$,({m}),{kind})")
        grade = f.add("IFCMATERIAL('S355J2',$,$)")
        f.add(f"IFCRELASSOCIATESMATERIAL('{f.n:022d}',$,$,$,({kind}),{grade})")
    elif how == "constituents":
        grade = f.add("IFCMATERIAL('S235JR',$,$)")
        part = f.add(f"IFCMATERIALCONSTITUENT('body',$,{grade},$,$)")
        rows = f.add(f"IFCMATERIALCONSTITUENTSET('set',$,({part}))")
        f.add(f"IFCRELASSOCIATESMATERIAL('{f.n:022d}',$,$,$,({m}),{rows})")
    elif how == "property":
        f.add(f"IFCRELASSOCIATESMATERIAL('{f.n:022d}',$,$,$,({m}),{steel})")
        row = f.add("IFCPROPERTYSINGLEVALUE('Steel grade',$,IFCLABEL('A572 Gr.50'),$)")
        pset = f.add(f"IFCPROPERTYSET('{f.n:022d}',$,'Structural',$,({row}))")
        f.add(f"IFCRELDEFINESBYPROPERTIES('{f.n:022d}',$,$,$,({m}),{pset})")
    elif how == "none":
        f.add(f"IFCRELASSOCIATESMATERIAL('{f.n:022d}',$,$,$,({m}),{steel})")
    elif how in ("GL24h", "Concrete C30/37", "EN AW-6082 T6"):
        other = f.add(f"IFCMATERIAL('{how}',$,$)")
        f.add(f"IFCRELASSOCIATESMATERIAL('{f.n:022d}',$,$,$,({m}),{other})")


@pytest.mark.parametrize(
    ("how", "grade"), [("occurrence", "S460"), ("type", "S355"), ("constituents", "S235"), ("property", "A572-50"), ("name", "S275"), ("none", "unknown")]
)
def test_a_grade_is_found_wherever_it_stands_and_never_made_up(tmp_path: Path, how: str, grade: str) -> None:
    found, desk = taken(tmp_path / "g.ifc", Case(lambda f: _with_material(f, how)))
    (m,) = desk.project.members.values()
    rows = found.report()["grades"]
    assert m.grade == grade and sum(r["members"] for r in rows) == 1 and rows[0]["grade"] == grade
    if how == "none":  # what nobody told is asked, remembered and then known
        assert rows[0]["name"].startswith("Structural steel")
        desk.run("delete-members", ids=[m.id])
        desk.run("import-frame", path=str(tmp_path / "g.ifc"), meanings={"Structural steel": "S355"})
        assert [x.grade for x in desk.project.members.values()] == ["S355"]
        desk.run("delete-members", ids=list(desk.project.members))
        desk.run("import-frame", path=str(tmp_path / "g.ifc"))
        assert [x.grade for x in desk.project.members.values()] == ["S355"]


@pytest.mark.parametrize("material", ["GL24h", "Concrete C30/37", "EN AW-6082 T6"])
def test_what_is_no_steel_comes_in_as_reference(tmp_path: Path, material: str) -> None:
    found, desk = taken(tmp_path / "m.ifc", Case(lambda f: _with_material(f, material)))
    assert not desk.project.members and len(desk.project.references) == 1 and any(material in n for n in found.notes)


def _doubled(f: Lines) -> None:
    for y in (0, 3000):
        f.member(f.shape(f.extruded("IFCISHAPEPROFILEDEF(.AREA.,'IPE300',$,150.,300.,7.1,10.7,15.,$,$)")), f.place((0, y, 0)), name=f"D{y}", guid="2O2Fr$t4X7Zf8NOew3FLOH")


def test_an_identity_that_is_there_twice_is_said_and_made_unique(tmp_path: Path) -> None:
    found, desk = taken(tmp_path / "d.ifc", Case(_doubled))
    guids = [m.guid for m in desk.project.members.values()]
    assert len(set(guids)) == 2 and guids[0] == "2O2Fr$t4X7Zf8NOew3FLOH" and any("2O2Fr$t4X7Zf8NOew3FLOH is there twice" in n for n in found.notes)
    # the next issue of the same file has the same two
    assert [m.guid for m in import_ifc(tmp_path / "d.ifc").members] == guids


def _placed_on_earth(f: Lines) -> None:
    crs = f.add("IFCPROJECTEDCRS('EPSG:25832','made up','ETRS89','DHHN2016','UTM','32N',$)")
    f.add(f"IFCMAPCONVERSION({f.context},{crs},500123000.,5600456000.,78500.,0.8,0.6,$)")
    far = f.place((2_500_000, 1_800_000, 0))
    f.member(f.shape(f.extruded("IFCISHAPEPROFILEDEF(.AREA.,'IPE300',$,150.,300.,7.1,10.7,15.,$,$)")), far)
    buildings = []
    site = f.add(f"IFCSITE('{f.n:022d}',$,'s',$,$,{f.at},$,$,.ELEMENT.,$,$,$,$,$)")
    f.add(f"IFCRELAGGREGATES('{f.n:022d}',$,$,$,{f.project},({site}))")
    for name in ("North hall", "South hall"):
        building = f.add(f"IFCBUILDING('{f.n:022d}',$,'{name}',$,$,{f.at},$,$,.ELEMENT.,$,$,$)")
        storey = f.add(f"IFCBUILDINGSTOREY('{f.n:022d}',$,'Floor',$,$,{f.at},$,$,.ELEMENT.,0.)")
        f.add(f"IFCRELAGGREGATES('{f.n:022d}',$,$,$,{building},({storey}))")
        m = f.member(f.shape(f.extruded("IFCISHAPEPROFILEDEF(.AREA.,'IPE300',$,150.,300.,7.1,10.7,15.,$,$)")), f.place((2_500_000, 1_810_000 + 5000 * len(buildings), 0)), name=name)
        f.add(f"IFCRELCONTAINEDINSPATIALSTRUCTURE('{f.n:022d}',$,$,$,({m}),{storey})")
        buildings.append(building)
    f.add(f"IFCRELAGGREGATES('{f.n:022d}',$,$,$,{site},({','.join(buildings)}))")


def test_where_the_model_stands_is_kept_and_written_out_again(tmp_path: Path) -> None:
    _, desk = taken(tmp_path / "e.ifc", Case(_placed_on_earth))
    site = desk.project.tables["site"]["site"]
    assert (site.eastings, site.northings, site.height) == pytest.approx((500123.0, 5600456.0, 78.5)) and site.crs == "EPSG:25832"
    assert site.shift == pytest.approx((2500.0, 1800.0, 0.0)) and {v.building for v in desk.project.levels.values()} == {"North hall", "South hall"}
    out = export_ifc(desk.ledger, tmp_path / "out.ifc")
    f = ifcopenshell.open(str(out))
    (c,) = f.by_type("IfcMapConversion")
    assert (c.Eastings, c.Northings, c.XAxisAbscissa, c.Scale) == pytest.approx((500123.0, 5600456.0, 0.8, 0.001)) and c.TargetCRS.MapUnit.Name == "METRE"
    assert {b.Name: [s.Name for rel in b.IsDecomposedBy for s in rel.RelatedObjects] for b in f.by_type("IfcBuilding")} == {"North hall": ["Floor"], "South hall": ["Floor (2)"]}
    for name in ("North hall", "South hall"):
        m = next(b for b in f.by_type("IfcBeam") if b.Name == name)
        assert m.ContainedInStructure[0].RelatingStructure.Decomposes[0].RelatingObject.Name == name
    # the other engine finds every body where it was
    before, after = (sorted(float(p.min(axis=0)[1]) for p, _ in source_bodies(x)) for x in (tmp_path / "e.ifc", out))
    assert before == pytest.approx(after, abs=0.01)
    again = import_ifc(out)
    assert msgspec.structs.replace(again.site, north_deg=None) == site and [m.start for m in again.members] == [m.start for m in desk.project.members.values()]


def test_own_cuts_survive_export_and_import(tmp_path: Path) -> None:
    desk = Desk.create(tmp_path / "c.tincleat")
    desk.run(
        "add-members",
        members=[
            {"section": "IPE 300", "start": [0, 0, 3000], "end": [6000, 0, 3000], "name": "A", "grade": "S275"},
            {"section": "IPE 300", "start": [6000, 0, 3000], "end": [6000, 5000, 3000], "name": "B"},
            {"section": "HEB 200", "start": [3000, 0, 0], "end": [3000, 0, 2850], "role": "column", "name": "C"},
            {"section": "IPE 200", "start": [0, 0, 1000], "end": [3000, 0, 1000], "name": "D"},
        ],
    )
    desk.run("mitre-members", ids=["A", "B"])
    desk.run("trim-members", ids=["D"], to="C")
    desk.run("cut-polygon", ids=["A"], corners=[[1000, -60], [1400, -60], [1400, 60], [1000, 60]], radius=20)
    desk.run("place-all", family="base-plate")
    out = export_ifc(desk.ledger, tmp_path / "c.ifc")
    again = import_ifc(out)
    theirs = {m.name: m for m in again.members}
    for m in desk.project.members.values():
        n = theirs[m.name]
        assert n.grade == m.grade and math.dist(n.start, m.start) < 0.01 and math.dist(n.end, m.end) < 0.01
        assert len(n.cuts) == len(m.cuts) and len(n.outs) == len(m.outs), (m, n)
        a, b = solid(m), solid(n)
        assert (a - b).volume() + (b - a).volume() < 5.0 + 1e-5 * a.volume(), m.name
    desk.close()


def test_identities_of_what_goes_out_hang_on_the_project_alone(tmp_path: Path) -> None:
    def guids(desk: Desk, name: str) -> dict[str, set[str]]:
        f = ifcopenshell.open(str(export_ifc(desk.ledger, tmp_path / name)))
        out: dict[str, set[str]] = {}
        for e in f.by_type("IfcRoot"):
            out.setdefault(e.is_a(), set()).add(e.GlobalId)
        return out

    def made(name: str) -> Desk:
        desk = Desk.create(tmp_path / f"{name}.tincleat")
        desk.run("add-level", name="floor", elevation=0)
        desk.run("add-members", members=[{"section": "HEB 200", "start": [0, 0, 0], "end": [0, 0, 4000], "role": "column"}])
        desk.run("place-all", family="base-plate")
        return desk

    a, b = made("a"), made("b")
    first, other = guids(a, "1.ifc"), guids(b, "2.ifc")
    assert not any(first[k] & other[k] for k in first)
    a.run("set-house-rules", values={"title": "Renamed"})
    a.run("add-level", name="cellar", elevation=-3000)
    after = guids(a, "3.ifc")
    assert all(first[k] <= after[k] for k in first)


def _analysis(f: Lines, axis: tuple[float, float, float]) -> None:
    ends = [f.add(f"IFCVERTEXPOINT({f.point(*p)})") for p in ((0, 0, 3000), (6000, 0, 3000))]
    edge = f.add(f"IFCEDGE({ends[0]},{ends[1]})")
    rep = f.add(f"IFCTOPOLOGYREPRESENTATION({f.context},'Reference','Edge',({edge}))")
    shape = f.add(f"IFCPRODUCTDEFINITIONSHAPE($,$,({rep}))")
    m = f.add(f"IFCSTRUCTURALCURVEMEMBER('{f.n:022d}',$,'N1',$,$,{f.at},{shape},.RIGID_JOINED_MEMBER.,{f.way(*axis)})")
    material = f.add("IFCMATERIAL('S355',$,$)")
    profile = f.add("IFCISHAPEPROFILEDEF(.AREA.,'IPE300',$,150.,300.,7.1,10.7,15.,$,$)")
    row = f.add(f"IFCMATERIALPROFILE($,$,{material},{profile},$,$)")
    rows = f.add(f"IFCMATERIALPROFILESET($,$,({row}),$)")
    f.add(f"IFCRELASSOCIATESMATERIAL('{f.n:022d}',$,$,$,({m}),{rows})")


@pytest.mark.parametrize(("axis", "size"), [((0, 0, 1), (150, 300)), ((0, 1, 0), (300, 150)), ((0, 0.6, 0.8), (300 * 0.6 + 150 * 0.8, 300 * 0.8 + 150 * 0.6))])
def test_analysis_members_stand_as_their_axis_says(tmp_path: Path, axis: tuple[float, float, float], size: tuple[float, float]) -> None:
    # the depth lies along the member's axis: upright, flat, or leaning by 3 in 5
    _, desk = taken(tmp_path / "a.ifc", Case(lambda f: _analysis(f, axis)))
    (m,) = desk.project.members.values()
    assert np.ptp(member_mesh(m).points, axis=0)[1:] == pytest.approx(size, abs=0.05) and m.grade == "S355"


def test_unnamed_profiles_have_a_row_a_size_and_are_kept_as_sections_of_the_project(tmp_path: Path) -> None:
    found, desk = taken(tmp_path / "u.ifc", CASES["two sizes without a name"])
    rows = found.report()["profiles"]
    assert len(rows) == 2 and all("333" in r["name"] or "353" in r["name"] for r in rows) and [r["members"] for r in rows] == [1, 1]
    assert len(desk.project.own) == 2
    desk.undo()
    assert not desk.project.own and not desk.project.members
    desk.redo()
    path = desk.store.path
    desk.close()
    again = Desk.open(path)
    assert {again.project.section(m.section).h for m in again.project.members.values()} == {333.0, 353.0} and not again.faults()


def _weighed(f: Lines, kg: float) -> None:
    m = f.member(f.shape(f.extruded("IFCISHAPEPROFILEDEF(.AREA.,'IPE300',$,150.,300.,7.1,10.7,15.,$,$)")))
    q = f.add(f"IFCQUANTITYWEIGHT('NetWeight',$,$,{kg!r},$)")
    rows = f.add(f"IFCELEMENTQUANTITY('{f.n:022d}',$,'Qto_BeamBaseQuantities',$,$,({q}))")
    f.add(f"IFCRELDEFINESBYPROPERTIES('{f.n:022d}',$,$,$,({m}),{rows})")


def test_masses_are_compared_with_the_files_own_quantities(tmp_path: Path) -> None:
    # IPE 300 weighs 42.2 kg/m: 253.2 kg over 6 m
    found, _ = taken(tmp_path / "w.ifc", Case(lambda f: _weighed(f, 253.0)))
    assert found.report()["quantities"] == {"members": 1, "file_kg": 253.0, "ours_kg": pytest.approx(253.2, abs=0.5)} and not any("the file says" in n for n in found.notes)
    found, _ = taken(tmp_path / "x.ifc", Case(lambda f: _weighed(f, 400.0)))
    assert any("the file says 400.0 kg" in n and found.members[0].guid in n for n in found.notes)


def test_a_file_in_feet_offers_a_project_in_feet(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    f = Lines()
    f.member(f.shape(f.extruded("IFCISHAPEPROFILEDEF(.AREA.,'W14X74',$,0.8391667,1.1833333,0.0375,0.0654167,0.05,$,$)", 20.0)))
    text = f.text()
    metre = f"#{f.n + 1}=IFCSIUNIT(*,.LENGTHUNIT.,$,.METRE.);\n#{f.n + 2}=IFCMEASUREWITHUNIT(IFCLENGTHMEASURE(0.3048),#{f.n + 1});\n#{f.n + 3}=IFCDIMENSIONALEXPONENTS(1,0,0,0,0,0,0);\n"
    text = text.replace("#1=IFCSIUNIT(*,.LENGTHUNIT.,.MILLI.,.METRE.);", f"{metre}#1=IFCCONVERSIONBASEDUNIT(#{f.n + 3},.LENGTHUNIT.,'FOOT',#{f.n + 2});")
    (tmp_path / "f.ifc").write_text(text)
    assert main(["import", str(tmp_path / "f.ifc"), "-o", str(tmp_path / "a.tincleat")]) == 0
    assert "measures in foot; --inch makes" in capsys.readouterr().out
    assert main(["import", str(tmp_path / "f.ifc"), "-o", str(tmp_path / "b.tincleat"), "--inch"]) == 0
    desk = Desk.open(tmp_path / "b.tincleat")
    (m,) = desk.project.members.values()
    assert desk.project.house.units == "ft-in" and desk.project.house.rule_set == "AISC" and m.section == "W14X74" and m.end == pytest.approx((6096, 0, 0))


def test_what_goes_out_with_a_place_on_the_map_is_valid(tmp_path: Path) -> None:
    _, desk = taken(tmp_path / "v.ifc", Case(_placed_on_earth))
    out = export_ifc(desk.ledger, tmp_path / "out.ifc")
    logger = ifcopenshell.validate.json_logger()
    ifcopenshell.validate.validate(ifcopenshell.open(str(out)), logger, express_rules=True)
    assert logger.statements == []


@pytest.mark.parametrize("name", [n for n in CASES if n.startswith("Z ")])
def test_a_zed_lies_as_it_was_drawn(tmp_path: Path, name: str) -> None:
    _, desk = taken(tmp_path / "f.ifc", CASES[name])
    (member,) = desk.project.members.values()
    settings = ifcopenshell.geom.settings()
    settings.set("use-world-coords", True)
    file = ifcopenshell.open(str(tmp_path / "f.ifc"))
    (product,) = [*file.by_type("IfcBeam"), *file.by_type("IfcColumn"), *file.by_type("IfcMember")]
    shape = ifcopenshell.geom.create_shape(settings, product)
    points, faces = np.array(shape.geometry.verts).reshape(-1, 3) * 1000, np.array(shape.geometry.faces, dtype=np.uint64).reshape(-1, 3)
    theirs = manifold3d.Manifold(manifold3d.Mesh64(vert_properties=np.ascontiguousarray(points), tri_verts=faces))
    ours = solid(member)
    # theirs has sharp corners: ours lies inside it but for four fillets of 3, (4 - pi) x 9 = 7.7 mm² of 700 or so; a flange on the wrong side is a fifth of it
    assert (theirs ^ ours).volume() == pytest.approx(ours.volume(), rel=0.015) and theirs.volume() == pytest.approx(ours.volume(), rel=0.03)
