"""What can be taken hold of in the model: the handles of the connection that is selected, as the eye sees them."""

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtWidgets import QWidget

from tincleat.app.camera import Camera
from tincleat.app.holding import Holding
from tincleat.geometry.frames import Frame
from tincleat.ledger.made import Made
from tincleat.release.drawing import HandleSpot

CLOSE = 8.0  # mm a pixel up to which a part is large enough to be taken hold of
ASLANT = 0.3  # least share of its length that a way shows in the picture: one that goes into it cannot be pulled along
APART = 0.2  # sine of the least angle between two ways in the picture
PROBE = 100.0  # mm along a way, to see where it goes


class Grips:
    """The handles of one made detail, at its joint's frame, both told by ``source``, in the picture of ``camera`` on a widget."""

    def __init__(self, on: QWidget, camera: Camera, source: Callable[[], "tuple[Made, Frame] | None"]) -> None:
        self._camera, self._source = camera, source
        self.holding = Holding(on, lambda h: QPointF(h.x, h.y), lambda way: (way.x(), way.y()))

    def spots(self) -> list[HandleSpot]:
        """Every handle with those of its ways that can be followed here, in pixels a millimetre; none from afar."""
        cam, found = self._camera, self._source()
        if found is None or cam.mm_per_pixel > CLOSE:
            return []
        made, frame = found
        handles = made.detail.handles
        ways = [p for h in handles for p in h.pulls]
        if not ways:
            return []
        at = frame.to_world(np.array([h.at for h in handles]))
        start = np.repeat(at, [len(h.pulls) for h in handles], axis=0)
        flat = cam.project(np.concatenate([start, start + frame.turn(np.array([p.way for p in ways])) * PROBE]))[:, :2]
        steps = iter(((flat[len(ways) :] - flat[: len(ways)]) / PROBE).tolist())
        out = []
        for h, (x, y) in zip(handles, cam.project(at)[:, :2].tolist(), strict=True):
            pulls = [((u, v), p.rates) for p in h.pulls for u, v in (next(steps),) if np.hypot(u, v) * cam.mm_per_pixel > ASLANT]
            if len(pulls) == 2:
                (ax, ay), (bx, by) = pulls[0][0], pulls[1][0]
                if abs(ax * by - ay * bx) < APART * np.hypot(ax, ay) * np.hypot(bx, by):
                    pulls = pulls[:1]
            if pulls and np.isfinite((x, y)).all():
                out.append(HandleSpot(x, y, tuple(pulls), h.words))
        return out

    def at(self, at: QPointF) -> HandleSpot | None:
        """The handle under the pointer."""
        return self.holding.at(self.spots(), at)

    def take(self, at: QPointF) -> None:
        """Take hold of the handle under the pointer."""
        if (handle := self.at(at)) is not None:
            self.holding.take(handle, at)

    def words(self, at: QPointF) -> str:
        """What can be done with the handle under the pointer; empty where there is none."""
        handle = self.at(at)
        return f"{handle.words}: pull it, or click and type how far" if handle is not None else ""
