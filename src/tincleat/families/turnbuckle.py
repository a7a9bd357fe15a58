"""Turnbuckle: two nuts with straps between them, which draw the two halves of a rod together, at a station of it.

Joint frame: origin on the rod's middle line at the station, x along it.
"""

import numpy as np

from tincleat.catalogue.fasteners import bolt_sizes
from tincleat.details.fittings import Turnbuckle
from tincleat.details.parts import Detail, Dimension, SheetView
from tincleat.errors import NoFit
from tincleat.families.declare import STEEL_GRADES, Family, Given, Setting
from tincleat.families.example import a_brace, at_station
from tincleat.geometry.frames import Frame, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case
from tincleat.kit.layout import up
from tincleat.project.entities import HouseRules
from tincleat.steel.cuts import Notch

SETTINGS = (
    Setting("opening", "Opening", "length", "Turnbuckle", 150.0, "Between its two nuts: how far the rods can be drawn together.", 40, 600, inches=152.4),
    Setting("gap", "Rods apart", "length", "Turnbuckle", None, "Between the ends of the two rods when it is put in; half the opening if not typed.", 5, 590),
    Setting("nut", "Nut length", "length", "Turnbuckle", None, "Length of thread each rod is held by; one and a half rods if not typed.", 8, 200),
    Setting("across", "Nut across flats", "length", "Turnbuckle", None, "Breadth of the nuts; that of a nut for a bolt of the rod's size if not typed.", 10, 300),
    Setting("grade", "Grade", "choice", "Turnbuckle", lambda h: h.plate_grade, "Steel grade.", choices=STEEL_GRADES),
)


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit unless this is a station of a round bar."""
    if case.kind != "station":
        raise NoFit(f"a turnbuckle sits at a station of a rod; this is a {case.kind}", right="a rod and a distance from its start, such as m12@2500")
    shape = case.members[0].shape
    if shape.shape != "RD":
        raise NoFit(f"{shape.name} is a {shape.shape} section; a turnbuckle draws round bars together", right="a round bar")


def build(case: Case, given: Given) -> Detail:
    """The turnbuckle, and the rod parted in its opening."""
    house, m = given.house, case.members[0]
    d = m.shape.h
    step = 3.175 if house.inch else 5.0
    like = min((b for b in bolt_sizes().values() if b.system == ("in" if house.inch else "mm")), key=lambda b: abs(b.d - d))
    opening = float(given.value("opening"))
    gap = float(given.worked_out("gap", up(opening / 2, step)))
    nut = float(given.worked_out("nut", up(1.5 * d, step)))
    across = float(given.worked_out("across", max(like.head_af, up(1.5 * d, 1.0))))
    if gap > opening:
        raise NoFit(f"rods {gap:.0f} mm apart do not reach both nuts of a turnbuckle {opening:.0f} mm open", right=f"at most {opening:.0f} mm")
    if across < d + 6.0:
        raise NoFit(f"a nut {across:.0f} mm across leaves nothing round a rod of {d:g} mm", right=f"at least {d + 6.0:.0f} mm")
    strap = (across - d) / 2 - 1.0  # clear of the rods between the nuts
    half = opening / 2 + nut
    if m.low > -half or m.high < half:
        raise NoFit(f"the turnbuckle is {2 * half:.0f} mm long, and the rod goes on {min(-m.low, m.high):.0f} mm from there", right="a station further from the rod's end")
    f = m.frame
    part = Turnbuckle("turnbuckle", like.name, str(given.value("grade")), Frame((0.0, 0.0, 0.0), f.x, f.z), d, across, nut, opening, strap)
    wide = d / 2 + 5.0
    # the prism runs along the rod
    notch = Notch("gap", 0, part.frame.at(Frame((-gap / 2, 0.0, 0.0), (0.0, 1.0, 0.0), (1.0, 0.0, 0.0))), Outline.rectangle(-wide, -wide, wide, wide), gap)
    return Detail("turnbuckle", notches=(notch,), dimensions=_dimensions(part, gap), numbers=tuple(given.numbers.values()), fittings=(part,), views=_views(part))


def _views(part: Turnbuckle) -> tuple[SheetView, ...]:
    x, y, z = (np.array(v) for v in (part.frame.x, part.frame.y, part.frame.z))
    return (SheetView("front", "Along the rod", Frame.of(part.frame.o, x, -y)), SheetView("plan", "From above", Frame.of(part.frame.o, x, z)), SheetView("side", "End", Frame.of(part.frame.o, y, x)))


def _dimensions(part: Turnbuckle, gap: float) -> tuple[Dimension, ...]:
    half, r = part.opening / 2, part.across / 2
    at = part.frame.to_world([(x, 0.0, s * r) for s in (-1.0, 1.0) for x in (-half - part.nut, -half, -gap / 2, gap / 2, half, half + part.nut)])
    low, high = [vec(p) for p in at[:6]], [vec(p) for p in at[6:]]
    r3 = [vec(p) for p in part.frame.to_world([(half + part.nut, -r, 0.0), (half + part.nut, r, 0.0)])]
    return (
        Dimension("front", "bottom", 0, (low[0], low[1], low[4], low[5]), ("nut", "opening", "nut")),
        Dimension("front", "top", 0, (high[2], high[3]), ("gap",)),
        Dimension("plan", "right", 0, (r3[1], r3[0]), ("across",)),
    )


FAMILY = Family("turnbuckle", "Turnbuckle", ("rod tensioner", "tightener", "bracing rod", "tie rod"), ("station",), SETTINGS, fits, build, {"clash": ("across", "nut")}, situations=("bracing",), example=at_station(a_brace("RD 16", 35.0), at=1200.0))
