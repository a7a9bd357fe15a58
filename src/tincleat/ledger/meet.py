"""What details near each other, and members that pass them, do to each other."""

from collections.abc import Iterable, Sequence
from dataclasses import replace

import numpy as np
import shapely

from tincleat.geometry.frames import Frame
from tincleat.joints.find import Finder
from tincleat.joints.table import dot, less
from tincleat.ledger.book import SteelBook
from tincleat.ledger.entries import Entries, Entry, world_box
from tincleat.ledger.made import Pair, Passing, Workshop
from tincleat.project.entities import Connection, End
from tincleat.project.project import Project
from tincleat.steel.cuts import Cuts
from tincleat.steel.members import own_cuts

CUT_BACK = 600.0  # mm from a connection's parts within which what it cuts of a member makes a difference to others
GAP = 20.0  # mm that an end which is not joined yet is thought to stop short of what it meets
PASSES = 3000.0  # mm either way from a joint of a member that passes it


class Neighbours:
    """Details as they stand to their neighbours."""

    project: Project
    workshop: Workshop
    finder: Finder
    entries: Entries
    by_end: dict[tuple[str, End], str]
    book: SteelBook

    def _meet(self, keys: "Iterable[str]") -> set[str]:
        """Bring in step what details near each other do to each other, round some joints; the keys of entries that differ for it."""
        look = {k for k in keys if k in self.entries}
        if len(look) > 200:
            return self._meet_all(look)
        if len(look) < len(self.entries):
            for k in list(look):
                look |= {e.joint.key for e in self.entries.near(self.entries[k], CUT_BACK)}
        out = set()
        for k in look:
            entry = self.entries[k]
            if entry.made is None:
                continue
            near = self._pairs(entry)
            if near != entry.near:
                self.entries[k] = replace(entry, near=near)
                out.add(k)
        return out

    def _meet_all(self, look: set[str]) -> set[str]:
        """The same for many joints at once: their boxes in one table, and a tree over them."""
        made = [(k, e) for k, e in self.entries.items() if e.made is not None and e.connection is not None]
        if not made:
            return set()
        boxes = np.array([e.made.box for _, e in made if e.made is not None])
        origin = np.array([e.joint.frame.origin for _, e in made])
        turn = np.array([e.joint.frame.axes for _, e in made])
        middle = np.einsum("nij,ni->nj", turn, (boxes[:, 0] + boxes[:, 1]) / 2) + origin
        half = np.einsum("nij,ni->nj", np.abs(turn), (boxes[:, 1] - boxes[:, 0]) / 2)
        low, high = middle - half, middle + half
        self.entries.laid([k for k, _ in made], low, high)
        sound = np.flatnonzero(np.isfinite(low).all(axis=1))
        flat = shapely.box(low[sound, 0], low[sound, 1], high[sound, 0], high[sound, 1])
        tree = shapely.STRtree(flat)
        mine = np.flatnonzero([made[i][0] in look for i in sound.tolist()])
        if len(mine) < len(sound) // 2:  # and those beside them
            one, two = tree.query(flat[mine])
            lies = (low[sound[mine[one]], 2] < high[sound[two], 2]) & (low[sound[two], 2] < high[sound[mine[one]], 2])
            mine = np.union1d(mine, two[lies])
        else:
            mine = np.arange(len(sound))
        wanted = sound[mine]
        one, two = tree.query(flat[mine])
        a, b = wanted[one], sound[two]
        near = (a != b) & (low[a, 2] < high[b, 2]) & (low[b, 2] < high[a, 2])
        beside: dict[int, list[int]] = {}
        for i, j in zip(a[near].tolist(), b[near].tolist(), strict=True):
            beside.setdefault(i, []).append(j)
        strangers: dict[int, list[str]] = {}
        rows = wanted.tolist()
        found = [(rows[i], k) for i, k in self.finder.strangers(low[wanted], high[wanted], [made[i][1].joint.members for i in rows])]
        for (i, k), clear in zip(found, self._clear([(made[i][1], k) for i, k in found]), strict=True):
            if not clear:
                strangers.setdefault(i, []).append(k)
        out = set()
        for i in rows:
            key, entry = made[i]
            assert entry.connection is not None
            order = rank(entry.connection)
            others = sorted((made[j][1] for j in beside.get(i, ())), key=lambda e: rank(e.connection) if e.connection is not None else (0, ""))
            near_: tuple[Pair | Passing, ...] = tuple(self._pair(entry, e) for e in others if e.connection is not None and rank(e.connection) < order)
            near_ += tuple(p for k in strangers.get(i, ()) if (p := self._passing(entry, k)) is not None)
            if near_ != entry.near:
                self.entries[key] = replace(entry, near=near_)
                out.add(key)
        return out

    def _pair(self, entry: Entry, e: Entry) -> Pair:
        """How a connection stands to an earlier one near it."""
        assert entry.made is not None and e.made is not None
        at = entry.joint.frame.inside(e.joint.frame)
        shared = tuple((i, e.joint.members.index(m)) for i, m in enumerate(entry.joint.members) if m in e.joint.members)
        return self.workshop.pair(entry.made, e.made, at, shared)

    def _pairs(self, entry: Entry) -> tuple[Pair | Passing, ...]:
        """The details of earlier connections that reach into the box of one, and members that pass it."""
        assert entry.made is not None and entry.connection is not None
        mine = rank(entry.connection)
        before = [(rank(e.connection), e) for e in self.entries.near(entry) if e.connection is not None]
        low, high = world_box(entry)
        passing = self.finder.strangers(low[None], high[None], [entry.joint.members]) if np.isfinite(low).all() else []
        out: tuple[Pair | Passing, ...] = tuple(self._pair(entry, e) for r, e in sorted(before, key=lambda p: p[0]) if r < mine)
        return out + tuple(p for (_, k), clear in zip(passing, self._clear([(entry, k) for _, k in passing]), strict=True) if not clear and (p := self._passing(entry, k)) is not None)

    def _clear(self, pairs: "Sequence[tuple[Entry, str]]") -> list[bool]:
        """Whether details are clear of members that pass them, whatever is cut off those; like pairs are looked at once."""
        if not pairs:
            return []
        rows = [self.finder.index[k] for _, k in pairs]
        turn, origin = (np.array([getattr(e.joint.frame, name) for e, _ in pairs]) for name in ("axes", "o"))
        lies = np.einsum("nij,nkj->nki", turn, np.concatenate([(self.finder.origin[rows] - origin)[:, None], self.finder.axes[rows][:, [0, 2]]], axis=1))
        kinds = np.array([(id(e.made), id(self.finder.shapes[k]), self.finder.lengths[k]) for e, k in pairs])
        steps = np.array([10.0] * 3 + [1e4] * 6)  # a tenth of a millimetre, a ten-thousandth of a direction
        _, first, same = np.unique(np.column_stack([kinds, (lies.reshape(len(rows), 9) * steps).round()]), axis=0, return_index=True, return_inverse=True)
        told = []
        for i in first.tolist():
            entry, k = pairs[i]
            assert entry.made is not None
            told.append(not self.workshop.passing(entry.made, self.finder.shapes[k], *self._stretch(entry, k), ()).findings)
        return [told[i] for i in same.ravel().tolist()]

    def _stretch(self, entry: Entry, member: str) -> tuple[Frame, float, float]:
        """A member's frame in that of a joint it passes, and from where to where its steel is looked at."""
        shape, full = self.finder.shapes[member], self.finder.lengths[member]
        at = entry.joint.frame.inside(self.finder.frames[member])
        near = -dot(at.x, at.origin)  # the station beside the joint
        return at, *((0.0, full) if shape.h_end else (max(0.0, near - PASSES), min(full, near + PASSES)))

    def _passing(self, entry: Entry, member: str) -> Passing | None:
        """How a connection stands to a member near it that is none of its joint's; None where that has no steel there."""
        assert entry.made is not None
        own, shape = self.finder.frames[member], self.finder.shapes[member]
        at, low, high = self._stretch(entry, member)
        # an end that nothing settles yet will be cut where its joint begins, wherever its line was drawn to
        for end in ("start", "end"):
            there = self.entries.get(self.by_end.get((member, end), ""))  # type: ignore[arg-type]
            if there is not None and not there.settled:
                face = dot(own.x, less(there.joint.frame.origin, own.origin))
                low, high = (max(low, face + GAP), high) if end == "start" else (low, min(high, face - GAP))
        if high - low < 1.0:
            return None
        m = self.project.members[member]
        cuts = (own_cuts(m),) if m.cuts or m.outs else ()
        return self.workshop.passing(entry.made, shape, at, low, high, (*cuts, *self.cuts_by(member)))

    def cuts_by(self, member: str) -> list[Cuts]:
        """What every connection at a member cuts of it, in its axis frame; the same objects as long as they are the same cuts."""
        m, stamp = self.project.members[member], self.entries.stamp(member)
        kept = self.book.cuts.get(member)
        if kept is not None and kept[0] is m and kept[1] is stamp:
            return kept[2]
        out = []
        for entry in self.entries.of_member(member):
            if entry.made is not None:
                for i, key in enumerate(entry.joint.members):
                    if key == member and (cuts := self.book.cut_by(entry.made, i, entry.joint.frame, self.finder.frames[key], self.finder.shapes[key])):
                        out.append(cuts)
        self.book.cuts[member] = (m, stamp, out)
        return out


def rank(c: Connection) -> tuple[int, str]:
    """The order of connections at one place: the later one tells of what it does to those before it."""
    return (len(c.id), c.id)
