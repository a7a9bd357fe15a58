"""What the parts of a window may ask of the one they are in: the project, what is selected, how to run, say and ask.

Deeds, forms and tools know this and nothing of how the window is laid out, so that nothing goes round in a circle.
"""

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QLabel, QMainWindow, QSplitter, QWidget

from tincleat.app.action_line import ActionLine
from tincleat.app.bodies import Bodies
from tincleat.app.detail_panel import DetailPanel
from tincleat.app.dialogs import Action, Ask
from tincleat.app.drawer import Drawer
from tincleat.app.jobs import Work
from tincleat.app.model_view import ModelView
from tincleat.app.pane import Pane
from tincleat.app.rail import Rail
from tincleat.app.theme import Theme
from tincleat.commands.desk import Desk
from tincleat.ledger.entries import Entry
from tincleat.project.entities import Delta


class Host(QMainWindow):
    """A window as its parts see it; :class:`tincleat.app.window.Window` is the one there is."""

    theme: Theme
    settings: QSettings
    desk: Desk | None
    boxes: bool
    selected: list[str]
    members: list[str]
    open_at: int
    through_at: int
    finding_at: int
    finding_seen: Any
    view: ModelView
    pane: Pane
    views: QSplitter
    middle: QSplitter
    across: QSplitter
    drawer: Drawer
    rail: Rail
    detail: DetailPanel
    action_line: ActionLine
    hint: QLabel
    # tools that need the host themselves
    placing: Any
    pointing: Any
    projects: Any
    parts: Any
    looking: Any
    progress_: Any
    palette_: Any
    help_: Any
    actions_: dict[str, Any]

    def set_desk(self, desk: Desk | None, bodies: Bodies | None = None) -> None:
        """Work on another project (or none: the start card); its ``bodies``, where they are laid out already."""
        raise NotImplementedError

    def act(self, action: Action) -> None:
        """Run an action if it applies now."""
        raise NotImplementedError

    def do(self, name: str) -> None:
        """Run an action by name."""
        raise NotImplementedError

    def run(self, name: str, /, **args: Any) -> bool:
        """Run a command through the desk; an error is said and nothing has changed."""
        raise NotImplementedError

    def refused(self, text: str) -> None:
        """Say why a change was not kept; where the project's file is not to be had any more, offer to save elsewhere."""
        raise NotImplementedError

    def follow(self, words: str, do: Callable[[], str], done: Callable[[], None] = lambda: None) -> None:
        """Do something with the project off the window's thread, with progress and Cancel; the window is locked until it ends and shows it then."""
        raise NotImplementedError

    def say(self, text: str) -> None:
        """Put a line in the status line."""
        raise NotImplementedError

    def fail(self, text: str) -> None:
        """Say what went wrong, in the status line; without a project also in a box."""
        raise NotImplementedError

    def undo(self) -> None:
        """Take the last command back."""
        raise NotImplementedError

    def redo(self) -> None:
        """Do the last undone command again."""
        raise NotImplementedError

    def select(self, joints: list[str], members: list[str], zoom: bool = False) -> None:
        """Select joints or members, show them in the panel and the model."""
        raise NotImplementedError

    def escape(self) -> None:
        """Leave placing or picking points, else drop the selection."""
        raise NotImplementedError

    def rail_to(self, stage: str) -> None:
        """Go to a stage."""
        raise NotImplementedError

    def open_house(self) -> None:
        """Go to the page of house rules."""
        raise NotImplementedError

    def refresh_panel(self) -> None:
        """Show in the panel what is selected, or the project."""
        raise NotImplementedError

    def selected_connections(self) -> list[str]:
        """Ids of the connections at the selected joints."""
        raise NotImplementedError

    def delete_selected(self) -> None:
        """Delete the selected connections, or the selected members."""
        raise NotImplementedError

    def command_error(self, name: str, /, **args: Any) -> str:
        """Run a command; its error text, or an empty text."""
        raise NotImplementedError

    def form(self, title: str, words: str, fields: "list[Ask]", submit: Callable[[dict[str, str]], str], picture: str = "") -> None:
        """Ask in a dialog, beside a drawing of what is asked."""
        raise NotImplementedError

    @staticmethod
    def number_error(values: dict[str, str], name: str) -> str:
        """Why a field is no number, or an empty text."""
        raise NotImplementedError

    def recent_sections(self) -> list[str]:
        """Sections used lately, the latest first."""
        raise NotImplementedError

    @property
    def last_section(self) -> str:
        """The section used last."""
        raise NotImplementedError

    @last_section.setter
    def last_section(self, name: str) -> None:
        raise NotImplementedError

    def section_names(self) -> list[str]:
        """Names to complete a section's from: those used lately first, then the catalogue's."""
        raise NotImplementedError

    def section_error(self, name: str) -> str:
        """Why a section name is none, or an empty text."""
        raise NotImplementedError

    def mm(self, text: str) -> float:
        """A typed length in mm; raises BadValue."""
        raise NotImplementedError

    def run_made(self, name: str, args: dict[str, Any], make: "Callable[[Any], tuple[str, list[Delta]]]") -> bool:
        """Keep changes that were worked out already as one command; an error is said and nothing has changed."""
        raise NotImplementedError

    def show_card(self, card: QWidget) -> None:
        """Put a card into the panel; it goes with the next selection."""
        raise NotImplementedError

    def zoom_selection(self) -> None:
        """Look closely at what is selected."""
        raise NotImplementedError

    def open_selected(self) -> Entry | None:
        """The first selected joint, if it is open."""
        raise NotImplementedError

    def work(self, words: str, work: Work, done: Callable[[Any], None]) -> None:
        """Run long work off the window's thread; commands wait until it ends."""
        raise NotImplementedError

    def toggle_sheet(self) -> None:
        """Swap the sheet and the model, for a large sheet."""
        raise NotImplementedError

    def set_theme(self, name: str) -> None:
        """Light or dark."""
        raise NotImplementedError

    def show_finding(self, found: Any) -> None:
        """Select a finding's joint and bring it into view."""
        raise NotImplementedError
