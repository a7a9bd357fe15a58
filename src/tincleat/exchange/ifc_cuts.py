"""What is taken off a foreign bar as planes and polygons of our own members, and how near our member then comes to the source's body."""

import math

import msgspec
import numpy as np
from shapely.geometry import Polygon, box

from tincleat.catalogue.sections import section
from tincleat.errors import BadValue
from tincleat.exchange.ifc_solids import Halfspace, Prism, Swept
from tincleat.geometry.frames import Array, Frame, unit, vec
from tincleat.geometry.mesh import Mesh, overlap_volume, prism
from tincleat.geometry.outline import Outline
from tincleat.project.entities import Cutout, Member, Plane
from tincleat.project.members import MOST_CORNERS, MOST_CUTS, axis_frame, check_member, length
from tincleat.steel.body import steel_mesh
from tincleat.steel.cuts import Cuts, EndCut, Notch

ALONG = 0.02  # a plane steeper against the bar than this (sine) cuts an end, a flatter one runs along it
SQUARE = 1e-6
NEAR = 0.1  # mm within which our member's box must lie to the source's
SHARE = 0.006  # of the volume, for chords of arcs


def member_mesh(m: Member, per_arc: int = 6) -> Mesh:
    """A member's steel with its own cuts, in the world, mm."""
    frame, shape = axis_frame(m), section(m.section)
    reach = length(m) + shape.h + shape.b + max((math.dist(c.point, m.start) for c in m.outs), default=0.0)
    ends = tuple(EndCut(0, vec(frame.to_local((c.point,))[0]), vec(frame.unturn(c.normal))) for c in m.cuts)
    notches = tuple(Notch("cut", 0, frame.inside(Frame(c.point, c.x, c.z)).moved(z=-reach), Outline.rounded(list(c.corners), list(c.radii)), 2 * reach) for c in m.outs)
    return steel_mesh(shape, Cuts(ends, notches), 0.0, length(m), per_arc).placed(frame)


def with_cuts(m: Member, swept: Swept, scale: float) -> tuple[Member, list[str]]:
    """The member with what was taken off its source as cuts of its own, and what could not be taken off, in words.

    Ends move to where a plane crosses the middle of the section; a plane square to the bar is nothing but an end.
    """
    odd = list(swept.odd)
    prisms = list(swept.prisms)
    for cut in swept.planes:
        point, normal = cut.point * scale, cut.normal
        x = unit(np.subtract(m.end, m.start))
        lean = float(normal @ x)
        if cut.boundary is not None and not _covers(m, cut, scale):
            found = _bounded(cut, scale, m)
            if found is None:
                odd.append("a bounded half space at an odd angle")
            else:
                prisms.append(found)
            continue
        if abs(lean) < ALONG:
            if not _spares(m, point, normal):
                odd.append("a plane along the bar")
            continue
        if _spares(m, point, normal):
            continue
        m = _ended(m, point, normal, lean)
    for one in prisms:
        try:
            out = _cutout(m, one, scale)
        except BadValue as error:
            odd.append(str(error))
            continue
        if out is not None:
            m = msgspec.structs.replace(m, outs=(*m.outs, out))
    try:
        return check_member(m), odd
    except BadValue as error:
        return msgspec.structs.replace(m, outs=(), cuts=()), [*odd, str(error)]


def _corners(m: Member) -> Array:
    frame, s = axis_frame(m), section(m.section)
    return frame.to_world([(x, y, z) for x in (0.0, length(m)) for y in (-s.b / 2, s.b / 2) for z in (-s.reach, s.reach)])


def _spares(m: Member, point: Array, normal: Array) -> bool:
    """Whether a plane leaves all of a member."""
    return bool(((_corners(m) - point) @ normal).min() > -1e-3)


def _ended(m: Member, point: Array, normal: Array, lean: float) -> Member:
    """A member whose one end is a plane: its line ends where the plane crosses the middle of the section."""
    frame = axis_frame(m)
    x = np.array(frame.x)
    at = float((point - np.array(frame.origin)) @ normal) / lean
    square = abs(abs(lean) - 1.0) < SQUARE
    plane = () if square else (Plane(vec(point.round(6)), vec(unit(normal))),)
    if lean > 0:
        return msgspec.structs.replace(m, start=vec(np.round(np.array(m.start) + x * at, 3) + 0.0), cuts=m.cuts + plane)
    back = at - length(m)
    return msgspec.structs.replace(m, end=vec(np.round(np.array(m.end) + x * back, 3) + 0.0), cuts=m.cuts + plane)


def _covers(m: Member, cut: Halfspace, scale: float) -> bool:
    """Whether a bounded half space takes all of the section where it cuts, so that it is as good as an unbounded one."""
    assert cut.boundary is not None and cut.way is not None
    z = unit(cut.way)
    aside = unit(np.cross((0.0, 0.0, 1.0) if abs(z[2]) < 0.9 else (1.0, 0.0, 0.0), z))
    flat = np.stack([aside, np.cross(z, aside)])
    corners = _corners(m)
    # what of the member's box lies beyond the plane must lie within the boundary
    far = (corners - cut.point * scale) @ cut.normal
    if far.max() < 0:
        return True
    edges = [(i, j) for i in range(8) for j in range(i + 1, 8) if bin(i ^ j).count("1") == 1]
    beyond = [corners[i] for i in range(8) if far[i] < 0]
    beyond += [corners[i] + (corners[j] - corners[i]) * (far[i] / (far[i] - far[j])) for i, j in edges if far[i] * far[j] < 0]
    if not beyond:
        return True
    region = Polygon(cut.boundary * scale @ flat.T).buffer(0.01)
    return bool(region.contains(Polygon(np.array(beyond) @ flat.T).convex_hull if len(beyond) > 2 else box(*[*(np.array(beyond) @ flat.T).min(axis=0), *(np.array(beyond) @ flat.T).max(axis=0)])))


def _bounded(cut: Halfspace, scale: float, m: Member) -> Prism | None:
    """A bounded half space as a prism: its boundary as far as the plane, where the plane runs along it; or from the plane on, where it lies square to it."""
    assert cut.boundary is not None and cut.way is not None
    z = unit(cut.way)
    tilt = float(z @ cut.normal)
    matrix = np.eye(4)
    if abs(tilt) < 1e-6:
        u = unit(np.cross(cut.normal, z))
        matrix[:3, 0], matrix[:3, 1], matrix[:3, 2], matrix[:3, 3] = u, cut.normal, z, cut.point
        if float(np.cross(u, cut.normal) @ z) < 0:
            matrix[:3, 0] = -u
        flat = (cut.boundary - cut.point) @ matrix[:3, :2]
        part = Polygon(flat).buffer(0).intersection(box(-1e9, -1e9, 1e9, 0.0))
        if part.is_empty or part.geom_type != "Polygon":
            return None
        reach = (length(m) + 2000.0) / scale
        matrix[:3, 3] = cut.point - z * reach
        return Prism(np.asarray(part.exterior.coords)[:-1], matrix, z * 2 * reach)
    if abs(abs(tilt) - 1.0) < 1e-6:
        aside = unit(cut.boundary[1] - cut.boundary[0])
        matrix[:3, 0], matrix[:3, 1], matrix[:3, 2], matrix[:3, 3] = aside, np.cross(z, aside), z, cut.point
        flat = (cut.boundary - cut.point) @ matrix[:3, :2]
        return Prism(flat, matrix, -cut.normal * (length(m) + 2000.0) / scale)
    return None


def _cutout(m: Member, taken: Prism, scale: float) -> Cutout | None:
    """A prism as a polygon through and through; None if it takes nothing, BadValue if going right through would take more than it does.

    A box can be seen along any of its sides: the one along which it goes right through is taken.
    """
    first: BadValue | None = None
    for one in (taken, *_sides(taken)):
        try:
            return _through(m, one, scale)
        except BadValue as error:
            first = first or error
    assert first is not None
    raise first


def _sides(taken: Prism) -> list[Prism]:
    """A box seen along its other two sides; nothing of a prism that is no box."""
    if len(taken.outline) != 4 or (taken.radii is not None and taken.radii.any()):
        return []
    corners = taken.outline @ taken.matrix[:3, :2].T + taken.matrix[:3, 3]
    u, v, w = corners[1] - corners[0], corners[3] - corners[0], taken.way
    if np.abs(corners[2] - corners[0] - u - v).max() > 1e-6 * float(np.linalg.norm(u) + np.linalg.norm(v)) or min(map(float, map(np.linalg.norm, (u, v, w)))) <= 0:
        return []
    if max(abs(float(unit(p) @ unit(q))) for p, q in ((u, v), (v, w), (u, w))) > 1e-6:
        return []
    out = []
    for a, along in ((u, v), (v, u)):
        matrix = np.eye(4)
        matrix[:3, 0], matrix[:3, 1], matrix[:3, 2], matrix[:3, 3] = unit(a), unit(w), unit(along), corners[0]
        size_a, size_w = float(np.linalg.norm(a)), float(np.linalg.norm(w))
        out.append(Prism(np.array([(0, 0), (size_a, 0), (size_a, size_w), (0, size_w)]), matrix, along))
    return out


def _through(m: Member, taken: Prism, scale: float) -> Cutout | None:
    x_axis = taken.matrix[:3, 0]
    z = np.cross(x_axis, taken.matrix[:3, 1])
    z = unit(z) if float(z @ taken.way) > 0 else -unit(z)
    way = unit(taken.way)
    if abs(float(way @ z)) < 1.0 - 1e-6:
        raise BadValue("an opening swept askew")
    if len(taken.outline) > MOST_CORNERS or len(m.outs) >= MOST_CUTS:
        raise BadValue("an opening of too many corners, or too many openings")
    frame = Frame(vec(taken.matrix[:3, 3] * scale), vec(unit(x_axis)), vec(z))
    world = (taken.outline @ taken.matrix[:3, :2].T + taken.matrix[:3, 3]) * scale
    flat = frame.to_local(world)[:, :2]
    round_ = (taken.radii if taken.radii is not None else np.zeros(len(flat))) * float(np.linalg.norm(x_axis)) * scale
    if not Polygon(flat).is_valid or Polygon(flat).area < 1.0:
        raise BadValue("an opening whose outline crosses itself")
    if not Polygon(flat).exterior.is_ccw:
        flat, round_ = flat[::-1], round_[::-1]
    corners = tuple((round(float(u), 4) + 0.0, round(float(v), 4) + 0.0) for u, v in flat)
    radii = tuple(max(0.0, round(float(r) - 1e-4, 4)) for r in round_)
    outline = Outline.rounded(list(corners), list(radii))
    bar = member_mesh(msgspec.structs.replace(m, outs=()), 2)
    depth = float(np.linalg.norm(taken.way)) * scale
    mine = overlap_volume(prism(outline, (), 0.0, depth).placed(frame), bar)
    reach = length(m) + float(np.abs(bar.points - frame.o).max()) + 1000.0
    through = overlap_volume(prism(outline, (), -reach, reach).placed(frame), bar)
    if mine < 1.0:
        return None
    if through - mine > max(100.0, 0.01 * mine):
        raise BadValue(f"an opening of {mine / 1000:.1f} cm³ that does not go through")
    return Cutout(frame.origin, frame.x, frame.z, corners, radii)


def differences(members: "list[Member]", source: Mesh) -> list[str]:
    """In what our members' steel differs from the source's body, in words: its box by more than 0.1 mm, its volume by more than arcs' chords explain."""
    ours = [member_mesh(m) for m in members]
    points = np.concatenate([o.points for o in ours])
    gap = max(float(np.abs(points.min(axis=0) - source.points.min(axis=0)).max()), float(np.abs(points.max(axis=0) - source.points.max(axis=0)).max()))
    size = float(np.ptp(source.points, axis=0).max())
    out = []
    # a round's chords stand back from its box
    rounds = max((section(m.section).h * 0.005 for m in members if section(m.section).shape in ("CHS", "RD")), default=0.0)
    if gap > NEAR + rounds + 1e-6 * size:
        out.append(f"its box lies {gap:.1f} mm off the body's")
    mine, theirs = sum(o.volume for o in ours), source.volume
    allowed = 0.03 if rounds else SHARE
    if theirs > 0 and abs(mine / theirs - 1.0) > allowed:
        out.append(f"its volume is {mine / 1e3:.1f} cm³, the body's {theirs / 1e3:.1f} cm³ ({mine / theirs - 1.0:+.1%})")
    return out
