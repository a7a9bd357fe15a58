"""Plover Spit, engineer's wireframe: the boathouse as it comes out of an analysis, every bar on its node lines.

Floor beams lie on their middle, bracing runs to the nodes on top of steel, purlins lie inside the rafters, columns are
broken at every floor, the gangway's truss has its angles hung by the middle of their box, and some bars are longer than
any mill delivers.
"""

from pathlib import Path
from typing import Any

from tincleat.commands.desk import Desk
from tincleat.demo import boathouse
from tincleat.demo.bars import bar
from tincleat.demo.boathouse import BAY, CABIN, CREW, EAVES, FRAMES, LOOKOUT, RIDGE, SPAN
from tincleat.project.entities import HouseRules

GANGWAY = 8  # panels of the gangway's truss
PANEL, DEEP = 2250.0, 1500.0
ROWS = 5  # purlins a slope
MIDDLE = (EAVES - 400) / 2  # height at which the braces of a wall cross, from node to node
ASIDE = 800.0  # mm from a column at which plan bracing has its node on the beam


def _flat(bars: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """The boathouse's bars as an analysis has them: no cardinal points, bracing at the nodes."""
    out = []
    for one in bars:
        m = {k: v for k, v in one.items() if k != "cardinal"}
        if m["role"] == "brace":
            for end in ("start", "end"):
                x, y, z = m[end]
                floor = min((0.0, EAVES - 400, CREW, LOOKOUT), key=lambda f: abs(f - z))
                m[end] = [x, y, MIDDLE if (m["name"][0], end) in (("U", "end"), ("O", "start")) else floor]
        if m["name"] in ("La", "Lb", "Lc", "Ld"):
            x, y, _ = m["start"]
            stops = (0.0, CREW, LOOKOUT, CABIN)
            out += [
                bar("column", m["section"], (x, y, a), (x, y, b), f"{m['name']}{i}") for i, (a, b) in enumerate(zip(stops[:-1], stops[1:], strict=True), 1)
            ]
            continue
        out.append(m)
    return out


def _purlins() -> list[dict[str, Any]]:
    """Rows in the rafters' own lines, one bar over the whole length: longer than stock."""
    out = []
    for i in range(1, ROWS + 1):
        share = i / (ROWS + 0.5)
        z = EAVES + (RIDGE - EAVES) * share
        for y, side in ((SPAN / 2 * share, "A"), (SPAN - SPAN / 2 * share, "D")):
            out += [bar("purlin", "Z 200x65x20x2", (f * BAY, y, z), ((f + 1) * BAY, y, z), f"U{side}{i}{f + 1}") for f in range(FRAMES - 1)]
    return out


def _gangway() -> list[dict[str, Any]]:
    """Two trusses over the slip: chords of one bar each, webs of angles."""
    out = []
    x0, z1 = -GANGWAY * PANEL, CREW
    for y, side in ((1500.0, "N"), (3000.0, "S")):
        out.append(bar("beam", "UC 152x152x23", (x0, y, z1), (0.0, y, z1), f"GT{side}"))
        out.append(bar("beam", "UC 152x152x23", (x0, y, z1 - DEEP), (0.0, y, z1 - DEEP), f"GB{side}"))
        for i in range(GANGWAY):
            low, high = (x0 + i * PANEL, y, z1 - DEEP), (x0 + (i + 1) * PANEL, y, z1)
            out.append(bar("brace", "L 90x90x8", low if i % 2 == 0 else (low[0], y, z1), high if i % 2 == 0 else (high[0], y, z1 - DEEP), f"GW{side}{i + 1}"))
        for i in range(1, GANGWAY):
            out.append(bar("post", "L 70x70x7", (x0 + i * PANEL, y, z1 - DEEP), (x0 + i * PANEL, y, z1), f"GP{side}{i}"))
    return out


def _plan_bracing() -> list[dict[str, Any]]:
    x0, x1 = FRAMES * BAY, FRAMES * BAY + 4000
    return [
        bar("brace", "L 80x80x8", (x0 + ASIDE, 5000.0, LOOKOUT), (x1 - ASIDE, 9000.0, LOOKOUT), "HP1"),
        bar("brace", "L 80x80x8", (4 * BAY + ASIDE, 0.0, CREW), (5 * BAY - ASIDE, 5000.0, CREW), "HP2"),
        bar("brace", "L 80x80x8", (-4000.0, 11000.0, CREW), (-2000.0, 13000.0, CREW), "HP3"),  # forgotten: nothing is near it
    ]


def members() -> list[dict[str, Any]]:
    """All bars, as ``add-members`` takes them."""
    ridge = [bar("beam", "SHS 100x100x5", (0.0, SPAN / 2, RIDGE), ((FRAMES - 1) * BAY, SPAN / 2, RIDGE), "ridge")]
    return _flat(boathouse.members()) + _purlins() + _gangway() + _plan_bracing() + ridge


def fill(desk: Desk) -> None:
    """Make the wireframe project, as an import would leave it."""
    levels = (("slab", 0.0), ("crew floor", CREW), ("eaves", EAVES), ("lookout", LOOKOUT), ("ridge", RIDGE), ("cabin roof", CABIN))
    frame: list[tuple[str, dict[str, Any]]] = [("add-grid", {"name": "main", "x": f"6@{BAY:g} {BAY:g} 4000", "y": "5000 4000 5000"})]
    frame += [("add-level", {"name": name, "elevation": z}) for name, z in levels]
    frame.append(("add-members", {"members": members()}))
    desk.run_all(frame)


def build(path: "str | Path", overwrite: bool = False) -> Desk:
    """The demo project, whole or not at all; raises BadFile."""
    return Desk.create_whole(path, HouseRules(title="Plover Spit, engineer's wireframe"), overwrite, fill)
