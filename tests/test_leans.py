"""Members that stand a little askew, as drawn ones do: what is made there touches where it comes nearest, or is refused in figures."""

import copy
import math

import msgspec
import numpy as np
import pytest
from sites import SITES, Site
from test_matrix import SHARED, shared, solid
from test_settings import site_case

from tincleat.details.bodies import Body, bodies
from tincleat.errors import NoFit
from tincleat.families.registry import FAMILIES, family
from tincleat.geometry.mesh import Mesh, prism
from tincleat.geometry.outline import Outline
from tincleat.ledger.made import Made
from tincleat.project.entities import HouseRules, inch_house
from tincleat.proof import clash

SLOPE = 0.004  # 24 mm over a column of 6 m
TINY = 0.0005  # 3 mm
# one that leans past what steel bridges is refused; what a nudge of the model breaks beside that is no matter of its lean
FOLLOWED = (
    "base-plate", "fin-plate", "angle-cleats", "end-plate", "seat-cleat", "welded-moment", "cover-plates", "splice-covers", "welded-splice", "tube-sleeve", "tube-end-plate", "tube-joint", "timber-seat", "stiffeners",
    "web-opening", "edge-angle", "stringer-foot", "slab-head", "trimmer-cleat", "rod-through", "post-side", "stringer-head", "wall-bearing", "sag-rods", "bracing-gusset",
)  # fmt: skip


def clashing(site: Site) -> set[str] | None:
    """Which parts share steel at a site; None where the place is refused in words."""
    house = inch_house("") if site.inch else HouseRules()
    try:
        case, kind = site_case(site), family(site.family)
        made = Made(case, kind.detail(case, kind.checked(dict(site.typed), house), house), house)
    except (NoFit, StopIteration):
        return None
    return {f.part for f in made.findings if f.rule == "clash" and f.level == "breach"}


def leaning(site: Site, number: int, axis: int, by: float) -> Site:
    members = copy.deepcopy(site.members)
    m = members[number]
    far = by * math.dist(m["start"], m["end"])
    m["end"] = [v + (far if k == axis else 0.0) for k, v in enumerate(m["end"])]
    return Site(site.name, members, site.family, site.at, site.typed, site.inch)


@pytest.mark.parametrize("name", FOLLOWED)
def test_a_lean_makes_nothing_clash(name: str) -> None:
    """Three sites a family, each of their members leaning three ways, a little and very little: nothing shares steel that did not before."""
    mine = [s for s in SITES if s.family == name]
    made = 0
    for site in mine[:: max(1, len(mine) // 3)][:3]:
        before = clashing(site) or set()
        for number in range(len(site.members)):
            for axis in range(3):
                for by in (SLOPE, -TINY):
                    found = clashing(leaning(site, number, axis, by))
                    made += found is not None
                    assert not (found or set()) - before, f"{site.name}: {number} {'xyz'[axis]} {by}"
    assert made


def thinnest(points: np.ndarray) -> float:
    """How thick a piece is across its thinnest way, by its own corners: the least of their extents along their principal axes, mm."""
    off = points - points.mean(axis=0)
    _, _, ways = np.linalg.svd(off, full_matrices=False)
    return float(np.ptp(off @ ways.T, axis=0).min())


@pytest.mark.parametrize("name", ["angle-cleats", "seat-cleat", "end-plate", "welded-moment", "cover-plates", "timber-seat", "trimmer-cleat", "wall-bearing", "post-side", "rod-through"])
def test_exact_solids_share_films_at_most(name: str) -> None:
    """By solids and measures of the tests' own, holes drilled: what two bodies share at a place that leans is nowhere thicker than the depth allowed
    and what chords are off; a weld bites half a millimetre into what it is laid on at most."""
    site = next(s for s in SITES if s.family == name)
    made = 0
    for number in range(len(site.members)):
        for axis in range(3):
            leans = leaning(site, number, axis, SLOPE)
            house, kind = inch_house("") if site.inch else HouseRules(), family(name)
            try:
                case = site_case(leans)
                detail = kind.detail(case, kind.checked(dict(site.typed), house), house)
            except (NoFit, StopIteration):
                continue
            made += 1
            found = list(bodies(Made(case, detail, house).assembled, 8, drilled=True, reach=1500.0))
            named = {f"{b.kind} {b.name}": b for b in found}
            for one, two, volume in shared(found):
                if volume > SHARED:
                    pieces = (solid(named[one]) ^ solid(named[two])).decompose()
                    thick = max((thinnest(np.asarray(p.to_mesh64().vert_properties)[:, :3]) for p in pieces if p.volume() > SHARED), default=0.0)
                    own = any(named[x].kind == "weld" and named[y].name in named[x].owners for x, y in ((one, two), (two, one)))
                    assert thick <= (0.5 if own else 0.15), f"{site.name}: {number} {'xyz'[axis]}: {one} and {two} share {volume:.0f} mm3, {thick:.2f} deep"
    assert made


def block(low: tuple[float, float, float], high: tuple[float, float, float]) -> Body:
    (x0, y0, z0), (x1, y1, z1) = low, high
    mesh = prism(Outline.rectangle(x0, y0, x1, y1), (), z0, z1)
    return Body("plate", "", ("",), mesh, np.eye(3))


def notched() -> Body:
    """A block with a step cut out of its top: no plane parts what lies in that from it, and its own corners' hull holds the step too."""
    mesh = prism(Outline(((0.0, 0.0, 0.0), (100.0, 0.0, 0.0), (100.0, 50.0, 0.0), (60.0, 50.0, 0.0), (60.0, 20.0, 0.0), (0.0, 20.0, 0.0))), (), 0.0, 100.0)
    return Body("plate", "stepped", ("stepped",), Mesh(mesh.points, mesh.triangles), np.eye(3))


@pytest.mark.parametrize(("deep", "counts"), [(0.05, False), (0.15, True)])
def test_a_film_between_two_faces_is_no_clash(deep: float, counts: bool) -> None:
    """What lies in the step sinks 0.05 into its floor over 60 x 100: 300 mm3 that are no steel in steel; 0.15 deep they are."""
    found = list(clash._inside([(notched(), block((0.0, 20.0 - deep, 0.0), (60.0 - 1.0, 40.0, 100.0)))], HouseRules()))
    assert bool(found) == counts
    if counts:
        assert found[0][2] == pytest.approx(59.0 * 100.0 * deep)
        assert not list(clash._inside([found[0][:2]], msgspec.structs.replace(HouseRules(), clash_depth=0.2)))  # an office may allow more


def test_every_family_that_is_followed_is_one() -> None:
    assert set(FOLLOWED) <= set(FAMILIES)
