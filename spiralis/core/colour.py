"""Colour: hex text, the sRGB transfer function, OKLab.

Colours are tuples ``(red, green, blue, alpha)``, sRGB-encoded, straight alpha, nominally 0 to 1.
"""

from __future__ import annotations

import colorsys
import math
import re

import numpy as np

from spiralis.core.errors import ModelError

Colour = tuple[float, float, float, float]
#: How much of red, green and blue is left of colours in the light.
Shade = tuple[float, float, float]

_TO_LMS = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
_TO_LAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)
_FROM_LMS = np.linalg.inv(_TO_LMS)
_FROM_LAB = np.linalg.inv(_TO_LAB)


def parse_hex(text: str) -> Colour:
    """Read ``#rgb``, ``#rgba``, ``#rrggbb`` or ``#rrggbbaa`` (the hash may be missing).

    Raises:
        ModelError: the text is none of these.
    """
    digits = text.strip().lstrip("#")
    if not re.fullmatch(r"[0-9a-fA-F]{3,4}|[0-9a-fA-F]{6}|[0-9a-fA-F]{8}", digits):
        raise ModelError(f"“{text}” is not a colour; write it as #rrggbb.")
    if len(digits) <= 4:
        digits = "".join(digit * 2 for digit in digits)
    values = [int(digits[i : i + 2], 16) / 255 for i in range(0, len(digits), 2)]
    return (values[0], values[1], values[2], values[3] if len(values) == 4 else 1.0)


def to_hex(colour: Colour) -> str:
    """Return ``#rrggbb``, or ``#rrggbbaa`` where the colour is not opaque."""
    values = [round(min(max(v, 0.0), 1.0) * 255) for v in colour]
    if values[3] == 255:
        values = values[:3]
    return "#" + "".join(f"{v:02x}" for v in values)


def srgb_to_linear(encoded: np.ndarray) -> np.ndarray:
    """Decode sRGB (IEC 61966-2-1), mirrored about zero for negative values."""
    size = np.abs(encoded)
    return np.sign(encoded) * np.where(size <= 0.04045, size / 12.92, ((size + 0.055) / 1.055) ** 2.4)


def linear_to_srgb(linear: np.ndarray) -> np.ndarray:
    """Encode sRGB (IEC 61966-2-1), mirrored about zero for negative values."""
    size = np.abs(linear)
    return np.sign(linear) * np.where(size <= 0.0031308, size * 12.92, 1.055 * size ** (1 / 2.4) - 0.055)


def srgb_to_oklab(encoded: np.ndarray) -> np.ndarray:
    """Convert (..., 3) sRGB-encoded to OKLab (CSS Color 4, section 9.3)."""
    return np.cbrt(srgb_to_linear(encoded) @ _TO_LMS.T) @ _TO_LAB.T


def oklab_to_srgb(lab: np.ndarray) -> np.ndarray:
    """Convert (..., 3) OKLab to sRGB-encoded; colours outside sRGB leave [0, 1]."""
    return linear_to_srgb((lab @ _FROM_LAB.T) ** 3 @ _FROM_LMS.T)


def mix(start: np.ndarray, end: np.ndarray, progress: np.ndarray) -> np.ndarray:
    """Mix straight-alpha colours (n, 4) in OKLab with premultiplied alpha (CSS Color 4, section 12.3).

    ``progress`` has shape (n,) and may leave [0, 1]; the result is clipped to valid colours.
    """
    weight = progress[:, None]
    alpha = (1 - weight) * start[:, 3:] + weight * end[:, 3:]
    lab = (1 - weight) * start[:, 3:] * srgb_to_oklab(start[:, :3]) + weight * end[:, 3:] * srgb_to_oklab(end[:, :3])
    solid = alpha > 1e-9
    straight = np.where(solid, lab / np.where(solid, alpha, 1.0), srgb_to_oklab(start[:, :3]))
    result = np.concatenate([oklab_to_srgb(straight), alpha], axis=1)
    result = np.where(weight == 0, start, np.where(weight == 1, end, result))
    return np.clip(result, 0.0, 1.0)


def to_oklch(colour: Colour) -> tuple[float, float, float]:
    """Return lightness 0 to 1, chroma and hue in degrees (CSS Color 4, section 9.4); greys have hue 0."""
    lightness, a, b = srgb_to_oklab(np.array(colour[:3])).tolist()
    chroma = math.hypot(a, b)
    return lightness, chroma, math.degrees(math.atan2(b, a)) % 360 if chroma > 1e-5 else 0.0


def from_oklch(lightness: float, chroma: float, hue: float, alpha: float = 1.0) -> Colour:
    """Return the colour; chroma is lowered until sRGB can show it (CSS Color 4, section 13.2, by bisection)."""
    angle = math.radians(hue)
    direction = np.array([math.cos(angle), math.sin(angle)])

    def at(share: float) -> np.ndarray:
        return oklab_to_srgb(np.concatenate([[lightness], share * direction]))

    low, high = 0.0, chroma
    if not _shown(at(chroma)):
        for _ in range(24):
            middle = (low + high) / 2
            low, high = (middle, high) if _shown(at(middle)) else (low, middle)
        chroma = low
    r, g, b = np.clip(at(chroma), 0.0, 1.0).tolist()
    return r, g, b, alpha


def _shown(encoded: np.ndarray) -> bool:
    return bool(np.all(encoded >= -1e-4) and np.all(encoded <= 1 + 1e-4))


def to_hsl(colour: Colour) -> tuple[float, float, float]:
    """Return hue in degrees, saturation and lightness 0 to 1 (CSS Color 4, section 7)."""
    hue, lightness, saturation = colorsys.rgb_to_hls(*(min(max(v, 0.0), 1.0) for v in colour[:3]))
    return hue * 360, saturation, lightness


def from_hsl(hue: float, saturation: float, lightness: float, alpha: float = 1.0) -> Colour:
    """Return the colour of a hue in degrees, saturation and lightness 0 to 1 (CSS Color 4, section 7)."""
    r, g, b = colorsys.hls_to_rgb(hue / 360 % 1, lightness, saturation)
    return r, g, b, alpha


def luminance(colour: Colour) -> float:
    """Return the relative luminance, 0 to 1 (WCAG 2.2)."""
    return float(srgb_to_linear(np.clip(np.array(colour[:3]), 0.0, 1.0)) @ np.array([0.2126, 0.7152, 0.0722]))


def contrast_ratio(first: Colour, second: Colour) -> float:
    """Return how far two solid colours stand apart, 1 to 21 (WCAG 2.2)."""
    return contrast_of(luminance(first), luminance(second))


def contrast_of(first: float, second: float) -> float:
    """Return how far two relative luminances stand apart, 1 to 21 (WCAG 2.2)."""
    return (max(first, second) + 0.05) / (min(first, second) + 0.05)
