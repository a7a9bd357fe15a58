"""The registry that feeds menus, the search, the command line and the history."""

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

import msgspec

from tincleat.errors import BadValue, NotFound
from tincleat.ledger.ledger import Ledger
from tincleat.project.entities import Delta
from tincleat.project.project import Project

Do = Callable[[Project, Ledger, Any], "tuple[str, list[Delta]]"]


@dataclass(frozen=True)
class Command:
    """A change by name; ``do`` gets the project, its ledger and checked arguments, and returns a title and the changes."""

    name: str
    label: str
    words: tuple[str, ...]
    args: type[msgspec.Struct]
    do: Do
    needs_joints: bool = False
    needs_findings: bool = False


COMMANDS: dict[str, Command] = {}


def command(name: str, label: str, args: type[msgspec.Struct], words: Iterable[str] = (), needs_joints: bool = False, needs_findings: bool = False) -> Callable[[Do], Do]:
    """Declare a command; ``words`` are what else a user may search it by; ``needs_joints`` if it reads the ledger, ``needs_findings`` if
    it reads what proof says of it too."""

    def declare(do: Do) -> Do:
        COMMANDS[name] = Command(name, label, tuple(words), args, do, needs_joints or needs_findings, needs_findings)
        return do

    return declare


def checked(name: str, args: object) -> tuple[Command, msgspec.Struct]:
    """The command and its arguments as their declared type; raises NotFound or BadValue naming the field and what would be right."""
    found = COMMANDS.get(name)
    if found is None:
        raise NotFound(f"there is no command {name!r}", right="one of " + ", ".join(COMMANDS))
    try:
        return found, msgspec.convert(args, found.args, strict=True)
    except msgspec.ValidationError as error:
        fields = ", ".join(f.name for f in msgspec.structs.fields(found.args))
        raise BadValue(in_words(error), name, f"the fields {fields}") from None
    except RecursionError:
        raise BadValue("its arguments are nested too deeply", name) from None


_KINDS = {
    "int": "a whole number", "float": "a number", "str": "a text", "bool": "true or false", "array": "a list", "object": "a table of names and values", "null": "nothing",
}  # fmt: skip


def in_words(error: Exception) -> str:
    """What a value's type complains of, in words: the field first, then what is wanted and what came."""
    text, _, place = str(error).partition(" - at ")
    field = place.strip("` ").removeprefix("$").removeprefix(".").replace("[...]", "").replace("_", " ")
    wanted = re.fullmatch(r"Expected `(.+?)`, got `(.+?)`", text)
    if wanted:
        kinds = " or ".join(_KINDS.get(k.strip(), k.strip()) for k in wanted[1].split("|"))
        words = f"{kinds} is wanted, not {_KINDS.get(wanted[2], wanted[2])}"
    elif missing := re.search(r"missing required field `(.+?)`", text):
        words = f"{missing[1].replace('_', ' ')} is missing"
    elif more := re.search(r"unknown field `(.+?)`", text):
        words = f"there is no field {more[1]!r}"
    elif choice := re.search(r"Invalid enum value '?(.*?)'?$", text):
        words = f"{choice[1]!r} is none of the choices"
    else:
        words = text[:1].lower() + text[1:]
    return f"{field}: {words}" if field else words


def describe(found: Command) -> dict[str, object]:
    """A command with its fields, types and defaults, for ``commands --json``."""
    schema = msgspec.json.schema(found.args)
    body = schema.get("$defs", {}).get(found.args.__name__, schema)
    return {
        "name": found.name,
        "label": found.label,
        "words": list(found.words),
        "about": (found.do.__doc__ or "").strip(),
        "arguments": body.get("properties", {}),
        "required": body.get("required", []),
    }
