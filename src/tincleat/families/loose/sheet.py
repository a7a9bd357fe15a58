"""Views and dimensions of loose parts: the member where they lie, sizes and places that can be typed there."""

from collections import Counter
from collections.abc import Mapping

import numpy as np

from tincleat.details.parts import BentPlate, Dimension, Piece, Plate, SheetView, Side
from tincleat.families.declare import Given
from tincleat.families.loose.bolts import Pattern
from tincleat.families.loose.place import Face, Made
from tincleat.geometry.frames import Array, Frame, vec
from tincleat.joints.case import Case

AROUND = 45.0  # mm of the member shown past the parts
VIEWS = {
    "front": ("Front", Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, -1.0, 0.0))),
    "plan": ("Plan", Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, 0.0, 1.0))),
    "side": ("Side", Frame((0.0, 0.0, 0.0), (0.0, 1.0, 0.0), (1.0, 0.0, 0.0))),
}


def _corners(part: Made) -> Array:
    """Corners (n, 3) that hold a part."""
    if isinstance(part, Plate):
        x0, y0, x1, y1 = part.outline.bounds
        return part.frame.to_world([(x, y, z) for x in (x0, x1) for y in (y0, y1) for z in (0.0, part.thickness)])
    if isinstance(part, BentPlate):
        return np.concatenate(part.covers)
    y, z = part.shape.b / 2, part.shape.h / 2
    return part.frame.to_world([(x, s * y, t * z) for x in (0.0, part.length) for s in (-1.0, 1.0) for t in (-1.0, 1.0)])


def views(case: Case, made: "Mapping[int, Made]", patterns: list[Pattern]) -> tuple[SheetView, ...]:
    """The member from the front, above and along, as far as the parts go; first the one that looks at the first part."""
    points = np.concatenate([*(_corners(p) for p in made.values()), *(np.array(p.points) for p in patterns)] or [np.zeros((1, 3))])
    m = case.members[0]
    half = max(m.shape.h, m.shape.b) / 2
    low, high = points.min(axis=0) - AROUND, points.max(axis=0) + AROUND
    low[1:], high[1:] = np.minimum(low[1:], -half - 10.0), np.maximum(high[1:], half + 10.0)
    out = []
    for name in sorted(VIEWS, key=lambda n: n != _looks(made, patterns)):
        title, frame = VIEWS[name]
        corners = frame.to_local(np.array([low, high]))
        (a, b), (c, d) = np.sort(corners[:, 0]), np.sort(corners[:, 1])
        out.append(SheetView(name, title, frame, (float(a), float(c), float(b), float(d))))
    return tuple(out)


def _looks(made: "Mapping[int, Made]", patterns: list[Pattern]) -> str:
    """The view that looks most squarely at the first plate, or at the first pattern."""
    plate = next((p for p in made.values() if isinstance(p, Plate)), None)
    normal = np.array(plate.frame.z) if plate is not None else np.array(patterns[0].axis) if patterns else np.array((0.0, 0.0, 1.0))
    return max(VIEWS, key=lambda n: abs(float(np.array(VIEWS[n][1].z) @ normal)))


class _Chains:
    """Dimension chains, each further from its view than the one before."""

    def __init__(self) -> None:
        self.rows: Counter[tuple[str, str]] = Counter()
        self.out: list[Dimension] = []

    def add(self, view: str, points: Array, settings: tuple[str, ...]) -> None:
        """A chain through points (n, 3), if it runs level or upright in the view and each gap is to be seen."""
        flat = VIEWS[view][1].to_local(points)[:, :2]
        run = flat[-1] - flat[0]
        if np.hypot(*run) < 0.5 or min(abs(run)) > 0.02 * max(abs(run)):
            return
        level = abs(run[0]) > abs(run[1])
        order = flat[:, 0 if level else 1].argsort(kind="stable")
        if not (np.diff(flat[order, 0 if level else 1]) > 0.05).all():
            return
        side: Side = "bottom" if level else "right"
        gaps = settings if order[0] < order[-1] else settings[::-1]
        self.out.append(Dimension(view, side, self.rows[(view, side)], tuple(vec(points[i]) for i in order), gaps))
        self.rows[(view, side)] += 1


def dimensions(made: "Mapping[int, Made]", patterns: list[Pattern], faces: "Mapping[int, Face]", some: "Mapping[int, Given]") -> tuple[Dimension, ...]:
    """Sizes of plates and pieces, spacings of patterns, and where each lies from the station and the face's middle."""
    chains = _Chains()
    for k, part in made.items():
        own = some[k].has("points")
        if isinstance(part, Plate):
            x0, y0, x1, y1 = part.outline.bounds
            view = max(VIEWS, key=lambda n: abs(float(np.array(VIEWS[n][1].z) @ np.array(part.frame.z))))
            chains.add(view, part.frame.to_world([(x0, y0, 0.0), (x1, y0, 0.0)]), ("" if own else f"length/{k}",))
            chains.add(view, part.frame.to_world([(x1, y0, 0.0), (x1, y1, 0.0)]), ("" if own else f"width/{k}",))
        elif isinstance(part, Piece):
            ends = part.frame.to_world([(0.0, 0.0, 0.0), (part.length, 0.0, 0.0)])
            way = ends[1] - ends[0]
            view = "front" if abs(way[1]) < 0.1 * np.linalg.norm(way) else "plan"
            chains.add(view, np.array([ends[1] - way * (float(some[k].numbers[f"length/{k}"].value) / part.length), ends[1]]), (f"length/{k}",))  # type: ignore[arg-type]
        _place(chains, k, _corners(part).mean(axis=0) if not isinstance(part, Plate) else _middle(part), faces[k], some[k])
    for p in patterns:
        k = int(p.name.split()[-1])
        view = max(VIEWS, key=lambda n: abs(float(np.array(VIEWS[n][1].z) @ np.array(p.axis))))
        at = p.frame
        if len(p.rows) > 1:
            chains.add(view, at.to_world([(x, p.lines[0], 0.0) for x in p.rows]), (f"rows/{k}",) * (len(p.rows) - 1))
        if len(p.lines) > 1:
            chains.add(view, at.to_world([(p.rows[-1], y, 0.0) for y in p.lines]), (f"lines/{k}",) * (len(p.lines) - 1))
        _place(chains, k, np.array(at.o), faces[k], some[k])
    return tuple(chains.out)


def _middle(plate: Plate) -> Array:
    x0, y0, x1, y1 = plate.outline.bounds
    return plate.frame.to_world([((x0 + x1) / 2, (y0 + y1) / 2, plate.thickness / 2)])[0]


def _place(chains: _Chains, k: int, middle: Array, face: Face, one: Given) -> None:
    """Where a part lies, as far as it lies off the station or the face's middle."""
    view = max(VIEWS, key=lambda n: abs(float(np.array(VIEWS[n][1].z) @ face.n)))
    along, across = (float(one.numbers[f"{n}/{k}"].value) if f"{n}/{k}" in one.numbers else 0.0 for n in ("along", "across"))  # type: ignore[arg-type]
    zero = middle - face.u * along
    if abs(along) > 0.5:
        chains.add(view, np.array([zero, middle]), (f"along/{k}",) if along > 0 else ("",))
    if abs(across) > 0.5 and one.numbers[f"from_/{k}"].value == "the middle":
        chains.add(view, np.array([middle - face.v * across, middle]), (f"across/{k}",) if across > 0 else ("",))
