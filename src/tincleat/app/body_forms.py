"""Forms for bodies that are not steel: pads, walls, slabs, stairs, timber; to lock, move and delete them."""

from collections.abc import Callable
from functools import partial

from tincleat.app.context import Host
from tincleat.app.dialogs import Action, Ask
from tincleat.app.forms import first_level, triple

Values = dict[str, str]


def _places(text: str) -> "list[str | list[str]]":
    """Places parted by ``;`` or spaces: crossings such as A1, or pairs of lengths such as 0, 4500 (then parted by ``;``)."""
    parts = [p.strip() for p in text.split(";")] if ";" in text or "," in text else text.split()
    return [triple(p) if "," in p else p for p in parts if p]


def _point(text: str) -> "str | list[str]":
    return triple(text) if "," in text else text


def pads(w: Host) -> None:
    """Pads at crossings."""
    fields = [Ask("at", "At", "", hint="A1 B3, A1:C4, or x, y"), Ask("length", "Length", "1200"), Ask("width", "Width", "1200"), Ask("depth", "Depth", "600"),
              Ask("top", "Top", first_level(w), hint="a level or a height")]  # fmt: skip
    w.form(
        "Concrete pads", "Shown with the steel, locked until you unlock them.", fields,
        lambda v: w.command_error("add-pads", at=_places(v["at"]), length=v["length"], width=v["width"], depth=v["depth"], top=v["top"]),
    )  # fmt: skip


def wall(w: Host) -> None:
    """A wall along places."""
    fields = [
        Ask("through", "Through", "", hint="A1 A4 C4, or x, y; x, y"),
        Ask("thickness", "Thickness", "250"),
        Ask("base", "Base", first_level(w)),
        Ask("height", "Height", "3000"),
    ]
    w.form(
        "A wall", "Centred on the line of the places, mitred at its corners.", fields,
        lambda v: w.command_error("add-wall", through=_places(v["through"]), thickness=v["thickness"], base=v["base"], height=v["height"]),
    )  # fmt: skip


def slab(w: Host) -> None:
    """A slab over an outline."""
    fields = [Ask("corners", "Corners", "", hint="A1:C4, or x, y; x, y; x, y"), Ask("thickness", "Thickness", "150"), Ask("top", "Top", first_level(w, True)),
              Ask("opening", "Opening", "", hint="corners, if there is one")]  # fmt: skip
    w.form(
        "A slab", "Over the box between two places, or over corners in order.", fields,
        lambda v: w.command_error(
            "add-slab", corners=_places(v["corners"]), thickness=v["thickness"], top=v["top"], openings=[_places(v["opening"])] if v["opening"].strip() else []
        ),
    )  # fmt: skip


def stair(w: Host) -> None:
    """A straight flight."""
    fields = [Ask("start", "Foot", "", hint="a crossing, or x, y"), Ask("towards", "Towards", "", hint="a crossing, or x, y"), Ask("base", "From", first_level(w)),
              Ask("top", "Up to", first_level(w, True)), Ask("width", "Width", "1000"), Ask("going", "Going", "270"), Ask("steps", "Risers", "0", hint="0: worked out")]  # fmt: skip

    def submit(v: Values) -> str:
        if not v["steps"].strip().isdigit():
            return f"risers: {v['steps']!r} is no whole number"
        return w.command_error(
            "add-stair", start=_point(v["start"]), towards=_point(v["towards"]), base=v["base"], top=v["top"], width=v["width"], going=v["going"],
            steps=int(v["steps"]),
        )  # fmt: skip

    w.form("A stair", "A straight concrete flight of even risers.", fields, submit)


def timber(w: Host) -> None:
    """A timber bar."""
    fields = [
        Ask("start", "Start", "", hint="A1 eaves, or x, y, z"),
        Ask("end", "End", "", hint="B1 eaves, or x, y, z"),
        Ask("width", "Width", "140"),
        Ask("depth", "Depth", "360"),
    ]
    w.form(
        "A timber member", "Shown with the steel; nothing is joined to it.", fields,
        lambda v: w.command_error("add-timber", start=_point(v["start"]), end=_point(v["end"]), width=v["width"], depth=v["depth"]),
    )  # fmt: skip


def _which(w: Host, locked: "bool | None") -> list[str]:
    """Kinds and names of the bodies that are locked, or not, or of all."""
    found = [b for b in w.desk.project.references.values() if locked is None or b.locked is locked] if w.desk is not None else []
    return list(dict.fromkeys([*sorted({b.kind for b in found}), *(b.name for b in found)]))


def _ask(w: Host, title: str, words: str, names: list[str], more: "list[Ask]", submit: "Callable[[Values], str]") -> None:
    if not names:
        w.say("All of them are locked: unlock some first")
        return
    w.form(title, words, [Ask("which", "Which", names[0], names), *more], submit)


def lock(w: Host) -> None:
    """Lock bodies, or unlock them."""
    _ask(
        w, "Lock or unlock bodies", "A locked body is neither moved nor deleted.", _which(w, None), [Ask("how", "They are", "unlocked", ("unlocked", "locked"))],
        lambda v: w.command_error("lock-references", ids=[v["which"]], locked=v["how"] == "locked"),
    )  # fmt: skip


def move(w: Host) -> None:
    """Move unlocked bodies."""
    _ask(
        w, "Move bodies", "", _which(w, False), [Ask(axis, f"Along {axis}", "0") for axis in "xyz"],
        lambda v: w.command_error("move-references", ids=[v["which"]], by=[v["x"], v["y"], v["z"]]),
    )  # fmt: skip


def delete(w: Host) -> None:
    """Delete unlocked bodies."""
    _ask(w, "Delete bodies", "Undo brings them back.", _which(w, False), [], lambda v: w.command_error("delete-references", ids=[v["which"]]))


def body_actions(w: Host) -> list[Action]:
    """The actions for bodies that are not steel, bound to a window."""

    def opened() -> bool:
        return w.desk is not None

    def some() -> bool:
        return w.desk is not None and bool(w.desk.project.references)

    none = "There are no bodies that are not steel"
    return [
        Action("add-pads", "Concrete pads…", ("footing", "foundation", "reference"), "", partial(pads, w), opened, "Pads at crossings, as reference"),
        Action("add-wall", "A wall…", ("concrete", "masonry", "reference"), "", partial(wall, w), opened, "A wall along places, as reference"),
        Action("add-slab", "A slab…", ("floor", "concrete", "reference"), "", partial(slab, w), opened, "A slab with an opening, as reference"),
        Action("add-stair", "A stair…", ("flight", "steps", "reference"), "", partial(stair, w), opened, "A straight flight, as reference"),
        Action("add-timber", "A timber member…", ("wood", "glulam", "reference"), "", partial(timber, w), opened, "A timber bar, as reference"),
        Action("lock-references", "Lock or unlock bodies…", ("walls", "slabs", "pads", "protect"), "", partial(lock, w), some, none),
        Action("move-references", "Move bodies…", ("walls", "slabs", "pads"), "", partial(move, w), some, none),
        Action("delete-references", "Delete bodies…", ("walls", "slabs", "pads", "remove"), "", partial(delete, w), some, none),
    ]
