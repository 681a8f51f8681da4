"""Flow together: what comes near runs into one another like drops, and corners round off."""

from __future__ import annotations

from collections.abc import Mapping

import cv2
import numpy as np

from spiralis.core.effects.job import EffectJob, Margins, even
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.blurring import reach, softened
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("reach", "Reach", Kind.NUMBER, 10.0, "From how far things run into one another: the sigma of a Gaussian "
              "whose contour becomes their edge", "px", 0, 400),
    Parameter("fullness", "Fullness", Kind.NUMBER, 0.0, "Thinner below 0, until small things are gone; thicker above",
              "%", -90, 90),
)  # fmt: skip
#: Below this part of the steepest that a straight edge has under the blur, what lies about the contour is flat: its
#: edge is drawn as soft as one there, and no wider.
_FLAT = 0.05


def _reads(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    return even(*(reach(values["reach"] * s) + 2 for s in scale))


def contoured(field: np.ndarray, level: float, sigma: float) -> np.ndarray:
    """Return how much of each pixel of a smooth field, float32 (h, w), lies above a level, 0 to 1.

    The field is taken for a plane within a pixel, so that the contour is a straight edge there.
    """
    across, down = (cv2.Scharr(field, cv2.CV_32F, *axes, scale=1 / 32) for axes in ((1, 0), (0, 1)))
    steepest = 1 / (max(sigma, 0.4) * np.sqrt(2 * np.pi))
    slope = np.maximum(cv2.magnitude(across, down), np.float32(_FLAT * steepest))
    return np.clip((field - np.float32(level)) / slope + np.float32(0.5), 0, 1)


def _run(job: EffectJob) -> Raster:
    values, (sx, sy) = job.values, job.scale
    read = job.source_over(_reads(values, job.scale))
    pixels = read.as_float
    soft = softened(pixels, values["reach"] * sx, values["reach"] * sy, read.corner)
    cover = contoured(soft[..., 3], 0.5 - values["fullness"] / 200, values["reach"] * (sx + sy) / 2)
    # Where there is something it keeps its colours; where there is less, those around it run in.
    colours = soft[..., :3] / np.maximum(soft[..., 3:], np.float32(1e-6))
    made = np.empty_like(pixels)
    made[..., :3] = (pixels[..., :3] + colours * (1 - np.clip(pixels[..., 3:], 0, 1))) * cover[..., None]
    made[..., 3] = cover
    return job.result(made, read.corner)


register_effect(
    EffectKind(
        "flow-together", "Flow together", "What comes near runs into one another like drops; corners round off",
        "Soften", EFFECT, PARAMETERS, _run, _reads, _reads, neutral=lambda values: values["reach"] <= 0,
    )
)  # fmt: skip
