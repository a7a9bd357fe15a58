"""When Python may look for garbage, and on which thread."""

import gc
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager

_lock = threading.Lock()
_holding = 0
_by_hand = False
_full_at, _full_took = 0.0, 0.0  # when all values were looked through last, and how long that took, s
SHARE = 0.02  # of the time that looking through all values may take


@contextmanager
def uncollected() -> Iterator[None]:
    """No search for garbage meanwhile, on any thread: hundreds of thousands of new values, none of them garbage, would be looked through
    again and again.  May be nested, and held by several threads at once: the last one to leave lets it go on."""
    global _holding
    with _lock:
        _holding += 1
        gc.disable()
    try:
        yield
    finally:
        with _lock:
            _holding -= 1
            if not _holding and not _by_hand:
                gc.enable()


def by_hand() -> None:
    """From now on garbage is looked for by :func:`sweep` only, on the thread that calls it: a search that any other thread sets off would
    take widgets down outside the window's."""
    global _by_hand
    with _lock:
        _by_hand = True
        gc.disable()


def sweep() -> None:
    """Look for garbage among as many values as is due, unless somebody wants none looked for."""
    global _full_at, _full_took
    young, older, oldest = (have > most for have, most in zip(gc.get_count(), gc.get_threshold(), strict=True))
    if _holding or not young:
        return
    if older and oldest:
        start = time.monotonic()
        if (start - _full_at) * SHARE >= _full_took:
            gc.collect()
            _full_at, _full_took = start, time.monotonic() - start
            return
    gc.collect(1 if older else 0)
