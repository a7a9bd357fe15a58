"""What has changed in a project since this user last had it open: how far it was then, and the steps taken since."""

import contextlib
from dataclasses import dataclass
from datetime import datetime

import msgspec
from PySide6.QtCore import QSettings

from tincleat.app.counted import counted
from tincleat.commands.desk import Desk

MOST_KEPT = 40  # projects that are remembered
MOST_STEPS = 200
KEY = "seen"


class Seen(msgspec.Struct, frozen=True):
    """A project as it was left: its latest step, what was joined of how many joints, breaches, and when (ISO, local)."""

    step: int
    joined: int
    joints: int
    breach: int
    when: str


@dataclass(frozen=True)
class Since:
    """Then and now: words for the panel at rest."""

    then: str
    now: str
    steps: tuple[str, ...]  # titles, the latest first


def _all(settings: QSettings) -> dict[str, Seen]:
    with contextlib.suppress(msgspec.DecodeError):
        return msgspec.json.decode(str(settings.value(KEY, "{}")), type=dict[str, Seen])
    return {}


def seen(settings: QSettings, desk: Desk) -> Seen | None:
    """How a project was left when it was last closed here; None where it never was."""
    return _all(settings).get(desk.project.identity)


def leave(settings: QSettings, desk: Desk) -> None:
    """Remember how a project is left."""
    counts, steps = desk.counts(), desk.store.history(1)
    now = Seen(steps[0].seq if steps else 0, counts["joined"], counts["joints"], counts["breach"], datetime.now().isoformat(timespec="minutes"))
    kept = {k: v for k, v in _all(settings).items() if k != desk.project.identity} | {desk.project.identity: now}
    latest = dict(sorted(kept.items(), key=lambda item: item[1].when)[-MOST_KEPT:])
    settings.setValue(KEY, msgspec.json.encode(latest).decode())


def _more(now: int, then: int, what: str) -> list[str]:
    return [f"{abs(now - then):,} {'more' if now > then else 'fewer'} {what}"] if now != then else []


def since(old: Seen, desk: Desk) -> Since:
    """What differs from how a project was left."""
    counts = desk.counts()
    steps = [s for s in desk.store.history(MOST_STEPS) if s.done and s.seq > old.step]
    words = [counted(len(steps), "step") + (" or more" if len(steps) == MOST_STEPS else "")] if steps else []
    words += _more(counts["joined"], old.joined, "joined") + _more(counts["joints"], old.joints, "joints") + _more(counts["breach"], old.breach, "breaches")
    try:
        when = datetime.fromisoformat(old.when).strftime("%-d %B, %H:%M")
    except ValueError:
        when = "some day"
    then = f"{when}: {old.joined:,} of {old.joints:,} joined, {counted(old.breach, 'breach', 'breaches')}"
    return Since(then, ", ".join(words) if words else "nothing has changed", tuple(s.title for s in steps[:4]))
