"""Drawing off screen: a window nobody sees with its one lamp, the eye put where a camera stands, the picture read back."""

import math

import numpy as np
import vtkmodules.vtkRenderingOpenGL2  # noqa: F401 - gives the renderer its implementation
from vtkmodules.util.numpy_support import vtk_to_numpy
from vtkmodules.vtkCommonCore import vtkUnsignedCharArray
from vtkmodules.vtkRenderingCore import vtkLight, vtkRenderer, vtkRenderWindow

from tincleat.app.camera import FIELD, Camera


def offscreen() -> tuple[vtkRenderWindow, vtkRenderer]:
    """A window to draw in off screen, and its renderer with one lamp that goes with the eye.

    The lamp stands a little above and beside the eye, so that the faces of a bar differ in tone.
    """
    window = vtkRenderWindow()
    window.SetOffScreenRendering(1)
    window.SetMultiSamples(0)
    window.SwapBuffersOff()  # the picture is read from where it was drawn; a copy to a display nobody sees costs 2 ms
    window.SetSize(16, 16)
    renderer = vtkRenderer()
    renderer.AutomaticLightCreationOff()
    light = vtkLight()
    light.SetLightTypeToCameraLight()
    light.SetPosition(-0.25, 0.5, 1.0)
    light.SetFocalPoint(0.0, 0.0, 0.0)
    renderer.AddLight(light)
    window.AddRenderer(renderer)
    return window, renderer


def look_from(renderer: vtkRenderer, camera: Camera) -> None:
    """Put a renderer's eye where a camera stands (clipping range not touched)."""
    eye = renderer.GetActiveCamera()
    eye.SetFocalPoint(*camera.target)
    eye.SetPosition(*camera.eye)
    eye.SetViewUp(*camera.axes[1])
    if camera.perspective:
        eye.ParallelProjectionOff()
        eye.SetViewAngle(math.degrees(FIELD))
    else:
        eye.ParallelProjectionOn()
        eye.SetParallelScale(camera.tall / 2)


def pixels_of(window: vtkRenderWindow, store: vtkUnsignedCharArray) -> "np.ndarray":
    """The picture drawn in a window, (h, w, 4) uint8 with the top row first; waits until it is done."""
    w, h = window.GetSize()
    window.GetRGBACharPixelData(0, 0, w - 1, h - 1, 0, store, 0)
    return np.ascontiguousarray(vtk_to_numpy(store).reshape(h, w, 4)[::-1])


def give_back(window: vtkRenderWindow, renderer: vtkRenderer) -> None:
    """Free what the graphics side holds, while its context is still there."""
    renderer.RemoveAllViewProps()
    window.RemoveRenderer(renderer)
    window.Finalize()
