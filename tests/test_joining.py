"""Joining rules: what they settle and leave on the demos, their order, limits and typicals, and what they refuse."""

from pathlib import Path
from typing import Any

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tincleat.commands.desk import Desk
from tincleat.commands.joining import NO_RULE, USUAL, as_row, plan, rules_of
from tincleat.demo import boathouse, pumphouse
from tincleat.demo.registry import make_demo
from tincleat.errors import Cancelled, TinCleatError
from tincleat.families.registry import FAMILIES
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.made import Workshop
from tincleat.ledger.mend import mend, part

COLUMN = {"section": "HEB 300", "role": "column", "start": [0, 0, 0], "end": [0, 0, 9000]}


def beam(section: str, height: float, name: str, **more: Any) -> dict[str, Any]:
    return {"section": section, "role": "beam", "start": [4000, 0, height], "end": [0, 0, height], "name": name, **more}


@pytest.fixture
def desk(tmp_path: Path) -> Desk:
    out = Desk.create(tmp_path / "j.tincleat")
    out.run("add-members", members=[COLUMN, beam("IPE 300", 3000, "A"), beam("IPE 500", 5000, "B"), beam("IPE 300", 7000, "C")])
    return out


def family_at(desk: Desk, name: str, end: str = "end") -> str:
    key = next(m.id for m in desk.project.members.values() if m.name == name)
    c = desk.ledger.entries[desk.ledger.by_end[(key, end)]].connection  # type: ignore[index]
    return "" if c is None else c.family


def test_the_pump_house_is_joined_in_one_step_and_back(tmp_path: Path) -> None:
    desk = pumphouse.build(tmp_path / "p.tincleat")
    before = desk.counts()
    assert before["joined"] < 20
    desk.run("join-all")
    after = desk.counts()
    assert after["joined"] == after["joints"] > 160 and after["breach"] == 0 and after["apart"] == 0
    desk.undo()
    assert desk.counts() == before
    desk.close()


def test_the_boathouse_is_joined_but_for_what_meets_nothing(tmp_path: Path) -> None:
    desk = boathouse.build(tmp_path / "b.tincleat")
    found = plan(desk.project, desk.ledger, rules_of(desk.project))
    assert {x.joint.kind for x in found.left} == {"near miss"} and len(found.left) == 2 and all("move or lengthen" in x.why for x in found.left)
    before = desk.counts()
    title = desk.run("join-all")
    assert "2 left" in str(title) and desk.counts()["joined"] == before["joints"] - 2
    # the stiffeners of 14 knees would run into the plates of eaves beams; as deep a haunch as clears them is told, and proved by nobody who planned it
    assert found.parted == {"End plate: Haunch depth 350 → 400": 14} and "14 × End plate: Haunch depth 350 → 400" in title
    anew = Ledger(desk.project, Workshop())
    assert anew.counts()["breach"] == before["breach"] == 4 and not found.breaches
    assert not any(f.rule == "clash" and f.level == "breach" for e in anew.entries.values() for f in e.findings)
    with pytest.raises(TinCleatError, match="no rule settles an open end"):
        desk.run("join-all")
    desk.close()


def test_a_frame_as_it_came_is_planned_and_what_stays_in_breach_is_told(tmp_path: Path) -> None:
    desk = make_demo("wireframe", tmp_path / "w.tincleat")
    found = plan(desk.project, desk.ledger, rules_of(desk.project))
    was = desk.counts()["breach"]
    told = desk.run("join-all")
    own = [e for e in desk.ledger.entries.values() if e.level == "breach"]
    assert len(found.breaches) == len(own) > 0 and f"{len(own)} in breach, first " in told
    assert {j.key for j, _ in found.breaches} == {e.joint.key for e in own} and was >= 0
    desk.close()


def test_parts_that_run_into_neighbours_are_set_clear_by_hand_too(tmp_path: Path) -> None:
    """A knee's stiffener in the way of an eaves beam's fin plate: the finding's own fix finds another haunch, and nothing else changes."""
    desk = boathouse.build(tmp_path / "b.tincleat")
    open_ = [e for e in desk.ledger.entries.values() if not e.settled]
    webs: list[str] = []
    for knee in (e for e in open_ if e.joint.kind == "knee"):
        webs = webs or [e.joint.key for e in open_ if e.joint.support == knee.joint.support and e.joint.kind == "beam to column web"]
        if webs:
            break
    desk.run("place-connection", family="fin-plate", at=webs)
    desk.run("place-connection", family="end-plate", at=[knee.joint.key])
    entry = desk.ledger.entries[knee.joint.key]
    assert entry.connection is not None
    clash = next(f for f in entry.findings if f.rule == "clash" and f.level == "breach")
    before, counts = dict(desk.ledger.entries), desk.ledger.counts()
    scratch = desk.ledger.beside()
    assert part(scratch, entry) == ("haunch_depth", 400.0) and mend(desk.ledger, entry, clash) == ("haunch_depth", 400.0)
    assert desk.ledger.entries == before and desk.ledger.counts() == counts  # tried elsewhere
    assert scratch.entries[knee.joint.key].level == "clear" and part(scratch, scratch.entries[knee.joint.key]) is None
    desk.run("mend-finding", connection=entry.connection.id, finding=clash.key)
    assert desk.ledger.entries[knee.joint.key].level == "clear" and desk.ledger.counts()["breach"] == 4
    desk.close()


def test_what_a_rule_types_is_not_changed_to_keep_clear(tmp_path: Path) -> None:
    """The boathouse's haunches give way to eaves beams as they come; a depth that the rule types stays, and what it runs into is told."""
    desk = boathouse.build(tmp_path / "b.tincleat")
    rules = list(rules_of(desk.project))
    at = next(i for i, r in enumerate(rules) if r.family == "end-plate" and "knee" in r.kinds)
    rules[at] = msgspec.structs.replace(rules[at], settings={"haunch_depth": 350.0})
    found = plan(desk.project, desk.ledger, rules)
    knees = [c for number, c in found.made if number == at and "haunch_depth" in c.settings]
    assert {c.settings["haunch_depth"] for c in knees} == {350.0} and not any("Haunch depth" in w for w in found.parted)
    assert len(knees) == 21 and len(found.breaches) == 14  # those fourteen that give way where nobody typed
    desk.close()


def test_the_first_rule_that_suits_counts(desk: Desk) -> None:
    rows = [{"family": "end-plate", "kinds": ["beam to column flange"], "least_depth": "400"}, {"family": "fin-plate", "kinds": ["beam to column flange"], "settings": {"plate_thickness": 12.0}}]
    desk.run("set-joining-rules", rules=rows)
    found = plan(desk.project, desk.ledger, rules_of(desk.project))
    assert found.ends == [1, 2] and {x.why for x in found.left} == {NO_RULE, "it meets nothing there: move or lengthen it, or leave it plain"}
    desk.run("join-all")
    assert [family_at(desk, n) for n in "ABC"] == ["fin-plate", "end-plate", "fin-plate"]
    key = desk.ledger.entries[desk.ledger.by_end[(next(m.id for m in desk.project.members.values() if m.name == "A"), "end")]]
    assert key.made is not None and key.made.detail.number("plate_thickness").value == 12.0
    desk.undo()
    desk.run("set-joining-rules", rules=rows[::-1])
    desk.run("join-all")
    assert [family_at(desk, n) for n in "ABC"] == ["fin-plate"] * 3


def test_a_rule_that_is_refused_leaves_the_joint_to_the_next(desk: Desk) -> None:
    # a timber seat takes the kind of joint, and refuses steel
    desk.run("set-joining-rules", rules=[{"family": "timber-seat"}, {"family": "seat-cleat", "most_depth": 400}, {"family": "end-plate"}])
    desk.run("join-all")
    assert [family_at(desk, n) for n in "ABC"] == ["seat-cleat", "end-plate", "seat-cleat"]
    desk.undo()
    desk.run("set-joining-rules", rules=[{"family": "timber-seat"}])
    found = plan(desk.project, desk.ledger, rules_of(desk.project))
    assert not found.made and sum(x.why.startswith("Timber seat: IPE ") and "is steel" in x.why for x in found.left) == 3


def test_typicals_in_rules_and_what_becomes_of_them(desk: Desk) -> None:
    desk.run("place-connection", family="fin-plate", at=["A.end"], settings={"plate_thickness": 15.0})
    desk.run("save-typical", connection=next(iter(desk.project.connections)), name="thick", most_depth=400)
    desk.run("set-joining-rules", rules=[{"family": "fin-plate", "typical": "thick"}, {"family": "end-plate"}])
    desk.run("join-all")
    assert [family_at(desk, n) for n in "ABC"] == ["fin-plate", "end-plate", "fin-plate"]  # B is deeper than the typical is for
    assert all(c.typical for c in desk.project.connections.values() if c.family == "fin-plate")
    title = desk.run("delete-typical", typical="thick")
    assert "joining rules that use it have its settings typed" in str(title)
    assert rules_of(desk.project)[0].settings == {"plate_thickness": 15.0} and not rules_of(desk.project)[0].typical


def test_rules_are_kept_and_an_empty_list_goes_back(desk: Desk) -> None:
    assert rules_of(desk.project) == USUAL["EN"]
    desk.run("set-joining-rules", rules=[{"family": "seat-cleat", "roles": ["beam"], "shapes": ["I"], "most_depth": 450}])
    path = desk.store.path
    desk.close()
    again = Desk.open(path)
    (rule,) = rules_of(again.project)
    assert (rule.roles, rule.shapes, rule.most_depth) == (("beam",), ("I",), 450.0)
    again.run("set-joining-rules", rules=[as_row(r) for r in USUAL["AISC"]])
    assert rules_of(again.project) == USUAL["AISC"]
    again.run("set-joining-rules", rules=[])
    assert again.project.joining is None and rules_of(again.project) == USUAL["EN"]
    again.close()


def test_the_usual_rules_name_kinds_that_their_families_take() -> None:
    for rules in USUAL.values():
        for rule in rules:
            assert set(rule.kinds) <= set(FAMILIES[rule.family].kinds) and rule.kinds, rule
        # every kind of joint that is there without anybody pointing has a rule
        kinds = {k for r in rules for k in r.kinds}
        assert {"column foot", "knee", "apex", "brace end", "brace on flange", "crossing", "splice", "column splice", "beam to beam web", "beam to column web", "beam to column flange", "beam to hollow face", "corner", "beam on flange"} <= kinds


@pytest.mark.parametrize(
    ("row", "words"),
    [
        ({"family": "wing-plate"}, "rule 1: there is no family 'wing-plate'"),
        ({"family": "fin-plate", "kinds": ["column foot"]}, "rule 1: Fin plate does not take a column foot"),
        ({"family": "fin-plate", "roles": ["wing"]}, "'wing' is none of the choices"),
        ({"family": "fin-plate", "shapes": ["X"]}, "'X' is none of the choices"),
        ({"family": "fin-plate", "settings": {"wings": 2}}, "no setting 'wings'"),
        ({"family": "fin-plate", "wings": 2}, "no field 'wings'"),
        ({"family": "fin-plate", "typical": "thick"}, "no typical 'thick'"),
        ({"family": "fin-plate", "least_depth": 500, "most_depth": 300}, "from 500 to 300 mm"),
        ({}, "there is no family ''"),
    ],
)
def test_a_rule_that_cannot_be_is_refused_with_its_number(desk: Desk, row: dict[str, Any], words: str) -> None:
    with pytest.raises(TinCleatError, match=words):
        desk.run("set-joining-rules", rules=[row])
    assert desk.project.joining is None


def test_trying_can_be_cancelled_and_keeps_nothing(desk: Desk) -> None:
    told: list[float] = []
    with pytest.raises(Cancelled):
        plan(desk.project, desk.ledger, rules_of(desk.project), lambda share, words: bool(told.append(share)))
    assert told and not desk.project.connections
    whole: list[float] = []
    plan(desk.project, desk.ledger, rules_of(desk.project), lambda share, words: not whole.append(share))
    assert whole == sorted(whole)


@settings(max_examples=25, deadline=None)
@given(st.lists(st.sampled_from(sorted(FAMILIES)), min_size=1, max_size=6), st.booleans())
def test_what_a_plan_says_is_what_joining_does(tmp_path_factory: pytest.TempPathFactory, names: list[str], bare: bool) -> None:
    desk = Desk.create(tmp_path_factory.mktemp("j") / "j.tincleat")
    members = [COLUMN, beam("IPE 300", 3000, "A"), beam("IPE 500", 5000, "B"), beam("CHS 88.9x5", 7000, "C", role="brace"), {"section": "IPE 200", "role": "beam", "start": [2000, 0, 3000], "end": [2000, 3000, 3000], "name": "D"}]
    desk.run("add-members", members=members[: 3 if bare else 5])
    desk.run("set-joining-rules", rules=[{"family": n} for n in names])
    found = plan(desk.project, desk.ledger, rules_of(desk.project))
    if not found.made:
        return
    desk.run("join-all")
    made = list(desk.project.connections.values())
    assert len(made) == len(found.made) and all(not desk.ledger.entry_of(c.id).problem for c in made)
    assert sum(not e.settled and bool(e.joint.ends) for e in desk.ledger.entries.values()) == len(found.left)
    assert not desk.ledger.lost
    desk.close()
