"""Lengths, colours, transforms and view boxes as SVG writes them."""

from __future__ import annotations

import math
import re

from spiralis.core.colour import Colour
from spiralis.core.geometry import Affine

_NUMBER = r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?"
_LENGTH = re.compile(rf"\s*({_NUMBER})\s*(px|pt|pc|mm|cm|in|em|rem|ex|ch|q|%)?\s*$", re.IGNORECASE)
_FUNCTION = re.compile(r"\s*,?\s*([a-zA-Z]+)\s*\(([^)]*)\)")
_UNITS = {"px": 1.0, "pt": 4 / 3, "pc": 16.0, "mm": 96 / 25.4, "cm": 96 / 2.54, "in": 96.0, "q": 96 / 101.6}
HUGE = 1e7


def numbers_in(text: str) -> list[float]:
    """Return all numbers in a text."""
    return [_bounded(float(match)) for match in re.findall(_NUMBER, text)]


def _bounded(value: float) -> float:
    return min(max(value, -HUGE), HUGE) if math.isfinite(value) else 0.0


def length(text: str | None, default: float = 0.0, whole: float = 100.0, em: float = 16.0) -> float:
    """Return a length in px; ``whole`` is what 100 % stands for (CSS Values 4, section 6)."""
    match = _LENGTH.match(text) if text else None
    if match is None:
        return default
    value, unit = float(match[1]), (match[2] or "px").lower()
    if unit == "%":
        return _bounded(value * whole / 100)
    if unit in ("em", "rem"):
        return _bounded(value * em)
    if unit in ("ex", "ch"):
        return _bounded(value * em / 2)
    return _bounded(value * _UNITS[unit])


def share(text: str | None, default: float = 1.0) -> float:
    """Return a number or percentage from 0 to 1."""
    return min(max(length(text, default, 1.0), 0.0), 1.0)


def colour(text: str, current: Colour = (0.0, 0.0, 0.0, 1.0)) -> Colour | None:
    """Return a CSS colour as sRGB, or None where the text is none (CSS Color 4)."""
    text = text.strip()
    if text.lower() == "currentcolor":
        return current
    try:
        # Its parent would be loaded with the window, were it imported above.
        from tinycss2.color4 import parse_color

        parsed = parse_color(text)
        if parsed is None or parsed == "currentcolor":
            return None
        red, green, blue = (min(max(float(v or 0.0), 0.0), 1.0) for v in parsed.to("srgb").coordinates)
        return red, green, blue, min(max(float(parsed.alpha), 0.0), 1.0)
    except (ValueError, TypeError, AttributeError, NotImplementedError):
        return None


def transform(text: str | None) -> Affine:
    """Return a list of transform functions as one map; broken ones count as none."""
    total = Affine()
    for match in _FUNCTION.finditer(text or ""):
        numbers, name = numbers_in(match[2]), match[1].lower()
        step = _step(name, numbers, match[2])
        if step is None:
            return Affine()
        total = total @ step
    return total


def _step(name: str, n: list[float], text: str) -> Affine | None:
    turn = 57.29577951308232 if "rad" in text and "grad" not in text else 360.0 if "turn" in text else 1.0
    if name == "matrix" and len(n) == 6:
        return Affine(*n)
    if name in ("translate", "translatex") and n:
        return Affine.shift(n[0], n[1] if len(n) > 1 else 0.0)
    if name == "translatey" and n:
        return Affine.shift(0.0, n[0])
    if name == "scale" and n:
        return Affine.scaling(n[0], n[1] if len(n) > 1 else n[0])
    if name == "rotate" and n:
        if len(n) >= 3:
            return Affine.shift(n[1], n[2]) @ Affine.rotation(n[0]) @ Affine.shift(-n[1], -n[2])
        return Affine.rotation(n[0] * turn)
    if name == "skewx" and n:
        return Affine.skewing(n[0] * turn, 0.0)
    if name == "skewy" and n:
        return Affine.skewing(0.0, n[0] * turn)
    return None


def view_box(text: str | None) -> tuple[float, float, float, float] | None:
    """Return (x, y, width, height), or None where it is missing or empty."""
    numbers = numbers_in(text or "")
    return (numbers[0], numbers[1], numbers[2], numbers[3]) if len(numbers) == 4 and min(numbers[2:]) > 0 else None


def fitted(
    box: tuple[float, float, float, float], aspect: str | None, size: tuple[float, float]
) -> tuple[Affine, bool]:
    """Return the map from a view box to a (0, 0, width, height) port, and whether it slices (SVG 2, section 8.2)."""
    x, y, width, height = box
    words = (aspect or "xMidYMid meet").split()
    align = words[0] if words else "xMidYMid"
    sx, sy = size[0] / width, size[1] / height
    slices = len(words) > 1 and words[1] == "slice"
    if align != "none":
        sx = sy = max(sx, sy) if slices else min(sx, sy)
    share_x = 0.0 if "xMin" in align or align == "none" else 1.0 if "xMax" in align else 0.5
    share_y = 0.0 if "YMin" in align or align == "none" else 1.0 if "YMax" in align else 0.5
    left, top = share_x * (size[0] - sx * width), share_y * (size[1] - sy * height)
    return Affine.shift(left, top) @ Affine.scaling(sx, sy) @ Affine.shift(-x, -y), slices
