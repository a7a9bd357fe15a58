"""Plates under slabs, by hand: where plate, mortar and rods lie, what the head stands for, what is refused."""

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from site_parts import column
from test_new_families import breaches, joined

from tincleat.errors import TinCleatError
from tincleat.release.sheet import compose, pictures


def head(path: Path, section: str = "HEB 200", height: float = 3000.0, **typed: Any) -> Any:
    return joined(path, [{**column(section), "role": "post", "end": [0, 0, height]}], "slab-head", "M1.end", **typed)[1]


def heights(entry: Any, *zs: float) -> list[float]:
    return [round(float(entry.joint.frame.to_world([(0.0, 0.0, z)])[0][2]), 3) for z in zs]


def test_plate_mortar_and_rods_under_a_slab(tmp_path: Path) -> None:
    """The slab's underside at 3000: 20 of mortar, 12 of plate down to 2968, where the post ends; M16 rods 125 up into the slab."""
    e = head(tmp_path)
    d = e.made.detail
    (plate,) = d.plates
    corners = e.joint.frame.to_world(plate.frame.to_world([(0.0, 0.0, 0.0), (0.0, 0.0, plate.thickness)]))
    assert sorted(corners[:, 2].tolist()) == pytest.approx([2968.0, 2980.0]) and plate.name == "head plate"
    assert heights(e, *(r.bottom for r in d.rods)) == [3125.0] * len(d.rods) and all(h < 2968 for h in heights(e, *(r.top for r in d.rods)))
    assert e.joint.frame.to_world([d.ends[0].point])[0][2] == pytest.approx(2968.0)
    slab = next(b for b in d.blocks if b.name == "slab")
    assert sorted(e.joint.frame.to_world(slab.frame.to_world([(0.0, 0.0, 0.0), (0.0, 0.0, slab.thickness)]))[:, 2].tolist()) == pytest.approx([3000.0, 3200.0])
    assert not breaches(e) and {w.parts for w in d.welds} == {("head plate", "supported member")}


@pytest.mark.parametrize(("means", "top"), [("underside of slab", 2980.0), ("top of plate", 3000.0), ("end of post", 3012.0)])
def test_what_the_drawn_head_stands_for(tmp_path: Path, means: str, top: float) -> None:
    e = head(tmp_path, head_means=means)
    plate = e.made.detail.plates[0]
    assert float(e.joint.frame.to_world(plate.frame.to_world([(0.0, 0.0, 0.0), (0.0, 0.0, plate.thickness)]))[:, 2].max()) == pytest.approx(top)


def test_the_sheet_stands_upright_and_its_numbers_edit_the_heads_own_settings(tmp_path: Path) -> None:
    e = head(tmp_path)
    d = compose(pictures(e.made.assembled), e.findings, 160, 110, "mm", "slab-head", at=e.joint.frame)
    names = {x.setting for x in d.dimensions if x.setting}
    assert {"gap", "plate_thickness", "anchors_x", "plate_length"} <= names and "grout" not in names
    front = next(v for v in d.views if v.name == "front")
    assert float(e.joint.frame.turn(np.array(front.frame.y))[2]) == pytest.approx(1.0)  # up on the paper is up


def test_what_a_slab_does_not_hold_is_refused(tmp_path: Path) -> None:
    with pytest.raises(TinCleatError, match="rods 190 mm up leave 10 mm of a slab 200 mm deep"):
        head(tmp_path / "a", embedment=190.0)
    assert not breaches(head(tmp_path / "b", rod_foot="through"))
    with pytest.raises(TinCleatError, match=r"leans 1\d\.\d°"):
        joined(tmp_path / "c", [{"section": "HEB 200", "role": "post", "start": [0, 0, 0], "end": [800, 0, 3000]}], "slab-head", "M1.end")
