"""Gaussian blur of premultiplied pixels."""

from __future__ import annotations

import math

import numpy as np

from spiralis.core.raster.kernels.blurring import blur_rows

#: Above this sigma, in pixels, a picture is better drawn smaller, blurred, and enlarged as it is sampled.
WIDEST = 8.0
#: Linear enlarging by a whole factor is itself a blur: in pixels of the small picture it adds this variance.
_ENLARGING = 1 / 6


def reduction_for(sigma: float) -> int:
    """Return how often to halve a picture so that a blur of ``sigma`` pixels stays quick."""
    return max(0, math.ceil(math.log2(sigma / WIDEST))) if sigma > WIDEST else 0


def blurred(pixels: np.ndarray, sigma_x: float, sigma_y: float, enlarged: bool = False) -> np.ndarray:
    """Return uint8 or float32 (h, w, 4) pixels blurred by Gaussians of these sigmas, float32 from 0 to 1.

    ``enlarged`` takes off the blur that bilinear enlarging will add.
    """
    scale = np.float32(1 / 255 if pixels.dtype == np.uint8 else 1)
    image = np.ascontiguousarray(pixels, dtype=np.float32) * scale
    for sigma in (sigma_x, sigma_y):
        turned = np.empty((image.shape[1], image.shape[0], 4), dtype=np.float32)
        blur_rows(image, _weights(math.sqrt(max(sigma**2 - (_ENLARGING if enlarged else 0), 0.0))), turned)
        image = turned
    return image


def _weights(sigma: float) -> np.ndarray:
    """Return the shares of a Gaussian that fall on each pixel, out to 3.5 sigma, adding up to 1."""
    if sigma < 1e-3:
        return np.ones(1, dtype=np.float32)
    radius = math.ceil(3.5 * sigma)
    edges = [math.erf((k - 0.5) / (sigma * math.sqrt(2))) for k in range(-radius, radius + 2)]
    weights = np.diff(edges)
    return (weights / weights.sum()).astype(np.float32)
