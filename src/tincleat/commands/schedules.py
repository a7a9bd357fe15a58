"""Commands for schedules: an engineer's table of connections, a row a mark, read from CSV."""

from pathlib import Path

import msgspec

from tincleat.commands.registry import command
from tincleat.errors import BadFile, BadValue, NotFound, TinCleatError
from tincleat.families.declare import Family, check
from tincleat.families.registry import FAMILIES, family
from tincleat.files import read_rows
from tincleat.ledger.ledger import Ledger
from tincleat.project.entities import Delta, Schedule, Value
from tincleat.project.limits import shown
from tincleat.project.project import Project
from tincleat.units import parse_length

MOST_CSV = 2_000_000  # bytes
MOST_ROWS = 2000
SIDES = {"1": 1, "one": 1, "one side": 1, "one-sided": 1, "2": 2, "two": 2, "both sides": 2, "two-sided": 2}


class LoadSchedule(msgspec.Struct, forbid_unknown_fields=True):
    """A CSV file with a row a mark, and the family whose settings it gives."""

    family: str
    path: str
    name: str = ""


@command("load-schedule", "Load a schedule from CSV", LoadSchedule, ("moment schedule", "table", "marks", "connection schedule"))
def load_schedule(project: Project, ledger: Ledger, args: LoadSchedule) -> tuple[str, list[Delta]]:
    """Read a schedule: a column ``mark``; ``beam``, ``level`` (top of beam) and ``beams`` (1 or 2 sides) to tell where a row belongs; and any
    settings of the family by name or label.  A schedule of the same name is replaced, and what is joined by it follows."""
    kind, path = family(args.family), Path(args.path)
    by = kind.scheduled
    if not by:
        some = ", ".join(f.name for f in FAMILIES.values() if f.scheduled)
        raise BadValue(f"{kind.label} takes no schedule", "load-schedule", f"one of {some}")
    table = read_rows(path, MOST_CSV, "a CSV file with a head line")
    if len(table) < 2:
        raise BadFile("it holds no rows", str(path), "a head line with mark and settings, and a row a mark")
    if len(table) - 1 > MOST_ROWS:
        raise BadFile(f"it holds {len(table) - 1} rows", str(path), f"at most {MOST_ROWS}")
    columns = _columns(kind, by, table[0], path.name)
    rows: dict[str, dict[str, Value]] = {}
    for number, cells in enumerate(table[1:], 2):
        where = f"{path.name}, row {number}"
        if len(cells) > len(columns) and any(c.strip() for c in cells[len(columns) :]):
            raise BadValue(f"it has {len(cells)} cells under {len(columns)} heads", where, "a head for every cell")
        mark, values = _row(project, kind, columns, cells, where)
        if mark in rows:
            raise BadValue(f"{mark!r} stands in it twice", where, "every mark once")
        rows[mark] = values
    name = args.name.strip() or path.stem
    old = next((s for s in project.schedules.values() if s.name == name and s.family == kind.name), None)
    made = Schedule(old.id if old else project.new_id("sc"), name, kind.name, tuple(rows.items()))
    return f"Load schedule {name}: {len(rows)} row{'s' if len(rows) > 1 else ''}", project.put(made)


def _columns(kind: Family, by: str, head: list[str], where: str) -> list[str]:
    """What each column holds: ``mark``, ``beam``, ``level``, ``beams``, or a setting's name."""
    names = setting_names(kind) | {"mark": "mark", by: "mark", "beam": "beam", "level": "level", "top of beam": "level", "elevation": "level", "beams": "beams", "sides of column": "beams"}
    out = []
    for cell in head:
        found = names.get(cell.strip().lower())
        if found is None:
            raise BadValue(f"no setting of {kind.label} is called {cell.strip()[:40]!r}", f"{where}, head", "mark, beam, level, beams, or " + ", ".join(s.name for s in kind.settings if s.name != by))
        if found in out:
            raise BadValue(f"{cell.strip()!r} heads two columns", f"{where}, head", "each once")
        out.append(found)
    if "mark" not in out:
        raise BadValue("no column is headed mark", f"{where}, head", "a mark for every row")
    return out


def setting_names(kind: Family) -> dict[str, str]:
    """By what a table's head may call a family's settings, in small letters, their names: name or label."""
    return {s.name: s.name for s in kind.settings} | {s.label.lower(): s.name for s in kind.settings} | {s.name.replace("_", " "): s.name for s in kind.settings}


def _row(project: Project, kind: Family, columns: list[str], cells: list[str], where: str) -> tuple[str, dict[str, Value]]:
    mark = ""
    values: dict[str, Value] = {}
    for name, cell in zip(columns, cells, strict=False):
        text = cell.strip()
        if not text:
            continue  # what a row leaves out stays as the family has it
        try:
            if name == "mark":
                mark = text
            elif name == "beam":
                values["beam"] = str(project.named(text))
            elif name == "level":
                values["level"] = parse_length(text, project.house.units)
            elif name == "beams":
                if text.lower() not in SIDES:
                    raise BadValue(f"{text!r} is no number of sides", right="1 or 2")
                values["beams"] = SIDES[text.lower()]
            else:
                values[name] = check(kind.setting(name), text, project.house)
        except TinCleatError as error:
            raise error.at(f"{where}, {name}") from None
    if not mark or len(mark) > 60 or not mark.isprintable():
        raise BadValue("it has no mark" if not mark else f"its mark {shown(mark)[:40]!r} cannot be one", where, "a mark of at most 60 letters on one line")
    return mark, values


class DeleteSchedule(msgspec.Struct, forbid_unknown_fields=True):
    """A schedule by id or name."""

    name: str


@command("delete-schedule", "Delete a schedule", DeleteSchedule, ("remove schedule",))
def delete_schedule(project: Project, ledger: Ledger, args: DeleteSchedule) -> tuple[str, list[Delta]]:
    """Take a schedule out of the project; what is joined by it goes back to typed and worked-out values."""
    found = [s for s in project.schedules.values() if args.name in (s.id, s.name)]
    if not found:
        raise NotFound(f"there is no schedule {args.name!r}", right="one of " + ", ".join(s.name for s in project.schedules.values()) if project.schedules else "there are none")
    return f"Delete schedule {found[0].name}", project.drop("schedule", [s.id for s in found])
