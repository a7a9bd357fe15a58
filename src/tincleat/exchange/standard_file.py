"""House rules as a plain JSON file: an office standard that projects start from."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

import msgspec

from tincleat.errors import BadValue
from tincleat.exchange.plain import read_plain, write_plain
from tincleat.project.entities import HouseRules
from tincleat.project.house_sheet import checked

VERSION = 1
MOST = 1_000_000  # bytes
RIGHT = "house rules that this program wrote"
OWN = ("id", "title", "north_deg")  # a project's own: no office standard says them


@dataclass(frozen=True)
class Standard:
    """What a file holds: its name, values by field as plain data, and in words what of it could not be taken."""

    name: str
    values: dict[str, Any]
    left: tuple[str, ...]


def write_standard(house: HouseRules, name: str, path: "str | Path") -> None:
    """Write house rules under a name, whole or not at all; lengths in mm.  Raises :class:`BadFile`."""
    rules = {k: v for k, v in msgspec.to_builtins(house).items() if k not in OWN}
    write_plain(path, {"house rules": VERSION, "name": name, "units": "mm", "rules": rules})


def read_standard(path: "str | Path") -> Standard:
    """The house rules of a file, each looked at by itself: what is unknown or out of its limits is left out and told.  Raises :class:`BadFile`."""
    path = Path(path)
    found = read_plain(path, "house rules", VERSION, dict, "rules", MOST, RIGHT)
    values: dict[str, Any] = {}
    left = []
    plain = msgspec.to_builtins(HouseRules())
    for field, value in found["rules"].items():
        if field not in plain or field in OWN:
            left.append(f"{field:.60}: no house rule of an office")
            continue
        try:
            checked(msgspec.convert({**plain, field: value}, HouseRules), field.__eq__)
        except msgspec.ValidationError:
            left.append(f"{field}: not a value of its kind")
        except BadValue as error:
            left.append(f"{field}: {error}")
        else:
            values[field] = value
    name = found.get("name")
    return Standard(name.strip()[:60] if isinstance(name, str) and name.isprintable() and name.strip() else path.stem, values, tuple(left))
