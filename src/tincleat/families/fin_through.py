"""A fin plate slotted through a tube: it goes in at one wall and out at the other, and is welded to both from outside."""

import math
from dataclasses import dataclass

import numpy as np

from tincleat.details.parts import Weld
from tincleat.errors import NoFit
from tincleat.families.shear import BeamEnd
from tincleat.geometry.frames import Frame, Vec3, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case
from tincleat.kit.weld import fillet
from tincleat.steel.cuts import Notch

PLAY = 1.0  # mm that a slot is larger than the plate on every side
SQUARE = 0.9998
ASIDE = 0.35  # of a round tube's diameter that a plate may stand off its middle


@dataclass(frozen=True)
class Through:
    """The tube that a plate goes through: its middle (x, y in the joint) at its height 0, half its size along the plate, whether it is round, how its
    middle line leans (x and y for each mm up), and the way its near wall looks."""

    x: float
    y: float
    half: float
    round: bool
    lean: tuple[float, float]
    normal: Vec3

    def aside(self, y: float, z: float) -> float:
        """How far a place lies beside its middle, mm."""
        return y - self.y - self.lean[1] * z

    def walls(self, y: float, z: float) -> tuple[float, float]:
        """Where a plane at ``y`` leaves the far and the near wall's outer face at a height (x, mm)."""
        if self.round:
            x, reach = self.x + self.lean[0] * z, math.sqrt(max(self.half**2 - self.aside(y, z) ** 2, 0.0))
            return x - reach, x + reach
        nx, ny, nz = self.normal
        back = ny * (y - self.y) + nz * z
        return self.x - (self.half + back) / nx, self.x + (self.half - back) / nx


def through_of(case: Case, sizes: BeamEnd) -> Through:
    """The tube a plate is to go through; raises NoFit unless it is a tube that the beam comes square to."""
    support = case.support
    assert support is not None
    if support.shape.shape not in ("CHS", "RHS"):
        raise NoFit(f"{support.shape.name} is a {support.shape.shape} section; a plate goes through hollow ones", right="a plate between the flanges or past them")
    n = sizes.normal
    if abs(float(n[0])) < SQUARE or abs(support.frame.x[0]) > 0.02 or abs(support.frame.x[1]) > 0.02:
        raise NoFit(f"the beam comes {math.degrees(math.acos(min(1.0, abs(float(n[0]))))):.1f}° off square to the tube; a plate through it is laid out square", right="at most 1°")
    half = support.shape.h / 2 if support.shape.shape == "CHS" or abs(float(n @ np.array(support.frame.z))) > 0.7 else support.shape.b / 2
    (ox, oy, oz), (ax, ay, az) = support.frame.origin, support.frame.x
    lean = (ax / az, ay / az)
    return Through(ox - lean[0] * oz, oy - lean[1] * oz, half, support.shape.shape == "CHS", lean, vec(n * math.copysign(1.0, float(n[0]))))


def held_through(tube: Through, y: tuple[float, float], span: tuple[float, float], leg: float, owner: str, name: str, site: bool) -> tuple[list[Weld], Notch]:
    """Four fillets outside the tube, on both faces of the plate (its lower and upper y) at both walls, and the slot in the tube."""
    welds = []
    for face, out in ((y[0], -1.0), (y[1], 1.0)):
        aside = tube.aside(face, (span[0] + span[1]) / 2)
        for wall, low, high, way in zip(("far", "near"), tube.walls(face, span[0]), tube.walls(face, span[1]), (-1.0, 1.0), strict=True):
            # along the tube's face, away from the plate
            on_tube = (-aside * out * way, out * math.sqrt(max(tube.half**2 - aside**2, 1e-6)), 0.0) if tube.round else (-out * tube.normal[1] / tube.normal[0], out, 0.0)
            welds.append(fillet(f"{name} {wall} wall, {'near' if out < 0 else 'far'} face", leg, (low, face, span[0]), (high, face, span[1]), on_tube, (way, 0.0, 0.0), (owner, name), site))
    wide, tall = y[1] - y[0] + 2 * PLAY, span[1] - span[0] + 2 * PLAY
    reach = 2 * tube.half + 20.0
    frame = Frame((tube.x - reach / 2, (y[0] + y[1]) / 2, (span[0] + span[1]) / 2), (0.0, 1.0, 0.0), (1.0, 0.0, 0.0))
    return welds, Notch("slot", 1, frame, Outline.rectangle(-wide / 2, -tall / 2, wide / 2, tall / 2), reach)
