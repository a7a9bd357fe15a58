"""Counts in words."""


def counted(count: int, noun: str, several: str = "") -> str:
    """A count with its noun, in the plural (``several``, or with an s) unless it is one."""
    return f"{count:,} {noun if count == 1 else several or noun + 's'}".replace(",", "\N{NARROW NO-BREAK SPACE}")
