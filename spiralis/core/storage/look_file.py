"""Look sets as files of their own, to be shared."""

from __future__ import annotations

import json
from collections.abc import Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any

from attrs import evolve

from spiralis.core.editing.look_sets import LookSet
from spiralis.core.errors import FileError, SpiralisError
from spiralis.core.media.files import read_bytes, write_whole
from spiralis.core.model import Composition, Project
from spiralis.core.storage.conversion import from_json, to_json
from spiralis.core.storage.migrations import migrate

SUFFIX = ".looks.json"
_FORMAT = "spiralis-looks"
MOST_LOOKS = 200


def read_looks(path: Path) -> tuple[LookSet, ...]:
    """Read look sets from a file.

    Raises:
        FileError: not there, no file of looks, damaged, or made by a newer Spiralis.
    """
    try:
        data: Any = json.loads(read_bytes(path, 16 << 20))
        if data["format"] != _FORMAT:
            raise KeyError
        held = from_json(migrate(data["looks"], path.name), path.name)
        carriers = held.compositions[0].layers
    except SpiralisError:
        raise
    except (ValueError, KeyError, TypeError, IndexError) as error:
        raise FileError(f"“{path.name}” holds no look sets that can be read; choose a {SUFFIX} file.") from error
    return tuple(LookSet(layer.name, layer) for layer in carriers[:MOST_LOOKS] if layer.blocks)


def write_looks(path: Path, looks: Sequence[LookSet]) -> None:
    """Write look sets to a file, whole or not at all; raises FileError."""
    carriers = tuple(evolve(look.carrier, name=look.name) for look in looks)
    held = Project("looks", (Composition("looks", 1, 1, Fraction(25), 1, layers=carriers),))
    write_whole(path, json.dumps({"format": _FORMAT, "looks": to_json(held)}, ensure_ascii=False, indent=1))
