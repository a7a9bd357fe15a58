"""Sleeve splice: two hollow sections end to end over a sleeve inside both, each welded to it along its end.

In square and rectangular tubes the sleeve is four flats on the walls, in round ones a tube that goes in.
Joint frame: origin where the members' ends meet, x along the first member.
"""

import math
from collections.abc import Iterator

import numpy as np

from tincleat.catalogue.sections import Section, catalogue, section
from tincleat.details.assembled import role_words
from tincleat.details.parts import Detail, Dimension, Piece, Plate, SheetView, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import STEEL_GRADES, Family, Given, Setting
from tincleat.families.example import a_member, at_end
from tincleat.families.in_line import STRAIGHT, tubes_in_line
from tincleat.geometry.frames import Array, Frame, crossed, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case, CaseMember
from tincleat.kit.layout import down, up
from tincleat.kit.packs import stocked
from tincleat.kit.weld import fillet, round_runs
from tincleat.project.entities import HouseRules
from tincleat.standards.rulesets import rules_of
from tincleat.steel.cuts import EndCut

LEAST_PLAY = 0.2  # mm a side by which a round sleeve must be smaller than the hole it goes in
BESIDE = 2.0  # mm between the flats in a corner
ROUND = tuple(x.name for x in sorted((x for x in catalogue().values() if x.shape == "CHS"), key=lambda x: (x.name.startswith("HSS"), x.h, x.tw)))

SETTINGS = (
    Setting("reach", "Into each tube", "length", "Sleeve", None, "How far the sleeve goes into each tube; its depth, rounded up, if not typed.", 20, 2000),
    Setting("thickness", "Flat thickness", "length", "Sleeve", None, "Thickness of the flats inside square and rectangular tubes; the wall on plate stock if not typed.", 3, 60),
    Setting("size", "Round sleeve", "choice", "Sleeve", None, "Tube inside round tubes; the thickest listed one that goes in with little play if not typed.", choices=ROUND),
    Setting("grade", "Grade", "choice", "Sleeve", lambda h: h.plate_grade, "Steel grade of the sleeve.", choices=STEEL_GRADES),
    Setting("gap", "Gap", "length", "Ends", None, "Between the tubes' ends; room for both fillets if not typed.", 0, 200),
    Setting("weld_leg", "Weld leg", "length", "Welds", None, "Fillets along the tubes' ends on the sleeve.", 2, 30),
    Setting("site_weld", "Second tube welded on site", "flag", "Welds", True, "Whether the second member's fillets are made on site; the first one's are made in the shop."),
)  # fmt: skip


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless two tubes of one hollow size meet end to end on one line."""
    if case.kind not in FAMILY.kinds or len(case.members) < 2:
        raise NoFit(f"a sleeve joins two tubes end to end; this is a {case.kind}", right="a splice of two hollow sections")
    a, b = tubes_in_line(case, "a sleeve goes into hollow sections", STRAIGHT)
    off = max(abs(p - q) for p, q in zip(_hollow(a.shape), _hollow(b.shape), strict=True))
    if off > 2 * house.weld_gap:
        raise NoFit(f"{a.shape.name} is {_words(a.shape)} inside, {b.shape.name} {_words(b.shape)}: one sleeve does not lie on both", right=f"tubes alike inside to {2 * house.weld_gap:g} mm, or flange plates")


def _hollow(s: Section) -> tuple[float, float]:
    return s.h - 2 * s.tw, s.b - 2 * s.tw


def _words(s: Section) -> str:
    return f"{s.h - 2 * s.tw:.1f}" if s.shape == "CHS" else f"{s.h - 2 * s.tw:.1f} x {s.b - 2 * s.tw:.1f}"


def build(case: Case, given: Given) -> Detail:
    """The sleeve, a fillet along each tube's end on it, the ends cut back."""
    house = given.house
    a, b = case.members[:2]
    inner = min((a.shape, b.shape), key=_hollow)
    at = Frame.of(a.frame.o, a.away, a.frame.z)
    step = 6.35 if house.inch else 5.0
    reach = float(given.worked_out("reach", up(a.shape.h, step)))
    flats = [] if inner.shape == "CHS" else list(_flats(inner, float(given.worked_out("thickness", stocked(max(inner.tw, 4.0), house)))))
    round_ = _round(inner, given) if inner.shape == "CHS" else None
    play = max((m.shape.h - 2 * m.shape.tw - round_.h) / 2 for m in (a, b)) if round_ else 0.0
    rules = rules_of(house)
    wall = min(a.shape.tw, b.shape.tw)
    measure, least = rules.fillet_least(wall)
    smallest = least.value * (math.sqrt(2) if measure == "throat" else 1.0)
    leg = given.rounded("weld_leg", max(smallest, min(0.7 * wall, 12.0)) + play, "weld leg")
    if leg - play > wall + 0.01:
        raise NoFit(f"a fillet of {leg - play:.1f} mm does not lie on the end of a wall {wall:g} mm thick", right=f"walls of at least {smallest:.1f} mm, or flange plates")
    gap = float(given.worked_out("gap", up(2 * leg + step, step)))
    if gap < 2 * leg - 1e-6:
        raise NoFit(f"a gap of {gap:.1f} mm does not hold two fillets of {leg:g} mm", right=f"at least {2 * leg:g} mm")
    plates: list[Plate] = []
    pieces: list[Piece] = []
    welds: list[Weld] = []
    half, grade = gap / 2 + reach, str(given.value("grade"))
    beside = [[at.spot(vec(np.array(m.frame.origin) + np.array(m.away) * x)) for x in (gap / 2, half)] for m in (a, b)]  # where each one's middle runs over the sleeve
    for name, _, along, out, wide, t in flats:
        # on the wall that comes further in, where the tubes lie a little aside or are not quite alike
        middle = np.array(out) * min(float(np.dot(off, out)) + _hollow(m.shape)[0 if abs(out[2]) > 0.5 else 1] / 2 for m, some in zip((a, b), beside, strict=True) for off in some)
        # x along the members, z out towards the wall
        across = crossed(out, (1.0, 0.0, 0.0))
        frame = at.at(Frame(vec(middle - np.array(out) * t - across * wide / 2 - np.array((half, 0.0, 0.0))), (1.0, 0.0, 0.0), out))
        plates.append(Plate(name, Outline.rectangle(0.0, 0.0, 2 * half, wide), t, frame, grade, (), ("", "")))
        for m, s in ((a, 1.0), (b, -1.0)):
            p, q = (middle + np.array(along) * w * wide / 2 + np.array((s * gap / 2, 0.0, 0.0)) for w in (-1.0, 1.0))
            welds.append(_along(at, f"{name} to {role_words(m.role)}", leg, p, q, s, np.array(out), (name, role_words(m.role)), s < 0 and bool(given.value("site_weld"))))
    if round_ is not None:
        _, y, z = beside[1][0]
        if math.hypot(y, z) / 2 > play + 1e-6:
            raise NoFit(f"the tubes' middles lie {math.hypot(y, z):.1f} mm apart across; a sleeve with {play:.1f} mm of play a side does not go into both", right="tubes on one line, or a smaller sleeve")
        at = at.moved(y=y / 2, z=z / 2)  # half way between both
        pieces.append(Piece("sleeve", round_.name, grade, at.moved(x=-half), 2 * half))
        for m, s in ((a, 1.0), (b, -1.0)):
            for (p0, p1), (q0, q1), (o0, o1) in round_runs(round_):
                p, q, outward = np.array((s * gap / 2, p1, p0)), np.array((s * gap / 2, q1, q0)), np.array((0.0, o1, o0))
                welds.append(_along(at, f"sleeve to {role_words(m.role)}", leg, p, q, s, outward, ("sleeve", role_words(m.role)), s < 0 and bool(given.value("site_weld"))))
    ends = tuple(EndCut(i, at.point((s * gap / 2, 0.0, 0.0)), vec(at.turn((s, 0.0, 0.0)))) for i, s in ((0, 1.0), (1, -1.0)))
    return Detail("sleeve", tuple(plates), (), tuple(welds), pieces=tuple(pieces), ends=ends, dimensions=_dimensions(at, a, gap, half, round_.h / 2 if round_ else flats[0][1][2]), numbers=tuple(given.numbers.values()), views=_views(at))


FlatIn = tuple[str, tuple[float, float, float], tuple[float, float, float], tuple[float, float, float], float, float]


def _flats(s: Section, t: float) -> Iterator[FlatIn]:
    """The flats on a tube's inner walls in the splice's frame: name, middle of the outer face at the splice, the way along their width,
    the way out, width, thickness."""
    corner = max(t, s.r1 - s.tw) + BESIDE
    for name, out, along, off, wide in (
        ("top flat", (0.0, 0.0, 1.0), (0.0, 1.0, 0.0), s.h / 2 - s.tw, s.b), ("bottom flat", (0.0, 0.0, -1.0), (0.0, 1.0, 0.0), s.h / 2 - s.tw, s.b),
        ("near flat", (0.0, -1.0, 0.0), (0.0, 0.0, 1.0), s.b / 2 - s.tw, s.h), ("far flat", (0.0, 1.0, 0.0), (0.0, 0.0, 1.0), s.b / 2 - s.tw, s.h),
    ):  # fmt: skip
        width = down(wide - 2 * s.tw - 2 * corner, 1.0)
        if width < 15.0:
            raise NoFit(f"{s.name} leaves {max(width, 0.0):.0f} mm for a flat {t:g} mm thick on its wall, {wide - 2 * s.tw:.0f} mm inside", right="thinner flats, or flange plates")
        yield name, (0.0, off * out[1], off * out[2]), along, out, width, t


def _round(s: Section, given: Given) -> Section:
    """The tube typed or the thickest listed one that goes into a round tube with no more play than a fillet bridges."""
    inside, most = s.h - 2 * s.tw, given.house.weld_gap

    def goes(x: Section) -> bool:
        return x.shape == "CHS" and LEAST_PLAY <= (inside - x.h) / 2 <= most and x.tw <= s.tw + 4.0

    same = [x for x in catalogue().values() if goes(x) and x.name.startswith("HSS") == s.name.startswith("HSS")]
    best = max(same, key=lambda x: (x.h, x.tw, x.name), default=None)
    name = given.worked_out("size", best.name if best else "")
    if not name:
        near = sorted({x.h for x in catalogue().values() if x.shape == "CHS" and x.name.startswith("HSS") == s.name.startswith("HSS") and x.h < inside})[-1:]
        raise NoFit(f"no listed tube goes into {s.name} with {LEAST_PLAY:g} to {most:g} mm of play a side: it is {inside:.1f} mm inside" + (f", the next is {near[0]:.1f}" if near else ""), right="a sleeve typed, another wall, or flange plates")
    typed = section(str(name))
    if typed.shape != "CHS" or (inside - typed.h) / 2 < LEAST_PLAY - 1e-9:
        raise NoFit(f"{typed.name} does not go into {s.name}, {inside:.1f} mm inside", right=f"a round tube of at most {inside - 2 * LEAST_PLAY:.1f} mm")
    return typed


def _along(at: Frame, name: str, leg: float, p: Array, q: Array, s: float, out: Array, parts: tuple[str, str], site: bool) -> Weld:
    """A fillet in the corner of the sleeve's outer face and a tube's end, from ``p`` to ``q`` in the splice's frame."""
    a, b = at.to_world(np.array([p, q]))
    return fillet(name, leg, a, b, at.turn((-s, 0.0, 0.0)), at.turn(out), parts, site)


def _views(at: Frame) -> tuple[SheetView, ...]:
    upright = abs(at.x[2]) > 0.7
    x, y, z = (np.array(v) for v in (at.x, at.y, at.z))
    right, up_ = (z, x * math.copysign(1.0, x[2])) if upright else (x, z)
    return (
        SheetView("front", "Along", Frame.of(at.origin, right, crossed(right, up_)), near=0.0),
        SheetView("side", "Section", Frame.of(at.origin, y, x)),
    )


def _dimensions(at: Frame, m: CaseMember, gap: float, half: float, off: float) -> tuple[Dimension, ...]:
    spots = (-half, -gap / 2, gap / 2, half)
    upright = abs(at.x[2]) > 0.7
    points = tuple(vec(p) for p in at.to_world([(x, 0.0, off) for x in spots]))
    return (Dimension("front", "right" if upright else "bottom", 0, points, ("reach", "gap", "reach")),)


FAMILY = Family(
    "tube-sleeve", "Sleeve splice", ("internal sleeve", "tube splice", "spigot", "inner sleeve", "sleeved tube"), ("splice", "column splice"), SETTINGS, fits, build,
    {
        "fillet-throat": ("weld_leg",), "fillet-leg-least": ("weld_leg",), "fillet-leg-greatest": ("weld_leg",), "fillet-length": ("weld_leg", "thickness"), "plate-stock": ("thickness",),
        "weld-gap": ("size",), "clash": ("thickness", "reach"),
    },
    situations=("splices", "tubes"), example=at_end(a_member("SHS 100x100x5", (0.0, 0.0, 3000.0), (4000.0, 0.0, 3000.0)), a_member("SHS 100x100x5", (-4000.0, 0.0, 3000.0), (0.0, 0.0, 3000.0))),
)  # fmt: skip
