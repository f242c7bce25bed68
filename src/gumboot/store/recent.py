"""What was worked out last, kept up to a number, and safe to ask from several threads."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Hashable
from threading import Lock
from typing import Generic, TypeVar

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")


class Recent(Generic[K, V]):
    """The newest ``most`` values by key."""

    def __init__(self, most: int) -> None:
        self._most, self._kept, self._lock = most, OrderedDict[K, V](), Lock()

    def get(self, key: K) -> V | None:
        """The value of a key, None when it is not kept."""
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
            return self._kept.get(key)

    def keep(self, key: K, value: V) -> V:
        """Keep a value, and let the oldest go."""
        with self._lock:
            self._kept[key] = value
            self._kept.move_to_end(key)
            while len(self._kept) > self._most:
                self._kept.popitem(last=False)
        return value
