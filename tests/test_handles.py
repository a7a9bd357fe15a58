"""What is pulled goes where it is pulled to: every handle of every site of loose parts, each of its ways, as told and mirrored."""

from typing import Any

import numpy as np
import pytest
from sites import SITES, Site
from test_settings import site_case

from tincleat.details.parts import Detail
from tincleat.errors import TinCleatError
from tincleat.families.registry import family
from tincleat.project.entities import HouseRules, inch_house

FAR = 10.0  # mm


def after(typed: dict[str, Any], detail: Detail, rates: tuple[tuple[str, int, float], ...]) -> dict[str, Any]:
    """Settings after a pull, by what the handle says of each."""
    now, out = {n.name: n.value for n in detail.numbers}, dict(typed)
    for name, i, rate in rates:
        value: Any = out.get(name, now.get(name))
        if i < 0:
            out[name] = float(value or 0.0) + rate * FAR
        else:
            out[name] = tuple(v + rate * FAR * (k == i) for k, v in enumerate(value))
    return out


@pytest.mark.parametrize("hand", ["as told", "mirrored"])
@pytest.mark.parametrize("site", [s for s in SITES if s.family == "loose"], ids=lambda s: s.name)
def test_a_handle_goes_where_it_is_pulled(site: Site, hand: str) -> None:
    kind, case, house = family("loose"), site_case(site), inch_house("") if site.inch else HouseRules()
    typed = {**kind.checked(site.typed, house), "hand": hand}
    detail = kind.detail(case, typed, house)
    butted = "butt" in site.name or "edge to edge" in site.name  # the first plate is laid to the opening of its weld, wherever it was told to lie
    # the foot of a piece that goes to a point lies where its slanting end meets the face: it follows by what it leans
    slack = 2.0 if "to a point" in site.name else 0.05
    for h in detail.handles:
        for p in h.pulls:
            try:
                there = kind.detail(case, kind.checked(after(typed, detail, p.rates), house), house)
            except TinCleatError:
                continue  # there is no room for it, which is told
            want = np.array(h.at) + np.array(p.way) * FAR
            near = min(float(np.linalg.norm(np.array(g.at) - want)) for g in there.handles if g.words == h.words)
            assert near < slack or (butted and "plate 1" in h.words), (h.words, p.rates, near)
