"""What is painted over the drawn model: grid bubbles, levels, state marks, lines and words, the axes."""

import math
from typing import Protocol

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from tincleat.app.bodies import STATES, Bodies
from tincleat.app.camera import Camera
from tincleat.app.marks import stamp_mark
from tincleat.app.theme import Theme, font
from tincleat.geometry.frames import Array
from tincleat.ledger.ledger import Ledger
from tincleat.units import format_level

CELL = 20  # px: one mark a cell
MARKS_FROM = 2.0  # px per metre below which single marks are left out


class Painted(Protocol):
    """What is painted over: a view of the model with its camera and what is marked in it."""

    ledger: Ledger | None
    camera: Camera
    theme: Theme
    bodies: Bodies | None
    box: "tuple[Array, Array] | None"
    selected_joints: set[str]
    hover_key: str
    lines: list[tuple[Array, str, bool]]
    labels: list[tuple[Array, str]]

    def width(self) -> int:
        """Pixels across."""
        ...

    def height(self) -> int:
        """Pixels down."""
        ...


def grid_lines(view: Painted) -> "list[tuple[Array, Array, str]]":
    """Ends of every grid line on the lowest level, past the outer lines, and its label."""
    out = []
    assert view.ledger is not None
    base = min((v.elevation for v in view.ledger.project.levels.values()), default=0.0)
    for g in view.ledger.project.grids.values():
        c, s = math.cos(g.angle), math.sin(g.angle)
        ex, ey, o = np.array([c, s, 0.0]), np.array([-s, c, 0.0]), np.array(g.origin) + (0, 0, base)
        x0, x1, y0, y1 = g.x[0][1], g.x[-1][1], g.y[0][1], g.y[-1][1]
        past = 1800.0
        out += [(o + ex * x + ey * (y0 - past), o + ex * x + ey * (y1 + past), name) for name, x in g.x]
        out += [(o + ey * y + ex * (x0 - past), o + ey * y + ex * (x1 + past), name) for name, y in g.y]
    return out


def paint_grid(view: Painted, painter: QPainter) -> None:
    """Bubbles at the grid lines' near ends, and levels beside the model."""
    painter.setFont(font(8))
    lines = grid_lines(view)
    ends = view.camera.project(np.array([p for a, b, _ in lines for p in (a, b)]).reshape(-1, 3)).reshape(-1, 2, 3)
    for (first, last), (_, _, name) in zip(ends, lines, strict=True):
        at = first
        long = float(np.hypot(*(first - last)[:2]))
        if np.isnan(long) or long < 60 or not (0 <= at[0] <= view.width() and 0 <= at[1] <= view.height()):
            continue
        spot = QRectF(at[0] - 9, at[1] - 9, 18, 18)
        painter.setPen(QPen(QColor(view.theme.tin_dark), 1))
        painter.setBrush(QColor(view.theme.sheet))
        painter.drawEllipse(spot)
        painter.setPen(QColor(view.theme.ink))
        painter.drawText(spot, Qt.AlignmentFlag.AlignCenter, name)
    if view.camera.mm_per_pixel < 90 and abs(view.camera.axes[2][2]) < 0.75 and view.bodies is not None:
        paint_levels(view, painter)


def paint_levels(view: Painted, painter: QPainter) -> None:
    """A tick and a name for each level, at the model's right."""
    assert view.ledger is not None and view.bodies is not None
    low, high = view.bodies.bounds()
    corners = np.array([(x, y, 0.0) for x in (low[0], high[0]) for y in (low[1], high[1])])
    flat = view.camera.project(corners)
    corner = corners[int(np.argmax(flat[:, 0]))]
    unit = "m" if view.ledger.project.house.units in ("mm", "m") else "ft-in"
    last = 1e9
    for level in sorted(view.ledger.project.levels.values(), key=lambda v: v.elevation):
        at = view.camera.project(np.array([(corner[0], corner[1], level.elevation)]))[0]
        if np.isnan(at).any() or last - at[1] < 15 or at[0] + 10 > view.width() - 60:
            continue
        last = at[1]
        painter.setPen(QPen(QColor(view.theme.tin), 1))
        painter.drawLine(QPointF(at[0] + 6, at[1]), QPointF(at[0] + 22, at[1]))
        painter.setPen(QColor(view.theme.quiet))
        painter.drawText(QPointF(at[0] + 26, at[1] + 4), f"{level.name} {format_level(level.elevation, unit)}")


def paint_marks(view: Painted, painter: QPainter) -> None:
    """State marks at joints, thinned where they crowd."""
    assert view.ledger is not None and view.bodies is not None
    if not len(view.bodies.joint_points):
        return
    spots = view.camera.project(view.bodies.joint_points)
    state = view.bodies.state
    if view.box is not None:
        spots[~np.all((view.bodies.joint_points >= view.box[0]) & (view.bodies.joint_points <= view.box[1]), axis=1)] = np.nan
    seen = (spots[:, 0] >= 0) & (spots[:, 0] < view.width()) & (spots[:, 1] >= 0) & (spots[:, 1] < view.height())
    if 1000.0 / view.camera.mm_per_pixel < MARKS_FROM:
        seen &= state >= STATES.index("open")
    rows = np.flatnonzero(seen)
    # of the marks in a cell of the picture only the gravest is drawn, and of equals the first
    cell = (spots[rows, 0] // CELL).astype(int) * 100_000 + (spots[rows, 1] // CELL).astype(int)
    rows = rows[np.lexsort((rows, -state[rows].astype(int), cell))]
    cell = (spots[rows, 0] // CELL).astype(int) * 100_000 + (spots[rows, 1] // CELL).astype(int)
    drawn = rows[np.concatenate([[True], cell[1:] != cell[:-1]])].tolist() if len(rows) else []
    chosen = [row for key in view.selected_joints if (row := view.bodies.joint_row.get(key)) is not None]
    strong = {*chosen, view.bodies.joint_row.get(view.hover_key, -1)}
    for i in [*(i for i in drawn if i not in chosen), *chosen]:
        if not np.isnan(spots[i, 0]):
            stamp_mark(painter, QPointF(spots[i, 0], spots[i, 1]), STATES[state[i]], view.theme, 6.0 if i in strong else 4.5, i in strong)


def paint_lines(view: Painted, painter: QPainter) -> None:
    """Lines and words laid over the model: before and after, measures, the bar being drawn."""
    if view.lines:
        ends = view.camera.project(np.concatenate([line for line, *_ in view.lines])).reshape(-1, 2, 3)
        for (a, b), (_, colour, dashed) in zip(ends, view.lines, strict=True):
            if not np.isnan([a, b]).any():
                painter.setPen(QPen(QColor(colour), 1.6, Qt.PenStyle.DashLine if dashed else Qt.PenStyle.SolidLine))
                painter.drawLine(QPointF(a[0], a[1]), QPointF(b[0], b[1]))
    painter.setFont(font(8.5, mono=True))
    for point, words in view.labels:
        x, y, _ = view.camera.project(point)[0]
        if np.isnan(x):
            continue
        lines = words.split("\n")
        box = painter.fontMetrics().boundingRect(max(lines, key=len))
        area = QRectF(x + 10, y - 10 - box.height() * len(lines), box.width() + 12, box.height() * len(lines) + 6)
        fill = QColor(view.theme.sheet)
        fill.setAlpha(235)
        painter.fillRect(area, fill)
        painter.setPen(QColor(view.theme.ink))
        painter.drawText(area.adjusted(6, 3, 0, 0), Qt.AlignmentFlag.AlignLeft, words)


def paint_axes(view: Painted, painter: QPainter) -> None:
    """The three axes, bottom left."""
    centre = QPointF(30, view.height() - 30)
    painter.setFont(font(7.5))
    for axis, name in zip(np.eye(3), "xyz", strict=True):
        way = view.camera.axes @ axis
        tip = centre + QPointF(way[0] * 20, -way[1] * 20)
        painter.setPen(QPen(QColor(view.theme.tin_dark), 1.2))
        painter.drawLine(centre, tip)
        painter.setPen(QColor(view.theme.quiet))
        painter.drawText(QRectF(tip.x() - 8 + way[0] * 7, tip.y() - 8 - way[1] * 7, 16, 16), Qt.AlignmentFlag.AlignCenter, name)
    if view.ledger is not None and abs(view.camera.axes[2][2]) > 0.3:
        turn = math.radians(view.ledger.project.house.north_deg)
        way = view.camera.axes @ np.array([math.cos(turn), math.sin(turn), 0.0])
        size = max(0.3, float(np.hypot(way[0], way[1])))
        foot, tip = QPointF(72, view.height() - 30), QPointF(72 + way[0] / size * 22, view.height() - 30 - way[1] / size * 22)
        painter.setPen(QPen(QColor(view.theme.accent), 1.4))
        painter.drawLine(foot, tip)
        painter.drawEllipse(foot, 2.0, 2.0)
        painter.drawText(QRectF(tip.x() - 8 + way[0] * 8, tip.y() - 8 - way[1] * 8, 16, 16), Qt.AlignmentFlag.AlignCenter, "N")
