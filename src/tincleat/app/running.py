"""Running commands and long work from the window, and saying what became of them."""

import math
from collections.abc import Callable
from typing import Any

from PySide6.QtWidgets import (
    QApplication,
    QLabel,
    QMessageBox,
    QProgressBar,
    QPushButton,
    QStackedWidget,
    QWidget,
)

from tincleat.app import asking, deeds
from tincleat.app.bodies import draw_ready
from tincleat.app.context import Host
from tincleat.app.dialogs import Action, Ask, FormDialog
from tincleat.app.form_pictures import FormPicture
from tincleat.app.house_page import HousePage
from tincleat.app.jobs import Job, Work
from tincleat.app.waiting import FELT, busy_if_large
from tincleat.catalogue.sections import catalogue, section
from tincleat.commands.desk import Desk
from tincleat.errors import Progress as Telling
from tincleat.errors import TinCleatError
from tincleat.garbage import uncollected
from tincleat.project.entities import Delta
from tincleat.project.store import Turn
from tincleat.units import parse_length

HOUSE_ACTIONS = ("undo", "redo", "help", "dark", "light", "house-rules")  # what can be done from the page of house rules


class Running(Host):
    """A window that runs commands."""

    job: Job | None
    progress: QProgressBar
    cancel: QPushButton
    pages: QStackedWidget
    _house: HousePage | None = None  # made when it is first gone to: it has a field for every rule
    _focus: QWidget | None  # where the keyboard was before the window was locked
    _closing: bool
    facts: QLabel
    kept: QLabel

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

    @property
    def house(self) -> HousePage:
        """The page of house rules."""
        if self._house is None:
            self._house = HousePage(self, self.leave_house)
            self.pages.addWidget(self._house)
        return self._house

    @property
    def at_house(self) -> bool:
        """Whether the page of house rules is in front."""
        return self.desk is not None and self._house is not None and self.pages.currentWidget() is self._house

    @property
    def trying_house(self) -> bool:
        """Whether changes of house rules are being tried."""
        return self._house is not None and self._house.trying

    def halt_house(self) -> None:
        """Stop trying changes of house rules."""
        if self._house is not None:
            self._house.halt()

    def leave_house(self) -> None:
        """Back from the house rules to the model."""
        raise NotImplementedError

    def _enable(self) -> None:
        for widget in self.action_line.findChildren(QPushButton):
            name = widget.property("action")
            if name:
                widget.setEnabled(self.actions_[name].enabled() and (self.job is None or name in ("fit",)))

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
