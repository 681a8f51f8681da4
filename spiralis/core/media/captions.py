"""Captions: words with the times at which they are to be read, from .srt files and WebVTT (W3C)."""

from __future__ import annotations

import html
from collections.abc import Sequence
from pathlib import Path

from attrs import frozen

from spiralis.core.errors import ExportError, FileError
from spiralis.core.media.files import check_target, read_bytes, write_whole

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


def write_captions(captions: Sequence[Caption], path: Path) -> None:
    """Write captions to a file; the ending of its name says as what.

    Raises:
        ExportError, FileError: one sentence; what was at ``path`` before is still there.
    """
    if path.suffix.lower() not in _FORMATS:
        raise ExportError(f"“{path.name}” ends in none of {', '.join(_FORMATS)}; give it one of these.")
    if not captions:
        raise ExportError("Nothing is to be read here, so that no captions were written.")
    check_target(path)
    write_whole(path, captions_written(captions, path.suffix.lower()))


def captions_written(captions: Sequence[Caption], suffix: str) -> str:
    """Return the text of such a file. Lines stay; empty ones, which would end a caption, go."""
    # pysubs2 would take braces among the words for marks of style, and leave them out.
    web = suffix == ".vtt"
    blocks = ["WEBVTT\n"] if web else []
    for number, caption in enumerate(captions, 1):
        begin, end = (_clock(seconds, "." if web else ",") for seconds in (caption.begin, caption.end))
        lines = [line for line in caption.words.splitlines() if line.strip()]
        words = "\n".join(html.escape(line, quote=False) if web else line for line in lines)
        blocks.append(f"{number}\n{begin} --> {end}\n{words}\n")
    return "\n".join(blocks)


def _clock(seconds: float, point: str) -> str:
    whole, thousandths = divmod(round(seconds * 1000), 1000)
    return f"{whole // 3600:02}:{whole // 60 % 60:02}:{whole % 60:02}{point}{thousandths:03}"


def _decoded(data: bytes) -> str:
    """Return text in whichever encoding it is: UTF-16 says so, and what is no UTF-8 is of Western Europe."""
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return data.decode("utf-16", errors="replace")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("cp1252", errors="replace")
