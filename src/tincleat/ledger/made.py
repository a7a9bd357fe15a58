"""A detail built and proved for one kin, shared by all joints that are alike."""

import math
import traceback
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import suppress
from dataclasses import replace
from pathlib import Path

import msgspec
import numpy as np

from tincleat.catalogue.sections import Section
from tincleat.details.assembled import Assembled, role_words
from tincleat.details.bodies import ROUND, Body, box_of, passing_body, solid, zone_corners
from tincleat.details.parts import Detail
from tincleat.details.shapes import Shapes, shapes
from tincleat.errors import Fault, TinCleatError
from tincleat.families.own import own_families
from tincleat.geometry.frames import Array, Frame, vec
from tincleat.joints.case import Case, mirror_case, near_cuts, snapped, snapped_cuts
from tincleat.lazy import lazy
from tincleat.ledger.hands import WORTH, Box, Making, build, make_all, pays, prove_all, sendable
from tincleat.project.entities import ISO_A, HouseRules, Units, Value
from tincleat.proof.beside import taken_beside
from tincleat.proof.clash import between, zone_finding
from tincleat.proof.erection import AXIAL
from tincleat.proof.finding import ORDER, Finding, Level, worst
from tincleat.proof.registry import prove
from tincleat.steel.cuts import NONE, Cuts

MOST_KEPT = 20000
LEAST = 0.5  # mm of length under which a member has nothing beside a detail, and past the detail that is looked at


class Made:
    """A built detail in its case; findings are worked out when first asked for."""

    def __init__(self, case: Case, detail: Detail, house: HouseRules, box: Box | None = None) -> None:
        """``box`` and the findings (:meth:`take`) are given where another process worked them out."""
        self.case, self.detail, self.house = case, detail, house
        self.assembled = Assembled(case, detail, house.rule_set, house.bolt_lengths)
        self._box = None if box is None else (np.array(box[0]), np.array(box[1]))
        self._told: tuple[Finding, ...] | None = None

    @lazy
    def findings(self) -> tuple[Finding, ...]:
        """All findings of the proof, in the joint's frame."""
        return self._told if self._told is not None else prove(self.assembled, self.house)

    @property
    def proved(self) -> bool:
        """Whether its findings are known."""
        return self._told is not None or "findings" in self.__dict__

    def take(self, findings: tuple[Finding, ...]) -> None:
        """Its findings, as another process worked them out."""
        self._told = findings

    @lazy
    def bodies(self) -> tuple[Body, ...]:
        """Its bodies as neighbours meet them, members included."""
        return solid(self.assembled)

    @lazy
    def shapes(self) -> Shapes:
        """Its bodies by kind, for pictures."""
        return shapes(self.assembled)

    @lazy
    def box(self) -> tuple[Array, Array]:
        """Least and greatest corner of its own parts in the joint's frame, mm; not a number where it has none."""
        return self._box if self._box is not None else box_of(self.assembled)

    @lazy
    def level(self) -> Level:
        """The gravest level of its findings."""
        return worst(f.level for f in self.findings)

    @lazy
    def counts(self) -> dict[Level, int]:
        """How many findings there are of each level."""
        return {level: sum(f.level == level for f in self.findings) for level in ORDER}

    @lazy
    def axial(self) -> frozenset[int]:
        """Numbers of the members that it lets in along their own axis only."""
        only = {f.part for f in self.findings if f.rule == "way-in" and f.message.endswith(AXIAL)}
        return frozenset(i for i, m in enumerate(self.case.members) if role_words(m.role) in only)


class Pair:
    """Two details near each other: what is inside what, and how near their holes and cuts are.  The first one's findings tell of it."""

    def __init__(self, mine: Made, theirs: Made, at: Frame, shared: tuple[tuple[int, int], ...]) -> None:
        self.mine, self.theirs, self.at, self.shared = mine, theirs, at, shared

    @lazy
    def findings(self) -> tuple[Finding, ...]:
        """Every body of one inside a body of the other, in the first one's frame; members that both have are looked at by each."""
        skip_mine = {role_words(self.mine.case.members[i].role) for i, _ in self.shared}
        skip_theirs = {role_words(self.theirs.case.members[j].role) for _, j in self.shared}
        zoned = tuple(self._in_zones())
        ours = [b for b in self.mine.bodies if b.kind != "concrete" and not (b.kind == "member" and b.name in skip_mine)]
        others = [b for b in self.theirs.bodies if b.kind != "concrete" and not (b.kind == "member" and b.name in skip_theirs)]
        if not self.shared:  # members of frames that only stand side by side are the model's business, parts in them are not
            apart = [[b for b in some if b.kind != "member"] for some in (ours, others)]
            return (*zoned, *self._clashes(apart[0], others), *self._clashes([b for b in ours if b.kind == "member"], apart[1]))
        clashes = self._clashes(ours, others)
        return (*zoned, *clashes, *taken_beside(self.mine.case, self.mine.detail, self.theirs.detail, self.at, self.shared, self.mine.house, self.words))

    def _in_zones(self) -> Iterator[Finding]:
        """What either has in a zone that the other keeps free."""
        for zones, bodies_, at in ((zone_corners(self.mine.detail), self.theirs.bodies, self.at), (zone_corners(self.theirs.detail), self.mine.bodies, self.at.inside(Frame()))):
            for corners in zones:
                low, high = corners.min(axis=0), corners.max(axis=0)
                for b in bodies_:
                    if b.kind in ("plate", "piece", "head", "weld", "plug", "rod"):
                        points = at.to_world(b.mesh.points)
                        if (points.min(axis=0) < high - 0.1).all() and (points.max(axis=0) > low + 0.1).all():
                            where = vec((np.maximum(points.min(axis=0), low) + np.minimum(points.max(axis=0), high)) / 2)
                            yield zone_finding(b.name, where if bodies_ is self.theirs.bodies else self.at.point(where), self.words)
                            break

    @property
    def words(self) -> str:
        """Whose the other's parts are."""
        return f" ({self.theirs.detail.family} beside it)"

    def _clashes(self, ours: Sequence[Body], others: Sequence[Body]) -> tuple[Finding, ...]:
        # a bolt's or weld's owners are parts of its own detail: they say nothing about the other's
        brought = [b.placed(self.at, ()) for b in others]
        return tuple(between([replace(b, owners=()) for b in ours], brought, self.mine.house, self.words))

    @lazy
    def counts(self) -> dict[Level, int]:
        """How many findings there are of each level."""
        return {level: sum(f.level == level for f in self.findings) for level in ORDER}


class Passing:
    """A detail and a member near it that is none of its joint's: parts inside that member's steel."""

    def __init__(self, mine: Made, shape: Section, at: Frame, low: float, high: float, cuts: Cuts) -> None:
        """``at`` is the member's frame in the detail's, ``low`` and ``high`` its steel's stations in it, ``cuts`` all that is taken off it, in ``at``."""
        self.mine, self.shape, self.at, self.low, self.high, self.cuts = mine, shape, at, low, high, cuts

    @lazy
    def findings(self) -> tuple[Finding, ...]:
        """Every part inside the member, in the detail's frame."""
        if self.high - self.low < LEAST:
            return ()
        ours = [replace(b, owners=()) for b in self.mine.bodies if b.kind not in ("member", "concrete")]
        theirs = passing_body(self.shape, self.at, self.low, self.high, self.cuts, ROUND)
        return tuple(between(ours, [theirs], self.mine.house, " that passes"))

    @lazy
    def counts(self) -> dict[Level, int]:
        """How many findings there are of each level."""
        return {level: sum(f.level == level for f in self.findings) for level in ORDER}


def _beside(mine: Made, shape: Section, at: Frame, low: float, high: float, cuts: Cuts) -> tuple[Frame, float, float, Cuts]:
    """A member's frame moved to where it comes beside a detail, with the stations and cuts that matter there; no length where it has no steel."""
    a, b = mine.box
    if not np.isfinite(a).all():
        return at, low, low, NONE
    # from where to where the box goes along it; plain numbers, for this is asked at every detail
    ends = [sorted((x * (p - o), x * (q - o))) for x, o, p, q in zip(at.x, at.origin, a.tolist(), b.tolist(), strict=True)]
    first, last = sum(e[0] for e in ends) - LEAST, sum(e[1] for e in ends) + LEAST
    room = shape.h + shape.b  # that a plane which lies askew may reach to either side of where it crosses the axis
    for e in cuts.ends:
        if abs(e.normal[0]) > 1e-6:
            n = e.normal
            x = e.point[0] + (n[1] * e.point[1] + n[2] * e.point[2]) / n[0]
            lean = room * math.hypot(n[1], n[2]) / abs(n[0])
            if (n[0] > 0 and x - lean > last) or (n[0] < 0 and x + lean < first):
                return at, 0.0, 0.0, NONE
    low, high = max(low - first, 0.0), min(high - first, last - first)
    there = near_cuts(cuts.seen_from(Frame((first, 0.0, 0.0))), -room, last - first + room)
    return at.moved(x=first), low, high, there


def bench_rules(house: HouseRules) -> HouseRules:
    """The house rules as far as a detail and its proof can depend on them: title, north, stock bars and the unit of display are
    left out, so that changing those makes nothing anew."""
    units: Units = "ft-in" if house.inch else "mm"
    return msgspec.structs.replace(house, title="", north_deg=90.0, bars={}, units=units, plain=(), marks={}, mark_start=1, mark_separator="", weld_surplus=0.0, weld_rate_shop=1.0, weld_rate_site=1.0, weld_symbols=ISO_A, dual=False)


class Workshop:
    """Builds details and keeps them by content: family, case, settings, house rules."""

    def __init__(self) -> None:
        self._made: dict[tuple[object, ...], Made] = {}
        self._pairs: dict[tuple[object, ...], Pair] = {}
        self._passing: dict[tuple[object, ...], Passing] = {}
        self._house: tuple[HouseRules | None, HouseRules, bytes] = (None, HouseRules(), b"")
        self.built = 0

    def _read(self, house: HouseRules) -> tuple[HouseRules, bytes]:
        if self._house[0] is not house:
            read = bench_rules(house)
            key = msgspec.json.encode(read)
            self._house = (house, self._house[1] if key == self._house[2] else read, key)
        return self._house[1], self._house[2]

    def pair(self, mine: Made, theirs: Made, at: Frame, shared: tuple[tuple[int, int], ...]) -> Pair:
        """How two details stand to each other, from the cache if such a pair was met before.

        ``at`` is the other one's frame in the first one's; ``shared`` are numbers of members that both have.
        """
        at = snapped(at)
        key = (id(mine), id(theirs), at, shared)
        found = self._pairs.get(key)
        if found is None:
            if len(self._pairs) >= MOST_KEPT:
                self._pairs.clear()
            found = self._pairs[key] = Pair(mine, theirs, at, shared)
        return found

    def passing(self, mine: Made, shape: Section, at: Frame, low: float, high: float, cuts: tuple[Cuts, ...]) -> Passing:
        """How a detail stands to a member that passes it, from the cache if a like one was met before; ``cuts`` are in the member's axis frame."""
        total = NONE
        for one in cuts:
            total = total + one
        if not shape.h_end:  # only the length beside the detail counts, wherever along the member that is
            at, low, high, total = _beside(mine, shape, at, low, high, total)
        at, total = snapped(at), snapped_cuts(total)
        key = (id(mine), shape.name, at, round(low, 1), round(high, 1), total)
        found = self._passing.get(key)
        if found is None:
            if len(self._passing) >= MOST_KEPT:
                self._passing.clear()
            found = self._passing[key] = Passing(mine, shape, at, low, high, total)
        return found

    def known(self, name: str, case: Case, mirror: bool, settings: Mapping[str, Value], house: HouseRules) -> Made | None:
        """The detail of a family at a case, if it was made before."""
        return self._made.get((name, case, mirror, tuple(sorted(settings.items())), self._read(house)[1]))

    def make(self, name: str, case: Case, mirror: bool, settings: Mapping[str, Value], house: HouseRules) -> Made:
        """The detail of a family at a case, from the cache if it was made before; raises NoFit."""
        found = self.known(name, case, mirror, settings, house)
        if found is None:
            house, rules = self._read(house)
            key = (name, case, mirror, tuple(sorted(settings.items())), rules)
            self._make_room()
            try:
                found = self._made[key] = Made(*build(name, case, mirror, settings, house), house)
            except TinCleatError:
                raise
            except Exception as error:  # one family's mistake is no other one's, and no reason to stop a frame's work
                at = traceback.extract_tb(error.__traceback__)[-1]
                raise Fault(f"{name} failed inside: {type(error).__name__}: {str(error)[:200]}", f"{Path(at.filename).name}, line {at.lineno}", "another family here; nothing else is touched") from error
            self.built += 1
        return found

    def _make_room(self) -> None:
        if len(self._made) >= MOST_KEPT:
            for old in list(self._made)[: MOST_KEPT // 4]:
                del self._made[old]

    def make_many(self, jobs: Iterable[Making], house: HouseRules, prove: bool, told: Callable[[int, int], None]) -> bool:
        """Make many details that were not made before by several processes, if there are enough of them, and whether there were; and ``prove``
        them at once, where that is asked for next.  What is refused or fails is left to :meth:`make`.  ``told`` hears how many of how many are
        done, and what it raises stops the work."""
        house, rules = self._read(house)
        new: dict[tuple[object, ...], Making] = {}
        for name, case, mirror, settings in jobs:
            key: tuple[object, ...] = (name, case, mirror, tuple(sorted(settings.items())), rules)
            if key not in self._made and name not in own_families() and sendable(case, settings):  # an office's own are loaded in this process alone
                new[key] = (name, case, mirror, settings)

        def make(job: Making) -> None:
            with suppress(TinCleatError):  # met again where it is told
                made = self.make(*job, house)
                _ = made.findings if prove else ()

        if not WORTH <= len(new) <= MOST_KEPT or not pays(list(new.values()), make):
            return False
        new = {key: job for key, job in new.items() if key not in self._made}
        for (key, (_, case, mirror, _)), found in zip(new.items(), make_all(list(new.values()), house, prove, lambda done: told(done, len(new))), strict=True):
            if found is not None:
                self._make_room()
                detail, box, findings = found
                self._made[key] = one = Made(mirror_case(case) if mirror else case, detail, house, box)
                if findings is not None:
                    one.take(findings)
                self.built += 1
        return True


def prove_many(made: Iterable[Made], told: Callable[[int, int], None]) -> None:
    """Work out the findings of many details by several processes, if there are enough that have none yet; ``told`` as for making them."""
    by_house: dict[int, list[Made]] = {}
    for one in {id(m): m for m in made if not m.proved and sendable(m.case, {}) and m.detail.family not in own_families()}.values():
        by_house.setdefault(id(one.house), []).append(one)
    for some in by_house.values():
        if len(some) >= WORTH and pays(some, lambda one: one.findings):
            some = [one for one in some if not one.proved]
            for one, findings in zip(some, prove_all([(m.case, m.detail) for m in some], some[0].house, lambda done: told(done, len(some))), strict=True):  # noqa: B023 - asked within the turn
                if findings is not None:
                    one.take(findings)
