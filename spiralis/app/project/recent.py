"""Projects that were open before, newest first, kept in the state folder."""

from __future__ import annotations

import zipfile
from pathlib import Path

from PyQt6.QtGui import QImage

from spiralis.app.work.noted import note, noted
from spiralis.core.storage.project_file import MOST_THUMBNAIL

_NOTES, _MOST = "recent", 12


def recent_projects() -> list[Path]:
    """Return the files that are still there."""
    names = noted(_NOTES)
    listed = names if isinstance(names, list) else []
    return [Path(name) for name in listed if isinstance(name, str) and Path(name).is_file()]


def remember(path: Path) -> None:
    """Put a project on top of the list."""
    path = path.resolve()
    names = [str(path)] + [str(old) for old in recent_projects() if old != path]
    note(_NOTES, names[:_MOST])


def stored_thumbnail(path: Path) -> QImage | None:
    """Return the picture inside a project file, or None."""
    if not path.is_file():
        return None
    try:
        with zipfile.ZipFile(path) as archive:
            if archive.getinfo("thumbnail.png").file_size > MOST_THUMBNAIL:
                return None
            image = QImage.fromData(archive.read("thumbnail.png"))
    except (OSError, KeyError, zipfile.BadZipFile, RuntimeError):
        return None
    return image if not image.isNull() else None
