"""The ledger: every joint of the model with its connection, its detail and its findings."""

from collections.abc import Callable, Iterable, Mapping, Sequence

import msgspec
import numpy as np

from tincleat.errors import NoFit, NotFound, Progress, TinCleatError, go_on
from tincleat.families.declare import FROM_TYPICAL
from tincleat.families.registry import FAMILIES
from tincleat.garbage import uncollected
from tincleat.joints.along import row_key, station_key
from tincleat.joints.case import REACH, Case, Joint, Standing
from tincleat.joints.find import Finder
from tincleat.ledger.book import SteelBook
from tincleat.ledger.entries import Entries, Entry, Kin
from tincleat.ledger.hands import Making
from tincleat.ledger.made import Made, Workshop, bench_rules, prove_many
from tincleat.ledger.meet import CUT_BACK, Neighbours, rank
from tincleat.ledger.schedule import with_row
from tincleat.ledger.typical import given
from tincleat.project.entities import Connection, Delta, End, HouseRules, Schedule, Value
from tincleat.project.places import place_words
from tincleat.project.project import Project

STOPPED = "it was cancelled; nothing was changed"
EVERY = 100  # connections between two words of how far it is
SAME_LEVEL = 1000.0  # mm within which beams come to one level of a column


class Ledger(Neighbours):
    """Joints, details and findings of one project, kept in step by :meth:`changed`."""

    def __init__(self, project: Project, workshop: Workshop | None = None, progress: Progress | None = None) -> None:
        """All that is found out of a project; raises Cancelled when ``progress`` says so."""
        self.project, self.workshop = project, workshop or Workshop()
        self.progress: Progress | None = None  # told how far all is made anew, while somebody follows it
        self.entries = Entries()
        self.by_end: dict[tuple[str, End], str] = {}
        self.lost: dict[str, str] = {}
        self._claims: dict[tuple[str, End], list[str]] = {}
        self._owed: set[str] = set()  # joints round which it is not known yet what details near each other do to each other
        self.book = SteelBook()
        self.rebuild(progress)

    def rebuild(self, progress: Progress | None = None) -> None:
        """Find all joints and make all details anew (cached ones are taken from the workshop); raises Cancelled when ``progress`` says so."""
        with uncollected():
            self._rebuild(progress)

    def _rebuild(self, progress: Progress | None) -> None:
        p = self.project
        count = len(p.members)
        self.finder = Finder(p.members, p.house.units, frozenset(f.name for f in FAMILIES.values() if "along" in f.kinds))
        self._cases: dict[Case, Case] = {}
        found = self._found(None, lambda done: go_on(progress, 0.08 + 0.52 * done / count, f"finding joints, {done:,} of {count:,} members", STOPPED))
        self.entries = Entries()
        for joint in found:
            self.entries[joint.key] = self._open(joint)
        self.by_end, self._claims = {}, {}
        self.lost = {}
        for joint in found:
            self._claim(joint)
        self._hung: dict[str, dict[str, None]] = {}
        for c in p.connections.values():
            self._hang(c)
        self._connect(p.connections.values(), progress, prove=False)  # a picture of it comes first
        go_on(progress, 0.7, "looking at what stands near what", STOPPED)
        self._owed = set()
        self._meet(self.entries)
        go_on(progress, 1.0, "drawing the model", STOPPED)

    def _remake(self) -> None:
        """Make all details anew at the joints there are: house rules change no joint but in the unit of its words."""
        with uncollected():
            entries = Entries()
            for key, entry in self.entries.items():
                entries[key] = self._open(entry.joint)
            self.entries = entries
            told = self.progress
            self._connect(self.project.connections.values(), (lambda share, words: told((share - 0.65) * 14, words)) if told is not None else None)
            go_on(told, 0.75, "looking at what stands near what", STOPPED)
            self._owed = set()
            self._meet(self.entries)
            go_on(told, 0.95, "counting what was found", STOPPED)

    def beside(self) -> "Ledger":
        """A ledger of the same model once more, to try other connections or house rules on; this one stays as it is.  Details alike are taken
        from the same workshop.  Members may not be changed in it: both look at one finder."""
        other = Ledger.__new__(Ledger)
        other.__dict__ |= self.__dict__
        other.project = self.project.beside()
        other.by_end, other.lost, other._owed = dict(self.by_end), dict(self.lost), set()
        other._claims, other._hung = {k: list(v) for k, v in self._claims.items()}, {k: dict(v) for k, v in self._hung.items()}
        other.book, other.entries = SteelBook(), Entries()
        for key, entry in self.entries.items():
            other.entries[key] = entry
        return other

    def tried(self, house: HouseRules) -> "Ledger":
        """A ledger beside this one under other house rules."""
        other = self.beside()
        other.project.tables["house"] = {"house": house}
        other._remake()
        return other

    def _open(self, joint: Joint) -> Entry:
        return Entry(joint, plain=joint.kind in self.project.house.plain)

    def _hang(self, c: Connection) -> None:
        for m in c.members:
            self._hung.setdefault(m, {})[c.id] = None

    def hanging(self, members: Iterable[str]) -> list[Connection]:
        """The connections that hang on some members."""
        names = dict.fromkeys(name for m in dict.fromkeys(members) for name in self._hung.get(m, ()))
        return [self.project.connections[name] for name in names]

    def _found(self, only: "Iterable[str] | None", told: "Callable[[int], None] | None" = None) -> list[Joint]:
        return [self._kept(j) for j in self.finder.joints(only, told)]

    def _kept(self, joint: Joint) -> Joint:
        # kin share one case object, so that likeness is an identity from here on
        return msgspec.structs.replace(joint, case=self._cases.setdefault(joint.case, joint.case))

    def _claim(self, joint: Joint) -> None:
        """Note which ends a joint settles; of several joints that settle one end the first found keeps it."""
        for end in joint.ends:
            self.by_end.setdefault(end, joint.key)
            self._claims.setdefault(end, []).append(joint.key)

    def _drop(self, key: str) -> Entry:
        """Take a joint out with its claims."""
        entry = self.entries[key]
        del self.entries[key]
        for end in entry.joint.ends:
            self.by_end.pop(end, None)
            self._claims.pop(end, None)
        return entry

    def _members_changed(self, ids: "Sequence[str]") -> set[str]:
        """Find the joints of some members and their neighbours anew; the keys of entries that differ for it."""
        swept = [box for m in ids if (box := self.finder.box(m)) is not None]
        near = self.finder.changed(ids)
        swept += [box for m in ids if (box := self.finder.box(m)) is not None]
        dropped: dict[str, Entry] = {}
        while True:
            # a joint is settled by all members whose ends it joins, before and after
            for m in [*near, *ids]:
                for key in [*self._claims.get((m, "start"), ()), *self._claims.get((m, "end"), ())]:
                    dropped[key] = self.entries[key]
            for c in self.hanging([*near, *ids]):
                if not c.ends and (key := self._placed_key(c)) in self.entries:
                    dropped[key] = self.entries[key]
            found = self._found(near)
            wider = near | {m for e in dropped.values() for m, _ in e.joint.ends} | {m for j in found for m, _ in j.ends}
            wider &= set(self.finder.index)
            if wider == near:
                break
            near = wider
        for key in dropped:
            self._drop(key)
        for joint in found:
            self.entries[joint.key] = self._open(joint)
            self._claim(joint)
        mine = near | set(ids)
        self.lost = {k: v for k, v in self.lost.items() if k in self.project.connections}
        taken = self._connect(self.hanging(mine))
        keys = set(dropped) | {j.key for j in found} | taken
        keys |= self._see(keys, dropped.values())
        passed = {e.joint.key for low, high in swept for e in self.entries.within(low, high)}
        self._owed |= keys | passed | self._beside(dropped.values())
        out = set()
        for key in keys:
            old, new = dropped.get(key), self.entries.get(key)
            if old is not None and new is not None and _same(old, new):
                self.entries[key] = old  # whoever drew it need not draw it again
            else:
                out.add(key)
        return out

    def _beside(self, gone: "Iterable[Entry]") -> set[str]:
        """Keys of joints near some that are gone: they may have had findings about them."""
        return {e.joint.key for old in gone for e in self.entries.near(old, CUT_BACK)}

    def _placed_key(self, c: Connection) -> str:
        """The key of the site at a station, row or crossing."""
        if c.row and c.at is not None:
            return row_key(c.member, c.at, c.row)
        return station_key(c.member, c.at) if c.at is not None else f"{c.member}x{c.other}"

    def key_of(self, c: Connection) -> str | None:
        """The key of the joint a connection hangs on, if it is there."""
        if c.ends:
            return self.by_end.get((c.member, c.end))
        key = self._placed_key(c)
        return key if key in self.entries else None

    def site(self, c: Connection) -> Joint | None:
        """What a connection's anchor finds in the model; None where there is nothing of the kind."""
        if not c.ends:
            return self.finder.site(c, {})
        key = self.by_end.get((c.member, c.end))
        known = self.entries[key].joint if key is not None else None
        if not c.more or (known is not None and set(known.ends) >= set(c.ends)):
            return known
        return self.shared(c.ends) or known

    def shared(self, ends: "Sequence[tuple[str, End]]") -> Joint | None:
        """The one site of several ends of a node, whether or not a connection takes them; None where they do not meet so."""
        return self.finder.shared(ends, {end: self.entries[key].joint for end in ends if (key := self.by_end.get(end)) is not None})

    def _install(self, c: Connection) -> tuple[Joint | None, set[str]]:
        """The joint a connection hangs on, put into the ledger in place of those it takes in; and the keys that changed for it."""
        key = self.key_of(c)
        if key is not None and (not c.more or set(self.entries[key].joint.ends) >= set(c.ends)):
            return self.entries[key].joint, set()
        joint = self.site(c)
        if joint is None or (joint.key == key and joint.ends == self.entries[joint.key].joint.ends):
            return joint, set()
        joint = self._kept(joint)
        gone = {k for end in joint.ends if (k := self.by_end.get(end)) is not None}
        for k in gone:
            self._drop(k)
        self.entries[joint.key] = self._open(joint)
        self._claim(joint)
        return joint, gone | {joint.key}

    def _connect(self, connections: Iterable[Connection], progress: Progress | None = None, prove: bool = True) -> set[str]:
        """Make the details of connections, and ``prove`` them where there are so many that it takes long; the keys of joints that came or went
        for it."""
        house = self.project.house
        conceded: dict[str, dict[str, float]] = {}
        for c in self.project.concessions.values():
            conceded.setdefault(c.connection, {})[c.finding] = c.actual
        touched: set[str] = set()
        waiting: list[tuple[int, Joint, Connection, Making]] = []  # whose details are not made yet
        latest: dict[str, int] = {}

        def flush() -> None:
            count = len(waiting)
            deed = "making and proving" if prove else "making"
            shared = self.workshop.make_many([job for *_, job in waiting], house, prove, lambda done, all_: go_on(progress, 0.65 + 0.05 * done / all_, f"{deed} {done:,} of {all_:,} different details", STOPPED))
            for done, (number, joint, connection, job) in enumerate(waiting):
                if not shared and done % EVERY == 0:
                    go_on(progress, 0.65 + 0.05 * done / count, f"making {done:,} of {count:,} details", STOPPED)
                made, problem = None, ""
                try:
                    made = self.workshop.make(*job, house)
                except TinCleatError as error:
                    problem = str(error)
                if latest[joint.key] == number and joint.key in self.entries:
                    self.entries[joint.key] = Entry(joint, connection, made, problem, conceded.get(connection.id, {}))
            waiting.clear()

        looking = False
        # where two hang on one joint the later one counts, whatever order they come in; those that look at others come after them
        for number, connection in enumerate(sorted(connections, key=lambda c: (_sees(c), *rank(c)))):
            if not looking and _sees(connection):
                looking = True
                flush()
            joint, keys = self._install(connection)
            touched |= keys
            if joint is None:
                self.lost[connection.id] = "its member is gone" if connection.ends else "its members do not lie beside each other there" if connection.row else "there is no such place on its member"
                continue
            self.lost.pop(connection.id, None)
            latest[joint.key] = number
            made, problem = None, ""
            try:
                if connection.more and not set(joint.ends) >= set(connection.ends):
                    raise NoFit("its members do not meet at one node any more: " + ", ".join(f"{m}.{e}" for m, e in connection.ends))
                job = self.asked(joint, connection.family, connection.settings, connection.typical)
                made = self.workshop.known(*job, house)
                if made is None:
                    waiting.append((number, joint, connection, job))
                    continue
            except TinCleatError as error:
                problem = str(error)
            self.entries[joint.key] = Entry(joint, connection, made, problem, conceded.get(connection.id, {}))
        flush()
        return touched

    def _see(self, keys: "Iterable[str]", gone: "Iterable[Entry]" = ()) -> set[str]:
        """Make anew what looks at the plates of others, near some joints and some that are gone; the keys of entries that differ for it."""
        members = dict.fromkeys(m for e in (*(self.entries[k] for k in keys if k in self.entries), *gone) for m in e.joint.members)
        before = {e.joint.key: e for m in members for e in self.entries.of_member(m) if e.connection is not None and _sees(e.connection)}
        touched = self._connect(e.connection for e in before.values() if e.connection is not None)
        out = set()
        for key, old in before.items():
            new = self.entries[key]
            if old.made is new.made and old.problem == new.problem:
                self.entries[key] = old
            else:
                out.add(key)
        return out | touched

    def _seen(self, joint: Joint, family: str) -> Case:
        """The case a family builds from: with the plates that connections of other families put nearby, if it looks at them."""
        if not (family in FAMILIES and FAMILIES[family].sees):
            return joint.case
        out: list[Standing] = []
        others = {e.joint.key: e for m in joint.members for e in self.entries.of_member(m) if e.joint.key != joint.key}
        for e in others.values():
            if e.made is None or e.connection is None or _sees(e.connection):
                continue
            for plate in e.made.detail.flats:
                there = e.joint.frame.at(plate.frame)
                x0, y0, x1, y1 = plate.outline.bounds
                middle = joint.frame.to_local(there.to_world([((x0 + x1) / 2, (y0 + y1) / 2, plate.thickness / 2)]))[0]
                if float(np.linalg.norm(middle)) - float(np.hypot(x1 - x0, y1 - y0)) / 2 <= REACH:
                    standing = Standing(plate.name, there, plate.outline, plate.thickness).seen_from(joint.frame)
                    out.append(standing.image if joint.mirrored else standing)
        return msgspec.structs.replace(joint.case, context=tuple(sorted(out, key=lambda s: (s.name, s.frame.origin, s.frame.x, s.frame.z)))) if out else joint.case

    def make(self, joint: Joint, family: str, settings: Mapping[str, Value], house: HouseRules | None = None, typical: str = "") -> Made:
        """The detail a family makes at a joint, with ``settings`` as typed over those of a schedule's row and of a ``typical`` (an id); raises
        NoFit, in the joint's own figures, where it does not suit."""
        return self.workshop.make(*self.asked(joint, family, settings, typical), house or self.project.house)

    def asked(self, joint: Joint, family: str, settings: Mapping[str, Value], typical: str) -> Making:
        """What :meth:`make` asks the workshop for."""
        below = given(self.project, joint, family, typical) if typical else {}
        if family in FAMILIES and (by := FAMILIES[family].scheduled):
            settings = with_row(self.project, joint, family, by, {by: below[by], **settings} if by in below else settings, self._beams_at)
        if below:
            settings = {**below, **settings, FROM_TYPICAL: ",".join(sorted(below.keys() - settings.keys()))}
        return family, self._seen(joint, family), joint.mirrored, settings

    def _beams_at(self, joint: Joint) -> int:
        """On how many sides of its column beams come to a joint's level: 1, or 2 where one comes to the opposite flange."""
        away = np.array(joint.frame.x)
        for other in self.entries.of_member(joint.support) if joint.support else ():
            o = other.joint
            if o.key != joint.key and o.kind == joint.kind and float(np.array(o.frame.x) @ away) < -0.9 and abs(o.frame.origin[2] - joint.frame.origin[2]) < SAME_LEVEL:
                return 2
        return 1

    def changed(self, changes: Sequence[Delta]) -> set[str]:
        """Bring everything in step with applied changes; the keys of joints whose entry changed."""
        return self.build(changes) | self.settle()

    def settle(self) -> set[str]:
        """Bring in step what details near each other do to each other, as far as :meth:`build` left it; the keys of entries that differ for it."""
        owed, self._owed = self._owed, set()
        return self._meet(owed)

    def build(self, changes: Sequence[Delta]) -> set[str]:
        """Find joints and make details as applied changes ask for; the keys of joints whose entry changed.  What details near each other do
        to each other waits for :meth:`settle`: many commands one after the other ask for it once."""
        members = {c.id: None for c in changes if c.table == "member"}
        out: set[str] = set()
        beside: set[str] = set()
        for c in changes:
            if c.table != "connection":
                continue
            old, new = (s if isinstance(s, Connection) else None for s in (c.old, c.new))
            moved = old is None or new is None or old.anchor != new.anchor
            if old is not None:
                for m in old.members:
                    self._hung.get(m, {}).pop(c.id, None)
                if moved and not old.ends and (at := self._placed_key(old)) in self.entries:
                    beside |= self._beside([self.entries[at]])
                    self._drop(at)
                    out.add(at)
            if new is not None:
                self._hang(new)
            if moved and old is not None and old.more:  # ends that several members shared are found anew
                members |= dict.fromkeys(old.members)
        wide = len(members) > max(200, len(self.project.members) // 3)
        renewed = self._house_changed(changes, out)
        if wide or renewed or any(c.table == "section" for c in changes):
            before = self.entries
            if all(isinstance(c.old, HouseRules) and isinstance(c.new, HouseRules) and c.old.units == c.new.units for c in changes):
                self._remake()
            else:
                self.rebuild(self.progress)
            keys = set(before) | set(self.entries)
            return {k for k in keys if (a := before.get(k)) is None or (b := self.entries.get(k)) is None or not _same(a, b)}
        if members:
            out |= self._members_changed(list(members))
        touched: set[str] = set()
        names = {c.id for c in changes if c.table == "connection"}
        names |= {e.connection for c in changes if c.table == "concession" for e in (c.old, c.new) if e is not None}  # type: ignore[union-attr]
        families = {e.family for c in changes if c.table == "schedule" for e in (c.old, c.new) if isinstance(e, Schedule)}
        names |= {c.id for c in self.project.connections.values() if c.family in families}
        typicals = {c.id for c in changes if c.table == "typical"}
        names |= {c.id for c in self.project.connections.values() if c.typical in typicals}
        for c in changes:
            if c.table == "connection":
                for side in (c.old, c.new):
                    if isinstance(side, Connection) and (there := self.key_of(side)):
                        touched.add(there)
        found = [self.project.connections[name] for name in names if name in self.project.connections]
        touched |= {there for one in found if (there := self.key_of(one))}
        if touched or found:
            beside |= self._beside([self.entries[k] for k in touched])
            here = {there: one.id for one in found if (there := self.key_of(one))}
            for key in touched:  # but for those whose connection is made anew where it is
                if (now := self.entries[key].connection) is None or here.get(key) != now.id:
                    self.entries[key] = self._open(self.entries[key].joint)
            mine = {m for key in touched for m, _ in self.entries[key].joint.ends} | {m for one in found for m in one.members}
            taken = self._connect(c for c in self.hanging(mine) if c.id in names or self.key_of(c) in touched)
            touched |= taken
        touched |= self._see(touched, (self.entries[k] for k in beside if k in self.entries))
        self._owed |= touched | beside
        return out | touched

    def _house_changed(self, changes: "Sequence[Delta]", out: set[str]) -> bool:
        """Whether a change of house rules makes everything anew; one that only words or plain ends depend on is taken in here."""
        for c in changes:
            if not isinstance(c.new, HouseRules):
                continue
            old = c.old if isinstance(c.old, HouseRules) else HouseRules()
            if bench_rules(old) != bench_rules(c.new):
                return True
            if old.units != c.new.units:
                self.finder.speak(c.new.units)
                short = [m for e in list(self.entries.values()) if e.joint.kind == "near miss" for m in e.joint.members]
                if short:
                    out |= self._members_changed(list(dict.fromkeys(short)))
            if old.plain != c.new.plain:
                kinds = set(old.plain) ^ set(c.new.plain)
                for key in [k for k, e in self.entries.items() if e.joint.kind in kinds and e.connection is None]:
                    self.entries[key] = self._open(self.entries[key].joint)
                    out.add(key)
        return False

    def place(self, joint: Joint) -> str:
        """Where a joint is, in words: the level it lies at, or its height."""
        return place_words(self.project, joint.height)

    def joint_of(self, member: str, end: End) -> Joint:
        """The joint that settles a member end; raises NotFound."""
        key = self.by_end.get((member, end))
        if key is None:
            raise NotFound(f"there is no joint at {member}.{end}")
        return self.entries[key].joint

    def entry_of(self, connection: str) -> Entry:
        """The entry of a connection; raises NotFound."""
        found = self.project.connections.get(connection)
        key = self.key_of(found) if found else None
        if key is None:
            raise NotFound(f"there is no connection {connection!r}", right="an id such as those the ledger shows")
        return self.entries[key]

    def kin(self) -> list[Kin]:
        """All joints grouped by likeness, in the order of the model."""
        return self.entries.kin()

    def like(self, joint: Joint) -> list[Joint]:
        """The joint's kin, itself included."""
        return [e.joint for e in self.entries.alike(joint.case)]

    def refusal(self, joint: Joint, family: str, settings: Mapping[str, Value], typical: str = "") -> str:
        """Why a family, or a typical of it, does not suit a joint, or an empty text if it does."""
        try:
            self.make(joint, family, settings, typical=typical)
        except TinCleatError as error:
            return str(error)
        return ""

    def counts(self) -> dict[str, int]:
        """Joints, joined ones, ends that meet nothing (``apart``), and findings by level."""
        self.prove()
        return self.entries.counts()

    def prove(self, progress: Progress | None = None) -> None:
        """Work out what is found at every joint, many of them at once where there are many that nobody asked yet; raises Cancelled when
        ``progress`` says so."""
        prove_many((e.made for e in self.entries.uncounted if e.made is not None), lambda done, all_: go_on(progress, done / all_, f"proving {done:,} of {all_:,} different details", STOPPED))


def _same(a: Entry, b: Entry) -> bool:
    return a.joint == b.joint and a.connection == b.connection and a.made is b.made and a.problem == b.problem and a.concessions == b.concessions and a.near == b.near and a.plain == b.plain


def _sees(c: Connection) -> bool:
    """Whether a connection's family is built with what others have put nearby."""
    return c.family in FAMILIES and FAMILIES[c.family].sees
