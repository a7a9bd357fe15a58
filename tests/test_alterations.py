"""Alterations on top of a family's detail: a part, a bolt, a corner; kept through changes, told where they find nothing, proved like the rest."""

from pathlib import Path

import numpy as np
import pytest
from site_parts import beam, column
from test_new_families import breaches, joined, made

from tincleat.commands.desk import Desk
from tincleat.details.alter import altered, checked, offered
from tincleat.errors import BadValue
from tincleat.exchange.ifc import export_ifc
from tincleat.ledger.entries import Entry
from tincleat.project.entities import HouseRules
from tincleat.release.bill import bill, bolt_list

NAME = "@altered"


def fin(path: Path) -> tuple[Desk, Entry]:
    desk, e = joined(path, [column("HEB 300"), beam("UB 457x191x67")], "fin-plate", "M2.end")
    return desk, e


def entry(desk: Desk) -> Entry:
    return next(e for e in desk.ledger.entries.values() if e.connection is not None)


def test_a_bolt_left_out_takes_its_holes_along(tmp_path: Path) -> None:
    desk, e = fin(tmp_path)
    before = made(e)
    count = len(before.bolts[0].points)
    gone = np.array(before.bolts[0].points[0])
    desk.run("change-connections", ids=[e.connection.id], settings={NAME: "without bolt 1 of bolts"})  # type: ignore[union-attr]
    d = made(entry(desk))
    assert len(d.bolts[0].points) == count - 1 and all(np.linalg.norm(np.array(p) - gone) > 10 for p in d.bolts[0].points)
    assert len(d.plates[0].holes) == count - 1 and len([h for h in d.holes if h.member == 0]) == len([h for h in before.holes if h.member == 0]) - 1
    assert sum(x.count for x in bolt_list(desk.ledger)) == count - 1
    # more rows: it is still the first that is left out
    pitch = d.number("pitch").value
    desk.run("change-connections", ids=[e.connection.id], settings={"pitch": [60.0, 60.0]})  # type: ignore[union-attr]
    d = made(entry(desk))
    assert len(d.bolts[0].points) == 2 and not d.unmet and pitch != d.number("pitch").value
    desk.undo()
    desk.undo()
    assert made(entry(desk)) == before


def test_two_bolts_are_those_that_their_numbers_say(tmp_path: Path) -> None:
    """Numbers are of the detail as it comes: 1 and 2 gone leave 3 and 4, whichever was told first; the menu offers those two."""
    desk, e = fin(tmp_path)
    points = made(e).bolts[0].points
    assert len(points) >= 4
    for text in ("without bolt 1 of bolts\nwithout bolt 2 of bolts", "without bolt 2 of bolts\nwithout bolt 1 of bolts"):
        desk.run("change-connections", ids=[e.connection.id], settings={NAME: text})  # type: ignore[union-attr]
        d = made(entry(desk))
        assert d.bolts[0].points == points[2:]
        assert [w for w in offered(d, text) if " bolt " in w] == [f"without bolt {i} of bolts" for i in range(3, len(points) + 1)]


def test_a_corner_cut_weighs_less_and_is_proved(tmp_path: Path) -> None:
    desk, e = fin(tmp_path)
    plate = made(e).plates[0]
    corners = [(x, y) for x, y, _ in plate.outline.vertices]
    far = max(range(len(corners)), key=lambda i: corners[i][0] + corners[i][1]) + 1
    desk.run("change-connections", ids=[e.connection.id], settings={NAME: f"corner {far} of {plate.name} cut 30"})  # type: ignore[union-attr]
    now = made(entry(desk)).plates[0]
    assert now.outline.area == pytest.approx(plate.outline.area - 450)
    mass = {x.name: x.mass_each for x in bill(desk.ledger) if x.kind == "plate"}
    assert now.volume * 7.85e-6 == pytest.approx(next(iter(mass.values())), abs=0.01)
    # cut so deep that the hole beside it comes too near the edge: a breach of the shape, not of any setting
    desk.run("change-connections", ids=[e.connection.id], settings={NAME: f"corner {far} of {plate.name} cut 55"})  # type: ignore[union-attr]
    assert "edge-least" in breaches(entry(desk))


def test_it_survives_a_change_of_section_or_says_why_it_cannot(tmp_path: Path) -> None:
    members = [column("UC 254x254x89"), beam("UB 406x178x60")]
    desk, e = joined(tmp_path, members, "end-plate", "M2.end", column_stiffeners="top and bottom")
    ribs = [p.name for p in made(e).plates if "stiffener" in p.name]
    key = e.connection.id  # type: ignore[union-attr]
    desk.run("change-connections", ids=[key], settings={NAME: f"without {ribs[0]}\nwithout weld nothing at all"})
    d = made(entry(desk))
    assert ribs[0] not in {p.name for p in d.plates} and not any(ribs[0] in w.parts for w in d.welds)
    assert d.unmet == ("without weld nothing at all: there is no weld nothing at all now",)
    (note,) = [f for f in entry(desk).findings if f.rule == "alteration"]
    assert note.level == "note" and "there is no weld nothing at all now" in note.message
    desk.run("change-members", ids=["m2"], section="UB 457x191x67")
    assert ribs[0] not in {p.name for p in made(entry(desk)).plates}
    desk.run("change-connections", ids=[key], settings={"column_stiffeners": "none"})
    assert any(u.startswith(f"without {ribs[0]}: there is no {ribs[0]} now") for u in made(entry(desk)).unmet)
    desk.run("change-connections", ids=[key], settings={NAME: None})
    assert not made(entry(desk)).unmet and not [f for f in entry(desk).findings if f.rule == "alteration"]
    export_ifc(desk.ledger, tmp_path.with_suffix(".ifc"))


def test_everything_offered_can_be_done_and_nothing_else_is_read(tmp_path: Path) -> None:
    _, e = joined(tmp_path / "a", [column("HEB 300"), beam("IPE 400")], "end-plate", "M2.end")
    d = made(e)
    for words in offered(d):
        assert checked(words) == words
        now = altered(d, words)
        if len(d.bolts) and words.startswith("without bolt") and len(next(g for g in d.bolts if g.name == words.rpartition(" of ")[2]).points) == 1:
            continue
        assert not now.unmet and (len(now.plates), len(now.welds), sum(len(g.points) for g in now.bolts)) != (len(d.plates), len(d.welds), sum(len(g.points) for g in d.bolts)), words
    for text in ("with salt", "corner two of end plate cut 3", "leave out everything"):
        with pytest.raises(BadValue, match="is no alteration"):
            checked(text)
    assert checked("  without   end plate ;without end plate\n") == "without end plate"


def test_a_mirrored_copy_is_altered_as_its_original_is(tmp_path: Path) -> None:
    desk = Desk.create(tmp_path / "m.tincleat", HouseRules(), True)
    desk.run("add-members", members=[column("HEB 300"), beam("UB 457x191x67")])
    desk.run("place-connection", family="fin-plate", at=["m2.end"], settings={NAME: "without bolt 2 of bolts"})
    desk.run("mirror-members", ids=["m1", "m2"], line=[[0, 3000, 0], [1, 3000, 0]])
    one, two = [e for e in desk.ledger.entries.values() if e.connection is not None]
    a, b = ([np.round(x.joint.frame.to_world([p])[0], 3) for p in made(x).bolts[0].points] for x in (one, two))
    assert np.allclose(sorted((p[0], 6000 - p[1], p[2]) for p in a), sorted((p[0], p[1], p[2]) for p in b), atol=0.01)
