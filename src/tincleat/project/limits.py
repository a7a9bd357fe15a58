"""What may stand in a project: every number finite and within reach, every text printable and of a size that can be shown."""

import math
from collections.abc import Iterator
from typing import Any

import msgspec
import numpy as np

from tincleat.errors import BadValue
from tincleat.project.entities import Delta, Entity

FARTHEST = 1e8  # mm; a hundred kilometres from the origin is no building.  No number of a project is larger
LONGEST_NAME = 200  # letters of a name or a title
LONGEST_TEXT = 4000
MOST_ENTITIES = 200_000  # in one command
NAMES = ("name", "title", "by", "section", "grade", "id", "family")


def check_entity(entity: Entity) -> None:
    """Raises BadValue for a number that is not finite or out of reach, or a text that cannot be kept, naming the field and what would be right."""
    if all(map(_fine, msgspec.structs.astuple(entity))):
        return
    where = f"{type(entity).__name__.lower()} {getattr(entity, 'name', '') or getattr(entity, 'id', '')}"[:80]
    for name in entity.__struct_fields__:
        for what in _faults(getattr(entity, name), name):
            raise BadValue(f"{name.replace('_', ' ')} {what}", shown(where), f"a finite number within {FARTHEST:.0e} (lengths in mm)" if "number" in what else "")


def check_changes(changes: "list[Delta]") -> None:
    """Raises BadValue if anything that would enter the project is out of bounds."""
    if len(changes) > MOST_ENTITIES:
        raise BadValue(f"one command would change {len(changes)} things", right=f"at most {MOST_ENTITIES} at a time")
    for change in changes:
        if change.new is not None:
            check_entity(change.new)


def shown(text: str) -> str:
    """A text without control characters and lone surrogates: those are written as escapes, so that a terminal or a label shows them and obeys none."""
    if text.isprintable():
        return text
    return "".join(c if c.isprintable() or c == "\n" else c.encode("unicode_escape").decode("ascii") for c in text)


def _fine(value: Any) -> bool:
    """Whether a value is plainly without fault, seen fast; what is not has to be looked at closely."""
    kind = type(value)
    if kind is float:
        return bool(-FARTHEST <= value <= FARTHEST)
    if kind is str:
        return len(value) <= LONGEST_NAME and value.isascii() and "\0" not in value
    if kind is tuple:
        return len(value) <= 64 and all(map(_fine, value))
    if kind is dict:
        return len(value) <= 64 and all(map(_fine, value)) and all(map(_fine, value.values()))
    return value is None or kind is bool or (kind is int and -FARTHEST <= value <= FARTHEST)


def _faults(value: Any, name: str) -> Iterator[str]:
    """What is wrong with a value, through tuples, tables and structs."""
    if isinstance(value, float):
        if not math.isfinite(value):
            yield f"is {value}, which is no number that can be kept"
        elif abs(value) > FARTHEST:
            yield f"is {value:g}, a number out of reach"
    elif isinstance(value, bool) or value is None:
        return
    elif isinstance(value, int):
        if abs(value) > FARTHEST:
            yield "is a number out of reach"
    elif isinstance(value, str):
        yield from _text_faults(value, name)
    elif isinstance(value, tuple | list):
        if len(value) > 64 and isinstance(value[0], tuple) and value[0] and isinstance(value[0][0], float | int):
            try:  # long lists of points at once
                sizes = np.abs(np.array(value, dtype=float))
            except (ValueError, OverflowError):
                yield "holds a number out of reach"
                return
            if not np.isfinite(sizes).all() or float(sizes.max()) > FARTHEST:
                yield "holds a value that is no number, or a number out of reach"
            return
        for one in value:
            yield from _faults(one, name)
    elif isinstance(value, dict):
        for key, one in value.items():
            yield from _text_faults(key, name)
            yield from _faults(one, name)
    elif isinstance(value, msgspec.Struct):
        for field in value.__struct_fields__:
            yield from _faults(getattr(value, field), name)


def _text_faults(text: str, name: str) -> Iterator[str]:
    most = LONGEST_NAME if name in NAMES else LONGEST_TEXT
    if len(text) > most:
        yield f"has {len(text)} letters, at most {most} are kept"
    elif not text.isascii():
        try:
            text.encode()
        except UnicodeEncodeError:
            yield "holds half a character (a lone surrogate)"
    if "\0" in text:
        yield "holds a NUL"
