"""Bills as CSV and XLSX."""

import csv
from collections.abc import Sequence
from pathlib import Path

import xlsxwriter

from tincleat.errors import BadFile
from tincleat.files import write_whole
from tincleat.ledger.ledger import Ledger
from tincleat.release.bill import BoltLine, Line, bill, bolt_list

Row = Sequence[str | float | int]
BILL_HEAD = ("mark", "kind", "name", "size", "grade", "length mm", "count", "mass each kg", "mass kg", "where")
BOLT_HEAD = ("kind", "size", "grade", "length mm", "least grip mm", "greatest grip mm", "count", "nuts", "washers", "where")


def bill_rows(lines: Sequence[Line]) -> list[Row]:
    """Bill lines as rows under :data:`BILL_HEAD`."""
    return [(x.mark, x.kind, x.name, x.size, x.grade, round(x.length, 1), x.count, round(x.mass_each, 3), round(x.mass, 3), x.where) for x in lines]


def bolt_rows(lines: Sequence[BoltLine]) -> list[Row]:
    """Bolt list lines as rows under :data:`BOLT_HEAD`."""
    return [(x.kind, x.size, x.grade, round(x.length, 2), round(x.grip_least, 1), round(x.grip_most, 1), x.count, x.nuts, x.washers, x.where) for x in lines]


def export_bill(ledger: Ledger, path: "str | Path") -> list[Path]:
    """Write bill and bolt list: ``.xlsx`` holds both as sheets, ``.csv`` writes a second file ``…-bolts.csv``; the files written."""
    path = Path(path)
    parts = bill_rows(bill(ledger))
    bolts = bolt_rows(bolt_list(ledger))
    if path.suffix.lower() == ".xlsx":
        return [write_whole(path, lambda part: _xlsx(part, (("Bill of materials", BILL_HEAD, parts), ("Bolt list", BOLT_HEAD, bolts))))]
    if path.suffix.lower() == ".csv":
        second = path.with_name(f"{path.stem}-bolts.csv")
        return [write_whole(path, lambda part: _csv(part, BILL_HEAD, parts)), write_whole(second, lambda part: _csv(part, BOLT_HEAD, bolts))]
    raise BadFile(f"a bill is not written as {path.suffix or 'a file without suffix'}", str(path), "a name ending in .xlsx or .csv")


def _plain(value: str | float | int) -> str | float | int:
    # a text that a spreadsheet would run as a formula is made plain
    return "'" + value if isinstance(value, str) and value[:1] in "=+-@\t\r" and value[:1] else value


def _csv(path: Path, head: Row, rows: Sequence[Row]) -> None:
    with path.open("w", newline="", encoding="utf-8-sig") as file:
        writer = csv.writer(file)
        writer.writerow(head)
        writer.writerows([_plain(v) for v in row] for row in rows)


def _xlsx(path: Path, sheets: "Sequence[tuple[str, Row, Sequence[Row]]]") -> None:
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
