"""Bills and the ledger as CSV and XLSX."""

import csv
from collections.abc import Sequence
from pathlib import Path

from tincleat.errors import BadFile
from tincleat.families.registry import FAMILIES
from tincleat.files import write_whole
from tincleat.ledger.ledger import Ledger
from tincleat.project.places import zone_words
from tincleat.release.bill import BoltLine, Line, bill, bolt_list
from tincleat.release.weld_list import WeldLine, weld_list
from tincleat.units import format_length, in_mass_unit, is_inch

Row = Sequence[str | float | int]
BILL_HEAD = ("mark", "kind", "name", "size", "grade", "length mm", "count", "mass each kg", "mass kg", "where")
BOLT_HEAD = ("kind", "size", "grade", "length mm", "least grip mm", "greatest grip mm", "count", "nuts", "washers", "where")


def bill_head(unit: str = "mm") -> Row:
    """The bill's head; lengths in feet and inches and masses in lb where the project has inches."""
    if not is_inch(unit):
        return BILL_HEAD
    return tuple({"length mm": "length", "mass each kg": "mass each lb", "mass kg": "mass lb"}.get(h, h) for h in BILL_HEAD)


def bill_rows(lines: Sequence[Line], unit: str = "mm") -> list[Row]:
    """Bill lines as rows under :func:`bill_head`."""
    return [
        (x.mark, x.kind, x.name, x.size, x.grade, _length(x.length, unit, 1), x.count, round(in_mass_unit(x.mass_each, unit), 3), round(in_mass_unit(x.mass, unit), 3), x.where)
        for x in lines
    ]


def _length(mm: float, unit: str, digits: int) -> str | float:
    return format_length(mm, unit) if is_inch(unit) else round(mm, digits)


def bolt_head(unit: str = "mm") -> tuple[str, ...]:
    """The bolt list's head in the project's units."""
    return tuple(h.removesuffix(" mm") for h in BOLT_HEAD) if is_inch(unit) else BOLT_HEAD


def bolt_rows(lines: Sequence[BoltLine], unit: str = "mm") -> list[Row]:
    """Bolt list lines as rows under :func:`bolt_head`."""
    return [
        (x.kind, x.size, x.grade, _length(x.length, unit, 2), _length(x.grip_least, unit, 1), _length(x.grip_most, unit, 1), x.count, x.nuts, x.washers, x.where)
        for x in lines
    ]


WELD_HEAD = ("made", "weld", "leg mm", "position", "runs", "length m", "volume cm³", "weld metal kg", "hours", "where")


def weld_head(unit: str = "mm") -> tuple[str, ...]:
    """The weld list's head in the project's units."""
    if not is_inch(unit):
        return WELD_HEAD
    return tuple({"leg mm": "leg", "length m": "length ft", "volume cm³": "volume in³", "weld metal kg": "weld metal lb"}.get(h, h) for h in WELD_HEAD)


def weld_rows(lines: Sequence[WeldLine], unit: str = "mm") -> list[Row]:
    """Weld list lines as rows under :func:`weld_head`."""
    far, bulk = (304.8, 25.4**3) if is_inch(unit) else (1000.0, 1000.0)
    return [
        (x.where_made, x.kind, _length(x.leg, unit, 1), x.position, x.runs, round(x.length / far, 2), round(x.volume / bulk, 1), round(in_mass_unit(x.mass, unit), 3), round(x.hours, 2), x.where)
        for x in lines
    ]


def export_bill(ledger: Ledger, path: "str | Path") -> list[Path]:
    """Write bill, bolt list and weld list: ``.xlsx`` holds them as sheets, ``.csv`` writes further files ``…-bolts.csv`` and
    ``…-welds.csv``; the files written."""
    path = Path(path)
    unit = ledger.project.house.units
    head, bolt_words = bill_head(unit), bolt_head(unit)
    parts = bill_rows(bill(ledger), unit)
    bolts = bolt_rows(bolt_list(ledger), unit)
    weld_words, welds = weld_head(unit), weld_rows(weld_list(ledger), unit)
    if path.suffix.lower() == ".xlsx":
        return [write_whole(path, lambda part: _xlsx(part, (("Bill of materials", head, parts), ("Bolt list", bolt_words, bolts), ("Weld list", weld_words, welds))))]
    if path.suffix.lower() == ".csv":
        second, third = (path.with_name(f"{path.stem}-{what}.csv") for what in ("bolts", "welds"))
        return [
            write_whole(path, lambda part: _csv(part, head, parts)), write_whole(second, lambda part: _csv(part, bolt_words, bolts)), write_whole(third, lambda part: _csv(part, weld_words, welds)),
        ]  # fmt: skip
    raise BadFile(f"a bill is not written as {path.suffix or 'a file without suffix'}", str(path), "a name ending in .xlsx or .csv")


LEDGER_HEAD = ("joint", "kind", "level", "zone", "members", "sections", "state", "connection", "family", "typical", "typed settings", "breaches", "notes", "accepted", "first finding")


def ledger_rows(ledger: Ledger) -> list[Row]:
    """Every joint of the model as a row under :data:`LEDGER_HEAD`: what it is, where, what joins it, and what proof says of it."""
    p = ledger.project
    out: list[Row] = []
    for entry in ledger.entries.values():
        j, c = entry.joint, entry.connection
        found = {level: sum(f.level == level for f in entry.findings) for level in ("breach", "note", "concession")}
        first = next((f.message for level in ("breach", "note") for f in entry.findings if f.level == level), "")
        members = [p.members[m] for m in j.members if m in p.members]
        family = FAMILIES[c.family].label if c is not None and c.family in FAMILIES else c.family if c is not None else ""
        typical = p.typicals[c.typical].name if c is not None and c.typical in p.typicals else ""
        typed = ", ".join(f"{n} = {v}" for n, v in sorted(c.settings.items())) if c is not None else ""
        out.append((
            j.words, j.kind, ledger.place(j), zone_words(p, j.frame.origin), ", ".join(m.name or m.id for m in members), ", ".join(m.section for m in members), entry.state,
            c.id if c is not None else "", family, typical, typed, found["breach"], found["note"], found["concession"], first,
        ))  # fmt: skip
    return out


def export_ledger(ledger: Ledger, path: "str | Path") -> list[Path]:
    """Write the ledger, a row a joint, as ``.xlsx`` or ``.csv``; the files written."""
    path = Path(path)
    rows = ledger_rows(ledger)
    if path.suffix.lower() == ".xlsx":
        return [write_whole(path, lambda part: _xlsx(part, (("Ledger", LEDGER_HEAD, rows),)))]
    if path.suffix.lower() == ".csv":
        return [write_whole(path, lambda part: _csv(part, LEDGER_HEAD, rows))]
    raise BadFile(f"a ledger is not written as {path.suffix or 'a file without suffix'}", str(path), "a name ending in .xlsx or .csv")


def _plain(value: str | float | int) -> str | float | int:
    # a text that a spreadsheet would run as a formula is made plain
    return "'" + value if isinstance(value, str) and value[:1] in "=+-@\t\r" and value[:1] else value


def _csv(path: Path, head: Row, rows: Sequence[Row]) -> None:
    with path.open("w", newline="", encoding="utf-8-sig") as file:
        writer = csv.writer(file)
        writer.writerow(head)
        writer.writerows([_plain(v) for v in row] for row in rows)


def _xlsx(path: Path, sheets: "Sequence[tuple[str, Row, Sequence[Row]]]") -> None:
    import xlsxwriter  # takes as long to load as all of numpy, and most commands write no book

    book = xlsxwriter.Workbook(str(path), {"strings_to_formulas": False, "strings_to_urls": False})
    bold = book.add_format({"bold": True, "bottom": 1})
    for name, head, rows in sheets:
        sheet = book.add_worksheet(name)
        sheet.freeze_panes(1, 0)
        sheet.write_row(0, 0, head, bold)
        for i, row in enumerate(rows, 1):
            sheet.write_row(i, 0, row)
        for j, title in enumerate(head):
            widest = max([len(str(title))] + [len(str(row[j])) for row in rows])
            sheet.set_column(j, j, min(widest + 2, 50))
    book.close()
