"""What takes a loose part of some kind in hand."""

from tincleat.app.context import Host
from tincleat.app.dialogs import Action


def loose_actions(w: Host) -> list[Action]:
    """Actions that take a loose part of some kind in hand."""
    words = {"plate": ("lug", "flat", "gusset"), "bent plate": ("fold", "angle of plate"), "piece": ("section", "angle", "stub"), "bolts": ("bolt group", "hole group"), "holes": ("drill", "packer", "service"), "cut": ("cope", "notch", "vent", "opening")}
    again = Action("place-again", "Place the selected again…", ("copy", "same", "repeat", "array", "in hand"), "Shift+J", lambda: _again(w), lambda: len(w.selected_connections()) == 1, "Take what is selected in hand, as it is, and point where else it goes")
    return [again] + [
        Action(f"loose-{kind.replace(' ', '-')}", f"Loose {kind}…" if kind != "cut" else "Cut into a member…", (*more, "by hand", "loose part"), "", lambda kind=kind: w.placing.start("loose", settings={"part/1": kind}), lambda: w.desk is not None, "Point at a member's face; more parts are added in the panel")  # type: ignore[misc]
        for kind, more in words.items()
    ]


def _again(w: Host) -> None:
    """Take the connection selected in hand with all that is typed of it."""
    assert w.desk is not None
    (key,) = w.selected_connections()
    c = w.desk.project.connections[key]
    w.placing.start(c.family, c.typical, dict(c.settings))


def weld_between(w: Host, number: int) -> None:
    """Pick in the model the points that a weld of the connection selected runs between."""
    if not w.selected_connections():
        return
    key = w.selected_connections()[0]
    w.pointing.start_on_edges(f"Weld {number} between points", lambda points: w.run("weld-between", connection=key, number=number, points=[[round(float(v), 3) for v in p] for p in points]))
