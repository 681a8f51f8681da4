"""Write GIF files: blocks as GIF89a has them, and pictures that hold only what changed since the one before."""

from __future__ import annotations

import struct
from typing import BinaryIO

import numpy as np
from attrs import define, field

from spiralis.core.media.dithering import NOTHING
from spiralis.core.media.kernels import gif_packing
from spiralis.core.media.palette import Palette


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
    _first: Palette = field(init=False)
    _bits: int = field(init=False)
    _clear: int = field(init=False)
    _colours: np.ndarray = field(init=False)
    _table: np.ndarray = field(init=False)
    _stamp: int = field(init=False, default=1)
    _out: np.ndarray = field(init=False)

    def __attrs_post_init__(self) -> None:
        width, height = self.size
        self._first = self.palette
        self._take(self.palette)
        self._table = np.zeros((gif_packing.MOST, 256), dtype=np.int32)
        self._out = np.empty(width * height * 2 + 1024, dtype=np.uint8)
        self._head()

    def _take(self, palette: Palette) -> None:
        """Go on with a palette: nothing of what is shown can stay in it."""
        self.palette = palette
        count = len(palette.colours)
        self._clear = palette.transparent if self.see_through else count
        self._bits = max(2, int(max(count, self._clear + 1) - 1).bit_length())
        self._colours = palette.colours.astype(np.float32)
        self.shown = np.full(self.size[::-1], NOTHING, dtype=np.uint16)

    def _colour_table(self) -> bytes:
        colours = np.zeros((1 << self._bits, 3), dtype=np.uint8)
        colours[: len(self.palette.colours)] = self.palette.colours
        return colours.tobytes()

    def _head(self) -> None:
        width, height = self.size
        flags = 0x80 | 0x70 | (self._bits - 1)
        self.file.write(b"GIF89a" + struct.pack("<HHBBB", width, height, flags, 0, 0) + self._colour_table())
        if self.loops != 1:
            rounds = self.loops - 1 if self.loops > 1 else 0
            self.file.write(b"\x21\xff\x0bNETSCAPE2.0" + struct.pack("<BBHB", 3, 1, rounds, 0))

    def use(self, palette: Palette) -> None:
        """Go on with another palette: the next picture is written whole, with its own colours where they are new."""
        if palette is not self.palette:
            self._take(palette)

    def add(
        self, index: np.ndarray, wait: int, aim: np.ndarray | None = None, leeway: np.ndarray | None = None
    ) -> None:
        """Write a picture of palette indices, uint16 (h, w), that stays for ``wait`` hundredths of a second.

        ``aim``, uint8 (h, w, 3 or 4), is what a lossy file is measured against; None is what the indices show.
        ``leeway``, float32 (h, w), is how many times further than ``lossy`` a pixel may be off; 1 for None.
        """
        index = np.array(index)
        if aim is None:
            aim = self.palette.colours[np.minimum(index, len(self.palette.colours) - 1)]
        height, width = index.shape
        left, top, right, bottom = 0, 0, width, height
        if not self.see_through:
            left, top, right, bottom = gif_packing.changed_box(index, self.shown)
            if right <= left:
                left, top, right, bottom = 0, 0, 1, 1
        before = self.shown if not self.see_through else np.full_like(index, NOTHING)
        clear = -1 if self.see_through else self._clear
        if leeway is None:
            leeway = np.ones_like(index, dtype=np.float32)
        length, self._stamp = gif_packing.pack(
            index, before, np.ascontiguousarray(aim), leeway, self._colours, self.palette.beside,
            np.float32(self.lossy), (left, top, right, bottom), clear, self._bits, self._table, self._stamp, self._out,
        )  # fmt: skip
        if self._stamp > 500_000:
            self._table[:] = 0
            self._stamp = 1
        keeps = 2 if self.see_through else 1
        uses = self._clear >= 0
        self.file.write(b"\x21\xf9" + struct.pack("<BBHBB", 4, keeps << 2 | int(uses), wait, max(self._clear, 0), 0))
        own = self.palette is not self._first
        self.file.write(b"\x2c" + struct.pack("<HHHHB", left, top, right - left, bottom - top,
                                              (0x80 | self._bits - 1) if own else 0))  # fmt: skip
        self.file.write((self._colour_table() if own else b"") + bytes([self._bits]))
        data = self._out[:length].tobytes()
        parts = [data[at : at + 255] for at in range(0, len(data), 255)]
        self.file.write(b"".join(bytes([len(part)]) + part for part in parts) + b"\x00")
        self.shown = index

    def end(self) -> None:
        """Write the end of the file."""
        self.file.write(b"\x3b")
