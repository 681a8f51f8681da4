"""Eases that a person keeps: in a file of their own, shared as such files."""

from __future__ import annotations

import json
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from spiralis.app.project.own_list import OwnList
from spiralis.core.animation.ease_tiles import EaseTile
from spiralis.core.animation.easing import Easing
from spiralis.core.errors import FileError, ModelError
from spiralis.core.media.files import write_whole

SUFFIX = ".eases.json"
_FORMAT = "spiralis-eases"
_MOST = 200


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
    return tuple(own_tile(name, easing) for name, easing in rows)


def own_tile(name: str, easing: Easing) -> EaseTile:
    """Return an ease as a person's own tile."""
    return EaseTile(f"own-{name}", name[:24], easing, f"Your own: {easing.css()}")


def write_tiles(path: Path, tiles: Sequence[EaseTile]) -> None:
    """Write tiles to a file, whole or not at all; raises FileError."""
    rows = [{"name": tile.label, "css": tile.easing.css()} for tile in tiles]
    write_whole(path, json.dumps({"format": _FORMAT, "version": 1, "eases": rows}, ensure_ascii=False, indent=1))


#: A person's tiles.
OWN_TILES: OwnList[EaseTile] = OwnList(f"own{SUFFIX}", read_tiles, write_tiles, lambda tile: tile.label)
