"""Welded tube joint: hollow sections welded straight on to another, one or several at a node, each cut to the true shape of what it meets.

Joint frame: as the joint's kind gives it, origin where the first branch's middle line meets what carries it.
"""

import math

import msgspec
import numpy as np

from tincleat.details.assembled import role_words
from tincleat.details.parts import Angle, Detail, Dimension, SheetView, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import Family, Given, Setting
from tincleat.families.example import a_brace, a_column, at_end
from tincleat.geometry.frames import Frame, vec
from tincleat.joints.case import Case, CaseMember
from tincleat.kit.tubes import Landing, Tube, along_landing, cut_back, land, matched, on_flat, side_grooves
from tincleat.project.entities import HouseRules
from tincleat.steel.cuts import EndCut, Notch

FLATTEST = math.radians(30)  # between a branch and its carrier: below it the heel cannot be welded (EN 1993-1-8 7.1.2)
NONE = "none"

SETTINGS = (
    Setting("weld_leg", "Weld leg", "length", "Welds", None, "Fillets where the faces stand 60 to 120° to each other; a little over the branch's wall if not typed. Sharper and flatter parts are grooves through the wall.", 3, 30),
    Setting("through", "Goes through", "choice", "Branches", NONE, "Of branches that overlap, the one that stands whole on the carrier; the others are cut to its shape.", choices=(NONE, "the first", "the second", "the third")),
    Setting("site_weld", "Welded on site", "flag", "Welds", False, "Whether the branches are welded on site."),
)  # fmt: skip


def _branches(case: Case) -> list[tuple[int, CaseMember]]:
    return case.all("brace") or case.all("supported")


def _carrier(case: Case) -> tuple[int, CaseMember] | None:
    """The tube that carries the branches: the support, or the first of what braces end at."""
    for role in ("support", "column", "beam", "through"):
        if found := case.all(role):
            return found[0]
    return None


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless hollow sections end on the side of another that is as wide."""
    if case.kind not in FAMILY.kinds:
        raise NoFit(f"a welded tube joint stands branches on a tube's side; this is a {case.kind}", right="the end of a hollow section on another's side")
    carrier = _carrier(case)
    if carrier is None:
        raise NoFit("the branch ends on no other member", right="the end of a hollow section on another's side")
    branches = _branches(case)
    for _, m in (*branches, carrier):
        if m.shape.shape not in ("CHS", "RHS"):
            raise NoFit(f"{m.section} is a {m.shape.shape} section; tubes are welded straight to tubes", right="hollow sections")
    chord = _tube(*carrier)
    for i, m in branches:
        slant = math.acos(min(1.0, abs(float(np.dot(m.frame.x, carrier[1].frame.x)))))
        if slant < FLATTEST - 1e-4:
            raise NoFit(f"{m.section} meets {carrier[1].section} at {math.degrees(slant):.1f}°", right=f"at least {math.degrees(FLATTEST):.0f}°")
        landing = land(_tube(i, m), [chord])
        if landing.missed:
            raise NoFit(f"{m.section} is wider than {carrier[1].section}, or stands off its middle: part of it misses", right="a narrower branch on the carrier's middle line")
        if matched(_tube(i, m), chord) is not None:
            continue
        if landing.corners or not _one_wall(landing):
            flat = min(carrier[1].shape.b, carrier[1].shape.h) - 2 * carrier[1].shape.r1
            raise NoFit(f"{m.section} reaches over the rounded corner of {carrier[1].section}, whose walls are flat over {flat:.0f} mm", right="a narrower branch")


def _one_wall(landing: Landing) -> bool:
    """Whether a branch lands on one wall of a square carrier."""
    normals = np.concatenate([r[2] for r in landing.runs])
    return bool((normals @ normals[0] > 0.99).all()) or not np.isclose(np.abs(normals), 1.0).any(axis=1).all()


def _tube(number: int, m: CaseMember) -> Tube:
    # hollow sections are symmetric: a branch's frame may be turned to point away from the joint
    return Tube(number, role_words(m.role), m.shape, Frame(m.frame.origin, m.away, m.frame.z))


def build(case: Case, given: Given) -> Detail:
    """Branches cut to shape and their welds."""
    inch = given.house.inch
    carrier = _carrier(case)
    assert carrier is not None
    chord = _tube(*carrier)
    tubes = [_tube(i, m) for i, m in _branches(case)]
    thickest = max(t.shape.tw for t in tubes)
    leg = given.rounded("weld_leg", max(1.1 * thickest, 6.35 if inch else 6.0), "weld leg")
    site = bool(given.value("site_weld"))
    through = str(given.value("through"))
    order = list(range(len(tubes)))
    if through != NONE:
        first = ("the first", "the second", "the third").index(through)
        if first >= len(tubes):
            raise NoFit(f"{through} branch goes through, but there {'is one' if len(tubes) == 1 else f'are {len(tubes)}'}", right="one of them")
        order = [first, *(i for i in order if i != first)]
    apart = _gaps(tubes, chord)
    for (i, k), gap in apart.items():
        least = tubes[i].shape.tw + tubes[k].shape.tw
        if 0 <= gap < least - 0.01:
            raise NoFit(f"{tubes[i].shape.name} and {tubes[k].shape.name} stand {gap:.1f} mm apart on {chord.shape.name}", right=f"at least {least:g} mm, the sum of their walls (EN 1993-1-8 7.1.2)")
        if gap < 0 and through == NONE:
            raise NoFit(f"{tubes[i].shape.name} and {tubes[k].shape.name} overlap by {-gap:.0f} mm on {chord.shape.name}", right="branches further apart, or one that goes through")

    def overlap(i: int, k: int) -> bool:
        return apart.get((min(i, k), max(i, k)), 0.0) < 0

    ends: list[EndCut] = []
    notches: list[Notch] = []
    welds: list[Weld] = []
    done: list[int] = []
    for i in order:
        others = [chord, *(tubes[k] for k in done if overlap(i, k))]
        landing = land(tubes[i], others, fine=through != NONE)
        if landing.corners and len(others) > 1:
            raise NoFit(f"{tubes[i].shape.name} is as wide as the branch it overlaps: its walls would land on rounded corners", right="a narrower branch, or branches further apart")
        across = matched(tubes[i], chord) if landing.corners else None
        if across is not None:
            welds += side_grooves(tubes[i], chord, across, landing)
            landing = on_flat(tubes[i], chord, across, landing)
        some, cut = cut_back(tubes[i], others, landing)
        ends += some
        notches += cut
        later = [tubes[k] for k in order if k not in (*done, i) and overlap(i, k)]
        welds += along_landing(tubes[i], others, landing, leg, later)
        done.append(i)
    if site:
        welds = [msgspec.structs.replace(w, site=True) for w in welds]
    return Detail(
        "welded tube joint", (), (), tuple(welds), ends=tuple(ends), notches=tuple(notches), numbers=tuple(given.numbers.values()), angles=_angles(tubes, chord),
        dimensions=_dimensions(tubes, chord, apart), views=_views(welds, chord),
    )  # fmt: skip


def _views(welds: "list[Weld]", chord: Tube) -> tuple[SheetView, ...]:
    """The plane of the branches, and the carrier from the side they come to; as far round as shows what they are."""
    points = np.array([p for w in welds for p in (w.start, w.end)])
    room = 1.2 * max(chord.shape.h, chord.shape.b)
    low, high = points.min(axis=0) - room, points.max(axis=0) + room
    across = np.array(chord.frame.o)
    low, high = np.minimum(low, across - room), np.maximum(high, across + room)
    x, y, z = (1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)
    start = (0.0, 0.0, 0.0)
    upright = abs(chord.frame.x[2]) > 0.7
    side = SheetView("side", "Side", Frame(start, y, x), (float(low[1]), float(low[2]), float(high[1]), float(high[2])))
    plan = SheetView("plan", "Plan", Frame(start, x, z), (float(low[0]), float(low[1]), float(high[0]), float(high[1])))
    return (SheetView("front", "Front", Frame(start, x, (0.0, -1.0, 0.0)), (float(low[0]), float(low[2]), float(high[0]), float(high[2]))), side if upright else plan)


def _spans(tubes: "list[Tube]", chord: Tube) -> "list[tuple[float, float]]":
    """Where branches stand along the carrier, from and to."""
    out = []
    for t in tubes:
        along = chord.frame.to_local(np.concatenate([r[0] for r in land(t, [chord]).runs]))[:, 0]
        out.append((float(along.min()), float(along.max())))
    return out


def _gaps(tubes: "list[Tube]", chord: Tube) -> dict[tuple[int, int], float]:
    """Clear distance along the carrier between each two branches on one side of it; less than nothing where they overlap."""
    spans = _spans(tubes, chord)
    axis = np.array(chord.frame.x)
    sides = [np.array(t.frame.x) - axis * float(np.array(t.frame.x) @ axis) for t in tubes]
    out = {}
    for i in range(len(tubes)):
        for k in range(i + 1, len(tubes)):
            if float(sides[i] @ sides[k]) > 0:
                out[(i, k)] = max(spans[i][0] - spans[k][1], spans[k][0] - spans[i][1])
    return out


def _angles(tubes: "list[Tube]", chord: Tube) -> tuple[Angle, ...]:
    out = []
    for t in tubes:
        axis, away = np.array(chord.frame.x), np.array(t.frame.x)
        out.append(Angle("front", t.frame.origin, vec(t.frame.o + 100 * away), vec(t.frame.o + 100 * axis * math.copysign(1.0, float(away @ axis) or 1.0))))
    return tuple(out)


def _dimensions(tubes: "list[Tube]", chord: Tube, apart: dict[tuple[int, int], float]) -> tuple[Dimension, ...]:
    """The gaps between branches, along the carrier."""
    spans = _spans(tubes, chord)
    out = []
    upright = abs(chord.frame.x[2]) > 0.7
    for (i, k), gap in apart.items():
        if gap <= 0:
            continue
        a, b = (spans[i][1], spans[k][0]) if spans[k][0] > spans[i][0] else (spans[k][1], spans[i][0])
        side = np.array(tubes[i].frame.x) - np.array(chord.frame.x) * float(np.dot(tubes[i].frame.x, chord.frame.x))
        off = side / np.linalg.norm(side) * chord.shape.h / 2
        ends = tuple(vec(chord.frame.to_world(np.array([(s, 0.0, 0.0)]))[0] + off) for s in (a, b))
        out.append(Dimension("front", "left" if upright else "bottom", 0, ends, ("",)))
    return tuple(out)


FAMILY = Family(
    "tube-joint", "Welded tube joint", ("tube to tube", "saddle", "fishmouth", "truss node", "branch", "hollow section"), ("beam to hollow face", "brace end"), SETTINGS, fits, build,
    {"fillet-throat": ("weld_leg",), "fillet-leg-least": ("weld_leg",), "fillet-leg-greatest": ("weld_leg",), "fillet-length": ("weld_leg",)}, shares=3,
    situations=("tubes",), example=at_end(a_column("CHS 168.3x6.3"), a_brace("CHS 88.9x5", 0.0), end="start"),
)  # fmt: skip
