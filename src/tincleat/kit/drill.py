"""Holes in members where bolts pass them."""

from collections.abc import Sequence

import numpy as np

from tincleat.geometry.frames import Array, Vec3, vec
from tincleat.joints.case import Case
from tincleat.steel.body import named
from tincleat.steel.cuts import Cuts, MemberHole


def drilled(
    case: Case, number: int, points: "Sequence[Array | Vec3]", axis: "Array | Vec3", width: float, length: float, along: "Array | Vec3"
) -> tuple[MemberHole, ...]:
    """Holes of one member of a case where bolts' axes pass it (joint's frame, mm); each names the element whose plane it lies in.

    Holes off every element, past an edge or in thin air, are made nevertheless: the proof says so.
    """
    member = case.members[number]
    out = []
    for p in points:
        hole = MemberHole(number, "", vec(np.asarray(p, dtype=float)), vec(np.asarray(axis, dtype=float)), width, length, vec(np.asarray(along, dtype=float)))
        own = named(Cuts((), (), (hole,)).seen_from(member.frame), member.shape).holes
        element = next((e for e in member.shape.elements if own and e.name == own[0].element), None)
        if element is None:
            continue
        # the point lies in the element's middle plane, wherever along its axis the bolt was given
        k = 1 if element.normal == "y" else 2
        local, way = np.array(own[0].point), np.array(own[0].axis)
        if abs(way[k]) > 1e-6:
            local = local + way * (element.at - local[k]) / way[k]
        point = vec(member.frame.to_world(local[None])[0])
        out.append(MemberHole(number, element.name, point, hole.axis, width, length, hole.along))
    return tuple(out)
