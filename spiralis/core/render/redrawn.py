"""Frames of which the one before is kept: where their operations are the same, the picture is the same."""

from __future__ import annotations

from itertools import combinations

import numpy as np
from attrs import evolve

from spiralis.core.geometry import WholeBox, box_around, box_of, intersect_whole, rounded_out
from spiralis.core.model import Project
from spiralis.core.render.frame import rgba8_of
from spiralis.core.render.plan import plan_frame
from spiralis.core.render.table import FramePlan
from spiralis.core.rows import shared_by

#: More places than that are one: looking for them takes longer than drawing what lies between.
_MOST_PLACES = 24


class Redrawn:
    """Draws frames, one after the other; of each only what is not as it was in the one before.

    Every operation changes pixels within its box alone, and each of them by itself. The plan of the frame before is
    held, so that no array it points into can have made room for another one at the same address.
    """

    def __init__(self) -> None:
        self._plan: FramePlan | None = None
        self._picture = np.empty((0, 0, 4), dtype=np.uint8)

    def rgba8(self, project: Project, composition_id: str, frame: float, scale: float, threads: int = 1) -> np.ndarray:
        """Return a frame as ``render_rgba8`` does; the next frame is drawn into the same array."""
        with shared_by(threads):
            plan = plan_frame(project, composition_id, frame, scale)
            places = changed(self._plan, plan) if self._plan is not None else [plan.area]
            # Where drawing goes wrong half way nothing of the picture can be relied on.
            self._plan = None
            if places == [plan.area]:
                self._picture = rgba8_of(plan)
            else:
                for left, top, right, bottom in places:
                    part = evolve(plan, area=(left, top, right, bottom))
                    self._picture[top:bottom, left:right] = rgba8_of(part)
            self._plan = plan
        return self._picture


def changed(before: FramePlan, after: FramePlan) -> list[WholeBox]:
    """Return boxes that hold all pixels in which two plans may differ, whole numbers within the area of ``after``.

    None of them lies over another one for the most part. ``[after.area]`` where nothing can be said.
    """
    if before.area != after.area or not np.array_equal(before.background, after.background):
        return [after.area]
    boxes = [intersect_whole(box, after.area) for box in _boxes(before.operations, after.operations)]
    return _joined([box for box in boxes if box is not None and box[0] < box[2] and box[1] < box[3]])


def _boxes(before: np.ndarray, after: np.ndarray) -> set[WholeBox]:
    """Return the boxes of operations that are only in one of two tables, or in another place."""
    first, second = _as_bytes(before), _as_bytes(after)
    if len(first) == len(second):
        other = (first != second).any(axis=1)
        rows = [before[other], after[other]]
    else:
        # What was added or removed in one place: what lies before and behind it is the same.
        shorter = min(len(first), len(second))
        differ = (first[:shorter] != second[:shorter]).any(axis=1)
        start = int(differ.argmax()) if differ.any() else shorter
        ends = (first[len(first) - shorter :] != second[len(second) - shorter :]).any(axis=1)[::-1]
        tail = min(int(ends.argmax()) if ends.any() else shorter, shorter - start)
        rows = [before[start : len(first) - tail], after[start : len(second) - tail]]
    names = ("left", "top", "right", "bottom")
    return {box for table in rows for box in zip(*(table[name].tolist() for name in names), strict=True)}


def _as_bytes(operations: np.ndarray) -> np.ndarray:
    """Return a table as one row of bytes an operation."""
    return np.ascontiguousarray(operations).view(np.uint8).reshape(len(operations), operations.dtype.itemsize)


def _joined(boxes: list[WholeBox]) -> list[WholeBox]:
    """Join boxes of which the box around both is no larger than both together."""
    if len(boxes) > _MOST_PLACES:
        return [_around(boxes)]
    while True:
        for one, other in combinations(boxes, 2):
            both = _around([one, other])
            if _size(both) <= _size(one) + _size(other):
                boxes = [box for box in boxes if box not in (one, other)] + [both]
                break
        else:
            return boxes


def _around(boxes: list[WholeBox]) -> WholeBox:
    return rounded_out(box_around([box_of(box) for box in boxes]))


def _size(box: WholeBox) -> int:
    return (box[2] - box[0]) * (box[3] - box[1])
