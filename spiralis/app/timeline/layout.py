"""Where rows, frames and beads are. Pure functions and values, no painting."""

from __future__ import annotations

import numpy as np
from attrs import frozen

from spiralis.core.animation.tracks import evaluate
from spiralis.core.editing.keys import KeyRef
from spiralis.core.model import Composition, Kind, Layer, Parameter, Track, layer_kind

LABELS = 184
RIGHT = 14
LAYER_ROW, THREAD_ROW = 31, 23


@frozen
class TimeAxis:
    """Maps frames to widget x; frame ``length`` lies at the right end."""

    left: float
    right: float
    length: int

    @property
    def per_frame(self) -> float:
        """Pixels a frame."""
        return (self.right - self.left) / self.length

    def x(self, frame: float) -> float:
        """Return the x of a frame."""
        return self.left + frame * self.per_frame

    def frame(self, x: float) -> int:
        """Return the nearest frame at an x; may lie outside the composition."""
        return round((x - self.left) / self.per_frame)


@frozen
class Row:
    """A layer's row, or the row of one of its threads."""

    layer: Layer
    name: str | None
    top: float
    height: float

    @property
    def middle(self) -> float:
        """Its middle height."""
        return self.top + self.height / 2


@frozen
class Filter:
    """Which layers the timeline shows: those whose name or kind holds the text, or only animated ones."""

    text: str = ""
    animated: bool = False

    def takes(self, layer: Layer) -> bool:
        """Whether a layer is shown."""
        words = f"{layer.name} {layer_kind(layer.kind).label}".lower()
        return self.text.lower() in words and (not self.animated or bool(layer.animated()))


def _folded_away(composition: Composition) -> set[str]:
    """Return the layers that hang, however far down, on a folded one."""
    by_id = {layer.id: layer for layer in composition.layers}
    if not any(layer.folded for layer in composition.layers):
        return set()

    def away(layer: Layer) -> bool:
        parent = by_id.get(layer.parent or "")
        return parent is not None and (parent.folded or away(parent))

    return {layer.id for layer in composition.layers if away(layer)}


def rows_of(composition: Composition, chosen: Filter = Filter()) -> list[Row]:
    """Return the rows from the top: each layer that the filter takes, then its animated properties unless folded."""
    rows, top = [], 0.0
    away = _folded_away(composition)
    for layer in composition.layers:
        if layer.id in away or not chosen.takes(layer):
            continue
        rows.append(Row(layer, None, top, LAYER_ROW))
        top += LAYER_ROW
        for name in () if layer.folded else layer.animated():
            rows.append(Row(layer, name, top, THREAD_ROW))
            top += THREAD_ROW
    return rows


def row_at(rows: list[Row], y: float) -> Row | None:
    """Return the row at a height, or None below the last."""
    return next((row for row in rows if row.top <= y < row.top + row.height), None)


def heights(track: Track, parameter: Parameter, frames: np.ndarray) -> np.ndarray:
    """Return how high a thread runs at frames (n,), 0 bottom to 1 top.

    Of a property with several numbers the one that changes most is drawn; words and switches lie flat.
    """
    if not parameter.numeric or parameter.kind is Kind.STOPS:
        return np.full(len(frames), 0.5)
    at_keys = np.array([parameter.to_array(key.value) for key in track.keys])
    component = int(np.argmax(np.ptp(at_keys, axis=0)))
    low, high = at_keys[:, component].min(), at_keys[:, component].max()
    if high - low < 1e-9:
        return np.full(len(frames), 0.5)
    values = evaluate(track, parameter, frames)[:, component]
    share: np.ndarray = (values - low) / (high - low)
    # On a screen a lower y is higher up, but for a thread "more" is up; overshoot is kept within the row.
    clipped: np.ndarray = np.clip(share, -0.25, 1.25)
    return clipped


def bead_height(top: float, height: float, share: float) -> float:
    """Return the y of a share of the thread's range within a row."""
    return top + height - 6 - share * (height - 12)


def bead_at(rows: list[Row], axis: TimeAxis, x: float, y: float, reach: float = 7.0) -> KeyRef | None:
    """Return the key whose bead is nearest to a point, within reach."""
    row = row_at(rows, y)
    if row is None or row.name is None:
        return None
    keys = row.layer.track(row.name).keys
    nearest = min(keys, key=lambda key: abs(axis.x(key.frame) - x), default=None)
    if nearest is None or abs(axis.x(nearest.frame) - x) > reach:
        return None
    return KeyRef(row.layer.id, row.name, nearest.frame)


def keys_in(rows: list[Row], axis: TimeAxis, box: tuple[float, float, float, float]) -> set[KeyRef]:
    """Return the keys whose beads lie in a box (left, top, right, bottom)."""
    left, top, right, bottom = box
    found = set()
    for row in rows:
        if row.name is None or not (top <= row.middle <= bottom):
            continue
        for key in row.layer.track(row.name).keys:
            if left <= axis.x(key.frame) <= right:
                found.add(KeyRef(row.layer.id, row.name, key.frame))
    return found


def tick_step(axis: TimeAxis, rate: float) -> tuple[int, float]:
    """Return (frames between small ticks, seconds between labels) that fit the axis."""
    second = axis.per_frame * rate
    label = next((s for s in (0.5, 1.0, 2.0, 5.0, 10.0, 30.0, 60.0, 300.0) if s * second >= 52), 600.0)
    small = next((f for f in (1, 2, 5, 10, 25, 50, 100, 500) if f * axis.per_frame >= 5), 1000)
    return small, label
