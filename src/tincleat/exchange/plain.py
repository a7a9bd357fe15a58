"""Plain JSON files of the office's own: typicals, house rules."""

from pathlib import Path
from typing import Any

import msgspec

from tincleat.errors import BadFile
from tincleat.files import read_whole, write_whole


def write_plain(path: "str | Path", value: Any) -> None:
    """Write plain data as JSON, whole or not at all.  Raises :class:`BadFile`."""
    body = msgspec.json.format(msgspec.json.encode(value), indent=1)
    write_whole(path, lambda part: part.write_bytes(body + b"\n"))


def read_plain(path: Path, what: str, version: int, held: type, inside: str, most: int, right: str) -> dict[str, Any]:
    """The table of a JSON file that says of which version its ``what`` are and holds them ``inside``, of type ``held``.  Raises :class:`BadFile`."""
    try:
        found = msgspec.json.decode(read_whole(path, most, right))
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError) as error:
        raise BadFile(f"cannot be read: {error}", str(path), right) from None
    if not isinstance(found, dict) or not isinstance(found.get(inside), held):
        raise BadFile(f"it holds no {what}", str(path), right)
    if found.get(what) != version:
        raise BadFile(f"it is of version {found.get(what)!r:.20}", str(path), f"version {version}")
    return found
