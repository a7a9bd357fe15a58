"""Whether an entity read from a file can be drawn and worked with, beyond its numbers being numbers."""

import zlib

import numpy as np

from tincleat.errors import BadValue
from tincleat.geometry.frames import Array
from tincleat.project.entities import Entity, Grid, HouseRules, Reference, Underlay

MOST_SEGMENTS = 400_000
REACH = 1e8  # mm


def segments(u: Underlay) -> Array:
    """The lines of a drawing under the model, (n, 4) in its own mm; raises BadValue if they cannot be unpacked."""
    reader = zlib.decompressobj()
    try:
        raw = reader.decompress(u.body, MOST_SEGMENTS * 32)
    except zlib.error as error:
        raise BadValue(f"its lines cannot be unpacked: {error}", u.name) from error
    if reader.unconsumed_tail or len(raw) % 32:
        raise BadValue("its lines are more than a drawing can have, or not whole", u.name, f"at most {MOST_SEGMENTS} lines")
    lines = np.frombuffer(raw, dtype="<f8").reshape(-1, 4)
    if not np.isfinite(lines).all() or (len(lines) and float(np.abs(lines).max()) > REACH):
        raise BadValue("its lines hold values that are no places", u.name, "finite places within 100 km")
    return lines


def check_sound(entity: Entity) -> None:
    """Raises BadValue for an entity that no view could draw: faces without points, drawings that cannot be unpacked, grids without lines, rules without stock."""
    if isinstance(entity, Underlay):
        if entity.kind == "lines":
            segments(entity)
        elif not (0 < entity.pixels[0] <= 20_000 and 0 < entity.pixels[1] <= 20_000):
            raise BadValue(f"a picture of {entity.pixels[0]} x {entity.pixels[1]} pixels", entity.name)
        if not entity.scale > 0:
            raise BadValue(f"a scale of {entity.scale:g}", entity.name, "more than 0")
    elif isinstance(entity, Reference):
        if len(entity.triangles) == 0 or len(entity.points) < 3:
            raise BadValue("a body without faces", entity.name)
        faces = np.array(entity.triangles)
        if int(faces.min()) < 0 or int(faces.max()) >= len(entity.points):
            raise BadValue("a face of the body refers to a point it does not have", entity.name)
    elif isinstance(entity, Grid):
        for axis, lines in (("x", entity.x), ("y", entity.y)):
            if not lines or any(not label.strip() for label, _ in lines):
                raise BadValue(f"its {axis} lines are missing or without labels", entity.name)
    elif isinstance(entity, HouseRules):
        if not entity.plates or not entity.flats or any(not v > 0 for v in (*entity.plates, *entity.flats)):
            raise BadValue("no stock of plates or flats", "house rules", "sizes over 0")
        if any(not v > 0 for v in entity.bars.values()) or any(r.step < 0 for r in entity.rounding.values()):
            raise BadValue("a bar or a rounding step that cannot be", "house rules")
