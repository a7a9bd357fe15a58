"""The detail sheet: the views of a detail that its family declares, at one scale with dimension chains, weld symbols and finding marks."""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from tincleat.details.assembled import Assembled
from tincleat.details.parts import Detail, Dimension, Number, Plug, SheetView, View, Weld
from tincleat.families.registry import FAMILIES
from tincleat.geometry.frames import Array, Frame
from tincleat.project.entities import AWS, ISO_A, WeldSymbols
from tincleat.proof.finding import Finding
from tincleat.proof.welds import all_round
from tincleat.proof.welds import length as weld_length
from tincleat.release.drawing import SCALES, Circle, DimensionText, Drawing, Fill, HandleSpot, Lines, Spot, Style, SwitchSpot, Text, ViewBox
from tincleat.release.notes import write_notes
from tincleat.release.projected import Projected, projected
from tincleat.units import format_length, format_other

TEXT = 2.7  # mm, capital height of dimension numbers
TITLE = 2.4  # mm, height of a view's title
SIZE = 2.3  # mm of height of a weld's size
WIDE = 0.8  # mean width of a letter by its height
OFF = 5.0  # mm from the view to the first chain
ROW = 8.5  # mm from chain to chain
SIDE_ROW = 12.0  # the same beside a view, where numbers lie across
EDGE = 3.0  # mm round the sheet
TICK = 0.9
BESIDE = 1.6  # mm between numbers side by side
SYMBOL = 6.5  # mm of height a weld symbol
THICKEST = 120.0  # mm of a part that fillets on its two sides share a symbol over
BROAD = 160.0  # mm of paper from which on dimensions have room for both systems
SECOND = 0.8  # of the numbers' height, that of the other system's under them
MOST_SYMBOLS = 4  # weld symbols by parts; more are drawn one a size, with how many places


def _layouts(views: "Sequence[View]") -> "list[tuple[tuple[View, ...], ...]]":
    """Ways to lay views out in rows, the first being the one liked best: the first view top left, the second beside it."""
    n = len(views)
    cuts = {1: ["1"], 2: ["2", "11"], 3: ["21", "12", "3", "111"], 4: ["22", "31", "4", "211", "1111"], 5: ["32", "23", "221", "5", "11111"]}.get(n, ["3" * ((n + 2) // 3)])
    out: list[tuple[tuple[View, ...], ...]] = []
    for cut in cuts:
        rows, at = [], 0
        for size in map(int, cut):
            rows.append(tuple(views[at : at + size]))
            at += size
        if cut == "12":  # the first alone over the third and the second
            rows = [rows[0], rows[1][::-1]]
        out.append(tuple(row for row in rows if row))
    return out


@dataclass(frozen=True, eq=False)
class Pictures:
    """All views of one detail, projected once."""

    assembled: Assembled
    views: dict[View, Projected]


def pictures(assembled: Assembled) -> Pictures:
    """Project a detail for its sheet (the costly part; keep it with the detail)."""
    return Pictures(assembled, projected(assembled))


@dataclass
class _Margins:
    left: float = EDGE + 2
    right: float = EDGE
    top: float = EDGE
    bottom: float = EDGE


@dataclass(frozen=True)
class _Chain:
    """A dimension chain as it is written: where its points lie along it (mm of steel), and per gap what it measures, its text, the value required."""

    dim: Dimension
    flat: Array
    model: list[float]
    gaps: list[tuple[float, str, str]]
    others: list[str]  # the gaps in the other system; none where they are not written

    @property
    def across(self) -> bool:
        """True where the chain lies level, its numbers side by side."""
        return self.dim.side in ("top", "bottom")

    @property
    def widths(self) -> list[float]:
        """Widths of the numbers, mm of paper."""
        wide = [(len(text) + (len(need) + 1 if need else 0)) * TEXT * WIDE for _, text, need in self.gaps]
        return [max(w, len(o) * TEXT * SECOND * WIDE) for w, o in zip(wide, self.others, strict=True)] if self.others else wide

    @property
    def tall(self) -> float:
        """Height of a number with what stands under it, mm of paper."""
        return TEXT * (1.25 + SECOND * 1.55 * bool(self.others))

    @property
    def row(self) -> float:
        """From this chain to the next of its side above or below a view, mm of paper."""
        return ROW + TEXT * SECOND * 1.9 * bool(self.others)

    def places(self, at: list[float]) -> list[float]:
        """Where the numbers stand along the chain, its points lying ``at`` on the paper."""
        wanted = [(at[i] + at[i + 1]) / 2 for i in range(len(at) - 1)]
        return _apart(wanted, self.widths if self.across else [self.tall] * len(wanted))


def _chains(detail: Detail, view: SheetView, label: Callable[[float], str], other: Callable[[float], str] | None, findings: "Sequence[Finding]", family_name: str) -> list[_Chain]:
    frame = view.frame
    breaches = [f for f in findings if f.level == "breach"]
    out = []
    for dim in detail.dimensions:
        if dim.view == view.name and len(dim.points) > 1:
            flat = frame.to_local(np.array(dim.points))[:, :2]
            model = flat[:, 0 if dim.side in ("top", "bottom") else 1].tolist()
            sizes = [abs(b - a) for a, b in pairwise(model)]
            out.append(_Chain(dim, flat, model, [(v, label(v), _need(dim.settings[i], v, breaches, family_name, label)) for i, v in enumerate(sizes)], [other(v) for v in sizes] if other is not None else []))
    return out


def _side_step(chains: "Sequence[_Chain]", side: str) -> float:
    """Distance between chains beside a view: their numbers lie across it."""
    return max([SIDE_ROW, *(max(c.widths) + 2.6 for c in chains if c.dim.side == side)])


def _margins(chains: "Sequence[_Chain]", extent: tuple[float, float, float, float], scale: float) -> _Margins:
    """Paper round a view for its chains at a scale, numbers that are pushed out beyond its ends included."""
    m = _Margins()
    for side in ("left", "right", "top", "bottom"):
        rows = [c.dim.row for c in chains if c.dim.side == side]
        if rows:
            setattr(m, side, OFF + max(rows) * chains[0].row + 4.0 + (chains[0].row - ROW) if side in ("top", "bottom") else OFF + (max(rows) + 1) * _side_step(chains, side) - 2.0)
    for c in chains:
        low, high = (extent[0], extent[2]) if c.across else (extent[1], extent[3])
        places = c.places([v / scale for v in c.model])
        half = [w / 2 for w in c.widths] if c.across else [c.tall * 0.56] * len(places)
        before = max(low / scale - (p - h) for p, h in zip(places, half, strict=True)) + 1.0
        after = max(p + h - high / scale for p, h in zip(places, half, strict=True)) + 1.0
        if c.across:
            m.left, m.right = max(m.left, before), max(m.right, after)
        else:
            m.bottom, m.top = max(m.bottom, before), max(m.top, after)
    m.bottom += 7.0
    return m


def compose(
    pics: Pictures, findings: "Sequence[Finding]", width: float, height: float, units: str, family_name: str, title: str = "", subtitle: str = "", at: Frame | None = None, symbols: WeldSymbols | None = None, dual: bool = False
) -> Drawing:
    """Lay the views out on ``width`` x ``height`` mm of paper at the largest standard scale that fits.

    The first is top left, the second to its right.  Dimension numbers carry the setting they edit.  ``at`` is the joint's frame in the world:
    with it levels are written.  ``dual``: lengths in the other system too, written
    on paper at least ``BROAD`` broad, told beside the number on less.
    """
    a = pics.assembled
    detail = a.detail
    both = dual and width >= BROAD
    label = lambda v: format_length(v, units)  # noqa: E731
    other = (lambda v: format_other(v, units)) if both else None
    known = {v.name: v for v in detail.views}
    chains = {name: _chains(detail, v, label, other, findings, family_name) for name, v in known.items()}
    layouts = _layouts(list(known))
    known_margins: dict[tuple[View, float], _Margins] = {}
    size = {v: (p.extent[2] - p.extent[0], p.extent[3] - p.extent[1]) for v, p in pics.views.items()}

    def margins(view: View, scale: float) -> _Margins:
        if (view, scale) not in known_margins:
            m = known_margins[view, scale] = _margins(chains[view], pics.views[view].extent, scale)
            m.top += SYMBOL * len(_weld_groups(a)) if view == detail.views[0].name else 0.0
        return known_margins[view, scale]

    top = 8.0 if title else 2.0

    def outer(view: View, scale: float) -> tuple[float, float]:
        m = margins(view, scale)
        return size[view][0] / scale + m.left + m.right, size[view][1] / scale + m.top + m.bottom

    def need(rows: "tuple[tuple[View, ...], ...]", scale: float) -> tuple[float, float]:
        wide = max(sum(outer(v, scale)[0] for v in row) for row in rows)
        return wide, sum(max(outer(v, scale)[1] for v in row) for row in rows)

    def fits(rows: "tuple[tuple[View, ...], ...]", scale: float) -> bool:
        wide, tall = need(rows, scale)
        return wide <= width and tall <= height - top

    def least(rows: "tuple[tuple[View, ...], ...]") -> float:
        """The scale from which on the rows are narrow enough at all: most scales need not be tried."""
        least_of = {v: margins(v, SCALES[0]) for v in known}
        free = [width - sum(least_of[v].left + least_of[v].right for v in row) for row in rows]
        return max(sum(size[v][0] for v in row) / room if room > 0 else SCALES[-1] for row, room in zip(rows, free, strict=True)) - 1e-9

    from_ = {rows: least(rows) for rows in layouts}
    scale, rows = next(((s, rows) for s in SCALES for rows in layouts if s >= from_[rows] and fits(rows, s)), (SCALES[-1], layouts[0]))
    d = Drawing(width, height, scale)
    corner: dict[View, tuple[float, float]] = {}
    y = height - top
    gap_y = max(0.0, height - top - need(rows, scale)[1]) / (len(rows) + 1)
    for row in rows:
        y -= gap_y
        gap_x = max(0.0, width - sum(outer(v, scale)[0] for v in row)) / (len(row) + 1)
        x = gap_x
        for view in row:
            corner[view] = (x, y)
            x += outer(view, scale)[0] + gap_x
        y -= max(outer(v, scale)[1] for v in row)
    for view, p in pics.views.items():
        m = margins(view, scale)
        left, upper = corner[view]
        x0, y1 = left + m.left, upper - m.top
        box = (x0, y1 - size[view][1] / scale, x0 + size[view][0] / scale, y1)
        centre = ((p.extent[0] + p.extent[2]) / 2, (p.extent[1] + p.extent[3]) / 2)
        frame = known[view].frame
        place = ViewBox(view, known[view].title, frame, (box[0] + box[2]) / 2, (box[1] + box[3]) / 2, centre, box)
        d.views.append(place)
        _draw(d, place, p)
        below = [c for c in chains[view] if c.dim.side == "bottom"]
        depth = (OFF + max(c.dim.row for c in below) * below[0].row + 5.5 + (below[0].row - ROW)) if below else 3.5
        named = f"{known[view].title}  1:{scale:g}"
        half = len(named) * TITLE * 0.39 + 0.5  # a narrow view's title reaches out beyond it, but not off the paper
        d.texts.append(Text(named, max(half, min(width - half, place.x)), box[1] - depth - 2.5, TITLE))
        _dimension(d, place, chains[view], detail.numbers, label)
        _weld_symbols(d, place, a, units, symbols or (AWS if a.rules == "AISC" else ISO_A), [f for f in findings if f.level == "breach"], family_name)
    if dual and not both:
        d.dimensions = [replace(x, other=format_other(x.measured, units)) for x in d.dimensions]
    write_notes(d, a, units, at)
    _switches(d, a)
    _handles(d, a)
    _marks(d, a, findings)
    if title:
        d.texts.append(Text(title, EDGE, height - 4.0, 3.2, "left", True))
    if subtitle:
        d.texts.append(Text(subtitle, EDGE + len(title) * 3.2 * 0.78 + 3, height - 4.0, 2.5, "left"))
    return d


def laid_out(place: ViewBox, scale: float, flat: Array) -> Array:
    """Points (n, 2) of a view's plane, or the ends of lines (k, 4) one after the other, on the paper (n, 2)."""
    return (np.asarray(flat, dtype=float).reshape(-1, 2) - place.centre) / scale + (place.x, place.y)


def _draw(d: Drawing, place: ViewBox, p: Projected) -> None:
    def lines(style: Style, pieces: Array) -> None:
        if len(pieces):
            d.lines.append(Lines(style, laid_out(place, d.scale, pieces).reshape(-1, 4)))

    for corners in p.fills:
        flat = laid_out(place, d.scale, corners)
        low, high = flat.min(axis=0), flat.max(axis=0)
        x0, y0 = max(low[0], place.box[0]), max(low[1], place.box[1])
        x1, y1 = min(high[0], place.box[2]), min(high[1], place.box[3])
        if x1 > x0 and y1 > y0:
            d.fills.append(Fill("concrete", np.array([(x0, y0), (x1, y0), (x1, y1), (x0, y1)])))
    for style in ("hidden", "concrete", "member", "rod", "part", "bolt", "dimension"):
        lines(style, p.lines.get(style, np.zeros((0, 4))))  # type: ignore[arg-type]
    lines("centre", p.crosses)
    cx, cy = (float(v) for v in place.centre)
    for style, x, y, r in p.rounds:
        d.circles.append(Circle(style, (x - cx) / d.scale + place.x, (y - cy) / d.scale + place.y, r / d.scale))


def _dimension(d: Drawing, place: ViewBox, chains: "Sequence[_Chain]", numbers: "Sequence[Number]", label: Callable[[float], str]) -> None:
    strokes: list[tuple[float, float, float, float]] = []
    known = {n.name: n for n in numbers}
    for c in chains:
        dim = c.dim
        paper = laid_out(place, d.scale, c.flat).tolist()
        along = 0 if c.across else 1
        away = 1 - along
        step = c.row if c.across else _side_step(chains, dim.side)
        edge = {"left": place.box[0], "right": place.box[2], "top": place.box[3], "bottom": place.box[1]}[dim.side]
        sign = -1.0 if dim.side in ("left", "bottom") else 1.0
        line = edge + sign * (OFF + dim.row * step)
        at = [p[along] for p in paper]
        for i, p in enumerate(paper):
            start = p[away] + sign * 0.8
            strokes.append((p[0], start, p[0], line + sign * 1.2) if along == 0 else (start, p[1], line + sign * 1.2, p[1]))
            strokes.append((at[i] - TICK, line - TICK, at[i] + TICK, line + TICK) if along == 0 else (line - TICK, at[i] - TICK, line + TICK, at[i] + TICK))
        lo, hi = min(at), max(at)
        strokes.append((lo, line, hi, line) if along == 0 else (line, lo, line, hi))
        _numbers(d, c, place, at, line, sign, label, known, strokes)
    if strokes:
        d.lines.append(Lines("dimension", np.array(strokes)))


def _numbers(
    d: Drawing, c: _Chain, place: ViewBox, at: list[float], line: float, sign: float, label: Callable[[float], str], known: "dict[str, Number]",
    strokes: "list[tuple[float, float, float, float]]",
) -> None:  # fmt: skip
    """Numbers of one chain, pushed apart where gaps are too narrow for them."""
    dim = c.dim
    middles = [(at[i] + at[i + 1]) / 2 for i in range(len(at) - 1)]
    for gap, ((measured, text, need), middle, target, width) in enumerate(zip(c.gaps, middles, c.places(at), c.widths, strict=True)):
        moved = abs(target - middle) > abs(measured) / d.scale / 2 - 0.2
        if c.across:
            x, y = target, line + TEXT * 0.8
            if moved:
                y = line - TEXT * 1.0 if dim.side == "bottom" else line + TEXT * 1.9
                strokes.append((middle, line, target, y + (TEXT * 0.6 if dim.side == "bottom" else -TEXT * 0.6)))
            anchor = "middle"
        else:
            x, y = line + sign * 1.4, target
            if moved:
                strokes.append((line, middle, x, target))
            anchor = "left" if sign > 0 else "right"
        if c.others:  # under the number: under its line where it stands over that
            lower = line - TEXT * 1.2 if c.across and not moved else y - TEXT * (1.35 if c.across else 0.8)
            y = y if c.across else y + TEXT * 0.7
            d.texts.append(Text(c.others[gap], x, lower, TEXT * SECOND, anchor, over=True))  # type: ignore[arg-type]
        setting = dim.settings[gap]
        d.dimensions.append(DimensionText(text, x, y, width, TEXT, measured, setting, gap, place.name, need, _came(known.get(setting), measured, label), anchor))  # type: ignore[arg-type]


def _came(number: "Number | None", measured: float, label: Callable[[float], str]) -> str:
    """How a number that was rounded or adapted came about."""
    if number is None or number.origin not in ("rounded", "adapted"):
        return ""
    before = f"{label(number.raw)} → " if number.raw else ""  # what was worked out of nothing has no figure before
    return f"{before}{label(measured)}, {number.rule}"


def _need(setting: str, measured: float, findings: "Sequence[Finding]", family_name: str, label: Callable[[float], str]) -> str:
    """The required value of a breach that this dimension shows, as it stands beside the number."""
    mends = FAMILIES[family_name].mends if family_name in FAMILIES else {}
    for f in findings:
        if setting and setting.partition("/")[0] in mends.get(f.rule, ()) and abs(f.actual - measured) < 0.05:
            return {">=": "≥ ", "<=": "≤ "}.get(f.sense, "→ ") + label(f.required)
    return ""


def _apart(wanted: "list[float]", room: "list[float]") -> list[float]:
    """Positions as near as can be to those wanted, in their order, so that texts of these sizes do not touch."""
    order = sorted(range(len(wanted)), key=lambda i: wanted[i])
    groups: list[tuple[float, float, list[int]]] = []
    for i in order:
        groups.append((wanted[i], room[i] + BESIDE, [i]))
        while len(groups) > 1 and groups[-1][0] - groups[-2][0] < (groups[-1][1] + groups[-2][1]) / 2 - 1e-9:
            (c2, w2, m2), (c1, w1, m1) = groups.pop(), groups.pop()
            groups.append(((c1 * len(m1) + c2 * len(m2)) / (len(m1) + len(m2)), w1 + w2, m1 + m2))
    out = [0.0] * len(wanted)
    for centre, width, members in groups:
        at = centre - width / 2
        for i in members:
            out[i] = at + (room[i] + BESIDE) / 2
            at += room[i] + BESIDE
    return out


def _weld_groups(a: Assembled) -> "list[tuple[float, list[Weld], int]]":
    """Welds that share one symbol, with how many places it stands for (0: the one it points at): the same leg between the same
    parts, or where that would be more symbols than can be read, the same leg; shop and site apart."""
    groups: dict[tuple[object, ...], list[Weld]] = {}
    for weld in a.detail.welds:
        # a groove's symbol tells how it opens, not how deep it goes
        size = round(weld.leg, 3) if weld.kind == "fillet" else round(weld.opening, 3)
        groups.setdefault((size, weld.kind, weld.site, weld.parts, weld.tail), []).append(weld)
    if len(groups) <= MOST_SYMBOLS:
        return [(members[0].leg, members, 0) for members in groups.values()]
    by_size: dict[tuple[object, ...], list[Weld]] = {}
    for weld in a.detail.welds:
        by_size.setdefault((round(weld.leg, 3), weld.kind, weld.site, weld.tail), []).append(weld)
    return [(members[0].leg, members, len({w.parts for w in members})) for members in by_size.values()]


def _plug_groups(a: Assembled) -> "list[list[Plug]]":
    """Plug and slot welds that share one symbol: of one size, between the same parts."""
    groups: dict[tuple[object, ...], list[Plug]] = {}
    for p in a.detail.plugs:
        groups.setdefault((round(p.width, 2), round(p.length, 2), round(p.depth, 2), p.parts, p.site, p.tail), []).append(p)
    return list(groups.values())


def _roots_shared(grooves: "Sequence[Weld]") -> bool:
    """Whether some of these grooves open to both sides of a part from one root."""
    roots = [frozenset((tuple(round(c, 2) for c in w.start), tuple(round(c, 2) for c in w.end))) for w in grooves]
    return len(set(roots)) < len(roots)


def _on_both_sides(welds: "Sequence[Weld]") -> bool:
    """Whether some of these fillets lie on both sides of a part: run beside run, one leg of each the same way and the other the opposite way."""
    runs = np.array([np.subtract(w.end, w.start) for w in welds])
    runs /= np.maximum(np.linalg.norm(runs, axis=1), 1e-9)[:, None]
    u, v, middle = (np.array(x) for x in ([w.u for w in welds], [w.v for w in welds], [np.add(w.start, w.end) / 2 for w in welds]))
    parts: dict[tuple[str, str], int] = {}
    same = np.array([parts.setdefault(w.parts, len(parts)) for w in welds])
    gap = middle[:, None] - middle[None]
    along = np.einsum("ijk,ik->ij", gap, runs)
    aside = np.sqrt(np.maximum(np.einsum("ijk,ijk->ij", gap, gap) - along**2, 0.0))
    uu, vv = u @ u.T, v @ v.T
    facing = ((uu < -0.9) & (vv > 0.9)) | ((uu > 0.9) & (vv < -0.9))
    lengths = np.array([weld_length(w) for w in welds])
    return bool((facing & (same[:, None] == same) & (abs(runs @ runs.T) > 0.99) & (abs(along) < lengths[:, None] / 2) & (aside < THICKEST)).any())


def _cup(x: float, level: float, side: float, both: bool) -> "list[tuple[float, float, float, float]]":
    """A U on its short stem, or a J: its upright side and half of the U."""
    turn = np.linspace(math.pi if both else 1.5 * math.pi, 2 * math.pi, 9 if both else 5)
    flat = np.column_stack([x + 1.1 * np.cos(turn), level + side * (1.9 + 1.1 * np.sin(turn))])
    stem = (x, level, x, level + side * (0.8 if both else 2.0))
    return [stem, *((float(a), float(b), float(c), float(d)) for (a, b), (c, d) in pairwise(flat))]


def _weld_size(a: Assembled, leg: float, members: "Sequence[Weld]", plugs: "Sequence[Plug]", opens: "set[int]", units: str) -> str:
    """What a symbol says of its welds' size: a leg, how a groove ``opens`` (degrees) that goes right through, or a plug's or slot's measures."""
    if plugs:
        first = plugs[0]
        size = format_length(first.width, units) + (f" x {format_length(first.length, units)}" if first.kind == "slot" else "")
        thick = next((p.thickness for p in a.detail.plates if p.name == first.parts[1]), first.depth)
        return size + (f", {format_length(first.depth, units)} deep" if first.depth < thick - 0.05 else "")
    if members[0].kind == "groove":
        return ", ".join(filter(None, (format_length(members[0].opening, units) if members[0].opening else "", f"{max(opens)}°" if len(opens) == 1 and opens != {0} else "")))
    return ("z" if units in ("mm", "m") else "") + format_length(leg, units)


def _weld_symbols(d: Drawing, place: ViewBox, a: Assembled, units: str, symbols: WeldSymbols, breaches: "Sequence[Finding]", family_name: str) -> None:
    """Above the front view, one symbol a group: an arrow to the weld, a reference line, fillet triangles and the leg,
    or a bevel with its root opening and angle where it goes right through.

    By ISO 2553 system A what lies on the arrow's side stands on the whole line, with a dashed one beside it; by system B and by AWS A2.4 it
    hangs under the line, and what stands on it is on the other side.
    """
    if place.name != a.detail.views[0].name or not (a.detail.welds or a.detail.plugs):
        return
    strokes: list[tuple[float, float, float, float]] = []
    groups: list[tuple[np.ndarray, float, list[Weld], int, list[Plug]]] = []
    for plugs in _plug_groups(a):
        spots = laid_out(place, d.scale, place.frame.to_local(np.array([p.frame.origin for p in plugs]))[:, :2])
        groups.append((spots[spots[:, 1].argmax()], plugs[0].width, [], 0, plugs))
    for leg, members, places in _weld_groups(a):
        weld = max(members, key=weld_length)
        ends = laid_out(place, d.scale, place.frame.to_local(np.array([weld.start, weld.end]))[:, :2])
        groups.append((ends[ends[:, 1].argmax()] * 0.7 + ends[ends[:, 1].argmin()] * 0.3, leg, members, places, []))
    # the lowest symbol points at the highest weld, so that the arrows do not cross
    groups.sort(key=lambda g: (-round(float(g[0][1]), 1), float(g[0][0])))
    for number, (target, leg, members, places, plugs) in enumerate(groups):
        dashed = symbols == ISO_A
        arrow = 1 if dashed else -1  # which way of the line the arrow's side is told
        level = place.box[3] + (2.5 if dashed else 4.5) + number * SYMBOL
        lean, long = 3.0 + 0.25 * (level - float(target[1])), 12.0 if not places else 24.0
        # the reference line runs to the side on which there is room beside the arrow, so that the arrow stands steep
        way = 1.0 if float(target[0]) - lean - long < place.box[0] - 6.0 and float(target[0]) + lean + long <= place.box[2] + 6.0 else -1.0
        elbow = float(target[0]) + way * lean
        groove = not plugs and members[0].kind == "groove"
        opens = {round(math.degrees(math.acos(max(-1.0, min(1.0, float(np.dot(w.u, w.v))))))) for w in members} if groove else set()
        shown = _weld_size(a, leg, members, plugs, opens, units)
        if way < 0:  # what it says is on the paper too
            elbow = max(elbow, place.box[0] + (9.5 if not places else 20.0), 7.5 + len(shown) * SIZE * WIDE)
        strokes += [(float(target[0]), float(target[1]), elbow, level), (elbow, level, elbow + way * 11.0, level)]
        x = elbow + (7.5 if way > 0 else -5.0)
        site, tail = (plugs[0].site, plugs[0].tail) if plugs else (members[0].site, members[0].tail)
        closed = all_round(members)
        if closed:
            d.circles.append(Circle("weld", elbow, level, 1.1))
        if opens == {0}:  # square edges: two strokes side by side
            strokes += [(x + s, level, x + s, level + arrow * 2) for s in (-1.0, 0.2)]
        if site:  # a pennant where arrow and reference line meet
            strokes += [(elbow, level, elbow, level + 4.2), (elbow, level + 4.2, elbow - way * 2.4, level + 3.4), (elbow - way * 2.4, level + 3.4, elbow, level + 2.6)]
        if plugs:  # a box open to the line, how many behind it
            strokes += [(x - 1.4, level, x - 1.4, level + arrow * 1.9), (x - 1.4, level + arrow * 1.9, x + 1.4, level + arrow * 1.9), (x + 1.4, level + arrow * 1.9, x + 1.4, level)]
        both = bool(members) and not closed and (_roots_shared(members) if groove else _on_both_sides(members))
        vee = groove and members[0].vee  # two strokes that open; a bevel's first one stands
        for side in () if plugs or opens == {0} else (1, -1) if both else (arrow,):
            strokes += _cup(x, level, side, vee) if groove and members[0].radius else [(x - 1.2, level + side * 2, x, level), (x, level, x + 1.2, level + side * 2)] if vee else [(x - 1, level, x - 1, level + side * 2), (x - 1, level, x + 1, level + side * 2) if groove else (x - 1, level + side * 2, x + 1, level)]
        if dashed and not both:
            strokes += [(elbow + way * s, level - 0.8, elbow + way * (s + 1.1), level - 0.8) for s in (0.4, 2.1, 3.8, 5.5, 7.2, 8.9)]
        end = elbow + way * 11.0
        if tail:  # a fork at the end of the line, and what it says
            strokes += [(end, level, end + way * 2.0, level + 1.6), (end, level, end + way * 2.0, level - 1.6)]
            words = f"{places} places: {tail}" if places > 1 else tail
            d.texts.append(Text(words, end + way * 2.6, level, 2.1, "left" if way > 0 else "right"))
        elif places:
            d.texts.append(Text(f"{places} place{'s' if places != 1 else ''}", elbow + way * 11.8, level - 0.9 if dashed else level + 1.1, 2.1, "left" if way > 0 else "right"))
        if len(plugs) > 1:
            d.texts.append(Text(f"({len(plugs)})", x + 2.2, level + (1.9 if arrow > 0 else -1.7), SIZE, "left"))
        at = x - 2.0, level + (1.9 if arrow > 0 else -1.7)
        asked = [] if plugs or groove else [n for n in a.detail.numbers if "weld" in n.name and isinstance(n.value, float) and abs(n.value - leg) < 1e-6]
        if len(asked) == 1:  # of a leg that two settings ask for nobody knows which is meant: it is typed in the form
            label = lambda v: format_length(v, units)  # noqa: E731
            d.dimensions.append(DimensionText(shown, *at, len(shown) * SIZE * WIDE, SIZE, leg, asked[0].name, 0, "", _need(asked[0].name, leg, breaches, family_name, label), _came(asked[0], leg, label), "right"))
        else:
            d.texts.append(Text(shown, *at, SIZE, "right"))
        d.circles.append(Circle("weld", float(target[0]), float(target[1]), 0.5))
    d.lines.append(Lines("weld", np.array(strokes)))


def _switches(d: Drawing, a: Assembled) -> None:
    """Places that can be left out, each on the view that looks at it most squarely."""
    for s in a.detail.switches:
        place = max(d.views, key=lambda v: abs(float(np.dot(v.frame.z, s.towards))))
        x, y = laid_out(place, d.scale, place.frame.to_local(np.array([s.at]))[:, :2])[0]
        d.switches.append(SwitchSpot(float(x), float(y), s.setting, s.number, s.on, s.words))


def _handles(d: Drawing, a: Assembled) -> None:
    """What can be taken hold of, each on the view that looks at it most squarely, with the ways that lie in that view."""
    for h in a.detail.handles:
        place = max(d.views, key=lambda v: abs(float(np.dot(v.frame.z, h.towards))))
        x, y = laid_out(place, d.scale, place.frame.to_local(np.array([h.at]))[:, :2])[0]
        flat = [(place.frame.unturn(np.array(p.way))[:2] / d.scale, p.rates) for p in h.pulls]
        pulls = tuple(((float(w[0]), float(w[1])), rates) for w, rates in flat if float(np.hypot(*w)) * d.scale > 0.5)
        (ax, ay), (bx, by) = (pulls[0][0], pulls[-1][0]) if pulls else ((0.0, 0.0), (0.0, 0.0))
        if len(pulls) == 2 and abs(ax * by - ay * bx) * d.scale**2 < 0.1:  # one over the other on paper
            pulls = pulls[:1]
        if pulls:
            d.handles.append(HandleSpot(float(x), float(y), pulls, h.words))


def _marks(d: Drawing, a: Assembled, findings: "Sequence[Finding]") -> None:
    """Marks of notes and breaches on the view that looks square on the main plate."""
    if not a.detail.flats:
        return
    normal = np.array(a.detail.flats[0].frame.z)
    place = max(d.views, key=lambda v: abs(float(np.array(v.frame.z) @ normal)))
    for f in findings:
        if f.level in ("note", "breach", "concession"):
            at = laid_out(place, d.scale, place.frame.to_local(np.array([f.where]))[:, :2])[0]
            d.spots.append(Spot(float(at[0]), float(at[1]), f.level, f"{f.title}: {f.message}", f.key))
