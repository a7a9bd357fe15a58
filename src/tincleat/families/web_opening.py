"""Web opening: holes for services through a member's web at a station, one or a row, with flats along them where asked.

Joint frame: origin on the member's middle line at the station, x along the member, z along its depth.
"""

import numpy as np

from tincleat.details.parts import Detail, Dimension, Plate, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import STEEL_GRADES, Family, Given, Setting
from tincleat.families.example import a_girder, at_station
from tincleat.geometry.frames import Array, Frame, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case, CaseMember
from tincleat.kit.cope import web_of
from tincleat.kit.layout import down, from_first
from tincleat.kit.stiffen import room_beside, sides_of
from tincleat.kit.weld import both_sides
from tincleat.project.entities import HouseRules
from tincleat.steel.cuts import Notch

MOST_ROW = 550.0  # mm: as far as a joint looks along its members
THROUGH = 2.0  # mm that the cutter stands out of the web on each side
ROUND, RECTANGLE, SLOT = "round", "rectangular", "slotted"

SETTINGS = (
    Setting("shape", "Shape", "choice", "Opening", ROUND, "Round, rectangular with rounded corners, or slotted with round ends.", choices=(ROUND, RECTANGLE, SLOT)),
    Setting("height", "Height", "length", "Opening", None, "Height, or the diameter of a round one; half the member's depth if not typed.", 10, 3000),
    Setting("width", "Width", "length", "Opening", None, "Along the member; one and a half times the height if not typed. A round one is as wide as high.", 10, 6000),
    Setting("up", "Off the middle", "length", "Opening", 0.0, "Middle of the opening over the member's middle; negative is under it.", -1500, 1500),
    Setting("radius", "Corner radius", "length", "Opening", 15.0, "Of rectangular openings.", 0, 200, inches=12.7),
    Setting("row", "Spacings", "spacings", "Opening", lambda h: (), "Further openings along the member, middle to middle; none is one at the station.", 0, 20000),
    Setting("flats", "Flats", "choice", "Flats", "none", "Flats on the web over and under the openings, and on which side.", choices=("near side", "far side", "both sides", "none"), handed=True),
    Setting("flat_width", "Flat width", "length", "Flats", None, "From the web out; to the flange's edge at most, on flat-bar stock, if not typed.", 15, 500),
    Setting("flat_thickness", "Flat thickness", "length", "Flats", 10.0, "Thickness of the flats.", 3, 60, inches=9.525),
    Setting("off", "Opening to flat", "length", "Flats", 15.0, "From the opening's edge to the flat.", 5, 300, inches=12.7),
    Setting("past", "Flat past the opening", "length", "Flats", None, "How far the flats go on past the openings; a quarter of the width, 100 mm at least, if not typed.", 0, 1500),
    Setting("grade", "Grade", "choice", "Flats", lambda h: h.plate_grade, "Steel grade of the flats.", choices=STEEL_GRADES),
    Setting("weld_leg", "Weld leg", "length", "Flats", None, "Fillets on both faces of every flat.", 3, 30),
)  # fmt: skip


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit unless this is a station of a member with a web between two flanges."""
    if case.kind != "station":
        raise NoFit(f"an opening lies at a station of a member; this is a {case.kind}", right="a member and a distance from its start, such as m12@2500")
    shape = case.members[0].shape
    if shape.shape not in ("I", "C"):
        raise NoFit(f"{shape.name} is a {shape.shape} section without a web between two flanges", right="an I-section or channel")


def build(case: Case, given: Given) -> Detail:
    """Openings through the web, flats over and under them."""
    house, member = given.house, case.members[0]
    shape = member.shape
    step = 6.35 if house.inch else 5.0
    form = str(given.value("shape"))
    up = float(given.value("up"))
    clear = shape.h / 2 - shape.root
    t = float(given.value("flat_thickness"))
    leg = given.rounded("weld_leg", min(max(0.5 * t, 4.7625 if house.inch else 5.0), max(shape.tw, 5.0)), "weld leg")
    flats = given.value("flats") != "none"
    # flats with their welds need straight web beyond the opening
    room = 2 * (clear - abs(up) - (float(given.value("off")) + t + leg if flats else 0.0))
    height = float(given.worked_out("height", max(down(min(shape.h / 2, room), step), step)))
    width = height if form == ROUND else float(given.worked_out("width", round(1.5 * height / step) * step))
    if abs(up) + height / 2 > clear + 1e-6:
        raise NoFit(f"an opening {height:.0f} mm high, {abs(up):.0f} mm off the middle, leaves the straight part of the web, {2 * clear:.0f} mm high", right=f"at most {2 * (clear - abs(up)):.0f} mm high there")
    if form == SLOT and width < height:
        raise NoFit(f"a slot {width:.0f} mm wide is narrower than its height of {height:.0f} mm", right="a wider slot, or a round opening")
    row = tuple(given.value("row"))
    if sum(row) + width / 2 > MOST_ROW:
        raise NoFit(f"the row reaches {sum(row) + width / 2:.0f} mm along", right=f"at most {MOST_ROW:.0f} mm; further ones at a station of their own")
    if row and min(row) < width + 10.0:
        raise NoFit(f"openings {width:.0f} mm wide every {min(row):.0f} mm leave {max(0.0, min(row) - width):.0f} mm of web", right=f"at least {width + 10.0:.0f} mm")
    spots = from_first(0.0, row)
    outline = _outline(form, width, height, float(given.value("radius")))
    web = web_of(shape.elements)
    assert web is not None
    # the web's far side as the joint sees it, its x along the joint and y up it
    at = _web_frame(member, web.at, web.thickness)
    notches = tuple(Notch("opening" if len(spots) == 1 else f"opening {i}", 0, at.moved(x=x, y=up), outline, web.thickness + 2 * THROUGH) for i, x in enumerate(spots, 1))
    plates: list[Plate] = []
    welds: list[Weld] = []
    if flats:
        _flats(given, member, at, web.thickness, (spots[0] - width / 2, spots[-1] + width / 2), (up, height), clear, leg, step, plates, welds)
    return Detail(
        "web opening", tuple(plates), (), tuple(welds), notches=notches, dimensions=_dimensions(at, spots, width, height, up, form, shape.h), numbers=tuple(given.numbers.values()),
    )  # fmt: skip


def _web_frame(member: CaseMember, at: float, thickness: float) -> Frame:
    """A frame just off the web: x along the joint's x, y up its z, z through the web; whichever way the member was drawn."""
    middle = member.frame.to_world([(0.0, at, 0.0)])[0]
    y = float(middle[1]) + thickness / 2 + THROUGH
    return Frame((0.0, y, float(member.frame.origin[2])), (1.0, 0.0, 0.0), (0.0, -1.0, 0.0))


def _outline(form: str, width: float, height: float, radius: float) -> Outline:
    if form == ROUND:
        return Outline.circle(0.0, 0.0, height)
    a, b = width / 2, height / 2
    r = min(radius, a, b) if form == RECTANGLE else b - 0.005
    return Outline.rounded([(-a, -b), (a, -b), (a, b), (-a, b)], [r] * 4) if r > 0 else Outline.rectangle(-a, -b, a, b)


def _flats(
    given: Given, member: CaseMember, at: Frame, web: float, span: tuple[float, float], place: tuple[float, float], clear: float, leg: float, step: float, plates: list[Plate], welds: list[Weld]
) -> None:
    """Flats on the web along the openings, welded on both their faces."""
    house, shape = given.house, member.shape
    t, off = float(given.value("flat_thickness")), float(given.value("off"))
    past = float(given.worked_out("past", max(round((span[1] - span[0]) / 4 / step) * step, 101.6 if house.inch else 100.0)))
    width = given.rounded("flat_width", min(room_beside(shape), 8 * t), "stiffener")
    wanted = {"near side": (-1.0,), "far side": (1.0,), "both sides": (-1.0, 1.0)}[str(given.value("flats"))]
    turned = 1.0 if member.frame.y[1] > 0 else -1.0
    sides = [s * turned for s in sides_of(shape, tuple(s * turned for s in wanted))]
    up, height = place
    length = span[1] - span[0] + 2 * past
    middle = at.origin[1] - THROUGH - web / 2
    for above, label in ((1.0, "upper"), (-1.0, "lower")):
        edge = up + above * (height / 2 + off)
        if above * edge + t + leg > clear + 1e-6:
            raise NoFit(f"the {label} flat with its weld would reach {above * edge + t + leg:.0f} mm off the middle, the straight part of the web ends at {clear:.0f} mm", right="a lower opening, or flats nearer to it")
        low = min(edge, edge + above * t)
        for s in sides:
            name = f"{label} flat" + ("" if len(sides) == 1 else " near" if s < 0 else " far")
            face = middle + s * web / 2
            corner: Array = np.array([span[0] - past, face, at.origin[2] + low])
            outline = Outline.rectangle(0.0, 0.0, length, width) if s > 0 else Outline.rectangle(0.0, -width, length, 0.0)
            plates.append(Plate(name, outline, t, Frame(vec(corner), (1.0, 0.0, 0.0), (0.0, 0.0, 1.0)), str(given.value("grade")), (), ("", "stiffener")))
            run = tuple(vec(corner + np.array([x, 0.0, t / 2])) for x in (0.0, length))
            welds += both_sides(f"{name} to web", leg, run, (0.0, 0.0, 1.0), t, (0.0, s, 0.0), ("member", name))


def _dimensions(at: Frame, spots: list[float], width: float, height: float, up: float, form: str, depth: float) -> tuple[Dimension, ...]:
    a, b, z0 = width / 2, height / 2, at.origin[2]

    def p(x: float, z: float) -> tuple[float, float, float]:
        return (x, at.origin[1], z0 + z)

    first = spots[0]
    out = [
        Dimension("front", "right", 0, (p(spots[-1] + a, up - b), p(spots[-1] + a, up + b)), ("height",)),
        Dimension("front", "left", 0, (p(first - a, 0.0), p(first - a, up)), ("up",)),
        Dimension("front", "right", 1, (p(spots[-1], up + b), p(spots[-1], depth / 2)), ("",)),
    ]
    if form != ROUND:
        out.append(Dimension("front", "bottom", 0, (p(first - a, -depth / 2), p(first + a, -depth / 2)), ("width",)))
    if len(spots) > 1:
        out.append(Dimension("front", "bottom", 1, tuple(p(x, -depth / 2) for x in spots), ("row",) * (len(spots) - 1)))
    return tuple(out)


FAMILY = Family(
    "web-opening", "Web opening", ("service hole", "penetration", "duct opening", "reinforced opening"), ("station",), SETTINGS, fits, build,
    {
        "fillet-throat": ("weld_leg",), "fillet-leg-least": ("weld_leg",), "fillet-length": ("weld_leg", "past"), "plate-stock": ("flat_thickness",), "plate-step": ("flat_width",),
        "edge-beside": ("up", "height", "width"),
    },
    situations=("loose",), example=at_station(a_girder("UB 457x191x67")),
)  # fmt: skip
