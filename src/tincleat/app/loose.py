"""Lists of loose parts in the panel and under the pointer: parts added, copied and taken out, and the face that is pointed at."""

from collections.abc import Callable
from typing import Protocol

import numpy as np
from PySide6.QtWidgets import QHBoxLayout

from tincleat.app.fields import Choice
from tincleat.app.simple import button, label
from tincleat.catalogue.fasteners import bolt_size
from tincleat.commands.loose import refers
from tincleat.families.loose.settings import PARTS
from tincleat.geometry.frames import Array
from tincleat.joints.case import Joint
from tincleat.ledger.entries import Entry

ADD = "Add a part…"
Run = Callable[..., bool]


class Panel(Protocol):
    """The panel of a connection, as far as this needs it."""

    @property
    def entry(self) -> Entry | None:
        """The entry shown."""


def part_adder(panel: Panel, run: Run) -> QHBoxLayout:
    """A choice that adds a part of the kind chosen."""
    row = QHBoxLayout()
    box = Choice()
    box.addItems([ADD, *PARTS])
    box.setAccessibleName("Add a part")
    box.setToolTip("A plate, piece, bolts, holes, studs, plug welds, a weld of the last plate or piece, or a cut")
    box.setFixedWidth(176)

    def chosen(i: int) -> None:
        kind = box.itemText(i)
        box.setCurrentIndex(0)
        entry = panel.entry
        if i and entry is not None and entry.connection is not None and entry.made is not None:
            apart = 5.0 * round(0.7 * bolt_size(entry.made.house.bolt).d) if not entry.made.house.inch else 76.2
            four = {"rows": [apart], "lines": [apart]} if kind == "bolts" else {}  # to begin with; one is told by emptying both
            run("add-part", connection=entry.connection.id, part=kind, settings=four)

    box.activated.connect(chosen)
    row.addWidget(label("PARTS", "group"), 1)
    row.addWidget(box)
    return row


def part_head(panel: Panel, group: str, run: Run, point: Callable[[int], None]) -> QHBoxLayout:
    """The head of a part's settings: what it is, and its copy and removal; of a weld the points it runs between, which ``point`` has picked."""
    number = int(group.split()[-1])
    row = QHBoxLayout()
    entry = panel.entry
    kind = str(entry.made.detail.number(f"part/{number}").value) if entry is not None and entry.made is not None else ""
    row.addWidget(label(f"{group} · {kind}".upper(), "group"), 1)

    def copy() -> None:
        found = panel.entry
        if found is not None and found.connection is not None:
            run("copy-part", connection=found.connection.id, number=number, along=_step(found))

    def remove() -> None:
        found = panel.entry
        if found is not None and found.connection is not None:
            run("remove-part", connection=found.connection.id, number=number, with_all=True)

    def tip() -> str:
        found = panel.entry
        others = refers(dict(found.connection.settings), number) if found is not None and found.connection is not None else []
        return f"Take part {number} out" + (f", and part {', '.join(map(str, others))} with it" if others else "")

    if kind == "weld":
        between = button("Between…", lambda: point(number), "link", "Point at the corners and edges in the model that it runs between")
        between.setAccessibleName(f"Points of weld {number}")
        row.addWidget(between)
    for name, words, deed, told in ((f"Copy part {number}", "Copy", copy, f"Part {number} once more beside it, with its welds"), (f"Remove part {number}", "Remove", remove, tip())):
        one = button(words, deed, "link", told)
        one.setAccessibleName(name)
        row.addWidget(one)
    return row


def _step(entry: Entry) -> float:
    """How far along a copy lies: past the parts there are, mm."""
    assert entry.made is not None
    low, high = entry.made.box
    return float(np.ceil((high[0] - low[0] + 20.0) / 10.0) * 10.0) if np.isfinite(low).all() else 200.0


def face_at(joint: Joint, point: Array) -> str:
    """The face of a site's member that a point (3,) in the world lies on or nearest to."""
    m = joint.case.members[0]
    at = joint.frame.to_local(point[None])[0] * (1.0, -1.0 if joint.mirrored else 1.0, 1.0) - np.array((0.0, m.frame.origin[1], m.frame.origin[2]))
    half_h = m.shape.h / 2
    # a flange's outer face reaches this far; all else is a side
    if abs(at[2]) > half_h - max(m.shape.tf or m.shape.tw, 1.0) * 1.02 and m.shape.shape != "FL":
        return "top" if at[2] > 0 else "bottom"
    return "near side" if at[1] < 0 else "far side"
