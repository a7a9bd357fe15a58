"""Where a loose part goes: the faces of a member and of parts that are there already, and the frames on them."""

import math
from dataclasses import dataclass

import numpy as np

from tincleat.details.parts import BentPlate, Piece, Plate
from tincleat.errors import NoFit
from tincleat.families.loose.settings import BACKS, FRONTS, LEFT, LEFT_SIDES, RIGHT, RIGHT_SIDES
from tincleat.geometry.frames import Array, Frame, crossed
from tincleat.joints.case import CaseMember
from tincleat.steel.body import thickness_at


@dataclass(frozen=True)
class Face:
    """A face to lay parts on: its middle at the station (3,), the unit ways along and across it and out of it, from where to where it
    goes across, mm, how thick the steel behind it is, and what that belongs to."""

    at: Array
    u: Array
    v: Array
    n: Array
    low: float
    high: float
    thick: float
    owner: str
    root: float = 0.0  # of a web's face: how far past its flat it goes on, under the fillets, to the flange's inner face

    def point(self, along: float, across: float, out: float = 0.0) -> Array:
        """A point over the face (3,)."""
        return self.at + self.u * along + self.v * across + self.n * out

    def frame(self, along: float, across: float, out: float, turn: float) -> Frame:
        """A frame on the face, z out of it, x turned from the first way towards the second."""
        way = self.u * math.cos(turn) + self.v * math.sin(turn)
        return Frame.of(self.point(along, across, out), way, self.n)

    @property
    def hand(self) -> float:
        """1 where a frame's y on it runs the face's second way, else -1."""
        return math.copysign(1.0, float(crossed(self.n, self.u) @ self.v))


def face_of_member(m: CaseMember, name: str) -> Face:
    """A face of the member at the station; raises NoFit with the faces it has where it has none by that name."""
    shape = m.shape
    x = np.array((1.0, 0.0, 0.0))
    y, z = (np.array(a) for a in (m.frame.y, m.frame.z))
    up, side = z * math.copysign(1.0, z[2] if abs(z[2]) > 0.01 else z[1]), y * math.copysign(1.0, y[1] if abs(y[1]) > 0.01 else y[2])
    middle, half_h, half_b = m.frame.o, shape.h / 2, shape.b / 2
    if name in ("top", "bottom"):
        n = up if name == "top" else -up
        flange = next((e for e in shape.elements if e.normal == "z" and e.at * float(n @ z) > 0), None)
        if flange is None and shape.shape in ("FL", "T", "L"):
            low, high, thick = (-shape.tw / 2, shape.tw / 2, shape.h) if shape.shape != "L" else (-half_b, -half_b + shape.tw, shape.h)
        else:
            low, high, thick = (flange.low, flange.high, flange.thickness) if flange is not None else (-half_b, half_b, shape.tw or shape.h)
        ends = sorted((low * float(side @ y), high * float(side @ y)))
        return Face(middle + n * half_h, x, side, n, ends[0], ends[1], thick, "member")
    if name in ("near side", "far side"):
        n = -side if name == "near side" else side
        web = next((e for e in sorted(shape.elements, key=lambda e: -e.at * float(n @ y)) if e.normal == "y"), None)
        off = half_b if web is None else float(web.at * float(n @ y)) + web.thickness / 2
        reach = (half_h - shape.root, half_h - shape.root) if shape.shape in ("I", "C") else (half_h - shape.r1, half_h - shape.r1) if shape.shape == "RHS" else (half_h, half_h)
        if shape.shape == "T":
            reach = (half_h, half_h - shape.root) if float(up @ z) > 0 else (half_h - shape.root, half_h)
        return Face(middle + n * off, x, up, n, -reach[0], reach[1], web.thickness if web is not None else shape.tw or shape.b, "member", shape.root - shape.tf if shape.shape in ("I", "C") else 0.0)
    # an inner face of a flange, beside the web
    far = name.endswith("far")
    out = up if "top" in name else -up
    flange = next((e for e in shape.elements if e.normal == "z" and e.at * float(out @ z) > 0), None)
    web = next((e for e in shape.elements if e.normal == "y"), None)
    if flange is None or web is None or shape.shape not in ("I", "C", "T", "Z"):
        raise NoFit(f"{shape.name} has no inner face of a flange there", right="top, bottom, near side or far side")
    way = side if far else -side
    s = float(way @ y)
    low, high = web.at * s + web.thickness / 2 + shape.r1, max(flange.low * s, flange.high * s)
    if high - low < 5.0:
        raise NoFit(f"{shape.name} has no flange on its {'far' if far else 'near'} side there", right="the other side")
    middle_at = (low + high) / 2
    thick = thickness_at(shape, flange, middle_at * s)
    lean = math.atan(shape.slope) if shape.slope else 0.0
    n = -out * math.cos(lean) - way * math.sin(lean) if lean else -out
    across = way * math.cos(lean) - out * math.sin(lean) if lean else way
    return Face(middle + out * (half_h - thick) + way * middle_at, x, across * math.copysign(1.0, float(across @ side)), n, -(high - low) / 2, (high - low) / 2, thick, "member")


def plane_of(m: CaseMember, turn: float, lean: float) -> Face:
    """A plane through the member's middle line at the station, with nothing behind it: ``turn`` (rad) about the member from looking up
    towards its far side, ``lean`` (rad) from there along the member."""
    top = face_of_member(m, "top")
    x, up, far = top.u, top.n, top.v
    out = up * math.cos(turn) + far * math.sin(turn)
    v = far * math.cos(turn) - up * math.sin(turn)
    half = (m.shape.b if abs(math.cos(turn)) > 0.7 else m.shape.h) / 2
    return Face(m.frame.o, x * math.cos(lean) - out * math.sin(lean), v, out * math.cos(lean) + x * math.sin(lean), -half, half, 0.0, "")


Made = Plate | BentPlate | Piece


def face_of_part(name: str, made: "dict[int, Made]") -> Face:
    """The face of a part that lies there already, or its back; raises NoFit naming what there is."""
    names = next(n for n in (FRONTS, BACKS, LEFT_SIDES, RIGHT_SIDES) if name in n)
    back, number = names is BACKS, names.index(name) + 1
    part = made.get(number)
    if part is None:
        raise NoFit(f"there is no plate or piece {number} to lie on", right="one of the parts " + ", ".join(str(k) for k in sorted(made)) if made else "a face of the member")
    if names in (LEFT_SIDES, RIGHT_SIDES):
        return _side(part, 1.0 if names is LEFT_SIDES else -1.0)
    if isinstance(part, Plate):
        x0, y0, x1, y1 = part.outline.bounds
        f = part.frame
        n = np.array(f.z) * (-1.0 if back else 1.0)
        at = f.to_world(np.array([((x0 + x1) / 2, (y0 + y1) / 2, 0.0 if back else part.thickness)]))[0]
        return Face(at, np.array(f.x), np.array(f.y), n, -(y1 - y0) / 2, (y1 - y0) / 2, part.thickness, part.name)
    if isinstance(part, BentPlate):
        leg = part.legs[-1 if back else 0]
        x0, y0, x1, y1 = leg.outline.bounds
        at = leg.frame.to_world(np.array([((x0 + x1) / 2, (y0 + y1) / 2, leg.thickness)]))[0]
        return Face(at, np.array(leg.frame.x), np.array(leg.frame.y), np.array(leg.frame.z), y0, y1, leg.thickness, part.name)
    f = part.frame.moved(x=part.length / 2)
    n = np.array(f.z) * (-1.0 if back else 1.0)
    s = part.shape
    return Face(f.o + n * s.h / 2, np.array(f.x), np.array(f.y), n, -s.b / 2, s.b / 2, s.tf or s.tw, part.name)


def _side(part: Made, way: float) -> Face:
    """The side of a part along its length: a plate's edge, a piece's web or leg; ``way`` is 1 where its y goes out of it."""
    if isinstance(part, Plate):
        f, (_, y0, _, y1), t = part.frame, part.outline.bounds, part.thickness
        y = y1 if way > 0 else y0
        on = [p[0] for p in part.outline.points(0.05) if abs(p[1] - y) < 0.01]
        if len(on) < 2 or max(on) - min(on) < 1.0:
            raise NoFit(f"{part.name} has no straight edge on that side", right="another side, or its face")
        at = f.to_world([((min(on) + max(on)) / 2, y, t / 2)])[0]
        return Face(at, np.array(f.x), np.array(f.z) * way, np.array(f.y) * way, -t / 2, t / 2, y1 - y0, part.name)
    if isinstance(part, BentPlate):
        raise NoFit(f"{part.name} is bent: its sides are not flat all along", right="its face or its back")
    f, s = part.frame.moved(x=part.length / 2), part.shape
    web = next((e for e in sorted(s.elements, key=lambda e: -e.at * way) if e.normal == "y"), None)
    off = s.b / 2 if web is None else web.at * way + web.thickness / 2
    half = s.h / 2 - (s.root if s.shape in ("I", "C") else s.r1 if s.shape == "RHS" else 0.0)
    return Face(f.o + np.array(f.y) * way * off, np.array(f.x), np.array(f.z) * way, np.array(f.y) * way, -half, half, web.thickness if web is not None else s.tw or s.b, part.name)


def across_from(face: Face, where: str, value: float) -> float:
    """A place across a face, measured from its middle or from one of its edges inward."""
    if where == LEFT:
        return face.low + value
    if where == RIGHT:
        return face.high - value
    return (face.low + face.high) / 2 + value
