"""What fills the frame in coarse cells, cut off sharply where the frame ends in view."""

from __future__ import annotations

import cv2
import numpy as np

from spiralis.core.geometry import Affine, Box, covers, intersect, rounded_out
from spiralis.core.raster.kernels import framing
from spiralis.core.raster.raster import Raster, clear_rim

#: Of pictures with a longer side the edges stay soft.
_MOST = 20_000


def framed(raster: Raster, size: tuple[float, float], matrix: Affine, clip: Box) -> Raster:
    """Return a picture of smooth cells, float32 and in the layer's units, cut to its frame, (0, 0) to ``size``.

    Where no edge of the frame lies within ``clip``, a box of what ``matrix`` leads to, it is the picture itself: it
    has to reach a cell beyond the frame, on a grid of cells that has a corner at (0, 0). Else it is drawn at the pixels
    it is seen at, with smooth edges: in each pixel the same whatever the clip.
    """
    inverse, frame = matrix.inverse(), (0.0, 0.0, *size)
    if inverse is None or covers(inverse, frame, clip):
        return raster
    seen = intersect(matrix.box(frame), clip)
    if seen is None:
        return raster
    left, top, right, bottom = rounded_out(seen)
    # A ring around it stays clear, so that samples between pixels fade out.
    left, top, right, bottom = left - 1, top - 1, right + 1, bottom + 1
    if max(right - left, bottom - top) > _MOST:
        return raster
    across, down, cover = np.empty((3, bottom - top, right - left), dtype=np.float32)
    space = raster.space
    cells = (space.a, space.d, float(round(space.e / space.a)), float(round(space.f / space.d)))
    ends = float(size[0]), float(size[1])
    framing.place(tuple(map(float, inverse)), left, top, cells, ends, across, down, cover)
    pixels = np.asarray(cv2.remap(raster.data, across, down, cv2.INTER_LINEAR))
    np.multiply(pixels, cover[..., None], out=pixels)
    return Raster(clear_rim(pixels), inverse, (left, top))
