"""The new families read back from IFC by another geometry engine: every part weighs what its quantities say, and none is inside another.

The solids here are the other engine's own, made from profiles, clippings and openings of the file; nothing of our meshes is in them.
"""

import itertools
from pathlib import Path
from typing import Any

import ifcopenshell
import ifcopenshell.geom
import ifcopenshell.util.element
import ifcopenshell.util.shape
import ifcopenshell.validate
import manifold3d
import numpy as np
import pytest
from scipy.sparse import csr_matrix
from scipy.sparse.csgraph import connected_components
from sites import SITES, Site, place_name

from tincleat.commands.desk import Desk
from tincleat.exchange.ifc import export_ifc

NAMES = (
    "fin IPE 300 skew 12 slope 0", "edge UPE 300 {}", "plan for four under HEB 260", "stitch L 80x80x8 35", "slab head SHS 100x100x5 0", "trimmer at one end", "stitch starred L 80x80x8 50", "plan L 80x80x8 22 off IPE 360", "rod RD 30 through HEB 300 55", "gusset tee brace WT6X20 40 on 0 rolled 90", "fin IPE 200 on PFC 300x100x46 skew -90 slope 6", "fin UB 203x133x25 flush", "cleats UB 305x165x40 slope 10 {}", "cleats IPE 200 both sides of IPE 400",
    "end plate IPE 300 past both flanges -8 -8", "knee 17", "apex 9 with a haunch", "end plate with all of the column's plates", "gusset CHS 88.9x5 0 at 45 on 0",
    "gusset L 80x80x8 90 at 60 on 90", "gusset in a corner", "stiffeners IPN 300 {}", "purlins UPN 160 meet 12", "base IPN 300 {'key_depth': 80.0, 'vents': 2}",
    "gusset double L 80x80x8 10 35", "gusset tee CHS 114.3x5 near side 0", "gusset at a cross FL 100x10 45", "cap UC 203x203x46 0 under UB 406x178x60", "splice UB 457x191x67 UB 457x191x98 outer and inner",
    "seat stiffened", "flange plates CHS 219.1x8 CHS 168.3x6.3 {'pack': 10.0}", "opening PFC 300x100x46 {'shape': 'rectangular', 'flats': 'both sides'}",
    "tube CHS 88.9x5 on CHS 168.3x6.3 at 45", "tubes SHS 60x60x4 over SHS 100x100x5 on SHS 150x150x8", "tube SHS 80x80x5 rolled 45 on CHS", "moment IPE 400 on HEB 300 {'web': 'welded, on a tab'}",
    "base HEB 300 {'stiffeners': 'on flanges and web', 'stiffener_height': 200.0}", "wall UB 457x191x67 {'stiffeners': True, 'rod_foot': 'hooked'}", "cap and base UB 305x165x40 on UB 457x191x67", "cap UB 254x146x31 0 under a slope of -14", "base CHS 168.3x6.3 leaning 6 -5 30", "tube ends SHS 120x120x5 and CHS 114.3x5 on one web", "fin UB 305x165x40 bent -30", "fin IPE 240 bent tight, slots", "mitre RHS 150x100x6.3 120", "welded splice UB 457x191x67 ", "covers IPE 400 {'top_end': 150.0}", "head UPN 200 35 up", "timber TM 75x225 on a web ", "post SHS 40x40x4 beside UPN 200 34 left", "post FL 60x12 straight to UPN 200 8 off 36", "purlins UPN 160 meet with fly braces", "mitre ridge CHS 168.3x6.3 20", "post SHS 50x50x5 30 on a slab's side {'facing': 'left'}", "base L 150x100x12 30 {'turn': 0.3490658503988659}", "mitre CHS 48.3x3.2 120", "tube as wide as its chord", "loose bolted piece", "loose countersunk in the flange", "loose edge to edge B-U6",
)  # fmt: skip


@pytest.mark.parametrize("name", NAMES)
def test_the_other_engine_agrees(tmp_path: Path, name: str) -> None:
    site = next(s for s in SITES if s.name == name)
    desk = Desk.create(tmp_path / "s.tincleat")
    desk.run("add-members", members=site.members)
    desk.run("place-connection", family=site.family, at=places(site, list(desk.project.members)), settings=site.typed)
    file = ifcopenshell.open(str(export_ifc(desk.ledger, tmp_path / "s.ifc")))
    logger = ifcopenshell.validate.json_logger()
    ifcopenshell.validate.validate(file, logger)
    assert logger.statements == []
    settings = ifcopenshell.geom.settings()
    settings.set("mesher-linear-deflection", 0.00005)
    settings.set("use-world-coords", True)
    solids: dict[str, Any] = {}
    for element in (e for kind in ("IfcBeam", "IfcColumn", "IfcMember", "IfcPlate") for e in file.by_type(kind)):
        geometry = ifcopenshell.geom.create_shape(settings, element).geometry
        quantities = next(v for k, v in ifcopenshell.util.element.get_psets(element, qtos_only=True).items() if k.startswith("Qto"))
        assert ifcopenshell.util.shape.get_volume(geometry) == pytest.approx(quantities["NetVolume"], rel=0.003), element.Name
        points = np.ascontiguousarray(ifcopenshell.util.shape.get_vertices(geometry) * 1000.0)
        mesh = manifold3d.Mesh64(vert_properties=points, tri_verts=np.asarray(ifcopenshell.util.shape.get_faces(geometry), dtype=np.uint64))
        mesh.merge()
        solids[f"{element.is_a()} {element.Name} {element.id()}"] = manifold3d.Manifold(mesh)
    whole = {k: m for k, m in solids.items() if m.status() == manifold3d.Error.NoError and m.volume() > 0}
    assert len(whole) >= 0.7 * len(solids), [k for k in solids if k not in whole]
    for (a, one), (b, two) in itertools.combinations(whole.items(), 2):
        if site.name == "gusset in a corner" and {a.split()[0], b.split()[0]} == {"IfcColumn", "IfcBeam"}:
            continue  # members that the gusset does not settle
        assert (one ^ two).volume() < 60.0, (a, b)  # chords of the other engine's arcs; faces on each other to a thousandth of a millimetre


def places(site: Site, ids: list[str]) -> list[str]:
    """What a site's ``at`` names in a project of its own."""
    return [place_name(n, w, ids) for n, w in site.at]


@pytest.mark.parametrize("name", ["sag rods UPE 160 4 level", "sag rods UPE 160 over a ridge", "sag rods UPE 160 {'arrange': 'in line'}"])
def test_bars_nuts_and_taper_washers_lie_clear_of_the_steel(tmp_path: Path, name: str) -> None:
    """Every solid of a bar, its nuts and its washers, as the other engine makes it, against every member with its holes."""
    site = next(s for s in SITES if s.name == name)
    desk = Desk.create(tmp_path / "s.tincleat")
    desk.run("add-members", members=site.members)
    desk.run("place-connection", family=site.family, at=places(site, list(desk.project.members)), settings=site.typed)
    (entry,) = (e for e in desk.ledger.entries.values() if e.connection is not None)
    file = ifcopenshell.open(str(export_ifc(desk.ledger, tmp_path / "s.ifc")))
    settings = ifcopenshell.geom.settings()
    settings.set("mesher-linear-deflection", 0.00005)
    settings.set("use-world-coords", True)

    def solids(element: Any) -> list[Any]:
        geometry = ifcopenshell.geom.create_shape(settings, element).geometry
        points = ifcopenshell.util.shape.get_vertices(geometry) * 1000.0
        faces = np.asarray(ifcopenshell.util.shape.get_faces(geometry))
        link = csr_matrix((np.ones(faces.size), (faces.ravel(), np.roll(faces, 1, axis=1).ravel())), shape=(len(points), len(points)))
        _, part = connected_components(link, directed=False)
        return [manifold3d.Manifold(manifold3d.Mesh64(vert_properties=np.ascontiguousarray(points), tri_verts=faces[part[faces[:, 0]] == p].astype(np.uint64))) for p in np.unique(part)]

    members = [m for e in file.by_type("IfcBeam") + file.by_type("IfcMember") for m in solids(e)]
    bars = file.by_type("IfcMechanicalFastener")
    assert len(bars) == len(entry.made.detail.ties) and len(members) == len(site.members)
    for bar in bars:
        found = solids(bar)
        assert all(s.status() == manifold3d.Error.NoError and s.volume() > 0 for s in found)
        tie = next(t for t in entry.made.detail.ties if t.name == bar.Name)
        assert len(found) == 1 + 2 * len(tie.nuts)  # the bar, and a nut on a washer each
        for solid, member in itertools.product(found, members):
            assert (solid ^ member).volume() < 5.0, bar.Name  # what chords of arcs make of touching faces


@pytest.mark.parametrize("name", ["splice IPN 300 IPN 300 False", "splice UPN 300 UPN 300 False", "loose bolted plate on IPN 300", "loose lug on a plate", "loose bent plate", "loose piece to the shape", "loose cope and vent", "loose groove TC-U4a-GF", "loose mitred pieces", "loose notched piece", "loose plate on an edge", "loose studs", "loose plug welds", "loose slot welds", "loose access holes"])
def test_taper_washers_and_loose_parts_as_the_other_engine_makes_them(tmp_path: Path, name: str) -> None:
    """Every solid of steel, bolt, nut and washer against every other one's, but those of one bolt; and each as heavy as our own figures say."""
    site = next(s for s in SITES if s.name == name)
    desk = Desk.create(tmp_path / "s.tincleat")
    desk.run("add-members", members=site.members)
    desk.run("place-connection", family=site.family, at=places(site, list(desk.project.members)), settings=site.typed)
    (entry,) = (e for e in desk.ledger.entries.values() if e.connection is not None)
    file = ifcopenshell.open(str(export_ifc(desk.ledger, tmp_path / "s.ifc")))
    settings = ifcopenshell.geom.settings()
    settings.set("mesher-linear-deflection", 0.00005)
    settings.set("use-world-coords", True)
    found: list[tuple[Any, Any]] = []
    for element in (e for kind in ("IfcBeam", "IfcMember", "IfcPlate", "IfcMechanicalFastener") for e in file.by_type(kind)):
        geometry = ifcopenshell.geom.create_shape(settings, element).geometry
        points = ifcopenshell.util.shape.get_vertices(geometry) * 1000.0
        faces = np.asarray(ifcopenshell.util.shape.get_faces(geometry))
        link = csr_matrix((np.ones(faces.size), (faces.ravel(), np.roll(faces, 1, axis=1).ravel())), shape=(len(points), len(points)))
        _, part = connected_components(link, directed=False)
        for p in np.unique(part[faces[:, 0]]):
            mesh = manifold3d.Mesh64(vert_properties=np.ascontiguousarray(points), tri_verts=faces[part[faces[:, 0]] == p].astype(np.uint64))
            mesh.merge()
            found.append((element, manifold3d.Manifold(mesh)))
    assert all(s.status() == manifold3d.Error.NoError and s.volume() > 0 for _, s in found)
    for (a, one), (b, two) in itertools.combinations(found, 2):
        if a.id() != b.id():
            assert (one ^ two).volume() < 5.0, (a.Name, b.Name)
    theirs = sum(s.volume() for e, s in found if e.is_a("IfcPlate"))
    ours = sum(p.volume for p in (*entry.made.detail.plates, *entry.made.detail.bents))
    assert theirs == pytest.approx(ours, rel=0.002, abs=1.0)
    # every bolt is a head, a shank, a nut, a washer, and a wedge where its flange slopes
    bolts, studs = entry.made.assembled.fitted, entry.made.detail.fittings
    # and every stud a collar, a shank and a head
    assert sum(e.is_a("IfcMechanicalFastener") for e, _ in found) == sum(4 + len(f.tapers) for f in bolts) + 3 * len(studs)
    if studs:
        assert sum(s.volume() for e, s in found if e.is_a("IfcMechanicalFastener")) == pytest.approx(sum(f.volume for f in studs), rel=0.004)  # chords of small circles
    plugs = [ifcopenshell.util.shape.get_volume(ifcopenshell.geom.create_shape(settings, e).geometry) * 1e9 for e in file.by_type("IfcFastener") if e.ObjectType.startswith(("plug", "slot"))]
    assert sum(plugs) == pytest.approx(sum(p.volume for p in entry.made.detail.plugs), rel=0.004) and len(plugs) == len(entry.made.detail.plugs)
