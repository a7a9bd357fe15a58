"""The detail sheet: true scale, dimensions that measure what they show, texts that do not lie on each other."""

import numpy as np
import pytest
import shapely
from sites import SITES
from test_families import HOUSE, foot, on_flange, on_web
from test_settings import site_case

from tincleat.details.assembled import Assembled
from tincleat.details.parts import Detail
from tincleat.errors import NoFit
from tincleat.families.registry import FAMILIES, family
from tincleat.joints.case import Case
from tincleat.project.entities import HouseRules, inch_house
from tincleat.proof.registry import prove
from tincleat.release.drawing import Drawing
from tincleat.release.sheet import TEXT, compose, pictures
from tincleat.units import format_length


def sheet(case: Case, name: str, typed: dict[str, object] | None = None, size: tuple[float, float] = (118, 110), units: str = "mm") -> Drawing:
    """The sheet of a family at a case."""
    a = Assembled(case, family(name).detail(case, family(name).checked(typed or {}, HOUSE), HOUSE), "EN")
    return compose(pictures(a), prove(a, HOUSE), *size, units, name)


CASES = [
    (on_flange(), "fin-plate"),
    (on_flange("UB 533x210x92"), "fin-plate"),
    (on_web("UB 254x146x31", "UB 356x171x51", 7.4, (355.0 - 251.4) / 2), "fin-plate"),
    (foot(), "base-plate"),
    (foot("CHS 168.3x6.3"), "base-plate"),
]


@pytest.mark.parametrize(("case", "name"), CASES)
@pytest.mark.parametrize("size", [(118, 110), (90, 160), (260, 150)])
def test_everything_lies_on_the_paper(case: Case, name: str, size: tuple[float, float]) -> None:
    d = sheet(case, name, size=size)
    for lines in d.lines:
        if lines.style != "weld" and len(lines.pieces):
            assert lines.pieces.min() > -1 and lines.pieces[:, [0, 2]].max() < size[0] + 1 and lines.pieces[:, [1, 3]].max() < size[1] + 1
    assert {v.name for v in d.views} == {"front", "side", "plan"}
    boxes = [v.box for v in d.views]
    for i, a in enumerate(boxes):
        for b in boxes[i + 1 :]:
            assert a[2] <= b[0] + 0.1 or b[2] <= a[0] + 0.1 or a[3] <= b[1] + 0.1 or b[3] <= a[1] + 0.1


@pytest.mark.parametrize(("case", "name"), CASES)
@pytest.mark.parametrize("size", [(100, 118), (118, 110), (90, 160)])
@pytest.mark.parametrize("units", ["mm", "ft-in"])
def test_no_number_is_cut_by_the_edge_of_the_paper(case: Case, name: str, size: tuple[float, float], units: str) -> None:
    d = sheet(case, name, size=size, units=units)
    assert len(d.dimensions) >= 6
    for dim in d.dimensions:
        # the window draws its letters 0.78 of their height wide, numbers are a little narrower
        wide = len(dim.text + dim.required) * TEXT * 0.78
        left = dim.x - {"left": 0.0, "middle": wide / 2, "right": wide}[dim.anchor]
        assert left > -0.5 and left + wide < size[0] + 0.5, (dim.text, left, wide)
        assert TEXT / 2 < dim.y < size[1] - TEXT / 2, dim.text


@pytest.mark.parametrize(("case", "name"), CASES)
def test_numbers_measure_what_they_show_and_do_not_overlap(case: Case, name: str) -> None:
    d = sheet(case, name)
    settings = {s.name for s in FAMILIES[name].settings}
    rows: dict[tuple[object, ...], list[tuple[float, float]]] = {}
    for dim in d.dimensions:
        assert dim.text == ("" if dim.view else "z") + format_length(dim.measured, "mm")  # a weld's leg stands in no view
        assert dim.setting == "" or dim.setting in settings
        if dim.anchor == "middle":
            rows.setdefault((dim.view, round(dim.y, 2)), []).append((dim.x - dim.width / 2, dim.x + dim.width / 2))
        else:
            rows.setdefault((dim.view, round(dim.x, 2), dim.anchor), []).append((dim.y - TEXT / 2, dim.y + TEXT / 2))
    for spans in rows.values():
        spans.sort()
        assert all(b[0] >= a[1] - 0.01 for a, b in zip(spans, spans[1:], strict=False))


def test_the_plate_is_drawn_to_scale() -> None:
    d = sheet(on_flange(), "fin-plate")
    parts = np.concatenate([x.pieces for x in d.lines if x.style == "part"])
    front = next(v for v in d.views if v.name == "front")
    inside = (
        (parts[:, 0] >= front.box[0] - 0.1) & (parts[:, 2] <= front.box[2] + 0.1) & (parts[:, 1] >= front.box[1] - 0.1) & (parts[:, 3] <= front.box[3] + 0.1)
    )
    x = parts[inside][:, [0, 2]]
    assert (x.max() - x.min()) * d.scale == pytest.approx(90, abs=0.2)


def test_a_breach_shows_its_required_value() -> None:
    d = sheet(on_flange(), "fin-plate", {"edge_distance": 25.0})
    assert [(x.text, x.required) for x in d.dimensions if x.required] == [("25", "≥ 26.4")]
    assert any(s.level == "breach" for s in d.spots)
    assert not any(x.required for x in sheet(on_flange(), "fin-plate").dimensions)


def test_a_rounded_number_tells_its_raw_value_and_rule() -> None:
    d = sheet(foot(), "base-plate")
    raw = next(x.raw for x in d.dimensions if x.setting == "plate_length")
    assert raw == "393.2 → 400, base plate up to steps of 10 mm"


def test_inches() -> None:
    d = sheet(on_flange(), "fin-plate", {"pitch": (76.2, 76.2)}, units="in")
    assert '3"' in [x.text for x in d.dimensions]


def test_hidden_parts_are_dashed() -> None:
    # seen from the front, the plate on the far side lies behind the web
    d = sheet(on_flange(), "fin-plate", {"sides": "far side"})
    assert sum(len(x.pieces) for x in d.lines if x.style == "hidden") > 10


@pytest.mark.parametrize("size", [(118, 110), (118, 86)])
@pytest.mark.parametrize("name", FAMILIES)
def test_every_family_has_its_titles_and_numbers_on_the_paper(name: str, size: tuple[float, float]) -> None:
    places = [s for s in SITES if s.family == name]
    for site in places[:: max(1, len(places) // 6)]:
        case, house = site_case(site), inch_house("") if site.inch else HOUSE
        a = Assembled(case, family(name).detail(case, family(name).checked(site.typed, house), house), house.rule_set)
        d = compose(pictures(a), (), *size, house.units, name)
        shown = [(t.text, t.x, len(t.text) * t.height * 0.78, t.anchor) for t in d.texts if "1:" in t.text]
        shown += [(x.text, x.x, len(x.text + x.required) * x.height * 0.78, x.anchor) for x in d.dimensions]
        assert len([t for t in d.texts if "1:" in t.text]) == len(d.views) >= 2
        for text, x, wide, anchor in shown:
            left = x - {"left": 0.0, "middle": wide / 2, "right": wide}[anchor]
            assert left > -0.6 and left + wide < size[0] + 0.6, (site.name, text, left, wide)  # numbers are narrower than 0.78


@pytest.mark.parametrize(
    ("site", "shown"),
    [
        ("fin IPE 300 skew 31 slope 0", {"59.0°"}), ("fin IPE 300 skew 0 slope 12", {"78.0°"}), ("fin IPE 300 skew 0 slope 0", set()), ("gusset CHS 88.9x5 0 at 30 on 0", {"60.0°"}),
        ("gusset CHS 88.9x5 0 at 60 on 0", set()),  # its working point lies far off the picture
        ("gusset for two on a column", {"50.0°"}), ("knee 9", {"81.0°"}),
    ],
)  # fmt: skip
def test_angles_are_written_where_they_are_not_square(site: str, shown: set[str]) -> None:
    found = next(s for s in SITES if s.name == site)
    d = sheet(site_case(found), found.family, size=(420, 297))
    degrees = [t for t in d.texts if t.text.endswith("°") and "." in t.text]  # a groove weld's opening is told in whole degrees
    assert {t.text for t in degrees} == shown
    # off every line that is drawn
    lines = [piece for some in d.lines if some.style not in ("centre", "break") for piece in some.pieces]
    for t in degrees:
        box = shapely.box(t.x - 3, t.y - 1.1, t.x + 3, t.y + 1.1)
        assert not [p for p in lines if box.intersects(shapely.LineString([p[:2], p[2:]]))]


def test_both_systems_where_there_is_room() -> None:
    case = on_flange()
    a = Assembled(case, family("fin-plate").detail(case, {}, HOUSE), "EN")
    broad, narrow, plain = (compose(pictures(a), (), wide, 150, "mm", "fin-plate", dual=dual) for wide, dual in ((220, True), (118, True), (220, False)))
    # every number has its inches under it: 40 mm are 1 9/16 in to a sixteenth, 70 are 2 3/4
    others = {t.text for t in broad.texts if t.over}
    assert {'[1 9/16"]', '[2 3/4"]'} <= others and sum(t.over for t in broad.texts) == sum(bool(d.measured) for d in broad.dimensions if d.view)
    for d in (d for d in broad.dimensions if d.text in ("40", "70")):
        under = [t for t in broad.texts if t.over and abs(t.x - d.x) < 0.01 and t.y < d.y and t.text == {"40": '[1 9/16"]', "70": '[2 3/4"]'}[d.text]]
        assert under and min(d.y - t.y for t in under) < 6.0
    # narrow paper tells them beside the number that is pointed at
    assert not [t for t in narrow.texts if t.over] and {d.other for d in narrow.dimensions if d.text == "40"} == {'[1 9/16"]'}
    assert not [t for t in plain.texts if t.over] and not any(d.other for d in plain.dimensions)
    # nothing stands on anything
    boxes = [shapely.box(t.x - w, t.y - t.height / 2, t.x + w, t.y + t.height / 2) for t in broad.texts if t.over and t.anchor == "middle" for w in (len(t.text) * t.height * 0.3,)]
    assert all(not a_.intersects(b) for i, a_ in enumerate(boxes) for b in boxes[:i])
    inch = compose(pictures(a), (), 220, 150, "ft-in", "fin-plate", dual=True)
    assert "[40]" in {t.text for t in inch.texts if t.over}


def test_inches_with_decimals() -> None:
    assert {"1.5748\"", "2.7559\""} <= {x.text for x in sheet(on_flange(), "fin-plate", units="in-decimal").dimensions}


def otherwise(name: str, case: Case, typed: dict[str, object], setting: str, now: float, house: HouseRules) -> Detail:
    """A detail with one leg typed otherwise, 2 mm more if that is not refused."""
    for more in (2.0, -2.0, 1.0, -1.0):
        try:
            return family(name).detail(case, family(name).checked({**typed, setting: now + more}, house), house)
        except NoFit:
            continue
    raise AssertionError(f"{name}: no other {setting}")


def test_a_legs_number_at_its_symbol_changes_those_welds() -> None:
    """Whatever setting a symbol's number claims to be: typed a little more, or less, all fillets that had the leg have another."""
    looked: set[str] = set()
    for name in FAMILIES:
        mine = [s for s in SITES if s.family == name and not any(isinstance(v, list) for v in s.typed.values())]
        for site in mine[:: max(1, len(mine) // 3)][:3]:
            house, case = inch_house("") if site.inch else HOUSE, site_case(site)
            a = Assembled(case, family(name).detail(case, family(name).checked(site.typed, house), house), house.rule_set)
            for x in compose(pictures(a), (), 200, 150, house.units, name).dimensions:
                if x.view:
                    continue
                after = otherwise(name, case, site.typed, x.setting, x.measured, house)
                had = {w.name for w in a.detail.welds if w.kind == "fillet" and abs(w.leg - x.measured) < 1e-6}
                assert had and not [w.name for w in after.welds if w.name in had and abs(w.leg - x.measured) < 1e-6], (site.name, x.setting)
                looked.add(name)
    assert len(looked) > 20


def test_a_leg_that_two_settings_ask_for_is_no_number_to_click() -> None:
    same = {"flange_weld": 6.0, "web_weld": 6.0}
    assert not [x for x in sheet(foot(), "base-plate", same).dimensions if not x.view]
    assert "z6" in [t.text for t in sheet(foot(), "base-plate", same).texts]
    apart = sheet(foot(), "base-plate", {"flange_weld": 8.0, "web_weld": 6.0})
    assert {(x.text, x.setting) for x in apart.dimensions if not x.view} == {("z8", "flange_weld"), ("z6", "web_weld")}


def test_a_leg_in_breach_tells_what_it_needs() -> None:
    """EN 1993-1-8 4.5.2: a throat of 3 mm at least, which a leg of 3 / 0.7071 = 4.24 mm has; 3 mm of leg have 2.12."""
    d = sheet(on_flange(), "fin-plate", {"weld_leg": 3.0})
    (leg,) = [x for x in d.dimensions if not x.view]
    assert (leg.text, leg.setting) == ("z3", "weld_leg") and any(f.rule == "fillet-throat" and f.level == "breach" for f in prove(Assembled(on_flange(), family("fin-plate").detail(on_flange(), {"weld_leg": 3.0}, HOUSE), "EN"), HOUSE))
