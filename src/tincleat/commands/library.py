"""The commands that take an office's files in: typicals, and house rules."""

from collections.abc import Sequence

import msgspec

from tincleat.commands.house import with_values
from tincleat.commands.registry import command
from tincleat.errors import BadFile
from tincleat.exchange.library import read_library
from tincleat.exchange.standard_file import read_standard
from tincleat.ledger.ledger import Ledger
from tincleat.project.entities import Delta, Typical
from tincleat.project.project import Project

MOST_TOLD = 3


class LoadTypicals(msgspec.Struct, forbid_unknown_fields=True):
    """A library's file; with ``keep`` typicals of the project stay where the file has others of the same family and name."""

    path: str
    keep: bool = False


@command("load-typicals", "Load typicals", LoadTypicals, ("library", "office standard", "standard details", "import"))
def load(project: Project, ledger: Ledger, args: LoadTypicals) -> tuple[str, list[Delta]]:
    """Take in the typicals of a library: one of the same family and name is replaced, and what is joined by it follows."""
    found = read_library(args.path, project.house)
    there = {(t.family, t.name): t for t in project.typicals.values()}
    new: dict[tuple[str, str], Typical] = {}
    kept = replaced = 0
    for t in found.typicals:
        old = there.get((t.family, t.name))
        if old is not None and args.keep:
            kept += 1
            continue
        replaced += old is not None and (t.family, t.name) not in new
        known = old or new.get((t.family, t.name))
        new[t.family, t.name] = msgspec.structs.replace(t, id=known.id if known else project.new_id("t"))
    told = _left(found.left)
    if not new:
        raise BadFile("nothing of it is taken in: " + (told or (f"{kept} are there already" if kept else "it is empty")), args.path, "a library with typicals for families of this program")
    words = [f"{replaced} of them in place of others"] * bool(replaced) + [f"{kept} there already"] * bool(kept) + [f"left out: {told}"] * bool(found.left)
    return f"Load {len(new)} typical{'s' if len(new) > 1 else ''}" + (f" ({'; '.join(words)})" if words else ""), project.put(*new.values())


class LoadHouse(msgspec.Struct, forbid_unknown_fields=True):
    """A file of house rules."""

    path: str


@command("load-house-rules", "Load house rules", LoadHouse, ("office standard", "import", "template"))
def load_house(project: Project, ledger: Ledger, args: LoadHouse) -> tuple[str, list[Delta]]:
    """Take in an office standard: all house rules but the title and north."""
    found = read_standard(args.path)
    told = _left(found.left)
    if not found.values:
        raise BadFile("nothing of it is taken in" + (f": {told}" if told else ""), args.path, "house rules that this program wrote")
    house = with_values(project.house, found.values)
    return f"Load house rules {found.name}" + (f" (left out: {told})" if told else ""), project.put(house) if house != project.house else []


def _left(some: Sequence[str]) -> str:
    return "; ".join(some[:MOST_TOLD]) + (f" and {len(some) - MOST_TOLD} more" if len(some) > MOST_TOLD else "")
