"""A number on a sheet that edits a setting shows that setting's own value: measured on the sheet, over all families."""

import math

import numpy as np
import pytest
from sites import SITES
from test_settings import site_case

from tincleat.families.registry import family
from tincleat.project.entities import HouseRules, inch_house

# settings that tell a least, before the plate's size is rounded, or a distance along something that leans: the sheet shows what comes of them
LEAST = {
    ("fin-plate", "setback"), ("fin-plate", "plate_width"), ("fin-plate", "edge_distance"), ("base-plate", "projection"), ("stringer-foot", "past"), ("end-plate", "end_distance"),
    ("tube-mitre", "past"), ("tube-end-plate", "edge"), ("stiffeners", "height"), ("post-side", "edge"), ("slab-head", "projection"), ("welded-moment", "edge_distance"), ("cover-plates", "gap"),
    ("cover-plates", "edge_distance"), ("slab-side", "edge"), ("loose", "length"), ("loose", "width"),
}  # fmt: skip
EVERY = 3  # so many-th of a family's sites


@pytest.mark.parametrize("name", sorted({s.family for s in SITES}))
def test_a_dimension_shows_its_setting(name: str) -> None:
    wrong = []
    for site in [s for s in SITES if s.family == name][::EVERY]:
        house = inch_house("") if site.inch else HouseRules()
        kind, case = family(name), site_case(site)
        detail = kind.detail(case, kind.checked(site.typed, house), house)
        numbers = {n.name: n.value for n in detail.numbers}
        frames = {v.name: v.frame for v in detail.views}
        for d in detail.dimensions:
            along = frames[d.view].to_local(np.array(d.points))[:, 0 if d.side in ("top", "bottom") else 1]
            for setting, gap in zip(d.settings, np.abs(np.diff(along)).tolist(), strict=True):
                value = numbers.get(setting)
                told = [value] if isinstance(value, float) else list(value) if isinstance(value, tuple) else []
                if told and (name, setting.partition("/")[0]) not in LEAST and not any(math.isclose(abs(float(v)), gap, abs_tol=0.06) for v in told):
                    wrong.append((site.name, d.view, setting, round(gap, 2), value))
    assert not wrong, wrong[:5]


def test_cleats_of_a_sloping_beam_are_dimensioned_as_they_are_made() -> None:
    """Rows of 50 and ends of 40 on a face that leans by 10 degrees to the beam: not 49.24 and 39.39, as they look from beside the beam."""
    site = next(s for s in SITES if s.name == "cleats IPE 200 slope 10 {}")
    kind, house = family("angle-cleats"), HouseRules()
    detail = kind.detail(site_case(site), {}, house)
    front = next(v.frame for v in detail.views if v.name == "front")
    chain = next(d for d in detail.dimensions if d.view == "front" and "pitch" in d.settings)
    assert np.abs(np.diff(front.to_local(np.array(chain.points))[:, 1])) == pytest.approx([40.0, 50.0, 40.0])


def test_an_askew_end_plate_is_dimensioned_where_it_lies() -> None:
    """The plate is moved aside on its face to where the beam comes: its width's ends lie on its edges."""
    site = next(s for s in SITES if s.name == "end plate IPE 240 flush -8 -8")
    kind = family("end-plate")
    detail = kind.detail(site_case(site), {}, HouseRules())
    view = next(v.frame for v in detail.views if v.name == "side")
    (width,) = (d for d in detail.dimensions if d.settings == ("width",))
    plate = detail.plates[0]
    x0, _, x1, _ = plate.outline.bounds
    edges = view.to_local(plate.frame.to_world([(x0, 0.0, 0.0), (x1, 0.0, 0.0)]))[:, 0]
    assert sorted(view.to_local(np.array(width.points))[:, 0].tolist()) == pytest.approx(sorted(edges.tolist())) and abs(edges.sum()) > 1.0
