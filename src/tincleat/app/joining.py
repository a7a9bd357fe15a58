"""Joining rules in the window: the ordered list, what it would settle and leave, and joining all by it in one step."""

from collections import Counter
from collections.abc import Sequence
from functools import partial
from typing import Any

from PySide6.QtWidgets import QAbstractItemView, QDialog, QHBoxLayout, QHeaderView, QTableWidget, QTableWidgetItem, QVBoxLayout

from tincleat.app.context import Host
from tincleat.app.counted import counted
from tincleat.app.dialogs import Action, Ask
from tincleat.app.jobs import Job
from tincleat.app.simple import button, label
from tincleat.commands.joining import Plan, as_row, deltas, plan, rule_words, rules_of
from tincleat.errors import TinCleatError
from tincleat.families.declare import Family, parse, show
from tincleat.families.registry import FAMILIES
from tincleat.project.entities import JoinRule
from tincleat.units import format_length

HEAD = ("", "Joints", "Members", "Joined by", "Settles")
LEFT_HEAD = ("Joint", "Joints", "What to look at")
NO_TYPICAL = "none"


def settings_text(kind: Family, rule: JoinRule, unit: str) -> str:
    """What a rule types, as it is typed in its form: ``plate thickness = 12; sides = far side``."""
    known = kind.by_name
    return "; ".join(f"{known[n].label.lower()} = {show(known[n], v, unit)}" for n, v in rule.settings.items() if n in known)


def typed_settings(kind: Family, text: str, unit: str) -> dict[str, Any]:
    """The settings of a text such as :func:`settings_text` gives; raises BadValue or NotFound naming the setting."""
    out: dict[str, Any] = {}
    for part in filter(None, (p.strip() for p in text.split(";"))):
        name, _, value = (w.strip() for w in part.partition("="))
        found = next((s for s in kind.settings if name.lower() in (s.name, s.label.lower())), None) or kind.setting(name)
        out[found.name] = parse(found, value, unit)
    return out


class JoiningDialog(QDialog):
    """The rules in their order; every change of them is a command, and what they would do is tried anew beside the window's own work."""

    def __init__(self, w: Host) -> None:
        super().__init__(w)
        self.w = w
        self.plan: Plan | None = None
        self._job: Job | None = None
        self._old: list[Job] = []
        self.setWindowTitle("Joining rules")
        self.resize(940, 620)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(16, 14, 16, 14)
        rows.addWidget(label("Joining rules", "heading"))
        rows.addWidget(label("The first rule that suits an open end joins it. They are only tried here; nothing changes until all are joined.", "quiet", True))
        self.table = self._table("Rules", HEAD, 1, ((0, 34), (2, 180), (3, 200), (4, 64)))
        rows.addWidget(self.table, 3)
        line = QHBoxLayout()
        self.alone = [button(text, slot) for text, slot in (("Change…", self._change), ("Up", partial(self._move, -1)), ("Down", partial(self._move, 1)), ("Remove", self._remove))]
        line.addWidget(button("Add…", self._add))
        for one in self.alone:
            line.addWidget(one)
        line.addStretch(1)
        self.usual = button("Back to the usual rules", partial(self._keep, []), "link")
        line.addWidget(self.usual)
        rows.addLayout(line)
        self.told = label("", "", True)
        rows.addWidget(self.told)
        self.left = self._table("Left open or in breach", LEFT_HEAD, 2, ((0, 410), (1, 56)))
        rows.addWidget(self.left, 2)
        self.error = label("", "breach", True)
        rows.addWidget(self.error)
        foot = QHBoxLayout()
        self.stop = button("Stop trying", self._stop, "link")
        foot.addWidget(self.stop)
        foot.addStretch(1)
        self.go = button("Join all", self.join_all, "go")
        self.go.setDefault(True)
        foot.addWidget(button("Close", self.accept))
        foot.addWidget(self.go)
        rows.addLayout(foot)
        self.table.itemSelectionChanged.connect(self._enable)
        self.fill()

    def _table(self, name: str, head: Sequence[str], stretch: int, widths: Sequence[tuple[int, int]]) -> QTableWidget:
        table = QTableWidget(0, len(head))
        table.setAccessibleName(name)
        table.setHorizontalHeaderLabels(list(head))
        table.verticalHeader().hide()
        table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        table.setTabKeyNavigation(False)
        table.horizontalHeader().setSectionResizeMode(stretch, QHeaderView.ResizeMode.Stretch)
        for column, width in widths:
            table.setColumnWidth(column, width)
        return table

    # --- what is shown -----------------------------------------------------------

    def fill(self) -> None:
        """Show the rules that are kept, and try them."""
        assert self.w.desk is not None
        project, at = self.w.desk.project, max(0, self.table.currentRow())
        self.rules = list(rules_of(project))
        self.usual.setVisible(project.joining is not None)
        self.table.setRowCount(len(self.rules))
        for i, rule in enumerate(self.rules):
            for j, text in enumerate((str(i + 1), *rule_words(project, rule), "")):
                item = QTableWidgetItem(text)
                item.setToolTip(text)
                self.table.setItem(i, j, item)
        if self.rules:
            self.table.selectRow(min(at, len(self.rules) - 1))
        self._enable()
        self._try()

    def _enable(self) -> None:
        at = self.table.currentRow()
        for one, on in zip(self.alone, (at >= 0, at > 0, 0 <= at < len(self.rules) - 1, at >= 0 and len(self.rules) > 1), strict=True):
            one.setEnabled(on)
        self.go.setEnabled(self.plan is not None and bool(self.plan.made))
        self.stop.setVisible(self._job is not None)

    def _try(self) -> None:
        """Try the rules on all open ends, off the window's thread."""
        assert self.w.desk is not None
        self._stop()
        self.plan = None
        desk, rules = self.w.desk, tuple(self.rules)
        self.told.setText("Trying the rules …")
        job = Job(lambda progress: plan(desk.project, desk.ledger, rules, progress), self)
        self._job = job
        job.stepped.connect(lambda share, words: self.told.setText(f"Trying the rules … {words}") if self._job is job else None)
        job.done.connect(lambda found: self._tried(job, found))
        job.failed.connect(lambda words: self._failed(job, words))
        self._enable()
        job.start()

    def _stop(self) -> None:
        if self._job is not None:
            self._job.cancel()
            self._old.append(self._job)
            self._job = None
            self.told.setText("Not tried")

    def _failed(self, job: Job, words: str) -> None:
        if job is self._job:
            self._job = None
            self.told.setText("Not tried")
            self.error.setText(words)
            self._enable()

    def _tried(self, job: Job, found: Plan) -> None:
        if job is not self._job:
            return
        self._job, self.plan = None, found
        for i, count in enumerate(found.ends):
            item = self.table.item(i, 4)
            if item is not None:
                item.setText(f"{count:,}" if count else "–")
        total = sum(found.ends) + len(found.left)
        crossings = sum(bool(c.other) for _, c in found.made)
        words = f"{sum(found.ends):,} of {counted(total, 'open joint')} would be joined" if total else "Every end is joined"
        words += (f", and {counted(crossings, 'crossing')}" if crossings else "") + (f"; {len(found.left):,} left open" if found.left else "")
        words += f", {len(found.breaches):,} in breach" if found.breaches else ""
        words += ":" if found.left or found.breaches else "."
        self.told.setText(words + "".join(f"\n{many:,} × {what}, to keep clear of what stands beside." for what, many in found.parted.most_common(3)))
        groups = Counter((x.joint.words, f"left open: {x.why}") for x in found.left)
        groups.update((joint.words, f"in breach: {why}") for joint, why in found.breaches)
        self.left.setVisible(bool(groups))
        self.left.setRowCount(len(groups))
        for i, ((joint, why), count) in enumerate(groups.most_common()):
            for j, text in enumerate((joint, f"{count:,}", why)):
                item = QTableWidgetItem(text)
                item.setToolTip(text)
                self.left.setItem(i, j, item)
        self._enable()

    # --- changing the list ----------------------------------------------------------

    def _keep(self, rules: Sequence[JoinRule]) -> str:
        message = self.w.command_error("set-joining-rules", rules=[as_row(r) for r in rules])
        self.error.setText(message)
        if not message:
            self.fill()
        return message

    def _move(self, way: int) -> None:
        at = self.table.currentRow()
        rules = list(self.rules)
        rules[at], rules[at + way] = rules[at + way], rules[at]
        if not self._keep(rules):
            self.table.selectRow(at + way)

    def _remove(self) -> None:
        at = self.table.currentRow()
        self._keep([r for i, r in enumerate(self.rules) if i != at])

    def _add(self) -> None:
        at = self.table.currentRow() + 1
        self._form("Add a rule", JoinRule("fin-plate"), lambda made: [*self.rules[:at], made, *self.rules[at:]])

    def _change(self) -> None:
        at = self.table.currentRow()
        self._form(f"Change rule {at + 1}", self.rules[at], lambda made: [*self.rules[:at], made, *self.rules[at + 1 :]])

    def _form(self, title: str, rule: JoinRule, placed: Any) -> None:
        assert self.w.desk is not None
        project = self.w.desk.project
        unit = project.house.units
        kinds = {f.label: f for f in FAMILIES.values()}
        typicals = {f"{FAMILIES[t.family].label}: {t.name}": t for t in project.typicals.values()}
        now = next((words for words, t in typicals.items() if t.id == rule.typical), NO_TYPICAL)
        depths = [show_depth(v, unit) for v in (rule.least_depth, rule.most_depth)]
        fields = [
            Ask("family", "Joined by", FAMILIES[rule.family].label, tuple(kinds)), Ask("typical", "Typical", now, (NO_TYPICAL, *typicals)), Ask("kinds", "Joints", ", ".join(rule.kinds), hint="all it takes; or knee, apex"),
            Ask("roles", "Roles", ", ".join(rule.roles), hint="any; or beam, joist"), Ask("shapes", "Shapes", ", ".join(rule.shapes), hint="any; or I, RHS, CHS"),
            Ask("least_depth", "From depth", depths[0], hint="no limit"), Ask("most_depth", "Up to depth", depths[1], hint="no limit"), Ask("settings", "Typed", settings_text(FAMILIES[rule.family], rule, unit), hint="plate thickness = 12; …"),
        ]  # fmt: skip

        def words(text: str) -> list[str]:
            return [w.strip() for w in text.split(",") if w.strip()]

        def submit(v: dict[str, str]) -> str:
            kind = kinds[v["family"]]
            typical = typicals.get(v["typical"])
            try:
                typed = typed_settings(kind, v["settings"], unit)
            except TinCleatError as error:
                return f"typed: {error}"
            row = {
                "family": kind.name, "typical": typical.id if typical else "", "kinds": words(v["kinds"]), "roles": words(v["roles"]), "shapes": words(v["shapes"]),
                "least_depth": v["least_depth"] or 0.0, "most_depth": v["most_depth"] or 0.0, "settings": typed,
            }  # fmt: skip
            rows = [r if isinstance(r, dict) else as_row(r) for r in placed(row)]
            message = self.w.command_error("set-joining-rules", rules=rows)
            if not message:
                self.error.setText("")
                self.fill()
            return message

        self.w.form(title, "A typical's own limits hold besides.", fields, submit)

    def join_all(self) -> None:
        """Keep what was tried, as one step."""
        found, rules = self.plan, tuple(self.rules)
        if found is None or self.w.desk is None:
            return
        if self.w.run_made("join-all", {}, lambda project: deltas(project, found, rules)):
            self.accept()
        else:
            self.error.setText(self.w.hint.text())

    def done(self, result: int) -> None:
        self._stop()
        for job in self._old:
            job.wait()
        super().done(result)


def show_depth(value: float, unit: str) -> str:
    """A depth limit as it is typed; nothing for none."""
    return format_length(value, unit) if value else ""


def joining_actions(w: Host) -> list[Action]:
    """The actions for joining rules, bound to a window."""
    return [Action("join-all", "Join all…", ("joining rules", "everything", "automatic", "roll out", "office standard"), "Ctrl+J", lambda: JoiningDialog(w).exec(), lambda: w.desk is not None and bool(w.desk.project.members), "Join every open end by the office's rules")]
