"""Bodies that are not steel: their shapes by value, their locks, their wrong inputs."""

import math
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from tincleat.commands.desk import Desk
from tincleat.errors import TinCleatError
from tincleat.geometry.mesh import Mesh
from tincleat.project.entities import Reference


@pytest.fixture
def desk(tmp_path: Path) -> Iterator[Desk]:
    desk = Desk.create(tmp_path / "b.tincleat")
    desk.run("add-grid", name="main", x="2@6000", y="5000")
    desk.run("add-level", name="floor", elevation=3000)
    yield desk
    desk.close()


def mesh(b: Reference) -> Mesh:
    return Mesh(np.array(b.points), np.array(b.triangles, dtype=np.int32))


def only(desk: Desk) -> Reference:
    (found,) = desk.project.references.values()
    return found


def box(b: Reference) -> list[float]:
    points = np.array(b.points)
    return [*points.min(axis=0).tolist(), *points.max(axis=0).tolist()]


def test_pads(desk: Desk) -> None:
    assert desk.run("add-pads", at=["A1:B2", ["12 m", 5000]], length=1200, width=800, depth=500, top="floor-100") == "Add 5 pads"
    pads = list(desk.project.references.values())
    assert all(p.locked and p.kind == "pad" and mesh(p).volume == pytest.approx(1200 * 800 * 500) for p in pads)
    assert box(pads[0]) == pytest.approx([-600, -400, 2400, 600, 400, 2900])
    desk.undo()
    desk.run("add-pads", at=["A1"], length=1000, width=1000, depth=500, angle_deg=45)
    assert box(only(desk))[0] == pytest.approx(-1000 / math.sqrt(2), abs=0.01)


def test_a_wall_is_mitred_at_its_corner(desk: Desk) -> None:
    desk.run("add-wall", through=["A1", "A2", "B2"], thickness=200, base=0, height=2500)
    wall = only(desk)
    # centred on the line: 6000 and 5000 long, the corner counted once: 200 x (6000 + 5000), for the mitre adds what the overlap takes
    assert mesh(wall).volume == pytest.approx(200 * 11000 * 2500)
    assert box(wall) == pytest.approx([0, -100, 0, 6100, 5000, 2500])


def test_a_slab_with_an_opening(desk: Desk) -> None:
    desk.run("add-slab", corners=["A1:B3"], thickness=150, top="floor", openings=[[[1000, 1000], [2000, 3000]]])
    slab = only(desk)
    assert mesh(slab).volume == pytest.approx((12000 * 5000 - 1000 * 2000) * 150)
    assert box(slab) == pytest.approx([0, 0, 2850, 12000, 5000, 3000])


def test_a_stair(desk: Desk) -> None:
    title = desk.run("add-stair", start="A1", towards="B1", base=0, top=600, width=900, going=300, waist=100, steps=4)
    assert title == "Add a stair of 4 risers, 150.0 mm each"
    stair = only(desk)
    # seen from the side: a step i is 300 x 150 i, i = 1 to 3; the last riser stands without a tread, and the soffit cuts off
    # the triangle under the line that lies 100 square below the inner corners: 100 x sqrt(1 + 0.25) = 111.803 plumb below
    drop = 100 * math.sqrt(1 + 0.25)
    steps = 300 * 150 * (1 + 2 + 3)
    high = 3 * 150 - drop
    away = high * (high / 150 * 300) / 2
    assert mesh(stair).volume == pytest.approx((steps - away) * 900, rel=1e-6)
    assert box(stair) == pytest.approx([-450, 0, 0, 450, 900, 600])
    desk.undo()
    assert "16 risers, 187.5 mm" in desk.run("add-stair", start="A1", towards="A2", base=0, top="floor", width="1 m")


def test_timber(desk: Desk) -> None:
    desk.run("add-timber", start="A1 floor", end=[6000, 0, 3000], width=140, depth=360)
    assert box(only(desk)) == pytest.approx([0, -70, 2820, 6000, 70, 3180]) and mesh(only(desk)).volume == pytest.approx(140 * 360 * 6000)
    desk.undo()
    desk.run("add-timber", start="A1 floor", end=[6000, 0, 3000], width=140, depth=360, roll_deg=90)
    assert box(only(desk)) == pytest.approx([0, -180, 2930, 6000, 180, 3070])


def test_locked_until_unlocked(desk: Desk) -> None:
    desk.run("add-pads", at=["A1", "A2"], length=1000, width=1000, depth=500)
    desk.run("add-wall", through=["A1", "A2"], thickness=200, base=0, height=1000, name="back wall")
    for name, args in (("move-references", {"by": [0, 0, 100]}), ("delete-references", {})):
        with pytest.raises(TinCleatError, match="2 of them are locked"):
            desk.run(name, ids=["pad"], **args)
    desk.run("lock-references", ids=["pad"], locked=False)
    desk.run("move-references", ids=["pad"], by=[0, 0, "0.1 m"])
    assert [box(b)[5] for b in desk.project.references.values()] == pytest.approx([100, 100, 1000])
    desk.run("delete-references", ids=["pad"])
    assert only(desk).name == "back wall"
    again = Desk.open(desk.store.path)
    assert only(again).locked
    again.close()


@pytest.mark.parametrize(
    ("name", "args", "words"),
    [
        ("add-pads", {"at": [], "length": 1, "width": 1, "depth": 1}, "no place"),
        ("add-pads", {"at": ["Q9"], "length": 1000, "width": 1000, "depth": 500}, "no grid crossing"),
        ("add-pads", {"at": ["A1"], "length": 0, "width": 1000, "depth": 500}, "length"),
        ("add-wall", {"through": ["A1"], "thickness": 200, "base": 0, "height": 1000}, "two places"),
        ("add-wall", {"through": ["A1", "A1"], "thickness": 200, "base": 0, "height": 1000}, "no length"),
        ("add-slab", {"corners": ["A1"], "thickness": 100}, "two opposite corners"),
        ("add-slab", {"corners": [[0, 0], [5000, 5000], [5000, 0], [0, 5000]], "thickness": 100}, "sides cross"),
        ("add-slab", {"corners": ["A1:B2"], "thickness": 100, "openings": [[[0, 0], [9000, 100]]]}, "opening 1"),
        ("add-stair", {"start": "A1", "towards": "A1", "base": 0, "top": 3000, "width": 900}, "leads nowhere"),
        ("add-stair", {"start": "A1", "towards": "A2", "base": 0, "top": 300, "width": 900, "steps": 2, "waist": 300}, "no room"),
        ("add-stair", {"start": "A1", "towards": "A2", "base": 0, "top": "attic", "width": 900}, "no level"),
        ("add-timber", {"start": [0, 0, 0], "end": [0, 0, 0], "width": 100, "depth": 100}, "same point"),
        ("lock-references", {"ids": ["door"]}, "no reference body"),
    ],
)
def test_what_cannot_be_laid_says_why(desk: Desk, name: str, args: dict[str, Any], words: str) -> None:
    with pytest.raises(TinCleatError, match=words):
        desk.run(name, **args)
    assert not desk.project.references
