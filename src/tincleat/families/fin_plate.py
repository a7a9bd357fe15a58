"""Fin plate: a plate welded to the support, bolted to the web of the supported beam.

Joint frame: origin where the beam's middle line meets the support's face, x out along the beam, z up the beam's depth.
"""

import math
from dataclasses import dataclass

import numpy as np

from tincleat.catalogue.fasteners import bolt_size, hole_size
from tincleat.catalogue.sections import Element, Section
from tincleat.details.parts import Bolts, Detail, Dimension, Hole, Plate, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import BOLT_GRADES, BOLT_SIZES, HOLES, STEEL_GRADES, Family, Given, Setting, bolt_choice, rounded
from tincleat.geometry.frames import Array, Frame, Vec3, unit, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case
from tincleat.project.entities import HouseRules
from tincleat.steel.cuts import EndCut, MemberHole, Notch

KINDS = ("beam to column flange", "beam to column web", "beam to beam web", "beam to hollow face")
MOST_SKEW = math.radians(45)
DEEP = 610.0  # mm: beams deeper than this keep a larger setback (common practice)

SETTINGS = (
    Setting("bolt", "Bolt", "choice", "Bolts", bolt_choice, "Size of the bolts.", choices=BOLT_SIZES),
    Setting("bolt_grade", "Bolt grade", "choice", "Bolts", lambda h: h.bolt_grade, "Strength class of the bolts.", choices=BOLT_GRADES),
    Setting("pitch", "Row pitch", "spacings", "Bolts", None, "Spacings between bolt rows, such as 3@70. Worked out from the clear web depth if not typed.", 0, 2000),
    Setting("gauge", "Gauge", "spacings", "Bolts", lambda h: (), "Spacings between bolt lines along the beam; 0 is a single line.", 0, 2000),
    Setting("row_place", "Rows sit", "choice", "Bolts", "in the clear web", "Rows stay centred on the clear web or the beam's axis, or start at a distance from the top.",
            choices=("in the clear web", "on the beam axis", "from the top")),
    Setting("top_distance", "Top of beam to first row", "length", "Bolts", None, "Used when rows start from the top.", 20, 2000),
    Setting("beam_end_distance", "Beam end distance", "length", "Bolts", 40.0, "From the beam's end to the first bolt line.", 15, 500, inches=38.1),
    Setting("hole", "Holes in plate", "choice", "Bolts", "normal", "Kind of hole in the plate; slots run along the beam.", choices=HOLES),
    Setting("bolt_length", "Bolt length", "length", "Bolts", None, "Worked out from the real grip if not typed.", 20, 600),
    Setting("head_side", "Bolt heads", "choice", "Bolts", "on the plate", "Which side the heads are on.", choices=("on the plate", "on the beam")),
    Setting("plate_thickness", "Plate thickness", "length", "Plate", 10.0, "Thickness of the fin plate.", 3, 100, inches=9.525),
    Setting("end_distance", "Plate end distance", "length", "Plate", 40.0, "From the outer rows to the plate's upper and lower edge.", 15, 500, inches=38.1),
    Setting("edge_distance", "Plate edge distance", "length", "Plate", 40.0, "From the last bolt line to the plate's free edge.", 15, 500, inches=38.1),
    Setting("plate_height", "Plate height", "length", "Plate", None, "Worked out from the rows and rounded by the house rule if not typed.", 30, 3000),
    Setting("plate_width", "Plate width", "length", "Plate", None, "From the support's face; worked out and rounded if not typed.", 30, 2000),
    Setting("plate_grade", "Plate grade", "choice", "Plate", lambda h: h.plate_grade, "Steel grade of the plate.", choices=STEEL_GRADES),
    Setting("sides", "Plate on", "choice", "Plate", "near side", "Which side of the web the plate lies on.", choices=("near side", "far side", "both sides"), handed=True),
    Setting("weld_leg", "Weld leg", "length", "Weld", None, "Leg of the fillets on both faces of the plate; worked out from its thickness.", 2, 40),
    Setting("site_weld", "Welded on site", "flag", "Weld", False, "Whether the plate is welded on site."),
    Setting("setback", "Setback", "length", "Beam end", None, "Gap between the beam's end and the support's face.", 0, 200),
    Setting("notch", "Notches", "choice", "Beam end", "where flanges clash", "Whether the beam is notched.", choices=("where flanges clash", "never")),
    Setting("notch_past", "Notch past the flange", "length", "Beam end", 10.0, "Clear distance from the supporting flange's tip to the notch's end.", 0, 300, inches=12.7),
)  # fmt: skip


@dataclass(frozen=True)
class _Sizes:
    """What the case says in figures: sections, the support's face normal, clear zones (mm, in the joint frame)."""

    beam: Section
    support: Section
    normal: Array
    web: Element
    zone: tuple[float, float]
    notch_top: float
    notch_bottom: float
    notch_reach: float


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless a beam with a web ends on a flange, web or flat wall at no more than 45 degrees."""
    if case.kind not in KINDS or case.support is None:
        raise NoFit(f"a fin plate joins a beam's end to a flange, web or wall; this joint is a {case.kind}", right="choose a beam end at a support")
    beam, support = case.supported.shape, case.support.shape
    if beam.shape not in ("I", "C"):
        raise NoFit(f"a fin plate is bolted to a web; {beam.name} is a {beam.shape} section without one", right="an I-section or channel")
    if support.shape == "CHS":
        raise NoFit(f"{support.name} is round; a fin plate is welded to a flat face")
    normal = _normal(case)
    skew = math.acos(min(1.0, abs(float(normal[0]))))
    if skew > MOST_SKEW:
        raise NoFit(f"the beam meets the face {math.degrees(skew):.0f}° off square", right="a fin plate takes up to 45°")
    sizes = _sizes(case, house)
    clear = sizes.zone[1] - sizes.zone[0]
    least = 2 * 1.2 * hole_size(house.rule_set, house.bolt, "normal")[0]
    if clear < least:
        raise NoFit(
            f"the clear depth for the plate between roots and notches is {clear:.0f} mm (beam {beam.name}, support {support.name})",
            right=f"one {house.bolt} bolt needs {least:.0f} mm",
        )


def _normal(case: Case) -> Array:
    """Unit normal of the support's face, pointing along +x to the beam."""
    support = case.support
    assert support is not None
    flange = case.kind in ("beam to column flange", "beam on flange")
    if case.kind == "beam to hollow face":
        y, z = abs(support.frame.y[0]), abs(support.frame.z[0])
        flange = z > y
    n = np.array(support.frame.z if flange else support.frame.y)
    return n if n[0] > 0 else -n


def _sizes(case: Case, house: HouseRules) -> _Sizes:
    support = case.support
    assert support is not None
    beam, shape = case.supported.shape, support.shape
    web = next(e for e in beam.elements if e.name == "web")
    normal = _normal(case)
    low, high = -beam.h / 2 + beam.root, beam.h / 2 - beam.root
    top = bottom = reach = 0.0
    if case.kind == "beam to beam web":
        axis = float(np.array(support.frame.origin)[2])
        up = abs(support.frame.z[2])
        flange_top, flange_bottom = axis + shape.h / 2 * up, axis - shape.h / 2 * up
        clear_top, clear_bottom = axis + (shape.h / 2 - shape.root) * up, axis - (shape.h / 2 - shape.root) * up
        if beam.h / 2 > clear_top and -beam.h / 2 < flange_top:
            top = max(beam.h / 2 - clear_top + house.notch_clearance, beam.root)
        if -beam.h / 2 < clear_bottom and beam.h / 2 > flange_bottom:
            bottom = max(beam.h / 2 + clear_bottom + house.notch_clearance, beam.root)
        low, high = max(low, clear_bottom), min(high, clear_top)
        reach = shape.outstand
    elif case.kind == "beam to column web":
        clear = shape.h - 2 * shape.root
        if beam.b > clear:
            top = bottom = beam.root
        reach = shape.outstand
    notch = house.rounding.get("notch")
    top, bottom = (rounded(v, notch) if v else 0.0 for v in (top, bottom))
    return _Sizes(beam, shape, normal, web, (max(low, -beam.h / 2 + bottom), min(high, beam.h / 2 - top)), top, bottom, reach)


def _rows(given: Given, sizes: _Sizes) -> tuple[list[float], float]:
    """Heights of the bolt rows from the top down, and the raw plate height."""
    house = given.house
    low, high = sizes.zone
    d = bolt_size(str(given.value("bolt"))).d
    step = 76.2 if house.units in ("in", "ft-in") else 70.0
    step = max(step, math.ceil(3 * d / 5 - 1e-9) * 5 if step == 70.0 else 3 * d)
    end = float(given.value("end_distance"))
    gaps = int(max(0.0, (high - low - 2 * end + 1e-6) // step))
    pitch: tuple[float, ...] = tuple(given.worked_out("pitch", (step,) * gaps))
    total = sum(pitch)
    place = given.value("row_place")
    if place == "from the top":
        standard = math.ceil((sizes.beam.h / 2 - high + end) / 5) * 5.0
        first = sizes.beam.h / 2 - float(given.worked_out("top_distance", standard))
    else:
        first = ((low + high) / 2 if place == "in the clear web" else 0.0) + total / 2
    rows = [first]
    for gap in pitch:
        rows.append(rows[-1] - gap)
    return rows, total + 2 * end


def build(case: Case, given: Given) -> Detail:
    """The whole detail: plate or plates, bolts, fillets on both faces, beam end, notches, holes."""
    house = given.house
    sizes = _sizes(case, house)
    beam, n = sizes.beam, sizes.normal

    def face(y: float, z: float) -> float:
        return float(-(n[1] * y + n[2] * z) / n[0])

    rows, raw_height = _rows(given, sizes)
    setback = float(given.worked_out("setback", (12.7 if house.units in ("in", "ft-in") else 20.0 if beam.h > DEEP else 10.0)))
    end_distance = float(given.value("beam_end_distance"))
    gauge: tuple[float, ...] = tuple(given.value("gauge"))
    low_z, high_z = rows[-1] - raw_height / 2, rows[0] + raw_height / 2
    # on a slanting face the first line keeps its end distance at the fibre where the beam reaches furthest out
    beam_end = max(face(0.0, z) for z in (low_z, high_z)) + setback / float(n[0])
    lines = [beam_end + end_distance]
    for gap in gauge:
        lines.append(lines[-1] + gap)

    thickness = float(given.value("plate_thickness"))
    height = given.rounded("plate_height", raw_height, "plate length")
    middle = (rows[0] + rows[-1]) / 2
    bottom, top = middle - height / 2, middle + height / 2
    half, at = sizes.web.thickness / 2, sizes.web.at * math.copysign(1.0, case.supported.frame.y[1])
    faces = {"near side": (-1,), "far side": (1,), "both sides": (-1, 1)}[str(given.value("sides"))]
    nearest = min(max(face(y, z) for y in (at + side * half, at + side * (half + thickness))) for side in faces for z in (bottom, top))
    width = nearest + given.rounded("plate_width", lines[-1] + float(given.value("edge_distance")) - nearest, "plate width")
    bolt, hole_kind = str(given.value("bolt")), str(given.value("hole"))
    hole_w, hole_l = hole_size(house.rule_set, bolt, hole_kind)
    plain_w, plain_l = hole_size(house.rule_set, bolt, "normal")
    grade = str(given.value("plate_grade"))
    leg = given.rounded("weld_leg", thickness * (0.625 if house.rule_set == "AISC" else 0.8), "weld leg")
    site = bool(given.value("site_weld"))

    plates, welds = [], []
    for side in faces:
        name = "fin plate" if len(faces) == 1 else f"fin plate {'near' if side < 0 else 'far'}"
        inner, outer = at + side * half, at + side * (half + thickness)
        y_high = max(inner, outer)
        # the plate's edge is cut along the face at the height of the nearer corner, so that nothing overlaps
        left = [max(face(y, z) for y in (inner, outer)) for z in (bottom, top)]
        outline = Outline(((left[0], bottom, 0.0), (width, bottom, 0.0), (width, top, 0.0), (left[1], top, 0.0)))
        holes = tuple(Hole(x, z, hole_w, hole_l, 0.0, hole_kind) for z in rows for x in lines)  # type: ignore[arg-type]
        plates.append(Plate(name, outline, thickness, Frame((0.0, y_high, 0.0), (1.0, 0.0, 0.0), (0.0, -1.0, 0.0)), grade, holes))
        welds += _welds(name, n, (left[0], bottom), (left[1], top), inner, outer, leg, site)

    towards = -faces[0] * (1 if given.value("head_side") == "on the plate" else -1)
    points = tuple((x, at, z) for z in rows for x in lines)
    length = float(given.typed["bolt_length"]) if given.has("bolt_length") else 0.0  # type: ignore[arg-type]
    bolts = Bolts("bolts", bolt, str(given.value("bolt_grade")), points, (0.0, float(towards), 0.0), (0.0, 0.0, 1.0), hole_kind, length)  # type: ignore[arg-type]
    drilled = tuple(MemberHole(0, "web", p, (0.0, 1.0, 0.0), plain_w, plain_l, (1.0, 0.0, 0.0)) for p in points)
    ends = (EndCut(0, vec(n * setback), vec(n)),)
    notches = _notches(sizes, given, face) if given.value("notch") == "where flanges clash" else ()
    given.worked_out("bolt_length", 0.0)
    return Detail(
        "fin plate", tuple(plates), (bolts,), tuple(welds), (), (), ends, notches, drilled,
        _dimensions(sizes, rows, lines, (bottom, top, width), beam_end, at + faces[0] * (half + thickness), thickness), (), tuple(given.numbers.values()),
    )  # fmt: skip


def _welds(name: str, n: Array, low: tuple[float, float], high: tuple[float, float], inner: float, outer: float, leg: float, site: bool) -> list[Weld]:
    """A fillet on each face of the plate along the support."""
    out = []
    for which, y, side in (("inner", inner, -np.sign(outer - inner)), ("outer", outer, np.sign(outer - inner))):
        a, b = np.array([low[0], y, low[1]]), np.array([high[0], y, high[1]])
        path = unit(b - a)
        u = unit(np.cross(n, path))
        if u[1] * side < 0:
            u = -u
        v = np.cross(path, [0.0, 1.0, 0.0])
        v = v if v[0] > 0 else -v
        out.append(Weld(f"{name} {which} fillet", leg, vec(a), vec(b), vec(u), vec(unit(v)), ("supporting member", name), site))
    return out


def _notches(sizes: _Sizes, given: Given, face: "object") -> tuple[Notch, ...]:
    """Notches with a rounded inner corner where the beam's flanges would run into the support's."""
    house, h, n = given.house, sizes.beam.h / 2, sizes.normal
    reach = (sizes.notch_reach + float(given.value("notch_past"))) / float(n[0]) + abs(float(n[1] / n[0])) * sizes.beam.b / 2
    width = sizes.beam.b + 20
    frame = Frame((0.0, width / 2, 0.0), (1.0, 0.0, 0.0), (0.0, -1.0, 0.0))
    radius = house.notch_radius
    out = []
    if sizes.notch_top:
        z = h - sizes.notch_top
        out.append(Notch("top notch", 0, frame, Outline.rounded([(-400.0, z), (reach, z), (reach, h + 20), (-400.0, h + 20)], [0, radius, 0, 0]), width))
    if sizes.notch_bottom:
        z = -h + sizes.notch_bottom
        out.append(Notch("bottom notch", 0, frame, Outline.rounded([(-400.0, -h - 20), (reach, -h - 20), (reach, z), (-400.0, z)], [0, 0, radius, 0]), width))
    return tuple(out)


def _dimensions(
    sizes: _Sizes, rows: list[float], lines: list[float], plate: tuple[float, float, float], beam_end: float, outer: float, thickness: float
) -> tuple[Dimension, ...]:
    bottom, top, width = plate
    y = outer
    right: list[Vec3] = [(width, y, top)] + [(lines[-1], y, z) for z in rows] + [(width, y, bottom)]
    chain = ("end_distance",) + ("pitch",) * (len(rows) - 1) + ("end_distance",)
    across: list[Vec3] = [(0.0, y, bottom), (beam_end, y, bottom)] + [(x, y, rows[-1]) for x in lines] + [(width, y, bottom)]
    names = ("setback", "beam_end_distance") + ("gauge",) * (len(lines) - 1) + ("edge_distance",)
    out = [
        Dimension("front", "right", 0, tuple(right), chain),
        Dimension("front", "right", 1, ((width, y, top), (width, y, bottom)), ("plate_height",)),
        Dimension("front", "bottom", 0, tuple(across), names),
        Dimension("front", "bottom", 1, ((0.0, y, bottom), (width, y, bottom)), ("plate_width",)),
        Dimension("front", "left", 0, ((0.0, y, sizes.beam.h / 2), (lines[0], y, rows[0])), ("top_distance",)),
        Dimension(
            "side", "bottom", 0, ((0.0, min(y, y - np.sign(y) * thickness), bottom), (0.0, max(y, y - np.sign(y) * thickness), bottom)), ("plate_thickness",)
        ),
    ]
    return tuple(out)


FAMILY = Family(
    "fin-plate", "Fin plate", ("shear tab", "shear plate", "single plate", "web plate", "simple connection"), KINDS, SETTINGS, fits, build,
    {
        "edge-least": ("edge_distance", "end_distance", "beam_end_distance", "top_distance"),
        "edge-greatest": ("edge_distance", "end_distance", "beam_end_distance", "plate_thickness"),
        "spacing-least": ("pitch", "gauge"),
        "spacing-greatest": ("pitch", "gauge", "plate_thickness"),
        "fillet-throat": ("weld_leg",),
        "fillet-leg-least": ("weld_leg",),
        "fillet-leg-greatest": ("weld_leg",),
        "fillet-length": ("weld_leg", "end_distance"),
        "plate-stock": ("plate_thickness",),
        "plate-step": ("plate_height", "plate_width"),
        "bolt-length": ("bolt_length",),
    },
)  # fmt: skip
