"""Plate under a slab: a post's head against the underside of concrete, on a gap filled with mortar, held by rods set in the slab.

Joint frame: origin where the post's middle line ends, z down into the post, x along its depth: a foot upside down, and laid out as one.
"""

from collections.abc import Callable

import msgspec

from tincleat.details.parts import Detail, Weld
from tincleat.errors import NoFit
from tincleat.families import base_plate
from tincleat.families.declare import Family, Given, Setting
from tincleat.families.example import a_member, at_end
from tincleat.geometry.frames import Frame, vec
from tincleat.joints.case import Case
from tincleat.project.entities import HouseRules

PLATE, BASE = "head plate", "base plate"
HEADS = {"underside of slab": "top of concrete", "top of plate": "underside of plate", "end of post": "end of column"}
OWN = (  # what a head has of a foot's settings, as they are
    "plate_length", "plate_width", "projection", "plate_thickness", "plate_grade", "offset_x", "offset_y", "anchors_x", "anchors_y", "rods_where", "anchor", "anchor_grade", "rod_projection", "hole_size", "hole_shape",
    "slot_length", "washer_side", "washer_thickness", "lock_nut", "flange_weld", "web_weld", "force_down", "force_up", "force_across",
)  # fmt: skip
_BASE = {s.name: s for s in base_plate.SETTINGS}


def _house_anchor(house: HouseRules) -> str:
    """A size under the office's rods: what is drilled into a slab is slimmer than what is cast into a pad."""
    return "3/4in" if house.inch else "M16"


def _own(name: str) -> Setting:
    found = _BASE[name]
    more = {"default": _house_anchor} if name == "anchor" else {"default": 12.0, "inches": 12.7} if name == "plate_thickness" else {}
    return Setting(**({f: getattr(found, f) for f in ("name", "label", "kind", "group", "default", "low", "high", "choices", "inches", "handed")} | {"help": found.help.replace("column", "post")} | more))


SETTINGS = (
    *(_own(name) for name in OWN),
    Setting("gap", "Gap to the slab", "length", "Head", 20.0, "Filled with mortar between the plate and the slab's underside.", 0, 200, inches=19.05),
    Setting("head_means", "Post's head is", "choice", "Head", "underside of slab", "What the post's drawn head stands for; the post is shortened to suit.", choices=tuple(HEADS)),
    Setting("rod_foot", "Rod end", "choice", "Anchor rods", "resin", "How the rod is held in the slab: bare in resin, headed, or right through it with a plate and nut on top.", choices=("resin", "headed", "through")),
    Setting("embedment", "Embedment", "length", "Anchor rods", 125.0, "Rod above the slab's underside.", 40, 1000, inches=127.0),
    Setting("slab", "Draw the slab", "flag", "Concrete", True, "Draw a piece of the slab over the plate."),
    Setting("slab_depth", "Slab depth", "length", "Concrete", 200.0, "Thickness of the slab.", 80, 2000, inches=203.2),
    Setting("slab_past", "Slab past the plate", "length", "Concrete", 150.0, "Slab past the plate on every side.", 0, 3000, inches=152.4),
    Setting("concrete", "Concrete", "choice", "Concrete", _BASE["concrete"].default, "Concrete grade of the slab.", choices=_BASE["concrete"].choices),
)  # fmt: skip
RENAMED = {"gap": "grout", "slab": "pad", "slab_depth": "pad_depth", "slab_past": "pad_margin"}


def fits(case: Case, house: HouseRules) -> None:
    """Raise NoFit with figures unless this is the head of a post that stands plumb or nearly so."""
    if case.kind != "column head":
        raise NoFit(f"a plate under a slab closes a post's head; this is a {case.kind}", right="a head over which nothing of steel goes on")
    base_plate.fits(msgspec.structs.replace(case, kind="column foot"), house)


def build(case: Case, given: Given) -> Detail:
    """Plate, mortar, rods up into the slab, welds, the post shortened: a foot's, hung upside down."""
    house = given.house
    depth, embedment, foot = float(given.value("slab_depth")), float(given.value("embedment")), str(given.value("rod_foot"))
    if foot != "through" and embedment > depth - 20.0:
        raise NoFit(f"rods {embedment:.0f} mm up leave {depth - embedment:.0f} mm of a slab {depth:.0f} mm deep", right="at least 20 mm, shorter rods, or rods right through")
    typed = {RENAMED.get(k, k): v for k, v in given.typed.items() if k in {s.name for s in SETTINGS}}
    for s in SETTINGS:  # what nobody typed is a head's own default, not a foot's
        name = RENAMED.get(s.name, s.name)
        if name not in typed and s.standard(house) is not None:
            typed[name] = given.value(s.name)
    typed["foot_means"] = HEADS[str(given.value("head_means"))]
    inner = Given(_BASE, {k: v for k, v in typed.items() if k in _BASE}, house)
    d = base_plate.build(case, inner)
    back = {v: k for k, v in RENAMED.items()}
    for name, number in inner.numbers.items():
        own = back.get(name, name)
        if own in given.settings and own not in given.numbers:
            given.numbers[own] = msgspec.structs.replace(number, name=own, rule=number.rule.replace("column", "post"))

    def words(name: str) -> str:
        return name.replace(BASE, PLATE)

    return msgspec.structs.replace(
        d, family="plate under a slab", plates=tuple(msgspec.structs.replace(p, name=words(p.name)) for p in d.plates), welds=tuple(_weld(w, words) for w in d.welds),
        blocks=tuple(msgspec.structs.replace(b, name={"pad": "slab", "grout": "mortar"}.get(b.name, b.name)) for b in d.blocks), numbers=tuple(given.numbers.values()),
        views=tuple(msgspec.structs.replace(v, frame=_hung(v.frame), title={"plan": "From below"}.get(v.name, v.title)) for v in d.views),
        dimensions=tuple(msgspec.structs.replace(x, settings=tuple(back.get(s, s) if back.get(s, s) in given.settings else "" for s in x.settings)) for x in d.dimensions),
    )  # fmt: skip


def _weld(w: Weld, words: Callable[[str], str]) -> Weld:
    return msgspec.structs.replace(w, name=words(w.name), parts=(words(w.parts[0]), words(w.parts[1])))


def _hung(frame: Frame) -> Frame:
    """A view's frame with what is up in the joint, down into the post, at the foot of the paper."""
    if abs(frame.z[2]) > 0.9:
        return frame  # seen along the post: from below, as it is
    return Frame(frame.origin, frame.x, vec([-v for v in frame.z]))


FAMILY = Family(
    "slab-head", "Plate under a slab", ("post between slabs", "head plate", "prop", "concrete soffit", "ceiling plate", "slab"), ("column head",), SETTINGS, fits, build,
    {k: tuple(n for n in v if n in {s.name for s in SETTINGS}) for k, v in base_plate.FAMILY.mends.items()},
    situations=("feet",), example=at_end(a_member("HEB 160", (0.0, 0.0, 0.0), (0.0, 0.0, 3000.0), "post")),
)  # fmt: skip
