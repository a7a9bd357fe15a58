"""The main window: rail, action line, model, drawer, panel, status line; every change goes through the desk."""

import math
from collections.abc import Callable, Sequence
from functools import partial
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np
from PySide6.QtCore import QSettings, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QKeySequence, QResizeEvent, QShortcut
from PySide6.QtWidgets import (
    QApplication,
    QDialog,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMessageBox,
    QProgressBar,
    QPushButton,
    QScrollArea,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from tincleat.app import asking, cards, deeds, forms, ready_deeds, standards
from tincleat.app import theme as themes
from tincleat.app.action_line import ActionLine
from tincleat.app.actions import SHORT, STAGE_ACTIONS, build_actions
from tincleat.app.bodies import Bodies, draw_ready
from tincleat.app.context import Host
from tincleat.app.counted import counted
from tincleat.app.detail_panel import DetailPanel
from tincleat.app.dialogs import Action, Ask, FormDialog, Help, Palette
from tincleat.app.dividing import keep_columns
from tincleat.app.drawer import Drawer
from tincleat.app.fields import name_of, same_field
from tincleat.app.form_pictures import FormPicture
from tincleat.app.house_page import HousePage
from tincleat.app.jobs import Job, Work
from tincleat.app.looking import Looking
from tincleat.app.marks import WORDS
from tincleat.app.menus import context_menu
from tincleat.app.model_view import ModelView
from tincleat.app.offers import Offers
from tincleat.app.own_families import load_kept
from tincleat.app.pane import Pane
from tincleat.app.parts import Parts
from tincleat.app.placing import Placing
from tincleat.app.pointing import Pointing
from tincleat.app.progress import Progress
from tincleat.app.projects import Projects
from tincleat.app.rail import STAGES, Rail
from tincleat.app.simple import button, label
from tincleat.app.since import Seen, leave, seen
from tincleat.app.waiting import FELT, busy_if_large
from tincleat.catalogue.sections import catalogue, section
from tincleat.commands.desk import Desk
from tincleat.errors import Progress as Telling
from tincleat.errors import TinCleatError
from tincleat.families.registry import FAMILIES
from tincleat.garbage import uncollected
from tincleat.ledger.entries import Entry, Kin
from tincleat.ledger.groups import Group, Groups
from tincleat.ledger.made import Made
from tincleat.ledger.through import Stuck, Through
from tincleat.project.entities import Delta
from tincleat.project.limits import shown
from tincleat.project.store import Turn
from tincleat.proof.finding import Finding
from tincleat.units import parse_length

HOUSE_ACTIONS = ("undo", "redo", "help", "dark", "light", "house-rules")  # what can be done from the page of house rules


class Window(Host):
    """One project in one window."""

    def __init__(self, theme: themes.Theme, settings: QSettings) -> None:
        super().__init__()
        self.theme, self.settings = theme, settings
        self.desk: Desk | None = None
        self.job: Job | None = None
        self.boxes = True  # off where nobody is there to close a box
        self.placing = Placing(self)
        self.pointing = Pointing(self)
        self.projects = Projects(self)
        self.parts = Parts(self)
        self.looking = Looking(self)
        self._groups = Groups()
        self._focus: QWidget | None = None  # where the keyboard was before the window was locked
        self._last: Seen | None = None  # how the project was left when it was last open here
        self.progress_ = Progress(self)
        self.palette_: Palette | None = None
        self.help_: Help | None = None
        self.selected: list[str] = []
        self.members: list[str] = []
        self._carded: list[str] = []  # members whose card the panel shows
        self.open_at, self.through_at, self.finding_at = -1, -1, 0
        self.finding_seen: Any = None  # the finding gone to last
        self._closing = False
        self._divided = False  # whether the user has set the panel's width
        self.setWindowTitle("Tin Cleat")
        self.setMinimumSize(1000, 640)
        self.setAcceptDrops(True)
        unloaded = [one for one in load_kept(settings) if one.problem]
        self.actions_ = {a.name: a for a in build_actions(self)}
        self._build()
        for a in self.actions_.values():
            if a.shortcut:
                QShortcut(QKeySequence(a.shortcut), self, partial(self.act, a))
        QShortcut(QKeySequence("Esc"), self, self.escape)
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        app.focusChanged.connect(self._focus_changed)
        self._refresh_all()
        if unloaded:
            self.say(f"Own families not loaded: {unloaded[0].problem}" + (f"; and {len(unloaded) - 1} more" if len(unloaded) > 1 else ""))

    # --- layout ----------------------------------------------------------------

    def _build(self) -> None:
        self.rail = Rail(self.theme)
        self.rail.chosen.connect(self._stage)
        self.action_line = ActionLine()
        self.view = ModelView(self.theme)
        self._listen(self.view)
        self.view.hovered.connect(self.placing.hovered)
        self.view.placed.connect(self.placing.place_at)
        self.view.pointed.connect(self.pointing.pointed)
        self.view.point_clicked.connect(self.pointing.clicked)
        self.view.point_typed.connect(self.pointing.type)
        self.pane = Pane(self.theme)
        self.pane.made.connect(self._listen)
        self.pane.hide()
        self.views = QSplitter(Qt.Orientation.Horizontal)
        self.views.addWidget(self.view)
        self.views.addWidget(self.pane)
        self.views.setChildrenCollapsible(False)
        self.drawer = Drawer(self.theme)
        keep_columns({"ledger": self.drawer.ledger_table, "findings": self.drawer.finding_table, "bill": self.drawer.bill_table, "bolts": self.drawer.bolt_table, "welds": self.drawer.weld_table}, self.settings)
        self.drawer.query_asked.connect(partial(ready_deeds.query, self))
        self.drawer.review.shown.connect(self.looking.rows)
        self.drawer.review.ended.connect(self.looking.ended)
        self.drawer.joint_asked.connect(self._show_kin)
        self.drawer.finding_asked.connect(self.show_finding)
        self.drawer.chosen.connect(self._table_chosen)
        self.drawer.tabs.currentChanged.connect(lambda _: self.progress_.show())  # the findings may have become known
        self.detail = DetailPanel(self.theme, self.run, self.say, self.fail)
        self.detail.previewed.connect(self._previewed)
        self.detail.accept_asked.connect(partial(deeds.accept, self))
        self.detail.show_asked.connect(self.show_finding)
        self.detail.rule_asked.connect(self._to_rule)
        self.detail.typical_asked.connect(lambda _: self.do("typicals"))
        self.detail.enlarge_asked.connect(lambda: self.do("enlarge-sheet"))
        self.card = QScrollArea()
        self.card.setWidgetResizable(True)
        self.card.setAccessibleName("Panel")
        self.card.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.panel = QStackedWidget()
        self.panel.setObjectName("panel")
        self.panel.addWidget(self.card)
        self.panel.addWidget(self.detail)
        self.middle = QSplitter(Qt.Orientation.Vertical)
        self.middle.addWidget(self.views)
        self.middle.addWidget(self.drawer)
        self.middle.setSizes([480, 230])
        self.middle.setStretchFactor(0, 1)
        self.middle.setChildrenCollapsible(False)
        left = QWidget()
        rows = QVBoxLayout(left)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(0)
        rows.addWidget(self.action_line)
        rows.addWidget(self.middle, 1)
        self.across = QSplitter(Qt.Orientation.Horizontal)
        self.across.addWidget(left)
        self.across.addWidget(self.panel)
        self.across.setSizes([724, 460])
        self.across.setStretchFactor(0, 1)
        self.across.splitterMoved.connect(lambda *_: setattr(self, "_divided", True))
        self.across.setChildrenCollapsible(False)
        self.panel.setMinimumWidth(380)
        work = QWidget()
        line = QHBoxLayout(work)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(0)
        line.addWidget(self.rail)
        line.addWidget(self.across, 1)
        self.pages = QStackedWidget()
        self.pages.addWidget(work)
        self.start_page = QScrollArea()
        self.start_page.setWidgetResizable(True)
        self.start_page.setAccessibleName("Start")
        self.pages.addWidget(self.start_page)
        self.house = HousePage(self, self._leave_house)
        self.pages.addWidget(self.house)
        self.setCentralWidget(self.pages)
        self.hint = QLabel()
        self.progress = QProgressBar()
        self.progress.setFixedWidth(160)
        self.progress.setTextVisible(False)
        self.progress.setAccessibleName("Progress")
        self.cancel = button("Cancel", lambda: self.job.cancel() if self.job else None, "link")
        self.facts = label("", "quiet")
        self.kept = label("", "quiet")
        bar = self.statusBar()
        bar.setSizeGripEnabled(False)
        bar.addWidget(self.hint, 1)
        for widget in (self.progress, self.cancel, self.facts, self.kept):
            bar.addPermanentWidget(widget)
        bar.setContentsMargins(8, 0, 12, 0)
        self.progress.hide()
        self.cancel.hide()

    def _listen(self, view: ModelView) -> None:
        view.picked.connect(self._picked)
        view.boxed.connect(self._boxed)
        view.asked.connect(partial(context_menu, self))

    def _stage(self, stage: str) -> None:
        self.progress_.mark_stock()
        groups: list[list[QPushButton]] = [[]]
        for name in STAGE_ACTIONS[stage]:
            if not name:
                groups.append([])
                continue
            a = self.actions_[name]
            made = button(SHORT.get(name, a.label), partial(self.act, a), "flat", a.tip + (f"  ({a.shortcut})" if a.shortcut else ""))
            if name == "place":
                made.setCheckable(True)
                made.setChecked(bool(self.placing.family))
            made.setProperty("action", name)
            groups[-1].append(made)
        self.action_line.fill(groups, button("All actions", lambda: self.do("search"), "flat", "Search every action (Ctrl+K)"))
        for one, two in pairwise([self.rail, *self.action_line.buttons, self.action_line.more, *([self.action_line.last] if self.action_line.last else []), self.view]):
            QWidget.setTabOrder(one, two)
        self.drawer.go(
            {"Frame": "Ledger", "Ready": "Review" if self.drawer.review.matter else "Ledger", "Join": "Ledger", "Prove": "Findings", "Release": "Bill"}[stage]
        )
        self._enable()

    def _enable(self) -> None:
        for widget in self.action_line.findChildren(QPushButton):
            name = widget.property("action")
            if name:
                widget.setEnabled(self.actions_[name].enabled() and (self.job is None or name in ("fit",)))

    # --- project ---------------------------------------------------------------

    def set_desk(self, desk: Desk | None, bodies: Bodies | None = None) -> None:
        """Work on another project (or none: the start card); its ``bodies``, where they are laid out already."""
        self.house.halt()
        self.projects.keep_picture()
        self.pages.setCurrentIndex(0)
        if self.desk is not None:
            leave(self.settings, self.desk)
            self.desk.close()
        self.desk, self._groups, self._last = desk, Groups(), seen(self.settings, desk) if desk is not None else None
        self.progress_.forget()
        self.placing.family, self.selected, self.members = "", [], []
        self.view.placing = False
        if desk is not None:
            desk.listeners.append(self._changed)
            self.projects.remember(desk.store.path)
        self.parts.reset()
        self.pointing.stop()
        self.drawer.review.close_matter()
        self.view.set_ledger(desk.ledger if desk else None, bodies)
        self.pane.set_ledger(desk.ledger if desk and self.pane.isVisible() else None)
        self.drawer.show_desk(desk)
        self.finding_at, self.finding_seen = 0, None
        self._refresh_all()
        self.rail.choose(self.rail.current)
        if desk is not None:
            self.view.setFocus()
            if faults := desk.faults():
                elsewhere = partial(deeds.save_elsewhere, self) if desk.store.read_only else None
                self.show_card(cards.faults_card(desk.project.house.title, faults, elsewhere))
                self.fail(faults[0] + (f"; and {len(faults) - 1} more, listed on the right" if len(faults) > 1 else ""))

    # --- doing -----------------------------------------------------------------

    def act(self, action: Action) -> None:
        """Run an action if it applies now."""
        if self.job is not None:
            self.say("One moment: " + self.hint.text())
        elif self.at_house and (self.house.trying or action.name not in HOUSE_ACTIONS):
            self.say("One moment: the house rules are being tried" if self.house.trying else f"{action.label}: go back to the model first (Esc)")
        elif action.enabled():
            action.run()
        else:
            self.say(f"{action.label} does not apply here. {action.tip}")

    def do(self, name: str) -> None:
        """Run an action by name."""
        self.act(self.actions_[name])

    def run(self, name: str, /, **args: Any) -> bool:
        """Run a command through the desk; an error is said and nothing has changed."""
        if self.desk is None or self.job is not None:
            return False
        try:
            with busy_if_large(self.desk):
                title = self.desk.run(name, **args)
        except TinCleatError as error:
            self.refused(str(error))
            return False
        self.say(title)
        return True

    def refused(self, text: str) -> None:
        """Say why a change was not kept; where the project's file is not to be had any more, offer to save elsewhere."""
        self.fail(text)
        if self.desk is None:
            return
        self._refresh_counts()
        if self.boxes and self.desk.store.trouble() and asking.sure(self, "Not kept", f"{text}\n\nSave elsewhere now, and go on there?"):
            deeds.save_elsewhere(self)

    def say(self, text: str) -> None:
        """Put a line in the status line."""
        self.hint.setText(text)
        self.hint.setToolTip(text)
        self._colour_hint("")

    def fail(self, text: str) -> None:
        """Say what went wrong, in the status line; without a project also in a box."""
        self.say(text)
        self._colour_hint("breach")
        if self.desk is None and self.boxes:
            QMessageBox.warning(self, "Tin Cleat", text)

    def _colour_hint(self, name: str) -> None:
        if self.hint.objectName() != name:
            self.hint.setObjectName(name)
            self.hint.style().polish(self.hint)

    def undo(self) -> None:
        """Take the last command back."""
        if not self._followed(lambda desk: desk.store.undo_turn(), lambda desk: desk.undo(), "Undone"):
            self._turn(lambda desk: desk.undo(), "Undone", "Nothing to undo")

    def redo(self) -> None:
        """Do the last undone command again."""
        if not self._followed(lambda desk: desk.store.redo_turn(), lambda desk: desk.redo(), "Done again"):
            self._turn(lambda desk: desk.redo(), "Done again", "Nothing to redo")

    def _followed(self, coming: "Callable[[Desk], Turn | None]", turn: Callable[[Desk], str], done: str) -> bool:
        """Whether a turn makes so much anew that it is done with progress: a change of house rules on a large model."""
        desk = self.desk
        if desk is None or self.job is not None or len(desk.project.members) <= FELT:
            return False
        try:
            found = coming(desk)
        except TinCleatError:
            return False  # it is said where it is tried
        if found is None or not any(c.table == "house" for c in found.changes):
            return False
        self.follow(f"{done}: {found.title}", lambda: f"{done}: {turn(desk)}")
        return True

    def _turn(self, turn: Callable[[Desk], str], done: str, nothing: str) -> None:
        if self.desk is None or self.job is not None:
            return
        try:
            with busy_if_large(self.desk):
                title = turn(self.desk)
        except TinCleatError as error:
            self.refused(str(error))
        else:
            self.say(f"{done}: {title}" if title else nothing)

    def _changed(self, changes: Sequence[Delta], touched: set[str]) -> None:
        members = {c.id for c in changes if c.table == "member"}
        if any(c.table == "section" for c in changes) and self.desk is not None:
            members = set(self.desk.project.members)  # whichever of them are of that section
        if any(c.table == "house" for c in changes):
            self._title()
        self.progress_.changed(members)
        ground = any(c.table in ("grid", "level", "reference", "underlay") for c in changes)
        self.view.changed(touched, members, ground)
        if self.pane.isVisible():
            self.pane.view.changed(touched, members, ground)
            if ground:
                self.pane.refresh()
        if self.desk is not None:
            self.members = [m for m in self.members if m in self.desk.project.members]
            self.selected = [k for k in self.selected if k in self.desk.ledger.entries]
        self._show_selection()
        self.view.begin()
        self.drawer.show_desk(self.desk)
        if self._concerns_panel(changes, touched):
            self.refresh_panel()
        else:
            self._enable()
        self._refresh_counts()
        if self.at_house:
            self.house.changed()

    def _concerns_panel(self, changes: Sequence[Delta], touched: set[str]) -> bool:
        """Whether the panel may show something else after changes; only the card of members is surely spared by changes elsewhere."""
        if self._carded != self.members or not self.members or self.desk is None or any(c.table not in ("member", "connection", "concession") for c in changes):
            return True
        entries, chosen = self.desk.ledger.entries, set(self.members)
        return any(c.id in chosen for c in changes) or any(not chosen.isdisjoint(entries[k].joint.members) if k in entries else True for k in touched)

    # --- selection -------------------------------------------------------------

    def select(self, joints: list[str], members: list[str], zoom: bool = False) -> None:
        """Select joints or members, show them in the panel and the model."""
        self.selected, self.members = joints, members
        if zoom and self.desk is not None and joints:
            points = [self.desk.ledger.entries[k].joint.frame.origin for k in joints if k in self.desk.ledger.entries]
            if points:
                self.view.zoom_to(np.array(points), 650.0 if len(points) == 1 else 2500.0)
        self.refresh_panel()

    def _picked(self, kind: str, key: str, add: bool) -> None:
        if kind == "joint":
            self.select(([*self.selected, key] if add and key not in self.selected else [key]), [])
        elif kind == "member":
            chosen = [m for m in self.members if m != key] + ([key] if key not in self.members else []) if add else [key]
            self.select([], chosen)
        elif not add:
            self.select([], [])

    def _boxed(self, ids: list[str]) -> None:
        self.select([], ids)
        self.say(f"{counted(len(ids), 'member')} selected")

    def escape(self) -> None:
        """Leave placing or picking points, else drop the selection."""
        popup = QApplication.activePopupWidget()
        if popup is not None:
            popup.hide()
        elif self.at_house:
            self.house.escape()
        elif self.drawer.search.hasFocus() and self.drawer.search.text():
            self.drawer.search.clear()
        elif self.pointing.mode:
            self.pointing.stop()
        elif self.placing.family:
            self.placing.stop()
        else:
            self.select([], [])

    def refresh_panel(self) -> None:
        """Show in the panel what is selected, or the project."""
        desk = self.desk
        if desk is None:
            return
        self.view.selected_joints = set(self.selected)
        self._carded = []
        self.looking.drop_pictures()
        entry = desk.ledger.entries.get(self.selected[0]) if self.selected else None
        if entry is not None and entry.connection is not None and entry.connection.family in FAMILIES and not entry.left_plain:
            self.panel.setCurrentWidget(self.detail)
            self.detail.chosen = self.selected
            self.detail.show_entry(desk, entry.joint.key)
        else:
            self.detail.key = ""
            self._put_back_sheet()
            if entry is not None and entry.connection is not None and entry.left_plain and not entry.problem:
                card = cards.plain_card(desk, entry, self.delete_selected)
            elif entry is not None and entry.connection is not None:
                card = cards.problem_card(entry, desk.ledger.place(entry.joint), self.delete_selected)
            elif entry is not None:
                mixed = len({id(e.joint.case) for k in self.selected if (e := desk.ledger.entries[k]).connection is None}) > 1
                card = Offers(desk, entry, self.theme, self.placing.place_here, self._previewed_at(entry.joint.key), lambda at: self.run("meet-member", at=at), self.placing.place_selected if mixed else None)
            elif self.members:
                self._carded = list(self.members)
                card = cards.member_card(
                    desk, self.members, partial(deeds.change_members, self), self._section_known, lambda k: self.select([k], [], True), partial(forms.change_run, self)
                )
            else:
                card = cards.project_card(desk, self._next_step, self.theme, lambda keys: self.select(keys, [], True), self._groups, self._last)
            put_card(self.card, card)
            self.panel.setCurrentWidget(self.card)
        self._show_selection()
        self._enable()

    def _selection_words(self) -> str:
        """What is selected, for whoever does not see the model."""
        if self.desk is None or not (self.selected or self.members):
            return "nothing is selected"
        entries, members = self.desk.ledger.entries, self.desk.project.members
        some = [f"{entries[k].joint.words}, {WORDS[entries[k].state]}" for k in self.selected[:3]] + [f"{members[m].name} {members[m].section}" for m in self.members[: 0 if self.selected else 3]]
        count = len(self.selected) or len(self.members)
        return f"{counted(count, 'joint' if self.selected else 'member')} selected: {'; '.join(some)}" + (" and more" if count > 3 else "")

    def _show_selection(self, preview: Made | None = None) -> None:
        bodies = []
        self.view.overlay_members = ([], "")
        if self.desk is not None and not self.placing.family:
            for i, key in enumerate(self.selected):
                if preview is not None and i == 0:
                    frame = self.desk.ledger.entries[key].joint.frame
                    s = preview.shapes
                    bodies += [(s.plates.placed(frame), self.theme.ghost), (s.bolts.placed(frame), self.theme.slate)]
                else:
                    bodies += self.view.overlay_for(key, self.theme.accent)
            self.view.overlay_members = (self.members[:400], self.theme.accent)
        self.view.show_overlay(bodies)
        self.view.tell(self._selection_words())
        if self.pane.isVisible():
            self.pane.view.overlay_members = self.view.overlay_members
            self.pane.view.selected_joints = self.view.selected_joints
            self.pane.view.show_overlay(bodies)

    def _previewed_at(self, key: str) -> "Callable[[Made | None], None]":
        """Shows a ghost at one joint for as long as it is the one selected."""
        return lambda made: self._previewed(made) if self.selected[:1] == [key] and not self.placing.family else None

    def _previewed(self, made: Made | None) -> None:
        self._show_selection(made)

    def _table_chosen(self, rows: list[Any]) -> None:
        keys: list[str] = []
        members: list[str] = []
        for row in rows:
            if isinstance(row, Kin | Group):
                keys += [e.joint.key for e in sorted(row.entries, key=lambda e: e.connection is None)]
            elif isinstance(row, tuple) and isinstance(row[0], Entry):
                keys.append(row[0].joint.key)
            elif isinstance(row, tuple) and isinstance(row[0], Through | Stuck):
                members += row[0].members
        if keys or members:
            self.select(keys, list(dict.fromkeys(members)) if not keys else [])

    def _show_kin(self, kin: Kin | Group) -> None:
        self._table_chosen([kin])
        points = np.array([e.joint.frame.origin for e in kin.entries])
        self.view.zoom_to(points[:1] if len(points) == 1 else points, 900.0 if len(points) == 1 else 1800.0)

    def show_finding(self, found: tuple[Entry | Through | Stuck, Finding]) -> None:
        whose, f = found
        if isinstance(whose, Through | Stuck):
            self.select([], list(whose.members))
            self.view.zoom_to(np.array(whose.where), 1500.0)
        else:
            self.select([whose.joint.key], [])
            self.view.zoom_to(whose.joint.frame.to_world([f.where]), 420.0)
        self.say(f"{f.title}: {f.message}")

    def selected_connections(self) -> list[str]:
        """Ids of the connections at the selected joints."""
        if self.desk is None:
            return []
        return [c.id for k in self.selected if (e := self.desk.ledger.entries.get(k)) is not None and (c := e.connection) is not None]

    def delete_selected(self) -> None:
        """Delete the selected connections, or the selected members."""
        names = self.selected_connections()
        if names:
            self.run("delete-connections", ids=names)
        elif self.members:
            self.run("delete-members", ids=self.members)

    def command_error(self, name: str, /, **args: Any) -> str:
        """Run a command; its error text, or an empty text."""
        if self.desk is None:
            return "no project is open"
        try:
            with busy_if_large(self.desk):
                title = self.desk.run(name, **args)
            self.say(title)
        except TinCleatError as error:
            return str(error)
        return ""

    def form(self, title: str, words: str, fields: "list[Ask]", submit: Callable[[dict[str, str]], str], picture: str = "") -> None:
        """Ask in a dialog, beside a drawing of what is asked."""
        FormDialog(title, words, fields, submit, self, FormPicture(picture, self.theme) if picture else None).exec()

    @staticmethod
    def number_error(values: dict[str, str], name: str) -> str:
        """Why a field is no number, or an empty text."""
        try:
            good = math.isfinite(float(values[name]))
        except ValueError:
            good = False
        return "" if good else f"{name}: {values[name]!r} is not a number"

    def recent_sections(self) -> list[str]:
        """Sections used lately, the latest first."""
        found = self.settings.value("sections", [])
        names = [found] if isinstance(found, str) else [str(n) for n in found] if isinstance(found, list) else []
        return names or ["UB 305x165x40"]

    @property
    def last_section(self) -> str:
        """The section used last."""
        return self.recent_sections()[0]

    @last_section.setter
    def last_section(self, name: str) -> None:
        try:
            used = str(self.desk.project.named(name)) if self.desk is not None else section(name).name
        except TinCleatError:
            return  # the form that asked says so
        self.settings.setValue("sections", [used, *(n for n in self.recent_sections() if n != used)][:8])

    def section_names(self) -> list[str]:
        """Names to complete a section's from: those used lately first, then the catalogue's."""
        own = [str(n) for n in self.desk.project.own.values()] if self.desk is not None else []
        return list(dict.fromkeys([*self.recent_sections(), *own, *catalogue()]))

    def section_error(self, name: str) -> str:
        """Why a section name is none, or an empty text."""
        try:
            self.desk.project.section(name) if self.desk is not None else section(name)
        except TinCleatError as error:
            return str(error)
        return ""

    def _section_known(self, name: str) -> str:
        why = self.section_error(name)
        if why:
            self.fail(why)
        return why

    def mm(self, text: str) -> float:
        """A typed length in mm; raises BadValue."""
        return parse_length(text, self.desk.project.house.units if self.desk is not None else "mm")

    # --- made elsewhere ----------------------------------------------------------

    def run_made(self, name: str, args: dict[str, Any], make: "Callable[[Any], tuple[str, list[Delta]]]") -> bool:
        """Keep changes that were worked out already as one command; an error is said and nothing has changed."""
        if self.desk is None or self.job is not None:
            return False
        try:
            with busy_if_large(self.desk):
                title = self.desk.keep(name, args, make)
        except TinCleatError as error:
            self.fail(str(error))
            return False
        self.say(title)
        return True

    def show_card(self, card: QWidget) -> None:
        """Put a card into the panel; it goes with the next selection."""
        self.detail.key = ""
        self._carded = []
        self._put_back_sheet()
        put_card(self.card, card)
        self.panel.setCurrentWidget(self.card)

    # --- small deeds -----------------------------------------------------------

    def zoom_selection(self) -> None:
        """Look closely at what is selected."""
        if self.desk is None:
            return
        points: list[Any] = [self.desk.ledger.entries[k].joint.frame.origin for k in self.selected]
        for key in self.members:
            m = self.desk.project.members[key]
            points += [m.start, m.end]
        self.view.zoom_to(np.array(points), 650.0)

    def open_selected(self) -> Entry | None:
        """The first selected joint, if it is open."""
        entry = self.desk.ledger.entries.get(self.selected[0]) if self.desk is not None and self.selected else None
        return entry if entry is not None and entry.connection is None else None

    # --- refresh ---------------------------------------------------------------

    def _refresh_all(self) -> None:
        if self.desk is None:
            put_card(self.start_page, cards.start_card([(p, self.projects.picture_of(p)) for p in self.projects.recent()], standards.names(self.settings)[2:], self.projects.start))
            self.pages.setCurrentIndex(1)
            self.setWindowTitle("Tin Cleat")
            self.facts.setText("")
            self.kept.setText("")
            self.hint.setText("")
            return
        if not self.at_house:
            self.pages.setCurrentIndex(0)
        self._title()
        self.refresh_panel()
        self._refresh_counts()

    @property
    def at_house(self) -> bool:
        """Whether the page of house rules is in front."""
        return self.desk is not None and self.pages.currentWidget() is self.house

    def rail_to(self, stage: str) -> None:
        """Go to a stage."""
        self.rail.choose(stage)

    def open_house(self) -> None:
        """Go to the page of house rules."""
        if self.desk is not None:
            self.pages.setCurrentWidget(self.house)
            self.house.open()

    def _to_rule(self, name: str) -> None:
        self.open_house()
        self.house.go_to(name)

    def _leave_house(self) -> None:
        self.pages.setCurrentIndex(0)
        self.view.setFocus()

    def _focus_changed(self, old: QWidget | None, new: QWidget | None) -> None:
        """When what had the focus is taken away, the model gets it, not the next field in a row that nobody chose."""
        if isinstance(new, QLineEdit) and old is not None and self.desk is not None and self.isAncestorOf(new):
            gone = not old.isVisible() or (old.window() is not self and not isinstance(old.window(), QDialog))
            if gone and old is not self.detail.sheet.field and not self.start_page.isAncestorOf(old):
                self.view.setFocus()

    def _title(self) -> None:
        if self.desk is not None:
            only = ", read-only" if self.desk.store.read_only else ""
            self.setWindowTitle(f"{shown(self.desk.project.house.title)}{only} · Tin Cleat")

    def _refresh_counts(self) -> None:
        if self.desk is None:
            return
        self.progress_.show()
        house = self.desk.project.house
        self.facts.setText(f"{house.units}  ·  {house.rule_set}")
        steps = self.desk.store.history(1)
        trouble = self.desk.store.trouble()
        bad = "read-only" if self.desk.store.read_only else "nothing is kept any more" if trouble else ""
        self.kept.setText(bad or ("everything kept" if steps else "kept"))
        if self.kept.objectName() != ("breach" if bad else "quiet"):
            self.kept.setObjectName("breach" if bad else "quiet")
            self.kept.style().polish(self.kept)
        why = f"\n{self.desk.store.read_only or trouble}" if bad else ""
        self.kept.setToolTip(f"{self.desk.store.path}{why}" + (f"\nlast: {steps[0].title}" if steps else ""))

    # --- long work -------------------------------------------------------------

    def follow(self, words: str, do: Callable[[], str], done: Callable[[], None] = lambda: None) -> None:
        """Do something with the project off the window's thread, with progress and Cancel; the window is locked until it ends and shows it then."""
        desk = self.desk
        assert desk is not None

        def work(progress: Telling) -> str:
            title = desk.followed(do, progress)
            draw_ready(desk.ledger)
            return title

        def shown(title: str) -> None:
            with busy_if_large(desk), uncollected():
                desk.tell()
            self.say(title)
            done()

        self._focus = QApplication.focusWidget()
        self.pages.setEnabled(False)
        self.work(words, work, shown)

    def work(self, words: str, work: Work, done: Callable[[Any], None]) -> None:
        """Run long work off the window's thread; commands wait until it ends."""
        self.job = Job(work, self)
        self.say(words)
        self.progress.setRange(0, 100)
        self.progress.setValue(0)
        self.progress.show()
        self.cancel.show()

        def ended(text: str, bad: bool) -> None:
            self.progress.hide()
            self.cancel.hide()
            self.pages.setEnabled(True)
            if self._focus is not None:
                self._focus.setFocus()
            self._focus = None
            self.job = None
            (self.fail if bad else self.say)(text)
            self._enable()
            if self._closing:
                self.close()

        def finished(result: Any) -> None:
            ended("", False)
            if self._closing:
                return
            try:
                done(result)
            except TinCleatError as error:
                self.refused(str(error))

        def stepped(share: float, what: str) -> None:
            self.progress.setValue(int(share * 100))
            self.hint.setText(f"{words}: {what}")

        self.job.stepped.connect(stepped)
        self.job.done.connect(finished)
        self.job.failed.connect(lambda text: ended(text, True))
        self._enable()
        self.job.start()

    # --- menus and help --------------------------------------------------------

    def _next_step(self, what: str) -> None:
        if what == "stage-join":
            self.rail.choose("Join")
            self.drawer.search.setText("unjoined")
            self.say("Choose a row of the ledger, or a family above and then a joint")
        else:
            self.do(what)

    def _put_back_sheet(self) -> None:
        if self.middle.widget(0) is not self.views:
            self.toggle_sheet()

    def toggle_sheet(self) -> None:
        """Swap the sheet and the model, for a large sheet."""
        frame = self.detail.sheet_frame
        sizes = self.middle.sizes()
        if self.middle.widget(0) is self.views:
            if self.detail.key:
                self.middle.replaceWidget(0, frame)
                self.detail.split.insertWidget(0, self.views)
        else:
            self.middle.replaceWidget(0, self.views)
            self.detail.split.insertWidget(0, frame)
        self.views.show()
        frame.show()
        self.middle.setSizes(sizes)
        QTimer.singleShot(0, self.detail.refresh)

    def set_theme(self, name: str) -> None:
        """Light or dark."""
        with busy_if_large(self.desk):
            self._take_theme(name)

    def _take_theme(self, name: str) -> None:
        self.theme = themes.THEMES[name]
        self.settings.setValue("theme", name)
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        themes.apply(app, self.theme)
        for part in (self.rail, self.detail, self.detail.sheet):
            part.theme = self.theme
        self.pane.set_theme(self.theme)
        for table in self.drawer.tables:
            table.rows.set_theme(self.theme)
        self.drawer.bar.theme = self.theme
        self.view.set_theme(self.theme)
        if self.desk is not None:
            self.drawer.show_desk(self.desk)
        self._refresh_all()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        wide = self.across.width()
        if not self._divided and wide > 0:  # the model keeps room in a small window until the user says otherwise
            panel = 460 if wide >= 1150 else max(380, 460 - (1150 - wide))
            self.across.setSizes([wide - panel, panel])

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if self.job is None and any(u.isLocalFile() for u in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Open what is dropped on the window."""
        files = [Path(u.toLocalFile()) for u in event.mimeData().urls() if u.isLocalFile()]
        if files and self.job is None and not self.house.trying:
            event.acceptProposedAction()
            QTimer.singleShot(0, self, lambda: self.projects.dropped(files[0]))  # once whoever drags has let go

    def closeEvent(self, event: QCloseEvent) -> None:
        if self.job is not None:
            event.ignore()
            words = f"{self.hint.text()}\n\nStop this and close? Nothing is left half done."
            if not self._closing and (not self.boxes or asking.sure(self, "Tin Cleat", words)) and self.job is not None:
                self._closing = True
                self.job.cancel()
                self.say("Stopping; the window closes as soon as that is done")
            return
        self._closing = False
        self.house.halt()
        self.projects.keep_picture()
        if self.desk is not None:
            leave(self.settings, self.desk)
            self.desk.close()
            self.desk = None
        self.looking.drop_pictures()
        for view in (self.view, *self.pane.views()):
            if not view.released:
                view.release()
        super().closeEvent(event)


def put_card(area: QScrollArea, card: QWidget) -> None:
    """Show a card; the old one may be in the middle of an event and is deleted only afterwards."""
    focus = QApplication.focusWidget()
    old = area.takeWidget()
    name = name_of(focus) if old is not None and focus is not None and old.isAncestorOf(focus) else ("", "")
    if old is not None:
        old.setParent(None)
        old.deleteLater()
    area.setWidget(card)
    if name != ("", "") and (same := same_field(card, name)) is not None:
        same.setFocus()


assert set(STAGE_ACTIONS) == set(STAGES)
