"""What is bought for round bars, by value: fork ends with a pin, turnbuckles.  Each is given in a frame with x along its bar (mm)."""

from functools import lru_cache
from typing import NamedTuple

import msgspec
import numpy as np

from tincleat.details.plates import Hole
from tincleat.geometry.frames import Array, Frame
from tincleat.geometry.mesh import Mesh, joined, prism
from tincleat.geometry.outline import Outline

ALONG = Frame((0.0, 0.0, 0.0), (0.0, 1.0, 0.0), (1.0, 0.0, 0.0))  # z along the bar
PLAY = 1.0  # mm that a bore is wider than the bar in it: of bodies, for the thread is not drawn


class Solid(NamedTuple):
    """A prism of a fitting, in the fitting's frame: from z = 0 to ``depth`` of its own."""

    frame: Frame
    outline: Outline
    holes: tuple[Outline, ...]
    depth: float


class Fork(msgspec.Struct, frozen=True, gc=False):
    """A fork screwed on a bar's end: the origin is its pin's middle, x runs up the bar, z along the pin.

    Two cheeks ``cheek`` thick and ``width`` wide, ``gap`` apart, round about the pin's hole ``hole``; they reach ``slot`` beyond the pin,
    where a socket goes on to ``length``.
    """

    name: str
    size: str
    grade: str
    frame: Frame
    bar: float
    hole: float
    width: float
    cheek: float
    gap: float
    slot: float
    length: float

    @property
    def words(self) -> str:
        """What a bill calls it."""
        return f"fork, {self.gap:g} between cheeks of {self.cheek:g}"

    @property
    def cheeks(self) -> tuple[tuple[Frame, Outline], tuple[Frame, Outline]]:
        """Frames at the lower face of each cheek where it lies, and their outline."""
        (a, flat), (b, _) = self._flat
        return (self.frame.at(a), flat), (self.frame.at(b), flat)

    @property
    def pin_hole(self) -> Hole:
        """The hole of each cheek."""
        return Hole(0.0, 0.0, self.hole, self.hole)

    @property
    def solids(self) -> tuple[Solid, ...]:
        """Both cheeks and the socket."""
        deep = self.gap / 2 + self.cheek
        hole = (self.pin_hole.outline,)
        socket = Solid(ALONG.moved(z=self.slot), Outline.rectangle(-self.width / 2, -deep, self.width / 2, deep), (Outline.circle(0.0, 0.0, self.bar + PLAY),), self.length - self.slot)
        return (*(Solid(at, flat, hole, self.cheek) for at, flat in self._flat), socket)

    @property
    def _flat(self) -> tuple[tuple[Frame, Outline], tuple[Frame, Outline]]:
        w, half = self.width / 2, self.gap / 2
        flat = Outline(((0.0, -w, 0.0), (self.slot, -w, 0.0), (self.slot, w, 0.0), (0.0, w, 1.0)))
        return (Frame((0.0, 0.0, half)), flat), (Frame((0.0, 0.0, -half - self.cheek)), flat)

    def mesh(self, per_arc: int, drilled: bool) -> Mesh:
        """Its body where its frame lies."""
        return _mesh(self.solids, max(per_arc, 4), drilled).placed(self.frame)

    @property
    def threads(self) -> tuple[tuple[float, float], ...]:
        """From where to where along its bar it holds thread, mm."""
        return ((self.slot, self.length),)

    @property
    def ways(self) -> Array:
        """Directions (3, 3) square to its faces."""
        return self.frame.axes

    @property
    def covers(self) -> tuple[Array, ...]:
        """Corners (n, 3) of boxes that together hold it."""
        w, out = self.width / 2, self.gap / 2 + self.cheek
        spans = (((-w, self.slot), (self.gap / 2, out)), ((-w, self.slot), (-out, -self.gap / 2)), ((self.slot, self.length), (-out, out)))
        return tuple(self.frame.to_world([(a, b, c) for a in x for b in (-w, w) for c in z]) for x, z in spans)

    @property
    def volume(self) -> float:
        """Volume in mm³, bores taken off."""
        deep = self.gap + 2 * self.cheek
        cheek = self.slot * self.width + np.pi * self.width**2 / 8 - np.pi / 4 * self.hole**2
        return float(2 * cheek * self.cheek + (self.length - self.slot) * (self.width * deep - np.pi / 4 * self.bar**2))


class Turnbuckle(msgspec.Struct, frozen=True, gc=False):
    """Two nuts ``nut`` long with two flats between them, ``opening`` apart; the origin is its middle, x along the bars, ``bar`` thick."""

    name: str
    size: str
    grade: str
    frame: Frame
    bar: float
    across: float
    nut: float
    opening: float
    strap: float

    @property
    def words(self) -> str:
        """What a bill calls it."""
        return f"turnbuckle, opening {self.opening:g}"

    @property
    def length(self) -> float:
        """Length over all, mm."""
        return self.opening + 2 * self.nut

    @property
    def solids(self) -> tuple[Solid, ...]:
        """Hexagons as nuts, with their bore, and two straps beside the bars."""
        bore = (Outline.circle(0.0, 0.0, self.bar + PLAY),)
        r, half = self.across / float(np.sqrt(3)), self.opening / 2
        six = Outline(tuple((r * float(np.cos(a)), r * float(np.sin(a)), 0.0) for a in np.arange(6) * np.pi / 3))
        out = [Solid(ALONG.moved(z=z), six, bore, self.nut) for z in (-half - self.nut, half)]
        for side in (1.0, -1.0):
            far = side * self.across / 2
            strap = Outline.rectangle(-0.35 * self.across, min(far, far - side * self.strap), 0.35 * self.across, max(far, far - side * self.strap))
            out.append(Solid(ALONG.moved(z=-half), strap, (), self.opening))
        return tuple(out)

    def mesh(self, per_arc: int, drilled: bool) -> Mesh:
        """Its body where its frame lies; its bores are never filled."""
        return _mesh(self.solids, 6, True).placed(self.frame)

    @property
    def threads(self) -> tuple[tuple[float, float], ...]:
        """From where to where along its bars it holds thread, mm."""
        half = self.opening / 2
        return (-half - self.nut, -half), (half, half + self.nut)

    @property
    def ways(self) -> Array:
        """Directions (3, 3) square to its faces."""
        return self.frame.axes

    @property
    def covers(self) -> tuple[Array, ...]:
        """Corners of a box that holds it."""
        r, x = self.across / np.sqrt(3), self.length / 2
        return (self.frame.to_world([(a, b, c) for a in (-x, x) for b in (-r, r) for c in (-r, r)]),)

    @property
    def volume(self) -> float:
        """Volume in mm³, bores taken off."""
        nut = self.across**2 * np.sqrt(3) / 2 - np.pi / 4 * self.bar**2
        return float(2 * nut * self.nut + 2 * self.opening * self.strap * self.across * 0.7)


Fitting = Fork | Turnbuckle


@lru_cache(maxsize=512)
def _mesh(solids: tuple[Solid, ...], per_arc: int, drilled: bool) -> Mesh:
    bored = solids[-1].holes  # a socket's bore holds the bar, whether holes are wanted or not
    return joined([prism(s.outline, s.holes if drilled or s.holes == bored else (), 0.0, s.depth, per_arc).placed(s.frame) for s in solids])
