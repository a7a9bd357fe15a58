"""Changes looked through in a window: the review page, their lines over the model, two states in pictures."""

from collections.abc import Sequence
from functools import partial

import numpy as np
from PySide6.QtCore import QTimer

from tincleat.app import cards
from tincleat.app.coming import Coming
from tincleat.app.context import Host
from tincleat.app.review import Matter, Row, before_after
from tincleat.app.state_pictures import StatePictures


class Looking:
    """What is being looked through in a window; ``pictures`` are of the comparison shown, if one is."""

    def __init__(self, window: Host) -> None:
        self.window = window
        self.pictures: StatePictures | None = None
        self.coming = False  # whether a frame that may come in is drawn

    def through(self, matter: Matter) -> None:
        """Put changes into the review page, their lines over the model."""
        w = self.window
        w.drawer.review.look_through(matter)
        w.drawer.go("Review")
        self._lay_lines(matter.rows)
        count = f"{len(matter.rows)} row{'s' if len(matter.rows) != 1 else ''}"
        w.say(f"{count}. Enter or a double click takes or leaves one; nothing has changed yet" if matter.take else count)

    def next(self, matter: Matter) -> None:
        """Look through what a taken matter left to do, once its own page has closed."""
        QTimer.singleShot(0, partial(self.through, matter))

    def at_pictures(self, pictures: StatePictures, count: int) -> None:
        """Put both states of a comparison into the panel; rows chosen in the review are looked at closely in them."""
        self.drop_pictures()
        self.pictures = pictures
        self.window.show_card(cards.pictures_card(pictures, count))

    def at_coming(self, frame: Coming) -> None:
        """Draw a frame that may come in, until its card goes."""
        w = self.window
        self.coming = True
        w.view.lines = [(line, w.theme.slate, False) for line in frame.axes]
        w.view.show_coming(frame.bodies(w.theme), frame.points)

    def drop_pictures(self) -> None:
        """Give the pictures, or the frame that might come in, up, if there are any."""
        if self.coming:
            self.coming = False
            self.window.view.lines = []
            self.window.view.show_coming([], np.zeros((0, 3)))
        if self.pictures is not None:
            self.pictures.release()
            self.pictures = None

    def rows(self, rows: Sequence[Row]) -> None:
        """Rows chosen in the review page: their lines alone, and the model brought to them."""
        matter = self.window.drawer.review.matter
        if self.pictures is not None:
            self.pictures.focus(rows)
        self._lay_lines(rows or (matter.rows if matter is not None else []))
        points = [p for r in rows for m in (r.old, r.new) if m is not None for p in (m.start, m.end)]
        if points:
            self.window.view.zoom_to(np.array(points), 1500.0)

    def ended(self) -> None:
        """The review page has closed."""
        self._lay_lines([])
        if self.pictures is not None:
            self.window.refresh_panel()

    def _lay_lines(self, rows: Sequence[Row]) -> None:
        self.window.view.lines = before_after(rows, self.window.theme)
        self.window.view.update()
