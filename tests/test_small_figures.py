"""Small figures of families, kits and rules, each by hand."""

import itertools
import math
from pathlib import Path
from typing import Any

import manifold3d
import numpy as np
import pytest
import shapely
from sites import SITES, Site, beam, column
from test_loose import detail, laid
from test_new_families import joined, made
from test_settings import site_case

from tincleat.catalogue.fasteners import bolt_size
from tincleat.catalogue.sections import section
from tincleat.commands.desk import Desk
from tincleat.details.fittings import Fork
from tincleat.details.parts import Hole
from tincleat.details.tapers import Taper, taper_mesh
from tincleat.errors import TinCleatError
from tincleat.families.registry import family
from tincleat.geometry.frames import Frame
from tincleat.kit.weld import inner_runs
from tincleat.project.entities import HouseRules, inch_house
from tincleat.ready.true_up import plan
from tincleat.standards.rulesets import rules_of
from tincleat.steel.body import cover, steel_mesh
from tincleat.steel.cuts import Cuts, EndCut, MemberHole
from tincleat.steel.likes import TURNS, worked

HOUSE = HouseRules()


def detail_at(name: str, house: HouseRules = HOUSE, members: "list[dict[str, Any]] | None" = None, **typed: Any) -> Any:
    """What a site's family makes there, its members or settings otherwise."""
    site = next(s for s in SITES if s.name == name)
    typed = {**site.typed, **typed}
    kind = family(site.family)
    return kind.detail(site_case(Site(name, members or site.members, site.family, site.at, typed, site.inch)), kind.checked(typed, house), house)


def test_a_cover_plate_beside_the_middle_stays_on_the_flange(tmp_path: Path) -> None:
    # HEB 300: 150 to an edge, less the 70 the beam lies aside: 160 broad, not the beam's 180
    for aside, wide in ((0.0, 180.0), (70.0, 160.0)):
        _, e = joined(tmp_path / f"{aside}", [column("HEB 300"), {**beam("IPE 400"), "start": [4000, aside, 3000], "end": [0, aside, 3000]}], "cover-plates", "M2.end")
        assert {p.outline.bounds[3] - p.outline.bounds[1] for p in made(e).plates if p.name.endswith(("top plate", "bottom plate"))} == {wide}


def test_a_column_that_begins_over_a_beams_lower_flange_is_told(tmp_path: Path) -> None:
    # IPE 400's underside lies 200 under its middle at 3000, the column begins at 2850: 50 short
    with pytest.raises(TinCleatError, match="HEB 300 ends 50 mm short of the outer side of what comes to it, the lower of both"):
        joined(tmp_path, [{**column("HEB 300"), "start": [0, 0, 2850]}, beam("IPE 400")], "welded-moment", "M2.end")


def test_a_loose_plate_is_a_hundred_wide_by_itself(tmp_path: Path) -> None:
    # along the beam 200 long; across it as long as UB 457x191x67's 189.9 holds on 5
    for stands, long in (("upright along", 200.0), ("upright across", 185.0)):
        _, e = laid(tmp_path / stands, part__1="plate", on__1="top", stands__1=stands)
        x0, y0, x1, y1 = detail(e).plates[0].outline.bounds
        assert (x1 - x0, y1 - y0) == pytest.approx((long, 100.0)), stands


TURNING = {"I": "IPE 300", "RHS": "RHS 200x100x8", "CHS": "CHS 168.3x6.3", "FL": "FL 100x10", "RD": "RD 20", "C": "UPN 200", "CF": "CF 200x65x20x2", "T": "WT5X11", "Z": "Z 200x65x20x2"}


@pytest.mark.parametrize("shape", TURNING)
def test_bars_are_alike_in_just_the_turns_that_lay_their_section_on_itself(shape: str) -> None:
    """A bar of 1000 with a hole and an end cut askew, turned by half a turn about each of its axes: the turns that leave the section as it is are found
    here from its outline, by area."""
    bar = section(TURNING[shape])
    outline = bar.outer.polygon()
    through = next((e for e in bar.elements if e.normal == "y"), None)  # round bars have none

    def holes(p: Any, d: Any) -> tuple[MemberHole, ...]:
        return (MemberHole(0, through.name, p((200.0, through.at, 11.0)), d((0.0, 1.0, 0.0)), 14.0, 14.0, d((1.0, 0.0, 0.0))),) if through is not None else ()

    def told(sx: int, sy: int, sz: int) -> object:
        def p(v: tuple[float, float, float]) -> tuple[float, float, float]:
            return (v[0] * sx + (0.0 if sx > 0 else 1000.0), v[1] * sy, v[2] * sz)

        def d(v: tuple[float, float, float]) -> tuple[float, float, float]:
            return (v[0] * sx, v[1] * sy, v[2] * sz)

        cuts = Cuts((EndCut(0, p((30.0, 0.0, 0.0)), d((0.9, 0.3, 0.3162)), 0.0, 0.0),), (), holes(p, d))
        return worked(bar, 1000.0, cuts).signature

    first = told(1, 1, 1)
    for turn in ((1, -1, -1), (-1, 1, -1), (-1, -1, 1)):
        same = shapely.affinity.scale(outline, turn[1], turn[2], origin=(0, 0)).symmetric_difference(outline).area < 1e-3 * outline.area
        assert (told(*turn) == first) == same, (turn, TURNS.get(shape))
    assert told(1, -1, 1) != first and told(1, 1, -1) != first  # a mirror image is another bar


def test_a_taper_washer_is_whole() -> None:
    # 30 square with a hole of 18, 3 thick at its thin edge and 3 + 30 / 7 at the other: as much as a flat one of 3 + 30 / 14
    mesh = taper_mesh(Taper(10.0, True, (1.0, 0.0), 1 / 7, 30.0, 18.0), drilled=False)
    assert mesh.volume == pytest.approx(30.0 * 30.0 * (3.0 + 30 / 14), rel=1e-6)


@pytest.mark.parametrize("way", [1.0, -1.0])
def test_covers_of_a_tube_pressed_flat_at_either_end_are_no_longer_than_it(way: float) -> None:
    # flat for 140 and drawn out over 90: round from 230 on; the last cover is the round tube's, from there to its other end
    tube = section("CHS 88.9x5")
    cuts = Cuts((EndCut(0, (0.0 if way > 0 else 2000.0, 0.0, 0.0), (way, 0.0, 0.0), 140.0, 90.0, (0.0, 1.0, 0.0)),))
    hulls = cover(tube, cuts, 0.0, 2000.0)
    span = (float(hulls[-1][:, 0].min()), float(hulls[-1][:, 0].max()))
    assert span == pytest.approx((230.0, 2000.0) if way > 0 else (0.0, 1770.0))
    mesh = steel_mesh(tube, cuts, 0.0, 2000.0, 3)
    rest = manifold3d.Manifold(manifold3d.Mesh64(vert_properties=np.ascontiguousarray(mesh.points), tri_verts=mesh.triangles.astype(np.uint64)))
    for h in hulls:
        rest = rest - manifold3d.Manifold.hull_points(np.ascontiguousarray(h)).scale((1.0, 1.0001, 1.0001))
    assert rest.volume() < 1.0


@pytest.mark.parametrize("support", ["UPN 120", "UPN 140", "UPN 160"])
def test_a_plate_on_a_sloping_side_stays_on_its_flat(support: str) -> None:
    """Beside a channel at 34 degrees the plate's corners come tan 34 times half its breadth nearer to the edges: all stay 3 mm inside them."""
    name = "post SHS 40x40x4 beside UPE 240 34 left"
    site = next(s for s in SITES if s.name == name)
    members = [m if m["section"].startswith("SHS") else {**m, "section": support} for m in site.members]
    try:
        d = detail_at(name, HouseRules(exposed=False), members, bolt="M12")
    except TinCleatError as error:
        assert "mm" in str(error)
        return
    case = site_case(Site(name, members, site.family, site.at, {}))
    assert case.support is not None
    x0, y0, x1, y1 = d.plates[0].outline.bounds
    corners = case.support.frame.to_local(d.plates[0].frame.to_world([(x, y, 0.0) for x in (x0, x1) for y in (y0, y1)]))
    assert abs(corners[:, 2]).max() <= section(support).h / 2 - 3.0 + 0.1


def test_welded_cleats_reach_to_the_flanges_edge(tmp_path: Path) -> None:
    # IPE 300: 7.1 / 2 and a leg of 100 reach 103.55: on HEB 220's 110 they stay, HEB 200's 100 they pass
    assert made(joined(tmp_path / "a", [column("HEB 220"), beam("IPE 300")], "angle-cleats", "M2.end", to_support="welded")[1]).pieces
    with pytest.raises(TinCleatError, match="the cleats reach 104 mm from the middle of HEB 200, whose flat is 200 mm wide"):
        joined(tmp_path / "b", [column("HEB 200"), beam("IPE 300")], "angle-cleats", "M2.end", to_support="welded")


def test_a_purlin_that_rises_is_seated_square_to_rafter_and_purlin(tmp_path: Path) -> None:
    """The purlin rises by 0.2 along x, the rafters by 0.1 along y: square to both is (-0.2, -0.1, 1), and half the rafter's depth is measured square to it."""
    desk = Desk.create(tmp_path / "p.tincleat", None, True)
    rafters = [{"section": "IPE 400", "role": "rafter", "start": [x, 0, 5000 + 0.2 * x], "end": [x, 10000, 6000 + 0.2 * x]} for x in (0, 6000)]
    desk.run("add-members", members=[*rafters, {"section": "Z 200x65x20x2", "role": "purlin", "start": [0, 5000, 5500], "end": [6000, 5000, 6700]}])
    before = desk.project.find("member", "M3")
    (change,) = plan(desk.ledger, ["purlins"]).changes
    for end in ("start", "end"):
        way = np.subtract(getattr(change.new, end), getattr(before, end))
        assert abs(way @ np.array([1.0, 0.0, 0.2])) < 0.02 * np.linalg.norm(way), way  # square to the purlin
    desk.close()


def test_how_far_a_truss_member_goes_is_told(tmp_path: Path) -> None:
    """Two webs of a truss 60 apart meet half-way: each end there goes 30 along the chord, its gravity line besides from its own to the chord's."""
    desk = Desk.create(tmp_path / "t.tincleat", None, True)
    rows = [("beam", "UC 152x152x23", (0, 0, 7000), (9000, 0, 7000)), ("beam", "UC 152x152x23", (0, 0, 5000), (9000, 0, 5000)), ("brace", "SHS 80x80x5", (0, 0, 5000), (3000, 0, 7000)), ("brace", "SHS 80x80x5", (3060, 0, 7000), (6000, 0, 5000))]
    desk.run("add-members", members=[{"section": s, "role": r, "start": list(a), "end": list(b)} for r, s, a, b in rows])
    found = plan(desk.ledger, ["trusses"])
    assert sorted(c.words.split(" mm")[0] for c in found.changes if "gravity lines" in c.words) == ["30.0", "30.0"]
    desk.close()


@pytest.mark.parametrize("leg", [15.0, 20.0])
def test_bolts_of_a_cap_and_base_pass_its_welds(leg: float) -> None:
    """Washers of M20, 37 wide, lie off fillets of 20: 38.5 from the columns' faces at least, more than the 31.8 a socket needs; where no socket passes the
    fillets too, between the flanges of small columns, a spanner does."""
    for site in (s for s in SITES if s.family == "cap-and-base" and not s.inch):
        try:
            d = detail_at(site.name, flange_weld=leg, web_weld=leg, where="between the flanges", bolt="M20")
        except TinCleatError:
            continue
        for m in site_case(site).members[:2]:
            for p in d.bolts[0].points:
                local = m.frame.to_local(np.array([p]))[0]
                assert m.shape.outer.polygon().distance(shapely.Point(local[1:])) >= leg + 37.0 / 2 - 0.05, site.name


def test_stiffeners_over_a_wall_have_fillets_of_five() -> None:
    # IPE 300: flange 10.7, plate 10 or 12: half of it 5 or 6; IPE 200: flange 8.5, plate 8: 4, at least 5
    name = "wall IPE 300 {'stiffeners': True, 'rod_foot': 'hooked'}"
    site = next(s for s in SITES if s.name == name)
    d = detail_at(name, members=[{**m, "section": "IPE 200"} for m in site.members])
    assert {w.leg for w in d.welds if "stiffener" in w.name} == {5.0}


def test_walls_of_a_branch_as_wide_as_its_carrier_are_welded_on_its_flat() -> None:
    """SHS 100x100x5 on the narrow side of RHS 200x100x8: the flat there is 100 less two corners."""
    branch, chord = section("SHS 100x100x5"), section("RHS 200x100x8")
    members = [{"section": "RHS 200x100x8", "role": "column", "start": [0, 0, 0], "end": [0, 0, 6000]}, {"section": "SHS 100x100x5", "role": "beam", "start": [4000, 0, 3000], "end": [0, 0, 3000]}]
    for roll, half in ((0.0, chord.b / 2 - chord.r1), (90.0, chord.h / 2 - chord.r1)):
        some = [{**members[0], "roll_deg": roll}, members[1]]
        kind = family("tube-joint")
        case = site_case(Site("branch", some, "tube-joint", ((1, "end"),), {}))
        assert case.support is not None
        d = kind.detail(case, {}, HOUSE)
        across = np.cross(case.support.frame.x, case.supported.frame.x)
        reach = [abs(float((np.array(p) - case.support.frame.o) @ across)) for w in d.welds if w.kind == "fillet" for p in (w.start, w.end)]
        assert max(reach) <= max(half, branch.b / 2 if roll else 0.0) + 0.05


def test_a_flange_too_narrow_for_an_end_plates_bolts_is_told(tmp_path: Path) -> None:
    # M20 at the gauge of 90 with 1.2 x 22 = 26.4 to each edge: 142.8
    with pytest.raises(TinCleatError, match="HEB 120 is 120 mm wide there; M20 bolts clear of the roots need 143 mm"):
        joined(tmp_path, [column("HEB 120"), beam("IPE 200")], "end-plate", "M2.end")


@pytest.mark.parametrize("name", ["RHS 200x100x8", "SHS 150x150x8", "CHS 168.3x6.3"])
def test_the_ways_inside_a_tube_are_unit_ways_inwards(name: str) -> None:
    for a, c, way in inner_runs(section(name)):
        assert math.hypot(*way) == pytest.approx(1.0)
        assert abs((c[0] - a[0]) * way[0] + (c[1] - a[1]) * way[1]) < 1e-6 and (a[0] + c[0]) * way[0] + (a[1] + c[1]) * way[1] < 0.0


def test_a_fuse_is_ten_narrower_than_its_plates(tmp_path: Path) -> None:
    def at(fuse_width: float) -> Any:
        return made(joined(tmp_path / f"{fuse_width:g}", [column("HEB 300"), beam("IPE 400")], "cover-plates", "M2.end", fuse_length=200.0, fuse_width=fuse_width)[1])

    assert at(169.0).plates  # of 180
    with pytest.raises(TinCleatError, match="a fuse 171 mm broad in plates 180 mm broad is none"):
        at(171.0)


def test_flanges_too_narrow_for_covers_are_told(tmp_path: Path) -> None:
    ends = [{"section": "IPE 140", "role": "beam", "start": [0, 0, 3000], "end": [3000, 0, 3000]}, {"section": "IPE 140", "role": "beam", "start": [6000, 0, 3000], "end": [3000, 0, 3000]}]
    with pytest.raises(TinCleatError, match=r"flanges 73 mm wide do not hold M20 .* mm apart"):
        joined(tmp_path, ends, "splice-covers", "M1.end", bolt="M20")


def test_covers_of_a_fork_are_its_cheeks_and_socket() -> None:
    # 60 wide, cheeks of 10 with 12 between, 40 from the pin to the socket, 90 long: two cheeks from -30 to 40 and the socket from 40 to 90
    fork = Fork("fork", "M20", "8.8", Frame(), 20.0, 22.0, 60.0, 10.0, 12.0, 40.0, 90.0)
    spans = sorted((tuple(h.min(axis=0).round(6).tolist()), tuple(h.max(axis=0).round(6).tolist())) for h in fork.covers)
    assert spans == sorted([((-30.0, -30.0, 6.0), (40.0, 30.0, 16.0)), ((-30.0, -30.0, -16.0), (40.0, 30.0, -6.0)), ((40.0, -30.0, -16.0), (90.0, 30.0, 16.0))])
    mesh = fork.mesh(3, False)
    low, high = (np.array([s[k] for s in spans]) for k in (0, 1))
    assert (mesh.points.min(axis=0) >= low.min(axis=0) - 1e-6).all() and (mesh.points.max(axis=0) <= high.max(axis=0) + 1e-6).all()


def test_bolts_of_a_seat_keep_off_the_end_of_their_beam(tmp_path: Path) -> None:
    # M20: 26.4 from the beam's end, which stands 10 or 30 off the face: 45 clears the seat's root, 30 + 26.4 = 56.4 goes up to 60
    for setback, off in ((10.0, 45.0), (30.0, 60.0)):
        d = made(joined(tmp_path / f"{setback:g}", [column("HEB 300"), beam("IPE 300")], "seat-cleat", "M2.end", setback=setback)[1])
        assert {round(p[0], 3) for g in d.bolts if g.name.endswith("in the beam") for p in g.points} == {off}


def test_the_plate_of_a_post_beside_concrete_is_half_an_inch_thick() -> None:
    site = next(s for s in SITES if s.family == "slab-side" and s.inch)
    assert detail_at(site.name, inch_house(""), rod="3/4in", slab_depth=400.0).plates[0].thickness == pytest.approx(12.7)


def test_tables_of_turns_have_every_shape_once() -> None:
    assert set(TURNING) == set(TURNS) and all(len(set(t)) == len(t) for t in TURNS.values())
    assert all(math.prod(turn) == 1 for turn in itertools.chain(*TURNS.values()))  # a turn, never a mirror


def test_a_seats_stiffener_leaves_its_bolts_room() -> None:
    # M20 bolts 40 apart on the support: half of that less half of the plate's 12 are 14 beside a bolt's axis, which needs more to be turned
    with pytest.raises(TinCleatError, match=r"a stiffener 12 mm thick leaves 14 mm to tighten bolts 40 mm apart; \d\d mm are needed"):
        detail_at("seat stiffened", cross_centres=40.0)
    clear = bolt_size("M20").clear
    narrow = math.ceil(2 * clear + 12)  # as near as they may come: half of it less 6 is what a spanner needs
    with pytest.raises(TinCleatError, match="mm are needed"):
        detail_at("seat stiffened", cross_centres=float(narrow - 2))
    d = detail_at("seat stiffened", cross_centres=float(narrow))
    assert {round(p[1], 3) for g in d.bolts if g.name == "bolts of the seat in the support" for p in g.points} == {-narrow / 2, narrow / 2}


def test_an_apex_too_steep_for_a_plate_is_told(tmp_path: Path) -> None:
    # rafters that rise by 35 degrees each: the plate in their middle stands 35 off square to both, by 25 it stands well
    for slope, words in ((35.0, "the plate would stand 35° off square"), (25.0, "")):
        rise = 4000 * math.tan(math.radians(slope))
        rafters = [{**beam("IPE 300"), "role": "rafter", "start": [x, 0, 3000], "end": [0, 0, 3000 + rise]} for x in (-4000, 4000)]
        if words:
            with pytest.raises(TinCleatError, match=words):
                joined(tmp_path / f"{slope}", rafters, "end-plate", "M1.end")
        else:
            assert made(joined(tmp_path / f"{slope}", rafters, "end-plate", "M1.end")[1]).plates


def test_a_bolt_that_the_table_of_edges_leaves_out_keeps_a_diameter_and_a_quarter() -> None:
    # M12 is in neither table J3.4 nor J3.4M: 1.25 x 12
    assert rules_of(inch_house("")).edge_least(bolt_size("M12"), Hole(0.0, 0.0, 14.0, 14.0), False).value == pytest.approx(15.0)


def test_a_rod_to_either_side_of_a_keys_pocket_is_told(tmp_path: Path) -> None:
    """A key 20 x 100 with 50 round it: the pocket goes 60 either way of its middle along x.  Moved to within 12 of a rod, which is half of its 24, it is
    refused; 30 off it stands."""
    _, e = joined(tmp_path / "a", [column("HEB 300")], "base-plate", "M1.start", key_depth=80.0)
    far = max(r.x for r in made(e).rods)
    assert {r.size for r in made(e).rods} == {"M24"}
    for n, (off, fits) in enumerate(((far - 72.0, False), (72.0 - far, False), (far - 90.0, True), (90.0 - far, True))):
        deed = {"key_depth": 80.0, "key_off_x": off, "key_length": 400.0}
        if fits:
            assert [b for b in made(joined(tmp_path / f"{n}", [column("HEB 300")], "base-plate", "M1.start", **deed)[1]).blocks if b.name == "key pocket"]
        else:
            with pytest.raises(TinCleatError, match="would stand in the key's pocket"):
                joined(tmp_path / f"{n}", [column("HEB 300")], "base-plate", "M1.start", **deed)
