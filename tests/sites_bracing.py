"""Places of braces that lie along a flange, over it or under it."""

import math
from typing import Any

from site_parts import Members, Site, back_to_back, column, girder, starred

from tincleat.catalogue.sections import section as sized

AT = ((1, "start"),)


def along(section: str, angle: float, carrier: str, off: float = 10.0, over: bool = False, roll: float = 180.0, x0: float = 0.0) -> dict[str, Any]:
    """A brace in plan along a girder's lower (or upper) flange, its face ``off`` mm from it, at an angle to the girder's line."""
    a, shape = math.radians(angle), sized(section)
    deep = {"L": shape.b, "C": shape.b, "FL": shape.tw}[shape.shape] / 2 if roll % 180 == 90 or shape.shape == "FL" else shape.h / 2
    z = 3000 + (1 if over else -1) * (sized(carrier).h / 2 + off + deep)
    return {"section": section, "role": "brace", "start": [x0, 0, z], "end": [x0 + 3000 * math.cos(a), 3000 * math.sin(a), z], "roll_deg": roll}


def flange_gussets() -> list[Site]:
    """Plates on flanges: under and over beams, on columns, one brace and several, packed, straight to the flange."""
    out = []

    def add(name: str, members: Members, at: tuple[tuple[int, str], ...] = AT, inch: bool = False, **typed: Any) -> None:
        out.append(Site(name, members, "flange-gusset", at, typed, inch=inch))

    for carrier in ("HEB 200", "IPE 300", "UB 457x191x67"):
        for angle in (30, 45, 60, 90):
            add(f"plan L 80x80x8 {angle} under {carrier}", [girder(carrier), along("L 80x80x8", angle, carrier)])
    for angle in (-50, 135):
        add(f"plan L 100x100x10 {angle} under HEB 300", [girder("HEB 300"), along("L 100x100x10", angle, "HEB 300", 10.0)])
    for section, roll in (("FL 80x10", 90), ("FL 150x12", 90), ("UPN 120", 270)):
        add(f"plan {section} under HEB 240", [girder("HEB 240"), along(section, 45, "HEB 240", 10.0, roll=roll)])
        add(f"plan {section} over HEB 240", [girder("HEB 240"), along(section, 50, "HEB 240", 10.0, over=True, roll=-roll)])
    for off in (22.0, 35.0, 60.0):
        add(f"plan L 80x80x8 {off:g} off IPE 360", [girder("IPE 360"), along("L 80x80x8", 45, "IPE 360", off)])
    add("plan L 70x70x7 8 off IPE 300", [girder("IPE 300"), along("L 70x70x7", 45, "IPE 300", 8.0)])
    two = [girder("HEB 260"), along("FL 80x10", 45, "HEB 260", roll=90), along("FL 80x10", 135, "HEB 260", roll=90)]
    add("plan for two under HEB 260", two, ((1, "start"), (2, "start")))
    add("plan for four under HEB 260", [*two, along("FL 80x10", -45, "HEB 260", roll=90), along("FL 80x10", -135, "HEB 260", roll=90)], tuple((i, "start") for i in range(1, 5)))
    for section, angle in (("FL 80x10", 90), ("FL 80x10", 60), ("L 80x80x8", 60)):
        add(f"plan {section} straight to HEB 240 {angle}", [girder("HEB 240"), along(section, angle, "HEB 240", 0.0, roll=90 if section[0] == "F" else 180)])
    post = {"section": "HEB 240", "role": "column", "start": [0, 0, 0], "end": [0, 0, 6000]}
    for angle in (40, -40):
        a = math.radians(angle)
        far = [-(120 + 10 + 5), 3000 * math.cos(a), 3000 + 3000 * math.sin(a)]
        add(f"bracing FL 80x10 on a column's flange {angle}", [post, {"section": "FL 80x10", "role": "brace", "start": [-(120 + 10 + 5), 0, 3000], "end": far, "roll_deg": 0}])
    short = {"section": "HEB 240", "role": "beam", "start": [-40, 0, 3000], "end": [4000, 0, 3000]}
    add("plan at the end of HEB 240", [short, along("FL 80x10", 45, "HEB 240", roll=90)])
    add("plan on PFC 260x75x28", [girder("PFC 260x75x28"), along("FL 70x10", 50, "PFC 260x75x28", roll=90)], bolt="M16")
    add("plan oversize", [girder("HEB 240"), along("FL 80x10", 45, "HEB 240", roll=90)], hole="oversize")
    for section, carrier, roll in (("L3X3X3/8", "W12X50", 180), ("L4X4X3/8", "W16X36", 180)):
        add(f"plan {section} under {carrier} inch", [girder(carrier), along(section, 45, carrier, 9.525, roll=roll)], inch=True)
    return out


def stars() -> list[Site]:
    """Starred angles on gussets, up and down, on columns and beams, alone and beside another brace."""
    both = ((1, "start"), (2, "start"))
    out = [Site(f"gusset starred {section} {angle}", [column("UC 203x203x46"), *starred(section, angle, leg, gap)], "bracing-gusset", both) for section, leg, gap in (("L 80x80x8", 80, 10), ("L 100x100x10", 100, 12)) for angle in (35, -48)]
    out.append(Site("gusset starred L 70x70x7 over a beam", [girder("HEB 240"), *starred("L 70x70x7", 55, 70, 10)], "bracing-gusset", both))
    out.append(Site("gusset starred L 60x60x6 M16", [column("HEB 200", 90), *starred("L 60x60x6", 40, 60, 8)], "bracing-gusset", both, {"bolt": "M16", "pitch": (55.0, 55.0)}))
    out.append(Site("gusset starred inch", [column("W8X31"), *starred("L3X3X1/4", 45, 76.2, 9.525)], "bracing-gusset", both, inch=True))
    return out


def stitches() -> list[Site]:
    """Packs between double braces: angles and channels back to back, starred angles, level and sloping, both units."""
    out = []

    def add(name: str, members: Members, at: str = "+1@1000", inch: bool = False, **typed: Any) -> None:
        out.append(Site(name, members, "stitch", ((0, at),), typed, inch=inch))

    for section, leg in (("L 80x80x8", 80), ("L 70x70x7", 70), ("L 100x100x10", 100), ("L 120x120x10", 120)):
        for angle in (0, 35, 72):
            add(f"stitch {section} {angle}", back_to_back(section, angle, leg, 10))
    for section, wide in (("PFC 150x75x18", 75), ("PFC 200x75x23", 75)):
        for angle in (0, 40):
            add(f"stitch {section} {angle}", back_to_back(section, angle, wide, 12))
    for gap in (6, 8, 15, 20):
        add(f"stitch L 90x90x9 {gap} apart", back_to_back("L 90x90x9", 30, 90, gap))
    for section, leg in (("L 80x80x8", 80), ("L 100x100x10", 100)):
        for angle in (0, 50):
            add(f"stitch starred {section} {angle}", starred(section, angle, leg, 10))
    for typed in ({"pitch": (70.0,)}, {"gauge": 50.0}, {"length": 120.0}, {"inside": 0.0}, {"bolt": "M16"}):
        add(f"stitch L 100x100x10 {typed}", back_to_back("L 100x100x10", 45, 100, 10), **typed)
    add("stitch L3X3X1/4 inch", back_to_back("L3X3X1/4", 45, 76.2, 9.525), "+1@40", inch=True)
    add("stitch L4X4X3/8 inch", back_to_back("L4X4X3/8", 0, 101.6, 9.525), "+1@40", inch=True)
    add("stitch starred inch", starred("L4X4X3/8", 30, 101.6, 9.525), "+1@40", inch=True)
    return out
