"""Headed studs: the face they stand on, its thickness, their height, distances to each other and to edges."""

from collections.abc import Iterator

import numpy as np
import shapely

from tincleat.details.assembled import Assembled
from tincleat.details.fittings import Stud
from tincleat.geometry.frames import Array, vec
from tincleat.project.entities import HouseRules
from tincleat.proof.finding import Finding, Rule, at_least, at_most
from tincleat.standards.limit import Limit
from tincleat.standards.rulesets import rules_of

ON_FACE = 0.6  # mm that a stud's foot may lie off the face it is welded to
ON_WEB = 0.5  # shank diameters off a web's middle within which a stud stands over it
IN_LINE = 0.1  # mm that studs of one row or line may lie off it


def studs(a: Assembled, house: HouseRules) -> Iterator[Finding]:
    """Of the studs on each ply the worst of every rule."""
    rules = rules_of(house)
    found: dict[int, list[tuple[Stud, Array]]] = {}
    for f in a.detail.fittings:
        if isinstance(f, Stud):
            on = _under(a, f)
            if on is None:
                yield at_most("stud-base", "Stud on its steel", Limit(0.0, "it is welded to a face, its whole foot on it"), f.name, f.collar[0], f.frame.origin, f"foot of {f.name} off the steel")
            else:
                found.setdefault(on, []).append((f, a.plies[on].frame.to_local(f.frame.o[None])[0, :2]))
    for number, some in found.items():
        ply, stud = a.plies[number], some[0][0]
        limits, flat = rules.studs(stud.bar), np.array([at for _, at in some])
        name = f"studs on {ply.name}"
        least = min(some, key=lambda s: s[0].length)[0]
        yield at_least("stud-height", "Height of a stud", limits["height"], name, least.length, least.frame.origin, f"{least.size} over all")
        beside = [s for s, at in some if ply.stem is None or abs(float(at[1]) - ply.stem) > ON_WEB * s.bar]
        if beside:
            yield at_least("stud-flange", "Steel under a stud", limits["flange"], name, ply.thickness, beside[0].frame.origin, f"{ply.name} under {beside[0].size} that is not over a web")
        off = shapely.distance(ply.polygon.exterior, shapely.points(flat)) - stud.bar / 2
        i = int(np.argmin(off))
        yield at_least("stud-edge", "Stud to an edge", limits["edge"], name, float(off[i]), some[i][0].frame.origin, f"{stud.size} to the edge of {ply.name}")
        yield from _apart(name, [s for s, _ in some], flat, limits)


def _under(a: Assembled, f: Stud) -> int | None:
    """The number of the ply on whose face a stud stands, if there is one."""
    for number, ply in enumerate(a.plies):
        x, y, z = ply.frame.to_local(f.frame.o[None])[0]
        square = abs(float(np.dot(ply.frame.z, f.frame.x))) > 0.999
        if square and min(abs(z), abs(z - ply.thickness)) < ON_FACE and shapely.contains_xy(ply.polygon, x, y):
            return number
    return None


def _apart(name: str, some: "list[Stud]", flat: Array, limits: "dict[str, Limit]") -> Iterator[Finding]:
    """Least spacing along the steel and across it, and the greatest from row to row."""
    if len(some) < 2:
        return
    gaps = np.abs(flat[:, None] - flat[None])
    np.fill_diagonal(gaps[:, :, 0], np.inf)
    along, across = gaps[:, :, 0], gaps[:, :, 1]
    for rule, words, one, other, key in (("stud-along", "along", along, across, "along"), ("stud-across", "across", np.where(np.isinf(along), np.inf, across), np.where(np.isinf(along), np.inf, along), "across")):
        lined = np.where((other <= IN_LINE) & (one > IN_LINE), one, np.inf)
        if np.isfinite(lined).any():
            i, k = np.unravel_index(int(lined.argmin()), lined.shape)
            yield at_least(rule, f"Spacing of studs {words}", limits[key], name, float(lined[i, k]), some[int(i)].frame.origin, f"{some[0].size} {words}")
    rows = np.unique(np.round(flat[:, 0], 2))
    if len(rows) > 1:
        wide = int(np.diff(rows).argmax())
        at = some[int(np.abs(flat[:, 0] - rows[wide]).argmin())]
        yield at_most("stud-apart", "Greatest spacing of studs", limits["apart"], name, float(np.diff(rows)[wide]), vec(at.frame.o), f"{at.size} from row to row")


RULES = (Rule("studs", "Headed studs", studs),)
