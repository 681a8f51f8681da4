"""Results kept by the identity of a frozen value, so that painting only replays them."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

T = TypeVar("T")


class Cached(Generic[T]):
    """Keeps what was made for a frozen value and a further key; an entry holds on to its value, so the id stays its."""

    def __init__(self, most: int = 2000) -> None:
        self._most = most
        self._entries: dict[tuple[int, Hashable], tuple[object, T]] = {}

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
