"""Bolts, holes and anchor rods from the data files."""

import math
from dataclasses import dataclass, replace
from functools import cache, lru_cache
from typing import Literal

from tincleat.catalogue.tables import number, rows
from tincleat.errors import BadValue, NotFound

HoleKind = Literal["normal", "oversize", "short slot", "long slot"]
HOLE_KINDS: tuple[HoleKind, ...] = ("normal", "oversize", "short slot", "long slot")


@dataclass(frozen=True)
class BoltSize:
    """One bolt size, mm: head and nut across flats ``head_af``, washer, thread length, room for the socket."""

    name: str
    system: str
    d: float
    pitch: float
    stress_area: float
    head_af: float
    head_height: float
    nut_height: float
    washer_d: float
    washer_t: float
    thread: float
    socket: float
    clear: float
    add: float  # to the grip, for nut and stick-through (RCSC 2020 table C-2.2); 0 where the length follows from nut and pitch

    @property
    def stock_step(self) -> float:
        """Step of stocked lengths: 5 mm, or 1/4 in for inch bolts."""
        return 6.35 if self.system == "in" else 5.0

    def off_steel(self, leg: float) -> float:
        """Least distance of a bolt's axis from steel that stands beside it with a fillet of ``leg`` at its foot, mm: the socket, which begins over
        the washer, passes the fillet, and the washer lies off it."""
        return max(self.clear, self.socket / 2 + leg - self.washer_t + 0.5, leg + self.washer_d / 2)

    def least_length(self, grip: float, washers: int) -> float:
        """Least shank length for a grip (mm): washers, nut and one thread pitch beyond it (EN 1090-2 8.2.2); of inch bolts flush with the nut (RCSC 2.3.2)."""
        if self.add:
            return grip + washers * self.washer_t + self.nut_height
        return grip + washers * self.washer_t + self.nut_height + self.pitch

    def stocked_length(self, grip: float, washers: int, stock: tuple[float, ...] = ()) -> float:
        """The least stocked length, mm: not below :meth:`least_length`; of inch bolts with the usual stick-through and 5/32 in a washer.
        Of the lengths in ``stock``, where one of them is long enough; else of the usual ones, every :attr:`stock_step`."""
        least = grip + self.add + washers * 3.96875 if self.add else self.least_length(grip, washers)
        return self.least_stocked(least, stock)

    def least_stocked(self, least: float, stock: tuple[float, ...] = ()) -> float:
        """The least length of those in ``stock`` that is ``least`` or more, mm; of the usual ones where none is."""
        return min((s for s in stock if s >= least - 1e-6), default=math.ceil(least / self.stock_step - 1e-9) * self.stock_step)

    def thread_length(self, length: float) -> float:
        """Threaded part of a bolt of the given length, mm (ISO 888: 2d+6 to 125 mm, 2d+12 to 200, 2d+25 over; inch: fixed)."""
        if self.system == "in":
            return min(self.thread, length)
        return min(2 * self.d + (6 if length <= 125 else 12 if length <= 200 else 25), length)


@dataclass(frozen=True)
class AnchorSize:
    """One anchor rod size, mm: nut, hole in the base plate, square plate washer."""

    name: str
    d: float
    pitch: float
    stress_area: float
    nut_af: float
    nut_height: float
    hole: float
    washer_side: float
    washer_t: float


@dataclass(frozen=True)
class StudSize:
    """A headed stud for welding, mm: shank, head, and the collar that welding leaves at its foot."""

    name: str
    d: float
    head_d: float
    head_height: float
    collar_d: float
    collar_height: float


@cache
def stud_sizes() -> dict[str, StudSize]:
    """All studs by name."""
    keys = ("d", "head_d", "head_height", "collar_d", "collar_height")
    return {r["size"]: StudSize(r["size"], *(number(r, k) for k in keys)) for r in rows("studs")}


def stud_size(name: str) -> StudSize:
    """The stud called ``name``; raises :class:`NotFound` with the sizes there are."""
    try:
        return stud_sizes()[name]
    except KeyError:
        raise NotFound(f"there is no stud {name!r}", right=f"one of {', '.join(stud_sizes())}") from None


@cache
def bolt_sizes() -> dict[str, BoltSize]:
    """All bolt sizes by name, in rising order a system."""
    keys = ("d", "pitch", "stress_area", "head_af", "head_height", "nut_height", "washer_d", "washer_t", "thread", "socket", "clear", "add")
    return {r["size"]: BoltSize(r["size"], r["system"], *(number(r, k) for k in keys)) for r in rows("bolts")}


@cache
def anchor_sizes() -> dict[str, AnchorSize]:
    """All anchor rod sizes by name."""
    keys = ("d", "pitch", "stress_area", "nut_af", "nut_height", "hole", "washer_side", "washer_t")
    return {r["size"]: AnchorSize(r["size"], *(number(r, k) for k in keys)) for r in rows("anchors")}


@cache
def countersunk_heads() -> dict[str, tuple[float, float]]:
    """Countersunk heads by bolt size: their diameter at the face, mm, and the angle of their cone, rad."""
    return {r["size"]: (number(r, "head_d"), math.radians(number(r, "angle"))) for r in rows("countersunk")}


def countersunk_head(name: str) -> tuple[float, float]:
    """Diameter at the face (mm) and angle (rad) of the countersunk head of a bolt size; raises :class:`NotFound` with the sizes there are."""
    try:
        return countersunk_heads()[name]
    except KeyError:
        raise NotFound(f"no countersunk head is listed for {name!r}", right=f"one of {', '.join(countersunk_heads())}") from None


def bolt_size(name: str, room: float = 0.0) -> BoltSize:
    """The bolt size called ``name``, with ``room`` mm more beside it than its socket needs; raises :class:`NotFound` with the sizes there are."""
    try:
        return _roomy(name, room) if room else bolt_sizes()[name]
    except KeyError:
        raise NotFound(f"there is no bolt size {name!r}", right=f"one of {', '.join(bolt_sizes())}") from None


@lru_cache(maxsize=256)
def _roomy(name: str, room: float) -> BoltSize:
    size = bolt_sizes()[name]
    return replace(size, clear=size.clear + room, socket=size.socket + 2 * room)


def anchor_size(name: str) -> AnchorSize:
    """The anchor rod size called ``name``; raises :class:`NotFound` with the sizes there are."""
    try:
        return anchor_sizes()[name]
    except KeyError:
        raise NotFound(f"there is no anchor rod size {name!r}", right=f"one of {', '.join(anchor_sizes())}") from None


@cache
def _hole_rows() -> dict[tuple[str, str], dict[str, str]]:
    return {(r["set"], r["size"]): r for r in rows("holes")}


@cache
def hole_size(rules: str, bolt: str, kind: str) -> tuple[float, float]:
    """Width and over-all length (mm) of the hole for a bolt; equal for round holes.

    A size the rule set does not list takes the other set's row (a metric bolt under either, an inch bolt only AISC).
    """
    if kind not in HOLE_KINDS:
        raise BadValue(f"unknown hole {kind!r}", right=f"one of {', '.join(HOLE_KINDS)}")
    table = _hole_rows()
    row = table.get((rules, bolt)) or table.get(("AISC", bolt)) or table.get(("EN", bolt))
    if row is None:
        raise NotFound(f"no hole is listed for bolt {bolt!r}")
    if kind == "normal":
        return number(row, "normal"), number(row, "normal")
    if kind == "oversize":
        return number(row, "oversize"), number(row, "oversize")
    name = kind.split()[0]
    return number(row, f"{name}_width"), number(row, f"{name}_length")


@cache
def strengths(table: Literal["grades", "bolt_grades"], grade: str) -> tuple[float, float]:
    """Yield and ultimate strength in N/mm² of a steel grade or bolt class."""
    for row in rows(table):
        if row["grade"] == grade:
            values = [v for k, v in row.items() if k.startswith("f")]
            return float(values[0]), float(values[1])
    raise NotFound(f"there is no grade {grade!r}", right="one of " + ", ".join(r["grade"] for r in rows(table)))


@cache
def grade_names(table: Literal["grades", "bolt_grades"], use: str = "") -> tuple[str, ...]:
    """Grade names, for bolt classes only those for ``use`` (``bolt`` or ``anchor``)."""
    return tuple(r["grade"] for r in rows(table) if not use or r.get("use") in (use, "both"))
