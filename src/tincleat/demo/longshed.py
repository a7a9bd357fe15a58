"""A made frame of any size, for measuring: bays of columns, main beams, secondary beams and bracing on several floors."""

from pathlib import Path
from typing import Any

from tincleat.commands.desk import Desk
from tincleat.project.entities import HouseRules

BAY_X, BAY_Y, STOREY, FLOORS, ROWS = 6000.0, 7500.0, 4000.0, 3, 4
COLUMNS = ("UC 203x203x60", "UC 254x254x73", "UC 203x203x46")
MAINS = ("UB 406x178x60", "UB 457x191x67", "UB 356x171x51", "UB 406x140x46")
SECONDARIES = ("UB 305x165x40", "UB 254x146x31", "UB 305x127x37")


def members(count: int) -> list[dict[str, Any]]:
    """At least ``count`` members, as ``add-members`` takes them; the frame grows along x."""
    out: list[dict[str, Any]] = []
    i = 0
    while len(out) < count:
        x = i * BAY_X
        column = COLUMNS[(i // 7) % 3]
        for j in range(ROWS + 1):
            y = j * BAY_Y
            out.append({"role": "column", "section": column, "start": [x, y, 0], "end": [x, y, FLOORS * STOREY + 200], "roll_deg": 90})
        for k in range(1, FLOORS + 1):
            z = k * STOREY
            for j in range(ROWS):
                main = MAINS[(i // 5 + j + k) % 4]
                out.append({"role": "beam", "section": main, "start": [x, j * BAY_Y, z], "end": [x, (j + 1) * BAY_Y, z], "cardinal": "top"})
            if i:
                for j in range(2 * ROWS + 1):
                    y = j * BAY_Y / 2
                    small = SECONDARIES[(i // 4 + k + j % 2) % 3]
                    out.append({"role": "joist" if j % 2 else "beam", "section": small, "start": [x - BAY_X, y, z], "end": [x, y, z], "cardinal": "top"})
        if i % 8 == 1:
            for k in range(FLOORS):
                out.append({"role": "brace", "section": "CHS 114.3x5", "start": [x - BAY_X, 0, k * STOREY + 150], "end": [x, 0, (k + 1) * STOREY - 300]})
        i += 1
    return out


def mixed(count: int) -> list[dict[str, Any]]:
    """The same frame with more kinds of joint in it: spliced columns, ties of tube in two pieces, purlins, ends on walls."""
    out = members(count)
    more: list[dict[str, Any]] = []
    top, tie = FLOORS * STOREY, "SHS 120x120x5"
    for m in out:
        x, y = m["start"][0], m["start"][1]
        bay = round(x / BAY_X)
        if m["role"] == "column" and bay % 4 == 3:
            more.append({**m, "start": [x, y, STOREY + 600], "section": COLUMNS[2] if bay % 8 == 3 else m["section"]})
            m["end"] = [x, y, STOREY + 600]
        if m["role"] == "column" and bay % 4 == 2 and y == 2 * BAY_Y:
            middle = x - BAY_X / 2
            more += [{"role": "beam", "section": tie, "start": [x - BAY_X, y, 1800], "end": [middle, y, 1800]}, {"role": "beam", "section": tie, "start": [middle, y, 1800], "end": [x, y, 1800]}]
        if m["role"] == "column" and bay % 4 == 1 and y == 0:
            more.append({"role": "beam", "section": SECONDARIES[0], "start": [x, -2500, STOREY], "end": [x, 0, STOREY], "cardinal": "top"})
        if m["role"] == "column" and bay and y:
            more.append({"role": "purlin", "section": "PFC 150x75x18", "start": [x - BAY_X, y - 1300, top], "end": [x, y - 1300, top], "cardinal": "bottom"})
    return [*out, *more]


def commands(count: int = 10000, joined: bool = True) -> list[tuple[str, dict[str, Any]]]:
    """What makes the frame of about ``count`` members, with connections wherever a family fits if ``joined``."""
    made = members(count)
    steps: list[tuple[str, dict[str, Any]]] = [("add-level", {"name": f"floor {k}", "elevation": k * STOREY}) for k in range(FLOORS + 1)]
    bays = round(max(m["end"][0] for m in made) / BAY_X)
    steps.append(("add-grid", {"name": "main", "x": f"{min(bays, 400)}@{BAY_X:g}", "y": f"{ROWS}@{BAY_Y:g}"}))
    steps.append(("add-members", {"members": made}))
    if joined:
        steps += [("place-all", {"family": "base-plate"}), ("place-all", {"family": "fin-plate"})]
    return steps


def build_joined(path: "str | Path", overwrite: bool = False, count: int = 10000) -> Desk:
    """The same frame with every end settled: gussets for the bracing, cap plates on the column heads."""
    steps = [*commands(count), ("place-all", {"family": "bracing-gusset"}), ("place-all", {"family": "cap-plate"})]
    return Desk.create_whole(path, HouseRules(title="Long shed, joined"), overwrite, lambda desk: _done(desk, steps))


def build(path: "str | Path", overwrite: bool = False, count: int = 10000, joined: bool = True) -> Desk:
    """The project, whole or not at all."""
    return Desk.create_whole(path, HouseRules(title="Long shed"), overwrite, lambda desk: _done(desk, commands(count, joined)))


def _done(desk: Desk, steps: "list[tuple[str, dict[str, Any]]]") -> None:
    desk.run_all(steps)
