"""Places by the names a drawing gives them: grid crossings such as ``B3``, levels such as ``eaves-150``."""

import math
import re
from bisect import bisect
from functools import lru_cache

from tincleat.errors import BadValue, NotFound, Refused
from tincleat.geometry.frames import Vec3
from tincleat.project.entities import Grid
from tincleat.project.project import Project
from tincleat.units import format_level, parse_length

_SHIFT = re.compile(r"\s*([+-])\s*(?=[\d.])")


def crossings(grid: Grid) -> dict[tuple[str, str], tuple[float, float]]:
    """Every crossing of a grid: (y label, x label) to its plan coordinates, mm."""
    c, s = math.cos(grid.angle), math.sin(grid.angle)
    return {(yn, xn): (grid.origin[0] + c * x - s * y, grid.origin[1] + s * x + c * y) for yn, y in grid.y for xn, x in grid.x}


def crossing(project: Project, text: str) -> tuple[float, float]:
    """Plan coordinates (mm) of a crossing such as ``B3`` or ``main:B3``; raises NotFound, or Refused if several grids have one."""
    grid_name, _, label = text.strip().rpartition(":")
    found = {}
    for g in project.grids.values():
        if not grid_name or grid_name in (g.id, g.name):
            for (y, x), at in crossings(g).items():
                if label.replace(" ", "").replace("/", "").replace("-", "") in (y + x, x + y):
                    found[(round(at[0], 3), round(at[1], 3))] = at
    if not found:
        some = [y + x for g in project.grids.values() for y, x in list(crossings(g))[:4]]
        raise NotFound(f"there is no grid crossing {text!r}", right="such as " + ", ".join(some[:6]) if some else "add a grid first")
    if len(found) > 1:
        raise Refused(f"{len(found)} crossings are called {text!r}", right="name the grid too, such as main:B3")
    return next(iter(found.values()))


def elevation(project: Project, text: "str | float") -> float:
    """An elevation in mm: a number, a length, or a level's name with a length added or taken off, such as ``eaves-150``."""
    if not isinstance(text, str):
        return float(text)
    name, shift = text.strip(), 0.0
    for level in project.levels.values():
        if name == level.name or name == level.id:
            return level.elevation
    hit = list(_SHIFT.finditer(name))
    if hit and hit[-1].start() > 0:
        cut = hit[-1]
        shift = parse_length(name[cut.end() :], project.house.units) * (1 if cut.group(1) == "+" else -1)
        name = name[: cut.start()].strip()
        for level in project.levels.values():
            if name in (level.name, level.id):
                return level.elevation + shift
    try:
        return parse_length(text.strip().lstrip("+"), project.house.units)
    except BadValue:
        names = ", ".join(v.name for v in project.levels.values())
        raise NotFound(f"there is no level {name!r}", right=f"a length, or one of {names}" if names else "a length, or add the level first") from None


def place(project: Project, text: str) -> Vec3:
    """A point (mm) written as a crossing and an elevation, such as ``B3 eaves`` or ``B3 4200``; without an elevation it lies at 0."""
    label, _, high = text.strip().partition(" ")
    x, y = crossing(project, label)
    return (x, y, elevation(project, high) if high.strip() else 0.0)


def box_of(project: Project, first: str, last: str) -> list[tuple[float, float]]:
    """Plan coordinates of every crossing of one grid within the box between two of its crossings, mm; raises NotFound."""
    for grid in project.grids.values():
        all_ = crossings(grid)
        named = {y + x: (y, x) for y, x in all_} | {x + y: (y, x) for y, x in all_}
        one, two = (named.get(t.strip().rpartition(":")[2].replace("/", "")) for t in (first, last))
        if one is None or two is None:
            continue
        ys, xs = [n for n, _ in grid.y], [n for n, _ in grid.x]
        y0, y1 = sorted((ys.index(one[0]), ys.index(two[0])))
        x0, x1 = sorted((xs.index(one[1]), xs.index(two[1])))
        return [all_[(y, x)] for y in ys[y0 : y1 + 1] for x in xs[x0 : x1 + 1]]
    raise NotFound(f"no grid has both crossings {first!r} and {last!r}", right="two crossings of one grid, such as A1 and C4")


def place_words(project: Project, height: float) -> str:
    """Where a height (mm) is: at a level no more than 100 mm away, or by its figure; in the project's unit."""
    near = min(project.levels.values(), key=lambda v: abs(v.elevation - height), default=None)
    unit = "m" if project.house.units in ("mm", "m") else "ft-in"
    if near is not None and abs(near.elevation - height) <= 100:
        return f"{near.name} {format_level(near.elevation, unit)}"
    return f"at {format_level(height, unit)}"


ON_LINE = 500.0  # mm within which a point is on a grid line rather than between two


def zone_words(project: Project, point: Vec3) -> str:
    """Between or on which grid lines a point (mm) lies, such as ``B, 2 to 3``; of several grids the first that has it within its lines."""
    for grid in project.grids.values():
        c, s = math.cos(grid.angle), math.sin(grid.angle)
        dx, dy = point[0] - grid.origin[0], point[1] - grid.origin[1]
        along, up = _between(grid.x, c * dx + s * dy), _between(grid.y, c * dy - s * dx)
        if along and up:
            return f"{grid.name}: {up}, {along}" if len(project.grids) > 1 else f"{up}, {along}"
    return "outside the grid" if project.grids else "no grid"


def _between(lines: tuple[tuple[str, float], ...], at: float) -> str:
    """The line that a place is on, or the two it lies between; empty outside all of them."""
    names, places = _ordered(lines)
    after = bisect(places, at)  # the first line beyond it
    beside = [i for i in (after - 1, after) if 0 <= i < len(places)]
    near = min(beside, key=lambda i: abs(places[i] - at), default=None)
    if near is not None and abs(places[near] - at) <= ON_LINE:
        return names[near]
    return f"{names[after - 1]} to {names[after]}" if 0 < after < len(places) else ""


@lru_cache(maxsize=64)
def _ordered(lines: tuple[tuple[str, float], ...]) -> tuple[tuple[str, ...], tuple[float, ...]]:
    order = sorted(lines, key=lambda line: line[1])
    return tuple(n for n, _ in order), tuple(v for _, v in order)
