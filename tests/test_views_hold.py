"""What a detail makes lies in its views, with room round it: nothing is cut off a sheet but what is broken off on purpose."""

from typing import Any

import numpy as np
import pytest
from sites import SITES
from test_settings import plain_sites, site_made

from tincleat.details.bodies import bodies

FAMILIES = sorted({s.family for s in SITES})
# a stretch of what goes on for metres: the angle along a beam's edge, bars from one purlin to the next
BROKEN_OFF = {("edge-angle", "Along"), *(("sag-rods", t) for t in ("Rod", "From above", "Along the members"))}
ROOM = 4.0  # mm of paper's worth between the last of the steel and the view's border


@pytest.mark.parametrize("family", FAMILIES)
def test_every_part_lies_in_every_view(family: str) -> None:
    bad: list[Any] = []
    for site in plain_sites(family):
        made = site_made(site.name)
        own = [b.mesh.points for b in bodies(made.assembled, 1, reach=1.0) if b.kind in ("plate", "piece", "head", "shank", "weld", "rod")]
        if not own:
            continue
        points = np.concatenate(own)
        for view in (v for v in made.detail.views if v.clip is not None):
            if (family, view.title) in BROKEN_OFF or (family, view.title.split()[0]) in BROKEN_OFF:
                continue
            low, high = np.array(view.clip[:2]), np.array(view.clip[2:])
            flat = view.frame.to_local(points)[:, :2]
            if (flat.min(axis=0) < low + ROOM).any() or (flat.max(axis=0) > high - ROOM).any():
                bad.append((site.name, view.title, [round(float(x), 1) for x in (*(flat.min(axis=0) - low), *(high - flat.max(axis=0)))]))
    assert not bad, bad
