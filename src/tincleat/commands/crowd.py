"""Whether members lie so thick on each other that no frame can be meant."""

from collections.abc import Sequence

import numpy as np
import shapely

from tincleat.errors import Refused
from tincleat.geometry.lines import apart
from tincleat.joints.find import Finder
from tincleat.project.entities import Member
from tincleat.project.project import Project

MANY = 200  # members changed at once from which on the question is asked
THICK = 40  # members that one of them may lie against, on average; of a dense frame it is about ten
ROOM = 200.0  # mm about a member's line
BATCH = 50
STACK = 12  # members between the same two places; a built-up one has four


def check_crowd(project: Project, finder: Finder, new: Sequence[Member]) -> None:
    """Raises Refused if new or changed members lie on each other or on those that are there: every one would be looked at for a joint with every other.

    Of few members it is asked how many others share the places of both ends; ``finder`` knows where all were before.  Of many,
    those whose lines come within :data:`ROOM` are counted, batch by batch, and the count is given up as soon as it is too high.
    """
    if not new:
        return
    mine = {m.id for m in new}
    if len(mine) < MANY:
        _check_stacks(finder, new)
        return
    lines = np.array([(m.start, m.end) for m in (*new, *(m for m in project.members.values() if m.id not in mine))])
    low, high = lines.min(axis=1) - ROOM / 2, lines.max(axis=1) + ROOM / 2
    boxes = shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1])
    tree = shapely.STRtree(boxes)
    asked = np.arange(len(new))
    np.random.default_rng(0).shuffle(asked)  # a thick place shows early wherever in the list it stands
    count = 0
    for first in range(0, len(asked), BATCH):
        some = asked[first : first + BATCH]
        near = tree.query(boxes[some])
        a, b = some[near[0]], near[1]
        flat = (low[a, 2] <= high[b, 2]) & (low[b, 2] <= high[a, 2]) & (a != b)
        count += int((apart(lines[a[flat]], lines[b[flat]]) < ROOM).sum())
        seen = first + len(some)
        if count > THICK * max(seen, MANY):
            raise Refused(f"{len(new)} members would lie on each other, each against {count / seen:.0f} others", right="larger distances, or fewer members")


def _check_stacks(finder: Finder, new: Sequence[Member]) -> None:
    own = [finder.index[m.id] for m in new if m.id in finder.index]
    lines = np.array([(m.start, m.end) for m in new])
    for m, line in zip(new, lines, strict=True):
        there = _alike(finder.line, line)
        there[own] = False  # they were there, and go where they are asked about
        count = int(there.sum()) + int(_alike(lines, line).sum()) - 1
        if count > STACK:
            raise Refused(f"{count} members lie where it would lie", m.name or m.id, f"at most {STACK} between the same two places")


def _alike(lines: "np.ndarray", line: "np.ndarray") -> "np.ndarray":
    """Which of some lines (n, 2, 3) run between the same two places as a line (2, 3), either way round."""
    out = np.zeros(len(lines), dtype=bool)
    for way in (line, line[::-1]):
        near = np.flatnonzero(np.abs(lines[:, 0, 0] - way[0, 0]) < ROOM / 2)  # most are ruled out along one axis
        out[near] |= np.abs(lines[near] - way).max(axis=(1, 2)) < ROOM / 2
    return out
