"""Pictures that know their space."""

from __future__ import annotations

from functools import cached_property

import numpy as np
from attrs import field, frozen

from spiralis.core.errors import ModelError
from spiralis.core.geometry import IDENTITY, Affine, Box, WholeBox, intersect_whole


def _checked(instance: object, attribute: object, data: np.ndarray) -> None:
    if data.ndim != 3 or data.shape[2] != 4 or data.dtype not in (np.uint8, np.float32):
        raise ModelError(f"A picture is uint8 or float32 (h, w, 4), and this is {data.dtype} {data.shape}.")
    if not data.flags.c_contiguous:
        raise ModelError("A picture's pixels lie one after another in memory, and these do not.")


@frozen(eq=False)
class Raster:
    """Premultiplied sRGB-encoded pixels, uint8 or float32 (h, w, 4), contiguous.

    The first pixel is the one at ``corner`` of a grid of whole pixels; ``space`` maps the grid's corner coordinates
    (a pixel at (x, y) is [x, x + 1) x [y, y + 1)) to the units of whatever the picture belongs to. To be sampled under
    any map but a whole shift its outermost ring has to be clear: see ``with_clear_ring``.
    """

    data: np.ndarray = field(validator=_checked)
    space: Affine = IDENTITY
    corner: tuple[int, int] = (0, 0)

    @cached_property
    def to_layer(self) -> Affine:
        """The map from the data's own corner coordinates to the units of ``space``."""
        return self.space @ Affine.shift(*self.corner) if self.corner != (0, 0) else self.space

    @property
    def box(self) -> WholeBox:
        """The box of the grid that it fills: left, top, right, bottom."""
        height, width = self.data.shape[:2]
        return self.corner[0], self.corner[1], self.corner[0] + width, self.corner[1] + height

    @property
    def as_float(self) -> np.ndarray:
        """The pixels as float32 from 0 to 1; the very data where it is float already, so not to be written to."""
        return self.data if self.data.dtype == np.float32 else self.data * np.float32(1 / 255)

    def cut(self, box: WholeBox) -> Raster | None:
        """Return the part in a box of the grid, as a copy; None where there is none."""
        shared = intersect_whole(box, self.box)
        return Raster(np.ascontiguousarray(self._view(shared)), self.space, shared[:2]) if shared is not None else None

    def _view(self, box: WholeBox) -> np.ndarray:
        """Return the pixels of a box of the grid that lies within it."""
        (left, top), (x0, y0, x1, y1) = self.corner, box
        return self.data[y0 - top : y1 - top, x0 - left : x1 - left]

    def spread_over(self, box: WholeBox) -> Raster:
        """Return the picture cut to or padded with clear pixels to exactly a box of the grid."""
        if box == self.box:
            return self
        out = np.zeros((box[3] - box[1], box[2] - box[0], 4), dtype=self.data.dtype)
        shared = intersect_whole(box, self.box)
        if shared is not None:
            x0, y0, x1, y1 = shared
            out[y0 - box[1] : y1 - box[1], x0 - box[0] : x1 - box[0]] = self._view(shared)
        return Raster(out, self.space, (box[0], box[1]))

    def with_clear_ring(self) -> Raster:
        """Return the picture with a ring of clear pixels around it, so that samples between pixels fade out."""
        left, top, right, bottom = self.box
        return self.spread_over((left - 1, top - 1, right + 1, bottom + 1))


def clear_rim(pixels: np.ndarray) -> np.ndarray:
    """Make the outermost ring of pixels (h, w, 4) clear, in place, and return them."""
    pixels[0] = pixels[-1] = 0
    pixels[:, 0] = pixels[:, -1] = 0
    return pixels


def visible(box: Box) -> bool:
    """Whether a box holds anything."""
    return box[2] > box[0] and box[3] > box[1]
