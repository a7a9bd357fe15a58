"""The flats that the proof measures are what a solids library finds where it slices the bodies in their middle planes: plates, pieces and
elements of members, with all that is cut off them, at places of every family."""

import functools
from typing import Any

import manifold3d
import numpy as np
import pytest
import shapely
from shapely.geometry import Polygon
from sites import SITES
from test_settings import plain_sites, site_made

from tincleat.details.assembled import Assembled, Ply
from tincleat.details.bodies import bodies
from tincleat.geometry.frames import Frame

FAMILIES = sorted({s.family for s in SITES})
EVERY = 7  # of a family's places one in so many
FAR = 1e5
TRUE, ROUND = 0.25, 0.6  # mm; of what is round, or cut to something round, chords are measured on both sides
CURVED = ("flange-plates", "tube-joint", "web-opening")


def sliced(mesh: Any, frame: Frame, height: float) -> Polygon:
    """A body cut in a plane over a frame's own, by the library, in the frame's x and y."""
    body = manifold3d.Manifold(manifold3d.Mesh64(vert_properties=np.ascontiguousarray(frame.to_local(mesh.points)), tri_verts=mesh.triangles.astype(np.uint64)))
    rings = [Polygon(p).buffer(0) for p in body.slice(height).to_polygons()]
    return functools.reduce(lambda a, b: a.symmetric_difference(b), rings, Polygon())


def compared(a: Assembled, ply: Ply, found: dict[str, list[Any]]) -> tuple[float, float] | None:
    """How far (mm) a ply reaches where no steel is, and steel where no ply is, as areas over its length; between its rounded edges."""
    plate = next((p for p in a.detail.plates if p.name == ply.owner), None)
    # legs end in a bend, cheeks lie beside another of one body, what a U or J groove takes off an edge its weld fills
    if ply.timber or ply.element.startswith(("leg", "cheek")) or (plate is not None and plate.scoops):
        return None
    if ply.member >= 0:
        m = a.case.members[ply.member]
        shape, meshes = m.shape, [a.member_mesh(ply.member, m.low, m.high, 16)]
    else:
        shape = next((p.shape for p in a.detail.pieces if p.name == ply.owner), None)
        meshes = [b.mesh for b in found.get(ply.owner, ())]
    element = next((e for e in shape.elements if e.name == ply.element), None) if shape is not None else None
    if not meshes or not meshes[0].points.size or (shape is not None and (element is None or shape.shape == "CHS")):
        return None
    true = functools.reduce(lambda p, q: p.union(q), (sliced(mesh, ply.frame, ply.thickness / 2) for mesh in meshes))
    low, high = -FAR, FAR
    if element is not None and shape is not None:
        inset = max(shape.r1, shape.r2, shape.tw) + 2.0
        low, high = element.low + inset, element.high - inset
    strip = shapely.box(-FAR, low, FAR, high)
    mine, steel = ply.polygon.intersection(strip), true.intersection(strip)
    size = max(mine.length / 2, 1.0)
    return mine.difference(steel).area / size, steel.difference(mine).area / size


@pytest.mark.parametrize("family", FAMILIES)
def test_what_is_measured_is_what_is_there(family: str) -> None:
    seen, bad = 0, []
    for site in plain_sites(family)[::EVERY]:
        a = site_made(site.name).assembled
        found: dict[str, list[Any]] = {}
        for b in bodies(a, 16, drilled=False, reach=1.0):
            if b.kind in ("plate", "piece"):
                found.setdefault(b.name, []).append(b)
        for ply in a.plies:
            off = compared(a, ply, found)
            seen += off is not None
            if off is not None and max(off) > (ROUND if family in CURVED else TRUE):
                bad.append((site.name, ply.name, off))
    assert not bad, bad
    assert seen or family in ("turnbuckle", "tube-mitre")


@pytest.mark.parametrize("family", [f for f in FAMILIES if f != "turnbuckle"])  # whose bar is two
def test_what_is_cut_stays_in_one_piece(family: str) -> None:
    bad = []
    for site in plain_sites(family)[:: 1 if family == "tube-joint" else 3]:
        a = site_made(site.name).assembled
        for number, m in enumerate(a.case.members):
            if not a.cuts(number).notches:
                continue
            mesh = a.member_mesh(number, m.low, m.high, 4)
            body = manifold3d.Manifold(manifold3d.Mesh64(vert_properties=np.ascontiguousarray(mesh.points), tri_verts=mesh.triangles.astype(np.uint64)))
            loose = sorted(p.volume() for p in body.decompose())[:-1]
            if sum(loose) > 1.0:
                bad.append((site.name, m.role, loose))
    assert not bad, bad
