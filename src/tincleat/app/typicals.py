"""Typicals in the window: keep a detail's settings under a name, use them elsewhere, share them as a file."""

import math
from functools import partial
from pathlib import Path

from PySide6.QtWidgets import QAbstractItemView, QDialog, QDialogButtonBox, QFileDialog, QHBoxLayout, QHeaderView, QTableWidget, QTableWidgetItem, QVBoxLayout

from tincleat.app.asking import save_path, sure
from tincleat.app.context import Host
from tincleat.app.counted import counted
from tincleat.app.dialogs import Action, Ask
from tincleat.app.simple import button, label
from tincleat.app.sizes import show_sizes
from tincleat.app.typical_look import looked_at
from tincleat.commands.typicals import uses
from tincleat.errors import TinCleatError
from tincleat.exchange.library import write_library
from tincleat.families.declare import show
from tincleat.families.registry import FAMILIES
from tincleat.project.entities import Typical
from tincleat.units import format_length

FILES = "Typicals (*.json)"
HEAD = ("Name", "Family", "Settings", "For", "Used")
WHAT = {"what is typed": "typed", "everything that makes it what it is": "all"}


def limits_in_words(t: Typical, unit: str) -> str:
    """What a typical may be used for."""
    depths = [f"from {format_length(t.least_depth, unit, mark=True)} deep"] * bool(t.least_depth) + [f"up to {format_length(t.most_depth, unit, mark=True)} deep"] * bool(t.most_depth)
    angles = [f"up to {math.degrees(v):g}° {words}" for v, words in ((t.most_skew, "askew"), (t.most_slope, "sloping")) if v]
    return ", ".join([*(f"{r}s" for r in t.roles), *depths, *angles, *([t.rules] if t.rules else [])]) or "any"


def settings_in_words(t: Typical, unit: str) -> str:
    """What a typical gives, with labels."""
    kind = FAMILIES[t.family]
    known = kind.by_name
    words = [f"{known[n].label.lower()} {show(known[n], v, unit)}" for n, v in t.settings.items() if n in known]
    return ", ".join(words + ([counted(len(t.sizes), "size")] if t.sizes else []))


def _angles(t: Typical | None) -> tuple[Ask, Ask]:
    """What is asked of the angles a typical may be used at."""
    skew, slope = (f"{math.degrees(v):g}" if v else "" for v in ((t.most_skew, t.most_slope) if t is not None else (0.0, 0.0)))
    return Ask("most_skew_deg", "Askew up to (degrees)", skew, hint="no limit"), Ask("most_slope_deg", "Sloping up to (degrees)", slope, hint="no limit")


def _typed_angles(v: dict[str, str]) -> tuple[dict[str, float], str]:
    """The angles typed, and why one of them is none."""
    out = {}
    for name in ("most_skew_deg", "most_slope_deg"):
        text = v[name].strip().removesuffix("°")
        try:
            out[name] = float(text) if text else 0.0
        except ValueError:
            return {}, f"{v[name]!r:.20} is no angle (degrees, such as 15, or nothing)"
    return out, ""


def save(w: Host) -> None:
    """Ask for a name and keep the selected connection's settings."""
    assert w.desk is not None
    (key, *_) = w.selected_connections()
    c = w.desk.project.connections[key]
    kind, old = FAMILIES[c.family], w.desk.project.typicals.get(c.typical)
    fields = [
        Ask("name", "Name", old.name if old else "", hint="such as beam ends, light"), Ask("what", "Keep", next(iter(WHAT)), tuple(WHAT)), Ask("roles", "For roles", " ".join(old.roles) if old else "", hint="any; or beam joist"),
        Ask("least_depth", "From depth", ""), Ask("most_depth", "Up to depth", "", hint="no limit"), *_angles(old), Ask("words", "Remark", old.words if old else ""),
    ]  # fmt: skip

    def submit(v: dict[str, str]) -> str:
        angles, wrong = _typed_angles(v)
        return wrong or w.command_error(
            "save-typical", **angles, connection=key, name=v["name"], what=WHAT[v["what"]], roles=v["roles"].replace(",", " ").split(), least_depth=v["least_depth"] or 0.0, most_depth=v["most_depth"] or 0.0, words=v["words"]
        )

    w.form("Save as a typical", f"{kind.label} {c.id} takes its settings from it henceforth; one of the same name is replaced, and what uses it follows.", fields, submit)


def choose(w: Host) -> None:
    """Use a typical at what is selected: open joints are joined by it, joined ones take its settings; with nothing selected it is placed by pointing."""
    assert w.desk is not None
    desk = w.desk
    entries = [desk.ledger.entries[k] for k in w.selected]
    fitting: dict[str, Typical] = {}
    for t in sorted(desk.project.typicals.values(), key=lambda t: (not t.favourite, t.folder, t.family, t.name)):
        if not any(desk.ledger.refusal(e.joint, t.family, {}, t.id) for e in entries[:1]):
            fitting[f"{FAMILIES[t.family].label}: {t.name}" + (f" ({t.folder})" if t.folder else "")] = t
    if not fitting:
        why = next((desk.ledger.refusal(entries[0].joint, t.family, {}, t.id) for t in desk.project.typicals.values()), "") if entries else ""
        w.fail(f"no typical suits here: {why}" if why else "there are no typicals yet: select a connection and save its settings as one")
        return
    joined = [e.connection.id for e in entries if e.connection is not None]
    fields = [Ask("typical", "Typical", next(iter(fitting)), tuple(fitting))]
    if joined:
        fields.append(Ask("typed", "What is typed there", "goes", ("goes", "stays over it")))
    free = [e.joint.key for e in entries if e.connection is None]
    where = f"{counted(len(joined), 'connection')}" if joined else counted(len(free), "open joint") if free else "by pointing"

    def submit(v: dict[str, str]) -> str:
        t = fitting[v["typical"]]
        if joined:
            return w.command_error("use-typical", typical=t.id, ids=joined, keep_typed=v["typed"] != "goes")
        if free:
            return w.command_error("place-connection", family=t.family, typical=t.id, at=free)
        w.placing.start(t.family, t.id)
        return ""

    w.form(f"Use a typical, {where}", "" if entries else "Then point at joints; each click places it, Esc ends.", fields, submit)


def leave(w: Host) -> None:
    """Let the selected connections follow their typical no more."""
    w.run("leave-typical", ids=following(w))


def following(w: Host) -> list[str]:
    """The selected connections that use a typical."""
    return [] if w.desk is None else [c for c in w.selected_connections() if w.desk.project.connections[c].typical]


class Library(QDialog):
    """All typicals of the project in a table, with what may be done to the chosen one; every deed is a command and can be undone."""

    def __init__(self, w: Host) -> None:
        super().__init__(w)
        self.w = w
        self.setWindowTitle("Typicals")
        self.resize(860, 420)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(16, 14, 16, 14)
        rows.addWidget(label("Typicals", "heading"))
        self.words = label("", "quiet", True)
        rows.addWidget(self.words)
        self.table = QTableWidget(0, len(HEAD))
        self.table.setAccessibleName("Typicals")
        self.table.setHorizontalHeaderLabels(list(HEAD))
        self.table.verticalHeader().hide()
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setTabKeyNavigation(False)
        for column, width in ((0, 150), (1, 110), (3, 220), (4, 56)):
            self.table.setColumnWidth(column, width)
        self.table.horizontalHeader().setSectionResizeMode(2, QHeaderView.ResizeMode.Stretch)
        rows.addWidget(self.table, 1)
        line = QHBoxLayout()
        self.alone = [button(text, slot) for text, slot in (("Change…", self._change), ("Sizes…", self._sizes), ("Select uses", self._select), ("Delete", self._delete))]
        for one in self.alone:
            line.addWidget(one)
        line.addStretch(1)
        line.addWidget(button("Load…", self._load, "link"))
        self.out = button("Write to a file…", self._write, "link")
        line.addWidget(self.out)
        rows.addLayout(line)
        self.error = label("", "breach", True)
        rows.addWidget(self.error)
        close = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        close.rejected.connect(self.accept)
        rows.addWidget(close)
        self.table.itemSelectionChanged.connect(self._enable)
        self.fill()

    def fill(self) -> None:
        """Show what is kept."""
        assert self.w.desk is not None
        project, at = self.w.desk.project, self.table.currentRow()
        self.shown = sorted(project.typicals.values(), key=lambda t: (t.family, t.name))
        self.table.setRowCount(len(self.shown))
        unit = project.house.units
        for i, t in enumerate(self.shown):
            for j, text in enumerate((t.name, FAMILIES[t.family].label, settings_in_words(t, unit), limits_in_words(t, unit), str(len(uses(project, t.id))))):
                item = QTableWidgetItem(text)
                item.setToolTip(text if j != 0 or not t.words else f"{text}\n{t.words}")
                self.table.setItem(i, j, item)
        self.words.setText("Settings kept under a name: connections that use one follow when it changes." if self.shown else "There are none yet. Select a connection and save its settings as a typical, or load a file.")
        if self.shown:
            self.table.selectRow(min(max(at, 0), len(self.shown) - 1))
        self._enable()

    def _enable(self) -> None:
        for one in self.alone:
            one.setEnabled(bool(self.shown) and self.table.currentRow() >= 0)
        self.out.setEnabled(bool(self.shown))

    @property
    def chosen(self) -> Typical:
        """The typical of the current row."""
        return self.shown[self.table.currentRow()]

    def _do(self, command: str, /, **args: object) -> str:
        message = self.w.command_error(command, **args)
        self.error.setText(message)
        self.fill()
        return message

    def _looked(self, command: str, title: str, /, **args: object) -> str:
        message = looked_at(self.w, command, title, **args)
        self.error.setText(message)
        self.fill()
        return message

    def _change(self) -> None:
        t, unit = self.chosen, self.w.desk.project.house.units  # type: ignore[union-attr]
        known = [s for s in FAMILIES[t.family].settings if s.name in t.settings]
        limits = {n: format_length(v, unit) if v else "" for n, v in (("least_depth", t.least_depth), ("most_depth", t.most_depth))}
        fields = [
            Ask("name", "Name", t.name), Ask("folder", "Folder", t.folder), Ask("favourite", "Shown first", "yes" if t.favourite else "no", ("no", "yes")), Ask("roles", "For roles", " ".join(t.roles), hint="any"),
            Ask("least_depth", "From depth", limits["least_depth"]), Ask("most_depth", "Up to depth", limits["most_depth"], hint="no limit"), *_angles(t), Ask("words", "Remark", t.words),
            *(Ask(s.name, s.label, show(s, t.settings[s.name], unit), hint="taken out") for s in known),
        ]  # fmt: skip

        def submit(v: dict[str, str]) -> str:
            angles, wrong = _typed_angles(v)
            return wrong or self._looked(
                "change-typical", f"Change typical {t.name}", typical=t.id, **angles, name=v["name"], folder=v["folder"], favourite=v["favourite"] == "yes", roles=v["roles"].replace(",", " ").split(), words=v["words"],
                least_depth=v["least_depth"] or 0.0, most_depth=v["most_depth"] or 0.0, settings={s.name: v[s.name] or None for s in known if v[s.name] != show(s, t.settings[s.name], unit)},
            )  # fmt: skip

        count = len(uses(self.w.desk.project, t.id))  # type: ignore[union-attr]
        self.w.form(f"Change typical {t.name}", f"{counted(count, 'connection')} that use it follow." if count else "Nothing uses it yet.", fields, submit)

    def _sizes(self) -> None:
        show_sizes(self.w, self.chosen.id)
        self.fill()

    def _select(self) -> None:
        assert self.w.desk is not None
        keys = [k for c in uses(self.w.desk.project, self.chosen.id) if (k := self.w.desk.ledger.key_of(c)) is not None]
        if keys:
            self.w.select(keys, [], True)
            self.accept()
        else:
            self.error.setText("nothing uses it")

    def _delete(self) -> None:
        assert self.w.desk is not None
        count = len(uses(self.w.desk.project, self.chosen.id))
        if not count or sure(self, "Delete a typical", f"{counted(count, 'connection')} use it. They stay as they are, with its settings typed for each. Delete it?"):
            self._do("delete-typical", typical=self.chosen.id)

    def _load(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, "Load typicals", "", FILES)
        if path:
            self._do("load-typicals", path=path)

    def _write(self) -> None:
        assert self.w.desk is not None
        path = save_path(self, "Write typicals", Path(self.w.desk.store.path).with_name("typicals.json"), FILES, (".json",))
        if path is None:
            return
        try:
            count = write_library(self.shown, path)
        except TinCleatError as error:
            self.error.setText(str(error))
            return
        self.error.setText("")
        self.w.say(f"{counted(count, 'typical')} written to {path.name}")


class Carried:
    """The connection whose settings were taken up, to be given to others."""

    def __init__(self, w: Host) -> None:
        self.w = w
        self.source = ""

    def take(self) -> None:
        """Take up the settings of the selected connection."""
        self.source = self.w.selected_connections()[0]
        self.w.say(f"Settings of {self.source} taken up: select others of its family and give them to those")

    def give(self) -> None:
        """Give them to the selected connections."""
        if self.source:
            self.w.run("copy-settings", source=self.source, ids=self.w.selected_connections())

    @property
    def ready(self) -> bool:
        """Whether there is something to give and somebody to give it to."""
        return bool(self.w.desk is not None and self.source in self.w.desk.project.connections and any(c != self.source for c in self.w.selected_connections()))


def typical_actions(w: Host) -> list[Action]:
    """The actions for typicals, bound to a window."""
    carried = Carried(w)

    def some() -> bool:
        return w.desk is not None and bool(w.desk.project.typicals)

    return [
        Action("save-typical", "Save as a typical…", ("standard", "keep", "template", "library"), "", partial(save, w), lambda: bool(w.selected_connections()), "Select a connection first"),
        Action("use-typical", "Use a typical…", ("apply", "standard detail", "place a typical"), "", partial(choose, w), some, "There are no typicals yet"),
        Action("leave-typical", "Leave the typical", ("detach", "own settings"), "", partial(leave, w), lambda: bool(following(w)), "Select a connection that uses one"),
        Action("typicals", "Typicals…", ("library", "standards", "load", "share"), "", lambda: Library(w).exec(), lambda: w.desk is not None, "All typicals of the project"),
        Action("take-settings", "Take up its settings", ("copy settings", "pick"), "", carried.take, lambda: len(w.selected_connections()) == 1, "Select one connection first"),
        Action("give-settings", "Give the settings taken up", ("paste settings", "match"), "", carried.give, lambda: carried.ready, "Take up the settings of a connection, then select others"),
    ]  # fmt: skip
