"""Dialogs for files, which begin in the folder where one was last for the same purpose."""

from __future__ import annotations

import json
from collections.abc import Iterable
from pathlib import Path

from platformdirs import user_state_path
from PyQt6.QtWidgets import QFileDialog, QWidget


def _memory() -> Path:
    return user_state_path("spiralis") / "folders.json"


def folder_of(purpose: str) -> str:
    """Return the folder of a purpose, as long as it is there; empty where there is none."""
    folder = _stored().get(purpose, "")
    return folder if folder and Path(folder).is_dir() else ""


def _stored() -> dict[str, str]:
    try:
        found = json.loads(_memory().read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return {}
    return {k: v for k, v in found.items() if isinstance(v, str)} if isinstance(found, dict) else {}


def keep_folder(purpose: str, folder: Path) -> None:
    """Keep the folder of a purpose; one that cannot be kept is no reason to stop work."""
    try:
        _memory().parent.mkdir(parents=True, exist_ok=True)
        _memory().write_text(json.dumps({**_stored(), purpose: str(folder)}), encoding="utf-8")
    except OSError:
        pass


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
    """Ask for a file to write; a ``name`` without a folder begins in that of the purpose."""
    return ask_save_as(parent, purpose, title, name, kinds)[0]


def ask_save_as(parent: QWidget, purpose: str, title: str, name: str, kinds: str) -> tuple[Path | None, str]:
    """Ask for a file to write, and return the kind that was chosen too."""
    start = name if Path(name).is_absolute() else str(Path(folder_of(purpose)) / name)
    chosen, kind = QFileDialog.getSaveFileName(parent, title, start, kinds)
    return _taken(purpose, chosen), kind


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
