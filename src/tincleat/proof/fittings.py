"""Forks, turnbuckles and nuts: how much of the rod is in each thread."""

from collections.abc import Iterator

from tincleat.details.assembled import Assembled
from tincleat.geometry.frames import Frame, vec
from tincleat.geometry.mesh import overlap_volume, square_bar
from tincleat.project.entities import HouseRules
from tincleat.proof.finding import Finding, Rule, at_least
from tincleat.standards.limit import Limit
from tincleat.steel.body import steel_mesh
from tincleat.steel.cuts import NONE

FINE = 4
NEAR = 600.0  # mm of rod either side of the joint that is looked at


def held(a: Assembled, house: HouseRules) -> Iterator[Finding]:
    """How far a rod is in the thread of each fork and nut, measured by the steel that is there."""
    rods = [i for i, m in enumerate(a.case.members) if m.shape.shape == "RD"]
    for f in (f for f in a.detail.fittings if f.threads):
        found = []
        for x0, x1 in f.threads:
            at = f.frame.moved(x=(x0 + x1) / 2)
            span = square_bar(f.bar + 2.0, -(x1 - x0) / 2, (x1 - x0) / 2).placed(Frame(at.origin, at.z, at.x))
            best = 0.0
            for i in rods:
                m = a.case.members[i]
                area = steel_mesh(m.shape, NONE, 0.0, 100.0, FINE).volume / 100.0
                best = max(best, overlap_volume(a.member_mesh(i, max(m.low, -NEAR), min(m.high, NEAR), FINE), span) / area)
            found.append((best, vec(at.o)))
        engaged, where = min(found)
        yield at_least("thread-held", "Rod in its thread", Limit(*f.needs), f.name, round(engaged, 2), where, f"rod in the thread of the {f.name}")


RULES = (Rule("held", "Rods in their threads", held),)
