"""What stands on and under a base plate: stiffeners, chairs' gussets, shear keys, vents; for the base plate family."""

import math
from dataclasses import dataclass

import numpy as np

from tincleat.catalogue.sections import Section, section
from tincleat.details.parts import Hole, Piece, Plate, Weld
from tincleat.errors import NoFit
from tincleat.geometry.frames import Array, Frame, crossed, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import CaseMember
from tincleat.kit.cope import web_of
from tincleat.kit.foot import foot_welds
from tincleat.kit.layout import down
from tincleat.kit.weld import both_sides, fillet
from tincleat.steel.cuts import MemberHole

KEY_SECTIONS = (
    "HEA 100", "HEA 120", "HEB 100", "HEB 120", "HEB 140", "IPE 100", "IPE 120", "SHS 80x80x6.3", "SHS 100x100x8", "CHS 88.9x6.3", "CHS 114.3x8",
    "W4X13", "W5X16", "W6X15", "HSS4X4X1/4", "HSS5X5X3/8",
)  # fmt: skip
FLAT, CROSS, SECTION = "flat", "cross", "section"


@dataclass(frozen=True)
class Key:
    """A shear key: its plates or piece with their welds to the base plate."""

    plates: tuple[Plate, ...]
    pieces: tuple[Piece, ...]
    welds: tuple[Weld, ...]


def shear_key(at: Frame, form: str, depth: float, length: float, thickness: float, name: str, grade: str, leg: float, room: tuple[float, float]) -> Key:
    """A key under the plate: ``at`` lies in its middle on the plate's underside, x along the plate, z up; a flat lies across x.

    ``room`` is half the plate's extents along ``at``'s x and y about its origin; raises NoFit where the key leaves the plate.
    """
    reach = (length / 2, thickness / 2) if form == FLAT else (length / 2, length / 2) if form == CROSS else (section(name).b / 2, section(name).h / 2)
    if form == SECTION and section(name).shape == "CHS":
        reach = (section(name).h / 2,) * 2
    if reach[1] > room[0] or reach[0] > room[1]:
        raise NoFit(f"a shear key {2 * reach[1]:.0f} x {2 * reach[0]:.0f} mm leaves the plate, which has {2 * room[0]:.0f} x {2 * room[1]:.0f} mm there", right="a smaller key, or a larger plate")
    if form == CROSS and length < thickness + 20.0:
        raise NoFit(f"crossed flats {length:.0f} mm long are little longer than they are thick, {thickness:.0f} mm", right=f"at least {thickness + 20.0:.0f} mm")
    plates: list[Plate] = []
    welds: list[Weld] = []
    if form == SECTION:
        piece = Piece("shear key", name, grade, at.at(Frame((0.0, 0.0, 0.0), (0.0, 0.0, -1.0), (1.0, 0.0, 0.0))), depth)
        down = at.at(Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, 0.0, -1.0)))
        return Key((), (piece,), tuple(foot_welds(section(name), down, leg, leg, ("base plate", "shear key"))))

    def flat(called: str, turned: bool, a: float, b: float) -> None:
        """A flat from ``a`` to ``b`` along at's y (or its x), in the middle of the other."""
        along, across = ((1.0, 0.0, 0.0), (0.0, -1.0, 0.0)) if turned else ((0.0, 1.0, 0.0), (1.0, 0.0, 0.0))
        frame = at.at(Frame(tuple(-thickness / 2 * c for c in across), along, across))  # type: ignore[arg-type]
        plates.append(Plate(called, Outline.rectangle(a, -depth, b, 0.0), thickness, frame, grade, (), ("plate length", "plate width")))
        # the fillets of a crossed key stop at its wings
        runs = [(a, -thickness / 2), (thickness / 2, b)] if form == CROSS and not turned else [(a, b)]
        for run in runs:
            ends = at.to_world(np.array([tuple(v * c for c in along) for v in run]))
            welds.extend(both_sides(f"{called} fillet", leg, list(ends), at.turn(across), thickness, -np.array(at.z), ("base plate", called)))

    flat("shear key", False, -length / 2, length / 2)
    if form == CROSS:
        half = thickness / 2
        for called, a, b in (("shear key, near wing", half, length / 2), ("shear key, far wing", -length / 2, -half)):
            flat(called, True, a, b)
            x = half if a > 0 else -half
            for s in (-1.0, 1.0):
                p, q = at.to_world(np.array([(x, s * half, 0.0), (x, s * half, -depth)]))
                welds.append(fillet(f"{called} to the key", leg, p, q, at.turn((0.0, s, 0.0)), at.turn((math.copysign(1.0, a), 0.0, 0.0)), ("shear key", called)))
    return Key(tuple(plates), (), tuple(welds))


@dataclass(frozen=True)
class _Side:
    """A pair of faces of a column that stiffeners stand on: the way out of them (unit), how far they lie off its middle, half of their flat, mm,
    and which of the column's ways runs across them."""

    normal: Array
    off: float
    flat: float
    across: int


def _stood_on(column: CaseMember) -> tuple[_Side, _Side]:
    """The faces across a column's depth and across its width; raises NoFit where it has none."""
    shape = column.shape
    deep, broad = np.array(column.frame.z), np.array(column.frame.y)
    if shape.shape == "RHS":
        return _Side(deep, shape.h / 2, shape.b / 2 - shape.r1, 1), _Side(broad, shape.b / 2, shape.h / 2 - shape.r1, 2)
    web = web_of(shape.elements)
    if shape.shape != "I" or web is None:
        raise NoFit(f"{shape.name} is a {shape.shape} section; stiffeners stand against the flanges and web of an I-section, or the walls of a square or rectangular tube")
    return _Side(deep, shape.h / 2, shape.b / 2, 1), _Side(broad, web.thickness / 2, shape.h / 2 - shape.root, 2)


def foot_stiffeners(
    column: CaseMember, where: str, t: float, height: float, snipe: float, grade: str, leg: float, at: Array, room: "dict[tuple[int, int], float]", step: float,
) -> tuple[list[Plate], list[Weld]]:  # fmt: skip
    """Plates that stand on the base plate and against a column: on the faces across its depth, in their middle, or on those across its width (an
    I-section's web).

    ``room`` tells how far each may reach from the column, by direction (1, 0), (-1, 0), (0, 1), (0, -1) in the column's depth and
    width; ``at`` is where the column's middle comes to stand on the base plate (joint's frame).  A plate stands plumb, its edge along the
    column's face however that leans; it is cut off slanting over its upper half.
    """
    up = np.array([0.0, 0.0, 1.0])
    plates: list[Plate] = []
    welds: list[Weld] = []

    def stand(name: str, face: _Side, out: Array, reach: float) -> None:
        reach = down(reach, step)
        if reach < 2 * snipe + 15 or height < 2 * snipe + 15:
            raise NoFit(f"a stiffener {reach:.0f} mm wide and {height:.0f} mm high is little more than its snipe of {snipe:.0f} mm", right=f"at least {2 * snipe + 15:.0f} mm each way")
        n = face.normal * math.copysign(1.0, float(face.normal @ out))
        slant = -float(n @ up) / float(n @ out)  # of the line in which the plate's plane meets the face
        side = crossed(out, up)  # the plate's normal: its y is up
        askew = float(n @ side) / float(n @ out)  # of a column that leans both ways: a corner of the plate's edge touches its face, the other one nearly
        on_face = at + out * face.off / float(n @ out)
        foot = on_face + out * abs(askew) * t / 2
        run = up + out * slant
        aside = max(abs(float(column.frame.to_local((foot + run * z)[None])[0, face.across])) for z in (snipe, height))
        if aside + t / 2 > face.flat + 1e-6:
            raise NoFit(f"{name}, {height:.0f} mm high, runs {aside + t / 2 - face.flat:.0f} mm past the column's face, which leans aside", right="lower stiffeners")
        frame = Frame(vec(foot - side * t / 2), vec(out), vec(side))
        tip = max(25.0, min(0.25 * height, 50.0))
        narrow = max(25.0, min(0.25 * reach, 50.0)) + max(height * slant, 0.0)
        ring = ((snipe, 0.0, 0.0), (reach, 0.0, 0.0), (reach, tip, 0.0), (min(narrow, reach - 1.0), height, 0.0), (height * slant, height, 0.0), (snipe * slant, snipe, 0.0))
        if height * slant + 15.0 > ring[3][0]:
            raise NoFit(f"{name}, {height:.0f} mm high, would end under the column, which leans {height * slant:.0f} mm over it there", right="a lower stiffener, or a wider plate")
        plates.append(Plate(name, Outline(ring), t, frame, grade, (), ("plate width", "plate length")))
        welds.extend(both_sides(f"{name} to plate", leg, [foot + out * snipe, foot + out * reach], side, t, up, ("base plate", name)))
        flat = side - n * float(side @ n)
        flat /= np.linalg.norm(flat)
        for hand, s in (("near", -1.0), ("far", 1.0)):
            a, b = (on_face + run * z + (side - out * askew) * s * t / 2 for z in (snipe, height))
            welds.append(fillet(f"{name} to column, {hand} side", leg, a, b, flat * s, out, ("supported member", name)))

    deep, broad = _stood_on(column)
    if where in ("on the flanges", "on flanges and web"):
        for s, name in ((1.0, "stiffener right"), (-1.0, "stiffener left")):
            stand(name, deep, np.array([s, 0.0, 0.0]), room[(int(s), 0)])
    if where in ("on the web", "on flanges and web"):
        for s, name in ((-1.0, "stiffener near"), (1.0, "stiffener far")):
            stand(name, broad, np.array([0.0, s, 0.0]), room[(0, int(s))])
    return plates, welds


def vents(column: CaseMember, count: int, size: float, in_web: bool, foot: Array) -> tuple[list[tuple[float, float]], list[MemberHole]]:
    """Vent holes: spots in the plate (joint's x, y) that touch no steel, or holes in the column's web just over the plate; ``foot`` is where the column's middle stands on it."""
    shape = column.shape
    if not count:
        return [], []
    if in_web:
        web = web_of(shape.elements)
        if web is None:
            raise NoFit(f"{shape.name} has no web for vent holes", right="holes in the plate")
        clear = shape.h - 2 * shape.root
        gap = min(clear / count, 2.5 * size)
        if size > gap - 5:
            raise NoFit(f"{count} vent holes of {size:.0f} mm do not fit side by side in {clear:.0f} mm of web", right=f"at most {clear / count - 5:.0f} mm")
        z, y = np.array(column.frame.z), np.array(column.frame.y)
        low = foot + np.array(column.away) * (size / 2 + 15.0) + y * web.at
        points = [low + z * gap * (i - (count - 1) / 2) for i in range(count)]
        return [], [MemberHole(0, "web", vec(p), vec(y), size, size, vec(z), "vent") for p in points]  # type: ignore[arg-type]
    if shape.shape in ("RHS", "CHS"):
        return [(float(foot[0]), float(foot[1]))][:count], []
    x, y = np.array(column.frame.z)[:2], np.array(column.frame.y)[:2]
    web = web_of(shape.elements)
    if web is None:
        raise NoFit(f"{shape.name} is a {shape.shape} section, which no vent beside a web goes with", right="none")
    aside = web.thickness / 2 + shape.r1 + size / 2 + 5
    sides = (1.0, -1.0) if shape.shape == "I" else (1.0,)
    shift = [0.0] if count <= len(sides) else [-(shape.h / 2 - shape.root - size / 2 - 5), shape.h / 2 - shape.root - size / 2 - 5]
    if len(shift) > 1 and shift[1] < size / 2 + 3:
        raise NoFit(f"{count} vent holes of {size:.0f} mm do not fit beside the web of {shape.name}", right=f"at most {len(sides)}")
    spots = [(float(p[0]), float(p[1])) for d in shift for s in sides for p in (foot[:2] + x * d + y * (web.at + s * aside),)]
    return spots[:count], []


def slot_or_round(u: float, v: float, wide: float, long: float, way: str) -> Hole:
    """An anchor's hole in the plate: round, or a slot along the plate's length or width."""
    return Hole(u, v, wide, wide if way == "round" else long, math.pi / 2 if way == "slotted across" else 0.0, "anchor")


def room_of(shape: Section, axes: tuple[Array, Array], sizes: tuple[float, float, float, float]) -> dict[tuple[int, int], float]:
    """How far stiffeners may reach from a column's faces to the plate's edges.

    ``axes`` are the plate's directions in the column's depth and width; ``sizes`` from the column's middle to the plate's edges along
    the first axis (less, more) and the second.
    """
    u, v = axes
    out: dict[tuple[int, int], float] = {}
    for way in ((1, 0), (-1, 0), (0, 1), (0, -1)):
        d = np.array(way, dtype=float)
        reach = math.inf
        for axis, low, high in ((u, sizes[0], sizes[1]), (v, sizes[2], sizes[3])):
            c = float(axis @ d)
            if abs(c) > 1e-9:
                reach = min(reach, (high if c > 0 else low) / abs(c))
        out[way] = reach - (shape.h / 2 if way[0] else shape.b / 2 if shape.shape == "RHS" else shape.tw / 2)
    return out
