"""The outline around points, drawn white: what a convex body hides of the light."""

from __future__ import annotations

from collections.abc import Hashable, Sequence

import skia

from spiralis.core.geometry import Affine, WholeBox, box_around_points, intersect_whole, rounded_out, signed_area
from spiralis.core.raster.raster import Raster
from spiralis.core.raster.stamps import MOST_WHOLE, clear, play, recorded
from spiralis.core.render.nodes import Pictured

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
    return corners if signed_area(corners) >= _THIN else None


def _turn(a: Point, b: Point, c: Point) -> float:
    return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])


class Hull(Pictured):
    """A convex outline filled with white."""

    def __init__(self, corners: tuple[Point, ...]) -> None:
        self.corners = corners

    def make_key(self) -> Hashable:
        return self.corners

    def drawn_in(self, region: WholeBox) -> Raster | None:
        whole = rounded_out(box_around_points(self.corners), 2.0)
        area = intersect_whole(whole, region)
        if area is None:
            return None
        # Whole where it is not too large, as edges that are cut first are smoothed otherwise.
        drawn = whole if (whole[2] - whole[0]) * (whole[3] - whole[1]) <= MOST_WHOLE else area
        path = skia.Path().addPoly([skia.Point(x, y) for x, y in self.corners], True)
        paint = skia.Paint(Color=skia.ColorWHITE, AntiAlias=True)
        # The rasteriser leaves the outermost pixels clear, which may be the outline's where it is cut.
        left, top, right, bottom = drawn
        pixels = clear((left - 1, top - 1, right + 1, bottom + 1))
        play(pixels, recorded(lambda canvas: canvas.drawPath(path, paint)), Affine.shift(1 - left, 1 - top))
        return Raster(pixels, corner=(left - 1, top - 1)).cut(area)
