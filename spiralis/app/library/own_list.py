"""What a person keeps for use in every project, by name, in one file a sort: ease tiles, look sets, formats."""

from __future__ import annotations

import json
import os
from collections.abc import Callable, Sequence
from contextlib import suppress
from pathlib import Path
from typing import Any, ClassVar, Generic, TypeVar

from platformdirs import user_config_path, user_data_path

from spiralis.app.widgets.preferences import stored
from spiralis.core.errors import FileError, ModelError
from spiralis.core.media.files import read_bytes, write_whole

T = TypeVar("T")
MOST, LONGEST = 200, 40


def library_folder() -> Path:
    """Return the folder of everything that is kept: the one that was chosen, or the usual one."""
    chosen = stored().get("library")
    return Path(chosen) if isinstance(chosen, str) and chosen else user_data_path("spiralis") / "library"


class OwnList(Generic[T]):
    """Things of one sort. ``read`` and ``write`` raise FileError; ``name`` tells things apart, and ``origin`` is a
    sentence on where in the window they are kept."""

    every: ClassVar[list[OwnList[Any]]] = []

    def __init__(
        self, label: str, suffix: str, read: Callable[[Path], tuple[T, ...]],
        write: Callable[[Path, Sequence[T]], None], name: Callable[[T], str], origin: str,
    ) -> None:  # fmt: skip
        self.label, self.suffix, self.origin = label, suffix, origin
        self._read, self._write, self.name = read, write, name
        self._listeners: list[Callable[[], None]] = []
        self.every.append(self)

    @property
    def path(self) -> Path:
        """Where they are kept."""
        path = library_folder() / f"own{self.suffix}"
        before = user_config_path("spiralis") / path.name
        if not path.exists() and before.exists():
            # Earlier versions kept them among the settings.
            with suppress(OSError):
                path.parent.mkdir(parents=True, exist_ok=True)
                os.rename(before, path)
        return path

    def when_changed(self, listener: Callable[[], None]) -> None:
        """Have something called after every change."""
        self._listeners.append(listener)

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
        rest = tuple(each for each in self.all() if self.name(each) != name)
        self._put(rest)
        return rest

    def add_from(self, path: Path) -> tuple[T, ...]:
        """Take the things of a file along and return all; raises FileError."""
        return self._kept(self._read(path))

    def share(self, path: Path) -> None:
        """Write all to a file; raises FileError."""
        self._write(path, self.all())

    def share_one(self, name: str, path: Path) -> None:
        """Write the one of a name to a file; raises FileError."""
        self._write(path, [each for each in self.all() if self.name(each) == name])

    def _kept(self, fresh: tuple[T, ...]) -> tuple[T, ...]:
        names = {self.name(each) for each in fresh}
        kept = (*(each for each in self.all() if self.name(each) not in names), *fresh)
        self._put(kept)
        return kept

    def _put(self, things: Sequence[T]) -> None:
        path = self.path
        if path.exists():
            try:
                self._read(path)
            except FileError:
                # It may be of a newer version, or be mended by hand.
                os.replace(path, path.with_name(f"{path.name}.unread"))
        self._write(path, things)
        for listener in list(self._listeners):
            listener()


def kept_as_rows(
    label: str, form: str, rows: str, suffix: str, to_row: Callable[[T], dict[str, Any]],
    from_row: Callable[[dict[str, Any]], T], name: Callable[[T], str], origin: str,
) -> OwnList[T]:  # fmt: skip
    """Return a list kept as JSON: ``form`` says what file it is, ``rows`` where in it the things are.

    ``from_row`` may raise ValueError, KeyError, TypeError or ModelError where a row is none.
    """

    def read(path: Path) -> tuple[T, ...]:
        try:
            data: Any = json.loads(read_bytes(path, 1 << 22))
            if data["format"] != form:
                raise KeyError
            return tuple(from_row(row) for row in data[rows][:MOST])
        except (OSError, ValueError, KeyError, TypeError, ModelError) as error:
            what = label.lower()
            raise FileError(f"“{path.name}” holds no {what} that can be read; choose a {suffix} file.") from error

    def write(path: Path, things: Sequence[T]) -> None:
        data = {"format": form, "version": 1, rows: [to_row(thing) for thing in things]}
        write_whole(path, json.dumps(data, ensure_ascii=False, indent=1))

    return OwnList(label, suffix, read, write, name, origin)
