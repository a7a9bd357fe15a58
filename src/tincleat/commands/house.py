"""Commands for house rules, sections of the office's own, and concessions."""

from collections.abc import Mapping
from functools import partial
from pathlib import Path
from typing import Any

import msgspec

from tincleat.catalogue.fasteners import anchor_size, bolt_size, strengths
from tincleat.catalogue.sections import catalogue, row_section
from tincleat.commands.registry import command, in_words
from tincleat.errors import BadFile, BadValue, NotFound, Refused
from tincleat.files import read_rows
from tincleat.ledger.ledger import Ledger
from tincleat.project.defaults import LABELS, brought
from tincleat.project.entities import Concession, Delta, HouseRules, OwnSection
from tincleat.project.house_sheet import RULES, checked
from tincleat.project.project import Project

MOST_CSV, MOST_ROWS = 5_000_000, 5000


def with_values(house: HouseRules, values: Mapping[str, Any]) -> HouseRules:
    """House rules with others by field, or by ``field/key`` for one row of a table (None takes it out); texts are read as they are typed on the page.
    Raises BadValue naming the rule and what would be right."""
    body = msgspec.to_builtins(house)
    known = {r.name: r for r in RULES}
    touched = set()
    for name, value in values.items():
        field, _, key = name.partition("/")
        if field not in body or field == "id" or (key and not isinstance(body[field], dict)):
            raise BadValue(f"there is no house rule {name!r:.60}", "house rules", "one of " + ", ".join(k for k in body if k != "id") + ", or field/key for one row of a table")
        if isinstance(value, str) and name in known and known[name].kind not in ("text", "choice", "letters"):
            value = msgspec.to_builtins(known[name].typed(value, house))
        if key:
            value = {k: v for k, v in body[field].items() if k != key} | ({} if value is None else {key: value})
        body[field] = value
        touched.add(field)
    try:
        made = msgspec.convert(body, HouseRules)
    except msgspec.ValidationError as error:
        raise BadValue(in_words(error), "house rules", "a value of the field's kind") from None
    if not made.title.strip():
        raise BadValue("the title is blank", "house rules", "a name for the project")
    for field, look in (("bolt", bolt_size), ("anchor", anchor_size), ("plate_grade", partial(strengths, "grades")), ("bolt_grade", partial(strengths, "bolt_grades")), ("anchor_grade", partial(strengths, "bolt_grades"))):
        if field in touched:
            look(getattr(made, field))  # says near names
    checked(made, touched.__contains__)
    return made


class SetHouse(msgspec.Struct, forbid_unknown_fields=True):
    """House rules to change, by field or ``field/key``; ``bring`` brings along the defaults that go with the units and rule set."""

    values: dict[str, Any]
    bring: bool = False


@command("set-house-rules", "Change house rules", SetHouse, ("units", "standard", "rule set", "rounding", "stock", "factors"))
def set_house(project: Project, ledger: Ledger, args: SetHouse) -> tuple[str, list[Delta]]:
    """Change units, rule set, factors, rounding steps, stock and defaults of the project."""
    house = with_values(project.house, args.values)
    done = ", ".join(args.values)
    if args.bring:
        more = brought(house)
        house = msgspec.convert({**msgspec.to_builtins(house), **more}, HouseRules)
        done += "; brought along: " + (", ".join(LABELS[k].lower() for k in more) or "nothing")
    elif {"units", "rule_set"} & args.values.keys() and (stay := brought(house)):
        done += f"; {len(stay)} default{'s' if len(stay) > 1 else ''} of other units or rules stay"
    return f"Change house rules ({done})", project.put(house)


class ImportSections(msgspec.Struct, forbid_unknown_fields=True):
    """A CSV file of sections."""

    path: str


@command("import-sections", "Import own sections from CSV", ImportSections, ("profiles", "catalogue", "custom"))
def import_sections(project: Project, ledger: Ledger, args: ImportSections) -> tuple[str, list[Delta]]:
    """Add sections of the office's own from a CSV with the columns designation, shape, h, b, tw, tf, r1, r2, slope, tf_at, mass."""
    path = Path(args.path)
    table = read_rows(path, MOST_CSV, "a CSV file with a head line")
    rows = [dict(zip(table[0], row, strict=False)) for row in table[1:]]
    if len(rows) > MOST_ROWS:
        raise BadFile(f"it holds {len(rows)} sections", str(path), f"at most {MOST_ROWS} at a time")
    if not rows or "designation" not in rows[0]:
        raise BadFile("it holds no sections", str(path), "a head line with designation, shape, h, b, tw, tf and a row a section")
    have = {s.row["designation"]: s for s in project.tables["section"].values()}
    made = []
    for number, row in enumerate(rows, 2):
        try:
            name = row_section(row).name
        except BadValue as error:
            raise error.at(f"{path.name}, line {number}") from None
        if name in catalogue():
            raise BadValue(f"{name} is in the catalogue already", f"{path.name}, line {number}", "a name of its own")
        old = have.get(name)
        made.append(OwnSection(old.id if old else project.new_id("e"), row))
    return f"Import {len(made)} section{'s' if len(made) != 1 else ''} from {path.name}", project.put(*made)


class Accept(msgspec.Struct, forbid_unknown_fields=True):
    """A finding to accept."""

    connection: str
    finding: str
    by: str
    reason: str


@command("accept-finding", "Accept a finding with a reason", Accept, ("concession", "waive", "allow"), needs_findings=True)
def accept(project: Project, ledger: Ledger, args: Accept) -> tuple[str, list[Delta]]:
    """Accept a note or breach as a concession, with a name and a reason; it lapses if it gets worse."""
    if not args.by.strip() or not args.reason.strip():
        raise BadValue("a concession needs a name and a reason", "accept-finding", "both filled in")
    entry = ledger.entry_of(args.connection)
    finding = next((f for f in entry.findings if f.key == args.finding), None)
    if finding is None or finding.level not in ("note", "breach"):
        raise Refused(
            f"there is no open finding {args.finding!r}", args.connection, "one of " + ", ".join(f.key for f in entry.findings if f.level in ("note", "breach"))
        )
    old = next((c for c in project.concessions.values() if c.connection == args.connection and c.finding == args.finding), None)
    key = old.id if old else project.new_id("a")
    return f"Accept: {finding.title}", project.put(Concession(key, args.connection, args.finding, finding.actual, args.by.strip(), args.reason.strip()))


class Withdraw(msgspec.Struct, forbid_unknown_fields=True):
    """A concession to take back."""

    connection: str
    finding: str


@command("withdraw-concession", "Withdraw a concession", Withdraw, ("reopen",), needs_findings=True)
def withdraw(project: Project, ledger: Ledger, args: Withdraw) -> tuple[str, list[Delta]]:
    """Make an accepted finding count again."""
    found = [c.id for c in project.concessions.values() if c.connection == args.connection and c.finding == args.finding]
    if not found:
        raise NotFound("there is no such concession", args.connection)
    return "Withdraw a concession", project.drop("concession", found)
