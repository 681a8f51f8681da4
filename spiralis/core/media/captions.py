"""Captions: words with the times at which they are to be read, from .srt files and WebVTT (W3C)."""

from __future__ import annotations

import html
from pathlib import Path

from attrs import frozen

from spiralis.core.errors import FileError
from spiralis.core.media.files import read_bytes

#: The formats by the ends of their names.
_FORMATS = {".srt": "srt", ".vtt": "vtt"}
CAPTION_SUFFIXES = tuple(_FORMATS)
#: Files of captions are text: what is longer is something else.
_LONGEST = 20_000_000


@frozen
class Caption:
    """Words that are read from a moment on until another one, in seconds."""

    begin: float
    end: float
    words: str


def read_captions(path: Path) -> tuple[Caption, ...]:
    """Read a file of captions, in their order.

    Raises:
        FileError: one sentence on what is wrong with the file.
    """
    return captions_of(read_bytes(path), path.name)


def captions_of(data: bytes, name: str) -> tuple[Caption, ...]:
    """Read the bytes of such a file; marks of style and of speakers go, lines stay. Errors as ``read_captions``."""
    from pysubs2 import SSAFile

    if len(data) > _LONGEST:
        raise FileError(f"“{name}” is too long for captions; choose another file.")
    text = "\n".join(_decoded(data).splitlines())
    try:
        events = SSAFile.from_string(text, format_=_FORMATS[Path(name).suffix.lower()])
    except Exception as error:  # whatever a damaged file makes of the reader
        raise FileError(f"“{name}” cannot be read as captions; choose another copy of it.") from error
    found = (
        Caption(event.start / 1000, event.end / 1000, html.unescape(event.plaintext).strip())
        for event in events if not event.is_comment
    )  # fmt: skip
    captions = sorted((c for c in found if c.words and c.end > c.begin >= 0), key=lambda c: (c.begin, c.end))
    if not captions:
        raise FileError(f"“{name}” holds no captions.")
    return tuple(captions)


def _decoded(data: bytes) -> str:
    """Return text in whichever encoding it is: UTF-16 says so, and what is no UTF-8 is of Western Europe."""
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return data.decode("utf-16", errors="replace")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("cp1252", errors="replace")
