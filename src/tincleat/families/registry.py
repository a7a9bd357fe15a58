"""All families, listed by hand: to add one, write its file and put its FAMILY here."""

from functools import cache

from tincleat.errors import NotFound
from tincleat.families import (
    angle_cleats,
    base_plate,
    bracing_gusset,
    cap_and_base,
    cap_plate,
    cover_plates,
    edge_angle,
    end_plate,
    fin_plate,
    flange_gusset,
    flange_plates,
    left_plain,
    post_side,
    purlin_cleat,
    rod_through,
    sag_rods,
    seat_cleat,
    slab_head,
    slab_side,
    splice_covers,
    stiffeners,
    stitch,
    stringer_foot,
    stringer_head,
    timber_seat,
    trimmer_cleat,
    tube_end,
    tube_joint,
    tube_mitre,
    tube_sleeve,
    turnbuckle,
    wall_bearing,
    web_opening,
    welded_moment,
    welded_splice,
)
from tincleat.families.declare import Family
from tincleat.families.loose import family as loose

FAMILIES: dict[str, Family] = {f.name: f for f in (base_plate.FAMILY, fin_plate.FAMILY, angle_cleats.FAMILY, end_plate.FAMILY, bracing_gusset.FAMILY, flange_gusset.FAMILY, stiffeners.FAMILY, purlin_cleat.FAMILY, cap_plate.FAMILY, splice_covers.FAMILY, welded_splice.FAMILY, seat_cleat.FAMILY, flange_plates.FAMILY, tube_sleeve.FAMILY, web_opening.FAMILY, edge_angle.FAMILY, trimmer_cleat.FAMILY, sag_rods.FAMILY, stitch.FAMILY, welded_moment.FAMILY, cover_plates.FAMILY, tube_joint.FAMILY, tube_end.FAMILY, tube_mitre.FAMILY, turnbuckle.FAMILY, rod_through.FAMILY, cap_and_base.FAMILY, wall_bearing.FAMILY, slab_head.FAMILY, slab_side.FAMILY, stringer_foot.FAMILY, stringer_head.FAMILY, post_side.FAMILY, timber_seat.FAMILY, loose.FAMILY, left_plain.FAMILY)}


def family(name: str) -> Family:
    """The family called ``name``; raises :class:`NotFound` with the names there are."""
    try:
        return FAMILIES[name]
    except KeyError:
        raise NotFound(f"there is no family {name!r}", right="one of " + ", ".join(FAMILIES)) from None


@cache
def families_for(kind: str) -> tuple[Family, ...]:
    """The families that take joints of a kind, in the order of the registry; asked without building any."""
    return tuple(f for f in FAMILIES.values() if kind in f.kinds)
