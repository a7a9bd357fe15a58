"""Frames read from IFC: our own round trip, other writers' ways, and hostile files."""

import json
import math
from collections.abc import Callable, Iterator
from pathlib import Path

import ifcopenshell
import ifcopenshell.validate
import numpy as np
import pytest

from tincleat.catalogue.recognise import by_name, by_outline, by_sizes
from tincleat.catalogue.sections import catalogue, section
from tincleat.cli import main
from tincleat.commands.desk import Desk
from tincleat.demo.registry import make_demo
from tincleat.errors import BadFile, BadValue, Cancelled, TinCleatError
from tincleat.exchange.ifc import export_ifc
from tincleat.exchange.ifc_bodies import bar_of
from tincleat.exchange.ifc_in import import_ifc as read_ifc
from tincleat.geometry.frames import Frame
from tincleat.geometry.mesh import Mesh, cylinder, overlap_volume, prism
from tincleat.geometry.outline import Outline
from tincleat.project.members import axis_frame, length
from tincleat.project.places import crossings
from tincleat.steel.body import steel_mesh
from tincleat.steel.cuts import Cuts, Notch

Head = "ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\nFILE_NAME('t','',(''),(''),'','','');\nFILE_SCHEMA(('{schema}'));\nENDSEC;\nDATA;\n"


def spf(schema: str, lines: list[str]) -> str:
    return Head.format(schema=schema) + "\n".join(lines) + "\nENDSEC;\nEND-ISO-10303-21;\n"


def owner(schema: str) -> str:
    return "#900" if schema == "IFC2X3" else "$"


def base(schema: str, prefix: str = ".MILLI.") -> list[str]:
    return [
        "#900=IFCOWNERHISTORY(#903,#904,$,.ADDED.,$,$,$,0);", "#901=IFCPERSON($,'a',$,$,$,$,$,$);", "#902=IFCORGANIZATION($,'o',$,$,$);",
        "#903=IFCPERSONANDORGANIZATION(#901,#902,$);", "#904=IFCAPPLICATION(#902,'1','made up','m');", f"#1=IFCSIUNIT(*,.LENGTHUNIT.,{prefix},.METRE.);",
        "#2=IFCUNITASSIGNMENT((#1));", f"#3=IFCPROJECT('0000000000000000000001',{owner(schema)},'p',$,$,$,$,(#6),#2);", "#4=IFCCARTESIANPOINT((0.,0.,0.));",
        "#5=IFCAXIS2PLACEMENT3D(#4,$,$);", "#6=IFCGEOMETRICREPRESENTATIONCONTEXT($,'Model',3,1.E-05,#5,$);", "#7=IFCLOCALPLACEMENT($,#5);", "#8=IFCDIRECTION((0.,0.,1.));",
    ]  # fmt: skip


def beam(
    n: int, schema: str, profile: str, depth: str, at: str = "(0.,0.,0.)", kind: str = "IFCBEAM", way: str = "(1.,0.,0.)", ref: str = "(0.,1.,0.)"
) -> list[str]:
    """Lines of one extruded member numbered from ``n``: local x of the profile along ``ref``, swept along ``way``."""
    tail = ",$" if schema != "IFC2X3" else ""
    return [
        f"#{n}=IFCCARTESIANPOINT({at});", f"#{n + 1}=IFCDIRECTION({way});", f"#{n + 2}=IFCDIRECTION({ref});", f"#{n + 3}=IFCAXIS2PLACEMENT3D(#{n},#{n + 1},#{n + 2});",
        f"#{n + 4}=IFCLOCALPLACEMENT(#7,#{n + 3});", f"#{n + 5}=IFCEXTRUDEDAREASOLID({profile},#5,#8,{depth});",
        f"#{n + 6}=IFCSHAPEREPRESENTATION(#6,'Body','SweptSolid',(#{n + 5}));", f"#{n + 7}=IFCPRODUCTDEFINITIONSHAPE($,$,(#{n + 6}));",
        f"#{n + 8}={kind}('{n:022d}',{owner(schema)},'B{n}',$,$,#{n + 4},#{n + 7},$" + tail + ");",
    ]  # fmt: skip


def write(path: Path, schema: str, lines: list[str]) -> Path:
    path.write_text(spf(schema, lines))
    return path


@pytest.fixture(scope="module")
def exported(tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[Desk, Path]]:
    folder = tmp_path_factory.mktemp("out")
    desk = make_demo("boathouse", folder / "b.tincleat")
    yield desk, export_ifc(desk.ledger, folder / "b.ifc")
    desk.close()


def test_our_export_comes_back_the_same(exported: tuple[Desk, Path], tmp_path: Path) -> None:
    desk, path = exported
    again = Desk.create(tmp_path / "again.tincleat")
    again.run("import-frame", path=str(path))
    old, new = list(desk.project.members.values()), {m.name: m for m in again.project.members.values()}
    assert len(old) == len(new)
    for m in old:
        n = new[m.name]
        assert (m.section, m.grade, m.role, m.cardinal) == (n.section, n.grade, n.role, n.cardinal)
        assert math.dist(m.start, n.start) < 0.01 and math.dist(m.end, n.end) < 0.01
        assert np.allclose(axis_frame(m).axes, axis_frame(n).axes, atol=1e-6) and math.dist(axis_frame(m).origin, axis_frame(n).origin) < 0.01
    cases = lambda d: sorted((e.joint.kind, repr(e.joint.case), e.joint.mirrored) for e in d.ledger.entries.values())  # noqa: E731
    assert cases(desk) == cases(again)
    # taken in twice is refused, and nothing has changed
    before = dict(again.project.members)
    with pytest.raises(BadValue, match="in the project already"):
        again.run("import-frame", path=str(path))
    assert again.project.members == before
    again.close()


def test_every_shape_and_hand_comes_back(tmp_path: Path) -> None:
    """Each kind of section, rolled, sloping, hung by every cardinal point, with offsets."""
    desk = Desk.create(tmp_path / "k.tincleat")
    names = [
        "IPE 300",
        "UPN 200",
        "PFC 200x75x23",
        "L 150x75x9",
        "L 80x80x8",
        "W14X74",
        "WT6X20",
        "RHS 200x100x8",
        "CHS 114.3x5",
        "FL 150x12",
        "RD 24",
        "Z 200x65x20x2",
        "CF 200x65x20x2",
        "IPN 200",
    ]
    names = [n for n in names if _there(n)]
    cardinals = ["centre", "top", "left", "bottom right", "centroid", "top", "right"]
    members = [
        {"section": n, "start": [0, 3000 * i, 0], "end": [5000 + 10 * i, 3000 * i + 700, 200 * i], "roll_deg": roll, "cardinal": cardinals[(i + k) % 7], "offset": [(5.0, -7.0), (0.0, 0.0)][k % 2]}
        for k, roll in enumerate((0, 37, 90, 180, -120)) for i, n in enumerate(names)
    ]  # fmt: skip
    desk.run("add-members", members=members)
    path = export_ifc(desk.ledger, tmp_path / "k.ifc")
    found = {m.name: m for m in read_ifc(path).members}
    for m in desk.project.members.values():
        n = found[m.name]
        assert n.section == m.section and math.dist(m.start, n.start) < 0.01 and math.dist(m.end, n.end) < 0.01, m
        assert math.dist(axis_frame(m).origin, axis_frame(n).origin) < 0.01 and np.allclose(axis_frame(m).axes, axis_frame(n).axes, atol=1e-5), m
    desk.close()


def _there(name: str) -> bool:
    try:
        return bool(section(name))
    except TinCleatError:
        return False


@pytest.mark.parametrize("schema", ["IFC2X3", "IFC4", "IFC4X3"])
def test_a_beam_by_parameters(tmp_path: Path, schema: str) -> None:
    tail = ",$" if schema == "IFC2X3" else ",$,$"
    # IPE 300: 150 wide, 300 deep, web 7.1, flanges 10.7, root 15; swept 6 m along x, the profile's y up
    profile = f"#20=IFCISHAPEPROFILEDEF(.AREA.,'no name',$,150.,300.,7.1,10.7,15.{tail if schema != 'IFC2X3' else ''});"
    found = read_ifc(write(tmp_path / "a.ifc", schema, [*base(schema), profile, *beam(100, schema, "#20", "6000.", "(1000.,2000.,3000.)")]))
    (m,) = found.members
    assert m.section == "IPE 300" and m.start == (1000, 2000, 3000) and m.end == (7000, 2000, 3000) and m.role == "beam" and m.guid == f"{100:022d}"
    assert axis_frame(m).z == pytest.approx((0, 0, 1)) and found.report()["profiles"][0]["by"] == "sizes"


def test_metres_outlines_mapped_items_and_names(tmp_path: Path) -> None:
    s = "IFC2X3"
    lines = base(s, "$")
    lines += ["#20=IFCRECTANGLEHOLLOWPROFILEDEF(.AREA.,'RHS',#30,0.2,0.1,0.008,$,$);", "#30=IFCAXIS2PLACEMENT2D(#31,$);", "#31=IFCCARTESIANPOINT((0.,0.05));"]
    lines += beam(100, s, "#20", "4.5")
    # an unequal angle drawn as a polyline about its heel, mirrored: 150 along -x, 75 up, 9 thick
    pts = [(0, 0), (0, 0.075), (-0.009, 0.075), (-0.009, 0.009), (-0.15, 0.009), (-0.15, 0)]
    lines += [f"#{40 + i}=IFCCARTESIANPOINT(({x},{y}));" for i, (x, y) in enumerate(pts)]
    lines += ["#50=IFCPOLYLINE((#40,#41,#42,#43,#44,#45,#40));", "#51=IFCARBITRARYCLOSEDPROFILEDEF(.AREA.,'angle',#50);", *beam(200, s, "#51", "3.")]
    # a mapped item: the solid is drawn once and put elsewhere
    lines += ["#60=IFCCIRCLEHOLLOWPROFILEDEF(.AREA.,'TUBE',$,0.05715,0.005);", "#61=IFCEXTRUDEDAREASOLID(#60,#5,#8,2.);", "#62=IFCSHAPEREPRESENTATION(#6,'Body','SweptSolid',(#61));",
              "#63=IFCREPRESENTATIONMAP(#5,#62);", "#64=IFCCARTESIANPOINT((0.,0.,1.));", "#65=IFCCARTESIANTRANSFORMATIONOPERATOR3D($,$,#64,$,$);", "#66=IFCMAPPEDITEM(#63,#65);",
              "#67=IFCSHAPEREPRESENTATION(#6,'Body','MappedRepresentation',(#66));", "#68=IFCPRODUCTDEFINITIONSHAPE($,$,(#67));", "#69=IFCCOLUMN('0000000000000000000069',#900,'C',$,$,#7,#68,$);"]  # fmt: skip
    # a name in another spelling on a profile that has no sizes we know
    lines += ["#70=IFCISHAPEPROFILEDEF(.AREA.,'HE 200 A',$,0.2,0.19,0.0065,0.01,0.018);", *beam(300, s, "#70", "5.")]
    found = read_ifc(write(tmp_path / "m.ifc", s, lines))
    assert not found.left, found.left
    by_name_ = {m.name: m for m in found.members}
    rhs, angle, tube, hea = by_name_["B100"], by_name_["B200"], by_name_["C"], by_name_["B300"]
    # profile x is world y (ref), profile y world z: 200 lies across, and the profile sits 50 above the line
    assert rhs.section == "RHS 200x100x8" and rhs.start == (0, 0, 50) and rhs.end == (4500, 0, 50) and abs(axis_frame(rhs).z[1]) == pytest.approx(1)
    assert hea.section == "HEA 200" and hea.end == (5000, 0, 0)
    assert tube.section == "CHS 114.3x5" and tube.start == (0, 0, 1000) and tube.end == (0, 0, 3000) and tube.role == "column"
    assert angle.section == "L 150x75x9" and length(angle) == 3000
    # wherever start and end are, the steel lies where it was drawn: heel at y = z = 0, long leg along -y, short leg up
    frame = axis_frame(angle)
    corners = frame.to_world(np.column_stack([np.zeros(4), [(-37.5, -75), (37.5, -75), (-37.5, 75), (37.5, 75)]]))
    assert corners[:, 1].min() == pytest.approx(-150, abs=0.5) and corners[:, 1].max() == pytest.approx(0, abs=0.5)
    assert corners[:, 2].min() == pytest.approx(0, abs=0.5) and corners[:, 2].max() == pytest.approx(75, abs=0.5)
    heel = frame.to_world(np.array([(0.0, -37.5, -75.0)]))[0]
    assert heel[1:] == pytest.approx((0, 0), abs=0.5)


def test_analysis_members_and_the_mapping_table(tmp_path: Path) -> None:
    lines = [*base("IFC4"), "#20=IFCVERTEXPOINT(#4);", "#21=IFCCARTESIANPOINT((0.,0.,5000.));", "#22=IFCVERTEXPOINT(#21);", "#23=IFCEDGE(#20,#22);", "#24=IFCTOPOLOGYREPRESENTATION(#6,'Reference','Edge',(#23));",
             "#25=IFCPRODUCTDEFINITIONSHAPE($,$,(#24));", "#26=IFCSTRUCTURALCURVEMEMBER('0000000000000000000026',$,'N1',$,$,#7,#25,.RIGID_JOINED_MEMBER.,#8);",
             "#27=IFCMATERIAL('S275JR',$,$);", "#28=IFCASYMMETRICISHAPEPROFILEDEF(.AREA.,'Stock 17',$,111.,222.,3.3,4.4,5.,90.,4.4,$,$,$,$,$);", "#29=IFCMATERIALPROFILE($,$,#27,#28,$,$);",
             "#30=IFCMATERIALPROFILESET($,$,(#29),$);", "#31=IFCRELASSOCIATESMATERIAL('0000000000000000000031',$,$,$,(#26),#30);"]  # fmt: skip
    path = write(tmp_path / "s.ifc", "IFC4", lines)
    found = read_ifc(path)
    assert not found.members and "like no section" in found.left[0]["why"]
    desk = Desk.create(tmp_path / "s.tincleat")
    with pytest.raises(BadFile, match="nothing in the file"):
        desk.run("import-frame", path=str(path))
    desk.run("set-meaning", name="Stock 17", section="ipe220")
    desk.run("import-frame", path=str(path))
    (m,) = desk.project.members.values()
    assert (m.section, m.grade, m.role, m.start, m.end, m.name) == ("IPE 220", "S275", "column", (0, 0, 0), (0, 0, 5000), "N1")
    desk.close()


def test_other_trades_become_reference(tmp_path: Path) -> None:
    lines = [*base("IFC4"), "#20=IFCISHAPEPROFILEDEF(.AREA.,'IPE300',$,150.,300.,7.1,10.7,15.,$,$);", *beam(100, "IFC4", "#20", "6000."),
             "#40=IFCRECTANGLEPROFILEDEF(.AREA.,$,$,4000.,300.);", *beam(200, "IFC4", "#40", "2500.", "(0.,5000.,0.)", "IFCWALL", "(0.,0.,1.)", "(1.,0.,0.)"),
             "#50=IFCRECTANGLEPROFILEDEF(.AREA.,'timber',$,140.,360.);", *beam(300, "IFC4", "#50", "3000.")]  # fmt: skip
    desk = Desk.create(tmp_path / "r.tincleat")
    assert desk.run("import-frame", path=str(write(tmp_path / "r.ifc", "IFC4", lines))) == "Import 1 member, 2 reference bodies"
    wall = next(b for b in desk.project.references.values() if b.kind == "IfcWall")
    assert np.ptp(np.array(wall.points), axis=0) == pytest.approx((4000, 300, 2500), abs=1)
    assert {b.kind for b in desk.project.references.values()} == {"IfcWall", "IfcBeam"}
    with pytest.raises(TinCleatError, match="no reference body"):
        desk.run("delete-references", ids=["IfcSlab"])
    with pytest.raises(TinCleatError, match="locked"):
        desk.run("delete-references", ids=["IfcWall"])
    assert len(desk.project.references) == 2
    desk.run("lock-references", ids=["IfcWall"], locked=False)
    assert desk.run("delete-references", ids=["IfcWall"]) == "Delete 1 reference body" and len(desk.project.references) == 1
    desk.undo()
    desk.undo()
    desk.undo()
    assert not desk.project.references and not desk.project.members
    desk.close()


BAD: dict[str, tuple[Callable[[list[str]], list[str]], str]] = {
    "cyclic placement": (lambda x: [*x, "#104=IFCLOCALPLACEMENT(#104,#103);"], "refers to itself"),
    "no length": (lambda x: [line.replace("6000.", "0.") for line in x], "no length"),
    "direction of nothing": (lambda x: [line.replace("IFCDIRECTION((1.,0.,0.))", "IFCDIRECTION((0.,0.,0.))") for line in x], "no length"),
    "missing profile": (lambda x: [line.replace("IFCEXTRUDEDAREASOLID(#20", "IFCEXTRUDEDAREASOLID($") for line in x], ""),
    "parallel axes": (lambda x: [line.replace("IFCDIRECTION((0.,1.,0.))", "IFCDIRECTION((1.,0.,0.))") for line in x], "parallel"),
    "nothing is a number": (lambda x: [line.replace("(1000.,0.,0.)", "(1.E400,0.,0.)") for line in x], ""),
    "far away": (lambda x: [line.replace("(1000.,0.,0.)", "(9.E12,0.,0.)") for line in x], ""),
}


@pytest.mark.parametrize("name", BAD)
def test_a_broken_member_is_named_and_the_good_ones_come_in(tmp_path: Path, name: str) -> None:
    spoil, words = BAD[name]
    good = [
        *base("IFC4"),
        "#20=IFCISHAPEPROFILEDEF(.AREA.,'IPE300',$,150.,300.,7.1,10.7,15.,$,$);",
        *beam(200, "IFC4", "#20", "5000.", "(0.,3000.,0.)"),
        *beam(300, "IFC4", "#20", "5000.", "(0.,6000.,0.)"),
    ]
    bad = spoil(beam(100, "IFC4", "#20", "6000.", "(1000.,0.,0.)"))
    if name == "cyclic placement":
        bad = [line for line in bad if not line.startswith("#104=IFCLOCALPLACEMENT(#7")]
    found = read_ifc(write(tmp_path / "h.ifc", "IFC4", [*good, *bad]))
    assert {m.name for m in found.members} >= {"B200", "B300"}
    assert len(found.members) == 2 and len(found.left) == 1 and words in found.left[0]["why"], (found.left, found.members)


def test_far_models_come_near_and_wrong_units_are_said(tmp_path: Path) -> None:
    lines = [
        *base("IFC4"),
        "#20=IFCISHAPEPROFILEDEF(.AREA.,'IPE300',$,150.,300.,7.1,10.7,15.,$,$);",
        *beam(100, "IFC4", "#20", "6000.", "(512000000.,4100000000.,0.)"),
    ]
    found = read_ifc(write(tmp_path / "f.ifc", "IFC4", lines))
    assert found.members[0].start == (0, 0, 0) and any("far from the origin" in n for n in found.notes)
    found = read_ifc(
        write(
            tmp_path / "u.ifc",
            "IFC4",
            [*base("IFC4"), "#20=IFCISHAPEPROFILEDEF(.AREA.,'IPE300',$,0.15,0.3,0.0071,0.0107,0.015,$,$);", *beam(100, "IFC4", "#20", "6.")],
        )
    )
    assert any("import it with a unit" in n for n in found.notes) or found.left
    right = read_ifc(tmp_path / "u.ifc", unit_name="m")
    assert right.members[0].section == "IPE 300" and right.members[0].end == (6000, 0, 0)
    with pytest.raises(BadValue, match="no unit"):
        read_ifc(tmp_path / "u.ifc", unit_name="furlong")


def test_files_that_are_no_ifc(tmp_path: Path) -> None:
    (tmp_path / "empty.ifc").write_text("")
    (tmp_path / "text.ifc").write_text("hello\n" * 100)
    (tmp_path / "bytes.ifc").write_bytes(bytes(range(256)) * 40)
    for name, words in (("none.ifc", "no such file"), ("empty.ifc", "empty"), ("text.ifc", "not an IFC"), ("bytes.ifc", "not an IFC"), (".", "folder")):
        with pytest.raises(BadFile, match=words):
            read_ifc(tmp_path / name)
    (tmp_path / "schema.ifc").write_text(spf("AP203", []))
    with pytest.raises(BadFile):
        read_ifc(tmp_path / "schema.ifc")


@pytest.mark.parametrize("share", [0.2, 0.5, 0.8, 0.98])
def test_a_truncated_file_gives_a_report(exported: tuple[Desk, Path], tmp_path: Path, share: float) -> None:
    text = exported[1].read_text()
    (tmp_path / "t.ifc").write_text(text[: int(len(text) * share)])
    found = read_ifc(tmp_path / "t.ifc")
    # members come first in the file: half of it holds some of them whole, and every line before the break is read
    assert len(found.members) + len(found.left) > 0 or share < 0.3
    assert len(found.members) == 109 or any("damaged" in n for n in found.notes)


def test_stopped_half_way(exported: tuple[Desk, Path]) -> None:
    with pytest.raises(Cancelled):
        read_ifc(exported[1], progress=lambda share, words: share < 0.1)


def test_command_line(exported: tuple[Desk, Path], tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    target = tmp_path / "in.tincleat"
    assert main(["import", str(exported[1]), "-o", str(target), "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    assert report["taken"] == 109 and report["left_out"] == 0 and report["roles"]["brace"] == 16 and target.exists()
    assert main(["import", str(tmp_path / "none.ifc"), "-o", str(tmp_path / "x.tincleat")]) == 2
    assert not (tmp_path / "x.tincleat").exists() and "no such file" in capsys.readouterr().err
    assert main(["import", str(exported[1]), "--mean", "UB=blah"]) == 2
    assert main(["info", str(target), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["roles"]["column"] == 28 and told["sections"]["UB 406x178x60"] == 16


@pytest.mark.parametrize(
    ("said", "meant"),
    [("HE200A", "HEA 200"), ("HEA-200", "HEA 200"), ("HE 300 B", "HEB 300"), ("ipe300", "IPE 300"), ("I_300", "IPE 300"), ("UB305*165*40", "UB 305x165x40"), ("W14x74", "W14X74"),
     ("CHS114.3*5.0", "CHS 114.3x5"), ("SHS100x5", "SHS 100x100x5"), ("L80x8", "L 80x80x8"), ("U200", "UPN 200"), ("FLAT 100x10", "FL 100x10"), ("D24", "RD 24")],
)  # fmt: skip
def test_names_as_others_spell_them(said: str, meant: str) -> None:
    found = by_name(said)
    assert found is not None and found.name == meant


def test_names_that_mean_nothing() -> None:
    assert by_name("Concrete 300x300") is None and by_name("") is None and by_name("Q17") is None


@pytest.mark.parametrize("name", ["IPE 300", "UPN 200", "L 150x75x9", "RHS 200x100x8", "CHS 114.3x5", "W14X74", "WT6X20"])
@pytest.mark.parametrize("turn", [0, 1, 2, 3])
@pytest.mark.parametrize("mirror", [False, True])
def test_best_fit_of_an_outline_turned_and_mirrored(name: str, turn: int, mirror: bool) -> None:
    """The outline brought back by what the match says is the section's own outline."""
    s = section(name)
    c, k = ((1, 0), (0, 1), (-1, 0), (0, -1))[turn]
    matrix = np.array([(c, -k), (k, c)]) @ np.diag([-1.0 if mirror else 1.0, 1.0])
    rings = [ring.points(0.3) @ matrix.T + (40, -20) for ring in (s.outer, *s.inner)]
    match, middle = by_outline(rings)
    assert match is not None and match.section == name and match.confidence > 0.97 and match.by == "outline"
    cc, kk = ((1, 0), (0, 1), (-1, 0), (0, -1))[match.turn]
    to_profile = np.diag([-1.0 if match.mirrored else 1.0, 1.0]) @ np.array([(cc, -kk), (kk, cc)])
    back = s.outer.points(0.3) @ to_profile.T + middle
    gaps = np.linalg.norm(back[:, None] - rings[0][None], axis=2).min(axis=1)
    assert gaps.max() < 1.0


def test_by_sizes_prefers_the_name() -> None:
    doubles = [(s.name, s) for s in catalogue().values() if s.shape == "I"]
    for name, s in doubles[::40]:
        match = by_sizes("I", s.h, s.b, s.tw, s.tf, name)
        assert match is not None and match.section == name
    assert by_sizes("I", 301, 333, 7, 10) is None


def test_ifcopenshell_reads_our_axis(exported: tuple[Desk, Path]) -> None:
    model = ifcopenshell.open(str(exported[1]))
    rep = [r for e in model.by_type("IfcBeam")[:5] for r in e.Representation.Representations]
    assert {r.RepresentationIdentifier for r in rep} == {"Axis", "Body"}


def test_project_north_goes_out(tmp_path: Path) -> None:
    desk = Desk.create(tmp_path / "n.tincleat")
    desk.run("set-house-rules", values={"north_deg": 60})
    desk.run("add-members", members=[{"section": "IPE 200", "start": [0, 0, 0], "end": [3000, 0, 0]}])
    model = ifcopenshell.open(str(export_ifc(desk.ledger, tmp_path / "n.ifc")))
    (context,) = model.by_type("IfcGeometricRepresentationContext", include_subtypes=False)
    assert context.TrueNorth.DirectionRatios == pytest.approx((0.5, math.sqrt(3) / 2))
    with pytest.raises(BadValue, match="North: 1000 is outside its limits"):
        desk.run("set-house-rules", values={"north_deg": 1000})
    desk.close()


BARE = ["IPE 300", "UC 203x203x46", "UPN 200", "PFC 200x75x23", "L 150x75x9", "RHS 200x100x8", "CHS 114.3x5", "HSS8X4X1/4"]


@pytest.mark.parametrize(("name", "coped"), [*((name, False) for name in BARE), ("IPE 300", True), ("UPN 200", True)])
def test_bare_bodies_are_fitted_to_the_catalogue(tmp_path: Path, name: str, coped: bool) -> None:
    """A bar given as nothing but triangles, turned at will: its section, its ends, and its steel lies where the body was."""
    shape, frame = section(name), Frame.of((1200.0, -300.0, 2500.0), (0.8, 0.5, 0.2), (0.1, -0.3, 1.0))
    z = 50.0
    notch = Notch("n", 0, Frame((0.0, 200.0, 0.0), (1.0, 0.0, 0.0), (0.0, -1.0, 0.0)), Outline.rectangle(-10, z, 300, 200), 400.0)
    body = steel_mesh(shape, Cuts(notches=(notch,) if coped else ()), 0.0, 3200.0, 4).placed(frame)
    lines = base("IFC4")
    points = ",".join(f"({x:.6f},{y:.6f},{z:.6f})" for x, y, z in body.points.tolist())
    faces = ",".join(f"({a + 1},{b + 1},{c + 1})" for a, b, c in body.triangles.tolist())
    lines += [
        f"#20=IFCCARTESIANPOINTLIST3D(({points}));", f"#21=IFCTRIANGULATEDFACESET(#20,$,.T.,({faces}),$);",
        "#22=IFCSHAPEREPRESENTATION(#6,'Body','Tessellation',(#21));", "#23=IFCPRODUCTDEFINITIONSHAPE($,$,(#22));",
        "#24=IFCBEAM('0000000000000000000024',$,'bare',$,$,#7,#23,$,$);",
    ]  # fmt: skip
    found = read_ifc(write(tmp_path / "b.ifc", "IFC4", lines))
    assert len(found.members) == 1 and not found.bodies and any("its body is like" in note for note in found.notes), found.notes
    (m,) = found.members
    got = section(m.section)
    assert (got.shape, got.h, got.b) == (shape.shape, pytest.approx(shape.h, abs=1), pytest.approx(shape.b, abs=1))
    assert length(m) == pytest.approx(3200, abs=0.1)
    assert {tuple(np.round(p, 0)) for p in (m.start, m.end)} == {tuple(np.round(frame.to_world([(x, 0.0, 0.0)])[0], 0)) for x in (0.0, 3200.0)}
    made = steel_mesh(got, Cuts(), 0.0, length(m), 4).placed(axis_frame(m))
    if shape.shape == "CHS":  # chords of one pipe lie between those of the other
        assert made.volume == pytest.approx(body.volume, rel=0.001)
    else:
        assert overlap_volume(made, body) == pytest.approx(body.volume, rel=0.01)


def test_bodies_that_are_no_bars_stay_reference(tmp_path: Path) -> None:
    ball = cylinder(400, 0.0, 300.0, 24)  # as wide as it is long
    wedge = Mesh(np.array([(0.0, 0, 0), (3000, 0, 0), (0, 400, 0), (0, 0, 300)]), np.array([[0, 2, 1], [0, 1, 3], [0, 3, 2], [1, 2, 3]], dtype=np.int32))
    block = prism(Outline.rectangle(-210, -333, 210, 333), (), 0.0, 4000.0)
    for body in (ball, wedge, block):
        assert bar_of(body.points, body.triangles) is None


def test_grids_go_out_and_come_back(tmp_path: Path) -> None:
    desk = Desk.create(tmp_path / "g.tincleat")
    desk.run("add-grid", name="main", x="3@6000 4500", y="2@5000", origin=[1000, -500, 0], angle_deg=15)
    desk.run("add-grid", name="lookout", x="4000", y="3500", origin=[40000, 0, 3000], x_labels=["X1", "X2"], y_labels=["Y1", "Y2"])
    desk.run("add-level", name="deck", elevation=3000)
    desk.run("add-columns", section="HEB 200", at=["main:A1"], base=0, top=4000)
    path = export_ifc(desk.ledger, tmp_path / "g.ifc")
    file = ifcopenshell.open(str(path))
    logger = ifcopenshell.validate.json_logger()
    ifcopenshell.validate.validate(file, logger, express_rules=True)
    assert logger.statements == [] and [len(g.UAxes) + len(g.VAxes) for g in file.by_type("IfcGrid")] == [8, 4]
    again = Desk.create(tmp_path / "again.tincleat")
    again.run("import-frame", path=str(path))
    old, new = list(desk.project.grids.values()), list(again.project.grids.values())
    for a, b in zip(old, new, strict=True):
        assert (a.name, a.x, a.y) == (b.name, b.x, b.y) and b.origin == pytest.approx(a.origin, abs=0.001) and b.angle == pytest.approx(a.angle, abs=1e-8)
    # somebody else's numbers run the other way: the lines stay where they are, with their names
    other = tmp_path / "other.ifc"
    axes = next(e for e in file.by_type("IfcGrid") if e.Name == "lookout")
    axes.UAxes = tuple(reversed(axes.UAxes))
    axes.VAxes = tuple(reversed(axes.VAxes))
    file.write(str(other))
    found = next(g for g in read_ifc(other).grids if g.name == "lookout")
    assert {tuple(np.round(at, 2)): "".join(k) for k, at in crossings(found).items()} == {
        tuple(np.round(at, 2)): "".join(k) for k, at in crossings(next(g for g in old if g.name == "lookout")).items()
    }
    # axes that are not square to each other: said, and everything else comes in
    axes.UAxes[0].AxisCurve.Points[0].Coordinates = (900.0, -1500.0)
    file.write(str(other))
    report = read_ifc(other)
    assert len(report.grids) == 1 and len(report.members) == 1 and any("lookout left out" in note and "square" in note for note in report.notes)
    again.close()
    desk.close()
