"""Holes in members where bolts pass them."""

from collections.abc import Sequence

import numpy as np
from msgspec.structs import replace

from tincleat.geometry.frames import Array, Vec3, vec
from tincleat.joints.case import Case
from tincleat.steel.body import laid, named
from tincleat.steel.cuts import Cuts, MemberHole


def drilled(
    case: Case, number: int, points: "Sequence[Array | Vec3]", axis: "Array | Vec3", width: float, length: float, along: "Array | Vec3", sink: tuple[float, float] = (0.0, 0.0),
) -> tuple[MemberHole, ...]:
    """Holes of one member of a case where bolts' axes pass it (joint's frame, mm); each names the element whose plane it lies in.  ``sink``:
    diameter and angle (rad) of a countersink on the face that the axis goes in by.

    Holes off every element, past an edge or in thin air, are made nevertheless: the proof says so.
    """
    member = case.members[number]
    out = []
    for p in points:
        hole = MemberHole(number, "", vec(np.asarray(p, dtype=float)), vec(np.asarray(axis, dtype=float)), width, length, vec(np.asarray(along, dtype=float)), sink=sink[0], sink_angle=sink[1])
        own = named(Cuts((), (), (hole,)).seen_from(member.frame), member.shape).holes
        if not own or not any(e.name == own[0].element for e in member.shape.elements):
            continue
        # the point lies in the element's middle plane, wherever along its axis the bolt was given
        there = laid(own[0], member.shape)
        out.append(replace(hole, element=there.element, point=member.frame.point(there.point)))
    return tuple(out)
