"""Left plain: a member end that is meant to have no connection, such as a column's head above its last beam or a cantilever's tip."""

from tincleat.details.parts import Detail
from tincleat.errors import NoFit
from tincleat.families.declare import Family, Given
from tincleat.joints.case import PLACED, Case
from tincleat.project.entities import HouseRules
from tincleat.project.house_sheet import PLAIN_ENDS

KINDS = (*PLAIN_ENDS, "crossing")


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit at a place that is there only because something was put there."""
    if case.kind in PLACED and not case.all("over-"):
        raise NoFit(f"a {case.kind} has no end to leave plain", right="a member's end")


def build(case: Case, given: Given) -> Detail:
    """Nothing: the end stays as it was drawn."""
    return Detail("left plain")


FAMILY = Family("left-plain", "Left plain", ("plain end", "no connection", "nothing here", "leave open"), KINDS, (), fits, build, {}, deed="Leave plain", timber=True, situations=("loose",))
