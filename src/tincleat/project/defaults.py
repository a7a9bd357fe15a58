"""House defaults that belong to units and a rule set, and what bringing them along would change."""

from dataclasses import dataclass
from typing import Any

import msgspec

from tincleat.project.entities import HouseRules, RoundRule, inch_house
from tincleat.units import format_length, is_inch

LABELS = {
    "plate_grade": "Plate grade", "bolt": "Bolts", "bolt_grade": "Bolt grade", "anchor": "Anchor rods", "anchor_grade": "Anchor grade", "plates": "Plate stock", "flats": "Flat bar stock",
    "rounding": "Rounding steps", "notch_clearance": "Notch clearance", "notch_radius": "Notch radius", "weld_gap": "Gap under a weld", "bend_least": "Inside of a bend", "weld_symbols": "Weld symbols", "bars": "Bar lengths",
}  # fmt: skip
RULED = ("plate_grade", "bolt_grade", "anchor_grade", "bend_least", "weld_symbols")  # go with the rule set
SIZES = ("bolt", "anchor")


@dataclass(frozen=True)
class Along:
    """One house default that differs from what goes with the units and rule set: its field, the value kept and the one that fits.

    ``own`` is true where the value kept is nobody's default, so somebody chose it.
    """

    field: str
    now: Any
    then: Any
    own: bool

    @property
    def label(self) -> str:
        """The field in words."""
        return LABELS[self.field]

    def words(self, unit: str) -> str:
        """What would change, in the project's unit."""
        if self.field == "bend_least":
            return f"{self.now:g}  →  {self.then:g} thicknesses"
        return f"{_shown(self.now, unit)}  →  {_shown(self.then, unit)}"


def _shown(value: object, unit: str) -> str:
    if isinstance(value, float):
        return format_length(value, unit, True)
    if isinstance(value, tuple):
        return f"{len(value)} from {format_length(value[0], unit)} to {format_length(value[-1], unit, True)}" if value else "none"
    if isinstance(value, dict):
        return ", ".join(f"{k} {format_length(v.step if isinstance(v, RoundRule) else v, unit, True)}" for k, v in list(value.items())[:3]) + (" …" if len(value) > 3 else "")
    return str(value)


def along(house: HouseRules) -> tuple[Along, ...]:
    """House defaults that are not those of the house's units and rule set.

    Stock, rounding and clearances go with the units; grades go with the rule set; bolt and rod sizes are inch sizes where both are American,
    as EN has none.
    """
    metric, inch = HouseRules(), inch_house("")
    by_units, by_rules = is_inch(house.units), house.rule_set == "AISC"
    out = []
    for field in LABELS:
        american = by_rules if field in RULED else by_units and by_rules if field in SIZES else by_units
        now, then = getattr(house, field), getattr(inch if american else metric, field)
        if now != then:
            out.append(Along(field, now, then, now not in (getattr(metric, field), getattr(inch, field))))
    return tuple(out)


def brought(house: HouseRules) -> dict[str, Any]:
    """The values to give the house's fields so that its defaults go with its units and rule set, as plain data; the office's own stay."""
    fitted = {a.field: a.then for a in along(house) if not a.own}
    plain = msgspec.to_builtins(msgspec.structs.replace(house, **fitted))
    return {field: plain[field] for field in fitted}
