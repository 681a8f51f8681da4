"""Results kept by the identity of a frozen value, so that painting only replays them."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from typing import Any, Generic, TypeVar
from weakref import WeakSet

T = TypeVar("T")
_all: WeakSet[Cached[Any]] = WeakSet()


def forget_all() -> None:
    """Let go of everything that any of them keeps, as nobody will ask for the values of a project that is left."""
    for cached in _all:
        cached.forget()


class Cached(Generic[T]):
    """Keeps what was made for a frozen value and a further key; an entry holds on to its value, so the id stays its."""

    def __init__(self, most: int = 2000) -> None:
        self._most = most
        _all.add(self)
        self._entries: dict[tuple[int, Hashable], tuple[object, T]] = {}

    def forget(self) -> None:
        """Let go of everything."""
        self._entries.clear()

    def holds(self, value: object, key: Hashable) -> bool:
        """Whether there is something made for this very value and key."""
        entry = self._entries.get((id(value), key))
        return entry is not None and entry[0] is value

    def of(self, value: object, key: Hashable, make: Callable[[], T]) -> T:
        """Return what was made for this very value and key, making it where it is not there."""
        place = (id(value), key)
        entry = self._entries.get(place)
        if entry is None or entry[0] is not value:
            if len(self._entries) >= self._most:
                self._entries.clear()
            entry = (value, make())
            self._entries[place] = entry
        return entry[1]
