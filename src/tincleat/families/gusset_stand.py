"""What a gusset stands on: the members and plates that lie in its plane, the edges it has there, bevelled where their faces lie askew, and
the welds along them."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Polygon

from tincleat.details.assembled import role_words
from tincleat.details.parts import Weld
from tincleat.errors import NoFit
from tincleat.families.braces import FLAT, in_space
from tincleat.families.declare import Given
from tincleat.geometry.frames import Array, Frame, vec
from tincleat.geometry.mesh import prism, sliced
from tincleat.joints.case import REACH, Case, CaseMember, Standing
from tincleat.kit.contact import Edge, piece_at, shadow
from tincleat.kit.weld import both_sides, fillet
from tincleat.steel.cuts import EndCut

INSET = 2.0  # mm that the plate's corners are first taken to lie inside the steel it is then cut against
NEAR_FOOT = 150.0  # mm over a base plate within which a gusset goes down to stand on it by itself
INSIDE = 10.0  # mm that a gusset's edge on a base plate ends before the plate does
SQUARE = 2e-3  # sine of the angle up to which a plate stands square on a face
LEAST_STEEL = 0.005  # of what a member covers of a plate that is steel all through it, where its flanges alone are
LEAST_BEVEL, MOST_ASLANT = 0.86, 0.5  # cosine and sine of 30°, to which an edge is bevelled
FLAT_FACED = ("I", "C", "RHS")
ALL, UPRIGHT, LYING = "all it meets", "upright member", "lying member or base"


@dataclass(frozen=True)
class Carrier:
    """What the plate can stand on: a member or a base plate, its steel in the plate (empty where it only lies beside it), its run.

    ``ways`` are the directions (joint's frame) that a member's faces look in; where they lie askew in the plate, ``body`` is what is steel all
    through it, for the plate reaches to where its faces are furthest and has its edge bevelled.
    """

    words: str
    body: Polygon
    run: Array
    middle: Array
    upright: bool
    member: bool = True
    ways: tuple[Array, ...] = ()

    def face(self, e: Edge) -> Array | None:
        """The direction in which the face looks that an edge of the plate stands on aslant; None where it stands square on it."""
        into, run = np.array(in_space(e.into)), np.array(in_space(e.end - e.start)) / e.length
        way = max(self.ways, key=lambda w: float(w @ into), default=None)
        return way if way is not None and abs(way[1]) > SQUARE and abs(float(way @ run)) < SQUARE and float(way @ into) > LEAST_BEVEL else None

    def foot(self, p: Array) -> Array | None:
        """The point (2,) where a plate's corner, carried square to the run, lands on it, a little inside; None where it misses a
        member.  Past the end of a base plate it lands a little before that end."""
        if not self.member:
            along = (shapely.get_coordinates(self.body) - self.middle) @ self.run
            off = float((p - self.middle) @ self.run)
            p = p + self.run * (min(max(off, float(along.min()) + INSIDE), float(along.max()) - INSIDE) - off)
        normal = np.array([-self.run[1], self.run[0]])
        off = float((p - self.middle) @ normal)
        met = shapely.LineString([p, p - normal * off]).intersection(self.body)
        if met.is_empty:
            return None
        hits = shapely.get_coordinates(met)
        near: Array = hits[np.argmin(np.hypot(*(hits - p).T))]
        return near - normal * math.copysign(1.0, off) * (INSET if self.member else 0.0)


def web_beside(carrier: CaseMember) -> float:
    """How far off its middle a carrier's web still holds a plate that lies square to it, between its flanges, mm; 0 where it has none so."""
    shape = carrier.shape
    if shape.shape != "I" or shape.slope or abs(carrier.frame.z[1]) < 0.99:
        return 0.0
    return shape.h / 2 - shape.tf - shape.r1


def carrying(case: Case) -> list[tuple[int, CaseMember]]:
    """The members that a gusset may stand on, the first the one that its braces come to, each with its number in the case."""
    return [(i, m) for i, m in enumerate(case.members) if m.role.partition("-")[0] in ("column", "beam", "through")]


def heights_between(low: float, high: float, m: CaseMember | None = None) -> tuple[float, ...]:
    """Heights over the plane (which looks along -y) at which to cut what lies between two y: just inside them and in the middle, and of a member
    where its flanges or webs lie between."""
    lies = [m.frame.point((0.0, e.at, 0.0) if e.normal == "y" else (0.0, 0.0, e.at))[1] for e in m.shape.elements if abs((m.frame.y if e.normal == "y" else m.frame.z)[1]) > 0.9] if m is not None else []
    return (-(low + (high - low) * 0.01), -(low + high) / 2, -(low + (high - low) * 0.99), *(-y for y in lies if low < y < high))


def plate_shadow(s: Standing, heights: Sequence[float]) -> Polygon:
    """What a plate of another connection covers of the plane at some heights over it."""
    body = prism(s.outline, (), 0.0, s.thickness, 4).placed(FLAT.inside(s.frame))
    return shapely.union_all([p for h in heights for p in sliced(body, h)])


def carriers_of(case: Case, span: tuple[float, float], towards: Array) -> list[Carrier]:
    """All that stands in the plane of the plate between two y, braces going ``towards``: members first, then plates of other connections."""
    out = []
    for _, m in carrying(case):
        run = np.array([m.frame.x[0], m.frame.x[2]])
        middle = np.array([m.frame.origin[0], m.frame.origin[2]])
        body, ways = _askew_in(m, span, shadow(m, FLAT, heights_between(*span)), towards)
        out.append(Carrier(role_words(m.role), body, run / max(float(np.hypot(*run)), 1e-9), middle, m.role.startswith("column"), ways=ways))
    for s in case.context:
        body = plate_shadow(s, heights_between(*span))
        if body.is_empty:
            continue
        n = np.array([s.frame.z[0], s.frame.z[2]])
        size = float(np.hypot(*n))
        run = np.array([n[1], -n[0]]) / size if size > 1e-6 else np.array([1.0, 0.0])
        out.append(Carrier(s.name, body, run, np.array([body.centroid.x, body.centroid.y]), False, False))
    return out


def _askew_in(m: CaseMember, span: tuple[float, float], body: Polygon, towards: Array) -> tuple[Polygon, tuple[Array, ...]]:
    """Where faces of a member lie askew in the plate: what is steel all through it, to whose edge it reaches, and the ways those faces look.
    Else all that is steel somewhere in it (``body``), and none."""
    ways = []
    for normal, out, across in (("y", m.frame.y, m.frame.z), ("z", m.frame.z, m.frame.y)):
        mine = [e for e in m.shape.elements if e.normal == normal] if m.shape.shape in FLAT_FACED else []
        if not mine or not SQUARE < abs(out[1]) < MOST_ASLANT:
            continue
        s = math.copysign(1.0, float(np.array(out) @ towards))
        e = max(mine, key=lambda e: s * e.at)  # the outermost face on the braces' side
        off = m.frame.origin[1] + (e.at + s * e.thickness / 2) * out[1]
        if all(e.low <= (y - off) / across[1] <= e.high for y in span):  # where both faces of the plate cross it, from its middle line
            ways.append(s * np.array(out))
    if not ways:
        return body, ()
    some = [shadow(m, FLAT, (h,)) for h in heights_between(*span)[::2]]
    through = shapely.intersection_all([p.convex_hull for p in some] if m.shape.shape == "RHS" else some)
    return (through, tuple(ways)) if through.area > LEAST_STEEL * body.area else (body, ())


def stood_on(carriers: Sequence[Carrier], points: Array, given: Given) -> list[Carrier]:
    """Those of the carriers that the plate stands on: members as chosen, and a plate across a column's end if it comes near it."""
    how = given.value("stands")
    columns = [c for c in carriers if c.upright]
    out = []
    for c in carriers:
        if c.member:
            chosen = how == ALL or c.upright == (how == UPRIGHT)
        else:
            across = any(abs(float(c.run @ u.run)) < 1e-3 for u in columns)
            low = float(points[:, 1].min()) - float(np.asarray(c.body.bounds)[3])
            wide = c.body.bounds[2] - c.body.bounds[0] > 3 * (c.body.bounds[3] - c.body.bounds[1])
            chosen = across and wide and how != UPRIGHT and low <= (NEAR_FOOT if how == ALL else REACH) and float(points[:, 1].mean()) > c.middle[1]
        if chosen:
            out.append(c)
    if not out:
        raise NoFit(f"there is no {how} for the plate to stand on", right=ALL)
    return out


def clear_round(outline: Polygon, others: Sequence[Carrier], holds: Array, given: Given) -> Polygon:
    """The plate cut clear of what stands in its plane and does not carry it; said in the setting that gives the room."""
    room = float(given.value("beside"))
    for c in others:
        if not c.body.is_empty and outline.distance(c.body) < room - 1e-6:
            outline = piece_at(outline.difference(c.body.buffer(room, join_style="mitre")), holds)
            given.fitted("beside", room, f"cut round the {c.words}")
    return outline


def on_plate(e: Edge, outline: Polygon, leg: float) -> Edge:
    """An edge as far as a fillet's leg stays on the plate: at a sharp corner the plate draws back from it; raises NoFit where none of it does."""
    met = shapely.LineString([e.start + e.into * leg, e.end + e.into * leg]).intersection(outline.buffer(0.01))
    run = max(getattr(met, "geoms", [met]), key=lambda g: g.length)
    if run.length < 3.0:
        reach = float(((shapely.get_coordinates(outline) - e.start) @ e.into).max())
        raise NoFit(f"a fillet with a leg of {leg:g} mm has no room on the plate, which goes {reach:.0f} mm out from the {e.length:.0f} mm that it stands on", right="a smaller leg, or a wider plate")
    if run.length > e.length - 0.1:
        return e
    a, b = (np.array(p) - e.into * leg for p in (run.coords[0], run.coords[-1]))
    return Edge(e.body, a, b, e.into)


def _further(e: Edge, n: Array, span: tuple[float, float]) -> float:
    """At which of the plate's two faces (y, mm) the face an edge stands on (it looks along ``n``) is the further from the plate."""
    return span[1] if float(n[1]) * float(n @ np.array(in_space(e.into))) > 0 else span[0]


def bevels(edges: Sequence[Edge], faces: "Sequence[Array | None]", frame: Frame, span: tuple[float, float]) -> tuple[EndCut, ...]:
    """The planes along which a plate's edges are bevelled, in its frame; ``faces`` say how what each stands on looks, none where it is square,
    ``span`` at which y the plate's faces lie."""
    return tuple(EndCut(0, vec(frame.to_local([in_space(e.start, _further(e, n, span))])[0]), vec(frame.unturn(n))) for e, n in zip(edges, faces, strict=True) if n is not None)


def foot_welds(e: Edge, i: int, count: int, words: str, span: tuple[float, float], leg: float, face: Array | None) -> list[Weld]:
    """Fillets on both faces of the plate (at y ``span``) along an edge; along a bevelled one each where what it stands on meets that face."""
    name = f"gusset to {words}" + (f" {i}" if count > 1 else "")
    low, high = span
    if face is None:
        middle = (low + high) / 2
        return both_sides(name, leg, (in_space(e.start, middle), in_space(e.end, middle)), (0.0, 1.0, 0.0), high - low, in_space(e.into), (words, "gusset"))
    into = np.array(in_space(e.into))
    on = np.array([-float(face[1]) * into[0], float(into @ face), -float(face[1]) * into[2]])  # along that face, square to the edge, towards +y
    out = []
    for side, y in ((-1.0, low), (1.0, high)):
        step = e.into * ((_further(e, face, span) - y) * float(face[1]) / float(face @ into))
        out.append(fillet(f"{name}, {'near' if side < 0 else 'far'} side", leg, in_space(e.start + step, y), in_space(e.end + step, y), side * on, into, (words, "gusset")))
    return out
