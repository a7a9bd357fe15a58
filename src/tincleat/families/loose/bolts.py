"""Loose bolts and holes: a pattern on a face, through everything that lies there."""

import math
from dataclasses import dataclass, field
from dataclasses import replace as replace_

import msgspec
import numpy as np

from tincleat.catalogue.fasteners import bolt_size, bolt_sizes, countersunk_head, stud_size
from tincleat.details.assembled import Assembled
from tincleat.details.fittings import Stud
from tincleat.details.parts import BentPlate, Bolts, Detail, Flat, Hole, Piece, Plate, Plug, Switch
from tincleat.errors import NoFit
from tincleat.families.declare import Given
from tincleat.families.loose.place import Face, Made, across_from
from tincleat.families.loose.settings import BOLTS, COUNTERSUNK, HOLES_ONLY, PLUGS, THREADED
from tincleat.geometry.frames import Array, Frame, vec
from tincleat.joints.case import Case, CaseMember
from tincleat.kit.drill import drilled
from tincleat.kit.layout import centred, up
from tincleat.kit.seams import TOUCH
from tincleat.standards.rulesets import rules_of
from tincleat.steel.body import laid, named
from tincleat.steel.cuts import Cuts, MemberHole

replace = msgspec.structs.replace


@dataclass
class Pattern:
    """A pattern of places on a face with what goes through them, and what was left out."""

    name: str
    points: list[Array]
    axis: Array
    way: Array
    size: str
    grade: str
    kind: str
    width: float
    length: float
    bolts: bool
    site: bool
    frame: Frame  # on the face, x along its rows
    rows: list[float] = field(default_factory=list)
    lines: list[float] = field(default_factory=list)
    switches: list[Switch] = field(default_factory=list)
    numbers: list[int] = field(default_factory=list)  # of the points among all places
    sink: tuple[float, float] = (0.0, 0.0)  # of countersunk heads: diameter at the face, mm, and angle, rad
    thread: float = 0.0  # diameter of threaded holes, mm: the last that a bolt passes, or all of holes without bolts
    through: frozenset[int] = frozenset()  # numbers of the parts it goes through, 0 the member; none: all that lie there


def pattern_on(given: Given, face: Face, name: str, what: str) -> Pattern:
    """The places of a part's pattern; raises NoFit where none is left."""
    house = given.house
    rows, lines = tuple(given.value("rows")), tuple(given.value("lines"))
    along, turn = float(given.value("along")), float(given.value("turn"))
    across = across_from(face, str(given.value("from_")), float(given.value("across")))
    out = {int(n) for n in given.value("left_out")}
    xs, ys = centred(rows), centred(lines)
    every = bool(given.value("staggered"))
    u = face.u * math.cos(turn) + face.v * math.sin(turn)
    v = -face.u * math.sin(turn) + face.v * math.cos(turn)
    middle = face.point(along, across)
    places = [(i, j) for i in range(len(xs)) for j in range(len(ys))]
    wrong = sorted(n for n in out if n > len(places))
    if wrong:
        raise NoFit(f"there is no place {wrong[0]}", right=f"numbers from 1 to {len(places)}, row by row")
    numbered = [(k, i, j) for k, (i, j) in enumerate(places, 1) if k not in out and not (every and (i + j) % 2)]
    kept = [(i, j) for _, i, j in numbered]
    if not kept:
        raise NoFit(f"all {len(places)} places are left out", right="at least one place")
    name_of, kind, slot, width, length, thread, sink = "", "normal", u, 0.0, 0.0, 0.0, (0.0, 0.0)
    if what in (BOLTS, HOLES_ONLY):
        name_of, kind = bolt_size(str(given.value("bolt"))).name, str(given.value("hole"))
        if kind == THREADED:
            kind, thread = "normal", bolt_size(name_of).d
        if str(given.value("head")) == COUNTERSUNK:
            sink = countersunk_head(name_of)
            if "slot" in kind:
                raise NoFit(f"a countersunk head does not lie in a {kind}", right="normal or oversize holes")
        width, length = house.hole(name_of, kind)
        slot = u if str(given.value("slot_way")) == "along" else v
    if what == PLUGS:
        step = 1.5875 if house.inch else 1.0
        least = rules_of(house).plug(face.thick, 0.0, 0.0, face.thick)["least"].value
        width, slot = up(least, step), u if str(given.value("slot_way")) == "along" else v
    if what in (HOLES_ONLY, PLUGS):
        width = float(given.worked_out("hole_width", width))
        length = max(float(given.worked_out("hole_length", width if given.has("hole_width") else max(width, length))), width)
    grade = str(given.value("bolt_grade")) if what == BOLTS else ""
    points = [middle + u * xs[i] + v * ys[j] for i, j in kept]
    here = given.named("left_out")
    switches = [
        Switch(here, k, vec(middle + u * xs[i] + v * ys[j]), vec(face.n), k not in out, f"{name}, place {k}")
        for k, (i, j) in enumerate(places, 1) if len(places) > 1 and not (every and (i + j) % 2)
    ]  # fmt: skip
    site = bool(given.value("site")) if what == BOLTS else False
    through = frozenset(int(n) for n in given.value("through")) if what in (BOLTS, HOLES_ONLY) else frozenset()
    return Pattern(name, points, -face.n, slot, name_of, grade, kind, width, length, what == BOLTS, site, Frame.of(middle, u, face.n), list(xs), list(ys), switches, [k for k, _, _ in numbered], sink, thread, through)


def studs_of(given: Given, p: Pattern) -> list[Stud]:
    """A stud at every place of a pattern, out of the face; raises NoFit where nothing of a shank is left between collar and head."""
    size = stud_size(str(given.value("stud")))
    long = float(given.worked_out("length", (101.6 if given.house.inch else 100.0) if size.d < 21.0 else (127.0 if given.house.inch else 125.0)))
    least = size.collar_height + size.head_height + 5.0
    if long < least:
        raise NoFit(f"{size.name} {long:.0f} mm long has no shank between its collar and its head", right=f"at least {least:.0f} mm")
    out, way = -p.axis, np.array(p.frame.y)
    return [Stud(f"{p.name}, {n}", size.name, "SD1" if size.name.startswith("SD") else "type B", Frame.of(at, out, way), size.d, long, (size.head_d, size.head_height), (size.collar_d, size.collar_height)) for n, at in zip(p.numbers, p.points, strict=True)]


def plugs_of(case: Case, given: Given, number: int, p: Pattern, made: "dict[int, Made]", tail: str) -> list[Plug]:
    """The plate of parts ``number`` with the holes of a pattern, and a plug weld in each of them on what lies right behind; raises NoFit where nothing does."""
    plate = made[number]
    if not isinstance(plate, Plate):
        raise NoFit(f"{plate.name} is no flat plate", right="the face of one")
    house, t = given.house, plate.thickness
    deep = rules_of(house).plug(t, p.width, p.length, t)["depth"].value
    fill = float(given.worked_out("fill", deep if deep > t - 0.01 else min(up(deep, 1.5875 if house.inch else 1.0), t)))
    if fill > plate.thickness + 0.01:
        raise NoFit(f"filled {fill:g} mm deep it would stand out of {plate.name}, {plate.thickness:g} mm thick", right=f"at most {plate.thickness:g} mm")
    plates, pieces, bents = parts_of(made)
    line = Bolts(p.name, next(iter(bolt_sizes())), "8.8", tuple(vec(x) for x in p.points), vec(p.axis), vec(p.way))
    a = Assembled(case, Detail("loose", plates, (line,), pieces=pieces, bents=bents), house.rule_set)
    site = bool(given.value("site")) if given.has("site") else False
    out = []
    for f in a.fitted:
        behind = next((k for k, x in enumerate(f.plies) if a.plies[x.ply].owner == plate.name), None)
        below = f.plies[behind + 1] if behind is not None and behind + 1 < len(f.plies) else None
        if behind is None or below is None or below.enter - f.plies[behind].leave > TOUCH:
            raise NoFit(f"behind place {p.numbers[f.number]} no steel touches {plate.name}", right="a place over what the plate lies on")
        out.append(Plug(f"{p.name}, {p.numbers[f.number]}", Frame.of(p.points[f.number] + p.axis * f.plies[behind].leave, p.way, -p.axis), p.width, p.length, fill, (a.plies[below.ply].owner, plate.name), site, tail))
    for at in p.points:
        made[number] = _with_hole(made[number], "", at, p)
    return out


def drill(case: Case, rules: str, made: "dict[int, Made]", patterns: "list[Pattern]") -> "tuple[dict[int, Made], list[Bolts], list[MemberHole]]":
    """Parts with the holes of patterns in them, the bolts, and the member's holes: each axis takes what lies on what there."""
    groups: list[Bolts] = []
    holes: list[MemberHole] = []
    for p in patterns:
        if wrong := sorted(n for n in p.through if n and n not in made):
            raise NoFit(f"{p.name}: there is no plate or piece {wrong[0]} to go through", right="0 for the member, or one of the parts " + ", ".join(map(str, made)))
        owners = tuple(sorted("" if not n else made[n].name for n in p.through))
        probe = Bolts(p.name, p.size, p.grade or "8.8", tuple(vec(x) for x in p.points), vec(p.axis), vec(p.way), p.kind, site=p.site, through=owners, head="countersunk" if p.sink[0] else "hexagon", nut=not p.thread)  # type: ignore[arg-type]
        plates, pieces, bents = parts_of(made)
        a = Assembled(case, Detail("loose", plates, (probe,), pieces=pieces, bents=bents), rules)
        if missed := [p.numbers[f.number] for f in a.fitted if not f.plies]:
            few = ", ".join(map(str, missed[:6])) + (" …" if len(missed) > 6 else "")
            raise NoFit(f"place {few} of the {p.name} meets no steel", right="places on the member or a part, or those left out")
        for f in a.fitted:
            if p.bolts and p.thread and len(f.plies) < 2:
                raise NoFit(f"place {p.numbers[f.number]} of the {p.name} meets one part alone: nothing is held to what is threaded", right="a place where two parts lie on each other, or holes without bolts")
            for i, through in enumerate(f.plies):
                ply = a.plies[through.ply]
                at = p.points[f.number]
                tapped = bool(p.thread) and (i == len(f.plies) - 1 or not p.bolts)
                width, length = (p.thread, p.thread) if tapped else (p.width, p.length)
                sunk = bool(p.sink[0]) and i == 0
                sink = p.sink if sunk else (0.0, 0.0)
                if sunk and ply.member >= 0 and _leans(case.members[ply.member], ply.element, p.axis):
                    raise NoFit(f"a countersunk head lies flush in a flat face; at place {p.numbers[f.number]} of the {p.name} it would lie in the inner face of a tapered flange", right="the flange's outer face, or hexagon heads with taper washers")
                if ply.member >= 0:
                    holes += [replace(h, kind="tapped" if tapped else p.kind) for h in drilled(case, ply.member, [at], p.axis, width, length, p.way, sink)]
                else:
                    number = next(k for k, x in made.items() if x.name == ply.owner)
                    made[number] = _with_hole(made[number], ply.element, at, replace_(p, width=width, length=length, kind="tapped" if tapped else p.kind, bolts=p.bolts or tapped, sink=sink))
        if p.bolts:
            groups.append(probe)
    return made, groups, holes


def parts_of(made: "dict[int, Made]") -> "tuple[tuple[Plate, ...], tuple[Piece, ...], tuple[BentPlate, ...]]":
    """The parts by what they are."""
    some = list(made.values())
    return tuple(x for x in some if isinstance(x, Plate)), tuple(x for x in some if isinstance(x, Piece)), tuple(x for x in some if isinstance(x, BentPlate))


def _hole_at(frame: Frame, at: Array, p: Pattern) -> Hole:
    x, y, _ = frame.to_local(at[None])[0]
    way = frame.unturn(p.way)
    wide, angle = p.sink
    return Hole(float(x), float(y), p.width, p.length, math.atan2(float(way[1]), float(way[0])), p.kind if p.bolts else "vent", wide, angle, float(frame.unturn(p.axis)[2]) < 0)  # type: ignore[arg-type]


def _with_hole(part: Made, element: str, at: Array, p: Pattern) -> Made:
    """A part with one more hole where an axis passes it."""
    if isinstance(part, Plate):
        return replace(part, holes=(*part.holes, _hole_at(part.frame, at, p)))
    if isinstance(part, BentPlate):
        leg = int(element.split()[1]) - 1
        flats = list(part.flats)
        flats[leg] = Flat(flats[leg].length, (*flats[leg].holes, _hole_at(part.legs[leg].frame, at, p)))
        return replace(part, flats=tuple(flats))
    hole = MemberHole(0, "", vec(at), vec(p.axis), p.width, p.length, vec(p.way), p.kind, *p.sink)  # type: ignore[arg-type]
    (own,) = named(Cuts((), (), (hole,)).seen_from(part.frame), part.shape).holes
    return replace(part, cuts=part.cuts + Cuts((), (), (laid(own, part.shape),)))


def _leans(m: CaseMember, element: str, axis: Array) -> bool:
    """Whether an axis goes into a member by the inner face of a tapered flange."""
    found = next((e for e in m.shape.elements if e.name == element), None)
    return bool(m.shape.slope and found is not None and found.normal == "z" and found.at * float(m.frame.unturn(axis)[2]) > 0)
