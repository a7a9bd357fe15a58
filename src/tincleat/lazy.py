"""Properties that are worked out once, when they are first asked for."""

from collections.abc import Callable
from typing import Any, Generic, TypeVar, overload

T = TypeVar("T")


class lazy(Generic[T]):
    """A property of a value that does not change, worked out once.  Unlike the library's own it takes no lock, which of a frame would cost more
    than its axes: worked out twice by two threads it is the same."""

    def __init__(self, work: Callable[[Any], T]) -> None:
        self.work, self.name, self.__doc__ = work, work.__name__, work.__doc__

    @overload
    def __get__(self, owner: None, kind: type) -> "lazy[T]": ...

    @overload
    def __get__(self, owner: object, kind: type) -> T: ...

    def __get__(self, owner: object | None, kind: type) -> "T | lazy[T]":
        if owner is None:
            return self
        found = owner.__dict__[self.name] = self.work(owner)
        return found
