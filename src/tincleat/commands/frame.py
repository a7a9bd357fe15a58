"""Commands for grids, levels and members."""

import math
from collections.abc import Sequence
from typing import Any

import msgspec
import numpy as np

from tincleat.catalogue.fasteners import strengths
from tincleat.catalogue.grades import usual_grade
from tincleat.catalogue.sections import section
from tincleat.catalogue.timber import check_material, timber_grades
from tincleat.commands.picking import picked
from tincleat.commands.registry import command
from tincleat.errors import BadValue, Refused, TinCleatError
from tincleat.geometry.frames import Vec3, vec
from tincleat.ledger.carry import renumbered
from tincleat.ledger.ledger import Ledger
from tincleat.project import motion
from tincleat.project.entities import Cardinal, Connection, Delta, Grid, HouseRules, Level, Member, Role
from tincleat.project.limits import FARTHEST
from tincleat.project.members import check_member, up_of
from tincleat.project.places import place
from tincleat.project.project import Project
from tincleat.units import parse_length, parse_spacings

Length = float | str


def to_mm(value: Length, house: HouseRules, label: str) -> float:
    """A length argument in mm: numbers are mm, texts are read in the house's unit; raises BadValue naming the argument."""
    try:
        out = parse_length(value, house.units) if isinstance(value, str) else float(value)
    except BadValue as error:
        raise error.at(label) from None
    if not math.isfinite(out) or abs(out) > FARTHEST:
        raise BadValue(f"{value!r} is no length in a building", label, "within 100 km")
    return out


def free_name(project: Project, table: str, name: str, own: str = "") -> str:
    """A name for a grid or level that no other has, blanks about it taken off; raises BadValue for a blank one, Refused for a taken one."""
    name = name.strip()
    if not name:
        raise BadValue("the name is blank", f"{table} name", "a name of its own")
    if any(getattr(e, "name", "") == name and e.id != own for e in project.tables[table].values()):
        raise Refused(f"there is a {table} {name!r} already", f"{table} name", "a name of its own")
    return name


class AddGrid(msgspec.Struct, forbid_unknown_fields=True):
    """A grid by spacing lists."""

    name: str
    x: str
    y: str
    origin: tuple[float, float, float] = (0.0, 0.0, 0.0)
    angle_deg: float = 0.0
    x_labels: tuple[str, ...] = ()
    y_labels: tuple[str, ...] = ()


def grid_lines(project: Project, text: str, labels: "Sequence[str]", axis: str) -> tuple[tuple[str, float], ...]:
    """Labelled lines of a spacing list such as ``6@6000``: numbers across x, letters across y unless labels are given; raises BadValue."""
    try:
        gaps = parse_spacings(text, project.house.units)
    except BadValue as error:
        raise error.at(f"grid {axis}") from None
    if any(g <= 0 for g in gaps):
        raise BadValue("a spacing is not positive", f"grid {axis}", "for example 6@6000")
    if not gaps and len(labels) != 1:
        raise BadValue("no spacing is given", f"grid {axis}", "such as 6@6000; for one line alone give its label")
    offsets = [0.0, *np.cumsum(gaps).tolist()]
    names = list(labels) or [_letters(i) if axis == "y" else str(i + 1) for i in range(len(offsets))]
    if len(names) != len(offsets):
        raise BadValue(f"{len(names)} labels for {len(offsets)} lines", f"grid {axis}", f"{len(offsets)} labels")
    if not all(n.strip() for n in names):
        raise BadValue("a line's label is blank", f"grid {axis}", "a label for every line")
    if len(set(names)) < len(names):
        raise BadValue("two lines have one label", f"grid {axis}", "a label of its own for every line")
    return tuple(zip(names, offsets, strict=True))


def _letters(i: int) -> str:
    """A, B, … Z, AA, AB, …"""
    return (_letters(i // 26 - 1) if i >= 26 else "") + chr(65 + i % 26)


@command("add-grid", "Add a grid", AddGrid, ("grid lines", "axes"))
def add_grid(project: Project, ledger: Ledger, args: AddGrid) -> tuple[str, list[Delta]]:
    """Add a grid: x and y are spacing lists such as 6@6000; lines are labelled 1, 2, … and A, B, … unless labels are given."""

    grid = Grid(
        project.new_id("g"),
        free_name(project, "grid", args.name),
        args.origin,
        math.radians(args.angle_deg),
        grid_lines(project, args.x, args.x_labels, "x"),
        grid_lines(project, args.y, args.y_labels, "y"),
    )
    return f"Add grid {args.name}", project.put(grid)


class AddLevel(msgspec.Struct, forbid_unknown_fields=True):
    """A level."""

    name: str
    elevation: Length


@command("add-level", "Add a level", AddLevel, ("elevation", "floor"))
def add_level(project: Project, ledger: Ledger, args: AddLevel) -> tuple[str, list[Delta]]:
    """Add a named elevation."""
    name = free_name(project, "level", args.name)
    return f"Add level {name}", project.put(Level(project.new_id("l"), name, to_mm(args.elevation, project.house, "elevation")))


class NewMember(msgspec.Struct, forbid_unknown_fields=True):
    """A member to add; lengths in mm, or texts in the project's unit; the roll in degrees."""

    section: str
    start: tuple[Length, Length, Length] | str
    end: tuple[Length, Length, Length] | str
    role: Role = "beam"
    grade: str = ""
    name: str = ""
    roll_deg: float = 0.0
    cardinal: Cardinal = "centre"
    offset: tuple[float, float] = (0.0, 0.0)


class AddMembers(msgspec.Struct, forbid_unknown_fields=True):
    """Members to add together."""

    members: list[NewMember]


def point_of(values: tuple[Length, Length, Length] | str, project: Project, label: str) -> Vec3:
    """A point argument in mm: three lengths, or a grid crossing and an elevation such as ``B3 eaves``; raises naming what is wrong."""
    if isinstance(values, str):
        try:
            return place(project, values)
        except TinCleatError as error:
            raise error.at(label) from None
    return vec([to_mm(v, project.house, f"{label} {axis}") for v, axis in zip(values, "xyz", strict=True)])


def member_of(
    project: Project, name: str, start: Vec3, end: Vec3, role: Role = "beam", grade: str = "", roll_deg: float = 0.0, cardinal: Cardinal = "centre",
    offset: tuple[float, float] = (0.0, 0.0), label: str = "", run: str = "",
) -> Member:  # fmt: skip
    """A new member with a fresh id, checked; the grade follows the section's standard if not given; raises NotFound, BadValue."""
    shape = project.section(name)
    grade = grade or usual_grade(shape)
    check_material(shape, grade)
    if not shape.timber:
        strengths("grades", grade)
    key = project.new_id("m")
    return check_member(Member(key, label or key.upper(), role, project.named(name), grade, start, end, math.radians(roll_deg), cardinal, offset, run=run, up=up_of(role)))


def _made(args: NewMember, project: Project) -> Member:
    start, end = point_of(args.start, project, "start"), point_of(args.end, project, "end")
    return member_of(project, args.section, start, end, args.role, args.grade, args.roll_deg, args.cardinal, args.offset, args.name)


@command("add-members", "Add members", AddMembers, ("column", "beam", "rafter", "brace", "draw"))
def add_members(project: Project, ledger: Ledger, args: AddMembers) -> tuple[str, list[Delta]]:
    """Add members, each with section, start, end, role, grade, roll and cardinal point."""
    if not args.members:
        raise BadValue("no members are given", "add-members", "a list of members")
    made = []
    for number, one in enumerate(args.members, 1):
        try:
            made.append(_made(one, project))
        except TinCleatError as error:
            raise error.at(f"member {number}") from None
    return f"Add {len(made)} member{'s' if len(made) > 1 else ''}", project.put(*made)


class ChangeMembers(msgspec.Struct, forbid_unknown_fields=True):
    """Values to change on some members."""

    ids: list[str]
    section: str | None = None
    grade: str | None = None
    role: Role | None = None
    name: str | None = None
    roll_deg: float | None = None
    cardinal: Cardinal | None = None
    start: tuple[Length, Length, Length] | str | None = None
    end: tuple[Length, Length, Length] | str | None = None


@command("change-members", "Change members", ChangeMembers, ("section", "grade", "role", "stretch"))
def change_members(project: Project, ledger: Ledger, args: ChangeMembers) -> tuple[str, list[Delta]]:
    """Change section, grade, role, name, roll, cardinal point or ends; their connections follow."""
    new = {}
    if args.section is not None:
        new["section"] = project.named(args.section)
    if args.grade is not None:
        if args.grade not in timber_grades():
            strengths("grades", args.grade)
        new["grade"] = args.grade
    if args.name is not None and not args.name.strip():
        raise BadValue("the name is blank", "change-members", "a name")
    for name in ("role", "name", "cardinal"):
        if getattr(args, name) is not None:
            new[name] = getattr(args, name)
    if args.roll_deg is not None:
        new["roll"] = math.radians(args.roll_deg)  # type: ignore[assignment]
    for name in ("start", "end"):
        if getattr(args, name) is not None:
            new[name] = point_of(getattr(args, name), project, name)  # type: ignore[assignment]
    if not new:
        raise BadValue("nothing to change is given", "change-members", "section, grade, role, name, roll_deg, cardinal, start or end")
    found = picked(project, ledger, args.ids)
    return f"Change {len(found)} member{'s' if len(found) > 1 else ''}", project.put(*(_changed(m, new) for m in found))


def _changed(m: Member, new: dict[str, Any]) -> Member:
    """A member with other values; one that becomes timber, or steel, gets the usual grade of that unless one is given."""
    out = msgspec.structs.replace(m, **new)
    shape = section(out.section)
    if "grade" not in new and shape.timber != section(m.section).timber:
        out = msgspec.structs.replace(out, grade=usual_grade(shape))
    if "grade" in new or "section" in new:
        check_material(shape, out.grade)
    return check_member(out)


class MoveMembers(msgspec.Struct, forbid_unknown_fields=True):
    """Members to move by a vector."""

    ids: list[str]
    by: tuple[Length, Length, Length]


@command("move-members", "Move members", MoveMembers, ("shift",))
def move_members(project: Project, ledger: Ledger, args: MoveMembers) -> tuple[str, list[Delta]]:
    """Move members by a vector; their connections follow."""
    shift = motion.Motion.move(point_of(args.by, project, "by"))
    moved = []
    for m in picked(project, ledger, args.ids):
        moved.append(check_member(motion.moved(m, shift)[0]))
    return f"Move {len(moved)} member{'s' if len(moved) > 1 else ''}", project.put(*moved)


class Delete(msgspec.Struct, forbid_unknown_fields=True):
    """Things to delete, by id or name."""

    ids: list[str]


@command("delete-members", "Delete members", Delete, ("remove", "erase"))
def delete_members(project: Project, ledger: Ledger, args: Delete) -> tuple[str, list[Delta]]:
    """Delete members with the connections at their ends."""
    ids = [m.id for m in picked(project, ledger, args.ids)]
    changes = project.drop("member", ids)
    for i, change in enumerate(changes):
        old, new = change.old, change.new
        if isinstance(old, Connection) and isinstance(new, Connection) and (entry := ledger.entries.get(ledger.key_of(old) or "")) is not None:
            joint = ledger.finder.site(new, {end: j for j in ledger.finder.joints([new.member]) for end in j.ends} if len(new.ends) == 1 else {})
            if joint is not None:
                changes[i] = Delta(change.table, change.id, old, msgspec.structs.replace(new, settings=renumbered(old, entry.joint, joint)))
    return f"Delete {len(ids)} member{'s' if len(ids) > 1 else ''}", changes
