"""Tables of what is drawn in 3D: one body a member and one a connection, with boxes for picking.  Numpy is the truth."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from tincleat.catalogue.sections import Section, section
from tincleat.details.assembled import rod_mesh, weld_mesh
from tincleat.details.steel import Cuts, bar, steel_mesh
from tincleat.geometry.frames import Array
from tincleat.geometry.mesh import Mesh, joined, prism
from tincleat.ledger.ledger import Entry, Ledger
from tincleat.ledger.made import Made
from tincleat.ledger.steel import member_cuts
from tincleat.project.entities import Member
from tincleat.project.members import axis_frame, length


@dataclass(frozen=True, eq=False)
class Shapes:
    """A detail's bodies in its joint frame, by kind, for the levels of detail."""

    boxes: Mesh
    plates: Mesh
    welds: Mesh
    bolts: Mesh
    blocks: Mesh
    low: Array
    high: Array

    @cached_property
    def all(self) -> Mesh:
        """Everything but concrete, as one mesh."""
        return joined([self.plates, self.welds, self.bolts])

    @cached_property
    def edged(self) -> Mesh:
        """What edges are drawn of."""
        return joined([self.plates, self.bolts])


def shapes_of(made: Made) -> Shapes:
    """The bodies of a made detail, built once and kept with it."""
    found = made.__dict__.get("_shapes")
    if found is None:
        found = made.__dict__["_shapes"] = _shapes(made)
    return found


def placed_bodies(entry: Entry, level: str) -> "list[tuple[Mesh, str]]":
    """A connection's bodies for one level in the world, each with what it is; kept with the entry, which is made anew when it changes."""
    kept: dict[str, list[tuple[Mesh, str]]] = entry.__dict__.setdefault("_placed", {})
    if level not in kept:
        assert entry.made is not None
        s = shapes_of(entry.made)
        parts = {"boxes": [(s.boxes, "plates")], "plates": [(s.plates, "plates"), (s.welds, "welds")], "bolts": [(s.bolts, "bolts")], "concrete": [(s.blocks, "concrete")],
                 "joint edges": [(s.edged, "plates")]}[level]  # fmt: skip
        kept[level] = [(mesh.placed(entry.joint.frame), kind) for mesh, kind in parts if len(mesh.points)]
    return kept[level]


def _shapes(made: Made) -> Shapes:
    a, d = made.assembled, made.detail
    boxes = joined([_box(p.outline.bounds, p.thickness).placed(p.frame) for p in d.plates])
    plates = joined([prism(p.outline, tuple(h.outline for h in p.holes), 0.0, p.thickness, per_arc=2).placed(p.frame) for p in d.plates])
    welds = joined([weld_mesh(w) for w in d.welds])
    bolts = [m for f in a.fitted for m in a.bolt_bodies(f)] + [rod_mesh(r) for r in d.rods]
    blocks = joined([prism(b.outline, (), 0.0, b.thickness).placed(b.frame) for b in d.blocks])
    points = np.concatenate([boxes.points] + ([m.points for m in bolts] if bolts else [])) if d.plates else np.zeros((1, 3))
    return Shapes(boxes, plates, welds, joined(bolts), blocks, points.min(axis=0), points.max(axis=0))


def _box(bounds: tuple[float, float, float, float], t: float) -> Mesh:
    x0, y0, x1, y1 = bounds
    points = np.array([(x, y, z) for z in (0.0, t) for y in (y0, y1) for x in (x0, x1)])
    tris = np.array(
        [[0, 2, 1], [1, 2, 3], [4, 5, 6], [5, 7, 6], [0, 1, 4], [1, 5, 4], [2, 6, 3], [3, 6, 7], [0, 4, 2], [2, 4, 6], [1, 3, 5], [3, 7, 5]], dtype=np.int32
    )
    return Mesh(points, tris)


_MOST_NOTCHED = 4096
_notched_bars: dict[tuple[str | float, ...], Mesh] = {}


def _notched(shape: Section, cuts: Cuts, full: float, per_arc: int) -> Mesh:
    """A notched bar in its own frame; equal ones (to a hundredth of a millimetre) are cut once."""
    key: tuple[str | float, ...] = (shape.name, per_arc, *_key(cuts, full))
    found = _notched_bars.get(key)
    if found is None:
        if len(_notched_bars) >= _MOST_NOTCHED:
            _notched_bars.clear()
        found = _notched_bars[key] = steel_mesh(shape, cuts, 0.0, full, per_arc)
    return found


def _key(cuts: Cuts, full: float) -> tuple[float, ...]:
    values = [full]
    for e in cuts.ends:
        values += [*e.point, *e.normal]
    for n in cuts.notches:
        values += [*n.frame.origin, *n.frame.x, *n.frame.z, n.depth, *(c for v in n.outline.vertices for c in v)]
    return tuple(round(v, 2) + 0.0 for v in values)


def member_mesh(m: Member, cuts: Cuts, grade: int) -> Mesh:
    """A member's body in the world: a bar between its end planes (grade 0), with its notches (1), and root radii too (2)."""
    shape, frame, full = section(m.section), axis_frame(m), length(m)
    per_arc = 1 if grade == 2 else 0
    if grade and cuts.notches:
        return _notched(shape, cuts, full, per_arc).placed(frame)
    if cuts.ends:
        return steel_mesh(shape, Cuts(cuts.ends), 0.0, full, per_arc).placed(frame)
    mesh = bar(shape, per_arc)
    return Mesh(frame.to_world(mesh.points * (full, 1.0, 1.0)), mesh.triangles, mesh)


NO_CUTS = Cuts()
MOST_MESHES = 6000


class Bodies:
    """Boxes and meshes of all members and connections of a ledger."""

    def __init__(self, ledger: Ledger) -> None:
        self.ledger = ledger
        self._meshes: dict[tuple[Member, int], tuple[Cuts, Mesh]] = {}
        self.refresh()

    def member(self, key: str, grade: int) -> Mesh:
        """A member's body in the world, kept until it or its cuts change."""
        m, cuts = self.ledger.project.members[key], self.cuts.get(key, NO_CUTS)
        found = self._meshes.get((m, grade))
        if found is not None and (found[0] is cuts or found[0] == cuts):
            return found[1]
        if len(self._meshes) >= MOST_MESHES:
            self._meshes.clear()
        mesh = member_mesh(m, cuts, grade)
        self._meshes[(m, grade)] = (cuts, mesh)
        return mesh

    def refresh(self) -> None:
        """Read everything anew."""
        project = self.ledger.project
        self.cuts = member_cuts(self.ledger)
        self.member_ids = list(project.members)
        frames = [axis_frame(m) for m in project.members.values()]
        shapes = [section(m.section) for m in project.members.values()]
        self.origin = np.array([f.origin for f in frames]).reshape(-1, 3)
        self.axes = np.array([f.axes for f in frames]).reshape(-1, 3, 3)
        self.length = np.array([length(m) for m in project.members.values()])
        self.half = np.array([(s.b / 2, s.h / 2) for s in shapes]).reshape(-1, 2)
        ends = self.origin + self.axes[:, 0] * self.length[:, None] if len(frames) else self.origin
        self.middle = (self.origin + ends) / 2
        self.refresh_connections()

    def refresh_connections(self) -> None:
        """Read the connections anew, after some were changed."""
        self.entries: list[Entry] = [e for e in self.ledger.entries.values() if e.made is not None and e.connection is not None]
        self.entry_row = {e.joint.key: i for i, e in enumerate(self.entries)}
        low, high = [], []
        for e in self.entries:
            box = e.__dict__.get("_box")
            if box is None:
                box = e.__dict__["_box"] = _world_box(e)
            low.append(box[0])
            high.append(box[1])
        self.low, self.high = np.array(low).reshape(-1, 3), np.array(high).reshape(-1, 3)
        self.joint_keys = list(self.ledger.entries)
        self.joint_points = np.array([e.joint.frame.origin for e in self.ledger.entries.values()]).reshape(-1, 3)

    def bounds(self) -> tuple[Array, Array]:
        """Least and greatest corner of everything, mm."""
        if not len(self.origin):
            return np.array([-1000.0, -1000.0, 0.0]), np.array([9000.0, 6000.0, 4000.0])
        ends = self.origin + self.axes[:, 0] * self.length[:, None]
        points = np.concatenate([self.origin, ends])
        return points.min(axis=0) - 300, points.max(axis=0) + 300

    def member_boxes(self) -> tuple[Array, Array]:
        """Least and greatest corner (n, 3) each of every member, offsets of its section included, mm."""
        ends = self.origin + self.axes[:, 0] * self.length[:, None]
        reach = np.abs(self.axes[:, 1]) * self.half[:, :1] + np.abs(self.axes[:, 2]) * self.half[:, 1:] + 50.0
        return np.minimum(self.origin, ends) - reach, np.maximum(self.origin, ends) + reach

    def pick(self, start: Array, way: Array) -> tuple[str, str, Array] | None:
        """What a ray meets first: (``member`` or ``joint``, its id or key, the point); boxes first, then triangles."""
        best: tuple[float, str, str] | None = None
        for t, key in self._hits_connections(start, way):
            if best is None or t < best[0]:
                best = (t, "joint", key)
        for t, key in self._hits_members(start, way, best[0] if best else np.inf):
            if best is None or t < best[0] - 1.0:
                best = (t, "member", key)
        return None if best is None else (best[1], best[2], start + way * best[0])

    def _hits_connections(self, start: Array, way: Array) -> "list[tuple[float, str]]":
        if not len(self.low):
            return []
        near = _slabs(start, way, self.low, self.high)
        out = []
        for i in np.argsort(near)[: int(np.isfinite(near).sum())][:40]:
            e = self.entries[int(i)]
            assert e.made is not None
            mesh = shapes_of(e.made).all
            t = ray_mesh(e.joint.frame.to_local(start[None])[0], e.joint.frame.unturn(way), mesh)
            if np.isfinite(t):
                out.append((t, e.joint.key))
        return out

    def _hits_members(self, start: Array, way: Array, nearest: float) -> "list[tuple[float, str]]":
        if not len(self.origin):
            return []
        local = np.einsum("nij,nj->ni", self.axes, start - self.origin)
        turned = self.axes @ way
        low = np.column_stack([np.zeros(len(self.half)), -self.half])
        high = np.column_stack([self.length, self.half])
        near = _slabs_many(local, turned, low, high)
        out = []
        for i in np.argsort(near)[: int(np.isfinite(near).sum())][:60]:
            if near[i] > nearest:
                break
            key = self.member_ids[int(i)]
            t = ray_mesh(start, way, self.member(key, 0))
            if np.isfinite(t):
                out.append((t, key))
                nearest = min(nearest, t)
        return out


def _world_box(e: Entry) -> tuple[Array, Array]:
    assert e.made is not None
    s = shapes_of(e.made)
    corners = e.joint.frame.to_world(np.array([(x, y, z) for x in (s.low[0], s.high[0]) for y in (s.low[1], s.high[1]) for z in (s.low[2], s.high[2])]))
    return corners.min(axis=0), corners.max(axis=0)


def _slabs(start: Array, way: Array, low: Array, high: Array) -> Array:
    return _slabs_many(np.broadcast_to(start, low.shape), np.broadcast_to(way, low.shape), low, high)


def _slabs_many(start: Array, way: Array, low: Array, high: Array) -> Array:
    """Distance at which rays enter boxes (inf for a miss)."""
    safe = np.where(np.abs(way) < 1e-12, 1e-12, way)
    a, b = (low - start) / safe, (high - start) / safe
    enter, leave = np.minimum(a, b).max(axis=1), np.maximum(a, b).min(axis=1)
    return np.where((leave >= enter) & (leave > 0), np.maximum(enter, 0.0), np.inf)


def ray_mesh(start: Array, way: Array, mesh: Mesh) -> float:
    """Distance to the first triangle a ray meets, or inf."""
    if not len(mesh.triangles):
        return float("inf")
    a, b, c = (mesh.points[mesh.triangles[:, i]] for i in range(3))
    ab, ac = b - a, c - a
    p = np.cross(way, ac)
    det = np.einsum("ij,ij->i", ab, p)
    safe = np.where(np.abs(det) < 1e-12, 1.0, det)
    s = start - a
    u = np.einsum("ij,ij->i", s, p) / safe
    q = np.cross(s, ab)
    v = (q @ way) / safe
    t = np.einsum("ij,ij->i", ac, q) / safe
    hit = (np.abs(det) > 1e-12) & (u >= -1e-9) & (v >= -1e-9) & (u + v <= 1 + 1e-9) & (t > 0)
    return float(t[hit].min()) if hit.any() else float("inf")
