"""Commands for house rules, sections of the office's own, and concessions."""

import csv
import io
from pathlib import Path
from typing import Any

import msgspec

from tincleat.catalogue.fasteners import anchor_size, bolt_size, strengths
from tincleat.catalogue.sections import catalogue, row_section
from tincleat.commands.registry import command, in_words
from tincleat.errors import BadFile, BadValue, NotFound, Refused
from tincleat.files import read_whole
from tincleat.ledger.ledger import Ledger
from tincleat.project.defaults import LABELS, brought
from tincleat.project.entities import Concession, Delta, HouseRules, OwnSection
from tincleat.project.project import Project

MOST_CSV, MOST_ROWS = 5_000_000, 5000


class SetHouse(msgspec.Struct, forbid_unknown_fields=True):
    """House rules to change, by field; ``bring`` brings along the defaults that go with the units and rule set."""

    values: dict[str, Any]
    bring: bool = False


@command("set-house-rules", "Change house rules", SetHouse, ("units", "standard", "rule set", "rounding", "stock", "factors"))
def set_house(project: Project, ledger: Ledger, args: SetHouse) -> tuple[str, list[Delta]]:
    """Change units, rule set, factors, rounding steps, stock and defaults of the project."""
    body = msgspec.to_builtins(project.house)
    unknown = [k for k in args.values if k not in body or k == "id"]
    if unknown:
        raise BadValue(f"there is no house rule {unknown[0]!r}", "house rules", "one of " + ", ".join(k for k in body if k != "id"))
    try:
        house = msgspec.convert({**body, **args.values}, HouseRules)
    except msgspec.ValidationError as error:
        raise BadValue(in_words(error), "house rules", "a value of the field's kind") from None
    if not house.title.strip():
        raise BadValue("the title is blank", "house rules", "a name for the project")
    bolt_size(house.bolt)
    anchor_size(house.anchor)
    strengths("grades", house.plate_grade)
    strengths("bolt_grades", house.bolt_grade)
    for name in ("spacing_factor", "end_factor", "notch_clearance", "notch_radius", "weld_gap"):
        value = getattr(house, name)
        if not 0 <= value <= 1000:
            raise BadValue(f"{name} {value!r} is outside its limits", "house rules", "0 to 1000")
    for label, values in (("plates", house.plates), ("flats", house.flats)):
        if any(not 0 < v <= 2000 for v in values):
            raise BadValue(f"{label} holds a size that is no stock size", "house rules", "sizes over 0 and up to 2000 mm")
    if not -360 <= house.north_deg <= 360:
        raise BadValue(f"north at {house.north_deg!r} degrees", "house rules", "-360 to 360, counter-clockwise from the x axis")
    for shape, bar in house.bars.items():
        if not 500 <= bar <= 60000:
            raise BadValue(f"a bar of {bar:g} mm for {shape!r}", "house rules", "500 to 60000 mm")
    for kind, rule in house.rounding.items():
        if not 0 <= rule.step <= 1000:
            raise BadValue(f"the step of {kind!r} is {rule.step!r}", "house rules", "0 to 1000 mm")
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
    try:
        text = read_whole(path, MOST_CSV, "a CSV file with a head line").decode("utf-8-sig")
        rows = [{k: v for k, v in row.items() if isinstance(k, str) and isinstance(v, str)} for row in csv.DictReader(io.StringIO(text, newline=""))]
    except (UnicodeDecodeError, csv.Error) as error:
        raise BadFile(f"cannot be read: {error}", str(path), "a CSV file with a head line") from None
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
