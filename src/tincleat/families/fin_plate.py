"""Fin plate: a plate welded to the support, bolted to the web of the supported beam.

Joint frame: origin where the beam's middle line meets the support's face, x out along the beam, z up the beam's depth.
"""

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from tincleat.catalogue.fasteners import bolt_size
from tincleat.details.assembled import role_words
from tincleat.details.parts import BentPlate, Bolts, Detail, Dimension, Hole, Plate, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import BOLT_GRADES, BOLT_SIZES, HOLES, STEEL_GRADES, Family, Given, Setting, bolt_choice, rounded
from tincleat.families.example import a_beam, a_column, at_end
from tincleat.families.fin_bent import Bend, bend_of, bent_fin
from tincleat.families.fin_through import ASIDE, Through, held_through, through_of
from tincleat.families.shear import BeamEnd, bolt_and_end, end_notches, end_of_beam, room_in_web, web_rows
from tincleat.geometry.frames import Frame, Vec3, crossed, unit, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case
from tincleat.kit.cope import skew
from tincleat.kit.face import face_angles, face_of, face_width, raised
from tincleat.kit.layout import up
from tincleat.kit.stiffen import beside_web, room_beside, stiffener
from tincleat.kit.weld import both_sides
from tincleat.project.entities import HouseRules
from tincleat.standards.rulesets import rules_of
from tincleat.steel.cuts import EndCut, MemberHole, Notch

KINDS = ("beam to column flange", "knee", "beam to column web", "beam to beam web", "beam to hollow face")
MOST_FILLET = math.radians(30.01)  # skew from which the acute corner is narrower than the 60 degrees a fillet needs (EN 1993-1-8 4.3.2.1)
TRUE = math.radians(0.02)  # of what stands between plates: a tenth of a millimetre over 300
MOST_SKEW = math.radians(45.01)
DEEP = 610.0  # mm: beams deeper than this keep a larger setback and two lines of bolts (common practice)
BESIDE_FLANGE = 5.0  # mm between a plate that reaches past a column's flanges and one of them
ALONG, SQUARE = "along the face", "square"
INSIDE, PAST, THROUGH = "between the flanges", "past the flanges", "through the tube"
BEVELLED, BENT = "edge bevelled", "plate bent"

SETTINGS = (
    Setting("bolt", "Bolt", "choice", "Bolts", bolt_choice, "Size of the bolts.", choices=BOLT_SIZES),
    Setting("bolt_grade", "Bolt grade", "choice", "Bolts", lambda h: h.bolt_grade, "Strength class of the bolts.", choices=BOLT_GRADES),
    Setting("pitch", "Row pitch", "spacings", "Bolts", None, "Spacings between bolt rows, such as 3@70. Worked out from the clear web depth if not typed.", 0, 2000),
    Setting("gauge", "Gauge", "spacings", "Bolts", None, "Spacings between bolt lines along the beam; 0 is a single line, which beams of up to 610 mm get if it is not typed; deeper ones get two.", 0, 2000),
    Setting("row_place", "Rows sit", "choice", "Bolts", "in the clear web", "In the middle of the clear web, the first a round distance from the top of the beam (3 in where there is room); centred on the beam's axis; or from a distance that is typed.",
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
    Setting("reach", "Plate reaches", "choice", "Plate", INSIDE, "On a column's web: to a beam that comes in between its flanges, or past them to one that stops outside; of a tube: to its face, or slotted through it, as it always is through a round one.", choices=(INSIDE, PAST, THROUGH)),
    Setting("beyond", "Plate beyond the tube", "length", "Plate", None, "How far a plate through a tube stands out behind it; room for its welds if not typed.", 3, 200),
    Setting("skewed", "Where skewed", "choice", "Plate", BEVELLED, "A plate along the beam with its welded edge bevelled, or one that stands square on the support and is bent to the beam.", choices=(BEVELLED, BENT)),
    Setting("bend_radius", "Bend radius", "length", "Plate", None, "Inside of the bend; by the house rule from the plate's thickness if not typed.", 2, 300),
    Setting("stiffeners", "Plates above and below", "choice", "Plate", "none", "Where the plate reaches past a column's flanges: plates in the column over and under it, welded to it.", choices=("none", "above and below")),
    Setting("weld_leg", "Weld leg", "length", "Weld", None, "Leg of the fillets on both faces of the plate; worked out from its thickness.", 2, 40),
    Setting("site_weld", "Welded on site", "flag", "Weld", False, "Whether the plate is welded on site."),
    Setting("end_cut", "Beam's end cut", "choice", "Beam end", None, "Of a sloping beam: along the face, or square to the beam where that would leave exposed bolts too far from its edge.", choices=(ALONG, SQUARE)),
    Setting("setback", "Setback", "length", "Beam end", None, "Gap between the beam's end and the support's face.", 0, 200),
    Setting("notch", "Notches", "choice", "Beam end", "where flanges clash", "Whether the beam is notched.", choices=("where flanges clash", "never")),
    Setting("notch_past", "Notch past the flange", "length", "Beam end", 10.0, "Clear distance from the supporting flange's tip to the notch's end.", 0, 300, inches=12.7),
)  # fmt: skip


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless a beam with a web ends on a flange, web or flat wall at no more than 45 degrees."""
    if case.kind not in KINDS or case.support is None:
        raise NoFit(f"a fin plate joins a beam's end to a flange, web or wall; this joint is a {case.kind}", right="choose a beam end at a support")
    beam, support = case.supported.shape, case.support.shape
    if beam.shape not in ("I", "C"):
        raise NoFit(f"a fin plate is bolted to a web; {beam.name} is a {beam.shape} section without one", right="an I-section or channel")
    if support.shape == "RD":
        raise NoFit(f"{support.name} is round and solid; a fin plate is welded to a flat face, or slotted through a tube")
    if support.shape == "L" and (np.array(case.support.frame.y) @ face_of(case)[0] > 0.5 or np.array(case.support.frame.z) @ face_of(case)[0] > 0.5):
        raise NoFit(f"the beam comes to the inside of the angle {support.name}, where its other leg is in the way", right="the back of one of its legs")
    if support.shape not in ("I", "C", "RHS", "T", "L", "CHS"):
        raise NoFit(f"{support.name} is a {support.shape} section, which has no flat face wide enough for a fin plate", right="an I-section, channel or square tube")
    normal, _ = face_of(case)
    if skew(normal) > MOST_SKEW:
        raise NoFit(f"the beam meets the face {math.degrees(skew(normal)):.0f}° off square", right="a fin plate takes up to 45°")


def build(case: Case, given: Given) -> Detail:
    """The whole detail: plate or plates, bolts, welds along the face, beam end, notches, holes."""
    house = given.house
    case, heads = raised(case)
    inch = house.inch
    sizes = end_of_beam(case, house, float(given.value("notch_past")))
    tube = _tube(case, given, sizes)
    outside = None if tube is not None else _outside(case, given, sizes)
    if outside is not None:
        sizes = replace(sizes, top=(0.0, 0.0), bottom=(0.0, 0.0), zone=(sizes.beam.root - sizes.beam.h / 2, sizes.beam.h / 2 - sizes.beam.root))
    room_in_web(sizes, house)
    beam, n, face, at = sizes.beam, sizes.normal, sizes.face, sizes.at

    thickness = float(given.value("plate_thickness"))
    leg = given.rounded("weld_leg", thickness * (0.625 if house.rule_set == "AISC" else 0.8), "weld leg")
    bend = bend_of(case, given, sizes, leg) if given.value("skewed") == BENT else None
    if bend is not None and tube is not None:
        raise NoFit("a bent plate does not go through a tube", right=BEVELLED)
    bolt, end = bolt_and_end(given, sizes)
    rows, raw_height = web_rows(given, sizes, bolt, end, float(given.value("plate_thickness")))
    setback = float(given.worked_out("setback", outside if outside is not None else max(bend.least if bend else 0.0, 12.7 if inch else 20.0 if beam.h > DEEP else 10.0)))
    end_distance = float(given.value("beam_end_distance"))
    even = 6.35 if inch else 5.0
    apart = max(76.2 if inch else 70.0, up(rules_of(house).spacing_least(bolt_size(bolt), Hole(0, 0, *house.hole(bolt, str(given.value("hole")))), False).value, even))
    gauge: tuple[float, ...] = tuple(given.worked_out("gauge", (apart,) if beam.h > DEEP else ()))
    beyond = (raw_height - (rows[0] - rows[-1])) / 2
    low_z, high_z = rows[-1] - beyond, rows[0] + beyond
    # on a slanting face the first line keeps its end distance at the fibre of the web where the beam reaches furthest out
    beam_end = max(face(at, z) for z in (low_z, high_z)) + setback / float(n[0])
    cut = _end(given, sizes, (low_z, high_z), rows, setback, beam_end + end_distance, thickness)
    if abs(n[2]) > 1e-6 and cut.normal[2] == 0.0:  # square
        beam_end = cut.point[0]
    lines = [beam_end + end_distance]
    for gap in gauge:
        lines.append(lines[-1] + gap)

    height = _plate_height(given, raw_height, sizes)
    middle = (rows[0] + rows[-1]) / 2
    bottom, top = middle - height / 2, middle + height / 2
    half = sizes.web.thickness / 2
    turned = skew(np.array([n[0], n[1], 0.0]) / np.hypot(n[0], n[1]))
    groove = turned > MOST_FILLET
    faces = _sides(case, given, sizes, 0.0 if groove else leg) if bend is None else _bent_side(given, bend)
    bevel = not groove and tube is None and abs(n[1]) * thickness > 0.05
    pick = min if bevel else max
    nearest = min(pick(face(y, z) for y in (at + side * half, at + side * (half + thickness))) for z in (bottom, top) for side in faces)
    reach = lines[-1] + float(given.value("edge_distance"))
    # a bent plate's reach is no width of stock: it is measured from the face on the beam's axis
    width = nearest + given.rounded("plate_width", reach - nearest, "fin plate width") if bend is None else float(given.worked_out("plate_width", reach))
    hole_kind = str(given.value("hole"))
    hole_w, hole_l = house.hole(bolt, hole_kind)
    plain_w, plain_l = house.hole(bolt, "normal")
    grade = str(given.value("plate_grade"))
    site = bool(given.value("site_weld"))

    corner = up(leg + 2.0, even) if outside is not None and given.value("stiffeners") != "none" else 0.0
    plates: list[Plate] = []
    welds: list[Weld] = []
    bents: tuple[BentPlate, ...] = ()
    slots: list[Notch] = []
    if bend is not None:
        spots = [Hole(x, z, hole_w, hole_l, 0.0, hole_kind) for z in rows for x in lines]  # type: ignore[arg-type]
        one, some = bent_fin(case, given, sizes, bend, beam_end, width, (bottom, top), spots, leg, grade, site)
        bents, welds = (one,), some
    for side in faces if bend is None else ():
        name = "fin plate" if len(faces) == 1 else f"fin plate {'near' if side < 0 else 'far'}"
        inner, outer = at + side * half, at + side * (half + thickness)
        y_high = max(inner, outer)
        # the outline is that of the face that reaches further in; its edge is bevelled along the support
        left = [pick(face(y, z) for y in (inner, outer)) for z in (bottom, top)]
        if tube is not None:
            back = min(tube.walls(y, z)[0] for y in (inner, outer) for z in (bottom, top))
            whole = rounded(width - back + leg + 2.0, house.rounding_of("fin plate width")[1], house.flats)
            left = [back - float(given.worked_out("beyond", whole - width + back))] * 2
        frame = Frame((0.0, y_high, 0.0), (1.0, 0.0, 0.0), (0.0, -1.0, 0.0))
        # corners cut off over the welds of the plates above and below
        ring = [(left[0], bottom)] if not corner else [(left[0], bottom + corner), (left[0] + corner, bottom)]
        ring += [(width, bottom), (width, top)] + ([(left[1], top)] if not corner else [(left[1] + corner, top), (left[1], top - corner)])
        outline = Outline(tuple((x, z, 0.0) for x, z in ring))
        holes = tuple(Hole(x, z, hole_w, hole_l, 0.0, hole_kind) for z in rows for x in lines)  # type: ignore[arg-type]
        trims = (EndCut(0, vec(frame.to_local(sizes.point[None])[0]), vec(frame.unturn(n))),) if bevel else ()
        plates.append(Plate(name, outline, thickness, frame, grade, holes, ("fin plate width", "fin plate length"), trims=trims))
        if tube is not None:
            some, slot = held_through(tube, (min(inner, outer), max(inner, outer)), (bottom, top), leg, "supporting member", name, site)
            welds += some if len(faces) == 1 else [w for w in some if w.name.endswith("near face" if side < 0 else "far face")]  # nobody gets in between two plates
            slots.append(slot)
            continue
        welds += _groove(name, sizes, (bottom, top), inner, outer, site) if groove else _welds(name, sizes, (bottom + corner, top - corner), inner, outer, leg, site)[len(faces) - 1 :]

    if outside is not None and given.value("stiffeners") != "none":
        more, seams = _above_and_below(case, given, sizes, plates, (bottom, top), grade, leg)
        plates += more
        welds += seams
    towards = -faces[0] * (1 if given.value("head_side") == "on the plate" else -1)
    points = tuple((x, at, z) for z in rows for x in lines)
    length = float(given.typed["bolt_length"]) if given.has("bolt_length") else 0.0  # type: ignore[arg-type]
    bolts = Bolts("bolts", bolt, str(given.value("bolt_grade")), points, (0.0, float(towards), 0.0), (0.0, 0.0, 1.0), hole_kind, length)  # type: ignore[arg-type]
    drilled = tuple(MemberHole(0, "web", p, (0.0, 1.0, 0.0), plain_w, plain_l, (1.0, 0.0, 0.0)) for p in points)
    ends = (cut, *heads)
    notches: tuple[Notch, ...] = end_notches(case, sizes, house) if given.value("notch") == "where flanges clash" and outside is None else ()
    given.worked_out("bolt_length", 0.0)
    return Detail(
        "fin plate", tuple(plates), (bolts,), tuple(welds), (), (), ends, (*notches, *slots), drilled,
        _dimensions(sizes, rows, lines, (bottom, top, width), beam_end, at + faces[0] * (half + thickness), thickness), (), tuple(given.numbers.values()),
        angles=face_angles(n, np.array([face(at, 0.0), at, 0.0])), bents=bents,
    )  # fmt: skip


def _end(given: Given, sizes: BeamEnd, plate: tuple[float, float], rows: Sequence[float], setback: float, line: float, thickness: float) -> EndCut:
    """Where the beam ends: along the face, or, where a sloping end would leave exposed bolts too far from it, square to the beam and clear
    of the face at its nearest fibre, and of the plate's (mm up the beam, from and to).  ``line`` is where the first bolts stand along the beam in the first case."""
    n, at, house = sizes.normal, sizes.at, given.house
    along = EndCut(0, vec(sizes.point + n * setback), vec(n))
    tops = (sizes.zone[0] if sizes.bottom[0] else -sizes.beam.h / 2, sizes.zone[1] if sizes.top[0] else sizes.beam.h / 2)
    flat = np.array([n[0], n[1], 0.0]) / math.hypot(n[0], n[1])
    square = EndCut(0, (max(sizes.face(at, z) for z in (*tops, *plate)) + setback / float(n[0]), at, 0.0), vec(flat))
    if abs(n[2]) < 1e-6:
        given.worked_out("end_cut", ALONG)
        return along
    far = line - min(sizes.face(at, z) for z in (rows[0], rows[-1])) - setback / float(n[0])
    most = rules_of(house).edge_greatest(min(thickness, sizes.web.thickness)).value if house.exposed else math.inf
    wanted = str(given.worked_out("end_cut", ALONG) if far <= most else given.fitted("end_cut", SQUARE, f"along the face the web's edge would be {far:.0f} mm from a bolt, {most:.0f} at most where exposed"))
    return square if wanted == SQUARE else along


def _tube(case: Case, given: Given, sizes: BeamEnd) -> Through | None:
    """The tube that the plate goes through, where it does: a round one has no flat face to weld it to."""
    round_ = sizes.support.shape == "CHS"
    wanted = str(given.value("reach")) if given.has("reach") or not round_ else str(given.fitted("reach", THROUGH, "a round tube has no flat face"))
    if wanted != THROUGH:
        if round_:
            raise NoFit(f"{sizes.support.name} is round; a plate has no flat face to stand on", right=THROUGH)
        return None
    given.value("stiffeners")
    tube = through_of(case, sizes)
    half, t = sizes.web.thickness / 2, float(given.value("plate_thickness"))
    off = max(abs(sizes.at + s * (half + t) - tube.y) for s in (-1.0, 1.0))
    if round_ and off > ASIDE * 2 * tube.half:
        raise NoFit(f"the plate would go through {sizes.support.name} {off:.0f} mm off its middle", right=f"at most {ASIDE * 2 * tube.half:.0f} mm")
    return tube


def _outside(case: Case, given: Given, sizes: BeamEnd) -> float | None:
    """The setback of a beam that stops outside a column's flanges, where the plate is to reach past them; None where it is not."""
    if given.value("reach") == INSIDE:
        given.value("stiffeners")
        return None
    support = case.support
    assert support is not None
    if case.kind != "beam to column web" or support.shape.shape != "I":
        raise NoFit(f"a plate reaches past the flanges of a column to whose web the beam comes; this is a {case.kind}", right=INSIDE)
    if abs(float(np.dot(case.supported.frame.z, support.frame.x))) < 0.7:
        raise NoFit(f"the beam lies on its side: a plate along its web would run into the flanges of {support.shape.name}", right=INSIDE)
    off = max(math.acos(min(1.0, abs(float(np.array(case.supported.frame.x) @ sizes.normal)))), math.asin(min(1.0, abs(float(np.dot(case.supported.frame.y, support.frame.x))))))
    if off > TRUE and given.value("stiffeners") != "none":
        raise NoFit(f"the beam stands {math.degrees(off):.2f}° off square to the column; the plates above and below a fin plate are square to it", right=f"at most {math.degrees(TRUE):g}°, or none above and below")
    clear = support.shape.b / 2 - support.shape.tw / 2
    # askew it comes nearer to one of the flanges the further out it reaches
    lean = abs(float(sizes.normal[1])) / float(sizes.normal[0])
    aside = abs(float((np.array([sizes.face(sizes.at, 0.0), sizes.at, 0.0]) - support.frame.o) @ np.array(support.frame.z)))
    thick = (sizes.web.thickness / 2 + float(given.value("plate_thickness"))) / math.cos(math.atan(lean))
    room = support.shape.h / 2 - support.shape.tf - aside - clear * lean - thick
    if room < BESIDE_FLANGE:
        raise NoFit(f"between the flanges of {support.shape.name} a plate {math.degrees(math.atan(lean)):.0f}° askew would pass one by {room:.0f} mm", right=f"at least {BESIDE_FLANGE:.0f} mm: a deeper column, or a beam less askew")
    return up(clear + (12.7 if given.house.inch else 15.0), 6.35 if given.house.inch else 5.0)


def _above_and_below(case: Case, given: Given, sizes: BeamEnd, fins: list[Plate], span: tuple[float, float], grade: str, leg: float) -> tuple[list[Plate], list[Weld]]:
    """Plates in the column over and under the fin plate, welded to it."""
    column, house = case.support, given.house
    assert column is not None
    t = fins[0].thickness
    f = column.frame
    side = 1.0 if float(np.array(f.y) @ sizes.normal) > 0 else -1.0
    width, snipe = beside_web(column.shape, leg, rounded(room_beside(column.shape), house.rounding.get("stiffener"), house.flats), house)
    plates: list[Plate] = []
    welds: list[Weld] = []
    for name, z, way in (("plate above", span[1], 1.0), ("plate below", span[0], -1.0)):
        station = float((np.array([0.0, 0.0, z + way * t / 2]) - f.o) @ np.array(f.x))
        plate, some = stiffener(column.shape, f.moved(x=station), side, name, role_words(column.role), grade, t, width, snipe, leg)
        plates.append(plate)
        welds += some
        for fin in fins:
            y = fin.frame.origin[1] - t / 2
            welds += both_sides(f"{fin.name} to {name}", leg, [(snipe + leg, y, z), (width - leg, y, z)], (0.0, 1.0, 0.0), t, (0.0, 0.0, -way), (name, fin.name))
    return plates, welds


def _bent_side(given: Given, bend: Bend) -> tuple[int, ...]:
    """The side of the web a bent plate lies on: where its foot leads away from the beam."""
    only = "near side" if bend.side < 0 else "far side"
    name = str(given.value("sides")) if given.has("sides") or only == "near side" else str(given.fitted("sides", only, "on the other side the bend would cross the beam's end"))
    if name != only:
        raise NoFit(f"a plate on the {name} of a beam {math.degrees(bend.turn):.0f}° askew, bent square to the support, would cross the beam's end".replace("on the both sides", "on both sides"), right=only)
    return SIDES[name]


SIDES: dict[str, tuple[int, ...]] = {"near side": (-1,), "far side": (1,), "both sides": (-1, 1)}


def _sides(case: Case, given: Given, sizes: BeamEnd, leg: float) -> tuple[int, ...]:
    """The sides of the web the plate lies on; by default the near one, or the far one where only that lands on the support."""
    assert case.support is not None
    along, low, high = face_width(case)
    half, t = sizes.web.thickness / 2, float(given.value("plate_thickness"))
    if abs(along[2]) > 0.3:  # the face is long upward and narrow across only where the support stands
        return SIDES[str(given.value("sides"))]

    beside = leg * abs(float(sizes.normal[0]))  # a fillet's leg lies along the face

    def past(side: int) -> float:
        spots = [np.array([sizes.face(y, 0.0), y, 0.0]) for y in (sizes.at + side * (half - beside), sizes.at + side * (half + t + beside))]
        far = [float((p - case.support.frame.o) @ along) for p in spots] if case.support else []
        return max(max(far) - high, low - min(far), 0.0)

    wanted = "near side" if given.has("sides") or past(-1) < 0.05 or past(1) >= 0.05 else "far side"
    name = str(given.value("sides")) if wanted == "near side" else str(given.fitted("sides", wanted, "on the near side it would miss the support"))
    off = max(past(side) for side in SIDES[name])
    if off >= 0.05:
        raise NoFit(
            f"the plate{' and its fillets' if leg else ''} would reach {off:.0f} mm past the flat of {sizes.support.name}, which is {high - low:.0f} mm wide",
            right="a beam nearer the middle of its support, or the other side of its web",
        )
    return SIDES[name]


def _plate_height(given: Given, raw: float, sizes: BeamEnd) -> float:
    """The plate's height on its rounding step, or as it is where the step would run into a root or notch."""
    clear = sizes.zone[1] - sizes.zone[0]
    rule = given.house.rounding_of("fin plate length")[1]
    if not given.has("plate_height") and raw <= clear + 1e-6 < rounded(raw, rule, given.house.flats):
        return float(given.fitted("plate_height", raw, f"the clear web is {clear:.0f} mm"))
    return given.rounded("plate_height", raw, "fin plate length")


def _welds(name: str, sizes: BeamEnd, span: tuple[float, float], inner: float, outer: float, leg: float, site: bool) -> list[Weld]:
    """A fillet on each face of the plate along the support, that on the web's side first: between two plates nobody gets at it."""
    out = []
    n = sizes.normal
    for which, y, side in (("inner", inner, -np.sign(outer - inner)), ("outer", outer, np.sign(outer - inner))):
        a, b = (np.array([sizes.face(y, z), y, z]) for z in span)
        path = unit(b - a)
        u = unit(crossed(n, path))
        if u[1] * side < 0:
            u = -u
        v = crossed(path, (0.0, 1.0, 0.0))
        v = unit(v if v[0] > 0 else -v)
        # along a face that leans a run ends so far before the plate's edge does that its leg stays on the plate
        rise = leg * float(v[2]) / float(path[2])
        a, b = a - path * min(rise, 0.0), b - path * max(rise, 0.0)
        out.append(Weld(f"{name} {which} fillet", leg, vec(a), vec(b), vec(u), vec(v), ("supporting member", name), site))
    return out


def _groove(name: str, sizes: BeamEnd, span: tuple[float, float], inner: float, outer: float, site: bool) -> list[Weld]:
    """The weld in the opening between a square edge and a face that runs away from it: the skew is its preparation."""
    # the plate touches with the edge that lies nearer the beam; the opening is on its other face
    touch, far = (inner, outer) if sizes.face(inner, 0.0) > sizes.face(outer, 0.0) else (outer, inner)
    a, b = (np.array([sizes.face(touch, z), touch, z]) for z in span)
    away = np.array([0.0, np.sign(far - touch), 0.0])
    path = unit(b - a)
    u = unit(crossed(sizes.normal, path))
    u = u if u @ away > 0 else -u
    v = unit(away - path * float(away @ path))
    return [Weld(f"{name} groove weld", abs(far - touch), vec(a), vec(b), vec(u), vec(v), ("supporting member", name), site, "groove")]


def _dimensions(
    sizes: BeamEnd, rows: list[float], lines: list[float], plate: tuple[float, float, float], beam_end: float, outer: float, thickness: float
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
        "bend-radius": ("bend_radius",),
        "bend-hole": ("beam_end_distance",),
        "bolt-length": ("bolt_length",),
    },
    pointed=("knee",),
    situations=("beams",), example=at_end(a_column("HEB 300"), a_beam("IPE 300")),
)  # fmt: skip
