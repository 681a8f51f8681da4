"""Files that become a project's sources: pictures and fonts."""

from __future__ import annotations

import hashlib
from pathlib import Path

from spiralis.core.errors import FileError, FontError
from spiralis.core.media.pictures import PICTURE_SUFFIXES, picture_source
from spiralis.core.model.project import Source
from spiralis.core.raster.fonts import read_face

FONT_SUFFIXES = (".ttf", ".otf")
SOURCE_SUFFIXES = PICTURE_SUFFIXES + FONT_SUFFIXES
MOST_BYTES = 1 << 30


def read_bytes(path: Path) -> bytes:
    """Return a file's bytes; raises FileError with one sentence."""
    try:
        if path.is_dir():
            raise FileError(f"“{path.name}” is a folder; choose a file in it.")
        if path.stat().st_size > MOST_BYTES:
            raise FileError(f"“{path.name}” is over 1 GB; make it smaller.")
        return path.read_bytes()
    except FileNotFoundError as error:
        raise FileError(f"“{path}” is not there; check its name and folder.") from error
    except PermissionError as error:
        raise FileError(f"“{path}” may not be read; check its permissions.") from error


def read_source(path: Path) -> Source:
    """Read a picture or a font file as a source.

    Raises:
        PictureError, FontError, FileError: one sentence on what is wrong with the file.
    """
    data = read_bytes(path)
    if path.suffix.lower() in FONT_SUFFIXES:
        if not data:
            raise FontError(f"“{path.name}” is empty; choose another copy of it.")
        read_face(data, path.name)
        digest = hashlib.sha256(data).hexdigest()
        return Source(path.name, digest, path.suffix.lower(), 0, 0, kind="font", data=data)
    return picture_source(data, path.name)
