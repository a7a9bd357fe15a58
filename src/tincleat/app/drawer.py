"""The drawer below the model: ledger, findings and bill as tables, with one filter."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QStackedWidget, QTabBar, QVBoxLayout, QWidget

from tincleat.app.fields import Choice
from tincleat.app.review import ReviewPage
from tincleat.app.simple import label
from tincleat.app.tables import (
    BILL_HEAD,
    BILL_WIDTHS,
    BOLTS_WIDTHS,
    FINDING_HEAD,
    FINDING_WIDTHS,
    LEDGER_HEAD,
    LEDGER_WIDTHS,
    WELDS_WIDTHS,
    LedgerRows,
    ShareBar,
    Table,
    bill_head,
    bill_table_rows,
    finding_rows,
    plain_rows,
)
from tincleat.app.theme import Theme
from tincleat.app.waiting import busy, busy_if_large, overlaps_told
from tincleat.commands.desk import Desk
from tincleat.exchange.tables import BOLT_HEAD, WELD_HEAD, bolt_head, bolt_rows, weld_head, weld_rows
from tincleat.ledger.groups import By
from tincleat.ledger.ledger import Ledger
from tincleat.release.bill import bolt_list
from tincleat.release.weld_list import total, weld_list
from tincleat.units import in_mass_unit, is_inch, mass_unit

BY: dict[str, By] = {"By kin": "kin", "By level": "level", "By zone": "zone", "By member": "member"}
LISTS = ("Parts", "Bolts", "Welds")
TABS = ("Ledger", "Findings", "Bill", "Review")


class Drawer(QWidget):
    """Tables, of which only the one in view is filled, and the page of changes to look through."""

    joint_asked = Signal(object)
    finding_asked = Signal(object)
    chosen = Signal(object)
    query_asked = Signal(str)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.setObjectName("drawer")
        self._kin_rows = LedgerRows()
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(0)
        top = QHBoxLayout()
        top.setContentsMargins(4, 0, 8, 0)
        self.tabs = QTabBar()
        self.tabs.setAccessibleName("Tables")
        self.tabs.setDrawBase(False)
        self.tabs.setExpanding(False)
        self.tabs.setUsesScrollButtons(False)
        for name in TABS:
            self.tabs.addTab(name)
        self.count = label("", "quiet")
        self.search = QLineEdit()
        self.search.setPlaceholderText("Filter, or size:UB*")
        self.search.setAccessibleName("Filter the table")
        self.search.setClearButtonEnabled(True)
        self.search.setMinimumWidth(110)
        self.search.setMaximumWidth(220)
        self.by = Choice()
        self.by.addItems(list(BY))
        self.by.setAccessibleName("Rows of the ledger")
        self.by.setToolTip("What a row of the ledger is: joints alike, of one level, of one zone between grid lines, of one member")
        self.by.activated.connect(lambda _: self._regroup())
        self.lists = Choice()
        self.lists.addItems(list(LISTS))
        self.lists.setAccessibleName("Which list")
        self.lists.setToolTip("Members and parts, bolts, or what there is to weld")
        self.lists.activated.connect(lambda _: self._relist())
        top.addWidget(self.tabs)
        top.addSpacing(8)
        top.addWidget(self.by)
        top.addWidget(self.lists)
        top.addStretch(1)
        top.addWidget(self.count)
        top.addSpacing(8)
        top.addWidget(self.search, 1)
        rows.addLayout(top)
        self.stack = QStackedWidget()
        self.ledger_table = Table("Ledger", LEDGER_HEAD, 1, (3,), theme, spare=(4, 5))
        self.bar = ShareBar(theme, self.ledger_table)
        self.ledger_table.setItemDelegateForColumn(3, self.bar)
        self.finding_table = Table("Findings", FINDING_HEAD, 1, (2, 3, 6), theme, spare=(5, 4))
        self.bill_table = Table("Bill", BILL_HEAD, 8, (4, 5, 6, 7), theme)
        self.bolt_table = Table("Bolt list", BOLT_HEAD, 9, (3, 4, 5, 6, 7, 8), theme, spare=(4, 5))
        self.weld_table = Table("Weld list", WELD_HEAD, 9, (2, 4, 5, 6, 7, 8), theme, spare=(6,))
        self.empty = label("", "quiet", True)
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.review = ReviewPage(theme)
        for page in (self.ledger_table, self.finding_table, self.bill_table, self.bolt_table, self.weld_table, self.review):
            self.stack.addWidget(page)
        self.stack.addWidget(self.empty)
        self.review.filled.connect(lambda: self._count() if TABS[self.tabs.currentIndex()] == "Review" else None)
        rows.addWidget(self.stack, 1)
        self.desk: Desk | None = None
        self.ledger: Ledger | None = None
        self.stale = dict.fromkeys(TABS, True)
        self.totals = ""  # of the weld list, in words
        self.tabs.currentChanged.connect(lambda _: self._turn_to())
        self.search.textChanged.connect(self._search)
        self.search.returnPressed.connect(lambda: self.query_asked.emit(self.search.text()) if ":" in self.search.text() else None)
        self.ledger_table.acted.connect(self.joint_asked.emit)
        self.finding_table.acted.connect(self.finding_asked.emit)
        self.ledger_table.chosen.connect(self.chosen.emit)
        self.finding_table.chosen.connect(self.chosen.emit)

    def show_desk(self, desk: Desk | None) -> None:
        """Show another project, or the same one changed."""
        self.desk, self.ledger = desk, desk.ledger if desk else None
        self.stale = dict.fromkeys(TABS, True)
        self.refresh()

    def go(self, tab: str) -> None:
        """Bring a table to the front."""
        self.tabs.setCurrentIndex(TABS.index(tab))

    @property
    def tables(self) -> tuple[Table, ...]:
        """All of its tables."""
        return (self.ledger_table, self.finding_table, self.bill_table, self.bolt_table, self.weld_table, self.review.table)

    def current(self) -> Table:
        """The table in view."""
        return (self.ledger_table, self.finding_table, self._list(), self.review.table)[self.tabs.currentIndex()]

    def _list(self) -> Table:
        return (self.bill_table, self.bolt_table, self.weld_table)[LISTS.index(self.lists.currentText())]

    def refresh(self) -> None:
        """Fill the table in view if it is out of date."""
        tab = TABS[self.tabs.currentIndex()]
        table = self.current()
        self.by.setVisible(tab == "Ledger")
        self.lists.setVisible(tab == "Bill")
        if self.desk is None or self.ledger is None:
            return
        if tab == "Review":
            self.stack.setCurrentWidget(self.review)
            self._count()
            return
        if self.stale[tab]:
            if tab == "Ledger":
                table.put(self._kin_rows.rows(self.ledger, BY[self.by.currentText()]), LEDGER_WIDTHS)
            elif tab == "Findings":
                table.put(finding_rows(self.ledger, overlaps_told(self.desk)), FINDING_WIDTHS)
            else:
                self._fill_list(table, self.ledger)
            self.stale[tab] = False
        words = {
            "Ledger": "No joints yet: joints are found where member ends meet. Add members first.",
            "Findings": "No breaches and no notes. Every check of every connection is clear.",
            "Bill": {"Parts": "Nothing to count yet. Add members first.", "Bolts": "No bolts yet. Join something first.", "Welds": "No welds yet. Join something first."}[self.lists.currentText()],
        }
        self.empty.setText(words[tab])
        self.stack.setCurrentWidget(table if table.rows.rows else self.empty)
        self._count()

    def _fill_list(self, table: Table, ledger: Ledger) -> None:
        unit = ledger.project.house.units
        if table is self.bill_table:
            table.rows.set_head(bill_head(unit))
            table.put(bill_table_rows(ledger), BILL_WIDTHS)
        elif table is self.bolt_table:
            table.rows.set_head(tuple(h.capitalize() for h in bolt_head(unit)))
            table.put(plain_rows(bolt_rows(bolt_list(ledger), unit)), BOLTS_WIDTHS)
        else:
            table.rows.set_head(tuple(h.capitalize() for h in weld_head(unit)))
            lines = weld_list(ledger)
            table.put(plain_rows(weld_rows(lines, unit)), WELDS_WIDTHS)
            far, mass, hours = total(lines)
            length = f"{far / 304.8:,.0f} ft" if is_inch(unit) else f"{far / 1000:,.0f} m"
            self.totals = f"{length}, {in_mass_unit(mass, unit):,.0f} {mass_unit(unit)}, {hours:,.0f} h"

    def _turn_to(self) -> None:
        with busy_if_large(self.desk):
            self.refresh()

    def _relist(self) -> None:
        self.stale["Bill"] = True
        with busy():
            self.refresh()

    def _regroup(self) -> None:
        self.stale["Ledger"] = True
        self.ledger_table.clearSelection()
        with busy():  # half a second where there are ten thousand members
            self.refresh()

    def _search(self, text: str) -> None:
        if ":" in text:  # a query for members, taken with Enter
            text = ""
        for table in self.tables:
            table.search(text)
        self._count()

    def _count(self) -> None:
        table = self.current()
        shown, every = table.filter.rowCount(), len(table.rows.rows)
        rows = {"kin": "kin groups", "level": "levels", "zone": "zones", "member": "members"}[BY[self.by.currentText()]]
        noun = {"Ledger": rows, "Findings": "findings", "Bill": "lines", "Review": "rows"}[TABS[self.tabs.currentIndex()]]
        noun = noun[:-1] if every == 1 else noun
        if table is self.weld_table and every and shown == every:
            self.count.setText(self.totals)
        else:
            self.count.setText(f"{shown} of {every} {noun}" if shown != every else f"{every} {noun}")
