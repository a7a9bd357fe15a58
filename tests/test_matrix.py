"""Every family at hundreds of places, held to exact solids: nothing inside anything, bolts through their plies, welds on their
parts, and the same detail wherever the place is turned to or mirrored.

The overlaps are worked out here from fine meshes by the solids library itself, not by the rule that looks for clashes.
"""

import functools
import itertools
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import manifold3d
import numpy as np
import pytest
from sites import SITES, Site, place_name

from tincleat.commands.desk import Desk
from tincleat.details.bodies import Body, bodies
from tincleat.errors import TinCleatError
from tincleat.project.entities import HouseRules, inch_house

FAR = 60000.0  # mm from site to site
ABOUT = [FAR * 2, 0.0, 0.0]  # what their copies are turned about
MOST_SITES = 20  # in one project
SHARED = 1.0  # mm³ that two bodies may share


class Yard:
    """All sites in one project, with a copy of each that is turned and moved and one that is mirrored."""

    def __init__(self, path: Path, house: HouseRules, sites: list[Site]) -> None:
        self.desk = Desk.create(path, house)
        members: list[dict[str, Any]] = []
        first: list[int] = []
        for n, site in enumerate(sites):
            first.append(len(members))
            shift = np.array([0.0, FAR * n, 0.0])
            members += [{**m, "start": (np.array(m["start"]) + shift).tolist(), "end": (np.array(m["end"]) + shift).tolist()} for m in site.members]
        self.desk.run("add-members", members=members)
        ids = list(self.desk.project.members)
        self.refused: dict[str, str] = {}
        self.made: dict[str, list[str]] = {}
        belongs: list[str] = []  # the site of every member
        copied: list[str] = []  # members of sites where a detail was made
        for site, start in zip(sites, first, strict=True):
            names = []
            for number, where in site.at:
                names.append(place_name(number, where, ids[start:]))
            before = set(self.desk.project.connections)
            try:
                self.desk.run("place-connection", family=site.family, at=names, settings=site.typed)
            except TinCleatError as error:
                self.refused[site.name] = str(error)
                continue
            (made,) = set(self.desk.project.connections) - before
            self.made[site.name] = [made]
            copied += ids[start : start + len(site.members)]
            belongs += [site.name] * len(site.members)
        for deed, how in (("rotate-members", {"about": ABOUT, "angle_deg": 37.0, "copy": True}), ("mirror-members", {"line": [[-FAR * 3, 0, 0], [-FAR * 3, 1, 0]]})):
            before = set(self.desk.project.connections)
            self.desk.run(deed, ids=copied, **how)
            home = dict(zip(list(self.desk.project.members)[-len(copied) :], belongs, strict=True))
            for key in set(self.desk.project.connections) - before:
                self.made[home[self.desk.project.connections[key].member]].append(key)


@pytest.fixture(scope="module")
def yards(tmp_path_factory: pytest.TempPathFactory) -> Callable[[Site], Yard]:
    """The yard of a site: so many sites in one, for every command looks at all of its project."""
    path = tmp_path_factory.mktemp("yard")
    numbers = {s.name: (inch, n // MOST_SITES) for inch in (False, True) for n, s in enumerate(s for s in SITES if s.inch is inch)}

    @functools.cache
    def yard(inch: bool, part: int) -> Yard:
        return Yard(path / f"{inch}{part}.tincleat", inch_house("") if inch else HouseRules(), [s for s in SITES if numbers[s.name] == (inch, part)])

    return lambda site: yard(*numbers[site.name])


def solid(body: Body) -> "manifold3d.Manifold":
    return manifold3d.Manifold(manifold3d.Mesh64(vert_properties=np.ascontiguousarray(body.mesh.points), tri_verts=body.mesh.triangles.astype(np.uint64)))


def shared(found: list[Body]) -> Iterator[tuple[str, str, float]]:
    """Every two bodies with the volume they share: welds with each other, what is cast in concrete, and
    members that the place does not settle apart."""
    solids: dict[int, Any] = {}
    for a, b in itertools.combinations(found, 2):
        if "concrete" in (a.kind, b.kind) or (a.kind == b.kind == "weld") or {a.name, b.name} == {"column", "beam 1"} or (a.name == b.name and {a.kind, b.kind} == {"head", "shank"}):
            continue
        (a0, a1), (b0, b1) = a.box, b.box
        if (a0 < b1 - 0.01).all() and (b0 < a1 - 0.01).all():
            for x in (a, b):
                if id(x) not in solids:
                    solids[id(x)] = solid(x)
            yield f"{a.kind} {a.name}", f"{b.kind} {b.name}", float((solids[id(a)] ^ solids[id(b)]).volume())


def test_there_are_sites_enough() -> None:
    assert len(SITES) >= 300 and len({s.name for s in SITES}) == len(SITES)
    assert {s.family for s in SITES} == {"base-plate", "fin-plate", "end-plate", "angle-cleats", "bracing-gusset", "stiffeners", "purlin-cleat", "cap-plate", "splice-covers", "seat-cleat", "flange-plates", "tube-sleeve", "web-opening", "edge-angle", "flange-gusset", "stitch", "trimmer-cleat", "slab-head", "rod-through", "sag-rods", "welded-moment", "tube-joint", "tube-mitre", "turnbuckle", "timber-seat", "welded-splice", "cover-plates", "tube-end-plate", "cap-and-base", "wall-bearing", "stringer-foot", "stringer-head", "post-side", "slab-side", "loose"}


@pytest.mark.parametrize("site", SITES, ids=[f"{s.family}: {s.name}" for s in SITES])
def test_nothing_is_wrong_with_it(yards: Callable[[Site], Yard], site: Site) -> None:
    yard = yards(site)
    assert site.name not in yard.refused, yard.refused[site.name]
    entries = [yard.desk.ledger.entry_of(c) for c in yard.made[site.name]]
    entry = entries[0]
    assert entry.made is not None, entry.problem
    found = list(bodies(entry.made.assembled, 8, drilled=True, reach=1500.0))
    bad = [(a, b, round(v, 1)) for a, b, v in shared(found) if v > SHARED]
    assert not bad, bad
    for f in entry.made.assembled.fitted:
        assert len(f.plies) >= 2 and all(p.hole is not None for p in f.plies)
    for tie, through in zip(entry.made.detail.ties, entry.made.assembled.tied, strict=True):
        held = 1 if site.family == "slab-side" else 2  # one end is set in concrete
        assert len(through) >= held and all(p.hole is not None for p in through) if tie.nuts else not through, tie.name
    # an end that is settled is cut where the steel of the case begins, wherever its line was drawn to
    if site.family not in ("purlin-cleat", "cap-plate"):
        for member, _ in entry.joint.ends:
            assert any(c.member == entry.joint.members.index(member) for c in entry.made.detail.ends), member
    # what is upward in the world is upward on paper, in every view that looks level at the place; a lopsided bar that lies upside down takes its place's frame along
    for place in (e for e in entries if e.joint.frame.z[2] > -0.05):
        for v in place.made.detail.views if place.made is not None else ():
            if v.title in ("Front", "Side", "Plate", "End", "Across", "Along the trimmer"):
                assert place.joint.frame.at(v.frame).y[2] > -0.05, (v.title, place.joint.frame.at(v.frame).y)
    # a weld's two faces are told by directions of length one
    for w in entry.made.detail.welds:
        assert np.allclose(np.linalg.norm([w.u, w.v], axis=1), 1.0), w.name
    levels = {f.rule for f in entry.findings if f.level == "breach"}
    assert levels <= site.breaks, [(f.rule, f.part, f.actual, f.required) for f in entry.findings if f.level == "breach"]
    # turned about the plumb line and mirrored it is the same detail, and lies where it has to
    assert len(entries) == 3, "a copy did not bring its connection along"
    points = world(entry)
    about = np.array(ABOUT)
    c, s = np.cos(np.radians(37.0)), np.sin(np.radians(37.0))
    turned = (points - about) @ np.array([[c, s, 0], [-s, c, 0], [0, 0, 1]]) + about
    mirrored = points * (-1, 1, 1) + (-FAR * 6, 0, 0)
    for other, expected in ((entries[1], turned), (entries[2], mirrored)):
        assert other.joint.case == entry.joint.case
        assert same(world(other), expected)


def world(entry: Any) -> np.ndarray:
    """Corners of plates, pieces and welds (or of openings alone), ends and nuts of ties, rods with their washers, holes in members, and the places of bolts, in the world (n, 3); which way round a bolt is put in is nobody's hand."""
    found = [b.mesh.points for b in bodies(entry.made.assembled, 1, reach=1.0) if b.kind in ("plate", "piece", "weld")]
    found += [np.array([f.point for f in entry.made.assembled.fitted]).reshape(-1, 3)]
    found += [t.frame.to_world(np.array([(0.0, 0.0, 0.0), (t.length, 0.0, 0.0), *((x, 0.0, 0.0) for x, _ in t.nuts)])) for t in entry.made.detail.ties]
    found += [r.stand.to_world(np.array([(x * r.washer[0] / 2, y * r.washer[0] / 2, z) for x in (-1, 1) for y in (-1, 1) for z in (r.bottom, r.top)])) for r in entry.made.detail.rods]
    found += [np.array([h.point for h in entry.made.detail.holes]).reshape(-1, 3)]
    found += [f.mesh(1, False).points for f in entry.made.detail.fittings]
    for n in entry.made.detail.notches if not found[0].size else ():  # a place where nothing is made, only taken away
        flat = n.outline.points(0.5)
        found += [n.frame.to_world(np.column_stack([flat, np.full(len(flat), z)])) for z in (0.0, n.depth)]
    return entry.joint.frame.to_world(np.concatenate(found))


def same(a: np.ndarray, b: np.ndarray) -> bool:
    """Whether two clouds of points lie on each other, to a tenth of a millimetre."""
    if len(a) != len(b):
        return False
    from scipy.spatial import cKDTree

    return bool(cKDTree(a).query(b)[0].max() < 0.1 and cKDTree(b).query(a)[0].max() < 0.1)
