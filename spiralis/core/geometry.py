"""Plane affine maps and boxes."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

Box = tuple[float, float, float, float]
WholeBox = tuple[int, int, int, int]


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
        a, b, c, d, e, f = self
        u, v, w, x, y, z = inner
        return Affine(a * u + c * v, b * u + d * v, a * w + c * x, b * w + d * x, a * y + c * z + e, b * y + d * z + f)

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


def placement(
    position: tuple[float, float],
    scale: tuple[float, float],
    rotation: float,
    skew: tuple[float, float],
    pivot: tuple[float, float],
) -> Affine:
    """Return shift(position) · rotation · skew · scale · shift(-pivot); scale in percent, pivot in units."""
    turned = Affine.shift(*position) @ Affine.rotation(rotation)
    slanted = turned @ Affine.skewing(*skew) if any(skew) else turned
    return slanted @ Affine.scaling(scale[0] / 100, scale[1] / 100) @ Affine.shift(-pivot[0], -pivot[1])


def intersect(first: Box, second: Box) -> Box | None:
    """Return the common part of two boxes, or None."""
    left, top = max(first[0], second[0]), max(first[1], second[1])
    right, bottom = min(first[2], second[2]), min(first[3], second[3])
    return (left, top, right, bottom) if right > left and bottom > top else None


def box_around(boxes: Sequence[Box]) -> Box:
    """Return the box around one box or more."""
    return (
        min(b[0] for b in boxes), min(b[1] for b in boxes), max(b[2] for b in boxes), max(b[3] for b in boxes)
    )  # fmt: skip


def box_of(region: WholeBox) -> Box:
    """Return whole pixels as a box."""
    return float(region[0]), float(region[1]), float(region[2]), float(region[3])


def rounded_out(box: Box, margin: float = 0.0) -> tuple[int, int, int, int]:
    """Return the whole-numbered box around a box grown by a margin."""
    return (
        int(np.floor(box[0] - margin)),
        int(np.floor(box[1] - margin)),
        int(np.ceil(box[2] + margin)),
        int(np.ceil(box[3] + margin)),
    )
