"""The program's own errors: each carries the words a user needs.

Every error says *what* is wrong, *where*, and *what would be right*.  Code catches :class:`TinCleatError` at the
edges only (command line, window) and shows ``str(error)``.
"""

from collections.abc import Callable

Progress = Callable[[float, str], bool]  # told how far a long piece of work is, 0 to 1, and what it is at; False: it shall stop


class TinCleatError(Exception):
    """Root of all errors raised on purpose."""

    def __init__(self, what: str, where: str = "", right: str = "") -> None:
        """``what`` went wrong, ``where`` (file, setting, line) and what would be ``right``; the last two may be empty."""
        self.what, self.where, self.right = what, where, right
        text = f"{where}: {what}" if where else what
        super().__init__(f"{text} ({right})" if right else text)

    def __str__(self) -> str:
        return str(self.args[0])

    def at(self, where: str) -> "TinCleatError":
        """The same error with an outer place put before its own."""
        return type(self)(self.what, f"{where}: {self.where}" if self.where else where, self.right)


class BadValue(TinCleatError, ValueError):
    """A value that cannot be used: not a number, outside its limits, not one of the choices."""


class NotFound(TinCleatError, KeyError):
    """Something named by the user does not exist."""


class BadFile(TinCleatError, OSError):
    """A file that cannot be read or written as what it should be."""

    def __str__(self) -> str:
        return str(self.args[0])


class Refused(TinCleatError):
    """A command that is understood but would do harm or makes no sense here."""


class NoFit(Refused):
    """A family does not suit a joint; the text gives the joint's own figures."""


class Fault(TinCleatError):
    """Something went wrong inside the program; the text says what has become of the user's work."""


class Cancelled(TinCleatError):
    """The user stopped a long piece of work; nothing was changed."""


def go_on(progress: Progress | None, share: float, words: str, stopped: str) -> None:
    """Tell how far a long piece of work is; raises :class:`Cancelled` with ``stopped`` where it shall not go on."""
    if progress is not None and not progress(share, words):
        raise Cancelled(stopped)
