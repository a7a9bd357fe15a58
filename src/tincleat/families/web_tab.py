"""A tab on a column's flange, bolted to the web of a beam whose flanges are joined otherwise: its settings and its parts."""

from dataclasses import dataclass

from tincleat.details.parts import Bolts, Hole, Plate, Weld
from tincleat.families.declare import BOLT_GRADES, BOLT_SIZES, STEEL_GRADES, Given, Setting, bolt_choice
from tincleat.families.shear import BeamEnd, web_rows
from tincleat.geometry.frames import Frame, Vec3
from tincleat.geometry.outline import Outline
from tincleat.kit.weld import fillet
from tincleat.steel.cuts import MemberHole

SIDES = {"near side": -1.0, "far side": 1.0}

TAB = (
    Setting("sides", "Tab on", "choice", "Web", "near side", "Which side of the web the tab lies on.", choices=("near side", "far side"), handed=True),
    Setting("tab_thickness", "Tab thickness", "length", "Web", 10.0, "Thickness of the tab.", 5, 60, inches=9.525),
    Setting("tab_height", "Tab height", "length", "Web", None, "Worked out from the rows if not typed.", 40, 3000),
    Setting("tab_width", "Tab width", "length", "Web", None, "From the column; worked out from the bolts and rounded if not typed.", 30, 1000),
    Setting("tab_grade", "Grade", "choice", "Web", lambda h: h.plate_grade, "Steel grade of tab, other plates and stiffeners.", choices=STEEL_GRADES),
    Setting("tab_weld", "Tab weld leg", "length", "Web", None, "Fillets on both faces of the tab; worked out from its thickness.", 3, 30),
    Setting("bolt", "Bolt", "choice", "Bolts", bolt_choice, "Size of the bolts.", choices=BOLT_SIZES),
    Setting("bolt_grade", "Bolt grade", "choice", "Bolts", lambda h: h.bolt_grade, "Strength class of the bolts.", choices=BOLT_GRADES),
    Setting("pitch", "Row pitch", "spacings", "Bolts", None, "Spacings between bolt rows; worked out from the clear web if not typed.", 0, 2000),
    Setting("row_place", "Rows sit", "choice", "Bolts", "in the clear web", "In the middle of the clear web, the first a round distance from the top of the beam (3 in where there is room); centred on the beam's axis; or from a distance that is typed.",
            choices=("in the clear web", "on the beam axis", "from the top")),
    Setting("top_distance", "Top of beam to first row", "length", "Bolts", None, "Used when rows start from the top.", 20, 2000),
    Setting("end_distance", "Tab end distance", "length", "Bolts", 40.0, "From the outer rows to the tab's upper and lower edge.", 15, 300, inches=38.1),
    Setting("edge_distance", "Tab edge distance", "length", "Bolts", 40.0, "From the bolts to the tab's free edge.", 15, 300, inches=38.1),
    Setting("beam_end_distance", "Beam end distance", "length", "Bolts", 40.0, "From the beam's end to the bolts.", 15, 300, inches=38.1),
)  # fmt: skip


@dataclass(frozen=True)
class Tab:
    """The tab, its two fillets, its bolts with their holes in the web; the rows' heights, their line, and its lower edge, upper edge and width."""

    plate: Plate
    seams: tuple[Weld, ...]
    bolts: Bolts
    holes: tuple[MemberHole, ...]
    rows: tuple[float, ...]
    line: float
    low: float
    top: float
    width: float
    face: float
    side: float

    @property
    def outer(self) -> float:
        """The y of its face away from the web."""
        return self.face + self.side * self.plate.thickness


def weld_of_tab(given: Given) -> float:
    """Leg of the tab's fillets, mm."""
    return given.rounded("tab_weld", float(given.value("tab_thickness")) * (0.625 if given.house.rule_set == "AISC" else 0.8), "weld leg")


def web_tab(given: Given, sizes: BeamEnd, zone: tuple[float, float], gap: float, bolt: str, end: float, between: str) -> Tab:
    """A tab on the web between two heights of ``zone``, of a beam that ends ``gap`` from the column; ``between`` words what bounds the zone."""
    house = given.house
    t, grade = float(given.value("tab_thickness")), str(given.value("tab_grade"))
    leg = weld_of_tab(given)
    rows, raw = web_rows(given, sizes, bolt, end, t, zone)
    side = SIDES[str(given.value("sides"))]
    face = sizes.at + side * sizes.web.thickness / 2
    line = gap + float(given.value("beam_end_distance"))
    width = given.rounded("tab_width", line + float(given.value("edge_distance")), "plate width")
    height = given.rounded("tab_height", raw, "plate length")
    if height > zone[1] - zone[0] and not given.has("tab_height"):
        height = float(given.fitted("tab_height", raw, f"{between} there are {zone[1] - zone[0]:.0f} mm"))
    middle = (rows[0] + rows[-1]) / 2
    low, top = middle - height / 2, middle + height / 2
    wide, _ = house.hole(bolt, "normal")
    at = Frame((0.0, face if side < 0 else face + t, 0.0), (1.0, 0.0, 0.0), (0.0, -1.0, 0.0))
    faces = sorted((face, face + side * t))
    # a beam that slopes meets a plumb face askew; one that comes askew in plan stands on it with the nearer face of its tab
    foot, head = (max(sizes.face(y, z) for y in faces) for z in (low, top))
    outline = Outline(((foot, low, 0.0), (width, low, 0.0), (width, top, 0.0), (head, top, 0.0)))
    plate = Plate("tab", outline, t, at, grade, tuple(Hole(line, z, wide, wide) for z in rows), ("plate width", "plate length"))
    seams = [
        fillet(f"tab fillet, {words} side", leg, (sizes.face(y, low), y, low), (sizes.face(y, top), y, top), (sizes.face(y + s, low) - sizes.face(y, low), s, 0.0), (1.0, 0.0, 0.0), ("supporting member", "tab"))
        for y, s, words in zip(faces, (-1.0, 1.0), ("near", "far"), strict=True)
    ]
    points: tuple[Vec3, ...] = tuple((line, sizes.at, z) for z in rows)
    bolts = Bolts("bolts", bolt, str(given.value("bolt_grade")), points, (0.0, -side, 0.0), (0.0, 0.0, 1.0))
    holes = tuple(MemberHole(0, "web", p, (0.0, 1.0, 0.0), wide, wide, (1.0, 0.0, 0.0)) for p in points)
    return Tab(plate, tuple(seams), bolts, holes, tuple(rows), line, low, top, width, face, side)
