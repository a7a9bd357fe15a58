"""A project open for work: commands run, kept, undone and redone; derived things kept in step."""

import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from tincleat.commands import bodies, connections, frame, house, imports, layout, picking, ready, runs, sawing, shape, underlay  # noqa: F401 - they declare their commands
from tincleat.commands.registry import checked
from tincleat.errors import BadValue, TinCleatError
from tincleat.exchange.ifc_in import Imported
from tincleat.ledger.entries import Entry
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.made import Workshop
from tincleat.project.entities import Delta, HouseRules
from tincleat.project.project import Project, inverse
from tincleat.project.store import Store

MOST_LINE = 1_000_000
Listener = Callable[[Sequence[Delta], set[str]], None]


@dataclass(frozen=True)
class Trial:
    """What a command would do: its title, its changes, and the joined entries that would differ, before and after."""

    title: str
    changes: tuple[Delta, ...]
    entries: "tuple[tuple[Entry | None, Entry | None], ...]"


class Desk:
    """One open project.  ``listeners`` hear of applied changes and the joints they touched."""

    def __init__(self, store: Store) -> None:
        self.store = store
        self.ledger = Ledger(store.project, Workshop())
        self.listeners: list[Listener] = []

    @property
    def project(self) -> Project:
        """The project in memory."""
        return self.store.project

    @classmethod
    def open(cls, path: "str | Path") -> "Desk":
        """Open a project file; raises :class:`BadFile`."""
        return cls(Store.open(path))

    @classmethod
    def create(cls, path: "str | Path", rules: HouseRules | None = None, overwrite: bool = False) -> "Desk":
        """Make a new project file; raises :class:`BadFile`."""
        return cls(Store.create(path, rules, overwrite))

    def close(self) -> None:
        """Close the file."""
        self.store.close()

    def run(self, name: str, /, **args: Any) -> str:
        """Run one command and keep it before anything is told of it; its title.  On any error nothing has changed."""
        return self.run_all([(name, args)])[0]

    def take_in(self, path: str, found: Imported) -> str:
        """Keep a frame that was read already (the window reads off its own thread); its title.  On any error nothing has changed."""
        return self.keep("import-frame", {"path": path}, lambda project: imports.take_in(project, found, Path(path).name))

    def keep(self, name: str, args: dict[str, Any], make: "Callable[[Project], tuple[str, list[Delta]]]") -> str:
        """Keep changes that something slow worked out before, under a command's name; the title.  On any error nothing has changed."""
        number = self.project.last_number
        try:
            title, made = make(self.project)
            self.project.apply(made)
            try:
                more = runs.follow(self.project, made)
                self.project.apply(more)
                made = [*made, *more]
                self.store.commit([(name, title, args, made)])
            except BaseException:
                self.project.apply(inverse(made))
                raise
        except BaseException:
            self.project.last_number = number
            raise
        self._tell(made, self.ledger.changed(made))
        return title

    def run_all(self, steps: "Sequence[tuple[str, dict[str, Any]]]") -> list[str]:
        """Run commands in order and keep all of them in one transaction, or none; an error names the step that failed."""
        done: list[tuple[str, str, object, Sequence[Delta]]] = []
        pending: list[Delta] = []  # applied, but not yet known to the ledger
        touched: set[str] = set()
        number = self.project.last_number
        try:
            for i, (name, args) in enumerate(steps):
                try:
                    found, checked_args = checked(name, args)
                    if pending and (found.needs_joints or picking.asks(args)):
                        touched |= self.ledger.changed(pending)
                        pending = []
                    title, made = found.do(self.project, self.ledger, checked_args)
                except TinCleatError as error:
                    raise (error.at(f"step {i + 1}, {name}") if len(steps) > 1 else error) from None
                if made:
                    self.project.apply(made)
                    done.append((name, title, args, made))
                    more = runs.follow(self.project, made)
                    self.project.apply(more)
                    done[-1] = (name, title, args, [*made, *more])
                    pending += done[-1][3]
            if done:
                self.store.commit(done)
        except BaseException:
            for *_, changes in reversed(done):
                self.project.apply(inverse(changes))
            self.project.last_number = number
            if touched:
                self.ledger.rebuild()
            raise
        touched |= self.ledger.changed(pending)
        self._tell([c for step in done for c in step[3]], touched)
        return [title for _, title, *_ in done] or ["nothing to change"]

    def trial(self, name: str, /, **args: Any) -> "Trial":
        """What one command would do, tried on the model and taken back: nothing is kept and nobody is told.  Raises what the command raises."""
        number = self.project.last_number
        found, checked_args = checked(name, args)
        title, made = found.do(self.project, self.ledger, checked_args)
        made = list(made)
        try:
            self.project.apply(made)
            more = runs.follow(self.project, made)
            self.project.apply(more)
            made += more
            before = dict(self.ledger.entries)
            touched = self.ledger.changed(made)
            pairs = [(before.get(k), self.ledger.entries.get(k)) for k in touched]
        finally:
            self.project.apply(inverse(made))
            self.project.last_number = number
            self.ledger.changed(inverse(made))
        return Trial(title, tuple(made), tuple((a, b) for a, b in pairs if (a is not None and a.connection) or (b is not None and b.connection)))

    def run_script(self, text: str) -> list[str]:
        """Run a script of one JSON object a line, ``{"do": name, ...arguments}``; all or nothing, errors name the line."""
        steps, lines = [], []
        for number, line in enumerate(text.splitlines(), 1):
            if not line.strip() or line.lstrip().startswith("#"):
                continue
            where = f"line {number}"
            if len(line) > MOST_LINE:
                raise BadValue("the line is too long", where)
            try:
                row = json.loads(line)
            except (ValueError, RecursionError) as error:
                raise BadValue(f"this is not JSON: {error}", where, '{"do": "add-level", "name": "eaves", "elevation": 6000}') from None
            if not isinstance(row, dict) or not isinstance(row.get("do"), str):
                raise BadValue("the line does not name a command", where, '{"do": "add-level", ...}')
            steps.append((row.pop("do"), row))
            lines.append(number)
        try:
            return self.run_all(steps)
        except TinCleatError as error:
            head, _, tail = error.where.partition(",")
            if head.startswith("step "):
                raise type(error)(error.what, f"line {lines[int(head[5:]) - 1]},{tail}", error.right) from None
            if len(lines) == 1:
                raise error.at(f"line {lines[0]}") from None
            raise

    def undo(self) -> str:
        """Take the last command back, kept at once; its title, or an empty text."""
        return self._turned(self.store.next_undo(), self.store.undo())

    def redo(self) -> str:
        """Do the last undone command again; its title, or an empty text."""
        return self._turned(self.store.next_redo(), self.store.redo())

    def _turned(self, title: str, changes: Sequence[Delta]) -> str:
        self._tell(changes, self.ledger.changed(changes))
        return title

    def _tell(self, changes: Sequence[Delta], touched: set[str]) -> None:
        if changes:
            for listener in self.listeners:
                listener(changes, touched)
