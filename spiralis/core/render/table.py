"""The table of operations that one frame, or a part of it, is drawn from (see ``compositing/kernels/bands.py``)."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from attrs import field, frozen

from spiralis.core.colour import Colour
from spiralis.core.compositing.kernels import bands
from spiralis.core.effects.colour_steps import packed
from spiralis.core.geometry import Box, intersect, rounded_out


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
            opacity: float, colour: tuple[float, ...] = (0.0, 0.0, 0.0, 0.0), edges: np.ndarray | None = None,
            ) -> None:  # fmt: skip
        """Add one operation; ``box`` is cut to the frame, ``edges`` (float64 (4, 3), see the kernel) cut it as well."""
        seen = intersect(box, self.frame)
        if seen is None:
            return
        x0, y0, x1, y1 = (int(v) for v in rounded_out(seen))
        cut = edges.ctypes.data if edges is not None else 0
        self.numbers.append((kind, mode, x0, y0, x1, y1, array.ctypes.data, *size, cut))
        self.reals.append((*place, opacity, *colour))
        self.keeps.append(array)
        if edges is not None:
            self.keeps.append(edges)

    def add_colours(self, steps: Sequence[np.ndarray], opacity: float) -> None:
        """Change everything so far by colour steps (see ``effects/colour_steps.py``), as far as an opacity."""
        if steps and opacity > 0:
            place = (1.0, 0.0, 0.0, 0.0, 1.0, 0.0)
            self.add(bands.COLOUR, 1, self.frame, packed(steps), (len(steps), 0), place, opacity)

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
        rows = [row for row in self.numbers if row[0] != bands.COLOUR]
        if not rows:
            return None
        columns = list(zip(*rows, strict=True))
        return min(columns[2]), min(columns[3]), max(columns[4]), max(columns[5])

    def plan(self, area: tuple[int, int, int, int], background: np.ndarray) -> FramePlan:
        """Return the plan of the pixels in a whole-numbered box, which becomes a frame of its own."""
        moved: list[np.ndarray] = []
        left, top, right, bottom = area
        numbers = np.array(self.numbers, dtype=np.int64).reshape(-1, bands.NUMBERS)
        reals = np.array(self.reals, dtype=np.float64).reshape(-1, bands.REALS)
        if left or top:
            for row in np.flatnonzero(numbers[:, 9]).tolist():
                # Edges are measured in the frame's own pixels: the part gets edges of its own.
                edges = _moved_edges(self, numbers[row, 9], left, top)
                numbers[row, 9] = edges.ctypes.data
                moved.append(edges)
            numbers[:, 2:6] -= (left, top, left, top)
            reals[:, 2] += reals[:, 0] * left + reals[:, 1] * top
            reals[:, 5] += reals[:, 3] * left + reals[:, 4] * top
        return FramePlan(right - left, bottom - top, numbers, reals, background, (*self.keeps, *moved))


def _moved_edges(table: Table, address: int, left: int, top: int) -> np.ndarray:
    edges = next(kept for kept in table.keeps if kept.ctypes.data == address).copy()
    edges[:, 2] += edges[:, 0] * left + edges[:, 1] * top
    return edges


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
