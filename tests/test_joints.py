"""Joints found from members: kinds, frames, kin, mirror images, near misses."""

import math
from pathlib import Path

import numpy as np
import pytest
from conftest import beam, joint
from hypothesis import given, settings
from hypothesis import strategies as st

from tincleat.catalogue.sections import section
from tincleat.commands.desk import Desk
from tincleat.joints.find import Finder
from tincleat.project.entities import Member
from tincleat.project.members import axis_frame


def test_kinds_of_a_corner(corner: Desk) -> None:
    assert joint(corner, "C1.start").kind == "column foot"
    assert joint(corner, "C1.end").kind == "column head"
    assert joint(corner, "B1.start").kind == "beam to column flange"
    assert joint(corner, "B2.start").kind == "beam to column web"
    assert joint(corner, "B1.end").kind == "free end"
    assert set(corner.ledger.by_end) == {(m, e) for m in corner.project.members for e in ("start", "end")}


def test_origin_lies_on_the_face(corner: Desk) -> None:
    # UC 203x203x46: h 203.2, tw 7.2; the column's depth lies along x
    assert joint(corner, "B1.start").frame.origin == pytest.approx((101.6, 0, 3000))
    assert joint(corner, "B2.start").frame.origin == pytest.approx((0, 3.6, 2000))
    assert joint(corner, "B1.start").frame.x == pytest.approx((1, 0, 0))


def test_cardinal_top_hangs_the_beam_below_its_line() -> None:
    m = Member("m1", "B", "beam", "UB 305x165x40", "S355", (0, 0, 3000), (4000, 0, 3000), cardinal="top")
    assert axis_frame(m).origin == pytest.approx((0, 0, 3000 - 303.4 / 2))


def test_kin_whatever_way_a_member_was_drawn(desk: Desk) -> None:
    desk.run("add-members", members=[
        beam("UC 203x203x46", (0, 0, 0), (0, 0, 4000), "column"), beam("UC 203x203x46", (8000, 0, 4000), (8000, 0, 0), "column"),
        beam("UB 305x165x40", (0, 0, 3000), (8000, 0, 3000), name="B1"), beam("UB 305x165x40", (8000, 0, 2000), (0, 0, 2000), name="B2"),
    ])  # fmt: skip
    cases = {joint(desk, n).case for n in ("B1.start", "B1.end", "B2.start", "B2.end")}
    assert len(cases) == 1


def test_mirrored_kin_share_a_case_and_differ_in_hand(desk: Desk) -> None:
    desk.run("add-members", members=[
        beam("UC 203x203x46", (0, 0, 0), (0, 0, 4000), "column"), beam("UC 203x203x46", (9000, 0, 0), (9000, 0, 4000), "column"),
        beam("UB 305x165x40", (0, 0, 3000), (4000, 1000, 3000), name="L"), beam("UB 305x165x40", (9000, 0, 3000), (13000, -1000, 3000), name="R"),
    ])  # fmt: skip
    left, right = joint(desk, "L.start"), joint(desk, "R.start")
    assert left.case == right.case and left.mirrored != right.mirrored


def test_near_miss_is_told_with_its_gap(desk: Desk) -> None:
    desk.run(
        "add-members",
        members=[beam("UC 203x203x46", (0, 0, 0), (0, 0, 4000), "column", name="C1"), beam("UB 305x165x40", (139.6, 0, 3000), (5000, 0, 3000), name="B1")],
    )
    found = joint(desk, "B1.start")
    assert found.kind == "near miss" and "38 mm short of C1" in found.words  # 139.6 - 203.2/2 = 38


@pytest.mark.parametrize(("off", "kind"), [(0.0, "crossing"), (60.0, "crossing"), (-60.0, "crossing"), (90.0, "near miss")])
def test_a_purlin_drawn_along_its_middle_lies_on_the_flange_it_ends_over(desk: Desk, off: float, kind: str) -> None:
    # IPE 300: its top 150 over its line, 150 wide; UPN 160 on it: its middle 80 over that; 90 off the middle it has no flange under it
    desk.run("add-members", members=[beam("IPE 300", (0, -3000, 0), (0, 3000, 0), "rafter", name="R"), beam("UPN 160", (off, 0, 230), (5000, 0, 230), "purlin", name="P")])
    found = joint(desk, "P.start")
    assert found.kind == kind
    why = desk.ledger.refusal(found, "purlin-cleat", {})
    if off == 0.0:  # drawn along its underside it is the same joint
        assert not why
        desk.run("add-members", members=[beam("UPN 160", (0, 1000, 150), (5000, 1000, 150), "purlin", name="Q", cardinal="bottom")])
        assert joint(desk, "Q.start").case == found.case
    elif off == 60.0:  # what lies on the flange is too short for a bolt with its end distance
        assert "past the edge" in why or "flange" in why


def test_portal(desk: Desk) -> None:
    desk.run("add-members", members=[
        beam("UB 406x178x60", (0, 0, 0), (0, 0, 6000), "column", name="C1"), beam("UB 406x178x60", (14000, 0, 0), (14000, 0, 6000), "column", name="C2"),
        beam("UB 356x171x45", (0, 0, 6000), (7000, 0, 8000), "rafter", name="R1"), beam("UB 356x171x45", (14000, 0, 6000), (7000, 0, 8000), "rafter", name="R2"),
    ])  # fmt: skip
    assert joint(desk, "R1.end").kind == "apex" and joint(desk, "R2.end").key == joint(desk, "R1.end").key
    assert joint(desk, "R1.start").kind == "knee" and joint(desk, "C1.end").key == joint(desk, "R1.start").key
    assert joint(desk, "R1.start").case == joint(desk, "R2.start").case


@pytest.mark.parametrize(
    ("other", "kind"),
    [
        (beam("UB 305x165x40", (4000, 0, 3000), (8000, 0, 3000)), "splice"),
        (beam("UB 457x191x67", (4000, -2000, 3000), (4000, 2000, 3000)), "beam to beam web"),
        (beam("SHS 150x150x8", (4000, 0, 0), (4000, 0, 5000), "column"), "beam to hollow face"),
        (beam("UB 305x165x40", (4000, 0, 3000), (4000, 3000, 3000)), "corner"),
    ],
)
def test_other_kinds(desk: Desk, other: dict[str, object], kind: str) -> None:
    desk.run("add-members", members=[beam("UB 305x165x40", (0, 0, 3000), (4000, 0, 3000), name="B1"), other])
    assert joint(desk, "B1.end").kind == kind


def test_columns_on_columns_and_on_beams(desk: Desk) -> None:
    desk.run("add-members", members=[
        beam("UC 203x203x46", (0, 0, 0), (0, 0, 4000), "column", name="C1"), beam("UC 203x203x46", (0, 0, 4000), (0, 0, 8000), "column", name="C2"),
        beam("UB 457x191x67", (5000, -3000, 4000), (5000, 3000, 4000), name="B", cardinal="top"), beam("UC 152x152x23", (5000, 0, 4000), (5000, 0, 7000), "column", name="P"),
        beam("UC 152x152x23", (5000, 1500, 0), (5000, 1500, 3546.6), "column", name="U"),
    ])  # fmt: skip
    assert joint(desk, "C2.start").kind == "column splice" and joint(desk, "C1.end").key == joint(desk, "C2.start").key
    assert joint(desk, "P.start").kind == "post on beam"
    assert joint(desk, "U.end").kind == "column under beam"


@settings(max_examples=40, deadline=None)
@given(st.floats(0, 2 * math.pi), st.floats(-50000, 50000), st.floats(-50000, 50000), st.floats(-3000, 3000))
def test_kin_do_not_depend_on_place_or_direction(turn: float, dx: float, dy: float, dz: float) -> None:
    """A frame turned about a plumb line and moved has the very same cases."""

    def build(angle: float, shift: tuple[float, float, float]) -> dict[str, Member]:
        c, s = math.cos(angle), math.sin(angle)

        def at(x: float, y: float, z: float) -> tuple[float, float, float]:
            return (x * c - y * s + shift[0], x * s + y * c + shift[1], z + shift[2])

        return {
            "m1": Member("m1", "C", "column", "UC 203x203x46", "S355", at(0, 0, 0), at(0, 0, 4000), roll=angle),
            "m2": Member("m2", "B", "beam", "UB 305x165x40", "S355", at(0, 0, 3000), at(5000, 0, 3000)),
            "m3": Member("m3", "D", "beam", "UB 203x133x25", "S355", at(2500, 0, 3000), at(2500, 3000, 3000)),
        }

    plain = {j.key: j for j in Finder(build(0.0, (0, 0, 0))).joints()}
    moved = {j.key: j for j in Finder(build(turn, (dx, dy, dz))).joints()}
    assert plain.keys() == moved.keys()
    for key, j in plain.items():
        assert moved[key].kind == j.kind
        for a, b in zip(moved[key].case.members, j.case.members, strict=True):
            assert np.allclose(a.frame.o, b.frame.o, atol=0.011) and np.allclose(a.frame.axes, b.frame.axes, atol=2e-5)


@pytest.mark.parametrize(("roll", "rise", "met"), [(0, 150.0 + 100.0, True), (90, 150.0 + 37.5, True), (0, 150.0 + 37.5, False), (90, 150.0 + 100.0, False)])
def test_a_channel_crosses_where_its_own_side_lies_on_the_flange(tmp_path: Path, roll: float, rise: float, met: bool) -> None:
    # IPE 300: 150 to its top; PFC 200x75: half of 200 where it stands, half of 75 where it lies on its back
    desk = Desk.create(tmp_path / "x.tincleat")
    under = {"section": "IPE 300", "role": "rafter", "start": [0, -3000, 3000], "end": [0, 3000, 3000]}
    over = {"section": "PFC 200x75x23", "role": "purlin", "start": [-3000, 0, 3000 + rise], "end": [3000, 0, 3000 + rise], "roll_deg": roll}
    desk.run("add-members", members=[under, over])
    a, b = desk.project.members
    assert (desk.ledger.finder.crossing(b, a) is not None) is met and ((b, a) in desk.ledger.finder.crossings()) is met


@pytest.mark.parametrize("section_", ["WT15X66", "PFC 300x100x46", "UB 356x171x45"])
def test_what_carries_a_purlin_is_the_same_whichever_way_it_was_drawn(tmp_path: Path, section_: str) -> None:
    shape = section(section_)
    found = []
    for way in (1, -1):
        d = Desk.create(tmp_path / f"{way}.tincleat")
        roll = 180.0 if shape.shape == "C" and way < 0 else 0.0  # turned over, so that its back stays where it was
        d.run("add-members", members=[
            {"section": section_, "role": "rafter", "start": [0, -4000 * way, 0], "end": [0, 4000 * way, 0], "roll_deg": roll},
            {"section": "PFC 150x75x18", "role": "purlin", "start": [-4000, 0, shape.h / 2], "end": [4000, 0, shape.h / 2], "cardinal": "bottom"},
        ])  # fmt: skip
        ids = list(d.project.members)
        joint = d.ledger.finder.crossing(ids[1], ids[0])
        assert joint is not None
        found.append((joint.case, joint.mirrored))
    assert found[0] == found[1]
