"""Cuts of a member by value: planes that end it, prisms taken out of it, holes drilled through its elements."""

import math
from typing import Literal

import msgspec

from tincleat.catalogue.fasteners import HoleKind
from tincleat.geometry.frames import Frame, Vec3
from tincleat.geometry.outline import Outline

FLAT = "pressed flat"  # what holes in a tube's end that is pressed flat name for their element


class EndCut(msgspec.Struct, frozen=True, gc=False):
    """A plane that ends a member of a case; ``normal`` points to the steel that stays.

    A round tube may be pressed ``flat`` from there on as far as that, mm, its breadth along ``across``, and drawn out of the round over its
    ``taper``; the plane is square to it then, and goes through its middle.
    """

    member: int
    point: Vec3
    normal: Vec3
    flat: float = 0.0
    taper: float = 0.0
    across: Vec3 = (0.0, 0.0, 0.0)


class Notch(msgspec.Struct, frozen=True):
    """A prism taken out of a member of a case: ``outline`` in the frame's x-y plane, from z = 0 to ``depth``."""

    name: str
    member: int
    frame: Frame
    outline: Outline
    depth: float


def sunk(width: float, sink: float, angle: float, thickness: float) -> tuple[float, float]:
    """How deep the cone of a countersink goes that is ``sink`` across at the face and ``angle`` (rad) wide, in steel so thick with a hole
    ``width`` across, and how wide it is there, mm: as the hole, or wider where the steel ends before."""
    deep = min((sink - width) / 2 / math.tan(angle / 2), thickness)
    return deep, sink - 2 * deep * math.tan(angle / 2)


def sunk_volume(width: float, sink: float, angle: float, thickness: float) -> float:
    """What a countersink takes beside its hole, mm³: a frustum less the hole in it."""
    deep, wide = sunk(width, sink, angle, thickness)
    a, b = sink / 2, wide / 2
    return math.pi * deep * ((a * a + a * b + b * b) / 3 - (width / 2) ** 2)


class MemberHole(msgspec.Struct, frozen=True, gc=False):
    """A hole drilled through one element of a member of a case, at a point of its middle plane; a countersink, ``sink`` across at the face and
    ``sink_angle`` (rad) wide, opens to the face that ``axis`` goes in by."""

    member: int
    element: str
    point: Vec3
    axis: Vec3
    width: float
    length: float
    along: Vec3
    kind: HoleKind | Literal["tapped"] = "normal"
    sink: float = 0.0
    sink_angle: float = 0.0


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
        p, d = frame.spot, frame.into
        return Cuts(
            tuple(EndCut(e.member, p(e.point), d(e.normal), e.flat, e.taper, d(e.across)) for e in self.ends),
            tuple(Notch(n.name, n.member, frame.inside(n.frame), n.outline, n.depth) for n in self.notches),
            tuple(MemberHole(h.member, h.element, p(h.point), d(h.axis), h.width, h.length, d(h.along), h.kind, h.sink, h.sink_angle) for h in self.holes),
        )


NONE = Cuts()


def in_outer(cuts: Cuts, frame: Frame) -> Cuts:
    """Cuts given in ``frame``, in the coordinates that frame is given in (the inverse of :meth:`Cuts.seen_from`)."""
    return cuts.seen_from(frame.inside(Frame())) if cuts else cuts
