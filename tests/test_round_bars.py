"""Forks and turnbuckles by hand: sizes, steel, thread held, what the bill and IFC say."""

import math
from pathlib import Path
from typing import Any

import ifcopenshell
import ifcopenshell.geom
import ifcopenshell.util.shape
import msgspec
import numpy as np
import pytest
from sites import brace, column
from test_new_families import breaches, joined, made

from tincleat.catalogue.sections import section
from tincleat.details.assembled import Assembled
from tincleat.details.fittings import Fork, Turnbuckle
from tincleat.errors import TinCleatError
from tincleat.exchange.ifc import export_ifc
from tincleat.geometry.frames import Frame
from tincleat.project.entities import HouseRules
from tincleat.proof.fittings import held
from tincleat.release.bill import bill, total_mass


def rod(path: Path, name: str = "RD 20", **typed: Any) -> Any:
    return joined(path, [column("HEB 200"), brace(name, 45)], "bracing-gusset", "M2.start", **typed)


def test_a_fork_on_a_gusset(tmp_path: Path) -> None:
    desk, e = rod(tmp_path / "a")
    d = made(e)
    (fork,) = d.fittings
    assert isinstance(fork, Fork)
    # pin M20 in a hole of 22: edge 1.2 x 22 = 26.4, so cheeks 2 x 26.5 = 53 broad, on 5: 55; half the rod thick; 10 of gusset and 2 of play between
    assert (fork.bar, fork.hole, fork.width, fork.cheek, fork.gap) == (20.0, 22.0, 55.0, 10.0, 12.0)
    # the plate goes 1.5 x 20 = 30 past the pin, the slot 5 more; the socket takes 1.25 rods and a quarter more: 30
    assert (fork.slot, fork.length) == (35.0, 65.0)
    # one pin through cheek, gusset, cheek: grip 10 + 10 + 10 and 1 of play on both sides
    (fitted,) = e.made.assembled.fitted
    assert [e.made.assembled.plies[p.ply].owner for p in fitted.plies] == ["fork", "gusset", "fork"] and fitted.grip == pytest.approx(32.0) and fitted.gap == pytest.approx(1.0)
    # the rod ends 25 in the socket of 30
    findings = {f.rule: f for f in e.findings}
    assert findings["thread-held"].actual == pytest.approx(25.0, abs=0.1) and findings["thread-held"].required == 20.0
    assert not breaches(e)
    # the bill has the fork, and weighs it apart from the steel
    line = next(x for x in bill(desk.ledger) if x.kind == "fitting")
    # cheeks: 35 x 55 + half of pi 55^2 / 4 - pi 22^2 / 4 = 1925 + 1187.9 - 380.1 = 2732.8, twice, 10 thick: 54,655; socket 30 (55 x 32 - pi 20^2 / 4) = 43,375
    assert line.mass_each == pytest.approx(98030 * 7.85e-6, rel=1e-4) and line.size == "M20"
    assert total_mass(desk.ledger) == pytest.approx(sum(x.mass for x in bill(desk.ledger) if x.kind not in ("fitting", "rod", "anchor rod")))


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ({"fork_width": 25.0}, "25 mm wide leaves no steel round its bore of 22 mm (at least 26 mm)"),  # the pin's hole, and 2 on both sides
        ({"fork_cheek": 3.0, "fork_play": 1.0}, "17 mm over its cheeks leaves no steel round its bore of 20 mm (at least 24 mm)"),  # 10 + 1 + 2 x 3
    ],
)
def test_a_fork_keeps_steel_round_its_bores(tmp_path: Path, typed: "dict[str, float]", words: str) -> None:
    desk, e = rod(tmp_path / "a")
    assert words in desk.ledger.refusal(e.joint, "bracing-gusset", typed)
    assert not desk.ledger.refusal(e.joint, "bracing-gusset", {"fork_width": 26.0})


def test_a_rod_that_hardly_reaches_its_thread_is_a_breach(tmp_path: Path) -> None:
    _, e = rod(tmp_path / "a")
    d = e.made.detail
    cut = next(c for c in d.ends if c.member == e.joint.members.index("m2"))
    moved = msgspec.structs.replace(cut, point=tuple(p + 10 * n for p, n in zip(cut.point, cut.normal, strict=True)))  # 10 further from the pin
    short = Assembled(e.made.case, msgspec.structs.replace(d, ends=tuple(moved if c is cut else c for c in d.ends)), "EN")
    (f,) = held(short, HouseRules())
    assert f.level == "breach" and f.actual == pytest.approx(15.0, abs=0.1)


def test_a_turnbuckle(tmp_path: Path) -> None:
    desk, e = joined(tmp_path / "a", [brace("RD 20", 45)], "turnbuckle", "M1@1500")
    d = made(e)
    (t,) = d.fittings
    assert isinstance(t, Turnbuckle)
    # opening 150, nuts 1.5 x 20 = 30 each: 210 long; a nut for M20 is 30 across; the rods 75 apart, each 37.5 short of the other nut
    assert (t.opening, t.nut, t.length, t.across) == (150.0, 30.0, 210.0, 30.0) and d.notches[0].depth == 75.0
    (f,) = (f for f in e.findings if f.rule == "thread-held")
    assert f.actual == pytest.approx(30.0, abs=0.1) and f.level == "clear"
    # 75 of rod less
    line = next(x for x in bill(desk.ledger) if x.kind == "brace")
    area = math.pi * 100
    assert line.mass_each == pytest.approx((3000 - 75) * area * 7.85e-6, rel=1e-3)
    # nuts that a rod hardly reaches
    _, e = joined(tmp_path / "b", [brace("RD 20", 45)], "turnbuckle", "M1@1500", nut=15.0)
    assert breaches(e) == {"thread-held"}


@pytest.mark.parametrize("bar", [12.0, 20.0, 36.0])
def test_their_bodies_are_as_heavy_as_the_sum(bar: float) -> None:
    at = Frame((10.0, -20.0, 5.0), (0.6, 0.0, 0.8), (0.0, 1.0, 0.0))
    fork = Fork("fork", "M20", "S355", at, bar, bar + 2, 2.6 * bar, bar / 2, 12.0, 2 * bar, 3.5 * bar)
    turn = Turnbuckle("turnbuckle", "M20", "S355", at, bar, 1.6 * bar, 1.5 * bar, 150.0, 0.3 * bar - 1)
    # bores are drawn a millimetre wider than the bar
    ring = math.pi / 4 * ((bar + 1) ** 2 - bar**2)
    assert fork.mesh(24, True).volume == pytest.approx(fork.volume - 1.5 * bar * ring, rel=0.004)
    assert turn.mesh(24, True).volume == pytest.approx(turn.volume - 3.0 * bar * ring, rel=0.008)
    for part in (fork, turn):
        points = np.concatenate(part.covers)
        mesh = part.mesh(6, True).points
        assert (mesh.min(axis=0) > points.min(axis=0) - 0.01).all() and (mesh.max(axis=0) < points.max(axis=0) + 0.01).all()


def test_the_other_reader_finds_the_fork(tmp_path: Path) -> None:
    desk, e = rod(tmp_path / "a", "RD 24")
    file = ifcopenshell.open(str(export_ifc(desk.ledger, tmp_path / "f.ifc")))
    element = next(x for x in file.by_type("IfcMechanicalFastener") if x.Name == "fork")
    settings = ifcopenshell.geom.settings()
    settings.set("use-world-coords", True)
    geometry = ifcopenshell.geom.create_shape(settings, element).geometry
    assert ifcopenshell.util.shape.get_volume(geometry) == pytest.approx(e.made.detail.fittings[0].volume / 1e9, rel=0.02)
    points = ifcopenshell.util.shape.get_vertices(geometry) * 1000.0
    ours = e.joint.frame.to_world(e.made.detail.fittings[0].mesh(6, True).points)
    assert np.abs(points.min(axis=0) - ours.min(axis=0)).max() < 0.5 and np.abs(points.max(axis=0) - ours.max(axis=0)).max() < 0.5


def test_what_is_refused(tmp_path: Path) -> None:
    for n, (members, where, typed, words) in enumerate((
        ([brace("RD 20", 45)], "M1@60", {}, "210 mm long, and the rod goes on 60 mm"),
        ([brace("RD 20", 45)], "M1@1500", {"gap": 200.0}, "do not reach both nuts"),
        ([brace("RD 20", 45)], "M1@1500", {"across": 22.0}, "leaves nothing round a rod of 20 mm"),
        ([brace("L 80x80x8", 45)], "M1@1500", {}, "L 80x80x8 is a L section"),
    )):  # fmt: skip
        with pytest.raises(TinCleatError, match=words):
            joined(tmp_path / str(n), members, "turnbuckle", where, **typed)
    with pytest.raises(TinCleatError, match="no pin is as thick"):
        rod(tmp_path / "z", "RD 90")


def test_round_bars_in_inches() -> None:
    for name, size in (("RD3/4", 19.05), ("RD 1-1/4", 31.75), ("RD1", 25.4), ("RD 20", 20.0)):
        assert section(name).h == size
    assert section("RD 1-1/4").name == "RD1-1/4"
