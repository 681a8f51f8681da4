"""Easing functions between two keys, as CSS defines them.

Source: W3C, *CSS Easing Functions Level 2*. Every easing maps an input progress in [0, 1] to an output
progress (which may leave [0, 1]) and can be written as, and read from, its CSS text.
"""

from __future__ import annotations

import math
import re
from bisect import bisect_right
from functools import lru_cache
from typing import ClassVar

import numpy as np
from attrs import field, frozen

from spiralis.core.animation.kernels import solving
from spiralis.core.errors import ModelError

Progress = float | np.ndarray

#: Decimals that made-up handles are rounded to.
DIGITS = 6


@frozen
class Easing:
    """Base of all easings: callable on a float or an array of input progress."""

    def __call__(self, progress: Progress) -> Progress:
        """Return the output progress, float for float and float64 array for array, any shape."""
        values = np.asarray(progress, dtype=np.float64)
        result = self.solve(np.atleast_1d(values)).reshape(values.shape)
        return result if isinstance(progress, np.ndarray) else float(result)

    def solve(self, progress: np.ndarray) -> np.ndarray:
        """Map a float64 array of shape (n,)."""
        raise NotImplementedError

    def solve_one(self, progress: float) -> float:
        """Map a single number by the same sums."""
        return float(self.solve(np.array([progress]))[0])

    def css(self) -> str:
        """Return the CSS text; ``Easing.from_css`` reads it back to an equal easing."""
        raise NotImplementedError

    def reversed_in_time(self) -> Easing:
        """Return the easing of the same segment played backwards: ``1 - f(1 - t)``."""
        raise NotImplementedError

    @staticmethod
    def from_css(text: str) -> Easing:
        """Read a CSS easing function: a keyword, ``cubic-bezier()``, ``linear()`` or ``steps()``.

        Raises:
            ModelError: the text is none of these, or its numbers are out of range.
        """
        return _parse(text)


def _number_text(value: float) -> str:
    """Write a number as CSS does when minified: 0.5 is ``.5``; with all its digits where six do not say it exactly."""
    text = f"{value:.{DIGITS}g}"
    text = text if float(text) == value else repr(value)
    return text.replace("0.", ".", 1) if text.startswith(("0.", "-0.")) else text


def _fraction(instance: object, attribute: object, value: float) -> None:
    if not 0.0 <= value <= 1.0:
        raise ModelError(f"The x of a cubic-bezier handle lies between 0 and 1, and {value:g} does not.")


def _finite(instance: object, attribute: object, value: float) -> None:
    if not np.isfinite(value) or abs(value) > 1e4:
        raise ModelError(f"The y of a cubic-bezier handle lies within 10000 of 0, and {value:g} does not.")


@frozen
class CubicBezier(Easing):
    """``cubic-bezier(x1, y1, x2, y2)``; x within [0, 1], y free."""

    x1: float = field(converter=float, validator=_fraction)
    y1: float = field(converter=float, validator=_finite)
    x2: float = field(converter=float, validator=_fraction)
    y2: float = field(converter=float, validator=_finite)

    def solve(self, progress: np.ndarray) -> np.ndarray:
        """Solve x(s) = progress, then take y(s); outside [0, 1] go on along the end tangents, as the standard says."""
        inside = np.clip(progress, 0.0, 1.0)
        result = np.empty_like(inside)
        handles = np.array([[self.x1, self.y1, self.x2, self.y2]])
        solving.solve_segments(handles, np.zeros(len(inside), dtype=np.intp), inside, result)
        start, end = self._end_slopes()
        before, after = progress < 0.0, progress > 1.0
        result[before] = start * progress[before]
        result[after] = 1.0 + end * (progress[after] - 1.0)
        return result

    def _end_slopes(self) -> tuple[float, float]:
        if self.x1 > 0:
            start = self.y1 / self.x1
        elif self.y1 == 0 and self.x2 > 0:
            start = self.y2 / self.x2
        else:
            start = 1.0 if self.y1 == 0 and self.y2 == 0 else 0.0
        if self.x2 < 1:
            end = (self.y2 - 1) / (self.x2 - 1)
        elif self.y2 == 1 and self.x1 < 1:
            end = (self.y1 - 1) / (self.x1 - 1)
        else:
            end = 1.0 if self.y2 == 1 and self.y1 == 1 else 0.0
        return start, end

    def css(self) -> str:
        """Return e.g. ``cubic-bezier(.2, 0, 0, 1)``; the straight line is ``linear``."""
        if (self.x1, self.y1) == (self.x2, self.y2) == (0.0, 0.0) or self == LINEAR:
            return "linear"
        return "cubic-bezier({})".format(", ".join(map(_number_text, (self.x1, self.y1, self.x2, self.y2))))

    def reversed_in_time(self) -> CubicBezier:
        """Swap and mirror the handles."""
        return CubicBezier(*(round(1 - part, DIGITS) for part in (self.x2, self.y2, self.x1, self.y1)))


@frozen
class LinearPoints(Easing):
    """``linear(...)``: straight pieces through (input, output) points, inputs never falling."""

    points: tuple[tuple[float, float], ...]

    def __attrs_post_init__(self) -> None:
        if len(self.points) < 2:
            raise ModelError(f"linear() needs at least two points, and it got {len(self.points)}.")

    def solve(self, progress: np.ndarray) -> np.ndarray:
        """Interpolate; where points share an input the last one wins; ends go on along their slope."""
        inputs = np.array([p[0] for p in self.points])
        outputs = np.array([p[1] for p in self.points])
        right = np.clip(np.searchsorted(inputs, progress, side="right"), 1, len(inputs) - 1)
        span = inputs[right] - inputs[right - 1]
        share = np.where(span > 0, (progress - inputs[right - 1]) / np.where(span > 0, span, 1.0), 1.0)
        return outputs[right - 1] + share * (outputs[right] - outputs[right - 1])

    def solve_one(self, progress: float) -> float:
        """Do the same without arrays."""
        points = self.points
        right = min(max(bisect_right(points, progress, key=lambda point: point[0]), 1), len(points) - 1)
        (x0, y0), (x1, y1) = points[right - 1], points[right]
        share = (progress - x0) / (x1 - x0) if x1 > x0 else 1.0
        return y0 + share * (y1 - y0)

    def css(self) -> str:
        """Return ``linear(0, 0.5 30%, 1)``."""
        parts = [f"{_number_text(y)} {_number_text(100 * x)}%" for x, y in self.points]
        return f"linear({', '.join(parts)})"

    def reversed_in_time(self) -> LinearPoints:
        """Mirror the points about (0.5, 0.5)."""
        return LinearPoints(tuple((1 - x, 1 - y) for x, y in reversed(self.points)))


@frozen
class Steps(Easing):
    """``steps(count, position)``. ``steps(1, end)`` is a hold."""

    count: int
    position: str = "end"

    POSITIONS: ClassVar[dict[str, str]] = {
        "start": "start", "end": "end", "jump-start": "start", "jump-end": "end",
        "jump-none": "jump-none", "jump-both": "jump-both",
    }  # fmt: skip

    def __attrs_post_init__(self) -> None:
        if self.position not in self.POSITIONS:
            raise ModelError(f"steps() knows start, end, jump-none and jump-both, and not “{self.position}”.")
        least = 2 if self.position == "jump-none" else 1
        if not least <= self.count <= 10_000:
            raise ModelError(f"steps() takes {least} to 10000 steps, and {self.count} is outside that.")

    def solve(self, progress: np.ndarray) -> np.ndarray:
        """Follow section 2.3 of the standard, without the before flag."""
        step = np.floor(progress * self.count + 1e-12)
        if self.position in ("start", "jump-both"):
            step = step + 1
        jumps = self.count + {"jump-both": 1, "jump-none": -1}.get(self.position, 0)
        step = np.where(progress >= 0, np.maximum(step, 0), step)
        step = np.where(progress <= 1, np.minimum(step, jumps), step)
        return step / jumps

    def solve_one(self, progress: float) -> float:
        """Do the same without arrays."""
        step = math.floor(progress * self.count + 1e-12) + (self.position in ("start", "jump-both"))
        jumps = self.count + {"jump-both": 1, "jump-none": -1}.get(self.position, 0)
        step = max(step, 0) if progress >= 0 else step
        return (min(step, jumps) if progress <= 1 else step) / jumps

    def css(self) -> str:
        """Return e.g. ``steps(4, end)``."""
        return f"steps({self.count}, {self.position})"

    def reversed_in_time(self) -> Steps:
        """Jump at the other end of each step."""
        other = {"start": "end", "end": "start"}.get(self.position, self.position)
        return Steps(self.count, other)


LINEAR = CubicBezier(0, 0, 1, 1)
HOLD = Steps(1, "end")

KEYWORDS: dict[str, Easing] = {
    "linear": LINEAR,
    "ease": CubicBezier(0.25, 0.1, 0.25, 1.0),
    "ease-in": CubicBezier(0.42, 0, 1, 1),
    "ease-out": CubicBezier(0, 0, 0.58, 1),
    "ease-in-out": CubicBezier(0.42, 0, 0.58, 1),
    "step-start": Steps(1, "start"),
    "step-end": HOLD,
    "hold": HOLD,
}


def from_softness(start: float, stop: float) -> CubicBezier:
    """Return the easing of a start and a stop softness in percent, 0 to 100."""
    x1, x2 = min(max(start, 0), 100) / 100, 1 - min(max(stop, 0), 100) / 100
    return CubicBezier(round(x1, DIGITS), 0, round(x2, DIGITS), 1)


@lru_cache(maxsize=4096)  # A project has many keys and few easings.
def _parse(text: str) -> Easing:
    cleaned = text.strip().rstrip(";").lower()
    if cleaned in KEYWORDS:
        return KEYWORDS[cleaned]
    match = re.fullmatch(r"([a-z-]+)\s*\((.*)\)", cleaned, re.DOTALL)
    readers = {"cubic-bezier": _parse_bezier, "linear": _parse_linear, "steps": _parse_steps}
    if match and match[1] in readers:
        return readers[match[1]]([part.strip() for part in match[2].split(",")], text)
    raise _unreadable(text)


def _unreadable(text: str) -> ModelError:
    return ModelError(
        f"“{text.strip()[:60]}” is not a CSS easing; write for example cubic-bezier(0.2, 0, 0, 1), "
        "linear(0, 0.5 30%, 1), steps(4, end) or ease-in-out."
    )


def _parse_number(text: str, whole: str) -> float:
    try:
        value = float(text)
    except ValueError:
        raise _unreadable(whole) from None
    if not np.isfinite(value):
        raise _unreadable(whole)
    return value


def _parse_bezier(parts: list[str], whole: str) -> Easing:
    if len(parts) != 4:
        raise _unreadable(whole)
    return CubicBezier(*(_parse_number(part, whole) for part in parts))


def _parse_steps(parts: list[str], whole: str) -> Easing:
    if len(parts) not in (1, 2) or not re.fullmatch(r"\d{1,6}", parts[0]):
        raise _unreadable(whole)
    position = parts[1] if len(parts) == 2 else "end"
    return Steps(int(parts[0]), Steps.POSITIONS.get(position, position))


def _parse_linear(parts: list[str], whole: str) -> Easing:
    """Read the point list and fill in missing inputs, as section 2.2 of the standard does."""
    outputs: list[float] = []
    inputs: list[float | None] = []
    for part in parts:
        words = part.split()
        percents = [w for w in words if w.endswith("%")]
        numbers = [w for w in words if not w.endswith("%")]
        if len(numbers) != 1 or len(percents) > 2:
            raise _unreadable(whole)
        places: list[str | None] = [*percents] or [None]
        for percent in places:
            outputs.append(_parse_number(numbers[0], whole))
            inputs.append(None if percent is None else _parse_number(percent[:-1], whole) / 100)
    if len(outputs) < 2:
        raise _unreadable(whole)
    return LinearPoints(tuple(zip(_fill_inputs(inputs), outputs, strict=True)))


def _fill_inputs(inputs: list[float | None]) -> list[float]:
    inputs[0] = 0.0 if inputs[0] is None else inputs[0]
    inputs[-1] = 1.0 if inputs[-1] is None else inputs[-1]
    largest = -np.inf
    for index, value in enumerate(inputs):
        if value is not None:
            largest = max(largest, value)
            inputs[index] = largest
    known = [(i, value) for i, value in enumerate(inputs) if value is not None]
    filled = np.interp(range(len(inputs)), [i for i, _ in known], [value for _, value in known])
    return [float(value) for value in filled]
