"""Where a moved box comes to lie: the composition's edges, centre and thirds. Pure functions."""

from __future__ import annotations

from attrs import frozen

from spiralis.core.geometry import Box


@frozen
class Guide:
    """A line that something snapped to: ``axis`` 0 for an upright line at x, 1 for a level one at y."""

    axis: int
    place: float
    label: str


def lines(size: float) -> list[tuple[float, str]]:
    """Return the places along one side that things snap to, and what they are."""
    return [(0.0, "edge"), (size, "edge"), (size / 2, "centre"), (size / 3, "third"), (size * 2 / 3, "third")]


def snap_box(box: Box, size: tuple[float, float], reach: float) -> tuple[tuple[float, float], list[Guide]]:
    """Return the shift that brings a box onto the nearest lines within ``reach``, and the lines.

    Edges of the box snap to edges and thirds, its middle to the centre and thirds.
    """
    shift, guides = [0.0, 0.0], []
    for axis in (0, 1):
        low, high = box[axis], box[axis + 2]
        best: tuple[float, float, Guide] | None = None
        for place, label in lines(size[axis]):
            for point in (low, (low + high) / 2, high):
                is_middle = point not in (low, high)
                if (label == "centre") != is_middle and label != "third":
                    continue
                distance = abs(place - point)
                if distance <= reach and (best is None or distance < best[0] - 1e-9):
                    best = (distance, place - point, Guide(axis, place, label))
        if best is not None:
            shift[axis] = best[1]
            guides.append(best[2])
    return (shift[0], shift[1]), guides


def snap_pivot(percent: tuple[float, float], reach: tuple[float, float]) -> tuple[float, float]:
    """Return a pivot in percent, pulled to the nearest of nine points where it is within reach."""
    pulled = []
    for value, near in zip(percent, reach, strict=True):
        nearest = min((0.0, 50.0, 100.0), key=lambda mark: abs(mark - value))
        pulled.append(nearest if abs(nearest - value) <= near else value)
    return pulled[0], pulled[1]
