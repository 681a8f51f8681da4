"""What fills the frame in coarse cells, cut off sharply where the frame ends in view."""

from __future__ import annotations

import cv2
import numpy as np

from spiralis.core.geometry import Affine, Box, intersect, rounded_out
from spiralis.core.raster.raster import Raster, clear_rim
from spiralis.core.raster.vectors import cut_to_quad

#: Of pictures with a longer side the edges stay soft.
_MOST = 20_000


def framed(raster: Raster, size: tuple[float, float], matrix: Affine, clip: Box) -> Raster:
    """Return a picture of smooth cells, float32 and in the layer's units, cut to its frame, (0, 0) to ``size``.

    Where no edge of the frame lies within ``clip``, a box of what ``matrix`` leads to, it is the picture itself: it
    has to reach a cell beyond the frame. Else it is drawn at the pixels it is seen at, with smooth edges.
    """
    inverse, box = matrix.inverse(), (0.0, 0.0, *size)
    if inverse is None:
        return raster
    left, top, right, bottom = inverse.box(clip)
    slack = 1e-6 * max(size)
    if left >= -slack and top >= -slack and right <= size[0] + slack and bottom <= size[1] + slack:
        return raster
    seen = intersect(matrix.box(box), clip)
    if seen is None:
        return raster
    x0, y0, x1, y1 = rounded_out(seen)
    height, width = y1 - y0 + 2, x1 - x0 + 2
    to_cells = raster.to_layer.inverse()
    if max(height, width) > _MOST or to_cells is None:
        return raster
    # A ring around it stays clear, so that samples between pixels fade out.
    corner = (x0 - 1, y0 - 1)
    # OpenCV counts from the middles of pixels.
    a, b, c, d, e, f = Affine.shift(-0.5, -0.5) @ to_cells @ inverse @ Affine.shift(corner[0] + 0.5, corner[1] + 0.5)
    way = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    pixels = np.asarray(cv2.warpAffine(raster.data, np.array([[a, c, e], [b, d, f]]), (width, height), flags=way))
    cut_to_quad(pixels, matrix, size, corner)
    return Raster(clear_rim(pixels), inverse, corner)
