"""Stiffeners: plates between a member's flanges at a station, on both sides of its web or on one.

Joint frame: origin on the member's middle line at the station, x along the member, z along its depth.
"""

from tincleat.details.parts import Detail, Dimension, Plate, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import STEEL_GRADES, Family, Given, Setting
from tincleat.geometry.frames import Frame, Vec3
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case
from tincleat.kit.cope import web_of
from tincleat.kit.layout import from_first, inner_face, up
from tincleat.kit.weld import both_sides
from tincleat.project.entities import HouseRules

MOST_ROW = 550.0  # mm: as far as a joint looks along its members

SETTINGS = (
    Setting("row", "Spacings", "spacings", "Plates", lambda h: (), "Further stiffeners along the member, such as 2@500; 0 is one at the station.", 0, 20000),
    Setting("sides", "Plates on", "choice", "Plates", "both sides", "Which side of the web they stand on.", choices=("near side", "far side", "both sides"), handed=True),
    Setting("thickness", "Thickness", "length", "Plates", 10.0, "Thickness of the plates.", 3, 100, inches=9.525),
    Setting("width", "Width", "length", "Plates", None, "From the web out; to the flange's edge and down to flat-bar stock if not typed.", 15, 1000),
    Setting("height", "Height", "length", "Plates", 0.0, "0 reaches from flange to flange; less is a partial stiffener.", 0, 3000),
    Setting("stands", "Partial ones stand", "choice", "Plates", "under the top flange", "Where a partial stiffener begins.", choices=("under the top flange", "on the bottom flange")),
    Setting("snipe", "Snipe", "length", "Plates", None, "Corner cut off at the web, clear of the root.", 0, 200),
    Setting("grade", "Grade", "choice", "Plates", lambda h: h.plate_grade, "Steel grade of the plates.", choices=STEEL_GRADES),
    Setting("weld_leg", "Weld leg", "length", "Weld", None, "Fillets on both faces of every plate.", 2, 40),
)  # fmt: skip


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit unless this is a station of a member with a web between two flanges."""
    if case.kind != "station":
        raise NoFit(f"stiffeners stand at a station of a member; this is a {case.kind}", right="a member and a distance from its start, such as m12@2500")
    shape = case.members[0].shape
    if shape.shape not in ("I", "C"):
        raise NoFit(f"{shape.name} is a {shape.shape} section; stiffeners stand between two flanges", right="an I-section or channel")
    if shape.h - 2 * shape.root < 20:
        raise NoFit(f"the clear web of {shape.name} is {shape.h - 2 * shape.root:.0f} mm", right="at least 20 mm")


def build(case: Case, given: Given) -> Detail:
    """Plates with sniped corners, welded to web and flanges."""
    house, member = given.house, case.members[0]
    shape, web = member.shape, web_of(member.shape.elements)
    assert web is not None
    t = float(given.value("thickness"))
    step = 3.175 if house.inch else 5.0
    snipe = float(given.worked_out("snipe", up(shape.r1 + step, step)))
    leg = given.rounded("weld_leg", min(max(0.5 * t, 3.175 if house.inch else 4.0), shape.tw if shape.tw > 4 else 4.0), "weld leg")
    upright = 1.0 if member.frame.y[1] > 0 else -1.0  # which way the section's own y lies in the joint
    at = web.at * upright
    wanted = {"near side": (-1.0,), "far side": (1.0,), "both sides": (-1.0, 1.0)}[str(given.value("sides"))]
    if shape.shape == "C":
        wanted = (upright,)  # a channel has room on the side of its flanges only
    room = shape.b - web.thickness if shape.shape == "C" else (shape.b - web.thickness) / 2
    width = given.rounded("width", room, "stiffener")
    height, lower = float(given.value("height")), given.value("stands") == "on the bottom flange"
    if height and height > shape.h - 2 * shape.tf:
        raise NoFit(f"{height:.0f} mm is more than the {shape.h - 2 * shape.tf:.0f} mm between the flanges of {shape.name}")
    if sum(given.value("row")) > MOST_ROW:
        raise NoFit(f"the row is {sum(given.value('row')):.0f} mm long", right=f"at most {MOST_ROW:.0f} mm; further ones at a station of their own")
    shortest = max(30.0, 6 * 0.71 * leg) + 2 * 0.71 * leg
    if not given.has("snipe") and width - snipe < shortest:
        snipe = float(given.fitted("snipe", shape.r1 + 1.0, f"the weld on the flange needs {shortest:.0f} mm"))
    plates: list[Plate] = []
    welds: list[Weld] = []

    def inner(y: float) -> float:
        return inner_face(shape, shape.b / 2 - (abs(y) if shape.shape == "I" else y * upright))

    spots = from_first(0.0, given.value("row"))
    for number, x in enumerate(spots, 1):
        for side in wanted:
            name = "stiffener" if len(spots) * len(wanted) == 1 else f"stiffener {number}" + ("" if len(wanted) == 1 else " near" if side < 0 else " far")
            y0 = at + side * web.thickness / 2
            y1 = y0 + side * width
            ya = y0 + side * snipe
            top: list[Vec3] = [(x, ya, inner(ya)), (x, y1, inner(y1))]
            low: list[Vec3] = [(x, ya, -inner(ya)), (x, y1, -inner(y1))]
            edge = (inner(ya) - (0.0 if height and lower else snipe), -inner(ya) + (0.0 if height and not lower else snipe))
            ends = [top, low]
            if height:
                cut = (-inner(ya) + height) if lower else (inner(ya) - height)
                if lower:
                    top, edge, ends = [(x, y0, cut), (x, y1, cut)], (cut, edge[1]), [low]
                else:
                    low, edge, ends = [(x, y0, cut), (x, y1, cut)], (edge[0], cut), [top]
            ring = [(y0, edge[0])] * (top[0][1] != y0) + [(p[1], p[2]) for p in top] + [(p[1], p[2]) for p in low[::-1]] + [(y0, edge[1])] * (low[0][1] != y0)
            # the plate's own frame: its x across the member, its y up, seen along the member
            flat = [(side * y, z) for y, z in ring]
            frame = Frame((x - side * t / 2, 0.0, 0.0), (0.0, side, 0.0), (side, 0.0, 0.0))
            plates.append(Plate(name, Outline(tuple((u, v, 0.0) for u, v in flat[::-1])), t, frame, str(given.value("grade")), (), ("stiffener", "")))
            along = (1.0, 0.0, 0.0)
            welds += both_sides(f"{name} to web", leg, ((x, y0, edge[1]), (x, y0, edge[0])), along, t, (0.0, side, 0.0), ("member", name))
            for run in ends:
                welds += both_sides(f"{name} to flange", leg, run, along, t, (0.0, 0.0, -1.0 if run[0][2] > 0 else 1.0), ("member", name))
    return Detail(
        "stiffeners", tuple(plates), (), tuple(welds), dimensions=_dimensions(plates, spots, t), numbers=tuple(given.numbers.values())
    )


def _dimensions(plates: list[Plate], spots: list[float], t: float) -> tuple[Dimension, ...]:
    first = plates[0]
    u0, v0, u1, v1 = first.outline.bounds
    y0, y1 = sorted(u * first.frame.x[1] for u in (u0, u1))
    out = [
        Dimension("side", "bottom", 0, ((0.0, y0, v0), (0.0, y1, v0)), ("width",)),
        Dimension("side", "right", 0, ((0.0, y1, v1), (0.0, y1, v0)), ("height",)),
        Dimension("front", "bottom", 0, ((-t / 2, 0.0, v0), (t / 2, 0.0, v0)), ("thickness",)),
    ]
    if len(spots) > 1:
        out.append(Dimension("front", "bottom", 1, tuple((x, 0.0, v0) for x in spots), ("row",) * (len(spots) - 1)))
    return tuple(out)


FAMILY = Family(
    "stiffeners", "Stiffeners", ("web stiffener", "stiffening plate", "rib"), ("station",), SETTINGS, fits, build,
    {
        "fillet-throat": ("weld_leg",), "fillet-leg-least": ("weld_leg",), "fillet-leg-greatest": ("weld_leg",), "fillet-length": ("weld_leg", "snipe"),
        "plate-stock": ("thickness",), "plate-step": ("width",),
    },
)  # fmt: skip
