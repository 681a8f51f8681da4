"""What an effect is given, and what it gives back."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import Any

import numpy as np
from attrs import field, frozen

from spiralis.core.geometry import Affine, Box, WholeBox, intersect_whole, point_in
from spiralis.core.model.source import Source
from spiralis.core.raster.raster import Raster

Margins = tuple[float, float, float, float]
_FAR = 1e5
NO_MARGINS: Margins = (0.0, 0.0, 0.0, 0.0)
#: ``picture(name, region)`` draws another layer, the value of a layer parameter, in a region of the same grid.
Input = Callable[[str, WholeBox], Raster | None]


def _nothing(name: str, region: WholeBox) -> Raster | None:
    return None


@frozen(eq=False)
class EffectJob:
    """One picture to be changed. Nothing in it may be written to.

    Attributes:
        source: what the effect acts on, in a grid of whole pixels; outside of it all is clear.
        region: the box of the grid whose result is asked for.
        values: the block's parameters by their own names.
        scale: grid pixels a unit of the layer, across and down.
        frame: the composition's frame, for effects that vary by themselves.
        origin: where the layer's origin lies in the grid, in grid pixels.
        box: the layer's content box in its own units: left, top, right, bottom.
        input: draws other layers in the same grid.
        files: the project's sources that are values of parameters, by the parameters' names.
    """

    source: Raster
    region: WholeBox
    values: Mapping[str, Any]
    scale: tuple[float, float] = (1.0, 1.0)
    frame: float = 0.0
    input: Input = field(default=_nothing)
    origin: tuple[float, float] = (0.0, 0.0)
    box: Box = (0.0, 0.0, 1.0, 1.0)
    files: Mapping[str, Source] = {}

    @property
    def to_grid(self) -> Affine:
        """The map of the layer's units to the grid."""
        return Affine(self.scale[0], 0.0, 0.0, self.scale[1], *self.origin)

    def places(self) -> tuple[np.ndarray, np.ndarray]:
        """Return where the pixels of the region are in the layer's units: float32 x (1, w) and y (h, 1)."""
        left, top, right, bottom = self.region
        x = (np.arange(left, right) + 0.5 - self.origin[0]) / self.scale[0]
        y = (np.arange(top, bottom) + 0.5 - self.origin[1]) / self.scale[1]
        return x.astype(np.float32)[None, :], y.astype(np.float32)[:, None]

    def point(self, name: str) -> tuple[float, float]:
        """Return a parameter that is a place in % of the layer's box, in the layer's units."""
        return point_in(self.box, self.values[name])

    def along(self, angle: float) -> tuple[np.ndarray, float, float]:
        """Return how far along a direction (degrees, 0 to the right, 90 down) the pixels of the region are, float32
        (h, w) in the layer's units, and where the layer's box begins and ends on it."""
        (x, y), (left, top, right, bottom) = self.places(), self.box
        cos, sin = math.cos(math.radians(angle)), math.sin(math.radians(angle))
        ends = [px * cos + py * sin for px in (left, right) for py in (top, bottom)]
        return x * cos + y * sin, min(ends), max(ends)

    def source_over(self, margins: Margins) -> Raster:
        """Return the source over the region and margins around it, cut or padded with clear pixels."""
        return self.source.spread_over(grown(self.region, margins))

    def alpha_over(self, margins: Margins) -> tuple[np.ndarray, tuple[int, int]]:
        """Return the source's alpha, float32 (h, w) from 0 to 1, over the region and margins, and where it begins."""
        left, top, right, bottom = grown(self.region, margins)
        alpha = np.zeros((bottom - top, right - left), dtype=np.float32)
        box = self.source.box
        shared = intersect_whole((left, top, right, bottom), box)
        if shared is not None:
            x0, y0, x1, y1 = shared
            own = self.source.data[y0 - box[1] : y1 - box[1], x0 - box[0] : x1 - box[0], 3]
            scale = np.float32(1.0 if own.dtype == np.float32 else 1 / 255)
            part = alpha[y0 - top : y1 - top, x0 - left : x1 - left]
            np.clip(np.multiply(own, scale, out=part), 0, 1, out=part)
        return alpha, (left, top)

    def result(self, pixels: np.ndarray, corner: tuple[int, int]) -> Raster:
        """Return float32 pixels that begin at a corner of the grid as a picture, cut to the region."""
        whole = Raster(np.ascontiguousarray(pixels, dtype=np.float32), self.source.space, corner)
        return whole if whole.box == self.region else whole.spread_over(self.region)


@frozen(eq=False)
class Finish:
    """What a finish lays behind and in front of its content, each with how it mixes (a blend mode's name)."""

    behind: Raster | None = None
    front: Raster | None = None
    blend: str = "normal"


def grown(box: WholeBox, margins: Margins) -> WholeBox:
    """Return a box grown by margins at left, top, right and bottom, in whole pixels."""
    left, top, right, bottom = (math.ceil(margin - 1e-6) for margin in margins)
    return box[0] - left, box[1] - top, box[2] + right, box[3] + bottom


def even(across: float, down: float) -> Margins:
    """Return margins that are alike on both sides."""
    return across, down, across, down


def anywhere(values: Mapping[str, Any], scale: tuple[float, float]) -> Margins:
    """Return margins as large as any picture: for effects whose result may lie anywhere."""
    return _FAR, _FAR, _FAR, _FAR


def nothing_around(values: Mapping[str, Any], scale: tuple[float, float]) -> Margins:
    """Return no margins: for effects that change each pixel by itself."""
    return NO_MARGINS
