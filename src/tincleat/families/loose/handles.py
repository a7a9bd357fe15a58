"""What of loose parts can be taken hold of on their sheet: edges and corners of plates, ends of pieces, and each part in its middle."""

import numpy as np
from msgspec.structs import replace

from tincleat.details.parts import Handle, Piece, Plate, Pull
from tincleat.families.declare import Given
from tincleat.families.loose.bolts import Pattern
from tincleat.families.loose.cuts import Taken
from tincleat.families.loose.place import Face, Made
from tincleat.families.loose.settings import ACCESS, FLAT, RIGHT, TO_POINT
from tincleat.geometry.frames import Array, vec

Rates = tuple[tuple[str, int, float], ...]


def handles(made: "dict[int, Made]", patterns: list[Pattern], cuts: "dict[int, Taken]", faces: "dict[int, Face]", some: "dict[int, Given]") -> tuple[Handle, ...]:
    """The handles of every part; what a mirrored hand makes of them is the caller's."""
    out: list[Handle] = []
    for k, part in made.items():
        if isinstance(part, Plate):
            out += _of_plate(k, part, faces[k], some[k])
        elif isinstance(part, Piece):
            held = 0.0 if str(some[k].value("lies")) == TO_POINT else part.length / 2  # of one that goes to a point its foot is moved
            out.append(_moved(part.name, k, part.frame.to_world([(held, 0.0, 0.0)])[0], faces[k], some[k], np.array(part.frame.z)))
    for p in patterns:
        k = int(p.name.split()[-1])
        out.append(_moved(p.name, k, p.frame.o, faces[k], some[k], np.array(p.frame.z)))
    for k, taken in cuts.items():
        one = _moved(f"cut {k}", k, taken.face.o, faces[k], some[k], np.array(taken.frame.z))
        # an access hole lies at its flange, however far across it is told to be
        out.append(replace(one, pulls=one.pulls[:1]) if str(some[k].value("shape")) == ACCESS else one)
    return tuple(out)


def _sign(one: Given) -> float:
    """How 'across' grows with the face's second way: backwards where it is measured from the right edge in."""
    return -1.0 if str(one.value("from_")) == RIGHT else 1.0


def _shifted(k: int, way: Array, share: float, face: Face, one: Given) -> Rates:
    """What moves a part ``share`` mm along a unit way for every millimetre that a handle is pulled along it."""
    along, across = float(way @ face.u) * share, float(way @ face.v) * share * _sign(one)
    return tuple((f"{name}/{k}", -1, rate) for name, rate in (("along", along), ("across", across)) if abs(rate) > 1e-6)


def _moved(name: str, k: int, at: Array, face: Face, one: Given, seen: Array) -> Handle:
    """The handle in a part's middle, which moves it over its face."""
    pulls = (Pull(vec(face.u), _shifted(k, face.u, 1.0, face, one)), Pull(vec(face.v), _shifted(k, face.v, 1.0, face, one)))
    return Handle(vec(at), vec(seen), pulls, f"{name}, moved over its face")


def _of_plate(k: int, plate: Plate, face: Face, one: Given) -> list[Handle]:
    f, (x0, y0, x1, y1), t = plate.frame, plate.outline.bounds, plate.thickness
    x, y = np.array(f.x), np.array(f.y)
    flat = str(one.value("stands")) == FLAT
    middle = f.to_world([((x0 + x1) / 2, (y0 + y1) / 2, t / 2)])[0]
    out = [_moved(plate.name, k, middle, face, one, np.array(f.z))]
    if one.has("points"):
        turned = face.hand if flat else 1.0
        told = [float(v) for v in one.value("points")]
        for i, (a, b) in enumerate(zip(told[::2], told[1::2], strict=True)):
            pulls = (Pull(f.x, ((f"points/{k}", 2 * i, 1.0),)), Pull(vec(y * turned), ((f"points/{k}", 2 * i + 1, 1.0),)))
            out.append(Handle(f.point((a, b * turned, t / 2)), f.z, pulls, f"corner {i + 1} of {plate.name}"))
        return out
    edges = [(x, (x1, (y0 + y1) / 2), "length", 0.5), (-x, (x0, (y0 + y1) / 2), "length", 0.5), (y, ((x0 + x1) / 2, y1), "width", 0.5 if flat else 0.0)]
    if flat:
        edges.append((-y, ((x0 + x1) / 2, y0), "width", 0.5))
    for way, (px, py), name, share in edges:
        rates: Rates = ((f"{name}/{k}", -1, 1.0), *_shifted(k, way, share, face, one))
        out.append(Handle(f.point((px, py, t / 2)), f.z, (Pull(vec(way), rates),), f"edge of {plate.name}"))
    return out
