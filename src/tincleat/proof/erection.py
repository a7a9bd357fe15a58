"""Whether what is drawn can be put together on site: bolts put in from one of their sides, members moved into their places."""

import math
from collections.abc import Iterator, Sequence

import numpy as np
import shapely

from tincleat.catalogue.fasteners import bolt_size
from tincleat.details.assembled import Assembled, Fitted, bolt_frame, gaps, role_words
from tincleat.details.bodies import Body, solid
from tincleat.details.parts import Bolts
from tincleat.geometry.frames import Array, Vec3, vec
from tincleat.geometry.mesh import cylinder, overlap_volume, shared_moved, shared_points
from tincleat.project.entities import HouseRules
from tincleat.proof.clash import DEEP, reaching
from tincleat.proof.finding import Finding, Rule, at_least
from tincleat.standards.limit import Limit

OFF = 3.0  # mm over a ply's face at which the way of a bolt begins: a tapered flange rises under its head
TOUCH = 20.0  # mm³ that a bolt's way may share with steel: chords of roots
NEAR = 1.0  # mm from its place at which a member's way is first looked at
THIN = 10.0  # mm that it is moved at a time where something may be in its way: plates are not jumped over
STEPS = (3.0, 15.0, 40.0, 90.0, 220.0, 480.0)  # mm by which a member is tried to be moved, up to past what it meets
ASIDE = (15.0, 30.0, 45.0, 60.0, 75.0, 95.0, 120.0)  # mm that it may be held beside its place before it is let down
GRAZE = 200.0  # mm³ that it may share with steel on its way: chords of roots and rounded corners
AXIAL = "along its own axis, while its other end is loose"
SQUARE = 0.9998  # cosine from which an end is square to its member
STEEL = ("member", "plate", "piece", "weld", "rod")


def entry(a: Assembled, house: HouseRules) -> Iterator[Finding]:
    """Every site bolt goes in straight from its head's side, or from its nut's."""
    groups = {g: some for g, group in enumerate(a.detail.bolts) if group.site and (some := [f for f in a.fitted if f.group == g and len(f.plies) >= 2])}
    fronts = _free(a, [f for some in groups.values() for f in some], 1.0)
    for g, some in groups.items():
        group = a.detail.bolts[g]
        front, fronts = fronts[: len(some)], fronts[len(some) :]
        head = bolt_size(group.size).head_height
        worst = min(range(len(some)), key=lambda i: front[i] - some[i].length)
        need = Limit(some[worst].length + head, "practice: a bolt goes in straight, shank first")
        words = f"{group.size} bolts {some[worst].length:g} long"
        far = front[worst]
        if far >= need.value:
            words += " from their head's side"
        else:
            back = _free(a, some, -1.0)
            words += f": {far:.0f} mm clear on their head's side"
            if all(way >= f.length + head for way, f in zip(back, some, strict=True)):
                far, words = need.value, f"{words}; they go in from their nut's side"
            else:
                far, words = max(far, back[worst]), f"{words}, {back[worst]:.0f} mm on their nut's"
        yield at_least("bolt-entry", "Room to put the bolt in", need, group.name, far, some[worst].point, words)


def _free(a: Assembled, some: Sequence[Fitted], side: float) -> list[float]:
    """How far the way of each bolt is clear, mm from the face it lies on, as far as it has to be; ``side`` 1 from its head's, -1 from its nut's."""
    ways: dict[int, int] = {}
    made: list[Body] = []
    clear: list[float] = []
    faces: list[float] = []
    for i, f in enumerate(some):
        group = a.detail.bolts[f.group]
        size = bolt_size(group.size)
        far, face = f.length + size.head_height, f.enter if side > 0 else f.enter + f.grip
        low, high = (face - far, face - OFF) if side > 0 else (face + OFF, face + far)
        made.append(Body("shank", "", (), cylinder(size.head_af * 2 / 3**0.5, low, high, 12).placed(bolt_frame(group, f)), np.array([group.axis])))
        ways[id(made[-1])] = i
        clear.append(far)
        faces.append(face)
    for way, body in reaching(made, [b for b in solid(a) if b.kind in STEEL], lambda *_: True):
        i = ways[id(way)]
        if overlap_volume(way.mesh, body.mesh) > TOUCH:
            along = bolt_frame(a.detail.bolts[some[i].group], some[i]).to_local(shared_points(way.mesh, body.mesh))[:, 2]
            clear[i] = max(min(clear[i], float(faces[i] - along.max() if side > 0 else along.min() - faces[i])), 0.0)
    return clear


def room(a: Assembled, house: HouseRules) -> Iterator[Finding]:
    """Nothing but the bolt stands as near beside its head and its nut as a socket needs: measured to the plies it does not pass, and where the
    socket itself, a cylinder, meets solids: roots, welds and the bolts of other groups among them."""
    groups = {g: some for g, group in enumerate(a.detail.bolts) if (some := [f for f in a.fitted if f.group == g and len(f.plies) >= 2])}
    near = _beside(a, [f for some in groups.values() for f in some])
    for g, some in groups.items():
        group = a.detail.bolts[g]
        mine, near = near[: len(some)], near[len(some) :]
        least, where, words = _to_plies(a, group, some)
        for f, (far, name) in zip(some, mine, strict=True):
            if far < least - 0.01:
                least, where, words = far, f.point, f"{group.size} bolt beside {name}"
        yield at_least("bolt-room", "Room to tighten", Limit(bolt_size(group.size).clear, "practice: socket beside the bolt"), group.name, min(least, 999.0), where, words, level="note")


def _to_plies(a: Assembled, group: Bolts, joined: Sequence[Fitted]) -> tuple[float, Vec3, str]:
    """Least distance from the bolts' axes, beside heads and nuts, to plies they do not pass, where, and what in words."""
    size = bolt_size(group.size)
    axis = np.array(group.axis)
    least, where, words = float("inf"), joined[0].point, f"{group.size} bolts, nothing near"
    zones = [(f.enter - size.head_height / 2, f.enter + f.grip + size.washer_t + size.nut_height / 2) for f in joined]
    points = np.array([np.array(f.point) + axis * z for f, pair in zip(joined, zones, strict=True) for z in pair])
    low, high = points.min(axis=0), points.max(axis=0)
    plies = [{p.ply for p in f.plies} for f in joined]
    for number, ply in enumerate(a.plies):
        if (np.maximum(ply.box[0] - high, low - ply.box[1]) >= least).any():
            continue
        passed = np.array([number in some for some in plies]).repeat(2)
        if passed.all():
            continue
        far = np.where(passed, np.inf, gaps(ply, points))
        i = int(far.argmin())
        if far[i] < least:
            least, where, words = float(far[i]), joined[i // 2].point, f"{group.size} bolt beside {ply.name}"
    return least, where, words


def _beside(a: Assembled, some: Sequence[Fitted]) -> list[tuple[float, str]]:
    """Of each bolt how near its axis anything solid comes beside its head or nut, mm, as far as a socket reaches, and what that is."""
    ways: dict[int, int] = {}
    made: list[Body] = []
    for i, f in enumerate(some):
        group = a.detail.bolts[f.group]
        size, at = bolt_size(group.size), bolt_frame(group, f)
        back = f.enter + f.grip
        for low, high in ((f.enter - size.head_height, f.enter - OFF), (back + OFF, back + group.washers * size.washer_t + size.nut_height)):
            made.append(Body("shank", f"{group.name}, {f.number + 1}", (), cylinder(size.socket, low, high, 16).placed(at), np.array([group.axis])))
            ways[id(made[-1])] = i
    out = [(math.inf, "")] * len(some)

    def may(way: Body, body: Body) -> bool:
        # bolts of one group stand as far apart as the rules for spacing ask
        return body.kind in STEEL or (body.kind in ("head", "shank") and body.name.rpartition(", ")[0] != way.name.rpartition(", ")[0])

    for way, body in reaching(made, solid(a), may):
        if overlap_volume(way.mesh, body.mesh) > TOUCH:
            i = ways[id(way)]
            at = bolt_frame(a.detail.bolts[some[i].group], some[i])
            far = _off_axis(at.to_local(shared_points(way.mesh, body.mesh))[:, :2])
            if far < out[i][0]:
                out[i] = (far, body.name.rpartition(", ")[0] or body.name if body.kind in ("head", "shank") else body.name)
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
        ways = np.concatenate([b.ways for b in (*mine, *theirs)])
        self.ways = ways[np.einsum("ij,ij->i", ways, ways) > 0.5]
        # of every body's covers whose they are, and how far they reach along the ways: most places are told apart by these
        self.own, self.others = (self._reach(some) for some in (mine, theirs))

    def _reach(self, some: Sequence[Body]) -> tuple[list[int], Array, Array]:
        along = [h @ self.ways.T for b in some for h in b.covers]
        return [i for i, b in enumerate(some) for _ in b.covers], np.array([v.min(axis=0) for v in along]), np.array([v.max(axis=0) for v in along])

    def stands(self, shift: Array) -> bool:
        """Whether the bodies, moved by ``shift`` (3,), are clear of the others."""
        return not any(shared_moved(self.mine[i].mesh, shift, self.theirs[j].mesh) > GRAZE for i, j in self._near(shift, shift))

    def _near(self, one: Array, two: Array) -> list[tuple[int, int]]:
        """Pairs, by number, that no plane square to a face parts anywhere between two places of the bodies."""
        a, b = self.ways @ one, self.ways @ two
        (own, low, high), (others, least, most) = self.own, self.others
        parted = (((low + np.minimum(a, b))[:, None] > most[None] - DEEP) | (least[None] > (high + np.maximum(a, b))[:, None] - DEEP)).any(axis=2)
        return list(dict.fromkeys((own[i], others[j]) for i, j in np.argwhere(~parted).tolist()))

    def goes(self, way: Array, aside: Array | float = 0.0) -> bool:
        """Whether the bodies can be drawn away along a direction from where they are, or from ``aside`` of there."""
        most = max(float((b.mesh.points @ way).max()) for b in self.theirs) - min(float((b.mesh.points @ way).min()) for b in self.mine)
        for here, there in zip((NEAR, *STEPS), STEPS, strict=False):
            near = self._near(aside + way * here, aside + way * there)
            for step in np.linspace(there, here, math.ceil((there - here) / THIN), endpoint=False).tolist() if near else ():
                if any(shared_moved(self.mine[i].mesh, aside + way * step, self.theirs[j].mesh) > GRAZE for i, j in near):
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

    pairs = [w.parts for w in d.welds if not w.site]
    for f in a.fitted:
        if not d.bolts[f.group].site:
            owners = [a.plies[p.ply].owner for p in f.plies]
            pairs += list(zip(owners, owners[1:], strict=False))
    for one, two in pairs:
        if one in head and two in head:
            head[find(one)] = find(two)
    return {n: find(n) for n in head}


RULES = (Rule("entry", "Room to put bolts in", entry), Rule("room", "Room to tighten bolts", room), Rule("way-in", "A way in for members", way_in))
