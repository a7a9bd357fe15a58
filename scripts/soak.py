"""Any settings at any place, many times over: ``soak.py [CASES] [SEED]`` builds that many details a family (20,000 unless said)."""

import sys
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests"))

from hypothesis import HealthCheck, given, seed, settings
from hypothesis import strategies as st
from test_any_settings import FAMILIES, sane
from test_families import any_settings


def main() -> int:
    """Print how many were built and refused of each family; a failing case raises."""
    cases = int(sys.argv[1]) if len(sys.argv) > 1 else 20000
    first = int(sys.argv[2]) if len(sys.argv) > 2 else 1
    for name in FAMILIES:
        made = [0, 0]
        start = time.monotonic()

        @seed(first)
        @settings(max_examples=cases, deadline=None, suppress_health_check=list(HealthCheck), database=None)
        @given(any_settings(name), st.integers(0, 11))
        def one(typed: dict[str, object], where: int, name: str = name, made: list[int] = made) -> None:
            made[not sane(name, typed, where)] += 1

        one()
        print(f"{name:16} {made[0]:6} built, {made[1]:6} refused in words, {time.monotonic() - start:5.0f} s", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
