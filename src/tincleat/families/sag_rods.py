"""Sag rods: round bars through the webs of purlins or girts that lie beside each other, from each to the next.

Joint frame: origin on the first member's middle line, x along the row, y along the members, z up.
"""

import math
from itertools import pairwise

import numpy as np

from tincleat.catalogue.fasteners import bolt_size
from tincleat.details.parts import Detail, Dimension, SheetView, Tie, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import ANCHOR_GRADES, BOLT_SIZES, Family, Given, Setting
from tincleat.families.example import a_member, at_station
from tincleat.geometry.frames import Array, Frame, vec
from tincleat.joints.case import Case, CaseMember
from tincleat.kit.cope import web_of
from tincleat.kit.drill import drilled
from tincleat.kit.layout import down
from tincleat.kit.tie import bolted_bar, welded_bar
from tincleat.project.entities import HouseRules
from tincleat.steel.cuts import MemberHole

WIDEST = 4000.0  # mm from web to web that one rod bridges
LONGEST = 12000.0  # mm of one bar through a whole row
IN_LINE = 1.0  # mm that the holes of one bar may lie off its line
SQUARE = math.radians(2.0)  # between a welded rod and a web's normal
TAPER = math.radians(3.0)  # from which on a nut wants a taper washer
SLANT = math.radians(20.0)  # at most, between a rod with nuts and a web's normal
TOP, MIDDLE, BOTTOM = "top", "middle", "bottom"
STAGGERED, THROUGH = "staggered", "in line"

SETTINGS = (
    Setting("size", "Rod", "choice", "Rods", lambda h: "5/8in" if h.inch else "M16", "Diameter of the rods.", choices=BOLT_SIZES),
    Setting("grade", "Grade", "choice", "Rods", lambda h: "F1554-36" if h.inch else "4.6", "Grade of the rods and nuts.", choices=ANCHOR_GRADES),
    Setting("arrange", "Arranged", "choice", "Rods", STAGGERED, "Staggered: a rod from each member to the next, side by side where they meet. In line: one bar through the whole row.", choices=(STAGGERED, THROUGH)),
    Setting("stagger", "Stagger", "length", "Rods", 50.0, "Distance between rods that meet at a member, so that their nuts can be turned.", 0, 300, inches=50.8),
    Setting("begins", "First rod", "choice", "Rods", "near side", "The side of the line that the first of staggered rods lies on.", choices=("near side", "far side"), handed=True),
    Setting("level", "From", "choice", "Place", MIDDLE, "What the rods' height is measured from.", choices=(MIDDLE, TOP, BOTTOM)),
    Setting("drop", "Height", "length", "Place", None, "Down from the top, up from the bottom, or over the middle; a third of the depth, or none from the middle, if not typed.", -600, 1200),
    Setting("projection", "Projection", "length", "Ends", 40.0, "How far a rod stands out of the outer face; 0 is a plain rod welded between the faces.", 0, 300, inches=44.45),
    Setting("nuts", "Nuts", "choice", "Ends", "on both faces", "On both faces of every web, or on the outer ones only.", choices=("on both faces", "outside")),
    Setting("washers", "Washers", "flag", "Ends", True, "A washer under each nut."),
    Setting("thread", "Thread", "length", "Ends", None, "Length of thread from each end; enough for the inner nut and some to turn if not typed.", 10, 1000),
    Setting("weld_leg", "Weld leg", "length", "Ends", None, "Fillet round each end of a welded rod.", 3, 20),
)  # fmt: skip


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit unless members with one web each lie beside each other, no further apart than a rod bridges."""
    if case.kind != "row":
        raise NoFit(f"sag rods run through a row of members; this is a {case.kind}", right="members beside each other and a station on the first, such as m12+m13+m14@2500")
    for i, m in enumerate(case.members, 1):
        if web_of(m.shape.elements) is None:
            raise NoFit(f"{m.section}, number {i} of the row, is a {m.shape.shape} section without one web that a rod goes through", right="I-sections, channels or zeds")
    for i, (a, b) in enumerate(pairwise(case.members), 1):
        gap = math.dist(a.frame.origin, b.frame.origin)
        if gap > WIDEST:
            raise NoFit(f"numbers {i} and {i + 1} of the row lie {gap:.0f} mm apart", right=f"at most {WIDEST:.0f} mm from web to web")


def _web(m: CaseMember, y: float, level: str, drop: float) -> tuple[Array, Array, float]:
    """The middle of a member's web at ``y`` along the row's members and at the rods' height, the web's normal, and its thickness."""
    web = web_of(m.shape.elements)
    assert web is not None
    up = 1.0 if m.frame.z[2] > 0 else -1.0
    high = {TOP: m.shape.h / 2 - drop, BOTTOM: drop - m.shape.h / 2, MIDDLE: drop}[level] * up
    along = np.array(m.frame.x)
    point = m.frame.to_world(np.array([(0.0, web.at, high)]))[0]
    return point + along * ((y - point[1]) / along[1]), np.array(m.frame.y), web.thickness


def build(case: Case, given: Given) -> Detail:
    """Rods from web to web, with nuts or welded; holes where they pass."""
    house, members = given.house, case.members
    step = 3.175 if house.inch else 5.0
    size, grade = str(given.value("size")), str(given.value("grade"))
    level, projection = str(given.value("level")), float(given.value("projection"))
    shallow = min(m.shape.h for m in members)
    drop = float(given.worked_out("drop", 0.0 if level == MIDDLE else down(shallow / 3, step)))
    for i, m in enumerate(members, 1):
        over = abs(drop) if level == MIDDLE else abs(m.shape.h / 2 - drop)
        if over + bolt_size(size).washer_d / 2 > m.shape.h / 2 - m.shape.root:
            raise NoFit(f"a rod {over:.0f} mm off the middle of {m.section}, number {i} of the row, leaves its straight web, {m.shape.h - 2 * m.shape.root:.0f} mm high", right=f"at most {m.shape.h / 2 - m.shape.root - bolt_size(size).washer_d / 2:.0f} mm off the middle")
    arrange = str(given.value("arrange"))
    stagger = float(given.value("stagger")) if arrange == STAGGERED and projection and len(members) > 2 else 0.0
    first = (1.0 if given.value("begins") == "near side" else -1.0) if stagger else 1.0
    ties: list[Tie] = []
    welds: list[Weld] = []
    passed: list[tuple[int, Array, Array]] = []  # member, point in its web, the bar's direction
    if arrange == THROUGH and projection:
        webs = [_web(m, 0.0, level, drop) for m in members]
        _straight(webs)
        ties.append(_bolted(given, "rod", size, grade, webs, projection, step))
        passed = [(i, p, np.array(ties[0].frame.x)) for i, (p, _, _) in enumerate(webs)]
    else:
        leg = given.rounded("weld_leg", 4.7625 if house.inch else 5.0, "weld leg") if not projection else 0.0
        for i, (a, b) in enumerate(pairwise(members)):
            name = "rod" if len(members) == 2 else f"rod {i + 1}"
            y = stagger / 2 * (1.0 if i % 2 else -1.0) * first
            webs = [_web(a, y, level, drop), _web(b, y, level, drop)]
            if projection:
                tie = _bolted(given, name, size, grade, webs, projection, step)
                passed += [(i + k, webs[k][0], np.array(tie.frame.x)) for k in (0, 1)]
            else:
                tie, some = _welded(name, size, grade, webs, leg, (f"row member {i + 1}", f"row member {i + 2}"))
                welds += some
            ties.append(tie)
    holes: list[MemberHole] = []
    for i, point, axis in passed:
        width = _hole(house, size, _web(members[i], 0.0, level, drop), axis)
        holes += drilled(case, i, [point], np.array(members[i].frame.y), width, width, members[i].frame.x)
    return Detail(
        "sag rods", (), (), tuple(welds), holes=tuple(holes), ties=tuple(ties), numbers=tuple(given.numbers.values()), views=_views(members, ties),
        dimensions=_dimensions(members, ties, projection, stagger, level, drop),
    )  # fmt: skip


def _spot(web: tuple[Array, Array, float], axis: Array) -> tuple[Array, float]:
    """Where a bar passes a web and half the web's thickness along the bar; raises NoFit with the angle where it hardly passes it."""
    point, normal, thickness = web
    slant = math.acos(min(1.0, abs(float(normal @ axis))))
    if slant > SLANT:
        raise NoFit(f"a rod would pass a web {math.degrees(slant):.0f}° off square", right=f"at most {math.degrees(SLANT):.0f}°; members whose webs face each other")
    return point, thickness / 2 / abs(float(normal @ axis))


def _hole(house: HouseRules, size: str, web: tuple[Array, Array, float], axis: Array) -> float:
    """The hole for a bar that passes a web at a slant: normal if it passes, else oversize; raises NoFit with the angle."""
    c = abs(float(web[1] @ axis))
    slant = math.acos(min(1.0, c))
    need = bolt_size(size).d / c + web[2] * math.tan(slant)
    for kind in ("normal", "oversize"):
        if house.hole(size, kind)[0] >= need:
            return house.hole(size, kind)[0]
    raise NoFit(f"a {size} rod {math.degrees(slant):.1f}° off square to a web {web[2]:g} mm thick needs a hole of {need:.1f} mm", right=f"at most {house.hole(size, 'oversize')[0]:g} mm, oversize")


def _bolted(given: Given, name: str, size: str, grade: str, webs: "list[tuple[Array, Array, float]]", projection: float, step: float) -> Tie:
    axis = webs[-1][0] - webs[0][0]
    axis = axis / np.linalg.norm(axis)
    inner, washers = given.value("nuts") == "on both faces", bool(given.value("washers"))
    typed = float(given.worked_out("thread", 0.0)) if given.has("thread") else None
    slanting = max(math.acos(min(1.0, abs(float(n @ axis)))) for _, n, _ in webs) > TAPER
    b = bolt_size(size)
    wide = max(b.washer_d, 2 / 3**0.5 * b.head_af) / 2 if washers else b.head_af / 3**0.5
    stand = [wide * math.tan(math.acos(min(1.0, abs(float(n @ axis))))) for _, n, _ in webs] if not slanting else None
    tie = bolted_bar(name, size, grade, [_spot(w, axis) for w in webs], projection, inner, washers or slanting, typed, step, [n for _, n, _ in webs] if slanting else [], stand)
    if typed is None:
        given.worked_out("thread", tie.threads[0])
    return tie


def _welded(name: str, size: str, grade: str, webs: "list[tuple[Array, Array, float]]", leg: float, parts: tuple[str, str]) -> tuple[Tie, list[Weld]]:
    axis = webs[-1][0] - webs[0][0]
    axis = axis / np.linalg.norm(axis)
    for _, normal, _ in webs:
        slant = math.acos(min(1.0, abs(float(normal @ axis))))
        if slant > SQUARE:
            raise NoFit(f"a welded rod would stand {math.degrees(slant):.1f}° off square to the web", right=f"at most {math.degrees(SQUARE):.0f}°; a rod with nuts")
    # where it is not quite square its end touches the web on one side alone
    ends = [(p, half + bolt_size(size).d / 2 * math.tan(math.acos(min(1.0, abs(float(n @ axis)))))) for (p, half), (_, n, _) in ((_spot(w, axis), w) for w in webs)]
    return welded_bar(name, size, grade, (ends[0], ends[1]), leg, parts)


def _straight(webs: "list[tuple[Array, Array, float]]") -> None:
    """Raise NoFit unless the points in the webs lie in one line."""
    points = np.array([p for p, _, _ in webs])
    axis = points[-1] - points[0]
    long = float(np.linalg.norm(axis))
    off = points - points[0]
    off = np.linalg.norm(off - np.outer(off @ axis, axis) / long**2, axis=1)
    if off.max() > IN_LINE:
        raise NoFit(f"number {int(off.argmax()) + 1} of the row lies {off.max():.1f} mm off one line", right=f"at most {IN_LINE:g} mm; rods that are staggered")
    if long > LONGEST:
        raise NoFit(f"one bar through the row would be {long:.0f} mm long", right=f"at most {LONGEST:.0f} mm; rods that are staggered")


def _views(members: "tuple[CaseMember, ...]", ties: list[Tie]) -> tuple[SheetView, ...]:
    """The first rod along the members and from above, and one that slants on its webs where there is one: the others repeat them."""
    through = len(ties) < len(members) - 1
    title = "Along the members" if len(members) == 2 or through else f"Rod 1 of {len(ties)}, along the members"
    out = [_beside("front", title, members[0], members[1], ties[0]), _beside("plan", "From above", members[0], members[1], ties[0])]
    slanting = next((i for i, t in enumerate(ties) if t.seats and i), None)
    if slanting is not None:
        out.append(_beside("slanting", f"Rod {slanting + 1}, along the members", members[slanting], members[slanting + 1], ties[slanting]))
    return tuple(out)


def _beside(name: str, title: str, a: CaseMember, b: CaseMember, tie: Tie) -> SheetView:
    """A view of one rod between two members, the rod lying level on the paper."""
    x = np.array(tie.frame.x)
    x = x * np.array([1.0, 0.0, 1.0])
    x = x / np.linalg.norm(x)
    up = np.array([-x[2], 0.0, x[0]])
    frame = Frame(tie.frame.origin, vec(x), vec(up)) if name == "plan" else Frame(tie.frame.origin, vec(x), (0.0, -1.0, 0.0))
    middles = frame.to_local(np.array([a.frame.origin, b.frame.origin]))
    aside, high = max(a.shape.b, b.shape.b, 120.0), max(a.shape.h, b.shape.h) / 2
    low, far = float(middles[0, 0]) - aside, float(middles[1, 0]) + aside
    if name == "plan":
        return SheetView(name, title, frame, (low, -150.0, far, 150.0))
    levels = middles[:, 1]
    return SheetView(name, title, frame, (low, float(levels.min()) - high - 60, far, float(levels.max()) + high + 60))


def _dimensions(members: "tuple[CaseMember, ...]", ties: list[Tie], projection: float, stagger: float, level: str, drop: float) -> tuple[Dimension, ...]:
    """Rod, projection, thread and height seen along the members; the stagger from above."""
    first = ties[0]
    tip, inner = (first.frame.to_world(np.array([(x, 0.0, 0.0)]))[0] for x in (0.0, min(first.threads[0], first.length)))
    # to the web's face as it is: a taper washer takes more
    face = first.frame.to_world(np.array([(first.nuts[0][0] if first.nuts else 0.0, 0.0, 0.0)]))[0]
    end = first.frame.to_world(np.array([(first.length, 0.0, 0.0)]))[0]
    out = [Dimension("front", "bottom", 1, (vec(tip), vec(end)), ("",))] if len(ties) == len(members) - 1 else []
    if projection:
        out.append(Dimension("front", "bottom", 0, (vec(tip), vec(face)), ("projection",)))
        if first.threads[0] < first.length:
            out.append(Dimension("front", "top", 0, (vec(tip), vec(inner)), ("thread",)))
    m = members[0]
    up = 1.0 if m.frame.z[2] > 0 else -1.0
    if level != MIDDLE or abs(drop) > 0.5:
        height = {TOP: m.shape.h / 2, BOTTOM: -m.shape.h / 2, MIDDLE: 0.0}[level] * up
        point = m.frame.to_world(np.array([(0.0, 0.0, height)]))[0]
        along = np.array(m.frame.z) * up
        out.append(Dimension("front", "left", 0, (vec(face), vec(face + along * float((point - face) @ along))), ("drop",)))
    if stagger and len(ties) > 1:
        other = ties[1].frame.origin
        out.append(Dimension("plan", "right", 0, (vec(end), (float(end[0]), other[1], float(end[2]))), ("stagger",)))
    ridge = next((t for i, t in enumerate(ties) if t.seats and i), None)
    if ridge is not None:
        ends = ridge.frame.to_world(np.array([(0.0, 0.0, 0.0), (ridge.length, 0.0, 0.0)]))
        out.append(Dimension("slanting", "bottom", 0, (vec(ends[0]), vec(ends[1])), ("",)))
    return tuple(out)


FAMILY = Family(
    "sag-rods", "Sag rods", ("anti-sag rod", "tie rod", "purlin rod", "girt rod", "bridging"), ("row",), SETTINGS, fits, build,
    {
        "tie-edge": ("drop", "size"), "tie-projection": ("projection",), "tie-thread": ("thread",), "tie-spacing": ("stagger",), "tie-hole": ("size",),
        "fillet-throat": ("weld_leg",), "fillet-leg-least": ("weld_leg",), "clash": ("stagger", "drop"),
    },
    situations=("secondary",), example=at_station(*(a_member("UPE 160", (x, 0.0, 3000.0), (x, 6000.0, 3000.0), "purlin") for x in (0.0, 1500.0)), at=3000.0),
)  # fmt: skip
