"""Trimmer cleat: a plate bent to a right angle that bolts the end of a trimmer to the web of a purlin, girt or channel.

Joint frame: that of a beam's end on a web; everything is laid out from where the trimmer's middle line meets that web's face.
"""

import math
from dataclasses import dataclass

import numpy as np
from shapely.geometry import box
from shapely.geometry.base import BaseGeometry

from tincleat.catalogue.fasteners import bolt_size
from tincleat.details.parts import BentPlate, Bolts, Detail, Dimension, Flat, Hole, SheetView
from tincleat.errors import NoFit
from tincleat.families.declare import BOLT_GRADES, BOLT_SIZES, STEEL_GRADES, Family, Given, Setting
from tincleat.families.example import a_member, at_end
from tincleat.geometry.frames import Array, Frame, Vec3, crossed, vec
from tincleat.joints.case import Case
from tincleat.kit.cope import web_of
from tincleat.kit.drill import drilled
from tincleat.kit.layout import centred, down, up
from tincleat.project.entities import HouseRules
from tincleat.standards.rulesets import rules_of
from tincleat.steel.cuts import EndCut, MemberHole

SHAPES = ("Z", "CF", "C")
OFF_LIP = 2.0  # mm that the cleat stays off a lip
MOST_TURN = math.radians(1.0)
SIDES = ("near side", "far side")

SETTINGS = (
    Setting("thickness", "Thickness", "length", "Cleat", 5.0, "Of the bent plate.", 2, 20, inches=6.35),
    Setting("radius", "Bend radius", "length", "Cleat", None, "Inside of the bend; by the house rule if not typed.", 1, 100),
    Setting("side", "Cleat on the", "choice", "Cleat", None, "Side of the trimmer's web; the back of a channel, the near side of a zed, if not typed.", choices=SIDES, handed=True),
    Setting("gap", "Gap", "length", "Cleat", 5.0, "From the support's lips, or its web, to the trimmer's end.", 1, 100, inches=6.35),
    Setting("grade", "Grade", "choice", "Cleat", lambda h: h.plate_grade, "Steel grade of the cleat.", choices=STEEL_GRADES),
    Setting("bolt", "Bolt", "choice", "Bolts", lambda h: "1/2in" if h.inch else "M12", "Size of the bolts.", choices=BOLT_SIZES),
    Setting("bolt_grade", "Bolt grade", "choice", "Bolts", lambda h: h.bolt_grade, "Strength class of the bolts.", choices=BOLT_GRADES),
    Setting("pitch", "Bolts over each other", "spacings", "Bolts", None, "Spacings up the webs; two rows as far apart as the webs' straight parts hold, up to 100 mm or 4 in, if not typed.", 0, 600),
    Setting("end_distance", "End distance", "length", "Bolts", None, "From the trimmer's end to its bolts.", 10, 200),
    Setting("off_web", "Off the trimmer", "length", "Bolts", None, "From the trimmer's web to the bolts in the support; as far as heads and sockets need if not typed.", 15, 300),
    Setting("edge", "Edge", "length", "Cleat", None, "From bolts to the cleat's edges.", 10, 100),
)  # fmt: skip


@dataclass(frozen=True)
class _Lie:
    """How the trimmer lies on the web: origin, ways out of the web and up (joint's frame), where its web is across, and the support's zone and reach."""

    o: Array
    x: Array
    z: Array
    web: float
    thick: float
    back: float  # the side of the trimmer's web that is flat all over; 0 for a zed
    low: float  # of the straight part of both webs, between the support's lips, from the trimmer's middle
    high: float
    middle: float  # of what both webs have straight
    reach: float  # of the support's steel out of its web's face, before the trimmer's depth
    behind: float  # thickness of the support's web
    askew: tuple[float, float]  # how far across the trimmer's web goes for every mm out of the support's, and up it

    @property
    def y(self) -> Array:
        """Across: z x x."""
        return crossed(self.z, self.x)

    def at(self, x: float, y: float, z: float) -> Vec3:
        """A point ``x`` out of the web, ``y`` across, ``z`` up, in the joint."""
        return vec(self.o + self.x * x + self.y * y + self.z * z)


def _parts(found: BaseGeometry) -> list[BaseGeometry]:
    return [g for g in getattr(found, "geoms", [found]) if g.area > 0.0]


def _lie(case: Case) -> _Lie:
    trimmer, support = case.supported, case.support
    assert support is not None
    web, own = web_of(support.shape.elements), web_of(trimmer.shape.elements)
    assert web is not None and own is not None
    away = np.array(trimmer.away)
    sign = math.copysign(1.0, float(away @ np.array(support.frame.y)))
    n = np.array(support.frame.y) * sign
    turned = math.acos(min(1.0, float(away @ n)))
    if turned > MOST_TURN:
        raise NoFit(f"the trimmer comes {math.degrees(turned):.1f}° off square to the web", right=f"at most {math.degrees(MOST_TURN):.0f}°")
    z = np.array(support.frame.z) * (1.0 if support.frame.z[2] >= 0 else -1.0)
    if abs(float(z @ np.array(trimmer.frame.z))) < 0.9998:
        raise NoFit("the trimmer's web does not stand along the support's", right="a trimmer rolled as its support is")
    face = web.at * sign + web.thickness / 2
    p = support.frame.o + n * face
    o = trimmer.frame.o + away * (float((p - trimmer.frame.o) @ n) / float(away @ n))
    up_ = float((support.frame.o - o) @ z)  # the support's middle over the trimmer's
    y = crossed(z, n)
    across = float(np.array(trimmer.frame.y) @ y)
    at = own.at * across + float((trimmer.frame.o - o) @ y)
    half, other = trimmer.shape.h / 2 - trimmer.shape.root, support.shape.h / 2 - support.shape.root
    way = math.copysign(1.0, float(np.array(support.frame.z) @ z))
    outer = support.shape.outer.polygon()
    spans = sorted((v - up_) * way for v in (-trimmer.shape.h / 2 - 1.0, trimmer.shape.h / 2 + 1.0))
    met = outer.intersection(box(-1e4, spans[0], 1e4, spans[1]))
    reach = max(v * sign for v in (met.bounds[0], met.bounds[2])) - face if not met.is_empty else 0.0
    low, high = max(-half, up_ - other), min(half, up_ + other)
    middle = (low + high) / 2
    # the leg along the trimmer runs out of the web between the support's flanges, and between their lips
    y0, y1 = sorted((sign * (face + support.shape.root), sign * 1e4))
    for part in _parts(outer.intersection(box(y0, -1e4, y1, 1e4))):
        under, over = sorted(v * way + up_ for v in (part.bounds[1], part.bounds[3]))
        if over - under > support.shape.tf + 1.0:  # with a lip
            low, high = (low, min(high, under - OFF_LIP)) if under + over > 2 * up_ else (max(low, over + OFF_LIP), high)
    square = np.array(trimmer.frame.y)
    askew = (float(away @ y) / float(away @ n), -float(square @ z) / float(square @ y))
    back = 0.0 if trimmer.shape.shape == "Z" else math.copysign(1.0, own.at * across)
    return _Lie(o, n, z, at, own.thickness, back, low, high, middle, max(reach, 0.0), web.thickness, askew)


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless a zed or channel ends square on the web of another."""
    if case.kind != "beam to beam web" or case.support is None or len(case.members) > 2:
        raise NoFit(f"a trimmer cleat holds one trimmer on a web; this is a {case.kind}", right="the end of a zed or channel on another's web")
    for m in case.members:
        if m.shape.shape not in SHAPES:
            raise NoFit(f"{m.shape.name} is a {m.shape.shape} section", right="zeds, lipped channels and channels")
    _lie(case)


def build(case: Case, given: Given) -> Detail:
    """The bent cleat, its bolts in both webs, the trimmer's end cut clear of the support's lips."""
    house, lie = given.house, _lie(case)
    step, fine = (6.35, 1.5875) if house.inch else (5.0, 1.0)
    t = float(given.value("thickness"))
    radius = float(given.worked_out("radius", up(house.bend_least * t, fine)))
    outer = radius + t
    b = bolt_size(str(given.value("bolt")), given.house.tighten_room)
    hole = house.hole(b.name, "normal")
    least = rules_of(house).edge_least(b, Hole(0, 0, *hole), False).value
    edge = float(given.worked_out("edge", up(max(least, 1.5 * b.d), step)))
    room = lie.high - lie.low - 2 * edge
    usual = 101.6 if house.inch else 100.0
    tight = up(max(rules_of(house).spacing_least(b, Hole(0, 0, *hole), True).value, 3 * b.d), step)
    solid = [m.shape.tw for m in case.members if m.shape.shape == "C"]  # of hot-rolled steel: its bolts stand no further apart than keeps water out
    most = min((rules_of(house).spacing_greatest(min(t, w)).value for w in solid), default=math.inf) if house.exposed else math.inf
    gaps = tuple(given.worked_out("pitch", (min(down(room, step), down(most, step) if math.isfinite(most) else usual, usual),) if room >= tight else ()))
    if sum(gaps) > room + 0.05:
        raise NoFit(f"between roots and lips of both webs {lie.high - lie.low:.0f} mm are straight; the cleat takes {sum(gaps) + 2 * edge:.0f} mm", right="smaller bolts, fewer of them, or members at one level")
    half = sum(gaps) / 2 + edge
    rows = centred(gaps, min(max(lie.middle, lie.low + half), lie.high - half))
    low, high = rows[0] - edge, rows[-1] + edge
    near = -1.0 if str(given.worked_out("side", SIDES[0] if lie.back <= 0 else SIDES[1])) == SIDES[0] else 1.0
    start = up(lie.reach + float(given.value("gap")), fine)
    clear = t + b.head_height + b.socket / 2 + 1.0
    first = float(given.worked_out("end_distance", up(max(least, 1.5 * b.d, clear - start), step)))
    along = start + first
    if along < outer + b.washer_d / 2:
        raise NoFit(f"the trimmer's bolts would stand {along:.0f} mm from the web, in the bend", right=f"an end distance of {up(outer + b.washer_d / 2 - start, step):.0f} mm or more")
    aside = float(given.worked_out("off_web", up(max(clear, outer + b.washer_d / 2 + 1.0), step)))
    if aside < outer + b.washer_d / 2:
        raise NoFit(f"the support's bolts would stand {aside:.0f} mm from the trimmer's web, in the bend", right=f"{up(outer + b.washer_d / 2, step):.0f} mm or more")
    tip = along + edge
    # where the trimmer is not quite square the leg lies on its web where that comes nearest
    beside = [near * (lie.askew[0] * x + lie.askew[1] * z) for x in (start, tip) for z in (low, high)]
    spare = rules_of(house).ply_gap.value
    if max(beside) - min(beside) > spare:
        raise NoFit(f"the trimmer's web stands {max(beside) - min(beside):.1f} mm out of square over the cleat's leg", right=f"at most {spare:g} mm")
    face = lie.web + near * (lie.thick / 2 + max(beside))
    plate = BentPlate(
        "cleat", (Flat(tip - outer, tuple(Hole(tip - along, near * r, *hole) for r in rows)), Flat(aside + edge - outer, tuple(Hole(aside - outer, near * r, *hole) for r in rows))),
        (math.pi / 2,), radius, min(near * low, near * high), max(near * low, near * high), t, Frame.of(lie.at(tip, face, 0.0), vec(-lie.x), vec(lie.y * near)), str(given.value("grade")),
    )  # fmt: skip
    grade = str(given.value("bolt_grade"))
    mine = [lie.at(along, face + near * t / 2, r) for r in rows]
    theirs = [lie.at(t / 2, face + near * aside, r) for r in rows]
    groups = (
        Bolts("bolts in the trimmer", b.name, grade, tuple(mine), vec(lie.y * -near), vec(lie.z), "normal"),
        Bolts("bolts in the support", b.name, grade, tuple(theirs), vec(-lie.x), vec(lie.z), "normal"),
    )
    drill: list[MemberHole] = [*drilled(case, 0, mine, lie.y, *hole, lie.z), *drilled(case, 1, theirs, lie.x, *hole, lie.z)]
    return Detail(
        "trimmer cleat", (), groups, (), ends=(EndCut(0, lie.at(start, 0.0, 0.0), vec(lie.x)),), holes=tuple(drill), bents=(plate,), numbers=tuple(given.numbers.values()),
        dimensions=(
            Dimension("plan", "bottom", 0, (lie.at(0.0, lie.web, low), lie.at(start, lie.web, low), lie.at(along, lie.web, low), lie.at(tip, lie.web, low)), ("", "end_distance", "edge")),
            Dimension("plan", "left", 0, (lie.at(0.0, face, low), lie.at(0.0, face + near * aside, low), lie.at(0.0, face + near * (aside + edge), low)), ("off_web", "edge")),
            Dimension("front", "right", 0, (lie.at(tip, face, high), *(lie.at(tip, face, r) for r in rows[::-1]), lie.at(tip, face, low)), ("edge", *("pitch",) * len(gaps), "edge")),
        ),
        views=(
            SheetView("front", "Front", Frame.of(vec(lie.o), vec(lie.x * -near), vec(lie.y * near))),
            SheetView("side", "Along the trimmer", Frame.of(vec(lie.o), vec(lie.y), vec(lie.x))),
            SheetView("plan", "Plan", Frame.of(vec(lie.o), vec(lie.x), vec(lie.z))),
        ),
    )  # fmt: skip


FAMILY = Family(
    "trimmer-cleat", "Trimmer cleat", ("opening", "roof light", "door", "window", "purlin trimmer", "girt trimmer", "cold-formed"), ("beam to beam web",), SETTINGS, fits, build,
    {
        "edge-least": ("edge", "end_distance"), "edge-greatest": ("edge", "end_distance"), "spacing-least": ("pitch",), "spacing-greatest": ("pitch",), "bend-radius": ("radius",), "bend-hole": ("end_distance", "off_web"),
        "bolt-room": ("end_distance", "off_web"), "plate-stock": ("thickness",),
    },
    situations=("secondary",), example=at_end(a_member("Z200x65x20x2", (-3000.0, 0.0, 3000.0), (3000.0, 0.0, 3000.0), "purlin"), a_member("CF 200x65x20x2", (0.0, 0.0, 3000.0), (0.0, 1500.0, 3000.0), "purlin"), end="start"),
)  # fmt: skip
