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


_FORMS = (
    (re.compile(r"^HE(\d+)-?([ABM])$"), r"HE\2\1"),
    (re.compile(r"^HE([ABM])-?(\d+)$"), r"HE\1\2"),
    (re.compile(r"^(?:I|IPE)[-X](\d+)$"), r"IPE\1"),
    (re.compile(r"^U(\d+)$"), r"UPN\1"),
    (re.compile(r"^(?:RO|ROR|CHS|TUBO)D?(\d+(?:\.\d+)?)[X*](\d+(?:\.\d+)?)$"), r"CHS\1X\2"),
    (re.compile(r"^(?:QRO|SHS)(\d+(?:\.\d+)?)X(\d+(?:\.\d+)?)$"), r"SHS\1X\1X\2"),
    (re.compile(r"^(?:RRO|RHS|VHP)(\d+(?:\.\d+)?)X(\d+(?:\.\d+)?)X(\d+(?:\.\d+)?)$"), r"RHS\1X\2X\3"),
    (re.compile(r"^(?:EA|UA|RSA|LNP)(\d+.*)$"), r"L\1"),
    (re.compile(r"^L(\d+(?:\.\d+)?)X(\d+(?:\.\d+)?)$"), r"L\1X\1X\2"),
    (re.compile(r"^(?:FLAT|FLT|PL|BAR)(\d+.*)$"), r"FL\1"),
    (re.compile(r"^(?:ROUND|RND|ROD|D)(\d+(?:\.\d+)?)$"), r"RD\1"),
)


def by_name(name: str) -> Section | None:
    """The section a name means, in the spellings in use; None if none."""
    key = re.sub(r"[*_]", "X", plain(name)).replace(",", ".")
    key = re.sub(r"(\d)\.0+(?=X|$)", r"\1", key)
    for text in dict.fromkeys([key, key.replace("-", ""), *(form.sub(into, key) for form, into in _FORMS)]):
        try:
            return section(text)
        except NotFound:
            continue
    return None


@cache
def _table() -> tuple[list[Section], Array]:
    rows = list(catalogue().values())
    return rows, np.array([(s.h, s.b, s.tw, s.tf) for s in rows])


def by_sizes(shape: Shape, h: float, b: float, tw: float, tf: float = 0.0, name: str = "") -> Match | None:
    """The section of a shape with these sizes (mm); of several the one called ``name``, else the nearest.  None if none is near."""
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
        near = np.flatnonzero(np.all(gap <= np.maximum(0.6, want * 0.012), axis=1) & np.array([s.shape == shape for s in rows]))
        if not len(near):
            continue
        called = [i for i in near.tolist() if plain(rows[i].name) == plain(name)]
        error = (gap[near] / np.maximum(want, 1.0)).max(axis=1)
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
