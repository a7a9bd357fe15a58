"""Which layer a number of a detail comes from: the program's standard, the house rules, a typical, a schedule's row, what was typed, or the shapes."""

from dataclasses import dataclass
from typing import Any

from tincleat.details.parts import Number
from tincleat.families.declare import Setting
from tincleat.families.registry import FAMILIES
from tincleat.ledger.entries import Entry
from tincleat.project.entities import HouseRules
from tincleat.project.house_sheet import RULES, house_rule
from tincleat.project.project import Project
from tincleat.units import format_length


@dataclass(frozen=True)
class Layer:
    """Where a number comes from, in words; the name of the house rule or the id of the typical that says it, if one does."""

    words: str
    rule: str = ""
    typical: str = ""


def layer(project: Project, entry: Entry, name: str) -> Layer:
    """The layer that a setting's value of a placed detail comes from."""
    assert entry.made is not None and entry.connection is not None
    setting, c, house = FAMILIES[entry.connection.family].setting(name), entry.connection, project.house
    try:
        number = entry.made.detail.number(name)
    except KeyError:
        return Layer("not in use as the detail is now")
    if name in c.settings and number.origin != "adapted":
        return Layer("typed here")
    if number.origin == "typical" and c.typical in project.typicals:
        return Layer(f"from the typical {project.typicals[c.typical].name}", typical=c.typical)
    if number.origin == "schedule":
        return Layer("from the schedule's row")
    if number.origin == "rounded":
        kind = max((r.name.partition("/")[2] for r in RULES if r.name.startswith("rounding/") and number.rule.startswith(r.name.partition("/")[2])), key=len, default="")
        return Layer(f"rounded from {format_length(number.raw, house.units)} by the house rule {number.rule}", f"rounding/{kind}" if kind else "")
    if number.origin == "adapted":
        return Layer(f"adapted: {number.rule}" if number.rule else "adapted to the place")
    if number.origin == "default":
        return _default(setting, number, house)
    return Layer("worked out from the members")


def _default(setting: Setting, number: Number, house: HouseRules) -> Layer:
    """A default that a house rule says, by name; else the program's own."""
    if callable(setting.default):
        seen = _Seen(house)
        setting.default(seen)  # type: ignore[arg-type]
        named = next((f for f in seen.read if any(r.name == f for r in RULES)), "")
        if named:
            return Layer(f"the house rule {house_rule(named).label.lower()}", named)
    return Layer("the program's standard" + (" in inches" if setting.inches is not None and house.inch else ""))


class _Seen:
    """House rules that note which of them were read."""

    def __init__(self, house: HouseRules) -> None:
        self._house, self.read = house, []  # type: ignore[var-annotated]

    def __getattr__(self, name: str) -> Any:
        self.read.append(name)
        return getattr(self._house, name)
