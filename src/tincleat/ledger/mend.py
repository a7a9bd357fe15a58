"""Find one setting that mends a breach: candidates are really built and proved, and taken only if nothing else breaks."""

import math
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence

import msgspec

from tincleat.errors import TinCleatError
from tincleat.families.declare import Setting
from tincleat.families.registry import family
from tincleat.ledger.entries import Entry
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.made import Made
from tincleat.project.entities import Value
from tincleat.project.project import inverse
from tincleat.proof.finding import Finding
from tincleat.units import format_length, format_spacings

ASIDES = 8  # steps either way that parts are moved to come clear of others


def mend(ledger: Ledger, entry: Entry, finding: Finding) -> tuple[str, Value | None] | None:
    """A setting and the value that clears the finding without any new breach; a value of None drops what was typed.

    None when no declared setting can mend it.
    """
    if entry.made is None or entry.connection is None:
        return None
    if finding.rule == "clash" and all(f.key != finding.key for f in entry.made.findings):
        return part(ledger.beside(), entry)
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


def part(scratch: Ledger, entry: Entry, first: "Sequence[tuple[str, Value]]" = (), keep: Collection[str] = ()) -> tuple[str, Value] | None:
    """A setting and the value by which a connection's parts come clear of what stands near it, nothing else broken; None where there is none.

    Each is really set in ``scratch``, a ledger beside the one in use: neighbours that look at each other's plates are made anew for it.
    What was found stays set there.  ``first`` are tried before all others: what did for another of its kind.  ``keep`` are
    settings that stay as they are.
    """
    connection = entry.connection
    if entry.made is None or connection is None or entry.problem:
        return None
    kind = family(connection.family)
    if not (names := kind.mends.get("clash", ())):
        return None
    near = {entry.joint.key, *(e.joint.key for e in scratch.entries.near(entry))}
    if not any(rule == "clash" for _, rule in _breaches(scratch.entries, near)):
        return None
    whole = dict(scratch.entries)
    for name, value in (*first, *((n, v) for n in names for v in _asides(kind.setting(n), entry))):
        if name in keep:
            continue
        try:
            scratch.make(entry.joint, kind.name, {**connection.settings, name: value}, typical=connection.typical)
        except TinCleatError:
            continue
        made = scratch.project.put(msgspec.structs.replace(connection, settings={**connection.settings, name: value}))
        scratch.project.apply(made)
        keys = near | scratch.changed(made)
        before, after = _breaches(whole, keys), _breaches(scratch.entries, keys)
        if not any(rule == "clash" for _, rule in after) and after <= before:
            return name, value
        scratch.project.apply(inverse(made))
        scratch.changed(inverse(made))
    return None


def _breaches(entries: Mapping[str, Entry], keys: Iterable[str]) -> set[tuple[str, str]]:
    """What is in breach at some joints: by joint and rule."""
    return {(k, f.rule) for k in keys if k in entries for f in entries[k].findings if f.level == "breach"}


def _asides(setting: Setting, entry: Entry) -> Iterator[Value]:
    """Other values of a setting that moves parts, the nearest first."""
    assert entry.made is not None
    try:
        now = entry.made.detail.number(setting.name).value
    except KeyError:
        return
    if setting.kind == "choice":
        yield from (c for c in setting.choices if c != now)
    elif setting.kind == "length" and isinstance(now, float | int) and not isinstance(now, bool) and now:
        step = 25.4 if entry.made.house.inch else 25.0
        for k in range(1, ASIDES + 1):
            for way in (1, -1):
                value = _stepped(float(now) + way * k * step, step, way)
                if setting.low < value <= setting.high:
                    yield value


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
