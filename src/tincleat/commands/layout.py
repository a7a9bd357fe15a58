"""Commands that lay a frame out: grids and levels changed, columns at crossings, beams between them."""

import math

import msgspec

from tincleat.commands.frame import Length, free_name, grid_lines, member_of, to_mm
from tincleat.commands.registry import command
from tincleat.errors import BadValue, Refused, TinCleatError
from tincleat.geometry.frames import Vec3
from tincleat.ledger.ledger import Ledger
from tincleat.project.entities import Cardinal, Delta, Grid, Level, Role
from tincleat.project.places import box_of, crossing, elevation
from tincleat.project.project import Project


class ChangeGrid(msgspec.Struct, forbid_unknown_fields=True):
    """A grid and what to change of it."""

    id: str
    name: str | None = None
    x: str | None = None
    y: str | None = None
    origin: tuple[float, float, float] | None = None
    angle_deg: float | None = None
    x_labels: tuple[str, ...] | None = None
    y_labels: tuple[str, ...] | None = None


@command("change-grid", "Change a grid", ChangeGrid, ("grid lines", "axes", "bays", "rotate grid"))
def change_grid(project: Project, ledger: Ledger, args: ChangeGrid) -> tuple[str, list[Delta]]:
    """Change a grid's name, spacings, labels, origin or angle; members stay where they are."""
    old = project.find("grid", args.id)
    assert isinstance(old, Grid)
    new = msgspec.structs.replace(old, name=free_name(project, "grid", args.name, old.id) if args.name is not None else old.name, origin=args.origin or old.origin)
    if args.angle_deg is not None:
        new = msgspec.structs.replace(new, angle=math.radians(args.angle_deg))
    for axis in ("x", "y"):
        text, labels = getattr(args, axis), getattr(args, f"{axis}_labels")
        if text is None and labels is None:
            continue
        before = getattr(old, axis)
        if text is None:
            if len(labels) != len(before):
                raise BadValue(f"{len(labels)} labels for {len(before)} lines", f"grid {axis}", f"{len(before)} labels")
            if not all(n.strip() for n in labels) or len(set(labels)) < len(labels):
                raise BadValue("a label is blank or given twice", f"grid {axis}", "a label of its own for every line")
            lines = tuple(zip(labels, (at for _, at in before), strict=True))
        else:
            lines = grid_lines(project, text, labels or (), axis)
        new = msgspec.structs.replace(new, **{axis: lines})
    return f"Change grid {new.name}", project.put(new)


class Named(msgspec.Struct, forbid_unknown_fields=True):
    """Things by id or name."""

    ids: list[str]


@command("delete-grids", "Delete grids", Named, ("remove grid",))
def delete_grids(project: Project, ledger: Ledger, args: Named) -> tuple[str, list[Delta]]:
    """Delete grids; members stay."""
    return f"Delete {len(args.ids)} grid{'s' if len(args.ids) != 1 else ''}", project.drop("grid", [project.find("grid", k).id for k in args.ids])


class ChangeLevel(msgspec.Struct, forbid_unknown_fields=True):
    """A level and what to change of it."""

    id: str
    name: str | None = None
    elevation: Length | None = None


@command("change-level", "Change a level", ChangeLevel, ("elevation", "rename level"))
def change_level(project: Project, ledger: Ledger, args: ChangeLevel) -> tuple[str, list[Delta]]:
    """Change a level's name or elevation; members stay where they are."""
    old = project.find("level", args.id)
    assert isinstance(old, Level)
    high = old.elevation if args.elevation is None else to_mm(args.elevation, project.house, "elevation")
    name = old.name if args.name is None else free_name(project, "level", args.name, old.id)
    return f"Change level {name}", project.put(msgspec.structs.replace(old, name=name, elevation=high))


@command("delete-levels", "Delete levels", Named, ("remove level",))
def delete_levels(project: Project, ledger: Ledger, args: Named) -> tuple[str, list[Delta]]:
    """Delete levels; members stay."""
    return f"Delete {len(args.ids)} level{'s' if len(args.ids) != 1 else ''}", project.drop("level", [project.find("level", k).id for k in args.ids])


class AddColumns(msgspec.Struct, forbid_unknown_fields=True):
    """Columns at crossings (``B3``; ``A1:C4`` is every crossing in that box), from ``base`` to ``top`` (levels with offsets, or lengths)."""

    section: str
    at: list[str]
    base: Length
    top: Length
    role: Role = "column"
    grade: str = ""
    roll_deg: float = 0.0
    cardinal: Cardinal = "centre"


@command("add-columns", "Columns at grid crossings", AddColumns, ("column", "post", "place by grid", "crossings"))
def add_columns(project: Project, ledger: Ledger, args: AddColumns) -> tuple[str, list[Delta]]:
    """Stand columns at grid crossings, one by one or every crossing in a box, from a base to a top elevation."""
    if not args.at:
        raise BadValue("no crossing is given", "add-columns", "such as B3, or A1:C4 for a box")
    base, top = _high(project, args.base, "base"), _high(project, args.top, "top")
    if top - base < 1.0:
        raise BadValue(f"the top ({top:g}) does not lie over the base ({base:g})", "add-columns", "a top over the base")
    spots: dict[tuple[float, float], None] = {}
    for text in args.at:
        first, colon, last = text.partition(":")
        box = colon and first not in {n for g in project.grids.values() for n in (g.id, g.name)}
        spots |= dict.fromkeys(box_of(project, first, last) if box else [crossing(project, text)])
    taken = {
        (round(m.start[0], 1), round(m.start[1], 1), round(min(m.start[2], m.end[2]), 1)) for m in project.members.values() if m.role in ("column", "post")
    }
    free = [(x, y) for x, y in spots if (round(x, 1), round(y, 1), round(base, 1)) not in taken]
    if not free:
        raise Refused("every crossing named has a column at that base already", "add-columns", "other crossings or another base")
    made = [member_of(project, args.section, (x, y, base), (x, y, top), args.role, args.grade, args.roll_deg, args.cardinal) for x, y in free]
    skipped = len(spots) - len(free)
    return f"Add {len(made)} column{'s' if len(made) != 1 else ''}" + (f", {skipped} stood there already" if skipped else ""), project.put(*made)


class AddBeams(msgspec.Struct, forbid_unknown_fields=True):
    """Members through crossings: each of ``through`` is a row of places such as ``A1 B1 C1``, joined one to the next at ``level``."""

    section: str
    through: list[str]
    level: Length
    end_level: Length | None = None
    role: Role = "beam"
    grade: str = ""
    roll_deg: float = 0.0
    cardinal: Cardinal = "top"
    whole: bool = False


@command("add-beams", "Beams between grid crossings", AddBeams, ("beam", "rafter", "joist", "tie", "place by grid"))
def add_beams(project: Project, ledger: Ledger, args: AddBeams) -> tuple[str, list[Delta]]:
    """Lay beams from crossing to crossing along each row of crossings (``whole``: one beam over the row), top of steel at a level unless hung otherwise."""
    z0 = _high(project, args.level, "level")
    z1 = z0 if args.end_level is None else _high(project, args.end_level, "end level")
    made = []
    for row in args.through:
        names = row.split()
        if len(names) < 2:
            raise BadValue(f"{row!r} names fewer than two crossings", "add-beams", "such as A1 B1 C1")
        points: list[Vec3] = []
        full = [crossing(project, n) for n in names]
        run = [0.0]
        for a, b in zip(full[:-1], full[1:], strict=True):
            run.append(run[-1] + math.dist(a, b))
        for (x, y), far in zip(full, run, strict=True):
            points.append((x, y, z0 + (z1 - z0) * (far / run[-1] if run[-1] else 0.0)))
        for first, last in [(points[0], points[-1])] if args.whole else zip(points[:-1], points[1:], strict=True):
            made.append(member_of(project, args.section, first, last, args.role, args.grade, args.roll_deg, args.cardinal))
    if not made:
        raise BadValue("no row of crossings is given", "add-beams", "such as A1 B1 C1")
    return f"Add {len(made)} {args.role}{'s' if len(made) != 1 else ''}", project.put(*made)


def _high(project: Project, value: Length, label: str) -> float:
    try:
        return to_mm(elevation(project, value), project.house, label)
    except TinCleatError as error:
        raise error.at(label) from None
