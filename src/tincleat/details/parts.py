"""A detail and its parts, by value, in the joint's frame (mm).  Part and member names tie parts to findings and lists."""

import math
from collections.abc import Callable
from typing import Literal

import msgspec
import numpy as np

from tincleat.catalogue.fasteners import HoleKind, anchor_size
from tincleat.catalogue.sections import Section, section
from tincleat.details.fittings import Fitting as Fitting
from tincleat.details.plates import BentPlate as BentPlate
from tincleat.details.plates import Flat as Flat
from tincleat.details.plates import Hole as Hole
from tincleat.details.plates import Plate as Plate
from tincleat.details.plates import trimmed_at as trimmed_at
from tincleat.details.scoops import side
from tincleat.geometry.frames import Array, Frame, Vec3, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case, cuts_image, image
from tincleat.steel.body import named, steel_volume
from tincleat.steel.cuts import NONE, Cuts, EndCut, MemberHole, Notch, in_outer

View = str
Side = Literal["left", "right", "top", "bottom"]
Origin = Literal["typed", "schedule", "typical", "default", "worked out", "adapted", "rounded", "member"]


class Piece(msgspec.Struct, frozen=True):
    """A length of a catalogue section: x from 0 to ``length`` of its frame, whose origin is the section's middle; ``cuts`` in that frame."""

    name: str
    section: str
    grade: str
    frame: Frame
    length: float
    cuts: Cuts = NONE

    @property
    def shape(self) -> Section:
        """The piece's catalogue section."""
        return section(self.section)

    @property
    def volume(self) -> float:
        """Volume in mm³ after all its cuts."""
        return steel_volume(self.shape, self.cuts, 0.0, self.length)


class Bolts(msgspec.Struct, frozen=True):
    """A bolt group.  ``axis`` points from head to nut; ``load`` is the direction of the force; a ``length`` of 0 is worked out.

    A countersunk ``head`` lies in its first ply; without a ``nut`` the last ply is threaded.
    """

    name: str
    size: str
    grade: str
    points: tuple[Vec3, ...]
    axis: Vec3
    load: Vec3
    hole: HoleKind = "normal"
    length: float = 0.0
    washers: int = 1
    site: bool = True
    through: tuple[str, ...] = ()  # names of the parts that it goes through, an empty one the members; none: all that lie there
    head: Literal["hexagon", "countersunk"] = "hexagon"
    nut: bool = True


class Weld(msgspec.Struct, frozen=True, gc=False):
    """A straight weld: its root runs ``start`` to ``end``; legs of ``leg`` mm lie along unit vectors ``u`` (on part a) and ``v`` (on part b).

    A groove weld fills the opening between the two faces from its root; its ``leg`` is the thickness it goes through.  With a root
    ``opening`` the second part's face begins that far from the first's, and the weld is level over both; where the two faces are
    parallel, a square groove, the second lies on the side of run x ``u``.  Both faces of a ``vee`` lean alike.
    """

    name: str
    leg: float
    start: Vec3
    end: Vec3
    u: Vec3
    v: Vec3
    parts: tuple[str, str]
    site: bool = False
    kind: Literal["fillet", "groove"] = "fillet"
    opening: float = 0.0
    tail: str = ""  # what the tail of its symbol says
    vee: bool = False  # whether both faces of a groove lean alike; else the first part's is square
    radius: float = 0.0  # at the root of a U or J groove, whose slanting faces run along ``u`` and ``v``; it begins over a ``land``
    land: float = 0.0

    @property
    def section(self) -> tuple[Vec3, ...]:
        """Corners of its section from its start, all round: of most welds the four of :attr:`ends`, or three where the roots are one."""
        if not self.radius:
            return self.ends
        flat, up, lean = self._ways
        slope = side(self.land, self.radius, lean, self.leg).tolist()
        first = [(-x, z) for x, z in slope] if self.vee else [(0.0, self.leg)]
        second = [(self.opening + x, z) for x, z in slope[::-1]]
        # plates without a gap touch with their lands, and the weld lies over those
        out = [(0.0, 0.0), *first, *second, (self.opening, 0.0)] if self.opening else [*first, *second[: len(second) - self.vee]]
        return tuple(vec(flat * x + up * z) for x, z in out)

    @property
    def _ways(self) -> "tuple[Array, Array, float]":
        """Of a U or J groove: from its first part to its second, up from its root, and the slant of its faces."""
        u, v = np.array(self.u), np.array(self.v)
        c = float(u @ v)
        if self.vee:
            flat = (v - u) / np.sqrt(2 - 2 * c)
            return flat, (u + v) / np.sqrt(2 + 2 * c), math.acos(max(-1.0, min(1.0, c))) / 2
        flat = (v - c * u) / np.sqrt(1 - c * c)
        return flat, u, math.acos(max(-1.0, min(1.0, c)))

    @property
    def ends(self) -> tuple[Vec3, ...]:
        """The root, the far end on the first part, that on the second, and the root on the second where it lies off the first's; from its start."""
        if self.radius:
            flat, up, lean = self._ways
            far = float(side(self.land, self.radius, lean, self.leg)[-1, 0])
            return (0.0, 0.0, 0.0), vec(up * self.leg - flat * (far if self.vee else 0.0)), vec(up * self.leg + flat * (self.opening + far)), vec(flat * self.opening)
        (ux, uy, uz), (vx, vy, vz), a = self.u, self.v, self.leg
        if not self.opening:
            return (0.0, 0.0, 0.0), (a * ux, a * uy, a * uz), (a * vx, a * vy, a * vz)
        c = ux * vx + uy * vy + uz * vz
        if c > 1 - 1e-9:
            rx, ry, rz = (e - s for s, e in zip(self.start, self.end, strict=True))
            k = self.opening / float(np.sqrt(rx * rx + ry * ry + rz * rz))
            ox, oy, oz = k * (ry * uz - rz * uy), k * (rz * ux - rx * uz), k * (rx * uy - ry * ux)
            return (0.0, 0.0, 0.0), (a * ux, a * uy, a * uz), (ox + a * ux, oy + a * uy, oz + a * uz), (ox, oy, oz)
        if self.vee:
            u, v = np.array(self.u), np.array(self.v)
            across = (v - u) / float(np.sqrt(2 - 2 * c)) * self.opening
            k = a / float(np.sqrt((1 + c) / 2))
            return (0.0, 0.0, 0.0), vec(u * k), vec(across + v * k), vec(across)
        s = float(np.sqrt(1 - c * c))
        ox, oy, oz = ((q - c * p) / s * self.opening for p, q in zip(self.u, self.v, strict=True))
        b = a / c
        return (0.0, 0.0, 0.0), (a * ux, a * uy, a * uz), (ox + b * vx, oy + b * vy, oz + b * vz), (ox, oy, oz)


class Plug(msgspec.Struct, frozen=True, gc=False):
    """A weld that fills a hole of one part down to the face of another: the frame's origin is its foot's middle on that face, z runs up through
    the hole, x along it where it is a slot.  ``parts`` are the one below and the one with the hole, ``depth`` how far it is filled, mm."""

    name: str
    frame: Frame
    width: float
    length: float
    depth: float
    parts: tuple[str, str]
    site: bool = False
    tail: str = ""

    @property
    def kind(self) -> str:
        """What it is called."""
        return "slot" if self.length > self.width else "plug"

    @property
    def outline(self) -> Outline:
        """Its outline on the face, about its middle."""
        return Outline.slot(0.0, 0.0, self.width, self.length, 0.0) if self.length > self.width else Outline.circle(0.0, 0.0, self.width)

    @property
    def volume(self) -> float:
        """Volume in mm³."""
        return float(np.pi / 4 * self.width**2 + (self.length - self.width) * self.width) * self.depth


HOOK = 4.0  # length of a hooked rod's tail from the bar's axis, in its diameters


class Rod(msgspec.Struct, frozen=True, gc=False):
    """An anchor rod along z at (x, y) from ``bottom`` to ``top``; nuts sit with their undersides at ``nuts``, plate washers at ``washers``.

    ``washer`` is the side and thickness of the square plate washers, which lie turned by ``turn`` (rad) about the rod; ``hook`` is the way
    that a hooked one's tail looks in plan (rad).
    """

    name: str
    size: str
    grade: str
    x: float
    y: float
    bottom: float
    top: float
    foot: Literal["hooked", "headed", "plate", "resin", "through"]
    nuts: tuple[float, ...]
    washers: tuple[float, ...]
    washer: tuple[float, float]
    turn: float = 0.0
    hook: float = 0.0

    @property
    def tail(self) -> Frame:
        """Of a hooked one the tail: its axis as z from the bar's on, seen from :attr:`stand`."""
        d, way = anchor_size(self.size).d, self.hook - self.turn
        return Frame((0.0, 0.0, self.bottom + d / 2), (float(-np.sin(way)), float(np.cos(way)), 0.0), (float(np.cos(way)), float(np.sin(way)), 0.0))

    @property
    def stand(self) -> Frame:
        """Where it stands: z up it, x along a side of its washers."""
        return Frame((self.x, self.y, 0.0), (float(np.cos(self.turn)), float(np.sin(self.turn)), 0.0))


class Tie(msgspec.Struct, frozen=True, gc=False):
    """A round bar from x = 0 to ``length`` of its frame, threaded for ``threads`` mm at its two ends.

    ``nuts`` are (station, way): the face a nut bears with, washer between where ``washers``, and whether it lies on from there
    along x (1) or back (-1).  ``seats`` are for each nut the normal, in the frame and out of the steel, of a slanting face that its
    taper washer lies on; without them the faces stand square to the bar.
    """

    name: str
    size: str
    grade: str
    frame: Frame
    length: float
    threads: tuple[float, float]
    nuts: tuple[tuple[float, int], ...]
    washers: bool = True
    seats: tuple[Vec3, ...] = ()

    def bearing(self, number: int, washer_d: float, washer_t: float) -> float:
        """Where on the bar nut ``number`` bears: on the steel, its washer, or a taper washer as thick as a washer at its thin edge."""
        x, way = self.nuts[number]
        if not self.seats:
            return x + way * (washer_t if self.washers else 0.0)
        n = self.seats[number]
        return x + way * (washer_t + washer_d / 2 * float(np.hypot(n[1], n[2])) / abs(n[0]))


class Block(msgspec.Struct, frozen=True):
    """Concrete or grout, from z = 0 to ``thickness`` of its frame."""

    name: str
    material: str
    outline: Outline
    thickness: float
    frame: Frame


class Dimension(msgspec.Struct, frozen=True):
    """A chain of dimensions on one view of the sheet: gap i lies between points i and i+1 and is edited by ``settings[i]`` (or none)."""

    view: View
    side: Side
    row: int
    points: tuple[Vec3, ...]
    settings: tuple[str, ...]


class Angle(msgspec.Struct, frozen=True):
    """An angle written on a view: at ``vertex`` between the directions to ``first`` and ``second``; measured, not typed."""

    view: View
    vertex: Vec3
    first: Vec3
    second: Vec3


class Switch(msgspec.Struct, frozen=True):
    """A single place of a pattern, or run of a weld, that can be left out on the sheet: the setting that lists those left out, its number
    there, where it is, and the way (3,) from which it is seen."""

    setting: str
    number: int
    at: Vec3
    towards: Vec3
    on: bool
    words: str


class Pull(msgspec.Struct, frozen=True):
    """One way (a unit vector) that a handle can be pulled, and what that does: settings, each with the place in its list (-1 where it is none)
    and by how much it grows for every millimetre."""

    way: Vec3
    rates: tuple[tuple[str, int, float], ...]


class Handle(msgspec.Struct, frozen=True):
    """What can be taken hold of on the sheet: where it is, the way (3,) from which it is seen, and where it can be pulled."""

    at: Vec3
    towards: Vec3
    pulls: tuple[Pull, ...]
    words: str


class SheetView(msgspec.Struct, frozen=True):
    """A view a family wants on its sheet: the plane of ``frame`` seen against its z, x to the right and y up the paper.

    ``clip`` is the least and greatest corner (x, y in ``frame``) of what it shows; without one it shows all the parts.  Of the members what
    stands nearer to the viewer than ``near`` (z in ``frame``) is cut away, so that flanges do not hide what is between them.
    """

    name: View
    title: str
    frame: Frame
    clip: tuple[float, float, float, float] | None = None
    near: float | None = None


STANDARD_VIEWS = (
    SheetView("front", "Front", Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, -1.0, 0.0))),
    SheetView("side", "Side", Frame((0.0, 0.0, 0.0), (0.0, 1.0, 0.0), (1.0, 0.0, 0.0))),
    SheetView("plan", "Plan", Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, 0.0, 1.0))),
)


class Number(msgspec.Struct, frozen=True, gc=False):
    """A setting's value in use with its origin; ``raw`` and ``rule`` tell how a rounded number came about."""

    name: str
    value: bool | int | float | str | tuple[float, ...]
    origin: Origin
    raw: float = 0.0
    rule: str = ""


class Detail(msgspec.Struct, frozen=True):
    """All a family makes at a joint."""

    family: str
    plates: tuple[Plate, ...] = ()
    bolts: tuple[Bolts, ...] = ()
    welds: tuple[Weld, ...] = ()
    rods: tuple[Rod, ...] = ()
    blocks: tuple[Block, ...] = ()
    ends: tuple[EndCut, ...] = ()
    notches: tuple[Notch, ...] = ()
    holes: tuple[MemberHole, ...] = ()
    dimensions: tuple[Dimension, ...] = ()
    pieces: tuple[Piece, ...] = ()
    numbers: tuple[Number, ...] = ()
    views: tuple[SheetView, ...] = STANDARD_VIEWS
    angles: tuple[Angle, ...] = ()
    ties: tuple[Tie, ...] = ()
    bents: tuple[BentPlate, ...] = ()
    fittings: tuple[Fitting, ...] = ()
    zones: tuple[Block, ...] = ()  # no bodies: space that other connections keep out of
    switches: tuple[Switch, ...] = ()
    handles: tuple[Handle, ...] = ()
    plugs: tuple[Plug, ...] = ()
    unmet: tuple[str, ...] = ()  # alterations that found nothing to alter, each with why
    forces: tuple[tuple[str, float], ...] = ()  # in words and N: what it was told to carry, which shapes nothing

    @property
    def flats(self) -> tuple[Plate, ...]:
        """Every flat thickness that is a plate: its plates, then the legs of its bent ones."""
        return self.plates + tuple(leg for b in self.bents for leg in b.legs) if self.bents else self.plates

    def cuts_of(self, member: int) -> Cuts:
        """All it takes off member ``member`` of its case, in the joint's frame."""
        return Cuts(
            tuple(e for e in self.ends if e.member == member),
            tuple(n for n in self.notches if n.member == member),
            tuple(h for h in self.holes if h.member == member),
        )

    def number(self, name: str) -> Number:
        """The value in use of a setting; raises KeyError."""
        for number in self.numbers:
            if number.name == name:
                return number
        raise KeyError(name)


def mirrored(detail: Detail) -> Detail:
    """The true mirror image of a detail in the joint's x-z plane: handed parts come out handed."""

    def m(v: Vec3) -> Vec3:
        return (v[0], -v[1] + 0.0, v[2])

    replace = msgspec.structs.replace
    return replace(
        detail,
        plates=tuple(
            replace(
                p, outline=p.outline.mirrored_y(), frame=p.frame.mirrored_y(), holes=tuple(replace(h, y=-h.y, angle=-h.angle) for h in p.holes),
                trims=tuple(replace(e, point=m(e.point), normal=m(e.normal)) for e in p.trims),
                scoops=tuple(replace(s, start=m(s.start), stop=m(s.stop), into=m(s.into), up=m(s.up)) for s in p.scoops),
            )
            for p in detail.plates
        ),
        bolts=tuple(replace(b, points=tuple(m(p) for p in b.points), axis=m(b.axis), load=m(b.load)) for b in detail.bolts),
        welds=tuple(_weld_image(w, m) for w in detail.welds),
        plugs=tuple(replace(p, frame=p.frame.mirrored_y()) for p in detail.plugs),
        rods=tuple(replace(r, y=-r.y, turn=-r.turn, hook=-r.hook) for r in detail.rods),
        blocks=tuple(replace(b, outline=b.outline.mirrored_y(), frame=b.frame.mirrored_y()) for b in detail.blocks),
        ties=tuple(replace(t, frame=t.frame.mirrored_y(), seats=tuple(m(n) for n in t.seats)) for t in detail.ties),
        bents=tuple(b.mirrored for b in detail.bents),
        zones=tuple(replace(b, outline=b.outline.mirrored_y(), frame=b.frame.mirrored_y()) for b in detail.zones),
        fittings=tuple(f.mirrored for f in detail.fittings),
        ends=tuple(replace(e, point=m(e.point), normal=m(e.normal), across=m(e.across)) for e in detail.ends),
        notches=tuple(replace(n, outline=n.outline.mirrored_y(), frame=n.frame.mirrored_y()) for n in detail.notches),
        holes=tuple(replace(h, point=m(h.point), axis=m(h.axis), along=m(h.along)) for h in detail.holes),
        dimensions=tuple(replace(d, points=tuple(m(p) for p in d.points)) for d in detail.dimensions),
        pieces=tuple(_piece_image(p) for p in detail.pieces),
        views=tuple(_view_image(v) for v in detail.views),
        switches=tuple(replace(x, at=m(x.at), towards=m(x.towards)) for x in detail.switches),
        handles=tuple(replace(h, at=m(h.at), towards=m(h.towards), pulls=tuple(replace(p, way=m(p.way)) for p in h.pulls)) for h in detail.handles),
        angles=tuple(replace(x, vertex=m(x.vertex), first=m(x.first), second=m(x.second)) for x in detail.angles),
    )  # fmt: skip


def mirrored_at(detail: Detail, there: Case) -> Detail:
    """The mirror image of a detail at the mirror image of its case; holes name the element that lies there now: a channel is turned over,
    a box's sides change."""
    out = mirrored(detail)

    def renamed(hole: MemberHole) -> MemberHole:
        own = named(Cuts((), (), (hole,)).seen_from(there.members[hole.member].frame), there.members[hole.member].shape).holes[0]
        return msgspec.structs.replace(hole, element=own.element)

    return msgspec.structs.replace(out, holes=tuple(renamed(h) for h in out.holes))


def _weld_image(w: Weld, m: Callable[[Vec3], Vec3]) -> Weld:
    """The mirror image of a weld; a square groove is run the other way, so that its second face lies where the image's does."""
    start, end = (w.end, w.start) if w.opening and w.u == w.v else (w.start, w.end)
    return msgspec.structs.replace(w, start=m(start), end=m(end), u=m(w.u), v=m(w.v))


def _view_image(v: SheetView) -> SheetView:
    """A view of the mirror image: up stays up; what was seen from in front still is, what was seen along the member too."""
    (ox, oy, oz), (x, _, z) = v.frame.origin, v.frame.rows
    o = (ox, -oy + 0.0, oz)
    if abs(z[1]) > 0.5:  # what was right is right: z = x cross y of their images
        return msgspec.structs.replace(v, frame=Frame(o, (x[0], -x[1] + 0.0, x[2]), (-z[0] + 0.0, z[1], -z[2] + 0.0)))
    clip = v.clip and (-v.clip[2], v.clip[1], -v.clip[0], v.clip[3])  # its x axis is turned round
    return msgspec.structs.replace(v, frame=Frame(o, (-x[0] + 0.0, x[1], -x[2] + 0.0), (z[0], -z[1] + 0.0, z[2])), clip=clip)


def _piece_image(p: Piece) -> Piece:
    """The mirror image of a piece: the same section, laid so that its steel is there."""
    o, x, z, low, _ = image((p.frame.origin, p.frame.x, p.frame.z, 0.0, p.length), p.shape)
    frame = Frame(o, x, z).moved(x=low)
    cuts = cuts_image(in_outer(p.cuts, p.frame)).seen_from(frame)
    return msgspec.structs.replace(p, frame=frame, cuts=named(cuts, p.shape))
