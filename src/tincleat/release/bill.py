"""Bill of materials and bolt list: equal parts counted together, weighed in closed form."""

import math
from collections import Counter
from collections.abc import Hashable, Iterator
from dataclasses import dataclass, field

from tincleat.catalogue.fasteners import anchor_size, bolt_size
from tincleat.catalogue.sections import STEEL_DENSITY, section
from tincleat.catalogue.timber import density
from tincleat.details.parts import BentPlate, Detail, Hole, Plate
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.steel import worked_of
from tincleat.project.entities import MARKS
from tincleat.steel.likes import worked
from tincleat.units import format_length, format_plate

MOST_NAMED = 12  # places a line names; of more it says so


@dataclass(frozen=True)
class Line:
    """One line of the bill of materials: lengths mm, masses kg."""

    mark: str
    kind: str
    name: str
    size: str
    grade: str
    length: float
    count: int
    mass_each: float
    where: str

    @property
    def mass(self) -> float:
        """Mass of all of them, kg."""
        return self.mass_each * self.count


@dataclass(frozen=True)
class BoltLine:
    """One line of the bolt list: all bolts of one size, grade and length."""

    kind: str
    size: str
    grade: str
    length: float
    grip_least: float
    grip_most: float
    count: int
    nuts: int
    washers: int
    where: str


@dataclass
class _Count:
    line: Line
    count: int = 0
    names: dict[str, None] = field(default_factory=dict)


@dataclass
class _Bolted:
    grips: list[float] = field(default_factory=list)
    nuts: int = 0
    washers: int = 0
    where: dict[str, None] = field(default_factory=dict)

    def add(self, grip: float, nuts: int, washers: int, where: str) -> None:
        self.grips.append(grip)
        self.nuts += nuts
        self.washers += washers
        self.where[where] = None


def bill(ledger: Ledger) -> list[Line]:
    """All members, plates and pieces, and anchor rods, equal ones together, in that order; marks are A…, P…, R… by falling size, or as the house
    rules have them."""
    project = ledger.project
    found: dict[Hashable, _Count] = {}

    alike: dict[tuple[int, str, str], _Count] = {}  # likes share one object: its long signature is looked at once
    for m in project.members.values():
        known = worked_of(ledger, m.id)
        mine = (id(known), m.grade, m.role)
        count = alike.get(mine)
        if count is None:
            shape = section(m.section)
            line = Line("", "timber" if shape.timber else m.role, "member", m.section, m.grade, known.length, 0, known.volume * density(shape, m.grade), "")
            count = alike[mine] = found.setdefault(("A", m.grade, m.role, known.signature), _Count(line))
        count.count += 1
        count.names[m.name] = None
    # a detail's lines are worked out once, for all the places it is made at
    groups: dict[int, tuple[Detail, list[str]]] = {}
    for entry in ledger.entries.values():
        if entry.made is not None and entry.connection is not None:
            groups.setdefault(id(entry.made), (entry.made.detail, []))[1].append(entry.connection.id)
    for detail, names in groups.values():
        for same, line in _lines_of(detail, project.house.units):
            one = found.setdefault(same, _Count(line))
            one.count += len(names)
            one.names |= dict.fromkeys(names[: MOST_NAMED + 1])
    out: list[Line] = []
    house, numbers = project.house, Counter[str]()
    for letter, marked in (("A", "member"), ("P", "plate"), ("R", "rod")):
        mine_ = [c for key, c in found.items() if isinstance(key, tuple) and key[0] == letter]
        mine_.sort(key=lambda c: (c.line.kind, -c.line.mass_each, c.line.size))
        for c in mine_:
            line = c.line
            first = house.marks.get(line.kind) or house.marks.get(marked) or MARKS[marked]
            number = house.mark_start + numbers[first]  # one run of numbers for each prefix, whoever else bears it
            numbers[first] += 1
            out.append(Line(f"{first}{house.mark_separator}{number}", line.kind, line.name, line.size, line.grade, line.length, c.count, line.mass_each, where_words(c.names)))
    return out


def _lines_of(detail: Detail, units: str) -> Iterator[tuple[Hashable, Line]]:
    """A line for every plate, piece, rod and fitting of a detail, with what makes it one with others."""
    for plate in detail.plates:
        x0, y0, x1, y1 = plate.outline.bounds
        wide, high = sorted((x1 - x0, y1 - y0))
        size = format_plate(plate.thickness, wide, high, units)
        yield ("P", *_plate_key(plate)), Line("", "plate", plate.name, size, plate.grade, high, 0, plate.volume * STEEL_DENSITY, "")
    for bent in detail.bents:
        size = format_plate(bent.thickness, bent.high - bent.low, bent.developed, units)
        angles = " and ".join(f"{abs(math.degrees(a)):.3g}°" for a in bent.turns)
        words = f"{bent.name}, bent {angles}, {format_length(bent.radius, units, mark=True)} inside"
        yield ("P", "bent", *_bent_key(bent)), Line("", "plate", words, size, bent.grade, bent.developed, 0, bent.volume * STEEL_DENSITY, "")
    for piece in detail.pieces:
        known = worked(piece.shape, piece.length, piece.cuts)
        line = Line("", "piece", piece.name, piece.section, piece.grade, known.length, 0, known.volume * STEEL_DENSITY, "")
        yield ("P", "piece", piece.grade, known.signature), line
    for tie in detail.ties:
        mass = tie.length * bolt_size(tie.size).d ** 2 * 0.7853981633974483 * STEEL_DENSITY
        threaded = " and ".join(format_length(t, units) for t in tie.threads) if any(tie.threads) else "none"
        line = Line("", "rod", f"threads {threaded}", tie.size, tie.grade, tie.length, 0, mass, "")
        yield ("R", "tie", tie.size, tie.grade, round(tie.length, 1), tuple(sorted(round(t, 1) for t in tie.threads))), line
    for f in detail.fittings:
        yield ("R", "fitting", f.words, f.size), Line("", "fitting", f.words, f.size, f.grade, f.length, 0, f.volume * STEEL_DENSITY, "")
    for rod in detail.rods:
        length = rod.top - rod.bottom
        mass = length * anchor_size(rod.size).d ** 2 * 0.7853981633974483 * STEEL_DENSITY
        yield ("R", rod.size, rod.grade, rod.foot, round(length, 1)), Line("", "anchor rod", f"{rod.foot} end", rod.size, rod.grade, length, 0, mass, "")


def _bored(h: Hole, sense: int = 1) -> tuple[float, ...]:
    """What makes holes equal beside where they are: how wide, which way a slot lies (a half turn brings it on itself), thread and countersink."""
    way = round(h.angle * sense % math.pi, 3) % round(math.pi, 3) if h.length > h.width else 0.0
    return h.width, h.length, way, h.kind == "tapped", round(h.sink, 1), round(h.sink_angle, 3)


def _plate_key(plate: Plate) -> tuple[Hashable, ...]:
    """Equal for plates cut alike, wherever their frame sits; mirror images differ."""
    x0, y0, _, _ = plate.outline.bounds
    outline = tuple((round(x - x0, 1), round(y - y0, 1), round(b, 4)) for x, y, b in plate.outline.vertices)
    holes = tuple(sorted((round(h.x - x0, 1), round(h.y - y0, 1), *_bored(h), h.sink_top) for h in plate.holes))
    trims = tuple((round(e.point[0] - x0, 1), round(e.point[1] - y0, 1), round(e.point[2], 1), *(round(v, 4) for v in e.normal)) for e in plate.trims)
    scoops = tuple((*(round(a - b, 1) for a, b in zip((*s.start[:2], *s.stop[:2]), (x0, y0, x0, y0), strict=True)), *(round(v, 4) for v in (*s.into, *s.up)), round(s.land, 2), round(s.radius, 2), round(s.angle, 4), round(s.depth, 2)) for s in plate.scoops)
    return (plate.name.split(" near")[0].split(" far")[0], round(plate.thickness, 3), plate.grade, outline, holes, trims, scoops)


def _bent_key(b: BentPlate) -> tuple[Hashable, ...]:
    """Equal for bent plates made alike: read from either end, from either edge or face that is the same strip; mirror images differ."""

    def read(backward: bool, over: bool) -> tuple[Hashable, ...]:
        # run from its other end a strip keeps its bends' sense and shows its other edge first; turned over, its bends change sense
        way = -1 if backward else 1
        flats = []
        for f in b.flats[::way]:
            spots = []
            for h in f.holes:
                across = h.y - b.low if backward == over else b.high - h.y
                spots.append((round(f.length - h.x if backward else h.x, 1), round(across, 1), *_bored(h, -1 if over else 1), bool(h.sink) and h.sink_top != over))
            flats.append((round(f.length, 1), tuple(sorted(spots))))
        return tuple(flats), tuple(round(-a if over else a, 4) for a in b.turns[::way])

    ways = [read(backward, over) for backward in (False, True) for over in (False, True)]
    return (round(b.thickness, 3), round(b.radius, 2), round(b.high - b.low, 1), b.grade, min(ways, key=repr))


def bolt_list(ledger: Ledger) -> list[BoltLine]:
    """All bolts by size, grade and length with nuts and washers, then the anchor rods."""
    found: dict[tuple[str, ...], _Bolted] = {}
    for entry in ledger.entries.values():
        if entry.made is None or entry.connection is None:
            continue
        for fitted in entry.made.assembled.fitted:
            group = entry.made.detail.bolts[fitted.group]
            sunk = group.head == "countersunk"
            key = (f"{'site' if group.site else 'shop'} {'countersunk ' if sunk else ''}bolt", group.size, group.grade, f"{fitted.length:.2f}")
            washers = 0 if sunk and not group.nut else group.washers
            found.setdefault(key, _Bolted()).add(fitted.grip, int(group.nut), washers, entry.connection.id)
            for t in fitted.tapers:
                key = ("taper washer", group.size, f"slope {t.slope:.0%}", f"{t.side:.2f}")
                found.setdefault(key, _Bolted()).add(0.0, 0, 0, entry.connection.id)
        for tie in entry.made.detail.ties:
            if tie.nuts:
                key = ("rod", tie.size, tie.grade, f"{tie.length:.2f}")
                found.setdefault(key, _Bolted()).add(0.0, len(tie.nuts), len(tie.nuts) if tie.washers else 0, entry.connection.id)
        for rod in entry.made.detail.rods:
            key = ("anchor rod", rod.size, rod.grade, f"{rod.top - rod.bottom:.2f}")
            found.setdefault(key, _Bolted()).add(0.0, len(rod.nuts), len(rod.washers), entry.connection.id)
    return [
        BoltLine(key[0], key[1], key[2], float(key[3]), min(row.grips), max(row.grips), len(row.grips), row.nuts, row.washers, where_words(row.where))
        for key, row in sorted(found.items(), key=lambda kv: (kv[0][0], _size(kv[0]), float(kv[0][3])))
    ]


def where_words(names: dict[str, None]) -> str:
    """The first names of many."""
    return ", ".join(list(names)[:MOST_NAMED]) + (" …" if len(names) > MOST_NAMED else "")


def _size(key: tuple[str, ...]) -> float:
    return anchor_size(key[1]).d if key[0] == "anchor rod" else bolt_size(key[1]).d


def total_mass(ledger: Ledger) -> float:
    """Mass of all steel members and plates in kg (rods, bolts, what is bought for rods, and timber are not weighed in)."""
    return sum(line.mass for line in bill(ledger) if line.kind not in ("anchor rod", "rod", "fitting", "timber"))
