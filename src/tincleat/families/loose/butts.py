"""Loose plates that are welded edge to edge: the one laid to the other's root opening, both edges prepared, the groove between them."""

import math
from dataclasses import dataclass

import msgspec
import numpy as np

from tincleat.catalogue.grooves import Groove
from tincleat.details.assembled import Assembled
from tincleat.details.parts import Plate, Weld
from tincleat.details.scoops import Scoop
from tincleat.errors import NoFit
from tincleat.families.loose.welds import BAR, scooped
from tincleat.geometry.frames import Array, Frame, crossed, vec
from tincleat.geometry.outline import Outline
from tincleat.steel.cuts import EndCut

CUT = ("square", "single V", "double V", "single bevel", "double bevel", "single U", "double U", "single J", "double J")  # grooves that are cut between two plates here
NEARLY = 25.0  # mm that edges lie apart at most to be welded
FLUSH = 0.1  # mm
PLACES = 12  # along a root at which it is looked for steel behind it
REACHED = 20.0  # mm behind a root that a torch and a gouge need, to come at it


@dataclass(frozen=True)
class Edges:
    """Two edges that face each other, in the first plate's frame: from ``start`` to ``stop`` along its edge (x, y), how far they lie apart, and
    the way (x, y) from the first to the second."""

    start: Array
    stop: Array
    gap: float
    out: Array


def flush(one: Plate, two: Plate) -> bool:
    """Whether two plates lie in one plane, face beside face."""
    if abs(abs(float(np.dot(one.frame.z, two.frame.z))) - 1.0) > 1e-6 or abs(one.thickness - two.thickness) > FLUSH:
        return False
    local = one.frame.to_local(two.frame.to_world(np.array([(0.0, 0.0, 0.0), (0.0, 0.0, two.thickness)])))[:, 2]
    return abs(float(local.min())) < FLUSH and abs(float(local.max()) - one.thickness) < FLUSH


def facing(one: Plate, two: Plate) -> Edges:
    """The edges along which two flush plates lie side by side; raises NoFit with how far they are off each other."""
    there = one.frame.inside(two.frame)
    best: Edges | None = None
    for a, b, out in _sides(one, Frame()):
        for p, q, n in _sides(two, there):
            if float(out @ n) > -0.99999:
                continue
            gap, way = float((p - a) @ out), (b - a) / np.linalg.norm(b - a)
            low, high = sorted((float((p - a) @ way), float((q - a) @ way)))
            low, high = max(low, 0.0), min(high, float(np.linalg.norm(b - a)))
            if high - low > 3.0 and (best is None or abs(gap) < abs(best.gap)):
                best = Edges(a + way * low, a + way * high, gap, out)
    if best is None:
        raise NoFit(f"no straight edge of {one.name} runs along one of {two.name}", right="plates side by side, edge to edge")
    if not -1.0 <= best.gap <= NEARLY:
        raise NoFit(f"the edges of {one.name} and {two.name} lie {best.gap:.1f} mm apart", right=f"at most {NEARLY:g} mm: it is laid to its opening then")
    return best


def _sides(plate: Plate, there: Frame) -> "list[tuple[Array, Array, Array]]":
    """Straight sides of a plate with the way out of it, in the plane of the frame that its own is ``there`` in."""
    corners = plate.outline.vertices
    out = []
    for (x, y, bulge), (u, v, _) in zip(corners, (*corners[1:], corners[0]), strict=True):
        size = math.hypot(u - x, v - y)
        if bulge == 0.0 and size > 1.0:
            a, b = there.to_world(np.array([(x, y, 0.0), (u, v, 0.0)]))[:, :2]
            out.append((a, b, there.turn(np.array([(v - y) / size, (x - u) / size, 0.0]))[:2]))
    return out


def behind(a: Assembled, one: Plate, between: Edges) -> Array:
    """How far the nearest steel of a detail lies behind the back of a plate's edge, mm (n,), at places along it; not finite where there is none."""
    shares = (np.arange(PLACES) + 0.5) / PLACES
    line = between.start + (between.stop - between.start) * shares[:, None] + between.out * between.gap / 2
    points = one.frame.to_world(np.column_stack([line, np.zeros(PLACES)]))
    found = a.through(points, -np.array(one.frame.z))
    return np.array([min((max(p.enter, 0.0) for p in some if p.leave > FLUSH), default=math.inf) for some in found])


def on_backing(g: Groove, one: Plate, off: Array) -> bool:
    """Whether a groove gets a bar behind its root, of steel that lies ``off`` mm (n,) behind it: it needs none where it lies on steel all along.
    Raises NoFit where the root cannot be reached, or is backed in parts."""
    near, far = float(off.min()), float(off.max())
    if g.root in ("backgouged", "both sides") and near < REACHED:
        raise NoFit(f"{g.designation} is {g.root.replace('both sides', 'welded from both sides')}; steel lies {near:.0f} mm behind the back of {one.name}", right=f"a groove on backing, or {REACHED:g} mm behind the plates")
    if g.root != "backing" or far < FLUSH:
        return False
    if near < FLUSH:
        raise NoFit(f"the root of {g.designation} lies on steel along {np.mean(off < FLUSH):.0%} of it alone: the rest has no backing", right=f"plates on steel all along, or {BAR[1]:g} mm off it for a bar")
    if near < BAR[1] - FLUSH:
        raise NoFit(f"steel lies {near:g} mm behind the back of {one.name}: no room for a backing bar {BAR[1]:g} mm thick", right=f"0, where that is the backing, or {BAR[1]:g} mm and more")
    return True


def butt(a: Assembled, one: Plate, two: Plate, g: Groove, root_radius: float, name: str, site: bool, tail: str) -> "tuple[Plate, Plate, list[Weld], Plate | None]":
    """Two flush plates of a detail ``a`` with their edges prepared, the first moved to the groove's opening, the welds between them, and the bar
    behind their root where it needs one; ``root_radius`` (mm) is a U's or a J's.  Raises NoFit where the root cannot be reached, or a plate has no
    room for its preparation."""
    t, between = one.thickness, facing(one, two)
    barred = on_backing(g, one, behind(a, one, between))
    opening = t if g.others == "opening as thick as the part" else t / 2 if g.others == "opening half the thickness" else g.opening
    lean, radius = g.lean, root_radius if g.rounded else 0.0
    root, land = (t / 2, g.face / 2) if g.twice else (0.0, g.face)
    out = np.array([*between.out, 0.0])
    one = msgspec.structs.replace(one, frame=one.frame.moved(*((between.gap - opening) * between.out).tolist()))
    start, stop = (np.array([*p, root]) for p in (between.start, between.stop))
    f, welds = one.frame, []
    trims: tuple[list[EndCut], list[EndCut]] = ([], [])
    scoops: tuple[list[Scoop], list[Scoop]] = ([], [])
    up = np.array([0.0, 0.0, 1.0])
    far = start + out * opening
    deep = t - root
    for side in (1.0, -1.0) if g.twice else (1.0,):
        on_one, on_two = (s * out * math.sin(lean) + side * up * math.cos(lean) for s in (-1.0, 1.0))
        if radius:
            scoops[0].append(Scoop(vec(start), vec(stop), vec(-out), vec(side * up), land, radius, lean, deep))
            if g.both:
                scoops[1].append(Scoop(vec(far), vec(stop + out * opening), vec(out), vec(side * up), land, radius, lean, deep))
        elif lean:
            trims[0].append(EndCut(0, vec(start), vec(-out * math.cos(lean) - side * up * math.sin(lean))))
            if g.both:
                trims[1].append(EndCut(0, vec(far), vec(out * math.cos(lean) - side * up * math.sin(lean))))
        if g.both:
            line, legs, parts = (start, stop), (on_one, on_two), (one.name, two.name)
        elif lean:  # the second's edge stays square: from there
            line, legs, parts = (far, stop + out * opening), (side * up, on_one), (two.name, one.name)
        else:
            along = crossed(up, out)
            line = (start, stop) if float((stop - start) @ along) > 0 else (stop, start)
            legs, parts = (up, up), (one.name, two.name)
        p, q = f.to_world(np.array(line))
        welds.append(Weld(name, deep, vec(p), vec(q), vec(f.turn(legs[0])), vec(f.turn(legs[1])), parts, site, "groove", opening, tail, g.both, radius, land if radius else 0.0))
    other = f.inside(two.frame)  # what is told in the first's frame as the second has it
    seen = [EndCut(0, other.spot(e.point), vec(other.unturn(np.array(e.normal)))) for e in trims[1]]
    bar = None
    if barred:
        middle, half = opening / 2, float(np.linalg.norm(stop - start)) / 2
        at = Frame.of(f.to_world(((start + stop) / 2 + out * middle)[None])[0] - np.array(f.z) * (root + BAR[1]), f.turn(stop - start), f.z)
        bar = Plate("", Outline.rectangle(-half, -(BAR[0] + opening) / 2, half, (BAR[0] + opening) / 2), BAR[1], at, one.grade, (), ("", ""))
    one = scooped(msgspec.structs.replace(one, trims=(*one.trims, *trims[0])), scoops[0])
    two = scooped(msgspec.structs.replace(two, trims=(*two.trims, *seen)), [s.turned(f, two.frame) for s in scoops[1]])
    return one, two, welds, bar
