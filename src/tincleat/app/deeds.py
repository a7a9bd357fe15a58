"""Small deeds behind actions: what they do to a window."""

import getpass
from pathlib import Path
from typing import Any

from tincleat.app.asking import save_path
from tincleat.app.context import Host
from tincleat.app.dialogs import Ask, FormDialog
from tincleat.app.review import Matter, Row
from tincleat.app.tables import id_of
from tincleat.app.waiting import overlaps_told
from tincleat.errors import TinCleatError
from tincleat.joints.case import MEETING
from tincleat.ledger.entries import Entry
from tincleat.ledger.through import Through
from tincleat.project.entities import Member
from tincleat.project.store import SUFFIX
from tincleat.proof.finding import Finding


def next_open_end(w: Host) -> None:
    """Go from one end that meets nothing to the next."""
    if w.desk is None:
        return
    ends = [e for e in w.desk.ledger.entries.values() if e.joint.kind in MEETING]
    if not ends:
        w.say("Every member end meets something")
        return
    w.open_at = (w.open_at + 1) % len(ends)
    entry = ends[w.open_at]
    w.select([entry.joint.key], [], True)
    w.say(entry.joint.words)


def next_through(w: Host) -> None:
    """Go from two members that are through each other to the next two."""
    if w.desk is None:
        return
    found = [(t, f) for t, f in overlaps_told(w.desk) if isinstance(t, Through)]
    w.progress_.show()
    if not found:
        w.say("No two members are through each other")
        return
    w.through_at = (w.through_at + 1) % len(found)
    w.show_finding(found[w.through_at])
    w.say(f"{found[w.through_at][1].message}; {w.through_at + 1} of {len(found)}")


def drawer_focus(w: Host) -> None:
    """Go to the filter."""
    w.drawer.search.setFocus()
    w.drawer.search.selectAll()


def toggle_perspective(w: Host) -> None:
    """Parallel or perspective."""
    w.view.camera.perspective = not w.view.camera.perspective
    w.view.redraw()


def toggle_marks(w: Host) -> None:
    """Show or hide the marks."""
    w.view.marks_on = not w.view.marks_on
    w.view.update()


def select_kin(w: Host) -> None:
    """Select all joints like the first selected one."""
    if w.desk is not None and w.selected:
        joint = w.desk.ledger.entries[w.selected[0]].joint
        keys = [j.key for j in w.desk.ledger.like(joint)]
        w.select([joint.key] + [k for k in keys if k != joint.key], [])
        w.say(f"{len(keys)} alike: {joint.words}")


def save_copy(w: Host, path: Path) -> None:
    """Write a whole copy of the project."""
    if w.desk is not None:
        try:
            lacks = w.desk.store.copy_to(path)
        except TinCleatError as error:
            w.fail(str(error))
        else:
            w.say(f"Copy written: {path}" + (f"; {lacks}" if lacks else ""))


def save_elsewhere(w: Host) -> None:
    """Write the project to another file and go on working in that one."""
    if w.desk is None:
        return
    store = w.desk.store
    path = save_path(w, "Save elsewhere", store.path.with_name(f"{store.path.stem} copy{SUFFIX}"), f"Tin Cleat projects (*{SUFFIX})", (SUFFIX,))
    if path is None:
        return
    try:
        lacks = store.copy_to(path)
    except TinCleatError as error:
        w.fail(str(error))
        return
    if w.projects.open_path(path):
        w.say(f"Now working in {path}" + (f"; {lacks}" if lacks else ""))


def next_finding(w: Host, step: int = 1) -> None:
    """Go from finding to finding."""
    w.drawer.go("Findings")
    table = w.drawer.finding_table
    # all of them, whatever the filter hides; accepted ones need nobody to go there
    rows = [(i, row.data) for i, row in enumerate(table.rows.rows) if row.state in ("breach", "note")]
    if not rows:
        accepted = sum(row.state == "concession" for row in table.rows.rows)
        w.say("No breaches and no notes" + (f"; {accepted} accepted" if accepted else ""))
        return
    names = [id_of(data) for _, data in rows]
    if w.finding_seen in names:
        at = (names.index(w.finding_seen) + step) % len(rows)
    else:  # the one looked at last is mended or accepted: what came after it has its place now
        at = (w.finding_at if step > 0 else w.finding_at - 1) % len(rows)
    w.finding_at, w.finding_seen = at, names[at]
    row, data = rows[at]
    index = table.filter.mapFromSource(table.rows.index(row, 0))
    hidden = len(rows) - sum(table.filter.mapFromSource(table.rows.index(i, 0)).isValid() for i, _ in rows)
    if index.isValid():
        table.selectRow(index.row())
        table.scrollTo(index)
    else:
        table.clearSelection()
    w.show_finding(data)
    if hidden:
        words = "this one and " if not index.isValid() and hidden > 1 else "this one" if not index.isValid() else ""
        others = hidden - (not index.isValid())
        w.say(f"{w.hint.text()}  (the filter hides {words}{f'{others} of {len(rows)}' if others else ''})")


def accept(w: Host, found: tuple[Entry, Finding]) -> None:
    entry, f = found
    assert entry.connection is not None
    key, connection = f.key, entry.connection.id

    def submit(values: dict[str, str]) -> str:
        return w.command_error("accept-finding", connection=connection, finding=key, by=values["by"], reason=values["reason"])

    words = f"{f.title}: {f.message}. {f.clause}. The acceptance lapses if it gets worse."
    FormDialog("Accept with a reason", words, [Ask("by", "Accepted by", _user()), Ask("reason", "Reason", "", hint="why this is right here")], submit, w).exec()


def _user() -> str:
    try:
        return getpass.getuser()
    except (KeyError, OSError):
        return ""


def change_members(w: Host, name: str, /, **args: Any) -> bool:
    """Change one member at once; of several, show first what will change and what becomes of their connections."""
    ids = args.get("ids", [])
    if w.desk is None or name != "change-members" or len(ids) < 2:
        return w.run(name, **args)
    try:
        trial = w.desk.trial(name, **args)
    except TinCleatError as error:
        w.fail(str(error))
        return False
    values = {k: v for k, v in args.items() if k != "ids"}
    rows = []
    for d in trial.changes:
        if isinstance(d.old, Member) and isinstance(d.new, Member) and d.id in ids:
            words = ", ".join(f"{k} {getattr(d.old, k)} → {getattr(d.new, k)}" for k in ("section", "grade", "role") if getattr(d.old, k) != getattr(d.new, k))
            rows.append(Row(d.id, "changes", d.new.name, d.new.section, words, None, d.new))
    if not rows:
        w.say("Nothing differs: they are so already")
        return False
    for old, new in trial.entries:
        entry = new or old
        assert entry is not None
        c = entry.connection or (old.connection if old is not None else None)
        what = f"{c.family} {c.id}" if c is not None else entry.joint.key
        after = "its joint is gone" if new is None or new.connection is None else new.problem or f"{old.level if old is not None else ''} → {new.level}"
        rows.append(Row(f"joint {entry.joint.key}", "connection follows", what, "", f"{after}: {entry.joint.words}", can=False))

    def take(keys: list[str]) -> bool:
        if not w.run("change-members", ids=keys, **values):
            return False
        bad = sum(new is not None and (new.level == "breach" or bool(new.problem)) for _, new in trial.entries)
        w.say(f"{w.hint.text()}; {len(trial.entries)} connections followed" + (f", {bad} need a look" if bad else ""))
        return True

    w.looking.through(Matter(trial.title, rows, take, "Change"))
    return True
