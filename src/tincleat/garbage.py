"""When Python may look for garbage."""

import gc
import threading
from collections.abc import Iterator
from contextlib import contextmanager

_lock = threading.Lock()
_holding = 0


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
            if not _holding:
                gc.enable()
