"""Right-handed frames by value."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tincleat.errors import BadValue
from tincleat.lazy import lazy

Array = NDArray[np.float64]
Vec3 = tuple[float, float, float]


def vec(values: "Array | tuple[float, ...] | list[float]") -> Vec3:
    """Three plain floats of any three-number sequence."""
    a, b, c = values
    return (float(a), float(b), float(c))


def unit(values: "Array | Vec3") -> Array:
    """The direction of ``values`` with length 1; raises :class:`BadValue` for a zero or non-finite vector."""
    array = np.asarray(values, dtype=np.float64)
    length = math.sqrt(float(array @ array))
    if not math.isfinite(length) or length < 1e-12:
        raise BadValue("a direction has no length")
    return array / length


def crossed(a: "Array | Vec3", b: "Array | Vec3") -> Array:
    """The cross product of two single vectors, without the general one's overhead."""
    ax, ay, az = a
    bx, by, bz = b
    return np.array([ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx])


def crossed_rows(a: Array, b: Array) -> Array:
    """Cross products (n, 3) of rows (n, 3) with rows, without the general one's overhead."""
    ax, ay, az = a[:, 0], a[:, 1], a[:, 2]
    bx, by, bz = b[:, 0], b[:, 1], b[:, 2]
    out = np.empty((len(a), 3))
    out[:, 0] = ay * bz - az * by
    out[:, 1] = az * bx - ax * bz
    out[:, 2] = ax * by - ay * bx
    return out


def _of_length_one(v: Vec3) -> Vec3:
    """:func:`unit` of plain numbers."""
    a, b, c = v
    length = math.sqrt(a * a + b * b + c * c)
    if not math.isfinite(length) or length < 1e-12:
        raise BadValue("a direction has no length")
    return (a / length, b / length, c / length)


@dataclass(frozen=True)
class Frame:
    """An origin (mm) with three unit axes, right-handed; ``y`` follows from ``x`` and ``z``.

    >>> Frame((0, 0, 5)).to_world([(1, 2, 3)]).tolist()
    [[1.0, 2.0, 8.0]]
    """

    origin: Vec3 = (0.0, 0.0, 0.0)
    x: Vec3 = (1.0, 0.0, 0.0)
    z: Vec3 = (0.0, 0.0, 1.0)

    @staticmethod
    def of(origin: "Array | Vec3", x: "Array | Vec3", z: "Array | Vec3") -> "Frame":
        """A frame from an origin, the x direction, and a z direction that is squared up to x; raises BadValue if parallel."""
        a, b, c = _of_length_one(vec(x))
        d, e, f = vec(z)
        along = d * a + e * b + f * c
        return Frame(vec(origin), (a, b, c), _of_length_one((d - along * a, e - along * b, f - along * c)))

    @lazy
    def axes(self) -> Array:
        """(3, 3) array, rows are the x, y and z axes."""
        (a, b, c), (d, e, f) = self.z, self.x
        return np.array([self.x, (b * f - c * e, c * d - a * f, a * e - b * d), self.z])

    @lazy
    def y(self) -> Vec3:
        """The y axis."""
        (a, b, c), (d, e, f) = self.z, self.x
        return (b * f - c * e, c * d - a * f, a * e - b * d)

    @lazy
    def o(self) -> Array:
        """The origin as an array (3,)."""
        return np.array(self.origin)

    def to_world(self, points: "Array | list[Vec3] | tuple[Vec3, ...]") -> Array:
        """(n, 3) local points in the outer frame, mm."""
        return np.asarray(points, dtype=np.float64) @ self.axes + self.o

    def to_local(self, points: "Array | list[Vec3] | tuple[Vec3, ...]") -> Array:
        """(n, 3) outer points in this frame, mm."""
        return (np.asarray(points, dtype=np.float64) - self.o) @ self.axes.T

    def turn(self, directions: "Array | Vec3") -> Array:
        """Local direction(s) in the outer frame (no shift)."""
        return np.asarray(directions, dtype=np.float64) @ self.axes

    def unturn(self, directions: "Array | Vec3") -> Array:
        """Outer direction(s) in this frame (no shift)."""
        return np.asarray(directions, dtype=np.float64) @ self.axes.T

    @lazy
    def rows(self) -> tuple[Vec3, Vec3, Vec3]:
        """x, y and z as plain numbers: for single vectors that is several times faster than arrays."""
        return (self.x, self.y, self.z)

    def point(self, v: Vec3) -> Vec3:
        """One local point in the outer frame, mm, in plain numbers."""
        (a, b, c), (x, y, z) = self.origin, self.out(v)
        return (a + x, b + y, c + z)

    def spot(self, v: Vec3) -> Vec3:
        """One outer point in this frame, mm, in plain numbers."""
        (a, b, c), (x, y, z) = self.origin, v
        return self.into((x - a, y - b, z - c))

    def out(self, v: Vec3) -> Vec3:
        """One local direction in the outer frame, in plain numbers."""
        (a, b, c), (d, e, f), (g, h, k) = self.rows
        x, y, z = v
        return (a * x + d * y + g * z, b * x + e * y + h * z, c * x + f * y + k * z)

    def into(self, v: Vec3) -> Vec3:
        """One outer direction in this frame, in plain numbers."""
        (a, b, c), (d, e, f), (g, h, k) = self.rows
        x, y, z = v
        return (a * x + b * y + c * z, d * x + e * y + f * z, g * x + h * y + k * z)

    def at(self, inner: "Frame") -> "Frame":
        """``inner``, given in this frame, as a frame of the outer one."""
        return Frame(self.point(inner.origin), self.out(inner.x), self.out(inner.z))

    def inside(self, outer: "Frame") -> "Frame":
        """``outer``, given in the world, as seen from this frame (the inverse of :meth:`at`)."""
        return Frame(self.spot(outer.origin), self.into(outer.x), self.into(outer.z))

    def moved(self, x: float = 0.0, y: float = 0.0, z: float = 0.0) -> "Frame":
        """The same axes with the origin moved by local amounts, mm."""
        return Frame(self.point((x, y, z)), self.x, self.z)

    def mirrored_y(self) -> "Frame":
        """The mirror image in the outer x-z plane, made right-handed again by turning the local y axis round."""
        (a, b, c), (d, e, f), (g, h, k) = self.origin, self.x, self.z
        return Frame((a, -b, c), (d, -e, f), (g, -h, k))
