"""Beams that lie on walls, by hand: plate, rods, levels, and what is refused."""

from pathlib import Path
from typing import Any

import pytest
from sites_feet import lying
from test_new_families import breaches, joined, made

from tincleat.errors import TinCleatError


def wall(path: Path, section: str = "IPE 300", inch: bool = False, **typed: Any) -> Any:
    return joined(path, [lying(section)], "wall-bearing", "M1.start", inch=inch, **typed)[1]


def levels(e: Any, name: str) -> list[float]:
    """Lower and upper face of a plate or block in the world."""
    d = made(e)
    (p,) = [p for p in (*d.plates, *d.blocks) if p.name == name]
    return sorted(round(float(v), 3) for v in e.joint.frame.to_world(p.frame.to_world([(0.0, 0.0, z) for z in (0.0, p.thickness)]))[:, 2])


def test_a_beam_on_a_padstone_by_hand(tmp_path: Path) -> None:
    e = wall(tmp_path)
    d = made(e)
    # IPE 300 at 3000: underside 2850; 15 of plate, 20 of grout, 215 of padstone
    assert levels(e, "bearing plate") == [2835, 2850] and levels(e, "grout") == [2815, 2835] and levels(e, "padstone") == [2600, 2815]
    # fillets 0.6 x 10.7 = 6.4 up to 7; M16: half its washer or a nut beside 150 of flange and 2 x 7, on 10; 1.75 x 16 = 28 up to 30 to the edge
    rods = sorted((r.x, r.y) for r in d.rods)
    assert [abs(y) for _, y in rods] == [110.0, 110.0] and {abs(x) for x, _ in rods} == {75.0}
    assert d.number("width").value == 2 * (110 + 30) and not breaches(e)
    # down 125 into the padstone from its top, up through 15 + washer + nut and two threads
    assert {round(e.joint.frame.o[2] + r.bottom, 3) for r in d.rods} == {2815 - 125.0}
    # the plate is as long as the bearing and begins where the beam does
    box = d.plates[0].outline.bounds
    ends = sorted(float(e.joint.frame.to_world(d.plates[0].frame.to_world([(x, 0.0, 0.0)]))[0][0]) for x in (box[0], box[2]))
    assert ends == pytest.approx([0.0, 150.0])
    pad = next(b for b in d.blocks if b.name == "padstone")
    reach = sorted(float(e.joint.frame.to_world(pad.frame.to_world([(x, 0.0, 0.0)]))[0][0]) for x in (pad.outline.bounds[0], pad.outline.bounds[2]))
    assert reach == pytest.approx([-100.0, 175.0])  # behind the beam's end; to the wall's face, 25 before the plate
    assert sorted(w.parts for w in d.welds) == [("bearing plate", "supported member")] * 2


def test_a_rod_too_near_the_flange_is_told(tmp_path: Path) -> None:
    # 80 off the middle: 75 of flange and 7 of fillet leave nothing for half a washer
    e = wall(tmp_path, gauge=160.0)
    assert [f.rule for f in e.findings if f.level == "breach" and f.rule in ("rod-clear", "clash")] != []


def test_stiffeners_stand_over_the_middle_of_the_bearing(tmp_path: Path) -> None:
    e = wall(tmp_path, stiffeners=True)
    ribs = [p for p in made(e).plates if "stiffener" in p.name]
    assert len(ribs) == 2
    stations = {round(float(e.joint.frame.to_world(p.frame.to_world([(0.0, 0.0, p.thickness / 2)]))[0][0]), 2) for p in ribs}
    assert stations == {75.0} and {p.thickness for p in ribs} == {12.0} and not breaches(e)


def test_in_inches(tmp_path: Path) -> None:
    d = made(wall(tmp_path, "W12X26", inch=True))
    assert d.number("concrete").value == "4000 psi" and all(abs(v / 1.5875 - round(v / 1.5875)) < 1e-6 for v in (d.plates[0].thickness, d.number("width").value, d.number("gauge").value))


@pytest.mark.parametrize(
    ("member", "typed", "words"),
    [
        (lying("IPE 300", roll_deg=90.0), {}, "leans by 90.0°"), ({**lying("IPE 300"), "end": [4000, 0, 3200]}, {}, "slopes by 2.9°"), (lying("SHS 150x150x8"), {}, "flat flange"), (lying("IPN 300"), {}, "taper"),
        (lying("IPE 300"), {"width": 150.0}, "the beam with its fillets 164"), (lying("IPE 300"), {"rods": "four", "pitch": 140.0}, "at most 118"),
    ],
)  # fmt: skip
def test_what_does_not_fit_is_refused_in_figures(tmp_path: Path, member: Any, typed: dict[str, Any], words: str) -> None:
    with pytest.raises(TinCleatError, match=words):
        joined(tmp_path, [member], "wall-bearing", "M1.start", **typed)


def test_fillets_leave_a_thin_flange_its_edge(tmp_path: Path) -> None:
    # W6X15: flanges 0.260 in = 6.6; the fillet stays 1/16 in under its edge, 5.0, on sixteenths 4.76
    _, e = joined(tmp_path / "a", [lying("W6X15")], "wall-bearing", "M1.end", True)
    assert made(e).number("weld_leg").value == pytest.approx(4.7625) and "fillet-leg-greatest" not in breaches(e)
