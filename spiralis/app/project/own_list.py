"""What a person keeps for use in every project, by name, in one file: ease tiles, look sets."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Generic, TypeVar

from platformdirs import user_config_path

from spiralis.core.errors import FileError

T = TypeVar("T")


class OwnList(Generic[T]):
    """Things of one sort. ``read`` and ``write`` raise FileError; ``name`` tells things apart."""

    def __init__(
        self, file: str, read: Callable[[Path], tuple[T, ...]], write: Callable[[Path, Sequence[T]], None],
        name: Callable[[T], str],
    ) -> None:  # fmt: skip
        self._file, self._read, self._write, self._name = file, read, write, name

    @property
    def path(self) -> Path:
        """Where they are kept."""
        return user_config_path("spiralis") / self._file

    def all(self) -> tuple[T, ...]:
        """Return them; a file that cannot be read counts as none."""
        try:
            return self._read(self.path) if self.path.exists() else ()
        except FileError:
            return ()

    def keep(self, thing: T) -> tuple[T, ...]:
        """Keep a thing, in place of one of its name, and return all; raises FileError."""
        return self._kept((thing,))

    def drop(self, name: str) -> tuple[T, ...]:
        """Drop the one of a name and return the rest; raises FileError."""
        rest = tuple(each for each in self.all() if self._name(each) != name)
        self._write(self.path, rest)
        return rest

    def add_from(self, path: Path) -> tuple[T, ...]:
        """Take the things of a file along and return all; raises FileError."""
        return self._kept(self._read(path))

    def share(self, path: Path) -> None:
        """Write all to a file; raises FileError."""
        self._write(path, self.all())

    def _kept(self, fresh: tuple[T, ...]) -> tuple[T, ...]:
        names = {self._name(each) for each in fresh}
        kept = (*(each for each in self.all() if self._name(each) not in names), *fresh)
        self._write(self.path, kept)
        return kept
