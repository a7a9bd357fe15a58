"""Loose plates: flat or upright on a face, of any outline, with their corners; bent ones; and what is cut out of them."""

import math

import numpy as np
from shapely.geometry import Polygon

from tincleat.details.parts import BentPlate, Flat, Plate
from tincleat.errors import BadValue, NoFit
from tincleat.families.declare import Given
from tincleat.families.loose.place import Face, across_from
from tincleat.families.loose.settings import ACROSS, EVERY, FLAT, INNER, ROUNDED, SQUARE
from tincleat.geometry.frames import Frame, crossed
from tincleat.geometry.outline import Outline

Points = list[tuple[float, float]]


def plate_on(given: Given, face: Face, name: str, house_step: float) -> Plate:
    """The plate that a part's settings tell of, on a face."""
    t = float(given.value("thickness"))
    stands = str(given.value("stands"))
    along, off, turn = (float(given.value(n)) for n in ("along", "off", "turn"))
    across = across_from(face, str(given.value("from_")), float(given.value("across")))
    ring, upright = _ring(given, face, stands, house_step), stands != FLAT
    outline = _cornered(given, ring, upright)
    chequer = given.value("surface") == "chequer"
    kinds = ("plate length", "plate width") if not given.has("points") else ("", "")
    name = f"{name} chequer" if chequer else name
    if not upright:
        s = face.hand
        at = face.frame(along, across, off, turn)
        return Plate(name, outline if s > 0 else outline.mirrored_y(), t, at, str(given.value("grade")), (), kinds)
    base = turn + (math.pi / 2 if stands == ACROSS else 0.0)
    way = face.u * math.cos(base) + face.v * math.sin(base)
    z = crossed(way, face.n)
    at = Frame.of(face.point(along, across, off) - z * t / 2, way, z)  # its y runs out of the face
    return Plate(name, outline, t, at, str(given.value("grade")), (), kinds)


def _ring(given: Given, face: Face, stands: str, step: float) -> Points:
    """The plate's corners in its own plane, counter-clockwise: about its middle, or standing on y = 0."""
    if given.offered("points"):
        flat = [float(v) for v in given.value("points")]
        ring = list(zip(flat[::2], flat[1::2], strict=True))
        shape = Polygon(ring)
        if not shape.is_valid or shape.area < 1.0:
            raise BadValue("the outline crosses itself or holds nothing", "own outline", "corners in order round the plate")
        return ring if shape.exterior.is_ccw else ring[::-1]
    room = face.high - face.low
    usual = {FLAT: (200.0, room), ACROSS: (room, 100.0)}.get(stands, (200.0, 100.0))
    length, width = (float(given.worked_out(n, max(math.floor(v / step + 1e-6) * step, step))) for n, v in zip(("length", "width"), usual, strict=True))
    if stands == FLAT:
        return [(-length / 2, -width / 2), (length / 2, -width / 2), (length / 2, width / 2), (-length / 2, width / 2)]
    return [(-length / 2, 0.0), (length / 2, 0.0), (length / 2, width), (-length / 2, width)]


def _cornered(given: Given, ring: Points, upright: bool) -> Outline:
    """The outline with its corners as they are told."""
    how = str(given.value("corner"))
    if how == SQUARE:
        return Outline(tuple((x, y, 0.0) for x, y in ring))
    size = float(given.worked_out("corner_size", 20.0))
    which = str(given.value("corners")) if upright else EVERY
    low = min(y for _, y in ring)
    chosen = [which == EVERY or (which == INNER) == (abs(y - low) < 0.01) for _, y in ring]
    if how == ROUNDED:
        return Outline.rounded(ring, [size if c else 0.0 for c in chosen])
    out: Points = []
    taken = [0.0] * len(ring)
    for i, (p, cut) in enumerate(zip(ring, chosen, strict=True)):
        if not cut:
            out.append(p)
            continue
        a, b, c = np.array(ring[i - 1]), np.array(p), np.array(ring[(i + 1) % len(ring)])
        for other, side in ((a, i - 1), (c, i)):
            taken[side] += size
            if taken[side] > float(np.hypot(*(other - b))) - 1.0:
                raise NoFit(f"snipes of {size:g} mm take all of a side {np.hypot(*(other - b)):.0f} mm long", right="smaller snipes, or a longer side")
        first, last = b + (a - b) / np.hypot(*(a - b)) * size, b + (c - b) / np.hypot(*(c - b)) * size
        out += [(float(first[0]), float(first[1])), (float(last[0]), float(last[1]))]
    return Outline(tuple((x, y, 0.0) for x, y in out))




def bent_on(given: Given, face: Face, name: str) -> BentPlate:
    """A bent plate whose first flat lies on a face, its flanges turned away from it or back."""
    house = given.house
    t = float(given.value("thickness"))
    first, wide = float(given.worked_out("length", 100.0)), float(given.worked_out("width", 200.0))
    rises = [float(given.value("rise"))]
    turns = [float(given.value("bend"))]
    for number in (2, 3, 4):  # the first that is not there ends it
        if not float(given.value(f"rise_{number}")):
            if later := [n for n in range(number + 1, 5) if given.has(f"rise_{n}") and float(given.value(f"rise_{n}"))]:
                raise NoFit(f"there is a flange {later[0]}, but none before it", right=f"a length of flange {number}, or none after it")
            break
        rises.append(float(given.value(f"rise_{number}")))
        turns.append(float(given.value(f"bend_{number}")))
    if any(abs(a) < math.radians(1) for a in turns):
        raise NoFit("a bend of less than 1° is none", right="an angle, or a flat plate")
    radius = float(given.worked_out("radius", max(house.bend_least * t, 1.0)))
    along, off, turn = (float(given.value(n)) for n in ("along", "off", "turn"))
    across = across_from(face, str(given.value("from_")), float(given.value("across")))
    at = face.frame(along, across, off, turn).moved(x=-first / 2)
    return BentPlate(name, tuple(Flat(v) for v in (first, *rises)), tuple(turns), radius, -wide / 2, wide / 2, t, at, str(given.value("grade")), "plate width")


def cut_out(plate: Plate, shape: Polygon, what: str) -> Plate:
    """A plate with a corner or side cut out of it; raises NoFit where the cut lies inside it, misses it or parts it."""
    flat = plate.outline.polygon()
    rest = flat.difference(shape)
    if rest.area > flat.area - 0.5:
        raise NoFit(f"{what} misses {plate.name}", right="a place on it")
    if rest.geom_type != "Polygon" or rest.is_empty:
        raise NoFit(f"{what} cuts {plate.name} in two", right="a smaller cut, or two plates")
    if rest.interiors:
        raise NoFit(f"{what} lies inside {plate.name}", right="a hole, round or slotted, or a cut that reaches its edge")
    ring = np.asarray(rest.exterior.simplify(0.005).coords)[:-1, :2]
    if not rest.exterior.is_ccw:
        ring = ring[::-1]
    return Plate(plate.name, Outline(tuple((float(x), float(y), 0.0) for x, y in ring)), plate.thickness, plate.frame, plate.grade, plate.holes, ("", ""))
