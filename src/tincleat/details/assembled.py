"""A detail put together with its members: the plies bolts really pass, true grips and lengths, bodies for drawing."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely
from shapely.geometry import Polygon

from tincleat.catalogue.fasteners import BoltSize, anchor_size, bolt_size, hole_size
from tincleat.catalogue.sections import Element, Section
from tincleat.details.fittings import Fork
from tincleat.details.parts import HOOK, Bolts, Detail, Hole, Plate, Rod, Tie, trimmed_at
from tincleat.details.plates import flat_body
from tincleat.details.tapers import Taper, taper
from tincleat.geometry.frames import Array, Frame, Vec3, vec
from tincleat.geometry.mesh import Mesh, cut, cylinder, hexagon, joined, prism, square_bar, stretched, trimmed
from tincleat.geometry.outline import Outline
from tincleat.geometry.tolerances import ON_FACE
from tincleat.joints.case import Case
from tincleat.lazy import lazy
from tincleat.steel.body import element_polygon, steel_mesh
from tincleat.steel.cuts import FLAT, Cuts, MemberHole
from tincleat.steel.flattened import flat_frame, flat_ply, flats_of

WORDS = {"supported": "supported member", "support": "supporting member", "supported-2": "second supported member"}


def role_words(role: str) -> str:
    """What findings and welds call a member of a case: by what it does there."""
    return WORDS.get(role, role.replace("-", " "))


@dataclass(frozen=True, eq=False)
class Ply:
    """A flat thickness of steel: ``polygon`` is its true outline (no holes) in the frame's x-y plane, material from z = 0 to ``thickness``.

    ``held`` are heights y at which the ply runs into another plate of its section, ``beyond`` stations x where it goes on out of
    sight: neither is a free edge.
    """

    owner: str
    element: str
    frame: Frame
    polygon: Polygon
    thickness: float
    holes: tuple[Hole, ...]
    member: int = -1
    held: tuple[float, ...] = ()
    beyond: tuple[float, ...] = ()
    bevelled: Plate | None = None
    timber: bool = False  # no steel: other rules hold for its edges
    sheet: bool = False  # cold-formed, and galvanized: EN 1993-1-3 8.3 and AISI S100 J3 set no greatest distances for its bolts
    stem: float | None = None  # height y along which another plate of its section stands on it

    @lazy
    def bounds(self) -> tuple[float, float, float, float]:
        """Least x and y and greatest x and y of its outline, mm."""
        u0, v0, u1, v1 = self.polygon.bounds
        return (u0, v0, u1, v1)

    @lazy
    def plain(self) -> bool:
        """Whether its outline is a rectangle along its frame's axes."""
        u0, v0, u1, v1 = self.bounds
        return abs(self.polygon.area - (u1 - u0) * (v1 - v0)) < 1e-9 * (u1 - u0) * (v1 - v0)

    @lazy
    def box(self) -> tuple[Array, Array]:
        """Least and greatest corner (3,) in the frame that its own lies in, mm."""
        u0, v0, u1, v1 = self.bounds
        corners = self.frame.to_world([(u, v, w) for u in (u0, u1) for v in (v0, v1) for w in (0.0, self.thickness)])
        return corners.min(axis=0), corners.max(axis=0)

    @lazy
    def edges(self) -> tuple[Array, Array, "np.ndarray"]:
        """Start and stop points (m, 2) of the outline's sides, and which of them (m,) are free edges."""
        rings = [np.asarray(r.coords)[:, :2] for r in (self.polygon.exterior, *self.polygon.interiors)]
        a, b = (np.concatenate([r[part] for r in rings]) for part in (slice(None, -1), slice(1, None)))
        free = np.ones(len(a), dtype=bool)
        for axis, values in ((1, self.held), (0, self.beyond)):
            for value in values:
                free &= ~((np.abs(a[:, axis] - value) < ON_FACE) & (np.abs(b[:, axis] - value) < ON_FACE))
        return a, b, free

    def nearest_holes(self, points: Array) -> "list[Hole | None]":
        """The hole that each of some points (n, 2) of its plane lies in, or none."""
        if not self.holes:
            return [None] * len(points)
        at, reach = self._holes_at
        far = np.hypot(points[:, None, 0] - at[:, 0], points[:, None, 1] - at[:, 1])
        nearest = far.argmin(axis=1)
        return [self.holes[k] if near else None for k, near in zip(nearest.tolist(), (far.min(axis=1) <= reach[nearest]).tolist(), strict=True)]

    @lazy
    def _holes_at(self) -> tuple[Array, Array]:
        return np.array([(h.x, h.y) for h in self.holes]), np.array([max(h.width, h.length) / 2 for h in self.holes])

    @property
    def name(self) -> str:
        """Words for findings: the plate's name, or the member and its element."""
        return f"{self.owner} {self.element}".strip()


@dataclass(frozen=True)
class Passing:
    """One bolt through one ply: the ply's number, entry and exit along the bolt (mm), the bolt's place in the ply, its hole (or None)."""

    ply: int
    enter: float
    leave: float
    at: tuple[float, float]
    hole: Hole | None


@dataclass(frozen=True)
class Fitted:
    """One bolt as it really sits: plies in order, grip from outer face to outer face (of taper washers, where flanges slope under it), gaps
    between plies, chosen length; mm along the axis."""

    group: int
    number: int
    point: Vec3
    plies: tuple[Passing, ...]
    enter: float
    grip: float
    gap: float
    length: float
    tapers: tuple[Taper, ...] = ()


class Assembled:
    """A detail at its case, worked out once: give it to the checks, the sheet and the exporters."""

    def __init__(self, case: Case, detail: Detail, rules: str, stock: tuple[float, ...] = ()) -> None:
        """``rules`` names the rule set that hole sizes are read from, ``stock`` are lengths of bolts that there are, mm; none: the usual ones."""
        self.case, self.detail, self.rules, self.stock = case, detail, rules, stock

    def cuts(self, number: int) -> Cuts:
        """Cuts of member ``number`` in its own frame: its own, and those of this detail."""
        member = self.case.members[number]
        return member.cuts + self.detail.cuts_of(number).seen_from(member.frame)

    @lazy
    def plies(self) -> tuple[Ply, ...]:
        """All plates of the detail, the legs of its bent ones, cheeks of forks and its pieces, then all elements of the members."""
        out = [Ply(p.name, "", p.frame, p.middle, p.thickness, p.holes, bevelled=p if p.trims else None) for p in self.detail.plates]
        for bent in self.detail.bents:
            out += [
                Ply(p.name, f"leg {i}", p.frame, p.middle, p.thickness, p.holes, beyond=((0.0,) if i > 1 else ()) + ((p.outline.bounds[2],) if i < len(bent.flats) else ()))
                for i, p in enumerate(bent.legs, 1)
            ]
        for f in self.detail.fittings:
            if isinstance(f, Fork):
                out += [Ply(f.name, f"cheek {i}", at, flat.polygon(), f.cheek, (f.pin_hole,), beyond=(f.slot,)) for i, (at, flat) in enumerate(f.cheeks, 1)]
        for piece in self.detail.pieces:
            out += _plies_of(piece.shape, piece.frame, piece.cuts, 0.0, piece.length, piece.name, -1, ())
        for number, member in enumerate(self.case.members):
            cuts = self.cuts(number)
            beyond = tuple(x for x, sign in ((member.low, 1.0), (member.high, -1.0)) if not any(e.normal[0] * sign > 0 for e in cuts.ends))
            out += _plies_of(member.shape, member.frame, cuts, member.low, member.high, role_words(member.role), number, beyond)
        return tuple(out)

    @lazy
    def standing(self) -> tuple[Ply, ...]:
        """Plates of other connections nearby, holes left out: what parts of this detail may be welded to."""
        return tuple(Ply(s.name, "", s.frame, s.outline.polygon(), s.thickness, ()) for s in self.case.context)

    @lazy
    def fitted(self) -> tuple[Fitted, ...]:
        """Every bolt with the plies its axis really passes."""
        out: list[Fitted] = []
        groups = self.detail.bolts
        every = [(p, group.axis) for group in groups for p in group.points]
        passed = iter(self.through(*np.array(every).swapaxes(0, 1)) if every else ())
        for g, group in enumerate(groups):
            size = bolt_size(group.size)
            for i, through in zip(range(len(group.points)), passed, strict=False):
                if group.through:
                    through = [p for p in through if ("" if self.plies[p.ply].member >= 0 else self.plies[p.ply].owner) in group.through]
                through = _near_cluster(sorted(through, key=lambda p: p.enter), size)
                tapers = self._tapers(group, group.points[i], through, size)
                enter = next((t.seat for t in tapers if not t.under_nut), through[0].enter if through else 0.0)
                grip = next((t.seat for t in tapers if t.under_nut), through[-1].leave) - enter if through else 0.0
                if through:  # on a face that is not quite square to it a head bears on one side
                    lies = (group.head != "countersunk", group.nut)
                    turned = [self._askew(through[k], group, size) if lies[nut] and not any(t.under_nut == nut for t in tapers) else 0.0 for k, nut in ((0, False), (-1, True))]
                    enter, grip = enter - turned[0], grip + sum(turned)
                gaps = [b.enter - a.leave if abs(b.enter - a.leave) > 1e-9 else 0.0 for a, b in zip(through, through[1:], strict=False)]
                length = group.length or (size.stocked_length(grip, group.washers, self.stock) if group.nut or not through else self._screwed(group, through, size))
                out.append(Fitted(g, i, group.points[i], tuple(through), enter, grip, max(gaps, default=0.0), length, tapers))
        return tuple(out)

    def _askew(self, p: Passing, group: Bolts, size: BoltSize) -> float:
        """How far off a face that is not quite square to a bolt what lies on it stands at the bolt's middle, mm."""
        (a, b, c), (d, e, f) = self.plies[p.ply].frame.z, group.axis
        square = min(1.0, abs(a * d + b * e + c * f))
        wide = size.washer_d if group.washers else 2 / 3**0.5 * size.head_af
        return 0.0 if square > 1.0 - 1e-12 else wide / 2 * math.sqrt(1.0 - square * square) / square

    def _screwed(self, group: Bolts, through: "list[Passing]", size: BoltSize) -> float:
        """The least stocked length of a bolt that is screwed as deep into its last ply as it is thick, mm."""
        over = 0.0 if group.head == "countersunk" else group.washers * size.washer_t
        return size.least_stocked(over + through[-1].enter - through[0].enter + size.d, self.stock)

    def _tapers(self, group: Bolts, point: Vec3, through: "list[Passing]", size: BoltSize) -> tuple[Taper, ...]:
        """The taper washers of one bolt: under its head, under its nut."""
        out = []
        for p, face, under_nut in ((through[0], through[0].enter, False), (through[-1], through[-1].leave, True)) if through else ():
            ply = self.plies[p.ply]
            member = self.case.members[ply.member] if ply.member >= 0 else None
            if member is not None and member.shape.slope:
                element = next(e for e in member.shape.elements if e.name == ply.element)
                out.append(taper(member.shape, element, member.frame, frame_at(group, point), face, under_nut, size))
        return tuple(t for t in out if t is not None)

    @lazy
    def tied(self) -> tuple[tuple[Passing, ...], ...]:
        """Of every tie the plies its bar passes, in order along it."""
        out = []
        for tie in self.detail.ties:
            (through,) = self.through(np.array([tie.frame.origin]), np.array(tie.frame.x))
            out.append(tuple(sorted((p for p in through if p.leave > 1e-6 and p.enter < tie.length - 1e-6), key=lambda p: p.enter)))
        return tuple(out)

    @lazy
    def anchored(self) -> tuple[tuple[Passing, ...], ...]:
        """Of every anchor rod the plies its bar passes."""
        rods = self.detail.rods
        found = self.through(np.array([(r.x, r.y, 0.0) for r in rods]).reshape(-1, 3), np.array((0.0, 0.0, 1.0)))
        return tuple(tuple(p for p in some if p.leave > r.bottom and p.enter < r.top) for r, some in zip(rods, found, strict=True))

    def through(self, points: Array, axes: Array) -> list[list[Passing]]:
        """The plies that lines through points (n, 3) along axes (n, 3), or one axis (3,) for all, pass, by point, in the plies' order."""
        passing: list[list[Passing]] = [[] for _ in points]
        if not self.plies or not len(points):
            return passing
        origins, turns, thick, bounds = self._places
        # plies by rows, lines by columns
        local = (points - origins[:, None]) @ turns
        way = np.broadcast_to(axes, points.shape) @ turns
        square = np.abs(way[:, :, 2]) >= 0.7
        rise = np.where(square, way[:, :, 2], 1.0)
        t0, t1 = -local[:, :, 2] / rise, (thick[:, None] - local[:, :, 2]) / rise
        middle = local[:, :, :2] + way[:, :, :2] * ((t0 + t1) / 2)[:, :, None]
        inside = square & (middle > bounds[:, None, :2]).all(axis=2) & (middle < bounds[:, None, 2:]).all(axis=2)
        enter, leave = np.minimum(t0, t1), np.maximum(t0, t1)
        for number in np.flatnonzero(inside.any(axis=1)).tolist():
            ply, rows = self.plies[number], np.flatnonzero(inside[number])
            at = middle[number, rows]
            if not ply.plain:
                kept = shapely.contains_xy(ply.polygon, at[:, 0], at[:, 1])
                rows, at = rows[kept], at[kept]
            holes = ply.nearest_holes(at)
            for i, (u, v), hole, a, b in zip(rows.tolist(), at.tolist(), holes, enter[number, rows].tolist(), leave[number, rows].tolist(), strict=True):
                passing[i].append(Passing(number, a, b, (u, v), hole))
        return passing

    @lazy
    def _places(self) -> tuple[Array, Array, Array, Array]:
        """Of all plies: origins (k, 3), turns (k, 3, 3) into their frames, thicknesses (k,) and bounds (k, 4)."""
        return (
            np.array([p.frame.origin for p in self.plies]), np.array([p.frame.axes for p in self.plies]).transpose(0, 2, 1), np.array([p.thickness for p in self.plies]),
            np.array([p.bounds for p in self.plies]),
        )  # fmt: skip

    def member_mesh(self, number: int, low: float, high: float, per_arc: int = 1) -> Mesh:
        """A stretch of a member with its cuts, in the joint frame."""
        member = self.case.members[number]
        return steel_mesh(member.shape, self.cuts(number), low, high, per_arc).placed(member.frame)

    def hole_for(self, group: Bolts) -> tuple[float, float]:
        """Width and length of the normal hole for a group's bolts in the rule set in use, mm."""
        return hole_size(self.rules, group.size, "normal")


def _near_cluster(through: "list[Passing]", size: BoltSize) -> "list[Passing]":
    """The plies that belong together: those chained by gaps up to one and a quarter bolt diameters; of several chains the one that the
    bolt's declared point (0 along it) lies in, if it joins anything, else the largest.

    What a bolt's line meets further off, such as the flange a gusset stands between, is none of its plies.
    """
    chains: list[list[Passing]] = []
    for p in through:
        if chains and p.enter - chains[-1][-1].leave <= 1.25 * size.d:
            chains[-1].append(p)
        else:
            chains.append([p])
    return max(chains, key=lambda c: (len(c) > 1 and c[0].enter - ON_FACE <= 0.0 <= c[-1].leave + ON_FACE, len(c)), default=[])


@lru_cache(maxsize=4096)
def _plies_of(shape: Section, frame: Frame, cuts: Cuts, low: float, high: float, owner: str, number: int, beyond: tuple[float, ...]) -> tuple[Ply, ...]:
    """The elements of a section's body with its cuts (in ``frame``); most changes of a detail leave its members as they are."""
    out = []
    for element in shape.elements:
        polygon = element_polygon(element, cuts, low, high)
        at = element_frame(frame, element)
        inner = frame.inside(at)
        holes = tuple(_hole_in(inner, h) for h in cuts.holes if h.element == element.name)
        out.append(Ply(owner, element.name, at, polygon, element.thickness, holes, number, _held(shape, element), beyond, stem=0.0 if element.normal == "z" and shape.shape in ("I", "T") else None, timber=shape.timber, sheet=shape.shape in ("Z", "CF")))
    for end in flats_of(cuts):
        at = frame.at(flat_frame(end, shape))
        inner = frame.inside(at)
        out.append(Ply(owner, FLAT, at, flat_ply(end, shape), 2 * shape.tw, tuple(_hole_in(inner, h) for h in cuts.holes if h.element == FLAT), number, beyond=(end.flat,)))
    return tuple(out)


def _hole_in(frame: Frame, hole: MemberHole) -> Hole:
    at, along = frame.to_local(np.array([hole.point]))[0], frame.unturn(hole.along)
    return Hole(float(at[0]), float(at[1]), hole.width, hole.length, float(np.arctan2(along[1], along[0])), hole.kind, hole.sink, hole.sink_angle, float(frame.unturn(hole.axis)[2]) < 0)


def _held(shape: Section, element: Element) -> tuple[float, ...]:
    """Heights at which an element meets another one of its section, in the element's own y."""
    if element.normal == "z" and shape.shape in ("I", "T"):
        return ()
    if shape.shape == "T":
        return (element.high,)
    if shape.shape in ("L", "C") and (shape.shape == "L" or element.normal == "z"):
        return (element.low,)
    return () if shape.shape == "FL" else (element.low, element.high)


def element_frame(own: Frame, element: Element) -> Frame:
    """Frame of an element of a section that lies in ``own``: x along the bar, y across the plate, z through it, origin on the lower face."""
    if element.normal == "y":
        # x, depth, so z is -y of the bar: the origin sits on the face at +y
        frame = own.moved(y=element.at + element.thickness / 2)
        return Frame(frame.origin, frame.x, vec(-np.array(frame.y)))
    return own.moved(z=element.at - element.thickness / 2)


def bolt_frame(group: Bolts, fitted: Fitted) -> Frame:
    """Frame with z along the bolt from head to nut, origin at the bolt's declared point."""
    return frame_at(group, fitted.point)


def frame_at(group: Bolts, point: Vec3) -> Frame:
    """Frame with z along a group's bolts from head to nut, origin at one of its points."""
    at = standing_along(group.axis)
    return Frame(point, at.x, at.z)


@lru_cache(maxsize=1024)
def standing_along(axis: Vec3) -> Frame:
    """The frame at the outer one's origin that has z along an axis, x upwards as far as that goes."""
    way = np.array(axis)
    aside = np.array([0.0, 0.0, 1.0]) if abs(axis[2]) < 0.9 else np.array([1.0, 0.0, 0.0])
    return Frame.of((0.0, 0.0, 0.0), aside - way * float(aside @ way), way)


def plate_mesh(p: Plate, per_arc: int, drilled: bool) -> Mesh:
    """A plate's body in the joint frame, bevels taken off; with its holes if ``drilled``."""
    mesh = flat_body(p.outline, p.holes, p.thickness, per_arc) if drilled else prism(p.outline, (), 0.0, p.thickness, per_arc)
    for e in p.trims:
        mesh = trimmed(mesh, e.point, e.normal)
    if p.scoops:
        mesh = cut(mesh, [s.cutter(p.outline) for s in p.scoops])
    return mesh.placed(p.frame)


def tie_frame(tie: Tie) -> Frame:
    """Frame with z along a tie from its start, origin there."""
    return Frame(tie.frame.origin, tie.frame.z, tie.frame.x)


def tie_bodies(tie: Tie) -> tuple[Mesh, tuple[Mesh, ...]]:
    """A tie's bar, and its nuts each with its washer, in the joint frame."""
    size, at = bolt_size(tie.size), tie_frame(tie)
    nuts = []
    for i, (x, way) in enumerate(tie.nuts):
        near = tie.bearing(i, size.washer_d, size.washer_t)
        far = near + way * size.nut_height
        one = hexagon(size.head_af, min(near, far), max(near, far)).placed(at)
        if abs(near - x) > 1e-6:
            back = x - way * abs(near - x) if tie.seats else x  # as far under the face as over it, and cut off there
            washer = cylinder(size.washer_d, min(back, near), max(back, near), 12).placed(at)
            if tie.seats:
                washer = trimmed(washer, tie.frame.point((x, 0.0, 0.0)), vec(tie.frame.turn(np.array(tie.seats[i]))))
            one = joined([one, washer])
        nuts.append(one)
    return cylinder(size.d, 0.0, tie.length, 12).placed(at), tuple(nuts)


def rod_mesh(rod: Rod) -> Mesh:
    """Rod with foot, nuts and plate washers, in the joint frame."""
    return _rod_mesh(rod.size, rod.bottom, rod.top, rod.foot, rod.nuts, rod.washers, rod.washer, rod.tail if rod.foot == "hooked" else None).placed(rod.stand)


@lru_cache(maxsize=4096)
def _rod_mesh(name: str, bottom: float, top: float, foot: str, nuts: tuple[float, ...], washers: tuple[float, ...], plate: tuple[float, float], tail: Frame | None) -> Mesh:
    size = anchor_size(name)
    parts = [cylinder(size.d, bottom, top, 16), *(hexagon(size.nut_af, n, n + size.nut_height) for n in nuts)]
    washer = _plate_washer(plate[0] / 2, size.d + 2)
    parts += [stretched(washer, 1.0, w, w + plate[1]) for w in washers]
    if foot == "headed":
        parts.append(hexagon(size.nut_af, bottom, bottom + size.nut_height))
    elif foot == "plate":
        parts.append(square_bar(3.5 * size.d, bottom - size.d / 2, bottom))
    if tail is not None:
        parts.append(cylinder(size.d, 0.0, HOOK * size.d, 16).placed(tail))
    return joined(parts)


@lru_cache(maxsize=64)
def _plate_washer(half: float, hole: float) -> Mesh:
    return prism(Outline.rectangle(-half, -half, half, half), (Outline.circle(0, 0, hole),), 0.0, 1.0, per_arc=2)


@lru_cache(maxsize=1024)
def _slice_at(plate: Plate, height: float) -> Polygon:
    """What bevels leave of a plate at a height of its frame."""
    return trimmed_at(plate.outline.polygon(), plate.trims, height)


def gaps(plies: Sequence[Ply], points: Sequence[Array]) -> list[Array]:
    """Distances (n,) in mm from points (n, 3) to the solid of their ply (0 inside or on it), for several plies at once; holes ignored."""
    if not plies:
        return []
    counts = [len(p) for p in points]
    of = np.repeat(np.arange(len(plies)), counts)
    every = np.concatenate(points)
    axes, origins = np.array([p.frame.axes for p in plies]), np.array([p.frame.origin for p in plies])
    local = np.einsum("nij,nj->ni", axes[of], every - origins[of])
    thick = np.array([p.thickness for p in plies])[of]
    z = np.maximum(np.maximum(-local[:, 2], local[:, 2] - thick), 0.0)
    # most are rectangles
    low, high = (np.array([p.bounds[k : k + 2] for p in plies])[of] for k in (0, 2))
    aside = np.maximum(np.maximum(low - local[:, :2], local[:, :2] - high), 0.0)
    flat = np.hypot(aside[:, 0], aside[:, 1])
    other = np.flatnonzero(np.array([not p.plain and p.bevelled is None for p in plies])[of])
    if len(other):
        flat[other] = shapely.distance(np.array([p.polygon for p in plies])[of[other]], shapely.points(local[other, :2]))
    first = 0
    for ply, count in zip(plies, counts, strict=True):
        if ply.bevelled is not None:  # its edge lies elsewhere on each face
            rows = slice(first, first + count)
            heights, which = np.unique(np.clip(local[rows, 2], 0.0, ply.thickness).round(6), return_inverse=True)
            slices = np.array([_slice_at(ply.bevelled, h) for h in heights.tolist()])
            flat[rows] = shapely.distance(slices[which], shapely.points(local[rows, :2]))
        first += count
    far = np.hypot(z, flat)
    far[far <= ON_FACE] = 0.0
    out, first = [], 0
    for count in counts:
        out.append(far[first : first + count])
        first += count
    return out
