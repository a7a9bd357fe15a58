"""Where rows of bolts and edges of plates go."""

import math
from collections.abc import Sequence

from tincleat.catalogue.sections import Section
from tincleat.steel.body import flange_at


def centred(gaps: Sequence[float], middle: float = 0.0) -> list[float]:
    """Lines with these gaps about a middle, in rising order."""
    out = [middle - sum(gaps) / 2]
    for gap in gaps:
        out.append(out[-1] + gap)
    return out


def from_first(first: float, gaps: Sequence[float], way: float = 1.0) -> list[float]:
    """Lines from a first one on, going ``way``."""
    out = [first]
    for gap in gaps:
        out.append(out[-1] + way * gap)
    return out


def up(value: float, step: float) -> float:
    """The least multiple of ``step`` not below a value."""
    return math.ceil(value / step - 1e-6) * step


def down(value: float, step: float) -> float:
    """The greatest multiple of ``step`` not above a value."""
    return math.floor(value / step + 1e-6) * step


def fill(length: float, pitch: float, most: int = 99) -> tuple[float, ...]:
    """Gaps of ``pitch`` as many as a length holds."""
    return (pitch,) * min(most, int(max(0.0, length + 1e-6) // pitch))


def inner_face(shape: Section, from_edge: float) -> float:
    """Height of the upper flange's inner face over the section's middle at a distance from the flange's free edge, mm; flanges may taper."""
    return shape.h / 2 - flange_at(shape, max(0.0, from_edge))
