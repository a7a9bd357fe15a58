"""The ledger: every joint of the model with its connection, its detail and its findings."""

from collections.abc import Iterable, Mapping, Sequence

import msgspec

from tincleat.errors import NotFound, TinCleatError
from tincleat.joints.case import Case, Joint
from tincleat.joints.find import Finder
from tincleat.ledger.entries import Entries, Entry, Kin
from tincleat.ledger.made import Made, Workshop
from tincleat.project.entities import Connection, Delta, End, HouseRules, Value
from tincleat.project.project import Project


class Ledger:
    """Joints, details and findings of one project, kept in step by :meth:`changed`."""

    def __init__(self, project: Project, workshop: Workshop | None = None) -> None:
        self.project, self.workshop = project, workshop or Workshop()
        self.entries = Entries()
        self.by_end: dict[tuple[str, End], str] = {}
        self.lost: dict[str, str] = {}
        self._claims: dict[tuple[str, End], list[str]] = {}
        self.rebuild()

    def rebuild(self) -> None:
        """Find all joints and make all details anew (cached ones are taken from the workshop)."""
        p = self.project
        self.finder = Finder(p.members, p.levels.values(), p.house.units)
        self._cases: dict[Case, Case] = {}
        found = self._found(None)
        self.entries = Entries()
        for joint in found:
            self.entries[joint.key] = Entry(joint)
        self.by_end, self._claims = {}, {}
        self.lost = {}
        for joint in found:
            self._claim(joint)
        self._hung: dict[str, dict[str, None]] = {}
        for c in p.connections.values():
            self._hung.setdefault(c.member, {})[c.id] = None
        self._connect(p.connections.values())

    def _on(self, members: Iterable[str]) -> list[Connection]:
        """The connections that hang on some members."""
        return [self.project.connections[name] for m in dict.fromkeys(members) for name in self._hung.get(m, ())]

    def _found(self, only: "Iterable[str] | None") -> list[Joint]:
        # kin share one case object, so that likeness is an identity from here on
        return [msgspec.structs.replace(j, case=self._cases.setdefault(j.case, j.case)) for j in self.finder.joints(only)]

    def _claim(self, joint: Joint) -> None:
        """Note which ends a joint settles; of several joints that settle one end the first found keeps it."""
        for end in joint.ends:
            self.by_end.setdefault(end, joint.key)
            self._claims.setdefault(end, []).append(joint.key)

    def _members_changed(self, ids: "Sequence[str]") -> set[str]:
        """Find the joints of some members and their neighbours anew; the keys of entries that differ for it."""
        near = self.finder.changed(ids)
        dropped: dict[str, Entry] = {}
        while True:
            # a joint is settled by all members whose ends it joins, before and after
            for m in [*near, *ids]:
                for key in [*self._claims.get((m, "start"), ()), *self._claims.get((m, "end"), ())]:
                    dropped[key] = self.entries[key]
            found = self._found(near)
            wider = near | {m for e in dropped.values() for m, _ in e.joint.ends} | {m for j in found for m, _ in j.ends}
            wider &= set(self.finder.index)
            if wider == near:
                break
            near = wider
        for key, entry in dropped.items():
            del self.entries[key]
            for end in entry.joint.ends:
                self.by_end.pop(end, None)
                self._claims.pop(end, None)
        for joint in found:
            self.entries[joint.key] = Entry(joint)
            self._claim(joint)
        mine = near | set(ids)
        self.lost = {k: v for k, v in self.lost.items() if k in self.project.connections}
        self._connect(self._on(mine))
        keys = set(dropped) | {j.key for j in found}
        out = set()
        for key in keys:
            old, new = dropped.get(key), self.entries.get(key)
            if old is not None and new is not None and _same(old, new):
                self.entries[key] = old  # whoever drew it need not draw it again
            else:
                out.add(key)
        return out

    def _connect(self, connections: Iterable[Connection]) -> None:
        house = self.project.house
        conceded: dict[str, dict[str, float]] = {}
        for c in self.project.concessions.values():
            conceded.setdefault(c.connection, {})[c.finding] = c.actual
        # where two hang on one joint the later one counts, whatever order they come in
        for connection in sorted(connections, key=lambda c: (len(c.id), c.id)):
            key = self.by_end.get((connection.member, connection.end))
            if key is None:
                self.lost[connection.id] = "its member is gone"
                continue
            self.lost.pop(connection.id, None)
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
        for c in changes:
            if isinstance(c.old, Connection):
                self._hung.get(c.old.member, {}).pop(c.id, None)
            if isinstance(c.new, Connection):
                self._hung.setdefault(c.new.member, {})[c.id] = None
        members = list(dict.fromkeys(c.id for c in changes if c.table == "member"))
        wide = len(members) > max(200, len(self.project.members) // 10)
        if wide or any(c.table in ("house", "level", "section") for c in changes):
            before = self.entries
            self.rebuild()
            keys = set(before) | set(self.entries)
            return {k for k in keys if (a := before.get(k)) is None or (b := self.entries.get(k)) is None or not _same(a, b)}
        moved = self._members_changed(members) if members else set()
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
        if touched:
            ends = (m for key in touched for m, _ in self.entries[key].joint.ends)
            self._connect(c for c in self._on(ends) if self.by_end.get((c.member, c.end)) in touched)
        return touched | moved

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
        """All joints grouped by likeness, in the order of the model."""
        return self.entries.kin()

    def like(self, joint: Joint) -> list[Joint]:
        """The joint's kin, itself included."""
        return [e.joint for e in self.entries.alike(joint.case)]

    def refusal(self, joint: Joint, family: str, settings: Mapping[str, Value]) -> str:
        """Why a family does not suit a joint, or an empty text if it does."""
        try:
            self.make(joint, family, settings)
        except TinCleatError as error:
            return str(error)
        return ""

    def counts(self) -> dict[str, int]:
        """Joints, joined ones, ends that meet nothing (``apart``), and findings by level."""
        return self.entries.counts()


def _same(a: Entry, b: Entry) -> bool:
    return a.joint == b.joint and a.connection == b.connection and a.made is b.made and a.problem == b.problem and a.concessions == b.concessions
