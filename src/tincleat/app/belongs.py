"""Where a setting belongs: while its field is pointed at or typed in, the sheet marks what another value of it would change."""

from collections.abc import Callable, Mapping

from PySide6.QtCore import QEvent, QObject, QTimer
from PySide6.QtWidgets import QWidget

from tincleat.app.settings_form import Panel
from tincleat.details.parts import View
from tincleat.errors import TinCleatError
from tincleat.families.declare import show
from tincleat.geometry.frames import Array
from tincleat.ledger.made import Made
from tincleat.project.entities import Value
from tincleat.release.moved import Moved, anything, moved, on_paper, other_values
from tincleat.release.sheet import Pictures

WORKED = ("worked out", "rounded", "adapted")  # numbers that follow others
WAIT = 150  # ms a field is pointed at before anything is worked out: who passes over many sees nothing flicker


class Belonging(QObject):
    """Watches the fields of one panel's form; ``pictures`` gives the projected views of a detail."""

    def __init__(self, panel: Panel, pictures: Callable[[Made], Pictures]) -> None:
        super().__init__(panel if isinstance(panel, QObject) else None)  # it goes with its panel
        self.panel, self.pictures = panel, pictures
        self._names: dict[QObject, str] = {}
        self._hovered = self._focused = ""  # settings by name: their fields may be gone when the time is up
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(WAIT)
        self._timer.timeout.connect(self._show)

    def watch(self, fields: Mapping[str, QWidget]) -> None:
        """From now on these are the fields, by the names of their settings."""
        self._names = {w: name for name, w in fields.items()}
        self._hovered = ""
        self._focused = next((name for name, w in fields.items() if w.hasFocus()), "")
        for w in fields.values():
            w.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Coming to a field, by pointer or keyboard, and leaving it."""
        name, kind = self._names.get(watched, ""), event.type()
        if name and kind in (QEvent.Type.Enter, QEvent.Type.Leave):
            self._hovered = name if kind == QEvent.Type.Enter else ""
            self._timer.start()
        elif name and kind in (QEvent.Type.FocusIn, QEvent.Type.FocusOut):
            self._focused = name if kind == QEvent.Type.FocusIn else ""
            self._timer.start()
        return super().eventFilter(watched, event)

    def _now(self) -> str:
        """The setting whose field is pointed at, else typed in; empty if none is."""
        return self._hovered or self._focused

    def again(self) -> None:
        """The sheet was drawn anew: what was shown on it is worked out once more."""
        if self._now():
            self._timer.start()

    def _show(self) -> None:
        name = self._now()
        lines, words = self._moves(name) if name else (None, "")
        self.panel.sheet.show_moves(lines, words)

    def _moves(self, name: str) -> "tuple[tuple[Array, Array] | None, str]":
        """What another value of a setting changes on the sheet, as it lies and as it would, and words for it."""
        panel, shown = self.panel, self.panel.shown()
        drawing, entry, desk = panel.sheet.drawing, panel.entry, panel.desk
        if shown is None or drawing is None or entry is None or entry.connection is None or desk is None:
            return None, ""
        try:
            setting = panel.kind.setting(name)
        except TinCleatError:  # of a part that went meanwhile
            return None, ""
        now, house = panel.value_of(name), desk.project.house
        typed, typical = entry.connection.settings, entry.connection.typical
        found: dict[str, Value] = {n.name: n.value for n in shown[0].detail.numbers if n.origin in WORKED and n.name != name}

        def tried(settings: "dict[str, Value]") -> "dict[View, Moved] | None":
            try:
                made = desk.ledger.make(entry.joint, panel.kind.name, settings, typical=typical)
            except TinCleatError:
                return None
            return moved(self.pictures(shown[0]), self.pictures(made))

        # all that is worked out is held, for what it moves by itself is asked; where that cannot be typed, or shows nothing, the rest follows
        still = tried({**typed, **found})
        for held in ({**typed, **found}, typed) if still is not None and not anything(still) else (typed,):
            for value in other_values(setting, now, house):
                lines = tried({**held, name: value})
                if lines is not None and anything(lines):
                    old = f"{show(setting, now, panel.unit())} → " if now not in (None, 0, ()) else ""
                    return on_paper(drawing, lines), f"{setting.label}: {old}{show(setting, value, panel.unit()) or 'none'} changes what is marked"
        return None, f"{setting.label}: changes nothing that is drawn here" if next(other_values(setting, now, house), None) is not None else ""
