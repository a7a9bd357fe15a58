"""What strengthens a column where a beam's flanges come to it: stiffeners at their levels where it goes on, plates on its web."""

import math

import numpy as np

from tincleat.details.assembled import role_words
from tincleat.details.parts import Plate, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import Given, Setting, rounded
from tincleat.geometry.frames import Frame
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case, CaseMember
from tincleat.kit.cope import skew
from tincleat.kit.face import face_of, steel_along
from tincleat.kit.layout import down, up
from tincleat.kit.packs import stocked
from tincleat.kit.stiffen import beside_web, room_beside, sides_of, stiffener
from tincleat.kit.weld import fillet
from tincleat.project.entities import HouseRules

CLEAR = 10.0  # mm from stiffeners to web plates

COLUMN_WELDS = (
    Setting("column_weld", "Column weld leg", "length", "Column", None, "Leg of the fillets in the column; worked out from the stiffeners.", 3, 30),
    Setting("doubler_weld", "Web plate weld leg", "length", "Column", None, "Leg of the fillets at both ends of the web plates: that of the column's others, or their thickness.", 3, 30),
)
COLUMN = (
    Setting("column_stiffeners", "Column stiffeners", "choice", "Column", "top and bottom", "Plates in the column at the level of what comes to its flange above and below; where the column goes on if not typed.", choices=("top and bottom", "top", "bottom", "none")),
    Setting("stiffener_thickness", "Stiffener thickness", "length", "Column", None, "At least that of the flange or plate they continue if not typed.", 5, 80),
    Setting("doubler", "Web plates", "choice", "Column", "none", "Plates on the column's web between the stiffeners.", choices=("near side", "far side", "both sides", "none"), handed=True),
    Setting("doubler_thickness", "Web plate thickness", "length", "Column", 8.0, "Thickness of the web plates.", 5, 40, inches=9.525),
    *COLUMN_WELDS,
)  # fmt: skip


def column_parts(case: Case, given: Given, levels: tuple[float, float], thick: float, grade: str) -> tuple[list[Plate], list[Weld]]:
    """Stiffeners with their middles at two levels (mm, the joint's z, the upper first) where something ``thick`` comes to the column, and
    plates on its web between them, as the settings of :data:`COLUMN` want."""
    house, column = given.house, case.support
    assert column is not None
    stations, kept = levels_on(column, given, levels, thick)
    wanted = bool(kept)
    t = float(given.worked_out("stiffener_thickness", stocked(thick, house))) if wanted else 0.0
    web = float(given.value("doubler_thickness")) if given.value("doubler") != "none" else 0.0
    leg = column_leg(column, given, t) if wanted or web else 0.0
    owner = role_words(column.role)
    plates, welds = column_stiffeners(column, kept, t, leg, grade, owner, house)
    if web:
        low, high = min(stations) + thick / 2 + t, max(stations) - thick / 2 - t
        some, seams = web_plates(column, str(given.value("doubler")), web, (low, high), float(given.worked_out("doubler_weld", min(leg, web))), grade, owner)
        plates += some
        welds += seams
    return plates, welds


def column_leg(column: CaseMember, given: Given, t: float) -> float:
    """Leg of the fillets of what is put into a column, mm: half of the stiffeners' thickness ``t``, but no more than leaves a fillet of six
    throats and its two ends the length of their shorter edge."""
    house = given.house
    usual = max(0.5 * max(t, 8.0), 5.0)
    edge = rounded(room_beside(column.shape), house.rounding.get("stiffener"), house.flats) - up(column.shape.r1 + 5.0, 5.0 if not house.inch else 3.175)
    most = max(down(edge / 8 * 2**0.5, 1.5875 if house.inch else 1.0), 3.0)
    if t and rounded(usual, house.rounding.get("weld leg"), house.flats) > most:
        return float(given.fitted("column_weld", most, f"the stiffener's edge is {edge:.0f} mm long"))
    return given.rounded("column_weld", usual, "weld leg")


def square_on(case: Case, most: float) -> None:
    """Raise NoFit with figures unless two I-sections stand square to each other and the beam's web along the column, within ``most`` (rad)."""
    assert case.support is not None
    for m in (case.supported, case.support):
        if m.shape.shape != "I":
            raise NoFit(f"{m.section} is a {m.shape.shape} section", right="I-sections for beam and column")
    normal, _ = face_of(case)
    turned = max(skew(normal), math.acos(min(1.0, abs(float(np.array(case.supported.frame.x) @ normal)))))
    if turned > most:
        raise NoFit(f"the beam stands {math.degrees(turned):.1f}° off square to the column's flange", right=f"at most {math.degrees(most):.0f}°")
    tilt = math.asin(min(1.0, abs(float(np.dot(case.supported.frame.y, case.support.frame.x)))))
    if tilt > most:
        raise NoFit(f"the beam's web lies {math.degrees(tilt):.1f}° off the column's length", right=f"at most {math.degrees(most):.0f}°")


def levels_on(column: CaseMember, given: Given, levels: "tuple[float, float]", thick: float, leg: float = 0.0) -> tuple[list[float], list[float]]:
    """Stations on a column of two levels (mm, the joint's z) that something ``thick``, with fillets of ``leg`` on both faces, comes to, and those of them that get a stiffener:
    the ones typed, else the ones where the column goes on.  Raises NoFit where the column does not reach that far."""
    f = column.frame
    low, high = steel_along(column)
    out = []
    for z, name in zip(levels, ("upper", "lower"), strict=True):
        s = float((np.array([0.0, 0.0, z]) - f.o) @ np.array(f.x))
        past = max(s + thick / 2 + leg - high, low - s + thick / 2 + leg)
        if past > 0.05:
            raise NoFit(f"{column.shape.name} ends {past:.0f} mm short of the outer side of what comes to it, the {name} of both", right="a column that goes on past the beam, a lower beam, or another family")
        out.append(s)
    if given.has("column_stiffeners"):
        which = str(given.value("column_stiffeners"))
    else:
        held = [low + thick <= s <= high - thick for s in out]
        which = ("none", "bottom", "top", "top and bottom")[2 * held[0] + held[1]]
        if all(held):
            given.value("column_stiffeners")
        else:
            given.fitted("column_stiffeners", which, f"the column ends {min(*(high - s for s in out), *(s - low for s in out)):.0f} mm past the middle of what comes to it")
    return out, [s for s, name in zip(out, ("top", "bottom"), strict=True) if name in which]


def column_stiffeners(column: CaseMember, stations: "list[float]", t: float, leg: float, grade: str, owner: str, house: HouseRules) -> tuple[list[Plate], list[Weld]]:
    """Plates on both sides of a column's web with their middles at ``stations`` (mm in its own frame), from the top down, and their fillets."""
    shape = column.shape
    width, snipe = beside_web(shape, leg, rounded(room_beside(shape), house.rounding.get("stiffener"), house.flats), house) if stations else (0.0, 0.0)
    plates: list[Plate] = []
    welds: list[Weld] = []
    for number, station in enumerate(stations, 1):
        for side in sides_of(shape, (-1.0, 1.0)):
            name = f"column stiffener {number} " + ("near" if side < 0 else "far")
            plate, some = stiffener(shape, column.frame.moved(x=station), side, name, owner, grade, t, width, snipe, leg)
            plates.append(plate)
            welds += some
    return plates, welds


def web_plates(column: CaseMember, wanted: str, t: float, span: "tuple[float, float]", leg: float, grade: str, owner: str) -> tuple[list[Plate], list[Weld]]:
    """Plates flat on a column's web between the roots, clear of ``span`` (stations, mm); on the near side, the far side or both."""
    shape, f = column.shape, column.frame
    if shape.tw < 4.0 or span[1] - span[0] < 100:
        raise NoFit("there is no room for web plates between the flanges of the beam", right="none")
    high = down(shape.h - 2 * shape.root, 5.0) / 2
    x0, x1 = span[0] + CLEAR, span[1] - CLEAR
    way = 1.0 if f.y[1] > 0 else -1.0
    sides = {"near side": (-way,), "far side": (way,), "both sides": (-1.0, 1.0)}[wanted]
    plates: list[Plate] = []
    welds: list[Weld] = []
    for side in sides:
        name = "web plate" if len(sides) == 1 else "web plate " + ("near" if side * way < 0 else "far")
        frame = f.at(Frame((0.0, side * (shape.tw / 2 + (0.0 if side < 0 else t)), 0.0), (1.0, 0.0, 0.0), (0.0, -1.0, 0.0)))
        plates.append(Plate(name, Outline.rectangle(x0, -high, x1, high), t, frame, grade, (), ("", "")))
        y = side * shape.tw / 2
        for (a, b), out in ((((x0, -high), (x0, high)), -1.0), (((x1, -high), (x1, high)), 1.0)):
            ends = [f.to_world(np.array([(p[0], y, p[1])]))[0] for p in (a, b)]
            welds.append(fillet(f"{name} fillet", leg, ends[0], ends[1], f.turn((out, 0.0, 0.0)), f.turn((0.0, side, 0.0)), (owner, name)))
    return plates, welds
