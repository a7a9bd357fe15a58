"""Cuts among loose parts: a rectangle, round or slot taken out of the member's steel behind a face, or out of a plate."""

import math

import numpy as np
from shapely.geometry import Polygon

from tincleat.details.parts import Plate
from tincleat.errors import NoFit
from tincleat.families.declare import Given
from tincleat.families.loose.place import Face, Made, across_from
from tincleat.families.loose.plates import cut_out
from tincleat.families.loose.settings import RECTANGLE, ROUND
from tincleat.geometry.outline import Outline
from tincleat.steel.cuts import Notch

PAST = 1.0  # mm that a cutter reaches past the steel either way


def cut_in(given: Given, face: Face, name: str, made: "dict[int, Made]") -> Notch | None:
    """What a cut takes out: a notch of the member, or, of a plate among the parts, the plate as it is left (in ``made``)."""
    shape = str(given.value("shape"))
    along, turn = float(given.value("along")), float(given.value("turn"))
    across = across_from(face, str(given.value("from_")), float(given.value("across")))
    length = float(given.worked_out("length", 100.0))
    width = length if shape == ROUND else float(given.worked_out("width", 60.0))
    if shape == RECTANGLE:
        size = float(given.worked_out("corner_size", 0.0)) if given.has("corner_size") else 0.0
        outline = Outline.rounded([(-length / 2, -width / 2), (length / 2, -width / 2), (length / 2, width / 2), (-length / 2, width / 2)], [size] * 4)
    else:
        outline = Outline.circle(0.0, 0.0, length) if shape == ROUND else Outline.slot(0.0, 0.0, min(length, width), max(length, width), 0.0 if length >= width else math.pi / 2)
    at = face.frame(along, across, -face.thick - PAST, turn)
    if face.owner == "member":
        return Notch(name, 0, at, outline, face.thick + 2 * PAST)
    number = next(k for k, p in made.items() if p.name == face.owner)
    plate = made[number]
    if not isinstance(plate, Plate):
        raise NoFit(f"cuts go into the member or a flat plate; {plate.name} is neither", right="holes, which go into pieces and bent plates too")
    ring = plate.frame.to_local(at.to_world(np.column_stack([outline.points(0.02), np.zeros(len(outline.points(0.02)))])))[:, :2]
    made[number] = cut_out(plate, Polygon(ring), name)
    return None
