"""A small thread-safe cache, bounded by bytes, that drops what was not used for longest."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

T = TypeVar("T")


class ByteCache(Generic[T]):
    """Keeps values whose size ``measure`` tells, up to ``limit`` bytes in all."""

    def __init__(self, limit: int, measure: Callable[[T], int]) -> None:
        self._limit = limit
        self._measure = measure
        self._held: OrderedDict[Hashable, T] = OrderedDict()
        self._bytes = 0
        self._lock = threading.Lock()

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        """Return the value of a key, made by ``make()`` where it is not there.

        Two threads may make the same value at once; one of the two is kept.
        """
        with self._lock:
            if key in self._held:
                self._held.move_to_end(key)
                return self._held[key]
        value = make()
        with self._lock:
            if key not in self._held:
                self._held[key] = value
                self._bytes += self._measure(value)
            while self._bytes > self._limit and len(self._held) > 1:
                _, dropped = self._held.popitem(last=False)
                self._bytes -= self._measure(dropped)
        return value

    def peek(self, key: Hashable) -> T | None:
        """Return the value of a key if it is there."""
        with self._lock:
            if key not in self._held:
                return None
            self._held.move_to_end(key)
            return self._held[key]

    def __len__(self) -> int:
        return len(self._held)

    @property
    def bytes(self) -> int:
        """What the held values weigh."""
        return self._bytes
