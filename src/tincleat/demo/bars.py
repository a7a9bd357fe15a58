"""A member of a demo, as ``add-members`` takes it."""

from typing import Any

Point = tuple[float, float, float]


def bar(role: str, section: str, start: Point, end: Point, name: str, **more: Any) -> dict[str, Any]:
    """A member by role, section, two points (mm) and name, with whatever else is said of it."""
    return {"role": role, "section": section, "start": list(start), "end": list(end), "name": name, **more}
