"""The settings of a connection that are no dimension on its sheet: a field each, in groups, and the parts and alterations they go with."""

from collections.abc import Callable
from typing import Any, Protocol

from PySide6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QLineEdit, QVBoxLayout, QWidget

from tincleat.app.alterations import alteration_rows
from tincleat.app.alterations import now as altered_now
from tincleat.app.fields import Choice, mark_bad
from tincleat.app.loose import part_adder, part_head
from tincleat.app.sheet_view import SheetView
from tincleat.app.simple import clear_box, label
from tincleat.app.theme import font
from tincleat.commands.desk import Desk
from tincleat.errors import TinCleatError
from tincleat.families.declare import Family, Setting, check, parse, show
from tincleat.geometry.frames import Frame
from tincleat.ledger.entries import Entry
from tincleat.ledger.layers import layer
from tincleat.ledger.made import Made
from tincleat.ledger.schedule import NO_ROW, rows_of
from tincleat.project.entities import Value

BY_FIGURES = "the row that fits"
WORKED_OUT = "worked out"


class Panel(Protocol):
    """The panel of a connection, as far as this needs it."""

    sheet: SheetView
    desk: Desk | None
    run: Callable[..., bool]
    fail: Callable[[str], None]

    @property
    def kind(self) -> Family:
        """The family of the connection shown."""

    @property
    def entry(self) -> Entry | None:
        """The entry shown."""

    def shown(self) -> "tuple[Made, Frame] | None":
        """The detail shown, kept or tried, and where its joint is."""

    def targets(self) -> list[str]:
        """Ids of the connections that an edit changes."""

    def unit(self) -> str:
        """The unit of what is typed and shown."""

    def value_of(self, name: str) -> Value | None:
        """The value in use of a setting."""

    def keep(self, settings: dict[str, Any]) -> bool:
        """Keep settings; False where they are refused, which is told."""

    def refresh(self) -> None:
        """Bring everything in step with what is kept."""


class SettingsForm:
    """The fields of one panel's connection, in ``box``; ``point`` has the points picked of a weld among loose parts, by its number."""

    def __init__(self, panel: Panel, box: QVBoxLayout, point: Callable[[int], None]) -> None:
        self.panel, self.box, self._point = panel, box, point
        self.fields: dict[str, QWidget] = {}
        self.built_for: tuple[Any, ...] = ()

    def show(self, entry: Entry) -> None:
        """Bring the fields in step with an entry; they are laid out anew where it has others."""
        on_sheet = {d.setting for d in self.panel.sheet.drawing.dimensions} if self.panel.sheet.drawing else set()
        every = self.panel.kind.settings_in(entry.made.detail) if entry.made is not None else list(self.panel.kind.settings)
        chosen = [s for s in every if s.name not in on_sheet]
        marks = tuple(mark for mark, _ in rows_of(self.panel.desk.project, self.panel.kind.name)) if self.panel.desk is not None else ()
        unmet = entry.made.detail.unmet if entry.made is not None else ()
        key = (self.panel.kind.name, tuple(s.name for s in chosen), self.panel.unit(), marks, tuple(altered_now(entry)), unmet)
        if key != self.built_for:
            self._build(chosen)
            self.built_for = key
        assert entry.connection is not None
        idle = set(self.panel.kind.idle(entry.made.detail, [s.name for s in chosen])) if entry.made is not None else set()
        for s in chosen:
            self._fill_editor(s, self.fields[s.name], entry.connection.settings.get(s.name), self.panel.value_of(s.name), s.name in idle, entry.made)

    def _build(self, chosen: list[Setting]) -> None:
        at = next((name for name, w in self.fields.items() if w.hasFocus()), "")
        clear_box(self.box)
        self.fields = {}
        groups: dict[str, list[Setting]] = {}
        for s in chosen:
            groups.setdefault(s.group, []).append(s)
        if self.panel.kind.parts:
            self.box.addLayout(part_adder(self.panel, self.panel.run))
        for name, settings in groups.items():
            if self.panel.kind.parts and settings[0].each:
                self.box.addLayout(part_head(self.panel, name, self.panel.run, self._point))
            else:
                self.box.addWidget(label(name.upper(), "group"))
            grid = QGridLayout()
            grid.setHorizontalSpacing(8)
            grid.setVerticalSpacing(4)
            grid.setColumnStretch(0, 1)
            for row, s in enumerate(settings):
                text = label(s.label)
                text.setToolTip(s.help)
                editor = self._editor(s)
                editor.setToolTip(s.help)
                editor.setAccessibleName(s.label)
                editor.setAccessibleDescription(s.help)
                editor.setFixedWidth(176)
                text.setBuddy(editor)
                grid.addWidget(text, row, 0)
                grid.addWidget(editor, row, 1)
                self.fields[s.name] = editor
            self.box.addLayout(grid)
        if not self.panel.kind.parts:
            self.box.addWidget(label("ALTERATIONS", "group"))
            self.box.addLayout(alteration_rows(self.panel, self.panel.run))
        if at:
            self.fields.get(at, self.panel.sheet).setFocus()

    def _editor(self, s: Setting) -> QWidget:
        if s.kind == "schedule":
            assert self.panel.desk is not None
            marks = Choice()
            marks.addItems([BY_FIGURES, *(mark for mark, _ in rows_of(self.panel.desk.project, self.panel.kind.name)), NO_ROW])
            marks.activated.connect(lambda i, s=s, marks=marks: self.put(s, marks.currentText() if i else None))
            return marks
        if s.kind == "choice":
            box = Choice()
            box.addItems(([WORKED_OUT] if s.default is None else []) + list(s.choices))
            box.activated.connect(lambda i, s=s, box=box: self.put(s, None if i == 0 and s.default is None else box.currentText()))
            return box
        if s.kind == "flag":
            tick = QCheckBox()
            tick.clicked.connect(lambda on, s=s: self.put(s, bool(on)))
            return tick
        line = QLineEdit()
        line.setFont(font(9, mono=True))
        line.editingFinished.connect(lambda s=s, line=line: self._line_done(s, line))
        return line

    def _fill_editor(self, s: Setting, editor: QWidget, typed: Value | None, used: Value | None, idle: bool, made: Made | None) -> None:
        editor.blockSignals(True)
        if s.kind == "schedule" and isinstance(editor, QComboBox):
            editor.setItemText(0, f"{BY_FIGURES}: {used}" if used and not typed else BY_FIGURES)
            editor.setCurrentIndex(max(0, editor.findText(str(typed))) if typed else 0)
        elif isinstance(editor, QComboBox):
            if s.default is None:
                editor.setItemText(0, "not in use" if idle else f"({used})" if used else WORKED_OUT)
            shown = typed if typed is not None else None if s.default is None else used
            editor.setCurrentIndex(max(0, editor.findText(str(shown))) if shown is not None else 0)
        elif isinstance(editor, QCheckBox):
            editor.setChecked(bool(used))
        elif isinstance(editor, QLineEdit):
            shown = show(s, used, self.panel.unit()) if used is not None else ""
            worked = "not in use" if idle else "none" if s.kind == "points" and not used else "worked out" if used in (None, 0.0) and s.default is None else shown
            editor.setText(show(s, typed, self.panel.unit()) if typed is not None else "")
            editor.setPlaceholderText(worked)
            if editor.property("bad"):
                mark_bad(editor, "")
            editor.setModified(False)
        entry = self.panel.entry
        tail = layer(self.panel.desk.project, entry, s.name).words if self.panel.desk is not None and entry is not None and entry.made is made and made is not None else "not in use as the detail is now" if idle else ""
        editor.setToolTip(f"{s.help}\n{tail[:1].upper()}{tail[1:]}." if tail else s.help)
        editor.blockSignals(False)

    def _line_done(self, s: Setting, line: QLineEdit) -> None:
        if not line.isModified():
            return
        line.setModified(False)
        try:
            value = parse(s, line.text(), self.panel.unit()) if line.text().strip() else None
        except TinCleatError as error:
            mark_bad(line, str(error))
            self.panel.fail(f"{s.label}: {error}")
            line.setFocus()
            line.selectAll()
            return
        self.put(s, value)

    def put(self, s: Setting, value: Value | None) -> None:
        """Keep a value, None for the one that is worked out; what cannot be is told at its field."""
        try:
            value = check(s, value) if value is not None else None
        except TinCleatError as error:
            mark_bad(self.fields[s.name], str(error))
            self.panel.fail(f"{s.label}: {error}")
            return
        if not self.panel.keep({s.name: value}):
            self.panel.refresh()


