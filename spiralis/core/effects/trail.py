"""Trail: the layer as it was some frames ago, fading behind it."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from spiralis.core.effects.job import EffectJob, Finish, anywhere, nothing_around
from spiralis.core.model.blocks import FINISH, EffectKind, earlier_name, register_effect
from spiralis.core.model.kinds import LOCAL_MODES
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("count", "Pictures", Kind.NUMBER, 6.0, "How many earlier pictures show", "", 1, 60),
    Parameter("apart", "Apart", Kind.NUMBER, 2.0, "How many frames lie between two of them", "f", 0.25, 250,
              counts_frames=True),
    Parameter("decay", "Decay", Kind.NUMBER, 70.0, "How dense each is beside the one after it", "%", 0, 100),
    Parameter("strength", "Strength", Kind.NUMBER, 70.0, "How dense the newest of them is", "%", 0, 100),
    Parameter("blend", "Blend", Kind.CHOICE, "normal", "How they mix with what lies beneath", choices=LOCAL_MODES),
)  # fmt: skip


def moments(values: Mapping[str, Value]) -> tuple[float, ...]:
    """Return how many frames ago each picture was, the newest first."""
    return tuple(values["apart"] * number for number in range(1, round(values["count"]) + 1))


def _run(job: EffectJob) -> Finish:
    left, top, right, bottom = job.region
    trail = np.zeros((bottom - top, right - left, 4), dtype=np.float32)
    density = job.values["strength"] / 100
    seen = False
    for ago in moments(job.values):
        picture = job.input(earlier_name(ago), job.region) if density > 1e-3 else None
        if picture is not None:
            # The newer ones lie over the older ones.
            trail += picture.spread_over(job.region).as_float * np.float32(density) * (1 - trail[..., 3:])
            seen = True
        density *= job.values["decay"] / 100
    return Finish(behind=Raster(trail, corner=(left, top)) if seen else None, blend=job.values["blend"])


register_effect(
    EffectKind(
        "trail", "Trail", "Earlier pictures of the layer, fading behind it", "Repeat", FINISH, PARAMETERS, _run,
        anywhere, nothing_around, moments=moments,
        neutral=lambda values: values["strength"] == 0,
    )
)  # fmt: skip
