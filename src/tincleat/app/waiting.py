"""What the window may have to wait for: said by the pointer while it takes its time."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication

from tincleat.commands.desk import Desk
from tincleat.ledger.through import Stuck, Through
from tincleat.proof.finding import Finding


def overlaps_told(desk: Desk) -> list[tuple[Through | Stuck, Finding]]:
    """Members through each other and members stuck, as findings; the first look at a large model takes a second or so."""
    if desk.overlaps.known:
        return desk.overlaps.told()
    QGuiApplication.setOverrideCursor(Qt.CursorShape.WaitCursor)
    try:
        return desk.overlaps.told()
    finally:
        QGuiApplication.restoreOverrideCursor()
