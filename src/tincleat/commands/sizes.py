"""The command that reads a typical's sizes from a table: a row a size of the member that is joined."""

from pathlib import Path
from typing import cast, get_args

import msgspec

from tincleat.commands.registry import command
from tincleat.commands.schedules import setting_names
from tincleat.commands.typicals import found, size_row, uses
from tincleat.errors import BadFile, BadValue
from tincleat.families.declare import Family
from tincleat.families.registry import family
from tincleat.files import read_rows
from tincleat.ledger.ledger import Ledger
from tincleat.project.entities import Delta, Units
from tincleat.project.project import Project

MOST_CSV = 2_000_000  # bytes
MOST_SIZES = 500
RIGHT = "a CSV file headed section, depth and settings, with a row a size"
UNITS = get_args(Units)
WHICH = {"units": "units", "unit": "units", "section": "section", "size": "section", "depth": "depth", "up to depth": "depth", "up to": "depth"}


class LoadSizes(msgspec.Struct, forbid_unknown_fields=True):
    """A typical by id or name, and a CSV file with a row a size."""

    typical: str
    path: str


@command("load-sizes", "Load a typical's sizes from CSV", LoadSizes, ("size table", "settings by size", "by section"), needs_joints=True)
def load_sizes(project: Project, ledger: Ledger, args: LoadSizes) -> tuple[str, list[Delta]]:
    """Read the sizes of a typical, in place of those it has: columns ``section`` or ``depth`` (up to), settings of its family by name or
    label, and ``units`` of the row's lengths if they are not the project's; an empty cell leaves a setting as the typical has it.  What is
    joined by it follows."""
    old, path = found(project, args.typical), Path(args.path)
    kind = family(old.family)
    table = read_rows(path, MOST_CSV, RIGHT)
    if len(table) < 2:
        raise BadFile("it holds no rows", str(path), RIGHT)
    if len(table) - 1 > MOST_SIZES:
        raise BadFile(f"it holds {len(table) - 1} rows", str(path), f"at most {MOST_SIZES}")
    columns = _columns(kind, table[0], path.name)
    sizes = []
    for number, cells in enumerate(table[1:], 2):
        where = f"{path.name}, row {number}"
        if any(c.strip() for c in cells[len(columns) :]):
            raise BadValue(f"it has {len(cells)} cells under {len(columns)} heads", where, "a head for every cell")
        row = {n: c.strip() for n, c in zip(columns, cells, strict=False) if c.strip()}
        units = row.pop("units", None)
        if units is not None and units not in UNITS:
            raise BadValue(f"{units!r} is no unit of length", where, "one of " + ", ".join(UNITS))
        sizes.append(size_row(project, old.family, row, where, cast(Units | None, units)))
    made = msgspec.structs.replace(old, sizes=tuple(sizes))
    count = len(uses(project, old.id))
    followed = f"; {count} that use it follow" if count else ""
    return f"Load {len(sizes)} size{'s' if len(sizes) > 1 else ''} of typical {old.name}{followed}", project.put(made)


def _columns(kind: Family, head: list[str], where: str) -> list[str]:
    """What each column holds: ``section``, ``depth``, or a setting's name."""
    names = {n: s for n, s in setting_names(kind).items() if not kind.alone(s)} | WHICH
    out: list[str] = []
    for cell in head:
        name = names.get(cell.strip().lower())
        if name is None:
            raise BadValue(f"no setting of {kind.label} is called {cell.strip()[:40]!r}", f"{where}, head", "section, depth, or " + ", ".join(s.name for s in kind.settings if not kind.alone(s.name)))
        if name in out:
            raise BadValue(f"{cell.strip()!r} heads a second column for {name}", f"{where}, head", "each once")
        out.append(name)
    return out
