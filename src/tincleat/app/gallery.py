"""The gallery that *Place…* opens: families and typicals by situation, each drawn at a place of this model, to be taken in hand."""

import time

from PySide6.QtCore import QEvent, QObject, QRect, QSize, Qt, QTimer
from PySide6.QtGui import QColor, QIcon, QKeyEvent, QPainter, QPixmap
from PySide6.QtWidgets import QDialog, QHBoxLayout, QLineEdit, QListView, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from tincleat.app.context import Host
from tincleat.app.counted import counted
from tincleat.app.dialogs import Action
from tincleat.app.marks import WORDS, mark_icon
from tincleat.app.offers import TALL, WIDE, figures_in_words, picture
from tincleat.app.simple import button, label
from tincleat.families.registry import FAMILIES
from tincleat.joints.case import Joint
from tincleat.ledger.entries import PLAIN
from tincleat.ledger.made import Made
from tincleat.ledger.offers import Offer
from tincleat.ledger.samples import TRIED, example, open_places, sample
from tincleat.project.entities import Typical

ALL, LATELY = "All", "Used lately"
SITUATIONS = {"feet": "Feet", "beams": "Beams", "moment": "Moment", "bracing": "Bracing", "secondary": "Secondary", "tubes": "Tubes", "splices": "Splices", "loose": "Loose"}
KEPT = 8  # families used lately that are remembered
STEP = 0.03  # s of drawing in one go
FAINT = 0.55  # of the strength of a picture's lines, where it is of no place in this model
LARGE = (336, 230)  # pixels of a ghost's own picture in the panel


def used_lately(w: Host) -> list[str]:
    """Names of the families that were in hand lately, the latest first."""
    found: object = w.settings.value("families", [])
    return [n for n in ([found] if isinstance(found, str) else found if isinstance(found, list) else []) if n in FAMILIES]


def remember(w: Host, family: str) -> None:
    """Put a family first among those used lately."""
    w.settings.setValue("families", [family, *(n for n in used_lately(w) if n != family)][:KEPT])


class Gallery(QDialog):
    """Situations on the left, what there is for them on the right; arrows and Enter choose, typing searches."""

    def __init__(self, w: Host) -> None:
        super().__init__(w)
        assert w.desk is not None
        self.w, self.desk = w, w.desk
        self.setWindowTitle("Place")
        self.resize(900, 600)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(16, 14, 16, 14)
        rows.addWidget(label("Place a connection", "heading"))
        self.line = QLineEdit()
        self.line.setPlaceholderText("Search: shear tab, purlin, tube …")
        self.line.setAccessibleName("Search families and typicals")
        self.line.setClearButtonEnabled(True)
        rows.addWidget(self.line)
        body = QHBoxLayout()
        self.situations = QListWidget()
        self.situations.setAccessibleName("Situations")
        self.situations.setFixedWidth(130)
        self.situations.setSpacing(3)
        self.situations.addItems([ALL, LATELY, *SITUATIONS.values()])
        self.list = QListWidget()
        self.list.setAccessibleName("Families and typicals")
        self.list.setViewMode(QListView.ViewMode.IconMode)
        self.list.setMovement(QListView.Movement.Static)
        self.list.setResizeMode(QListView.ResizeMode.Adjust)
        self.list.setIconSize(QSize(WIDE, TALL))
        self.list.setGridSize(QSize(WIDE + 28, TALL + 68))
        self.list.setWordWrap(True)
        body.addWidget(self.situations)
        body.addWidget(self.list, 1)
        rows.addLayout(body, 1)
        foot = QHBoxLayout()
        self.told = label("", "quiet", True)
        foot.addWidget(self.told, 1)
        foot.addWidget(button("Close", self.reject))
        self.go = button("Take in hand", self.take, "go", "Then point at the places; Esc puts it down")
        self.go.setDefault(True)
        foot.addWidget(self.go)
        rows.addLayout(foot)
        self._places = open_places(self.desk.ledger)
        self._pictures: dict[tuple[str, str], QIcon] = {}
        self._whys: dict[tuple[str, str], str] = {}
        self.line.textChanged.connect(lambda _: self._fill())
        self.line.installEventFilter(self)
        self.situations.currentRowChanged.connect(lambda _: self._fill())
        self.list.currentRowChanged.connect(lambda _: self._tell())
        self.list.itemActivated.connect(lambda _: self.take())
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._draw)
        self.situations.setCurrentRow(0)
        self.line.setFocus()

    @property
    def done_drawing(self) -> bool:
        """Whether everything that is shown has its picture, or none to have."""
        return not self._timer.isActive()

    def _choices(self) -> list[tuple[str, Typical | None]]:
        """What the situation and the search leave, families each followed by its typicals."""
        words = self.line.text().lower().split()
        situation = self.situations.currentItem().text() if self.situations.currentItem() is not None else ALL
        names = used_lately(self.w) if situation == LATELY else sorted(FAMILIES, key=lambda n: not (self._places[n] or self._pointed(n)))
        out: list[tuple[str, Typical | None]] = []
        for name in names:
            kind = FAMILIES[name]
            if situation not in (ALL, LATELY) and not any(SITUATIONS[s] == situation for s in kind.situations):
                continue
            typicals = sorted((t for t in self.desk.project.typicals.values() if t.family == name), key=lambda t: (not t.favourite, t.name))
            for typical in (None, *typicals):
                about = [kind.label, *kind.words, *kind.kinds, *(SITUATIONS[s] for s in kind.situations), *([typical.name, typical.folder] if typical else [])]
                if all(any(word in part.lower() for part in about) for word in words):
                    out.append((name, typical))
        return out

    @staticmethod
    def _pointed(name: str) -> bool:
        """Whether a family goes where one points, at no end of a member."""
        return bool({"station", "along", "crossing", "row"} & set(FAMILIES[name].kinds))

    def _fill(self) -> None:
        self.list.clear()
        for name, typical in self._choices():
            kind, places = FAMILIES[name], self._places[name]
            under = f"{places:,} open" if places else "pointed at" if self._pointed(name) else "none open"
            item = QListWidgetItem(self._pictures.get((name, typical.id if typical else ""), self._blank()), f"{typical.name if typical else kind.label}\n{under}")
            item.setData(Qt.ItemDataRole.UserRole, (name, typical.id if typical else ""))
            item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{kind.label}{f', {typical.name}' if typical else ''}, {under}")
            item.setToolTip(f"{kind.label}{f': {typical.name}' if typical else ''}. {', '.join(kind.kinds)}")
            item.setSizeHint(self.list.gridSize())
            item.setTextAlignment(Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop)
            self.list.addItem(item)
        self.list.setCurrentRow(0)
        self._tell()
        self._timer.start(0)

    def _blank(self, words: str = "") -> QIcon:
        out = QPixmap(WIDE, TALL)
        out.fill(QColor(self.w.theme.sheet))
        if words:
            painter = QPainter(out)
            painter.setPen(QColor(self.w.theme.quiet))
            painter.setFont(self.font())
            painter.drawText(out.rect(), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, words)
            painter.end()
        return QIcon(out)

    def _draw(self) -> None:
        """Draw what is shown and has no picture yet, for some time; then the window has its turn."""
        start = time.perf_counter()
        for i in range(self.list.count()):
            item = self.list.item(i)
            key = item.data(Qt.ItemDataRole.UserRole)
            if key in self._pictures:
                continue
            if time.perf_counter() - start > STEP:
                return
            self._pictures[key] = self._picture(key)
            item.setIcon(self._pictures[key])
        self._timer.stop()
        self._tell()

    def _picture(self, key: tuple[str, str]) -> QIcon:
        """A family or typical at a place of this model, else at members of its own, which is said."""
        typical, ratio = self.desk.project.typicals.get(key[1]), self.devicePixelRatioF()
        made = sample(self.desk.ledger, key[0], typical)
        if made is not None:
            return QIcon(picture(made, self.w.theme, ratio))
        if key[0] == PLAIN:
            return self._blank("as it is")
        made = example(key[0], typical)
        none = f"of up to {TRIED} places of different steel that were tried here it suits none, so " if self.desk.project.members else "there are no members yet, so "
        self._whys[key] = none + ("it is drawn at an example's members, under standard house rules" if made is not None else "there is no picture")
        if made is None:
            return self._blank("suits no place tried here")
        words = self.fontMetrics().height()
        out = QPixmap(round(WIDE * ratio), round(TALL * ratio))
        out.setDevicePixelRatio(ratio)
        out.fill(QColor(self.w.theme.sheet))
        painter = QPainter(out)
        painter.setOpacity(FAINT)
        painter.drawPixmap(0, 0, picture(made, self.w.theme, ratio, (WIDE, TALL - words)))
        painter.setOpacity(1.0)
        painter.setPen(QColor(self.w.theme.quiet))
        painter.setFont(self.font())
        painter.drawText(QRect(0, TALL - words, WIDE, words), Qt.AlignmentFlag.AlignCenter, "example")
        painter.end()
        return QIcon(out)

    def _chosen(self) -> tuple[str, str] | None:
        item = self.list.currentItem()
        if item is None:
            return None
        family, typical = item.data(Qt.ItemDataRole.UserRole)
        return str(family), str(typical)

    def _tell(self) -> None:
        key = self._chosen()
        self.go.setEnabled(key is not None)
        if key is None:
            lately = self.situations.currentItem() is not None and self.situations.currentItem().text() == LATELY and not self.line.text()
            self.told.setText("Nothing was in hand yet." if lately else "Nothing is called so. Try other words, such as shear tab, gusset, stair.")
            return
        kind, typical = FAMILIES[key[0]], self.desk.project.typicals.get(key[1])
        words = [f"{kind.label}: {', '.join(kind.kinds)}"]
        if typical is not None and typical.words:
            words.append(typical.words)
        self.told.setText("; ".join([*words, *([self._whys[key]] if key in self._whys else [])]))

    def take(self) -> None:
        """Take the chosen one in hand."""
        key = self._chosen()
        if key is None:
            return
        self.accept()
        if (self.w.placing.family, self.w.placing.typical) != key:
            self.w.placing.start(*key)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Up and down in the search go through what was found."""
        if watched is self.line and isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.list.keyPressEvent(event)
            return True
        return super().eventFilter(watched, event)


def ghost_card(w: Host, joint: Joint, family: str, typical: str, made: Made) -> QWidget:
    """What a family in hand would make at the place under the pointer: drawn, with its figures and breaches."""
    assert w.desk is not None
    offer = Offer(family, w.desk.project.typicals.get(typical), made, "", 0)
    out = QWidget()
    rows = QVBoxLayout(out)
    rows.setContentsMargins(12, 10, 12, 12)
    rows.setSpacing(6)
    rows.addWidget(label(f"{offer.words}, not placed yet", "heading", True))
    rows.addWidget(label(f"{joint.words} · {joint.kind} · {w.desk.ledger.place(joint)}", "quiet", True))
    for view in range(min(2, len(made.detail.views))):
        drawn = label("")
        drawn.setPixmap(picture(made, w.theme, w.devicePixelRatioF(), LARGE, view))
        drawn.setAccessibleName(f"Picture of {offer.words}, {made.detail.views[view].name}")
        rows.addWidget(drawn)
    rows.addWidget(label(figures_in_words(offer, w.desk.project.house.units), "", True))
    head = QHBoxLayout()
    level = "breach" if offer.breaches else "clear"
    mark = label("")
    mark.setPixmap(mark_icon(level, w.theme).pixmap(14, 14))
    mark.setAccessibleName(WORDS[level])
    head.addWidget(mark)
    head.addWidget(label(counted(offer.breaches, "breach", "breaches") if offer.breaches else "clear", level if offer.breaches else ""), 1)
    rows.addLayout(head)
    for found in [f for f in made.findings if f.level == "breach"][:6]:
        rows.addWidget(label(f"{found.title}: {found.message}", "quiet", True))
    rows.addStretch(1)
    return out


def gallery_actions(w: Host) -> list[Action]:
    """The action that opens the gallery."""
    return [Action("place", "Place…", ("connection", "family", "typical", "gallery"), "J", lambda: Gallery(w).exec(), lambda: w.desk is not None, "Families and typicals by situation, to be taken in hand")]
