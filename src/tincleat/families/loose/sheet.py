"""Views and dimensions of loose parts: the member where they lie, sizes and places that can be typed there."""

from collections.abc import Collection, Mapping, Sequence

import numpy as np

from tincleat.details.fittings import Stud
from tincleat.details.parts import BentPlate, Dimension, Piece, Plate, SheetView, Side
from tincleat.families.declare import Given
from tincleat.families.loose.bolts import Pattern
from tincleat.families.loose.cuts import Taken
from tincleat.families.loose.place import Face, Made
from tincleat.families.loose.settings import ACCESS
from tincleat.geometry.frames import Array, Frame, vec
from tincleat.joints.case import Case

BETWEEN = 40.0  # mm between chains in one row
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


def _rim(taken: Taken) -> Array:
    """Corners (4, 3) on the face of the rectangle round a cut."""
    x0, y0, x1, y1 = taken.outline.bounds
    return taken.face.to_world([(x0, y0, 0.0), (x1, y0, 0.0), (x1, y1, 0.0), (x0, y1, 0.0)])


def views(case: Case, made: "Mapping[int, Made]", patterns: list[Pattern], cuts: "Mapping[int, Taken]", studs: Sequence[Stud] = ()) -> tuple[SheetView, ...]:
    """The member from the front, above and along, as far as the parts go; first the one that looks at the first part."""
    points = np.concatenate([*(_corners(p) for p in made.values()), *(np.array(p.points) for p in patterns), *map(_rim, cuts.values()), *(s.frame.to_world([(s.length, 0.0, 0.0)]) for s in studs)] or [np.zeros((1, 3))])
    m = case.members[0]
    half = max(m.shape.h, m.shape.b) / 2
    low, high = points.min(axis=0) - AROUND, points.max(axis=0) + AROUND
    low[1:], high[1:] = np.minimum(low[1:], -half - 10.0), np.maximum(high[1:], half + 10.0)
    out = []
    for name in sorted(VIEWS, key=lambda n: n != _looks(made, patterns, cuts)):
        title, frame = VIEWS[name]
        corners = frame.to_local(np.array([low, high]))
        (a, b), (c, d) = np.sort(corners[:, 0]), np.sort(corners[:, 1])
        out.append(SheetView(name, title, frame, (float(a), float(c), float(b), float(d))))
    # two tell all of most; the third only where parts lie on both a side and a flange
    ways = {max(VIEWS, key=lambda n: abs(float(np.array(VIEWS[n][1].z) @ np.array(v)))) for v in [*(p.frame.z for p in made.values() if isinstance(p, Plate)), *(p.axis for p in patterns), *(c.frame.z for c in cuts.values())]}
    needed = [v for v in out if v.name in ways or v is out[0]]
    others = sorted((v for v in out if v not in needed), key=lambda v: v.name != "side")
    return tuple(needed + others[: max(0, 2 - len(needed))])


def _looks(made: "Mapping[int, Made]", patterns: list[Pattern], cuts: "Mapping[int, Taken]") -> str:
    """The view that looks most squarely at the first plate, or at the first pattern or cut."""
    plate = next((p for p in made.values() if isinstance(p, Plate)), None)
    normals = [*([plate.frame.z] if plate is not None else []), *(p.axis for p in patterns), *(c.frame.z for c in cuts.values() if c.notch is not None), (0.0, 0.0, 1.0)]
    normal = np.array(normals[0])
    return max(VIEWS, key=lambda n: abs(float(np.array(VIEWS[n][1].z) @ normal)))


class _Chains:
    """Dimension chains, each further from its view than the one before."""

    def __init__(self) -> None:
        self.taken: dict[tuple[str, str], list[list[tuple[float, float]]]] = {}
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
        spots = flat[order, 0 if level else 1]
        row = self._row(view, side, float(spots[0]), float(spots[-1]))
        self.out.append(Dimension(view, side, row, tuple(vec(points[i]) for i in order), gaps))

    def _row(self, view: str, side: str, low: float, high: float) -> int:
        """The nearest row in which there is room from ``low`` to ``high``."""
        rows = self.taken.setdefault((view, side), [])
        for i, some in enumerate(rows):
            if all(high + BETWEEN < a or b + BETWEEN < low for a, b in some):
                some.append((low, high))
                return i
        rows.append([(low, high)])
        return len(rows) - 1


def dimensions(made: "Mapping[int, Made]", patterns: list[Pattern], cuts: "Mapping[int, Taken]", faces: "Mapping[int, Face]", some: "Mapping[int, Given]", shown: tuple[SheetView, ...], laid: "Collection[int]" = ()) -> tuple[Dimension, ...]:
    """Sizes of plates and pieces, spacings of patterns, and where each lies from the station and the face's middle, in the views shown; parts in
    ``laid`` do not lie where they were told to."""
    chains, names = _Chains(), [v.name for v in shown]
    for k, part in made.items():
        own = some[k].has("points")
        if isinstance(part, Plate):
            x0, y0, x1, y1 = part.outline.bounds
            view = max(names, key=lambda n: abs(float(np.array(VIEWS[n][1].z) @ np.array(part.frame.z))))
            chains.add(view, part.frame.to_world([(x0, y0, 0.0), (x1, y0, 0.0)]), ("" if own else f"length/{k}",))
            chains.add(view, part.frame.to_world([(x1, y0, 0.0), (x1, y1, 0.0)]), ("" if own else f"width/{k}",))
        elif isinstance(part, Piece):
            ends = part.frame.to_world([(0.0, 0.0, 0.0), (part.length, 0.0, 0.0)])
            way = ends[1] - ends[0]
            view = _across(names, way)
            chains.add(view, np.array([ends[1] - way * (float(some[k].numbers[f"length/{k}"].value) / part.length), ends[1]]), (f"length/{k}",))  # type: ignore[arg-type]
        _place(chains, k, _corners(part).mean(axis=0) if not isinstance(part, Plate) else _middle(part), faces[k], some[k], names, k in laid)
    for p in patterns:
        k = int(p.name.split()[-1])
        view = max(names, key=lambda n: abs(float(np.array(VIEWS[n][1].z) @ np.array(p.axis))))
        at = p.frame
        x0, y0, x1, y1 = _under(p, made)
        for level, spots, name, (a, b), aside in ((True, p.rows, "rows", (x0, x1), p.lines[0]), (False, p.lines, "lines", (y0, y1), p.rows[-1])):
            # from the plate's edge to its edge, where it lies on one; a single line in the plate's middle tells nothing
            edged = bool(a < spots[0] - 0.5 and b > spots[-1] + 0.5) and (len(spots) > 1 or abs(a + b) > 1.0)
            chain = [a, *spots, b] if edged else spots
            told = ("",) * edged + (f"{name}/{k}",) * (len(spots) - 1) + ("",) * edged
            if len(chain) > 1:
                chains.add(view, at.to_world([(v, aside, 0.0) if level else (aside, v, 0.0) for v in chain]), told)
        _place(chains, k, np.array(at.o), faces[k], some[k], names)
    for k, taken in cuts.items():
        view = max(names, key=lambda n: abs(float(np.array(VIEWS[n][1].z) @ np.array(taken.frame.z))))
        a, b, c, _ = _rim(taken)
        chains.add(view, np.array([a, b]), (f"length/{k}",))
        if f"width/{k}" in some[k].numbers:  # a round one has its diameter alone
            chains.add(view, np.array([b, c]), (f"width/{k}",))
        # an access hole lies at its flange, on the side that it was told, however far across
        _place(chains, k, np.array(taken.face.o), faces[k], some[k], names, ways=1 if some[k].numbers[f"shape/{k}"].value == ACCESS else 2)
    return tuple(chains.out)


def _under(p: Pattern, made: "Mapping[int, Made]") -> tuple[float, float, float, float]:
    """Where the edges of a plate under a pattern lie in the pattern's frame, if one lies square there: least x and y, greatest; else nothing."""
    for part in made.values():
        if isinstance(part, Plate) and abs(abs(float(np.dot(part.frame.z, p.frame.z))) - 1.0) < 1e-6 and max(abs(float(np.dot(part.frame.x, v))) for v in (p.frame.x, p.frame.y)) > 0.9999:
            flat = p.frame.to_local(_corners(part))
            (x0, y0, z0), (x1, y1, z1) = flat.min(axis=0), flat.max(axis=0)
            if x0 < 0 < x1 and y0 < 0 < y1 and z0 - 1.0 < 0 < z1 + 1.0:
                return float(x0), float(y0), float(x1), float(y1)
    return 0.0, 0.0, 0.0, 0.0


def _middle(plate: Plate) -> Array:
    x0, y0, x1, y1 = plate.outline.bounds
    return plate.frame.to_world([((x0 + x1) / 2, (y0 + y1) / 2, plate.thickness / 2)])[0]


def _across(names: list[str], way: Array) -> str:
    """The view, of those there are, that looks most squarely across a direction."""
    return min(names, key=lambda n: abs(float(np.array(VIEWS[n][1].z) @ way)))


def _place(chains: _Chains, k: int, middle: Array, face: Face, one: Given, names: list[str], moved: bool = False, ways: int = 2) -> None:
    """Where a part lies, as far as it lies off the station and (of two ``ways``) the face's middle: as it was told, or where it was ``moved`` to."""
    for name, way in (("along", face.u), ("across", face.v))[:ways]:
        told = float(one.numbers[f"{name}/{k}"].value) if f"{name}/{k}" in one.numbers else 0.0  # type: ignore[arg-type]
        if name == "across" and one.numbers[f"from_/{k}"].value != "the middle":
            continue
        off = float((middle - face.point(0.0, 0.0)) @ way) if moved else told
        if abs(off) > 0.5:
            chains.add(_across(names, way), np.array([middle - way * off, middle]), (f"{name}/{k}",) if off > 0 and not moved else ("",))
