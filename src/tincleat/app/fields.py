"""Fields that change nothing by accident: choices that neither wheel nor arrows change while closed, lines that keep what was typed when they are left."""

from collections.abc import Callable

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QKeyEvent, QWheelEvent
from PySide6.QtWidgets import QComboBox, QLineEdit, QPushButton, QWidget

from tincleat.app.theme import font

OPENS = (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown, Qt.Key.Key_Home, Qt.Key.Key_End, Qt.Key.Key_Return, Qt.Key.Key_Enter)


class Choice(QComboBox):
    """A list to choose from.  A value is chosen in the open list only, so that a change is one deliberate act."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()  # what scrolls is the card around it

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in OPENS or (event.text().isprintable() and event.text().strip()):
            self.showPopup()
            if event.text().strip():
                self.view().keyPressEvent(event)
        else:
            super().keyPressEvent(event)


class Field(QLineEdit):
    """A line edit that tells of Esc and of arrow steps."""

    left = Signal()
    stepped = Signal(int)

    def event(self, event: QEvent) -> bool:
        # Esc belongs to the field while one types, not to the window's shortcut
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and event.key() == Qt.Key.Key_Escape:
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.left.emit()
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.stepped.emit(1 if event.key() == Qt.Key.Key_Up else -1)
        else:
            super().keyPressEvent(event)
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                event.accept()  # the sheet would open the field again with it


class Line(QLineEdit):
    """A value that is kept by Enter and by leaving; ``keep`` returns why it cannot be, or an empty text.  Esc brings the old text back first."""

    def __init__(self, text: str, keep: Callable[[str], str], parent: QWidget | None = None) -> None:
        super().__init__(text, parent)
        self._keep, self._before, self._busy, self.blank = keep, text, False, False  # ``blank`` if nothing is a value too
        self.setFont(font(9, mono=True))
        self.editingFinished.connect(self._done)

    def event(self, event: QEvent) -> bool:
        escape = event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and event.key() == Qt.Key.Key_Escape
        if escape and (self._listing() or self.text() != self._before):
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self._listing():
            event.ignore()  # the list of suggestions closes by it, and nothing else happens
            return
        if event.key() == Qt.Key.Key_Escape and self.text() != self._before:
            self.setText(self._before)
            self._show("")
            return
        super().keyPressEvent(event)

    def take(self, text: str) -> None:
        """Show another value, kept already."""
        self._before = text
        self.setText(text)
        self.setCursorPosition(0)
        self._show("")

    def _listing(self) -> bool:
        names = self.completer()
        return names is not None and names.popup().isVisible()

    def _done(self) -> None:
        text = self.text().strip()
        if self._busy or text == self._before or not (text or self.blank):
            if not text and not self.blank:
                self.setText(self._before)
            return
        self._busy, before = True, self._before
        try:
            why = self._keep(text)
        finally:
            self._busy = False
        if not why and self._before == before:  # else another value was shown meanwhile
            self._before = text
        self._show(why)

    def _show(self, why: str) -> None:
        mark_bad(self, why)


def mark_bad(field: QWidget, why: str) -> None:
    """Show on a field that what it holds cannot be used, and why; or that it can."""
    field.setProperty("bad", bool(why))
    field.style().polish(field)
    field.setToolTip(why or field.accessibleDescription())


def name_of(widget: QWidget) -> tuple[str, str]:
    """What a widget is called, by which its like in a card made anew is found."""
    text = widget.text() if isinstance(widget, QPushButton) else ""
    return type(widget).__name__, widget.accessibleName() or text


def same_field(card: QWidget, name: "tuple[str, str]") -> QWidget | None:
    """The widget of a card that is called so, if there is one that takes the focus."""
    if not name[1]:
        return None
    return next((w for w in card.findChildren(QWidget) if w.focusPolicy() != Qt.FocusPolicy.NoFocus and name_of(w) == name), None)
