"""Welded moment joint: a beam's flanges welded through to a column's flange, its web on a bolted tab or welded too.

Joint frame: origin where the beam's middle line meets the column's flange, x out along the beam, z up its depth.  Both flange
welds are made from above: their preparation opens upward, a backing bar lies under each, and the web has an access hole at both.
"""

import math
from collections.abc import Sequence

import numpy as np

from tincleat.details.parts import Detail, Dimension, Plate, Weld
from tincleat.errors import NoFit
from tincleat.families.column_side import COLUMN, column_parts, square_on
from tincleat.families.declare import Family, Given, Setting
from tincleat.families.example import a_beam, a_column, at_end
from tincleat.families.shear import BeamEnd, bolt_and_end, end_of_beam
from tincleat.families.web_tab import TAB, Tab, web_tab, weld_of_tab
from tincleat.geometry.frames import Frame, crossed, unit, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case
from tincleat.kit.access import access_hole, access_usual, across
from tincleat.kit.face import face_width, stand_off
from tincleat.kit.layout import up
from tincleat.project.entities import HouseRules
from tincleat.standards.rulesets import rules_of
from tincleat.steel.cuts import EndCut, Notch

MOST_TURN = math.radians(1.0)  # off square, either way
BOLTED, WELDED = "bolted to a tab", "welded, on a tab"

SETTINGS = (
    Setting("root_opening", "Root opening", "length", "Flanges", 10.0, "Between the beam's flanges and the column, at the root.", 2, 25, inches=9.525),
    Setting("bevel", "Bevel", "angle", "Flanges", math.radians(30), "Of the flanges' preparation, against the column's face.", math.radians(20), math.radians(60)),
    Setting("backing", "Backing thickness", "length", "Flanges", 10.0, "Of the bars under the flange welds; 0 is none.", 0, 30, inches=9.525),
    Setting("backing_width", "Backing width", "length", "Flanges", 30.0, "Of the bars, along the beam.", 10, 100, inches=31.75),
    Setting("backing_past", "Backing past the flange", "length", "Flanges", 10.0, "How far the bars reach past the flange on each side, as far as the column's flange carries them.", 0, 100, inches=12.7),
    Setting("hole_height", "Access hole height", "length", "Flanges", None, "From the flange's inner face; the web's thickness, or what the backing asks for, if not typed.", 10, 80),
    Setting("hole_length", "Access hole length", "length", "Flanges", None, "From the bevel's foot; one and a half times the web's thickness if not typed.", 20, 150),
    Setting("hole_radius", "Access hole radius", "length", "Flanges", None, "Of the holes' inner corner; 10 mm or 3/8 in, less in a small hole, if not typed.", 3, 40),
    Setting("web", "Web", "choice", "Web", BOLTED, "Bolted to a tab that is welded to the column, or welded through with the tab as its backing.", choices=(BOLTED, WELDED)),
    Setting("web_gap", "Web gap", "length", "Web", None, "Between a bolted web's end and the column: the root opening, or what the tab's weld asks for, if not typed.", 2, 60),
    *TAB,
    *COLUMN,
)  # fmt: skip


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless an I-section beam ends square on the flange of an I-section column that is as wide."""
    if case.kind != "beam to column flange" or case.support is None:
        raise NoFit(f"a welded moment joint takes a beam's end on a column's flange; this joint is a {case.kind}", right="such a beam end")
    square_on(case, MOST_TURN)
    if case.supported.shape.slope:
        raise NoFit(f"the flanges of {case.supported.section} taper; their preparation is laid out on even ones", right="a beam with even flanges")
    along, low, high = face_width(case)
    half = case.supported.shape.b / 2
    if abs(float(along[1])) > 0.7:
        aside = float((np.zeros(3) - np.array(case.support.frame.o)) @ along)
        if low > aside - half + 0.05 or high < aside + half - 0.05:
            raise NoFit(f"the beam's flange, {2 * half:.0f} mm, reaches past that of {case.support.section}, {high - low:.0f} mm wide, by {max(low - aside + half, aside + half - high):.0f} mm", right="a narrower beam")


def build(case: Case, given: Given) -> Detail:
    """Flange grooves with backing and access holes, the web's tab, bolts or groove, and what stiffens the column."""
    house, beam, column = given.house, case.supported, case.support
    assert column is not None
    shape, inch = beam.shape, house.inch
    sizes = end_of_beam(case, house, None)
    half, tf, tw = shape.h / 2, shape.tf, shape.tw
    opening, bevel = float(given.value("root_opening")), float(given.value("bevel"))
    backing, backing_width = float(given.value("backing")), float(given.value("backing_width"))
    welded = given.value("web") == WELDED
    high, long = access_usual(tw, backing, inch)
    high, long = float(given.worked_out("hole_height", high)), float(given.worked_out("hole_length", long))
    n = sizes.normal
    plumb = (-n[2] / n[0], 0.0, 1.0)  # up the column's face, to which a beam that slopes does not stand square
    turned = bevel + max(0.0, math.atan(plumb[0]))  # cut so that it opens as far at the face as well
    reach = opening + tf * math.tan(turned)
    if high + tf > half - 60:
        raise NoFit(f"access holes {high:.0f} mm high leave {2 * (half - tf - high):.0f} mm of the web of {shape.name}", right="a deeper beam")

    # what is taken off the beam: its end at the root, the flanges' bevels, the access holes
    ends = (EndCut(0, vec(sizes.point + n * (opening / n[0])), vec(n)),)

    def face(z: float) -> float:
        return sizes.face(0.0, z)

    notches: list[Notch] = []
    for name, inner in (("top", half - tf), ("bottom", -half)):
        notches.append(_flange_bevel(f"{name} bevel", sizes, inner, ((opening - 1.0, 0.0), (opening, 0.0), (reach, tf), (opening - 1.0, tf)), shape.b / 2 + 5.0))
    widest = min(high - 0.5, long)  # that the hole has room for
    radius = float(given.worked_out("hole_radius", min(9.525 if inch else 10.0, widest)))
    if radius > widest + 1e-6:
        raise NoFit(f"a radius of {radius:g} mm does not go into an access hole {high:g} mm high and {long:g} mm long", right=f"at most {widest:g} mm")
    aside = tw / 2 + shape.r1 + 1.0
    for name, flange, way in (("top", half - tf, -1.0), ("bottom", -half + tf, 1.0)):
        x = face(flange)
        notches.append(access_hole(f"{name} access hole", 0, Frame(), x + opening - 1.0, x + (reach + long if way > 0 else opening + long), flange, flange + way * high, radius, aside))
    welds: list[Weld] = []
    parts = ("supporting member", "supported member")
    v = (math.sin(turned), 0.0, math.cos(turned))
    rise = vec(unit((face(1.0) - face(0.0), 0.0, 1.0)))  # up the column's face, which may lean a little
    for name, root in (("top flange", half - tf), ("bottom flange", -half)):
        welds.append(Weld(f"{name} groove weld", tf, (sizes.face(-shape.b / 2, root), -shape.b / 2, root), (sizes.face(shape.b / 2, root), shape.b / 2, root), rise, v, parts, True, "groove", opening))
    grade = str(given.value("tab_grade"))
    plates: list[Plate] = []
    if backing:
        plates += _backing(given, case, sizes, (half - tf, -half), backing, backing_width, grade)
        if backing > high - 3.0:
            raise NoFit(f"a backing bar {backing:g} mm thick does not pass an access hole {high:g} mm high", right=f"a hole of {backing + 3:.0f} mm, or thinner backing")

    bolt, end = bolt_and_end(given, sizes)
    room = half - tf - high - (backing if backing else 0.0)
    zone = (max(sizes.zone[0], -half + tf + high + 5.0), min(sizes.zone[1], room - 5.0))
    if zone[1] - zone[0] < 2 * end:
        raise NoFit(f"between the access holes there are {zone[1] - zone[0]:.0f} mm of web for the tab", right=f"at least {2 * end:.0f} mm")
    leg = weld_of_tab(given)
    gap = opening
    if not welded:
        gap = float(given.worked_out("web_gap", max(opening, up(leg + 1.0, 1.5875 if inch else 1.0))))
        if gap < opening:
            raise NoFit(f"the web's gap of {gap:g} mm is less than the flanges' root opening of {opening:g} mm", right="at least as much")
        if gap > opening:
            low, top = -half + tf + high / 2, half - tf - high / 2
            notches.append(across("web end", 0, Frame(), ((face(low) + opening - 1.0, low), (face(low) + gap, low), (face(top) + gap, top), (face(top) + opening - 1.0, top)), aside))
    tab = web_tab(given, sizes, zone, gap, bolt, end, "between the access holes")
    plates.append(tab.plate)
    if welded:
        # the web's groove lies against the tab: nobody gets at that face
        welds += [w for w in tab.seams if (w.u[1] > 0) == (tab.side > 0)]
        notches.append(_web_bevel(sizes, tab.side, opening, bevel, (-half + tf, half - tf)))
        welds.append(_web_groove(sizes, tab.side, opening, bevel, (max(tab.low, zone[0] - 5.0), min(tab.top, zone[1] + 5.0))))
    else:
        welds += tab.seams
    more, extra = column_parts(case, given, (half - tf / 2, -half + tf / 2), tf, grade)
    plates += more
    welds += extra
    return Detail(
        "welded moment joint", tuple(plates), (tab.bolts,), tuple(welds), ends=ends, notches=tuple(notches), holes=tab.holes, numbers=tuple(given.numbers.values()),
        dimensions=_dimensions(tab, (opening, gap), (half, tf, high, long, reach)),
    )  # fmt: skip


def _flange_bevel(name: str, sizes: BeamEnd, root: float, ring: Sequence[tuple[float, float]], half: float) -> Notch:
    """What a flange loses for its groove: a ring (from the face, over the ``root``; mm) drawn along the line on which that meets the face, which may
    stand a little askew, ``half`` mm either way."""
    low, high = (np.array((sizes.face(y, root), y, root)) for y in (-half, half))
    run = unit(high - low)
    return Notch(name, 0, Frame.of(low, crossed(run, (0.0, 0.0, 1.0)), run), Outline(tuple((x * run[1], -z, 0.0) for x, z in reversed(ring))), float(np.linalg.norm(high - low)))


def _web_bevel(sizes: BeamEnd, side: float, opening: float, bevel: float, between: tuple[float, float]) -> Notch:
    """What the web loses for its groove, which opens away from the tab."""
    t = sizes.web.thickness
    near, far = sizes.at + side * t / 2, sizes.at - side * t / 2
    reach = opening + t * math.tan(bevel)
    ring = [(opening - 1.0, near, 0.0), (opening, near, 0.0), (reach, far, 0.0), (opening - 1.0, far, 0.0)]
    low, high = (np.array((sizes.face(sizes.at, z), 0.0, z)) for z in between)
    return Notch("web bevel", 0, Frame.of(low, (1.0, 0.0, (low - high)[0] / (high - low)[2]), high - low), Outline(tuple(ring if far > near else ring[::-1])), float(np.linalg.norm(high - low)))


def _web_groove(sizes: BeamEnd, side: float, opening: float, bevel: float, span: tuple[float, float]) -> Weld:
    t = sizes.web.thickness
    y = sizes.at + side * t / 2
    u, v = (0.0, -side, 0.0), (math.sin(bevel), -side * math.cos(bevel), 0.0)
    return Weld("web groove weld", t, (sizes.face(y, span[0]), y, span[0]), (sizes.face(y, span[1]), y, span[1]), u, v, ("supporting member", "supported member"), True, "groove", opening)


def _backing(given: Given, case: Case, sizes: BeamEnd, under: tuple[float, float], t: float, width: float, grade: str) -> list[Plate]:
    """Bars under both flange welds, as far past the flange as the column's carries them."""
    assert case.support is not None
    along, low, high = face_width(case)
    b = case.supported.shape.b / 2
    past = float(given.value("backing_past"))
    least, most = -b - past, b + past
    if abs(float(along[1])) > 0.7:
        sign = math.copysign(1.0, float(along[1]))
        aside = float((np.zeros(3) - np.array(case.support.frame.o)) @ along)
        edges = sorted(sign * (e - aside) for e in (low, high))
        least, most = max(least, edges[0]), min(most, edges[1])
    spare = rules_of(given.house).weld_gap(given.house.weld_gap).value
    return [
        Plate(f"backing, {name} flange", Outline.rectangle(x, least, x + width, most), t, Frame((0.0, 0.0, z - t)), grade, (), ("", ""))
        for name, z in (("top", under[0]), ("bottom", under[1]))
        for x in (stand_off(sizes.face, (least, most), (z - t, z), spare),)
    ]  # fmt: skip


def _dimensions(tab: Tab, starts: tuple[float, float], beam: tuple[float, float, float, float, float]) -> tuple[Dimension, ...]:
    low, top, width, rows, line, t, y = tab.low, tab.top, tab.width, tab.rows, tab.line, tab.plate.thickness, tab.outer
    opening, gap = starts
    half, tf, high, long, reach = beam
    right = [(width, y, top), *((line, y, z) for z in rows), (width, y, low)]
    out = [
        Dimension("front", "right", 0, tuple(vec(p) for p in right), ("end_distance", *("pitch",) * (len(rows) - 1), "end_distance")),
        Dimension("front", "right", 1, ((width, y, top), (width, y, low)), ("tab_height",)),
        Dimension("front", "bottom", 0, ((0.0, y, low), (gap, y, low), (line, y, rows[-1]), (width, y, low)), ("root_opening" if gap == opening else "web_gap", "beam_end_distance", "edge_distance")),
        Dimension("front", "bottom", 2, ((0.0, y, low), (width, y, low)), ("tab_width",)),
        Dimension("front", "bottom", 1, ((reach, 0.0, -half + tf), (reach + long, 0.0, -half + tf)), ("hole_length",)),
        Dimension("front", "left", 0, ((0.0, 0.0, -half + tf), (0.0, 0.0, -half + tf + high)), ("hole_height",)),
        Dimension("plan", "left", 0, ((0.0, y, top), (0.0, y - math.copysign(t, y), top)), ("tab_thickness",)),
    ]
    return tuple(out)


FAMILY = Family(
    "welded-moment", "Welded moment joint", ("moment connection", "welded flanges", "rigid joint", "full penetration", "continuity plates"), ("beam to column flange",), SETTINGS, fits, build,
    {
        "edge-least": ("edge_distance", "end_distance", "beam_end_distance"), "edge-greatest": ("edge_distance", "end_distance", "beam_end_distance"), "spacing-least": ("pitch",),
        "spacing-greatest": ("pitch",), "fillet-throat": ("tab_weld", "column_weld", "doubler_weld"), "fillet-leg-least": ("tab_weld", "column_weld", "doubler_weld"), "fillet-length": ("column_weld",), "plate-stock": ("tab_thickness", "backing", "stiffener_thickness"),
        "groove-angle": ("bevel",), "plate-step": ("tab_height", "tab_width"),
    },
    situations=("moment",), example=at_end(a_column("UC 254x254x73"), a_beam("UB 406x178x60")),
)  # fmt: skip
