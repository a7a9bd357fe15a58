"""Contrast of what is told by colour, by the formula of WCAG 2.2 (1.4.3: text 4.5; 1.4.11: what can be used and states 3.0), from the themes and from rendered pixels."""

import itertools

import pytest
from PySide6.QtCore import QPointF
from PySide6.QtGui import QColor, QImage, QPainter, QPen
from PySide6.QtWidgets import QApplication, QLineEdit, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from tincleat.app import theme
from tincleat.app.marks import draw_mark
from tincleat.app.sheet_view import pens
from tincleat.app.theme import THEMES, Theme

both = pytest.mark.parametrize("t", THEMES.values(), ids=THEMES.keys())


def luminance(c: QColor) -> float:
    """Relative luminance (WCAG 2.2, definition)."""
    parts = [v / 12.92 if v <= 0.04045 else ((v + 0.055) / 1.055) ** 2.4 for v in (c.redF(), c.greenF(), c.blueF())]
    return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]


def contrast(a: "QColor | str", b: "QColor | str") -> float:
    one, two = sorted((luminance(QColor(a)), luminance(QColor(b))), reverse=True)
    return (one + 0.05) / (two + 0.05)


def test_the_formula_by_hand() -> None:
    assert contrast("#000000", "#FFFFFF") == pytest.approx(21.0) and contrast("#777777", "#FFFFFF") == pytest.approx(4.48, abs=0.01)


@both
def test_text_on_every_ground_it_stands_on(t: Theme) -> None:
    for ink, ground in itertools.product((t.ink, t.quiet, t.accent, t.breach, t.slate, t.ochre), (t.paper, t.sheet, t.accent_soft, t.sky)):
        assert contrast(ink, ground) >= 4.5, (ink, ground, contrast(ink, ground))
    assert contrast(t.sheet, t.accent) >= 4.5  # on a filled button


@both
def test_what_can_be_used_has_an_edge_and_states_their_colour(t: Theme) -> None:
    for ground in (t.paper, t.sheet):
        for told in (t.edge, t.accent, t.breach, t.slate, t.tin_dark, t.ochre_mark):
            if (told, ground) != (t.ochre_mark, t.paper):  # marks stand on the sheet's colour
                assert contrast(told, ground) >= 3.0, (told, ground, contrast(told, ground))


def lettered(widget: QWidget, ground: str) -> float:
    """The greatest contrast of any pixel in the middle of a widget with its ground."""
    image = widget.grab().toImage()
    inner = [image.pixelColor(x, y) for x in range(8, image.width() - 24) for y in range(6, image.height() - 6)]
    return max(contrast(c, ground) for c in inner)


@both
def test_rendered_placeholders_and_buttons(qtbot: QtBot, t: Theme) -> None:
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    theme.load_fonts()
    theme.apply(app, t)
    try:
        line = QLineEdit()
        line.setPlaceholderText("MMMMMMMMMMMM")
        line.setFont(theme.font(11, bold=True))  # strokes wide enough to have a pixel of their full colour
        line.resize(220, 34)
        qtbot.addWidget(line)
        line.show()
        qtbot.waitExposed(line)
        assert lettered(line, t.sheet) >= 4.5
        go = QPushButton("Keep")
        go.setObjectName("go")
        go.resize(120, 30)
        qtbot.addWidget(go)
        go.show()
        qtbot.waitExposed(go)
        on = go.grab().toImage().pixelColor(12, 8)
        go.setEnabled(False)
        off = go.grab().toImage().pixelColor(12, 8)
        assert contrast(on, t.paper) >= 3.0 and contrast(off, t.paper) < 2.0  # what is off does not call
    finally:
        theme.apply(app, theme.LIGHT)


@both
@pytest.mark.parametrize("state", ["clear", "concession", "note", "breach", "open", "plain"])
def test_marks_are_seen_on_steel_of_every_shade(t: Theme, state: str) -> None:
    """Along a line across a mark its colour stands beside the sheet's, not beside the steel's."""
    for steel in (t.member, t.column, t.brace, t.plate, t.tin_dark, t.sky):
        image = QImage(40, 40, QImage.Format.Format_ARGB32)
        image.fill(QColor(steel))
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        draw_mark(painter, QPointF(20, 20), state, t, 4.5, halo=True)
        painter.end()
        lines = [line for at in range(12, 28) for line in ([image.pixelColor(x, at) for x in range(8, 32)], [image.pixelColor(at, y) for y in range(8, 32)])]
        best = max(contrast(a, b) for line in lines for a, b in zip(line, line[2:], strict=False))
        assert best >= 2.5, (state, steel, best)  # of antialiased pixels a step apart; the colours themselves are held to 3 above


@both
def test_ghosts_are_told_apart_and_hidden_lines_are_seen(t: Theme) -> None:
    assert contrast(t.ghost, t.ghost_breach) >= 3.0, contrast(t.ghost, t.ghost_breach)
    assert contrast(t.ghost_breach, t.sky) >= 2.5 and contrast(t.ghost, t.member) >= 1.5
    assert contrast(t.edge, t.sheet) >= 3.0  # hidden lines of a sheet


@both
def test_a_sheets_hidden_lines_as_rendered(qtbot: QtBot, t: Theme) -> None:
    """The darkest pixel of a dashed line drawn alone, against the sheet."""
    image = QImage(60, 20, QImage.Format.Format_RGB32)
    image.fill(QColor(t.sheet))
    painter = QPainter(image)
    colour, width, dash = pens(t)["hidden"]
    pen = QPen(QColor(colour), width * 1.5)
    pen.setDashPattern(dash or [])
    painter.setPen(pen)
    painter.drawLine(2, 10, 58, 10)
    painter.end()
    assert max(contrast(image.pixelColor(x, 10), t.sheet) for x in range(60)) >= 2.9
