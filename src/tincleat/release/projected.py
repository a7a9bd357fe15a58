"""A detail seen from the front, the side and above: visible and hidden edges of its real bodies, in joint millimetres."""

from dataclasses import dataclass

import numpy as np

from tincleat.catalogue.fasteners import bolt_size
from tincleat.details.assembled import Assembled, bolt_frame, rod_mesh
from tincleat.details.parts import View
from tincleat.geometry.frames import Array, Frame
from tincleat.geometry.hidden_lines import seen_edges
from tincleat.geometry.mesh import Mesh, hexagon, joined, prism
from tincleat.geometry.outline import Outline
from tincleat.release.drawing import Style

VIEWS: dict[View, tuple[str, Frame]] = {
    "front": ("Front", Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, -1.0, 0.0))),
    "side": ("Side", Frame((0.0, 0.0, 0.0), (0.0, 1.0, 0.0), (1.0, 0.0, 0.0))),
    "plan": ("Plan", Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, 0.0, 1.0))),
}
STUB = 0.45  # of the member's depth shown past the parts
LEAST_STUB = 70.0


@dataclass(frozen=True, eq=False)
class Projected:
    """One view's edges by style, (k, 4) each in the view's plane, its extent, and the bolts seen along their axis."""

    lines: dict[Style, Array]
    extent: tuple[float, float, float, float]
    rounds: tuple[tuple[Style, float, float, float], ...]
    crosses: Array
    fills: tuple[Array, ...]


def _part_points(a: Assembled) -> Array:
    """Corners of the made parts, to size the picture by."""
    out = []
    for p in a.detail.plates:
        flat = p.outline.points(0.5)
        out += [p.frame.to_world(np.column_stack([flat, np.full(len(flat), z)])) for z in (0.0, p.thickness)]
    for r in a.detail.rods:
        out.append(np.array([(r.x, r.y, r.bottom), (r.x, r.y, r.top)]))
    for b in a.detail.bolts:
        out.append(np.array(b.points))
    return np.concatenate(out) if out else np.zeros((1, 3))


def bodies(a: Assembled) -> list[tuple[Style, Mesh]]:
    """Meshes of everything drawn by its edges: plates without holes, stubs of the members, heads and nuts, rods, concrete."""
    points = _part_points(a)
    out: list[tuple[Style, Mesh]] = [("part", prism(p.outline, (), 0.0, p.thickness, per_arc=4).placed(p.frame)) for p in a.detail.plates]
    lead = a.case.supported
    for number, member in enumerate(a.case.members):
        depth = lead.shape.h if number else member.shape.h
        along = member.frame.to_local(points)[:, 0]
        reach = max(LEAST_STUB, STUB * depth)
        low, high = float(along.min()) - reach, float(along.max()) + reach
        if number == 0:
            high, low = max(high, reach), member.low
        else:
            z = lead.shape.h / 2 + 0.25 * depth
            spread = abs(float(member.frame.unturn((0.0, 0.0, 1.0))[0])) * z
            low, high = min(low, -spread), max(high, spread)
            low, high = max(low, member.low), min(high, member.high)
        out.append(("member", a.member_mesh(number, low, high, per_arc=2)))
    hexes = []
    for fitted in a.fitted:
        group = a.detail.bolts[fitted.group]
        size = bolt_size(group.size)
        frame = bolt_frame(group, fitted)
        nut = fitted.enter + fitted.grip + group.washers * size.washer_t
        hexes += [m.placed(frame) for m in (hexagon(size.head_af, fitted.enter - size.head_height, fitted.enter), hexagon(size.head_af, nut, nut + size.nut_height))]
    if hexes:
        out.append(("bolt", joined(hexes)))
    out += [("rod", rod_mesh(r)) for r in a.detail.rods]
    return out


def projected(a: Assembled, view: View, made: "list[tuple[Style, Mesh]]") -> Projected:
    """One view of an assembled detail; ``made`` are its :func:`bodies`."""
    frame = VIEWS[view][1]
    seen = seen_edges([m for _, m in made], frame)
    styles = np.array([s for s, _ in made])
    lines: dict[Style, Array] = {}
    for style in ("part", "member", "bolt", "rod"):
        mine = np.isin(seen.body, np.flatnonzero(styles == style))
        lines[style] = seen.lines[mine & ~seen.hidden]  # type: ignore[index]
    hidden = seen.hidden & ~np.isin(seen.body, np.flatnonzero(styles == "rod"))
    lines["hidden"] = seen.lines[hidden]
    flat = np.concatenate([frame.to_local(m.points)[:, :2] for _, m in made])
    rounds, crosses, fills = _symbols(a, frame)
    lines["concrete"] = _concrete(a, frame, flat)
    return Projected(lines, (*flat.min(axis=0).tolist(), *flat.max(axis=0).tolist()), rounds, crosses, fills)


def _symbols(a: Assembled, frame: Frame) -> "tuple[tuple[tuple[Style, float, float, float], ...], Array, tuple[Array, ...]]":
    """Holes seen face on, and centre lines of bolts and rods."""
    rounds: list[tuple[Style, float, float, float]] = []
    crosses: list[tuple[float, float, float, float]] = []
    z = np.array(frame.z)
    for plate in a.detail.plates:
        if abs(float(z @ np.array(plate.frame.z))) > 0.99:
            for h in plate.holes:
                at = frame.to_local(plate.frame.to_world(np.array([(h.x, h.y, 0.0)])))[0]
                rounds.append(("part", float(at[0]), float(at[1]), h.width / 2))
    for fitted in a.fitted:
        group = a.detail.bolts[fitted.group]
        at = frame.to_local(np.array([fitted.point]))[0]
        axis = frame.unturn(group.axis)
        reach = bolt_size(group.size).d * 1.1
        if abs(axis[2]) > 0.9:
            crosses += [(at[0] - reach, at[1], at[0] + reach, at[1]), (at[0], at[1] - reach, at[0], at[1] + reach)]
        else:
            a0, a1 = fitted.enter - 1.5 * reach, fitted.enter + fitted.length + reach
            crosses.append((at[0] + axis[0] * a0, at[1] + axis[1] * a0, at[0] + axis[0] * a1, at[1] + axis[1] * a1))
    for rod in a.detail.rods:
        ends = frame.to_local(np.array([(rod.x, rod.y, rod.bottom - 30), (rod.x, rod.y, rod.top + 30)]))
        if abs(z[2]) > 0.9:
            at = ends[1]
            crosses += [(at[0] - 30, at[1], at[0] + 30, at[1]), (at[0], at[1] - 30, at[0], at[1] + 30)]
        else:
            crosses.append((ends[0][0], ends[0][1], ends[1][0], ends[1][1]))
    fills = []
    for block in a.detail.blocks:
        flat = block.outline.points(0.5)
        body = np.concatenate([block.frame.to_world(np.column_stack([flat, np.full(len(flat), h)])) for h in (0.0, block.thickness)])
        local = frame.to_local(body)[:, :2]
        low, high = local.min(axis=0), local.max(axis=0)
        fills.append(np.array([(low[0], low[1]), (high[0], low[1]), (high[0], high[1]), (low[0], high[1])]))
    return tuple(rounds), np.array(crosses, dtype=float).reshape(-1, 4), tuple(fills)


def _concrete(a: Assembled, frame: Frame, steel: Array) -> Array:
    out = []
    for corners in _symbols(a, frame)[2]:
        nxt = np.roll(corners, -1, axis=0)
        out.append(np.concatenate([corners, nxt], axis=1))
    return np.concatenate(out) if out else np.zeros((0, 4))
