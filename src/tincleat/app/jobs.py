"""Long work off the window's thread, with progress and cancel."""

import sys
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, QThread, Signal

from tincleat.errors import Cancelled, TinCleatError
from tincleat.garbage import uncollected

# s after which a thread that works gives way: the window's asks again at every call into the toolkit, and a picture has hundreds of those
GIVE_WAY = 0.00002

Work = Callable[[Callable[[float, str], bool]], Any]


class Job(QThread):
    """Runs ``work(progress)``; ``progress(share, words)`` is False once the user cancelled."""

    stepped = Signal(float, str)
    done = Signal(object)
    failed = Signal(str)

    def __init__(self, work: Work, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._work, self._stop = work, False
        sys.setswitchinterval(GIVE_WAY)

    def cancel(self) -> None:
        """Ask the work to stop at its next step."""
        self._stop = True

    def _progress(self, share: float, words: str) -> bool:
        self.stepped.emit(share, words)
        return not self._stop

    def run(self) -> None:
        with uncollected():  # a search for garbage that this thread sets off would take widgets down outside the window's thread
            self._run()

    def _run(self) -> None:
        try:
            result = self._work(self._progress)
        except Cancelled as error:
            self.failed.emit(str(error))
        except TinCleatError as error:
            self.failed.emit(str(error))
        except Exception as error:  # whatever it is, the window must be freed and the user told
            self.failed.emit(f"this could not be done ({type(error).__name__}: {str(error)[:200]}); nothing was changed")
        else:
            self.done.emit(result)
