"""Cuts of a member by value: planes that end it, prisms taken out of it, holes drilled through its elements."""

from typing import Literal

import msgspec
import numpy as np

from tincleat.catalogue.fasteners import HoleKind
from tincleat.geometry.frames import Frame, Vec3, vec
from tincleat.geometry.outline import Outline


class EndCut(msgspec.Struct, frozen=True, gc=False):
    """A plane that ends a member of a case; ``normal`` points to the steel that stays."""

    member: int
    point: Vec3
    normal: Vec3


class Notch(msgspec.Struct, frozen=True):
    """A prism taken out of a member of a case: ``outline`` in the frame's x-y plane, from z = 0 to ``depth``."""

    name: str
    member: int
    frame: Frame
    outline: Outline
    depth: float


class MemberHole(msgspec.Struct, frozen=True, gc=False):
    """A hole drilled through one element of a member of a case, at a point of its middle plane."""

    member: int
    element: str
    point: Vec3
    axis: Vec3
    width: float
    length: float
    along: Vec3
    kind: HoleKind | Literal["tapped"] = "normal"


class Cuts(msgspec.Struct, frozen=True):
    """All cuts of one member, in one frame: the member's own unless it is said otherwise."""

    ends: tuple[EndCut, ...] = ()
    notches: tuple[Notch, ...] = ()
    holes: tuple[MemberHole, ...] = ()

    def __bool__(self) -> bool:
        return bool(self.ends or self.notches or self.holes)

    def __add__(self, other: "Cuts") -> "Cuts":
        if not other:
            return self
        return Cuts(self.ends + other.ends, self.notches + other.notches, self.holes + other.holes) if self else other

    def seen_from(self, frame: Frame) -> "Cuts":
        """The cuts, given in an outer frame, in ``frame``'s own coordinates."""

        def p(v: Vec3) -> Vec3:
            return vec(frame.to_local(np.array([v]))[0])

        def d(v: Vec3) -> Vec3:
            return vec(frame.unturn(v))

        return Cuts(
            tuple(EndCut(e.member, p(e.point), d(e.normal)) for e in self.ends),
            tuple(Notch(n.name, n.member, frame.inside(n.frame), n.outline, n.depth) for n in self.notches),
            tuple(MemberHole(h.member, h.element, p(h.point), d(h.axis), h.width, h.length, d(h.along), h.kind) for h in self.holes),
        )


NONE = Cuts()


def in_outer(cuts: Cuts, frame: Frame) -> Cuts:
    """Cuts given in ``frame``, in the coordinates that frame is given in (the inverse of :meth:`Cuts.seen_from`)."""
    return cuts.seen_from(frame.inside(Frame())) if cuts else cuts
