"""The action line over the model: a stage's few actions in words; what does not fit goes into *More* before a letter is cut."""

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QSizePolicy, QWidget

GAP = 12  # between groups


class ActionLine(QWidget):
    """Buttons in a row, the last one always in view at the right."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("actions")
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)  # it must not push the panel aside
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.row = QHBoxLayout(self)
        self.row.setContentsMargins(8, 4, 8, 4)
        self.row.setSpacing(4)
        self.buttons: list[QPushButton] = []
        self.last: QPushButton | None = None
        self.more = QPushButton("More")
        self.more.setObjectName("flat")
        self.more.setToolTip("What has no room here")
        self.list = QMenu(self.more)
        self.list.aboutToShow.connect(self._fill_list)
        self.more.setMenu(self.list)
        self._groups = 0

    def fill(self, groups: Sequence[Sequence[QPushButton]], last: QPushButton) -> None:
        """Show other buttons, in groups a little apart."""
        while self.row.count():
            item = self.row.takeAt(0)
            widget = item.widget() if item is not None else None
            if widget is not None and widget is not self.more:
                widget.hide()
                widget.deleteLater()
        self.buttons, self.last, self._groups = [b for group in groups for b in group], last, max(0, len(groups) - 1)
        for i, group in enumerate(groups):
            if i:
                self.row.addSpacing(GAP)
            for made in group:
                self.row.addWidget(made)
        self.row.addWidget(self.more)
        self.row.addStretch(1)
        self.row.addWidget(last)
        self._fold()

    def _fold(self) -> None:
        if self.last is None:
            return
        gap = self.row.spacing()
        room = self.width() - 16 - self.last.sizeHint().width() - gap - self._groups * (GAP + gap)
        sizes = [b.sizeHint().width() + gap for b in self.buttons]
        if sum(sizes) <= room:
            fits = len(sizes)
        else:
            room -= self.more.sizeHint().width() + gap
            fits = 0
            while fits < len(sizes) and sizes[fits] <= room:
                room -= sizes[fits]
                fits += 1
        for i, made in enumerate(self.buttons):
            made.setVisible(i < fits)
        self.more.setVisible(fits < len(self.buttons))

    def _fill_list(self) -> None:
        self.list.clear()
        for made in self.buttons:
            if not made.isVisible():
                action = self.list.addAction(made.text())
                action.setToolTip(made.toolTip())
                action.setEnabled(made.isEnabled())
                action.setCheckable(made.isCheckable())
                action.setChecked(made.isChecked())
                action.triggered.connect(lambda _=False, b=made: b.click())  # type: ignore[misc]

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fold()
