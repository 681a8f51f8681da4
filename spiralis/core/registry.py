"""Registries: one place a sort of thing, where each file of that sort makes its thing known under a name."""

from __future__ import annotations

import sys
from importlib import import_module
from pkgutil import iter_modules
from typing import Generic, TypeVar

from spiralis.core.errors import UnknownName

T = TypeVar("T")


def import_files(package: str) -> None:
    """Import the files of a package in the order of their names, as it does where each makes something known."""
    for name in sorted(info.name for info in iter_modules(sys.modules[package].__path__)):
        import_module(f"{package}.{name}")


class Registry(Generic[T]):
    """Things by name, in the order they were registered.

    ``what`` names the sort in messages. ``folder`` is the package whose files register themselves; it is
    imported when somebody first asks, so that whoever builds a model need not know who draws it.
    """

    def __init__(self, what: str, folder: str) -> None:
        self._what = what
        self._folder: str | None = folder
        self._things: dict[str, T] = {}

    def _fill(self) -> None:
        if self._folder is not None:
            # Only then marked as done: a second thread that asks meanwhile waits for the same import.
            import_module(self._folder)
            self._folder = None

    def register(self, name: str, thing: T) -> None:
        """Make a thing known; raises ValueError where the name is taken."""
        if name in self._things:
            raise ValueError(f"the {self._what} {name!r} is registered already")
        self._things[name] = thing

    def withdraw(self, name: str) -> None:
        """Forget a thing of that name."""
        self._things.pop(name, None)

    def get(self, name: str) -> T:
        """Return the thing of that name; raises UnknownName listing the known ones."""
        self._fill()
        try:
            return self._things[name]
        except KeyError:
            raise UnknownName(f"There is no {self._what} “{name}”; there are {', '.join(self._things)}.") from None

    def all(self) -> tuple[T, ...]:
        """Return everything that is registered."""
        self._fill()
        return tuple(self._things.values())
