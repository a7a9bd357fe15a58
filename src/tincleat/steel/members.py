"""A member's own cuts, what length it is ordered at, and what it weighs."""

import math
from functools import lru_cache

from tincleat.catalogue.sections import section
from tincleat.catalogue.timber import density
from tincleat.geometry.frames import Frame, vec
from tincleat.geometry.outline import Outline
from tincleat.project.entities import Member
from tincleat.project.members import axis_frame, length
from tincleat.steel.body import end_station, steel_volume
from tincleat.steel.cuts import NONE, Cuts, EndCut, Notch


@lru_cache(maxsize=8192)
def own_cuts(member: Member) -> Cuts:
    """The cuts a member has of itself, in its axis frame."""
    if not member.cuts and not member.outs:
        return NONE
    frame = axis_frame(member)
    shape = section(member.section)
    # from any point of its plane a polygon cuts through the whole member
    reach = length(member) + shape.h + shape.b + max((math.dist(c.point, member.start) for c in member.outs), default=0.0)
    across = shape.h + shape.b
    notches = []
    for c in member.outs:
        own = frame.inside(Frame(c.point, c.x, c.z))
        square = abs(own.z[0]) < 1e-6
        depth = across + abs(sum(a * b for a, b in zip(own.origin, own.z, strict=True))) if square else reach
        notches.append(Notch("polygon cut", 0, own.moved(z=-depth), Outline.rounded(list(c.corners), list(c.radii)), 2 * depth))
    return Cuts(tuple(EndCut(0, vec(frame.to_local((c.point,))[0]), vec(frame.unturn(c.normal))) for c in member.cuts), tuple(notches))


def cut_length(member: Member, cuts: Cuts) -> float:
    """Length to order, mm: between the outermost points of the cut ends."""
    shape = section(member.section)
    stations = [end_station(cuts.ends, 0.0, length(member), y, z) for y in (-shape.b / 2, shape.b / 2) for z in (-shape.reach, shape.reach)]
    return max(s[1] for s in stations) - min(s[0] for s in stations)


def net_mass(member: Member, cuts: Cuts) -> float:
    """Mass in kg from the exact volume left after all cuts."""
    return steel_volume(section(member.section), cuts, 0.0, length(member)) * density(section(member.section), member.grade)
