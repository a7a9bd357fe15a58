"""Welded moment joints by hand: what is taken off the beam, what the grooves fill, tab, backing, what is refused."""

import math
from pathlib import Path
from typing import Any

import msgspec
import numpy as np
import pytest
from sites import beam, column
from test_new_families import breaches, joined, made

from tincleat.details.assembled import Assembled
from tincleat.details.bodies import weld_bodies
from tincleat.errors import TinCleatError
from tincleat.geometry.frames import vec
from tincleat.geometry.mesh import off_faces, prism
from tincleat.geometry.outline import Outline
from tincleat.ledger.steel import worked_of
from tincleat.project.entities import HouseRules
from tincleat.proof.welds import fillets


def moment(path: Path, support: str = "HEB 300", name: str = "IPE 400", **typed: Any) -> Any:
    return joined(path, [column(support), beam(name)], "welded-moment", "M2.end", **typed)


def test_flange_grooves_fill_what_the_bevels_leave(tmp_path: Path) -> None:
    _, e = moment(tmp_path)
    d = made(e)
    grooves = [w for w in d.welds if w.kind == "groove"]
    # IPE 400: flanges 180 x 13.5; open by 10 at the root, 30° more: 13.5 x 10 + 13.5² tan 30° / 2 = 187.61 mm² of weld
    area = 13.5 * 10 + 13.5**2 * math.tan(math.radians(30)) / 2
    assert [w.name for w in grooves] == ["top flange groove weld", "bottom flange groove weld"] and all(w.site for w in grooves)
    for w in grooves:
        assert next(weld_bodies((w,))).mesh.volume == pytest.approx(area * 180, rel=1e-6)
        # both open upward: the root is the flange's lower face
        assert w.start[2] in (pytest.approx(200 - 13.5), pytest.approx(-200)) and w.u == (0, 0, 1)
    assert not breaches(e)
    depth = {f.rule: f for f in e.findings if f.rule in ("groove-angle", "groove-depth")}
    assert depth["groove-angle"].actual == pytest.approx(30.0) and depth["groove-depth"].actual == pytest.approx(13.5)


def test_what_is_taken_off_the_beam(tmp_path: Path) -> None:
    desk, e = moment(tmp_path)
    d = made(e)
    # tw 8.6: holes at least 20 high, 15 for the backing; 38.1 long is 40 on 5; bolts of the web 40 from its end
    assert d.number("hole_height").value == 20.0 and d.number("hole_length").value == 40.0
    (m,) = [m for m in desk.project.members.values() if m.section == "IPE 400"]
    joined_volume = worked_of(desk.ledger, m.id).volume
    assert e.connection is not None
    desk.run("delete-connections", ids=[e.connection.id])
    whole = worked_of(desk.ledger, m.id).volume
    bare = 8446.0  # mm², IPE 400
    # the line ends at the column's axis: 150 of it lie inside, then 10 of root opening
    taken = whole - joined_volume - 160 * bare
    bevels = 2 * 180 * 13.5**2 * math.tan(math.radians(30)) / 2
    corner = (1 - math.pi / 4) * 10**2
    reach = 13.5 * math.tan(math.radians(30))
    holes = (40 * 20 + (reach + 40) * 20 - 2 * corner) * 8.6
    fillets = 2 * (1 - math.pi / 4) * 21**2 * (40 + reach + 40)  # of the roots over the holes' length: two at each flange
    bolts = 4 * math.pi * 11**2 * 8.6
    assert taken == pytest.approx(bevels + holes + fillets + bolts, rel=0.02)


def test_tab_rows_and_backing(tmp_path: Path) -> None:
    _, e = moment(tmp_path)
    d = made(e)
    # web between the holes: 373 - 40 - 10 - 10 - 10 = 303 of which 3 x 70 + 2 x 40 = 290 fit
    tab = next(p for p in d.plates if p.name == "tab")
    assert len(d.bolts[0].points) == 4 and tab.outline.bounds[3] - tab.outline.bounds[1] == 290.0
    bars = [p for p in d.plates if p.name.startswith("backing")]
    # 180 and 10 past on each side, under the flanges' lower faces
    assert [p.outline.bounds for p in bars] == [(0.0, -100.0, 30.0, 100.0)] * 2
    assert sorted(p.frame.origin[2] + p.thickness for p in bars) == pytest.approx([-200.0, 186.5])
    assert len([p for p in d.plates if "stiffener" in p.name]) == 4 and {p.thickness for p in d.plates if "stiffener" in p.name} == {15.0}


def test_a_welded_web_lies_on_its_tab(tmp_path: Path) -> None:
    _, e = moment(tmp_path, web="welded, on a tab")
    d = made(e)
    (web,) = [w for w in d.welds if w.name == "web groove weld"]
    assert web.leg == 8.6 and web.opening == 10.0 and not breaches(e)
    # opens away from the tab; behind it only the tab's free face has a fillet
    tab = next(p for p in d.plates if p.name == "tab")
    side = math.copysign(1.0, float(tab.frame.origin[1]))
    assert web.u == (0.0, -side, 0.0) and len([w for w in d.welds if "tab" in w.parts]) == 1
    _, e = moment(tmp_path / "b")
    assert len([w for w in made(e).welds if "tab" in w.parts]) == 2


def test_the_proof_reads_the_preparation(tmp_path: Path) -> None:
    """A root that does not lie on the flange is told."""
    _, e = moment(tmp_path / "a", bevel=math.radians(25))
    bad = [f for f in e.findings if f.level == "breach"]
    assert {(f.rule, round(f.actual, 2), f.required) for f in bad} == {("groove-angle", 25.0, 30.0)} and len(bad) == 2
    _, e = moment(tmp_path / "b")
    assert not [f for f in e.findings if f.level != "clear"]
    a = e.made.assembled
    # moved 4 along the beam, a groove's root stands off the column; moved up, off the flange
    for shift, gap in (((4.0, 0.0, 0.0), 4.0), ((0.0, 0.0, 6.0), 0.0)):
        moved = msgspec.structs.replace(a.detail, welds=tuple(msgspec.structs.replace(w, start=vec(np.add(w.start, shift)), end=vec(np.add(w.end, shift))) for w in a.detail.welds if w.kind == "groove"))
        (top,) = [f for f in fillets(Assembled(a.case, moved, a.rules), HouseRules()) if f.rule == "weld-gap" and f.part == "top flange groove weld"]
        assert top.level == "breach" and (not gap or top.actual == pytest.approx(gap, abs=0.01))


@pytest.mark.parametrize(
    ("support", "name", "typed", "words"),
    [
        ("HEB 200", "HEB 300", {}, "reaches past that of HEB 200"),
        ("HEB 300", "UPN 300", {}, "UPN 300 is a C section"),
        ("HEB 300", "IPN 300", {}, "flanges of IPN 300 taper"),
        ("HEB 300", "IPE 400", {"backing": 25.0, "hole_height": 25.0}, "does not pass an access hole"),
        ("HEB 300", "IPE 160", {"hole_height": 50.0}, "leave 45 mm of the web"),
        ("HEB 300", "IPE 400", {"hole_radius": 25.0}, "does not go into an access hole 20 mm high and 40 mm long"),
        ("HEB 300", "IPE 400", {"web_gap": 5.0}, "less than the flanges' root opening"),
    ],
)
def test_what_it_refuses(tmp_path: Path, support: str, name: str, typed: dict[str, Any], words: str) -> None:
    with pytest.raises(TinCleatError, match=words):
        moment(tmp_path, support, name, **typed)


def test_it_refuses_a_skew_and_a_slope(tmp_path: Path) -> None:
    for i, more in enumerate(({"skew": 5.0}, {"slope": 5.0})):
        with pytest.raises(TinCleatError, match=r"5\.0° off square"):
            joined(tmp_path / str(i), [column("HEB 300"), beam("IPE 400", **more)], "welded-moment", "M2.end")


def test_distances_to_a_bodys_faces() -> None:
    cube = prism(Outline.rectangle(0, 0, 10, 10), (), 0, 10)
    points = np.array([(5, 5, 12), (13, 14, 5), (5, 5, 4), (-1, -2, -2)], dtype=float)
    # over a face; beside an edge, 3-4-5; inside, nearest to the bottom; off a corner, 1-2-2-3
    assert off_faces(cube, points) == pytest.approx([2, 5, 4, 3])


@pytest.mark.parametrize(("name", "over"), [("welded-moment", 3.0), ("cover-plates", 20.0)])
def test_a_column_that_ends_near_the_beam(tmp_path: Path, name: str, over: float) -> None:
    # UB 406x178x60 is 406.4 deep: its top flange's outer side lies 203.2 over the middle at 3000
    def at(height: float) -> list[dict[str, Any]]:
        return [{"section": "UC 254x254x73", "role": "column", "start": [0, 0, 0], "end": [0, 0, height]}, beam("UB 406x178x60")]

    _, e = joined(tmp_path / "a", at(3203.2 + over), name, "M2.end")
    d = made(e)
    # above, a stiffener and its fillets have no steel to stand on: one at the lower level only, and it is said
    assert d.number("column_stiffeners").value == "bottom" and d.number("column_stiffeners").origin == "adapted"
    assert {p.name for p in d.plates if p.name.startswith("column stiffener")} == {"column stiffener 1 near", "column stiffener 1 far"} and not breaches(e)
    assert all(p.frame.origin[2] < 0 for p in d.plates if p.name.startswith("column stiffener"))
    # higher up there are both; lower down the flange itself has nothing to be welded to
    _, e = joined(tmp_path / "b", at(3500.0), name, "M2.end")
    assert made(e).number("column_stiffeners").origin == "default" and not breaches(e)
    with pytest.raises(TinCleatError, match="short of the outer side"):
        joined(tmp_path / "c", at(3190.0), name, "M2.end")


def test_cover_plates_in_a_columns_web_near_its_end(tmp_path: Path) -> None:
    def at(height: float) -> list[dict[str, Any]]:
        return [{"section": "UC 254x254x73", "role": "column", "start": [0, 0, 0], "end": [0, 0, height], "roll_deg": 90}, beam("UB 356x171x51")]

    # UB 356x171x51 is 355 deep: its plate of 15 has its middle 185 up, 17.5 under a column's end 25 over the beam: room for 7.5 and a fillet of 8
    _, e = joined(tmp_path / "a", at(3177.5 + 25.0), "cover-plates", "M2.end")
    assert made(e).number("column_stiffeners").origin == "default" and not breaches(e)
    # 5 lower there is not, for the plate itself, whose fillets lie on the web
    with pytest.raises(TinCleatError, match="ends 3 mm short"):
        joined(tmp_path / "b", at(3177.5 + 20.0), "cover-plates", "M2.end")
    with pytest.raises(TinCleatError, match="ends 3 mm short"):
        joined(tmp_path / "c", at(3177.5 + 20.0), "cover-plates", "M2.end", column_stiffeners="none")


def test_fillets_in_the_column_have_legs_of_their_own(tmp_path: Path) -> None:
    def legs(e: Any, what: str) -> set[float]:
        return {w.leg for w in made(e).welds if w.kind == "fillet" and any(what in p for p in w.parts)}

    # IPE 400 has flanges of 13.5: stiffeners of 15, half of which is 7.5, on whole millimetres 8; plates of 6 on the web take no more than 6
    _, e = moment(tmp_path / "a", doubler="both sides", doubler_thickness=6.0)
    assert legs(e, "column stiffener") == {8.0} and legs(e, "web plate") == {6.0} and legs(e, "tab") == {made(e).number("tab_weld").value}
    _, e = moment(tmp_path / "b", doubler="both sides", doubler_thickness=10.0, column_weld=9.0)
    assert legs(e, "column stiffener") == {9.0} and legs(e, "web plate") == {9.0}
    _, e = moment(tmp_path / "c", doubler="both sides", doubler_thickness=10.0, doubler_weld=5.0)
    assert legs(e, "column stiffener") == {8.0} and legs(e, "web plate") == {5.0}
    # HEB 140 takes stiffeners 60 wide, less 20 sniped at the root of 12: an edge of 40 holds six throats and two ends of a leg of 40 / 8 x 1.414 = 7.07
    _, e = joined(tmp_path / "d", [column("HEB 140"), beam("IPE 240")], "welded-moment", "M2.end", stiffener_thickness=20.0)
    assert legs(e, "column stiffener") == {7.0} and made(e).number("column_weld").rule == "the stiffener's edge is 40 mm long" and not breaches(e)
