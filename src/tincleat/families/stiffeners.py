"""Stiffeners: plates between a member's flanges at a station, on both sides of its web or on one.

Joint frame: origin on the member's middle line at the station, x along the member, z along its depth.
"""

from tincleat.details.parts import Detail, Dimension, Plate, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import STEEL_GRADES, Family, Given, Setting
from tincleat.families.example import a_girder, at_station
from tincleat.geometry.frames import vec
from tincleat.joints.case import Case
from tincleat.kit.layout import from_first
from tincleat.kit.stiffen import TO_THE_EDGE, beside_web, room_beside, sides_of, stiffener
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
    shape = member.shape
    t = float(given.value("thickness"))
    leg = given.rounded("weld_leg", min(max(0.5 * t, 3.175 if house.inch else 4.0), shape.tw if shape.tw > 4 else 4.0), "weld leg")
    wanted = {"near side": (-1.0,), "far side": (1.0,), "both sides": (-1.0, 1.0)}[str(given.value("sides"))]
    upright = 1.0 if member.frame.y[1] > 0 else -1.0  # which way the section's own y lies in the joint
    sides = sides_of(shape, tuple(s * upright for s in wanted))
    usual = given.rounded("width", room_beside(shape), "stiffener")
    width, snipe = beside_web(shape, leg, usual, house)
    if width != usual:
        width = float(given.fitted("width", width, TO_THE_EDGE))
    snipe = float(given.worked_out("snipe", snipe))
    height, lower = float(given.value("height")), given.value("stands") == "on the bottom flange"
    if height and height > shape.h - 2 * shape.tf:
        raise NoFit(f"{height:.0f} mm is more than the {shape.h - 2 * shape.tf:.0f} mm between the flanges of {shape.name}")
    if height and height < snipe + 20.0:
        raise NoFit(f"a partial stiffener {height:.0f} mm high is little more than its snipe of {snipe:.0f} mm", right=f"at least {snipe + 20.0:.0f} mm")
    row = given.value("row")
    if sum(row) > MOST_ROW:
        raise NoFit(f"the row is {sum(row):.0f} mm long", right=f"at most {MOST_ROW:.0f} mm; further ones at a station of their own")
    # a partial one is measured in the joint, where a member that was drawn the other way round may lie upside down
    below = lower == (member.frame.z[2] > 0)
    half = shape.h / 2 - shape.tf
    top, bottom = (None, None) if not height else ((height - half, None) if below else (None, half - height))
    plates: list[Plate] = []
    welds: list[Weld] = []
    spots = from_first(0.0, row)
    along = 1.0 if member.frame.x[0] > 0 else -1.0
    for number, x in enumerate(spots, 1):
        for side in sides:
            name = "stiffener" if len(spots) * len(sides) == 1 else f"stiffener {number}" + ("" if len(sides) == 1 else " near" if side * upright < 0 else " far")
            plate, some = stiffener(shape, member.frame.moved(x=x * along), side, name, "member", str(given.value("grade")), t, width, snipe, leg, top, bottom)
            plates.append(plate)
            welds += some
    return Detail("stiffeners", tuple(plates), (), tuple(welds), dimensions=_dimensions(plates, spots, t), numbers=tuple(given.numbers.values()))


def _dimensions(plates: list[Plate], spots: list[float], t: float) -> tuple[Dimension, ...]:
    first = plates[0]
    u0, v0, u1, v1 = first.outline.bounds
    (a, b, c, d) = (vec(p) for p in first.frame.to_world([(u0, v0, t / 2), (u1, v0, t / 2), (u1, v1, t / 2), (u0, v0, 0.0)]))
    out = [
        Dimension("side", "bottom", 0, (a, b), ("width",)),
        Dimension("side", "right", 0, (c, b), ("height",)),
        Dimension("front", "bottom", 0, (d, first.frame.point((u0, v0, t))), ("thickness",)),
    ]
    if len(spots) > 1:
        out.append(Dimension("front", "bottom", 1, tuple((x, a[1], a[2]) for x in spots), ("row",) * (len(spots) - 1)))
    return tuple(out)


FAMILY = Family(
    "stiffeners", "Stiffeners", ("web stiffener", "stiffening plate", "rib"), ("station",), SETTINGS, fits, build,
    {
        "fillet-throat": ("weld_leg",), "fillet-leg-least": ("weld_leg",), "fillet-leg-greatest": ("weld_leg",), "fillet-length": ("weld_leg", "snipe"),
        "plate-stock": ("thickness",), "plate-step": ("width",),
    },
    situations=("loose",), example=at_station(a_girder("IPE 300")),
)  # fmt: skip
