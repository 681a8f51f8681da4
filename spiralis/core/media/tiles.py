"""A large plane worked on in tiles, so that memory and time go with what changes, not with the picture's size."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np

from spiralis.core.media.steps import Stops, go_on, never

_SIDE = 1024
#: A tile: its own rows and columns.
Tile = tuple[slice, slice]


def tiles_of(size: tuple[int, int], side: int = _SIDE) -> Iterator[Tile]:
    """Yield the tiles that a height and a width are made of."""
    height, width = size
    for top in range(0, height, side):
        for left in range(0, width, side):
            yield slice(top, min(top + side, height)), slice(left, min(left + side, width))


def around(tile: Tile, margin: int, size: tuple[int, int]) -> tuple[Tile, Tile]:
    """Return a tile with so many pixels about it as there are, and where the tile lies within that."""
    outer = tuple(slice(max(s.start - margin, 0), min(s.stop + margin, n)) for s, n in zip(tile, size, strict=True))
    inner = tuple(slice(s.start - o.start, s.stop - o.start) for s, o in zip(tile, outer, strict=True))
    return (outer[0], outer[1]), (inner[0], inner[1])


def in_tiles(
    plane: np.ndarray, margin: int, work: Callable[[np.ndarray, tuple[int, int]], np.ndarray], stops: Stops = never
) -> np.ndarray:
    """Return what work makes of a plane, float32 (h, w), done tile by tile; what is even within reach stays.

    Args:
        plane: not written to.
        margin: how far around a pixel the work looks.
        work: takes a part of the plane and where it begins, x and y, and returns as much; even parts it leaves as
            they are.
    """
    size = (plane.shape[0], plane.shape[1])
    made = plane.copy()
    side = max(_SIDE, margin)
    for tile in tiles_of(size, side):
        go_on(stops, tile[0].start / size[0])
        outer, inner = around(tile, margin, size)
        part = plane[outer]
        if part.min() < part.max():
            made[tile] = work(part, (outer[1].start, outer[0].start))[inner]
    return made
