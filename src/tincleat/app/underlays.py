"""Drawings under the model, for the graphics side; and the deeds that lay and fit them."""

import math
import zlib
from functools import partial
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QFileDialog
from vtkmodules.util.numpy_support import numpy_to_vtk
from vtkmodules.vtkCommonDataModel import vtkImageData
from vtkmodules.vtkRenderingCore import vtkActor, vtkTexture

from tincleat.app.chunks import actor, line_data, polydata
from tincleat.app.dialogs import Action, Ask
from tincleat.app.theme import Theme, rgb
from tincleat.geometry.frames import Array
from tincleat.geometry.mesh import Mesh
from tincleat.project.entities import Underlay

if TYPE_CHECKING:
    from tincleat.app.window import Window

FILES = "Drawings (*.dxf *.png *.jpg *.jpeg)"


def placed(u: Underlay, points: Array) -> Array:
    """Points (n, 2) of an underlay where they lie in the world, (n, 3) mm."""
    c, s = math.cos(u.angle), math.sin(u.angle)
    flat = (points - np.array(u.base)) * u.scale @ np.array([(c, s), (-s, c)]) + np.array(u.at)
    return np.column_stack([flat, np.full(len(flat), u.level)])


def underlay_actor(u: Underlay, theme: Theme) -> vtkActor | None:
    """What draws an underlay; None if its body cannot be read."""
    if u.kind == "lines":
        try:
            lines = np.frombuffer(zlib.decompress(u.body), dtype="<f8").reshape(-1, 4)
        except (zlib.error, ValueError):
            return None
        points = placed(u, lines.reshape(-1, 2))
        made = actor(line_data(points, np.arange(len(points), dtype=np.int32).reshape(-1, 2)), rgb(theme.tin_dark), True)
    else:
        picture = QImage.fromData(u.body).convertToFormat(QImage.Format.Format_RGB888).mirrored()
        if picture.isNull():
            return None
        w, h = picture.width(), picture.height()
        rows = np.frombuffer(picture.constBits(), dtype=np.uint8).reshape(h, picture.bytesPerLine())[:, : 3 * w].reshape(-1, 3)
        image = vtkImageData()
        image.SetDimensions(w, h, 1)
        image.GetPointData().SetScalars(numpy_to_vtk(np.ascontiguousarray(rows), deep=True))
        texture = vtkTexture()
        texture.SetInputData(image)
        texture.InterpolateOn()
        corners = placed(u, np.array([(0.0, 0.0), (u.pixels[0], 0.0), u.pixels, (0.0, u.pixels[1])], dtype=float))
        data = polydata(Mesh(corners, np.array([[0, 1, 2], [0, 2, 3]], dtype=np.int32)))
        data.GetPointData().SetTCoords(numpy_to_vtk(np.array([(0, 0), (1, 0), (1, 1), (0, 1)], dtype=np.float32), deep=True))
        made = actor(data, (1.0, 1.0, 1.0))
        made.SetTexture(texture)
        made.GetProperty().BackfaceCullingOff()
        made.GetProperty().LightingOff()
    made.GetProperty().SetOpacity(max(0.0, 1.0 - u.dim))
    made.PickableOff()
    return made


def lay(w: "Window") -> None:
    """Choose a drawing and lay it at a level."""
    name, _ = QFileDialog.getOpenFileName(w, "A drawing to lay under the model", "", FILES)
    if not name or w.desk is None:
        return
    levels = [v.name for v in sorted(w.desk.project.levels.values(), key=lambda v: v.elevation)]
    if w.run("add-underlay", path=name, level=levels[0] if levels else 0.0):
        w.view.fit()
        w.say("Laid. Fit it by two points: Ctrl+K, fit")


def fit(w: "Window") -> None:
    """Click two points of the latest drawing, then say where they belong."""
    if w.desk is None:
        return
    found = list(w.desk.project.tables["underlay"].values())
    if found:
        w.pointing.start_on_plane(found[-1].level, partial(_belong, w, found[-1].id))


def _belong(w: "Window", key: str, points: "list[Array]") -> None:
    fields = [Ask("first", "The first belongs at", "", hint="a crossing such as A1, or x, y"), Ask("second", "The second belongs at", "", hint="C4, or x, y")]

    def place(text: str) -> "str | list[str]":
        parts = [p.strip() for p in text.split(",")]
        return text.strip() if len(parts) == 1 else [*parts[:2], "0"]

    w.form(
        "Fit the drawing", "It is scaled, turned and shifted so that both points come to lie where they belong.", fields,
        lambda v: w.command_error("fit-underlay", id=key, points=[p[:2].tolist() for p in points], belong=[place(v["first"]), place(v["second"])]),
    )  # fmt: skip


def dim(w: "Window") -> None:
    """How faint the latest drawing is, or away with it."""
    if w.desk is None:
        return
    found = list(w.desk.project.tables["underlay"].values())
    if found:
        u = found[-1]
        w.form(
            f"Dim {u.name}", "0 is as drawn, 1 unseen.", [Ask("dim", "Dim", f"{u.dim:g}"), Ask("level", "Level", f"{u.level:g}")],
            lambda v: w.number_error(v, "dim") or w.command_error("change-underlay", id=u.id, dim=float(v["dim"]), level=v["level"]),
        )  # fmt: skip


def underlay_actions(w: "Window") -> list[Action]:
    """The actions for drawings under the model, bound to a window."""

    def some() -> bool:
        return w.desk is not None and bool(w.desk.project.tables["underlay"])

    return [
        Action("underlay", "Lay a drawing under the model…", ("dxf", "picture", "background", "reference"), "", partial(lay, w), lambda: w.desk is not None, "DXF, PNG or JPEG at a level"),
        Action("fit-underlay", "Fit the drawing by two points", ("scale", "align", "underlay"), "", partial(fit, w), some, "Lay a drawing first"),
        Action("dim-underlay", "Dim the drawing…", ("faint", "underlay"), "", partial(dim, w), some, "Lay a drawing first"),
        Action("delete-underlay", "Take the drawing away", ("remove underlay",), "", lambda: w.run("delete-underlay", id=list(w.desk.project.tables["underlay"])[-1]) if w.desk else None, some, "Lay a drawing first"),
    ]  # fmt: skip
