"""Taper washers: square wedges that give a bolt's head or nut an even seat on the sloping inner face of a rolled flange."""

import math
from functools import lru_cache

import msgspec
import numpy as np

from tincleat.catalogue.fasteners import BoltSize
from tincleat.catalogue.sections import Element, Section
from tincleat.geometry.frames import Frame, Vec3, vec
from tincleat.geometry.mesh import Mesh, prism, trimmed
from tincleat.geometry.outline import Outline
from tincleat.steel.body import thickness_at

LEAST_LEAN = math.radians(3.0)  # up to that a bolt's head and nut settle on the face by themselves; practice
THIN = 3.0  # mm at its thin edge
PLAY = 2.0  # mm by which its hole is wider than the bolt


class Taper(msgspec.Struct, frozen=True):
    """A taper washer in the bolt's own frame (z from head to nut, origin at the bolt's declared point), mm: ``at`` along the bolt its axis
    leaves the steel, under the nut or else the head; ``thick`` (x, y) is the unit direction in which it gets thicker, by ``slope`` a mm."""

    at: float
    under_nut: bool
    thick: tuple[float, float]
    slope: float
    side: float
    hole: float

    @property
    def mean(self) -> float:
        """Its thickness at the bolt's axis, mm."""
        return THIN + self.slope * self.side / 2

    @property
    def way(self) -> float:
        """1 where its even face lies further along the bolt than the steel, -1 where it lies before it."""
        return 1.0 if self.under_nut else -1.0

    @property
    def seat(self) -> float:
        """Along the bolt its even face lies, on which head or nut sits."""
        return self.at + self.way * self.mean

    @property
    def block(self) -> tuple[float, float]:
        """Along the bolt the square block it is cut from begins and ends."""
        other = self.at - self.way * self.slope * self.side
        return min(other, self.seat), max(other, self.seat)

    @property
    def kept(self) -> Vec3:
        """Direction square to the steel's face, away from the steel: what lies there of the block is the washer."""
        return vec(np.array([self.slope * self.thick[0], self.slope * self.thick[1], self.way]) / math.hypot(1.0, self.slope))


def taper(shape: Section, element: Element, own: Frame, at: Frame, face: float, under_nut: bool, size: BoltSize) -> Taper | None:
    """The taper washer that a bolt asks for where its axis leaves a flange: none on an even face.

    ``own`` is the member's frame and ``at`` the bolt's, both in the joint; ``face`` the station along the bolt at which it leaves the
    element taken as even.
    """
    if shape.slope <= math.tan(LEAST_LEAN) or element.normal != "z":
        return None
    _, y, z = own.to_local(at.to_world([(0.0, 0.0, face)]))[0]
    web = next(e for e in shape.elements if e.normal == "y")
    inward = math.copysign(1.0, (web.low + web.high) / 2 - element.at)
    if (z - element.at) * inward <= 0:  # the outer face, which is even
        return None
    tip = 1.0 if (shape.shape == "C" and web.at < 0) or (shape.shape != "C" and y > (element.low + element.high) / 2) else -1.0
    thick = at.unturn(tip * np.array(own.y))
    side = max(size.washer_d, 1.16 * size.head_af)
    more = thickness_at(shape, element, float(y)) - element.thickness
    return Taper(face + (more if under_nut else -more), under_nut, (round(float(thick[0]), 9), round(float(thick[1]), 9)), shape.slope, side, size.d + PLAY)


@lru_cache(maxsize=1024)
def taper_mesh(t: Taper, drilled: bool = True) -> Mesh:
    """A taper washer's body in the bolt's frame."""
    low, high = t.block
    holes = (Outline.circle(0.0, 0.0, t.hole),) if drilled else ()
    block = prism(square(t), holes, low, high, 2)
    return trimmed(block, (0.0, 0.0, t.at), t.kept)


def square(t: Taper) -> Outline:
    """Its outline across the bolt, one side square to the way it gets thicker."""
    (a, b), half = t.thick, t.side / 2
    return Outline(tuple((u * a - v * b, u * b + v * a, 0.0) for u, v in ((half, half), (-half, half), (-half, -half), (half, -half))))
