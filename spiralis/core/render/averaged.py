"""Motion blur of everything: the mean of whole evaluations of a layer over the open shutter, in linear light."""

from __future__ import annotations

from collections.abc import Hashable, Sequence

import numpy as np

from spiralis.core.compositing.kernels import light as light_kernels
from spiralis.core.geometry import WholeBox, box_around, box_of, rounded_out
from spiralis.core.raster.raster import Raster
from spiralis.core.render.nodes import Item, Node, emit_picture, region_of
from spiralis.core.render.projected import Projected, seen_over_time
from spiralis.core.render.table import Table


class Averaged(Node):
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

    def emit(self, table: Table, mode: int, opacity: float) -> None:
        emit_picture(table, self.picture(region_of(table)), mode, opacity)

    def _one_thing(self) -> list[tuple[Projected, float]]:
        """Return the moments, weighted, where all of them see one and the same picture in perspective; else nothing."""
        seen = [(item.node, item.opacity / len(self.moments)) for item in self.moments if item is not None]
        nodes = [node for node, _ in seen if isinstance(node, Projected)]
        if not nodes or len(nodes) < len(seen):
            return []
        alike = {(node.inner.key, node.space) for node in nodes}
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
