"""A project open for work: commands run, kept, undone and redone; derived things kept in step."""

import contextlib
import json
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from tincleat.commands import (  # noqa: F401 - they declare their commands
    bodies,
    connections,
    frame,
    house,
    imports,
    joining,
    layout,
    library,
    loose,
    picking,
    ready,
    rows,
    runs,
    sawing,
    schedules,
    shape,
    sizes,
    typicals,
    underlay,
)
from tincleat.commands.crowd import check_crowd
from tincleat.commands.registry import checked
from tincleat.errors import BadValue, Cancelled, Fault, Progress, TinCleatError, go_on
from tincleat.exchange.ifc_source import Imported
from tincleat.garbage import uncollected
from tincleat.ledger.entries import Entry
from tincleat.ledger.ledger import STOPPED, Ledger
from tincleat.ledger.made import Workshop
from tincleat.ledger.through import Overlaps
from tincleat.project.entities import Delta, HouseRules, Member
from tincleat.project.limits import check_changes
from tincleat.project.project import Project, inverse
from tincleat.project.store import Store, Turn

MOST_LINE, MOST_STEPS = 1_000_000, 100_000
Listener = Callable[[Sequence[Delta], set[str]], None]


def _no_constant(word: str) -> float:
    raise ValueError(f"{word} is no number that can be kept")


FEW = 2000  # members that are looked at for overlaps at once, without being asked


@dataclass(frozen=True)
class Trial:
    """What a command would do: its title, its changes, and the joined entries that would differ, before and after."""

    title: str
    changes: tuple[Delta, ...]
    entries: "tuple[tuple[Entry | None, Entry | None], ...]"


class Desk:
    """One open project.  ``listeners`` hear of applied changes and the joints they touched."""

    def __init__(self, store: Store, progress: Progress | None = None) -> None:
        self.store = store
        self.ledger = Ledger(store.project, Workshop(), progress)
        self.overlaps = Overlaps(self.ledger)
        self.listeners: list[Listener] = []
        self._held: list[tuple[Sequence[Delta], set[str]]] | None = None  # what listeners are to hear, while that is held back

    @property
    def project(self) -> Project:
        """The project in memory."""
        return self.store.project

    def counts(self) -> dict[str, int]:
        """Joints, joined ones, ends that meet nothing, and findings by level; with what is told of members, in a large model once it was
        looked for."""
        out = dict(self.ledger.counts())
        if self.overlaps.known or len(self.project.members) <= FEW:
            for _, f in self.overlaps.told():  # as the table of findings and the command line count them
                out[f.level] += 1
        return out

    @classmethod
    def open(cls, path: "str | Path", progress: Progress | None = None) -> "Desk":
        """Open a project file; raises :class:`BadFile`, and Cancelled when ``progress`` says so: the file is as it was."""
        with uncollected():
            go_on(progress, 0.0, "reading the file", STOPPED)
            store = Store.open(path)
            try:
                return cls(store, progress)
            except Cancelled:
                store.close()
                raise

    @classmethod
    def create(cls, path: "str | Path", rules: HouseRules | None = None, overwrite: bool = False) -> "Desk":
        """Make a new project file; raises :class:`BadFile`."""
        return cls(Store.create(path, rules, overwrite))

    @classmethod
    def create_whole(cls, path: "str | Path", rules: HouseRules | None, overwrite: bool, fill: "Callable[[Desk], None]") -> "Desk":
        """Make a new project file that ``fill`` has filled: it appears at its path complete, or not at all; raises :class:`BadFile` and what ``fill`` raises."""

        def make(part: Path) -> None:
            desk = cls(Store.create(part, rules))
            try:
                fill(desk)
            finally:
                desk.close()

        return cls(Store.create_whole(path, make, overwrite))

    def faults(self) -> list[str]:
        """What is not as it should be in the file, for whoever opens it: notes of the store, and connections that cannot be built."""
        out = list(self.store.notes)
        if self.store.read_only:
            out.insert(0, f"read-only, since {self.store.read_only}; nothing can be kept here; save it elsewhere to work on it")
        for entry in self.ledger.entries.values():
            if entry.problem and entry.connection is not None:
                out.append(f"connection {entry.connection.id}: {entry.problem}")
        return out + [f"connection {key}: {why}" for key, why in self.ledger.lost.items()]

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
        with self._whole() as work:
            title, made = make(self.project)
            work.apply(name, title, args, made)
            work.keep()
        self._tell(work.changes, work.touched)
        return title

    def run_all(self, steps: "Sequence[tuple[str, dict[str, Any]]]") -> list[str]:
        """Run commands in order and keep all of them in one transaction, or none; an error names the step that failed."""
        with self._whole() as work:
            for i, (name, args) in enumerate(steps):
                try:
                    found, checked_args = checked(name, args)
                    if found.needs_joints or picking.asks(args):
                        work.bring_in_step(findings=found.needs_findings or picking.asks(args))
                    title, made = found.do(self.project, self.ledger, checked_args)
                    work.apply(name, title, args, made)
                except TinCleatError as error:
                    raise (error.at(f"step {i + 1}, {name}") if len(steps) > 1 else error) from None
                except RecursionError:
                    raise BadValue("its arguments are nested too deeply", name) from None
            work.keep()
        self._tell(work.changes, work.touched)
        return [title for _, title, *_ in work.done] or ["nothing to change"]

    @contextlib.contextmanager
    def _whole(self) -> "Iterator[_Piece]":
        """A piece of work that is done whole: on any error the model and the ledger are what they were, and nothing was kept."""
        work = _Piece(self)
        number = self.project.last_number
        try:
            with uncollected():
                yield work
        except BaseException as error:
            work.take_back()
            self.project.last_number = number
            if isinstance(error, Exception) and not isinstance(error, TinCleatError):
                raise Fault(f"something went wrong inside ({type(error).__name__}: {str(error)[:200]}); nothing was changed") from error
            raise

    def trial(self, name: str, /, **args: Any) -> "Trial":
        """What one command would do, tried on the model and taken back: nothing is kept and nobody is told.  Raises what the command raises."""
        number = self.project.last_number
        found, checked_args = checked(name, args)
        title, made = found.do(self.project, self.ledger, checked_args)
        made = list(made)
        check_changes(made)
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
        steps: list[tuple[str, dict[str, Any]]] = []
        lines: list[int] = []
        for number, line in enumerate(text.splitlines(), 1):
            if not line.strip() or line.lstrip().startswith("#"):
                continue
            where = f"line {number}"
            if len(line) > MOST_LINE:
                raise BadValue("the line is too long", where)
            try:
                row = json.loads(line, parse_constant=_no_constant)
            except (ValueError, RecursionError) as error:
                raise BadValue(f"this is not JSON: {error}", where, '{"do": "add-level", "name": "eaves", "elevation": 6000}') from None
            if not isinstance(row, dict) or not isinstance(row.get("do"), str):
                raise BadValue("the line does not name a command", where, '{"do": "add-level", ...}')
            if len(steps) >= MOST_STEPS:
                raise BadValue("the script has too many lines", where, f"at most {MOST_STEPS} commands at a time")
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
        """Take the last command back, kept at once; its title, or an empty text.  On any error nothing has changed."""
        return self._turned(self.store.undo_turn())

    def redo(self) -> str:
        """Do the last undone command again; its title, or an empty text.  On any error nothing has changed."""
        return self._turned(self.store.redo_turn())

    def _turned(self, turn: "Turn | None") -> str:
        if turn is None:
            return ""
        with self._whole() as work:
            work.put(turn.changes)
            work.bring_in_step()
            self.store.keep_turn(turn)
        self._tell(work.changes, work.touched)
        return turn.title

    def followed(self, do: "Callable[[], str]", progress: Progress) -> str:
        """Do something with this desk on another thread than its listeners': they hear of it at :meth:`tell`.  What it returns; raises what it
        raises, and Cancelled when ``progress`` says so while all is made anew: nothing has changed then."""
        self._held, self.ledger.progress = [], progress
        try:
            title = do()
            self.ledger.progress = None
            # what whoever shows it asks first; it is done by now, so that there is nothing to stop any more
            self.ledger.prove(lambda share, words: progress(0.95 + 0.05 * share, words) or True)
            self.counts()
        except BaseException:
            self._held = None
            raise
        finally:
            self.ledger.progress = None
        return title

    def tell(self) -> None:
        """Tell the listeners what was held back."""
        held, self._held = self._held or [], None
        for changes, touched in held:
            self._tell(changes, touched)

    def _tell(self, changes: Sequence[Delta], touched: set[str]) -> None:
        """Tell every listener; one that fails does not keep the others from hearing, and what was kept stays kept."""
        if self._held is not None:
            self._held.append((changes, touched))
            return
        failed: Exception | None = None
        for listener in self.listeners if changes else ():
            try:
                listener(changes, touched)
            except Exception as error:
                failed = error
        if failed is not None:
            raise Fault(f"the change is kept, but it could not be shown ({type(failed).__name__}: {str(failed)[:200]})", right="open the project again") from failed


class _Piece:
    """Commands run one after the other on a desk's model, kept together."""

    def __init__(self, desk: Desk) -> None:
        self.desk = desk
        self.done: list[tuple[str, str, object, Sequence[Delta]]] = []
        self.changes: list[Delta] = []  # applied, in order
        self.touched: set[str] = set()
        self._known = 0  # how many of them the ledger was told of
        self._ledger_moved = False

    def put(self, made: Sequence[Delta]) -> None:
        """Apply changes to the model."""
        made = list(made)
        check_changes(made)
        self.changes += made  # before they are applied: half applied ones are taken back too
        self.desk.project.apply(made)

    def apply(self, name: str, title: str, args: object, made: Sequence[Delta]) -> None:
        """Apply a command's changes, and those of runs that follow."""
        if not made:
            return
        first = len(self.changes)
        self.put(made)
        self.put(runs.follow(self.desk.project, list(made)))
        self.done.append((name, title, args, self.changes[first:]))

    def bring_in_step(self, findings: bool = True) -> None:
        """Tell the ledger what it does not know yet; what only ``findings`` depend on may wait."""
        fresh = self.changes[self._known :]
        if fresh:
            members = self.desk.project.members
            # members put somewhere by a command are asked; what undo and redo bring back was kept before
            placed = dict.fromkeys(c.id for c in fresh if isinstance(c.new, Member) and (not isinstance(c.old, Member) or (c.old.start, c.old.end) != (c.new.start, c.new.end)))
            check_crowd(self.desk.project, self.desk.ledger.finder, [members[key] for key in placed if key in members] if self.done else [])
            self._known = len(self.changes)
            self._ledger_moved = True
            self.touched |= self.desk.ledger.build(fresh)
        if findings:
            self.touched |= self.desk.ledger.settle()

    def keep(self) -> None:
        """Bring the ledger in step, then write everything to the file: that is the last step that can fail."""
        self.bring_in_step()
        if self.done:
            self.desk.store.commit(self.done)

    def take_back(self) -> None:
        """Everything as it was before."""
        self.desk.project.apply(inverse(self.changes))
        self.desk.ledger.progress = None  # this goes through to its end
        if self._ledger_moved:
            self.desk.ledger.rebuild()
