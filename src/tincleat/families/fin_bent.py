"""A fin plate that stands square on its support and is bent to a beam that comes to it askew."""

import math
from dataclasses import dataclass

import numpy as np

from tincleat.details.parts import BentPlate, Flat, Hole, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import Given
from tincleat.families.shear import BeamEnd
from tincleat.geometry.frames import Array, Frame, vec
from tincleat.joints.case import Case
from tincleat.kit.face import face_width
from tincleat.kit.layout import up
from tincleat.kit.weld import both_sides

LEAST = math.radians(2.0)  # a bend of less nobody makes
LEVEL = 0.01  # of the face's normal that may point up


@dataclass(frozen=True)
class Bend:
    """A bend by ``turn`` (rad) with its inside ``radius``; ``side`` of the web the plate lies on; ``least`` setback (mm, square to the
    face) that leaves room for the weld, and how far the corner of its outer face lies behind where it begins."""

    turn: float
    radius: float
    side: int
    least: float
    behind: float


def bend_of(case: Case, given: Given, sizes: BeamEnd, leg: float) -> Bend:
    """The bend that a beam's skew asks for; raises NoFit where there is no skew, or a slope besides."""
    n, house = sizes.normal, given.house
    turn = math.atan2(abs(float(n[1])), float(n[0]))
    if turn < LEAST:
        raise NoFit(f"the beam meets the face {math.degrees(turn):.1f}° off square; there is nothing to bend", right="a plate with its edge bevelled")
    if abs(float(n[2])) > LEVEL:
        raise NoFit(f"the beam slopes by {math.degrees(math.asin(abs(float(n[2])))):.1f}° to the face besides its skew; a strip bent about one line does not follow both", right="a plate with its edge bevelled")
    t = float(given.value("plate_thickness"))
    step = 6.35 if house.inch else 5.0
    radius = float(given.worked_out("bend_radius", up(house.bend_least * t, step)))
    side = -1 if n[1] > 0 else 1  # the plate's foot leads away from the web on that side; on the other it would cross the beam's end
    behind = (radius + t) * math.tan(turn / 2)
    foot = leg + (6.35 if house.inch else 8.0)  # flat beyond the weld
    past = sizes.face(sizes.at + side * sizes.web.thickness / 2, 0.0) - max(sizes.face(sizes.at, z) for z in sizes.zone)
    least = ((foot + behind) / math.cos(turn) + behind + past) * float(n[0])
    return Bend(turn, radius, side, up(max(least, 0.0), step), behind)


def bent_fin(
    case: Case, given: Given, sizes: BeamEnd, bend: Bend, begins: float, width: float, span: tuple[float, float], holes: list[Hole], leg: float, grade: str, site: bool
) -> tuple[BentPlate, list[Weld]]:
    """The plate from the support's face to ``width`` along the beam, bent so that it lies on the web from ``begins`` on, and its fillets.

    ``holes`` are given along the beam and up.
    """
    t, n = float(given.value("plate_thickness")), sizes.normal
    flat_n = np.array([math.cos(bend.turn), math.copysign(math.sin(bend.turn), n[1]), 0.0])
    web_y = sizes.at + bend.side * sizes.web.thickness / 2
    corner = np.array([begins - bend.behind, web_y, 0.0])
    nearest = max(sizes.face(web_y, h) for h in span)  # a face that leans a little is touched where it comes nearest
    far = (corner[0] - nearest) * math.cos(bend.turn)
    foot = far - bend.behind
    if foot < leg:
        raise NoFit(f"between the weld and the bend {foot:.0f} mm of the plate are left flat", right=f"a setback of at least {bend.least:.0f} mm, or a smaller radius")
    at = corner - flat_n * far
    z = np.array([flat_n[1], -flat_n[0], 0.0])
    origin = at if bend.side < 0 else at - z * t
    _on_face(case, sizes, at - z * t * bend.side, at)
    flats = (Flat(float(foot)), Flat(width - begins, tuple(Hole(h.x - begins, h.y, h.width, h.length, h.angle, h.kind) for h in holes)))
    plate = BentPlate("fin plate", flats, (bend.turn if bend.side < 0 else -bend.turn,), bend.radius, *span, t, Frame(vec(origin), vec(flat_n), vec(z)), grade, "fin plate length")
    middle = origin + z * t / 2
    run = [middle - flat_n * (nearest - sizes.face(web_y, h)) * math.cos(bend.turn) + np.array([0.0, 0.0, h]) for h in span]
    return plate, both_sides("fin plate fillet", leg, run, z, t, flat_n, ("supporting member", "fin plate"), site)


def _on_face(case: Case, sizes: BeamEnd, *feet: Array) -> None:
    """Raise NoFit where the plate's foot leaves the flat of its support."""
    assert case.support is not None
    along, low, high = face_width(case)
    if abs(along[2]) > 0.3:
        return
    far = [float((p - case.support.frame.o) @ along) for p in feet]
    off = max(max(far) - high, low - min(far))
    if off > 0.05:
        raise NoFit(f"bent, the plate would stand {off:.0f} mm past the flat of {sizes.support.name}, which is {high - low:.0f} mm wide", right="a plate with its edge bevelled, or a beam nearer the middle of its support")
