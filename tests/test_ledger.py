"""The ledger: kin, roll out, delete leaves nothing, mends that hold, concessions that lapse."""

import pytest
from conftest import beam, joint

from tincleat.commands.desk import Desk
from tincleat.errors import Refused
from tincleat.ledger.mend import mend
from tincleat.ledger.steel import member_cuts
from tincleat.release.bill import bill, bolt_list
from tincleat.steel.cuts import Cuts
from tincleat.steel.members import cut_length, net_mass


def entry(desk: Desk, name: str):  # type: ignore[no-untyped-def]
    """The ledger's entry of a member end."""
    return desk.ledger.entries[joint(desk, name).key]


def test_placing_at_all_kin_shares_one_detail(desk: Desk) -> None:
    members = []
    for i in range(5):
        members += [
            beam("UC 203x203x46", (6000 * i, 0, 0), (6000 * i, 0, 4000), "column"),
            beam("UB 305x165x40", (6000 * i, 0, 3000), (6000 * i + 5800, 0, 3000), name=f"B{i}"),
        ]
    desk.run("add-members", members=members)
    assert desk.run("place-all", family="fin-plate", like="B0.start") == "Place fin plate at 5 joints"
    made = {id(e.made) for e in desk.ledger.entries.values() if e.connection}
    assert len(made) == 1 and desk.ledger.workshop.built == 1


def test_delete_leaves_nothing_behind(corner: Desk) -> None:
    clean = [(x.kind, x.size, x.length, x.count) for x in bill(corner.ledger)]
    corner.run("place-all", family="fin-plate")
    corner.run("place-all", family="base-plate")
    assert member_cuts(corner.ledger) and bolt_list(corner.ledger)
    corner.run("delete-connections", ids=list(corner.project.connections))
    assert [(x.kind, x.size, x.length, x.count) for x in bill(corner.ledger)] == clean
    assert member_cuts(corner.ledger) == {} and bolt_list(corner.ledger) == [] and corner.ledger.counts()["joined"] == 0


def test_second_connection_at_a_joint_is_refused(corner: Desk) -> None:
    corner.run("place-connection", family="fin-plate", at=["B1.start"])
    with pytest.raises(Refused, match="already"):
        corner.run("place-connection", family="fin-plate", at=["B1.start"])


def test_cut_length_and_mass(corner: Desk) -> None:
    corner.run("place-all", family="fin-plate")
    m = corner.project.find("member", "B1")
    cuts = member_cuts(corner.ledger)[m.id]
    # 5000 from the column's axis, less 203.2 / 2 to the face and 10 setback
    assert cut_length(m, cuts) == pytest.approx(5000 - 101.6 - 10)  # type: ignore[arg-type]
    # three M20 holes of 22 in a web of 6.0
    area = corner.ledger.entries[joint(corner, "B1.start").key].joint.case.supported.shape.area
    assert net_mass(m, cuts) == pytest.approx((area * 4888.4 - 3 * 3.141592653589793 * 121 * 6.0) * 7850e-9)  # type: ignore[arg-type]
    assert net_mass(m, Cuts()) == pytest.approx(area * 5000 * 7850e-9)  # type: ignore[arg-type]


def test_mend_clears_the_finding_without_a_new_breach(corner: Desk) -> None:
    for settings, rule in (({"edge_distance": 25.0}, "edge-least"), ({"weld_leg": 4.0}, "fillet-throat"), ({"plate_thickness": 9.0}, "plate-stock"),
                           ({"pitch": (45.0, 45.0)}, "spacing-least"), ({"bolt_length": 30.0}, "bolt-length"), ({"pitch": (100.0,)}, "spacing-greatest")):  # fmt: skip
        corner.run("place-connection", family="fin-plate", at=["B1.start"], settings=settings)
        e = entry(corner, "B1.start")
        finding = next(f for f in e.findings if f.rule == rule and f.level == "breach")
        assert mend(corner.ledger, e, finding) is not None, rule
        corner.run("mend-finding", connection=e.connection.id, finding=finding.key)
        assert entry(corner, "B1.start").level == "clear", rule
        corner.run("delete-connections", ids=["B1.start"])


def test_a_finding_no_setting_can_mend_is_refused(desk: Desk) -> None:
    desk.run(
        "add-members", members=[beam("UB 356x171x51", (0, 0, 3000), (8000, 0, 3000)), beam("UB 305x165x40", (4000, 0, 3020), (4000, 3000, 3020), name="S")]
    )
    desk.run("place-connection", family="fin-plate", at=["S.start"], settings={"notch": "never"})
    e = entry(desk, "S.start")
    gap = next(f for f in e.findings if f.rule == "clash" and f.level == "breach")
    with pytest.raises(Refused, match="no single setting"):
        desk.run("mend-finding", connection=e.connection.id, finding=gap.key)


def test_concession_lapses_when_it_gets_worse(corner: Desk) -> None:
    corner.run("place-connection", family="fin-plate", at=["B1.start"], settings={"edge_distance": 25.0})
    e = entry(corner, "B1.start")
    key = next(f.key for f in e.findings if f.level == "breach" and f.rule == "edge-least")
    corner.run("accept-finding", connection=e.connection.id, finding=key, by="R. Plover", reason="checked by hand")
    assert next(f for f in entry(corner, "B1.start").findings if f.key == key).level == "concession"
    corner.run("change-connections", ids=[e.connection.id], settings={"edge_distance": 20.0})
    assert next(f for f in entry(corner, "B1.start").findings if f.key == key).level == "breach"
    corner.undo()
    corner.run("withdraw-concession", connection=e.connection.id, finding=key)
    assert next(f for f in entry(corner, "B1.start").findings if f.key == key).level == "breach"


def test_a_connection_whose_joint_changed_kind_is_a_breach_not_silence(corner: Desk) -> None:
    corner.run("place-connection", family="fin-plate", at=["B1.start"])
    corner.run("move-members", ids=["B1"], by=[700, 0, 0])
    e = entry(corner, "B1.start")
    assert e.level == "breach" and "free end" in e.findings[0].message
    corner.undo()
    assert entry(corner, "B1.start").level == "clear"


def test_rule_set_changes_without_a_rerun(corner: Desk) -> None:
    corner.run("place-connection", family="fin-plate", at=["B1.start"], settings={"edge_distance": 25.0, "plate_width": 75.0})
    required = {f.key: f.required for f in entry(corner, "B1.start").findings if f.rule == "edge-least"}
    corner.run("set-house-rules", values={"rule_set": "AISC"})
    after = {f.key: f.required for f in entry(corner, "B1.start").findings if f.rule == "edge-least"}
    assert required["edge-least|fin plate, edge"] == pytest.approx(26.4) and after["edge-least|fin plate, edge"] == 26


def test_open_ends_are_all_in_the_ledger(corner: Desk) -> None:
    assert sum(not e.settled for e in corner.ledger.entries.values()) == corner.ledger.counts()["joints"]
    corner.run("place-all", family="base-plate")
    assert entry(corner, "C1.start").open_end("") is None
