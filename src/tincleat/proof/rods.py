"""Anchor rods against the base plate and the column: hole, edge, spacing, thread, room for washer and nut."""

from collections.abc import Iterator, Sequence

import msgspec
import numpy as np
import shapely

from tincleat.catalogue.fasteners import anchor_size, bolt_size, bolt_sizes
from tincleat.details.assembled import Assembled
from tincleat.details.parts import Hole, Plate, Rod, Weld
from tincleat.geometry.frames import Array, Frame
from tincleat.project.entities import HouseRules
from tincleat.proof.finding import Finding, Rule, at_least
from tincleat.proof.measure import nearest_edge
from tincleat.standards.limit import Limit
from tincleat.standards.rulesets import rules_of

LIES = 0.3  # |z| of a member's direction under which it lies on its plate


def rods(a: Assembled, house: HouseRules) -> Iterator[Finding]:
    """All rod checks, the worst rod of each."""
    if not a.detail.rods:
        return
    plate = _held(a)
    if plate is None:
        rod = a.detail.rods[0]
        yield Finding(
            "rod-hole",
            "Rod in its hole",
            "hole ≥ rod",
            "breach",
            "anchor rods",
            0,
            anchor_size(rod.size).d,
            ">=",
            "mm",
            (rod.x, rod.y, rod.top),
            "no plate has holes for the rods",
        )
        return
    size = anchor_size(a.detail.rods[0].size)
    local = plate.frame.to_local(np.array([(r.x, r.y, 0.0) for r in a.detail.rods]))[:, :2]
    anchors = [h for h in plate.holes if h.kind == "anchor"]
    yield _hole(a.detail.rods, local, anchors, size.d)
    yield from _edge(a, house, plate, local, anchors)
    yield from _seats(a, house, plate)
    if len(local) > 1:
        gap = np.hypot(*(local[:, None] - local[None]).transpose(2, 0, 1)) + np.eye(len(local)) * 1e9
        i = int(gap.min(axis=1).argmin())
        rod = a.detail.rods[i]
        yield at_least(
            "rod-spacing",
            "Rod spacing",
            Limit(4 * size.d, "practice: 4 d between anchor rods"),
            "anchor rods",
            float(gap.min()),
            (rod.x, rod.y, rod.top),
            f"{rod.size} rods",
        )
    rod = a.detail.rods[0]
    plate_top = float(plate.frame.origin[2]) + plate.thickness
    over = rod.top - max((n for n in rod.nuts if n >= plate_top - 0.01), default=rod.top) - size.nut_height
    yield at_least(
        "rod-thread",
        "Rod through its nut",
        rules_of(house).rod_thread(size.pitch),
        "anchor rods",
        over,
        (rod.x, rod.y, rod.top),
        f"{rod.size} rod above its top nut",
    )
    yield _clear(a, rod.washer[0])
    yield _cover(a, plate, local, anchors)


def _hole(found: "tuple[Rod, ...]", local: Array, anchors: "list[Hole]", d: float) -> Finding:
    nearest = [_of(p, anchors) for p in local]
    spare = [h.width - 2 * _off_slot(p, h) for p, h in zip(local, nearest, strict=True)]
    i = int(np.argmin(spare))
    rod = found[i]
    return at_least(
        "rod-hole", "Rod in its hole", Limit(d, "hole ≥ rod"), "anchor rods", spare[i], (rod.x, rod.y, rod.top), f"{rod.size} rod in its plate's hole"
    )


def _of(point: Array, anchors: "list[Hole]") -> Hole:
    """The hole whose middle lies nearest to a rod."""
    return min(anchors, key=lambda h: (h.x - point[0]) ** 2 + (h.y - point[1]) ** 2)


def _off_slot(point: Array, hole: Hole) -> float:
    """How far a rod's axis lies off the line along a hole's middle on which it could stand, mm."""
    along = np.array([np.cos(hole.angle), np.sin(hole.angle)])
    gap = np.asarray(point) - (hole.x, hole.y)
    reach = max(0.0, hole.length - hole.width) / 2
    return float(np.linalg.norm(gap - along * np.clip(gap @ along, -reach, reach)))


def _cover(a: Assembled, plate: Plate, local: Array, anchors: "list[Hole]") -> Finding:
    """How far each rod's plate washer lies past its hole, wherever in a slot the rod stands in the model; the least."""
    spare = []
    for point, rod in zip(local, a.detail.rods, strict=True):
        hole = _of(point, anchors)
        x = plate.frame.unturn(rod.stand.x)[:2]
        ways = np.array([x, (-x[1], x[0])])  # of the washer's sides
        run = max(0.0, hole.length - hole.width) / 2 * np.abs(ways @ (np.cos(hole.angle), np.sin(hole.angle)))
        off = np.abs(ways @ (np.array((hole.x, hole.y)) - point))
        spare.append(rod.washer[0] / 2 - float((off + run).max()) - hole.width / 2)
    i = int(np.argmin(spare))
    rod = a.detail.rods[i]
    return at_least(
        "rod-cover", "Washer over the hole", Limit(0.0, "a plate washer covers its hole"), "anchor rods", spare[i], (rod.x, rod.y, rod.top), f"{rod.size} rod: its washer past the hole"
    )


def _edge(a: Assembled, house: HouseRules, plate: Plate, local: Array, anchors: "list[Hole]") -> Iterator[Finding]:
    ring = np.asarray(plate.outline.polygon().exterior.coords)[:, :2]
    far, _ = nearest_edge(local, ring[:-1], ring[1:])
    inside = shapely.contains_xy(plate.outline.polygon(), local[:, 0], local[:, 1])
    # of a slot, from the middle of the end that lies nearest to the edge
    holes = [_of(p, anchors) for p in local]
    reach = np.array([max(0.0, h.length - h.width) / 2 for h in holes])
    along = np.array([(np.cos(h.angle), np.sin(h.angle)) for h in holes]) * reach[:, None]
    middles = np.array([(h.x, h.y) for h in holes])
    for way in (-1.0, 1.0):
        more, _ = nearest_edge(middles + way * along, ring[:-1], ring[1:])
        far = np.where(reach > 0, np.minimum(far, more), far)
    far = np.where(inside, far, -far)
    i = int(far.argmin())
    rod = a.detail.rods[i]
    if house.rule_set == "AISC":
        d = anchor_size(rod.size).d
        name = next((n for n, b in bolt_sizes().items() if abs(b.d - d) < 0.01), None)
        rules = rules_of(house)
        limit = rules.edge_least(bolt_size(name), Hole(0, 0, 0, 0), False) if name else Limit(1.25 * d, "AISC 360-22 table J3.4, 1.25 d")
    else:
        slotted = holes[i].length > holes[i].width + 0.01
        limit = Limit(1.5 * holes[i].width, "EN 1993-1-8 table 3.3, e3, e4 ≥ 1.5 d0 from the end radius") if slotted else Limit(1.2 * holes[i].width, "EN 1993-1-8 table 3.3, e ≥ 1.2 d0")
    yield at_least(
        "rod-edge", "Rod to plate edge", limit, plate.name, float(far[i]), (rod.x, rod.y, rod.top), f"{rod.size} rod to the edge of the {plate.name}"
    )


def _seats(a: Assembled, house: HouseRules, held: Plate) -> Iterator[Finding]:
    """Of plates over the one that the rods hold, through which single rods go and on which their washers lie: hole, and distance to the edge; the worst of each."""
    found: dict[str, Finding] = {}
    for p in a.detail.plates:
        holes = [h for h in p.holes if h.kind == "anchor"]
        if p.frame.origin[2] < held.frame.origin[2] + held.thickness - 0.01 or not holes:
            continue
        local = p.frame.to_local(np.array([(r.x, r.y, 0.0) for r in a.detail.rods]))[:, :2]
        mine = np.nonzero(shapely.contains_xy(p.outline.polygon(), local[:, 0], local[:, 1]))[0]
        some = tuple(a.detail.rods[int(i)] for i in mine)
        for one in (_hole(some, local[mine], holes, anchor_size(some[0].size).d), *_edge(a, house, p, local[mine], holes)) if some else ():
            worst = found.get(one.rule)
            if worst is None or one.actual - one.required < worst.actual - worst.required:
                found[one.rule] = msgspec.structs.replace(one, part=p.name)
    yield from found.values()


def _clear(a: Assembled, washer: float) -> Finding:
    """Distance from each rod's axis to the column's profile and the legs of the welds on the plate, as its square washer lies (inside counts as nothing).

    Plate washers are square: what counts is the larger of the distances along their two sides.
    """
    held = _held(a)
    level = held.frame.origin[2] + held.thickness if held is not None else 0.0
    # as the washers lie: everything turned back by what they are turned
    c, s = np.cos(a.detail.rods[0].turn), np.sin(a.detail.rods[0].turn)
    back = np.array([[c, -s], [s, c]])
    body = shapely.transform(_footprint(a, level), lambda points: points @ back)
    legs = _legs([w for w in a.detail.welds if held is not None and held.name in w.parts and "supported member" in w.parts]) @ back
    far = _square_distances(body, legs, np.array([(r.x, r.y) for r in a.detail.rods]) @ back)
    i = int(np.argmin(far))
    rod = a.detail.rods[i]
    return at_least(
        "rod-clear",
        "Washer beside the column",
        Limit(washer / 2, "the square plate washer must lie flat beside the column and its welds"),
        "anchor rods",
        float(far[i]),
        (rod.x, rod.y, rod.top),
        f"{rod.size} rod to the column or its weld",
    )


def _footprint(a: Assembled, level: float) -> "shapely.Polygon":
    """What the member covers of a plate: its profile where it stands on it, its breadth from its end on where it lies on it."""
    shape, frame = a.case.supported.shape, a.case.supported.frame
    if abs(frame.x[2]) < LIES:
        low, high = a.case.supported.low, a.case.supported.high
        cut = a.cuts(0).ends
        low, high = (max([low, *(e.point[0] for e in cut if e.normal[0] > 0)]), min([high, *(e.point[0] for e in cut if e.normal[0] < 0)]))
        return shapely.Polygon(frame.to_world(np.array([(x, y, 0.0) for x, y in ((low, -shape.b / 2), (high, -shape.b / 2), (high, shape.b / 2), (low, shape.b / 2))]))[:, :2])
    steel = [_ring(frame, ring, level) for ring in (shape.outer.points(0.1), *(hole.points(0.1) for hole in shape.inner))]
    return shapely.Polygon(steel[0], steel[1:])


def _held(a: Assembled) -> Plate | None:
    """The plate that the rods hold."""
    return next((p for p in a.detail.plates if any(h.kind == "anchor" for h in p.holes)), None)


def _ring(frame: Frame, ring: Array, level: float) -> Array:
    """A ring of profile points (n, 2) as it lies in the plan at a level, where the member's own axes may be turned, mirrored or slope."""
    points = frame.to_world(np.column_stack([np.zeros(len(ring)), ring]))
    way = np.array(frame.x)
    return np.asarray((points + way * ((level - points[:, 2]) / way[2])[:, None])[:, :2])


def _legs(welds: "Sequence[Weld]") -> Array:
    """The strips (n, 4, 2) of the plate that the legs of fillets cover."""
    if not welds:
        return np.zeros((0, 4, 2))
    start, end, u = np.array([(w.start, w.end, w.u) for w in welds])[:, :, :2].swapaxes(0, 1)
    out = u * np.array([w.leg for w in welds])[:, None]
    return np.stack([start, end, end + out, start + out], axis=1)


def _square_distances(body: "shapely.Polygon", strips: Array, points: Array) -> Array:
    """How large half a square about each point (k, 2) may be before it meets steel, a body or strips (n, 4, 2): the least over all edges of the
    larger of both distances, (k,)."""
    rings = [np.asarray(ring.coords)[:, :2] for ring in (body.exterior, *body.interiors)]
    starts = np.concatenate([*(ring[:-1] for ring in rings), strips.reshape(-1, 2)])
    a = starts - points[:, None]
    d = np.concatenate([*(np.diff(ring, axis=0) for ring in rings), (np.roll(strips, -1, axis=1) - strips).reshape(-1, 2)])
    # along an edge the larger distance is least at an end, where one of both is nothing, or where both are alike
    tops = np.stack([-a[..., 0], -a[..., 1], a[..., 1] - a[..., 0], -a[..., 0] - a[..., 1]])
    ways = np.stack([d[:, 0], d[:, 1], d[:, 0] - d[:, 1], d[:, 0] + d[:, 1]])[:, None]
    inner = np.divide(tops, ways, out=np.zeros_like(tops), where=np.abs(ways) > 1e-12).clip(0.0, 1.0)
    shares = np.concatenate([np.zeros((1, *a.shape[:2])), np.ones((1, *a.shape[:2])), inner])
    least: Array = np.abs(a + d * shares[..., None]).max(axis=-1).min(axis=(0, 2))
    steel = np.array([body, *(shapely.polygons(strips) if len(strips) else ())], dtype=object)
    least[shapely.contains_xy(steel[:, None], points[:, 0], points[:, 1]).any(axis=0)] = 0.0
    return least


RULES = (Rule("rods", "Anchor rods", rods),)
