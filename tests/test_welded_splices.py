"""Welded splices by hand: grooves, what is cut of the members, backing; what is refused."""

import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from test_new_families import breaches, joined, made

from tincleat.catalogue.sections import section
from tincleat.errors import TinCleatError
from tincleat.release.bill import bill


def beams(a: str = "UB 457x191x67", b: str = "UB 457x191x67", dz: float = 0.0, **more: Any) -> list[dict[str, Any]]:
    return [
        {"section": a, "role": "beam", "start": [0, 0, 3000], "end": [3000, 0, 3000]},
        {"section": b, "role": "beam", "start": [3000, 0, 3000 + dz], "end": [7000, 0, 3000 + dz], **more},
    ]


def test_a_beam_from_above(tmp_path: Path) -> None:
    desk, e = joined(tmp_path / "a", beams(), "welded-splice", "M1.end")
    d = made(e)
    # UB 457x191x67: 453.4 deep, flange 189.9 x 12.7, web 8.5.  Both grooves open upward, 10 wide at the root: that of the top flange at its
    # inner face, 226.7 - 12.7 = 214, that of the bottom flange at its outer one, -226.7
    top, bottom, web = (next(w for w in d.welds if w.name == n) for n in ("top flange groove", "bottom flange groove", "web groove"))
    assert {w.opening for w in d.welds} == {10.0} and top.leg == pytest.approx(12.7) and web.leg == pytest.approx(8.5)
    assert top.start[2] == pytest.approx(214.0) and bottom.start[2] == pytest.approx(-226.7) and top.u == bottom.u == pytest.approx((0.0, 0.0, 1.0))
    assert math.dist(top.start, top.end) == pytest.approx(189.9) and all(w.site for w in d.welds)
    # access holes: 20 high at least, 1.5 x 8.5 less than 38.1: on 5: 40 long; the web is welded between them
    assert d.number("hole_height").value == 20.0 and d.number("hole_length").value == 40.0
    assert math.dist(web.start, web.end) == pytest.approx(2 * (214.0 - 20.0))
    # the ends stand 10 apart
    assert sorted(round(c.point[0], 3) for c in d.ends) == [-5.0, 5.0]
    # backing: 10 x 40, past the flange by 10 on both sides, under each root
    bars = {p.name: p for p in d.plates}
    over = bars["backing, top flange"]
    x0, y0, x1, y1 = over.outline.bounds
    assert (x1 - x0, y1 - y0) == pytest.approx((40.0, 209.9)) and over.frame.origin[2] == pytest.approx(204.0)
    assert bars["backing, bottom flange"].frame.origin[2] == pytest.approx(-236.7)
    assert not breaches(e)
    # the first member loses: 5 of its length; each flange half of 12.7 x 12.7 tan 30 x 189.9; holes and the web's bevel besides
    line = next(x for x in bill(desk.ledger) if x.kind == "beam" and x.length < 3001)
    area = section("UB 457x191x67").area
    lost = area * 2995 - line.mass_each / 7.85e-6
    flanges = 2 * 12.7 * 12.7 * math.tan(math.radians(30)) / 2 * 189.9
    assert flanges < lost < flanges + 40000


def test_a_column_from_outside(tmp_path: Path) -> None:
    stack = [{"section": "HEB 300", "role": "column", "start": [0, 0, 0], "end": [0, 0, 3000]}, {"section": "HEB 300", "role": "column", "start": [0, 0, 3000], "end": [0, 0, 7000]}]
    _, e = joined(tmp_path / "a", stack, "welded-splice", "M2.start")
    d = made(e)
    first, second = (next(w for w in d.welds if w.name == n) for n in ("top flange groove", "bottom flange groove"))
    # both roots at the inner faces, opening outward
    assert np.allclose(np.array(first.u), -np.array(second.u)) and d.number("flanges").value == "from outside"
    assert abs(first.start[2] - second.start[2]) == pytest.approx(300 - 2 * 19)
    # the web's bar stays between the roots: 300 - 2 (19 + 27) = 208, the holes leave 300 - 2 (19 + 20) = 222
    bar = next(p for p in d.plates if p.name == "backing, web")
    assert bar.outline.bounds[3] - bar.outline.bounds[1] == pytest.approx(208.0) and not breaches(e)


def test_what_is_refused(tmp_path: Path) -> None:
    for n, (members, typed, words) in enumerate((
        (beams("UB 457x191x67", "UB 457x191x98"), {}, "453.4 mm deep, UB 457x191x98 467.2"),
        (beams("PFC 300x100x46", "PFC 300x100x46"), {}, "is a C section"), (beams("IPN 300", "IPN 300"), {}, "tapered"),
        (beams(dz=5.0), {}, "5.0 mm apart in depth"), (beams(), {"backing": 30.0, "hole_height": 20.0}, "does not pass an access hole 20 mm high"),
        (beams("IPE 160", "IPE 160"), {"hole_height": 40.0}, "of the web of IPE 160"), (beams(), {"hole_radius": 30.0}, "a radius of 30 mm"),
    )):  # fmt: skip
        with pytest.raises(TinCleatError, match=words):
            joined(tmp_path / str(n), members, "welded-splice", "M1.end", **typed)


def test_the_limit_of_a_fillet_along_an_edge_is_none_of_a_grooves(tmp_path: Path) -> None:
    stack = [{"section": "W14X90", "role": "column", "start": [0, 0, 0], "end": [0, 0, 3000]}, {"section": "W14X90", "role": "column", "start": [0, 0, 3000], "end": [0, 0, 7000]}]
    _, e = joined(tmp_path / "a", stack, "welded-splice", "M2.start", True)
    assert not breaches(e) and not [f for f in e.findings if f.rule == "fillet-leg-greatest"]
