"""Fillets round a bar's end where it stands square on a plate."""

import math

import msgspec
import numpy as np
from shapely.geometry import Polygon, box

from tincleat.catalogue.sections import Section
from tincleat.details.parts import Weld
from tincleat.geometry.frames import Array, Frame, Vec3, crossed, unit, vec
from tincleat.joints.case import CaseMember
from tincleat.kit.cope import web_of
from tincleat.kit.layout import inner_face
from tincleat.kit.weld import fillet, round_tube, square_tube

Point = tuple[float, float]


def foot_welds(shape: Section, at: Frame, flange: float, web: float, parts: tuple[str, str], web_side: float = 1.0, bar: Frame | None = None) -> list[Weld]:
    """Fillets of legs ``flange`` and ``web`` (mm) round a bar that stands on the first part.

    ``at`` has its origin on the plate in the section's middle, z up the bar, x along its depth; ``web_side`` is the side of ``at``'s y
    on which a channel's web lies.  A channel's inner runs are left to the user's own loose welds.  Of angles, tees and flats ``bar``
    is the bar's own frame, which tells how they lie; they are welded along both faces of every leg.
    """
    up = at.z
    out: list[Weld] = []

    def run(name: str, leg: float, a: Point, b: Point, outward: Point) -> None:
        if math.dist(a, b) > 1e-6:
            p, q = at.to_world([(*a, 0.0), (*b, 0.0)])
            out.append(Weld(name, leg, vec(p), vec(q), vec(at.turn((*outward, 0.0))), up, parts))

    h, b, tw = shape.h / 2, shape.b / 2, shape.tw / 2
    if shape.shape == "I":
        for side, label in ((1.0, "outer"), (-1.0, "other")):
            run(f"{label} flange, outer face", flange, (side * h, -b), (side * h, b), (side, 0.0))
            for flank in (1.0, -1.0):
                y0 = tw + shape.r1
                wide = (math.pi / 2 + math.atan(shape.slope)) / 2  # half the tip's angle
                toe = shape.r2 * (1 / math.sin(wide) - 1) / math.cos(wide)  # from its corner, were it sharp, to where the tangent at the middle of its rounding leaves both faces
                across = toe * math.cos(math.atan(shape.slope))
                inner, tip = (side * inner_face(shape, across), flank * (b - across)), (side * (inner_face(shape, 0.0) + toe), flank * b)
                turn = math.pi / 2 - wide + math.atan(shape.slope)
                run(f"{label} flange, inner face", flange, (side * inner_face(shape, b - y0), flank * y0), inner, (-side, 0.0))
                run(f"{label} flange, rounded tip", flange, inner, tip, (-side * math.cos(turn), flank * math.sin(turn)))
                run(f"{label} flange, tip", flange, (side * h, flank * b), tip, (0.0, flank))
        for flank in (1.0, -1.0):
            run("web", web, (-(h - shape.root), flank * tw), (h - shape.root, flank * tw), (0.0, flank))
    elif shape.shape in ("L", "T", "FL"):
        out += _leg_welds(shape, at, bar or Frame(at.origin, at.z, at.x), flange, parts)
    elif shape.shape == "CHS":
        out += round_tube("all round", flange, shape, at, parts)
    elif shape.shape == "RHS":
        for name, p, q, outward in square_tube(shape):
            run(name, flange, p, q, outward)
    else:
        for side in (1.0, -1.0):
            run("flange, outer face", flange, (side * h, -b), (side * h, b), (side, 0.0))
        run("web, outer face", web, (-h, web_side * b), (h, web_side * b), (0.0, web_side))
    return out


def _leg_welds(shape: Section, at: Frame, bar: Frame, leg: float, parts: tuple[str, str]) -> list[Weld]:
    """Fillets along both faces of every leg of a section, its ends left plain, clear of the root where another leg stands on it."""
    out: list[Weld] = []
    axes = {k: np.array(v) - np.array(at.z) * float(np.array(v) @ np.array(at.z)) for k, v in (("y", bar.y), ("z", bar.z))}
    axes = {k: v / np.linalg.norm(v) for k, v in axes.items()}
    for e in shape.elements:
        along, across = ("z", "y") if e.normal == "y" else ("y", "z")
        for s, side in ((-1.0, "one face"), (1.0, "other face")):
            face = e.at + s * e.thickness / 2
            runs = [(e.low, e.high)]
            for o in shape.elements:
                if o.normal == e.normal or (o.high <= face + 0.1 if s > 0 else o.low >= face - 0.1):
                    continue
                near, far = o.at - o.thickness / 2 - shape.r1, o.at + o.thickness / 2 + shape.r1
                runs = [piece for a, b in runs for piece in ((a, min(b, near)), (max(a, far), b)) if piece[1] - piece[0] > 1.0]
            for a, b in runs:
                p, q = (at.o + axes[along] * c + axes[across] * face for c in (a, b))
                out.append(Weld(f"{e.name}, {side}", leg, vec(p), vec(q), vec(axes[across] * s), at.z, parts))
    return out


def web_welds(m: CaseMember, at: Vec3, normal: Vec3, along: Vec3, leg: float, parts: tuple[str, str]) -> list[Weld]:
    """Fillets on the two faces of a slanting bar's web, or a tube's side walls, where they stand on a plane about square to the web.

    The bar's middle line meets the plane near ``at``; ``normal`` points up the bar, ``along`` lies in the plane, in the web or nearly so.  A run
    ends so far before the bar's edge does that its leg stays on it.
    """
    shape = m.shape
    away, n, y = np.array(m.away), np.array(normal), np.array(m.frame.y)
    # a web that is turned a little stands on the plane along a line of its own
    v = unit(crossed(y, n)) * math.copysign(1.0, float(crossed(y, n) @ np.array(along)))
    out_of = y - n * float(y @ n)
    out_of, up = out_of / float(out_of @ y), unit(n - y * float(n @ y))
    web = web_of(shape.elements)
    if shape.shape == "RHS":
        faces, flat = [(-shape.b / 2, -1.0), (shape.b / 2, 1.0)], shape.h / 2 - shape.r1
    elif shape.shape == "FL":
        faces, flat = [(-shape.tw / 2, -1.0), (shape.tw / 2, 1.0)], shape.h / 2
    else:
        assert web is not None
        faces, flat = [(web.at + s * web.thickness / 2, s) for s in (-1.0, 1.0)], shape.h / 2 - shape.root
    steep = float(n @ away)
    lean = leg * float(v @ away) / steep  # at its leg's height the bar's edge lies that much further on
    foot = m.frame.o + away * float((np.array(at) - m.frame.o) @ n) / steep
    out = []
    for face, side in faces:
        back = shape.shape == "C" and abs(face) > shape.b / 2 - 0.01  # a channel's back is flat over its whole depth
        reach = (shape.h / 2 if back else flat) / steep
        spot = foot + out_of * face
        a, b = spot + v * (-reach + max(lean, 0.0)), spot + v * (reach + min(lean, 0.0))
        out.append(fillet("web, near face" if side * y[1] < 0 else "web, far face", leg, a, b, unit(out_of) * side, up, parts))
    return out


def closed_profile(shape: Section) -> Polygon:
    """A section's profile in its own y and z; a tube as the closed body it is to a wrench."""
    if shape.shape == "RHS":
        return box(-shape.b / 2, -shape.h / 2, shape.b / 2, shape.h / 2)
    return Polygon(shape.outer.points(0.5))


def stands_on(m: CaseMember, at: Array, normal: Array) -> Frame:
    """Where a member's own middle line meets a plane through a point (3,): z along the member away from the joint, x along its depth."""
    away = np.array(m.away)
    return Frame.of(m.frame.o + away * float((at - m.frame.o) @ normal) / float(away @ normal), m.frame.z, away)


def leaned(welds: list[Weld], at: Frame, normal: Vec3) -> list[Weld]:
    """Fillets round a bar's square end, as :func:`foot_welds` makes them in ``at``, slid along the bar onto a plate that lies askew to it:
    the plate goes through the origin of ``at``, its unit ``normal`` looks up the bar.

    The first legs lie on the plate, the second up the bar's faces; a run that no other takes up ends so far before its face does that its leg stays on it.
    """
    n, a = np.array(normal), np.array(at.z)
    if float(n @ a) > 1 - 1e-12:
        return welds
    out = []
    for w in welds:
        p, q = (np.array(x) - a * float(n @ (np.array(x) - at.o)) / float(n @ a) for x in (w.start, w.end))
        along = (q - p) / np.linalg.norm(q - p)
        u, v = crossed(along, n), a - along * float(a @ along)
        u *= math.copysign(1.0, float(u @ np.array(w.u)))
        v /= np.linalg.norm(v)
        flat = unit(along - a * float(a @ along))
        over = w.leg * float(v @ flat) / float(along @ flat)
        tip = w.end if over > 0 else w.start
        if abs(over) < 0.3 * np.linalg.norm(q - p) and not any(x is not w and (math.dist(x.start, tip) < 1.0 or math.dist(x.end, tip) < 1.0) for x in welds):
            p, q = (p, q - along * over) if over > 0 else (p - along * over, q)
        out.append(msgspec.structs.replace(w, start=vec(p), end=vec(q), u=vec(u / np.linalg.norm(u)), v=vec(v)))
    return out


def reaches(at: Frame, d: Vec3, normal: Vec3 | None = None) -> tuple[float, float]:
    """How far along a unit direction ``d`` of a plate one goes for each millimetre of a bar's depth and breadth; ``at`` as for the welds.

    The plate may lie askew to the bar, with a unit ``normal`` of its own: the bar's fibres meet it where they do.
    """
    w = np.array(d, dtype=float)
    if normal is not None:
        n, a = np.array(normal), np.array(at.z)
        w = w - n * float(a @ w) / float(a @ n)
    return float(w @ np.array(at.x)), float(w @ np.array(at.y))


def footprint(shape: Section, at: Frame, u: Vec3, v: Vec3, normal: Vec3 | None = None) -> tuple[float, float]:
    """Half the extents (mm) along two unit directions of what a section covers of the plate it stands on; ``at`` and ``normal`` as for :func:`reaches`."""
    h, b = shape.h / 2, shape.b / 2

    def along(d: Vec3) -> float:
        deep, wide = reaches(at, d, normal)
        return h * math.hypot(deep, wide) if shape.shape == "CHS" else h * abs(deep) + b * abs(wide)

    return along(u), along(v)


def legs_round(shape: Section, t: float, inch: bool, lean: float = 0.0) -> tuple[float, float]:
    """Usual raw legs (mm) of the fillets round a bar on a plate ``t`` mm thick: flange (or wall) and web, 0.6 of the thinner part, 6 and 5 at least, 12 at most.

    Where the bar leans (rad) they have a throat of 3 mm (EN 1993-1-8, 4.5.2) on its blunt side too.
    """
    least, most = ((6.0, 5.0), 12.0) if not inch else ((6.35, 4.7625), 12.7)
    if lean > 1e-6:
        blunt = 3.0 / math.cos(math.pi / 4 + lean / 2)
        least = (max(least[0], blunt), max(least[1], blunt))
    return min(max(0.6 * min(shape.tf or shape.tw, t), least[0]), most), min(max(0.6 * min(shape.tw, t), least[1]), most)


