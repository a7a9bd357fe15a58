"""The simplest things of the window: a label, a button with its deed, a layout emptied."""

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel, QPushButton


def button(text: str, slot: Callable[[], Any], name: str = "", tip: str = "") -> QPushButton:
    """A push button with its action; ``name`` picks a style."""
    made = QPushButton(text)
    if name:
        made.setObjectName(name)
    if tip:
        made.setToolTip(tip)
    made.clicked.connect(lambda _=False: slot())
    return made


def label(text: str, name: str = "", wrap: bool = False) -> QLabel:
    """A label; ``name`` picks a style."""
    made = QLabel(text)
    if name:
        made.setObjectName(name)
    made.setWordWrap(wrap)
    made.setTextInteractionFlags(Qt.TextInteractionFlag.NoTextInteraction)
    return made


def clear_box(box: Any) -> None:
    """Empty a layout, its inner layouts too."""
    while box.count():
        item = box.takeAt(0)
        if item.widget() is not None:
            item.widget().hide()
            item.widget().deleteLater()
        elif item.layout() is not None:
            clear_box(item.layout())
