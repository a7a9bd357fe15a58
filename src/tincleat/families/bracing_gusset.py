"""Bracing gusset: one plate for one to four braces of a plane, welded to a column, a beam, a base plate or a corner of them, or laid
against a brace that passes.

Joint frame: origin at the working point, y square to the plane of the braces, z up an upright carrier or off a lying one.
"""

import math
from collections.abc import Sequence

import numpy as np
import shapely
from shapely.geometry import Polygon

from tincleat.catalogue.fasteners import BoltSize
from tincleat.details.assembled import role_words
from tincleat.details.fittings import Fork
from tincleat.details.parts import STANDARD_VIEWS, Angle, Bolts, Detail, Dimension, Hole, Plate, SheetView, Weld
from tincleat.errors import NoFit
from tincleat.families.braces import (
    BETWEEN,
    FLAT,
    FLATTENED,
    Brace,
    askew,
    bolt_of,
    braces_of,
    forked,
    gap_between,
    in_space,
    lines_of,
    numbered,
    plane_of,
    pressed,
    slot,
    tee,
    tube_welds,
)
from tincleat.families.declare import BOLT_GRADES, BOLT_SIZES, HOLES, STEEL_GRADES, Family, Given, Setting, bolt_choice, rounded
from tincleat.families.example import a_brace, a_column, at_end
from tincleat.families.gusset_stand import (
    ALL,
    INSET,
    LYING,
    UPRIGHT,
    Carrier,
    bevels,
    carriers_of,
    carrying,
    clear_round,
    foot_welds,
    heights_between,
    on_plate,
    plate_shadow,
    stood_on,
    web_beside,
)
from tincleat.geometry.frames import Array, Frame
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case, CaseMember
from tincleat.kit.contact import piece_at, plate_round, shadow, standing
from tincleat.kit.drill import drilled
from tincleat.kit.layout import centred, up
from tincleat.kit.packs import stocked
from tincleat.kit.stiffen import TO_THE_EDGE, beside_web, room_beside, stiffeners_at
from tincleat.project.entities import HouseRules
from tincleat.standards.rulesets import rules_of
from tincleat.steel.cuts import FLAT as FLAT_END
from tincleat.steel.cuts import EndCut, MemberHole, Notch

ASIDE = 60.0  # mm that a brace may lie out of the plane of its carriers' middles
THINNEST = 4.0  # mm between the backs of a double brace
OUT_OF_PLANE = 0.02  # sine of the angle between a brace and the plane
SLICE = 4.0  # mm apart at which the steel beside a pin is looked at
FAR = 3000.0  # mm beyond every plate

SETTINGS = (
    Setting("thickness", "Plate thickness", "length", "Plate", 10.0, "Thickness of the gusset; between the backs of a double brace their gap.", 5, 60, inches=9.525),
    Setting("grade", "Plate grade", "choice", "Plate", lambda h: h.plate_grade, "Steel grade of the gusset.", choices=STEEL_GRADES),
    Setting("clear", "Brace end clear", "length", "Plate", 25.0, "From the braces' ends to the members the plate is welded to.", 0, 300, inches=25.4),
    Setting("edge", "Plate edge", "length", "Plate", None, "From bolts, or from a tube's side, to the plate's edge.", 10, 300),
    Setting("snipe", "Corner snipe", "length", "Plate", 20.0, "Cut off where two members meet, clear of roots and gaps.", 0, 150, inches=19.05),
    Setting("side", "Plate beside flats", "choice", "Plate", "near side", "Which face of a flat bar or tongue the plate lies on.", choices=("near side", "far side"), handed=True),
    Setting("stands", "Plate stands on", "choice", "Plate", ALL, "What the plate is welded to; it keeps clear of the rest.", choices=(ALL, UPRIGHT, LYING)),
    Setting("beside", "Clear of other plates", "length", "Plate", 10.0, "From plates of other connections that the gusset is cut round.", 0, 100, inches=12.7),
    Setting("bolt", "Bolt", "choice", "Bolts", bolt_choice, "Size of the bolts of bolted braces.", choices=BOLT_SIZES),
    Setting("bolt_grade", "Bolt grade", "choice", "Bolts", lambda h: h.bolt_grade, "Strength class of the bolts.", choices=BOLT_GRADES),
    Setting("pitch", "Bolt pitch", "spacings", "Bolts", None, "Spacings of the bolts along each brace; two bolts if not typed.", 0, 1000, each="brace"),
    Setting("brace_end", "Brace end distance", "length", "Bolts", None, "From a brace's end to its first bolt.", 15, 300, each="brace"),
    Setting("gauge", "Gauge", "length", "Bolts", None, "From an angle's heel to its bolt line.", 10, 300, each="brace"),
    Setting("lines", "Spacing of bolt lines", "spacings", "Bolts", None, "Lines of bolts across a channel, flat or tongue; two where the steel is 140 mm wide or more, else one.", 0, 500, each="brace"),
    Setting("through_pitch", "Bolts through a passing brace", "spacings", "Bolts", None, "Spacings of the bolts where the plate lies against a brace that passes.", 0, 1000),
    Setting("hole", "Holes in plate", "choice", "Bolts", "normal", "Kind of hole in the plate; slots run along the brace.", choices=HOLES),
    Setting("tube_end", "Tube end", "choice", "Tubes", "slotted", "Slotted over the plate, with a tee welded on that is bolted to it, or, of a round one, pressed flat and bolted.", choices=("slotted", "tee", FLATTENED), each="brace"),
    Setting("flat", "Flat", "length", "Tubes", None, "How far from its end a round tube is pressed flat; past the plate if not typed.", 30, 1000, each="brace"),
    Setting("taper", "Taper", "length", "Tubes", None, "From the flat to the round tube; as long as the tube is wide if not typed.", 20, 1000, each="brace"),
    Setting("overlap", "Slot over the plate", "length", "Tubes", None, "How far a slotted tube goes over the plate.", 30, 1000, each="brace"),
    Setting("tube_weld", "Tube weld leg", "length", "Tubes", None, "Four fillets along each slotted tube.", 3, 30),
    Setting("tee_thickness", "Tongue thickness", "length", "Tubes", 12.0, "Thickness of a tee's tongue.", 5, 60, inches=12.7, each="brace"),
    Setting("tee_width", "Tongue width", "length", "Tubes", None, "Breadth of a tee's tongue.", 30, 600, each="brace"),
    Setting("cap_thickness", "End cap thickness", "length", "Tubes", 12.0, "Thickness of the plate that closes the tube.", 5, 60, inches=12.7, each="brace"),
    Setting("cap_past", "End cap past the tube", "length", "Tubes", 10.0, "How far the end cap stands out round the tube.", 4, 60, inches=9.525, each="brace"),
    Setting("cap_gap", "Gusset to end cap", "length", "Tubes", 10.0, "Clear from the gusset's end to the end cap.", 2, 200, inches=12.7, each="brace"),
    Setting("tee_weld", "Tongue weld leg", "length", "Welds", None, "Fillets on both faces between tongue and end cap.", 3, 30, each="brace"),
    Setting("cap_weld", "End cap weld leg", "length", "Welds", None, "Fillet all round between tube and end cap.", 3, 30, each="brace"),
    Setting("fork_start", "Fork begins at", "length", "Rods", None, "From the working point to a fork's nose; clear of the members, and where its pin goes in, if not typed.", 0, 3000, each="brace"),
    Setting("fork_width", "Fork width", "length", "Rods", None, "Breadth of a fork's cheeks; twice the pin's edge distance if not typed.", 10, 300, each="brace"),
    Setting("fork_cheek", "Fork cheek", "length", "Rods", None, "Thickness of each cheek; half the rod's if not typed.", 3, 60, each="brace"),
    Setting("fork_play", "Fork play", "length", "Rods", 2.0, "How much wider than the gusset a fork opens.", 0.5, 20, inches=1.5875, each="brace"),
    Setting("stiffeners", "Stiffeners in the beam", "flag", "Stiffeners", False, "Plates on both sides of the beam's web where the braces' lines meet it."),
    Setting("stiffener_thickness", "Stiffener thickness", "length", "Stiffeners", None, "As thick as the gusset on plate stock if not typed.", 4, 60),
    Setting("stiffener_width", "Stiffener width", "length", "Stiffeners", None, "From the web out; to the flange's edge and down to flat-bar stock if not typed.", 15, 500),
    Setting("stiffener_weld", "Stiffener weld leg", "length", "Stiffeners", None, "Fillets on both faces of the stiffeners.", 3, 30),
    Setting("weld_leg", "Gusset weld leg", "length", "Welds", None, "Fillets on both faces where the plate stands on members.", 3, 30),
)  # fmt: skip


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless one to four braces of one plane end at a column, a beam or a brace that passes."""
    braces = case.all("brace")
    if case.kind != "brace end" or not braces:
        raise NoFit(f"a gusset holds braces at a column or beam; this is a {case.kind}", right="the end of a brace at a column or beam")
    if not carrying(case):
        raise NoFit("the brace ends on the end of another brace", right="a brace end at a column, a beam or along a brace that passes")
    for _, m in braces:
        lean = abs(m.away[1])
        if lean > OUT_OF_PLANE:
            raise NoFit(f"{m.shape.name} leaves the plane of the braces by {math.degrees(math.asin(min(1.0, lean))):.1f}°", right="braces of one plane")
        most = max(ASIDE, *(web_beside(c) for _, c in carrying(case)))
        if abs(m.frame.origin[1]) > most:
            raise NoFit(f"{m.shape.name} lies {abs(m.frame.origin[1]):.0f} mm out of the plane of its carrier", right=f"at most {most:.0f} mm")
    main = carrying(case)[0][1]
    axis = 0 if main.role.startswith("column") else 2
    ways = {math.copysign(1.0, m.away[axis]) for _, m in braces}
    if len(ways) > 1 and not _passing(case):
        raise NoFit(f"the braces come to both sides of {main.shape.name}", right="a gusset on each side")


def _passing(case: Case) -> tuple[int, CaseMember] | None:
    """A brace that passes and that the plate is laid against: angle, flat or channel; a tube carries the plate on its side."""
    return next(((i, m) for i, m in case.all("through") if m.shape.shape not in ("CHS", "RHS")), None)


def build(case: Case, given: Given) -> Detail:
    """The plate with its holes, bolts or slots and their welds, tees, braces cut back, welds on what carries it."""
    laps: list[tuple[float, float]] = []
    detail = _laid_out(case, given, None, laps)
    return _laid_out(case, given, laps, []) if askew(case) else detail


def _laid_out(case: Case, given: Given, known: "list[tuple[float, float]] | None", laps: list[tuple[float, float]]) -> Detail:
    """The detail with the laps of its braces as ``known``; those that come of it go into ``laps``."""
    house = given.house
    passing = _passing(case)
    b = bolt_of([m for _, m in (*case.all("brace"), *([passing] if passing else []))], given)
    braces = braces_of(case.all("brace"), given, b, known)
    through = braces_of([passing], given, b)[0] if passing else None
    gap = gap_between(braces)
    if gap is not None and gap < THINNEST:
        raise NoFit(f"the backs of a double brace stand {gap:.1f} mm apart", right=f"at least {THINNEST:g} mm for the plate between them")
    t = float(given.value("thickness") if gap is None else given.fitted("thickness", gap, "the gap between the backs of a double brace"))
    y0 = plane_of([*braces, *([through] if through else [])], t, 0 if given.value("side") == "near side" else 1)
    bolt = b.name
    plain = house.hole(bolt, "normal")[0]
    hole = house.hole(bolt, str(given.value("hole")))
    least = rules_of(house).edge_least(b, Hole(0, 0, *hole), False).value
    step = 6.35 if house.inch else 5.0
    edge = float(given.worked_out("edge", up(max(least, 1.75 * b.d, 30.0), step)))
    usual = (76.2 if house.inch else up(max(3.0 * b.d, 60.0), step),)
    clear = float(given.value("clear"))
    carriers = carriers_of(case, (y0, y0 + t), np.mean([in_space(x.along) for x in braces], axis=0))
    notches: list[Notch] = []
    groups: list[Bolts] = []
    holes: list[Hole] = []
    drill: list[MemberHole] = []
    welds: list[Weld] = []
    plates: list[Plate] = []
    points: list[Array] = []
    cuts: list[EndCut] = []
    laid: list[tuple[Brace, list[float]]] = []
    reaches: list[float] = []
    breadths: list[float] = []
    across: list[list[float]] = []
    leg = given.rounded("weld_leg", max(0.6 * t, 4.7625 if house.inch else 5.0), "weld leg")
    for _, m in carrying(case):
        low, most = y0 - m.frame.origin[1], web_beside(m)
        off = max(abs(low), abs(low + t)) + leg
        near = min(abs(low), abs(low + t)) if low * (low + t) > 0 else 0.0
        if most and off > most and near < m.shape.h / 2 - m.shape.tf - 0.05:  # it stands on the web, but not beside its root
            raise NoFit(f"the plate and its weld reach {off:.0f} mm off the middle of {m.shape.name}, into its root", right=f"at most {most:.0f} mm: a brace nearer to the middle, or turned over")
    tube_leg = given.rounded("tube_weld", min(max(0.9 * min((x.member.shape.tw for x in braces if x.how == "slotted"), default=t), 4.7625 if house.inch else 5.0), 12.7), "weld leg")

    def bolted(x: Brace, spots: list[float], lines: list[float], name: str) -> None:
        middle = y0 + t / 2
        along = in_space(x.along)
        # starred angles have a line of bolts each, all others one set through all of them
        sets = [(f"{name}, {role_words(m.role)}", [w], [(i, m)]) for (i, m), w in zip(x.members, x.apart, strict=True)] if x.apart else [(name, lines, list(x.members))]
        for words, across_, some in sets:
            at = [in_space(x.at(s, w), middle) for s in spots for w in across_]
            towards = math.copysign(1.0, middle - some[0][1].frame.origin[1])
            groups.append(Bolts(words, bolt, str(given.value("bolt_grade")), tuple(at), (0.0, -towards, 0.0), along, given.value("hole")))
            holes.extend(Hole(p[0], p[2], *hole, math.atan2(x.along[1], x.along[0]), given.value("hole")) for p in at)
            for i, m in some:
                if x.how == "bolted":
                    drill.extend(drilled(case, i, at, (0.0, 1.0, 0.0), plain, plain, along))
                elif x.how == FLATTENED:
                    drill.extend(MemberHole(i, FLAT_END, (p[0], m.frame.origin[1], p[2]), (0.0, 1.0, 0.0), plain, plain, along) for p in at)

    forks: list[Fork] = []
    crossed: list[Polygon] = []
    if through is not None:
        gaps = tuple(given.worked_out("through_pitch", usual))
        spots = centred(gaps)
        lines = lines_of(through, b, step, edge)
        bolted(through, spots, lines, "bolts of the passing brace")
        strip = [through.at(s, w) for s in (spots[0] - edge, spots[-1] + edge) for w in (lines[0] - edge, lines[-1] + edge)]
        points += strip
        crossed = [shapely.MultiPoint(strip).convex_hull, shadow(through.member, FLAT, heights_between(*through.heights))]
    for k, x in enumerate(braces, 1):
        # off the middle of a web a flange over or under bolts is as much in their way as one beside them
        room = b.head_height + b.nut_height + 2 * b.washer_t + b.d + t if x.how == "bolted" and abs(x.member.frame.origin[1]) > ASIDE else 0.0
        tall = {i: (x.heights[0] - room, x.heights[1] + room) if web_beside(m) else x.heights for i, m in carrying(case)}
        bodies = [*crossed, *(shadow(m, FLAT, heights_between(*tall[i], m)) for i, m in carrying(case)), *(plate_shadow(s, heights_between(*x.heights)) for s in case.context)]
        start = up(_clear_of(x, shapely.union_all(bodies), clear), step)
        if x.fork is not None:
            let_in = _pin_let_in(case, x, start, clear, step)
            start = float(x.given.fitted("fork_start", let_in, "its pin goes in past the flanges") if let_in > start else x.given.worked_out("fork_start", start))
        name = role_words(x.member.role)
        ends = start
        if x.how == "slotted":
            overlap = float(x.given.worked_out("overlap", up(max(1.2 * 2 * x.half, 4 * tube_leg, 80.0), 12.7 if house.inch else 10.0)))
            end, wide = start + overlap, x.half + max(edge, 2 * tube_leg + 8.0)
            notches.append(slot(x, t, start, overlap + step))
            welds += tube_welds(x, t, start, overlap, tube_leg)
            laid.append((x, [start, end]))
            across.append([])
        elif x.fork is not None:
            room = up(max(rules_of(house).edge_least(x.fork.pin, Hole(0, 0, x.fork.hole, x.fork.hole), False).value, 1.5 * x.fork.pin.d), step)
            fork, pin, spot, ends = forked(x, start, room, y0 + t / 2, (str(given.value("bolt_grade")), str(given.value("grade"))))
            forks.append(fork)
            groups.append(pin)
            holes.append(Hole(pin.points[0][0], pin.points[0][2], x.fork.hole, x.fork.hole))
            end, wide = spot + room, max(x.half, room)
            laid.append((x, [start, spot, end]))
            across.append([])
        else:
            first = float(x.given.worked_out("brace_end", up(max(least, 1.75 * b.d), step)))
            lines = lines_of(x, b, step, edge)
            let_in = up(_bolts_let_in(case, x, b, (y0, y0 + t), start + first, lines) - first, step)
            if let_in > start + 1e-6:
                given.fitted("clear", clear + let_in - start, f"the bolts of {name} go in past the flange beside them")
                start = ends = let_in
            spots = [start + first]
            for further in tuple(x.given.worked_out("pitch", usual)):
                spots.append(spots[-1] + further)
            end, wide = spots[-1] + edge, max(x.half * 0.6, lines[-1] - x.line + edge)
            if x.member.shape.shape == "I":
                most = x.half - x.member.shape.root - BETWEEN
                wide = min(lines[-1] - x.line + edge, most)
                if wide < lines[-1] - x.line + least - 0.01:
                    raise NoFit(f"between the flanges of {x.member.shape.name} the plate is {2 * most:.0f} mm wide at most; its bolts need {2 * (lines[-1] - x.line + least):.0f} mm", right="smaller bolts, one line of them, or a deeper brace")
            laid.append((x, [start, *spots, end]))
            across.append(lines)
            bolted(x, spots, lines, "bolts" if len(braces) == 1 and through is None else f"bolts of {name if len(braces) == 1 else f'brace {k}'}")
            if x.how == "tee":
                made = tee(x, start, spots, lines, end, (plain, plain), edge)
                plates += made.plates
                welds += made.welds
                ends = made.end
        cuts += [pressed(x, i, start, end) if x.how == FLATTENED else EndCut(i, in_space(x.at(ends)), in_space(x.along)) for i, _ in x.members]
        points += [x.at(s, w) for s in (start, end) for w in (x.line - wide, x.line + wide)]
        laps.append((start, end))
        reaches.append(end)
        breadths.append(wide)
    _apart([np.array([x.at(s, w) for s in lap for w in (x.line - wide, x.line + wide)]) for x, lap, wide in zip(braces, laps, breadths, strict=True)], braces)
    stand = stood_on(carriers, np.array(points), given)
    kinds = ("", "") if through is not None else _widen(points, braces, stand, house)
    feet = [[c.foot(p) for p in points] for c in stand]
    points += [f for some in feet for f in some if f is not None]
    # where an upright and a lying carrier meet the plate fills their corner
    points += [np.array([c[0], b[1]]) for one, mine in zip(stand, feet, strict=True) for two, theirs in zip(stand, feet, strict=True)
               if one.upright and not two.upright for c in mine if c is not None for b in theirs if b is not None]  # fmt: skip
    holds = np.mean([x.at(r) for x, r in zip(braces, reaches, strict=True)], axis=0)
    outline = plate_round(np.array(points), [c.body for c in stand], holds, float(given.value("snipe")))
    whole, outline = outline, clear_round(outline, [c for c in carriers if c not in stand], holds, given)
    for x in braces:
        if x.member.shape.shape == "I" and not outline.is_empty:  # its flanges stand out on both sides of the web the plate lies on
            k = braces.index(x)
            most, from_ = breadths[k], laid[k][1][0] - BETWEEN
            for s in (-1.0, 1.0):
                beyond = Polygon([x.at(a, s * b) for a, b in ((from_, most), (FAR, most), (FAR, FAR), (from_, FAR))])
                outline = outline.difference(beyond)
            outline = shapely.remove_repeated_points(piece_at(outline, holds).simplify(0.05), 0.02)
    if outline is not whole:
        kinds = ("", "")  # cut back, its extents are no longer what was rounded
    edges = standing(outline, [c.body for c in stand], max(2 * leg, 20.0)) if not outline.is_empty else []
    if not edges and through is None:
        raise NoFit(f"the plate would not stand on {carrying(case)[0][1].shape.name} anywhere", right="braces that come nearer to their carrier")
    # seen from the side of -y the plane's y runs up: the plate lies from there inwards
    frame = Frame((0.0, y0 + t, 0.0), FLAT.x, FLAT.z)
    ring = np.asarray(shapely.orient_polygons(outline).exterior.coords)[:-1, :2]
    faces = [stand[e.body].face(e) for e in edges]
    trims = bevels(edges, faces, frame, (y0, y0 + t))
    plate = Plate("gusset", Outline(tuple((float(u), float(v), 0.0) for u, v in ring)), t, frame, str(given.value("grade")), tuple(holes), kinds, trims=trims)
    if given.value("stiffeners"):
        ribs, seams = _stiffeners(case, given, t)
        plates += ribs
        welds += seams
    for i, e in enumerate(edges, 1):
        welds += foot_welds(on_plate(e, outline, leg), i, len(edges), stand[e.body].words, (y0, y0 + t), leg, faces[i - 1])
    return Detail(
        "bracing gusset", (plate, *plates), tuple(groups), tuple(welds), ends=tuple(cuts), notches=tuple(notches), holes=tuple(drill),
        dimensions=_dimensions(outline, laid, across, cuts, y0), numbers=tuple(given.numbers.values()), views=_views(braces), angles=_angles(case, braces, y0), fittings=tuple(forks),
    )  # fmt: skip


def _apart(laps: Sequence[Array], braces: Sequence[Brace]) -> None:
    """Raise NoFit where two braces lie over each other on the plate; ``laps`` are the corners (4, 2) of what each takes of it."""
    hulls = [shapely.MultiPoint(p).convex_hull for p in laps]
    for k, one in enumerate(hulls):
        for i in range(k):
            if one.intersection(hulls[i]).area > 1.0:
                raise NoFit(f"brace {i + 1} ({braces[i].member.shape.name}) and brace {k + 1} ({braces[k].member.shape.name}) lie over each other on the plate", right="braces further apart, or two of one line back to back")


def _clear_of(x: Brace, body: Polygon, clear: float, across: "tuple[float, float] | None" = None) -> float:
    """How far from the working point a brace has to end so that it keeps clear of some steel all across its breadth, or from where to where is said."""
    low, high = across or (-x.half - clear * 0.5, x.half + clear * 0.5)
    strip = Polygon([x.at(-FAR, low), x.at(FAR, low), x.at(FAR, high), x.at(-FAR, high)])
    met = strip.intersection(body)
    if met.is_empty:
        return clear
    foot = float((x.at(0.0)) @ x.along)
    return max(float(np.asarray(p) @ x.along) - foot for p in shapely.get_coordinates(met)) + clear


def _bolts_let_in(case: Case, x: Brace, b: BoltSize, plate: tuple[float, float], first: float, lines: Sequence[float]) -> float:
    """Where from the working point the first bolts of a brace may sit, which would sit at ``first`` and lie on some ``lines`` across: they go in from
    one side of the ``plate`` (from y to y) with the leg on it, and are turned on the other, past flanges that lie over or under them."""
    spots = shapely.MultiPoint([x.at(first, w) for w in lines]).buffer(b.clear)
    near = [m for _, m in carrying(case) if _silhouette(m).intersects(spots)]
    if not near and not case.context:
        return first
    thick = float(x.given.value("tee_thickness")) if x.how == "tee" else 2 * x.member.shape.tw if x.how == FLATTENED else x.member.shape.tf if x.member.shape.shape == "T" else x.member.shape.tw
    ways = [way for faces in x.faces for _, way in faces if len(faces) == 1] or [1.0, -1.0]
    low, high = plate[0] - thick * (1.0 in ways), plate[1] + thick * (-1.0 in ways)
    long, short = b.stocked_length(high - low, 2) + b.head_height, b.nut_height + 2 * b.washer_t + b.d / 2
    across = (min(lines) - b.clear, max(lines) + b.clear)
    least = math.inf
    for under, over in ((long, short), (short, long)):
        spans = ((low - under, low), (high, high + over))
        bodies = [shadow(m, FLAT, heights_between(*span, m)) for m in near for span in spans]
        body = shapely.union_all([*bodies, *(plate_shadow(s, heights_between(*span)) for s in case.context for span in spans)])
        if not spots.intersects(body):
            return first
        least = min(least, _clear_of(x, body, b.clear, across))
    return least


def _silhouette(m: CaseMember) -> Polygon:
    """What a member covers at most of the plane of the braces, however deep it lies."""
    h, b = max(m.shape.h, m.shape.h_end) / 2, m.shape.b / 2
    low, high = max(m.low, -FAR), min(m.high, FAR)
    corners = m.frame.to_world([(x, y, z) for x in (low, high) for y in (-b, b) for z in (-h, h)])
    return shapely.MultiPoint(corners[:, [0, 2]]).convex_hull


def _pin_let_in(case: Case, x: Brace, start: float, clear: float, step: float) -> float:
    """How far out a fork begins so that its pin goes in from one of its sides: between the flanges of a column there may be no room for it."""
    assert x.fork is not None
    low, high = x.heights
    pin = x.fork.pin
    need = pin.stocked_length(x.fork.deep, 1) + pin.head_height
    members = [m for _, m in carrying(case)]
    least = math.inf
    for y0, y1 in ((low - need, low), (high, high + need)):
        heights = tuple(-y for y in np.linspace(y0 + 1.0, y1 - 1.0, max(2, math.ceil(need / SLICE))).tolist())
        body = shapely.union_all([*(shadow(m, FLAT, heights) for m in members), *(plate_shadow(s, heights) for s in case.context)])
        spot = shapely.Point(x.at(start + x.fork.width / 2)).buffer(pin.head_af / 3**0.5 + 1.0)
        if not spot.intersects(body):
            return start
        least = min(least, up(_clear_of(x, body, clear), step))
    return least


EXTENTS = ("gusset length", "gusset width")  # of a gusset, level and plumb: what they are rounded as


def _widen(points: list[Array], braces: list[Brace], stand: Sequence[Carrier], house: HouseRules) -> tuple[str, str]:
    """Make the plate so much wider that the edges it stands on have round lengths; the rounding kinds of its level and plumb extents.

    ``points`` are four corners a brace; those that settle a length are carried further out square to their brace, so that every edge keeps
    its direction.  Between two ends both go out by half; in the corner of a column and a beam the length runs from the other one's face.
    """
    kinds = ["", ""]
    if len(stand) > 2:
        return ("", "")
    corners = list(points)
    feet = [[c.foot(p) for c in stand] for p in corners]
    for k, c in enumerate(stand):
        way = next((i for i, v in enumerate(c.run) if abs(v) > 1 - 1e-9), None) if c.member else None
        mine = {i: float(f[way]) for i, one in enumerate(feet) if (f := one[k]) is not None} if way is not None else {}
        rule = house.rounding_of(EXTENTS[way])[1] if way is not None else None
        if way is None or rule is None or len(mine) < 2:
            continue
        low, high = min(mine, key=lambda i: mine[i]), max(mine, key=lambda i: mine[i])
        others = [(float(p[way]), INSET if stand[j].member else 0.0) for one in feet for j, p in enumerate(one) if j != k and p is not None]
        if others:
            face, inset = others[0]
            far = max((low, high), key=lambda i: abs(mine[i] - face))
            size = abs(mine[far] - face) - inset
            ends = [(far, math.copysign(max(0.0, rounded(size, rule, house.flats) - size), mine[far] - face))]
        else:
            size = mine[high] - mine[low]
            more = max(0.0, rounded(size, rule, house.flats) - size) / 2
            ends = [(low, -more), (high, more)]
        if any(abs(braces[i // 4].across[way]) < 0.25 for i, _ in ends):
            continue  # the brace lies along what carries it: no corner of its plate can go out that way
        for i, by in ends:
            across = braces[i // 4].across
            side = (i, i // 4 * 4 + (i + 2) % 4)  # both corners of that side of the brace
            points.extend(corners[j] + across * (by / across[way]) for j in side)
        kinds[way] = EXTENTS[way]
    return (kinds[0], kinds[1])


def _stiffeners(case: Case, given: Given, t: float) -> tuple[list[Plate], list[Weld]]:
    """Plates on both sides of the lying carrier's web at the working point, from flange to flange."""
    house = given.house
    found = next(((i, m) for i, m in carrying(case) if m.role.startswith("beam")), None)
    if found is None or found[1].shape.shape not in ("I", "C"):
        raise NoFit("there is no beam with a web for stiffeners to stand in", right="none, or braces that meet at a beam")
    m = found[1]
    shape = m.shape
    if abs(m.frame.z[1]) > 0.7:  # on its side: the plate itself stands on its web
        raise NoFit(f"the gusset stands on the web of {shape.name}, where stiffeners would run through it", right="none")
    station = -float(np.array(m.frame.x) @ m.frame.o)  # the working point is the origin
    if not m.low + 20.0 <= station <= m.high - 20.0:
        raise NoFit(f"the braces' lines meet {shape.name} at its end; a stiffener there would stand in the air", right="none, or braces that meet at a beam along its length")
    thick = float(given.worked_out("stiffener_thickness", stocked(t, house)))
    leg = given.rounded("stiffener_weld", min(max(0.5 * thick, 4.7625 if house.inch else 5.0), max(shape.tw, 5.0)), "weld leg")
    usual = given.rounded("stiffener_width", room_beside(shape), "stiffener")
    width, snipe = beside_web(shape, leg, usual, house)
    if width != usual:
        width = float(given.fitted("stiffener_width", width, TO_THE_EDGE))
    return stiffeners_at(m, station, str(given.value("grade")), thick, width, snipe, leg, role_words(m.role))


def _dimensions(outline: Polygon, laid: "list[tuple[Brace, list[float]]]", lines_of: list[list[float]], cuts: Sequence[EndCut], y: float) -> tuple[Dimension, ...]:
    """The plate over all, and along each brace what can be set there: ``laid`` gives its end, its bolts and the plate's end."""
    x0, z0, x1, z1 = outline.bounds
    out = [
        Dimension("front", "bottom", 0, ((x0, y, z0), (x1, y, z0)), ("",)),
        Dimension("front", "right", 0, ((x1, y, z1), (x1, y, z0)), ("",)),
    ]
    for i, (x, at) in enumerate(laid, 1):
        own = x.given.named
        names = ("", own("overlap")) if x.how == "slotted" else ("", "", "") if x.how == "forked" else ("", own("brace_end"), *((own("pitch"),) * (len(at) - 3)), "edge")
        points = tuple(in_space(x.at(s, x.line), y) for s in (0.0, *at))
        if len(lines := lines_of[i - 1]) > 1:
            out.append(Dimension(f"brace {i}", "left", 0, tuple(in_space(x.at(at[1], w), y) for w in lines), ("" if x.apart else own("lines"),) * (len(lines) - 1)))
        out.append(Dimension(f"brace {i}", "bottom", 0, points, names))
        for cut in cuts:
            if cut.flat and cut.member == x.members[0][0]:
                out.append(Dimension(f"brace {i}", "bottom", 1, tuple(in_space(x.at(at[0] + s, x.line), y) for s in (0.0, cut.flat, cut.flat + cut.taper)), (own("flat"), own("taper"))))
        if x.member.shape.shape == "L" and len(lines) < 2:
            heel = -math.copysign(x.half, x.line) if x.line else -x.half
            out.append(Dimension(f"brace {i}", "left", 0, (in_space(x.at(at[0], heel), y), in_space(x.at(at[0], x.line), y)), (own("gauge"),)))
    return tuple(out)


def _angles(case: Case, braces: list[Brace], y: float) -> tuple[Angle, ...]:
    """Each brace against what carries it, square to the plate or in the view along it."""
    run = carrying(case)[0][1].frame.x
    out = []
    for i, x in enumerate(braces, 1):
        way = np.array([run[0], run[2]]) * (1.0 if float(np.array([run[0], run[2]]) @ x.along) > 0 else -1.0)
        foot = x.at(0.0)
        out += [Angle(view, in_space(foot, y), in_space(foot + 100 * way, y), in_space(x.at(100.0), y)) for view in ("front", f"brace {i}")]
    return tuple(out)


def _views(braces: list[Brace]) -> tuple[SheetView, ...]:
    """The plate in its plane, and again turned so that each brace lies level."""
    out = [SheetView("front", "Front", FLAT)]
    for i, x in enumerate(braces, 1):
        name = "Along the brace" if len(braces) == 1 else f"Along brace {i}"
        out.append(SheetView(f"brace {i}", name, Frame((0.0, 0.0, 0.0), in_space(x.along), FLAT.z)))
    return (*out, STANDARD_VIEWS[2])


FAMILY = Family(
    "bracing-gusset", "Bracing gusset", ("gusset plate", "rod bracing", "fork", "brace plate", "vertical bracing", "plan bracing", "flattened tube", "crushed end"), ("brace end",), SETTINGS, fits, build,
    {
        "edge-least": ("edge", "brace_end", "gauge"), "edge-greatest": ("edge", "brace_end", "gauge", "thickness"), "spacing-least": ("pitch",),
        "spacing-greatest": ("pitch", "lines", "thickness"), "fillet-throat": ("weld_leg", "tube_weld", "stiffener_weld"), "fillet-leg-least": ("weld_leg", "tube_weld", "stiffener_weld"),
        "fillet-leg-greatest": ("weld_leg", "tube_weld", "cap_weld"), "fillet-length": ("weld_leg", "overlap"), "plate-stock": ("thickness", "tee_thickness", "cap_thickness"),
        "plate-step": ("tee_width", "stiffener_width"), "spacing-beside": ("pitch", "clear"), "edge-beside": ("clear",), "bolt-entry": ("fork_start",),
    },
    shares=4, sees=True, each=numbered,
    situations=("bracing",), example=at_end(a_column("UC 203x203x46"), a_brace("CHS 88.9x5", 30.0), end="start"),
)  # fmt: skip
