"""Read the shipped data files."""

import csv
from functools import cache
from importlib.resources import files


@cache
def rows(name: str) -> tuple[dict[str, str], ...]:
    """The rows of ``data/<name>.csv``, in file order; lines that start with # are remarks."""
    text = files("tincleat.catalogue").joinpath("data", *f"{name}.csv".split("/")).read_text(encoding="utf-8")
    return tuple(csv.DictReader(line for line in text.splitlines() if not line.startswith("#")))


@cache
def names(folder: str) -> tuple[str, ...]:
    """The tables in ``data/<folder>``, sorted, without their suffix."""
    place = files("tincleat.catalogue").joinpath("data", folder)
    return tuple(sorted(f"{folder}/{p.name[:-4]}" for p in place.iterdir() if p.name.endswith(".csv")))


def number(row: dict[str, str], key: str) -> float:
    """The float in a row's cell; an empty cell is 0."""
    return float(row[key]) if row[key] else 0.0
