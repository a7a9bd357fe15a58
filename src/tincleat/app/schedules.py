"""Schedules in the window: load an engineer's table of connections, take one out again."""

from functools import partial
from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from tincleat.app.context import Host
from tincleat.app.dialogs import Action, Ask
from tincleat.families.registry import FAMILIES

FILES = "Tables (*.csv)"


def load(w: Host) -> None:
    """Choose a CSV file, the family it is for and what to call it."""
    path, _ = QFileDialog.getOpenFileName(w, "A schedule of connections", "", FILES)
    if not path or w.desk is None:
        return
    kinds = {f.label: f.name for f in FAMILIES.values() if f.scheduled}
    fields = [Ask("family", "For", next(iter(kinds)), tuple(kinds)), Ask("name", "Name", Path(path).stem)]
    w.form(
        "Load a schedule", "A row a mark.  Columns: mark; beam, level and beams, which tell where a row belongs; and settings by name or label.  One of the same name is replaced.", fields,
        lambda v: w.command_error("load-schedule", family=kinds[v["family"]], path=path, name=v["name"]),
    )  # fmt: skip


def delete(w: Host) -> None:
    """Take a schedule out of the project."""
    assert w.desk is not None
    names = [s.name for s in w.desk.project.schedules.values()]
    w.form("Delete a schedule", "What is joined by it goes back to typed and worked-out values.", [Ask("name", "Schedule", names[0], tuple(names))], lambda v: w.command_error("delete-schedule", name=v["name"]))


def schedule_actions(w: Host) -> list[Action]:
    """The actions for schedules, bound to a window."""
    return [
        Action("load-schedule", "Load a schedule…", ("csv", "moment schedule", "table", "marks"), "", partial(load, w), lambda: w.desk is not None, "A CSV with a row a mark"),
        Action("delete-schedule", "Delete a schedule…", ("remove", "table", "marks"), "", partial(delete, w), lambda: w.desk is not None and bool(w.desk.project.schedules), "No schedule is loaded"),
    ]
