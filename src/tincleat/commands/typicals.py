"""Commands for typicals: settings kept under a name, and what is joined by them."""

import math
from typing import Any, Literal

import msgspec

from tincleat.commands.frame import to_mm
from tincleat.commands.registry import command
from tincleat.errors import BadValue, NotFound, Refused, TinCleatError
from tincleat.families.registry import family
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.typical import under, unsuited
from tincleat.project.entities import Connection, Delta, Joining, Role, SizeRow, Typical, Units, Value
from tincleat.project.limits import shown
from tincleat.project.project import Project

MOST_NAME = 60


def found(project: Project, name: str) -> Typical:
    """A typical by id or name; raises NotFound, and Refused where several families have one of that name."""
    some = [t for t in project.typicals.values() if name in (t.id, t.name)]
    if not some:
        raise NotFound(f"there is no typical {name!r}", right="one of " + ", ".join(t.name for t in project.typicals.values()) if project.typicals else "there are none yet")
    if len(some) > 1:
        raise Refused(f"{len(some)} typicals are called {name!r}", right="use the id: " + ", ".join(f"{t.id} ({t.family})" for t in some))
    return some[0]


def uses(project: Project, typical: str) -> list[Connection]:
    """The connections that take their settings from a typical (an id)."""
    return [c for c in project.connections.values() if c.typical == typical]


def sound_name(name: str, where: str) -> str:
    """A typical's name without blanks round it; raises BadValue."""
    name = name.strip()
    if not name or len(name) > MOST_NAME or not name.isprintable():
        raise BadValue(f"{shown(name)[:40]!r} is no name", where, f"a name of at most {MOST_NAME} letters on one line")
    return name


class SaveTypical(msgspec.Struct, forbid_unknown_fields=True):
    """A connection whose settings become a typical: those typed for it, all that make it what it is, or those named."""

    connection: str
    name: str
    what: Literal["typed", "all"] = "typed"
    settings: list[str] = []
    folder: str = ""
    words: str = ""
    roles: list[Role] = []
    least_depth: float | str = 0.0
    most_depth: float | str = 0.0
    rules: Literal["", "EN", "AISC"] = ""
    most_skew_deg: float = 0.0
    most_slope_deg: float = 0.0


@command("save-typical", "Save as a typical", SaveTypical, ("standard detail", "template", "library", "keep settings"), needs_joints=True)
def save(project: Project, ledger: Ledger, args: SaveTypical) -> tuple[str, list[Delta]]:
    """Keep a connection's settings as a typical, which the connection takes them from henceforth; one of the same family and name is replaced,
    and what is joined by it follows."""
    c = project.find("connection", args.connection)
    assert isinstance(c, Connection)
    kind, name = family(c.family), sound_name(args.name, "save-typical")
    entry = ledger.entry_of(c.id)
    values: dict[str, Value] = {**under(project, entry.joint, c), **c.settings}
    alone = sum(kind.alone(n) for n in values)  # of one of several members: they belong to the place
    if args.what == "all" or args.settings:
        if entry.made is None:
            raise Refused("it cannot be built as it is", c.id, entry.problem)
        # a length of 0 under its least is one that is worked out for every bolt or weld of its own
        there = {n.name: n for n in entry.made.detail.numbers if n.origin != "member"}
        values = {s.name: there[s.name].value for s in kind.settings if s.name in there and not (there[s.name].value == 0.0 and s.low > 0)} | values
    if args.settings:
        missing = [kind.setting(n).label for n in args.settings if n not in values]
        if missing:
            raise BadValue(f"{missing[0].lower()} is not in use here", c.id, "settings that this detail makes use of")
        values = {n: values[n] for n in args.settings}
    values = {n: v for n, v in values.items() if not kind.alone(n)}
    if not values:
        raise Refused("nothing is typed here that could be kept", c.id, "type settings first, or keep all of them")
    old = next((t for t in project.typicals.values() if t.family == kind.name and t.name == name), None)
    depths = {n: to_mm(getattr(args, n), project.house, n) for n in ("least_depth", "most_depth")}
    made = Typical(
        old.id if old else project.new_id("t"), name, kind.name, kind.checked(values, project.house), old.sizes if old else (), tuple(args.roles), depths["least_depth"], depths["most_depth"],
        args.rules, args.folder.strip(), old.favourite if old else False, args.words.strip(), math.radians(args.most_skew_deg), math.radians(args.most_slope_deg),
    )  # fmt: skip
    _check_depths(made)
    if why := unsuited(project, entry.joint, made):
        raise Refused(f"the connection itself would not suit it: it is {why}", name, "limits that take in the joint it is saved from")
    mine = msgspec.structs.replace(c, typical=made.id, settings={k: v for k, v in c.settings.items() if k not in values})
    left = f"; {alone} for one member alone stay with {c.id}" if alone else ""
    count = len(uses(project, made.id)) - (c.typical == made.id)
    followed = f"; {count} that use it follow" if old and count else ""
    return f"{'Replace' if old else 'Save'} typical {name} with {len(values)} setting{'s' if len(values) > 1 else ''}{followed}{left}", project.put(made, mine)


def _check_depths(t: Typical) -> None:
    if t.least_depth < 0 or t.most_depth < 0 or (t.most_depth and t.least_depth > t.most_depth):
        raise BadValue(f"depths from {t.least_depth:g} to {t.most_depth:g} mm", t.name, "the least no more than the greatest")
    for angle, words in ((t.most_skew, "askew"), (t.most_slope, "of slope")):
        if not 0.0 <= angle <= math.pi / 2:  # not a number fails it too
            raise BadValue(f"up to {math.degrees(angle):g}° {words}", t.name, "0 for no limit, or up to 90°")


class ChangeTypical(msgspec.Struct, forbid_unknown_fields=True):
    """A typical by id or name and what to change of it; a setting of null is taken out, limits that are not given stay."""

    typical: str
    settings: dict[str, Any] = {}
    name: str | None = None
    folder: str | None = None
    words: str | None = None
    favourite: bool | None = None
    roles: list[Role] | None = None
    least_depth: float | str | None = None
    most_depth: float | str | None = None
    rules: Literal["", "EN", "AISC"] | None = None
    most_skew_deg: float | None = None
    most_slope_deg: float | None = None
    sizes: list[dict[str, Any]] | None = None


@command("change-typical", "Change a typical", ChangeTypical, ("edit", "rename", "limits", "sizes"), needs_joints=True)
def change(project: Project, ledger: Ledger, args: ChangeTypical) -> tuple[str, list[Delta]]:
    """Change a typical: what is joined by it follows.  ``sizes`` are rows with ``section`` or ``depth`` (up to) and settings, the first that fits counts."""
    old = found(project, args.typical)
    kind = family(old.family)
    new: dict[str, Any] = {"settings": {k: v for k, v in old.settings.items() if k not in args.settings} | kind.checked(args.settings, project.house)}
    if one := next((n for n in args.settings if kind.alone(n)), ""):
        raise BadValue(f"{one!r} is for one member alone", old.name, "settings for all members")
    if args.name is not None:
        new["name"] = sound_name(args.name, old.name)
        if any(t.id != old.id and t.family == old.family and t.name == new["name"] for t in project.typicals.values()):
            raise Refused(f"{kind.label} has a typical {new['name']} already", old.name, "another name")
    for field in ("folder", "words"):
        if (text := getattr(args, field)) is not None:
            new[field] = text.strip()
    for field in ("favourite", "rules"):
        if getattr(args, field) is not None:
            new[field] = getattr(args, field)
    if args.roles is not None:
        new["roles"] = tuple(args.roles)
    for field in ("least_depth", "most_depth"):
        if (depth := getattr(args, field)) is not None:
            new[field] = to_mm(depth, project.house, field)
    for field in ("most_skew", "most_slope"):
        if (angle := getattr(args, f"{field}_deg")) is not None:
            new[field] = math.radians(angle)
    if args.sizes is not None:
        new["sizes"] = tuple(size_row(project, old.family, row, f"{old.name}, row {i}") for i, row in enumerate(args.sizes, 1))
    made = msgspec.structs.replace(old, **new)
    _check_depths(made)
    some = uses(project, old.id)
    out = sum(bool(unsuited(project, ledger.entries[key].joint, made)) for c in some if (key := ledger.key_of(c)) is not None)
    tail = f"; {out} of them {'are' if out > 1 else 'is'} none that it is for now" if out else ""
    return f"Change typical {made.name}" + (f", used {len(some)} time{'s' if len(some) > 1 else ''}" if some else ", not used yet") + tail, project.put(made)


def size_row(project: Project, name: str, row: dict[str, Any], where: str, units: Units | None = None) -> SizeRow:
    """A row of a typical's sizes from plain values: ``section`` or ``depth``, the rest settings; texts are read in ``units``, the project's if
    none are given.  Raises BadValue with the place."""
    house = project.house if units is None else msgspec.structs.replace(project.house, units=units)
    values = dict(row)
    text, depth = str(values.pop("section", "") or "").strip(), values.pop("depth", 0.0) or 0.0
    try:
        if text and depth:
            raise BadValue("a row has a section and a depth", right="one of them")
        return SizeRow(family(name).checked(values, house), str(project.named(text)) if text else "", to_mm(depth, house, "depth"))
    except TinCleatError as error:
        raise error.at(where) from None


class MakeVariant(msgspec.Struct, forbid_unknown_fields=True):
    """Connections of one family that shall be a variant by themselves, with ``settings`` changed; its ``name``, one after the typical's if none."""

    ids: list[str]
    settings: dict[str, Any] = {}
    name: str = ""


@command("make-variant", "Make a variant", MakeVariant, ("another typical", "like it but", "new typical"), needs_joints=True)
def make_variant(project: Project, ledger: Ledger, args: MakeVariant) -> tuple[str, list[Delta]]:
    """Make a typical of what the first of some connections is by its typical, what is typed there and what is changed, and let all of them use it:
    from then on they are changed together, and the typical they came from stays as it is."""
    some = [project.find("connection", key) for key in dict.fromkeys(args.ids)]
    found_ = [c for c in some if isinstance(c, Connection)]
    if not found_:
        raise BadValue("no connection is given", "make-variant", "ids such as c12")
    first = found_[0]
    if len({c.family for c in found_}) > 1:
        raise Refused("they are of several families", "make-variant", "connections of one family")
    kind, old = family(first.family), project.typicals.get(first.typical)
    values = {**(old.settings if old else {}), **{k: v for k, v in first.settings.items() if not kind.alone(k)}}
    values = {k: v for k, v in values.items() if k not in args.settings} | kind.checked({k: v for k, v in args.settings.items() if not kind.alone(k)}, project.house)
    if not values:
        raise Refused("nothing is typed here that would make it another", first.id, "a setting that differs")
    # a row by size goes before what the typical gives: what is typed and changed holds for every size
    now = {*first.settings, *args.settings}
    sizes = tuple(msgspec.structs.replace(r, settings={k: v for k, v in r.settings.items() if k not in now}) for r in old.sizes) if old else ()
    name = sound_name(args.name, "make-variant") if args.name else _next_name(project, kind.name, old.name if old else kind.label.lower())
    if any(t.family == kind.name and t.name == name for t in project.typicals.values()):
        raise Refused(f"{kind.label} has a typical {name!r} already", "make-variant", "another name")
    base = old or Typical("", "", kind.name)
    made = msgspec.structs.replace(base, id=project.new_id("t"), name=name, settings=values, sizes=sizes, favourite=False)
    if why := next((why for c in found_ if (why := unsuited(project, ledger.entry_of(c.id).joint, made))), ""):
        raise Refused(f"not all of them suit its limits: one is {why}", name, "connections that the typical is for")
    changed = [msgspec.structs.replace(c, typical=made.id, settings={k: v for k, v in c.settings.items() if kind.alone(k)}) for c in found_]
    of = f" of {old.name}" if old else ""
    return f"Make variant {name}{of}" + (f" for {len(changed)} connections" if len(changed) > 1 else ""), project.put(made, *changed)


def _next_name(project: Project, kind: str, name: str) -> str:
    """A name like another with the next number that no typical of the family has."""
    stem, _, number = name.rpartition(" ")
    stem = stem if stem and number.isdigit() else name
    taken = {t.name for t in project.typicals.values() if t.family == kind}
    return next(n for i in range(2, len(taken) + 3) if (n := f"{stem[: MOST_NAME - 5]} {i}") not in taken)


class UseTypical(msgspec.Struct, forbid_unknown_fields=True):
    """Connections that shall take their settings from a typical; what is typed for them goes, unless it is kept."""

    typical: str
    ids: list[str]
    keep_typed: bool = False


@command("use-typical", "Use a typical", UseTypical, ("apply", "standard detail"), needs_joints=True)
def use(project: Project, ledger: Ledger, args: UseTypical) -> tuple[str, list[Delta]]:
    """Let connections that are placed take their settings from a typical; one of another family becomes the typical's, if its joint suits."""
    t = found(project, args.typical)
    changed = []
    for key in args.ids:
        c = project.find("connection", key)
        assert isinstance(c, Connection)
        kept = c.settings if args.keep_typed and c.family == t.family else {}
        new = msgspec.structs.replace(c, family=t.family, typical=t.id, settings=dict(kept))
        _must_suit(ledger, new)
        changed.append(new)
    if not changed:
        raise BadValue("no connection is given", "use-typical", "ids such as c12")
    return f"Use typical {t.name}" + (f" at {len(changed)} connections" if len(changed) > 1 else ""), project.put(*changed)


class LeaveTypical(msgspec.Struct, forbid_unknown_fields=True):
    """Connections that shall no longer follow their typical."""

    ids: list[str]


@command("leave-typical", "Leave the typical", LeaveTypical, ("detach", "own settings"), needs_joints=True)
def leave(project: Project, ledger: Ledger, args: LeaveTypical) -> tuple[str, list[Delta]]:
    """Make what a typical gives some connections typed for each: they stay as they are, and follow it no more."""
    some = [project.find("connection", key) for key in args.ids]
    following = [c for c in some if isinstance(c, Connection) and c.typical]
    if not following:
        raise Refused("none of them uses a typical", "leave-typical")
    return f"Leave the typical at {len(following)} connection{'s' if len(following) > 1 else ''}", project.put(*(_typed(project, ledger, c) for c in following))


def _typed(project: Project, ledger: Ledger, c: Connection) -> Connection:
    """A connection with what its typical gives typed."""
    key = ledger.key_of(c)
    below = under(project, ledger.entries[key].joint, c) if key is not None else project.typicals[c.typical].settings if c.typical in project.typicals else {}
    return msgspec.structs.replace(c, typical="", settings={**below, **c.settings})


class DeleteTypical(msgspec.Struct, forbid_unknown_fields=True):
    """A typical by id or name."""

    typical: str


@command("delete-typical", "Delete a typical", DeleteTypical, ("remove",), needs_joints=True)
def delete(project: Project, ledger: Ledger, args: DeleteTypical) -> tuple[str, list[Delta]]:
    """Take a typical out of the project; what is joined by it stays as it is, its settings typed for each."""
    t = found(project, args.typical)
    some = uses(project, t.id)
    tail = f"; {len(some)} connection{'s' if len(some) > 1 else ''} stay as they are, typed" if some else ""
    rules = project.joining or ()
    if any(r.typical == t.id for r in rules):
        tail += "; joining rules that use it have its settings typed"
        rules = tuple(msgspec.structs.replace(r, typical="", settings={**t.settings, **r.settings}) if r.typical == t.id else r for r in rules)
    kept = project.put(Joining(rules=rules)) if rules else []
    return f"Delete typical {t.name}{tail}", [*project.put(*(_typed(project, ledger, c) for c in some)), *kept, *project.drop("typical", [t.id])]


class CopySettings(msgspec.Struct, forbid_unknown_fields=True):
    """A connection whose settings others of its family shall have: all that is typed with its typical, or those named."""

    source: str
    ids: list[str]
    settings: list[str] = []


@command("copy-settings", "Copy settings to others", CopySettings, ("paste", "same as", "match"), needs_joints=True)
def copy_settings(project: Project, ledger: Ledger, args: CopySettings) -> tuple[str, list[Delta]]:
    """Give connections the settings of another of their family; those of other families are left and counted."""
    source = project.find("connection", args.source)
    assert isinstance(source, Connection)
    kind = family(source.family)
    for name in args.settings:
        kind.setting(name)
    here = {**under(project, ledger.entry_of(source.id).joint, source), **source.settings}
    changed, other = [], 0
    for key in args.ids:
        c = project.find("connection", key)
        assert isinstance(c, Connection)
        if c.id == source.id:
            continue
        if c.family != source.family:
            other += 1
            continue
        if args.settings:
            typed = {k: v for k, v in c.settings.items() if k not in args.settings} | {k: here[k] for k in args.settings if k in here}
            new = msgspec.structs.replace(c, settings=typed)
        else:
            alone = {k: v for k, v in c.settings.items() if kind.alone(k)}
            new = msgspec.structs.replace(c, typical=source.typical, settings={**alone, **{k: v for k, v in source.settings.items() if not kind.alone(k)}})
        _must_suit(ledger, new)
        changed.append(new)
    left = f"; {other} of other families left" if other else ""
    if not changed:
        raise Refused("no other connection of this family is given", f"copy-settings, {source.id}", f"connections of {kind.label.lower()}{left}")
    return f"Copy {'settings' if not args.settings else f'{len(args.settings)} settings'} of {source.id} to {len(changed)} connection{'s' if len(changed) > 1 else ''}{left}", project.put(*changed)


def _must_suit(ledger: Ledger, c: Connection) -> None:
    """Raise what its family says against a connection as it would be, with its place."""
    joint = ledger.entry_of(c.id).joint
    try:
        ledger.make(joint, c.family, c.settings, typical=c.typical)
    except TinCleatError as error:
        raise error.at(f"{c.id}, {joint.words}") from None
