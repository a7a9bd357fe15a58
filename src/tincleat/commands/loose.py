"""Commands for lists of loose parts: a part more, one less, one again."""

from typing import Any

import msgspec
import numpy as np

from tincleat.commands.frame import point_of
from tincleat.commands.registry import command
from tincleat.commands.shape import Point
from tincleat.errors import BadValue, NotFound, Refused, TinCleatError
from tincleat.families.declare import Family
from tincleat.families.loose.family import picked
from tincleat.families.registry import family
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.typical import under
from tincleat.project.entities import Connection, Delta, Value
from tincleat.project.project import Project
from tincleat.units import format_length, parse_spacings

REFERS = ("on", "of", "to")  # settings that name another part


def _listed(project: Project, ledger: Ledger, key: str) -> tuple[Connection, Family, dict[str, Value], dict[str, Value]]:
    """A connection that lists parts, its family, its typed settings with its first part told, and those with what its typical gives under
    them; raises BadValue for any other connection."""
    found = project.find("connection", key)
    assert isinstance(found, Connection)
    kind = family(found.family)
    if not kind.parts:
        raise BadValue(f"{found.id} is a {kind.label.lower()}, which lists no parts", right="a connection of loose parts")
    settings, below = dict(found.settings), under(project, ledger.entry_of(found.id).joint, found)
    if not any("/" in name for name in (*settings, *below)):
        settings["part/1"] = "plate"
    return found, kind, settings, {**below, **settings}


def parts_in(settings: dict[str, Value]) -> list[int]:
    """Numbers of the parts that some settings tell of."""
    return sorted({int(name.partition("/")[2]) for name in settings if "/" in name}) or [1]


def refers(settings: dict[str, Value], number: int) -> list[int]:
    """Numbers of the parts that lie on a part, or are welds of it or to it."""
    def named(k: int, setting: str) -> str:
        told = str(settings.get(f"{setting}/{k}", "part 1" if setting == "of" and settings.get(f"part/{k}") == "weld" else ""))
        return told.rpartition(" of ")[2]  # its back and its sides are of it too

    return [k for k in parts_in(settings) if k != number and any(named(k, s) == f"part {number}" for s in REFERS)]


def _forgotten(settings: dict[str, Value], gone: list[int]) -> dict[str, Value]:
    """Settings in which bolts that went through picked parts go through those that are left."""
    out: dict[str, Value] = {}
    for name, value in settings.items():
        if name.startswith("through/") and isinstance(value, tuple | list):
            value = tuple(n for n in value if n not in gone)
            if not value:
                continue
        out[name] = value
    return out


def _kept(project: Project, ledger: Ledger, found: Connection, settings: dict[str, Value]) -> list[Delta]:
    entry = ledger.entry_of(found.id)
    if not entry.problem:
        ledger.make(entry.joint, found.family, settings, typical=found.typical)  # refused here, before anything is changed
    return project.put(msgspec.structs.replace(found, settings=settings))


class AddPart(msgspec.Struct, forbid_unknown_fields=True):
    """A part more on a connection of loose parts: what it is, and its settings without a number."""

    connection: str
    part: str
    settings: dict[str, Any] = {}


@command("add-part", "Add a loose part", AddPart, ("plate", "piece", "bolts", "holes", "studs", "plug welds", "weld", "cut"), needs_joints=True)
def add_part(project: Project, ledger: Ledger, args: AddPart) -> tuple[str, list[Delta]]:
    """Add a plate, bent plate, piece, bolts, holes, studs, plug welds, weld or cut to a list of loose parts.

    Unless it says otherwise a weld is of the last plate or piece, bolts, holes and plug welds lie on it, and all else on the face that it lies on.
    """
    found, kind, settings, every = _listed(project, ledger, args.connection)
    there = parts_in(every)
    free = next((k for k in range(1, kind.parts + 1) if k > max(there)), None) or next((k for k in range(1, kind.parts + 1) if k not in there), None)
    if free is None:
        raise Refused(f"{found.id} has {kind.parts} parts already", right="another connection of loose parts")
    typed: dict[str, Any] = {"part": args.part, **args.settings}
    solid = [k for k in there if every.get(f"part/{k}", "plate") in ("plate", "bent plate", "piece")]
    if args.part != "weld" and "on" not in typed and solid:
        flat = args.part in ("bolts", "holes", "plug welds") and every.get(f"part/{solid[-1]}", "plate") == "plate"
        typed["on"] = f"part {solid[-1]}" if flat else every.get(f"on/{solid[-1]}", "top")
    if args.part == "weld" and "of" not in typed:
        if not solid:
            raise Refused("there is no plate or piece to weld", found.id, "a plate or piece first")
        typed["of"] = f"part {solid[-1]}"
    settings |= kind.checked({f"{name}/{free}": value for name, value in typed.items()}, project.house)
    return f"Add {settings[f'part/{free}']} {free} to {found.id}", _kept(project, ledger, found, settings)


class RemovePart(msgspec.Struct, forbid_unknown_fields=True):
    """A part to take out; ``with_all`` takes out what lies on it or is welded to it by name, too."""

    connection: str
    number: int
    with_all: bool = False


@command("remove-part", "Remove a loose part", RemovePart, ("delete part",), needs_joints=True)
def remove_part(project: Project, ledger: Ledger, args: RemovePart) -> tuple[str, list[Delta]]:
    """Take a part out of a list of loose parts; refused where others lie on it, unless they go with it."""
    found, _, settings, every = _listed(project, ledger, args.connection)
    if args.number not in parts_in(every):
        raise NotFound(f"{found.id} has no part {args.number}", right="one of " + ", ".join(map(str, parts_in(every))))
    gone = [args.number]
    for number in gone:
        gone += [k for k in refers(every, number) if k not in gone]
    if given := sorted({k for k in gone for n in every if n.endswith(f"/{k}") and n not in settings}):
        raise Refused(f"part {given[0]} is given by its typical", found.id, "leave the typical first; what it gave stays then")
    if len(gone) > 1 and not args.with_all:
        raise Refused(f"part {', '.join(map(str, gone[1:]))} lies on part {args.number}, or is a weld of it", found.id, "take those out first, or all of them together")
    left = {name: value for name, value in settings.items() if "/" not in name or int(name.partition("/")[2]) not in gone}
    if not any("/" in name for name in left):
        raise Refused("that is the last part", found.id, "delete the connection")
    return f"Remove part {', '.join(map(str, gone))} of {found.id}", _kept(project, ledger, found, _forgotten(left, gone))


class WeldBetween(msgspec.Struct, forbid_unknown_fields=True):
    """A weld among loose parts, by its number, and points of the model (x, y, z) between which it is to run, one after the other."""

    connection: str
    number: int
    points: list[Point]


@command("weld-between", "Weld between points", WeldBetween, ("along", "run", "seam", "points"), needs_joints=True)
def weld_between(project: Project, ledger: Ledger, args: WeldBetween) -> tuple[str, list[Delta]]:
    """Run a weld of loose parts between points picked in the model, on whatever face they lie, along what touches there."""
    found, kind, settings, every = _listed(project, ledger, args.connection)
    if every.get(f"part/{args.number}") != "weld":
        welds = [k for k in parts_in(every) if every.get(f"part/{k}") == "weld"]
        raise NotFound(f"{found.id} has no weld {args.number}", right="one of " + ", ".join(map(str, welds)) if welds else "a weld added first")
    if len(args.points) < 2:
        raise BadValue(f"{len(args.points)} points are too few", "weld-between", "two or more")
    joint = ledger.entry_of(found.id).joint
    points = joint.frame.to_local(np.array([point_of(p, project, f"point {i}") for i, p in enumerate(args.points, 1)])) * (1.0, -1.0 if joint.mirrored else 1.0, 1.0)
    settings |= kind.checked(picked(joint.case, every, project.house, args.number, points), project.house)
    return f"Weld {args.number} of {found.id} between points", _kept(project, ledger, found, settings)


class CopyPart(msgspec.Struct, forbid_unknown_fields=True):
    """A part to make again ``count`` times, each so far along and across from the one before, mm."""

    connection: str
    number: int
    along: float = 0.0
    across: float = 0.0
    count: int = 1


@command("copy-part", "Copy a loose part", CopyPart, ("array", "again"), needs_joints=True)
def copy_part(project: Project, ledger: Ledger, args: CopyPart) -> tuple[str, list[Delta]]:
    """Make a part again, once or in a row, with the welds that are of it alone."""
    found, kind, settings, every = _listed(project, ledger, args.connection)
    there = parts_in(every)
    if args.number not in there:
        raise NotFound(f"{found.id} has no part {args.number}", right="one of " + ", ".join(map(str, there)))
    if args.count < 1 or (not args.along and not args.across):
        raise BadValue("a copy lies somewhere else", right="at least one copy, and how far along or across")
    welds = [k for k in refers(every, args.number) if every.get(f"part/{k}") == "weld"]
    number = max(there)
    for i in range(1, args.count + 1):
        number += 1
        own = number
        new = {f"{n.partition('/')[0]}/{own}": v for n, v in every.items() if n.endswith(f"/{args.number}")}
        new.setdefault(f"part/{own}", "plate")
        for way, by in (("along", args.along), ("across", args.across)):
            if by:
                new[f"{way}/{own}"] = float(every.get(f"{way}/{args.number}", 0.0)) + by * i  # type: ignore[arg-type]
        for k in welds:
            number += 1
            new |= {f"{n.partition('/')[0]}/{number}": v for n, v in every.items() if n.endswith(f"/{k}")}
            new[f"of/{number}"] = f"part {own}"
        if number > kind.parts:
            raise Refused(f"{kind.parts} parts are the most, these would be {number}", found.id, "fewer copies, or another connection of loose parts")
        settings |= kind.checked(new, project.house)
    try:
        return f"Copy part {args.number} of {found.id} {args.count} time{'s' if args.count > 1 else ''}", _kept(project, ledger, found, settings)
    except TinCleatError as error:
        raise error.at(found.id) from None


class CopyAlong(msgspec.Struct, forbid_unknown_fields=True):
    """A connection at a station, and where else on its member it is to be: spacings from it on (``4@600``), or back where ``back`` is true."""

    connection: str
    spacings: str | list[float]
    back: bool = False


@command("copy-along", "Copy along the member", CopyAlong, ("array", "repeat", "stations", "row"), needs_joints=True)
def copy_along(project: Project, ledger: Ledger, args: CopyAlong) -> tuple[str, list[Delta]]:
    """Make a connection again at further stations of its member; refused with the station that does not suit."""
    found = project.find("connection", args.connection)
    assert isinstance(found, Connection)
    if found.at is None or found.row:
        raise BadValue(f"{found.id} hangs on no station of one member", right="a connection at a station, such as stiffeners or loose parts")
    gaps = parse_spacings(args.spacings, project.house.units) if isinstance(args.spacings, str) else tuple(args.spacings)
    if not gaps or any(g <= 0 for g in gaps):
        raise BadValue("no spacing is given", "copy-along", "such as 4@600")
    made, station = [], found.at
    for gap in gaps:
        station += -gap if args.back else gap
        one = msgspec.structs.replace(found, id="", at=round(station, 3))
        joint = ledger.site(one)
        if joint is None:
            raise NotFound(f"the member has no station {format_length(station, project.house.units, mark=True)}", found.id, "fewer or smaller spacings")
        if joint.key in ledger.entries and ledger.entries[joint.key].connection is not None:
            raise Refused("something is there already", joint.key, "other spacings")
        try:
            ledger.make(joint, found.family, found.settings, typical=found.typical)
        except TinCleatError as error:
            raise error.at(joint.key) from None
        made.append(msgspec.structs.replace(one, id=project.new_id("c")))
    return f"Copy {found.id} along {len(made)} time{'s' if len(made) > 1 else ''}", project.put(*made)
