"""Typicals: the layer between what is worked out and what is typed, their limits and sizes, and the file they are shared by."""

import csv
import json
import math
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tincleat.cli import main
from tincleat.commands.desk import Desk
from tincleat.details.parts import Detail
from tincleat.errors import TinCleatError
from tincleat.exchange.library import read_library, write_library
from tincleat.project.entities import HouseRules

COLUMN = {"section": "HEB 300", "role": "column", "start": [0, 0, 0], "end": [0, 0, 9000]}


def beam(section: str, height: float, name: str, y: float = 0.0) -> dict[str, Any]:
    return {"section": section, "role": "beam", "start": [4000, y, height], "end": [0, y, height], "name": name}


@pytest.fixture
def desk(tmp_path: Path) -> Desk:
    """Three beams on one column, the lowest and middle one alike; each with a fin plate."""
    out = Desk.create(tmp_path / "t.tincleat")
    out.run("add-members", members=[COLUMN, beam("IPE 300", 3000, "A"), beam("IPE 300", 5000, "B"), beam("IPE 400", 7000, "C")])
    out.run("place-connection", family="fin-plate", at=["A.end", "B.end", "C.end"])
    return out


def at(desk: Desk, name: str) -> Any:
    key = next(m.id for m in desk.project.members.values() if m.name == name)
    return desk.ledger.entries[desk.ledger.joint_of(key, "end").key]


def detail(desk: Desk, name: str) -> Detail:
    return at(desk, name).made.detail  # type: ignore[no-any-return]


def number(desk: Desk, name: str, setting: str) -> tuple[object, str]:
    n = detail(desk, name).number(setting)
    return n.value, n.origin


def save(desk: Desk, name: str = "light", **more: Any) -> str:
    c = at(desk, "A").connection.id
    desk.run("change-connections", ids=[c], settings={"plate_thickness": 15.0, "edge_distance": 45.0})
    desk.run("save-typical", connection=c, name=name, **more)
    return next(t.id for t in desk.project.typicals.values() if t.name == name)


def use(desk: Desk, typical: str, *names: str, **more: Any) -> None:
    desk.run("use-typical", typical=typical, ids=[at(desk, n).connection.id for n in names], **more)


def test_a_number_knows_its_layer_and_what_is_typed_goes_before_the_typical(desk: Desk) -> None:
    before = detail(desk, "A").plates, number(desk, "C", "plate_thickness")
    t = save(desk)
    c = at(desk, "A").connection
    assert c.typical == t and not c.settings  # what was typed is the typical's now
    assert number(desk, "A", "plate_thickness") == (15.0, "typical") and number(desk, "A", "edge_distance") == (45.0, "typical")
    assert number(desk, "A", "plate_grade")[1] == "default" and detail(desk, "A").plates != before[0]
    use(desk, "light", "B", "C")
    assert at(desk, "B").made is at(desk, "A").made  # kin by one typical are one detail
    desk.run("change-connections", ids=[at(desk, "C").connection.id], settings={"plate_thickness": 20.0})
    assert number(desk, "C", "plate_thickness") == (20.0, "typed") and number(desk, "C", "edge_distance") == (45.0, "typical")
    desk.run("change-connections", ids=[at(desk, "C").connection.id], settings={"plate_thickness": None})
    assert number(desk, "C", "plate_thickness") == (15.0, "typical")  # back to the layer under it, not to the default
    assert before[1][0] != 15.0 or before[1][1] == "worked out"


def test_uses_follow_a_change_and_come_back_with_undo(desk: Desk) -> None:
    save(desk)
    use(desk, "light", "B")
    plain = detail(desk, "C")
    desk.run("change-typical", typical="light", settings={"plate_thickness": 25.0, "edge_distance": None})
    assert [number(desk, n, "plate_thickness") for n in "AB"] == [(25.0, "typical")] * 2 and number(desk, "A", "edge_distance")[1] != "typical"
    assert detail(desk, "C") is plain
    desk.undo()
    assert number(desk, "A", "plate_thickness") == (15.0, "typical") and number(desk, "A", "edge_distance") == (45.0, "typical")
    path = desk.store.path
    desk.close()
    again = Desk.open(path)
    assert number(again, "B", "edge_distance") == (45.0, "typical")
    again.close()


def test_saving_again_under_a_name_replaces_it_and_counts_who_follows(desk: Desk) -> None:
    t = save(desk)
    use(desk, "light", "B")
    c = at(desk, "C").connection.id
    desk.run("change-connections", ids=[c], settings={"plate_thickness": 12.0})
    title = desk.run("save-typical", connection=c, name="light")
    assert "2 that use it follow" in str(title) and list(desk.project.typicals) == [t]
    assert number(desk, "A", "plate_thickness") == (12.0, "typical") and number(desk, "A", "edge_distance")[1] != "typical"


def test_all_that_makes_a_detail_is_kept_and_makes_the_same_plate_elsewhere(desk: Desk) -> None:
    desk.run("save-typical", connection=at(desk, "A").connection.id, name="whole", what="all")
    shape = detail(desk, "A").plates[0]
    assert shape == detail(desk, "B").plates[0]
    use(desk, "whole", "C")
    mine, theirs = detail(desk, "C").plates[0].outline.bounds, shape.outline.bounds
    # the deeper beam has as many rows and as large a plate as the lower one now: 300 and 400 deep would not by themselves
    assert [round(b - a, 3) for a, b in zip(mine[:2], mine[2:], strict=True)] == [round(b - a, 3) for a, b in zip(theirs[:2], theirs[2:], strict=True)]


def test_sizes_give_the_first_row_that_suits(desk: Desk) -> None:
    save(desk)
    use(desk, "light", "B", "C")
    desk.run("change-typical", typical="light", sizes=[{"section": "ipe 400", "plate_thickness": 20.0}, {"depth": 250, "plate_thickness": 8.0}, {"depth": "350", "plate_thickness": 12.0}])
    assert number(desk, "C", "plate_thickness") == (20.0, "typical")  # by its name
    assert number(desk, "A", "plate_thickness") == (12.0, "typical")  # 300: not up to 250, but up to 350
    assert number(desk, "A", "edge_distance") == (45.0, "typical")  # what the row leaves out
    desk.run("change-typical", typical="light", sizes=[{"depth": 300, "plate_thickness": 8.0}, {"plate_thickness": 25.0}])
    assert number(desk, "A", "plate_thickness")[0] == 8.0 and number(desk, "C", "plate_thickness")[0] == 25.0  # 300 is up to 300
    with pytest.raises(TinCleatError, match=r"light, row 1.*section and a depth"):
        desk.run("change-typical", typical="light", sizes=[{"section": "IPE 300", "depth": 200}])
    with pytest.raises(TinCleatError, match="no setting 'plate_thicknes'"):
        desk.run("change-typical", typical="light", sizes=[{"plate_thicknes": 200}])


def test_limits_of_use_refuse_in_the_joints_figures(desk: Desk) -> None:
    save(desk, most_depth=350, roles=["beam"])
    with pytest.raises(TinCleatError, match="light is for members up to 350 mm deep, IPE 400 is 400 mm"):
        use(desk, "light", "C")
    assert not at(desk, "C").connection.typical
    with pytest.raises(TinCleatError, match="would not suit it: it is for members up to 200 mm deep, IPE 300 is 300 mm"):
        desk.run("save-typical", connection=at(desk, "A").connection.id, name="small", most_depth=200)
    # a member that outgrows it keeps its connection, which says so
    b = next(m.id for m in desk.project.members.values() if m.name == "A")
    desk.run("change-members", ids=[b], section="IPE 500")
    assert "up to 350 mm deep, IPE 500 is 500 mm" in at(desk, "A").problem and at(desk, "A").connection.typical
    desk.undo()
    assert "used 1 time; 1 of them is none that it is for now" in str(desk.run("change-typical", typical="light", roles=["rafter"]))
    assert "for rafter, this is a beam" in at(desk, "A").problem
    desk.run("change-typical", typical="light", roles=[], rules="AISC")
    assert "for AISC, the project is proved to EN" in at(desk, "A").problem
    with pytest.raises(TinCleatError, match="from 500 to 350 mm"):
        desk.run("change-typical", typical="light", least_depth=500)


def test_it_is_for_angles_up_to_a_limit(tmp_path: Path) -> None:
    """One beam square to its column, one 20 degrees askew, one that rises 15 degrees."""
    desk = Desk.create(tmp_path / "t.tincleat")
    askew, rising = beam("IPE 300", 4500, "B"), beam("IPE 300", 6500, "C")
    askew["start"] = [4000 * math.cos(math.radians(20)), 4000 * math.sin(math.radians(20)), 4500]
    rising["start"][2] += 4000 * math.tan(math.radians(15))
    desk.run("add-members", members=[COLUMN, beam("IPE 300", 2000, "A"), askew, rising])
    desk.run("place-connection", family="fin-plate", at=["A.end"], settings={"plate_thickness": 12.0})
    desk.run("save-typical", connection=at(desk, "A").connection.id, name="light", most_skew_deg=15, most_slope_deg=10)
    with pytest.raises(TinCleatError, match=r"light is for up to 15\.0° askew in plan, this is 20\.0°"):
        desk.run("place-connection", family="fin-plate", at=["B.end"], typical="light")
    with pytest.raises(TinCleatError, match=r"light is for up to 10\.0° of slope, this is 15\.0°"):
        desk.run("place-connection", family="fin-plate", at=["C.end"], typical="light")
    desk.run("change-typical", typical="light", most_skew_deg=20, most_slope_deg=0)
    desk.run("place-connection", family="fin-plate", at=["B.end"], typical="light")
    desk.run("place-connection", family="fin-plate", at=["C.end"], typical="light")
    for wrong in (-1.0, 91.0, float("nan")):
        with pytest.raises(TinCleatError, match="0 for no limit, or up to 90"):
            desk.run("change-typical", typical="light", most_skew_deg=wrong)
    # they go out and come in with the file; what is no angle there is told
    (kept,) = desk.project.typicals.values()
    write_library([kept], tmp_path / "l.json")
    (back,) = read_library(tmp_path / "l.json", desk.project.house).typicals
    assert back.most_skew == pytest.approx(math.radians(20)) and back.most_slope == 0
    (tmp_path / "l.json").write_text((tmp_path / "l.json").read_text().replace(str(kept.most_skew), "7"))
    assert any("most skew: 7 is no angle" in words for words in read_library(tmp_path / "l.json", desk.project.house).left)


def test_leaving_and_deleting_change_no_shape(desk: Desk) -> None:
    save(desk)
    use(desk, "light", "B", "C")
    desk.run("change-typical", typical="light", sizes=[{"section": "IPE 400", "plate_thickness": 20.0}])
    shapes = [detail(desk, n).plates for n in "ABC"]
    desk.run("leave-typical", ids=[at(desk, "B").connection.id])
    assert at(desk, "B").connection.settings == {"plate_thickness": 15.0, "edge_distance": 45.0} and not at(desk, "B").connection.typical
    title = desk.run("delete-typical", typical="light")
    assert "2 connections stay as they are" in str(title) and not desk.project.typicals
    assert at(desk, "C").connection.settings == {"plate_thickness": 20.0, "edge_distance": 45.0}
    assert [detail(desk, n).plates for n in "ABC"] == shapes
    with pytest.raises(TinCleatError, match="none of them uses a typical"):
        desk.run("leave-typical", ids=[at(desk, "B").connection.id])


def test_it_is_placed_by_it_and_all_alike_too(tmp_path: Path) -> None:
    desk = Desk.create(tmp_path / "t.tincleat")
    desk.run("add-members", members=[COLUMN, beam("IPE 300", 3000, "A"), beam("IPE 300", 5000, "B"), beam("IPE 400", 7000, "C")])
    desk.run("place-connection", family="fin-plate", at=["A.end"])
    save(desk)
    desk.run("place-all", family="fin-plate", typical="light")
    assert [number(desk, n, "plate_thickness") for n in "BC"] == [(15.0, "typical")] * 2
    with pytest.raises(TinCleatError, match="no typical 'heavy' for fin-plate"):
        desk.run("place-connection", family="fin-plate", at=["A.start"], typical="heavy")


def test_one_of_another_family_takes_its_place_where_it_suits(desk: Desk) -> None:
    desk.run("delete-connections", ids=[at(desk, "C").connection.id])
    desk.run("place-connection", family="end-plate", at=["C.end"], settings={"thickness": 25.0})
    desk.run("save-typical", connection=at(desk, "C").connection.id, name="stiff")
    use(desk, "stiff", "B")
    assert at(desk, "B").connection.family == "end-plate" and number(desk, "B", "thickness") == (25.0, "typical")


def test_settings_are_copied_to_others_and_those_of_other_families_counted(desk: Desk) -> None:
    ids = [at(desk, n).connection.id for n in "ABC"]
    desk.run("change-connections", ids=ids[:1], settings={"plate_thickness": 20.0, "edge_distance": 50.0})
    desk.run("change-connections", ids=ids[1:2], settings={"setback": 12.0})
    desk.run("copy-settings", source=ids[0], ids=ids[1:2], settings=["plate_thickness"])
    assert at(desk, "B").connection.settings == {"setback": 12.0, "plate_thickness": 20.0}
    desk.run("delete-connections", ids=ids[2:])
    desk.run("place-connection", family="end-plate", at=["C.end"])
    title = desk.run("copy-settings", source=ids[0], ids=[ids[1], at(desk, "C").connection.id])
    assert "1 of other families left" in str(title) and at(desk, "B").connection.settings == {"plate_thickness": 20.0, "edge_distance": 50.0}
    with pytest.raises(TinCleatError, match="no other connection of this family"):
        desk.run("copy-settings", source=ids[0], ids=[ids[0]])


def test_a_mirrored_copy_has_the_other_side_of_what_the_typical_gives(tmp_path: Path) -> None:
    """The joint is its own mirror image: the plate that the typical puts on the far side lies on the image's other side of the beam."""
    desk = Desk.create(tmp_path / "t.tincleat")
    desk.run("add-members", members=[COLUMN, beam("IPE 300", 3000, "A")])
    desk.run("place-connection", family="fin-plate", at=["A.end"], settings={"sides": "far side"})
    desk.run("save-typical", connection=at(desk, "A").connection.id, name="far")
    beam_id = at(desk, "A").joint.members[0]
    column = at(desk, "A").joint.support
    desk.run("mirror-members", ids=[beam_id, column], point=[0, 2000, 0], normal=[0, 1, 0])
    old, new = (e for e in desk.ledger.entries.values() if e.made is not None)

    def side(entry: Any) -> float:
        plate = entry.made.detail.plates[0]
        x0, y0, x1, y1 = plate.outline.bounds
        return float(entry.joint.frame.to_world(plate.frame.to_world([((x0 + x1) / 2, (y0 + y1) / 2, plate.thickness / 2)]))[0][1])

    assert side(old) + side(new) == pytest.approx(4000.0, abs=0.01) and abs(side(old)) > 3
    assert new.connection.typical == old.connection.typical and new.made.counts["breach"] == 0


def test_the_file_is_plain_and_read_back_by_another_reader(desk: Desk, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    save(desk, most_depth=350, roles=["beam"], words="for the mezzanine")
    desk.run("change-typical", typical="light", sizes=[{"section": "IPE 300", "plate_thickness": 12.0}], folder="beams", favourite=True)
    path = desk.store.path
    desk.close()
    assert main(["export", str(path), "--typicals", str(tmp_path / "out.json")]) == 0 and "1 typicals" in capsys.readouterr().out
    plain = json.loads((tmp_path / "out.json").read_text())
    assert plain["typicals"] == 1 and plain["units"] == "mm, rad"
    (item,) = plain["items"]
    assert item["name"] == "light" and item["settings"] == {"plate_thickness": 15.0, "edge_distance": 45.0} and "id" not in item
    assert item["sizes"] == [{"settings": {"plate_thickness": 12.0}, "section": "IPE 300", "depth": 0.0}] and item["most_depth"] == 350
    other = Desk.create(tmp_path / "other.tincleat")
    other.run("load-typicals", path=str(tmp_path / "out.json"))
    (t,) = other.project.typicals.values()
    assert (t.folder, t.favourite, t.words, t.roles, t.most_depth) == ("beams", True, "for the mezzanine", ("beam",), 350.0)
    title = other.run("load-typicals", path=str(tmp_path / "out.json"))
    assert title == "nothing to change"
    with pytest.raises(TinCleatError, match="1 are there already"):
        other.run("load-typicals", path=str(tmp_path / "out.json"), keep=True)
    other.close()


def test_what_a_file_has_too_much_is_told_and_the_rest_taken(tmp_path: Path) -> None:
    items = [
        {"name": "good", "family": "fin-plate", "settings": {"plate_thickness": 12, "wings": 3, "edge_distance": -5}, "roles": ["beam", "wing"], "most_depth": "deep", "rules": "XY"},
        {"name": "strange", "family": "wing-plate", "settings": {}},
        {"name": "", "family": "fin-plate"},
        17,
    ]
    (tmp_path / "a.json").write_text(json.dumps({"typicals": 1, "items": items}))
    found = read_library(tmp_path / "a.json", HouseRules())
    assert [t.name for t in found.typicals] == ["good"] and found.typicals[0].settings == {"plate_thickness": 12.0} and found.typicals[0].roles == ("beam",)
    assert len(found.left) == 8 and any("no setting 'wings'" in w for w in found.left) and any("outside its limits" in w for w in found.left)
    desk = Desk.create(tmp_path / "t.tincleat")
    title = str(desk.run("load-typicals", path=str(tmp_path / "a.json")))
    assert "left out:" in title and "and 5 more" in title
    desk.close()


@pytest.mark.parametrize(
    ("body", "words"),
    [
        (b"", "cannot be read"),
        (b"\xff\xfe{", "cannot be read"),
        (b"[" * 100_000, "cannot be read"),
        (b"[]", "holds no typicals"),
        (b'{"typicals": 2, "items": []}', "version 2"),
        (b'{"typicals": 1, "items": []}', "it is empty"),
        (b'{"typicals": 1, "items": [{"name": "a", "family": "nobody"}]}', "no family of this program"),
    ],
)
def test_a_bad_file_is_refused_and_nothing_changes(tmp_path: Path, body: bytes, words: str) -> None:
    (tmp_path / "a.json").write_bytes(body)
    desk = Desk.create(tmp_path / "t.tincleat")
    with pytest.raises(TinCleatError, match=words):
        desk.run("load-typicals", path=str(tmp_path / "a.json"))
    assert not desk.project.typicals
    desk.close()


def test_nothing_to_keep_or_a_bad_name_is_refused(desk: Desk) -> None:
    c = at(desk, "A").connection.id
    with pytest.raises(TinCleatError, match="nothing is typed here"):
        desk.run("save-typical", connection=c, name="empty")
    with pytest.raises(TinCleatError, match="is no name"):
        desk.run("save-typical", connection=c, name="  ", what="all")
    with pytest.raises(TinCleatError, match="not in use here"):
        desk.run("save-typical", connection=c, name="x", settings=["bend_radius"])


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(st.sampled_from(["save", "use", "change", "leave", "delete", "type", "undo"]), st.integers(0, 2), st.sampled_from([8.0, 10.0, 12.0, 15.0, 20.0])), max_size=9))
def test_any_order_of_deeds_leaves_the_ledger_as_made_anew(tmp_path_factory: pytest.TempPathFactory, deeds: "list[tuple[str, int, float]]") -> None:
    desk = Desk.create(tmp_path_factory.mktemp("t") / "t.tincleat")
    desk.run("add-members", members=[COLUMN, beam("IPE 300", 3000, "A"), beam("IPE 300", 5000, "B"), beam("IPE 400", 7000, "C")])
    desk.run("place-connection", family="fin-plate", at=["A.end", "B.end", "C.end"])
    for deed, which, value in deeds:
        if at(desk, "ABC"[which]).connection is None:
            continue  # the placing itself was undone
        c = at(desk, "ABC"[which]).connection.id
        try:
            if deed == "undo":
                desk.undo()
            elif deed == "type":
                desk.run("change-connections", ids=[c], settings={"plate_thickness": value})
            elif deed == "save":
                desk.run("save-typical", connection=c, name="t")
            elif deed == "use":
                desk.run("use-typical", typical="t", ids=[c])
            elif deed == "change":
                desk.run("change-typical", typical="t", settings={"plate_thickness": value})
            elif deed == "leave":
                desk.run("leave-typical", ids=[c])
            else:
                desk.run("delete-typical", typical="t")
        except TinCleatError:
            pass
    kept = {k: (e.connection, e.made.detail if e.made else None, e.problem) for k, e in desk.ledger.entries.items()}
    desk.ledger.rebuild()
    assert kept == {k: (e.connection, e.made.detail if e.made else None, e.problem) for k, e in desk.ledger.entries.items()}
    assert all(e.connection is None or e.connection.typical == "" or e.connection.typical in desk.project.typicals for e in desk.ledger.entries.values())
    desk.close()


SIZES = "section,up to depth,plate thickness,edge_distance,units\nIPE 300,,1/2,1 1/2,in\n,450 mm,15,,mm\n,,20,45,\n"


def test_sizes_are_read_from_a_table_and_written_as_one(desk: Desk, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    desk.run("save-typical", connection=at(desk, "A").connection.id, name="ends", what="all", settings=["plate_thickness"])
    for n in ("B", "C"):
        desk.run("use-typical", typical="ends", ids=[at(desk, n).connection.id])
    table = tmp_path / "sizes.csv"
    table.write_text(SIZES, encoding="utf-8-sig")
    assert desk.run("load-sizes", typical="ends", path=str(table)) == "Load 3 sizes of typical ends; 3 that use it follow"
    # half an inch is 12.7; an inch and a half 38.1; the IPE 400 is the second row's, which leaves its edges as they are worked out
    assert [number(desk, n, "plate_thickness") for n in "ABC"] == [(12.7, "typical"), (12.7, "typical"), (15.0, "typical")]
    assert number(desk, "A", "edge_distance")[0] == pytest.approx(38.1) and at(desk, "C").made.detail.number("edge_distance").origin != "typical"
    (t,) = desk.project.typicals.values()
    assert [(r.section, r.depth) for r in t.sizes] == [("IPE 300", 0.0), ("", 450.0), ("", 0.0)]
    # written by the command line in the project's unit, read by a plain reader, and taken in again for the same
    desk.close()
    out = tmp_path / "out.csv"
    assert main(["export", str(desk.store.path), "--sizes", "ends", str(out)]) == 0 and "3 sizes" in capsys.readouterr().out
    rows = list(csv.DictReader(out.read_text(encoding="utf-8-sig").splitlines()))
    assert [r["plate_thickness"] for r in rows] == ["12.7", "15", "20"] and {r["units"] for r in rows} == {"mm"} and rows[1]["depth"] == "450 mm" and rows[1]["edge_distance"] == ""
    again = Desk.open(desk.store.path)
    again.run("set-house-rules", values={"units": "ft-in"})  # the table says what its figures are in
    again.run("load-sizes", typical="ends", path=str(out))
    for new, old in zip(next(iter(again.project.typicals.values())).sizes, t.sizes, strict=True):
        assert (new.section, new.depth) == (old.section, old.depth) and new.settings == pytest.approx(old.settings)
    again.close()


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("section,plate_thickness\n", "holds no rows"), ("section,colour\nIPE 300,red\n", "no setting of Fin plate is called 'colour'"), ("section,size\nIPE 300,IPE 300\n", "second column"),
        ("section,plate_thickness\nIPE 300,thick\n", "row 2"), ("section,plate_thickness\nIPE 300,12,13\n", "3 cells under 2 heads"), ("section,depth\nIPE 300,300\n", "a section and a depth"),
        ("section,units\nIPE 300,furlong\n", "no unit of length"), ("section\nIPE 301\n", "row 2"),
    ],
)  # fmt: skip
def test_a_bad_table_of_sizes_is_refused_whole(desk: Desk, tmp_path: Path, text: str, words: str) -> None:
    desk.run("save-typical", connection=at(desk, "A").connection.id, name="ends", what="all", settings=["plate_thickness"])
    before = dict(desk.project.typicals)
    table = tmp_path / "sizes.csv"
    table.write_text(text)
    with pytest.raises(TinCleatError, match=words):
        desk.run("load-sizes", typical="ends", path=str(table))
    assert desk.project.typicals == before


def test_a_variant_holds_what_differs_and_leaves_the_typical_alone(desk: Desk) -> None:
    save(desk)
    use(desk, "light", "B", "C")
    desk.run("change-typical", typical="light", sizes=[{"section": "IPE 300", "plate_thickness": 8.0, "edge_distance": 50.0}])
    ids = [at(desk, n).connection.id for n in "AB"]
    desk.run("change-connections", ids=[ids[0]], settings={"weld_leg": 7.0})
    before = dict(desk.project.typicals)
    assert desk.run("make-variant", ids=ids, settings={"plate_thickness": 16.0}) == "Make variant light 2 of light for 2 connections"
    (new,) = [t for k, t in desk.project.typicals.items() if k not in before]
    # what is changed holds for every size, what the size gave besides stays its row's; what was typed at the first comes along
    assert number(desk, "A", "plate_thickness") == number(desk, "B", "plate_thickness") == (16.0, "typical") and number(desk, "A", "edge_distance") == (50.0, "typical")
    assert number(desk, "B", "weld_leg") == (7.0, "typical") and not at(desk, "A").connection.settings
    assert number(desk, "C", "plate_thickness")[0] != 16.0 and {k: desk.project.typicals[k] for k in before} == before and new.name == "light 2"
    desk.run("make-variant", ids=[at(desk, "C").connection.id], settings={"plate_thickness": 30.0})
    assert "light 3" in {t.name for t in desk.project.typicals.values()}
    with pytest.raises(TinCleatError, match="has a typical 'light 2' already"):
        desk.run("make-variant", ids=ids, settings={"plate_thickness": 30.0}, name="light 2")
    desk.run("leave-typical", ids=ids)
    desk.run("change-connections", ids=ids, settings=dict.fromkeys(at(desk, "A").connection.settings))
    with pytest.raises(TinCleatError, match="nothing is typed"):
        desk.run("make-variant", ids=ids)
