"""Flange plates: two hollow sections end to end, each with a plate welded to it, bolted together outside the tubes.

Joint frame: origin where the members' ends meet, x along the first member.
"""

import math
from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from tincleat.catalogue.fasteners import bolt_size
from tincleat.details.assembled import role_words
from tincleat.details.parts import Bolts, Detail, Dimension, Hole, Plate, SheetView, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import BOLT_GRADES, BOLT_SIZES, STEEL_GRADES, Family, Given, Setting, bolt_choice
from tincleat.families.example import a_member, at_end
from tincleat.families.in_line import tubes_in_line
from tincleat.geometry.frames import Frame, crossed, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case, CaseMember
from tincleat.kit.foot import foot_welds, leaned, legs_round, stands_on
from tincleat.kit.layout import centred, up
from tincleat.kit.packs import stocked
from tincleat.project.entities import HouseRules
from tincleat.standards.rulesets import rules_of
from tincleat.steel.cuts import EndCut

TWO, FOUR = "on two sides", "on four sides"

SETTINGS = (
    Setting("thickness", "Plate thickness", "length", "Plates", None, "Thickness of each plate; as thick as the bolt on plate stock if not typed.", 5, 100),
    Setting("grade", "Plate grade", "choice", "Plates", lambda h: h.plate_grade, "Steel grade of the plates.", choices=STEEL_GRADES),
    Setting("pack", "Pack", "length", "Plates", 0.0, "Pack between the plates; 0 is none.", 0, 100),
    Setting("edge", "Edge distance", "length", "Plates", None, "From the bolts to the plates' edge.", 15, 300),
    Setting("off", "Bolts off the tube", "length", "Bolts", None, "From the larger tube's wall to the bolts; room for weld and socket if not typed.", 10, 300),
    Setting("count", "Bolts round", "count", "Bolts", None, "Bolts on the circle round tubes; as many as stand no further apart than usual, four at least, if not typed.", 3, 48),
    Setting("where", "Bolts stand", "choice", "Bolts", None, "On which sides of square and rectangular tubes; on two if they are near enough, else on four.", choices=(TWO, FOUR)),
    Setting("pitch", "Bolt pitch", "spacings", "Bolts", None, "Spacings along each side of square and rectangular tubes.", 0, 1000),
    Setting("bolt", "Bolt", "choice", "Bolts", bolt_choice, "Size of the bolts.", choices=BOLT_SIZES),
    Setting("bolt_grade", "Bolt grade", "choice", "Bolts", lambda h: h.bolt_grade, "Strength class of the bolts.", choices=BOLT_GRADES),
    Setting("weld_leg", "Weld leg", "length", "Welds", None, "Fillet all round each tube.", 3, 30),
)  # fmt: skip


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless two hollow sections of one kind meet end to end on one line."""
    if case.kind not in FAMILY.kinds or len(case.members) < 2:
        raise NoFit(f"flange plates join two tubes end to end; this is a {case.kind}", right="a splice of two hollow sections")
    tubes_in_line(case, "flange plates stand on hollow sections")


def build(case: Case, given: Given) -> Detail:
    """Two plates with their holes, bolts outside the tubes, welds all round, the ends cut back."""
    house = given.house
    a, b = case.members[:2]
    step = 6.35 if house.inch else 5.0
    size = bolt_size(str(given.value("bolt")), given.house.tighten_room)
    hole, _ = house.hole(size.name, "normal")
    t = float(given.worked_out("thickness", stocked(size.d, house)))
    pack = float(given.value("pack"))
    leg = given.rounded("weld_leg", legs_round(min((a.shape, b.shape), key=lambda s: s.tw), t, house.inch)[0], "weld leg")
    off = float(given.worked_out("off", up(max(size.clear, leg + size.washer_d / 2 + 2.0), step)))
    edge = float(given.worked_out("edge", up(max(rules_of(house).edge_least(size, Hole(0, 0, hole, hole), False).value, 1.5 * size.d), step)))
    h, w = max(m.shape.h for m in (a, b)), max(m.shape.b for m in (a, b))
    spots, outline = _round(given, h, off, edge, step, size.d) if a.shape.shape == "CHS" else _square(given, h, w, off, edge, step, size.d, leg)
    at = Frame.of(a.frame.o, a.away, a.frame.z)  # along the first member, its z the tube's depth
    plates: list[Plate] = []
    welds: list[Weld] = []
    ends: list[EndCut] = []
    holes = tuple(Hole(u, v, hole, hole) for u, v in spots)
    for number, (m, s) in enumerate(((a, 1.0), (b, -1.0))):
        face = s * pack / 2
        # its own x and y along the tube's depth and breadth, the same seen for both
        frame = at.at(Frame((face if s > 0 else face - t, 0.0, 0.0), (0.0, 0.0, 1.0), (1.0, 0.0, 0.0)))
        name = f"flange plate {number + 1}"
        plates.append(Plate(name, outline, t, frame, str(given.value("grade")), holes, ("", "")))
        front, normal = np.array(at.point((face + s * t, 0.0, 0.0))), np.array(at.x) * s
        stand = stands_on(m, front, normal)
        welds += leaned(foot_welds(m.shape, stand, leg, leg, (name, role_words(m.role))), stand, vec(normal))
        ends.append(EndCut(number, vec(front), vec(normal)))
    if pack:
        plates.append(Plate("pack", outline, pack, at.at(Frame((-pack / 2, 0.0, 0.0), (0.0, 0.0, 1.0), (1.0, 0.0, 0.0))), str(given.value("grade")), holes, ("pack", "")))
    points = tuple(vec(p) for p in at.to_world([(0.0, v, u) for u, v in spots]))
    bolts = Bolts("bolts", size.name, str(given.value("bolt_grade")), points, vec(-np.array(at.x)), at.z)
    return Detail(
        "flange plates", tuple(plates), (bolts,), tuple(welds), ends=tuple(ends), dimensions=_dimensions(plates[0], spots, a, t, pack),
        numbers=tuple(given.numbers.values()), views=_views(at),
    )  # fmt: skip


Spots = list[tuple[float, float]]


def _round(given: Given, d: float, off: float, edge: float, step: float, bolt: float) -> tuple[Spots, Outline]:
    """Bolts on a circle round a tube, one on its depth, and the round plate."""
    circle = up(d + 2 * off, step)
    usual = max(4, 2 * round(math.pi * circle / (2 * 8.0 * bolt)))
    if given.house.exposed:
        most = rules_of(given.house).spacing_greatest(float(given.value("thickness")) if given.has("thickness") else bolt).value
        while circle * math.sin(math.pi / usual) > most:
            usual += 2
    count = int(given.worked_out("count", usual))
    if circle * math.sin(math.pi / count) < 2.4 * bolt:
        raise NoFit(f"{count} bolts stand {circle * math.sin(math.pi / count):.0f} mm apart on a circle of {circle:.0f} mm", right="fewer bolts, or further off the tube")
    turns = [2 * math.pi * (i + 0.5) / count for i in range(count)]
    return [(circle / 2 * math.cos(a), circle / 2 * math.sin(a)) for a in turns], Outline.circle(0.0, 0.0, up(circle + 2 * edge, step))


def _square(given: Given, h: float, w: float, off: float, edge: float, step: float, bolt: float, leg: float) -> tuple[Spots, Outline]:
    """Bolts along two or four sides of a tube, and the plate."""
    least = 3 * bolt
    far = rules_of(given.house).spacing_greatest(float(given.value("thickness")) if given.has("thickness") else bolt).value if given.house.exposed else math.inf

    def side(length: float) -> tuple[float, ...]:
        n = max(1, math.floor(max(0.0, length - least / 2) / (5.0 * bolt)), math.ceil((length - 0.4 * bolt) / far) if math.isfinite(far) else 1)
        return (max(up(least, step), step * math.floor((length - 0.4 * bolt) / n / step)),) * n if length >= least else ()

    four = given.worked_out("where", FOUR if h + 2 * off > far else TWO) == FOUR
    pitch = tuple(given.worked_out("pitch", side(w)))
    lines = centred(pitch)
    u = h / 2 + off
    spots: Spots = [(s * u, v) for s in (-1.0, 1.0) for v in lines]
    half_u, half_v = u + edge, max(w / 2 + leg + 5.0, lines[-1] + edge)
    if four:
        v = max(w / 2 + off, lines[-1] + least)
        more = centred(pitch if given.has("pitch") else side(h))
        spots += [(x, s * v) for s in (-1.0, 1.0) for x in more]
        half_v = v + edge
    half_u, half_v = (up(2 * x, step) / 2 for x in (half_u, half_v))
    return spots, Outline.rectangle(-half_u, -half_v, half_u, half_v)


def _views(at: Frame) -> tuple[SheetView, ...]:
    lead = at.z[2] if abs(at.z[2]) > 1e-6 else 1.0
    z = np.array(at.z) * math.copysign(1.0, lead)
    return (
        SheetView("front", "Front", Frame.of(at.origin, at.x, crossed(at.x, z))),
        SheetView("side", "Plate", Frame.of(at.origin, crossed(z, at.x), at.x)),
        SheetView("plan", "Plan", Frame.of(at.origin, at.x, z)),
    )


def _dimensions(plate: Plate, spots: Sequence[tuple[float, float]], m: CaseMember, t: float, pack: float) -> tuple[Dimension, ...]:
    """Over the plate with its bolts, seen along the tube, and its thickness."""
    x0, y0, x1, y1 = plate.outline.bounds
    f = plate.frame
    us, vs = sorted({round(u, 4) for u, _ in spots}), sorted({round(v, 4) for _, v in spots})
    square = m.shape.shape == "RHS"
    outer = max(us)  # the bolts that stand at the pitch lie on the sides along the tube's breadth
    lines = sorted({round(v, 4) for u, v in spots if abs(abs(u) - outer) < 1e-3})
    level = ("", *("pitch" if square and (a, b) in pairwise(lines) else "" for a, b in pairwise(vs)), "")
    rise = ("edge", *("" for _ in us[1:]), "edge") if square else ("",) * (len(us) + 1)
    return (
        Dimension("side", "bottom", 0, tuple(vec(p) for p in f.to_world([(x0, v, t) for v in (y0, *vs, y1)])), level),
        Dimension("side", "bottom", 1, tuple(vec(p) for p in f.to_world([(x0, y0, t), (x0, y1, t)])), ("",)),
        Dimension("side", "right", 0, tuple(vec(p) for p in f.to_world([(u, y1, t) for u in (x0, *us, x1)])), rise),
        Dimension("side", "right", 1, tuple(vec(p) for p in f.to_world([(x0, y1, t), (x1, y1, t)])), ("",)),
        Dimension("front", "bottom", 0, tuple(vec(p) for p in f.to_world([(x0, 0.0, z) for z in ((-pack, 0.0, t) if pack else (0.0, t))])), ("pack", "thickness") if pack else ("thickness",)),
    )


FAMILY = Family(
    "flange-plates", "Flange plates", ("tube splice", "hollow section splice", "tube flange"), ("splice", "column splice"), SETTINGS, fits, build,
    {
        "edge-least": ("edge",), "edge-greatest": ("edge", "off"), "spacing-least": ("pitch", "count"), "spacing-greatest": ("pitch", "count", "thickness"), "bolt-room": ("off",),
        "fillet-throat": ("weld_leg",), "fillet-leg-least": ("weld_leg",), "plate-stock": ("thickness", "pack"),
    },
    situations=("moment",), example=at_end(a_member("CHS 114.3x5", (0.0, 0.0, 3000.0), (4000.0, 0.0, 3000.0)), a_member("CHS 114.3x5", (-4000.0, 0.0, 3000.0), (0.0, 0.0, 3000.0))),
)  # fmt: skip
