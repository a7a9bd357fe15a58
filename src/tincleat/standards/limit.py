"""A limit and the clause that sets it."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Limit:
    """A limit with the clause that sets it."""

    value: float
    clause: str


def governing(limit: Limit, house: float, words: str) -> Limit:
    """The stricter of a standard's least value and the house's own; the clause says which governs."""
    return Limit(house, f"house rule: {words}") if house > limit.value + 1e-9 else limit
