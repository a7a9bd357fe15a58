"""Tube mitre: two hollow sections cut along one plane where they meet, welded to each other or to a plate between them.

Joint frame: as the joint's; everything is laid out round the point where the two middle lines meet.
"""

import math
from dataclasses import dataclass

import numpy as np
from msgspec.structs import replace

from tincleat.details.assembled import role_words
from tincleat.details.parts import Angle, Detail, Dimension, Plate, SheetView, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import STEEL_GRADES, Family, Given, Setting
from tincleat.families.example import a_member, at_end
from tincleat.geometry.frames import Array, Frame, Vec3, crossed, unit, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case, CaseMember
from tincleat.kit.foot import legs_round
from tincleat.kit.layout import up
from tincleat.kit.packs import stocked
from tincleat.kit.tubes import FILLET
from tincleat.kit.weld import fillet, round_runs
from tincleat.project.entities import HouseRules
from tincleat.standards.rulesets import rules_of
from tincleat.steel.cuts import EndCut

KINDS = ("corner", "apex", "knee", "beam to hollow face")
SHARPEST, STRAIGHT = math.radians(40), math.radians(175)
BARE = 4.0  # mm that a groove with square edges goes through without backing (ISO 9692-1 table 1, 1.2)
MEET = 1.0  # mm that the two middle lines may pass each other
PLATE, STRAIGHT_ON = "on a plate", "to each other"

SETTINGS = (
    Setting("joined", "Tubes welded", "choice", "Mitre", None, "To a plate between them, or straight to each other; on a plate where their walls are too thick for a groove with square edges or their sizes differ, if not typed.", choices=(PLATE, STRAIGHT_ON)),
    Setting("thickness", "Plate thickness", "length", "Plate", None, "At least 1.5 walls, 10 mm and on stock if not typed.", 4, 100),
    Setting("past", "Plate past the tubes", "length", "Plate", None, "On all sides of both tubes; room for the weld if not typed.", 3, 200),
    Setting("grade", "Plate grade", "choice", "Plate", lambda h: h.plate_grade, "Steel grade of the plate.", choices=STEEL_GRADES),
    Setting("weld_leg", "Weld leg", "length", "Weld", None, "Fillet round each tube on the plate; where their faces meet too sharply or too bluntly it is a groove of the wall.", 2, 30),
    Setting("root", "Root opening", "length", "Weld", None, "Between the cut ends of tubes welded to each other; the thinner wall if not typed.  Grooves deeper than 4 mm are made on a backing strip inside, cut to suit.", 1, 10),
    Setting("site_weld", "Welded on site", "flag", "Weld", False, "Whether the welds are made on site."),
)  # fmt: skip


@dataclass(frozen=True)
class _Mitre:
    """Where two tubes meet: the point, their directions away from it, the plane's normal towards the first, the way along the plane from
    its inner corner out, the way square to both tubes; the two corners in their plane, and half the extent square to it."""

    point: Array
    ways: tuple[Array, Array]
    normal: Array
    out: Array
    across: Array
    inner: Array
    outer: Array
    half: float


def _ends(case: Case) -> tuple[CaseMember, CaseMember]:
    assert case.support is not None
    return case.supported, case.support


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless two hollow sections end at one point at an angle."""
    if case.kind not in KINDS or case.support is None:
        raise NoFit(f"a mitre joins two tubes that end at one point; this is a {case.kind}", right="the ends of two hollow sections")
    if len(case.members) > 2:
        raise NoFit(f"{len(case.members)} members meet here", right="two tubes")
    for m in _ends(case):
        if m.shape.shape not in ("CHS", "RHS"):
            raise NoFit(f"{m.shape.name} is a {m.shape.shape} section; a mitre closes hollow ones", right="hollow sections")
    _mitre(case)


def _mitre(case: Case) -> _Mitre:
    first, second = _ends(case)
    d = (np.array(first.away), np.array(second.away))
    between = math.acos(max(-1.0, min(1.0, float(d[0] @ d[1]))))
    if between > STRAIGHT:
        raise NoFit(f"the tubes run on within {180 - math.degrees(between):.0f}° of a line", right="at least 5° between them; tubes in one line have a splice")
    if between < SHARPEST:
        raise NoFit(f"the tubes meet at {math.degrees(between):.0f}°", right=f"at least {math.degrees(SHARPEST):.0f}°")
    across = unit(crossed(d[0], d[1]))
    apart = float((second.frame.o - first.frame.o) @ across)
    if abs(apart) > MEET:
        raise NoFit(f"the middle lines pass each other {abs(apart):.0f} mm apart", right="tubes whose middle lines meet")
    point = _meeting(first.frame.o, d[0], second.frame.o, d[1])
    for m, way in zip((first, second), d, strict=True):
        ends = [m.frame.o + np.array(m.frame.x) * x for x in (m.low, m.high)]
        past = min(abs(float((e - point) @ way)) for e in ends)
        if past > max(m.shape.h, m.shape.b) * 1.5:
            raise NoFit(f"{m.shape.name} goes on {past:.0f} mm past the point where the tubes meet", right="two tubes that end there; a branch on the side of another has a welded tube joint")
    outward = [unit(float(a @ b) * a - b) for a, b in (d, d[::-1])]  # square to each tube, away from the other
    halves = [_half(m, across) for m in (first, second)]
    corners = [_meeting(point + s * outward[0] * halves[0][0], d[0], point + s * outward[1] * halves[1][0], d[1]) for s in (-1.0, 1.0)]
    out = unit(corners[1] - corners[0])
    normal = crossed(out, across)
    normal = normal if float(normal @ d[0]) > 0 else -normal
    if float(normal @ d[0]) < 0.1 or float(normal @ d[1]) > -0.1:
        raise NoFit(f"{first.shape.name} and {second.shape.name} differ too much in depth for one plane to cut both", right="tubes of like depth")
    return _Mitre(point, d, normal, out, across, corners[0], corners[1], max(h for _, h in halves))


def _meeting(p: Array, d: Array, q: Array, e: Array) -> Array:
    """The point of a line (point, unit direction) nearest to another."""
    w, c = q - p, float(d @ e)
    return p + d * ((float(w @ d) - c * float(w @ e)) / (1 - c * c))


def _half(m: CaseMember, across: Array) -> tuple[float, float]:
    """Half of a tube's size in the plane of the two, and square to it."""
    if m.shape.shape == "CHS":
        return m.shape.h / 2, m.shape.h / 2
    y, z = (abs(float(across @ np.array(v))) for v in (m.frame.y, m.frame.z))
    if max(y, z) < 0.9998:
        raise NoFit(f"the walls of {m.shape.name} stand {math.degrees(math.acos(max(y, z))):.0f}° turned to the plane of the two tubes", right="two of its walls in that plane")
    return (m.shape.h / 2, m.shape.b / 2) if y > z else (m.shape.b / 2, m.shape.h / 2)


def build(case: Case, given: Given) -> Detail:
    """Both tubes cut along the plane, the plate between them, welds all round."""
    inch, (first, second), at = given.house.inch, _ends(case), _mitre(case)
    wall = min(first.shape.tw, second.shape.tw)
    most = rules_of(given.house).square_groove
    through = wall / min(float(at.ways[0] @ at.normal), -float(at.ways[1] @ at.normal))  # a mitre is longer than the wall is thick
    like = first.shape.shape == second.shape.shape and abs(first.shape.h - second.shape.h) + abs(first.shape.b - second.shape.b) < 0.1
    joined = str(given.worked_out("joined", STRAIGHT_ON if like and through <= most.value else PLATE))
    straight = joined == STRAIGHT_ON
    sharp = math.degrees(math.asin(min(1.0, min(float(at.ways[0] @ at.normal), -float(at.ways[1] @ at.normal)))))
    if not straight and sharp < rules_of(given.house).groove_least.value - 0.01:
        raise NoFit(f"a tube stands at {sharp:.0f}° to the plate; the groove under it opens no further", right=f"at least {rules_of(given.house).groove_least.value:.0f}°: tubes of like depth, a wider angle, or one welded to the other's wall")
    if straight and not like:
        raise NoFit(f"{first.shape.name} and {second.shape.name} do not meet edge to edge", right=f"tubes of one size, or welded {PLATE}")
    site = bool(given.value("site_weld"))
    welds: list[Weld] = []
    plates: tuple[Plate, ...] = ()
    if straight:
        gap = float(given.worked_out("root", up(wall, 1.5875 if inch else 0.5)))
        thinner = first if first.shape.tw <= second.shape.tw else second
        welds = _seam(at, thinner, 0 if thinner is first else 1, gap, (role_words(first.role), role_words(second.role)), site)
    else:
        gap = float(given.worked_out("thickness", stocked(max(1.5 * max(first.shape.tw, second.shape.tw), 9.525 if inch else 10.0), given.house)))
        leg = given.rounded("weld_leg", legs_round(min((first.shape, second.shape), key=lambda s: s.tw), gap, inch)[0], "weld leg")
        past = float(given.worked_out("past", up(1.3 * leg + (3.175 if inch else 4.0), 3.175 if inch else 5.0)))
        if past < leg:
            raise NoFit(f"the plate stands {past:.0f} mm past the tubes, their fillets take {leg:g} mm", right=f"at least {leg:g} mm")
        plates = (_plate(at, gap, past, str(given.value("grade")), 0.0 if given.has("past") else 1.5875 if inch else 2.5),)
        for m, side in ((first, 1.0), (second, -1.0)):
            welds += _round(m, at.point + at.normal * side * gap / 2, at.normal * side, leg, site)
    ends = tuple(EndCut(i, vec(at.point + at.normal * s * gap / 2), vec(at.normal * s)) for i, s in ((0, 1.0), (1, -1.0)))
    return Detail(
        "tube mitre", plates, (), tuple(welds), ends=ends, numbers=tuple(given.numbers.values()), dimensions=_dimensions(at, plates, gap), views=_views(at),
        angles=(Angle("front", vec(at.point), vec(at.point + 100 * at.ways[0]), vec(at.point + 100 * at.ways[1])),),
    )  # fmt: skip


def _lean(at: _Mitre, t: float) -> float:
    """How much further along the cut the tubes' corners lie on the plate's faces than in its middle."""
    return max(abs(float(w @ at.out)) / abs(float(w @ at.normal)) for w in at.ways) * t / 2


def _plate(at: _Mitre, t: float, past: float, grade: str, step: float) -> Plate:
    middle, long = (at.inner + at.outer) / 2, float(np.linalg.norm(at.outer - at.inner))
    lean = _lean(at, t)
    half, wide = (up(v + past, step) if step else v + past for v in (long / 2 + lean, at.half))
    frame = Frame.of(middle - at.normal * t / 2, at.out, at.normal)
    return Plate("mitre plate", Outline.rectangle(-half, -wide, half, wide), t, frame, grade, (), ("", ""))


def _on(m: CaseMember, point: Array, normal: Array) -> "list[tuple[Array, Array, Array]]":
    """A tube's runs where they meet a plane: both ends, and the way out of the tube."""
    f, way = m.frame, np.array(m.away)
    out = []
    for a, c, o in round_runs(m.shape):
        p, q = (f.to_world([(0.0, b, h)])[0] for h, b in (a, c))
        p, q = (x + way * float((point - x) @ normal) / float(way @ normal) for x in (p, q))
        out.append((p, q, unit(f.turn((0.0, o[1], o[0])))))
    return out


def _round(m: CaseMember, point: Array, normal: Array, leg: float, site: bool) -> list[Weld]:
    """Fillets round a tube that stands slanting on a plate, grooves of its wall where the faces meet too sharply or bluntly for one."""
    name, way = role_words(m.role), np.array(m.away)
    out = []
    for p, q, outward in _on(m, point, normal):
        one = fillet(f"{name} on the plate", leg, p, q, outward - normal * float(outward @ normal), way, ("mitre plate", name), site)
        if m.shape.shape == "RHS" and max(np.abs(m.frame.unturn(outward))) < 0.99:
            one = replace(one, v=vec(way))  # round a corner the leg goes straight up the tube: square to the run it would leave the arc
        turn = math.acos(max(-1.0, min(1.0, float(np.dot(one.u, one.v)))))
        if not FILLET[0] - 1e-6 <= turn <= FILLET[1] + 1e-6:
            where = "heel" if turn < FILLET[0] else "toe"
            one = Weld(f"{name} {where}", m.shape.tw, one.start, one.end, one.u, one.v, one.parts, site, "groove")
        out.append(one)
    return out


def _seam(at: _Mitre, m: CaseMember, number: int, gap: float, parts: tuple[str, str], site: bool) -> list[Weld]:
    """The weld between the square edges of two tubes, through the thinner wall, piece by piece round it."""
    side = 1.0 if number == 0 else -1.0
    normal = at.normal * side
    mine, theirs = (parts[0], parts[1]) if number == 0 else (parts[1], parts[0])
    out = []
    for p, q, outward in _on(m, at.point + normal * gap / 2, normal):
        run = unit(q - p)
        u = unit(crossed(run, normal))
        u = u if float(u @ outward) > 0 else -u
        deep = m.shape.tw / float(u @ outward)
        start, end = (p, q) if float(crossed(run, u) @ normal) < 0 else (q, p)
        out.append(Weld("seam" if deep <= BARE else "seam, on backing", deep, vec(start - u * deep), vec(end - u * deep), vec(u), vec(u), (mine, theirs), site, "groove", gap))
    return out


def _views(at: _Mitre) -> tuple[SheetView, ...]:
    """The plane of the two tubes, and their mitre from the first one's side."""
    ways = [at.across if at.across[2] > 0.7 or (abs(at.across[2]) <= 0.7 and at.across[1] < 0) else -at.across, at.normal]
    x = np.array((1.0, 0.0, 0.0))
    level = unit(x - ways[0] * float(x @ ways[0]))
    plan = abs(ways[0][2]) > 0.7
    return (
        SheetView("front", "Plan" if plan else "Front", Frame(vec(at.point), vec(level), vec(ways[0]))),
        SheetView("mitre", "Square to the cut", Frame.of(at.point, crossed(at.out, ways[1]), ways[1])),
        SheetView("edge", "Along the cut", Frame.of(at.point, at.normal, -at.out)),
    )


def _dimensions(at: _Mitre, plates: tuple[Plate, ...], gap: float) -> tuple[Dimension, ...]:
    def p(x: Array) -> Vec3:
        return vec(x)

    out = []
    for plate in plates:
        x0, y0, x1, y1 = plate.outline.bounds
        lean = _lean(at, plate.thickness)
        corners = plate.frame.to_world([(x0, y0, 0.0), (x1, y0, 0.0), (x1, y1, 0.0), (x1, y0, plate.thickness)])
        inner, outer = (plate.frame.to_world([(float((c - plate.frame.o) @ at.out), y0, 0.0)])[0] for c in (at.inner - at.out * lean, at.outer + at.out * lean))
        out.append(Dimension("mitre", "left", 0, (p(corners[0]), p(inner), p(outer), p(corners[1])), ("past", "", "past")))
        out.append(Dimension("mitre", "left", 1, (p(corners[0]), p(corners[1])), ("",)))
        out.append(Dimension("mitre", "bottom", 0, (p(corners[1]), p(corners[2])), ("",)))
        out.append(Dimension("edge", "bottom", 0, (p(corners[1]), p(corners[3])), ("thickness",)))
    if not plates:
        a, b = (at.outer + at.normal * s * gap / 2 for s in (1.0, -1.0))
        out.append(Dimension("edge", "bottom", 0, (p(a), p(b)), ("root",)))
    return tuple(out)


FAMILY = Family(
    "tube-mitre", "Tube mitre", ("elbow", "rail elbow", "mitred knee", "tube knee", "tube corner", "handrail corner"), KINDS, SETTINGS, fits, build,
    {
        "fillet-throat": ("weld_leg",), "fillet-leg-least": ("weld_leg",), "fillet-leg-greatest": ("weld_leg",), "fillet-length": ("weld_leg",), "plate-stock": ("thickness",),
        "groove-square": ("joined",), "weld-gap": ("root",),
    },
    situations=("tubes",), example=at_end(a_member("CHS 48.3x3.2", (-3000.0, 0.0, 1000.0), (0.0, 0.0, 1000.0)), a_member("CHS 48.3x3.2", (0.0, 0.0, 1000.0), (0.0, 2500.0, 1000.0)), end="start"),
)  # fmt: skip
