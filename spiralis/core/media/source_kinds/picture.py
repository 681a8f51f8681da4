"""Pictures; whatever no other kind took counts as one."""

from __future__ import annotations

from pathlib import Path

from attrs import evolve

from spiralis.core.media.files import read_bytes
from spiralis.core.media.pictures import PICTURE_SUFFIXES, picture_size, picture_source
from spiralis.core.model.source import Source, SourceKind, register_source_kind


def _read(path: Path, suffix: str) -> Source:
    return evolve(picture_source(read_bytes(path), path.name), file=str(path))


register_source_kind(
    SourceKind("picture", "Pictures", PICTURE_SUFFIXES, _read, layer="picture", measure=picture_size, still=True)
)
