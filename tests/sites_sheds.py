"""Places of trimmers between purlins and girts, and of posts under slabs."""

from typing import Any

from site_parts import Members, Site, column


def trimmed(trimmer: str, support: str, flipped: bool = False, dz: float = 0.0, **more: Any) -> Members:
    """Two purlins 1500 apart with a trimmer between them."""
    ends = [[0, 0, 3000 + dz], [0, 1500, 3000 + dz]]
    one = {"section": trimmer, "role": "purlin", "start": ends[flipped], "end": ends[not flipped], **more}
    return [{"section": support, "role": "purlin", "start": [-3000, 0, 3000], "end": [3000, 0, 3000]}, one, {"section": support, "role": "purlin", "start": [-3000, 1500, 3000], "end": [3000, 1500, 3000]}]


def trimmers() -> list[Site]:
    """Zeds and channels on zeds and channels: in front of webs and lips, at their backs, at other levels, both ways drawn, in inches."""
    out = []
    for trimmer in ("Z200x65x20x2", "CF 200x65x20x2", "UPN 160"):
        for support in ("Z200x65x20x2", "CF 200x65x20x2", "UPN 200"):
            for end in ("start", "end"):
                out.append(Site(f"trimmer {trimmer} on {support} {end}", trimmed(trimmer, support), "trimmer-cleat", ((1, end),)))
    for trimmer, support in (("Z200x65x20x2", "Z200x65x20x2"), ("CF 200x65x20x2", "Z250x70x20x2.5")):
        out.append(Site(f"trimmer {trimmer} on {support} flipped", trimmed(trimmer, support, True), "trimmer-cleat", ((1, "start"),)))
        out.append(Site(f"trimmer {trimmer} on {support} upside down", trimmed(trimmer, support, roll_deg=180), "trimmer-cleat", ((1, "start"),)))
    out.append(Site("trimmer lower than its purlin", trimmed("CF 150x60x20x2", "Z200x65x20x2", dz=-20.0), "trimmer-cleat", ((1, "start"),)))
    for typed in ({"side": "far side"}, {"pitch": (60.0,)}, {"thickness": 6.0, "radius": 15.0}, {"bolt": "M16"}, {"gap": 15.0, "edge": 25.0}, {"off_web": 60.0, "end_distance": 40.0}):
        out.append(Site(f"trimmer Z 200 {typed}", trimmed("Z200x65x20x2", "Z200x65x20x2"), "trimmer-cleat", ((1, "start"),), typed))
    out.append(Site("trimmer at one end", trimmed("CF 200x65x20x2", "Z200x65x20x2")[:2], "trimmer-cleat", ((1, "start"),)))
    out.append(Site("trimmer inch", trimmed("C8X11.5", "C10X15.3"), "trimmer-cleat", ((1, "start"),), inch=True))
    return out


def slab_heads() -> list[Site]:
    """Posts of all kinds under a slab: turned, leaning a little, with other rods, gaps and means."""
    out = []

    def add(name: str, section: str, roll: float = 0.0, inch: bool = False, **typed: Any) -> None:
        out.append(Site(name, [{**column(section, roll), "role": "post", "end": [0, 0, 3000]}], "slab-head", ((0, "end"),), typed, inch=inch))

    for section in ("HEB 160", "HEB 240", "UC 203x203x46", "IPE 200", "UPN 160", "SHS 100x100x5", "RHS 150x100x6.3", "CHS 114.3x5", "CHS 168.3x6.3", "L 100x100x10"):
        for roll in (0, 90):
            add(f"slab head {section} {roll}", section, roll)
    for typed in ({"rod_foot": "through"}, {"rod_foot": "headed", "embedment": 150.0}, {"gap": 0.0}, {"head_means": "end of post"}, {"head_means": "top of plate"}, {"hole_shape": "slotted along"}, {"offset_x": 40.0}, {"slab": False}, {"anchor": "M20", "lock_nut": True}):
        add(f"slab head HEB 200 {typed}", "HEB 200", **typed)
    out.append(Site("slab head leaning", [{"section": "SHS 120x120x6.3", "role": "post", "start": [0, 0, 0], "end": [150, 0, 3000]}], "slab-head", ((0, "end"),)))
    for section in ("W8X31", "HSS4X4X1/4"):
        add(f"slab head {section} inch", section, inch=True)
    return out
