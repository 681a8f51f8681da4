"""Sounds: music, voices and noises in files of their own."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

from spiralis.core.errors import FileError
from spiralis.core.media.files import digest_of, embedded, read_bytes
from spiralis.core.model.source import Source, SourceKind, register_source_kind
from spiralis.core.sound.reading import RATE, read_sound


def _read(path: Path, suffix: str) -> Source:
    data = read_bytes(path) if embedded(path) else path
    if not data:
        raise FileError(f"“{path.name}” is empty; choose another copy of it.")
    samples = read_sound(data, path.name)
    linked = isinstance(data, Path)
    return Source(
        path.name, digest_of(data), suffix, 0, 0, "sound", frames=len(samples), rate=Fraction(RATE), file=str(path),
        linked=linked, place=path if linked else None, data=None if isinstance(data, Path) else data,
    )  # fmt: skip


register_source_kind(
    SourceKind(
        "sound", "Sounds", (".wav", ".flac", ".mp3", ".m4a", ".aac", ".ogg", ".oga", ".opus"), _read, layer="sound",
        streamed=True,
    )
)  # fmt: skip
