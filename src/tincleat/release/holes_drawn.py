"""Holes as a sheet shows them face on: round ones as circles, slots by their outline, countersinks, threads by their symbol, and the
centre marks of those that hold no bolt."""

import math
from collections.abc import Iterator
from dataclasses import dataclass, field

import numpy as np

from tincleat.details.assembled import Assembled, Ply
from tincleat.details.plates import Hole
from tincleat.geometry.frames import Array, Frame
from tincleat.geometry.hidden_lines import covered
from tincleat.geometry.mesh import Mesh
from tincleat.geometry.outline import Outline
from tincleat.release.drawing import Style

FACE_ON = 0.99  # least part of a hole's axis along the view
MARK = 1.35  # how far a centre mark reaches, of half the hole
OPEN = (math.radians(94.0), math.radians(364.0))  # three quarters of a circle, open to the upper right
SAME = 0.05  # mm: holes of several plies that lie on each other so closely are drawn once


@dataclass
class Drawn:
    """Circles (style, x, y, radius), line pieces by style and centre marks (k, 4), in the view's plane."""

    rounds: list[tuple[Style, float, float, float]] = field(default_factory=list)
    strokes: list[tuple[Style, Array]] = field(default_factory=list)
    marks: list[tuple[float, float, float, float]] = field(default_factory=list)


@dataclass(frozen=True)
class _Seen:
    """A hole of a ply that a view sees face on."""

    ply: Ply
    hole: Hole
    x: float
    y: float
    way: float  # of its length, rad in the view
    top: bool  # whether the view looks on the ply's face at its thickness
    hides: bool


def holes_drawn(a: Assembled, view: Frame, solids: list[Mesh], low: Array, high: Array, outer: bool) -> Drawn:
    """The holes in all plies that lie in a view's window (corners (2,)), hidden ones that lie under none like them; ``outer`` draws a thread's
    larger circle in dashes, as ASME Y14.6 has it, not three quarters of it thin, as ISO 6410-1."""
    out = Drawn()
    seen = [s for s in _seen(a, view, solids) if (low <= (s.x, s.y)).all() and ((s.x, s.y) <= high).all()]
    done: set[tuple[int, ...]] = set()
    bolted = view.to_local(np.array([f.point for f in a.fitted]).reshape(-1, 3))[:, :2]
    tied = view.to_local(np.array([t.frame.origin for t in a.detail.ties]).reshape(-1, 3))[:, :2]
    held = np.concatenate([bolted, tied])
    for s in sorted(seen, key=lambda s: s.hides):  # the visible ones first: what hides under them is left out
        h = s.hole
        key = tuple(round(v / SAME) for v in (s.x, s.y, h.width, max(h.width, h.length), math.sin(s.way) ** 2 * 10 if h.length > h.width else 0.0))
        if key in done:
            continue
        done.add(key)
        line: Style = "hidden" if s.hides else "part" if s.ply.member < 0 else "member"
        if h.length > h.width:
            out.strokes.append((line, _ring(h, s)))
        elif h.kind == "tapped":
            out.rounds.append((line, s.x, s.y, minor(h.width) / 2))
            if outer or s.hides:
                out.rounds.append(("hidden", s.x, s.y, h.width / 2))
            else:
                out.strokes.append(("dimension", _arc(s.x, s.y, h.width / 2)))
        else:
            out.rounds.append((line, s.x, s.y, h.width / 2))
        if h.sink:
            out.rounds.append(("hidden" if s.hides or s.top != h.sink_top else line, s.x, s.y, h.sink / 2))
        if not (len(held) and float(np.hypot(*(held - (s.x, s.y)).T).min()) < max(h.width, h.length) / 2):
            reach = max(h.width, h.length) / 2 * MARK
            c, d = math.cos(s.way), math.sin(s.way)
            across = h.width / 2 + reach - max(h.width, h.length) / 2
            out.marks += [(s.x - c * reach, s.y - d * reach, s.x + c * reach, s.y + d * reach), (s.x + d * across, s.y - c * across, s.x - d * across, s.y + c * across)]
    return out


def _seen(a: Assembled, view: Frame, solids: list[Mesh]) -> Iterator[_Seen]:
    """Holes whose axis runs along the view, anchors' and vents' as well."""
    z = np.array(view.z)
    plies = [(p, float(z @ np.array(p.frame.z))) for p in a.plies if p.holes]
    facing = [(p, c) for p, c in plies if abs(c) > FACE_ON]
    if not facing:
        return
    rims = [p.frame.to_world(np.array([(h.x + h.width * 0.45, h.y + h.width * 0.02, p.thickness if c > 0 else 0.0) for h in p.holes])) for p, c in facing]
    behind = iter(covered(np.concatenate(rims), solids, view).tolist())
    for p, c in facing:
        middles = view.to_local(p.frame.to_world(np.array([(h.x, h.y, 0.0) for h in p.holes]))).tolist()
        ways = view.unturn(p.frame.turn(np.array([(math.cos(h.angle), math.sin(h.angle), 0.0) for h in p.holes]))).tolist()
        for h, (x, y, _), (u, v, _) in zip(p.holes, middles, ways, strict=True):
            yield _Seen(p, h, x, y, math.atan2(v, u), c > 0, next(behind))


def minor(major: float) -> float:
    """Diameter of a thread's crests in a hole, as drawn: d - 1.0825 P (ISO 724) with P a seventh of d, as coarse threads have it from M10
    to M36 within a tenth."""
    return major * (1.0 - 1.0825 / 7.0)


def _arc(x: float, y: float, radius: float) -> Array:
    """Line pieces (k, 4) of a thread's larger circle, three quarters of it."""
    at = np.linspace(*OPEN, 28)
    flat = np.column_stack([x + radius * np.cos(at), y + radius * np.sin(at)])
    return np.concatenate([flat[:-1], flat[1:]], axis=1)


def _ring(hole: Hole, s: _Seen) -> Array:
    """Line pieces (k, 4) of a slot's outline in the view."""
    flat = Outline.slot(s.x, s.y, hole.width, hole.length, s.way).points(0.02)
    return np.concatenate([flat, np.roll(flat, -1, axis=0)], axis=1)
