"""A family of one's own: a lifting lug on the top flange of a beam, at any station of it.

Copy this file into a folder, name the folder once (All actions: "Own families…", or `tincleat --own-families FOLDER …`), and the lug is
placed, drawn, proved, listed and exported like every other connection.  Everything is in millimetres.  The frame of a station: origin on
the member's middle line, x along it, z up its depth.
"""

from tincleat.details.parts import Detail, Dimension, Hole, Plate
from tincleat.errors import NoFit
from tincleat.families.declare import STEEL_GRADES, Family, Given, Setting
from tincleat.families.example import a_girder, at_station
from tincleat.geometry.frames import Frame
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case
from tincleat.kit.weld import both_sides
from tincleat.project.entities import HouseRules

# name, label, kind, group, default, help, least, greatest; a default of None is worked out in build()
SETTINGS = (
    Setting("pin", "Hole for the shackle", "length", "Lug", 36.0, "Diameter of the hole.", 10, 150, inches=38.1),
    Setting("thickness", "Thickness", "length", "Lug", 20.0, "Thickness of the lug.", 6, 80, inches=19.05),
    Setting("cheek", "Steel round the hole", "length", "Lug", None, "From the hole to the edge; as wide as the hole if not typed.", 10, 200),
    Setting("rise", "Hole over the flange", "length", "Lug", None, "From the flange to the middle of the hole.", 20, 400),
    Setting("grade", "Grade", "choice", "Lug", lambda h: h.plate_grade, "Steel grade of the lug.", choices=STEEL_GRADES),
    Setting("weld_leg", "Weld leg", "length", "Weld", None, "Fillets on both faces of the lug.", 3, 30),
)


def fits(case: Case, house: HouseRules) -> None:
    """Refuse, in the place's own figures, what a lug cannot stand on."""
    shape = case.members[0].shape
    if case.kind != "station" or shape.shape not in ("I", "C"):
        raise NoFit(f"a lifting lug stands on the flange of a beam; {shape.name} is a {shape.shape} section", right="an I-section or channel, at a station")


def build(case: Case, given: Given) -> Detail:
    """One plate with a round head, in the plane of the web, two fillets under it."""
    member = case.members[0]
    pin, t = float(given.value("pin")), float(given.value("thickness"))
    cheek = float(given.worked_out("cheek", pin))
    rise = float(given.worked_out("rise", 1.5 * pin + cheek))
    leg = given.rounded("weld_leg", max(0.5 * t, 6.0), "weld leg")
    half, top = pin / 2 + cheek, member.shape.h / 2
    if t + 2 * leg > member.shape.b:
        raise NoFit(f"{member.shape.name} has a flange {member.shape.b:.0f} mm wide; the lug with its fillets takes {t + 2 * leg:.0f} mm")
    if rise < half:
        raise NoFit(f"the head of the lug, {half:.0f} mm about its hole, would reach under the flange", right=f"a hole at least {half:.0f} mm over it")
    # corner by corner with the radius at each: square at the foot, round at the head
    outline = Outline.rounded([(-half, 0.0), (half, 0.0), (half, rise + half), (-half, rise + half)], [0.0, 0.0, half - 0.01, half - 0.01])
    # the plate lies in its own x and y and rises along its z: here x along the beam, y up, z across
    frame = Frame((0.0, t / 2, top), (1.0, 0.0, 0.0), (0.0, -1.0, 0.0))
    plate = Plate("lug", outline, t, frame, str(given.value("grade")), (Hole(0.0, rise, pin, pin, 0.0, "vent"),), ("", ""))  # a vent takes no bolt
    run = [(-half, 0.0, top), (half, 0.0, top)]
    welds = both_sides("lug to flange", leg, run, (0.0, 1.0, 0.0), t, (0.0, 0.0, 1.0), ("member", "lug"))
    # where each number is written and which setting it edits
    shown = (
        Dimension("front", "right", 0, ((half, 0.0, top), (half, 0.0, top + rise), (half, 0.0, top + rise + half)), ("rise", "")),
        Dimension("front", "top", 0, ((-half, 0.0, top + rise), (-pin / 2, 0.0, top + rise), (pin / 2, 0.0, top + rise), (half, 0.0, top + rise)), ("cheek", "pin", "")),
    )
    return Detail("lifting lug", (plate,), (), tuple(welds), dimensions=shown, numbers=tuple(given.numbers.values()))


# which settings a finding may be mended by, by rule
FAMILY = Family("lifting-lug", "Lifting lug", ("shackle", "eye", "padeye"), ("station",), SETTINGS, fits, build, {"fillet-leg-least": ("weld_leg",), "plate-stock": ("thickness",)}, situations=("loose",), example=at_station(a_girder("HEA 240")))
