"""Commands for bodies that are not steel: pads, walls, slabs, stairs, timber.  They are shown, and locked until unlocked."""

import math
from collections.abc import Callable

import msgspec
import numpy as np
from shapely.geometry import Polygon, box

from tincleat.commands.frame import Length, point_of, to_mm
from tincleat.commands.registry import command
from tincleat.errors import BadValue, NotFound, Refused, TinCleatError
from tincleat.geometry.frames import Frame, unit, vec
from tincleat.geometry.mesh import Mesh
from tincleat.geometry.solids import Spot, box_bar, stair, upright, wall
from tincleat.ledger.ledger import Ledger
from tincleat.project.entities import Delta, Reference
from tincleat.project.members import default_axes
from tincleat.project.places import box_of, crossing, elevation
from tincleat.project.project import Project

Place = str | tuple[Length, Length]
MOST_RISE = 190.0  # mm of a riser when the number of steps is worked out
MOST_STEPS, MOST_PLACES = 500, 2000


def _spot(project: Project, value: Place, label: str) -> Spot:
    """A plan point, mm: a crossing such as ``B3``, or two lengths."""
    try:
        if isinstance(value, str):
            return crossing(project, value)
        return (to_mm(value[0], project.house, "x"), to_mm(value[1], project.house, "y"))
    except TinCleatError as error:
        raise error.at(label) from None


def _size(project: Project, value: Length, label: str) -> float:
    out = to_mm(value, project.house, label)
    if out < 1.0:
        raise BadValue(f"{value!r} is no size", label, "at least 1 mm")
    return out


def _height(project: Project, value: Length, label: str) -> float:
    try:
        return to_mm(elevation(project, value), project.house, label)
    except TinCleatError as error:
        raise error.at(label) from None


def _body(project: Project, kind: str, name: str, mesh: Mesh) -> Reference:
    key = project.new_id("b")
    points = tuple((float(x), float(y), float(z)) for x, y, z in mesh.points.round(4).tolist())
    return Reference(key, name or f"{kind} {key}", kind, "", points, tuple((a, b, c) for a, b, c in mesh.triangles.tolist()))


def _plans(project: Project, at: "list[Place]", label: str) -> list[Spot]:
    """Plan points of crossings and pairs; ``A1:C4`` is every crossing in that box."""
    out: dict[Spot, None] = {}
    _few(at, label)
    for value in at:
        first, colon, last = value.partition(":") if isinstance(value, str) else ("", "", "")
        if colon and first not in {n for g in project.grids.values() for n in (g.id, g.name)}:
            out |= dict.fromkeys(box_of(project, first, last))
        else:
            out[_spot(project, value, label)] = None
    if not out:
        raise BadValue("no place is given", label, "crossings such as A1, A1:C4 for a box, or pairs of lengths")
    return list(out)


class AddPads(msgspec.Struct, forbid_unknown_fields=True):
    """Pads centred at crossings or plan points; ``top`` is a level or an elevation."""

    at: list[Place]
    length: Length
    width: Length
    depth: Length
    top: Length = 0.0
    angle_deg: float = 0.0
    name: str = ""


@command("add-pads", "Add concrete pads", AddPads, ("footing", "foundation", "concrete", "reference"))
def add_pads(project: Project, ledger: Ledger, args: AddPads) -> tuple[str, list[Delta]]:
    """Lay a concrete pad at every place named."""
    a, b = _size(project, args.length, "length") / 2, _size(project, args.width, "width") / 2
    top = _height(project, args.top, "top")
    low = top - _size(project, args.depth, "depth")
    turn = math.radians(args.angle_deg)
    corners = np.array([(-a, -b), (a, -b), (a, b), (-a, b)]) @ np.array([(math.cos(turn), math.sin(turn)), (-math.sin(turn), math.cos(turn))])
    made = [_body(project, "pad", args.name, upright(Polygon(corners + np.array(at)), low, top)) for at in _plans(project, args.at, "add-pads")]
    return f"Add {len(made)} pad{'s' if len(made) != 1 else ''}", project.put(*made)


class AddWall(msgspec.Struct, forbid_unknown_fields=True):
    """A wall along crossings or plan points, centred on their line."""

    through: list[Place]
    thickness: Length
    base: Length
    height: Length
    name: str = ""


@command("add-wall", "Add a wall", AddWall, ("concrete", "masonry", "reference"))
def add_wall(project: Project, ledger: Ledger, args: AddWall) -> tuple[str, list[Delta]]:
    """Stand a wall along a line of places, mitred at its corners."""
    _few(args.through, "through")
    line = [_spot(project, p, f"place {i + 1}") for i, p in enumerate(args.through)]
    if len(line) < 2:
        raise BadValue("a wall needs two places or more", "add-wall", "such as A1, A4")
    base = _height(project, args.base, "base")
    mesh = _made(lambda: wall(line, _size(project, args.thickness, "thickness"), base, base + _size(project, args.height, "height")), "add-wall")
    return "Add a wall", project.put(_body(project, "wall", args.name, mesh))


class AddSlab(msgspec.Struct, forbid_unknown_fields=True):
    """A slab over corners in order, or over the box between two (``A1:C4``), with openings as lists of corners."""

    corners: list[Place]
    thickness: Length
    top: Length = 0.0
    openings: list[list[Place]] = []
    name: str = ""


@command("add-slab", "Add a slab", AddSlab, ("floor", "concrete", "deck", "reference"))
def add_slab(project: Project, ledger: Ledger, args: AddSlab) -> tuple[str, list[Delta]]:
    """Lay a slab with its top at a level or an elevation."""
    plan = _outline(project, args.corners, "corners")
    for i, opening in enumerate(args.openings):
        hole = _outline(project, opening, f"opening {i + 1}")
        if not plan.contains(hole):
            raise BadValue("it does not lie within the slab", f"add-slab, opening {i + 1}", "corners inside the slab's outline")
        plan = plan.difference(hole)
    top = _height(project, args.top, "top")
    mesh = _made(lambda: upright(plan, top - _size(project, args.thickness, "thickness"), top), "add-slab")
    return "Add a slab", project.put(_body(project, "slab", args.name, mesh))


def _few(places: "list[Place]", label: str) -> None:
    if len(places) > MOST_PLACES:
        raise BadValue(f"{len(places)} places", label, f"at most {MOST_PLACES}")


def _outline(project: Project, corners: "list[Place]", label: str) -> Polygon:
    _few(corners, label)
    if len(corners) == 1 and isinstance(corners[0], str) and ":" in corners[0]:
        spots = np.array(_plans(project, corners, label))
        return box(*spots.min(axis=0), *spots.max(axis=0))
    if len(corners) == 2:
        (x0, y0), (x1, y1) = (_spot(project, c, label) for c in corners)
        return box(min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1))
    if len(corners) < 3:
        raise BadValue("an outline needs two opposite corners, or three and more in order", label, "such as A1, C4")
    plan = Polygon([_spot(project, c, label) for c in corners])
    if not plan.is_valid or plan.area < 1.0:
        raise BadValue("its sides cross or it has no area", label, "corners in order round the outline")
    return plan


class AddStair(msgspec.Struct, forbid_unknown_fields=True):
    """A straight flight from a plan point towards another, from ``base`` to ``top``; steps are worked out if 0."""

    start: Place
    towards: Place
    base: Length
    top: Length
    width: Length
    going: Length = 270.0
    waist: Length = 150.0
    steps: int = 0
    name: str = ""


@command("add-stair", "Add a stair", AddStair, ("flight", "steps", "concrete", "reference"))
def add_stair(project: Project, ledger: Ledger, args: AddStair) -> tuple[str, list[Delta]]:
    """Lay a straight concrete flight of even steps."""
    foot, other = _spot(project, args.start, "start"), _spot(project, args.towards, "towards")
    low, high = _height(project, args.base, "base"), _height(project, args.top, "top")
    if math.dist(foot, other) < 1.0 or high - low < 1.0:
        raise BadValue("the flight leads nowhere", "add-stair", "a place to go towards, and a top over the base")
    steps = args.steps or math.ceil((high - low) / MOST_RISE)
    if not 1 <= steps <= MOST_STEPS:
        raise BadValue(f"a flight of {steps} steps", "add-stair", f"1 to {MOST_STEPS}")
    way = unit((other[0] - foot[0], other[1] - foot[1], 0.0))
    sizes = [_size(project, v, n) for n, v in (("going", args.going), ("width", args.width), ("waist", args.waist))]
    mesh = _made(lambda: stair(np.array([*foot, low]), way, high - low, steps, *sizes), "add-stair")
    return f"Add a stair of {steps} risers, {(high - low) / steps:.1f} mm each", project.put(_body(project, "stair", args.name, mesh))


class AddTimber(msgspec.Struct, forbid_unknown_fields=True):
    """Timber bars of ``width`` by ``depth`` between points (three lengths, or a crossing and a level such as ``B3 eaves``)."""

    start: tuple[Length, Length, Length] | str
    end: tuple[Length, Length, Length] | str
    width: Length
    depth: Length
    roll_deg: float = 0.0
    name: str = ""


@command("add-timber", "Add a timber member", AddTimber, ("wood", "glulam", "beam", "post", "reference"))
def add_timber(project: Project, ledger: Ledger, args: AddTimber) -> tuple[str, list[Delta]]:
    """Lay a timber bar from point to point, its depth upright unless rolled; no connection is made to it."""
    a, b = point_of(args.start, project, "start"), point_of(args.end, project, "end")
    if math.dist(a, b) < 1.0:
        raise BadValue("start and end are the same point", "add-timber", "ends at least 1 mm apart")
    x = unit(np.subtract(b, a))
    y, z = default_axes(x)
    roll = math.radians(args.roll_deg)
    frame = Frame(vec(a), vec(x), vec(z * math.cos(roll) - y * math.sin(roll)))
    mesh = box_bar(frame, math.dist(a, b), _size(project, args.width, "width"), _size(project, args.depth, "depth"))
    return "Add a timber member", project.put(_body(project, "timber", args.name, mesh))


def _made(make: Callable[[], Mesh], label: str) -> Mesh:
    try:
        return make()
    except TinCleatError as error:
        raise error.at(label) from None


class References(msgspec.Struct, forbid_unknown_fields=True):
    """Reference bodies by id, name or kind (``wall``, ``IfcWall``)."""

    ids: list[str]


class LockReferences(References):
    """Reference bodies to lock, or to unlock."""

    locked: bool = True


class MoveReferences(References):
    """Reference bodies and how far they go."""

    by: tuple[Length, Length, Length] = (0.0, 0.0, 0.0)


def _meant(project: Project, ids: list[str], label: str, free: bool) -> list[Reference]:
    """The bodies named; raises NotFound, or Refused where one is locked that must be ``free``."""
    wanted = set(ids)
    found = [b for b in project.references.values() if wanted & {b.id, b.name, b.kind}]
    if not found:
        some = ", ".join(sorted({b.kind for b in project.references.values()})[:6])
        raise NotFound(f"no reference body is called {', '.join(ids)!r}", label, f"an id, a name, or a kind such as {some}" if some else "there are none yet")
    locked = [b.name for b in found if b.locked]
    if free and locked:
        raise Refused(
            f"{len(locked)} of them {'are' if len(locked) > 1 else 'is'} locked ({', '.join(locked[:3])})",
            label,
            "unlock them first: lock-references with locked false",
        )
    return found


def _count(found: list[Reference]) -> str:
    return f"{len(found)} reference bod{'y' if len(found) == 1 else 'ies'}"


@command("lock-references", "Lock or unlock reference bodies", LockReferences, ("walls", "slabs", "other trades", "protect"))
def lock_references(project: Project, ledger: Ledger, args: LockReferences) -> tuple[str, list[Delta]]:
    """Lock bodies that are not steel, so that nothing moves or deletes them, or unlock them."""
    found = _meant(project, args.ids, "lock-references", False)
    return f"{'Lock' if args.locked else 'Unlock'} {_count(found)}", project.put(*(msgspec.structs.replace(b, locked=args.locked) for b in found))


@command("move-references", "Move reference bodies", MoveReferences, ("walls", "slabs", "shift"))
def move_references(project: Project, ledger: Ledger, args: MoveReferences) -> tuple[str, list[Delta]]:
    """Move unlocked bodies that are not steel."""
    found = _meant(project, args.ids, "move-references", True)
    x, y, z = (to_mm(v, project.house, n) for n, v in zip("xyz", args.by, strict=True))
    return f"Move {_count(found)}", project.put(*(msgspec.structs.replace(b, points=tuple((p[0] + x, p[1] + y, p[2] + z) for p in b.points)) for b in found))


@command("delete-references", "Delete reference bodies", References, ("walls", "slabs", "other trades", "remove"))
def delete_references(project: Project, ledger: Ledger, args: References) -> tuple[str, list[Delta]]:
    """Delete unlocked bodies that are not steel."""
    found = _meant(project, args.ids, "delete-references", True)
    return f"Delete {_count(found)}", [Delta("reference", b.id, b, None) for b in found]
