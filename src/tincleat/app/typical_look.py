"""A look at what a change of a typical does to the connections that use it, before it is kept: what differs, what would be in breach, both in pictures."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage, QPixmap, QShowEvent
from PySide6.QtWidgets import QAbstractItemView, QDialog, QGridLayout, QHBoxLayout, QHeaderView, QTableWidget, QTableWidgetItem, QVBoxLayout

from tincleat.app.context import Host
from tincleat.app.counted import counted
from tincleat.app.gallery import LARGE
from tincleat.app.offers import picture
from tincleat.app.simple import button, label
from tincleat.commands.desk import Trial
from tincleat.errors import TinCleatError
from tincleat.families.declare import show
from tincleat.families.registry import FAMILIES
from tincleat.ledger.entries import Entry
from tincleat.project.entities import Units

HEAD = ("How many", "Joint", "What differs", "Then")
MOST_TOLD = 4  # figures of one row


@dataclass(frozen=True)
class Kind:
    """Connections that change alike: how many, one of them before and after, what differs in words."""

    count: int
    old: Entry
    new: Entry
    words: str

    @property
    def worse(self) -> bool:
        """Whether it would not be built any more, or be in breach where it was not."""
        return bool(self.new.problem) or (self.new.level == "breach" and self.old.level != "breach")


def kinds(trial: Trial, unit: Units) -> list[Kind]:
    """The connections that a trial changes, those alike together; the worst first, then the most."""
    groups: dict[tuple[int, int, str], list[tuple[Entry, Entry]]] = {}
    for old, new in trial.entries:
        if old is not None and new is not None and old.connection is not None and new.connection is not None and (old.made is not new.made or old.problem != new.problem):
            groups.setdefault((id(old.made), id(new.made), new.problem), []).append((old, new))
    out = [Kind(len(some), *some[0], differs(*some[0], unit)) for some in groups.values()]
    return sorted(out, key=lambda k: (not k.worse, -k.count))


def differs(old: Entry, new: Entry, unit: Units) -> str:
    """What of a detail's figures differs, in words."""
    assert new.connection is not None
    if new.made is None or old.made is None:
        return new.problem or "it can be built again"
    labels = FAMILIES[new.connection.family].by_name
    before = {n.name: n.value for n in old.made.detail.numbers}
    words = []
    for n in new.made.detail.numbers:
        setting = labels.get(n.name.partition("/")[0])
        if setting is not None and before.get(n.name) != n.value:
            was = show(setting, before[n.name], unit) if n.name in before else "not in use"
            words.append(f"{setting.label.lower()} {was} → {show(setting, n.value, unit)}")
    rest = f" and {len(words) - MOST_TOLD} more" if len(words) > MOST_TOLD else ""
    return ", ".join(words[:MOST_TOLD]) + rest if words else "its shape, by what is worked out"


def telling(old: QPixmap, new: QPixmap) -> int:
    """In how many pixels two pictures of one size differ."""
    one, two = (np.frombuffer(bytes(p.toImage().convertToFormat(QImage.Format.Format_RGB32).constBits()), dtype=np.uint32) for p in (old, new))
    return int((one != two).sum())


class Look(QDialog):
    """What would change, a row for all that change alike, with a picture before and after; kept or left."""

    def __init__(self, w: Host, title: str, trial: Trial) -> None:
        super().__init__(w)
        assert w.desk is not None
        self.w = w
        self.kinds = kinds(trial, w.desk.project.house.units)
        count, worse = sum(k.count for k in self.kinds), sum(k.count for k in self.kinds if k.worse)
        self.setWindowTitle("What changes")
        self.resize(940, 600)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(16, 14, 16, 14)
        rows.addWidget(label(title, "heading"))
        words = f"{counted(count, 'connection')} that use it change" + (f"; {worse:,} of them would be in breach or not be built" if worse else "; none is in breach for it") + "."
        rows.addWidget(label(words if count else "No connection changes for it.", "breach" if worse else "quiet", True))
        self.table = QTableWidget(len(self.kinds), len(HEAD))
        self.table.setAccessibleName("What changes, connections alike together")
        self.table.setHorizontalHeaderLabels(list(HEAD))
        self.table.verticalHeader().hide()
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setTabKeyNavigation(False)
        for column, width in ((0, 76), (1, 250), (3, 130)):
            self.table.setColumnWidth(column, width)
        self.table.horizontalHeader().setSectionResizeMode(2, QHeaderView.ResizeMode.Stretch)
        for i, k in enumerate(self.kinds):
            then = "not built" if k.new.problem else k.new.level if k.new.level == k.old.level else f"{k.old.level} → {k.new.level}"
            for j, text in enumerate((str(k.count), k.new.joint.words, k.words, then)):
                item = QTableWidgetItem(text)
                item.setToolTip(k.new.problem or text)
                self.table.setItem(i, j, item)
        self.table.setWordWrap(True)
        rows.addWidget(self.table, 1)
        pictures = QGridLayout()
        self.before, self.after = label(""), label("")
        for column, (words, shown) in enumerate((("Now", self.before), ("Then", self.after))):
            pictures.addWidget(label(words, "group"), 0, column)
            pictures.addWidget(shown, 1, column, Qt.AlignmentFlag.AlignLeft)
        rows.addLayout(pictures)
        line = QHBoxLayout()
        line.addStretch(1)
        line.addWidget(button("Leave it", self.reject))
        self.go = button(f"Change {counted(count, 'connection')}" if count else "Change it", self.accept, "go")
        line.addWidget(self.go)
        rows.addLayout(line)
        self.table.itemSelectionChanged.connect(self._show)
        self.table.verticalHeader().setMinimumSectionSize(40)
        self.table.verticalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        if self.kinds:
            self.table.selectRow(0)
        self.go.setFocus()

    def _show(self) -> None:
        at = self.table.currentRow()
        if not 0 <= at < len(self.kinds):
            return
        k, theme, ratio = self.kinds[at], self.w.theme, self.w.devicePixelRatioF()
        old, new = k.old.made, k.new.made
        both = old is not None and new is not None and len(old.detail.views) == len(new.detail.views)
        some = [[picture(m, theme, ratio, LARGE, i) for m in (old, new) if m is not None] for i in range(len(old.detail.views) if old is not None and both else 0)]
        view = max(range(len(some)), key=lambda i: telling(*some[i]), default=0)  # the one that tells most
        for number, (entry, shown, words) in enumerate(((k.old, self.before, "now"), (k.new, self.after, "then"))):
            if entry.made is None:
                shown.setText("It cannot be built.")
            else:
                shown.setPixmap(some[view][number] if some else picture(entry.made, theme, ratio, LARGE, 0))
            shown.setAccessibleName(f"Picture of {k.new.joint.words}, {words}")

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.table.resizeRowsToContents()


def looked_at(w: Host, name: str, title: str, /, **args: Any) -> str:
    """Run a command that changes a typical, after a look at what it does to its uses; why it could not be done, or nothing.  A look that is left
    changes nothing."""
    assert w.desk is not None
    try:
        trial = w.desk.trial(name, **args)
    except TinCleatError as error:
        return str(error)
    look = Look(w, title, trial)
    if look.kinds and look.exec() != QDialog.DialogCode.Accepted:
        w.say("Left as it was")
        return ""
    return w.command_error(name, **args)
