"""The detail sheet: three views of a detail at one scale with dimension chains, weld symbols and finding marks."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from tincleat.details.assembled import Assembled
from tincleat.details.parts import Dimension, Number, View
from tincleat.families.registry import FAMILIES
from tincleat.geometry.frames import Array
from tincleat.proof.finding import Finding
from tincleat.proof.welds import length as weld_length
from tincleat.release.drawing import SCALES, Circle, DimensionText, Drawing, Fill, Lines, Spot, Style, Text, ViewBox
from tincleat.release.projected import VIEWS, Projected, bodies, projected
from tincleat.units import format_length

TEXT = 2.7  # mm, capital height of dimension numbers
WIDE = 0.72  # mean width of a letter by its height
OFF = 6.0  # mm from the view to the first chain
ROW = 7.0  # mm from chain to chain
EDGE = 5.0  # mm round the sheet
TICK = 0.9


@dataclass(frozen=True, eq=False)
class Pictures:
    """All three views of one detail, projected once."""

    assembled: Assembled
    views: dict[View, Projected]


def pictures(assembled: Assembled) -> Pictures:
    """Project a detail for its sheet (the costly part; keep it with the detail)."""
    made = bodies(assembled)
    return Pictures(assembled, {view: projected(assembled, view, made) for view in VIEWS})


def _clip(p: Projected, a: Assembled) -> tuple[float, float, float, float]:
    return p.extent


@dataclass
class _Margins:
    left: float = EDGE
    right: float = EDGE
    top: float = EDGE
    bottom: float = EDGE


def _margins(dims: "Sequence[Dimension]", view: str, label: Callable[[float], str]) -> _Margins:
    m = _Margins()
    for side in ("left", "right", "top", "bottom"):
        rows = [d for d in dims if d.view == view and d.side == side and len(d.points) > 1]
        if not rows:
            continue
        depth = OFF + max(d.row for d in rows) * (ROW if side in ("top", "bottom") else 2.2 * ROW) + (4.0 if side in ("top", "bottom") else 14.0)
        setattr(m, side, depth)
    m.bottom += 5.0
    return m


def compose(pics: Pictures, findings: "Sequence[Finding]", width: float, height: float, units: str, family_name: str, title: str = "", subtitle: str = "") -> Drawing:
    """Lay the three views out on ``width`` x ``height`` mm of paper at the largest standard scale that fits.

    Front is top left, side to its right, plan below.  Dimension numbers carry the setting they edit.
    """
    a = pics.assembled
    detail = a.detail
    label = lambda v: format_length(v, units)  # noqa: E731
    margins = {v: _margins(detail.dimensions, v, label) for v in VIEWS}
    size = {v: (p.extent[2] - p.extent[0], p.extent[3] - p.extent[1]) for v, p in pics.views.items()}
    top = 8.0

    def fits(scale: float) -> bool:
        w = [size[v][0] / scale + margins[v].left + margins[v].right for v in VIEWS]
        h = [size[v][1] / scale + margins[v].top + margins[v].bottom for v in VIEWS]
        return max(w[0], w[2]) + w[1] <= width and max(h[0], h[1]) + h[2] <= height - top

    scale = next((s for s in SCALES if fits(s)), SCALES[-1])
    d = Drawing(width, height, scale)
    w = {v: size[v][0] / scale + margins[v].left + margins[v].right for v in VIEWS}
    h = {v: size[v][1] / scale + margins[v].top + margins[v].bottom for v in VIEWS}
    column, row = max(w["front"], w["plan"]), max(h["front"], h["side"])
    spare_x, spare_y = max(0.0, width - column - w["side"]) / 3, max(0.0, height - top - row - h["plan"]) / 3
    corner = {"front": (spare_x, height - top - spare_y), "side": (2 * spare_x + column, height - top - spare_y), "plan": (spare_x, height - top - 2 * spare_y - row)}
    for view, p in pics.views.items():
        m = margins[view]
        left, upper = corner[view]
        if view in ("front", "plan"):
            # front and plan share their x axis: line them up where the widths allow
            left += max(0.0, (column - w[view]) / 2)
        x0, y1 = left + m.left, upper - m.top
        box = (x0, y1 - size[view][1] / scale, x0 + size[view][0] / scale, y1)
        centre = ((p.extent[0] + p.extent[2]) / 2, (p.extent[1] + p.extent[3]) / 2)
        frame = VIEWS[view][1]
        place = ViewBox(view, VIEWS[view][0], frame, (box[0] + box[2]) / 2, (box[1] + box[3]) / 2, centre, box)
        d.views.append(place)
        _draw(d, place, p)
        below = [x for x in detail.dimensions if x.view == view and x.side == "bottom" and len(x.points) > 1]
        depth = (OFF + max((x.row for x in below), default=0) * ROW + 3.5) if below else 3.5
        d.texts.append(Text(f"{VIEWS[view][0]}  1:{scale:g}", place.x, box[1] - depth - 2.5, 2.4))
        _dimension(d, place, detail.dimensions, label, detail.numbers, findings, family_name, units)
        _weld_symbols(d, place, a, units)
    _marks(d, a, findings)
    if title:
        d.texts.append(Text(title, EDGE, height - 4.0, 3.2, "left", True))
    if subtitle:
        d.texts.append(Text(subtitle, EDGE + len(title) * 3.2 * 0.78 + 3, height - 4.0, 2.5, "left"))
    return d


def _paper(place: ViewBox, scale: float, flat: Array) -> Array:
    return (np.asarray(flat, dtype=float).reshape(-1, 2) - place.centre) / scale + (place.x, place.y)


def _draw(d: Drawing, place: ViewBox, p: Projected) -> None:
    def lines(style: Style, pieces: Array) -> None:
        if len(pieces):
            ends = [_paper(place, d.scale, pieces[:, i : i + 2]) for i in (0, 2)]
            d.lines.append(Lines(style, _clipped(np.concatenate(ends, axis=1), place.box)))

    for corners in p.fills:
        low, high = _paper(place, d.scale, corners).min(axis=0), _paper(place, d.scale, corners).max(axis=0)
        x0, y0 = max(low[0], place.box[0] - 3), max(low[1], place.box[1])
        x1, y1 = min(high[0], place.box[2] + 3), min(high[1], place.box[3])
        if x1 > x0 and y1 > y0:
            d.fills.append(Fill("concrete", np.array([(x0, y0), (x1, y0), (x1, y1), (x0, y1)])))
    for style in ("hidden", "concrete", "member", "rod", "part", "bolt"):
        lines(style, p.lines.get(style, np.zeros((0, 4))))  # type: ignore[arg-type]
    lines("centre", p.crosses)
    for style, x, y, r in p.rounds:
        at = _paper(place, d.scale, np.array([(x, y)]))[0]
        d.circles.append(Circle(style, float(at[0]), float(at[1]), r / d.scale))


def _clipped(pieces: Array, box: tuple[float, float, float, float]) -> Array:
    """Pieces cut to the view's box, 3 mm over (for concrete that goes on)."""
    low, high = np.array(box[:2]) - 3.0, np.array(box[2:]) + 3.0
    a, b = pieces[:, :2], pieces[:, 2:]
    t0, t1 = np.zeros(len(pieces)), np.ones(len(pieces))
    step = b - a
    for i in (0, 1):
        moving = np.abs(step[:, i]) > 1e-9
        safe = np.where(moving, step[:, i], 1.0)
        u, v = (low[i] - a[:, i]) / safe, (high[i] - a[:, i]) / safe
        t0 = np.where(moving, np.maximum(t0, np.minimum(u, v)), t0)
        t1 = np.where(moving, np.minimum(t1, np.maximum(u, v)), np.where((a[:, i] < low[i]) | (a[:, i] > high[i]), -1.0, t1))
    kept = t1 > t0
    return np.concatenate([a + step * t0[:, None], a + step * t1[:, None]], axis=1)[kept]


def _dimension(
    d: Drawing, place: ViewBox, dims: "Sequence[Dimension]", label: Callable[[float], str], numbers: "Sequence[Number]", findings: "Sequence[Finding]", family_name: str, units: str
) -> None:
    strokes: list[tuple[float, float, float, float]] = []
    known = {n.name: n for n in numbers}
    for dim in dims:
        if dim.view != place.name or len(dim.points) < 2:
            continue
        flat = place.frame.to_local(np.array(dim.points))[:, :2]
        paper = _paper(place, d.scale, flat)
        along = 0 if dim.side in ("top", "bottom") else 1
        away = 1 - along
        step = ROW if along == 0 else 2.2 * ROW
        edge = {"left": place.box[0], "right": place.box[2], "top": place.box[3], "bottom": place.box[1]}[dim.side]
        sign = -1.0 if dim.side in ("left", "bottom") else 1.0
        line = edge + sign * (OFF + dim.row * step)
        order = np.argsort(paper[:, along], kind="stable")
        if np.any(np.diff(order) < 0):
            order = order[::-1] if np.all(np.diff(order[::-1]) > 0) else order
        at = paper[:, along]
        for i, p in enumerate(paper):
            start = p[away] + sign * 0.8
            strokes.append((p[0], start, p[0], line + sign * 1.2) if along == 0 else (start, p[1], line + sign * 1.2, p[1]))
            strokes.append((at[i] - TICK, line - TICK, at[i] + TICK, line + TICK) if along == 0 else (line - TICK, at[i] - TICK, line + TICK, at[i] + TICK))
        lo, hi = float(at.min()), float(at.max())
        strokes.append((lo, line, hi, line) if along == 0 else (line, lo, line, hi))
        _numbers(d, dim, place, flat[:, along], at, along, line, sign, label, known, findings, family_name, units, strokes)
    if strokes:
        d.lines.append(Lines("dimension", np.array(strokes)))


def _numbers(
    d: Drawing, dim: Dimension, place: ViewBox, model: Array, at: Array, along: int, line: float, sign: float, label: Callable[[float], str], known: "dict[str, Number]",
    findings: "Sequence[Finding]", family_name: str, units: str, strokes: "list[tuple[float, float, float, float]]",
) -> None:  # fmt: skip
    """Numbers of one chain, pushed apart where gaps are too narrow for them."""
    spans = [(abs(float(model[i + 1] - model[i])), (at[i] + at[i + 1]) / 2) for i in range(len(at) - 1)]
    texts, wanted = [], []
    for gap, (measured, middle) in enumerate(spans):
        text = label(measured)
        texts.append((gap, measured, text, _need(dim.settings[gap], measured, findings, family_name, label)))
        wanted.append(middle)
    widths = [len(t[2]) * TEXT * WIDE + (len(t[3]) * TEXT * WIDE + 1 if t[3] else 0) for t in texts]
    room = widths if along == 0 else [TEXT * 1.25] * len(texts)
    places = _apart(wanted, room)
    for (gap, measured, text, need), middle, target, width in zip(texts, wanted, places, widths, strict=True):
        moved = abs(target - middle) > abs(measured) / d.scale / 2 - 0.2
        if along == 0:
            x, y = target, line + TEXT * 0.8
            if dim.side == "bottom":
                y = line + TEXT * 0.8
            if moved:
                y = line - TEXT * 1.0 if dim.side == "bottom" else line + TEXT * 1.9
                strokes.append((middle, line, target, y + (TEXT * 0.6 if dim.side == "bottom" else -TEXT * 0.6)))
            anchor = "middle"
        else:
            x, y = line + sign * 1.4, target
            if moved:
                strokes.append((line, middle, x, target))
            anchor = "left" if sign > 0 else "right"
        setting = dim.settings[gap]
        number = known.get(setting)
        raw = f"{label(number.raw)} → {label(measured)}, {number.rule}" if number is not None and number.origin == "rounded" else ""
        d.dimensions.append(DimensionText(text, x, y, width, TEXT, measured, setting, gap, place.name, need, raw, anchor))  # type: ignore[arg-type]


def _need(setting: str, measured: float, findings: "Sequence[Finding]", family_name: str, label: Callable[[float], str]) -> str:
    """The required value of a breach that this dimension shows, as it stands beside the number."""
    mends = FAMILIES[family_name].mends if family_name in FAMILIES else {}
    for f in findings:
        if f.level == "breach" and setting and setting in mends.get(f.rule, ()) and abs(f.actual - measured) < 0.05:
            return {">=": "≥ ", "<=": "≤ "}.get(f.sense, "→ ") + label(f.required)
    return ""


def _apart(wanted: "list[float]", room: "list[float]") -> list[float]:
    """Positions as near as can be to those wanted, in their order, so that texts of these sizes do not touch."""
    order = sorted(range(len(wanted)), key=lambda i: wanted[i])
    groups: list[tuple[float, float, list[int]]] = []
    for i in order:
        groups.append((wanted[i], room[i] + 0.8, [i]))
        while len(groups) > 1 and groups[-1][0] - groups[-2][0] < (groups[-1][1] + groups[-2][1]) / 2 - 1e-9:
            (c2, w2, m2), (c1, w1, m1) = groups.pop(), groups.pop()
            groups.append(((c1 * len(m1) + c2 * len(m2)) / (len(m1) + len(m2)), w1 + w2, m1 + m2))
    out = [0.0] * len(wanted)
    for centre, width, members in groups:
        at = centre - width / 2
        for i in members:
            out[i] = at + (room[i] + 0.8) / 2
            at += room[i] + 0.8
    return out


def _weld_symbols(d: Drawing, place: ViewBox, a: Assembled, units: str) -> None:
    """One symbol a weld size and pair of parts, on the front view: an arrow to the weld, a line, a fillet triangle and the leg."""
    if place.name != "front" or not a.detail.welds:
        return
    groups: dict[tuple[float, tuple[str, str]], list[int]] = {}
    for i, weld in enumerate(a.detail.welds):
        groups.setdefault((round(weld.leg, 3), weld.parts), []).append(i)
    strokes: list[tuple[float, float, float, float]] = []
    for number, ((leg, _), members) in enumerate(groups.items()):
        weld = max((a.detail.welds[i] for i in members), key=weld_length)
        flat = place.frame.to_local(np.array([weld.start, weld.end]))[:, :2]
        target = _paper(place, d.scale, flat)[0 if flat[0][1] > flat[1][1] else 1] * 0.25 + _paper(place, d.scale, flat)[1 if flat[0][1] > flat[1][1] else 0] * 0.75
        if len(a.detail.rods):
            target = _paper(place, d.scale, flat).max(axis=0) if number == 0 else _paper(place, d.scale, flat).mean(axis=0)
        both = len(members) > 1
        elbow = (place.box[0] - 2.0, place.box[3] + 0.5 - number * 6.5) if not len(a.detail.rods) else (place.box[2] + 3.0, place.box[3] - 2.0 - number * 6.5)
        way = -1.0 if elbow[0] < target[0] else 1.0
        end = elbow[0] + way * 9.0
        strokes += [(float(target[0]), float(target[1]), *elbow), (*elbow, end, elbow[1])]
        x = elbow[0] + way * 4.5
        for side in (1, -1) if both else (1,):
            strokes += [(x - 1, elbow[1], x - 1, elbow[1] + side * 2), (x - 1, elbow[1] + side * 2, x + 1, elbow[1])]
        shown = ("z" if units in ("mm", "m") else "") + format_length(leg, units)
        d.texts.append(Text(shown, x - 1.6 if way > 0 else x - 1.6, elbow[1] + 1.7, 2.3, "right"))
        d.circles.append(Circle("weld", float(target[0]), float(target[1]), 0.5))
    d.lines.append(Lines("weld", np.array(strokes)))


def _marks(d: Drawing, a: Assembled, findings: "Sequence[Finding]") -> None:
    """Marks of notes and breaches on the view that looks square on the main plate."""
    if not a.detail.plates:
        return
    normal = np.array(a.detail.plates[0].frame.z)
    place = max(d.views, key=lambda v: abs(float(np.array(v.frame.z) @ normal)))
    for f in findings:
        if f.level in ("note", "breach", "concession"):
            at = _paper(place, d.scale, place.frame.to_local(np.array([f.where]))[:, :2])[0]
            d.spots.append(Spot(float(at[0]), float(at[1]), f.level, f"{f.title}: {f.message}", f.key))
