"""Numbered pictures as one clip. They travel as a ZIP of the pictures as they are, in order."""

from __future__ import annotations

import io
import re
import threading
import zipfile
from collections.abc import Sequence
from fractions import Fraction
from pathlib import Path

import numpy as np

from spiralis.core.animation.source_time import even_clock
from spiralis.core.errors import PictureError
from spiralis.core.media.archives import unpacks_to_too_much
from spiralis.core.media.files import read_bytes
from spiralis.core.media.footage.base import Facts
from spiralis.core.media.pictures import PICTURE_SUFFIXES, decode_picture, picture_size

SUFFIX = ".frames"
DEFAULT_RATE = Fraction(25)
MOST_FRAMES = 20_000
_NUMBERED = re.compile(r"^(.*?)(\d+)(\.[A-Za-z]+)$")


class SequenceClip:
    """Numbered pictures; all are shown at the size of the first."""

    def __init__(self, data: bytes | Path, digest: str, name: str) -> None:
        self._name = name
        self._lock = threading.Lock()
        try:
            self._archive = zipfile.ZipFile(io.BytesIO(data) if isinstance(data, bytes) else data)
            entries = sorted(self._archive.infolist(), key=lambda entry: entry.filename)
            if not 0 < len(entries) <= MOST_FRAMES or unpacks_to_too_much(entries):
                raise PictureError(f"“{name}” holds no pictures, or too many; choose fewer.")
            self._entries = entries
            size = picture_size(self._archive.read(entries[0]), entries[0].filename)
        except (zipfile.BadZipFile, OSError, ValueError, RuntimeError, NotImplementedError) as error:
            if isinstance(error, PictureError):
                raise
            raise PictureError(f"“{name}” is not a sequence of pictures that can be read.") from error
        self.facts = Facts(*size, even_clock(len(entries), DEFAULT_RATE), DEFAULT_RATE, True)

    def frame(self, index: int) -> np.ndarray:
        """Return a frame as straight uint8 (height, width, 4)."""
        entry = self._entries[min(max(index, 0), len(self._entries) - 1)]
        with self._lock:
            try:
                data = self._archive.read(entry)
            except (zipfile.BadZipFile, OSError, ValueError, RuntimeError) as error:
                raise PictureError(f"“{self._name}” cannot be read at frame {index}.") from error
        pixels = decode_picture(data, entry.filename)
        size = (self.facts.height, self.facts.width)
        if pixels.shape[:2] == size:
            return pixels
        fitted = np.zeros((*size, 4), dtype=np.uint8)
        height, width = min(size[0], pixels.shape[0]), min(size[1], pixels.shape[1])
        fitted[:height, :width] = pixels[:height, :width]
        return fitted

    def close(self) -> None:
        """Let go of the file."""
        self._archive.close()


def find_sequences(paths: Sequence[Path]) -> tuple[list[list[Path]], list[Path]]:
    """Return (runs of at least 3 pictures numbered without a gap, all other paths)."""
    groups: dict[tuple[Path, str, str, int], list[tuple[int, Path]]] = {}
    others = []
    for path in paths:
        match = _NUMBERED.match(path.name)
        if match is None or path.suffix.lower() not in PICTURE_SUFFIXES:
            others.append(path)
            continue
        digits = len(match[2]) if match[2].startswith("0") else 0
        groups.setdefault((path.parent, match[1], match[3].lower(), digits), []).append((int(match[2]), path))
    merged: dict[tuple[Path, str, str], list[tuple[int, Path]]] = {}
    for (parent, stem, suffix, _), members in groups.items():
        merged.setdefault((parent, stem, suffix), []).extend(members)
    runs = []
    for members in merged.values():
        members.sort()
        numbers = [number for number, _ in members]
        if len(members) >= 3 and numbers == list(range(numbers[0], numbers[0] + len(numbers))):
            runs.append([path for _, path in members])
        else:
            others += [path for _, path in members]
    return runs, others


def pack_sequence(paths: Sequence[Path]) -> bytes:
    """Return numbered pictures as one packet; the same pictures give the same bytes."""
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_STORED) as archive:
        for number, path in enumerate(paths):
            archive.writestr(zipfile.ZipInfo(f"{number:06d}{path.suffix.lower()}"), read_bytes(path))
    return buffer.getvalue()


def sequence_name(paths: Sequence[Path]) -> str:
    """Return a name such as ``ink_0001–0024.png``."""
    first, last = (_NUMBERED.match(path.name) for path in (paths[0], paths[-1]))
    if first is None or last is None:
        return paths[0].name
    return f"{first[1]}{first[2]}–{last[2]}{first[3]}"
