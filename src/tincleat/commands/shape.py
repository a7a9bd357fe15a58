"""Commands that move, copy and shape members; what is joined to them comes along."""

import math
from collections.abc import Sequence

import msgspec
import numpy as np

from tincleat.catalogue.sections import at_share, section
from tincleat.commands.crowd import check_crowd
from tincleat.commands.frame import Length, member_of, point_of, to_mm
from tincleat.commands.picking import picked
from tincleat.commands.registry import command
from tincleat.errors import BadValue, NotFound, Refused, TinCleatError
from tincleat.geometry.frames import Array, Vec3, unit, vec
from tincleat.joints.case import MEETING
from tincleat.ledger.carry import Moved, come_along, hung_on, on_pieces, same_place, turned_end
from tincleat.ledger.ledger import Ledger
from tincleat.project.entities import Cardinal, Connection, Delta, End, Grid, Member, Plane, Role
from tincleat.project.members import cardinal_point, check_member, length, outs_between
from tincleat.project.motion import Motion, moved, reach_plane
from tincleat.project.project import Project

MOST_COPIES = 2000
Point = tuple[Length, Length, Length]


def several(count: int, noun: str = "member") -> str:
    """``1 member``, ``3 members``."""
    return f"{count} {noun}{'' if count == 1 else 's'}"


def _copied(project: Project, ledger: Ledger, members: Sequence[Member], motions: Sequence[Motion]) -> tuple[str, list[Delta]]:
    """Copies of members by each motion with their connections, and how many connections could not come along."""
    if len(members) * len(motions) > MOST_COPIES * 10:
        raise BadValue(f"that makes {len(members) * len(motions)} members", right=f"at most {MOST_COPIES * 10} at once")
    made: list[Moved] = []
    for motion in motions:
        for m in members:
            new, flipped = moved(m, motion)
            key = project.new_id("m")
            name = key.upper() if m.name == m.id.upper() else m.name
            made.append(Moved(m.id, check_member(msgspec.structs.replace(new, id=key, name=name, guid="", run="")), flipped))
    check_crowd(project, ledger.finder, [m.member for m in made])
    connections, left = come_along(ledger, made, motions[0].turn, project.new_id)
    words = f", {several(len(connections), 'connection')} along" if connections else ""
    words += f", {several(left, 'connection')} left behind (another joint there)" if left else ""
    return words, project.put(*(m.member for m in made), *connections)


class ArrayMembers(msgspec.Struct, forbid_unknown_fields=True):
    """Members to repeat ``count`` times, each ``by`` further on; numbers in ``skip`` (from 1) are left out."""

    ids: list[str]
    by: Point
    count: int = 1
    skip: tuple[int, ...] = ()


@command("copy-members", "Copy members", ArrayMembers, ("array", "repeat", "duplicate", "bays", "pitch"), needs_joints=True)
def array(project: Project, ledger: Ledger, args: ArrayMembers) -> tuple[str, list[Delta]]:
    """Copy members once or in a row, either direction, some places skipped; connections come along where the joint is the same."""
    by = np.array(point_of(args.by, project, "by"))
    if not 1 <= args.count <= MOST_COPIES:
        raise BadValue(f"a count of {args.count}", "copy-members", f"1 to {MOST_COPIES}")
    if not np.any(by):
        raise BadValue("the copies would lie on the originals", "copy-members", "a distance other than 0, 0, 0")
    wrong = [n for n in args.skip if not 1 <= n <= args.count]
    if wrong:
        raise BadValue(f"there is no copy number {wrong[0]} to skip", "copy-members", f"numbers from 1 to {args.count}")
    numbers = [n for n in range(1, args.count + 1) if n not in args.skip]
    if not numbers:
        raise BadValue("every copy is skipped", "copy-members", "at least one place left")
    members = picked(project, ledger, args.ids)
    words, deltas = _copied(project, ledger, members, [Motion.move(by * n) for n in numbers])
    return f"Copy {several(len(members))}" + (f" {len(numbers)} times" if len(numbers) > 1 else "") + words, deltas


class MirrorMembers(msgspec.Struct, forbid_unknown_fields=True):
    """A mirror plane: through a ``point`` with a ``normal``, through two plan points (``line``), on a ``grid`` line, or by nothing through the middle."""

    ids: list[str]
    point: Point | None = None
    normal: tuple[float, float, float] | None = None
    line: tuple[Point, Point] | None = None
    grid_line: str = ""
    middle: str = ""
    copy: bool = True


def grid_line(project: Project, name: str) -> tuple[Vec3, Vec3]:
    """A point on a named grid line and its normal in plan; ``A`` or ``grid:A`` where several grids have one; raises NotFound, Refused."""
    grid_name, _, label = name.rpartition(":")
    hits: list[tuple[Vec3, Vec3]] = []
    for g in project.grids.values():
        if grid_name and grid_name not in (g.id, g.name):
            continue
        hits += grid_hits(g, label)
    if not hits:
        raise NotFound(
            f"there is no grid line {name!r}",
            right="a line's label, such as " + ", ".join(sorted(n for g in project.grids.values() for n, _ in (*g.x, *g.y))[:12]),
        )
    if len(hits) > 1:
        raise Refused(f"{len(hits)} grid lines are called {name!r}", right="name the grid too, such as main:A")
    return hits[0]


def grid_hits(g: Grid, label: str) -> list[tuple[Vec3, Vec3]]:
    """Point and normal of the grid's lines with a label."""
    c, s = math.cos(g.angle), math.sin(g.angle)
    ex, ey, o = np.array([c, s, 0.0]), np.array([-s, c, 0.0]), np.array(g.origin)
    out = [(vec(o + ex * at), vec(ex)) for n, at in g.x if n == label]
    return out + [(vec(o + ey * at), vec(ey)) for n, at in g.y if n == label]


def _mirror(project: Project, args: MirrorMembers, members: Sequence[Member]) -> Motion:
    given = [args.point is not None or args.normal is not None, args.line is not None, bool(args.grid_line), bool(args.middle)]
    right = "a point and normal, a line of two points, a grid_line, or middle: x, y or z"
    if sum(given) != 1:
        raise BadValue("the mirror plane is not given once", "mirror-members", right)
    if args.grid_line:
        return Motion.mirror(*grid_line(project, args.grid_line))
    if args.line is not None:
        a, b = (np.array(point_of(p, project, "line")) for p in args.line)
        way = b - a
        if math.hypot(way[0], way[1]) < 1.0:
            raise BadValue("the two points of the line lie over each other", "mirror-members", "two points at least 1 mm apart in plan")
        return Motion.mirror(a, (-way[1], way[0], 0.0))
    if args.middle:
        if args.middle not in ("x", "y", "z"):
            raise BadValue(f"middle {args.middle!r}", "mirror-members", "x, y or z")
        ends = np.array([p for m in members for p in (m.start, m.end)])
        return Motion.mirror((ends.min(axis=0) + ends.max(axis=0)) / 2, np.eye(3)["xyz".index(args.middle)])
    if args.point is None or args.normal is None:
        raise BadValue("a plane needs a point and a normal", "mirror-members", right)
    return Motion.mirror(point_of(args.point, project, "point"), args.normal)


@command("mirror-members", "Mirror members", MirrorMembers, ("flip", "handed", "opposite"), needs_joints=True)
def mirror(project: Project, ledger: Ledger, args: MirrorMembers) -> tuple[str, list[Delta]]:
    """Mirror members about a plane, a line in plan, a grid line or their own middle; connections come along as correct mirror images."""
    members = picked(project, ledger, args.ids)
    return _turned(project, ledger, members, _mirror(project, args, members), args.copy, "Mirror")


class RotateMembers(msgspec.Struct, forbid_unknown_fields=True):
    """Members to turn about a line through ``about`` along ``axis`` (upward if not given), degrees counter-clockwise."""

    ids: list[str]
    about: Point
    angle_deg: float
    axis: tuple[float, float, float] = (0.0, 0.0, 1.0)
    copy: bool = False


@command("rotate-members", "Rotate members", RotateMembers, ("turn", "skew"), needs_joints=True)
def rotate(project: Project, ledger: Ledger, args: RotateMembers) -> tuple[str, list[Delta]]:
    """Rotate members, or copies of them, about a line; their connections follow."""
    if not math.isfinite(args.angle_deg):
        raise BadValue("the angle is not a number", "rotate-members", "degrees")
    motion = Motion.rotate(point_of(args.about, project, "about"), args.axis, math.radians(args.angle_deg))
    return _turned(project, ledger, picked(project, ledger, args.ids), motion, args.copy, "Rotate")


def _turned(project: Project, ledger: Ledger, members: Sequence[Member], motion: Motion, copy: bool, verb: str) -> tuple[str, list[Delta]]:
    if copy:
        words, deltas = _copied(project, ledger, members, [motion])
        return f"{verb} a copy of {several(len(members))}{words}", deltas
    changed = {m.id: moved(m, motion) for m in members}
    changed = {key: (check_member(m), flipped) for key, (m, flipped) in changed.items()}
    return f"{verb} {several(len(members))}", project.put(*(m for m, _ in changed.values()), *same_place(ledger, changed, motion.turn))


class StretchMembers(msgspec.Struct, forbid_unknown_fields=True):
    """One end of members to move along their own line, ``by`` a length; positive is longer.  Or, in place of both, the end of each that is next
    to a point ``near``, as far along the member as the point ``to`` lies from there."""

    ids: list[str]
    end: End | None = None
    by: Length | None = None
    near: Point | None = None
    to: Point | None = None


@command("stretch-members", "Stretch members", StretchMembers, ("lengthen", "shorten", "extend"))
def stretch(project: Project, ledger: Ledger, args: StretchMembers) -> tuple[str, list[Delta]]:
    """Lengthen (or, with a negative length, shorten) members at one end along their own line."""
    members = picked(project, ledger, args.ids)
    if args.end is not None and args.by is not None and args.near is None and args.to is None:
        ends = [(args.end, to_mm(args.by, project.house, "by"))] * len(members)
    elif args.near is not None and args.to is not None and args.end is None and args.by is None:
        near, to = (point_of(p, project, words) for p, words in ((args.near, "near"), (args.to, "to")))
        ends = [longer(m, near, to) for m in members]
    else:
        raise BadValue("how far is not given once", "stretch-members", "end and by, or the points near and to")
    return f"Stretch {several(len(members))}", project.put(*(check_member(_ended(m, end, by)) for m, (end, by) in zip(members, ends, strict=True)))


def longer(m: Member, near: Vec3, to: Vec3) -> tuple[End, float]:
    """The end of a member next to a point, and how much longer (mm) it gets where that end goes along it as far as another point lies from there."""
    a, b = np.array(m.start), np.array(m.end)
    end: End = "start" if float(np.linalg.norm(np.subtract(near, a))) < float(np.linalg.norm(np.subtract(near, b))) else "end"
    along = (b - a) / np.linalg.norm(b - a) * (-1.0 if end == "start" else 1.0)
    return end, float(np.subtract(to, near) @ along)


def _ended(m: Member, end: End, by: float) -> Member:
    if length(m) + by < 1.0:
        raise BadValue(f"{m.name} is {length(m):.1f} mm long; {-by:.1f} mm cannot be taken off", "stretch-members", "less than its length")
    way = unit(np.subtract(m.end, m.start)) * by
    return msgspec.structs.replace(m, end=vec(np.array(m.end) + way)) if end == "end" else msgspec.structs.replace(m, start=vec(np.array(m.start) - way))


class TrimMembers(msgspec.Struct, forbid_unknown_fields=True):
    """Members to trim or extend to the nearest face of another member's line, to a plane, or to a plane that also cuts their steel."""

    ids: list[str]
    to: str = ""
    point: Point | None = None
    normal: tuple[float, float, float] | None = None
    cut: bool = False


@command("trim-members", "Trim or extend to a member or plane", TrimMembers, ("extend", "cut back", "cut by plane"))
def trim(project: Project, ledger: Ledger, args: TrimMembers) -> tuple[str, list[Delta]]:
    """Move the nearer end of members to another member's line or to a plane; with ``cut``, saw their steel along that plane too."""
    out = []
    for m in picked(project, ledger, args.ids):
        if args.to:
            other = project.find("member", args.to)
            assert isinstance(other, Member)
            point, normal = vec(np.array(other.start)), _facing(m, other)
        elif args.point is not None and args.normal is not None:
            point, normal = point_of(args.point, project, "point"), vec(unit(args.normal))
        else:
            raise BadValue("nothing to trim to is given", "trim-members", "to: a member, or a point and a normal")
        station = reach_plane(m, point, normal)
        full = length(m)
        end: End = "start" if station < full / 2 else "end"
        if (end == "start" and full - station < 1.0) or (end == "end" and station < 1.0):
            raise BadValue(f"nothing of {m.name} would be left", "trim-members", "a plane nearer to one of its ends")
        new = _ended(m, end, -station if end == "start" else station - full)
        if args.cut:
            way = unit(np.subtract(m.end, m.start)) * (1 if end == "start" else -1)
            keep = np.array(normal) * (1.0 if float(np.array(normal) @ way) > 0 else -1.0)
            old = tuple(c for c in m.cuts if (float(np.array(c.normal) @ way) > 0) is False)
            new = msgspec.structs.replace(new, cuts=(*old, Plane(point, vec(keep))))
        out.append(check_member(new))
    return f"Trim {several(len(out))}", project.put(*out)


class MeetMember(msgspec.Struct, forbid_unknown_fields=True):
    """The end of a member (``m12.start``) that stops short of another."""

    at: str


@command("meet-member", "Make an end meet what it stops short of", MeetMember, ("lengthen", "near miss", "gap", "extend"), needs_joints=True)
def meet(project: Project, ledger: Ledger, args: MeetMember) -> tuple[str, list[Delta]]:
    """Trim an end that stops short of a member to that member's line, or that member to its line, or both; refused where they do not meet then."""
    key, _, end = args.at.rpartition(".")
    member = project.find("member", key)
    if end not in ("start", "end"):
        raise BadValue(f"{args.at!r:.60} is no end of a member", "meet-member", "such as m12.start")
    other = ledger.finder.missed(member.id, end)  # type: ignore[arg-type]
    if not other:
        raise Refused(f"{args.at} stops short of nothing", "meet-member", "an end that the ledger says stops short of a member")
    found = meeting_by(project, ledger, (member.id, end))  # type: ignore[arg-type]
    if found is None:
        raise Refused(f"{args.at} and {project.members[other].name or other} do not meet by lengthening either", "meet-member", "move one of them")
    words, made = found
    return words, made


def meeting_by(project: Project, ledger: Ledger, at: tuple[str, End]) -> tuple[str, list[Delta]] | None:
    """What makes an end meet the member that it stops short of, in words and as changes: itself trimmed to the other's line, or the other to
    its line, or both; None where nothing of the kind does."""
    mine, other = at[0], ledger.finder.missed(*at)
    a, b = (project.members[k].name or k if k else "" for k in (mine, other))
    for words, pairs in ((f"Lengthen {a} to the line of {b}", ((mine, other),)), (f"Lengthen {b} to the line of {a}", ((other, mine),)), (f"Trim {b} and {a} to each other", ((other, mine), (mine, other)))):
        try:
            made = [d for one, two in pairs for d in trim(project, ledger, TrimMembers([one], two))[1]] if other else []
        except TinCleatError:
            continue
        moved = ledger.finder.beside({d.id: d.new for d in made if isinstance(d.new, Member)})
        if any(j.kind not in MEETING and at in j.ends for j in moved.joints([mine])):
            return words, made
    return None


def _facing(m: Member, other: Member) -> Vec3:
    """Normal of the plane along another member's line that stands squarest to ``m``."""
    line = unit(np.subtract(other.end, other.start))
    way = unit(np.subtract(m.end, m.start))
    normal = way - line * float(way @ line)
    if float(np.linalg.norm(normal)) < 1e-6:
        raise BadValue(f"{m.name} runs along {other.name}", "trim-members", "members that cross")
    return vec(unit(normal))


class MitreMembers(msgspec.Struct, forbid_unknown_fields=True):
    """Two members to mitre where their lines meet."""

    ids: tuple[str, str]


@command("mitre-members", "Mitre two members", MitreMembers, ("corner", "bevel", "fit"))
def mitre(project: Project, ledger: Ledger, args: MitreMembers) -> tuple[str, list[Delta]]:
    """Bring the ends of two members to where their lines meet and cut both along the plane that halves the corner."""
    a, b = picked(project, ledger, args.ids) if len(set(args.ids)) == 2 else (None, None)
    if a is None or b is None:
        raise BadValue("a mitre needs two members", "mitre-members", "two different members")
    corner = meeting(a, b)
    ends: tuple[End, End] = (_near_end(a, corner), _near_end(b, corner))
    inward = [unit(np.subtract(m.end if e == "start" else m.start, corner)) for m, e in zip((a, b), ends, strict=True)]
    if float(inward[0] @ inward[1]) > 1 - 1e-9:
        raise BadValue("the two members lie on each other", "mitre-members", "members at an angle")
    half = inward[0] - inward[1]
    out = []
    for m, end, keep in zip((a, b), ends, (half, -half), strict=True):
        new = msgspec.structs.replace(m, **{end: vec(corner)})
        away = inward[0] if m is a else inward[1]
        kept = tuple(c for c in m.cuts if float(np.array(c.normal) @ away) < 0)
        out.append(check_member(msgspec.structs.replace(new, cuts=(*kept, Plane(vec(corner), vec(unit(keep)))))))
    return f"Mitre {a.name} with {b.name}", project.put(*out)


class AddPolyline(msgspec.Struct, forbid_unknown_fields=True):
    """Members along points, mitred where they turn; with ``arc``, in ``chords`` along the arc through three points."""

    section: str
    points: list[Point | str]
    role: Role = "beam"
    grade: str = ""
    cardinal: Cardinal = "centre"
    roll_deg: float = 0.0
    arc: bool = False
    chords: int = 8


@command("add-polyline", "Members along points", AddPolyline, ("polyline", "curved", "bent", "arc", "ring"))
def add_polyline(project: Project, ledger: Ledger, args: AddPolyline) -> tuple[str, list[Delta]]:
    """Lay members from point to point, mitred at the turns; with ``arc``, in chords along the arc through three points."""
    points = [np.array(point_of(p, project, f"point {i + 1}")) for i, p in enumerate(args.points)]
    if args.arc:
        if len(points) != 3 or not 2 <= args.chords <= 200:
            raise BadValue(f"{len(points)} points, {args.chords} chords", "add-polyline", "an arc by three points, in 2 to 200 chords")
        points = arc_points(points[0], points[1], points[2], args.chords)
    if len(points) < 2:
        raise BadValue("fewer than two points", "add-polyline", "at least two")
    made = [
        member_of(project, args.section, vec(a), vec(b), args.role, args.grade, args.roll_deg, args.cardinal)
        for a, b in zip(points[:-1], points[1:], strict=True)
    ]
    for i, (a, b) in enumerate(zip(made[:-1], made[1:], strict=True)):
        u, v = unit(np.subtract(a.start, a.end)), unit(np.subtract(b.end, b.start))
        half = u - v
        if float(np.linalg.norm(np.cross(u, v))) > 1e-6:
            made[i] = msgspec.structs.replace(a, cuts=(*made[i].cuts, Plane(a.end, vec(unit(half)))))
            made[i + 1] = msgspec.structs.replace(b, cuts=(Plane(b.start, vec(unit(-half))),))
    return f"Add {several(len(made))} along {'an arc' if args.arc else 'points'}", project.put(*(check_member(m) for m in made))


def arc_points(a: Array, b: Array, c: Array, chords: int) -> list[Array]:
    """Points on the circle from ``a`` over ``b`` to ``c``, mm; raises BadValue if they lie in one line."""
    u, w = b - a, c - a
    normal = np.cross(u, w)
    if float(np.linalg.norm(normal)) < 1e-6 * float(np.linalg.norm(u) * np.linalg.norm(w)) + 1e-12:
        raise BadValue("the three points lie in one line", "add-polyline", "points of an arc")
    n = unit(normal)
    centre = a + np.cross(float(u @ u) * w - float(w @ w) * u, normal) / (2 * float(normal @ normal))
    x = unit(a - centre)
    y = np.cross(n, x)
    turn = math.atan2(float((c - centre) @ y), float((c - centre) @ x)) % math.tau
    r = float(np.linalg.norm(a - centre))
    return [centre + r * (x * math.cos(turn * i / chords) + y * math.sin(turn * i / chords)) for i in range(chords + 1)]


def meeting(a: Member, b: Member) -> Array:
    """The point where two members' lines meet, mm; raises BadValue with the gap if they pass each other."""
    p, q = np.array(a.start), np.array(b.start)
    u, v = unit(np.subtract(a.end, a.start)), unit(np.subtract(b.end, b.start))
    cross = np.cross(u, v)
    if float(cross @ cross) < 1e-10:
        raise BadValue(f"{a.name} and {b.name} are parallel", right="members whose lines cross")
    s, t, _ = np.linalg.solve(np.column_stack([u, -v, cross]), q - p)
    gap = float(np.linalg.norm(p + u * s - q - v * t))
    if gap > 1.0:
        raise BadValue(f"the lines of {a.name} and {b.name} pass {gap:.1f} mm apart", right="members whose lines cross within 1 mm")
    out: Array = (p + u * s + q + v * t) / 2
    return out


def _near_end(m: Member, point: Array) -> End:
    return "start" if math.dist(m.start, point) < math.dist(m.end, point) else "end"


class SplitMembers(msgspec.Struct, forbid_unknown_fields=True):
    """Members to split at distances from their start, or where a plane crosses them."""

    ids: list[str]
    at: tuple[Length, ...] = ()
    point: Point | None = None
    normal: tuple[float, float, float] | None = None


@command("split-members", "Split members", SplitMembers, ("break", "splice", "stock length"))
def split(project: Project, ledger: Ledger, args: SplitMembers) -> tuple[str, list[Delta]]:
    """Split members at distances from their start (or at a plane); connections stay with the piece they belong to."""
    pieces: list[Member] = []
    changed: list[Connection] = []
    members = picked(project, ledger, args.ids)
    for m in members:
        if args.at:
            stations = [to_mm(a, project.house, "at") for a in args.at]
        elif args.point is not None and args.normal is not None:
            stations = [reach_plane(m, point_of(args.point, project, "point"), args.normal)]
        else:
            raise BadValue("nothing to split at is given", "split-members", "at: distances from the start, or a point and a normal")
        made, _ = split_at(project, m, stations)
        pieces += made
        changed += on_pieces(ledger, m, made, stations)
    return f"Split {several(len(members))} into {len(pieces)}", project.put(*pieces, *changed)


def split_at(project: Project, m: Member, stations: Sequence[float]) -> tuple[list[Member], str]:
    """The pieces of a member split at stations (mm from its start), the first with its id, and the id of the last; raises BadValue."""
    full = length(m)
    cuts = sorted(stations)
    for before, after in zip([0.0, *cuts], [*cuts, full], strict=True):
        if after - before < 1.0:
            raise BadValue(
                f"a split of {m.name} at {before if before else after:.1f} mm leaves no piece",
                "split-members",
                f"distances inside its {full:.1f} mm, at least 1 mm apart",
            )
    way = unit(np.subtract(m.end, m.start))
    points = [m.start, *(vec(np.array(m.start) + way * c) for c in cuts), m.end]
    out = []
    for i, (a, b) in enumerate(zip(points[:-1], points[1:], strict=True)):
        key = m.id if i == 0 else project.new_id("m")
        name = m.name if i == 0 else f"{m.name}/{i + 1}"
        name_, offset = _tapered_piece(m, [0.0, *cuts][i] / full, [*cuts, full][i] / full)
        outs = outs_between(m, [0.0, *cuts][i], [*cuts, full][i])
        mine = tuple(c for c in m.cuts if (i == 0 and float(np.array(c.normal) @ way) > 0) or (i == len(cuts) and float(np.array(c.normal) @ way) < 0))
        out.append(
            check_member(
                msgspec.structs.replace(m, id=key, name=name, start=a, end=b, cuts=mine, section=name_, offset=offset, guid=m.guid if i == 0 else "", outs=outs)
            )
        )
    return out, out[-1].id


def _tapered_piece(m: Member, first: float, last: float) -> tuple[str, tuple[float, float]]:
    """The section and offset of a member's piece between two shares of its length: a tapered girder's are its own."""
    shape = section(m.section)
    if not shape.h_end:
        return m.section, m.offset
    (a, rise), (b, _) = at_share(shape, first), at_share(shape, last)
    hung = [cardinal_point(s, m.cardinal)[1] for s in (shape, a)]
    side = f" {shape.straight}" if shape.straight else ""
    name = f"PG {a.h:g}-{b.h:g}x{shape.b:g}x{shape.tw:g}x{shape.tf:g}{side}" if a.h != b.h else a.name
    return section(name).name, (m.offset[0], m.offset[1] - hung[0] + rise + hung[1])


@command("join-members", "Join two members into one", MitreMembers, ("unite", "weld together", "merge"))
def join(project: Project, ledger: Ledger, args: MitreMembers) -> tuple[str, list[Delta]]:
    """Make one member of two that follow each other in one line; connections at the outer ends stay, those between go."""
    a, b = picked(project, ledger, args.ids) if len(set(args.ids)) == 2 else (None, None)
    if a is None or b is None:
        raise BadValue("joining needs two members", "join-members", "two different members")
    if a.section != b.section:
        raise Refused(f"{a.name} is {a.section}, {b.name} is {b.section}", "join-members", "members of one section")
    ends: tuple[End, End] = ("start", "end")
    gap, end_a, end_b = min((math.dist(getattr(a, p), getattr(b, q)), p, q) for p in ends for q in ends)
    far_a, far_b = np.array(getattr(a, turned_end(end_a, True))), np.array(getattr(b, turned_end(end_b, True)))
    line = unit(far_b - far_a)
    aside = max(float(np.linalg.norm(np.cross(np.array(p) - far_a, line))) for p in (getattr(a, end_a), getattr(b, end_b)))
    if gap > 5.0 or aside > 1.0:
        raise Refused(
            f"{a.name} and {b.name} do not follow each other: {gap:.1f} mm apart, {aside:.1f} mm out of line", "join-members", "ends within 5 mm, in one line"
        )
    kept = tuple(c for m, e in ((a, end_a), (b, end_b)) for c in m.cuts if (float(np.array(c.normal) @ np.subtract(m.end, m.start)) > 0) == (e == "end"))
    new = check_member(msgspec.structs.replace(a, **{end_a: vec(far_b)}, cuts=kept, outs=a.outs + b.outs))
    gone = [c for c in ledger.hanging([a.id, b.id]) if {(a.id, end_a), (b.id, end_b)} & set(c.ends)]
    deltas = project.drop("connection", [c.id for c in gone])
    carried = [one for c in ledger.hanging([a.id, b.id]) if c not in gone and (one := _on_joined(c, a, b, new)) != c]
    deltas += project.put(new, *carried)
    return f"Join {a.name} and {b.name}", [*deltas, Delta("member", b.id, b, None)]


def _on_joined(c: Connection, a: Member, b: Member, new: Member) -> Connection:
    """A connection of one of two members that became one: ``a`` goes on under its name, ``b`` is gone."""
    if c.at is not None:
        row = tuple(a.id if k == b.id else k for k in c.row)
        if c.member not in (a.id, b.id):
            return msgspec.structs.replace(c, row=row)
        old = a if c.member == a.id else b
        way = unit(np.subtract(old.end, old.start))
        line = unit(np.subtract(new.end, new.start))
        at = float((np.array(old.start) + way * c.at - np.array(new.start)) @ line)
        return msgspec.structs.replace(c, member=a.id, at=round(at, 3), row=row)
    if c.other:
        return msgspec.structs.replace(c, member=a.id if c.member == b.id else c.member, other=a.id if c.other == b.id else c.other)
    far: End = "end" if math.dist(new.end, a.end) > 1.0 else "start"
    return hung_on(c, [(a.id, far) if m == b.id else (m, e) for m, e in c.ends])
