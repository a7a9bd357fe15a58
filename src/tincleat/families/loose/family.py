"""Loose parts on a member: plates, bent plates, pieces, bolts, holes, welds and cuts, listed part by part.

Joint frame: origin on the member's middle line at the station, x along the member, z up its depth where that may be.
"""

from collections.abc import Iterator, Mapping
from contextlib import contextmanager, suppress

import msgspec
import numpy as np
import shapely

from tincleat.catalogue.grooves import groove, right_ones
from tincleat.details.assembled import Assembled, Ply
from tincleat.details.fittings import Stud
from tincleat.details.parts import Detail, Piece, Plate, Plug, Switch, Weld, mirrored_at
from tincleat.errors import BadValue, NoFit, TinCleatError
from tincleat.families.declare import Family, Given
from tincleat.families.example import a_girder, at_station
from tincleat.families.loose.bolts import Pattern, drill, parts_of, pattern_on, plugs_of, studs_of
from tincleat.families.loose.butts import CUT as CUT_BETWEEN
from tincleat.families.loose.butts import butt, flush
from tincleat.families.loose.cuts import Taken, cut_in
from tincleat.families.loose.handles import handles
from tincleat.families.loose.pieces import piece_on
from tincleat.families.loose.place import Face, Made, face_of_member, face_of_part, plane_of
from tincleat.families.loose.plates import bent_on, plate_on
from tincleat.families.loose.settings import (
    ALL,
    ALONG,
    AS_DRAWN,
    BACKS,
    BENT,
    BOLTS,
    CUT,
    FLAT,
    FRONTS,
    HOLES_ONLY,
    LEFT_SIDES,
    MOST,
    PIECE,
    PLANE,
    PLATE,
    PLUGS,
    RIGHT_SIDES,
    SETTINGS,
    SIDES,
    STUDS,
    WELD,
)
from tincleat.families.loose.sheet import dimensions, views
from tincleat.families.loose.welds import NEARBY, backing, flares, groove_welds, preparation, prepared, root_radius, round_stub, runs, tail_of
from tincleat.geometry.frames import Array
from tincleat.joints.case import Case, mirror_case
from tincleat.kit.seams import Bar
from tincleat.project.entities import HouseRules, Value

replace = msgspec.structs.replace
ON_IT = 1.0  # mm off a face that a picked point still lies on it
BESIDE = 0.5  # mm beside a standing plate where there is steel, unless it stands at an edge


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit unless this is a stretch of a member."""
    if case.kind != "along":
        raise NoFit(f"loose parts lie on a member; this is a {case.kind}", right="a member and a distance from its start, such as m12@2500")


def numbers_of(given: Given) -> list[int]:
    """The parts there are, by number: those whose kind is told; a plate where none is."""
    found = sorted({int(name.partition("/")[2]) for name in given.typed if "/" in name})
    return found or [1]


def build(case: Case, given: Given) -> Detail:
    """The parts as they are told, or their mirror image."""
    if given.value("hand") == AS_DRAWN:
        return _as_drawn(case, given)
    there = mirror_case(case)
    return mirrored_at(_as_drawn(there, given), case)


def _as_drawn(case: Case, given: Given) -> Detail:
    """Each part where it is told to lie, in the order of their numbers; then cuts, bolts and holes through what is there, then welds."""
    some = {k: given.each(k, MOST) for k in numbers_of(given)}
    kinds = {k: str(one.value("part")) for k, one in some.items()}
    made: dict[int, Made] = {}
    taken_out: dict[int, Taken] = {}
    patterns: list[Pattern] = []
    welds: list[Weld] = []
    bars: list[Plate] = []
    switches: list[Switch] = []
    for k in (k for k in some if kinds[k] in (PLATE, BENT, PIECE)):
        with _about(k, kinds[k]):
            made[k] = _laid(case, some[k], k, kinds[k], made)
    for k in (k for k in some if kinds[k] == CUT):
        with _about(k, CUT):
            face = _face(case, some[k], made)
            if not face.owner:
                raise NoFit("there is no steel behind a plane of its own", right="a face of the member or of a part")
            taken = cut_in(some[k], face, f"cut {k}", made)
            if taken is not None:
                taken_out[k] = taken
    for k in (k for k in some if kinds[k] in (BOLTS, HOLES_ONLY)):
        with _about(k, kinds[k]):
            patterns.append(pattern_on(some[k], _face(case, some[k], made), f"{kinds[k]} {k}", kinds[k]))
    rows: list[Pattern] = []  # of studs and plug welds
    studs: list[Stud] = []
    for k in (k for k in some if kinds[k] == STUDS):
        with _about(k, STUDS):
            rows.append(pattern_on(some[k], _face(case, some[k], made), f"{STUDS} {k}", STUDS))
            studs += studs_of(some[k], rows[-1])
    plugs: list[Plug] = []
    for k in (k for k in some if kinds[k] == PLUGS):
        with _about(k, PLUGS):
            face = _face(case, some[k], made)
            number = next((i for i, x in made.items() if x.name == face.owner), 0)
            if not number:
                raise NoFit("a plug weld fills a hole of a plate among the parts", right="the face of one, such as part 1")
            rows.append(pattern_on(some[k], face, f"{PLUGS} {k}", PLUGS))
            plugs += plugs_of(case, some[k], number, rows[-1], made, tail_of(some[k]))
    fillets = []
    told = {k: part.frame for k, part in made.items()}
    for k in (k for k in some if kinds[k] == WELD):
        with _about(k, WELD):
            if not _grooved(case, some[k], k, some, made, welds, bars):
                fillets.append(k)
    laid = {k for k, part in made.items() if str(some[k].value("stands")) == FLAT and part.frame != told[k]}  # to the opening of a weld
    made, groups, holes = drill(case, given.house.rule_set, made, patterns)
    plates, pieces, bents = parts_of(made)
    bare = Detail("loose parts", plates, tuple(groups), pieces=pieces, bents=bents, fittings=tuple(studs), plugs=tuple(plugs), notches=tuple(t.notch for t in taken_out.values() if t.notch is not None), holes=tuple(holes))
    plies: dict[str, list[Ply]] = {}
    for p in Assembled(case, bare, given.house.rule_set).plies if fillets else ():
        plies.setdefault(p.owner, []).append(p)
    for k in fillets:
        with _about(k, WELD):
            fillets_, places = _filleted(case, some[k], k, made, plies)
            welds += fillets_
            switches += places
    faces = {k: _face(case, one, made) for k, one in some.items() if kinds[k] != WELD}
    shown = views(case, made, [*patterns, *rows], taken_out, studs)
    return replace(
        bare, plates=(*plates, *bars), welds=tuple(welds), numbers=tuple(given.numbers.values()), dimensions=dimensions(made, [*patterns, *rows], taken_out, faces, some, shown, laid), views=shown,
        handles=handles(made, [*patterns, *rows], taken_out, faces, some), switches=(*(s for p in (*patterns, *rows) for s in p.switches), *switches),
    )  # fmt: skip


def faces(case: Case, given: Given) -> "dict[str, Face]":
    """All faces that there are to lie on by the name a setting calls them by, of the parts as they are told, in the frame of ``case``; what
    cannot be laid, or has no such face, is left out."""
    some = {k: given.each(k, MOST) for k in numbers_of(given)}
    made: dict[int, Made] = {}
    out: dict[str, Face] = {}
    for k, one in some.items():
        if (kind := str(one.value("part"))) in (PLATE, BENT, PIECE):
            with suppress(TinCleatError):
                made[k] = _laid(case, one, k, kind, made)
    for name in SIDES:
        with suppress(TinCleatError):
            out[name] = face_of_member(case.members[0], name)
    for names in (FRONTS, BACKS, LEFT_SIDES, RIGHT_SIDES):
        for name in names[: max(made, default=0)]:
            with suppress(TinCleatError):
                out[name] = face_of_part(name, made)
    return out


def picked(case: Case, typed: Mapping[str, Value], house: HouseRules, number: int, points: Array) -> dict[str, Value]:
    """Settings with which weld ``number`` runs between picked points (n, 3) of the frame of ``case``, mm: the face that they lie on, the one
    it is told to be on before others, and where on it; raises NoFit where they lie on no one face, or on one another."""
    given = Given({s.name: s for s in SETTINGS}, typed, house)
    if given.value("hand") != AS_DRAWN:
        case, points = mirror_case(case), points * (1.0, -1.0, 1.0)
    known = faces(case, given)
    first = str(given.each(number, MOST).value("on"))
    off = {name: float(np.abs((points - f.at) @ f.n).max()) for name, f in known.items()}
    best = min(off, key=lambda name: (off[name] > ON_IT, off[name] if off[name] > ON_IT else 0.0, name != first))
    if off[best] > NEARBY:
        raise NoFit(f"the points lie {off[best]:.0f} mm off {best}, the nearest face there is", right=f"points of one face, within {NEARBY:g} mm of it")
    face = known[best]
    flat = np.column_stack([(points - face.at) @ face.u, (points - face.at) @ face.v])
    if (np.linalg.norm(np.diff(flat, axis=0), axis=1) < 3.0).any():
        raise NoFit("two of the points lie on one another", right="points at least 3 mm apart")
    return {f"on/{number}": best, f"line/{number}": tuple(round(float(v), 1) + 0.0 for v in flat.ravel())}


@contextmanager
def _about(number: int, kind: str) -> Iterator[None]:
    """Say of what is refused which part it is about."""
    try:
        yield
    except BadValue as error:
        raise BadValue(f"part {number}, {kind}: {error.what}", error.where, error.right) from None
    except TinCleatError as error:
        raise NoFit(f"part {number}, {kind}: {error.what}", right=error.right) from None


def _face(case: Case, one: Given, made: "dict[int, Made]") -> Face:
    """The face that a part lies on."""
    name = str(one.value("on"))
    if name == PLANE:
        return plane_of(case.members[0], float(one.value("plane_turn")), float(one.value("plane_lean")))
    return face_of_member(case.members[0], name) if name in SIDES else face_of_part(name, made)


def _laid(case: Case, one: Given, number: int, kind: str, made: "dict[int, Made]") -> Made:
    face = _face(case, one, made)
    step = 6.35 if one.house.inch else 5.0
    if kind == PLATE:
        return plate_on(one, face, f"plate {number}", step)
    return bent_on(one, face, f"bent plate {number}") if kind == BENT else piece_on(one, face, f"piece {number}", case.members[0])


def _grooved(case: Case, one: Given, number: int, some: "dict[int, Given]", made: "dict[int, Made]", welds: list[Weld], bars: list[Plate]) -> bool:
    """A plate that a prepared weld is of: lifted, bevelled, welded through, on its bar where it has one; False if the weld is a fillet."""
    of = FRONTS.index(str(one.value("of"))) + 1
    plate = made.get(of)
    if plate is None:
        raise NoFit(f"there is no plate or piece {of} to weld", right=_there(made))
    to = str(one.value("to"))
    other = made.get(FRONTS.index(to) + 1) if to in FRONTS else None
    if isinstance(plate, Plate) and isinstance(other, Plate) and other is not plate and flush(plate, other):
        _all_along(one, "a groove between two plates")
        found = preparation(one, plate.thickness, "B", CUT_BETWEEN)
        if found is None:
            raise NoFit(f"{plate.name} and {other.name} lie edge to edge in one plane: no fillet has room there", right="a groove: " + ", ".join(n for n in right_ones("B", plate.thickness, "ISO 9692-1") if groove(n).groove in CUT_BETWEEN))
        site = bool(one.value("site")) if one.has("site") else False
        plates, pieces, bents = parts_of(made)
        there = Assembled(case, Detail("loose parts", plates, pieces=pieces, bents=bents), one.house.rule_set)
        made[of], made[FRONTS.index(to) + 1], some_welds, bar = butt(there, plate, other, found, root_radius(one, found), f"weld {number} {found.designation}", site, tail_of(one))
        welds += some_welds
        bars += [replace(bar, name=f"backing {number}")] if bar is not None else []
        return True
    standing = isinstance(plate, Plate) and str(some[of].value("stands")) != FLAT
    corner = isinstance(plate, Plate) and standing and _at_corner(case, plate, _face(case, some[of], made), made, one.house)
    found = preparation(one, plate.shape.tw if isinstance(plate, Piece) else plate.thickness, "C" if corner else "T")
    if found is None:
        return False
    _all_along(one, "a prepared groove")
    if not isinstance(plate, Plate) or not standing:
        raise NoFit(f"{plate.name} does not stand upright on a face: no edge of it is prepared", right=f"a plate that stands {ALONG!r}, or a fillet")
    owner = _face(case, some[of], made).owner
    if not owner:
        raise NoFit(f"{plate.name} stands on a plane of its own: there is nothing to weld it to", right="a face of the member or of a part")
    radius = root_radius(one, found)
    made[of] = plate = prepared(plate, found, radius)
    site = bool(one.value("site")) if one.has("site") else False
    welds += groove_welds(plate, found, radius, f"weld {number} {found.designation}", owner, site, tail_of(one))
    if found.root == "backing":
        bars.append(backing(plate, found, f"backing {number}"))
    return True


def _at_corner(case: Case, plate: Plate, face: Face, made: "dict[int, Made]", house: HouseRules) -> bool:
    """Whether an upright plate stands at the edge of what it stands on, with no steel of that beside one of its faces."""
    plates, pieces, bents = parts_of(made)
    plies = [p for p in Assembled(case, Detail("loose parts", plates, pieces=pieces, bents=bents), house.rule_set).plies if p.owner == face.owner and abs(float(np.dot(p.frame.z, plate.frame.y))) > 0.99]
    x0, y0, x1, _ = plate.outline.bounds
    beside = plate.frame.to_world([((x0 + x1) / 2, y0, -BESIDE), ((x0 + x1) / 2, y0, plate.thickness + BESIDE)])
    there = np.zeros(2, dtype=bool)
    for p in plies:
        flat = p.frame.to_local(beside)
        there |= (np.minimum(abs(flat[:, 2]), abs(flat[:, 2] - p.thickness)) < ON_IT) & shapely.contains_xy(p.polygon, flat[:, 0], flat[:, 1])
    return bool(plies) and not there.all()


def _all_along(one: Given, what: str) -> None:
    """Raise NoFit where points are told for a weld that goes along all there is of its edge."""
    if one.has("line"):
        raise NoFit(f"{what} goes along all of its edge; points between which it runs are told", right="no points, or a fillet along straight edges")


def _there(made: "dict[int, Made]") -> str:
    """The plates and pieces there are, in words."""
    return "one of the parts " + ", ".join(map(str, made)) if made else "a plate or piece first"


def _filleted(case: Case, one: Given, number: int, made: "dict[int, Made]", plies: "dict[str, list[Ply]]") -> tuple[list[Weld], list[Switch]]:
    of = FRONTS.index(str(one.value("of"))) + 1
    part = made.get(of)
    if part is None:
        raise NoFit(f"there is no plate or piece {of} to weld", right=_there(made))
    to = str(one.value("to"))
    wanted = made[FRONTS.index(to) + 1].name if to in FRONTS and FRONTS.index(to) + 1 in made else to
    if isinstance(part, Piece) and part.shape.shape in ("RHS", "CHS", "RD") and (along := flares(one, f"weld {number}", part, {n: x for n, x in plies.items() if wanted in (n, ALL)})):
        _all_along(one, "a flare beside a tube")
        return along, []
    if isinstance(part, Piece) and part.shape.shape in ("CHS", "RHS"):
        _all_along(one, "a fillet round a tube")
        return round_stub(one, f"weld {number}", part, plies), []
    others = [(owner, some) for owner, some in plies.items() if owner != part.name and wanted in (owner, ALL)]
    line = None
    if one.offered("line"):
        told, face = [float(v) for v in one.value("line")], _face(case, one, made)
        line = np.array([face.point(a, b) for a, b in zip(told[::2], told[1::2], strict=True)])
    return runs(one, f"weld {number}", (part.name, plies.get(part.name, [])), others, [b for b in _bars(case, made) if b.owner != part.name and wanted in (b.owner, ALL)], [p for some in plies.values() for p in some], line)


def _bars(case: Case, made: "dict[int, Made]") -> list[Bar]:
    """The round tubes and bars there are: the member, and pieces."""
    m = case.members[0]
    out = [Bar("member", m.frame, m.shape.h, m.low, m.high)] if m.shape.shape in ("CHS", "RD") else []
    for p in made.values():
        if isinstance(p, Piece) and p.shape.shape in ("CHS", "RD"):
            out.append(Bar(p.name, p.frame, p.shape.h, 0.0, p.length))
    return out


FAMILY = Family(
    "loose", "Loose parts", ("loose plate", "lug", "flat bar", "packer holes", "hole group", "bolt group", "hand weld", "bent plate", "cope", "vent hole", "shear stud", "headed stud", "plug weld", "slot weld", "by hand"), ("along",), SETTINGS, fits, build,
    {
        "edge-least": ("length", "width"), "edge-greatest": ("length", "width"), "fillet-throat": ("leg",), "fillet-leg-least": ("leg",), "fillet-leg-greatest": ("leg",), "fillet-length": ("stitch", "leg"),
        "plate-stock": ("thickness",), "plate-step": ("length", "width"), "spacing-least": ("rows", "lines"), "spacing-greatest": ("rows", "lines"), "bend-radius": ("radius",), "sink-ply": ("bolt", "thickness"), "thread-depth": ("bolt",),
        "plug-width": ("hole_width",), "plug-width-most": ("hole_width",), "plug-depth": ("fill",), "plug-long": ("hole_length",), "plug-spacing": ("rows", "lines"), "stud-height": ("length", "stud"), "stud-flange": ("stud",), "stud-edge": ("lines", "across"), "stud-along": ("rows",), "stud-across": ("lines",), "stud-apart": ("rows",),
    },
    parts=MOST, situations=("loose",), example=at_station(a_girder("UB 457x191x67"), typed={"part/1": "plate"}),
)  # fmt: skip
