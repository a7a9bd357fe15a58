"""Placing: a family is chosen, joints show its ghost under the pointer, a click places it."""

from collections.abc import Mapping
from types import MappingProxyType
from typing import Any

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtWidgets import QPushButton

from tincleat.app.context import Host
from tincleat.app.forms import along_rows
from tincleat.app.gallery import ghost_card, remember
from tincleat.app.loose import face_at
from tincleat.errors import TinCleatError
from tincleat.families.registry import FAMILIES
from tincleat.joints.along import station_key
from tincleat.joints.case import Joint
from tincleat.ledger.entries import PLAIN
from tincleat.ledger.offers import last_typed, offers
from tincleat.project.entities import Connection, Value

REACH = 18.0  # pixels from a crossing within which it is meant


class Placing:
    """What is being placed in a window; ``family`` is empty when nothing is."""

    def __init__(self, window: Host) -> None:
        self.window = window
        self.family = self.typical = ""
        self.settings: dict[str, Any] = {}
        self._asked: dict[str, Any] = {}  # what it was started with
        self.as_last = True  # whether what was typed last at such a joint is taken over
        self._crossings: tuple[list[str], np.ndarray] | None = None

    def start(self, family: str, typical: str = "", settings: "Mapping[str, Value]" = MappingProxyType({})) -> None:
        """Hover joints with a ghost of the detail, by a typical (an id) if one is given and as typed; a click places it."""
        if self.family == family and self.typical == typical and self._asked == dict(settings):
            self.stop()
            return
        kinds = FAMILIES[family].kinds
        remember(self.window, family)
        if kinds == ("row",):
            along_rows(self.window, FAMILIES[family])
            self.mark_buttons()
            return
        self.family, self.typical, self.settings = family, typical, dict(settings) or ({"part/1": "plate"} if FAMILIES[family].parts and not typical else {})
        self._asked = dict(settings)
        self.window.view.placing = True
        self.window.view.spots = self._station_at if kinds in (("station",), ("along",)) else self._crossing_at if "crossing" in kinds and family != PLAIN else None
        self._crossings = None
        self.window.view.setCursor(Qt.CursorShape.CrossCursor)
        self.window.select([], [])
        self.window.view.setFocus()
        self.window.say(f"{self._label()}: point at {self._what()}; click places it, Esc ends")
        self.mark_buttons()

    def _label(self) -> str:
        """What is in hand, in words."""
        fresh = self.settings.keys() <= {"part/1", "on/1"} and "part/1" in self.settings
        return f"Loose {self.settings['part/1']}" if fresh else FAMILIES[self.family].label

    def stop(self) -> None:
        """Back to selecting."""
        self.family = self.typical = ""
        self.window.view.placing, self.window.view.hover_key, self.window.view.spots = False, "", None
        self.window.view.unsetCursor()
        self.window.view.show_overlay([])
        self.window.say("")
        self.mark_buttons()
        self.window.refresh_panel()

    def mark_buttons(self) -> None:
        """Show on the action line whether something is in hand."""
        for widget in self.window.action_line.findChildren(QPushButton):
            if widget.isCheckable():
                widget.setChecked(bool(self.family))

    def hovered(self, key: str) -> None:
        """Show the ghost at a joint, or say why the family does not suit it."""
        if not self.family or self.window.desk is None:
            return
        if not key:
            self.window.view.show_overlay([])
            self.window.say(f"{self._label()}: point at {self._what()}; click places it, Esc ends")
            return
        entry = self.window.desk.ledger.entries.get(key)
        if entry is not None and entry.connection is not None:
            self.window.view.show_overlay([])
            self.window.say(f"{entry.joint.words}: joined already by {entry.connection.family} {entry.connection.id}")
            return
        joint = entry.joint if entry is not None else self._placed(key)
        if joint is None:
            self.window.view.show_overlay([])
            return
        last = self._last(joint)
        try:
            made = self.window.desk.ledger.make(joint, self.family, last.settings if last is not None else self.settings, typical=self.typical)
        except TinCleatError as error:
            self.window.view.show_overlay([])
            self.window.fail(f"{joint.words}: {error}")
            return
        s = made.shapes
        frame = joint.frame
        bad = [f for f in made.findings if f.level == "breach"]
        tone = self.window.theme.ghost_breach if bad else self.window.theme.ghost
        self.window.view.show_overlay([(s.plates.placed(frame), tone), (s.bolts.placed(frame), self.window.theme.slate)])
        self.window.show_card(ghost_card(self.window, joint, self.family, self.typical, made))
        self.window.say(
            f"{joint.words}: "
            + (f"{len(bad)} breach{'es' if len(bad) > 1 else ''}, first {bad[0].title.lower()}" if bad else "clear")
            + (f"; as {last.id} is typed, L for as it comes" if last is not None else "")
            + "; click places it, Esc ends"
        )

    def _last(self, joint: Joint) -> Connection | None:
        """The connection whose typed settings are taken over at a joint: the one of this family that was typed last at such a one, if that makes
        no breach here."""
        desk = self.window.desk
        if desk is None or not self.as_last or self.typical or self.settings or FAMILIES[self.family].parts:
            return None
        found = last_typed(desk.ledger, joint.kind).get(self.family)
        if found is None:
            return None
        try:
            return None if desk.ledger.make(joint, self.family, found.settings).level == "breach" else found
        except TinCleatError:
            return None

    def toggle_last(self) -> None:
        """Take over what was typed last, or place as it comes."""
        self.as_last = not self.as_last
        self.window.view.hover_key = ""
        self.window.say("Pointing takes over what was typed last at such a joint" if self.as_last else "Pointing places details as they come, whatever was typed last")

    def _what(self) -> str:
        """What to point at, in words."""
        kinds = FAMILIES[self.family].kinds
        if FAMILIES[self.family].parts:
            return "a member's face"
        return "a member" if kinds in (("station",), ("along",)) else "where one member lies on another" if kinds == ("crossing",) else "a joint"

    def _placed(self, key: str) -> Joint | None:
        """The site of a name such as ``m12@2500`` or ``m12xm14``."""
        assert self.window.desk is not None
        finder = self.window.desk.ledger.finder
        member, at, station = key.partition("@")
        if at and "+" in member:
            return finder.row(member.split("+"), float(station))
        if at:
            return finder.station(member, float(station), self.family in finder.along)
        over, cross, under = key.partition("x")
        return finder.crossing(over, under) if cross and {over, under} <= finder.index.keys() else None

    def _station_at(self, at: QPointF) -> str:
        """The station of the member under a pixel, on a round distance from its start."""
        view, desk = self.window.view, self.window.desk
        hit = view.bodies.pick(*view.camera.ray(at.x(), at.y())) if view.bodies is not None else None
        if hit is None or hit[0] != "member" or desk is None:
            return ""
        own = desk.ledger.finder.frames[hit[1]]
        step = 25.4 if desk.project.house.inch else 10.0
        station = round(float((hit[2] - own.o) @ own.axes[0]) / step) * step
        key = station_key(hit[1], min(max(station, 0.0), desk.ledger.finder.lengths[hit[1]]))
        if self.settings.keys() <= {"part/1", "on/1"} and "part/1" in self.settings and (joint := self._placed(key)) is not None:
            face = face_at(joint, np.array(hit[2]))
            if face != self.settings.get("on/1"):  # another face of the same station is another ghost
                self.settings["on/1"] = face
                view.hover_key = ""
        return key

    def _crossing_at(self, at: QPointF) -> str:
        """The crossing nearest to a pixel: of all members that lie over others, those not joined there yet."""
        view, desk = self.window.view, self.window.desk
        if desk is None:
            return ""
        if self._crossings is None:
            finder = desk.ledger.finder
            found = [(f"{a}x{b}", finder.crossing(a, b)) for a, b in finder.crossings()]
            free = [(k, j.frame.origin) for k, j in found if j is not None and k not in desk.ledger.entries]
            self._crossings = ([k for k, _ in free], np.array([p for _, p in free]).reshape(-1, 3))
        names, points = self._crossings
        if not names:
            return ""
        spots = view.camera.project(points)
        far = np.hypot(spots[:, 0] - at.x(), spots[:, 1] - at.y())
        return names[int(far.argmin())] if far.min() < REACH else ""

    def place_at(self, key: str) -> None:
        """Place the family at a joint and go on to the next."""
        desk = self.window.desk
        entry = desk.ledger.entries.get(key) if desk is not None else None
        joint = entry.joint if entry is not None else self._placed(key) if desk is not None and self.family else None
        last = self._last(joint) if joint is not None and self.family else None
        if self.family and self.window.run("place-connection", family=self.family, at=[key], settings=last.settings if last is not None else self.settings, typical=self.typical):
            self.window.view.hover_key = ""
            self._crossings = None
            self.window.say(f"Placed. {self._label()}: point at the next place, Esc ends")

    def place_here(self, family: str, like: str, typical: str = "", settings: "Mapping[str, Value]" = MappingProxyType({})) -> None:
        """Place a family, by a typical (an id) if one is given and as typed, at the selected joint, or at all kin of a joint."""
        typed = dict(settings)
        if like:
            self.window.run("place-all", family=family, like=like, settings=typed, typical=typical)
        elif self.window.selected:
            free = [k for k in self.window.selected if self.window.desk is not None and self.window.desk.ledger.entries[k].connection is None]
            self.window.run("place-connection", family=family, at=free if FAMILIES[family].shares > 1 or family == PLAIN else free[:1], settings=typed, typical=typical)

    def place_selected(self, family: str, typical: str = "", settings: "Mapping[str, Value]" = MappingProxyType({})) -> None:
        """Place a family at every selected open joint that it suits, in one step; how many it does not suit is said with the first one's reason."""
        desk = self.window.desk
        if desk is None:
            return
        ledger, typed = desk.ledger, dict(settings)
        free = [ledger.entries[k].joint for k in self.window.selected if ledger.entries[k].connection is None]
        why: dict[Any, str] = {}
        for joint in free:
            if joint.case not in why:
                why[joint.case] = ledger.refusal(joint, family, typed, typical) if joint.kind in FAMILIES[family].kinds else f"it does not take a {joint.kind}"
        chosen, left = [j for j in free if not why[j.case]], [j for j in free if why[j.case]]
        rest = f"; {len(left)} left, first {left[0].words}: {why[left[0].case]}" if left else ""
        if not chosen:
            self.window.fail(f"{FAMILIES[family].label} suits none of the {len(free)} selected{rest}")
        elif self.window.run("place-connection", family=family, at=[j.key for j in chosen], settings=typed, typical=typical):
            self.window.say(f"{FAMILIES[family].placing} at {len(chosen)} of {len(free)} selected{rest}")

    def place_all_alike(self) -> None:
        """Place the first family that suits at all joints like the selected one."""
        entry = self.window.open_selected()
        if entry is None or self.window.desk is None:
            return
        some = [o for o in offers(self.window.desk.ledger, entry.joint) if o.family != PLAIN]
        best = min((o for o in some if o.made is not None), key=lambda o: o.rank, default=None)
        if best is not None:  # what the panel shows first
            self.place_here(best.family, entry.joint.key, best.typical.id if best.typical else "", best.settings)
        else:
            why = "; ".join(f"{o.words}: {o.why}" for o in some)
            self.window.fail(why or f"no family takes a {entry.joint.kind}; it may be left plain")
