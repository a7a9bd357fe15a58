"""Tube end plate: a plate across the end of a hollow section, bolted outside the tube to a flange or a web; two tubes that meet one web
from both sides share its bolts.

Joint frame: origin where the tube's middle line meets the support's face, x out along the tube.  Everything is laid out in the plate's
own plane: ``v`` along the support, ``w`` across it.
"""

import math
from dataclasses import dataclass

import numpy as np

from tincleat.catalogue.fasteners import bolt_size
from tincleat.details.assembled import role_words
from tincleat.details.parts import Bolts, Detail, Dimension, Hole, Plate, SheetView, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import BOLT_GRADES, BOLT_SIZES, STEEL_GRADES, Family, Given, Setting, bolt_choice
from tincleat.families.example import a_beam, a_column, at_end
from tincleat.geometry.frames import Array, Frame, Vec3, crossed, unit, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case, CaseMember
from tincleat.kit.drill import drilled
from tincleat.kit.face import FLANGED, face_of, face_width, keep_on
from tincleat.kit.foot import foot_welds, footprint, leaned, legs_round, stands_on
from tincleat.kit.layout import centred, down, up
from tincleat.kit.packs import stocked
from tincleat.project.entities import HouseRules
from tincleat.standards.rulesets import rules_of
from tincleat.steel.cuts import EndCut

KINDS = ("beam to column flange", "beam to column web", "beam to beam web", "beam on flange")
MOST_SKEW = math.radians(1)
ALONG, ACROSS, ROUND = "along the support", "across the support", "all round"
Spots = list[tuple[float, float]]

SETTINGS = (
    Setting("thickness", "Plate thickness", "length", "Plate", None, "As thick as the bolt on plate stock if not typed.", 5, 100),
    Setting("grade", "Plate grade", "choice", "Plate", lambda h: h.plate_grade, "Steel grade of the plate.", choices=STEEL_GRADES),
    Setting("edge", "Edge distance", "length", "Plate", None, "From the bolts to the plate's edge.", 15, 300),
    Setting("pack", "Pack", "length", "Plate", 0.0, "Thickness of a pack between plate and support; 0 is none.", 0, 60),
    Setting("where", "Bolts stand", "choice", "Bolts", None, "Past the tube along the support, across it, or on all four sides; along it, or all round where they would stand too far apart, if not typed.",
            choices=(ALONG, ACROSS, ROUND)),
    Setting("off", "Bolts off the tube", "length", "Bolts", None, "From the tube's wall to the bolts past it; room for weld and socket if not typed.", 10, 300),
    Setting("gauge", "Gauge", "spacings", "Bolts", None, "Spacings of the bolts in each row across the support.", 0, 600),
    Setting("pitch", "Pitch", "spacings", "Bolts", None, "Spacings of the bolts beside the tube along the support.", 0, 600),
    Setting("bolt", "Bolt", "choice", "Bolts", bolt_choice, "Size of the bolts.", choices=BOLT_SIZES),
    Setting("bolt_grade", "Bolt grade", "choice", "Bolts", lambda h: h.bolt_grade, "Strength class of the bolts.", choices=BOLT_GRADES),
    Setting("weld_leg", "Weld leg", "length", "Welds", None, "Fillet all round the tube.", 3, 30),
)  # fmt: skip


@dataclass(frozen=True)
class _Plane:
    """The support's face: where the tube's middle meets it, its normal towards the first tube, and the ways along and across the support."""

    point: Array
    n: Array
    v: Array
    w: Array
    room: tuple[float, float]  # how far the face goes across from the tube's middle
    back: float  # on a flange: from the tube's middle to that of the web behind it, across
    flange: bool

    def at(self, v: float, w: float, off: float = 0.0) -> Array:
        return self.point + self.v * v + self.w * w + self.n * off


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless hollow sections come square to a flange or web that a bolt can pass."""
    if case.kind not in KINDS or case.support is None:
        raise NoFit(f"a tube end plate is bolted to a flange or web; this joint is a {case.kind}", right="the end of a tube at such a face")
    support = case.support.shape
    if support.shape not in ("I", "C", "T"):
        raise NoFit(f"{support.name} is a {support.shape} section: nobody can hold a nut behind its wall", right="an I-section or channel")
    for _, m in case.all("supported"):
        if m.shape.shape not in ("CHS", "RHS"):
            raise NoFit(f"{m.shape.name} is a {m.shape.shape} section; this plate closes a hollow one", right="an end plate, a fin plate or cleats")
        n, _ = face_of(case, m)
        off = math.acos(min(1.0, abs(float(n @ np.array(m.away)))))
        if off > MOST_SKEW:
            raise NoFit(f"{m.shape.name} comes {math.degrees(off):.1f}° off square to the face", right=f"at most {math.degrees(MOST_SKEW):.0f}°; a gusset takes tubes at an angle")


def _plane(case: Case) -> _Plane:
    assert case.support is not None
    first, support = case.supported, case.support
    n, p = face_of(case)
    point = first.frame.o + np.array(first.frame.x) * float(n @ (p - first.frame.o)) / float(n @ np.array(first.frame.x))
    line = np.array(support.frame.x)
    lead = line[2] if abs(line[2]) > 1e-6 else float(line @ np.array((0.0, 1.0, 0.0)))
    v = unit((line - n * float(line @ n)) * math.copysign(1.0, lead))
    w = crossed(v, n)
    across, low, high = face_width(case)
    s = math.copysign(1.0, float(across @ w))
    middle = float((support.frame.o - point) @ w)
    room = (middle + min(s * low, s * high), middle + max(s * low, s * high))
    return _Plane(point, n, v, w, room, middle, case.kind in FLANGED)


def build(case: Case, given: Given) -> Detail:
    """A plate a tube, the bolts they share, welds all round, tubes cut back, holes in the support."""
    house = given.house
    plane = _plane(case)
    step = 6.35 if house.inch else 5.0
    tubes = case.all("supported")
    assert case.support is not None
    for _, m in tubes[1:]:
        aside = (m.frame.o - plane.point) - plane.n * float((m.frame.o - plane.point) @ plane.n)
        if np.linalg.norm(aside) > 1.0:
            raise NoFit(f"the middles of the two tubes lie {np.linalg.norm(aside):.0f} mm beside each other", right="tubes on one line, or plates of their own")
    size = bolt_size(str(given.value("bolt")), given.house.tighten_room)
    hole, _ = house.hole(size.name, "normal")
    t = float(given.worked_out("thickness", stocked(size.d, house)))
    pack = float(given.value("pack"))
    leg = given.rounded("weld_leg", legs_round(min((m.shape for _, m in tubes), key=lambda s: s.tw), t, house.inch)[0], "weld leg")
    off = float(given.worked_out("off", up(max(size.clear, leg + size.washer_d / 2 + 2.0), step)))
    edge = float(given.worked_out("edge", up(max(rules_of(house).edge_least(size, Hole(0, 0, hole, hole), False).value, 1.5 * size.d), step)))
    prints = [footprint(m.shape, _foot(m, plane.point, np.array(m.away)), vec(plane.v), vec(plane.w)) for _, m in tubes]
    half = (max(p[0] for p in prints), max(p[1] for p in prints))
    if plane.room[0] > -half[1] - leg or plane.room[1] < half[1] + leg:
        raise NoFit(f"the tube is {2 * half[1]:.0f} mm across and {case.support.shape.name} leaves {min(-plane.room[0], plane.room[1]):.0f} mm to one side of its middle", right="a tube with its weld inside the face")
    spots, (a, b, c, d) = _layout(case, given, plane, half, off, edge, step, leg, size.name)
    keep_on(case.support, [plane.at(v, w) for v in (b, d) for w in (a, c)], "the end plate")
    grade = str(given.value("grade"))
    outline = Outline.rectangle(a, b, c, d)
    holes = tuple(Hole(w, v, hole, hole) for v, w in spots)
    web = _thickness(case, plane)
    plates: list[Plate] = []
    welds: list[Weld] = []
    ends: list[EndCut] = []
    for i, (number, m) in enumerate(tubes):
        side = 1.0 if i == 0 else -1.0
        face = plane.point if i == 0 else plane.point - plane.n * web
        name = "end plate" if len(tubes) == 1 else f"end plate {i + 1}"
        if pack:
            plates.append(Plate("pack" if len(tubes) == 1 else f"pack {i + 1}", outline, pack, Frame.of(face + plane.n * (0.0 if i == 0 else -pack), plane.w, plane.n), grade, holes, ("pack", "")))
        plates.append(Plate(name, outline, t, Frame.of(face + plane.n * (pack if i == 0 else -pack - t), plane.w, plane.n), grade, holes, ("", "")))
        normal = plane.n * side
        front = face + normal * (pack + t)
        ends.append(EndCut(number, vec(front), vec(normal)))
        stand = stands_on(m, front, normal)
        welds += leaned(foot_welds(m.shape, stand, leg, leg, (name, role_words(m.role))), stand, vec(normal))
    points = tuple(vec(plane.at(v, w)) for v, w in spots)
    bolts = Bolts("bolts", size.name, str(given.value("bolt_grade")), points, vec(-plane.n), vec(plane.v))
    number = case.members.index(case.support)
    return Detail(
        "tube end plate", tuple(plates), (bolts,), tuple(welds), ends=tuple(ends), holes=drilled(case, number, points, plane.n, hole, hole, plane.v),
        dimensions=_dimensions(plane, spots, (a, b, c, d), t, pack, half), numbers=tuple(given.numbers.values()),
        views=_views(plane, (a, b, c, d), pack + t, web if len(tubes) > 1 else 0.0),
    )  # fmt: skip


def _views(plane: _Plane, box: tuple[float, float, float, float], out: float, web: float) -> tuple[SheetView, ...]:
    """The plate seen along the tube; from the side and from above with so much of each tube that it is seen what stands there."""
    more = 0.15 * (box[3] - box[1]) + 10.0
    tube = out + 0.4 * (box[3] - box[1])
    back = -(web + tube if web else 3 * more)
    return (
        SheetView("front", "Front", Frame.of(plane.point, plane.n, -plane.w), (back, box[1] - more, tube, box[3] + more)),
        SheetView("side", "Plate", Frame.of(plane.point, plane.w, plane.n)),
        SheetView("plan", "Plan", Frame.of(plane.point, plane.n, plane.v), (back, box[0] - more, tube, box[2] + more)),
    )


def _foot(m: CaseMember, at: Array, n: Array) -> Frame:
    """Where a tube stands on its plate: z up the tube, x along its depth."""
    return Frame.of(at, unit(np.array(m.frame.z) - n * float(np.array(m.frame.z) @ n)), n)


def _thickness(case: Case, plane: _Plane) -> float:
    """Of the web between two plates; with one tube it has no effect."""
    assert case.support is not None
    _, m = case.all("supported")[-1]
    _, p = face_of(case, m)
    return float((plane.point - p) @ plane.n)


def _layout(
    case: Case, given: Given, plane: _Plane, half: tuple[float, float], off: float, edge: float, step: float, leg: float, bolt: str
) -> tuple[Spots, tuple[float, float, float, float]]:
    """The bolts (along, across) and the plate's outline across and along: low, low, high, high."""
    assert case.support is not None
    shape, size, house = case.support.shape, bolt_size(bolt, given.house.tighten_room), given.house
    thin = min(shape.tf if plane.flange else shape.tw, float(given.numbers["thickness"].value))  # type: ignore[arg-type]
    far = rules_of(house).spacing_greatest(thin).value if house.exposed else math.inf
    long_side, wide = half[0] + off, half[1] + off
    root = shape.tw / 2 + max(shape.r1 + size.washer_d / 2, size.clear) if plane.flange else 0.0
    room = min(plane.back - plane.room[0], plane.room[1] - plane.back) if plane.flange else min(-plane.room[0], plane.room[1])
    middle = plane.back if plane.flange else 0.0  # bolts of a flange lie evenly to both sides of its web
    beside_fits = max(wide + abs(middle), root) + edge <= room + 1e-6
    usual = ROUND if 2 * long_side > far and beside_fits else ALONG
    where = str(given.worked_out("where", usual))
    spots: Spots = []
    gauge: tuple[float, ...] = ()
    if where != ACROSS:
        n = 1 if plane.flange else max(1, math.floor(2 * half[1] / (8 * size.d)))
        least = max(3 * size.d, 2 * root)
        gap = max(up(least, step), min(down(2 * half[1] / n, step), 88.9 if house.inch else 90.0) if n == 1 else down(2 * half[1] / n, step))
        gauge = (gap,) * n
    if where != ALONG:
        across = max(wide + abs(middle), root)
        n = max(1, math.floor(2 * half[0] / (5 * size.d)))
        pitch = (max(up(3 * size.d, step), down(2 * half[0] / n, step)),) * n if 2 * half[0] >= 3 * size.d else ()
        if where == ROUND:  # rows past the tube and bolts beside it keep their distance, or one of each does
            tries = [(g, p) for g in ((gauge, ()) if not plane.flange else (gauge,)) for p in (pitch, ())]
            gauge, pitch = next(((g, p) for g, p in tries if math.hypot(long_side - sum(p) / 2, across - sum(g) / 2) >= 3 * size.d), tries[-1])
        spots += [(v, middle + s * across) for s in (-1.0, 1.0) for v in centred(tuple(given.worked_out("pitch", pitch)))]
    if where != ACROSS:
        spots += [(s * long_side, w) for s in (-1.0, 1.0) for w in centred(tuple(given.worked_out("gauge", gauge)), middle)]
    us, ws = [abs(v) for v, _ in spots], [w - middle for _, w in spots]
    tall = up(2 * max(max(us) + edge, half[0] + leg + 5.0), step) / 2
    least_wide = max(max(abs(w) for w in ws) + edge, half[1] + abs(middle) + leg + 5.0)
    across = up(2 * least_wide, step) / 2
    if across > room + 0.05:
        across = max(least_wide, down(2 * room, step) / 2)
    if across > room + 0.05:
        raise NoFit(f"the plate is {2 * across:.0f} mm across and {shape.name} is {2 * room:.0f} mm there", right="smaller bolts, a smaller tube or a wider support")
    return spots, (middle - across, -tall, middle + across, tall)


def _dimensions(plane: _Plane, spots: Spots, box: tuple[float, float, float, float], t: float, pack: float, half: tuple[float, float]) -> tuple[Dimension, ...]:
    """Over the plate with its bolts, seen along the tube, how far they stand off it, and its thickness."""

    def p(v: float, w: float, off: float = 0.0) -> Vec3:
        return vec(plane.at(v, w, off))

    vs, ws = sorted({round(v, 4) for v, _ in spots}), sorted({round(w, 4) for _, w in spots}, reverse=True)
    w0, v0, w1, v1 = box
    past = [w for v, w in spots if abs(abs(v) - max(vs)) < 1e-3]
    rise = tuple("pitch" if abs(a) < max(vs) - 1e-3 and abs(b) < max(vs) - 1e-3 else "" for a, b in zip(vs, vs[1:], strict=False))
    level = tuple("gauge" if round(a, 4) in {round(x, 4) for x in past} and round(b, 4) in {round(x, 4) for x in past} else "" for a, b in zip(ws, ws[1:], strict=False))
    off = [Dimension("side", "left", 0, (p(half[0], w1), p(max(vs), w1)), ("off",))] if max(vs) > half[0] else []
    return (
        Dimension("side", "right", 0, tuple(p(v, w0) for v in (v0, *vs, v1)), ("edge", *rise, "edge")),
        Dimension("side", "right", 1, (p(v0, w0), p(v1, w0)), ("",)),
        Dimension("side", "bottom", 0, tuple(p(v0, w) for w in (w1, *ws, w0)), ("", *level, "")),
        Dimension("side", "bottom", 1, (p(v0, w1), p(v0, w0)), ("",)),
        *off,
        Dimension("front", "bottom", 0, tuple(p(v0, 0.0, x) for x in ((0.0, pack, pack + t) if pack else (0.0, t))), ("pack", "thickness") if pack else ("thickness",)),
    )


FAMILY = Family(
    "tube-end-plate", "Tube end plate", ("tube end", "hollow section beam", "tie end", "eaves tie", "portal tie"), KINDS, SETTINGS, fits, build,
    {
        "edge-least": ("edge",), "edge-greatest": ("edge", "off"), "spacing-least": ("gauge", "pitch"), "spacing-greatest": ("where", "gauge", "pitch", "thickness"), "bolt-room": ("off",),
        "fillet-throat": ("weld_leg",), "fillet-leg-least": ("weld_leg",), "fillet-leg-greatest": ("weld_leg",), "plate-stock": ("thickness", "pack"),
    },
    shares=2,
    situations=("tubes", "bracing"), example=at_end(a_column("HEB 300"), a_beam("SHS 120x120x5")),
)  # fmt: skip
