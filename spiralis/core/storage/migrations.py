"""Bring project files of older versions up to date, one small step a version."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from spiralis.core.errors import ProjectFileError

VERSION = 3

#: MIGRATIONS[n] turns the JSON of version n into that of version n + 1.
#: Version 2 only adds: shapes, nested compositions, footage, flipbooks, linked and layered files.
#: Version 3 only adds: groups, effects and finishes.
MIGRATIONS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {
    1: lambda data: {**data, "version": 2},
    2: lambda data: {**data, "version": 3},
}


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
