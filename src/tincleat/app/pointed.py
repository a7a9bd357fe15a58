"""What may be done to the selected members by pointing: copied, moved, mirrored, stretched, split, with distances typed while pointing."""

import re
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

import numpy as np

from tincleat.app.context import Host
from tincleat.app.counted import counted
from tincleat.app.dialogs import Action
from tincleat.commands.shape import longer
from tincleat.geometry.frames import Array, vec
from tincleat.project.entities import Member
from tincleat.project.motion import Motion
from tincleat.units import parse_length

MOST_GHOSTS = 400  # members whose lines are shown where they would come to
ROW = re.compile(r"(\d{1,4})\s*[@×]\s*(.+)")  # how many, and how far apart


@dataclass(frozen=True)
class Deed:
    """A deed with one point or two: what it says it is, what it asks for, the lines (2, 3) it would leave, and how it is done; ``again``: it goes on
    from its first point.  ``row`` does it several times over, where that can be typed (``3@6000``)."""

    what: str
    first: str
    second: str
    ghost: Callable[[Array, Array], list[Array]]
    do: Callable[[Array, Array], bool]
    again: bool = False
    row: Callable[[Array, int], bool] | None = None


def _line(m: Member) -> Array:
    return np.array([m.start, m.end], dtype=float)


def _chosen(w: Host) -> list[Member]:
    assert w.desk is not None
    return [w.desk.project.members[k] for k in w.members if k in w.desk.project.members]


def _shifted(w: Host, first: Array, under: Array) -> list[Array]:
    return [_line(m) + (under - first) for m in _chosen(w)[:MOST_GHOSTS]]


def copying(w: Host) -> Deed:
    """A copy for every point that is clicked, each as far from the originals as it lies from the first."""
    ids = list(w.members)

    def times(step: Array, count: int) -> bool:
        return w.run("copy-members", ids=ids, by=step.tolist(), count=count)

    return Deed(f"Copy {counted(len(ids), 'member')}", "click a point to copy from", "click where it comes to, or type a distance, 3@6000 for three in a row", partial(_shifted, w), lambda a, b: times(b - a, 1), True, times)


def moving(w: Host) -> Deed:
    """The members moved by the way from one point to another."""
    ids = list(w.members)
    return Deed(f"Move {counted(len(ids), 'member')}", "click a point to move from", "click where it comes to, or type a distance", partial(_shifted, w), lambda a, b: w.run("move-members", ids=ids, by=(b - a).tolist()))


def _mirror(first: Array, under: Array) -> Motion | None:
    along = (under - first) * (1.0, 1.0, 0.0)
    size = float(np.linalg.norm(along))
    if size < 1.0:
        return None
    return Motion.mirror(first, (along[1] / size, -along[0] / size, 0.0))


def mirroring(w: Host) -> Deed:
    """A mirror image in the upright plane through two points."""
    ids = list(w.members)

    def ghost(first: Array, under: Array) -> list[Array]:
        motion = _mirror(first, under)
        return [] if motion is None else [np.array([motion.point(p) for p in _line(m)]) for m in _chosen(w)[:MOST_GHOSTS]]

    return Deed(
        f"Mirror {counted(len(ids), 'member')}", "click a point of the mirror's line", "click a second point of it, or type a distance", ghost,
        lambda a, b: w.run("mirror-members", ids=ids, line=[a.tolist(), b.tolist()]),
    )  # fmt: skip


def stretching(w: Host) -> Deed:
    """The ends near the first point moved along their members, as far as the second lies along the nearest of them."""
    ids = list(w.members)

    def ghost(first: Array, under: Array) -> list[Array]:
        out = []
        for m in _chosen(w)[:MOST_GHOSTS]:
            a, b = _line(m)
            end, by = longer(m, vec(first), vec(under))
            step = (b - a) / np.linalg.norm(b - a) * by
            out.append(np.array([a - step, b]) if end == "start" else np.array([a, b + step]))
        return out

    return Deed(
        f"Stretch {counted(len(ids), 'member')}", "click the end to take hold of", "click how far it goes, or type a distance", ghost,
        lambda a, b: w.run("stretch-members", ids=ids, near=a.tolist(), to=b.tolist()),
    )  # fmt: skip


def splitting(w: Host) -> Deed:
    """The members split where the plane square to the first of them passes a point."""
    ids = list(w.members)

    def cut(point: Array) -> list[tuple[Member, float]]:
        """The members that the plane square to the first of them passes between their ends, and at what share of their length."""
        some = _chosen(w)
        way = _line(some[0])[1] - _line(some[0])[0] if some else np.zeros(3)
        out = []
        for m in some:
            a, b = _line(m)
            slant = float((b - a) @ way)
            at = float((point - a) @ way) / slant if abs(slant) > 1e-9 else -1.0
            if 0.0 < at < 1.0:
                out.append((m, at))
        return out

    def ghost(first: Array, under: Array) -> list[Array]:
        return [np.array([_line(m)[0], _line(m)[0] + (_line(m)[1] - _line(m)[0]) * at]) for m, at in cut(under)[:MOST_GHOSTS]]

    def do(first: Array, point: Array) -> bool:
        found = cut(point)
        if not found:
            w.fail("The point lies beside none of the members' lengths: point between their ends")
            return False
        way = np.subtract(found[0][0].end, found[0][0].start)
        return w.run("split-members", ids=[m.id for m, _ in found], point=point.tolist(), normal=(way / np.linalg.norm(way)).tolist())

    return Deed(f"Split {counted(len(ids), 'member')}", "click a point to measure from, such as an end", "click where to split, or type a distance", ghost, do)


def in_row(typed: str, unit: str) -> tuple[int, float] | None:
    """How many and how far apart (mm) a typed row says; None for what is no row.  Raises BadValue for a distance that cannot be read."""
    found = ROW.fullmatch(typed.strip())
    return (int(found[1]), parse_length(found[2], unit)) if found is not None else None


def pointed_actions(w: Host) -> list[Action]:
    """The deeds by pointing, bound to a window."""

    def start(make: Callable[[Host], Deed]) -> None:
        w.pointing.start_deed(make(w))

    def some() -> bool:
        return bool(w.members)

    need = "Select members first"
    return [
        Action("copy-pointed", "Copy by pointing", ("repeat", "duplicate", "array", "drag"), "Ctrl+D", partial(start, copying), some, need),
        Action("move-pointed", "Move by pointing", ("shift", "drag"), "", partial(start, moving), some, need),
        Action("mirror-pointed", "Mirror by pointing", ("handed", "flip"), "", partial(start, mirroring), some, need),
        Action("stretch-pointed", "Stretch by pointing", ("lengthen", "shorten", "drag an end"), "", partial(start, stretching), some, need),
        Action("split-pointed", "Split by pointing", ("cut", "break"), "", partial(start, splitting), some, need),
    ]
