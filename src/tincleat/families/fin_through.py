"""A fin plate slotted through a tube: it goes in at one wall and out at the other, and is welded to both from outside."""

import math
from dataclasses import dataclass

import numpy as np

from tincleat.details.parts import Weld
from tincleat.errors import NoFit
from tincleat.families.shear import BeamEnd
from tincleat.geometry.frames import Frame
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case
from tincleat.kit.weld import fillet
from tincleat.steel.cuts import Notch

PLAY = 1.0  # mm that a slot is larger than the plate on every side
SQUARE = 0.9998
ASIDE = 0.35  # of a round tube's diameter that a plate may stand off its middle


@dataclass(frozen=True)
class Through:
    """The tube that a plate goes through: its middle (x, y in the joint), half its size along the plate, whether it is round."""

    x: float
    y: float
    half: float
    round: bool

    def walls(self, y: float) -> tuple[float, float]:
        """Where a plane at ``y`` leaves the far and the near wall's outer face (x, mm)."""
        reach = math.sqrt(max(self.half**2 - (y - self.y) ** 2, 0.0)) if self.round else self.half
        return self.x - reach, self.x + reach


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
    return Through(support.frame.origin[0], support.frame.origin[1], half, support.shape.shape == "CHS")


def held_through(tube: Through, y: tuple[float, float], span: tuple[float, float], leg: float, owner: str, name: str, site: bool) -> tuple[list[Weld], Notch]:
    """Four fillets outside the tube, on both faces of the plate (its lower and upper y) at both walls, and the slot in the tube."""
    welds = []
    for face, out in ((y[0], -1.0), (y[1], 1.0)):
        for wall, x, way in zip(("far", "near"), tube.walls(face), (-1.0, 1.0), strict=True):
            # along the tube's face, away from the plate
            on_tube = (-(face - tube.y) * out * way, out * math.sqrt(max(tube.half**2 - (face - tube.y) ** 2, 1e-6)), 0.0) if tube.round else (0.0, out, 0.0)
            welds.append(fillet(f"{name} {wall} wall, {'near' if out < 0 else 'far'} face", leg, (x, face, span[0]), (x, face, span[1]), on_tube, (way, 0.0, 0.0), (owner, name), site))
    wide, tall = y[1] - y[0] + 2 * PLAY, span[1] - span[0] + 2 * PLAY
    reach = 2 * tube.half + 20.0
    frame = Frame((tube.x - reach / 2, (y[0] + y[1]) / 2, (span[0] + span[1]) / 2), (0.0, 1.0, 0.0), (1.0, 0.0, 0.0))
    return welds, Notch("slot", 1, frame, Outline.rectangle(-wide / 2, -tall / 2, wide / 2, tall / 2), reach)
