"""Find the joints of a frame: which member ends meet what, and how a detailer would call it."""

import math
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from types import MappingProxyType

import msgspec
import numpy as np
import shapely

from tincleat.catalogue.sections import Section, at_share, section
from tincleat.geometry.frames import Array, Frame, Vec3, vec
from tincleat.geometry.lines import apart
from tincleat.geometry.tolerances import MEETS, NEARLY_MEETS
from tincleat.joints.case import CHANNELS, REACH, Case, Joint, Kind, Steel, make_case, near_cuts, order
from tincleat.project.entities import Connection, End, Member
from tincleat.project.members import axis_frame, length
from tincleat.steel.cuts import NONE, Cuts
from tincleat.steel.members import own_cuts
from tincleat.units import format_length

STEEP = 0.80  # |z| of a member's direction above which it counts as upright
SLOPES = 0.25  # and from which on the lower end of a lying member, which meets nothing, is a foot: about 15 degrees
APART = ("beam to column flange", "beam on flange", "knee")  # kinds of joint at which two beams on both sides of one support share nothing
LEAVES = 0.7  # share of its run that goes out of the plane of the braces above which a member carries no gusset
FEW = 60  # changed members up to which each is looked round by itself
EVERY = 200  # members between two words of how far the search is
NODE = 500.0  # mm within which ends may be parts of one node
PLACES: tuple[End | None, ...] = ("start", "end", None)
EVEN = 1e-4  # difference of direction cosines that counts as none: at 45 degrees noise may not decide
PARALLEL = 0.9998  # cosine from which on members of a row count as parallel: about a degree
BESIDE = 60.0  # mm that a post may stand off a member's side and still be fixed to it
ALONG_FLANGE = 0.03  # sine of the angle up to which a brace lies along a flange: about two degrees
ALONG_CARRIER = 0.97  # cosine of its angle to the carrier's line from which on it crosses that nowhere in particular
FAR_FROM_FLANGE = 100.0  # mm that a brace may lie off a flange and still be fixed to it
UNDER = 40.0  # mm that it has to reach down under that member's top at least
AT_END = 60.0  # mm from a member's end within which a meeting counts as end to end


STANDS = 0.3  # rise of a member's depth up to which it stands rather than lies: leaning up to 17 degrees


@dataclass(frozen=True)
class _Meeting:
    """One end near another member: station along it, distance to its body, and the direction out of the end in its frame."""

    other: str
    station: float
    distance: float
    at_end: End | None


class Finder:
    """Joints of a set of members, kept in step by :meth:`changed`; :meth:`joints` may be asked for some of them only."""

    def __init__(self, members: Mapping[str, Member], units: str = "mm", along: frozenset[str] = frozenset()) -> None:
        """``along`` names the families whose place on a member is a stretch of it, not a station."""
        self.members, self.units, self.along = members, units, along
        self.ids: list[str] = []
        self.index: dict[str, int] = {}
        # what is asked of a member again and again, by id: asking by value costs more than the answer
        self.frames: dict[str, Frame] = {}
        self.shapes: dict[str, Section] = {}
        self.lengths: dict[str, float] = {}
        self._now: tuple[frozenset[int], dict[tuple[int, str], list[_Meeting]]] = (frozenset(), {})  # while joints are looked for
        self._own: dict[str, list[Joint]] = {}  # joints of single members, until one changes
        self._lay(0)
        self.changed(members)

    def _lay(self, count: int) -> None:
        self.origin, self.axes = np.zeros((count, 3)), np.zeros((count, 3, 3))
        self.length, self.half, self.line = np.zeros(count), np.zeros((count, 2)), np.zeros((count, 2, 3))
        self.low, self.high = np.zeros((count, 3)), np.zeros((count, 3))
        self.points = np.zeros((count, 4, 3))  # ends of the system line and of the body's
        self.boxes = np.empty(count, dtype=object)

    @property
    def _tables(self) -> tuple["np.ndarray", ...]:
        return (self.origin, self.axes, self.length, self.half, self.line, self.low, self.high, self.points, self.boxes)

    def _row(self, i: int, member: Member) -> None:
        frame, shape = axis_frame(member), section(member.section)
        self.frames[member.id], self.shapes[member.id], self.lengths[member.id] = frame, shape, length(member)
        self.origin[i], self.axes[i], self.length[i] = frame.origin, frame.axes, self.lengths[member.id]
        self.half[i] = shape.b / 2, shape.reach
        self.line[i] = member.start, member.end

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
            flat = self.points.reshape(-1, 3)
            point, box = tree.query(shapely.points(flat[:, :2]))
            chosen = np.array(rows)[box]
            inside = (flat[point, 2] >= self.low[chosen, 2]) & (flat[point, 2] <= self.high[chosen, 2])
            return {self.ids[i] for i in np.unique(point[inside] // 4).tolist()}
        hit: set[int] = set()
        x, y, z = self.points[:, :, 0], self.points[:, :, 1], self.points[:, :, 2]
        for i in rows:
            (x0, y0, z0), (x1, y1, z1) = self.low[i], self.high[i]
            near = np.unique(np.nonzero((x >= x0) & (x <= x1))[0])  # most are ruled out along one axis
            inside = (y[near] >= y0) & (y[near] <= y1) & (z[near] >= z0) & (z[near] <= z1) & (x[near] >= x0) & (x[near] <= x1)
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

    def beside(self, more: Mapping[str, Member]) -> "Finder":
        """A finder of the same members with ``more`` added or put in their place; this one stays as it is."""
        out = Finder({}, self.units, self.along)
        out.members, out.ids, out.index = {**self.members, **more}, list(self.ids), dict(self.index)
        out.frames, out.shapes, out.lengths = dict(self.frames), dict(self.shapes), dict(self.lengths)
        out.origin, out.axes, out.length, out.half, out.line, out.low, out.high, out.points, out.boxes = (table.copy() for table in self._tables)
        out.changed(more)
        return out

    def joints(self, only: Iterable[str] | None = None, told: "Callable[[int], None] | None" = None) -> list[Joint]:
        """All joints, or those of the ends of the members named, in member order; ``told`` hears now and then how many members were looked at."""
        chosen = range(len(self.ids)) if only is None else sorted(self.index[key] for key in only)
        if not chosen:
            return []
        meetings = self._meetings(np.array(chosen))
        self._now = (frozenset(chosen), meetings)
        found: dict[str, Joint] = {}
        for done, i in enumerate(chosen):
            if told is not None and done % EVERY == 0:
                told(done)
            ends: tuple[End, End] = ("start", "end")
            for end in ends:
                joint = self._joint(i, end, meetings.get((i, end), []))
                found.setdefault(joint.key, joint)
        self._now = (frozenset(), {})
        return list(found.values())

    def _met(self, key: str, end: End) -> "list[_Meeting]":
        """What lies near a member's end: as found for those whose joints are being looked for, else measured."""
        i = self.index[key]
        rows, found = self._now
        return (found if i in rows else self._meetings(np.array([i]))).get((i, end), [])

    def _meetings(self, chosen: "np.ndarray") -> "dict[tuple[int, str], list[_Meeting]]":
        """What lies near each end of the chosen members, measured in arrays."""
        axis = self.origin[chosen]
        far = axis + self.axes[chosen, 0] * self.length[chosen][:, None]
        system = self.line[chosen]
        out: dict[tuple[int, str], list[_Meeting]] = {}
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
                out.setdefault((w, end), []).append(_Meeting(self.ids[o], s, g, PLACES[p]))
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
            full, x = self.lengths[key], _back(x)
            rise = sum(shape.slopes) / 2 if shape.h_end else 0.0
        origin = frame.moved(full, 0.0, rise).origin
        if (shape.symmetric or shape.shape in CHANNELS) and z[2] < -1e-9:
            z = _back(z)
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
                x = _back(x)
            elif shape.shape in CHANNELS:
                x, z = _back(x), _back(z)
            else:
                low, high = -full, 0.0
        if shape.symmetric and z[2] < -1e-9:
            z = _back(z)
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

    def _joint(self, i: int, end: End, near: list[_Meeting]) -> Joint:
        key = self.ids[i]
        member = self.members[key]
        out = self._out(key, end)
        point = member.start if end == "start" else member.end
        upright = abs(out.x[2]) > STEEP
        meets = [m for m in near if m.distance <= MEETS]
        brace = member.role == "brace"
        if not brace:
            meets = [m for m in meets if self.members[m.other].role != "brace"]
        made: Joint | None = None
        if brace:
            made = self.on_flange([(key, end)], near) or self._brace(key, end, out, point, meets)
        elif upright:
            made = self._upright_end(key, end, out, point, meets) if member.role != "post" else self._beside(key, end, out, point, near) or self._upright_end(key, end, out, point, meets)
        else:
            made = self._beam_end(key, end, out, point, meets, self._lying(key, out, near))
        return made or self._open(key, end, out, point, [m for m in near if m.distance > MEETS and (brace or self.members[m.other].role != "brace")])

    def missed(self, key: str, end: End) -> str:
        """The member that an end stops short of, as its joint tells; empty where it meets something, or nothing at all."""
        brace = self.members[key].role == "brace"
        near = [m for m in self._met(key, end) if brace or self.members[m.other].role != "brace"]
        if any(m.distance <= MEETS for m in near):
            return ""
        return min(near, key=lambda m: m.distance).other if near else ""

    def _direction(self, key: str) -> Array:
        return np.array(self.frames[key].x)

    def _is_upright(self, key: str) -> bool:
        return abs(self.frames[key].x[2]) > STEEP

    def _upright_end(self, key: str, end: End, out: Frame, point: Vec3, meets: list[_Meeting]) -> Joint | None:
        over = [m for m in meets if self._is_upright(m.other) and m.at_end and abs(_dot(self.frames[m.other].x, out.x)) > 0.99]
        if over:
            other = over[0]
            assert other.at_end
            # the upper one stands on the lower one, whichever was drawn first
            ends = [(key, end), (other.other, other.at_end)] if out.x[2] > 0 else [(other.other, other.at_end), (key, end)]
            frame = self._out(*ends[0])
            if self.shapes[ends[0][0]].symmetric:  # which way it leans a little may not turn near and far round
                frame = Frame(frame.origin, frame.x, self.frames[ends[0][0]].z)
            return self._make("column splice", ends, "", frame, point, [ends[1][0]], f"{self._name(ends[0][0])} on {self._name(ends[1][0])}")
        passing = [m for m in meets if not m.at_end and not self._is_upright(m.other)]
        if out.x[2] > 0:
            if passing:
                return self._make(
                    "post on beam", [(key, end)], passing[0].other, out, point, [passing[0].other], f"{self._name(key)} on {self._name(passing[0].other)}"
                )
            plumb = np.array([0.0, 0.0, 1.0])
            depth = np.array(out.z) - plumb * out.z[2]
            foot = Frame.of(out.origin, depth, plumb)
            return self._make("column foot", [(key, end)], "", foot, point, [], f"{self._name(key)} foot")
        for m in meets:
            if m.at_end and not self._is_upright(m.other):
                tip = self._out(m.other, m.at_end)
                if self._knees(m.other, tip):
                    settled = self._joint(self.index[m.other], m.at_end, [_Meeting(key, self.lengths[key], 0.0, end)])
                    if settled.kind == "knee":
                        return settled
        if passing:
            return self._make(
                "column under beam", [(key, end)], passing[0].other, out, point, [passing[0].other], f"{self._name(key)} under {self._name(passing[0].other)}"
            )
        plumb = np.array([0.0, 0.0, -1.0])  # a foot upside down
        head = Frame.of(out.origin, np.array(out.z) - plumb * float(plumb @ np.array(out.z)), plumb)
        return self._make("column head", [(key, end)], "", head, point, [], f"{self._name(key)} head")

    def _beside(self, key: str, end: End, out: Frame, point: Vec3, near: list[_Meeting]) -> Joint | None:
        """The lower end of a post that stands beside a lying member's flat side; None where it does not."""
        if out.x[2] < 0.9998:
            return None
        shape = self.shapes[key]
        for m in sorted(near, key=lambda m: m.distance):
            other, f = self.shapes[m.other], self.frames[m.other]
            if self._is_upright(m.other) or other.shape not in ("C", "FL") or abs(f.y[2]) > 0.02:
                continue
            y, z = (float((out.o - f.o) @ np.array(v)) for v in (f.y, f.z))
            if other.shape == "C" and y > 0:  # only its back is flat
                continue
            n = np.array(f.y) * math.copysign(1.0, y)
            half = shape.h / 2 if shape.shape == "CHS" else abs(float(n @ np.array(out.y))) * shape.b / 2 + abs(float(n @ np.array(out.z))) * shape.h / 2
            gap = abs(y) - (other.tw if other.shape == "FL" else other.b) / 2 - half
            if -1.0 <= gap <= BESIDE and -other.h / 2 - BESIDE <= z <= other.h / 2 - UNDER:
                frame = Frame.of(out.origin, n, np.array((0.0, 0.0, 1.0)))
                return self._make("post beside", [(key, end)], m.other, frame, point, [m.other], f"{self._name(key)} beside {self._name(m.other)}")
        return None

    def _lying(self, key: str, out: Frame, near: list[_Meeting]) -> list[_Meeting]:
        """Of what is near an end whose line is the member's middle those whose flange it lies on: half its depth under its line."""
        half = float(self.half[self.index[key]].max())
        found = []
        for m in near:
            if m.distance <= MEETS:
                found.append(m)
            elif m.distance <= MEETS + half and (seat := self._seat(key, m.other)) is not None:
                short = abs(float((seat.o - out.o) @ np.array(out.x)))
                if short <= self.half[self.index[m.other]].min() + MEETS:
                    found.append(m)
        return found

    def _beam_end(self, key: str, end: End, out: Frame, point: Vec3, meets: list[_Meeting], lying: list[_Meeting]) -> Joint | None:
        if self.members[key].role in ("purlin", "girt"):
            over = self._over(key, end, out, point, lying)
            if over is not None:
                return over
        columns = sorted((m for m in meets if self._is_upright(m.other)), key=lambda m: (m.distance, -self.shapes[m.other].area))
        if columns:
            column = columns[0]
            if column.at_end and column.at_end == self._upper_end(column.other) and self._knees(key, out):
                words = f"{self._name(key)} to {self._name(column.other)} head"
                return self._make("knee", [(key, end), (column.other, column.at_end)], column.other, out, point, [column.other], words)
            return self._faced(key, end, out, point, column)
        over = self._over(key, end, out, point, lying)
        if over is not None:
            return over
        through = [m for m in meets if m.at_end is None and abs(_dot(self.frames[m.other].x, out.x)) < 0.985]
        if through:
            return self._faced(key, end, out, point, min(through, key=lambda m: m.distance))
        tips = [m for m in meets if m.at_end and not self._is_upright(m.other)]
        laps = [m for m in meets if not m.at_end and abs(_dot(self.frames[m.other].x, out.x)) >= 0.985]
        if laps and not tips:
            other = min(laps, key=lambda m: m.distance).other
            return self._make("splice", [(key, end)], other, out, point, [other], f"{self._name(key)} lapped on {self._name(other)}")
        return self._tip_to_tip(key, end, out, point, tips) if tips else None

    def _over(self, key: str, end: End, out: Frame, point: Vec3, meets: list[_Meeting]) -> Joint | None:
        """A member that lies on another's flange and ends there, with the one that goes on beyond it if there is one."""
        for m in sorted(meets, key=lambda m: m.distance):
            if self._seat(key, m.other) is None:
                continue
            # of several that end there the one straight on is the partner; both settle one joint
            tips = [
                t for t in meets
                if t.at_end and t.other != m.other and float(np.array(self._out(t.other, t.at_end).x) @ np.array(out.x)) < -0.985 and self._seat(t.other, m.other)
            ]  # fmt: skip
            ends = [(key, end), *((t.other, t.at_end) for t in tips[:1] if t.at_end)]
            return self._crossing(ends, key, m.other)
        return None

    def _seat(self, over: str, under: str) -> Frame | None:
        """Frame of the place where a member lies on another's flange: origin on that flange over the middle of what carries it, x along
        the upper member, z out of the flange; None where it does not lie so."""
        upper, lower = self.frames[over], self.frames[under]
        if abs(_dot(lower.z, upper.x)) > 0.3 or abs(_dot(lower.x, upper.x)) > 0.75:
            return None
        # where the upper one's line passes nearest to the lower one's; plain numbers, for this is asked at every end
        u, v, between = upper.x, lower.x, _less(upper.origin, lower.origin)
        c = _dot(u, v)
        s = (c * _dot(v, between) - _dot(u, between)) / (1 - c * c)
        off = (between[0] + u[0] * s, between[1] + u[1] * s, between[2] + u[2] * s)
        shape, own, high = self.shapes[under], self.shapes[over], _dot(off, lower.z)
        deep = max(shape.h, shape.h_end) / 2
        if shape.shape in ("CHS", "RD") or abs(_dot(off, lower.y)) > 1e-3 or abs(abs(high) - deep) > max(own.h, own.b) / 2 + deep + MEETS * 1.5:
            return None
        at = np.array(off) + lower.o
        station = _dot(off, v)
        carrier, rise = self._local(under, lower, at)
        height, shape = high - rise, section(carrier.section)
        sign = math.copysign(1.0, height)
        half = own.h / 2 if abs(_dot(upper.z, lower.z)) > 0.707 else own.b / 2
        if abs(abs(height) - shape.h / 2 - half) > MEETS * 1.5:
            return None
        n = np.array(lower.z) * sign
        x = np.array(u) - n * float(np.array(u) @ n)
        return Frame.of(lower.o + np.array(v) * station + np.array(lower.z) * (rise + sign * shape.h / 2), x / np.linalg.norm(x), n)

    def crossing(self, over: str, under: str) -> Joint | None:
        """The site where one member passes over another's flange, or None where it does not."""
        if self._seat(over, under) is None:
            return None
        return self._crossing([], over, under)

    def crossings(self, roles: "frozenset[str]" = frozenset({"purlin", "girt"})) -> list[tuple[str, str]]:
        """Members of some roles that pass over a member of another role without ending there, each with the one under it."""
        rows = [i for i, key in enumerate(self.ids) if self.members[key].role in roles]
        if not rows:
            return []
        who, other = self.tree.query(self.boxes[rows])
        out = []
        for a, b in sorted(zip((rows[i] for i in who.tolist()), other.tolist(), strict=True)):
            upper, lower = self.ids[a], self.ids[b]
            if a == b or self.members[lower].role in roles or (self.low[a] > self.high[b]).any() or (self.low[b] > self.high[a]).any():
                continue
            seat = self._seat(upper, lower)
            if seat is None:
                continue
            stations = [float((seat.o - self.origin[i]) @ self.axes[i, 0]) for i in (a, b)]
            if AT_END < stations[0] < self.length[a] - AT_END and -1.0 <= stations[1] <= self.length[b] + 1.0:
                out.append((upper, lower))
        return out

    def _crossing(self, ends: "list[tuple[str, End]]", over: str, under: str) -> Joint:
        """The joint of members that lie on another's flange: one that passes, or one or two that end there."""
        seat = self._seat(over, under)
        assert seat is not None
        names = [over] if not ends else [m for m, _ in ends]
        words = f"{self._name(over)} over {self._name(under)}"
        best: tuple[Case, bool, Frame, list[str]] | None = None
        for frame in (seat, Frame.of(seat.o, -np.array(seat.x), np.array(seat.z))):
            for order_ in dict.fromkeys((tuple(names), tuple(names[::-1]))):
                steel = [self._steel(m, frame, f"over-{i}" if len(names) > 1 else "over") for i, m in enumerate(order_, 1)]
                case, mirrored = make_case("crossing", frame, [*steel, self._steel(under, frame, "under")])
                if best is None or (order(case), mirrored) < (order(best[0]), best[1]):
                    best = (case, mirrored, frame, list(order_))
        assert best is not None
        case, mirrored, frame, names = best
        ends = sorted(ends, key=lambda e: names.index(e[0]))
        key = f"{ends[0][0]}.{ends[0][1]}" if ends else f"{over}x{under}"
        return Joint(key, "crossing", tuple(ends), under, frame, case, mirrored, words, seat.origin[2], (*names, under))

    def station(self, key: str, at: float, along: bool = False) -> Joint | None:
        """The site at a station of a member, mm from its start, or the stretch ``along`` it that has its middle there; None off its ends."""
        kind: Kind = "along" if along else "station"
        member = self.members.get(key)
        if member is None or not 0.0 <= at <= length(member):
            return None
        own = axis_frame(member)
        point = own.moved(x=at)
        _, rise = self._local(key, own, point.origin)
        point = own.moved(x=at, z=rise)
        best: tuple[Case, bool, Frame] | None = None
        # its depth seen upward where it lies, and either way along it: which is settled by the shape, not by how it was drawn.  Where it
        # stands, plumb or nearly, a breath of lean must not turn it over
        z = vec(np.array(point.z) * (-1.0 if point.z[2] < -STANDS else 1.0))
        ways = [Frame(point.origin, point.x, z), Frame(point.origin, vec(-np.array(point.x)), z)]
        for frame in ways:
            case, mirrored = make_case(kind, frame, [self._steel(key, frame, "member")])
            if best is None or order(case) < order(best[0]):
                best = (case, mirrored, frame)
        assert best is not None
        case, mirrored, frame = best
        words = f"along {self._name(key)}" if along else f"{self._name(key)} at a station"
        return Joint(station_key(key, at), kind, (), key, frame, case, mirrored, words, point.origin[2], (key,))

    def row(self, keys: "Sequence[str]", at: float) -> Joint | None:
        """The site of parallel members beside each other, at a station of the first (mm from its start); None where they do not lie so.

        The frame stands on the first of the row, whichever end of it was named: x to the last, y along the members, z up.
        """
        if len(keys) < 2 or any(k not in self.index for k in keys):
            return None
        head = self.frames[keys[0]]
        n, point = np.array(head.x), head.o + np.array(head.x) * at
        spots: list[tuple[str, Array]] = []
        for k in keys:
            own = self.frames[k]
            slant = float(np.array(own.x) @ n)
            station = float((point - own.o) @ n) / slant if abs(slant) > 0.5 else -1.0
            if abs(slant) < PARALLEL or not 0.0 <= station <= self.lengths[k]:
                return None
            _, rise = self._local(k, own, vec(own.o + np.array(own.x) * station))
            spots.append((k, own.o + np.array(own.x) * station + np.array(own.z) * rise))
        far = max(spots, key=lambda s: float(np.linalg.norm(s[1] - spots[0][1])))[1] - spots[0][1]
        if float(np.linalg.norm(far)) < 1.0:
            return None
        way = far / np.linalg.norm(far)
        spots.sort(key=lambda s: float((s[1] - point) @ way))
        if any(float(np.linalg.norm(b[1] - a[1])) < 1.0 for a, b in pairwise(spots)):
            return None
        best: tuple[Case, bool, Frame, list[str]] | None = None
        for some in (spots, spots[::-1]):
            x = some[-1][1] - some[0][1]
            x = x - n * float(x @ n)
            x = x / np.linalg.norm(x)
            z = np.cross(x, n)
            ups = (z, -z) if abs(z[2]) < 1e-6 else (z * math.copysign(1.0, z[2]),)
            for up in ups:
                frame = Frame.of(some[0][1], x, up)
                case, mirrored = make_case("row", frame, [self._steel(k, frame, f"row-member-{i}") for i, (k, _) in enumerate(some, 1)])
                if best is None or (order(case), mirrored) < (order(best[0]), best[1]):
                    best = (case, mirrored, frame, [k for k, _ in some])
        assert best is not None
        case, mirrored, frame, names = best
        sections = list(dict.fromkeys(self._name(k) for k in names))
        words = f"{len(names)} beside each other: " + ", ".join(sections[:3]) + (" …" if len(sections) > 3 else "")
        return Joint(row_key(keys[0], at, keys[1:]), "row", (), names[0], frame, case, mirrored, words, float(frame.origin[2]), tuple(names))

    def _steel(self, key: str, frame: Frame, role: str) -> Steel:
        """A member that goes on through a joint, its frame at the station beside the joint's origin."""
        own = self.frames[key]
        station = _dot(_less(frame.origin, own.origin), own.x)
        member, rise = self._local(key, own, frame.origin)
        return Steel(member, at := own.moved(x=station, z=rise), -station, length(member) - station, role, self._own_cuts(key, at))

    def _own_cuts(self, key: str, at: Frame) -> Cuts:
        """The cuts a member has of itself near a place, in ``at``."""
        member = self.members[key]
        if not member.cuts and not member.outs:
            return NONE
        return near_cuts(own_cuts(member).seen_from(axis_frame(member).inside(at)), -REACH, REACH)

    def bracing(self, ends: "Sequence[tuple[str, End]]") -> Joint | None:
        """The site of one brace end or of several at one node: braces and what they are fixed to; None where they meet nothing.

        The frame stands where the first brace's line meets that of its carrier, z along an upright carrier or across a lying one,
        y square to the plane of the braces.
        """
        rows = sorted({self.index[m] for m, _ in ends if m in self.index})
        if len(rows) < len({m for m, _ in ends}):
            return None
        meetings = self._meetings(np.array(rows))
        near: dict[str, _Meeting] = {}
        for m, e in ends:
            for meeting in meetings.get((self.index[m], e), []):
                if meeting.distance <= MEETS and self.members[meeting.other].role != "brace":
                    near.setdefault(meeting.other, meeting)
        if not near:  # no column or beam: along a brace that passes
            for m, e in ends:
                for meeting in meetings.get((self.index[m], e), []):
                    if meeting.distance <= MEETS and meeting.at_end is None and meeting.other not in {k for k, _ in ends}:
                        near.setdefault(meeting.other, meeting)
            near = dict(sorted(near.items(), key=lambda n: (round(n[1].distance, 3), self.index[n[0]]))[:1])
        carriers = sorted(near.values(), key=lambda m: (not self._is_upright(m.other), round(m.distance, 3), -self.shapes[m.other].area, self.index[m.other]))
        if not carriers:
            return None
        first = carriers[0].other
        line, own = self._direction(first), self.frames[first]
        outs = {(m, e): self._out(m, e) for m, e in ends}
        lead = outs[ends[0]]
        d = np.array(lead.x)
        normal = np.cross(line, d)
        if np.linalg.norm(normal) < 0.1:
            return None
        normal = normal / np.linalg.norm(normal)
        # a plate in the plane of the braces has nothing to stand on along a member that leaves the plane
        carriers = [c for c in carriers if c.other == first or abs(float(self._direction(c.other) @ normal)) <= LEAVES]
        across = np.cross(normal, line)
        # the working point: where the brace's line passes the carrier's
        w = lead.o - own.o
        t = -float(w @ across) / float(d @ across)
        origin = lead.o + d * t - normal * float((lead.o + d * t - own.o) @ normal)
        upright = self._is_upright(first)
        z = line * math.copysign(1.0, line[2]) if upright else across * (math.copysign(1.0, across[2]) if abs(across[2]) > 1e-6 else 1.0)
        x = across if upright else line
        best: tuple[Case, bool, Frame, list[tuple[str, End]]] | None = None
        turned = (z,) if upright or abs(z[2]) > 1e-6 else (z, -z)
        for up in turned:
            for side in (x, -x):
                frame = Frame.of(origin, side, up)
                some = sorted(ends, key=lambda e: (round(math.atan2(*(float(v) for v in frame.unturn(outs[e].x)[[2, 0]])), 6), self.index[e[0]]))
                steel = [self._lead(*e, vec(self._nearest(e, origin)), f"brace-{i}" if len(some) > 1 else "brace") for i, e in enumerate(some, 1)]
                steel += [self._steel(c.other, frame, self._carrying(c.other) + (f"-{i}" if i else "")) for i, c in enumerate(carriers)]
                case, mirrored = make_case("brace end", frame, steel)
                if best is None or (order(case), mirrored) < (order(best[0]), best[1]):
                    best = (case, mirrored, frame, some)
        assert best is not None
        case, mirrored, frame, some = best
        words = " and ".join(self._name(m) for m, _ in some) + f" to {self._name(first)}"
        members = (*(m for m, _ in some), *(c.other for c in carriers))
        point = self.members[ends[0][0]].start if ends[0][1] == "start" else self.members[ends[0][0]].end
        head = min(ends, key=lambda e: (self.index[e[0]], e[1]))
        some = [head, *(e for e in some if e != head)]
        return Joint(f"{head[0]}.{head[1]}", "brace end", tuple(some), first, frame, case, mirrored, words, point[2], members)

    def on_flange(self, ends: "Sequence[tuple[str, End]]", near: "list[_Meeting] | None" = None) -> Joint | None:
        """The site of one brace end or of several that lie along one flange, over it or under it; None where they do not.  ``near`` is what
        lies near the first end, if that is known.

        The frame stands on the flange's face where the first brace's line passes over the carrier's middle: x along the carrier (up an upright
        one), z square to the flange, upward on a lying carrier and outward on an upright one.
        """
        head = min(ends, key=lambda e: (self.index[e[0]], e[1]))
        known = near if near is not None and len(ends) == 1 else self._met(*head)
        faces = {e: self._flange_beside(e, known if e == head else self._met(*e)) for e in ends}
        first = faces[head]
        if first is None:
            return None
        carrier, n = first
        for other in faces.values():
            if other is None or other[0] != carrier or float(other[1] @ n) < PARALLEL:
                return None
        own, shape = self.frames[carrier], self.shapes[carrier]
        run = np.array(own.x)
        across = np.cross(n, run)
        lead = self._out(*head)
        d = np.array(lead.x)
        if len(ends) > 1 and not self.one_node(ends):
            return None
        t = -float((lead.o - own.o) @ across) / float(d @ across)
        spot = lead.o + d * t
        origin = vec(spot - n * (float((spot - own.o) @ n) - shape.h / 2))
        upright = self._is_upright(carrier)
        z = n if upright or n[2] > 0 else -n
        best: tuple[Case, bool, Frame, list[tuple[str, End]]] | None = None
        for x in (run * math.copysign(1.0, run[2]),) if upright else (run, -run):
            frame = Frame.of(origin, x, z)
            for way in (1.0, -1.0):  # round the place either way: a mirror image counts them the other way round
                some = sorted(ends, key=lambda e: (round(math.atan2(float(way * (v := frame.unturn(self._out(*e).x))[1]), float(v[0])), 6), self.index[e[0]]))
                steel = [self._lead(*e, vec(self._nearest(e, np.array(origin))), f"brace-{i}" if len(some) > 1 else "brace") for i, e in enumerate(some, 1)]
                case, mirrored = make_case("brace on flange", frame, [*steel, self._steel(carrier, frame, self._carrying(carrier))])
                if best is None or (order(case), mirrored) < (order(best[0]), best[1]):
                    best = (case, mirrored, frame, some)
        assert best is not None
        case, mirrored, frame, some = best
        words = " and ".join(self._name(m) for m, _ in some) + f" on a flange of {self._name(carrier)}"
        members = (*(m for m, _ in some), carrier)
        point = self.members[head[0]].start if head[1] == "start" else self.members[head[0]].end
        some = [head, *(e for e in some if e != head)]
        return Joint(f"{head[0]}.{head[1]}", "brace on flange", tuple(some), carrier, frame, case, mirrored, words, point[2], members)

    def _flange_beside(self, end: "tuple[str, End]", near: list[_Meeting]) -> "tuple[str, Array] | None":
        """The member whose flange a brace's end lies along, and which way that flange looks; None where there is none."""
        lead, shape = self._out(*end), self.shapes[end[0]]
        d = np.array(lead.x)
        found: list[tuple[float, int, str, Array]] = []
        for m in near:
            other, own = self.shapes[m.other], self.frames[m.other]
            if other.shape not in ("I", "C") or other.h_end or self.members[m.other].role == "brace":
                continue
            z = np.array(own.z)
            if abs(float(d @ z)) > ALONG_FLANGE or abs(float(d @ np.array(own.x))) > ALONG_CARRIER:
                continue
            up, aside = (float((lead.o - own.o) @ v) for v in (z, np.array(own.y)))
            deep = sum(abs(float(np.array(v) @ z)) * size / 2 for v, size in ((lead.y, shape.b), (lead.z, shape.h))) if shape.shape != "CHS" else shape.h / 2
            off = abs(up) - other.h / 2 - deep
            if -1.0 <= off <= FAR_FROM_FLANGE and abs(aside) <= other.b / 2 + BESIDE and -MEETS <= m.station <= self.lengths[m.other] + MEETS:
                found.append((round(off, 3), self.index[m.other], m.other, z * math.copysign(1.0, up)))
        if not found:
            return None
        _, _, carrier, n = min(found, key=lambda f: f[:2])
        return carrier, n

    def _carrying(self, key: str) -> str:
        """The role of what a brace ends at: ``column``, ``beam``, or ``through`` for a brace that passes."""
        return "through" if self.members[key].role == "brace" else "column" if self._is_upright(key) else "beam"

    def _nearest(self, end: "tuple[str, End]", point: Array) -> Array:
        """The point of a member's middle line nearest to a point."""
        own = self.frames[end[0]]
        return own.o + np.array(own.x) * float((point - own.o) @ np.array(own.x))

    def site(self, c: Connection, known: "Mapping[tuple[str, End], Joint]") -> Joint | None:
        """What a connection's anchor finds; ``known`` are joints by their ends, as far as they were found."""
        if any(m not in self.index for m in c.members):
            return None
        if c.at is not None:
            return self.row((c.member, *c.row), c.at) if c.row else self.station(c.member, c.at, c.family in self.along)
        if c.other:
            return self.crossing(c.member, c.other)
        if len(c.ends) > 1 and not (c.ends[0] in known and set(known[c.ends[0]].ends) >= set(c.ends)):
            return self.shared(c.ends, known)
        return known.get(c.ends[0])

    def one_node(self, ends: "Sequence[tuple[str, End]]") -> bool:
        """Whether ends lie near enough to each other to be one node."""
        points = [np.array(self.members[m].start if e == "start" else self.members[m].end) for m, e in ends]
        return all(float(np.linalg.norm(p - points[0])) <= NODE for p in points[1:])

    def shared(self, ends: "Sequence[tuple[str, End]]", known: "Mapping[tuple[str, End], Joint]" = MappingProxyType({})) -> Joint | None:
        """The one site of several ends of a node: braces, or two beams on one support; None where they do not meet so.  ``known`` are
        joints of single ends, as far as they were found."""
        if any(m not in self.index for m, _ in ends):
            return None
        if all(self.members[m].role == "brace" for m, _ in ends):
            return self.on_flange(ends) or self.bracing(ends)
        return self.pair(ends, known)

    def _own_joints(self, key: str) -> list[Joint]:
        """The joints of one member's ends, kept until any member changes: those of two ends are asked for again and again."""
        found = self._own.get(key)
        if found is None:
            found = self._own[key] = self.joints([key])
        return found

    def pair(self, ends: "Sequence[tuple[str, End]]", known: "Mapping[tuple[str, End], Joint]" = MappingProxyType({})) -> Joint | None:
        """Two beams that meet one support from both sides, as one joint; None where they do not."""
        found = [there if (there := known.get(e)) is not None and len(there.ends) == 1 else None for e in ends]
        alone = [j or next((own for own in self._own_joints(e[0]) if e in own.ends), None) for j, e in zip(found, ends, strict=True)]
        if len(alone) != 2 or any(j is None or len(j.ends) != 1 or not j.support for j in alone):
            return None
        one, two = (j for j in alone if j is not None)
        if one.kind in APART:  # a flange each: nothing passes from one to the other
            return None
        if one.support != two.support or one.kind != two.kind or float(np.array(one.frame.x) @ np.array(two.frame.x)) > -0.9:
            return None
        best: tuple[Case, bool, Joint, Joint] | None = None
        for a, b in ((one, two), (two, one)):
            steel = [self._lead(*a.ends[0], a.frame.origin), self._steel(a.support, a.frame, "support"), self._lead(*b.ends[0], b.frame.origin, "supported-2")]
            case, mirrored = make_case(a.kind, a.frame, steel)
            if best is None or (order(case), mirrored) < (order(best[0]), best[1]):
                best = (case, mirrored, a, b)
        assert best is not None
        case, mirrored, a, b = best
        ends = (a.ends[0], b.ends[0])
        return Joint(f"{ends[0][0]}.{ends[0][1]}", a.kind, ends, a.support, a.frame, case, mirrored, f"{a.words}, both sides", a.height, (ends[0][0], a.support, ends[1][0]))

    def _tip_to_tip(self, key: str, end: End, out: Frame, point: Vec3, tips: list[_Meeting]) -> Joint:
        """Ends of lying members that meet over nothing: the straightest partner decides what the joint is."""

        def straight(m: _Meeting) -> float:
            assert m.at_end
            return float(np.array(self._out(m.other, m.at_end).x) @ np.array(out.x))

        other = min(tips, key=lambda m: (round(straight(m), 6), self.index[m.other]))
        assert other.at_end
        if len(tips) > 1 and not self._chosen(key, end, other):
            # its straightest partner goes on into another one: this end stands alone against it
            return self._make("corner", [(key, end)], other.other, out, point, [other.other], f"{self._name(key)} beside {self._name(other.other)}")
        carriers = [m for m in tips if self.members[m.other].role == "rafter" and abs(straight(m)) < 0.9]
        if carriers and self.members[key].role != "rafter":
            return self._faced(key, end, out, point, carriers[0])
        if abs(straight(other)) < 0.9 and self._carried(other, key):
            # beside the end of one that something else carries: it lands on that one's side
            return self._faced(key, end, out, point, other)
        ends = sorted([(key, end), (other.other, other.at_end)], key=lambda e: (self.index[e[0]], e[1]))
        first, second = self._out(*ends[0]), self._out(*ends[1])
        kind: Kind = "corner"
        if straight(other) < -0.999:
            kind = "splice"
        elif abs(first.x[2] - second.x[2]) < 0.05 and abs(first.x[2]) > 0.02 and straight(other) < 0:
            kind = "apex"
        elif straight(other) < -0.9:
            kind = "splice"
        # which of both comes first is settled by their shapes, so that a copy drawn in another order is kin
        made = [self._make(kind, some, "", frame, point, [some[1][0]], f"{self._name(some[0][0])} with {self._name(some[1][0])}")
                for some, frame in ((ends, first), (ends[::-1], second))]  # fmt: skip
        return min(made, key=lambda j: (order(j.case), j.mirrored))

    def _chosen(self, key: str, end: End, other: _Meeting) -> bool:
        """Whether the end that lies straightest on from one lies straightest on from it in turn."""
        assert other.at_end
        there = self._out(other.other, other.at_end)
        meets = self._met(other.other, other.at_end)
        tips = [m for m in meets if m.distance <= MEETS and m.at_end and not self._is_upright(m.other) and self.members[m.other].role != "brace"]
        if not tips:
            return True
        best = min(tips, key=lambda m: (round(float(np.array(self._out(m.other, m.at_end or "start").x) @ np.array(there.x)), 6), self.index[m.other]))
        return (best.other, best.at_end) == (key, end)

    def _carried(self, other: _Meeting, key: str) -> bool:
        """Whether the end that is met lies on the length of a third member."""
        assert other.at_end
        meets = self._met(other.other, other.at_end)
        return any(m.distance <= MEETS and not m.at_end and m.other != key for m in meets)

    def _faced(self, key: str, end: End, out: Frame, point: Vec3, meeting: _Meeting) -> Joint:
        """A beam end on a flange, web or wall: the origin is where the beam's middle line pierces that face."""
        carrier = self.frames[meeting.other]
        other, rise = self._local(meeting.other, carrier, point)
        carrier = carrier.moved(z=rise) if rise else carrier
        shape = section(other.section)
        across, deep = _dot(carrier.y, out.x), _dot(carrier.z, out.x)
        upright = self._is_upright(meeting.other)
        on_flange = abs(deep) > abs(across) - EVEN
        kind: Kind
        if shape.shape in ("RHS", "CHS"):
            kind, normal, reach = "beam to hollow face", ("z" if on_flange else "y"), (shape.h if on_flange else shape.b) / 2
        elif on_flange:
            kind, normal, reach = ("beam to column flange" if upright else "beam on flange"), "z", shape.h / 2
        else:
            kind, normal, reach = ("beam to column web" if upright else "beam to beam web"), "y", _web_reach(shape, across)
        sign = math.copysign(1.0, deep if normal == "z" else across)
        n = carrier.z if normal == "z" else carrier.y
        slant = _dot(out.x, n) * sign
        gap = reach - _dot(_less(out.origin, carrier.origin), n) * sign
        frame = out.moved(x=gap / slant) if slant > 0.05 else out
        words = f"{self._name(key)} to {self._name(meeting.other)}" + {
            "beam to column flange": " flange",
            "beam to hollow face": " face",
            "beam on flange": " flange",
        }.get(kind, " web")
        return self._make(kind, [(key, end)], meeting.other, frame, point, [meeting.other], words)

    def _brace(self, key: str, end: End, out: Frame, point: Vec3, meets: list[_Meeting]) -> Joint | None:
        if not meets:
            return None
        found = self.bracing([(key, end)])
        if found is not None:
            return found
        best = min(meets, key=lambda m: (self.members[m.other].role == "brace", not self._is_upright(m.other), m.distance))
        return self._make("brace end", [(key, end)], best.other, out, point, [best.other], f"{self._name(key)} to {self._name(best.other)}")

    def _open(self, key: str, end: End, out: Frame, point: Vec3, near: list[_Meeting]) -> Joint:
        if near:
            other = min(near, key=lambda m: m.distance)
            label = self.members[other.other].name or other.other
            gap = format_length(other.distance, self.units, mark=True)
            return self._make("near miss", [(key, end)], "", out, point, [], f"{self._name(key)} ends {gap} short of {label} ({self._name(other.other)})")
        if self.members[key].role != "brace" and SLOPES < out.x[2] <= STEEP:
            plumb = np.array([0.0, 0.0, 1.0])
            level = np.array(out.x) - plumb * out.x[2]
            return self._make("sloping foot", [(key, end)], "", Frame.of(out.origin, level / np.linalg.norm(level), plumb), point, [], f"{self._name(key)} foot, sloping")
        if abs(out.x[2]) <= SLOPES:  # however it is rolled, up is up: it may come to lie on something
            out = Frame.of(out.origin, (out.x[0], out.x[1], 0.0), (0.0, 0.0, 1.0))
        return self._make("free end", [(key, end)], "", out, point, [], f"{self._name(key)} end meets nothing")

    def _knees(self, key: str, out: Frame) -> bool:
        """Whether a lying member's end on a column head is a portal knee rather than a floor beam's end."""
        return self.members[key].role == "rafter" or abs(out.x[2]) > 0.05

    def _upper_end(self, key: str) -> End:
        return "end" if self._direction(key)[2] > 0 else "start"

    def _name(self, key: str) -> str:
        return self.members[key].section

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


def station_key(member: str, at: float) -> str:
    """What a site at a station is called."""
    return f"{member}@{at:g}"


def row_key(member: str, at: float, others: "Sequence[str]") -> str:
    """What a row of members at a station of its first is called."""
    return f"{'+'.join((member, *others))}@{at:g}"


def _dot(a: Vec3, b: Vec3) -> float:
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


def _back(a: Vec3) -> Vec3:
    return (-a[0], -a[1], -a[2])


def _less(a: Vec3, b: Vec3) -> Vec3:
    return (a[0] - b[0], a[1] - b[1], a[2] - b[2])


def _web_reach(shape: Section, across: float) -> float:
    """Distance from the section's middle to the web face on the side ``across`` points to, mm."""
    web = next((e for e in shape.elements if e.name in ("web", "upright leg")), None)
    if web is None:
        return shape.b / 2
    return web.thickness / 2 + (web.at if across > 0 else -web.at)
