"""Convex bodies that hold a bar with its cuts: they hold all of the true solid, and no more than they must where a cope is cut."""

from pathlib import Path

import manifold3d
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from sites import beam

from tincleat.catalogue.sections import section
from tincleat.commands.desk import Desk
from tincleat.details.bodies import solid
from tincleat.geometry.frames import Array, Frame
from tincleat.geometry.mesh import Mesh
from tincleat.geometry.outline import Outline
from tincleat.steel.body import cover, steel_mesh
from tincleat.steel.cuts import Cuts, EndCut, Notch


def outside(mesh: Mesh, covers: tuple[Array, ...]) -> float:
    """Volume of a solid, in mm³, that lies outside the union of the hulls of some corners."""
    bar = manifold3d.Manifold(manifold3d.Mesh64(vert_properties=mesh.points, tri_verts=mesh.triangles.astype(np.uint64)))
    for corners in covers:
        bar = bar - manifold3d.Manifold.hull_points(corners)
    return float(bar.volume())


def held(name: str, cuts: Cuts, high: float = 900.0) -> float:
    """Volume of a bar, in mm³, that lies outside its covers."""
    return outside(steel_mesh(section(name), cuts, 0.0, high, 4), cover(section(name), cuts, 0.0, high))


def notch(x0: float, x1: float, z0: float, z1: float, low: float = -300.0, high: float = 300.0, radius: float = 0.0, lean: float = 0.0) -> Notch:
    """A prism square to a bar's web, from y = low to high, its end leaning by ``lean`` mm and its lower corner there rounded."""
    # its frame: x along the bar, y down its depth, z across
    outline = Outline.rounded([(x0, -z1), (x1, -z1), (x1 + lean, -z0), (x0, -z0)], [0.0, 0.0, radius, 0.0])
    return Notch("cope", 0, Frame((0.0, low, 0.0), (1.0, 0.0, 0.0), (0.0, 1.0, 0.0)), outline, high - low)


numbers = st.floats(0.0, 1.0)


@settings(max_examples=60, deadline=None)
@given(st.sampled_from(["UB 305x165x40", "HEB 200", "PFC 200x75x23", "RHS 200x100x8", "L 100x100x10", "IPN 200"]), st.lists(st.tuples(numbers, numbers, numbers, numbers, st.floats(-0.2, 0.2)), min_size=1, max_size=3), st.floats(-0.4, 0.4))
def test_nothing_of_a_notched_bar_lies_outside_its_covers(name: str, cuts: list[tuple[float, float, float, float, float]], skew: float) -> None:
    h = section(name).h
    notches = tuple(notch(-50 + 500 * a, -50 + 500 * a + 20 + 400 * b, -h * 0.7 + h * c, -h * 0.7 + h * c + 10 + h * d, radius=2.0, lean=(10 + h * d) * e * min(1.0, (20 + 400 * b) / h) * 0.5) for a, b, c, d, e in cuts)
    ends = (EndCut(0, (20.0, 0.0, 0.0), (1.0, skew, 0.0)),) if abs(skew) > 0.2 else ()
    # chords of a tube's round corners reach inside its outline's: what is so without a notch counts for nothing
    assert held(name, Cuts(ends, notches)) < held(name, Cuts(ends)) + 1.0


def test_a_cope_leaves_a_full_bar_and_a_stub() -> None:
    # top flange and 60 of the web taken off over the first 100 mm: no cover of those 100 mm reaches up past the cope
    shape, h = section("UB 305x165x40"), section("UB 305x165x40").h
    hulls = cover(shape, Cuts((), (notch(-10.0, 100.0, h / 2 - 60.0, h / 2 + 10.0),)), 0.0, 900.0)
    stub = [b for b in hulls if b[:, 0].min() < 99.9]
    assert stub and max(b[:, 2].max() for b in stub) == pytest.approx(h / 2 - 60.0)
    assert max(b[:, 0].max() for b in stub) <= 900.0 and max(b[:, 2].max() for b in hulls) == pytest.approx(h / 2)
    # a notch that goes through half of a flange only leaves that flange's cover whole
    half = cover(shape, Cuts((), (notch(-10.0, 100.0, h / 2 - 60.0, h / 2 + 10.0, low=0.0),)), 0.0, 900.0)
    assert min(b[:, 0].min() for b in half if b[:, 2].max() > h / 2 - 1) == pytest.approx(0.0)


def test_covers_of_placed_beams_hold_them(tmp_path: Path) -> None:
    desk = Desk.create(tmp_path / "p.tincleat")
    girder = {"section": "UB 457x191x67", "role": "beam", "start": [-4000, 0, 3000], "end": [4000, 0, 3000]}
    desk.run("add-members", members=[girder, beam("UB 305x165x40", 90, 10, 75)])
    desk.run("place-connection", family="fin-plate", at=["m2.end"])
    (entry,) = [e for e in desk.ledger.entries.values() if e.connection]
    for body in solid(entry.made.assembled):
        if body.kind == "member":
            assert outside(body.mesh, body.covers) < 1.0
