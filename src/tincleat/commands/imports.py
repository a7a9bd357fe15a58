"""The command that takes an engineer's frame in, and what is remembered of its names."""

from pathlib import Path
from typing import Any

import msgspec

from tincleat.commands.registry import command
from tincleat.errors import BadFile, BadValue
from tincleat.exchange.ifc_in import Imported, Progress, read_ifc
from tincleat.geometry.frames import vec
from tincleat.ledger.ledger import Ledger
from tincleat.project.entities import Delta, Level, Meaning, Reference
from tincleat.project.project import Project
from tincleat.project.snapshots import issue


class ImportFrame(msgspec.Struct, forbid_unknown_fields=True):
    """An IFC file to take in; ``meanings`` says what profile names are, ``unit`` overrides the file's length unit."""

    path: str
    meanings: dict[str, str] = {}
    unit: str = ""


@command("import-frame", "Import a frame from IFC", ImportFrame, ("ifc", "engineer", "open model", "analysis"))
def import_frame(project: Project, ledger: Ledger, args: ImportFrame) -> tuple[str, list[Delta]]:
    """Take in the members of an IFC file; other bodies become locked reference; profile names are remembered."""
    return take_in(project, read(project, args), Path(args.path).name)


def read(project: Project, args: ImportFrame, progress: "Progress | None" = None) -> Imported:
    """Read the file with what is remembered of its names; raises BadFile, NotFound for a meaning that is no section."""
    meanings = {m.name: m.section for m in project.meanings.values()} | {k: project.named(v) for k, v in args.meanings.items()}
    return read_ifc(args.path, meanings, args.unit, progress)


def take_in(project: Project, found: Imported, source: str) -> tuple[str, list[Delta]]:
    """Changes that put what was read into the project; raises BadFile if there is nothing to take in."""
    if not found.members and not found.bodies:
        raise BadFile("nothing in the file can be taken in: " + "; ".join([*found.notes, *(row["why"] for row in found.left)][:3]), "import-frame")
    new: list[Any] = []
    known = {m.guid for m in project.members.values() if m.guid}
    doubles = sum(m.guid in known for m in found.members)
    if doubles:
        raise BadValue(
            f"{doubles} members of the file are in the project already", "import-frame", "compare with the revised model instead, or import into a new project"
        )
    for m in found.members:
        key = project.new_id("m")
        new.append(msgspec.structs.replace(m, id=key, name=m.name or key.upper()))
    for b in found.bodies:
        points, triangles = tuple(vec(p) for p in b.points.round(2)), tuple((int(i), int(j), int(k)) for i, j, k in b.triangles)
        new.append(Reference(project.new_id("b"), b.name, b.kind, b.guid, points, triangles))
    have = {round(v.elevation) for v in project.levels.values()}
    taken = {table: {e.name for e in project.tables[table].values()} for table in ("level", "grid")}
    for name, high in found.levels:
        if round(high) not in have:
            have.add(round(high))
            new.append(Level(project.new_id("l"), _other(name, taken["level"]), high))
    laid = {(g.origin, g.angle, g.x, g.y) for g in project.grids.values()}
    for g in found.grids:
        if (g.origin, g.angle, g.x, g.y) not in laid:
            new.append(msgspec.structs.replace(g, id=project.new_id("g"), name=_other(g.name, taken["grid"])))
    remembered = {m.name: m for m in project.meanings.values()}
    for name, match in found.profiles.items():
        old = remembered.get(name)
        if old is None or old.section != match.section:
            new.append(Meaning(old.id if old else project.new_id("n"), name, match.section))
    count = len(found.members)
    words = f", {len(found.bodies)} reference bodies" if found.bodies else ""
    words += f", {len(found.grids)} grid{'s' if len(found.grids) != 1 else ''}" if found.grids else ""
    words += f", {len(found.left)} left out" if found.left else ""
    return f"Import {count} member{'s' if count != 1 else ''}{words}", issue(project, source, project.put(*new))


def _other(name: str, taken: set[str]) -> str:
    """The name, or one like it that is not taken; it is taken from then on."""
    name = name.strip() or "unnamed"
    i = 1
    while (found := name if i == 1 else f"{name} ({i})") in taken:
        i += 1
    taken.add(found)
    return found


class SetMeaning(msgspec.Struct, forbid_unknown_fields=True):
    """What an outside profile name stands for from the next import on."""

    name: str
    section: str


@command("set-meaning", "Set what a profile name means", SetMeaning, ("mapping", "profile", "translate"))
def set_meaning(project: Project, ledger: Ledger, args: SetMeaning) -> tuple[str, list[Delta]]:
    """Remember which section an outside profile's name stands for."""
    if not args.name.strip():
        raise BadValue("the profile has no name", "set-meaning", "a name as the file has it")
    old = next((m for m in project.meanings.values() if m.name == args.name), None)
    return f"{args.name} means {args.section}", project.put(Meaning(old.id if old else project.new_id("n"), args.name, project.named(args.section)))
