"""The page of house rules: every rule with its standard, a search over them, and what a change would do to the model before it is kept."""

from collections.abc import Callable
from functools import partial, reduce
from typing import Any

import msgspec
from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtWidgets import QCheckBox, QFileDialog, QGridLayout, QHBoxLayout, QLabel, QLineEdit, QProgressBar, QPushButton, QScrollArea, QVBoxLayout, QWidget

from tincleat.app import standards
from tincleat.app.context import Host
from tincleat.app.counted import counted
from tincleat.app.dialogs import Ask
from tincleat.app.fields import Choice, Line
from tincleat.app.house_defaults import offer_defaults
from tincleat.app.jobs import Job
from tincleat.app.simple import button, clear_box, label
from tincleat.app.theme import font
from tincleat.app.waiting import FELT
from tincleat.commands.house import with_values
from tincleat.errors import TinCleatError
from tincleat.exchange.standard_file import read_standard
from tincleat.ledger.effect import Effect, effect, in_words
from tincleat.project.entities import HouseRules
from tincleat.project.house_sheet import RULES, HouseRule, differing, standard

NAME, EDITOR, ASIDE = 230, 240, 190  # pixels; what is longer than an editor, such as a stock, has the whole column
TAKE = "Take from a standard…"


class Row(QObject):
    """One rule's line: its name, its editor, and beside it what it was or what the standard says."""

    def __init__(self, rule: HouseRule, editor: QWidget, name: QLabel, aside: QPushButton) -> None:
        super().__init__(editor)
        self.rule, self.editor, self.name, self.aside = rule, editor, name, aside

    def show(self, house: HouseRules, was: HouseRules, usual: HouseRules) -> None:
        """Show the value as it would be, and beside it what the way back leads to."""
        shown = self.rule.shown(house)
        if isinstance(self.editor, Choice):
            self.editor.blockSignals(True)
            self.editor.setCurrentText(shown)
            self.editor.blockSignals(False)
        elif isinstance(self.editor, Line):
            self.editor.take(shown)
        changed = self.rule.value(house) != self.rule.value(was)
        differs = self.rule in differing(house, usual)
        unit = self.rule.measured(house)
        self.name.setText(self.rule.label + (f", {unit}" if unit else ""))
        self.name.setFont(font(9, bold=changed))
        self.aside.setText(f"was {_short(self.rule.shown(was))}" if changed else f"standard {_short(self.rule.shown(usual))}" if differs else "")
        self.aside.setToolTip("Take this change back" if changed else "Back to the standard" if differs else "")
        self.aside.setVisible(changed or differs)
        self.aside.setAccessibleName(f"{self.rule.label}: {self.aside.toolTip()}, {self.aside.text()}")


def _short(text: str) -> str:
    return text if len(text) <= 26 else text[:25] + "…"


class HousePage(QWidget):
    """All house rules of the open project.  Changes gather here, are tried beside the window's own work, and are kept as one step."""

    def __init__(self, w: Host, leave: Callable[[], None]) -> None:
        super().__init__()
        self.w, self._leave = w, leave
        self.pending: dict[str, Any] = {}
        self.found: Effect | None = None
        self._job: Job | None = None
        self._old: list[Job] = []
        self.rows: dict[str, Row] = {}
        self._heads: dict[str, QLabel] = {}
        across = QHBoxLayout(self)
        across.setContentsMargins(0, 0, 0, 0)
        across.setSpacing(0)
        left = QVBoxLayout()
        left.setContentsMargins(20, 14, 12, 10)
        head = QHBoxLayout()
        head.addWidget(label("House rules", "heading"))
        head.addStretch(1)
        self.back = button("Back to the model", self.leave, "", "Esc")
        head.addWidget(self.back)
        left.addLayout(head)
        tools = QHBoxLayout()
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find a rule")
        self.search.setAccessibleName("Find a rule")
        self.search.setClearButtonEnabled(False)
        self.search.textChanged.connect(lambda _: self._filter())
        tools.addWidget(self.search, 1)
        self.only = QCheckBox("Only what differs from the standard")
        self.only.toggled.connect(lambda _: self._filter())
        tools.addSpacing(8)
        tools.addWidget(self.only)
        left.addLayout(tools)
        self.none = label("", "quiet", True)
        left.addWidget(self.none)
        body = QWidget()
        self.grid = QGridLayout(body)
        self.grid.setContentsMargins(0, 0, 8, 8)
        self.grid.setHorizontalSpacing(12)
        self.grid.setVerticalSpacing(4)
        self.grid.setColumnMinimumWidth(0, NAME)
        self.grid.setColumnStretch(1, 1)
        self.grid.setColumnMinimumWidth(2, ASIDE)
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.area.setAccessibleName("House rules")
        self.area.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # its rules are what the keyboard goes to; it follows them
        self.area.setWidget(body)
        left.addWidget(self.area, 1)
        across.addLayout(left, 1)
        across.addWidget(self._side())
        self._build()

    def _side(self) -> QWidget:
        side = QWidget()
        side.setObjectName("panel")
        side.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        side.setFixedWidth(340)
        rows = QVBoxLayout(side)
        rows.setContentsMargins(14, 14, 14, 12)
        rows.addWidget(label("What changes", "heading"))
        self.told = QVBoxLayout()
        self.told.setSpacing(6)
        rows.addLayout(self.told)
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.bar.setAccessibleName("Trying the house rules")
        self.stop = button("Stop trying", self._stop, "link")
        rows.addWidget(self.bar)
        rows.addWidget(self.stop)
        buttons = QHBoxLayout()
        self.keep = button("Keep", self.keep_all, "go", "All changes as one step, which can be undone")
        self.drop = button("Drop changes", self.drop_all)
        buttons.addWidget(self.keep)
        buttons.addWidget(self.drop)
        buttons.addStretch(1)
        rows.addLayout(buttons)
        self.error = label("", "breach", True)
        rows.addWidget(self.error)
        rows.addStretch(1)
        self.about = label("", "quiet", True)
        rows.addWidget(self.about)
        rows.addWidget(label("OFFICE STANDARDS", "group"))
        self.take = Choice()
        self.take.setAccessibleName("Take from a standard")
        self.take.activated.connect(lambda i: self._take(self.take.itemText(i)) if i else None)
        rows.addWidget(self.take)
        line = QHBoxLayout()
        line.addWidget(button("Keep as a standard…", self._keep_standard, "link", "Under a name, for other projects to start from"))
        line.addWidget(button("From a file…", self._from_file, "link"))
        line.addStretch(1)
        rows.addLayout(line)
        return side

    def _build(self) -> None:
        at = 0
        for rule in RULES:
            if rule.group not in self._heads:
                self._heads[rule.group] = label(rule.group.upper(), "group")
                self.grid.addWidget(self._heads[rule.group], at, 0, 1, 3)
                at += 1
            name = label(rule.label)
            name.setToolTip(rule.help)
            editor = self._editor(rule)
            editor.setAccessibleName(rule.label)
            editor.setAccessibleDescription(rule.help)
            editor.setToolTip(rule.help)
            editor.installEventFilter(self)
            if rule.kind not in ("text", "sizes", "names"):
                editor.setFixedWidth(EDITOR)
            name.setBuddy(editor)
            aside = button("", partial(self._restore, rule), "link")
            row = self.rows[rule.name] = Row(rule, editor, name, aside)
            for column, widget in enumerate((row.name, row.editor, row.aside)):
                self.grid.addWidget(widget, at, column)
            at += 1
        self.grid.setRowStretch(at, 1)

    def _editor(self, rule: HouseRule) -> QWidget:
        if rule.kind in ("choice", "flag"):
            box = Choice()
            box.addItems(list(rule.choices) if rule.kind == "choice" else ["yes", "no"])
            box.activated.connect(lambda _, rule=rule, box=box: self._typed(rule, box.currentText()))
            return box
        line = Line("", partial(self._typed, rule))
        line.blank = rule.kind == "letters" or rule.kind == "step"
        return line

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Whatever rule has the keyboard is explained, and is in view."""
        if event.type() == QEvent.Type.FocusIn:
            row = next((r for r in self.rows.values() if r.editor is watched), None)
            if row is not None:
                self.about.setText(f"{row.rule.label}. {row.rule.help}")
                self.area.ensureWidgetVisible(row.editor, 0, 60)
        return False

    # --- what is shown -----------------------------------------------------------

    @property
    def was(self) -> HouseRules:
        """The house rules that are kept."""
        assert self.w.desk is not None
        return self.w.desk.project.house

    @property
    def house(self) -> HouseRules:
        """The house rules with what was changed here."""
        known = {r.name: r for r in RULES}
        return reduce(lambda house, item: known[item[0]].put(house, item[1]), self.pending.items(), self.was)

    @property
    def trying(self) -> bool:
        """Whether a change is being tried on the model just now."""
        return self._job is not None

    def open(self) -> None:
        """Show the rules of the project as they are kept."""
        self.pending = {}
        self.error.setText("")
        self.about.setText("")
        self.take.clear()
        self.take.addItems([TAKE, *standards.names(self.w.settings)])
        self._refresh()
        self.search.setFocus()

    def go_to(self, name: str) -> None:
        """Bring a rule into view, with the keyboard on it."""
        row = self.rows[name]
        row.editor.setFocus()
        self.area.ensureWidgetVisible(row.editor, 0, 120)
        if isinstance(row.editor, QLineEdit):
            row.editor.selectAll()

    def _refresh(self) -> None:
        """Show all rules as they would be, and try what changed on the model."""
        house, was = self.house, self.was
        usual = standard(house)
        for row in self.rows.values():
            row.show(house, was, usual)
        count = len(differing(house, usual))
        self.only.setText(f"Only what differs from the standard ({count})")
        self._filter()
        self._try(house)

    def _filter(self) -> None:
        words = self.search.text().lower().split()
        house = self.house
        differ = {r.name for r in differing(house, standard(house))} | self.pending.keys()
        shown: dict[str, bool] = {}
        for row in self.rows.values():
            r = row.rule
            text = f"{r.name} {r.label} {r.group} {r.help} {r.shown(house)}".lower()
            on = all(w in text for w in words) and (not self.only.isChecked() or r.name in differ)
            shown[r.group] = shown.get(r.group, False) or on
            row.name.setVisible(on)
            row.editor.setVisible(on)
            row.aside.setVisible(on and bool(row.aside.text()))
        for group, head in self._heads.items():
            head.setVisible(shown.get(group, False))
        self.none.setText("" if any(shown.values()) else "Every rule is the standard's." if not words else "No rule has these words.")
        self.none.setVisible(bool(self.none.text()))

    def _tell(self, lines: list[tuple[str, str]]) -> None:
        clear_box(self.told)
        for text, name in lines:
            self.told.addWidget(label(text, name, True))
        self.keep.setEnabled(bool(self.pending) and self._job is None)
        self.drop.setEnabled(bool(self.pending))
        self.bar.setVisible(self._job is not None)
        self.stop.setVisible(self._job is not None)

    def _changes(self) -> list[tuple[str, str]]:
        house, was = self.house, self.was
        return [(f"{r.rule.label}: {_short(r.rule.shown(was)) or 'nothing'}  →  {_short(r.rule.shown(house)) or 'nothing'}", "") for name, r in self.rows.items() if name in self.pending]

    # --- changing ------------------------------------------------------------------

    def change(self, name: str, text: str) -> str:
        """Take a typed value of a rule among the changes; why it cannot be, or an empty text."""
        return self._typed(self.rows[name].rule, text)

    def _typed(self, rule: HouseRule, text: str) -> str:
        """Take a typed value among the changes; why it cannot be, or an empty text."""
        try:
            value = rule.typed(text, self.house)
            rule.check(rule.put(self.house, value))
            if rule.name == "title" and not str(value).strip():
                return "Title: a name for the project"
        except TinCleatError as error:
            return str(error)
        self._set(rule, value)
        return ""

    def _set(self, rule: HouseRule, value: Any) -> None:
        before = self.house
        if value == rule.value(self.was):
            self.pending.pop(rule.name, None)
        else:
            self.pending[rule.name] = value
        self.error.setText("")
        if self.house != before:
            self._refresh()

    def _restore(self, rule: HouseRule) -> None:
        """Back to what is kept, or of what is kept to the standard."""
        house = self.house
        self._set(rule, rule.value(self.was) if rule.value(house) != rule.value(self.was) else rule.value(standard(house)))

    def drop_all(self) -> None:
        """Back to what is kept."""
        self.pending = {}
        self.error.setText("")
        self._refresh()

    def keep_all(self) -> None:
        """Keep all changes as one command."""
        if not self.pending or self._job is not None:
            return
        was, house = self.was, self.house
        values = {name: msgspec.to_builtins(v) for name, v in self.pending.items()}
        desk = self.w.desk
        if desk is not None and len(desk.project.members) > FELT:  # every detail may have to be made anew
            self.w.follow("Keeping the house rules", lambda: desk.run("set-house-rules", values=values), lambda: self._kept(was, house))
            return
        message = self.w.command_error("set-house-rules", values=values)
        self.error.setText(message)
        if not message:
            self._kept(was, house)

    def _kept(self, was: HouseRules, house: HouseRules) -> None:
        self.pending = {}
        if (was.units, was.rule_set) != (house.units, house.rule_set):
            self.leave()
            offer_defaults(self.w)
            return
        self._refresh()

    def escape(self) -> None:
        """Empty the search, or back to the model."""
        if self.search.text():
            self.search.clear()
            self.search.setFocus()
        else:
            self.leave()

    def leave(self) -> None:
        """Back to the model; what was not kept is said."""
        self._stop()
        lost = len(self.pending)
        self.pending = {}
        self._leave()
        if lost:
            self.w.say(f"{counted(lost, 'change')} of house rules not kept")

    # --- trying --------------------------------------------------------------------

    def _try(self, house: HouseRules) -> None:
        """What the changes would do to the model, off the window's thread."""
        assert self.w.desk is not None
        self._stop(False)
        self.found = None
        if not self.pending:
            self._tell([("Nothing yet. A change is tried on the model first; it is kept when you say so.", "quiet")])
            return
        ledger = self.w.desk.ledger
        job = Job(lambda progress: effect(ledger, house, progress), self)
        self._job = job
        self.bar.setRange(0, 100)
        self.bar.setValue(0)
        job.stepped.connect(lambda share, words: self.bar.setValue(int(share * 100)) if self._job is job else None)
        job.done.connect(lambda found: self._tried(job, found))
        job.failed.connect(lambda words: self._failed(job, words))
        self._tell([*self._changes(), ("Trying them on the model …", "quiet")])
        job.start()

    def changed(self) -> None:
        """The project changed: what is kept may be another thing now."""
        known = {r.name: r for r in RULES}
        self.pending = {name: v for name, v in self.pending.items() if known[name].value(self.was) != v}
        self._refresh()

    def halt(self) -> None:
        """Stop trying; whoever closes or changes the project may go on."""
        self._stop(False)

    def _stop(self, tell: bool = True) -> None:
        if self._job is not None:
            job, self._job = self._job, None
            job.cancel()
            job.wait()  # it stops at its next detail; nothing else may change what it reads
            if tell:
                self._tell([*self._changes(), ("Not tried. Keeping is possible all the same.", "quiet")])

    def _failed(self, job: Job, words: str) -> None:
        if job is self._job:
            self._job = None
            self._tell([*self._changes(), (words, "breach")])

    def _tried(self, job: Job, found: Effect) -> None:
        if job is not self._job:
            return
        self._job, self.found = None, found
        assert self.w.desk is not None
        entries = self.w.desk.ledger.entries
        grave = {0: "breach"} if found.unfit or found.breaches else {}
        lines = in_words(found, lambda key: entries[key].joint.words, self.was.units)
        self._tell([*self._changes(), *((text, grave.get(i, "")) for i, text in enumerate(lines))])

    # --- standards -----------------------------------------------------------------

    def _take(self, name: str) -> None:
        """Gather what a standard says otherwise as changes."""
        self.take.setCurrentIndex(0)
        try:
            self._take_all(standards.rules_of(self.w.settings, name, self.was))
        except TinCleatError as error:
            self.error.setText(str(error))

    def _take_all(self, house: HouseRules) -> None:
        self.pending = {r.name: r.value(house) for r in RULES if r.value(house) != r.value(self.was)}
        self.error.setText("" if self.pending else "It says what is kept here already.")
        self._refresh()

    def _keep_standard(self) -> None:
        def submit(v: dict[str, str]) -> str:
            try:
                path = standards.keep(self.w.settings, v["name"], self.house)
            except (TinCleatError, OSError) as error:
                return str(error)
            self.take.clear()
            self.take.addItems([TAKE, *standards.names(self.w.settings)])
            self.w.say(f"Kept: {path}")
            return ""

        self.w.form("Keep as a standard", "House rules as they stand on the page, without title and north. New projects can start from them.", [Ask("name", "Name", "", hint="such as the office's")], submit)

    def _from_file(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, "House rules", "", "House rules (*.json)")
        if path:
            self.take_file(path)

    def take_file(self, path: str) -> None:
        """Gather what a file of house rules says otherwise as changes; what of it cannot be taken is said."""
        try:
            found = read_standard(path)
            self._take_all(with_values(self.was, found.values))
        except TinCleatError as error:
            self.error.setText(str(error))
            return
        if found.left:
            self.error.setText("Left out: " + "; ".join(found.left[:4]))
