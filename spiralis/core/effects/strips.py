"""Strips: the layer cut into strips that shift, each by its own seeded share."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from spiralis.core.effects.job import EffectJob, Margins
from spiralis.core.effects.remapping import remapped
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("size", "Size", Kind.NUMBER, 40.0, "How high a strip is", "px", 1, 20_000),
    Parameter("unevenness", "Unevenness", Kind.NUMBER, 50.0, "How much their heights differ", "%", 0, 100),
    Parameter("shift", "Shift", Kind.NUMBER, 60.0, "How far strips shift at the most", "px", -4000, 4000),
    Parameter("share", "Share", Kind.NUMBER, 100.0, "How many of the strips shift", "%", 0, 100),
    Parameter("upright", "Upright", Kind.SWITCH, False, "Strips stand upright and shift up and down"),
    Parameter("seed", "Seed", Kind.NUMBER, 1.0, "Another number, other shifts; keys that hold let it flicker", "", 0,
              99_999),
)  # fmt: skip


def _reads(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    far = abs(values["shift"])
    across, down = (0.0, far) if values["upright"] else (far, 0.0)
    return across * scale[0] + 1, down * scale[1] + 1, across * scale[0] + 1, down * scale[1] + 1


def even_numbers(seed: int, index: np.ndarray, salt: int) -> np.ndarray:
    """Return even numbers of 0 to 1 that belong to indices (the finaliser of MurmurHash3, public domain)."""
    mixed = (index.astype(np.int64) * 0x9E3779B1 + seed * 0x85EBCA6B + salt * 0xC2B2AE35) & 0xFFFFFFFF
    for shift, factor in ((16, 0x85EBCA6B), (13, 0xC2B2AE35), (16, 1)):
        mixed = ((mixed ^ (mixed >> shift)) * factor) & 0xFFFFFFFF
    return np.asarray(mixed / 2.0**32)


def shifts(values: Mapping[str, Value], places: np.ndarray) -> np.ndarray:
    """Return how far each place across the strips is shifted, in units."""
    seed, size, uneven = int(values["seed"]), values["size"], values["unevenness"] / 100
    index = np.floor(places / size)
    # Each edge between two strips lies up to half a strip off its even place.
    edge = (index + 0.9 * uneven * (even_numbers(seed, index, 1) - 0.5)) * size
    after = (index + 1 + 0.9 * uneven * (even_numbers(seed, index + 1, 1) - 0.5)) * size
    strip = np.where(places < edge, index - 1, np.where(places >= after, index + 1, index))
    moves = even_numbers(seed, strip, 3) < values["share"] / 100
    return np.where(moves, (2 * even_numbers(seed, strip, 2) - 1) * values["shift"], 0.0)


def _run(job: EffectJob) -> Raster:
    x, y = job.places()
    if job.values["upright"]:
        return remapped(job, x, y - shifts(job.values, x - job.box[0]))
    return remapped(job, x - shifts(job.values, y - job.box[1]), y)


register_effect(
    EffectKind(
        "strips", "Strips", "Cuts the layer into strips that shift", "Break up", EFFECT, PARAMETERS, _run, _reads,
        _reads, placed=True, neutral=lambda values: values["shift"] == 0 or values["share"] == 0,
    )
)  # fmt: skip
