"""What the window may have to wait for: said by the pointer while it takes its time."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication

from tincleat.commands.desk import Desk
from tincleat.ledger.through import Through, told
from tincleat.proof.finding import Finding


def overlaps_told(desk: Desk) -> list[tuple[Through, Finding]]:
    """Members through each other, as findings; the first look at a large model takes a second or so."""
    if desk.overlaps.known:
        return told(desk.ledger, desk.overlaps.found())
    QGuiApplication.setOverrideCursor(Qt.CursorShape.WaitCursor)
    try:
        return told(desk.ledger, desk.overlaps.found())
    finally:
        QGuiApplication.restoreOverrideCursor()
