"""A drawing on paper, by value: lines, circles, texts, dimensions, symbols.  Millimetres of paper, y upward.

One source for the screen, print and files: whoever shows it decides on colours and pens by style.
"""

from dataclasses import dataclass, field
from typing import Literal

from tincleat.geometry.frames import Array, Frame

Style = Literal["part", "member", "bolt", "rod", "hidden", "centre", "dimension", "weld", "concrete", "break", "title"]
Anchor = Literal["left", "middle", "right"]
SCALES = (1, 2, 2.5, 5, 7.5, 10, 12.5, 15, 20, 25, 30, 40, 50, 75, 100)


@dataclass(frozen=True, eq=False)
class Lines:
    """Straight pieces of one style: (k, 4) as x0, y0, x1, y1."""

    style: Style
    pieces: Array


@dataclass(frozen=True)
class Circle:
    """A circle; ``filled`` ones are solid."""

    style: Style
    x: float
    y: float
    radius: float


@dataclass(frozen=True)
class Text:
    """A text whose anchor sits at (x, y) on its middle height; ``height`` of capitals in mm; ``over`` lines, which it breaks."""

    text: str
    x: float
    y: float
    height: float
    anchor: Anchor = "middle"
    strong: bool = False
    over: bool = False


@dataclass(frozen=True, eq=False)
class Fill:
    """A shaded area: (n, 2) corners."""

    style: Style
    corners: Array


@dataclass(frozen=True)
class DimensionText:
    """A dimension's number: where it stands, what it measures (mm of steel) and which setting it edits; ``required`` when in breach."""

    text: str
    x: float
    y: float
    width: float
    height: float
    measured: float
    setting: str
    gap: int
    view: str
    required: str = ""
    raw: str = ""
    anchor: Anchor = "middle"
    other: str = ""  # the length in the other system, where the text has no room for it


@dataclass(frozen=True)
class Spot:
    """A finding's mark."""

    x: float
    y: float
    level: str
    words: str
    key: str


@dataclass(frozen=True)
class SwitchSpot:
    """A place that a click leaves out or takes in again: the setting that lists what is left out, and its number there."""

    x: float
    y: float
    setting: str
    number: int
    on: bool
    words: str


@dataclass(frozen=True)
class HandleSpot:
    """What can be taken hold of: the ways it can be pulled, each as it lies on paper (mm of paper a mm pulled), with what that does to settings."""

    x: float
    y: float
    pulls: tuple[tuple[tuple[float, float], tuple[tuple[str, int, float], ...]], ...]
    words: str

    def pulled(self, dx: float, dy: float) -> tuple[float, ...]:
        """How far (mm) each way is pulled by a stretch of paper; what it cannot follow is left."""
        (ax, ay) = self.pulls[0][0]
        if len(self.pulls) == 1:
            return ((dx * ax + dy * ay) / (ax * ax + ay * ay),)
        (bx, by) = self.pulls[1][0]
        det = ax * by - ay * bx
        return ((dx * by - dy * bx) / det, (ax * dy - ay * dx) / det)


@dataclass(frozen=True)
class ViewBox:
    """One view on the sheet: paper = (model - centre) / scale + (x, y); ``frame`` is its plane in the joint."""

    name: str
    title: str
    frame: Frame
    x: float
    y: float
    centre: tuple[float, float]
    box: tuple[float, float, float, float]


@dataclass
class Drawing:
    """A sheet of ``width`` x ``height`` mm at 1 : ``scale``."""

    width: float
    height: float
    scale: float
    lines: list[Lines] = field(default_factory=list)
    circles: list[Circle] = field(default_factory=list)
    texts: list[Text] = field(default_factory=list)
    fills: list[Fill] = field(default_factory=list)
    dimensions: list[DimensionText] = field(default_factory=list)
    spots: list[Spot] = field(default_factory=list)
    views: list[ViewBox] = field(default_factory=list)
    switches: list[SwitchSpot] = field(default_factory=list)
    handles: list[HandleSpot] = field(default_factory=list)
