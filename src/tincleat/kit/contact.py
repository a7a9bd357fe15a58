"""Bodies cut by a plane, and plates fitted between what a plane shows: outlines that clear steel and edges that stand on it."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely
from shapely.geometry import LineString, MultiPoint, Polygon

from tincleat.geometry.frames import Array, Frame
from tincleat.geometry.mesh import sliced
from tincleat.joints.case import CaseMember
from tincleat.steel.body import steel_mesh
from tincleat.steel.cuts import NONE, Cuts

REACH = 1500.0
ROUND = 4
TOUCH = 0.05  # mm an edge may lie off a face and still stand on it


@lru_cache(maxsize=2048)
def shadow(member: CaseMember, frame: Frame, heights: tuple[float, ...], cuts: Cuts = NONE) -> Polygon:
    """What a member's body covers of a frame's x-y plane at some heights over it, united; its own cuts and ``cuts`` (in the member's frame) off."""
    body = steel_mesh(member.shape, member.cuts + cuts, max(member.low, -REACH), min(member.high, REACH), ROUND).placed(frame.inside(member.frame))
    return shapely.union_all([p for h in heights for p in sliced(body, h)])


@dataclass(frozen=True)
class Edge:
    """A side of a plate's outline that stands on a body: which one, from where to where (2,), and the way off it into the plate."""

    body: int
    start: Array
    end: Array
    into: Array

    @property
    def length(self) -> float:
        """Its length, mm."""
        return float(np.hypot(*(self.end - self.start)))


def standing(plate: Polygon, bodies: Sequence[Polygon], least: float) -> list[Edge]:
    """The sides of a plate that stand on bodies along at least ``least`` mm, in order round the plate."""
    ring = np.asarray(shapely.orient_polygons(plate).exterior.coords)[:, :2]
    out = []
    for a, b in zip(ring[:-1], ring[1:], strict=True):
        line = LineString([a, b])
        if line.length < least:
            continue
        for i, body in enumerate(bodies):
            if not body.is_empty and max(body.distance(shapely.Point(p)) for p in (a, (a + b) / 2, b)) <= TOUCH and line.intersection(body).length <= line.length + 1:
                way = (b - a) / line.length
                out.append(Edge(i, a, b, np.array([-way[1], way[0]])))
                break
    return out


def piece_at(flat: Polygon, spot: Array) -> Polygon:
    """Of an outline that may have fallen apart, the piece at or nearest to a point (2,); empty if nothing is left."""
    pieces = [p for p in getattr(flat, "geoms", [flat]) if isinstance(p, Polygon) and not p.is_empty]
    return min(pieces, key=lambda p: (round(p.distance(shapely.Point(spot)), 3), -p.area), default=Polygon())


def plate_round(points: Array, steel: Sequence[Polygon], holds: Array, snipe: float) -> Polygon:
    """The convex outline round points (n, 2) less the steel it would run into; of several pieces the one that holds ``holds`` (2,).

    Where two bodies meet at an inner corner it is sniped clear of it.
    """
    hull = MultiPoint(points).convex_hull
    left = hull
    for body in steel:
        left = left.difference(body)
    found = piece_at(left, holds)
    if snipe and len(steel) > 1 and not found.is_empty:
        # steel that is cut in a plane just touching it brings loose points and lines along: only its faces have edges
        edges = [shapely.union_all([p.boundary for p in getattr(b, "geoms", [b]) if isinstance(p, Polygon)]) for b in steel]
        for i, first in enumerate(edges):
            for second in edges[i + 1 :]:
                corner = first.intersection(second).intersection(found.boundary.buffer(0.5))
                for p in getattr(corner, "geoms", [corner]):
                    if not p.is_empty:
                        found = found.difference(p.centroid.buffer(snipe, quad_segs=1))
    return shapely.remove_repeated_points(found.simplify(0.01), 0.02) if not found.is_empty else found
