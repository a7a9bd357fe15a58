"""Bodies of building parts by their dimensions: upright prisms over a plan, walls along a line, stairs, straight bars."""

import math
from collections.abc import Sequence

import numpy as np
import shapely
from shapely.geometry import LineString, Polygon

from tincleat.errors import BadValue
from tincleat.geometry.frames import Array, Frame
from tincleat.geometry.mesh import Mesh, ring_prism

Spot = tuple[float, float]


def upright(plan: Polygon, low: float, high: float) -> Mesh:
    """The solid over a plan polygon (mm, with its openings) between two heights; raises BadValue for a plan that is none."""
    plan = shapely.orient_polygons(plan)
    if not plan.is_valid or plan.area < 1.0:
        raise BadValue("the corners do not enclose an area: sides cross or the corners lie in one line", right="corners in order round the outline")
    return ring_prism([np.asarray(ring.coords)[:-1, :2] for ring in (plan.exterior, *plan.interiors)], low, high)


def wall(line: Sequence[Spot], thickness: float, low: float, high: float) -> Mesh:
    """A wall of even thickness centred on a line of plan points (mm), mitred at its corners; raises BadValue."""
    path = LineString(line)
    if path.length < 1.0:
        raise BadValue("the wall has no length", right="two points or more, apart")
    plan = path.buffer(thickness / 2, cap_style="flat", join_style="mitre", mitre_limit=10.0)
    if not isinstance(plan, Polygon):
        raise BadValue("the wall's line falls apart", right="one line of points")
    return upright(plan, low, high)


def stair(foot: Array, way: Array, rise: float, steps: int, going: float, width: float, waist: float) -> Mesh:
    """A straight flight with ``steps`` risers from a point (3,) along a level unit direction (3,), centred on it.

    ``waist`` is its thickness square to the slope under the inner corners, all mm; raises BadValue where the flight is too thin
    or too short for it.
    """
    riser = rise / steps
    drop = waist * math.hypot(1.0, riser / going)
    if steps < 2 or (steps - 1) * riser <= drop:
        raise BadValue(f"{steps} risers of {riser:.0f} mm leave no room for a waist of {waist:.0f} mm", right="more steps or a thinner waist")
    profile = [(0.0, 0.0)]
    for i in range(steps):
        profile += [(i * going, (i + 1) * riser)] + ([((i + 1) * going, (i + 1) * riser)] if i < steps - 1 else [])
    profile += [((steps - 1) * going, (steps - 1) * riser - drop), (drop * going / riser, 0.0)]
    # the profile stands in the plane of the way and the plumb line; seen from its right side it runs clockwise
    across = np.array([way[1], -way[0], 0.0])
    flight = ring_prism([np.array(profile[::-1])], -width / 2, width / 2)
    return flight.placed(Frame.of(foot, way, across))


def box_bar(frame: Frame, length: float, width: float, depth: float) -> Mesh:
    """A straight bar of ``width`` (along the frame's y) by ``depth`` (along its z), from its origin along x, mm."""
    y, z = width / 2, depth / 2
    bar = ring_prism([np.array([(-y, -z), (y, -z), (y, z), (-y, z)])], 0.0, length)
    # the prism's own z is the bar's x
    return bar.placed(Frame(frame.origin, frame.y, frame.x))
