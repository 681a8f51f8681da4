"""Read and write small files on disk, with a sentence where that fails."""

from __future__ import annotations

import errno
import hashlib
import os
from pathlib import Path

from spiralis.core.errors import ExportError, FileError
from spiralis.core.media.placing import followed, placed


def read_bytes(path: Path, most: int = 1 << 30) -> bytes:
    """Return a file's bytes; raises FileError with one sentence."""
    try:
        if path.is_dir():
            raise FileError(f"“{path.name}” is a folder; choose a file in it.")
        if path.exists() and not path.is_file():
            # Reading from it might never end.
            raise FileError(f"“{path.name}” is a device or a pipe, not a file; choose a file.")
        if path.stat().st_size > most:
            raise FileError(f"“{path.name}” is over {most >> 20} MB; make it smaller.")
        return path.read_bytes()
    except FileError:
        raise
    except FileNotFoundError as error:
        raise FileError(f"“{path}” is not there; check its name and folder.") from error
    except PermissionError as error:
        raise FileError(f"“{path}” may not be read; check its permissions.") from error
    except OSError as error:
        raise FileError(f"“{path}” cannot be read; check its disk.") from error


#: Files over this size stay where they are unless they are collected into the project.
MOST_EMBEDDED = 64 << 20


def embedded(path: Path) -> bool:
    """Whether a file is small enough to travel in the project."""
    return not (path.is_file() and path.stat().st_size > MOST_EMBEDDED)


def digest_of(data: bytes | Path) -> str:
    """Return the SHA-256 of bytes or of a file, in hexadecimal digits."""
    if isinstance(data, bytes):
        return hashlib.sha256(data).hexdigest()
    with data.open("rb") as handle:
        return hashlib.file_digest(handle, "sha256").hexdigest()


def write_whole(path: Path, text: str) -> None:
    """Write a text file, whole or not at all, with the folders it lies in; raises FileError."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with placed(path) as temporary:
            temporary.write_text(text, encoding="utf-8", errors="backslashreplace")
    except OSError as error:
        raise FileError(unwritten(path, error)) from error


def put_aside(path: Path) -> None:
    """Give a file that cannot be read another name, ``….unread``, before one takes its place; raises FileError."""
    names = (f"{path.name}.unread{number}" for number in ("", *range(2, 1000)))
    try:
        os.replace(path, next(aside for name in names if not (aside := path.with_name(name)).exists()))
    except (OSError, StopIteration) as error:
        raise FileError(f"“{path}” cannot be read, nor put aside; move it elsewhere.") from error


def unwritten(path: Path, error: OSError) -> str:
    """Return the sentence that says why a file was not written, and what to do; its own where it is one."""
    if isinstance(error, FileError):
        return str(error)
    if error.errno in (errno.ENOSPC, errno.EDQUOT, errno.EFBIG):
        return f"The disk is full, so “{path.name}” was not written; free some space and try again."
    if error.errno in (errno.EACCES, errno.EPERM, errno.EROFS, errno.ENOENT, errno.ENOTDIR, errno.EISDIR):
        return f"“{path}” may not be written to; choose another folder."
    return f"“{path.name}” could not be written completely; check the disk and try again."


def check_target(path: Path) -> None:
    """Raise ExportError with one sentence where a file cannot be put at ``path``."""
    folder = followed(path).parent
    if not folder.is_dir():
        raise ExportError(f"The folder “{folder}” is not there; make it or choose another.")
    if path.is_dir():
        raise ExportError(f"“{path.name}” is a folder; choose a name for a file.")
    if not os.access(folder, os.W_OK):
        raise ExportError(f"The folder “{folder}” may not be written to; choose another.")
