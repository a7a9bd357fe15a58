"""The tables of the drawer: ledger by kin, findings, bill; one model class for all, filtered as one types."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, QRect, QSortFilterProxyModel, Qt, Signal
from PySide6.QtGui import QColor, QGuiApplication, QIcon, QKeyEvent, QPainter, QResizeEvent
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QStyledItemDelegate, QStyleOptionViewItem, QTableView, QWidget

from tincleat.app.marks import WORDS, mark_icon
from tincleat.app.theme import Theme
from tincleat.families.registry import FAMILIES
from tincleat.ledger.entries import Entry, Kin
from tincleat.ledger.groups import By, Group, Groups
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.through import Stuck, Through
from tincleat.proof.finding import Finding
from tincleat.release.bill import bill
from tincleat.units import format_length, format_volume, in_mass_unit, mass_unit

SHARE = int(Qt.ItemDataRole.UserRole) + 1
LEAST, MOST = 200, 340  # px that the column which says what a row is has at least; and that it asks for at most
PADDING = 24  # px beside a cell's words
Index = QModelIndex | QPersistentModelIndex
ARROWS = (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Home, Qt.Key.Key_End)


@dataclass(frozen=True)
class TableRow:
    """One row: its cells, its state mark, what it stands for."""

    cells: tuple[str, ...]
    state: str = ""
    data: Any = None
    share: tuple[int, int, int] | None = None  # of how many how many are settled, and how many of those are in breach


class Rows(QAbstractTableModel):
    """Rows under a head; the first column carries the state mark."""

    def __init__(self, head: Sequence[str], right: Sequence[int], theme: Theme) -> None:
        super().__init__()
        self.head, self.right, self.theme = tuple(head), set(right), theme
        self.rows: list[TableRow] = []
        self._icons: dict[str, QIcon] = {}

    def put(self, rows: Sequence[TableRow]) -> None:
        """Replace all rows."""
        self.beginResetModel()
        self.rows = list(rows)
        self.endResetModel()

    def set_head(self, head: Sequence[str]) -> None:
        """Call the columns otherwise."""
        if tuple(head) != self.head:
            self.head = tuple(head)
            self.headerDataChanged.emit(Qt.Orientation.Horizontal, 0, len(self.head) - 1)

    def update(self, rows: Sequence[TableRow]) -> None:
        """Take rows that stand for the same things; only those that read otherwise are painted anew."""
        old, self.rows = self.rows, list(rows)
        for i, (a, b) in enumerate(zip(old, rows, strict=True)):
            if a is not b and (a.cells != b.cells or a.state != b.state):
                self.dataChanged.emit(self.index(i, 0), self.index(i, len(self.head) - 1))

    def set_theme(self, theme: Theme) -> None:
        """Take other colours."""
        self.theme = theme
        self._icons.clear()

    def rowCount(self, parent: Index | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.rows)

    def columnCount(self, parent: Index | None = None) -> int:
        return len(self.head)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return self.head[section]
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return int((Qt.AlignmentFlag.AlignRight if section in self.right else Qt.AlignmentFlag.AlignLeft) | Qt.AlignmentFlag.AlignVCenter)
        return None

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        row = self.rows[index.row()]
        if role == Qt.ItemDataRole.DisplayRole:
            return row.cells[index.column()]
        if role == Qt.ItemDataRole.DecorationRole and index.column() == 0 and row.state:
            if row.state not in self._icons:
                self._icons[row.state] = mark_icon(row.state, self.theme)
            return self._icons[row.state]
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return int((Qt.AlignmentFlag.AlignRight if index.column() in self.right else Qt.AlignmentFlag.AlignLeft) | Qt.AlignmentFlag.AlignVCenter)
        if role in (Qt.ItemDataRole.ToolTipRole, Qt.ItemDataRole.AccessibleTextRole):
            return (WORDS.get(row.state, "") + "  " if row.state and index.column() == 0 else "") + row.cells[index.column()]
        if role == SHARE:
            return row.share
        if role == Qt.ItemDataRole.UserRole:
            try:
                return float(row.cells[index.column()].split()[0].replace(",", ""))
            except (ValueError, IndexError):
                return row.cells[index.column()]
        return None


class ShareBar(QStyledItemDelegate):
    """A cell of how many are settled: its words, and under them a bar with what is settled, of that what is in breach, and what is open."""

    def __init__(self, theme: Theme, parent: QWidget) -> None:
        super().__init__(parent)
        self.theme = theme

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        super().paint(painter, option, index)
        share = index.data(SHARE)
        if not share or not share[0]:
            return
        total, settled, breach = share
        room: QRect = option.rect.adjusted(6, 0, -6, 0)  # type: ignore[attr-defined]
        t, left, high = self.theme, room.left(), room.bottom() - 3
        for count, colour in ((settled - breach, t.slate), (breach, t.breach), (total - settled, t.line)):
            wide = round(room.width() * count / total)
            painter.fillRect(left, high, wide if left + wide <= room.right() else room.right() - left + 1, 2, QColor(colour))
            left += wide


class _Filter(QSortFilterProxyModel):
    """Keeps rows that hold every typed word in any cell, and sorts numbers as numbers."""

    def __init__(self) -> None:
        super().__init__()
        self.words: list[str] = []

    def filterAcceptsRow(self, source_row: int, source_parent: Index) -> bool:
        rows = self.sourceModel()
        assert isinstance(rows, Rows)
        row = rows.rows[source_row]
        text = " ".join([*row.cells, WORDS.get(row.state, "")]).lower()
        return all(w in text for w in self.words)

    def lessThan(self, left: Index, right: Index) -> bool:
        a, b = (self.sourceModel().data(i, Qt.ItemDataRole.UserRole) for i in (left, right))
        if isinstance(a, float) and isinstance(b, float):
            return a < b
        return str(a) < str(b)


class Table(QTableView):
    """A filtered, sortable table; Enter and double click act on a row."""

    acted = Signal(object)
    chosen = Signal(object)
    left = Signal()  # columns were left out or taken in

    def __init__(
        self, name: str, head: Sequence[str], stretch: int, right: Sequence[int], theme: Theme, parent: QWidget | None = None, spare: Sequence[int] = ()
    ) -> None:
        super().__init__(parent)
        self.stretch, self.spare = stretch, tuple(spare)
        self.rows = Rows(head, right, theme)
        self.filter = _Filter()
        self.filter.setSourceModel(self.rows)
        self.setModel(self.filter)
        self.setAccessibleName(name)
        self.horizontalHeader().setAccessibleName(f"Columns of the {name.lower()}")
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setShowGrid(False)
        self.setWordWrap(False)
        self.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.verticalHeader().hide()
        self.verticalHeader().setDefaultSectionSize(22)
        self.setTabKeyNavigation(False)
        header = self.horizontalHeader()
        header.setHighlightSections(False)
        header.setSectionResizeMode(QHeaderView.ResizeMode.Interactive)
        header.setSectionResizeMode(stretch, QHeaderView.ResizeMode.Stretch)
        self._floors: Sequence[int] = ()
        self._fitting, self._own = False, set[int]()  # columns that the user made as wide as they are
        self.left_out: set[int] = set()  # columns that the user does not want to see
        header.sectionResized.connect(self._resized)
        self.setSortingEnabled(True)
        header.setSortIndicator(-1, Qt.SortOrder.AscendingOrder)
        self.doubleClicked.connect(lambda i: self.acted.emit(self._row(i).data))
        self.selectionModel().selectionChanged.connect(lambda *_: self._chosen())

    def _row(self, index: Index) -> TableRow:
        return self.rows.rows[self.filter.mapToSource(index).row()]

    def _chosen(self) -> None:
        self.chosen.emit(self.selected())

    def selected(self) -> list[Any]:
        """What the selected rows stand for."""
        return [self._row(i).data for i in self.selectionModel().selectedRows()]

    def put(self, rows: Sequence[TableRow], widths: Sequence[int]) -> None:
        """Show rows; the selection stays on rows that stand for the same thing."""
        old = self.rows.rows
        if len(old) == len(rows) and all(id_of(a.data) == id_of(b.data) for a, b in zip(old, rows, strict=True)):
            self.rows.update(rows)
            return
        before = {id_of(d) for d in self.selected()}
        self.selectionModel().blockSignals(True)
        self.rows.put(rows)
        self._floors = widths
        self._fit()
        for i, row in enumerate(rows):
            if before and id_of(row.data) in before:
                index = self.filter.mapFromSource(self.rows.index(i, 0))
                if index.isValid():
                    self.selectionModel().select(index, self.selectionModel().SelectionFlag.Select | self.selectionModel().SelectionFlag.Rows)
        self.selectionModel().blockSignals(False)

    def _resized(self, column: int, before: int, now: int) -> None:
        """Keep a width that the user's hand gave a column; styles and hiding change widths too."""
        if not self._fitting and now and QGuiApplication.mouseButtons() & Qt.MouseButton.LeftButton:
            self._own.add(column)

    def _wanted(self, column: int) -> int:
        """Pixels that a column's widest words take; 0 where it is empty."""
        texts = sorted({row.cells[column] for row in self.rows.rows}, key=len)[-3:]
        if not any(texts):
            return 0
        metrics = self.fontMetrics()
        head = self.horizontalHeader().fontMetrics().horizontalAdvance(self.rows.head[column]) + 18
        mark = 26 if column == 0 and any(row.state for row in self.rows.rows) else 0
        return max(head, *(metrics.horizontalAdvance(t) + PADDING + mark for t in texts))

    def _fit(self) -> None:
        """Columns as wide as what is in them, those without anything hidden; where they would leave too little for the one that says what a row
        is, the widest give way first, to what each has at least, and at last those go that can be spared."""
        columns = [i for i in range(len(self.rows.head)) if i != self.stretch]
        if not self._floors or not self.rows.rows:
            return
        wanted = {i: 0 if i in self.left_out else self._wanted(i) for i in columns}
        words = sorted((row.cells[self.stretch] for row in self.rows.rows), key=len)
        usual = self.fontMetrics().horizontalAdvance(words[int(0.9 * (len(words) - 1))]) + PADDING  # a single long one may be cut
        told = max(LEAST, min(usual, MOST))
        room = self.viewport().width() - told
        wide = {i: w if i not in self._own else self.columnWidth(i) for i, w in wanted.items() if w}
        floors = {i: min(wide[i], self._floors[i] or wide[i]) for i in wide}
        while sum(wide.values()) > room and (slack := {i: wide[i] - floors[i] for i in wide if wide[i] > floors[i] and i not in self._own}):
            widest = max(slack, key=lambda i: wide[i])
            wide[widest] -= min(slack[widest], sum(wide.values()) - room)
        for column in self.spare:
            if column in wide and self.viewport().width() - sum(wide.values()) < told:
                del wide[column]
        self._fitting = True
        for i in columns:
            self.setColumnHidden(i, i not in wide)
            if i in wide:
                self.setColumnWidth(i, wide[i])
        self._fitting = False

    def leave_out(self, column: int, there: bool) -> None:
        """Show a column or leave it out."""
        (self.left_out.discard if there else self.left_out.add)(column)
        self._fit()
        self.left.emit()

    def give_width(self, column: int, more: int) -> None:
        """Make a column wider or narrower by hand; it keeps that width."""
        self._own.add(column)
        self._fitting = True
        self.setColumnWidth(column, max(30, self.columnWidth(column) + more))
        self._fitting = False

    def fit_all(self) -> None:
        """Give all columns the width of what is in them again."""
        self._own.clear()
        self._fit()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Columns share the room anew."""
        super().resizeEvent(event)
        self._fit()

    def search(self, text: str) -> None:
        """Keep only rows with all these words."""
        self.filter.words = text.lower().split()
        self.filter.invalidate()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in ARROWS and not event.modifiers() and not self.selectionModel().hasSelection() and self.filter.rowCount():
            self.selectRow(max(self.currentIndex().row(), 0))  # the row the focus is on comes first: it may be the only one
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.currentIndex().isValid():
            self.acted.emit(self._row(self.currentIndex()).data)
        else:
            super().keyPressEvent(event)


def id_of(data: Any) -> Any:
    """What stays the same about a row when the ledger changes."""
    if isinstance(data, Kin):
        return id(data.case)
    if isinstance(data, Group):
        return (data.by, data.key)
    if isinstance(data, tuple) and len(data) == 2:
        whose = data[0].members if isinstance(data[0], Through | Stuck) else data[0].joint.key
        return (whose, data[1].key)
    return getattr(data, "mark", data)


LEDGER_HEAD = ("State", "Joint", "Where", "Joined", "Connection", "Finding")
LEDGER_WIDTHS = (96, 0, 124, 84, 96, 96)
FINDING_HEAD = ("Level", "What", "Actual", "Required", "Clause", "At", "Alike")
FINDING_WIDTHS = (92, 0, 58, 74, 196, 56, 50)
def bill_head(unit: str) -> tuple[str, ...]:
    """The bill's head; masses in lb beside inches."""
    return ("Mark", "Kind", "Size", "Grade", "Length", "Count", f"Each {mass_unit(unit)}", f"Mass {mass_unit(unit)}", "Where")


BILL_HEAD = bill_head("mm")
BILL_WIDTHS = (48, 74, 136, 54, 70, 52, 86, 70, 0)


class LedgerRows:
    """The ledger's rows, one a group; a group in which nothing changed keeps its row."""

    def __init__(self) -> None:
        self._kept: dict[int, tuple[Kin | Group, TableRow]] = {}
        self._read: object = None
        self._groups = Groups()

    def rows(self, ledger: Ledger, by: By = "kin") -> list[TableRow]:
        """All rows as they are now."""
        read = (by, ledger.project.house.units, tuple(ledger.project.levels.values()))
        before = self._kept if read == self._read else {}
        self._read = read
        some: Sequence[Kin | Group] = ledger.kin() if by == "kin" else self._groups.of(ledger, by)
        self._kept = {id(k): (k, old[1] if (old := before.get(id(k))) is not None and old[0] is k else _ledger_row(k, ledger)) for k in some}
        return [row for _, row in self._kept.values()]


def _ledger_row(k: Kin | Group, ledger: Ledger) -> TableRow:
    state = "open" if k.joined == 0 else "plain" if all(e.left_plain for e in k.entries) else k.level
    worst = next((f for e in k.entries for f in e.findings if f.level == k.level), None) if k.joined and k.level in ("breach", "note") else None
    families = sorted({FAMILIES[e.connection.family].label if e.connection.family in FAMILIES else e.connection.family for e in k.entries if e.connection})
    if isinstance(k, Group) and k.by == "level":
        where = f"{k.kinds} kin"
    else:
        places = sorted({ledger.place(j) for j in {round(e.joint.height, 1): e.joint for e in k.entries}.values()})
        where = places[0] if len(places) == 1 else f"{len(places)} levels"
    part = WORDS[state] if k.joined in (0, len(k.entries)) else f"{len(k.entries) - k.joined} open"
    cells = (part, k.name if isinstance(k, Group) else k.words, where, f"{k.joined:,} / {len(k.entries):,}", ", ".join(families), worst.title if worst else "")
    return TableRow(cells, state, k, (len(k.entries), k.joined, k.breaches))


def finding_rows(ledger: Ledger, through: Sequence[tuple[Through | Stuck, Finding]] = ()) -> list[TableRow]:
    """Findings that are not clear, one row a rule, part and kin, and one for all that is told of members; breaches first, accepted ones last."""
    unit = ledger.project.house.units
    groups: dict[tuple[Any, ...], list[tuple[Entry, Finding]]] = {}
    for entry in ledger.entries.values():
        for f in entry.findings if entry.level != "clear" else ():
            if f.level != "clear":
                key = (f.level, f.rule, f.part, round(f.actual, 2), id(entry.joint.case))
                groups.setdefault(key, []).append((entry, f))
    rows = []
    for found in groups.values():
        entry, f = found[0]
        name = entry.connection.id if entry.connection else ""
        cells = (WORDS[f.level], f"{f.title} · {f.part}", amount(f.actual, f.unit, unit), limit(f, unit), f.clause, name, str(len(found)))
        rows.append(TableRow(cells, f.level, (entry, f)))
    for pair, f in through:
        cells = (WORDS[f.level], f"{f.title} · {f.part}", amount(f.actual, f.unit, unit), limit(f, unit), f.clause, "", str(len(pair.members)) if isinstance(pair, Stuck) else "1")
        rows.append(TableRow(cells, f.level, (pair, f)))
    rank = {"breach": 0, "note": 1, "concession": 2}
    return sorted(rows, key=lambda r: rank[r.state])


def amount(value: float, unit: str, project_unit: str) -> str:
    """A measured value as shown."""
    if unit == "mm":
        return format_length(round(value, 2), project_unit)
    if unit == "mm³":
        return format_volume(value, project_unit)
    return f"{value:.4g}°" if unit == "deg" else f"{value:g}"


def limit(f: Finding, project_unit: str) -> str:
    """A required value with its sense."""
    return {">=": "≥ ", "<=": "≤ ", "is": "→ ", "in": "in "}[f.sense] + amount(f.required, f.unit, project_unit)


BOLTS_WIDTHS = (0,) * 10
WELDS_WIDTHS = (0,) * 10


def plain_rows(rows: Sequence[Sequence[object]]) -> list[TableRow]:
    """Rows of a list that is written to files too, as rows of a table."""
    return [TableRow(tuple(f"{v:,.1f}" if isinstance(v, float) else str(v) for v in row), "", tuple(row[:4])) for row in rows]


def bill_table_rows(ledger: Ledger) -> list[TableRow]:
    """A row a bill line."""
    unit = ledger.project.house.units
    return [
        TableRow(
            (x.mark, x.kind, x.size, x.grade, format_length(round(x.length, 1), unit), str(x.count), f"{in_mass_unit(x.mass_each, unit):.2f}", f"{in_mass_unit(x.mass, unit):.1f}", x.where), "", x
        )
        for x in bill(ledger)
    ]
