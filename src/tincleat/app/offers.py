"""Offers at an open joint: what suits it, each drawn at this very joint with what it takes, clear ones first; and why the rest does not."""

import time
from bisect import insort
from collections.abc import Callable, Iterator, Mapping
from functools import partial

import numpy as np
from PySide6.QtCore import QEvent, QLineF, QObject, Qt, QTimer
from PySide6.QtGui import QColor, QEnterEvent, QKeyEvent, QPainter, QPen, QPixmap
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from tincleat.app.counted import counted
from tincleat.app.detail_panel import pictures_of
from tincleat.app.marks import WORDS, mark_icon
from tincleat.app.simple import button, label
from tincleat.app.theme import Theme
from tincleat.commands.desk import Desk
from tincleat.commands.shape import meeting_by
from tincleat.families.registry import FAMILIES, families_for
from tincleat.ledger.entries import PLAIN, Entry
from tincleat.ledger.made import Made
from tincleat.ledger.offers import Offer, offers
from tincleat.project.entities import Value
from tincleat.units import format_length, format_mass

WIDE, TALL = 112, 92  # pixels of a picture
FIRST, STEP = 0.01, 0.03  # s that are spent before the panel is shown (the first is built in any case), and in one go after that
REST = 20  # ms for the window to paint the first before others are built
Place = Callable[[str, str, str, Mapping[str, Value]], None]  # family, the kin of which joint or none, typical, what is typed
Show = Callable[[Made | None], None]


def figures_in_words(offer: Offer, unit: str) -> str:
    """What an offer takes, in one line."""
    f = offer.figures
    parts = [f"{n} × {size}" for size, n in f.bolts] + [counted(f.rods, "rod")] * bool(f.rods)
    parts += [format_mass(f.mass, unit)] * (f.mass > 0) + [f"{format_length(round(f.weld_length), unit, mark=True)} of weld"] * (f.weld_length > 0)
    site = [counted(f.site_bolts, "bolt")] * bool(f.site_bolts) + [f"{format_length(round(f.site_weld), unit, mark=True)} of weld"] * (f.site_weld > 0)
    return (" · ".join(parts) or "nothing is made") + (f"; on site {' and '.join(site)}" if site else "")


def picture(made: Made, theme: Theme, ratio: float, size: tuple[int, int] = (WIDE, TALL), view: int | None = None) -> QPixmap:
    """One view of a detail in a picture of some size in pixels: if none is asked for, the first that shows a part it makes, or the first."""
    wide, tall = size
    out = QPixmap(round(wide * ratio), round(tall * ratio))
    out.setDevicePixelRatio(ratio)
    out.fill(QColor(theme.sheet))
    if not made.detail.views:
        return out
    pics = pictures_of(made)
    names = [v.name for v in made.detail.views]
    p = pics.views[names[view] if view is not None else next((n for n in names if len(pics.views[n].lines.get("part", ()))), names[0])]
    x0, y0, x1, y1 = p.extent
    scale = min((wide - 8) / max(x1 - x0, 1.0), (tall - 8) / max(y1 - y0, 1.0))
    painter = QPainter(out)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for style, colour, width in (("member", theme.ink, 1.0), ("rod", theme.slate, 1.0), ("part", theme.accent, 1.3), ("bolt", theme.slate, 1.0)):
        pieces = p.lines.get(style, np.zeros((0, 4)))  # type: ignore[call-overload]
        if len(pieces):
            painter.setPen(QPen(QColor(colour), width))
            flat = np.column_stack([
                wide / 2 + (pieces[:, 0] - (x0 + x1) / 2) * scale, tall / 2 - (pieces[:, 1] - (y0 + y1) / 2) * scale,
                wide / 2 + (pieces[:, 2] - (x0 + x1) / 2) * scale, tall / 2 - (pieces[:, 3] - (y0 + y1) / 2) * scale,
            ])  # fmt: skip
            painter.drawLines([QLineF(*row) for row in flat.tolist()])
    painter.end()
    return out


class OfferCard(QFrame):
    """One offer: its picture, its figures, and where to place it.  Its ghost shows in the model while the pointer or the keyboard is on it."""

    def __init__(self, offer: Offer, alike: int, unit: str, theme: Theme, place: Callable[[bool], None], show: Show, ratio: float, chosen: Callable[[], None] | None = None) -> None:
        super().__init__()
        self.offer, self._show = offer, show
        self.setObjectName("sheetframe")
        row = QHBoxLayout(self)
        row.setContentsMargins(6, 6, 6, 6)
        row.setSpacing(8)
        if offer.family != PLAIN and offer.made is not None:
            drawn = QLabel()
            drawn.setPixmap(picture(offer.made, theme, ratio))
            drawn.setFixedSize(WIDE, TALL)
            drawn.setAccessibleName(f"Picture of {offer.words}")
            row.addWidget(drawn, 0, Qt.AlignmentFlag.AlignTop)
        column = QVBoxLayout()
        column.setSpacing(2)
        head = QHBoxLayout()
        level = "breach" if offer.breaches else "clear"
        if offer.family != PLAIN:
            mark = QLabel()
            mark.setPixmap(mark_icon(level, theme).pixmap(14, 14))
            mark.setAccessibleName(WORDS[level])
            head.addWidget(mark)
        head.addWidget(label(offer.words + (f", {counted(offer.breaches, 'breach', 'breaches')}" if offer.breaches else ""), "breach" if offer.breaches else ""), 1)
        column.addLayout(head)
        if offer.family != PLAIN:
            column.addWidget(label(figures_in_words(offer, unit), "quiet", True))
            if typed := offer.typed_words(unit):
                column.addWidget(label(f"With {typed}", "quiet", True))
        placing = FAMILIES[offer.family].placing + (f", {offer.typical.name}," if offer.typical else "") + (" as last" if offer.last else "")
        self.here = button(f"{placing} here", lambda: place(False), "link" if offer.family == PLAIN else "")
        column.addWidget(self.here)
        self.buttons = [self.here]
        if alike > 1:
            every = button(f"At all {alike:,} alike", lambda: place(True), "link" if offer.family == PLAIN else "")
            every.setAccessibleName(f"{placing} at all {alike} alike")  # said whole; on the button there is no room for it
            every.setToolTip(every.accessibleName())
            self.buttons.append(every)
            column.addWidget(every)
        if chosen is not None:
            some = button("At the selected it suits", chosen, "link" if offer.family == PLAIN else "")
            some.setAccessibleName(f"{placing} at every selected joint that it suits")
            some.setToolTip(some.accessibleName())
            self.buttons.append(some)
            column.addWidget(some)
        column.addStretch(1)
        row.addLayout(column, 1)
        for one in self.buttons:
            one.installEventFilter(self)

    def enterEvent(self, event: QEnterEvent) -> None:
        self._show(self.offer.made)

    def leaveEvent(self, event: QEvent) -> None:
        self._show(None)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """The keyboard on a button shows the ghost; up and down go to the next offer."""
        if event.type() == QEvent.Type.FocusIn:
            self._show(self.offer.made)
        elif event.type() == QEvent.Type.FocusOut:
            self._show(None)
        elif isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            parent = self.parentWidget()
            cards = sorted(parent.findChildren(OfferCard), key=lambda c: c.y()) if parent is not None else []
            at = cards.index(self) + (1 if event.key() == Qt.Key.Key_Down else -1)
            if 0 <= at < len(cards):
                cards[at].here.setFocus(Qt.FocusReason.OtherFocusReason)
            return True
        return False


class Offers(QWidget):
    """The panel of an open joint: facts, then offers as they are built, clear ones first."""

    def __init__(self, desk: Desk, entry: Entry, theme: Theme, place: Place, show: Show, lengthen: Callable[[str], object], chosen: "Callable[[str, str, Mapping[str, Value]], None] | None" = None) -> None:
        super().__init__()
        self._chosen = chosen  # places at all that are selected, where those are not all alike
        self.desk, self.entry, self.theme, self._place, self._show = desk, entry, theme, place, show
        joint = entry.joint
        self.like = desk.ledger.like(joint)
        self.free = sum(desk.ledger.entries[j.key].connection is None for j in self.like)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(12, 10, 12, 12)
        rows.setSpacing(6)
        rows.addWidget(label(joint.words, "heading", True))
        names = ", ".join(desk.project.members[m].name for m in joint.members)
        state = "left plain by a house rule" if entry.plain else "unjoined"
        rows.addWidget(label(f"{joint.kind} · {desk.ledger.place(joint)} · {counted(len(self.like), 'joint')} alike · {state}", "quiet", True))
        rows.addWidget(label(names, "quiet", True))
        self.lengthen: QPushButton | None = None
        if joint.kind == "near miss" and (meeting := meeting_by(desk.project, desk.ledger, joint.ends[0])) is not None:
            self.lengthen = button(meeting[0], partial(lengthen, f"{joint.ends[0][0]}.{joint.ends[0][1]}"), "go", "They meet then, and what suits is offered")
            rows.addWidget(self.lengthen)
        self.list = QVBoxLayout()
        self.list.setSpacing(6)
        rows.addLayout(self.list)
        self.waiting = label("Looking for what suits …", "quiet")
        rows.addWidget(self.waiting)
        self.fold = button("", self._toggle, "link")
        self.fold.hide()
        rows.addWidget(self.fold, 0, Qt.AlignmentFlag.AlignLeft)
        self.refused = label("", "quiet", True)
        self.refused.hide()
        rows.addWidget(self.refused)
        rows.addStretch(1)
        self.cards: list[OfferCard] = []
        self._ranks: list[tuple[tuple[bool, bool, int, int, bool], int]] = []
        self._whys: list[str] = []
        self._next: Iterator[Offer] | None = offers(desk.ledger, joint)
        self._go_on(FIRST)

    def _go_on(self, budget: float) -> None:
        """Build offers for some time, and go on when the window has had its turn."""
        start = time.perf_counter()
        while self._next is not None and time.perf_counter() - start < budget:
            offer = next(self._next, None)
            if offer is None:
                self._next = None
            elif offer.made is None:
                self._whys.append(f"{offer.words}: {offer.why}.")
            else:
                self._add(offer)
        if self._next is not None:
            QTimer.singleShot(REST if budget == FIRST else 0, self, lambda: self._go_on(STEP))
            return
        self.waiting.setText("" if self.cards else "No family suits this joint.")
        self.waiting.setVisible(not self.cards)
        others = [k.label.lower() for k in FAMILIES.values() if k not in families_for(self.entry.joint.kind)]
        self._whys.append(f"For other kinds of place: {', '.join(others)}.")
        self.refused.setText("\n".join(self._whys))
        count = len(self._whys) - 1
        self.fold.setText(f"{counted(count, 'family does', 'families do')} not suit it" if count else "Other families")
        self.fold.show()
        if not any(c.offer.family != PLAIN for c in self.cards):
            self.refused.show()

    def _toggle(self) -> None:
        self.refused.setVisible(not self.refused.isVisible())

    def _add(self, offer: Offer) -> None:
        key = self.entry.joint.key

        def place(alike: bool) -> None:
            self._show(None)
            self._place(offer.family, key if alike else "", offer.typical.id if offer.typical else "", offer.settings)

        def chosen() -> None:
            assert self._chosen is not None
            self._show(None)
            self._chosen(offer.family, offer.typical.id if offer.typical else "", offer.settings)

        card = OfferCard(offer, self.free, self.desk.project.house.units, self.theme, place, self._show, self.devicePixelRatioF(), chosen if self._chosen is not None else None)
        rank = (offer.rank, len(self._ranks))
        insort(self._ranks, rank)
        at = self._ranks.index(rank)
        self.cards.insert(at, card)
        self.list.insertWidget(at, card)
        for i, one in enumerate(self.cards):  # the first is what Enter would mean
            wanted = "go" if i == 0 and one.offer.family != PLAIN else "link" if one.offer.family == PLAIN else ""
            if one.here.objectName() != wanted:
                one.here.setObjectName(wanted)
                _restyle(one.here)

    @property
    def done(self) -> bool:
        """Whether everything was looked at."""
        return self._next is None


def _restyle(made: QPushButton) -> None:
    made.style().unpolish(made)
    made.style().polish(made)
