"""More of the demo's compositions, one file a study; each has ``compositions()``, the last of which is the piece."""

from __future__ import annotations

from importlib import import_module
from pkgutil import iter_modules

from spiralis.core.model import Composition


def all_compositions() -> tuple[Composition, ...]:
    """Return the compositions of every file in this folder, in the order of the file names."""
    names = sorted(info.name for info in iter_modules(__path__))
    return tuple(piece for name in names for piece in import_module(f"{__name__}.{name}").compositions())
