"""Whether what is drawn can be put together on site: bolts put in from one of their sides, members moved into their places."""

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely

from tincleat.catalogue.fasteners import bolt_size
from tincleat.details.assembled import Assembled, Fitted, frame_at, gaps, role_words
from tincleat.details.bodies import Body, profile, solid
from tincleat.details.bolting import Stack, stack
from tincleat.geometry.frames import Array, Frame, Vec3, vec
from tincleat.geometry.mesh import Mesh, cylinder, overlap_volume, shared_moved, shared_points
from tincleat.project.entities import HouseRules
from tincleat.proof.clash import DEEP, directions
from tincleat.proof.finding import Finding, Rule, at_least
from tincleat.standards.limit import Limit
from tincleat.units import format_length

OFF = 3.0  # mm over a ply's face at which the way of a bolt begins: a tapered flange rises under its head
TOUCH = 20.0  # mm³ that a bolt's way may share with steel: chords of roots
NEAR = 1.0  # mm from its place at which a member's way is first looked at
THIN = 10.0  # mm that it is moved at a time where something may be in its way: plates are not jumped over
STEPS = (3.0, 15.0, 40.0, 90.0, 220.0, 480.0)  # mm by which a member is tried to be moved, up to past what it meets
ASIDE = (15.0, 30.0, 45.0, 60.0, 75.0, 95.0, 120.0)  # mm that it may be held beside its place before it is let down
GRAZE = 200.0  # mm³ that it may share with steel on its way: chords of roots and rounded corners
AXIAL = "along its own axis, while its other end is loose"
SQUARE = 0.9998  # cosine from which an end is square to its member
PARTING = np.array([(1, 0, 0), (0, 1, 0), (0, 0, 1), (1, 1, 0), (1, -1, 0), (1, 0, 1), (1, 0, -1), (0, 1, 1), (0, 1, -1)], dtype=float)  # directions of a bolt's frame
ASLANT = np.hypot(PARTING[:, 0], PARTING[:, 1])  # how far a cylinder of radius 1 about the bolt's axis reaches along each
WIDER = 1.03  # that a cylinder's corners lie further out than its circle, which has its area
STEEL = ("member", "plate", "piece", "weld", "plug", "rod")


def entry(a: Assembled, house: HouseRules) -> Iterator[Finding]:
    """Every site bolt goes in straight from its head's side, or from its nut's."""
    groups = {g: some for g, group in enumerate(a.detail.bolts) if group.site and (some := [f for f in a.fitted if f.group == g and len(f.plies) >= 2])}
    fronts = _free(a, [f for some in groups.values() for f in some], 1.0)
    for g, some in groups.items():
        group = a.detail.bolts[g]
        front, fronts = fronts[: len(some)], fronts[len(some) :]
        head = stack(group, some[0]).before
        worst = min(range(len(some)), key=lambda i: front[i] - some[i].length)
        need = Limit(some[worst].length + head, "practice: a bolt goes in straight, shank first")
        words = f"{group.size} bolts {some[worst].length:g} long"
        far = front[worst]
        if far >= need.value:
            words += " from their head's side"
        else:
            back = _free(a, some, -1.0) if group.nut else [0.0] * len(some)
            words += f": {far:.0f} mm clear on their head's side"
            if group.nut and all(way >= f.length + head for way, f in zip(back, some, strict=True)):
                far, words = need.value, f"{words}; they go in from their nut's side"
            else:
                far, words = max(far, back[worst]), words + (f", {back[worst]:.0f} mm on their nut's" if group.nut else "")
        yield at_least("bolt-entry", "Room to put the bolt in", need, group.name, far, some[worst].point, words)


def _free(a: Assembled, some: Sequence[Fitted], side: float) -> list[float]:
    """How far the way of each bolt is clear, mm from the face it lies on, as far as it has to be; ``side`` 1 from its head's, -1 from its nut's."""
    shafts: list[_Shaft] = []
    clear: list[float] = []
    faces: list[float] = []
    for i, f in enumerate(some):
        size = bolt_size(a.detail.bolts[f.group].size)
        far, face = f.length + stack(a.detail.bolts[f.group], f).before, f.enter if side > 0 else f.enter + f.grip
        low, high = (face - far, face - OFF) if side > 0 else (face + OFF, face + far)
        shafts.append(_Shaft(i, f, low, high, size.head_af * 2 / 3**0.5, 12))
        clear.append(far)
        faces.append(face)
    for shaft, _, along in _met(a, shafts, lambda f, body: body.kind in STEEL):
        i = shaft.number
        clear[i] = max(min(clear[i], float(faces[i] - along[:, 2].max() if side > 0 else along[:, 2].min() - faces[i])), 0.0)
    return clear


@dataclass(frozen=True)
class _Shaft:
    """A cylinder about a bolt's axis, from ``low`` to ``high`` along it, that is to be clear of steel; ``number`` is the bolt's among those asked for."""

    number: int
    bolt: Fitted
    low: float
    high: float
    diameter: float
    sides: int


@lru_cache(maxsize=8)
def _covered(a: Assembled) -> "tuple[tuple[Body, ...], Array, np.ndarray, np.ndarray]":
    """The bodies of a detail, the corners (n, 3) of all that covers them, where each cover begins among those, and the body each is of."""
    found = solid(a)
    covers = [(i, h) for i, b in enumerate(found) for h in b.covers]
    return found, np.concatenate([h for _, h in covers]), np.cumsum([0, *(len(h) for _, h in covers[:-1])]), np.array([i for i, _ in covers])


@lru_cache(maxsize=16)
def _reach_along(a: Assembled, g: int) -> "tuple[Frame, Array, Array, Array]":
    """The frame of a group's bolts, directions (3, k) of it in which shafts may be parted from bodies, and how far every cover of a body goes along
    those, at least and at most (n, k); asked for the heads', the nuts' and the sockets' sides."""
    _, points, starts, _ = _covered(a)
    group = a.detail.bolts[g]
    at = frame_at(group, group.points[0])
    ways = (PARTING @ at.axes).T
    along = points @ ways
    return at, ways, np.minimum.reduceat(along, starts, axis=0) + DEEP, np.maximum.reduceat(along, starts, axis=0) - DEEP


def _met(a: Assembled, shafts: Sequence[_Shaft], may: "Callable[[Fitted, Body], bool]") -> "Iterator[tuple[_Shaft, Body, Array]]":
    """Every shaft with a body that it shares steel with, and the corners (n, 3) of what they share in the bolt's own frame.

    Most pairs are told apart along the bolt's axis, across it and aslant, as roots lie, all at once; only what is left is cut with solids.
    """
    found, _, _, of = _covered(a)
    groups: dict[int, list[_Shaft]] = {}
    for s in shafts:
        groups.setdefault(s.bolt.group, []).append(s)
    for g, some in groups.items():
        at, ways, low, high = _reach_along(a, g)
        middle = np.array([s.bolt.point for s in some]) @ ways
        size = np.array([(s.diameter / 2, s.low, s.high) for s in some])
        ends, reach = size[:, 1:, None] * PARTING[:, 2], size[:, :1] * ASLANT
        least, most = middle - reach + ends.min(axis=1), middle + reach + ends.max(axis=1)
        near = ((least[:, None] < high) & (low < most[:, None])).all(axis=2)
        made: dict[int, tuple[Frame, Mesh]] = {}
        pairs = [(k, i) for k, i in dict.fromkeys((k, int(of[c])) for k, c in np.argwhere(near).tolist()) if may(some[k].bolt, found[i])]
        for k, i in _meeting_sections(found, some, at, pairs):
            s, body = some[k], found[i]
            if k not in made:
                frame = Frame(s.bolt.point, at.x, at.z)
                made[k] = frame, cylinder(s.diameter, s.low, s.high, s.sides).placed(frame)
            frame, mesh = made[k]
            if overlap_volume(mesh, body.mesh) > TOUCH:
                yield s, body, frame.to_local(shared_points(mesh, body.mesh))


def _meeting_sections(found: Sequence[Body], shafts: Sequence[_Shaft], at: Frame, pairs: "Sequence[tuple[int, int]]") -> "list[tuple[int, int]]":
    """Those pairs of a shaft and a body where the body is no bar, or where along it the shaft meets its section: bolts mostly stand square to
    a bar, beside whose roots they pass."""
    apart: set[tuple[int, int]] = set()
    for i in dict.fromkeys(i for _, i in pairs):
        if (bar := found[i].bar) is None or abs(np.dot(bar[1].x, at.z)) > 1e-6:
            continue
        mine = [k for k, j in pairs if j == i]
        way = bar[1].unturn(at.z)[1:]
        aside = np.array([-way[1], way[0]])
        middle = bar[1].to_local([shafts[k].bolt.point for k in mine])[:, 1:]
        wide = np.array([shafts[k].diameter for k in mine])[:, None] * WIDER / 2 * aside
        low, high = (middle + far[:, None] * way for far in np.array([(shafts[k].low, shafts[k].high) for k in mine]).T)
        met = shapely.intersects(profile(bar[0]), shapely.polygons(np.stack([low - wide, low + wide, high + wide, high - wide], axis=1)))
        apart |= {(k, i) for k, hit in zip(mine, met.tolist(), strict=True) if not hit}
    return [p for p in pairs if p not in apart]


def room(a: Assembled, house: HouseRules) -> Iterator[Finding]:
    """Nothing but the bolt stands as near beside its head and its nut as a socket needs: measured to the plies it does not pass, and where the
    socket itself, a cylinder, meets solids: roots, welds and the bolts of other groups among them."""
    groups = {g: some for g, group in enumerate(a.detail.bolts) if (some := [f for f in a.fitted if f.group == g and len(f.plies) >= 2])}
    near = _beside(a, [f for some in groups.values() for f in some], house.tighten_room)
    plies = _to_plies(a, groups)
    beside = "practice: socket beside the bolt" + (f", house rule: {format_length(house.tighten_room, house.units, mark=True)} more" if house.tighten_room else "")
    for g, some in groups.items():
        group = a.detail.bolts[g]
        mine, near = near[: len(some)], near[len(some) :]
        least, where, words = plies[g]
        for f, (far, name) in zip(some, mine, strict=True):
            if far < least - 0.01:
                least, where, words = far, f.point, f"{group.size} bolt beside {name}"
        yield at_least("bolt-room", "Room to tighten", Limit(bolt_size(group.size, house.tighten_room).clear, beside), group.name, min(least, 999.0), where, words, level="note")


def _turned(s: Stack) -> list[tuple[float, float]]:
    """What of a bolt a socket is put over, along its axis: none over a head that is sunk."""
    return ([] if s.sunk else [s.head]) + ([s.nut] if s.nut else [])


def _to_plies(a: Assembled, groups: "dict[int, list[Fitted]]") -> dict[int, tuple[float, Vec3, str]]:
    """For each group of bolts the least distance from their axes, beside heads and nuts, to plies they do not pass, where, and what in words."""
    out = {g: (math.inf, some[0].point, f"{a.detail.bolts[g].size} bolts, nothing near") for g, some in groups.items()}
    zones = [(g, f, sum(turned) / 2) for g, some in groups.items() for f in some for turned in _turned(stack(a.detail.bolts[g], f))]
    if not zones:
        return out
    points = np.array([f.point for _, f, _ in zones]) + np.array([a.detail.bolts[g].axis for g, _, _ in zones]) * np.array([z for _, _, z in zones])[:, None]
    low, high = np.array([p.box[0] for p in a.plies]), np.array([p.box[1] for p in a.plies])
    # plies by rows: no nearer than to their boxes
    off = np.maximum(np.maximum(low[:, None] - points, points - high[:, None]), 0.0)
    least = np.sqrt((off * off).sum(axis=2))
    for k, (_, f, _) in enumerate(zones):
        least[[p.ply for p in f.plies], k] = math.inf
    true = np.full(least.shape, math.inf)
    of = np.array([g for g, _, _ in zones])
    for g in groups:
        mine = np.flatnonzero(of == g)
        if not len(mine):
            continue
        # the ply whose box is nearest says how near others must come to matter
        first = int(least[:, mine].min(axis=1).argmin())
        _fill(a, true, points, [(first, mine[np.isfinite(least[first, mine])])])
        best = true[first, mine].min(initial=math.inf)
        near = least[:, mine] < best
        near[first] = False
        _fill(a, true, points, [(n, mine[near[n]]) for n in np.flatnonzero(near.any(axis=1)).tolist()])
        n, k = divmod(int(true[:, mine].argmin()), len(mine))
        if math.isfinite(far := float(true[n, mine[k]])):
            out[g] = (far, zones[mine[k]][1].point, f"{a.detail.bolts[g].size} bolt beside {a.plies[n].name}")
    return out


def _fill(a: Assembled, true: Array, points: Array, wanted: "Sequence[tuple[int, np.ndarray]]") -> None:
    """Put into ``true`` the distances from some points to some plies."""
    for (n, rows), far in zip(wanted, gaps([a.plies[n] for n, _ in wanted], [points[rows] for _, rows in wanted]), strict=True):
        true[n, rows] = far


def _beside(a: Assembled, some: Sequence[Fitted], more: float) -> list[tuple[float, str]]:
    """Of each bolt how near its axis anything solid comes beside its head or nut, mm, as far as a socket with ``more`` mm beside it
    reaches, and what that is."""
    shafts: list[_Shaft] = []
    for i, f in enumerate(some):
        group = a.detail.bolts[f.group]
        s = stack(group, f)
        ends = [(s.head[0], f.enter - OFF)] if not s.sunk else []
        for low, high in ends + ([(f.enter + f.grip + OFF, s.nut[1])] if s.nut else []):
            shafts.append(_Shaft(i, f, low, high, bolt_size(group.size, more).socket, 16))
    out = [(math.inf, "")] * len(some)

    def may(f: Fitted, body: Body) -> bool:
        # bolts of one group stand as far apart as the rules for spacing ask
        return body.kind in STEEL or (body.kind in ("head", "shank") and body.name.rpartition(", ")[0] != a.detail.bolts[f.group].name)

    for shaft, body, points in _met(a, shafts, may):
        far = _off_axis(points[:, :2])
        if far < out[shaft.number][0]:
            out[shaft.number] = (far, body.name.rpartition(", ")[0] or body.name if body.kind in ("head", "shank") else body.name)
    return out


def _off_axis(points: Array) -> float:
    """Distance from the origin to the hull of points (n, 2): what a convex cylinder shares with a wall beside its axis lies all to one side."""
    return float(shapely.distance(shapely.Point(0.0, 0.0), shapely.MultiPoint(points).convex_hull))


def way_in(a: Assembled, house: HouseRules) -> Iterator[Finding]:
    """Every member that is bolted to others on site can be moved into its place with what is welded to it in the shop: sideways, from above or
    below, or else along its own axis, as long as its other end is loose (:data:`AXIAL`); a breach where it does not go in at all."""
    if not any(g.site for g in a.detail.bolts):
        return
    shop = _shop(a)
    parts = [b for b in solid(a) if b.kind in ("plate", "piece")]
    moving = [i for i, m in enumerate(a.case.members) if m.role.partition("-")[0] in ("supported", "brace")]
    standing = [i for i in range(len(a.case.members)) if i not in moving]
    one = Limit(1.0, "practice: a member is put in from beside, above or below, or along its axis")
    for i in moving if standing else ():
        m = a.case.members[i]
        name = role_words(m.role)
        if m.shape.timber or any(shop[name] == shop[role_words(a.case.members[k].role)] for k in standing):
            continue  # they come as one piece
        held = {shop[role_words(a.case.members[k].role)] for k in standing}
        mine = [solid(a)[i], *(b for b in parts if shop[b.name] == shop[name])]
        place = _Place(mine, [*(solid(a)[k] for k in standing), *(b for b in parts if shop[b.name] in held)])
        y, z, x = np.array(m.frame.y), np.array(m.frame.z), np.array(m.away)
        found = place.way(y, z if z[2] >= 0 else -z, [np.array(e.normal) for e in a.detail.ends if e.member == i and abs(np.dot(e.normal, x)) < SQUARE])
        found = found or (AXIAL if place.goes(x) else "")
        yield at_least("way-in", "Way in for the member", one, name, float(bool(found)), vec(m.frame.o), f"{name} goes in {found}" if found else f"{name} does not go in: steel is in its way from all sides", unit="")


class _Place:
    """Bodies that are moved into their place among others that stand there."""

    def __init__(self, mine: Sequence[Body], theirs: Sequence[Body]) -> None:
        self.mine, self.theirs = mine, theirs
        self.ways = directions((*mine, *theirs))
        # of every body's covers whose they are, and how far they reach along the ways: most places are told apart by these
        (self.own, low, high), (self.others, least, most) = (self._reach(some) for some in (mine, theirs))
        # how far each cover of one must be moved forward, and back, along a way to be past each of the others
        self.ahead, self.back = most[None] - low[:, None] - DEEP, least[None] - high[:, None] + DEEP

    def _reach(self, some: Sequence[Body]) -> tuple[list[int], Array, Array]:
        along = [h @ self.ways.T for b in some for h in b.covers]
        return [i for i, b in enumerate(some) for _ in b.covers], np.array([v.min(axis=0) for v in along]), np.array([v.max(axis=0) for v in along])

    def stands(self, shift: Array) -> bool:
        """Whether the bodies, moved by ``shift`` (3,), are clear of the others."""
        return self._clear(shift[None], self._near(shift, shift))

    def _near(self, one: Array, two: Array) -> "np.ndarray":
        """Pairs (k, 2) of covers, by number, that no plane square to a face parts everywhere between two places of the bodies."""
        a, b = self.ways @ one, self.ways @ two
        return np.argwhere(~((np.minimum(a, b) > self.ahead) | (np.maximum(a, b) < self.back)).any(axis=2))

    def _clear(self, shifts: Array, near: "np.ndarray") -> bool:
        """Whether the bodies are clear of the others at each of some places (n, 3), looked at in turn; ``near`` are the covers in question.

        At most places a plane still parts them; solids are met only where none does.
        """
        if not len(near):
            return True
        one, two = near.T
        moved = (shifts @ self.ways.T)[:, None]
        parted = ((moved > self.ahead[one, two]) | (moved < self.back[one, two])).any(axis=2)
        met = dict.fromkeys((k, self.own[one[c]], self.others[two[c]]) for k, c in np.argwhere(~parted).tolist())
        return not any(shared_moved(self.mine[i].mesh, shifts[k], self.theirs[j].mesh) > GRAZE for k, i, j in met)

    def goes(self, way: Array, aside: Array | float = 0.0) -> bool:
        """Whether the bodies can be drawn away along a direction from where they are, or from ``aside`` of there."""
        most = max(float((b.mesh.points @ way).max()) for b in self.theirs) - min(float((b.mesh.points @ way).min()) for b in self.mine)
        for here, there in zip((NEAR, *STEPS), STEPS, strict=False):
            near = self._near(aside + way * here, aside + way * there)
            if len(near) and not self._clear(aside + way * np.linspace(there, here, math.ceil((there - here) / THIN), endpoint=False)[:, None], near):
                return False
            if there > most:  # past all of them
                break
        return True

    def way(self, beside: Array, up: Array, faces: Sequence[Array]) -> str:
        """From where they go in, in words, or nothing: straight, along a face that stands askew or slopes, or first a little aside."""
        sides = (("from one side", beside), ("from the other side", -beside))
        over = (("from above", up), ("from below", -up))
        ways = [*sides, *over]
        for n in faces:
            ways += [(words, v / np.linalg.norm(v)) for words, w in (*sides, *over) for v in (w - n * float(w @ n),)]
        if found := next((words for words, way in ways if self.goes(way)), ""):
            return found
        for _, way in ways:
            if abs(float(way @ up)) > 0.7:
                continue
            for step in ASIDE:
                if not self.stands(way * step):
                    break
                if found := next((words for words, v in over if self.goes(v, way * step)), ""):
                    return f"{found}, {step:g} mm aside"
        return ""


def _shop(a: Assembled) -> dict[str, str]:
    """Of every part and member the piece it arrives on site as, named after one of its parts."""
    d = a.detail
    head = {n: n for n in (*(role_words(m.role) for m in a.case.members), *(p.name for p in d.flats), *(f.name for f in d.fittings), *(p.name for p in d.pieces))}

    def find(n: str) -> str:
        while head[n] != n:
            n = head[n]
        return n

    pairs = [w.parts for w in d.welds if not w.site] + [p.parts for p in d.plugs if not p.site]
    for f in a.fitted:
        if not d.bolts[f.group].site:
            owners = [a.plies[p.ply].owner for p in f.plies]
            pairs += list(zip(owners, owners[1:], strict=False))
    for one, two in pairs:
        if one in head and two in head:
            head[find(one)] = find(two)
    return {n: find(n) for n in head}


RULES = (Rule("entry", "Room to put bolts in", entry), Rule("room", "Room to tighten bolts", room), Rule("way-in", "A way in for members", way_in))
