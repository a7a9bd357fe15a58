"""Alterations kept on top of a detail as its family makes it: a part or bolt left out, a corner cut; or why one no longer can be.

Written as words, one a line: ``without stiffener 1``, ``without bolt 3 of web bolts``, ``without weld seam``, ``corner 2 of fin plate cut 30``.
"""

import math
import re
from typing import Any

import msgspec
import numpy as np

from tincleat.details.parts import Detail, Plate
from tincleat.errors import BadValue
from tincleat.geometry.frames import Array
from tincleat.geometry.outline import Outline
from tincleat.steel.cuts import Cuts

replace = msgspec.structs.replace
BOLT = re.compile(r"without bolt (\d+) of (.+)")
WELD = re.compile(r"without weld (.+)")
CORNER = re.compile(r"corner (\d+) of (.+) cut (\d+(?:\.\d+)?)")
PART = re.compile(r"without (.+)")
RIGHT = "such as: without stiffener 1, without bolt 3 of web bolts, without weld seam, corner 2 of fin plate cut 30"
ON_AXIS = 0.6  # mm that a hole's middle may lie off its bolt
PARTS = ("plates", "bents", "pieces", "fittings", "ties")
MOST = 60  # alterations of one detail


def checked(text: str) -> str:
    """The alterations of a text in their plain form, each once; raises BadValue with what would be right."""
    out = []
    for line in re.split(r"[\n;]", text):
        words = " ".join(line.split())
        if words and not any(p.fullmatch(words) for p in (BOLT, WELD, CORNER, PART)):
            raise BadValue(f"{words!r:.60} is no alteration", "alterations", RIGHT)
        if words:
            out.append(words)
    if len(out) > MOST:
        raise BadValue(f"{len(out)} alterations", "alterations", f"at most {MOST}; loose parts make a detail by hand")
    return "\n".join(dict.fromkeys(out))


def altered(detail: Detail, text: str) -> Detail:
    """A detail with its alterations; those that find nothing to alter are told in ``unmet`` with why.

    Numbers of bolts and corners are those of the detail as its family makes it: the highest goes first, so that none shifts another.
    """
    unmet = []
    for words in sorted(text.split("\n"), key=lambda w: -_number(w)):
        made = _one(detail, words)
        if isinstance(made, str):
            unmet.append(f"{words}: {made}")
        else:
            detail = made
    return replace(detail, unmet=tuple(unmet))


def _number(words: str) -> int:
    """The number of the bolt or corner that an alteration is of; 0 for all others."""
    m = BOLT.fullmatch(words) or CORNER.fullmatch(words)
    return int(m[1]) if m else 0


def offered(detail: Detail, text: str = "") -> list[str]:
    """What may still be left out of a detail that has the alterations of a text, as alterations."""
    gone: dict[str, set[int]] = {}
    for m in filter(None, map(BOLT.fullmatch, text.split("\n"))):
        if f"without bolt {m[1]} of {m[2]}" not in {u.partition(": ")[0] for u in detail.unmet}:
            gone.setdefault(m[2], set()).add(int(m[1]))
    parts = [p for k in PARTS for p in getattr(detail, k)]
    out = [f"without {name}" for name in dict.fromkeys(p.name for p in parts)]
    for g in detail.bolts:
        out += [f"without bolt {i} of {g.name}" for i in range(1, len(g.points) + len(gone.get(g.name, ())) + 1) if i not in gone.get(g.name, ())]
    return out + [f"without weld {name}" for name in dict.fromkeys([*(w.name for w in detail.welds), *(p.name for p in detail.plugs)])]


def _one(d: Detail, words: str) -> "Detail | str":
    """The detail with one alteration, or why it cannot be."""
    if m := BOLT.fullmatch(words):
        return _without_bolt(d, int(m[1]), m[2])
    if m := CORNER.fullmatch(words):
        return _cornered(d, int(m[1]), m[2], float(m[3]))
    if m := WELD.fullmatch(words):
        kept = tuple(w for w in d.welds if w.name != m[1])
        plugs = tuple(p for p in d.plugs if p.name != m[1])
        return replace(d, welds=kept, plugs=plugs) if len(kept) + len(plugs) < len(d.welds) + len(d.plugs) else f"there is no weld {m[1]} now"
    m = PART.fullmatch(words)
    assert m is not None
    return _without(d, m[1])


def _without(d: Detail, name: str) -> "Detail | str":
    kinds: dict[str, Any] = {k: tuple(p for p in getattr(d, k) if p.name != name) for k in PARTS}
    if all(len(some) == len(getattr(d, k)) for k, some in kinds.items()):
        there = ", ".join(dict.fromkeys(p.name for k in PARTS for p in getattr(d, k)))
        return f"there is no {name} now" + (f"; there are {there}" if there else "")
    return replace(d, **kinds, welds=tuple(w for w in d.welds if name not in w.parts), plugs=tuple(p for p in d.plugs if name not in p.parts))


def _without_bolt(d: Detail, number: int, name: str) -> "Detail | str":
    group = next((g for g in d.bolts if g.name == name), None)
    if group is None:
        return f"there are no {name} now"
    if number > len(group.points) or number < 1:
        return f"{name} are {len(group.points)} now"
    if len(group.points) == 1:
        return f"it is the last of {name}"
    at, axis = np.array(group.points[number - 1]), np.array(group.axis)

    def off(point: Array) -> float:
        gap = point - at
        return float(np.linalg.norm(gap - axis * float(gap @ axis)))

    def kept(plate: Plate) -> Plate:
        spots = plate.frame.to_world(np.array([(h.x, h.y, 0.0) for h in plate.holes]).reshape(-1, 3))
        return replace(plate, holes=tuple(h for h, p in zip(plate.holes, spots, strict=True) if off(p) > ON_AXIS))

    pieces = tuple(replace(p, cuts=Cuts(p.cuts.ends, p.cuts.notches, tuple(h for h in p.cuts.holes if off(p.frame.to_world([h.point])[0]) > ON_AXIS))) for p in d.pieces)
    return replace(
        d, bolts=tuple(replace(g, points=tuple(p for i, p in enumerate(g.points, 1) if i != number)) if g is group else g for g in d.bolts), plates=tuple(kept(p) for p in d.plates), pieces=pieces,
        holes=tuple(h for h in d.holes if off(np.array(h.point)) > ON_AXIS),
    )  # fmt: skip


def _cornered(d: Detail, number: int, name: str, size: float) -> "Detail | str":
    """A corner of a plate cut off, ``size`` mm along both its sides; corners are counted counter-clockwise as its outline runs."""
    plate = next((p for p in d.plates if p.name == name), None)
    if plate is None:
        return f"there is no {name} now"
    v = plate.outline.vertices
    if not 1 <= number <= len(v):
        return f"{name} has {len(v)} corners now"
    i = number - 1
    before, here, after = v[i - 1], v[i], v[(i + 1) % len(v)]
    if before[2] or here[2]:
        return f"corner {number} of {name} lies at a curve now"
    a, b = math.dist(before[:2], here[:2]), math.dist(here[:2], after[:2])
    if size <= 0 or size > min(a, b) - 1.0:
        return f"its sides are {a:.0f} and {b:.0f} mm long now"
    p, q = ((here[0] + (o[0] - here[0]) * size / far, here[1] + (o[1] - here[1]) * size / far, 0.0) for o, far in ((before, a), (after, b)))
    outline = Outline((*v[:i], p, q, *v[i + 1 :]))
    return replace(d, plates=tuple(replace(x, outline=outline) if x is plate else x for x in d.plates))
