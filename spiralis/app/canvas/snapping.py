"""Where a moved box or point comes to lie: edges, centre, thirds, guides, grid, other layers, equal gaps. Pure."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from attrs import frozen

from spiralis.core.geometry import Box
from spiralis.core.model import Composition

_EPSILON = 1e-9


@frozen
class Guide:
    """A line that something snapped to: ``axis`` 0 for an upright line at x, 1 for a level one at y.

    ``reach`` is how far it is drawn along the other axis; None for across the whole frame.
    """

    axis: int
    place: float
    label: str
    reach: tuple[float, float] | None = None


@frozen
class Gap:
    """Two gaps that are equal now: each from, to along ``axis``, drawn at ``level`` of the other axis."""

    axis: int
    spans: tuple[tuple[float, float], tuple[float, float]]
    level: float

    @property
    def size(self) -> float:
        """How wide both are."""
        return self.spans[0][1] - self.spans[0][0]


Mark = Guide | Gap


@frozen
class Line:
    """A place that things may snap to. ``middles`` and ``edges`` say which parts of a box it attracts."""

    axis: int
    place: float
    label: str
    middles: bool = True
    edges: bool = True
    box: Box | None = None


def frame_lines(size: tuple[float, float]) -> list[Line]:
    """Return the frame's edges, centre and thirds."""
    made = []
    for axis in (0, 1):
        whole = size[axis]
        made += [Line(axis, 0.0, "edge", middles=False), Line(axis, whole, "edge", middles=False)]
        made += [Line(axis, whole / 2, "centre", edges=False)]
        made += [Line(axis, whole / 3, "third"), Line(axis, whole * 2 / 3, "third")]
    return made


def aid_lines(piece: Composition) -> list[Line]:
    """Return a composition's guides and the bounds of its safe area."""
    made = [Line(axis, place, "guide") for axis, place in piece.guides]
    for axis, (size, share) in enumerate(zip((piece.width, piece.height), piece.safe_area, strict=True)):
        if share:
            inset = size * share / 100
            made += [Line(axis, place, "safe area", middles=False) for place in (inset, size - inset)]
    return made


def box_lines(boxes: Iterable[Box]) -> list[Line]:
    """Return the edges and middles of other layers' boxes."""
    made = []
    for box in boxes:
        for axis in (0, 1):
            low, high = box[axis], box[axis + 2]
            made += [
                Line(axis, low, "layer", middles=False, box=box),
                Line(axis, high, "layer", middles=False, box=box),
            ]
            made += [Line(axis, (low + high) / 2, "layer", edges=False, box=box)]
    return made


def grid_line(axis: int, point: float, grid: float) -> Line:
    """Return the grid's line nearest to a point."""
    return Line(axis, round(point / grid) * grid, "grid", middles=False)


def snap_box(
    box: Box, lines: Sequence[Line], reach: float, grid: float = 0.0, others: Sequence[Box] = ()
) -> tuple[tuple[float, float], list[Mark]]:
    """Return the shift that brings a box onto the nearest lines within ``reach``, and marks of what it met.

    Where no line is near, it may come to lie so that its gaps to ``others`` are equal.
    """
    shift, marks = [0.0, 0.0], []
    for axis in (0, 1):
        low, high = box[axis], box[axis + 2]
        near = [line for line in lines if line.axis == axis]
        if grid > 0:
            near += [grid_line(axis, low, grid), grid_line(axis, high, grid)]
        best: tuple[float, float, Mark] | None = None
        for line in near:
            for point, middle in ((low, False), ((low + high) / 2, True), (high, False)):
                if not (line.middles if middle else line.edges):
                    continue
                distance = abs(line.place - point)
                if distance <= reach and (best is None or distance < best[0] - _EPSILON):
                    best = (distance, line.place - point, Guide(axis, line.place, line.label, _reach(line, box)))
        if best is None:
            best = _equal_gap(axis, box, others, reach)
        if best is not None:
            shift[axis] = best[1]
            marks.append(best[2])
    return (shift[0], shift[1]), marks


def _reach(line: Line, box: Box) -> tuple[float, float] | None:
    if line.box is None:
        return None
    other = 1 - line.axis
    return min(box[other], line.box[other]), max(box[other + 2], line.box[other + 2])


def _equal_gap(axis: int, box: Box, others: Sequence[Box], reach: float) -> tuple[float, float, Mark] | None:
    """Return the nearest place at which a gap to one neighbour equals another gap of the same row or column."""
    cross = 1 - axis
    row = sorted((b for b in others if b[cross] < box[cross + 2] and box[cross] < b[cross + 2]), key=lambda b: b[axis])
    low, high = box[axis], box[axis + 2]
    middle, size = (low + high) / 2, high - low
    before = [b for b in row if (b[axis] + b[axis + 2]) / 2 < middle]
    after = [b for b in row if (b[axis] + b[axis + 2]) / 2 >= middle]
    found: list[tuple[float, tuple[tuple[float, float], tuple[float, float]]]] = []
    if before and after:
        a, b = before[-1][axis + 2], after[0][axis]
        start = (a + b - size) / 2
        found.append((start, ((a, start), (start + size, b))))
    if len(before) > 1:
        a, b = before[-2][axis + 2], before[-1][axis]
        start = before[-1][axis + 2] + (b - a)
        found.append((start, ((a, b), (before[-1][axis + 2], start))))
    if len(after) > 1:
        a, b = after[0][axis + 2], after[1][axis]
        start = after[0][axis] - (b - a) - size
        found.append((start, ((start + size, after[0][axis]), (a, b))))
    fitting = [(abs(start - low), start - low, spans) for start, spans in found
               if abs(start - low) <= reach and spans[0][1] - spans[0][0] > _EPSILON]  # fmt: skip
    if not fitting:
        return None
    distance, by, spans = min(fitting)
    return distance, by, Gap(axis, spans, (box[cross] + box[cross + 2]) / 2)


def snap_point(
    point: tuple[float, float], lines: Sequence[Line], reach: float
) -> tuple[tuple[float, float], list[Mark]]:
    """Return a point pulled onto the nearest lines within reach, and the lines."""
    (dx, dy), marks = snap_box((*point, *point), [Line(y.axis, y.place, y.label) for y in lines], reach)
    return (point[0] + dx, point[1] + dy), marks


def snap_pivot(percent: tuple[float, float], reach: tuple[float, float]) -> tuple[float, float]:
    """Return a pivot in percent, pulled to the nearest of nine points where it is within reach."""
    pulled = []
    for value, near in zip(percent, reach, strict=True):
        nearest = min((0.0, 50.0, 100.0), key=lambda mark: abs(mark - value))
        pulled.append(nearest if abs(nearest - value) <= near else value)
    return pulled[0], pulled[1]
