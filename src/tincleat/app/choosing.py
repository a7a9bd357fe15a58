"""What is selected, in the model, in tables and by pointing, and what the panel shows of it."""

from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import (
    QApplication,
    QScrollArea,
    QStackedWidget,
    QWidget,
)

from tincleat.app import cards, deeds, forms
from tincleat.app.counted import counted
from tincleat.app.fields import name_of, same_field
from tincleat.app.marks import WORDS
from tincleat.app.offers import Offers
from tincleat.app.running import Running
from tincleat.app.since import Seen
from tincleat.families.registry import FAMILIES
from tincleat.ledger.entries import Entry, Kin
from tincleat.ledger.groups import Group, Groups
from tincleat.ledger.made import Made
from tincleat.ledger.through import Stuck, Through
from tincleat.proof.finding import Finding


class Choosing(Running):
    """A window in which something is selected."""

    _groups: Groups
    _last: Seen | None
    _carded: list[str]
    panel: QStackedWidget
    card: QScrollArea

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

    def show_card(self, card: QWidget) -> None:
        """Put a card into the panel; it goes with the next selection."""
        self.detail.key = ""
        self._carded = []
        self._put_back_sheet()
        put_card(self.card, card)
        self.panel.setCurrentWidget(self.card)

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

    def _next_step(self, what: str) -> None:
        if what == "stage-join":
            self.rail.choose("Join")
            self.drawer.search.setText("unjoined")
            self.say("Choose a row of the ledger, or a family above and then a joint")
        else:
            self.do(what)


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
