"""Members through each other away from any joint they share: what no connection's proof looks at."""

from dataclasses import dataclass

import numpy as np

from tincleat.catalogue.sections import section
from tincleat.geometry.boxes import meet
from tincleat.geometry.frames import Vec3, vec
from tincleat.geometry.mesh import Mesh, overlap
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.steel import cuts_of
from tincleat.project.members import axis_frame, length
from tincleat.proof.finding import Finding
from tincleat.steel.body import steel_mesh
from tincleat.units import format_volume

DEEP = 0.1  # mm that two bodies may be in each other: faces that touch
OPEN = 1.5  # depths of the deeper member round an end that nothing settles yet: what lies there is cut when it is joined


@dataclass(frozen=True)
class Through:
    """Two members that share steel: their ids, how much (mm³), and where, in the world."""

    one: str
    two: str
    volume: float
    where: Vec3


def through(ledger: Ledger) -> list[Through]:
    """Every two members, cut as their connections cut them, that share more than the house allows; those of one joint are proved there, if it has a proof."""
    finder, most = ledger.finder, ledger.project.house.clash_volume
    solids: dict[str, Mesh] = {}

    def solid(key: str) -> Mesh:
        if key not in solids:
            m = ledger.project.members[key]
            solids[key] = steel_mesh(section(m.section), cuts_of(ledger, key), 0.0, length(m), 2).placed(axis_frame(m))
        return solids[key]

    def loose(key: str, at: "np.ndarray") -> bool:
        """Whether a place lies where one of a member's ends still waits for its connection."""
        for end in ("start", "end"):
            entry = ledger.entries.get(ledger.by_end.get((key, end), ""))  # type: ignore[arg-type]
            if entry is not None and not entry.settled:
                room = OPEN * max(finder.shapes[k].h for k in entry.joint.members)
                if float(np.linalg.norm(at - entry.joint.frame.o)) <= room:
                    return True
        return False

    def reach(key: str) -> tuple[float, float]:
        """From where to where along its axis a member has steel at all, as its ends are cut."""
        low, high = 0.0, finder.lengths[key]
        y, z = finder.half[finder.index[key]]
        for e in cuts_of(ledger, key).ends:
            if abs(e.normal[0]) > 1e-6:
                across = (abs(e.normal[1]) * (y + abs(e.point[1])) + abs(e.normal[2]) * (z + abs(e.point[2]))) / abs(e.normal[0])
                low, high = (max(low, e.point[0] - across), high) if e.normal[0] > 0 else (low, min(high, e.point[0] + across))
        return low, high

    pairs = finder.passes()
    if not pairs:
        return []
    span = np.array([reach(k) for k in finder.ids])
    half = np.column_stack([(span[:, 1] - span[:, 0]) / 2, finder.half])
    rows = np.array([(finder.index[a], finder.index[b]) for a, b in pairs])
    near = meet(finder.origin + finder.axes[:, 0] * span.mean(axis=1)[:, None], finder.axes, half, rows[:, 0], rows[:, 1], DEEP)
    out = []
    for one, two in (pairs[i] for i in np.flatnonzero(near).tolist()):
        shared = [e for e in ledger.entries.of_member(one) if two in e.joint.members]
        if any(e.made is not None or not e.settled for e in shared):  # an end left plain by rule has no proof of its own
            continue
        volume, where = overlap(solid(one), solid(two))
        if volume > most and not loose(one, np.asarray(where)) and not loose(two, np.asarray(where)):
            out.append(Through(one, two, volume, vec(where)))
    return out


def told(ledger: Ledger) -> list[tuple[Through, Finding]]:
    """The same as findings, as the proof tells them."""
    house = ledger.project.house
    out = []
    for t in through(ledger):
        a, b = (ledger.project.members[k] for k in (t.one, t.two))
        names = f"{a.name or a.id} {a.section} and {b.name or b.id} {b.section}"
        share = format_volume(t.volume, house.units)
        clause = f"house rule: at most {format_volume(house.clash_volume, house.units)} shared"
        out.append((t, Finding("clash", "Members through each other", clause, "breach", names, t.volume, house.clash_volume, "<=", "mm³", t.where, f"{names} share {share}")))
    return out
