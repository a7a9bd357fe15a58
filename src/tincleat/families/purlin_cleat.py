"""Purlin and girt cleat: an angle on a rafter's or column's flange, bolted to the web of what lies over it.

Joint frame: origin on the carrying flange over its middle, x along the purlin, z out of the flange.
"""

import math
from dataclasses import dataclass, replace

import numpy as np

from tincleat.catalogue.fasteners import bolt_size
from tincleat.catalogue.sections import section
from tincleat.details.parts import Bolts, Detail, Dimension, Hole, Piece, Plate, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import BOLT_GRADES, BOLT_SIZES, STEEL_GRADES, Family, Given, Setting
from tincleat.families.example import a_member, where_crossed
from tincleat.families.fly_brace import FLY, NONE, flies
from tincleat.geometry.frames import Frame, Vec3, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case, CaseMember
from tincleat.kit.angle import ANGLES, angle, first_choice, longer, shorter
from tincleat.kit.cope import web_of
from tincleat.kit.layout import down
from tincleat.kit.weld import fillet
from tincleat.project.entities import HouseRules
from tincleat.steel.cuts import EndCut, MemberHole

SETTINGS = (
    Setting("size", "Angle", "choice", "Cleat", lambda h: first_choice(h, "L 150x75x9", "L5X3-1/2X3/8"), "Section of the cleat; its longer leg stands up.", choices=ANGLES),
    Setting("length", "Cleat length", "length", "Cleat", None, "Along the purlin; worked out from the bolts if not typed.", 40, 600),
    Setting("grade", "Grade", "choice", "Cleat", lambda h: h.plate_grade, "Steel grade of the cleat.", choices=STEEL_GRADES),
    Setting("bolt", "Bolt", "choice", "Bolts", lambda h: "5/8in" if h.inch else "M16", "Size of the bolts.", choices=BOLT_SIZES),
    Setting("bolt_grade", "Bolt grade", "choice", "Bolts", lambda h: h.bolt_grade, "Strength class of the bolts.", choices=BOLT_GRADES),
    Setting("pitch", "Bolts over each other", "spacings", "Bolts", None, "Spacing of the bolts up the web; 0 is one bolt.", 0, 400),
    Setting("first", "First bolt up", "length", "Bolts", None, "From the flange to the lowest bolt; worked out so that they sit between root and edge.", 15, 500),
    Setting("edge", "Edge distance", "length", "Bolts", None, "From the bolts to the cleat's ends and the purlins' ends.", 10, 200),
    Setting("lap", "Lap past the carrier", "length", "Lap", None, "From the carrier's middle to the ends of two zeds that lie in each other; as drawn if not typed.", 60, 1500),
    Setting("sleeve", "Sleeve", "length", "Sleeve", 0.0, "Thickness of a plate on the webs of two purlins that end here, on the side away from the cleat; 0 is none.", 0, 20),
    Setting("sleeve_reach", "Sleeve bolts out", "length", "Sleeve", 300.0, "From the bolts of the cleat to those at the sleeve's ends.", 60, 2000, inches=304.8),
    Setting("sleeve_height", "Sleeve height", "length", "Sleeve", None, "Between the purlins' roots; as high as its bolts need if not typed.", 30, 500),
    *FLY,
    Setting("gap", "Gap between ends", "length", "Purlin", 10.0, "Between two purlins that end here.", 0, 100, inches=12.7),
    Setting("weld_leg", "Weld leg", "length", "Weld", None, "Fillets at the toe and the ends of the cleat.", 2, 20),
)  # fmt: skip


UNDER = 2.0  # mm that a cleat's leg ends before the bend of the flange over it
CLOSE = 0.3  # mm to which two zeds lie in each other
INSIDE = 0.1  # mm that a purlin may lie in its carrier: a film
OFF_WEB = 2.0  # mm that a web may lean over its depth: what bolts draw together (EN 1090-2 8.1)
LAP = 1.0  # mm either way of the carrier's middle that a purlin which ends there does not both reach
MOST_BEND = math.radians(0.5)  # of two purlins over their carrier


@dataclass(frozen=True)
class _Web:
    """A purlin's web as it lies: its middle plane's y, its thickness, the side (sign of y) the cleat goes on, the height of its clear part."""

    y: float
    t: float
    side: float
    low: float
    high: float


def _web(m: CaseMember) -> _Web:
    web = web_of(m.shape.elements)
    if web is None or m.shape.shape not in ("C", "CF", "Z"):
        raise NoFit(f"{m.shape.name} is a {m.shape.shape} section; the cleat stands against the back of a web", right="a channel, lipped channel or zed that lies on the flange")
    if abs(m.frame.z[2]) < 0.9:
        raise NoFit(f"{m.shape.name} lies on its side", right="its web square to the flange it lies on")
    if (off := m.shape.h * abs(m.frame.y[2])) > OFF_WEB:
        raise NoFit(f"the web of {m.shape.name} leans {math.degrees(math.asin(abs(m.frame.y[2]))):.1f}° off square to the flange it lies on, {off:.1f} mm over its depth", right=f"at most {OFF_WEB:g} mm, which bolts draw together")
    way = math.copysign(1.0, m.frame.y[1])
    y = m.frame.origin[1] + web.at * way
    middle, half = m.frame.origin[2], m.shape.h / 2
    # against the back of a channel; beside a zed on the side its lower flange does not go to
    lower = m.frame.z[2] > 0
    side = -way if m.shape.shape != "Z" else (way if lower else -way)
    return _Web(y, web.thickness, side, middle - half + m.shape.root, middle + half - m.shape.root)


def _nested(overs: "list[tuple[int, CaseMember]]", webs: list[_Web]) -> None:
    """Raise NoFit with figures unless two zeds lie in each other: a broad flange over a narrow one at the top and at the bottom, web on web."""
    (_, a), (_, b) = overs
    if a.shape != b.shape or not a.shape.narrow:
        names = a.shape.name if a.shape == b.shape else f"{a.shape.name} and {b.shape.name}"
        raise NoFit(f"{names} do not lie in each other", right="zeds of one size with a broad and a narrow flange, such as Z 200x65/59x20x2, every second one turned over")
    t, differ = a.shape.tw, a.shape.b + a.shape.tw - 2 * a.shape.narrow
    if differ < 2 * t - 1e-6:
        raise NoFit(f"the flanges of {a.shape.name} differ by {differ:g} mm, too little for one to lie in the other", right=f"at least {2 * t:g} mm")
    if a.frame.z[2] * b.frame.z[2] > 0 or webs[0].side != webs[1].side:
        raise NoFit("both zeds lie the same way up", right="one of them turned over by 180°")
    broad, other = (0, 1) if a.frame.z[2] > 0 else (1, 0)  # the broad flange of the first lies on top
    aside = (webs[other].y - webs[broad].y) * webs[broad].side
    under = overs[broad][1].frame.origin[2] - overs[other][1].frame.origin[2]
    if abs(aside - t) > CLOSE or abs(under - t) > CLOSE:
        raise NoFit(
            f"the web of the zed that is turned over lies {aside:.1f} mm to the side of its top flange from the other's, its top {under:.1f} mm under the other's",
            right=f"{t:g} mm both: moved {t - aside:.1f} mm to that side and {t - under:.1f} mm down",
        )


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless a channel or zed lies on a flange, crossing it or ending on it, alone or with its like beyond, or two
    zeds lap there."""
    if case.kind not in ("crossing", "lap"):
        raise NoFit(f"a cleat stands where a member lies on another's flange; this is a {case.kind}", right="a purlin on a rafter or a girt on a column")
    overs = case.all("over")
    webs = [_web(m) for _, m in overs]
    if case.kind == "lap":
        _nested(overs, webs)
    elif len({(round(w.y, 0), w.side) for w in webs}) > 1:
        raise NoFit(f"the two ends lie {abs(webs[0].y - webs[1].y):.0f} mm beside each other", right="purlins in one line")
    if len(overs) > 1:
        bend = math.acos(min(1.0, abs(float(np.dot(overs[0][1].away, overs[1][1].away)))))
        if bend > MOST_BEND:
            raise NoFit(f"the two purlins bend by {math.degrees(bend):.1f}° to each other", right=f"at most {math.degrees(MOST_BEND):g}°: purlins in one line")
    under = case.members[-1]
    if under.shape.shape not in ("I", "C", "RHS", "T"):
        raise NoFit(f"{under.shape.name} has no flat flange for a cleat")
    gap = min(m.frame.origin[2] - m.shape.h / 2 for _, m in overs)
    if gap > 25:
        raise NoFit(f"the purlin lies {gap:.0f} mm over the flange", right="at most 25 mm")
    if gap < -INSIDE:
        raise NoFit(f"the purlin lies {-gap:.1f} mm deep in the flange of {under.shape.name}", right=f"{-gap:.1f} mm further out, as truing up moves it")


def build(case: Case, given: Given) -> Detail:
    """The angle with its welds, bolts through the web or webs, ends cut with a gap, holes."""
    house = given.house
    overs, under = case.all("over"), case.members[-1]
    lapped = case.kind == "lap"
    webs = [_web(m) for _, m in overs]
    # the bolts of two that meet stand in one height, clear of the roots of both
    web = _both(webs) if lapped else replace(webs[0], low=max(w.low for w in webs), high=min(w.high for w in webs))
    size, bolt = _size(given, [m for _, m in overs]), str(given.value("bolt"))
    shape, b = section(size), bolt_size(bolt)
    up_leg, out_leg = longer(shape), shorter(shape)
    hole, _ = house.hole(bolt, "normal")
    step = 3.175 if house.inch else 5.0
    edge = float(given.worked_out("edge", math.ceil(max(1.25 * hole, 1.6 * b.d) / step - 1e-9) * step))
    # between the cleat's root, where the nut has to turn, and the top of its leg or the purlin's root
    low = max(web.low + max(b.washer_d, b.head_af * 1.1547) / 2, shape.tw + shape.r1 + b.washer_d / 2 + 2)
    high = min(web.high, up_leg) - edge
    if float(given.value("sleeve")):  # a sleeve lies between the roots, its bolts keep their distance from its edges
        low, high = max(low, web.low + edge), min(high, web.high - edge)
    if high < low:
        raise NoFit(f"between the root of {shape.name} and the edge there is no room for a {bolt} bolt ({low:.0f} to {high:.0f} mm up)", right="a longer leg or a smaller bolt")
    least = math.ceil(max(2.5 * hole, 3 * b.d if house.inch else 0.0) / step - 1e-9) * step
    pitch: tuple[float, ...] = tuple(given.worked_out("pitch", (down(high - low, step),) if high - low >= least else ()))
    if not given.has("pitch") and pitch and pitch[0] > 4.5 * b.d:
        pitch = tuple(given.fitted("pitch", (max(least, down(4.5 * b.d, step)),), "closer than the leg allows, so that the web stays dry"))
    fine = 1.5875 if house.inch else 1.0  # where it is tight
    usual, tight = down((low + high - sum(pitch)) / 2, step), math.ceil(low / fine - 1e-9) * fine
    first = float(given.worked_out("first", usual if usual >= low else tight if tight + sum(pitch) <= high + 1e-6 else low))
    rows = [first]
    for g in pitch:
        rows.append(rows[-1] + g)
    gap = float(given.value("gap")) if len(overs) > 1 and not lapped else 0.0
    ends = [case.members[i].frame.x[0] * (1 if m.high >= -m.low else -1) for i, m in overs]
    if lapped:
        xs = [0.0]
    elif len(overs) > 1:
        xs = [s * (gap / 2 + edge) for s in (-1.0, 1.0)]
    elif abs(overs[0][1].low) < 300 or abs(overs[0][1].high) < 300:
        # one purlin that ends over the carrier: the bolts keep their distance from its end
        tip = overs[0][1].low if abs(overs[0][1].low) < abs(overs[0][1].high) else overs[0][1].high
        x_end = tip * overs[0][1].frame.x[0] + overs[0][1].frame.origin[0]
        xs = [x_end + math.copysign(edge, ends[0])] if x_end * ends[0] > -2 * edge else [0.0]
    else:
        xs = [0.0]
    span = xs[-1] - xs[0] + 2 * edge
    length = given.rounded("length", span, "plate length")
    middle = (xs[0] + xs[-1]) / 2
    wide = under.shape.b if abs(under.frame.z[2]) > 0.7 else under.shape.h
    if abs(middle) + length / 2 > wide / 2 + 0.5:
        if given.has("length") or abs(middle) + span / 2 > wide / 2 + 0.5:
            raise NoFit(
                f"the cleat of {length:.0f} mm reaches {abs(middle) + length / 2:.0f} mm from the middle of {under.shape.name}, whose flange is {wide:.0f} mm wide",
                right="bolts nearer the ends, a smaller gap, or a cleat on the carrier's other side",
            )
        length = float(given.fitted("length", span, f"the flange is {wide:.0f} mm wide"))
    face = _furthest(overs, web.side, (middle - length / 2, middle + length / 2), (0.0, up_leg))
    out = np.array([0.0, web.side, 0.0])
    points = [np.array([x, face + web.side * shape.tw / 2, z]) for x in xs for z in rows]
    piece = angle(
        "cleat", size, str(given.value("grade")), (middle - length / 2, face, 0.0), (1.0, 0.0, 0.0), (0.0, 0.0, 1.0), vec(out), length, True,
        [(p, (0.0, 1.0, 0.0), hole, hole, (1.0, 0.0, 0.0)) for p in points],
    )  # fmt: skip
    leg = given.rounded("weld_leg", min(0.7 * shape.tw, shape.tw - (1.5875 if house.inch else 2.0)), "weld leg")
    bolts = Bolts("bolts", bolt, str(given.value("bolt_grade")), tuple(vec(p) for p in points), vec(-out), (0.0, 0.0, 1.0))
    reach = _reach_past(given, overs) if lapped else 0.0
    plates, more = _sleeve(given, overs, web, xs, rows, hole, edge, bolt) if not lapped else ((), _lap_bolts(given, reach, web, rows, edge, bolt))
    if lapped and given.value("fly") != NONE:
        raise NoFit("the webs of two zeds that lap lie beside each other, and a fly brace lies against one face", right=f"{NONE}, or fly braces at rafters without a lap")
    blocked = max([abs(middle) + length / 2] + [float(p.outline.bounds[2]) for p in plates])
    fly = flies(given, overs, under, web.y, face, web.side, rows[0], str(given.value("grade")), blocked)
    spots = [(x, z) for x in xs for z in rows] + [(p[0], p[2]) for group in more for p in group.points]
    # of two that end here each holds the bolts on its side; two that lap hold all of them
    holes = tuple(
        MemberHole(i, "web", (x, _web(m).y, z), (0.0, 1.0, 0.0), hole, hole, (1.0, 0.0, 0.0))
        for (i, m), end in zip(overs, ends, strict=True) for x, z in spots if lapped or len(overs) == 1 or x * end > 0
    )  # fmt: skip
    begins = -reach if lapped else gap / 2
    cuts = tuple(EndCut(i, (math.copysign(1.0, d) * begins, 0.0, 0.0), (math.copysign(1.0, d), 0.0, 0.0)) for (i, _), d in zip(overs, ends, strict=True)) if len(overs) > 1 else ()
    return Detail(
        "purlin cleat", (*plates, *fly.plates), (bolts, *more, *fly.bolts), (*_welds(piece, face, web.side, out_leg, middle, length, leg), *fly.welds), ends=cuts, holes=(*holes, *fly.holes),
        dimensions=(*_dimensions(middle, length, xs, rows, face, up_leg, gap, plates, more), *(_lap_dimensions(reach, more[0], face) if lapped else ()), *fly.dimensions), pieces=(piece, *fly.pieces), numbers=tuple(given.numbers.values()),
    )  # fmt: skip


def _size(given: Given, overs: list[CaseMember]) -> str:
    """The cleat's section; under the flange of a zed one whose leg ends before it, of angles as thick as the usual one at least."""
    size = str(given.value("size"))
    room = min((m.frame.origin[2] + m.shape.h / 2 - m.shape.root for m in overs if m.shape.shape == "Z"), default=math.inf) - UNDER
    if longer(section(size)) <= room:
        return size
    name, tall = overs[0].shape.name, longer(section(size))
    usual = section(size)
    fit = [s for s in map(section, ANGLES) if s.standard == usual.standard and shorter(s) >= 50.0 and 0.6 * usual.tw <= s.tw <= usual.tw and longer(s) <= room]
    if given.has("size") or not fit:
        raise NoFit(f"the leg of {size}, {tall:g} mm, does not end under the flange of {name}, {room:.0f} mm up", right="a cleat with a shorter leg")
    best = max(fit, key=lambda s: (longer(s), s.tw, -shorter(s)))
    return str(given.fitted("size", best.name, f"{size} does not end under the flange of {name}"))


def _furthest(overs: "list[tuple[int, CaseMember]]", way: float, along: tuple[float, float], heights: tuple[float, float]) -> float:
    """The y to which the faces of the webs that look towards ``way`` (a sign of y) come between two places along and two heights over the flange: what
    lies on them touches the one that comes furthest, be that a little aside, out of square or aslant."""
    found = []
    for _, m in overs:
        web, y = web_of(m.shape.elements), np.array(m.frame.y)
        assert web is not None
        on = m.frame.o + y * (web.at + math.copysign(web.thickness / 2, way * y[1]))
        own = along if len(overs) == 1 or m.low < -LAP < LAP < m.high else (0.0, along[1]) if m.away[0] > 0 else (along[0], 0.0)
        found += [on[1] - (y[0] * (x - on[0]) + y[2] * (z - on[2])) / y[1] for x in own for z in heights]
    return float(max(found, key=lambda v: v * way))


def _both(webs: list[_Web]) -> _Web:
    """Two webs on each other as one: the cleat stands against the outer one, bolts keep clear of the roots of both."""
    first, last = sorted(webs, key=lambda w: w.y * w.side)
    return _Web((first.y + last.y) / 2, first.t + last.t, first.side, max(w.low for w in webs), min(w.high for w in webs))


def _reach_past(given: Given, overs: "list[tuple[int, CaseMember]]") -> float:
    """How far two zeds that lap go on past the carrier's middle, mm: as typed, or as drawn; drawn unlike, both end as the shorter one, and it is said."""
    short, long = sorted(min(m.high, -m.low) for _, m in overs)
    if long - short < 0.5:
        return float(given.worked_out("lap", short))
    return float(given.fitted("lap", short, f"the zeds are drawn {short:.0f} and {long:.0f} mm past the carrier's middle: both end as the shorter one"))


def _lap_bolts(given: Given, reach: float, web: _Web, rows: list[float], edge: float, bolt: str) -> tuple[Bolts, ...]:
    """Bolts through both webs of a lap near the ends of the two zeds."""
    out = reach - edge
    if out < 2 * edge:
        raise NoFit(f"a lap that goes {out + edge:.0f} mm past the carrier's middle has no room for bolts at its ends beside the cleat's", right=f"at least {3 * edge:.0f} mm")
    points = tuple(vec((x, web.y, z)) for x in (-out, out) for z in rows)
    return (Bolts("lap bolts", bolt, str(given.value("bolt_grade")), points, vec((0.0, -web.side, 0.0)), (0.0, 0.0, 1.0)),)


def _sleeve(
    given: Given, overs: "list[tuple[int, CaseMember]]", web: _Web, xs: list[float], rows: list[float], hole: float, edge: float, bolt: str
) -> tuple[tuple[Plate, ...], tuple[Bolts, ...]]:
    """A plate on the webs that carries two purlins on over the carrier, with its outer bolts; the cleat's bolts go through it too."""
    t = float(given.value("sleeve"))
    if not t:
        return (), ()
    house = given.house
    if len(overs) < 2:
        raise NoFit("the purlin goes on over the carrier, or ends here alone: a sleeve has nothing to join", right="two purlins that end on one carrier")
    if abs(overs[0][1].shape.h - overs[1][1].shape.h) > 0.5:
        raise NoFit(f"{overs[0][1].shape.name} and {overs[1][1].shape.name} are not equally deep", right="purlins of one size for a sleeve")
    room = web.high - web.low
    height = float(given.worked_out("sleeve_height", min(down(room, 3.175 if house.inch else 5.0), rows[-1] - rows[0] + 2 * edge)))
    if height > room + 0.05:
        raise NoFit(f"a sleeve {height:.0f} mm high does not lie between the roots, {room:.0f} mm apart", right=f"at most {room:.0f} mm")
    middle = min(max((rows[0] + rows[-1]) / 2, web.low + height / 2), web.high - height / 2)
    if rows[0] - hole / 2 < middle - height / 2 or rows[-1] + hole / 2 > middle + height / 2:
        raise NoFit(f"the cleat's bolts, {rows[0]:.0f} to {rows[-1]:.0f} mm up, miss a sleeve from {middle - height / 2:.0f} to {middle + height / 2:.0f} mm", right="a higher sleeve, or bolts nearer the web's middle")
    reach = float(given.value("sleeve_reach"))
    out = [xs[0] - reach, xs[-1] + reach]
    half = out[-1] + edge
    face = _furthest(overs, -web.side, (-half, half), (middle - height / 2, middle + height / 2))  # the plate lies on the side away from the cleat
    frame = Frame.of(np.array([0.0, face, middle]), np.array([1.0, 0.0, 0.0]), np.array([0.0, -web.side, 0.0]))
    lies = frame.y[2]
    holes = tuple(Hole(x, (z - middle) * lies, hole, hole) for x in sorted((*out, *xs)) for z in rows)
    plate = Plate("sleeve", Outline.rectangle(-half, -height / 2, half, height / 2), t, frame, str(given.value("grade")), holes, ("", ""))
    points = tuple(vec((x, web.y, z)) for x in out for z in rows)
    return (plate,), (Bolts("sleeve bolts", bolt, str(given.value("bolt_grade")), points, vec((0.0, -web.side, 0.0)), (0.0, 0.0, 1.0)),)


def _welds(piece: Piece, face: float, side: float, reach: float, middle: float, length: float, leg: float) -> list[Weld]:
    toe, x0, x1 = face + side * reach, middle - length / 2, middle + length / 2
    parts = ("under", piece.name)
    out = [fillet("cleat toe", leg, (x0, toe, 0.0), (x1, toe, 0.0), (0.0, side, 0.0), (0.0, 0.0, 1.0), parts)]
    for x, way in ((x0, -1.0), (x1, 1.0)):
        out.append(fillet("cleat end", leg, (x, face, 0.0), (x, toe, 0.0), (way, 0.0, 0.0), (0.0, 0.0, 1.0), parts))
    return out


def _dimensions(
    middle: float, length: float, xs: list[float], rows: list[float], y: float, top: float, gap: float, plates: tuple[Plate, ...], more: tuple[Bolts, ...]
) -> tuple[Dimension, ...]:
    x0, x1 = middle - length / 2, middle + length / 2
    across: list[Vec3] = [(x0, y, 0.0), *((x, y, rows[0]) for x in xs), (x1, y, 0.0)]
    up: list[Vec3] = [(x1, y, 0.0), *((xs[-1], y, z) for z in rows), (x1, y, top)]
    out = [
        Dimension("front", "bottom", 0, tuple(across), ("edge", *(("",) * (len(xs) - 1)), "edge")),
        Dimension("front", "bottom", 1, ((x0, y, 0.0), (x1, y, 0.0)), ("length",)),
        Dimension("front", "right", 0, tuple(up), ("first", *(("pitch",) * (len(rows) - 1)), "")),
    ]
    if gap:
        out.append(Dimension("front", "top", 0, ((-gap / 2, y, top), (gap / 2, y, top)), ("gap",)))
    for plate in plates:
        spots = sorted({round(p[0], 4) for group in more for p in group.points})
        ends = [plate.frame.to_world([(v, 0.0, 0.0)])[0][0] for v in (plate.outline.bounds[0], plate.outline.bounds[2])]
        z = float(plate.frame.origin[2])
        across = [(float(min(ends)), y, z), (spots[0], y, z), *((x, y, z) for x in xs), (spots[-1], y, z), (float(max(ends)), y, z)]
        out.append(Dimension("front", "top", 1, tuple(across), ("edge", "sleeve_reach", *("",) * (len(xs) - 1), "sleeve_reach", "edge")))
        low, high = (z + s * (plate.outline.bounds[3] - plate.outline.bounds[1]) / 2 for s in (-1, 1))
        out.append(Dimension("front", "left", 0, ((across[0][0], y, low), (across[0][0], y, high)), ("sleeve_height",)))
    return tuple(out)


def _lap_dimensions(reach: float, bolts: Bolts, y: float) -> tuple[Dimension, ...]:
    """Over the lap: its bolts from the zeds' ends, and each end from the carrier's middle."""
    out, z = max(p[0] for p in bolts.points), max(p[2] for p in bolts.points)
    over = tuple((x, y, z) for x in (-reach, -out, out, reach))
    return (Dimension("front", "top", 0, over, ("edge", "", "edge")), Dimension("front", "top", 1, tuple((x, y, z) for x in (-reach, 0.0, reach)), ("lap", "lap")))


FAMILY = Family(
    "purlin-cleat", "Purlin cleat", ("girt cleat", "sleeve", "fly brace", "inner flange brace", "purlin splice", "purlin angle", "sheeting rail cleat", "lap", "lapped purlins"), ("crossing", "lap"), SETTINGS, fits, build,
    {
        "plate-stock": ("sleeve",), "edge-least": ("edge", "first", "length", "sleeve_height"), "edge-greatest": ("edge", "size"), "spacing-least": ("pitch", "first"), "spacing-greatest": ("pitch",),
        "fillet-throat": ("weld_leg",), "fillet-leg-least": ("weld_leg",), "fillet-leg-greatest": ("weld_leg",), "fillet-length": ("weld_leg",),
    },
    situations=("secondary",), example=where_crossed(a_member("UB 356x171x45", (0.0, -4000.0, 0.0), (0.0, 4000.0, 0.0), "rafter"), a_member("PFC 150x75x18", (-4000.0, 0.0, 250.7), (4000.0, 0.0, 250.7), "purlin")),
)  # fmt: skip
