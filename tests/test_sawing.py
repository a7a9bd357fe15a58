"""Polygons cut out of members: mass by hand, shape by mesh, motions, splits, the other engine, wrong inputs."""

import math
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import ifcopenshell
import ifcopenshell.geom
import ifcopenshell.util.element
import ifcopenshell.util.shape
import numpy as np
import pytest
import shapely

from tincleat.app.bodies import member_mesh
from tincleat.catalogue.sections import section
from tincleat.commands.desk import Desk
from tincleat.errors import BadValue, TinCleatError
from tincleat.exchange.ifc import export_ifc
from tincleat.geometry.mesh import Mesh, overlap_volume
from tincleat.project.entities import Member
from tincleat.project.members import length
from tincleat.steel.body import element_polygon, steel_mesh, steel_volume
from tincleat.steel.cuts import Cuts, EndCut
from tincleat.steel.likes import TURNS, worked
from tincleat.steel.members import own_cuts


@pytest.fixture
def desk(tmp_path: Path) -> Iterator[Desk]:
    desk = Desk.create(tmp_path / "s.tincleat")
    desk.run("add-members", members=[{"section": "IPE 300", "start": [0, 0, 0], "end": [2000, 0, 0], "role": "beam", "name": "B"}])
    yield desk
    desk.close()


def the(desk: Desk) -> Member:
    (m,) = desk.project.members.values()
    return m


def taken(m: Member) -> float:
    """Volume that a member's own cuts take, mm³."""
    shape = section(m.section)
    return shape.area * length(m) - steel_volume(shape, own_cuts(m), 0.0, length(m))


# IPE 300 is 300 x 150, tw 7.1, tf 10.7, r 15.  Above z = 50: the top flange 150 x 10.7, the web (139.3 - 50) x 7.1 and two
# root fillets of (1 - pi / 4) 15² each
ABOVE_50 = 150 * 10.7 + (139.3 - 50) * 7.1 + 2 * (1 - math.pi / 4) * 225


def test_a_cope_seen_from_the_side(desk: Desk) -> None:
    desk.run("cut-polygon", ids=["B"], corners=[[-50, 200], [-50, 50], [200, 50], [200, 200]])
    assert taken(the(desk)) == pytest.approx(ABOVE_50 * 200, rel=2e-4)
    shape = section("IPE 300")
    top = element_polygon(next(e for e in shape.elements if e.name == "top flange"), own_cuts(the(desk)), 0, 2000)
    bottom = element_polygon(next(e for e in shape.elements if e.name == "bottom flange"), own_cuts(the(desk)), 0, 2000)
    assert top.bounds == pytest.approx((200, -75, 2000, 75)) and bottom.area == pytest.approx(2000 * 150)
    # at the other end, from there, rounded where the corner lies in the steel: the arc leaves (1 - pi / 4) 20² of the web standing
    desk.undo()
    desk.run("cut-polygon", ids=["B"], corners=[[-50, 200], [-50, 50], [200, 50], [200, 200]], origin="end", radius=20)
    assert taken(the(desk)) == pytest.approx(ABOVE_50 * 200 - (1 - math.pi / 4) * 400 * 7.1, rel=3e-4)
    assert element_polygon(next(e for e in shape.elements if e.name == "top flange"), own_cuts(the(desk)), 0, 2000).bounds[2] == pytest.approx(1800)


def test_an_opening_in_the_web_and_a_corner_off_the_flanges(desk: Desk) -> None:
    desk.run("cut-polygon", ids=["B"], corners=[[950, -40], [1050, -40], [1050, 40], [950, 40]])
    assert taken(the(desk)) == pytest.approx(100 * 80 * 7.1, rel=1e-6)
    web = element_polygon(next(e for e in section("IPE 300").elements if e.name == "web"), own_cuts(the(desk)), 0, 2000)
    assert len(web.interiors) == 1 and web.area == pytest.approx(2000 * 300 - 8000)
    # from the top: y from 20 to the flange tips at 75, both flanges, 100 long, beside the roots
    desk.run("cut-polygon", ids=["B"], view="top", corners=[[0, 20], [100, 20], [100, 90], [0, 90]])
    assert taken(the(desk)) == pytest.approx(100 * 80 * 7.1 + 2 * 55 * 10.7 * 100, rel=1e-4)


def test_cuts_over_each_other_count_once(desk: Desk) -> None:
    cope = [[-50, 200], [-50, 50], [200, 50], [200, 200]]
    desk.run("cut-polygon", ids=["B"], corners=cope)
    desk.run("cut-polygon", ids=["B"], corners=cope)
    assert taken(the(desk)) == pytest.approx(ABOVE_50 * 200, rel=2e-4)
    # a flange corner at the same end: of it only the bottom flange's share is left to take
    desk.run("cut-polygon", ids=["B"], view="top", corners=[[0, 20], [100, 20], [100, 90], [0, 90]])
    assert taken(the(desk)) == pytest.approx(ABOVE_50 * 200 + 55 * 10.7 * 100, rel=1e-3)


@pytest.mark.parametrize("name", ["IPE 300", "UPN 200", "L 150x75x9", "RHS 200x100x8"])
@pytest.mark.parametrize("view", ["side", "top"])
def test_a_mirrored_member_is_cut_as_its_image(tmp_path: Path, name: str, view: str) -> None:
    desk = Desk.create(tmp_path / "m.tincleat")
    desk.run("add-members", members=[{"section": name, "start": [0, 0, 0], "end": [1500, 400, 300], "roll_deg": 25, "cardinal": "top left", "name": "B"}])
    desk.run("cut-polygon", ids=["B"], view=view, corners=[[-50, 200], [-50, 10], [120, 20], [200, 200]])
    before = the(desk)
    desk.run("mirror-members", ids=["B"], line=[[0, 900, 0], [1, 900.2, 0]], copy=False)
    new = the(desk)
    made, old = member_mesh(new, own_cuts(new), 2), member_mesh(before, own_cuts(before), 2)
    n = np.array([-0.2, 1.0, 0.0]) / math.hypot(0.2, 1.0)
    points = old.points - 2 * np.outer((old.points - (0, 900, 0)) @ n, n)
    image = Mesh(points, old.triangles[:, ::-1])
    assert made.volume == pytest.approx(image.volume, rel=1e-6) and overlap_volume(made, image) == pytest.approx(image.volume, rel=1e-4)
    desk.run("mirror-members", ids=["B"], line=[[0, 900, 0], [1, 900.2, 0]], copy=False)
    again = member_mesh(the(desk), own_cuts(the(desk)), 2)
    assert overlap_volume(again, old) == pytest.approx(old.volume, rel=1e-4)
    desk.close()


def test_pieces_keep_the_cuts_that_are_theirs(desk: Desk) -> None:
    desk.run("cut-polygon", ids=["B"], corners=[[100, -40], [200, -40], [200, 40]])
    desk.run("cut-polygon", ids=["B"], corners=[[1500, -40], [1600, -40], [1600, 40]])
    whole = taken(the(desk))
    desk.run("split-members", ids=["B"], at=[1000])
    first, last = sorted(desk.project.members.values(), key=lambda m: m.start)
    assert len(first.outs) == len(last.outs) == 1 and taken(first) + taken(last) == pytest.approx(whole)
    desk.run("join-members", ids=[first.id, last.id])
    assert taken(the(desk)) == pytest.approx(whole)
    desk.run("move-members", ids=["B"], by=[500, 600, 700])
    assert taken(the(desk)) == pytest.approx(whole)
    desk.run("drop-cuts", ids=["B"], kind="polygons")
    assert the(desk).outs == () and taken(the(desk)) == pytest.approx(0, abs=1)
    with pytest.raises(TinCleatError, match="none of them"):
        desk.run("drop-cuts", ids=["B"])
    path = desk.store.path
    desk.undo()
    desk.close()
    again = Desk.open(path)
    assert len(the(again).outs) == 2
    again.close()


def test_the_other_engine_agrees(desk: Desk, tmp_path: Path) -> None:
    desk.run("cut-polygon", ids=["B"], corners=[[-50, 200], [-50, 50], [150, 50], [250, 200]], radius=15)
    desk.run("cut-polygon", ids=["B"], corners=[[900, -60], [1000, 60], [1100, -60]])
    desk.run("cut-polygon", ids=["B"], view="top", corners=[[1900, -90], [2010, -90], [2010, -30]])
    file = ifcopenshell.open(str(export_ifc(desk.ledger, tmp_path / "c.ifc")))
    (beam,) = file.by_type("IfcBeam")
    settings = ifcopenshell.geom.settings()
    settings.set("mesher-linear-deflection", 0.00005)
    volume = ifcopenshell.util.shape.get_volume(ifcopenshell.geom.create_shape(settings, beam).geometry)
    assert volume == pytest.approx(next(iter(ifcopenshell.util.element.get_psets(beam, qtos_only=True).values()))["NetVolume"], rel=0.001)
    mesh = steel_mesh(section("IPE 300"), own_cuts(the(desk)), 0, 2000, 8)
    assert mesh.volume * 1e-9 == pytest.approx(volume, rel=0.002)


@pytest.mark.parametrize(
    ("args", "words"),
    [
        ({"corners": [[0, 0], [100, 0]]}, "three or more"),
        ({"corners": [[0, 0], [100, 100], [100, 0], [0, 100]]}, "sides must not cross"),
        ({"corners": [[0, 400], [100, 400], [100, 500]]}, "lies beside B"),
        ({"corners": [[3000, 0], [3100, 0], [3100, 100]]}, "lies beside B"),
        ({"corners": [[-10, -200], [2010, -200], [2010, 200], [-10, 200]]}, "nothing of B"),
        ({"corners": [[100, 0], [120, 0], [120, 20]], "radius": 30}, "do not fit"),
        ({"corners": [[100, 0], [120, 0], [120, "x"]]}, "corner 3, across"),
        ({"corners": [[100, 0], [120, 0], [120, 20]], "view": "front"}, "side or top"),
        ({"corners": [[100, 0], [120, 0], [120, 20]], "origin": "middle"}, "start or end"),
    ],
)
def test_what_cannot_be_cut_says_why(desk: Desk, args: dict[str, Any], words: str) -> None:
    before = the(desk)
    with pytest.raises(TinCleatError, match=words):
        desk.run("cut-polygon", ids=["B"], **args)
    assert the(desk) == before


@pytest.mark.parametrize("normal", [(-1, 0, 1), (-1, 0, -1), (-1, 1, 0), (-1, -1, 0)])
def test_a_bar_is_ordered_to_its_longest_edge(normal: tuple[float, float, float]) -> None:
    """An IPE 300 is 300 deep and 150 wide: sawn at 45° through 2000 on its axis it takes 2000 + 150 up or down, 2000 + 75 to either side."""
    unit = tuple(v / math.sqrt(2) for v in normal)
    bar = worked(section("IPE 300"), 3000.0, Cuts((EndCut(0, (2000.0, 0.0, 0.0), unit),)))  # type: ignore[arg-type]
    assert bar.length == pytest.approx(2150.0 if normal[2] else 2075.0)


@pytest.mark.parametrize("name", ["IPE 300", "SHS 100x100x5", "CHS 114.3x5", "FL 100x10", "RD 20", "PFC 200x75x23", "UPE 200", "L 70x70x7", "Z 200x65x20x2", "WT22X145", "L12X12X1"])
def test_a_bar_may_be_turned_as_its_section_lies_on_itself(name: str) -> None:
    """The half turns about a bar's own axes that its outline, laid over its image, knows: those and no others count as the same bar."""
    shape = section(name)
    flat = np.array(shape.outer.points(0.01))
    found = set()
    for turn in ((1, 1, 1), (1, -1, -1), (-1, 1, -1), (-1, -1, 1)):
        image = shapely.Polygon(flat * turn[1:])
        if image.symmetric_difference(shapely.Polygon(flat)).area < 1e-3 * shape.area:
            found.add(turn)
    assert set(TURNS.get(shape.shape, ((1, 1, 1),))) == found


def test_a_member_may_not_fall_apart(desk: Desk) -> None:
    # across the whole depth at 950 to 1050 of 2000: 950 of 42.2 kg/m to each side
    with pytest.raises(BadValue, match=r"would fall into 2 pieces, of 40.1 kg and 40.1 kg .*split-members"):
        desk.run("cut-polygon", ids=["B"], corners=[[950, -200], [1050, -200], [1050, 200], [950, 200]])
    # beside the web all along: the tips of both flanges hang on nothing, 35 x 10.7 x 2000 of each
    with pytest.raises(BadValue, match=r"would fall into 3 pieces, of .* kg and 5.9 kg and 5.9 kg"):
        desk.run("cut-polygon", ids=["B"], view="top", corners=[[-10, 20], [2010, 20], [2010, 40], [-10, 40]])
    assert not the(desk).outs
    # up to the web's far side it stays one
    desk.run("cut-polygon", ids=["B"], corners=[[950, -200], [1050, -200], [1050, 100], [950, 100]])
    assert len(the(desk).outs) == 1
