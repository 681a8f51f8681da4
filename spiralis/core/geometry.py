"""Plane affine maps and boxes."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple, TypeVar, cast

import numpy as np

Box = tuple[float, float, float, float]
WholeBox = tuple[int, int, int, int]
#: What is asked for where only what needs no pixels counts.
UNSEEN: Box = (0.0, 0.0, 0.0, 0.0)
#: One place along an axis, or an array of such.
Places = TypeVar("Places", float, np.ndarray)


class Affine(NamedTuple):
    """The map ``x' = a x + c y + e``, ``y' = b x + d y + f`` (the order of SVG's ``matrix()``).

    A named tuple, because frames make tens of thousands of them.
    """

    a: float = 1.0
    b: float = 0.0
    c: float = 0.0
    d: float = 1.0
    e: float = 0.0
    f: float = 0.0

    def __matmul__(self, inner: Affine) -> Affine:
        """Return the map that applies ``inner`` first."""
        if not isinstance(inner, Affine):
            return NotImplemented
        a, b, c, d, e, f = self
        u, v, w, x, y, z = inner
        return Affine(a * u + c * v, b * u + d * v, a * w + c * x, b * w + d * x, a * y + c * z + e, b * y + d * z + f)

    def moved(self, x: float, y: float) -> Affine:
        """Return the map that adds (x, y) after this one."""
        a, b, c, d, e, f = self
        return Affine(a, b, c, d, e + x, f + y)

    def apply(self, x: float, y: float) -> tuple[float, float]:
        """Return where a point goes."""
        return self.a * x + self.c * y + self.e, self.b * x + self.d * y + self.f

    def apply_direction(self, x: float, y: float) -> tuple[float, float]:
        """Return what becomes of a direction: the map without its shift."""
        return self.a * x + self.c * y, self.b * x + self.d * y

    @property
    def determinant(self) -> float:
        """Signed change of area."""
        return self.a * self.d - self.b * self.c

    def inverse(self) -> Affine | None:
        """Return the inverse, or None for a map that flattens the plane or holds no finite numbers."""
        det = self.determinant
        if not math.isfinite(det) or abs(det) < 1e-12:
            return None
        return Affine(
            self.d / det,
            -self.b / det,
            -self.c / det,
            self.a / det,
            (self.c * self.f - self.d * self.e) / det,
            (self.b * self.e - self.a * self.f) / det,
        )

    def between_pixels(self, centre: float = 0.5) -> tuple[float, float, float, float, float, float]:
        """Return a map from output to source as kernels take it, row by row: (x of x, x of y, x; y of x, y of y, y).

        It takes and gives whole numbers at the centres of pixels; ``centre`` is where a value of the source sits in
        its cell.
        """
        u, v = self.apply(0.5, 0.5)
        return self.a, self.c, u - centre, self.b, self.d, v - centre

    def apply_all(self, points: np.ndarray) -> np.ndarray:
        """Return where points (..., 2) go."""
        return np.asarray(points @ np.array([[self.a, self.b], [self.c, self.d]]) + (self.e, self.f))

    def box(self, box: Box) -> Box:
        """Return the smallest upright box around the image of a box."""
        a, b, c, d, e, f = self
        left, top, right, bottom = box
        x0, x1, y0, y1 = a * left, a * right, b * left, b * right
        u0, u1, v0, v1 = c * top, c * bottom, d * top, d * bottom
        xs = (x0 + u0 + e, x0 + u1 + e, x1 + u0 + e, x1 + u1 + e)
        ys = (y0 + v0 + f, y0 + v1 + f, y1 + v0 + f, y1 + v1 + f)
        return min(xs), min(ys), max(xs), max(ys)

    def stretch(self) -> tuple[float, float]:
        """Return how much the map stretches the x and the y direction."""
        return math.hypot(self.a, self.b), math.hypot(self.c, self.d)

    @property
    def is_shift(self) -> bool:
        """Whether the map only shifts."""
        return abs(self.a - 1) + abs(self.b) + abs(self.c) + abs(self.d - 1) < 1e-9

    @staticmethod
    def shift(x: float, y: float) -> Affine:
        """Return the map that adds (x, y)."""
        return Affine(e=x, f=y)

    @staticmethod
    def scaling(x: float, y: float) -> Affine:
        """Return the map that multiplies by x and y."""
        return Affine(a=x, d=y)

    @staticmethod
    def rotation(degrees: float) -> Affine:
        """Return the turn by degrees, clockwise on a screen (y down)."""
        quarter, rest = divmod(degrees, 90.0)
        if rest == 0.0:
            cosine, sine = ((1.0, 0.0), (0.0, 1.0), (-1.0, 0.0), (0.0, -1.0))[int(quarter) % 4]
        else:
            cosine, sine = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
        return Affine(cosine, sine, -sine, cosine)

    @staticmethod
    def skewing(x: float, y: float) -> Affine:
        """Return CSS ``skew(x, y)`` in degrees."""
        return Affine(b=math.tan(math.radians(y)), c=math.tan(math.radians(x)))


IDENTITY = Affine()
#: How far in front of the eye something has to be to be seen at all, beside the unit of its homogeneous coordinate.
_NEAR = 1e-6


class Projection(NamedTuple):
    """The projective map of the plane by a 3 by 3 matrix, row by row: ``x' = (a x + b y + c) / w``,
    ``y' = (d x + e y + f) / w`` with ``w = g x + h y + i``; where w is not above 0 nothing is seen.

    An ``Affine`` is the special case w = 1 (see Hartley and Zisserman, Multiple View Geometry, 2.3).
    """

    a: float = 1.0
    b: float = 0.0
    c: float = 0.0
    d: float = 0.0
    e: float = 1.0
    f: float = 0.0
    g: float = 0.0
    h: float = 0.0
    i: float = 1.0

    @staticmethod
    def of(affine: Affine) -> Projection:
        """Return an affine map as a projective one."""
        a, b, c, d, e, f = affine
        return Projection(a, c, e, b, d, f)

    @staticmethod
    def from_array(matrix: np.ndarray) -> Projection:
        """Return the map of a float64 (3, 3) matrix."""
        return Projection(*np.asarray(matrix, dtype=np.float64).reshape(9).tolist())

    @property
    def array(self) -> np.ndarray:
        """The matrix, float64 (3, 3)."""
        return np.array(self, dtype=np.float64).reshape(3, 3)

    def __matmul__(self, inner: Map) -> Projection:
        """Return the map that applies ``inner`` first."""
        # In plain numbers, as in what follows: of nine of them arrays would cost more than they save.
        a, b, c, d, e, f, g, h, i = self
        j, k, m, n, o, p, q, r, s = projection(inner)
        return Projection(
            a * j + b * n + c * q, a * k + b * o + c * r, a * m + b * p + c * s,
            d * j + e * n + f * q, d * k + e * o + f * r, d * m + e * p + f * s,
            g * j + h * n + i * q, g * k + h * o + i * r, g * m + h * p + i * s,
        )  # fmt: skip

    def __rmatmul__(self, outer: Affine) -> Projection:
        return Projection.of(outer) @ self

    def apply(self, x: float, y: float) -> tuple[float, float]:
        """Return where a point goes; raises ValueError for one that is not in front of the eye."""
        w = self.depth(x, y)
        if w <= 0:
            raise ValueError(f"The point ({x:g}, {y:g}) lies behind the eye.")
        return (self.a * x + self.b * y + self.c) / w, (self.d * x + self.e * y + self.f) / w

    def depth(self, x: Places, y: Places) -> Places:
        """Return the w of a point, or of arrays of places."""
        return self.g * x + self.h * y + self.i

    def inverse(self) -> Projection | None:
        """Return the inverse, or None for a map that flattens the plane or holds no finite numbers.

        What this map shows lies in front of the eye of the inverse, too: there its w is 1 / w.
        """
        a, b, c, d, e, f, g, h, i = self
        first, second, third = e * i - f * h, f * g - d * i, d * h - e * g
        det = a * first + b * second + c * third
        if not math.isfinite(det) or abs(det) < 1e-12 * max(abs(g), abs(h), abs(i), 1e-12) ** 3:
            return None
        by = 1 / det
        return Projection(
            first * by, (c * h - b * i) * by, (b * f - c * e) * by,
            second * by, (a * i - c * g) * by, (c * d - a * f) * by,
            third * by, (b * g - a * h) * by, (a * e - b * d) * by,
        )  # fmt: skip

    def depths(self, box: Box) -> tuple[float, float]:
        """Return the least and the largest w of a box's corners; where w is not above 0 nothing is seen."""
        each = [self.depth(x, y) for x, y in corners_of(box)]
        return min(each), max(each)

    def box(self, box: Box) -> Box:
        """Return the smallest upright box around what is seen of a box's image; it is empty where nothing is."""
        a, b, c, d, e, f, g, h, i = self
        points = [(a * x + b * y + c, d * x + e * y + f, g * x + h * y + i) for x, y in corners_of(box)]
        seen: list[tuple[float, float]] = []
        for k, (x, y, w) in enumerate(points):
            u, v, z = points[(k + 1) % 4]
            if w > _NEAR:
                seen.append((x / w, y / w))
            if (w > _NEAR) != (z > _NEAR):
                share = (_NEAR - w) / (z - w)
                seen.append(((x + share * (u - x)) / _NEAR, (y + share * (v - y)) / _NEAR))
        if not seen:
            return 0.0, 0.0, 0.0, 0.0
        xs, ys = zip(*seen, strict=True)
        return min(xs), min(ys), max(xs), max(ys)

    @staticmethod
    def pinning(box: Box, corners: Sequence[tuple[float, float]]) -> Projection | None:
        """Return the map of a box's corners (top left, top right, bottom right, bottom left) to four points.

        None where three of them lie on a line, or the quadrilateral is not convex: no view of a plane looks like that.
        (Heckbert, Fundamentals of Texture Mapping and Image Warping, 1989, 2.2.3.)
        """
        left, top, right, bottom = box
        if right <= left or bottom <= top or not _convex(corners):
            return None
        (x0, y0), (x1, y1), (x2, y2), (x3, y3) = corners
        across, down = (x0 - x1 + x2 - x3), (y0 - y1 + y2 - y3)
        dx1, dx2, dy1, dy2 = x1 - x2, x3 - x2, y1 - y2, y3 - y2
        det = dx1 * dy2 - dx2 * dy1
        g, h = (across * dy2 - dx2 * down) / det, (dx1 * down - across * dy1) / det
        unit = Projection(x1 - x0 + g * x1, x3 - x0 + h * x3, x0, y1 - y0 + g * y1, y3 - y0 + h * y3, y0, g, h, 1.0)
        return unit @ Affine(1 / (right - left), 0.0, 0.0, 1 / (bottom - top), -left / (right - left),
                             -top / (bottom - top))  # fmt: skip


#: A map of the plane.
Map = Affine | Projection


def projection(any_map: Map) -> Projection:
    """Return a map as a projective one."""
    return any_map if isinstance(any_map, Projection) else Projection.of(any_map)


def _convex(corners: Sequence[tuple[float, float]]) -> bool:
    """Whether four points, taken in order, turn the same way at each of them."""
    turns = []
    for k in range(4):
        (ax, ay), (bx, by), (cx, cy) = corners[k], corners[(k + 1) % 4], corners[(k + 2) % 4]
        turns.append((bx - ax) * (cy - by) - (by - ay) * (cx - bx))
    return all(turn > 1e-9 for turn in turns) or all(turn < -1e-9 for turn in turns)


def placement(
    position: tuple[float, float],
    scale: tuple[float, float],
    rotation: float,
    skew: tuple[float, float],
    pivot: tuple[float, float],
) -> Affine:
    """Return shift(position) · rotation · skew · scale · shift(-pivot); scale in percent, pivot in units."""
    turned = Affine.rotation(rotation)
    a, b, c, d, _, _ = turned @ Affine.skewing(*skew) if skew[0] or skew[1] else turned
    across, down, (x, y) = scale[0] / 100, scale[1] / 100, pivot
    a, b, c, d = a * across, b * across, c * down, d * down
    return Affine(a, b, c, d, position[0] - a * x - c * y, position[1] - b * x - d * y)


def products(outer: np.ndarray, inner: np.ndarray) -> np.ndarray:
    """Return ``outer @ inner`` of each pair of affine maps as rows of six numbers, (n, 6); one row serves for all."""
    a, b, c, d, e, f = outer.T
    u, v, w, x, y, z = inner.T
    parts = (a * u + c * v, b * u + d * v, a * w + c * x, b * w + d * x, a * y + c * z + e, b * y + d * z + f)
    return np.column_stack(parts)


def boxes_under(maps: np.ndarray, boxes: np.ndarray) -> np.ndarray:
    """Return the boxes around boxes (n, 4) under affine maps as rows (n, 6), as ``Affine.box`` does for each."""
    a, b, c, d, e, f = maps.T
    left, top, right, bottom = boxes.T
    xs = np.stack([a * x + c * y + e for x in (left, right) for y in (top, bottom)])
    ys = np.stack([b * x + d * y + f for x in (left, right) for y in (top, bottom)])
    return np.column_stack([xs.min(axis=0), ys.min(axis=0), xs.max(axis=0), ys.max(axis=0)])


def intersect(first: Box, second: Box) -> Box | None:
    """Return the common part of two boxes, or None."""
    left, top = max(first[0], second[0]), max(first[1], second[1])
    right, bottom = min(first[2], second[2]), min(first[3], second[3])
    return (left, top, right, bottom) if right > left and bottom > top else None


def covers(inverse: Affine, box: Box, frame: Box) -> bool:
    """Whether the image of a box covers a whole frame, from whose units ``inverse`` leads back to the box's."""
    left, top, right, bottom = inverse.box(frame)
    slack = 1e-6 * max(box[2] - box[0], box[3] - box[1])
    return left >= box[0] - slack and top >= box[1] - slack and right <= box[2] + slack and bottom <= box[3] + slack


def intersect_whole(first: WholeBox, second: WholeBox) -> WholeBox | None:
    """Return the same for boxes of whole numbers."""
    return cast("WholeBox | None", intersect(first, second))


def box_around(boxes: Sequence[Box]) -> Box:
    """Return the box around one box or more."""
    return (
        min(b[0] for b in boxes), min(b[1] for b in boxes), max(b[2] for b in boxes), max(b[3] for b in boxes)
    )  # fmt: skip


def box_around_points(points: Sequence[tuple[float, float]]) -> Box:
    """Return the box around one point or more."""
    xs, ys = zip(*points, strict=True)
    return min(xs), min(ys), max(xs), max(ys)


def signed_area(corners: Sequence[tuple[float, float]]) -> float:
    """Return the area of a polygon, below 0 where its corners, on a screen, run against the clock (Gauss)."""
    pairs = zip(corners, (*corners[1:], *corners[:1]), strict=True)
    return sum(ax * by - bx * ay for (ax, ay), (bx, by) in pairs) / 2


def cropped(box: Box, across: tuple[float, float], down: tuple[float, float]) -> Box:
    """Return what is left of a box without so many percent of it at the left and right, and at the top and bottom."""
    left, top, right, bottom = box
    width, height = (right - left) / 100, (bottom - top) / 100
    return left + width * across[0], top + height * down[0], right - width * across[1], bottom - height * down[1]


def corners_of(box: Box) -> tuple[tuple[float, float], ...]:
    """Return a box's corners: top left, top right, bottom right, bottom left."""
    left, top, right, bottom = box
    return (left, top), (right, top), (right, bottom), (left, bottom)


def half_of(points: np.ndarray, away: np.ndarray) -> np.ndarray:
    """Return what of a convex outline (n, k) lies where the distances ``away`` (n,) of its corners are not below 0
    (Sutherland and Hodgman, 1974)."""
    made = []
    for here, there, a, b in zip(points, np.roll(points, -1, axis=0), away, np.roll(away, -1), strict=True):
        if a >= 0:
            made.append(here)
        if (a > 0 > b) or (a < 0 < b):
            made.append(here + (there - here) * (a / (a - b)))
    return np.array(made).reshape(-1, points.shape[1])


def point_in(box: Box, percent: tuple[float, float]) -> tuple[float, float]:
    """Return a place given in % across and down a box."""
    left, top, right, bottom = box
    return left + (right - left) * percent[0] / 100, top + (bottom - top) * percent[1] / 100


def percent_in(box: Box, place: tuple[float, float], digits: int) -> tuple[float, float]:
    """Return where a place lies in % across and down a box, rounded: the opposite of :func:`point_in`."""
    left, top, right, bottom = box
    return (
        round((place[0] - left) / max(right - left, 1e-6) * 100, digits),
        round((place[1] - top) / max(bottom - top, 1e-6) * 100, digits),
    )


def box_of(region: WholeBox) -> Box:
    """Return whole pixels as a box."""
    return float(region[0]), float(region[1]), float(region[2]), float(region[3])


def rounded_out(box: Box, margin: float = 0.0) -> tuple[int, int, int, int]:
    """Return the whole-numbered box around a box grown by a margin."""
    return (
        math.floor(box[0] - margin),
        math.floor(box[1] - margin),
        math.ceil(box[2] + margin),
        math.ceil(box[3] + margin),
    )
