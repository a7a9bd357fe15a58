"""The ledger's lines: a joint each, grouped by kin, counted and found by member as they come and go."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import msgspec
import numpy as np

from tincleat.geometry.frames import Array
from tincleat.joints.case import MEETING, Case, Joint
from tincleat.lazy import lazy
from tincleat.ledger.made import Made, Pair, Passing
from tincleat.ledger.near import Nearby
from tincleat.project.entities import Connection
from tincleat.proof.finding import Finding, Level, worst

NO_CASE = "connection-joint"
PLAIN = "left-plain"


@dataclass(frozen=True)
class Entry:
    """One joint's line: its connection and detail if it has one, or the problem that keeps the detail from being built."""

    joint: Joint
    connection: Connection | None = None
    made: Made | None = None
    problem: str = ""
    concessions: "Mapping[str, float]" = field(default_factory=dict)
    near: tuple[Pair | Passing, ...] = ()
    plain: bool = False  # left plain by a house rule

    @lazy
    def findings(self) -> tuple[Finding, ...]:
        """Findings with accepted breaches shown as concessions; a connection that cannot be built is itself a breach."""
        if self.problem:
            return (Finding(NO_CASE, "Connection fits its joint", "the model", "breach", "connection", 0, 1, ">=", "", (0.0, 0.0, 0.0), self.problem),)
        if self.made is None:
            return ()
        found = self.made.findings + tuple(f for pair in self.near for f in pair.findings)
        return tuple(self._conceded(f) for f in found) if self.concessions else found

    @property
    def settled(self) -> bool:
        """Whether a connection takes these ends, or they are meant to have none."""
        return self.connection is not None or self.plain

    @property
    def state(self) -> str:
        """How it stands in one word: ``open``, ``plain``, or the gravest level of its findings."""
        return "open" if not self.settled else "plain" if self.left_plain else self.level

    @property
    def left_plain(self) -> bool:
        """Whether these ends are meant to have no connection."""
        return self.plain if self.connection is None else self.connection.family == PLAIN

    def open_end(self, place: str) -> Finding | None:
        """A note that nothing joins these member ends yet; ``place`` says where they are."""
        if self.settled:
            return None
        return Finding(
            "end-open", "Unjoined end", "every member end is joined", "note", self.joint.key, 0, 1, ">=", "", (0.0, 0.0, 0.0), f"{self.joint.words}, {place}"
        )

    def _conceded(self, f: Finding) -> Finding:
        if f.level == "clear" or f.key not in self.concessions:
            return f
        was = self.concessions[f.key]
        worse = f.actual < was - 0.01 if f.sense == ">=" else f.actual > was + 0.01 if f.sense == "<=" else abs(f.actual - was) > 0.01
        return f if worse else msgspec.structs.replace(f, level="concession")

    @lazy
    def level(self) -> Level:
        """The gravest level of its findings."""
        if not self.problem and not self.concessions and not self.near:
            return self.made.level if self.made is not None else "clear"
        return worst(f.level for f in self.findings)


    @lazy
    def tally(self) -> Mapping[str, int]:
        """What it adds to the ledger's counts."""
        fast = self.made is not None and not self.concessions and not self.near
        levels: Mapping[Any, int] = self.made.counts if fast and self.made else Counter(f.level for f in self.findings)
        apart = int(self.joint.kind in MEETING and not self.settled)
        return {"joints": 1, "joined": int(self.settled), "plain": int(self.left_plain), "apart": apart, **levels}


class Lines:
    """Lines of the ledger taken together."""

    entries: tuple[Entry, ...]

    @lazy
    def joined(self) -> int:
        """How many of them are settled."""
        return sum(e.settled for e in self.entries)

    @lazy
    def breaches(self) -> int:
        """How many of them are in breach."""
        return sum(e.level == "breach" for e in self.entries)

    @lazy
    def level(self) -> Level:
        """The gravest level among them."""
        return worst(e.level for e in self.entries)


@dataclass(frozen=True)
class Kin(Lines):
    """Joints alike enough for one detail."""

    words: str
    kind: str
    case: Case
    entries: tuple[Entry, ...]


def world_box(e: Entry) -> tuple[Array, Array]:
    """Least and greatest corner of a connection's own parts in the world, mm; not a number where it has none."""
    assert e.made is not None
    low, high = e.made.box
    middle, half = e.joint.frame.to_world(((low + high) / 2)[None])[0], ((high - low) / 2) @ np.abs(e.joint.frame.axes)
    return middle - half, middle + half


class Entries(dict[str, Entry]):
    """Entries by joint key.  Groups, counts and members are kept in step line by line, never counted anew."""

    def __init__(self) -> None:
        super().__init__()
        self._of_member: dict[str, dict[str, None]] = {}
        self._stamps: dict[str, object] = {}
        self._groups: dict[int, dict[str, Entry]] = {}
        self._kin: dict[int, Kin] = {}
        self._tally: Counter[str] = Counter()
        self._uncounted: dict[str, None] = {}  # those that it lacks
        self._places: Nearby | None = None
        self._unplaced: set[str] = set()  # whose box is worked out when somebody asks what lies near

    def __setitem__(self, key: str, entry: Entry) -> None:
        old = self.get(key)
        if old is not None and (old.joint.case is not entry.joint.case or old.joint.members != entry.joint.members):
            del self[key]
            old = None
        super().__setitem__(key, entry)
        if old is None or old.made is not entry.made or old.joint is not entry.joint:  # what it is made of, or where: else only what is said of it
            for member in entry.joint.members:
                self._of_member.setdefault(member, {})[key] = None
                self._stamps[member] = object()
            self._unplaced.add(key)
        case = id(entry.joint.case)
        self._groups.setdefault(case, {})[key] = entry
        self._kin.pop(case, None)
        if old is not None and key not in self._uncounted:
            self._tally.subtract(old.tally)
        self._uncounted[key] = None

    def __delitem__(self, key: str) -> None:
        entry = self[key]
        super().__delitem__(key)
        if self._places is not None:
            self._places.drop(key)
        self._unplaced.discard(key)
        for member in entry.joint.members:
            of = self._of_member[member]
            of.pop(key, None)
            self._stamps[member] = object()
            if not of:
                del self._of_member[member]
        case = id(entry.joint.case)
        self._kin.pop(case, None)
        del self._groups[case][key]
        if not self._groups[case]:
            del self._groups[case]
        if key in self._uncounted:
            del self._uncounted[key]
        else:
            self._tally.subtract(entry.tally)

    def laid(self, keys: "Sequence[str]", low: Array, high: Array) -> None:
        """Take the boxes (n, 3) of all details as they were worked out together."""
        places = self._places = self._places or Nearby()
        for key in self._unplaced.difference(keys):
            places.drop(key)
        self._unplaced.clear()
        for key, a, b in zip(keys, low.tolist(), high.tolist(), strict=True):
            places.put(key, tuple(a), tuple(b))

    def near(self, entry: Entry, past: float = 0.0) -> list[Entry]:
        """Every other detail whose own parts' box reaches into that of one, or within ``past`` mm of it; of a joint without parts, of the joint."""
        places, key = self._in_place(), entry.joint.key
        box = places.box(key) if self.get(key) is entry else None
        if box is None and entry.made is not None:
            low, high = world_box(entry)
            box = (tuple(low.tolist()), tuple(high.tolist())) if np.isfinite(low).all() else None
        if box is None:
            if not past:
                return []  # nothing stands there to be in anything's way
            box = (entry.joint.frame.origin,) * 2
        (a, b, c), (d, e, f) = box
        return [self[k] for k in places.near((a - past, b - past, c - past), (d + past, e + past, f + past)) if k != key]

    def within(self, low: Array, high: Array) -> list[Entry]:
        """Every detail whose own parts' box reaches into a box (corners (3,), mm)."""
        return [self[k] for k in self._in_place().near(tuple(low.tolist()), tuple(high.tolist()))]

    def _in_place(self) -> Nearby:
        """The boxes of all details, those that changed put where they are now."""
        places = self._places = self._places or Nearby()
        for key in self._unplaced:
            if (entry := self[key]).made is None:
                places.drop(key)
            else:
                low, high = (tuple(corner.tolist()) for corner in world_box(entry))
                places.put(key, low, high)
        self._unplaced.clear()
        return places

    def of_member(self, member: str) -> list[Entry]:
        """Every joint a member takes part in, at its ends or along it."""
        return [self[key] for key in self._of_member.get(member, ())]

    def stamp(self, member: str) -> object:
        """An object that is another one as soon as what a joint makes of the member is; None if it never had any."""
        return self._stamps.get(member)

    def alike(self, case: Case) -> list[Entry]:
        """Every joint of a case (that very object), in the order of the model."""
        return list(self._groups.get(id(case), {}).values())

    def kin(self) -> list[Kin]:
        """All joints grouped by likeness.  A group in which nothing changed stays the same object: whoever drew it need not draw it again."""
        for case, group in self._groups.items():
            if case not in self._kin:
                entries = tuple(group.values())
                first = entries[0].joint
                self._kin[case] = Kin(first.words, first.kind, first.case, entries)
        return [self._kin[case] for case in self._groups]

    @property
    def uncounted(self) -> list[Entry]:
        """Those that nobody has asked for what is found at them since they are as they are."""
        return [self[key] for key in self._uncounted]

    def counts(self) -> dict[str, int]:
        """Joints, joined ones, ends that meet nothing, and findings by level."""
        while self._uncounted:
            key = next(iter(self._uncounted))
            self._tally.update(self[key].tally)
            del self._uncounted[key]
        return {name: self._tally[name] for name in ("joints", "joined", "plain", "apart", "clear", "concession", "note", "breach")}
