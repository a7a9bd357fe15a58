"""Every declared setting: parses what it prints, keeps its limits, and really changes what is built."""

import functools
import math
from typing import Any

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st
from sites import SITES, Site
from test_families import HOUSE, any_settings, foot, on_flange, on_web

from tincleat.catalogue.sections import section
from tincleat.details.parts import Detail
from tincleat.errors import BadValue
from tincleat.families.declare import Setting, check, parse, rule_words, show
from tincleat.families.registry import FAMILIES, family
from tincleat.geometry.frames import Frame
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case, Standing
from tincleat.joints.find import Finder
from tincleat.ledger.made import Made, Workshop
from tincleat.project.entities import HouseRules, Member, RoundRule, Value, inch_house
from tincleat.project.members import up_of

ALL = [(name, s) for name, f in FAMILIES.items() for s in f.settings if s.kind != "schedule" and not f.parts]  # lists of parts: test_loose;  # a row's mark speaks through the project: test_schedules
# some settings only speak when another does: what has to be set beside them to hear them
BESIDE: dict[str, dict[str, Any]] = {
    "slab-head concrete": {}, "slab-head slot_length": {"hole_shape": "slotted along"},
    "flange-gusset how": {"side": "outside"},
    "bracing-gusset flat": {"tube_end": "flattened"}, "bracing-gusset taper": {"tube_end": "flattened"},
    "top_distance": {"row_place": "from the top", "pitch": (70.0,)},
    "row_place": {"pitch": (70.0,), "top_distance": 60.0},
    "vent_size": {"vents": 2},
    "key_length": {"key_depth": 60.0},
    "key_thickness": {"key_depth": 60.0},
    "rods_where": {"anchors_x": (90.0, 90.0, 90.0), "anchors_y": (130.0, 130.0)},
    "web_weld": {},
    "concrete": {"pad": True},
    "stiffeners stands": {"height": 120.0},
    "end-plate row_past": {"shape": "past both flanges"},
    "end-plate end_distance": {"shape": "past both flanges"},
    "end-plate haunch_length": {"haunch_depth": 200.0},
    "end-plate stiffener_thickness": {"column_stiffeners": "bottom"},
    "end-plate doubler_thickness": {"doubler": "both sides"}, "end-plate column_weld": {"column_stiffeners": "bottom"}, **{f"{n} doubler_weld": {"doubler": "both sides"} for n in ("end-plate", "welded-moment", "cover-plates")},
    "end-plate pitch": {},
    **{f"bracing-gusset {s}": {"tube_end": "tee"} for s in ("tee_thickness", "tee_width", "tee_weld", "cap_thickness", "cap_past", "cap_gap", "cap_weld")},
    "splice-covers division_weld": {"division": 20.0},
    "base-plate vent_place": {"vents": 2}, "base-plate slot_length": {"hole_shape": "slotted along"}, "base-plate rods_counted": {"rods_off": (1,)},
    **{f"base-plate {s}": {"chairs": True} for s in ("chair_height", "chair_top", "chair_side", "chair_width", "chair_gap", "chair_past", "chair_weld")},
    **{f"base-plate {s}": {"stiffeners": "on the flanges"} for s in ("stiffener_height", "stiffener_thickness", "stiffener_snipe", "stiffener_weld", "stiffener_in")},
    **{f"base-plate {s}": {"key_depth": 60.0, "key_form": "section"} for s in ("key_section", "key_turn", "key_off_x", "key_off_y", "key_form")},
    "welded-moment doubler_thickness": {"doubler": "both sides"}, "welded-moment backing_width": {}, "welded-moment hole_radius": {"hole_height": 40.0},
    **{f"tube-mitre {s}": {"joined": "on a plate"} for s in ("thickness", "past", "grade", "weld_leg")}, "tube-mitre root": {"joined": "to each other"}, "tube-mitre joined": {},
    "base-plate key_pocket": {"key_depth": 80.0}, "seat-cleat web_side": {"top": "web cleat"}, "seat-cleat web_rows": {"top": "web cleat"},
    **{f"purlin-cleat {s}": {"fly": "both sides"} for s in ("fly_size", "fly_out", "lug_thickness", "lug_weld")}, "purlin-cleat fly_bolt": {"fly": "both sides", "fly_size": "L 65x65x7"}, "cover-plates fuse_width": {"fuse_length": 200.0}, "cover-plates doubler_thickness": {"doubler": "both sides"},
    "fin-plate stiffeners": {"reach": "past the flanges"}, "fin-plate bend_radius": {"skewed": "plate bent"},
    **{f"bracing-gusset {s}": {"stiffeners": True} for s in ("stiffener_thickness", "stiffener_width", "stiffener_weld")}, **{f"purlin-cleat {s}": {"sleeve": 5.0} for s in ("sleeve_reach", "sleeve_height")}, "wall-bearing concrete": {}, "wall-bearing pitch": {"rods": "four", "bearing": 220.0}, **{f"wall-bearing {s}": {"stiffeners": True} for s in ("stiffener_width", "stiffener_thickness", "stiffener_weld")},
    "stringer-foot pitch": {"rods": 2},
    "seat-cleat weld_leg": {"to_support": "welded"}, "sag-rods weld_leg": {"projection": 0.0},
    **{f"web-opening {s}": {"shape": "rectangular", "flats": "both sides", "height": 150.0, "width": 100.0} for s in ("radius", "flat_width", "flat_thickness", "off", "past", "weld_leg", "grade", "up", "row")},
    "web-opening width": {"shape": "rectangular"}, "web-opening shape": {"width": 300.0}, "web-opening height": {"shape": "round"},
    "angle-cleats weld_leg": {"to_support": "welded"}, "slab-side top": {"slab_depth": 260.0}, "slab-side concrete": {},
    "angle-cleats long_leg": {"size": "L 150x100x10"},
    "angle-cleats bolt": {},
}
OTHER: dict[str, Value] = {
    "stitch thickness": 8.0,
    "pitch": (60.0, 60.0), "gauge": (60.0,), "anchors_x": (250.0,), "anchors_y": (250.0,), "bolt": "M16", "bolt_grade": "10.9", "anchor": "M20", "anchor_grade": "8.8",
    "plate_grade": "S355", "hole": "oversize", "row_place": "from the top", "head_side": "on the beam", "sides": "both sides", "notch": "never", "foot_means": "end of column",
    "end-plate gauge": 120.0, "end-plate shape": "past the top", "column_stiffeners": "top and bottom", "doubler": "near side", "backing": 10.0, "cap": 20.0, "pack": 5.0,
    "end-plate haunch_depth": 200.0, "end-plate haunch_length": 800.0, "end-plate width": 190.0, "end-plate pitch": (80.0, 80.0), "grade": "S355", "bracing-gusset pitch": (70.0, 70.0), "bracing-gusset gauge": 50.0,
    "side": "far side", "row": (150.0,), "stands": "on the bottom flange", "stiffeners width": 60.0, "stiffeners height": 120.0, "stiffeners sides": "near side", "angle-cleats sides": "near side", "purlin-cleat pitch": (50.0,), "purlin-cleat bolt": "M12", "purlin-cleat edge": 28.0,
    "size": "L 120x120x10", "tube-sleeve size": "CHS 101.6x5", "tube-sleeve weld_leg": 7.0, "purlin-cleat size": "L 150x90x10", "long_leg": "on the beam", "to_beam": "welded", "to_support": "welded", "angle-cleats gauge": 55.0, "angle-cleats cross_centres": 130.0, "angle-cleats pitch": (60.0,),
    "base-plate rods_off": (2,), "base-plate stiffener_height": 200.0, "base-plate key_turn": 0.5, "base-plate turn": 0.3, "base-plate template": 6.0,
    "welded-moment sides": "far side", "welded-moment column_stiffeners": "none", "welded-moment bevel": 0.7, "welded-moment hole_radius": 15.0, "welded-moment backing": 12.0, "welded-moment backing_past": 5.0,
    "bracing-gusset stiffener_width": 60.0, "purlin-cleat sleeve": 6.0, "purlin-cleat sleeve_height": 100.0, "purlin-cleat sleeve_reach": 250.0, "wall-bearing pitch": 110.0, "wall-bearing gauge": 250.0, "wall-bearing width": 320.0, "wall-bearing stiffener_width": 60.0, "wall-bearing rods": "none",
    "cap-and-base pitch": (100.0,), "cap-and-base gauge": 90.0, "cap-and-base where": "outside the column", "cap-and-base edge": 75.0,
    "tube-end-plate pitch": (80.0,), "tube-end-plate gauge": (70.0,), "tube-end-plate where": "along the support", "tube-end-plate off": 45.0,
    "cover-plates top_pitch": (80.0, 80.0), "cover-plates bottom_pitch": (80.0, 80.0), "cover-plates top_width": 170.0, "cover-plates bottom_width": 170.0, "cover-plates top_end": 160.0, "cover-plates bottom_end": 160.0, "cover-plates gauge": 90.0, "cover-plates first": 90.0,
    "purlin-cleat fly": "left", "purlin-cleat fly_size": "L 60x60x6", "purlin-cleat fly_bolt": "M16", "purlin-cleat fly_out": 500.0, "purlin-cleat lug_weld": 4.0, "timber-seat rows": (60.0,), "post-side gauge": 110.0, "post-side pitch": 60.0, "post-side past": 30.0, "post-side width": 170.0, "post-side height": 130.0, "post-side weld_leg": 6.0, "timber-seat radius": 15.0, "timber-seat bolt": "M16", "timber-seat gap": 20.0, "timber-seat cheek": 190.0, "timber-seat reach": 200.0, "timber-seat bearing": 90.0, "timber-seat first": 60.0, "timber-seat thickness": 8.0, "timber-seat end_distance": 100.0, "timber-seat weld_leg": 7.0, "timber-seat rib": 10.0, "base-plate key_depth": 80.0, "seat-cleat web_side": "far side", "seat-cleat web_rows": (80.0,), "welded-splice bevel": 0.7, "welded-splice backing": 12.0, "welded-splice backing_past": 5.0, "welded-splice hole_radius": 15.0, "stringer-head pitch": (80.0,), "stringer-head gauge": 90.0, "stringer-head bolt": "M12", "cover-plates tab_weld": 12.0, "cover-plates sides": "far side", "cover-plates column_stiffeners": "none", "cover-plates bevel": 0.7, "cover-plates zone": False, "cover-plates fuse_length": 200.0, "cover-plates fuse_width": 100.0,
    "tube-joint through": "the first", "tube-mitre joined": "on a plate",
    "stringer-foot foot_means": "top of plate", "stringer-foot pitch": 90.0, "stringer-foot gauge": 180.0,
    "sag-rods size": "M20", "sag-rods grade": "8.8",
    "slab-side pitch": 60.0, "slab-side height": 110.0, "slab-side facing": "ahead", "slab-side weld_leg": 9.0, "slab-side gauge": 110.0, "slab-side top": 203.0, "slab-head rod_foot": "through", "slab-head embedment": 150.0, "slab-head slab_depth": 250.0, "slab-head slot_length": 50.0, "slab-head anchors_x": (230.0,), "slab-head anchors_y": (230.0,),
    "trimmer-cleat side": "far side", "trimmer-cleat pitch": (60.0,), "trimmer-cleat off_web": 60.0, "trimmer-cleat end_distance": 40.0,
    "stitch pitch": (70.0,), "stitch gauge": 45.0, "stitch length": 100.0,
    "flange-gusset how": "straight to the flange", "flange-gusset thickness": 8.0, "flange-gusset side": "outside", "flange-gusset flange_pitch": (80.0,), "flange-gusset gauge": 50.0, "flange-gusset flange_gauge": 100.0, "flange-gusset pitch": (70.0,), "flange-gusset lines": (60.0,),
    "rod-through side": 60.0, "edge-angle length": 800.0, "edge-angle pitch": 200.0, "web-opening shape": "slotted", "web-opening height": 120.0, "web-opening flats": "near side", "web-opening row": (500.0,), "web-opening flat_width": 60.0, "flange-plates count": 12, "where": "on four sides", "flange-plates pitch": (80.0,), "seat-cleat size": "L 200x100x12", "seat-cleat long_leg": "under the beam", "top": "none", "top_size": "L 120x120x12", "seat-cleat stiffener": 12.0, "rows": (65.0,), "seat-cleat off_face": 60.0, "seat-cleat gauge": 90.0, "seat-cleat drop": 50.0,
    "flange_covers": "outer and inner", "web_covers": "near side", "flange_pitch": (70.0, 70.0), "web_pitch": (70.0,), "web_lines": (70.0,), "splice-covers gauge": 115.0,
    "splice-covers division": 20.0, "flange_width": 180.0, "flange_thickness": 20.0, "web_thickness": 10.0, "cap-plate pitch": (120.0,), "cap-plate gauge": 110.0, "cap-plate stiffeners": "in the middle", "cap-plate stiffener_width": 60.0, "cap-plate projection": 30.0,
    "bracing-gusset stands": "upright member", "lines": (70.0,), "through_pitch": (60.0, 60.0), "tube_end": "tee", "cap_weld": 7.0,
    "rods_where": "at every crossing", "rod_foot": "hooked", "concrete": "C40/50", "vents": 2,
}  # fmt: skip


def case_for(name: str, setting: str) -> Case:
    """A place at which a family listens to a setting."""
    case = site_case(next(s for s in SITES if s.name == WHERE.get(f"{name} {setting}", WHERE.get(name, ""))))
    if (name, setting) == ("bracing-gusset", "beside"):  # an end plate that stands out over the beam in the corner
        case = msgspec.structs.replace(case, context=(Standing("end plate", Frame((101.6, 0.0, 0.0), (0.0, 1.0, 0.0), (1.0, 0.0, 0.0)), Outline.rectangle(-90.0, -190.0, 90.0, 190.0), 20.0),))
    return case


def site_case(site: Site) -> Case:
    """The case that a family sees at a site."""
    members = {f"m{i}": Member(f"m{i}", "", m["role"], section(m["section"]).name, "S355", tuple(m["start"]), tuple(m["end"]), math.radians(m.get("roll_deg", 0.0)),
                               m.get("cardinal", "centre"), tuple(m.get("offset", (0.0, 0.0))), up=up_of(m["role"])) for i, m in enumerate(site.members)}  # fmt: skip
    finder = Finder(members)
    (number, where), *more = site.at
    row, at, station = where.partition("@")
    if at:
        long = float(station) * (25.4 if site.inch else 1.0)
        found = finder.row([f"m{k}" for k in (str(number), *filter(None, row.split("+")))], long) if row else finder.station(f"m{number}", long, "along" in FAMILIES[site.family].kinds)
    elif where.startswith("over"):
        found = finder.crossing(f"m{number}", f"m{where[5:]}")
    elif more:
        found = finder.shared([(f"m{i}", end) for i, end in site.at])  # type: ignore[misc]
    else:
        found = next(j for j in finder.joints() if (f"m{number}", where) in j.ends)
    assert found is not None
    return found.case


@functools.cache
def site_made(name: str) -> Made:
    """What a site's family makes there, for all tests that only look at it."""
    site = next(s for s in SITES if s.name == name)
    return Workshop().make(site.family, site_case(site), False, dict(site.typed), inch_house("") if site.inch else HouseRules())


def plain_sites(family: str) -> list[Site]:
    """A family's sites but for those whose settings are lists."""
    return [s for s in SITES if s.family == family and not any(isinstance(v, list) for v in s.typed.values())]


# where a setting's default is refused at the place that needs it, the value it starts from
FROM: dict[str, dict[str, Any]] = {"tube-joint through": {"through": "the second"}}
WHERE = {
    "slab-head": "slab head HEB 160 0", "slab-side": "post SHS 40x40x4 0 on a slab's side {'facing': 'left'}",
    "trimmer-cleat": "trimmer Z200x65x20x2 on Z200x65x20x2 start",
    "cap-plate past_top": "girder end UB 457x191x67 end", "cap-plate past_bottom": "girder end UB 457x191x67 end",
    "stitch": "stitch L 100x100x10 0",
    "flange-gusset": "plan L 80x80x8 45 under HEB 200", "flange-gusset side": "plan FL 80x10 under HEB 240", "flange-gusset lines": "plan FL 150x12 under HEB 240", "flange-gusset how": "plan FL 80x10 straight to HEB 240 90",
    "base-plate": "base UC 203x203x46 {}", "fin-plate": "fin UB 203x133x25 flush", "angle-cleats": "cleats UB 203x133x25 flush",
    "end-plate": "end plate IPE 300 flush 0 0", "end-plate cap": "knee 9", "bracing-gusset": "gusset L 80x80x8 0 at 45 on 0", "bracing-gusset overlap": "gusset CHS 88.9x5 0 at 45 on 0",
    "bracing-gusset tube_weld": "gusset CHS 88.9x5 0 at 45 on 0", "bracing-gusset side": "gusset FL 80x10 0 at 45 on 0", "bracing-gusset snipe": "gusset in a corner",
    "bracing-gusset stands": "gusset in a corner", "bracing-gusset beside": "gusset in a corner", "bracing-gusset lines": "gusset FL 80x10 0 at 45 on 0",
    "bracing-gusset through_pitch": "gusset at a cross L 80x80x8 45", "bracing-gusset flat": "gusset pressed flat CHS 88.9x5 40 0.0 0.0 {}", "bracing-gusset taper": "gusset pressed flat CHS 88.9x5 40 0.0 0.0 {}",
    "purlin-cleat lap": "zeds Z 200x65/59x20x2 lapped 300 0 {}",
    **{f"bracing-gusset {s}": "gusset tee SHS 100x100x5 near side 0" for s in ("tube_end", "tee_thickness", "tee_width", "tee_weld", "cap_thickness", "cap_past", "cap_gap", "cap_weld")},
    "rod-through": "rod RD 24 through IPN 300 40", "edge-angle": "edge UB 457x191x67 {'upright': 'the shorter', 'side': 'far side', 'welded': 'at the toe', 'length': 1000.0}", "web-opening": "opening UB 457x191x67 {'shape': 'rectangular', 'flats': 'both sides'}", "flange-plates": "flange plates SHS 100x100x5 SHS 100x100x5 {}", "tube-sleeve": "sleeve SHS 150x150x8 SHS 150x150x8 {}", "tube-sleeve size": "sleeve CHS 114.3x5", "flange-plates count": "flange plates CHS 406.4x10 CHS 406.4x10 {}", "seat-cleat": "seat IPE 300 on HEB 300 0 {}", "splice-covers": "splice UB 457x191x67 UB 457x191x67 outer", "splice-covers division": "column splice UC 254x254x89 UC 254x254x73 {}",
    "splice-covers division_weld": "column splice UC 254x254x89 UC 254x254x73 {}", "cap-plate": "cap UC 203x203x46 0 under UB 406x178x60",
    "fin-plate end_cut": "fin UB 305x165x40 skew 0 slope 12", "fin-plate skewed": "fin IPE 200 bent 25", "fin-plate beyond": "fin IPE 200 through CHS 219.1x8 0", "fin-plate bend_radius": "fin IPE 200 bent 25", "fin-plate reach": "fin UB 457x191x67 past the flanges of HEB 300 {}", "fin-plate stiffeners": "fin UB 457x191x67 past the flanges of HEB 300 {}", "stringer-foot": "stringer UPN 200 {'rods': 2}", **{f"bracing-gusset {s}": "gusset at the middle of UB 305x165x40 -45 stiffened" for s in ("stiffeners", "stiffener_thickness", "stiffener_width", "stiffener_weld")}, **{f"purlin-cleat {s}": "purlins PFC 150x75x18 sleeved 0" for s in ("sleeve", "sleeve_reach", "sleeve_height")}, "wall-bearing": "wall IPE 300 {}", **{f"wall-bearing {s}": "wall IPE 300 {'rods': 'four', 'bearing': 220.0}" for s in ("pitch",)}, "cap-and-base edge": "cap and base UC 203x203x46 on UC 254x254x73 outside", "cap-and-base": "cap and base UC 203x203x46 on UC 254x254x73", "tube-end-plate": "tube end SHS 120x120x5 on UB 610x229x125 90", **{f"purlin-cleat {s}": "purlin UPN 160 on UB 356x171x45 fly brace both sides" for s in ("fly", "fly_size", "fly_bolt", "fly_out", "lug_thickness", "lug_weld")}, **{f"seat-cleat {s}": "seat UB 457x191x67 on HEB 300 0 {'top': 'web cleat'}" for s in ("web_side", "web_rows")}, "post-side weld_leg": "post FL 60x20 90 beside UPN 260", "post-side": "post SHS 40x40x4 beside UPN 240 {'height': 120.0}", "timber-seat": "timber TM 75x225 on a flange ", **{f"timber-seat {s}": "timber TM 75x225 on a web " for s in ("rib", "clear")}, "welded-splice": "welded splice UB 457x191x67 ", "stringer-head": "head UPN 200 {'pitch': (110.0,)}", "cover-plates": "covers IPE 400 {'zone': False}", "cover-plates zone": "covers IPE 400 on HEB 300 ", "turnbuckle": "turnbuckle RD 20 {'opening': 250.0}", **{f"bracing-gusset {s}": "rod RD 20 at 40 on 0" for s in ("fork_start", "fork_width", "fork_cheek", "fork_play")}, "tube-mitre": "mitre SHS 90x90x5 {'joined': 'on a plate'}", "tube-mitre root": "mitre SHS 100x100x4 90", "tube-joint": "tube CHS 88.9x5 on CHS 168.3x6.3 at 45", "tube-joint through": "tubes CHS 76.1x5 over CHS 88.9x5 on CHS 168.3x6.3", "welded-moment": "moment IPE 400 on HEB 300 {}", "sag-rods": "sag rods UPE 160 4 level", "stiffeners": "stiffeners UB 457x191x67 {}", "purlin-cleat": "purlins PFC 150x75x18 meet 0",
}  # fmt: skip


def bare(detail: Detail) -> Detail:
    """A detail without the record of its settings: only what is made."""
    return msgspec.structs.replace(detail, numbers=())


@pytest.mark.parametrize(("name", "setting"), ALL, ids=[f"{n}-{s.name}" for n, s in ALL])
def test_every_setting_does_something(name: str, setting: Setting) -> None:
    """No control that does nothing: another value makes another detail."""
    beside = BESIDE.get(f"{name} {setting.name}", BESIDE.get(setting.name, {}))
    case = case_for(name, setting.name)
    typed = family(name)
    start = {k: v for k, v in beside.items() if k != setting.name} | FROM.get(f"{name} {setting.name}", {})
    before = typed.detail(case, typed.checked(start, HOUSE), HOUSE)
    value: Value
    if (other := OTHER.get(f"{name} {setting.name}", OTHER.get(setting.name))) is not None:
        value = other
    elif setting.kind == "flag":
        value = not before.number(setting.name).value
    elif setting.kind == "choice":
        value = next(c for c in setting.choices if c != before.number(setting.name).value)
    else:
        known = {n.name: n.value for n in before.numbers}
        now = known.get(setting.name, 45.0) if setting.name != "bolt_length" else 45.0
        value = min(setting.high, max(setting.low, float(now or 0) + 13.0))  # type: ignore[arg-type]
    after = typed.detail(case, typed.checked({**beside, setting.name: value}, HOUSE), HOUSE)
    assert bare(after) != bare(before), f"{setting.label} = {value} changes nothing"
    assert not typed.idle(after, [setting.name])  # what does something is told as used


@pytest.mark.parametrize(("name", "setting"), ALL, ids=[f"{n}-{s.name}" for n, s in ALL])
def test_declarations_are_whole(name: str, setting: Setting) -> None:
    assert setting.label and setting.help.endswith(".") and setting.group
    assert setting.kind != "choice" or setting.choices
    for house in (HOUSE, inch_house("yard")):
        standard = setting.standard(house)
        if standard is not None:
            assert check(setting, standard, house) == standard
            if setting.kind == "length":
                assert parse(setting, show(setting, standard, "mm"), "mm") == pytest.approx(standard, abs=0.006)
    if setting.kind in ("length", "count", "spacings"):
        for outside in (setting.low - 1, setting.high + 1):
            with pytest.raises(BadValue):
                check(setting, (outside,) if setting.kind == "spacings" else outside)


@given(st.data(), st.sampled_from(["base-plate", "fin-plate"]), st.sampled_from(["mm", "in", "ft-in"]))
def test_a_value_reads_back_as_shown(data: st.DataObject, name: str, unit: str) -> None:
    values = data.draw(any_settings(name))
    for key, value in values.items():
        s = family(name).setting(key)
        again = parse(s, show(s, value, unit), unit)
        if s.kind == "length" or s.kind == "spacings":
            assert again == pytest.approx(value, abs=0.11)
        elif s.kind == "angle":
            assert again == pytest.approx(value, abs=1e-5)
        elif s.kind == "force":
            assert again == pytest.approx(value, abs=25.0)  # shown to a hundredth of a kip, or of a kN
        else:
            assert again == value


def test_numbers_know_where_they_come_from() -> None:
    d = family("base-plate").detail(foot(), {"plate_thickness": 25.0}, HOUSE)
    assert d.number("plate_thickness").origin == "typed" and d.number("grout").origin == "default"
    assert d.number("anchors_x").origin == "worked out" and d.number("plate_length").origin == "rounded"
    assert d.number("plate_length").rule == "base plate up to steps of 10 mm"
    assert rule_words("gusset", RoundRule(0, "nearest", True), "mm") == "gusset nearest to flat-bar stock"
    assert family("base-plate").detail(foot(), {}, HOUSE, "typical").number("grout").origin == "default"
    assert family("base-plate").detail(foot(), {"grout": 20.0}, HOUSE, "typical").number("grout").origin == "typical"


def test_house_rules_reach_the_details() -> None:
    house = HouseRules(bolt="M24", rounding={"plate width": RoundRule(0, "up", True)}, plate_grade="S355", notch_clearance=30)
    d = family("fin-plate").detail(on_flange("UB 533x210x92"), {}, house)
    assert d.bolts[0].size == "M24" and d.plates[0].grade == "S355" and {h.width for h in d.plates[0].holes} == {26}
    x0, _, x1, _ = d.plates[0].outline.bounds
    assert x1 - x0 in house.flats
    case = on_web("UB 254x146x31", "UB 356x171x51", 7.4, (355.0 - 251.4) / 2)
    low = family("fin-plate").detail(case, {}, HOUSE).notches[0].outline.bounds[1]
    assert family("fin-plate").detail(case, {}, house).notches[0].outline.bounds[1] < low


def test_unknown_names_are_told() -> None:
    with pytest.raises(KeyError, match="plate_thickness"):
        family("fin-plate").setting("thickness")
    with pytest.raises(KeyError, match="fin-plate"):
        family("finplate")
    with pytest.raises(BadValue, match="whole number"):
        check(family("base-plate").setting("vents"), 1.5)
    with pytest.raises(BadValue, match="yes or no"):
        check(family("base-plate").setting("pad"), 3)
    with pytest.raises(BadValue, match="spacing list"):
        check(family("fin-plate").setting("pitch"), 70)
