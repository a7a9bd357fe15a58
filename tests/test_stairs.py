"""Stringer feet by hand: where the stringer lands, its plate, rods and welds, what is refused; and which ends are sloping feet."""

import math
import re
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from sites import brace
from sites_feet import stringer
from test_new_families import breaches, joined, made

from tincleat.commands.desk import Desk
from tincleat.errors import TinCleatError


def foot(path: Path, section: str = "UPN 200", slope: float = 35.0, **typed: Any) -> Any:
    return joined(path, [stringer(section, slope)], "stringer-foot", "M1.start", **typed)[1]


def test_where_the_stringer_lands(tmp_path: Path) -> None:
    e = foot(tmp_path)
    d = made(e)
    (plate,) = d.plates
    # cut level 12 up: the middle line is 12 / tan 35 = 17.14 on, the foot 200 / sin 35 = 348.69 long; 15 past it each way, on 10: 380
    t = math.radians(35)
    low, high = 12 / math.tan(t) - 100 / math.sin(t), 12 / math.tan(t) + 100 / math.sin(t)
    assert plate.outline.bounds[2] * 2 == pytest.approx(380) and plate.frame.origin[0] == pytest.approx((low + high) / 2, abs=0.01)
    assert d.ends[0].point[2] == 12.0 and d.ends[0].normal == (0, 0, 1) and not breaches(e)
    # rods beside it: 75 of flange, 2 x (weld 6 + nut 24) or half a washer of 50 more: 75 + 2 x 31 = 137, on 10: 140
    assert sorted({round(r.y, 2) for r in d.rods}) == [-70.0, 70.0] and d.number("gauge").value == 140.0
    # both faces of the web; the back over its whole depth, the inner face between the roots, each less what the leg's height takes
    lengths = sorted(math.dist(w.start, w.end) for w in d.welds)
    assert len(lengths) == 2 and lengths[1] == pytest.approx(200 / math.sin(t) - d.welds[0].leg / math.tan(t), abs=0.05) and lengths[0] < lengths[1]


def test_rows_of_rods_and_levels(tmp_path: Path) -> None:
    d = made(foot(tmp_path / "a", rods=3))
    xs = sorted({round(r.x, 2) for r in d.rods})
    assert len(d.rods) == 6 and xs[1] - xs[0] == pytest.approx(65.0) and xs[2] - xs[1] == pytest.approx(65.0)  # 4 d = 64, on 5
    d = made(foot(tmp_path / "b", grout=20.0, foot_means="top of plate"))
    # the drawn end is the plate's top: 12 of plate and 20 of grout below it
    assert d.ends[0].point[2] == 0.0 and d.plates[0].frame.origin[2] == -12.0 and d.rods[0].bottom == pytest.approx(-32 - 125)


@pytest.mark.parametrize(
    ("member", "words"),
    [
        (stringer("CHS 114.3x5", 35), "CHS 114.3x5 is a CHS section"), (stringer("UPN 200", 35, roll_deg=20.0), "the web leans"),
        (stringer("UPN 200", 10), "this is a free end"), ({**stringer("UPN 200", 35), "role": "brace"}, "this is a free end"),
    ],
)  # fmt: skip
def test_what_it_refuses(tmp_path: Path, member: dict[str, Any], words: str) -> None:
    with pytest.raises(TinCleatError, match=words):
        joined(tmp_path, [member], "stringer-foot", "M1.start")


def test_which_ends_are_sloping_feet(tmp_path: Path) -> None:
    desk = Desk.create(tmp_path / "p.tincleat")
    desk.run("add-members", members=[stringer("UPN 200", 35), {**stringer("UPN 200", 35, True), "start": [20000 + 2457, 0, 1721], "end": [20000, 0, 0]}, {**brace("CHS 88.9x5", 40), "start": [40000, 0, 0], "end": [42000, 0, 1700]}])
    kinds = {k: e.joint.kind for k, e in desk.ledger.entries.items()}
    # the lower end, whichever was drawn first; the upper one and a brace's stay free
    assert kinds == {"m1.start": "sloping foot", "m1.end": "free end", "m2.start": "free end", "m2.end": "sloping foot", "m3.start": "free end", "m3.end": "free end"}
    desk.run("place-connection", family="left-plain", at=["m1.start"])
    assert desk.ledger.entries["m1.start"].left_plain


def head(path: Path, section: str = "UPN 200", slope: float = 35.0, support: str = "UB 533x210x92", dz: float = 60.0, **typed: Any) -> Any:
    t = math.radians(slope)
    falls = {"section": section, "role": "beam", "start": [0, -3500 * math.cos(t), 3000 + dz - 3500 * math.sin(t)], "end": [0, 0, 3000 + dz]}
    carrier = {"section": support, "role": "beam", "start": [-4000, 0, 3000], "end": [4000, 0, 3000]}
    return joined(path, [carrier, falls], "stringer-head", "M2.end", **typed)[1]


def test_a_stringers_head(tmp_path: Path) -> None:
    e = head(tmp_path / "a")
    d = made(e)
    (plate,) = d.plates
    # UPN 200 at 35 degrees stands 200 / cos 35 = 244.2 high on the plate; 10 past both ends, on 5: 265; between M16 beside a web of 8.5:
    # 6 of weld, half a washer of 30 and 2 are 23, less than a socket's room: 8.5 + 2 x 25.4 = 59.3, on 5: 60; edges 1.2 x 18 = 21.6, 1.5 x 16 = 24: 25
    x0, y0, x1, y1 = plate.outline.bounds
    assert y1 - y0 == pytest.approx(265.0) and x1 - x0 == pytest.approx(110.0)
    xs = sorted({round(h.x, 3) for h in plate.holes})
    assert xs == [-30.0, 30.0]
    # the stringer is cut along the plate's outer face, 10 off the web's
    (cut,) = d.ends
    n = e.joint.frame.turn(np.array(cut.normal))
    assert abs(n[2]) < 1e-4 and e.joint.frame.to_world([cut.point])[0][1] == pytest.approx(-(10.1 / 2 + 10.0), abs=0.05)
    # fillets on both faces of the web: on the channel's back over its whole depth less what slants away, 6 tan 35 = 4.2
    back, inner = sorted(d.welds, key=lambda w: -math.dist(w.start, w.end))
    assert math.dist(back.start, back.end) == pytest.approx(244.2 - 4.2, abs=0.1) and math.dist(inner.start, inner.end) < 244.2 - 4.2 - 20
    for fitted in e.made.assembled.fitted:
        assert len(fitted.plies) == 2 and fitted.grip == pytest.approx(10.0 + 10.1, abs=0.01)
    assert not breaches(e)


def test_a_steep_stringer_meets_the_beams_lower_flange(tmp_path: Path) -> None:
    # its middle 35 or so under the beam's, whose lower flange begins 226.7 - 12.7 - 10.2 under that at the root and goes out to 90.7 from the web
    with pytest.raises(TinCleatError, match=r"would run into UB 457x191x67 17\d mm under its middle, 7\d mm off the plate"):
        head(tmp_path / "a", support="UB 457x191x67", dz=-30.0, slope=38.0)
    for n, (typed, words) in enumerate((
        ({"slope": 8.0}, r"8\.0° off square"), ({"dz": 160.0}, "past the flat of UB 533x210x92"), ({"section": "SHS 100x100x5"}, "SHS 100x100x5 is a RHS section"),
        ({"height": 150.0, "pitch": (60.0,)}, "the plate is 150 mm high"),
    )):  # fmt: skip
        try:
            head(tmp_path / str(n), **typed)  # type: ignore[arg-type]
        except TinCleatError as error:
            assert re.search(words, str(error)), error
        else:
            raise AssertionError(words)
