"""What a bolt is made of along its axis: head, washer, shank, nut; and their bodies."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from tincleat.catalogue.fasteners import BoltSize, bolt_size, countersunk_head
from tincleat.details.assembled import Fitted, standing_along
from tincleat.details.parts import Bolts
from tincleat.details.tapers import Taper, taper_mesh
from tincleat.geometry.frames import Vec3
from tincleat.geometry.mesh import Mesh, cylinder, frustum, hexagon, joined

Stretch = tuple[float, float]
NESTED = 0.995  # of its diameter, that what fills a round hole is drawn with: the hole's chords lie so far inside its circle


@dataclass(frozen=True)
class Stack:
    """A bolt along its axis, mm from its declared point: where its head, washer, shank and nut begin and end.

    A countersunk head is ``sunk`` mm across at its face and lies in its ply; a bolt in a threaded ply has no nut, and its washer under its head.
    """

    size: BoltSize
    head: Stretch
    shank: Stretch
    washer: Stretch | None
    nut: Stretch | None
    sunk: float = 0.0

    @property
    def before(self) -> float:
        """What of the bolt its length does not reckon in, mm: its head, unless that is countersunk."""
        return 0.0 if self.sunk else self.shank[0] - self.head[0]

    def moved(self, by: float) -> "Stack":
        """The same, measured from a point ``by`` mm further along."""

        def at(s: Stretch | None) -> Stretch | None:
            return None if s is None else (s[0] - by, s[1] - by)

        return Stack(self.size, (self.head[0] - by, self.head[1] - by), (self.shank[0] - by, self.shank[1] - by), at(self.washer), at(self.nut), self.sunk)


def stack(group: Bolts, fitted: Fitted) -> Stack:
    """A fitted bolt of a group along its axis."""
    return _stack(group.size, group.washers, group.head == "countersunk", group.nut, fitted.enter, fitted.grip, fitted.length)


@lru_cache(maxsize=4096)
def _stack(name: str, washers: int, sunk: bool, nut: bool, enter: float, grip: float, length: float) -> Stack:
    size = bolt_size(name)
    thick = washers * size.washer_t
    over = thick if not nut and not sunk else 0.0  # the washer lies under what is turned
    wide, deep = (0.0, size.head_height)
    if sunk:
        wide, angle = countersunk_head(name)
        deep = (wide - size.d) / 2 / float(np.tan(angle / 2))
    head = (enter, enter + deep) if sunk else (enter - over - deep, enter - over)
    back = enter + grip
    washer = (back, back + thick) if nut and washers else (enter - over, enter) if over else None
    return Stack(size, head, (enter - over, enter - over + length), washer, (back + thick, back + thick + size.nut_height) if nut else None, wide)


def bolt_bodies(group: Bolts, fitted: Fitted) -> tuple[Mesh, Mesh, Mesh]:
    """Head, nut, and shank of one bolt in the joint frame, washers with what they lie under; a countersunk head is its shank's, and what there
    is not has no triangles."""
    made = _turned_bolt(stack(group, fitted), group.axis, fitted.tapers)
    return made[0].moved(fitted.point), made[1].moved(fitted.point), made[2].moved(fitted.point)


@lru_cache(maxsize=1024)
def _turned_bolt(s: Stack, axis: Vec3, tapers: tuple[Taper, ...]) -> tuple[Mesh, Mesh, Mesh]:
    """Head, nut with its washer, and shank along an axis, the bolt's declared point at the origin: those of a group are alike."""
    head, tight, shank = _upright_bolt(s)
    for t in tapers:
        head, tight = (head, joined([tight, taper_mesh(t)])) if t.under_nut else (joined([head, taper_mesh(t)]), tight)
    at = standing_along(axis)
    return head.placed(at), tight.placed(at), shank.placed(at)


@lru_cache(maxsize=4096)
def _upright_bolt(s: Stack) -> tuple[Mesh, Mesh, Mesh]:
    """Head, nut with its washer, and shank along z: those of a group are alike."""
    none = joined([])
    size = s.size
    shank = cylinder(size.d, *s.shank, 8) if s.nut else frustum(NESTED * size.d, NESTED * size.d, *s.shank, 16)
    washer = [cylinder(size.washer_d, *s.washer, 12)] if s.washer else []
    head = none if s.sunk else joined([hexagon(size.head_af, *s.head), *([] if s.nut else washer)])
    if s.sunk:
        shank = joined([frustum(NESTED * s.sunk, NESTED * size.d, *s.head, 16), shank])
    return head, joined([hexagon(size.head_af, *s.nut), *washer]) if s.nut else none, shank
