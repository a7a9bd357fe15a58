"""Stiffeners between a member's flanges, for families that need them at some station."""

import math

from tincleat.catalogue.sections import Section
from tincleat.details.parts import Plate, Weld
from tincleat.errors import NoFit
from tincleat.geometry.frames import Frame, Vec3
from tincleat.geometry.outline import Outline
from tincleat.joints.case import CaseMember
from tincleat.kit.cope import web_of
from tincleat.kit.layout import down, inner_face, up
from tincleat.kit.weld import both_sides
from tincleat.project.entities import HouseRules
from tincleat.standards.rulesets import rules_of

TO_THE_EDGE = "so that its weld on the flange has its least length"


def room_beside(shape: Section) -> float:
    """From a member's web to its flanges' edge, mm."""
    web = web_of(shape.elements)
    assert web is not None
    return shape.b - web.thickness if shape.shape == "C" else (shape.b - web.thickness) / 2


def beside_web(shape: Section, leg: float, width: float, house: HouseRules) -> tuple[float, float]:
    """Width and snipe (mm) of a stiffener ``width`` wide by the office's rule, whose fillets on a flange have a ``leg``.

    Where a narrow flange leaves those less than their least length the snipe comes close to the root, then the plate goes to the flange's
    edge; where that is too little as well it stays as usual, and the proof says so.
    """
    rules, throat, room = rules_of(house), leg / math.sqrt(2), room_beside(shape)
    step, fine = (3.175, 1.5875) if house.inch else (5.0, 1.0)
    usual, close = up(shape.r1 + 5.0, step), up(shape.r1 + 0.5, fine)
    reach = room - (shape.r2 if shape.slope else 0.0)  # no weld on a tip that is rounded off
    least = rules.fillet_length(leg, throat).value
    for w, s in ((width, usual), (width, close), (down(room, fine), close)):
        if rules.effective(min(w, reach) - s, throat, False) >= least:
            return w, s
    return width, usual


def sides_of(shape: Section, wanted: tuple[float, ...]) -> tuple[float, ...]:
    """The sides of the web (signs of the member's own y) on which there is room: a channel has flanges on one only."""
    return (1.0,) if shape.shape == "C" else wanted


def stiffeners_at(
    m: CaseMember, station: float, grade: str, t: float, width: float, snipe: float, leg: float, owner: str
) -> tuple[list[Plate], list[Weld]]:
    """Stiffeners from flange to flange on both sides of a member's web (of a channel's on one) at a station of its frame, named near and far
    as they lie in the joint."""
    plates: list[Plate] = []
    welds: list[Weld] = []
    for side in sides_of(m.shape, (-1.0, 1.0)):
        plate, seams = stiffener(m.shape, m.frame.moved(x=station), side, f"stiffener {'near' if side * m.frame.y[1] < 0 else 'far'}", owner, grade, t, width, snipe, leg)
        plates.append(plate)
        welds += seams
    return plates, welds


def stiffener(
    shape: Section, at: Frame, side: float, name: str, owner: str, grade: str, t: float, width: float, snipe: float, leg: float, top: float | None = None,
    bottom: float | None = None,
) -> tuple[Plate, list[Weld]]:  # fmt: skip
    """A plate on one side of a member's web, square to it, and its fillets.

    ``at`` is the member's own frame at the plate's middle plane, in the joint's; ``side`` the sign of the member's y it stands on.
    It reaches from flange to flange, or from ``top`` or to ``bottom`` (heights in the member's frame) where they are given.
    """
    web = web_of(shape.elements)
    assert web is not None
    clear = shape.h - 2 * shape.tf
    if snipe > min(width, clear / 2) - 5.0:
        raise NoFit(f"a snipe of {snipe:.0f} mm leaves nothing of a stiffener {width:.0f} mm wide and {clear:.0f} mm high", right=f"at most {min(width, clear / 2) - 5.0:.0f} mm")
    y0 = web.at + side * web.thickness / 2
    y1, ya = y0 + side * width, y0 + side * snipe

    def inner(y: float) -> float:
        return inner_face(shape, shape.b / 2 - (abs(y) if shape.shape == "I" else y))

    high = [(ya, inner(ya)), (y1, inner(y1))] if top is None else [(y0, top), (y1, top)]
    low = [(ya, -inner(ya)), (y1, -inner(y1))] if bottom is None else [(y0, bottom), (y1, bottom)]
    edge = (inner(ya) - snipe if top is None else top, -inner(ya) + snipe if bottom is None else bottom)
    ring = ([(y0, edge[0])] if top is None else []) + high + low[::-1] + ([(y0, edge[1])] if bottom is None else [])
    # the plate's own frame: its x across the member, its y up, seen along the member
    frame = at.at(Frame((-side * t / 2, 0.0, 0.0), (0.0, side, 0.0), (side, 0.0, 0.0)))
    plate = Plate(name, Outline(tuple((side * y, z, 0.0) for y, z in ring[::-1])), t, frame, grade, (), ("stiffener", ""))

    def p(y: float, z: float) -> Vec3:
        a, b, c = at.to_world([(0.0, y, z)])[0].tolist()
        return (a, b, c)

    def d(y: float, z: float) -> Vec3:
        a, b, c = at.turn((0.0, y, z)).tolist()
        return (a, b, c)

    # a rolled flange that tapers is rounded off at its tip: no weld there
    tip = shape.b / 2 - (shape.r2 if shape.slope else 0.0)
    y2 = side * min(abs(y1), tip)
    welds = both_sides(f"{name} to web", leg, (p(y0, edge[1]), p(y0, edge[0])), at.x, t, d(side, 0.0), (owner, name))
    for run, there in ((high, top), (low, bottom)):
        if there is None:
            way = -1.0 if run[0][1] > 0 else 1.0
            stop = (y2, run[1][1] + (inner(y2) - inner(y1)) * (1.0 if run[1][1] > 0 else -1.0))
            welds += both_sides(f"{name} to flange", leg, (p(*run[0]), p(*stop)), at.x, t, d(0.0, way), (owner, name))
    return plate, welds
