"""Write GIF files: blocks as GIF89a has them, and pictures that hold only what changed since the one before."""

from __future__ import annotations

import struct
from typing import BinaryIO

import numpy as np
from attrs import define, field

from spiralis.core.media.dithering import NOTHING
from spiralis.core.media.kernels import gif_packing
from spiralis.core.media.palette import Palette

#: A colour has so many others at most that may stand for it.
_NEAR = 8


@define
class GifWriter:
    """Pictures go in one by one.

    ``see_through`` pieces are written whole each time, as what is clear again has to be wiped; else an unchanged pixel
    is written as the index beyond the colours, which decoders leave as it is. ``lossy`` is how many levels a pixel may
    be off so that it packs better.
    """

    file: BinaryIO
    size: tuple[int, int]
    palette: Palette
    see_through: bool
    lossy: float = 0.0
    loops: int = 0
    shown: np.ndarray = field(init=False)
    _bits: int = field(init=False)
    _clear: int = field(init=False)
    _near: np.ndarray = field(init=False)
    _table: np.ndarray = field(init=False)
    _stamp: int = field(init=False, default=1)
    _out: np.ndarray = field(init=False)

    def __attrs_post_init__(self) -> None:
        width, height = self.size
        count = len(self.palette.colours)
        self._clear = self.palette.transparent if self.see_through else count
        entries = max(count, self._clear + 1)
        self._bits = max(2, int(entries - 1).bit_length())
        self.shown = np.full((height, width), NOTHING, dtype=np.uint16)
        self._near = near_colours(self.palette.colours, self.lossy, entries)
        self._table = np.zeros((gif_packing.MOST, 256), dtype=np.int32)
        self._out = np.empty(width * height * 2 + 1024, dtype=np.uint8)
        self._head(entries)

    def _head(self, entries: int) -> None:
        width, height = self.size
        colours = np.zeros((1 << self._bits, 3), dtype=np.uint8)
        colours[: len(self.palette.colours)] = self.palette.colours
        flags = 0x80 | 0x70 | (self._bits - 1)
        self.file.write(b"GIF89a" + struct.pack("<HHBBB", width, height, flags, 0, 0) + colours.tobytes())
        if self.loops != 1:
            rounds = self.loops - 1 if self.loops > 1 else 0
            self.file.write(b"\x21\xff\x0bNETSCAPE2.0" + struct.pack("<BBHB", 3, 1, rounds, 0))

    def add(self, index: np.ndarray, wait: int) -> None:
        """Write a picture of palette indices, uint16 (h, w), that stays for ``wait`` hundredths of a second."""
        index = np.ascontiguousarray(index)
        height, width = index.shape
        left, top, right, bottom = 0, 0, width, height
        if not self.see_through:
            left, top, right, bottom = gif_packing.changed_box(index, self.shown)
            if right <= left:
                left, top, right, bottom = 0, 0, 1, 1
        before = self.shown if not self.see_through else np.full_like(index, NOTHING)
        clear = -1 if self.see_through else self._clear
        length, self._stamp = gif_packing.pack(
            index, before, left, top, right, bottom, clear, self._near, self._bits, self._table, self._stamp, self._out
        )
        if self._stamp > 500_000:
            self._table[:] = 0
            self._stamp = 1
        keeps = 2 if self.see_through else 1
        uses = self._clear >= 0
        self.file.write(b"\x21\xf9" + struct.pack("<BBHBB", 4, keeps << 2 | int(uses), wait, max(self._clear, 0), 0))
        self.file.write(b"\x2c" + struct.pack("<HHHHBB", left, top, right - left, bottom - top, 0, self._bits))
        data = self._out[:length].tobytes()
        parts = [data[at : at + 255] for at in range(0, len(data), 255)]
        self.file.write(b"".join(bytes([len(part)]) + part for part in parts) + b"\x00")
        self.shown = index

    def end(self) -> None:
        """Write the end of the file."""
        self.file.write(b"\x3b")


def near_colours(colours: np.ndarray, lossy: float, entries: int) -> np.ndarray:
    """Return for each colour of a palette uint8 (n, 3) those within ``lossy`` levels, nearest first, int32 (n, m)."""
    found = np.full((entries, _NEAR), -1, dtype=np.int32)
    if lossy <= 0 or len(colours) < 2:
        return found[:, :1]
    values = colours.astype(np.float32)
    weights = np.array([0.3, 0.5, 0.2], dtype=np.float32)
    far = np.sqrt(np.sum((values[:, None] - values[None]) ** 2 * weights, axis=2))
    np.fill_diagonal(far, np.inf)
    for place, row in enumerate(far):
        order = np.argsort(row)[:_NEAR]
        close = order[row[order] <= lossy]
        found[place, : len(close)] = close
    return found
