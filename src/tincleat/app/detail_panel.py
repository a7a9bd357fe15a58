"""The right-hand panel for one joint with a connection: its sheet, its other settings, its findings."""

from collections.abc import Callable
from functools import lru_cache, partial
from itertools import pairwise
from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QMenu,
    QPushButton,
    QScrollArea,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from tincleat.app.belongs import Belonging
from tincleat.app.counted import counted
from tincleat.app.fields import Choice
from tincleat.app.marks import WORDS, mark_icon
from tincleat.app.pulling import Pulling
from tincleat.app.settings_form import SettingsForm
from tincleat.app.sheet_view import SheetView
from tincleat.app.simple import button, clear_box, label
from tincleat.app.tables import amount, limit
from tincleat.app.theme import Theme
from tincleat.app.waiting import busy
from tincleat.commands.desk import Desk
from tincleat.commands.typicals import uses
from tincleat.errors import TinCleatError
from tincleat.families.declare import Family, parse, show
from tincleat.families.registry import family
from tincleat.geometry.frames import Frame
from tincleat.ledger.entries import Entry
from tincleat.ledger.layers import layer
from tincleat.ledger.made import Made
from tincleat.ledger.mend import mend, mend_words
from tincleat.project.entities import Value
from tincleat.project.house_sheet import house_rule
from tincleat.proof.finding import Finding
from tincleat.release.drawing import DimensionText
from tincleat.release.sheet import Pictures, compose, pictures
from tincleat.units import is_inch

VARIANT = "Make a variant"
OWN = ("Edit the typical", VARIANT)  # what an edit may apply to that is never carried on to another joint
Run = Callable[..., bool]


def _applies(words: str) -> str:
    """What an edit applies to, whatever number of them: the last word of ``Edit the 4 selected``, the first two of others."""
    return "selected" if words.endswith("selected") else " ".join(words.split(" ")[:2])


@lru_cache(maxsize=128)
def pictures_of(made: Made) -> Pictures:
    """The projected views of a made detail; the last ones looked at are kept."""
    return pictures(made.assembled)


class DetailPanel(QWidget):
    """Edits one connection, or all its kin at once."""

    previewed = Signal(object)  # Made while typing, None when back to what is kept
    accept_asked = Signal(object)
    show_asked = Signal(object)
    enlarge_asked = Signal()
    rule_asked = Signal(str)  # a house rule by name
    typical_asked = Signal(str)  # a typical by id
    points_asked = Signal(int)  # a weld among loose parts, whose points are to be picked

    def __init__(self, theme: Theme, run: Run, say: Callable[[str], None], fail: Callable[[str], None]) -> None:
        super().__init__()
        self.theme, self.run, self.say, self.fail = theme, run, say, fail
        self.desk: Desk | None = None
        self.key = ""
        self._ordered: object = None  # for which findings and fields Tab was put in order
        self._preview: Made | None = None
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(0)
        head = QWidget()
        rows = QVBoxLayout(head)
        rows.setContentsMargins(12, 8, 12, 6)
        rows.setSpacing(2)
        top = QHBoxLayout()
        self.title, self.words, self.place = label("", "heading"), label("", "", True), label("", "quiet")
        top.addWidget(self.title, 1)
        self.chosen: list[str] = []  # joints that are selected, this one among them
        self.scope = Choice()
        self._scoped: tuple[str, ...] = ()
        self.scope.setAccessibleName("Edit applies to")
        self.scope.setToolTip("What an edit applies to")
        top.addWidget(self.scope)
        rows.addLayout(top)
        rows.addWidget(self.words)
        rows.addWidget(self.place)
        self.follows = QHBoxLayout()
        self.typical = label("", "quiet", True)
        self.follows.addWidget(self.typical, 1)
        self.leave = button("Leave it", lambda: self.run("leave-typical", ids=self.targets()), "link", "Its settings become typed here")
        self.follows.addWidget(self.leave)
        rows.addLayout(self.follows)
        outer.addWidget(head)
        self.split = QSplitter(Qt.Orientation.Vertical)
        self.split.setChildrenCollapsible(False)
        self.sheet = SheetView(theme)
        frame = QFrame()
        frame.setObjectName("sheetframe")
        inside = QVBoxLayout(frame)
        inside.setContentsMargins(0, 1, 0, 0)
        inside.setSpacing(0)
        inside.addWidget(self.sheet, 1)
        tools = QHBoxLayout()
        self.tools: list[QPushButton] = []
        tools.setContentsMargins(8, 0, 8, 2)
        self.rule_line = label("Click a dimension to change it.", "quiet")
        tools.addWidget(self.rule_line, 1)
        for text, slot, tip in (
            ("Fit", self.sheet.fit, "Whole sheet (0)"),
            ("Enlarge", self.enlarge_asked.emit, "Sheet in place of the model (F8)"),
            ("Copy", self.sheet.copy, "Copy the sheet as a picture"),
            ("Print…", self.sheet.print_, "Print the sheet"),
        ):
            self.tools.append(button(text, slot, "link", tip))
            tools.addWidget(self.tools[-1])
        inside.addLayout(tools)
        self.sheet_frame = frame
        self.split.addWidget(frame)
        self.below = QScrollArea()
        self.below.setWidgetResizable(True)
        self.below.setAccessibleName("Findings and settings")
        self.below.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.body = QWidget()
        self.body_rows = QVBoxLayout(self.body)
        self.body_rows.setContentsMargins(12, 4, 12, 12)
        self.body_rows.setSpacing(4)
        self.findings_box = QVBoxLayout()
        form_box = QVBoxLayout()
        self.form = SettingsForm(self, form_box, self.points_asked.emit)
        self.belonging = Belonging(self, pictures_of)
        self.body_rows.addLayout(self.findings_box)
        self.body_rows.addLayout(form_box)
        self.body_rows.addStretch(1)
        self.below.setWidget(self.body)
        self.split.addWidget(self.below)
        self.split.setSizes([440, 250])
        self.split.setStretchFactor(0, 1)
        outer.addWidget(self.split, 1)
        self._all_checks = False
        self._findings_for: tuple[Any, ...] = ()
        self.sheet.asked.connect(self._fill_field)
        self.sheet.typing.connect(self._typing)
        self.sheet.switched.connect(self._switch)
        self.pulling = Pulling(self)
        self.pulling.listen(self.sheet.holding)
        self.sheet.entered.connect(self._entered)
        self.sheet.abandoned.connect(lambda _: self.refresh())
        self.sheet.stepped.connect(self._stepped)
        self.sheet.menu_asked.connect(lambda dim, at: self.menu_of(dim).popup(at))

    # --- what is shown ---------------------------------------------------------

    def show_entry(self, desk: Desk, key: str) -> None:
        """Show the connection of a joint."""
        if key != self.key or desk is not self.desk:
            self._all_checks = False
        self.desk, self.key = desk, key
        self.sheet.finish()
        self.refresh()

    @property
    def entry(self) -> Entry | None:
        """The entry shown, if its joint is still there and joined."""
        found = self.desk.ledger.entries.get(self.key) if self.desk else None
        return found if found is not None and found.connection is not None else None

    @property
    def kind(self) -> Family:
        """The family of the connection shown."""
        entry = self.entry
        assert entry is not None and entry.connection is not None
        return family(entry.connection.family)

    def shown(self) -> "tuple[Made, Frame] | None":
        """The detail shown, kept or tried, and where its joint is; None where there is none, or nothing can be changed."""
        made = self._preview or (self.entry.made if self.entry is not None else None)
        return (made, self.entry.joint.frame) if made is not None and self.entry is not None and self.isVisible() else None

    def refresh(self) -> None:
        """Bring everything in step with what is kept."""
        entry = self.entry
        if entry is None or self.desk is None:
            return
        self.pulling.step()
        assert entry.connection is not None
        if self._preview is not None:
            self._preview = None
            self.previewed.emit(None)
        like = self._like()
        same = len(self.desk.ledger.like(entry.joint))
        self.title.setText(f"{self.kind.label}  {entry.connection.id}")
        self.words.setText(entry.joint.words)
        self.place.setText(f"{self.desk.ledger.place(entry.joint)} · {same} joint{'s' if same > 1 else ''} alike" + (" · mirrored" if entry.joint.mirrored else ""))
        self._show_typical(entry)
        among = self._among()
        choices = ["Edit this joint"] + ([f"Edit all {len(like)} alike"] if len(like) > 1 else []) + ([f"Edit the {len(among)} selected"] if len(among) > 1 else [])
        if entry.connection.typical in self.desk.project.typicals:
            count = len(uses(self.desk.project, entry.connection.typical))
            choices.append(f"Edit the typical, {counted(count, 'use')}")
        choices.append(VARIANT)
        if (self.key, *choices) != self._scoped:
            # of the same joint the same choice; typicals and variants are never carried on to another
            now = _applies(self.scope.currentText()) if self._scoped[:1] == (self.key,) or not self.scope.currentText().startswith(OWN) else ""
            self._scoped = (self.key, *choices)
            self.scope.clear()
            self.scope.addItems(choices)
            self.scope.setCurrentIndex(next((i for i, c in enumerate(choices) if _applies(c) == now), 0))
        self._draw(entry.made)
        self._show_findings(entry)
        self.form.show(entry)
        order = (self.form.built_for, self._findings_for)
        if order != self._ordered:
            self._ordered = order
            self._in_order()
            self.belonging.watch(self.form.fields)
        self.belonging.again()

    def _show_typical(self, entry: Entry) -> None:
        """The typical it uses, and what is typed over it."""
        assert entry.connection is not None and self.desk is not None
        found = self.desk.project.typicals.get(entry.connection.typical)
        over = [self.kind.setting(n).label.lower() for n in entry.connection.settings]
        typed = f"; typed over it: {', '.join(over[:3])}" + (f" and {len(over) - 3} more" if len(over) > 3 else "") if over else ""
        self.typical.setText(f"Typical: {found.name if found else entry.connection.typical}{typed}" if entry.connection.typical else "")
        for one in (self.typical, self.leave):
            one.setVisible(bool(entry.connection.typical))

    def _like(self) -> list[str]:
        """Ids of the connections that an edit of all kin changes: same case, family and settings."""
        entry = self.entry
        if entry is None or self.desk is None:
            return []
        assert entry.connection is not None
        c = entry.connection
        return [
            e.connection.id for e in self.desk.ledger.entries.alike(entry.joint.case)
            if e.connection and e.connection.family == c.family and e.connection.settings == c.settings and e.connection.typical == c.typical
        ]  # fmt: skip

    def _among(self) -> list[str]:
        """Ids of the selected connections of the family shown, this one among them."""
        entry = self.entry
        if entry is None or self.desk is None:
            return []
        assert entry.connection is not None
        found = [self.desk.ledger.entries[k].connection for k in self.chosen if k in self.desk.ledger.entries]
        return [c.id for c in found if c is not None and c.family == entry.connection.family]

    def targets(self) -> list[str]:
        """Ids an edit applies to now."""
        entry = self.entry
        if entry is None:
            return []
        assert entry.connection is not None
        words = self.scope.currentText()
        return self._among() if words.endswith("selected") else self._like() if words.endswith("alike") else [entry.connection.id]

    def keep(self, settings: "dict[str, Any]") -> bool:
        """Change settings of what an edit applies to now: connections, their typical, or a variant that is made of it."""
        entry, words = self.entry, self.scope.currentText()
        if entry is None or entry.connection is None:
            return False
        if words == VARIANT:
            made = self.run("make-variant", ids=[entry.connection.id], settings=settings)
            if made:  # from here on it is the variant that is edited
                self.scope.setCurrentIndex(next(i for i in range(self.scope.count()) if self.scope.itemText(i).startswith("Edit the typical")))
            return made
        if words.startswith("Edit the typical"):
            return self.run("change-typical", typical=entry.connection.typical, settings=settings)
        return self.run("change-connections", ids=self.targets(), settings=settings)

    def _draw(self, made: Made | None) -> None:
        entry = self.entry
        if made is None or entry is None or self.desk is None:
            self.sheet.show_drawing(None)
            self.rule_line.setText(entry.problem if entry else "")
            return
        width, height = self.sheet.paper_size()
        findings = entry.findings if made is entry.made else made.findings
        drawing = compose(pictures_of(made), findings, width, height, self.desk.project.house.units, self.kind.name, at=entry.joint.frame, symbols=self.desk.project.house.weld_symbols, dual=self.desk.project.house.dual)
        self.sheet.show_drawing(drawing)
        rounded = sorted((d for d in drawing.dimensions if d.raw), key=lambda d: not d.view)  # of parts before those of welds
        turned = next((d.raw.split(",")[0] for d in rounded if "→" in d.raw), f"{len(rounded)} adapted")  # what had no figure before says that it is adapted
        self.rule_line.setText(f"1:{drawing.scale:g} · {turned if rounded else 'click a dimension'}")
        self.rule_line.setToolTip("\n".join(d.raw for d in rounded))

    def resizeEvent(self, event: Any) -> None:
        super().resizeEvent(event)
        entry = self.entry
        if entry is not None:
            self._draw(self._preview or entry.made)

    # --- editing on the sheet --------------------------------------------------

    def menu_of(self, dim: DimensionText) -> QMenu:
        """What a number is, where it comes from, and the ways to change it there."""
        entry, menu = self.entry, QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        if entry is None or entry.made is None or entry.connection is None or self.desk is None:
            return menu
        setting, found = self.kind.setting(dim.setting), layer(self.desk.project, entry, dim.setting)
        said = menu.addAction(f"{setting.label}: {found.words}")
        said.setEnabled(False)
        menu.addAction("Change it here…", lambda: self.sheet.begin(dim))
        if dim.setting in entry.connection.settings:
            menu.addAction("Back to what it would be by itself", lambda: self.form.put(setting, None))
        if found.rule:
            menu.addAction(f"Go to the house rule {house_rule(found.rule).label.lower()}", lambda: self.rule_asked.emit(found.rule))
        if found.typical:
            menu.addAction("Go to the typical", lambda: self.typical_asked.emit(found.typical))
        return menu

    def _switch(self, name: str, number: int) -> None:
        """Leave a place of a pattern out, or take it in again."""
        entry = self.entry
        if entry is None or entry.connection is None:
            return
        now = {int(v) for v in self.value_of(name) or ()}  # type: ignore[union-attr]
        self.keep({name: sorted(now ^ {number})})

    def value_of(self, name: str) -> Value | None:
        """The value in use of a setting, if the detail has it."""
        entry = self.entry
        if entry is None or entry.made is None:
            return None
        try:
            return entry.made.detail.number(name).value
        except KeyError:
            return None

    def unit(self) -> str:
        """The unit of what is typed and shown."""
        assert self.desk is not None
        return self.desk.project.house.units

    def _fill_field(self, name: str) -> None:
        setting, value = self.kind.setting(name), self.value_of(name)
        self.sheet.field.setText(show(setting, value, self.unit()) if value is not None else "")
        self.say(f"{setting.label}: {setting.help}  Enter keeps, Esc returns" + ("" if setting.kind != "spacings" else ", lists such as 3@70"))

    def _try(self, name: str, text: str) -> Made | None:
        """The detail with one setting typed otherwise; the reason shows on the field when it cannot be."""
        entry = self.entry
        assert entry is not None and entry.connection is not None and self.desk is not None
        settings = dict(entry.connection.settings)
        try:
            if text.strip():
                settings[name] = parse(self.kind.setting(name), text, self.unit())
            else:
                settings.pop(name, None)
            made = self.desk.ledger.make(entry.joint, self.kind.name, settings, typical=entry.connection.typical)
        except TinCleatError as error:
            self.sheet.set_bad(str(error))
            self.fail(f"{self.kind.setting(name).label}: {error}")
            return None
        self.sheet.set_bad("")
        return made

    def preview(self, made: Made, words: str = "") -> None:
        """Show a detail that is not kept, and its first breach after what there is to say."""
        self._preview = made
        breaches = [f for f in made.findings if f.level == "breach"]
        told = f"{breaches[0].title}: {amount(breaches[0].actual, breaches[0].unit, self.unit())}, required {limit(breaches[0], self.unit())}" if breaches else "No breach with this value"
        self.say(f"{words}. {told}" if words else told)
        self._draw(made)
        self.previewed.emit(made)

    def keep_or_back(self, settings: "dict[str, Any]") -> bool:
        """Keep settings in place of what is previewed; where they are refused, or none, the detail is shown as it is."""
        self._preview = None
        kept = bool(settings) and self.keep(settings)
        if not kept:
            self.refresh()
        return kept

    def _typing(self, name: str, text: str) -> None:
        made = self._try(name, text)
        if made is not None:
            self.preview(made)

    def _entered(self, name: str, text: str) -> None:
        if self._try(name, text) is None:
            return
        value = parse(self.kind.setting(name), text, self.unit()) if text.strip() else None
        self.sheet.finish()
        self._preview = None
        if not self.keep({name: value}):
            self.refresh()

    def _stepped(self, name: str, text: str, way: int) -> None:
        setting = self.kind.setting(name)
        try:
            value = parse(setting, text, self.unit())
        except TinCleatError:
            return
        inch = is_inch(self.unit())
        if isinstance(value, tuple):
            step = 6.35 if inch else 5.0
            new: Value = tuple(max(setting.low, v + way * step) for v in value)
        elif "thickness" in name:
            stock = sorted(self.desk.project.house.plates) if self.desk else []
            beyond = [t for t in stock if (t > float(value) + 0.01 if way > 0 else t < float(value) - 0.01)]
            new = (min(beyond) if way > 0 else max(beyond)) if beyond else value
        else:
            step = (1.5875 if inch else 1.0) if "weld" in name else (6.35 if inch else 5.0)
            new = max(setting.low, min(setting.high, (round(float(value) / step) + way) * step))  # type: ignore[arg-type]
        shown = show(setting, new, self.unit())
        self.sheet.field.setText(shown)
        self._typing(name, shown)

    # --- findings --------------------------------------------------------------

    def _show_findings(self, entry: Entry) -> None:
        found = [f for f in entry.findings if f.level != "clear"]
        clear = len(entry.findings) - len(found)
        state = (self.key, self._all_checks, clear, tuple(entry.findings if self._all_checks else found), len(self.targets()), self.unit(), self.theme.name)
        if state == self._findings_for:
            return
        self._findings_for = state
        clear_box(self.findings_box)
        head = QHBoxLayout()
        head.addWidget(label("FINDINGS" if found else f"{clear} checks, all clear", "group"), 1)
        head.addWidget(button("Hide checks" if self._all_checks else "All checks", self._toggle_checks, "link"))
        self.findings_box.addLayout(head)
        order = {"breach": 0, "note": 1, "concession": 2, "clear": 3}
        shown = sorted(entry.findings if self._all_checks else found, key=lambda f: order[f.level])
        for f in shown:
            self.findings_box.addWidget(self._finding(entry, f))

    def _toggle_checks(self) -> None:
        self._all_checks = not self._all_checks
        self.refresh()

    def _finding(self, entry: Entry, f: Finding) -> QWidget:
        assert entry.connection is not None and self.desk is not None
        box = QWidget()
        rows = QVBoxLayout(box)
        rows.setContentsMargins(0, 2, 0, 2)
        rows.setSpacing(0)
        line = QHBoxLayout()
        mark = QLabel()
        mark.setPixmap(mark_icon(f.level, self.theme).pixmap(14, 14))
        mark.setAccessibleName(WORDS[f.level])
        line.setSpacing(4)
        line.addWidget(mark, 0, Qt.AlignmentFlag.AlignTop)
        unit = self.unit()
        line.addWidget(label(f"{f.title}: {amount(f.actual, f.unit, unit)}, required {limit(f, unit)}", "breach" if f.level == "breach" else "", True), 1)
        rows.addLayout(line)
        rows.addWidget(label(f"{f.message}. {f.clause}", "quiet", True))
        if f.level in ("breach", "note") and entry.made is not None:
            acts = QHBoxLayout()
            acts.setContentsMargins(0, 0, 0, 0)
            fix = partial(self.run, "mend-finding", connection=entry.connection.id, finding=f.key, all_like=len(self.targets()) > 1)
            if f.rule == "clash" and f not in entry.made.findings:  # with what stands beside: each way out is really tried there, which takes its time
                if "clash" in self.kind.mends:
                    rows.addWidget(button("Look for a way clear of it", partial(self._patiently, fix), "link", "Tries settings until nothing beside is met"), 0, Qt.AlignmentFlag.AlignLeft)
            elif (found := mend(self.desk.ledger, entry, f)) is not None:
                text = "Fix: " + mend_words(self.desk.ledger, entry, *found)
                rows.addWidget(button(text, fix, "link"), 0, Qt.AlignmentFlag.AlignLeft)  # as long as its words: a line of its own
            acts.addWidget(button("Accept with reason…", partial(self.accept_asked.emit, (entry, f)), "link"))
            acts.addWidget(button("Show", partial(self.show_asked.emit, (entry, f)), "link"))
            acts.addStretch(1)
            rows.addLayout(acts)
        elif f.level == "concession":
            rows.addWidget(button("Withdraw", partial(self.run, "withdraw-concession", connection=entry.connection.id, finding=f.key), "link"))  # type: ignore[misc, union-attr]
        return box

    def _patiently(self, work: Callable[[], object]) -> None:
        with busy():
            work()

    def _in_order(self) -> None:
        """Tab goes as one works: the sheet, findings with their fixes, what an edit applies to, settings, and only then what else a sheet can do."""
        inner = [w for w in self.body.findChildren(QWidget) if w.focusPolicy() != Qt.FocusPolicy.NoFocus and not w.isHidden()]
        found = [w for w in inner if w not in self.form.fields.values() and isinstance(w, QPushButton)]
        chain: list[QWidget] = [self.leave, self.sheet, *found, self.scope, *self.form.fields.values(), self.below, *self.tools]
        for one, two in pairwise(chain):
            QWidget.setTabOrder(one, two)
