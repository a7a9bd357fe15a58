"""A part of the model in view: hidden and isolated members, the section box, members as of glass, the second pane."""

from typing import Any

import numpy as np

from tincleat.app.context import Host
from tincleat.app.waiting import busy_if_large

ROOM = 1200.0  # mm a section box reaches past what it is put about


class Parts:
    """Which part of the model a window shows."""

    def __init__(self, window: Host) -> None:
        self.window = window
        self.hidden: frozenset[str] = frozenset()
        self.glass = False
        self.references = True

    def reset(self) -> None:
        """Another project: everything is in view."""
        self.hidden, self.glass, self.references = frozenset(), False, True

    def toggle_references(self) -> None:
        """Bodies of other trades in the picture, or out of it."""
        self.references = not self.references
        self.window.view.show_references(self.references)

    def set_hidden(self, hidden: frozenset[str]) -> None:
        """Leave members out of the picture, in both views."""
        self.hidden = hidden
        for view in (self.window.view, *self.window.pane.views()):
            view.set_hidden(hidden)

    def hide(self) -> None:
        """Leave the selected members out."""
        w = self.window
        self.set_hidden(self.hidden | frozenset(w.members))
        w.select([], [])

    def isolate(self) -> None:
        """Only the selected members, or those of the selected joints."""
        w = self.window
        if w.desk is None:
            return
        kept = set(w.members) | {m for k in w.selected for m in w.desk.ledger.entries[k].joint.members}
        self.set_hidden(frozenset(w.desk.project.members.keys() - kept))
        w.view.fit()
        w.say(f"{len(kept)} member{'s' if len(kept) != 1 else ''} shown; Show all brings the others back")

    def show_all(self) -> None:
        """Everything again: nothing hidden, no box, no glass."""
        self.set_hidden(frozenset())
        self.window.view.set_box(None)
        self.glass = False
        self.window.view.see_through(False)

    def section_box(self) -> None:
        """A box about what is selected; again takes it away."""
        w = self.window
        if w.desk is None:
            return
        if w.view.box is not None:
            w.view.set_box(None)
            return
        points: list[Any] = [p for k in w.members for p in (w.desk.project.members[k].start, w.desk.project.members[k].end)]
        points += [w.desk.ledger.entries[k].joint.frame.origin for k in w.selected]
        if points:
            array = np.array(points)
            w.view.set_box((array.min(axis=0) - ROOM, array.max(axis=0) + ROOM))

    def toggle_glass(self) -> None:
        """Members as if of glass, or solid again."""
        self.glass = not self.glass
        self.window.view.see_through(self.glass)

    def toggle_pane(self) -> None:
        """Show or put away the plan or elevation beside the model."""
        w = self.window
        if w.pane.isVisible():
            w.pane.hide()
            return
        w.pane.show()
        w.views.setSizes([w.views.width() // 2, w.views.width() // 2])
        with busy_if_large(w.desk):
            w.pane.set_ledger(w.desk.ledger if w.desk else None)
        w.pane.view.set_hidden(self.hidden)
        w.progress_.mark_stock()
