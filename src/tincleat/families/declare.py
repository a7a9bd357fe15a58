"""How a family declares its settings and how their values are found: typed, from a typical, by default, worked out or rounded."""

import difflib
import math
import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, Literal

import numpy as np
import shapely
from msgspec.structs import replace as replace_struct

from tincleat.catalogue.fasteners import HOLE_KINDS, anchor_sizes, bolt_sizes, grade_names
from tincleat.catalogue.sections import section
from tincleat.details.alter import RIGHT, altered, checked
from tincleat.details.parts import Detail, Number, Origin, Plate
from tincleat.errors import BadValue, NoFit, NotFound
from tincleat.families.example import Example
from tincleat.joints.case import Case
from tincleat.lazy import lazy
from tincleat.project.entities import HouseRules, RoundRule, Value
from tincleat.units import format_force, format_length, format_spacings, is_inch, parse_force, parse_length, parse_spacings

SettingKind = Literal["length", "count", "angle", "flag", "choice", "spacings", "numbers", "points", "section", "force", "schedule", "alterations"]
Situation = Literal["feet", "beams", "moment", "bracing", "secondary", "tubes", "splices", "loose"]
FROM_ROW = "@row"  # among settings: the names of those that a schedule's row gave
FROM_TYPICAL = "@typical"  # and of those that a typical gave
SLACK = 0.11  # mm: a limit shown in inches may read back a little beyond itself
Default = Value | None | Callable[[HouseRules], Value | None]


@dataclass(frozen=True)
class Setting:
    """One setting of a family.  A default of None is worked out from the members; limits are inclusive (mm, rad, N, or a count)."""

    name: str
    label: str
    kind: SettingKind
    group: str
    default: Default
    help: str
    low: float = 0.0
    high: float = 10000.0
    choices: tuple[str, ...] = ()
    inches: Value | None = None
    handed: bool = False  # means the other side at a mirror image: a length changes its sign, the first choice is the second
    trades: str = ""  # the setting it trades places with at a mirror image
    corners: int = 3  # points there are at least, of a setting that is some
    each: str = ""  # what it may be typed for one by one, such as ``brace``: ``pitch/2`` is that of the second alone

    def standard(self, house: HouseRules) -> Value | None:
        """The default under these house rules."""
        if callable(self.default):
            return self.default(house)
        return self.inches if self.inches is not None and house.inch else self.default


# every family has it: what is kept on top of what it makes
ALTERED = Setting("@altered", "Alterations", "alterations", "Alterations", "", "Parts and bolts left out and corners cut, on top of what the family makes.")


def other_hand(settings: "Sequence[Setting]", values: Mapping[str, Value]) -> dict[str, Value]:
    """Typed settings as they must be typed at the mirror image of a joint that is its own kin."""
    out = dict(values)
    if ALTERED.name in out:
        out[ALTERED.name] = re.sub(r"\b(near|far)\b", lambda m: "far" if m[0] == "near" else "near", str(out[ALTERED.name]))
    for s in settings:
        if s.trades:
            out.pop(s.name, None)
            if s.trades in values:
                out[s.name] = values[s.trades]
            continue
        value = out.get(s.name)
        if value is None and s.kind == "choice" and isinstance(s.default, str):
            value = s.default  # what nobody typed has a hand too
        if not s.handed or value is None:
            continue
        if s.kind == "choice":
            first, second = s.choices[:2]
            if value in (first, second):
                out[s.name] = second if value == first else first
                if out[s.name] == s.default:
                    del out[s.name]
        else:
            out[s.name] = -float(value) + 0.0  # type: ignore[arg-type]
    return out


def check(setting: Setting, value: object, house: HouseRules | None = None) -> Value:
    """``value`` as the setting's type, inside its limits; raises :class:`BadValue` naming the setting and what would be right."""
    unit = house.units if house else "mm"

    def limits(number: float) -> float:
        if not math.isfinite(number) or not setting.low - SLACK <= number <= setting.high + SLACK:
            told = {"length": format_length, "spacings": format_length, "force": format_force}.get(setting.kind)
            low, high = (told(v, unit, True) if told else f"{v:g}" for v in (setting.low, setting.high))
            shown = told(number, unit, True) if told and math.isfinite(number) else f"{number:g}"
            raise BadValue(f"{shown} is outside its limits", setting.label, f"{low} to {high}")
        return number

    def real(item: object) -> float:
        if isinstance(item, bool) or not isinstance(item, int | float):
            raise BadValue(f"{item!r} is not a number", setting.label, "a number")
        return float(item)

    if setting.kind == "schedule":
        if not isinstance(value, str) or len(value) > 60:
            raise BadValue(f"{value!r:.40} is no mark", setting.label, "the mark of a schedule's row, at most 60 letters")
        return value.strip()
    if setting.kind == "alterations":
        if not isinstance(value, str):
            raise BadValue(f"{value!r:.40} is no text", setting.label, RIGHT)
        return checked(value)
    if setting.kind == "section":
        try:
            return section(str(value)).name
        except NotFound as error:
            raise BadValue(error.what, setting.label, error.right) from None
    if isinstance(value, str) and setting.kind != "choice":
        return parse(setting, value, unit)
    if setting.kind in ("length", "angle", "force"):
        return limits(real(value))
    if setting.kind == "count":
        number = real(value)
        if number != int(number):
            raise BadValue(f"{number:g} is not a whole number", setting.label, "a whole number")
        return int(limits(number))
    if setting.kind == "flag":
        if not isinstance(value, bool):
            raise BadValue(f"{value!r} is neither yes nor no", setting.label, "yes or no")
        return value
    if setting.kind == "choice":
        if value in setting.choices:
            return str(value)
        plain = _plain(str(value))
        if len(same := [c for c in setting.choices if _plain(c) == plain]) == 1:
            return same[0]
        near = setting.choices if len(setting.choices) <= 12 else difflib.get_close_matches(str(value), setting.choices, 5, 0.3) or setting.choices[:5]
        raise BadValue(f"{value!r:.60} is not a choice", setting.label, ("one of " if len(near) == len(setting.choices) else f"one of {len(setting.choices)}, such as ") + ", ".join(near))
    if setting.kind == "points":
        if not isinstance(value, list | tuple) or len(value) % 2 or len(value) < 2 * setting.corners:
            words = ("outline", "three points or more, such as 0,0 200,0 200,150") if setting.corners > 2 else ("line", "two points or more, such as 0,0 200,0")
            raise BadValue(f"{value!r:.60} is no {words[0]}", setting.label, words[1])
        return tuple(limits(real(v)) for v in value)
    if not isinstance(value, list | tuple):
        raise BadValue(f"{value!r} is not a {'list of numbers' if setting.kind == 'numbers' else 'spacing list'}", setting.label, "for example " + ("2 5" if setting.kind == "numbers" else "3@70"))
    if setting.kind == "numbers":
        found = [real(v) for v in value]
        if wrong := [v for v in found if v != int(v)]:
            raise BadValue(f"{wrong[0]:g} is not a whole number", setting.label, "whole numbers such as 2 5")
        return tuple(sorted({int(limits(v)) for v in found}))
    return tuple(limits(real(v)) for v in value)


def _plain(text: str) -> str:
    """A choice's letters, however they are typed."""
    return "".join(c for c in text.lower() if c.isalnum() or c in "./")


def parse(setting: Setting, text: str, unit: str) -> Value:
    """A setting's value from what a user typed; raises :class:`BadValue`."""
    text = text.strip()
    house = HouseRules(units=unit)  # type: ignore[arg-type]
    try:
        if setting.kind == "length":
            return check(setting, parse_length(text, unit), house)
        if setting.kind == "spacings":
            return check(setting, parse_spacings(text, unit), house)
        if setting.kind == "points":
            return check(setting, [parse_length(w, unit) for w in text.replace(";", " ").replace(",", " ").split()], house)
        if setting.kind == "force":
            return check(setting, parse_force(text, unit), house)
        if setting.kind == "numbers":
            return check(setting, [float(w) for w in text.replace(",", " ").split()], house)
        if setting.kind == "angle":
            return check(setting, math.radians(float(text.rstrip("° "))), house)
        if setting.kind == "count":
            return check(setting, float(text), house)
    except BadValue as error:
        raise error if error.where else BadValue(error.what, setting.label, error.right) from None
    except ValueError:
        raise BadValue(f"cannot read {text[:40]!r}", setting.label, "a number") from None
    if setting.kind == "flag":
        if text.lower() in ("yes", "true", "on", "1"):
            return True
        if text.lower() in ("no", "false", "off", "0"):
            return False
        raise BadValue(f"{text!r} is neither yes nor no", setting.label, "yes or no")
    return check(setting, text)


def show(setting: Setting, value: Value, unit: str) -> str:
    """A value as the user reads and types it."""
    if setting.kind == "length":
        return format_length(float(value), unit)  # type: ignore[arg-type]
    if setting.kind == "spacings":
        return format_spacings(value, unit)  # type: ignore[arg-type]
    if setting.kind == "force":
        return format_force(float(value), unit, mark=True)  # type: ignore[arg-type]
    if setting.kind == "points":
        told = [format_length(float(v), unit) for v in value]  # type: ignore[union-attr]
        return " ".join(f"{x},{y}" for x, y in zip(told[::2], told[1::2], strict=True))
    if setting.kind == "numbers":
        return " ".join(f"{v:g}" for v in value)  # type: ignore[union-attr]
    if setting.kind == "angle":
        return f"{math.degrees(float(value)):g}°"  # type: ignore[arg-type]
    return {True: "yes", False: "no"}[value] if isinstance(value, bool) else str(value)


def rounded(value: float, rule: RoundRule | None, flats: tuple[float, ...] = (), tolerance: float = 1e-6) -> float:
    """``value`` (mm) on the rule's step or stock widths; upward never gives less, downward never more than the value."""
    if rule is None or (rule.step <= 0 and not rule.stock):
        return value
    if rule.stock and flats:
        above = [w for w in flats if w >= value - tolerance]
        below = [w for w in flats if w <= value + tolerance]
        up, down = min(above, default=value), max(below, default=value)
    else:
        up = math.ceil(value / rule.step - tolerance) * rule.step
        down = math.floor(value / rule.step + tolerance) * rule.step
    if rule.way == "up":
        return up
    if rule.way == "down":
        return down
    return up if up - value <= value - down else down


class Given:
    """The settings of one connection while its detail is built; remembers where each number came from."""

    def __init__(self, settings: Mapping[str, Setting], typed: Mapping[str, Value], house: HouseRules, origin: Origin = "typed") -> None:
        self.settings, self.typed, self.house, self.origin = settings, typed, house, origin
        self.layers: dict[str, Origin] = dict.fromkeys(str(typed.get(FROM_TYPICAL, "")).split(","), "typical")
        self.layers |= dict.fromkeys(str(typed.get(FROM_ROW, "")).split(","), "schedule")
        self.numbers: dict[str, Number] = {}
        self.one = ""  # of several like members, which this is about

    def each(self, number: int, count: int) -> "Given":
        """The settings for one of ``count`` like members (from 1): what is typed for it alone (``pitch/2``) goes before what is typed for all."""
        alone = f"/{number}"
        mine = {k: v for k, v in self.typed.items() if "/" not in k}
        mine |= {k.removesuffix(alone): v for k, v in self.typed.items() if k.endswith(alone)}
        out = Given(self.settings, mine, self.house, self.origin)
        out.numbers, out.one = self.numbers, alone if count > 1 else ""
        return out

    def named(self, name: str) -> str:
        """What a setting is called for the member this is about: ``pitch/2``, or plainly ``pitch``."""
        return name + self.one if self.settings[name].each else name

    def _note(self, name: str, value: Value, origin: Origin, raw: float = 0.0, rule: str = "") -> Value:
        if origin == self.origin:
            origin = self.layers.get(name, origin)
        self.numbers[self.named(name)] = Number(self.named(name), value, origin, raw, rule)
        return value

    def has(self, name: str) -> bool:
        """Whether the user (or a typical) gave this setting."""
        return name in self.typed

    def offered(self, name: str) -> bool:
        """Whether this setting of points was given; either way it is one that may be typed here."""
        if name not in self.typed:
            self._note(name, (), "default")
        return name in self.typed

    def value(self, name: str) -> Any:
        """The value typed or by default; for settings whose default is never None."""
        if name in self.typed:
            return self._note(name, self.typed[name], self.origin)
        standard = self.settings[name].standard(self.house)
        assert standard is not None, name
        return self._note(name, standard, "default")

    def worked_out(self, name: str, value: Value) -> Any:
        """The value typed, else a default, else the one worked out from the members."""
        if name in self.typed:
            return self._note(name, self.typed[name], self.origin)
        standard = self.settings[name].standard(self.house)
        if standard is not None:
            return self._note(name, standard, "default")
        return self._note(name, value, "worked out")

    def fitted(self, name: str, value: Value, why: str) -> Any:
        """The value typed, else one that was worked out because the default does not fit here; ``why`` says so on the sheet."""
        if name in self.typed:
            return self._note(name, self.typed[name], self.origin)
        standard = self.settings[name].standard(self.house)
        return self._note(name, value, "adapted", float(standard) if isinstance(standard, float | int) else 0.0, why)

    def rounded(self, name: str, raw: float, kind: str) -> float:
        """A size typed, or ``raw`` brought to the house rule of a dimension kind."""
        if name in self.typed:
            return float(self._note(name, self.typed[name], self.origin))  # type: ignore[arg-type]
        kind, rule = self.house.rounding_of(kind)
        value = rounded(raw, rule, self.house.flats)
        if rule is None or abs(value - raw) < 1e-9:
            return float(self._note(name, value, "worked out", raw))  # type: ignore[arg-type]
        return float(self._note(name, value, "rounded", raw, rule_words(kind, rule, self.house.units)))  # type: ignore[arg-type]


def rule_words(kind: str, rule: RoundRule, unit: str) -> str:
    """A rounding rule in words."""
    target = "flat-bar stock" if rule.stock else f"steps of {format_length(rule.step, unit if is_inch(unit) else 'mm', mark=True)}"
    return f"{kind} {rule.way} to {target}"


@dataclass(frozen=True)
class Family:
    """A kind of connection.  ``fits`` raises NoFit with the joint's figures; ``build`` is pure; ``mends`` names settings that can mend a rule's breach."""

    name: str
    label: str
    words: tuple[str, ...]
    kinds: tuple[str, ...]
    settings: tuple[Setting, ...]
    fits: Callable[[Case, HouseRules], None]
    build: Callable[[Case, Given], Detail]
    mends: Mapping[str, tuple[str, ...]]
    shares: int = 1  # member ends of one node that one connection may take at most
    deed: str = ""  # what placing it is called, where "Place ..." would not say it
    each: Callable[[Case], list[tuple[int, ...]]] | None = None  # the members' numbers of each thing that settings may be typed for alone
    timber: bool = False  # whether it takes members of timber
    pointed: tuple[str, ...] = ()  # kinds of joint it takes where it is pointed at, but leaves to others when placed everywhere
    situations: tuple[Situation, ...] = field(kw_only=True)  # where in a frame it is looked for, the likeliest first
    parts: int = 0  # how many parts it may list, each with settings of its own, if what it makes is such a list
    sees: bool = False  # whether it is built with the plates that connections of other families have put nearby
    example: Example | None = field(default=None, kw_only=True)  # where it is seen when a model has no place for it

    @lazy
    def scheduled(self) -> str:
        """The setting by which it names its row of a schedule; empty if it takes none."""
        return next((s.name for s in self.settings if s.kind == "schedule"), "")

    @property
    def placing(self) -> str:
        """What placing it is called: ``Place fin plate``."""
        return self.deed or f"Place {self.label.lower()}"

    @lazy
    def by_name(self) -> dict[str, Setting]:
        """The settings by their names."""
        return {s.name: s for s in self.settings}

    def setting(self, name: str) -> Setting:
        """The declaration of a setting; raises :class:`NotFound` with the names there are."""
        if name == ALTERED.name:
            return ALTERED
        plain, _, which = name.partition("/")
        s = self.by_name.get(plain)
        if s is not None and (not which or (s.each and which.isdigit() and 1 <= int(which) <= max(self.shares, self.parts))):
            if self.parts and which:
                return replace(s, name=name, group=f"{s.each} {which}")
            return replace(s, name=name, label=f"{s.label}, {s.each} {which}") if which else s
        raise NotFound(f"{self.label} has no setting {name!r}", right="one of " + ", ".join(s.name for s in self.settings))

    def alone(self, name: str) -> bool:
        """Whether a setting is for one of several members alone: it belongs to the place, not to a typical."""
        return "/" in name and not self.parts

    def settings_in(self, detail: Detail) -> list[Setting]:
        """The settings of a detail: all there are, each followed by those of single members where the detail has several."""
        there = {n.name for n in detail.numbers if "/" in n.name}
        if self.parts:  # a list: part by part
            order = {s.name: i for i, s in enumerate(self.settings)}
            whole = [s for s in self.settings if not s.each]
            return whole + [self.setting(n) for n in sorted(there, key=lambda n: (int(n.partition("/")[2]), order[n.partition("/")[0]]))]
        out: list[Setting] = []
        for s in self.settings:
            out.append(s)
            out += [self.setting(name) for name in sorted(there) if name.partition("/")[0] == s.name]
        return out

    def idle(self, detail: Detail, names: Iterable[str]) -> list[str]:
        """Of named settings those that a detail made no use of: what they would shape is not there."""
        used = {n.name for n in detail.numbers}
        used |= {name.partition("/")[0] for name in used}
        return [name for name in names if name not in used]

    def checked(self, values: Mapping[str, object], house: HouseRules) -> dict[str, Value]:
        """All values checked against their declarations; None drops a value back to its default."""
        return {name: check(self.setting(name), value, house) for name, value in values.items() if value is not None}

    def detail(self, case: Case, typed: Mapping[str, Value], house: HouseRules, origin: Origin = "typed") -> Detail:
        """Build the detail; raises :class:`NoFit` when the family does not suit the case."""
        if not self.timber and (wood := next((m for m in case.members if m.shape.timber), None)) is not None:
            raise NoFit(f"{wood.shape.name} is timber", right="a timber seat, or steel")
        self.fits(case, house)
        detail = self.build(case, Given(self.by_name, typed, house, origin))
        if text := str(typed.get(ALTERED.name, "")):
            detail = altered(detail, text)
            detail = replace_struct(detail, numbers=(*detail.numbers, Number(ALTERED.name, text, origin)))
        for plate in detail.flats:
            _check_holes(plate, self.label, house.units)
        return detail


def _check_holes(plate: Plate, label: str, unit: str) -> None:
    """Raise BadValue if a hole runs over its plate's edge or into another hole: such a plate cannot be cut."""
    if not plate.holes:
        return
    centres = np.array([(h.x, h.y) for h in plate.holes])
    reach = np.array([h.length / 2 for h in plate.holes])
    if plate.outline.plain:
        x0, y0, x1, y1 = plate.outline.bounds
        far = np.minimum((centres - (x0, y0)).min(axis=1), ((x1, y1) - centres).min(axis=1))
        inside = far > 0
    else:
        outline = plate.outline.polygon()
        far = shapely.distance(outline.exterior, shapely.points(centres))
        inside = shapely.contains_xy(outline, centres[:, 0], centres[:, 1])
    width = np.array([h.width / 2 for h in plate.holes])
    over = ~inside | (far < width - 1e-6)
    if over.any():
        i = int(np.flatnonzero(over)[0])
        size = format_length(2 * width[i], unit, mark=True)
        raise BadValue(f"a {size} hole runs over the edge of the {plate.name}", label, "a larger plate, or rows and lines closer together")
    if (reach > width + 1e-6).any():
        shapes, outline = [h.outline.polygon() for h in plate.holes], plate.outline.polygon()
        if not all(outline.contains(s) for s in shapes):
            raise BadValue(f"a slot runs over the edge of the {plate.name}", label, "a larger plate, shorter slots, or rows and lines closer together")
        pairs = shapely.STRtree(shapes).query(shapes, predicate="intersects")
        if (pairs[0] != pairs[1]).any():
            raise BadValue(f"slots of the {plate.name} run into each other", label, "larger spacings or shorter slots")
    gap = np.hypot(*(centres[:, None] - centres[None]).transpose(2, 0, 1)) + np.eye(len(reach)) * 1e9
    if (gap < width[:, None] + width[None] - 1e-6).any():
        raise BadValue(f"holes of the {plate.name} run into each other", label, "larger spacings or smaller holes")


def bolt_choice(house: HouseRules) -> Value:
    """The house's bolt size as a default."""
    return house.bolt


BOLT_SIZES = tuple(bolt_sizes())
ANCHOR_SIZES = tuple(anchor_sizes())
BOLT_GRADES = grade_names("bolt_grades", "bolt")
ANCHOR_GRADES = grade_names("bolt_grades", "anchor")
STEEL_GRADES = grade_names("grades")
HOLES = tuple(str(k) for k in HOLE_KINDS)
