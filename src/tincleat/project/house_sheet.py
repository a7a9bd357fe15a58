"""Every house rule declared once: what it is called and for, its limits, how it is shown and typed; for the page, the command line and the check."""

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal, get_args

import msgspec

from tincleat.catalogue.fasteners import anchor_sizes, bolt_size, bolt_sizes, grade_names, hole_size
from tincleat.errors import BadValue, NotFound
from tincleat.project.defaults import RULED
from tincleat.project.entities import MARKS, ROUND_AS_MADE, ROUND_WIDER, HouseRules, Role, RoundRule, RoundWay, RuleSet, Units, WeldSymbols, inch_house
from tincleat.units import format_length, format_volume, is_inch, parse_length

RuleKind = Literal["names", "text", "choice", "flag", "length", "number", "sizes", "step", "letters", "volume"]
WAYS: tuple[RoundWay, ...] = get_args(RoundWay)
FLAT_BARS = "flat bars"
NONE = "none"
LONGEST_PREFIX = 6
# kinds of joint that may be meant to have no connection
PLAIN_ENDS = (
    "column head", "column under beam", "free end", "sloping foot", "post beside", "near miss", "column foot", "post on beam", "column splice", "beam to column flange", "beam to column web",
    "beam to hollow face", "beam to beam web", "beam on flange", "knee", "apex", "splice", "corner", "brace end", "brace on flange", "lap",
)  # fmt: skip
BARS = {"I": "I-sections", "C": "channels", "T": "tees", "L": "angles", "RHS": "rectangular tubes", "CHS": "round tubes", "FL": "flats", "RD": "round bars", "Z": "zeds", "CF": "cold-formed channels"}
OF_PROJECT = ("title", "units", "dual", "rule_set", "north_deg", "plain")  # a project's own, not an office's: no difference from a standard
BOTH = ("bolt", "anchor")  # inch sizes only where both are American, as EN has none


@dataclass(frozen=True)
class HouseRule:
    """One house rule.  ``name`` is a field of the house rules, or ``field/key`` for one of a table; limits are inclusive (mm, mm³, or plain)."""

    name: str
    label: str
    kind: RuleKind
    group: str
    help: str
    low: float = 0.0
    high: float = 1000.0
    choices: tuple[str, ...] = ()
    unit: str = ""  # what a plain number counts

    def measured(self, house: HouseRules) -> str:
        """In what its value is shown and typed; empty where it has no unit, or bears it as inches do."""
        return self.unit or (house.units if self.kind in ("length", "sizes", "step") and not is_inch(house.units) else "")

    def value(self, house: HouseRules) -> Any:
        """What the house rules say; None where a table has no such row."""
        field, _, key = self.name.partition("/")
        found = getattr(house, field)
        return found.get(key) if key else found

    def put(self, house: HouseRules, value: Any) -> HouseRules:
        """The house rules with another value; None takes a row out of its table."""
        field, _, key = self.name.partition("/")
        if key:
            table = {k: v for k, v in getattr(house, field).items() if k != key}
            value = table if value is None else {**table, key: value}
        return msgspec.structs.replace(house, **{field: value})

    def shown(self, house: HouseRules) -> str:
        """The value as it is shown and may be typed."""
        value, unit = self.value(house), house.units
        if self.kind == "names":
            return ", ".join(value) or NONE
        if value is None or value == "":
            return self._without(house)
        if self.kind == "flag":
            return "yes" if value else "no"
        if self.kind == "length":
            return format_length(value, unit)
        if self.kind == "volume":
            return format_volume(value, unit)
        if self.kind == "number":
            return f"{value:g}"
        if self.kind == "sizes":
            return ", ".join(format_length(v, unit) for v in value) or NONE
        if self.kind == "step":
            return f"{FLAT_BARS} {value.way}" if value.stock else f"{format_length(value.step, unit)} {value.way}" if value.step else NONE
        return str(value)

    def _without(self, house: HouseRules) -> str:
        field, _, key = self.name.partition("/")
        if field == "rounding":
            if key in ROUND_AS_MADE:
                return "as worked out"
            wider, rule = house.rounding_of(key)
            return f"as {wider}" if rule is not None and wider != key else NONE
        if field == "holes":
            width, _ = hole_size(house.rule_set, key, "normal")
            return f"as the standard, {format_length(width - bolt_size(key).d, house.units)}"
        return "" if field != "marks" or key in MARKS else f"as {'member' if key in get_args(Role) else NONE}"

    def typed(self, text: str, house: HouseRules) -> Any:
        """The value of a typed text; raises BadValue naming the rule and what would be right."""
        text, unit = text.strip(), house.units
        if self.kind == "flag":
            if text.lower() not in ("yes", "no"):
                raise BadValue(f"{text!r:.40} is neither yes nor no", self.label, "yes or no")
            return text.lower() == "yes"
        if self.kind in ("text", "letters", "choice"):
            if self.name.startswith("marks/") and (not text or text == self._without(house)):
                return None
            return text
        if self.name.startswith("holes/") and (not text or text == self._without(house)):
            return None
        if self.kind == "names":
            return tuple(dict.fromkeys(p.strip().lower() for p in text.split(",") if p.strip())) if text != NONE else ()
        if self.kind == "sizes":
            parts = [p.strip() for p in text.replace(";", ",").split(",")]
            return tuple(sorted({parse_length(p, unit) for p in parts if p})) if text != NONE else ()
        if self.kind == "step":
            return self._step(text, house)
        if self.kind == "length":
            return parse_length(text, unit)
        if self.kind == "volume" and is_inch(unit):
            text = text.removesuffix("in³").strip()
            return self._number(text) * 25.4**3
        return self._number(text.removesuffix("mm³").strip())

    def _number(self, text: str) -> float:
        try:
            return float(text)
        except ValueError:
            raise BadValue(f"{text!r:.40} is not a number", self.label, "a number") from None

    def _step(self, text: str, house: HouseRules) -> RoundRule | None:
        """A step with a way (``5 up``), ``flat bars down``, ``none``, or nothing for the wider kind's rule."""
        right = f"a step and a way such as {format_length(6.35 if is_inch(house.units) else 5.0, house.units)} up, {FLAT_BARS} down, or {NONE}"
        if not text or (text == self._without(house) and text != NONE):
            return None
        if text.lower() == NONE:
            return RoundRule(0.0)
        head, _, way = text.rpartition(" ")
        if way.lower() not in WAYS:
            head, way = text, "up"
        way_: Any = way.lower()
        if head.strip().lower() == FLAT_BARS:
            now = self.value(house)  # a step beside the stock says nothing; it stays
            return RoundRule(now.step if now is not None else 0.0, way_, True)
        try:
            return RoundRule(parse_length(head.strip(), house.units), way_)
        except BadValue:
            raise BadValue(f"{text!r:.40} is no rounding rule", self.label, right) from None

    def check(self, house: HouseRules) -> None:
        """Raise BadValue, naming the rule and what would be right, unless what the house rules say is inside its limits."""
        value = self.value(house)
        if value is None:
            return
        if self.kind == "choice" and value not in self.choices:
            raise BadValue(f"{value!r:.40} is not a choice", self.label, "one of " + ", ".join(self.choices[:12]) + (" …" if len(self.choices) > 12 else ""))
        if self.kind == "names" and (strange := [v for v in value if v not in self.choices]):
            raise BadValue(f"{strange[0]!r:.40} is not among the choices", self.label, "one of " + ", ".join(self.choices))
        if self.kind == "letters" and (len(value) > LONGEST_PREFIX or not (value.isprintable() and value.isascii()) or any(c.isspace() for c in value)):
            raise BadValue(f"{value!r:.40} is no beginning of a mark", self.label, f"at most {LONGEST_PREFIX} letters, figures and signs without spaces")
        numbers = value if self.kind == "sizes" else (value.step,) if self.kind == "step" else (value,) if self.kind in ("length", "number", "volume") else ()
        for number in numbers:
            if not math.isfinite(number) or not self.low <= number <= self.high or (self.kind == "sizes" and number <= 0):
                told = {"sizes": format_length, "step": format_length, "length": format_length, "volume": format_volume}.get(self.kind)
                low, high, now = (told(v, house.units) if told and math.isfinite(v) else f"{v:g}" for v in (self.low, self.high, number))
                raise BadValue(f"{now} is outside its limits", self.label, f"{'over ' if self.kind == 'sizes' else ''}{low} to {high}")


def _rounding(kind: str, help_: str) -> HouseRule:
    return HouseRule(f"rounding/{kind}", kind.capitalize(), "step", "Rounding", help_ + " A step and a way such as 5 up; flat bars down; none.")


RULES: tuple[HouseRule, ...] = (
    HouseRule("title", "Title", "text", "Project", "The name of the project, on sheets and reports."),
    HouseRule("units", "Units", "choice", "Project", "Unit of what is shown, and of plain numbers that are typed.", choices=get_args(Units)),
    HouseRule("dual", "Both systems on sheets", "flag", "Project", "Dimensions on sheets have inches behind millimetres, or millimetres behind inches, in brackets; beside the model, where a sheet is narrow, when pointed at."),
    HouseRule("north_deg", "North", "number", "Project", "Where north lies in plan, degrees counter-clockwise from the x axis; 90 is up the page.", -360, 360, unit="degrees"),
    HouseRule("rule_set", "Rule set", "choice", "Standard", "EN 1993-1-8 with EN 1090-2, or AISC 360 with RCSC and AWS D1.1.", choices=get_args(RuleSet)),
    HouseRule("exposed", "Exposed to weather", "flag", "Standard", "Steel out of doors has greatest edge distances and spacings too."),
    HouseRule("spacing_factor", "Spacing at least", "number", "Standard", "Bolt diameters between bolts, where the standard asks for less; 0 for none.", unit="bolt diameters"),
    HouseRule("end_factor", "End and edge at least", "number", "Standard", "Bolt diameters from a bolt to an edge, where the standard asks for less; 0 for none.", unit="bolt diameters"),
    HouseRule("bend_least", "Inside of a bend at least", "number", "Standard", "Plate thicknesses of the inside radius of a cold bend.", 0, 100, unit="thicknesses"),
    HouseRule("plain", "Ends left plain", "names", "Standard", "Kinds of joint that are meant to have no connection, parted by commas, such as column head; none for none.", choices=PLAIN_ENDS),
    HouseRule("clash_volume", "Overlap allowed", "volume", "Standard", "What two bodies may share before they count as being inside each other.", 0, 1e6),
    HouseRule("clash_depth", "Depth of overlap", "length", "Standard", "How deep one body may lie in another before what they share counts: steel that is not quite square to its neighbour.", 0.01, 5),
    HouseRule("plate_grade", "Plate grade", "choice", "Defaults", "Steel grade of plates, unless a detail says otherwise.", choices=grade_names("grades")),
    HouseRule("bolt", "Bolts", "choice", "Defaults", "Size of bolts, unless a detail says otherwise.", choices=tuple(bolt_sizes())),
    HouseRule("bolt_grade", "Bolt grade", "choice", "Defaults", "Strength class of bolts.", choices=grade_names("bolt_grades", "bolt")),
    HouseRule("anchor", "Anchor rods", "choice", "Defaults", "Size of anchor rods.", choices=tuple(anchor_sizes())),
    HouseRule("anchor_grade", "Anchor grade", "choice", "Defaults", "Grade of anchor rods.", choices=grade_names("bolt_grades", "anchor")),
    HouseRule("two_rows_from", "Two rows from depth", "length", "Defaults", "Depth of beam from which it gets two rows of bolts at least.", 0, 10000),
    HouseRule("plates", "Plates", "sizes", "Stock", "Thicknesses of plate that are stocked, parted by commas; none for any.", 0, 2000),
    HouseRule("flats", "Flat bars", "sizes", "Stock", "Widths of flat bar that are stocked, parted by commas.", 0, 2000),
    HouseRule("bolt_lengths", "Lengths of bolts", "sizes", "Stock", "Lengths of bolts that are stocked, parted by commas; none for every usual one. Longer grips get a usual length, and a note.", 0, 3000),
    *(HouseRule(f"bars/{shape}", f"Bars of {words}", "length", "Stock", f"Longest bar of {words} that is delivered.", 500, 60000) for shape, words in BARS.items()),
    _rounding("plate width", "Width of plates."),
    _rounding("plate length", "Length or height of plates."),
    *(_rounding(kind, f"{kind.capitalize()}; without a rule as {wider}.") for kind, wider in ROUND_WIDER.items()),
    *(_rounding(kind, f"{kind.capitalize()}; without a rule as worked out, to 5 mm or a quarter inch at least.") for kind in ROUND_AS_MADE),
    _rounding("base plate", "Both extents of base plates, foot plates and bearing plates."),
    _rounding("stiffener", "Width of stiffeners."),
    _rounding("notch", "Length and depth of notches."),
    _rounding("weld leg", "Leg of fillets."),
    HouseRule("notch_clearance", "Notch clearance", "length", "Clearances", "Clear from a notch to the flange it passes."),
    HouseRule("notch_radius", "Notch radius", "length", "Clearances", "Radius in the corner of a notch."),
    HouseRule("notch_most", "Notch at most", "number", "Clearances", "Share of a member's depth that a notch may take.", 0, 1, unit="of the depth"),
    HouseRule("tighten_room", "More room to tighten", "length", "Clearances", "Kept free beside every bolt's head and nut, besides what its socket needs.", 0, 100),
    HouseRule("weld_gap", "Gap under a weld", "length", "Clearances", "Greatest gap that a fillet may bridge.", 0, 20),
    *(HouseRule(f"holes/{size}", f"Clearance of {size} holes", "length", "Clearances", f"How much larger than {size} bolts normal holes are; empty for the standard's.", 0, 20) for size in bolt_sizes()),
    *(HouseRule(f"marks/{what}", f"Marks of {what}s", "letters", "Marks", f"Letters before the number of a {what}'s mark.") for what in MARKS),
    *(HouseRule(f"marks/{role}", f"Marks of {role} members" if role == "other" else f"Marks of {role}s", "letters", "Marks", "Letters before the number; empty as any member.") for role in get_args(Role)),
    HouseRule("mark_start", "First number", "number", "Marks", "Where the numbers of marks begin.", 0, 100000),
    HouseRule("weld_symbols", "Weld symbols", "choice", "Welding", "By which standard symbols are drawn on sheets: with a dashed line for the other side, or the arrow's side under the line.", choices=get_args(WeldSymbols)),
    HouseRule("bevel_most", "Steepest bevel", "number", "Welding", "Off square, that the shop's machine cuts a plate's edge at; 0 for any. Steeper ones get a note.", 0, 90, unit="degrees"),
    HouseRule("weld_surplus", "Weld metal besides", "number", "Welding", "Share of the drawn volume of welds that is deposited besides: reinforcement, gaps, what is lost.", 0, 5, unit="of the volume"),
    HouseRule("weld_rate_shop", "Welded in the shop", "number", "Welding", "Weld metal deposited an hour in the shop, pauses included.", 0.01, 100, unit="kg an hour"),
    HouseRule("weld_rate_site", "Welded on site", "number", "Welding", "Weld metal deposited an hour on site, pauses included.", 0.01, 100, unit="kg an hour"),
    HouseRule("mark_separator", "Between letters and number", "letters", "Marks", "What stands between the letters and the number of a mark; empty for nothing."),
)  # fmt: skip


def house_rule(name: str) -> HouseRule:
    """The house rule of a name; raises NotFound with those there are."""
    found = next((r for r in RULES if r.name == name), None)
    if found is None:
        raise NotFound(f"there is no house rule {name!r:.60}", right="one of " + ", ".join(r.name for r in RULES[:10]) + " … (house-rules lists them)")
    return found


def standard(house: HouseRules) -> HouseRules:
    """The house rules that go with another's units and rule set, with its own title, north and plain ends: what a new project of the kind has."""
    metric, inch = HouseRules(), inch_house("")
    by_units, by_rules = is_inch(house.units), house.rule_set == "AISC"

    def american(field: str) -> bool:
        return by_rules if field in RULED else by_units and by_rules if field in BOTH else by_units

    values = {f: getattr(house if f in OF_PROJECT or f == "id" else inch if american(f) else metric, f) for f in HouseRules.__struct_fields__}
    return HouseRules(**values)


def differing(house: HouseRules, other: HouseRules) -> list[HouseRule]:
    """The rules, a project's own left out, whose values are not those of other house rules."""
    return [r for r in RULES if r.name not in OF_PROJECT and r.value(house) != r.value(other)]


def checked(house: HouseRules, changed: Callable[[str], bool] = lambda field: True) -> None:
    """Raise BadValue for the first rule outside its limits, among the fields that ``changed``."""
    for rule in RULES:
        if changed(rule.name.partition("/")[0]):
            rule.check(house)
    known = {r.name for r in RULES}
    for field in ("rounding", "bars", "marks", "holes"):
        for key in getattr(house, field) if changed(field) else ():
            if f"{field}/{key}" not in known:
                raise BadValue(f"{key!r:.40} is nothing that {field} are kept for", "house rules", "one of " + ", ".join(n.partition("/")[2] for n in known if n.startswith(field + "/")))
