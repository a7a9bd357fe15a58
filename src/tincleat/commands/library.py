"""The command that takes typicals in from a file."""

import msgspec

from tincleat.commands.registry import command
from tincleat.errors import BadFile
from tincleat.exchange.library import read_library
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
    told = "; ".join(found.left[:MOST_TOLD]) + (f" and {len(found.left) - MOST_TOLD} more" if len(found.left) > MOST_TOLD else "")
    if not new:
        raise BadFile("nothing of it is taken in: " + (told or (f"{kept} are there already" if kept else "it is empty")), args.path, "a library with typicals for families of this program")
    words = [f"{replaced} of them in place of others"] * bool(replaced) + [f"{kept} there already"] * bool(kept) + [f"left out: {told}"] * bool(found.left)
    return f"Load {len(new)} typical{'s' if len(new) > 1 else ''}" + (f" ({'; '.join(words)})" if words else ""), project.put(*new.values())
