"""Joints that braces share: at one node, at a carrier's side, on a flange."""

import math
from collections.abc import Sequence

import numpy as np

from tincleat.geometry.frames import Array, Frame, crossed, vec
from tincleat.geometry.tolerances import MEETS
from tincleat.joints.case import Case, Joint, make_case, order
from tincleat.joints.table import Meeting, Table
from tincleat.project.entities import End

LEAVES = 0.7  # share of its run that goes out of the plane of the braces above which a member carries no gusset
NODE = 500.0  # mm within which ends may be parts of one node
PARALLEL = 0.9998  # cosine from which on members of a row count as parallel: about a degree
BESIDE = 60.0  # mm that a post may stand off a member's side and still be fixed to it
ALONG_FLANGE = 0.03  # sine of the angle up to which a brace lies along a flange: about two degrees
ALONG_CARRIER = 0.97  # cosine of its angle to the carrier's line from which on it crosses that nowhere in particular
FAR_FROM_FLANGE = 100.0  # mm that a brace may lie off a flange and still be fixed to it


class Bracing(Table):
    """What braces meet, at one node or along a member."""

    def bracing(self, ends: "Sequence[tuple[str, End]]") -> Joint | None:
        """The site of one brace end or of several at one node: braces and what they are fixed to; None where they meet nothing.

        The frame stands where the first brace's line meets that of its carrier, z along an upright carrier or across a lying one,
        y square to the plane of the braces.
        """
        rows = sorted({self.index[m] for m, _ in ends if m in self.index})
        if len(rows) < len({m for m, _ in ends}):
            return None
        meetings = self._meetings(np.array(rows))
        near: dict[str, Meeting] = {}
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
        normal = crossed(line, d)
        if np.linalg.norm(normal) < 0.1:
            return None
        normal = normal / np.linalg.norm(normal)
        # a plate in the plane of the braces has nothing to stand on along a member that leaves the plane
        carriers = [c for c in carriers if c.other == first or abs(float(self._direction(c.other) @ normal)) <= LEAVES]
        across = crossed(normal, line)
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

    def on_flange(self, ends: "Sequence[tuple[str, End]]", near: "list[Meeting] | None" = None) -> Joint | None:
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
        across = crossed(n, run)
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

    def _flange_beside(self, end: "tuple[str, End]", near: list[Meeting]) -> "tuple[str, Array] | None":
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

    def one_node(self, ends: "Sequence[tuple[str, End]]") -> bool:
        """Whether ends lie near enough to each other to be one node."""
        points = [np.array(self.members[m].start if e == "start" else self.members[m].end) for m, e in ends]
        return all(float(np.linalg.norm(p - points[0])) <= NODE for p in points[1:])
