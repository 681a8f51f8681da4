"""All sorts of things that are kept: a file of this folder each."""

from __future__ import annotations

from importlib import import_module
from pkgutil import iter_modules
from typing import Any

import spiralis.app.library as folder
from spiralis.app.library.own_list import OwnList

_NONE = ("every", "own_list", "window")


def sorts() -> tuple[OwnList[Any], ...]:
    """Return the list of each sort, by label."""
    for info in iter_modules(folder.__path__):
        if info.name not in _NONE:
            import_module(f"{folder.__name__}.{info.name}")
    return tuple(sorted(OwnList.every, key=lambda own: own.label))
