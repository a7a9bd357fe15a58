"""Fly braces: angles from a rafter's inner flange up to the purlin, which keep that flange from going sideways; part of a purlin cleat.

They lie in the plane of the purlin's web, on the side of the cleat; a lug stands on the rafter's inner flange and web for each.
"""

import math
from dataclasses import dataclass, field

import numpy as np

from tincleat.catalogue.fasteners import bolt_size
from tincleat.catalogue.sections import section
from tincleat.details.parts import Bolts, Dimension, Hole, Piece, Plate, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import BOLT_SIZES, Given, Setting
from tincleat.geometry.frames import Frame, Vec3, crossed, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import CaseMember
from tincleat.kit.angle import METRIC, angle, known
from tincleat.kit.layout import up
from tincleat.kit.weld import both_sides
from tincleat.standards.rulesets import rules_of
from tincleat.steel.cuts import MemberHole

NONE, ONE, OTHER, BOTH = "none", "left", "right", "both sides"
SMALL = known(("L 45x45x5", "L 50x50x5", "L 60x60x6", "L 65x65x7")) + METRIC + known(("L2X2X1/4", "L2-1/2X2-1/2X1/4", "L3X3X1/4"))
FARTHEST = 560.0  # mm from the rafter that a purlin's steel is known
STEEPEST = math.radians(65)

FLY = (
    Setting("fly", "Fly braces", "choice", "Fly brace", NONE, "Angles from the rafter's inner flange to the purlin, on one side of the rafter or both.", choices=(ONE, OTHER, BOTH, NONE), handed=False),
    Setting("fly_size", "Fly brace angle", "choice", "Fly brace", lambda h: "L2X2X1/4" if h.inch else "L 50x50x5", "Section of the fly braces.", choices=SMALL),
    Setting("fly_bolt", "Fly brace bolt", "choice", "Fly brace", lambda h: "1/2in" if h.inch else "M12", "Size of the one bolt at each end.", choices=BOLT_SIZES),
    Setting("fly_out", "Fly bolt out", "length", "Fly brace", None, "From the rafter's middle to the bolt in the purlin; at 45 degrees if not typed.", 80, FARTHEST),
    Setting("lug_thickness", "Lug thickness", "length", "Fly brace", 8.0, "Of the plate on the rafter's inner flange.", 4, 30, inches=6.35),
    Setting("lug_weld", "Lug weld leg", "length", "Fly brace", None, "Fillets on both faces of the lug, to flange and web.", 3, 15),
)  # fmt: skip


@dataclass
class Flies:
    """What fly braces add to a cleat."""

    plates: list[Plate] = field(default_factory=list)
    pieces: list[Piece] = field(default_factory=list)
    bolts: list[Bolts] = field(default_factory=list)
    welds: list[Weld] = field(default_factory=list)
    holes: list[MemberHole] = field(default_factory=list)
    dimensions: list[Dimension] = field(default_factory=list)


def flies(given: Given, overs: "list[tuple[int, CaseMember]]", under: CaseMember, web_y: float, face: float, side: float, row: float, grade: str, blocked: float) -> Flies:
    """Fly braces against the purlin's web face at y = ``face``, outward to ``side``, their upper bolts ``row`` over the flange; nothing
    may lie on the purlin within ``blocked`` mm of the rafter's middle.  Raises NoFit with figures."""
    out = Flies()
    wanted = str(given.value("fly"))
    if wanted == NONE:
        return out
    house, shape = given.house, under.shape
    if shape.shape != "I":
        raise NoFit(f"{shape.name} is a {shape.shape} section; a fly brace's lug stands on an inner flange and web", right="an I-section rafter")
    if wanted != BOTH and overs[0][1].shape.shape == "Z":
        raise NoFit(f"{overs[0][1].shape.name} is alike from both ends, so that one side of the rafter cannot be told from the other", right=f"{BOTH}, or {NONE}")
    turned = math.degrees(math.acos(min(1.0, abs(float(np.array(under.frame.x)[1])))))
    if turned > 3.0 or abs(under.frame.z[2]) < 0.99:
        raise NoFit(f"the rafter runs {turned:.0f}° off square to the purlin", right="at most 3° for fly braces")
    step = 3.175 if house.inch else 5.0
    size, bolt = section(str(given.value("fly_size"))), bolt_size(str(given.value("fly_bolt")), house.tighten_room)
    hole, _ = house.hole(bolt.name, "normal")
    least = rules_of(house).edge_least(bolt, Hole(0, 0, hole, hole), False).value
    edge = up(max(least, 1.5 * bolt.d), step)
    fine = 1.5875 if house.inch else 1.0
    gauge = up(size.tw + max(size.r1 + max(bolt.washer_d, 1.16 * bolt.head_af) / 2, bolt.clear), fine)
    if gauge + least > size.h:  # no room for a socket beside the other leg: a ring spanner, and a note of the proof
        gauge = up(size.tw + size.r1 + max(bolt.washer_d, 1.16 * bolt.head_af) / 2, fine)
    if gauge + least > size.h + 0.01:
        raise NoFit(f"a leg {size.h:.0f} mm wide does not hold {bolt.name} {gauge:.0f} mm from its heel", right="a wider angle, or a smaller bolt")
    t = float(given.value("lug_thickness"))
    leg = given.rounded("lug_weld", min(0.7 * t, 6.0), "weld leg")
    inner = -shape.h + shape.tf
    reach = math.hypot(edge, max(gauge, size.h - gauge))  # from a bolt to the corners of the angle's end
    low = inner + up(reach + 8.0, step)
    near = up(shape.tw / 2 + reach + 8.0, step)
    if low + reach > -shape.tf - 30.0:
        raise NoFit(f"{shape.name} is {shape.h:.0f} mm deep: its purlin cleat holds the inner flange already", right="no fly brace")
    # at 45 degrees, or as steep as what is known of the purlin asks for
    far = float(given.worked_out("fly_out", min(up(max(near + row - low, blocked + reach + 2.0), step), FARTHEST)))
    slope = math.atan2(row - low, far - near) if far > near else math.pi / 2
    if slope > STEEPEST:
        raise NoFit(f"a fly brace would rise at {math.degrees(slope):.0f}°", right=f"at most {math.degrees(STEEPEST):.0f}°: its bolt further out, {near + (row - low) / math.tan(STEEPEST):.0f} mm at least")
    if far - reach < blocked + 2.0:
        raise NoFit(f"a fly brace {far:.0f} mm out meets what lies on the purlin's web to {blocked:.0f} mm", right="its bolt further out, or a shorter sleeve")
    way = np.array(under.frame.x)
    middle = under.frame.origin[0] + (face - under.frame.origin[1]) * float(way[0] / way[1])  # where its web passes the purlin's
    sides = {ONE: (-1.0,), OTHER: (1.0,), BOTH: (-1.0, 1.0)}[wanted]
    for s in sides:
        number = next((i for i, m in overs if m.low <= s * far * m.frame.x[0] <= m.high), None)
        if number is None:
            raise NoFit(f"the purlin does not reach {far:.0f} mm to that side of the rafter", right="a fly brace on the other side")
        name = f"fly brace {'left' if s < 0 else 'right'}"
        foot, head = np.array((middle + s * near, face, low)), np.array((s * far, face, row))
        run = (head - foot) / np.linalg.norm(head - foot)
        across = crossed(run, (0.0, 1.0, 0.0))
        across = across if across[2] < 0 else -across  # the heel lies above, the leg hangs down from it: water runs off
        length = float(np.linalg.norm(head - foot)) + 2 * edge
        heel = foot - run * edge - across * gauge
        centre = np.array((0.0, side * size.tw / 2, 0.0))
        out.pieces.append(angle(
            name, size.name, grade, heel, run, across, (0.0, side, 0.0), length, True,
            [(p + centre, (0.0, 1.0, 0.0), hole, hole, vec(run)) for p in (foot, head)],
        ))  # fmt: skip
        _lug(out, given, under, s, middle, face, side, (near, low), (hole, edge), t, leg, grade, name)
        for where, p in (("lug", foot), ("purlin", head)):
            out.bolts.append(Bolts(f"{name}, {where}", bolt.name, str(given.value("bolt_grade")), (vec(p),), vec((0.0, -side, 0.0)), vec(run)))
        out.holes.append(MemberHole(number, "web", (float(head[0]), web_y, row), (0.0, 1.0, 0.0), hole, hole, (1.0, 0.0, 0.0)))
        out.dimensions.append(Dimension("front", "bottom", 2, ((middle, face, inner), vec(head)) if s > 0 else (vec(head), (middle, face, inner)), ("fly_out",)))
    return out


def _lug(
    out: Flies, given: Given, under: CaseMember, s: float, middle: float, face: float, side: float, at: tuple[float, float], holes: tuple[float, float], t: float, leg: float, grade: str, name: str
) -> None:
    """A plate on the rafter's inner flange and web with one bolt; it lies behind the angle, its face in the plane of the purlin's web."""
    shape = under.shape
    near, low = at
    hole, edge = holes
    step = 3.175 if given.house.inch else 5.0
    web, inner = shape.tw / 2, -shape.h + shape.tf
    snipe = up(shape.r1 + 3.0, step)
    wide, high = up(near + edge, step), up(low + edge - inner, step) + inner
    ring: list[tuple[float, float]] = [(web + snipe, inner), (wide, inner), (wide, high), (web, high), (web, inner + snipe)]
    # the plate's frame looks along the side the angle lies on
    frame = Frame.of(np.array((middle, face - side * t, 0.0)), np.array((1.0, 0.0, 0.0)), np.array((0.0, side, 0.0)))
    up_ = frame.y[2]
    points = [(s * x, z * up_) for x, z in ring]
    if s * up_ < 0:
        points = points[::-1]
    lug = f"lug of {name}"
    out.plates.append(Plate(lug, Outline(tuple((float(x), float(z), 0.0) for x, z in points)), t, frame, grade, (Hole(s * near, low * up_, hole, hole),), ("", "")))
    y = face - side * t / 2

    def seam(words: str, a: Vec3, b: Vec3, away: Vec3) -> None:
        out.welds.extend(both_sides(f"{lug} to {words}", leg, (a, b), (0.0, 1.0, 0.0), t, away, ("under", lug)))

    edge_x = min(wide, shape.b / 2)
    seam("flange", (middle + s * (web + snipe), y, inner), (middle + s * edge_x, y, inner), (0.0, 0.0, 1.0))
    seam("web", (middle + s * web, y, inner + snipe), (middle + s * web, y, high), (s, 0.0, 0.0))
