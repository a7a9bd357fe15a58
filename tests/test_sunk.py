"""Holes through pieces go right through, and countersinks lie in whatever flat face comes first: of a plate, a member, a piece, a bent
plate.  Volumes by hand, from exact solids of the picture, and from the file by another engine."""

import math
from pathlib import Path
from typing import Any

import ifcopenshell
import ifcopenshell.geom
import numpy as np
import pytest
from test_loose import breaches, detail, exact, laid

from tincleat.details.bodies import bodies
from tincleat.errors import TinCleatError
from tincleat.exchange.ifc import export_ifc
from tincleat.ledger.entries import Entry
from tincleat.ledger.steel import worked_of
from tincleat.release.bill import bill


def volume(path: Path, kind: str, name: str = "") -> float:
    """Volume of an element in a file, mm³, as the other engine makes it."""
    settings = ifcopenshell.geom.settings()
    settings.set("mesher-linear-deflection", 0.0001)
    settings.set("mesher-angular-deflection", 0.05)
    file = ifcopenshell.open(str(path))
    one = next(x for x in file.by_type(kind) if name in (x.Name or ""))
    shape = ifcopenshell.geom.create_shape(settings, one)
    points, faces = np.array(shape.geometry.verts).reshape(-1, 3) * 1000, np.array(shape.geometry.faces).reshape(-1, 3)
    x, y, z = (points[faces[:, i]] for i in range(3))
    return abs(float(np.einsum("ij,ij->i", x, np.cross(y, z)).sum() / 6))


def found(e: Entry, kind: str, name: str) -> float:
    """Volume of a body as exact solids make it."""
    assert e.made is not None
    return float(exact(next(b for b in bodies(e.made.assembled, 40, drilled=True, reach=600.0) if b.kind == kind and name in b.name)).volume())


def cone(width: float, sink: float, thickness: float) -> float:
    """What a countersink of 90 degrees takes beside its hole, by hand: a frustum less the hole in it."""
    deep = (sink - width) / 2
    assert deep < thickness
    return math.pi * deep * ((sink**2 + sink * width + width**2) / 12 - (width / 2) ** 2)


@pytest.mark.parametrize(("section", "across", "thick"), [("PFC 200x75x23", 0.0, 12.5), ("UB 305x165x40", 45.0, 10.2), ("RHS 200x100x8", 0.0, 8.0)])
def test_a_hole_in_a_piece_goes_right_through(tmp_path: Path, section: str, across: float, thick: float) -> None:
    """Two holes of 22 through the wall that comes first of a piece that lies on the flange: 2 * 22² * pi / 4 * t."""
    piece: dict[str, Any] = {"part__1": "piece", "section__1": section, "lies__1": "along", "length__1": 400, "end__1": "square"}
    whole = laid(tmp_path / "a", **piece)[1]
    desk, e = laid(tmp_path / "b", **piece, part__2="holes", on__2="part 1", rows__2=[100], bolt__2="M20", across__2=across)
    taken = 2 * 22**2 * math.pi / 4 * thick
    assert found(whole, "piece", "piece 1") - found(e, "piece", "piece 1") == pytest.approx(taken, rel=0.03)  # holes of 16 chords take 0.974 of it
    (a,), (b,) = detail(whole).pieces, detail(e).pieces
    assert a.volume - b.volume == pytest.approx(taken, rel=1e-6)
    plain = export_ifc(laid(tmp_path / "c", **piece)[0].ledger, tmp_path / "c.ifc")
    assert volume(plain, "IfcMember", "piece 1") - volume(export_ifc(desk.ledger, tmp_path / "b.ifc"), "IfcMember", "piece 1") == pytest.approx(taken, rel=2e-3)


# M12 of ISO 10642 is 26.88 across at 90 degrees; its hole is 13
ON_TOP = {"part__1": "plate", "on__1": "under the top far", "length__1": 200, "width__1": 60, "thickness__1": 10, "part__2": "bolts", "on__2": "top", "across__2": 42, "rows__2": [100], "bolt__2": "M12", "head__2": "countersunk"}


@pytest.mark.parametrize("hand", ["as told", "mirrored"])
def test_a_countersink_in_a_flange(tmp_path: Path, hand: str) -> None:
    desk, e = laid(tmp_path / "a", **ON_TOP, hand=hand)
    assert not breaches(e), breaches(e)
    says = {f.rule: f.level for f in e.findings}
    assert says["sink"] == says["sink-ply"] == "clear"
    assert {(h.element, h.width, h.sink) for h in detail(e).holes} == {("top flange", 13.0, 26.88)}
    bare = laid(tmp_path / "b")[0]
    taken = 2 * (13**2 * math.pi / 4 * 12.7 + cone(13.0, 26.88, 12.7))  # UB 457x191x67, its flange 12.7
    assert worked_of(bare.ledger, "m1").volume - worked_of(desk.ledger, "m1").volume == pytest.approx(taken, rel=1e-6)
    assert volume(export_ifc(bare.ledger, tmp_path / "b.ifc"), "IfcBeam") - volume(export_ifc(desk.ledger, tmp_path / "a.ifc"), "IfcBeam") == pytest.approx(taken, rel=2e-3)
    # in exact solids the heads lie in their countersinks, flush with the flange, and nothing lies in anything
    assert e.made is not None
    steel = exact(next(b for b in bodies(e.made.assembled, 12, drilled=True, reach=400.0) if b.kind == "member"))
    shanks = [exact(b) for b in bodies(e.made.assembled, 12) if b.kind == "shank"]
    assert len(shanks) == 2 and all(float((steel ^ s).volume()) < 1.0 for s in shanks)
    assert max(s.bounding_box()[5] for s in shanks) == pytest.approx(steel.bounding_box()[5], abs=1e-6)
    # the same holes from the other side are other steel, and so another mark
    under = laid(tmp_path / "u", **ON_TOP | {"head__2": "hexagon"})[0]
    assert worked_of(under.ledger, "m1").signature != worked_of(desk.ledger, "m1").signature


def test_a_countersink_in_a_piece_and_in_a_bent_plate(tmp_path: Path) -> None:
    angle = {"part__1": "piece", "section__1": "L 100x100x10", "lies__1": "along", "length__1": 400, "end__1": "square"}
    for name, first, kind, thick in (("p", angle, "IfcMember", 10.0), ("q", {"part__1": "bent plate", "length__1": 140, "width__1": 160, "thickness__1": 10}, "IfcPlate", 10.0)):
        sunk = {"part__2": "bolts", "on__2": "part 1", "across__2": 30.0 if name == "p" else 0.0, "lines__2": [70] if name == "q" else [], "rows__2": [] if name == "q" else [100], "bolt__2": "M12", "head__2": "countersunk"}
        try:
            desk, e = laid(tmp_path / name, **first, **sunk)
            other = laid(tmp_path / f"{name}h", **first, **sunk | {"head__2": "hexagon"})
        except TinCleatError as error:
            raise AssertionError((name, str(error))) from None
        part = (*detail(e).pieces, *detail(e).bents)[0]
        old = (*detail(other[1]).pieces, *detail(other[1]).bents)[0]
        count = len(e.made.assembled.fitted)  # type: ignore[union-attr]
        taken = count * cone(13.0, 26.88, thick)
        assert count == 2 and old.volume - part.volume == pytest.approx(taken, rel=1e-6), name
        assert found(other[1], "piece" if name == "p" else "plate", part.name) - found(e, "piece" if name == "p" else "plate", part.name) == pytest.approx(taken, rel=0.03)
        files = [volume(export_ifc(d.ledger, tmp_path / f"{name}{i}.ifc"), kind, part.name) for i, d in enumerate((other[0], desk))]
        assert files[0] - files[1] == pytest.approx(taken, rel=5e-3)
        assert {f.rule: f.level for f in e.findings}["sink"] == "clear"
        sizes = [{x.mark for x in bill(d.ledger) if x.kind != "member"} for d in (other[0], desk)]
        assert all(sizes)


def test_a_countersunk_head_finds_no_flat_face_inside_a_tapered_flange(tmp_path: Path) -> None:
    inner = {"part__1": "plate", "on__1": "top", "length__1": 200, "width__1": 130, "thickness__1": 10, "part__2": "bolts", "on__2": "under the top far", "rows__2": [100], "bolt__2": "M12", "head__2": "countersunk"}
    with pytest.raises(TinCleatError, match="inner face of a tapered flange"):
        laid(tmp_path / "a", "IPN 300", **inner)
    assert {f.rule: f.level for f in laid(tmp_path / "b", "IPE 300", **inner)[1].findings}["sink"] == "clear"
