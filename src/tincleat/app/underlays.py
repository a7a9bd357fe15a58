"""Drawings under the model, for the graphics side; and the deeds that lay and fit them."""

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

import msgspec
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QFileDialog

from tincleat.app.context import Host
from tincleat.app.dialogs import Action, Ask
from tincleat.commands.underlay import AddUnderlay, Drawing, lay_drawing, read_drawing
from tincleat.geometry.frames import Array
from tincleat.project.entities import Underlay

FILES = "Drawings (*.dxf *.pdf *.png *.jpg *.jpeg)"


def lay(w: Host) -> None:
    """Choose a drawing and lay it at a level."""
    name, _ = QFileDialog.getOpenFileName(w, "A drawing to lay under the model", "", FILES)
    if not name or w.desk is None:
        return
    levels = [v.name for v in sorted(w.desk.project.levels.values(), key=lambda v: v.elevation)]
    level = levels[0] if levels else 0.0

    def read_in(**more: Any) -> None:
        args = AddUnderlay(name, **{"level": level, **more})

        def kept(found: Drawing) -> None:
            if w.run_made("add-underlay", msgspec.to_builtins(args), lambda project: lay_drawing(project, args, found)):
                w.view.fit()
                w.say("Laid. Fit it by two points: Ctrl+K, fit")

        w.work(f"Reading {Path(name).name}", lambda progress: read_drawing(args, progress), kept)

    if not name.lower().endswith(".pdf"):
        read_in()
        return

    def page(v: dict[str, str]) -> str:
        if not v["page"].strip().isdigit():
            return f"page: {v['page']!r} is no page number"
        bad = w.number_error(v, "scale")
        if not bad:
            read_in(level=v["level"] or level, page=int(v["page"]), paper_scale=float(v["scale"]))
        return bad

    fields = [Ask("page", "Page", "1"), Ask("scale", "Drawn at 1 to", "100"), Ask("level", "Level", str(level), complete=levels)]
    w.form("Lay a page under the model", "It is laid as a picture; fitting it by two points corrects the scale.", fields, page)


def _chosen(w: Host, title: str, then: "Callable[[Underlay], None]") -> None:
    """Go on with the drawing, asking which one where there are several."""
    found: dict[str, Underlay] = {}
    for u in w.desk.project.tables["underlay"].values() if w.desk is not None else ():
        found[u.name if u.name not in found else f"{u.name} ({u.id})"] = u
    if len(found) == 1:
        then(next(iter(found.values())))
    elif found:

        def submit(v: dict[str, str]) -> str:
            then_ = found[v["drawing"]]
            QTimer.singleShot(0, lambda: then(then_))
            return ""

        w.form(title, "", [Ask("drawing", "Drawing", list(found)[-1], list(found))], submit)


def fit(w: Host) -> None:
    """Click two points of a drawing, then say where they belong."""
    _chosen(w, "Fit which drawing", lambda u: w.pointing.start_on_plane(u.level, partial(_belong, w, u.id)))


def _belong(w: Host, key: str, points: "list[Array]") -> None:
    fields = [Ask("first", "The first belongs at", "", hint="a crossing such as A1, or x, y"), Ask("second", "The second belongs at", "", hint="C4, or x, y")]

    def place(text: str) -> "str | list[str]":
        parts = [p.strip() for p in text.split(",")]
        return text.strip() if len(parts) == 1 else [*parts[:2], "0"]

    w.form(
        "Fit the drawing", "It is scaled, turned and shifted so that both points come to lie where they belong.", fields,
        lambda v: w.command_error("fit-underlay", id=key, points=[p[:2].tolist() for p in points], belong=[place(v["first"]), place(v["second"])]),
    )  # fmt: skip


def dim(w: Host) -> None:
    """How faint a drawing is, and at which level it lies."""

    def ask(u: Underlay) -> None:
        w.form(
            f"Dim {u.name}", "0 is as drawn, 1 unseen.", [Ask("dim", "Dim", f"{u.dim:g}"), Ask("level", "Level", f"{u.level:g}")],
            lambda v: w.number_error(v, "dim") or w.command_error("change-underlay", id=u.id, dim=float(v["dim"]), level=v["level"]),
        )  # fmt: skip

    _chosen(w, "Dim which drawing", ask)


def remove(w: Host) -> None:
    """Take a drawing away."""

    def gone(u: Underlay) -> None:
        w.run("delete-underlay", id=u.id)

    _chosen(w, "Take which drawing away", gone)


def underlay_actions(w: Host) -> list[Action]:
    """The actions for drawings under the model, bound to a window."""

    def some() -> bool:
        return w.desk is not None and bool(w.desk.project.tables["underlay"])

    return [
        Action("underlay", "Lay a drawing under the model…", ("dxf", "picture", "background", "reference"), "", partial(lay, w), lambda: w.desk is not None, "DXF, PDF, PNG or JPEG at a level"),
        Action("fit-underlay", "Fit the drawing by two points", ("scale", "align", "underlay"), "", partial(fit, w), some, "Lay a drawing first"),
        Action("dim-underlay", "Dim the drawing…", ("faint", "underlay"), "", partial(dim, w), some, "Lay a drawing first"),
        Action("delete-underlay", "Take the drawing away", ("remove underlay",), "", partial(remove, w), some, "Lay a drawing first"),
    ]  # fmt: skip
