"""Grow or shrink: the layer's outline moved out or in, round or square."""

from __future__ import annotations

import math
from collections.abc import Mapping

import cv2
import numpy as np

from spiralis.core.effects.edges import narrowed, widened
from spiralis.core.effects.job import EffectJob, Margins, even
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.blurring import reach, softened
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("by", "By", Kind.NUMBER, 6.0, "How far the edge moves: out above 0, in below", "px", -400, 400),
    Parameter("corners", "Corners", Kind.CHOICE, "round",
              "Round corners, or square ones by the largest and smallest values around", choices=("round", "square")),
    Parameter("softness", "Softness", Kind.NUMBER, 0.0, "How soft the new edge is: the sigma of a Gaussian", "px", 0,
              400),
)  # fmt: skip


def _reads(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    return even(*(math.ceil(abs(values["by"]) * s) + reach(values["softness"] * s) + 3 for s in scale))


def _square(pixels: np.ndarray, across: float, down: float, grows: bool) -> np.ndarray:
    """Return the largest or smallest value of each channel around each pixel (W3C ``feMorphology``).

    Radii between whole pixels mix the two next to them.
    """
    work = cv2.dilate if grows else cv2.erode
    for axis, radius in enumerate((across, down)):
        low = math.floor(radius)
        made = [
            work(pixels, np.ones((1, 2 * r + 1) if axis == 0 else (2 * r + 1, 1), np.uint8),
                 borderType=cv2.BORDER_CONSTANT, borderValue=(0, 0, 0, 0))
            for r in ((low,) if radius == low else (low, low + 1))
        ]  # fmt: skip
        pixels = made[0] if len(made) == 1 else made[0] + (made[1] - made[0]) * np.float32(radius - low)
    return pixels


def _round(pixels: np.ndarray, radius: float, grows: bool) -> np.ndarray:
    """Return pixels whose alpha reaches a radius further or less; what is new has the colour of the nearest edge."""
    alpha = np.ascontiguousarray(np.clip(pixels[..., 3], 0, 1))
    if not grows:
        less = narrowed(alpha, radius)
        return pixels * np.divide(less, alpha, out=np.zeros_like(alpha), where=alpha > 0)[..., None]
    more = widened(alpha, radius)
    clear = np.ascontiguousarray(alpha < 0.5).astype(np.uint8)
    if clear.all():
        return pixels
    _, labels = cv2.distanceTransformWithLabels(clear, cv2.DIST_L2, cv2.DIST_MASK_5, labelType=cv2.DIST_LABEL_PIXEL)
    solid = np.flatnonzero(clear.reshape(-1) == 0)
    nearest = np.zeros(labels.max() + 1, dtype=np.int64)
    nearest[labels.reshape(-1)[solid]] = solid
    flat = pixels.reshape(-1, 4)
    straight = flat[:, :3] / np.maximum(flat[:, 3:], 1e-6)
    new = np.empty_like(pixels)
    new[..., :3] = straight[nearest[labels]] * more[..., None]
    new[..., 3] = more
    # What is dense already keeps its own colours; a soft edge is mixed with what comes beneath it.
    return pixels + new * np.divide(more - alpha, more, out=np.zeros_like(more), where=more > 0)[..., None]


def _run(job: EffectJob) -> Raster:
    values, (sx, sy) = job.values, job.scale
    read = job.source_over(_reads(values, job.scale))
    by, grows = abs(values["by"]), values["by"] > 0
    if values["corners"] == "square":
        made = _square(read.as_float, by * sx, by * sy, grows)
    else:
        made = _round(read.as_float, by * (sx + sy) / 2, grows)
    if values["softness"] > 0:
        made = softened(made, values["softness"] * sx, values["softness"] * sy, read.corner)
    return job.result(made, read.corner)


register_effect(
    EffectKind(
        "grow-shrink", "Grow or shrink", "Moves the outline out or in, with a soft edge where wished", "Soften", EFFECT,
        PARAMETERS, _run, _reads, _reads, neutral=lambda values: values["by"] == 0 and values["softness"] == 0,
    )
)  # fmt: skip
