"""Gusset on a flange: a plate bolted over or under a flange that holds braces lying along it, or the braces bolted straight to that flange.

Joint frame: origin on the flange's face where the first brace's line passes over the carrier's middle; x along the carrier, z square to the
flange.  Within, everything is worked out in the plane of the braces as gussets have it: x along the carrier, y square to the plane.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import msgspec
import numpy as np
import shapely
from shapely.geometry import Polygon

from tincleat.catalogue.fasteners import BoltSize
from tincleat.details.parts import Bolts, Detail, Dimension, Hole, Plate, SheetView
from tincleat.errors import NoFit
from tincleat.families.braces import FLAT, Brace, askew, bolt_of, braces_of, in_space, lines_of, numbered, plane_of
from tincleat.families.declare import BOLT_GRADES, BOLT_SIZES, HOLES, STEEL_GRADES, Family, Given, Setting, bolt_choice
from tincleat.families.example import a_girder, a_member, at_end
from tincleat.geometry.frames import Frame, Vec3, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case, CaseMember
from tincleat.kit.drill import drilled
from tincleat.kit.face import steel_along
from tincleat.kit.gauge import flange_gauges, lines_across
from tincleat.kit.layout import centred, up
from tincleat.kit.packs import LEFT, packs
from tincleat.project.entities import HouseRules
from tincleat.standards.rulesets import rules_of
from tincleat.steel.cuts import EndCut, MemberHole

SHAPES = ("L", "FL", "C")
TOUCHES = 0.1  # mm within which two faces touch
PLATED, STRAIGHT = "by a plate", "straight to the flange"

SETTINGS = (
    Setting("how", "Braces are fixed", "choice", "Plate", None, "By a plate bolted to the flange; straight to it where they lie on it and their bolts find room.", choices=(PLATED, STRAIGHT)),
    Setting("thickness", "Plate thickness", "length", "Plate", 10.0, "Of the gusset; what is left to the flange is packed.", 5, 60, inches=9.525),
    Setting("grade", "Plate grade", "choice", "Plate", lambda h: h.plate_grade, "Steel grade of gusset and packs.", choices=STEEL_GRADES),
    Setting("clear", "Brace end clear", "length", "Plate", 10.0, "From the braces' ends to the edge of the flange.", 0, 300, inches=12.7),
    Setting("edge", "Plate edge", "length", "Plate", None, "From bolts to the plate's edges.", 10, 300),
    Setting("side", "Plate beside flats", "choice", "Plate", "between", "Which face of a flat bar the plate lies on: between it and the flange, or outside it.", choices=("between", "outside")),
    Setting("bolt", "Bolt", "choice", "Bolts", bolt_choice, "Size of all bolts.", choices=BOLT_SIZES),
    Setting("bolt_grade", "Bolt grade", "choice", "Bolts", lambda h: h.bolt_grade, "Strength class of the bolts.", choices=BOLT_GRADES),
    Setting("flange_pitch", "Pitch along the flange", "spacings", "Bolts", None, "Spacings of the bolts through the flange, along it; two rows if not typed.", 0, 1000),
    Setting("flange_gauge", "Gauge across the flange", "length", "Bolts", None, "Between the two lines of bolts through the flange; from the back of a channel.", 20, 600),
    Setting("offset", "Bolts moved along", "length", "Bolts", None, "Of the bolts through the flange from where the first brace's line passes; 0, or what keeps the plate on the carrier.", -1000, 1000),
    Setting("pitch", "Brace bolt pitch", "spacings", "Bolts", None, "Spacings of the bolts along each brace; two bolts if not typed.", 0, 1000, each="brace"),
    Setting("brace_end", "Brace end distance", "length", "Bolts", None, "From a brace's end to its first bolt.", 15, 300, each="brace"),
    Setting("gauge", "Gauge", "length", "Bolts", None, "From an angle's heel to its bolt line.", 10, 300, each="brace"),
    Setting("lines", "Spacing of bolt lines", "spacings", "Bolts", None, "Lines of bolts across a channel or flat; two where the steel is 140 mm wide or more, else one.", 0, 500, each="brace"),
    Setting("hole", "Holes in plate", "choice", "Bolts", "normal", "Kind of hole in the plate for the braces' bolts; slots run along the brace.", choices=HOLES),
)  # fmt: skip


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless one to four angles, flats or channels lie along a flange."""
    braces = case.all("brace")
    if case.kind != "brace on flange" or not braces:
        raise NoFit(f"a plate on a flange holds braces that lie along it; this is a {case.kind}", right="braces drawn over or under a flange")
    for _, m in braces:
        if m.shape.shape not in SHAPES:
            raise NoFit(f"{m.shape.name} is a {m.shape.shape} section; a plate on a flange takes angles, flats and channels", right="one of these, or braces drawn in the carrier's middle with a bracing gusset")
    if len({math.copysign(1.0, m.frame.origin[2]) for _, m in braces}) > 1:
        raise NoFit("the braces lie on both sides of the flange", right="a plate for each side")


def _middle(m: CaseMember) -> float:
    return float(m.frame.origin[1])


def build(case: Case, given: Given) -> Detail:
    """The plate and its packs with their holes, bolts through flange and braces, braces cut back."""
    return _out_of(FLAT, _build(msgspec.structs.replace(case, members=tuple(msgspec.structs.replace(m, frame=FLAT.inside(m.frame)) for m in case.members)), given))


def _out_of(at: Frame, d: Detail) -> Detail:
    """What was made in a frame, in that frame's outer one: plates, bolts, cuts and holes, with views and dimensions."""

    def p(v: Vec3) -> Vec3:
        return at.point(v)

    def w(v: Vec3) -> Vec3:
        return vec(at.turn(v))

    new = msgspec.structs.replace
    return new(
        d, plates=tuple(new(x, frame=at.at(x.frame)) for x in d.plates), bolts=tuple(new(x, points=tuple(p(v) for v in x.points), axis=w(x.axis), load=w(x.load)) for x in d.bolts),
        ends=tuple(new(x, point=p(x.point), normal=w(x.normal)) for x in d.ends), holes=tuple(new(x, point=p(x.point), axis=w(x.axis), along=w(x.along)) for x in d.holes),
        dimensions=tuple(new(x, points=tuple(p(v) for v in x.points)) for x in d.dimensions), views=tuple(new(x, frame=at.at(x.frame)) for x in d.views),
    )  # fmt: skip


def _build(case: Case, given: Given) -> Detail:
    laps: list[tuple[float, float]] = []
    detail = _laid(case, given, None, laps)
    return _laid(case, given, laps, []) if laps and askew(case) else detail


def _laid(case: Case, given: Given, known: "list[tuple[float, float]] | None", laps: list[tuple[float, float]]) -> Detail:
    """The detail with the laps of its braces as ``known``; those that come of it go into ``laps``."""
    house = given.house
    carrier, number = case.members[-1], len(case.members) - 1
    out = -math.copysign(1.0, _middle(carrier))  # which way the flange looks
    b = bolt_of([m for _, m in case.all("brace")], given)
    step = 6.35 if house.inch else 5.0
    plain = house.hole(b.name, "normal")
    hole = house.hole(b.name, str(given.value("hole")))
    least = max(rules_of(house).edge_least(b, Hole(0, 0, *h), False).value for h in (hole, plain))
    edge = float(given.worked_out("edge", up(max(least, 1.75 * b.d, 30.0), step)))
    braces = braces_of(case.all("brace"), given, b, known)
    between = given.value("side") == "between"
    t = float(given.value("thickness"))
    y0, gap = _lies(braces, t, out, between)
    roomy = gap + t  # from the flange to the faces the plate lies on
    off = _lies(braces, t, out, True)[1] + t  # and to the braces' nearer faces
    how = str(given.worked_out("how", STRAIGHT if between and abs(off) < TOUCHES and _holds(carrier, braces, b, least) else PLATED))
    if how == STRAIGHT:
        return _straight(case, given, braces, b, off, least)
    if gap < -TOUCHES and not given.has("thickness"):
        thinner = max((p for p in house.plates if 5.0 <= p <= roomy + TOUCHES), default=0.0)
        if thinner:
            t = float(given.fitted("thickness", thinner, f"{braces[0].member.shape.name} lies {roomy:.1f} mm off the flange"))
            y0, gap = _lies(braces, t, out, between)
    if gap < -TOUCHES:
        name = braces[0].member.shape.name
        raise NoFit(f"{name} lies {max(roomy, 0.0):.1f} mm off the flange of {carrier.shape.name}, the plate between them is {t:g} mm thick", right=f"a brace {-gap:.1f} mm further off, a thinner plate, or {STRAIGHT!r}")
    fill = packs(gap, house) if gap > TOUCHES else []
    if gap - sum(fill) > LEFT - 1e-6 and gap > TOUCHES:
        raise NoFit(f"no pack is {gap:.1f} mm thick", right=f"a brace {gap:.1f} mm nearer to the flange, or a plate {roomy:.1f} mm thick")
    wide = _edges(carrier)
    usual = (76.2 if house.inch else up(max(3.0 * b.d, 60.0), step),)
    groups: list[Bolts] = []
    holes: list[Hole] = []
    drill: list[MemberHole] = []
    cuts: list[EndCut] = []
    strips: list[Polygon] = []
    breadths: list[float] = []
    laid: list[tuple[Brace, list[float]]] = []
    across: list[list[float]] = []
    middle = y0 + t / 2
    body = shapely.box(-2000.0, wide[0], 2000.0, wide[1])  # a brace begins past the flange, wherever along it
    for k, x in enumerate(braces, 1):
        start = up(_past(x, body) + float(given.value("clear")), step)
        spots = [start + float(x.given.worked_out("brace_end", up(max(least, 1.75 * b.d), step)))]
        for further in tuple(x.given.worked_out("pitch", usual)):
            spots.append(spots[-1] + further)
        lines = lines_of(x, b, step, edge)
        at = [in_space(x.at(s, w), middle) for s in spots for w in lines]
        towards = math.copysign(1.0, middle - x.member.frame.origin[1])
        along = in_space(x.along)
        name = "bolts" if len(braces) == 1 else f"bolts of brace {k}"
        groups.append(Bolts(name, b.name, str(given.value("bolt_grade")), tuple(at), (0.0, -towards, 0.0), along, given.value("hole")))
        holes.extend(Hole(p[0], p[2], *hole, math.atan2(x.along[1], x.along[0]), given.value("hole")) for p in at)
        for i, _ in x.members:
            drill.extend(drilled(case, i, at, (0.0, 1.0, 0.0), *plain, along))
        reach = max(x.half * 0.6, lines[-1] - x.line + edge)
        strips.append(_strip(x, start, spots[-1] + edge, reach))
        breadths.append(reach)
        cuts += [EndCut(i, in_space(x.at(start)), along) for i, _ in x.members]
        laid.append((x, [start, *spots, spots[-1] + edge]))
        laps.append((start, spots[-1] + edge))
        across.append(lines)
    outline, foot, spread = _laid_out(carrier, given, b, (edge, t, step), braces, strips, breadths, [(h.x, h.y) for h in holes])
    own = tuple(Hole(r, v, *plain) for r in spread.rows for v in spread.lines)
    holes = [*own, *holes]
    through = [(r, middle, v) for r in spread.rows for v in spread.lines]
    groups.append(Bolts("bolts through the flange", b.name, str(given.value("bolt_grade")), tuple(through), (0.0, -out, 0.0), (1.0, 0.0, 0.0), "normal"))
    drill.extend(drilled(case, number, through, (0.0, 1.0, 0.0), *plain, (1.0, 0.0, 0.0)))
    frame = Frame((0.0, y0 + t, 0.0), FLAT.x, FLAT.z)
    grade = str(given.value("grade"))
    plates = [Plate("gusset", _ring(outline), t, frame, grade, tuple(holes), ("", ""))]
    at_y = 0.0
    for i, p in enumerate(fill, 1):
        low = at_y if out > 0 else at_y - p
        plates.append(Plate("pack" if len(fill) == 1 else f"pack {i}", _ring(foot), p, Frame((0.0, low + p, 0.0), FLAT.x, FLAT.z), grade, own, ("pack", "pack")))
        at_y += out * p
    return Detail(
        "gusset on a flange", tuple(plates), tuple(groups), (), ends=tuple(cuts), holes=tuple(drill), numbers=tuple(given.numbers.values()),
        dimensions=_dimensions(spread, outline, laid, across, middle, out), views=_views(braces, out),
    )  # fmt: skip


def _ring(p: Polygon) -> Outline:
    ring = np.asarray(shapely.orient_polygons(p).exterior.coords)[:-1, :2]
    return Outline(tuple((float(u), float(v), 0.0) for u, v in ring))


def _lies(braces: Sequence[Brace], t: float, out: float, between: bool) -> tuple[float, float]:
    """The lower y of the plate, and how far its face stands off the flange's, mm; raises NoFit where a leg looks away from the flange."""
    y0 = plane_of(braces, t, int((out > 0) != between))
    gap = y0 if out > 0 else -(y0 + t)
    for x in braces:
        shape = x.member.shape
        if shape.shape != "FL" and any(way == out for faces in x.faces for _, way in faces):
            raise NoFit(f"the leg of {shape.name} that lies along the flange is on its far side: its back looks away from it", right="the brace rolled by 180°")
    return y0, gap


@dataclass(frozen=True)
class Spread:
    """The bolts through the flange: rows along it (x) and lines across it (z), both rising."""

    rows: tuple[float, ...]
    lines: tuple[float, ...]


def _edges(carrier: CaseMember) -> list[float]:
    """Where the flange's edges lie across it, the joint's z."""
    half = carrier.shape.b / 2
    return sorted(float(v) for v in carrier.frame.to_world([(0.0, y, 0.0) for y in (-half, half)])[:, 2])


def _laid_out(
    carrier: CaseMember, given: Given, b: BoltSize, sizes: tuple[float, float, float], braces: Sequence[Brace], strips: Sequence[Polygon], breadths: Sequence[float], others: Sequence[tuple[float, float]]
) -> tuple[Polygon, Polygon, Spread]:  # fmt: skip
    """The plate's outline, its part on the flange, and the bolts there: where the usual place leaves too much plate past them in exposed
    work, further apart and nearer to the braces.  ``sizes`` are edge, thickness and step, ``others`` the braces' bolts."""
    house = given.house
    edge, t, step = sizes
    low, high = _edges(carrier)
    rules, thin = rules_of(house), min(t, carrier.shape.tf)
    most, apart = (rules.edge_greatest(thin).value, rules.spacing_greatest(thin).value) if house.exposed else (math.inf, 0.0)
    usual = 76.2 if house.inch else up(max(3.0 * b.d, 60.0), step)
    side = float(np.mean([s.centroid.x for s in strips]))
    tried: list[tuple[float, float]] = [(usual + k * 4 * step, math.copysign(v, side)) for k in range(4) if k == 0 or usual + k * 4 * step <= apart for v in np.arange(0.0, abs(side) / 2 + 0.1, 4 * step).tolist()]
    best: tuple[float, Polygon, Polygon, tuple[float, float]] | None = None
    for place in tried:
        spread = flange_bolts(carrier, given, b, edge, t, *place, place == tried[0])
        foot = shapely.box(spread.rows[0] - edge, max(spread.lines[0] - edge, low), spread.rows[-1] + edge, min(spread.lines[-1] + edge, high))
        necks = [shapely.union_all([s, _strip(x, 0.0, 2000.0, w).intersection(foot)]).convex_hull for x, s, w in zip(braces, strips, breadths, strict=True)]
        for outline in (shapely.union_all([foot, *strips]).convex_hull, shapely.union_all([foot, *necks])):
            if outline.geom_type != "Polygon":
                continue  # bolts far off their brace: a neck of their own breadth misses the flange
            far = _furthest(outline, spread, others, most)
            if best is None or far < best[0] - 0.1:
                best = (far, outline, foot, place)
            if far <= most:
                break
        if best is not None and best[0] <= most:
            break
    assert best is not None
    _, outline, foot, place = best
    return outline, foot, flange_bolts(carrier, given, b, edge, t, *place, place == tried[0])


def flange_bolts(carrier: CaseMember, given: Given, b: BoltSize, edge: float, t: float, pitch: float, by: float, usual: bool) -> Spread:
    """Bolts through the flange on both sides of its web, ``pitch`` apart and moved ``by`` along it, as far as what they hold stays on the carrier;
    raises NoFit with figures."""
    house, shape = given.house, carrier.shape
    least = rules_of(house).edge_least(b, Hole(0, 0, *house.hole(b.name, "normal")), False).value
    most = rules_of(house).spacing_greatest(min(t, shape.tf)).value if house.exposed else math.inf
    gauges = [float(given.value("flange_gauge"))] if given.has("flange_gauge") else flange_gauges(shape, b, least, house)
    gauge = float(given.worked_out("flange_gauge", next((g for g in gauges if g <= most), gauges[-1])))
    lines = tuple(sorted(float(carrier.frame.to_world([(0.0, y, 0.0)])[0][2]) for y in lines_across(carrier, gauge)))
    why = "so that no edge of the plate is too far from its bolts"
    gaps = tuple(given.worked_out("flange_pitch", (pitch,)) if usual else given.fitted("flange_pitch", (pitch,), why))
    # the stations its steel has at the flange, and where along x those are
    z = shape.h / 2
    low, high = sorted(float(carrier.frame.origin[0] + carrier.frame.x[0] * s) for s in steel_along(carrier, [(y, w) for y in (-shape.b / 2, shape.b / 2) for w in (-z, z)]))
    half = sum(gaps) / 2 + edge
    if high - low < 2 * half:
        raise NoFit(f"{shape.name} is {high - low:.0f} mm long there, its plate {2 * half:.0f} mm", right="fewer bolts, or a longer carrier")
    kept = min(max(by, low + half), high - half)
    offset = float(given.worked_out("offset", 0.0) if abs(kept) < 0.05 else given.fitted("offset", kept, why if abs(kept - by) < 0.05 else f"so that the plate stays on {shape.name}"))
    return Spread(tuple(centred(gaps, offset)), lines)


def _strip(x: Brace, start: float, end: float, reach: float) -> Polygon:
    """A strip of the plane along a brace's bolts, ``reach`` to both sides of them."""
    return Polygon([x.at(s, w) for s, w in ((start, x.line - reach), (end, x.line - reach), (end, x.line + reach), (start, x.line + reach))])


def _furthest(outline: Polygon, spread: Spread, others: Sequence[tuple[float, float]], most: float) -> float:
    """How far the plate goes on, along and across the flange, past bolts through it that have no other bolt before them there, mm; a brace's
    bolt that lies further out and no more than ``most`` aside is one."""
    rays: list[tuple[tuple[float, float], tuple[float, float]]] = []
    for r in spread.rows:
        for v in spread.lines:
            for dx, dz in ((1, 0), (-1, 0), (0, 1), (0, -1)):
                ahead = [q for q in (spread.rows if dx else spread.lines) if (q - (r if dx else v)) * (dx or dz) > 1.0]
                beyond = [p for p in others if (p[0] - r) * dx + (p[1] - v) * dz > 10.0 and abs((p[0] - r) * dz + (p[1] - v) * dx) < most]
                if not ahead and not beyond:
                    rays.append(((r, v), (r + dx * 5000.0, v + dz * 5000.0)))
    return float(shapely.length(shapely.intersection(outline, shapely.linestrings(rays))).max()) if rays else 0.0


def _past(x: Brace, body: Polygon) -> float:
    """How far out along a brace all of its breadth is past some steel."""
    strip = Polygon([x.at(s, w) for s, w in ((-2000.0, -x.half), (2000.0, -x.half), (2000.0, x.half), (-2000.0, x.half))])
    met = strip.intersection(body)
    foot = float(x.at(0.0) @ x.along)
    return max((float(np.asarray(p) @ x.along) - foot for p in shapely.get_coordinates(met)), default=0.0)


def _straight_spots(carrier: CaseMember, x: Brace, b: BoltSize, least: float, lines: Sequence[float]) -> list[float]:
    """Places along a brace where a bolt finds the flange under it: clear of web and root, its edge distance from the flange's edges."""
    root = carrier.shape.tw / 2 + max(carrier.shape.r1 + b.washer_d / 2, b.clear)
    low, high = _edges(carrier)
    web = float(carrier.frame.to_world([(0.0, next(e.at for e in carrier.shape.elements if e.normal == "y"), 0.0)])[0][2])
    found = []
    for k in range(-80, 81):
        zs = [float(x.at(k * 5.0, w)[1]) for w in lines]
        if all(low + least <= z <= high - least and abs(z - web) >= root for z in zs):
            found.append(k * 5.0)
    return found


def _holds(carrier: CaseMember, braces: Sequence[Brace], b: BoltSize, least: float) -> bool:
    """Whether braces that lie on the flange find room for a bolt each, none in another's way."""
    return len(braces) == 1 and bool(_straight_spots(carrier, braces[0], b, least, [braces[0].line]))


def _straight(case: Case, given: Given, braces: Sequence[Brace], b: BoltSize, off: float, least: float) -> Detail:
    """A brace bolted to the flange it lies on: as many bolts along it as the flange takes on both sides of its web, two at most."""
    house, carrier, number = given.house, case.members[-1], len(case.members) - 1
    if abs(off) >= TOUCHES:
        raise NoFit(f"{braces[0].member.shape.name} lies {off:.1f} mm off the flange", right=f"a brace on it, or {PLATED!r}")
    if len(braces) > 1:
        raise NoFit(f"{len(braces)} braces lie on one place of the flange", right=f"one, or {PLATED!r}")
    x = braces[0]
    step = 6.35 if house.inch else 5.0
    lines = [x.line]
    spots = _straight_spots(carrier, x, b, least, lines)
    if not spots:
        raise NoFit(f"the flange of {carrier.shape.name} has no room for {b.name} along {x.member.shape.name}", right=f"smaller bolts, or {PLATED!r}")
    thin = min(carrier.shape.tf, x.member.shape.tw)
    row = _row(spots, b, min(rules_of(house).spacing_greatest(thin).value, 8 * b.d) if house.exposed else 8 * b.d)
    gaps = tuple(x.given.worked_out("pitch", tuple(q - p for p, q in pairwise(row))))
    first = next((s for s in (row[0], *spots) if all(any(abs(s + g - v) < 0.6 for v in spots) for g in np.cumsum(gaps))), None)
    if first is None:
        raise NoFit(f"along {x.member.shape.name} the flange has no room for bolts {' '.join(f'{g:g}' for g in gaps)} mm apart", right="one bolt, or another pitch")
    at = [first, *(first + float(g) for g in np.cumsum(gaps))]
    end = at[0] - float(x.given.worked_out("brace_end", up(max(least, 1.75 * b.d), step)))
    places = [in_space(x.at(s, x.line), 0.0) for s in at]
    along = in_space(x.along)
    out = -math.copysign(1.0, _middle(carrier))
    plain = house.hole(b.name, "normal")
    drill = [*drilled(case, number, places, (0.0, 1.0, 0.0), *plain, along)]
    for i, _ in x.members:
        drill.extend(drilled(case, i, places, (0.0, 1.0, 0.0), *plain, along))
    bolts = Bolts("bolts", b.name, str(given.value("bolt_grade")), tuple(places), (0.0, -out, 0.0), along, "normal")
    names = ("brace_end", *("pitch",) * len(gaps))
    return Detail(
        "gusset on a flange", (), (bolts,), (), ends=tuple(EndCut(i, in_space(x.at(end)), along) for i, _ in x.members), holes=tuple(drill), numbers=tuple(given.numbers.values()),
        dimensions=(Dimension("brace 1", "bottom", 0, tuple(in_space(x.at(s, x.line)) for s in (end, *at)), names),), views=_views(braces, out),
    )  # fmt: skip


def _row(spots: Sequence[float], b: BoltSize, most: float) -> list[float]:
    """Of the places along a brace, the way out rising, those that get a bolt: from the outermost on inward no further apart than ``most``, over the web
    where that reaches across it, else on the outer side alone."""
    least = 2.5 * b.d
    out = [spots[-1]]
    while further := [v for v in spots if least <= out[-1] - v <= most]:
        across = [v for v in further if any(abs(u - v) > 5.1 and not any(v < w < u for w in spots) for u in spots if u > v)]
        out.append(min(across or further))
    if len(out) < 2 or out[0] - out[-1] < least:
        return out[:1]
    return out[::-1]


def _dimensions(spread: Spread, outline: Polygon, laid: "list[tuple[Brace, list[float]]]", lines_of_: list[list[float]], y: float, out: float) -> tuple[Dimension, ...]:
    x0, z0, x1, z1 = outline.bounds
    rows, lines = spread.rows, spread.lines
    found = [
        Dimension("front", "bottom", 0, tuple(in_space(np.array((r, z0)), y) for r in rows), ("flange_pitch",) * (len(rows) - 1)),
        Dimension("front", "bottom", 1, (in_space(np.array((x0, z0)), y), in_space(np.array((x1, z0)), y)), ("",)),
        Dimension("front", "right", 0, (in_space(np.array((x1, z0)), y), in_space(np.array((x1, z1)), y)), ("",)),
    ]
    if len(lines) > 1:
        found.append(Dimension("front", "left", 0, tuple(in_space(np.array((x0, v)), y) for v in lines), ("flange_gauge",)))
    for i, (x, at) in enumerate(laid, 1):
        own = x.given.named
        found.append(Dimension(f"brace {i}", "bottom", 0, tuple(in_space(x.at(s, x.line), y) for s in at), (own("brace_end"), *((own("pitch"),) * (len(at) - 3)), "edge")))
        if len(lines_of_[i - 1]) > 1:
            found.append(Dimension(f"brace {i}", "left", 0, tuple(in_space(x.at(at[1], w), y) for w in lines_of_[i - 1]), (own("lines"),) * (len(lines_of_[i - 1]) - 1)))
        elif x.member.shape.shape == "L":
            heel = -math.copysign(x.half, x.line) if x.line else -x.half
            found.append(Dimension(f"brace {i}", "left", 0, (in_space(x.at(at[0], heel), y), in_space(x.at(at[0], x.line), y)), (own("gauge"),)))
    return tuple(found)


def _views(braces: Sequence[Brace], out: float) -> tuple[SheetView, ...]:
    """The plate seen square from its side of the flange, across the carrier, and along each brace."""
    square = Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, out, 0.0))
    views = [SheetView("front", "On the flange", square), SheetView("side", "Across", Frame.of((0.0, 0.0, 0.0), (0.0, 0.0, -1.0), (1.0, 0.0, 0.0)))]
    for i, x in enumerate(braces, 1):
        views.append(SheetView(f"brace {i}", "Along the brace" if len(braces) == 1 else f"Along brace {i}", Frame.of((0.0, 0.0, 0.0), in_space(x.along), vec((0.0, out, 0.0)))))
    return tuple(views)


FAMILY = Family(
    "flange-gusset", "Gusset on a flange", ("plan bracing", "wind bracing", "horizontal bracing", "brace under a beam", "roof bracing", "bracing on a flange"), ("brace on flange",), SETTINGS, fits, build,
    {
        "edge-least": ("edge", "brace_end", "gauge", "flange_gauge"), "edge-greatest": ("edge", "brace_end", "gauge", "thickness"), "spacing-least": ("pitch", "flange_pitch", "flange_gauge"),
        "spacing-greatest": ("pitch", "lines", "flange_gauge", "flange_pitch", "thickness"), "plate-stock": ("thickness",), "bolt-room": ("flange_gauge",), "spacing-beside": ("pitch", "clear"), "edge-beside": ("clear",),
    },
    shares=4, each=numbered,
    situations=("bracing",), example=at_end(a_girder("HEB 200"), a_member("L 80x80x8", (0.0, 0.0, 2850.0), (2600.0, 1500.0, 2850.0), "brace", 180.0), end="start"),
)  # fmt: skip
