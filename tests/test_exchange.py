"""What is handed on, read back by other readers: IFC by ifcopenshell and its geometry engine, XLSX by openpyxl, CSV by csv."""

import csv
import shutil
from pathlib import Path
from typing import Any

import ifcopenshell
import ifcopenshell.geom
import ifcopenshell.util.element
import ifcopenshell.util.placement
import ifcopenshell.util.shape
import ifcopenshell.validate
import openpyxl
import pytest

from tincleat.catalogue.sections import STEEL_DENSITY
from tincleat.commands.desk import Desk
from tincleat.errors import BadFile, Cancelled
from tincleat.exchange.ifc import export_ifc
from tincleat.exchange.spf import global_id, real, text
from tincleat.exchange.tables import export_bill
from tincleat.ledger.steel import member_cuts
from tincleat.project.entities import inch_house
from tincleat.release.bill import bill, bolt_list, total_mass
from tincleat.steel.members import net_mass


@pytest.fixture(scope="module")
def joined(demo_file: Path, tmp_path_factory: pytest.TempPathFactory) -> Desk:
    """The demo with every joint joined that a family suits."""
    path = tmp_path_factory.mktemp("ifc") / "joined.tincleat"
    shutil.copy(demo_file, path)
    desk = Desk.open(path)
    for family in ("base-plate", "fin-plate"):
        desk.run("place-all", family=family)
    return desk


@pytest.fixture(scope="module")
def model(joined: Desk) -> Any:
    """Its IFC, as another program reads it."""
    return ifcopenshell.open(str(export_ifc(joined.ledger, joined.store.path.with_suffix(".ifc"))))


def test_ifc_is_valid(model: Any) -> None:
    logger = ifcopenshell.validate.json_logger()
    ifcopenshell.validate.validate(model, logger)
    assert logger.statements == []


def test_everything_is_in_it(joined: Desk, model: Any) -> None:
    made = [e.made for e in joined.ledger.entries.values() if e.made]
    count = lambda kind: len(model.by_type(kind))  # noqa: E731
    assert count("IfcBeam") + count("IfcColumn") + count("IfcMember") == len(joined.project.members)
    assert count("IfcPlate") == sum(len(m.detail.plates) for m in made)
    assert count("IfcFastener") == sum(len(m.detail.welds) for m in made)
    rods = sum(len(m.detail.rods) for m in made)
    assert count("IfcMechanicalFastener") == sum(len(m.detail.bolts) for m in made) + rods
    assert count("IfcOpeningElement") == sum(len(m.detail.holes) + len(m.detail.notches) for m in made)
    assert count("IfcElementAssembly") == len(joined.project.connections)
    bolts = sum(ifcopenshell.util.element.get_psets(e)["TinCleat_Bolts"]["Count"] for e in model.by_type("IfcMechanicalFastener") if e.PredefinedType == "BOLT")
    assert bolts == sum(len(m.assembled.fitted) for m in made)
    assert {s.Name: s.Elevation for s in model.by_type("IfcBuildingStorey")} == {v.name: v.elevation for v in joined.project.levels.values()}
    assert len({e.GlobalId for e in model.by_type("IfcRoot")}) == len(model.by_type("IfcRoot"))


def test_members_stand_where_they_stand(joined: Desk, model: Any) -> None:
    from tincleat.project.members import axis_frame

    for element in model.by_type("IfcColumn") + model.by_type("IfcBeam"):
        m = joined.project.members[element.Tag]
        matrix = ifcopenshell.util.placement.get_local_placement(element.ObjectPlacement)
        assert matrix[:3, 3] == pytest.approx(axis_frame(m).o, abs=1e-3)
        assert matrix[:3, 0] == pytest.approx(axis_frame(m).axes[0], abs=1e-6)


def test_volumes_agree_with_another_geometry_engine(model: Any) -> None:
    settings = ifcopenshell.geom.settings()
    settings.set("mesher-linear-deflection", 0.00005)
    chosen = [e for kind in ("IfcBeam", "IfcColumn", "IfcMember", "IfcPlate") for e in model.by_type(kind)]
    iterator = ifcopenshell.geom.iterator(settings, model, 2, include=chosen)
    assert iterator.initialize()
    seen, worst = 0, 0.0
    while True:
        shape = iterator.get()
        element = model.by_id(shape.id)
        quantities = next(v for k, v in ifcopenshell.util.element.get_psets(element, qtos_only=True).items() if k.startswith("Qto"))
        volume = ifcopenshell.util.shape.get_volume(shape.geometry)
        worst = max(worst, abs(volume / quantities["NetVolume"] - 1))
        seen += 1
        if not iterator.next():
            break
    assert seen == len(chosen) and worst < 0.005


def test_cancelled_export_leaves_what_was_there(joined: Desk, tmp_path: Path) -> None:
    target = tmp_path / "old.ifc"
    target.write_text("old")
    with pytest.raises(Cancelled):
        export_ifc(joined.ledger, target, lambda share, words: share < 0.2)
    assert target.read_text() == "old" and [p.name for p in tmp_path.iterdir()] == ["old.ifc"]
    with pytest.raises(BadFile):
        export_ifc(joined.ledger, tmp_path)
    with pytest.raises(BadFile):
        export_ifc(joined.ledger, tmp_path / "no" / "a.ifc")


def test_step_syntax() -> None:
    assert real(1.0) == "1." and real(-0.0) == "0." and real(12.5) == "12.5"
    assert text("O'Neil\\é") == "'O''Neil\\\\\\X2\\00E9\\X0\\'"
    assert len(global_id("a", "b")) == 22 and global_id("a") == global_id("a") != global_id("b") and global_id("x")[0] in "0123"


def test_bill_and_bolt_list_in_xlsx_and_csv(joined: Desk, tmp_path: Path) -> None:
    lines, bolts = bill(joined.ledger), bolt_list(joined.ledger)
    export_bill(joined.ledger, tmp_path / "bom.xlsx")
    book = openpyxl.load_workbook(tmp_path / "bom.xlsx")
    assert book.sheetnames == ["Bill of materials", "Bolt list", "Weld list"]
    rows = list(book["Bill of materials"].values)
    assert len(rows) == len(lines) + 1 and rows[0][0] == "mark"
    assert sum(r[6] for r in rows[1:] if r[1] not in ("plate", "anchor rod")) == len(joined.project.members)
    paths = export_bill(joined.ledger, tmp_path / "bom.csv")
    with paths[1].open(encoding="utf-8-sig") as file:
        read = list(csv.DictReader(file))
    assert sum(int(r["count"]) for r in read if r["kind"] == "site bolt") == sum(b.count for b in bolts if b.kind == "site bolt")
    assert sum(int(r["count"]) for r in read if r["kind"] == "site bolt") == sum(len(e.made.assembled.fitted) for e in joined.ledger.entries.values() if e.made)
    with pytest.raises(BadFile, match=r"\.xlsx or \.csv"):
        export_bill(joined.ledger, tmp_path / "bom.pdf")


def test_masses_add_up(joined: Desk) -> None:
    cuts = member_cuts(joined.ledger)
    from tincleat.steel.cuts import Cuts

    members = sum(net_mass(m, cuts.get(m.id, Cuts())) for m in joined.project.members.values())
    plates = sum(p.volume * STEEL_DENSITY for e in joined.ledger.entries.values() if e.made for p in e.made.detail.plates)
    assert total_mass(joined.ledger) == pytest.approx(members + plates)


def test_a_name_that_looks_like_a_formula_is_plain_text(tmp_path: Path) -> None:
    desk = Desk.create(tmp_path / "f.tincleat")
    desk.run("add-members", members=[{"section": "IPE 300", "start": [0, 0, 0], "end": [1000, 0, 0], "name": "=1+1"}])
    export_bill(desk.ledger, tmp_path / "f.csv")
    export_bill(desk.ledger, tmp_path / "f.xlsx")
    assert "'=1+1" in (tmp_path / "f.csv").read_text(encoding="utf-8-sig")
    cell = next(c for row in openpyxl.load_workbook(tmp_path / "f.xlsx")["Bill of materials"].iter_rows() for c in row if c.value == "=1+1")
    assert cell.data_type != "f"
    desk.close()


def test_skewed_sloping_notched_and_slotted_details_agree_too(tmp_path: Path) -> None:
    """Oblique end planes, notches, slots, a tapered channel and an American shape, by the other engine."""
    desk = Desk.create(tmp_path / "skew.tincleat")

    def bar(section: str, start: list[float], end: list[float], **more: Any) -> dict[str, Any]:
        return {"section": section, "start": start, "end": end, **more}

    members = [
        bar("UC 203x203x46", [0, 0, 0], [0, 0, 6000], role="column"),
        bar("UB 305x165x40", [0, 0, 3000], [4000, 1500, 3000]),
        bar("UB 305x165x40", [0, 0, 5000], [4000, 0, 5900]),
        bar("UB 406x178x60", [8000, -3000, 3000], [8000, 3000, 3000], cardinal="top"),
        bar("UPN 200", [8000, 0, 3000], [11000, 800, 3000], cardinal="top"),
        bar("W14X38", [8000, -1500, 3000], [11000, -1500, 3000], cardinal="top"),
    ]
    desk.run("add-members", members=members)
    desk.run("place-all", family="fin-plate", settings={"hole": "long slot"})
    file = ifcopenshell.open(str(export_ifc(desk.ledger, tmp_path / "skew.ifc")))
    logger = ifcopenshell.validate.json_logger()
    ifcopenshell.validate.validate(file, logger)
    assert logger.statements == [] and len(file.by_type("IfcOpeningElement")) > 8
    settings = ifcopenshell.geom.settings()
    settings.set("mesher-linear-deflection", 0.00005)
    for element in file.by_type("IfcBeam") + file.by_type("IfcPlate"):
        volume = ifcopenshell.util.shape.get_volume(ifcopenshell.geom.create_shape(settings, element).geometry)
        quantities = next(iter(ifcopenshell.util.element.get_psets(element, qtos_only=True).values()))
        assert volume == pytest.approx(quantities["NetVolume"], rel=0.002), element.Name
    desk.close()


def test_bills_of_an_inch_project_are_in_feet_inches_and_pounds(tmp_path: Path) -> None:
    desk = Desk.create(tmp_path / "i.tincleat", inch_house("Yard"))
    desk.run("add-members", members=[{"section": "W12X65", "role": "column", "start": [0, 0, 0], "end": [0, 0, "14'"]}])
    desk.run("place-all", family="base-plate")
    export_bill(desk.ledger, tmp_path / "b.csv")
    rows = list(csv.DictReader((tmp_path / "b.csv").open(encoding="utf-8-sig")))
    column, plate = rows[0], next(r for r in rows if r["kind"] == "plate")
    # 14 ft less grout 1 1/2 in and plate 3/4 in: 13'-9 3/4", at 65 lb a foot 898 lb
    assert column["length"] == "13'-9 3/4\"" and float(column["mass each lb"]) == pytest.approx(65 * (13 + 9.75 / 12), rel=0.01)
    assert plate["size"].startswith("PL 3/4 x ") and plate["size"].count("'") == 1 and "." not in plate["size"]
    # steel weighs 0.2836 lb a cubic inch: the plate's own sizes, less four holes of 1 13/16 in
    wide, high = (desk.ledger.entries[next(iter(desk.ledger.entries))].made.detail.plates[0].outline.bounds[k] * 2 / 25.4 for k in (2, 3))  # type: ignore[union-attr]
    holes = 4 * 3.14159 / 4 * (1 + 13 / 16) ** 2
    assert float(plate["mass each lb"]) == pytest.approx(0.75 * (wide * high - holes) * 0.2836, rel=0.002)
    desk.close()
