"""Who has a project file open, and whether it was changed by somebody else meanwhile."""

from __future__ import annotations

import fcntl
import hashlib
import json
import os
import time
from pathlib import Path

from attrs import frozen
from platformdirs import user_state_path


@frozen
class FileState:
    """What tells one state of a file from another without reading it."""

    size: int
    changed: int
    place: int


def state_of(path: Path) -> FileState | None:
    """Return the state a file is in now, or None where it cannot be told."""
    try:
        found = path.stat()
    except OSError:
        return None
    return FileState(found.st_size, found.st_mtime_ns, found.st_ino)


@frozen
class Owner:
    """The window that has a file open: its process, and when it opened it (seconds since 1970)."""

    process: int
    since: float


class Hold:
    """A lock on a project file for as long as a window shows it; it goes with the process that has it.

    The lock is a file in the XDG state folder, named after the project file, so that nothing is left beside that.
    """

    def __init__(self) -> None:
        self._file = -1

    def take(self, path: Path) -> Owner | None:
        """Let go of what is held and hold another file; return who holds it where somebody else does."""
        self.release()
        try:
            folder = user_state_path("spiralis") / "open"
            folder.mkdir(parents=True, exist_ok=True)
            name = hashlib.sha256(os.fsencode(os.path.realpath(path))).hexdigest()[:32]
            file = os.open(folder / f"{name}.json", os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
        except OSError:
            return None  # Without a state folder nobody can be told; work goes on.
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            owner = _owner(file)
            os.close(file)
            return owner
        os.ftruncate(file, 0)
        os.pwrite(file, json.dumps({"process": os.getpid(), "since": time.time()}).encode(), 0)
        self._file = file
        return None

    def release(self) -> None:
        """Let go of the file that is held, if any."""
        if self._file >= 0:
            os.close(self._file)
            self._file = -1


def _owner(file: int) -> Owner:
    """Return who wrote a lock; an unknown process where it was being written just now."""
    try:
        told = json.loads(os.pread(file, 1000, 0))
        return Owner(int(told["process"]), float(told["since"]))
    except (OSError, ValueError, KeyError, TypeError):
        return Owner(0, time.time())
