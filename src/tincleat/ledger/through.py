"""What no connection's proof looks at, for it takes more than one: members through each other away from any joint they share, and members
that neither of their ends lets in."""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from tincleat.catalogue.sections import Section, section
from tincleat.geometry.boxes import meet
from tincleat.geometry.frames import Vec3, vec
from tincleat.geometry.mesh import Mesh, overlap
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.steel import cuts_of
from tincleat.project.entities import End, HouseRules, Member
from tincleat.project.members import axis_frame, length
from tincleat.proof.finding import Finding
from tincleat.steel.body import steel_mesh
from tincleat.units import format_volume

MOST_NAMED = 3
ENDS: tuple[End, End] = ("start", "end")
DEEP = 0.1  # mm that two bodies may be in each other: faces that touch
OPEN = 1.5  # depths of the deeper member round an end that nothing settles yet: what lies there is cut when it is joined


@dataclass(frozen=True)
class Through:
    """Two members that share steel: their ids, how much (mm³), and where, in the world."""

    one: str
    two: str
    volume: float
    where: Vec3

    @property
    def members(self) -> tuple[str, ...]:
        """Whom it is about."""
        return (self.one, self.two)


@dataclass(frozen=True)
class Stuck:
    """Like members that go into their places along their own axis only, at both of their ends, and where the first one's middle is, in the world."""

    members: tuple[str, ...]
    where: Vec3


class Overlaps:
    """Members through each other and members stuck in one ledger's model, kept in step: only members that differ from when they were last looked at, with
    what makes of them at their joints, are looked at again."""

    def __init__(self, ledger: Ledger) -> None:
        self.ledger = ledger
        self.known = False  # whether they were ever asked for
        self._seen: dict[str, tuple[Member, object, Section, object]] = {}
        self._found: dict[tuple[str, str], Through] = {}
        self._most = -1.0
        self._told: tuple[HouseRules, list[tuple[Through | Stuck, Finding]]] | None = None

    def told(self) -> list[tuple[Through | Stuck, Finding]]:
        """All of them as findings; the same as before where no member differs, nor the unit they are told in."""
        found, house = self.found(), self.ledger.project.house
        if self._told is None or self._told[0] is not house:
            self._told = (house, told(self.ledger, found))
        return self._told[1]

    def _steel(self, key: str) -> object:
        """What is made of a member at its joints, as far as overlaps and ways in depend on it: its cuts, how its ends stand, what has a proof of its own."""
        ledger = self.ledger
        proved = frozenset((e.joint.members, e.made is not None, e.settled) for e in ledger.entries.of_member(key))
        return tuple(ledger.cuts_by(key)), proved, tuple(_axial(ledger, key, end) for end in ENDS)

    def found(self) -> list[Through]:
        """Every two members that share more than the house allows, in member order."""
        ledger, finder = self.ledger, self.ledger.finder
        if self._most != ledger.project.house.clash_volume:
            self._seen, self._found, self._most = {}, {}, ledger.project.house.clash_volume
        fresh = []
        for key, member in ledger.project.members.items():
            old, stamp, shape = self._seen.get(key), ledger.entries.stamp(key), finder.shapes[key]
            if old is None or old[0] is not member or old[1] is not stamp or old[2] is not shape:
                steel = self._steel(key)
                if old is None or old[0] is not member or old[2] is not shape or old[3] != steel:
                    fresh.append(key)
                self._seen[key] = (member, stamp, shape, steel)
        gone = self._seen.keys() - ledger.project.members.keys()
        for key in gone:
            del self._seen[key]
        if fresh or gone:
            self._told = None
            anew = gone | set(fresh)
            kept = {pair: t for pair, t in self._found.items() if anew.isdisjoint(pair)}
            kept |= {(t.one, t.two): t for t in through(ledger, fresh if self.known else None)}
            self._found = dict(sorted(kept.items(), key=lambda item: (finder.index[item[0][0]], finder.index[item[0][1]])))
        self.known = True
        return list(self._found.values())


def through(ledger: Ledger, only: Iterable[str] | None = None) -> list[Through]:
    """Every two members, cut as their connections cut them, that share more than the house allows, or those that one of some members is of;
    members of one joint are proved there, if it has a proof."""
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

    pairs = finder.passes(only)
    if not pairs:
        return []
    concerned = range(len(finder.ids)) if only is None else sorted({finder.index[k] for pair in pairs for k in pair})
    span = np.column_stack([np.zeros(len(finder.ids)), finder.length])
    span[concerned] = [reach(finder.ids[i]) for i in concerned]
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


def stuck(ledger: Ledger) -> list[Stuck]:
    """Members whose connections let both their ends in along their own axis only, so that the second end has no way in; like ones together."""
    groups: dict[tuple[object, ...], list[str]] = {}
    for key, m in ledger.project.members.items():
        ends = [_axial(ledger, key, end) for end in ENDS]
        if all(ends):
            groups.setdefault((m.section, *sorted(ends)), []).append(key)
    out = []
    for keys in groups.values():
        m = ledger.project.members[keys[0]]
        (a, b, c), (d, e, f) = m.start, m.end
        out.append(Stuck(tuple(keys), ((a + d) / 2, (b + e) / 2, (c + f) / 2)))
    return out


def _axial(ledger: Ledger, member: str, end: End) -> int:
    """The detail that lets a member's end in along its axis only, by its identity; 0 if there is another way."""
    entry = ledger.entries.get(ledger.by_end.get((member, end), ""))
    axial = entry is not None and entry.made is not None and entry.joint.members.index(member) in entry.made.axial
    return id(entry.made) if entry is not None and axial else 0


def told(ledger: Ledger, found: list[Through] | None = None) -> list[tuple[Through | Stuck, Finding]]:
    """Both as findings, as the proof tells them; ``found`` if overlaps are known."""
    house = ledger.project.house
    out: list[tuple[Through | Stuck, Finding]] = []
    for t in through(ledger) if found is None else found:
        a, b = (ledger.project.members[k] for k in (t.one, t.two))
        names = f"{a.name or a.id} {a.section} and {b.name or b.id} {b.section}"
        share = format_volume(t.volume, house.units)
        clause = f"house rule: at most {format_volume(house.clash_volume, house.units)} shared"
        out.append((t, Finding("clash", "Members through each other", clause, "breach", names, t.volume, house.clash_volume, "<=", "mm³", t.where, f"{names} share {share}")))
    for s in stuck(ledger):
        some = [ledger.project.members[k] for k in s.members]
        names = f"{some[0].section} {', '.join(m.name or m.id for m in some[:MOST_NAMED])}" + (f" and {len(some) - MOST_NAMED} more" if len(some) > MOST_NAMED else "")
        go = "goes" if len(some) == 1 else "go"
        words = f"{names} {go} in along the axis only, at both ends: one support must be put up later, or plates reach past the support's flanges"
        out.append((s, Finding("way-in", "Way in for the member", "practice: one end lets a member in from beside, above or below", "note", names, 0.0, 1.0, ">=", "", s.where, words)))
    return out
