"""Two states of a frame side by side: what was added, removed, moved, resized or otherwise changed."""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Literal

from tincleat.project.entities import Member
from tincleat.ready.work import same
from tincleat.units import format_length

Kind = Literal["added", "removed", "moved", "resized", "changed"]
NEAR = 150.0  # mm by which both ends of a member may have moved for it still to be taken for the same one
SLACK = 0.01


@dataclass(frozen=True)
class Difference:
    """One member that differs: in what way, before and after (None where it is not there), and in words."""

    kind: Kind
    old: Member | None
    new: Member | None
    words: str

    @property
    def key(self) -> str:
        """What names the row: the id of the member before, else the identity of the new one."""
        return self.old.id if self.old is not None else (self.new.guid or self.new.id) if self.new is not None else ""

    @property
    def label(self) -> str:
        """The member's name."""
        m = self.new or self.old
        return (m.name or m.id) if m is not None else ""


def by_id(old: Mapping[str, Member], new: Mapping[str, Member], units: str = "mm") -> list[Difference]:
    """Differences between two states of one project, whose ids mean the same."""
    pairs = [(old[k], new[k]) for k in old if k in new]
    return _rows(pairs, [m for k, m in old.items() if k not in new], [m for k, m in new.items() if k not in old], units)


def by_identity(old: Iterable[Member], new: Iterable[Member], units: str = "mm") -> list[Difference]:
    """Differences between a project and a revised model: matched by the identity they came with, then by where they lie."""
    left, came = {m.id: m for m in old}, list(new)
    known = {m.guid: m for m in left.values() if m.guid}
    pairs: list[tuple[Member, Member]] = []
    rest: list[Member] = []
    for m in came:
        found = known.get(m.guid) if m.guid else None
        if found is not None and found.id in left:
            pairs.append((found, m))
            del left[found.id]
        else:
            rest.append(m)
    added = []
    cells: dict[tuple[int, ...], list[Member]] = {}
    for m in left.values():
        cells.setdefault(_cell(m), []).append(m)
    for m in rest:
        best = _nearest(m, cells, left)
        if best is None:
            added.append(m)
        else:
            pairs.append((best, m))
            del left[best.id]
    return _rows(pairs, list(left.values()), added, units)


def _cell(m: Member) -> tuple[int, ...]:
    return tuple(math.floor((a + b) / 2 / 1000) for a, b in zip(m.start, m.end, strict=True))


def _nearest(m: Member, cells: Mapping[tuple[int, ...], list[Member]], free: Mapping[str, Member]) -> Member | None:
    x, y, z = _cell(m)
    best: tuple[float, Member] | None = None
    for key in ((x + i, y + j, z + k) for i in (-1, 0, 1) for j in (-1, 0, 1) for k in (-1, 0, 1)):
        for other in cells.get(key, ()):
            if other.id in free:
                far = min(max(math.dist(m.start, other.start), math.dist(m.end, other.end)), max(math.dist(m.start, other.end), math.dist(m.end, other.start)))
                if far <= NEAR and (best is None or far < best[0]):
                    best = (far, other)
    return best[1] if best else None


def _rows(pairs: "list[tuple[Member, Member]]", gone: list[Member], came: list[Member], units: str) -> list[Difference]:
    out = []
    for old, new in pairs:
        far = max(math.dist(old.start, new.start), math.dist(old.end, new.end))
        turned = max(math.dist(old.start, new.end), math.dist(old.end, new.start))
        words = []
        if old.section != new.section:
            words.append(f"{old.section} → {new.section}")
        if old.grade != new.grade:
            words.append(f"{old.grade} → {new.grade}")
        moved = min(far, turned)
        if moved > SLACK:
            words.append(f"moved {format_length(round(moved, 1), units, True)}")
        elif not same(old, new) and old.section == new.section:
            words.append("turned or hung otherwise")
        if old.role != new.role:
            words.append(f"{old.role} → {new.role}")
        if words:
            kind: Kind = "resized" if old.section != new.section else "moved" if moved > SLACK else "changed"
            out.append(Difference(kind, old, new, ", ".join(words)))
    out += [Difference("removed", m, None, f"{m.section}, {format_length(round(math.dist(m.start, m.end), 1), units, True)}") for m in gone]
    out += [Difference("added", None, m, f"{m.section}, {format_length(round(math.dist(m.start, m.end), 1), units, True)}") for m in came]
    rank = {"resized": 0, "moved": 1, "changed": 2, "added": 3, "removed": 4}
    return sorted(out, key=lambda d: rank[d.kind])
