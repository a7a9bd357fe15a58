"""An underlay as it is drawn under the model: lines, or a picture on a plane."""

import math

import numpy as np
from PySide6.QtGui import QImage
from vtkmodules.util.numpy_support import numpy_to_vtk
from vtkmodules.vtkCommonDataModel import vtkImageData
from vtkmodules.vtkRenderingCore import vtkActor, vtkTexture

from tincleat.app.chunks import actor, line_data, polydata
from tincleat.app.theme import Theme, rgb
from tincleat.geometry.frames import Array
from tincleat.geometry.mesh import Mesh
from tincleat.project.entities import Underlay
from tincleat.project.sound import segments

FILES = "Drawings (*.dxf *.pdf *.png *.jpg *.jpeg)"


def placed(u: Underlay, points: Array) -> Array:
    """Points (n, 2) of an underlay where they lie in the world, (n, 3) mm."""
    c, s = math.cos(u.angle), math.sin(u.angle)
    flat = (points - np.array(u.base)) * u.scale @ np.array([(c, s), (-s, c)]) + np.array(u.at)
    return np.column_stack([flat, np.full(len(flat), u.level)])


def underlay_actor(u: Underlay, theme: Theme) -> vtkActor | None:
    """What draws an underlay; None if its body cannot be read."""
    if u.kind == "lines":
        try:
            lines = segments(u)
        except ValueError:
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
