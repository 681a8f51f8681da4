"""Where rows, frames and beads are. Pure functions and values, no painting."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Collection, Iterable

import numpy as np
from attrs import evolve, frozen

from spiralis.app.work.cached import Cached
from spiralis.core.animation.tracks import evaluate
from spiralis.core.editing.keys import KeyRef
from spiralis.core.model import Composition, Layer, Parameter, Rule, Track, layer_kind

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
    #: How many groups the layer is in.
    depth: int = 0

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
    folded = [layer.id for layer in composition.layers if layer.folded]
    return {below.id for layer_id in folded for below in composition.descendants(layer_id)}


#: Rows of compositions: they are asked for at each move of the mouse.
_rows: Cached[list[Row]] = Cached(8)


def rows_of(composition: Composition, chosen: Filter = Filter()) -> list[Row]:
    """Return the rows from the top: each layer that the filter takes, then its animated properties unless folded."""
    return _rows.of(composition, chosen, lambda: _rows_made(composition, chosen))


def visible_rows(rows: list[Row], top: float, bottom: float) -> list[Row]:
    """Return the rows between two heights."""
    first = max(bisect_right(rows, top, key=lambda row: row.top) - 1, 0)
    return rows[first : bisect_right(rows, bottom, key=lambda row: row.top)]


def _rows_made(composition: Composition, chosen: Filter) -> list[Row]:
    rows, top = [], 0.0
    away, everything = _folded_away(composition), chosen == Filter()
    for layer in composition.layers:
        if layer.id in away or not (everything or chosen.takes(layer)):
            continue
        depth = len(composition.groups_around(layer.id)) if composition.group_of else 0
        rows.append(Row(layer, None, top, LAYER_ROW, depth))
        top += LAYER_ROW
        for name in () if layer.folded else layer.shown_tracks():
            rows.append(Row(layer, name, top, THREAD_ROW, depth))
            top += THREAD_ROW
    return rows


def row_at(rows: list[Row], y: float) -> Row | None:
    """Return the row at a height, or None below the last."""
    return next((row for row in visible_rows(rows, y, y) if row.top <= y < row.top + row.height), None)


def heights(track: Track, parameter: Parameter, frames: np.ndarray) -> np.ndarray:
    """Return how high a thread runs at frames (n,), 0 bottom to 1 top.

    Of a property with several numbers the one that changes most is drawn; words and switches lie flat. Rounds that
    accumulate are drawn where the first one is: what matters here is their rhythm.
    """
    if not parameter.plotted:
        return np.full(len(frames), 0.5)
    at_keys = np.array([parameter.to_array(key.value) for key in track.keys])
    component = int(np.argmax(np.ptp(at_keys, axis=0)))
    low, high = at_keys[:, component].min(), at_keys[:, component].max()
    if high - low < 1e-9:
        return np.full(len(frames), 0.5)
    values = evaluate(_folded(track), parameter, frames)[:, component]
    share: np.ndarray = (values - low) / (high - low)
    # On a screen a lower y is higher up, but for a thread "more" is up; overshoot is kept within the row.
    clipped: np.ndarray = np.clip(share, -0.25, 1.25)
    return clipped


def _folded(track: Track) -> Track:
    ends = {
        side: evolve(extend, rule=Rule.REPEAT) for side, extend in (("before", track.before), ("after", track.after))
        if extend.rule is Rule.ACCUMULATE
    }  # fmt: skip
    return evolve(track, **ends) if ends else track


def bead_height(top: float, height: float, share: float) -> float:
    """Return the y of a share of the thread's range within a row."""
    return top + height - 6 - share * (height - 12)


def segment_at(row: Row, axis: TimeAxis, x: float) -> KeyRef | None:
    """Return the key that the segment at an x of a thread's row leaves, or None before the first and after the last."""
    if row.name is None:
        return None
    frames = [key.frame for key in row.layer.track(row.name).keys]
    place = bisect_right(frames, (x - axis.left) / axis.per_frame)
    return KeyRef(row.layer.id, row.name, frames[place - 1]) if 0 < place < len(frames) else None


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


def snap_frames(
    composition: Composition, playhead: int, moving: Iterable[KeyRef] = (), leaving: Collection[str] = ()
) -> set[int]:
    """Return the frames that what is dragged snaps to: playhead, markers, both ends, ends of bars and keys.

    Keys that are ``moving`` themselves count for nothing, nor do layers that are ``leaving`` with their bars.
    """
    still = set(moving)
    marks = {playhead, 0, composition.length, *composition.span, *(marker.frame for marker in composition.markers)}
    for layer in composition.layers:
        if layer.id in leaving:
            continue
        marks |= {layer.first, layer.last}
        for name in layer.animated():
            frames = {key.frame for key in layer.track(name).keys}
            marks |= {frame for frame in frames if KeyRef(layer.id, name, frame) not in still}
    return marks


def snapped(frame: float, marks: set[int], axis: TimeAxis, reach: float = 6.0) -> int:
    """Return the mark nearest to a moment where it is within reach in pixels, else the nearest frame."""
    near = min(marks, key=lambda mark: abs(mark - frame), default=round(frame))
    return near if abs(near - frame) * axis.per_frame <= reach else round(frame)


_FRAME_STEPS = (1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10_000)
_SECOND_STEPS = (0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 30.0, 60.0, 300.0, 600.0)
_LABEL_ROOM = {"frames": 40.0, "seconds": 52.0, "timecode": 84.0}


def small_ticks(axis: TimeAxis) -> int:
    """Return how many frames lie between small ticks, so that they are 5 px apart or more."""
    return next((step for step in _FRAME_STEPS if step * axis.per_frame >= 5), _FRAME_STEPS[-1])


def label_frames(axis: TimeAxis, rate: float, unit: str) -> list[int]:
    """Return the frames that carry a label: even steps of frames, or of seconds, with room for the text."""
    room = _LABEL_ROOM[unit]
    if unit == "frames":
        step = next((s for s in _FRAME_STEPS if s * axis.per_frame >= room), _FRAME_STEPS[-1])
        return list(range(0, axis.length + 1, step))
    second = axis.per_frame * rate
    every = next((s for s in _SECOND_STEPS if s * second >= room and s * rate >= 1), _SECOND_STEPS[-1])
    return [round(i * every * rate) for i in range(int(axis.length / rate / every + 1e-6) + 1)]
