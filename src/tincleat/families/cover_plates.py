"""Moment cover plates: plates over and under a beam's flanges, welded through to a column's flange, or in between its flanges, and bolted
to the beam, its web on a tab; sizes typed or from a row of the project's schedule.

Joint frame: origin where the beam's middle line meets the column's flange, x out along the beam, z up its depth.
"""

import math
from dataclasses import dataclass

import numpy as np

from tincleat.catalogue.fasteners import BoltSize
from tincleat.details.assembled import role_words
from tincleat.details.parts import Block, Bolts, Detail, Dimension, Hole, Plate, Weld
from tincleat.errors import NoFit
from tincleat.families.column_side import COLUMN, column_parts, levels_on, square_on
from tincleat.families.declare import Family, Given, Setting, rounded
from tincleat.families.example import a_beam, a_column, at_end
from tincleat.families.shear import BeamEnd, bolt_and_end, end_of_beam, flange_bolt
from tincleat.families.web_tab import TAB, Tab, web_tab, weld_of_tab
from tincleat.geometry.frames import Frame, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case
from tincleat.kit.drill import drilled
from tincleat.kit.face import face_of, face_width, stand_off
from tincleat.kit.gauge import flange_gauges, lines_across
from tincleat.kit.layout import down, up
from tincleat.kit.packs import stocked
from tincleat.kit.stiffen import room_beside, stiffener
from tincleat.kit.weld import both_sides
from tincleat.project.entities import HouseRules
from tincleat.standards.rulesets import rules_of
from tincleat.steel.cuts import EndCut, MemberHole

MOST_TURN = math.radians(1.0)
SNIPE = 1.0  # of the narrowing at a fuse's ends: 45 degrees

_PLATE = tuple(
    setting
    for which, like in (("top", ""), ("bottom", "; that of the top plate if not typed"))
    for setting in (
        Setting(f"{which}_thickness", f"{which.capitalize()} plate thickness", "length", f"{which.capitalize()} plate", None, f"Thickness of the {which} plate" + (like or "; about 1.2 flanges on stock if not typed") + ".", 5, 100),
        Setting(f"{which}_width", f"{which.capitalize()} plate width", "length", f"{which.capitalize()} plate", None, "Breadth at the column" + (like or "; the beam's flange on its step, or the column's, if not typed") + ".", 40, 1000),
        Setting(f"{which}_end", f"{which.capitalize()} plate end width", "length", f"{which.capitalize()} plate", None, "Breadth at its far end: it tapers from the first bolts on" + (like or "; as at the column if not typed") + ".", 40, 1000),
        Setting(f"{which}_pitch", f"{which.capitalize()} bolts along", "spacings", f"{which.capitalize()} plate", None, "Spacings of the bolt rows along the beam" + (like or "; three spaces if not typed") + ".", 0, 2000),
        Setting(f"{which}_pack", f"{which.capitalize()} pack", "length", f"{which.capitalize()} plate", 0.0, "Thickness of a pack between plate and flange; 0 is none.", 0, 30),
    )
)

SETTINGS = (
    Setting("mark", "Schedule row", "schedule", "Schedule", "", "A mark of the schedule; if empty, the row with this beam at this level, where a schedule is loaded."),
    *_PLATE,
    Setting("gauge", "Gauge", "length", "Flange bolts", None, "Between the two lines of bolts in each flange.", 30, 600),
    Setting("first", "Column to first row", "length", "Flange bolts", None, "From the column's face to the first row of bolts, past the fuse where there is one.", 20, 1500),
    Setting("edge", "Plate edge distance", "length", "Flange bolts", None, "From the last row to the plates' ends.", 15, 300),
    Setting("fuse_length", "Fuse length", "length", "Fuse", 0.0, "Of the part between weld and bolts on which both plates are narrowed; 0 is none.", 0, 1000),
    Setting("fuse_width", "Fuse width", "length", "Fuse", None, "Breadth of the plates there; two thirds if not typed.", 20, 1000),
    Setting("root_opening", "Root opening", "length", "Welds", 6.0, "Between the plates and the column, at the root.", 2, 20, inches=4.7625),
    Setting("bevel", "Bevel", "angle", "Welds", math.radians(45), "Of the plates' preparation, against the column's face.", math.radians(30), math.radians(60)),
    Setting("gap", "Beam end gap", "length", "Web", 20.0, "Between the beam's end and the column.", 5, 200, inches=12.7),
    *TAB,
    *COLUMN,
    Setting("zone", "Protected zone", "flag", "Zone", True, "Draw where nothing else may be fixed: the plates, and the beam to one depth past its last bolts (AISC 358, 7)."),
)  # fmt: skip


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless an I-section beam ends square on the flange or the web of an I-section column."""
    if case.kind not in FAMILY.kinds or case.support is None:
        raise NoFit(f"cover plates take a beam's end on a column; this joint is a {case.kind}", right="such a beam end")
    square_on(case, MOST_TURN)
    if case.support.shape.slope:
        raise NoFit(f"the flanges of {case.support.section} taper", right="a column of even flanges")


@dataclass(frozen=True)
class _Cover:
    """A cover plate in figures: which, its underside's and beam-side level, thickness, pack, breadths at column and end, rows along."""

    which: str
    under: float
    t: float
    pack: float
    width: float
    end: float
    rows: tuple[float, ...]

    @property
    def up(self) -> float:
        """1 over the beam, -1 under it."""
        return 1.0 if self.which == "top" else -1.0

    @property
    def middle(self) -> float:
        """Level of its middle."""
        return self.under + self.t / 2


def build(case: Case, given: Given) -> Detail:
    """Both plates with their grooves, packs, bolts and holes; the tab; what stiffens the column; the zone."""
    house, beam = given.house, case.supported
    shape, inch = beam.shape, house.inch
    given.value("mark")
    sizes = end_of_beam(case, house, None)
    step = 6.35 if inch else 5.0
    size = flange_bolt(shape, given)
    hole, _ = house.hole(size.name, "normal")
    least = rules_of(house).edge_least(size, Hole(0, 0, hole, hole), False).value
    edge = float(given.worked_out("edge", up(max(least, 1.5 * size.d), step)))
    gap, opening, bevel = (float(given.value(k)) for k in ("gap", "root_opening", "bevel"))
    fuse = float(given.value("fuse_length"))
    inside = _inside(case, step, sizes) if case.kind == "beam to column web" else None
    if inside is not None:
        gap += inside.out  # the beam stops outside the column's flanges
        if fuse:
            raise NoFit("on a column's web the plates are welded between its flanges; a fuse is laid out before a flange", right="no fuse")
    covers = _covers(case, given, size, edge, step, inside)
    prepared = max(opening + c.t * math.tan(bevel) for c in covers) if inside is None else inside.out
    begins = up(prepared + 5.0, step)  # of the fuse
    narrow = float(given.worked_out("fuse_width", down(min(c.width for c in covers) * 2 / 3, step))) if fuse else 0.0
    if fuse and narrow > min(c.width for c in covers) - 10.0:
        raise NoFit(f"a fuse {narrow:.0f} mm broad in plates {min(c.width for c in covers):.0f} mm broad is none", right=f"at most {min(c.width for c in covers) - 10.0:.0f} mm")
    snipe = (max(c.width for c in covers) - narrow) / 2 * SNIPE if fuse else 0.0
    if fuse and fuse < 2 * snipe + 10.0:
        raise NoFit(f"a fuse {fuse:.0f} mm long does not hold its own narrowing, {2 * snipe:.0f} mm", right=f"at least {2 * snipe + 10.0:.0f} mm, or a broader fuse")
    clear = begins + fuse + (max(size.washer_d / 2, edge) if fuse else 0.0)
    first = float(given.worked_out("first", up(max(gap + max(least, 1.5 * size.d), clear, prepared + size.clear), step)))
    if first < clear - 1e-6:
        raise NoFit(f"the first row, {first:.0f} mm from the column, stands in the fuse, which ends at {begins + fuse:.0f} mm", right=f"at least {clear:.0f} mm")
    gauges = flange_gauges(shape, size, edge, house)
    slim = min(c.end for c in covers)
    gauge = float(given.worked_out("gauge", next((g for g in gauges if g + 2 * least <= slim), gauges[-1])))
    plates: list[Plate] = []
    welds: list[Weld] = []
    groups: list[Bolts] = []
    holes: list[MemberHole] = []
    grade = str(given.value("tab_grade"))
    lines = lines_across(beam, gauge)
    held = given.rounded("column_weld", max(0.5 * max(c.t for c in covers), 6.35 if house.inch else 6.0), "weld leg") if inside is not None else 0.0
    for c in covers:
        rows = [first + r for r in c.rows]
        some, group, drill, seams = _one(case, given, c, rows, lines, (opening, bevel), (begins, fuse, narrow, snipe), edge, hole, size, grade, inside, held)
        plates += some
        groups.append(group)
        holes += drill
        welds += seams
    bolt, end = bolt_and_end(given, sizes)
    leg = weld_of_tab(given)
    if gap < leg + 1.0:
        raise NoFit(f"a gap of {gap:.0f} mm does not hold the tab's fillets of {leg:g} mm", right=f"at least {leg + 1.0:.0f} mm")
    nuts = size.nut_height + size.washer_t + 5.0  # under and over the flanges
    zone = (max(sizes.zone[0], -shape.h / 2 + shape.tf + nuts), min(sizes.zone[1], shape.h / 2 - shape.tf - nuts))
    if zone[1] - zone[0] < 2 * end:
        raise NoFit(f"between the flanges' bolts there are {zone[1] - zone[0]:.0f} mm of web for the tab", right=f"at least {2 * end:.0f} mm")
    tab = web_tab(given, sizes, zone, gap, bolt, end, "between the flanges' bolts")
    if inside is None:
        more, extra = column_parts(case, given, (covers[0].middle, covers[1].middle), max(c.t for c in covers), grade)
    else:
        more, extra = _behind(case, given, covers, inside, grade, held)
    zones: tuple[Block, ...] = ()
    if given.value("zone"):
        last = first + max(c.rows[-1] for c in covers) + shape.h
        low, high = covers[1].under, covers[0].under + covers[0].t
        wide = max(c.width for c in covers) / 2
        zones = (Block("protected zone", "zone", Outline.rectangle(0.0, -wide, last, wide), high - low, Frame((0.0, 0.0, low))),)
    return Detail(
        "cover plates", (*plates, tab.plate, *more), (*groups, tab.bolts), (*welds, *tab.seams, *extra), ends=(EndCut(0, (gap, 0.0, 0.0), (1.0, 0.0, 0.0)),), holes=(*holes, *tab.holes),
        numbers=tuple(given.numbers.values()), dimensions=_dimensions(covers, tab, lines, (first, edge, gap, begins, fuse), zones), zones=zones,
    )  # fmt: skip


@dataclass(frozen=True)
class _Inside:
    """A column seen from its web: where that is, how far its flanges stand out, half the clear width between them, where their middle lies across, how much
    of a plate's corner their roots take; and how far it leans along the beam and across it for every mm up."""

    face: float
    out: float
    half: float
    y: float
    snipe: float
    lean: tuple[float, float]

    def on(self, low: float, t: float) -> "_Inside":
        """What is clear for a plate ``t`` thick from the height ``low``."""
        along, across = self.lean
        z = low + t / 2
        return _Inside(self.face + along * z + abs(along) * t / 2, self.out + along * z + abs(along) * t / 2, self.half - abs(across) * t / 2, self.y + across * z, self.snipe, self.lean)


def _inside(case: Case, step: float, end: BeamEnd) -> _Inside:
    column = case.support
    assert column is not None
    n, p = face_of(case)
    shape = column.shape
    x = np.array(column.frame.x) / column.frame.x[2]  # for every mm up
    here = column.frame.o - x * float(column.frame.o[2])  # its axis at the beam's own height
    face, out = end.face(0.0, 0.0), shape.b / 2 - float((p - column.frame.o) @ n)
    askew = -column.frame.z[0] / column.frame.z[1]  # how far across its flanges go for every mm out
    y = float(here[1]) + askew * ((face + out) / 2 - float(here[0]))
    half = shape.h / 2 - shape.tf - abs(askew) * (out - face) / 2
    face = max(end.face(y - half, 0.0), end.face(y + half, 0.0))
    return _Inside(face, out, half, y, up(shape.r1 + step, step), (float(x[0]), float(x[1])))


def _behind(case: Case, given: Given, covers: "tuple[_Cover, _Cover]", inside: _Inside, grade: str, leg: float) -> tuple[list[Plate], list[Weld]]:
    """Plates on the other side of the column's web at the levels of both covers, and fillets that all of them need."""
    column, house = case.support, given.house
    assert column is not None
    n, _ = face_of(case)
    side = -1.0 if float(np.array(column.frame.y) @ n) > 0 else 1.0
    thick = max(c.t for c in covers)
    stations, kept = levels_on(column, given, (covers[0].middle, covers[1].middle), thick, leg)
    if not kept:
        return [], []
    t = float(given.worked_out("stiffener_thickness", stocked(thick, house)))
    width = rounded(room_beside(column.shape), house.rounding.get("stiffener"), house.flats)
    plates: list[Plate] = []
    welds: list[Weld] = []
    for number, station in enumerate(stations, 1):
        if station not in kept:
            continue
        plate, some = stiffener(column.shape, column.frame.moved(x=station), side, f"column stiffener {number}", role_words(column.role), grade, t, width, inside.snipe, leg)
        plates.append(plate)
        welds += some
    return plates, welds


def _covers(case: Case, given: Given, size: BoltSize, edge: float, step: float, inside: "_Inside | None") -> tuple[_Cover, _Cover]:
    """Both plates: what is not typed for the bottom one is as the top one."""
    house, shape = given.house, case.supported.shape
    along, low, high = face_width(case)
    assert case.support is not None
    room = high - low
    if abs(float(along[1])) > 0.7:
        aside = float(-np.array(case.support.frame.o) @ along)
        room = 2 * min(high - aside, aside - low)
    if inside is not None:
        room = 2 * (inside.half - abs(inside.y))
    half = shape.h / 2
    usual: dict[str, float | tuple[float, ...]] = {
        "thickness": stocked(1.2 * shape.tf, house), "width": min(up(shape.b, step), down(room, step)), "end": 0.0, "pitch": (up(max(3 * size.d, 60.0), step),) * 3,
    }  # fmt: skip
    out = []
    for which in ("top", "bottom"):
        t = float(given.worked_out(f"{which}_thickness", usual["thickness"]))
        width = float(given.worked_out(f"{which}_width", usual["width"]))
        end = float(given.worked_out(f"{which}_end", usual["end"] or width))
        pitch = tuple(given.worked_out(f"{which}_pitch", usual["pitch"]))
        pack = float(given.value(f"{which}_pack"))
        if width > room + 0.05:
            raise NoFit(f"a {which} plate {width:.0f} mm broad reaches past the column's flange, which leaves {room:.0f} mm about the beam's middle" if inside is None else f"a {which} plate {width:.0f} mm broad does not come out between the column's flanges, {room:.0f} mm apart about the beam's middle", right=f"at most {room:.0f} mm")
        rows = [0.0]
        for p in pitch:
            rows.append(rows[-1] + p)
        under = half + pack if which == "top" else -half - pack - t
        out.append(_Cover(which, under, t, pack, width, end, tuple(rows)))
        usual |= {"thickness": t, "width": width, "end": end, "pitch": pitch}
    return out[0], out[1]


def _one(
    case: Case, given: Given, c: _Cover, rows: list[float], lines: list[float], prep: tuple[float, float], fuse: tuple[float, float, float, float], edge: float, hole: float, size: BoltSize, grade: str, inside: "_Inside | None", held: float,
) -> tuple[list[Plate], Bolts, tuple[MemberHole, ...], list[Weld]]:
    """One plate with its pack, bolts, holes in the flange and groove, or the fillets that hold it in the column."""
    opening, bevel = prep
    begins, long, narrow, snipe = fuse
    far = rows[-1] + edge
    if max(abs(y) for y in lines) + hole / 2 > c.end / 2 - 1.0:
        raise NoFit(f"lines of bolts {2 * max(abs(y) for y in lines):.0f} mm apart do not stand in a plate that ends {c.end:.0f} mm broad", right="a broader end, or a smaller gauge")
    sizes = end_of_beam(case, given.house, None)
    root = stand_off(sizes.face, (-c.width / 2, c.width / 2), (c.under, c.under + c.t), rules_of(given.house).weld_gap(given.house.weld_gap).value) if inside is None else 0.0
    opening += root
    side = [(opening, c.width / 2)]
    if long:
        side += [(begins, c.width / 2), (begins + snipe, narrow / 2), (begins + long - snipe, narrow / 2), (begins + long, c.width / 2)]
    elif abs(c.end - c.width) > 0.1:
        side.append((rows[0] - edge if rows[0] - edge > opening + c.t * math.tan(bevel) else rows[0], c.width / 2))
    side.append((far, c.end / 2))
    ring = [(x, -y) for x, y in side] + side[::-1]
    if inside is not None:
        inside = inside.on(c.under, c.t)
        ring = _fitted_in(inside, c, far)
    outline = Outline(tuple((x, y, 0.0) for x, y in ring))
    trim = EndCut(0, (opening, 0.0, 0.0), (math.cos(bevel), 0.0, -math.sin(bevel)))  # opens upward
    spots = [(x, y) for x in rows for y in lines]
    plates = [Plate(f"{c.which} plate", outline, c.t, Frame((0.0, 0.0, c.under)), grade, tuple(Hole(x, y, hole, hole) for x, y in spots), trims=(trim,) if inside is None else (), kinds=("", ""))]
    if c.pack:
        start = rows[0] - edge
        pack = Outline.rectangle(start, -c.end / 2, far, c.end / 2)
        z = c.under - c.pack if c.up > 0 else c.under + c.t
        plates.append(Plate(f"{c.which} pack", pack, c.pack, Frame((0.0, 0.0, z)), grade, tuple(Hole(x, y, hole, hole) for x, y in spots), ("pack", "pack")))
    face = c.up * case.supported.shape.h / 2
    points = [np.array((x, y, face)) for x, y in spots]
    bolts = Bolts(f"{c.which} bolts", size.name, str(given.value("bolt_grade")), tuple(vec(p) for p in points), (0.0, 0.0, -c.up), (1.0, 0.0, 0.0))
    drill = drilled(case, 0, [p - np.array((0.0, 0.0, c.up)) for p in points], (0.0, 0.0, 1.0), hole, hole, (1.0, 0.0, 0.0))
    weld = Weld(f"{c.which} plate groove", c.t, (root, -c.width / 2, c.under), (root, c.width / 2, c.under), (0.0, 0.0, 1.0), (math.sin(bevel), 0.0, math.cos(bevel)), ("supporting member", f"{c.which} plate"), False, "groove", opening - root)
    return plates, bolts, drill, [weld] if inside is None else _held_in(case, held, inside, c)


def _fitted_in(inside: _Inside, c: _Cover, far: float) -> list[tuple[float, float]]:
    """A plate's outline that fills the column between its flanges and goes on out as broad as it is: sniped at the roots, drawn in past the flanges' edges."""
    out, half, y, s = inside.out, inside.half, inside.y, inside.snipe
    low, high = y - half, y + half
    ends = [(far, -c.end / 2), (far, c.end / 2)]
    lower, upper = out + max(-c.width / 2 - low, 0.0), out + max(high - c.width / 2, 0.0)
    x = inside.face
    return [(x, low + s), (x + s, low), (out, low), (lower, -c.width / 2), *ends, (upper, c.width / 2), (out, high), (x + s, high), (x, high - s)]


def _held_in(case: Case, leg: float, inside: _Inside, c: _Cover) -> list[Weld]:
    """Fillets on both faces of a plate along the column's web and both flanges."""
    assert case.support is not None
    owner, name = role_words(case.support.role), f"{c.which} plate"
    s, out, z, x = inside.snipe, inside.out, c.middle, inside.face
    low, high = inside.y - inside.half, inside.y + inside.half
    up_way = (0.0, 0.0, 1.0)
    welds = both_sides(f"{name} to web", leg, [(x, low + s, z), (x, high - s, z)], up_way, c.t, (1.0, 0.0, 0.0), (owner, name))
    for y, way in ((low, 1.0), (high, -1.0)):
        welds += both_sides(f"{name} to flange", leg, [(x + s, y, z), (out, y, z)], up_way, c.t, (0.0, way, 0.0), (owner, name))
    return welds


def _dimensions(
    covers: tuple[_Cover, _Cover], tab: Tab, lines: list[float], at: tuple[float, ...], zones: tuple[Block, ...]
) -> tuple[Dimension, ...]:
    first, edge, gap, begins, fuse = at
    top, bottom = covers
    rows, below = [first + r for r in top.rows], [first + r for r in bottom.rows]
    z, low = top.under + top.t, bottom.under
    y, far = max(top.width, bottom.width) / 2, rows[-1] + edge
    out = [
        Dimension("plan", "bottom", 0, tuple(vec(p) for p in ((0.0, -y, z), *((x, lines[0], z) for x in rows), (far, -y, z))), ("first", *("top_pitch",) * len(top.rows[1:]), "edge")),
        Dimension("front", "right", 0, ((far, 0.0, top.under), (far, 0.0, z)), ("top_thickness",)),
        Dimension("front", "right", 1, ((far, 0.0, low), (far, 0.0, low + bottom.t)), ("bottom_thickness",)),
        Dimension("front", "left", 0, tuple(vec(p) for p in ((0.0, tab.outer, tab.top), *((tab.line, tab.outer, h) for h in tab.rows), (0.0, tab.outer, tab.low))), ("end_distance", *("pitch",) * (len(tab.rows) - 1), "end_distance")),
        Dimension("front", "bottom", 0, ((0.0, tab.outer, tab.low), (gap, tab.outer, tab.low), (tab.line, tab.outer, tab.low), (tab.width, tab.outer, tab.low)), ("gap", "beam_end_distance", "edge_distance")),
        Dimension("plan", "right", 0, tuple(vec((far, v, z)) for v in lines), ("gauge",)),
        Dimension("plan", "right", 1, ((far, -top.end / 2, z), (far, top.end / 2, z)), ("top_end",)),
        Dimension("plan", "left", 0, ((0.0, -top.width / 2, z), (0.0, top.width / 2, z)), ("top_width",)),
    ]
    if below != rows:  # where it is as over the beam, the plan tells
        points = ((0.0, 0.0, low), *((x, 0.0, low) for x in below), (below[-1] + edge, 0.0, low))
        out.append(Dimension("front", "bottom", 1, tuple(vec(p) for p in points), ("first", *("bottom_pitch",) * len(bottom.rows[1:]), "edge")))
    if fuse:
        out.append(Dimension("plan", "bottom", 1, ((0.0, -y, z), (begins, -y, z), (begins + fuse, -y, z)), ("", "fuse_length")))
    if zones:
        x1 = zones[0].outline.bounds[2]
        out.append(Dimension("plan", "top", 0, ((0.0, y, z), (x1, y, z)), ("",)))
    return tuple(out)


FAMILY = Family(
    "cover-plates", "Cover plates", ("moment connection", "bolted flange plates", "flange cover plates", "schedule", "moment frame", "fuse"), ("beam to column flange", "beam to column web"), SETTINGS, fits, build,
    {
        "edge-least": ("edge", "first", "gauge", "edge_distance", "end_distance", "beam_end_distance"), "edge-greatest": ("edge", "gauge", "edge_distance", "end_distance", "beam_end_distance"),
        "spacing-least": ("top_pitch", "bottom_pitch", "pitch"), "spacing-greatest": ("top_pitch", "bottom_pitch", "gauge", "pitch"), "fillet-throat": ("tab_weld", "column_weld", "doubler_weld"), "fillet-leg-least": ("tab_weld", "column_weld", "doubler_weld"), "fillet-length": ("column_weld",),
        "plate-stock": ("tab_thickness", "top_thickness", "bottom_thickness", "stiffener_thickness"), "groove-angle": ("bevel",), "plate-step": ("tab_height", "tab_width"),
    },
    situations=("loose",), example=at_end(a_column("HEB 240"), a_beam("IPE 300")),
)  # fmt: skip
