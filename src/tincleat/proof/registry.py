"""All rules, listed by hand: to add one, write its function and put it in its module's RULES."""

from tincleat.details.assembled import Assembled
from tincleat.project.entities import HouseRules
from tincleat.proof import bolts, clash, erection, fittings, plates, plugs, rods, studs, ties, timber, welds
from tincleat.proof.finding import Finding, Rule

RULES: tuple[Rule, ...] = (*bolts.RULES, *welds.RULES, *plates.RULES, *rods.RULES, *ties.RULES, *fittings.RULES, *studs.RULES, *plugs.RULES, *timber.RULES, *erection.RULES, *clash.RULES)


def prove(assembled: Assembled, house: HouseRules) -> tuple[Finding, ...]:
    """Every finding of every rule on one detail, clear ones included."""
    return tuple(finding for rule in RULES for finding in rule.check(assembled, house))
