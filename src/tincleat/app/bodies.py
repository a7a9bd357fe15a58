"""Tables of what is drawn in 3D: one body a member and one a connection, with boxes for picking.  Numpy is the truth."""


import numpy as np

from tincleat.catalogue.sections import Section, section
from tincleat.details.bodies import bare
from tincleat.details.parts import Detail
from tincleat.geometry.frames import Array, Vec3
from tincleat.geometry.mesh import Mesh
from tincleat.ledger.entries import Entry
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.made import Made
from tincleat.ledger.steel import cuts_of
from tincleat.project.entities import Member
from tincleat.project.members import axis_frame, length
from tincleat.steel.body import bar, steel_mesh
from tincleat.steel.cuts import Cuts, MemberHole

LEVELS = ("boxes", "plates", "bolts", "concrete", "joint edges")


def bodies_of(made: Made, level: str) -> "list[tuple[Mesh, str]]":
    """A detail's bodies for one level in its joint's frame, each with what it is."""
    s = made.shapes
    parts = {"boxes": [(s.boxes, "plates")], "plates": [(s.plates, "plates"), (s.welds, "welds")], "bolts": [(s.bolts, "bolts")], "concrete": [(s.blocks, "concrete")],
             "joint edges": [(s.edged, "plates")]}[level]  # fmt: skip
    return [(mesh, kind) for mesh, kind in parts if len(mesh.points)]


BESIDE = 400.0  # mm along a hole's axis from where a bolt is told to be up to which it may be the one that goes through


def through(detail: Detail) -> "list[Vec3]":
    """Where bolts, ties and rods of a detail, and welds that fill holes, are told to be, in its joint's frame."""
    return [*(p for b in detail.bolts for p in b.points), *(t.frame.origin for t in detail.ties), *((r.x, r.y, r.top) for r in detail.rods), *(p.frame.origin for p in detail.plugs)]


_MOST_NOTCHED = 4096
_notched_bars: dict[tuple[str | float, ...], Mesh] = {}


def _notched(shape: Section, cuts: Cuts, full: float, per_arc: int) -> Mesh:
    """A notched bar in its own frame, drilled where it is drawn finely; equal ones (to a hundredth of a millimetre) are cut once."""
    key: tuple[str | float, ...] = (shape.name, per_arc, *_key(cuts, full))
    found = _notched_bars.get(key)
    if found is None:
        if len(_notched_bars) >= _MOST_NOTCHED:
            _notched_bars.clear()
        found = _notched_bars[key] = steel_mesh(shape, cuts, 0.0, full, per_arc, drill=per_arc > 0)
    return found


def _key(cuts: Cuts, full: float) -> tuple[float, ...]:
    values = [full]
    for e in cuts.ends:
        values += [*e.point, *e.normal, e.flat, e.taper, *e.across]
    for n in cuts.notches:
        values += [*n.frame.origin, *n.frame.x, *n.frame.z, n.depth, *(c for v in n.outline.vertices for c in v)]
    for h in cuts.holes:
        values += [*h.point, *h.axis, *h.along, h.width, h.length, h.sink, h.sink_angle]
    return tuple(round(v, 2) + 0.0 for v in values)


def member_mesh(m: Member, cuts: Cuts, grade: int) -> Mesh:
    """A member's body in the world: a bar between its end planes (grade 0), with its notches (1), and root radii and the holes of ``cuts`` too (2)."""
    shape, frame, full = section(m.section), axis_frame(m), length(m)
    per_arc = 1 if grade == 2 else 0
    if (grade and cuts.notches) or (grade == 2 and cuts.holes):
        return _notched(shape, cuts, full, per_arc).placed(frame)
    if cuts.ends:
        return steel_mesh(shape, Cuts(cuts.ends), 0.0, full, per_arc).placed(frame)
    mesh = bar(shape, per_arc)
    return Mesh(frame.to_world(mesh.points * (full, 1.0, 1.0)), mesh.triangles, mesh)


MOST_MESHES = 6000


class Bodies:
    """Boxes and meshes of all members and connections of a ledger."""

    def __init__(self, ledger: Ledger) -> None:
        self.ledger = ledger
        self._meshes: dict[tuple[Member, int], tuple[Cuts, Mesh]] = {}
        self._cuts: dict[str, Cuts] = {}
        self._holes: dict[str, tuple[MemberHole, ...]] = {}  # of members that were drawn finely, those that nothing fills
        self.hidden: frozenset[str] = frozenset()
        self._placed: dict[str, tuple[Entry, dict[str, list[tuple[Mesh, str]]]]] = {}
        self.version = 0  # counts changes of members
        self._bounds: tuple[int, tuple[Array, Array]] | None = None
        self.refresh()

    def cuts(self, key: str, drilled: bool = False) -> Cuts:
        """A member's cuts as last drawn, worked out when first asked for; of its holes, where it is ``drilled``, those that nothing fills: what
        is under a bolt's head is not seen."""
        found = self._cuts.get(key)
        if found is None:
            found = self._cuts[key] = bare(cuts_of(self.ledger, key))
        if not drilled:
            return found
        holes = self._holes.get(key)
        if holes is None:
            holes = self._holes[key] = self._open(key, cuts_of(self.ledger, key).holes)
        return Cuts(found.ends, found.notches, holes) if holes else found

    def _open(self, key: str, holes: tuple[MemberHole, ...]) -> tuple[MemberHole, ...]:
        """Those holes of a member, in its axis frame, through which no bolt, tie or rod of its connections goes."""
        if not holes:
            return holes
        own = axis_frame(self.ledger.project.members[key])
        spots = [np.zeros((0, 3))]
        for entry in self.ledger.entries.of_member(key):
            if entry.made is not None and (filled := through(entry.made.detail)):
                spots.append(own.to_local(entry.joint.frame.to_world(np.array(filled))))
        lines = np.concatenate(spots)
        gaps = lines[None] - np.array([h.point for h in holes])[:, None]
        axes = np.array([h.axis for h in holes])[:, None]
        along = (gaps * axes).sum(axis=2)
        aside = np.linalg.norm(gaps - along[..., None] * axes, axis=2)
        fills = (aside < np.array([max(h.width, h.length) / 2 for h in holes])[:, None]) & (np.abs(along) < BESIDE)
        return tuple(h for h, one in zip(holes, fills.any(axis=1).tolist(), strict=True) if not one)

    def member(self, key: str, grade: int) -> Mesh:
        """A member's body in the world, kept until it or its cuts change."""
        m, cuts = self.ledger.project.members[key], self.cuts(key, grade == 2)
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
        self.version += 1
        self._list_members()
        self._cuts.clear()
        self._holes.clear()
        self.joint_keys: list[str] = []
        self.joint_row: dict[str, int] = {}
        self.joint_points, self.low, self.high = (np.zeros((0, 3)) for _ in range(3))
        self.state = np.zeros(0, dtype=np.uint8)
        self._joint_members: dict[str, tuple[str, ...]] = {}
        self._read_joints(list(self.ledger.entries))

    def _list_members(self) -> None:
        self.member_ids = list(self.ledger.project.members)
        self.member_row = {key: i for i, key in enumerate(self.member_ids)}
        count = len(self.member_ids)
        self.origin, self.axes, self.length, self.half = np.zeros((count, 3)), np.zeros((count, 3, 3)), np.zeros(count), np.zeros((count, 2))
        self.middle = np.zeros((count, 3))
        self._read(self.member_ids)

    def changed(self, joints: "set[str]", members: "set[str]") -> set[str]:
        """Take joints and members as they are now in the ledger; the members whose body looks different for it."""
        self.version += bool(members)
        if any((key in self.member_row) != (key in self.ledger.project.members) for key in members):
            self._list_members()
        else:
            self._read([key for key in members if key in self.member_row])
        touched = {m for key in joints for m in self._joint_members.pop(key, ())}
        self._read_joints([key for key in joints if key in self.ledger.entries])
        touched |= {m for key in joints for m in self._joint_members.get(key, ())}
        gone = [self.joint_row.pop(key) for key in joints if key in self.joint_row and key not in self.ledger.entries]
        # rows of joints that are gone stay behind, out of sight: moving all the others up would cost more
        self.joint_points[gone] = self.low[gone] = self.high[gone] = np.nan
        recut = set()
        for key in touched | members:
            before, holes = self._cuts.pop(key, None), self._holes.pop(key, None)
            if before is not None and key in self.member_row and (self.cuts(key) != before or (holes is not None and self.cuts(key, True).holes != holes)):
                recut.add(key)
        return members | recut

    def _read(self, ids: list[str]) -> None:
        members = [self.ledger.project.members[key] for key in ids]
        if not members:
            return
        rows, frames, shapes = [self.member_row[key] for key in ids], [axis_frame(m) for m in members], [section(m.section) for m in members]
        self.origin[rows] = [f.origin for f in frames]
        self.axes[rows] = [f.axes for f in frames]
        self.length[rows] = [length(m) for m in members]
        self.half[rows] = [(s.b / 2, s.reach) for s in shapes]
        self.middle[rows] = self.origin[rows] + self.axes[rows, 0] * self.length[rows, None] / 2

    def hide(self, hidden: "frozenset[str]") -> tuple[set[str], set[str]]:
        """Leave members, and the joints named by them, out of the picture; the joints and members that look different for it."""
        members = set(self.hidden ^ hidden) & self.member_row.keys()
        self.hidden = hidden
        self.version += 1
        joints = {key for key in self.joint_row if key.rpartition(".")[0] in members}
        self._read_joints(list(joints))
        return joints, members

    def shown(self, key: str) -> bool:
        """Whether a joint is in the picture."""
        return key.rpartition(".")[0] not in self.hidden

    def _read_joints(self, keys: list[str]) -> None:
        """Points, boxes and states of some joints; an unjoined one has no box."""
        new = [key for key in keys if key not in self.joint_row]
        if new:
            self.joint_row |= {key: i for i, key in enumerate(new, len(self.joint_keys))}
            self.joint_keys += new
            more = np.full((len(new), 3), np.nan)
            self.joint_points, self.low, self.high = (np.concatenate([old, more]) for old in (self.joint_points, self.low, self.high))
            self.state = np.concatenate([self.state, np.zeros(len(new), dtype=np.uint8)])
        if not keys:
            return
        rows, entries = [self.joint_row[key] for key in keys], [self.ledger.entries[key] for key in keys]
        self.joint_points[rows] = [e.joint.frame.origin if self.shown(e.joint.key) else (np.nan,) * 3 for e in entries]
        self._joint_members |= {key: e.joint.members for key, e in zip(keys, entries, strict=True)}
        self.low[rows] = self.high[rows] = np.nan
        joined = [i for i, e in enumerate(entries) if e.made is not None and self.shown(e.joint.key)]
        if joined:
            where = [rows[i] for i in joined]
            self.low[where], self.high[where] = _world_boxes([entries[i] for i in joined])
        self.state[rows] = [STATES.index(e.state) for e in entries]

    def placed(self, key: str, level: str) -> "list[tuple[Mesh, str]]":
        """A connection's bodies for one level in the world, each with what it is; kept until its entry is another."""
        entry = self.ledger.entries[key]
        kept = self._placed.get(key)
        if kept is None or kept[0] is not entry:
            if len(self._placed) >= MOST_MESHES:
                self._placed.clear()
            kept = self._placed[key] = (entry, {})
        if level not in kept[1]:
            assert entry.made is not None
            kept[1][level] = [(mesh.placed(entry.joint.frame), kind) for mesh, kind in bodies_of(entry.made, level)]
        return kept[1][level]

    def joined(self, key: str) -> bool:
        """Whether a joint has a detail to draw."""
        entry = self.ledger.entries.get(key)
        return entry is not None and entry.made is not None and self.shown(key)

    def bounds(self) -> tuple[Array, Array]:
        """Least and greatest corner of everything, mm."""
        if self._bounds is None or self._bounds[0] != self.version:
            self._bounds = (self.version, self._find_bounds())
        return self._bounds[1]

    def _find_bounds(self) -> tuple[Array, Array]:
        if not len(self.origin):
            return np.array([-1000.0, -1000.0, 0.0]), np.array([9000.0, 6000.0, 4000.0])
        ends = self.origin + self.axes[:, 0] * self.length[:, None]
        rows = [i for i, key in enumerate(self.member_ids) if key not in self.hidden] if self.hidden else slice(None)
        points = np.concatenate([self.origin[rows], ends[rows]])
        if not len(points):
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
            e = self.ledger.entries[self.joint_keys[int(i)]]
            assert e.made is not None
            mesh = e.made.shapes.all
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
        if self.hidden:
            near[[self.member_row[k] for k in self.hidden if k in self.member_row]] = np.inf
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


STATES = ("plain", "clear", "concession", "open", "note", "breach")  # of a joint, the later the more it asks to be looked at


def draw_ready(ledger: Ledger) -> None:
    """Work out what a picture of a ledger first asks of its details, so that the window's thread finds it there."""
    for entry in ledger.entries.values():
        if entry.made is not None and entry.state:
            entry.made.shapes  # noqa: B018 -- worked out once, kept with the detail


def _world_boxes(entries: "list[Entry]") -> tuple[Array, Array]:
    """Least and greatest corner (n, 3) each, mm in the world, of the boxes of joints that have a detail."""
    shapes = [e.made.shapes for e in entries if e.made is not None]
    low, high = np.array([s.low for s in shapes]), np.array([s.high for s in shapes])
    origin, axes = np.array([e.joint.frame.origin for e in entries]), np.array([e.joint.frame.axes for e in entries])
    middle, half = origin + np.einsum("ni,nij->nj", (low + high) / 2, axes), np.einsum("ni,nij->nj", (high - low) / 2, np.abs(axes))
    return middle - half, middle + half


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
