"""Small drawings beside forms: what a form asks for, each measure by the name of its field, the one being typed standing out.

A drawing is plain data on a field of 200 by 150: strokes by what they are, and words at places, by the field they show.
"""

from dataclasses import dataclass

from PySide6.QtCore import QLineF, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from tincleat.app.theme import Theme, font

WIDE, TALL = 200.0, 150.0
Stroke = tuple[str, float, float, float, float]  # steel, new, axis or measure; from where to where
Word = tuple[str, str, float, float]  # the field, what stands there, its middle


@dataclass(frozen=True)
class Drawn:
    """Strokes and words of one drawing, and what it shows, for whoever does not see it."""

    told: str
    strokes: tuple[Stroke, ...]
    words: tuple[Word, ...]


def _measure(x0: float, y0: float, x1: float, y1: float) -> tuple[Stroke, ...]:
    """A measure with a tick at both ends."""
    tick = 4.0
    level = abs(y1 - y0) < abs(x1 - x0)
    ends = ((x0, y0), (x1, y1))
    return (
        ("measure", x0, y0, x1, y1),
        *(("measure", x - (0 if level else tick), y - (tick if level else 0), x + (0 if level else tick), y + (tick if level else 0)) for x, y in ends),
    )


_FRAME: tuple[Stroke, ...] = (("steel", 40, 125, 40, 65), ("steel", 160, 125, 160, 65), ("steel", 40, 65, 100, 40), ("steel", 100, 40, 160, 65))

PICTURES: dict[str, Drawn] = {
    "columns": Drawn(
        "Columns at grid crossings, from a base to a top",
        (
            ("axis", 20, 118, 185, 118),
            ("axis", 20, 95, 185, 95),
            *(("axis", x, 130, x + 18, 85) for x in (40, 90, 140)),
            *(("new", x, y, x, y - 70) for x, y in ((45, 118), (95, 118), (145, 118))),
        ),
        (
            ("at", "A1", 33, 128),
            ("at", "A2", 83, 128),
            ("at", "A3", 133, 128),
            ("top", "top", 168, 48),
            ("base", "base", 170, 112),
            ("section", "section", 62, 40),
        ),
    ),
    "beams": Drawn(
        "Beams from crossing to crossing at a level",
        (*(("steel", x, 130, x, 55) for x in (35, 100, 165)), ("new", 35, 60, 98, 60), ("new", 102, 60, 165, 60), *_measure(15, 130, 15, 60)),
        (("through", "A1", 35, 142), ("through", "A2", 100, 142), ("through", "A3", 165, 142), ("level", "level", 34, 40), ("section", "section", 132, 45)),
    ),
    "copy": Drawn(
        "A member and copies of it, each one step further on",
        (
            ("steel", 30, 120, 90, 120),
            ("new", 60, 90, 120, 90),
            ("new", 90, 60, 150, 60),
            ("axis", 30, 120, 110, 40),
            *_measure(30, 130, 60, 130),
            *_measure(165, 120, 165, 90),
        ),
        (("x", "x", 45, 140), ("y", "y", 60, 107), ("z", "z", 180, 105), ("count", "1, 2, … how many", 105, 30), ("skip", "2", 165, 60)),
    ),
    "mirror": Drawn(
        "Members and their mirror image about a line",
        (("axis", 100, 15, 100, 138), ("steel", 25, 110, 80, 110), ("steel", 80, 110, 80, 60), ("new", 175, 110, 120, 110), ("new", 120, 110, 120, 60)),
        (("about", "about", 140, 24), ("grid", "C", 100, 76), ("first", "first", 100, 18), ("second", "second", 100, 132), ("copy", "original", 45, 84)),
    ),
    "rotate": Drawn(
        "A member turned about an upright line",
        (("steel", 50, 115, 160, 115), ("new", 50, 115, 140, 52), ("measure", 110, 115, 108, 98), ("measure", 108, 98, 99, 81)),
        (("about", "x, y", 40, 130), ("angle", "degrees", 140, 92), ("copy", "original", 130, 130)),
    ),
    "cut": Drawn(
        "A polygon cut out of a member, its corners along and across it",
        (
            ("steel", 20, 50, 185, 50),
            ("steel", 20, 110, 185, 110),
            ("steel", 20, 50, 20, 110),
            ("axis", 20, 80, 185, 80),
            ("new", 70, 110, 70, 88),
            ("new", 70, 88, 130, 88),
            ("new", 130, 88, 130, 110),
            *_measure(20, 128, 70, 128),
            *_measure(150, 80, 150, 88),
        ),
        (
            ("origin", "start", 30, 38),
            ("corners", "along", 45, 141),
            ("corners", "across", 172, 90),
            ("radius", "radius", 98, 100),
            ("view", "seen from the side", 120, 62),
        ),
    ),
    "split": Drawn(
        "A member split at distances from its start",
        (("steel", 20, 75, 78, 75), ("new", 84, 75, 138, 75), ("new", 144, 75, 185, 75), *_measure(20, 95, 81, 95), *_measure(20, 115, 141, 115)),
        (("at", "first", 50, 105), ("at", "second", 80, 126), ("", "start", 24, 60)),
    ),
    "stretch": Drawn(
        "One end of a member moved along its line",
        (("steel", 20, 75, 130, 75), ("new", 130, 75, 180, 75), *_measure(130, 95, 180, 95)),
        (("by", "by", 155, 107), ("end", "end", 132, 60), ("", "start", 24, 60)),
    ),
    "purlins": Drawn(
        "Rows of purlins on rafters, from the eaves to the ridge",
        (
            ("steel", 25, 120, 105, 45),
            ("steel", 105, 45, 150, 87),
            ("steel", 128, 112, 128, 136),
            ("steel", 172, 112, 172, 136),
            ("new", 105, 122, 138, 122),
            ("new", 118, 126, 188, 126),
            *_measure(118, 106, 138, 106),
            *_measure(172, 142, 188, 142),
            *(("new", x, y, x + 10, y - 5) for x, y in ((40, 106), (60, 87), (80, 69), (98, 52))),
            *_measure(16, 112, 31, 98),
            *_measure(50, 82, 70, 63),
        ),
        (
            ("eaves", "eaves", 20, 92),
            ("spacing", "spacing", 42, 64),
            ("ridge", "ridge", 112, 34),
            ("lap", "lap", 128, 96),
            ("overhang", "overhang", 142, 142),
            ("section", "section", 68, 122),
        ),
    ),
    "girts": Drawn(
        "Rows of girts on columns, over their feet and under their heads",
        (
            ("steel", 45, 130, 45, 25),
            ("steel", 155, 130, 155, 25),
            *(("new", 35, y, 165, y) for y in (105, 75, 45)),
            *_measure(22, 130, 22, 105),
            *_measure(22, 105, 22, 75),
            *_measure(22, 45, 22, 25),
        ),
        (("first", "first", 100, 120), ("spacing", "spacing", 100, 91), ("last", "last", 100, 34), ("lap", "lap", 180, 75), ("section", "section", 100, 60)),
    ),
    "joists": Drawn(
        "Joists between beams",
        (("steel", 25, 40, 175, 40), ("steel", 25, 115, 175, 115), *(("new", x, 42, x, 113) for x in (60, 100, 140)), *_measure(60, 128, 100, 128)),
        (("spacing", "spacing", 80, 141), ("drop", "under the top", 100, 26), ("section", "section", 168, 78)),
    ),
    "bracing": Drawn(
        "Bracing between columns, over their feet and under their heads",
        (
            ("steel", 40, 135, 40, 15),
            ("steel", 160, 135, 160, 15),
            ("new", 40, 120, 160, 30),
            ("new", 160, 120, 40, 30),
            *_measure(22, 135, 22, 120),
            *_measure(22, 30, 22, 15),
        ),
        (("base", "base", 18, 108), ("top", "top", 18, 44), ("pattern", "X", 100, 52), ("panels", "panels", 100, 128), ("section", "section", 132, 98)),
    ),
    "portals": Drawn(
        "Portal frames: span, eaves, ridge, bays",
        (*_FRAME, *_measure(40, 133, 160, 133), *_measure(22, 125, 22, 65), *_measure(100, 125, 100, 40), ("axis", 160, 125, 190, 108)),
        (
            ("span", "span", 100, 141),
            ("eaves", "eaves", 22, 54),
            ("ridge", "ridge", 118, 88),
            ("bays", "bays", 184, 98),
            ("column", "columns", 66, 100),
            ("rafter", "rafters", 66, 40),
            ("origin", "x, y", 56, 120),
        ),
    ),
}


def _letters(strong: bool) -> QFont:
    """The names' font in the drawing's own units."""
    made = font(9, bold=strong)
    made.setPixelSize(10)
    return made


class FormPicture(QWidget):
    """A form's drawing; the words of the field that has the keyboard stand out."""

    def __init__(self, name: str, theme: Theme) -> None:
        super().__init__()
        self.drawn, self.theme, self.field = PICTURES[name], theme, ""
        self.setAccessibleName(self.drawn.told)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        self.setFixedSize(self.sizeHint())

    def sizeHint(self) -> QSize:
        return QSize(round(WIDE * 1.2), round(TALL * 1.2))

    def show_field(self, name: str) -> None:
        """Let a field's words stand out."""
        if name != self.field:
            self.field = name
            self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        p, t = QPainter(self), self.theme
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.fillRect(self.rect(), QColor(t.sheet))
        p.scale(self.width() / WIDE, self.height() / TALL)
        pens = {
            "steel": QPen(QColor(t.ink), 2.4),
            "new": QPen(QColor(t.accent), 2.4),
            "axis": QPen(QColor(t.tin_dark), 0.8, Qt.PenStyle.DashDotLine),
            "measure": QPen(QColor(t.quiet), 0.8),
        }
        for style, x0, y0, x1, y1 in self.drawn.strokes:
            p.setPen(pens[style])
            p.drawLine(QLineF(x0, y0, x1, y1))
        for (field, words, *_), (box, _) in zip(self.drawn.words, self.boxes(), strict=True):
            on = bool(field) and field == self.field
            p.setFont(_letters(on))
            p.fillRect(box, QColor(t.accent_soft if on else t.sheet))
            p.setPen(QColor(t.ink if on else t.quiet))
            p.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def boxes(self) -> list[tuple[QRectF, str]]:
        """Where each name stands, in the drawing's own units, wide enough for it to stand out."""
        metrics, found = QFontMetricsF(_letters(True)), []
        for _, words, x, y in self.drawn.words:
            box = metrics.boundingRect(words).adjusted(-2, -1, 2, 1)
            box.moveCenter(QPointF(x, y))
            found.append((box, words))
        return found
