"""Tone curve: what each brightness becomes, for all colours and for red, green and blue."""

from __future__ import annotations

from spiralis.core.effects.job import EffectJob, nothing_around
from spiralis.core.effects.tables import through_curves
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter
from spiralis.core.monotone import STRAIGHT, curve
from spiralis.core.raster.raster import Raster

CHANNELS = ("red", "green", "blue")
PARAMETERS = (
    Parameter("all", "All", Kind.CURVE, STRAIGHT,
              "What every brightness becomes, dark at the left, light at the right"),
    *(Parameter(name, name.capitalize(), Kind.CURVE, STRAIGHT, f"The same for {name} alone, before the curve of all")
      for name in CHANNELS),
)  # fmt: skip


def _run(job: EffectJob) -> Raster:
    whole = curve(job.values["all"])
    own = [curve(job.values[name]) for name in CHANNELS]
    return through_curves(job, *(lambda colour, each=each: whole(each(colour)) for each in own))


register_effect(
    EffectKind(
        "tone-curve", "Tone curve", "Brightness by a curve, for all colours or each alone", "Colour", EFFECT,
        PARAMETERS, _run, nothing_around, nothing_around,
        neutral=lambda values: all(values[p.name] == STRAIGHT for p in PARAMETERS),
    )
)  # fmt: skip
