"""What there is to weld, by hand: lengths, sections, metal, hours, positions; and read back from the files by other readers."""

import csv
import math
from collections import Counter
from pathlib import Path

import numpy as np
import openpyxl
import pytest
from site_parts import column, girder

from tincleat.commands.desk import Desk
from tincleat.demo import boathouse
from tincleat.details.assembled import role_words
from tincleat.details.parts import Weld
from tincleat.exchange.tables import export_bill
from tincleat.kit.seams import Bar, round_seams, seams
from tincleat.project.entities import HouseRules, inch_house
from tincleat.release.weld_list import position, section_area, total, weld_list


def test_sections_by_hand() -> None:
    x, y, z = (1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)
    square = Weld("a", 6.0, (0, 0, 0), (100, 0, 0), y, z, ("p", "q"))
    assert section_area(square) == pytest.approx(18)  # 6 x 6 / 2
    blunt = Weld("b", 6.0, (0, 0, 0), (100, 0, 0), y, (0.0, -0.5, math.sqrt(3) / 2), ("p", "q"))
    assert section_area(blunt) == pytest.approx(18 * math.sin(math.radians(120)))
    # a single bevel of 45° through 20, opened by 3.175: 20 x 20 / 2 + 20 x 3.175
    groove = Weld("c", 20.0, (0, 0, 0), (100, 0, 0), z, (0.0, math.sin(math.radians(45)), math.cos(math.radians(45))), ("p", "q"), kind="groove", opening=3.175)
    assert section_area(groove) == pytest.approx(20 * 20 / 2 + 20 * 3.175)
    assert x


def test_positions_by_hand() -> None:
    along, up = np.array([1.0, 0, 0]), np.array([0, 0, 1.0])
    slant = np.array([0, 1.0, 1.0]) / math.sqrt(2)
    want = [(along, up, "flat"), (along, slant, "horizontal, fillet"), (along, np.array([0, 1.0, 0]), "horizontal"), (along, -slant * (1, 1, 1), "overhead, fillet"), (along, -up, "overhead"), (up, np.array([1.0, 0, 0]), "vertical")]
    for run, out, words in want:
        assert position(run, out) == words


def welded(path: Path, house: HouseRules) -> Desk:
    """A plate of 160 x 100 x 10 with fillets of 6 on a girder in the shop, and one standing on a column, welded on site."""
    desk = Desk.create(path, house, True)
    desk.run("add-members", members=[girder("UB 457x191x67"), {**column("HEB 200"), "start": [0, 5000, 0], "end": [0, 5000, 6000]}])
    desk.run("place-connection", family="loose", at=["m1@98" if house.inch else "m1@2500"], settings={"part/1": "plate", "length/1": 160.0, "width/1": 100.0, "part/2": "weld", "leg/2": 6.0})
    desk.run("place-connection", family="loose", at=["m2@59" if house.inch else "m2@1500"], settings={"part/1": "plate", "on/1": "near side", "stands/1": "upright along", "length/1": 200.0, "width/1": 80.0, "part/2": "weld", "leg/2": 6.0, "site/2": True})
    return desk


def test_a_list_by_hand_and_by_the_house_s_rates(tmp_path: Path) -> None:
    desk = welded(tmp_path / "a.tincleat", HouseRules())
    shop, site = weld_list(desk.ledger)
    # 2 x 160 + 2 x 100 of 18 mm²: 520 x 18 = 9,360 mm³, 7.85 kg a million of them, and a tenth more
    assert (shop.where_made, shop.kind, shop.leg, shop.position, shop.runs) == ("shop", "fillet", 6, "as turned", 4)
    assert (shop.length, shop.volume, shop.mass) == (pytest.approx(520), pytest.approx(9360), pytest.approx(9360 * 7.85e-6 * 1.1)) and shop.hours == pytest.approx(shop.mass / 1.5)
    # two runs of 200 up the column
    assert (site.where_made, site.position, site.runs, site.length) == ("site", "vertical", 2, pytest.approx(400)) and site.hours == pytest.approx(400 * 18 * 7.85e-6 * 1.1 / 0.6)
    made = desk.ledger.entries
    before = [e.made for e in made.values()]
    desk.run("set-house-rules", values={"weld_rate_site": 1.2, "weld_surplus": 0.0})
    shop, site = weld_list(desk.ledger)
    assert site.hours == pytest.approx(400 * 18 * 7.85e-6 / 1.2) and [e.made for e in desk.ledger.entries.values()] == before  # rates build nothing anew


def test_the_files_are_read_back(tmp_path: Path) -> None:
    desk = welded(tmp_path / "a.tincleat", HouseRules())
    export_bill(desk.ledger, tmp_path / "b.xlsx")
    sheet = openpyxl.load_workbook(tmp_path / "b.xlsx")["Weld list"]
    rows = [[c.value for c in r] for r in sheet.iter_rows()]
    assert rows[0][:6] == ["made", "weld", "leg mm", "position", "runs", "length m"] and rows[1][:6] == ["shop", "fillet", 6, "as turned", 4, 0.52] and rows[2][:6] == ["site", "fillet", 6, "vertical", 2, 0.4]
    paths = export_bill(desk.ledger, tmp_path / "b.csv")
    assert [p.name for p in paths] == ["b.csv", "b-bolts.csv", "b-welds.csv"]
    with (tmp_path / "b-welds.csv").open(encoding="utf-8-sig") as f:
        assert [r[5] for r in csv.reader(f)] == ["length m", "0.52", "0.4"]
    inch = welded(tmp_path / "i.tincleat", inch_house(""))
    export_bill(inch.ledger, tmp_path / "i.xlsx")
    rows = [[c.value for c in r] for r in openpyxl.load_workbook(tmp_path / "i.xlsx")["Weld list"].iter_rows()]
    assert rows[0][5:8] == ["length ft", "volume in³", "weld metal lb"] and rows[1][5] == pytest.approx(520 / 304.8, abs=0.01) and rows[1][7] == pytest.approx(9360 * 7.85e-6 * 1.1 * 2.20462, abs=0.002)


def test_proposals_come_out_as_the_boathouse_s_families_weld(tmp_path: Path) -> None:
    """Of every weld of the joined demo: what would be proposed between its two parts, from their shapes alone, against what the families
    laid, which know nothing of the proposals; the sums lie within a twentieth of each other, and of every family but cleats on purlins,
    whose heel is left bare."""
    desk = boathouse.build_joined(tmp_path / "b.tincleat")
    theirs: Counter[str] = Counter()
    ours: Counter[str] = Counter()
    details = {id(e.made): (e.connection.family, e.made) for e in desk.ledger.entries.values() if e.made is not None and e.connection is not None}
    for family, made in details.values():
        a = made.assembled
        for parts in dict.fromkeys(w.parts for w in a.detail.welds if w.kind == "fillet"):
            some = [w for w in a.detail.welds if w.parts == parts and w.kind == "fillet"]
            leg = max(w.leg for w in some)
            sides = [[p for p in a.plies if p.owner == part] or [p for p in a.standing if p.owner == part] for part in parts]
            theirs[family] += sum(math.dist(w.start, w.end) for w in some)  # type: ignore[assignment]
            ours[family] += sum(s.length for s in seams(sides[0], sides[1], leg))  # type: ignore[assignment]
            for i, m in enumerate(a.case.members):
                if m.shape.shape == "CHS" and role_words(m.role) in parts:
                    ends = a.cuts(i).ends
                    bar = Bar("", m.frame, m.shape.h, max([m.low, *(e.point[0] for e in ends if e.normal[0] > 0.5)]), min([m.high, *(e.point[0] for e in ends if e.normal[0] < -0.5)]))
                    ours[family] += sum(s.length for s in round_seams(sides[1 - parts.index(role_words(m.role))], bar, leg))  # type: ignore[assignment]
    assert theirs.total() > 50_000 and ours.total() == pytest.approx(theirs.total(), rel=0.05), (ours, theirs)
    for family in theirs.keys() - {"purlin-cleat"}:
        assert ours[family] == pytest.approx(theirs[family], rel=0.05), family
    length, mass, hours = total(weld_list(desk.ledger))
    assert length > 300_000 and mass > 40 and hours > mass / 1.6
