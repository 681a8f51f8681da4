"""Files that become a project's sources: pictures, footage, numbered sequences, fonts, colour lookups."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from pathlib import Path

from attrs import evolve

from spiralis.core.errors import FileError, FontError
from spiralis.core.media.files import read_bytes
from spiralis.core.media.footage import open_clip
from spiralis.core.media.footage.clips import FOOTAGE_SUFFIXES
from spiralis.core.media.footage.sequence import SUFFIX as SEQUENCE_SUFFIX
from spiralis.core.media.footage.sequence import pack_sequence, sequence_name
from spiralis.core.media.lookups import SUFFIX as LOOKUP_SUFFIX
from spiralis.core.media.lookups import read_lookup
from spiralis.core.media.pictures import PICTURE_SUFFIXES, is_animated, picture_source
from spiralis.core.model.project import LARGEST_SIZE, Source
from spiralis.core.raster.fonts import read_face

FONT_SUFFIXES = (".ttf", ".otf")
SOURCE_SUFFIXES = tuple(dict.fromkeys(PICTURE_SUFFIXES + FOOTAGE_SUFFIXES[:-1] + FONT_SUFFIXES + (LOOKUP_SUFFIX,)))
#: Footage over this size stays where it is unless it is collected into the project.
MOST_EMBEDDED = 64 << 20
_MAYBE_ANIMATED = (".gif", ".webp", ".png", ".apng")


def read_source(path: Path, suffix: str | None = None) -> Source:
    """Read a picture, footage, a font or a colour lookup as a source that remembers where it came from.

    Raises:
        PictureError, FontError, FileError: one sentence on what is wrong with the file.
    """
    path = Path(path)
    suffix = (suffix or path.suffix).lower()
    if suffix in FOOTAGE_SUFFIXES and suffix not in _MAYBE_ANIMATED:
        return _footage(path, suffix)
    data = read_bytes(path)
    if suffix in FONT_SUFFIXES:
        if not data:
            raise FontError(f"“{path.name}” is empty; choose another copy of it.")
        read_face(data, path.name)
        digest = hashlib.sha256(data).hexdigest()
        return Source(path.name, digest, suffix, 0, 0, kind="font", file=str(path), data=data)
    if suffix == LOOKUP_SUFFIX:
        read_lookup(data, path.name)
        digest = hashlib.sha256(data).hexdigest()
        return Source(path.name, digest, suffix, 0, 0, kind="lookup", file=str(path), data=data)
    if suffix in _MAYBE_ANIMATED and is_animated(data):
        return evolve(footage_source(data, path.name, ".apng" if suffix == ".png" else suffix), file=str(path))
    return evolve(picture_source(data, path.name), file=str(path))


def _footage(path: Path, suffix: str) -> Source:
    if path.is_file() and path.stat().st_size > MOST_EMBEDDED:
        source = footage_source(path, path.name, suffix)
        return evolve(source, file=str(path), linked=True, place=path)
    return evolve(footage_source(read_bytes(path), path.name, suffix), file=str(path))


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


def digest_of(data: bytes | Path) -> str:
    """Return the SHA-256 of bytes or of a file, in hexadecimal digits."""
    if isinstance(data, bytes):
        return hashlib.sha256(data).hexdigest()
    with data.open("rb") as handle:
        return hashlib.file_digest(handle, "sha256").hexdigest()


def sequence_source(paths: Sequence[Path]) -> Source:
    """Return numbered pictures as one piece of footage; raises PictureError."""
    source = footage_source(pack_sequence(paths), sequence_name(paths), SEQUENCE_SUFFIX)
    return evolve(source, file=str(paths[0]))
