"""Loose welds: runs on every line where parts touch, less those left out; fillets whole or in stitches, and prepared grooves."""

import math
from collections.abc import Sequence

import msgspec
import numpy as np
import shapely

from tincleat.catalogue.grooves import JOINTS, Groove, groove, right_ones
from tincleat.details.assembled import Ply
from tincleat.details.parts import Piece, Plate, Switch, Weld
from tincleat.details.scoops import Scoop
from tincleat.errors import NoFit, NotFound
from tincleat.families.declare import Given
from tincleat.families.loose.settings import FILLET, FINISHES, INSIDE, OUTSIDE
from tincleat.geometry.frames import Array, Frame, crossed, vec
from tincleat.geometry.outline import Outline
from tincleat.kit.seams import PARALLEL, TOUCH, Bar, Seam, round_seams, seams
from tincleat.kit.weld import flare, inside_tube, round_tube
from tincleat.standards.rulesets import rules_of
from tincleat.steel.body import end_station
from tincleat.steel.cuts import EndCut

BAR = (25.0, 6.0)  # mm: backing bars, as they are usual
ROUND_FLARE = math.pi / 6  # between a face and a round tube: how far round that its tangent is taken as the flare's other face
NEARBY = 12.0  # mm that picked points lie off a line of contact at most
REACHED_INSIDE = 100.0  # mm that a tube is wide inside for a torch to get in
DEEP_INSIDE = 3.0  # times as far down as it is wide inside a torch reaches
ROOT_RADIUS = 6.0  # mm, of a U or J groove whose designation gives none
CUT_BY = ("single bevel", "double bevel", "single J", "double J")  # grooves whose preparation is cut into a plate's edge here


def preparation(given: Given, thickness: float, joint: str = "T", cut_by: tuple[str, ...] = CUT_BY) -> Groove | None:
    """The groove that a weld's settings ask for under an upright plate, or between two plates (``joint`` B), or None for a fillet; raises NoFit
    with the right ones."""
    name = str(given.value("prep"))
    if name == FILLET:
        return None
    try:
        found = groove(name)
    except NotFound as error:
        raise NoFit(error.what, right=error.right) from None
    right = right_ones(joint, thickness, found.standard, found.groove)
    words = ", ".join(n for n in right if groove(n).groove in cut_by)
    if joint not in found.joints:
        here = {"T": "a plate stands on a face", "C": "a plate stands at an edge, a corner"}.get(joint, "two plates lie edge to edge")
        raise NoFit(f"{name} is for a {' or '.join(JOINTS[j] for j in found.joints)} joint; here {here}", right=words)
    if not found.suits(joint, thickness):
        raise NoFit(f"{name} is for {found.t_least:g} mm" + (f" to {found.t_most:g} mm" if found.t_most else " and more") + f"; this plate is {thickness:g} mm thick", right=words)
    if found.groove not in cut_by:
        raise NoFit(f"a {found.groove} groove is not cut into a plate's edge here", right=words)
    return found


def scooped(plate: Plate, scoops: "Sequence[Scoop]") -> Plate:
    """A plate with its edges cut for U or J grooves; raises NoFit where it is too thin, or what is cut would leave it."""
    flat = plate.outline.polygon().buffer(0.05)
    for s in scoops:
        if s.depth <= s.land + 1.0:
            raise NoFit(f"{plate.name} is {plate.thickness:g} mm thick: nothing opens over a root face of {s.land:g} mm", right="a thicker plate, or another groove")
        into = np.array(s.into) * s.reach
        taken = shapely.Polygon([tuple(p[:2]) for p in (np.array(s.start), np.array(s.stop), np.array(s.stop) + into, np.array(s.start) + into)])
        if not flat.covers(taken):
            raise NoFit(f"the preparation goes {s.reach:.1f} mm into {plate.name}, past its outline beside the edge", right="square corners there, or a wider plate")
    return msgspec.structs.replace(plate, scoops=(*plate.scoops, *scoops))


def root_radius(given: Given, g: Groove) -> float:
    """The radius at the root of a U or J groove, mm: typed, the designation's, or the usual one; 0 for others."""
    return float(given.worked_out("root_radius", g.radius or ROOT_RADIUS)) if g.rounded else 0.0


def prepared(plate: Plate, g: Groove, radius: float) -> Plate:
    """An upright plate lifted by the groove's opening, its lower edge bevelled, or cut to a J of a ``radius``, from one face, or from both to its
    middle.

    A bevel's root face is gouged out before the other side is welded, or stands on backing: the bevel goes right through.
    """
    x0, low, x1, _ = plate.outline.bounds
    lean, root = g.lean, _root(plate, g)
    lifted = msgspec.structs.replace(plate, frame=plate.frame.moved(y=g.opening))
    if radius:
        land = g.face / (2 if g.twice else 1)
        return scooped(lifted, [Scoop((x0, low, root), (x1, low, root), (0.0, 1.0, 0.0), (0.0, 0.0, side), land, radius, lean, plate.thickness - root if side > 0 else root) for side in _sides(g)])
    trims = [EndCut(0, (0.0, low, root), (0.0, math.cos(lean), -side * math.sin(lean))) for side in _sides(g)]
    return msgspec.structs.replace(lifted, trims=(*plate.trims, *trims))


def _root(plate: Plate, g: Groove) -> float:
    """How far through a plate the root of its preparation lies, mm: at its back, or in its middle where both faces are prepared."""
    return plate.thickness / 2 if g.twice else 0.0


def _sides(g: Groove) -> tuple[float, ...]:
    """The ways, through a plate, to which its preparation opens."""
    return (1.0, -1.0) if g.twice else (1.0,)


def backing(plate: Plate, g: Groove, name: str) -> Plate:
    """The bar behind the root of a groove that is welded on one."""
    x0, y0, x1, _ = plate.outline.bounds
    return Plate(name, Outline.rectangle(0.0, 0.0, x1 - x0, BAR[0]), BAR[1], plate.frame.moved(x=x0, y=y0 - g.opening, z=-BAR[1]), plate.grade, (), ("", ""))


def groove_welds(plate: Plate, g: Groove, radius: float, name: str, owner: str, site: bool, tail: str) -> list[Weld]:
    """The groove between a prepared plate's edge and the face it stands over, or both of them where it is prepared from both faces."""
    x0, y0, x1, _ = plate.outline.bounds
    f, lean, root = plate.frame, g.lean, _root(plate, g)
    land = g.face / (2 if g.twice else 1) if radius else 0.0
    a, b = f.to_world(np.array([(x0, y0 - g.opening, root), (x1, y0 - g.opening, root)]))
    out = []
    for side in _sides(g):
        on_face, on_plate = f.turn(np.array((0.0, 0.0, side))), f.turn(np.array((0.0, math.sin(lean), side * math.cos(lean))))
        out.append(Weld(name, plate.thickness - root if side > 0 else root, vec(a), vec(b), vec(on_face), vec(on_plate), (owner, plate.name), site, "groove", g.opening, tail, False, radius, land))
    return out


def tail_of(given: Given) -> str:
    """What the tail of a weld's symbol says: how its face is left, and what else is typed."""
    finish = str(given.value("finish"))
    return ", ".join(filter(None, ("" if finish == FINISHES[0] else finish, str(given.value("tail")))))


def _leg(given: Given, thin: float) -> float:
    """The leg typed, or that of the throat typed, else by the thinner part (mm)."""
    if given.has("throat"):
        if given.has("leg"):
            raise NoFit("a leg and a throat are both typed", right="one of both")
        return float(given.value("throat")) * math.sqrt(2)
    measure, least = rules_of(given.house).fillet_least(thin)
    smallest = least.value * (math.sqrt(2) if measure == "throat" else 1.0)
    return given.rounded("leg", max(smallest, min(0.7 * thin, 12.0)), "weld leg")


def runs(
    given: Given, name: str, first: tuple[str, list[Ply]], others: "list[tuple[str, list[Ply]]]", bars: Sequence[Bar] = (), there: Sequence[Ply] = (), line: "Array | None" = None,
) -> tuple[list[Weld], list[Switch]]:  # fmt: skip
    """The fillets of a weld part between a part and what it touches, and the places of its runs, less where steel that is ``there`` lies, and
    between the points (n, 3) of a ``line`` alone; raises NoFit where nothing touches or every run is left out."""
    leg = _leg(given, min((p.thickness for _, plies in [first, *others] for p in plies), default=10.0))
    found: list[tuple[str, Seam]] = [(owner, s) for owner, plies in others for s in seams(first[1], plies, leg, there)]
    found += [(bar.owner, s) for bar in bars for s in round_seams(first[1], bar, leg)]
    if not found:
        raise NoFit(f"{first[0]} touches nothing that a fillet of {leg:g} mm has room on", right="a part that lies or stands on another, with room beside it")
    if line is not None:
        found = between(found, line)
    out_ = {int(n) for n in given.value("left_out")}
    if wrong := sorted(n for n in out_ if n > len(found)):
        raise NoFit(f"there is no run {wrong[0]}", right=f"numbers from 1 to {len(found)}")
    stitch, pitch, back = float(given.value("stitch")), float(given.value("pitch")), _setbacks(given)
    in_turn = given.value("stitches") == "in turn"
    site = bool(given.value("site")) if given.has("site") else False
    welds: list[Weld] = []
    for number, (owner, s) in enumerate(found, 1):
        if number in out_:
            continue
        for a, b in _pieces(s, stitch, pitch, back, in_turn and number % 2 == 0):
            welds.append(Weld(f"{name} run {number}", leg, vec(a), vec(b), vec(s.on_first), vec(s.on_second), (first[0], owner), site, tail=tail_of(given)))
    if not welds:
        raise NoFit(f"every run of the {len(found)} is left out", right="at least one run")
    here = given.named("left_out")
    return welds, [Switch(here, k, vec((s.start + s.end) / 2), vec(s.on_first + s.on_second), k not in out_, f"{name}, run {k}: {s.length:.0f} mm to {owner}") for k, (owner, s) in enumerate(found, 1) if len(found) > 1]


def between(found: "list[tuple[str, Seam]]", line: Array) -> "list[tuple[str, Seam]]":
    """Of lines of contact those stretches that lie between points (n, 3) one after the other; raises NoFit where none runs from one to the next."""
    out: list[tuple[str, Seam]] = []
    for p, q in zip(line, line[1:], strict=False):
        best: tuple[float, str, Seam] | None = None
        for owner, s in found:
            way = (s.end - s.start) / s.length
            a, b = (float((x - s.start) @ way) for x in (p, q))
            off = max(float(np.linalg.norm(x - s.start - way * t)) for x, t in ((p, a), (q, b)))
            low, high = max(min(a, b), 0.0), min(max(a, b), s.length)
            if high - low > 3.0 and (best is None or off < best[0]):
                best = (off, owner, Seam(s.start + way * low, s.start + way * high, s.on_first, s.on_second))
        if best is None or best[0] > NEARBY:
            near = f"the nearest line on which parts touch is {best[0]:.0f} mm off" if best is not None else "no line on which parts touch runs along there"
            raise NoFit(f"from point {len(out) + 1} to point {len(out) + 2}: {near}", right=f"points within {NEARBY:g} mm of one")
        out.append(best[1:])
    return out


def round_stub(given: Given, name: str, piece: Piece, plies: "dict[str, list[Ply]]") -> list[Weld]:
    """The fillet all round a tube that stands square on a face; raises NoFit where it leans, or stands on nothing flat."""
    ends = [e for e in piece.cuts.ends if e.normal[0] > 0.5]
    foot = piece.frame.moved(x=float(ends[0].point[0]) if ends else 0.0)
    if any(e.normal[0] < 0.9999 for e in ends):
        raise NoFit(f"{piece.name} leans; its weld round is laid out where it stands square", right="a tilt of 0, or a tube joint of its own")
    for owner, some in plies.items():
        for p in some if owner != piece.name else ():
            x, y, z = p.frame.to_local(foot.o[None])[0]
            on = abs(abs(float(np.dot(p.frame.z, foot.x))) - 1.0) < 1e-4 and min(abs(z), abs(z - p.thickness)) < 0.6
            if on and shapely.contains_xy(p.polygon, x, y):
                leg = _leg(given, min(p.thickness, piece.shape.tw))
                site = bool(given.value("site")) if given.has("site") else False
                at = Frame(foot.origin, foot.z, foot.x)
                where, parts = str(given.value("around")), (owner, piece.name)
                some_welds = round_tube(name, leg, piece.shape, at, parts) if where != INSIDE else []
                if where != OUTSIDE:
                    clear = min(piece.shape.h, piece.shape.b) - 2 * piece.shape.tw
                    if clear < REACHED_INSIDE:
                        raise NoFit(f"{piece.name} is {clear:.0f} mm wide inside: nobody gets in to weld", right=f"a weld outside, or a tube at least {REACHED_INSIDE:g} mm wide inside")
                    if piece.length > DEEP_INSIDE * clear:
                        raise NoFit(f"{piece.name} is {piece.length:.0f} mm long and {clear:.0f} mm wide inside: its foot is not reached from its end", right=f"a weld outside, or at most {DEEP_INSIDE * clear:.0f} mm")
                    some_welds += inside_tube(f"{name} inside", leg, piece.shape, at, parts)
                return [msgspec.structs.replace(w, site=site, tail=tail_of(given)) for w in some_welds]
    raise NoFit(f"{piece.name} stands on no flat face", right="a face of the member, or of a plate")


def flares(given: Given, name: str, piece: Piece, plies: "dict[str, list[Ply]]") -> list[Weld]:
    """The flares on both sides of a tube that lies along a face, where the face goes on beside them; none where it lies on nothing."""
    f, s = piece.frame, piece.shape
    site = bool(given.value("site")) if given.has("site") else False
    stitch, pitch, back = float(given.value("stitch")), float(given.value("pitch")), _setbacks(given)
    in_turn = given.value("stitches") == "in turn"
    radius, angle = (s.h / 2, ROUND_FLARE) if s.shape in ("CHS", "RD") else (s.r1, math.pi / 4)
    out: list[Weld] = []
    for owner, some in plies.items():
        for p in some if owner != piece.name else ():
            for on, near, wide in _lying(piece, p):
                level = p.frame.to_local((f.o + on * near)[None])[0, 2]
                if min(abs(level), abs(level - p.thickness)) > TOUCH:
                    continue
                y, z, _ = (float(on @ np.array(v)) * near for v in (f.y, f.z, f.x))
                ends, across = end_station(piece.cuts.ends, 0.0, piece.length, y, z), crossed(f.x, on)
                for side in (1.0, -1.0):
                    line = np.array([f.o + np.array(f.x) * x + on * near + across * side * wide for x in ends])
                    room = p.frame.to_local(line + across * side * s.tw)[:, :2]
                    there = shapely.LineString(room).intersection(p.polygon)
                    for run in (g for g in shapely.get_parts(there) if g.geom_type == "LineString" and g.length > 3.0):
                        a, b = (shapely.line_locate_point(shapely.LineString(room), shapely.Point(c)) for c in (run.coords[0], run.coords[-1]))
                        way = (line[1] - line[0]) / np.linalg.norm(line[1] - line[0])
                        seam = Seam(line[0] + way * a, line[0] + way * b, across * side, -on)
                        for ends_ in _pieces(seam, stitch, pitch, back, in_turn and side < 0):
                            out.append(flare(f"{name} flare {len(out) + 1}", radius, s.tw, ends_, across * side, -on, (owner, piece.name), site, tail_of(given), angle))
    return out


def _lying(piece: Piece, ply: Ply) -> "list[tuple[Array, float, float]]":
    """The ways from a tube's line square to a ply that it could lie on, how far its own face lies that way, and half its breadth across."""
    f, s, z = piece.frame, piece.shape, np.array(ply.frame.z)
    if s.shape in ("CHS", "RD"):
        return [(z * w, s.h / 2, s.h / 2) for w in (1.0, -1.0)] if abs(float(z @ np.array(f.x))) < 1e-4 else []
    return [(np.array(n) * w, near, wide) for n, near, wide in ((f.z, s.h / 2, s.b / 2), (f.y, s.b / 2, s.h / 2)) if abs(float(z @ np.array(n))) > PARALLEL for w in (1.0, -1.0)]


def _setbacks(given: Given) -> tuple[float, float]:
    """What is left free at the near and the far end of every run, mm."""
    near = float(given.value("setback"))
    return near, float(given.worked_out("setback_far", near))


def _pieces(s: Seam, stitch: float, pitch: float, back: tuple[float, float], shifted: bool) -> "list[tuple[Array, Array]]":
    """A line of contact as it is welded: whole less its setbacks, or in stitches, those at its ends included.  Its near end is the one nearer to
    the start of the member, or else lower."""
    way = (s.end - s.start) / s.length
    turned = next((float(v) < 0 for v in (way[0], way[2], way[1]) if abs(float(v)) > 1e-6), False)
    low, high = (back[1], s.length - back[0]) if turned else (back[0], s.length - back[1])
    if high - low < 3.0:
        return []
    if not stitch or stitch >= high - low:
        return [(s.start + way * low, s.start + way * high)]
    first, last = low + stitch / 2, high - stitch / 2
    count = max(1, math.ceil((last - first) / pitch - 1e-6))
    step = (last - first) / count
    middles = [first + step * k for k in range(count + 1)]
    if shifted:
        middles = [(a + b) / 2 for a, b in zip(middles, middles[1:], strict=False)]
    return [(s.start + way * (m - stitch / 2), s.start + way * (m + stitch / 2)) for m in middles]
