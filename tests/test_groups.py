"""The ledger by level, zone and member: every joint once (or once a member), kept in step, handed on as a workbook."""

import csv
import random
from collections import Counter
from pathlib import Path

import openpyxl
import pytest
from conftest import beam

from tincleat.cli import main
from tincleat.commands.desk import Desk
from tincleat.demo.registry import make_demo
from tincleat.errors import BadFile
from tincleat.exchange.tables import LEDGER_HEAD, export_ledger
from tincleat.ledger.groups import Groups
from tincleat.project.places import zone_words


def test_zones_by_hand(desk: Desk) -> None:
    """Lines 1, 2, 3 at x = 0, 6000, 12000 and A, B at y = 0, 8000: within half a metre a line's own, else between two, else outside."""
    assert zone_words(desk.project, (0.0, 0.0, 0.0)) == "no grid"
    desk.run("add-grid", name="main", x="2@6000", y="8000")
    labels = {g.name: ([n for n, _ in g.x], [n for n, _ in g.y]) for g in desk.project.grids.values()}["main"]
    (one, two, three), (a, b) = labels
    for point, words in (
        ((0.0, 0.0), f"{a}, {one}"), ((490.0, 0.0), f"{a}, {one}"), ((510.0, 0.0), f"{a}, {one} to {two}"), ((6000.0, 4000.0), f"{a} to {b}, {two}"), ((11499.0, 7501.0), f"{b}, {two} to {three}"),
        ((12500.0, 8000.0), f"{b}, {three}"), ((12501.0, 8000.0), "outside the grid"), ((0.0, -501.0), "outside the grid"),
    ):  # fmt: skip
        assert zone_words(desk.project, (*point, 3000.0)) == words, point


def test_every_joint_is_in_one_group_and_groups_are_kept_in_step(tmp_path: Path) -> None:
    desk = make_demo("boathouse", tmp_path / "b.tincleat")
    rng, kept = random.Random(3), {by: Groups() for by in ("level", "zone", "member")}
    for step in range(12):
        if step:
            chosen = rng.sample(list(desk.project.members), 2)
            desk.run("move-members", ids=chosen, by=[0, 0, rng.choice([0, 50, 700])]) if step % 3 else desk.run("delete-members", ids=chosen)
        for by, groups in kept.items():
            found, anew = groups.of(desk.ledger, by), Groups().of(desk.ledger, by)  # type: ignore[arg-type]
            assert [(g.name, [e.joint.key for e in g.entries]) for g in found] == [(g.name, [e.joint.key for e in g.entries]) for g in anew]
            assert all(a is b for g in found for a, b in zip(g.entries, (desk.ledger.entries[e.joint.key] for e in g.entries), strict=True))
            if by != "member":
                assert Counter(e.joint.key for g in found for e in g.entries) == Counter(list(desk.ledger.entries))
            else:
                assert sum(len(g.entries) for g in found) == sum(len(set(e.joint.members)) for e in desk.ledger.entries.values())
    same = kept["level"].of(desk.ledger, "level")
    assert all(a is b for a, b in zip(same, kept["level"].of(desk.ledger, "level"), strict=True))  # nothing changed: the same objects
    heights = [min(e.joint.height for e in g.entries) for g in same]
    assert heights == sorted(heights) and sum(g.joined for g in same) == desk.ledger.counts()["joined"]
    desk.close()


def test_the_ledger_as_a_workbook_and_as_text(desk: Desk, tmp_path: Path) -> None:
    desk.run("add-members", members=[beam("UC 203x203x46", (0, 0, 0), (0, 0, 4000), "column", name="C1"), beam("UB 305x165x40", (0, 0, 3000), (5000, 0, 3000), name="=B1")])
    desk.run("place-connection", family="fin-plate", at=["m2.start"], settings={"edge_distance": 20.0})
    export_ledger(desk.ledger, tmp_path / "l.xlsx")
    sheet = openpyxl.load_workbook(tmp_path / "l.xlsx")["Ledger"]
    rows = list(sheet.iter_rows(values_only=True))
    assert rows[0] == LEDGER_HEAD and len(rows) == 1 + len(desk.ledger.entries) == 5
    fin = next(dict(zip(LEDGER_HEAD, r, strict=True)) for r in rows[1:] if r[8] == "Fin plate")
    assert fin["state"] == "breach" and fin["breaches"] >= 1 and fin["typed settings"] == "edge_distance = 20.0" and fin["members"] == "=B1, C1" and "edge" in fin["first finding"]
    export_ledger(desk.ledger, tmp_path / "l.csv")
    with (tmp_path / "l.csv").open(encoding="utf-8-sig", newline="") as file:
        text = list(csv.DictReader(file))
    assert [r["joint"] for r in text] == [r[0] for r in rows[1:]] and text[0]["level"].startswith("at +")
    assert {r["members"] for r in text if r["family"]} == {"'=B1, C1"}  # a spreadsheet runs no name as a formula
    with pytest.raises(BadFile):
        export_ledger(desk.ledger, tmp_path / "l.pdf")
    desk.close()
    assert main(["export", str(tmp_path / "test.tincleat"), "--ledger", str(tmp_path / "again.csv")]) == 0
    assert (tmp_path / "again.csv").read_bytes() == (tmp_path / "l.csv").read_bytes()
