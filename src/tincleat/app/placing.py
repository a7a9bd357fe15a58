"""Placing: a family is chosen, joints show its ghost under the pointer, a click places it."""

from typing import TYPE_CHECKING, Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton

from tincleat.errors import TinCleatError
from tincleat.families.registry import FAMILIES

if TYPE_CHECKING:
    from tincleat.app.window import Window


class Placing:
    """What is being placed in a window; ``family`` is empty when nothing is."""

    def __init__(self, window: "Window") -> None:
        self.window = window
        self.family = ""
        self.settings: dict[str, Any] = {}

    def start(self, family: str) -> None:
        """Hover joints with a ghost of the detail; a click places it."""
        if self.family == family:
            self.stop()
            return
        self.family, self.settings = family, {}
        self.window.view.placing = True
        self.window.view.setCursor(Qt.CursorShape.CrossCursor)
        self.window.select([], [])
        self.window.view.setFocus()
        self.window.say(f"{FAMILIES[family].label}: point at a joint; click places it, Esc ends")
        self.mark_buttons()

    def stop(self) -> None:
        """Back to selecting."""
        self.family = ""
        self.window.view.placing, self.window.view.hover_key = False, ""
        self.window.view.unsetCursor()
        self.window.view.show_overlay([])
        self.window.say("")
        self.mark_buttons()

    def mark_buttons(self) -> None:
        """Show on the action line which family is being placed."""
        for widget in self.window.action_line.findChildren(QPushButton):
            if widget.isCheckable():
                widget.setChecked(widget.property("action") == f"place-{self.family}")

    def hovered(self, key: str) -> None:
        """Show the ghost at a joint, or say why the family does not suit it."""
        if not self.family or self.window.desk is None:
            return
        if not key:
            self.window.view.show_overlay([])
            self.window.say(f"{FAMILIES[self.family].label}: point at a joint; click places it, Esc ends")
            return
        entry = self.window.desk.ledger.entries[key]
        if entry.connection is not None:
            self.window.view.show_overlay([])
            self.window.say(f"{entry.joint.words}: joined already by {entry.connection.family} {entry.connection.id}")
            return
        try:
            made = self.window.desk.ledger.make(entry.joint, self.family, self.settings)
        except TinCleatError as error:
            self.window.view.show_overlay([])
            self.window.fail(f"{entry.joint.words}: {error}")
            return
        s = made.shapes
        frame = entry.joint.frame
        bad = [f for f in made.findings if f.level == "breach"]
        tone = self.window.theme.breach if bad else self.window.theme.ghost
        self.window.view.show_overlay([(s.plates.placed(frame), tone), (s.bolts.placed(frame), self.window.theme.slate)])
        self.window.say(
            f"{entry.joint.words}: "
            + (f"{len(bad)} breach{'es' if len(bad) > 1 else ''}, first {bad[0].title.lower()}" if bad else "clear")
            + "; click places it, Esc ends"
        )

    def place_at(self, key: str) -> None:
        """Place the family at a joint and go on to the next."""
        if self.family and self.window.run("place-connection", family=self.family, at=[key], settings=self.settings):
            self.window.view.hover_key = ""
            self.window.say(f"Placed. {FAMILIES[self.family].label}: point at the next joint, Esc ends")

    def place_here(self, family: str, like: str) -> None:
        """Place a family at the selected joint, or at all kin of a joint."""
        if like:
            self.window.run("place-all", family=family, like=like)
        elif self.window.selected:
            free = [k for k in self.window.selected if self.window.desk is not None and self.window.desk.ledger.entries[k].connection is None]
            self.window.run("place-connection", family=family, at=free[:1])

    def place_all_alike(self) -> None:
        """Place the first family that suits at all joints like the selected one."""
        entry = self.window.open_selected()
        if entry is None or self.window.desk is None:
            return
        fitting = [name for name in FAMILIES if not self.window.desk.ledger.refusal(entry.joint, name, {})]
        if fitting:
            self.window.run("place-all", family=fitting[0], like=entry.joint.key)
        else:
            self.window.fail("; ".join(f"{k.label}: {self.window.desk.ledger.refusal(entry.joint, n, {})}" for n, k in FAMILIES.items()))
