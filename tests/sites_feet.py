"""Places where members stand on what carries them: feet, walls, stringers' ends, posts beside edges and slabs."""

import math
from typing import Any

from site_parts import Members, Site, beam, column, girder

from tincleat.catalogue.sections import section as sized

END = ((1, "end"),)


def lying(section: str, flipped: bool = False, **more: Any) -> dict[str, Any]:
    """A beam whose one end meets nothing: its start, or its end if ``flipped``."""
    near, far = [0, 0, 3000], [4000, 0, 3000]
    return {"section": section, "role": "beam", "start": far if flipped else near, "end": near if flipped else far, **more}


def walls() -> list[Site]:
    """Beams that lie on walls."""
    out = []
    for section in ("IPE 300", "UB 457x191x67", "PFC 230x75x26", "HEB 200"):
        for typed in ({}, {"rods": "four", "bearing": 220.0}, {"rods": "none", "grout": 0.0}, {"stiffeners": True, "rod_foot": "hooked"}):
            out.append(Site(f"wall {section} {typed}", [lying(section)], "wall-bearing", ((0, "start"),), typed))
        out.append(Site(f"wall {section} other end", [lying(section, True)], "wall-bearing", ((0, "end"),)))
    for more in ({"cardinal": "top"}, {"roll_deg": 180.0}, {"offset": [40, 0]}, {"cardinal": "bottom"}):
        out.append(Site(f"wall PFC 180x75x20 {more}", [lying("PFC 180x75x20", **more)], "wall-bearing", ((0, "start"),)))
    for section in ("W12X26", "C10X15.3", "W16X36"):
        if sized(section).slope:
            continue
        out.append(Site(f"wall {section} inch", [lying(section)], "wall-bearing", ((0, "start"),), inch=True))
    return out


def stringer(section: str, slope: float, flipped: bool = False, **more: Any) -> dict[str, Any]:
    t = math.radians(slope)
    low, high = [0, 0, 0], [3000 * math.cos(t), 0, 3000 * math.sin(t)]
    return {"section": section, "role": "beam", "start": high if flipped else low, "end": low if flipped else high, **more}


def stringers() -> list[Site]:
    """Feet of stringers."""
    out = []
    for section in ("UPN 200", "PFC 230x75x26", "UPE 160", "FL 250x12", "IPE 200", "HEA 140"):
        for slope in (25, 38, 50):
            for flipped in (False, True):
                out.append(Site(f"stringer {section} {slope} {'down' if flipped else 'up'}", [stringer(section, slope, flipped)], "stringer-foot", ((0, "end" if flipped else "start"),)))
    for typed in ({"rods": 2}, {"grout": 20.0, "foot_means": "top of plate"}, {"rod_foot": "hooked", "embedment": 200.0}, {"past": 40.0}):
        out.append(Site(f"stringer UPN 200 {typed}", [stringer("UPN 200", 35)], "stringer-foot", ((0, "start"),), typed))
    out.append(Site("stringer SHS 100x100x5", [stringer("SHS 100x100x5", 35)], "stringer-foot", ((0, "start"),)))
    for section in ("C10X15.3", "C12X20.7"):
        out.append(Site(f"stringer {section} inch", [stringer(section, 38)], "stringer-foot", ((0, "start"),), inch=True))
    return out


def heads() -> list[Site]:
    """Stringers' heads on webs of floor beams and trimmers."""
    out = []

    def falls(section: str, slope: float, dz: float = 0.0, flipped: bool = False) -> dict[str, Any]:
        t = math.radians(slope)
        low, high = [0, -3500 * math.cos(t), 3000 + dz - 3500 * math.sin(t)], [0, 0, 3000 + dz]
        return {"section": section, "role": "beam", "start": high if flipped else low, "end": low if flipped else high}

    back = {"section": "PFC 380x100x54", "role": "beam", "start": [4000, 0, 3000], "end": [-4000, 0, 3000], "roll_deg": 0}
    for section in ("UPN 200", "PFC 230x75x26", "IPE 200", "HEA 140", "UPE 160", "FL 200x12"):
        for slope in (20, 35):
            for flipped in (False, True):
                out.append(Site(f"head {section} {slope} {'down' if flipped else 'up'}", [girder("UB 533x210x92"), falls(section, slope, 60.0, flipped)], "stringer-head", ((1, "start" if flipped else "end"),)))
        if section != "PFC 230x75x26":
            out.append(Site(f"head {section} on a channel's back", [back, falls(section, 32)], "stringer-head", ((1, "end"),)))
    for typed in ({"pitch": (110.0,)}, {"bolt": "M12"}, {"thickness": 15.0, "gauge": 90.0}, {"past": 0.0, "height": 270.0}):
        out.append(Site(f"head UPN 200 {typed}", [girder("UB 533x210x92"), falls("UPN 200", 36, 60.0)], "stringer-head", ((1, "end"),), typed))
    out.append(Site("head UPN 200 on a column", [column("HEB 300", 90.0), beam("UPN 200", 0, -35)], "stringer-head", ((1, "end"),)))
    for section in ("C10X15.3", "C8X11.5"):
        out.append(Site(f"head {section} inch", [girder("W21X50"), falls(section, 34, 60.0)], "stringer-head", ((1, "end"),), inch=True))
    return out


def feet() -> list[Site]:
    """Base plates with all that goes with them."""
    out = []
    for typed in (
        {"turn": math.radians(30)}, {"turn": math.radians(-12), "offset_x": 20.0, "vents": 2}, {"past_left": 150.0, "past_far": 200.0}, {"past_near": 60.0, "past_far": 220.0, "plate_length": 500.0},
        {"stiffeners": "on the flanges"}, {"stiffeners": "on flanges and web", "stiffener_height": 200.0}, {"stiffeners": "on the web", "turn": math.radians(15)}, {"hole_shape": "slotted along"},
        {"hole_shape": "slotted across", "turn": math.radians(20)}, {"rods_off": [2], "anchors_x": [150.0, 150.0]}, {"rods_off": [1, 4], "rods_counted": "far side"}, {"key_depth": 80.0, "key_form": "cross"},
        {"key_depth": 80.0, "key_form": "section", "key_turn": math.radians(30)}, {"key_depth": 90.0, "key_form": "section", "key_section": "CHS 88.9x6.3", "key_off_x": 40.0, "key_off_y": -30.0},
        {"key_depth": 60.0, "key_turn": math.radians(45)}, {"levelling_plate": 10.0, "template": 6.0}, {"rod_foot": "through", "levelling_nut": True}, {"rod_foot": "resin", "vents": 4}, {"vents": 2, "vent_place": "the web"},
    ):  # fmt: skip
        out.append(Site(f"base HEB 300 {typed}", [column("HEB 300")], "base-plate", ((0, "start"),), typed))
    for section, more in (
        ("HEB 300", {}), ("UC 305x305x118", {"anchor": "M30", "chair_height": 300.0}), ("UB 406x178x60", {}), ("IPE 450", {"anchor": "M20", "anchors_y": []}), ("HEA 400", {"anchor": "M36", "chair_gap": 70.0, "levelling_nut": True}),
        ("HEB 240", {"anchor": "M20", "chair_side": 8.0, "chair_weld": 5.0, "stiffeners": "on the web", "foot_means": "underside of plate"}), ("HEM 300", {"lock_nut": True}),
    ):  # fmt: skip
        out.append(Site(f"base {section} on chairs {more}", [column(section, 20.0)], "base-plate", ((0, "start"),), {"chairs": True, **more}))
    out.append(Site("base W14X90 on chairs inch", [column("W14X90")], "base-plate", ((0, "start"),), {"chairs": True}, inch=True))
    for section, typed in (
        ("L 100x100x10", {}), ("L 150x100x12", {"turn": math.radians(20)}), ("FL 100x20", {}), ("WT9X71.5", {}), ("PFC 200x75x23", {"vents": 1}), ("SHS 150x150x8", {"vents": 1, "turn": math.radians(45)}),
        ("CHS 168.3x6.3", {"turn": math.radians(45), "key_depth": 60.0}), ("IPE 300", {"stiffeners": "on flanges and web"}), ("UC 203x203x46", {"stiffeners": "on the flanges", "anchor": "M36"}),
    ):  # fmt: skip
        for roll in (0.0, 30.0):
            out.append(Site(f"base {section} {roll:g} {typed}", [column(section, roll)], "base-plate", ((0, "start"),), typed))
    for typed in ({"turn": math.radians(30)}, {"stiffeners": "on flanges and web"}, {"hole_shape": "slotted along", "washer_thickness": 12.7}, {"key_depth": 76.2, "key_form": "section"}):
        out.append(Site(f"base W14X90 inch {typed}", [column("W14X90")], "base-plate", ((0, "start"),), typed, inch=True))
    for section in ("HEB 300", "UB 457x191x67", "SHS 150x150x8", "PFC 200x75x23", "CHS 168.3x6.3", "L 150x100x12"):
        for dx, dy, roll in ((4, 0, 0), (0, 8, 90), (6, -5, 30)):
            leaning = {**column(section, roll), "end": [4000 * math.tan(math.radians(dx)), 4000 * math.tan(math.radians(dy)), 4000]}
            out.append(Site(f"base {section} leaning {dx} {dy} {roll}", [leaning], "base-plate", ((0, "start"),)))
    for section, dx, dy, roll in (("HEB 300", 8, 0, 0), ("UB 457x191x67", 0, 6, 0), ("HEB 240", 6, -5, 30), ("SHS 150x150x8", 7, 4, 20), ("RHS 200x100x8", -9, 0, 90)):
        leaning = {**column(section, roll), "end": [4000 * math.tan(math.radians(dx)), 4000 * math.tan(math.radians(dy)), 4000]}
        out.append(Site(f"base {section} leaning {dx} {dy} {roll} stiffened", [leaning], "base-plate", ((0, "start"),), {"stiffeners": "on flanges and web"}))
    for section in ("SHS 150x150x8", "RHS 200x100x8"):
        out.append(Site(f"base {section} stiffened", [column(section, 15.0)], "base-plate", ((0, "start"),), {"stiffeners": "on flanges and web"}))
    out.append(Site("base SHS 200x200x8 on chairs", [column("SHS 200x200x8", 10.0)], "base-plate", ((0, "start"),), {"chairs": True}))
    out.append(Site("base HEB 300 on chairs turned", [column("HEB 300")], "base-plate", ((0, "start"),), {"chairs": True, "turn": 0.2, "anchors_y": []}))
    out.append(Site("base leaning with vents", [{**column("HEB 300"), "end": [560, 350, 4000]}], "base-plate", ((0, "start"),), {"vents": 2, "key_depth": 80.0}))
    out.append(Site("base leaning inch", [{**column("W12X50"), "end": [0, 500, 4000]}], "base-plate", ((0, "start"),), inch=True))
    out.append(Site("base L6X6X1/2 inch", [column("L6X6X1/2")], "base-plate", ((0, "start"),), inch=True))
    return out


def beside(post: str, side: str, gap: float, slope: float = 0.0, roll: float = 0.0, half: float = 20.0, low: float = -60.0, right: bool = False, flipped: bool = False) -> Members:
    """A plumb post ``gap`` mm beside a side that runs along X, ``half`` of the post away from its middle line."""
    t = math.tan(math.radians(slope))
    ends = [[-2000, 0, 3000 - 2000 * t], [2000, 0, 3000 + 2000 * t]]
    size = sized(side)
    off = (size.tw if size.shape == "FL" else size.b) / 2 + half + gap
    foot, head = [0, off if right else -off, 3000 + low], [0, off if right else -off, 4100]
    return [
        {"section": side, "role": "beam", "start": ends[1] if right and size.shape == "C" else ends[0], "end": ends[0] if right and size.shape == "C" else ends[1]},
        {"section": post, "role": "post", "start": head if flipped else foot, "end": foot if flipped else head, "roll_deg": roll},
    ]


def posts_beside() -> list[Site]:
    """Rail posts beside stringers, trimmers and tubes."""
    out = []
    wide = frozenset({"spacing-greatest"})  # the post and the spanners' room keep the bolts further apart than a thin web allows where it is exposed

    def add(name: str, members: Members, breaks: frozenset[str] = frozenset(), flipped: bool = False, **typed: Any) -> None:
        out.append(Site(name, members, "post-side", ((1, "end" if flipped else "start"),), typed, breaks=breaks))

    for side in ("PFC 230x75x26", "UPN 200", "UPE 240"):
        for slope in (0, 34):
            for right in (False, True):
                add(f"post SHS 40x40x4 beside {side} {slope} {'right' if right else 'left'}", beside("SHS 40x40x4", side, 10.0, slope, right=right))
    for post, roll, half in (("SHS 50x50x5", 0, 25.0), ("RHS 60x40x4", 0, 20.0), ("RHS 60x40x4", 90, 30.0), ("FL 60x20", 90, 30.0)):
        for side in ("UPN 260", "FL 250x12", "PFC 260x75x28"):
            add(f"post {post} {roll} beside {side}", beside(post, side, 12.0, 0, roll, half, flipped=True), flipped=True, breaks=wide if roll != 90 and side == "PFC 260x75x28" else frozenset())
    for gap in (0.0, 1.5, 8.0, 22.0):
        for slope in (0, 36):
            add(f"post FL 60x12 straight to UPN 200 {gap:g} off {slope}", beside("FL 60x12", "UPN 200", gap, slope, 0.0, 6.0))
    for gap in (6.0, 17.0, 40.0):
        add(f"post SHS 40x40x4 {gap:g} off UPN 220", beside("SHS 40x40x4", "UPN 220", gap), breaks=wide if gap == 6.0 else frozenset())
    for typed in ({"width": 160.0, "gauge": 90.0}, {"height": 120.0}, {"pitch": 70.0}, {"past": 0.0}, {"weld_leg": 5.0}, {"bolt": "M16", "gauge": 100.0}):
        add(f"post SHS 40x40x4 beside UPN 240 {typed}", beside("SHS 40x40x4", "UPN 240", 12.0), **typed)
    for post, half in (("HSS2X2X3/16", 25.4), ("HSS1-1/2X1-1/2X3/16", 19.05)):
        for side in ("C10X15.3", "MC8X20"):
            out.append(Site(f"post {post} beside {side} inch", beside(post, side, 9.525, 0, 0, half), "post-side", ((1, "start"),), inch=True))
    return out


def slab_sides() -> list[Site]:
    """Rail posts beside the edge of concrete, on each of their sides."""
    out = []

    def add(post: str, roll: float = 0.0, inch: bool = False, **typed: Any) -> None:
        member = {"section": post, "role": "post", "start": [0, 0, 0], "end": [0, 0, 1100], "roll_deg": roll}
        out.append(Site(f"post {post} {roll:g} on a slab's side {typed}", [member], "slab-side", ((0, "start"),), typed, inch=inch))

    for post, roll in (("SHS 40x40x4", 0.0), ("RHS 60x40x4", 0.0), ("RHS 60x40x4", 90.0), ("SHS 50x50x5", 30.0), ("FL 60x20", 0.0)):
        for facing in ("left", "right", "ahead", "behind"):
            add(post, roll, facing=facing)
    for typed in ({"slab_depth": 300.0, "rod": "M16"}, {"slab_depth": 160.0}, {"top": 185.0, "slab_depth": 250.0}, {"pitch": 50.0, "gauge": 110.0}, {"width": 160.0, "height": 110.0}, {"slab": False, "past": 5.0}, {"thickness": 15.0, "embedment": 150.0, "weld_leg": 5.0}):
        add("SHS 50x50x5", **typed)
    for facing in ("left", "behind"):
        add("HSS2X2X3/16", inch=True, facing=facing)
    return out
