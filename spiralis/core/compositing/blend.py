"""Blend whole pictures. The renderer itself blends row by row with the same kernels."""

from __future__ import annotations

import numpy as np

from spiralis.core.compositing.kernels import blending
from spiralis.core.errors import ModelError, UnknownName
from spiralis.core.model.kinds import BLEND_MODES, REACHING_MODES

MODE_NUMBERS = {name: number for number, name in enumerate(BLEND_MODES)}

#: The numbers of modes that act where the picture itself shows nothing, too.
REACHING = frozenset(MODE_NUMBERS[mode] for mode in REACHING_MODES)


def mode_number(mode: str) -> int:
    """Return the kernel's number of a W3C blend mode; raises UnknownName listing the known ones."""
    try:
        return MODE_NUMBERS[mode]
    except KeyError:
        raise UnknownName(f"There is no blend mode “{mode}”; there are {', '.join(BLEND_MODES)}.") from None


def blend(mode: str, source: np.ndarray, backdrop: np.ndarray) -> np.ndarray:
    """Blend premultiplied sRGB pictures of one shape (..., 4) and return float32; inputs stay as they are.

    Source of the formulas: W3C, *Compositing and Blending Level 1*.

    Raises:
        UnknownName: no such mode.
        ModelError: the shapes differ or are not (..., 4).
    """
    number = mode_number(mode)
    if source.shape != backdrop.shape or source.shape[-1:] != (4,):
        raise ModelError(f"Pictures to blend share a shape (..., 4), and {source.shape}, {backdrop.shape} do not.")
    result = np.array(backdrop, dtype=np.float32, order="C")
    flat = np.ascontiguousarray(source, dtype=np.float32).reshape(-1)
    blending.blend_row(number, flat, result.reshape(-1))
    return result
