"""The ledger's joints grouped otherwise than by kin: by level, by zone between grid lines, by member."""

from collections.abc import Iterator
from dataclasses import dataclass
from operator import is_
from typing import Literal

from tincleat.joints.case import Joint
from tincleat.lazy import lazy
from tincleat.ledger.entries import Entry, Lines
from tincleat.ledger.ledger import Ledger
from tincleat.project.places import zone_words

By = Literal["kin", "level", "zone", "member"]


@dataclass(frozen=True)
class Group(Lines):
    """Joints of one place or one member."""

    by: By
    key: str
    name: str
    entries: tuple[Entry, ...]

    @lazy
    def kinds(self) -> int:
        """How many kin they are of."""
        return len({id(e.joint.case) for e in self.entries})


class Groups:
    """Groups of one ledger; one in which nothing changed stays the same object, and no joint's place is looked up twice."""

    def __init__(self) -> None:
        self._places: dict[str, tuple[Joint, str]] = {}
        self._kept: dict[str, Group] = {}
        self._read: object = None

    def of(self, ledger: Ledger, by: By) -> list[Group]:
        """All groups as they are now: levels from the lowest up, zones and members in the order of the model."""
        p = ledger.project
        read = (by, id(ledger), p.house.units, tuple(p.levels.values()), tuple(p.grids.values()))
        if read != self._read:
            self._read, self._places, self._kept = read, {}, {}
        if by == "member":
            found = {m.id: (f"{m.name or m.id} · {m.section}", there) for m in p.members.values() if (there := ledger.entries.of_member(m.id))}
        else:
            found = {}
            for name, entry in self._placed(ledger, by):
                found.setdefault(name, (name, []))[1].append(entry)
        kept = {}
        for key, (name, entries) in found.items():
            old = self._kept.get(key)
            same = old is not None and old.name == name and len(old.entries) == len(entries) and all(map(is_, old.entries, entries))
            kept[key] = old if same and old is not None else Group(by, key, name, tuple(entries))
        self._kept = kept
        if by == "level":
            return sorted(kept.values(), key=lambda g: min(e.joint.height for e in g.entries))
        return list(kept.values())

    def _placed(self, ledger: Ledger, by: By) -> "Iterator[tuple[str, Entry]]":
        levels: dict[float, str] = {}  # few heights have many joints
        for key, entry in ledger.entries.items():
            known = self._places.get(key)
            if known is None or known[0] is not entry.joint:
                joint = entry.joint
                if by == "level" and joint.height not in levels:
                    levels[joint.height] = ledger.place(joint)
                known = (joint, levels[joint.height] if by == "level" else zone_words(ledger.project, joint.frame.origin))
                self._places[key] = known
            yield known[1], entry
