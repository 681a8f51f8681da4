"""Small thread-safe caches: one bounded by bytes, one that lives beside the objects it belongs to."""

from __future__ import annotations

import threading
import weakref
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Any, Generic, TypeVar

T = TypeVar("T")


class Beside(Generic[T]):
    """What was worked out for objects, kept by their identity for as long as they live and no longer."""

    def __init__(self, make: Callable[[], T]) -> None:
        self._make = make
        self._held: dict[int, tuple[weakref.ref[Any], T]] = {}

    def of(self, thing: object) -> T:
        """Return what is kept beside a thing; made where there is nothing yet."""
        place = id(thing)
        held = self._held.get(place)
        if held is not None and held[0]() is thing:
            return held[1]
        made = self._make()
        self._held[place] = (weakref.ref(thing, lambda ref: self._forget(place, ref)), made)
        return made

    def _forget(self, place: int, ref: weakref.ref[Any]) -> None:
        held = self._held.get(place)
        if held is not None and held[0] is ref:
            del self._held[place]

    def __len__(self) -> int:
        return len(self._held)


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
