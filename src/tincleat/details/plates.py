"""Plates by value: flat ones with holes and bevelled edges, and strips bent about parallel lines; mm, in the frame they are given in."""

import math
from functools import lru_cache
from typing import Literal

import msgspec
import numpy as np
from shapely.geometry import Polygon

from tincleat.catalogue.fasteners import HoleKind
from tincleat.details.scoops import Scoop
from tincleat.geometry.frames import Array, Frame, vec
from tincleat.geometry.mesh import Mesh, joined, prism, sunk_prism, trimmed
from tincleat.geometry.outline import Outline, half_plane
from tincleat.steel.body import FINE
from tincleat.steel.cuts import EndCut, sunk, sunk_volume

replace = msgspec.structs.replace


class Hole(msgspec.Struct, frozen=True, gc=False):
    """A hole at (x, y) of its plate: ``width`` across, ``length`` over all along ``angle``; round when both are equal."""

    x: float
    y: float
    width: float
    length: float
    angle: float = 0.0
    kind: HoleKind | Literal["anchor", "vent", "tapped"] = "normal"
    sink: float = 0.0  # diameter at the face of a countersink; 0 without one
    sink_angle: float = 0.0  # of its cone, rad
    sink_top: bool = True  # whether it opens to the face at the plate's thickness, or to that at 0

    @property
    def sink_depth(self) -> float:
        """How deep the countersink's cone goes until it is as wide as the hole, mm."""
        return (self.sink - self.width) / 2 / math.tan(self.sink_angle / 2) if self.sink else 0.0

    def sunk_in(self, thickness: float) -> tuple[float, float]:
        """How deep its cone goes in a plate so thick, and how wide it is there, mm: as the hole, or wider where the plate ends before."""
        return sunk(self.width, self.sink, self.sink_angle, thickness)

    def sink_volume(self, thickness: float) -> float:
        """What the countersink takes of a plate beside the hole, mm³; 0 without one."""
        return sunk_volume(self.width, self.sink, self.sink_angle, thickness) if self.sink else 0.0

    @property
    def outline(self) -> Outline:
        """The hole's edge."""
        if self.length <= self.width:
            return Outline.circle(self.x, self.y, self.width)
        return Outline.slot(self.x, self.y, self.width, self.length, self.angle)

    @property
    def area(self) -> float:
        """Area in mm²: of a circle, and of the straight part of a slot between its half circles."""
        return math.pi * self.width**2 / 4 + self.width * max(self.length - self.width, 0.0)


def flat_body(outline: Outline, holes: "tuple[Hole, ...]", thickness: float, per_arc: int) -> Mesh:
    """The body of a flat from z = 0 with its holes, countersunk ones among them."""
    plain, sinks = tuple(h.outline for h in holes if not h.sink), [h for h in holes if h.sink]
    if not sinks:
        return prism(outline, plain, 0.0, thickness, per_arc)
    cones = [(h.x, h.y, wide, h.sink, deep, h.sink_top) for h in sinks for deep, wide in (h.sunk_in(thickness),)]
    return sunk_prism(outline, plain, cones, 0.0, thickness, per_arc)


class Plate(msgspec.Struct, frozen=True):
    """A flat plate from z = 0 to ``thickness`` of its frame; ``kinds`` are the rounding kinds of its x and y extents.

    ``trims`` are planes in its frame that bevel its edges; the outline is the larger face's.
    """

    name: str
    outline: Outline
    thickness: float
    frame: Frame
    grade: str
    holes: tuple[Hole, ...] = ()
    kinds: tuple[str, str] = ("plate width", "plate length")
    trims: tuple[EndCut, ...] = ()
    scoops: tuple[Scoop, ...] = ()  # cut along its edges for U and J grooves; each lies in its outline

    @property
    def net_area(self) -> float:
        """Face area less holes, mm², exact with arcs."""
        return self.outline.area - sum(h.area for h in self.holes)

    @property
    def volume(self) -> float:
        """Volume in mm³, exact with arcs."""
        return self.net_area * self.thickness - sum(h.sink_volume(self.thickness) for h in self.holes) - (self._bevels if self.trims else 0.0) - sum(s.volume for s in self.scoops)

    @property
    def _bevels(self) -> float:
        """What its bevels take off, mm³."""
        whole = prism(self.outline, (), 0.0, self.thickness, FINE)
        rest = whole
        for e in self.trims:
            rest = trimmed(rest, e.point, e.normal)
        return whole.volume - rest.volume

    @property
    def middle(self) -> Polygon:
        """Its outline (no holes) in its middle plane, bevels taken off, mm."""
        return trimmed_at(self.outline.polygon(), self.trims, self.thickness / 2)


def trimmed_at(flat: Polygon, trims: tuple[EndCut, ...], z: float) -> Polygon:
    """What bevels leave of a plate's outline at a height of its frame, mm."""
    for e in trims:
        n = np.array(e.normal[:2])
        size = float(np.hypot(*n))
        if size > 1e-9:
            flat = flat.intersection(half_plane(n / size, (float(np.dot(e.normal, e.point)) - e.normal[2] * z) / size, 1e5))
    return flat


class Flat(msgspec.Struct, frozen=True):
    """A straight length of a bent plate, between where two bends begin; holes by x from its start and y of the plate's frame."""

    length: float
    holes: tuple[Hole, ...] = ()


class BentPlate(msgspec.Struct, frozen=True):
    """A strip from y = ``low`` to ``high`` of its frame, bent about lines along y.

    Its first flat begins at the origin and runs along x, its steel from z = 0 to ``thickness``; after flat i the strip turns by
    ``turns[i]`` (rad), towards z where positive, with ``radius`` inside the bend.  ``kind`` is the rounding kind of its breadth.
    """

    name: str
    flats: tuple[Flat, ...]
    turns: tuple[float, ...]
    radius: float
    low: float
    high: float
    thickness: float
    frame: Frame
    grade: str
    kind: str = ""

    @property
    def legs(self) -> tuple[Plate, ...]:
        """Its flats, each as a plate of its own where it lies."""
        return _legs(self)

    @property
    def developed(self) -> float:
        """Length of the flat strip it is bent from, mm: along a neutral line that lies nearer the inside of a tight bend.

        Source: DIN 6935:2011, 6: r + k t / 2 with k = 0.65 + 0.5 lg(r/t), at most 1.
        """
        k = min(1.0, max(0.0, 0.65 + 0.5 * math.log10(self.radius / self.thickness)))
        return sum(f.length for f in self.flats) + sum(abs(a) for a in self.turns) * (self.radius + k * self.thickness / 2)

    @property
    def volume(self) -> float:
        """Volume in mm³ as it is bent, exact."""
        ring = (self.radius + self.thickness) ** 2 - self.radius**2
        area = sum(f.length for f in self.flats) * self.thickness + sum(abs(a) for a in self.turns) * ring / 2
        return area * (self.high - self.low) - sum(h.area * self.thickness + h.sink_volume(self.thickness) for f in self.flats for h in f.holes)

    @property
    def profile(self) -> Outline:
        """The strip seen along its bends, in the x-z plane of its frame, true arcs."""
        return _profile(self.flats, self.turns, self.radius, self.thickness)

    @property
    def side(self) -> Frame:
        """The frame in whose x-y plane the profile lies; its z runs against the plate's y."""
        return Frame(self.frame.origin, self.frame.x, vec(-np.array(self.frame.y)))

    def mesh(self, per_arc: int, drilled: bool) -> Mesh:
        """Its body where its frame lies; with its holes if ``drilled``."""
        if not (drilled and any(f.holes for f in self.flats)):
            return prism(self.profile, (), -self.high, -self.low, per_arc).placed(self.side)
        parts = [flat_body(p.outline, p.holes, p.thickness, per_arc).placed(p.frame) for p in self.legs]
        for leg, flat, turn in zip(self.legs, self.flats, self.turns, strict=False):
            bend = replace(self, flats=(Flat(0.0), Flat(0.0)), turns=(turn,), frame=leg.frame.moved(x=flat.length))
            parts.append(prism(bend.profile, (), -self.high, -self.low, per_arc).placed(bend.side))
        return joined(parts)

    @property
    def covers(self) -> tuple[Array, ...]:
        """Corners (n, 3) of convex bodies that together hold it."""
        out = []
        corners = [(x, y) for x in (0.0, 1.0) for y in (self.low, self.high)]
        for leg, flat in zip(self.legs, self.flats, strict=True):
            out.append(leg.frame.to_world([(x * flat.length, y, z) for x, y in corners for z in (0.0, self.thickness)]))
        for i, turn in enumerate(self.turns):
            inner, outer = self.radius, (self.radius + self.thickness) / math.cos(turn / 8)
            ring = [(r * math.sin(a), math.copysign(1.0, turn) * (self.radius - r * math.cos(a))) for a in np.linspace(0.0, abs(turn), 5) for r in (inner, outer)]
            base = self.thickness if turn > 0 else 0.0
            at = self.legs[i].frame.moved(x=self.flats[i].length)
            out.append(at.to_world([(x, y, base + z) for x, z in ring for y in (self.low, self.high)]))
        return tuple(out)

    @property
    def mirrored(self) -> "BentPlate":
        """Its mirror image in the x-z plane of what its frame is given in."""
        flats = tuple(replace(f, holes=tuple(replace(h, y=-h.y, angle=-h.angle) for h in f.holes)) for f in self.flats)
        return replace(self, flats=flats, low=-self.high, high=-self.low, frame=self.frame.mirrored_y())


def _after(at: Frame, turn: float, radius: float, t: float) -> Frame:
    """Where the next flat begins behind a bend."""
    s, c = math.sin(abs(turn)), math.cos(turn)
    way = math.copysign(1.0, turn)
    lower = radius + t if turn > 0 else radius  # the lower face's radius
    x, z = np.array(at.x), np.array(at.z)
    origin = at.o + x * lower * s + z * way * lower * (1 - c)
    return Frame.of(origin, x * c + z * way * s, z * c - x * way * s)


@lru_cache(maxsize=256)
def _legs(b: BentPlate) -> tuple[Plate, ...]:
    at, out = b.frame, []
    for i, flat in enumerate(b.flats):
        if i:
            at = _after(at.moved(x=b.flats[i - 1].length), b.turns[i - 1], b.radius, b.thickness)
        out.append(Plate(b.name, Outline.rectangle(0.0, b.low, flat.length, b.high), b.thickness, at, b.grade, flat.holes, ("", b.kind)))
    return tuple(out)


@lru_cache(maxsize=256)
def _profile(flats: tuple[Flat, ...], turns: tuple[float, ...], radius: float, t: float) -> Outline:
    at = Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, 0.0, 1.0))
    lower: list[tuple[float, float, float]] = []
    upper: list[tuple[float, float, float]] = []
    for i, flat in enumerate(flats):
        if i:
            at = _after(at.moved(x=flats[i - 1].length), turns[i - 1], radius, t)
        end = math.tan(turns[i] / 4) if i < len(turns) else 0.0
        begin = math.tan(turns[i - 1] / 4) if i else 0.0
        x, z = np.array(at.x), np.array(at.z)
        a, b = at.o, at.o + x * flat.length
        c, d = a + z * t, b + z * t
        straight = flat.length > 1e-9
        lower += ([(float(a[0]), float(a[2]), 0.0)] if straight else []) + [(float(b[0]), float(b[2]), end)]
        upper += [(float(c[0]), float(c[2]), -begin)] + ([(float(d[0]), float(d[2]), 0.0)] if straight else [])
    return Outline(tuple(lower + upper[::-1]))
