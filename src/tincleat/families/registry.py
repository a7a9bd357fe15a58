"""All families, listed by hand: to add one, write its file and put its FAMILY here."""

from tincleat.errors import NotFound
from tincleat.families import base_plate, fin_plate
from tincleat.families.declare import Family

FAMILIES: dict[str, Family] = {f.name: f for f in (base_plate.FAMILY, fin_plate.FAMILY)}


def family(name: str) -> Family:
    """The family called ``name``; raises :class:`NotFound` with the names there are."""
    try:
        return FAMILIES[name]
    except KeyError:
        raise NotFound(f"there is no family {name!r}", right="one of " + ", ".join(FAMILIES)) from None
