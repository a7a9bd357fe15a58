"""A table of places to join: kinds, sections, skews, slopes, rolls, hands and units, for every family.

Each site stands by itself; ``at`` names the member's number and end, a station on it, the member it lies over, or a row's others and
the station on it (``+1+2@3000``).
``breaks`` are rules that are known to be broken there with default settings, and why.
"""

import itertools
import math
from typing import Any

from site_parts import Members, Site, back_to_back, beam, brace, column, girder, place_name, rafter
from sites_bracing import flange_gussets, stars, stitches
from sites_feet import feet, heads, posts_beside, slab_sides, stringers, walls
from sites_loose import loose_parts
from sites_sheds import slab_heads, trimmers

from tincleat.catalogue.sections import section as sized

__all__ = ["SITES", "Members", "Site", "back_to_back", "beam", "brace", "column", "girder", "place_name", "rafter"]

END = ((1, "end"),)


def _fin() -> list[Site]:
    out = []
    for section in ("IPE 200", "IPE 300", "UB 305x165x40", "UB 457x191x67", "HEA 240"):
        for skew in (-40, -20, 0, 12, 31):
            for slope in (0, 12, -20):
                out.append(Site(f"fin {section} skew {skew} slope {slope}", [column("HEB 300"), beam(section, skew, slope)], "fin-plate", END))
    for section in ("IPE 200", "UB 203x133x25", "UB 305x165x40"):
        for skew in (0, 20, -25):
            out.append(Site(f"fin {section} column web skew {skew}", [column("HEB 300", 90), beam(section, skew)], "fin-plate", END))
    for support in ("UB 457x191x67", "HEB 300", "IPN 300", "PFC 300x100x46", "UPN 300"):
        for section in ("IPE 200", "UB 203x133x25", "IPE 220"):
            for skew in (90, -90, 70):
                for slope in (0, 6):
                    out.append(Site(f"fin {section} on {support} skew {skew} slope {slope}", [girder(support), beam(section, skew, slope, 40)], "fin-plate", END))
    out.append(Site("fin UB 203x133x25 flush", [girder("UB 305x165x40"), beam("UB 203x133x25", 90, 0, 50)], "fin-plate", END))
    for sides in ("far side", "both sides"):
        out.append(Site(f"fin {sides}", [column("UC 203x203x60"), beam("UB 305x165x46", flipped=True)], "fin-plate", ((1, "start"),), {"sides": sides}))
    out.append(Site("fin on a square tube", [column("SHS 200x200x8"), beam("IPE 240")], "fin-plate", END))
    out.append(Site("fin channel beam", [column("HEB 300"), beam("PFC 200x75x23")], "fin-plate", END))
    out.append(Site("fin offset beam", [column("HEB 300", 90), beam("IPE 200", offset=[60, 0])], "fin-plate", END))
    for section in ("W10X22", "W14X22", "W16X36", "W21X44"):
        out.append(Site(f"fin {section} inch", [column("W12X65"), beam(section)], "fin-plate", END, inch=True))
        out.append(Site(f"fin {section} on a girder, inch", [girder("W24X55"), beam(section, 90, 0, 20)], "fin-plate", END, inch=True))
    return out


def _cleats() -> list[Site]:
    out = []
    for section in ("IPE 200", "IPE 300", "UB 305x165x40", "UB 457x191x67"):
        for slope in (0, 10, -15):
            for typed in ({}, {"sides": "near side"}, {"to_beam": "welded"}, {"to_support": "welded"}):
                out.append(Site(f"cleats {section} slope {slope} {typed}", [column("HEB 300"), beam(section, 0, slope)], "angle-cleats", END, typed))
    for support in ("UB 457x191x67", "IPE 400"):
        for section in ("IPE 200", "UB 203x133x25"):
            out.append(Site(f"cleats {section} on {support}", [girder(support), beam(section, 90, 0, 40)], "angle-cleats", END))
            members = [girder(support), beam(section, 90, 0, 40), beam("IPE 240", -90, 0, 40)]
            out.append(Site(f"cleats {section} both sides of {support}", members, "angle-cleats", ((1, "end"), (2, "end"))))
    for section in ("HEB 120", "IPE 120"):
        for slope in (-15, 8, 20):
            out.append(Site(f"cleats {section} slope {slope} on a channel", [girder("UPN 260"), beam(section, 90, slope)], "angle-cleats", END))
    for slope in (4, 10, -6):  # roof beams that fall, at the heads of their columns: the head ends where it was drawn
        for family, height in itertools.product(("fin-plate", "angle-cleats"), (3000, 3160)):
            out.append(Site(f"{family} slope {slope} at a column's head {height}", [column("UC 254x254x73", 0, height), beam("UB 305x165x40", 0, slope)], family, END))
        out.append(Site(f"fin-plate {slope} at a column's head, inch", [column("W10X49", 0, 3180), beam("W14X22", 0, slope)], "fin-plate", END, inch=True))
    # what the columns' ends and tapered flanges ask for
    out.append(Site("cleats under a column's end", [column("UC 254x254x73", 0, 3100), beam("UB 406x178x67")], "angle-cleats", END))
    out.append(Site("fin under a column's end", [column("UC 254x254x73", 0, 3100), beam("UB 406x178x67")], "fin-plate", END))
    out.append(Site("seat under a column's end", [column("UC 254x254x73", 0, 3210), beam("UB 305x165x40")], "seat-cleat", END))
    out.append(Site("seat on a tapered flange", [column("IPN 450"), beam("UB 203x133x25")], "seat-cleat", END, {"bolt": "M16"}))
    out.append(Site("moment under a column's end", [column("UC 254x254x73", 0, 3206), beam("UB 406x178x60")], "welded-moment", END))
    for section in ("IPN 380", "ISMB 600", "ISWB 400"):
        out.append(Site(f"base of tapered flanges {section}", [column(section)], "base-plate", ((0, "start"),)))
    out.append(Site("cleats UB 203x133x25 flush", [girder("UB 305x165x40"), beam("UB 203x133x25", 90, 0, 50)], "angle-cleats", END))
    for support in ("UC 203x203x46", "UC 254x254x73"):
        web = column(support, 90)
        out.append(Site(f"cleats on the web of {support}", [web, beam("UB 305x165x40")], "angle-cleats", END))
        out.append(Site(f"cleats on both sides of the web of {support}", [web, beam("UB 305x165x40"), {**beam("UB 254x146x31"), "start": [-4000, 0, 3000]}], "angle-cleats", ((1, "end"), (2, "end"))))
        out.append(Site(f"seat on the web of {support}", [web, beam("UB 203x133x25")], "seat-cleat", END))
        out.append(Site(f"end plate on the web of {support}", [web, beam("UB 305x165x40")], "end-plate", END))
    out.append(Site("cleats on a web inch", [column("W10X49", 90), beam("W12X26")], "angle-cleats", END, inch=True))
    out.append(Site("cleats column web", [column("HEB 300", 90), beam("IPE 300")], "angle-cleats", END))
    for section in ("W14X22", "W16X36"):
        out.append(Site(f"cleats {section} inch", [column("W12X65"), beam(section)], "angle-cleats", END, inch=True))
    return out


def _end_plates() -> list[Site]:
    out = []
    for section in ("IPE 240", "IPE 300", "UB 305x165x46"):
        for form in ("flush", "past the top", "past both flanges"):
            for skew, slope in ((0, 0), (0, 8), (8, 0), (-8, -8)):
                out.append(Site(f"end plate {section} {form} {skew} {slope}", [column("HEB 300"), beam(section, skew, slope)], "end-plate", END, {"shape": form}))
        out.append(Site(f"end plate {section} partial", [column("HEB 300", 90), beam(section)], "end-plate", END))
        out.append(Site(f"end plate {section} on a girder", [girder("UB 533x210x92"), beam(section, 90, 0, 60)], "end-plate", END))
    whole = {"column_stiffeners": "top and bottom", "doubler": "both sides", "backing": 10.0, "pack": 5.0}
    out.append(Site("end plate with all of the column's plates", [column("HEB 300"), beam("IPE 300")], "end-plate", END, whole))
    out.append(Site("end plate over a haunch", [column("HEB 300"), beam("IPE 300")], "end-plate", END, {"haunch_depth": 200.0}))
    for slope in (4, 9, 17):
        members = [column("UB 406x178x60"), rafter("UB 356x171x45", slope)]
        out.append(Site(f"knee {slope}", members, "end-plate", ((1, "start"),)))
        pair = [rafter("UB 356x171x45", slope), rafter("UB 356x171x45", slope, -1.0, 14000.0)]
        out.append(Site(f"apex {slope}", pair, "end-plate", ((0, "end"),)))
        out.append(Site(f"apex {slope} with a haunch", pair, "end-plate", ((0, "end"),), {"haunch_depth": 200.0}))
    two = [{**girder("IPE 300"), "end": [0, 0, 3000]}, {**girder("IPE 300"), "start": [0, 0, 3000]}]
    out.append(Site("splice", two, "end-plate", ((0, "end"),)))
    for section in ("W14X22", "W16X36"):
        out.append(Site(f"end plate {section} inch", [column("W12X65"), beam(section)], "end-plate", END, {"shape": "past both flanges"}, inch=True))
    return out


def _gussets() -> list[Site]:
    out = [Site("end plate IPN 300 flush", [column("HEB 300"), beam("IPN 300")], "end-plate", END)]  # its flanges taper: inner welds follow them
    for section, roll in (("CHS 88.9x5", 0), ("SHS 80x80x5", 0), ("L 80x80x8", 0), ("L 80x80x8", 90), ("FL 80x10", 0), ("CHS 139.7x6.3", 0)):
        for angle in (30, 45, 60, -40):
            for turn in (0, 90):
                out.append(Site(f"gusset {section} {roll} at {angle} on {turn}", [column("UC 203x203x46", turn), brace(section, angle, roll=roll)], "bracing-gusset", ((1, "start"),)))
    for carrier, off in (("UB 305x165x46", 82.0), ("UB 406x178x60", 130.0), ("UB 457x191x67", -120.0), ("HEA 300", 70.0)):
        for section in ("L 80x80x8", "CHS 88.9x5"):  # level, under the top flange or over the bottom one, on a plate that stands on the web
            plan = {"section": section, "role": "brace", "start": [0, 0, 3000 + off], "end": [2200, 2500, 3000 + off]}
            out.append(Site(f"plan gusset {section} {off:g} off the middle of {carrier}", [girder(carrier), plan], "bracing-gusset", ((1, "start"),)))
    two = [column("UC 203x203x46"), brace("CHS 88.9x5", 40), brace("CHS 88.9x5", -40)]
    out.append(Site("gusset for two on a column", two, "bracing-gusset", ((1, "start"), (2, "start"))))
    under = [girder("UB 305x165x40"), brace("CHS 88.9x5", -45), brace("CHS 88.9x5", -45, side=-1.0)]
    out.append(Site("gusset under a beam", under, "bracing-gusset", ((1, "start"), (2, "start"))))
    corner = [column("UC 203x203x46"), {**girder("UB 305x165x40"), "start": [0, 0, 3000]}, brace("CHS 88.9x5", -45)]
    out.append(Site("gusset in a corner", corner, "bracing-gusset", ((2, "start"),)))
    for way in (1.0, -1.0):
        out.append(Site(f"gusset beside a beam that leaves its plane {way:g}", [column("UC 203x203x60"), {**girder("UB 457x191x67"), "start": [0, 0, 3000], "end": [0, 4000 * way, 3000]}, brace("CHS 114.3x5", -32, z0=3060)], "bracing-gusset", ((2, "start"),)))
    for carrier in ("UB 305x165x40", "PFC 300x100x46", "HEA 240"):
        for angle in (-45, 45):
            pair = [girder(carrier), brace("CHS 88.9x5", angle), brace("CHS 88.9x5", angle, side=-1.0)]
            out.append(Site(f"gusset at the middle of {carrier} {angle} stiffened", pair, "bracing-gusset", ((1, "start"), (2, "start")), {"stiffeners": True}))
    for section, turn in (("HEA 160", 0), ("UC 203x203x46", 0), ("IPE 200", 90), ("UB 254x146x31", 0)):
        for angle in (40, -50):
            for side in ("near side", "far side"):
                out.append(Site(f"gusset I {section} {angle} on {turn} {side}", [column("HEB 240", turn), brace(section, angle)], "bracing-gusset", ((1, "start"),), {"side": side}))
    for section in ("WT5X15", "WT6X20"):
        for turn in (0, 90):
            for angle in (40, -35):
                for roll in (90, -90):
                    out.append(Site(f"gusset tee brace {section} {angle} on {turn} rolled {roll}", [column("W12X65", turn), brace(section, angle, roll=roll)], "bracing-gusset", ((1, "start"),), inch=True))
    out.append(Site("gusset I W8X31 inch", [column("W12X65"), brace("W8X31", 45)], "bracing-gusset", ((1, "start"),), inch=True))
    out.append(Site("gusset inch", [column("W8X31"), brace("L3X3X1/4", 45)], "bracing-gusset", ((1, "start"),), inch=True))
    for post, bar, turn in (("HEB 200", "L 80x80x8", 6.0), ("HEB 200", "SHS 80x80x5", -12.0), ("SHS 200x200x8", "L 80x80x8", 9.0), ("UC 203x203x46", "UPN 120", 98.0)):
        out.append(Site(f"gusset {bar} on {post} turned {turn:g}", [column(post, turn), brace(bar, 45)], "bracing-gusset", ((1, "start"),)))
    out.append(Site("gusset in a corner askew", [column("HEB 200", 8.0), {**girder("IPE 300"), "start": [0, 0, 3000]}, brace("L 80x80x8", 40)], "bracing-gusset", ((2, "start"),)))
    out.append(Site("gusset turned inch", [column("W8X31", 10.0), brace("L3X3X1/4", 45)], "bracing-gusset", ((1, "start"),), inch=True))
    for section, leg in (("L 80x80x8", 80), ("L 120x80x10", 80), ("PFC 150x75x18", 75)):
        for gap in (10, 12):
            for angle in (35, -50):
                out.append(Site(f"gusset double {section} {gap} {angle}", [column("UC 203x203x46"), *back_to_back(section, angle, leg, gap)], "bracing-gusset", ((1, "start"), (2, "end"))))
    out.append(Site("gusset double inch", [column("W8X31"), *back_to_back("L3X3X1/4", 45, 76.2, 9.525)], "bracing-gusset", ((1, "start"), (2, "end")), inch=True))
    for section in ("CHS 114.3x5", "SHS 100x100x5", "RHS 120x80x5"):
        for side in ("near side", "far side"):
            for turn in (0, 90):
                typed = {"tube_end": "tee", "side": side}
                out.append(Site(f"gusset tee {section} {side} {turn}", [column("UC 203x203x46", turn), brace(section, 40)], "bracing-gusset", ((1, "start"),), typed))
    for section, angle, turn, roll, typed in (
        ("CHS 88.9x5", 40, 0.0, 0.0, {}), ("CHS 88.9x5", 40, 90.0, 0.0, {"side": "far side"}), ("CHS 114.3x6.3", 55, 0.0, 30.0, {}), ("CHS 48.3x3.2", 35, 90.0, 0.0, {"bolt": "M16"}),
        ("CHS 168.3x8", 45, 0.0, 0.0, {}), ("CHS 76.1x4", 40, 0.0, 0.0, {"flat": 230.0, "taper": 150.0, "pitch": [70.0, 70.0]}),
    ):
        out.append(Site(f"gusset pressed flat {section} {angle} {turn} {roll} {typed}", [column("UC 203x203x46", turn), brace(section, angle, roll=roll)], "bracing-gusset", ((1, "start"),), {"tube_end": "flattened", **typed}))
    out.append(Site("gusset pressed flat inch", [column("W8X31"), brace("HSS4.500X0.237", 40)], "bracing-gusset", ((1, "start"),), {"tube_end": "flattened"}, inch=True))
    out.append(Site("gusset tee inch", [column("W8X31"), brace("HSS4X4X1/4", 40)], "bracing-gusset", ((1, "start"),), {"tube_end": "tee"}, inch=True))
    for section in ("L 80x80x8", "FL 100x10", "PFC 150x75x18"):
        for angle in (45, 35):
            halves = [passing(section, angle), half(section, angle, 1.0), half(section, angle, -1.0)]
            if section != "FL 100x10":  # backs to one plane, bars run the same way round
                halves[1], halves[2] = half(section, angle, 1.0), half(section, angle, -1.0, roll=180.0)
            # the least plate round a sharp cross leaves the outer of two lines a little too far from its end
            breaks = frozenset({"edge-greatest"}) if (section, angle) == ("PFC 150x75x18", 35) else frozenset()
            out.append(Site(f"gusset at a cross {section} {angle}", halves, "bracing-gusset", ((1, "start"), (2, "start")), breaks=breaks))
    for through, section in (("SHS 100x100x5", "SHS 80x80x5"), ("CHS 114.3x5", "CHS 88.9x5")):
        out.append(Site(f"gusset on a passing {through}", [passing(through, 45), half(section, 45, 1.0)], "bracing-gusset", ((1, "start"),)))
    return out


def _rods() -> list[Site]:
    """Round bars with forks on gussets, and turnbuckles in them."""
    out = []
    for section in ("RD 12", "RD 16", "RD 20", "RD 24", "RD 30", "RD 36"):
        for angle, turn in ((40, 0), (-35, 90), (60, 0)):
            out.append(Site(f"rod {section} at {angle} on {turn}", [column("HEB 200", turn), brace(section, angle)], "bracing-gusset", ((1, "start"),)))
    out.append(Site("rod RD 20 in a corner", [column("HEB 200"), {**girder("IPE 300"), "start": [0, 0, 3000]}, brace("RD 20", 40)], "bracing-gusset", ((2, "start"),)))
    out.append(Site("rods RD 24 for two on a column", [column("HEB 200"), brace("RD 24", 40), brace("RD 16", -45)], "bracing-gusset", ((1, "start"), (2, "start")), {"thickness": 12.0}))
    out.append(Site("rod RD 20 wide fork", [column("HEB 200"), brace("RD 20", 45)], "bracing-gusset", ((1, "start"),), {"fork_width": 65.0, "fork_cheek": 12.0, "fork_play": 1.0}))
    for section in ("RD3/4", "RD1", "RD1-1/4"):
        out.append(Site(f"rod {section} inch", [column("W10X33"), brace(section, 45)], "bracing-gusset", ((1, "start"),), inch=True))
    for section in ("RD 10", "RD 12", "RD 16", "RD 20", "RD 24", "RD 30", "RD 36"):
        for angle in (35, -50):
            out.append(Site(f"turnbuckle {section} at {angle}", [brace(section, angle)], "turnbuckle", ((0, "@1200"),)))
    for typed in ({"opening": 250.0}, {"gap": 20.0}, {"nut": 60.0}, {"across": 50.0}, {"opening": 80.0, "gap": 80.0}):
        out.append(Site(f"turnbuckle RD 20 {typed}", [brace("RD 20", 30)], "turnbuckle", ((0, "@900"),), typed))
    for section in ("RD 16", "RD 24"):
        level = {"section": section, "role": "brace", "start": [0, 0, 0], "end": [0, 3000, 0]}
        plumb = {"section": section, "role": "brace", "start": [0, 0, 0], "end": [0, 0, 3000]}
        out.append(Site(f"turnbuckle {section} level", [level], "turnbuckle", ((0, "@1000"),)))
        out.append(Site(f"turnbuckle {section} plumb", [plumb], "turnbuckle", ((0, "@1000"),)))
    for section in ("RD5/8", "RD1"):
        out.append(Site(f"turnbuckle {section} inch", [brace(section, 45)], "turnbuckle", ((0, "@48"),), inch=True))
    return out


def passing(section: str, angle: float) -> dict[str, Any]:
    t = math.radians(angle)
    x, z = 3000 * math.cos(t), 3000 * math.sin(t)
    return {"section": section, "role": "brace", "start": [-x, 0, 3000 - z], "end": [x, 0, 3000 + z]}


def half(section: str, angle: float, side: float, roll: float = 0.0) -> dict[str, Any]:
    t = math.radians(angle)
    return {"section": section, "role": "brace", "start": [0, 0, 3000], "end": [side * 3000 * math.cos(t), 0, 3000 - side * 3000 * math.sin(t)], "roll_deg": roll}


def lapping(section: str, lap: float, slope: float = 0.0) -> list[dict[str, Any]]:
    """A rafter and two zeds that lie in each other over it, each ``lap`` past it: the second turned over, its web one sheet aside and its top
    one under the first's."""
    s, t = sized(section), math.radians(slope)
    way, out = (0.0, math.cos(t), math.sin(t)), (0.0, -math.sin(t), math.cos(t))
    under = {"section": "UB 356x171x45", "role": "rafter", "start": [-4000 * v for v in way], "end": [4000 * v for v in way]}
    aside = 2 * s.narrow - s.b  # the web lies narrow - (b + t) / 2 off the box's middle, the other's as far the other way: 2 narrow - b - t, and t

    def zed(x0: float, x1: float, y: float, z: float, turned: bool) -> dict[str, Any]:
        half = s.h / 2
        a, b = ([x, *(way[i] * y + out[i] * (175.7 + half + z) for i in (1, 2))] for x in (x0, x1))
        return {"section": section, "role": "purlin", "start": a, "end": b, "roll_deg": slope + (180.0 if turned else 0.0)}

    return [under, zed(-4000, lap, 0.0, s.tw, False), zed(-lap, 4000, aside, 0.0, True)]


def _others() -> list[Site]:
    out = []
    for section in ("IPE 300", "HEB 200", "IPN 300", "UB 457x191x67", "PFC 300x100x46", "UPN 200"):
        for typed in ({}, {"row": [200.0, 150.0]}, {"height": 80.0}, {"height": 80.0, "stands": "on the bottom flange"}):
            out.append(Site(f"stiffeners {section} {typed}", [girder(section)], "stiffeners", ((0, "@2500"),), typed))
    out.append(Site("stiffeners inch", [girder("W16X36")], "stiffeners", ((0, "@100"),), inch=True))
    for section in ("PFC 150x75x18", "UPN 160", "Z 200x65x20x2.5"):
        for slope in (0, 12):
            t = math.radians(slope)
            way, out_of = (0.0, math.cos(t), math.sin(t)), (0.0, -math.sin(t), math.cos(t))
            under = {"section": "UB 356x171x45", "role": "rafter", "start": [-4000 * v for v in way], "end": [4000 * v for v in way]}

            def purlin(x0: float, x1: float, s: str = section, n: tuple[float, float, float] = out_of, roll: float = slope) -> dict[str, Any]:
                a, b = ([x, n[1] * 175.7, n[2] * 175.7] for x in (x0, x1))
                return {"section": s, "role": "purlin", "start": a, "end": b, "cardinal": "bottom", "roll_deg": roll}

            out.append(Site(f"purlin {section} over {slope}", [under, purlin(-4000, 4000)], "purlin-cleat", ((1, "over 0"),)))
            out.append(Site(f"purlin {section} ends {slope}", [under, purlin(0, 4000)], "purlin-cleat", ((1, "start"),)))
            out.append(Site(f"purlins {section} meet {slope}", [under, purlin(-4000, 0), purlin(0, 4000)], "purlin-cleat", ((1, "end"),)))
            out.append(Site(f"purlins {section} sleeved {slope}", [under, purlin(-4000, 0), purlin(0, 4000)], "purlin-cleat", ((1, "end"),), {"sleeve": 5.0}))
    for section in ("PFC 150x75x18", "UPN 160", "Z 200x65x20x2.5", "CF 200x70x20x2.5"):
        for rafter_, fly in (("UB 356x171x45", "both sides"), ("IPE 300", "left"), ("UB 254x146x31", "right"), ("IPE 450", "both sides")):
            deep = sized(rafter_).h / 2
            fly = "both sides" if section.startswith("Z") else fly  # a zed's ends cannot be told apart
            over = {"section": section, "role": "purlin", "start": [-4000, 0, deep], "end": [4000, 0, deep], "cardinal": "bottom"}
            out.append(Site(f"purlin {section} on {rafter_} fly brace {fly}", [{"section": rafter_, "role": "rafter", "start": [0, -4000, 0], "end": [0, 4000, 0]}, over], "purlin-cleat", ((1, "over 0"),), {"fly": fly}))
    for section, lap, slope, typed in (
        ("Z 200x65/59x20x2", 300.0, 0, {}), ("Z 200x65/59x20x2", 300.0, 12, {}), ("Z 150x60/54x18x1.5", 240.0, 0, {"pitch": []}), ("Z 250x75/66x22x3", 600.0, 5, {"lap": 500.0}), ("Z 300x90/80x25x3", 700.0, 0, {}),
    ):
        out.append(Site(f"zeds {section} lapped {lap:g} {slope} {typed}", lapping(section, lap, slope), "purlin-cleat", ((1, "end"),), typed))
    met = [{"section": "UPN 160", "role": "purlin", "start": a, "end": b, "cardinal": "bottom"} for a, b in (([-4000, 0, 175.7], [0, 0, 175.7]), ([0, 0, 175.7], [4000, 0, 175.7]))]
    crossed = {"section": "UB 356x171x45", "role": "rafter", "start": [0, -4000, 0], "end": [0, 4000, 0]}
    out.append(Site("purlins UPN 160 meet with fly braces", [crossed, *met], "purlin-cleat", ((1, "end"),), {"fly": "both sides"}))
    out.append(Site("purlins UPN 160 sleeved with fly braces", [crossed, *met], "purlin-cleat", ((1, "end"),), {"fly": "both sides", "sleeve": 5.0}))
    out.append(Site("purlin UPN 160 fly brace L 65x65x7", [crossed, {**met[0], "end": [4000, 0, 175.7]}], "purlin-cleat", ((1, "over 0"),), {"fly": "both sides", "fly_size": "L 65x65x7", "fly_bolt": "M16", "fly_out": 500.0}))
    c8 = {"section": "C8X11.5", "role": "purlin", "start": [-4000, 0, 175.0], "end": [4000, 0, 175.0], "cardinal": "bottom"}
    out.append(Site("purlin C8X11.5 fly brace inch", [{**crossed, "section": "W14X30"}, {**c8, "start": [-4000, 0, sized("W14X30").h / 2], "end": [4000, 0, sized("W14X30").h / 2]}], "purlin-cleat", ((1, "over 0"),), {"fly": "both sides"}, inch=True))
    for section in ("HEB 300", "UC 203x203x46", "UB 406x178x60", "IPN 300", "UC 356x406x634", "SHS 150x150x8", "CHS 168.3x6.3", "UPN 200", "PFC 200x75x23"):
        for typed in ({}, {"key_depth": 80.0, "vents": 2}):
            out.append(Site(f"base {section} {typed}", [column(section)], "base-plate", ((0, "start"),), typed))
    for section in ("W8X31", "W14X90", "HSS6X6X1/4"):
        out.append(Site(f"base {section} inch", [column(section)], "base-plate", ((0, "start"),), inch=True))
    return out


WIDE = frozenset({"spacing-greatest"})  # bolts beside a column stand as far apart as it is deep


def over(support: str, **more: Any) -> dict[str, Any]:
    """A beam whose underside lies 3000 up."""
    half = sized(support).h / 2
    return {"section": support, "role": "beam", "start": [-4000, 0, 3000 + half], "end": [4000, 0, 3000 + half], **more}


def _caps() -> list[Site]:
    out = []
    for name, roll, beams in (
        ("UC 203x203x46", 0, ("UB 406x178x60", "HEB 300")), ("UC 203x203x46", 90, ("UB 406x178x60", "HEB 300")), ("HEB 200", 0, ("UB 406x178x60", "HEB 300")), ("HEB 200", 90, ("UB 406x178x60",)),
        ("IPE 200", 0, ("UB 406x178x60",)), ("IPE 200", 90, ("HEB 300",)), ("PFC 200x75x23", 90, ("HEB 300",)), ("SHS 150x150x8", 0, ("UB 406x178x60", "PFC 300x100x46")), ("CHS 168.3x6.3", 0, ("HEB 300",)),
    ):  # fmt: skip
        for support in beams:
            breaks = WIDE if name.startswith(("SHS", "CHS")) else frozenset()
            out.append(Site(f"cap {name} {roll} under {support}", [{**column(name, roll), "end": [0, 0, 3000]}, over(support)], "cap-plate", ((0, "end"),), breaks=breaks))
            low = girder(support)
            post = {"section": name, "role": "post", "start": [0, 0, 3000 + sized(support).h / 2], "end": [0, 0, 6000], "roll_deg": roll}
            out.append(Site(f"post {name} {roll} on {support}", [low, post], "cap-plate", ((1, "start"),), breaks=breaks))
        out.append(Site(f"head {name} {roll}", [column(name, roll)], "cap-plate", ((0, "end"),)))
    for name, roll in (("UB 254x146x31", 0), ("UB 254x146x31", 90), ("UC 203x203x46", 0), ("PFC 200x75x23", 90), ("SHS 150x150x8", 0), ("CHS 168.3x6.3", 0)):
        for slope in (6, -14):
            rise = 4000 * math.tan(math.radians(slope))
            sloping = {"section": "UB 533x210x92", "role": "rafter", "start": [-4000, 0, 5000 - rise], "end": [4000, 0, 5000 + rise]}
            out.append(Site(f"cap {name} {roll} under a slope of {slope}", [{**column(name, roll), "end": [0, 0, 5000]}, sloping], "cap-plate", ((0, "end"),), breaks=WIDE if name[1] == "H" else frozenset()))
    for support in ("IPN 300", "IPN 450", "UPN 300"):
        out.append(Site(f"cap under {support}", [{**column("UC 203x203x46"), "end": [0, 0, 3000]}, over(support)], "cap-plate", ((0, "end"),), breaks=WIDE if support[0] == "U" else frozenset()))
    out.append(Site("cap on a pack", [{**column("UC 203x203x46"), "end": [0, 0, 3000]}, over("UB 406x178x60")], "cap-plate", ((0, "end"),), {"pack": 10.0}))
    for end in ("start", "end"):  # a girder that bears with the plate at its end
        for name in ("UB 457x191x67", "HEB 300", "PFC 260x75x28"):
            out.append(Site(f"girder end {name} {end}", [girder(name)], "cap-plate", ((0, end),), {"past_bottom": 15.0, "past_top": -10.0 if name[0] == "U" else 0.0}))
    out.append(Site("girder end inch", [girder("W16X36")], "cap-plate", ((0, "end"),), {"past_bottom": 12.7, "thickness": 19.05}, inch=True))
    out.append(Site("cap inch", [{**column("W8X31"), "end": [0, 0, 3000]}, over("W16X36")], "cap-plate", ((0, "end"),), inch=True))
    return out


def spliced(one: str, two: str, upright: bool = False) -> Members:
    """Two bars end to end."""
    if upright:
        return [{**column(one), "end": [0, 0, 3000]}, {**column(two), "start": [0, 0, 3000]}]
    return [{**girder(one), "start": [0, 0, 3000]}, {**girder(two), "end": [0, 0, 3000]}]


def _splices() -> list[Site]:
    out = []
    pairs = (("UB 457x191x67", "UB 457x191x67"), ("UB 457x191x67", "UB 457x191x98"), ("HEA 300", "HEB 300"), ("HEB 300", "HEB 300"), ("PFC 300x100x46", "PFC 300x100x46"))
    for one, two in pairs:
        for covers in ("outer", "outer and inner", "none"):
            out.append(Site(f"splice {one} {two} {covers}", spliced(one, two), "splice-covers", ((0, "start"),), {"flange_covers": covers}))
        for sides in ("near side", "far side"):
            out.append(Site(f"splice {one} {two} web {sides}", spliced(one, two), "splice-covers", ((0, "start"),), {"web_covers": sides}))
    for one, two in (("UC 254x254x89", "UC 254x254x73"), ("UC 254x254x89", "UC 203x203x60"), ("HEB 300", "HEB 300")):
        for typed in ({}, {"flange_covers": "outer and inner"}, {"division": 20.0}):
            out.append(Site(f"column splice {one} {two} {typed}", spliced(one, two, True), "splice-covers", ((1, "start"),), typed))
    out.append(Site("splice rafters", [{**m, "start": [m["start"][0], 0, 3000 + m["start"][0] * 0.1], "end": [m["end"][0], 0, 3000 + m["end"][0] * 0.1], "role": "rafter"} for m in spliced("UB 406x178x60", "UB 406x178x60")],
                    "splice-covers", ((0, "start"),)))  # fmt: skip
    for one, two, upright in (("IPN 300", "IPN 300", False), ("IPN 400", "IPN 300", False), ("IPN 400", "IPN 400", True), ("UPN 300", "UPN 300", False), ("ISMB 350", "ISMB 350", False), ("IPE 240", "IPE 240", False)):
        out.append(Site(f"splice {one} {two} {upright}", spliced(one, two, upright), "splice-covers", ((1 if upright else 0, "start"),)))
    out.append(Site("splice of tapered flanges inch", spliced("S20X86", "S20X86"), "splice-covers", ((0, "start"),), inch=True))
    out.append(Site("splice inch", spliced("W18X50", "W18X50"), "splice-covers", ((0, "start"),), inch=True))
    out.append(Site("column splice inch", spliced("W12X65", "W12X53", True), "splice-covers", ((1, "start"),), inch=True))
    return out


def _seats() -> list[Site]:
    out = []
    for name, hung, roll in (("HEB 300", "IPE 300", 0), ("UC 203x203x60", "UB 305x165x40", 0), ("UC 203x203x60", "UB 203x133x25", 90), ("HEB 300", "IPE 200", 90), ("HEB 300", "PFC 200x75x23", 0), ("SHS 200x200x8", "IPE 240", 0)):
        for typed in ({}, {"to_support": "welded"}, {"top": "none"}):
            out.append(Site(f"seat {hung} on {name} {roll} {typed}", [column(name, roll), beam(hung)], "seat-cleat", ((1, "end"),), typed))
    for name, hung, roll in (("HEB 300", "IPE 300", 0), ("UC 203x203x60", "UB 305x165x40", 0), ("HEB 300", "IPE 240", 90), ("SHS 200x200x8", "IPE 240", 0), ("HEB 300", "UB 457x191x67", 0)):
        for typed in ({"top": "web cleat"}, {"top": "web cleat", "web_side": "far side", "to_support": "welded"}):
            out.append(Site(f"seat {hung} on {name} {roll} {typed}", [column(name, roll), beam(hung)], "seat-cleat", ((1, "end"),), typed))
    out.append(Site("seat UB 203x133x25 on UB 610x229x101 with a web cleat", [girder("UB 610x229x101"), beam("UB 203x133x25", 90, 0, 60)], "seat-cleat", ((1, "end"),), {"top": "web cleat"}))
    out.append(Site("seat with a web cleat inch", [column("W12X65"), beam("W14X22")], "seat-cleat", ((1, "end"),), {"top": "web cleat"}, inch=True))
    for hung, name in (("IPN 300", "HEB 300"), ("IPN 240", "UB 457x191x67"), ("UPN 240", "HEB 300"), ("ISMB 300", "HEB 300")):
        out.append(Site(f"seat {hung} on {name}", [column(name), beam(hung)], "seat-cleat", ((1, "end"),)))
    for name in ("IPN 450", "IPN 360"):
        out.append(Site(f"seat bolted on the tapered flange of {name}", [column(name), beam("UB 203x133x25")], "seat-cleat", ((1, "end"),), {"to_support": "bolted"}))
    out.append(Site("seat stiffened", [column("HEB 300"), beam("IPE 300")], "seat-cleat", ((1, "end"),), {"stiffener": 12.0}))
    out.append(Site("seat stiffened welded", [column("HEB 300"), beam("IPE 300", flipped=True)], "seat-cleat", ((1, "start"),), {"stiffener": 12.0, "to_support": "welded", "long_leg": "under the beam"}))
    for name, hung, dz in (("UB 457x191x67", "IPE 200", 0), ("UB 457x191x67", "UB 203x133x25", 60), ("UB 610x229x101", "UB 254x146x31", 60)):
        out.append(Site(f"seat {hung} on {name} {dz}", [girder(name), beam(hung, 90, 0, dz)], "seat-cleat", ((1, "end"),)))
    out.append(Site("seat IPE 240 on UC 254x254x89 off the middle", [column("UC 254x254x89"), {**beam("IPE 240"), "offset": [15, 0]}], "seat-cleat", ((1, "end"),)))
    out.append(Site("seat W12X26 on W10X49 inch", [column("W10X49"), beam("W12X26")], "seat-cleat", ((1, "end"),), inch=True))
    out.append(Site("seat inch", [column("W12X65"), beam("W14X22")], "seat-cleat", ((1, "end"),), inch=True))
    return out


def _flanges() -> list[Site]:
    out = []
    for one, two in (("CHS 114.3x5", "CHS 114.3x5"), ("CHS 219.1x8", "CHS 168.3x6.3"), ("CHS 406.4x10", "CHS 406.4x10"), ("SHS 100x100x5", "SHS 100x100x5"), ("SHS 200x200x8", "SHS 200x200x8"), ("RHS 200x100x8", "RHS 200x100x8"), ("CHS 273x10", "CHS 219.1x8"), ("SHS 150x150x8", "SHS 120x120x6.3")):
        for typed in ({}, {"pack": 10.0}):
            out.append(Site(f"flange plates {one} {two} {typed}", spliced(one, two), "flange-plates", ((0, "start"),), typed))
        out.append(Site(f"flange plates {one} {two} upright", spliced(one, two, True), "flange-plates", ((1, "start"),)))
    out.append(Site("flange plates HSS10.750X0.375 inch", spliced("HSS10.750X0.375", "HSS8.625X0.322"), "flange-plates", ((0, "start"),), inch=True))
    out.append(Site("flange plates inch", spliced("HSS6X6X1/4", "HSS6X6X1/4"), "flange-plates", ((0, "start"),), inch=True))
    for name, slope in (("SHS 100x100x5", 0), ("CHS 114.3x5", 20), ("IPE 200", 10)):
        out.append(Site(f"end cap {name}", [beam(name, 30, slope)], "cap-plate", ((0, "start"),)))
    return out


def _sleeves() -> list[Site]:
    out = []
    for one, two in (("SHS 100x100x5", "SHS 100x100x5"), ("SHS 150x150x8", "SHS 150x150x8"), ("SHS 200x200x10", "SHS 200x200x10"), ("RHS 200x100x8", "RHS 200x100x8"), ("RHS 250x150x10", "RHS 250x150x10"), ("SHS 120x120x6.3", "SHS 120x120x6.3")):
        for typed in ({}, {"thickness": 12.0, "reach": 200.0}, {"gap": 40.0, "site_weld": False}):
            out.append(Site(f"sleeve {one} {two} {typed}", spliced(one, two), "tube-sleeve", ((0, "start"),), typed))
        out.append(Site(f"sleeve {one} {two} upright", spliced(one, two, True), "tube-sleeve", ((1, "start"),)))
    for name in ("CHS 114.3x5", "CHS 88.9x5"):
        out.append(Site(f"sleeve {name}", spliced(name, name), "tube-sleeve", ((0, "start"),)))
        out.append(Site(f"sleeve {name} upright", spliced(name, name, True), "tube-sleeve", ((1, "start"),)))
    out.append(Site("sleeve CHS 273x12.5", spliced("CHS 273x12.5", "CHS 273x12.5"), "tube-sleeve", ((0, "start"),)))
    out.append(Site("sleeve inch", spliced("HSS6X6X1/4", "HSS6X6X1/4"), "tube-sleeve", ((0, "start"),), inch=True))
    return out


def _openings() -> list[Site]:
    out = []
    for name in ("UB 457x191x67", "HEB 300", "PFC 300x100x46", "IPN 300", "UPE 300", "IPE 500"):
        for typed in ({}, {"shape": "rectangular", "flats": "both sides"}, {"shape": "slotted", "flats": "near side", "up": 15.0}, {"height": 80.0, "row": [150.0, 150.0]}):
            out.append(Site(f"opening {name} {typed}", [girder(name)], "web-opening", ((0, "@2500"),), typed))
    out.append(Site("opening inch in a row", [girder("W18X50")], "web-opening", ((0, "@100"),), {"height": 101.6, "row": [203.2, 203.2]}, inch=True))
    out.append(Site("opening inch", [girder("W16X36")], "web-opening", ((0, "@100"),), {"flats": "both sides"}, inch=True))
    return out


def _rods_through() -> list[Site]:
    out = []
    for section, carrier in (("RD 16", "HEB 200"), ("RD 20", "UB 305x165x40"), ("RD 24", "IPN 300"), ("RD 30", "HEB 300"), ("RD 20", "PFC 300x100x46"), ("RD 24", "UPE 300")):
        for angle in (40, -35, 55, -20):
            out.append(Site(f"rod {section} through {carrier} {angle}", [column(carrier, 90), brace(section, angle)], "rod-through", ((1, "start"),)))
    out.append(Site("rod through a beam's web", [girder("UB 457x191x67"), {"section": "RD 20", "role": "brace", "start": [0, 0, 3000], "end": [2500, 3000, 3000]}], "rod-through", ((1, "start"),)))
    for section, angle in (("RD 19.05", 45), ("RD 25.4", -30)):
        out.append(Site(f"rod {section} through inch {angle}", [column("W12X65", 90), brace(section, angle)], "rod-through", ((1, "start"),), inch=True))
    return out


def _edges() -> list[Site]:
    out = []
    for name in ("UB 457x191x67", "HEB 300", "PFC 300x100x46", "IPN 300", "UPE 300", "IPE 200"):
        for typed in ({}, {"side": "far side", "size": "L 100x100x10", "length": 2000.0}, {"out": 0.0, "size": "L 150x75x10", "length": 1500.0}, {"upright": "the shorter", "side": "far side", "welded": "at the toe", "length": 1000.0}):
            out.append(Site(f"edge {name} {typed}", [girder(name)], "edge-angle", ((0, "@2500"),), typed))
    for typed in ({"length": 2438.4}, {"size": "L4X4X3/8", "side": "far side", "length": 1219.2}):
        out.append(Site(f"edge inch {typed}", [girder("W16X36")], "edge-angle", ((0, "@98.5"),), typed, inch=True))
    sloped = {"section": "UB 305x165x40", "role": "rafter", "start": [0, 0, 3000], "end": [5000, 0, 3600]}
    out.append(Site("edge on a slope", [sloped], "edge-angle", ((0, "@2000"),)))
    return out


def purlins(section: str, count: int, slope: float = 0.0, gap: float = 1500.0, long: float = 6000.0, **more: Any) -> Members:
    """Purlins beside each other up a slope, their webs square to it."""
    t = math.radians(slope)
    return [{"section": section, "role": "purlin", "start": [i * gap * math.cos(t), 0, 3000 + i * gap * math.sin(t)], "end": [i * gap * math.cos(t), long, 3000 + i * gap * math.sin(t)], "roll_deg": -slope, **more} for i in range(count)]  # fmt: skip


def over_ridge(section: str, slope: float, each: int = 2, gap: float = 1200.0, first: float = 250.0) -> Members:
    """Purlins on both slopes of a roof, toes up the slope on each, in the order they were drawn: one side, then the other."""
    t = math.radians(slope)
    out = []
    for side in (1.0, -1.0):
        for i in range(each):
            d = first + i * gap
            at = [side * d * math.cos(t), 4000 - d * math.sin(t)]
            out.append({"section": section, "role": "purlin", "start": [at[0], 0, at[1]], "end": [at[0], 6000, at[1]], "roll_deg": side * slope})
    return out


def _purlins_more() -> list[Site]:
    """Purlins and girts of rolled and formed sections, on columns too, in inches too."""
    out = []
    for section in ("UPE 160", "PFC 150x75x18", "CF 200x65x20x2", "Z 200x65x20x2"):
        half = sized(section).h / 2
        under = girder("IPE 300")
        lies = {"section": section, "role": "purlin", "start": [0, -4000, 3150 + half], "end": [0, 4000, 3150 + half]}
        out.append(Site(f"purlin {section} over a beam", [under, lies], "purlin-cleat", ((1, "over 0"),)))
    for support, section in (("W10X33", "C8X11.5"), ("W12X40", "C10X15.3"), ("W8X31", "C6X8.2")):
        out_ = sized(support).h / 2
        for name, low in (("goes on", -4000.0), ("ends", 0.0)):
            girt = {"section": section, "role": "girt", "start": [out_, low, 2000], "end": [out_, 4000, 2000], "roll_deg": 90.0, "cardinal": "bottom"}
            out.append(Site(f"girt {section} on {support} {name}", [column(support), girt], "purlin-cleat", ((1, "over 0") if low else (1, "start"),), inch=True))
    return out


def girts(section: str, count: int, gap: float = 1400.0) -> Members:
    return [{"section": section, "role": "girt", "start": [0, 0, 1000 + i * gap], "end": [0, 6000, 1000 + i * gap], "roll_deg": 90.0} for i in range(count)]


def _moments() -> list[Site]:
    """Welded moment joints: flanges through, webs bolted or welded."""
    out = []
    for support, name in (("HEB 300", "IPE 400"), ("HEB 300", "HEB 240"), ("UC 254x254x89", "UB 457x191x67"), ("HEA 260", "IPE 300"), ("UC 305x305x118", "UB 610x229x101"), ("HEB 200", "IPE 270")):
        for typed in ({}, {"web": "welded, on a tab"}, {"sides": "far side", "doubler": "both sides"}):
            out.append(Site(f"moment {name} on {support} {typed}", [column(support), beam(name)], "welded-moment", END, typed))
    base = [column("HEB 300"), beam("IPE 400")]
    for typed in ({"backing": 0.0, "column_stiffeners": "none"}, {"bevel": math.radians(45), "root_opening": 6.0}, {"hole_height": 40.0, "hole_length": 60.0, "hole_radius": 15.0}, {"backing_past": 0.0, "doubler": "far side"}, {"row_place": "from the top"}):
        out.append(Site(f"moment IPE 400 on HEB 300 {typed}", base, "welded-moment", END, typed))
    out.append(Site("moment off the middle", [column("HEB 300"), {**beam("IPE 300"), "offset": [40, 0]}], "welded-moment", END))
    out.append(Site("moment drawn the other way", [column("HEB 300"), beam("IPE 400", flipped=True)], "welded-moment", ((1, "start"),)))
    for support, name in (("W14X90", "W18X50"), ("W12X96", "W24X76"), ("W10X49", "W12X26")):
        for typed in ({}, {"web": "welded, on a tab"}):
            out.append(Site(f"moment {name} on {support} {typed} inch", [column(support), beam(name)], "welded-moment", END, typed, inch=True))
    return out


def _tubes() -> list[Site]:
    """Tubes welded straight to tubes: T, Y and K, round and square, apart and over each other."""
    out = []
    for support, name in (("CHS 168.3x6.3", "CHS 88.9x5"), ("SHS 150x150x8", "CHS 88.9x5"), ("SHS 150x150x8", "SHS 80x80x5"), ("CHS 168.3x6.3", "SHS 80x80x5")):
        for angle in (0, 35, 45, -60):
            out.append(Site(f"tube {name} on {support} at {angle}", [column(support), brace(name, angle)], "tube-joint", ((1, "start"),)))
        out.append(Site(f"tubes {name} on {support} apart", [column(support), brace(name, 45, z0=3100), brace(name, -45, z0=2900)], "tube-joint", ((1, "start"), (2, "start"))))
        out.append(Site(f"beam {name} on {support}", [column(support), beam(name)], "tube-joint", END))
    for roll in (20.0, 45.0):
        out.append(Site(f"tube SHS 80x80x5 rolled {roll:g} on CHS", [column("CHS 168.3x6.3"), brace("SHS 80x80x5", 50, roll=roll)], "tube-joint", ((1, "start"),)))
    out.append(Site("tube rolled 30 on SHS", [column("SHS 150x150x8"), brace("SHS 60x60x4", 50, roll=30.0)], "tube-joint", ((1, "start"),)))
    out.append(Site("tube as wide as its chord", [column("CHS 168.3x6.3"), brace("CHS 168.3x6.3", 60)], "tube-joint", ((1, "start"),)))
    for name, angle, roll in (("SHS 100x100x5", 90, 0.0), ("SHS 100x100x5", 45, 0.0), ("RHS 100x60x5", 60, 90.0)):
        out.append(Site(f"matched {name} at {angle}", [column("SHS 100x100x5"), brace(name, angle, roll=roll)] if angle < 90 else [column("SHS 100x100x5"), beam(name)], "tube-joint", ((1, "start"),) if angle < 90 else END))
    out.append(Site("tube on a lying chord", [girder("CHS 168.3x6.3"), brace("CHS 88.9x5", 50)], "tube-joint", ((1, "start"),)))
    out.append(Site("tubes on both sides", [column("SHS 150x150x8"), brace("SHS 80x80x5", 45), brace("SHS 80x80x5", 45, side=-1.0)], "tube-joint", ((1, "start"), (2, "start"))))
    for support, name in (("SHS 150x150x8", "CHS 88.9x5"), ("CHS 168.3x6.3", "SHS 80x80x5")):
        both = [column(support), beam(name), {**beam(name), "start": [-4000, 0, 3000]}]
        out.append(Site(f"beams {name} on both sides of {support}", both, "tube-joint", ((1, "end"), (2, "end"))))
    out.append(Site("tubes both going down", [column("SHS 150x150x8"), brace("SHS 80x80x5", -40, z0=3200), brace("SHS 80x80x5", -40, z0=2800)], "tube-joint", ((1, "start"), (2, "start"))))
    for support, a, b in (("CHS 168.3x6.3", "CHS 88.9x5", "CHS 76.1x5"), ("SHS 150x150x8", "CHS 88.9x5", "CHS 60.3x4"), ("SHS 150x150x8", "SHS 100x100x5", "SHS 60x60x4")):
        out.append(Site(f"tubes {b} over {a} on {support}", [column(support), brace(a, 45, z0=2930), brace(b, -45, z0=3050)], "tube-joint", ((1, "start"), (2, "start")), {"through": "the second"}))
    out.append(Site("tube HSS4X4X1/4 on HSS6X6X3/8 inch", [column("HSS6X6X3/8"), brace("HSS4X4X1/4", 45)], "tube-joint", ((1, "start"),), inch=True))
    out.append(Site("tube HSS3.500X0.250 on HSS6.625X0.280 inch", [column("HSS6.625X0.280"), brace("HSS3.500X0.250", 45)], "tube-joint", ((1, "start"),), inch=True))
    return out


def _tube_ends() -> list[Site]:
    """Tubes with an end plate on flanges and webs, one and two on one web."""
    out = []
    wide = {"HEB 300 90", "UC 254x254x73 90", "UC 203x203x46 0", "UC 203x203x46 90", "PFC 300x100x46 90"}
    for support in ("HEB 300", "UB 610x229x125", "UC 254x254x73", "UC 203x203x46", "PFC 300x100x46"):
        for turn in (0.0, 90.0) if support != "PFC 300x100x46" else (90.0,):
            for name in ("SHS 120x120x5", "CHS 114.3x5", "SHS 60x60x4"):
                breaks = WIDE if (f"{support} {turn:g}" in wide and name != "SHS 60x60x4") or (support, turn) == ("UC 203x203x46", 90.0) else frozenset()
                out.append(Site(f"tube end {name} on {support} {turn:g}", [column(support, turn), beam(name)], "tube-end-plate", END, breaks=breaks))
    web = column("UB 610x229x125", 90.0)
    for roll in (30.0, 45.0):
        out.append(Site(f"tube end rolled {roll:g}", [web, beam("SHS 100x100x5", roll_deg=roll)], "tube-end-plate", END))
    for other in ("SHS 120x120x5", "CHS 114.3x5", "SHS 60x60x4"):
        out.append(Site(f"tube ends SHS 120x120x5 and {other} on one web", [web, beam("SHS 120x120x5"), {**beam(other), "start": [-4000, 0, 3000]}], "tube-end-plate", ((1, "end"), (2, "end")), {"pack": 5.0} if other[0] == "C" else {}))
    out.append(Site("tube end on a beam's web", [girder("UB 457x191x67"), beam("SHS 120x120x5", 90)], "tube-end-plate", END, breaks=WIDE))
    for where in ("along the support", "across the support", "all round"):
        out.append(Site(f"tube end {where}", [web, beam("RHS 200x100x8")], "tube-end-plate", END, {"where": where}, breaks=frozenset() if where == "all round" else WIDE))
    for support, name in (("W12X50", "HSS6X6X3/8"), ("W14X90", "HSS4X4X1/4"), ("W24X76", "HSS6.625X0.280")):
        for turn in (0.0, 90.0):
            out.append(Site(f"tube end {name} on {support} {turn:g} inch", [column(support, turn), beam(name)], "tube-end-plate", END, inch=True))
    return out


def _caps_and_bases() -> list[Site]:
    """Columns on each other with a plate on each."""
    out = []
    pairs = (("UC 203x203x46", "UC 203x203x46"), ("UC 254x254x73", "UC 203x203x46"), ("HEB 300", "SHS 150x150x8"), ("UB 457x191x67", "UB 305x165x40"), ("HEB 600", "HEB 400"), ("IPE 200", "IPE 200"))
    for one, two in pairs:
        out.append(Site(f"cap and base {two} on {one}", spliced(one, two, True), "cap-and-base", ((1, "start"),)))
        out.append(Site(f"cap and base {two} on {one} outside", spliced(one, two, True), "cap-and-base", ((1, "start"),), {"where": "outside the column"}))
        out.append(Site(f"cap and base {one} under {two}", spliced(one, two, True), "cap-and-base", ((0, "end"),), {"pack": 12.0}))
    for one, two in (("SHS 200x200x8", "SHS 150x150x8"), ("CHS 219.1x8", "CHS 168.3x6.3"), ("PFC 200x75x23", "PFC 200x75x23")):
        out.append(Site(f"cap and base {two} on {one}", spliced(one, two, True), "cap-and-base", ((1, "start"),), breaks=WIDE))
    for low, high in ((0.0, 90.0), (30.0, 30.0), (0.0, 45.0)):
        members = [{**column("UC 254x254x73", low), "end": [0, 0, 3000]}, {**column("UC 203x203x46", high), "start": [0, 0, 3000]}]
        out.append(Site(f"cap and base turned {low:g} {high:g}", members, "cap-and-base", ((1, "start"),), breaks=WIDE if high == 45 else frozenset()))
    for one, two in (("W12X65", "W10X49"), ("W8X31", "HSS6X6X3/8"), ("W14X90", "W14X90")):
        out.append(Site(f"cap and base {two} on {one} inch", spliced(one, two, True), "cap-and-base", ((1, "start"),), inch=True))
    return out


def _fins_past() -> list[Site]:
    """Fin plates past a column's flanges, and deep beams with two lines of bolts."""
    out = []
    for support, name in (("HEB 300", "UB 457x191x67"), ("HEB 200", "UB 533x210x92"), ("UC 254x254x89", "IPE 300"), ("UB 406x178x60", "UB 254x146x31")):
        for typed in ({}, {"stiffeners": "above and below"}, {"stiffeners": "above and below", "sides": "far side"}):
            out.append(Site(f"fin {name} past the flanges of {support} {typed}", [column(support, 90.0), beam(name)], "fin-plate", END, {"reach": "past the flanges", **typed}))
    for support, name in (("HEB 300", "UB 457x191x67"), ("UC 254x254x89", "IPE 300")):
        for skew, slope in ((0, 8), (0, -15), (20, 0), (-25, 0), (15, 6), (-12, -10)):
            for side in ("near side", "far side"):
                out.append(Site(f"fin {name} past the flanges of {support} skew {skew} slope {slope} {side}", [column(support, 90.0), beam(name, skew, slope)], "fin-plate", END, {"reach": "past the flanges", "sides": side}))
    for support, name in (("HEB 600", "UB 762x267x147"), ("HEB 500", "UB 686x254x125")):
        out.append(Site(f"fin {name} on {support} two lines", [column(support), beam(name)], "fin-plate", END))
    for section in ("IPE 200", "UB 305x165x40", "UB 457x191x67", "PFC 200x75x23"):
        for skew in (-30, -8, 15, 25):
            out.append(Site(f"fin {section} bent {skew}", [column("HEB 300"), beam(section, skew)], "fin-plate", END, {"skewed": "plate bent"}))
    for support, skew in (("HEB 400", 60), ("UB 457x191x67", 48), ("PFC 300x100x46", -115)):
        out.append(Site(f"fin IPE 200 bent on {support} {skew}", [girder(support), beam("IPE 200", skew)], "fin-plate", END, {"skewed": "plate bent"}))
    out.append(Site("fin IPE 240 bent tight, slots", [column("HEB 300"), beam("IPE 240", 20)], "fin-plate", END, {"skewed": "plate bent", "bend_radius": 20.0, "hole": "short slot", "setback": 60.0}))
    out.append(Site("fin W14X30 bent inch", [column("W12X65"), beam("W14X30", 25)], "fin-plate", END, {"skewed": "plate bent"}, inch=True))
    for support in ("CHS 219.1x8", "CHS 323.9x10"):
        for name, skew in (("IPE 200", 0), ("UB 457x191x67", 25), ("PFC 200x75x23", -60), ("IPE 300", 130)):
            out.append(Site(f"fin {name} through {support} {skew}", [column(support), beam(name, skew)], "fin-plate", END))
    out.append(Site("fins IPE 300 through CHS 323.9x10 both sides", [column("CHS 323.9x10"), beam("IPE 300", 15)], "fin-plate", END, {"sides": "both sides"}))
    for typed in ({"reach": "through the tube"}, {"reach": "through the tube", "sides": "far side", "beyond": 25.0}):
        out.append(Site(f"fin IPE 300 through SHS 200x200x8 {typed}", [column("SHS 200x200x8"), beam("IPE 300")], "fin-plate", END, typed))
    out.append(Site("fin W12X26 through HSS8.625X0.322 inch", [column("HSS8.625X0.322"), beam("W12X26")], "fin-plate", END, inch=True))
    out.append(Site("fin W21X50 past the flanges inch", [column("W12X96", 90.0), beam("W21X50")], "fin-plate", END, {"reach": "past the flanges", "stiffeners": "above and below"}, inch=True))
    out.append(Site("fin W30X99 two lines inch", [column("W14X120"), beam("W30X99")], "fin-plate", END, inch=True))
    return out


def _rows() -> list[Site]:
    out = []
    for section in ("UPE 160", "PFC 150x75x18", "UPN 140", "IPE 160", "UB 203x102x23", "PFC 230x75x26"):
        out.append(Site(f"sag rods {section} 4 level", purlins(section, 4), "sag-rods", ((0, "+1+2+3@3000"),)))
        out.append(Site(f"sag rods {section} 3 at 10", purlins(section, 3, 10.0), "sag-rods", ((0, "+1+2@2000"),)))
        out.append(Site(f"sag rods {section} over a ridge", over_ridge(section, 6.0), "sag-rods", ((1, "+0+2+3@3000"),)))
    for typed in ({"level": "top"}, {"level": "bottom", "drop": 60.0}, {"arrange": "in line"}, {"projection": 0.0}, {"nuts": "outside", "washers": False}, {"size": "M12", "stagger": 40.0}, {"drop": 20.0}):
        out.append(Site(f"sag rods UPE 160 {typed}", purlins("UPE 160", 4), "sag-rods", ((0, "+1+2+3@3000"),), typed))
    out.append(Site("sag rods two", purlins("UPE 160", 2), "sag-rods", ((0, "+1@3000"),)))
    out.append(Site("sag rods girts", girts("UPE 160", 4), "sag-rods", ((0, "+1+2+3@3000"),)))
    out.append(Site("sag rods girts down", girts("UPE 160", 3), "sag-rods", ((2, "+1+0@3000"),)))
    for section in ("C8X11.5", "C10X15.3", "W8X18"):
        out.append(Site(f"sag rods {section} inch", purlins(section, 3, gap=1524.0), "sag-rods", ((0, "+1+2@120"),), inch=True))
    out.append(Site("sag rods inch ridge", over_ridge("C8X11.5", 4.76), "sag-rods", ((0, "+1+2+3@120"),), inch=True))
    return out


def _covers() -> list[Site]:
    """Cover plates on a column's flange."""
    out = []
    for name, support in (("IPE 300", "HEB 240"), ("IPE 400", "HEB 300"), ("UB 457x191x67", "UC 254x254x89"), ("UB 533x210x92", "HEB 320"), ("HEA 300", "HEB 300"), ("HEB 260", "HEB 300")):
        for flipped in (False, True):
            out.append(Site(f"covers {name} on {support} {'flipped' if flipped else ''}", [column(support), beam(name, flipped=flipped)], "cover-plates", ((1, "start" if flipped else "end"),)))
    for typed in (
        {"top_end": 150.0}, {"top_pack": 5.0, "bottom_pack": 2.0}, {"bottom_thickness": 30.0, "bottom_width": 200.0}, {"sides": "far side"}, {"column_stiffeners": "none"}, {"doubler": "both sides"}, {"zone": False},
        {"gauge": 90.0, "top_pitch": (70.0, 70.0)}, {"root_opening": 10.0, "bevel": math.radians(30)}, {"gap": 40.0},
    ):  # fmt: skip
        out.append(Site(f"covers IPE 400 {typed}", [column("HEB 300"), beam("IPE 400")], "cover-plates", END, typed))
    for name, support in (("IPE 300", "HEB 240"), ("IPE 400", "HEB 300"), ("UB 457x191x67", "UC 254x254x89"), ("HEA 300", "HEB 300"), ("UB 610x229x101", "HEB 320")):
        out.append(Site(f"covers {name} in the web of {support}", [column(support, 90.0), beam(name)], "cover-plates", END))
    out.append(Site("covers IPE 300 off the middle of a web", [column("HEB 300", 90.0), {**beam("IPE 300"), "offset": [20, 0]}], "cover-plates", END, {"column_stiffeners": "none", "top_pack": 4.0}))
    out.append(Site("covers IPN 340", [column("HEB 300"), beam("IPN 340")], "cover-plates", END))
    out.append(Site("covers W18X50 in a web inch", [column("W14X120", 90.0), beam("W18X50")], "cover-plates", END, inch=True))
    # a fuse keeps the first bolts far from the beam's end, which water reaches
    out.append(Site("covers IPE 400 with a fuse", [column("HEB 300"), beam("IPE 400")], "cover-plates", END, {"fuse_length": 200.0}, breaks=frozenset({"edge-greatest"})))
    for name, support in (("W18X50", "W14X120"), ("W16X40", "W12X96"), ("W24X76", "W14X176")):
        out.append(Site(f"covers {name} inch", [column(support), beam(name)], "cover-plates", END, inch=True))
    return out


def _welded_splices() -> list[Site]:
    """Like sections welded end to end."""
    out = []

    def beams(a: str, b: str, flipped: bool = False, slope: float = 0.0) -> Members:
        rise = math.tan(math.radians(slope))
        one, two = [[0, 0, 3000], [3000, 0, 3000 + 3000 * rise]], [[3000, 0, 3000 + 3000 * rise], [7000, 0, 3000 + 7000 * rise]]
        return [{"section": s, "role": "rafter" if slope else "beam", "start": p[::-1][0] if flipped else p[0], "end": p[::-1][1] if flipped else p[1]} for s, p in ((a, one), (b, two))]

    for section in ("IPE 400", "HEB 300", "UB 457x191x67", "UB 610x229x101", "HEA 240", "UC 254x254x89"):
        for flipped in (False, True):
            out.append(Site(f"welded splice {section} {'flipped' if flipped else ''}", beams(section, section, flipped), "welded-splice", ((0, "start" if flipped else "end"),)))
        stack = [{**column(section, 0, 3000)}, {"section": section, "role": "column", "start": [0, 0, 3000], "end": [0, 0, 7000]}]
        out.append(Site(f"welded splice of columns {section}", stack, "welded-splice", ((1, "start"),)))
    out.append(Site("welded splice UB 457x191x67 sloping", beams("UB 457x191x67", "UB 457x191x67", slope=12.0), "welded-splice", ((0, "end"),)))
    for typed in ({"backing": 0.0}, {"web_side": "far side"}, {"flanges": "from outside"}, {"root_opening": 6.0, "bevel": math.radians(45)}, {"hole_height": 40.0, "hole_radius": 20.0}, {"backing_past": 0.0, "backing_width": 30.0}):
        out.append(Site(f"welded splice UB 457x191x67 {typed}", beams("UB 457x191x67", "UB 457x191x67"), "welded-splice", ((0, "end"),), typed))
    out.append(Site("welded splice W14X90 inch", [{**column("W14X90", 0, 3000)}, {"section": "W14X90", "role": "column", "start": [0, 0, 3000], "end": [0, 0, 7000]}], "welded-splice", ((1, "start"),), inch=True))
    out.append(Site("welded splice W18X50 inch", beams("W18X50", "W18X50"), "welded-splice", ((0, "end"),), inch=True))
    return out


def _timber() -> list[Site]:
    """Timber joists on steel."""
    out = []

    def joist(section: str, skew: float = 0.0, dz: float = 0.0, flipped: bool = False) -> dict[str, Any]:
        return {**beam(section, skew, 0.0, dz, flipped), "role": "joist"}

    for section in ("TM 50x150", "TM 75x225", "TM 100x300", "TM 140x360"):
        for flipped in (False, True):
            at = ((1, "start" if flipped else "end"),)
            out.append(Site(f"timber {section} on a web {'flipped' if flipped else ''}", [girder("UB 457x191x67"), joist(section, 90, 0, flipped)], "timber-seat", at))
            out.append(Site(f"timber {section} on a flange {'flipped' if flipped else ''}", [column("HEB 300"), joist(section, 0, 0, flipped)], "timber-seat", at))
        out.append(Site(f"timber {section} in a column", [column("HEB 300", 90), joist(section)], "timber-seat", END))
    back = {"section": "PFC 300x100x46", "role": "beam", "start": [4000, 0, 3000], "end": [-4000, 0, 3000]}
    out.append(Site("timber TM 75x225 on a channel's back", [back, joist("TM 75x225", -90)], "timber-seat", END))
    out.append(Site("timber TM 75x225 on SHS 150x150x8", [column("SHS 150x150x8"), joist("TM 75x225")], "timber-seat", END))
    for typed in ({"stagger": 0.0}, {"rows": (60.0,)}, {"radius": 15.0, "gap": 30.0}, {"cheek": 200.0, "bearing": 90.0}, {"stand_off": 60.0}):
        out.append(Site(f"timber TM 75x225 {typed}", [column("HEB 300"), joist("TM 75x225")], "timber-seat", END, typed))
    for section in ("TM2-1/2X9-1/4", "TM1-1/2X9-1/4", "TM3-1/2X11-1/4"):
        out.append(Site(f"timber {section} inch", [girder("W18X40"), joist(section, 90)], "timber-seat", END, inch=True))
    return out


def _mitres() -> list[Site]:
    """Tubes that end at one point: corners, elbows, knees, ridges."""
    out = []

    def corner(section: str, angle: float, up: float = 0.0, other: str = "", **more: Any) -> Members:
        a, t = math.radians(angle), math.radians(up)
        way = [math.cos(a) * math.cos(t), math.sin(a) * math.cos(t), math.sin(t)]
        return [{"section": section, "role": "beam", "start": [-3000, 0, 1000], "end": [0, 0, 1000]}, {"section": other or section, "role": "beam", "start": [0, 0, 1000], "end": [2500 * way[0], 2500 * way[1], 1000 + 2500 * way[2]], **more}]

    for section in ("CHS 48.3x3.2", "CHS 114.3x5", "SHS 100x100x4", "RHS 150x100x6.3"):
        for angle in (30, 90, 120):
            out.append(Site(f"mitre {section} {angle}", corner(section, angle), "tube-mitre", ((0, "end"),)))
    for section in ("CHS 60.3x4", "SHS 80x80x5"):
        for up in (35, -40):
            out.append(Site(f"mitre {section} up {up}", corner(section, 0, up), "tube-mitre", ((0, "end"),)))
    out.append(Site("mitre CHS 88.9x4 in space", corner("CHS 88.9x4", 50, 30), "tube-mitre", ((0, "end"),)))
    for first, second in (("SHS 120x120x6.3", "SHS 100x100x5"), ("CHS 168.3x6.3", "CHS 139.7x5"), ("SHS 120x120x5", "CHS 114.3x5"), ("RHS 150x100x6.3", "SHS 100x100x5")):
        out.append(Site(f"mitre {first} with {second}", corner(first, 90, other=second), "tube-mitre", ((0, "end"),)))
    for section, slope in (("SHS 150x150x8", 10), ("RHS 200x100x8", 4), ("CHS 168.3x6.3", 20)):
        out.append(Site(f"mitre knee {section} {slope}", [column(section), rafter(section, slope)], "tube-mitre", ((1, "start"),)))
        out.append(Site(f"mitre ridge {section} {slope}", [rafter(section, slope, 1.0, -7000.0), rafter(section, slope, -1.0, 7000.0)], "tube-mitre", ((0, "end"),)))
    for typed in ({"joined": "on a plate"}, {"joined": "to each other", "root": 5.0}, {"joined": "on a plate", "past": 30.0, "thickness": 15.0, "weld_leg": 8.0}):
        out.append(Site(f"mitre SHS 90x90x5 {typed}", corner("SHS 90x90x5", 60), "tube-mitre", ((0, "end"),), typed))
    out.append(Site("mitre post and rail", [{**column("CHS 48.3x3.2", 0, 1000), "role": "post"}, {"section": "CHS 48.3x3.2", "role": "beam", "start": [0, 0, 1000], "end": [3000, 0, 1000]}], "tube-mitre", ((1, "start"),)))
    for section in ("HSS4X4X1/4", "HSS4.000X0.250"):
        out.append(Site(f"mitre {section} inch", corner(section, 90), "tube-mitre", ((0, "end"),), inch=True))
    return out


SITES = [*slab_sides(), *_fin(), *_cleats(), *_end_plates(), *_gussets(), *_others(), *_caps(), *_splices(), *_seats(), *_flanges(), *_sleeves(), *_openings(), *_edges(), *_rods_through(), *_rows(), *feet(), *_moments(), *_tubes(), *_tube_ends(), *_caps_and_bases(), *walls(), *stringers(), *_fins_past(), *_purlins_more(), *_mitres(), *_rods(), *_covers(), *heads(), *_welded_splices(), *_timber(), *posts_beside(), *flange_gussets(), *stars(), *stitches(), *trimmers(), *slab_heads(), *loose_parts()]
