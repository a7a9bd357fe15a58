"""Bodies inside each other: boxes first, then the exact volume that two solids share.  Touching is not clashing."""

import math
from collections.abc import Callable, Iterable, Iterator, Sequence

import msgspec
import numpy as np

from tincleat.details.assembled import Assembled, role_words
from tincleat.details.bodies import Body, solid
from tincleat.geometry.frames import Array, Vec3, vec
from tincleat.geometry.mesh import joined, overlap_volume, shared_pieces
from tincleat.project.entities import HouseRules
from tincleat.proof.finding import Finding, Rule
from tincleat.units import format_length, format_volume

HAND = np.array([1.0, 1e-3, 1e-6])  # says of a direction and its opposite which is which
MIXED = np.array([1.0, math.pi, math.e])  # directions that differ hardly ever come out alike, and where they did bodies would only be cut that one of them parts
DEEP = 0.1  # mm that bodies share along every direction square to a face where they do more than touch, for what moves past steel


def clashes(a: Assembled, house: HouseRules) -> Iterator[Finding]:
    """Every two bodies of a site that share more than the house allows; one clear finding if there are none."""
    found = solid(a)
    # members that this place does not settle are the business of the connection that does
    passing = {role_words(m.role) for m in a.case.members if m.role.partition("-")[0] in PASSING}
    hits = _by_part([_finding(x, y, volume, where, house) for x, y, volume, where in _inside([p for p in _pairs(found, house.clash_depth) if not {b.name if b.kind == "member" else "" for b in p} <= passing], house)])
    yield from hits or [_clear(house, "all parts")]


def between(mine: Sequence[Body], theirs: Sequence[Body], house: HouseRules, words: str) -> Iterator[Finding]:
    """Every body of one group that is inside one of another group; ``words`` say whose the others are."""
    pairs = reaching(mine, theirs, _may, house.clash_depth)
    yield from _by_part([_finding(x, y, volume, where, house, words) for x, y, volume, where in _inside(pairs, house)])


def reaching(mine: Sequence[Body], theirs: Sequence[Body], may: "Callable[[Body, Body], bool]", deep: float) -> "list[tuple[Body, Body]]":
    """Pairs of a body of each group that may be inside each other and that no plane square to a face of any of them parts, but for ``deep`` mm."""
    if not mine or not theirs:
        return []
    (a0, a1), (b0, b1) = _boxes(mine), _boxes(theirs)
    near = (a0[:, None] < b1[None] - deep).all(axis=2) & (b0[None] < a1[:, None] - deep).all(axis=2)
    return _unparted([(mine[i], theirs[j]) for i, j in np.argwhere(near).tolist() if may(mine[i], theirs[j])], deep)


def _by_part(found: list[Finding]) -> list[Finding]:
    """Of several places between the same two parts (the bolts of a group, the two fillets of a web) the worst, in order of the first."""
    groups: dict[str, list[Finding]] = {}
    for f in found:
        groups.setdefault(f.part, []).append(f)
    out = []
    for some in groups.values():
        worst = max(some, key=lambda f: f.actual)
        out.append(msgspec.structs.replace(worst, message=f"{worst.message}, the worst of {len(some)} places") if len(some) > 1 else worst)
    return out


def _boxes(found: Sequence[Body]) -> tuple[Array, Array]:
    if not found:
        return np.zeros((0, 3)), np.zeros((0, 3))
    starts = np.cumsum([0, *(len(b.mesh.points) for b in found[:-1])])
    points = np.concatenate([b.mesh.points for b in found])
    return np.minimum.reduceat(points, starts, axis=0), np.maximum.reduceat(points, starts, axis=0)


def _pairs(found: Sequence[Body], deep: float) -> list[tuple[Body, Body]]:
    low, high = _boxes(found)
    near = (low[:, None] < high[None] - deep).all(axis=2)
    near = np.triu(near & near.T, 1)
    return _unparted([(found[i], found[j]) for i, j in np.argwhere(near).tolist() if _may(found[i], found[j])], deep)


def directions(found: "Iterable[Body]") -> Array:
    """All directions (k, 3) square to a face of some bodies, one of each two opposite ones."""
    ways = np.concatenate([b.ways for b in found])
    ways = ways[np.einsum("ij,ij->i", ways, ways) > 0.5]  # a sliver has no direction
    ways = ways * np.where((ways @ HAND)[:, None] < 0, -1.0, 1.0)
    return ways[np.unique(ways.round(6) @ MIXED, return_index=True)[1]]


def _unparted(pairs: "list[tuple[Body, Body]]", deep: float) -> "list[tuple[Body, Body]]":
    """Those pairs that no plane square to a face of any of them parts: most bodies near each other only touch, or not even that."""
    if not pairs:
        return []
    found = {id(b): b for pair in pairs for b in pair}
    number = {key: i for i, key in enumerate(found)}
    ways = directions(found.values())
    covers = [b.covers for b in found.values()]
    first = np.cumsum([0, *(len(c) for c in covers)])  # of a body's covers among all
    hulls = [h for c in covers for h in c]
    starts = np.cumsum([0, *(len(h) for h in hulls[:-1])])
    along = np.concatenate(hulls) @ ways.T
    low, high = np.minimum.reduceat(along, starts, axis=0), np.maximum.reduceat(along, starts, axis=0)
    # every cover of one against every cover of the other, all pairs at once: a pair is parted when all of those are
    counts, (a, b) = np.diff(first), np.array([(number[id(x)], number[id(y)]) for x, y in pairs]).T
    tries = counts[a] * counts[b]
    of = np.repeat(np.arange(len(pairs)), tries)
    rank = np.arange(len(of)) - np.repeat(np.cumsum(tries) - tries, tries)
    one, two = first[a][of] + rank // counts[b][of], first[b][of] + rank % counts[b][of]
    kept = ~((low[one] > high[two] - deep) | (low[two] > high[one] - deep)).any(axis=1)
    return [pairs[k] for k in dict.fromkeys(of[kept].tolist())]


WELDS = {"weld", "plug"}
HELD = ("shank", "rod", "plug")
PASSING = ("support", "column", "beam", "under", "member", "other")


def _may(a: Body, b: Body) -> bool:
    """Whether two bodies could clash: not a bolt with what it passes, not welds with each other, not anything cast in concrete."""
    kinds = {a.kind, b.kind}
    if "concrete" in kinds or kinds <= WELDS:
        return False
    if kinds == {"head", "shank"} and a.name == b.name:
        return False
    return not any(_meant(one, other) for one, other in ((a, b), (b, a)))


def _meant(one: Body, other: Body) -> bool:
    """Whether a body may lie in a part it belongs to: what stands in a hole, which the rules for bolts, rods and plugs look at, and a weld on a round
    bar, whose true surface the rule for welds measures to."""
    if other.kind not in ("member", "plate", "piece") or other.name not in one.owners:
        return False
    return one.kind in HELD or (one.kind == "weld" and other.bar is not None and other.bar[0].shape in ("CHS", "RD"))


def _inside(pairs: "Sequence[tuple[Body, Body]]", house: HouseRules) -> "Iterator[tuple[Body, Body, float, Vec3]]":
    """Those pairs that share volume, with how much and where.  Small bodies are first tried all together against a large one."""
    groups: dict[tuple[int, str], list[tuple[Body, Body]]] = {}
    for a, b in pairs:
        if b.kind in ("head", "shank") and a.kind not in ("head", "shank"):
            groups.setdefault((id(a), b.kind), []).append((a, b))
        elif a.kind in ("head", "shank") and b.kind not in ("head", "shank"):
            groups.setdefault((id(b), a.kind), []).append((b, a))
        else:
            groups.setdefault((id(a), f"{id(b)}"), []).append((a, b))
    for some in groups.values():
        if len(some) > 1 and overlap_volume(some[0][0].mesh, joined([b.mesh for _, b in some])) <= house.clash_volume:
            continue
        for a, b in some:
            if overlap_volume(a.mesh, b.mesh) <= house.clash_volume:
                continue
            deep = [(volume, points) for volume, points in shared_pieces(a.mesh, b.mesh) if _is_deep(points, a, b, house.clash_depth)]
            if (total := sum(volume for volume, _ in deep)) > house.clash_volume:
                points = np.concatenate([p for _, p in deep])
                yield a, b, total, vec((points.min(axis=0) + points.max(axis=0)) / 2)


def _is_deep(points: Array, a: Body, b: Body, deep: float) -> bool:
    """Whether what two bodies share is more than a film, ``deep`` mm at most, between two faces that all but touch."""
    ways = np.concatenate([a.ways, b.ways])
    ways = ways[np.einsum("ij,ij->i", ways, ways) > 0.5]
    along = points @ ways.T
    return bool((along.max(axis=0) - along.min(axis=0)).min(initial=np.inf) > deep)


def _words(house: HouseRules) -> str:
    return f"house rule: at most {format_volume(house.clash_volume, house.units)} shared, deeper than {format_length(house.clash_depth, house.units, mark=True)}"


def _finding(a: Body, b: Body, volume: float, where: Vec3, house: HouseRules, words: str = "") -> Finding:
    # one finding for all bolts of a group: their numbers are left out
    names = " and ".join((b_.name.rpartition(", ")[0] if b_.kind in ("head", "shank") else "") or b_.name for b_ in (a, b)) + words
    return Finding(
        "clash", "Parts inside each other", _words(house), "breach", names, volume, house.clash_volume, "<=", "mm³", where,
        f"{names} share {format_volume(volume, house.units)}",
    )  # fmt: skip


def zone_finding(part: str, where: Vec3, words: str) -> Finding:
    """That a part of another connection lies in a protected zone."""
    return Finding(
        "protected-zone", "Protected zone", "AISC 358 7, protected zone: nothing else is fixed there", "breach", f"{part}{words}", 1.0, 0.0, "<=", "", where,
        f"{part}{words} lies in the protected zone",
    )  # fmt: skip


def _clear(house: HouseRules, part: str) -> Finding:
    return Finding(
        "clash", "Parts inside each other", _words(house), "clear", part, 0.0, house.clash_volume, "<=", "mm³", (0.0, 0.0, 0.0), "no two bodies of this place share volume",
    )  # fmt: skip


RULES = (Rule("clashes", "Parts inside each other", clashes),)
