"""Any settings at any place, many times over: ``soak.py [CASES] [FIRST] [FAMILY...]`` builds that many details of every family, or of those
named (20,000 unless said), each from a number of its own, counted from FIRST on; a failing number is printed and makes the same detail again."""

import sys
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests"))

from test_any_settings import FAMILIES, soak


def main() -> int:
    """Print what became of each family; exit code 1 if a case failed."""
    cases = int(sys.argv[1]) if len(sys.argv) > 1 else 20000
    first = int(sys.argv[2]) if len(sys.argv) > 2 else 1
    failed = 0
    for name in sys.argv[3:] or FAMILIES:
        start = time.monotonic()
        try:
            built, refused = soak(name, cases, first)
        except Exception as error:  # whatever it is: the next family is soaked too
            failed += 1
            print(f"{name:16} FAILED {type(error).__name__}: {error}", *getattr(error, "__notes__", ()), sep="\n    ", flush=True)
            continue
        print(f"{name:16} {built:6} built, {refused:6} refused in words, {time.monotonic() - start:5.0f} s", flush=True)
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
