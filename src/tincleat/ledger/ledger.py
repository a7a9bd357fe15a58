"""The ledger: every joint of the model with its connection, its detail and its findings."""

import operator
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import msgspec

from tincleat.errors import NotFound, TinCleatError
from tincleat.joints.case import Case, Joint
from tincleat.joints.find import Finder
from tincleat.ledger.made import Made, Workshop
from tincleat.project.entities import Connection, Delta, End, HouseRules, Value
from tincleat.project.project import Project
from tincleat.proof.finding import Finding, Level, worst

NO_CASE = "connection-joint"


@dataclass(frozen=True)
class Entry:
    """One joint's line: its connection and detail if it has one, or the problem that keeps the detail from being built."""

    joint: Joint
    connection: Connection | None = None
    made: Made | None = None
    problem: str = ""
    concessions: "Mapping[str, float]" = field(default_factory=dict)

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """Findings with accepted breaches shown as concessions; a connection that cannot be built is itself a breach."""
        if self.problem:
            return (Finding(NO_CASE, "Connection fits its joint", "the model", "breach", "connection", 0, 1, ">=", "", (0.0, 0.0, 0.0), self.problem),)
        if self.made is None:
            return ()
        if not self.concessions:
            return self.made.findings
        return tuple(self._conceded(f) for f in self.made.findings)

    @property
    def open_end(self) -> Finding | None:
        """A note that nothing joins these member ends yet."""
        if self.connection is not None:
            return None
        where = self.joint.place
        return Finding(
            "end-open", "Unjoined end", "every member end is joined", "note", self.joint.key, 0, 1, ">=", "", (0.0, 0.0, 0.0), f"{self.joint.words}, {where}"
        )

    def _conceded(self, f: Finding) -> Finding:
        if f.level == "clear" or f.key not in self.concessions:
            return f
        was = self.concessions[f.key]
        worse = f.actual < was - 0.01 if f.sense == ">=" else f.actual > was + 0.01 if f.sense == "<=" else abs(f.actual - was) > 0.01
        return f if worse else msgspec.structs.replace(f, level="concession")

    @cached_property
    def level(self) -> Level:
        """The gravest level of its findings."""
        if not self.problem and not self.concessions:
            return self.made.level if self.made is not None else "clear"
        return worst(f.level for f in self.findings)


@dataclass(frozen=True)
class Kin:
    """Joints alike enough for one detail."""

    words: str
    kind: str
    case: Case
    entries: tuple[Entry, ...]

    @cached_property
    def joined(self) -> int:
        """How many of them have a connection."""
        return sum(e.connection is not None for e in self.entries)

    @cached_property
    def level(self) -> Level:
        """The gravest level among them."""
        return worst(e.level for e in self.entries)


class Ledger:
    """Joints, details and findings of one project, kept in step by :meth:`changed`."""

    def __init__(self, project: Project, workshop: Workshop | None = None) -> None:
        self.project, self.workshop = project, workshop or Workshop()
        self.entries: dict[str, Entry] = {}
        self.by_end: dict[tuple[str, End], str] = {}
        self.lost: dict[str, str] = {}
        self._kin: dict[int, Kin] = {}
        self.rebuild()

    def rebuild(self) -> None:
        """Find all joints and make all details anew (cached ones are taken from the workshop)."""
        p = self.project
        # kin share one case object, so that likeness is an identity from here on
        one: dict[Case, Case] = {}
        found = [msgspec.structs.replace(j, case=one.setdefault(j.case, j.case)) for j in Finder(p.members, p.levels.values(), p.house.units).joints()]
        self.entries = {j.key: Entry(j) for j in found}
        self.by_end = {}
        for joint in found:
            for end in joint.ends:
                self.by_end.setdefault(end, joint.key)
        self._connect(p.connections.values())

    def _connect(self, connections: Iterable[Connection]) -> None:
        house = self.project.house
        conceded: dict[str, dict[str, float]] = {}
        for c in self.project.concessions.values():
            conceded.setdefault(c.connection, {})[c.finding] = c.actual
        for connection in connections:
            key = self.by_end.get((connection.member, connection.end))
            if key is None:
                self.lost[connection.id] = "its member is gone"
                continue
            joint = self.entries[key].joint
            made, problem = None, ""
            try:
                made = self.make(joint, connection.family, connection.settings, house)
            except TinCleatError as error:
                problem = str(error)
            self.entries[key] = Entry(joint, connection, made, problem, conceded.get(connection.id, {}))

    def make(self, joint: Joint, family: str, settings: Mapping[str, Value], house: HouseRules | None = None) -> Made:
        """The detail a family makes at a joint; raises NoFit, in the joint's own figures, where it does not suit."""
        return self.workshop.make(family, joint.case, joint.mirrored, settings, house or self.project.house)

    def changed(self, changes: Sequence[Delta]) -> set[str]:
        """Bring everything in step with applied changes; the keys of joints whose entry changed."""
        if any(c.table in ("member", "house", "level") for c in changes):
            before = self.entries
            self.rebuild()
            keys = set(before) | set(self.entries)
            return {k for k in keys if (a := before.get(k)) is None or (b := self.entries.get(k)) is None or not _same(a, b)}
        touched: set[str] = set()
        names = {c.id for c in changes if c.table == "connection"}
        names |= {e.connection for c in changes if c.table == "concession" for e in (c.old, c.new) if e is not None}  # type: ignore[union-attr]
        for c in changes:
            if c.table == "connection":
                for side in (c.old, c.new):
                    if isinstance(side, Connection) and (key := self.by_end.get((side.member, side.end))):
                        touched.add(key)
        for name in names:
            found = self.project.connections.get(name)
            if found and (key := self.by_end.get((found.member, found.end))):
                touched.add(key)
        for key in touched:
            self.entries[key] = Entry(self.entries[key].joint)
        mine = [c for c in self.project.connections.values() if self.by_end.get((c.member, c.end)) in touched]
        self._connect(mine)
        return touched

    def joint_of(self, member: str, end: End) -> Joint:
        """The joint that settles a member end; raises NotFound."""
        key = self.by_end.get((member, end))
        if key is None:
            raise NotFound(f"there is no joint at {member}.{end}")
        return self.entries[key].joint

    def entry_of(self, connection: str) -> Entry:
        """The entry of a connection; raises NotFound."""
        found = self.project.connections.get(connection)
        key = self.by_end.get((found.member, found.end)) if found else None
        if key is None:
            raise NotFound(f"there is no connection {connection!r}", right="an id such as those the ledger shows")
        return self.entries[key]

    def kin(self) -> list[Kin]:
        """All joints grouped by likeness, open ones of many first in the order of the model."""
        groups: dict[int, list[Entry]] = {}
        for entry in self.entries.values():
            groups.setdefault(id(entry.joint.case), []).append(entry)
        before, self._kin = self._kin, {}
        for case, entries in groups.items():
            old = before.get(case)
            # a group in which nothing changed stays the same object, so that whoever drew it need not draw it again
            same = old is not None and len(old.entries) == len(entries) and all(map(operator.is_, old.entries, entries))
            first = entries[0].joint
            self._kin[case] = old if old is not None and same else Kin(first.words, first.kind, first.case, tuple(entries))
        return list(self._kin.values())

    def like(self, joint: Joint) -> list[Joint]:
        """The joint's kin, itself included."""
        return [e.joint for e in self.entries.values() if e.joint.case is joint.case]

    def refusal(self, joint: Joint, family: str, settings: Mapping[str, Value]) -> str:
        """Why a family does not suit a joint, or an empty text if it does."""
        try:
            self.make(joint, family, settings)
        except TinCleatError as error:
            return str(error)
        return ""

    def counts(self) -> dict[str, int]:
        """Joints, joined ones, and findings by level."""
        levels = {"clear": 0, "concession": 0, "note": 0, "breach": 0}
        joined = 0
        for entry in self.entries.values():
            joined += entry.connection is not None
            if entry.made is not None and not entry.concessions:
                for level, count in entry.made.counts.items():
                    levels[level] += count
            else:
                for finding in entry.findings:
                    levels[finding.level] += 1
        return {"joints": len(self.entries), "joined": joined, **levels}


def _same(a: Entry, b: Entry) -> bool:
    return a.joint == b.joint and a.connection == b.connection and a.made is b.made and a.problem == b.problem and a.concessions == b.concessions
