"""Plover Spit boathouse: a lifeboat boathouse that was never built.

Seven portal frames, a crew mezzanine in two bays, braced end bays and a lookout stage beside the slipway.  Several joints
are awkward on purpose: a beam that stops short, a skewed beam, a leaning post, a deep beam on a shallow one, slopes.
"""

import math
from pathlib import Path
from typing import Any

from tincleat.commands.desk import Desk
from tincleat.demo.bars import bar
from tincleat.project.entities import HouseRules

BAY = 5500.0
SPAN = 14000.0
EAVES, RIDGE = 6000.0, 8100.0
CREW, LOOKOUT, CABIN = 3200.0, 6400.0, 9200.0
FRAMES = 7


GABLE = (("G1W", SPAN / 3), ("G1E", 5700.0), ("G2W", SPAN * 2 / 3), ("G2E", SPAN * 2 / 3))
RAFTER_DEPTH = 351.4  # of UB 356x171x45


def _rafter(y: float) -> float:
    """Height of the rafters' middle line."""
    return EAVES + (RIDGE - EAVES) * (min(y, SPAN - y) / (SPAN / 2))


def _under_rafters() -> list[tuple[str, dict[str, Any]]]:
    """The gable posts cut along the rafters' lower flanges."""
    slope = math.atan((RIDGE - EAVES) / (SPAN / 2))
    out = []
    for name, y in GABLE:
        way = 1.0 if y < SPAN / 2 else -1.0
        plane = {"point": [0.0, y, _rafter(y) - RAFTER_DEPTH / 2 / math.cos(slope)], "normal": [0.0, -way * math.sin(slope), math.cos(slope)]}
        out.append(("trim-members", {"ids": [name], "cut": True, **plane}))
    return out


def _portals() -> list[dict[str, Any]]:
    out = []
    for i in range(FRAMES):
        x, n = i * BAY, i + 1
        for y, side in ((0.0, "A"), (SPAN, "D")):
            out.append(bar("column", "UB 406x178x60", (x, y, 0), (x, y, EAVES), f"C{n}{side}", roll_deg=90))
        for y, side in ((0.0, "A"), (SPAN, "D")):
            out.append(bar("rafter", "UB 356x171x45", (x, y, EAVES), (x, SPAN / 2, RIDGE), f"R{n}{side}"))
    for i in range(FRAMES - 1):
        x, n = i * BAY, i + 1
        for y, side in ((0.0, "A"), (SPAN, "D")):
            out.append(bar("beam", "UB 203x133x25", (x, y, EAVES - 400), (x + BAY, y, EAVES - 400), f"E{n}{side}"))
        out.append(bar("beam", "UB 203x102x23", (x, SPAN / 2 - 600, RIDGE - 200), (x + BAY, SPAN / 2 - 600, RIDGE - 200), f"T{n}"))
    # gable posts, those on the east beside the crew floor; their heads are cut along the rafter's lower flange
    for name, y in GABLE:
        x = 0.0 if name.endswith("W") else (FRAMES - 1) * BAY
        height = _rafter(y) - 150
        out.append(bar("column", "UB 254x146x31", (x, y, 0), (x, y, height), name))
    return out


def _crew() -> list[dict[str, Any]]:
    """The mezzanine between frames 5 and 7, on the A side."""
    out = []
    x0, y1 = 4 * BAY, 5000.0
    for i in range(3):
        x, n = x0 + i * BAY, 5 + i
        out.append(bar("column", "UC 203x203x46", (x, y1, 0), (x, y1, CREW), f"M{n}"))
        out.append(bar("beam", "UB 356x171x51", (x, 0, CREW), (x, y1, CREW), f"B{n}", cardinal="top"))
    for i in range(2):
        x, n = x0 + i * BAY, 5 + i
        out.append(bar("beam", "UB 406x178x60", (x, y1, CREW), (x + BAY, y1, CREW), f"P{n}", cardinal="top"))
        out.append(bar("beam", "UB 305x165x40", (x, 0, CREW), (x + BAY, 0, CREW), f"Q{n}", cardinal="top"))
        for k, y in enumerate((1250.0, 2500.0, 3750.0), 1):
            section = "UB 254x146x31" if (i, k) != (1, 2) else "UB 457x191x67"  # the boat hoist hangs below: deeper than what carries it
            out.append(bar("joist", section, (x, y, CREW), (x + BAY, y, CREW), f"J{n}{k}", cardinal="top"))
        out.append(bar("beam", "UB 203x133x25", (x + BAY / 2, y1, CREW), (x + BAY / 2, 3750.0, CREW), f"S{n}", cardinal="top"))
    # the landing of the stair: a skewed trimmer, and one that stops 38 mm short of its column
    out.append(bar("beam", "UB 203x133x25", (x0, y1, CREW), (x0 - 2200, y1 + 1100, CREW), "K1", cardinal="top"))
    out.append(bar("column", "SHS 120x120x6.3", (x0 - 2200, y1 + 1100, 0), (x0 - 2200, y1 + 1100, CREW), "K2"))
    out.append(bar("beam", "UB 203x133x25", (x0 - 2200, 152.4 / 2 + 38, CREW), (x0 - 2200, y1 + 1100, CREW), "K3", cardinal="top"))
    out.append(bar("column", "UC 152x152x23", (x0 - 2200, 0, 0), (x0 - 2200, 0, CREW + 300), "K4", roll_deg=90))
    return out


def _lookout() -> list[dict[str, Any]]:
    """The lookout stage east of the boathouse: four posts, two floors, one post that leans with the sea wall."""
    out = []
    x0, x1 = FRAMES * BAY, FRAMES * BAY + 4000
    y0, y1 = 5000.0, 9000.0
    corners = {"a": (x0, y0), "b": (x1, y0), "c": (x1, y1), "d": (x0, y1)}
    for k, (x, y) in corners.items():
        out.append(bar("column", "UC 203x203x60", (x, y, 0), (x, y, CABIN), f"L{k}"))
    sides = (("a", "b"), ("b", "c"), ("d", "c"), ("a", "d"))
    for z, tag, section in ((LOOKOUT, "F", "UB 305x165x46"), (CABIN - 150, "H", "UB 203x133x30"), (CREW, "N", "UB 254x146x37")):
        for a, b in sides:
            out.append(bar("beam", section, (*corners[a], z), (*corners[b], z), f"{tag}{a}{b}", cardinal="top"))
    for i, x in enumerate((x0 + 4000 / 3, x0 + 8000 / 3), 1):
        out.append(bar("joist", "UB 203x133x25", (x, y0, LOOKOUT), (x, y1, LOOKOUT), f"V{i}", cardinal="top"))
    for number, (a, b) in enumerate((("a", "b"), ("d", "c")), 1):
        out.append(bar("brace", "CHS 88.9x5", (*corners[a], 350.0), (*corners[b], CREW - 480), f"X{number}"))
        out.append(bar("brace", "CHS 88.9x5", (*corners[b], CREW + 350), (*corners[a], LOOKOUT - 520), f"Y{number}"))
    out.append(bar("column", "SHS 150x150x8", (x1 + 2600, 7000, 0), (x1 + 2200, 7000, LOOKOUT - 272), "Z1"))
    out.append(bar("beam", "UB 254x102x28", (x1, 7000, LOOKOUT), (x1 + 2400, 7000, LOOKOUT), "Z2", cardinal="top"))
    out.append(bar("beam", "UB 203x133x25", (x0 + 4000 / 3, 7000, LOOKOUT), (x0 + 8000 / 3, 7000, LOOKOUT), "V3", cardinal="top"))
    return out


def _braces() -> list[dict[str, Any]]:
    """Crosses in the walls: one brace of each goes through, the other is in two halves.  On the A side clear of the crew floor."""
    out = []
    for i, y, side in ((0, 0.0, "A"), (2, 0.0, "A"), (0, SPAN, "D"), (FRAMES - 2, SPAN, "D")):
        x, n = i * BAY, i + 1
        middle = (x + BAY / 2, y, (350 + EAVES - 800) / 2)
        out.append(bar("brace", "CHS 114.3x5", (x, y, 350), (x + BAY, y, EAVES - 800), f"W{n}{side}"))
        out.append(bar("brace", "CHS 114.3x5", (x + BAY, y, 350), middle, f"U{n}{side}"))
        out.append(bar("brace", "CHS 114.3x5", middle, (x, y, EAVES - 800), f"O{n}{side}"))
    return out


def members() -> list[dict[str, Any]]:
    """All members, as ``add-members`` takes them."""
    return _portals() + _crew() + _lookout() + _braces()


def fill(desk: Desk) -> None:
    """Make the demo project: members, then the commoner base plates and fin plates; the rest is left to the user."""
    levels = (("slab", 0.0), ("crew floor", CREW), ("eaves", EAVES), ("lookout", LOOKOUT), ("ridge", RIDGE), ("cabin roof", CABIN))
    frame: list[tuple[str, dict[str, Any]]] = [("add-grid", {"name": "main", "x": f"6@{BAY:g} {BAY:g} 4000", "y": "5000 4000 5000"})]
    frame += [("add-level", {"name": name, "elevation": z}) for name, z in levels]
    frame.append(("add-members", {"members": members()}))
    desk.run_all(frame)
    desk.run_all(_under_rafters())
    for end in ("C1A.start", "M5.start", "La.start"):
        desk.run("place-all", family="base-plate", like=end)
    for end in ("E1A.start", "Fab.start", "Fbc.start", "Nbc.start"):
        desk.run("place-all", family="fin-plate", like=end)
    # left as found: a beam that ends close to its bolts, a long way to the edge, a narrow plate, a plate nobody stocks
    desk.run("place-connection", family="fin-plate", at=["K1.start"], settings={"beam_end_distance": 25.0})
    desk.run("place-connection", family="fin-plate", at=["S5.start"], settings={"edge_distance": 85.0})
    desk.run("place-all", family="fin-plate", like="S5.start")
    desk.run("place-connection", family="fin-plate", at=["Nab.start"], settings={"edge_distance": 22.0})
    desk.run("place-connection", family="base-plate", at=["K2.start"], settings={"plate_thickness": 18.0})


def join(desk: Desk) -> None:
    """Join all that :func:`fill` left open, purlins included; what is meant to have no connection is left plain."""
    for side in "AD":
        rafters = [f"R{i + 1}{side}" for i in range(FRAMES)]
        desk.run("add-run", kind="purlins", settings={"rafters": rafters, "section": "PFC 150x75x18", "spacing": 1700, "eaves": 500, "ridge": 300})
    # deep enough for the column's stiffeners to lie under the eaves beams
    desk.run("place-all", family="end-plate", like="R1A.start", settings={"haunch_depth": 450.0, "haunch_length": 1500.0})
    desk.run("place-all", family="end-plate", like="R1A.end")
    desk.run("place-all", family="angle-cleats", like="V1.start")
    for end in ("G1W.end", "G1E.end"):
        desk.run("place-all", family="cap-plate", like=end)
    for family in ("bracing-gusset", "base-plate", "fin-plate", "purlin-cleat"):
        desk.run("place-all", family=family)
    # columns above their last beam end plain; so do two ends that stop short
    desk.run("set-house-rules", values={"plain": ["column head"]})
    desk.run("place-connection", family="left-plain", at=["K3.start", "Z2.end"])
    desk.run("place-connection", family="stiffeners", at=["P5@1400", "P6@1400"])


def build_joined(path: "str | Path", overwrite: bool = False) -> Desk:
    """The demo project with every end joined or left plain, whole or not at all; raises BadFile."""

    def both(desk: Desk) -> None:
        fill(desk)
        join(desk)

    return Desk.create_whole(path, HouseRules(title="Plover Spit boathouse, joined"), overwrite, both)


def build(path: "str | Path", overwrite: bool = False) -> Desk:
    """The demo project, whole or not at all; raises BadFile."""
    return Desk.create_whole(path, HouseRules(title="Plover Spit boathouse"), overwrite, fill)
