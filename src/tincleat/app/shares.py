"""Progress as a picture: a bar for each kind of joint, settled from the left, breaches after it, what is open left empty."""

from collections.abc import Callable

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QGridLayout, QSizePolicy, QWidget

from tincleat.app.counted import counted
from tincleat.app.simple import button, label
from tincleat.app.theme import Theme
from tincleat.ledger.progress import Share


class Bar(QWidget):
    """One kind's share, told in words too."""

    def __init__(self, share: Share, theme: Theme) -> None:
        super().__init__()
        self.share, self.theme = share, theme
        self.setFixedHeight(10)
        self.setMinimumWidth(60)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName(in_words(share))
        self.setToolTip(in_words(share))

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        s, whole = self.share, QRectF(0.5, 0.5, self.width() - 1, self.height() - 1)
        clear, breach = (whole.width() * n / max(s.total, 1) for n in (s.settled - s.breach, s.breach))
        p.fillRect(whole, QColor(self.theme.sheet))
        p.fillRect(QRectF(whole.x(), whole.y(), clear, whole.height()), QColor(self.theme.slate))
        p.fillRect(QRectF(whole.x() + clear, whole.y(), max(breach, 3.0 if s.breach else 0.0), whole.height()), QColor(self.theme.breach))
        p.setPen(QPen(QColor(self.theme.quiet), 1))
        p.drawRect(whole)


def in_words(s: Share) -> str:
    """A share in words."""
    return f"{s.kind}: {s.settled:,} of {s.total:,} settled" + (f", {counted(s.breach, 'joint')} in breach" if s.breach else "")


def shares_grid(shares: list[Share], theme: Theme, select: Callable[[list[str]], None]) -> QGridLayout:
    """A line for each kind: its name, which selects what is left to do there, its bar, its figures."""
    grid = QGridLayout()
    grid.setColumnStretch(1, 1)
    grid.setHorizontalSpacing(10)
    grid.setVerticalSpacing(2)
    for i, s in enumerate(shares):
        if s.settled < s.total:
            name: QWidget = button(s.kind, lambda s=s: select(s.open_keys), "link", f"Select the {counted(s.total - s.settled, 'open joint')}")  # type: ignore[misc]
        elif s.breach:
            name = button(s.kind, lambda s=s: select(s.breach_keys), "link", f"Select the {counted(s.breach, 'joint')} in breach")  # type: ignore[misc]
        else:
            name = label(s.kind, "quiet")
            name.setContentsMargins(4, 3, 4, 3)
        grid.addWidget(name, i, 0, Qt.AlignmentFlag.AlignLeft)
        grid.addWidget(Bar(s, theme), i, 1)
        grid.addWidget(label(f"{s.settled:,} / {s.total:,}", "breach" if s.breach else ""), i, 2, Qt.AlignmentFlag.AlignRight)
    return grid
