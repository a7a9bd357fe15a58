"""What a typical gives a connection at a joint, and whether the joint is one that it may be used at."""

import math
from collections.abc import Mapping

from tincleat.catalogue.sections import plain
from tincleat.errors import NoFit, TinCleatError
from tincleat.families.declare import other_hand
from tincleat.families.registry import FAMILIES
from tincleat.joints.case import Joint
from tincleat.project.entities import Connection, Typical, Value
from tincleat.project.project import Project
from tincleat.units import format_length

SLACK = 0.01  # mm
EVEN = 1e-4  # rad
UPRIGHT = 0.7  # of a member's way that is up


def given(project: Project, joint: Joint, family: str, key: str) -> dict[str, Value]:
    """The settings that a typical (an id) gives at a joint; raises NoFit with the joint's figures where it is not for it."""
    found = project.typicals.get(key)
    if found is None:
        raise NoFit(f"its typical {key} is not in the project", right="another typical, or none")
    if found.family != family:
        raise NoFit(f"typical {found.name} is for {FAMILIES[found.family].label.lower() if found.family in FAMILIES else found.family}", right="a typical of the same family")
    if why := unsuited(project, joint, found):
        raise NoFit(f"typical {found.name} is {why}", right="another typical, or other limits of use")
    return {**found.settings, **by_size(joint, found)}


def by_size(joint: Joint, typical: Typical) -> dict[str, Value]:
    """What the first row that suits the joined member gives; nothing where no row does."""
    shape = joint.case.supported.shape
    for row in typical.sizes:
        if plain(row.section) == plain(shape.name) if row.section else not row.depth or shape.h <= row.depth + SLACK:
            return row.settings
    return {}


def unsuited(project: Project, joint: Joint, typical: Typical) -> str:
    """Why a typical is not for a joint, in its figures; empty if it is."""
    unit, shape = project.house.units, joint.case.supported.shape
    member = project.members.get(joint.members[0])
    if typical.rules and typical.rules != project.house.rule_set:
        return f"for {typical.rules}, the project is proved to {project.house.rule_set}"
    if typical.roles and member is not None and member.role not in typical.roles:
        return f"for {' and '.join(typical.roles)}, this is a {member.role}"
    if typical.most_depth and shape.h > typical.most_depth + SLACK:
        return f"for members up to {format_length(typical.most_depth, unit, mark=True)} deep, {shape.name} is {format_length(shape.h, unit, mark=True)}"
    if typical.least_depth and shape.h < typical.least_depth - SLACK:
        return f"for members from {format_length(typical.least_depth, unit, mark=True)} deep, {shape.name} is {format_length(shape.h, unit, mark=True)}"
    skew, slope = askew(joint) if typical.most_skew or typical.most_slope else (0.0, 0.0)
    for most, is_, words in ((typical.most_skew, skew, "askew in plan"), (typical.most_slope, slope, "of slope")):
        if most and is_ > most + EVEN:
            return f"for up to {math.degrees(most):.1f}° {words}, this is {math.degrees(is_):.1f}°"
    return ""


def askew(joint: Joint) -> tuple[float, float]:
    """How far (rad) the joined member comes off square to its support in plan, to the nearer of an upright one's ways, nothing without one; and
    how far it slopes."""
    x, y, z = (float(v) for v in joint.frame.turn(joint.case.supported.away))
    slope, support, long = math.asin(min(1.0, abs(z))), joint.case.support, math.hypot(x, y)
    if support is None or long < 1e-6:
        return 0.0, slope
    upright = abs(float(joint.frame.turn(support.frame.x)[2])) > UPRIGHT
    ways = [joint.frame.turn(v) for v in ((support.frame.y, support.frame.z) if upright else (support.frame.x,))]
    along = [min(1.0, abs(x * a + y * b) / (long * math.hypot(a, b))) for a, b, _ in ways if math.hypot(a, b) > 1e-6]
    return (min(map(math.acos, along), default=0.0) if upright else max(map(math.asin, along), default=0.0)), slope


def under(project: Project, joint: Joint, connection: Connection) -> dict[str, Value]:
    """What lies under a connection's typed settings at its joint; nothing without a typical, or where that is not for it."""
    if not connection.typical:
        return {}
    try:
        return given(project, joint, connection.family, connection.typical)
    except TinCleatError:
        return {}


def other_handed(family: str, typed: Mapping[str, Value], below: Mapping[str, Value]) -> dict[str, Value]:
    """Typed settings as they must be typed at the mirror image of a joint that is its own kin, over a typical that gives ``below`` there too."""
    settings = FAMILIES[family].settings
    turned = other_hand(settings, {**below, **typed})
    out = {k: v for k, v in turned.items() if k in typed or k not in below or v != below[k]}
    for s in settings:  # the other hand of what the typical gives may be what nobody types
        if s.name in below and s.name not in turned and isinstance(s.default, str):
            out[s.name] = s.default
    return out
