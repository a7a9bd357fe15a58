"""The kinds of run: each is a function from its settings and the members it refers to, to what is laid."""

import math
from collections.abc import Callable, Mapping
from typing import Any

import numpy as np

from tincleat.catalogue.sections import section
from tincleat.errors import BadValue
from tincleat.geometry.frames import Array, crossed, unit, vec
from tincleat.geometry.lines import crossing
from tincleat.project.entities import Bracing, Girts, Joists, Member, Portals, Purlins, Run
from tincleat.project.members import axis_frame, length
from tincleat.project.motion import roll_for
from tincleat.runs.lay import Laid, bays, in_row, low_to_high, reach_of, stations

Members = Mapping[str, Member]


def purlins(run: Purlins, members: Members) -> list[Laid]:
    """Rows on the rafters' outer faces, depth square to the roof; the first at ``eaves`` up the slope, the last ``ridge`` short of its end."""
    rafters = in_row([members[k] for k in run.rafters], "purlins")
    lines = [low_to_high(m) for m in rafters]
    shortest = min(full for *_, full in lines)
    out = []
    for row, s in enumerate(stations(run.eaves, shortest - run.ridge, run.spacing, "purlins")):
        points, normals = [], []
        for m, (low, way, _) in zip(rafters, lines, strict=True):
            normal = _outward(way)
            points.append(low + way * s + normal * reach_of(section(m.section), m, normal))
            normals.append(normal)
        out += _rows(run.section, "purlin", row, points, normals[0], run.lap, run.overhang)
    return out


def _outward(way: Array) -> Array:
    """The direction square to a rafter, in its upright plane, pointing up."""
    up = np.array([0.0, 0.0, 1.0])
    return unit(up - way * float(up @ way))


def _rows(name: str, role: Any, row: int, points: list[Array], normal: Array, lap: float, overhang: float) -> list[Laid]:
    """One row over its carriers.  Zeds with a broad and a narrow flange that lap lie in each other: every second one is turned over, its web one
    sheet beside the others', and those lie one sheet higher."""
    out = []
    shape = section(name)
    nested = bool(shape.narrow) and lap > 0
    for bay, (a, b) in enumerate(bays(points, lap, overhang)):
        x = unit(np.subtract(b, a))
        z = unit(normal - x * float(normal @ x))
        turned = nested and bay % 2 == 1
        shift = crossed(z, x) * (2 * shape.narrow - shape.b) if turned else z * shape.tw if nested else np.zeros(3)
        out.append(Laid(f"{row}.{bay}", name, role, vec(np.add(a, shift)), vec(np.add(b, shift)), roll_for(x, -z if turned else z), "top" if turned else "bottom"))
    return out


def girts(run: Girts, members: Members) -> list[Laid]:
    """Rows on one face of the columns: the outside is the side away from the middle of all upright members."""
    columns = in_row([members[k] for k in run.columns], "girts")
    lines = [low_to_high(m) for m in columns]
    along = unit(lines[-1][0] - lines[0][0])
    normal = unit(crossed(along, (0.0, 0.0, 1.0)))
    uprights = [np.array(m.start) for m in members.values() if m.role in ("column", "post")]
    if uprights and float((np.mean(uprights, axis=0) - lines[0][0]) @ normal) > 0:
        normal = -normal
    normal = normal * (1 if run.side >= 0 else -1)
    foot, head = max(p[2] for p, *_ in lines), min((p + w * f)[2] for p, w, f in lines)
    out = []
    for row, z in enumerate(stations(run.first, head - foot - run.last, run.spacing, "girts")):
        points = []
        for m, (low, way, _) in zip(columns, lines, strict=True):
            at = low + way * ((foot + z - low[2]) / way[2])
            points.append(at + normal * reach_of(section(m.section), m, normal))
        out += _rows(run.section, "girt", row, points, normal, run.lap, 0.0)
    return out


def joists(run: Joists, members: Members) -> list[Laid]:
    """Joists from beam to beam, at even spacings along the first, none on its ends; their top follows the beams' top."""
    if len(run.beams) != 2:
        raise BadValue(f"{len(run.beams)} beams", "joists", "two beams side by side")
    a, b = (members[k] for k in run.beams)
    fa, fb = axis_frame(a), axis_frame(b)
    xa, full = np.array(fa.x), length(a)
    gaps = max(1, math.ceil(full / run.spacing - 1e-9)) if run.spacing > 0 else 0
    if not 1 < gaps <= 500:
        raise BadValue(f"a spacing of {run.spacing:g} mm on a beam of {full:.0f} mm", "joists", "a spacing that leaves one to 499 joists")
    tops = [section(m.section).h / 2 for m in (a, b)]
    out = []
    for i in range(1, gaps):
        start = fa.o + xa * (full * i / gaps)
        other = fb.o + np.array(fb.x) * float((start - fb.o) @ np.array(fb.x))
        station = float((other - fb.o) @ np.array(fb.x))
        if not -1.0 <= station <= length(b) + 1.0:
            continue
        up = np.array([0.0, 0.0, 1.0])
        out.append(Laid(f"{i}.0", run.section, "joist", vec(start + up * (tops[0] - run.drop)), vec(other + up * (tops[1] - run.drop)), 0.0, "top"))
    if not out:
        raise BadValue("the beams do not lie side by side", "joists", "two beams that overlap along their length")
    return out


def bracing(run: Bracing, members: Members) -> list[Laid]:
    """Diagonals between two columns: X crosses, one through and one in two pieces that end on it, rods both whole; single rises from the first; K meets at
    the second column's side in mid panel."""
    if len(run.columns) != 2:
        raise BadValue(f"{len(run.columns)} columns", "bracing", "two columns")
    (a, ua, la), (b, ub, lb) = (low_to_high(members[k]) for k in run.columns)
    low, high = max(a[2], b[2]) + run.base, min(a[2] + la * ua[2], b[2] + lb * ub[2]) - run.top
    if high - low < 100 or not 1 <= run.panels <= 50:
        raise BadValue(f"no room for {run.panels} panels between {low:.0f} and {high:.0f}", "bracing", "smaller offsets, 1 to 50 panels")

    def at(point: Array, way: Array, z: float) -> Any:
        return vec(point + way * ((z - point[2]) / way[2]))

    out = []
    for panel in range(run.panels):
        z0, z1 = (low + (high - low) * (panel + k) / run.panels for k in (0, 1))
        middle = (z0 + z1) / 2
        thin = section(run.section).shape == "RD"  # rods give way to each other
        falling = (at(b, ub, z0), at(a, ua, z1))
        rising = (at(a, ua, z0), at(b, ub, z1))
        met = crossing(np.array(rising), np.array(falling))
        assert met is not None  # one rises from where the other falls to
        cross = vec(np.array(rising[0]) + met[0] * (np.array(rising[1]) - np.array(rising[0])))
        ways = {
            "X": [rising, *([falling] if thin else [(falling[0], cross), (cross, falling[1])])],
            "single": [rising] if panel % 2 == 0 else [falling],
            "K": [(at(a, ua, z0), at(b, ub, middle)), (at(a, ua, z1), at(b, ub, middle))],
        }[run.pattern]
        out += [Laid(f"{panel}.{i}", run.section, "brace", start, end, 0.0, "centroid") for i, (start, end) in enumerate(ways)]
    return out


def portals(run: Portals, members: Members) -> list[Laid]:
    """Frames of two columns to the eaves and two rafters to the ridge, lines on the members' middles."""
    if run.span < 1000 or run.eaves < 500 or run.ridge < run.eaves:
        raise BadValue(
            f"span {run.span:g}, eaves {run.eaves:g}, ridge {run.ridge:g} mm", "portals", "span over 1 m, eaves over 0.5 m, ridge not under the eaves"
        )
    if not 1 <= len(run.bays) <= 500:
        raise BadValue(f"{len(run.bays)} frames", "portals", "1 to 500")
    c, s = math.cos(run.angle), math.sin(run.angle)
    along, across, up = np.array([c, s, 0.0]), np.array([-s, c, 0.0]), np.array([0.0, 0.0, 1.0])
    depth = roll_for(up, across, "plumb")
    out = []
    for frame, at in enumerate(run.bays):
        o = np.array(run.origin) + along * at
        left, right = o, o + across * run.span
        ridge = o + across * (run.span / 2) + up * run.ridge
        for i, foot in enumerate((left, right)):
            out.append(Laid(f"{frame}.{i}", run.column, "column", vec(foot), vec(foot + up * run.eaves), depth))
            out.append(Laid(f"{frame}.{i + 2}", run.rafter, "rafter", vec(foot + up * run.eaves), vec(ridge)))
    return out


LAY: dict[type, Callable[[Any, Members], list[Laid]]] = {Purlins: purlins, Girts: girts, Joists: joists, Bracing: bracing, Portals: portals}
REFERS = ("rafters", "columns", "beams")


def lay(run: Run, members: Members) -> list[Laid]:
    """What a run lays on these members, without the places taken out of it; raises BadValue where it cannot."""
    if not hasattr(run, "bays"):
        section(run.section)
    return [one for one in LAY[type(run)](run, members) if one.place not in run.loose]


def referred(run: Run) -> tuple[str, ...]:
    """Ids of the members a run lies on."""
    for name in REFERS:
        if hasattr(run, name):
            return tuple(getattr(run, name))
    return ()
