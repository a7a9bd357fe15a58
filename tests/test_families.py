"""Both families by hand-worked values, and as properties over their whole range of settings."""

import math
import random
from typing import Any

import manifold3d
import numpy as np
import pytest
import shapely
from conftest import beam, joint
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from tincleat.catalogue.fasteners import anchor_size
from tincleat.catalogue.sections import section as section_of
from tincleat.commands.desk import Desk
from tincleat.details.assembled import Assembled, plate_mesh
from tincleat.details.parts import Detail, Plate, mirrored
from tincleat.errors import BadValue, NoFit
from tincleat.families.declare import Setting, check, parse, rounded
from tincleat.families.registry import FAMILIES, family
from tincleat.geometry.frames import Frame
from tincleat.geometry.mesh import overlap_volume, prism
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case, CaseMember
from tincleat.project.entities import FLATS_MM, HouseRules, RoundRule, inch_house
from tincleat.proof.registry import prove
from tincleat.steel.body import steel_mesh, steel_volume
from tincleat.steel.cuts import Cuts, EndCut, MemberHole

HOUSE = HouseRules()
UP = Frame((0.0, 0.0, 0.0), (0.0, 0.0, 1.0), (1.0, 0.0, 0.0))


def foot(section: str = "UC 203x203x46") -> Case:
    """A column standing on nothing."""
    return Case("column foot", (CaseMember(section, "S355", UP, 0.0, 600.0),))


def on_flange(section: str = "UB 305x165x40", column: str = "UC 203x203x46", h: float = 203.2) -> Case:
    """A beam square on a column's flange."""
    carrier = Frame((-h / 2, 0.0, 0.0), (0.0, 0.0, 1.0), (1.0, 0.0, 0.0))
    return Case("beam to column flange", (CaseMember(section, "S355", Frame(), 0.0, 600.0), CaseMember(column, "S355", carrier, -600.0, 600.0, "support")))


def on_web(section: str, carrier: str, tw: float, drop: float) -> Case:
    """A beam square on another's web; the carrier's middle lies ``drop`` below the beam's."""
    axis = Frame((-tw / 2, 0.0, -drop), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))
    return Case("beam to beam web", (CaseMember(section, "S355", Frame(), 0.0, 600.0), CaseMember(carrier, "S355", axis, -600.0, 600.0, "support")))


def test_fin_plate_on_a_flange_by_hand() -> None:
    d = family("fin-plate").detail(on_flange(), {}, HOUSE)
    # clear web depth h - 2 (tf + r) = 303.4 - 2 (10.2 + 8.9) = 265.2; (265.2 - 2 x 40) / 70 = 2.6, so 2 spacings
    assert d.number("pitch").value == (70.0, 70.0)
    plate = d.plates[0]
    # in the middle of the web the first row lies 151.7 - 70 = 81.7 under the top, on full 5 mm 80: 71.7 over the beam's axis
    assert plate.outline.bounds == pytest.approx((0, -108.3, 90, 111.7))  # 2 x 70 + 2 x 40 high, 10 + 40 + 40 wide
    assert sorted({round(h.x) for h in plate.holes}) == [50] and sorted(round(h.y, 3) for h in plate.holes) == [-68.3, 1.7, 71.7]
    assert plate.volume == pytest.approx(10 * (90 * 220 - 3 * math.pi * 121))
    assert [w.leg for w in d.welds] == [8, 8]  # 0.8 x 10
    assert d.ends[0].point == (10.0, 0.0, 0.0) and not d.notches
    a = Assembled(on_flange(), d, "EN")
    assert [f.grip for f in a.fitted] == pytest.approx([16.0] * 3)  # 10 + web 6.0
    assert [f.length for f in a.fitted] == [40] * 3  # 16 + 3 + 18 + 2.5 = 39.5
    assert all(len(f.plies) == 2 and f.gap == pytest.approx(0) for f in a.fitted)


def test_fin_plate_on_a_beam_web_notches_the_clashing_flange() -> None:
    # UB 254x146x31 (h 251.4, b 146.1) flush with the top of UB 356x171x51 (h 355, b 171.5, tw 7.4, tf 11.5, r 10.2)
    d = family("fin-plate").detail(on_web("UB 254x146x31", "UB 356x171x51", 7.4, (355.0 - 251.4) / 2), {}, HOUSE)
    assert len(d.notches) == 1
    # depth: root 21.7 below the flush top + 20 = 41.7, up to 45; reach: outstand (171.5 - 7.4) / 2 + 10 = 92.05, up to 95
    box = np.array([v[:2] for v in d.notches[0].outline.vertices])
    assert 251.4 / 2 - box[:, 1].min() == pytest.approx(45)
    assert box[:, 0].max() == pytest.approx(95)
    top = d.plates[0].outline.bounds[3]
    assert top <= 251.4 / 2 - 45 + 1e-6  # the plate stays below the notch


def test_deeper_beam_than_its_support_is_notched_at_both_flanges() -> None:
    d = family("fin-plate").detail(on_web("UB 457x191x67", "UB 356x171x51", 7.4, -(453.4 - 355.0) / 2), {}, HOUSE)
    # flush tops: the beam hangs 98.4 below the support's underside, so its web passes the lower flange and is cut free of it
    assert {n.name for n in d.notches} == {"top notch", "bottom notch"}


def test_no_fit_tells_figures() -> None:
    with pytest.raises(NoFit, match="column foot"):
        family("fin-plate").detail(foot(), {}, HOUSE)
    # set so low that the clear zones of both webs hardly meet; the smallest bolt, an M12, needs 2 x 1.2 x 13 = 31.2
    with pytest.raises(NoFit, match="needs 31 mm"):
        family("fin-plate").detail(on_web("UB 203x133x25", "UB 203x133x25", 5.7, 130.0), {}, HOUSE)
    leaning = Frame.of((0, 0, 0), (math.sin(0.2), 0, math.cos(0.2)), (1, 0, 0))
    with pytest.raises(NoFit, match=r"leans 11\.5°"):
        family("base-plate").detail(Case("column foot", (CaseMember("UC 203x203x46", "S355", leaning, 0.0, 600.0),)), {}, HOUSE)


def test_base_plate_by_hand() -> None:
    d = family("base-plate").detail(foot(), {}, HOUSE)
    plate = d.plates[0]
    # M24: inset 1.75 x 24 = 42, up to 45; flange weld 0.6 x 11 = 6.6, up to 7; past the column 7 + nut 36 + 45 = 88, a step more and up to 95
    # 203.2 + 2 x 95 = 393.2 along the depth, 203.6 + 190 = 393.6 across, both up to 400
    assert plate.outline.bounds == pytest.approx((-200, -200, 200, 200))
    assert d.number("plate_length").raw == pytest.approx(393.2) and d.number("plate_length").origin == "rounded"
    # concrete at 0, grout 30, plate 20: the column is shortened to 50
    assert plate.frame.origin[2] == 30 and d.ends[0].point[2] == 50
    # spacing 400 - 2 x 45 = 310
    assert sorted({(r.x, r.y) for r in d.rods}) == [(-155, -155), (-155, 155), (155, -155), (155, 155)]
    rod = d.rods[0]
    # washer 8 + nut 21.5 + two pitches 6 = 35.5, up to 40
    assert rod.top == 90 and rod.bottom == -400 and rod.nuts == (58.0,) and rod.washers == (50.0,)
    assert {h.width for h in plate.holes} == {30}  # M24 + 6
    assert plate.volume == pytest.approx(20 * (400 * 400 - 4 * math.pi * 225))


@pytest.mark.parametrize("house", [HOUSE, inch_house("")], ids=["EN", "US"])
@pytest.mark.parametrize("big", [False, True], ids=["usual rod", "large rod"])
def test_base_plates_are_free_of_breaches_and_of_overlaps_at_first(house: HouseRules, big: bool) -> None:
    """Every washer, nut and rod beside the column and its welds, by exact solids."""
    names = ("HEB 300", "HEA 200", "IPE 300", "UC 356x406x634", "UB 457x191x67", "HEB 1000", "SHS 150x150x8", "CHS 219.1x8", "UPN 200")
    names = names if house is HOUSE else ("W14X90", "W8X31", "W12X65", "W16X31", "W14X730", "HSS8X8X1/2", "C12X20.7")
    for name in names:
        case = foot(name)
        typed = {} if not big else {"anchor": "M36" if house is HOUSE else "1-1/2in"}
        d = family("base-plate").detail(case, family("base-plate").checked(typed, house), house)
        found = [f for f in prove(Assembled(case, d, house.rule_set), house) if f.level != "clear"]
        assert not found, (name, found)
        size = anchor_size(str(d.number("anchor").value))
        column = Assembled(case, d, house.rule_set).member_mesh(0, 0.0, 300.0, 4)
        for rod in d.rods:
            half = size.washer_side / 2
            washer = prism(Outline.rectangle(rod.x - half, rod.y - half, rod.x + half, rod.y + half), (), 0.0, size.washer_t).placed(Frame((0.0, 0.0, rod.washers[0])))
            assert overlap_volume(washer, column) < 1.0, name
            for w in d.welds:
                if "supported member" in w.parts:
                    a, b, u, v = (np.array(x) for x in (w.start, w.end, w.u, w.v))
                    leg = np.array([a, a + u * w.leg, a + v * w.leg, b, b + u * w.leg, b + v * w.leg])
                    fillet = manifold3d.Manifold.hull_points(leg)
                    box = manifold3d.Manifold(manifold3d.Mesh64(vert_properties=np.ascontiguousarray(washer.points), tri_verts=washer.triangles.astype(np.uint64)))
                    assert (fillet ^ box).volume() < 1.0, (name, w.name)
        # what was worked out in inches lands on sixteenths
        if house is not HOUSE:
            for n in d.numbers:
                for value in n.value if isinstance(n.value, tuple) else (n.value,):
                    assert not isinstance(value, float) or abs(value / 1.5875 - round(value / 1.5875)) < 1e-6, n


def test_foot_levels() -> None:
    for means, concrete in (("top of concrete", 0.0), ("underside of plate", -30.0), ("end of column", -50.0)):
        d = family("base-plate").detail(foot(), {"foot_means": means}, HOUSE)
        assert d.plates[0].frame.origin[2] == pytest.approx(concrete + 30)


def test_inch_defaults() -> None:
    d = family("fin-plate").detail(on_flange("W14X38", "W12X72", 12.3 * 25.4), {}, inch_house("yard"))
    assert d.bolts[0].size == "3/4in" and d.number("pitch").value[0] == pytest.approx(76.2)  # type: ignore[index]
    assert d.plates[0].thickness == pytest.approx(9.525) and d.number("setback").value == pytest.approx(12.7)


def test_rounding() -> None:
    assert rounded(353.2, RoundRule(10.0)) == 360 and rounded(353.2, RoundRule(10.0, "down")) == 350 and rounded(353.2, RoundRule(10.0, "nearest")) == 350
    assert rounded(151, RoundRule(0, "up", True), FLATS_MM) == 160 and rounded(6.36, RoundRule(6.35)) == pytest.approx(12.7)
    assert rounded(350.0000000001, RoundRule(10.0)) == 350


def test_values_are_checked_against_their_declaration() -> None:
    thick = family("fin-plate").setting("plate_thickness")
    assert parse(thick, "1/2in", "mm") == pytest.approx(12.7)
    for bad in ("-3", "1e9", "thin", ""):
        with pytest.raises(BadValue, match="Plate thickness"):
            parse(thick, bad, "mm")
    with pytest.raises(BadValue, match="M20"):
        check(family("fin-plate").setting("bolt"), "M21")
    with pytest.raises(BadValue):
        check(thick, True)
    with pytest.raises(BadValue):
        check(thick, float("nan"))


def test_a_plate_that_cannot_be_cut_is_refused() -> None:
    with pytest.raises(BadValue, match="30 mm hole runs over the edge of the base plate"):
        family("base-plate").detail(foot(), {"plate_length": 210.0, "anchors_x": (270.0,)}, HOUSE)
    with pytest.raises(BadValue, match="run into each other"):
        family("fin-plate").detail(on_flange(), {"pitch": (20.0,)}, HOUSE)


# --- properties -------------------------------------------------------------


def any_settings(name: str) -> st.SearchStrategy[dict[str, Any]]:
    """Some settings of a family, each inside its limits, kept to what a detailer could type."""

    def value(s: Setting) -> st.SearchStrategy[Any]:
        if s.kind == "choice":
            return st.sampled_from(s.choices)
        if s.kind == "flag":
            return st.booleans()
        if s.kind == "count":
            return st.integers(int(s.low), int(s.high))
        if s.kind == "angle":
            return st.floats(s.low, s.high)
        if s.kind == "force":
            return st.integers(0, 5000).map(lambda v: v * 1000.0)
        if s.kind == "numbers":
            return st.lists(st.integers(1, 12), max_size=3).map(lambda v: tuple(sorted(set(v))))
        top = min(s.high, 400.0)
        low = max(s.low, 1.0)
        if s.kind == "spacings":
            return st.lists(st.floats(25, 120).map(round).map(float), max_size=4).map(tuple)
        return st.floats(low, top).map(lambda v: min(top, max(low, float(round(v)))))

    if FAMILIES[name].parts:  # a list: from one number, as the soak draws them
        return st.integers(0, 2**30).map(lambda n: settings_by(name, n))
    return st.fixed_dictionaries({}, optional={s.name: value(s) for s in FAMILIES[name].settings})


def settings_by(name: str, number: int) -> dict[str, Any]:
    """Some settings of a family as :func:`any_settings` draws them, from one number: few of them or many, several times as fast to draw."""
    dice = random.Random(number)
    share = dice.random() ** 2

    def value(s: Setting) -> Any:
        if s.kind in ("choice", "flag"):
            return dice.choice(s.choices or (False, True))
        if s.kind == "count":
            return dice.randint(int(s.low), int(s.high))
        if s.kind in ("angle", "force"):
            return dice.uniform(s.low, s.high)
        if s.kind == "numbers":
            return tuple(sorted({dice.randint(1, 12) for _ in range(dice.randint(0, 3))}))
        if s.kind == "spacings":
            return tuple(float(dice.randint(25, 120)) for _ in range(dice.randint(0, 4)))
        if s.kind == "section":
            return dice.choice(("SHS 60x60x5", "L 80x80x8", "IPE 160", "FL 80x10", "CHS 88.9x5", "PFC 150x75x18"))
        if s.kind == "points":
            return tuple(float(dice.randint(-150, 150)) for _ in range(2 * dice.randint(3, 6)))
        top, low = min(s.high, 400.0), max(s.low, 1.0)
        return min(top, max(low, float(round(dice.choice((dice.uniform(low, top), low * dice.uniform(1, 12), low, top))))))

    chosen = FAMILIES[name].settings
    if FAMILIES[name].parts:
        few = {f"{s.name}/{k}": value(s) for k in range(1, dice.randint(2, 5)) for s in chosen if s.each and dice.random() < share * 0.3}
        kinds = {f"part/{k}": dice.choice(chosen[1].choices) for k in {int(n.partition("/")[2]) for n in few} | {1}}
        return {"part/1": "plate"} | few | kinds
    return {s.name: value(s) for s in chosen if s.kind != "schedule" and dice.random() < share}


def sane(case: Case, d: Detail) -> None:
    """Closed solids, holes inside plates, symmetric in gives symmetric out, and a mirror image of the image is the detail."""
    for p in d.plates:
        outline = p.outline.polygon()
        assert outline.is_valid and p.outline.area > 0 and p.volume > 0
    for w in d.welds:
        assert math.dist(w.start, w.end) > 0 and np.linalg.norm(w.u) == pytest.approx(1) and np.linalg.norm(w.v) == pytest.approx(1)
    twice = mirrored(mirrored(d))
    for a, b in zip(d.plates, twice.plates, strict=True):
        assert a.frame == b.frame and a.outline == b.outline
    assert [b.points for b in twice.bolts] == [b.points for b in d.bolts]
    image = mirrored(d)
    assert sum(p.volume for p in image.plates) == pytest.approx(sum(p.volume for p in d.plates))


@settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck))
@given(any_settings("fin-plate"), st.sampled_from(["UB 305x165x40", "IPE 300", "UB 533x210x92", "HEA 240"]))
def test_any_fin_plate_is_sane(typed: dict[str, Any], section: str) -> None:
    case = on_flange(section)
    try:
        d = family("fin-plate").detail(case, family("fin-plate").checked(typed, HOUSE), HOUSE)
    except (BadValue, NoFit) as error:
        assert any(word in str(error) for word in ("hole", "slot", "past the flat", "reaches past the flanges", "nothing to bend", "goes through hollow ones"))
        return
    sane(case, d)
    if not {"plate_height", "plate_width"} & set(typed):
        for p in d.plates:  # worked-out plates hold all their holes
            outline = p.outline.polygon()
            assert all(outline.contains(shapely.Point(h.x, h.y)) for h in p.holes)
    z = [h.y for h in d.plates[0].holes]
    if typed.get("row_place") == "on the beam axis":
        assert min(z) + max(z) == pytest.approx(0, abs=1e-6)  # rows stay centred
    elif typed.get("row_place", "in the clear web") == "in the clear web":
        assert abs(min(z) + max(z)) <= 5.0 + 1e-6  # half of 5 mm off the middle at most, for a round distance from the top
    a = Assembled(case, d, "EN")
    for f in a.fitted:
        assert f.grip >= 0 and f.length > 0


@settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck))
@given(any_settings("base-plate"), st.sampled_from(["UC 203x203x46", "HEB 300", "SHS 150x150x8", "CHS 168.3x6.3", "UPN 200"]))
def test_any_base_plate_is_sane(typed: dict[str, Any], section: str) -> None:
    try:
        d = family("base-plate").detail(foot(section), family("base-plate").checked(typed, HOUSE), HOUSE)
    except (BadValue, NoFit) as error:
        assert any(word in str(error) for word in ("hole", "slot", "inside the column", "edge", "edges make", "rod", "stiffener", "chair", "key", "flats", "grout", "no web"))
        return
    sane(foot(section), d)
    # the rods stand in lines about the plate's middle, however it is turned and wherever it lies
    local = d.plates[0].frame.to_local(np.array([(r.x, r.y, 0.0) for r in d.rods]))
    if not typed.get("rods_off"):
        assert local[:, :2].min(axis=0) + local[:, :2].max(axis=0) == pytest.approx(0, abs=1e-6)
    if not any(name.startswith("past_") for name in typed):
        assert d.plates[0].frame.origin[:2] == pytest.approx((typed.get("offset_x", 0.0), typed.get("offset_y", 0.0)), abs=1e-6)
    top = d.plates[0].frame.origin[2] + d.plates[0].thickness
    assert d.ends[0].point[2] == pytest.approx(top)


@settings(max_examples=30, deadline=None)
@given(st.floats(-40, 40).map(math.radians), st.floats(-25, 25).map(math.radians))
def test_a_detail_follows_a_skewed_and_sloping_beam(skew: float, slope: float) -> None:
    assume(abs(math.cos(skew) * math.cos(slope)) > math.cos(math.radians(44)))
    x = np.array([math.cos(slope) * math.cos(skew), math.cos(slope) * math.sin(skew), math.sin(slope)])
    world = Frame.of((0, 0, 0), x, (0, 0, 1))
    carrier = world.inside(Frame((-101.6, 0.0, 0.0), (0.0, 0.0, 1.0), (1.0, 0.0, 0.0)))
    case = Case(
        "beam to column flange", (CaseMember("UB 305x165x40", "S355", Frame(), 0.0, 600.0), CaseMember("UC 203x203x46", "S355", carrier, -600.0, 600.0, "support"))
    )
    d = family("fin-plate").detail(case, {}, HOUSE)
    n = world.unturn((1.0, 0.0, 0.0))
    for p in d.plates:
        assert (plate_mesh(p, 2, False).points @ n).min() == pytest.approx(0, abs=1e-6)  # nothing inside the column, nothing off it


def test_a_bevelled_plate_is_measured_in_its_middle() -> None:
    # 100 x 100 x 10; the bevel keeps 0.8 x - 0.6 z >= 0, so x >= 0.75 z: 3.75 at z = 5.  A wedge 7.5 wide at the top is gone: 7.5 x 10 / 2 x 100
    square = Outline.rectangle(0, 0, 100, 100)
    plate = Plate("plate", square, 10.0, Frame(), "S275", (), trims=(EndCut(0, (0.0, 0.0, 0.0), (0.8, 0.0, -0.6)),))
    assert plate.middle.bounds == pytest.approx((3.75, 0, 100, 100)) and plate.middle.area == pytest.approx(9625)
    assert plate.volume == pytest.approx(100 * 100 * 10 - 7.5 * 10 / 2 * 100)


def test_holes_that_meet_or_leave_the_steel_are_weighed_once() -> None:
    # IPE 300, web 7.1 thick, 200 long: two holes of 20 whose middles are 10 apart and half a hole at the end.  The lens that two circles of
    # radius 10 share is 2 r² acos(d / 2r) - d / 2 sqrt(4 r² - d²) = 200 x 1.0472 - 5 x 17.3205 = 122.84
    shape = section_of("IPE 300")

    def hole(x: float) -> MemberHole:
        return MemberHole(0, "web", (x, 0.0, 0.0), (0.0, 1.0, 0.0), 20.0, 20.0, (1.0, 0.0, 0.0))

    whole = steel_volume(shape, Cuts(), 0.0, 200.0)
    meeting = whole - steel_volume(shape, Cuts((), (), (hole(100.0), hole(110.0))), 0.0, 200.0)
    assert meeting == pytest.approx((2 * math.pi * 100 - 122.84) * 7.1, rel=1e-3)
    assert whole - steel_volume(shape, Cuts((), (), (hole(200.0),)), 0.0, 200.0) == pytest.approx(math.pi * 50 * 7.1, rel=1e-3)
    assert whole - steel_volume(shape, Cuts((), (), (hole(60.0),)), 0.0, 200.0) == pytest.approx(math.pi * 100 * 7.1, rel=1e-9)


def test_steel_volume_agrees_with_its_mesh() -> None:
    case = on_web("UB 254x146x31", "UB 356x171x51", 7.4, (355.0 - 251.4) / 2)
    d = family("fin-plate").detail(case, {}, HOUSE)
    a = Assembled(case, d, "EN")
    cuts = Cuts(a.cuts(0).ends, a.cuts(0).notches)
    exact = steel_volume(case.supported.shape, cuts, 0.0, 600.0)
    assert steel_mesh(case.supported.shape, cuts, 0.0, 600.0, per_arc=24).volume == pytest.approx(exact, rel=2e-3)
    assert exact < case.supported.shape.area * 590


def test_details_follow_their_members(corner: Desk) -> None:
    corner.run("place-connection", family="fin-plate", at=["B1.start"])
    before = corner.ledger.entries[joint(corner, "B1.start").key]
    corner.run("change-members", ids=["B1"], section="UB 457x191x67")
    after = corner.ledger.entries[joint(corner, "B1.start").key]
    assert before.made is not None and after.made is not None
    assert len(after.made.detail.bolts[0].points) > len(before.made.detail.bolts[0].points)
    corner.run("add-members", members=[beam("UC 203x203x46", (9000, 0, 0), (9000, 0, 4000), "column")])
    assert after.connection == corner.project.connections[after.connection.id]  # type: ignore[union-attr]
