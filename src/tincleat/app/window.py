"""The main window: rail, action line, model, drawer, panel, status line; every change goes through the desk."""

from collections.abc import Sequence
from functools import partial
from itertools import pairwise
from pathlib import Path
from typing import Any

from PySide6.QtCore import QSettings, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QKeySequence, QResizeEvent, QShortcut
from PySide6.QtWidgets import (
    QApplication,
    QDialog,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QProgressBar,
    QPushButton,
    QScrollArea,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from tincleat.app import asking, cards, deeds, loose_deeds, ready_deeds, standards
from tincleat.app import theme as themes
from tincleat.app.action_line import ActionLine
from tincleat.app.actions import SHORT, STAGE_ACTIONS, build_actions
from tincleat.app.bodies import Bodies
from tincleat.app.choosing import Choosing, put_card
from tincleat.app.detail_panel import DetailPanel
from tincleat.app.dialogs import Help, Palette
from tincleat.app.dividing import keep_columns
from tincleat.app.drawer import Drawer
from tincleat.app.grips import Grips
from tincleat.app.jobs import Job, sweep_here
from tincleat.app.looking import Looking
from tincleat.app.menus import context_menu
from tincleat.app.model_view import ModelView
from tincleat.app.own_families import load_kept
from tincleat.app.pane import Pane
from tincleat.app.parts import Parts
from tincleat.app.placing import Placing
from tincleat.app.pointing import Pointing
from tincleat.app.progress import Progress
from tincleat.app.projects import Projects
from tincleat.app.rail import Rail
from tincleat.app.simple import button, label
from tincleat.app.since import Seen, leave, seen
from tincleat.app.waiting import busy_if_large
from tincleat.commands.desk import Desk
from tincleat.ledger.groups import Groups
from tincleat.project.entities import Delta
from tincleat.project.limits import shown


class Window(Choosing):
    """One project in one window."""

    def __init__(self, theme: themes.Theme, settings: QSettings) -> None:
        super().__init__()
        sweep_here()
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
        self.view.grips = Grips(self.view, self.view.camera, self.detail.shown)
        self.detail.pulling.listen(self.view.grips.holding)
        self.view.grips.holding.dropped.connect(self.detail.refresh)
        self.detail.accept_asked.connect(partial(deeds.accept, self))
        self.detail.show_asked.connect(self.show_finding)
        self.detail.rule_asked.connect(self._to_rule)
        self.detail.typical_asked.connect(lambda _: self.do("typicals"))
        self.detail.points_asked.connect(partial(loose_deeds.weld_between, self))
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

    # --- project ---------------------------------------------------------------

    def set_desk(self, desk: Desk | None, bodies: Bodies | None = None) -> None:
        """Work on another project (or none: the start card); its ``bodies``, where they are laid out already."""
        self.halt_house()
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

    # --- what changed -----------------------------------------------------------

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

    def leave_house(self) -> None:
        """Back to the model."""
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

    # --- how it looks, and its end ---------------------------------------------

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
        if files and self.job is None and not self.trying_house:
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
        self.halt_house()
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
