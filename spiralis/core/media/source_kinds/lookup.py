"""Tables of the effect Colour lookup."""

from __future__ import annotations

from pathlib import Path

from spiralis.core.media.files import digest_of, read_bytes
from spiralis.core.media.lookups import SUFFIX, read_lookup
from spiralis.core.model.source import Source, SourceKind, register_source_kind


def _read(path: Path, suffix: str) -> Source:
    data = read_bytes(path)
    read_lookup(data, path.name)
    return Source(path.name, digest_of(data), suffix, 0, 0, kind="lookup", file=str(path), data=data)


register_source_kind(
    SourceKind(
        "lookup", "Colour lookups", (SUFFIX,), _read,
        brought="The table {} is there for the effect Colour lookup.", use="The effect Colour lookup lists it",
    )
)  # fmt: skip
