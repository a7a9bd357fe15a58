"""What the window may have to wait for: said by the pointer while it takes its time."""

import contextlib
from collections.abc import Iterator

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication

from tincleat.commands.desk import Desk
from tincleat.ledger.through import Stuck, Through
from tincleat.proof.finding import Finding

FELT = 1500  # members from which on a change may take a tenth of a second


@contextlib.contextmanager
def busy() -> Iterator[None]:
    """The pointer says that the window is at work, for what takes half a second or more on a large model."""
    QGuiApplication.setOverrideCursor(Qt.CursorShape.WaitCursor)
    try:
        yield
    finally:
        QGuiApplication.restoreOverrideCursor()


def busy_if_large(desk: Desk | None) -> "contextlib.AbstractContextManager[None]":
    """:func:`busy` for a project so large that a change of it may be felt; for a small one the pointer stays as it is."""
    return busy() if desk is not None and len(desk.project.members) > FELT else contextlib.nullcontext()


def overlaps_told(desk: Desk) -> list[tuple[Through | Stuck, Finding]]:
    """Members through each other and members stuck, as findings; the first look at a large model takes a second or so."""
    if desk.overlaps.known:
        return desk.overlaps.told()
    with busy():
        return desk.overlaps.told()
