"""Eases that a person keeps: in a file of their own, shared as such files."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from platformdirs import user_config_path

from spiralis.core.animation.ease_tiles import EaseTile
from spiralis.core.animation.easing import Easing
from spiralis.core.errors import FileError, ModelError

SUFFIX = ".eases.json"
_FORMAT = "spiralis-eases"
_MOST = 200


def own_path() -> Path:
    """Return where a person's tiles are kept."""
    return user_config_path("spiralis") / f"own{SUFFIX}"


def read_tiles(path: Path) -> tuple[EaseTile, ...]:
    """Read tiles from a file.

    Raises:
        FileError: not there, no file of eases, or with an ease that is none.
    """
    try:
        data: Any = json.loads(path.read_text(encoding="utf-8"))
        if data["format"] != _FORMAT:
            raise KeyError
        rows = [(str(row["name"]), Easing.from_css(str(row["css"]))) for row in data["eases"][:_MOST]]
    except (OSError, ValueError, KeyError, TypeError, ModelError) as error:
        raise FileError(f"“{path.name}” holds no eases that can be read; choose a {SUFFIX} file.") from error
    return tuple(_tile(name, easing) for name, easing in rows)


def _tile(name: str, easing: Easing) -> EaseTile:
    return EaseTile(f"own-{name}", name[:24], easing, f"Your own: {easing.css()}")


def write_tiles(path: Path, tiles: tuple[EaseTile, ...]) -> None:
    """Write tiles to a file, whole or not at all; raises FileError."""
    rows = [{"name": tile.label, "css": tile.easing.css()} for tile in tiles]
    text = json.dumps({"format": _FORMAT, "version": 1, "eases": rows}, ensure_ascii=False, indent=1)
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        temporary = path.with_name(f".{path.name}.new")
        temporary.write_text(text, encoding="utf-8")
        temporary.replace(path)
    except OSError as error:
        raise FileError(f"“{path}” may not be written to; choose another folder.") from error


def own_tiles() -> tuple[EaseTile, ...]:
    """Return a person's tiles; a file that cannot be read counts as none."""
    try:
        return read_tiles(own_path()) if own_path().exists() else ()
    except FileError:
        return ()


def keep_tile(name: str, easing: Easing) -> tuple[EaseTile, ...]:
    """Keep an ease under a name, in place of one of that name, and return all; raises FileError."""
    kept = tuple(tile for tile in own_tiles() if tile.label != name[:24])
    tiles = (*kept, _tile(name, easing))
    write_tiles(own_path(), tiles)
    return tiles


def drop_tile(name: str) -> tuple[EaseTile, ...]:
    """Drop an own tile and return the rest; raises FileError."""
    tiles = tuple(tile for tile in own_tiles() if tile.name != name)
    write_tiles(own_path(), tiles)
    return tiles


def add_tiles(path: Path) -> tuple[EaseTile, ...]:
    """Take the tiles of a file along and return all; raises FileError."""
    fresh = read_tiles(path)
    names = {tile.label for tile in fresh}
    tiles = (*(tile for tile in own_tiles() if tile.label not in names), *fresh)
    write_tiles(own_path(), tiles)
    return tiles
