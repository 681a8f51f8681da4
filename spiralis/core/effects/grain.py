"""Grain: fine noise over the picture, as film has it."""

from __future__ import annotations

import numpy as np

from spiralis.core.effects.churn import between
from spiralis.core.effects.job import EffectJob, nothing_around
from spiralis.core.effects.strips import even_numbers
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter
from spiralis.core.raster.raster import Raster

#: After so many frames the grain is the same again, so that it loops in pieces whose length it divides.
PERIODS = ("still", "each frame", "every 2nd frame", "every 3rd frame")
_EVERY = {"each frame": 1, "every 2nd frame": 2, "every 3rd frame": 3}

PARAMETERS = (
    Parameter("amount", "Amount", Kind.NUMBER, 12.0, "How strong it is", "%", 0, 100),
    Parameter("size", "Size", Kind.NUMBER, 2.5, "How coarse it is", "px", 1, 100),
    Parameter("changes", "Changes", Kind.CHOICE, "each frame", "How often it is another", choices=PERIODS),
    Parameter("after", "Same after", Kind.NUMBER, 25.0, "After so many frames it comes again, so that loops close", "f",
              1, 10_000, counts_frames=True),
    Parameter("seed", "Seed", Kind.NUMBER, 1.0, "Another number, another grain", "", 0, 9999, steady=True),
)  # fmt: skip


def _grains(job: EffectJob, size: float, seed: int) -> np.ndarray:
    """Return float32 (h, w) noise of -1 to 1: even numbers on a lattice of ``size`` layer units, mixed in between."""
    x, y = job.places()
    across, down = x[0] / size, y[:, 0] / size
    left, top = int(np.floor(across[0])), int(np.floor(down[0]))
    columns = np.arange(left, int(np.floor(across[-1])) + 2)
    rows = np.arange(top, int(np.floor(down[-1])) + 2)
    lattice = 2 * even_numbers(seed, columns[None, :] + 65_537 * rows[:, None], 7).astype(np.float32) - 1
    return between(lattice, across.astype(np.float64) - left, down.astype(np.float64) - top)


def _run(job: EffectJob) -> Raster:
    values = job.values
    every = _EVERY.get(values["changes"], 0)
    moment = int(job.frame % max(round(values["after"]), 1)) // every if every else 0
    noise = _grains(job, values["size"], 7919 * moment + int(values["seed"]))
    source = job.source_over((0, 0, 0, 0))
    pixels = source.as_float.copy()
    # As strong in the middle tones as it is wanted, and less towards black and white, as on film.
    alpha = pixels[..., 3]
    bright = np.divide(pixels[..., :3].mean(axis=-1), alpha, out=np.zeros_like(alpha), where=alpha > 0)
    room = 4 * np.clip(bright, 0.08, 0.92) * (1 - np.clip(bright, 0.08, 0.92))
    change = noise * np.float32(values["amount"] / 100) * room * alpha
    pixels[..., :3] = np.clip(pixels[..., :3] + change[..., None], 0, np.maximum(pixels[..., :3], alpha[..., None]))
    return Raster(pixels, source.space, source.corner)


register_effect(
    EffectKind(
        "grain", "Grain", "Fine noise, as film has it", "Break up", EFFECT, PARAMETERS, _run, nothing_around,
        nothing_around, varies=True, placed=True, neutral=lambda values: values["amount"] == 0,
    )
)  # fmt: skip
