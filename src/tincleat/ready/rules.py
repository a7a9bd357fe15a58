"""True-up rules, each a function on :class:`Work`; the table at the end names them, their settings and their order."""

from collections.abc import Mapping
from dataclasses import dataclass

import msgspec
import numpy as np

from tincleat.catalogue.sections import section
from tincleat.geometry.frames import Array, crossed, unit
from tincleat.project.entities import End, Member
from tincleat.project.members import axis_frame, length
from tincleat.project.motion import roll_for
from tincleat.ready.work import ENDS, FLAT, Near, RuleRun, Work, ended, gravity_line, is_level, is_lying, is_upright, top_of, way_of

LEVEL_NEAR = 1.0  # mm within which a line lies at a level
SAME_NODE = 450.0  # mm along a chord within which web members belong to one node


def floor_beams(work: Work, settings: Mapping[str, float]) -> None:
    """Level beams and joists drawn at a level hang by their top, so that the top of steel is the level."""
    for m in list(work.members.values()):
        if m.role not in ("beam", "joist") or not is_level(m) or not work.asked(m):
            continue
        if not any(abs(m.start[2] - z) <= LEVEL_NEAR for z in work.levels):
            continue
        shape = section(m.section)
        if abs(axis_frame(m).z[2]) < 0.999:
            work.leave("floor-beams", m, f"{shape.name} lies rolled: its top is not a flange")
            continue
        high = round(top_of(m, np.array(m.start)), 3)
        drop = settings["drop"]
        offset = (m.offset[0], -drop + 0.0)
        side = "left" if "left" in m.cardinal else "right" if "right" in m.cardinal else ""
        new = msgspec.structs.replace(m, cardinal=("top " + side).strip(), offset=offset)
        if abs(high - (m.start[2] - drop)) > 0.01:
            work.put("floor-beams", new, f"top of steel {high:.1f} → {m.start[2] - drop:.1f}")


def horizontal_bracing(work: Work, settings: Mapping[str, float]) -> None:
    """Level bracing goes under the top flange of the beams it runs between: its top ``offset`` under the deepest flange."""
    for m in list(work.members.values()):
        if m.role != "brace" or not is_level(m) or not work.asked(m):
            continue
        carriers: list[tuple[float, float, Near]] = []
        for end in ENDS:
            beams = [n for n in _reaching(work, m, end) if is_lying(n.member)]
            carriers += [(top_of(n.member, np.array(getattr(m, end))), section(n.member.section).tf or section(n.member.section).tw, n) for n in beams]
        if not carriers:
            work.leave("horizontal-bracing", m, "no beam is near either end")
            continue
        top = min(t for t, *_ in carriers)
        if max(t for t, *_ in carriers) - top > 50.0:
            work.leave("horizontal-bracing", m, f"its beams' tops lie {max(t for t, *_ in carriers) - top:.0f} mm apart")
            continue
        frame, shape = axis_frame(m), section(m.section)
        reach = abs(frame.z[2]) * shape.h / 2 + abs(frame.y[2]) * shape.b / 2
        want = top - max(tf for _, tf, _ in carriers) - settings["offset"] - reach
        by = want - frame.o[2]
        if abs(by) > 0.01:
            new = ended(m, {end: np.add(getattr(m, end), (0.0, 0.0, by)) for end in ENDS})
            work.put("horizontal-bracing", new, f"{abs(by):.1f} mm {'down' if by < 0 else 'up'}, under the flange")


def _reaching(work: Work, m: Member, end: End) -> list[Near]:
    """Members at a brace's end, looked for over and under it too: the brace may have been moved off the beams' line already."""
    p = np.array(getattr(m, end))
    out: dict[str, Near] = {}
    for dz in (0.0, 150.0, -150.0, 300.0):
        for n in work.near((float(p[0]), float(p[1]), float(p[2] + dz)), m.id):
            out.setdefault(n.member.id, n)
    return list(out.values())


def vertical_bracing(work: Work, settings: Mapping[str, float]) -> None:
    """Working points at a beam go from wherever they are on its depth to its centre line; at column feet they stay."""
    for m in list(work.members.values()):
        if m.role != "brace" or abs(way_of(m)[2]) <= FLAT or not work.asked(m):
            continue
        ends: dict[End, Array] = {}
        words = []
        columns = 0
        for end in ENDS:
            point = np.array(getattr(m, end))
            near = _reaching(work, m, end)
            beams = [n for n in work.near(getattr(m, end), m.id) if is_lying(n.member) and n.member.role in ("beam", "joist") and n.gap < 5.0]
            beams = beams or [n for n in near if is_lying(n.member) and n.member.role in ("beam", "joist")]
            columns += any(is_upright(n.member) for n in near)
            if not beams:
                continue
            heights = {round(_centre_height(n.member, point), 2) for n in beams}
            if len(heights) > 1 and max(heights) - min(heights) > 1.0:
                work.leave("vertical-bracing", m, f"at its {end} the beams' centre lines lie {max(heights) - min(heights):.0f} mm apart")
                continue
            want = _centre_height(beams[0].member, point)
            if abs(want - point[2]) > 0.05:
                ends[end] = np.array([point[0], point[1], want])
                words.append(f"{end} {abs(want - point[2]):.1f} mm {'down' if want < point[2] else 'up'}")
        if ends and columns:
            work.put("vertical-bracing", ended(m, ends), ", ".join(words) + ", to centre lines")


def _centre_height(beam: Member, at: Array) -> float:
    frame = axis_frame(beam)
    x = np.array(frame.x)
    flat = float(x[:2] @ x[:2])
    return float(frame.o[2] + x[2] * ((at[:2] - frame.o[:2]) @ x[:2]) / flat)


def trusses(work: Work, settings: Mapping[str, float]) -> None:
    """Web members between two chords: their centre-of-gravity lines and the chord's meet at one point, to the hundredth of a millimetre."""
    webs: dict[str, dict[End, tuple[Near, float]]] = {}
    for m in work.members.values():
        if m.role not in ("brace", "post", "other") or not work.asked(m):
            continue
        found: dict[End, tuple[Near, float]] = {}
        for end in ENDS:
            chords = [n for n in _reaching(work, m, end) if _is_chord(n.member, m)]
            if chords:
                n = min(chords, key=lambda c: (c.gap, -length(c.member)))
                point, way = gravity_line(n.member)
                found[end] = (n, float((np.array(getattr(m, end)) - point) @ way))
        if len(found) == 2 and found["start"][0].member.id != found["end"][0].member.id:
            webs[m.id] = found
    nodes: dict[tuple[str, int], list[tuple[str, End, float]]] = {}
    for chord in {n.member.id for found in webs.values() for n, _ in found.values()}:
        mine = sorted(((s, key, end) for key, found in webs.items() for end, (n, s) in found.items() if n.member.id == chord), key=lambda v: v[0])
        group, last = 0, -1e9
        for s, key, end in mine:
            group += s - last > SAME_NODE
            last = s
            nodes.setdefault((chord, group), []).append((key, end, s))
    target: dict[tuple[str, End], Array] = {}
    for (chord, _), members in nodes.items():
        point, way = gravity_line(work.members[chord])
        station = float(np.mean([s for *_, s in members]))
        for key, end, _ in members:
            target[(key, end)] = point + way * station
    for key in webs:
        m = work.members[key]
        new = msgspec.structs.replace(ended(m, {end: target[(key, end)] for end in ENDS}), cardinal="centroid", offset=(0.0, 0.0))
        far = max(float(np.linalg.norm(target[(key, end)] - _gravity_end(m, end))) for end in ENDS)
        if far > 0.01:
            work.put("trusses", new, f"{far:.1f} mm, gravity lines to one point")
    for m in work.members.values():
        if m.role == "other" and not is_upright(m) and m.id not in webs and work.asked(m):
            work.leave("trusses", m, "it does not run from chord to chord")


def _is_chord(chord: Member, web: Member) -> bool:
    across = abs(float(way_of(chord) @ way_of(web)))
    return is_lying(chord) and chord.role != "joist" and across < 0.97 and abs(float(crossed(way_of(chord), way_of(web))[2])) < 0.05


def _gravity_end(m: Member, end: End) -> Array:
    point, way = gravity_line(m)
    return point if end == "start" else point + way * length(m)


def purlins(work: Work, settings: Mapping[str, float]) -> None:
    """Purlins and girts sit on the outer face of what carries them, depth square to it."""
    uprights = [np.array(m.start) for m in work.members.values() if is_upright(m)]
    middle = np.mean(uprights, axis=0) if uprights else np.zeros(3)
    for m in list(work.members.values()):
        if m.role not in ("purlin", "girt") or not work.asked(m):
            continue
        if lap := next((found for end in ENDS if (found := work.lapped(m, end)) is not None), None):
            work.leave("purlins", m, f"it laps on {lap.name or lap.section} there: it stays as it was laid")
            continue
        ends: dict[End, Array] = {}
        normals = []
        for end in ENDS:
            point = np.array(getattr(m, end))
            carriers = [n for n in work.near(getattr(m, end), m.id) if (n.member.role == "rafter" if m.role == "purlin" else is_upright(n.member))]
            if not carriers:
                continue
            carrier = carriers[0].member
            x = way_of(carrier)
            outward = np.array([0.0, 0.0, 1.0]) if m.role == "purlin" else np.array([*(point - middle)[:2], 0.0])
            along = way_of(m)
            normal = outward - x * float(outward @ x) - along * float(outward @ along)
            normal = unit(normal - x * float(normal @ x))
            frame, shape = axis_frame(carrier), section(carrier.section)
            reach = abs(float(normal @ np.array(frame.z))) * shape.h / 2 + abs(float(normal @ np.array(frame.y))) * shape.b / 2
            ends[end] = point + normal * (reach - float((point - frame.o) @ normal) + settings["gap"])
            normals.append(normal)
        if len(ends) < 2:
            work.leave("purlins", m, "nothing carries it at " + " and ".join(e for e in ENDS if e not in ends))
            continue
        moved = ended(m, ends)
        x = way_of(moved)
        z = unit(normals[0] - x * float(normals[0] @ x))
        new = msgspec.structs.replace(moved, roll=roll_for(x, z, moved.up), cardinal="bottom", offset=(0.0, 0.0))
        by = float(np.linalg.norm(ends["start"] - np.array(m.start)))
        work.put("purlins", new, f"{by:.1f} mm out, on the {'rafter' if m.role == 'purlin' else 'column'}")


def splices(work: Work, settings: Mapping[str, float]) -> None:
    """Columns that an analysis breaks at a floor are spliced ``height`` over it instead."""
    above = {(round(m.start[0]), round(m.start[1]), round(m.start[2])): m for m in map(_upward, work.members.values()) if m is not None}
    for key in list(work.members):
        m = work.members[key]  # its other end may have been moved meanwhile
        lower = _upward(m)
        if lower is None or not work.asked(m):
            continue
        upper = above.get((round(lower.end[0]), round(lower.end[1]), round(lower.end[2])))
        if upper is None or upper.id == m.id or abs(float(way_of(lower) @ way_of(upper))) < 0.9999:
            continue
        # a splice that lies away from every floor is where it belongs already
        if not any(abs(lower.end[2] - z) < settings["height"] * 0.6 for z in work.levels):
            continue
        floor = min(work.levels, key=lambda z: abs(z - lower.end[2]))
        by = (floor + settings["height"] - lower.end[2]) / float(way_of(lower)[2])
        if length(upper) - by < 500.0:
            work.leave("splices", m, f"only {max(0.0, length(upper) - by):.0f} mm of the upper length would be left")
            continue
        point = np.array(lower.end) + way_of(lower) * by
        for one, upward_end in ((m, True), (work.members[upper.id], False)):
            rises = way_of(one)[2] > 0
            end: End = "end" if rises == upward_end else "start"
            work.put("splices", ended(one, {end: point}), f"{by:.0f} mm up, {settings['height']:.0f} over the floor")


def _upward(m: Member) -> Member | None:
    """An upright member with its start below its end; None for others."""
    if m.role not in ("column", "post") or not is_upright(m):
        return None
    return m if m.end[2] > m.start[2] else msgspec.structs.replace(m, start=m.end, end=m.start)


@dataclass(frozen=True)
class Rule:
    """A true-up rule: what it is called, what it does, its settings (name, label, default in mm), and its function."""

    name: str
    label: str
    help: str
    settings: tuple[tuple[str, str, float], ...]
    run: RuleRun


RULES: dict[str, Rule] = {
    r.name: r
    for r in (
        Rule("splices", "Column splices over the floor", "Columns broken at a floor are spliced some way over it.", (("height", "Over the floor", 500.0),), splices),
        Rule("floor-beams", "Floor beams by top of steel", "Beams drawn at a level hang by their top.", (("drop", "Top of steel under the level", 0.0),), floor_beams),
        Rule("purlins", "Purlins and girts on the outer face", "They sit on the face of rafter or column.", (("gap", "Gap to the face", 0.0),), purlins),
        Rule("trusses", "Truss members meet at one point", "Centre-of-gravity lines of web members and chord cross at one point.", (), trusses),
        Rule("horizontal-bracing", "Horizontal bracing under the flange", "Level bracing goes under the beams' top flange.", (("offset", "Under the flange", 20.0),), horizontal_bracing),
        Rule("vertical-bracing", "Vertical bracing to centre lines", "Working points at beams go to the beam's centre line; at feet they stay.", (), vertical_bracing),
    )
}  # fmt: skip
