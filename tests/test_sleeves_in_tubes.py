"""Sleeves inside tubes by hand: flats on square walls, a tube in a round one, fillets along the ends, what they refuse."""

import math
from pathlib import Path

import msgspec
import numpy as np
import pytest
from sites import spliced
from test_new_families import breaches, joined, made

from tincleat.details.assembled import Assembled
from tincleat.errors import TinCleatError
from tincleat.project.entities import HouseRules
from tincleat.proof.welds import fillets, length
from tincleat.release.sheet import compose, pictures


def test_flats_in_a_square_tube_by_hand(tmp_path: Path) -> None:
    """SHS 150x150x8: 134 inside, walls rounded by 16 outside, 8 inside."""
    _, e = joined(tmp_path, spliced("SHS 150x150x8", "SHS 150x150x8"), "tube-sleeve", "M1.start")
    d = made(e)
    assert len(d.plates) == 4 and {p.thickness for p in d.plates} == {8}
    # 134 less twice the flat beside it and 2: 134 - 2 x (8 + 2) = 114 wide; 0.7 x 8 = 5.6 up to 6; a gap of 2 x 6 + 5 up to 20; 150 into each tube
    assert d.number("weld_leg").value == 6 and d.number("gap").value == 20 and d.number("reach").value == 150
    for p in d.plates:
        x0, y0, x1, y1 = p.outline.bounds
        assert (x1 - x0, y1 - y0) == (320, 114)
    assert len(d.welds) == 8 and all(length(w) == pytest.approx(114) for w in d.welds) and sum(w.site for w in d.welds) == 4
    # the tubes end 10 to each side of the joint, and weigh that much less
    assert sorted(round(float(c.point[0]), 3) for c in d.ends) == [-10, 10] and not breaches(e)


def test_a_tube_in_a_round_one_by_hand(tmp_path: Path) -> None:
    """CHS 114.3x5: 104.3 inside; CHS 101.6 leaves (104.3 - 101.6) / 2 = 1.35 a side."""
    _, e = joined(tmp_path / "a", spliced("CHS 114.3x5", "CHS 114.3x5"), "tube-sleeve", "M1.start")
    d = made(e)
    (sleeve,) = d.pieces
    assert sleeve.shape.h == 101.6 and not breaches(e)
    # the least throat of 3 is a leg of 4.24, and 1.35 over the play: 5.6, up to 6 or as the house rounds
    leg = d.number("weld_leg")
    assert leg.raw == pytest.approx(3 * math.sqrt(2) + 1.35, abs=0.01) and leg.value == math.ceil(leg.raw)
    gap = next(f for f in e.findings if f.rule == "weld-gap" and f.part == "sleeve to supported member")
    assert gap.actual == pytest.approx(1.35, abs=0.01)  # the play, in the middle of a chord that touches the sleeve
    for i, (name, typed, words) in enumerate((
        ("CHS 168.3x6.3", {}, r"no listed tube goes into CHS 168\.3x6\.3.*155\.7 mm inside, the next is 1[345]\d\."), ("CHS 114.3x5", {"size": "CHS 114.3x4"}, "does not go into"), ("CHS 114.3x5", {"gap": 5.0}, "does not hold two fillets"),
        ("SHS 40x40x4", {}, r"fillet of 5.0 mm does not lie on the end of a wall 4 mm thick"), ("SHS 60x60x5", {"thickness": 20.0}, "on its wall"),
    )):  # fmt: skip
        with pytest.raises(TinCleatError, match=words):
            joined(tmp_path / str(i), spliced(name, name), "tube-sleeve", "M1.start", **typed)
    with pytest.raises(TinCleatError, match="one sleeve does not lie on both"):
        joined(tmp_path / "u", spliced("SHS 150x150x8", "SHS 150x150x5"), "tube-sleeve", "M1.start")
    with pytest.raises(TinCleatError, match="hollow sections"):
        joined(tmp_path / "v", spliced("IPE 300", "IPE 300"), "tube-sleeve", "M1.start")


def test_a_fillet_off_the_end_of_its_tube_is_told(tmp_path: Path) -> None:
    """A gap typed wider than the tubes are cut for is a breach of the proof, not of the setting: the shape is moved by hand."""
    _, e = joined(tmp_path, spliced("CHS 114.3x5", "CHS 114.3x5"), "tube-sleeve", "M1.start")
    a = e.made.assembled
    away = np.array(a.case.members[0].away)
    moved = msgspec.structs.replace(a.detail, welds=tuple(msgspec.structs.replace(w, start=tuple(np.array(w.start) - 4 * away), end=tuple(np.array(w.end) - 4 * away)) for w in a.detail.welds if "supported" in w.name))
    (found,) = [f for f in fillets(Assembled(a.case, moved, a.rules), HouseRules()) if f.rule == "weld-gap" and f.level == "breach"]
    assert found.actual == pytest.approx(math.hypot(4.0, 1.35), abs=0.02)


def test_its_sheet_tells_shop_and_site_and_one_side(tmp_path: Path) -> None:
    """Two symbols, each an arrow, a reference line and one fillet's two strokes; the site one's pennant has three more: 4 + 7.  By system A a
    dashed line of six goes with each, and the fillet stands on the whole line; by the two others it hangs under it."""
    for site, strokes, texts in ((True, 11, ["4 places", "4 places"]), (False, 4, ["8 places"])):
        _, e = joined(tmp_path / str(site), spliced("SHS 150x150x8", "SHS 150x150x8"), "tube-sleeve", "M1.start", site_weld=site)
        for symbols, dashes, way in (("ISO 2553 A", 6, 1), ("ISO 2553 B", 0, -1), ("AWS A2.4", 0, -1)):
            d = compose(pictures(e.made.assembled), (), 118, 110, "mm", "tube-sleeve", symbols=symbols)  # type: ignore[arg-type]
            pieces = np.concatenate([x.pieces for x in d.lines if x.style == "weld"])
            assert len(pieces) == strokes + dashes * len(texts)
            assert [t.text for t in d.texts if "place" in t.text] == texts
            # of the first symbol: its reference line is its second stroke, the fillet's upright leg the one after the pennant's three or none
            level = pieces[1][1]
            legs = [p for p in pieces if p[0] == p[2] and min(abs(p[1] - level), abs(p[3] - level)) < 1e-9 and abs(abs(p[3] - p[1]) - 2) < 1e-9]
            assert legs and all((p[3] - p[1]) * way > 0 for p in legs)


def test_a_sleeve_lies_half_way_between_tubes_that_are_a_little_aside(tmp_path: Path) -> None:
    # 1 mm aside: the sleeve half of that off both, which its play of 1.35 a side allows
    one, two = spliced("CHS 114.3x5", "CHS 114.3x5")
    _, e = joined(tmp_path, [one, {**two, **{end: [two[end][0], 1.0, two[end][2]] for end in ("start", "end")}}], "tube-sleeve", "M1.start")
    (sleeve,) = made(e).pieces
    assert [abs(v) for v in sleeve.frame.origin[1:]] == pytest.approx([0.5, 0.0]) and not breaches(e)
