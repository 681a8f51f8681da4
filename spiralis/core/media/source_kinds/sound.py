"""Sounds: music, voices and noises in files of their own."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

from attrs import evolve

from spiralis.core.errors import FileError
from spiralis.core.media.files import digest_of, embedded, read_bytes
from spiralis.core.model.source import Source, SourceKind, register_source_kind
from spiralis.core.sound.reading import RATE, read_sound


def _read(path: Path, suffix: str) -> Source:
    if embedded(path):
        return evolve(sound_source(read_bytes(path), path.name, suffix), file=str(path))
    return evolve(sound_source(path, path.name, suffix), file=str(path), linked=True, place=path)


def sound_source(data: bytes | Path, name: str, suffix: str) -> Source:
    """Return the source of a sound, of its bytes or where it lies.

    Raises:
        FileError: one sentence on what is wrong with it.
    """
    if not data:
        raise FileError(f"“{name}” is empty; choose another copy of it.")
    length = len(read_sound(data, name))
    held = data if isinstance(data, bytes) else None
    return Source(name, digest_of(data), suffix, 0, 0, "sound", frames=length, rate=Fraction(RATE), data=held)


register_source_kind(
    SourceKind(
        "sound", "Sounds", (".wav", ".flac", ".mp3", ".m4a", ".aac", ".ogg", ".oga", ".opus"), _read, layer="sound",
        streamed=True,
    )
)  # fmt: skip
