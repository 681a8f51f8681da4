"""Shortcuts that a person has set, by the labels of commands, in a file that can be shared."""

from __future__ import annotations

import json
from pathlib import Path

from platformdirs import user_config_path
from PyQt6.QtGui import QKeySequence

from spiralis.app.commands.command import Command
from spiralis.core.errors import FileError
from spiralis.core.media.files import put_aside, read_bytes, write_whole

SUFFIX = ".spiralis-keys"
_KIND = "spiralis-shortcuts"
_MOST_BYTES = 1 << 20


class OwnKeys:
    """What is set stands in place of a command's usual shortcuts; an empty list means none."""

    def __init__(self) -> None:
        self._set: dict[str, list[str]] = {}
        #: Whether there is a file that cannot be read: it counts as none, and is put aside before another is written.
        self._unread = False
        try:
            if self.path.exists():
                self._set = read_keys(self.path)
        except FileError:
            self._unread = True

    @property
    def path(self) -> Path:
        """Where they are kept."""
        return user_config_path("spiralis") / f"shortcuts{SUFFIX}"

    def of(self, command: Command) -> list[QKeySequence]:
        """Return the shortcuts of a command as they are now, each once."""
        if command.label in self._set:
            return [QKeySequence(text) for text in self._set[command.label]]
        found: list[QKeySequence] = []
        for keys in command.shortcuts():
            if keys not in found and not keys.isEmpty():
                found.append(keys)
        return found

    @property
    def any(self) -> bool:
        """Whether any command has other shortcuts than the usual ones."""
        return bool(self._set)

    def is_own(self, command: Command) -> bool:
        """Whether a command has other shortcuts than the usual ones."""
        return command.label in self._set

    def put(self, command: Command, keys: list[QKeySequence]) -> None:
        """Set a command's shortcuts; raises FileError where they cannot be kept."""
        texts = [key.toString(QKeySequence.SequenceFormat.PortableText) for key in keys]
        usual = [key.toString(QKeySequence.SequenceFormat.PortableText) for key in command.shortcuts()]
        self._set.pop(command.label, None)
        if texts != usual:
            self._set[command.label] = texts
        self._write(self.path)

    def forget_all(self) -> None:
        """Give every command its usual shortcuts again; raises FileError."""
        self._set = {}
        self._write(self.path)

    def share(self, path: Path) -> None:
        """Write them to a file; raises FileError."""
        self._write(path)

    def take_from(self, path: Path) -> None:
        """Take the shortcuts of a file in place of the present ones; raises FileError."""
        self._set = read_keys(path)
        self._write(self.path)

    def _write(self, path: Path) -> None:
        if self._unread and path == self.path:
            put_aside(path)
            self._unread = False
        write_whole(path, json.dumps({"kind": _KIND, "keys": self._set}, indent=1, ensure_ascii=False))


def read_keys(path: Path) -> dict[str, list[str]]:
    """Return the shortcuts of a file by the labels of commands; raises FileError with one sentence."""
    try:
        data = json.loads(read_bytes(path, _MOST_BYTES))
    except ValueError as error:
        raise FileError(f"“{path.name}” is no file of shortcuts; choose one that Spiralis wrote.") from error
    held = data.get("keys") if isinstance(data, dict) and data.get("kind") == _KIND else None
    if not isinstance(held, dict):
        raise FileError(f"“{path.name}” is no file of shortcuts; choose one that Spiralis wrote.")
    return {
        str(label): [str(text) for text in texts if not QKeySequence(str(text)).isEmpty()]
        for label, texts in held.items() if isinstance(texts, list)
    }  # fmt: skip
