"""Projects that were open before, newest first, kept in the state folder."""

from __future__ import annotations

import json
import zipfile
from pathlib import Path

from platformdirs import user_state_path
from PyQt6.QtGui import QImage

from spiralis.core.storage.project_file import MOST_THUMBNAIL

_MOST = 12


def _list_file() -> Path:
    return user_state_path("spiralis") / "recent.json"


def recent_projects() -> list[Path]:
    """Return the files that are still there."""
    try:
        names = json.loads(_list_file().read_text(encoding="utf-8"))
        return [Path(name) for name in names if isinstance(name, str) and Path(name).is_file()]
    except (OSError, ValueError, TypeError):
        return []


def remember(path: Path) -> None:
    """Put a project on top of the list; a list that cannot be kept is no reason to stop work."""
    path = path.resolve()
    names = [str(path)] + [str(old) for old in recent_projects() if old != path]
    try:
        _list_file().parent.mkdir(parents=True, exist_ok=True)
        _list_file().write_text(json.dumps(names[:_MOST]), encoding="utf-8")
    except OSError:
        pass


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
