"""A typical's sizes as a table: a row a size, a column a setting; what is written is read back by the command that loads sizes."""

import csv
from pathlib import Path

from tincleat.families.declare import show
from tincleat.families.registry import family
from tincleat.files import write_whole
from tincleat.project.entities import SizeRow, Typical, Units
from tincleat.units import format_length

SECTION, DEPTH, UNITS = "section", "depth", "units"


def columns(t: Typical) -> list[str]:
    """The settings that have a column: those that it or any of its sizes gives, in the family's order."""
    given = {n for row in t.sizes for n in row.settings} | set(t.settings)
    return [s.name for s in family(t.family).settings if s.name in given]


def cells(t: Typical, row: SizeRow, names: list[str], units: Units) -> list[str]:
    """A row's cells as they are shown and read: section, depth, then settings, empty where the typical's own hold."""
    kind = family(t.family)
    return [row.section, format_length(row.depth, units, mark=True) if row.depth else "", *(show(kind.setting(n), row.settings[n], units) if n in row.settings else "" for n in names)]


def write_sizes(t: Typical, units: Units, path: "str | Path") -> int:
    """Write a typical's sizes as CSV, lengths in ``units``; how many they are.  One without sizes gives a head and a row of its own
    settings to start from.  Raises :class:`BadFile`."""
    names = columns(t)
    rows = t.sizes or (SizeRow(dict(t.settings)),)

    def write(part: Path) -> None:
        with part.open("w", newline="", encoding="utf-8-sig") as file:
            out = csv.writer(file)
            out.writerow([SECTION, DEPTH, *names, UNITS])
            out.writerows([*cells(t, row, names, units), units] for row in rows)

    write_whole(path, write)
    return len(t.sizes)
