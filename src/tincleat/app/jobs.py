"""Long work off the window's thread, with progress and cancel; garbage is looked for on the window's thread alone."""

import sys
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QCoreApplication, QObject, QThread, QTimer, Signal

from tincleat.errors import TinCleatError
from tincleat.garbage import by_hand, sweep, uncollected

# s after which a thread that works gives way: the window's asks again at every call into the toolkit, and a picture has hundreds of those
GIVE_WAY = 0.00002
SWEEP = 250  # ms from one search for garbage to the next
SWEEPER = "sweeper"

Work = Callable[[Callable[[float, str], bool]], Any]


def sweep_here() -> None:
    """Garbage is looked for now and then by the thread that calls this, and by no other."""
    app = QCoreApplication.instance()
    if app is None or app.findChild(QTimer, SWEEPER) is not None:
        return
    by_hand()
    timer = QTimer(app)
    timer.setObjectName(SWEEPER)
    timer.timeout.connect(sweep)
    timer.start(SWEEP)


class Job(QThread):
    """Runs ``work(progress)``; ``progress(share, words)`` is False once the user cancelled.  What came of it is told once the thread is over,
    so that whoever hears of it may let the job go."""

    stepped = Signal(float, str)
    done = Signal(object)
    failed = Signal(str)

    def __init__(self, work: Work, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._work, self._stop = work, False
        self._result: Any = None
        self._why: str | None = None  # it failed
        self.finished.connect(self._tell)
        sys.setswitchinterval(GIVE_WAY)

    def cancel(self) -> None:
        """Ask the work to stop at its next step."""
        self._stop = True

    def _progress(self, share: float, words: str) -> bool:
        self.stepped.emit(share, words)
        return not self._stop

    def run(self) -> None:
        with uncollected():
            try:
                self._result = self._work(self._progress)
            except TinCleatError as error:
                self._why = str(error)
            except Exception as error:  # whatever it is, the window must be freed and the user told
                self._why = f"this could not be done ({type(error).__name__}: {str(error)[:200]}); nothing was changed"

    def _tell(self) -> None:
        self.wait()  # said a moment before its last lines are run
        if self._why is not None:
            self.failed.emit(self._why)
        else:
            self.done.emit(self._result)
