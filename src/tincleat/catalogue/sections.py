"""Steel sections: dimensions from the data files, exact profiles with root radii, and their plate elements.

Profile coordinates are (y, z) in mm about the middle of the bounding box: z along the depth ``h``, y across.
"""

import re
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cache, lru_cache
from typing import Literal

from rapidfuzz import fuzz, process

from tincleat.catalogue.tables import names, number, rows
from tincleat.errors import BadValue, NotFound
from tincleat.geometry.outline import Outline
from tincleat.lazy import lazy

Shape = Literal["I", "C", "L", "T", "RHS", "CHS", "FL", "RD", "Z", "CF"]
MOST_LETTERS = 80  # of a section's name
STEEL_DENSITY = 7850e-9  # kg/mm³, EN 1991-1-1 table A.4
SYMMETRIC = ("I", "RHS", "CHS", "FL", "RD")
SHAPE_WORDS = {
    "I": "I-section",
    "C": "channel",
    "L": "angle",
    "T": "tee",
    "RHS": "rectangular hollow section",
    "CHS": "circular hollow section",
    "FL": "flat",
    "RD": "round bar",
    "Z": "cold-formed Z",
    "CF": "cold-formed lipped channel",
}


@dataclass(frozen=True)
class Element:
    """A flat plate of a section: its middle plane, thickness and extent, in profile coordinates (mm).

    ``normal`` is the profile axis across the plate; ``at`` the middle plane on that axis; ``low`` and ``high`` bound
    the plate along the other axis.
    """

    name: str
    normal: Literal["y", "z"]
    at: float
    thickness: float
    low: float
    high: float


@dataclass(frozen=True)
class Section:
    """One catalogue row; lengths in mm, mass in kg/m.  ``slope`` is the taper of the inner flange face, ``tf`` is at ``tf_at`` from the tip.

    Of cold-formed Z and lipped channels ``tw`` is the sheet, ``r1`` the inner bend radius and ``tf_at`` the lip's outer height; of a zed whose
    flanges differ, so that two of them lie in each other, ``narrow`` is the lower one's breadth.
    A tapered girder is ``h`` deep at its start and ``h_end`` at its end; ``straight`` is the flange along the bar, if either is.
    """

    name: str
    shape: Shape
    standard: str
    h: float
    b: float
    tw: float
    tf: float
    r1: float
    r2: float
    slope: float
    tf_at: float
    mass: float
    h_end: float = 0.0
    straight: Literal["", "top", "bottom"] = ""
    narrow: float = 0.0

    @property
    def middle(self) -> float:
        """Where a zed's web lies off the middle of its bounding box, mm."""
        return self.narrow - (self.b + self.tw) / 2 if self.narrow else 0.0

    @property
    def slopes(self) -> tuple[float, float]:
        """How far the bottom and the top rise from the start to the end of a tapered girder, mm; nothing of any other section."""
        grows = self.h_end - self.h if self.h_end else 0.0
        return {"": (-grows / 2, grows / 2), "top": (-grows, 0.0), "bottom": (0.0, grows)}[self.straight]

    @property
    def reach(self) -> float:
        """Farthest that the section lies over or under the middle of its start, anywhere along the bar, mm."""
        low, high = self.slopes
        return self.h / 2 + max(0.0, -low, high)

    @lazy
    def outer(self) -> Outline:
        """The outer outline, root radii as true arcs."""
        return _outer(self)

    @lazy
    def inner(self) -> tuple[Outline, ...]:
        """Outlines of the hollow, if any."""
        if self.shape == "RHS":
            y, z = self.b / 2 - self.tw, self.h / 2 - self.tw
            return (Outline.rounded([(-y, -z), (y, -z), (y, z), (-y, z)], [self.r2] * 4),)
        return (Outline.circle(0, 0, self.h - 2 * self.tw),) if self.shape == "CHS" else ()

    @lazy
    def area(self) -> float:
        """Cross-section area in mm², exact with radii."""
        return self.outer.area - sum(hole.area for hole in self.inner)

    @lazy
    def centroid(self) -> tuple[float, float]:
        """Centre of gravity (y, z) from the middle of the bounding box, mm."""
        if not self.inner:
            return self.outer.centroid
        return (0.0, 0.0)

    @property
    def timber(self) -> bool:
        """Whether it is a timber, of breadth ``b`` and depth ``h``."""
        return self.standard == TIMBER

    @property
    def symmetric(self) -> bool:
        """True when both mirror images of the profile are the profile itself."""
        return self.shape in SYMMETRIC

    @lazy
    def root(self) -> float:
        """Distance from the outer flange face to the end of the root fillet on the web, mm (I, C, T)."""
        return self.tf + self.slope * max(0.0, self.outstand - self.tf_at) + self.r1

    @property
    def outstand(self) -> float:
        """Clear width of a flange beside the web, mm."""
        return (self.b - self.tw) / 2 if self.shape in ("I", "T") else self.b - self.tw

    @lazy
    def elements(self) -> tuple[Element, ...]:
        """The flat plates that bolts can pass and welds can land on."""
        h, b, tw, tf = self.h / 2, self.b / 2, self.tw, self.tf
        top = Element("top flange", "z", h - tf / 2, tf, -b, b)
        bottom = Element("bottom flange", "z", -h + tf / 2, tf, -b, b)
        if self.shape == "I":
            return (Element("web", "y", 0.0, tw, -h, h), top, bottom)
        if self.shape == "Z":
            w, at = tw / 2, self.middle
            return (Element("web", "y", at, tw, -h, h), Element("top flange", "z", h - w, tw, at - w, b), Element("bottom flange", "z", -h + w, tw, -b, at + w))
        if self.shape in ("C", "CF"):
            return (Element("web", "y", -b + tw / 2, tw, -h, h), top, bottom)
        if self.shape == "T":
            return (Element("web", "y", 0.0, tw, -h, h), top)
        if self.shape == "L":
            return (Element("upright leg", "y", -b + tw / 2, tw, -h, h), Element("flat leg", "z", -h + tw / 2, tw, -b, b))
        if self.shape == "RHS":
            return (
                Element("near wall", "y", -b + tw / 2, tw, -h, h),
                Element("far wall", "y", b - tw / 2, tw, -h, h),
                Element("top wall", "z", h - tw / 2, tw, -b, b),
                Element("bottom wall", "z", -h + tw / 2, tw, -b, b),
            )
        return (Element("flat", "y", 0.0, tw, -h, h),) if self.shape == "FL" else ()


def _outer(s: Section) -> Outline:
    h, b, tw = s.h / 2, s.b / 2, s.tw
    tip = s.tf - s.slope * s.tf_at
    root = s.tf + s.slope * (s.outstand - s.tf_at)
    if s.shape == "I":
        w = tw / 2
        right = [(b, -h, 0), (b, -h + tip, s.r2), (w, -h + root, s.r1), (w, h - root, s.r1), (b, h - tip, s.r2), (b, h, 0)]
        points = right + [(-y, -z, r) for y, z, r in right]
    elif s.shape == "C":
        w = -b + tw
        points = [(-b, -h, 0), (b, -h, 0), (b, -h + tip, s.r2), (w, -h + root, s.r1), (w, h - root, s.r1), (b, h - tip, s.r2), (b, h, 0), (-b, h, 0)]
    elif s.shape == "Z":
        lip, out = s.tf_at, s.r1 + tw if s.r1 else 0.0
        points = []
        for turn in (1.0, -1.0):  # each half as it lies when the other is turned over
            w = s.middle * turn + tw / 2
            half = [(-b, -h, out), (w, -h, out), (w, h - tw, s.r1), (b - tw, h - tw, s.r1), (b - tw, h - lip, 0), (b, h - lip, 0)]
            points += [(y * turn, z * turn, r) for y, z, r in half]
    elif s.shape == "CF":
        lip, out = s.tf_at, s.r1 + tw if s.r1 else 0.0
        lower = [(-b, -h, out), (b, -h, out), (b, -h + lip, 0), (b - tw, -h + lip, 0), (b - tw, -h + tw, s.r1), (-b + tw, -h + tw, s.r1)]
        points = lower + [(y, -z, r) for y, z, r in reversed(lower)]
    elif s.shape == "T":
        w = tw / 2
        points = [(-w, -h, 0), (w, -h, 0), (w, h - s.tf, s.r1), (b, h - s.tf, 0), (b, h, 0), (-b, h, 0), (-b, h - s.tf, 0), (-w, h - s.tf, s.r1)]
    elif s.shape == "L":
        points = [(-b, -h, 0), (b, -h, 0), (b, -h + tw, s.r2), (-b + tw, -h + tw, s.r1), (-b + tw, h, s.r2), (-b, h, 0)]
    elif s.shape == "RHS":
        points = [(-b, -h, s.r1), (b, -h, s.r1), (b, h, s.r1), (-b, h, s.r1)]
    elif s.shape == "FL":
        w = tw / 2
        return Outline.rectangle(-w, -h, w, h)
    else:
        return Outline.circle(0, 0, s.h)
    return Outline.rounded([(y, z) for y, z, _ in points], [float(r) for _, _, r in points])


@cache
def catalogue() -> dict[str, Section]:
    """All sections by name, in catalogue order."""
    out: dict[str, Section] = {}
    for table in names("sections"):
        for row in rows(table):
            values = [number(row, k) for k in ("h", "b", "tw", "tf", "r1", "r2", "slope", "tf_at", "mass")]
            out[row["designation"]] = Section(row["designation"], row["shape"], row["standard"], *values)  # type: ignore[arg-type]
    return out


def plain(name: str) -> str:
    """A section name without spaces, capitals and signs that people type differently: ``UB305X165X40``."""
    return re.sub(r"\s+", "", name).upper().replace("×", "X").replace("*", "X")


@cache
def _by_plain() -> dict[str, Section]:
    return {plain(name): section for name, section in catalogue().items()}


TIMBER = "timber, sawn or glued"


def _timber(name: str, b: float, h: float) -> Section:
    return Section(name, "FL", TIMBER, h, b, b, 0, 0, 0, 0, 0, b * h * 420e-9 * 1000)


def _inches(text: str) -> float:
    """``9-1/4``, ``3/4`` or ``10`` in inches."""
    whole, _, part = text.rpartition("-") if "-" in text else ("", "", text)
    over, _, under = part.partition("/")
    return float(whole or 0) + (float(over) / float(under) if under else float(over))


@lru_cache(maxsize=16384)
def _bar(key: str) -> Section | None:
    """Of any size within reason, though not listed: timbers (``TM 75x225``, ``TM2-1/2X9-1/4``: breadth x depth), flats, rounds, cold-formed Z and lipped channels (depth x flange x lip x sheet; ``Z 200x65/59x20x2`` with a narrower lower flange), plate girders (depth x width x web x flange), tapered ones (``PG 600-300x200x8x12 top``: the top flange is straight)."""
    cold = re.fullmatch(r"(Z|CF)(\d+(?:\.\d+)?)X(\d+(?:\.\d+)?)(?:/(\d+(?:\.\d+)?))?X(\d+(?:\.\d+)?)X(\d+(?:\.\d+)?)", key)
    if cold:
        h, f, f2, lip, t = (float(v or 0) for v in cold.groups()[1:])
        # EN 10162: bends of 1.5 times the sheet are usual; every flat must be left something between its bends
        if 0.5 <= t <= 8 and 50 <= h <= 500 and 6 * t <= f <= 200 and 3.5 * t <= lip <= h / 2 - t and (not f2 or (cold[1] == "Z" and 6 * t <= f2 < f)):
            b = f + (f2 or f) - t if cold[1] == "Z" else f
            shape: Shape = "Z" if cold[1] == "Z" else "CF"
            made = Section(f"{shape} {h:g}x{f:g}{f'/{f2:g}' if f2 else ''}x{lip:g}x{t:g}", shape, "EN 10162", h, b, t, t, 1.5 * t, 0, 0, lip, 0, narrow=f2)
            return replace(made, mass=made.area * STEEL_DENSITY * 1000)
    girder = re.fullmatch(r"PG(\d+(?:\.\d+)?)X(\d+(?:\.\d+)?)X(\d+(?:\.\d+)?)X(\d+(?:\.\d+)?)", key)
    if girder:
        h, b, tw, tf = (float(v) for v in girder.groups())
        if 100 <= h <= 4000 and 50 <= b <= 1500 and 3 <= tw <= 100 and 4 <= tf <= 150 and h > 2 * tf + 20 and b > tw + 20:
            made = Section(f"PG {h:g}x{b:g}x{tw:g}x{tf:g}", "I", "welded plates", h, b, tw, tf, 0, 0, 0, 0, 0)
            return replace(made, mass=made.area * STEEL_DENSITY * 1000)
    tapered = re.fullmatch(r"PG(\d+(?:\.\d+)?)-(\d+(?:\.\d+)?)X(.+?)(TOP|BOTTOM)?", key)
    if tapered:
        first, last = (_bar(f"PG{v}X{tapered[3]}") for v in tapered.groups()[:2])
        if first is not None and last is not None and first.h != last.h:
            side: Literal["", "top", "bottom"] = "top" if tapered[4] == "TOP" else "bottom" if tapered[4] else ""
            name = f"PG {first.h:g}-{last.h:g}x{first.b:g}x{first.tw:g}x{first.tf:g}" + (f" {side}" if side else "")
            return replace(first, name=name, h_end=last.h, straight=side, mass=(first.mass + last.mass) / 2)
    flat = re.fullmatch(r"FL(\d+(?:\.\d+)?)X(\d+(?:\.\d+)?)", key)
    if flat:
        w, t = sorted((float(flat[1]), float(flat[2])), reverse=True)
        if 10 <= w <= 1000 and 3 <= t <= 200:
            return Section(f"FL {w:g}x{t:g}", "FL", "EN 10058", w, t, t, 0, 0, 0, 0, 0, w * t * STEEL_DENSITY * 1000)
    timber = re.fullmatch(r"TM(\d+(?:\.\d+)?)X(\d+(?:\.\d+)?)", key)
    if timber:
        b, h = (float(v) for v in timber.groups())
        if b >= 20 and 20 <= h <= 2000 and b <= 600:
            return _timber(f"TM {b:g}x{h:g}", b, h)
    lumber = re.fullmatch(r"TM(\d+(?:-\d+/\d+)?|\d+/\d+)X(\d+(?:-\d+/\d+)?|\d+/\d+)", key)
    if lumber:
        b, h = (_inches(v) * 25.4 for v in lumber.groups())
        if 19 <= b <= 600 and 19 <= h <= 2000:
            return _timber(f"TM{lumber[1]}X{lumber[2]}", b, h)
    inches = re.fullmatch(r"RD(?:(\d)-)?(?:(\d+)/(\d+))?|RD(\d)", key)
    if inches and key != "RD":
        whole, over, under, alone = (float(g or 0) for g in inches.groups())
        d = round((alone or whole + (over / under if under else 0.0)) * 25.4, 4)
        if 6 <= d <= 152.4 and (under or alone):
            return Section(key, "RD", "ASTM A36", d, d, 0, 0, 0, 0, 0, 0, Outline.circle(0, 0, d).area * STEEL_DENSITY * 1000)
    bar = re.fullmatch(r"RD(\d+(?:\.\d+)?)", key)
    if bar and 6 <= float(bar[1]) <= 300:
        d = float(bar[1])
        return Section(f"RD {d:g}", "RD", "EN 10060", d, d, 0, 0, 0, 0, 0, 0, Outline.circle(0, 0, d).area * STEEL_DENSITY * 1000)
    return None


class OwnName(str):
    """The name of a section of an office's own, with its shape: it is the same name only where the shape is the same.

    Sections of their own belong to a project; carrying the shape with the name leaves nothing to be looked up elsewhere.
    """

    __slots__ = ("shape",)
    shape: Section

    @classmethod
    def of(cls, made: Section) -> "OwnName":
        """The name of a section."""
        out = cls(made.name)
        out.shape = made
        return out

    def __eq__(self, other: object) -> bool:
        return str.__eq__(self, other) is True and (not isinstance(other, OwnName) or self.shape == other.shape)

    def __ne__(self, other: object) -> bool:
        return not self == other

    __hash__ = str.__hash__


def row_section(row: "Mapping[str, str]") -> Section:
    """A section from a row of a table: designation, shape, h, b, tw, tf, r1, r2, slope, tf_at, mass (mm, kg/m).

    Raises BadValue for a shape or size that cannot be, or a mass that differs by more than 2 % from the area's.
    """
    name = (row.get("designation") or "").strip()
    if not name or len(name) > 60:
        raise BadValue("a row has no designation", right="a name of at most 60 letters")
    shape = (row.get("shape") or "").strip()
    if shape not in SHAPE_WORDS:
        raise BadValue(f"shape {shape!r} is not known", name, "one of " + ", ".join(SHAPE_WORDS))
    values = {}
    for key in ("h", "b", "tw", "tf", "r1", "r2", "slope", "tf_at", "mass"):
        text = (row.get(key) or "").strip() or "0"
        try:
            values[key] = float(text)
        except ValueError:
            raise BadValue(f"{key} {text!r} is not a number", name, "a size in mm, the mass in kg/m") from None
        if not 0 <= values[key] < 5000:
            raise BadValue(f"{key} {text} is no size of a section", name, "0 to 5000")
    made = Section(name, shape, "own", *values.values())  # type: ignore[arg-type]
    if made.h <= 0 or made.b <= 0:
        raise BadValue("it has no depth or no width", name, "h and b over 0")
    try:
        area = made.area
    except (BadValue, ValueError, ZeroDivisionError) as error:
        raise BadValue(f"its sizes make no shape: {error}", name) from None
    thick = {
        "I": (2 * made.tf, made.tw),
        "C": (2 * made.tf, made.tw),
        "T": (made.tf, made.tw),
        "L": (made.tw, made.tw),
        "RHS": (2 * made.tw, 2 * made.tw),
        "CHS": (2 * made.tw, 2 * made.tw),
    }
    deep, wide = thick.get(shape, (0.0, 0.0))
    if not area > 0 or deep >= made.h or wide >= made.b or (shape in thick and min(deep, wide) <= 0):
        raise BadValue("its sizes make no shape", name, "thicknesses that fit its depth and width")
    weighed = area * STEEL_DENSITY * 1000
    if values["mass"] and abs(values["mass"] / weighed - 1) > 0.02:
        raise BadValue(f"its mass {values['mass']:g} kg/m does not go with its sizes, which weigh {weighed:.2f}", name, "within 2 %")
    return made if values["mass"] else replace(made, mass=weighed)


@lru_cache(maxsize=65536)
def at_share(s: Section, share: float) -> tuple[Section, float]:
    """A tapered girder's section at a share of its length, to a tenth of a millimetre, and how far its middle lies over the start's, mm."""
    low, high = s.slopes
    depth = round(s.h + (high - low) * share, 1)
    return section(f"PG {depth:g}x{s.b:g}x{s.tw:g}x{s.tf:g}"), (low + high) / 2 * share


def section(name: str) -> Section:
    """The section called ``name``, however spaced; raises :class:`NotFound` with near names."""
    return name.shape if isinstance(name, OwnName) else _listed(name)


def is_listed(name: str) -> bool:
    """Whether a name is that of a section of the catalogue, or of a bar of any size."""
    return plain(name) in _by_plain() or _bar(plain(name)) is not None


@lru_cache(maxsize=16384)
def _listed(name: str) -> Section:
    key = plain(name)
    found = _by_plain().get(key) or _bar(key) if len(key) <= MOST_LETTERS else None
    if found:
        return found
    name = name[:MOST_LETTERS]
    near = ", ".join(suggest(name, 3))
    raise NotFound(f"there is no section {name!r} in the catalogue", right=f"near it: {near}" if near else "for example UB 305x165x40")


def suggest(text: str, count: int = 8) -> list[str]:
    """Names for a half-typed one: those that begin with it first, then the nearest spellings."""
    key = plain(text[:MOST_LETTERS])
    if not key:
        return []
    begins = [s.name for k, s in _by_plain().items() if k.startswith(key)]
    if len(begins) >= count:
        return begins[:count]
    table = _by_plain()
    near = process.extract(key, table.keys(), scorer=fuzz.ratio, limit=count, score_cutoff=70)
    return list(dict.fromkeys(begins + [table[k].name for k, _, _ in near]))[:count]


def check_mass(s: Section) -> float:
    """Listed mass over the mass of the computed area (1.0 is exact); raises BadValue for a listed mass of 0."""
    if s.mass <= 0:
        raise BadValue("the listed mass is not positive", s.name)
    return s.mass / (s.area * STEEL_DENSITY * 1000)
