"""Small dialogs: add a grid, a level, members, move, house rules, accept a finding; the search over all actions; help."""

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QComboBox,
    QCompleter,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from tincleat.app.fields import Choice, mark_bad
from tincleat.app.form_pictures import FormPicture
from tincleat.app.simple import label
from tincleat.app.theme import font


@dataclass(frozen=True)
class Ask:
    """One field of a dialog: its argument, label, first text, choices if any, and what may be typed."""

    name: str
    label: str
    text: str = ""
    choices: Sequence[str] = field(default=())
    hint: str = ""
    complete: Sequence[str] = field(default=())


class FormDialog(QDialog):
    """Fields with OK and Cancel, beside a drawing of what they ask if there is one; ``submit`` returns an error text that is shown without closing."""

    def __init__(self, title: str, words: str, fields: Sequence[Ask], submit: Callable[[dict[str, str]], str], parent: QWidget | None = None, picture: FormPicture | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.setMinimumWidth(440 if picture is None else 720)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(16, 14, 16, 14)
        rows.addWidget(label(title, "heading"))
        if words:
            rows.addWidget(label(words, "quiet", True))
        form = QFormLayout()
        form.setHorizontalSpacing(12)
        self.fields: dict[str, QWidget] = {}
        self.picture = picture
        for ask in fields:
            if ask.choices:
                box = Choice()
                box.addItems(list(ask.choices))
                box.setCurrentText(ask.text)
                self.fields[ask.name] = box
            else:
                line = QLineEdit(ask.text)
                line.setPlaceholderText(ask.hint)
                line.setFont(font(9, mono=True))
                if ask.complete:
                    names = QCompleter(list(ask.complete), line)
                    names.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
                    names.setFilterMode(Qt.MatchFlag.MatchContains)
                    line.setCompleter(names)
                self.fields[ask.name] = line
            self.fields[ask.name].setAccessibleName(ask.label)
            self.fields[ask.name].installEventFilter(self)
            form.addRow(ask.label, self.fields[ask.name])
        across = QHBoxLayout()
        across.setSpacing(18)
        across.addLayout(form, 1)
        if picture is not None:
            across.addWidget(picture, 0, Qt.AlignmentFlag.AlignTop)
        rows.addLayout(across)
        self.error = label("", "breach", True)
        rows.addWidget(self.error)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self._ok)
        buttons.rejected.connect(self.reject)
        rows.addWidget(buttons)
        self._submit, self._asks = submit, tuple(fields)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.FocusIn and self.picture is not None:
            self.picture.show_field(next((name for name, w in self.fields.items() if w is watched), ""))
        return super().eventFilter(watched, event)

    def values(self) -> dict[str, str]:
        """What is filled in, by name."""
        return {name: (w.currentText() if isinstance(w, QComboBox) else w.text().strip()) for name, w in self.fields.items()}  # type: ignore[attr-defined]

    def _ok(self) -> None:
        message = self._submit(self.values())
        wrong = self._wrong(message)
        for ask in self._asks:
            mark_bad(self.fields[ask.name], message if ask is wrong else "")
        if wrong is not None:
            message = re.sub(rf"(?<!\w){re.escape(wrong.name)}(?!\w)", wrong.label.lower(), message, count=1)
            self.fields[wrong.name].setFocus()
            if isinstance(line := self.fields[wrong.name], QLineEdit):
                line.selectAll()
        self.error.setText(message)
        if not message:
            self.accept()

    def _wrong(self, message: str) -> Ask | None:
        """The field that a message is about: the one it names first, by its name or its label."""
        found = []
        for ask in self._asks:
            for words in {ask.name, ask.name.replace("_", " "), ask.label, ask.label.split(",")[0]}:
                hit = re.search(rf"(?<!\w){re.escape(words)}(?!\w)", message, re.IGNORECASE)
                if hit:
                    found.append((hit.start(), -len(words), ask))
        return min(found, key=lambda f: f[:2])[2] if found else None


@dataclass(frozen=True)
class Action:
    """Something the user can do: name, words to find it by, shortcut, what to run, and when it applies."""

    name: str
    label: str
    words: tuple[str, ...]
    shortcut: str
    run: Callable[[], Any]
    enabled: Callable[[], bool] = lambda: True
    tip: str = ""


class Palette(QDialog):
    """Search over every action by what it does."""

    def __init__(self, actions: Sequence[Action], parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.actions_ = list(actions)
        self.setFixedSize(520, 380)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(8, 8, 8, 8)
        self.line = QLineEdit()
        self.line.setPlaceholderText("What do you want to do?")
        self.line.setAccessibleName("Search actions")
        self.list = QListWidget()
        self.list.setAccessibleName("Actions found")
        rows.addWidget(self.line)
        rows.addWidget(self.list)
        self.line.textChanged.connect(self._search)
        self.line.installEventFilter(self)
        self.line.returnPressed.connect(self._go)
        self.list.itemActivated.connect(lambda _: self._go())
        self._search("")

    def _search(self, text: str) -> None:
        words = text.lower().split()
        self.list.clear()

        def score(a: Action) -> tuple[int, str]:
            return (0 if a.label.lower().startswith(text.lower()) else 1, a.label)

        found = [a for a in self.actions_ if all(any(w in part.lower() for part in (a.label, a.tip, *a.words)) for w in words)]
        for a in sorted(found, key=score):
            item = QListWidgetItem(f"{a.label}    {a.shortcut}" if a.shortcut else a.label)
            item.setData(Qt.ItemDataRole.UserRole, a)
            item.setToolTip(a.tip)
            if not a.enabled():
                item.setFlags(Qt.ItemFlag.NoItemFlags)
            self.list.addItem(item)
        if not found:
            item = QListWidgetItem("Nothing does that. Try other words, such as bolt, weld, level.")
            item.setFlags(Qt.ItemFlag.NoItemFlags)
            self.list.addItem(item)
        first = next((i for i in range(self.list.count()) if self.list.item(i).flags() & Qt.ItemFlag.ItemIsEnabled), 0)
        self.list.setCurrentRow(first)

    def _go(self) -> None:
        item = self.list.currentItem()
        if item is not None and item.flags() & Qt.ItemFlag.ItemIsEnabled:
            action = item.data(Qt.ItemDataRole.UserRole)
            self.accept()
            action.run()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.line and isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.list.keyPressEvent(event)
            return True
        return super().eventFilter(watched, event)


class Help(QDialog):
    """A page of help in the window."""

    def __init__(self, title: str, html: str, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.resize(560, 480)
        rows = QVBoxLayout(self)
        page = QTextBrowser()
        page.setHtml(html)
        page.setAccessibleName(title)
        rows.addWidget(page)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        rows.addWidget(buttons)
