"""What is written inside the views: levels as the world has them, radii as they are cut and bent, none of it over anything else."""

import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import shapely
from sites import SITES
from test_settings import site_case

from tincleat.commands.desk import Desk
from tincleat.details.assembled import Assembled
from tincleat.families.registry import family
from tincleat.geometry.frames import Frame
from tincleat.ledger.entries import Entry
from tincleat.project.entities import HouseRules, Units, inch_house
from tincleat.release.drawing import Drawing
from tincleat.release.notes import SMALL, arcs
from tincleat.release.sheet import compose, pictures


def entry_sheet(entry: Entry, units: Units, size: tuple[float, float] = (160, 110)) -> Drawing:
    assert entry.made is not None and entry.connection is not None
    return compose(pictures(entry.made.assembled), entry.findings, *size, units, entry.connection.family, at=entry.joint.frame)


def placed(tmp_path: Path, members: list[dict[str, Any]], name: str, at: str, house: HouseRules | None = None, **typed: Any) -> tuple[Desk, Entry]:
    desk = Desk.create(tmp_path / f"{at}{name}{house is None}.tincleat", house or HouseRules(), True)
    desk.run("add-members", members=members)
    key, _, end = at.partition(".")
    member = list(desk.project.members)[int(key)]
    desk.run("place-connection", family=name, at=[f"{member}.{end}"], settings=typed)
    (c,) = desk.project.connections.values()
    return desk, desk.ledger.entry_of(c.id)


COLUMN = {"section": "HEB 300", "role": "column", "start": [0, 0, 0], "end": [0, 0, 6000]}


def levels(d: Drawing) -> list[str]:
    return [t.text for t in d.texts if t.text[0] in "+-"]


@pytest.mark.parametrize("height", [3000.0, 4250.0, -1200.0])
def test_the_top_of_a_beam_is_written_as_high_as_it_lies(tmp_path: Path, height: float) -> None:
    # IPE 300 hangs on its middle: its top lies 150 over its line
    column = {**COLUMN, "start": [0, 0, -3000]}
    desk, entry = placed(tmp_path, [column, {"section": "IPE 300", "role": "beam", "start": [4000, 0, height], "end": [0, 0, height]}], "fin-plate", "1.end")
    assert levels(entry_sheet(entry, "mm")) == [f"{(height + 150) / 1000:+.3f}"]
    # kin at another height share the detail, not the level
    desk.run("add-members", members=[{"section": "IPE 300", "role": "beam", "start": [4000, 0, height + 900], "end": [0, 0, height + 900]}])
    desk.run("place-connection", family="fin-plate", at=[f"{list(desk.project.members)[2]}.end"])
    other = next(e for e in desk.ledger.entries.values() if e.made is entry.made and e.joint.key != entry.joint.key)
    assert levels(entry_sheet(other, "mm")) == [f"{(height + 1050) / 1000:+.3f}"]


def test_a_foot_tells_the_underside_of_its_plate_in_both_units(tmp_path: Path) -> None:
    # the column's foot lies at +3.000 and the plate under it is 20 thick: set, whatever the grout is
    _, entry = placed(tmp_path, [{"section": "HEB 300", "role": "column", "start": [0, 0, 3000], "end": [0, 0, 6000]}], "base-plate", "0.start", plate_thickness=20.0)
    plate = entry.made.detail.plates[0]  # type: ignore[union-attr]
    low = min(float(entry.joint.frame.to_world(plate.frame.to_world([(0.0, 0.0, z)]))[0][2]) for z in (0.0, plate.thickness))
    assert levels(entry_sheet(entry, "mm")) == [f"{low / 1000:+.3f}"] and low in (2980.0, 3000.0, 3030.0)
    _, entry = placed(tmp_path, [{"section": "W14X90", "role": "column", "start": [0, 0, 3048], "end": [0, 0, 6096]}], "base-plate", "0.start", inch_house(""))
    (text,) = levels(entry_sheet(entry, "ft-in"))
    assert text.startswith(("+9'", "+10'"))


def test_a_sloping_rafter_has_no_level(tmp_path: Path) -> None:
    _, entry = placed(tmp_path, [COLUMN, {"section": "IPE 300", "role": "beam", "start": [4000, 0, 3600], "end": [0, 0, 3000]}], "fin-plate", "1.end")
    assert levels(entry_sheet(entry, "mm")) == []


def site_sheet(name: str, size: tuple[float, float] = (160, 110)) -> tuple[Drawing, Assembled]:
    site = next(s for s in SITES if s.name == name)
    case, house = site_case(site), inch_house("") if site.inch else HouseRules()
    kind = family(site.family)
    a = Assembled(case, kind.detail(case, kind.checked(site.typed, house), house), house.rule_set)
    return compose(pictures(a), (), *size, house.units, site.family, at=Frame()), a


def test_the_radius_of_a_bend_is_written_and_edits_its_setting(tmp_path: Path) -> None:
    girder = {"section": "UB 457x191x67", "role": "beam", "start": [-4000, 0, 3000], "end": [4000, 0, 3000]}
    a = math.radians(60)
    beam = {"section": "UB 305x165x40", "role": "beam", "start": [4000 * math.cos(a), 4000 * math.sin(a), 3075], "end": [0, 0, 3075]}
    _, entry = placed(tmp_path, [girder, beam], "fin-plate", "1.end", skewed="plate bent", bend_radius=24.0)
    assert entry.made is not None and entry.made.detail.bents[0].radius == 24.0
    d = entry_sheet(entry, "mm", (220, 160))
    (found,) = (x for x in d.dimensions if x.text.endswith("R24"))
    assert (found.setting, found.measured) == ("bend_radius", 24.0)
    assert any(t.text == "R10" for t in d.texts)  # of the notch: the house rule's, which no setting of the connection edits


def test_a_round_plate_is_told_by_its_diameter() -> None:
    round_ = [s.name for s in SITES if s.family == "flange-plates" and "CHS" in s.name]
    shown = []
    for name in round_[:12]:
        d, a = site_sheet(name)
        shown += [t.text for t in d.texts if "Ø" in t.text]
        for x in arcs(a.detail):
            if x.circle:
                assert any(f"Ø{2 * x.radius:g}" in t.text for t in d.texts) or not any(abs(float(np.array(v.frame.z) @ x.normal)) > 0.9999 for v in d.views)
    assert shown


@pytest.mark.parametrize("step", range(6))
def test_no_note_lies_on_lines_numbers_or_other_notes(step: int) -> None:
    written = 0
    for site in SITES[step * 7 :: 42]:
        d, _ = site_sheet(site.name)
        notes = [t for t in d.texts if t.height == SMALL and (t.text[0] in "+-RØ" or "×" in t.text or t.text.endswith("°"))]
        boxes = [shapely.box(t.x - len(t.text) * SMALL * 0.34, t.y - 0.9, t.x + len(t.text) * SMALL * 0.34, t.y + 0.9) for t in notes]
        drawn = shapely.MultiLineString([((x0, y0), (x1, y1)) for x in d.lines if x.style in ("part", "member", "bolt", "rod") for x0, y0, x1, y1 in x.pieces.tolist()])
        for i, (note, box) in enumerate(zip(notes, boxes, strict=True)):
            if d.scale < 60:
                assert not box.intersects(drawn), (site.name, note.text)
            assert not any(box.intersects(b) for b in boxes[i + 1 :]), (site.name, note.text)
            assert 0 <= note.x <= d.width and 0 <= note.y <= d.height
            written += 1
    assert written > 5
