"""Which row of a schedule a connection takes its settings from, and whether the joint is the one the row was written for."""

from collections.abc import Callable, Mapping

from tincleat.errors import NoFit
from tincleat.families.declare import FROM_ROW
from tincleat.geometry.frames import Vec3
from tincleat.joints.case import Joint
from tincleat.project.entities import Value
from tincleat.project.project import Project
from tincleat.units import format_level

NEAR = 1.0  # mm that a beam's top may lie off its row's level
NO_ROW = "none"
FIGURES = ("beam", "level", "beams")  # of a row: they tell where it belongs, and are no settings
Row = tuple[str, Mapping[str, Value]]


def rows_of(project: Project, family: str) -> list[Row]:
    """All rows of a family's schedules."""
    return [row for s in project.schedules.values() if s.family == family for row in s.rows]


def with_row(project: Project, joint: Joint, family: str, by: str, settings: Mapping[str, Value], beams_at: Callable[[Joint], int]) -> dict[str, Value]:
    """A connection's settings with those of its row under them; raises NoFit with the figures that differ where no row is for this joint."""
    rows = rows_of(project, family)
    mark = str(settings.get(by, ""))
    if mark == NO_ROW or (not rows and not mark):
        return dict(settings)
    if not rows:
        raise NoFit(f"row {mark!r} is wanted, and no schedule for this family is loaded", right=f"load-schedule, or {by} {NO_ROW!r}")
    told = _told(joint, beams_at)
    if mark:
        named = [r for r in rows if r[0] == mark]
        if not named:
            raise NoFit(f"no row of the schedule is called {mark!r}", right="one of " + ", ".join(r[0] for r in rows[:12]) + (" …" if len(rows) > 12 else ""))
        off = _off(named[0], told, project.house.units)
        if off:
            raise NoFit(f"row {mark} is for another place: " + ", ".join(off), right=f"a row that fits, or {NO_ROW!r}")
        found = named
    else:
        found = [r for r in rows if not _off(r, told, project.house.units)]
        if not found:
            raise NoFit("no row fits: " + _why(rows, told, project.house.units), right=f"a schedule with such a row, or {by} {NO_ROW!r}")
        if len(found) > 1:
            raise NoFit("rows " + " and ".join(r[0] for r in found[:6]) + " all fit", right="the mark of one of them")
    row = found[0]
    own = {k: v for k, v in row[1].items() if k not in FIGURES and k not in settings}
    return {**own, **settings, by: row[0], FROM_ROW: ",".join(sorted(own))}


def _told(joint: Joint, beams_at: Callable[[Joint], int]) -> dict[str, Value]:
    """A joint's own figures: its beam, that beam's top, and on how many sides of the column beams come to this level."""
    lead = joint.case.supported
    tops: list[Vec3] = [(0.0, 0.0, s * lead.shape.h / 2) for s in (-1.0, 1.0)]
    level = max(float(joint.frame.to_world(lead.frame.to_world([p]))[0][2]) for p in tops)
    return {"beam": lead.shape.name, "level": level, "beams": beams_at(joint)}


def _off(row: Row, told: Mapping[str, Value], units: str) -> list[str]:
    """What of a row's figures differs from a joint's, in words."""
    out = []
    for name in FIGURES:
        wanted, is_ = row[1].get(name), told[name]
        if wanted is None:
            continue
        if name == "level" and abs(float(wanted) - float(is_)) > NEAR:  # type: ignore[arg-type]
            out.append(f"beam top at {_level(float(is_), units)}, the row says {_level(float(wanted), units)}")  # type: ignore[arg-type]
        elif name == "beam" and wanted != is_:
            out.append(f"beam {is_}, the row says {wanted}")
        elif name == "beams" and int(wanted) != is_:  # type: ignore[arg-type]
            out.append(f"beams on {'both sides' if is_ == 2 else 'one side'} of the column, the row is for {'both sides' if wanted == 2 else 'one side'}")
    return out


def _why(rows: list[Row], told: Mapping[str, Value], units: str) -> str:
    """Why none of some rows is for a joint: the first figure in which all of them differ."""
    left = rows
    for name in FIGURES:
        fits = [r for r in left if not _off((r[0], {name: r[1][name]} if name in r[1] else {}), told, units)]
        if not fits:
            says = list(dict.fromkeys(_level(float(r[1][name]), units) if name == "level" else str(r[1][name]) for r in left))  # type: ignore[arg-type]
            is_ = _level(float(told[name]), units) if name == "level" else str(told[name])  # type: ignore[arg-type]
            words = {"beam": f"beam is {is_}", "level": f"beam top at {is_}", "beams": f"beams on {is_} side{'s' if is_ != '1' else ''} of the column"}[name]
            return f"{words}, rows say " + ", ".join(says[:-1]) + (" and " if len(says) > 1 else "") + says[-1]
        left = fits
    return "each differs in some figure"


def _level(height: float, units: str) -> str:
    return format_level(height, "m" if units in ("mm", "m") else "ft-in")
