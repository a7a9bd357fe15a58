"""Where lines of bolts may lie across a member's flange."""

import math

from tincleat.catalogue.fasteners import BoltSize
from tincleat.catalogue.sections import Section
from tincleat.errors import NoFit
from tincleat.joints.case import CaseMember
from tincleat.kit.cope import web_of
from tincleat.kit.layout import down, up
from tincleat.project.entities import HouseRules


def flange_gauges(shape: Section, size: BoltSize, edge: float, house: HouseRules) -> list[float]:
    """Gauges (mm) at which a flange holds its bolts, the usual first, then narrower ones; raises NoFit with figures.

    Of an I-section between its two lines, about half its width, clear of roots, web and edges; of a channel from the web's back to
    the one line.
    """
    step = 12.7 if house.inch else 10.0
    if shape.shape == "C":
        least, most = up(shape.tw + max(shape.r1 + size.washer_d / 2, size.clear), step / 2), down(shape.b - edge, step / 2)
        if least > most + 1e-6:
            raise NoFit(f"the flange of {shape.name}, {shape.b:.0f} mm wide, does not hold a line of {size.name} {least:.0f} mm from its back", right="smaller bolts, or a wider beam")
        return [max(least, min(round(0.55 * shape.b / (step / 2)) * step / 2, most))]
    roots = shape.tw + 2 * shape.r1 + max(size.washer_d, 1.16 * size.head_af)
    least, most = up(max(roots, shape.tw + 2 * size.clear), step), down(shape.b - 2 * edge, step)
    if least > most + 1e-6:  # no room for a socket beside the web: a ring spanner, and a note of the proof
        least = up(roots, step)
    if least > most + 1e-6:
        raise NoFit(f"the flange of {shape.name}, {shape.b:.0f} mm wide, does not hold two lines of {size.name}: they stand {least:.0f} mm apart at least", right="smaller bolts, or a wider beam")
    usual = max(least, min(round(0.55 * shape.b / step) * step, most))
    return [usual - i * step for i in range(int((usual - least) / step + 1e-6) + 1)]


def lines_across(member: CaseMember, gauge: float) -> list[float]:
    """The lines at a gauge, in the member's own y, mm."""
    if member.shape.shape != "C":
        return [-gauge / 2, gauge / 2]
    web = web_of(member.shape.elements)
    assert web is not None
    return [math.copysign(member.shape.b / 2, web.at) - math.copysign(gauge, web.at)]
