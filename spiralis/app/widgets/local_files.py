"""Files that are dragged here or lie on the clipboard."""

from __future__ import annotations

import os
from pathlib import Path
from urllib.parse import unquote_to_bytes

from PyQt6.QtCore import QMimeData, QUrl


def local_files(mime: QMimeData | None) -> list[Path]:
    """Return the files of this machine among what is dragged or copied, by whatever bytes they are named."""
    return [_path(url) for url in mime.urls() if url.isLocalFile()] if mime is not None and mime.hasUrls() else []


def _path(url: QUrl) -> Path:
    found = url.toLocalFile()
    if "\N{REPLACEMENT CHARACTER}" not in found:
        return Path(found)
    # Qt leaves out what is no UTF-8, as in names from older systems; the address still has it.
    return Path(os.fsdecode(unquote_to_bytes(url.path(QUrl.ComponentFormattingOption.FullyEncoded))))
