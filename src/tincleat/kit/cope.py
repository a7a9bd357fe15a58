"""Where a member's end must be notched so that it clears what it runs up to: from the true bodies, not from their sizes."""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from tincleat.catalogue.sections import Element
from tincleat.geometry.frames import Array, Frame, Vec3
from tincleat.geometry.mesh import Mesh, common_boxes, ring_prism
from tincleat.geometry.outline import Outline
from tincleat.joints.case import CaseMember
from tincleat.steel.body import steel_mesh
from tincleat.steel.cuts import Notch

JUST = 0.05  # mm off the face from which an obstacle is looked for: roots that start at the face are seen whole, noise is not
BESIDE = 1.0  # mm round a member's elements that count as being in its way
ROUND = 6  # chords a quarter turn of the obstacle's roots
REACH = 600.0


@dataclass(frozen=True)
class Way:
    """What stands in the way of a member's end, in its own frame (mm): how deep from the top and from the bottom its steel has to
    go, how far along, and what height of its web is left."""

    top: float
    bottom: float
    top_length: float
    bottom_length: float
    low: float
    high: float

    @property
    def clear(self) -> float:
        """Height of web that nothing stands in the way of, mm."""
        return self.high - self.low


@lru_cache(maxsize=4096)
def in_the_way(member: CaseMember, obstacle: CaseMember, point: Vec3, normal: Vec3, clearance: float, past: float) -> Way:
    """How a member that ends at a face (a point and the normal towards the member, in the joint's frame) has to be notched round an obstacle.

    ``clearance`` is kept over and under the obstacle, its root included, ``past`` along the member beyond it.
    """
    shape, own = member.shape, member.frame
    at, n = own.to_local(np.array([point]))[0], own.unturn(normal)
    n, at = (n, at) if n[0] * np.sign(member.high + member.low) > 0 else (-n, at)
    body = steel_mesh(obstacle.shape, obstacle.cuts, max(obstacle.low, -REACH), min(obstacle.high, REACH), ROUND).placed(own.inside(obstacle.frame))
    way = 1.0 if n[0] > 0 else -1.0  # along x into the steel that stays
    half, root, flange = shape.h / 2, shape.root, shape.root - shape.r1
    low, high = -half + root, half - root
    top = bottom = top_length = bottom_length = 0.0

    def met(y: tuple[float, float], z: tuple[float, float]) -> list[Array]:
        x = sorted((at[0] - way * (abs(n[1]) * shape.b + abs(n[2]) * shape.h) / max(abs(n[0]), 0.1) * 0.5 - way * 5.0, way * REACH))
        box = _box((x[0], x[1]), (y[0] - BESIDE, y[1] + BESIDE), (z[0] - BESIDE, z[1] + BESIDE))
        return common_boxes(box, body, at + n * JUST, n)

    def far(b: Array) -> float:
        return float(b[1, 0] if way > 0 else -b[0, 0]) + past

    for e in shape.elements:
        if e.normal == "z":
            for b in met((e.low, e.high), (half - flange, half) if e.at > 0 else (-half, -half + flange)):
                if e.at > 0:
                    top, top_length = max(top, root), max(top_length, far(b))
                else:
                    bottom, bottom_length = max(bottom, root), max(bottom_length, far(b))
    web = web_of(shape.elements)
    if web is not None:
        for b in met((web.at - web.thickness / 2, web.at + web.thickness / 2), (-half, half)):
            if (b[0, 2] + b[1, 2]) / 2 > 0:
                high, top_length = min(high, float(b[0, 2]) - clearance), max(top_length, far(b))
                top = max(top, half - high, root)
            else:
                low, bottom_length = max(low, float(b[1, 2]) + clearance), max(bottom_length, far(b))
                bottom = max(bottom, half + low, root)
    return Way(top, bottom, top_length, bottom_length, low, high)


def web_of(elements: tuple[Element, ...]) -> Element | None:
    """The web among a section's elements, if it has one."""
    return next((e for e in elements if e.name == "web"), None)


def notch(member: CaseMember, number: int, side: str, depth: float, length: float, radius: float) -> Notch:
    """A notch of a member's upper or lower corner at its end, right through, with a rounded inner corner; in the joint's frame.

    ``length`` runs along the member from the joint's origin, ``depth`` from its top or bottom.
    """
    shape, half = member.shape, member.shape.h / 2
    width = shape.b + 20
    way = 1.0 if member.high >= -member.low else -1.0
    frame = member.frame.at(Frame((0.0, width / 2, 0.0), (1.0, 0.0, 0.0), (0.0, -1.0, 0.0)))
    if side == "top":
        points, radii = [(-400.0, half - depth), (length, half - depth), (length, half + 20), (-400.0, half + 20)], [0.0, radius, 0.0, 0.0]
    else:
        points, radii = [(-400.0, -half - 20), (length, -half - 20), (length, -half + depth), (-400.0, -half + depth)], [0.0, 0.0, radius, 0.0]
    if way < 0:
        points, radii = [(-x, z) for x, z in points[::-1]], radii[::-1]
    return Notch(f"{side} notch", number, frame, Outline.rounded(points, radii), width)


def _box(x: "tuple[float, float]", y: "tuple[float, float]", z: "tuple[float, float]") -> Mesh:
    return ring_prism([np.array([(x[0], y[0]), (x[1], y[0]), (x[1], y[1]), (x[0], y[1])])], z[0], z[1])


def skew(normal: "Array | Vec3") -> float:
    """Angle in rad between the joint's x axis and a face's normal."""
    return math.acos(min(1.0, abs(float(normal[0]))))

