"""A frame turned about any axis, not only the plumb line, gives the same details turned with it: what a joint is follows from how its
members stand to each other.  Only what stands on level ground, or is called by the plumb line, follows that."""

import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from scipy.spatial.transform import Rotation
from sites import SITES, Site, place_name
from test_matrix import same, world

from tincleat.commands.desk import Desk
from tincleat.errors import TinCleatError
from tincleat.geometry.frames import Array
from tincleat.project.entities import HouseRules, inch_house
from tincleat.project.members import axis_frame, depth

LEVEL = {"base-plate", "wall-bearing", "stringer-foot", "post-side", "slab-head", "slab-side"}  # their plates lie level, or their posts stand plumb
FAR = 60000.0  # mm from site to site
EVERY = 4  # so many-th of a family's sites


def chosen() -> list[Site]:
    """A share of every family's sites, those left out that stand on level ground."""
    seen: dict[str, int] = {}
    out = []
    for site in SITES:
        n = seen[site.family] = seen.get(site.family, -1) + 1
        if site.family not in LEVEL and n % EVERY == 0:
            out.append(site)
    return out


def turned(member: dict[str, Any], own: Any, turn: Array) -> dict[str, Any]:
    """A member turned as a whole: its line, and the roll at which its depth lies where it has to."""
    start, end = turn @ np.array(own.start), turn @ np.array(own.end)
    x = (end - start) / np.linalg.norm(end - start)
    level = np.array(depth(x, own.up))
    level = level - x * (level @ x)
    level /= np.linalg.norm(level)
    z = turn @ np.array(axis_frame(own).z)
    return {**member, "start": start.tolist(), "end": end.tolist(), "roll_deg": math.degrees(math.atan2(-float(z @ np.cross(level, x)), float(z @ level)))}


class Plain:
    """The sites of one system of units as they are, with what each is named by and what was made of it."""

    def __init__(self, path: Path, inch: bool) -> None:
        self.some = [s for s in chosen() if s.inch is inch]
        self.shifts = [np.array([0.0, FAR * n, 0.0]) for n in range(len(self.some))]
        self.desk = Desk.create(path, inch_house("") if inch else HouseRules())
        self.desk.run("add-members", members=[{**m, "start": (np.array(m["start"]) + s).tolist(), "end": (np.array(m["end"]) + s).tolist()} for site, s in zip(self.some, self.shifts, strict=True) for m in site.members])
        self.members = list(self.desk.project.members.values())
        ids, first = [m.id for m in self.members], 0
        self.names = []
        for site in self.some:
            self.names.append([place_name(n, w, ids[first:]) for n, w in site.at])
            first += len(site.members)
        self.made = [placed(self.desk, site, names) for site, names in zip(self.some, self.names, strict=True)]


@pytest.fixture(scope="module")
def plains(tmp_path_factory: pytest.TempPathFactory) -> list[Plain]:
    """Both systems' sites, made once for all angles."""
    path = tmp_path_factory.mktemp("plain")
    return [Plain(path / f"{inch}.tincleat", inch) for inch in (False, True)]


@pytest.mark.parametrize("angle", [5.0, 11.0, 17.0])
def test_turned_about_any_axis_it_is_the_same_detail(tmp_path: Path, plains: list[Plain], angle: float) -> None:
    chance = np.random.default_rng(int(angle))
    alike = kinds = 0
    for number, plain in enumerate(plains):
        other = Desk.create(tmp_path / f"{number}.tincleat", plain.desk.project.house)
        turns = [Rotation.from_rotvec(a / np.linalg.norm(a) * math.radians(angle)).as_matrix() for a in chance.normal(size=(len(plain.some), 3))]
        own = iter(plain.members)
        about = [(turn, s - turn @ s) for turn, s in zip(turns, plain.shifts, strict=True)]  # each about its own site's origin
        made = []
        for site, (turn, back) in zip(plain.some, about, strict=True):
            for m in site.members:
                t = turned(m, next(own), turn)
                made.append({**t, "start": (np.array(t["start"]) + back).tolist(), "end": (np.array(t["end"]) + back).tolist()})
        other.run("add-members", members=made)
        for site, names, one, (turn, back) in zip(plain.some, plain.names, plain.made, about, strict=True):
            two = placed(other, site, names)
            if isinstance(two, str) or one.joint.kind != two.joint.kind:
                # a ridge is one because both its members fall away from it, a corner lies level, and a knee's rafter slopes
                called = {one.joint.kind} | (set() if isinstance(two, str) else {two.joint.kind})
                assert called & {"apex", "corner", "knee"} or "is a knee" in str(two), (site.name, two)
                kinds += 1
                continue
            assert one.made is not None and two.made is not None, site.name
            assert same(world(one) @ turn.T + back, world(two)), site.name
            alike += 1
        other.close()
    assert alike > 200 and kinds < 0.05 * alike, (alike, kinds)


def placed(desk: Desk, site: Site, names: list[str]) -> Any:
    """The entry of a site's connection; words where it is refused."""
    before = set(desk.project.connections)
    try:
        desk.run("place-connection", family=site.family, at=names, settings=site.typed)
    except TinCleatError as refused:
        return str(refused)
    (made,) = set(desk.project.connections) - before
    return desk.ledger.entry_of(made)


@pytest.mark.parametrize("section", ["HEB 300", "IPE 400"])
def test_which_way_a_column_leans_does_not_turn_its_splice_over(tmp_path: Any, section: str) -> None:
    """The grooves' backing lies on the same side of the web whether the column stands plumb or leans a little to any side."""
    sides = set()
    for n, (dx, dy) in enumerate(((0.0, 0.0), (0.7, 0.0), (-0.7, 0.0), (0.0, 0.7), (40.0, -3.0), (-40.0, 3.0))):
        desk = Desk.create(tmp_path / f"{n}.tincleat", HouseRules())
        low, high = {"start": [-dx, -dy, 0.0], "end": [0.0, 0.0, 3000.0]}, {"start": [0.0, 0.0, 3000.0], "end": [dx, dy, 6000.0]}
        desk.run("add-members", members=[{"section": section, "role": "column", **part} for part in (low, high)])
        desk.run("place-connection", family="welded-splice", at=["m2.start"])
        entry = desk.ledger.entry_of(next(iter(desk.project.connections)))
        assert entry.made is not None
        web = next(p for p in entry.made.detail.plates if p.name == "backing, web")
        x0, y0, x1, y1 = web.outline.bounds
        middle = web.frame.to_world([((x0 + x1) / 2, (y0 + y1) / 2, web.thickness / 2)])
        sides.add(bool(entry.joint.frame.to_world(middle)[0, 1] > 0))
        desk.close()
    assert len(sides) == 1
