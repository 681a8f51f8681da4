"""Registries: one place a sort of thing, where each file of that sort makes its thing known under a name."""

from __future__ import annotations

from typing import Generic, TypeVar

from spiralis.core.errors import UnknownName

T = TypeVar("T")


class Registry(Generic[T]):
    """Things by name, in the order they were registered. ``what`` names the sort in messages."""

    def __init__(self, what: str) -> None:
        self._what = what
        self._things: dict[str, T] = {}

    def register(self, name: str, thing: T) -> None:
        """Make a thing known; raises ValueError where the name is taken."""
        if name in self._things:
            raise ValueError(f"the {self._what} {name!r} is registered already")
        self._things[name] = thing

    def get(self, name: str) -> T:
        """Return the thing of that name; raises UnknownName listing the known ones."""
        try:
            return self._things[name]
        except KeyError:
            raise UnknownName(f"There is no {self._what} “{name}”; there are {', '.join(self._things)}.") from None

    def all(self) -> tuple[T, ...]:
        """Return everything that is registered."""
        return tuple(self._things.values())
