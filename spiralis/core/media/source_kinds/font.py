"""Fonts, by whose names words are set."""

from __future__ import annotations

from pathlib import Path

from spiralis.core.errors import FontError
from spiralis.core.media.files import digest_of, read_bytes
from spiralis.core.model.source import Source, SourceKind, register_source_kind
from spiralis.core.raster.fonts import read_face


def _read(path: Path, suffix: str) -> Source:
    data = read_bytes(path)
    if not data:
        raise FontError(f"“{path.name}” is empty; choose another copy of it.")
    read_face(data, path.name)
    return Source(path.name, digest_of(data), suffix, 0, 0, kind="font", file=str(path), data=data)


register_source_kind(
    SourceKind(
        "font", "Fonts", (".ttf", ".otf"), _read,
        brought="The font {} is now among the fonts of text layers.",
        use="Double-click sets the chosen words in it", sets_words=True,
    )
)  # fmt: skip
