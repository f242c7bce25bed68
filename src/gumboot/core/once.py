"""A property that is worked out when it is first read, and kept with its object."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Generic, TypeVar, overload

T = TypeVar("T")


class once(Generic[T]):  # noqa: N801 - it is written like the library's own
    """As ``functools.cached_property`` without its lock: two threads that look at the same time find the same, and a plan looks often."""

    def __init__(self, find: Callable[[Any], T]) -> None:
        self.find = find
        self.__doc__ = find.__doc__

    def __set_name__(self, owner: type, name: str) -> None:
        self.name = name

    @overload
    def __get__(self, thing: None, owner: type) -> once[T]: ...
    @overload
    def __get__(self, thing: object, owner: type) -> T: ...
    def __get__(self, thing: object | None, owner: type) -> once[T] | T:
        if thing is None:
            return self
        found = thing.__dict__[self.name] = self.find(thing)
        return found
