"""The outline around points, drawn white: what a convex body hides of the light."""

from __future__ import annotations

from collections.abc import Hashable, Sequence

import skia

from spiralis.core.geometry import Affine, box_around, intersect_whole, rounded_out
from spiralis.core.raster.raster import Raster
from spiralis.core.raster.stamps import MOST_WHOLE, rasterised, recorded
from spiralis.core.render.nodes import Node, emit_picture, region_of
from spiralis.core.render.table import Table

Point = tuple[float, float]
#: Outlines around less than this are no bodies: they are seen from their edge.
_THIN = 1.0


def hull_of(points: Sequence[Point]) -> tuple[Point, ...] | None:
    """Return the corners of the convex hull of points, in order; None where it holds next to nothing.

    Source: Andrew, *Another Efficient Algorithm for Convex Hulls in Two Dimensions* (1979).
    """
    halves: list[list[Point]] = []
    for ordered in (sorted(set(points)), sorted(set(points), reverse=True)):
        chain: list[Point] = []
        for x, y in ordered:
            while len(chain) > 1 and _turn(chain[-2], chain[-1], (x, y)) <= 0:
                chain.pop()
            chain.append((x, y))
        halves.append(chain[:-1])
    corners = tuple(halves[0] + halves[1])
    area = sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(corners, corners[1:] + corners[:1], strict=True)) / 2
    return corners if area >= _THIN else None


def _turn(a: Point, b: Point, c: Point) -> float:
    return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])


class Hull(Node):
    """A convex outline filled with white."""

    def __init__(self, corners: tuple[Point, ...]) -> None:
        self.corners = corners

    def make_key(self) -> Hashable:
        return self.corners

    def emit(self, table: Table, mode: int, opacity: float) -> None:
        emit_picture(table, self.picture(region_of(table)), mode, opacity)

    def drawn_in(self, region: tuple[int, int, int, int]) -> Raster | None:
        whole = rounded_out(box_around([(x, y, x, y) for x, y in self.corners]), 2.0)
        area = intersect_whole(whole, region)
        if area is None:
            return None
        # Whole where it is not too large, as edges that are cut first are smoothed otherwise.
        drawn = whole if (whole[2] - whole[0]) * (whole[3] - whole[1]) <= MOST_WHOLE else area
        path = skia.Path().addPoly([skia.Point(x, y) for x, y in self.corners], True)
        paint = skia.Paint(Color=skia.ColorWHITE, AntiAlias=True)
        # The rasteriser leaves the outermost pixels clear, which may be the outline's where it is cut.
        left, top, right, bottom = drawn
        pixels = rasterised(recorded(lambda canvas: canvas.drawPath(path, paint)), Affine(),
                            (left - 1, top - 1, right + 1, bottom + 1))  # fmt: skip
        return Raster(pixels, corner=(left - 1, top - 1)).cut(area)
