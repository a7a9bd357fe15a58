"""Small deeds behind actions: what they do to a window."""

from pathlib import Path
from typing import TYPE_CHECKING

from tincleat.errors import TinCleatError
from tincleat.joints.case import MEETING

if TYPE_CHECKING:
    from tincleat.app.window import Window


def next_open_end(w: "Window") -> None:
    """Go from one end that meets nothing to the next."""
    if w.desk is None:
        return
    ends = [e for e in w.desk.ledger.entries.values() if e.joint.kind in MEETING]
    if not ends:
        w.say("Every member end meets something")
        return
    w._open_at = (w._open_at + 1) % len(ends)
    entry = ends[w._open_at]
    w.select([entry.joint.key], [], True)
    w.say(entry.joint.words)


def drawer_focus(w: "Window") -> None:
    """Go to the filter."""
    w.drawer.search.setFocus()
    w.drawer.search.selectAll()


def toggle_perspective(w: "Window") -> None:
    """Parallel or perspective."""
    w.view.camera.perspective = not w.view.camera.perspective
    w.view.redraw()


def toggle_marks(w: "Window") -> None:
    """Show or hide the marks."""
    w.view.marks_on = not w.view.marks_on
    w.view.update()


def select_kin(w: "Window") -> None:
    """Select all joints like the first selected one."""
    if w.desk is not None and w.selected:
        joint = w.desk.ledger.entries[w.selected[0]].joint
        keys = [j.key for j in w.desk.ledger.like(joint)]
        w.select([joint.key] + [k for k in keys if k != joint.key], [])
        w.say(f"{len(keys)} alike: {joint.words}")


def save_copy(w: "Window", path: Path) -> None:
    """Write a whole copy of the project."""
    if w.desk is not None:
        try:
            w.desk.store.copy_to(path)
        except TinCleatError as error:
            w.fail(str(error))
        else:
            w.say(f"Copy written: {path}")
