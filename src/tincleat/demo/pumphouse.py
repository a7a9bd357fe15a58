"""Juniper Flat pump house: a pumping station in feet and inches that was never built.

Five welded moment frames across, braced bays along, a flat roof on joists, girts with sag rods, and a working platform on tube
posts with a stair, rails and a timber deck on timber joists.
"""

from itertools import pairwise
from pathlib import Path
from typing import Any

from tincleat.commands.desk import Desk
from tincleat.demo.bars import bar
from tincleat.project.entities import inch_house

FOOT, INCH = 304.8, 25.4
BAY, WIDE = 15 * FOOT, 30 * FOOT
FRAMES = 5
ROOF, EAVES, DECK = 15 * FOOT + 8 * INCH, 16 * FOOT, 8 * FOOT
X0, X1 = 3 * BAY, 4 * BAY  # the bay of the platform
EDGE = 15 * FOOT  # and how far it reaches across, from the far side


def _frames() -> list[dict[str, Any]]:
    """Moment frames across, beams and braces along."""
    out = []
    for i in range(FRAMES):
        x, n = i * BAY, i + 1
        for y, side in ((0.0, "A"), (WIDE, "B")):
            out.append(bar("column", "W10X33", (x, y, 0), (x, y, EAVES), f"C{n}{side}", roll_deg=90))
        out.append(bar("beam", "W16X36", (x, 0, ROOF), (x, WIDE, ROOF), f"R{n}", cardinal="top"))
    for i in range(FRAMES - 1):
        x, n = i * BAY, i + 1
        for y, side in ((0.0, "A"), (WIDE, "B")):
            out.append(bar("beam", "W12X19", (x, y, ROOF - 1.5 * INCH), (x + BAY, y, ROOF - 1.5 * INCH), f"E{n}{side}", cardinal="top"))
        for k in range(1, 6):
            y = k * 5 * FOOT
            out.append(bar("joist", "W8X10", (x, y, ROOF), (x + BAY, y, ROOF), f"J{n}{k}", cardinal="top"))
    for i, y, side in ((0, 0.0, "A"), (FRAMES - 2, 0.0, "A"), (0, WIDE, "B"), (FRAMES - 3, WIDE, "B")):  # clear of the platform
        x, n = i * BAY, i + 1
        out.append(bar("brace", "HSS4X4X1/4", (x, y, 15 * INCH), (x + BAY, y, ROOF - 10 * INCH), f"D{n}{side}"))
    return out


def _platform() -> list[dict[str, Any]]:
    """The working platform in the last bay: tube posts, beams, timber joists, a stringer pair, rail posts."""
    out = []
    y = WIDE - EDGE
    for x, n in ((X0, 4), (X1, 5)):
        out.append(bar("column", "HSS6X6X3/8", (x, y, 0), (x, y, DECK), f"P{n}"))
        out.append(bar("beam", "W12X19", (x, y, DECK), (x, WIDE, DECK), f"B{n}", cardinal="top"))
    out.append(bar("beam", "W12X19", (X0, y, DECK), (X1, y, DECK), "B1", cardinal="top"))
    out.append(bar("beam", "W12X19", (X0, WIDE, DECK), (X1, WIDE, DECK), "B2", cardinal="top"))
    for k in range(1, 4):
        x = X0 + k * BAY / 4
        out.append(bar("joist", "TM3-1/2X9-1/4", (x, y, DECK), (x, WIDE, DECK), f"K{k}", cardinal="top"))
    # the stair comes up to the platform's free edge, between its posts
    rise, run = DECK - 6 * INCH, 9.5 * FOOT
    for x, n in ((X0 + 3 * FOOT, 1), (X0 + 6 * FOOT, 2)):
        out.append(bar("beam", "C10X15.3", (x, y - run, 0), (x, y, rise), f"S{n}"))
    # rails along the free edges: posts on the beams, two rails between them
    posts = [X0 + feet * FOOT for feet in (6.75, 9.375, 12.25, 14.0)]
    for k, x in enumerate(posts, 1):
        out.append(bar("post", "HSS2-1/2X2-1/2X3/16", (x, y, DECK), (x, y, DECK + 42 * INCH), f"G{k}"))
    for k, (a, b) in enumerate(pairwise(posts)):
        for z, tag in ((21 * INCH, "L"), (40 * INCH, "H")):
            out.append(bar("other", "HSS1.660X0.140", (a, y, DECK + z), (b, y, DECK + z), f"{tag}{k + 1}"))
    return out


def _deck() -> list[tuple[str, dict[str, Any]]]:
    """The planks of the platform, and the slab below."""
    plank = 11.25 * INCH
    first = WIDE - EDGE + 8 * INCH
    lines = [first + k * (plank + INCH / 4) for k in range(int((EDGE - 14 * INCH) // (plank + INCH / 4)))]
    planks = [
        ("add-timber", {"start": [X0, y, DECK + 0.75 * INCH], "end": [X1, y, DECK + 0.75 * INCH], "width": plank, "depth": 1.5 * INCH, "name": f"plank {k}"})
        for k, y in enumerate(lines, 1)
    ]  # fmt: skip
    return [*planks, ("add-slab", {"corners": [[-2 * FOOT, -2 * FOOT], [4 * BAY + 2 * FOOT, WIDE + 2 * FOOT]], "thickness": 6 * INCH, "top": 0, "name": "floor"})]


def fill(desk: Desk) -> None:
    """Members, levels, girts and the deck; the commoner base plates, the rest is left to the user."""
    frame: list[tuple[str, dict[str, Any]]] = [("add-grid", {"name": "main", "x": "4@15'", "y": "30'"})]
    frame += [("add-level", {"name": name, "elevation": z}) for name, z in (("slab", 0.0), ("platform", DECK), ("roof steel", ROOF), ("eaves", EAVES))]
    frame.append(("add-members", {"members": _frames() + _platform()}))
    desk.run_all(frame + _deck())
    for side in "AB":
        columns = [f"C{i + 1}{side}" for i in range(FRAMES)]
        desk.run("add-run", kind="girts", settings={"columns": columns, "section": "C8X11.5", "grade": "A36", "spacing": "4'", "first": "4'", "last": "3'-6\""})
    desk.run("place-all", family="base-plate", like="C1A.start")


def join(desk: Desk) -> None:
    """Join all that :func:`fill` left open."""
    desk.run("place-all", family="welded-moment", like="R1.start")
    desk.run("place-all", family="angle-cleats", like="S1.end")
    for family in ("tube-joint", "stringer-foot", "timber-seat", "fin-plate", "bracing-gusset", "base-plate", "purlin-cleat", "cap-plate"):
        desk.run("place-all", family=family)
    desk.run("place-rows", family="sag-rods", members=["?role:girt"])


def build_joined(path: "str | Path", overwrite: bool = False) -> Desk:
    """The pump house with every end joined, whole or not at all; raises BadFile."""

    def both(desk: Desk) -> None:
        fill(desk)
        join(desk)

    return Desk.create_whole(path, inch_house("Juniper Flat pump house, joined"), overwrite, both)


def build(path: "str | Path", overwrite: bool = False) -> Desk:
    """The pump house, whole or not at all; raises BadFile."""
    return Desk.create_whole(path, inch_house("Juniper Flat pump house"), overwrite, fill)
