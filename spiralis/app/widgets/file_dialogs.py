"""Dialogs for files, which begin in the folder where one was last for the same purpose."""

from __future__ import annotations

import re
from collections.abc import Iterable
from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QWidget

from spiralis.app.widgets.asking import sure
from spiralis.app.work.noted import note, noted_by_key

_NOTES = "folders"


def folder_of(purpose: str) -> str:
    """Return the folder of a purpose, as long as it is there; empty where there is none."""
    folder = noted_by_key(_NOTES).get(purpose)
    return folder if isinstance(folder, str) and folder and Path(folder).is_dir() else ""


def keep_folder(purpose: str, folder: Path) -> None:
    """Keep the folder of a purpose."""
    note(_NOTES, {**noted_by_key(_NOTES), purpose: str(folder)})


def files_with(label: str, suffixes: Iterable[str]) -> str:
    """Return the kinds of files with some suffixes, as a dialog takes them."""
    return f"{label} ({' '.join(f'*{suffix}' for suffix in suffixes)})"


def ask_open(parent: QWidget, purpose: str, title: str, kinds: str) -> Path | None:
    """Ask for a file to read."""
    name, _ = QFileDialog.getOpenFileName(parent, title, folder_of(purpose), kinds)
    return _taken(purpose, name)


def ask_open_several(parent: QWidget, purpose: str, title: str, kinds: str) -> list[Path]:
    """Ask for files to read."""
    names, _ = QFileDialog.getOpenFileNames(parent, title, folder_of(purpose), kinds)
    return [path for name in names if (path := _taken(purpose, name)) is not None]


def ask_save(parent: QWidget, purpose: str, title: str, name: str, kinds: str) -> Path | None:
    """Ask for a file to write; a ``name`` without a folder begins in that of the purpose.

    A name that is typed without an ending gets that of the kind which is chosen. The dialog has asked about
    replacing a file of the name as it was typed; one of the longer name is asked about here.
    """
    start = name if Path(name).is_absolute() else str(Path(folder_of(purpose)) / name)
    chosen, kind = QFileDialog.getSaveFileName(parent, title, start, kinds)
    typed = _taken(purpose, chosen)
    if typed is None:
        return None
    path = _ending_in(typed, kind or kinds, kinds)
    if path == typed or not path.exists():
        return path
    told, more = f"“{path.name}” is there already.", "What is written now takes its place."
    return path if sure(parent, "Replace a file", told, more, "Replace it") else None


def _ending_in(path: Path, kind: str, kinds: str) -> Path:
    """Return a path with the ending of a kind, where it has none of the ``kinds``."""
    if path.name.lower().endswith(tuple(_endings(kinds))):
        return path
    return path.with_name(path.name + next(iter(_endings(kind)), ""))


def _endings(kinds: str) -> list[str]:
    """Return the endings of kinds as a dialog takes them: ``Tables (*.csv *.tsv);;…``."""
    return re.findall(r"\*(\.[\w.-]+)", kinds)


def ask_folder(parent: QWidget, purpose: str, title: str) -> Path | None:
    """Ask for a folder."""
    name = QFileDialog.getExistingDirectory(parent, title, folder_of(purpose))
    if name:
        keep_folder(purpose, Path(name))
    return Path(name) if name else None


def _taken(purpose: str, name: str) -> Path | None:
    if not name:
        return None
    keep_folder(purpose, Path(name).parent)
    return Path(name)
