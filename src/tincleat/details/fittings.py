"""What is bought, by value: for round bars fork ends with a pin, turnbuckles, hillside washers with their nut; studs.  Each is given in a frame
with x along its bar (mm)."""

from functools import lru_cache
from typing import NamedTuple

import msgspec
import numpy as np

from tincleat.details.plates import Hole
from tincleat.geometry.frames import Array, Frame, Vec3, vec
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


class Fork(msgspec.Struct, frozen=True, gc=False, tag=True):
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

    @property
    def mirrored(self) -> "Fork":
        """Its mirror image in the outer x-z plane."""
        return msgspec.structs.replace(self, frame=self.frame.mirrored_y())

    def mesh(self, per_arc: int, drilled: bool) -> Mesh:
        """Its body where its frame lies."""
        return _mesh(self.solids, max(per_arc, 4), drilled).placed(self.frame)

    @property
    def needs(self) -> tuple[float, str]:
        """How much thread the bar needs in it, mm, and why."""
        return self.bar, "practice: as much thread as the rod is thick"

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


class Turnbuckle(msgspec.Struct, frozen=True, gc=False, tag=True):
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
        half = self.opening / 2
        out = [Solid(ALONG.moved(z=z), _six(self.across), bore, self.nut) for z in (-half - self.nut, half)]
        for side in (1.0, -1.0):
            far = side * self.across / 2
            strap = Outline.rectangle(-0.35 * self.across, min(far, far - side * self.strap), 0.35 * self.across, max(far, far - side * self.strap))
            out.append(Solid(ALONG.moved(z=-half), strap, (), self.opening))
        return tuple(out)

    @property
    def mirrored(self) -> "Turnbuckle":
        """Its mirror image in the outer x-z plane."""
        return msgspec.structs.replace(self, frame=self.frame.mirrored_y())

    def mesh(self, per_arc: int, drilled: bool) -> Mesh:
        """Its body where its frame lies; its bores are never filled."""
        return _mesh(self.solids, 6, True).placed(self.frame)

    @property
    def needs(self) -> tuple[float, str]:
        """How much thread the bar needs in it, mm, and why."""
        return self.bar, "practice: as much thread as the rod is thick"

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


class Hillside(msgspec.Struct, frozen=True, gc=False, tag=True):
    """A wedge that bears on a face a bar comes through aslant, with a flat washer and a nut on it square to the bar.

    The origin is where the bar's middle leaves the face, x runs out of it along the bar, z lies in the face; the face leans by ``lean`` (rad)
    from square towards y.  The wedge is a block ``side`` square and ``height`` high on the bar's middle, with a square bore.
    """

    name: str
    size: str
    grade: str
    frame: Frame
    bar: float
    lean: float
    side: float
    height: float
    washer: tuple[float, float]
    across: float
    nut: float

    @property
    def words(self) -> str:
        """What a bill calls it."""
        return f"hillside washer {abs(np.degrees(self.lean)):.0f}°, {self.side:g} square, with nut"

    @property
    def length(self) -> float:
        """From the face to the nut's top on the bar's middle, mm."""
        return self.height + self.washer[1] + self.nut

    def _part(self, y0: float, y1: float) -> Outline:
        """The wedge's outline between two y, in the plane of bar and lean."""
        slope = float(np.tan(self.lean))
        return Outline(((slope * y0, y0, 0.0), (self.height, y0, 0.0), (self.height, y1, 0.0), (slope * y1, y1, 0.0)))

    @property
    def solids(self) -> tuple[Solid, ...]:
        """The wedge in four about its bore, washer and nut."""
        half, r = self.side / 2, (self.bar + PLAY) / 2
        bore = (Outline.circle(0.0, 0.0, self.bar + PLAY),)
        wedge = [(self._part(-half, half), r, half - r), (self._part(-half, half), -half, half - r), (self._part(r, half), -r, 2 * r), (self._part(-half, -r), -r, 2 * r)]
        return (
            *(Solid(Frame((0.0, 0.0, z)), flat, (), deep) for flat, z, deep in wedge),
            Solid(ALONG.moved(z=self.height), Outline.circle(0.0, 0.0, self.washer[0]), bore, self.washer[1]),
            Solid(ALONG.moved(z=self.height + self.washer[1]), _six(self.across), bore, self.nut),
        )

    @property
    def mirrored(self) -> "Hillside":
        """Its mirror image in the outer x-z plane: its frame's y turns round, and its lean with it."""
        return msgspec.structs.replace(self, frame=self.frame.mirrored_y(), lean=-self.lean)

    def mesh(self, per_arc: int, drilled: bool) -> Mesh:
        """Its body where its frame lies; its bores are never filled."""
        return _mesh(self.solids, max(per_arc, 4), True).placed(self.frame)

    @property
    def needs(self) -> tuple[float, str]:
        """How much thread the bar needs in it, mm, and why."""
        return self.nut, "practice: the whole nut on the thread"

    @property
    def threads(self) -> tuple[tuple[float, float], ...]:
        """From where to where along its bar it holds thread, mm."""
        return ((self.length - self.nut, self.length),)

    @property
    def ways(self) -> Array:
        """Directions (4, 3) square to its faces."""
        return np.concatenate([self.frame.axes, self.frame.turn(np.array([(np.cos(self.lean), -np.sin(self.lean), 0.0)]))])

    @property
    def covers(self) -> tuple[Array, ...]:
        """Corners (n, 3) of bodies that together hold it: the wedge, and washer with nut."""
        half, r = self.side / 2, max(self.washer[0] / 2, self.across / np.sqrt(3))
        wedge = [(x, y, z) for x, y, _ in self._part(-half, half).vertices for z in (-half, half)]
        top = [(x, y, z) for x in (self.height, self.length) for y in (-r, r) for z in (-r, r)]
        return self.frame.to_world(wedge), self.frame.to_world(top)

    @property
    def bearing(self) -> Vec3:
        """The unit normal of the face it bears on, out of the steel."""
        return vec(self.frame.turn((float(np.cos(self.lean)), -float(np.sin(self.lean)), 0.0)))

    @property
    def volume(self) -> float:
        """Volume in mm³, bores taken off."""
        bore = self.bar + PLAY
        ring = np.pi / 4 * (self.washer[0] ** 2 - bore**2)
        nut = self.across**2 * np.sqrt(3) / 2 - np.pi / 4 * bore**2
        return float((self.side**2 - bore**2) * self.height + ring * self.washer[1] + nut * self.nut)


class Stud(msgspec.Struct, frozen=True, gc=False, tag=True):
    """A headed stud welded on a face: the origin is its foot's middle, x runs out of the steel; ``length`` over all as welded, with the collar
    that welding leaves at its foot."""

    name: str
    size: str
    grade: str
    frame: Frame
    bar: float
    length: float
    head: tuple[float, float]
    collar: tuple[float, float]

    @property
    def words(self) -> str:
        """What a bill calls it."""
        return "headed stud, welded on"

    @property
    def solids(self) -> tuple[Solid, ...]:
        """Collar, shank and head."""
        (head, high), (foot, low) = self.head, self.collar
        spans = ((0.0, low, foot), (low, self.length - high, self.bar), (self.length - high, self.length, head))
        return tuple(Solid(ALONG.moved(z=a), Outline.circle(0.0, 0.0, d), (), b - a) for a, b, d in spans)

    @property
    def mirrored(self) -> "Stud":
        """Its mirror image in the outer x-z plane."""
        return msgspec.structs.replace(self, frame=self.frame.mirrored_y())

    def mesh(self, per_arc: int, drilled: bool) -> Mesh:
        """Its body where its frame lies."""
        return _mesh(self.solids, max(per_arc, 3), False).placed(self.frame)

    @property
    def needs(self) -> tuple[float, str]:
        """It holds no thread."""
        return 0.0, ""

    @property
    def threads(self) -> tuple[tuple[float, float], ...]:
        """It holds no thread."""
        return ()

    @property
    def ways(self) -> Array:
        """Directions (3, 3) square to its faces."""
        return self.frame.axes

    @property
    def covers(self) -> tuple[Array, ...]:
        """Corners (n, 3) of boxes that together hold it: foot and shank, head."""
        (head, high), (foot, _) = self.head, self.collar
        spans = ((0.0, self.length - high, foot / 2), (self.length - high, self.length, head / 2))
        return tuple(self.frame.to_world([(x, y, z) for x in (a, b) for y in (-r, r) for z in (-r, r)]) for a, b, r in spans)

    @property
    def volume(self) -> float:
        """Volume in mm³."""
        (head, high), (foot, low) = self.head, self.collar
        return float(np.pi / 4 * (foot**2 * low + self.bar**2 * (self.length - high - low) + head**2 * high))


def _six(across: float) -> Outline:
    """A hexagon about the origin, ``across`` flats."""
    r = across / float(np.sqrt(3))
    return Outline(tuple((r * float(np.cos(a)), r * float(np.sin(a)), 0.0) for a in np.arange(6) * np.pi / 3))


Fitting = Fork | Turnbuckle | Hillside | Stud


@lru_cache(maxsize=512)
def _mesh(solids: tuple[Solid, ...], per_arc: int, drilled: bool) -> Mesh:
    bored = solids[-1].holes  # a socket's bore holds the bar, whether holes are wanted or not
    return joined([prism(s.outline, s.holes if drilled or s.holes == bored else (), 0.0, s.depth, per_arc).placed(s.frame) for s in solids])
