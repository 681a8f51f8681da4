"""Motion blur of everything: the mean of whole evaluations of a layer over the open shutter, in linear light."""

from __future__ import annotations

from collections.abc import Hashable, Sequence

import numpy as np

from spiralis.core.compositing.kernels import light as light_kernels
from spiralis.core.geometry import Box, WholeBox, box_around, box_of, rounded_out
from spiralis.core.raster.raster import Raster
from spiralis.core.render.nodes import Item, Pictured
from spiralis.core.render.projected import Drawn, Projected, seen_over_time

#: Fewer moments than that show as such.
FEWEST = 4


def moments_needed(probes: Sequence[Item | None], box: Box, most: int) -> int:
    """Return how many moments the mean of a layer takes, from what it is at some: one a pixel that it moves.

    ``box`` is the layer's. ``most`` where anything but its place in space changes, and where that is behind the eye.
    """
    nodes = [item.node for item in probes if item is not None and isinstance(item.node, (Projected, Drawn))]
    if len(nodes) < len(probes) or len({node.thing for node in nodes}) > 1:
        return most
    corners = np.array([(x, y, 1.0) for x in (box[0], box[2]) for y in (box[1], box[3])])
    seen = np.stack([corners @ node.to_grid.array.T for node in nodes])
    if (seen[..., 2] <= 1e-6).any():
        return most
    places = seen[..., :2] / seen[..., 2:]
    # From the first to the last is less than the whole time.
    whole = len(nodes) / max(len(nodes) - 1, 1)
    moved = whole * float(np.hypot(*np.diff(places, axis=0).T).sum(axis=1).max())
    return int(min(max(np.ceil(moved), FEWEST), most))


class Averaged(Pictured):
    """A layer as it is at several moments, None where it is not seen at one: the mean of all of them."""

    def __init__(self, moments: Sequence[Item | None]) -> None:
        self.moments = tuple(moments)

    def make_key(self) -> Hashable:
        return self._parts()

    def _parts(self) -> tuple[Hashable, ...]:
        return tuple((item.node.key, item.opacity) if item is not None else None for item in self.moments)

    @property
    def steady(self) -> bool:
        """Whether all moments look the same."""
        return len(set(self._parts())) == 1

    def _one_thing(self) -> list[tuple[Projected, float]]:
        """Return the moments, weighted, where all of them see one and the same picture in perspective; else nothing."""
        seen = [(item.node, item.opacity / len(self.moments)) for item in self.moments if item is not None]
        nodes = [node for node, _ in seen if isinstance(node, Projected)]
        if not nodes or len(nodes) < len(seen):
            return []
        alike = {node.thing for node in nodes}
        return list(zip(nodes, (weight for _, weight in seen), strict=True)) if len(alike) == 1 else []

    def drawn_in(self, region: WholeBox) -> Raster | None:
        one = self._one_thing()
        if one:
            return seen_over_time(one, region)
        seen = []
        for item in self.moments:
            picture = item.node.drawn_in(region) if item is not None else None
            if item is not None and picture is not None:
                seen.append((picture, np.float32(item.opacity / len(self.moments))))
        if not seen:
            return None
        left, top, right, bottom = rounded_out(box_around([box_of(picture.box) for picture, _ in seen]))
        total = np.zeros((bottom - top, right - left, 4), dtype=np.float32)
        for picture, weight in seen:
            linear = np.empty(picture.data.size, dtype=np.float32)
            encoded = np.ascontiguousarray(picture.as_float).reshape(-1)
            light_kernels.decode_premultiplied(encoded, np.float32(1.0), linear)
            x0, y0, x1, y1 = picture.box
            total[y0 - top : y1 - top, x0 - left : x1 - left] += linear.reshape(y1 - y0, x1 - x0, 4) * weight
        light_kernels.encode_premultiplied(total.reshape(-1))
        return Raster(total, corner=(left, top))
