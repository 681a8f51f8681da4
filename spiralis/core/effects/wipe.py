"""Wipe: the layer shown, or hidden, along a front that moves over it."""

from __future__ import annotations

import math

import numpy as np

from spiralis.core.effects.channels import shown_as_far_as
from spiralis.core.effects.churn import field
from spiralis.core.effects.job import EffectJob, nothing_around
from spiralis.core.effects.remapping import CENTRE
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter
from spiralis.core.raster.raster import Raster

FRONTS = ("line", "clock", "circle", "clouds")

PARAMETERS = (
    Parameter("shown", "Shown", Kind.NUMBER, 50.0, "How much of the layer shows", "%", 0, 100),
    Parameter("front", "Front", Kind.CHOICE, "line",
              "A straight line, a hand that goes round, a circle that opens, or clouds", choices=FRONTS),
    Parameter("angle", "Angle", Kind.NUMBER, 0.0, "Where the line moves to (0° right, 90° down); where the hand begins",
              "°", -36_000, 36_000, needs=("front", ("line", "clock"))),
    Parameter("softness", "Softness", Kind.NUMBER, 10.0, "How soft the front is", "%", 0, 100),
    Parameter("inverted", "Inverted", Kind.SWITCH, False, "What shows and what is hidden change places"),
    CENTRE,
    Parameter("grain", "Grain", Kind.NUMBER, 120.0, "How large the clouds are", "px", 4, 10_000,
              needs=("front", ("clouds",))),
    Parameter("seed", "Seed", Kind.NUMBER, 1.0, "Another number, other clouds", "", 0, 9999, steady=True,
              needs=("front", ("clouds",))),
)  # fmt: skip


def reached(job: EffectJob) -> np.ndarray:
    """Return when the front comes to each pixel of the region: float (h, w) or broadcastable, 0 to 1."""
    values, (x, y), (left, top, right, bottom) = job.values, job.places(), job.box
    (cx, cy), angle = job.point("centre"), math.radians(values["angle"])
    match values["front"]:
        case "line":
            places, first, last = job.along(values["angle"])
            return np.asarray((places - first) / max(last - first, 1e-6))
        case "clock":
            return np.mod((np.arctan2(x - cx, cy - y) - angle) / (2 * math.pi), 1.0)
        case "circle":
            far = max(math.hypot(px - cx, py - cy) for px in (left, right) for py in (top, bottom))
            return np.hypot(x - cx, y - cy) / max(far, 1e-6)
    noise = field(job, values["grain"], 4, (0.0, 0.0), 0.0, int(values["seed"]))
    return np.clip(0.5 + 0.9 * noise, 0, 1)


def _run(job: EffectJob) -> Raster:
    # A front of no softness still is a pixel wide, so that its edge is smooth.
    size = max(job.box[2] - job.box[0], job.box[3] - job.box[1], 1e-6) * min(job.scale)
    soft = max(job.values["softness"] / 100, 1.0 / max(size, 1.0))
    shown = job.values["shown"] / 100
    share = np.clip((shown * (1 + soft) - reached(job)) / soft, 0, 1)
    if job.values["inverted"]:
        share = 1 - share
    return shown_as_far_as(job, share)


register_effect(
    EffectKind(
        "wipe", "Wipe", "Shows or hides along a front", "Reveal", EFFECT, PARAMETERS, _run, nothing_around,
        nothing_around, placed=True,
        neutral=lambda values: values["shown"] == (0 if values["inverted"] else 100),
    )
)  # fmt: skip
