"""What was copied outlives the program: desktops forget a clipboard whose program has ended."""

from __future__ import annotations

import time
import zipfile
from contextlib import suppress
from pathlib import Path

from platformdirs import user_state_path
from PyQt6.QtCore import QMimeData
from PyQt6.QtGui import QGuiApplication

from spiralis.core.media.placing import placed

#: After so long a copy is nothing that anybody still means to paste, in s.
_OLDEST = 24 * 3600
_OURS = "application/x-spiralis-"


def kept_clipboard() -> Path:
    """Return the file that holds what was on the clipboard when Spiralis ended."""
    return user_state_path("spiralis") / "clipboard.zip"


def keep_clipboard() -> None:
    """Keep what is on the clipboard, where it came from here; where that cannot be, it goes as it always did."""
    mime = QGuiApplication.clipboard().mimeData()
    formats = [kind for kind in mime.formats() if kind.startswith(_OURS)] if mime is not None else []
    if mime is None or not formats:
        return
    path = kept_clipboard()
    with suppress(OSError):
        path.parent.mkdir(parents=True, exist_ok=True)
        with placed(path) as unfinished, zipfile.ZipFile(unfinished, "w") as archive:
            for number, kind in enumerate(formats):
                archive.writestr(f"{number}/{kind.removeprefix(_OURS)}", mime.data(kind).data())


def clipboard_mime() -> QMimeData | None:
    """Return what is on the clipboard; where that is nothing at all, what was on it when Spiralis ended."""
    mime = QGuiApplication.clipboard().mimeData()
    if mime is not None and mime.formats():
        return mime
    path = kept_clipboard()
    try:
        if time.time() - path.stat().st_mtime > _OLDEST:
            return mime
        held = QMimeData()
        with zipfile.ZipFile(path) as archive:
            for name in archive.namelist():
                held.setData(_OURS + name.partition("/")[2], archive.read(name))
    except (OSError, zipfile.BadZipFile):
        return mime
    return held
