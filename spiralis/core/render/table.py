"""The table of operations that one frame, or a part of it, is drawn from (see ``compositing/kernels/bands.py``)."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from attrs import field, frozen

from spiralis.core.colour import Colour
from spiralis.core.compositing.kernels import bands
from spiralis.core.compositing.kernels import light as light_kernels
from spiralis.core.effects.colour_steps import packed
from spiralis.core.geometry import Box, WholeBox, box_around, box_of, intersect, rounded_out

#: One operation: the values of ``bands.OPERATION`` in their order.
Row = tuple[int, int, int, int, int, int, int, int, int, int, tuple[float, ...], float, tuple[float, ...], int]
_CLEAR = (0.0, 0.0, 0.0, 0.0)


def moved_by(dx: float, dy: float) -> tuple[float, ...]:
    """Return the place of a source whose pixel (x + dx, y + dy) falls on output pixel (x, y)."""
    return 1.0, 0.0, float(dx), 0.0, 1.0, float(dy), 0.0, 0.0, 1.0


_UNMOVED = moved_by(0, 0)


def _plain(kind: int, box: WholeBox, mode: int = 0, opacity: float = 1.0) -> Row:
    """Return an operation without a source."""
    return kind, mode, *box, 0, 0, 0, 0, _UNMOVED, opacity, _CLEAR, 0


@frozen(eq=False)
class FramePlan:
    """Everything the kernel needs to draw one frame; ``keeps`` holds the arrays that the operations point into."""

    area: WholeBox
    operations: np.ndarray
    background: np.ndarray
    keeps: tuple[Any, ...] = field(repr=False)

    @property
    def width(self) -> int:
        """The width of the part that is drawn."""
        return self.area[2] - self.area[0]

    @property
    def height(self) -> int:
        """The height of the part that is drawn."""
        return self.area[3] - self.area[1]


class Table:
    """Collects operations, back to front; those outside the ``frame`` box are left out.

    Operations come one by one as rows, or many at once as arrays of ``bands.OPERATION``. In a ``linear`` table they
    mix in linear light; what is drawn from it is encoded again in the end, as all pictures are.
    """

    def __init__(self, frame: Box, linear: bool = False) -> None:
        self.frame, self.linear = frame, linear
        self.rows: list[Row | np.ndarray] = []
        self.keeps: list[np.ndarray] = []
        #: What lies under all operations.
        self.background: Colour | None = None
        #: Where something lies under them that is in the table they are to join.
        self.ground: Box | None = None

    def add(self, kind: int, mode: int, box: Box, array: np.ndarray, size: tuple[int, int], place: tuple[float, ...],
            opacity: float, colour: tuple[float, ...] = _CLEAR, edges: np.ndarray | None = None,
            ) -> None:  # fmt: skip
        """Add one operation; ``box`` is cut to the frame, ``edges`` (float64 (4, 3), see the kernel) cut it as well."""
        seen = intersect(box, self.frame)
        if seen is None:
            return
        cut = edges.ctypes.data if edges is not None else 0
        self.rows.append((kind, mode, *rounded_out(seen), array.ctypes.data, *size, cut, place, opacity, colour,
                          int(self.linear)))  # fmt: skip
        self.keeps.append(array)
        if edges is not None:
            self.keeps.append(edges)

    def add_colours(self, steps: Sequence[np.ndarray], opacity: float) -> None:
        """Change everything so far by colour steps (see ``effects/colour_steps.py``), as far as an opacity."""
        if steps and opacity > 0:
            self.add(bands.COLOUR, 1, self.frame, packed(steps), (len(steps), 0), _UNMOVED, opacity)

    def add_cover(self, cover: np.ndarray, box: WholeBox) -> None:
        """Multiply everything so far by a cover, float32 (h, w) of a box of the frame's grid."""
        size = (cover.shape[1], cover.shape[0])
        self.add(bands.COVER, 1, box_of(box), cover, size, moved_by(-box[0], -box[1]), 1.0)

    def add_cut(self, edges: np.ndarray) -> None:
        """Leave of everything so far what lies within four edges (float64 (4, 3), see the kernel)."""
        self.add(bands.CUT, 1, self.frame, edges, (0, 0), _UNMOVED, 1.0, edges=edges)

    def add_apart(self, inner: Table, mode: int, opacity: float, box: Box | None = None) -> None:
        """Add a table within this one's frame as one picture, blended and faded as a whole.

        It is mixed within a ``box``; as a rule where it shows anything.
        """
        box = box or inner.box
        seen = intersect(box, self.frame) if box is not None else None
        if seen is not None:
            whole = rounded_out(seen)
            self.rows.append(_plain(bands.PUSH, whole))
            self.rows += inner.rows
            self.keeps += inner.keeps
            if inner.linear != self.linear:
                self.rows.append(_plain(bands.ENCODE if inner.linear else bands.DECODE, whole))
            self.rows.append(_plain(bands.POP, whole, mode, opacity))

    def extend(self, other: Table) -> None:
        """Add all operations of a table of the same light whose frame lies within this one's."""
        self.add_rows(other.rows, other.keeps)

    def add_rows(self, rows: Sequence[Row | np.ndarray], keeps: Sequence[np.ndarray]) -> None:
        """Add rows that were made for this frame, and a table of the same light, before."""
        for row in rows:
            if isinstance(row, np.ndarray):
                row["linear"] = self.linear
        self.rows += rows
        self.keeps += keeps

    def clear(self) -> None:
        """Drop all operations."""
        self.rows, self.keeps = [], []

    @property
    def all_normal(self) -> bool:
        """Whether all operations lie over what is beneath them in the normal way; those within a picture apart may
        mix among themselves as they like."""
        depth = 0
        for row in self.rows:
            if isinstance(row, np.ndarray):
                mixes = bool(row["mode"].any())
            else:
                depth += (row[0] == bands.PUSH) - (row[0] == bands.POP)
                mixes = row[1] != 0
            if mixes and depth == 0:
                return False
        return True

    @property
    def box(self) -> Box | None:
        """The box around all operations that draw something, or None."""
        boxes: list[Box] = []
        for row in self.rows:
            if isinstance(row, np.ndarray):
                first, last = ("left", "top"), ("right", "bottom")
                corners = [row[name].min() for name in first] + [row[name].max() for name in last]
                boxes.append((float(corners[0]), float(corners[1]), float(corners[2]), float(corners[3])))
            elif row[0] not in (bands.COLOUR, bands.COVER, bands.CUT, bands.DECODE, bands.ENCODE):
                boxes.append(box_of((row[2], row[3], row[4], row[5])))
        return box_around(boxes) if boxes else None

    @property
    def filled(self) -> Box | None:
        """The box of everything so far, with what lies under it; None where there is nothing."""
        if self.background is not None:
            return self.frame
        boxes = [box for box in (self.ground, self.box) if box is not None]
        return box_around(boxes) if boxes else None

    def plan(self, area: WholeBox, background: np.ndarray) -> FramePlan:
        """Return the plan of the pixels in a whole-numbered box."""
        if self.linear:
            light_kernels.decode_premultiplied(background, np.float32(1.0), background)
        return FramePlan(area, self._operations(area), background, tuple(self.keeps))

    def _operations(self, area: WholeBox) -> np.ndarray:
        parts: list[np.ndarray] = []
        single: list[Row] = []
        for row in [*self.rows, _plain(bands.ENCODE, area)] if self.linear else self.rows:
            if isinstance(row, np.ndarray):
                parts += [np.array(single, dtype=bands.OPERATION), row]
                single = []
            else:
                single.append(row)
        return np.concatenate([*parts, np.array(single, dtype=bands.OPERATION)])


def premultiplied(colour: Colour | None) -> np.ndarray:
    """Return a colour, or nothing, as four premultiplied float32."""
    r, g, b, a = colour or (0.0, 0.0, 0.0, 0.0)
    return np.array([r * a, g * a, b * a, a], dtype=np.float32)


def drawn(table: Table, area: WholeBox, background: Colour | None = None) -> np.ndarray:
    """Draw a table into float32 (h, w, 4) pixels of a whole-numbered box."""
    plan = table.plan(area, premultiplied(background))
    out = np.empty((plan.height, plan.width, 4), dtype=np.float32)
    empty = np.empty((0, 0), dtype=np.uint8)
    bands.draw_bands(
        plan.operations, plan.background, plan.area, 0, plan.height, bands.OUT_FLOAT,
        out.reshape(-1), np.empty((0, 0, 4), dtype=np.uint8), empty, empty, empty,
    )  # fmt: skip
    return out
