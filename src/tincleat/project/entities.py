"""The entities of a project, by value.  Lengths mm, angles rad; ids tie entities together, never object references."""

from typing import Any, Literal

import msgspec

from tincleat.catalogue.fasteners import bolt_size, hole_size
from tincleat.catalogue.sections import OwnName
from tincleat.geometry.frames import Vec3

Units = Literal["mm", "m", "in", "ft-in", "in-decimal"]
RuleSet = Literal["EN", "AISC"]
End = Literal["start", "end"]
Role = Literal["column", "beam", "rafter", "purlin", "girt", "brace", "joist", "post", "other"]
Cardinal = Literal["centre", "centroid", "top", "bottom", "left", "right", "top left", "top right", "bottom left", "bottom right"]
RoundWay = Literal["up", "down", "nearest"]
Value = bool | int | float | str | tuple[float, ...]


class Grid(msgspec.Struct, frozen=True, gc=False):
    """Two families of lines: ``x`` lines are crossed by going along the grid's x axis; each line is (label, offset mm)."""

    id: str
    name: str
    origin: Vec3
    angle: float
    x: tuple[tuple[str, float], ...]
    y: tuple[tuple[str, float], ...]


class Level(msgspec.Struct, frozen=True, gc=False):
    """A named elevation, mm; ``building`` is the one it belongs to where a model has several."""

    id: str
    name: str
    elevation: float
    building: str = ""


class Site(msgspec.Struct, frozen=True):
    """Where the project stands, as the file it came from told: map conversion in the map's units, coordinate system, and ``shift``,
    by which the model was moved near the origin (in metres; what it had before is its coordinates plus this).
    """

    id: str = "site"
    eastings: float | None = None
    northings: float | None = None
    height: float | None = None
    abscissa: float | None = None
    ordinate: float | None = None
    scale: float | None = None
    crs: str = ""
    crs_words: str = ""
    datum: str = ""
    vertical: str = ""
    projection: str = ""
    zone: str = ""
    north_deg: float | None = None
    shift: Vec3 = (0.0, 0.0, 0.0)


class Plane(msgspec.Struct, frozen=True, gc=False):
    """A plane in the world (mm); as a cut of a member its ``normal`` points to the steel that stays."""

    point: Vec3
    normal: Vec3


class Cutout(msgspec.Struct, frozen=True, gc=False):
    """A polygon cut out of a member, through and through: ``corners`` (u, v) in mm in the plane at ``point`` with u along ``x`` and
    v along ``z`` x ``x``, counter-clockwise, each rounded by its radius; the cut runs along ``z`` both ways.  All in the world.
    """

    point: Vec3
    x: Vec3
    z: Vec3
    corners: tuple[tuple[float, float], ...]
    radii: tuple[float, ...]


class Member(msgspec.Struct, frozen=True, gc=False):
    """A straight member.  The system line runs ``start`` to ``end`` (mm); the section hangs on it at ``cardinal``, then ``offset`` (y, z).

    ``cuts`` are planes it is cut by itself (a mitre, a trimmed end), ``outs`` polygons cut out of it, whatever its connections cut besides; ``guid`` is the
    identity it came with from the engineer's model; ``run`` the run it is part of and its place there (``r4:2.0``).
    """

    id: str
    name: str
    role: Role
    section: str
    grade: str
    start: Vec3
    end: Vec3
    roll: float = 0.0
    cardinal: Cardinal = "centre"
    offset: tuple[float, float] = (0.0, 0.0)
    cuts: tuple[Plane, ...] = ()
    guid: str = ""
    run: str = ""
    outs: tuple[Cutout, ...] = ()
    level: str = ""  # the level it was put on where it came from; empty: by its height
    up: Literal["", "plumb", "level"] = ""  # how its depth lies without roll, see project.members.depth; empty: as before that was kept


class Connection(msgspec.Struct, frozen=True):
    """A family placed somewhere; ``settings`` holds only what was typed, over those of its ``typical`` (an id) if it has one.

    It hangs on a member's end, with ``more`` further ends of the same node (``m13.start``); or on a station ``at`` mm along the
    member, with a ``row`` of others that lie beside it there; or where the member passes over an ``other`` one.
    """

    id: str
    family: str
    member: str
    end: End
    settings: dict[str, Value] = {}
    more: tuple[str, ...] = ()
    at: float | None = None
    other: str = ""
    row: tuple[str, ...] = ()
    typical: str = ""

    @property
    def ends(self) -> "tuple[tuple[str, End], ...]":
        """All member ends it hangs on; none for a station or a crossing."""
        if self.at is not None or self.other:
            return ()
        return ((self.member, self.end), *(end_of(name) for name in self.more))

    @property
    def members(self) -> tuple[str, ...]:
        """All members it hangs on."""
        return tuple(dict.fromkeys((self.member, *(end_of(name)[0] for name in self.more), *((self.other,) if self.other else ()), *self.row)))

    @property
    def anchor(self) -> "tuple[object, ...]":
        """What it hangs on, by value."""
        return (self.ends, self.member, self.at, self.other, self.row)


def end_of(name: str) -> "tuple[str, End]":
    """The member's id and end of a name such as ``m12.start``."""
    member, _, end = name.rpartition(".")
    return member, "start" if end == "start" else "end"


class Concession(msgspec.Struct, frozen=True, gc=False):
    """A breach accepted by somebody for a reason; ``finding`` is the finding's key within its connection, ``actual`` what it measured then."""

    id: str
    connection: str
    finding: str
    actual: float
    by: str
    reason: str


class RoundRule(msgspec.Struct, frozen=True, gc=False):
    """How a dimension kind lands on a step (mm), or on the flat-bar stock when ``stock``."""

    step: float
    way: RoundWay = "up"
    stock: bool = False


PLATES_MM = (5.0, 6.0, 8.0, 10.0, 12.0, 15.0, 20.0, 25.0, 30.0, 35.0, 40.0, 50.0)
PLATES_IN = tuple(25.4 * t for t in (0.25, 0.3125, 0.375, 0.5, 0.625, 0.75, 0.875, 1.0, 1.25, 1.5, 2.0))
SHEETS_MM, SHEETS_IN = (1.0, 1.5, 2.0, 3.0, 4.0), (1.5875, 3.175, 4.7625)  # of which thin packs are cut
FLATS_MM = tuple(float(w) for w in [*range(20, 160, 10), 160, 180, 200, 220, 250, 300])
FLATS_IN = tuple(12.7 * n for n in range(2, 25))
# the longest bar delivered by kind of section, mm
BARS_MM = {"I": 18000.0, "C": 15000.0, "T": 15000.0, "L": 12000.0, "RHS": 12000.0, "CHS": 12000.0, "FL": 6000.0, "RD": 6000.0, "Z": 12000.0, "CF": 12000.0}
BARS_IN = {shape: 304.8 * feet for shape, feet in {"I": 60, "C": 40, "T": 60, "L": 40, "RHS": 40, "CHS": 40, "FL": 20, "RD": 20, "Z": 40, "CF": 40}.items()}
ROUND_MM = {
    "plate width": RoundRule(5.0), "plate length": RoundRule(5.0), "base plate": RoundRule(10.0), "notch": RoundRule(5.0), "weld leg": RoundRule(1.0),
    "stiffener": RoundRule(10.0, "down", True)}  # fmt: skip
ROUND_IN = {
    "plate width": RoundRule(6.35),
    "plate length": RoundRule(6.35),
    "base plate": RoundRule(12.7),
    "notch": RoundRule(6.35),
    "weld leg": RoundRule(1.5875),
    "stiffener": RoundRule(12.7, "down", True),
}


# rounding kinds that may have a rule of their own; without one the wider kind's holds
ROUND_WIDER = {
    "end plate width": "plate width", "end plate length": "plate length", "fin plate width": "plate width", "fin plate length": "plate length", "cap plate width": "plate width",
    "cap plate length": "plate length", "gusset length": "plate length", "gusset width": "gusset length", "cleat length": "plate length", "seat length": "plate length",
}  # fmt: skip
ROUND_AS_MADE = ("cover plate width", "cover plate length", "haunch depth", "haunch length")  # without a rule as their family works them out
MARKS = {"member": "A", "plate": "P", "rod": "R"}  # letters before the numbers of marks; a role of members may have its own


WeldSymbols = Literal["ISO 2553 A", "ISO 2553 B", "AWS A2.4"]
ISO_A: WeldSymbols = "ISO 2553 A"  # a dashed line tells the other side; in the two others what is under the line is the arrow's side
AWS: WeldSymbols = "AWS A2.4"


class HouseRules(msgspec.Struct, frozen=True):
    """The office's settings, one set a project.  Factors are in bolt (or hole) diameters and only ever ask for more than the standard."""

    id: str = "house"
    title: str = "Untitled"
    units: Units = "mm"
    rule_set: RuleSet = "EN"
    exposed: bool = True
    spacing_factor: float = 0.0
    end_factor: float = 0.0
    plate_grade: str = "S275"
    bolt: str = "M20"
    bolt_grade: str = "8.8"
    anchor: str = "M24"
    anchor_grade: str = "4.6"
    plates: tuple[float, ...] = PLATES_MM
    flats: tuple[float, ...] = FLATS_MM
    rounding: dict[str, RoundRule] = msgspec.field(default_factory=lambda: dict(ROUND_MM))
    notch_clearance: float = 20.0
    notch_radius: float = 10.0
    weld_gap: float = 2.0
    clash_volume: float = 1.0  # mm³ two bodies may share before they count as being inside each other
    clash_depth: float = 0.1  # mm that such a share is deep at least to count: faces that all but touch share films
    plain: tuple[str, ...] = ()  # kinds of joint that are left plain by rule, such as column heads
    north_deg: float = 90.0  # where north lies in plan, counter-clockwise from the x axis; up the page unless said otherwise
    bars: dict[str, float] = msgspec.field(default_factory=lambda: dict(BARS_MM))
    notch_most: float = 0.5  # of a member's depth that a notch may take
    two_rows_from: float = 150.0  # depth in mm from which a beam gets two rows of bolts at least
    bend_least: float = 2.0  # thicknesses that the inside radius of a cold bend has at least
    marks: dict[str, str] = msgspec.field(default_factory=lambda: dict(MARKS))  # letters of marks by what is marked: member, plate, rod, or a role
    mark_start: int = 1
    mark_separator: str = ""
    weld_symbols: WeldSymbols = ISO_A
    weld_surplus: float = 0.1  # of the drawn volume of welds that is deposited besides: reinforcement, gaps, what is lost
    weld_rate_shop: float = 1.5  # kg of weld metal an hour, pauses included
    weld_rate_site: float = 0.6
    dual: bool = False  # sheets show the other system's lengths too
    bolt_lengths: tuple[float, ...] = ()  # mm of bolts that are stocked; none: the usual ones
    bevel_most: float = 0.0  # degrees off square that the shop's machine cuts an edge at most; 0: any
    tighten_room: float = 0.0  # mm beside a bolt that are kept free besides what its socket needs
    holes: dict[str, float] = {}  # mm by bolt size that normal holes are larger than their bolt, where not as the standard says

    def hole(self, bolt: str, kind: str) -> tuple[float, float]:
        """Width and over-all length (mm) of a hole for a bolt size: the rule set's, normal ones with the house's clearance where it has one."""
        if kind == "normal" and bolt in self.holes:
            return (bolt_size(bolt).d + self.holes[bolt],) * 2
        return hole_size(self.rule_set, bolt, kind)

    def rounding_of(self, kind: str) -> tuple[str, RoundRule | None]:
        """The rule that a dimension kind lands by, with the kind it is written for: its own, or that of the next wider one; None without any."""
        while kind not in self.rounding and kind in ROUND_WIDER:
            kind = ROUND_WIDER[kind]
        return kind, self.rounding.get(kind)

    @property
    def inch(self) -> bool:
        """Whether the office works in inches."""
        return self.units in ("in", "ft-in", "in-decimal")

    @property
    def sheets(self) -> tuple[float, ...]:
        """Thicknesses of sheet that packs are cut of, mm."""
        return SHEETS_IN if self.inch else SHEETS_MM


class Purlins(msgspec.Struct, frozen=True, tag="purlins", tag_field="kind"):
    """Purlins on rafters: rows at most ``spacing`` apart between ``eaves`` and ``ridge`` (mm along the rafter from its low and high end)."""

    id: str
    rafters: tuple[str, ...]
    section: str
    grade: str = "S355"
    spacing: float = 1500.0
    eaves: float = 200.0
    ridge: float = 200.0
    lap: float = 0.0
    overhang: float = 0.0
    loose: tuple[str, ...] = ()


class Girts(msgspec.Struct, frozen=True, tag="girts", tag_field="kind"):
    """Girts on the face of columns: rows at most ``spacing`` apart from ``first`` above the foot to ``last`` below the head; ``side`` 1 is outside."""

    id: str
    columns: tuple[str, ...]
    section: str
    grade: str = "S355"
    spacing: float = 1800.0
    first: float = 1500.0
    last: float = 200.0
    lap: float = 0.0
    side: int = 1
    loose: tuple[str, ...] = ()


class Joists(msgspec.Struct, frozen=True, tag="joists", tag_field="kind"):
    """Joists between two beams, at most ``spacing`` apart, their top ``drop`` under the beams' top."""

    id: str
    beams: tuple[str, ...]
    section: str
    grade: str = "S355"
    spacing: float = 2500.0
    drop: float = 0.0
    loose: tuple[str, ...] = ()


class Bracing(msgspec.Struct, frozen=True, tag="bracing", tag_field="kind"):
    """A braced bay between two columns, from ``base`` above their feet to ``top`` below their heads, in ``panels`` one over the other."""

    id: str
    columns: tuple[str, ...]
    section: str
    grade: str = "S355"
    pattern: Literal["X", "single", "K"] = "X"
    base: float = 200.0
    top: float = 200.0
    panels: int = 1
    loose: tuple[str, ...] = ()


class Portals(msgspec.Struct, frozen=True, tag="portals", tag_field="kind"):
    """Portal frames across ``angle`` + 90°: one at each of ``bays`` (mm along the building), two columns and two rafters each."""

    id: str
    origin: Vec3
    span: float
    eaves: float
    ridge: float
    bays: tuple[float, ...]
    column: str
    rafter: str
    grade: str = "S355"
    angle: float = 0.0
    loose: tuple[str, ...] = ()


class Query(msgspec.Struct, frozen=True, gc=False):
    """A saved query for members."""

    id: str
    name: str
    text: str


class Reference(msgspec.Struct, frozen=True, gc=False):
    """A body that is not steel, shown and, while locked, never changed: a closed or open surface in the world (mm)."""

    id: str
    name: str
    kind: str
    guid: str
    points: tuple[Vec3, ...]
    triangles: tuple[tuple[int, int, int], ...]
    locked: bool = True


class Meaning(msgspec.Struct, frozen=True, gc=False):
    """What an outside name means here, remembered for the next import: a profile's name a section, a material's a grade."""

    id: str
    name: str
    section: str
    kind: Literal["profile", "grade"] = "profile"


class Snapshot(msgspec.Struct, frozen=True, gc=False):
    """A named state of the project, packed; ``members`` counts what it holds and ``when`` is local time in words."""

    id: str
    name: str
    when: str
    members: int
    body: bytes


class OwnSection(msgspec.Struct, frozen=True, gc=False):
    """A section of the office's own: the columns of the catalogue's tables, as text."""

    id: str
    row: dict[str, str]


class Schedule(msgspec.Struct, frozen=True):
    """Rows of an engineer's schedule for one family: ``rows`` by mark, each with values of the family's settings (mm) and, to tell where it
    belongs, ``beam`` (a section), ``level`` (top of the beam, mm) and ``beams`` (1 or 2: on one side of the column or both) where given.
    """

    id: str
    name: str
    family: str
    rows: tuple[tuple[str, dict[str, Value]], ...]


class SizeRow(msgspec.Struct, frozen=True):
    """What a typical gives for one size of the member it joins: a ``section`` by name, or any up to a ``depth`` in mm (0: any at all)."""

    settings: dict[str, Value]
    section: str = ""
    depth: float = 0.0


class Typical(msgspec.Struct, frozen=True):
    """Named settings of a family, which connections take under what is typed for each.

    Of ``sizes`` the first row that the joined member suits goes before ``settings``.  It may be used for members of the ``roles`` given (all if
    none), from ``least_depth`` to ``most_depth`` mm (0: no limit), under the ``rules`` given (any if empty), where the joined member comes no more
    than ``most_skew`` askew in plan and slopes no more than ``most_slope`` (rad; 0: no limit).
    """

    id: str
    name: str
    family: str
    settings: dict[str, Value] = {}
    sizes: tuple[SizeRow, ...] = ()
    roles: tuple[Role, ...] = ()
    least_depth: float = 0.0
    most_depth: float = 0.0
    rules: Literal["", "EN", "AISC"] = ""
    folder: str = ""
    favourite: bool = False
    words: str = ""
    most_skew: float = 0.0
    most_slope: float = 0.0


class JoinRule(msgspec.Struct, frozen=True):
    """How an office joins open ends of some kinds: by a ``family``, with a ``typical`` (an id) and ``settings`` over it.

    It is for the ``kinds`` of joint given (all that the family takes if none), where the member joined has one of the ``roles`` and ``shapes`` (any
    if none) and is from ``least_depth`` to ``most_depth`` mm deep (0: no limit).
    """

    family: str
    kinds: tuple[str, ...] = ()
    roles: tuple[Role, ...] = ()
    shapes: tuple[str, ...] = ()
    least_depth: float = 0.0
    most_depth: float = 0.0
    typical: str = ""
    settings: dict[str, Value] = {}


class Joining(msgspec.Struct, frozen=True):
    """The joining rules of a project, the first that suits a joint counts."""

    id: str = "joining"
    rules: tuple[JoinRule, ...] = ()


class Underlay(msgspec.Struct, frozen=True, gc=False):
    """A drawing under the model: ``body`` holds packed segments (n, 4) in mm, or a picture's bytes of ``pixels`` size.

    Its point ``base`` (mm, or pixels from the lower left) lies ``at`` a plan point, scaled (mm a unit) and turned (rad).
    """

    id: str
    name: str
    kind: Literal["lines", "picture"]
    level: float
    body: bytes
    pixels: tuple[int, int]
    base: tuple[float, float]
    at: tuple[float, float]
    scale: float
    angle: float
    dim: float = 0.45


Run = Purlins | Girts | Joists | Bracing | Portals
Entity = Site | Grid | Level | Member | Connection | Concession | HouseRules | Run | Query | Reference | Meaning | Snapshot | OwnSection | Underlay | Schedule | Typical | Joining
TABLES: dict[str, Any] = {
    "house": HouseRules,
    "site": Site,
    "grid": Grid,
    "level": Level,
    "member": Member,
    "connection": Connection,
    "concession": Concession,
    "run": Run,
    "query": Query,
    "reference": Reference,
    "meaning": Meaning,
    "snapshot": Snapshot,
    "section": OwnSection,
    "underlay": Underlay,
    "schedule": Schedule,
    "typical": Typical,
    "joining": Joining,
}


class Delta(msgspec.Struct, frozen=True, gc=False):
    """One entity before and after; None stands for absent."""

    table: str
    id: str
    old: Entity | None
    new: Entity | None

    def inverse(self) -> "Delta":
        """The change that takes this one back."""
        return Delta(self.table, self.id, self.new, self.old)


def _plainly(value: object) -> object:
    if isinstance(value, OwnName):
        return str(value)
    raise NotImplementedError(f"{type(value).__name__} is not kept")


_encoder = msgspec.json.Encoder(enc_hook=_plainly)


def encoded(value: object) -> bytes:
    """An entity, or plain data, as the JSON it is kept as."""
    return _encoder.encode(value)


def inch_house(title: str) -> HouseRules:
    """House rules of an office that works to AISC in feet and inches."""
    return HouseRules(
        title=title, units="ft-in", rule_set="AISC", plate_grade="A36", bolt="3/4in", bolt_grade="Group 120", anchor="1in",
        anchor_grade="F1554-36", plates=PLATES_IN, flats=FLATS_IN, rounding=dict(ROUND_IN), notch_clearance=19.05, notch_radius=12.7, weld_gap=1.5875, bars=dict(BARS_IN), bend_least=1.5, weld_symbols=AWS,
    )  # fmt: skip
