"""Which catalogue section an outside profile is: by its name, by its sizes, or by the best fit of its outline."""

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache

import numpy as np
from shapely.geometry import Polygon

from tincleat.catalogue.sections import Section, Shape, catalogue, plain, section
from tincleat.errors import NotFound
from tincleat.geometry.frames import Array

SURE = 0.90  # least confidence with which an outline is taken for a section
CLOSE, THIN = 0.6, 0.4  # mm by which depth and width, and thicknesses, may differ: what rounding to the next mm or decimal of an inch does
NEAR = 0.03  # share by which sizes may differ for a section to be compared at all


@dataclass(frozen=True)
class Match:
    """A section found: how sure (0 to 1), by what (``name``, ``sizes``, ``outline``), and how the profile's axes lie in ours.

    The section's own y and z axes are ``turn`` quarter turns counter-clockwise from the profile's x and y, after
    mirroring the profile in its y axis if ``mirrored``.
    """

    section: str
    confidence: float
    by: str
    turn: int = 0
    mirrored: bool = False


_N = r"(\d+(?:\.\d+)?)"
_FORMS = (
    (re.compile(r"^HE(\d+)-?([ABM])$"), r"HE\2\1"),
    (re.compile(r"^HE([ABM])-?(\d+)$"), r"HE\1\2"),
    (re.compile(r"^(?:I|IPE)[-X](\d+)$"), r"IPE\1"),
    (re.compile(r"^(?:U|UNP)-?(\d+)$"), r"UPN\1"),
    (re.compile(r"^INP-?(\d+)$"), r"IPN\1"),
    (re.compile(rf"^(?:RO|ROR|CHS|TUBO|D|Ø|DIA){_N}[X/]{_N}$"), r"CHS\1X\2"),
    (re.compile(rf"^CHS(?:RO|D|Ø){_N}[X/]{_N}$"), r"CHS\1X\2"),
    (re.compile(rf"^(?:QRO|SHS|QHP){_N}[X/]{_N}$"), r"SHS\1X\1X\2"),
    (re.compile(rf"^(?:RRO|RHS|VHP|MSH){_N}[X/]{_N}[X/]{_N}$"), r"RHS\1X\2X\3"),
    (re.compile(rf"^(?:RRO|RHS|SHS|QRO|MSH|VHP){_N}[X/]\1[X/]{_N}$"), r"SHS\1X\1X\2"),
    (re.compile(r"^(?:EA|UA|RSA|UKA|LNP)(\d+.*)$"), r"L\1"),
    (re.compile(rf"^L{_N}X{_N}$"), r"L\1X\1X\2"),
    (re.compile(r"^(?:FLAT|FLT|FB|PL|BAR|BL|FLA)(\d+.*)$"), r"FL\1"),
    (re.compile(rf"^(?:ROUND|RND|ROD|D|Ø|DIA|RB){_N}$"), r"RD\1"),
    (re.compile(rf"^C{_N}X{_N}X{_N}X{_N}$"), r"CF\1X\2X\3X\4"),
    (re.compile(r"^(\d[\dX.]*)(UB|UC|UBP|PFC|UKB|UKC|UKBP|UKPFC|RSJ)$"), r"\2\1"),
)
_UK = {"UKB": "UB", "UKC": "UC", "UKBP": "UBP", "UKPFC": "PFC"}
# nominal depths of American shapes in mm, by their inches, as metric editions of ASTM A6 call them
_METRIC_DEPTH = {
    3: 75, 4: 100, 5: 130, 6: 150, 7: 180, 8: 200, 9: 230, 10: 250, 12: 310, 14: 360, 15: 380, 16: 410, 18: 460, 21: 530, 24: 610, 27: 690, 30: 760, 33: 840, 36: 920,
    40: 1000, 44: 1100,
}  # fmt: skip
_FRACTIONS = {0.0625 * i: f"{i // g}/{16 // g}" for i in range(1, 16) for g in [max(d for d in (1, 2, 4, 8) if i % d == 0)]}


def by_name(name: str) -> Section | None:
    """The section a name means, in the spellings in use; a grade behind it and a material before it are passed over.  None if it means none."""
    for text in dict.fromkeys([name, name.rpartition(":")[2], re.sub(r"[\s,;(]+-?\s*(?:GR(?:ADE)?\.?\s*)?(?:S\s?\d{3}|ST\s?\d{2}|A\s?\d{2,3}|E\s?\d{3}|Q\s?\d{3})\S*\s*\)?$", "", name.rpartition(":")[2], flags=re.IGNORECASE)]):
        found = _spelt(text)
        if found is not None:
            return found
    return None


def _spelt(name: str) -> Section | None:
    if not name.strip() or len(name) > 60:
        return None
    key = re.sub(r"[*_]", "X", plain(name)).replace(",", ".").rstrip("-")
    key = re.sub(r"(\d)\.0+(?=X|/|$)", r"\1", key)
    key = re.sub(r"(\.\d*?[1-9])0+(?=X|/|$)", r"\1", key)
    texts = [key, key.replace("-", ""), *(form.sub(into, key) for form, into in _FORMS)]
    for long, short in _UK.items():
        texts += [re.sub(rf"^{long}(?=\d)", short, t) for t in texts]
    texts += [f"{t}CF" for t in texts if re.match(r"^[RSC]HS\d", t)]  # of a size that is rolled cold only
    texts += [_fractions(t) for t in texts if re.match(r"^(?:HSS|L|WT|MC)\d", t)]
    for text in dict.fromkeys(texts):
        try:
            return section(text)
        except NotFound:
            continue
    return _metric(key)


def _fractions(text: str) -> str:
    """Decimal inches as the fractions American names have: HSS8X8X.5 is HSS8X8X1/2."""

    def part(found: "re.Match[str]") -> str:
        value = float(found[0])
        whole = int(value)
        rest = next((f for v, f in _FRACTIONS.items() if abs(v - (value - whole)) < 0.0065), None)
        if rest is None:
            return found[0]
        return f"{whole}-{rest}" if whole else rest

    return re.sub(r"(?<![\d.])\d*\.\d+", part, text)


def _metric(key: str) -> Section | None:
    """An American shape by its metric name, such as W360X110: nominal depth in mm and mass in kg/m."""
    found = re.fullmatch(rf"(W|S|M|C|MC|HP){_N}X{_N}", key)
    if not found:
        return None
    depth, mass = float(found[2]), float(found[3])
    best = None
    for s in catalogue().values():
        inches = re.match(rf"{found[1]}(\d+)X", s.name)
        if inches and _METRIC_DEPTH.get(int(inches[1])) == depth and abs(s.mass - mass) < 0.51 + 0.004 * mass and (best is None or abs(s.mass - mass) < abs(best.mass - mass)):
            best = s
    return best


@cache
def _table() -> tuple[list[Section], Array]:
    rows = list(catalogue().values())
    return rows, np.array([(s.h, s.b, s.tw, s.tf) for s in rows])


def by_sizes(shape: Shape, h: float, b: float, tw: float, tf: float = 0.0, name: str = "", outer: float = 0.0) -> Match | None:
    """The section of a shape with these sizes (mm); of several the one called ``name``, else the nearest, hollow ones by their ``outer`` corner.

    A hollow wall of 0.93 of a nominal one is the design wall of ASTM A500.  None if none is near.
    """
    found = _sized(shape, h, b, tw, tf, name, outer)
    if found is None and shape in ("RHS", "CHS"):
        thicker = _sized(shape, h, b, tw / 0.93, tf, name, outer)
        if thicker is not None and section(thicker.section).standard == "ASTM A500":
            return thicker
    return found


def _sized(shape: Shape, h: float, b: float, tw: float, tf: float, name: str, outer: float) -> Match | None:
    if shape in ("FL", "RD", "Z", "CF"):
        return None
    rows, sizes = _table()
    best: Match | None = None
    for turn, (hh, bb) in enumerate(((h, b), (b, h)) if shape == "RHS" and abs(h - b) > 0.5 else ((h, b),)):
        want = np.array([hh, bb, tw, tf if shape in ("I", "C", "T") else 0.0])
        have = sizes.copy()
        if shape not in ("I", "C", "T"):
            have[:, 3] = 0.0
        gap = np.abs(have - want)
        near = np.flatnonzero(np.all(gap <= np.array([CLOSE, CLOSE, THIN, THIN]), axis=1) & np.array([s.shape == shape for s in rows]))
        if not len(near):
            continue
        called = [i for i in near.tolist() if plain(rows[i].name) == plain(name)]
        error = (gap[near] / np.maximum(want, 1.0)).max(axis=1)
        if outer:  # hot and cold formed tubes of one size differ at their corners only
            error += np.array([abs(rows[i].r1 - outer) for i in near]) * 1e-3
        i = called[0] if called else int(near[int(error.argmin())])
        found = Match(rows[i].name, 1.0 - float((gap[i] / np.maximum(want, 1.0)).max()), "sizes", turn)
        if best is None or found.confidence > best.confidence:
            best = found
    return best


@dataclass(frozen=True)
class _Shape:
    """What an outline is compared by, about the middle of its bounding box: size, area, centroid and second moments (mm)."""

    w: float
    h: float
    area: float
    c: tuple[float, float]
    i: tuple[float, float, float]

    def turned(self) -> "_Shape":
        """A quarter turn counter-clockwise: x goes to y, y to -x."""
        (cx, cy), (xx, yy, xy) = self.c, self.i
        return _Shape(self.h, self.w, self.area, (-cy, cx), (yy, xx, -xy))

    def mirrored(self) -> "_Shape":
        """Mirrored in the y axis."""
        (cx, cy), (xx, yy, xy) = self.c, self.i
        return _Shape(self.w, self.h, self.area, (-cx, cy), (xx, yy, -xy))


def _measured(rings: Sequence[Array]) -> tuple[_Shape, tuple[float, float]]:
    outer = np.asarray(rings[0])
    low, high = outer.min(axis=0), outer.max(axis=0)
    mid = (low + high) / 2
    total = np.zeros(6)
    for n, ring in enumerate(rings):
        p = np.asarray(ring) - mid
        q = np.roll(p, -1, axis=0)
        cross = p[:, 0] * q[:, 1] - q[:, 0] * p[:, 1]
        sign = math.copysign(1.0, float(cross.sum())) * (1 if n == 0 else -1)
        x, y = p[:, 0], p[:, 1]
        u, v = q[:, 0], q[:, 1]
        total += sign * np.array([
            cross.sum() / 2, ((x + u) * cross).sum() / 6, ((y + v) * cross).sum() / 6, ((x * x + x * u + u * u) * cross).sum() / 12,
            ((y * y + y * v + v * v) * cross).sum() / 12, ((x * v + 2 * x * y + 2 * u * v + u * y) * cross).sum() / 24,
        ])  # fmt: skip
    area = float(total[0])
    if area <= 0:
        return _Shape(0, 0, 0, (0, 0), (0, 0, 0)), (0.0, 0.0)
    size = high - low
    return _Shape(
        float(size[0]), float(size[1]), area, (float(total[1] / area), float(total[2] / area)), (float(total[3]), float(total[4]), float(total[5]))
    ), (
        float(mid[0]),
        float(mid[1]),
    )  # type: ignore[arg-type]


@cache
def _of_section(name: str) -> _Shape:
    s = section(name)
    return _measured([s.outer.points(0.1), *(h.points(0.1) for h in s.inner)])[0]


def _error(a: _Shape, b: _Shape) -> float:
    size = max(a.w, a.h)
    terms = [abs(a.w - b.w) / max(a.w, 20.0), abs(a.h - b.h) / max(a.h, 20.0), abs(a.area - b.area) / a.area]
    terms += [abs(p - q) / size * 2 for p, q in zip(a.c, b.c, strict=True)]
    scale = max(a.i[0], a.i[1])
    terms += [abs(p - q) / scale * 0.5 for p, q in zip(a.i, b.i, strict=True)]
    return max(terms)


def by_outline(rings: Sequence[Array], called: "Section | None" = None) -> tuple[Match | None, tuple[float, float]]:
    """The best fit of an outline (rings (n, 2) in mm, the outer one first) to the catalogue, and the middle of its bounding box.

    Every quarter turn and mirror image of the outline is compared by size, area, centroid and second moments; ``called`` is a
    section its name means, which need not be listed and is preferred where it fits as well.
    """
    if len(rings[0]) < 3 or not Polygon(rings[0]).buffer(0).area > 0:
        return None, (0.0, 0.0)
    found, middle = _measured(rings)
    rows, sizes = _table()
    best: tuple[float, Match] | None = None
    shapes = [(_turned(found, t, m), t, m) for m in (False, True) for t in range(4)]
    for shape, turn, mirrored in shapes:
        near = np.flatnonzero((np.abs(sizes[:, 0] - shape.h) <= max(1.0, NEAR * shape.h)) & (np.abs(sizes[:, 1] - shape.w) <= max(1.0, NEAR * shape.w)))
        for name in [*([called.name] if called is not None else []), *(rows[i].name for i in near.tolist())]:
            error = _error(shape, _of_section(name)) - (0.01 if called is not None and name == called.name else 0.0)
            if best is None or error < best[0] - 1e-4:
                best = (error, Match(name, min(1.0, max(0.0, 1.0 - error * 1.5)), "outline", turn, mirrored))
    return (best[1] if best is not None else None), middle


def _turned(shape: _Shape, turn: int, mirrored: bool) -> _Shape:
    out = shape.mirrored() if mirrored else shape
    for _ in range((4 - turn) % 4):  # our axes turned one way see the shape turned the other
        out = out.turned()
    return out
