"""Footage: clips, animated pictures, and numbered pictures in a row."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from attrs import evolve

from spiralis.core.errors import FileError
from spiralis.core.media.files import digest_of, embedded, read_bytes
from spiralis.core.media.footage import open_clip
from spiralis.core.media.footage.clips import FOOTAGE_SUFFIXES
from spiralis.core.media.footage.sequence import SUFFIX as SEQUENCE_SUFFIX
from spiralis.core.media.footage.sequence import pack_sequence, sequence_name
from spiralis.core.media.pictures import is_animated
from spiralis.core.model.project import LARGEST_SIZE
from spiralis.core.model.source import Source, SourceKind, register_source_kind

_MAYBE_ANIMATED = (".gif", ".webp", ".png", ".apng")


def _read(path: Path, suffix: str) -> Source | None:
    if suffix not in _MAYBE_ANIMATED:
        if not embedded(path):
            source = footage_source(path, path.name, suffix)
            return evolve(source, file=str(path), linked=True, place=path)
        return evolve(footage_source(read_bytes(path), path.name, suffix), file=str(path))
    # Whatever is no file might never end.
    if not path.is_file() or not is_animated(path):
        return None
    return evolve(footage_source(read_bytes(path), path.name, ".apng" if suffix == ".png" else suffix), file=str(path))


def footage_source(data: bytes | Path, name: str, suffix: str) -> Source:
    """Return the source of a clip, of its bytes or where it lies; its first frame is decoded once.

    Raises:
        PictureError: one sentence on what is wrong with it.
    """
    if isinstance(data, bytes) and not data:
        raise FileError(f"“{name}” is empty; choose another copy of it.")
    clip = open_clip(data, suffix, name)
    try:
        clip.frame(0)
        facts = clip.facts
    finally:
        clip.close()
    if max(facts.width, facts.height) > LARGEST_SIZE:
        raise FileError(f"“{name}” is {facts.width} × {facts.height} px, which is too large; make it smaller.")
    held = data if isinstance(data, bytes) else None
    return Source(
        name, digest_of(data), suffix, facts.width, facts.height, "footage", frames=facts.clock.count,
        rate=facts.rate, data=held,
    )  # fmt: skip


def sequence_source(paths: Sequence[Path]) -> Source:
    """Return numbered pictures as one piece of footage; raises PictureError."""
    source = footage_source(pack_sequence(paths), sequence_name(paths), SEQUENCE_SUFFIX)
    return evolve(source, file=str(paths[0]))


register_source_kind(
    SourceKind(
        "footage", "Footage", tuple(dict.fromkeys(FOOTAGE_SUFFIXES + _MAYBE_ANIMATED)), _read, layer="footage",
        streamed=True,
    )
)  # fmt: skip
