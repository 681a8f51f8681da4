"""Fonts that are installed on the machine, by family. A project that uses one takes its file along."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache
from pathlib import Path

import uharfbuzz as hb
from platformdirs import user_data_path

from spiralis.core.raster.fonts import family_of

_SUFFIXES = (".ttf", ".otf")
_MOST_FILES = 5000


def font_folders() -> tuple[Path, ...]:
    """Return the folders where the freedesktop systems keep fonts."""
    home = Path.home()
    return Path("/usr/share/fonts"), Path("/usr/local/share/fonts"), home / ".fonts", user_data_path() / "fonts"


def _files(folders: tuple[Path, ...]) -> Iterator[Path]:
    for folder in folders:
        try:
            yield from sorted(path for path in folder.rglob("*") if path.suffix.lower() in _SUFFIXES)
        except OSError:
            continue


@cache
def system_families(folders: tuple[Path, ...] | None = None) -> dict[str, tuple[Path, ...]]:
    """Return the files of each installed family, in the order of the alphabet; files that cannot be read are left out.

    Takes a few milliseconds a file, once: ask for it beside the window.
    """
    found: dict[str, list[Path]] = {}
    for number, path in enumerate(_files(folders if folders is not None else font_folders())):
        if number >= _MOST_FILES:
            break
        try:
            family = family_of(hb.Face(hb.Blob.from_file_path(path)))
        except (hb.HarfBuzzError, OSError, ValueError):
            continue
        if family:
            found.setdefault(family, []).append(path)
    return {family: tuple(found[family]) for family in sorted(found)}
