"""Outlines that look the same under any map: recorded once, and drawn wherever a layer stands."""

from __future__ import annotations

import math
from collections.abc import Callable, Hashable
from functools import lru_cache
from typing import Any

import numpy as np
import skia
from attrs import frozen

from spiralis.core.cache import CacheSection
from spiralis.core.colour import Colour
from spiralis.core.geometry import IDENTITY, Affine, Box, Map, WholeBox, intersect, rounded_out
from spiralis.core.raster.raster import Raster
from spiralis.core.raster.vectors import skia_matrix

#: Up to so many pixels outlines are drawn whole, however little of them is asked for: Skia smooths edges of what is cut
#: in another way, and one picture serves wherever the same outlines stand alike between the pixels.
MOST_WHOLE = 2_000_000
#: Where recorded outlines may lie, in their own units.
_ANYWHERE = (-1e9, -1e9, 1e9, 1e9)


@frozen(eq=False)
class Stamp:
    """What a layer looks like under any map, within a ``box`` of its units."""

    box: Box

    def draw(self, data: np.ndarray, matrix: Affine) -> None:
        """Draw it on clear premultiplied pixels, uint8 (h, w, 4); ``matrix`` leads to the first one's corner.

        The outermost ring stays clear, so that neighbouring samples fade out.
        """
        raise NotImplementedError


@frozen(eq=False)
class Recording(Stamp):
    """A stamp that Skia plays back."""

    picture: Any

    def draw(self, data: np.ndarray, matrix: Affine) -> None:
        """Draw it, as a stamp does."""
        play(data, self.picture, matrix)


@frozen(eq=False)
class Prospect:
    """What a camera sees of outlines: the whole pixels that it fills, and how to draw them.

    Of a rectangle in one ``colour`` the ``corners`` as they are seen.
    """

    area: WholeBox
    drawn: Callable[[], Raster]
    corners: tuple[tuple[float, float], ...] = ()
    colour: Colour = (0.0, 0.0, 0.0, 0.0)


_rasters: CacheSection[Raster] = CacheSection(lambda drawn: drawn.data.nbytes)


def recorded(paint: Callable[[Any], None]) -> Any:
    """Return what ``paint`` draws on a Skia canvas, to be played back on others."""
    recorder = skia.PictureRecorder()
    paint(recorder.beginRecording(skia.Rect.MakeLTRB(*_ANYWHERE)))
    return recorder.finishRecordingAsPicture()


@lru_cache(maxsize=4096)
def _info(width: int, height: int) -> Any:
    return skia.ImageInfo.Make(width, height, skia.kRGBA_8888_ColorType, skia.kPremul_AlphaType)


def play(data: np.ndarray, picture: Any, matrix: Map) -> None:
    """Draw what was recorded over premultiplied pixels, uint8 (h, w, 4), under a map to the first one's corner; the
    outermost ring stays as it is."""
    height, width = data.shape[:2]
    canvas = skia.Surface.MakeRasterDirect(_info(width, height), data).getCanvas()
    canvas.clipRect(skia.Rect.MakeLTRB(1, 1, width - 1, height - 1))
    canvas.concat(skia_matrix(matrix))
    canvas.drawPicture(picture)


def rasterised(stamp: Stamp, matrix: Affine, area: WholeBox, memory: np.ndarray | None = None) -> np.ndarray:
    """Return a stamp under a map, cut to a whole-numbered box, premultiplied uint8 with a clear ring.

    It is drawn into ``memory`` where that is given: clear bytes, as many as it takes or more.
    """
    data = clear(area, memory)
    stamp.draw(data, matrix.moved(-area[0], -area[1]))
    return data


def clear(area: WholeBox, memory: np.ndarray | None = None) -> np.ndarray:
    """Return clear pixels for a whole-numbered box, uint8 (h, w, 4), in ``memory`` where that is given."""
    width, height = area[2] - area[0], area[3] - area[1]
    data = np.zeros(width * height * 4, dtype=np.uint8) if memory is None else memory[: width * height * 4]
    return data.reshape(height, width, 4)


def around(box: Box, matrix: Affine) -> Box:
    """Return the box around something that fills a box, under a map."""
    left, top, right, bottom = matrix.box(box)
    # A hairline that lies level or upright has a box without a breadth, but it is seen all the same.
    return left - 1, top - 1, right + 1, bottom + 1


def stamped(stamp: Stamp, key: Hashable, matrix: Affine, clip: Box) -> Raster | None:
    """Return what is seen of a stamp under a map within a clip, as a picture in the layer's units; None for nothing.

    It is kept by ``key``, which says what the stamp shows.
    """
    inverse, whole = matrix.inverse(), around(stamp.box, matrix)
    seen = intersect(whole, clip)
    if inverse is None or seen is None:
        return None
    if (whole[2] - whole[0]) * (whole[3] - whole[1]) > MOST_WHOLE:
        return _rasters.get((key, matrix, seen), lambda: _drawn(stamp, matrix, inverse, seen))
    x, y = math.floor(matrix.e), math.floor(matrix.f)
    home, near = matrix.moved(-x, -y), (whole[0] - x, whole[1] - y, whole[2] - x, whole[3] - y)
    drawn = _rasters.get((key, home), lambda: _drawn(stamp, home, IDENTITY, near))
    return Raster(drawn.data, inverse, (drawn.corner[0] + x, drawn.corner[1] + y))


def _drawn(stamp: Stamp, matrix: Affine, inverse: Affine, seen: Box) -> Raster:
    area = rounded_out(seen, 2.0)
    return Raster(rasterised(stamp, matrix, area), inverse, area[:2])
