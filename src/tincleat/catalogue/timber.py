"""Timber members: which grades there are, and what they weigh.  Timber is carried by steel here, never cut or welded as steel is."""

from functools import cache

from tincleat.catalogue.sections import STEEL_DENSITY, Section
from tincleat.catalogue.tables import number, rows
from tincleat.errors import BadValue


@cache
def timber_grades() -> dict[str, float]:
    """Density in kg/mm³ by grade."""
    return {r["grade"]: number(r, "density") * 1e-9 for r in rows("timber")}


def density(shape: Section, grade: str) -> float:
    """Density in kg/mm³ of a member: its timber grade's, or steel's."""
    return timber_grades().get(grade, 420e-9) if shape.timber else STEEL_DENSITY


def check_material(shape: Section, grade: str) -> None:
    """Raise BadValue where a timber section has a steel grade, or a steel one a grade of timber."""
    if shape.timber and grade not in timber_grades():
        raise BadValue(f"{shape.name} is timber, {grade!r} is none of its grades", right="one of " + ", ".join(timber_grades()))
    if not shape.timber and grade in timber_grades():
        raise BadValue(f"{shape.name} is steel, {grade!r} is a grade of timber", right="a steel grade, such as S355 or A992")
