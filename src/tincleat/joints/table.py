"""Where the members of a model lie and which come near each other: boxes, meetings, and what the finding of joints asks of a member."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Self

import msgspec
import numpy as np
import shapely

from tincleat.catalogue.sections import Section, at_share, section
from tincleat.geometry.frames import Array, Frame, Vec3, vec
from tincleat.geometry.lines import apart
from tincleat.geometry.tolerances import NEARLY_MEETS
from tincleat.joints.case import CHANNELS, LAPPED, REACH, Joint, Kind, Steel, make_case, near_cuts
from tincleat.project.entities import End, Member
from tincleat.project.members import axis_frame, length
from tincleat.steel.cuts import NONE, Cuts
from tincleat.steel.members import own_cuts

STEEP = 0.80  # |z| of a member's direction above which it counts as upright
FEW = 60  # changed members up to which each is looked round by itself
PLACES: tuple[End | None, ...] = ("start", "end", None)
LIE = ("purlin", "girt")  # roles of what lies on others in rows
AT_END = 60.0  # mm from a member's end within which a meeting counts as end to end


@dataclass(frozen=True)
class Meeting:
    """One end near another member: station along it, distance to its body, and the direction out of the end in its frame."""

    other: str
    station: float
    distance: float
    at_end: End | None


class Table:
    """Members in tables, kept in step by :meth:`changed`."""

    def __init__(self, members: Mapping[str, Member], units: str = "mm", along: frozenset[str] = frozenset()) -> None:
        """``along`` names the families whose place on a member is a stretch of it, not a station."""
        self.members, self.units, self.along = members, units, along
        self.ids: list[str] = []
        self.index: dict[str, int] = {}
        # what is asked of a member again and again, by id: asking by value costs more than the answer
        self.frames: dict[str, Frame] = {}
        self.shapes: dict[str, Section] = {}
        self.lengths: dict[str, float] = {}
        self._now: tuple[frozenset[int], dict[tuple[int, str], list[Meeting]]] = (frozenset(), {})  # while joints are looked for
        self._own: dict[str, list[Joint]] = {}  # joints of single members, until one changes
        self._lay(0)
        self.changed(members)

    def _lay(self, count: int) -> None:
        self.origin, self.axes = np.zeros((count, 3)), np.zeros((count, 3, 3))
        self.length, self.half, self.line = np.zeros(count), np.zeros((count, 2)), np.zeros((count, 2, 3))
        self.low, self.high = np.zeros((count, 3)), np.zeros((count, 3))
        self.points = np.zeros((count, 4, 3))  # ends of the system line and of the body's
        self.further = np.zeros(count)  # mm about those that members make a difference to them, beside what nearly meets
        self.boxes = np.empty(count, dtype=object)

    @property
    def _tables(self) -> tuple["np.ndarray", ...]:
        return (self.origin, self.axes, self.length, self.half, self.line, self.low, self.high, self.points, self.further, self.boxes)

    def _row(self, i: int, member: Member) -> None:
        frame, shape = axis_frame(member), section(member.section)
        self.frames[member.id], self.shapes[member.id], self.lengths[member.id] = frame, shape, length(member)
        self.origin[i], self.axes[i], self.length[i] = frame.origin, frame.axes, self.lengths[member.id]
        self.half[i] = shape.b / 2, shape.reach
        self.line[i] = member.start, member.end
        self.further[i] = LAPPED if member.role in LIE else 0.0

    def speak(self, units: str) -> None:
        """Write lengths in other units from now on."""
        self.units = units
        self._own.clear()

    def changed(self, ids: Iterable[str]) -> set[str]:
        """Take members that were added, removed or changed as they are now in ``members``; all whose joints may differ for it."""
        ids = list(dict.fromkeys(ids))
        self._own.clear()
        near = self._around([self.index[k] for k in ids if k in self.index])
        gone = [self.index[k] for k in ids if k in self.index and k not in self.members]
        new = [k for k in ids if k not in self.index and k in self.members]
        if gone or new:
            kept = np.setdiff1d(np.arange(len(self.ids)), gone)
            before = [table[kept] for table in self._tables]
            self.ids = [self.ids[i] for i in kept.tolist()] + new
            self.index = {key: i for i, key in enumerate(self.ids)}
            self._lay(len(self.ids))
            for table, old in zip(self._tables, before, strict=True):
                table[: len(kept)] = old
        rows = [self.index[k] for k in ids if k in self.members]
        for i in rows:
            self._row(i, self.members[self.ids[i]])
        # boxes with room for what nearly meets a member, and the tree over them
        ends = self.origin[rows] + self.axes[rows, 0] * self.length[rows, None]
        reach = np.max(self.half[rows], axis=1, initial=0.0)[:, None] * 1.5 + NEARLY_MEETS
        low, high = np.minimum(self.origin[rows], ends) - reach, np.maximum(self.origin[rows], ends) + reach
        self.low[rows], self.high[rows] = low, high
        self.points[rows, :2], self.points[rows, 2], self.points[rows, 3] = self.line[rows], self.origin[rows], ends
        self.boxes[rows] = shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1])
        self.tree = shapely.STRtree(self.boxes)
        return (near | self._around(rows) | set(ids)) & self.index.keys()

    def _around(self, rows: list[int]) -> set[str]:
        """Members with an end in the boxes of some members."""
        if not rows or len(rows) > len(self.ids) // 2:
            return set(self.ids) if rows else set()
        if len(rows) > FEW:
            tree = shapely.STRtree(self.boxes[rows])
            flat, more = self.points.reshape(-1, 3), np.repeat(self.further, 4)
            low, high = flat - more[:, None], flat + more[:, None]
            point, box = tree.query(shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1]))
            chosen = np.array(rows)[box]
            inside = (high[point, 2] >= self.low[chosen, 2]) & (low[point, 2] <= self.high[chosen, 2])
            return {self.ids[i] for i in np.unique(point[inside] // 4).tolist()}
        hit: set[int] = set()
        x, y, z = self.points[:, :, 0], self.points[:, :, 1], self.points[:, :, 2]
        f = self.further[:, None]
        for i in rows:
            (x0, y0, z0), (x1, y1, z1) = self.low[i], self.high[i]
            near = np.unique(np.nonzero((x >= x0 - f) & (x <= x1 + f))[0])  # most are ruled out along one axis
            n = f[near]
            inside = (y[near] >= y0 - n) & (y[near] <= y1 + n) & (z[near] >= z0 - n) & (z[near] <= z1 + n) & (x[near] >= x0 - n) & (x[near] <= x1 + n)
            hit.update(near[inside.any(axis=1)].tolist())
        return {self.ids[i] for i in hit}

    def box(self, key: str) -> tuple[Array, Array] | None:
        """Least and greatest corner (3,) round a member, with room for what nearly meets it; None where it is not known."""
        i = self.index.get(key)
        return None if i is None else (self.low[i].copy(), self.high[i].copy())

    def strangers(self, low: Array, high: Array, own: "Sequence[Sequence[str]]") -> list[tuple[int, str]]:
        """Members that reach into boxes (corners (n, 3), mm) without being one of the box's own, as (number of the box, member), in order."""
        if not len(low) or not self.ids:
            return []
        box, member = self.tree.query(shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1]))
        keep = (self.low[member, 2] < high[box, 2]) & (self.high[member, 2] > low[box, 2])
        box, member = box[keep], member[keep]
        middle, half = (low[box] + high[box]) / 2, (high[box] - low[box]) / 2
        at = np.einsum("nij,nj->ni", self.axes[member], middle - self.origin[member])
        reach = np.einsum("nij,nj->ni", np.abs(self.axes[member]), half)
        inside = (at[:, 0] + reach[:, 0] > 0) & (at[:, 0] - reach[:, 0] < self.length[member])
        inside &= (np.abs(at[:, 1:]) - reach[:, 1:] < self.half[member]).all(axis=1)
        return sorted((i, key) for i, m in zip(box[inside].tolist(), member[inside].tolist(), strict=True) if (key := self.ids[m]) not in own[i])

    def passes(self, only: Iterable[str] | None = None) -> list[tuple[str, str]]:
        """Pairs of members whose bodies could touch somewhere, by how near their middle lines come; each once, in member order.
        With ``only`` those that one of these members is of."""
        if len(self.ids) < 2:
            return []
        if only is None:
            one, two = self.tree.query(self.boxes)
        else:
            rows = np.array(sorted(self.index[key] for key in only), dtype=np.intp)
            who, other = self.tree.query(self.boxes[rows])
            one, two = np.unique(np.sort(np.column_stack([rows[who], other]), axis=1), axis=0).T
        keep = (one < two) & (self.low[one, 2] < self.high[two, 2]) & (self.low[two, 2] < self.high[one, 2])
        one, two = one[keep], two[keep]
        reach = np.hypot(self.half[:, 0], self.half[:, 1])
        ends = self.origin + self.axes[:, 0] * self.length[:, None]
        line = np.stack([self.origin, ends], axis=1)
        near = apart(line[one], line[two]) < reach[one] + reach[two]
        return [(self.ids[i], self.ids[j]) for i, j in sorted(zip(one[near].tolist(), two[near].tolist(), strict=True))]

    def beside(self, more: Mapping[str, Member]) -> Self:
        """A finder of the same members with ``more`` added or put in their place; this one stays as it is."""
        out = type(self)({}, self.units, self.along)
        out.members, out.ids, out.index = {**self.members, **more}, list(self.ids), dict(self.index)
        out.frames, out.shapes, out.lengths = dict(self.frames), dict(self.shapes), dict(self.lengths)
        out.origin, out.axes, out.length, out.half, out.line, out.low, out.high, out.points, out.further, out.boxes = (table.copy() for table in self._tables)
        out.changed(more)
        return out

    def _met(self, key: str, end: End) -> "list[Meeting]":
        """What lies near a member's end: as found for those whose joints are being looked for, else measured."""
        i = self.index[key]
        rows, found = self._now
        return (found if i in rows else self._meetings(np.array([i]))).get((i, end), [])

    def _meetings(self, chosen: "np.ndarray") -> "dict[tuple[int, str], list[Meeting]]":
        """What lies near each end of the chosen members, measured in arrays."""
        axis = self.origin[chosen]
        far = axis + self.axes[chosen, 0] * self.length[chosen][:, None]
        system = self.line[chosen]
        out: dict[tuple[int, str], list[Meeting]] = {}
        for end, body, line in (("start", axis, system[:, 0]), ("end", far, system[:, 1])):
            who, other = self.tree.query(shapely.points(line[:, 0], line[:, 1]))
            keep = chosen[who] != other
            who, other = who[keep], other[keep]
            order = np.lexsort((other, who))  # the tree's own order would settle ties by chance
            who, other = who[order], other[order]
            station, gap = self.reach(line[who], other)
            station_b, gap_b = self.reach(body[who], other)
            nearer = gap_b < gap - 1e-6
            station, gap = np.where(nearer, station_b, station), np.where(nearer, gap_b, gap)
            close = gap <= NEARLY_MEETS
            who, other, station, gap = chosen[who[close]], other[close], station[close], gap[close]
            full = self.length[other]
            zone = np.minimum(AT_END + self.half[who].max(axis=1), full / 3)
            place = np.where(station <= zone, 0, np.where(station >= full - zone, 1, 2)).tolist()
            for w, o, s, g, p in zip(who.tolist(), other.tolist(), station.tolist(), gap.tolist(), place, strict=True):
                out.setdefault((w, end), []).append(Meeting(self.ids[o], s, g, PLACES[p]))
        return out

    def reach(self, points: Array, other: "np.ndarray") -> tuple[Array, Array]:
        """Station of points along members and distance to their bounding bodies, mm."""
        local = np.einsum("nij,nj->ni", self.axes[other], points - self.origin[other])
        x = np.maximum(np.maximum(-local[:, 0], local[:, 0] - self.length[other]), 0)
        y = np.maximum(np.abs(local[:, 1]) - self.half[other, 0], 0)
        z = np.maximum(np.abs(local[:, 2]) - self.half[other, 1], 0)
        return local[:, 0], np.sqrt(x * x + y * y + z * z)

    def _out(self, key: str, end: End) -> Frame:
        """Frame on the section's middle at a member's end, x pointing from the end into the member, depth kept (upward if it may be)."""
        frame, shape = self.frames[key], self.shapes[key]
        full, rise, x, z = 0.0, 0.0, frame.x, frame.z
        if end == "end":
            full, x = self.lengths[key], back(x)
            rise = sum(shape.slopes) / 2 if shape.h_end else 0.0
        origin = frame.moved(full, 0.0, rise).origin
        if (shape.symmetric or shape.shape in CHANNELS) and z[2] < -1e-9:
            z = back(z)
        return Frame(origin, x, z)

    def _lead(self, key: str, end: End, origin: Vec3, role: str = "supported") -> Steel:
        """The steel of the member that is joined, from the joint's origin on, however far its line was drawn into the support.

        Its x points away from the joint, for sections that can be turned so; an angle or a zed at its far end keeps its own.
        """
        full = self.lengths[key]
        own = self.frames[key]
        member, _ = self._local(key, own, origin)
        x, z, low, high = own.x, own.z, 0.0, full
        shape = self.shapes[key]
        if end == "end":
            if shape.symmetric or shape.shape == "T":
                x = back(x)
            elif shape.shape in CHANNELS:
                x, z = back(x), back(z)
            else:
                low, high = -full, 0.0
        if shape.symmetric and z[2] < -1e-9:
            z = back(z)
        at = Frame(origin, x, z)
        return Steel(member, at, low, high, role, self._own_cuts(key, at))

    def _local(self, key: str, frame: Frame, point: "Vec3 | Array") -> tuple[Member, float]:
        """A member as it is beside a point, and how far its middle lies there over its start's: of a tapered girder the section at
        that place.  ``frame`` is the member's axis frame."""
        member, shape = self.members[key], self.shapes[key]
        if not shape.h_end:
            return member, 0.0
        station = float((np.asarray(point) - frame.o) @ np.array(frame.x))
        local, rise = at_share(shape, min(1.0, max(0.0, station / length(member))))
        return msgspec.structs.replace(member, section=local.name), rise

    def _direction(self, key: str) -> Array:
        return np.array(self.frames[key].x)

    def _is_upright(self, key: str) -> bool:
        return abs(self.frames[key].x[2]) > STEEP

    def _upper_end(self, key: str) -> End:
        return "end" if self._direction(key)[2] > 0 else "start"

    def _name(self, key: str) -> str:
        return self.members[key].section

    def _steel(self, key: str, frame: Frame, role: str) -> Steel:
        """A member that goes on through a joint, its frame at the station beside the joint's origin."""
        own = self.frames[key]
        station = dot(less(frame.origin, own.origin), own.x)
        member, rise = self._local(key, own, frame.origin)
        return Steel(member, at := own.moved(x=station, z=rise), -station, length(member) - station, role, self._own_cuts(key, at))

    def _own_cuts(self, key: str, at: Frame) -> Cuts:
        """The cuts a member has of itself near a place, in ``at``."""
        member = self.members[key]
        if not member.cuts and not member.outs:
            return NONE
        return near_cuts(own_cuts(member).seen_from(axis_frame(member).inside(at)), -REACH, REACH)

    def _carrying(self, key: str) -> str:
        """The role of what a brace ends at: ``column``, ``beam``, or ``through`` for a brace that passes."""
        return "through" if self.members[key].role == "brace" else "column" if self._is_upright(key) else "beam"

    def _nearest(self, end: "tuple[str, End]", point: Array) -> Array:
        """The point of a member's middle line nearest to a point."""
        own = self.frames[end[0]]
        return own.o + np.array(own.x) * float((point - own.o) @ np.array(own.x))

    def _risen(self, key: str, end: End, frame: Frame) -> Frame:
        """A joint's frame on the middle line of a tapered girder, which leans: at the frame's own station, not at the girder's end."""
        shape = self.shapes[key]
        if not shape.h_end:
            return frame
        own, full = self.frames[key], self.lengths[key]
        share = float((frame.o - own.o) @ np.array(own.x)) / full - (1.0 if end == "end" else 0.0)
        return Frame(vec(frame.o + np.array(own.z) * (sum(shape.slopes) / 2 * share)), frame.x, frame.z)

    def _make(
        self, kind: Kind, ends: "list[tuple[str, End]]", support: str, frame: Frame, point: Vec3, others: list[str], words: str
    ) -> Joint:
        frame = self._risen(*ends[0], frame)
        roles = ["support" if key == support or not support else f"other-{i}" for i, key in enumerate(others)]
        steel = [self._lead(*ends[0], frame.origin), *(self._steel(key, frame, role) for key, role in zip(others, roles, strict=True))]
        case, mirrored = make_case(kind, frame, steel)
        return Joint(f"{ends[0][0]}.{ends[0][1]}", kind, tuple(ends), support, frame, case, mirrored, words, point[2], (ends[0][0], *others))


def dot(a: Vec3, b: Vec3) -> float:
    """Their scalar product; plain numbers, for this is asked at every end."""
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


def back(a: Vec3) -> Vec3:
    """The other way."""
    return (-a[0], -a[1], -a[2])


def less(a: Vec3, b: Vec3) -> Vec3:
    """The way from ``b`` to ``a``."""
    return (a[0] - b[0], a[1] - b[1], a[2] - b[2])
