"""Braces as a gusset holds them: bolted by a flat side, slotted over the plate, or with a tee welded to a tube's end; one, or two back to back."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from tincleat.catalogue.fasteners import BoltSize, bolt_sizes
from tincleat.catalogue.sections import Section
from tincleat.details.assembled import role_words
from tincleat.details.fittings import Fork
from tincleat.details.parts import Bolts, Hole, Plate, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import Given
from tincleat.families.shear import bolt_that
from tincleat.geometry.frames import Array, Frame, Vec3, crossed
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case, CaseMember
from tincleat.kit.layout import centred, down, up
from tincleat.kit.weld import both_sides, fillet, round_tube
from tincleat.standards.rulesets import rules_of
from tincleat.steel.cuts import EndCut, Notch
from tincleat.steel.flattened import breadth

FLAT = Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, -1.0, 0.0))  # the plane of the braces: its x along x, its y along z
SLOT_PLAY = 2.0  # mm a slot is wider than the plate in it
STAR = 30.0  # mm that the heels of starred angles may lie apart
FLATTENED = "flattened"
PAST_PLATE = 10.0  # mm that a flat goes on past the plate before it is drawn out
BETWEEN = 2.0  # mm that a plate keeps off the roots of an I-section it goes into
SAME_LINE = 1.0  # mm that two members' lines may lie apart in the plane and still be one brace


@dataclass(frozen=True)
class ForkSize:
    """A fork for a rod of diameter ``d``: its pin, the pin's hole, width and thickness of its cheeks, their gap."""

    d: float
    pin: BoltSize
    hole: float
    width: float
    cheek: float
    gap: float

    @property
    def deep(self) -> float:
        """Over both cheeks, mm."""
        return self.gap + 2 * self.cheek


WALL = 2.0  # mm of steel that a fork keeps round its bores, whatever is typed


def fork_size(d: float, given: Given) -> ForkSize:
    """The fork of a rod ``d`` mm thick: a pin of its own size, cheeks half as thick that hold it at its least edge distance, a slot for the gusset with some play."""
    house = given.house
    step, stock = (3.175, 1.5875) if house.inch else (5.0, 1.0)
    system = "in" if house.inch else "mm"
    pins = sorted((b for b in bolt_sizes().values() if b.system == system), key=lambda b: b.d)
    pin = next((b for b in pins if b.d >= d - 0.1 and b.name not in ("M14", "M18", "M22")), pins[-1])
    if d > pin.d + 0.1:
        raise NoFit(f"no pin is as thick as a rod of {d:g} mm", right=f"at most {pin.d:g} mm")
    hole, _ = house.hole(pin.name, "normal")
    least = rules_of(house).edge_least(pin, Hole(0, 0, hole, hole), False).value
    width = float(given.worked_out("fork_width", up(2 * max(least + 0.1, 1.1 * pin.d), step)))
    cheek = float(given.worked_out("fork_cheek", up(max(d / 2, 6.0), stock)))
    out = ForkSize(d, pin, hole, width, cheek, float(given.value("thickness")) + float(given.value("fork_play")))
    for what, room, bore in (("wide", width, max(hole, d)), ("over its cheeks", out.deep, d)):
        if room < bore + 2 * WALL:
            raise NoFit(f"a fork {room:g} mm {what} leaves no steel round its bore of {bore:g} mm", right=f"at least {bore + 2 * WALL:g} mm")
    return out


@dataclass(frozen=True)
class Brace:
    """A brace in the plane: its members (two if back to back) with their numbers, unit directions along it and across it, half its
    breadth in the plane, and what holds it."""

    members: tuple[tuple[int, CaseMember], ...]
    given: Given
    along: Array
    across: Array
    half: float
    how: str
    line: float  # of the bolts from the brace's axis, along ``across``
    fork: "ForkSize | None"  # on the end of a rod
    faces: tuple[tuple[tuple[float, float], ...], ...]  # for each member the y the plate may lie at, and which way from there; 0 is about it
    apart: tuple[float, ...] = ()  # of two starred angles the bolt line of each, off the axis between them; else both have one line

    @property
    def member(self) -> CaseMember:
        """The brace, or the first of the two it is made of."""
        return self.members[0][1]

    @property
    def origin(self) -> Array:
        """A point of its axis in the plane (2,); of two members of the line between theirs."""
        o = np.mean([m.frame.o for _, m in self.members], axis=0) if self.apart else self.member.frame.o
        return np.array([o[0], o[2]])

    @property
    def heights(self) -> tuple[float, float]:
        """Least and greatest y that its steel may reach."""
        if self.fork is not None:
            y = self.member.frame.origin[1]
            return y - self.fork.deep / 2, y + self.fork.deep / 2
        wide = [(m.frame.origin[1], (m.shape.b if abs(m.frame.y[1]) > 0.7 else m.shape.h) / 2) for _, m in self.members]
        return min(y - w for y, w in wide), max(y + w for y, w in wide)

    def at(self, s: float, w: float = 0.0) -> Array:
        """A point (2,) of the plane ``s`` mm out along the axis from the working point and ``w`` across."""
        foot = self.origin - self.along * float(self.origin @ self.along)
        return foot + self.along * s + self.across * w


def in_space(p: Array, y: float = 0.0) -> Vec3:
    """A point or direction (2,) of the plane in the joint."""
    return (float(p[0]), y, float(p[1]))


def leg_in_plane(m: CaseMember) -> float:
    """Breadth of a member in the plane of the braces, mm."""
    return m.shape.h if abs(float(m.frame.y[1])) > 0.7 else m.shape.b


def _heel(m: CaseMember, size: BoltSize) -> float:
    """Least gauge of an angle's bolts, mm: heads clear of the other leg's root."""
    return m.shape.tw + m.shape.r1 + max(size.washer_d, 1.16 * size.head_af) / 2 + 1.0


def beside_stem(shape: Section, size: BoltSize) -> float:
    """Least distance of bolts in a tee's flange from its middle, mm: heads clear of the stem's root."""
    return shape.tw / 2 + shape.r1 + max(size.washer_d, 1.16 * size.head_af) / 2 + 1.0


def bolt_of(members: Sequence[CaseMember], given: Given) -> BoltSize:
    """The bolt typed or the office's, or the next smaller one that every bolted brace holds between root and edge."""
    slim = sorted((m for m in members if m.shape.shape in ("L", "FL", "T")), key=leg_in_plane)

    def holds(size: BoltSize, least: float) -> bool:
        return all((beside_stem(m.shape, size) + least) * 2 <= m.shape.b if m.shape.shape == "T" else (_heel(m, size) if m.shape.shape == "L" else least) + least <= leg_in_plane(m) for m in slim)

    return bolt_that(given, holds, f"{slim[0].shape.name} is {leg_in_plane(slim[0]):.0f} mm wide there" if slim else "")


EVEN = 1e-6  # of a sine that counts as none


def askew(case: Case) -> bool:
    """Whether a brace of a case leaves their plane, or is turned in it: a plate lies on it then as it comes over their lap."""
    return any(abs(m.away[1]) > EVEN or (m.shape.shape != "CHS" and min(abs(m.frame.y[1]), abs(m.frame.z[1])) > EVEN) for _, m in case.all("brace"))


def out_of_plane(m: CaseMember, lap: "tuple[float, float] | None", spare: float) -> tuple[float, float]:
    """Between which y the middle of a brace lies over its ``lap`` with a plate, from and to mm along it in the plane, and over its breadth, if it
    is turned a little; without a lap, at its own origin.  Raises NoFit with figures where a plate would stand more than ``spare`` mm off it."""
    y = m.frame.origin[1]
    if lap is None:
        return y, y
    across, out = sorted((abs(m.frame.y[1]), abs(m.frame.z[1])))
    turned = across / out * (m.shape.h if abs(m.frame.y[1]) > 0.7 else m.shape.b) / 2 if m.shape.shape != "CHS" else 0.0
    long = math.hypot(m.away[0], m.away[2])
    along = np.array([m.away[0], m.away[2]]) / long
    first = float(np.array([m.frame.origin[0], m.frame.origin[2]]) @ along)
    low, high = sorted(y + m.away[1] / long * (s - first) for s in lap)
    low, high = low - turned, high + turned
    if high - low > spare:
        raise NoFit(f"{m.shape.name} leaves the plane of the braces by {math.degrees(math.asin(min(1.0, abs(m.away[1])))):.2f}° and is turned out of it by {math.degrees(math.atan(across / out)):.2f}°: {high - low:.1f} mm over its {lap[1] - lap[0]:.0f} mm on the plate", right=f"at most {spare:g} mm: braces of one plane")
    return low, high


def held(m: CaseMember, given: Given, size: BoltSize, lap: "tuple[float, float] | None" = None) -> tuple[str, float, float, tuple[tuple[float, float], ...]]:
    """How a member is held, half its breadth in the plane, its bolt line off the axis, and the faces the plate may lie on; raises NoFit."""
    s, f, house = m.shape, m.frame, given.house
    y, z = float(f.y[1]), float(f.z[1])
    flat = abs(y) > 0.99 or abs(z) > 0.99
    low, high = out_of_plane(m, lap, rules_of(house).ply_gap.value)
    middle = (low + high) / 2

    def beside(off: float, way: float) -> tuple[float, float]:
        """A face ``off`` the brace's middle that a plate may lie on, towards ``way``: where that comes furthest over the lap."""
        return (high if way > 0 else low) + off, way

    if s.shape == "RD":
        return "forked", fork_size(s.h, given).width / 2, 0.0, ((middle, 0.0),)
    if not flat and s.shape != "CHS":
        raise NoFit(f"{s.name} lies {math.degrees(math.asin(min(1.0, min(abs(y), abs(z))))):.0f}° turned to the plane of the braces", right="a face of it in that plane")
    if s.shape in ("CHS", "RHS"):
        half = s.h / 2 if s.shape == "CHS" or abs(y) > 0.99 else s.b / 2
        if given.value("tube_end") == "slotted":
            return "slotted", half, 0.0, ((middle, 0.0),)
        if given.value("tube_end") == FLATTENED:
            if s.shape != "CHS":
                raise NoFit(f"{s.name} is rectangular", right="a round tube to be pressed flat, or another end")
            return FLATTENED, breadth(s) / 2, 0.0, tuple(beside(side * s.tw, side) for side in (-1.0, 1.0))
        t = float(given.value("tee_thickness"))
        return "tee", half, 0.0, tuple((middle + side * t / 2, side) for side in (-1.0, 1.0))
    along = np.array(m.away)
    across = crossed((0.0, -1.0, 0.0), along)  # in the plane, square to the brace
    if s.shape == "L":
        upright = abs(y) > 0.99
        out = -y if upright else -z  # which way the back of the leg in the plane looks
        face = out * (s.b if upright else s.h) / 2
        leg = s.h if upright else s.b
        way = float(np.array(f.z if upright else f.y) @ across)
        step, fine = (6.35, 1.5875) if house.inch else (5.0, 1.0)
        # no further from the toe than an exposed edge may be
        most = rules_of(house).edge_greatest(min(s.tw, float(given.value("thickness")))).value if house.exposed else math.inf
        gauge = float(given.worked_out("gauge", max(math.floor(0.55 * leg / step) * step, math.ceil((leg - most) / step) * step, math.ceil(_heel(m, size) / fine) * fine)))
        return "bolted", leg / 2, way * (gauge - leg / 2), (beside(face, math.copysign(1.0, out)),)
    if s.shape == "FL" and abs(y) > 0.99:
        return "bolted", s.h / 2, 0.0, tuple(beside(side * s.tw / 2, side) for side in (-1.0, 1.0))
    if s.shape == "I" and abs(y) > 0.99:  # by its web, the plate between its flanges
        if s.slope:
            raise NoFit(f"the flanges of {s.name} taper; a gusset goes in between even ones", right="an I-section with even flanges")
        return "bolted", s.h / 2, 0.0, tuple(beside(side * s.tw / 2, side) for side in (-1.0, 1.0))
    if s.shape == "T" and abs(z) > 0.99:  # by its flange, the stem standing out
        return "bolted", s.b / 2, 0.0, (beside(z * s.h / 2, math.copysign(1.0, z)),)
    if s.shape == "C" and abs(y) > 0.99:
        return "bolted", s.h / 2, 0.0, (beside(-y * s.b / 2, math.copysign(1.0, -y)),)
    raise NoFit(f"{s.name} is a {s.shape} section; a gusset takes angles, flats, channels and tees by their back, I-sections by their web, tubes, and round bars", right="one of these")


def braces_of(members: Sequence[tuple[int, CaseMember]], given: Given, size: BoltSize, laps: "Sequence[tuple[float, float]] | None" = None) -> list[Brace]:
    """The braces of a case in its order, two members with their backs to one plate, or starred about it, as one brace; ``laps`` are from where
    to where along each its plate lies on it, once that is known."""
    found: list[Brace] = []
    sets = _sets(members)
    for k, some in enumerate(sets, 1):
        mine = given.each(k, len(sets))
        each = [held(m, mine, size, laps[k - 1] if laps else None) for _, m in some]
        how, half, line, _ = each[0]
        starred = len(some) > 1 and _starred(some[0][1], some[1][1])
        if len(each) > 1 and some[0][1].shape.shape in ("C", "T") and abs(each[1][1] - half) > 0.5:
            raise NoFit(f"{some[0][1].shape.name} and {some[1][1].shape.name} back to back are {2 * half:.0f} and {2 * each[1][1]:.0f} mm wide", right="two alike: their bolts go through both clear of the roots")
        if len(each) > 1 and not starred and abs(each[1][2] - line) > 0.5:
            raise NoFit(f"the bolt lines of {some[0][1].shape.name} and {some[1][1].shape.name} back to back lie {abs(each[1][2] - line):.1f} mm apart", right="angles of like legs in the plane, heels on one side")
        along = np.array([some[0][1].away[0], some[0][1].away[2]])
        along = along / np.hypot(*along)
        aside: tuple[float, ...] = ()
        if starred:
            across = np.array([-along[1], along[0]])
            at = [float(np.array([m.frame.o[0], m.frame.o[2]]) @ across) for _, m in some]
            aside = tuple(v - sum(at) / 2 + e[2] for v, e in zip(at, each, strict=True))
            half, line = max(abs(v - sum(at) / 2) + e[1] for v, e in zip(at, each, strict=True)), 0.0
        fork = fork_size(some[0][1].shape.h, mine) if how == "forked" else None
        found.append(Brace(tuple(some), mine, along, np.array([-along[1], along[0]]), half, how, line, fork, tuple(e[3] for e in each), aside))
    return found


def _sets(members: Sequence[tuple[int, CaseMember]]) -> list[list[tuple[int, CaseMember]]]:
    out: list[list[tuple[int, CaseMember]]] = []
    for i, m in members:
        for some in out:
            if len(some) == 1 and (_back_to_back(some[0][1], m) or _starred(some[0][1], m)):
                some.append((i, m))
                break
        else:
            out.append([(i, m)])
    return out


def numbered(case: Case) -> list[tuple[int, ...]]:
    """The numbers in the case of the members that make each brace, in the order in which braces are counted."""
    return [tuple(i for i, _ in some) for some in _sets(case.all("brace"))]


def _back_to_back(a: CaseMember, b: CaseMember) -> bool:
    """Whether two angles or channels run along one line in the plane with their backs to each other and their heels on one side."""
    if a.shape.shape != b.shape.shape or a.shape.shape not in ("L", "C", "T") or float(np.dot(a.away, b.away)) < 1 - 1e-6:
        return False
    across = crossed((0.0, -1.0, 0.0), np.array(a.away))
    if abs(float((b.frame.o - a.frame.o) @ across)) > SAME_LINE:
        return False
    sides = []
    for m in (a, b):
        y, z = float(m.frame.y[1]), float(m.frame.z[1])
        upright = abs(y) > abs(z)
        heel = 0.0 if m.shape.shape in ("C", "T") else math.copysign(1.0, float(np.array(m.frame.z if upright else m.frame.y) @ across))
        sides.append((math.copysign(1.0, -y if upright else -z), heel))
    return sides[0][0] == -sides[1][0] and sides[0][1] == sides[1][1]


def _starred(a: CaseMember, b: CaseMember) -> bool:
    """Whether two angles run side by side in the plane, one on each face of what is between them, with their heels to each other."""
    if a.shape.shape != "L" or b.shape.shape != "L" or float(np.dot(a.away, b.away)) < 1 - 1e-6:
        return False
    across = crossed((0.0, -1.0, 0.0), np.array(a.away))
    found = []
    for m in (a, b):
        upright = abs(float(m.frame.y[1])) > abs(float(m.frame.z[1]))
        leg = m.shape.h if upright else m.shape.b
        way = math.copysign(1.0, float(np.array(m.frame.z if upright else m.frame.y) @ across))
        found.append((math.copysign(1.0, float(-m.frame.y[1] if upright else -m.frame.z[1])), way, float(m.frame.o @ across) - way * leg / 2))
    (one, up, heel), (two, down, other) = found
    return one == -two and up == -down and (heel - other) * up >= -SAME_LINE and abs(heel - other) <= STAR


def gap_between(braces: Sequence[Brace]) -> float | None:
    """The gap between the backs of the first double brace, mm, or None where there is none."""
    for x in braces:
        if len(x.members) == 2:
            return round(abs(x.faces[0][0][0] - x.faces[1][0][0]), 2)
    return None


def plane_of(braces: Sequence[Brace], t: float, side: int) -> float:
    """The lower y of a plate ``t`` thick, so that it lies on or in every brace; raises NoFit where they ask for different planes."""
    found: list[list[float]] = []
    for x in braces:
        for faces in x.faces:
            some = [y - t / 2 if way == 0 else (y if way > 0 else y - t) for y, way in faces]
            found.append(some if len(some) == 1 else [some[side], some[1 - side]])
    for y in found[0]:
        near = [min(some, key=lambda v: abs(y - v)) for some in found]
        if all(abs(y - v) < 0.6 for v in near):
            # clear of every face, if they lie a little apart: from those on its lower side up, or from those on its upper side down
            ways = [next((way for v, way in faces if abs((v - t / 2 if way == 0 else v if way > 0 else v - t) - n) < 1e-9), 0.0) for (faces, n) in zip([f for x in braces for f in x.faces], near, strict=True)]
            lower, upper = [n for n, way in zip(near, ways, strict=True) if way > 0], [n for n, way in zip(near, ways, strict=True) if way < 0]
            return max(lower) if lower else min(upper) if upper else y
    gap = gap_between(braces)
    if gap is not None and abs(gap - t) >= 0.6:
        raise NoFit(f"the backs of a double brace stand {gap:.1f} mm apart, the plate is {t:g} mm thick", right=f"a plate {gap:.1f} mm thick, or the members moved")
    spread = max(some[0] for some in found) - min(some[0] for some in found)
    raise NoFit(f"the braces lie {spread:.1f} mm apart across the plate", right="braces whose faces lie in one plane, or a gusset for each")


def slot(x: Brace, t: float, start: float, length: float) -> Notch:
    """The slot in a tube's end: right through both walls, as wide as the plate and some play, round at its end."""
    w = t + SLOT_PLAY
    y = x.member.frame.origin[1]
    depth = 2 * x.half + 40
    # the prism runs across the brace in the plane; its outline lies in the plane of brace and y
    corner = x.at(0.0, -depth / 2)
    frame = Frame.of(in_space(corner, y), in_space(x.along), in_space(x.across))
    outline = Outline.rounded([(start - 60, -w / 2), (start + length, -w / 2), (start + length, w / 2), (start - 60, w / 2)], [0.0, w / 2 - 0.01, w / 2 - 0.01, 0.0])
    return Notch("slot", x.members[0][0], frame, outline, depth)


def tube_welds(x: Brace, t: float, start: float, length: float, leg: float) -> list[Weld]:
    """Four fillets between a slotted tube's walls and the plate in it."""
    out = []
    y = x.member.frame.origin[1]
    name = role_words(x.member.role)
    # a square tube's walls may be turned a little out of square to the plate: up the wall, and out of it
    up, wall = sorted((np.array(x.member.frame.y), np.array(x.member.frame.z)), key=lambda way: -abs(way[1]))
    up, wall = up * math.copysign(1.0, up[1]), wall * math.copysign(1.0, float(wall @ in_space(x.across)))
    round_ = x.member.shape.shape == "CHS"
    for side in (-1.0, 1.0):
        for face in (-1.0, 1.0):
            rim = math.sqrt(max(x.half**2 - (t / 2) ** 2, 0.0)) if round_ else (x.half - side * face * t / 2 * wall[1]) / float(wall @ in_space(x.across))
            a, b = (in_space(x.at(s, side * rim), y + face * t / 2) for s in (start, start + length))
            on_plate = (float(x.across[0]) * side, 0.0, float(x.across[1]) * side)
            out.append(fillet(f"{name} in the slot", leg, a, b, on_plate, (0.0, face, 0.0) if round_ else up * face, ("gusset", name)))
    return out


def _over_flat(x: Brace, step: float) -> tuple[float, ...]:
    """Gaps between the lines of bolts over a tube's flat: none where it is narrow, else so many that, exposed, neither they nor its edges are too far."""
    wide, thin = 2 * x.half, min(2 * x.member.shape.tw, float(x.given.value("thickness")))
    rules = rules_of(x.given.house)
    edge, apart = (rules.edge_greatest(thin).value, rules.spacing_greatest(thin).value) if x.given.house.exposed else (math.inf, math.inf)
    most = down(apart, step) if math.isfinite(apart) else wide
    gaps = max(int(wide >= 140.0), math.ceil((wide - 2 * edge) / most - 1e-9) if math.isfinite(edge) else 0)
    if not gaps:
        return ()
    least = up((wide - 2 * edge) / gaps, step) if math.isfinite(edge) else 0.0
    return (max(min(down(wide / (gaps + 1), step), most), least),) * gaps


def lines_of(x: Brace, size: BoltSize, step: float, edge: float) -> list[float]:
    """Where a brace's lines of bolts lie across it: two in wide steel, their washers clear of a channel's roots."""
    if x.apart:
        return sorted(x.apart)
    shape = x.member.shape
    if x.how == FLATTENED:
        return centred(tuple(x.given.worked_out("lines", _over_flat(x, step))), x.line)
    wide = 2 * x.half if shape.shape in ("C", "FL", "I") or x.how == "tee" else 0.0
    clear = 2 * (x.half - shape.root) - max(size.washer_d, size.head_af * 1.16) if shape.shape in ("C", "I") else wide
    if shape.shape == "I":  # between the flanges the plate's own edges lie too
        clear = min(clear, 2 * (x.half - shape.root - BETWEEN - edge))
    if shape.shape == "T":  # a line on each side of the stem
        least = rules_of(x.given.house).edge_least(size, Hole(0, 0, *x.given.house.hole(size.name, "normal")), False).value
        near, far = up(2 * beside_stem(shape, size), 1.5875 if x.given.house.inch else 1.0), shape.b - 2 * least
        if near > far:
            raise NoFit(f"the flange of {shape.name}, {shape.b:.0f} mm wide, holds no {size.name} beside its stem: {near + 2 * least:.0f} mm", right="smaller bolts, or a wider tee")
        usual = min(max(near, down(0.55 * shape.b, step)), far)
        return centred(tuple(x.given.worked_out("lines", (usual,))), x.line)
    most = rules_of(x.given.house).spacing_greatest(shape.tw).value if x.given.house.exposed and x.how == "bolted" else math.inf
    return centred(tuple(x.given.worked_out("lines", (down(min(x.half, clear, most), step),) if wide >= 140.0 and clear >= 3 * size.d else ())), x.line)


def pressed(x: Brace, number: int, start: float, plate_end: float) -> EndCut:
    """The end of a round tube pressed flat from ``start`` on past the plate's end, clear of its taper."""
    step = 6.35 if x.given.house.inch else 5.0
    usual = up(plate_end - start + PAST_PLATE, step)
    flat = float(x.given.worked_out("flat", usual))
    if flat < plate_end - start:
        raise NoFit(f"a flat of {flat:.0f} mm ends on the plate, which it meets for {plate_end - start:.0f} mm", right=f"at least {usual:.0f} mm")
    taper = float(x.given.worked_out("taper", up(x.member.shape.h, step)))
    y = x.member.frame.origin[1]
    return EndCut(number, in_space(x.at(start), y), in_space(x.along), flat, taper, in_space(x.across))


@dataclass(frozen=True)
class Tee:
    """What is welded to a tube's end to be bolted: tongue and end cap with their welds, and where the tube ends."""

    plates: tuple[Plate, ...]
    welds: tuple[Weld, ...]
    end: float


ENGAGED = 1.25  # rod diameters that it is screwed into its fork


def forked(x: Brace, start: float, edge: float, y: float, axis_grade: tuple[str, str]) -> tuple[Fork, Bolts, float, float]:
    """A fork on a rod whose nose begins at ``start``: fork and pin, where the pin is, and where the rod ends in the fork; ``edge`` is
    the plate's beyond the pin, ``axis_grade`` the pin's and the fork's grade."""
    size = x.fork
    assert size is not None
    step = 6.35 if x.given.house.inch else 5.0
    at = start + size.width / 2
    slot_deep = up(edge + step, step)
    length = slot_deep + up((ENGAGED + 0.25) * size.d, step)
    suffix = x.given.one.replace("/", " ")
    along = in_space(x.along)
    fork = Fork(f"fork{suffix}", size.pin.name, axis_grade[1], Frame.of(in_space(x.at(at), y), along, (0.0, -1.0, 0.0)), size.d, size.hole, size.width, size.cheek, size.gap, slot_deep, length)
    pin = Bolts(f"pin{suffix}", size.pin.name, axis_grade[0], (in_space(x.at(at), y),), (0.0, 1.0, 0.0), along)
    return fork, pin, at, at + length - ENGAGED * size.d


def tee(x: Brace, start: float, spots: Sequence[float], lines: Sequence[float], plate_end: float, hole: tuple[float, float], edge: float) -> Tee:
    """The tee at a tube's end: its tongue from ``start`` on past the bolts at ``spots`` along and ``lines`` across to an end cap clear
    of the gusset's end."""
    given, house = x.given, x.given.house
    step = 6.35 if house.inch else 5.0
    t, cap_t, past, gap = (float(given.value(k)) for k in ("tee_thickness", "cap_thickness", "cap_past", "cap_gap"))
    wide = float(given.worked_out("tee_width", up(max(lines[-1] - lines[0] + 2 * edge, 1.6 * x.half), 2 * step)))
    leg = given.rounded("tee_weld", max(0.7 * t, 4.7625 if house.inch else 5.0), "weld leg")
    tube = x.member.shape
    round_leg = given.rounded("cap_weld", min(max(tube.tw, 4.7625 if house.inch else 4.25), past), "weld leg")
    cap_at = up(plate_end + gap, step)
    y, suffix = x.member.frame.origin[1], x.given.one.replace("/", " ")
    grade = str(given.value("grade"))
    along, across = in_space(x.along), in_space(x.across)
    holes = tuple(Hole(s - start, wide / 2 + w, *hole) for s in spots for w in lines)
    tongue = Plate(f"tongue{suffix}", Outline.rectangle(0.0, 0.0, cap_at - start, wide), t, Frame.of(in_space(x.at(start, -wide / 2), y + t / 2), along, (0.0, -1.0, 0.0)), grade, holes, ("", "plate width"))
    if tube.shape == "CHS":
        outline = Outline.circle(0.0, 0.0, tube.h + 2 * past)
    else:
        a, b = x.half + past, (tube.b if abs(float(x.member.frame.y[1])) > 0.99 else tube.h) / 2 + past
        outline = Outline.rectangle(-a, -b, a, b)
    cap = Plate(f"end cap{suffix}", outline, cap_t, Frame.of(in_space(x.at(cap_at), y), across, along), grade, (), ("", ""))
    name = role_words(x.member.role)
    run = (in_space(x.at(cap_at, -wide / 2), y), in_space(x.at(cap_at, wide / 2), y))
    welds = both_sides(f"{tongue.name} to {cap.name}", leg, run, (0.0, 1.0, 0.0), t, (-along[0], 0.0, -along[2]), (cap.name, tongue.name))
    stands = Frame.of(in_space(x.at(cap_at + cap_t), y), x.member.frame.z, along)
    return Tee((tongue, cap), (*welds, *round_tube(f"{name} to {cap.name}", round_leg, tube, stands, (cap.name, name))), cap_at + cap_t)



