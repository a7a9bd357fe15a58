"""Joints that are asked for by their place along members: stations, rows, crossings."""

import math
from collections.abc import Sequence
from itertools import pairwise

import numpy as np
import shapely

from tincleat.catalogue.sections import section
from tincleat.geometry.frames import Array, Frame, crossed, vec
from tincleat.geometry.tolerances import MEETS
from tincleat.joints.bracing import PARALLEL, Bracing
from tincleat.joints.case import LAPPED, Case, Joint, Kind, make_case, order
from tincleat.joints.table import AT_END, LIE, dot, less
from tincleat.project.entities import End
from tincleat.project.members import axis_frame, length

STRAIGHT = 0.9998  # cosine to which members are in one line
UPON = 0.9  # cosine from which a purlin's depth stands on a flange, not along it
NESTED = 40.0  # mm that the lines of two that lie in each other may lie apart
STANDS = 0.3  # rise of a member's depth up to which it stands rather than lies: leaning up to 17 degrees


class Along(Bracing):
    """What lies along members."""

    def _seat(self, over: str, under: str) -> Frame | None:
        """Frame of the place where a member lies on another's flange: origin on that flange over the middle of what carries it, x along
        the upper member, z out of the flange; None where it does not lie so."""
        upper, lower = self.frames[over], self.frames[under]
        if abs(dot(lower.z, upper.x)) > 0.3 or abs(dot(lower.x, upper.x)) > 0.75:
            return None
        # where the upper one's line passes nearest to the lower one's; plain numbers, for this is asked at every end
        u, v, between = upper.x, lower.x, less(upper.origin, lower.origin)
        c = dot(u, v)
        s = (c * dot(v, between) - dot(u, between)) / (1 - c * c)
        off = (between[0] + u[0] * s, between[1] + u[1] * s, between[2] + u[2] * s)
        shape, own, high = self.shapes[under], self.shapes[over], dot(off, lower.z)
        deep = max(shape.h, shape.h_end) / 2
        if shape.shape in ("CHS", "RD") or abs(dot(off, lower.y)) > 1e-3 or abs(abs(high) - deep) > max(own.h, own.b) / 2 + deep + MEETS * 1.5:
            return None
        at = np.array(off) + lower.o
        station = dot(off, v)
        carrier, rise = self._local(under, lower, at)
        height, shape = high - rise, section(carrier.section)
        sign = math.copysign(1.0, height)
        half = own.h / 2 if abs(dot(upper.z, lower.z)) > 0.707 else own.b / 2
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

    def crossings(self, roles: "frozenset[str]" = frozenset(LIE)) -> list[tuple[str, str]]:
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
            if AT_END < stations[0] < self.length[a] - AT_END and -1.0 <= stations[1] <= self.length[b] + 1.0 and not self._laps_over(upper, lower, stations[0]):
                out.append((upper, lower))
        return out

    def _laps_over(self, upper: str, lower: str, station: float) -> bool:
        """Whether a member's end lies in the next one over a carrier that it passes at a station, so that the end's own site is there."""
        ends: tuple[End, End] = ("start", "end")
        return any(
            (found := self.lapped(upper, end)) is not None and found[1] == lower
            for end, far in zip(ends, (station, self.lengths[upper] - station), strict=True) if far <= LAPPED
        )  # fmt: skip

    def lapped(self, key: str, end: End) -> "tuple[tuple[str, End], str] | None":
        """The end of another purlin or girt that this one's end goes on past, along the same line, and the carrier both lie on between those
        two ends; None where it goes on past none."""
        role, out = self.members[key].role, self._out(key, end)
        (x0, y0, _), (x1, y1, _) = out.origin, out.point((2 * LAPPED, 0.0, 0.0))
        near = [self.ids[i] for i in sorted(self.tree.query(shapely.box(min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1))).tolist())]
        along = [k for k in near if k != key and self.members[k].role == role and abs(dot(self.frames[k].x, out.x)) >= STRAIGHT]
        best: tuple[float, tuple[str, End], str] | None = None
        ends: tuple[End, End] = ("start", "end")
        for other in along:
            for tip in ends:
                at = self._out(other, tip)
                x, y, z = out.spot(at.origin)
                if not (1.0 < x < min(2 * LAPPED, self.lengths[key], self.lengths[other]) and math.hypot(y, z) <= NESTED and dot(at.x, out.x) < 0):
                    continue
                for under in near:
                    if self.members[under].role == role or (seat := self._seat(key, under)) is None or self._seat(other, under) is None:
                        continue
                    station = out.spot(seat.origin)[0]
                    if abs(dot(seat.z, out.z)) > UPON and max(0.0, x - LAPPED) < station < min(x, LAPPED) and (best is None or abs(station - x / 2) < best[0]):
                        best = (abs(station - x / 2), (other, tip), under)
        return best and (best[1], best[2])

    def _crossing(self, ends: "list[tuple[str, End]]", over: str, under: str, kind: Kind = "crossing") -> Joint:
        """The joint of members that lie on another's flange: one that passes, one or two that end there, or two that lap."""
        seat = self._seat(over, under)
        assert seat is not None
        names = [over] if not ends else [m for m, _ in ends]
        if kind == "lap":  # between the two lines, whichever of them was drawn first
            others = [s.o for m in names if (s := self._seat(m, under)) is not None]
            seat = Frame.of(np.mean(others, axis=0), seat.x, seat.z)
        words = f"{self._name(over)} over {self._name(under)}" if kind == "crossing" else f"{' lapped on '.join(self._name(m) for m in names)} over {self._name(under)}"
        best: tuple[Case, bool, Frame, list[str]] | None = None
        for frame in (seat, Frame.of(seat.o, -np.array(seat.x), np.array(seat.z))):
            for order_ in dict.fromkeys((tuple(names), tuple(names[::-1]))):
                steel = [self._steel(m, frame, f"over-{i}" if len(names) > 1 else "over") for i, m in enumerate(order_, 1)]
                case, mirrored = make_case(kind, frame, [*steel, self._steel(under, frame, "under")])
                if best is None or (order(case), mirrored) < (order(best[0]), best[1]):
                    best = (case, mirrored, frame, list(order_))
        assert best is not None
        case, mirrored, frame, names = best
        ends = sorted(ends, key=lambda e: names.index(e[0]))
        key = f"{ends[0][0]}.{ends[0][1]}" if ends else f"{over}x{under}"
        return Joint(key, kind, tuple(ends), under, frame, case, mirrored, words, seat.origin[2], (*names, under))

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
            z = crossed(x, n)
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


def station_key(member: str, at: float) -> str:
    """What a site at a station is called."""
    return f"{member}@{at:g}"


def row_key(member: str, at: float, others: "Sequence[str]") -> str:
    """What a row of members at a station of its first is called."""
    return f"{'+'.join((member, *others))}@{at:g}"
