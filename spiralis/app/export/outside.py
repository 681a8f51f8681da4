"""What an export has to do with files that are there already, and with other programs."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QUrl
from PyQt6.QtGui import QDesktopServices
from PyQt6.QtWidgets import QWidget

from spiralis.app.widgets.asking import sure
from spiralis.core.media.exporters import ExportResult, sequence_folder


def may_replace(parent: QWidget, path: Path) -> bool:
    """Ask where a sequence takes the place of pictures that are there; files have been asked about."""
    folder = sequence_folder(path)
    count = len(list(folder.iterdir())) if folder.is_dir() else 0
    if not count:
        return True
    told = f"The folder “{folder.name}” holds {count} {'picture' if count == 1 else 'pictures'} already."
    more = "The new ones take their place, all at once when they are written."
    return sure(parent, "Replace pictures", told, more, "Replace them")


def show_outside(result: ExportResult | None, folder: bool) -> None:
    """Let the system open a file that was written, or the folder that it lies in."""
    if result is not None:
        path = result.path.parent if folder else result.path
        QDesktopServices.openUrl(QUrl.fromLocalFile(str(path)))
