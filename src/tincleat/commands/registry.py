"""The registry that feeds menus, the search, the command line and the history."""

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


COMMANDS: dict[str, Command] = {}


def command(name: str, label: str, args: type[msgspec.Struct], words: Iterable[str] = (), needs_joints: bool = False) -> Callable[[Do], Do]:
    """Declare a command; ``words`` are what else a user may search it by; ``needs_joints`` if it reads the ledger."""

    def declare(do: Do) -> Do:
        COMMANDS[name] = Command(name, label, tuple(words), args, do, needs_joints)
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
        raise BadValue(f"its arguments do not fit: {error}", name, f"the fields {fields}") from None


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
