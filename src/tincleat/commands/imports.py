"""The command that takes an engineer's frame in, and what is remembered of its names."""

from pathlib import Path
from typing import Any, Literal

import msgspec

from tincleat.catalogue.fasteners import grade_names
from tincleat.catalogue.grades import UNKNOWN
from tincleat.catalogue.sections import plain
from tincleat.commands.registry import command
from tincleat.errors import BadFile, BadValue, Progress
from tincleat.exchange.ifc_in import import_ifc
from tincleat.exchange.ifc_source import Imported
from tincleat.geometry.frames import vec
from tincleat.ledger.ledger import Ledger
from tincleat.project.entities import Delta, Level, Meaning, OwnSection, Reference, Site
from tincleat.project.limits import LONGEST_NAME, shown
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
    """Read the file with what is remembered of its names, in a process of its own; raises BadFile, NotFound for a meaning that is no section and no grade."""
    profiles = {m.name: m.section for m in project.meanings.values() if m.kind == "profile"}
    grades = {m.name: m.section for m in project.meanings.values() if m.kind == "grade"}
    for name, meant in args.meanings.items():
        if meant in grade_names("grades"):
            grades[name] = meant
        else:
            profiles[name] = project.named(meant)
    own = {plain(s.row["designation"]): s.row for s in project.tables["section"].values()}
    return import_ifc(args.path, profiles, args.unit, progress, own, grades)


def take_in(project: Project, found: Imported, source: str) -> tuple[str, list[Delta]]:
    """Changes that put what was read into the project; raises BadFile if there is nothing to take in."""
    if not found.members and not found.bodies:
        raise BadFile("nothing in the file can be taken in: " + "; ".join([*found.notes, *(row["why"] for row in found.left)][:3]), "import-frame")
    new: list[Any] = []
    first = not project.members
    have_own = {plain(s.row.get("designation", "")) for s in project.tables["section"].values()}
    rows = [OwnSection(project.new_id("e"), row) for row in found.own.values() if plain(row["designation"]) not in have_own]
    before = project.put(*rows)
    known = {m.guid for m in project.members.values() if m.guid}
    doubles = sum(m.guid in known for m in found.members)
    if doubles:
        raise BadValue(
            f"{doubles} members of the file are in the project already", "import-frame", "compare with the revised model instead, or import into a new project"
        )
    levels, made = _levels(project, found)
    new += made
    for m in found.members:
        key = project.new_id("m")
        new.append(msgspec.structs.replace(m, id=key, name=(shown(m.name)[:LONGEST_NAME] or key.upper()), level=levels.get(m.level, "")))
    for b in found.bodies:
        points, triangles = tuple(vec(p) for p in b.points.round(2)), tuple((int(i), int(j), int(k)) for i, j, k in b.triangles)
        new.append(Reference(project.new_id("b"), shown(b.name)[:LONGEST_NAME], b.kind, b.guid, points, triangles))
    taken = {e.name for e in project.grids.values()}
    laid = {(g.origin, g.angle, g.x, g.y) for g in project.grids.values()}
    for g in found.grids:
        if (g.origin, g.angle, g.x, g.y) not in laid:
            new.append(msgspec.structs.replace(g, id=project.new_id("g"), name=_other(g.name, taken)))
    remembered: dict[tuple[str, str], Meaning] = {(m.kind, m.name): m for m in project.meanings.values()}
    told: list[tuple[str, str, str]] = [("profile", name, str(match.section)) for name, match in found.profiles.items()]
    told += [("grade", name, grade) for (name, grade, by) in found.grades if grade != UNKNOWN and by == "material"]
    for kind, name, meant in told:
        old = remembered.get((kind, name))
        if len(name) <= LONGEST_NAME and (old is None or old.section != meant):
            new.append(Meaning(old.id if old else project.new_id("n"), name, meant, kind))  # type: ignore[arg-type]
    if found.site != Site() and first:
        new.append(found.site)
        if found.site.north_deg is not None:
            new.append(msgspec.structs.replace(project.house, north_deg=found.site.north_deg))
    count = len(found.members)
    words = f", {len(found.bodies)} reference bod{'ies' if len(found.bodies) != 1 else 'y'}" if found.bodies else ""
    words += f", {len(found.grids)} grid{'s' if len(found.grids) != 1 else ''}" if found.grids else ""
    words += f", {len(found.left)} left out" if found.left else ""
    return f"Import {count} member{'s' if count != 1 else ''}{words}", issue(project, source, [*before, *project.put(*new)])


def _levels(project: Project, found: Imported) -> tuple[dict[str, str], list[Level]]:
    """The level of the project for each storey of the file, by the storey's identity, and the levels that are new."""
    taken = {v.name for v in project.levels.values()}
    have = {(round(v.elevation), v.building): v.id for v in project.levels.values()}
    out: dict[str, str] = {}
    new = []
    for name, high, building, guid in found.levels:
        key = have.get((round(high), building))
        if key is None:
            key = have[(round(high), building)] = project.new_id("l")
            new.append(Level(key, _other(shown(name)[:80], taken), high, shown(building)[:80]))
        out[guid] = key
    return out, new


def _other(name: str, taken: set[str]) -> str:
    """The name, or one like it that is not taken; it is taken from then on."""
    name = name.strip() or "unnamed"
    i = 1
    while (found := name if i == 1 else f"{name} ({i})") in taken:
        i += 1
    taken.add(found)
    return found


class SetMeaning(msgspec.Struct, forbid_unknown_fields=True):
    """What an outside profile's name (a section) or a material's (a grade) stands for from the next import on."""

    name: str
    section: str


@command("set-meaning", "Set what a profile name means", SetMeaning, ("mapping", "profile", "translate"))
def set_meaning(project: Project, ledger: Ledger, args: SetMeaning) -> tuple[str, list[Delta]]:
    """Remember which section an outside profile's name stands for."""
    if not args.name.strip():
        raise BadValue("the profile has no name", "set-meaning", "a name as the file has it")
    kind: Literal["profile", "grade"] = "grade" if args.section in grade_names("grades") else "profile"
    meant = args.section if kind == "grade" else project.named(args.section)
    old = next((m for m in project.meanings.values() if m.name == args.name and m.kind == kind), None)
    return f"{args.name} means {args.section}", project.put(Meaning(old.id if old else project.new_id("n"), args.name, meant, kind))
