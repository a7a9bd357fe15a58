"""Counts in words."""


def counted(count: int, noun: str) -> str:
    """A count with its noun, in the plural unless it is one."""
    return f"{count:,} {noun}{'' if count == 1 else 's'}".replace(",", "\N{NARROW NO-BREAK SPACE}")
