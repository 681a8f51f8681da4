"""Point-wise colour changes as small matrices, so that several become one pass over the pixels."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from spiralis.core.colour import Colour
from spiralis.core.compositing.kernels import colouring
from spiralis.core.effects.job import EffectJob
from spiralis.core.raster.raster import Raster

#: BT.709 weights of red, green and blue (W3C Filter Effects, ``saturate`` and ``grayscale``).
LUMA = np.array([0.2126, 0.7152, 0.0722])


def step(matrix: np.ndarray, offset: Sequence[float] = (0.0, 0.0, 0.0)) -> np.ndarray:
    """Return one colour step: straight colour c becomes ``matrix @ c + offset``; alpha stays.

    Args:
        matrix: (3, 3).
        offset: three numbers.

    Returns:
        float64 (4, 4) on premultiplied red, green, blue, alpha: there the offset counts times alpha.
    """
    whole = np.eye(4)
    whole[:3, :3] = matrix
    whole[:3, 3] = offset
    return whole


def graded(saturation: float, brightness: float, contrast: float) -> np.ndarray:
    """Return the step that multiplies by a brightness, then saturates, then stretches about middle grey (1 = as is)."""
    grey = np.tile(LUMA, (3, 1))
    vivid = grey + (np.eye(3) - grey) * saturation
    return step(vivid * (brightness * contrast), [0.5 - 0.5 * contrast] * 3)


def packed(steps: Sequence[np.ndarray]) -> np.ndarray:
    """Return steps as the kernel takes them: float32, four columns of four a step."""
    return np.ascontiguousarray(np.concatenate([s.T.reshape(-1) for s in steps]), dtype=np.float32)


def by_steps(steps: Callable[..., Sequence[np.ndarray]]) -> Callable[[EffectJob], Raster]:
    """Return what runs an effect that is nothing but the colour steps of its values."""

    def run(job: EffectJob) -> Raster:
        return Raster(coloured(job.source.as_float, steps(job.values)), job.source.space, job.source.corner)

    return run


def mixed_towards(picture: Raster, colour: Colour, share: np.ndarray) -> Raster:
    """Return a picture mixed with a straight colour, each pixel by its share, (h, w) of 0 to 1, times the colour's
    alpha; how opaque it is stays."""
    pixels = picture.as_float
    out = np.empty_like(pixels)
    part = np.ascontiguousarray(share * colour[3], dtype=np.float32)
    colouring.mix_towards(pixels, np.array(colour[:3], dtype=np.float32), part, out)
    return Raster(out, picture.space, picture.corner)


def coloured(pixels: np.ndarray, steps: Sequence[np.ndarray]) -> np.ndarray:
    """Return premultiplied float32 (h, w, 4) pixels changed by steps in order; nothing falls below zero."""
    out = np.array(pixels, dtype=np.float32, order="C")
    if len(steps):
        colouring.colour_pixels(out.reshape(-1), packed(steps), len(steps))
    return out
