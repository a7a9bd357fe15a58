"""House rules: each declared once, shown as it is typed, tried before it is kept, kept without looking for joints again, carried in files."""

import json
from pathlib import Path
from typing import Any

import msgspec
import pytest
from conftest import beam, joint

from tincleat.cli import main
from tincleat.commands.desk import Desk
from tincleat.commands.house import with_values
from tincleat.demo.registry import make_demo
from tincleat.errors import BadFile, BadValue, Cancelled, NotFound
from tincleat.exchange.standard_file import read_standard, write_standard
from tincleat.families.registry import FAMILIES
from tincleat.ledger.effect import effect, in_words
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.made import Workshop
from tincleat.project.entities import ROUND_AS_MADE, ROUND_WIDER, HouseRules, RoundRule, inch_house
from tincleat.project.house_sheet import RULES, differing, house_rule, standard
from tincleat.release.bill import bill


@pytest.fixture(scope="module")
def joined(tmp_path_factory: pytest.TempPathFactory) -> Desk:
    """The joined boathouse; whoever changes it takes that back."""
    return make_demo("boathouse-joined", tmp_path_factory.mktemp("house") / "j.tincleat")


@pytest.mark.parametrize("house", [HouseRules(), inch_house("US"), HouseRules(units="m")], ids=["mm", "ft-in", "m"])
def test_what_is_shown_can_be_typed_again(house: HouseRules) -> None:
    for rule in RULES:
        typed = rule.typed(rule.shown(house), house)
        was = rule.value(house)
        if isinstance(was, float | tuple):
            assert typed == pytest.approx(was, abs=0.05), rule.name
        elif isinstance(was, RoundRule):
            assert (typed.way, typed.stock) == (was.way, was.stock) and typed.step == pytest.approx(was.step, abs=0.01), rule.name
        else:
            assert typed == was, rule.name
        rule.check(rule.put(house, typed))
        assert rule.help and rule.label


def test_every_field_of_the_house_is_a_rule_on_the_page() -> None:
    fields = {r.name.partition("/")[0] for r in RULES}
    assert fields == set(HouseRules.__struct_fields__) - {"id"}
    assert {f"rounding/{k}" for k in (*HouseRules().rounding, *ROUND_WIDER, *ROUND_AS_MADE)} == {r.name for r in RULES if r.group == "Rounding"}


@pytest.mark.parametrize(
    ("name", "text", "value"),
    [
        ("rounding/base plate", "20 up", RoundRule(20.0, "up")), ("rounding/base plate", "12", RoundRule(12.0, "up")), ("rounding/weld leg", "0.5 nearest", RoundRule(0.5, "nearest")),
        ("rounding/gusset length", "none", RoundRule(0.0)), ("rounding/gusset length", "", None), ("rounding/end plate width", "flat bars up", RoundRule(0.0, "up", True)),
        ("rounding/plate width", '1/2in down', RoundRule(12.7, "down")), ("plates", "12; 8, 10", (8.0, 10.0, 12.0)), ("exposed", "no", False), ("notch_clearance", "2*15", 30.0),
        ("plain", "Column head, free end", ("column head", "free end")), ("plain", "none", ()), ("marks/beam", "B", "B"), ("marks/beam", "", None), ("north_deg", "-30", -30.0),
    ],
)  # fmt: skip
def test_typed_texts(name: str, text: str, value: Any) -> None:
    assert house_rule(name).typed(text, HouseRules()) == value


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({"rounding/base plate": "10 upp"}, "no rounding rule"), ({"rounding/base plate": {"step": 2000}}, "Base plate"), ({"two_rows_from": -1}, "Two rows from depth"), ({"bend_least": -1}, "Inside of a bend"),
        ({"marks/beam": "B 1"}, "no beginning of a mark"), ({"marks/beam": "BEAMBEAM"}, "at most 6"), ({"rounding/nose": {"step": 5}}, "nothing that rounding"), ({"bars/I": 100.0}, "Bars of I-sections"),
        ({"plates": [0.0, 5.0]}, "Plates"), ({"title/x": 1}, "no house rule"), ({"nothing": 1}, "no house rule"), ({"notch_most": 1.5}, "Notch at most"), ({"exposed": "perhaps"}, "yes or no"),
        ({"plain": ["roof"]}, "not among the choices"), ({"mark_start": -1}, "First number"), ({"title": "  "}, "title is blank"), ({"weld_gap": float("nan")}, "Gap under a weld"),
    ],
)  # fmt: skip
def test_values_out_of_their_limits_are_refused_in_words(values: dict[str, Any], words: str) -> None:
    with pytest.raises(BadValue) as caught:
        with_values(HouseRules(), values)
    assert words in str(caught.value)
    with pytest.raises(NotFound):
        house_rule("nothing")


def test_a_narrower_rounding_kind_lands_by_its_own_rule_else_by_the_wider(corner: Desk) -> None:
    """Of the fin plate's two extents only its own kind changes; the wider rule still holds for the rest."""
    place = joint(corner, "B1.start")
    fin = FAMILIES["fin-plate"]
    plain = fin.detail(place.case, {}, HouseRules()).plates[0].outline.bounds
    own = fin.detail(place.case, {}, with_values(HouseRules(), {"rounding/fin plate length": "64 up"})).plates[0].outline.bounds
    tall = lambda b: b[3] - b[1]  # noqa: E731
    assert tall(plain) % 5 == pytest.approx(0) and tall(own) % 64 == pytest.approx(0) and tall(own) >= tall(plain)
    wider = fin.detail(place.case, {}, with_values(HouseRules(), {"rounding/plate length": "64 up"})).plates[0].outline.bounds
    assert tall(wider) == pytest.approx(tall(own))  # without a rule of its own the wider kind's
    both = fin.detail(place.case, {}, with_values(HouseRules(), {"rounding/plate length": "64 up", "rounding/fin plate length": "none"})).plates[0].outline.bounds
    assert tall(both) <= tall(plain)
    assert HouseRules().rounding_of("fin plate length") == ("plate length", RoundRule(5.0)) and HouseRules(rounding={}).rounding_of("notch") == ("notch", None)


def plates(desk: Desk) -> dict[str, int]:
    return {f"{x.size} {x.grade} {x.mass_each:.4f}": x.count for x in bill(desk.ledger) if x.kind == "plate"}


@pytest.mark.parametrize(("name", "text"), [("rounding/base plate", "50 up"), ("bolt", "M24"), ("spacing_factor", "3.4"), ("rounding/plate width", "12 up"), ("exposed", "no")])
def test_what_is_told_is_what_comes(joined: Desk, name: str, text: str) -> None:
    """Told before against the bill, the proof and the joints after it is kept, which know nothing of the telling."""
    ledger, before, counts, mass = joined.ledger, plates(joined), joined.ledger.counts(), sum(x.mass for x in bill(joined.ledger) if x.kind == "plate")
    entries = dict(ledger.entries)
    house = with_values(joined.project.house, {name: text})
    found = effect(ledger, house)
    assert ledger.entries == entries and joined.ledger.counts() == counts and joined.project.house != house  # nothing was kept
    joined.run("set-house-rules", values={name: text})
    try:
        anew = Ledger(joined.project, Workshop())  # all of it made by nobody who knew the old one
        assert anew.counts() == joined.ledger.counts() and anew.by_end == joined.ledger.by_end
        assert {k: e.joint for k, e in anew.entries.items()} == {k: e.joint for k, e in joined.ledger.entries.items()}
        after = plates(joined)
        moved = sum(max(0, after.get(k, 0) - before.get(k, 0)) for k in after)
        assert moved <= found.plates and (moved > 0) == (found.plates > 0)  # holes and names may move where sizes stay
        assert found.mass == pytest.approx(sum(x.mass for x in bill(joined.ledger) if x.kind == "plate") - mass, abs=0.01)
        grave = {k for k, e in joined.ledger.entries.items() if sum(f.level == "breach" for f in e.findings) > sum(f.level == "breach" for f in entries[k].findings)}
        assert grave <= set(found.breaches) | {k for k, _ in found.unfit}
        assert (joined.ledger.counts()["breach"] > counts["breach"]) <= bool(found.breaches or found.unfit)
    finally:
        joined.undo()
    assert joined.ledger.counts() == counts and plates(joined) == before


def test_an_effect_in_words_and_cancelled(joined: Desk) -> None:
    words = in_words(effect(joined.ledger, with_values(joined.project.house, {"spacing_factor": 4.0})), lambda k: joined.ledger.entries[k].joint.words)
    assert "would come into breach" in words[0] and " × " in words[0] and words[-1].startswith("8 connections would differ: 4 plates change")
    assert in_words(effect(joined.ledger, with_values(joined.project.house, {"title": "Another", "mark_start": 100})), str) == ["Nothing that is placed changes."]
    with pytest.raises(Cancelled):
        effect(joined.ledger, with_values(joined.project.house, {"bolt": "M16"}), lambda share, what: False)


def test_a_connection_that_would_not_fit_is_named_with_its_reason(desk: Desk) -> None:
    """A notch under a flange 12.8 thick and its root, with 20 clear, is more than an eighth of a joist 203 mm deep."""
    desk.run("add-members", members=[beam("UB 406x178x60", (-3000, 0, 3000), (3000, 0, 3000)), beam("UB 203x133x25", (0, 0, 3101.6), (0, 4000, 3101.6), "joist")])
    desk.run("place-connection", family="fin-plate", at=["m2.start"])
    found = effect(desk.ledger, with_values(desk.project.house, {"notch_most": 0.125}))
    words = in_words(found, lambda k: desk.ledger.entries[k].joint.words)
    assert [k for k, _ in found.unfit] == ["m2.start"] and words[0].startswith("1 connection would not fit any more, first UB 203x133x25 to UB 406x178x60 web: ")
    desk.run("set-house-rules", values={"notch_most": 0.125})
    assert desk.ledger.entries["m2.start"].problem == found.unfit[0][1]


def test_marks_by_the_house(joined: Desk) -> None:
    """One run of numbers for a prefix, whoever bears it; all marks stay different."""
    plain = [x.mark for x in bill(joined.ledger)]
    assert plain[0] == "A1" and len(set(plain)) == len(plain)
    joined.run("set-house-rules", values={"marks/beam": "B", "marks/column": "C", "marks/rafter": "B", "marks/plate": "PL", "mark_start": 101, "mark_separator": "-"})
    try:
        lines = bill(joined.ledger)
        assert len({x.mark for x in lines}) == len(lines) == len(plain)
        by = {kind: [x.mark for x in lines if x.kind == kind] for kind in ("column", "beam", "rafter", "plate", "purlin")}
        assert by["column"][0] == "C-101" and by["beam"][0] == "B-101" and by["rafter"][0] == f"B-{101 + len(by['beam'])}" and next(x.mark for x in lines if x.kind in ("plate", "piece")) == "PL-101"
        assert all(m.startswith("A-") for m in by["purlin"])
    finally:
        joined.undo()


def test_standards_differ_and_travel_in_files(tmp_path: Path) -> None:
    house = with_values(inch_house("Quay"), {"bolt": "7/8in", "marks/beam": "B", "north_deg": 12})
    assert {r.name for r in differing(house, standard(house))} == {"bolt", "marks/beam"}
    assert not differing(HouseRules(title="x", north_deg=3), standard(HouseRules(title="x", north_deg=3))) and not differing(inch_house("q"), standard(inch_house("q")))
    write_standard(house, "Quayside", tmp_path / "q.json")
    found = read_standard(tmp_path / "q.json")
    again = with_values(HouseRules(title="New"), found.values)
    assert found.name == "Quayside" and not found.left and again == msgspec.structs.replace(house, title="New", north_deg=90.0)
    body = json.loads((tmp_path / "q.json").read_text())
    body["rules"] |= {"bolt": "M21", "colour": "red", "title": "Mine", "weld_gap": "wide"}
    (tmp_path / "q.json").write_text(json.dumps(body))
    found = read_standard(tmp_path / "q.json")
    assert "bolt" not in found.values and [x.partition(":")[0] for x in found.left] == ["bolt", "weld_gap", "colour", "title"]
    for text in ("", "[]", "{}", '{"house rules": 2, "rules": {}}', "{" * 5000):
        (tmp_path / "bad.json").write_text(text)
        with pytest.raises(BadFile):
            read_standard(tmp_path / "bad.json")


def test_the_command_and_the_command_line(corner: Desk, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    write_standard(with_values(HouseRules(), {"bolt": "M16"}), "Light", tmp_path / "light.json")
    before = corner.project.house
    corner.run("load-house-rules", path=str(tmp_path / "light.json"))
    assert corner.project.house == msgspec.structs.replace(before, bolt="M16")
    corner.undo()
    corner.run("place-connection", family="fin-plate", at=["m2.start"])
    corner.close()
    path = str(tmp_path / "test.tincleat")
    assert main(["house", path]) == 0 and "0 of " in capsys.readouterr().out
    assert main(["house", path, "--try", "bolt=M24"]) == 0 and "1 connection would differ: 1 plate changes" in capsys.readouterr().out
    assert main(["house", path, "--try", "bolt"]) == 2 and "names no value" in capsys.readouterr().err
    assert main(["house", path, "--write", str(tmp_path / "w.json"), "--name", "Wharf"]) == 0 and read_standard(tmp_path / "w.json").name == "Wharf"
    capsys.readouterr()
    assert main(["house", path, "--json"]) == 0 and {r["name"] for r in json.loads(capsys.readouterr().out)} == {r.name for r in RULES}
    assert main(["new", str(tmp_path / "n.tincleat"), "--house", str(tmp_path / "light.json")]) == 0
    made = Desk.open(tmp_path / "n.tincleat")
    assert made.project.house.bolt == "M16" and made.project.house.title == "n"
    made.close()


def test_ends_left_plain_by_the_page_count_as_settled(corner: Desk) -> None:
    before = corner.ledger.counts()
    heads = sum(e.joint.kind == "column head" for e in corner.ledger.entries.values())
    assert in_words(effect(corner.ledger, with_values(corner.project.house, {"plain": "column head"})), str) == [f"{heads} end{'s' if heads > 1 else ''} would count as settled, left plain"]
    corner.run("set-house-rules", values={"plain": "column head"})
    after = corner.ledger.counts()
    assert heads and after["plain"] == before["plain"] + heads and after["joined"] == before["joined"] + heads
    assert in_words(effect(corner.ledger, with_values(corner.project.house, {"plain": "none"})), str)[0].endswith("would be open again")
    corner.run("set-house-rules", values={"plain": "none"})
    assert corner.ledger.counts() == before


def test_a_change_of_units_changes_the_words_of_what_falls_short(tmp_path: Path) -> None:
    """To feet and back, and within inches: joints read as those of a ledger made anew."""
    desk = make_demo("boathouse", tmp_path / "b.tincleat")
    desk.run("add-members", members=[{"section": "IPE 200", "role": "beam", "start": [-9000, 40000, 0], "end": [-5000, 40000, 0]}, {"section": "IPE 200", "role": "column", "start": [-4700, 40000, -2000], "end": [-4700, 40000, 2000]}])
    short = [k for k, e in desk.ledger.entries.items() if e.joint.kind == "near miss"]
    assert short

    def words() -> list[str]:
        said = [desk.ledger.entries[k].joint.words for k in short]
        anew = Ledger(desk.project, Workshop())
        assert said == [anew.entries[k].joint.words for k in short]
        return said

    metric = words()
    desk.run("set-house-rules", values={"units": "ft-in"})
    feet = words()
    desk.run("set-house-rules", values={"units": "in"})
    assert words() != feet or '\'' not in "".join(feet)
    desk.undo()
    assert words() == feet != metric
    desk.undo()
    assert words() == metric
    desk.close()


def test_clearance_of_holes_by_the_house(desk: Desk) -> None:
    """M20 holes of 20 + 1 mm in plate and web; EN 1090-2 table 11 lets a normal one be 22, so 20 + 3 is told; M16 keeps its own 18."""
    desk.run("add-members", members=[beam("UB 406x178x60", (-3000, 0, 3000), (3000, 0, 3000)), beam("UB 305x165x46", (0, 0, 3000), (0, 4000, 3000))])
    desk.run("place-connection", family="fin-plate", at=["m2.start"], settings={"bolt": "M20"})
    for typed, wide, level in (("1", 21.0, "clear"), ("3", 23.0, "breach"), ("", 22.0, "clear")):
        rule = house_rule("holes/M20")
        desk.run("set-house-rules", values={"holes/M20": rule.typed(typed, desk.project.house)})
        entry = desk.ledger.entries["m2.start"]
        assert entry.made is not None
        assert {h.width for ply in entry.made.assembled.plies for h in ply.holes} == {wide} and sum(bool(ply.holes) for ply in entry.made.assembled.plies) == 2
        told = next(f for f in entry.findings if f.rule == "hole-size")
        assert (told.level, told.actual, told.required) == (level, wide, 22.0)
    assert rule.shown(desk.project.house) == "as the standard, 2" and not desk.project.house.holes
    loose = msgspec.structs.replace(HouseRules(), holes={"M20": 1.0})
    assert loose.hole("M16", "normal") == (18.0, 18.0) and loose.hole("M20", "oversize") == (24.0, 24.0) and loose.hole("M20", "short slot") == (22.0, 26.0)
    with pytest.raises(BadValue, match="outside its limits"):
        desk.run("set-house-rules", values={"holes/M20": -1.0})
    with pytest.raises(BadValue, match="nothing that holes are kept for"):
        desk.run("set-house-rules", values={"holes": {"M21": 1.0}})
