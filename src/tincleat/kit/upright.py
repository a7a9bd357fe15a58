"""Views of a sheet turned so that what is upward at the place is upward on paper."""

from collections.abc import Iterable, Sequence

import msgspec
import numpy as np

from tincleat.details.parts import Dimension, SheetView
from tincleat.geometry.frames import Frame, Vec3, vec

LEVEL = 0.7  # cosine of a view's line of sight with upward, under which it looks level
HALF_TURN = {"left": "right", "right": "left", "top": "bottom", "bottom": "top"}
FROM_ABOVE = {"top": "bottom", "bottom": "top"}


def upright(views: Iterable[SheetView], dimensions: Sequence[Dimension], up: Vec3 = (0.0, 0.0, 1.0)) -> tuple[tuple[SheetView, ...], tuple[Dimension, ...]]:
    """Views that stand on their heads turned half round, and those from below made from above; their dimensions keep to the sides they were on.

    ``views`` have no border of their own; ``up`` is upward in the frame that they are given in.
    """
    out, swaps = [], {}
    for v in views:
        f = v.frame
        sight, rise = (float(np.array(a) @ np.array(up)) for a in (f.z, f.y))
        if sight < -LEVEL:
            swaps[v.name] = FROM_ABOVE
            v = msgspec.structs.replace(v, frame=Frame(f.origin, f.x, vec(-np.array(f.z))))
        elif abs(sight) <= LEVEL and rise < -1e-6:
            swaps[v.name] = HALF_TURN
            v = msgspec.structs.replace(v, frame=Frame(f.origin, vec(-np.array(f.x)), f.z))
        out.append(v)
    dims = tuple(msgspec.structs.replace(d, side=swaps[d.view].get(d.side, d.side)) if d.view in swaps else d for d in dimensions)
    return tuple(out), dims
