"""The table of operations that one frame, or a part of it, is drawn from (see ``compositing/kernels/bands.py``)."""

from __future__ import annotations

from typing import Any

import numpy as np
from attrs import field, frozen

from spiralis.core.colour import Colour
from spiralis.core.compositing.kernels import bands
from spiralis.core.geometry import Box, intersect, outward


@frozen(eq=False)
class FramePlan:
    """Everything the kernel needs to draw one frame; ``keeps`` holds the arrays that the table points into."""

    width: int
    height: int
    numbers: np.ndarray
    reals: np.ndarray
    background: np.ndarray
    keeps: tuple[Any, ...] = field(repr=False)


class Table:
    """Collects operations, back to front; those outside the ``frame`` box are left out."""

    def __init__(self, frame: Box) -> None:
        self.frame = frame
        self.numbers: list[tuple[int, ...]] = []
        self.reals: list[tuple[float, ...]] = []
        self.keeps: list[np.ndarray] = []
        #: What lies under all operations.
        self.ground: Colour | None = None

    def add(self, kind: int, mode: int, box: Box, array: np.ndarray, size: tuple[int, int], place: tuple[float, ...],
            opacity: float, colour: tuple[float, ...] = (0.0, 0.0, 0.0, 0.0)) -> None:  # fmt: skip
        """Add one operation; ``box`` is cut to the frame."""
        seen = intersect(box, self.frame)
        if seen is None:
            return
        x0, y0, x1, y1 = (int(v) for v in outward(seen))
        self.numbers.append((kind, mode, x0, y0, x1, y1, array.ctypes.data, *size))
        self.reals.append((*place, opacity, *colour))
        self.keeps.append(array)

    def extend(self, other: Table) -> None:
        """Add all operations of a table whose frame lies within this one's."""
        self.add_rows(other.numbers, other.reals, other.keeps)

    def add_rows(self, numbers: list[tuple[int, ...]], reals: list[tuple[float, ...]], keeps: list[np.ndarray]) -> None:
        """Add rows that were made for this frame before."""
        self.numbers += numbers
        self.reals += reals
        self.keeps += keeps

    def clear(self) -> None:
        """Drop all operations."""
        self.numbers, self.reals, self.keeps = [], [], []

    @property
    def box(self) -> Box | None:
        """The box around all operations, or None."""
        if not self.numbers:
            return None
        columns = list(zip(*self.numbers, strict=True))
        return min(columns[2]), min(columns[3]), max(columns[4]), max(columns[5])

    def plan(self, area: tuple[int, int, int, int], background: np.ndarray) -> FramePlan:
        """Return the plan of the pixels in a whole-numbered box, which becomes a frame of its own."""
        left, top, right, bottom = area
        numbers = np.array(self.numbers, dtype=np.int64).reshape(-1, 9)
        reals = np.array(self.reals, dtype=np.float64).reshape(-1, 11)
        if left or top:
            numbers[:, 2:6] -= (left, top, left, top)
            reals[:, 2] += reals[:, 0] * left + reals[:, 1] * top
            reals[:, 5] += reals[:, 3] * left + reals[:, 4] * top
        return FramePlan(right - left, bottom - top, numbers, reals, background, tuple(self.keeps))


def premultiplied(colour: Colour | None) -> np.ndarray:
    """Return a colour, or nothing, as four premultiplied float32."""
    r, g, b, a = colour or (0.0, 0.0, 0.0, 0.0)
    return np.array([r * a, g * a, b * a, a], dtype=np.float32)


def drawn(table: Table, area: tuple[int, int, int, int], background: Colour | None = None) -> np.ndarray:
    """Draw a table into float32 (h, w, 4) pixels of a whole-numbered box."""
    plan = table.plan(area, premultiplied(background))
    out = np.empty((plan.height, plan.width, 4), dtype=np.float32)
    empty = np.empty((0, 0), dtype=np.uint8)
    bands.draw_bands(
        plan.numbers, plan.reals, plan.background, plan.width, plan.height, 0, plan.height, bands.OUT_FLOAT,
        out.reshape(-1), np.empty((0, 0, 4), dtype=np.uint8), empty, empty, empty,
    )  # fmt: skip
    return out
