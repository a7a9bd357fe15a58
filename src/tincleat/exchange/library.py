"""Typicals as a plain JSON file, to be shared between projects and offices."""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any, get_args

import msgspec

from tincleat.errors import BadFile, TinCleatError
from tincleat.exchange.plain import read_plain, write_plain
from tincleat.families.declare import Family
from tincleat.families.registry import FAMILIES
from tincleat.project.entities import HouseRules, Role, SizeRow, Typical, Value

VERSION = 1
MOST = 4_000_000  # bytes
MOST_TYPICALS = 5000
RIGHT = "a library of typicals that this program wrote"


@dataclass(frozen=True)
class Library:
    """What a file holds: typicals without ids, and in words what of it could not be taken."""

    typicals: tuple[Typical, ...]
    left: tuple[str, ...]


def write_library(typicals: Iterable[Typical], path: "str | Path") -> int:
    """Write typicals to a JSON file, whole or not at all; how many they are.  Lengths are in mm, angles in rad.  Raises :class:`BadFile`."""
    items = [{k: v for k, v in msgspec.to_builtins(t).items() if k != "id"} for t in typicals]
    write_plain(path, {"typicals": VERSION, "units": "mm, rad", "items": items})
    return len(items)


def read_library(path: "str | Path", house: HouseRules) -> Library:
    """The typicals of a file; unknown families, settings and values are left out and told.  Raises :class:`BadFile`."""
    path = Path(path)
    found = read_plain(path, "typicals", VERSION, list, "items", MOST, RIGHT)
    if len(found["items"]) > MOST_TYPICALS:
        raise BadFile(f"it holds {len(found['items'])} typicals", str(path), f"at most {MOST_TYPICALS}")
    made: list[Typical] = []
    left: list[str] = []
    for number, item in enumerate(found["items"], 1):
        name = str(item.get("name", ""))[:60].strip() if isinstance(item, dict) else ""
        where = name if name and name.isprintable() else f"item {number}"
        kind = FAMILIES.get(str(item.get("family"))) if isinstance(item, dict) else None
        if kind is None or where != name:
            left.append(f"{where}: " + ("no family of this program" if where == name else "it has no name"))
            continue
        made.append(_typical(kind, name, item, house, left))
    return Library(tuple(made), tuple(left))


def _typical(kind: Family, name: str, item: Mapping[str, Any], house: HouseRules, left: list[str]) -> Typical:
    rows = []
    for i, row in enumerate(item.get("sizes") or (), 1):
        if not isinstance(row, dict):
            left.append(f"{name}, row {i}: it is no row")
            continue
        rows.append(SizeRow(_settings(kind, row.get("settings"), house, f"{name}, row {i}", left), str(row.get("section") or "")[:60], _depth(row.get("depth"), f"{name}, row {i}, depth", left)))
    roles = tuple(r for r in item.get("roles") or () if r in get_args(Role))
    if len(roles) < len(item.get("roles") or ()):
        left.append(f"{name}: roles that are none")
    rules: Any = item.get("rules") or ""
    if rules not in ("", "EN", "AISC"):
        left.append(f"{name}: rules {rules!r:.20}")
        rules = ""
    depths = [_depth(item.get(n), f"{name}, {n.replace('_', ' ')}", left) for n in ("least_depth", "most_depth")]
    return Typical(
        "", name, kind.name, _settings(kind, item.get("settings"), house, name, left), tuple(rows), roles, depths[0], depths[1], rules, str(item.get("folder") or "")[:60],
        item.get("favourite") is True, str(item.get("words") or "")[:400], *(_angle(item.get(n), f"{name}, {n.replace('_', ' ')}", left) for n in ("most_skew", "most_slope")),
    )  # fmt: skip


def _settings(kind: Family, values: object, house: HouseRules, where: str, left: list[str]) -> dict[str, Value]:
    """Those of some values that the family takes; what it does not take is told."""
    if values is None:
        return {}
    if not isinstance(values, dict):
        left.append(f"{where}: its settings are no table")
        return {}
    out: dict[str, Value] = {}
    for name, value in values.items():
        try:
            out |= kind.checked({name: value}, house)
        except TinCleatError as error:
            left.append(f"{where}: {error}")
    return out


def _angle(value: object, where: str, left: list[str]) -> float:
    if value is None:
        return 0.0
    if isinstance(value, bool) or not isinstance(value, int | float) or not 0 <= value <= math.pi / 2:
        left.append(f"{where}: {value!r:.20} is no angle from 0 to 90° (rad)")
        return 0.0
    return float(value)


def _depth(value: object, where: str, left: list[str]) -> float:
    if value is None:
        return 0.0
    if isinstance(value, bool) or not isinstance(value, int | float) or not 0 <= value < 1e5:
        left.append(f"{where}: {value!r:.20} is no depth")
        return 0.0
    return float(value)
