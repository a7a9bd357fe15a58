"""Fillets round a bar's end where it stands square on a plate."""

import math

import numpy as np

from tincleat.catalogue.sections import Section
from tincleat.details.parts import Weld
from tincleat.geometry.frames import Frame, Vec3, vec
from tincleat.kit.layout import inner_face
from tincleat.kit.weld import round_tube

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
                run(f"{label} flange, inner face", flange, (side * inner_face(shape, b - y0), flank * y0), (side * inner_face(shape, 0.0), flank * b), (-side, 0.0))
                run(f"{label} flange, tip", flange, (side * h, flank * b), (side * inner_face(shape, 0.0), flank * b), (0.0, flank))
        for flank in (1.0, -1.0):
            run("web", web, (-(h - shape.root), flank * tw), (h - shape.root, flank * tw), (0.0, flank))
    elif shape.shape in ("L", "T", "FL"):
        out += _leg_welds(shape, at, bar or Frame(at.origin, at.z, at.x), flange, parts)
    elif shape.shape == "CHS":
        out += round_tube("all round", flange, shape, at, parts)
    else:
        r = shape.r1 if shape.shape == "RHS" else 0.0
        for side in (1.0, -1.0):
            run("end wall" if shape.shape == "RHS" else "flange, outer face", flange, (side * h, -b + r), (side * h, b - r), (side, 0.0))
        for flank in (1.0, -1.0):
            if shape.shape == "RHS" or flank == web_side:
                run("side wall" if shape.shape == "RHS" else "web, outer face", flange if shape.shape == "RHS" else web, (-h + r, flank * b), (h - r, flank * b), (0.0, flank))
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


def footprint(shape: Section, at: Frame, u: Vec3, v: Vec3) -> tuple[float, float]:
    """Half the extents (mm) along two unit directions of what a section covers of the plate it stands on; ``at`` as for the welds."""
    h, b = shape.h / 2, shape.b / 2
    if shape.shape == "CHS":
        return h, h

    def along(d: Vec3) -> float:
        return h * abs(sum(p * q for p, q in zip(at.x, d, strict=True))) + b * abs(sum(p * q for p, q in zip(at.y, d, strict=True)))

    return along(u), along(v)


def legs_round(shape: Section, t: float, inch: bool) -> tuple[float, float]:
    """Usual raw legs (mm) of the fillets round a bar on a plate ``t`` mm thick: flange (or wall) and web, 0.6 of the thinner part, 6 and 5 at least, 12 at most."""
    least, most = ((6.0, 5.0), 12.0) if not inch else ((6.35, 4.7625), 12.7)
    return min(max(0.6 * min(shape.tf or shape.tw, t), least[0]), most), min(max(0.6 * min(shape.tw, t), least[1]), most)


