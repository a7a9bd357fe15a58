"""Find one setting that mends a breach: candidates are really built and proved, and taken only if nothing else breaks."""

import math
from collections.abc import Iterator

from tincleat.errors import TinCleatError
from tincleat.families.declare import Setting
from tincleat.families.registry import family
from tincleat.ledger.entries import Entry
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.made import Made
from tincleat.project.entities import Value
from tincleat.proof.finding import Finding
from tincleat.units import format_length, format_spacings


def mend(ledger: Ledger, entry: Entry, finding: Finding) -> tuple[str, Value | None] | None:
    """A setting and the value that clears the finding without any new breach; a value of None drops what was typed.

    None when no declared setting can mend it.
    """
    if entry.made is None or entry.connection is None:
        return None
    kind = family(entry.connection.family)
    before = {f.key for f in entry.made.findings if f.level == "breach"}
    numbers = [n.name for n in entry.made.detail.numbers]
    for name in (n for plain in kind.mends.get(finding.rule, ()) for n in (plain, *(k for k in numbers if k.startswith(plain + "/")))):
        for value in _candidates(kind.setting(name), entry, finding, ledger):
            settings = {k: v for k, v in entry.connection.settings.items() if k != name}
            if value is not None:
                settings[name] = value
            try:
                made = ledger.make(entry.joint, kind.name, settings, typical=entry.connection.typical)
            except TinCleatError:
                continue
            if _mended(made, finding, before):
                return name, value
    return None


def _mended(made: Made, finding: Finding, before: set[str]) -> bool:
    bad = {f.key for f in made.findings if f.level == "breach"}
    still = {f.key for f in made.findings if f.level == finding.level}
    return finding.key not in still and not bad - before


def _candidates(setting: Setting, entry: Entry, finding: Finding, ledger: Ledger) -> Iterator[Value | None]:
    assert entry.made is not None and entry.connection is not None
    if setting.name in entry.connection.settings:
        yield None
    house = ledger.project.house
    try:
        now = entry.made.detail.number(setting.name).value
    except KeyError:
        return  # where several members have a value each there is none for all
    inch = house.inch
    step = (1.5875 if "weld" in setting.name or "leg" in setting.name else 3.175) if inch else (1.0 if "weld" in setting.name or "leg" in setting.name else 5.0)
    short = abs(finding.required - finding.actual)
    if setting.kind == "length" and isinstance(now, float | int) and not isinstance(now, bool):
        if "thickness" in setting.name:
            stock = sorted(house.plates, key=lambda t: (abs(t - float(now)), t))
            yield from stock[:5]
            return
        if setting.name == "bolt_length":
            yield math.ceil(finding.required / (6.35 if inch else 5.0)) * (6.35 if inch else 5.0)
            return
        if finding.sense == "is":
            yield finding.required
        for times in (1, 2):
            for sign in (1, -1):
                value = _stepped(float(now) + sign * short * times, step, sign)
                if setting.low <= value <= setting.high and value != now:
                    yield value
        yield _stepped(finding.required, step, 1 if finding.sense == ">=" else -1)
    elif setting.kind == "spacings" and isinstance(now, tuple) and now:
        sign = 1 if finding.sense == ">=" else -1
        limit = _stepped(finding.required, step, sign)
        yield tuple(max(g, limit) if sign > 0 else min(g, limit) for g in now)
        for way in (1, -1):
            yield tuple(_stepped(g + way * short / len(now) * (2 if len(now) == 1 else 1), step, way) for g in now)
        if len(now) > 1:
            yield now[:-1]


def _stepped(value: float, step: float, sign: int) -> float:
    return (math.ceil(value / step - 1e-9) if sign > 0 else math.floor(value / step + 1e-9)) * step


def mend_words(ledger: Ledger, entry: Entry, name: str, value: Value | None) -> str:
    """The mend as the user reads it: ``Plate edge distance 30 → 40``."""
    assert entry.made is not None and entry.connection is not None
    setting = family(entry.connection.family).setting(name)
    if value is None:
        return f"{setting.label} back to default"
    unit = ledger.project.house.units

    def text(v: object) -> str:
        return format_spacings(v, unit) if isinstance(v, tuple) else format_length(float(v), unit) if setting.kind == "length" else str(v)  # type: ignore[arg-type]

    return f"{setting.label} {text(entry.made.detail.number(name).value)} → {text(value)}"
