"""Find the joints of a frame: which member ends meet what, and how a detailer would call it."""

import math
from collections.abc import Callable, Iterable, Mapping, Sequence
from types import MappingProxyType

import numpy as np

from tincleat.catalogue.sections import Section, section
from tincleat.geometry.frames import Frame, Vec3
from tincleat.geometry.tolerances import MEETS
from tincleat.joints.along import Along
from tincleat.joints.bracing import BESIDE
from tincleat.joints.case import Case, Joint, Kind, make_case, order
from tincleat.joints.table import LIE, STEEP, Meeting, dot, less
from tincleat.project.entities import Connection, End
from tincleat.units import format_length

SLOPES = 0.25  # and from which on the lower end of a lying member, which meets nothing, is a foot: about 15 degrees
APART = ("beam to column flange", "beam on flange", "knee")  # kinds of joint at which two beams on both sides of one support share nothing
EVERY = 200  # members between two words of how far the search is
EVEN = 1e-4  # difference of direction cosines that counts as none: at 45 degrees noise may not decide
UNDER = 40.0  # mm that it has to reach down under that member's top at least


class Finder(Along):
    """Joints of a set of members, kept in step by :meth:`changed`; :meth:`joints` may be asked for some of them only."""

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

    def _joint(self, i: int, end: End, near: list[Meeting]) -> Joint:
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

    def _upright_end(self, key: str, end: End, out: Frame, point: Vec3, meets: list[Meeting]) -> Joint | None:
        over = [m for m in meets if self._is_upright(m.other) and m.at_end and abs(dot(self.frames[m.other].x, out.x)) > 0.99]
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
                    settled = self._joint(self.index[m.other], m.at_end, [Meeting(key, self.lengths[key], 0.0, end)])
                    if settled.kind == "knee":
                        return settled
        if passing:
            return self._make(
                "column under beam", [(key, end)], passing[0].other, out, point, [passing[0].other], f"{self._name(key)} under {self._name(passing[0].other)}"
            )
        plumb = np.array([0.0, 0.0, -1.0])  # a foot upside down
        head = Frame.of(out.origin, np.array(out.z) - plumb * float(plumb @ np.array(out.z)), plumb)
        return self._make("column head", [(key, end)], "", head, point, [], f"{self._name(key)} head")

    def _beside(self, key: str, end: End, out: Frame, point: Vec3, near: list[Meeting]) -> Joint | None:
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

    def _lying(self, key: str, out: Frame, near: list[Meeting]) -> list[Meeting]:
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

    def _beam_end(self, key: str, end: End, out: Frame, point: Vec3, meets: list[Meeting], lying: list[Meeting]) -> Joint | None:
        if self.members[key].role in LIE:
            if (lap := self.lapped(key, end)) is not None:
                return self._crossing(sorted([(key, end), lap[0]]), min(key, lap[0][0]), lap[1], "lap")
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
        through = [m for m in meets if m.at_end is None and abs(dot(self.frames[m.other].x, out.x)) < 0.985]
        if through:
            return self._faced(key, end, out, point, min(through, key=lambda m: m.distance))
        tips = [m for m in meets if m.at_end and not self._is_upright(m.other)]
        laps = [m for m in meets if not m.at_end and abs(dot(self.frames[m.other].x, out.x)) >= 0.985]
        if laps and not tips:
            other = min(laps, key=lambda m: m.distance).other
            return self._make("splice", [(key, end)], other, out, point, [other], f"{self._name(key)} lapped on {self._name(other)}")
        return self._tip_to_tip(key, end, out, point, tips) if tips else None

    def _over(self, key: str, end: End, out: Frame, point: Vec3, meets: list[Meeting]) -> Joint | None:
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

    def _tip_to_tip(self, key: str, end: End, out: Frame, point: Vec3, tips: list[Meeting]) -> Joint:
        """Ends of lying members that meet over nothing: the straightest partner decides what the joint is."""

        def straight(m: Meeting) -> float:
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

    def _chosen(self, key: str, end: End, other: Meeting) -> bool:
        """Whether the end that lies straightest on from one lies straightest on from it in turn."""
        assert other.at_end
        there = self._out(other.other, other.at_end)
        meets = self._met(other.other, other.at_end)
        tips = [m for m in meets if m.distance <= MEETS and m.at_end and not self._is_upright(m.other) and self.members[m.other].role != "brace"]
        if not tips:
            return True
        best = min(tips, key=lambda m: (round(float(np.array(self._out(m.other, m.at_end or "start").x) @ np.array(there.x)), 6), self.index[m.other]))
        return (best.other, best.at_end) == (key, end)

    def _carried(self, other: Meeting, key: str) -> bool:
        """Whether the end that is met lies on the length of a third member."""
        assert other.at_end
        meets = self._met(other.other, other.at_end)
        return any(m.distance <= MEETS and not m.at_end and m.other != key for m in meets)

    def _faced(self, key: str, end: End, out: Frame, point: Vec3, meeting: Meeting) -> Joint:
        """A beam end on a flange, web or wall: the origin is where the beam's middle line pierces that face."""
        carrier = self.frames[meeting.other]
        other, rise = self._local(meeting.other, carrier, point)
        carrier = carrier.moved(z=rise) if rise else carrier
        shape = section(other.section)
        across, deep = dot(carrier.y, out.x), dot(carrier.z, out.x)
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
        slant = dot(out.x, n) * sign
        gap = reach - dot(less(out.origin, carrier.origin), n) * sign
        frame = out.moved(x=gap / slant) if slant > 0.05 else out
        words = f"{self._name(key)} to {self._name(meeting.other)}" + {
            "beam to column flange": " flange",
            "beam to hollow face": " face",
            "beam on flange": " flange",
        }.get(kind, " web")
        return self._make(kind, [(key, end)], meeting.other, frame, point, [meeting.other], words)

    def _brace(self, key: str, end: End, out: Frame, point: Vec3, meets: list[Meeting]) -> Joint | None:
        if not meets:
            return None
        found = self.bracing([(key, end)])
        if found is not None:
            return found
        best = min(meets, key=lambda m: (self.members[m.other].role == "brace", not self._is_upright(m.other), m.distance))
        return self._make("brace end", [(key, end)], best.other, out, point, [best.other], f"{self._name(key)} to {self._name(best.other)}")

    def _open(self, key: str, end: End, out: Frame, point: Vec3, near: list[Meeting]) -> Joint:
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


def _web_reach(shape: Section, across: float) -> float:
    """Distance from the section's middle to the web face on the side ``across`` points to, mm."""
    web = next((e for e in shape.elements if e.name in ("web", "upright leg")), None)
    if web is None:
        return shape.b / 2
    return web.thickness / 2 + (web.at if across > 0 else -web.at)
