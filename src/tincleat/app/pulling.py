"""What is taken hold of on a sheet or in the model: how a pull, by the pointer or typed, changes settings, shown before it is kept."""

from collections.abc import Callable
from typing import Any, Protocol

from tincleat.app.holding import Holding
from tincleat.commands.desk import Desk
from tincleat.errors import BadValue, TinCleatError
from tincleat.families.declare import Family, show
from tincleat.ledger.entries import Entry
from tincleat.ledger.made import Made
from tincleat.project.entities import Value
from tincleat.release.drawing import HandleSpot
from tincleat.units import format_length, is_inch, parse_length


class Panel(Protocol):
    """The panel of a connection, as far as this needs it."""

    desk: Desk | None
    fail: Callable[[str], None]

    @property
    def kind(self) -> Family:
        """The family of the connection shown."""

    @property
    def entry(self) -> Entry | None:
        """The entry shown."""

    def unit(self) -> str:
        """The unit of what is typed and shown."""

    def value_of(self, name: str) -> Value | None:
        """The value in use of a setting."""

    def preview(self, made: Made, words: str = "") -> None:
        """Show a detail that is not kept."""

    def keep_or_back(self, settings: dict[str, Any]) -> bool:
        """Keep settings, or show the detail as it is."""


class Pulling:
    """Pulls in the pictures of one panel's connection."""

    def __init__(self, panel: Panel) -> None:
        self.panel = panel
        self._hands: list[Holding] = []

    def listen(self, hand: Holding) -> None:
        """Take pulls in another picture too."""
        self._hands.append(hand)
        hand.pulled.connect(self.pulled)
        hand.typed.connect(self.typed)

    def step(self) -> None:
        """Pulls go by steps of the unit in use."""
        for hand in self._hands:
            hand.step = 6.35 if is_inch(self.panel.unit()) else 5.0

    def changes(self, handle: HandleSpot, distances: tuple[float, ...]) -> dict[str, Any]:
        """Settings as they are after a handle is pulled so far (mm) its ways."""
        out: dict[str, Any] = {}
        for (_, rates), far in zip(handle.pulls, distances, strict=False):
            for name, i, rate in rates if abs(far) > 1e-9 else ():
                value = out.get(name, self.panel.value_of(name))
                if i < 0:
                    out[name] = round(float(value or 0.0) + rate * far, 4)
                else:
                    some = [float(v) for v in value or ()]
                    some[i] = round(some[i] + rate * far, 4)
                    out[name] = tuple(some)
        return out

    def pulled(self, handle: HandleSpot, distances: tuple[float, ...], done: bool) -> None:
        """Show what a pull makes of the detail, or keep it where it is let go."""
        panel, entry = self.panel, self.panel.entry
        if entry is None or entry.connection is None or panel.desk is None:
            return
        settings = self.changes(handle, distances)
        if done:
            panel.keep_or_back(settings)
            return
        try:
            typed = panel.kind.checked(settings, panel.desk.project.house)
            made = panel.desk.ledger.make(entry.joint, panel.kind.name, {**entry.connection.settings, **typed}, typical=entry.connection.typical)
        except TinCleatError as error:
            self._refused(error)
            return
        self._mark("")
        unit = panel.unit()
        sizes = ", ".join(f"{panel.kind.setting(n).label.lower()} {show(panel.kind.setting(n), v, unit)}" for n, v in settings.items() if not isinstance(v, tuple))
        far = ", ".join(format_length(v, unit, mark=True) for v in distances)
        panel.preview(made, f"{handle.words}: {far}" + (f" ({sizes})" if sizes else ""))

    def typed(self, handle: HandleSpot, text: str, done: bool) -> None:
        """A distance typed for a handle, or two of one that goes two ways."""
        parts = [p.strip() for p in text.replace(";", ",").split(",")]
        try:
            if len(parts) > len(handle.pulls):
                raise BadValue(f"{len(parts)} distances are too many", handle.words, "one distance" if len(handle.pulls) == 1 else "one or two, parted by a comma")
            distances = tuple(parse_length(p, self.panel.unit()) if p else 0.0 for p in parts)
        except TinCleatError as error:
            self._refused(error)
            return
        if not done:
            self.pulled(handle, distances, False)
        elif self.panel.keep_or_back(self.changes(handle, distances)):
            for hand in self._hands:
                hand.let_go()

    def _refused(self, error: TinCleatError) -> None:
        self._mark(str(error))
        self.panel.fail(str(error))

    def _mark(self, message: str) -> None:
        """Say at the field of what is held, if one is, that what is typed there cannot be."""
        for hand in self._hands:
            if hand.held is not None:
                hand.set_bad(message)
