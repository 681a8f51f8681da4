"""Outlines that look the same under any map: recorded once, and drawn wherever a layer stands."""

from __future__ import annotations

import math
from collections.abc import Callable, Hashable
from typing import Any

import numpy as np
import skia
from attrs import frozen

from spiralis.core.cache import CacheSection
from spiralis.core.geometry import IDENTITY, Affine, Box, Map, WholeBox, intersect, rounded_out
from spiralis.core.raster.raster import Raster
from spiralis.core.raster.vectors import skia_matrix

#: Where recorded outlines may lie, in their own units.
_ANYWHERE = (-1e9, -1e9, 1e9, 1e9)


@frozen(eq=False)
class Stamp:
    """What Skia plays back, and the ``box`` around all that it draws, in the layer's units."""

    picture: Any
    box: Box


_rasters: CacheSection[Raster] = CacheSection(lambda drawn: drawn.data.nbytes)


def recorded(paint: Callable[[Any], None]) -> Any:
    """Return what ``paint`` draws on a Skia canvas, to be played back on others."""
    recorder = skia.PictureRecorder()
    paint(recorder.beginRecording(skia.Rect.MakeLTRB(*_ANYWHERE)))
    return recorder.finishRecordingAsPicture()


def rasterised(picture: Any, matrix: Map, area: WholeBox) -> np.ndarray:
    """Return what was recorded under a map, cut to a whole-numbered box, premultiplied uint8 with a clear ring."""
    left, top, right, bottom = area
    data = np.zeros((bottom - top, right - left, 4), dtype=np.uint8)
    info = skia.ImageInfo.Make(right - left, bottom - top, skia.kRGBA_8888_ColorType, skia.kPremul_AlphaType)
    canvas = skia.Surface.MakeRasterDirect(info, data).getCanvas()
    # The outermost ring stays transparent, so that neighbouring samples fade out.
    canvas.clipRect(skia.Rect.MakeLTRB(1, 1, right - left - 1, bottom - top - 1))
    canvas.translate(-left, -top)
    canvas.concat(skia_matrix(matrix))
    canvas.drawPicture(picture)
    return data


def seen_of(box: Box, matrix: Affine, clip: Box) -> Box | None:
    """Return where in a clip something that fills a box is seen, or None."""
    left, top, right, bottom = matrix.box(box)
    # A hairline that lies level or upright has a box without a breadth, but it is seen all the same.
    return intersect((left - 1, top - 1, right + 1, bottom + 1), clip)


def cut_off(seen: Box, clip: Box) -> bool:
    """Whether a clip may cut off some of what is seen in it."""
    return seen[0] == clip[0] or seen[1] == clip[1] or seen[2] == clip[2] or seen[3] == clip[3]


def stamped(stamp: Stamp, key: Hashable, matrix: Affine, clip: Box) -> Raster | None:
    """Return what is seen of a stamp under a map within a clip, as a picture in the layer's units; None for nothing.

    It is kept by ``key``, which says what the stamp shows. Whole, one picture serves wherever the same outlines stand
    alike between the pixels.
    """
    inverse, seen = matrix.inverse(), seen_of(stamp.box, matrix, clip)
    if inverse is None or seen is None:
        return None
    if cut_off(seen, clip):
        return _rasters.get((key, matrix, seen), lambda: _drawn(stamp, matrix, inverse, seen))
    x, y = math.floor(matrix.e), math.floor(matrix.f)
    home, near = matrix.moved(-x, -y), (seen[0] - x, seen[1] - y, seen[2] - x, seen[3] - y)
    drawn = _rasters.get((key, home), lambda: _drawn(stamp, home, IDENTITY, near))
    return Raster(drawn.data, inverse, (drawn.corner[0] + x, drawn.corner[1] + y))


def _drawn(stamp: Stamp, matrix: Affine, inverse: Affine, seen: Box) -> Raster:
    area = rounded_out(seen, 2.0)
    return Raster(rasterised(stamp.picture, matrix, area), inverse, area[:2])
