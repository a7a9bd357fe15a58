"""A detail's bodies by kind in its joint frame, for the levels of detail of a picture."""

from dataclasses import dataclass

import numpy as np

from tincleat.details.assembled import Assembled, plate_mesh, rod_mesh, tie_bodies
from tincleat.details.bodies import plug_mesh, weld_bodies
from tincleat.details.bolting import bolt_bodies
from tincleat.geometry.frames import Array
from tincleat.geometry.mesh import Mesh, joined, prism
from tincleat.lazy import lazy
from tincleat.steel.body import steel_mesh


@dataclass(frozen=True, eq=False)
class Shapes:
    """Meshes by kind, and the least and greatest corner of the steel parts."""

    boxes: Mesh
    plates: Mesh
    welds: Mesh
    bolts: Mesh
    blocks: Mesh
    low: Array
    high: Array

    @lazy
    def all(self) -> Mesh:
        """Everything but concrete, as one mesh."""
        return joined([self.plates, self.welds, self.bolts])

    @lazy
    def edged(self) -> Mesh:
        """What edges are drawn of."""
        return joined([self.plates, self.bolts])


def shapes(a: Assembled) -> Shapes:
    """The bodies of an assembled detail."""
    d = a.detail
    pieces = [steel_mesh(p.shape, p.cuts, 0.0, p.length, 1).placed(p.frame) for p in d.pieces]
    drilled = [steel_mesh(p.shape, p.cuts, 0.0, p.length, 1, drill=True).placed(p.frame) for p in d.pieces]
    boxes = joined([_box(p.outline.bounds, p.thickness).placed(p.frame) for p in d.flats] + pieces)
    plates = joined([plate_mesh(p, 2, True) for p in d.plates] + [b.mesh(2, True) for b in d.bents] + drilled)
    plates = joined([plates, *(f.mesh(3, True) for f in d.fittings)])
    boxes = joined([boxes, *(f.mesh(1, False) for f in d.fittings)])
    bolts = [m for f in a.fitted for m in bolt_bodies(d.bolts[f.group], f)] + [rod_mesh(r) for r in d.rods]
    for tie in d.ties:
        bar, nuts = tie_bodies(tie)
        bolts += [bar, *nuts]
    blocks = joined([prism(b.outline, (), 0.0, b.thickness).placed(b.frame) for b in d.blocks])
    points = np.concatenate([boxes.points] + [m.points for m in bolts])
    if not len(points):
        points = np.zeros((1, 3))
    return Shapes(boxes, plates, joined([b.mesh for b in weld_bodies(d.welds)] + [plug_mesh(p, 3) for p in d.plugs]), joined(bolts), blocks, points.min(axis=0), points.max(axis=0))


def _box(bounds: tuple[float, float, float, float], t: float) -> Mesh:
    x0, y0, x1, y1 = bounds
    points = np.array([(x, y, z) for z in (0.0, t) for y in (y0, y1) for x in (x0, x1)])
    tris = np.array(
        [[0, 2, 1], [1, 2, 3], [4, 5, 6], [5, 7, 6], [0, 1, 4], [1, 5, 4], [2, 6, 3], [3, 6, 7], [0, 4, 2], [2, 4, 6], [1, 3, 5], [3, 7, 5]], dtype=np.int32
    )
    return Mesh(points, tris)
