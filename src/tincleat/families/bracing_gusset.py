"""Bracing gusset: one plate for one to four braces of a plane, welded to a column, a beam or both in their corner.

Joint frame: origin at the working point, y square to the plane of the braces, z up an upright carrier or off a lying one.
"""

import math
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Polygon

from tincleat.catalogue.fasteners import bolt_size, hole_size
from tincleat.details.assembled import role_words
from tincleat.details.parts import STANDARD_VIEWS, Bolts, Detail, Dimension, Hole, Plate, SheetView, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import BOLT_GRADES, BOLT_SIZES, HOLES, STEEL_GRADES, Family, Given, Setting, bolt_choice, rounded
from tincleat.geometry.frames import Array, Frame, Vec3
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case, CaseMember
from tincleat.kit.contact import Edge, piece_at, plate_round, shadow, standing
from tincleat.kit.drill import drilled
from tincleat.kit.layout import up
from tincleat.kit.weld import both_sides, fillet
from tincleat.project.entities import HouseRules
from tincleat.standards.rulesets import rules_of
from tincleat.steel.cuts import EndCut, MemberHole, Notch

FLAT = Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, -1.0, 0.0))  # the plane of the braces: its x along x, its y along z
OUT_OF_PLANE = 0.02  # sine of the angle between a brace and the plane
INSET = 2.0  # mm that the plate's corners are first taken to lie inside the steel it is then cut against
SLOT_PLAY = 2.0  # mm a slot is wider than the plate in it

SETTINGS = (
    Setting("thickness", "Plate thickness", "length", "Plate", 10.0, "Thickness of the gusset.", 5, 60, inches=9.525),
    Setting("grade", "Plate grade", "choice", "Plate", lambda h: h.plate_grade, "Steel grade of the gusset.", choices=STEEL_GRADES),
    Setting("clear", "Brace end clear", "length", "Plate", 25.0, "From the braces' ends to the members the plate is welded to.", 0, 300, inches=25.4),
    Setting("edge", "Plate edge", "length", "Plate", None, "From bolts, or from a tube's side, to the plate's edge.", 10, 300),
    Setting("snipe", "Corner snipe", "length", "Plate", 20.0, "Cut off where two members meet, clear of roots and gaps.", 0, 150, inches=19.05),
    Setting("side", "Plate beside flats", "choice", "Plate", "near side", "Which face of a flat bar the plate lies on.", choices=("near side", "far side"), handed=True),
    Setting("bolt", "Bolt", "choice", "Bolts", bolt_choice, "Size of the bolts of bolted braces.", choices=BOLT_SIZES),
    Setting("bolt_grade", "Bolt grade", "choice", "Bolts", lambda h: h.bolt_grade, "Strength class of the bolts.", choices=BOLT_GRADES),
    Setting("pitch", "Bolt pitch", "spacings", "Bolts", None, "Spacings of the bolts along each brace; two bolts if not typed.", 0, 1000),
    Setting("brace_end", "Brace end distance", "length", "Bolts", None, "From a brace's end to its first bolt.", 15, 300),
    Setting("gauge", "Gauge", "length", "Bolts", None, "From an angle's heel to its bolt line.", 10, 300),
    Setting("hole", "Holes in plate", "choice", "Bolts", "normal", "Kind of hole in the plate; slots run along the brace.", choices=HOLES),
    Setting("overlap", "Slot over the plate", "length", "Tubes", None, "How far a slotted tube goes over the plate.", 30, 1000),
    Setting("tube_weld", "Tube weld leg", "length", "Welds", None, "Four fillets along each slotted tube.", 3, 30),
    Setting("weld_leg", "Gusset weld leg", "length", "Welds", None, "Fillets on both faces where the plate stands on members.", 3, 30),
)  # fmt: skip


@dataclass(frozen=True)
class _Brace:
    """A brace in the plane: its number, member, unit directions along it and across it, half its breadth in the plane, what holds it."""

    number: int
    member: CaseMember
    along: Array
    across: Array
    half: float
    how: str
    line: float  # of the bolts from the brace's axis, along ``across``
    faces: tuple[tuple[float, float], ...]  # the plate's two y for a thickness of 1, per side it may lie on: where and which way

    @property
    def origin(self) -> Array:
        """A point of its axis in the plane (2,)."""
        o = self.member.frame.o
        return np.array([o[0], o[2]])

    def at(self, s: float, w: float = 0.0) -> Array:
        """A point (2,) of the plane ``s`` mm out along the axis from the working point and ``w`` across."""
        foot = self.origin - self.along * float(self.origin @ self.along)
        return foot + self.along * s + self.across * w


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless one to four braces of one plane end at a column or beam."""
    braces = case.all("brace")
    if case.kind != "brace end" or not braces:
        raise NoFit(f"a gusset holds braces at a column or beam; this is a {case.kind}", right="the end of a brace at a column or beam")
    if not _carriers(case):
        raise NoFit("the brace ends on another brace", right="a brace end at a column or beam")
    for _, m in braces:
        _held(m, house)
        lean = abs(m.away[1])
        if lean > OUT_OF_PLANE:
            raise NoFit(f"{m.shape.name} leaves the plane of the braces by {math.degrees(math.asin(min(1.0, lean))):.1f}°", right="braces of one plane")
        if abs(m.frame.origin[1]) > 60:
            raise NoFit(f"{m.shape.name} lies {abs(m.frame.origin[1]):.0f} mm out of the plane of its carrier", right="at most 60 mm")
    main = _carriers(case)[0][1]
    axis = 0 if main.role.startswith("column") else 2
    ways = {math.copysign(1.0, m.away[axis]) for _, m in braces}
    if len(ways) > 1:
        raise NoFit(f"the braces come to both sides of {main.shape.name}", right="a gusset on each side")


def _carriers(case: Case) -> list[tuple[int, CaseMember]]:
    return [(i, m) for i, m in enumerate(case.members) if m.role.partition("-")[0] in ("column", "beam")]


def _held(m: CaseMember, house: HouseRules) -> tuple[str, float, float, tuple[tuple[float, float], ...]]:
    """How a brace is held, half its breadth in the plane, its bolt line off the axis, and the faces the plate may lie on."""
    s, f = m.shape, m.frame
    y, z = float(f.y[1]), float(f.z[1])
    flat = abs(y) > 0.99 or abs(z) > 0.99
    if s.shape == "CHS":
        return "slotted", s.h / 2, 0.0, ((f.origin[1], 0.0),)
    if not flat:
        raise NoFit(f"{s.name} lies {math.degrees(math.asin(min(1.0, min(abs(y), abs(z))))):.0f}° turned to the plane of the braces", right="a face of it in that plane")
    if s.shape == "RHS":
        return "slotted", (s.h if abs(y) > 0.99 else s.b) / 2, 0.0, ((f.origin[1], 0.0),)
    along = np.array(m.away)
    across = np.cross([0.0, -1.0, 0.0], along)  # in the plane, square to the brace
    if s.shape == "L":
        upright = abs(y) > 0.99
        out = -y if upright else -z  # which way the back of the leg in the plane looks
        face = f.origin[1] + out * (s.b if upright else s.h) / 2
        leg = s.h if upright else s.b
        way = float(np.array(f.z if upright else f.y) @ across)
        gauge = math.floor(0.55 * leg / 5) * 5.0 if not house.inch else math.floor(0.55 * leg / 6.35) * 6.35
        return "bolted", leg / 2, way * (gauge - leg / 2), ((face, math.copysign(1.0, out)),)
    if s.shape == "FL" and abs(y) > 0.99:
        return "bolted", s.h / 2, 0.0, tuple((f.origin[1] + side * s.tw / 2, side) for side in (-1.0, 1.0))
    if s.shape == "C" and abs(y) > 0.99:
        return "bolted", s.h / 2, 0.0, ((f.origin[1] - y * s.b / 2, math.copysign(1.0, -y)),)
    raise NoFit(f"{s.name} is a {s.shape} section; a gusset takes angles, flats, channels by their back, and slotted tubes", right="one of these")


def _brace(i: int, m: CaseMember, given: Given) -> _Brace:
    how, half, line, faces = _held(m, given.house)
    along = np.array([m.away[0], m.away[2]])
    along = along / np.hypot(*along)
    if m.shape.shape == "L" and given.has("gauge"):
        leg = 2 * half
        line = math.copysign(1.0, line or 1.0) * (float(given.value("gauge")) - leg / 2)
    return _Brace(i, m, along, np.array([-along[1], along[0]]), half, how, line, faces)


def build(case: Case, given: Given) -> Detail:
    """The plate with its holes, bolts or slots and their welds, braces cut back, welds on what carries it."""
    house = given.house
    t = float(given.value("thickness"))
    braces = [_brace(i, m, given) for i, m in case.all("brace")]
    y0 = _plane(braces, t, 0 if given.value("side") == "near side" else 1)
    bolt = str(given.value("bolt"))
    b = bolt_size(bolt)
    plain, _ = hole_size(house.rule_set, bolt, "normal")
    hole_w, hole_l = hole_size(house.rule_set, bolt, str(given.value("hole")))
    least = rules_of(house).edge_least(b, Hole(0, 0, hole_w, hole_l), False).value
    step = 6.35 if house.inch else 5.0
    edge = float(given.worked_out("edge", up(max(least, 1.75 * b.d, 30.0), step)))
    first = float(given.worked_out("brace_end", up(max(least, 1.75 * b.d), step)))
    pitch: tuple[float, ...] = tuple(given.worked_out("pitch", (76.2 if house.inch else up(max(3.0 * b.d, 60.0), step),)))
    clear = float(given.value("clear"))
    carriers = _carriers(case)
    steel = [shadow(m, FLAT, _heights(y0, y0 + t)) for _, m in carriers]
    points: list[Array] = []
    cuts: list[EndCut] = []
    notches: list[Notch] = []
    groups: list[Bolts] = []
    holes: list[Hole] = []
    drill: list[MemberHole] = []
    welds: list[Weld] = []
    laid: list[tuple[_Brace, list[float]]] = []
    reaches: list[float] = []
    leg = given.rounded("weld_leg", max(0.6 * t, 4.7625 if house.inch else 5.0), "weld leg")
    tube_leg = given.rounded("tube_weld", min(max(0.9 * min((x.member.shape.tw for x in braces if x.how == "slotted"), default=t), 4.7625 if house.inch else 5.0), 12.7), "weld leg")
    for x in braces:
        body = shapely.union_all([shadow(m, FLAT, _heights(x.member.frame.origin[1] - x.member.shape.b / 2, x.member.frame.origin[1] + x.member.shape.b / 2)) for _, m in carriers])
        start = up(_clear_of(x, body, clear), step)
        if x.how == "slotted":
            overlap = float(given.worked_out("overlap", up(max(1.2 * 2 * x.half, 4 * tube_leg, 80.0), 12.7 if house.inch else 10.0)))
            end, wide = start + overlap, x.half + max(edge, 2 * tube_leg + 8.0)
            notches.append(_slot(x, t, start, overlap + step))
            welds += _tube_welds(x, t, start, overlap, tube_leg)
            laid.append((x, [start, end]))
        else:
            spots = [start + first]
            for gap in pitch:
                spots.append(spots[-1] + gap)
            end, wide = spots[-1] + edge, max(x.half * 0.6, edge)
            laid.append((x, [start, *spots, end]))
            name = "bolts" if len(braces) == 1 else f"bolts of brace {x.number + 1}"
            flat = [x.at(s, x.line) for s in spots]
            middle = y0 + t / 2
            at = [(float(p[0]), middle, float(p[1])) for p in flat]
            towards = math.copysign(1.0, middle - x.member.frame.origin[1])
            groups.append(Bolts(name, bolt, str(given.value("bolt_grade")), tuple(at), (0.0, -towards, 0.0), (float(x.along[0]), 0.0, float(x.along[1])), given.value("hole")))
            holes += [Hole(float(p[0]), float(p[1]), hole_w, hole_l, math.atan2(x.along[1], x.along[0]), given.value("hole")) for p in flat]
            drill += drilled(case, x.number, at, (0.0, 1.0, 0.0), plain, plain, (float(x.along[0]), 0.0, float(x.along[1])))
        cuts.append(EndCut(x.number, _in(x.at(start)), (float(x.along[0]), 0.0, float(x.along[1]))))
        points += [x.at(s, w) for s in (start, end) for w in (x.line - wide, x.line + wide)]
        reaches.append(end)
    strip = len(braces) == 1 and braces[0].how == "bolted" and house.exposed  # greatest edge distances go before round sizes
    kinds = ("", "") if strip else _widen(points, braces, case, steel, house)
    feet = _feet(points, case, steel)
    points += [p for some in feet for p in some]
    # where a column and a beam meet the plate fills their corner
    points += [np.array([c[0], b[1]]) for (_, m), one in zip(carriers, feet, strict=True) for (_, o), two in zip(carriers, feet, strict=True)
               if m.role.startswith("column") and o.role.startswith("beam") for c in one for b in two]  # fmt: skip
    outline = plate_round(np.array(points), steel, np.mean([x.at(r) for x, r in zip(braces, reaches, strict=True)], axis=0), float(given.value("snipe")))
    if strip:
        outline = piece_at(outline.intersection(_strip(braces[0], rules_of(house).edge_greatest(min(t, braces[0].member.shape.tw)).value - 1.0)), braces[0].at(reaches[0]))
    edges = standing(outline, steel, max(2 * leg, 20.0)) if not outline.is_empty else []
    if not edges:
        raise NoFit(f"the plate would not stand on {carriers[0][1].shape.name} anywhere", right="braces that come nearer to their carrier")
    # seen from the side of -y the plane's y runs up: the plate lies from there inwards
    frame = Frame((0.0, y0 + t, 0.0), FLAT.x, FLAT.z)
    ring = np.asarray(shapely.orient_polygons(outline).exterior.coords)[:-1, :2]
    plate = Plate("gusset", Outline(tuple((float(u), float(v), 0.0) for u, v in ring)), t, frame, str(given.value("grade")), tuple(holes), kinds)
    for i, e in enumerate(edges, 1):
        welds += _foot_welds(e, i, len(edges), case, carriers[e.body][1], y0 + t / 2, t, leg)
    return Detail(
        "bracing gusset", (plate,), tuple(groups), tuple(welds), ends=tuple(cuts), notches=tuple(notches), holes=tuple(drill),
        dimensions=_dimensions(outline, laid, y0), numbers=tuple(given.numbers.values()), views=_views(braces),
    )  # fmt: skip


def _in(p: Array, y: float = 0.0) -> Vec3:
    return (float(p[0]), y, float(p[1]))


def _heights(low: float, high: float) -> list[float]:
    """Heights over the plane (which looks along -y) at which to cut what lies between two y: just inside them and in the middle."""
    return [-(low + (high - low) * share) for share in (0.01, 0.5, 0.99)]


def _plane(braces: list[_Brace], t: float, side: int) -> float:
    """The plate's lower y, so that it lies on or in every brace; raises NoFit where they ask for different planes."""
    found: list[list[float]] = []
    for x in braces:
        some = [y - t / 2 if way == 0 else (y if way > 0 else y - t) for y, way in x.faces]
        found.append(some if len(some) == 1 else [some[side], some[1 - side]])
    for y in found[0]:
        if all(any(abs(y - v) < 0.6 for v in some) for some in found):
            return y
    spread = max(some[0] for some in found) - min(some[0] for some in found)
    raise NoFit(f"the braces lie {spread:.1f} mm apart across the plate", right="braces whose faces lie in one plane, or a gusset for each")


def _clear_of(x: _Brace, body: Polygon, clear: float) -> float:
    """How far from the working point a brace has to end so that it keeps clear of some steel all across its breadth."""
    far = 2000.0
    w = x.half + clear * 0.5
    strip = Polygon([x.at(-far, -w), x.at(far, -w), x.at(far, w), x.at(-far, w)])
    met = strip.intersection(body)
    if met.is_empty:
        return clear
    foot = float((x.at(0.0)) @ x.along)
    return max(float(np.asarray(p) @ x.along) - foot for p in shapely.get_coordinates(met)) + clear


def _strip(x: _Brace, reach: float) -> Polygon:
    """The plane as far as ``reach`` mm to either side of a brace's bolts."""
    return Polygon([_at2(x, s, x.line + w) for s, w in ((-3000.0, -reach), (3000.0, -reach), (3000.0, reach), (-3000.0, reach))])


def _at2(x: _Brace, s: float, w: float) -> tuple[float, float]:
    a, b = x.at(s, w).tolist()
    return (a, b)


def _feet(points: list[Array], case: Case, steel: list[Polygon]) -> list[list[Array]]:
    """Where the plate stands on each carrier: its corners carried square onto columns (level) and beams (plumb)."""
    every: list[list[Array]] = []
    for (_, m), body in zip(_carriers(case), steel, strict=True):
        out: list[Array] = []
        every.append(out)
        across = np.array([m.frame.x[0], m.frame.x[2]])
        normal = np.array([-across[1], across[0]]) / max(float(np.hypot(*across)), 1e-9)
        middle = np.array([m.frame.origin[0], m.frame.origin[2]])
        for p in points:
            off = float((p - middle) @ normal)
            line = shapely.LineString([p, p - normal * off])
            met = line.intersection(body)
            if not met.is_empty:
                hits = shapely.get_coordinates(met)
                near = hits[np.argmin(np.hypot(*(hits - p).T))]
                out.append(near - normal * math.copysign(1.0, off) * INSET)
    return every


def _widen(points: list[Array], braces: list[_Brace], case: Case, steel: list[Polygon], house: HouseRules) -> tuple[str, str]:
    """Make the plate so much wider that the edges it stands on have round lengths; the rounding kinds of its level and plumb extents.

    ``points`` are four corners a brace; those that settle a length are carried further out square to their brace, so that every edge keeps
    its direction.  Between two ends both go out by half; in the corner of a column and a beam the length runs from the other one's face.
    """
    rule = house.rounding.get("plate length")
    carriers = _carriers(case)
    kinds = ["", ""]
    if rule is None or len(carriers) > 2:
        return ("", "")
    corners = list(points)
    feet = [_feet([p], case, steel) for p in corners]
    for k, (_, m) in enumerate(carriers):
        way = next((i for i, v in enumerate((m.frame.x[0], m.frame.x[2])) if abs(v) > 1 - 1e-9), None)
        mine = {i: float(one[k][0][way]) for i, one in enumerate(feet) if one[k]} if way is not None else {}
        if way is None or len(mine) < 2:
            continue
        low, high = min(mine, key=lambda i: mine[i]), max(mine, key=lambda i: mine[i])
        others = [float(p[way]) for one in feet for j, some in enumerate(one) if j != k for p in some]
        if others:
            far = max((low, high), key=lambda i: abs(mine[i] - others[0]))
            size = abs(mine[far] - others[0]) - INSET
            ends = [(far, math.copysign(max(0.0, rounded(size, rule, house.flats) - size), mine[far] - others[0]))]
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
        kinds[way] = "plate length"
    return (kinds[0], kinds[1])


def _slot(x: _Brace, t: float, start: float, length: float) -> Notch:
    """The slot in a tube's end: right through both walls, as wide as the plate and some play, round at its end."""
    w = t + SLOT_PLAY
    y = x.member.frame.origin[1]
    depth = 2 * x.half + 40
    # the prism runs across the brace in the plane; its outline lies in the plane of brace and y
    corner = x.at(0.0, -depth / 2)
    frame = Frame.of(_in(corner, y), (float(x.along[0]), 0.0, float(x.along[1])), (float(x.across[0]), 0.0, float(x.across[1])))
    outline = Outline.rounded([(start - 60, -w / 2), (start + length, -w / 2), (start + length, w / 2), (start - 60, w / 2)], [0.0, w / 2 - 0.01, w / 2 - 0.01, 0.0])
    return Notch("slot", x.number, frame, outline, depth)


def _tube_welds(x: _Brace, t: float, start: float, length: float, leg: float) -> list[Weld]:
    """Four fillets between a slotted tube's walls and the plate in it."""
    out = []
    y = x.member.frame.origin[1]
    rim = math.sqrt(max(x.half**2 - (t / 2) ** 2, 0.0)) if x.member.shape.shape == "CHS" else x.half
    name = role_words(x.member.role)
    for side in (-1.0, 1.0):
        for face in (-1.0, 1.0):
            a, b = (_in(x.at(s, side * rim), y + face * t / 2) for s in (start, start + length))
            on_plate = (float(x.across[0]) * side, 0.0, float(x.across[1]) * side)
            out.append(fillet(f"{name} in the slot", leg, a, b, on_plate, (0.0, face, 0.0), ("gusset", name)))
    return out


def _foot_welds(e: Edge, i: int, count: int, case: Case, carrier: CaseMember, y: float, t: float, leg: float) -> list[Weld]:
    words = role_words(carrier.role)
    name = f"gusset to {words}" + (f" {i}" if count > 1 else "")
    run = (_in(e.start, y), _in(e.end, y))
    return both_sides(name, leg, run, (0.0, 1.0, 0.0), t, _in(e.into), (words, "gusset"))


def _dimensions(outline: Polygon, laid: "list[tuple[_Brace, list[float]]]", y: float) -> tuple[Dimension, ...]:
    """The plate over all, and along each brace what can be set there: ``laid`` gives its end, its bolts and the plate's end."""
    x0, z0, x1, z1 = outline.bounds
    out = [
        Dimension("front", "bottom", 0, ((x0, y, z0), (x1, y, z0)), ("",)),
        Dimension("front", "right", 0, ((x1, y, z1), (x1, y, z0)), ("",)),
    ]
    for i, (x, at) in enumerate(laid, 1):
        names = ("", "brace_end", *(("pitch",) * (len(at) - 3)), "edge") if x.how == "bolted" else ("", "overlap")
        points = tuple(_in(x.at(s, x.line), y) for s in (0.0, *at))
        out.append(Dimension(f"brace {i}", "bottom", 0, points, names))
        if x.member.shape.shape == "L":
            heel = -math.copysign(x.half, x.line) if x.line else -x.half
            out.append(Dimension(f"brace {i}", "left", 0, (_in(x.at(at[0], heel), y), _in(x.at(at[0], x.line), y)), ("gauge",)))
    return tuple(out)


def _views(braces: list[_Brace]) -> tuple[SheetView, ...]:
    """The plate in its plane, and again turned so that each brace lies level."""
    out = [SheetView("front", "Front", FLAT)]
    for i, x in enumerate(braces, 1):
        name = "Along the brace" if len(braces) == 1 else f"Along brace {i}"
        out.append(SheetView(f"brace {i}", name, Frame((0.0, 0.0, 0.0), _in(x.along), FLAT.z)))
    return (*out, STANDARD_VIEWS[2])


FAMILY = Family(
    "bracing-gusset", "Bracing gusset", ("gusset plate", "brace plate", "vertical bracing", "plan bracing"), ("brace end",), SETTINGS, fits, build,
    {
        "edge-least": ("edge", "brace_end", "gauge"), "edge-greatest": ("edge", "brace_end", "gauge", "thickness"), "spacing-least": ("pitch",),
        "spacing-greatest": ("pitch", "thickness"), "fillet-throat": ("weld_leg", "tube_weld"), "fillet-leg-least": ("weld_leg", "tube_weld"),
        "fillet-leg-greatest": ("weld_leg", "tube_weld"), "fillet-length": ("weld_leg", "overlap"), "plate-stock": ("thickness",),
    },
    shares=4,
)  # fmt: skip
