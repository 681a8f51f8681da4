"""What a person keeps for use in every project, by name, in one file a sort: ease tiles, look sets, formats."""

from __future__ import annotations

import json
import os
from collections.abc import Callable, Sequence
from contextlib import suppress
from pathlib import Path
from typing import Any, ClassVar, Generic, TypeVar
from weakref import WeakMethod

from platformdirs import user_config_path, user_data_path

from spiralis.app.widgets.preferences import stored
from spiralis.app.work.deleted import is_deleted
from spiralis.core.errors import FileError, ModelError
from spiralis.core.media.files import put_aside, read_bytes, write_whole

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
        self.read, self._write, self.name = read, write, name
        self._listeners: list[WeakMethod[Callable[[], None]]] = []
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
        """Have a method of a widget called after every change, as long as there is the widget."""
        self._listeners.append(WeakMethod(listener))

    def all(self) -> tuple[T, ...]:
        """Return them; a file that cannot be read counts as none."""
        try:
            return self.read(self.path) if self.path.exists() else ()
        except FileError:
            return ()

    def others(self, things: Sequence[T]) -> list[str]:
        """Return the names of things under which something else is kept."""
        kept = {self.name(each): each for each in self.all()}
        return [name for thing in things if (name := self.name(thing)) in kept and kept[name] != thing]

    def keep(self, *things: T) -> tuple[T, ...]:
        """Keep things, in place of those of their names, and return all; of one name the last. Raises FileError."""
        fresh = {self.name(each): each for each in things}
        kept = (*(each for each in self.all() if self.name(each) not in fresh), *fresh.values())
        if len(kept) > MOST:
            raise FileError(f"The library keeps {MOST} {self.label.lower()}, and these would be more; drop some first.")
        self._put(kept)
        return kept

    def drop(self, name: str) -> tuple[T, ...]:
        """Drop the one of a name and return the rest; raises FileError."""
        rest = tuple(each for each in self.all() if self.name(each) != name)
        self._put(rest)
        return rest

    def share(self, path: Path) -> None:
        """Write all to a file; raises FileError."""
        self._write(path, self.all())

    def share_one(self, name: str, path: Path) -> None:
        """Write the one of a name to a file; raises FileError."""
        self._write(path, [each for each in self.all() if self.name(each) == name])

    def tell(self) -> None:
        """Call everybody who wants to hear of changes."""
        heard = [(held, call) for held in self._listeners if (call := held()) is not None and not is_deleted(call)]
        self._listeners = [held for held, _ in heard]
        for _, call in heard:
            call()

    def _put(self, things: Sequence[T]) -> None:
        path = self.path
        if path.exists():
            try:
                self.read(path)
            except FileError:
                # It may be of a newer version, or be mended by hand.
                put_aside(path)
        self._write(path, things)
        self.tell()


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
