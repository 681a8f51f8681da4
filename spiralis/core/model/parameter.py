"""A parameter is declared once; editor, validation, file and docs derive from the declaration."""

from __future__ import annotations

import math
from collections.abc import Sequence
from enum import StrEnum
from itertools import pairwise
from typing import Any

import numpy as np
from attrs import frozen

from spiralis.core.errors import ModelError
from spiralis.core.model.art import check_art

#: A number, switch, choice, text or art; a pair, colour, list of stops or of drawings as (nested) tuples.
Value = Any


class Kind(StrEnum):
    """What sort of value a parameter holds."""

    NUMBER = "number"
    PAIR = "pair"
    COLOUR = "colour"
    STOPS = "stops"
    CURVE = "curve"
    CHOICE = "choice"
    SWITCH = "switch"
    TEXT = "text"
    FONT = "font"
    SOURCE = "source"
    COMPOSITION = "composition"
    ART = "art"
    DRAWINGS = "drawings"
    RUNS = "runs"
    LAYER = "layer"


NUMERIC = frozenset({Kind.NUMBER, Kind.PAIR, Kind.COLOUR, Kind.STOPS, Kind.CURVE})
#: Kinds of values that are as long as they are: what is mixed has to be equally long, and no line shows them over time.
LISTS = frozenset({Kind.STOPS, Kind.CURVE})
LARGEST = 1e7
MOST_DRAWINGS = 5000
MOST_POINTS = 16
#: The points of a curve lie no nearer to each other than this.
NEAREST_POINTS = 1 / 512
MOST_RUNS = 2000
_SHORT_RUN, _RUN = 6, 9
LONGEST_EXPOSURE = 100_000


@frozen
class Parameter:
    """One property of a layer kind.

    ``unit`` is shown behind numbers ("px", "%", "°"). ``group`` is the Details section, ``family`` the
    thread colour. ``steady`` ones say how a layer is set up and get no keys in the window. ``needs`` names another
    parameter and the values of it for which this one matters. After each ``period`` a value looks the same again.
    ``counts_frames`` marks numbers of the composition's frames, which another frame rate changes. A layer parameter
    that ``gathers`` means all that hangs on the layer too. A ``spot`` is a place in % of the layer's box, which the
    canvas lets grab. What is ``optional`` may name nothing. A ``worn`` one belongs to how a layer looks, not to what it
    shows; ``all_shown`` is all that it shows, and a file may take its place. ``block`` is the label of the effect or
    finish whose parameter it is. Pixels count in the layer's own units unless it ``measures`` something else: a
    ``depth``, which no scale changes, or in the composition's pixels a ``place`` or a ``level``, which is the second
    number of one.
    """

    name: str
    label: str
    kind: Kind
    default: Value
    help: str
    unit: str = ""
    minimum: float = -LARGEST
    maximum: float = LARGEST
    step: float = 1.0
    group: str = "Content"
    family: str = "content"
    choices: tuple[str, ...] = ()
    is_path: bool = False
    steady: bool = False
    needs: tuple[str, tuple[Value, ...]] | None = None
    period: float | None = None
    counts_frames: bool = False
    gathers: bool = False
    spot: bool = False
    block: str = ""
    worn: bool = False
    optional: bool = False
    measures: str = ""
    all_shown: bool = False

    @property
    def full_label(self) -> str:
        """The label as it is told apart from others of the same layer: with the effect's name before it."""
        return f"{self.block}: {self.label}" if self.block else self.label

    @property
    def numeric(self) -> bool:
        """Whether values between two keys are mixed; all others hold."""
        return self.kind in NUMERIC

    @property
    def plotted(self) -> bool:
        """Whether a line over time can show it."""
        return self.kind in NUMERIC - LISTS

    def check(self, value: Value) -> Value:
        """Return the value in its normal form (floats, tuples).

        Raises:
            ModelError: wrong type, outside the range, or no known choice.
        """
        match self.kind:
            case Kind.NUMBER:
                return self._number(value)
            case Kind.PAIR:
                return tuple(self._number(part) for part in self._sequence(value, 2))
            case Kind.COLOUR:
                return tuple(self._channel(part) for part in self._sequence(value, 4))
            case Kind.STOPS:
                return self._stops(value)
            case Kind.CURVE:
                return self._curve(value)
            case Kind.SWITCH:
                if not isinstance(value, bool):
                    raise self._wrong("on or off", value)
                return value
            case Kind.CHOICE:
                if value not in self.choices:
                    raise self._wrong("one of " + ", ".join(self.choices), value)
                return value
            case Kind.ART:
                return check_art(value)
            case Kind.DRAWINGS:
                return self._drawings(value)
            case Kind.RUNS:
                return self._text_runs(value)
        if not isinstance(value, str) or len(value) > 20_000:
            raise self._wrong("text of at most 20000 letters", value)
        return value

    def apart(self, first: Value, second: Value) -> np.ndarray:
        """Return how far a numeric value is from another, (components,); whole periods count as nothing."""
        way = self.to_array(second) - self.to_array(first)
        if self.period is None:
            return way
        nearest: np.ndarray = way - np.round(way / self.period) * self.period
        return nearest

    def to_array(self, value: Value) -> np.ndarray:
        """Flatten a numeric value to a float64 array of shape (components,)."""
        return np.asarray(value, dtype=np.float64).reshape(-1)

    def from_array(self, array: np.ndarray | Sequence[float]) -> Value:
        """Return the value of an array as ``to_array`` gives it, clipped to the range."""
        numbers = array.tolist() if isinstance(array, np.ndarray) else array
        if self.kind is Kind.NUMBER:
            return min(max(numbers[0], self.minimum), self.maximum)
        if self.kind is Kind.PAIR:
            return tuple(min(max(n, self.minimum), self.maximum) for n in numbers)
        if self.kind is Kind.STOPS:
            return tuple(tuple(numbers[i : i + 5]) for i in range(0, len(numbers), 5))
        if self.kind is Kind.CURVE:
            return _rising(numbers)
        return tuple(numbers)

    def _number(self, value: Value) -> float:
        if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value):
            raise self._wrong("a number", value)
        if not self.minimum <= value <= self.maximum:
            raise self._wrong(f"between {self.minimum:g} and {self.maximum:g}{self.unit}", value)
        return float(value)

    def _channel(self, value: Value) -> float:
        if isinstance(value, bool) or not isinstance(value, int | float) or not -0.001 <= value <= 64:
            raise self._wrong("a colour of four numbers from 0 to 1", value)
        return float(value)

    def _sequence(self, value: Value, length: int) -> tuple[Value, ...]:
        if not isinstance(value, tuple | list) or len(value) != length:
            raise self._wrong(f"{length} numbers", value)
        return tuple(value)

    def _stops(self, value: Value) -> Value:
        if not isinstance(value, tuple | list) or not 2 <= len(value) <= 16:
            raise self._wrong("2 to 16 gradient stops", value)
        return tuple(tuple(self._channel(part) for part in self._sequence(stop, 5)) for stop in value)

    def _curve(self, value: Value) -> Value:
        if not isinstance(value, tuple | list) or not 2 <= len(value) <= MOST_POINTS:
            raise self._wrong(f"2 to {MOST_POINTS} points", value)
        points = [self._sequence(point, 2) for point in value]
        for number in (number for point in points for number in point):
            if isinstance(number, bool) or not isinstance(number, int | float) or not 0 <= number <= 1:
                raise self._wrong("points of two numbers from 0 to 1", value)
        if any(after[0] - before[0] < NEAREST_POINTS for before, after in pairwise(points)):
            raise self._wrong("points one to the right of the other", value)
        return tuple((float(x), float(y)) for x, y in points)

    def _drawings(self, value: Value) -> Value:
        if not isinstance(value, tuple | list) or len(value) > MOST_DRAWINGS:
            raise self._wrong(f"up to {MOST_DRAWINGS} drawings", value)
        for item in value:
            source, frames = self._sequence(item, 2)
            if not isinstance(source, str) or not isinstance(frames, int) or not 1 <= frames <= LONGEST_EXPOSURE:
                raise self._wrong(f"drawings that stay for 1 to {LONGEST_EXPOSURE} frames", item)
        return tuple((source, int(frames)) for source, frames in value)

    def _text_runs(self, value: Value) -> Value:
        if not isinstance(value, tuple | list) or len(value) > MOST_RUNS:
            raise self._wrong(f"up to {MOST_RUNS} runs of letters", value)
        made = []
        for item in value:
            made.append(self._run(item))
        return tuple(made)

    def _run(self, item: Value) -> Value:
        """Return a run of letters with all its parts; one of six comes from before there were marked ones."""
        short = isinstance(item, tuple | list) and len(item) == _SHORT_RUN
        parts = self._sequence((*item, 0.0, 0.0, False) if short else item, _RUN)
        first, last, family, weight, size, colour, tracking, rise, marked = parts
        numbers = (first, last, weight, size, tracking, rise)
        if not all(isinstance(n, int | float) and not isinstance(n, bool) for n in numbers):
            raise self._wrong("runs of numbers", item)
        if not isinstance(family, str) or not isinstance(marked, bool) or not 0 <= first < last <= 20_000:
            raise self._wrong("runs from one letter to another", item)
        if not (0 <= weight <= 1000 and 1 <= size <= 1000):
            raise self._wrong("runs with a weight up to 1000 and a size of 1 to 1000 %", item)
        if not (-500 <= tracking <= 5000 and -500 <= rise <= 500):
            raise self._wrong("runs with a tracking of -500 to 5000 and a baseline of -500 to 500 %", item)
        shade = None if colour is None else tuple(self._channel(part) for part in self._sequence(colour, 4))
        sizes = (float(weight), float(size), shade, float(tracking), float(rise), marked)
        return (int(first), int(last), family, *sizes)

    def _wrong(self, wanted: str, value: Value) -> ModelError:
        return ModelError(f"{self.label} takes {wanted}, and {str(value)[:60]!r} is not that.")


def _rising(numbers: Sequence[float]) -> Value:
    """Return points of x and y by turns, cut to 0 to 1 and kept apart, as overshooting easing brings them together."""
    count, least = len(numbers) // 2, 0.0
    points = []
    for index in range(count):
        most = 1.0 - (count - 1 - index) * NEAREST_POINTS
        x = min(max(numbers[2 * index], least), most)
        least = x + NEAREST_POINTS
        points.append((x, min(max(numbers[2 * index + 1], 0.0), 1.0)))
    return tuple(points)
