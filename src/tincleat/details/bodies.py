"""A detail as named bodies: the one place where parts become meshes, for clash, drawing, lists and files alike."""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np
import shapely
from shapely.geometry import Polygon

from tincleat.catalogue.sections import Section
from tincleat.details.assembled import Assembled, plate_mesh, rod_mesh, role_words, tie_bodies
from tincleat.details.bolting import bolt_bodies
from tincleat.details.parts import Detail, Plate, Plug, Weld
from tincleat.geometry.frames import Array, Frame, crossed_rows
from tincleat.geometry.mesh import Mesh, prism, ring_prism
from tincleat.lazy import lazy
from tincleat.steel.body import cover, rings, steel_mesh
from tincleat.steel.cuts import Cuts
from tincleat.steel.flattened import flats_of

ROUND = 4  # chords a quarter turn of bodies that are looked at for what they share
REACH = 4000.0  # mm of the members round a joint that are looked at, at most
Kind = Literal["member", "plate", "piece", "head", "shank", "rod", "weld", "plug", "concrete"]


@dataclass(frozen=True, eq=False)
class Body:
    """One solid of a detail in the joint's frame: what it is, whose, and the names of the parts it belongs to or joins.

    Heads and shanks are of one bolt each and belong to its plies, a rod to the plates that have a hole where it stands; a weld, a plug among
    them, belongs to both parts it joins.
    """

    kind: Kind
    name: str
    owners: tuple[str, ...]
    mesh: Mesh
    ways: Array  # (k, 3) directions square to its faces, in which it may lie clear of another
    hulls: tuple[Array, ...] = ()  # corners (n, 3) of convex bodies that together hold it; none: its own
    bar: "tuple[Section, Frame] | None" = None  # the section that it is a length of, and where, if it lies in that all along

    @property
    def covers(self) -> tuple[Array, ...]:
        """Corners (n, 3) of convex bodies that together hold it."""
        return self.hulls or (self.mesh.points,)

    def placed(self, at: Frame, owners: tuple[str, ...]) -> "Body":
        """The same body given in a frame, in that frame's outer one; ``owners`` are its own there."""
        bar = (self.bar[0], at.at(self.bar[1])) if self.bar else None
        return Body(self.kind, self.name, owners, self.mesh.placed(at), at.turn(self.ways), tuple(at.to_world(h) for h in self.hulls), bar)

    @lazy
    def box(self) -> tuple[Array, Array]:
        """Least and greatest corner, mm."""
        return self.mesh.points.min(axis=0), self.mesh.points.max(axis=0)


def bare(cuts: Cuts) -> Cuts:
    """Cuts without their holes, where those are not cut out anyhow."""
    return Cuts(cuts.ends, cuts.notches) if cuts.holes else cuts


@lru_cache(maxsize=1024)
def _bar(shape: Section, frame: Frame, cuts: Cuts, low: float, high: float, per_arc: int, drilled: bool) -> tuple[Mesh, Array, tuple[Array, ...], tuple[Section, Frame] | None]:
    """A member's or piece's mesh, directions and covers: most changes of a detail leave most bars as they are, and their solids with them."""
    even = None if shape.h_end or flats_of(cuts) else (shape, frame)
    return steel_mesh(shape, cuts, low, high, per_arc, drilled).placed(frame), frame.axes, tuple(frame.to_world(h) for h in cover(shape, cuts, low, high)), even


@lru_cache(maxsize=512)
def profile(shape: Section) -> Polygon:
    """A section as bodies that are looked at for what they share have it, ready to be asked of again and again."""
    outer, *inner = rings(shape, ROUND)
    found = Polygon(outer, inner)
    shapely.prepare(found)
    return found


def member_body(a: Assembled, number: int, per_arc: int, drilled: bool = False, reach: float = REACH) -> Body:
    """A member's steel within ``reach`` mm of the joint, with all that is cut off it; with its holes if ``drilled``."""
    m, cuts = a.case.members[number], a.cuts(number)
    name = role_words(m.role)
    return Body("member", name, (name,), *_bar(m.shape, m.frame, cuts if drilled else bare(cuts), max(m.low, -reach), min(m.high, reach), per_arc, drilled))


def bodies(a: Assembled, per_arc: int = 3, drilled: bool = False, reach: float = 1e9) -> Iterator[Body]:
    """All bodies of a detail with its members (their steel within ``reach`` mm of the joint); plates and members with their
    holes if ``drilled``."""
    for number in range(len(a.case.members)):
        yield member_body(a, number, per_arc, drilled, reach)
    yield from part_bodies(a, per_arc, drilled)


def part_bodies(a: Assembled, per_arc: int, drilled: bool = False) -> Iterator[Body]:
    """All bodies of a detail without its members."""
    d = a.detail
    for p in d.plates:
        yield Body("plate", p.name, (p.name,), plate_mesh(p, per_arc, drilled), _square_to(p))
    for b in d.bents:
        yield Body("plate", b.name, (b.name,), b.mesh(per_arc, drilled), np.array([b.frame.y, *(leg.frame.z for leg in b.legs), *(leg.frame.x for leg in b.legs)]), b.covers)
    for f in d.fittings:
        yield Body("piece", f.name, (f.name,), f.mesh(per_arc, drilled), f.ways, f.covers)
    for piece in d.pieces:
        yield Body("piece", piece.name, (piece.name,), *_bar(piece.shape, piece.frame, piece.cuts if drilled else bare(piece.cuts), 0.0, piece.length, per_arc, drilled))
    for fitted in a.fitted:
        group = d.bolts[fitted.group]
        head, nut, shank = bolt_bodies(group, fitted)
        name = f"{group.name}, {fitted.number + 1}"
        plies = tuple(dict.fromkeys(a.plies[p.ply].owner for p in fitted.plies))
        along = np.array([group.axis])
        for end in (head, nut):
            if len(end.points):
                yield Body("head", name, plies, end, along)
        yield Body("shank", name, plies, shank, along)
    yield from weld_bodies(d.welds)
    for plug in d.plugs:
        yield Body("plug", plug.name, plug.parts, plug_mesh(plug, max(per_arc, 3)), plug.frame.axes)
    for tie, through in zip(d.ties, a.tied, strict=True):
        bar, nuts = tie_bodies(tie)
        passed = tuple(dict.fromkeys(a.plies[p.ply].owner for p in through))
        along = np.array([tie.frame.x])
        yield Body("shank", tie.name, passed, bar, along)
        for nut in nuts:
            yield Body("head", tie.name, passed, nut, along)
    for r, through in zip(d.rods, a.anchored, strict=True):
        yield Body("rod", r.name, tuple(dict.fromkeys(a.plies[p.ply].owner for p in through if p.hole is not None)), rod_mesh(r), UPRIGHT)
    for block in d.blocks:
        yield Body("concrete", block.name, (block.name,), prism(block.outline, (), 0.0, block.thickness, per_arc).placed(block.frame), block.frame.axes)


@lru_cache(maxsize=8)
def solid(a: Assembled) -> tuple[Body, ...]:
    """The bodies of a detail as they are looked at for what they share, made once for all that ask of it."""
    return (*(member_body(a, number, ROUND) for number in range(len(a.case.members))), *solid_parts(a))


@lru_cache(maxsize=8)
def solid_parts(a: Assembled) -> tuple[Body, ...]:
    """Those of them that are no member's."""
    return tuple(part_bodies(a, ROUND))


def passing_body(shape: Section, at: Frame, low: float, high: float, cuts: Cuts, per_arc: int) -> Body:
    """A member that is none of a joint's, as its details meet it: steel between two stations of the frame, with what is cut off it."""
    return Body("member", shape.name, (), *_bar(shape, at, bare(cuts), low, high, per_arc, False))


UPRIGHT = np.array([(0.0, 0.0, 1.0)])


TROUGH = np.array([[0, 2, 1], [0, 3, 2], [4, 5, 6], [4, 6, 7], [0, 1, 5], [0, 5, 4], [1, 2, 6], [1, 6, 5], [2, 3, 7], [2, 7, 6], [3, 0, 4], [3, 4, 7]], dtype=np.int32)
WEDGE = np.array([[0, 2, 1], [3, 4, 5], [0, 1, 4], [0, 4, 3], [1, 2, 5], [1, 5, 4], [2, 0, 3], [2, 3, 5]], dtype=np.int32)


def plug_mesh(plug: Plug, per_arc: int) -> Mesh:
    """The body of a plug or slot weld in the joint frame."""
    return prism(plug.outline, (), 0.0, plug.depth, per_arc).placed(plug.frame)


def weld_bodies(welds: tuple[Weld, ...]) -> Iterator[Body]:
    """Welds as prisms of three sides, or of four where a groove opens at its root, with the directions square to both legs, the face and the ends."""
    for w in welds:
        if w.radius:
            yield _round_rooted(w)
    welds = tuple(w for w in welds if not w.radius)
    for faces, some in ((WEDGE, [w for w in welds if not w.opening]), (TROUGH, [w for w in welds if w.opening])):
        if not some:
            continue
        start, end, u, v = np.array([(w.start, w.end, w.u, w.v) for w in some]).swapaxes(0, 1)
        run = end - start
        if faces is WEDGE:
            leg = np.array([w.leg for w in some])[:, None]
            section = np.stack([np.zeros_like(u), leg * u, leg * v], axis=1)
        else:
            section = np.array([w.section for w in some])
        corners = np.concatenate([start[:, None] + section, end[:, None] + section], axis=1)
        outward = np.einsum("ij,ij->i", crossed_rows(u, v), run) >= 0
        c = np.einsum("ij,ij->i", u, v)[:, None]
        face = u + v if faces is WEDGE else np.where(np.array([w.vee for w in some])[:, None], u + v, u)
        ways = np.stack([v - c * u, u - c * v, face, run], axis=1)
        ways /= np.maximum(np.sqrt(np.einsum("kij,kij->ki", ways, ways)), 1e-9)[:, :, None]
        inward = faces[:, ::-1]
        for w, points, out, way in zip(some, corners, outward.tolist(), ways, strict=True):
            yield Body("weld", w.name, w.parts, Mesh(points, faces if out else inward), way)


def _round_rooted(w: Weld) -> Body:
    """The body of a weld in a U or J groove."""
    run = np.subtract(w.end, w.start)
    at = Frame.of(w.start, w.u, run)
    ring = at.unturn(np.array(w.section))[:, :2]
    twice = float((ring[:, 0] * np.roll(ring[:, 1], -1) - np.roll(ring[:, 0], -1) * ring[:, 1]).sum())
    mesh = ring_prism([ring if twice > 0 else ring[::-1]], 0.0, float(np.linalg.norm(run))).placed(at)
    return Body("weld", w.name, w.parts, mesh, np.array([at.x, at.y, at.z]))


def _square_to(p: Plate) -> Array:
    """Directions square to a plate's faces and straight edges (k, 3)."""
    flat = [(x, y) for x, y, _ in p.outline.vertices]
    ways = {(0.0, 0.0, 1.0)}
    for (ax, ay), (bx, by) in zip(flat, flat[1:] + flat[:1], strict=True):
        size = math.hypot(bx - ax, by - ay)
        if size > 1.0:
            n = ((by - ay) / size, (ax - bx) / size, 0.0)
            ways.add(n if n > (0.0, 0.0, 0.0) else (-n[0], -n[1], 0.0))
    return p.frame.turn(np.array(sorted(ways)))


def zone_corners(d: Detail) -> list[Array]:
    """Corners (8, 3) of the boxes that a detail's zones fill."""
    out = []
    for z in d.zones:
        x0, y0, x1, y1 = z.outline.bounds
        out.append(z.frame.to_world([(x, y, h) for x in (x0, x1) for y in (y0, y1) for h in (0.0, z.thickness)]))
    return out


def box_of(a: Assembled, margin: float = 0.0) -> tuple[Array, Array]:
    """Least and greatest corner (3,) of a detail's own parts and zones, members left out, mm."""
    found = [b.mesh.points for b in solid_parts(a) if b.kind != "concrete"] + zone_corners(a.detail)
    if not found:
        return np.full(3, np.nan), np.full(3, np.nan)
    points = np.concatenate(found)
    return points.min(axis=0) - margin, points.max(axis=0) + margin
