"""A layer that goes on for ever in its plane, seen in perspective: band by band towards the horizon, each as fine as it
is seen there."""

from __future__ import annotations

import math
from collections.abc import Callable, Hashable, Sequence

import numpy as np

from spiralis.core.geometry import (
    Affine,
    Box,
    Projection,
    WholeBox,
    box_around_points,
    box_of,
    corners_of,
    half_of,
    intersect_whole,
    rounded_out,
)
from spiralis.core.model.blocks import EFFECT
from spiralis.core.raster.raster import Raster
from spiralis.core.render.effecting import Acting, Apart, parts_of
from spiralis.core.render.nodes import Node, Pictured
from spiralis.core.render.projected import Projected, fineness

#: The last band ends so many pixels before the horizon, where all is a mean of everything.
_BEFORE = 2.0
#: An effect that grows by so much may lay something anywhere.
_ANYWHERE = 1e4


def goes_on(acting: Sequence[Acting]) -> bool:
    """Whether effects lay something all over the plane of a layer."""
    return any(
        kind.role == EFFECT and kind.fills is None and max(kind.grows(values, (1.0, 1.0))) >= _ANYWHERE
        for kind, values in acting
    )


def receding(to_grid: Projection, frame: Box, blurred: bool, draw: Callable[[float], Node]) -> Node | None:
    """Return what is drawn upright by ``draw`` (so many pixels a unit) as it is seen, in bands; None for one band.

    Args:
        to_grid: the map from the layer's units to the grid.
        frame: what is seen, in the grid.
        blurred: whether it is one of the moments of a shutter, see ``fineness``.
        draw: gives the node in a grid of so many pixels a unit.
    """
    back = to_grid.inverse()
    if back is None:
        return None
    ends = [back.depth(x, y) for x, y in corners_of(frame)]
    nearest, farthest = max(ends), max(min(ends), _BEFORE * math.hypot(back.g, back.h), 1e-12)
    count = math.ceil(math.log2(nearest / farthest)) if nearest > 0 else 0
    if count < 2:
        return None
    bands: list[list[tuple[Node, int | None]]] = []
    for index in range(count):
        limits = (max(nearest / 2 ** (index + 1), farthest), nearest / 2**index)
        outline = _between(frame, back, limits)
        if len(outline) < 3:
            continue
        # The outermost bands hold what rounding leaves beyond them.
        shown = (limits[0], math.inf if index == 0 else limits[1])
        fine, spans = fineness(to_grid, box_around_points([back.apply(x, y) for x, y in outline]), frame, blurred)
        node, space = draw(fine), Affine.scaling(1 / fine, 1 / fine)
        parts = parts_of(node) or [(node, None)]
        bands.append([(Band(part, space, to_grid, spans, shown), mode) for part, mode in parts])
    if not bands or len({len(parts) for parts in bands}) > 1:
        return None
    joined = [(Receding([parts[i][0] for parts in bands]), mode) for i, (_, mode) in enumerate(bands[0])]
    return joined[0][0] if len(joined) == 1 else Apart(joined)


class Band(Projected):
    """What lies between two distances of a projected node. How near a place is, is the w of the map back to the plane,
    which falls evenly towards the horizon."""

    def __init__(
        self, inner: Node, space: Affine, to_grid: Projection, spans: float, limits: tuple[float, float]
    ) -> None:
        super().__init__(inner, space, to_grid, spans)
        self.limits = limits

    def make_key(self) -> Hashable:
        return super().make_key(), self.limits

    def within(self, region: WholeBox, beside: float = 0.0) -> list[tuple[float, float]]:
        """Return the outline of what the band, and so many pixels beside it, take up of a region; no points for
        nothing."""
        back, (low, high) = self.to_grid.inverse(), self.limits
        if back is None:
            return []
        more = beside * math.hypot(back.g, back.h)
        return _between(box_of(region), back, (max(low - more, low / 2), high + more))

    def reads(self, region: WholeBox) -> Box | None:
        # Samples lie within a pixel of the band's own.
        back, to_upright, outline = self.to_grid.inverse(), self.space.inverse(), self.within(region, 1.0)
        if back is None or to_upright is None or len(outline) < 3:
            return None
        return to_upright.box(box_around_points([back.apply(x, y) for x, y in outline]))

    def drawn_in(self, region: WholeBox) -> Raster | None:
        outline, back = self.within(region), self.to_grid.inverse()
        area = intersect_whole(rounded_out(box_around_points(outline), 1.0), region) if len(outline) > 2 else None
        picture = self._sampled(self._seen_from(area), area) if area is not None else None
        if picture is None or back is None:
            return None
        left, top, right, bottom = picture.box
        near = back.depth(np.arange(left, right)[None, :] + 0.5, np.arange(top, bottom)[:, None] + 0.5)
        mine = (near > self.limits[0]) & (near <= self.limits[1])
        return Raster(picture.as_float * mine[..., None].astype(np.float32), corner=picture.corner)


class Receding(Pictured):
    """Bands of one plane, each of which has its own pixels."""

    def __init__(self, bands: Sequence[Node]) -> None:
        self.bands = tuple(bands)

    def make_key(self) -> Hashable:
        return tuple(band.key for band in self.bands)

    def drawn_in(self, region: WholeBox) -> Raster | None:
        pictures = [picture for band in self.bands if (picture := band.drawn_in(region)) is not None]
        if not pictures:
            return None
        out = np.zeros((region[3] - region[1], region[2] - region[0], 4), dtype=np.float32)
        for picture in pictures:
            left, top, right, bottom = picture.box
            out[top - region[1] : bottom - region[1], left - region[0] : right - region[0]] += picture.data
        return Raster(out, corner=region[:2])


def _between(box: Box, back: Projection, limits: tuple[float, float]) -> list[tuple[float, float]]:
    """Return the outline of what of a box lies between two degrees of nearness."""
    points = np.array(corners_of(box))
    for limit, sign in ((limits[0], 1.0), (limits[1], -1.0)):
        if len(points) and math.isfinite(limit):
            points = half_of(points, sign * (back.depth(points[:, 0], points[:, 1]) - limit))
    return [(x, y) for x, y in points.tolist()]
