"""Any valid settings at any place: a sane detail or a refusal in words, never a crash, never a body that is not closed."""

import functools
import math
import random
from typing import Any

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sites import SITES
from test_families import any_settings, settings_by
from test_settings import site_case

from tincleat.details.assembled import Assembled
from tincleat.details.bodies import bodies
from tincleat.details.parts import mirrored
from tincleat.errors import BadValue, NoFit
from tincleat.families import registry
from tincleat.families.registry import family
from tincleat.joints.case import Case
from tincleat.project.entities import HouseRules, inch_house

FAMILIES = tuple(name for name in registry.FAMILIES if name != "left-plain")
CASES = 2000  # twenty thousand are built by the script that soaks
DRAWN = 60  # of them drawn setting by setting, so that a failing one is made smaller; the others from one number each, other numbers every time, for drawing takes longer than building


@functools.cache
def places(name: str) -> tuple[tuple[Case, bool], ...]:
    """Some places a family takes, and whether they are in inches: every fifth of the table, for their cases take time to find."""
    mine = [s for s in SITES if s.family == name]
    return tuple((site_case(s), s.inch) for s in mine[:: max(1, len(mine) // 12)])


def sane(name: str, typed: dict[str, Any], where: int, whole: bool = True) -> bool:
    """Build one detail and look at it, at all its bodies if ``whole``; False where the family refuses it."""
    case, inch = places(name)[where % len(places(name))]
    house = inch_house("") if inch else HouseRules()
    kind = family(name)
    try:
        detail = kind.detail(case, kind.checked(typed, house), house)
    except (NoFit, BadValue) as error:
        assert str(error) and "nan" not in str(error), error
        return False
    for n in detail.numbers:
        assert kind.setting(n.name)
    for body in bodies(Assembled(case, detail, house.rule_set), 1, reach=1.0) if whole else ():
        assert np.isfinite(body.mesh.points).all(), body.name
        assert body.kind == "member" or body.mesh.volume > 0, (body.kind, body.name, body.mesh.volume)
    volumes = [p.volume for p in detail.plates]
    assert all(0 < v < math.inf for v in volumes)
    for piece in detail.pieces:
        assert 0 < piece.volume <= piece.shape.area * piece.length + 1e-6
    twice = mirrored(mirrored(detail))
    assert np.allclose([p.volume for p in twice.plates], volumes, rtol=1e-6, atol=0.0)
    there, back = (np.array([p for b in d.bolts for p in (*b.points, b.axis)]) for d in (detail, twice))
    assert there.shape == back.shape and (abs(there - back) < 1e-6).all()
    return True


def soak(name: str, cases: int, first: int) -> tuple[int, int]:
    """How many of a family's details, each from a number from ``first`` on, were built and how many refused in words; a failing case
    raises, with its number."""
    made = [0, 0]
    for number in range(first, first + cases):
        typed = settings_by(name, number)
        try:
            made[not sane(name, typed, number % 12, whole=number // 12 % 8 == 0)] += 1
        except Exception as error:
            error.add_note(f"number {number}: {typed}, place {number % 12}")
            raise
    return made[0], made[1]


@pytest.mark.parametrize("name", FAMILIES)
def test_any_settings_at_any_place(name: str) -> None:
    made = [0]

    @settings(deadline=None, suppress_health_check=list(HealthCheck), database=None, max_examples=DRAWN)
    @given(any_settings(name), st.integers(0, 11))
    def one(typed: dict[str, Any], where: int) -> None:
        made[0] += sane(name, typed, where, whole=where % 8 == 0)  # the bodies take most of the time

    one()
    built, _ = soak(name, CASES - DRAWN, random.randrange(2**40))
    assert made[0] + built > CASES / 20, f"only {made[0] + built} of {CASES} were built"
