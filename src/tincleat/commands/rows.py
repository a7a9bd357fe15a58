"""Connections along rows: members that lie beside each other, found among those chosen, bay by bay."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import msgspec
import numpy as np

from tincleat.commands.frame import to_mm
from tincleat.commands.picking import picked
from tincleat.commands.registry import command
from tincleat.errors import BadValue, Refused, TinCleatError
from tincleat.families.registry import family
from tincleat.geometry.frames import Array
from tincleat.joints.bracing import PARALLEL
from tincleat.ledger.ledger import Ledger
from tincleat.project.entities import Connection, Delta, Member
from tincleat.project.members import axis_frame, length
from tincleat.project.project import Project
from tincleat.units import format_length

SHORT_SPAN = 1200.0  # mm between what carries a member, under which a span gets nothing: a tail beyond the last rafter
ALIGNED = 150.0  # mm along the members within which stations are one row
SAME = 100.0  # mm within which a row is there already


class PlaceRows(msgspec.Struct, forbid_unknown_fields=True):
    """A family along the rows of some members: ``lines`` to every span between what carries them, or ``at`` distances from the first
    member's start; ``widest`` is the distance beyond which members are of different rows; bays are counted along the members from 1."""

    family: str
    members: list[str]
    lines: int = 1
    at: list[str | float] = []
    widest: str | float = 3500.0
    bays_left_out: list[int] = []
    settings: dict[str, Any] = {}


@dataclass(frozen=True)
class _Spot:
    """A place on a member for a row to pass: its station from the start, where that lies along the rows' members, and in space."""

    member: Member
    station: float
    along: float
    point: Array


@command("place-rows", "Place along rows", PlaceRows, ("sag rods", "array", "bays", "every row"), needs_joints=True)
def place_rows(project: Project, ledger: Ledger, args: PlaceRows) -> tuple[str, list[Delta]]:
    """Place a family at every row of the members chosen, in every bay but those left out; rows that are there already stay."""
    kind = family(args.family)
    if "row" not in kind.kinds:
        raise BadValue(f"{kind.label} does not go along rows", "place-rows", "a family for members beside each other, such as sag-rods")
    if not args.at and not 1 <= args.lines <= 9:
        raise BadValue(f"{args.lines} lines to a span", "place-rows", "1 to 9, or distances")
    settings = kind.checked(args.settings, project.house)
    widest = to_mm(args.widest, project.house, "widest")
    members = picked(project, ledger, args.members)
    made: list[Connection] = []
    refused, there, alone = "", 0, 0
    short: list[float] = []
    for some in _parallel(members):
        for row in _rows(ledger, some, args, [to_mm(a, project.house, "at") for a in args.at], widest, short):
            if len(row) < 2:
                alone += 1
                continue
            one = Connection("", kind.name, row[0].member.id, "start", at=round(row[0].station, 3), row=tuple(s.member.id for s in row[1:]), settings=settings)
            if _taken(project, [*project.connections.values(), *made], one):
                there += 1
                continue
            joint = ledger.site(one)
            try:
                if joint is None:
                    raise Refused("its members do not lie beside each other")
                ledger.make(joint, kind.name, settings)
            except TinCleatError as error:
                refused = refused or f"{row[0].member.name} at {format_length(row[0].station, project.house.units, mark=True)}: {error}"
                continue
            made.append(msgspec.structs.replace(one, id=project.new_id("c")))
    if not made:
        why = refused or (f"{there} are there already" if there else f"{alone} places with one member alone" if alone else "no two of them lie beside each other")
        raise Refused(f"no row for {kind.label.lower()} among {len(members)} members", "place-rows", why)
    unit = project.house.units
    tails = [f"{len(short)} spans under {format_length(SHORT_SPAN, unit, mark=True)} left out, from {format_length(min(short), unit, mark=True)}"] if short else []
    words = tails + [f"{there} there already"] * bool(there) + [f"{alone} with one member alone left out"] * bool(alone) + [f"refused, first {refused}"] * bool(refused)
    return f"{kind.placing} along {len(made)} row{'s' if len(made) > 1 else ''}" + (f" ({'; '.join(words)})" if words else ""), project.put(*made)


def _parallel(members: Sequence[Member]) -> list[list[Member]]:
    """Members in groups of one direction, either way along it."""
    groups: list[tuple[Array, list[Member]]] = []
    for m in members:
        way = np.array(axis_frame(m).x)
        for line, some in groups:
            if abs(float(line @ way)) >= PARALLEL:
                some.append(m)
                break
        else:
            groups.append((way, [m]))
    return [some for _, some in groups]


def _rows(ledger: Ledger, members: "list[Member]", args: PlaceRows, at: "list[float]", widest: float, short: list[float]) -> list[list[_Spot]]:
    """The rows of parallel members: spots at one place along them, in order across, parted where the next lies too far off; spans
    that are too short for any are added to ``short``."""
    head = axis_frame(members[0])
    way = np.array(head.x) * (1.0 if max(head.x, key=abs) > 0 else -1.0)
    under: dict[str, list[str]] = {}
    for over, below in ledger.finder.crossings():
        under.setdefault(over, []).append(below)
    spots: list[_Spot] = []
    for m in members:
        own, full = axis_frame(m), length(m)
        if at:
            first = float((head.o - own.o) @ np.array(own.x))
            sign = 1.0 if float(np.array(own.x) @ np.array(head.x)) > 0 else -1.0
            stations = [first + sign * a for a in at]
        else:
            bounds = [0.0, *(float((j.frame.o - own.o) @ np.array(own.x)) for below in under.get(m.id, ()) if (j := ledger.finder.crossing(m.id, below))), full]
            spans = [(a, b) for a, b in pairwise(sorted(bounds)) if b - a >= SHORT_SPAN]
            short += [b - a for a, b in pairwise(sorted(bounds)) if 1.0 < b - a < SHORT_SPAN]
            stations = [a + (b - a) * k / (args.lines + 1) for a, b in spans for k in range(1, args.lines + 1)]
        for s in stations:
            if 0.0 < s < full:
                point = own.o + np.array(own.x) * s
                spots.append(_Spot(m, s, float(point @ way), point))
    spots.sort(key=lambda s: s.along)
    lines: list[list[_Spot]] = []
    for spot in spots:
        if lines and spot.along - lines[-1][0].along <= ALIGNED:
            lines[-1].append(spot)
        else:
            lines.append([spot])
    bay = len(at) or args.lines
    left_out = set(args.bays_left_out)
    count = -(-len(lines) // bay)
    if wrong := sorted(b for b in left_out if not 1 <= b <= count):
        raise BadValue(f"there is no bay {wrong[0]}", "place-rows", f"1 to {count}")
    out = []
    for number, line in enumerate(lines):
        if not at and number // bay + 1 in left_out:
            continue
        far = max(line, key=lambda s: float(np.linalg.norm(s.point - line[0].point))).point - line[0].point
        line = sorted(line, key=lambda s: float(s.point @ far))
        rows = [[line[0]]]
        for a, b in pairwise(line):
            if float(np.linalg.norm(b.point - a.point)) > widest:
                rows.append([])
            rows[-1].append(b)
        out += rows
    return out


def _taken(project: Project, connections: "Sequence[Connection]", new: Connection) -> bool:
    """Whether two of a row's members have a row of the same family near the place."""
    own = axis_frame(project.members[new.member])
    point = own.o + np.array(own.x) * (new.at or 0.0)
    for c in connections:
        if c.family != new.family or not c.row or c.at is None or len(set(c.members) & set(new.members)) < 2:
            continue
        other = axis_frame(project.members[c.member])
        if abs(float((other.o + np.array(other.x) * c.at - point) @ np.array(own.x))) < SAME:
            return True
    return False
