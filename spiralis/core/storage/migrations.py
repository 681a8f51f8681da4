"""Bring project files of older versions up to date, one small step a version."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from spiralis.core.errors import ProjectFileError

VERSION = 6

#: MIGRATIONS[n] turns the JSON of version n into that of version n + 1.
#: Version 2 only adds: shapes, nested compositions, footage, flipbooks, linked and layered files.
#: Version 3 only adds: groups, effects and finishes.
#: Version 4 has another name for edges of a layer that stay at others.
#: Version 5 has another name for what checks leave alone, and adds slots, variants and formats that follow a piece.
#: Version 6 only adds: where the pictures of a table lie.
MIGRATIONS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {
    1: lambda data: {**data, "version": 2},
    2: lambda data: {**data, "version": 3},
    3: lambda data: _edge_pins_named(data),
    4: lambda data: _left_alone_named(data),
    5: lambda data: {**data, "version": 6},
}


def _edge_pins_named(data: dict[str, Any]) -> dict[str, Any]:
    def layer(old: Any) -> Any:
        if not isinstance(old, dict):
            return old
        return {("edge_pins" if name == "holds" else name): value for name, value in old.items()}

    def piece(old: Any) -> Any:
        layers = old.get("layers") if isinstance(old, dict) else None
        return {**old, "layers": [layer(each) for each in layers]} if isinstance(layers, list) else old

    pieces = data.get("compositions")
    changed = {"compositions": [piece(each) for each in pieces]} if isinstance(pieces, list) else {}
    return {**data, **changed, "version": 4}


def _left_alone_named(data: dict[str, Any]) -> dict[str, Any]:
    def piece(old: Any) -> Any:
        if not isinstance(old, dict):
            return old
        return {("left_alone" if name == "seam_ignored" else name): value for name, value in old.items()}

    pieces = data.get("compositions")
    changed = {"compositions": [piece(each) for each in pieces]} if isinstance(pieces, list) else {}
    return {**data, **changed, "version": 5}


def migrate(data: dict[str, Any], name: str) -> dict[str, Any]:
    """Return the JSON in the current version.

    Raises:
        ProjectFileError: the version is no number, or newer than this program.
    """
    version = data.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise ProjectFileError(f"“{name}” does not say which version of the project format it is in.")
    if version > VERSION:
        raise ProjectFileError(
            f"“{name}” was made by a newer Spiralis (format {version}, this one reads up to {VERSION}); update it."
        )
    while version < VERSION:
        data = MIGRATIONS[version](data)
        version += 1
    return data
