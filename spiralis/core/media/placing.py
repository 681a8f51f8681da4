"""Put files in their place: under a hidden name beside it first, then whole, in one step of the file system."""

from __future__ import annotations

import ctypes
import os
import re
import secrets
import shutil
import stat
import time
from collections.abc import Iterable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

#: Hidden names of files that are being written: whose, and a number.
_HIDDEN = re.compile(r"\.spiralis-(\d+)-[0-9a-f]{8}-.+")
#: What a killed process left is removed when it is so old, in seconds.
_OLD = 3600
#: The flag of renameat2(2) that lets two names change places; and "beside the working folder".
_EXCHANGE, _HERE = 2, -100


def hidden_beside(path: Path) -> Path:
    """Return a hidden name in the folder of ``path``, with its ending, that nothing has yet."""
    return path.with_name(f".spiralis-{os.getpid()}-{secrets.token_hex(4)}-{path.stem[:40]}{path.suffix}")


def followed(path: Path) -> Path:
    """Return the file that a link leads to: that one is written anew, and the link stays a link."""
    return Path(os.path.realpath(path)) if path.is_symlink() else path


def put_file(temporary: Path, path: Path) -> None:
    """Let a file take its place, once its bytes are on the disk; whoever may read or write the old one may the new."""
    with suppress(OSError):
        old = path.stat()
        with suppress(PermissionError):  # A group that one does not belong to cannot be given.
            os.chown(temporary, -1, old.st_gid)
        os.chmod(temporary, stat.S_IMODE(old.st_mode))
    with temporary.open("rb") as handle:
        os.fsync(handle.fileno())
    os.replace(temporary, path)


@contextmanager
def placed(path: Path) -> Iterator[Path]:
    """Give a hidden name beside a file; what is written there takes the file's place, whole or not at all.

    Raises:
        OSError: it could not be put there; what was at ``path`` before is still there.
    """
    path = followed(path)
    temporary = hidden_beside(path)
    try:
        yield temporary
        put_file(temporary, path)
    finally:
        with suppress(OSError):
            remove(temporary)


def put_folder(temporary: Path, folder: Path) -> None:
    """Let a folder take its place in one step; one that was there is at ``temporary`` afterwards, or gone."""
    for part in sorted(temporary.iterdir()):
        with part.open("rb") as handle:
            os.fsync(handle.fileno())
    if not folder.exists():
        os.rename(temporary, folder)
    elif not _exchanged(temporary, folder):
        # A file system that cannot do it at once: for a moment neither is there, but both are whole.
        old = hidden_beside(folder)
        os.rename(folder, old)
        os.rename(temporary, folder)
        shutil.rmtree(old, ignore_errors=True)


def _exchanged(one: Path, other: Path) -> bool:
    try:
        call = ctypes.CDLL(None, use_errno=True).renameat2
    except (OSError, AttributeError):
        return False
    return bool(call(_HERE, os.fsencode(one), _HERE, os.fsencode(other), _EXCHANGE) == 0)


def remove(path: Path) -> None:
    """Remove a file or a folder, where it is there."""
    if path.is_dir() and not path.is_symlink():
        shutil.rmtree(path, ignore_errors=True)
    else:
        path.unlink(missing_ok=True)


def sweep(folders: Iterable[Path]) -> list[Path]:
    """Remove from folders what killed processes left under hidden names over an hour ago; return what that was."""
    swept = []
    for folder in dict.fromkeys(folders):
        try:
            names = [entry.name for entry in os.scandir(folder)]
        except OSError:
            continue
        for name in names:
            mark, path = _HIDDEN.fullmatch(name), folder / name
            try:
                if mark is None or alive(int(mark[1])) or time.time() - path.lstat().st_mtime < _OLD:
                    continue
                remove(path)
            except OSError:
                continue
            swept.append(path)
    return swept


def alive(process: int) -> bool:
    """Return whether a process of that number runs."""
    try:
        os.kill(process, 0)
    except (ProcessLookupError, OverflowError):
        return False
    except PermissionError:
        return True
    return True
